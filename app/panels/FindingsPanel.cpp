#include "panels/FindingsPanel.h"
#include "Ask.h"
#include "Paper.h"
#include "model/Route.h"
#include "model/StockShow.h"
#include "panels/RecipePanel.h"
#include <QFileInfo>
#include <QScrollArea>

namespace gyre {

FindingsPanel::FindingsPanel(OpenJob& open, StockShow& stock, Route& route, QWidget* parent) : QWidget(parent), m_open(open), m_stock(stock), m_route(route) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(14, 12, 12, 10);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("FINDINGS"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    m_prove = new QPushButton(tr("Prove the whole job"), this);
    m_prove->setProperty("role", "primary");
    m_prove->setObjectName("proveAll");
    m_prove->setAccessibleName(tr("Prove the whole job at the machine"));
    connect(m_prove, &QPushButton::clicked, this, [this] { m_open.computeNow(true); });
    outer->addWidget(m_prove);
    m_summary = new QLabel(this);
    m_summary->setWordWrap(true);
    m_summary->setProperty("role", "soft");
    m_summary->setObjectName("proofSummary");
    outer->addWidget(m_summary);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* inside = new QWidget;
    m_list = new QVBoxLayout(inside);
    m_list->setContentsMargins(0, 0, 0, 0);
    m_list->setSpacing(8);
    m_list->addStretch();
    scroll->setWidget(inside);
    outer->addWidget(scroll, 1);
    for (auto signal : {&OpenJob::jobChanged, &OpenJob::resultChanged, &OpenJob::proofChanged, &OpenJob::computingChanged})
        connect(&m_open, signal, this, &FindingsPanel::refresh);
    connect(&m_stock, &StockShow::changed, this, &FindingsPanel::refresh);
    refresh();
}

void FindingsPanel::showEvent(QShowEvent* e) {
    refresh();
    QWidget::showEvent(e);
}

void FindingsPanel::refresh() {
    if (!isVisible()) return;
    const auto all = m_open.findings();
    int stops = 0, looks = 0;
    for (const Finding& f : all) {
        stops += f.rank == Rank::Stop;
        looks += f.rank == Rank::Look;
    }
    showGroups(all);
    int proven = 0, active = 0;
    std::size_t pairs = 0;
    if (m_open.hasJob())
        for (const Recipe& r : m_open.job().worked()) {
            ++active;
            if (const auto* p = m_open.proof(QString::fromStdString(r.id))) {
                ++proven;
                pairs += p->pairs;
            }
        }
    m_prove->setEnabled(active > 0);
    QString text;
    if (active == 0)
        text = tr("The route has no active operation.");
    else if (proven < active)
        text = m_open.computing() ? tr("Working…") : tr("%1 of %2 operations are proven at the machine.").arg(proven).arg(active);
    else
        text = stops ? tr("Proven against %1 pairs of bodies: not safe.").arg(pairs) : tr("Proven against %1 pairs of bodies: nothing comes too near.").arg(pairs);
    if (!all.empty()) text += tr("\n%1 Stop · %2 Look · %3 Note").arg(stops).arg(looks).arg(static_cast<int>(all.size()) - stops - looks);
    m_summary->setText(text);
}

// Alike ones of all operations stand together: the first, and the others when they are asked for.
void FindingsPanel::showGroups(const std::vector<Finding>& all) {
    std::vector<std::pair<QString, std::vector<const Finding*>>> groups;
    for (const Finding& f : all) {
        const QString kind = QString("%1/%2").arg(static_cast<int>(f.rank)).arg(QString::fromStdString(f.code));
        const auto known = std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.first == kind; });
        if (known == groups.end())
            groups.push_back({kind, {&f}});
        else
            known->second.push_back(&f);
    }
    const bool many = m_open.hasJob() && m_open.job().worked().size() > 1;
    // Widgets are dear to make: what stands there already stays.
    QString key = m_unfolded.values().join('/');
    for (const Finding& f : all) {
        const Recipe* r = many ? m_open.job().operation(f.operation) : nullptr;
        key += keyOf(m_open, f) + (r ? m_route.numberOf(*r) + QString::fromStdString(r->name) : QString());
    }
    if (m_stock.shown() == StockBy::Deviation && m_stock.picture())
        for (std::size_t i = 0; i < m_stock.picture()->places(); ++i) key += "/" + m_stock.placeWords(i);
    if (key == m_shown) return;
    m_shown = key;
    while (m_list->count() > 1) {
        QLayoutItem* item = m_list->takeAt(0);
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
    int at = 0;
    const auto show = [&](const Finding& f) {
        const Recipe* r = many ? m_open.job().operation(f.operation) : nullptr;
        if (r) {
            auto* of = new QLabel(QString("%1  %2").arg(m_route.numberOf(*r), QString::fromStdString(r->name)), this);
            of->setProperty("role", "soft");
            m_list->insertWidget(at++, of);
        }
        m_list->insertWidget(at++, findingBlock(m_open, f, this));
    };
    for (const auto& [kind, alike] : groups) {
        show(*alike.front());
        if (alike.size() == 1) continue;
        const bool open = m_unfolded.contains(kind);
        auto* more = new QPushButton(open ? tr("fewer of these") : tr("%1 more like this").arg(alike.size() - 1), this);
        more->setProperty("role", "fold");
        more->setObjectName("alike." + QString::fromStdString(alike.front()->code));
        connect(more, &QPushButton::clicked, this, [this, kind = kind] {
            if (!m_unfolded.remove(kind)) m_unfolded.insert(kind);
            refresh();
        });
        if (open)
            for (std::size_t i = 1; i < alike.size(); ++i) show(*alike[i]);
        m_list->insertWidget(at++, more);
    }
    showPlaces(at);
}

namespace {

/// A long name does not widen the list: it ends with an ellipsis.
class NarrowButton : public QPushButton {
public:
    NarrowButton(QString words, QWidget* parent) : QPushButton(words, parent), m_words(std::move(words)) { setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed); }

protected:
    void resizeEvent(QResizeEvent* event) override {
        QPushButton::resizeEvent(event);
        constexpr int kRoomBeside = 28;
        setText(fontMetrics().elidedText(m_words, Qt::ElideRight, std::max(40, width() - kRoomBeside)));
    }

private:
    QString m_words;
};

} // namespace

// Where the stock is shown by how far it is off the part: the worst places, each a click away.
void FindingsPanel::showPlaces(int at) {
    const auto& picture = m_stock.picture();
    if (!picture || m_stock.shown() != StockBy::Deviation || picture->places() == 0) return;
    auto* heading = new QLabel(tr("WORST PLACES OF THE STOCK"), this);
    heading->setProperty("role", "heading");
    m_list->insertWidget(at++, heading);
    for (std::size_t i = 0; i < picture->places(); ++i) {
        auto* place = new NarrowButton(m_stock.placeWords(i), this);
        place->setProperty("role", "verdict");
        place->setProperty("rank", picture->gone(i) ? "stop" : "look");
        place->setObjectName(QString("stockPlace.%1").arg(i));
        place->setToolTip((picture->gone(i)
                               ? tr("%1\nGo there; Shift+K goes on to the next")
                               : tr("%1: so much of the part's surface, under so much stock at the most, and what left it\nGo there; Shift+K goes on to the next"))
                              .arg(m_stock.placeWords(i)));
        connect(place, &QPushButton::clicked, this, [this, i] { m_stock.goTo(i); });
        m_list->insertWidget(at++, place);
    }
    auto* store = new QPushButton(tr("Store the comparison as a page…"), this);
    store->setProperty("role", "fold");
    store->setObjectName("storeComparison");
    connect(store, &QPushButton::clicked, this, [this] {
        const QFileInfo job(m_open.file());
        const QString file = askToSave(this, tr("Store the comparison"), job.absolutePath() + "/" + job.baseName() + "-comparison.html", tr("Pages (*.html)"));
        if (!file.isEmpty()) storeComparisonAs(file);
    });
    m_list->insertWidget(at++, store);
}

void FindingsPanel::storeComparisonAs(const QString& file) {
    const Status done = storeComparison(m_open, m_stock, file, m_seen ? m_seen() : QImage());
    emit m_open.toldUser(done ? tr("Stored %1").arg(file) : QString::fromStdString(done.error().text()));
}

} // namespace gyre
