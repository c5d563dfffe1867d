#include "model/StockShow.h"
#include "Units.h"
#include "model/AppModel.h"
#include "model/Route.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "session/Comparison.h"
#include <algorithm>

namespace gyre {

/// What is asked for: with what stands before the selected operation, and how far that one has come.
struct StockShow::Asked {
    std::shared_ptr<const Workplace> place;
    std::shared_ptr<Shelf> shelf;
    std::shared_ptr<StageCache> moments;
    std::vector<std::shared_ptr<const OperationResult>> done; ///< the selected one is the last
    QStringList names;                                        ///< of the bands, by operation
    bool begun = false;                                       ///< the selected one makes a path
    std::size_t location = 0;
    StockBy by = StockBy::Operation;
    bool old = false; ///< a path is older than the job
    MeantCuts meant{};
    [[nodiscard]] std::vector<std::uint64_t> restsOn() const {
        std::vector<std::uint64_t> keys{place->looks};
        for (const auto& r : done) keys.push_back(r->key);
        return keys;
    }
};

namespace {
constexpr std::size_t kMomentBytes = 256u << 20;
} // namespace

/// The surface's numbers of operations become those of bands.
TriangleMesh StockShow::bandsByWork(const Asked& asked, TriangleMesh skin, Picture& to) {
    if (asked.by == StockBy::Tool) {
        to.bands.push_back({asked.names.front()});
        std::vector<int> bandOf{0};
        std::vector<std::string> tools{{}};
        for (const auto& done : asked.done) {
            auto known = std::find(tools.begin() + 1, tools.end(), done->tool.id);
            if (known == tools.end()) {
                known = tools.insert(tools.end(), done->tool.id);
                to.bands.push_back({QString::fromStdString(done->tool.name)});
            }
            bandOf.push_back(static_cast<int>(known - tools.begin()));
        }
        for (int& face : skin.faces) face = bandOf[static_cast<std::size_t>(face)];
        return skin;
    }
    // What is cut after an operation, up to the playhead, is how long ago that was.
    double since = 0.0;
    std::vector<QString> names(asked.names.begin(), asked.names.end());
    if (asked.by == StockBy::Age)
        for (std::size_t i = asked.done.size(); i > 0; --i) {
            const bool present = asked.begun && i == asked.done.size();
            names[i] += present ? tr(" · now") : tr(" · %1 ago").arg(clockWords(since));
            const OperationResult& done = *asked.done[i - 1];
            since += present && done.motion ? done.motion->timeOf(std::min(asked.location, done.path()->size() - 1)) : secondsOf(done);
        }
    for (const QString& name : names) to.bands.push_back({name});
    return skin;
}

Result<StockShow::Picture> StockShow::pictureOf(const Asked& asked, Progress& progress) {
    RouteStock route(asked.place, asked.shelf->results);
    for (const auto& r : asked.done) route.add(r);
    const std::size_t before = route.operations().size() - (asked.begun ? 1 : 0);
    const auto stock = route.at(before, asked.begun ? asked.location + 1 : 0, *asked.moments, progress);
    if (!stock) return tl::unexpected(stock.error());
    Picture out;
    out.by = asked.by;
    out.location = asked.location;
    out.old = asked.old;
    out.cell = (*stock)->cell();
    out.volume = (*stock)->volume();
    TriangleMesh skin;
    if (asked.by != StockBy::Deviation) {
        skin = bandsByWork(asked, (*stock)->skin(), out);
    } else {
        auto off = stockOff(**stock, *asked.place->part, progress, asked.meant);
        if (!off) return tl::unexpected(off.error());
        // Where the axis turns, a sweep is known to a quarter of a cell: less is not told.
        out.fine = std::max(0.05, 0.25 * out.cell);
        out.cutBy = asked.names.mid(1);
        const double coarse = std::max(0.5, 2.0 * out.fine), most = 4.0 * coarse;
        const double limits[] = {-coarse, -out.fine, out.fine, coarse, most};
        const auto mm = [](double v) { return QString::number(v, 'f', v < 0.995 ? 2 : 1); };
        out.bands = {{tr("▲ over %1 mm gone").arg(mm(coarse))},
                     {tr("▲ %1 to %2 mm gone").arg(mm(out.fine), mm(coarse))},
                     {tr("within %1 mm").arg(mm(out.fine))},
                     {tr("%1 to %2 mm stand").arg(mm(out.fine), mm(coarse))},
                     {tr("%1 to %2 mm stand").arg(mm(coarse), mm(most))},
                     {tr("over %1 mm stand").arg(mm(most))},
                     {tr("meant to go: edges, engraving")}};
        auto compared = summed(*off, **stock, *asked.place->part, {std::begin(limits), std::end(limits)}, progress);
        if (!compared) return tl::unexpected(compared.error());
        out.compared = std::make_shared<const StockComparison>(std::move(*compared));
        skin = std::move(off->skin);
        out.off = std::move(off->off);
        for (std::size_t i = 0; i < skin.faces.size(); ++i)
            skin.faces[i] = off->meant[i / 2] && static_cast<double>(-out.off[i / 2]) > out.fine
                                ? static_cast<int>(kMeant)
                                : static_cast<int>(std::upper_bound(std::begin(limits), std::end(limits), static_cast<double>(out.off[i / 2])) - std::begin(limits));
    }
    double whole = 0.0;
    for (std::size_t i = 0; i < skin.faces.size(); ++i) {
        const double area = 0.5 * (skin.corner(i, 1) - skin.corner(i, 0)).cross(skin.corner(i, 2) - skin.corner(i, 0)).norm();
        out.bands[static_cast<std::size_t>(skin.faces[i])].share += area;
        whole += area;
    }
    for (Band& b : out.bands) b.share /= std::max(1e-300, whole);
    out.skin = std::make_shared<const TriangleMesh>(std::move(skin));
    return out;
}

// Once for each move of the pointer: a few milliseconds for half a million triangles, and no tree to be made for every picture.
std::optional<std::size_t> StockShow::Picture::hit(const Vec3& from, const Vec3& way, const std::function<bool(const Vec3&)>& drawn) const {
    std::optional<std::size_t> best;
    double nearest = 1e300;
    for (std::size_t i = 0; i < skin->triangles.size(); ++i) {
        const Vec3 &a = skin->corner(i, 0), u = skin->corner(i, 1) - a, v = skin->corner(i, 2) - a, p = way.cross(v), o = from - a;
        const double det = u.dot(p);
        if (det <= 1e-14) continue; // seen from behind, or along it
        const double s = o.dot(p) / det;
        if (s < 0.0 || s > 1.0) continue;
        const Vec3 q = o.cross(u);
        const double t = way.dot(q) / det, at = v.dot(q) / det;
        if (t < 0.0 || s + t > 1.0 || at >= nearest || !drawn(from + at * way)) continue;
        nearest = at;
        best = i;
    }
    return best;
}

StockShow::StockShow(AppModel& model) : m_model(model), m_moments(std::make_shared<StageCache>(kMomentBytes)) {
    for (const auto signal : {&AppModel::locationChanged, &AppModel::benchChanged}) connect(&model, signal, this, &StockShow::ask);
    for (const auto signal : {&AppModel::selectionChanged, &AppModel::resultChanged, &AppModel::placeChanged, &AppModel::jobChanged})
        connect(&model, signal, this, &StockShow::askAnew);
}

QString StockShow::placeWords(std::size_t place) const {
    if (!m_picture || place >= m_picture->places()) return {};
    const StockPlace& worst = m_picture->place(place);
    const QString by = m_picture->cutBy.value(worst.by - 1);
    if (m_picture->gone(place)) return inUnits(tr("▲ %1 mm gone · %2").arg(worst.mm, 0, 'f', 2).arg(worst.by > 0 ? by : tr("as set up")), m_model.inches());
    const StandingArea& area = m_picture->compared->areas[place - m_picture->compared->gone.size()];
    const double cm2 = 0.01 * area.area;
    const QString under = tr("%1 cm² under %2 mm").arg(cm2, 0, 'f', cm2 < 0.995 ? 2 : 1).arg(worst.mm, 0, 'f', 2);
    return inUnits(worst.by > 0 ? tr("%1 · %2").arg(under, by) : tr("%1 · not cut").arg(under), m_model.inches());
}

void StockShow::cycle() { show(!m_by ? std::optional(m_colouring) : *m_by != StockBy::Deviation ? std::optional(StockBy::Deviation) : std::nullopt); }

void StockShow::showStock() {
    if (!m_by || *m_by == StockBy::Deviation) return show(m_colouring);
    show(m_colouring == StockBy::Operation ? StockBy::Tool : m_colouring == StockBy::Tool ? StockBy::Age : StockBy::Operation);
}

void StockShow::show(std::optional<StockBy> by) {
    if (by == m_by) return;
    m_by = by;
    if (by && *by != StockBy::Deviation) m_colouring = *by;
    m_picture.reset();
    m_trouble.clear();
    emit changed();
    askAnew();
}

void StockShow::askAnew() {
    m_apart.cancel();
    ask();
}

// While one is made, the playhead may go on: then the next is of where it stands by then.
void StockShow::ask() {
    if (!m_apart.busy()) return start();
    m_again = true;
    if (m_measuring) m_apart.cancel(); // that comes when all else is done
}

std::optional<std::vector<StockShow::Done>> StockShow::doneNow() const {
    std::vector<Done> out;
    for (const Recipe& r : m_model.job().worked()) {
        auto result = m_model.result(QString::fromStdString(r.id));
        const bool present = QString::fromStdString(r.id) == m_model.selected();
        if (!result && !present && !carries(r.kind)) return std::nullopt;
        if (result && result->path()) out.push_back({r, std::move(result), present});
        if (present) break;
    }
    return out;
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
    const auto done = doneNow();
    if (!done) return tell(tr("The operations before are not computed yet."));
    Asked asked{m_model.place(), m_model.shelf(), m_moments, {}, {tr("as it was set up")}, !done->empty() && done->back().present, m_model.location(), *m_by, false};
    for (const Done& d : *done) {
        asked.done.push_back(d.result);
        asked.names << m_model.route().numberOf(d.recipe) + " " + QString::fromStdString(d.recipe.name);
        asked.old = asked.old || !m_model.upToDate(QString::fromStdString(d.recipe.id));
    }
    if (asked.by == StockBy::Deviation) asked.meant = meantCuts(m_model.job(), asked.done);
    if (asked.by == StockBy::Deviation && !asked.place->part) return tell(tr("There is no part to compare with."));
    auto made = std::make_shared<Result<Picture>>();
    run([made, asked](Progress& progress) { *made = pictureOf(asked, progress); },
        [this, made, asked] {
            if (*made) {
                m_picture = std::make_shared<const Picture>(std::move(**made));
                m_trouble.clear();
            } else if (!made->error().cancelled) {
                m_picture.reset();
                m_trouble = QString::fromStdString(made->error().text());
            }
            // With time left, what cutting the whole operation is like.
            if (!m_again && *made && asked.begun && asked.done.back()->complete()) {
                if (m_figuresOf != asked.restsOn())
                    measure(asked);
                else if (m_figures && m_figures->engagement.at.empty())
                    measureEngagement(asked); // it was called off
            }
            emit changed();
        });
}

void StockShow::measure(const Asked& asked) {
    auto figures = std::make_shared<Result<CutFigures>>();
    m_measuring = true;
    run(
        [figures, asked](Progress& progress) {
            RouteStock route(asked.place, asked.shelf->results);
            for (const auto& r : asked.done) route.add(r);
            const OperationResult& own = *asked.done.back();
            *figures = route.after(route.operations().size(), progress).map([&](const auto& after) {
                return cutFigures(*own.path(), *after, [&](std::size_t i) { return own.motion->timeOf(i); });
            });
        },
        [this, figures, asked] {
            m_measuring = false;
            if (!*figures) return;
            m_figures = std::make_shared<const CutFigures>(std::move(**figures));
            m_figuresOf = asked.restsOn();
            if (!m_again) measureEngagement(asked);
            emit measured();
            emit changed();
        });
}

// Takes some seconds: the other figures are there meanwhile.
void StockShow::measureEngagement(const Asked& asked) {
    auto engaged = std::make_shared<Result<Engagement>>();
    m_measuring = true;
    run(
        [engaged, asked](Progress& progress) {
            RouteStock route(asked.place, asked.shelf->results);
            for (const auto& r : asked.done) route.add(r);
            *engaged = route.engagementOf(route.operations().size() - 1, progress);
        },
        [this, engaged, asked] {
            m_measuring = false;
            if (!*engaged || !m_figures || m_figuresOf != asked.restsOn()) return;
            auto all = std::make_shared<CutFigures>(*m_figures);
            all->engagement = std::move(**engaged);
            m_figures = std::move(all);
            emit engagementMeasured();
            emit changed();
        });
}

std::shared_ptr<const CutFigures> StockShow::figures() const {
    if (!m_by || !m_figures || !m_model.hasJob() || !m_model.place() || !m_model.result()) return nullptr;
    const auto done = doneNow();
    if (!done || done->empty() || !done->back().present || done->size() + 1 != m_figuresOf.size() || m_model.place()->looks != m_figuresOf.front()) return nullptr;
    for (std::size_t i = 0; i < done->size(); ++i)
        if ((*done)[i].result->key != m_figuresOf[i + 1]) return nullptr;
    return m_figures;
}

void StockShow::run(const std::function<void(Progress&)>& work, const std::function<void()>& then) {
    m_apart.run(this, work, [this, then] {
        then();
        if (m_again && !m_apart.busy()) start();
    });
}

} // namespace gyre
