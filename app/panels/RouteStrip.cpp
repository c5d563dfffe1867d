#include "panels/RouteStrip.h"
#include "Theme.h"
#include "Units.h"
#include "model/Route.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>

namespace gyre {

namespace {
constexpr int kHigh = 22;
constexpr double kUnknown = 20.0; // s, for the eye: of a path that is not there yet
} // namespace

RouteStrip::RouteStrip(OpenJob& open, Route& route, QWidget* parent) : QWidget(parent), m_open(open), m_route(route) {
    setObjectName("routeStrip");
    setAccessibleName(tr("The whole route along the time it takes"));
    setFocusPolicy(Qt::TabFocus);
    setMouseTracking(true);
    setFixedHeight(kHigh);
    for (auto signal : {&OpenJob::jobChanged, &OpenJob::selectionChanged, &OpenJob::resultChanged, &OpenJob::proofChanged})
        connect(&m_open, signal, this, &RouteStrip::refresh);
    connect(&m_open, &OpenJob::locationChanged, this, [this] { update(); });
    refresh();
}

void RouteStrip::refresh() {
    m_stretches.clear();
    double from = 0.0;
    if (m_open.hasJob())
        for (const Recipe& r : m_open.job().worked()) {
            Stretch s;
            s.operation = QString::fromStdString(r.id);
            s.number = m_route.numberOf(r);
            const auto done = m_open.result(s.operation);
            const std::shared_ptr<const JointMotion> motion = done ? done->motion : nullptr;
            s.known = motion != nullptr;
            const auto* proof = m_open.proof(s.operation);
            s.proven = proof != nullptr;
            const auto stop = [](const Finding& f) { return f.rank == Rank::Stop; };
            s.stops =
                (done && std::any_of(done->findings.begin(), done->findings.end(), stop)) || (proof && std::any_of(proof->findings.begin(), proof->findings.end(), stop));
            s.from = from;
            s.to = from + (motion ? motion->duration : kUnknown);
            if (motion)
                for (const PathHazard& h : done->hazards)
                    if (h.last < motion->stepOf.size()) s.hazards.emplace_back(motion->timeOf(h.first), motion->timeOf(h.last));
            from = s.to;
            m_stretches.push_back(std::move(s));
        }
    setVisible(m_stretches.size() > 1); // of one operation the tape itself tells all
    update();
}

QRectF RouteStrip::plot() const { return QRectF(rect()).adjusted(160, 3, -14, -3); }

double RouteStrip::xOf(double seconds) const {
    const double all = m_stretches.empty() ? 1.0 : std::max(1e-9, m_stretches.back().to);
    return plot().left() + seconds / all * plot().width();
}

std::optional<double> RouteStrip::now() const {
    const auto r = m_open.result();
    for (const Stretch& s : m_stretches)
        if (s.operation == m_open.selected() && s.known && r && r->complete() && m_open.location() < r->motion->stepOf.size())
            return s.from + r->motion->timeOf(m_open.location());
    return std::nullopt;
}

const RouteStrip::Stretch* RouteStrip::at(double x) const {
    for (const Stretch& s : m_stretches)
        if (x >= xOf(s.from) && x <= xOf(s.to)) return &s;
    return nullptr;
}

void RouteStrip::goTo(double x) {
    const Stretch* s = at(std::clamp(x, plot().left(), plot().right()));
    if (!s) return;
    const double span = std::max(1e-9, xOf(s->to) - xOf(s->from)), share = std::clamp((x - xOf(s->from)) / span, 0.0, 1.0), seconds = share * (s->to - s->from);
    const QString operation = s->operation;
    m_open.select(operation); // makes the stretches anew
    const auto r = m_open.result();
    if (!r || !r->complete()) return;
    const std::size_t n = r->motion->stepOf.size();
    std::size_t low = 0, high = n;
    while (low + 1 < high) {
        const std::size_t middle = low + (high - low) / 2;
        (r->motion->timeOf(middle) <= seconds ? low : high) = middle;
    }
    m_open.setLocation(low);
}

void RouteStrip::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton) goTo(e->position().x());
}

void RouteStrip::mouseMoveEvent(QMouseEvent* e) {
    if (e->buttons() & Qt::LeftButton) goTo(e->position().x());
}

void RouteStrip::keyPressEvent(QKeyEvent* e) {
    const int way = e->key() == Qt::Key_Left ? -1 : e->key() == Qt::Key_Right ? 1 : 0;
    const auto here = std::find_if(m_stretches.begin(), m_stretches.end(), [&](const Stretch& s) { return s.operation == m_open.selected(); });
    if (way == 0 || m_stretches.empty()) return QWidget::keyPressEvent(e);
    const auto i = here == m_stretches.end() ? 0 : std::clamp<std::ptrdiff_t>(here - m_stretches.begin() + way, 0, static_cast<std::ptrdiff_t>(m_stretches.size()) - 1);
    const QString to = m_stretches[static_cast<std::size_t>(i)].operation;
    m_open.select(to);
}

bool RouteStrip::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    const auto* help = static_cast<QHelpEvent*>(e);
    const Stretch* s = at(help->pos().x());
    const Recipe* r = s ? m_open.job().operation(s->operation.toStdString()) : nullptr;
    QToolTip::showText(help->globalPos(), r ? tr("%1  %2 · %3%4")
                                                  .arg(s->number, QString::fromStdString(r->name), s->known ? clockWords(s->to - s->from) : tr("no path yet"),
                                                       s->stops    ? tr(" · there are Stops")
                                                       : s->proven ? tr(" · proven")
                                                                   : QString())
                                            : QString());
    return true;
}

void RouteStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF area = plot();
    QFont small = font();
    small.setPixelSize(11);
    p.setFont(small);
    p.setPen(t.softInk);
    const bool all = std::all_of(m_stretches.begin(), m_stretches.end(), [](const Stretch& s) { return s.known; });
    p.drawText(QRectF(4, 0, 150, height()), Qt::AlignVCenter | Qt::AlignRight,
               m_stretches.empty() ? QString()
               : all               ? tr("route  %1").arg(clockWords(m_stretches.back().to))
                                   : tr("route"));
    for (const Stretch& s : m_stretches) {
        const bool here = s.operation == m_open.selected();
        const QRectF box(xOf(s.from) + 0.5, area.top(), std::max(1.0, xOf(s.to) - xOf(s.from) - 1.0), area.height());
        p.setPen(QPen(here ? t.accent : t.hairline, here ? 1.6 : 1.0, s.known ? Qt::SolidLine : Qt::DashLine));
        p.setBrush(here ? t.accentSoft : t.card);
        p.drawRoundedRect(box, 2, 2);
        // Hazards, hatched like on the tape and never thinner than can be seen.
        for (const auto& [a, b] : s.hazards) {
            const double x = xOf(s.from + a), w = std::max(2.0, xOf(s.from + b) - x);
            p.fillRect(QRectF(x, area.top() + 1, w, area.height() - 2), t.unsafeSoft);
            p.fillRect(QRectF(x, area.top() + 1, w, area.height() - 2), QBrush(t.unsafe, Qt::BDiagPattern));
        }
        const QString mark = s.number + (s.stops ? QString::fromUtf8(" ▲") : s.proven ? QString::fromUtf8(" ✓") : QString());
        if (p.fontMetrics().horizontalAdvance(mark) > box.width() - 4) continue;
        p.setPen(s.stops ? t.unsafe : t.ink);
        p.drawText(box, Qt::AlignCenter, mark);
    }
    if (const auto seconds = now()) {
        const double x = xOf(*seconds);
        p.setPen(QPen(t.ink, 1.6));
        p.drawLine(QPointF(x, 1), QPointF(x, height() - 1));
    }
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

} // namespace gyre
