// Bodies of the set-up moved by hand: arrows along the datum's axes, a ring about Z, the outline where they will stand.
#include "Theme.h"
#include "Units.h"
#include "base/Units.h"
#include "model/Picks.h"
#include "model/SetUp.h"
#include "model/ToolShelf.h"
#include "view/View.h"
#include <QGuiApplication>
#include <QPainter>
#include <cmath>

namespace gyre {

namespace {
constexpr double kArrow = 74.0, kRing = 52.0; // pixels
double snapped(double v, double step) { return step * std::round(v / step); }
} // namespace

std::optional<std::size_t> View::held() const {
    if (m_model.bench() != Bench::SetUp || m_atMachine || m_model.picks().mode() != PickMode::None || m_model.tools().isOpen() || !m_model.hasJob() || !m_model.place())
        return std::nullopt;
    const int b = m_model.setUp().heldBody();
    if (b < 0 || static_cast<std::size_t>(b) >= m_model.job().bodies.size() || !m_model.setUp().placedBody(static_cast<std::size_t>(b))) return std::nullopt;
    return static_cast<std::size_t>(b);
}

std::optional<View::MoveHandles> View::moveHandles() const {
    const auto body = held();
    if (!body) return std::nullopt;
    MoveHandles h;
    h.centre = m_model.setUp().aheadOfPicture(*body) * m_model.setUp().placedBody(*body)->shape->tree().bounds().centre();
    // A fixture is moved along the datum's axes, the part along the table's: that is what their numbers count.
    const Eigen::Matrix3d turn =
        m_model.job().bodies[*body].role == "part" ? Eigen::Matrix3d(m_model.place()->partFrame.linear().transpose()) : Eigen::Matrix3d::Identity();
    const double pixel = m_camera.pixelSize();
    for (int k = 0; k < 3; ++k) {
        h.way[static_cast<std::size_t>(k)] = turn.col(k);
        h.at[static_cast<std::size_t>(k)] = h.centre + kArrow * pixel * turn.col(k);
    }
    h.at[3] = h.centre + kRing * pixel * (turn.col(0) + turn.col(1)).normalized();
    return h;
}

std::optional<QPointF> View::moveHandle(int which) const {
    const auto h = moveHandles();
    return h ? m_camera.project(h->at[static_cast<std::size_t>(which)]) : std::nullopt;
}

std::optional<int> View::moveHandleAt(const QPointF& pixel) const {
    for (int k = 0; k < 4; ++k)
        if (const auto p = moveHandle(k); p && std::hypot(p->x() - pixel.x(), p->y() - pixel.y()) < 11.0) return k;
    return std::nullopt;
}

void View::beginMove(int which) {
    const auto h = moveHandles();
    const auto body = held();
    if (!h || !body) return;
    static int drags = 0; // each is a step of its own to undo
    m_move = {which,
              *h,
              m_model.job().bodies[*body].moved,
              m_model.job().bodies[*body].turned,
              m_model.job().seat,
              m_model.job().seatTurnDegrees,
              QString("drag.%1").arg(++drags)};
    m_drag = Drag::Body;
}

/// Where the line of sight meets the plane of the ring; nothing when it is seen on its edge.
std::optional<double> View::angleOnRing(const QPointF& pixel) const {
    const auto ray = m_camera.ray(pixel);
    const Vec3 z = m_move.from.way[2];
    const double across = ray.direction.dot(z);
    if (std::abs(across) < 0.05) return std::nullopt;
    const Vec3 p = ray.origin + (m_move.from.centre - ray.origin).dot(z) / across * ray.direction - m_move.from.centre;
    return std::atan2(p.dot(m_move.from.way[1]), p.dot(m_move.from.way[0]));
}

void View::dragBody(const QPointF& to) {
    const auto body = held();
    if (!body) return;
    const bool fine = QGuiApplication::keyboardModifiers() & Qt::ShiftModifier, part = m_model.job().bodies[*body].role == "part", inch = m_model.inches();
    const Vec3& c = m_move.from.centre;
    if (m_move.which < 3) {
        const Vec3 way = m_move.from.way[static_cast<std::size_t>(m_move.which)];
        const auto a = m_camera.project(c), b = m_camera.project(c + m_camera.pixelSize() * way);
        if (!a || !b) return;
        const QPointF along = (*b - *a) / m_camera.pixelSize(); // pixels a mm
        const double l2 = QPointF::dotProduct(along, along);
        if (l2 * m_camera.pixelSize() * m_camera.pixelSize() < 0.01) return; // it points at the eye
        const double step = (inch ? 25.4 / 20.0 : 1.0) / (fine ? 10.0 : 1.0);
        const Vec3 by = snapped(QPointF::dotProduct(to - m_pressed, along) / l2, step) * Vec3(Vec3::Unit(m_move.which));
        if (part)
            m_model.setUp().seatPart(m_move.seat + by, m_move.seatTurn, m_move.key);
        else
            m_model.setUp().placeBody(*body, m_move.moved + by, m_move.turned, m_move.key);
    } else {
        const auto from = angleOnRing(m_pressed), now = angleOnRing(to);
        if (!from || !now) return;
        const double turn = snapped(degrees(std::remainder(*now - *from, 2.0 * kPi)), fine ? 0.5 : 5.0);
        const Eigen::AngleAxisd about(radians(turn), Vec3(Vec3::UnitZ()));
        if (part) {
            // About the part's middle, as the table sees it.
            const Vec3 middle = m_model.place()->partFrame * c - m_model.place()->partFrame.translation() + m_move.seat;
            m_model.setUp().seatPart(middle + about * (m_move.seat - middle), m_move.seatTurn + turn, m_move.key);
        } else {
            m_model.setUp().placeBody(*body, c + about * (m_move.moved - c), m_move.turned + Vec3(0, 0, turn), m_move.key);
        }
    }
    update();
}

/// A click in the Set up bench takes the nearest body in hand that may be moved, or lets go.
bool View::takeInHand(const QPointF& pixel) {
    const auto place = m_model.place();
    if (m_model.bench() != Bench::SetUp || m_atMachine || m_model.tools().isOpen() || m_model.picks().mode() != PickMode::None || !place || !m_model.hasJob())
        return false;
    const auto ray = m_camera.ray(pixel);
    double nearest = 1e300;
    int hit = -1;
    for (std::size_t i = 0; i < m_model.job().bodies.size(); ++i) {
        const PlacedBody* b = m_model.setUp().placedBody(i);
        if (!b || b->role == "stock" || m_model.shown(QString::fromStdString(b->role)) != Shown::Solid) continue; // stock is seen through
        // The part is in front of what it hides, but is taken by its button only: a stray click must not move it.
        if (const RayHit on = b->shape->tree().ray(ray.origin, ray.direction); on.hit && on.distance < nearest) {
            nearest = on.distance;
            hit = m_model.job().bodies[i].mayMove() ? static_cast<int>(i) : -1;
        }
    }
    m_model.setUp().holdBody(hit);
    return hit >= 0;
}

void View::drawMoving(QPainter& painter) const {
    const auto body = held();
    const auto h = moveHandles();
    if (!body || !h) return;
    const Theme& t = theme();
    // Its outline where it will stand, until the picture shows it there.
    const Frame ahead = m_model.setUp().aheadOfPicture(*body);
    if (!ahead.isApprox(Frame::Identity(), 1e-9)) {
        const Part& shape = *m_model.setUp().placedBody(*body)->shape;
        painter.setPen(QPen(t.accent, 1.4));
        for (std::size_t e = 0; e < shape.edges().size(); ++e) {
            QPolygonF line;
            for (const Vec3& p : shape.edgeLine(static_cast<int>(e)))
                if (const auto q = m_camera.project(ahead * p)) line << *q;
            painter.drawPolyline(line);
        }
    }
    const auto c = m_camera.project(h->centre);
    if (!c) return;
    QPolygonF ring;
    for (int k = 0; k <= 72; ++k) {
        const double a = k * 2.0 * kPi / 72.0;
        if (const auto p = m_camera.project(h->centre + (h->at[3] - h->centre).norm() * (std::cos(a) * h->way[0] + std::sin(a) * h->way[1]))) ring << *p;
    }
    painter.setBrush(Qt::NoBrush);
    for (const auto& [colour, width] : {std::pair{t.card, 4.0}, std::pair{t.ochre, 1.8}}) {
        painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap));
        painter.drawPolyline(ring);
        for (int k = 0; k < 3; ++k)
            if (const auto p = m_camera.project(h->at[static_cast<std::size_t>(k)])) painter.drawLine(*c, *p);
    }
    for (int k = 0; k < 4; ++k) {
        const auto p = m_camera.project(h->at[static_cast<std::size_t>(k)]);
        if (!p) continue;
        painter.setBrush(t.ochre);
        painter.setPen(QPen(t.card, 1.5));
        painter.drawEllipse(*p, 8.0, 8.0);
        painter.setPen(t.card);
        painter.drawText(QRectF(p->x() - 8, p->y() - 8, 16, 16), Qt::AlignCenter, k < 3 ? QString(QChar('X' + k)) : QString::fromUtf8("↻"));
    }
    const JobBody& b = m_model.job().bodies[*body];
    const bool part = b.role == "part";
    const Vec3 at = part ? m_model.job().seat : b.moved;
    const double turn = part ? m_model.job().seatTurnDegrees : b.turned.z();
    const QString words = tr("%1 · %2 %3 mm %4 mm %5 mm · %6°")
                              .arg(QString::fromStdString(b.name), part ? tr("over the table") : tr("moved"))
                              .arg(at.x(), 0, 'f', 2)
                              .arg(at.y(), 0, 'f', 2)
                              .arg(at.z(), 0, 'f', 2)
                              .arg(turn, 0, 'f', 1);
    drawChip(painter, {14, 14}, inUnits(words, m_model.inches()), t.accent, true);
}

} // namespace gyre
