#include "model/StockShow.h"
#include "model/AppModel.h"
#include "session/Comparison.h"
#include "session/RouteStock.h"
#include <algorithm>

namespace gyre {
namespace {

constexpr std::size_t kMomentBytes = 256u << 20;

/// What is asked for: with what stands before the selected operation, and how far that one has come.
struct Asked {
    std::shared_ptr<const Workplace> place;
    std::shared_ptr<Shelf> shelf;
    std::shared_ptr<StageCache> moments;
    std::vector<std::shared_ptr<const OperationResult>> done; ///< the selected one is the last
    QStringList names;                                        ///< of the bands, by operation
    bool begun = false;                                       ///< the selected one makes a path
    std::size_t location = 0;
    StockBy by = StockBy::Operation;
};

Result<StockShow::Picture> pictureOf(const Asked& asked, Progress& progress) {
    RouteStock route(asked.place, asked.shelf->results);
    for (const auto& r : asked.done) route.add(r);
    const std::size_t before = route.operations().size() - (asked.begun ? 1 : 0);
    const auto stock = route.at(before, asked.begun ? asked.location + 1 : 0, *asked.moments, progress);
    if (!stock) return tl::unexpected(stock.error());
    StockShow::Picture out;
    out.by = asked.by;
    out.location = asked.location;
    out.cell = (*stock)->cell();
    out.volume = (*stock)->volume();
    if (asked.by == StockBy::Operation) {
        out.skin = (*stock)->skin();
        for (const QString& name : asked.names) out.bands.push_back({name, 0.0});
    } else {
        auto off = stockOff(**stock, *asked.place->part, progress);
        if (!off) return tl::unexpected(off.error());
        // Where the axis turns, a sweep is known to a quarter of a cell: less is not told.
        out.fine = std::max(0.05, 0.25 * out.cell);
        const double limits[] = {-0.5, -out.fine, out.fine, 0.5, 2.0};
        const auto mm = [](double v) { return QString::number(v, 'f', v < 0.995 ? 2 : 1); };
        out.bands = {{QObject::tr("▲ over %1 mm gone").arg(mm(0.5)), 0.0},          {QObject::tr("▲ %1 to %2 mm gone").arg(mm(out.fine), mm(0.5)), 0.0},
                     {QObject::tr("within %1 mm").arg(mm(out.fine)), 0.0},          {QObject::tr("%1 to %2 mm stand").arg(mm(out.fine), mm(0.5)), 0.0},
                     {QObject::tr("%1 to %2 mm stand").arg(mm(0.5), mm(2.0)), 0.0}, {QObject::tr("over %1 mm stand").arg(mm(2.0)), 0.0}};
        out.skin = std::move(off->skin);
        for (std::size_t i = 0; i < out.skin.faces.size(); ++i)
            out.skin.faces[i] = static_cast<int>(std::upper_bound(std::begin(limits), std::end(limits), static_cast<double>(off->off[i / 2])) - std::begin(limits));
    }
    double whole = 0.0;
    for (std::size_t i = 0; i < out.skin.faces.size(); ++i) {
        const double area = 0.5 * (out.skin.corner(i, 1) - out.skin.corner(i, 0)).cross(out.skin.corner(i, 2) - out.skin.corner(i, 0)).norm();
        out.bands[static_cast<std::size_t>(out.skin.faces[i])].share += area;
        whole += area;
    }
    for (StockShow::Band& b : out.bands) b.share /= std::max(1e-300, whole);
    return out;
}

} // namespace

StockShow::StockShow(AppModel& model) : m_model(model), m_moments(std::make_shared<StageCache>(kMomentBytes)) {
    for (const auto signal : {&AppModel::locationChanged, &AppModel::benchChanged}) connect(&model, signal, this, &StockShow::ask);
    for (const auto signal : {&AppModel::selectionChanged, &AppModel::resultChanged, &AppModel::placeChanged}) connect(&model, signal, this, &StockShow::askAnew);
}

StockShow::~StockShow() { end(); }

void StockShow::end() {
    if (!m_thread) return;
    m_progress->cancel();
    m_thread->wait();
    m_thread.reset();
}

void StockShow::cycle() { show(!m_by ? std::optional(StockBy::Operation) : *m_by == StockBy::Operation ? std::optional(StockBy::Deviation) : std::nullopt); }

void StockShow::show(std::optional<StockBy> by) {
    if (by == m_by) return;
    m_by = by;
    m_picture.reset();
    m_trouble.clear();
    emit changed();
    askAnew();
}

void StockShow::askAnew() {
    if (m_thread) m_progress->cancel();
    ask();
}

// While one is made, the playhead may go on: then the next is of where it stands by then.
void StockShow::ask() {
    if (m_thread)
        m_again = true;
    else
        start();
}

void StockShow::start() {
    m_again = false;
    const bool working = m_model.bench() == Bench::Cut || m_model.bench() == Bench::Prove;
    const auto tell = [this](const QString& why) {
        m_picture.reset();
        m_trouble = why;
        emit changed();
    };
    if (!m_by || !working || !m_model.hasJob() || !m_model.place()) {
        if (m_picture) tell({});
        return;
    }
    Asked asked{m_model.place(), m_model.shelf(), m_moments, {}, {tr("as it was set up")}, false, m_model.location(), *m_by};
    if (*m_by == StockBy::Deviation && !asked.place->part) return tell(tr("There is no part to compare with."));
    for (const Recipe& r : m_model.job().worked()) {
        const QString id = QString::fromStdString(r.id);
        const auto result = m_model.result(id);
        const bool present = id == m_model.selected();
        if (!result && !present && r.kind != OperationKind::Holes) return tell(tr("The operations before are not computed yet."));
        if (result && result->path()) {
            asked.done.push_back(result);
            asked.names << m_model.numberOf(r) + " " + QString::fromStdString(r.name);
            asked.begun = present;
        }
        if (present) break;
    }
    auto made = std::make_shared<Result<Picture>>();
    m_progress = std::make_shared<Progress>();
    m_thread.reset(QThread::create([made, asked, progress = m_progress] { *made = pictureOf(asked, *progress); }));
    connect(m_thread.get(), &QThread::finished, this, [this, made, own = m_thread.get()] {
        if (m_thread.get() != own) return;
        m_thread.release()->deleteLater();
        if (*made) {
            m_picture = std::make_shared<const Picture>(std::move(**made));
            m_trouble.clear();
        } else if (!made->error().cancelled) {
            m_picture.reset();
            m_trouble = QString::fromStdString(made->error().text());
        }
        if (m_again) start();
        emit changed();
    });
    m_thread->start(QThread::LowPriority);
}

} // namespace gyre
