#include "model/Measures.h"
#include "base/Units.h"
#include "geom/MeshTree.h"
#include "model/AppModel.h"
#include "model/Picks.h"
#include "operation/OperationResult.h"
#include <algorithm>

namespace gyre {

Measures::Measures(AppModel& model) : ModelPart(model) {
    // Another part, another set-up: what was measured is no longer there.
    connect(&model, &AppModel::placeChanged, this, [this] {
        if (!m_all.empty()) putAway();
    });
}

void Measures::begin() {
    if (!hasPart()) return tell(tr("There is no part to measure."));
    m_before.reset();
    m_model.picks().ask({PickKind::Things, "measure", tr("Click a face or an edge to measure it; another one measures between them · Esc when done")});
}

void Measures::take(int face, int edge, const Vec3& at) {
    if (!hasPart()) return;
    const Part& part = *place()->part;
    const MeasuredThing thing{edge >= 0 ? -1 : face, edge, at};
    if (m_before) {
        m_all.push_back({*m_before, thing, measuredBetween(part, *m_before, thing), {}});
        m_before.reset();
    } else {
        m_all.push_back({thing, std::nullopt, measured(part, thing), {}});
        m_before = thing;
    }
    emit changed();
}

void Measures::fromTool() {
    const auto result = m_model.result();
    if (m_all.empty() || !hasPart()) return tell(tr("Measure a face first; then from the tool to it."));
    if (!result || !result->path() || result->path()->empty()) return tell(tr("The tool stands nowhere: choose an operation with a path."));
    const MeasuredThing thing = m_all.back().other ? *m_all.back().other : m_all.back().one;
    if (thing.face < 0) return tell(tr("From the tool a face can be measured; an edge cannot."));
    const std::size_t i = std::min(m_model.location(), result->path()->size() - 1);
    const AxisPose pose{result->path()->tip[i], result->path()->axis[i]};
    TriangleMesh mesh = place()->part->faceMesh(thing.face);
    mesh.faces.clear();
    const MeshTree tree(mesh);
    for (const Zone zone : {Zone::Cutter, Zone::Shank, Zone::Holder}) {
        std::vector<RoundedFrustum> pieces;
        for (const Piece& p : piecesOf(result->tool))
            if (p.zone == zone) pieces.push_back(p.shape);
        if (pieces.empty()) continue;
        const double d = tree.distance(pose, pieces.data(), pieces.size(), 1000.0);
        m_all.push_back({thing, std::nullopt, {{"distance", std::max(0.0, d), Measured::Unit::Length, pose.tip, thing.at}}, tr(zoneName(zone))});
    }
    emit changed();
}

void Measures::putAway() {
    m_all.clear();
    m_before.reset();
    emit changed();
}

QString Measures::words(const Measured& fact) const {
    const bool inches = m_model.inches();
    const QString what = tr(fact.what.c_str());
    switch (fact.unit) {
    case Measured::Unit::Angle:
        return QString("%1 %2°").arg(what).arg(degrees(fact.value), 0, 'f', 3);
    case Measured::Unit::Area:
        return inches ? QString("%1 %2 in²").arg(what).arg(fact.value / (25.4 * 25.4), 0, 'f', 4) : QString("%1 %2 mm²").arg(what).arg(fact.value, 0, 'f', 2);
    case Measured::Unit::Length:
        break;
    }
    const LengthUnit unit = inches ? LengthUnit::Inch : LengthUnit::Millimetre;
    return QString("%1 %2 %3").arg(what, QString::fromStdString(formatLength(fact.value, unit, 3)), unitSuffix(unit));
}

QString Measures::words(const Entry& entry) const {
    QStringList out;
    if (!entry.tool.isEmpty()) out << entry.tool;
    for (const Measured& f : entry.facts) out << words(f);
    return out.join(QString::fromUtf8(" · "));
}

} // namespace gyre
