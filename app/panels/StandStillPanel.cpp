#include "panels/StandStillPanel.h"
#include "Theme.h"
#include "model/OpenJob.h"
#include "panels/Sentence.h"
#include "panels/Word.h"
#include <QPainter>

namespace gyre {
namespace {

constexpr int kWide = 430, kDisc = 44;

/// Where a direction stands, seen along the datum's Z: upright in the middle, lying at the rim, and ringed where it looks down.
class Seen : public QWidget {
public:
    Seen(const Vec3& axis, QWidget* parent) : QWidget(parent), m_axis(axis) { setFixedSize(kDisc, kDisc); }

protected:
    void paintEvent(QPaintEvent*) override {
        const Theme& t = theme();
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const QPointF middle(0.5 * kDisc, 0.5 * kDisc);
        const double r = 0.5 * kDisc - 3.0;
        p.setPen(QPen(t.hairline, 1));
        p.setBrush(t.card);
        p.drawEllipse(middle, r, r);
        p.drawLine(middle - QPointF(r, 0), middle + QPointF(r, 0));
        p.drawLine(middle - QPointF(0, r), middle + QPointF(0, r));
        const QPointF at = middle + r * QPointF(m_axis.x(), -m_axis.y());
        p.setPen(QPen(t.accent, 2));
        p.drawLine(middle, at);
        p.setBrush(m_axis.z() < 0.0 ? t.card : t.accent);
        p.drawEllipse(at, 3.5, 3.5);
    }

private:
    Vec3 m_axis;
};

} // namespace

StandStillPanel::StandStillPanel(OpenJob& open, StandStill& still, QWidget* parent) : OverView("standStillPanel", kWide, parent), m_open(open), m_still(still) {
    setAccessibleName(tr("Directions that stand still"));
    auto* column = begin("still.close", tr("Close the directions"));
    auto* sentence = new Sentence(this);
    m_lean = new Word(Word::Kind::Angle, "still.lean", tr("How far the axis may lean off the faces' normal"), sentence);
    connect(m_lean, &Word::changed, this, [this](const QString&, const QString& value) { m_still.setLean(value.toDouble()); });
    sentence->set(tr("The axis stands still, up to {} off the faces' normal."), {m_lean});
    column->addWidget(sentence);
    m_trouble = softLine("still.trouble", column);
    m_rows = new QVBoxLayout;
    m_rows->setSpacing(2);
    column->addLayout(m_rows);
    m_summary = new QLabel(this);
    m_summary->setObjectName("still.summary");
    m_summary->setWordWrap(true);
    column->addWidget(m_summary);
    m_make = new QPushButton(this);
    m_make->setObjectName("still.make");
    m_make->setProperty("role", "primary");
    connect(m_make, &QPushButton::clicked, this, [this] { m_still.take(); });
    column->addWidget(m_make, 0, Qt::AlignLeft);
    column->addStretch(1);
    connect(&still, &StandStill::changed, this, &StandStillPanel::refresh);
    for (const auto signal : {&OpenJob::selectionChanged, &OpenJob::benchChanged, &OpenJob::jobChanged}) connect(&open, signal, this, &StandStillPanel::refresh);
    refresh();
}

QWidget* StandStillPanel::rowFor(std::size_t i) {
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 2, 0, 2);
    line->setSpacing(10);
    line->addWidget(new Seen(m_still.found()->chosen[i].axis, row));
    auto* column = new QVBoxLayout;
    column->setSpacing(0);
    auto* angles = new QLabel(m_still.angleWords(i), row);
    QFont bold = angles->font();
    bold.setWeight(QFont::DemiBold);
    angles->setFont(bold);
    auto* words = new QLabel(m_still.directionWords(i), row);
    words->setObjectName(QString("still.%1.words").arg(i));
    words->setProperty("role", "soft");
    column->addWidget(angles);
    column->addWidget(words);
    line->addLayout(column, 1);
    return row;
}

// No higher than what it says: a line for each direction, and a dozen lines of words at most.
int StandStillPanel::high() const {
    constexpr int kLines = 14;
    const auto rows = m_still.found() ? static_cast<int>(m_still.found()->chosen.size()) : 0;
    return std::min(OverView::high(), kLines * fontMetrics().height() + rows * (kDisc + 6));
}

void StandStillPanel::refresh() {
    const bool open = m_still.isOpen() && m_open.bench() == Bench::Cut && m_open.recipe();
    setVisible(open);
    if (!open) return;
    place();
    m_heading->setText(tr("DIRECTIONS FOR %1").arg(QString::fromStdString(m_open.job().nameOf(m_open.selected().toStdString())).toUpper()));
    m_lean->show(QString::number(m_still.lean(), 'g', 6), false);
    while (QLayoutItem* item = m_rows->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
    const auto& found = m_still.found();
    m_trouble->setText(!m_still.settled() && !found ? tr("Asking what each direction reaches …") : m_still.trouble());
    m_trouble->setVisible(!m_trouble->text().isEmpty());
    for (std::size_t i = 0; found && i < found->chosen.size(); ++i) m_rows->addWidget(rowFor(i));
    m_summary->setText(m_still.summary());
    m_make->setText(found && found->chosen.size() > 1 ? tr("Make %1 operations that stand still").arg(found->chosen.size()) : tr("Make one operation that stands still"));
    m_make->setVisible(found.has_value());
    m_make->setEnabled(m_still.told().has_value());
    place();
}

} // namespace gyre
