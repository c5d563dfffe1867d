#include "panels/VariantsPanel.h"
#include "Units.h"
#include "model/OpenJob.h"
#include <QEvent>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace gyre {
namespace {
constexpr int kCardWidth = 460;
constexpr int kMostDiffering = 4; ///< words, that a column names
} // namespace

VariantsPanel::VariantsPanel(OpenJob& open, Variants& variants, QWidget* parent) : OverView("variantsPanel", kCardWidth, parent), m_open(open), m_variants(variants) {
    setAccessibleName(tr("Several ways of doing the operation"));
    auto* column = begin("variants.close", tr("Close the table of variants"));
    m_trouble = softLine("variants.trouble", column);
    m_table = new QWidget(this);
    column->addWidget(m_table);
    auto* foot = new QHBoxLayout;
    const auto button = [&](const QString& text, const QString& name, const QString& said, void (Variants::*what)()) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        b->setAccessibleName(said);
        b->setToolTip(said);
        connect(b, &QPushButton::clicked, this, [this, what] { (m_variants.*what)(); });
        foot->addWidget(b);
        return b;
    };
    m_add = button(tr("+  Another like this"), "variants.add", tr("Put the operation aside as it is, and change a copy of it"), &Variants::add);
    m_keep = button(tr("Keep this one"), "variants.keep", tr("Drop all but the one in hand"), &Variants::keep);
    foot->addStretch(1);
    column->addLayout(foot);
    column->addStretch(1);
    connect(&variants, &Variants::changed, this, &VariantsPanel::refresh);
    for (const auto signal : {&OpenJob::selectionChanged, &OpenJob::benchChanged, &OpenJob::jobChanged}) connect(&open, signal, this, &VariantsPanel::refresh);
    refresh();
}

int VariantsPanel::high() const { return sizeHint().height(); }

QLabel* VariantsPanel::cell(const QString& text, int row, int column, const char* role) {
    auto* label = new QLabel(text, m_table);
    if (*role) label->setProperty("role", role);
    m_grid->addWidget(label, row, column, column == 0 ? Qt::AlignLeft : Qt::AlignRight | Qt::AlignTop);
    return label;
}

// The head of a variant: its letter, by what it differs, and what can be done with it.
void VariantsPanel::addColumn(int column, const VariantResult& variant, bool inHand) {
    const QString letter = QString::fromStdString(variant.variant);
    auto* head = new QWidget(m_table);
    head->setObjectName("variant." + letter);
    head->installEventFilter(this);
    auto* inside = new QVBoxLayout(head);
    inside->setContentsMargins(0, 0, 0, 0);
    inside->setSpacing(2);
    auto* name = new QLabel(inHand ? tr("%1 · in hand").arg(letter) : letter, head);
    name->setProperty("role", "title");
    inside->addWidget(name, 0, Qt::AlignRight);
    QStringList words;
    for (const std::string& d : variant.differs) words << inUnits(QString::fromStdString(d), m_open.inches());
    if (words.size() > kMostDiffering) words = words.mid(0, kMostDiffering) << tr("and %1 more").arg(words.size() - kMostDiffering);
    auto* differs = new QLabel(words.join("\n"), head);
    differs->setObjectName(QString("variant.%1.differs").arg(letter));
    differs->setProperty("role", "soft");
    differs->setWordWrap(true);
    differs->setAlignment(Qt::AlignRight | Qt::AlignTop);
    inside->addWidget(differs);
    inside->addStretch(1);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(2);
    buttons->addStretch(1);
    if (!inHand) {
        auto* take = new QPushButton(tr("Take"), head);
        take->setObjectName(QString("variant.%1.take").arg(letter));
        take->setAccessibleName(tr("Take variant %1").arg(letter));
        connect(
            take, &QPushButton::clicked, this, [this, letter] { m_variants.take(letter); }, Qt::QueuedConnection);
        auto* drop = new QPushButton(QString::fromUtf8("×"), head);
        drop->setObjectName(QString("variant.%1.drop").arg(letter));
        drop->setAccessibleName(tr("Drop variant %1").arg(letter));
        drop->setToolTip(drop->accessibleName());
        drop->setProperty("role", "flat");
        connect(
            drop, &QPushButton::clicked, this, [this, letter] { m_variants.drop(letter); }, Qt::QueuedConnection);
        buttons->addWidget(take);
        buttons->addWidget(drop);
    }
    inside->addLayout(buttons);
    m_grid->addWidget(head, 0, column);
    m_grid->setColumnStretch(column, 1);
}

void VariantsPanel::fillTable() {
    // A table of another shape is another table.
    auto* table = new QWidget(this);
    delete layout()->replaceWidget(m_table, table);
    m_table->hide();
    m_table->deleteLater();
    m_table = table;
    m_grid = new QGridLayout(m_table);
    m_grid->setContentsMargins(0, 2, 0, 6);
    m_grid->setHorizontalSpacing(14);
    m_grid->setVerticalSpacing(3);
    const auto& all = m_variants.all();
    const std::string own = m_open.recipe() ? m_open.recipe()->variant : std::string();
    for (std::size_t i = 0; i < all.size(); ++i) addColumn(static_cast<int>(i) + 1, all[i], all[i].variant == own);
    int row = 1;
    QStringList alike;
    for (const VariantLine& line : m_variants.table()) {
        if (line.alike) {
            alike << QString("%1 %2").arg(tr(line.what.c_str()).toLower(), inUnits(QString::fromStdString(line.said.front()), m_open.inches()));
            continue;
        }
        cell(tr(line.what.c_str()), row, 0, "soft");
        for (std::size_t i = 0; i < line.said.size(); ++i)
            cell(line.said[i].empty() ? QString::fromUtf8("–") : inUnits(QString::fromStdString(line.said[i]), m_open.inches()), row, static_cast<int>(i) + 1,
                 line.best[i] ? "title" : "")
                ->setObjectName(QString("variant.%1.%2").arg(QString::fromStdString(all[i].variant)).arg(row));
        ++row;
    }
    if (!alike.isEmpty()) {
        auto* same = new QLabel(tr("Alike in all: %1.").arg(alike.join(", ")), m_table);
        same->setObjectName("variants.alike");
        same->setProperty("role", "soft");
        same->setWordWrap(true);
        m_grid->addWidget(same, row, 0, 1, static_cast<int>(all.size()) + 1);
    }
    m_table->setVisible(!all.empty());
}

void VariantsPanel::refresh() {
    const bool shown = m_variants.isOpen() && m_open.bench() == Bench::Cut && m_open.recipe();
    setVisible(shown);
    if (!shown) return;
    m_heading->setText(tr("VARIANTS OF %1").arg(QString::fromStdString(m_open.recipe()->name).toUpper()));
    m_trouble->setText(m_variants.trouble());
    m_trouble->setVisible(!m_trouble->text().isEmpty());
    m_add->setEnabled(m_variants.possible());
    m_keep->setEnabled(!m_open.recipe()->variant.empty());
    fillTable();
    place();
}

// Whatever lies under the pointer is drawn beside what is in hand.
bool VariantsPanel::eventFilter(QObject* watched, QEvent* e) {
    if (watched->objectName().startsWith("variant.")) {
        if (e->type() == QEvent::Enter) m_variants.point(watched->objectName().section('.', 1, 1));
        if (e->type() == QEvent::Leave) m_variants.point({});
    }
    return OverView::eventFilter(watched, e);
}

} // namespace gyre
