// The stock as it is cut, in the 3D view: in place of the part, coloured by who made its surface or by how far it is off the part.
#include "Theme.h"
#include "Units.h"
#include "model/StockShow.h"
#include "view/View.h"
#include <QPainter>
#include <QPainterPath>

namespace gyre {
namespace {

QColor mixed(const QColor& a, const QColor& b, double share) {
    const auto mix = [&](int x, int y) { return static_cast<int>(x + share * (y - x)); };
    return {mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue())};
}

} // namespace

void View::setOverlayTop(double pixels) {
    if (pixels == std::exchange(m_overlayTop, pixels)) return;
    update();
}

// While faces and edges are picked, the part is there to be clicked.
bool View::stockDrawn() const {
    return m_stockNow && m_model.stock().shown() && m_model.pickMode() == PickMode::None && (m_model.bench() == Bench::Cut || m_model.bench() == Bench::Prove);
}

void View::uploadStock() {
    m_stockOld = false;
    const auto& picture = m_model.stock().picture();
    m_stockNow = picture ? std::make_shared<Renderer::Mesh>(picture->skin) : nullptr;
    m_stockBands = picture ? picture->bands.size() : 0;
}

// By operation: the stock's own, then by turns; the present one stands out. By deviation: what is gone unsafe, what stands the darker the more.
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
                mixed(t.ochre, t.ink, 0.35)};
    const QColor turns[] = {t.clay, mixed(t.slate, t.card, 0.35), mixed(t.ochre, t.card, 0.55), mixed(t.steel, t.clay, 0.5), mixed(t.fixture, t.card, 0.4)};
    std::vector<QColor> out{t.oat};
    for (std::size_t i = 1; i < picture->bands.size(); ++i)
        out.push_back(i + 1 == picture->bands.size() ? mixed(t.accent, t.card, 0.25) : turns[(i - 1) % std::size(turns)]);
    return out;
}

void View::drawStock(const QMatrix4x4& model) {
    const std::vector<QColor> colours = stockColours();
    for (std::size_t i = 0; i < std::min(m_stockBands, colours.size()); ++i) m_picture.drawFaces(m_stockNow, {static_cast<int>(i)}, model, colours[i], 1.0f);
}

// What the colours mean, and how much of the surface has each: below the switch.
void View::drawStockLegend(QPainter& painter) const {
    const StockShow& show = m_model.stock();
    if (!show.shown() || m_model.pickMode() != PickMode::None || (m_model.bench() != Bench::Cut && m_model.bench() != Bench::Prove)) return;
    const Theme& t = theme();
    const auto& picture = show.picture();
    const bool inches = m_model.inches();
    if (!picture) {
        const QString words = show.trouble().isEmpty() ? tr("Cutting the stock …") : show.trouble();
        return drawChip(painter, {14.0, m_overlayTop}, words, t.ink, true);
    }
    struct Line {
        QString name, share;
        QColor colour;
        double part;
    };
    std::vector<Line> lines;
    const std::vector<QColor> colours = stockColours();
    for (std::size_t i = 0; i < picture->bands.size(); ++i) {
        const StockShow::Band& b = picture->bands[i];
        // Operations that are cut over wholly are no more to be seen; the present one always is.
        if (picture->by == StockBy::Operation && b.share < 5e-5 && i + 1 != picture->bands.size()) continue;
        const QString share = b.share <= 0.0 ? tr("none") : b.share < 5e-4 ? tr("< 0.1 %") : tr("%1 %").arg(100.0 * b.share, 0, 'f', 1);
        lines.push_back({inUnits(b.name, inches), share, colours[i], b.share});
    }
    const QFontMetrics letters = painter.fontMetrics();
    const double row = letters.height() + 6.0;
    const int most = static_cast<int>((height() - m_overlayTop - 100.0) / row);
    if (most > 3 && static_cast<int>(lines.size()) > most) lines.erase(lines.begin() + 1, lines.begin() + 1 + (static_cast<int>(lines.size()) - most));
    double name = 0.0, share = 0.0;
    for (const Line& l : lines) {
        name = std::max(name, static_cast<double>(std::min(170, letters.horizontalAdvance(l.name))));
        share = std::max(share, static_cast<double>(letters.horizontalAdvance(l.share)));
    }
    const QString foot = inUnits(tr("%1 cm³ · cells of %2 mm").arg(picture->volume / 1000.0, 0, 'f', 1).arg(picture->cell, 0, 'f', 2), inches);
    const double bar = 46.0, wide = std::max(34.0 + name + 12.0 + bar + 8.0 + share + 12.0, letters.horizontalAdvance(foot) + 24.0);
    const QRectF card(12.0, m_overlayTop, wide, row * static_cast<double>(lines.size() + 1) + 14.0);
    painter.setPen(QPen(t.hairline, 1));
    painter.setBrush(t.card);
    painter.drawRoundedRect(card, 6, 6);
    double y = card.top() + 7.0;
    for (const Line& l : lines) {
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
    painter.drawText(QRectF(card.left() + 12.0, y, wide - 24.0, row), Qt::AlignVCenter | Qt::AlignLeft, show.settled() ? foot : tr("cutting on …"));
}

} // namespace gyre
