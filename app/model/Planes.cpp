#include "model/Planes.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "pattern/WhereSpec.h"
#include <algorithm>

namespace gyre {

void Planes::add(const WorkPlane& plane) {
    change(tr("add plane"), [&](Job& j) {
        j.planes.push_back(plane);
        if (plane.name.empty()) {
            j.planes.pop_back();
            WorkPlane named = plane;
            named.name = j.freshPlaneName();
            j.planes.push_back(named);
        }
    });
    emit m_model.featuresChanged();
}

void Planes::remove(std::size_t plane) {
    change(tr("remove plane"), [&](Job& j) { j.planes.erase(j.planes.begin() + static_cast<std::ptrdiff_t>(plane)); });
    emit m_model.featuresChanged();
}

void Planes::flip(std::size_t plane) {
    change(tr("flip plane"), [&](Job& j) { j.planes[plane] = flipped(j.planes[plane]); });
    emit m_model.featuresChanged();
}

QString Planes::reach(const WorkPlane& plane) const {
    if (!place()) return {};
    const ReachAnswer answer = reachOf(Kinematics(*place()->machine, place()->partFrame, 150.0), plane.normal);
    return QString::fromStdString(reachWords(*place()->machine, answer));
}

Status Planes::addByAngles(double aboutX, double aboutY, double aboutZ) {
    const auto plane = planeByAngles(Vec3::Zero(), aboutX, aboutY, aboutZ);
    if (!plane) return tl::unexpected(plane.error());
    add(*plane);
    return {};
}

void Planes::rename(std::size_t plane, const QString& name) {
    if (!hasJob() || plane >= job().planes.size() || name.trimmed().isEmpty()) return;
    const std::string to = name.trimmed().left(100).toStdString(), from = job().planes[plane].name;
    for (const WorkPlane& p : job().planes)
        if (p.name == to && to != from) return tell(tr("There is a plane of that name already."));
    change(tr("rename plane"), [&](Job& j) {
        j.planes[plane].name = to;
        for (JobBody& b : j.bodies) // drawings that lie on it
            if (b.plane == from) b.plane = to;
        for (auto* list : {&j.route, &j.variants})
            for (Recipe& r : *list) {
                if (r.mill->on == from) r.mill->on = to;
                if (r.where->plane == from) r.where->plane = to;
                std::replace(r.repeat->planes.begin(), r.repeat->planes.end(), from, to);
            }
    });
    emit m_model.featuresChanged();
}

} // namespace gyre
