// From the job to what its program must make the control do.
#include "base/Units.h"
#include "holes/Drill.h"
#include "holes/DrillSpec.h"
#include "link/Link.h"
#include "milling/Miller.h"
#include "motion/PointsSpec.h"
#include "motion/SafeEnds.h"
#include "operation/OperationResult.h"
#include "post/Arcs.h"
#include "post/JointWords.h"
#include "post/Script.h"
#include "post/Words.h"
#include "proof/Proof.h"
#include <fmt/format.h>
#include <unordered_map>

namespace gyre {

int cycleCode(Cycle cycle, bool dwell) {
    switch (cycle) {
    case Cycle::Peck:
        return 83;
    case Cycle::ChipBreak:
        return 73;
    case Cycle::Bore:
    case Cycle::Ream:
        return dwell ? 89 : 85;
    case Cycle::Tap:
        return 84;
    default:
        return dwell ? 82 : 81;
    }
}

std::optional<Cycle> cycleOfCode(int code) {
    switch (code) {
    case 73:
        return Cycle::ChipBreak;
    case 81:
    case 82:
        return Cycle::Drill;
    case 83:
        return Cycle::Peck;
    case 84:
        return Cycle::Tap;
    case 85:
    case 89:
        return Cycle::Bore;
    default:
        return std::nullopt;
    }
}

namespace {

/// Cycles that one code stands for are one.
Cycle plainCycle(Cycle c) { return *cycleOfCode(cycleCode(c, false)); }

/// Where the control may write a cycle as one block: nothing but Z moves, straight down to the bottom and as the strokes of the cycle go.
bool zAlone(const Machine& m, const JointMotion& motion, const CycleRun& run) {
    const int z = m.find("Z");
    if (z < 0) return false;
    const double* at = motion.at(motion.stepOf[run.first]);
    double bottom = at[z];
    for (std::size_t s = motion.stepOf[run.first]; s <= motion.stepOf[run.first + run.strokes]; ++s)
        for (std::size_t j = 0; j < motion.joints; ++j) {
            if (static_cast<int>(j) != z && std::abs(motion.at(s)[j] - at[j]) > 1e-7) return false;
            bottom = std::min(bottom, motion.at(s)[z]);
        }
    return std::abs(at[z] - bottom - run.depth) <= 1e-5;
}

/// Do the strokes that a control makes of the cycle go where the path goes?
bool strokesAgree(const Toolpath& path, const CycleRun& run, const DrillSpec& spec) {
    const auto meant = strokes(spec.cycle, 0.0, run.depth, spec.peck);
    if (meant.size() != run.strokes) return false;
    for (std::size_t i = 0; i < meant.size(); ++i) {
        const std::size_t at = run.first + 1 + i;
        if (std::abs((path.tip[run.first] - path.tip[at]).norm() - meant[i].depth) > 1e-6 || path.rapid(at) != meant[i].rapid) return false;
    }
    return true;
}

/// Do the rotaries stand still from the first location to the last one?
bool standsStill(const Machine& m, const PostOperation& op) {
    const JointMotion& motion = *op.result->motion;
    for (std::size_t s = 1; s < motion.size(); ++s)
        for (std::size_t j = 0; j < motion.joints; ++j)
            if (m.joints[j].kind == JointKind::Rotary && std::abs(motion.at(s)[j] - motion.at(0)[j]) > 1e-9) return false;
    return true;
}
bool inPlane(const Spelling& spelling, const Machine& m, const PostOperation& op) { return spelling.indexed != IndexedWork::AsOther && standsStill(m, op); }

/// Straight down along the axis to the bottom and back to where it began?
bool straightDown(const Toolpath& path, const CycleRun& run) {
    const Vec3 axis = path.axis[run.first];
    double depth = 0.0;
    for (std::size_t i = run.first; i <= run.first + run.strokes; ++i) {
        const Vec3 down = path.tip[run.first] - path.tip[i];
        if ((down - down.dot(axis) * axis).norm() > 1e-6 || down.dot(axis) < -1e-6) return false;
        depth = std::max(depth, down.dot(axis));
    }
    return std::abs(depth - run.depth) <= 1e-5 && (path.tip[run.first + run.strokes] - path.tip[run.first]).norm() <= 1e-6;
}

class Intended {
public:
    Intended(const PostInput& input, Dialect dialect)
        : m_input(input), m_machine(*input.machine), m_words(saidOn(*input.machine, input.words)), m_speller(spellingOf(input, dialect), m_machine, m_words),
          m_joint(kindOf(dialect).positions == Positions::Joints) {
        m_out.dialect = dialect;
        m_left.assign(m_machine.joints.size(), 0.0);
    }

    Program rs274() {
        m_state.units = m_words.inch ? 20 : 21;
        m_state.distance = 90;
        m_state.plane = 17;
        m_state.radius = 40;
        m_state.cycles = 80;
        m_state.offset = m_words.offset;
        m_state.feedMode = FeedMode::PerMinute;
        m_state.length = LengthMode::None;
        if (m_speller.unsaid(Phrase::CycleReturn)) m_state.cycleReturn = 99;
        own(m_speller.spelling().lines.start);
        for (std::size_t o = 0; o < m_input.operations.size(); ++o) operation(static_cast<std::uint32_t>(o));
        stopSpindle();
        own(m_speller.spelling().lines.finish);
        act(Act::Kind::End);
        return withArcs(std::move(m_out), m_machine, m_speller);
    }

    Program cutterData() {
        m_state.units = m_words.inch ? 20 : 21;
        m_state.multax = true;
        m_state.feedMode = FeedMode::PerMinute;
        for (std::size_t o = 0; o < m_input.operations.size(); ++o) {
            const PostOperation& op = m_input.operations[o];
            const Toolpath& path = op.result->links->path;
            begin(static_cast<std::uint32_t>(o));
            stopSpindle();
            m_state.tool = op.toolNumber;
            act(Act::Kind::ToolChange);
            m_state.diameter = op.result->tool.cutter.diameter;
            m_state.corner = contactRadius(op.result->tool.cutter);
            startSpindle(op.result->tool);
            const auto cycles = op.result->cycle->cycle == Cycle::Tap ? cyclesOf(*op.result) : std::vector<CycleRun>{};
            std::size_t next = 0;
            for (std::size_t i = 0; i < path.size(); ++i) {
                m_now.location = static_cast<std::uint32_t>(i);
                m_now.tip = path.tip[i] - m_input.zero;
                m_now.axis = path.axis[i];
                while (next < cycles.size() && cycles[next].first + 1 < i) ++next;
                if (next < cycles.size() && i == cycles[next].first + 1) {
                    const CycleRun& run = cycles[next++];
                    m_now.tip = path.tip[run.first] - m_input.zero;
                    m_now.axis = path.axis[run.first];
                    m_state.feedMode = FeedMode::PerTurn;
                    Act& a = act(Act::Kind::Cycle);
                    a.cycle = Cycle::Tap;
                    a.top = 0.0;
                    a.bottom = -run.depth;
                    a.feed = op.result->cycle->pitch / m_words.unit();
                    m_state.feedMode = FeedMode::PerMinute;
                    i = run.first + run.strokes;
                    continue;
                }
                Act& a = act(Act::Kind::Move);
                a.rapid = path.rapid(i);
                a.feed = a.rapid ? 0.0 : static_cast<double>(path.feed[i]) / m_words.unit();
                wait(i);
            }
        }
        stopSpindle();
        act(Act::Kind::End);
        return std::move(m_out);
    }

private:
    Act& act(Act::Kind kind) {
        m_now.kind = kind;
        return m_out.add(m_now, m_state);
    }
    /// Lines of the shop's own.
    void own(const std::vector<std::string>& lines) {
        for (const std::string& text : lines) {
            Act& a = act(Act::Kind::Own);
            a.own = static_cast<std::uint32_t>(m_out.own.size());
            m_out.own.push_back(filled(text, m_input, m_speller, a.operation));
        }
    }
    void begin(std::uint32_t o) {
        m_now.operation = o;
        m_now.location = 0;
        m_waits.clear();
        for (const CycleRun& run : cyclesOf(*m_input.operations[o].result))
            if (run.dwell > 0.0) m_waits.emplace(run.bottom, run.dwell);
    }
    void stopSpindle() {
        m_state.turning = Turning::Off;
        m_state.coolant = Coolant::None;
    }
    void startSpindle(const Assembly& tool) {
        m_state.turning = Turning::Clockwise;
        m_state.speed = speedSaid(tool.spindleSpeed);
        m_state.coolant = tool.coolant;
    }
    void wait(std::size_t location) {
        if (const auto w = m_waits.find(location); w != m_waits.end()) act(Act::Kind::Dwell).seconds = w->second;
    }
    /// Takes over the joints that `which` accepts.
    template <class Which> void joints(const double* q, const Which& which) {
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (which(m_machine.joints[j])) m_now.joints[j] = q[j];
    }
    template <class Which> void joints(const JointMotion& motion, std::size_t step, const Which& which) { joints(turned(motion.at(step)).data(), which); }
    /// The way by the top of Z to location i, as far as it is the machine's alone.
    void byTheTop(const PostOperation& op, std::size_t i) {
        const JointMotion& motion = *op.result->motion;
        m_state.length = LengthMode::None;
        m_state.lengthRegister = 0;
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (m_machine.joints[j].kind != JointKind::Rotary) m_now.joints[j] = kUnsaid;
        for (std::size_t s = motion.stepOf[i - 1] + 1; s < motion.stepOf[i]; ++s) {
            std::uint32_t moves = 0;
            for (std::size_t j = 0; j < motion.joints; ++j)
                if (motion.at(s)[j] != motion.at(s - 1)[j]) moves |= 1u << j;
            if (moves == 0) continue;
            const JointValues q = turned(motion.at(s));
            safely(q.data(), [&](const Joint& joint) { return (moves >> static_cast<std::size_t>(&joint - m_machine.joints.data()) & 1u) != 0; });
        }
        tipOn(op);
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (m_machine.joints[j].kind != JointKind::Rotary) m_now.joints[j] = kUnsaid;
    }
    void tipOn(const PostOperation& op) {
        m_state.length = LengthMode::TipControl;
        m_state.lengthRegister = m_speller.saysRegister(Phrase::TipOn) ? op.toolNumber : 0;
    }
    /// A plane square to the tool, with the program's zero: @return what brings the program's coordinates into it
    Mat3 planeOn(const PostOperation& op) {
        const TiltedPlane plane = planeSquareTo(op.result->links->path.axis.front(), m_speller.spelling().planeAngles, m_words.digits().angle);
        m_state.tilted = true;
        m_state.aligned = !m_speller.unsaid(Phrase::PlaneAlign);
        m_state.tilt = {0.0, 0.0, 0.0, plane.angles[0], plane.angles[1], plane.angles[2]};
        m_state.length = LengthMode::Plain;
        m_state.lengthRegister = m_speller.saysRegister(Phrase::LengthOn) ? op.toolNumber : 0;
        return plane.turn.transpose();
    }
    /// A joint that turns without end begins with the turn that is nearest to where the operation before left it.
    void chooseTurns(const JointMotion& motion) {
        m_turns.assign(m_machine.joints.size(), 0.0);
        for (std::size_t j = 0; j < m_turns.size(); ++j)
            if (endless(m_machine.joints[j])) m_turns[j] = 2.0 * kPi * std::round((m_left[j] - motion.at(0)[j]) / (2.0 * kPi));
        m_left = turned(motion.at(motion.size() - 1));
    }
    [[nodiscard]] JointValues turned(const double* q) const {
        JointValues out(q, q + m_machine.joints.size());
        for (std::size_t j = 0; j < out.size(); ++j) out[j] += m_turns[j];
        return out;
    }
    /// A move of the machine alone, far from the work.
    template <class Which> void safely(const double* q, const Which& which) {
        joints(q, which);
        Act& a = act(Act::Kind::Move);
        a.rapid = true;
        a.machine = !m_joint;
        a.aside = true;
        a.says = 0;
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (which(m_machine.joints[j])) a.says |= 1u << j;
        if (!m_joint) m_now.tip = a.tip = Vec3::Constant(kUnsaid);
    }
    void clampBefore(const std::vector<std::vector<char>>& held, std::size_t block) {
        for (std::size_t j = 0; j < held.size(); ++j)
            if (!held[j].empty()) clamp(j, held[j][block] != 0);
    }
    void clamp(std::size_t j, bool closed) {
        const std::uint32_t bit = 1u << j;
        m_state.clamped = closed ? m_state.clamped | bit : m_state.clamped & ~bit;
        m_state.free = closed ? m_state.free & ~bit : m_state.free | bit;
    }

    void operation(std::uint32_t o) {
        const PostOperation& op = m_input.operations[o];
        const JointMotion& motion = *op.result->motion;
        chooseTurns(motion);
        SafeEnds ends = safeEnds(m_machine, motion);
        ends.above = turned(ends.above.data());
        const auto isZ = [](const Joint& j) { return j.name == "Z"; };
        const auto rotary = [](const Joint& j) { return j.kind == JointKind::Rotary; };
        const auto aside = [&](const Joint& j) { return !rotary(j) && !isZ(j); };
        JointValues top(m_machine.joints.size(), 0.0);
        if (const int z = m_machine.find("Z"); z >= 0) top[static_cast<std::size_t>(z)] = m_machine.joints[static_cast<std::size_t>(z)].high;
        begin(o);
        if (o == 0) safely(top.data(), isZ);
        stopSpindle();
        const OwnLines& lines = m_speller.spelling().lines;
        own(lines.beforeTool);
        m_state.tool = op.toolNumber;
        // Where the changer leaves the slides is its own affair.
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (!rotary(m_machine.joints[j])) m_now.joints[j] = kUnsaid;
        act(Act::Kind::ToolChange);
        if (m_joint && !m_words.lengthCheck.empty()) act(Act::Kind::LengthCheck).gauge = op.result->tool.gaugeLength();
        own(lines.afterTool);
        safely(top.data(), isZ);
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (m_machine.joints[j].clampCode > 0) clamp(j, false);
        if (!m_machine.rotaries().empty()) safely(ends.above.data(), rotary);
        startSpindle(op.result->tool);
        own(lines.beforeOperation);
        safely(ends.above.data(), aside);
        m_state.points = op.result->points->how;
        m_state.smoothing = op.result->points->smoothing();
        if (m_joint)
            alongJoints(op);
        else
            alongTip(op);
        m_state.points = AtPoints::AsItStands;
        m_state.smoothing = 0.0;
        m_state.feedMode = FeedMode::PerMinute;
        m_state.cycles = 80;
        m_state.rigidTap = false;
        m_state.length = LengthMode::None;
        m_state.lengthRegister = 0;
        m_state.tilted = m_state.aligned = false;
        m_state.tilt = {};
        if (!m_joint)
            for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
                if (!rotary(m_machine.joints[j])) m_now.joints[j] = kUnsaid;
        safely(ends.aboveExit.data(), isZ);
        own(lines.afterOperation);
    }

    void alongTip(const PostOperation& op) {
        const Toolpath& path = op.result->links->path;
        const JointMotion& motion = *op.result->motion;
        const bool plane = inPlane(m_speller.spelling(), m_machine, op);
        Mat3 into = Mat3::Identity();
        if (plane)
            into = planeOn(op);
        else
            tipOn(op);
        const auto cycles = plane ? cyclesOf(*op.result) : std::vector<CycleRun>{};
        std::size_t next = 0;
        std::vector<std::size_t> steps(motion.stepOf.begin(), motion.stepOf.end());
        std::vector<char> quick(path.size());
        for (std::size_t i = 0; i < path.size(); ++i) quick[i] = path.rapid(i);
        const auto held = clampedBlocks(m_machine, motion, steps, quick);
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (m_machine.joints[j].kind != JointKind::Rotary) m_now.joints[j] = kUnsaid;
        for (std::size_t i = 0; i < path.size(); ++i) {
            clampBefore(held, i);
            m_now.location = static_cast<std::uint32_t>(i);
            while (next < cycles.size() && cycles[next].first + 1 < i) ++next;
            if (next < cycles.size() && i == cycles[next].first + 1) {
                const CycleRun& run = cycles[next++];
                if (canCycleInPlane(op, run)) {
                    m_now.tip = into * (path.tip[run.first] - m_input.zero);
                    cycle(op, run, m_now.tip.z());
                    i = run.first + run.strokes;
                    continue;
                }
            }
            m_state.cycles = 80;
            m_state.rigidTap = false;
            m_state.feedMode = FeedMode::PerMinute;
            if (std::binary_search(motion.swings.begin(), motion.swings.end(), i)) byTheTop(op, i);
            m_now.tip = into * (path.tip[i] - m_input.zero);
            joints(motion, motion.stepOf[i], [](const Joint& j) { return j.kind == JointKind::Rotary; });
            Act& a = act(Act::Kind::Move);
            if (plane) a.says = 0; // X, Y, Z alone
            a.rapid = path.rapid(i) && !m_words.rapidsAsFeed;
            a.feed = a.rapid ? 0.0 : (path.rapid(i) ? 60.0 * m_machine.rapid : static_cast<double>(path.feed[i])) / m_words.unit();
            wait(i);
        }
    }

    void alongJoints(const PostOperation& op) {
        const Toolpath& path = op.result->links->path;
        const JointMotion& motion = *op.result->motion;
        const FeedMode mode = m_machine.jointFeed == JointFeed::PerMinute ? FeedMode::PerMinute : FeedMode::InverseTime;
        std::vector<std::size_t> steps(motion.size());
        std::vector<char> quick(motion.size());
        for (std::size_t s = 0; s < motion.size(); ++s) {
            steps[s] = s;
            quick[s] = s == 0 || path.rapid(motion.location[s]);
        }
        const auto held = clampedBlocks(m_machine, motion, steps, quick);
        const auto cycles = cyclesOf(*op.result);
        const auto everything = [](const Joint&) { return true; };
        std::size_t next = 0;
        for (std::size_t s = 0; s < motion.size(); ++s) {
            clampBefore(held, s);
            // The tool stands over the mouth; the strokes follow as one block.
            while (next < cycles.size() && motion.stepOf[cycles[next].first] + 1 < s) ++next;
            if (next < cycles.size() && s == motion.stepOf[cycles[next].first] + 1) {
                const CycleRun& run = cycles[next++];
                if (canCycle(m_machine, op, run)) {
                    joints(motion, motion.stepOf[run.first + run.strokes], everything);
                    cycle(op, run, motion.at(motion.stepOf[run.first])[m_machine.find("Z")]);
                    s = motion.stepOf[run.first + run.strokes];
                    continue;
                }
            }
            m_state.cycles = 80;
            m_state.rigidTap = false;
            m_state.feedMode = mode;
            const std::size_t loc = motion.location[s];
            m_now.location = static_cast<std::uint32_t>(loc);
            joints(motion, s, everything);
            Act& a = act(Act::Kind::Move);
            a.rapid = s == 0 || (path.rapid(loc) && !m_words.rapidsAsFeed);
            a.feed = a.rapid ? 0.0 : jointFeedWord(m_machine, motion, s, m_words.unit());
            if (motion.stepOf[loc] == s) wait(loc);
        }
    }

    /// @param top  where the tool stands over the hole, as the program says it
    void cycle(const PostOperation& op, const CycleRun& run, double top) {
        const DrillSpec& spec = op.result->cycle;
        const bool tap = spec.cycle == Cycle::Tap, perTurn = tap && m_words.tapPerTurn;
        m_state.feedMode = perTurn ? FeedMode::PerTurn : FeedMode::PerMinute;
        m_state.cycles = cycleCode(spec.cycle, run.dwell > 0.0);
        m_state.cycleReturn = 99;
        m_state.rigidTap = tap && m_words.rigidTap > 0;
        m_now.location = static_cast<std::uint32_t>(run.bottom);
        Act& a = act(Act::Kind::Cycle);
        a.cycle = plainCycle(spec.cycle);
        a.top = top;
        a.bottom = a.top - run.depth;
        if (spec.cycle == Cycle::Peck || spec.cycle == Cycle::ChipBreak) a.peck = spec.peck;
        a.seconds = run.dwell;
        a.feed = (perTurn ? spec.pitch : tap ? spec.pitch * m_state.speed : static_cast<double>(op.result->links->path.feed[run.first + 1])) / m_words.unit();
    }

public:
    [[nodiscard]] static bool canCycleInPlane(const PostOperation& op, const CycleRun& run) {
        const Toolpath& path = op.result->links->path;
        return op.result->cycle->canned && straightDown(path, run) && (op.result->cycle->cycle == Cycle::Tap || strokesAgree(path, run, op.result->cycle));
    }
    [[nodiscard]] static bool canCycle(const Machine& machine, const PostOperation& op, const CycleRun& run) {
        return op.result->cycle->canned && zAlone(machine, *op.result->motion, run) &&
               (op.result->cycle->cycle == Cycle::Tap || strokesAgree(op.result->links->path, run, op.result->cycle));
    }

private:
    const PostInput& m_input;
    const Machine& m_machine;
    const ProgramWords m_words;
    const Speller m_speller;
    const bool m_joint;
    ControlState m_state;
    Act m_now;                   ///< where everything stands
    JointValues m_turns, m_left; ///< whole turns added to the operation's own joints; where the last one ended
    std::unordered_map<std::size_t, double> m_waits;
    Program m_out;
};

// Where the control takes the shorter way to an angle, half a turn in one block may go either way.
Status turnsCanBeSaid(const Machine& m, const PostOperation& op, Positions positions) {
    const JointMotion& motion = *op.result->motion;
    // The steps that the program names: all of them, or those of locations and of the ways by the top of Z.
    std::vector<std::size_t> named;
    for (std::size_t s = 0; s < motion.size(); ++s)
        if (positions == Positions::Joints || motion.stepOf[motion.location[s]] == s ||
            std::binary_search(motion.swings.begin(), motion.swings.end(), motion.location[s]))
            named.push_back(s);
    for (std::size_t j = 0; j < m.joints.size(); ++j) {
        if (!m.joints[j].shortest) continue;
        for (std::size_t i = 1; i < named.size(); ++i) {
            const std::size_t a = named[i - 1], b = named[i];
            const double by = degrees(std::abs(motion.at(b)[j] - motion.at(a)[j]));
            if (by < 179.9) continue;
            return fail(fmt::format("{} turns by {:.1f}° in one block, and the control would take the shorter way there", m.joints[j].name, by),
                        fmt::format("{}, location {}", op.name, motion.location[b]),
                        positions == Positions::Tip ? "Write joint coordinates, or give the machine counted turns" : "Give the machine counted turns");
        }
    }
    return {};
}

// Spindle and feed must keep step in a tap; only the control's own cycle does that.
Status tapsCanBeSaid(const PostInput& input, const PostOperation& op, Positions positions) {
    if (!op.result->drill || op.result->cycle->cycle != Cycle::Tap || positions == Positions::TipAndAxis) return {};
    const auto cycles = cyclesOf(*op.result);
    if (positions == Positions::Joints && std::all_of(cycles.begin(), cycles.end(), [&](const CycleRun& run) { return Intended::canCycle(*input.machine, op, run); }))
        return {};
    if (positions == Positions::Tip && input.spelling && inPlane(*input.spelling, *input.machine, op) &&
        std::all_of(cycles.begin(), cycles.end(), [&](const CycleRun& run) { return Intended::canCycleInPlane(op, run); }))
        return {};
    return fail("a tap needs the control's tapping cycle, which cannot be written here", op.name,
                "Write joint coordinates, with cycles, on a machine whose Z runs along the tool, or in a dialect with tilted planes");
}

// Not every control has words for what it does at points.
Status pointsCanBeSaid(const PostInput& input, const PostOperation& op, Positions positions) {
    const PointsSpec& points = op.result->points;
    if (points.how == AtPoints::AsItStands || positions == Positions::TipAndAxis || !input.spelling) return {};
    const Spelling& spelling = *input.spelling;
    const bool stops = points.how == AtPoints::ExactStop;
    if (spelling[Phrase::Smooth].empty() || (stops && spelling[Phrase::ExactStop].empty()))
        return fail(stops ? "the dialect has no words for exact stops and their end" : "the dialect has no word for rounding points off", op.name,
                    "Let the control run on as it stands, or give the dialect the words");
    if (!stops && spelling[Phrase::Smooth].find("{within}") == std::string::npos)
        return fail("the dialect cannot say within how much points are rounded off", op.name, "Let the control run on as it stands, or give the dialect's word a value");
    if (!stops && std::round(points.within / input.words.unit() * std::pow(10.0, input.words.digits().length)) < 1.0)
        return fail("points are to be rounded off within less than the program's digits", op.name, "Allow more, or stop exactly");
    return {};
}

Status canBePosted(const PostInput& input, const PostOperation& op, Positions positions) {
    if (!op.result || !op.result->complete() || op.result->links->path.empty()) {
        std::string why;
        if (op.result)
            for (const Finding& f : op.result->findings)
                if (f.rank == Rank::Stop && why.empty()) why = f.reason.empty() ? f.text : f.text + " (" + f.reason + ")";
        return fail(why.empty() ? "the operation has no toolpath" : "the operation has no toolpath: " + why, op.name, "Cure that in Cut, or switch the operation off");
    }
    const Assembly& tool = op.result->tool;
    if (!(speedSaid(tool.spindleSpeed) > 0.0)) return fail("the spindle has no speed", op.name, "Give " + tool.name + " a spindle speed");
    const Toolpath& path = op.result->links->path;
    for (std::size_t i = 0; i < path.size(); ++i)
        if (!path.rapid(i) && !(path.feed[i] > 0.0f && std::isfinite(path.feed[i])))
            return fail(fmt::format("location {} has no feed", i), op.name, "Give the operation a feed, or " + tool.name + " a feed per tooth");
    if (input.machine->joints.size() > kMostJoints) return fail("the machine has more joints than a program can name", input.machine->name);
    if (const auto ok = tapsCanBeSaid(input, op, positions); !ok) return ok;
    if (const auto ok = pointsCanBeSaid(input, op, positions); !ok) return ok;
    if (positions == Positions::Tip && input.spelling && input.spelling->indexed == IndexedWork::PlanesAlone && !standsStill(*input.machine, op))
        return fail("the rotaries turn while it cuts, and the dialect writes work in tilted planes alone", op.name,
                    "Choose a dialect with tip control or joint coordinates");
    return positions == Positions::TipAndAxis ? Status{} : turnsCanBeSaid(*input.machine, op, positions);
}

} // namespace

Result<Program> intendedProgram(const PostInput& input, Dialect dialect) {
    if (input.operations.empty()) return fail("the job has no operation to post", input.jobName, "Add or switch on an operation");
    const Positions positions = kindOf(dialect).positions;
    for (const PostOperation& op : input.operations)
        if (const auto ok = canBePosted(input, op, positions); !ok) return tl::unexpected(ok.error());
    Intended intended(input, dialect);
    if (positions == Positions::TipAndAxis) return intended.cutterData();
    Program program = intended.rs274();
    const Spelling& spelling = spellingOf(input, dialect);
    if (spelling.script.empty()) return program;
    std::vector<std::string> names;
    for (const PostOperation& op : input.operations) names.push_back(op.name);
    return withScriptLines(std::move(program), Speller(spelling, *input.machine, saidOn(*input.machine, input.words)), *input.machine, names);
}

} // namespace gyre
