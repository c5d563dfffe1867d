// What was read against what is meant: act by act, and the state each is done in.
#include "base/Text.h"
#include "base/Units.h"
#include "post/Words.h"
#include <fmt/format.h>

namespace gyre {
namespace {

const char* kindName(Act::Kind k) {
    static constexpr const char* kNames[] = {"a move",           "a cycle", "a wait", "a tool change", "a check of the tool's length", "a line of the shop's own",
                                             "the program's end"};
    return kNames[static_cast<int>(k)];
}
std::string code(int g) { return g == 0 ? std::string("unsaid") : fmt::format("G{}", g); }
std::string name(FeedMode m) {
    return m == FeedMode::PerMinute ? "per minute (G94)" : m == FeedMode::InverseTime ? "in inverse time (G93)" : m == FeedMode::PerTurn ? "per turn (G95)" : "unsaid";
}
std::string name(const ControlState& s, LengthMode m) {
    return m == LengthMode::None         ? "off (G49)"
           : m == LengthMode::TipControl ? fmt::format("tip control with register {}", s.lengthRegister)
           : m == LengthMode::Plain      ? fmt::format("on with register {}", s.lengthRegister)
                                         : "unsaid";
}
std::string spindle(const ControlState& s) {
    return s.turning == Turning::Off ? std::string("off") : fmt::format("{:g}/min {}", s.speed, s.turning == Turning::Clockwise ? "clockwise" : "counter-clockwise");
}

class Comparison {
public:
    Comparison(const Program& read, const Program& meant, const PostInput& input)
        : m_read(read), m_meant(meant), m_input(input), m_positions(kindOf(meant.dialect).positions), m_cl(m_positions == Positions::TipAndAxis),
          m_speller(spellingOf(input, meant.dialect), *input.machine, input.words) {
        const PostDigits d = input.words.digits();
        m_step = std::pow(10.0, -d.length) * input.words.unit();
        m_degrees = std::pow(10.0, -d.angle);
        m_length = 0.5 * m_step + 1e-9;
        m_tip = (m_cl ? 0.01 : 1.0) * m_length + 1e-9;
        m_angle = radians(0.5 * std::pow(10.0, -d.angle)) + 1e-12;
    }

    ReplayReport run() {
        const std::vector<const Act*> read = withoutNotes(m_read), meant = withoutNotes(m_meant);
        const std::size_t n = std::min(read.size(), meant.size());
        m_report.moves = read.size();
        for (std::size_t i = 0; i < n && m_report.differences.size() < kMost; ++i) act(*read[i], *meant[i]);
        if (read.size() < meant.size())
            differ(n > 0 ? read[n - 1]->line : 0,
                   fmt::format("after it {} of {} steps are missing, in {}", meant.size() - n, meant.size(), m_input.operations[meant[n]->operation].name));
        if (read.size() > meant.size()) differ(read[n]->line, fmt::format("the program has {} steps more than the job", read.size() - n));
        for (const Act* a : read) m_report.own += a->kind == Act::Kind::Own;
        m_report.unread = m_read.takenAsMade.size();
        m_report.strays = m_meant.strays;
        if (m_read.goesOn > 0) differ(m_read.goesOn, "words behind the program's end are never run");
        return std::move(m_report);
    }

private:
    static constexpr std::size_t kMost = 20;
    /// Comments of the shop's own do nothing.
    [[nodiscard]] std::vector<const Act*> withoutNotes(const Program& program) const {
        std::vector<const Act*> out;
        out.reserve(program.acts.size());
        for (const Act& a : program.acts)
            if (a.kind != Act::Kind::Own || !m_speller.isComment(program.own[a.own])) out.push_back(&a);
        return out;
    }
    void differ(int line, const std::string& what) {
        if (m_report.differences.empty()) m_report.worstLine = line;
        if (m_report.differences.size() < kMost) m_report.differences.push_back(line > 0 ? fmt::format("line {}: {}", line, what) : what);
    }

    void act(const Act& a, const Act& b) {
        if (a.state != m_lastRead || b.state != m_lastMeant) {
            states(a.line, m_read.stateOf(a), m_meant.stateOf(b));
            m_lastRead = a.state;
            m_lastMeant = b.state;
        }
        if (a.kind != b.kind) {
            differ(a.line, fmt::format("{} where {} is meant", kindName(a.kind), kindName(b.kind)));
            return;
        }
        if (a.kind == Act::Kind::Own) {
            const std::string_view is = trimmed(m_read.own[a.own]), wanted = trimmed(m_meant.own[b.own]);
            if (is != wanted) differ(a.line, fmt::format("'{}' stands where '{}' is meant", is, wanted));
            return;
        }
        places(a, b);
        if (a.kind == Act::Kind::Move) {
            ways(a, b);
            if (a.rapid != b.rapid) differ(a.line, b.rapid ? "cuts where a rapid is meant" : "is a rapid where a cut is meant");
            if (a.machine != b.machine)
                differ(a.line, b.machine ? "counts from the program's zero where the machine's is meant (G53)"
                                         : "counts from the machine's zero (G53) where the program's is meant");
        }
        if (a.rapid == b.rapid) feeds(a, b);
        if (std::abs(a.seconds - b.seconds) > 6e-4 || !onGrid(a.seconds, 1e-3))
            differ(a.line, fmt::format("waits {:.3f} s where {:.3f} s are meant", a.seconds, b.seconds));
        if (a.kind == Act::Kind::Cycle) cycles(a, b);
        if (a.kind == Act::Kind::LengthCheck && !(std::abs(a.gauge - b.gauge) <= m_length))
            differ(a.line, fmt::format("checks for a gauge length of {:.4f} where {:.4f} is meant", a.gauge, b.gauge));
    }

    /// Straight, or round which way.
    void ways(const Act& a, const Act& b) {
        const auto way = [](const Act& x) { return x.arc == 0 ? "straight" : x.arc > 0 ? "round counter-clockwise" : "round clockwise"; };
        if (a.arc != b.arc) differ(a.line, fmt::format("goes {} where {} is meant", way(a), way(b)));
        if (b.arc == 0) return;
        ++m_report.arcs;
        for (int k = 0; a.arc != 0 && k < 3; ++k)
            if (!(std::abs(a.centre[k] - b.centre[k]) <= m_length) || !onGrid(a.centre[k], m_step))
                differ(a.line, fmt::format("the arc's centre is {:.5f} from its beginning along {} where {:.5f} is meant", a.centre[k], "XYZ"[k], b.centre[k]));
    }

    void feeds(const Act& a, const Act& b) {
        const bool tap = b.kind == Act::Kind::Cycle && b.cycle == Cycle::Tap;
        const double wanted = b.feed > 0.0 ? feedSaid(b.feed, tap) : 0.0, off = std::abs(a.feed - wanted);
        if (off <= 1e-9 * std::max(1.0, wanted)) return;
        m_report.feed = std::max(m_report.feed, off / std::max(wanted, 1e-9));
        differ(a.line, a.feed > 0.0 ? fmt::format("F is {:g} where {:g} is meant", a.feed, wanted) : fmt::format("has no feed; F{:g} is meant", wanted));
    }

    void cycles(const Act& a, const Act& b) {
        if (a.cycle != b.cycle) differ(a.line, fmt::format("the cycle is to {} where to {} is meant", cycleName(a.cycle), cycleName(b.cycle)));
        const auto height = [&](double x, double y, const char* what) {
            if (!(std::abs(x - y) <= m_length) || !onGrid(x, m_step)) differ(a.line, fmt::format("{} is {:.4f} where {:.4f} is meant", what, x, y));
        };
        height(a.top, b.top, "the cycle's R");
        height(a.bottom, b.bottom, "the hole's bottom");
        height(a.peck, b.peck, "the peck");
    }

    void places(const Act& a, const Act& b) {
        const auto said = [](double v) { return std::isnan(v) ? std::string("unsaid") : fmt::format("{:.5f}", v); };
        if (m_positions != Positions::Joints) {
            for (int k = 0; k < 3; ++k) {
                const bool known = !std::isnan(a.tip[k]), wanted = !std::isnan(b.tip[k]);
                const double off = known && wanted ? std::abs(a.tip[k] - b.tip[k]) : known == wanted ? 0.0 : 1e9;
                if (off < 1e9) m_report.tip = std::max(m_report.tip, off);
                if (off > m_tip || (known && !onGrid(a.tip[k], m_cl ? 0.01 * m_step : m_step)))
                    differ(a.line, fmt::format("{} of the tip is {} where {} is meant", "XYZ"[k], said(a.tip[k]), said(b.tip[k])));
            }
        }
        if (m_cl) {
            const double lean = b.axis.squaredNorm() > 0.0 && a.axis.squaredNorm() > 0.0 ? angleBetween(a.axis, b.axis) : a.axis == b.axis ? 0.0 : kPi;
            m_report.axis = std::max(m_report.axis, lean);
            const double ulp = 0.5 * std::pow(10.0, -m_input.words.digits().axis) + 1e-12;
            if (!((a.axis - b.axis).cwiseAbs().maxCoeff() <= ulp)) differ(a.line, fmt::format("the axis leans by {:.6f}°, or is no unit vector", degrees(lean)));
            return;
        }
        const auto& joints = m_input.machine->joints;
        for (std::size_t j = 0; j < joints.size(); ++j) {
            const bool rotary = joints[j].kind == JointKind::Rotary;
            const bool known = !std::isnan(a.joints[j]), wanted = !std::isnan(b.joints[j]);
            if (!known && !wanted) continue;
            double off = known && wanted ? a.joints[j] - b.joints[j] : 1e9;
            // Which turn a control that takes the shorter way has come to is told by nothing.
            if (joints[j].shortest && rotary && known && wanted) off = std::remainder(off, 2.0 * kPi);
            off = std::abs(off);
            if (off < 1e9) (rotary ? m_report.rotary : m_report.linear) = std::max(rotary ? m_report.rotary : m_report.linear, off);
            if (off > (rotary ? m_angle : m_length) || (known && !onGrid(rotary ? degrees(a.joints[j]) : a.joints[j], rotary ? m_degrees : m_step))) {
                const double unit = rotary ? degrees(1.0) : 1.0;
                differ(a.line, fmt::format("{} is {} where {} is meant", joints[j].name, said(a.joints[j] * unit), said(b.joints[j] * unit)));
            }
        }
    }

    /// @param a read, @param b meant
    void states(int line, const ControlState& a, const ControlState& b) {
        const auto tell = [&](const char* what, const std::string& is, const std::string& wanted) {
            if (is != wanted) differ(line, fmt::format("{} is {} where {} is meant", what, is, wanted));
        };
        const auto units = [](int u) { return u == 20 ? "inch" : u == 21 ? "mm" : "unsaid"; };
        tell("the unit", units(a.units), units(b.units));
        tell("the tool in the spindle", std::to_string(a.tool), std::to_string(b.tool));
        tell("the spindle", spindle(a), spindle(b));
        tell("the coolant", coolantName(a.coolant), coolantName(b.coolant));
        tell("the feed", name(a.feedMode), name(b.feedMode));
        if (m_cl) {
            tell("MULTAX", a.multax ? "on" : "off", b.multax ? "on" : "off");
            const auto size = [](const ControlState& s) { return fmt::format("{:.6f} with corner {:.6f}", s.diameter, s.corner); };
            if (std::abs(a.diameter - b.diameter) > m_length || std::abs(a.corner - b.corner) > m_length) tell("the cutter", size(a), size(b));
            return;
        }
        tell("the way of counting", code(a.distance), code(b.distance));
        tell("the plane", code(a.plane), code(b.plane));
        tell("the radius compensation", code(a.radius), code(b.radius));
        tell("the cycle", code(a.cycles), code(b.cycles));
        tell("the return from cycles", code(a.cycleReturn), code(b.cycleReturn));
        tell("the work offset", code(a.offset), code(b.offset));
        tell("the tool length", name(a, a.length), name(b, b.length));
        const auto plane = [](const ControlState& s) {
            return s.tilted ? fmt::format("at {:.5f} {:.5f} {:.5f}, by {:.5f} {:.5f} {:.5f}°{}", s.tilt[0], s.tilt[1], s.tilt[2], s.tilt[3] + 0.0, s.tilt[4] + 0.0,
                                          s.tilt[5] + 0.0, s.aligned ? ", stood square to" : "")
                            : std::string("none");
        };
        tell("the tilted plane", plane(a), plane(b));
        const auto atPoints = [](const ControlState& s) {
            return s.points == AtPoints::ExactStop  ? std::string("exact stops")
                   : s.points == AtPoints::Smoothed ? fmt::format("rounding off within {:.5f}", s.smoothing)
                                                    : "as it stands";
        };
        if (a.points != b.points || std::abs(a.smoothing - b.smoothing) > m_length || !onGrid(a.smoothing, m_step))
            tell("what is done at points", atPoints(a), atPoints(b));
        tell("the tap's coupling", a.rigidTap ? "on" : "off", b.rigidTap ? "on" : "off");
        for (std::size_t j = 0; j < m_input.machine->joints.size(); ++j) {
            const std::uint32_t bit = 1u << j;
            const auto how = [&](const ControlState& s) { return s.clamped & bit ? "clamped" : s.free & bit ? "free" : "unsaid"; };
            tell(m_input.machine->joints[j].name.c_str(), how(a), how(b));
        }
    }

    const Program& m_read;
    const Program& m_meant;
    const PostInput& m_input;
    const Positions m_positions;
    const bool m_cl;
    const Speller m_speller;
    /// Digits beyond those that are written are no rounding.
    static bool onGrid(double v, double step) { return std::abs(v / step - std::round(v / step)) < 1e-3; }
    double m_length = 0.0, m_tip = 0.0, m_angle = 0.0, m_step = 0.0, m_degrees = 0.0;
    std::uint32_t m_lastRead = 0xffffffffu, m_lastMeant = 0xffffffffu;
    ReplayReport m_report;
};

} // namespace

ReplayReport compareProgram(const Program& read, const PostInput& input) {
    const auto meant = intendedProgram(input, read.dialect);
    if (!meant) {
        ReplayReport report;
        report.differences.push_back("the job cannot be written in this dialect: " + meant.error().text());
        return report;
    }
    return Comparison(read, *meant, input).run();
}

} // namespace gyre
