// The model's part in picking for an operation: faces, rails, edges; and the first guess that follows the first pick.
#include "model/AppModel.h"
#include "proposal/AlongGuess.h"
#include "proposal/MillWork.h"
#include <algorithm>
#include <utility>

namespace gyre {

void AppModel::toggleFaces(const std::vector<int>& faces) {
    if (!recipe() || !m_place || !m_place->part || faces.empty()) return;
    const Part& part = *m_place->part;
    const bool ofAxis = m_pickMode == PickMode::AxisFaces;
    change(tr("pick faces"), [&](Job& j) {
        Recipe& r = *j.operation(m_selected.toStdString());
        auto& refs = ofAxis ? r.axis.faces : r.target.faces;
        std::vector<int> now = resolveFaces(part, refs).value_or(std::vector<int>{});
        const bool all = std::all_of(faces.begin(), faces.end(), [&](int f) { return std::find(now.begin(), now.end(), f) != now.end(); });
        for (int f : faces) {
            std::erase(now, f);
            if (!all) now.push_back(f);
        }
        std::sort(now.begin(), now.end());
        const bool first = refs.empty();
        refs.clear();
        for (int f : now) refs.push_back(part.faceRef(f));
        if (ofAxis) return;
        if (follows(r.kind)) {
            // Along a curve, with faces alone: down the middle of a channel.
            if (first && r.kind == OperationKind::Curve && r.target.edges.empty() && r.target.drawings.empty()) r.curve.by = CurveBy::Channel;
            r.pattern.rail1.clear();
            r.pattern.rail2.clear();
            if (first || r.curve.by == CurveBy::Channel) fitAlong(j, *m_place, r);
            return;
        }
        if (r.kind == OperationKind::Mill) {
            if (first) fitFirstPick(r, now, {}, j);
            return;
        }
        r.pattern.rail1.clear();
        r.pattern.rail2.clear();
        if (const auto rails = proposeRails(part, now)) {
            for (int e : rails->first.edges) r.pattern.rail1.push_back(part.edgeRef(e));
            for (int e : rails->second.edges) r.pattern.rail2.push_back(part.edgeRef(e));
        }
    });
}

// The first pick decides what kind of work this is, unless that was said; then everything follows from it.
void AppModel::fitFirstPick(Recipe& r, const std::vector<int>& faces, const std::vector<int>& edges, const Job& job) {
    if (std::exchange(m_shapeOpen, false)) {
        const Recipe fresh = proposeMill(job, *m_place, millShapeFor(*m_place->part, faces, edges));
        r.name = fresh.name;
        r.mill = fresh.mill;
        r.target.leave = fresh.target.leave;
    }
    fitMill(job, *m_place, r);
}

void AppModel::setRail(int which, const std::vector<int>& edges) {
    if (!recipe() || !m_place || !m_place->part) return;
    change(tr("pick rail %1").arg(which + 1), [&](Job& j) {
        Recipe& r = *j.operation(m_selected.toStdString());
        auto& rail = which == 0 ? r.pattern.rail1 : r.pattern.rail2;
        const bool first = rail.empty();
        rail.clear();
        for (int e : edges) rail.push_back(m_place->part->edgeRef(e));
        if (first && r.kind == OperationKind::Swarf) fitAlong(j, *m_place, r);
    });
}

void AppModel::toggleEdges(const std::vector<int>& edges, PickMode list) {
    if (!recipe() || !m_place || !m_place->part || edges.empty()) return;
    const Part& part = *m_place->part;
    change(list == PickMode::Profile ? tr("pick profile") : tr("pick edges"), [&](Job& j) {
        Recipe& r = *j.operation(m_selected.toStdString());
        auto& refs = list == PickMode::Profile ? r.target.profile : list == PickMode::AxisEdges ? r.axis.edges : r.target.edges;
        std::vector<int> now = resolveEdges(part, refs).value_or(std::vector<int>{});
        const bool first = now.empty(), all = std::all_of(edges.begin(), edges.end(), [&](int e) { return std::find(now.begin(), now.end(), e) != now.end(); });
        for (const int e : edges) {
            std::erase(now, e);
            if (!all) now.push_back(e);
        }
        refs.clear();
        for (const int e : now) refs.push_back(part.edgeRef(e));
        if (!first || list != PickMode::Edges) return;
        if (r.kind == OperationKind::Mill && r.target.faces.empty() && r.target.drawings.empty()) fitFirstPick(r, {}, now, j);
        if (follows(r.kind)) fitAlong(j, *m_place, r);
    });
}

} // namespace gyre
