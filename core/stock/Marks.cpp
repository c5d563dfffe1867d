#include "stock/Marks.h"
#include "base/Parallel.h"
#include "geom/MeshTree.h"
#include "geom/RoundedFrustum.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>

namespace gyre {
namespace {

/// How far a point lies outside of a turned cutter (inside negative), from its radius and height over the tip. Its pieces together are convex, and what lies between two
/// of them is no border: a line that leaves one piece may still be within the next.
class Turned {
public:
    explicit Turned(const Cutter& cutter) {
        if (cutter.shape == CutterShape::Barrel) { // its flank is an arc: no frusta stand for it here, their corners would leave marks
            m_barrel = barrelProfile(cutter);
            m_corner = cutter.cornerRadius;
            m_top = cutter.fluteLength;
            m_joinAngle = std::atan2(m_barrel->join.y(), m_barrel->join.x());
            return;
        }
        for (const RoundedFrustum& f : cuttingZone(cutter)) {
            const double rise = f.z1 - f.z0, widens = f.r1 - f.r0;
            m_pieces.push_back({f, f.r0 == 0.0 && f.r1 == 0.0 && f.z0 == f.z1, rise > 0.0 ? rise / std::hypot(rise, widens) : 1.0, rise > 0.0 ? widens / rise : 0.0});
        }
    }
    [[nodiscard]] double off(double r, double z) const {
        if (m_barrel) return offBarrel(r, z);
        double least = 1e300;
        for (const Piece& p : m_pieces) least = std::min(least, p.off(r, z));
        return least;
    }

private:
    struct Piece {
        RoundedFrustum f;
        bool point;
        double cosine, slope;
        [[nodiscard]] double off(double r, double z) const {
            if (point) return std::sqrt(r * r + (z - f.z0) * (z - f.z0)) - f.round;
            const double core = coreDistance(f, {r, 0.0, z}).value;
            if (core > 0.0) return core - f.round;
            return std::max({f.z0 - z, z - f.z1, (r - f.r0 - slope * (z - f.z0)) * cosine}) - f.round;
        }
    };
    [[nodiscard]] double offBarrel(double r, double z) const {
        const Vec2 q(r, z), fromMiddle = q - m_barrel->middle;
        double out = 0.0;
        if (std::atan2(fromMiddle.y(), fromMiddle.x()) >= m_joinAngle)
            out = fromMiddle.norm() - m_barrel->radius;
        else
            out = r > m_barrel->nose.x() ? (q - m_barrel->nose).norm() - m_corner : -z;
        return std::max(out, z - m_top);
    }
    std::vector<Piece> m_pieces;
    std::optional<BarrelProfile> m_barrel;
    double m_corner = 0.0, m_top = 0.0, m_joinAngle = 0.0;
};

/// A body on its way from one pose to another.
struct BodyWay {
    const Turned* body;
    AxisPose from, to;
    double half;         ///< mm: no point of it is further off than that from where it is half way
    double reach;        ///< mm over the surface up to which it is looked for
    std::int32_t by = 0; ///< number of its cut
    [[nodiscard]] double off(const Vec3& p, double share) const {
        const Vec3 axis = (from.axis + share * (to.axis - from.axis)).normalized(), d = p - from.tip - share * (to.tip - from.tip);
        const double z = d.dot(axis);
        return body->off(std::sqrt(std::max(0.0, d.squaredNorm() - z * z)), z);
    }
    /// Where on its way it comes nearest to a point: golden sections of a convex function.
    [[nodiscard]] std::pair<double, double> nearest(const Vec3& p) const {
        constexpr double kGolden = 0.6180339887498949;
        constexpr int kSections = 30; // of a way of a quarter of a millimetre: 0.13 nm
        double a = 0.0, b = 1.0, c = 1.0 - kGolden, d = kGolden, atC = off(p, c), atD = off(p, d);
        for (int i = 0; i < kSections; ++i) {
            if (atC <= atD) {
                b = d;
                d = c;
                atD = atC;
                c = b - kGolden * (b - a);
                atC = off(p, c);
            } else {
                a = c;
                c = d;
                atC = atD;
                d = a + kGolden * (b - a);
                atD = off(p, d);
            }
        }
        std::pair<double, double> best{atC, c};
        for (const double end : {0.0, 1.0})
            if (const double at = off(p, end); at < best.first) best = {at, end};
        return best;
    }
};

constexpr double kWay = 0.25;  // mm: ways are no longer
constexpr double kBent = 2e-5; // mm: no point of a turning cutter leaves the straight way by more

/// The ways whose cutters may come near a ball about the ground.
std::vector<BodyWay> waysNear(const std::vector<MarkCut>& cuts, const std::vector<Turned>& bodies, const Vec3& middle, double radius) {
    std::vector<BodyWay> out;
    for (std::size_t c = 0; c < cuts.size(); ++c) {
        const Toolpath& path = cuts[c].path;
        const double high = std::hypot(cuttingLength(cuts[c].cutter), cuts[c].cutter.diameter);
        // A place that stands higher than half of a small cutter may lie above it.
        const double reach = std::min(MarkMap::kReach, 0.25 * std::min(cuts[c].cutter.diameter, cuttingLength(cuts[c].cutter)));
        for (std::size_t i = 1; i < path.size(); ++i) {
            if (path.rapid(i)) continue;
            const AxisPose a{path.tip[i - 1], path.axis[i - 1]}, b{path.tip[i], path.axis[i]};
            const double way = (b.tip - a.tip).norm(), turn = (b.axis - a.axis).norm();
            if ((0.5 * (a.tip + b.tip) - middle).norm() > 0.5 * way + high + radius + reach) continue;
            const auto pieces = static_cast<std::size_t>(std::clamp(std::ceil(std::max((way + high * turn) / kWay, turn * std::sqrt(high / (8.0 * kBent)))), 1.0, 1e6));
            for (std::size_t k = 0; k < pieces; ++k) {
                const auto at = [&](std::size_t n) {
                    const double s = static_cast<double>(n) / static_cast<double>(pieces);
                    return AxisPose{a.tip + s * (b.tip - a.tip), (a.axis + s * (b.axis - a.axis)).normalized()};
                };
                const BodyWay s{&bodies[c], at(k), at(k + 1), 0.5 * (way + (high + radius) * turn) / static_cast<double>(pieces), reach, static_cast<std::int32_t>(c)};
                if (s.off(middle, 0.5) <= s.half + radius + reach) out.push_back(s);
            }
        }
    }
    return out;
}

class Patch {
public:
    Patch(const MarkGround& ground, MarkMap& marks) : m_ground(ground), m_marks(marks) {}

    struct Block {
        std::size_t i0, i1, j0, j1;
        [[nodiscard]] std::size_t longest() const { return std::max(i1 - i0, j1 - j0); }
    };
    struct Round {
        Vec3 middle = Vec3::Zero();
        double radius = -1.0; ///< below 0: no surface lies there
    };
    [[nodiscard]] Round around(const Block& b) const {
        Round r;
        std::size_t n = 0;
        each(b, [&](std::size_t p) {
            r.middle += m_ground.foot[p];
            ++n;
        });
        if (n == 0) return r;
        r.middle /= static_cast<double>(n);
        each(b, [&](std::size_t p) { r.radius = std::max(r.radius, (m_ground.foot[p] - r.middle).norm()); });
        return r;
    }
    /// Smaller and smaller blocks, each with the sweeps that may come near it.
    void fill(const Block& block, const std::vector<const BodyWay*>& sweeps) {
        const Round round = around(block);
        if (round.radius < 0.0) return;
        constexpr std::size_t kSmall = 4;
        std::vector<Near> near;
        for (const BodyWay* s : sweeps)
            if (const double off = s->off(round.middle, 0.5) - s->half - round.radius; off <= s->reach) near.push_back({off, s});
        if (near.empty()) return;
        if (block.longest() <= kSmall) {
            std::sort(near.begin(), near.end(), [](const Near& a, const Near& b) { return a.off < b.off; }); // of equals it does not matter which comes first
            each(block, [&](std::size_t p) { lower(p, near); });
            return;
        }
        std::vector<const BodyWay*> fewer;
        fewer.reserve(near.size());
        for (const Near& n : near) fewer.push_back(n.sweep);
        const std::size_t i = (block.i0 + block.i1) / 2, j = (block.j0 + block.j1) / 2;
        for (const Block& b : {Block{block.i0, i, block.j0, j}, Block{i, block.i1, block.j0, j}, Block{block.i0, i, j, block.j1}, Block{i, block.i1, j, block.j1}})
            if (b.i0 < b.i1 && b.j0 < b.j1) fill(b, fewer);
    }

private:
    struct Near {
        double off; ///< mm: no place of the block, nor what stands over it by less, is nearer
        const BodyWay* sweep;
    };
    template <class Do> void each(const Block& b, const Do& what) const {
        for (std::size_t j = b.j0; j < b.j1; ++j)
            for (std::size_t i = b.i0; i < b.i1; ++i)
                if (const std::size_t p = j * m_ground.across + i; m_ground.outward[p].squaredNorm() > 0.5) what(p);
    }
    void lower(std::size_t place, const std::vector<Near>& near) {
        const Vec3 &foot = m_ground.foot[place], &out = m_ground.outward[place];
        double height = MarkMap::kReach;
        std::int32_t by = -1;
        // A line may run in at the bottom of a leaning cutter and out at its side: what does not hold it higher up may do so lower. So until nothing comes lower.
        for (bool again = true; again;) {
            again = false;
            for (const Near& n : near) {
                if (n.off > std::abs(height)) break;
                double from = std::min(height, n.sweep->reach);
                if (!sink(*n.sweep, foot, out, from)) continue;
                if (by >= 0 && height - from < 1e-9) continue;
                height = from;
                by = n.sweep->by;
                again = true;
            }
        }
        if (by < 0) return;
        m_marks.height[place] = static_cast<float>(height);
        m_marks.by[place] = by;
    }
    /// How low a body comes on a line that it holds at `from`. By turns the place on the way that is nearest, and how low it goes there: both only ever fall.
    static bool sink(const BodyWay& s, const Vec3& foot, const Vec3& out, double& from) {
        if (s.off(foot + from * out, 0.5) > s.half) return false;
        constexpr int kTurns = 60;
        bool held = false;
        for (int turn = 0; turn < kTurns; ++turn) {
            const auto [off, share] = s.nearest(foot + from * out);
            if (off > 0.0) break;
            held = true;
            const double low = entry(s, share, foot, out, from), fell = from - low;
            from = low;
            if (fell < 2e-9 || from <= -MarkMap::kDeepest) break;
        }
        return held;
    }
    /// Where a line comes into a body that it is within at `from`.
    static double entry(const BodyWay& s, double share, const Vec3& foot, const Vec3& out, double from) {
        double within = from, beyond = from, step = 1e-3;
        do {
            beyond = within - step;
            if (beyond <= -MarkMap::kDeepest) return -MarkMap::kDeepest;
            if (s.off(foot + beyond * out, share) > 0.0) break;
            within = beyond;
            step *= 2.0;
        } while (true);
        while (within - beyond > 1e-9) {
            const double middle = 0.5 * (within + beyond);
            (s.off(foot + middle * out, share) > 0.0 ? beyond : within) = middle;
        }
        return within;
    }
    const MarkGround& m_ground;
    MarkMap& m_marks;
};

Roughness roughnessOf(const MarkMap& marks, std::size_t first, std::size_t stride, std::size_t count) {
    Roughness out;
    double low = 1e300, high = -1e300, sum = 0.0;
    for (std::size_t k = 0; k < count; ++k) {
        const std::size_t p = first + k * stride;
        if (!marks.isCut(p)) continue;
        const auto h = static_cast<double>(marks.height[p]);
        low = std::min(low, h);
        high = std::max(high, h);
        sum += h;
        ++out.places;
    }
    if (out.places == 0) return out;
    const double mean = sum / static_cast<double>(out.places);
    for (std::size_t k = 0; k < count; ++k)
        if (const std::size_t p = first + k * stride; marks.isCut(p)) out.ra += std::abs(static_cast<double>(marks.height[p]) - mean);
    out.ra /= static_cast<double>(out.places);
    out.rt = high - low;
    return out;
}

} // namespace

Result<MarkMap> marksOn(const MarkGround& ground, const std::vector<MarkCut>& cuts, Progress& progress) {
    MarkMap marks{ground.across, ground.along, ground.step, {}, {}};
    const std::size_t places = ground.across * ground.along;
    if (places == 0 || ground.foot.size() != places || ground.outward.size() != places) return fail("there is no patch to look at");
    marks.height.assign(places, MarkMap::kUncut);
    marks.by.assign(places, -1);
    Patch patch(ground, marks);
    const Patch::Round whole = patch.around({0, ground.across, 0, ground.along});
    if (whole.radius < 0.0) return fail("there is no surface at this place");
    std::vector<Turned> bodies;
    bodies.reserve(cuts.size());
    for (const MarkCut& c : cuts) bodies.emplace_back(c.cutter);
    const std::vector<BodyWay> sweeps = waysNear(cuts, bodies, whole.middle, whole.radius);
    std::vector<const BodyWay*> all(sweeps.size());
    std::transform(sweeps.begin(), sweeps.end(), all.begin(), [](const BodyWay& s) { return &s; });
    // Blocks of their own for the cores; each place is the work of one of them alone.
    constexpr std::size_t kBlock = 32;
    const std::size_t columns = (ground.across + kBlock - 1) / kBlock, rows = (ground.along + kBlock - 1) / kBlock;
    const auto fill = [&](std::size_t n) {
        const std::size_t i = n % columns * kBlock, j = n / columns * kBlock;
        patch.fill({i, std::min(i + kBlock, ground.across), j, std::min(j + kBlock, ground.along)}, all);
    };
    if (!parallelFor(columns * rows, 1, fill, &progress)) return cancelledError();
    return marks;
}

Roughness roughnessAcross(const MarkMap& marks, std::size_t row) { return roughnessOf(marks, row * marks.across, 1, marks.across); }
Roughness roughnessAlong(const MarkMap& marks, std::size_t column) { return roughnessOf(marks, column, marks.across, marks.along); }

MarkSum sumOf(const MarkMap& marks, const MarkGround& ground) {
    MarkSum out;
    std::map<std::int32_t, std::pair<std::size_t, double>> by;
    std::size_t cut = 0, there = 0;
    for (std::size_t p = 0; p < marks.height.size(); ++p) {
        if (ground.outward[p].squaredNorm() < 0.5) continue;
        ++there;
        if (!marks.isCut(p)) continue;
        const auto h = static_cast<double>(marks.height[p]);
        out.low = cut == 0 ? h : std::min(out.low, h);
        out.high = cut == 0 ? h : std::max(out.high, h);
        ++cut;
        auto& [n, sum] = by[marks.by[p]];
        ++n;
        sum += h;
    }
    out.uncut = there > 0 ? 1.0 - static_cast<double>(cut) / static_cast<double>(there) : 0.0;
    for (const auto& [number, what] : by)
        out.by.push_back({static_cast<std::size_t>(number), static_cast<double>(what.first) / static_cast<double>(cut), what.second / static_cast<double>(what.first)});
    return out;
}

} // namespace gyre
