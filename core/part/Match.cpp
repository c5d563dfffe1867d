#include "part/Match.h"
#include "base/Hash.h"
#include "base/Index.h"
#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>

namespace gyre {
namespace {

/// One side of a face: what lies beyond it, and how it bends there.
struct Beside {
    int face = -1, edge = -1;
    int how = 0; ///< kind of the edge and the way the faces bend there

    friend auto operator<=>(const Beside&, const Beside&) = default;
};

/// A part as faces that hang together over edges.
class Web {
public:
    static constexpr int kFurthest = 8;
    explicit Web(const Part& part) : m_part(part), m_beside(index(part.bodyFaces())) {
        for (std::size_t f = 0; f < m_beside.size(); ++f) m_box.add(part.faces()[f].bounds);
        constexpr double kSmooth = 0.02; // rad
        for (int e = 0; e < part.bodyEdges(); ++e) {
            const EdgeInfo& edge = part.edges()[index(e)];
            const auto [a, b] = edge.faces;
            if (edge.degenerate || a == b || a < 0) continue;
            const int bend = b < 0 ? 3 : edge.angle > kSmooth ? 1 : edge.angle < -kSmooth ? 2 : 0;
            const int how = 4 * static_cast<int>(edge.kind) + bend;
            if (a < part.bodyFaces()) m_beside[index(a)].push_back({b < part.bodyFaces() ? b : -1, e, how});
            if (b >= 0 && b < part.bodyFaces()) m_beside[index(b)].push_back({a < part.bodyFaces() ? a : -1, e, how});
        }
        colour();
    }
    [[nodiscard]] int size() const { return static_cast<int>(m_beside.size()); }
    [[nodiscard]] const FaceInfo& face(int f) const { return m_part.faces()[index(f)]; }
    [[nodiscard]] const std::vector<Beside>& beside(int f) const { return m_beside[index(f)]; }
    /// The same for faces that lie in the same way among others, however large all of them are. @param far  how many faces away that is looked at
    [[nodiscard]] std::uint64_t colour(int f, int far) const { return m_colours[index(far)][index(f)]; }
    /// Where a place lies in the part, 0 … 1 along each side of its box.
    [[nodiscard]] Vec3 within(const Vec3& p) const {
        const Vec3 size = (m_box.high - m_box.low).cwiseMax(1e-6);
        return (p - m_box.low).cwiseQuotient(size);
    }
    [[nodiscard]] const Part& part() const { return m_part; }

private:
    void colour() {
        std::vector<std::uint64_t> now(m_beside.size());
        for (int f = 0; f < size(); ++f) now[index(f)] = Hash().add(surfaceKindName(face(f).kind)).add(static_cast<double>(face(f).loops.size())).value();
        m_colours.push_back(now);
        for (int far = 1; far <= kFurthest; ++far) {
            const std::vector<std::uint64_t>& before = m_colours.back();
            for (int f = 0; f < size(); ++f) {
                std::vector<std::pair<int, std::uint64_t>> around;
                for (const Beside& b : beside(f)) around.emplace_back(b.how, b.face < 0 ? 0 : before[index(b.face)]);
                std::sort(around.begin(), around.end());
                Hash h;
                h.add(before[index(f)]);
                for (const auto& [how, colour] : around) h.add(static_cast<double>(how)).add(colour);
                now[index(f)] = h.value();
            }
            m_colours.push_back(now);
        }
    }
    const Part& m_part;
    Box m_box;
    std::vector<std::vector<Beside>> m_beside;
    std::vector<std::vector<std::uint64_t>> m_colours;
};

double logOf(double a) { return std::log(std::max(a, 1e-6)); }
double apart(double a, double b) { return std::abs(logOf(a) - logOf(b)); }

class Matching {
public:
    Matching(const Part& was, const Part& is) : m_was(was), m_is(is), m_to(index(m_was.size())), m_from(index(m_is.size()), -1) {}

    PartMatch run() {
        agreeing();
        thereabouts();
        byNeighbours();
        // What hangs together in one way only, then what is alike among those that hang together so: as far around as can be, then less far, where something else has
        // changed there.
        for (const int far : {Web::kFurthest, 3, 2, 1}) {
            byColour(far);
            byNeighbours();
            alike(far);
            byNeighbours();
        }
        PartMatch out;
        out.faces = m_to;
        for (int f = 0; f < m_is.size(); ++f)
            if (m_from[index(f)] < 0) out.fresh.push_back(f);
        edges(out);
        return out;
    }

private:
    void take(int a, int c, FoundBy by) {
        m_to[index(a)] = {c, by};
        m_from[index(c)] = a;
    }
    [[nodiscard]] bool free(int a) const { return !m_to[index(a)].found(); }
    [[nodiscard]] bool freeThere(int c) const { return m_from[index(c)] < 0; }

    static bool agree(const FaceInfo& a, const FaceInfo& b) {
        constexpr double kNear = 1e-3;
        return a.kind == b.kind && (a.centre - b.centre).norm() < kNear && std::abs(a.area - b.area) < 1e-4 * std::max(1.0, a.area) &&
               a.normal.dot(b.normal) > 1.0 - 1e-6;
    }
    // By place in a sorted list.
    void agreeing() {
        std::vector<int> order(index(m_is.size()));
        for (std::size_t i = 0; i < order.size(); ++i) order[i] = static_cast<int>(i);
        const auto x = [this](int f) { return m_is.face(f).centre.x(); };
        std::sort(order.begin(), order.end(), [&](int a, int b) { return x(a) < x(b); });
        for (int a = 0; a < m_was.size(); ++a) {
            const double at = m_was.face(a).centre.x();
            auto from = std::lower_bound(order.begin(), order.end(), at - 2e-3, [&](int f, double v) { return x(f) < v; });
            for (; from != order.end() && x(*from) < at + 2e-3; ++from)
                if (freeThere(*from) && agree(m_was.face(a), m_is.face(*from))) {
                    take(a, *from, FoundBy::Same);
                    break;
                }
        }
    }

    /// Of a face's candidates the best, where it is clearly better than the next one.
    struct Best {
        int which = -1;
        double worth = 1e300, next = 1e300;
        void offer(int w, double v) {
            if (v < worth) {
                next = worth;
                worth = v;
                which = w;
            } else
                next = std::min(next, v);
        }
        [[nodiscard]] bool clear() const { return which >= 0 && next > 1.5 * worth + 1e-3; }
    };
    /// Takes the pairs that are each other's best, as long as there are any.
    void mutual(const std::vector<int>& mine, const std::vector<int>& theirs, const std::function<double(int, int)>& unlike, double most, FoundBy by) {
        std::map<int, Best> best, back;
        for (const int a : mine)
            for (const int c : theirs) {
                const double u = unlike(a, c);
                if (u > most) continue;
                best[a].offer(c, u);
                back[c].offer(a, u);
            }
        for (const auto& [a, b] : best)
            if (b.clear() && back[b.which].clear() && back[b.which].which == a && free(a) && freeThere(b.which)) take(a, b.which, by);
    }
    [[nodiscard]] std::vector<int> left() const {
        std::vector<int> out;
        for (int a = 0; a < m_was.size(); ++a)
            if (free(a)) out.push_back(a);
        return out;
    }
    [[nodiscard]] std::vector<int> leftThere() const {
        std::vector<int> out;
        for (int c = 0; c < m_is.size(); ++c)
            if (freeThere(c)) out.push_back(c);
        return out;
    }
    void thereabouts() {
        constexpr double kMost = 0.05;
        mutual(
            left(), leftThere(),
            [this](int a, int c) {
                const FaceInfo &f = m_was.face(a), &g = m_is.face(c);
                if (f.kind != g.kind || f.normal.dot(g.normal) < 0.9) return 1e300;
                const double scale = std::max(1e-3, std::max(f.area, g.area));
                return std::abs(f.area - g.area) / scale + (f.centre - g.centre).norm() / std::sqrt(scale);
            },
            kMost, FoundBy::Place);
    }

    /// How unlike two faces of one kind are: in size, in the way they look, in where they lie in their parts.
    [[nodiscard]] double unlike(int a, int c) const {
        const FaceInfo &f = m_was.face(a), &g = m_is.face(c);
        if (f.kind != g.kind) return 1e300;
        double out = 0.5 * apart(f.area, g.area) + (1.0 - f.normal.dot(g.normal)) + 2.0 * (m_was.within(f.centre) - m_is.within(g.centre)).norm();
        if (f.radius > 0.0 && g.radius > 0.0) out += apart(f.radius, g.radius);
        if (f.axis.squaredNorm() > 0.5 && g.axis.squaredNorm() > 0.5) out += 1.0 - std::abs(f.axis.dot(g.axis));
        return out;
    }
    // A face that was not found, beside ones that were: what lies beside all those in the same way. Those with most of their neighbours found come first.
    void byNeighbours() {
        while (true) {
            struct Offer {
                int a, c;
                double share;
            };
            std::vector<Offer> offers;
            std::map<int, Best> back;
            for (const int a : left()) {
                std::map<int, int> votes;
                for (const Beside& b : m_was.beside(a)) {
                    if (b.face < 0 || free(b.face)) continue;
                    std::set<int> seen; // two edges to one neighbour are one vote each way
                    for (const Beside& d : m_is.beside(m_to[index(b.face)].now))
                        if (d.face >= 0 && d.how == b.how && freeThere(d.face) && m_is.face(d.face).kind == m_was.face(a).kind && seen.insert(d.face).second)
                            ++votes[d.face];
                }
                if (votes.empty()) continue;
                int most = 0;
                for (const auto& [c, n] : votes) most = std::max(most, n);
                Best best;
                for (const auto& [c, n] : votes)
                    if (n == most) best.offer(c, unlike(a, c));
                constexpr double kAlike = 3.0;
                if (!best.clear() || best.worth > kAlike) continue;
                const double share = static_cast<double>(most) / static_cast<double>(std::max(m_was.beside(a).size(), m_is.beside(best.which).size()));
                offers.push_back({a, best.which, share});
                back[best.which].offer(a, -share + 0.1 * best.worth);
            }
            double most = 0.0;
            for (const Offer& o : offers)
                if (back[o.c].which == o.a) most = std::max(most, o.share);
            bool any = false;
            for (const Offer& o : offers)
                if (back[o.c].which == o.a && o.share >= 0.75 * most && freeThere(o.c)) {
                    take(o.a, o.c, FoundBy::Neighbours);
                    any = true;
                }
            if (!any) return;
        }
    }

    [[nodiscard]] std::map<std::uint64_t, std::pair<std::vector<int>, std::vector<int>>> classes(int far) const {
        std::map<std::uint64_t, std::pair<std::vector<int>, std::vector<int>>> out;
        for (const int a : left()) out[m_was.colour(a, far)].first.push_back(a);
        for (const int c : leftThere()) out[m_is.colour(c, far)].second.push_back(c);
        return out;
    }
    void byColour(int far) {
        for (const auto& [colour, both] : classes(far))
            if (both.first.size() == 1 && both.second.size() == 1) take(both.first.front(), both.second.front(), FoundBy::Neighbours);
    }
    /// What lies in one way: where its middle is, and how large it is on the average.
    struct Middle {
        Vec3 at = Vec3::Zero();
        double area = 0.0, radius = 0.0; ///< logarithms
    };
    static Middle middleOf(const Web& web, const std::vector<int>& faces) {
        Middle m;
        const double n = static_cast<double>(faces.size());
        for (const int f : faces) {
            m.at += web.within(web.face(f).centre) / n;
            m.area += logOf(web.face(f).area) / n;
            m.radius += logOf(web.face(f).radius) / n;
        }
        return m;
    }
    // All of a kind may have grown, or moved together: what counts is how they differ from one another.
    void alike(int far) {
        constexpr double kMost = 0.4;
        for (const auto& [colour, both] : classes(far)) {
            if (both.first.size() != both.second.size()) continue;
            const Middle was = middleOf(m_was, both.first), is = middleOf(m_is, both.second);
            const auto differ = [&](int a, int c) {
                const FaceInfo &f = m_was.face(a), &g = m_is.face(c);
                return 2.0 * ((m_was.within(f.centre) - was.at) - (m_is.within(g.centre) - is.at)).norm() + (1.0 - f.normal.dot(g.normal)) +
                       0.5 * std::abs((logOf(f.area) - was.area) - (logOf(g.area) - is.area)) + std::abs((logOf(f.radius) - was.radius) - (logOf(g.radius) - is.radius));
            };
            mutual(both.first, both.second, differ, kMost, FoundBy::Likeness);
        }
    }

    // An edge is that between the two faces that its own became; of several the one that lies like it.
    void edges(PartMatch& out) const {
        const Part &was = m_was.part(), &is = m_is.part();
        out.edges.resize(index(was.bodyEdges()));
        std::map<std::pair<int, int>, std::vector<int>> there;
        for (int e = 0; e < is.bodyEdges(); ++e) {
            const auto [a, b] = is.edges()[index(e)].faces;
            if (!is.edges()[index(e)].degenerate) there[std::minmax(a, b)].push_back(e);
        }
        std::map<std::pair<int, int>, std::vector<int>> here;
        for (int e = 0; e < was.bodyEdges(); ++e) {
            const auto [a, b] = was.edges()[index(e)].faces;
            if (was.edges()[index(e)].degenerate || a < 0 || a >= m_was.size() || b >= m_was.size()) continue;
            const int c = m_to[index(a)].now, d = b < 0 ? -1 : m_to[index(b)].now;
            if (c >= 0 && (b < 0 || d >= 0)) here[std::minmax(c, d)].push_back(e);
        }
        const auto foundBy = [&](int e) {
            const auto [a, b] = was.edges()[index(e)].faces;
            return std::max(m_to[index(a)].by, b < 0 ? FoundBy::Same : m_to[index(b)].by);
        };
        for (const auto& [faces, mine] : here) {
            const auto at = there.find(faces);
            if (at == there.end()) continue;
            const std::vector<int>& theirs = at->second;
            const auto unlikeEdges = [&](int e, int g) {
                const EdgeInfo &x = was.edges()[index(e)], &y = is.edges()[index(g)];
                return 0.25 * apart(x.length, y.length) + 2.0 * (m_was.within(x.middle) - m_is.within(y.middle)).norm() + (x.kind == y.kind ? 0.0 : 1.0);
            };
            for (const int e : mine) {
                Best best, back;
                for (const int g : theirs) best.offer(g, unlikeEdges(e, g));
                if (!best.clear()) continue;
                for (const int other : mine) back.offer(other, unlikeEdges(other, best.which));
                if (back.which != e || !back.clear()) continue;
                const EdgeInfo &x = was.edges()[index(e)], &y = is.edges()[index(best.which)];
                const bool same = x.kind == y.kind && (x.middle - y.middle).norm() < 1e-3 && std::abs(x.length - y.length) < 1e-3;
                out.edges[index(e)] = {best.which, same ? FoundBy::Same : std::max(FoundBy::Place, foundBy(e))};
            }
        }
    }

    const Web m_was, m_is;
    std::vector<ShapeMatch> m_to;
    std::vector<int> m_from;
};

} // namespace

std::size_t PartMatch::count(FoundBy by) const {
    return static_cast<std::size_t>(std::count_if(faces.begin(), faces.end(), [by](const ShapeMatch& m) { return m.by == by; }));
}

PartMatch matchParts(const Part& was, const Part& is) { return Matching(was, is).run(); }

} // namespace gyre
