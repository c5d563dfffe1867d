#include "model/Milling.h"
#include "kinds/MillInput.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "model/Picks.h"
#include "proposal/MillWork.h"
#include "target/TargetSpec.h"
#include <algorithm>
#include <cmath>
#include <utility>

namespace gyre {

void Milling::add(std::optional<MillShape> shape) {
    if (!hasJob() || !place() || !place()->part) return tell(tr("Open a part first."));
    const Recipe r = proposeMill(job(), *place(), shape.value_or(MillShape::Pocket));
    change(tr("new milling"), [&](Job& j) { j.route.push_back(r); });
    m_model.select(QString::fromStdString(r.id));
    m_model.setBench(Bench::Cut);
    m_shapeOpen = !shape;
    if (!shape || *shape != MillShape::Rough) m_model.picks().setMode(shape && *shape == MillShape::Follow ? PickMode::Edges : PickMode::Faces);
    if (shape && (*shape == MillShape::Round || *shape == MillShape::Body)) m_model.picks().setMode(PickMode::None); // nothing needs to be picked
}

void Milling::addHelicalGroove() {
    if (!hasJob() || !place() || !place()->part) return tell(tr("Open a part first."));
    const HelicalGroove groove = proposeHelicalGroove(job(), *place());
    change(tr("new helical groove"), [&](Job& j) {
        j.mends.push_back(groove.helix);
        j.route.push_back(groove.recipe);
    });
    m_model.select(QString::fromStdString(groove.recipe.id));
    m_model.setBench(Bench::Cut);
    m_model.picks().setMode(PickMode::None);
    // It stands about what is there; another cylinder is one click away.
    m_model.picks().ask({PickKind::Faces, "groove.around", tr("Click the cylinder that the groove goes around · Esc when it is right")});
}

void Milling::moveGroove(int face) {
    const auto mend = followedMend();
    if (!mend || !place() || !place()->part) return;
    Job next = job();
    if (const auto ok = gyre::moveGroove(next, *place(), selected(), job().mends[*mend].name, face); !ok) return tell(ok.error());
    change(tr("groove around another cylinder"), [&](Job& j) { j = next; });
    if (m_model.picks().mode() == PickMode::Feature && m_model.picks().feature().key == "groove.around") m_model.picks().setMode(PickMode::None);
    emit m_model.featuresChanged();
}

void Milling::turnGroove(int axis) {
    if (!place() || !place()->part) return;
    if (const auto face = cylinderAlong(*place()->part, axis)) return moveGroove(*face);
    tell(tr("No outside cylinder of the part lies along %1.").arg(QStringLiteral("XYZ").mid(axis, 1)));
    emit m_model.featuresChanged();
    emit m_model.jobChanged(); // the word shows what it was before
}

void Milling::setShape(const QString& shape) {
    if (!recipe() || !place() || !place()->part) return;
    m_shapeOpen = false;
    Job next = job();
    if (auto ok = gyre::setWord(next, selected(), "mill.shape", shape.toStdString()); !ok) return tell(ok.error());
    Recipe& r = *next.operation(selected());
    const Recipe fresh = proposeMill(job(), *place(), r.mill->shape), old = proposeMill(job(), *place(), recipe()->mill->shape);
    if (r.name == old.name) r.name = fresh.name;
    if (r.mill->on.empty()) r.mill->on = fresh.mill->on;
    r.mill->beyond = fresh.mill->beyond;
    if (r.mill->depthBy == MillDepth::Typed && recipe()->mill->shape == MillShape::Follow) r.mill->depthBy = fresh.mill->depthBy;
    fitMill(next, *place(), r);
    change(tr("change kind of milling"), [&](Job& j) { j = next; });
}

std::optional<std::size_t> Milling::followedMend() const {
    const Recipe* r = recipe();
    if (!r || r->kind != OperationKind::Mill || r->target->drawings.size() != 1) return std::nullopt;
    for (std::size_t i = 0; i < job().mends.size(); ++i)
        if (job().mends[i].name == r->target->drawings.front() && (job().mends[i].kind == MendKind::Helix || job().mends[i].kind == MendKind::Sketch)) return i;
    return std::nullopt;
}

void Milling::addCurve(const Sheet& sheet, const std::vector<Vec2>& points, bool closed) {
    if (!recipe() || points.size() < 2) return;
    Mend sketch;
    sketch.kind = MendKind::Sketch;
    sketch.name = job().freshMendName(MendKind::Sketch);
    sketch.numbers = {{"as", 0.0}, {"ends", closed ? 1.0 : 0.0}};
    Job next = job();
    if (sheet.wrapped) {
        int axis = 0;
        sheet.frame.linear().col(0).cwiseAbs().maxCoeff(&axis);
        const bool square = std::abs(sheet.frame.linear()(axis, 0)) > 1.0 - 1e-9,
                   through = rejected(sheet.frame.translation(), sheet.frame.linear().col(0)).norm() < 1e-6;
        if (!square || !through) return tell(tr("Curves can be drawn round the datum's own axes only."));
        sketch.numbers["on"] = 3.0 + axis;
        sketch.numbers["radius"] = sheet.radius;
        for (const Vec2& p : points) sketch.points.push_back({p.x(), sheet.degrees(p.y()), 0.0});
    } else {
        // On a work plane of its own, so that the numbers stay those of the sheet.
        std::size_t plane = 0;
        for (; plane < next.planes.size(); ++plane)
            if (next.planes[plane].frame().isApprox(sheet.frame, 1e-9)) break;
        if (plane == next.planes.size()) {
            WorkPlane p{next.freshPlaneName(), sheet.frame.translation(), sheet.frame.linear().col(2), sheet.frame.linear().col(0)};
            next.planes.push_back(p);
        }
        sketch.numbers["on"] = 6.0;
        sketch.numbers["plane"] = static_cast<double>(plane + 1);
        for (const Vec2& p : points) sketch.points.push_back({p.x(), p.y(), 0.0});
    }
    next.mends.push_back(sketch);
    Recipe& r = *next.operation(selected());
    r.target->drawings.push_back(sketch.name);
    if (r.mill->on.empty() && sheet.wrapped) {
        int axis = 0;
        sheet.frame.linear().col(0).cwiseAbs().maxCoeff(&axis);
        r.mill->on = std::string("round ") + "XYZ"[axis];
    }
    if (r.target->drawings.size() == 1) standClear(next);
    change(tr("draw on the sheet"), [&](Job& j) { j = next; });
    emit m_model.featuresChanged();
}

void Milling::setStanding(const QString& key, const QString& value) {
    if (!recipe() || !place()) return;
    Job next = job();
    if (auto ok = gyre::setWord(next, selected(), key.toStdString(), value.toStdString()); !ok) return tell(ok.error());
    standClear(next);
    change(tr("change %1").arg(key), [&](Job& j) { j = next; });
}

// The way around must clear the work on all sides that the tool comes from; what was chosen for the cut stays.
void Milling::standClear(Job& job) const {
    Recipe& r = *job.operation(selected());
    if (r.kind != OperationKind::Mill) return;
    Recipe fresh = r;
    fitMill(job, *place(), fresh);
    r.link->skin = fresh.link->skin;
}

std::shared_ptr<const Sheet> Milling::sheet() const {
    const Recipe* r = recipe();
    if (!r || r->kind != OperationKind::Mill || !place() || !place()->part) return nullptr;
    const std::string key = keyTextOf(job().resolved(*r)) + std::to_string(place()->looks);
    if (m_sheet.first == key) return m_sheet.second;
    const auto made = gyre::sheetShown(*place(), job().resolved(*r));
    m_sheet = {key, made ? std::make_shared<const Sheet>(*made) : nullptr};
    return m_sheet.second;
}

SheetShown Milling::sheetShown() const {
    const auto s = sheet();
    if (!s || m_model.bench() != Bench::Cut) return SheetShown::Wrapped;
    return m_shown.value_or(s->wrapped ? SheetShown::Both : SheetShown::Wrapped);
}

void Milling::setSheetShown(SheetShown shown) {
    m_shown = shown;
    emit sheetChanged();
}

void Milling::setHovered(const std::vector<int>& edges) {
    if (edges == m_hovered) return;
    m_hovered = edges;
    emit hoveredChanged();
}

// The first pick decides what kind of work this is, unless that was said; then everything follows from it.
void Milling::fitFirstPick(Recipe& r, const std::vector<int>& faces, const std::vector<int>& edges, const Job& job) {
    if (std::exchange(m_shapeOpen, false)) {
        const Recipe fresh = proposeMill(job, *place(), millShapeFor(*place()->part, faces, edges));
        r.name = fresh.name;
        r.mill = fresh.mill;
        r.target->leave = fresh.target->leave;
    }
    fitMill(job, *place(), r);
}

} // namespace gyre
