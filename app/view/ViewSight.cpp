// What the view shows of what matters: where it looks from, what it sees through, what is too near.
#include "Theme.h"
#include "Units.h"
#include "guard/Nearest.h"
#include "model/Mending.h"
#include "operation/OperationResult.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "view/View.h"
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace gyre {

const View::CutLines* View::atScale(const std::vector<CutLines>& grades) const {
    const double pixel = m_camera.pixelSize();
    const auto it = std::find_if(grades.begin(), grades.end(), [&](const CutLines& c) { return pixel <= c.largestPixel; });
    return it == grades.end() ? nullptr : &*it;
}

int View::everyRow() const {
    const Stage peel = m_model.bench() == Bench::Cut ? m_model.peel() : Stage::Links;
    if (peel < Stage::Pattern) return 1;
    const CutLines* lines = atScale(peel >= Stage::Guard && !m_cuts.empty() ? m_cuts : m_rows);
    return lines ? lines->everyRow : 1;
}

void View::lookFrom(From from) {
    static constexpr std::pair<double, double> kWays[] = {{-90, 89.5}, {-90, -89.5}, {-90, 0}, {90, 0}, {180, 0}, {0, 0}, {-58, 26}};
    const auto [azimuth, elevation] = kWays[static_cast<std::size_t>(from)];
    m_camera.look(azimuth, elevation);
    moving();
}

void View::frameWork() {
    const auto place = m_model.place();
    if (!place || !place->part) return;
    std::vector<int> faces = m_model.mending().litFaces();
    if (const Recipe* r = m_model.recipe(); faces.empty() && r && m_model.bench() != Bench::SetUp)
        faces = resolveFaces(*place->part, r->target->faces).value_or(std::vector<int>{});
    Box box;
    for (const int f : faces)
        for (const Vec3& p : place->part->faceMesh(f).points) box.add(p);
    const auto r = m_model.result();
    if (box.empty() && r && r->passes)
        for (const Pass& pass : *r->passes)
            for (const Vec3& p : pass.path.contact) box.add(p);
    if (box.empty()) return frameAll();
    m_camera.frame(box);
    moving();
}

void View::setToolFaded(bool on) {
    m_toolFaded = on;
    redraw();
}

// From the eye to where the tool touches, in steps no longer than what is free: is shank or holder in the way?
bool View::toolHides() const {
    const auto r = m_model.result();
    if (m_atMachine || !r || !r->path() || r->path()->empty()) return false;
    const Toolpath& path = *r->path();
    const std::size_t i = std::min(m_model.location(), path.size() - 1);
    if (path.motion[i] != Motion::Cut) return false;
    Frame frame = Frame::Identity();
    frame.linear().col(2) = path.axis[i];
    frame.linear().col(0) = anyPerpendicular(path.axis[i]);
    frame.linear().col(1) = path.axis[i].cross(frame.linear().col(0));
    frame.translation() = path.tip[i];
    const Vec3 from = frame.inverse() * m_camera.eye(), to = frame.inverse() * path.contact[i], way = (to - from).normalized();
    const double length = (to - from).norm() - 0.5;
    for (const Piece& p : piecesOf(r->tool)) {
        if (p.zone == Zone::Cutter) continue;
        for (double s = 0.0; s < length;) {
            const double free = distance(p.shape, Vec3(from + s * way));
            if (free < 0.02) return true;
            s += std::max(0.02, free);
        }
    }
    return false;
}

const std::optional<View::TooNear>& View::tooNear() const {
    const auto r = m_model.result();
    const auto place = m_model.place();
    const std::size_t i = m_model.location();
    if (m_tooNearOf == std::pair{r, i}) return m_tooNear;
    m_tooNearOf = {r, i};
    m_tooNear.reset();
    if (!r || !place || !r->path() || i >= r->path()->size() || m_model.stale()) return m_tooNear;
    for (const PathHazard& h : r->hazards) {
        if (i < h.first || i > h.last || h.obstacle >= place->scene->size() || h.zone == Zone::Cutter) continue;
        const AxisPose pose{r->path()->tip[i], r->path()->axis[i]};
        const auto near = nearestPlaces(r->tool, h.zone, (*place->scene)[h.obstacle], pose, 20.0);
        // Its triangles may stand out of it by the allowance: that much is told less, as everywhere.
        const double apart = near ? near->distance - (*place->scene)[h.obstacle].allowance : 0.0;
        if (near && (!m_tooNear || apart < m_tooNear->distance)) m_tooNear = TooNear{near->onTool, near->onBody, apart, h.zone, (*place->scene)[h.obstacle].name};
    }
    return m_tooNear;
}

// Close enough to see what it is about, from where the eye is.
void View::frameFinding() {
    const auto r = m_model.result();
    if (m_atMachine || !r || !r->path() || m_model.location() >= r->path()->size()) return;
    const Toolpath& path = *r->path();
    Box box;
    box.add(path.tip[m_model.location()]);
    if (const auto& near = tooNear()) {
        box.add(near->onTool);
        box.add(near->onBody);
    }
    const Vec3 room = Vec3::Constant(std::max(12.0, 0.6 * r->tool.stickOut));
    box.add(Vec3(box.low - room));
    box.add(Vec3(box.high + room));
    m_camera.frame(box);
    moving();
}

void View::drawTooNear(QPainter& painter) const {
    const auto& near = tooNear();
    if (!near || m_atMachine || m_model.bench() == Bench::SetUp || m_model.peel() < Stage::Axis) return;
    const auto a = m_camera.project(near->onTool), b = m_camera.project(near->onBody);
    if (!a || !b) return;
    const Theme& t = theme();
    for (const auto& [colour, width] : {std::pair{t.card, 5.0}, std::pair{t.unsafe, 2.0}}) {
        painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap));
        painter.drawLine(*a, *b);
    }
    painter.setBrush(t.unsafe);
    painter.setPen(QPen(t.card, 1.5));
    for (const QPointF& p : {*a, *b}) painter.drawEllipse(p, 4.0, 4.0);
    const QString zone = near->zone == Zone::Holder ? tr("holder") : tr("shank"), body = QString::fromStdString(near->body);
    const QString words = near->distance > 0.005 ? tr("%1 %2 mm from %3").arg(zone).arg(near->distance, 0, 'f', 2).arg(body) : tr("%1 within %2").arg(zone, body);
    drawChip(painter, *b + QPointF(12, 8), inUnits(words, m_model.inches()), t.unsafe, true);
}

// The datum's directions, in the lower right corner.
void View::drawAxes(QPainter& painter) const {
    if (m_atMachine) return;
    const Theme& t = theme();
    const Vec3 ahead = m_camera.direction();
    const Vec3 right = ahead.cross(Vec3::UnitZ()).normalized(), up = right.cross(ahead);
    const QPointF at(width() - 48.0, height() - 46.0);
    // The one that points away is drawn first.
    std::array<int, 3> order{0, 1, 2};
    std::sort(order.begin(), order.end(), [&](int a, int b) { return ahead[a] > ahead[b]; });
    for (const int k : order) {
        const Vec3 d = Vec3::Unit(k);
        const QPointF way(d.dot(right), -d.dot(up)), tip = at + 26.0 * way, letter = at + 37.0 * way;
        for (const auto& [colour, width] : {std::pair{t.card, 4.0}, std::pair{t.ink, 1.6}}) {
            painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(at, tip);
        }
        painter.setPen(t.ink);
        painter.drawText(QRectF(letter.x() - 8, letter.y() - 8, 16, 16), Qt::AlignCenter, QString(QChar('X' + k)));
    }
}

void View::drawRowsLeftOut(QPainter& painter) const {
    const int every = everyRow();
    if (every < 2 || m_model.bench() == Bench::SetUp || !m_model.result() || stockDrawn()) return;
    drawChip(painter, {width() - 8.0, height() - 92.0}, tr("one row of %1 is drawn · zoom in for all").arg(every), theme().softInk, false);
}

} // namespace gyre
