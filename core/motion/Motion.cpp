#include "motion/Motion.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "motion/Timing.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

double wrapped(double a) { return std::remainder(a, 2.0 * kPi); }

// What the choice weighs, in seconds of the rotaries' turning. A jump can be cured by leaving the cut there; what lies beyond the travel cannot.
constexpr double kSwing = 4.0, kNotBefore = 1e3, kJump = 1e6, kUnlocked = 1e7, kBeyondTravel = 1e8;
constexpr double kOffLock = 1e-5; // rad that a locked joint may be off by the rounding of axes

/// One reachable setting of the rotaries at a location, before turns are counted.
struct Option {
    double value[2] = {0.0, 0.0};
    bool free[2] = {false, false};
    int branch = -1;      ///< which of two solutions; −1 where there is one
    double penalty = 0.0; ///< for linear joints out of their travel
};

struct Choice {
    double value[2] = {0.0, 0.0};
    int branch = -1;
};

class Chooser {
public:
    Chooser(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, const std::vector<char>& away) : m_path(path), m_k(k), m_spec(spec), m_away(away) {
        for (int r : k.rotaries()) {
            m_rotary.push_back(&k.machine().joints[index(r)]);
            m_endless.push_back(endless(*m_rotary.back()));
        }
    }

    bool collect(std::vector<Finding>& findings, const Progress* progress);
    bool choose(const Progress* progress);
    void takeChoices();
    [[nodiscard]] const std::vector<Choice>& choices() const { return m_choice; }
    [[nodiscard]] const std::vector<std::uint32_t>& jumps() const { return m_jumps; }
    [[nodiscard]] const std::vector<std::uint32_t>& swings() const { return m_swings; }
    [[nodiscard]] const std::vector<std::uint32_t>& unlocked() const { return m_unlocked; } ///< locations where the locked joint is not where it should be

private:
    struct State {
        double value[2];
        double cost;
        std::int32_t from; ///< state of the location before
        bool apart;        ///< the rotaries do not come here smoothly from there
    };
    /// The turns of one option: states in a grid, so that the turn nearest to a value is found without a search.
    struct Turns {
        std::size_t offset = 0;
        double base[2] = {0.0, 0.0};
        int lowest[2] = {0, 0}, count[2] = {1, 1};
    };
    /// The states of one location, a stretch of m_states and of m_turns each.
    struct Layer {
        std::size_t firstState = 0, states = 0;
        std::size_t firstTurns = 0, turns = 0;
    };
    void fillFree();
    void addLayer(std::size_t location);
    [[nodiscard]] std::size_t cheapest(const Layer& layer) const;
    [[nodiscard]] double effort(const State& a, const double* to) const;
    [[nodiscard]] bool maySwing(std::size_t location) const;
    void findFlips(std::size_t location);

    const Toolpath& m_path;
    const Kinematics& m_k;
    const MotionSpec& m_spec;
    const std::vector<char>& m_away;
    std::vector<const Joint*> m_rotary;
    std::vector<char> m_endless; ///< by rotary
    std::vector<std::vector<Option>> m_options;
    std::vector<State> m_states; ///< of all locations, one after the other
    std::vector<Turns> m_turns;
    std::vector<Layer> m_layers;
    std::vector<char> m_flips; ///< at the present location: [option before][option here]
    std::vector<Choice> m_choice;
    std::vector<std::uint32_t> m_jumps, m_swings, m_unlocked;
};

bool Chooser::collect(std::vector<Finding>& findings, const Progress* progress) {
    const std::size_t n = m_path.size();
    m_options.resize(n);
    std::vector<double> missing(n, 0.0);
    const auto& joints = m_k.machine().joints;
    if (!parallelFor(
            n, 512,
            [&](std::size_t i) {
                auto found = m_k.rotariesFor(m_path.axis[i], m_spec.poleTolerance);
                missing[i] = found.missing;
                for (const auto& s : found.solutions) {
                    Option o;
                    o.value[0] = s.first;
                    o.value[1] = s.second;
                    o.free[0] = s.firstFree;
                    o.free[1] = s.secondFree;
                    if (found.solutions.size() == 2) o.branch = &s == found.solutions.data() ? 0 : 1;
                    const JointValues q = m_k.jointsFor(m_path.tip[i], s.first, s.second);
                    for (std::size_t j = 0; j < joints.size(); ++j)
                        if (joints[j].kind == JointKind::Linear)
                            if (const double beyond = std::max(q[j] - joints[j].high, joints[j].low - q[j]); beyond > 0.0) o.penalty += kBeyondTravel + beyond;
                    m_options[i].push_back(o);
                }
            },
            progress))
        return false;
    // Out of reach: hold the nearest reachable location's options, and say how much is missing.
    std::size_t worst = n, first = n, last = 0, count = 0;
    for (std::size_t i = 0; i < n; ++i) {
        if (!m_options[i].empty()) continue;
        if (first == n) first = i;
        last = i;
        ++count;
        if (worst == n || missing[i] > missing[worst]) worst = i;
    }
    if (count > 0) {
        Finding f;
        f.rank = Rank::Stop;
        f.check = Check::Travel;
        f.code = "axis-unreachable";
        f.stage = "Motion";
        f.amount = degrees(missing[worst]);
        f.row = m_path.row[worst];
        f.span = {first, last};
        const Vec3& p = m_path.tip[worst];
        f.place = {p.x(), p.y(), p.z()};
        f.text = fmt::format("{} cannot point the tool there: {:.2f}° are missing at {} ({} locations)", m_k.machine().name, degrees(missing[worst]),
                             m_spec.nameOf(m_path.row[worst]), count);
        f.reason = m_rotary.size() < 2 ? "with one rotary axis the tool can only be turned around it" : "the two rotary axes do not reach this direction";
        findings.push_back(f);
        const Option held{};
        for (std::size_t i = 0; i < n; ++i)
            if (m_options[i].empty()) m_options[i] = i > 0 ? m_options[i - 1] : std::vector<Option>{held};
    }
    fillFree();
    return true;
}

// On a pole the rotary beneath it is free: it goes evenly from its value before to its value after.
void Chooser::fillFree() {
    const std::size_t n = m_options.size();
    for (std::size_t r = 0; r < m_rotary.size(); ++r) {
        const auto isFree = [&](std::size_t i) { return m_options[i].front().free[r]; };
        if (m_k.rotaries()[r] == m_spec.locked) { // free to stay where it is locked
            for (std::size_t i = 0; i < n; ++i)
                if (isFree(i))
                    for (Option& o : m_options[i]) o.value[r] = m_spec.lockedAt;
            continue;
        }
        for (std::size_t i = 0; i < n;) {
            if (!isFree(i)) {
                ++i;
                continue;
            }
            std::size_t end = i;
            while (end < n && isFree(end)) ++end;
            const std::vector<Option> before = i > 0 ? m_options[i - 1] : end < n ? m_options[end] : std::vector<Option>{Option{}};
            const std::vector<Option> after = end < n ? m_options[end] : before;
            for (std::size_t k = i; k < end; ++k) {
                const double t = static_cast<double>(k - i + 1) / static_cast<double>(end - i + 1);
                std::vector<Option> filled;
                for (const Option& own : m_options[k])
                    for (const Option& b : before)
                        for (const Option& a : after) {
                            Option o = own;
                            o.value[r] = b.value[r] + t * wrapped(a.value[r] - b.value[r]);
                            filled.push_back(o);
                        }
                m_options[k] = filled;
            }
            i = end;
        }
    }
}

// All turns of all options that the travel allows; one of a joint that turns without end, whose turns are counted afterwards. When no turn
// lies within the travel, the option stands as it is and the travel is told as a finding later.
void Chooser::addLayer(std::size_t location) {
    Layer layer{m_states.size(), 0, m_turns.size(), m_options[location].size()};
    for (const Option& o : m_options[location]) {
        Turns t;
        t.offset = m_states.size() - layer.firstState;
        double penalty = o.penalty;
        for (std::size_t r = 0; r < m_rotary.size(); ++r) {
            t.base[r] = o.value[r];
            if (m_k.rotaries()[r] == m_spec.locked && std::abs(wrapped(o.value[r] - m_spec.lockedAt)) > kOffLock) penalty += kUnlocked;
            if (m_endless[r]) continue;
            const double low = m_rotary[r]->low - 1e-9, high = m_rotary[r]->high + 1e-9;
            t.lowest[r] = static_cast<int>(std::ceil((low - o.value[r]) / (2.0 * kPi)));
            t.count[r] = static_cast<int>(std::floor((high - o.value[r]) / (2.0 * kPi))) - t.lowest[r] + 1;
            if (t.count[r] < 1) {
                t.lowest[r] = 0;
                t.count[r] = 1;
                penalty += kBeyondTravel;
            }
        }
        for (int a = 0; a < t.count[0]; ++a)
            for (int b = 0; b < t.count[1]; ++b)
                m_states.push_back({{t.base[0] + 2.0 * kPi * (t.lowest[0] + a), t.base[1] + 2.0 * kPi * (t.lowest[1] + b)}, penalty, -1, false});
        m_turns.push_back(t);
    }
    layer.states = m_states.size() - layer.firstState;
    m_layers.push_back(layer);
}

std::size_t Chooser::cheapest(const Layer& layer) const {
    const auto first = m_states.begin() + static_cast<std::ptrdiff_t>(layer.firstState);
    const auto least = std::min_element(first, first + static_cast<std::ptrdiff_t>(layer.states), [](const State& a, const State& b) { return a.cost < b.cost; });
    return static_cast<std::size_t>(least - first);
}

double Chooser::effort(const State& a, const double* to) const {
    double t = 0.0;
    for (std::size_t r = 0; r < m_rotary.size(); ++r) {
        const double turn = m_endless[r] ? wrapped(to[r] - a.value[r]) : to[r] - a.value[r];
        t = std::max(t, std::abs(turn) / m_rotary[r]->speed);
    }
    return t;
}

bool Chooser::maySwing(std::size_t i) const {
    if (m_path.motion[i] != Motion::Rapid || (m_path.motion[i - 1] != Motion::Rapid && m_path.motion[i - 1] != Motion::Retract)) return false;
    return m_away.size() != m_path.size() || (m_away[i - 1] && m_away[i]);
}

// For every pair of options before and here: does going from one to the other swing the tool aside? A change of solution brings the tool to
// the same axis, but by another way; near the part that is as bad as a rewind. Straight over a pole it is none: there the joints moving evenly
// keep to the axis. Within one solution a large turn near a pole is honest, and refined.
void Chooser::findFlips(std::size_t location) {
    const auto &before = m_options[location - 1], &here = m_options[location];
    m_flips.assign(before.size() * here.size(), 0);
    for (std::size_t b = 0; b < before.size(); ++b)
        for (std::size_t h = 0; h < here.size(); ++h) {
            if (before[b].branch < 0 || here[h].branch < 0 || before[b].branch == here[h].branch) continue;
            JointValues q(m_k.joints(), 0.0);
            for (const double t : {0.25, 0.5, 0.75}) {
                for (std::size_t r = 0; r < m_rotary.size(); ++r) q[index(m_k.rotaries()[r])] = before[b].value[r] + t * wrapped(here[h].value[r] - before[b].value[r]);
                if (angleBetween(m_k.forward(q).axis, slerp(m_path.axis[location - 1], m_path.axis[location], t)) > m_spec.axisTolerance) {
                    m_flips[b * here.size() + h] = 1;
                    break;
                }
            }
        }
}

// Back from the cheapest end.
void Chooser::takeChoices() {
    const std::size_t n = m_path.size();
    std::size_t at = cheapest(m_layers[n - 1]);
    for (std::size_t i = n; i-- > 0;) {
        const State& s = m_states[m_layers[i].firstState + at];
        std::size_t option = 0;
        while (option + 1 < m_layers[i].turns && m_turns[m_layers[i].firstTurns + option + 1].offset <= at) ++option;
        m_choice[i] = {{s.value[0], s.value[1]}, m_options[i][option].branch};
        for (std::size_t r = 0; r < m_rotary.size(); ++r)
            if (m_k.rotaries()[r] == m_spec.locked && std::abs(wrapped(s.value[r] - m_spec.lockedAt)) > kOffLock) m_unlocked.push_back(static_cast<std::uint32_t>(i));
        if (s.apart) (maySwing(i) ? m_swings : m_jumps).push_back(static_cast<std::uint32_t>(i));
        if (i > 0) at = static_cast<std::size_t>(s.from);
    }
    std::reverse(m_unlocked.begin(), m_unlocked.end());
    std::reverse(m_jumps.begin(), m_jumps.end());
    std::reverse(m_swings.begin(), m_swings.end());
    for (std::size_t r = 0; r < m_rotary.size(); ++r)
        for (std::size_t i = 1; m_endless[r] && i < n; ++i) m_choice[i].value[r] = m_choice[i - 1].value[r] + wrapped(m_choice[i].value[r] - m_choice[i - 1].value[r]);
}

bool Chooser::choose(const Progress* progress) {
    const std::size_t n = m_path.size();
    m_choice.assign(n, {});
    if (m_rotary.empty() || n == 0) return true;
    m_layers.reserve(n);
    addLayer(0);
    m_states.reserve(m_states.size() * n);
    m_turns.reserve(m_turns.size() * n);
    for (State& s : m_states) s.cost += 1e-3 * (std::abs(s.value[0]) + std::abs(s.value[1]));
    for (std::size_t i = 1; i < n; ++i) {
        if ((i & 1023) == 0 && progress && progress->cancelled()) return false;
        addLayer(i);
        const Layer &before = m_layers[i - 1], &here = m_layers[i];
        const State* states = m_states.data() + before.firstState;
        const Turns *turnsBefore = m_turns.data() + before.firstTurns, *turnsHere = m_turns.data() + here.firstTurns;
        const double apart = maySwing(i) ? kSwing : kJump;
        const std::size_t likely = cheapest(before);
        findFlips(i);
        std::size_t option = 0;
        for (std::size_t k = 0; k < here.states; ++k) {
            while (option + 1 < here.turns && turnsHere[option + 1].offset <= k) ++option;
            State& s = m_states[here.firstState + k];
            const double own = s.cost;
            // From the cheapest state, whatever its turn and solution: a matter of time away from the part, dear elsewhere.
            const double swung = states[likely].cost + effort(states[likely], s.value) + apart;
            double best = 1e300;
            bool smooth = false;
            // Nothing turns more than half a turn between two locations otherwise.
            for (std::size_t from = 0; from < before.turns; ++from) {
                if (m_flips[from * here.turns + option]) continue;
                const Turns& t = turnsBefore[from];
                int turn[2] = {0, 0};
                bool there = true;
                for (std::size_t r = 0; r < m_rotary.size(); ++r) {
                    if (m_endless[r]) continue;
                    turn[r] = static_cast<int>(std::lround((s.value[r] - t.base[r]) / (2.0 * kPi))) - t.lowest[r];
                    there = there && turn[r] >= 0 && turn[r] < t.count[r];
                }
                if (!there) continue;
                smooth = true;
                const auto b = t.offset + static_cast<std::size_t>(turn[0] * t.count[1] + turn[1]);
                const double cost = states[b].cost + effort(states[b], s.value);
                if (cost < best) {
                    best = cost;
                    s.from = static_cast<std::int32_t>(b);
                    s.apart = false;
                }
            }
            // A cut that is left is entered anew at the location before: better where this turn is there as well.
            if (const double other = swung + (smooth || apart < kJump ? 0.0 : kNotBefore); other < best) {
                best = other;
                s.from = static_cast<std::int32_t>(likely);
                s.apart = true;
            }
            s.cost = best + own;
        }
    }
    takeChoices();
    return true;
}

struct Fine {
    std::vector<double> values;
    std::vector<float> fraction;
};

// Halves the way from location i−1 to i until joints moving linearly keep tip and axis within tolerance.
// @param branch of the solution that both ends are of, or −1
void refine(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, std::size_t i, const JointValues& a, const JointValues& b, int branch, Fine& out) {
    const auto& rotaries = k.rotaries();
    const auto wantedTip = [&](double t) { return Vec3((1.0 - t) * path.tip[i - 1] + t * path.tip[i]); };
    const auto wantedAxis = [&](double t) { return slerp(path.axis[i - 1], path.axis[i], t); };
    const auto divide = [&](const auto& self, const JointValues& from, double tFrom, const JointValues& to, double tTo, int depth) -> void {
        double off = 0.0, lean = 0.0;
        JointValues q(from.size());
        // Three places between: one alone may lie on a zero of the deviation.
        for (const double s : {0.25, 0.5, 0.75}) {
            for (std::size_t j = 0; j < q.size(); ++j) q[j] = (1.0 - s) * from[j] + s * to[j];
            const double t = (1.0 - s) * tFrom + s * tTo;
            const ToolPose pose = k.forward(q);
            off = std::max(off, (pose.tip - wantedTip(t)).norm());
            lean = std::max(lean, angleBetween(pose.axis, wantedAxis(t)));
        }
        if (depth >= 26 || (off <= 0.8 * spec.tipTolerance && lean <= spec.axisTolerance)) return;
        const double t = 0.5 * (tFrom + tTo);
        double value[2] = {0.0, 0.0};
        for (std::size_t r = 0; r < rotaries.size(); ++r) value[r] = 0.5 * (from[index(rotaries[r])] + to[index(rotaries[r])]);
        double chosen[2] = {value[0], value[1]};
        // The joints' own middle will do as long as it keeps to the axis: near a pole the exact one would whirl.
        if (angleBetween(k.forward(k.jointsFor(wantedTip(t), value[0], value[1])).axis, wantedAxis(t)) > 0.5 * spec.axisTolerance) {
            const auto found = k.rotariesFor(wantedAxis(t), spec.poleTolerance);
            if (found.solutions.empty()) return; // out of reach in between: no halving brings it nearer
            double best = 1e300;
            for (std::size_t n = 0; n < found.solutions.size(); ++n) {
                if (branch >= 0 && found.solutions.size() == 2 && static_cast<int>(n) != branch) continue;
                const auto& s = found.solutions[n];
                const double raw[2] = {s.first, s.second};
                const bool free[2] = {s.firstFree, s.secondFree};
                double near[2] = {0.0, 0.0}, sum = 0.0;
                for (std::size_t r = 0; r < rotaries.size(); ++r) {
                    near[r] = free[r] ? value[r] : value[r] + wrapped(raw[r] - value[r]);
                    sum += std::abs(near[r] - value[r]);
                }
                if (sum < best) {
                    best = sum;
                    for (std::size_t r = 0; r < rotaries.size(); ++r) chosen[r] = near[r];
                }
            }
        }
        // Between two places where a joint is locked it stays so, as far as the axis lets it.
        for (std::size_t r = 0; r < rotaries.size(); ++r)
            if (rotaries[r] == spec.locked && std::abs(chosen[r] - value[r]) < 0.5 * spec.axisTolerance) chosen[r] = value[r];
        const JointValues middle = k.jointsFor(wantedTip(t), chosen[0], chosen[1]);
        self(self, from, tFrom, middle, t, depth + 1);
        out.values.insert(out.values.end(), middle.begin(), middle.end());
        out.fraction.push_back(static_cast<float>(t));
        self(self, middle, t, to, tTo, depth + 1);
    };
    // Where an end is out of the machine's reach no halving brings the axis nearer; that has been told.
    const auto met = [&](const JointValues& q, std::size_t location) { return angleBetween(k.forward(q).axis, path.axis[location]) <= spec.axisTolerance; };
    if (met(a, i - 1) && met(b, i)) divide(divide, a, 0.0, b, 1.0, 0);
}

// The way by the top of Z: up, the rotaries in turns of less than half a one where the control would else take the shorter way, across; down is
// the step to the location itself.
void swing(const Kinematics& k, const JointValues& from, const JointValues& to, Fine& out) {
    const auto& joints = k.machine().joints;
    JointValues at = from;
    const auto stand = [&] {
        out.values.insert(out.values.end(), at.begin(), at.end());
        out.fraction.push_back(0.0f);
    };
    const int z = k.machine().find("Z");
    if (z >= 0) {
        at[index(z)] = std::max({from[index(z)], to[index(z)], joints[index(z)].high});
        stand();
    }
    double most = 0.0;
    for (const int r : k.rotaries()) most = std::max(most, std::abs(to[index(r)] - from[index(r)]));
    const int parts = std::max(1, static_cast<int>(std::ceil(most / radians(170.0))));
    for (int p = 1; p <= parts; ++p) {
        for (const int r : k.rotaries()) at[index(r)] = from[index(r)] + (to[index(r)] - from[index(r)]) * p / parts;
        stand();
    }
    for (std::size_t j = 0; j < joints.size(); ++j)
        if (static_cast<int>(j) != z) at[j] = to[j];
    if (z >= 0) stand();
}

void findTravel(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, JointMotion& m) {
    const auto& joints = k.machine().joints;
    for (std::size_t j = 0; j < joints.size(); ++j) {
        const Joint& joint = joints[j];
        const bool rotary = joint.kind == JointKind::Rotary;
        const double slack = rotary ? 1e-9 : 1e-6;
        double most = 0.0;
        std::size_t worst = 0, first = 0, last = 0;
        bool any = false;
        for (std::size_t i = 0; i < m.size(); ++i) {
            const double v = m.at(i)[j], over = std::max(v - joint.high, joint.low - v);
            if (over <= slack) continue;
            if (!any) first = m.location[i];
            any = true;
            last = m.location[i];
            if (over > most) {
                most = over;
                worst = i;
            }
        }
        if (!any) continue;
        const std::uint32_t loc = m.location[worst];
        const double unit = rotary ? degrees(1.0) : 1.0;
        const char* suffix = rotary ? "°" : " mm";
        Finding f;
        f.rank = Rank::Stop;
        f.check = Check::Travel;
        f.code = "travel";
        f.stage = "Motion";
        f.row = path.row[loc];
        f.amount = most * unit;
        f.span = {first, last};
        f.place = {path.tip[loc].x(), path.tip[loc].y(), path.tip[loc].z()};
        f.text = fmt::format("{} would have to go to {:.2f}{}, {:.2f}{} beyond its travel, at {}", joint.name, m.at(worst)[j] * unit, suffix, most * unit, suffix,
                             spec.nameOf(path.row[loc]));
        f.reason = fmt::format("{} of {} goes from {:g} to {:g}{}", joint.name, k.machine().name, joint.low * unit, joint.high * unit, suffix);
        m.findings.push_back(f);
    }
}

Finding notReached(const Toolpath& path, const MotionSpec& spec, const std::vector<std::uint32_t>& jumps) {
    const std::size_t i = jumps.front();
    Finding f;
    f.rank = Rank::Stop;
    f.check = Check::Travel;
    f.code = "rewind-in-cut";
    f.stage = "Motion";
    f.row = path.row[i];
    f.span = {i, i};
    f.amount = static_cast<double>(jumps.size());
    f.place = {path.tip[i].x(), path.tip[i].y(), path.tip[i].z()};
    f.text = fmt::format("A rotary axis would have to rewind in the middle of {}", spec.nameOf(path.row[i]));
    if (jumps.size() > 1) f.text += fmt::format(" and at {} more places", jumps.size() - 1);
    f.reason = "its travel ends there and the other solution is not within reach";
    return f;
}

Finding notLocked(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, const std::vector<std::uint32_t>& at, const std::vector<Choice>& choices) {
    const std::size_t r = k.rotaries()[0] == spec.locked ? 0 : 1;
    std::size_t worst = at.front();
    const auto off = [&](std::size_t i) { return std::abs(wrapped(choices[i].value[r] - spec.lockedAt)); };
    for (const std::size_t i : at)
        if (off(i) > off(worst)) worst = i;
    Finding f;
    f.rank = Rank::Look;
    f.check = Check::Travel;
    f.code = "lock-left";
    f.stage = "Motion";
    f.row = path.row[worst];
    f.span = {at.front(), at.back()};
    f.amount = degrees(off(worst));
    f.place = {path.tip[worst].x(), path.tip[worst].y(), path.tip[worst].z()};
    f.text = fmt::format("{} leaves the angle that it is locked at by up to {:.3f}° ({}, {} locations)", k.machine().joints[index(spec.locked)].name, f.amount,
                         spec.nameOf(path.row[worst]), at.size());
    f.reason = "the axis there can only be reached with another angle of it";
    return f;
}

} // namespace

bool endless(const Joint& joint) { return joint.kind == JointKind::Rotary && joint.high - joint.low >= 80.0 * kPi; }

Result<JointMotion> solveMotion(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, Progress& progress, const std::vector<char>& away) {
    JointMotion m;
    m.joints = k.joints();
    const std::size_t n = path.size();
    if (n == 0) return m;
    progress.report(0.0, "Solving the rotary axes");
    Chooser chooser(path, k, spec, away);
    if (!chooser.collect(m.findings, &progress)) return cancelledError();
    progress.report(0.3, "Choosing the way round");
    if (!chooser.choose(&progress)) return cancelledError();
    m.swings = chooser.swings();
    m.jumps = chooser.jumps();
    if (!m.jumps.empty()) m.findings.push_back(notReached(path, spec, m.jumps));
    if (!chooser.unlocked().empty()) m.findings.push_back(notLocked(path, k, spec, chooser.unlocked(), chooser.choices()));
    std::vector<JointValues> q(n);
    const std::vector<Choice>& choices = chooser.choices();
    parallelFor(n, 512, [&](std::size_t i) { q[i] = k.jointsFor(path.tip[i], choices[i].value[0], choices[i].value[1]); });
    progress.report(0.5, "Refining the motion");
    std::vector<Fine> fine(n);
    if (!parallelFor(
            n, 128,
            [&](std::size_t i) {
                if (i == 0 || std::binary_search(m.jumps.begin(), m.jumps.end(), i)) return;
                if (std::binary_search(m.swings.begin(), m.swings.end(), i))
                    swing(k, q[i - 1], q[i], fine[i]);
                else
                    refine(path, k, spec, i, q[i - 1], q[i], choices[i - 1].branch == choices[i].branch ? choices[i].branch : -1, fine[i]);
            },
            &progress))
        return cancelledError();
    m.stepOf.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
        m.values.insert(m.values.end(), fine[i].values.begin(), fine[i].values.end());
        for (float f : fine[i].fraction) {
            m.location.push_back(static_cast<std::uint32_t>(i));
            m.fraction.push_back(f);
        }
        m.values.insert(m.values.end(), q[i].begin(), q[i].end());
        m.stepOf[i] = static_cast<std::uint32_t>(m.location.size());
        m.location.push_back(static_cast<std::uint32_t>(i));
        m.fraction.push_back(1.0f);
    }
    progress.report(0.9, "Timing");
    setTimes(path, k, spec, m);
    findTravel(path, k, spec, m);
    progress.report(1.0, "Motion is solved");
    return m;
}

} // namespace gyre
