// Bodies moved and turned, the material, new tools.
#include "guard/Overlaps.h"
#include "model/AppModel.h"
#include "tool/Library.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

void AppModel::holdBody(int body) {
    if (hasJob() && body >= 0) {
        const auto& all = job().bodies;
        if (static_cast<std::size_t>(body) >= all.size() || !(all[static_cast<std::size_t>(body)].mayMove() || all[static_cast<std::size_t>(body)].role == "part"))
            body = -1;
    }
    if (body == m_heldBody) return;
    m_heldBody = body;
    emit heldChanged();
}

const PlacedBody* AppModel::placedBody(std::size_t body) const {
    if (!m_place || !hasJob() || body >= job().bodies.size()) return nullptr;
    const auto it = std::find_if(m_place->bodies.begin(), m_place->bodies.end(), [&](const PlacedBody& b) { return b.name == job().bodies[body].name; });
    return it == m_place->bodies.end() ? nullptr : &*it;
}

Frame AppModel::aheadOfPicture(std::size_t body) const {
    const PlacedBody* shown = placedBody(body);
    if (!shown) return Frame::Identity();
    if (job().bodies[body].role == "part") return m_place->partFrame.inverse() * job().partFrame();
    return (job().bodies[body].mayMove() ? job().bodies[body].placed() : Frame::Identity()) * shown->placed.inverse();
}

namespace {
constexpr double kFurthest = 1e4; // mm, as job files have it
double turnWithin(double degrees) { return std::clamp(std::abs(degrees) > 360.0 ? std::fmod(degrees, 360.0) : degrees, -360.0, 360.0); }
// Numbers a person can read; a ten thousandth of a mm or a degree is less than anybody sets up to.
double readable(double v) { return std::round(1e4 * v) / 1e4 + 0.0; }
} // namespace

void AppModel::placeBody(std::size_t body, const Vec3& moved, const Vec3& turned, const QString& mergeKey) {
    if (!hasJob() || body >= job().bodies.size() || !job().bodies[body].mayMove()) return;
    change(
        tr("move %1").arg(QString::fromStdString(job().bodies[body].name)),
        [&](Job& j) {
            for (int k = 0; k < 3; ++k) {
                j.bodies[body].moved[k] = std::clamp(readable(moved[k]), -kFurthest, kFurthest);
                j.bodies[body].turned[k] = readable(turnWithin(turned[k]));
            }
        },
        mergeKey);
}

void AppModel::turnBody(std::size_t body, int axis, double degrees) {
    const PlacedBody* shown = placedBody(body);
    if (!shown || !job().bodies[body].mayMove()) return;
    JobBody next = job().bodies[body];
    const Vec3 inFile = shown->placed.inverse() * shown->shape->mesh().bounds().centre(), middle = next.placed() * inFile;
    next.turned[axis] = turnWithin(degrees);
    placeBody(body, next.moved + middle - next.placed() * inFile, next.turned);
}

void AppModel::seatPart(const Vec3& seat, double turnDegrees, const QString& mergeKey) {
    change(
        tr("move the part"),
        [&](Job& j) {
            for (int k = 0; k < 3; ++k) j.seat[k] = std::clamp(readable(seat[k]), -kFurthest, kFurthest);
            j.seatTurnDegrees = readable(turnWithin(turnDegrees));
        },
        mergeKey);
}

QStringList AppModel::bodiesInside() const {
    QStringList out;
    if (m_place && m_place->overlaps)
        for (const Overlap& o : *m_place->overlaps)
            out << tr("%1 and %2 stand %3 mm in one another").arg(QString::fromStdString(o.one), QString::fromStdString(o.other)).arg(o.depth, 0, 'f', 2);
    return out;
}

void AppModel::setMaterial(const QString& material) {
    if (!hasJob()) return;
    std::size_t took = 0;
    change(tr("change material"), [&](Job& j) { took = takeMaterial(j, material.toStdString()); });
    const auto all = job().tools.size();
    if (material.isEmpty()) return;
    emit toldUser(took == all ? tr("All %1 tools turn and feed as %2 wants it.").arg(all).arg(material)
                              : tr("%1 of %2 tools turn and feed as %3 wants it; the others do not know it and keep theirs.").arg(took).arg(all).arg(material));
    emit toolShownChanged();
}

void AppModel::newTool(CutterShape shape) {
    if (!hasJob()) return;
    Assembly a;
    const std::string base = cutterShapeName(shape);
    if (const Assembly* like = toolShown()) {
        a.holder = like->holder;
        a.holderName = like->holderName;
        a.materials = like->materials;
        a.coolant = like->coolant;
    } else {
        a.holderName = "holder";
        a.holder = {{20.0, 20.0, 30.0}, {40.0, 40.0, 30.0}};
    }
    a.cutter = asShape(a.cutter, shape);
    a = possible(a);
    for (int i = 1;; ++i) {
        a.id = fmt::format("{}-{:g}{}", base, a.cutter.diameter, i > 1 ? fmt::format("-{}", i) : std::string());
        std::replace(a.id.begin(), a.id.end(), ' ', '-');
        a.name = i > 1 ? fmt::format("{} ({})", shortName(a.cutter), i) : shortName(a.cutter);
        if (!job().tool(a.id)) break;
    }
    if (!job().material.empty()) (void)useMaterial(a, job().material);
    change(tr("new tool"), [&](Job& j) { j.tools.push_back(a); });
    showTool(QString::fromStdString(a.id));
}

} // namespace gyre
