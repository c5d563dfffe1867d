#include "panels/FitsPanel.h"
#include "Theme.h"
#include "Units.h"
#include "model/OpenJob.h"
#include "panels/Sentence.h"
#include "panels/Silhouette.h"
#include "panels/Word.h"
#include <QPainter>
#include <algorithm>

namespace gyre {
namespace {

constexpr int kWide = 430, kRow = 84;

/// All drawn to one scale: what sticks out further is longer.
class ToScale : public QWidget {
public:
    ToScale(const Assembly& tool, double tallest, QWidget* parent) : QWidget(parent), m_tool(tool), m_tallest(tallest) { setFixedSize(52, kRow - 12); }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const double high = height() * m_tool.gaugeLength() / std::max(m_tallest, 1e-9);
        drawSilhouette(p, m_tool, QRectF(0, height() - high, width(), high));
    }

private:
    Assembly m_tool;
    double m_tallest;
};

} // namespace

FitsPanel::FitsPanel(OpenJob& open, Fits& fits, QWidget* parent) : OverView("fitsPanel", kWide, parent), m_open(open), m_fits(fits) {
    setAccessibleName(tr("Assemblies that do the work"));
    auto* column = begin("fits.close", tr("Close the list of assemblies"));
    auto* sentence = new Sentence(this);
    m_step = new Word(Word::Kind::Length, "fits.step", tr("Step that stick-outs are rounded up to"), sentence);
    connect(m_step, &Word::changed, this, [this](const QString&, const QString& value) { m_fits.setStep(value.toDouble()); });
    sentence->set(tr("The axis stays as it is. Stick-outs are rounded up to {}."), {m_step});
    column->addWidget(sentence);
    m_trouble = softLine("fits.trouble", column);
    m_scroll = new QScrollArea(this);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* inside = new QWidget;
    m_rows = new QVBoxLayout(inside);
    m_rows->setContentsMargins(0, 0, 6, 0);
    m_rows->setSpacing(2);
    m_rows->addStretch(1);
    m_scroll->setWidget(inside);
    column->addWidget(m_scroll, 1);
    connect(&fits, &Fits::changed, this, &FitsPanel::refresh);
    for (const auto signal : {&OpenJob::selectionChanged, &OpenJob::benchChanged, &OpenJob::jobChanged}) connect(&open, signal, this, &FitsPanel::refresh);
    refresh();
}

QWidget* FitsPanel::rowFor(std::size_t i, double tallest) {
    const AssemblyFit& fit = m_fits.all()[i];
    auto* row = new QWidget(this);
    row->setObjectName(QString("fit.%1").arg(i));
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 4, 0, 4);
    line->setSpacing(10);
    line->addWidget(new ToScale(fit.tool, tallest, row));
    auto* words = new QVBoxLayout;
    words->setSpacing(2);
    auto* name = new QLabel(inUnits(QString::fromStdString(fit.tool.name), m_open.inches()), row);
    QFont bold = name->font();
    bold.setWeight(QFont::DemiBold);
    name->setFont(bold);
    auto* said = new QLabel(m_fits.words(fit), row);
    said->setObjectName(QString("fit.%1.words").arg(i));
    said->setProperty("role", "soft");
    said->setWordWrap(true);
    words->addStretch(1);
    words->addWidget(name);
    words->addWidget(said);
    words->addStretch(1);
    line->addLayout(words, 1);
    const bool own = m_open.recipe() && m_open.recipe()->tool == fit.tool.id;
    const Assembly* known = m_open.job().tool(fit.tool.id);
    const bool asItIs = own && known && std::abs(known->stickOut - fit.stickOut) < 1e-6;
    auto* take = new QPushButton(asItIs ? tr("Taken") : tr("Take"), row);
    take->setObjectName(QString("fit.%1.take").arg(i));
    take->setAccessibleName(tr("Take %1 with this stick-out").arg(QString::fromStdString(fit.tool.name)));
    take->setEnabled(!asItIs);
    connect(take, &QPushButton::clicked, this, [this, i] { m_fits.take(i); });
    line->addWidget(take);
    return row;
}

void FitsPanel::refresh() {
    const Fits& fits = m_fits;
    const bool open = fits.isOpen() && m_open.bench() == Bench::Cut && m_open.recipe();
    setVisible(open);
    if (!open) return;
    place();
    m_heading->setText(tr("ASSEMBLIES FOR %1").arg(QString::fromStdString(m_open.job().nameOf(m_open.selected().toStdString())).toUpper()));
    m_step->show(QString::number(fits.step(), 'g', 6), m_open.inches());
    while (m_rows->count() > 1) {
        QLayoutItem* item = m_rows->takeAt(0);
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
    m_trouble->setText(!fits.settled() ? tr("Trying every assembly of the job and of the libraries beside it …") : fits.trouble());
    m_trouble->setVisible(!m_trouble->text().isEmpty());
    double tallest = 0.0;
    for (const AssemblyFit& fit : fits.all()) tallest = std::max(tallest, fit.tool.gaugeLength());
    for (std::size_t i = 0; i < fits.all().size(); ++i) m_rows->insertWidget(m_rows->count() - 1, rowFor(i, tallest));
}

} // namespace gyre
