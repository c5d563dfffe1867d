// Words and handles drawn over the 3D view.
#include "Theme.h"
#include "Units.h"
#include "axis/AxisSpec.h"
#include "link/Link.h"
#include "model/Along.h"
#include "model/Closer.h"
#include "model/Picks.h"
#include "model/Programs.h"
#include "operation/Leans.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "view/View.h"
#include <QCoreApplication>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace gyre {

std::optional<View::Handles> View::handles() const {
    const auto r = m_model.result();
    const auto recipe = m_model.recipe();
    if (!r || !r->path() || !recipe || m_atMachine || m_model.bench() != Bench::Cut || (recipe->kind != OperationKind::Surface && recipe->kind != OperationKind::Curve))
        return std::nullopt;
    if (recipe->axis->rule != AxisRule::Surface && !m_model.along().keyHere()) return std::nullopt;
    const std::size_t i = m_model.location();
    const Toolpath& p = *r->path();
    const Leans leans(*r, recipe->axis);
    const auto feed = leans.feed(i);
    if (!feed) return std::nullopt;
    const Vec3 f = *feed, n = p.normal[i], side = n.cross(f);
    const LeadTilt lt = leadTiltOf(p.axis[i], n, f);
    Handles h;
    const double reach = 0.62 * r->tool.stickOut;
    h.pivot = p.tip[i];
    h.tilt = p.tip[i] + reach * p.axis[i];
    h.lead = p.tip[i] + 0.62 * reach * p.axis[i];
    h.leadWay = 0.62 * reach * std::cos(lt.tilt) * (-std::sin(lt.lead) * n + std::cos(lt.lead) * f) * leans.leadSign(i);
    h.tiltWay = reach * (-std::sin(lt.tilt) * (std::cos(lt.lead) * n + std::sin(lt.lead) * f) + std::cos(lt.tilt) * side) * leans.tiltSign(i);
    return h;
}

std::optional<QPointF> View::leadHandle() const {
    const auto h = handles();
    return h ? m_camera.project(h->lead) : std::nullopt;
}

std::optional<QPointF> View::tiltHandle() const {
    const auto h = handles();
    return h ? m_camera.project(h->tilt) : std::nullopt;
}

std::optional<std::pair<QPointF, QPointF>> View::rowArrow() const {
    const auto r = m_model.result();
    if (!r || !r->pattern || r->pattern->rows.empty() || m_atMachine || m_model.bench() != Bench::Cut || m_model.peel() != Stage::Pattern ||
        m_model.picks().mode() != PickMode::None || r->drill || r->mill)
        return std::nullopt;
    const Polyline& line = r->pattern->rows.front().points;
    if (line.size() < 2) return std::nullopt;
    // At the first place along it that faces the eye, as long as a thumbnail.
    const auto lengths = arcLengths(line);
    const double step = 34.0 * m_camera.pixelSize();
    for (const double share : {0.1, 0.3, 0.5, 0.7, 0.9}) {
        const auto a = m_camera.project(pointAtLength(line, lengths, share * lengths.back())),
                   b = m_camera.project(pointAtLength(line, lengths, share * lengths.back() + step));
        if (a && b && rect().adjusted(30, 60, -30, -60).contains(b->toPoint()) && std::hypot(b->x() - a->x(), b->y() - a->y()) > 12.0) return std::pair{*a, *b};
    }
    return std::nullopt;
}

QString View::hoverWords() const {
    if (m_guesses.empty()) return {};
    const QString more = m_guesses.size() > 1 ? tr(" · Space for next guess") : QString();
    return m_guesses[m_guess].words + more;
}

// A curved arrow's arc about a pivot with a knob to drag, and its name on a little card, so that it reads over any colour.
void View::drawHandle(QPainter& painter, const Vec3& pivot, const Vec3& at, const Vec3& way, const QString& name) const {
    const Theme& t = theme();
    QPainterPath path;
    const Vec3 spoke = at - pivot;
    bool first = true;
    for (int k = -10; k <= 10; ++k) {
        const double a = k * 0.035;
        const auto p = m_camera.project(pivot + std::cos(a) * spoke + std::sin(a) * way);
        if (!p) return;
        if (first)
            path.moveTo(*p);
        else
            path.lineTo(*p);
        first = false;
    }
    painter.setPen(QPen(t.card, 4.0));
    painter.drawPath(path);
    painter.setPen(QPen(t.ochre, 2.0));
    painter.drawPath(path);
    const auto knob = m_camera.project(at);
    painter.setBrush(t.ochre);
    painter.setPen(QPen(t.card, 1.5));
    painter.drawEllipse(*knob, 6.0, 6.0);
    const QRectF text = painter.fontMetrics().boundingRect(name);
    const QRectF card(path.pointAtPercent(1.0) + QPointF(6, -0.5 * text.height() - 2), QSizeF(text.width() + 10, text.height() + 4));
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.card);
    painter.drawRoundedRect(card, 4, 4);
    painter.setPen(t.ink);
    painter.drawText(card, Qt::AlignCenter, name);
}

void View::drawChip(QPainter& painter, const QPointF& at, const QString& text, const QColor& ink, bool below) const {
    const QRectF r = painter.fontMetrics().boundingRect(text).adjusted(-10, -6, 10, 6);
    QRectF box(at.x(), at.y() + (below ? 0 : -r.height()), r.width(), r.height());
    box.moveRight(std::min(box.right(), width() - 8.0));
    painter.setPen(QPen(theme().hairline, 1));
    painter.setBrush(theme().card);
    painter.drawRoundedRect(box, 6, 6);
    painter.setPen(ink);
    painter.drawText(box, Qt::AlignCenter, text);
}

void View::drawRowArrow(QPainter& painter) const {
    const auto arrow = rowArrow();
    if (!arrow) return;
    const Theme& t = theme();
    const auto [a, b] = *arrow;
    const double l = std::hypot(b.x() - a.x(), b.y() - a.y());
    const QPointF d = (b - a) / l, side(-d.y(), d.x());
    QPainterPath path(a);
    path.lineTo(b);
    path.moveTo(b - 9.0 * d + 5.0 * side);
    path.lineTo(b);
    path.lineTo(b - 9.0 * d - 5.0 * side);
    painter.setBrush(Qt::NoBrush);
    for (const auto& [colour, width] : {std::pair{t.card, 6.0}, std::pair{t.ochre, 2.6}}) {
        painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        painter.drawPath(path);
    }
    drawChip(painter, b + 8.0 * d + QPointF(4, 4), tr("rows run this way · click to turn"), t.ink, true);
}

void View::drawDrag(QPainter& painter) const {
    if (m_drag != Drag::Window && m_drag != Drag::Lasso) return;
    painter.setPen(QPen(theme().accent, 1.5, Qt::DashLine));
    QColor fill = theme().accent;
    fill.setAlpha(28);
    painter.setBrush(fill);
    if (m_drag == Drag::Window)
        painter.drawRect(QRectF(m_pressed, m_cursor).normalized());
    else
        painter.drawPolygon(m_lasso);
}

// What a click is for now.
QString View::pickWords() const {
    const PickMode mode = m_model.picks().mode();
    if (mode == PickMode::Feature) return m_model.picks().feature().prompt;
    const PickWord* word = pickWord(mode);
    const QString what = word                          ? QCoreApplication::translate("Picks", word->prompt)
                         : mode == PickMode::PlaneFace ? tr("Click a face: the plane touches it there")
                                                       : QString();
    return what.isEmpty() ? what : tr("%1 · Esc when done").arg(what);
}

// Names of planes and of the zero; those that would lie over each other stand one below the other.
void View::drawSetUpNames(QPainter& painter) const {
    std::vector<QRectF> taken;
    const auto name = [&](const Vec3& of, const QString& text) {
        const auto at = m_camera.project(of);
        if (!at) return;
        QRectF room(*at + QPointF(8, 8), painter.fontMetrics().boundingRect(text).adjusted(-10, -6, 10, 6).size());
        for (std::size_t tries = 0; tries <= taken.size(); ++tries)
            for (const QRectF& other : taken)
                if (room.intersects(other)) room.moveTop(other.bottom() + 2);
        taken.push_back(room);
        drawChip(painter, room.topLeft(), text, theme().ink, true);
    };
    for (const WorkPlane& p : m_model.job().planes) name(p.origin, QString::fromStdString(p.name));
    if (!m_model.job().zero.isZero()) name(m_model.job().zero, tr("zero"));
}

View::HereWords View::hereWords() const {
    const auto r = m_model.result();
    if (!r || !r->path() || r->path()->empty()) return {};
    const Toolpath& p = *r->path();
    const std::size_t i = std::min(m_model.location(), p.size() - 1);
    HereWords out;
    QStringList& words = out.words;
    if (p.motion[i] == Motion::Cut)
        words << QString::fromStdString(passName(r->links->originOf(p.row[i]), p.row[i]));
    else
        words << tr(motionName(p.motion[i]));
    const auto recipe = m_model.recipe();
    if (recipe && (recipe->kind == OperationKind::Surface || recipe->kind == OperationKind::Curve))
        if (const auto lean = Leans(*r, recipe->axis).at(i)) words << tr("lead %1° · tilt %2°").arg(degrees(lean->lead), 0, 'f', 1).arg(degrees(lean->tilt), 0, 'f', 1);
    if (const auto q = joints()) {
        const auto place = m_model.place();
        for (int j : place->machine->rotaries())
            words << QString("%1 %2°")
                         .arg(QString::fromStdString(place->machine->joints[static_cast<std::size_t>(j)].name))
                         .arg(degrees((*q)[static_cast<std::size_t>(j)]), 0, 'f', 2);
    }
    if (i < r->holderClearance.size()) {
        const auto text = [](float v) { return v >= 20.0f ? QObject::tr("over 20 mm") : QString("%1 mm").arg(v, 0, 'f', 2); };
        words << tr("shank %1").arg(text(r->shankClearance[i])) << tr("holder %1").arg(text(r->holderClearance[i]));
    }
    const auto hazards = m_model.hazards();
    out.near = std::any_of(hazards.begin(), hazards.end(), [&](const AppModel::HazardStretch& h) { return i >= h.first && i <= h.last; });
    if (out.near) words << tr("▲ too near");
    return out;
}

// What is true at this place, in one line; or why there is none.
void View::drawPlaceWords(QPainter& painter) const {
    const Theme& t = theme();
    if (HereWords here = hereWords(); !here.words.isEmpty()) {
        // In a narrow view what the tape says as well gives way, the axes in the corner stay free.
        const auto said = [&] { return inUnits(here.words.join("  ·  "), m_model.inches()); };
        while (here.words.size() > 2 && painter.fontMetrics().horizontalAdvance(said()) > width() - 120) here.words.removeAt(1);
        drawChip(painter, {14, height() - 14.0}, said(), here.near ? t.unsafe : t.ink, false);
        // What the control reads there, once a program is written.
        if (const QString line = m_model.programs().lineHere(); !line.isEmpty()) {
            const QFontMetrics letters = painter.fontMetrics();
            drawChip(painter, {14, height() - 14.0 - letters.height() - 18.0}, letters.elidedText(line, Qt::ElideRight, width() - 60), t.softInk, false);
        }
    } else if (m_model.hasJob() && !m_model.computing()) {
        const auto r = m_model.result();
        const QString why = !m_model.setupTrouble().isEmpty() ? m_model.setupTrouble()
                            : r && !r->findings.empty()       ? QString::fromStdString(r->findings.front().text)
                                                              : QString();
        if (!why.isEmpty()) drawChip(painter, {14, height() - 14.0}, tr("Nothing was generated: %1").arg(why), t.unsafe, false);
    }
}

void View::drawOverlay(QPainter& painter) {
    const Theme& t = theme();
    painter.setRenderHint(QPainter::Antialiasing);
    if (const auto h = handles()) {
        const auto key = m_model.along().keyHere();
        drawHandle(painter, h->pivot, h->tilt, h->tiltWay, key ? tr("tilt of key %1").arg(*key + 1) : tr("tilt"));
        drawHandle(painter, h->pivot, h->lead, h->leadWay, key ? tr("lead of key %1").arg(*key + 1) : tr("lead"));
    }
    drawAxes(painter);
    drawRowsLeftOut(painter);
    drawWorstOfStock(painter);
    drawTooNear(painter);
    drawAxisLines(painter);
    drawKeys(painter);
    drawRowArrow(painter);
    drawMoving(painter);
    drawMeasures(painter);
    drawDrag(painter);
    if (const QString words = hoverWords(); !words.isEmpty()) drawChip(painter, m_cursor + QPointF(16, 12), words, t.ink, true);
    if (const QString words = pickWords(); !words.isEmpty()) drawChip(painter, {14, m_overlayTop}, words, t.accent, true);
    const bool setUp = m_model.bench() == Bench::SetUp;
    if (setUp && m_model.hasJob() && !m_atMachine) drawSetUpNames(painter);
    if (const QString words = closerWords(); !words.isEmpty() && !setUp && !m_atMachine && m_model.picks().mode() == PickMode::None)
        drawChip(painter, {14, m_overlayTop}, words, words.contains("▲") ? t.unsafe : t.ink, true);
    if (!m_model.closer().from()) drawStockLegend(painter);
    if (!setUp || !m_model.setupTrouble().isEmpty()) drawPlaceWords(painter);
}

} // namespace gyre
