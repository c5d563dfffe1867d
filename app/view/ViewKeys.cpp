// Axis keys in the 3D view: marks across the rows, from the first to the last.
#include "Theme.h"
#include "axis/AxisSpec.h"
#include "model/Along.h"
#include "model/Picks.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "view/View.h"
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace gyre {

bool View::keysPossible() const {
    const Recipe* r = m_model.recipe();
    const auto result = m_model.result();
    return r && (r->kind == OperationKind::Surface || r->kind == OperationKind::Curve) && result && result->pattern && !result->pattern->rows.empty() && !m_atMachine &&
           m_model.bench() == Bench::Cut && m_model.peel() >= Stage::Axis && m_model.picks().mode() == PickMode::None;
}

Polyline View::keyRow(bool last) const {
    const auto& rows = m_model.result()->pattern->rows;
    const auto byLevel = [](const Row& a, const Row& b) { return a.level < b.level; };
    const Row& row = last ? *std::max_element(rows.begin(), rows.end(), byLevel) : *std::min_element(rows.begin(), rows.end(), byLevel);
    Polyline line = row.points;
    if (row.closed && !line.empty()) line.push_back(line.front());
    if (row.returning) std::reverse(line.begin(), line.end());
    return line;
}

std::vector<View::KeyMark> View::keyMarks() const {
    std::vector<KeyMark> out;
    if (!keysPossible() || m_model.recipe()->axis->keys.empty()) return out;
    const auto& keys = m_model.recipe()->axis->keys;
    const bool oneRow = m_model.result()->pattern->rows.size() < 2;
    for (const bool last : {false, true}) {
        if (last && oneRow) break;
        const Polyline row = keyRow(last);
        if (row.size() < 2) continue;
        const auto lengths = arcLengths(row);
        for (std::size_t k = 0; k < keys.size(); ++k)
            if (const auto at = m_camera.project(pointAtLength(row, lengths, (last ? keys[k].atLast : keys[k].at) * lengths.back()))) out.push_back({k, last, *at});
    }
    return out;
}

std::optional<View::KeyMark> View::keyAt(const QPointF& pixel) const {
    for (const KeyMark& k : keyMarks())
        if (std::hypot(k.at.x() - pixel.x(), k.at.y() - pixel.y()) < 9.0) return k;
    return std::nullopt;
}

// Along its row, to the place that is drawn nearest to the cursor; the other end stays.
void View::dragKey(const QPointF& to) {
    const auto& keys = m_model.recipe()->axis->keys;
    if (!keysPossible() || m_keyDragged.key >= keys.size()) return;
    const Polyline row = keyRow(m_keyDragged.last);
    const auto lengths = arcLengths(row);
    double least = 1e300, best = 0.0;
    constexpr int kPlaces = 1000;
    for (int i = 0; i <= kPlaces; ++i) {
        const auto p = m_camera.project(pointAtLength(row, lengths, lengths.back() * i / kPlaces));
        if (const double d = p ? std::hypot(p->x() - to.x(), p->y() - to.y()) : 1e300; d < least) {
            least = d;
            best = static_cast<double>(i) / kPlaces;
        }
    }
    AxisKey key = keys[m_keyDragged.key];
    (m_keyDragged.last ? key.atLast : key.at) = best;
    if (m_model.result()->pattern->rows.size() < 2) key.atLast = key.at;
    m_model.along().setKey(m_keyDragged.key, key);
    update();
}

void View::goToKey(const KeyMark& mark) {
    const auto r = m_model.result();
    if (!keysPossible() || !r->path() || mark.key >= m_model.recipe()->axis->keys.size()) return;
    const AxisKey& key = m_model.recipe()->axis->keys[mark.key];
    const Polyline row = keyRow(mark.last);
    const auto lengths = arcLengths(row);
    const Vec3 at = pointAtLength(row, lengths, (mark.last ? key.atLast : key.at) * lengths.back());
    double least = 1e300;
    std::size_t best = m_model.location();
    for (std::size_t i = 0; i < r->path()->size(); ++i)
        if (r->path()->motion[i] == Motion::Cut)
            if (const double d = std::min((r->path()->contact[i] - at).squaredNorm(), (r->path()->tip[i] - at).squaredNorm()); d < least) {
                least = d;
                best = i;
            }
    m_model.setLocation(best);
}

void View::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!keysPossible() || keyAt(e->position()) || !m_model.result()->path()) return mousePressEvent(e);
    if (const auto at = locationAt(*m_model.place()->part, *m_model.result()->path(), m_camera, e->position())) {
        m_model.setLocation(*at);
        if (const auto on = m_model.along().onRow(*at)) m_model.along().addKey(on->fraction);
    }
}

void View::drawKeys(QPainter& painter) const {
    if (!keysPossible() || m_model.recipe()->axis->keys.empty()) return;
    const Theme& t = theme();
    const auto& keys = m_model.recipe()->axis->keys;
    // The mark across: through its place on rows in between.
    const auto& rows = m_model.result()->pattern->rows;
    const std::size_t every = std::max<std::size_t>(1, rows.size() / 40);
    painter.setBrush(Qt::NoBrush);
    for (const AxisKey& key : keys) {
        QPolygonF across;
        for (std::size_t i = 0; i < rows.size(); i += (i + 1 < rows.size() && i + every >= rows.size() ? rows.size() - 1 - i : every)) {
            const Row& row = rows[i];
            if (row.points.size() < 2) continue;
            const double f = (1.0 - row.level) * key.at + row.level * key.atLast;
            const auto lengths = arcLengths(row.points);
            if (const auto p = m_camera.project(pointAtLength(row.points, lengths, (row.returning ? 1.0 - f : f) * lengths.back()))) across << *p;
        }
        for (const auto& [colour, width] : {std::pair{t.card, 3.6}, std::pair{t.ochre, 1.6}}) {
            painter.setPen(QPen(colour, width, Qt::DashLine));
            painter.drawPolyline(across);
        }
    }
    for (const AxisKey& key : keys) drawLeadSense(painter, key);
    const auto here = m_model.along().keyHere();
    painter.setPen(QPen(t.ink, 1.0));
    painter.setBrush(t.ochre);
    for (const KeyMark& k : keyMarks()) {
        const double s = here && *here == k.key ? 7.5 : 6.0;
        painter.drawPolygon(QPolygonF({k.at + QPointF(0, -s), k.at + QPointF(s, 0), k.at + QPointF(0, s), k.at + QPointF(-s, 0)}));
    }
}

namespace {

/// An arrow on the screen with a light rim.
void arrow(QPainter& painter, const QPointF& from, const QPointF& to, const QColor& ink, double width) {
    const QPointF d = to - from;
    const double length = std::hypot(d.x(), d.y());
    if (length < 1.0) return;
    const QPointF way = d / length, side(-way.y(), way.x());
    const double head = std::min(9.0, 0.5 * length);
    const QPolygonF tip({to, to - head * way + 0.45 * head * side, to - head * way - 0.45 * head * side});
    painter.setPen(QPen(theme().card, width + 2.4, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(from, to - 0.8 * head * way);
    painter.setPen(QPen(ink, width, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(from, to - 0.8 * head * way);
    painter.setPen(QPen(theme().card, 1.0));
    painter.setBrush(ink);
    painter.drawPolygon(tip);
}

} // namespace

// Which way a key's lead leans: on a row that goes, and on the one beside it that comes back.
void View::drawLeadSense(QPainter& painter, const AxisKey& key) const {
    const auto& rows = m_model.result()->pattern->rows;
    const bool byPattern = m_model.recipe()->axis->leadByPattern;
    bool drawn[2] = {false, false};
    for (const Row& row : rows) {
        bool& done = drawn[row.returning ? 1 : 0];
        if (done || row.points.size() < 3) continue;
        done = true;
        const double f = (1.0 - row.level) * key.at + row.level * key.atLast, along = row.returning ? 1.0 - f : f;
        const auto lengths = arcLengths(row.points);
        const double step = 0.01 * lengths.back();
        const Vec3 at = pointAtLength(row.points, lengths, along * lengths.back());
        Vec3 way = pointAtLength(row.points, lengths, along * lengths.back() + step) - pointAtLength(row.points, lengths, along * lengths.back() - step);
        if (row.returning && byPattern) way = -way;
        if (key.leadDegrees < 0.0) way = -way;
        const auto from = m_camera.project(at), to = m_camera.project(at + way);
        if (!from || !to) continue;
        const QPointF d = *to - *from;
        const double length = std::hypot(d.x(), d.y());
        if (length < 0.5) continue;
        constexpr double kLong = 30.0; // pixels
        arrow(painter, *from, *from + kLong / length * d, theme().ink, 1.6);
    }
}

bool View::axisLinesPossible() const {
    return !m_atMachine && m_model.bench() == Bench::Cut && m_model.peel() >= Stage::Axis && m_model.picks().mode() == PickMode::None &&
           !m_model.along().axisLines().empty();
}

std::vector<std::optional<QPointF>> View::axisLineHeads() const {
    std::vector<std::optional<QPointF>> out;
    if (!axisLinesPossible()) return out;
    for (const Along::AxisLine& line : m_model.along().axisLines()) out.push_back(m_camera.project(line.head));
    return out;
}

std::optional<std::size_t> View::axisLineAt(const QPointF& pixel) const {
    const auto heads = axisLineHeads();
    for (std::size_t k = 0; k < heads.size(); ++k)
        if (heads[k] && std::hypot(heads[k]->x() - pixel.x(), heads[k]->y() - pixel.y()) < 9.0) return k;
    return std::nullopt;
}

// The lines that the axis goes by, as arrows from foot to spindle; a click on a head turns its line over.
void View::drawAxisLines(QPainter& painter) const {
    if (!axisLinesPossible()) return;
    const Theme& t = theme();
    const auto& lines = m_model.along().axisLines();
    for (std::size_t k = 0; k < lines.size(); ++k) {
        const auto foot = m_camera.project(lines[k].foot), head = m_camera.project(lines[k].head);
        if (!foot || !head) continue;
        arrow(painter, *foot, *head, t.accent, 2.2);
        painter.setPen(QPen(t.accent, 1.4));
        painter.setBrush(t.card);
        painter.drawEllipse(*foot, 3.5, 3.5);
        painter.setPen(t.ink);
        painter.drawText(*head + QPointF(8.0, -4.0), QString::number(k + 1));
    }
}

} // namespace gyre
