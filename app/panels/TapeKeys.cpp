// Axis keys on the tape: points on the lead and tilt channels of the row that the playhead is in.
#include "Theme.h"
#include "model/Along.h"
#include "operation/OperationResult.h"
#include "panels/TapePanel.h"
#include <QMouseEvent>
#include <QPainter>

namespace gyre {

bool TapeChart::keysPossible() const {
    const Recipe* r = m_open.recipe();
    return r && (r->kind == OperationKind::Surface || r->kind == OperationKind::Curve) && m_channels.size() >= 2;
}

std::vector<TapeChart::KeyMark> TapeChart::keyMarks() const {
    std::vector<KeyMark> out;
    if (!keysPossible() || m_lengths.empty()) return out;
    const auto r = m_open.result();
    const auto here = m_along.onRow(m_open.location());
    if (!here) return out;
    const auto& path = *r->path();
    const int index = path.row[m_open.location()];
    const auto& keys = m_open.recipe()->axis->keys;
    if (keys.empty()) return out;
    std::vector<std::pair<std::size_t, double>> cuts; // of this row, and how far along it
    for (std::size_t i = 0; i < path.size(); ++i)
        if (path.row[i] == index && path.motion[i] == Motion::Cut)
            if (const auto on = m_along.onRow(i)) cuts.emplace_back(i, on->fraction);
    for (std::size_t k = 0; k < keys.size(); ++k) {
        if (keys[k].row >= 0 && keys[k].row != here->row) continue;
        const double wanted = (1.0 - here->level) * keys[k].at + here->level * keys[k].atLast;
        std::size_t best = 0;
        double least = 1e300;
        for (const auto& [location, fraction] : cuts)
            if (std::abs(fraction - wanted) < least) {
                least = std::abs(fraction - wanted);
                best = location;
            }
        if (least > 0.2) continue; // that stretch is not cut
        const double x = xOf(best);
        const auto pixel = static_cast<std::size_t>(std::clamp(x - plot().left(), 0.0, static_cast<double>(m_channels[0].low.size() - 1)));
        for (int channel = 0; channel < 2; ++channel) {
            if (!m_channels[static_cast<std::size_t>(channel)].shown) continue;
            const float value = m_channels[static_cast<std::size_t>(channel)].low[pixel];
            if (std::isfinite(value)) out.push_back({k, channel, QPointF(x, yOf(static_cast<std::size_t>(channel), value))});
        }
    }
    return out;
}

void TapeChart::drawKeys(QPainter& p) const {
    const Theme& t = theme();
    p.setPen(QPen(t.ink, 1.0));
    p.setBrush(t.ochre);
    for (const KeyMark& k : keyMarks()) {
        const double s = m_drag && m_drag->key == k.key && m_drag->channel == k.channel ? 6.5 : 5.0;
        p.drawPolygon(QPolygonF({k.at + QPointF(0, -s), k.at + QPointF(s, 0), k.at + QPointF(0, s), k.at + QPointF(-s, 0)}));
    }
}

std::optional<TapeChart::KeyMark> TapeChart::keyAt(const QPointF& p) const {
    for (const KeyMark& k : keyMarks())
        if (std::hypot(k.at.x() - p.x(), k.at.y() - p.y()) < 9.0) return k;
    return std::nullopt;
}

// Up and down changes the angle, along the tape the place; one step to undo for the whole drag.
void TapeChart::dragKey(const QPointF& p) {
    const QPointF by = p - m_dragStart;
    AxisKey key = m_dragged;
    const double more = std::abs(by.y()) < 3.0 ? 0.0 : -by.y() * degreesPerPixel(static_cast<std::size_t>(m_drag->channel));
    double& angle = m_drag->channel == 0 ? key.leadDegrees : key.tiltDegrees;
    angle = std::clamp(std::round(10.0 * (angle + more)) / 10.0, -90.0, 90.0);
    if (std::abs(by.x()) >= 6.0)
        if (const auto on = m_along.onRow(locationAt(p.x()))) {
            const double moved = std::round(1000.0 * on->fraction) / 1000.0 - key.at;
            key.at = std::clamp(key.at + moved, 0.0, 1.0);
            key.atLast = std::clamp(key.atLast + moved, 0.0, 1.0);
        }
    m_along.setKey(m_drag->key, key);
    update();
}

// A new key where there is none yet.
void TapeChart::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!keysPossible() || keyAt(e->position())) return;
    if (!lane(0).contains(e->position()) && !lane(1).contains(e->position())) return;
    const std::size_t at = locationAt(e->position().x());
    m_open.setLocation(at);
    if (const auto on = m_along.onRow(at)) m_along.addKey(on->fraction);
}

} // namespace gyre
