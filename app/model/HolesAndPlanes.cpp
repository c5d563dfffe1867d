// The model's part in holes, work in them, and planes.
#include "machine/Reach.h"
#include "model/AppModel.h"
#include "proposal/HoleWork.h"
#include "session/Travel.h"
#include <algorithm>

namespace gyre {

std::vector<Hole> AppModel::holes() const { return m_place && hasJob() ? wantedHoles(job(), *m_place) : std::vector<Hole>{}; }

std::vector<HoleGroup> AppModel::holeGroups() const {
    if (!m_place) return {};
    return groupHoles(holes(), rotaryLine(*m_place->machine, m_place->partFrame));
}

bool AppModel::leftOut(std::size_t hole) const {
    if (!m_place || hole >= m_place->holes.size() || !hasJob()) return false;
    const HoleMark* m = job().markOf(m_place->holes[hole]);
    return m && m->leftOut;
}

void AppModel::turnHoles(const HoleGroup& group) {
    if (!m_place) return;
    const bool any = std::any_of(group.holes.begin(), group.holes.end(), [&](std::size_t i) { return m_place->holes[i].bottom == HoleBottom::Through; });
    if (!any) return emit toldUser(tr("These holes are closed at the other end: they can be entered from one side only."));
    const auto before = holeGroups();
    const auto lit =
        m_litGroup >= 0 && static_cast<std::size_t>(m_litGroup) < before.size() ? before[static_cast<std::size_t>(m_litGroup)].holes : std::vector<std::size_t>{};
    change(tr("turn holes round"), [&](Job& j) {
        for (const std::size_t i : group.holes)
            if (m_place->holes[i].bottom == HoleBottom::Through) {
                HoleMark& m = j.mark(m_place->holes[i]);
                m.turned = !m.turned;
            }
    });
    // Groups may stand in another order now: the light stays on the same holes.
    const auto after = holeGroups();
    m_litGroup = -1;
    for (std::size_t g = 0; g < after.size() && !lit.empty(); ++g)
        if (std::find(after[g].holes.begin(), after[g].holes.end(), lit.front()) != after[g].holes.end()) m_litGroup = static_cast<int>(g);
    emit featuresChanged();
}

void AppModel::turnHole(std::size_t hole) {
    if (!m_place || hole >= m_place->holes.size()) return;
    HoleGroup one;
    one.holes = {hole};
    turnHoles(one);
}

void AppModel::leaveOutHoles(const HoleGroup& group, bool out) {
    if (!m_place) return;
    change(out ? tr("leave holes out") : tr("take holes back"), [&](Job& j) {
        for (const std::size_t i : group.holes) j.mark(m_place->holes[i]).leftOut = out;
    });
    emit featuresChanged();
}

void AppModel::addHoleWork() {
    if (!hasJob() || !m_place) return;
    const auto groups = holeGroups();
    std::vector<HoleGroup> wanted;
    for (std::size_t g = 0; g < groups.size(); ++g)
        if (m_litGroup < 0 || m_litGroup == static_cast<int>(g)) wanted.push_back(groups[g]);
    if (wanted.empty()) return emit toldUser(tr("No holes were found on the part."));
    std::string first;
    QStringList notes;
    change(tr("work on holes"), [&](Job& j) {
        turnToReach(j, *m_place); // groups are of holes, whichever way each is turned
        for (const HoleGroup& g : wanted) {
            const HoleProposal made = proposeHoleWork(j, *m_place, g);
            j.route.insert(j.route.end(), made.work.begin(), made.work.end());
            if (first.empty()) first = made.work.front().id;
            for (const std::string& n : made.notes) notes << QString::fromStdString(n);
        }
    });
    if (!notes.isEmpty()) emit toldUser(notes.join("\n"));
    select(QString::fromStdString(first));
    setBench(Bench::Cut);
}

void AppModel::addHoleStep(const QString& parent, Cycle cycle) {
    const Recipe* p = hasJob() ? job().operation(parent.toStdString()) : nullptr;
    if (p && p->kind == OperationKind::HoleStep) p = job().operation(p->parent);
    if (!p || p->kind != OperationKind::Holes || !m_place) return;
    std::string id;
    change(tr("add step"), [&](Job& j) {
        const Recipe owner = *j.operation(p->id);
        Recipe step = proposeHoleStep(j, *m_place, owner, cycle);
        id = step.id;
        auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == owner.id; }) + 1;
        while (at != j.route.end() && at->parent == owner.id) ++at;
        j.route.insert(at, step);
    });
    select(QString::fromStdString(id));
}

void AppModel::setHoles(const QString& operation, const QString& groupWords) {
    if (!hasJob() || !m_place) return;
    change(tr("choose holes"), [&](Job& j) {
        Recipe* r = j.operation(operation.toStdString());
        if (!r) return;
        r->holes.clear();
        for (const HoleGroup& g : holeGroups())
            if (groupWords.isEmpty() || groupWords == QString::fromStdString(g.words))
                for (const std::size_t i : g.holes) r->holes.push_back({m_place->holes[i].mouth, m_place->holes[i].diameter()});
    });
}

namespace {
bool means(const HoleRef& ref, const Hole& hole) { return (ref.mouth - hole.mouth).norm() < 0.05 && std::abs(ref.diameter - hole.diameter()) < 0.05; }
} // namespace

void AppModel::pickHoles() { pickFeature({PickKind::Holes, "holes", tr("Click holes to add or take away · Space: all of their kind · Esc when done")}); }

std::optional<std::size_t> AppModel::holeOfFace(int face) const {
    if (!m_place) return std::nullopt;
    for (std::size_t i = 0; i < m_place->holes.size(); ++i)
        if (const auto& faces = m_place->holes[i].faces; std::find(faces.begin(), faces.end(), face) != faces.end()) return i;
    return std::nullopt;
}

bool AppModel::works(std::size_t hole) const {
    const Recipe* r = recipe();
    return r && std::any_of(r->holes.begin(), r->holes.end(), [&](const HoleRef& ref) { return means(ref, m_place->holes[hole]); });
}

// All of them in when one was not; else all out. Where nothing is named, all are meant: those stay that were not clicked.
void AppModel::toggleHoles(const std::vector<int>& faces) {
    if (!recipe() || !m_place) return;
    std::vector<std::size_t> holes;
    for (const int f : faces)
        if (const auto h = holeOfFace(f); h && std::find(holes.begin(), holes.end(), *h) == holes.end()) holes.push_back(*h);
    if (holes.empty()) return;
    const bool edges = recipe()->kind == OperationKind::Edge, all = edges && recipe()->holes.empty();
    if (edges && !all && std::all_of(holes.begin(), holes.end(), [&](std::size_t h) { return works(h); }) && recipe()->holes.size() <= holes.size())
        return emit toldUser(tr("One hole at least must stay."));
    change(tr("pick holes"), [&](Job& j) {
        auto& refs = j.operation(m_selected.toStdString())->holes;
        if (all)
            for (std::size_t i = 0; i < m_place->holes.size(); ++i)
                if (!leftOut(i)) refs.push_back({m_place->holes[i].mouth, m_place->holes[i].diameter()});
        const bool out = std::all_of(holes.begin(), holes.end(), [&](std::size_t h) { return all || works(h); });
        for (const std::size_t h : holes) {
            std::erase_if(refs, [&](const HoleRef& ref) { return means(ref, m_place->holes[h]); });
            if (!out) refs.push_back({m_place->holes[h].mouth, m_place->holes[h].diameter()});
        }
    });
    emit featuresChanged();
}

void AppModel::lightGroup(int group) {
    m_litGroup = group == m_litGroup ? -1 : group;
    emit featuresChanged();
}

void AppModel::addPlane(const WorkPlane& plane) {
    change(tr("add plane"), [&](Job& j) {
        j.planes.push_back(plane);
        if (plane.name.empty()) {
            j.planes.pop_back();
            WorkPlane named = plane;
            named.name = j.freshPlaneName();
            j.planes.push_back(named);
        }
    });
    emit featuresChanged();
}

void AppModel::removePlane(std::size_t plane) {
    change(tr("remove plane"), [&](Job& j) { j.planes.erase(j.planes.begin() + static_cast<std::ptrdiff_t>(plane)); });
    emit featuresChanged();
}

void AppModel::flipPlane(std::size_t plane) {
    change(tr("flip plane"), [&](Job& j) { j.planes[plane] = flipped(j.planes[plane]); });
    emit featuresChanged();
}

QString AppModel::reachOfPlane(const WorkPlane& plane) const {
    if (!m_place) return {};
    const ReachAnswer answer = reachOf(Kinematics(*m_place->machine, m_place->partFrame, 150.0), plane.normal);
    return QString::fromStdString(reachWords(*m_place->machine, answer));
}

Status AppModel::addPlaneByAngles(double aboutX, double aboutY, double aboutZ) {
    const auto plane = planeByAngles(Vec3::Zero(), aboutX, aboutY, aboutZ);
    if (!plane) return tl::unexpected(plane.error());
    addPlane(*plane);
    return {};
}

void AppModel::renamePlane(std::size_t plane, const QString& name) {
    if (!hasJob() || plane >= job().planes.size() || name.trimmed().isEmpty()) return;
    const std::string to = name.trimmed().left(100).toStdString(), from = job().planes[plane].name;
    for (const WorkPlane& p : job().planes)
        if (p.name == to && to != from) return emit toldUser(tr("There is a plane of that name already."));
    change(tr("rename plane"), [&](Job& j) {
        j.planes[plane].name = to;
        for (JobBody& b : j.bodies) // drawings that lie on it
            if (b.plane == from) b.plane = to;
        for (Recipe& r : j.route) {
            if (r.mill.on == from) r.mill.on = to;
            std::replace(r.repeat.planes.begin(), r.repeat.planes.end(), from, to);
        }
    });
    emit featuresChanged();
}

QStringList AppModel::beyondTravel() const {
    QStringList out;
    if (!m_place || !hasJob()) return out;
    Workplace moved = *m_place;
    moved.partFrame = job().partFrame(); // where the words say it stands, before it is computed
    const Assembly* tool = recipe() ? job().tool(recipe()->tool) : job().tools.empty() ? nullptr : &job().tools.front();
    for (const TravelTrouble& t : gyre::beyondTravel(moved, job(), tool ? tool->gaugeLength() : 150.0))
        out << tr("%1: %2").arg(QString::fromStdString(t.where), QString::fromStdString(t.words));
    return out;
}

} // namespace gyre
