#include "session/UseAgain.h"
#include "axis/AxisSpec.h"
#include "base/Index.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "target/TargetSpec.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <set>

namespace gyre {

void eachNamed(Recipe& r, const std::function<void(const std::string&, std::vector<ShapeRef>&, bool)>& visit) {
    visit("target.faces", r.target->faces, false);
    visit("target.edges", r.target->edges, true);
    visit("target.profile", r.target->profile, true);
    visit("pattern.rail1", r.pattern->rail1, true);
    visit("pattern.rail2", r.pattern->rail2, true);
    visit("pattern.guides", r.pattern->guides, true);
    visit("where.edges", r.where->edges, true);
    visit("where.faces", r.where->faces, false);
    visit("axis.edges", r.axis->edges, true);
    visit("axis.faces", r.axis->faces, false);
    visit("axis.last.edges", r.axis->last.edges, true);
    visit("axis.last.faces", r.axis->last.faces, false);
    for (std::size_t i = 0; i < r.checks.size(); ++i) visit(fmt::format("checks.{}.faces", i), r.checks[i].faces, false);
}

namespace {

constexpr double kSamePlace = 1e-3; // mm

class Following {
public:
    Following(const Job& job, const Part& was, const std::vector<Hole>& holesWas, const Part& is, const std::vector<Hole>& holesAre)
        : m_was(was), m_is(is), m_holesWas(holesWas), m_holesAre(holesAre) {
        m_out.job = job;
        m_out.match = matchParts(was, is);
        for (std::size_t h = 0; h < holesWas.size(); ++h) m_holeTo.push_back(holeFor(h));
    }

    UsedAgain run() {
        for (std::vector<Recipe>* recipes : {&m_out.job.route, &m_out.job.variants})
            for (Recipe& r : *recipes) {
                eachNamed(r, [&](const std::string& word, std::vector<ShapeRef>& named, bool edges) { shapes({r.id, r.name, word}, named, edges); });
                holes(r);
            }
        for (Mend& m : m_out.job.mends) {
            shapes({{}, m.name, "faces"}, m.faces, false);
            shapes({{}, m.name, "first"}, m.first.edges, true);
            shapes({{}, m.name, "second"}, m.second.edges, true);
        }
        marks();
        for (WorkPlane& p : m_out.job.planes) plane(p);
        return std::move(m_out);
    }

private:
    void shapes(Followed f, std::vector<ShapeRef>& named, bool edges) {
        for (ShapeRef& ref : named) {
            if (ref.index >= (edges ? m_was.bodyEdges() : m_was.bodyFaces())) continue; // of a mend
            // What is there as it is named, whatever else has changed, needs no looking for.
            if (const auto here = edges ? m_is.findEdge(ref) : m_is.findFace(ref)) {
                const ShapeRef found = edges ? m_is.edgeRef(*here) : m_is.faceRef(*here);
                if (found.kind == ref.kind && (found.centre - ref.centre).norm() < kSamePlace && std::abs(found.size - ref.size) < 1e-4 * std::max(1.0, ref.size)) {
                    ref = found;
                    ++f.same;
                    continue;
                }
            }
            const auto known = edges ? m_was.findEdge(ref) : m_was.findFace(ref);
            const ShapeMatch to = known ? (edges ? m_out.match.edges : m_out.match.faces)[index(*known)] : ShapeMatch{};
            if (!to.found()) {
                ++f.gone;
                continue;
            }
            const ShapeRef now = edges ? m_is.edgeRef(to.now) : m_is.faceRef(to.now);
            count(f, to.by, (now.centre - ref.centre).norm());
            ref = now;
        }
        tell(std::move(f));
    }
    static void count(Followed& f, FoundBy by, double moved) {
        ++(by == FoundBy::Same ? f.same : by == FoundBy::Likeness ? f.alike : f.moved);
        if (by != FoundBy::Same) f.furthest = std::max(f.furthest, moved);
    }
    void tell(Followed f) {
        if (f.same + f.moved + f.alike + f.gone + f.added > 0) m_out.followed.push_back(std::move(f));
    }

    struct HoleTo {
        int now = -1;
        FoundBy by = FoundBy::Nothing;
    };
    /// The hole that most of its faces became faces of.
    [[nodiscard]] HoleTo holeFor(std::size_t h) const {
        std::map<int, int> votes;
        FoundBy by = FoundBy::Same;
        for (const int f : m_holesWas[h].faces) {
            if (f >= m_was.bodyFaces()) continue;
            const ShapeMatch& to = m_out.match.faces[index(f)];
            by = std::max(by, to.by);
            if (!to.found()) continue;
            for (std::size_t k = 0; k < m_holesAre.size(); ++k)
                if (std::find(m_holesAre[k].faces.begin(), m_holesAre[k].faces.end(), to.now) != m_holesAre[k].faces.end()) ++votes[static_cast<int>(k)];
        }
        HoleTo out;
        int most = 0;
        for (const auto& [k, n] : votes) {
            if (n == most) out.now = -1; // two of them: neither
            if (n > most) {
                most = n;
                out.now = k;
            }
        }
        out.by = out.now < 0 ? FoundBy::Nothing : by == FoundBy::Nothing ? FoundBy::Neighbours : by;
        return out;
    }
    [[nodiscard]] static std::optional<std::size_t> known(const std::vector<Hole>& holes, const Vec3& mouth, double diameter) {
        constexpr double kNear = 0.05; // mm, as holes are known again
        for (std::size_t h = 0; h < holes.size(); ++h)
            if ((holes[h].mouth - mouth).norm() < kNear && (diameter <= 0.0 || std::abs(holes[h].diameter() - diameter) < kNear)) return h;
        return std::nullopt;
    }
    /// Alike in all but their depth and where they are.
    static std::string kindOf(const Hole& h) { return h.words(false); }

    void holes(Recipe& r) {
        if (r.holes.empty()) return;
        Followed f{r.id, r.name, "holes"};
        std::set<std::size_t> before, after;
        std::set<std::string> kinds, wanted; // of all that are named, and what they are there
        std::vector<HoleRef> named, lost;
        for (HoleRef ref : r.holes) {
            const auto here = known(m_holesAre, ref.mouth, ref.diameter), h = known(m_holesWas, ref.mouth, ref.diameter);
            const HoleTo to = here ? HoleTo{static_cast<int>(*here), FoundBy::Same} : h ? m_holeTo[*h] : HoleTo{};
            if (h) {
                before.insert(*h);
                kinds.insert(kindOf(m_holesWas[*h]));
            }
            if (to.now < 0) {
                lost.push_back(ref);
                continue;
            }
            const Hole& now = m_holesAre[index(to.now)];
            after.insert(index(to.now));
            wanted.insert(kindOf(now));
            count(f, to.by, (now.mouth - ref.mouth).norm());
            ref.mouth = now.mouth;
            ref.diameter = now.diameter();
            named.push_back(ref);
        }
        // It meant all holes of their kind: so it does here, those that are new among them and those that none of the old ones became.
        bool all = !before.empty();
        for (std::size_t h = 0; h < m_holesWas.size(); ++h) all = all && (kinds.count(kindOf(m_holesWas[h])) == 0 || before.count(h) > 0);
        std::set<std::string> lostKinds;
        for (const HoleRef& ref : lost)
            if (const auto h = known(m_holesWas, ref.mouth, ref.diameter))
                lostKinds.insert(kindOf(m_holesWas[*h]));
            else
                all = false;
        wanted.insert(lostKinds.begin(), lostKinds.end());
        for (std::size_t k = 0; all && k < m_holesAre.size(); ++k) {
            lostKinds.erase(kindOf(m_holesAre[k]));
            if (wanted.count(kindOf(m_holesAre[k])) == 0 || after.count(k) > 0) continue;
            named.push_back({m_holesAre[k].mouth, m_holesAre[k].diameter(), false});
            ++f.added;
        }
        // Fewer of them are all of them still; where none of a kind is left, what is gone is asked for.
        if (!all || !lostKinds.empty()) named.insert(named.end(), lost.begin(), lost.end());
        f.gone = !all || !lostKinds.empty() ? lost.size() : lost.size() - std::min(lost.size(), f.added);
        r.holes = std::move(named);
        tell(std::move(f));
    }
    void marks() {
        std::vector<HoleMark> kept;
        for (HoleMark m : m_out.job.holes) {
            const auto h = known(m_holesWas, m.mouth, 0.0);
            if (known(m_holesAre, m.mouth, 0.0)) {
                kept.push_back(m);
                continue;
            }
            if (!h || m_holeTo[*h].now < 0) continue;
            m.mouth = m_holesAre[index(m_holeTo[*h].now)].mouth;
            kept.push_back(m);
        }
        m_out.job.holes = std::move(kept);
    }

    // A plane that lies on a flat face, or at the mouth of a hole, goes with it.
    void plane(WorkPlane& p) {
        Followed f{{}, p.name, {}};
        const WorkPlane before = p;
        for (std::size_t h = 0; h < m_holesWas.size(); ++h) {
            if ((m_holesWas[h].mouth - p.origin).norm() > kSamePlace || std::abs(m_holesWas[h].direction.dot(p.normal)) < 1.0 - 1e-6) continue;
            if (m_holeTo[h].now < 0) {
                ++f.gone;
                return tell(std::move(f));
            }
            const Hole& now = m_holesAre[index(m_holeTo[h].now)];
            turn(p, m_holesWas[h].direction.dot(p.normal) > 0.0 ? now.direction : Vec3(-now.direction));
            p.origin = now.mouth;
            return told(std::move(f), before, p, m_holeTo[h].by);
        }
        int best = -1;
        double nearest = 1e300;
        bool lies = false;
        for (int a = 0; a < m_was.bodyFaces(); ++a) {
            const FaceInfo& face = m_was.faces()[index(a)];
            if (face.kind != SurfaceKind::Plane || std::abs(face.normal.dot(p.normal)) < 1.0 - 1e-9 || std::abs((p.origin - face.centre).dot(face.normal)) > kSamePlace)
                continue;
            lies = true;
            if (const double off = (face.centre - p.origin).norm(); m_out.match.faces[index(a)].found() && off < nearest) {
                nearest = off;
                best = a;
            }
        }
        if (!lies) return; // numbers alone
        if (best < 0) {
            ++f.gone;
            return tell(std::move(f));
        }
        const FaceInfo &face = m_was.faces()[index(best)], &now = m_is.faces()[index(m_out.match.faces[index(best)].now)];
        turn(p, face.normal.dot(p.normal) > 0.0 ? now.normal : Vec3(-now.normal));
        if (nearest < kSamePlace)
            p.origin = now.centre;
        else
            p.origin += (now.centre - p.origin).dot(now.normal) * now.normal;
        told(std::move(f), before, p, m_out.match.faces[index(best)].by);
    }
    static void turn(WorkPlane& p, const Vec3& normal) {
        if (p.normal.dot(normal) > 1.0 - 1e-12) return;
        const Eigen::Quaterniond by = Eigen::Quaterniond::FromTwoVectors(p.normal, normal);
        p.x = (by * p.x).normalized();
        p.normal = normal;
        p.x = (p.x - p.x.dot(normal) * normal).normalized();
    }
    void told(Followed f, const WorkPlane& before, const WorkPlane& now, FoundBy by) {
        const bool moved = (now.origin - before.origin).norm() > 1e-6 || now.normal.dot(before.normal) < 1.0 - 1e-9;
        count(f, !moved ? FoundBy::Same : by == FoundBy::Same ? FoundBy::Place : by, (now.origin - before.origin).norm());
        tell(std::move(f));
    }

    const Part &m_was, &m_is;
    const std::vector<Hole>&m_holesWas, &m_holesAre;
    std::vector<HoleTo> m_holeTo;
    UsedAgain m_out;
};

} // namespace

std::size_t UsedAgain::gone() const {
    std::size_t n = 0;
    for (const Followed& f : followed) n += f.gone;
    return n;
}
bool UsedAgain::anything() const {
    return std::any_of(followed.begin(), followed.end(), [](const Followed& f) { return !f.asItWas(); });
}

UsedAgain useAgain(const Job& job, const Part& was, const std::vector<Hole>& holesWas, const Part& is, const std::vector<Hole>& holesAre) {
    return Following(job, was, holesWas, is, holesAre).run();
}

std::string wordsOf(const Followed& f) {
    std::string out;
    const auto add = [&](std::size_t n, const std::string& what) {
        if (n > 0) out += fmt::format("{}{} {}", out.empty() ? "" : ", ", n, what);
    };
    add(f.same, "as before");
    add(f.moved, f.furthest >= 0.005 ? fmt::format("changed, up to {:.2f} mm away", f.furthest) : "changed");
    add(f.alike, "found by likeness");
    add(f.added, "new of the same kind");
    add(f.gone, "gone");
    return out;
}

std::string wordsOf(const PartMatch& match) {
    const std::size_t same = match.count(FoundBy::Same), gone = match.count(FoundBy::Nothing), changed = match.faces.size() - same - gone;
    std::string out = fmt::format("{} face{} as before", same, same == 1 ? "" : "s");
    for (const auto& [n, what] : {std::pair(changed, "changed"), std::pair(gone, "gone"), std::pair(match.fresh.size(), "new")})
        if (n > 0) out += fmt::format(", {} {}", n, what);
    return out;
}

} // namespace gyre
