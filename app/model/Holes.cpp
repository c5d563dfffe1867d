#include "model/Holes.h"
#include "machine/Reach.h"
#include "model/Picks.h"
#include "proposal/HoleWork.h"
#include <algorithm>

namespace gyre {

namespace {
bool means(const HoleRef& ref, const Hole& hole) { return (ref.mouth - hole.mouth).norm() < 0.05 && std::abs(ref.diameter - hole.diameter()) < 0.05; }
} // namespace

std::vector<Hole> Holes::all() const { return place() && hasJob() ? wantedHoles(job(), *place()) : std::vector<Hole>{}; }

std::vector<HoleGroup> Holes::groups() const {
    if (!place()) return {};
    return groupHoles(all(), rotaryLine(*place()->machine, place()->partFrame));
}

bool Holes::leftOut(std::size_t hole) const {
    if (!place() || hole >= place()->holes.size() || !hasJob()) return false;
    const HoleMark* m = job().markOf(place()->holes[hole]);
    return m && m->leftOut;
}

void Holes::turn(const HoleGroup& group) {
    if (!place()) return;
    const bool any = std::any_of(group.holes.begin(), group.holes.end(), [&](std::size_t i) { return place()->holes[i].bottom == HoleBottom::Through; });
    if (!any) return tell(tr("These holes are closed at the other end: they can be entered from one side only."));
    const auto before = groups();
    const auto lit = m_lit >= 0 && static_cast<std::size_t>(m_lit) < before.size() ? before[static_cast<std::size_t>(m_lit)].holes : std::vector<std::size_t>{};
    change(tr("turn holes round"), [&](Job& j) {
        for (const std::size_t i : group.holes)
            if (place()->holes[i].bottom == HoleBottom::Through) {
                HoleMark& m = j.mark(place()->holes[i]);
                m.turned = !m.turned;
            }
    });
    // Groups may stand in another order now: the light stays on the same holes.
    const auto after = groups();
    m_lit = -1;
    for (std::size_t g = 0; g < after.size() && !lit.empty(); ++g)
        if (std::find(after[g].holes.begin(), after[g].holes.end(), lit.front()) != after[g].holes.end()) m_lit = static_cast<int>(g);
    emit m_model.featuresChanged();
}

void Holes::turnOne(std::size_t hole) {
    if (!place() || hole >= place()->holes.size()) return;
    HoleGroup one;
    one.holes = {hole};
    turn(one);
}

void Holes::leaveOut(const HoleGroup& group, bool out) {
    if (!place()) return;
    change(out ? tr("leave holes out") : tr("take holes back"), [&](Job& j) {
        for (const std::size_t i : group.holes) j.mark(place()->holes[i]).leftOut = out;
    });
    emit m_model.featuresChanged();
}

void Holes::addWork() {
    if (!hasJob() || !place()) return;
    const auto all = groups();
    std::vector<HoleGroup> wanted;
    for (std::size_t g = 0; g < all.size(); ++g)
        if (m_lit < 0 || m_lit == static_cast<int>(g)) wanted.push_back(all[g]);
    if (wanted.empty()) return tell(tr("No holes were found on the part."));
    std::string first;
    QStringList notes;
    change(tr("work on holes"), [&](Job& j) {
        turnToReach(j, *place()); // groups are of holes, whichever way each is turned
        for (const HoleGroup& g : wanted) {
            const HoleProposal made = proposeHoleWork(j, *place(), g);
            j.route.insert(j.route.end(), made.work.begin(), made.work.end());
            if (first.empty()) first = made.work.front().id;
            for (const std::string& n : made.notes) notes << QString::fromStdString(n);
        }
    });
    if (!notes.isEmpty()) tell(notes.join("\n"));
    m_model.select(QString::fromStdString(first));
    m_model.setBench(Bench::Cut);
}

void Holes::addStep(const QString& parent, Cycle cycle) {
    const Recipe* p = hasJob() ? job().operation(parent.toStdString()) : nullptr;
    if (p && p->kind == OperationKind::HoleStep) p = job().operation(p->parent);
    if (!p || p->kind != OperationKind::Holes || !place()) return;
    std::string id;
    change(tr("add step"), [&](Job& j) {
        const Recipe owner = *j.operation(p->id);
        Recipe step = proposeHoleStep(j, *place(), owner, cycle);
        id = step.id;
        auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == owner.id; }) + 1;
        while (at != j.route.end() && at->parent == owner.id) ++at;
        j.route.insert(at, step);
    });
    m_model.select(QString::fromStdString(id));
}

void Holes::set(const QString& operation, const QString& groupWords) {
    if (!hasJob() || !place()) return;
    change(tr("choose holes"), [&](Job& j) {
        Recipe* r = j.operation(operation.toStdString());
        if (!r) return;
        r->holes.clear();
        for (const HoleGroup& g : groups())
            if (groupWords.isEmpty() || groupWords == QString::fromStdString(g.words))
                for (const std::size_t i : g.holes) r->holes.push_back({place()->holes[i].mouth, place()->holes[i].diameter()});
    });
}

void Holes::pick() { m_model.picks().ask({PickKind::Holes, "holes", tr("Click holes to add or take away · Space: all of their kind · Esc when done")}); }

std::optional<std::size_t> Holes::ofFace(int face) const {
    if (!place()) return std::nullopt;
    for (std::size_t i = 0; i < place()->holes.size(); ++i)
        if (const auto& faces = place()->holes[i].faces; std::find(faces.begin(), faces.end(), face) != faces.end()) return i;
    return std::nullopt;
}

bool Holes::works(std::size_t hole) const {
    const Recipe* r = recipe();
    return r && std::any_of(r->holes.begin(), r->holes.end(), [&](const HoleRef& ref) { return means(ref, place()->holes[hole]); });
}

// All of them in when one was not; else all out. Where nothing is named, all are meant: those stay that were not clicked.
void Holes::toggle(const std::vector<int>& faces) {
    if (!recipe() || !place()) return;
    std::vector<std::size_t> holes;
    for (const int f : faces)
        if (const auto h = ofFace(f); h && std::find(holes.begin(), holes.end(), *h) == holes.end()) holes.push_back(*h);
    if (holes.empty()) return;
    const bool edges = recipe()->kind == OperationKind::Edge, all = edges && recipe()->holes.empty();
    if (edges && !all && std::all_of(holes.begin(), holes.end(), [&](std::size_t h) { return works(h); }) && recipe()->holes.size() <= holes.size())
        return tell(tr("One hole at least must stay."));
    change(tr("pick holes"), [&](Job& j) {
        auto& refs = j.operation(selected())->holes;
        if (all)
            for (std::size_t i = 0; i < place()->holes.size(); ++i)
                if (!leftOut(i)) refs.push_back({place()->holes[i].mouth, place()->holes[i].diameter()});
        const bool out = std::all_of(holes.begin(), holes.end(), [&](std::size_t h) { return all || works(h); });
        for (const std::size_t h : holes) {
            std::erase_if(refs, [&](const HoleRef& ref) { return means(ref, place()->holes[h]); });
            if (!out) refs.push_back({place()->holes[h].mouth, place()->holes[h].diameter()});
        }
    });
    emit m_model.featuresChanged();
}

void Holes::lightGroup(int group) {
    m_lit = group == m_lit ? -1 : group;
    emit m_model.featuresChanged();
}

} // namespace gyre
