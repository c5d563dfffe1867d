// Where the cutter stands along a wall: laid on its lines, moved until the largest deviation is least, rolled and trimmed at corners.
#include "base/Parallel.h"
#include "base/Units.h"
#include "swarf/SwarfSpec.h"
#include "swarf/Swarfer.h"

namespace gyre {

AxisPose onBothEnds(const Cutter& cutter, const Ruling& r, double past, double leave) {
    const Vec3 span = r.high - r.low;
    const double k = cutter.shape == CutterShape::Barrel ? 0.0 : flankAngle(cutter);
    // Along its own normal the flank is this far from the axis at both heights; along a cone's line the height grows by the cosine.
    const double high = past + span.norm() * std::cos(k);
    const auto off = [&](double h) { return (cutter.shape == CutterShape::Barrel ? 0.5 * cutter.diameter : flankRadius(cutter, h)) / std::cos(k) + leave; };
    const Vec3 a = r.low + off(past) * r.lowNormal, b = r.high + off(high) * r.highNormal;
    const Vec3 axis = (b - a).normalized();
    return {a + axis * ((r.low - a).dot(axis) - past), axis};
}

/// How far the parabola through 0 at 0, d0 at s0 < 0 and d1 at s1 > 0 goes below 0.
double dip(double s0, double s1, double d0, double d1) {
    if (s0 > -1e-9 || s1 < 1e-9) return 0.0;
    const double curve = (d1 / s1 - d0 / s0) / (s1 - s0), slope = d0 / s0 - curve * s0;
    return curve > 1e-12 ? 0.25 * slope * slope / curve : 0.0;
}

std::size_t Swarfer::wrapped(std::ptrdiff_t i) const {
    const auto n = static_cast<std::ptrdiff_t>(count());
    return static_cast<std::size_t>(m_wall.closed ? ((i % n) + n) % n : std::clamp<std::ptrdiff_t>(i, 0, n - 1));
}

Vec3 Swarfer::Line::at(int k) const { return at(static_cast<double>(k) / (kWallSamples - 1)); }

Vec3 Swarfer::Line::at(double v) const {
    const double x = v * (kWallSamples - 1);
    const auto k = std::min(static_cast<std::size_t>(x), static_cast<std::size_t>(kWallSamples - 2));
    const double f = x - static_cast<double>(k), off = (1.0 - f) * bow[k] + f * bow[k + 1];
    const Vec3 p = ruling.low + v * (ruling.high - ruling.low);
    return off == 0.0 ? p : Vec3(p + off * ((1.0 - v) * ruling.lowNormal + v * ruling.highNormal).normalized());
}

Swarfer::Line Swarfer::line(std::ptrdiff_t i) const {
    const std::size_t k = wrapped(i);
    Line out{m_wall.rulings[k], {}};
    if (!m_wall.bow.empty()) out.bow = m_wall.bow[k];
    return out;
}

Swarfer::Line Swarfer::beside(std::ptrdiff_t i, std::ptrdiff_t steps) const {
    const Room& room = m_room[wrapped(i)];
    const std::ptrdiff_t held = std::clamp(steps, -room.back, room.ahead), beyond = steps - held;
    Line out = line(i + held);
    if (beyond == 0 || room.back + room.ahead == 0) return out;
    const Ruling& inner = m_wall.rulings[wrapped(i + held - (beyond > 0 ? 1 : -1))];
    const double f = static_cast<double>(std::abs(beyond));
    out.ruling.low += f * (out.ruling.low - inner.low);
    out.ruling.high += f * (out.ruling.high - inner.high);
    return out;
}

std::pair<std::ptrdiff_t, std::ptrdiff_t> Swarfer::window(std::ptrdiff_t i) const {
    std::pair<std::ptrdiff_t, std::ptrdiff_t> out{0, 0};
    const auto most = static_cast<std::ptrdiff_t>(count()) / 2 - 1;
    for (const int way : {-1, 1}) {
        double gone = 0.0;
        Ruling last = line(i).ruling;
        for (std::ptrdiff_t steps = 1; steps <= std::clamp<std::ptrdiff_t>(most, 1, 200); ++steps) {
            const Ruling next = beside(i, way * steps).ruling;
            gone += std::min((next.low - last.low).norm(), (next.high - last.high).norm());
            last = next;
            (way < 0 ? out.first : out.second) = way * steps;
            if (gone > m_reach && steps >= 2) break;
        }
    }
    return out;
}

std::vector<Swarfer::Samples> Swarfer::samplesBeside(std::ptrdiff_t i, std::ptrdiff_t from, std::ptrdiff_t to) const {
    std::vector<Samples> out;
    for (std::ptrdiff_t j = from; j <= to; ++j) {
        const Line l = beside(i, j);
        Samples& one = out.emplace_back();
        for (int k = 0; k < kWallSamples; ++k) one[static_cast<std::size_t>(k)] = l.at(k);
    }
    return out;
}

// The least distance between the cutter and the wall at height k of some rulings: between them by the parabola through three, or
// (`straight`) on the straight lines from one to the next.
double Swarfer::leastOff(const AxisPose& pose, const std::vector<Samples>& near, int k, bool straight) const {
    double best = 1e300;
    std::size_t where = 0;
    const auto sample = static_cast<std::size_t>(k);
    for (std::size_t j = 0; j < near.size(); ++j)
        if (const double d = m_side.off(pose, near[j][sample]); d < best) {
            best = d;
            where = j;
        }
    if (where == 0 || where + 1 >= near.size()) return best;
    const Vec3 &a = near[where - 1][sample], &b = near[where][sample], &c = near[where + 1][sample];
    if (straight) {
        for (const Vec3& end : {a, c}) {
            double low = 0.0, high = 1.0; // the distance from a convex cutter has one least place on a line
            for (int round = 0; round < 40; ++round) {
                const double p = low + (high - low) / 3.0, q = high - (high - low) / 3.0;
                if (m_side.off(pose, b + p * (end - b)) < m_side.off(pose, b + q * (end - b)))
                    high = q;
                else
                    low = p;
            }
            best = std::min(best, m_side.off(pose, b + low * (end - b)));
        }
        return best;
    }
    return best - dip(-(b - a).norm(), (c - b).norm(), m_side.off(pose, a) - best, m_side.off(pose, c) - best);
}

namespace {

double worstOf(const std::vector<double>& g) {
    double most = 0.0;
    for (const double v : g) most = std::max(most, std::abs(v));
    return most;
}

} // namespace

/// A pose beside a ruling, moved by both ends along the normals and turned about the middle.
struct Swarfer::Fit {
    const Swarfer& on;
    const Ruling& r;
    const Level& level;
    double leave;
    Vec3 feed, a0, b0;
    std::vector<int> used; ///< samples of the wall within the flank
    std::vector<Samples> near;

    [[nodiscard]] AxisPose posed(const std::array<double, 3>& x) const {
        const Vec3 a = a0 + x[0] * r.lowNormal - x[2] * feed, b = b0 + x[1] * r.highNormal + x[2] * feed;
        const Vec3 axis = (b - a).normalized();
        return {a + axis * ((r.low - a).dot(axis) - level.past), axis};
    }
    [[nodiscard]] std::vector<double> offs(const AxisPose& pose) const {
        std::vector<double> g;
        for (const int k : used) g.push_back(on.leastOff(pose, near, k) - leave);
        return g;
    }
    /// One step of Gauss–Newton on the weighted squares.
    [[nodiscard]] Vec3 step(const std::array<double, 3>& x, const std::vector<double>& g, const std::vector<double>& weight) const {
        Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
        Vec3 right = Vec3::Zero();
        std::array<std::vector<double>, 3> slopes;
        constexpr double kStep = 1e-4;
        for (std::size_t c = 0; c < 3; ++c) {
            auto moved = x;
            moved[c] += c == 2 ? 10.0 * kStep : kStep;
            slopes[c] = offs(posed(moved));
            for (std::size_t k = 0; k < g.size(); ++k) slopes[c][k] = (slopes[c][k] - g[k]) / (c == 2 ? 10.0 * kStep : kStep);
        }
        for (std::size_t k = 0; k < g.size(); ++k) {
            const Vec3 row(slopes[0][k], slopes[1][k], slopes[2][k]);
            normal += weight[k] * row * row.transpose();
            right -= weight[k] * g[k] * row;
        }
        normal += 1e-9 * Eigen::Matrix3d::Identity() * (1.0 + normal.trace());
        return normal.ldlt().solve(right);
    }
    /// Moved by part of a step, half the spread to either side.
    [[nodiscard]] std::array<double, 3> balanced(std::array<double, 3> x, const Vec3& by) const {
        for (std::size_t c = 0; c < 3; ++c) x[c] += by[static_cast<Eigen::Index>(c)];
        const std::vector<double> there = offs(posed(x));
        const auto [low, high] = std::minmax_element(there.begin(), there.end());
        const double middle = 0.5 * (*low + *high);
        x[0] -= middle;
        x[1] -= middle;
        return x;
    }
};

AxisPose Swarfer::fitted(std::ptrdiff_t i, const Level& level, double leave) const {
    const Line own = line(i);
    const Ruling& r = own.ruling;
    const AxisPose start = onBothEnds(m_cutter, r, level.past, leave);
    if (!m_spec.twist) return start;
    const Vec3 span = (r.high - r.low).normalized(), feed = span.cross((r.lowNormal + r.highNormal).normalized()).normalized();
    const Vec3 a0 = start.tip + level.past * start.axis;
    Fit fit{*this, r, level, leave, feed, a0, a0 + (r.high - r.low).norm() * start.axis, {}, {}};
    for (int k = 0; k < kWallSamples; ++k) {
        const double h = (own.at(k) - start.tip).dot(start.axis);
        if (h >= flankStart(m_cutter) - 1e-6 && h <= level.reach + 1e-6) fit.used.push_back(k);
    }
    if (fit.used.size() < 2) return start;
    // The wall around this ruling, once.
    const auto [from, to] = window(i);
    fit.near = samplesBeside(i, from, to);
    std::array<double, 3> x{0.0, 0.0, 0.0};
    AxisPose best = start;
    std::vector<double> g = fit.offs(start);
    double least = worstOf(g);
    if (least < 1e-7) return start;
    std::vector<double> weight(fit.used.size(), 1.0);
    for (int round = 0; round < 10 && least > 1e-6; ++round) {
        const Vec3 step = fit.step(x, g, weight);
        if (!step.allFinite()) break;
        double shrink = 1.0;
        bool better = false;
        for (int attempt = 0; attempt < 5 && !better; ++attempt, shrink *= 0.4) {
            const double most = 0.25 * m_cutter.diameter;
            const auto next = fit.balanced(x, shrink * step.cwiseMax(-most).cwiseMin(most));
            const AxisPose pose = fit.posed(next);
            std::vector<double> there = fit.offs(pose);
            if (worstOf(there) >= least * (1.0 - 1e-6)) continue;
            better = true;
            least = worstOf(there);
            best = pose;
            x = next;
            g = std::move(there);
        }
        // The weights grow where the deviation is large, which leads towards the least largest one.
        for (std::size_t k = 0; k < g.size(); ++k) weight[k] = std::clamp(weight[k] * (0.3 + std::abs(g[k]) / std::max(least, 1e-12)), 1e-3, 1e3);
        if (!better && round > 2) break;
    }
    return best;
}

// Round an outer corner the cutter turns from where it stands on one wall to where it stands on the next, its side on the edge between:
// as near to it as it is on both walls, never nearer.
AxisPose Swarfer::rolled(const Line& edge, const AxisPose& before, const AxisPose& behind, double fraction, const Level& level, double leave) const {
    const Vec3 axis = slerp(before.axis, behind.axis, fraction);
    const double begin = flankStart(m_cutter);
    const auto off = [&](const AxisPose& pose) {
        double least = 1e300;
        for (int k = 0; k < kWallSamples; ++k) {
            const Vec3 p = edge.at(k);
            const double h = (p - pose.tip).dot(pose.axis);
            if (h >= begin - 1e-6 && h <= level.reach + 1e-6) least = std::min(least, m_side.off(pose, p));
        }
        return least;
    };
    const Ruling& r = edge.ruling;
    const AxisPose laid = onBothEnds(m_cutter, r, level.past, leave);
    const Vec3 out = (r.lowNormal + r.highNormal).normalized();
    const double half = 0.5 * (r.high - r.low).norm();
    const Vec3 middle = laid.tip + (level.past + half) * laid.axis; // beside the middle of the edge
    const auto at = [&](double further) {
        const Vec3 m = middle + further * out;
        return AxisPose{m - axis * ((m - r.low).dot(axis) + level.past), axis};
    };
    const double a = off(before), b = off(behind);
    const double wanted = a > 1e299 || b > 1e299 ? leave : (1.0 - fraction) * a + fraction * b;
    double low = -0.5 * m_cutter.diameter, high = 0.5 * m_cutter.diameter;
    if (off(at(high)) > 1e299) return laid;
    for (int round = 0; round < 60; ++round) {
        const double d = 0.5 * (low + high);
        (off(at(d)) < wanted ? low : high) = d;
    }
    return at(0.5 * (low + high));
}

void Swarfer::rollCorners(std::vector<AxisPose>& poses, const Level& level, double leave) const {
    const std::size_t n = count();
    for (const auto& c : m_wall.corners) {
        if (!c.outer) continue;
        std::size_t steps = 0;
        while (steps < n && m_wall.rulings[wrapped(static_cast<std::ptrdiff_t>(c.after + 1 + steps))].corner) ++steps;
        const AxisPose before = poses[c.after], behind = poses[wrapped(static_cast<std::ptrdiff_t>(c.after + 1 + steps))];
        for (std::size_t k = 0; k < steps; ++k) {
            const auto i = static_cast<std::ptrdiff_t>(c.after + 1 + k);
            poses[wrapped(i)] = rolled(line(i), before, behind, static_cast<double>(k + 1) / static_cast<double>(steps + 1), level, leave);
        }
    }
}

Result<Swarfer::Track> Swarfer::trackAt(const Level& level, double leave) const {
    Track t;
    t.poses.resize(count());
    const auto place = [&](std::size_t i) {
        if (!m_wall.rulings[i].corner) t.poses[i] = fitted(static_cast<std::ptrdiff_t>(i), level, leave);
    };
    if (!parallelFor(count(), 8, place, &m_progress)) return cancelledError();
    rollCorners(t.poses, level, leave);
    t.cut.assign(count(), Cut::Whole);
    t.lifted.assign(count(), 0.0);
    trimInnerCorners(t, leave);
    return t;
}

// At an inner corner the cutter stops where it touches both walls.
void Swarfer::trimInnerCorners(Track& t, double leave) const {
    const auto n = static_cast<std::ptrdiff_t>(count());
    for (const auto& c : m_wall.corners) {
        if (c.outer) continue;
        const auto corner = static_cast<std::ptrdiff_t>(c.after);
        for (const int way : {-1, 1}) { // the wall before the corner against the one behind it, and the other way round
            const std::ptrdiff_t own = way < 0 ? corner : corner + 1, other = way < 0 ? corner + 1 : corner;
            // The other wall as far as the cutter reaches, and a little beyond the corner, where it would go on.
            std::ptrdiff_t far = 0;
            const Room& room = m_room[wrapped(other)];
            for (double gone = 0.0; gone < 1.5 * m_cutter.diameter + leave && std::abs(far) < (way < 0 ? room.ahead : room.back);) {
                gone += (beside(other, far - way).ruling.low - beside(other, far).ruling.low).norm();
                far -= way;
            }
            const auto near = samplesBeside(other, std::min<std::ptrdiff_t>(way < 0 ? -2 : 0, far), std::max<std::ptrdiff_t>(way < 0 ? 0 : 2, far));
            const auto enters = [&](const AxisPose& pose) {
                for (int h = 0; h < kWallSamples; h += 3)
                    if (leastOff(pose, near, h, true) - leave < -1e-7) return true;
                return false;
            };
            std::ptrdiff_t k = own;
            int steps = 0;
            for (; steps < n - 1 && enters(t.poses[wrapped(k)]); ++steps) {
                t.cut[wrapped(k)] = Cut::Not;
                k += way;
                if (!m_wall.closed && (k < 0 || k >= n)) break;
            }
            if (steps == 0 || steps >= n - 1 || (!m_wall.closed && (k < 0 || k >= n))) continue;
            // Between the last that enters and the first that does not.
            const AxisPose in = t.poses[wrapped(k - way)], out = t.poses[wrapped(k)];
            double free = 1.0, hit = 0.0;
            const auto between = [&](double f) { return AxisPose{in.tip + f * (out.tip - in.tip), slerp(in.axis, out.axis, f)}; };
            for (int round = 0; round < 40; ++round) {
                const double f = 0.5 * (free + hit);
                (enters(between(f)) ? hit : free) = f;
            }
            t.poses[wrapped(k - way)] = between(free);
            t.cut[wrapped(k - way)] = Cut::Short;
        }
    }
}

} // namespace gyre
