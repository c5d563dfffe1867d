#include "follow/Swarf.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "follow/Told.h"
#include <fmt/format.h>

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

namespace {

constexpr int kAlong = 13; ///< samples of a ruling

/// How far the parabola through 0 at 0, d0 at s0 < 0 and d1 at s1 > 0 goes below 0.
double dip(double s0, double s1, double d0, double d1) {
    if (s0 > -1e-9 || s1 < 1e-9) return 0.0;
    const double curve = (d1 / s1 - d0 / s0) / (s1 - s0), slope = d0 / s0 - curve * s0;
    return curve > 1e-12 ? 0.25 * slope * slope / curve : 0.0;
}

struct Level {
    double past;  ///< of the tip below the lower rail
    double reach; ///< height above the tip that this level is to make
};

class Swarfer {
public:
    Swarfer(const SwarfInput& in, const SwarfSpec& spec, const Assembly& tool, double leave, double tolerance, double longest, Progress& progress)
        : m_in(in), m_spec(spec), m_tool(tool), m_cutter(tool.cutter), m_leave(leave), m_tolerance(tolerance), m_longest(longest), m_progress(progress) {}
    Result<FollowResult> run();

private:
    [[nodiscard]] std::size_t count() const { return m_wall.rulings.size(); }
    [[nodiscard]] const Ruling& at(std::ptrdiff_t i) const {
        const auto n = static_cast<std::ptrdiff_t>(count());
        return m_wall.rulings[static_cast<std::size_t>(m_wall.closed ? ((i % n) + n) % n : std::clamp<std::ptrdiff_t>(i, 0, n - 1))];
    }
    [[nodiscard]] static Vec3 on(const Ruling& r, int k) { return r.low + static_cast<double>(k) / (kAlong - 1) * (r.high - r.low); }
    void stretches();
    /// The ruling some steps from another one on the same stretch; beyond its ends as the wall would go on.
    [[nodiscard]] Ruling beside(std::ptrdiff_t i, std::ptrdiff_t steps) const;
    [[nodiscard]] std::pair<std::ptrdiff_t, std::ptrdiff_t> window(std::ptrdiff_t i) const; ///< steps back and ahead
    [[nodiscard]] double leastOff(const AxisPose& pose, const std::vector<Ruling>& near, int k, bool straight = false) const;
    [[nodiscard]] AxisPose fitted(std::ptrdiff_t i, const Level& level, double leave) const;
    struct Track {
        std::vector<AxisPose> poses; ///< by ruling
        std::vector<char> kept;      ///< 0: beyond an inner corner
    };
    [[nodiscard]] Result<Track> trackAt(const Level& level, double leave, bool fit) const; ///< not `fit`: laid on both ends, good enough before the last thickness
    void trimInnerCorners(Track& track, double leave) const;
    void emit(const Track& track, const Level& level, double leave, int row);
    void mapDeviation(const std::vector<Track>& tracks);
    void tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const Vec3& where, double amount, std::vector<Remedy> remedies = {},
              const char* stage = "Pattern");
    [[nodiscard]] bool inMaterial(const Vec3& p) const;
    [[nodiscard]] const Part& body() const { return m_in.part->body() ? *m_in.part->body() : *m_in.part; }

    const SwarfInput& m_in;
    const SwarfSpec& m_spec;
    const Assembly& m_tool;
    const Cutter& m_cutter;
    double m_leave, m_tolerance, m_longest;
    Progress& m_progress;
    Wall m_wall;
    struct Room {
        std::ptrdiff_t back, ahead;
    };
    std::vector<Room> m_room; ///< per ruling: how many there are on either side before the wall ends or turns in at a corner
    double m_reach = 0.0;     ///< along the wall, mm, that a place of the cutter can touch beside its own ruling
    FollowResult m_out;
};

void Swarfer::tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const Vec3& where, double amount, std::vector<Remedy> remedies,
                   const char* stage) {
    m_out.findings.push_back(toldAt(rank, code, stage, text, reason, where, amount, std::move(remedies)));
}

bool Swarfer::inMaterial(const Vec3& p) const {
    const Vec3 way = Vec3(0.31, 0.52, 0.79).normalized();
    const RayHit hit = body().tree().ray(p, way);
    if (!hit.hit) return false;
    const TriangleMesh& m = body().mesh();
    return (m.corner(hit.triangle, 1) - m.corner(hit.triangle, 0)).cross(m.corner(hit.triangle, 2) - m.corner(hit.triangle, 0)).dot(way) > 0.0;
}

// Stretches between inner corners: across one the cutter's neighbours say nothing about a wall.
void Swarfer::stretches() {
    const auto n = static_cast<std::ptrdiff_t>(count());
    const std::ptrdiff_t many = n / 2 - 1;
    m_room.assign(count(), {m_wall.closed ? many : 0, m_wall.closed ? many : 0});
    for (std::ptrdiff_t i = 0; i < n && !m_wall.closed; ++i) m_room[static_cast<std::size_t>(i)] = {i, n - 1 - i};
    for (const auto& c : m_wall.corners) {
        if (c.outer) continue;
        const auto corner = static_cast<std::ptrdiff_t>(c.after);
        for (std::ptrdiff_t k = 0; k <= many; ++k) {
            if (!m_wall.closed && (corner - k < 0 || corner + 1 + k >= n)) continue;
            Room &before = m_room[static_cast<std::size_t>(((corner - k) % n + n) % n)], &behind = m_room[static_cast<std::size_t>((corner + 1 + k) % n)];
            before.ahead = std::min(before.ahead, k);
            behind.back = std::min(behind.back, k);
        }
    }
    double twist = 0.0;
    for (const Ruling& r : m_wall.rulings) twist = std::max(twist, angleBetween(r.lowNormal, r.highNormal));
    m_reach = 0.6 * m_cutter.diameter * std::tan(std::min(twist, 1.2)) + 0.05;
}

Ruling Swarfer::beside(std::ptrdiff_t i, std::ptrdiff_t steps) const {
    const auto n = static_cast<std::ptrdiff_t>(count());
    const Room& room = m_room[static_cast<std::size_t>(((i % n) + n) % n)];
    const std::ptrdiff_t held = std::clamp(steps, -room.back, room.ahead), beyond = steps - held;
    Ruling r = at(i + held);
    if (beyond == 0 || room.back + room.ahead == 0) return r;
    const Ruling& inner = at(i + held - (beyond > 0 ? 1 : -1));
    const double f = static_cast<double>(std::abs(beyond));
    r.low += f * (r.low - inner.low);
    r.high += f * (r.high - inner.high);
    return r;
}

std::pair<std::ptrdiff_t, std::ptrdiff_t> Swarfer::window(std::ptrdiff_t i) const {
    std::pair<std::ptrdiff_t, std::ptrdiff_t> out{0, 0};
    const auto most = static_cast<std::ptrdiff_t>(count()) / 2 - 1;
    for (const int way : {-1, 1}) {
        double gone = 0.0;
        Ruling last = at(i);
        for (std::ptrdiff_t steps = 1; steps <= std::clamp<std::ptrdiff_t>(most, 1, 200); ++steps) {
            const Ruling next = beside(i, way * steps);
            gone += std::min((next.low - last.low).norm(), (next.high - last.high).norm());
            last = next;
            (way < 0 ? out.first : out.second) = way * steps;
            if (gone > m_reach && steps >= 2) break;
        }
    }
    return out;
}

// The least distance between the cutter and the wall at height k of some rulings: between them by the parabola through three, or
// (`straight`) on the straight lines from one to the next.
double Swarfer::leastOff(const AxisPose& pose, const std::vector<Ruling>& near, int k, bool straight) const {
    double best = 1e300;
    std::size_t where = 0;
    for (std::size_t j = 0; j < near.size(); ++j)
        if (const double d = offCutter(m_cutter, pose, on(near[j], k)); d < best) {
            best = d;
            where = j;
        }
    if (where == 0 || where + 1 >= near.size()) return best;
    const Vec3 a = on(near[where - 1], k), b = on(near[where], k), c = on(near[where + 1], k);
    if (straight) {
        for (const Vec3& end : {a, c}) {
            double low = 0.0, high = 1.0; // the distance from a convex cutter has one least place on a line
            for (int round = 0; round < 40; ++round) {
                const double p = low + (high - low) / 3.0, q = high - (high - low) / 3.0;
                if (offCutter(m_cutter, pose, b + p * (end - b)) < offCutter(m_cutter, pose, b + q * (end - b)))
                    high = q;
                else
                    low = p;
            }
            best = std::min(best, offCutter(m_cutter, pose, b + low * (end - b)));
        }
        return best;
    }
    return best - dip(-(b - a).norm(), (c - b).norm(), offCutter(m_cutter, pose, a) - best, offCutter(m_cutter, pose, c) - best);
}

AxisPose Swarfer::fitted(std::ptrdiff_t i, const Level& level, double leave) const {
    const Ruling& r = at(i);
    const AxisPose start = onBothEnds(m_cutter, r, level.past, leave);
    if (!m_spec.twist || r.corner) return start;
    const Vec3 span = (r.high - r.low).normalized(), feed = span.cross((r.lowNormal + r.highNormal).normalized()).normalized();
    const double length = (r.high - r.low).norm(), begin = flankStart(m_cutter);
    const Vec3 a0 = start.tip + level.past * start.axis, b0 = a0 + length * start.axis;
    const auto posed = [&](const std::array<double, 3>& x) {
        const Vec3 a = a0 + x[0] * r.lowNormal - x[2] * feed, b = b0 + x[1] * r.highNormal + x[2] * feed;
        const Vec3 axis = (b - a).normalized();
        return AxisPose{a + axis * ((r.low - a).dot(axis) - level.past), axis};
    };
    std::vector<int> used;
    for (int k = 0; k < kAlong; ++k) {
        const double h = (on(r, k) - start.tip).dot(start.axis);
        if (h >= begin - 1e-6 && h <= level.reach + 1e-6) used.push_back(k);
    }
    if (used.size() < 2) return start;
    // The wall around this ruling, once.
    const auto [from, to] = window(i);
    std::vector<Ruling> near;
    for (std::ptrdiff_t j = from; j <= to; ++j) near.push_back(beside(i, j));
    const auto offs = [&](const AxisPose& pose) {
        std::vector<double> g;
        for (const int k : used) g.push_back(leastOff(pose, near, k) - leave);
        return g;
    };
    const auto worst = [](const std::vector<double>& g) {
        double most = 0.0;
        for (const double v : g) most = std::max(most, std::abs(v));
        return most;
    };
    std::array<double, 3> x{0.0, 0.0, 0.0};
    AxisPose best = start;
    std::vector<double> g = offs(start);
    double least = worst(g);
    if (least < 1e-7) return start;
    std::vector<double> weight(used.size(), 1.0);
    for (int round = 0; round < 10 && least > 1e-6; ++round) {
        // Gauss–Newton on the weighted squares; the weights grow where the deviation is large, which leads towards the least largest one.
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
        const Vec3 step = normal.ldlt().solve(right);
        if (!step.allFinite()) break;
        double shrink = 1.0;
        bool better = false;
        for (int attempt = 0; attempt < 5 && !better; ++attempt, shrink *= 0.4) {
            std::array<double, 3> next = x;
            for (std::size_t c = 0; c < 3; ++c) next[c] += shrink * std::clamp(step[static_cast<Eigen::Index>(c)], -0.25 * m_cutter.diameter, 0.25 * m_cutter.diameter);
            // Half the spread to either side.
            std::vector<double> there = offs(posed(next));
            const auto [low, high] = std::minmax_element(there.begin(), there.end());
            const double middle = 0.5 * (*low + *high);
            next[0] -= middle;
            next[1] -= middle;
            const AxisPose pose = posed(next);
            there = offs(pose);
            if (worst(there) < least * (1.0 - 1e-6)) {
                better = true;
                least = worst(there);
                best = pose;
                x = next;
                g = std::move(there);
            }
        }
        for (std::size_t k = 0; k < g.size(); ++k) weight[k] = std::clamp(weight[k] * (0.3 + std::abs(g[k]) / std::max(least, 1e-12)), 1e-3, 1e3);
        if (!better && round > 2) break;
    }
    return best;
}

Result<Swarfer::Track> Swarfer::trackAt(const Level& level, double leave, bool fit) const {
    Track t;
    t.poses.resize(count());
    if (!parallelFor(
            count(), 8,
            [&](std::size_t i) { t.poses[i] = fit ? fitted(static_cast<std::ptrdiff_t>(i), level, leave) : onBothEnds(m_cutter, m_wall.rulings[i], level.past, leave); },
            &m_progress))
        return cancelledError();
    t.kept.assign(count(), 1);
    trimInnerCorners(t, leave);
    return t;
}

// At an inner corner the cutter stops where it touches both walls.
void Swarfer::trimInnerCorners(Track& t, double leave) const {
    const auto n = static_cast<std::ptrdiff_t>(count());
    const auto wrap = [&](std::ptrdiff_t i) { return ((i % n) + n) % n; };
    for (const auto& c : m_wall.corners) {
        if (c.outer) continue;
        const auto corner = static_cast<std::ptrdiff_t>(c.after);
        for (const int way : {-1, 1}) { // the wall before the corner against the one behind it, and the other way round
            const std::ptrdiff_t own = way < 0 ? corner : corner + 1, other = way < 0 ? corner + 1 : corner;
            // The other wall as far as the cutter reaches, and a little beyond the corner, where it would go on.
            std::ptrdiff_t far = 0;
            const Room& room = m_room[static_cast<std::size_t>(wrap(other))];
            for (double gone = 0.0; gone < 1.5 * m_cutter.diameter + leave && std::abs(far) < (way < 0 ? room.ahead : room.back);) {
                gone += (beside(other, far - way).low - beside(other, far).low).norm();
                far -= way;
            }
            std::vector<Ruling> near;
            for (std::ptrdiff_t j = std::min<std::ptrdiff_t>(way < 0 ? -2 : 0, far); j <= std::max<std::ptrdiff_t>(way < 0 ? 0 : 2, far); ++j)
                near.push_back(beside(other, j));
            const auto enters = [&](const AxisPose& pose) {
                for (int h = 0; h < kAlong; h += 3)
                    if (leastOff(pose, near, h, true) - leave < -1e-7) return true;
                return false;
            };
            std::ptrdiff_t k = own;
            int steps = 0;
            for (; steps < n - 1 && enters(t.poses[static_cast<std::size_t>(wrap(k))]); ++steps) {
                t.kept[static_cast<std::size_t>(wrap(k))] = 0;
                k += way;
                if (!m_wall.closed && (k < 0 || k >= n)) break;
            }
            if (steps == 0 || steps >= n - 1 || (!m_wall.closed && (k < 0 || k >= n))) continue;
            // Between the last that enters and the first that does not.
            const AxisPose in = t.poses[static_cast<std::size_t>(wrap(k - way))], out = t.poses[static_cast<std::size_t>(wrap(k))];
            double free = 1.0, hit = 0.0;
            const auto between = [&](double f) { return AxisPose{in.tip + f * (out.tip - in.tip), slerp(in.axis, out.axis, f)}; };
            for (int round = 0; round < 40; ++round) {
                const double f = 0.5 * (free + hit);
                (enters(between(f)) ? hit : free) = f;
            }
            t.poses[static_cast<std::size_t>(wrap(k - way))] = between(free);
            t.kept[static_cast<std::size_t>(wrap(k - way))] = 1;
        }
    }
}

void Swarfer::emit(const Track& track, const Level& level, double leave, int row) {
    struct Place {
        AxisPose pose;
        Vec3 contact, normal;
        std::size_t ruling;
    };
    std::vector<std::vector<Place>> runs(1);
    const auto placeOf = [&](std::size_t i) {
        const Ruling& r = m_wall.rulings[i];
        const double length = (r.high - r.low).norm();
        const double v = std::clamp((flankStart(m_cutter) - level.past) / std::max(1e-9, length), 0.0, 1.0);
        const Vec3 normal = slerp(r.lowNormal, r.highNormal, v);
        return Place{track.poses[i], r.low + v * (r.high - r.low) + leave * normal, normal, i};
    };
    const auto corner = [&](std::size_t i) {
        for (const auto& c : m_wall.corners)
            if (c.after == i) return &c;
        return static_cast<const Wall::Corner*>(nullptr);
    };
    std::vector<std::size_t> order;
    const auto shift = m_wall.closed ? static_cast<std::size_t>(m_spec.entry * static_cast<double>(count())) % count() : 0;
    for (std::size_t i = 0; i < count(); ++i) order.push_back((i + shift) % count());
    bool whole = m_wall.closed;
    for (std::size_t o = 0; o < order.size(); ++o) {
        const std::size_t i = order[o];
        const bool rolled = m_wall.rulings[i].corner;
        if (track.kept[i] && !(rolled && m_spec.corner != SwarfCorner::Roll)) runs.back().push_back(placeOf(i));
        const Wall::Corner* c = corner(i);
        if (!c || !c->outer || m_spec.corner == SwarfCorner::Roll) continue;
        if (m_spec.corner == SwarfCorner::Stop) {
            whole = false;
            if (!runs.back().empty()) runs.emplace_back();
        } else if (runs.back().size() > 1) {
            // Out along this wall, round in the free, back in along the next one.
            std::size_t b = i;
            do b = (b + 1) % count();
            while (m_wall.rulings[b].corner && b != i);
            const std::size_t bb = (b + 1) % count();
            const Place last = runs.back().back(), before = runs.back()[runs.back().size() - 2];
            const Place then = placeOf(b), after = placeOf(bb);
            const Vec3 out = (last.pose.tip - before.pose.tip).normalized(), in = (after.pose.tip - then.pose.tip).normalized();
            const double d = 0.75 * m_cutter.diameter;
            const Vec3 p0 = last.pose.tip + d * out, p3 = then.pose.tip - d * in, p1 = p0 + 2.5 * d * out, p2 = p3 - 2.5 * d * in;
            const int steps = 24;
            for (int k = 0; k <= steps; ++k) {
                const double t = static_cast<double>(k) / steps, u = 1.0 - t;
                const Vec3 tip = u * u * u * p0 + 3.0 * u * u * t * p1 + 3.0 * u * t * t * p2 + t * t * t * p3;
                runs.back().push_back({{tip, slerp(last.pose.axis, then.pose.axis, t)}, last.contact, t < 0.5 ? last.normal : then.normal, i});
            }
        }
    }
    std::erase_if(runs, [](const auto& run) { return run.size() < 2; });
    if (!m_wall.closed && m_spec.extend > 0.0 && !runs.empty()) {
        Place first = runs.front().front(), last = runs.back().back();
        first.pose.tip -= m_spec.extend * (runs.front()[1].pose.tip - first.pose.tip).normalized();
        last.pose.tip += m_spec.extend * (last.pose.tip - runs.back()[runs.back().size() - 2].pose.tip).normalized();
        runs.front().insert(runs.front().begin(), first);
        runs.back().push_back(last);
    }
    for (auto& run : runs) {
        double right = 0.0;
        for (std::size_t i = 0; i + 1 < run.size(); ++i) right += -run[i].normal.dot((run[i + 1].pose.tip - run[i].pose.tip).cross(run[i].pose.axis));
        if ((right > 0.0) != m_spec.climb) {
            std::reverse(run.begin(), run.end());
            if (whole) std::rotate(run.begin(), run.end() - 1, run.end()); // begins at the same place
        }
        std::vector<AxisPose> poses;
        std::vector<Vec3> contacts, normals;
        Row line;
        for (const Place& p : run) {
            poses.push_back(p.pose);
            contacts.push_back(p.contact);
            normals.push_back(p.normal);
        }
        line.points = contacts;
        line.normals = normals;
        line.faces.assign(contacts.size(), -1);
        line.closed = whole;
        line.index = row;
        m_out.rows.push_back(std::move(line));
        m_out.passes.push_back(passAlong(poses, contacts, normals, whole, static_cast<int>(m_out.passes.size()), m_wall.rulings[run.front().ruling].face));
    }
}

// What the finished wall is off: at every place the least over all places of the cutter near by.
void Swarfer::mapDeviation(const std::vector<Track>& tracks) {
    const auto n = static_cast<std::ptrdiff_t>(count());
    std::vector<std::vector<double>> off(count());
    parallelFor(count(), 8, [&](std::size_t index) {
        const auto i = static_cast<std::ptrdiff_t>(index);
        if (m_wall.rulings[index].corner) return;
        const auto [back, ahead] = window(i);
        const Room& room = m_room[index];
        const std::ptrdiff_t from = i + std::max(back, -room.back), to = i + std::min(ahead, room.ahead);
        auto& here = off[index];
        for (int k = 0; k < kAlong; ++k) {
            const Vec3 p = on(at(i), k);
            double best = 1e300;
            for (const Track& t : tracks) {
                const auto poseAt = [&](std::ptrdiff_t j) -> const AxisPose& { return t.poses[static_cast<std::size_t>(((j % n) + n) % n)]; };
                std::ptrdiff_t where = from;
                double least = 1e300;
                for (std::ptrdiff_t j = from; j <= to; ++j) {
                    const double h = (p - poseAt(j).tip).dot(poseAt(j).axis);
                    if (h > cuttingLength(m_cutter) + 1e-6) continue; // above the flutes
                    if (const double d = offCutter(m_cutter, poseAt(j), p); d < least) {
                        least = d;
                        where = j;
                    }
                }
                if (least < 1e299 && where > from && where < to) {
                    least -= dip(-(poseAt(where).tip - poseAt(where - 1).tip).norm(), (poseAt(where + 1).tip - poseAt(where).tip).norm(),
                                 offCutter(m_cutter, poseAt(where - 1), p) - least, offCutter(m_cutter, poseAt(where + 1), p) - least);
                }
                best = std::min(best, least);
            }
            here.push_back(best > 1e299 ? 1e3 : best - m_leave);
        }
    });
    m_out.perLine = kAlong;
    Vec3 overAt = Vec3::Zero(), underAt = Vec3::Zero();
    for (std::size_t i = 0; i < count(); ++i) {
        if (off[i].empty()) continue;
        const bool cornerHere = std::any_of(tracks.begin(), tracks.end(), [&](const Track& t) { return !t.kept[i]; });
        for (int k = 0; k < kAlong; ++k) {
            const double d = off[i][static_cast<std::size_t>(k)];
            const Vec3 p = on(m_wall.rulings[i], k);
            m_out.map.push_back({p, d});
            if (d < -m_out.over) {
                m_out.over = -d;
                overAt = p;
            }
            if (!cornerHere && d < 1e2 && d > m_out.under) {
                m_out.under = d;
                underAt = p;
            }
        }
    }
    if (m_out.over > m_spec.tolerance)
        tell(Rank::Stop, "wall-over", fmt::format("the cutter takes up to {:.3f} mm too much off the wall", m_out.over),
             m_spec.twist ? "the wall is twisted more than this cutter's side can follow, or hollow with too small a radius" : "the wall is twisted", overAt, m_out.over,
             m_spec.twist ? std::vector<Remedy>{{fmt::format("Let {:.3f} mm pass", std::ceil(1000.0 * m_out.over) / 1000.0), "swarf.tolerance",
                                                 fmt::format("{:.3f}", std::ceil(1000.0 * m_out.over) / 1000.0)}}
                          : std::vector<Remedy>{{"Make the deviation as small as it goes", "swarf.twist", "true"}});
    if (m_out.under > m_spec.tolerance)
        tell(Rank::Look, "wall-under", fmt::format("up to {:.3f} mm stay on the wall", m_out.under),
             m_out.under > 0.2 * m_cutter.diameter ? "the cutter does not reach all of it"
                                                   : "the cutter's side is straight, the wall is twisted, or its foot lies above the cutter's round end",
             underAt, m_out.under);
}

Result<FollowResult> Swarfer::run() {
    switch (m_cutter.shape) {
    case CutterShape::Flat:
    case CutterShape::CornerRadius:
    case CutterShape::Ball:
    case CutterShape::Tapered:
    case CutterShape::TaperedBall:
    case CutterShape::Barrel:
        break;
    default:
        return fail(fmt::format("a {} has no long side to follow a wall with", cutterShapeName(m_cutter.shape)), {},
                    "Choose a flat, ball, corner radius, tapered or barrel cutter");
    }
    const double radius = 0.5 * m_cutter.diameter + std::abs(m_leave) + m_spec.thickness;
    auto wall = m_spec.fromRails ? wallOfRails(m_in.lower, m_in.upper, m_in.closed, m_spec.sync, m_tolerance, m_longest, radius, &body().tree())
                                 : wallOfFaces(*m_in.part, m_in.faces, m_tolerance, m_longest, radius);
    if (!wall) return tl::unexpected(wall.error());
    m_wall = std::move(*wall);
    if (count() < 2) return fail("the wall has no length");
    // Which side is free? Of faces the outside; between rails where no material is.
    std::size_t inside = 0, outside = 0, asked = 0;
    for (std::size_t i = 0; i < count(); i += std::max<std::size_t>(1, count() / 40)) {
        const Ruling& r = m_wall.rulings[i];
        const Vec3 p = 0.5 * (r.low + r.high), n = (r.lowNormal + r.highNormal).normalized();
        const double step = std::min(0.5, 0.1 * m_cutter.diameter);
        ++asked;
        inside += inMaterial(p + step * n) ? 1 : 0;
        outside += inMaterial(p - step * n) ? 1 : 0;
    }
    const bool turned = m_spec.fromRails && inside > outside;
    if (turned != (m_spec.fromRails && m_spec.otherSide))
        for (Ruling& r : m_wall.rulings) {
            r.lowNormal = -r.lowNormal;
            r.highNormal = -r.highNormal;
        }
    if (m_spec.flipped)
        for (Ruling& r : m_wall.rulings) {
            std::swap(r.low, r.high);
            std::swap(r.lowNormal, r.highNormal);
        }
    const Vec3 middle = 0.5 * (m_wall.rulings[count() / 2].low + m_wall.rulings[count() / 2].high);
    if (m_spec.fromRails && m_spec.otherSide && std::max(inside, outside) * 2 > asked)
        tell(Rank::Stop, "wall-side", "the tool would stand in the part", "it is on the wrong side of the rails: that side is material", middle, 0.0,
             {{"Take the other side", "swarf.otherSide", "false"}}, "Target");
    if (!m_spec.fromRails && m_wall.bulge > std::max(0.2, 10.0 * m_spec.tolerance))
        return fail(fmt::format("a picked face is no wall of straight lines: they bend by up to {:.3f} mm", m_wall.bulge), {},
                    "Use surface rows there, or pick a lower and an upper rail");
    if (m_wall.bulge > m_spec.tolerance)
        tell(Rank::Look, "wall-not-straight", fmt::format("the wall leaves its straight lines by up to {:.3f} mm", m_wall.bulge),
             "so much stays or goes beside the deviation shown", middle, m_wall.bulge, {}, "Target");
    stretches();
    double tallest = 0.0, around = 0.0;
    for (std::size_t i = 0; i < count(); ++i) {
        tallest = std::max(tallest, (m_wall.rulings[i].high - m_wall.rulings[i].low).norm());
        if (i > 0) around += (m_wall.rulings[i].low - m_wall.rulings[i - 1].low).norm();
    }
    const double whole = tallest + m_spec.past;
    const auto depths = m_spec.stepdown > 0.0 ? std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(whole / m_spec.stepdown - 1e-6))) : 1;
    const auto layers = m_spec.thickness > 0.0 ? std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(m_spec.thickness / m_spec.stepover - 1e-6))) : 1;
    if (depths * layers > 2000) return fail(fmt::format("{} passes would be needed", depths * layers), {}, "Use larger steps");
    const double flutes = cuttingLength(m_cutter), needed = depths > 1 ? whole / static_cast<double>(depths) : whole;
    if (needed > flutes + 1e-6)
        tell(Rank::Look, "flutes-short", fmt::format("the flutes are {:.1f} mm long, the wall takes {:.1f} at once", flutes, needed), "above them the wall is not cut",
             middle, needed - flutes, {{fmt::format("In depths of {:g} mm", std::floor(0.9 * flutes)), "swarf.stepdown", fmt::format("{:g}", std::floor(0.9 * flutes))}});
    std::vector<Level> levels;
    for (std::size_t d = 0; d < depths; ++d) {
        const double lift = whole * static_cast<double>(depths - 1 - d) / static_cast<double>(depths);
        levels.push_back({m_spec.past - lift, depths > 1 ? flankStart(m_cutter) + 1.3 * whole / static_cast<double>(depths) : 1e9});
    }
    std::vector<Track> finished;
    int row = 0;
    const std::size_t total = depths * layers;
    // A cylinder's depths are one place moved along its axis: it is laid on the wall once for every thickness, at the lowest depth.
    const bool straight = m_cutter.shape != CutterShape::Barrel && flankAngle(m_cutter) == 0.0;
    std::vector<std::optional<Track>> lowest(layers);
    const auto pass = [&](std::size_t layer, std::size_t depth) -> Status {
        const double more = m_spec.thickness * static_cast<double>(layers - 1 - layer) / static_cast<double>(layers);
        m_progress.report(static_cast<double>(row) / static_cast<double>(total), "Laying the cutter on the wall");
        const bool last = layer + 1 == layers;
        const Level& level = levels[straight ? depths - 1 : depth];
        if (!straight || !lowest[layer]) {
            auto track = trackAt({level.past, straight ? 1e9 : level.reach}, m_leave + more, last);
            if (!track) return tl::unexpected(track.error());
            lowest[layer] = std::move(*track);
        }
        Track track = *lowest[layer];
        for (AxisPose& p : track.poses) p.tip += (level.past - levels[depth].past) * p.axis;
        emit(track, levels[depth], m_leave + more, row++);
        if (last) finished.push_back(std::move(track));
        return {};
    };
    for (std::size_t outer = 0; outer < (m_spec.depthsFirst ? layers : depths); ++outer)
        for (std::size_t innerStep = 0; innerStep < (m_spec.depthsFirst ? depths : layers); ++innerStep)
            if (auto ok = m_spec.depthsFirst ? pass(outer, innerStep) : pass(innerStep, outer); !ok) return tl::unexpected(ok.error());
    mapDeviation(finished);
    if (m_progress.cancelled()) return cancelledError();
    measurePasses(m_out);
    m_out.what = fmt::format("{} · {:.3f} m along · up to {:.2f} mm high", m_wall.closed ? "closed wall" : "wall", around / 1000.0, tallest);
    m_out.how = fmt::format("{} {} · {:.2f} m · {:.3f} too much, {:.3f} stays", m_out.passes.size(), m_out.passes.size() == 1 ? "pass" : "passes", m_out.length / 1000.0,
                            m_out.over, m_out.under);
    return std::move(m_out);
}

} // namespace

Result<FollowResult> swarf(const SwarfInput& input, const SwarfSpec& spec, const Assembly& tool, double leave, double chordTolerance, double longestStep,
                           Progress& progress) {
    return Swarfer(input, spec, tool, leave, chordTolerance, longestStep, progress).run();
}

} // namespace gyre
