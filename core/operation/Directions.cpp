#include "operation/Directions.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "operation/Definition.h"
#include "operation/Free.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"
#include <algorithm>
#include <bit>
#include <map>
#include <numeric>

namespace gyre {

void Reached::add(const std::vector<char>& one) {
    std::vector<std::uint64_t> bits((places + 63) / 64, 0);
    for (std::size_t p = 0; p < places; ++p)
        if (one[p]) bits[p / 64] |= std::uint64_t{1} << (p % 64);
    by.push_back(std::move(bits));
}

namespace {

using Bits = std::vector<std::uint64_t>;

std::size_t count(const Bits& a) {
    std::size_t n = 0;
    for (const std::uint64_t w : a) n += static_cast<std::size_t>(std::popcount(w));
    return n;
}
std::size_t shared(const Bits& a, const Bits& b) {
    std::size_t n = 0;
    for (std::size_t i = 0; i < a.size(); ++i) n += static_cast<std::size_t>(std::popcount(a[i] & b[i]));
    return n;
}
bool within(const Bits& a, const Bits& b) {
    for (std::size_t i = 0; i < a.size(); ++i)
        if (a[i] & ~b[i]) return false;
    return true;
}
Bits lessBits(const Bits& a, const Bits& b) {
    Bits out(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) out[i] = a[i] & ~b[i];
    return out;
}

/// Every way to cover with so many: always the place that fewest directions reach is covered next, by each of these in turn.
class Search {
public:
    Search(const std::vector<const Bits*>& directions, const Bits& all, std::size_t places, std::size_t steps) : m_directions(directions), m_left(steps), m_of(places) {
        for (std::size_t d = 0; d < directions.size(); ++d)
            for (std::size_t p = 0; p < places; ++p)
                if ((*directions[d])[p / 64] >> (p % 64) & 1U) m_of[p].push_back(d);
        for (std::size_t p = 0; p < places; ++p)
            if (all[p / 64] >> (p % 64) & 1U) m_rarest.push_back(p);
        std::stable_sort(m_rarest.begin(), m_rarest.end(), [&](std::size_t a, std::size_t b) { return m_of[a].size() < m_of[b].size(); });
        for (const Bits* d : directions) m_largest = std::max(m_largest, count(*d));
    }
    /// @return nothing where there is none, or time is up
    std::optional<std::vector<std::size_t>> with(std::size_t directions, const Bits& all) {
        m_chosen.clear();
        if (go(directions, all)) return m_chosen;
        return std::nullopt;
    }
    [[nodiscard]] bool timeUp() const { return m_left == 0; }

private:
    bool go(std::size_t directions, const Bits& open) {
        const std::size_t left = count(open);
        if (left == 0) return true;
        if (directions == 0 || left > directions * m_largest) return false;
        const auto next = std::find_if(m_rarest.begin(), m_rarest.end(), [&](std::size_t p) { return (open[p / 64] >> (p % 64) & 1U) != 0; });
        std::vector<std::pair<std::size_t, std::size_t>> tries; // how much each leaves, and which
        for (const std::size_t d : m_of[*next]) {
            const std::size_t rest = left - shared(open, *m_directions[d]);
            if (rest > (directions - 1) * m_largest || (directions == 1 && rest > 0)) continue;
            tries.emplace_back(rest, d);
        }
        m_left -= std::min(m_left, m_of[*next].size());
        std::sort(tries.begin(), tries.end());
        for (const auto& [rest, d] : tries) {
            if (m_left == 0) return false;
            m_chosen.push_back(d);
            if (go(directions - 1, lessBits(open, *m_directions[d]))) return true;
            m_chosen.pop_back();
        }
        return false;
    }
    const std::vector<const Bits*>& m_directions;
    std::size_t m_left, m_largest = 0;
    std::vector<std::vector<std::size_t>> m_of; ///< directions by place
    std::vector<std::size_t> m_rarest;
    std::vector<std::size_t> m_chosen;
};

} // namespace

Covering fewestCovering(const Reached& reached, std::size_t steps) {
    Bits all((reached.places + 63) / 64, 0);
    for (const Bits& d : reached.by)
        for (std::size_t i = 0; i < all.size(); ++i) all[i] |= d[i];
    Covering out;
    Bits open = all;
    while (count(open) > 0) {
        std::size_t best = 0, most = 0;
        for (std::size_t d = 0; d < reached.by.size(); ++d)
            if (const std::size_t n = shared(open, reached.by[d]); n > most) {
                most = n;
                best = d;
            }
        out.chosen.push_back(best);
        open = lessBits(open, reached.by[best]);
    }
    if (out.chosen.size() < 2) return out;
    // What reaches nothing that another one does not reach as well is no choice.
    std::vector<std::size_t> order(reached.by.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return count(reached.by[a]) > count(reached.by[b]); });
    std::vector<std::size_t> kept;
    for (const std::size_t d : order)
        if (std::none_of(kept.begin(), kept.end(), [&](std::size_t k) { return within(reached.by[d], reached.by[k]); })) kept.push_back(d);
    std::vector<const Bits*> choices;
    for (const std::size_t d : kept) choices.push_back(&reached.by[d]);
    Search search(choices, all, reached.places, steps);
    for (std::size_t n = 1; n < out.chosen.size(); ++n) {
        const auto found = search.with(n, all);
        if (search.timeUp()) {
            out.fewest = false;
            break;
        }
        if (!found) continue;
        out.chosen.clear();
        for (const std::size_t c : *found) out.chosen.push_back(kept[c]);
        break;
    }
    return out;
}

namespace {

constexpr std::size_t kPlaces = 1000;
constexpr int kDirections = 2000; // all around
constexpr double kApart = 4.5;    // ° from one to the next

/// Evenly all around, from the pole down in a spiral.
std::vector<Vec3> allAround() {
    std::vector<Vec3> out;
    const double golden = kPi * (3.0 - std::sqrt(5.0));
    for (int i = 0; i < kDirections; ++i) {
        const double z = 1.0 - (2.0 * i + 1.0) / kDirections, r = std::sqrt(std::max(0.0, 1.0 - z * z));
        out.emplace_back(r * std::cos(golden * i), r * std::sin(golden * i), z);
    }
    out.emplace_back(Vec3::UnitZ());
    for (int axis = 0; axis < 2; ++axis)
        for (const double side : {1.0, -1.0}) out.emplace_back(side * Vec3::Unit(axis));
    return out;
}

struct Tried {
    const Pass* pass;
    std::size_t at;
    double way;
};

std::vector<Tried> placesOf(const std::vector<Pass>& passes) {
    double whole = 0.0;
    for (const Pass& pass : passes) whole += length(pass.path.contact);
    const double apart = whole / static_cast<double>(kPlaces);
    std::vector<Tried> out;
    for (const Pass& pass : passes) {
        double since = 0.0, way = 0.0;
        for (std::size_t i = 0; i < pass.path.size(); ++i) {
            const double step = i > 0 ? (pass.path.contact[i] - pass.path.contact[i - 1]).norm() : 0.0;
            since += step;
            way += step;
            if (i > 0 && i + 1 < pass.path.size() && since < apart) continue;
            out.push_back({&pass, i, std::max(way, 1e-6)});
            since = way = 0.0;
        }
    }
    return out;
}

class Chooser {
public:
    Chooser(const Workplace& place, const Recipe& recipe, const OperationResult& result, double lean)
        : m_recipe(recipe), m_result(result), m_freedom(freedomOf(place, recipe, result.tool)), m_lean(lean), m_places(placesOf(*result.passes)),
          m_reached(m_places.size()) {}

    [[nodiscard]] bool free() const { return static_cast<bool>(m_freedom.turned); }
    bool look(Progress& progress) {
        const Guard guard = guardOf();
        for (const Vec3& d : allAround()) {
            const double off = angleBetween(d, Vec3::UnitZ());
            if (off < m_freedom.low - 1e-9 || off > m_freedom.high + 1e-9 || (m_freedom.reached && !m_freedom.reached(d))) continue;
            m_directions.push_back(d);
        }
        std::vector<std::vector<char>> reached(m_directions.size());
        const bool whole = parallelFor(
            m_directions.size(), 4,
            [&](std::size_t k) {
                HitHints hints = guard.hints();
                std::vector<char>& one = reached[k];
                one.assign(m_places.size(), 0);
                for (std::size_t p = 0; p < m_places.size(); ++p) {
                    const auto& [pass, at, way] = m_places[p];
                    if (m_directions[k].dot(pass->path.normal[at]) < std::cos(m_lean) - 1e-9) continue;
                    one[p] = guard.blocked(m_freedom.turned(*pass, at, m_directions[k]), 0.0, hints) ? 0 : 1;
                }
            },
            &progress);
        if (!whole) return false;
        for (const auto& one : reached) m_reached.add(one);
        return true;
    }
    Directions choose(std::size_t most) const {
        Directions out;
        Covering covering = fewestCovering(m_reached);
        out.fewest = covering.fewest;
        std::vector<std::size_t> chosen = std::move(covering.chosen);
        std::vector<double> room(chosen.size(), 0.0);
        // Each stands as far as it can from directions that would not reach what is left to it alone.
        for (int round = 0; round < 2; ++round)
            for (std::size_t k = 0; k < chosen.size(); ++k) chosen[k] = deepest(chosen, k);
        for (std::size_t k = 0; k < chosen.size(); ++k) room[k] = roomAround(chosen[k], standIns(chosen, k));
        Bits open = whole();
        std::vector<std::size_t> order;
        while (order.size() < chosen.size() && out.chosen.size() < most) {
            std::size_t best = chosen.size();
            double gains = 0.0;
            for (std::size_t k = 0; k < chosen.size(); ++k)
                if (std::find(order.begin(), order.end(), k) == order.end())
                    if (const double way = wayOf(m_reached.by[chosen[k]], open); way > gains) {
                        gains = way;
                        best = k;
                    }
            if (best == chosen.size()) break;
            order.push_back(best);
            out.chosen.push_back({m_directions[chosen[best]], wayOf(m_reached.by[chosen[best]], whole()), gains, room[best]});
            open = lessBits(open, m_reached.by[chosen[best]]);
        }
        for (const FixedDirection& d : out.chosen) out.reached += d.cuts;
        if (count(open) == 0) out.reached = 1.0;
        out.changes = changes(chosen, order);
        tellBare(open, out);
        return out;
    }

private:
    [[nodiscard]] Guard guardOf() const {
        const Definition& definition = definitionOf(m_recipe.kind);
        return Guard(m_result.tool, *m_result.scene, m_recipe.guard, m_recipe.pattern->chordTolerance, definition.meantDepth ? definition.meantDepth(m_recipe) : 0.0);
    }
    [[nodiscard]] Bits whole() const {
        Bits all((m_places.size() + 63) / 64, 0);
        for (std::size_t p = 0; p < m_places.size(); ++p) all[p / 64] |= std::uint64_t{1} << (p % 64);
        return all;
    }
    /// Share of the way.
    [[nodiscard]] double wayOf(const Bits& one, const Bits& open) const {
        double sum = 0.0, all = 0.0;
        for (std::size_t p = 0; p < m_places.size(); ++p) {
            all += m_places[p].way;
            if ((one[p / 64] & open[p / 64]) >> (p % 64) & 1U) sum += m_places[p].way;
        }
        return all > 0.0 ? sum / all : 0.0;
    }
    /// Which directions reach what the others leave to one of them?
    std::vector<char> standIns(const std::vector<std::size_t>& chosen, std::size_t which) const {
        Bits needed = m_reached.by[chosen[which]];
        for (std::size_t k = 0; k < chosen.size(); ++k)
            if (k != which) needed = lessBits(needed, m_reached.by[chosen[k]]);
        std::vector<char> does(m_directions.size());
        for (std::size_t d = 0; d < m_directions.size(); ++d) does[d] = within(needed, m_reached.by[d]) ? 1 : 0;
        return does;
    }
    /// From a direction to the nearest that does not, less what lies between two that were asked.
    double roomAround(std::size_t direction, const std::vector<char>& does) const {
        double room = kPi;
        for (std::size_t o = 0; o < m_directions.size(); ++o)
            if (!does[o]) room = std::min(room, angleBetween(m_directions[direction], m_directions[o]));
        return std::max(0.0, room - radians(kApart));
    }
    std::size_t deepest(const std::vector<std::size_t>& chosen, std::size_t which) const {
        const std::vector<char> does = standIns(chosen, which);
        std::vector<double> room(m_directions.size(), -1.0);
        parallelFor(m_directions.size(), 16, [&](std::size_t d) {
            if (does[d]) room[d] = roomAround(d, does);
        });
        // Where none has more room it stays.
        const auto best = static_cast<std::size_t>(std::max_element(room.begin(), room.end()) - room.begin());
        return room[best] > room[chosen[which]] ? best : chosen[which];
    }
    std::size_t changes(const std::vector<std::size_t>& chosen, const std::vector<std::size_t>& order) const {
        const auto of = [&](std::size_t p) {
            for (const std::size_t k : order)
                if (m_reached.holds(chosen[k], p)) return k;
            return chosen.size();
        };
        std::size_t n = 0;
        for (std::size_t p = 1; p < m_places.size(); ++p)
            if (m_places[p].pass == m_places[p - 1].pass && of(p) != of(p - 1) && of(p) < chosen.size() && of(p - 1) < chosen.size()) ++n;
        return n;
    }
    void tellBare(const Bits& open, Directions& out) const {
        if (count(open) == 0) return;
        const Guard guard = guardOf();
        std::map<std::string, double> met;
        for (std::size_t p = 0; p < m_places.size(); ++p) {
            if (!(open[p / 64] >> (p % 64) & 1U)) continue;
            const auto& [pass, at, way] = m_places[p];
            if (!out.bare) out.bare = pass->path.contact[at];
            if (const auto hit = guard.hit({pass->path.tip[at], pass->path.axis[at]}, Contact::Cutting))
                met[std::string(zoneName(hit->zone)) + ", " + guard.scene()[hit->obstacle].name] += way;
        }
        const auto most = std::max_element(met.begin(), met.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        if (most != met.end()) out.blockedBy = most->first;
    }

    const Recipe& m_recipe;
    const OperationResult& m_result;
    Freedom m_freedom;
    double m_lean;
    std::vector<Tried> m_places;
    std::vector<Vec3> m_directions;
    Reached m_reached;
};

} // namespace

Result<Directions> fewestDirections(const Workplace& place, const Recipe& recipe, const OperationResult& result, double lean, std::size_t most, Progress& progress) {
    if (!result.passes || result.passes->empty() || !result.scene) return fail("the operation has no passes", recipe.name, "Let it be computed first");
    Chooser chooser(place, recipe, result, lean);
    if (!chooser.free()) return fail("the axis of the operation is not free", recipe.name, "Take the locked joint away, or let the axis go by another rule");
    progress.report(0.0, "Asking what each direction reaches");
    if (!chooser.look(progress)) return cancelledError();
    Directions out = chooser.choose(most);
    if (out.chosen.empty()) return fail("no direction that stands still reaches any of it", recipe.name, "Take another assembly, or let the axis turn");
    return out;
}

} // namespace gyre
