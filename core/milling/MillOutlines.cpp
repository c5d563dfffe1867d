// Along walls and beside curves.
#include "milling/Miller.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

// Beside the walls of the picked floor, the outermost pass first.
Status Miller::besideWalls(std::vector<LineBeside>& out) {
    auto picked = floorOf(m_in, m_sheet, kRegionTolerance);
    if (!picked) return tl::unexpected(picked.error());
    m_out.target = picked->area;
    if (picked->walls.empty()) return fail("no wall stands on the picked floor", {}, "Pick a floor with walls, or edges");
    m_out.top = picked->top;
    m_out.bottom = picked->level;
    for (int k = std::clamp(m_spec.passes, 1, 1000) - 1; k >= 0; --k) {
        const double d = m_radius + m_leave + k * m_spec.stepover;
        const Region whole = united(picked->area, beyondOpen(*picked, d + kOver));
        Region centre = without(whole, aroundLines(picked->walls, d));
        if (picked->open.empty()) centre = common(centre, grown(picked->area, 1e-4 - d));
        const Region along = aroundLines(picked->walls, d + 0.003);
        for (Loop l : centre.loops) {
            l.push_back(l.front());
            std::vector<Line> parts = linesInside({l}, along);
            if (parts.size() == 2 && (parts[0].back() - parts[1].front()).norm() < 1e-3)
                parts = {joinedLines(parts[0], parts[1])};
            else if (parts.size() == 2 && (parts[1].back() - parts[0].front()).norm() < 1e-3)
                parts = {joinedLines(parts[1], parts[0])};
            for (Line& p : parts) {
                if (senseOn(p, l) < 0) std::reverse(p.begin(), p.end());
                if (!m_spec.climb) std::reverse(p.begin(), p.end());
                out.push_back({p, d});
            }
        }
    }
    return {};
}

Status Miller::besideCurves(std::vector<LineBeside>& out) {
    const auto curves = flatCurves(m_in, m_sheet, kRegionTolerance);
    if (curves.empty()) return fail("no edge and no floor is picked", {}, "Click the edges to go along");
    for (const auto& c : curves) {
        Line l;
        for (const Vec3& p : c) l.push_back(p.head<2>());
        m_out.curves.push_back(l);
        const bool closed = l.size() > 3 && (l.front() - l.back()).norm() < 0.02;
        for (int k = std::clamp(m_spec.passes, 1, 1000) - 1; k >= 0; --k) {
            const double d = m_radius + m_leave + k * m_spec.stepover;
            for (Line& p : beside(l, closed, d)) {
                out.push_back({std::move(p), d});
            }
        }
    }
    return {};
}

Status Miller::outline() {
    std::vector<LineBeside> lines;
    m_out.top = m_out.bottom = 0.0; // as picked
    if (auto ok = m_in.faces.empty() ? besideCurves(lines) : besideWalls(lines); !ok) return ok;
    if (lines.empty()) return fail(fmt::format("the cutter Ø{:g} does not fit in", m_tool.cutter.diameter), {}, "Choose a smaller cutter");
    if (auto ok = setDepth(topOver(m_out.target, m_out.top), m_out.bottom); !ok) return ok;
    m_bottom -= m_spec.beyond;
    m_out.bottom = m_bottom;
    const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
    m_out.levels = levels.size();
    for (const LineBeside& l : lines)
        for (std::size_t k = 0; k < levels.size(); ++k) {
            FlatPass pass;
            pass.level = static_cast<int>(k);
            const bool closed = (l.line.front() - l.line.back()).norm() < 1e-3;
            const auto t = tangents(l.line, closed);
            for (std::size_t n = 0; n < l.line.size(); ++n) {
                const Vec2 away = m_spec.climb ? leftOf(t[n]) : Vec2(-leftOf(t[n]));
                // Wrapped: the axis stands along the radius at the wall, the cutter is moved aside.
                if (m_sheet.wrapped && m_spec.parallel)
                    add(pass, l.line[n] - l.off * away, levels[k], Motion::Cut, l.off * away, away);
                else
                    add(pass, l.line[n], levels[k], Motion::Cut, Vec2::Zero(), away);
            }
            pass.closed = closed;
            m_out.flat.push_back(std::move(pass));
        }
    return {};
}

Line Miller::joinedLines(Line a, const Line& b) {
    a.insert(a.end(), b.begin() + 1, b.end());
    return a;
}

std::vector<Line> Miller::beside(const Line& curve, bool closed, double d) const {
    const bool inner = m_spec.side == MillSide::Inside;
    std::vector<Line> out;
    if (closed && (inner || m_spec.side == MillSide::Outside)) {
        Loop loop(curve.begin(), curve.end() - 1);
        Region r = regionOf({loop});
        r = grown(r, inner ? -d : d);
        for (Loop l : r.loops) {
            // Inside: material outside of the ring, on the right of a counter-clockwise run. Outside: the other way.
            if (!inner) std::reverse(l.begin(), l.end());
            if (!m_spec.climb) std::reverse(l.begin(), l.end());
            l.push_back(l.front());
            out.push_back(l);
        }
        return out;
    }
    const double side = m_spec.side == MillSide::Right || m_spec.side == MillSide::Outside ? -1.0 : 1.0;
    Line way;
    for (std::size_t i = 0; i + 1 < curve.size(); ++i) {
        const Vec2 t = (curve[i + 1] - curve[i]).normalized(), n = side * leftOf(t);
        if (!way.empty()) {
            // Around a corner that stands toward the cutter: an arc.
            const Vec2 from = way.back() - curve[i];
            const double turn = std::atan2(from.x() * n.y() - from.y() * n.x(), from.dot(n));
            if (turn * side < -1e-6) {
                const int steps = std::max(1, static_cast<int>(std::ceil(std::abs(turn) / (2.0 * std::acos(1.0 - std::min(0.5, m_chord / d))))));
                for (int k = 1; k < steps; ++k) {
                    const double a = turn * k / steps;
                    way.push_back(curve[i] + Vec2(from.x() * std::cos(a) - from.y() * std::sin(a), from.x() * std::sin(a) + from.y() * std::cos(a)));
                }
            }
        }
        way.push_back(curve[i] + d * n);
        way.push_back(curve[i + 1] + d * n);
    }
    // What comes nearer than asked at inner corners is left out.
    std::vector<Line> kept = linesOutside({way}, aroundLines({curve}, d - 0.002));
    for (Line& l : kept)
        if (senseOn(l, way) < 0) std::reverse(l.begin(), l.end());
    std::sort(kept.begin(), kept.end(), [&](const Line& a, const Line& b) { return nearestOn(way, a.front()).along < nearestOn(way, b.front()).along; });
    Line whole;
    for (const Line& l : kept)
        if (l.size() > 1) whole.insert(whole.end(), l.begin(), l.end());
    if (whole.size() < 2) return {};
    // The curve lies on the right of a way on its left side.
    if ((side > 0.0) != m_spec.climb) std::reverse(whole.begin(), whole.end());
    return {whole};
}

} // namespace gyre
