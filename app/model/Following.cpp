// The model's part in work along walls, curves and edges.
#include "model/AppModel.h"
#include "operation/Meant.h"
#include "proposal/AlongGuess.h"
#include <algorithm>

namespace gyre {

void AppModel::addFollow(OperationKind kind, BreakEdges edges) {
    if (!hasJob() || !m_place || !m_place->part) return emit toldUser(tr("Open a part first."));
    const Recipe r = proposeAlong(job(), *m_place, kind, edges);
    change(tr("new operation"), [&](Job& j) { j.route.push_back(r); });
    select(QString::fromStdString(r.id));
    setBench(Bench::Cut);
    const bool needsFaces = kind == OperationKind::Swarf || edges == BreakEdges::Faces,
               needsEdges = kind == OperationKind::Curve || (kind == OperationKind::Edge && edges == BreakEdges::Picked);
    setPickMode(needsFaces ? PickMode::Faces : needsEdges ? PickMode::Edges : PickMode::None);
}

void AppModel::setFollowWord(const QString& key, const QString& value) {
    if (!recipe() || !m_place) return;
    Job next = job();
    if (auto ok = gyre::setWord(next, m_selected.toStdString(), key.toStdString(), value.toStdString()); !ok)
        return emit toldUser(QString::fromStdString(ok.error().text()));
    fitAlong(next, *m_place, *next.operation(m_selected.toStdString()));
    change(tr("change %1").arg(key), [&](Job& j) { j = next; });
    const Recipe& r = *recipe();
    if (r.kind == OperationKind::Edge && r.edge.edges == BreakEdges::Picked) setPickMode(PickMode::Edges);
    if (r.kind == OperationKind::Edge && r.edge.edges == BreakEdges::Faces) setPickMode(PickMode::Faces);
    if (r.kind == OperationKind::Curve && r.curve.by == CurveBy::Channel) setPickMode(PickMode::Faces);
    if (r.kind == OperationKind::Swarf && r.swarf.fromRails) setPickMode(PickMode::Rail1);
}

void AppModel::addAxisKey(double at) {
    if (!recipe()) return;
    change(tr("add axis key"), [&](Job& j) {
        AxisSpec& a = j.operation(m_selected.toStdString())->axis;
        const LeadTilt now = keyed(a.keys, at, 0.0, -1);
        a.keys.push_back({at, at, -1, degrees(now.lead), degrees(now.tilt)});
        std::stable_sort(a.keys.begin(), a.keys.end(), [](const AxisKey& x, const AxisKey& y) { return x.at < y.at; });
    });
}

void AppModel::setAxisKey(std::size_t key, const AxisKey& to) {
    if (!recipe() || key >= recipe()->axis.keys.size() || recipe()->axis.keys[key] == to) return;
    change(
        tr("move axis key"), [&](Job& j) { j.operation(m_selected.toStdString())->axis.keys[key] = to; }, QString("axis.key.%1").arg(key));
}

void AppModel::removeAxisKey(std::size_t key) {
    if (!recipe() || key >= recipe()->axis.keys.size()) return;
    change(tr("remove axis key"), [&](Job& j) {
        auto& keys = j.operation(m_selected.toStdString())->axis.keys;
        keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(key));
    });
}

std::optional<AppModel::OnRow> AppModel::onRow(std::size_t location) const {
    const auto r = result();
    if (!r || !r->path() || !r->pattern || location >= r->path()->size() || r->path()->motion[location] != Motion::Cut) return std::nullopt;
    const int index = r->path()->row[location];
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
        back = recipe && recipe->curve.backAndForth && static_cast<std::size_t>(index) % depths % 2 == 1;
        out.row = index / static_cast<int>(depths);
    }
    if (back) out.fraction = 1.0 - out.fraction;
    return out;
}

std::optional<std::size_t> AppModel::keyHere() const {
    const Recipe* r = recipe();
    if (!r || r->axis.keys.empty()) return std::nullopt;
    const auto here = onRow(m_location);
    if (!here) return std::nullopt;
    constexpr double kNear = 0.012;
    std::optional<std::size_t> best;
    double least = kNear;
    for (std::size_t k = 0; k < r->axis.keys.size(); ++k) {
        const AxisKey& key = r->axis.keys[k];
        if (key.row >= 0 && key.row != here->row) continue;
        if (const double d = std::abs((1.0 - here->level) * key.at + here->level * key.atLast - here->fraction); d < least) {
            least = d;
            best = k;
        }
    }
    return best;
}

void AppModel::drawSyncLines() {
    pickFeature({PickKind::Points, "swarf.sync", tr("Click on the lower rail, then on the upper one: each pair is a sync line · Esc when done")});
}

std::vector<Polyline> AppModel::syncLines() const {
    const Recipe* r = recipe();
    if (!r || !m_place || !m_place->part || r->kind != OperationKind::Swarf || !r->swarf.fromRails || r->swarf.sync.empty()) return {};
    const auto rails = wallRails(*m_place, *r);
    if (!rails) return {};
    std::vector<Polyline> out;
    for (const auto& [l, u] : r->swarf.sync) out.push_back({pointAt(rails->lower, l), pointAt(rails->upper, u)});
    return out;
}

void AppModel::addSyncLine(const Vec3& low, const Vec3& high) {
    const auto rails = wallRails(*m_place, *recipe());
    if (!rails) return emit toldUser(QString::fromStdString(rails.error().text()));
    const auto fraction = [](const Curve& rail, const Vec3& p) { return std::round(1e4 * rail.lengthAt(rail.closest(p)) / std::max(1e-9, rail.length())) / 1e4; };
    const std::array<double, 2> line{fraction(rails->lower, low), fraction(rails->upper, high)};
    const bool round = rails->lower.closed() && rails->upper.closed(); // there the core tells which lines cross
    for (const auto& other : recipe()->swarf.sync)
        if (!round && (other[0] - line[0]) * (other[1] - line[1]) <= 0.0) return emit toldUser(tr("This line would cross another one: sync lines must not."));
    change(tr("draw sync line"), [&](Job& j) {
        auto& sync = j.operation(m_selected.toStdString())->swarf.sync;
        sync.push_back(line);
        std::sort(sync.begin(), sync.end());
    });
}

const std::vector<AppModel::AxisLine>& AppModel::axisLines() const {
    const Recipe* r = recipe();
    const auto now = result();
    if (m_axisLines.first == now && now) return m_axisLines.second;
    m_axisLines = {now, {}};
    const auto& drawn = m_axisLines.second;
    if (!r || !now || !m_place || !m_place->part || r->axis.rule != AxisRule::Lines || (r->kind != OperationKind::Surface && r->kind != OperationKind::Curve))
        return drawn;
    const Assembly* tool = m_place->tool(r->tool);
    const auto help = tool ? axisHelp(*m_place, *r, *tool) : Result<AxisHelp>(tl::unexpected(Error{}));
    if (!help) return drawn;
    const auto& lines = help->first.curves;
    const auto ways = lineWays(lines, now->pattern ? now->pattern->rows : std::vector<Row>{}, r->axis.turned);
    for (std::size_t k = 0; k < lines.size() && k < ways.size(); ++k) {
        const Vec3 a = lines[k].start(), b = lines[k].end();
        const bool asItRuns = (b - a).dot(ways[k]) >= 0.0;
        m_axisLines.second.push_back({asItRuns ? a : b, asItRuns ? b : a});
    }
    return drawn;
}

void AppModel::turnAxisLine(std::size_t line) {
    if (!recipe() || line >= axisLines().size()) return;
    change(tr("turn line %1 for the axis over").arg(line + 1), [&](Job& j) {
        auto& turned = j.operation(m_selected.toStdString())->axis.turned;
        const auto it = std::find(turned.begin(), turned.end(), static_cast<int>(line));
        if (it != turned.end())
            turned.erase(it);
        else
            turned.push_back(static_cast<int>(line));
        std::sort(turned.begin(), turned.end());
    });
}

void AppModel::drawAxisLines() {
    if (!recipe()) return;
    const auto drawn = [&](const Job& j) {
        return std::find_if(
                   j.mends.begin(), j.mends.end(),
                   [&](const Mend& m) { return m.kind == MendKind::Drawn && m.choice("shape") == 2 && m.name == j.operation(m_selected.toStdString())->axis.curve; }) -
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
            j.operation(m_selected.toStdString())->axis.curve = lines.name;
        });
    pickFeature({PickKind::Points, QString("mend.%1.spots").arg(drawn(job())), tr("Click where a line begins, then a place that it points to · Esc when done")});
}

void AppModel::addAxisMiddle(const QString& word) {
    if (!recipe() || !m_place || !m_place->part) return;
    const auto middle = raisedMiddle(job(), *m_place->part, *recipe());
    if (!middle) return emit toldUser(tr("A middle needs both rails: pick them first."));
    Job next = job();
    next.mends.push_back(*middle);
    if (const auto ok = gyre::setWord(next, m_selected.toStdString(), word.toStdString(), middle->name); !ok)
        return emit toldUser(QString::fromStdString(ok.error().text()));
    change(tr("raised middle for the axis"), [&](Job& j) { j = next; });
    emit featuresChanged();
}

std::optional<std::size_t> AppModel::axisMiddle() const {
    if (!recipe()) return std::nullopt;
    for (std::size_t i = 0; i < job().mends.size(); ++i)
        if (job().mends[i].kind == MendKind::Middle && job().mends[i].name == recipe()->axis.curve) return i;
    return std::nullopt;
}

const std::vector<int>& AppModel::wallOf(int face) const {
    if (m_wallOf.first != face || m_wallOf.second.second != m_place->looks) m_wallOf = {face, {wallFaces(*m_place->part, face), m_place->looks}};
    return m_wallOf.second.first;
}

} // namespace gyre
