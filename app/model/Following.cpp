// The model's part in work along walls, curves and edges.
#include "job/FollowGuess.h"
#include "model/AppModel.h"

namespace gyre {

void AppModel::addFollow(OperationKind kind, BreakEdges edges) {
    if (!hasJob() || !m_place || !m_place->part) return emit toldUser(tr("Open a part first."));
    const Recipe r = proposeFollow(job(), *m_place, kind, edges);
    change(tr("new operation"), [&](Job& j) { j.route.push_back(r); });
    select(QString::fromStdString(r.id));
    setBench(Bench::Cut);
    const bool needsFaces = kind == OperationKind::Swarf || edges == BreakEdges::Faces,
               needsEdges = kind == OperationKind::Curve || (kind == OperationKind::Edge && edges == BreakEdges::Picked);
    setPickMode(needsFaces ? PickMode::Faces : needsEdges ? PickMode::Edges : PickMode::None);
}

void AppModel::setFollowWord(const QString& key, const QString& value) {
    if (!recipe() || !m_place) return;
    Job next = job();
    if (auto ok = gyre::setWord(next, m_selected.toStdString(), key.toStdString(), value.toStdString()); !ok)
        return emit toldUser(QString::fromStdString(ok.error().text()));
    fitFollow(next, *m_place, *next.operation(m_selected.toStdString()));
    change(tr("change %1").arg(key), [&](Job& j) { j = next; });
    const Recipe& r = *recipe();
    if (r.kind == OperationKind::Edge && r.edge.edges == BreakEdges::Picked) setPickMode(PickMode::Edges);
    if (r.kind == OperationKind::Edge && r.edge.edges == BreakEdges::Faces) setPickMode(PickMode::Faces);
    if (r.kind == OperationKind::Curve && r.curve.by == CurveBy::Channel) setPickMode(PickMode::Faces);
    if (r.kind == OperationKind::Swarf && r.swarf.fromRails) setPickMode(PickMode::Rail1);
}

void AppModel::addAxisKey(double at) {
    if (!recipe()) return;
    change(tr("add axis key"), [&](Job& j) {
        AxisSpec& a = j.operation(m_selected.toStdString())->axis;
        const LeadTilt now = keyed(a.keys, at, 0.0, -1);
        a.keys.push_back({at, at, -1, degrees(now.lead), degrees(now.tilt)});
        std::stable_sort(a.keys.begin(), a.keys.end(), [](const AxisKey& x, const AxisKey& y) { return x.at < y.at; });
    });
}

void AppModel::setAxisKey(std::size_t key, const AxisKey& to) {
    if (!recipe() || key >= recipe()->axis.keys.size() || recipe()->axis.keys[key] == to) return;
    change(
        tr("move axis key"), [&](Job& j) { j.operation(m_selected.toStdString())->axis.keys[key] = to; }, QString("axis.key.%1").arg(key));
}

void AppModel::removeAxisKey(std::size_t key) {
    if (!recipe() || key >= recipe()->axis.keys.size()) return;
    change(tr("remove axis key"), [&](Job& j) {
        auto& keys = j.operation(m_selected.toStdString())->axis.keys;
        keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(key));
    });
}

const std::vector<int>& AppModel::wallOf(int face) const {
    if (m_wallOf.first != face || m_wallOf.second.second != m_place->looks) m_wallOf = {face, {wallFaces(*m_place->part, face), m_place->looks}};
    return m_wallOf.second.first;
}

} // namespace gyre
