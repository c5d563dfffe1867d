// A whole body from one direction: the cutter let down on it, in levels on the steep and in strokes on the flat.
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/Polyline.h"
#include "milling/Dropper.h"
#include "milling/LevelWays.h"
#include "milling/Miller.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

/// One stroke, or what is kept of it, or one level's way; heights are those of the tip.
struct Way {
    std::vector<Vec3> points;
    int number = 0; ///< of the stroke or the level
    bool closed = false;
};

/// What of a body is cut, and where.
class BodyWays {
public:
    BodyWays(const Dropper& dropper, const MillSpec& spec, double chord, const Dropper* after, const MeshTree* picked, double near, Progress& progress)
        : m_dropper(dropper), m_spec(spec), m_chord(chord), m_after(after), m_picked(picked), m_zone(cuttingZone(dropper.cutter())), m_clearance(m_zone.size(), near),
          m_progress(progress) {}

    bool run(const Vec2& low, const Vec2& high, double top);

    std::vector<Way> strokes, levels; ///< in cutting order
    Region target;
    double widest = 0.0; ///< between neighbouring strokes, tip to tip
    Vec2 widestAt = Vec2::Zero();
    std::optional<Vec2> flatAt; ///< a flat place that levels alone leave out

private:
    // Strokes run along u; the grid is finer across than they are apart, so that narrow flat places are seen.
    static constexpr int kBetween = 2;
    [[nodiscard]] Vec2 place(double u, double v) const { return u * m_along + v * leftOf(m_along); }
    [[nodiscard]] std::size_t cell(int i, int j) const { return static_cast<std::size_t>(j) * static_cast<std::size_t>(m_columns) + static_cast<std::size_t>(i); }
    [[nodiscard]] bool marked(const std::vector<char>& mask, const Vec2& uv) const;
    [[nodiscard]] bool wanted(const Vec2& at, double height) const;
    bool measure();
    void sortCells();
    void measureGaps();
    bool layStrokes();
    bool layLevels(double top);
    void keepWanted(const std::vector<Vec3>& line, bool closed, const std::vector<char>& mask, int number, std::vector<Way>& out) const;
    void bridge(const std::vector<Vec3>& line, std::vector<char>& keep) const;
    [[nodiscard]] Vec2 uv(const Vec3& p) const { return {p.head<2>().dot(m_along), p.head<2>().dot(leftOf(m_along))}; }

    const Dropper& m_dropper;
    const MillSpec& m_spec;
    double m_chord;
    const Dropper* m_after;
    const MeshTree* m_picked;
    std::vector<RoundedFrustum> m_zone;
    std::vector<double> m_clearance; ///< what is picked counts as touched within this
    Progress& m_progress;
    Vec2 m_along = Vec2::UnitX();
    double m_step = 1.0, m_down = 1.0, m_fine = 0.5; ///< between strokes, between levels, along the grid
    double m_steep = 1.0;                            ///< rise for each mm from which on levels cut
    double m_u0 = 0.0, m_v0 = 0.0, m_dv = 0.5;
    int m_columns = 0, m_rows = 0;
    std::vector<double> m_height;
    std::vector<char> m_forStrokes, m_forLevels; ///< cells that each of them cuts
};

bool BodyWays::run(const Vec2& low, const Vec2& high, double top) {
    // Planes that lean by just that much, as chamfers do, are cut by strokes alone.
    constexpr double kJust = 0.5;
    const double turn = radians(m_spec.along), slope = radians(std::clamp(m_spec.slope + kJust, 0.0, 89.9));
    m_steep = std::tan(slope);
    m_along = {std::cos(turn), std::sin(turn)};
    const bool both = m_spec.parts == MillParts::Both;
    m_step = m_spec.stepover * (both ? std::cos(slope) : 1.0);
    m_down = m_spec.stepover * (both ? std::sin(slope) : 1.0);
    m_fine = std::min(firstStep(m_dropper.cutter(), m_chord), 0.5 * m_spec.stepover);
    double u1 = -1e300, v1 = -1e300;
    m_u0 = m_v0 = 1e300;
    const double beyond = 0.5 * m_dropper.cutter().diameter + std::max(0.2, 2.0 * m_fine);
    for (const double x : {low.x(), high.x()})
        for (const double y : {low.y(), high.y()}) {
            const Vec2 q = uv({x, y, 0.0});
            m_u0 = std::min(m_u0, q.x() - beyond);
            m_v0 = std::min(m_v0, q.y() - beyond);
            u1 = std::max(u1, q.x() + beyond);
            v1 = std::max(v1, q.y() + beyond);
        }
    const int strokes = std::max(1, static_cast<int>(std::ceil((v1 - m_v0) / m_step - 1e-9)));
    m_dv = (v1 - m_v0) / (strokes * kBetween);
    m_rows = strokes * kBetween + 1;
    m_columns = std::max(2, static_cast<int>(std::ceil((u1 - m_u0) / m_fine - 1e-9)) + 1);
    m_fine = (u1 - m_u0) / (m_columns - 1);
    if (!measure()) return false;
    sortCells();
    if (m_spec.parts != MillParts::Levels && !layStrokes()) return false;
    return m_spec.parts == MillParts::Strokes || layLevels(top);
}

bool BodyWays::measure() {
    m_height.resize(static_cast<std::size_t>(m_columns) * static_cast<std::size_t>(m_rows));
    return parallelFor(
        static_cast<std::size_t>(m_rows), 1,
        [&](std::size_t j) {
            for (int i = 0; i < m_columns; ++i)
                m_height[cell(i, static_cast<int>(j))] = m_dropper.roughHeight(place(m_u0 + i * m_fine, m_v0 + static_cast<double>(j) * m_dv));
        },
        &m_progress);
}

// Steep where the tip's heights change faster than the slope asks, to any neighbour. Both kinds reach one step over into the other's, so that no strip
// between them is wider than the steps themselves.
void BodyWays::sortCells() {
    const std::size_t n = m_height.size();
    std::vector<char> flat(n, 0), steep(n, 0);
    for (int j = 0; j < m_rows; ++j)
        for (int i = 0; i < m_columns; ++i) {
            const double h = m_height[cell(i, j)];
            const auto rise = [&](int di, int dj, double d) {
                const int a = i + di, b = j + dj;
                return a < 0 || b < 0 || a >= m_columns || b >= m_rows ? 0.0 : (m_height[cell(a, b)] - h) / d;
            };
            const double left = rise(-1, 0, m_fine), right = rise(1, 0, m_fine), near = rise(0, -1, m_dv), far = rise(0, 1, m_dv);
            const auto larger = [](double a, double b) { return std::max(std::abs(a), std::abs(b)); };
            const auto smaller = [](double a, double b) { return std::min(std::abs(a), std::abs(b)); };
            // At the foot and at the edge of a wall one side is flat and the other steep: it is both.
            steep[cell(i, j)] = std::hypot(larger(left, right), larger(near, far)) > m_steep;
            flat[cell(i, j)] = m_dropper.rests(h) && std::hypot(smaller(left, right), smaller(near, far)) <= m_steep;
        }
    if (m_spec.parts == MillParts::Strokes)
        for (std::size_t c = 0; c < n; ++c) flat[c] = m_dropper.rests(m_height[c]);
    if (m_spec.parts == MillParts::Levels) {
        steep.assign(n, 1);
        const double level = std::tan(radians(10.0));
        for (int j = 1; j < m_rows; ++j)
            for (int i = 1; i < m_columns; ++i) {
                const double h = m_height[cell(i, j)], du = (m_height[cell(i - 1, j)] - h) / m_fine, dv = (m_height[cell(i, j - 1)] - h) / m_dv;
                const Vec2 at = place(m_u0 + i * m_fine, m_v0 + j * m_dv);
                if (m_picked || flatAt || !m_dropper.rests(h) || std::hypot(du, dv) > level || !wanted(at, h)) continue;
                flatAt = at;
            }
    }
    const auto grownBy = [&](const std::vector<char>& mask, double by) {
        const int wide = std::max(1, static_cast<int>(std::ceil(by / m_fine))), high = std::max(1, static_cast<int>(std::ceil(by / m_dv)));
        std::vector<char> across(n, 0), out(n, 0);
        for (int j = 0; j < m_rows; ++j)
            for (int i = 0; i < m_columns; ++i)
                for (int d = -wide; d <= wide; ++d)
                    if (i + d >= 0 && i + d < m_columns && mask[cell(i + d, j)]) across[cell(i, j)] = 1;
        for (int j = 0; j < m_rows; ++j)
            for (int i = 0; i < m_columns; ++i)
                for (int d = -high; d <= high; ++d)
                    if (j + d >= 0 && j + d < m_rows && across[cell(i, j + d)]) out[cell(i, j)] = 1;
        return out;
    };
    if (m_spec.parts == MillParts::Both) {
        m_forStrokes = grownBy(flat, m_step);
        m_forLevels = grownBy(steep, m_step);
    } else {
        m_forStrokes = flat;
        m_forLevels = steep;
    }
    measureGaps();
}

// Neighbouring strokes at the same u, where both are cut and levels do not cut as well.
void BodyWays::measureGaps() {
    if (m_spec.parts == MillParts::Levels) return;
    for (int j = 0; j + kBetween < m_rows; j += kBetween)
        for (int i = 0; i < m_columns; ++i) {
            const std::size_t a = cell(i, j), b = cell(i, j + kBetween);
            if (!m_forStrokes[a] || !m_forStrokes[b] || !m_dropper.rests(m_height[a]) || !m_dropper.rests(m_height[b])) continue;
            if (m_spec.parts == MillParts::Both && (m_forLevels[a] || m_forLevels[b])) continue;
            const double gap = std::hypot(kBetween * m_dv, m_height[b] - m_height[a]);
            const Vec2 at = place(m_u0 + i * m_fine, m_v0 + j * m_dv);
            if (gap <= widest || !wanted(at, m_height[a])) continue; // what is not to be cut is not left out either
            widest = gap;
            widestAt = place(m_u0 + i * m_fine, m_v0 + (j + 0.5 * kBetween) * m_dv);
        }
}

bool BodyWays::marked(const std::vector<char>& mask, const Vec2& q) const {
    const int i = static_cast<int>(std::lround((q.x() - m_u0) / m_fine)), j = static_cast<int>(std::lround((q.y() - m_v0) / m_dv));
    return i >= 0 && j >= 0 && i < m_columns && j < m_rows && mask[cell(i, j)];
}

// On what is picked, and where a larger cutter could not come.
bool BodyWays::wanted(const Vec2& at, double height) const {
    if (m_picked && !m_picked->anyWithin(m_dropper.sheet().pose({at.x(), at.y(), height}), m_zone.data(), m_clearance.data(), m_zone.size())) return false;
    return !m_after || leftByLarger(m_dropper, *m_after, at, height) > m_spec.afterMore;
}

// Going on over a short stretch that the other ways cut as well is quicker than up and down again.
void BodyWays::bridge(const std::vector<Vec3>& line, std::vector<char>& keep) const {
    const double most = 6.0 * m_spec.stepover;
    for (std::size_t i = 1; i < line.size(); ++i) {
        if (keep[i] || !keep[i - 1]) continue;
        double gone = (line[i] - line[i - 1]).norm();
        std::size_t k = i;
        while (k < line.size() && !keep[k] && m_dropper.rests(line[k].z()) && gone <= most) {
            ++k;
            if (k < line.size()) gone += (line[k] - line[k - 1]).norm();
        }
        if (k < line.size() && keep[k] && gone <= most) std::fill(keep.begin() + static_cast<std::ptrdiff_t>(i), keep.begin() + static_cast<std::ptrdiff_t>(k), 1);
        i = std::max(i, k);
    }
}

// The stretches of a line that are to be cut; where that changes between two points the place is found to 2 µm.
void BodyWays::keepWanted(const std::vector<Vec3>& line, bool closed, const std::vector<char>& mask, int number, std::vector<Way>& out) const {
    const auto stays = [&](const Vec3& p) { return marked(mask, uv(p)) && m_dropper.rests(p.z()) && wanted(p.head<2>(), p.z()); };
    std::vector<char> keep(line.size());
    for (std::size_t i = 0; i < line.size(); ++i) keep[i] = stays(line[i]);
    if (!m_picked && !m_after) bridge(line, keep);
    if (closed && std::all_of(keep.begin(), keep.end(), [](char k) { return k != 0; })) {
        out.push_back({line, number, true});
        return;
    }
    const std::size_t first = out.size();
    Way now{{}, number, false};
    const auto border = [&](Vec3 in, Vec3 outside) {
        while ((outside - in).norm() > 2e-3) {
            const Vec3 m = 0.5 * (in + outside);
            (stays(m) ? in : outside) = m;
        }
        return in;
    };
    for (std::size_t i = 0; i < line.size(); ++i) {
        if (keep[i]) {
            if (now.points.empty() && i > 0) now.points.push_back(border(line[i], line[i - 1]));
            now.points.push_back(line[i]);
        } else if (!now.points.empty()) {
            now.points.push_back(border(line[i - 1], line[i]));
            out.push_back(std::move(now));
            now = {{}, number, false};
        }
    }
    if (!now.points.empty()) out.push_back(std::move(now));
    // A ring that is cut open where it begins is one way all the same.
    if (closed && out.size() > first + 1 && keep.front() && keep.back()) {
        Way& head = out[first];
        Way& tail = out.back();
        tail.points.insert(tail.points.end(), head.points.begin() + 1, head.points.end());
        head = std::move(tail);
        out.pop_back();
    }
    // What a larger tool left at the very end of a rounding is less than is known of it.
    const double least = m_after ? 0.05 * m_dropper.cutter().diameter : 0.0;
    const auto tooShort = [&](const Way& w) { return w.points.size() < 2 || length(w.points) < least; };
    out.erase(std::remove_if(out.begin() + static_cast<std::ptrdiff_t>(first), out.end(), tooShort), out.end());
}

/// Strokes one after the other, to and fro, as long as the next one lies beside the last; then the nearest that is left.
std::vector<Way> neighbourly(std::vector<Way> ways, double near) {
    std::vector<Way> out;
    std::vector<char> done(ways.size(), 0);
    std::size_t next = 0;
    for (std::size_t count = 0; count < ways.size(); ++count) {
        std::size_t best = ways.size();
        bool turned = false;
        if (!out.empty()) {
            const Way& last = out.back();
            const Vec3& end = last.points.back();
            double least = near;
            for (std::size_t i = next; i < ways.size() && ways[i].number <= last.number + 1; ++i) {
                if (done[i] || ways[i].number != last.number + 1) continue;
                const double a = (ways[i].points.front() - end).norm(), b = ways[i].closed ? 1e300 : (ways[i].points.back() - end).norm();
                if (std::min(a, b) < least) {
                    least = std::min(a, b);
                    best = i;
                    turned = b < a;
                }
            }
        }
        while (next < ways.size() && done[next]) ++next;
        if (best == ways.size()) best = next;
        done[best] = 1;
        out.push_back(std::move(ways[best]));
        if (turned) std::reverse(out.back().points.begin(), out.back().points.end());
    }
    return out;
}

/// Level by level down each hill before the next one: a ring begins where the one above it ended; open ways keep their direction, for climb.
std::vector<Way> downward(std::vector<Way> ways, double near) {
    std::vector<Box> boxes;
    for (const Way& w : ways) {
        Box& box = boxes.emplace_back();
        for (const Vec3& p : w.points) box.add(p);
    }
    struct Next {
        std::size_t way;
        std::size_t start = 0; ///< its point where it begins
    };
    std::vector<char> taken(ways.size(), 0);
    const auto below = [&](const Way& last) -> std::optional<Next> {
        const Vec3& end = last.points.back();
        std::optional<Next> best;
        double least = near;
        const auto from = std::lower_bound(ways.begin(), ways.end(), last.number + 1, [](const Way& w, int number) { return w.number < number; });
        for (auto w = from; w != ways.end() && w->number == last.number + 1; ++w) {
            const auto i = static_cast<std::size_t>(w - ways.begin());
            if (taken[i] || boxes[i].distance(end) >= least) continue;
            for (std::size_t k = 0; k < (w->closed ? w->points.size() : 1); ++k)
                if (const double d = (w->points[k] - end).norm(); d < least) {
                    least = d;
                    best = Next{i, k};
                }
        }
        return best;
    };
    std::vector<Way> out;
    for (std::size_t first = 0; first < ways.size(); ++first)
        for (std::optional<Next> next = taken[first] ? std::optional<Next>() : Next{first}; next; next = below(out.back())) {
            taken[next->way] = 1;
            Way way = ways[next->way];
            if (next->start > 0) {
                auto& p = way.points;
                p.pop_back();
                std::rotate(p.begin(), p.begin() + static_cast<std::ptrdiff_t>(next->start % p.size()), p.end());
                p.push_back(p.front());
            }
            out.push_back(std::move(way));
        }
    return out;
}

bool BodyWays::layStrokes() {
    const int count = (m_rows - 1) / kBetween + 1;
    std::vector<std::vector<Way>> kept(static_cast<std::size_t>(count));
    const bool done = parallelFor(
        kept.size(), 1,
        [&](std::size_t k) {
            const int j = static_cast<int>(k) * kBetween;
            bool any = false;
            for (int i = 0; i < m_columns && !any; ++i) any = m_forStrokes[cell(i, j)];
            if (!any) return;
            const double v = m_v0 + j * m_dv;
            keepWanted(droppedAlong(m_dropper, place(m_u0, v), place(m_u0 + (m_columns - 1) * m_fine, v), m_fine, m_chord), false, m_forStrokes, static_cast<int>(k),
                       kept[k]);
        },
        &m_progress);
    if (!done) return false;
    std::vector<Way> all;
    for (auto& row : kept)
        for (Way& w : row) {
            if (row.front().number % 2) std::reverse(w.points.begin(), w.points.end());
            all.push_back(std::move(w));
        }
    strokes = neighbourly(std::move(all), 4.0 * m_spec.stepover);
    return true;
}

bool BodyWays::layLevels(double top) {
    const double low = m_dropper.bottom() + 2.0 * Dropper::kRests, deep = top - low; // the lowest floor is rested on
    const auto count = static_cast<std::size_t>(std::clamp(std::ceil(deep / m_down - 1e-9), 1.0, 20000.0));
    LevelGrid grid{m_height, m_columns, m_rows, [&](double i, double j) { return place(m_u0 + i * m_fine, m_v0 + j * m_dv); }};
    std::vector<std::vector<Way>> kept(count);
    const bool done = parallelFor(
        count, 1,
        [&](std::size_t k) {
            const double height = top - deep * static_cast<double>(k + 1) / static_cast<double>(count);
            for (const LevelWay& way : waysAtLevel(m_dropper, grid, height, m_chord)) {
                std::vector<Vec3> line;
                for (const Vec2& p : way.points) line.emplace_back(p.x(), p.y(), height);
                if (!m_spec.climb) std::reverse(line.begin(), line.end());
                keepWanted(line, way.closed, m_forLevels, static_cast<int>(k), kept[k]);
            }
        },
        &m_progress);
    if (!done) return false;
    std::vector<Way> all;
    for (auto& level : kept)
        for (Way& w : level) {
            w.closed = w.closed && w.points.size() > 2;
            all.push_back(std::move(w));
        }
    levels = downward(std::move(all), 3.0 * m_spec.stepover);
    return true;
}

/// Without the points that lie on the straight way between others.
std::vector<Vec3> straightened(const std::vector<Vec3>& line, double tolerance) {
    std::vector<Vec3> out{line.front()};
    std::size_t from = 0;
    while (from + 1 < line.size()) {
        std::size_t to = from + 1;
        for (std::size_t next = from + 2; next < line.size() && next < from + 400; ++next) {
            const Vec3 a = line[from], d = line[next] - a;
            bool straight = d.norm() > 1e-9;
            for (std::size_t k = from + 1; straight && k < next; ++k) {
                const double t = (line[k] - a).dot(d) / d.squaredNorm();
                straight = t >= 0.0 && t <= 1.0 && (line[k] - a - t * d).norm() <= tolerance;
            }
            if (!straight) break;
            to = next;
        }
        out.push_back(line[to]);
        from = to;
    }
    return out;
}

} // namespace

Status Miller::wholeBody() {
    if (m_sheet.wrapped) return fail("a body is milled from one direction, not around an axis", {}, "Choose a plane, or a whole round part");
    if (!m_in.model || m_in.model->empty()) return fail("there is no part to let the cutter down on");
    const double r = 0.5 * m_tool.cutter.diameter;
    if (m_spec.stepover > 4.0 * r) return fail("the strokes are further apart than the cutter is wide", {}, "Type a smaller stepover");
    // What is picked bounds where it is cut, not what is kept clear of.
    Box all, picked;
    for (const Vec3& p : (m_in.body ? m_in.body : m_in.part)->mesh().points) all.add(m_sheet.flat(p));
    TriangleMesh mesh;
    for (const int f : m_in.faces) mesh.append(m_in.part->faceMesh(f));
    for (const Vec3& p : mesh.points) picked.add(m_sheet.flat(p));
    const Box& where = picked.empty() ? all : picked;
    constexpr double kHair = 2.0 * Dropper::kRests; // the lowest floor is rested on, not the bottom
    const double bottom = (m_spec.depthBy == MillDepth::Typed ? -m_spec.depth : where.low.z() + m_leave) - kHair;
    m_top = m_out.top = where.high.z() + m_leave;
    m_bottom = m_out.bottom = bottom + kHair;
    if (m_bottom >= m_top + 1e-9) return fail("nothing of the part stands above the depth", {}, "Cut deeper");
    constexpr double kMostCells = 4e7;
    const Vec3 size = where.high - where.low + Vec3(2.0 * r, 2.0 * r, 0.0);
    if (size.x() * size.y() / (std::min(firstStep(m_tool.cutter, m_chord), 0.5 * m_spec.stepover) * 0.35 * m_spec.stepover) > kMostCells)
        return fail("that many strokes are not laid: the stepover is too small for a part of this size", {}, "Type a larger stepover");
    const Part* exact = m_in.body && !m_in.body->isMesh() ? m_in.body : nullptr;
    const Dropper dropper(*m_in.model, exact, m_tool.cutter, m_sheet, m_leave, bottom);
    std::optional<MeshTree> pickedTree;
    std::optional<Dropper> after;
    if (!m_in.faces.empty()) pickedTree.emplace(mesh);
    // Triangles and exact faces are no further apart than that.
    const double near = m_leave + (m_in.body ? m_in.body : m_in.part)->deflection() + m_chord;
    if (m_in.after) {
        if (m_in.after->cutter.diameter <= m_tool.cutter.diameter)
            return fail("the tool that cut before is no larger than this one", {}, "Choose a larger tool before, or a smaller one now");
        // Down to where it would touch with its side what this one touches at the bottom.
        after.emplace(*m_in.model, exact, m_in.after->cutter, m_sheet, m_leave, bottom - m_in.after->cutter.diameter);
    }
    BodyWays ways(dropper, m_spec, m_chord, after ? &*after : nullptr, pickedTree ? &*pickedTree : nullptr, near, m_progress);
    if (!ways.run(where.low.head<2>(), where.high.head<2>(), m_top)) return cancelledError();
    const auto add = [&](const Way& way, int level) {
        FlatPass pass;
        pass.level = level;
        pass.closed = way.closed;
        for (const Vec3& p : straightened(way.points, 0.2 * m_chord)) Miller::add(pass, p.head<2>(), p.z(), Motion::Cut);
        if (pass.points.size() > 1) m_out.flat.push_back(std::move(pass));
    };
    for (const Way& w : ways.levels) add(w, w.number);
    const std::size_t inLevels = m_out.flat.size();
    for (const Way& w : ways.strokes) add(w, -1);
    m_out.rows = m_out.flat.size() - inLevels;
    m_out.levels = 0;
    for (const Way& w : ways.levels) m_out.levels = std::max(m_out.levels, static_cast<std::size_t>(w.number) + 1);
    m_out.widestGap = ways.widest;
    if (m_out.flat.empty()) return fail(m_in.after ? "the tool before has reached everything" : "nothing of the part is met from this direction");
    const auto at = [&](const Vec2& p) { return m_sheet.point({p.x(), p.y(), dropper.height(p)}); };
    if (ways.widest > 1.5 * m_spec.stepover)
        tell(Rank::Note, "steep-wide", fmt::format("strokes lie up to {:.2f} mm apart on the steep", ways.widest), "Strokes come down walls, but do not cut along them",
             at(ways.widestAt), ways.widest);
    if (ways.flatAt) tell(Rank::Note, "flat-left", "flat places lie between the levels", "Levels go around flat places, not over them", at(*ways.flatAt));
    return {};
}

} // namespace gyre
