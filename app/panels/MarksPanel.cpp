#include "panels/MarksPanel.h"
#include "Theme.h"
#include "Units.h"
#include "model/OpenJob.h"
#include "panels/Sentence.h"
#include "panels/Word.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace gyre {
namespace {

constexpr int kMarksWide = 384, kRelief = 340, kLeastRelief = 150, kHeights = 112;

/// Slopes of the heights along both ways of the grid; none beside what is not cut.
struct Slopes {
    std::vector<QPointF> of;
    double usual = 0.0; ///< nearly all are no steeper
};
Slopes slopesOf(const MarkMap& m) {
    Slopes out{std::vector<QPointF>(m.height.size()), 0.0};
    std::vector<double> sizes;
    for (std::size_t j = 1; j + 1 < m.along; ++j)
        for (std::size_t i = 1; i + 1 < m.across; ++i) {
            const std::size_t p = j * m.across + i;
            if (!m.isCut(p - 1) || !m.isCut(p + 1) || !m.isCut(p - m.across) || !m.isCut(p + m.across)) continue;
            out.of[p] =
                QPointF(static_cast<double>(m.height[p + 1] - m.height[p - 1]), static_cast<double>(m.height[p + m.across] - m.height[p - m.across])) / (2.0 * m.step);
            sizes.push_back(std::hypot(out.of[p].x(), out.of[p].y()));
        }
    if (sizes.empty()) return out;
    const auto nth = sizes.begin() + static_cast<long>(0.95 * static_cast<double>(sizes.size() - 1));
    std::nth_element(sizes.begin(), nth, sizes.end());
    out.usual = *nth;
    return out;
}

/// How many times as steep it is drawn: so that the usual slopes show, and what is smooth stays so.
double exaggerated(const Slopes& s) {
    constexpr double kShown = 0.9, kMost = 500.0;
    return std::clamp(kShown / std::max(1e-12, s.usual), 1.0, kMost);
}

/// Lit from the upper left; what each operation cut in its colour, what is gone of the part in the unsafe one. The feed runs upwards.
QImage reliefOf(const SurfaceMarks& marks) {
    const Theme& t = theme();
    const MarkMap& m = marks.marks;
    const Slopes slopes = slopesOf(m);
    const double steeper = exaggerated(slopes);
    const std::vector<QColor> colours = workColours(t, marks.cutBy.size());
    constexpr float kGone = -0.01F; // mm: more than any tolerance of paths leaves
    QImage image(static_cast<int>(m.across), static_cast<int>(m.along), QImage::Format_RGB32);
    for (std::size_t j = 0; j < m.along; ++j)
        for (std::size_t i = 0; i < m.across; ++i) {
            const std::size_t p = j * m.across + i;
            QColor c = t.card;
            if (m.isCut(p)) {
                const QColor own = marks.cutBy.size() > 1 ? mixed(t.clay, colours[static_cast<std::size_t>(m.by[p]) + 1], 0.55) : t.clay;
                const double x = -steeper * slopes.of[p].x(), y = -steeper * slopes.of[p].y();
                const double light = (-0.5 * x + 0.5 * y + 0.7071) / std::sqrt(1.0 + x * x + y * y); // 0.707 where it lies flat
                c = m.height[p] < kGone ? t.unsafe : own;
                c = light > 0.7071 ? mixed(c, QColor(Qt::white), std::min(0.75, 2.4 * (light - 0.7071)))
                                   : mixed(c, QColor(Qt::black), std::min(0.7, 1.1 * (0.7071 - light)));
            } else if (marks.ground.outward[p].squaredNorm() > 0.5) {
                c = (i + j) % 12 < 2 ? t.unsafe : t.card; // hatched: nothing cuts there
            }
            image.setPixelColor(static_cast<int>(i), static_cast<int>(m.along - 1 - j), c);
        }
    return image;
}

/// A length that is good to count with, up to half of the whole: 1, 2 or 5 and noughts.
double roundLength(double whole) {
    const double ten = std::pow(10.0, std::floor(std::log10(0.5 * whole)));
    for (const double k : {5.0, 2.0})
        if (k * ten <= 0.5 * whole) return k * ten;
    return ten;
}

class Relief : public QWidget {
public:
    Relief(const MarksShow& marks, const OpenJob& open, QWidget* parent) : QWidget(parent), m_marks(marks), m_open(open) { setObjectName("marks.relief"); }

protected:
    void paintEvent(QPaintEvent*) override {
        const auto& picture = m_marks.picture();
        if (!picture) return;
        if (picture != m_of) {
            m_of = picture;
            m_image = reliefOf(*picture);
        }
        const Theme& t = theme();
        QPainter p(this);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawImage(rect(), m_image);
        p.setRenderHint(QPainter::Antialiasing);
        // The line whose heights are shown below, and the place of the playhead on it.
        p.setPen(QPen(t.ink, 1.0, Qt::DashLine));
        const double y = (1.0 - static_cast<double>(picture->middleRow()) / static_cast<double>(picture->marks.along - 1)) * height();
        p.drawLine(QPointF(0, y), QPointF(width(), y));
        p.setPen(QPen(t.card, 3.0));
        p.setBrush(Qt::NoBrush);
        const QPointF middle(0.5 * width(), 0.5 * height());
        p.drawEllipse(middle, 4.0, 4.0);
        p.setPen(QPen(t.ink, 1.5));
        p.drawEllipse(middle, 4.0, 4.0);
        // A length to go by; in the job's unit.
        const double unit = m_open.inches() ? 25.4 : 1.0, length = roundLength(picture->size / unit), pixels = length * unit / picture->size * width();
        const QString words = (m_open.inches() ? MarksPanel::tr("%1 in") : MarksPanel::tr("%1 mm")).arg(length, 0, 'g', 3);
        const double wide = std::max(pixels, static_cast<double>(p.fontMetrics().horizontalAdvance(words)));
        const QRectF chip(8, height() - 34, wide + 16, 28);
        p.setPen(Qt::NoPen);
        p.setBrush(t.card);
        p.drawRoundedRect(chip, 4, 4);
        p.setPen(QPen(t.ink, 2));
        p.drawLine(chip.bottomLeft() + QPointF(8, -6), chip.bottomLeft() + QPointF(8 + pixels, -6));
        p.drawText(chip.adjusted(8, 2, -8, -8), Qt::AlignLeft | Qt::AlignVCenter, words);
        p.setPen(QPen(t.hairline, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }

private:
    const MarksShow& m_marks;
    const OpenJob& m_open;
    std::shared_ptr<const SurfaceMarks> m_of;
    QImage m_image;
};

/// Heights across the feed through the middle, far higher than they are wide.
class Heights : public QWidget {
public:
    Heights(const MarksShow& marks, QWidget* parent) : QWidget(parent), m_marks(marks) {
        setFixedSize(kRelief, kHeights);
        setObjectName("marks.heights");
    }

protected:
    void paintEvent(QPaintEvent*) override {
        const auto& picture = m_marks.picture();
        if (!picture || picture->across.places < 2) return;
        const Theme& t = theme();
        const MarkMap& m = picture->marks;
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const std::size_t row = picture->middleRow() * m.across;
        double low = 0.0, high = 1e-4; // the part as modelled is always seen, and a tenth of a micron fills it
        for (std::size_t i = 0; i < m.across; ++i)
            if (m.isCut(row + i)) {
                low = std::min(low, static_cast<double>(m.height[row + i]));
                high = std::max(high, static_cast<double>(m.height[row + i]));
            }
        const QRectF area(0.0, 16.0, width(), height() - 32.0);
        const auto at = [&](std::size_t i, double mm) {
            return QPointF(area.left() + area.width() * static_cast<double>(i) / static_cast<double>(m.across - 1),
                           area.bottom() - area.height() * (mm - low) / (high - low));
        };
        QPainterPath line, filled;
        bool on = false;
        const double foot = area.bottom() + 2.0;
        QPointF last;
        const auto end = [&] {
            if (!on) return;
            filled.lineTo(last.x(), foot);
            filled.closeSubpath();
            on = false;
        };
        for (std::size_t i = 0; i < m.across; ++i) {
            if (!m.isCut(row + i)) {
                end();
                continue;
            }
            last = at(i, static_cast<double>(m.height[row + i]));
            if (!on) {
                line.moveTo(last);
                filled.moveTo(last.x(), foot);
                filled.lineTo(last);
            } else {
                line.lineTo(last);
                filled.lineTo(last);
            }
            on = true;
        }
        end();
        p.fillPath(filled, mixed(t.clay, t.card, 0.4));
        p.setPen(QPen(t.softInk, 1.0, Qt::DashLine));
        p.drawLine(at(0, 0.0), at(m.across - 1, 0.0));
        p.strokePath(line, QPen(t.ink, 1.5));
        p.setPen(t.softInk);
        p.drawText(QRectF(2, 0, width() - 4, 15), Qt::AlignRight | Qt::AlignVCenter, m_marks.heightWords(high));
        p.drawText(QRectF(2, 0, width() - 4, 15), Qt::AlignLeft | Qt::AlignVCenter, MarksPanel::tr("across the feed, to the right of it"));
        p.drawText(QRectF(2, height() - 15, width() - 4, 15), Qt::AlignRight | Qt::AlignVCenter, m_marks.heightWords(low));
        p.drawText(QRectF(2, height() - 15, width() - 4, 15), Qt::AlignLeft | Qt::AlignVCenter, MarksPanel::tr("dashed: the part as modelled"));
    }

private:
    const MarksShow& m_marks;
};

} // namespace

MarksPanel::MarksPanel(OpenJob& open, MarksShow& marks, QWidget* parent) : OverView("marksPanel", kMarksWide, parent), m_open(open), m_marks(marks) {
    setAccessibleName(tr("Marks on the surface"));
    auto* column = begin("marks.close", tr("Close the marks"));
    auto* line = new QHBoxLayout;
    m_sentence = new Sentence(this);
    m_size = new Word(Word::Kind::Length, "marks.size", tr("How wide the patch is"), m_sentence);
    m_size->setStep(0.5);
    connect(m_size, &Word::changed, this, [this](const QString&, const QString& value) { m_marks.setSize(value.toDouble()); });
    line->addWidget(m_sentence, 1);
    const auto button = [&](const QString& text, const QString& name, const QString& said, double by) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        b->setAccessibleName(said);
        b->setToolTip(said);
        b->setProperty("role", "flat");
        connect(b, &QPushButton::clicked, this, [this, by] { m_marks.scaleSize(by); });
        line->addWidget(b, 0, Qt::AlignTop);
    };
    button(QString::fromUtf8("−"), "marks.smaller", tr("Half as wide"), 0.5);
    button("+", "marks.larger", tr("Twice as wide"), 2.0);
    column->addLayout(line);
    m_trouble = softLine("marks.trouble", column);
    m_relief = new Relief(m_marks, m_open, this);
    m_heights = new Heights(m_marks, this);
    column->addWidget(m_relief, 0, Qt::AlignHCenter);
    column->addWidget(m_heights, 0, Qt::AlignHCenter);
    m_told = new QLabel(this);
    m_told->setObjectName("marks.told");
    m_told->setWordWrap(true);
    column->addWidget(m_told);
    column->addStretch(1);
    connect(&marks, &MarksShow::changed, this, &MarksPanel::refresh);
    for (const auto signal : {&OpenJob::selectionChanged, &OpenJob::benchChanged, &OpenJob::jobChanged}) connect(&open, signal, this, &MarksPanel::refresh);
    refresh();
}

int MarksPanel::high() const {
    return std::min(OverView::high(), m_marks.picture() ? kRelief + kHeights + 16 * fontMetrics().height() + 30 : 10 * fontMetrics().height());
}

// The relief takes what the words and the heights leave.
void MarksPanel::resizeEvent(QResizeEvent* e) {
    OverView::resizeEvent(e);
    const int others = kHeights + 11 * fontMetrics().height() + 30, side = std::clamp(height() - others, kLeastRelief, kRelief);
    m_relief->setFixedSize(side, side);
}

void MarksPanel::refresh() {
    const bool open = m_marks.isOpen() && (m_open.bench() == Bench::Cut || m_open.bench() == Bench::Prove) && m_open.recipe();
    setVisible(open);
    if (!open) return;
    m_heading->setText(tr("MARKS OF %1").arg(QString::fromStdString(m_open.job().nameOf(m_open.selected().toStdString())).toUpper()));
    const auto& picture = m_marks.picture();
    const QString every = inUnits(tr("%1 mm").arg(m_marks.size() / 255.0, 0, 'g', 2), m_open.inches());
    m_sentence->set(tr("A patch {} wide at the playhead, a place every %1; lit from the upper left, drawn steeper than it is.").arg(every), {m_size});
    m_size->show(QString::number(m_marks.size(), 'g', 6), m_open.inches());
    m_trouble->setText(picture ? QString() : m_marks.trouble().isEmpty() ? tr("Looking …") : m_marks.trouble());
    m_trouble->setVisible(!m_trouble->text().isEmpty());
    m_relief->setVisible(picture != nullptr);
    m_heights->setVisible(picture && picture->across.places > 1);
    m_told->setText(m_marks.told().join(' '));
    m_relief->update();
    m_heights->update();
    place();
}

} // namespace gyre
