#include "model/Picks.h"
#include "axis/AxisSpec.h"
#include "guided/CurveSpec.h"
#include "milling/Sheet.h"
#include "model/Along.h"
#include "model/FlankShow.h"
#include "model/Holes.h"
#include "model/Measures.h"
#include "model/Mending.h"
#include "model/Milling.h"
#include "model/Planes.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/AlongGuess.h"
#include "proposal/NewJob.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace gyre {
namespace {

/// Of a group of check faces; nothing where there is no such group.
template <std::size_t Group> std::vector<ShapeRef>& checkFaces(Recipe& r) {
    static thread_local std::vector<ShapeRef> none;
    none.clear();
    return Group < r.checks.size() ? r.checks[Group].faces : none;
}

const PickWord kPickWords[] = {
    {PickMode::Faces, "target.faces", QT_TRANSLATE_NOOP("Picks", "Click faces to add or take away"), true,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.target->faces; }},
    {PickMode::AxisFaces, "axis.faces", QT_TRANSLATE_NOOP("Picks", "Click faces that the axis is square to"), true,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.axis->faces; }},
    {PickMode::Edges, "target.edges", QT_TRANSLATE_NOOP("Picks", "Click edges to add or take away"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.target->edges; }},
    {PickMode::Profile, "target.profile", QT_TRANSLATE_NOOP("Picks", "Click the edges that tell the depth"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.target->profile; }},
    {PickMode::AxisEdges, "axis.edges", QT_TRANSLATE_NOOP("Picks", "Click edges that the axis goes by"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.axis->edges; }},
    {PickMode::Rail1, "pattern.rail1", QT_TRANSLATE_NOOP("Picks", "Click the edges of rail 1"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.pattern->rail1; }},
    {PickMode::Rail2, "pattern.rail2", QT_TRANSLATE_NOOP("Picks", "Click the edges of rail 2"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.pattern->rail2; }},
    {PickMode::Guides, "pattern.guides", QT_TRANSLATE_NOOP("Picks", "Click edges that rows are to follow"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.pattern->guides; }},
    {PickMode::WhereEdges, "where.edges", QT_TRANSLATE_NOOP("Picks", "Click the edges of closed loops that bound the rows"), false,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.where->edges; }},
    {PickMode::WhereFaces, "where.faces", QT_TRANSLATE_NOOP("Picks", "Click faces whose outline bounds the rows"), true,
     [](Recipe& r) -> std::vector<ShapeRef>& { return r.where->faces; }},
    {PickMode::Check1, "checks.0.faces", QT_TRANSLATE_NOOP("Picks", "Click faces that the cutter keeps off"), true, checkFaces<0>},
    {PickMode::Check2, "checks.1.faces", QT_TRANSLATE_NOOP("Picks", "Click faces that the cutter keeps off"), true, checkFaces<1>},
    {PickMode::Check3, "checks.2.faces", QT_TRANSLATE_NOOP("Picks", "Click faces that the cutter keeps off"), true, checkFaces<2>},
};

} // namespace

const PickWord* pickWord(PickMode mode) {
    const auto found = std::find_if(std::begin(kPickWords), std::end(kPickWords), [&](const PickWord& w) { return w.mode == mode; });
    return found == std::end(kPickWords) ? nullptr : found;
}

const PickWord* pickWord(const QString& key) {
    const auto found = std::find_if(std::begin(kPickWords), std::end(kPickWords), [&](const PickWord& w) { return key == w.key; });
    return found == std::end(kPickWords) ? nullptr : found;
}

Result<std::vector<int>> numbersOf(const QString& text, std::size_t count, const char* what) {
    std::vector<int> out;
    QString clean = text;
    clean.replace(QChar(0x2013), '-').replace(',', ' ').replace(';', ' ');
    for (const QString& word : clean.split(' ', Qt::SkipEmptyParts)) {
        const QStringList ends = word.split('-');
        bool good = ends.size() <= 2, goodEnd = true;
        const int from = ends[0].toInt(&good), to = ends.size() == 2 ? ends[1].toInt(&goodEnd) : from;
        if (!good || !goodEnd || ends.size() > 2 || from > to)
            return fail(fmt::format("'{}' is no number of {}", word.toStdString(), what), {}, "Write numbers like 3 5 7-9");
        if (from < 0 || static_cast<std::size_t>(to) >= count) return fail(fmt::format("there is no {} {}; the part has {}", what, to, count));
        for (int i = from; i <= to; ++i)
            if (std::find(out.begin(), out.end(), i) == out.end()) out.push_back(i);
    }
    return out;
}

QString textOf(std::vector<int> numbers) {
    QStringList words;
    std::sort(numbers.begin(), numbers.end());
    for (std::size_t i = 0; i < numbers.size();) {
        std::size_t k = i;
        while (k + 1 < numbers.size() && numbers[k + 1] == numbers[k] + 1) ++k;
        words << (k > i + 1 ? QString("%1-%2").arg(numbers[i]).arg(numbers[k]) : QString::number(numbers[i]));
        i = k > i + 1 ? k + 1 : i + 1;
    }
    return words.join(' ');
}

namespace {
std::size_t mendOf(const QString& key) { return key.section('.', 1, 1).toULongLong(); }
} // namespace

void Picks::setMode(PickMode mode) {
    if (mode == m_mode) return;
    m_mode = mode;
    emit modeChanged();
}

void Picks::ask(const FeaturePick& pick) {
    const bool same = m_mode == PickMode::Feature && m_feature.key == pick.key;
    forget();
    if (same) return setMode(PickMode::None);
    m_feature = pick;
    if (pick.key.startsWith("mend.")) m_model.mending().light(static_cast<int>(mendOf(pick.key)));
    if (m_mode == PickMode::Feature)
        emit modeChanged();
    else
        setMode(PickMode::Feature);
    emit m_model.featuresChanged();
}

// Once all of it is there, the plane is made.
void Picks::giveToPlane(const std::vector<int>& edges, const Vec3& point) {
    std::optional<Result<WorkPlane>> plane;
    if (m_feature.key == "plane.points") {
        m_points.push_back(point);
        if (m_points.size() == 3) plane = planeByPoints(m_points[0], m_points[1], m_points[2]);
    } else {
        for (const int e : edges)
            if (std::find(m_edges.begin(), m_edges.end(), e) == m_edges.end()) m_edges.push_back(e);
        if (m_edges.size() >= 2) plane = planeByEdges(*place()->part, m_edges[0], m_edges[1]);
    }
    if (!plane) return;
    forget();
    if (*plane)
        m_model.planes().add(**plane);
    else
        tell(plane->error());
    setMode(PickMode::None);
}

void Picks::give(const std::vector<int>& faces, const std::vector<int>& edges, const Vec3& point) {
    if (!hasPart() || m_mode != PickMode::Feature) return;
    const QString key = m_feature.key;
    if (key.startsWith("plane.")) {
        giveToPlane(edges, point);
    } else if (key == "zero") {
        change(tr("place the zero"), [&](Job& j) { j.zero = point; });
        setMode(PickMode::None);
    } else if (key == "groove.around") {
        if (!faces.empty()) m_model.milling().moveGroove(faces[0]);
    } else if (key == "flank.edges") {
        if (m_edges.empty())
            m_edges = edges;
        else
            m_model.flank().askBetween(std::exchange(m_edges, {}), edges);
    } else if (key == "swarf.sync") {
        m_points.push_back(point);
        if (m_points.size() >= 2)
            if (const auto line = std::exchange(m_points, {}); recipe()) m_model.along().addSyncLine(line[0], line[1]);
    } else if (key == "holes") {
        m_model.holes().toggle(faces);
    } else if (key == "measure") {
        if (!faces.empty() || !edges.empty()) m_model.measures().take(faces.empty() ? -1 : faces[0], edges.empty() ? -1 : edges[0], point);
    } else if (key == "flank") {
        if (!faces.empty()) m_model.flank().ask(faces[0]);
    } else if (key.startsWith("mend.") && mendOf(key) < job().mends.size()) {
        m_model.mending().give(mendOf(key), key.section('.', 2, 2), faces, edges, point);
    }
    emit m_model.featuresChanged();
}

void Picks::forget() {
    m_points.clear();
    m_edges.clear();
}

Status Picks::setNumbers(const QString& key, const QString& numbers) {
    if (!recipe() || !place() || !place()->part) return fail("there is no operation to pick for");
    const Part& part = *place()->part;
    if (key == "holes") {
        const auto list = numbersOf(numbers, place()->holes.size(), "hole");
        if (!list) {
            tell(list.error());
            return tl::unexpected(list.error());
        }
        change(tr("choose holes"), [&](Job& j) {
            auto& refs = j.operation(selected())->holes;
            refs.clear();
            for (const int i : *list) refs.push_back({place()->holes[static_cast<std::size_t>(i)].mouth, place()->holes[static_cast<std::size_t>(i)].diameter()});
        });
        emit m_model.featuresChanged();
        return {};
    }
    const PickWord* word = pickWord(key);
    if (!word) return fail("there is nothing to pick for '" + key.toStdString() + "'");
    const auto list = word->faces ? numbersOf(numbers, part.faces().size(), "face") : numbersOf(numbers, part.edges().size(), "edge");
    if (!list) {
        tell(list.error());
        return tl::unexpected(list.error());
    }
    const bool rail = word->mode == PickMode::Rail1 || word->mode == PickMode::Rail2;
    if (word->mode != PickMode::Faces && !rail) {
        change(word->faces ? tr("pick faces") : tr("pick edges"), [&](Job& j) {
            auto& refs = word->list(*j.operation(selected()));
            refs.clear();
            for (const int i : *list) refs.push_back(word->faces ? part.faceRef(i) : part.edgeRef(i));
        });
        return {};
    }
    if (rail) {
        setRail(word->mode == PickMode::Rail1 ? 0 : 1, *list);
        return {};
    }
    const auto now = resolveFaces(part, recipe()->target->faces).value_or(std::vector<int>{});
    std::vector<int> turned; // toggling these makes the list what is wanted
    for (const int f : *list)
        if (std::find(now.begin(), now.end(), f) == now.end()) turned.push_back(f);
    std::vector<int> away;
    for (const int f : now)
        if (std::find(list->begin(), list->end(), f) == list->end()) away.push_back(f);
    if (!turned.empty()) toggleFaces(turned);
    if (!away.empty()) toggleFaces(away);
    return {};
}

QString Picks::numbers(const QString& key) const {
    if (!recipe() || !place() || !place()->part) return {};
    const Recipe& r = *recipe();
    if (key == "holes") {
        std::vector<int> list;
        for (std::size_t i = 0; i < place()->holes.size(); ++i)
            if (m_model.holes().works(i)) list.push_back(static_cast<int>(i));
        return textOf(list);
    }
    const PickWord* word = pickWord(key);
    if (!word) return {};
    const auto list = word->faces ? resolveFaces(*place()->part, word->of(r)) : resolveEdges(*place()->part, word->of(r));
    return list ? textOf(*list) : QString();
}

void Picks::toggleFaces(const std::vector<int>& faces) {
    if (!recipe() || !place() || !place()->part || faces.empty()) return;
    const Part& part = *place()->part;
    const PickWord* word = pickWord(m_mode);
    const bool ofTarget = !word || !word->faces || m_mode == PickMode::Faces;
    change(tr("pick faces"), [&](Job& j) {
        Recipe& r = *j.operation(selected());
        auto& refs = ofTarget ? r.target->faces : word->list(r);
        std::vector<int> now = resolveFaces(part, refs).value_or(std::vector<int>{});
        const bool all = std::all_of(faces.begin(), faces.end(), [&](int f) { return std::find(now.begin(), now.end(), f) != now.end(); });
        for (int f : faces) {
            std::erase(now, f);
            if (!all) now.push_back(f);
        }
        std::sort(now.begin(), now.end());
        const bool first = refs.empty();
        refs.clear();
        for (int f : now) refs.push_back(part.faceRef(f));
        if (!ofTarget) return;
        if (follows(r.kind)) {
            // Along a curve, with faces alone: down the middle of a channel.
            if (first && r.kind == OperationKind::Curve && r.target->edges.empty() && r.target->drawings.empty()) r.curve->by = CurveBy::Channel;
            r.pattern->rail1.clear();
            r.pattern->rail2.clear();
            if (first || r.curve->by == CurveBy::Channel) fitAlong(j, *place(), r);
            return;
        }
        if (r.kind == OperationKind::Mill) {
            if (first) m_model.milling().fitFirstPick(r, now, {}, j);
            return;
        }
        fitRails(part, r);
    });
}

void Picks::setRail(int which, const std::vector<int>& edges) {
    if (!recipe() || !place() || !place()->part) return;
    change(tr("pick rail %1").arg(which + 1), [&](Job& j) {
        Recipe& r = *j.operation(selected());
        auto& rail = which == 0 ? r.pattern->rail1 : r.pattern->rail2;
        const bool first = rail.empty();
        rail.clear();
        for (int e : edges) rail.push_back(place()->part->edgeRef(e));
        if (first && r.kind == OperationKind::Swarf) fitAlong(j, *place(), r);
    });
}

void Picks::toggleEdges(const std::vector<int>& edges, PickMode list) {
    if (!recipe() || !place() || !place()->part || edges.empty()) return;
    const Part& part = *place()->part;
    change(list == PickMode::Profile ? tr("pick profile") : tr("pick edges"), [&](Job& j) {
        Recipe& r = *j.operation(selected());
        auto& refs = pickWord(list)->list(r);
        std::vector<int> now = resolveEdges(part, refs).value_or(std::vector<int>{});
        const bool first = now.empty(), all = std::all_of(edges.begin(), edges.end(), [&](int e) { return std::find(now.begin(), now.end(), e) != now.end(); });
        for (const int e : edges) {
            std::erase(now, e);
            if (!all) now.push_back(e);
        }
        refs.clear();
        for (const int e : now) refs.push_back(part.edgeRef(e));
        if (!first || list != PickMode::Edges) return;
        if (r.kind == OperationKind::Mill && r.target->faces.empty() && r.target->drawings.empty()) m_model.milling().fitFirstPick(r, {}, now, j);
        if (follows(r.kind)) fitAlong(j, *place(), r);
    });
}

} // namespace gyre
