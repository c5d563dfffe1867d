// The machine around the work: what moves together looks alike, and what is in the way goes by a key.
#include "Theme.h"
#include "machine/Machine.h"
#include "operation/Workplace.h"
#include "view/Matrix.h"
#include "view/View.h"
#include <algorithm>

namespace gyre {

namespace {

/// What moves together looks alike: quiet tones of the machine's own colour, one for each joint of the chain; the base is the darkest.
QColor toneOf(const Machine& machine, int link) {
    const Theme& t = theme();
    const std::vector<int> chain = machine.chain();
    const auto at = std::find(chain.begin(), chain.end(), link);
    if (at == chain.end()) return mixed(t.machine, t.ink, 0.16);
    const std::pair<QColor, double> tones[] = {{t.card, 0.45}, {t.slate, 0.3}, {t.ochre, 0.16}, {t.card, 0.2}, {t.slate, 0.5}, {t.ochre, 0.3}};
    const auto& [to, share] = tones[static_cast<std::size_t>(at - chain.begin()) % std::size(tones)];
    return mixed(t.machine, to, share);
}

} // namespace

QMatrix4x4 View::machineMatrix(const Solid& body) const {
    const Machine& machine = *m_model.place()->machine;
    if (!m_atMachine) return qt((machine.workFrame * m_model.place()->partFrame).inverse());
    return qt(linkMotion(machine, body.link, joints().value_or(JointValues(machine.joints.size(), 0.0))));
}

Shown View::machineShown(const QString& body) const {
    if (const auto it = m_machineShown.find(body); it != m_machineShown.end()) return it->second;
    const auto solid = std::find_if(m_machine.begin(), m_machine.end(), [&](const Solid& s) { return QString::fromStdString(s.name) == body; });
    return solid != m_machine.end() && solid->role == "bed" ? Shown::Faded : Shown::Solid;
}

// At the part, what the part stands on alone.
void View::drawMachine() {
    const auto place = m_model.place();
    if (!place) return;
    constexpr float kFaded = 0.25f;
    for (const bool faded : {false, true}) // what is seen through comes last
        for (Solid& s : m_machine) {
            const Shown shown = machineShown(QString::fromStdString(s.name));
            if (shown == Shown::Hidden || (shown == Shown::Faded) != faded || (!m_atMachine && s.link != place->machine->workJoint)) continue;
            m_picture.draw(s.mesh, machineMatrix(s), toneOf(*place->machine, s.link), faded ? kFaded : 1.0f);
        }
}

QString View::machineBodyAt(const QPointF& pixel) const {
    const auto place = m_model.place();
    if (!m_atMachine || !place) return {};
    const Camera::Ray ray = m_camera.ray(pixel);
    const auto met = [&](const MeshTree& tree, const QMatrix4x4& where) {
        const QMatrix4x4 back = where.inverted();
        const QVector3D o = back.map(QVector3D(static_cast<float>(ray.origin.x()), static_cast<float>(ray.origin.y()), static_cast<float>(ray.origin.z()))),
                        d = back.mapVector(
                            QVector3D(static_cast<float>(ray.direction.x()), static_cast<float>(ray.direction.y()), static_cast<float>(ray.direction.z())));
        const RayHit hit = tree.ray({o.x(), o.y(), o.z()}, Vec3(d.x(), d.y(), d.z()).normalized());
        return hit.hit ? hit.distance : 1e300;
    };
    double nearest = 1e300;
    for (const PlacedBody& b : place->bodies)
        if (m_model.shown(QString::fromStdString(b.role)) != Shown::Hidden) nearest = std::min(nearest, met(b.shape->tree(), partMatrix()));
    QString name;
    for (const Solid& s : m_machine) {
        if (machineShown(QString::fromStdString(s.name)) == Shown::Hidden) continue;
        if (const double d = met(*s.tree, machineMatrix(s)); d < nearest) {
            nearest = d;
            name = QString::fromStdString(s.name);
        }
    }
    return name;
}

QString View::machineWords(const QPointF& pixel) const {
    const QString body = machineBodyAt(pixel);
    if (body.isEmpty()) return {};
    return machineShown(body) == Shown::Solid ? tr("%1 · B: see through it").arg(body) : tr("%1 · B: hide it").arg(body);
}

QString View::cycleMachineBody() {
    const QString body = machineBodyAt(m_cursor);
    if (body.isEmpty()) return {};
    const Shown next = machineShown(body) == Shown::Solid ? Shown::Faded : Shown::Hidden;
    m_machineShown[body] = next;
    hover(m_cursor); // what lies behind it now
    redraw();
    return next == Shown::Faded ? tr("%1: seen through. B once more hides it, Shift+B shows all of the machine.").arg(body)
                                : tr("%1: hidden. Shift+B shows all of the machine.").arg(body);
}

bool View::showWholeMachine() {
    if (m_machineShown.empty()) return false;
    m_machineShown.clear();
    hover(m_cursor);
    redraw();
    return true;
}

} // namespace gyre
