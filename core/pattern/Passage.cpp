#include "pattern/Passage.h"
#include "base/Index.h"
#include "pattern/PatternSpec.h"
#include "pattern/RowOrder.h"
#include "target/Target.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <set>

namespace gyre {
namespace {

using Numbers = std::vector<int>;

bool holds(const Numbers& all, int one) { return std::find(all.begin(), all.end(), one) != all.end(); }

/// Those of the faces that an edge lies on.
Numbers facesAt(const Part& part, const Numbers& faces, const Numbers& edges) {
    std::set<int> out;
    for (const int e : edges)
        for (const int f : part.edges()[index(e)].faces)
            if (holds(faces, f)) out.insert(f);
    return {out.begin(), out.end()};
}

/// Edges with a face of one on one side and of the other on the other.
Numbers edgesBetween(const Part& part, const Numbers& ones, const Numbers& others) {
    Numbers out;
    for (std::size_t e = 0; e < part.edges().size(); ++e) {
        const auto& [a, b] = part.edges()[e].faces;
        if ((holds(ones, a) && holds(others, b)) || (holds(ones, b) && holds(others, a))) out.push_back(static_cast<int>(e));
    }
    return out;
}

Numbers without(const Numbers& all, const Numbers& some) {
    Numbers out;
    for (const int one : all)
        if (!holds(some, one)) out.push_back(one);
    return out;
}

/// Faces that share edges, together.
std::vector<Numbers> connected(const Part& part, Numbers faces) {
    std::vector<Numbers> out;
    while (!faces.empty()) {
        Numbers piece{faces.back()};
        faces.pop_back();
        for (std::size_t i = 0; i < piece.size(); ++i)
            for (std::size_t k = faces.size(); k-- > 0;)
                if (!edgesBetween(part, {piece[i]}, {faces[k]}).empty()) {
                    piece.push_back(faces[k]);
                    faces.erase(faces.begin() + static_cast<std::ptrdiff_t>(k));
                }
        std::sort(piece.begin(), piece.end());
        out.push_back(std::move(piece));
    }
    std::reverse(out.begin(), out.end());
    return out;
}

bool meet(const EdgeInfo& a, const EdgeInfo& b) {
    constexpr double kSamePoint = 1e-4;
    for (const Vec3& p : {a.start, a.end})
        for (const Vec3& q : {b.start, b.end})
            if ((p - q).norm() < kSamePoint) return true;
    return false;
}

/// Edges of a face that no other of the faces lies beside, and that meet none of the edges it stands on.
Numbers upperEdges(const Part& part, int face, const Numbers& foot) {
    Numbers out;
    for (const auto& loop : part.faces()[index(face)].loops)
        for (const int e : loop) {
            const EdgeInfo& edge = part.edges()[index(e)];
            if (edge.degenerate || edge.faces[0] == edge.faces[1] || holds(foot, e) || holds(out, e)) continue;
            if (std::none_of(foot.begin(), foot.end(), [&](int f) { return meet(edge, part.edges()[index(f)]); })) out.push_back(e);
        }
    return out;
}

/// One side of the passage, or of what stands in it.
struct Sheet {
    Numbers faces, upper, foot;
};
struct Passage {
    Sheet first, second;
    std::vector<Sheet> between;
    Numbers floor;
};

Result<Sheet> wallOf(const Part& part, const Numbers& faces, const Numbers& upper, int which) {
    const std::string rail = fmt::format("rail {}", which);
    if (upper.empty()) return fail("the upper edge of a wall is not picked", rail, "Pick the upper edges of both walls");
    Sheet out{facesAt(part, faces, upper), upper, {}};
    if (out.faces.empty()) return fail("the edge lies on none of the picked faces", rail, "Pick the wall below it as well, or the upper edge of a picked wall");
    return out;
}

Result<Passage> passageOf(const Part& part, const Numbers& faces, const PatternSpec& spec) {
    auto upper1 = resolveEdges(part, spec.rail1), upper2 = resolveEdges(part, spec.rail2), guides = resolveEdges(part, spec.guides);
    for (const auto* edges : {&upper1, &upper2, &guides})
        if (!*edges) return tl::unexpected(edges->error());
    PassageEdges edges{*upper1, *upper2, *guides};
    if (edges.first.empty() && edges.second.empty()) {
        auto proposed = proposePassage(part, faces);
        if (!proposed) return tl::unexpected(proposed.error());
        edges = std::move(*proposed);
    }
    Passage out;
    for (const bool first : {true, false}) {
        auto wall = wallOf(part, faces, first ? edges.first : edges.second, first ? 1 : 2);
        if (!wall) return tl::unexpected(wall.error());
        (first ? out.first : out.second) = std::move(*wall);
    }
    const auto shared = std::find_if(out.first.faces.begin(), out.first.faces.end(), [&](int f) { return holds(out.second.faces, f); });
    if (shared != out.first.faces.end())
        return fail(fmt::format("both rails lie on face {}", *shared), "rail 2", "Pick the upper edges of the two walls that face each other");
    Numbers rest = without(without(faces, out.first.faces), out.second.faces);
    const Numbers standing = facesAt(part, rest, edges.between);
    if (!edges.between.empty() && standing.empty())
        return fail("the upper edges of what stands between lie on none of the picked faces", "guides", "Pick its sides as well, or leave these edges out");
    out.floor = without(rest, standing);
    if (out.floor.empty()) return fail("no floor is picked between the walls", "Target", "Pick the faces that the walls stand on as well");
    for (const bool first : {true, false}) {
        Sheet& wall = first ? out.first : out.second;
        wall.foot = edgesBetween(part, wall.faces, out.floor);
        if (wall.foot.empty())
            return fail("the wall does not stand on the floor that is picked", first ? "rail 1" : "rail 2",
                        "Pick the faces between them as well, such as a fillet at its foot");
    }
    for (Numbers& piece : connected(part, standing)) {
        Sheet side{piece, {}, edgesBetween(part, piece, out.floor)};
        for (const int e : edges.between)
            if (holds(piece, part.edges()[index(e)].faces[0]) || holds(piece, part.edges()[index(e)].faces[1])) side.upper.push_back(e);
        if (side.foot.empty()) return fail(fmt::format("face {} between the walls does not stand on the floor", piece.front()), "guides", "Leave its upper edge out");
        out.between.push_back(std::move(side));
    }
    return out;
}

/// Lays the sheets of a passage; all of them go by the same words.
class PassageLayer {
public:
    PassageLayer(const Part& part, const PatternSpec& spec, const RowCutter& cutter, Progress& progress, const RowHelp& help, std::size_t sheets)
        : m_part(part), m_spec(spec), m_cutter(cutter), m_progress(progress), m_help(help), m_sheets(sheets) {
        m_help.curves.clear();
        m_spec.kind = PatternBy::Rails;
        m_spec.order = RowOrder::OneWay;
        m_spec.start = RowStart::First;
        m_spec.cut = RowCut::AsLaid;
        m_spec.reversed = m_spec.pieces = m_spec.across = false;
        m_spec.curve.clear();
    }
    Result<PatternResult> floor(const Passage& p) {
        Numbers feet;
        for (const Sheet& side : p.between) feet.insert(feet.end(), side.foot.begin(), side.foot.end());
        m_help.railsGoOn = m_help.guidesAsTheyLie = true;
        auto out = lay(p.floor, p.first.foot, p.second.foot, feet, {true, true}, "floor");
        m_help.railsGoOn = m_help.guidesAsTheyLie = false;
        return out;
    }
    /// @param down  from its upper edge to its foot
    Result<PatternResult> side(const Sheet& s, bool down, const char* name) {
        return down ? lay(s.faces, s.upper, s.foot, {}, {false, true}, name) : lay(s.faces, s.foot, s.upper, {}, {true, false}, name);
    }

private:
    Result<PatternResult> lay(const Numbers& faces, const Numbers& from, const Numbers& to, const Numbers& guides, const std::array<bool, 2>& corner, const char* name) {
        const double share = 1.0 / static_cast<double>(m_sheets);
        const Progress::Span span(m_progress, share * static_cast<double>(m_done), share * static_cast<double>(m_done + 1));
        ++m_done;
        m_spec.rail1 = refs(from);
        m_spec.rail2 = refs(to);
        m_spec.guides = refs(guides);
        m_help.corner = corner;
        auto out = layRows(m_part, faces, m_spec, m_cutter, m_progress, m_help);
        if (!out && m_help.where && out.error().what == kNothingKept) return PatternResult{};
        if (!out && !out.error().cancelled) return fail(fmt::format("on the {}: {}", name, out.error().what), "Pattern", out.error().remedy);
        return out;
    }
    [[nodiscard]] std::vector<ShapeRef> refs(const Numbers& edges) const {
        std::vector<ShapeRef> out;
        for (const int e : edges) out.push_back(m_part.edgeRef(e));
        return out;
    }
    const Part& m_part;
    PatternSpec m_spec;
    const RowCutter& m_cutter;
    Progress& m_progress;
    RowHelp m_help;
    std::size_t m_sheets, m_done = 0;
};

/// The floor's rows, to be asked what lies beside a place.
class FloorRows {
public:
    explicit FloorRows(const std::vector<Row>& rows) : m_rows(rows) {
        for (const Row& r : rows) {
            m_lines.emplace_back(r.points);
            m_along.push_back(arcLengths(r.points));
            m_longest = std::max(m_longest, m_along.back().back());
        }
    }
    /// The level of the nearest row.
    [[nodiscard]] double levelAt(const Vec3& p) const {
        const auto [row, foot] = nearest(p, 0.0);
        return row < m_rows.size() ? m_rows[row].level : 0.5;
    }
    /// The share of the way through at which a place lies. Short rows, that only fill gaps, do not say it.
    [[nodiscard]] double alongAt(const Vec3& p) const {
        constexpr double kThrough = 0.6;
        const auto [row, segment] = nearest(p, kThrough * m_longest);
        if (row == m_rows.size()) return 0.0;
        const Vec3 &a = m_rows[row].points[segment], &b = m_rows[row].points[segment + 1];
        const double share = (b - a).squaredNorm() > 0.0 ? std::clamp((p - a).dot(b - a) / (b - a).squaredNorm(), 0.0, 1.0) : 0.0;
        const auto& along = m_along[row];
        return (along[segment] + share * (along[segment + 1] - along[segment])) / std::max(along.back(), 1e-9);
    }

private:
    /// Of those that are so long, with its segment.
    [[nodiscard]] std::pair<std::size_t, std::size_t> nearest(const Vec3& p, double length) const {
        std::pair<std::size_t, std::size_t> out{m_rows.size(), 0};
        double least = 1e300;
        for (std::size_t i = 0; i < m_rows.size(); ++i) {
            if (m_rows[i].points.size() < 2 || m_along[i].back() < length) continue;
            const auto foot = m_lines[i].nearest(p, least);
            if (foot.distance >= least) continue;
            least = foot.distance;
            out = {i, foot.segment};
        }
        return out;
    }
    const std::vector<Row>& m_rows;
    std::vector<PolylineDistance> m_lines;
    std::vector<std::vector<double>> m_along;
    double m_longest = 0.0;
};

// Rows of a side begin and end where its foot does, as the floor's rows count it.
void placeAlong(const Part& part, const Sheet& side, const FloorRows& floor, std::vector<Row>& rows) {
    const auto chain = chainOf(part, side.foot);
    if (!chain || chain->closed) return;
    const Polyline foot = chainLine(part, *chain);
    for (Row& row : rows) {
        const bool along = (row.points.front() - foot.front()).norm() + (row.points.back() - foot.back()).norm() <
                           (row.points.front() - foot.back()).norm() + (row.points.back() - foot.front()).norm();
        row.begins = floor.alongAt(along ? foot.front() : foot.back());
        row.ends = floor.alongAt(along ? foot.back() : foot.front());
    }
}

/// Where a side of what stands between belongs among the floor's rows.
struct Standing {
    double level = 0.5; ///< of the rows beside its foot
    bool below = true;  ///< does it look at the first wall?
};
Standing standingOf(const Part& part, const Sheet& side, const Passage& passage, const FloorRows& floor) {
    const auto lines = [&](const Numbers& foot) {
        std::vector<PolylineDistance> out;
        for (const int e : foot) out.emplace_back(part.edgeLine(e));
        return out;
    };
    const std::vector<PolylineDistance> first = lines(passage.first.foot), second = lines(passage.second.foot);
    const auto nearest = [](const std::vector<PolylineDistance>& all, const Vec3& p) {
        double d = 1e300;
        for (const auto& line : all) d = std::min(d, line.distance(p, d));
        return d;
    };
    Standing out;
    double sum = 0.0;
    int count = 0, towardFirst = 0;
    for (const int e : side.foot) {
        const int face = holds(side.faces, part.edges()[index(e)].faces[0]) ? part.edges()[index(e)].faces[0] : part.edges()[index(e)].faces[1];
        constexpr int kLooks = 8;
        constexpr double kOff = 0.1; // mm
        for (int k = 0; k < kLooks; ++k) {
            const SurfacePoint at = part.onEdge(e, (k + 0.5) / kLooks, face);
            sum += floor.levelAt(at.point);
            ++count;
            const Vec3 off = at.point + kOff * at.normal;
            towardFirst += nearest(first, off) - nearest(first, at.point) < nearest(second, off) - nearest(second, at.point) ? 1 : -1;
        }
    }
    out.level = sum / std::max(1, count);
    out.below = towardFirst >= 0;
    return out;
}

/// The rows of all sheets one after the other, as the pattern rises.
class Sequence {
public:
    void add(PatternResult&& sheet, std::optional<double> level) {
        int last = -1;
        for (Row& row : sheet.rows) {
            last = std::max(last, row.index);
            row.index += m_next;
            if (level) row.level = *level;
        }
        m_next += last + 1;
        append(m_out, std::move(sheet));
    }
    /// A stretch of the floor: all rows of these levels that are not added yet.
    void addFloor(std::vector<Row>& rows, double upTo) {
        std::map<int, int> number; // those that have one number keep one
        for (Row& row : rows) {
            if (row.points.empty() || row.level > upTo) continue;
            const auto [it, made] = number.try_emplace(row.index, m_next);
            if (made) ++m_next;
            row.index = it->second;
            m_out.rows.push_back(std::move(row));
            row = {};
        }
    }
    [[nodiscard]] PatternResult take() { return std::move(m_out); }

private:
    PatternResult m_out;
    int m_next = 0;
};

void inTurn(const PatternSpec& spec, PatternResult& out) {
    int last = 0;
    for (const Row& row : out.rows) last = std::max(last, row.index);
    std::stable_sort(out.rows.begin(), out.rows.end(), [&](const Row& a, const Row& b) { return turnOf(a.index, last, spec.start) < turnOf(b.index, last, spec.start); });
    const int first = out.rows.empty() ? 0 : out.rows.front().index;
    for (Row& row : out.rows) {
        // As they are laid the pattern rises to their left.
        const bool turned = spec.cut == RowCut::AsLaid ? spec.reversed : higherStands(row.index, last, spec.start) == (spec.cut == RowCut::Climb);
        runTheWay(row, spec, first, last, turned);
    }
    if (spec.pieces) inPieces(out, spec, last);
}

} // namespace

Result<PassageEdges> proposePassage(const Part& part, const Numbers& faces) {
    struct Stands {
        int face;
        Numbers foot;
        double length;
    };
    std::vector<Stands> all;
    for (const int f : faces) {
        Stands one{f, edgesBetween(part, {f}, without(faces, {f})), 0.0};
        const auto chains = chainsOf(part, one.foot);
        // What several lines join to the others lies between them.
        if (chains.size() != 1 || connected(part, without(faces, {f})).size() != 1 || upperEdges(part, f, one.foot).empty()) continue;
        one.length = chainLength(part, chains.front());
        all.push_back(std::move(one));
    }
    std::stable_sort(all.begin(), all.end(), [](const Stands& a, const Stands& b) { return a.length > b.length; });
    // Two that stand on each other are a corner.
    if (all.size() < 2 || !edgesBetween(part, {all[0].face}, {all[1].face}).empty())
        return fail("no two of the picked faces stand on the others", "rail 1", "Pick the walls, the floor between them, and the upper edges of the walls as rails");
    PassageEdges out;
    out.first = upperEdges(part, all[0].face, all[0].foot);
    out.second = upperEdges(part, all[1].face, all[1].foot);
    for (std::size_t i = 2; i < all.size(); ++i) {
        const Numbers upper = upperEdges(part, all[i].face, all[i].foot);
        out.between.insert(out.between.end(), upper.begin(), upper.end());
    }
    return out;
}

Result<PatternResult> layPassage(const Part& part, const Numbers& faces, const PatternSpec& spec, const RowCutter& cutter, Progress& progress, const RowHelp& help) {
    if (spec.order == RowOrder::Spiral) return fail("rows over walls and floor cannot be joined in a spiral", "Pattern", "Cut them one way, or back and forth");
    if (spec.by == RowsBy::Count) return fail("walls and floor have as many rows as they are wide", "Pattern", "Give the spacing, or the scallop");
    const auto passage = passageOf(part, faces, spec);
    if (!passage) return tl::unexpected(passage.error());
    PassageLayer layer(part, spec, cutter, progress, help, 3 + passage->between.size());
    auto floor = layer.floor(*passage);
    auto first = floor ? layer.side(passage->first, true, "first wall") : tl::unexpected(floor.error());
    auto second = first ? layer.side(passage->second, false, "second wall") : tl::unexpected(first.error());
    if (!second) return second;
    const FloorRows rows(floor->rows);
    std::vector<std::pair<Standing, PatternResult>> between;
    for (const Sheet& side : passage->between) {
        const Standing at = standingOf(part, side, *passage, rows);
        auto laid = layer.side(side, !at.below, "wall between");
        if (!laid) return laid;
        placeAlong(part, side, rows, laid->rows);
        between.emplace_back(at, std::move(*laid));
    }
    placeAlong(part, passage->first, rows, first->rows);
    placeAlong(part, passage->second, rows, second->rows);
    std::stable_sort(between.begin(), between.end(),
                     [](const auto& a, const auto& b) { return a.first.level != b.first.level ? a.first.level < b.first.level : a.first.below && !b.first.below; });
    Sequence sequence;
    sequence.add(std::move(*first), 0.0);
    std::vector<Row> left = std::move(floor->rows);
    floor->rows.clear();
    std::stable_sort(left.begin(), left.end(), [](const Row& a, const Row& b) { return a.level < b.level; });
    for (auto& [at, laid] : between) {
        sequence.addFloor(left, at.below ? at.level : at.level - 1e-6);
        sequence.add(std::move(laid), at.level);
    }
    sequence.addFloor(left, 2.0);
    sequence.add(std::move(*floor), std::nullopt);
    sequence.add(std::move(*second), 1.0);
    PatternResult out = sequence.take();
    if (out.rows.empty()) return fail(kNothingKept, "Pattern", "Let it keep more");
    inTurn(spec, out);
    return out;
}

} // namespace gyre
