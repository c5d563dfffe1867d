#include "milling/Rings.h"
#include <algorithm>

namespace gyre {
namespace {

struct Node {
    Region piece;
    std::vector<std::size_t> children;
};

class Ringer {
public:
    Ringer(const Region& centre, const Region& outside, const ClearingSpec& spec) : m_centre(centre), m_outside(outside), m_spec(spec) {}

    std::vector<ClearingWay> run() {
        for (const Region& piece : pieces(m_centre)) {
            m_at.reset();
            m_whole = &piece;
            visit(build(piece, 0));
        }
        // Corners between rings that no ring came near.
        const Region left = grown(leftBy(m_ways, m_centre, m_spec.cutterRadius), -0.01);
        for (const Region& piece : pieces(common(grown(left, 0.01), m_centre))) {
            if (piece.area() < 1e-3) continue;
            ring(piece.loops.front(), nullptr);
        }
        return std::move(m_ways);
    }

private:
    std::size_t build(const Region& piece, int depth) {
        const std::size_t me = m_nodes.size();
        m_nodes.push_back({piece, {}});
        if (depth > 5000) return me;
        // Always from the whole: offsets of offsets gather errors. Of what lies that deep, the pieces inside of this one.
        std::vector<Region> inner;
        for (Region& r : pieces(grown(*m_whole, -m_spec.step * (depth + 1))))
            if (piece.contains(r.loops.front().front())) inner.push_back(std::move(r));
        // A last ring where the middle would stay.
        if (inner.empty() && m_spec.step > 0.9 * m_spec.cutterRadius) inner = pieces(grown(piece, -0.5 * m_spec.step));
        for (const Region& r : inner) {
            const std::size_t child = build(r, depth + 1);
            m_nodes[me].children.push_back(child);
        }
        return me;
    }

    void visit(std::size_t node) {
        const std::vector<std::size_t> children = m_nodes[node].children;
        for (std::size_t i = 0; i < children.size(); ++i) {
            if (i > 0) m_at.reset(); // between two middles nothing is cut yet
            visit(children[i]);
        }
        const Region& piece = m_nodes[node].piece;
        for (const Loop& l : piece.loops) ring(l, &piece);
    }

    // The border of the region has what is to be cut on its right when run as it is: climb milling.
    void ring(Loop loop, const Region* piece) {
        if (!m_spec.climb) std::reverse(loop.begin(), loop.end());
        const std::size_t n = loop.size();
        if (!m_at) begin(loop, piece);
        std::size_t best = 0;
        for (std::size_t i = 1; i < n; ++i)
            if ((loop[i] - *m_at).squaredNorm() < (loop[best] - *m_at).squaredNorm()) best = i;
        if (!m_started) {
            if (!m_centre.containsWay(*m_at, loop[best])) {
                begin(loop, piece);
                best = 0;
                if (m_ways.back().entry != ClearingWay::Entry::Ring)
                    for (std::size_t i = 1; i < n; ++i)
                        if ((loop[i] - *m_at).squaredNorm() < (loop[best] - *m_at).squaredNorm()) best = i;
            }
        }
        std::rotate(loop.begin(), loop.begin() + static_cast<std::ptrdiff_t>(best), loop.end());
        ClearingWay& way = m_ways.back();
        way.points.insert(way.points.end(), loop.begin(), loop.end());
        way.points.push_back(loop.front());
        if (m_started && way.entry == ClearingWay::Entry::Ring) way.ringEnd = way.points.size() - 1;
        m_started = false;
        m_at = loop.front();
    }

    void begin(const Loop& loop, const Region* piece) {
        ClearingWay way;
        m_started = true;
        m_at = loop.front();
        // From outside, where there is an outside.
        for (const Region& out : pieces(m_outside)) {
            const Vec2 from = deepestPoint(out);
            const auto nearest =
                std::min_element(loop.begin(), loop.end(), [&](const Vec2& a, const Vec2& b) { return (a - from).squaredNorm() < (b - from).squaredNorm(); });
            if (!m_centre.containsWay(from, *nearest)) continue;
            if (way.entry == ClearingWay::Entry::Air && (way.points.front() - *nearest).norm() <= (from - *nearest).norm()) continue;
            way.entry = ClearingWay::Entry::Air;
            way.points = {from};
            way.lead = 1;
            m_at = from;
        }
        if (way.entry != ClearingWay::Entry::Air && piece && m_spec.helixRadius > 0.0) {
            const Vec2 middle = deepestPoint(*piece);
            const double room = piece->contains(middle) ? std::min(m_spec.helixRadius, m_centre.distanceToBorder(middle)) : 0.0;
            const auto nearest =
                std::min_element(loop.begin(), loop.end(), [&](const Vec2& a, const Vec2& b) { return (a - middle).squaredNorm() < (b - middle).squaredNorm(); });
            if (room > 0.15 * m_spec.cutterRadius && m_centre.containsWay(middle, *nearest)) {
                way.entry = ClearingWay::Entry::Helix;
                way.helixAt = middle;
                way.helixRadius = room;
                m_at = middle;
            }
        }
        m_ways.push_back(way);
    }

    const Region &m_centre, &m_outside;
    const ClearingSpec& m_spec;
    const Region* m_whole = nullptr; ///< the connected area that is cleared now
    std::vector<Node> m_nodes;
    std::vector<ClearingWay> m_ways;
    std::optional<Vec2> m_at;
    bool m_started = false;
};

} // namespace

std::vector<ClearingWay> ringsIn(const Region& centre, const Region& outside, const ClearingSpec& spec) {
    if (centre.empty()) return {};
    return Ringer(centre, outside, spec).run();
}

std::vector<ClearingWay> strokesIn(const Region& centre, const Region& outside, const ClearingSpec& spec, double angle, bool around) {
    std::vector<ClearingWay> ways;
    if (centre.empty()) return ways;
    const Vec2 along(std::cos(angle), std::sin(angle)), across(-along.y(), along.x());
    double low = 1e300, high = -1e300, left = 1e300, right = -1e300;
    for (const Loop& l : centre.loops)
        for (const Vec2& p : l) {
            low = std::min(low, p.dot(across));
            high = std::max(high, p.dot(across));
            left = std::min(left, p.dot(along));
            right = std::max(right, p.dot(along));
        }
    // The outermost strokes lie just inside, the others evenly between.
    constexpr double kRim = 0.002;
    const int n = std::max(1, static_cast<int>(std::ceil((high - low - 2 * kRim) / spec.step)));
    std::optional<Vec2> at;
    for (int i = 0; i <= n; ++i) {
        const double y = low + kRim + (high - low - 2 * kRim) * i / n;
        std::vector<Line> parts = linesInside({{(left - 1.0) * along + y * across, (right + 1.0) * along + y * across}}, centre);
        for (Line& l : parts)
            if (l.front().dot(along) > l.back().dot(along)) std::reverse(l.begin(), l.end());
        std::sort(parts.begin(), parts.end(), [&](const Line& a, const Line& b) { return a.front().dot(along) < b.front().dot(along); });
        if (i % 2) {
            std::reverse(parts.begin(), parts.end());
            for (Line& l : parts) std::reverse(l.begin(), l.end());
        }
        for (const Line& l : parts) {
            if (!at || !centre.containsWay(*at, l.front())) {
                ClearingWay way;
                way.entry = outside.contains(l.front() + 0.01 * (l[1] - l[0]).normalized()) ? ClearingWay::Entry::Air : ClearingWay::Entry::Ring;
                ways.push_back(way);
            }
            ways.back().points.insert(ways.back().points.end(), l.begin(), l.end());
            at = l.back();
        }
    }
    // Along walls the ends of strokes leave cusps: once round takes them.
    if (around)
        for (Loop l : centre.loops) {
            if (!spec.climb) std::reverse(l.begin(), l.end());
            ClearingWay& way = ways.emplace_back();
            way.entry = ClearingWay::Entry::Ring;
            way.points = l;
            way.points.push_back(l.front());
            way.ringEnd = l.size();
        }
    return ways;
}

Region leftBy(const std::vector<ClearingWay>& ways, const Region& centre, double cutterRadius) {
    std::vector<Line> lines;
    for (const ClearingWay& w : ways)
        if (w.points.size() > 1) lines.push_back(w.points);
    constexpr double kFine = 0.004; // mm: thinner slivers are not looked for
    const Region covered = aroundLines(lines, cutterRadius, kFine);
    const Region left = without(grown(centre, cutterRadius - 0.002, kFine), covered);
    return grown(grown(left, -0.006, kFine), 0.006, kFine);
}

} // namespace gyre
