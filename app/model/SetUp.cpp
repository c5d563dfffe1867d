#include "model/SetUp.h"
#include "guard/Overlaps.h"
#include "model/ToolShelf.h"
#include "proposal/NewJob.h"
#include "session/Travel.h"
#include "tool/Library.h"
#include <algorithm>

namespace gyre {

namespace {
constexpr double kFurthest = 1e4; // mm, as job files have it
double turnWithin(double degrees) { return std::clamp(std::abs(degrees) > 360.0 ? std::fmod(degrees, 360.0) : degrees, -360.0, 360.0); }
// Numbers a person can read; a ten thousandth of a mm or a degree is less than anybody sets up to.
double readable(double v) { return std::round(1e4 * v) / 1e4 + 0.0; }
} // namespace

void SetUp::setRole(std::size_t body, const QString& role) {
    change(tr("change role"), [&](Job& j) {
        // There is one part: the body that was it becomes a reference.
        if (role == "part")
            for (JobBody& other : j.bodies)
                if (other.role == "part") other.role = "reference";
        j.bodies[body].role = role.toStdString();
        if (role != "fixture") j.bodies[body].within = 0.0;
        if (!j.bodies[body].mayMove()) j.bodies[body].moved = j.bodies[body].turned = Vec3::Zero(); // the part is where its file has it
    });
    holdBody(-1);
}

QStringList SetUp::beyondTravel() const {
    QStringList out;
    if (!place() || !hasJob()) return out;
    Workplace moved = *place();
    moved.partFrame = job().partFrame(); // where the words say it stands, before it is computed
    const Assembly* tool = recipe() ? job().tool(recipe()->tool) : job().tools.empty() ? nullptr : &job().tools.front();
    for (const TravelTrouble& t : gyre::beyondTravel(moved, job(), tool ? tool->gaugeLength() : 150.0))
        out << tr("%1: %2").arg(QString::fromStdString(t.where), QString::fromStdString(t.words));
    return out;
}

void SetUp::holdBody(int body) {
    if (hasJob() && body >= 0) {
        const auto& all = job().bodies;
        if (static_cast<std::size_t>(body) >= all.size() || !(all[static_cast<std::size_t>(body)].mayMove() || all[static_cast<std::size_t>(body)].role == "part"))
            body = -1;
    }
    if (body == m_held) return;
    m_held = body;
    emit heldChanged();
}

const PlacedBody* SetUp::placedBody(std::size_t body) const {
    if (!place() || !hasJob() || body >= job().bodies.size()) return nullptr;
    const auto it = std::find_if(place()->bodies.begin(), place()->bodies.end(), [&](const PlacedBody& b) { return b.name == job().bodies[body].name; });
    return it == place()->bodies.end() ? nullptr : &*it;
}

Frame SetUp::aheadOfPicture(std::size_t body) const {
    const PlacedBody* shown = placedBody(body);
    if (!shown) return Frame::Identity();
    if (job().bodies[body].role == "part") return place()->partFrame.inverse() * job().partFrame();
    return (job().bodies[body].mayMove() ? job().bodies[body].placed() : Frame::Identity()) * shown->placed.inverse();
}

void SetUp::placeBody(std::size_t body, const Vec3& moved, const Vec3& turned, const QString& mergeKey) {
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

void SetUp::setWithin(std::size_t body, double mm) {
    if (!hasJob() || body >= job().bodies.size() || job().bodies[body].role != "fixture") return;
    constexpr double kMost = 50.0; // as the form has it
    change(tr("room around %1").arg(QString::fromStdString(job().bodies[body].name)), [&](Job& j) { j.bodies[body].within = std::clamp(readable(mm), 0.0, kMost); });
}

void SetUp::turnBody(std::size_t body, int axis, double degrees) {
    const PlacedBody* shown = placedBody(body);
    if (!shown || !job().bodies[body].mayMove()) return;
    JobBody next = job().bodies[body];
    const Vec3 inFile = shown->placed.inverse() * shown->shape->tree().bounds().centre(), middle = next.placed() * inFile;
    next.turned[axis] = turnWithin(degrees);
    placeBody(body, next.moved + middle - next.placed() * inFile, next.turned);
}

void SetUp::seatPart(const Vec3& seat, double turnDegrees, const QString& mergeKey) {
    change(
        tr("move the part"),
        [&](Job& j) {
            for (int k = 0; k < 3; ++k) j.seat[k] = std::clamp(readable(seat[k]), -kFurthest, kFurthest);
            j.seatTurnDegrees = readable(turnWithin(turnDegrees));
        },
        mergeKey);
}

QStringList SetUp::bodiesInside() const {
    QStringList out;
    if (place() && place()->overlaps)
        for (const Overlap& o : *place()->overlaps)
            out << tr("%1 and %2 stand %3 mm in one another").arg(QString::fromStdString(o.one), QString::fromStdString(o.other)).arg(o.depth, 0, 'f', 2);
    return out;
}

void SetUp::setMaterial(const QString& material) {
    if (!hasJob()) return;
    std::size_t took = 0;
    change(tr("change material"), [&](Job& j) { took = takeMaterial(j, material.toStdString()); });
    const auto all = job().tools.size();
    if (material.isEmpty()) return;
    tell(took == all ? tr("All %1 tools turn and feed as %2 wants it.").arg(all).arg(material)
                     : tr("%1 of %2 tools turn and feed as %3 wants it; the others do not know it and keep theirs.").arg(took).arg(all).arg(material));
    emit m_model.tools().shownChanged();
}

void SetUp::propose() {
    if (!hasJob() || !place() || !place()->part) return tell(tr("There is no part yet to lay stock around."));
    change(tr("propose stock and seat"), [&](Job& j) { gyre::proposeSetup(j, *place()->part); });
}

Status SetUp::setStock(std::size_t body, const StockShape& shape) {
    if (const auto ok = shape.valid(); !ok) {
        tell(ok.error());
        emit m_model.jobChanged(); // the word shows what it was before
        return ok;
    }
    change(
        tr("change stock"), [&](Job& j) { j.bodies[body].shape = shape; }, "stock");
    return {};
}

} // namespace gyre
