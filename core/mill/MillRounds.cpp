// Whole round parts about their axis; roughing is handed on.
#include "mill/Miller.h"
#include "mill/Rough.h"

namespace gyre {

// A whole round part: rings or one spiral, the cutter let down on the model everywhere.
Status Miller::roundPart() {
    if (!m_sheet.wrapped) return fail("a whole round needs an axis", {}, "Choose round X, round Y or round Z");
    if (!m_in.model) return fail("there is no model to measure the depth from");
    double from = m_spec.from, to = m_spec.to;
    if (std::abs(to - from) < 1e-9) {
        from = 1e300;
        to = -1e300;
        for (const Vec3& p : m_in.part->mesh().points) {
            from = std::min(from, m_sheet.flat(p).x());
            to = std::max(to, m_sheet.flat(p).x());
        }
    }
    double top = 0.0;
    for (const Vec3& p : m_in.part->mesh().points) top = std::max(top, m_sheet.flat(p).z());
    if (m_spec.topBy == MillTop::Stock)
        for (const MeshTree* stock : m_in.stock)
            for (const auto& t : stock->triangles())
                for (const Vec3& p : t) top = std::max(top, m_sheet.flat(p).z());
    MillSpec deep = m_spec;
    deep.depthBy = MillDepth::Model;
    m_spec = deep;
    if (auto ok = setDepth(m_spec.topBy == MillTop::Typed ? m_spec.top : top, 0.0); !ok) return ok;
    // The picked faces are bosses: the cutter stays further off them than off the rest.
    if (!m_in.faces.empty()) {
        TriangleMesh bosses;
        for (int f : m_in.faces) bosses.append(m_in.part->faceMesh(f));
        m_bosses = MeshTree(bosses);
    }
    // What is still to be cut lies ahead, at larger x: on the right of a way around along +y.
    const double turn = (m_spec.climb ? 1.0 : -1.0) * m_sheet.turn();
    const int n = std::max(1, static_cast<int>(std::ceil((to - from) / m_spec.stepover - 1e-9)));
    Line line;
    switch (m_spec.lines) {
    case MillLines::Spiral:
        line = {Vec2(from, 0.0), Vec2(from, turn), Vec2(to, turn * (n + 1)), Vec2(to, turn * (n + 2))};
        break;
    case MillLines::Rings: // on and on the same way round, one step along between two turns
        for (int i = 0; i <= n; ++i) {
            const double x = from + (to - from) * i / n;
            line.push_back(Vec2(x, turn * i));
            line.push_back(Vec2(x, turn * (i + 1)));
        }
        break;
    case MillLines::Lines: { // lengthwise, there and back
        const int strokes = std::max(3, static_cast<int>(std::ceil(std::abs(turn) / m_spec.stepover - 1e-9)));
        for (int i = 0; i < strokes; ++i) {
            const double y = turn * i / strokes;
            line.push_back(Vec2(i % 2 ? to : from, y));
            line.push_back(Vec2(i % 2 ? from : to, y));
        }
        break;
    }
    }
    m_out.curves.push_back(line);
    const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
    m_out.levels = levels.size();
    const Line fine = dense(line);
    for (std::size_t k = 0; k < levels.size(); ++k) {
        FlatPass pass;
        pass.level = static_cast<int>(k);
        for (const Vec2& p : fine) add(pass, p, levels[k], Motion::Cut);
        m_out.flat.push_back(std::move(pass));
    }
    return {};
}

Status Miller::rough() {
    RoughInput in{m_in, m_sheet, m_tool, m_radius, m_leave, m_chord};
    auto made = roughOn(in, m_spec, m_progress);
    if (!made) return tl::unexpected(made.error());
    m_top = m_out.top = made->top;
    m_bottom = m_out.bottom = made->bottom;
    m_out.levels = made->levels;
    m_out.target = made->target;
    m_out.flat = std::move(made->passes);
    for (Finding& f : made->findings) m_out.findings.push_back(std::move(f));
    return {};
}

} // namespace gyre
