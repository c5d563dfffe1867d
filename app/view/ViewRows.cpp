// What the 3D view uploads of rows and of the way of the tool.
#include "Theme.h"
#include "along/Along.h"
#include "link/Link.h"
#include "model/Along.h"
#include "model/RowsAhead.h"
#include "model/Variants.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "swarf/SwarfSpec.h"
#include "view/View.h"
#include <algorithm>
#include <cmath>

namespace gyre {

// Results share the stages that an edit did not touch; only what is new is uploaded.
void View::uploadPath() {
    m_pathOld = false;
    uploadTool();
    const auto result = m_model.result();
    const auto renewed = [&](auto& shown, const auto& now) {
        const bool is = shown != now;
        shown = now;
        return is;
    };
    if (m_coloursOld) {
        m_coloursOld = false;
        m_featuresOld = true;
        m_shownPattern.reset();
        m_shownPasses.reset();
        m_shownLinks.reset();
    }
    const auto none = std::make_shared<const OperationResult>();
    const OperationResult& now = result ? *result : *none;
    if (renewed(m_shownPattern, now.pattern)) uploadRows();
    if (renewed(m_shownPasses, now.passes)) {
        uploadAxes();
        uploadDeviation();
    }
    if (renewed(m_shownLinks, now.links)) uploadCuts(now.hazards);
}

namespace {

/// Scales, mm a pixel, up to which a grade of lines is drawn, and every which row then is at least three pixels from the next.
struct Scale {
    double largestPixel, tolerance;
    int everyRow;
};
std::vector<Scale> scalesFor(double spacing) {
    std::vector<Scale> out;
    for (const double largest : {0.06, 0.12, 0.24, 0.48, 0.96, 1e9}) {
        int every = 1;
        while (every * spacing < 3.0 * std::min(largest, 8.0)) every *= 2;
        out.push_back({largest, largest > 0.06 ? std::min(largest, 0.5) / 12.0 : 0.0, every});
    }
    return out;
}

} // namespace

void View::uploadRows() {
    m_rows.clear();
    m_rails.reset();
    m_region.reset();
    if (!m_shownPattern) return;
    const auto result = m_model.result();
    const bool alike = result && result->kind == OperationKind::Surface && m_shownPattern->spacing > 0.0;
    for (const Scale& scale : scalesFor(alike ? m_shownPattern->spacing : 1e9)) {
        if (!m_rows.empty() && m_rows.back().everyRow == scale.everyRow) {
            m_rows.back().largestPixel = scale.largestPixel;
            continue;
        }
        m_rows.push_back({scale.largestPixel, scale.tolerance, scale.everyRow, nullptr, {}});
    }
    if (const TriangleMesh& region = m_shownPattern->region; !region.triangles.empty()) {
        TriangleMesh lifted = region; // a little above the faces, so that the two do not flicker through each other
        const double lift = m_model.place() && m_model.place()->part ? 3.0 * m_model.place()->part->deflection() : 0.05;
        for (std::size_t i = 0; i < lifted.points.size(); ++i) lifted.points[i] += lift * lifted.normals[i];
        m_region = std::make_shared<Renderer::Mesh>(lifted);
    }
    std::vector<Polyline> rails = m_model.along().syncLines();
    for (const Polyline& rail : m_shownPattern->rails) rails.push_back(rail);
    m_rails = std::make_shared<Renderer::Lines>(Renderer::segmentsOf(rails, theme().ochre));
}

namespace {

/// A row's way; a closed one comes back to where it began.
Polyline lineOf(const Row& row) {
    Polyline out = row.points;
    if (row.closed && !out.empty()) out.push_back(row.points.front());
    return out;
}

} // namespace

void View::uploadAhead() {
    m_ahead.reset();
    auto ahead = m_model.rowsAhead().rows();
    if (!ahead) ahead = m_model.variants().pointed();
    if (ahead) {
        std::vector<Polyline> lines;
        for (const Row& r : ahead->rows) lines.push_back(lineOf(r));
        m_ahead = std::make_shared<Renderer::Lines>(Renderer::segmentsOf(lines, theme().ochre));
    }
    redraw();
}

void View::layRows(CutLines& grade) const {
    const auto& rows = m_shownPattern->rows;
    std::vector<Polyline> lines;
    for (const Row& r : rows) {
        // The last one is drawn as the first one is: where the rows end is seen at every scale.
        if (r.index % grade.everyRow != 0 && r.index != rows.front().index && r.index != rows.back().index) continue;
        lines.push_back(lineOf(r));
    }
    grade.lines = std::make_shared<Renderer::Lines>(Renderer::segmentsOf(lines, theme().accent));
}

// From what cuts well to what is too much (the colour of unsafe) or stays (the colour of keys), against what is let pass.
void View::uploadDeviation() {
    m_off.reset();
    const auto result = m_model.result();
    if (!result || !result->along || result->along->map.empty()) return;
    const AlongResult& f = *result->along;
    const Recipe* recipe = m_model.recipe();
    const double most = std::max(1e-6, recipe ? recipe->swarf->tolerance : 0.02);
    const Theme& t = theme();
    std::vector<Renderer::Segment> segments;
    for (std::size_t i = 1; i < f.map.size(); ++i) {
        if (i % f.perLine == 0) continue;
        const double share = std::min(1.0, std::abs(f.map[i].off) / most);
        const QColor &a = t.accent, &b = f.map[i].off < 0.0 ? t.unsafe : t.ochre;
        const auto mix = [&](int x, int y) { return static_cast<int>(x + share * (y - x)); };
        for (const auto& s :
             Renderer::segmentsOf({{f.map[i - 1].point, f.map[i].point}}, QColor(mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue()))))
            segments.push_back(s);
    }
    m_off = std::make_shared<Renderer::Lines>(segments);
}

void View::uploadAxes() {
    m_axes.reset();
    if (!m_shownPasses) return;
    // Whiskers along the axis, at most a few thousand.
    std::size_t total = 0;
    for (const Pass& p : *m_shownPasses) total += p.path.size();
    const std::size_t every = std::max<std::size_t>(1, total / 2500);
    std::vector<Polyline> whiskers;
    std::size_t n = 0;
    for (const Pass& p : *m_shownPasses)
        for (std::size_t i = 0; i < p.path.size(); ++i)
            if (n++ % every == 0) whiskers.push_back({p.path.contact[i], p.path.contact[i] + 6.0 * p.path.axis[i]});
    m_axes = std::make_shared<Renderer::Lines>(Renderer::segmentsOf(whiskers, theme().slate));
}

Renderer::Segment View::segmentOf(const Vec3& a, const Vec3& b, DrawnAs stroke) {
    const Theme& t = theme();
    Renderer::Segment s{};
    for (int k = 0; k < 3; ++k) {
        s.from[k] = static_cast<float>(a[k]);
        s.to[k] = static_cast<float>(b[k]);
    }
    const QColor c = stroke == DrawnAs::Unsafe ? t.unsafe : stroke == DrawnAs::Cut ? t.accent : stroke == DrawnAs::Entry ? t.ochre : t.slate;
    s.colour[0] = static_cast<unsigned char>(c.red());
    s.colour[1] = static_cast<unsigned char>(c.green());
    s.colour[2] = static_cast<unsigned char>(c.blue());
    s.colour[3] = stroke == DrawnAs::Rapid ? 150 : 255;
    return s;
}

// In grades, each laid when it is first looked at: every move; then moves joined where that shifts the line by less than a sixth of a pixel, and from afar rows left out
// that would lie closer than three pixels. What is unsafe, enters or leaves is always drawn. A range of locations is a range of segments in each.
void View::uploadCuts(const std::vector<PathHazard>& hazards) {
    m_cuts.clear();
    m_drawnAs.clear();
    if (!m_shownLinks || m_shownLinks->path.size() < 2) return;
    const Toolpath& path = m_shownLinks->path;
    const std::size_t n = path.size();
    std::vector<DrawnAs>& stroke = m_drawnAs;
    stroke.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
        const Motion m = path.motion[i];
        stroke[i] = m == Motion::Cut                                                     ? DrawnAs::Cut
                    : m == Motion::LeadIn || m == Motion::LeadOut || m == Motion::Plunge ? DrawnAs::Entry
                    : m == Motion::Rapid                                                 ? DrawnAs::Rapid
                                                                                         : DrawnAs::Link;
    }
    for (const PathHazard& h : hazards)
        for (std::size_t i = h.first; i <= std::min(h.last, n - 1); ++i) stroke[i] = DrawnAs::Unsafe;
    // Only rows over faces are alike enough for some to stand for all.
    const auto result = m_model.result();
    const bool rows = result && result->kind == OperationKind::Surface && m_shownPattern && m_shownPattern->spacing > 0.0;
    for (const Scale& g : scalesFor(rows ? m_shownPattern->spacing : 1e9)) m_cuts.push_back({g.largestPixel, g.tolerance, g.everyRow, nullptr, {}});
}

void View::layCuts(CutLines& g) const {
    const Toolpath& path = m_shownLinks->path;
    const std::vector<DrawnAs>& stroke = m_drawnAs;
    const std::size_t n = path.size();
    // Cuts are drawn where they touch, everything else where the tip goes.
    const auto at = [&](std::size_t i) -> const Vec3& { return path.motion[i] == Motion::Cut ? path.contact[i] : path.tip[i]; };
    const auto from = [&](std::size_t i) -> const Vec3& {
        return path.motion[i] == Motion::Cut && path.motion[i - 1] != Motion::Cut ? path.contact[i]
               : path.motion[i] == Motion::Cut                                    ? path.contact[i - 1]
                                                                                  : path.tip[i - 1];
    };
    std::vector<Renderer::Segment> segments;
    for (std::size_t i = 1; i < n;) {
        std::size_t last = i;
        const auto joins = [&](std::size_t end) {
            if (stroke[end] != stroke[i] || path.row[end] != path.row[i] || path.motion[end] != path.motion[i] || end - i > 48) return false;
            for (std::size_t k = i; k < end; ++k)
                if (distanceToSegment(at(k), from(i), at(end)) > g.tolerance) return false;
            return true;
        };
        if (g.tolerance > 0.0)
            while (last + 1 < n && joins(last + 1)) ++last;
        if (stroke[i] != DrawnAs::Cut || path.row[i] % g.everyRow == 0) {
            segments.push_back(segmentOf(from(i), at(last), stroke[i]));
            g.last.push_back(last);
        }
        i = last + 1;
    }
    g.lines = std::make_shared<Renderer::Lines>(segments);
}

} // namespace gyre
