#include "pattern/RowOrder.h"
#include "base/Parallel.h"
#include "geom/Box.h"
#include <algorithm>
#include <map>
#include <tuple>

namespace gyre {

void reverseRow(Row& r) {
    std::reverse(r.points.begin(), r.points.end());
    std::reverse(r.normals.begin(), r.normals.end());
    std::reverse(r.faces.begin(), r.faces.end());
}

int turnOf(int number, int last, RowStart start) {
    switch (start) {
    case RowStart::First:
        return number;
    case RowStart::Last:
        return -number;
    case RowStart::Middle:
        return number > last / 2 ? 2 * (number - last / 2) - 1 : 2 * (last / 2 - number);
    case RowStart::Outside:
        return number > last / 2 ? 2 * (last - number) + 1 : 2 * number;
    }
    return 0;
}

bool higherStands(int number, int last, RowStart start) {
    switch (start) {
    case RowStart::First:
        return true;
    case RowStart::Last:
        return false;
    case RowStart::Middle:
        return number >= last / 2;
    case RowStart::Outside:
        return number <= last / 2;
    }
    return true;
}

void runTheWay(Row& row, const PatternSpec& spec, int first, int last, bool turned) {
    const bool odd = spec.order == RowOrder::BackAndForth && (turnOf(row.index, last, spec.start) % 2) != 0;
    row.returning = odd;
    if (odd != turned) reverseRow(row);
    // Where one half of the rows is run against the other the axis leans to the same side of the part all the same.
    if (spec.cut != RowCut::AsLaid && !row.closed) row.returning = higherStands(row.index, last, spec.start) != higherStands(first, last, spec.start);
    // Where the pattern as such runs the other way, its length counts from there.
    if ((odd != turned) != row.returning) std::tie(row.begins, row.ends) = std::pair(1.0 - row.ends, 1.0 - row.begins);
}

namespace {

class Neighbours {
public:
    Neighbours(const std::vector<Row>& rows, double reach) : m_rows(rows), m_reach(reach), m_box(rows.size()), m_of(rows.size()) {
        for (std::size_t i = 0; i < rows.size(); ++i)
            for (const Vec3& p : rows[i].points) m_box[i].add(p);
        std::map<int, std::vector<std::size_t>> byNumber;
        for (std::size_t i = 0; i < rows.size(); ++i) byNumber[rows[i].index].push_back(i);
        std::vector<std::vector<std::size_t>> found(rows.size());
        parallelFor(rows.size(), 8, [&](std::size_t i) {
            constexpr int kApart = 3; // numbers: short rows between two that are wide apart have their own
            for (auto it = byNumber.upper_bound(rows[i].index); it != byNumber.end() && it->first <= rows[i].index + kApart; ++it)
                for (const std::size_t k : it->second)
                    if (beside(i, k)) found[i].push_back(k);
        });
        for (std::size_t i = 0; i < rows.size(); ++i)
            for (const std::size_t k : found[i]) {
                m_of[i].push_back(k);
                m_of[k].push_back(i);
            }
    }
    [[nodiscard]] const std::vector<std::size_t>& of(std::size_t i) const { return m_of[i]; }

private:
    /// Along a third of the shorter one at least: those that only meet at their ends lie behind each other.
    [[nodiscard]] bool beside(std::size_t a, std::size_t b) const {
        if (((m_box[a].low - m_box[b].high).array() > m_reach).any() || ((m_box[b].low - m_box[a].high).array() > m_reach).any()) return false;
        const bool swap = length(m_rows[a].points) > length(m_rows[b].points);
        const Polyline &shorter = m_rows[swap ? b : a].points, &longer = m_rows[swap ? a : b].points;
        const PolylineDistance to(longer);
        const std::vector<double> along = arcLengths(shorter);
        constexpr int kLooks = 9;
        int near = 0;
        for (int k = 0; k < kLooks; ++k) near += to.distance(pointAtLength(shorter, along, along.back() * (k + 0.5) / kLooks), m_reach) < m_reach ? 1 : 0;
        return 3 * near >= kLooks;
    }
    const std::vector<Row>& m_rows;
    double m_reach;
    std::vector<Box> m_box;
    std::vector<std::vector<std::size_t>> m_of;
};

} // namespace

void pieceByPiece(std::vector<Row>& rows, const std::vector<int>& turns, double reach, bool backAndForth) {
    if (rows.size() < 2) return;
    const Neighbours neighbours(rows, reach);
    std::vector<char> done(rows.size(), 0);
    const auto free = [&](std::size_t i) {
        return std::none_of(neighbours.of(i).begin(), neighbours.of(i).end(), [&](std::size_t k) { return !done[k] && turns[k] < turns[i]; });
    };
    const auto turned = [&](std::size_t i) { return backAndForth && !rows[i].closed && !rows[i].spiral; };
    const auto away = [&](std::size_t i, const Vec3& from) {
        const double d = (rows[i].points.front() - from).norm();
        return turned(i) ? std::min(d, (rows[i].points.back() - from).norm()) : d;
    };
    std::vector<Row> out;
    out.reserve(rows.size());
    std::vector<std::size_t> open; // nothing is left before these
    for (std::size_t i = 0; i < rows.size(); ++i)
        if (free(i)) open.push_back(i);
    std::size_t at = open.empty() ? 0 : open.front();
    std::optional<Vec3> end;
    while (out.size() < rows.size()) {
        Row& row = rows[at];
        if (end && turned(at) && (row.points.back() - *end).norm() < (row.points.front() - *end).norm()) {
            reverseRow(row);
            row.returning = !row.returning;
        }
        done[at] = 1;
        std::erase(open, at);
        end = row.closed ? row.points.front() : row.points.back();
        // On to the next beside it, or else to the nearest of all that may be next.
        std::size_t next = rows.size();
        for (const std::size_t k : neighbours.of(at)) {
            if (done[k] || !free(k)) continue;
            if (std::find(open.begin(), open.end(), k) == open.end()) open.push_back(k);
            if (turns[k] > turns[at] && (next == rows.size() || turns[k] < turns[next])) next = k;
        }
        out.push_back(std::move(row));
        if (next == rows.size())
            for (const std::size_t k : open)
                if (next == rows.size() || away(k, *end) < away(next, *end)) next = k;
        if (next == rows.size()) break;
        at = next;
    }
    rows = std::move(out);
}

void inPieces(PatternResult& rows, const PatternSpec& spec, int last) {
    constexpr double kBeside = 1.3; // times the widest step between neighbours
    std::vector<int> turns;
    for (const Row& row : rows.rows) turns.push_back(turnOf(row.index, last, spec.start));
    pieceByPiece(rows.rows, turns, kBeside * std::max(rows.spacing, rows.widestGap), spec.order == RowOrder::BackAndForth);
}

} // namespace gyre
