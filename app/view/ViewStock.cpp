// The stock as it is cut, in the 3D view: in place of the part, coloured by who made its surface or by how far it is off the part.
#include "Theme.h"
#include "Units.h"
#include "base/Units.h"
#include "model/Closer.h"
#include "model/Picks.h"
#include "model/StockShow.h"
#include "view/View.h"
#include <QPainter>
#include <cmath>

namespace gyre {
void View::setOverlayTop(double pixels) {
    if (pixels == std::exchange(m_overlayTop, pixels)) return;
    update();
}

// While faces and edges are picked, the part is there to be clicked.
bool View::stockDrawn() const {
    return m_stockNow && m_model.stock().shown() && !m_model.closer().from() && m_model.picks().mode() == PickMode::None &&
           (m_model.bench() == Bench::Cut || m_model.bench() == Bench::Prove);
}

// At once, not with the next picture: a key may ask for its worst place before that.
void View::takeStock() {
    const auto& picture = m_model.stock().picture();
    if (picture == m_stockOf) return;
    m_stockOf = picture;
    m_stockNow = picture ? std::make_shared<Renderer::Mesh>(picture->skin) : nullptr;
    m_stockBands = picture ? picture->bands.size() : 0;
    m_stockPlace.reset(); // those of another picture
}

// By operation or tool: the stock's own, then by turns; the last stands out. By age: the stronger the younger. By deviation: what is gone unsafe, what stands the
// stronger the more.
std::vector<QColor> View::stockColours() const {
    const Theme& t = theme();
    const auto& picture = m_model.stock().picture();
    if (!picture) return {};
    if (picture->by == StockBy::Deviation)
        return {t.unsafe,
                mixed(t.unsafe, t.card, 0.45),
                mixed(t.accent, t.clay, 0.55),
                mixed(t.ochre, t.card, 0.6),
                mixed(t.ochre, t.card, 0.2),
                mixed(t.ochre, t.ink, 0.35),
                mixed(t.clay, t.slate, 0.45)};
    if (picture->by == StockBy::Age) {
        // The older the paler.
        std::vector<QColor> out{t.oat};
        for (std::size_t i = 1; i < picture->bands.size(); ++i)
            out.push_back(mixed(mixed(t.accent, t.card, 0.85), t.accent, static_cast<double>(i) / static_cast<double>(picture->bands.size() - 1)));
        return out;
    }
    return workColours(t, picture->bands.empty() ? 0 : picture->bands.size() - 1);
}

QString View::stockWords(const QPointF& pixel) const {
    const auto& picture = m_model.stock().picture();
    if (!stockDrawn() || !picture) return {};
    // The picture's own coordinates are the part's.
    const Camera::Ray ray = m_camera.ray(pixel);
    const QMatrix4x4 back = partMatrix().inverted();
    const auto moved = [&](const Vec3& p) {
        const QVector3D q = back.map(QVector3D(static_cast<float>(p.x()), static_cast<float>(p.y()), static_cast<float>(p.z())));
        return Vec3(q.x(), q.y(), q.z());
    };
    const Vec3 from = moved(ray.origin), way = (moved(ray.origin + ray.direction) - from).normalized();
    const Section cut = m_model.section();
    const auto hit = picture->hit(from, way, [&](const Vec3& p) { return cut.axis < 0 || (cut.flipped ? p[cut.axis] >= cut.at : p[cut.axis] <= cut.at); });
    if (!hit) return {};
    const auto& bands = picture->bands;
    const QString& name = bands[static_cast<std::size_t>(picture->skin->faces[*hit])].name;
    if (picture->by != StockBy::Deviation) return picture->skin->faces[*hit] == 0 ? name : tr("cut by %1").arg(name);
    const double off = static_cast<double>(picture->off[*hit / 2]);
    if (picture->skin->faces[*hit] == static_cast<int>(StockShow::kMeant)) return inUnits(tr("%1 mm gone, as meant").arg(-off, 0, 'f', 2), m_model.inches());
    if (std::abs(off) <= picture->fine) return inUnits(name, m_model.inches());
    return inUnits((off < 0.0 ? tr("▲ %1 mm gone") : tr("%1 mm stand")).arg(std::abs(off), 0, 'f', 2), m_model.inches());
}

void View::drawStock(const QMatrix4x4& model) {
    const std::vector<QColor> colours = stockColours();
    for (std::size_t i = 0; i < std::min(m_stockBands, colours.size()); ++i) m_picture.drawFaces(m_stockNow, {static_cast<int>(i)}, model, colours[i], 1.0f);
}

bool View::frameStockPlace(std::size_t place) {
    const auto& picture = m_model.stock().picture();
    if (!stockDrawn() || !picture || place >= picture->places()) return false;
    const StockPlace& worst = picture->place(place);
    m_stockPlace = place;
    setAtMachine(false);
    m_camera.look(degrees(std::atan2(worst.outward.y(), worst.outward.x())) - 20.0,
                  std::clamp(degrees(std::asin(std::clamp(worst.outward.z(), -1.0, 1.0))) + 15.0, -80.0, 80.0));
    Box box;
    const double room = std::max(15.0, 40.0 * picture->cell);
    box.add(Vec3(worst.at - Vec3::Constant(room)));
    box.add(Vec3(worst.at + Vec3::Constant(room)));
    m_camera.frame(box);
    moving();
    return true;
}

bool View::frameNextStockPlace() {
    const auto& picture = m_model.stock().picture();
    if (!picture || picture->places() == 0) return false;
    return frameStockPlace(m_stockPlace ? (*m_stockPlace + 1) % picture->places() : 0);
}

// A number at each of the worst places that is seen; the one that was gone to, or else the worst of what is gone, with its words.
void View::drawWorstOfStock(QPainter& painter) const {
    const auto& picture = m_model.stock().picture();
    if (!stockDrawn() || m_atMachine || !picture || picture->by != StockBy::Deviation) return;
    const Theme& t = theme();
    const auto seen = [&](const StockPlace& w) {
        const auto at = m_camera.project(w.at), out = m_camera.project(w.at + 0.01 * w.outward);
        return at && out && m_camera.ray(*at).direction.dot(w.outward) <= 0.0 ? at : std::nullopt;
    };
    for (std::size_t i = picture->places(); i-- > 0;) {
        const bool gone = picture->gone(i), named = m_stockPlace ? i == *m_stockPlace : i == 0 && gone;
        const auto at = seen(picture->place(i));
        if (!at || (!gone && !named)) continue;
        const QColor colour = gone ? t.unsafe : t.ink;
        const QPointF label = *at + (named ? QPointF(34, -44) : QPointF(0, 0));
        if (named) {
            painter.setPen(QPen(t.card, 3.5));
            painter.drawLine(*at, label);
            painter.setPen(QPen(colour, 1.5));
            painter.drawLine(*at, label);
        }
        painter.setPen(QPen(t.card, 1.5));
        painter.setBrush(colour);
        painter.drawEllipse(*at, 4.0, 4.0);
        if (named) drawChip(painter, label, m_model.stock().placeWords(i), colour, false);
    }
}

namespace {

/// A band of colour with its name and how much of the surface has it.
struct LegendLine {
    QString name, share;
    QColor colour;
    double part;
};

std::vector<LegendLine> legendOf(const StockShow::Picture& picture, const std::vector<QColor>& colours, bool inches) {
    std::vector<LegendLine> lines;
    for (std::size_t i = 0; i < picture.bands.size(); ++i) {
        const StockShow::Band& b = picture.bands[i];
        // Operations that are cut over wholly are no more to be seen; the present one always is.
        if (picture.by != StockBy::Deviation && b.share < 5e-5 && i + 1 != picture.bands.size()) continue;
        if (picture.by == StockBy::Deviation && i == StockShow::kMeant && b.share <= 0.0) continue;
        const QString share = b.share <= 0.0 ? View::tr("none") : b.share < 5e-4 ? View::tr("< 0.1 %") : View::tr("%1 %").arg(100.0 * b.share, 0, 'f', 1);
        lines.push_back({inUnits(b.name, inches), share, colours[i], b.share});
    }
    return lines;
}

/// Those in the middle on one line.
void foldTo(int most, std::vector<LegendLine>& lines) {
    if (most <= 3 || static_cast<int>(lines.size()) <= most) return;
    const auto first = lines.begin() + 1, last = first + (static_cast<int>(lines.size()) - most + 1);
    double others = 0.0;
    for (auto l = first; l != last; ++l) others += l->part;
    const LegendLine together{View::tr("%1 others").arg(last - first), View::tr("%1 %").arg(100.0 * others, 0, 'f', 1), theme().card, others};
    lines.insert(lines.erase(first, last), together);
}

/// What stands below the bands.
QStringList footOf(const StockShow& show, bool inches) {
    const StockShow::Picture& picture = *show.picture();
    QStringList feet{show.settled() || show.figures()
                         ? inUnits(View::tr("%1 cm³ · cells of %2 mm").arg(picture.volume / 1000.0, 0, 'f', 1).arg(picture.cell, 0, 'f', 2), inches)
                         : View::tr("cutting on …")};
    if (picture.old) feet << View::tr("▲ cut with paths from before a change");
    if (picture.by == StockBy::Deviation && picture.places() > 0)
        feet << inUnits((!picture.gone(0) ? View::tr("most stands %1 mm (Shift+K: one after the other)") : View::tr("most gone %1 mm (Shift+K: one after the other)"))
                            .arg(picture.gone(0) ? picture.place(0).mm : picture.compared->most, 0, 'f', 2),
                        inches);
    if (const auto f = show.figures()) {
        feet << View::tr("this operation cuts %1, in air %2").arg(clockWords(f->cutting), clockWords(f->air));
        if (f->most > 0.0) feet << inUnits(View::tr("at most %1 cm³/min").arg(f->most, 0, 'f', 1), inches);
        if (const Engaged& e = f->engagement.most; e.angle > 0.0F)
            feet << inUnits(View::tr("engaged up to %1°, %2 mm deep, chips %3 µm").arg(e.angle, 0, 'f', 0).arg(e.deep, 0, 'f', 1).arg(1000.0F * e.chip, 0, 'f', 0),
                            inches);
    }
    return feet;
}

} // namespace

// What the colours mean, and how much of the surface has each: below the switch.
void View::drawStockLegend(QPainter& painter) const {
    const StockShow& show = m_model.stock();
    if (!show.shown() || m_model.picks().mode() != PickMode::None || (m_model.bench() != Bench::Cut && m_model.bench() != Bench::Prove)) return;
    const Theme& t = theme();
    const auto& picture = show.picture();
    const bool inches = m_model.inches();
    if (!picture) {
        const QString words = show.trouble().isEmpty() ? tr("Cutting the stock …") : show.trouble();
        return drawChip(painter, {14.0, m_overlayTop}, words, t.ink, true);
    }
    std::vector<LegendLine> lines = legendOf(*picture, stockColours(), inches);
    const QFontMetrics letters = painter.fontMetrics();
    const double row = letters.height() + 6.0;
    foldTo(static_cast<int>((height() - m_overlayTop - 100.0) / row), lines);
    double name = 0.0, share = 0.0;
    for (const LegendLine& l : lines) {
        name = std::max(name, static_cast<double>(std::min(170, letters.horizontalAdvance(l.name))));
        share = std::max(share, static_cast<double>(letters.horizontalAdvance(l.share)));
    }
    const QStringList feet = footOf(show, inches);
    const double bar = 46.0;
    double wide = 34.0 + name + 12.0 + bar + 8.0 + share + 12.0;
    for (const QString& f : feet) wide = std::max(wide, letters.horizontalAdvance(f) + 24.0);
    const QRectF card(12.0, m_overlayTop, wide, row * static_cast<double>(lines.size() + static_cast<std::size_t>(feet.size())) + 14.0);
    painter.setPen(QPen(t.hairline, 1));
    painter.setBrush(t.card);
    painter.drawRoundedRect(card, 6, 6);
    double y = card.top() + 7.0;
    for (const LegendLine& l : lines) {
        const double middle = y + 0.5 * row;
        painter.setPen(QPen(t.hairline, 1));
        painter.setBrush(l.colour);
        painter.drawRoundedRect(QRectF(card.left() + 10.0, middle - 7.0, 16.0, 14.0), 3, 3);
        painter.setPen(l.name.startsWith(QString::fromUtf8("▲")) && l.part > 0.0 ? t.unsafe : t.ink);
        painter.drawText(QRectF(card.left() + 34.0, y, name + 4.0, row), Qt::AlignVCenter | Qt::AlignLeft, letters.elidedText(l.name, Qt::ElideRight, 172));
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.hairline);
        const double left = card.right() - 12.0 - share - 8.0 - bar;
        painter.drawRect(QRectF(left, middle - 2.5, std::max(l.part > 0.0 ? 1.0 : 0.0, bar * l.part), 5.0));
        painter.setPen(t.softInk);
        painter.drawText(QRectF(card.right() - 12.0 - share, y, share, row), Qt::AlignVCenter | Qt::AlignRight, l.share);
        y += row;
    }
    painter.setPen(t.softInk);
    for (const QString& f : feet) {
        painter.drawText(QRectF(card.left() + 12.0, y, wide - 24.0, row), Qt::AlignVCenter | Qt::AlignLeft, f);
        y += row;
    }
}

} // namespace gyre
