#include "panels/SeatsPanel.h"
#include "Theme.h"
#include "Units.h"
#include "base/Units.h"
#include "model/OpenJob.h"
#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <functional>

namespace gyre {
namespace {

constexpr int kSeatsWide = 452, kMap = 416;

class TableMap : public QWidget {
public:
    std::function<void(const QString&)> pointed;

    TableMap(SeatShow& seats, QWidget* parent) : QWidget(parent), m_seats(seats) {
        setFixedSize(kMap, kMap);
        setObjectName("seats.map");
        setMouseTracking(true);
    }

protected:
    void paintEvent(QPaintEvent*) override {
        if (!m_seats.map()) return;
        const SeatMap& map = *m_seats.map();
        const Theme& t = theme();
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        QPolygonF table;
        for (const Vec2& c : map.table) table << at(c);
        p.setPen(QPen(t.softInk, 1.5));
        p.setBrush(mixed(t.machine, t.card, 0.6));
        p.drawPolygon(table);
        double fastest = 1e300, slowest = 0.0;
        for (const SeatTry& s : map.places)
            if (s.goes()) {
                fastest = std::min(fastest, s.seconds);
                slowest = std::max(slowest, s.seconds);
            }
        constexpr double kAlike = 0.05; // times that differ by less look nearly the same
        QFont small = font();
        small.setPointSizeF(std::max(6.5, 0.72 * small.pointSizeF()));
        p.setFont(small);
        for (std::size_t j = 0; j < map.y.size(); ++j)
            for (std::size_t i = 0; i < map.x.size(); ++i) {
                const SeatTry& s = map.at(m_seats.sheet(), i, j);
                if (s.onTable) drawCell(p, s, cell(i, j), (s.seconds - fastest) / std::max({1e-9, slowest - fastest, kAlike * fastest}));
            }
        drawFoot(p, map.present, Qt::DashLine, t.ink);
        if (const auto chosen = m_seats.chosen()) drawFoot(p, *chosen, Qt::SolidLine, t.accent);
    }
    void mouseMoveEvent(QMouseEvent* e) override {
        if (pointed) pointed(wordsAt(e->position()));
    }
    void leaveEvent(QEvent*) override {
        if (pointed) pointed({});
    }
    void mousePressEvent(QMouseEvent* e) override {
        if (const auto [i, j] = cellAt(e->position()); i >= 0) m_seats.choose(static_cast<std::size_t>(i), static_cast<std::size_t>(j));
    }

private:
    /// Seat coordinates on the screen: X to the right, Y up.
    [[nodiscard]] double scale() const {
        double reach = 1.0;
        for (const Vec2& c : m_seats.map()->table) reach = std::max({reach, std::abs(c.x() - middle().x()), std::abs(c.y() - middle().y())});
        return (0.5 * kMap - 8.0) / reach;
    }
    [[nodiscard]] Vec2 middle() const {
        Vec2 low(1e300, 1e300), high(-1e300, -1e300);
        for (const Vec2& c : m_seats.map()->table) {
            low = low.cwiseMin(c);
            high = high.cwiseMax(c);
        }
        return 0.5 * (low + high);
    }
    [[nodiscard]] QPointF at(const Vec2& p) const {
        const Vec2 d = scale() * (p - middle());
        return {0.5 * kMap + d.x(), 0.5 * kMap - d.y()};
    }
    [[nodiscard]] double step() const {
        const SeatMap& map = *m_seats.map();
        double s = 1e9;
        if (map.x.size() > 1) s = std::min(s, map.x[1] - map.x[0]);
        if (map.y.size() > 1) s = std::min(s, map.y[1] - map.y[0]);
        return s < 1e9 ? s : 50.0;
    }
    [[nodiscard]] QRectF cell(std::size_t i, std::size_t j) const {
        const double size = scale() * step() - 2.0;
        const QPointF c = at({m_seats.map()->x[i], m_seats.map()->y[j]});
        return {c.x() - 0.5 * size, c.y() - 0.5 * size, size, size};
    }
    [[nodiscard]] std::pair<int, int> cellAt(const QPointF& p) const {
        if (m_seats.map())
            for (std::size_t j = 0; j < m_seats.map()->y.size(); ++j)
                for (std::size_t i = 0; i < m_seats.map()->x.size(); ++i)
                    if (cell(i, j).adjusted(-1, -1, 1, 1).contains(p) && m_seats.map()->at(m_seats.sheet(), i, j).onTable)
                        return {static_cast<int>(i), static_cast<int>(j)};
        return {-1, -1};
    }
    [[nodiscard]] QString wordsAt(const QPointF& p) const {
        const auto [i, j] = cellAt(p);
        if (i < 0) return {};
        const SeatTry& s = m_seats.map()->at(m_seats.sheet(), static_cast<std::size_t>(i), static_cast<std::size_t>(j));
        return SeatsPanel::tr("%1: %2").arg(m_seats.placeWords(s), m_seats.tryWords(s));
    }
    // The stronger the shorter; where it does not go, a cross with the joint that stands in the way.
    static void drawCell(QPainter& p, const SeatTry& s, const QRectF& r, double slow) {
        const Theme& t = theme();
        p.setPen(QPen(t.hairline, 1));
        const QColor fill = s.goes() ? mixed(mixed(t.accent, t.card, 0.35), mixed(t.accent, t.card, 0.92), slow) : t.card;
        p.setBrush(fill);
        p.drawRoundedRect(r, 3, 3);
        if (!s.goes()) {
            p.setPen(QPen(mixed(t.unsafe, t.card, 0.45), 1.2));
            p.drawLine(r.topLeft() + QPointF(3, 3), r.bottomRight() - QPointF(3, 3));
            p.drawLine(r.topRight() + QPointF(-3, 3), r.bottomLeft() + QPointF(3, -3));
        }
        const QString words = s.goes()         ? clockWords(s.seconds)
                              : s.beyond > 0.0 ? QString("%1 +%2").arg(QString::fromStdString(s.leaves).section(' ', 0, 0)).arg(s.beyond, 0, 'f', 0)
                                               : QString();
        const double wide = p.fontMetrics().horizontalAdvance(words);
        if (wide > r.width() || words.isEmpty()) return;
        if (!s.goes()) p.fillRect(QRectF(r.center().x() - 0.5 * wide - 2.0, r.center().y() - 7.0, wide + 4.0, 14.0), fill);
        p.setPen(!s.goes() ? t.unsafe : Theme::contrast(t.ink, fill) >= 4.5 ? t.ink : t.card);
        p.drawText(r, Qt::AlignCenter, words);
    }
    void drawFoot(QPainter& p, const SeatTry& s, Qt::PenStyle style, const QColor& colour) const {
        const double a = radians(s.turnDegrees);
        QPolygonF foot;
        for (const Vec2& c : m_seats.map()->foot)
            foot << at({s.seat.x() + std::cos(a) * c.x() - std::sin(a) * c.y(), s.seat.y() + std::sin(a) * c.x() + std::cos(a) * c.y()});
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().card, 4.0));
        p.drawPolygon(foot);
        p.setPen(QPen(colour, 2.0, style));
        p.drawPolygon(foot);
        p.drawEllipse(at({s.seat.x(), s.seat.y()}), 3.0, 3.0);
    }
    SeatShow& m_seats;
};

} // namespace

SeatsPanel::SeatsPanel(OpenJob& open, SeatShow& seats, QWidget* parent) : OverView("seatsPanel", kSeatsWide, parent), m_open(open), m_seats(seats) {
    setAccessibleName(tr("Where the part should stand"));
    auto* column = begin("seats.close", tr("Close the map of the table"));
    m_trouble = softLine("seats.trouble", column);
    auto* sheets = new QWidget(this);
    auto* line = new QHBoxLayout(sheets);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(0);
    line->addWidget(new QLabel(tr("The part turned by  "), sheets));
    m_sheets = new QButtonGroup(this);
    for (int k = 0; k < 4; ++k) {
        auto* b = new QPushButton(QString::fromUtf8("%1°").arg(90 * k), sheets);
        b->setObjectName(QString("seats.sheet%1").arg(k));
        b->setCheckable(true);
        b->setProperty("role", "bench");
        b->setProperty("place", k == 0 ? "first" : k == 3 ? "last" : "middle");
        m_sheets->addButton(b, k);
        line->addWidget(b);
    }
    line->addStretch(1);
    connect(m_sheets, &QButtonGroup::idClicked, this, [this](int k) { m_seats.setSheet(static_cast<std::size_t>(k)); });
    column->addWidget(sheets);
    auto* map = new TableMap(m_seats, this);
    m_map = map;
    column->addWidget(m_map, 0, Qt::AlignHCenter);
    m_under = softLine("seats.under", column);
    map->pointed = [this](const QString& words) { m_under->setText(words.isEmpty() ? tr("From above; dashed: as it stands. Click a place to choose it.") : words); };
    map->pointed({});
    m_summary = new QLabel(this);
    m_summary->setObjectName("seats.summary");
    m_summary->setWordWrap(true);
    column->addWidget(m_summary);
    m_take = new QPushButton(this);
    m_take->setObjectName("seats.take");
    m_take->setProperty("role", "primary");
    connect(m_take, &QPushButton::clicked, this, [this] { m_seats.take(); });
    column->addWidget(m_take, 0, Qt::AlignLeft);
    column->addStretch(1);
    connect(&seats, &SeatShow::changed, this, &SeatsPanel::refresh);
    for (const auto signal : {&OpenJob::benchChanged, &OpenJob::jobChanged}) connect(&open, signal, this, &SeatsPanel::refresh);
    refresh();
}

int SeatsPanel::high() const { return std::min(OverView::high(), (m_seats.map() ? kMap + 14 * fontMetrics().height() : 7 * fontMetrics().height())); }

void SeatsPanel::refresh() {
    const bool open = m_seats.isOpen() && m_open.bench() != Bench::Send && m_open.hasJob();
    setVisible(open);
    if (!open) return;
    m_heading->setText(tr("WHERE THE PART SHOULD STAND"));
    const auto& map = m_seats.map();
    m_trouble->setText(map ? QString() : m_seats.trouble().isEmpty() ? tr("Running the paths at many places of the table …") : m_seats.trouble());
    m_trouble->setVisible(!m_trouble->text().isEmpty());
    m_map->setVisible(map.has_value());
    m_under->setVisible(map.has_value());
    m_sheets->button(0)->parentWidget()->setVisible(map.has_value());
    m_sheets->button(static_cast<int>(m_seats.sheet()))->setChecked(true);
    m_summary->setText(m_seats.summary());
    const auto chosen = m_seats.chosen();
    m_take->setVisible(chosen.has_value());
    if (chosen) {
        m_take->setText(tr("Stand it %1").arg(m_seats.placeWords(*chosen)));
        m_take->setEnabled(chosen->measured && chosen->onTable);
    }
    m_map->update();
    place();
}

} // namespace gyre
