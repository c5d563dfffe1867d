#include "panels/SkyPanel.h"
#include "Theme.h"
#include "base/Units.h"
#include "model/OpenJob.h"
#include <QMouseEvent>
#include <QPainter>
#include <utility>

namespace gyre {
namespace {

constexpr double kMargin = 10.0, kLine = 18.0;

// Kinds are told apart without colour: holder by strokes that rise, shank by dots, cutter by a grid, reach by lines across, the window by lines down.
bool inked(const SkyMap::Cell& c, int x, int y) {
    switch (c.kind) {
    case SkyMap::Kind::Blocked:
        return c.zone == Zone::Holder ? (x + y) % 6 == 0 : c.zone == Zone::Shank ? x % 5 < 2 && y % 5 < 2 : x % 5 == 0 || y % 5 == 0;
    case SkyMap::Kind::Reach:
        return y % 6 == 0;
    case SkyMap::Kind::Outside:
        return x % 6 == 0;
    default:
        return false;
    }
}

/// Ground and ink. @param rooms it was measured how much room there is
std::pair<QColor, QColor> coloursOf(const SkyMap::Cell& c, bool rooms) {
    const Theme& t = theme();
    switch (c.kind) {
    case SkyMap::Kind::Blocked:
        return {t.unsafeSoft, mixed(t.unsafe, t.unsafeSoft, 0.25)};
    case SkyMap::Kind::Reach:
        return {mixed(t.slate, t.card, 0.75), t.slate};
    case SkyMap::Kind::Outside:
        return {mixed(t.ochre, t.card, 0.75), t.ochre};
    default: { // the more room the stronger
        const double share = rooms ? static_cast<double>(c.room / SkyMap::kMostRoom) : 0.4;
        return {mixed(t.accent, t.card, 0.9 - 0.35 * share), t.accent};
    }
    }
}

bool same(const SkyMap::Cell& a, const SkyMap::Cell& b) { return a.kind == b.kind && a.zone == b.zone && a.obstacle == b.obstacle; }

} // namespace

SkyPanel::SkyPanel(OpenJob& open, SkyShow& sky, QWidget* parent) : QWidget(parent), m_sky(sky) {
    setObjectName("skyPanel");
    setAccessibleName(tr("Map of directions"));
    setMouseTracking(true);
    setToolTip(tr("All directions of the axis at this place, seen from above the surface: the middle is its normal, up is the feed. Drag the dot to turn the axis"));
    m_open = button("sky.open", tr("Directions"), tr("Which directions of the axis are free at this place (Y)"));
    m_larger = button("sky.larger", "+", tr("Larger or smaller (Y)"));
    m_close = button("sky.close", QString::fromUtf8("×"), tr("Close the map"));
    connect(m_open, &QPushButton::clicked, this, [&sky] { sky.show(SkySize::Small); });
    connect(m_larger, &QPushButton::clicked, this, [&sky] { sky.show(sky.size() == SkySize::Large ? SkySize::Small : SkySize::Large); });
    connect(m_close, &QPushButton::clicked, this, [&sky] { sky.show(SkySize::Off); });
    connect(&sky, &SkyShow::changed, this, &SkyPanel::refresh);
    for (const auto signal : {&OpenJob::selectionChanged, &OpenJob::benchChanged, &OpenJob::jobChanged}) connect(&open, signal, this, &SkyPanel::refresh);
    parent->installEventFilter(this);
    refresh();
}

QPushButton* SkyPanel::button(const QString& name, const QString& text, const QString& help) {
    auto* b = new QPushButton(text, this);
    b->setObjectName(name);
    b->setAccessibleName(help);
    b->setToolTip(help);
    b->setProperty("role", "flat");
    b->setCursor(Qt::PointingHandCursor);
    return b;
}

QSize SkyPanel::sizeHint() const {
    switch (m_sky.size()) {
    case SkySize::Large:
        return {372, 432};
    case SkySize::Small:
        return {186, 228};
    case SkySize::Off:
        break;
    }
    return m_open->sizeHint();
}

bool SkyPanel::eventFilter(QObject* watched, QEvent* e) {
    if (watched == parent() && e->type() == QEvent::Resize) place();
    return QWidget::eventFilter(watched, e);
}

void SkyPanel::place() {
    resize(sizeHint().boundedTo(parentWidget()->size()));
    move(parentWidget()->width() - width() - 12, 12);
    m_open->setGeometry(rect());
    m_larger->setGeometry(4, 4, 22, 22);
    m_close->setGeometry(width() - 26, 4, 22, 22);
}

double SkyPanel::radius() const { return 0.5 * width() - kMargin; }
QPointF SkyPanel::centre() const { return {0.5 * width(), kMargin + radius()}; }

QPointF SkyPanel::pixelOf(const Vec3& axis) const {
    const auto& picture = m_sky.picture();
    if (!picture) return centre();
    const Vec2 at = picture->map.placeOf(axis);
    return centre() + radius() * QPointF(at.x(), -at.y());
}

std::optional<Vec3> SkyPanel::axisUnder(const QPointF& pixel) const {
    const auto& picture = m_sky.picture();
    const QPointF off = (pixel - centre()) / radius();
    const Vec2 at(off.x(), -off.y());
    if (!picture || at.norm() > 1.0) return std::nullopt;
    return picture->map.axisAt(at);
}

void SkyPanel::refresh() {
    const SkySize size = m_sky.size();
    setVisible(m_sky.possible());
    m_open->setVisible(size == SkySize::Off);
    m_larger->setVisible(size != SkySize::Off);
    m_larger->setText(size == SkySize::Large ? QString::fromUtf8("–") : QString("+"));
    m_close->setVisible(size != SkySize::Off);
    place();
    raise();
    drawDisc();
    update();
}

void SkyPanel::drawDisc() {
    const auto& picture = m_sky.picture();
    m_disc = {};
    if (!picture) return;
    const double scale = devicePixelRatioF();
    const int across = static_cast<int>(2.0 * radius() * scale);
    m_disc = QImage(across, across, QImage::Format_ARGB32_Premultiplied);
    m_disc.setDevicePixelRatio(scale);
    m_disc.fill(Qt::transparent);
    const auto cell = [&](int x, int y) -> const SkyMap::Cell* {
        const Vec2 at((2.0 * x + 1.0) / across - 1.0, 1.0 - (2.0 * y + 1.0) / across);
        if (at.norm() > 1.0) return nullptr;
        const SkyMap::Cell& c = picture->map.cellAt(at);
        return c.kind == SkyMap::Kind::Below ? &picture->map.cellAt(0.97 * at) : &c; // the rim cuts through cells
    };
    const bool rooms = m_sky.size() == SkySize::Large;
    const QRgb border = mixed(theme().ink, theme().card, 0.25).rgba();
    for (int y = 0; y < across; ++y) {
        auto* line = reinterpret_cast<QRgb*>(m_disc.scanLine(y));
        for (int x = 0; x < across; ++x) {
            const SkyMap::Cell* here = cell(x, y);
            if (!here || here->kind == SkyMap::Kind::Below) continue;
            const SkyMap::Cell *left = cell(x - 1, y), *above = cell(x, y - 1);
            const auto [ground, ink] = coloursOf(*here, rooms);
            const bool edge = (left && !same(*left, *here)) || (above && !same(*above, *here));
            line[x] = edge ? border : (inked(*here, static_cast<int>(x / scale), static_cast<int>(y / scale)) ? ink : ground).rgba();
        }
    }
}

void SkyPanel::drawNames(QPainter& painter) const {
    const auto& picture = m_sky.picture();
    const SkyMap& map = picture->map;
    const auto at = [&](int x, int y) -> const SkyMap::Cell* {
        return x < 0 || y < 0 || x >= map.across || y >= map.across ? nullptr : &map.cells[static_cast<std::size_t>(y * map.across + x)];
    };
    for (std::size_t o = 0; o < picture->obstacles.size(); ++o) {
        const auto mine = [&](int x, int y) {
            const SkyMap::Cell* c = at(x, y);
            return c && c->kind == SkyMap::Kind::Blocked && static_cast<std::size_t>(c->obstacle) == o;
        };
        int room = 1; // the widest square of cells that are all its own
        QPoint best(-1, -1);
        for (int y = 0; y < map.across; ++y)
            for (int x = 0; x < map.across; ++x) {
                const auto fits = [&](int r) {
                    for (int i = -r; i <= r; ++i)
                        for (int k = -r; k <= r; ++k)
                            if (!mine(x + i, y + k)) return false;
                    return true;
                };
                while (fits(room)) {
                    best = {x, y};
                    ++room;
                }
            }
        if (best.x() < 0) continue;
        const Vec2 place((2.0 * best.x() + 1.0) / map.across - 1.0, (2.0 * best.y() + 1.0) / map.across - 1.0);
        const QString& name = picture->obstacles[o];
        const double wide = painter.fontMetrics().horizontalAdvance(name) + 8.0, high = painter.fontMetrics().height();
        const QPointF middle = centre() + radius() * QPointF(place.x(), -place.y());
        const QRectF box(std::clamp(middle.x() - 0.5 * wide, 4.0, width() - 4.0 - wide), middle.y() - 0.5 * high, wide, high);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().card);
        painter.drawRoundedRect(box, 3, 3);
        painter.setPen(theme().ink);
        painter.drawText(box, Qt::AlignCenter, name);
    }
}

QString SkyPanel::words() const {
    const SkyShow& sky = m_sky;
    const auto& picture = sky.picture();
    if (!picture) return tr("nothing is cut here");
    if (m_dragged) return sky.words(*m_dragged);
    if (sky.pointed()) return sky.words(sky.pointed()->axis);
    return sky.words(picture->axis);
}

// Rings at 30° and 60°, the way of the row across it, the wish as a ring, the axis as a dot.
void SkyPanel::drawMap(QPainter& painter, const SkyShow::Picture& picture) const {
    const Theme& t = theme();
    const bool large = m_sky.size() == SkySize::Large;
    const double r = radius();
    painter.drawImage(centre() - QPointF(r, r), m_disc);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(mixed(t.ink, t.card, 0.5), 0.8));
    for (const double ring : {30.0, 60.0}) painter.drawEllipse(centre(), r * ring / 90.0, r * ring / 90.0);
    painter.drawLine(centre() + QPointF(0, 4), centre() - QPointF(0, 4));
    painter.drawLine(centre() + QPointF(4, 0), centre() - QPointF(4, 0));
    painter.setPen(QPen(t.ink, 1.2));
    painter.drawEllipse(centre(), r, r);
    QFont label = font();
    label.setPixelSize(11);
    painter.setFont(label);
    if (large) drawNames(painter);
    QPolygonF way;
    for (const Vec3& axis : picture.row) way << pixelOf(axis);
    painter.setPen(QPen(t.card, 3.6));
    painter.drawPolyline(way);
    painter.setPen(QPen(t.accent, 1.8));
    painter.drawPolyline(way);
    const auto dot = [&](const Vec3& axis, const QColor& fill) {
        painter.setPen(QPen(t.ink, 1.4));
        painter.setBrush(fill);
        painter.drawEllipse(pixelOf(axis), 4.5, 4.5);
    };
    if (picture.wish) dot(*picture.wish, t.card);
    dot(m_dragged.value_or(picture.axis), t.ochre);
}

// What the marks mean.
void SkyPanel::drawKey(QPainter& painter, double y) const {
    const Theme& t = theme();
    double x = 12.0;
    const auto mark = [&](const QString& name, const auto& draw) {
        const double wide = 20.0 + painter.fontMetrics().horizontalAdvance(name) + 12.0;
        if (x + wide > width() - 4.0) {
            x = 12.0;
            y += kLine;
        }
        draw(QRectF(x, y + 3.0, 13.0, 12.0));
        painter.setPen(t.softInk);
        painter.drawText(QRectF(x + 18.0, y, wide, kLine), Qt::AlignVCenter | Qt::AlignLeft, name);
        x += wide;
    };
    const auto ring = [&](const QColor& fill) {
        return [&, fill](const QRectF& at) {
            painter.setPen(QPen(t.ink, 1.4));
            painter.setBrush(fill);
            painter.drawEllipse(at.center(), 4.5, 4.5);
        };
    };
    const auto patch = [&](const SkyMap::Cell& c) {
        return [&, c](const QRectF& at) {
            const auto [ground, ink] = coloursOf(c, true);
            for (int i = 0; i < static_cast<int>(at.width()); ++i)
                for (int k = 0; k < static_cast<int>(at.height()); ++k) painter.fillRect(QRectF(at.x() + i, at.y() + k, 1, 1), inked(c, i, k) ? ink : ground);
        };
    };
    mark(tr("wish"), ring(t.card));
    mark(tr("axis here"), ring(t.ochre));
    mark(tr("this row"), [&](const QRectF& at) {
        painter.setPen(QPen(t.accent, 1.8));
        painter.drawLine(QPointF(at.left(), at.center().y()), QPointF(at.right(), at.center().y()));
    });
    using K = SkyMap::Kind;
    mark(tr("free"), patch({K::Safe, Zone::Holder, -1, 3.0f}));
    mark(tr("holder"), patch({K::Blocked, Zone::Holder, 0, 0.0f}));
    mark(tr("shank"), patch({K::Blocked, Zone::Shank, 0, 0.0f}));
    mark(tr("cutter"), patch({K::Blocked, Zone::Cutter, 0, 0.0f}));
    mark(tr("machine"), patch({K::Reach, Zone::Holder, -1, 0.0f}));
    mark(tr("window of angles"), patch({K::Outside, Zone::Holder, -1, 0.0f}));
}

void SkyPanel::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    const auto& picture = m_sky.picture();
    const bool large = m_sky.size() == SkySize::Large;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(t.hairline, 1));
    painter.setBrush(t.card);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    if (m_sky.size() == SkySize::Off) return;
    if (picture && !m_disc.isNull()) drawMap(painter, *picture);
    QFont small = font();
    small.setPixelSize(12);
    painter.setFont(small);
    painter.setPen(t.ink);
    const double top = kMargin + 2.0 * radius() + 4.0;
    // The small map has two lines for it: the direction, and what it is like.
    const QString all = words();
    double line = top;
    for (const QString& part : large ? QStringList{all} : all.split(": ")) {
        painter.drawText(QRectF(6.0, line, width() - 12.0, kLine), Qt::AlignCenter, painter.fontMetrics().elidedText(part, Qt::ElideRight, width() - 12));
        line += kLine;
    }
    if (large) drawKey(painter, top + kLine + 4.0);
}

void SkyPanel::mousePressEvent(QMouseEvent* e) {
    const auto& picture = m_sky.picture();
    constexpr double kGrip = 10.0;
    const QPointF off = picture ? e->position() - pixelOf(picture->axis) : QPointF(1e9, 0);
    if (e->button() == Qt::LeftButton && std::hypot(off.x(), off.y()) <= kGrip) m_dragged = picture->axis;
    update();
}

void SkyPanel::mouseMoveEvent(QMouseEvent* e) {
    const auto under = axisUnder(e->position());
    if (m_dragged && under) m_dragged = under;
    m_sky.point(under);
    update();
}

void SkyPanel::mouseReleaseEvent(QMouseEvent* e) {
    const auto to = std::exchange(m_dragged, std::nullopt);
    const auto& picture = m_sky.picture();
    if (e->button() == Qt::LeftButton && to && picture && angleBetween(*to, picture->axis) > radians(0.5)) m_sky.turnTo(*to);
    update();
}

void SkyPanel::leaveEvent(QEvent* e) {
    m_sky.point({});
    update();
    QWidget::leaveEvent(e);
}

} // namespace gyre
