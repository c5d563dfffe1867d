#include "pattern/CornerRows.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "geom/Curve.h"
#include "pattern/PatternSpec.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr double kStep = 0.25;     // mm along an edge
constexpr double kSharp = 0.09;    // rad that faces turn at an edge, to be a corner
constexpr double kSmooth = 0.03;   // rad that they may turn where a fillet meets them
constexpr double kTogether = 0.03; // mm between ends of lines that go on

/// Two faces that a ball may touch at once, and the edge along which to look.
struct Corner {
    int first, second, edge;
    int round = -1;      ///< the face between them, of a fillet; the edge lies between it and the first one
    double radius = 0.0; ///< of the fillet
};

/// A ball that touches both.
struct Both {
    Vec3 middle;
    SurfacePoint onFirst, onSecond;
};

/// Where rows of one number touch on either side of a corner; the same place where that is its middle.
struct Feet {
    SurfacePoint first, second;
    int faceFirst, faceSecond;
};

class Seeker {
public:
    Seeker(const Part& part, const Corner& corner, Curve line, double ball, double larger)
        : m_part(part), m_corner(corner), m_line(std::move(line)), m_length(m_line.length()), m_ball(ball), m_larger(larger), m_inner(std::max(ball, corner.radius)) {
        if (larger <= m_inner) return;
        // How much of the way to the middle lies on the faces, and how much on the fillet.
        for (int k = 0; k <= 8; ++k) {
            const auto in = solved(m_length * k / 8.0, m_inner), out = solved(m_length * k / 8.0, larger);
            if (!in || !out) continue;
            m_onFaces = std::max({m_onFaces, (in->onFirst.point - out->onFirst.point).norm(), (in->onSecond.point - out->onSecond.point).norm()});
            if (m_inner > ball) m_onFillet = std::max(m_onFillet, 0.5 * m_inner * angleBetween(in->onFirst.normal, in->onSecond.normal));
        }
    }
    [[nodiscard]] double length() const { return m_length; }
    [[nodiscard]] bool closed() const { return m_line.closed(); }
    /// The ball in the plane across the edge there, wherever its feet lie; Newton on both distances.
    [[nodiscard]] std::optional<Both> solved(double s, double radius) const {
        const Curve::Place place = m_line.atLength(s);
        const Vec3 p = m_line.at(place), t = m_line.tangent(place);
        SurfacePoint a = m_part.project(m_corner.first, p), b = m_part.project(m_corner.second, p);
        Vec3 c = p + radius * a.normal;
        if (m_corner.round < 0) {
            const Vec3 out = a.normal + b.normal;
            if (out.norm() < 0.05) return std::nullopt;
            c = p + radius / std::max(0.1, 0.5 * out.norm()) * out.normalized();
        }
        for (int round = 0; round < 40; ++round) {
            a = m_part.project(m_corner.first, c, a.u, a.v);
            b = m_part.project(m_corner.second, c, b.u, b.v);
            Mat3 rows;
            rows << a.normal.transpose(), b.normal.transpose(), t.transpose();
            if (std::abs(rows.determinant()) < 1e-3) return std::nullopt;
            const Vec3 off(radius - (c - a.point).dot(a.normal), radius - (c - b.point).dot(b.normal), (p - c).dot(t));
            Vec3 by = rows.partialPivLu().solve(off);
            if (!by.allFinite()) return std::nullopt;
            if (by.norm() > 2.0 * radius) by *= 2.0 * radius / by.norm();
            c += by;
            if (by.norm() < 1e-10 * (1.0 + radius)) {
                const bool holds = std::abs((c - a.point).norm() - radius) < 1e-6 && std::abs((c - b.point).norm() - radius) < 1e-6;
                return holds ? std::optional<Both>({c, a, b}) : std::nullopt;
            }
        }
        return std::nullopt;
    }
    /// Feet on the way from where the larger ball touched (0) to the middle (1): of a ball between the two, and in a fillet that the smaller one fits
    /// into, of that one there. Nothing where they lie off their faces, or something else is nearer.
    [[nodiscard]] std::optional<Feet> at(double s, double way) const {
        if (m_inner > m_ball && m_larger <= m_inner) return std::nullopt; // both fit into the fillet
        const double u = way * (m_onFaces + m_onFillet);
        if (m_onFillet <= 0.0 || u <= m_onFaces) {
            const double radius = way >= 1.0 || m_onFaces <= 0.0 ? m_inner : m_larger + (m_inner - m_larger) * u / m_onFaces;
            const auto both = solved(s, radius);
            if (!both || !lies(m_corner.first, both->onFirst.point) || !lies(m_corner.second, both->onSecond.point) || !clear(both->middle, radius)) return std::nullopt;
            return Feet{both->onFirst, both->onSecond, m_corner.first, m_corner.second};
        }
        const auto both = solved(s, m_inner);
        if (!both) return std::nullopt;
        const double half = 0.5 * std::min(1.0, (u - m_onFaces) / m_onFillet);
        const auto touched = [&](const SurfacePoint& from, const SurfacePoint& to) -> std::optional<SurfacePoint> {
            const SurfacePoint p = m_part.project(m_corner.round, both->middle - m_inner * slerp(from.normal, to.normal, half));
            return lies(m_corner.round, p.point) && clear(p.point + m_ball * p.normal, m_ball) ? std::optional(p) : std::nullopt;
        };
        const auto first = touched(both->onFirst, both->onSecond), second = touched(both->onSecond, both->onFirst);
        if (!first || !second) return std::nullopt;
        return Feet{*first, *second, m_corner.round, m_corner.round};
    }
    /// Does the middle lie on one of the faces, so that there are two places for it?
    [[nodiscard]] bool middleOnFaces() const { return m_onFillet <= 0.0; }

private:
    [[nodiscard]] bool lies(int face, const Vec3& p) const {
        const ClosestPoint c = m_part.tree().closest(p, 3.0 * m_part.deflection() + 0.01);
        return c.distance < 1e299 && m_part.mesh().faces[c.triangle] == face;
    }
    // Exact faces decide; where a foot lies beyond its face's trim, the triangles do.
    [[nodiscard]] bool clear(const Vec3& middle, double radius) const {
        const RoundedFrustum ball{0.0, 0.0, 0.0, 0.0, radius};
        const double near = 2.0 * m_part.deflection();
        bool free = true;
        m_part.tree().forEachWithin({middle, Vec3::UnitZ()}, &ball, &near, 1, [&](const std::array<Vec3, 3>&, std::uint32_t triangle, std::size_t) {
            const int face = m_part.mesh().faces[triangle];
            if (face == m_corner.first || face == m_corner.second) return true;
            const SurfacePoint s = m_part.project(face, middle);
            free = !lies(face, s.point) || (middle - s.point).norm() > radius - 1e-5;
            return free;
        });
        return free;
    }

    const Part& m_part;
    const Corner& m_corner;
    Curve m_line;
    double m_length, m_ball, m_larger;
    double m_inner; ///< of the ball that just fits into the fillet, or of this one
    double m_onFaces = 0.0, m_onFillet = 0.0;
};

/// Is a face a hollow round that a larger ball does not fit into, as far as that is known of its kind?
bool mayRound(const FaceInfo& f, std::size_t neighbours) {
    const Vec3 arm = rejected(f.centre - f.axisPoint, f.axis);
    if (f.kind == SurfaceKind::Plane) return false;
    if (f.kind == SurfaceKind::Cylinder) return f.normal.dot(arm) < 0.0;
    constexpr std::size_t kFew = 8;
    return neighbours <= kFew;
}

std::vector<Corner> cornersOf(const Part& part, const std::vector<int>& faces) {
    std::vector<char> picked(part.faces().size(), 0);
    for (const int f : faces) picked[index(f)] = 1;
    std::vector<std::vector<std::pair<int, int>>> smooth(part.faces().size()); // neighbours that a face goes on into, with the edge
    std::vector<Corner> out;
    for (std::size_t e = 0; e < part.edges().size(); ++e) {
        const EdgeInfo& edge = part.edges()[e];
        const auto [a, b] = edge.faces;
        if (edge.degenerate || a < 0 || b < 0 || a == b || !picked[index(a)] || !picked[index(b)]) continue;
        if (edge.angle < -kSharp) out.push_back({std::min(a, b), std::max(a, b), static_cast<int>(e)});
        if (std::abs(edge.angle) > kSmooth) continue;
        smooth[index(a)].emplace_back(b, static_cast<int>(e));
        smooth[index(b)].emplace_back(a, static_cast<int>(e));
    }
    for (std::size_t f = 0; f < smooth.size(); ++f) {
        const FaceInfo& info = part.faces()[f];
        if (!mayRound(info, smooth[f].size())) continue;
        const bool known = info.kind == SurfaceKind::Cylinder || info.kind == SurfaceKind::Torus || info.kind == SurfaceKind::Sphere;
        for (const auto& [first, edge] : smooth[f])
            for (const auto& [second, other] : smooth[f])
                if (first < second) out.push_back({first, second, edge, static_cast<int>(f), known ? info.radius : 0.0});
    }
    return out;
}

/// The feet of one row along one corner.
using Run = std::vector<Feet>;

// From border to border; a closed edge gives one round.
std::vector<std::pair<Run, bool>> runsOf(const Seeker& seeker, double way) {
    const auto n = static_cast<std::size_t>(std::clamp(std::ceil(seeker.length() / kStep), 4.0, 20000.0));
    const double step = seeker.length() / static_cast<double>(n);
    std::vector<std::optional<Feet>> found;
    for (std::size_t i = 0; i <= n; ++i) found.push_back(seeker.at(step * static_cast<double>(i), way));
    std::vector<std::pair<Run, bool>> out;
    if (seeker.closed() && std::all_of(found.begin(), found.end(), [](const auto& b) { return b.has_value(); })) {
        Run round;
        for (std::size_t i = 0; i < n; ++i) round.push_back(*found[i]);
        return {{std::move(round), true}};
    }
    const auto border = [&](std::size_t in, std::size_t beyond) {
        double good = step * static_cast<double>(in), bad = step * static_cast<double>(beyond);
        std::optional<Feet> last;
        for (int i = 0; i < 18; ++i) {
            const double middle = 0.5 * (good + bad);
            auto b = seeker.at(middle, way);
            (b ? good : bad) = middle;
            if (b) last = std::move(b);
        }
        return last;
    };
    Run run;
    for (std::size_t i = 0; i <= n; ++i) {
        if (!found[i]) continue;
        if (run.empty() && i > 0)
            if (const auto b = border(i, i - 1)) run.push_back(*b);
        run.push_back(*found[i]);
        if (i < n && found[i + 1]) continue;
        if (i < n)
            if (const auto b = border(i, i + 1)) run.push_back(*b);
        if (run.size() > 1) out.emplace_back(std::move(run), false);
        run.clear();
    }
    return out;
}

RawLine lineOf(const Run& run, bool closed, bool first) {
    RawLine line;
    line.closed = closed;
    for (const Feet& f : run) {
        const SurfacePoint& s = first ? f.first : f.second;
        if (line.samples.empty() || (line.samples.back().point - s.point).norm() > 1e-6)
            line.samples.push_back({s.point, s.normal, {s.u, s.v}, first ? f.faceFirst : f.faceSecond, false});
    }
    return line;
}

// Lines whose ends meet become one.
std::vector<RawLine> joined(std::vector<RawLine> lines) {
    std::erase_if(lines, [](const RawLine& l) { return l.samples.size() < 2; });
    const auto end = [](const RawLine& l, bool back) -> const Vec3& { return back ? l.samples.back().point : l.samples.front().point; };
    const auto join = [&](RawLine& a, RawLine& b) {
        for (const int which : {0, 1, 2, 3}) {
            const bool aBack = which & 1, bBack = which & 2;
            if (a.closed || b.closed || (end(a, aBack) - end(b, bBack)).norm() > kTogether) continue;
            if (!aBack) std::reverse(a.samples.begin(), a.samples.end());
            if (bBack) std::reverse(b.samples.begin(), b.samples.end());
            const bool same = (a.samples.back().point - b.samples.front().point).norm() < 1e-4;
            a.samples.insert(a.samples.end(), b.samples.begin() + (same ? 1 : 0), b.samples.end());
            return true;
        }
        return false;
    };
    for (std::size_t i = 0; i < lines.size(); ++i)
        for (std::size_t j = i + 1; j < lines.size();)
            if (join(lines[i], lines[j])) {
                lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(j));
                j = i + 1; // it may go on with one that was looked at before
            } else {
                ++j;
            }
    for (RawLine& l : lines)
        if (!l.closed && l.samples.size() > 8 && (l.samples.front().point - l.samples.back().point).norm() < kTogether) {
            l.closed = true;
            l.samples.pop_back();
        }
    return lines;
}

/// Rows from where the larger ball touched, or half a step within, to the middle.
std::vector<double> waysOf(int sides, double shift) {
    std::vector<double> out;
    for (int k = 0; k < sides; ++k) out.push_back((k + shift) / (sides + shift));
    out.push_back(1.0);
    return out;
}

/// Each corner's middle row; empty where it has none.
using Middles = std::vector<std::vector<std::pair<Run, bool>>>;

// Between neighbouring rows, at places all along every corner.
void measure(const std::vector<Seeker>& seekers, const Middles& middles, const std::vector<double>& ways, CornerRows& out) {
    constexpr int kPlaces = 24;
    out.widest = 0.0;
    for (std::size_t i = 0; i < seekers.size(); ++i)
        for (int p = 0; p <= kPlaces && !middles[i].empty(); ++p) {
            std::optional<Feet> before;
            for (const double way : ways) {
                const auto now = seekers[i].at(seekers[i].length() * p / kPlaces, way);
                const double gap = before && now ? std::max((before->first.point - now->first.point).norm(), (before->second.point - now->second.point).norm()) : 0.0;
                if (gap > out.widest) {
                    out.widest = gap;
                    out.at = now->first.point;
                }
                before = now;
            }
        }
}

Error noCorner(double radius) {
    return {fmt::format("a ball of {:g} mm touches no two of the faces at once: they have no inner corner, or one that is rounder", 2.0 * radius), "Pattern",
            "Pick the faces on both sides of a corner, or take a larger ball"};
}

} // namespace

Result<CornerRows> cornerRows(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, double radius, double spacing, Progress& progress) {
    if (part.isMesh()) return fail("corners are found between exact faces, and this is a scan", "Pattern", "Use another pattern");
    if (radius <= 0.0) return fail("a flat cutter has no ball that could touch two faces at once", "Pattern", "Take a ball");
    const double larger = 0.5 * spec.larger;
    if (larger > 0.0 && larger <= radius)
        return fail(fmt::format("a ball of {:g} mm leaves nothing to one of {:g}", spec.larger, 2.0 * radius), "Pattern",
                    "Take a smaller cutter, or tell the larger one");
    const std::vector<Corner> corners = cornersOf(part, faces);
    std::vector<Seeker> seekers;
    seekers.reserve(corners.size());
    for (const Corner& c : corners) {
        auto line = part.edgeCurve(c.edge);
        if (!line) return tl::unexpected(line.error());
        seekers.emplace_back(part, c, std::move(*line), radius, larger);
    }
    Middles middles(corners.size());
    if (!parallelFor(
            corners.size(), 1, [&](std::size_t i) { middles[i] = runsOf(seekers[i], 1.0); }, &progress))
        return cancelledError();
    std::vector<std::size_t> meet(part.faces().size(), 0); // how many corners a face has
    for (std::size_t i = 0; i < corners.size(); ++i)
        if (!middles[i].empty())
            for (const int f : {corners[i].first, corners[i].second}) ++meet[index(f)];
    if (std::all_of(middles.begin(), middles.end(), [](const auto& m) { return m.empty(); })) return tl::unexpected(noCorner(radius));
    CornerRows out;
    const double shift = spec.ends == RowEnds::HalfStepIn ? 0.5 : 0.0;
    int sides = 0; // rows on either side of the middle
    if (larger > 0.0) {
        sides = spec.by == RowsBy::Count ? spec.count - 1 : 1;
        measure(seekers, middles, waysOf(sides, shift), out);
        for (int round = 0; round < 6 && spec.by != RowsBy::Count && out.widest > 1.005 * spacing; ++round) {
            const double wanted = (sides + shift) * out.widest / spacing - shift;
            constexpr double kMostRows = 2000.0;
            if (wanted > kMostRows) return fail(fmt::format("{:.0f} rows would be needed", wanted), "Pattern", "Use a larger spacing");
            sides = std::max(sides + 1, static_cast<int>(std::ceil(wanted - 1e-6)));
            measure(seekers, middles, waysOf(sides, shift), out);
        }
    }
    const std::vector<double> ways = waysOf(sides, shift);
    for (std::size_t k = 0; k < ways.size(); ++k) {
        const bool last = k + 1 == ways.size();
        std::vector<std::vector<RawLine>> lines(corners.size());
        const auto lay = [&](std::size_t i) {
            if (middles[i].empty()) return;
            // The middle lies on the face that more corners meet, so that the rows around a floor are one.
            const bool onFirst = !seekers[i].middleOnFaces() || meet[index(corners[i].first)] >= meet[index(corners[i].second)];
            for (const auto& [run, closed] : last ? middles[i] : runsOf(seekers[i], ways[k])) {
                if (!last || onFirst) lines[i].push_back(lineOf(run, closed, true));
                if (!last || !onFirst) lines[i].push_back(lineOf(run, closed, false));
            }
        };
        if (!parallelFor(corners.size(), 1, lay, &progress)) return cancelledError();
        RawRow row;
        row.level = static_cast<double>(k);
        for (auto& l : lines) std::move(l.begin(), l.end(), std::back_inserter(row.lines));
        row.lines = joined(std::move(row.lines));
        out.rows.push_back(std::move(row));
        progress.report(0.4 * static_cast<double>(k + 1) / static_cast<double>(ways.size()), "Rows along corners");
    }
    return out;
}

} // namespace gyre
