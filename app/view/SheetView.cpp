#include "view/SheetView.h"
#include "Theme.h"
#include "kinds/MillInput.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "operation/OperationResult.h"
#include "panels/Card.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "view/Picking.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace gyre {

namespace {

constexpr double kLeft = 46.0, kTop = 40.0, kBelow = 18.0; // pixels that scales and the bar take

QPolygonF polygon(const std::vector<Vec2>& line, const auto& pixel) {
    QPolygonF out;
    out.reserve(static_cast<qsizetype>(line.size()));
    for (const Vec2& p : line) out << pixel(p);
    return out;
}

double niceStep(double least) {
    const double power = std::pow(10.0, std::floor(std::log10(least)));
    for (const double m : {1.0, 2.0, 5.0, 10.0})
        if (m * power >= least) return m * power;
    return 10.0 * power;
}

} // namespace

SheetView::SheetView(OpenJob& open, Picks& picks, Milling& milling, QWidget* parent) : QWidget(parent), m_open(open), m_picks(picks), m_milling(milling) {
    setObjectName("sheetView");
    setAccessibleName(tr("Unrolled sheet"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(150);
    auto* bar = new QHBoxLayout(this);
    bar->setContentsMargins(10, 8, 10, 0);
    bar->setSpacing(6);
    bar->setAlignment(Qt::AlignTop);
    m_draw = flatButton(tr("Draw"), "sheetDraw", tr("Draw a curve on the sheet, click by click (D)"), this);
    m_draw->setCheckable(true);
    connect(m_draw, &QPushButton::clicked, this, [this](bool on) { setDrawing(on); });
    m_done = flatButton(tr("Done"), "sheetDone", tr("Keep what is drawn as a curve, open (Return)"), this);
    connect(m_done, &QPushButton::clicked, this, [this] { finishDrawing(false); });
    m_close = flatButton(tr("Close it"), "sheetClose", tr("Keep what is drawn as a closed curve (Shift+Return)"), this);
    connect(m_close, &QPushButton::clicked, this, [this] { finishDrawing(true); });
    m_typed = new QLineEdit(this);
    m_typed->setObjectName("sheetTyped");
    m_typed->setAccessibleName(tr("Points by numbers"));
    m_typed->setFixedWidth(190);
    m_typed->installEventFilter(this);
    m_hint = new QLabel(this);
    m_hint->setProperty("role", "soft");
    m_hint->setObjectName("sheetHint");
    for (QWidget* w : std::initializer_list<QWidget*>{m_draw, m_typed, m_done, m_close, m_hint}) bar->addWidget(w);
    bar->addStretch();
    for (auto signal : {&OpenJob::jobChanged, &OpenJob::placeChanged, &OpenJob::selectionChanged, &OpenJob::resultChanged})
        connect(&m_open, signal, this, &SheetView::remake);
    connect(&m_milling, &Milling::sheetChanged, this, &SheetView::remake);
    const auto again = [this] { update(); };
    for (auto signal : {&OpenJob::locationChanged, &OpenJob::peelChanged}) connect(&m_open, signal, this, again);
    connect(&m_milling, &Milling::hoveredChanged, this, again);
    connect(&m_picks, &Picks::modeChanged, this, again);
    setDrawing(false);
    remake();
}

// A plane as it is drawn: x to the right, y up. What was unrolled runs round to the right, by growing angles, and along upward: turned, not
// mirrored, so that many turns find room.
Vec2 SheetView::shownWay(const Vec2& flat) const { return m_sheet && m_sheet->wrapped ? Vec2(-flat.y(), flat.x()) : flat; }
Vec2 SheetView::flatWay(const Vec2& shown) const { return m_sheet && m_sheet->wrapped ? Vec2(shown.y(), -shown.x()) : shown; }

QPointF SheetView::pixelOf(const Vec2& flat) const {
    const Vec2 d = m_scale * shownWay(flat - m_centre);
    return {kLeft + 0.5 * (width() - kLeft) + d.x(), kTop + 0.5 * (height() - kTop - kBelow) - d.y()};
}

Vec2 SheetView::flatAt(const QPointF& pixel) const {
    return m_centre + flatWay(Vec2((pixel.x() - kLeft - 0.5 * (width() - kLeft)) / m_scale, (kTop + 0.5 * (height() - kTop - kBelow) - pixel.y()) / m_scale));
}

void SheetView::setDrawing(bool on) {
    m_drawing = on;
    if (!on) m_points.clear();
    m_draw->setChecked(on);
    m_typed->setVisible(on);
    m_done->setVisible(on);
    m_close->setVisible(on);
    m_hint->setVisible(on);
    if (on) m_picks.setMode(PickMode::None);
    const bool round = m_sheet && m_sheet->wrapped;
    m_typed->setPlaceholderText(round ? tr("along degrees; …") : tr("x y; …"));
    m_hint->setText(tr("Click points · Return when done · Esc to give up"));
    setCursor(on ? Qt::CrossCursor : Qt::ArrowCursor);
    update();
}

void SheetView::finishDrawing(bool closed) {
    const std::vector<Vec2> points = m_points;
    const auto sheet = m_sheet;
    setDrawing(false);
    if (points.size() < 2 || !sheet) return emit m_open.toldUser(tr("A curve needs two points at least."));
    m_milling.addCurve(*sheet, points, closed);
}

// Typed points go on from those that were clicked: along the axis and degrees around, or x and y; a third number, the radius, must be the sheet's.
void SheetView::readPoints() {
    if (!m_sheet) return;
    const auto points = sketchPoints(m_typed->text().toStdString());
    if (!points) return emit m_open.toldUser(QString::fromStdString(points.error().text()));
    const double unit = m_open.inches() ? 25.4 : 1.0;
    for (const auto& p : *points) {
        if (m_sheet->wrapped && p[2] != 0.0 && std::abs(p[2] * unit - m_sheet->radius) > 1e-6)
            return emit m_open.toldUser(tr("The sheet is unrolled at radius %1; a point at radius %2 cannot lie on it. Change the radius in the recipe first.")
                                            .arg(m_sheet->radius / unit)
                                            .arg(p[2]));
        m_points.push_back(m_sheet->wrapped ? Vec2(p[0] * unit, m_sheet->fromDegrees(p[1])) : Vec2(p[0] * unit, p[1] * unit));
    }
    m_typed->clear();
    update();
}

// Return in the line of numbers reads them; it does not end the drawing as well.
bool SheetView::eventFilter(QObject* object, QEvent* e) {
    if (object == m_typed && e->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(e)->key();
        if (key == Qt::Key_Return || key == Qt::Key_Enter) {
            if (m_typed->text().trimmed().isEmpty())
                finishDrawing(static_cast<QKeyEvent*>(e)->modifiers() & Qt::ShiftModifier);
            else
                readPoints();
            return true;
        }
    }
    return QWidget::eventFilter(object, e);
}

void SheetView::remake() {
    const auto sheet = m_milling.sheet();
    const auto place = m_open.place();
    const bool other =
        !sheet || !m_sheet || sheet->wrapped != m_sheet->wrapped || !sheet->frame.isApprox(m_sheet->frame, 1e-9) || std::abs(sheet->radius - m_sheet->radius) > 1e-9;
    const auto part = place ? place->part : nullptr;
    if (other || part != m_part) {
        m_edges.clear();
        if (sheet && part)
            for (std::size_t e = 0; e < part->edges().size(); ++e) {
                if (part->edges()[e].degenerate) continue;
                FlatEdge flat;
                flat.edge = static_cast<int>(e);
                double near = 0.0, high = -1e300, low = 1e300;
                for (const Vec3& p : part->edgeLine(static_cast<int>(e))) {
                    const Vec3 q = sheet->flat(p, near);
                    near = q.y();
                    high = std::max(high, q.z());
                    low = std::min(low, q.z());
                    flat.line.push_back(q.head<2>());
                }
                // The inside of a tube would only be in the way.
                if (flat.line.size() < 2 || (sheet->wrapped && high < -0.25 * sheet->radius)) continue;
                flat.onSheet = std::abs(high) < 0.05 || std::abs(low) < 0.05;
                m_edges.push_back(std::move(flat));
            }
        if (other) m_framed = false;
    }
    m_part = part;
    m_sheet = sheet;
    m_curves.clear();
    if (const Recipe* r = m_open.recipe(); r && m_sheet && place && part)
        if (const auto gathered = gatherMill(*place, m_open.job().resolved(*r))) {
            const auto add = [&](const Curve& c, bool flat) {
                std::vector<Vec2>& line = m_curves.emplace_back();
                double near = 0.0;
                for (const Vec3& p : c.polyline(0.02)) {
                    const Vec3 q = flat ? p : m_sheet->flat(p, near);
                    near = q.y();
                    line.push_back(q.head<2>());
                }
            };
            for (const Curve& c : gathered->input.curves) add(c, false);
            for (const Curve& c : gathered->input.drawn) add(c, true);
        }
    m_draw->setEnabled(m_sheet != nullptr);
    update();
}

void SheetView::showAll() {
    Vec2 low = Vec2::Constant(1e300), high = Vec2::Constant(-1e300);
    const auto add = [&](const std::vector<Vec2>& line) {
        for (const Vec2& p : line) {
            low = low.cwiseMin(p);
            high = high.cwiseMax(p);
        }
    };
    for (const FlatEdge& e : m_edges) add(e.line);
    for (const auto& c : m_curves) add(c);
    if (low.x() > high.x()) return;
    if (m_sheet && m_sheet->wrapped) { // a whole turn at least
        low.y() = std::min(low.y(), -0.5 * m_sheet->turn());
        high.y() = std::max(high.y(), 0.5 * m_sheet->turn());
    }
    m_centre = 0.5 * (low + high);
    const Vec2 size = shownWay(high - low).cwiseAbs().cwiseMax(Vec2::Constant(1.0));
    m_scale = 0.92 * std::min((width() - kLeft) / size.x(), (height() - kTop - kBelow) / size.y());
    m_framed = true;
}

QString SheetView::wordsFor(const Vec2& flat) const {
    const double unit = m_open.inches() ? 25.4 : 1.0;
    const int digits = m_open.inches() ? 3 : 2;
    if (!m_sheet) return {};
    if (!m_sheet->wrapped) return QString("%1  %2").arg(flat.x() / unit, 0, 'f', digits).arg(flat.y() / unit, 0, 'f', digits);
    return QString("%1 · %2° · R %3").arg(flat.x() / unit, 0, 'f', digits).arg(m_sheet->degrees(flat.y()), 0, 'f', 2).arg(m_sheet->radius / unit, 0, 'f', digits);
}

void SheetView::drawGrid(QPainter& p) const {
    const Theme& t = theme();
    const double unit = m_open.inches() ? 25.4 : 1.0;
    const Vec2 one = flatAt(QPointF(kLeft, height())), other = flatAt(QPointF(width(), kTop)), low = one.cwiseMin(other), high = one.cwiseMax(other);
    QFont small = font();
    small.setPixelSize(11);
    p.setFont(small);
    // A line at one coordinate of the sheet; upright or level, as it is shown.
    const auto rule = [&](const Vec2& at, bool upright, const QString& text, bool strong) {
        const QPointF q = pixelOf(at);
        if (upright ? q.x() < kLeft : q.y() < kTop || q.y() > height() - kBelow) return;
        p.setPen(QPen(strong ? t.slate : t.hairline, 1, strong ? Qt::DashLine : Qt::SolidLine));
        if (upright)
            p.drawLine(QPointF(q.x(), kTop), QPointF(q.x(), height() - kBelow));
        else
            p.drawLine(QPointF(kLeft, q.y()), QPointF(width(), q.y()));
        p.setPen(t.softInk);
        if (upright)
            p.drawText(QRectF(q.x() - 40, height() - 17, 80, 15), Qt::AlignCenter, text);
        else
            p.drawText(QRectF(2, q.y() - 8, kLeft - 6, 16), Qt::AlignRight | Qt::AlignVCenter, text);
    };
    const bool wrapped = m_sheet->wrapped;
    const double step = niceStep((wrapped ? 26.0 : 60.0) / m_scale / unit) * unit;
    for (double x = std::ceil(low.x() / step) * step; x <= high.x(); x += step) rule({x, 0.0}, !wrapped, QString::number(x / unit + 0.0, 'g', 6), false);
    if (!wrapped) {
        for (double y = std::ceil(low.y() / step) * step; y <= high.y(); y += step) rule({0.0, y}, false, QString::number(y / unit + 0.0, 'g', 6), false);
        return;
    }
    double across = m_sheet->turn() / 4.0; // a quarter turn; less or more of it where there is room
    while (across * m_scale > 130.0) across /= 3.0;
    while (across * m_scale < 44.0) across *= 2.0;
    for (double y = std::ceil(low.y() / across) * across; y <= high.y(); y += across)
        rule({0.0, y}, true, QString("%1°").arg(std::round(10.0 * m_sheet->degrees(y)) / 10.0 + 0.0), std::abs(std::remainder(y, m_sheet->turn())) < 1e-6);
}

void SheetView::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), t.card);
    p.setPen(t.hairline);
    p.drawLine(0, 0, width(), 0);
    if (!m_sheet) {
        p.setPen(t.softInk);
        p.drawText(rect(), Qt::AlignCenter, tr("Pick something, or choose what the work is wrapped around: then it is laid flat here."));
        return;
    }
    if (!m_framed) showAll();
    drawGrid(p);
    p.setClipRect(QRectF(kLeft, kTop, width() - kLeft, height() - kTop - kBelow));
    const auto result = m_open.result();
    const bool current = result && result->mill;
    if (current) paintArea(p, *result->mill);
    paintEdges(p);
    if (current && m_open.peel() >= Stage::Pattern && !m_open.stale()) paintPasses(p, *result->mill);
    p.setPen(QPen(t.ochre, 2.2));
    for (const auto& c : m_curves) p.drawPolyline(polygon(c, [this](const Vec2& q) { return pixelOf(q); }));
    if (current && result->path() && m_open.location() < result->path()->size()) paintTool(p, result->path()->tip[m_open.location()], 0.5 * result->tool.cutter.diameter);
    if (m_drawing) paintDrawing(p);
    p.setClipping(false);
    if (m_inside) paintWords(p);
}

void SheetView::paintArea(QPainter& p, const MillResult& mill) const {
    if (mill.target.empty()) return;
    QPainterPath area;
    for (const Loop& l : mill.target.loops) {
        area.addPolygon(polygon(l, [this](const Vec2& q) { return pixelOf(q); }));
        area.closeSubpath();
    }
    QColor fill = theme().accentSoft;
    fill.setAlpha(150);
    p.fillPath(area, fill);
}

// The part's edges, on every turn that is in sight.
void SheetView::paintEdges(QPainter& p) const {
    const Theme& t = theme();
    const double turn = m_sheet->wrapped ? m_sheet->turn() : 0.0;
    const double one = flatAt(QPointF(kLeft, height())).y(), other = flatAt(QPointF(width(), kTop)).y(), low = std::min(one, other), high = std::max(one, other);
    const int from = turn > 0.0 ? static_cast<int>(std::floor(low / turn)) - 1 : 0, to = turn > 0.0 ? static_cast<int>(std::ceil(high / turn)) + 1 : 0;
    const std::vector<int>& hovered = m_milling.hovered();
    std::vector<int> picked;
    if (const Recipe* r = m_open.recipe(); r && m_part)
        if (const auto edges = resolveEdges(*m_part, r->target->edges)) picked = *edges;
    for (int k = std::max(from, -20); k <= std::min(to, 20); ++k)
        for (const FlatEdge& e : m_edges) {
            const bool lit = std::find(hovered.begin(), hovered.end(), e.edge) != hovered.end(), taken = std::find(picked.begin(), picked.end(), e.edge) != picked.end();
            QPen pen(lit || taken ? t.ochre : e.onSheet ? t.ink : t.softInk, lit ? 3.4 : taken ? 2.4 : e.onSheet ? 1.3 : 0.9);
            if (k != 0 && !lit) pen.setColor(QColor(pen.color().red(), pen.color().green(), pen.color().blue(), 110));
            p.setPen(pen);
            p.drawPolyline(polygon(e.line, [&](const Vec2& q) { return pixelOf({q.x(), q.y() + k * turn}); }));
        }
}

void SheetView::paintPasses(QPainter& p, const MillResult& mill) const {
    p.setPen(QPen(theme().accent, 1.0));
    for (const FlatPass& pass : mill.flat) {
        QPolygonF line;
        for (const FlatPoint& q : pass.points) line << pixelOf(q.at.head<2>() + q.shift);
        p.drawPolyline(line);
    }
}

// Where the tool is now.
void SheetView::paintTool(QPainter& p, const Vec3& tip, double radius) const {
    const Vec3 q = m_sheet->flat(tip, m_centre.y());
    const double r = std::max(3.0, radius * m_scale);
    QColor fill = theme().ochre;
    fill.setAlpha(70);
    p.setBrush(fill);
    p.setPen(QPen(theme().ochre, 1.5));
    p.drawEllipse(pixelOf(q.head<2>()), r, r);
    p.setBrush(Qt::NoBrush);
}

// The line that is being drawn.
void SheetView::paintDrawing(QPainter& p) const {
    const Theme& t = theme();
    p.setPen(QPen(t.accent, 2.0));
    p.drawPolyline(polygon(m_points, [this](const Vec2& q) { return pixelOf(q); }));
    if (m_inside && !m_points.empty()) {
        p.setPen(QPen(t.accent, 1.2, Qt::DashLine));
        p.drawLine(pixelOf(m_points.back()), pixelOf(snapped(m_cursor)));
    }
    p.setBrush(t.accent);
    p.setPen(Qt::NoPen);
    for (const Vec2& q : m_points) p.drawEllipse(pixelOf(q), 3.0, 3.0);
    p.setBrush(Qt::NoBrush);
}

// Where the pointer is.
void SheetView::paintWords(QPainter& p) const {
    const Theme& t = theme();
    const QString words = wordsFor(m_drawing ? snapped(m_cursor) : flatAt(m_cursor));
    const QRectF box = QRectF(p.fontMetrics().boundingRect(words)).adjusted(-8, -4, 8, 4);
    const QRectF at(width() - box.width() - 10, 10, box.width(), box.height());
    p.setPen(t.hairline);
    p.setBrush(t.panel);
    p.drawRoundedRect(at, 4, 4);
    p.setPen(t.ink);
    p.drawText(at, Qt::AlignCenter, words);
}

std::optional<std::size_t> SheetView::edgeNear(const QPointF& pixel) const {
    if (!m_sheet) return std::nullopt;
    Vec2 q = flatAt(pixel);
    std::optional<std::size_t> best;
    double least = 8.0 / m_scale;
    const double turn = m_sheet->wrapped ? m_sheet->turn() : 0.0;
    for (std::size_t e = 0; e < m_edges.size(); ++e) {
        const auto& line = m_edges[e].line;
        for (std::size_t i = 1; i < line.size(); ++i) {
            Vec2 p = q;
            if (turn > 0.0) p.y() = line[i].y() + std::remainder(q.y() - line[i].y(), turn);
            const Vec2 d = line[i] - line[i - 1];
            const double t = d.squaredNorm() > 0.0 ? std::clamp((p - line[i - 1]).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
            const double away = (line[i - 1] + t * d - p).norm() + (m_edges[e].onSheet ? 0.0 : 2.0 / m_scale); // those of the sheet first
            if (away < least) {
                least = away;
                best = e;
            }
        }
    }
    return best;
}

// Ends of edges draw points to themselves; else whole units where they are near.
Vec2 SheetView::snapped(const QPointF& pixel) const {
    const Vec2 q = flatAt(pixel);
    const double turn = m_sheet && m_sheet->wrapped ? m_sheet->turn() : 0.0;
    double least = 7.0 / m_scale;
    Vec2 best = q;
    for (const FlatEdge& e : m_edges)
        for (const Vec2& end : {e.line.front(), e.line.back()}) {
            Vec2 p = end;
            if (turn > 0.0) p.y() = q.y() + std::remainder(end.y() - q.y(), turn);
            if ((p - q).norm() < least) {
                least = (p - q).norm();
                best = p;
            }
        }
    if (best != q || !m_sheet) return best;
    const double fine = std::max(0.01, niceStep(3.0 / m_scale));
    best.x() = std::round(q.x() / fine) * fine;
    best.y() = m_sheet->wrapped ? m_sheet->fromDegrees(std::round(m_sheet->degrees(q.y()))) : std::round(q.y() / fine) * fine;
    return best;
}

void SheetView::mousePressEvent(QMouseEvent* e) {
    m_pressed = m_last = e->position();
    m_moved = false;
    m_panning = e->button() != Qt::LeftButton || !m_drawing;
}

void SheetView::mouseMoveEvent(QMouseEvent* e) {
    m_cursor = e->position();
    m_inside = true;
    if (e->buttons() != Qt::NoButton) {
        if ((m_cursor - m_pressed).manhattanLength() > 4) m_moved = true;
        if (m_moved && m_panning) {
            const QPointF by = m_cursor - m_last;
            m_centre += flatWay(Vec2(-by.x(), by.y()) / m_scale);
        }
        m_last = m_cursor;
    } else if (!m_drawing) {
        std::vector<int> lit;
        if (const auto near = edgeNear(m_cursor); near && m_part)
            lit = m_picks.mode() == PickMode::Edges || m_picks.mode() == PickMode::Profile ? edgeGuesses(*m_part, {}, m_edges[*near].edge).front().edges
                                                                                           : std::vector<int>{m_edges[*near].edge};
        m_milling.setHovered(lit);
    }
    update();
}

void SheetView::mouseReleaseEvent(QMouseEvent* e) {
    if (m_moved || e->button() != Qt::LeftButton) return;
    if (m_drawing) {
        m_points.push_back(snapped(e->position()));
        return update();
    }
    const auto near = edgeNear(e->position());
    if (!near || !m_part) return;
    const bool profile = m_picks.mode() == PickMode::Profile;
    if (!profile && m_picks.mode() != PickMode::Edges) m_picks.setMode(PickMode::Edges); // a click on an edge of the sheet means it
    m_picks.toggleEdges(edgeGuesses(*m_part, {}, m_edges[*near].edge).front().edges, profile ? PickMode::Profile : PickMode::Edges);
}

void SheetView::mouseDoubleClickEvent(QMouseEvent*) {
    if (m_drawing) return finishDrawing(false);
    showAll();
    update();
}

void SheetView::wheelEvent(QWheelEvent* e) {
    const Vec2 under = flatAt(e->position());
    m_scale = std::clamp(m_scale * std::pow(1.0015, e->angleDelta().y()), 0.01, 2000.0);
    m_centre += under - flatAt(e->position());
    update();
}

void SheetView::keyPressEvent(QKeyEvent* e) {
    const bool enter = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter;
    if (m_drawing && enter) return finishDrawing(e->modifiers() & Qt::ShiftModifier);
    if (m_drawing && e->key() == Qt::Key_Escape) return setDrawing(false);
    if (m_drawing && e->key() == Qt::Key_Backspace && !m_points.empty()) {
        m_points.pop_back();
        return update();
    }
    if (e->key() == Qt::Key_D && e->modifiers() == Qt::NoModifier) return setDrawing(!m_drawing);
    QWidget::keyPressEvent(e);
}

void SheetView::leaveEvent(QEvent* e) {
    m_inside = false;
    m_milling.setHovered({});
    update();
    QWidget::leaveEvent(e);
}

void SheetView::resizeEvent(QResizeEvent* e) {
    m_framed = false;
    QWidget::resizeEvent(e);
}

} // namespace gyre
