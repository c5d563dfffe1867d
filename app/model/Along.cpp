#include "model/Along.h"
#include "axis/AxisSpec.h"
#include "guided/CurveSpec.h"
#include "model/PatternRow.h"
#include "model/Picks.h"
#include "operation/Meant.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "proposal/AlongGuess.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"
#include <algorithm>

namespace gyre {

void Along::add(OperationKind kind) { add(kind, BreakEdges::Picked); }

void Along::add(OperationKind kind, BreakEdges edges) {
    if (!hasJob() || !place() || !place()->part) return tell(tr("Open a part first."));
    const Recipe r = proposeAlong(job(), *place(), kind, edges);
    change(tr("new operation"), [&](Job& j) { j.route.push_back(r); });
    m_model.select(QString::fromStdString(r.id));
    m_model.setBench(Bench::Cut);
    const bool needsFaces = kind == OperationKind::Swarf || edges == BreakEdges::Faces,
               needsEdges = kind == OperationKind::Curve || (kind == OperationKind::Edge && edges == BreakEdges::Picked);
    m_model.picks().setMode(needsFaces ? PickMode::Faces : needsEdges ? PickMode::Edges : PickMode::None);
}

void Along::setWord(const QString& key, const QString& value) {
    if (!recipe() || !place()) return;
    Job next = job();
    if (auto ok = gyre::setWord(next, selected(), key.toStdString(), value.toStdString()); !ok) return tell(ok.error());
    fitAlong(next, *place(), *next.operation(selected()));
    change(tr("change %1").arg(key), [&](Job& j) { j = next; });
    const Recipe& r = *recipe();
    if (r.kind == OperationKind::Edge && r.edge->edges == BreakEdges::Picked) m_model.picks().setMode(PickMode::Edges);
    if (r.kind == OperationKind::Edge && r.edge->edges == BreakEdges::Faces) m_model.picks().setMode(PickMode::Faces);
    if (r.kind == OperationKind::Curve && r.curve->by == CurveBy::Channel) m_model.picks().setMode(PickMode::Faces);
    if (r.kind == OperationKind::Swarf && r.swarf->fromRails) m_model.picks().setMode(PickMode::Rail1);
}

void Along::addKey(double at) {
    if (!recipe()) return;
    change(tr("add axis key"), [&](Job& j) {
        AxisSpec& a = j.operation(selected())->axis;
        const LeadTilt now = keyed(a.keys, at, 0.0, -1);
        a.keys.push_back({at, at, -1, degrees(now.lead), degrees(now.tilt)});
        std::stable_sort(a.keys.begin(), a.keys.end(), [](const AxisKey& x, const AxisKey& y) { return x.at < y.at; });
    });
}

void Along::setKey(std::size_t key, const AxisKey& to) {
    if (!recipe() || key >= recipe()->axis->keys.size() || recipe()->axis->keys[key] == to) return;
    change(
        tr("move axis key"), [&](Job& j) { j.operation(selected())->axis->keys[key] = to; }, QString("axis.key.%1").arg(key));
}

void Along::removeKey(std::size_t key) {
    if (!recipe() || key >= recipe()->axis->keys.size()) return;
    change(tr("remove axis key"), [&](Job& j) {
        auto& keys = j.operation(selected())->axis->keys;
        keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(key));
    });
}

std::optional<Along::OnRow> Along::onRow(std::size_t location) const {
    const auto r = m_model.result();
    if (!r || !r->path() || !r->pattern || location >= r->path()->size() || r->path()->motion[location] != Motion::Cut) return std::nullopt;
    const int index = patternRow(*r->links, location);
    const auto row = std::find_if(r->pattern->rows.begin(), r->pattern->rows.end(), [&](const Row& x) { return x.index == index; });
    if (row == r->pattern->rows.end() || row->points.size() < 2) return std::nullopt;
    // The nearest of the row's points; what the guard left out or links joined does not count.
    const bool curve = r->along != nullptr;
    const Vec3 at = curve ? r->path()->tip[location] : r->path()->contact[location];
    double along = 0.0, here = 0.0, least = 1e300;
    for (std::size_t i = 0; i < row->points.size(); ++i) {
        if (i > 0) along += (row->points[i] - row->points[i - 1]).norm();
        if (const double d = (row->points[i] - at).squaredNorm(); d < least) {
            least = d;
            here = along;
        }
    }
    if (row->closed) along += (row->points.front() - row->points.back()).norm();
    OnRow out{along > 0.0 ? here / along : 0.0, row->level, index};
    bool back = row->returning;
    if (curve) { // every other depth of an open curve runs back
        const std::size_t depths = std::max<std::size_t>(1, r->along->passes.size() / std::max<std::size_t>(1, r->along->rows.size()));
        const Recipe* recipe = this->recipe();
        back = recipe && recipe->curve->backAndForth && static_cast<std::size_t>(index) % depths % 2 == 1;
        out.row = index / static_cast<int>(depths);
    }
    if (back) out.fraction = 1.0 - out.fraction;
    return out;
}

std::optional<std::size_t> Along::keyHere() const {
    const Recipe* r = recipe();
    if (!r || r->axis->keys.empty()) return std::nullopt;
    const auto here = onRow(m_model.location());
    if (!here) return std::nullopt;
    constexpr double kNear = 0.012;
    std::optional<std::size_t> best;
    double least = kNear;
    for (std::size_t k = 0; k < r->axis->keys.size(); ++k) {
        const AxisKey& key = r->axis->keys[k];
        if (key.row >= 0 && key.row != here->row) continue;
        if (const double d = std::abs((1.0 - here->level) * key.at + here->level * key.atLast - here->fraction); d < least) {
            least = d;
            best = k;
        }
    }
    return best;
}

void Along::drawSyncLines() {
    m_model.picks().ask({PickKind::Points, "swarf.sync", tr("Click on the lower rail, then on the upper one: each pair is a sync line · Esc when done")});
}

std::vector<Polyline> Along::syncLines() const {
    const Recipe* r = recipe();
    if (!r || !place() || !place()->part || r->kind != OperationKind::Swarf || !r->swarf->fromRails || r->swarf->sync.empty()) return {};
    const auto rails = wallRails(*place(), *r);
    if (!rails) return {};
    std::vector<Polyline> out;
    for (const auto& [l, u] : r->swarf->sync) out.push_back({pointAt(rails->lower, l), pointAt(rails->upper, u)});
    return out;
}

void Along::addSyncLine(const Vec3& low, const Vec3& high) {
    const auto rails = wallRails(*place(), *recipe());
    if (!rails) return tell(rails.error());
    const auto fraction = [](const Curve& rail, const Vec3& p) { return std::round(1e4 * rail.lengthAt(rail.closest(p)) / std::max(1e-9, rail.length())) / 1e4; };
    const std::array<double, 2> line{fraction(rails->lower, low), fraction(rails->upper, high)};
    const bool round = rails->lower.closed() && rails->upper.closed(); // there the core tells which lines cross
    for (const auto& other : recipe()->swarf->sync)
        if (!round && (other[0] - line[0]) * (other[1] - line[1]) <= 0.0) return tell(tr("This line would cross another one: sync lines must not."));
    change(tr("draw sync line"), [&](Job& j) {
        auto& sync = j.operation(selected())->swarf->sync;
        sync.push_back(line);
        std::sort(sync.begin(), sync.end());
    });
}

const std::vector<Along::AxisLine>& Along::axisLines() const {
    const Recipe* r = recipe();
    const auto now = m_model.result();
    if (m_axisLines.first == now && now) return m_axisLines.second;
    m_axisLines = {now, {}};
    const auto& drawn = m_axisLines.second;
    if (!r || !now || !place() || !place()->part || r->axis->rule != AxisRule::Lines || (r->kind != OperationKind::Surface && r->kind != OperationKind::Curve))
        return drawn;
    const Assembly* tool = place()->tool(r->tool);
    const auto help = tool ? axisHelp(*place(), *r, *tool) : Result<AxisHelp>(tl::unexpected(Error{}));
    if (!help) return drawn;
    const auto& lines = help->first.curves;
    const auto ways = lineWays(lines, now->pattern ? now->pattern->rows : std::vector<Row>{}, r->axis->turned);
    for (std::size_t k = 0; k < lines.size() && k < ways.size(); ++k) {
        const Vec3 a = lines[k].start(), b = lines[k].end();
        const bool asItRuns = (b - a).dot(ways[k]) >= 0.0;
        m_axisLines.second.push_back({asItRuns ? a : b, asItRuns ? b : a});
    }
    return drawn;
}

void Along::turnAxisLine(std::size_t line) {
    if (!recipe() || line >= axisLines().size()) return;
    change(tr("turn line %1 for the axis over").arg(line + 1), [&](Job& j) {
        auto& turned = j.operation(selected())->axis->turned;
        const auto it = std::find(turned.begin(), turned.end(), static_cast<int>(line));
        if (it != turned.end())
            turned.erase(it);
        else
            turned.push_back(static_cast<int>(line));
        std::sort(turned.begin(), turned.end());
    });
}

void Along::drawAxisLines() {
    if (!recipe()) return;
    const auto drawn = [&](const Job& j) {
        return std::find_if(j.mends.begin(), j.mends.end(),
                            [&](const Mend& m) { return m.kind == MendKind::Drawn && m.choice("shape") == 2 && m.name == j.operation(selected())->axis->curve; }) -
               j.mends.begin();
    };
    if (static_cast<std::size_t>(drawn(job())) == job().mends.size())
        change(tr("draw lines for the axis"), [&](Job& j) {
            Mend lines;
            lines.kind = MendKind::Drawn;
            lines.name = "axis lines";
            for (int i = 2; std::any_of(j.mends.begin(), j.mends.end(), [&](const Mend& m) { return m.name == lines.name; }); ++i)
                lines.name = "axis lines " + std::to_string(i);
            lines.numbers["shape"] = 2;
            j.mends.push_back(lines);
            j.operation(selected())->axis->curve = lines.name;
        });
    m_model.picks().ask({PickKind::Points, QString("mend.%1.spots").arg(drawn(job())), tr("Click where a line begins, then a place that it points to · Esc when done")});
}

void Along::addAxisMiddle(const QString& word) {
    if (!recipe() || !place() || !place()->part) return;
    const auto middle = raisedMiddle(job(), *place()->part, *recipe());
    if (!middle) return tell(tr("A middle needs both rails: pick them first."));
    Job next = job();
    next.mends.push_back(*middle);
    if (const auto ok = gyre::setWord(next, selected(), word.toStdString(), middle->name); !ok) return tell(ok.error());
    change(tr("raised middle for the axis"), [&](Job& j) { j = next; });
    emit m_model.featuresChanged();
}

std::optional<std::size_t> Along::axisMiddle() const {
    if (!recipe()) return std::nullopt;
    for (std::size_t i = 0; i < job().mends.size(); ++i)
        if (job().mends[i].kind == MendKind::Middle && job().mends[i].name == recipe()->axis->curve) return i;
    return std::nullopt;
}

const std::vector<int>& Along::wallOf(int face) const {
    if (m_wallOf.first != face || m_wallOf.second.second != place()->looks) m_wallOf = {face, {wallFaces(*place()->part, face), place()->looks}};
    return m_wallOf.second.first;
}

} // namespace gyre
