#include "panels/TapePanel.h"
#include "Theme.h"
#include "Units.h"
#include "base/Units.h"
#include "machine/Machine.h"
#include "model/Along.h"
#include "model/StockShow.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "panels/RouteStrip.h"
#include "pattern/Pattern.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <utility>

namespace gyre {

TapeChart::TapeChart(OpenJob& open, Along& along, StockShow& stock, QWidget* parent) : QWidget(parent), m_open(open), m_along(along), m_stock(stock) {
    setObjectName("tape");
    setAccessibleName(tr("Tape: motion along the path"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(120);
    const auto old = [this] {
        m_old = true;
        update();
    };
    // A moment after the view: both in one go would hold up the window's thread twice as long.
    m_later.setSingleShot(true);
    m_later.setInterval(40);
    connect(&m_later, &QTimer::timeout, this, old);
    connect(&m_open, &OpenJob::resultChanged, &m_later, qOverload<>(&QTimer::start));
    connect(&m_open, &OpenJob::selectionChanged, this, old);
    connect(&m_open, &OpenJob::proofChanged, &m_later, qOverload<>(&QTimer::start));
    connect(&m_stock, &StockShow::measured, this, old);
    connect(&m_stock, &StockShow::engagementMeasured, this, old);
    connect(&m_stock, &StockShow::changed, this, [this, old] { // hidden again: so is what it told
        const bool told = std::any_of(m_channels.begin(), m_channels.end(), [](const Channel& c) { return c.unit == "cm³/min"; });
        if (told != (m_stock.figures() != nullptr)) old();
    });
    connect(&m_open, &OpenJob::computingChanged, this, [this, old] {
        if (m_channels.empty()) old();
    });
    connect(&m_open, &OpenJob::locationChanged, this, [this] { update(); });
}

QRect TapeChart::plot() const { return rect().adjusted(160, 10, -14, -8); }

void TapeChart::setByTime(bool on) {
    m_byTime = on;
    m_old = true;
    update();
}

double TapeChart::xOf(std::size_t location) const {
    if (m_lengths.empty()) return plot().left();
    return plot().left() + m_lengths[std::min(location, m_lengths.size() - 1)] / std::max(1e-9, m_lengths.back()) * (plot().width() - 1);
}

std::size_t TapeChart::locationAt(double x) const {
    if (m_lengths.empty()) return 0;
    const double s = std::clamp((x - plot().left()) / std::max(1, plot().width() - 1), 0.0, 1.0) * m_lengths.back();
    return static_cast<std::size_t>(
        std::min<std::ptrdiff_t>(std::lower_bound(m_lengths.begin(), m_lengths.end(), s) - m_lengths.begin(), static_cast<std::ptrdiff_t>(m_lengths.size()) - 1));
}

// The channels are drawn once; while scrubbing only the playhead moves over their picture.
void TapeChart::paintEvent(QPaintEvent*) {
    if (m_old) rebuild();
    QPainter p(this);
    p.drawPixmap(0, 0, m_picture);
    if (m_channels.empty()) return;
    const Theme& t = theme();
    const QRect area = plot();
    p.setRenderHint(QPainter::Antialiasing);
    const double x = xOf(m_open.location());
    p.setPen(QPen(t.ink, 1.6));
    p.drawLine(QPointF(x, area.top() - 6), QPointF(x, area.bottom() + 5));
    p.setBrush(t.ink);
    p.drawPolygon(QPolygonF({QPointF(x - 5, area.top() - 9), QPointF(x + 5, area.top() - 9), QPointF(x, area.top() - 2)}));
    drawValues(p, x);
    drawKeys(p);
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

QRectF TapeChart::lane(std::size_t channel) const {
    std::size_t shown = 0, before = 0;
    for (std::size_t k = 0; k < m_channels.size(); ++k) {
        shown += m_channels[k].shown;
        before += k < channel && m_channels[k].shown;
    }
    if (!m_channels[channel].shown) return {};
    const double each = static_cast<double>(plot().height()) / static_cast<double>(std::max<std::size_t>(1, shown));
    return {static_cast<double>(plot().left()), plot().top() + each * static_cast<double>(before), static_cast<double>(plot().width()), each};
}

QStringList TapeChart::channels() const {
    QStringList names;
    for (const Channel& c : m_channels) names << c.name;
    return names;
}

void TapeChart::showChannel(const QString& channel, bool on) {
    if (on)
        m_hidden.remove(channel);
    else if (std::count_if(m_channels.begin(), m_channels.end(), [this](const Channel& c) { return shows(c.name); }) > 1) // one stays
        m_hidden.insert(channel);
    m_old = true;
    update();
}

// Clearances are measured up to 20 mm.
QString TapeChart::valueOf(const Channel& c) const {
    if (m_open.location() >= c.values.size()) return {};
    const float v = c.values[m_open.location()];
    if (!std::isfinite(v)) return {};
    if (c.demanded && v >= 19.999f) return inUnits(tr("over 20 mm"), m_open.inches());
    return inUnits(QString("%1 %2").arg(static_cast<double>(v), 0, 'f', c.unit == "mm" ? 2 : 1).arg(c.unit), m_open.inches());
}

QString TapeChart::valueHere(const QString& channel) const {
    for (const Channel& c : m_channels)
        if (c.name == channel) return valueOf(c);
    return {};
}

QString TapeChart::rangeOf(const Channel& c) const {
    const bool length = c.unit == "mm", inches = length && m_open.inches();
    const QString unit = inches ? QString("in") : c.unit;
    const auto number = [&](float v) {
        const bool beyond = c.demanded && v >= 19.999f;
        const double value = (beyond ? 20.0 : static_cast<double>(v)) / (inches ? kMmPerInch : 1.0);
        return QString::number(value, 'f', inches ? 3 : beyond || !length ? 0 : 2) + (beyond ? "+" : "");
    };
    const QString low = number(c.least), high = number(c.most);
    return low == high ? QString("%1 %2").arg(low, unit) : QString("%1 … %2 %3").arg(low, high, unit);
}

// What each channel says where the playhead stands, beside it.
void TapeChart::drawValues(QPainter& p, double x) const {
    const Theme& t = theme();
    QFont small = font();
    small.setPixelSize(11);
    p.setFont(small);
    const QFontMetrics m(small);
    for (std::size_t k = 0; k < m_channels.size(); ++k) {
        const QString text = m_channels[k].shown ? valueOf(m_channels[k]) : QString();
        if (text.isEmpty()) continue;
        const QRectF lane = this->lane(k);
        const double w = m.horizontalAdvance(text) + 8, h = std::min(lane.height() - 2.0, m.height() + 1.0);
        const QRectF box(x + 6 + w > plot().right() ? x - 6 - w : x + 6, lane.center().y() - 0.5 * h, w, h);
        p.setPen(QPen(t.hairline, 1));
        p.setBrush(t.card);
        p.drawRoundedRect(box, 3, 3);
        p.setPen(t.ink);
        p.drawText(box, Qt::AlignCenter, text);
    }
}

double TapeChart::degreesPerPixel(std::size_t channel) const {
    const Channel& c = m_channels[channel];
    const double least = c.demanded ? std::min(0.0, static_cast<double>(c.least)) : c.least,
                 most = c.demanded ? std::max(static_cast<double>(c.most), *c.demanded * 1.5) : c.most;
    return std::max(most - least, c.unit == "mm" ? 0.5 : 2.0) / (lane(channel).height() - 7.0);
}

double TapeChart::yOf(std::size_t channel, double value) const {
    const Channel& c = m_channels[channel];
    const double least = c.demanded ? std::min(0.0, static_cast<double>(c.least)) : c.least,
                 most = c.demanded ? std::max(static_cast<double>(c.most), *c.demanded * 1.5) : c.most;
    return lane(channel).center().y() - (value - 0.5 * (least + most)) / degreesPerPixel(channel);
}

void TapeChart::drawChannels(QPainter& p) const {
    const Theme& t = theme();
    const QRect area = plot();
    p.setFont(font());
    if (m_channels.empty()) {
        p.setPen(t.softInk);
        p.drawText(rect(), Qt::AlignCenter,
                   m_open.computing()                                  ? tr("Computing…")
                   : m_open.recipe() && carries(m_open.recipe()->kind) ? tr("What stands under it makes the paths: choose one")
                                                                       : tr("No path to show yet"));
        return;
    }
    p.setRenderHint(QPainter::Antialiasing);
    // Hazards: hatched spans, at least three pixels wide so that none is missed.
    for (const auto& [first, last] : m_hazards) {
        double a = xOf(first), b = xOf(last);
        if (b - a < 3.0) {
            a -= 1.5;
            b = a + 3.0;
        }
        const QRectF span(a, area.top() - 4, b - a, area.height() + 8);
        p.fillRect(span, t.unsafeSoft);
        p.fillRect(span, QBrush(t.unsafe, Qt::BDiagPattern));
    }
    for (std::size_t k = 0; k < m_channels.size(); ++k) {
        const Channel& c = m_channels[k];
        if (!c.shown) continue;
        const QRectF lane = this->lane(k);
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(lane.bottomLeft(), lane.bottomRight());
        p.setPen(t.ink);
        p.setFont(font());
        p.drawText(QRectF(4, lane.top(), 54, lane.height()), Qt::AlignVCenter | Qt::AlignRight, c.name);
        QFont small = font();
        small.setPixelSize(11);
        p.setFont(small);
        p.setPen(t.softInk);
        p.drawText(QRectF(62, lane.top(), 92, lane.height()), Qt::AlignVCenter | Qt::AlignLeft, rangeOf(c));
        const auto y = [&](double v) { return yOf(k, v); };
        if (c.demanded) {
            p.setPen(QPen(t.unsafe, 1, Qt::DashLine));
            p.drawLine(QPointF(lane.left(), y(*c.demanded)), QPointF(lane.right(), y(*c.demanded)));
        }
        // Upright strips a pixel wide, each from the least to the greatest value and on to its neighbour: a stroked line of
        // thousands of corners takes ten times as long.
        const QColor ink = c.demanded ? t.ink : c.soft ? t.slate : t.accent;
        double above = NAN, below = NAN;
        for (std::size_t x = 0; x < c.low.size(); ++x) {
            if (!std::isfinite(c.low[x])) continue;
            double top = y(c.high[x]), bottom = y(c.low[x]);
            const double ownTop = top, ownBottom = bottom;
            if (top > below) top = below;
            if (bottom < above) bottom = above;
            above = ownTop;
            below = ownBottom;
            p.fillRect(QRectF(lane.left() + static_cast<double>(x), top - 0.7, 1.0, bottom - top + 1.4), ink);
        }
    }
}

void TapeChart::changeEvent(QEvent* e) {
    if (e->type() == QEvent::PaletteChange || e->type() == QEvent::StyleChange || e->type() == QEvent::FontChange) m_old = true;
    QWidget::changeEvent(e);
}

void TapeChart::resizeEvent(QResizeEvent* e) {
    m_old = true;
    QWidget::resizeEvent(e);
}

void TapeChart::mousePressEvent(QMouseEvent* e) {
    if (const auto key = keyAt(e->position()); key && e->button() == Qt::RightButton) return m_along.removeKey(key->key);
    if (e->button() != Qt::LeftButton) return;
    if ((m_drag = keyAt(e->position()))) {
        m_dragged = m_open.recipe()->axis->keys[m_drag->key];
        m_dragStart = e->position();
        return;
    }
    m_open.setLocation(locationAt(e->position().x()));
}

void TapeChart::mouseReleaseEvent(QMouseEvent*) { m_drag.reset(); }

void TapeChart::mouseMoveEvent(QMouseEvent* e) {
    if (m_drag) return dragKey(e->position());
    if (e->buttons() & Qt::LeftButton) return m_open.setLocation(locationAt(e->position().x()));
    // What the channels say under the cursor.
    const auto at = static_cast<std::ptrdiff_t>(e->position().x()) - plot().left();
    QStringList words;
    for (const Channel& c : m_channels)
        if (c.shown && at >= 0 && at < static_cast<std::ptrdiff_t>(c.low.size()) && std::isfinite(c.low[static_cast<std::size_t>(at)]))
            words << QString("%1 %2 %3").arg(c.name).arg(c.low[static_cast<std::size_t>(at)], 0, 'f', 2).arg(c.unit);
    if (keyAt(e->position())) words << tr("axis key: drag it, right-click takes it away");
    setToolTip(words.join("\n"));
}

void TapeChart::wheelEvent(QWheelEvent* e) {
    const auto n = m_lengths.size();
    const auto by = static_cast<std::ptrdiff_t>(std::max<std::size_t>(1, n / 400)) * (e->angleDelta().y() > 0 ? -1 : 1);
    m_open.setLocation(static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, static_cast<std::ptrdiff_t>(m_open.location()) + by)));
}

void TapeChart::keyPressEvent(QKeyEvent* e) {
    const std::size_t by = e->modifiers() & Qt::ShiftModifier ? 25 : 1, now = m_open.location();
    switch (e->key()) {
    case Qt::Key_Left:
        return m_open.setLocation(now > by ? now - by : 0);
    case Qt::Key_Right:
        return m_open.setLocation(now + by);
    case Qt::Key_Home:
        return m_open.setLocation(0);
    case Qt::Key_End:
        return m_open.setLocation(SIZE_MAX);
    case Qt::Key_Insert:
        if (const auto on = m_along.onRow(now); on && keysPossible()) return m_along.addKey(on->fraction);
        break;
    case Qt::Key_Delete: // the key that the playhead stands on
        for (const KeyMark& k : keyMarks())
            if (std::abs(k.at.x() - xOf(now)) < 6.0) return m_along.removeKey(k.key);
        break;
    default:
        QWidget::keyPressEvent(e);
    }
}

void TapePanel::makeButtons(QVBoxLayout* side) {
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(2);
    const auto button = [&](const QString& text, const QString& name, const QString& tip, auto&& action) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        b->setAccessibleName(tip);
        b->setToolTip(tip);
        b->setProperty("role", "flat");
        b->setFixedWidth(34);
        connect(b, &QPushButton::clicked, this, action);
        buttons->addWidget(b);
        return b;
    };
    button(QString::fromUtf8("|◂"), "toStart", tr("To the start"), [this] { m_open.setLocation(0); });
    button(QString::fromUtf8("◂"), "rowBack", tr("Row back"), [this] { stepRow(-1); });
    m_play = button(QString::fromUtf8("▶"), "play", tr("Play or pause"), [this] { play(!playing()); });
    button(QString::fromUtf8("▸"), "rowForward", tr("Row forward"), [this] { stepRow(1); });
    button(QString::fromUtf8("▸|"), "toEnd", tr("To the end"), [this] { m_open.setLocation(SIZE_MAX); });
    side->addLayout(buttons);
    m_where = new QLabel(this);
    m_where->setProperty("role", "soft");
    m_where->setObjectName("where");
    side->addWidget(m_where);
    auto* hazards = new QHBoxLayout;
    hazards->setSpacing(2);
    auto* back = new QPushButton(tr("◂ hazard"), this);
    auto* forward = new QPushButton(tr("hazard ▸"), this);
    back->setObjectName("hazardBack");
    forward->setObjectName("hazardForward");
    for (auto* b : {back, forward}) {
        b->setProperty("role", "flat");
        b->setAccessibleName(b->text());
        hazards->addWidget(b);
    }
    connect(back, &QPushButton::clicked, this, [this] { stepHazard(-1); });
    connect(forward, &QPushButton::clicked, this, [this] { stepHazard(1); });
    side->addLayout(hazards);
}

TapePanel::TapePanel(OpenJob& open, Route& route, Along& along, StockShow& stock, QWidget* parent) : QWidget(parent), m_open(open), m_along(along), m_stock(stock) {
    setObjectName("tapePanel");
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 4, 12, 4);
    auto* charts = new QVBoxLayout;
    charts->setSpacing(0);
    charts->addWidget(new RouteStrip(open, route, this));
    m_chart = new TapeChart(open, along, stock, this);
    charts->addWidget(m_chart, 1);
    row->addLayout(charts, 1);
    auto* side = new QVBoxLayout;
    side->setSpacing(2);
    makeButtons(side);
    makeChoices(side);
    side->addStretch();
    row->addLayout(side);
    m_timer.setInterval(33);
    connect(&m_timer, &QTimer::timeout, this, &TapePanel::tick);
    for (auto signal : {&OpenJob::resultChanged, &OpenJob::locationChanged, &OpenJob::selectionChanged}) connect(&m_open, signal, this, &TapePanel::refresh);
}

// Along what the tape runs, how fast it plays, and which channels it has.
void TapePanel::makeChoices(QVBoxLayout* side) {
    const auto flat = [&](const QString& name, const QString& tip) {
        auto* b = new QPushButton(this);
        b->setObjectName(name);
        b->setProperty("role", "flat");
        b->setAccessibleName(tip);
        b->setToolTip(tip);
        return b;
    };
    auto* along = flat("tapeAlong", tr("Along what the tape runs: the time it takes, or the length of the path"));
    along->setText(tr("along time"));
    connect(along, &QPushButton::clicked, this, [this, along] {
        const bool time = along->text() != tr("along time");
        along->setText(time ? tr("along time") : tr("along length"));
        m_chart->setByTime(time);
    });
    auto* speed = flat("speed", tr("How fast it plays, and where it stops by itself"));
    makeSpeeds(speed);
    auto* channels = flat("tapeChannels", tr("Which channels the tape has"));
    channels->setText(tr("channels"));
    auto* menu = new QMenu(channels);
    menu->setObjectName("tapeChannelsMenu");
    connect(menu, &QMenu::aboutToShow, this, [this, menu] {
        menu->clear();
        for (const QString& c : m_chart->channels()) {
            QAction* a = menu->addAction(c, this, [this, c](bool on) { m_chart->showChannel(c, on); });
            a->setObjectName("channel." + c);
            a->setCheckable(true);
            a->setChecked(m_chart->shows(c));
        }
    });
    channels->setMenu(menu);
    auto* choices = new QHBoxLayout;
    choices->setSpacing(2);
    choices->addWidget(along);
    choices->addWidget(speed);
    side->addLayout(choices);
    side->addWidget(channels);
}

void TapePanel::stepRow(int way) {
    const auto r = m_open.result();
    if (!r || !r->path() || r->path()->empty()) return;
    const auto& rows = r->path()->row;
    auto i = static_cast<std::ptrdiff_t>(std::min(m_open.location(), rows.size() - 1));
    const int now = rows[static_cast<std::size_t>(i)];
    while (i >= 0 && i < static_cast<std::ptrdiff_t>(rows.size()) && rows[static_cast<std::size_t>(i)] == now) i += way;
    m_open.setLocation(static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(i, 0, static_cast<std::ptrdiff_t>(rows.size()) - 1)));
}

void TapePanel::refresh() {
    const auto r = m_open.result();
    if (!r || !r->path() || r->path()->empty() || !r->complete()) return m_where->setText({});
    const std::size_t i = std::min(m_open.location(), r->path()->size() - 1);
    const int number = r->path()->row[i];
    QString what = QString::fromStdString(passName(r->originOf(number), number));
    if (const PassOrigin from = r->originOf(number); from.level < 0 && from.layer < 0) what = tr("%1 of %2").arg(what).arg(r->pattern->rows.size());
    QString time = tr("%1 of %2").arg(clockWords(r->motion->timeOf(i)), clockWords(r->motion->duration));
    const std::size_t step = r->motion->stepOf[i];
    if (const int by = step < r->motion->limitedBy.size() ? r->motion->limitedBy[step] : -1; by >= 0 && m_open.place() && m_open.place()->machine)
        time = tr("%1, waits for %2").arg(time, QString::fromStdString(m_open.place()->machine->joints[static_cast<std::size_t>(by)].name));
    m_where->setText(what + "\n" + time);
}

} // namespace gyre
