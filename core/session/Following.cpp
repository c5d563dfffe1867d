#include "session/Following.h"
#include "base/Index.h"
#include "base/Units.h"
#include "holes/Drill.h"
#include "motion/SafeEnds.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "post/Arcs.h"
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

constexpr double kTurnAtOnce = 0.017453292519943295; // rad: the way is divided where rotaries turn further
constexpr int kMostParts = 7200;                     // of one block
constexpr std::size_t kMostMoves = 5000000;
constexpr double kRoundWithin = 0.0005; // mm: an arc is followed within this

/// Runs a program as the control would.
class Following {
public:
    Following(const Program& program, const PostInput& input, const Workplace& place, EditedProgram& out)
        : m_program(program), m_input(input), m_machine(*input.machine), m_place(place), m_positions(kindOf(program.dialect).positions), m_out(out) {
        m_now = standingAfter(m_machine, nullptr).joints;
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (m_machine.joints[j].name == "Z") m_now[j] = m_machine.joints[j].high;
    }

    /// @param writtenFor  by line of the text: the operation of the job whose line it is
    std::vector<Stretch> run(const std::map<int, std::uint32_t>& writtenFor) {
        for (const Act& a : m_program.acts) {
            const ControlState& s = m_program.stateOf(a);
            switch (a.kind) {
            case Act::Kind::ToolChange:
                change(a, s);
                break;
            case Act::Kind::LengthCheck:
                if (tool(s.tool) && std::abs(a.gauge - tool(s.tool)->gaugeLength()) > 0.01)
                    stop(a.line, "program-state",
                         fmt::format("it checks for a tool of {:.3f} mm, and tool {} is {:.3f} mm long", a.gauge, s.tool, tool(s.tool)->gaugeLength()),
                         "the tool's length in the program is not that of the job");
                break;
            case Act::Kind::Move:
                if (a.arc != 0 && m_before)
                    round(a, s);
                else
                    move(a, s);
                break;
            case Act::Kind::Cycle:
                cycle(a, s);
                break;
            default:
                break;
            }
            m_before = &a;
        }
        for (Stretch& s : m_stretches) name(s, writtenFor);
        std::erase_if(m_stretches, [](const Stretch& s) { return s.path.empty(); });
        return std::move(m_stretches);
    }

private:
    [[nodiscard]] const Assembly* tool(int number) const {
        for (const PostOperation& op : m_input.operations)
            if (op.toolNumber == number) return &op.result->tool;
        return nullptr;
    }
    void stop(int line, const char* code, const std::string& text, const std::string& reason) {
        if (!m_said.insert({code, text.substr(0, text.find_first_of("0123456789"))}).second) return; // the first place of each is told
        Finding f;
        f.rank = Rank::Stop;
        f.check = Check::Machine;
        f.code = code;
        f.stage = "Proof";
        f.text = text;
        f.reason = reason;
        m_out.told.push_back({std::move(f), line});
    }
    void lost(int line, const std::string& why) { stop(line, "program-lost", "from here on nobody can tell where the tool goes", why); }

    void change(const Act& a, const ControlState& s) {
        m_stretches.emplace_back();
        m_stretches.back().line = a.line;
        m_stretches.back().tool = s.tool;
        m_lost = false;
        for (std::size_t j = 0; j < m_now.size(); ++j) m_now[j] = changesAt(m_machine, j).value_or(m_now[j]);
        const Assembly* loaded = tool(s.tool);
        if (!loaded) {
            stop(a.line, "program-state", fmt::format("tool {} is loaded, which no operation of the job works with", s.tool),
                 "its shape is not known, so nothing can be proven");
            m_lost = true;
            return;
        }
        m_kinematics.emplace(m_machine, m_place.partFrame, loaded->gaugeLength());
    }

    /// What the control has been told before it cuts.
    void states(const Act& a, const ControlState& s) {
        if (s.turning == Turning::Off)
            stop(a.line, "program-state", "it cuts while the spindle stands still", "no word starts the spindle before it, or one has stopped it");
        if (s.turning == Turning::Counter) stop(a.line, "program-state", "it cuts while the spindle turns backwards", "the job's tools cut clockwise");
        if (s.turning != Turning::Off && !(s.speed > 0.0)) stop(a.line, "program-state", "it cuts while the spindle has no speed", "S is missing or 0");
        if (!(a.feed > 0.0)) stop(a.line, "program-state", "it cuts without a feed", "F is missing or 0");
        if (const Assembly* t = tool(s.tool); t && s.speed > 1.0005 * std::max(1.0, t->spindleSpeed))
            look(a.line, fmt::format("the spindle turns {:g} a minute, faster than the {:g} that tool {} has in the job", s.speed, t->spindleSpeed, s.tool));
        double meant = 0.0;
        for (const PostOperation& op : m_input.operations) meant = std::max(meant, op.result->points->smoothing());
        if (s.smoothing > meant + 1e-4)
            look(a.line, meant > 0.0 ? fmt::format("points are rounded off within {:.3f} mm, more than the {:.3f} mm of the job", s.smoothing, meant)
                                     : fmt::format("points are rounded off within {:.3f} mm, and the job says nothing of it", s.smoothing));
    }
    void look(int line, const std::string& text) {
        if (!m_said.insert({"program-changed", text}).second) return;
        Finding f;
        f.rank = Rank::Look;
        f.check = Check::Machine;
        f.code = "program-changed";
        f.stage = "Proof";
        f.text = text;
        f.reason = "the job means less";
        m_out.told.push_back({std::move(f), line});
    }
    /// What positions and feeds rest on.
    void frames(const Act& a, const ControlState& s) {
        if (m_positions == Positions::TipAndAxis) return;
        const auto state = [&](bool wrong, const char* text, const char* reason) {
            if (wrong) stop(a.line, "program-state", text, reason);
        };
        state(s.units == 0, "it moves before the unit is said", "the control counts in whatever it was left in");
        state(s.distance != 90, "it moves without being told to count from the zero", "the control counts as it was left; G90 is missing");
        state(s.radius != 40, "it moves without the radius compensation put off", "the control may keep the tool beside its way; G40 is missing");
        state(s.cycles == 0, "it moves without cycles put off", "the control may drill at every place; G80 is missing");
        state(!a.rapid && s.feedMode == FeedMode::Unsaid, "it cuts before it is said how feeds count", "F may be taken per minute, per turn or as inverse time");
        state(!a.machine && s.offset != m_input.words.offset, "it works from another work offset than the job", "where that lies is not known");
        state(m_positions == Positions::Joints && (s.length == LengthMode::Plain || s.length == LengthMode::TipControl),
              "the tool's length is added to joint coordinates", "they are where the joints stand; G49 is missing");
        state(a.machine && (s.length == LengthMode::Plain || s.length == LengthMode::TipControl), "it goes to a place of the machine while the tool's length is on",
              "what is added to it is the control's affair; G49 is missing");
        state(m_positions == Positions::Joints && s.tilted, "joint coordinates are taken in a tilted plane", "they are where the joints stand");
    }

    /// An arc in short straight ways. (The reader takes none whose ends are not known.)
    void round(const Act& a, const ControlState& s) {
        const bool joints = m_positions == Positions::Joints;
        const auto from = joints ? straightPlace(m_machine, *m_before) : std::optional(m_before->tip), to = joints ? straightPlace(m_machine, a) : std::optional(a.tip);
        if (!from || !to) return move(a, s);
        const Arc arc{*from, *to, a.centre, normalOf(s.plane), a.arc};
        const double each = 2.0 * std::acos(std::max(0.99, 1.0 - kRoundWithin / std::max(arc.radius(0.0), 1e-6)));
        const int n = std::clamp(static_cast<int>(std::ceil(arc.sweep() / each)), 1, kMostParts);
        Act part = a;
        if (s.feedMode == FeedMode::InverseTime) part.feed *= n;
        for (int k = 1; k <= n && !m_lost; ++k) {
            part.tip = k == n ? *to : arc.at(static_cast<double>(k) / n);
            if (joints) setStraightPlace(m_machine, part, part.tip);
            move(part, s);
        }
    }
    void move(const Act& a, const ControlState& s) {
        if (m_stretches.empty() || m_lost) {
            if (m_stretches.empty() && !a.rapid) stop(a.line, "program-state", "it cuts before any tool is loaded", "what is in the spindle is not known");
            if (m_stretches.empty()) {
                const JointValues from = m_now;
                follow(a);
                for (std::size_t j = 0; j < from.size(); ++j)
                    if (m_now[j] != from[j] && !(m_machine.joints[j].name == "Z" && m_now[j] >= from[j]))
                        stop(a.line, "program-state", "it moves before any tool is loaded", "what is in the spindle is not known; only up to the top of Z is safe");
            }
            return;
        }
        frames(a, s);
        if (!a.rapid) states(a, s);
        if (m_positions == Positions::TipAndAxis) return onTip(a, a.tip + m_input.zero, a.axis);
        if (m_positions == Positions::Joints || a.machine) return toJoints(a, s, a.joints);
        if (!a.tip.allFinite()) {
            m_lost = true;
            return lost(a.line, "a place of the tip is not said since the tool was changed or the length was put off");
        }
        if (!tipKnown(a, s)) return;
        throughTip(a, s, inPart(s, a.tip));
    }
    [[nodiscard]] bool tipKnown(const Act& a, const ControlState& s) {
        const bool plane = s.tilted;
        const LengthMode wanted = plane ? LengthMode::Plain : LengthMode::TipControl;
        if (s.length != wanted) {
            m_lost = true;
            lost(a.line, "it moves in the part's coordinates without the tool's length");
            return false;
        }
        if (s.lengthRegister != 0 && s.lengthRegister != s.tool)
            stop(a.line, "program-state", fmt::format("it takes the length of tool {} while tool {} is loaded", s.lengthRegister, s.tool),
                 "the tip stands higher or lower than the program says");
        return true;
    }
    [[nodiscard]] Vec3 inPart(const ControlState& s, const Vec3& tip) const {
        if (!s.tilted) return tip + m_input.zero;
        return planeTurn(m_input.spelling ? m_input.spelling->planeAngles : PlaneAngles::Turning, {s.tilt[3], s.tilt[4], s.tilt[5]}) * tip +
               Vec3(s.tilt[0], s.tilt[1], s.tilt[2]) + m_input.zero;
    }
    /// Before the first tool: only where the joints go counts.
    void follow(const Act& a) {
        for (std::size_t j = 0; j < m_now.size(); ++j)
            if (!std::isnan(a.joints[j]) && (m_positions == Positions::Joints || a.machine)) m_now[j] = a.joints[j];
    }

    [[nodiscard]] JointValues aimed(const std::array<double, kMostJoints>& words, bool rotariesAlone) const {
        JointValues to = m_now;
        for (std::size_t j = 0; j < to.size(); ++j) {
            const Joint& joint = m_machine.joints[j];
            if (std::isnan(words[j]) || (rotariesAlone && joint.kind != JointKind::Rotary)) continue;
            to[j] = joint.kind == JointKind::Rotary ? m_now[j] + turnOf(joint, m_now[j], words[j]) : words[j];
        }
        return to;
    }
    void toJoints(const Act& a, const ControlState& s, const std::array<double, kMostJoints>& words) {
        const JointValues from = m_now, to = aimed(words, false);
        clamps(a, s, from, to);
        const int n = parts(from, to);
        for (int k = 1; k <= n; ++k) {
            const double t = static_cast<double>(k) / n;
            JointValues q = to;
            for (std::size_t j = 0; j < q.size() && k < n; ++j) q[j] = from[j] + t * (to[j] - from[j]);
            add(a, s, q);
        }
    }
    /// The tip goes straight, the rotaries turn evenly.
    void throughTip(const Act& a, const ControlState& s, const Vec3& tip) {
        const JointValues from = m_now, to = aimed(a.joints, true);
        clamps(a, s, from, to);
        const Vec3 start = m_kinematics->forward(from).tip;
        const int n = parts(from, to);
        const std::vector<int>& rotaries = m_kinematics->rotaries();
        for (int k = 1; k <= n; ++k) {
            const double t = static_cast<double>(k) / n;
            std::array<double, 2> turned{0.0, 0.0};
            for (std::size_t r = 0; r < rotaries.size(); ++r) turned[r] = from[index(rotaries[r])] + t * (to[index(rotaries[r])] - from[index(rotaries[r])]);
            add(a, s, m_kinematics->jointsFor(start + t * (tip - start), turned[0], turned[1]));
        }
    }
    [[nodiscard]] int parts(const JointValues& from, const JointValues& to) {
        double most = 0.0;
        for (std::size_t j = 0; j < from.size(); ++j)
            if (m_machine.joints[j].kind == JointKind::Rotary) most = std::max(most, std::abs(to[j] - from[j]));
        return m_parts = std::clamp(static_cast<int>(std::ceil(most / kTurnAtOnce)), 1, kMostParts);
    }
    void clamps(const Act& a, const ControlState& s, const JointValues& from, const JointValues& to) {
        for (std::size_t j = 0; j < from.size(); ++j)
            if ((s.clamped >> j & 1u) != 0 && std::abs(to[j] - from[j]) > 1e-6)
                stop(a.line, "program-state", fmt::format("{} turns while it is clamped", m_machine.joints[j].name), "nothing opens its clamp before it");
    }
    void add(const Act& a, const ControlState& s, const JointValues& q) {
        if (m_out.moves >= kMostMoves) {
            m_lost = true;
            return lost(a.line, "there are more moves than can be proven");
        }
        Stretch& to = m_stretches.back();
        for (std::size_t j = 0; j < q.size(); ++j) {
            const Joint& joint = m_machine.joints[j];
            if (endless(joint)) continue;
            const double over = std::max(joint.low - q[j], q[j] - joint.high);
            const bool rotary = joint.kind == JointKind::Rotary;
            if (over > (rotary ? 1e-6 : 1e-3))
                stop(a.line, "program-travel", fmt::format("{} leaves its travel, first by {:.3f}{}", joint.name, rotary ? degrees(over) : over, rotary ? "°" : " mm"),
                     "the control stops there, or the axis runs into its end");
        }
        const ToolPose pose = m_kinematics->forward(q);
        push(a, s, pose.tip, pose.axis);
        to.motion.joints = q.size();
        to.motion.values.insert(to.motion.values.end(), q.begin(), q.end());
        m_now = q;
    }
    /// Out along its own axis, and back in as far as it was fed since it moved aside, a rapid goes where the tool has been: like a cut it may touch the part,
    /// and not enter it.
    Motion motionOf(const Act& a, const Toolpath& path, const Vec3& tip, const Vec3& axis) {
        constexpr double kStraight = 5e-4, kAsDeep = 1e-3, kTurned = 1e-6; // mm, mm, rad: what rounding makes of it
        const Vec3 way = path.empty() ? Vec3::Zero() : Vec3(tip - path.tip.back());
        const double along = way.dot(axis), height = tip.dot(axis);
        const bool axial = !path.empty() && (way - along * axis).norm() < kStraight && angleBetween(axis, path.axis.back()) < kTurned;
        if (!axial) m_fedTo = 1e300;
        if (!a.rapid) {
            m_fedTo = std::min(m_fedTo, height);
            return Motion::Cut;
        }
        if (axial && along >= 0.0) return Motion::Retract;
        return axial && height >= m_fedTo - kAsDeep ? Motion::Plunge : Motion::Rapid;
    }
    void push(const Act& a, const ControlState& s, const Vec3& tip, const Vec3& axis) {
        Stretch& to = m_stretches.back();
        const double way = to.path.empty() ? 0.0 : (tip - to.path.tip.back()).norm(), unit = s.units == 20 ? 25.4 : 1.0;
        const double feed = s.feedMode == FeedMode::InverseTime ? a.feed * way * m_parts : s.feedMode == FeedMode::PerTurn ? a.feed * unit * s.speed : a.feed * unit;
        const Motion kind = motionOf(a, to.path, tip, axis);
        if (kind != Motion::Rapid && (to.path.empty() || to.path.motion.back() == Motion::Rapid)) ++m_pass;
        to.path.push(tip, axis, kind, m_pass, a.rapid ? static_cast<double>(kRapidFeed) : std::max(1e-3, feed));
        to.lines.push_back(a.line);
        ++m_out.moves;
    }
    void onTip(const Act& a, const Vec3& tip, const Vec3& axis) {
        if (!tip.allFinite() || !axis.allFinite() || std::abs(axis.norm() - 1.0) > 1e-3) {
            m_lost = true;
            return lost(a.line, "the tip or the axis is not said");
        }
        push(a, m_program.stateOf(a), tip, axis.normalized());
    }

    /// A cycle stroke by stroke.
    void cycle(const Act& a, const ControlState& s) {
        if (m_stretches.empty() || m_lost) return;
        frames(a, s);
        states(a, s);
        const int z = m_machine.find("Z");
        const bool plane = m_positions == Positions::Tip;
        if (plane && !tipKnown(a, s)) return;
        Act stroke = a;
        const auto go = [&](double height, bool rapid) {
            stroke.rapid = rapid;
            if (m_positions == Positions::TipAndAxis) return onTip(stroke, a.tip + m_input.zero + height * a.axis, a.axis);
            if (plane) return throughTip(stroke, s, inPart(s, Vec3(a.tip.x(), a.tip.y(), height)));
            if (z < 0) return;
            stroke.joints[index(z)] = height;
            toJoints(stroke, s, stroke.joints);
        };
        go(a.top, true);
        for (const Stroke& each : strokes(a.cycle, 0.0, a.top - a.bottom, a.peck)) go(a.top - each.depth, each.rapid);
    }

    /// The operation that most of its lines were written for.
    void name(Stretch& s, const std::map<int, std::uint32_t>& writtenFor) const {
        std::map<std::uint32_t, std::size_t> votes;
        int last = 0;
        for (const int line : s.lines) {
            if (line == last) continue;
            last = line;
            if (const auto it = writtenFor.find(line); it != writtenFor.end()) ++votes[it->second];
        }
        const auto best = std::max_element(votes.begin(), votes.end(), [](const auto& x, const auto& y) { return x.second < y.second; });
        if (best != votes.end()) {
            s.written = &m_input.operations[best->first];
            return;
        }
        for (const PostOperation& op : m_input.operations)
            if (op.toolNumber == s.tool) {
                s.written = &op;
                return;
            }
    }

    const Program& m_program;
    const PostInput& m_input;
    const Machine& m_machine;
    const Workplace& m_place;
    const Positions m_positions;
    EditedProgram& m_out;
    std::optional<Kinematics> m_kinematics;
    JointValues m_now;
    std::vector<Stretch> m_stretches;
    std::set<std::pair<std::string, std::string>> m_said;
    const Act* m_before = nullptr;
    bool m_lost = false;
    int m_pass = -1;
    int m_parts = 1;        ///< of the block in hand
    double m_fedTo = 1e300; ///< along the axis, since it moved aside: how deep the tool was fed
};

} // namespace

std::vector<Stretch> followed(const Program& program, const PostInput& input, const Workplace& place, const std::map<int, std::uint32_t>& writtenFor,
                              EditedProgram& out) {
    return Following(program, input, place, out).run(writtenFor);
}

} // namespace gyre
