// Facings and pockets: strokes and rings in areas with walls, islands and open sides.
#include "base/Units.h"
#include "milling/Miller.h"
#include <fmt/format.h>

namespace gyre {

Status Miller::area() {
    auto picked = floorOf(m_in, m_sheet, kRegionTolerance);
    if (!picked) return tl::unexpected(picked.error());
    Floor& floor = *picked;
    m_out.target = floor.area;
    if (auto ok = setDepth(topOver(floor.area, floor.top), floor.level); !ok) return ok;
    const bool strokes = m_spec.shape == MillShape::Face;
    const double keep = m_radius + m_leave;
    const Region whole = united(floor.area, beyondOpen(floor, m_radius + kOver));
    Region centre = without(whole, aroundLines(floor.walls, keep - 1e-4));
    if (floor.open.empty()) centre = common(centre, grown(floor.area, -keep));
    if (centre.empty() || common(grown(centre, m_radius - 1e-3), floor.area).area() < 0.5 * floor.area.area())
        return fail(fmt::format("the cutter Ø{:g} does not fit in", m_tool.cutter.diameter), {},
                    m_leave > 0.0 ? "Choose a smaller cutter, or leave less" : "Choose a smaller cutter");
    const Region outside = floor.open.empty() ? Region{} : without(centre, grown(floor.area, m_radius + 0.5 * kOver));
    double step = m_spec.stepover;
    if (m_sheet.wrapped && m_spec.scallop > 0.0 && m_tool.cutter.shape == CutterShape::Flat)
        step = std::min(step, m_sheet.radius * roundStep(m_sheet.radius + m_bottom, m_spec.scallop));
    if (m_sheet.wrapped && m_tool.cutter.shape == CutterShape::Flat)
        m_out.scallop = roundScallop(m_sheet.radius + m_bottom, std::min(step, 2.0 * m_radius) / m_sheet.radius);
    const ClearingSpec clearing{step, m_radius, m_spec.climb, 0.8 * m_radius};
    const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
    m_out.levels = levels.size();
    for (const Region& piece : pieces(centre)) {
        if (m_progress.cancelled()) return cancelledError();
        const std::vector<ClearingWay> ways =
            strokes ? strokesIn(piece, common(outside, piece), clearing, radians(m_spec.along), !floor.walls.empty()) : ringsIn(piece, common(outside, piece), clearing);
        const Region left = common(leftBy(ways, piece, m_radius), floor.area);
        if (left.area() > 0.05)
            tell(Rank::Look, "left-between", fmt::format("{:.1f} mm² stay between the passes", left.area()), "the step is too wide for this cutter there",
                 m_sheet.point({left.loops[0][0].x(), left.loops[0][0].y(), m_bottom}), left.area());
        double from = m_top;
        for (std::size_t k = 0; k < levels.size(); ++k) {
            for (const ClearingWay& w : ways) m_out.flat.push_back(passOf(w, from, levels[k], static_cast<int>(k)));
            if (m_sheet.wrapped && m_spec.parallel && !strokes) wallPasses(floor, piece, keep, levels[k], static_cast<int>(k));
            from = levels[k];
        }
    }
    const Region reached = grown(centre, m_radius + m_leave + 0.003);
    const Region missed = without(floor.area, reached);
    m_out.leftOver = missed.area();
    if (m_out.leftOver > 0.01) {
        const auto& l = missed.loops.front();
        tell(Rank::Note, "corners-left", fmt::format("{:.1f} mm² of corners stay: the cutter is rounder than they are", m_out.leftOver),
             "a smaller cutter can go into them afterwards", m_sheet.point({l[0].x(), l[0].y(), m_bottom}), m_out.leftOver);
    }
    return {};
}

// Straight out over open sides. Corners between two stretches are filled, ends are not: behind them stands material.
Region Miller::beyondOpen(const Floor& floor, double by) const {
    if (floor.walls.empty()) return grown(floor.area, by);
    std::vector<Loop> all;
    for (const Line& l : floor.open) {
        std::optional<Vec2> last;
        for (std::size_t i = 0; i + 1 < l.size(); ++i) {
            const Vec2 d = l[i + 1] - l[i];
            if (d.norm() < 1e-6) continue;
            const Vec2 n = leftOf(d.normalized()), middle = 0.5 * (l[i] + l[i + 1]);
            const double side = floor.area.contains(middle + 1e-3 * n) ? -1.0 : 1.0;
            const Vec2 away = side * by * n, back = -0.01 * side * n;
            all.push_back({l[i] + back, l[i + 1] + back, l[i + 1] + away, l[i] + away});
            if (last) all.push_back({l[i] + back, l[i] + *last, l[i] + away});
            last = away;
        }
    }
    return unitedAll(all);
}

// The wall once more, with the axis along the radius at the wall itself: no lean is left on it.
void Miller::wallPasses(const Floor& floor, const Region& centre, double keep, double height, int level) {
    std::vector<Line> rims;
    for (Loop l : centre.loops) {
        if (!m_spec.climb) std::reverse(l.begin(), l.end());
        l.push_back(l.front());
        rims.push_back(l);
    }
    const auto nearest = [&](const Vec2& p) {
        LinePlace best;
        for (const Line& w : floor.walls)
            if (const LinePlace here = nearestOn(w, p); here.distance < best.distance) best = here;
        return best.distance < 1e300 ? best.point : p;
    };
    for (const Line& l : rims) {
        FlatPass pass;
        pass.level = level;
        for (const Vec2& p : l) {
            const Vec2 wall = nearest(p), off = p - wall;
            if (off.norm() > keep + 0.05) continue; // an open side
            // The floor's curvature: the shifted foot must still reach the floor, not go below it.
            add(pass, wall, height, Motion::Cut, off, off.normalized());
        }
        pass.closed = pass.points.size() == l.size();
        if (pass.points.size() > 1) m_out.flat.push_back(std::move(pass));
    }
}

} // namespace gyre
