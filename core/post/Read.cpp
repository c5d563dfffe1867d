#include "base/Units.h"
#include "post/JointWords.h"
#include <charconv>
#include <fmt/format.h>
#include <map>
#include <set>
#include <sstream>
#include <unordered_map>

namespace gyre {
namespace {

constexpr std::size_t kMostLines = 20'000'000, kLongestLine = 2000;

tl::unexpected<Error> badLine(int line, const std::string& what) { return fail(what, fmt::format("line {}", line)); }

Result<double> value(std::string_view text, int line) {
    double v = 0.0;
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (ec != std::errc{} || end != text.data() + text.size() || !(std::abs(v) < 1e9))
        return badLine(line, fmt::format("'{}' is not a number", std::string(text.substr(0, 40))));
    return v;
}

class Rs274Reader {
public:
    explicit Rs274Reader(const Machine& machine) : m_machine(machine), m_joints(machine.joints.size(), 0.0) { m_out.dialect = Dialect::Joints; }

    Status line(std::string_view text, int number) {
        // Comments go; the rest must be letter–number pairs.
        std::string code;
        int depth = 0;
        for (char c : text) {
            if (c == '(')
                ++depth;
            else if (c == ')') {
                if (--depth < 0) return badLine(number, "a ')' without a '('");
            } else if (depth == 0 && c != ' ' && c != '\t' && c != '\r')
                code += c;
        }
        if (depth != 0) return badLine(number, "a comment is not closed");
        if (code.empty() || code == "%") return {};
        std::map<std::string, double> axes;
        std::vector<double> g, mCodes;
        std::optional<double> f, t, r, q, p;
        for (std::size_t i = 0; i < code.size();) {
            const char letter = code[i];
            if (!std::isalpha(static_cast<unsigned char>(letter))) return badLine(number, fmt::format("a letter is expected before '{}'", code.substr(i, 20)));
            std::size_t end = i + 1;
            while (end < code.size() && !std::isalpha(static_cast<unsigned char>(code[end]))) ++end;
            const auto v = value(std::string_view(code).substr(i + 1, end - i - 1), number);
            if (!v) return tl::unexpected(v.error());
            i = end;
            switch (letter) {
            case 'N':
            case 'S':
            case 'H':
                break;
            case 'R':
                r = *v;
                break;
            case 'Q':
                q = *v;
                break;
            case 'P':
                p = *v;
                break;
            case 'G':
                g.push_back(*v);
                break;
            case 'M':
                mCodes.push_back(*v);
                break;
            case 'F':
                f = *v;
                break;
            case 'T':
                t = *v;
                break;
            default:
                if (m_machine.find(std::string(1, letter)) < 0 && letter != 'X' && letter != 'Y' && letter != 'Z')
                    return badLine(number, fmt::format("the machine has no axis {}", letter));
                if (!axes.emplace(std::string(1, letter), *v).second) return badLine(number, fmt::format("{} stands twice in one block", letter));
            }
        }
        bool g53 = false, wait = false;
        for (double v : g) {
            const int tenths = static_cast<int>(std::lround(v * 10.0));
            switch (tenths) {
            case 0:
                m_rapid = true;
                m_cycle = 0;
                break;
            case 10:
                m_rapid = false;
                m_cycle = 0;
                break;
            case 730:
            case 810:
            case 820:
            case 830:
            case 840:
            case 850:
            case 890:
                m_cycle = tenths / 10;
                break;
            case 800:
                m_cycle = 0;
                break;
            case 990:
                break;
            case 530:
                g53 = true;
                break;
            case 434:
                m_tip = true;
                m_out.dialect = Dialect::TipControl;
                break;
            case 490:
                m_tip = false;
                break;
            case 930:
                m_inverse = true;
                break;
            case 940:
                m_inverse = false;
                break;
            case 40:
                wait = true;
                break;
            case 170:
            case 210:
            case 400:
            case 900:
                break;
            default:
                return badLine(number, fmt::format("G{:g} is not understood", v));
            }
        }
        for (double v : mCodes)
            if (v != 3.0 && v != 5.0 && v != 6.0 && v != 30.0 && !clamps(static_cast<int>(v))) return badLine(number, fmt::format("M{:g} is not understood", v));
        if (t) m_tool = static_cast<int>(std::clamp(*t, 0.0, 1e6));
        if (f) m_feed = *f;
        if (p && !(*p >= 0.0 && *p <= 3600.0)) return badLine(number, "P must be between 0 and 3600 s");
        if (wait) {
            if (!p || !axes.empty()) return badLine(number, "G4 stands by itself, with P");
            if (!m_out.moves.empty()) m_out.moves.back().dwell = *p;
            return {};
        }
        if (axes.empty()) return {};
        if (m_cycle != 0) return cycle(axes, r, q, p, number);
        if (p) return badLine(number, "P belongs to a cycle or to G4");
        if (r || q) return badLine(number, "R and Q belong to a cycle");
        if (m_inverse && !m_rapid && !g53 && !f) return badLine(number, "inverse time needs an F in every cutting block");
        ReadMove move;
        move.line = number;
        move.rapid = m_rapid;
        move.machineCoordinates = g53;
        move.feed = m_feed;
        move.inverseTime = m_inverse;
        move.tool = m_tool;
        for (const auto& [letter, v] : axes) {
            const int j = m_machine.find(letter);
            const bool rotary = j >= 0 && m_machine.joints[static_cast<std::size_t>(j)].kind == JointKind::Rotary;
            const bool slide = letter == "X" || letter == "Y" || letter == "Z";
            if (m_tip && !g53 && !rotary && slide)
                m_position[letter[0] - 'X'] = v;
            else if (j < 0)
                return badLine(number, fmt::format("the machine has no axis {}", letter));
            else {
                double& at = m_joints[static_cast<std::size_t>(j)];
                const double before = at;
                // An angle within one turn is reached by the shorter way.
                at = !rotary ? v : m_machine.joints[static_cast<std::size_t>(j)].shortest ? at + std::remainder(radians(v) - at, 2.0 * kPi) : radians(v);
                if (m_clamped.count(j) && std::abs(at - before) > 1e-9) return badLine(number, fmt::format("{} is moved while it is clamped", letter));
            }
        }
        move.tip = m_position;
        move.joints = m_joints;
        m_out.moves.push_back(std::move(move));
        return {};
    }
    /// One block of a cycle in machine coordinates: every stroke as a move of its own.
    Status cycle(const std::map<std::string, double>& axes, const std::optional<double>& r, const std::optional<double>& q, const std::optional<double>& p, int number) {
        const int z = m_machine.find("Z");
        if (z < 0 || m_tip || m_inverse) return badLine(number, "a cycle is not understood here: it needs feed per minute and machine coordinates");
        if (r) m_return = *r;
        if (q) m_peck = *q;
        if (p) m_wait = *p;
        if (m_cycle != 82 && m_cycle != 89) m_wait = 0.0;
        if (!r && !m_return) return badLine(number, "a cycle needs R");
        const bool pecks = m_cycle == 83 || m_cycle == 73;
        if (pecks && !(m_peck > 0.0)) return badLine(number, "this cycle needs Q above 0");
        for (const auto& [letter, v] : axes) {
            const int j = m_machine.find(letter);
            if (j < 0 || m_machine.joints[static_cast<std::size_t>(j)].kind == JointKind::Rotary) return badLine(number, "only X, Y and Z move in a cycle");
            if (letter == "Z")
                m_bottom = v;
            else if (std::abs(m_joints[static_cast<std::size_t>(j)] - v) > 1e-3)
                return badLine(number, "the tool does not stand over the hole");
        }
        if (!(m_bottom < *m_return)) return badLine(number, "the hole's bottom lies above R");
        if ((*m_return - m_bottom) / (pecks ? m_peck : 1e9) > 1e5) return badLine(number, "a cycle with over 100 000 pecks");
        const Cycle kind = m_cycle == 83 ? Cycle::Peck : m_cycle == 73 ? Cycle::ChipBreak : m_cycle == 84 ? Cycle::Tap : m_cycle >= 85 ? Cycle::Bore : Cycle::Drill;
        for (const Stroke& s : strokes(kind, 0.0, *m_return - m_bottom, m_peck)) {
            m_joints[static_cast<std::size_t>(z)] = *m_return - s.depth;
            ReadMove move;
            move.line = number;
            move.rapid = s.rapid;
            move.feed = m_feed;
            move.ofCycle = true;
            if (*m_return - s.depth <= m_bottom + 1e-9) move.dwell = m_wait;
            move.tool = m_tool;
            move.tip = m_position;
            move.joints = m_joints;
            m_out.moves.push_back(std::move(move));
        }
        return {};
    }
    ReadProgram take() { return std::move(m_out); }

private:
    /// A clamp's code closes or opens it. @return false when it is none
    bool clamps(int code) {
        bool any = false;
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j) {
            if (m_machine.joints[j].clampCode <= 0) continue;
            if (code == m_machine.joints[j].clampCode) m_clamped.insert(static_cast<int>(j));
            if (code == m_machine.joints[j].freeCode) m_clamped.erase(static_cast<int>(j));
            any = any || code == m_machine.joints[j].clampCode || code == m_machine.joints[j].freeCode;
        }
        return any;
    }
    std::set<int> m_clamped;
    const Machine& m_machine;
    ReadProgram m_out;
    std::vector<double> m_joints;
    Vec3 m_position = Vec3::Zero();
    bool m_rapid = true, m_tip = false, m_inverse = false;
    double m_feed = 0.0;
    int m_tool = 0;
    int m_cycle = 0; ///< number of the cycle that is on; 0: none
    std::optional<double> m_return;
    double m_bottom = 0.0, m_peck = 0.0, m_wait = 0.0;
};

class CutterDataReader {
public:
    CutterDataReader() { m_out.dialect = Dialect::CutterData; }
    Status line(std::string_view text, int number) {
        while (!text.empty() && (text.back() == '\r' || text.back() == ' ')) text.remove_suffix(1);
        const auto slash = text.find('/');
        const std::string_view word = text.substr(0, slash);
        std::vector<std::string_view> fields;
        if (slash != std::string_view::npos) {
            auto rest = text.substr(slash + 1);
            while (true) {
                const auto comma = rest.find(',');
                fields.push_back(rest.substr(0, comma));
                if (comma == std::string_view::npos || fields.size() > 32) break;
                rest = rest.substr(comma + 1);
            }
        }
        const auto at = [&](std::size_t i) -> Result<double> {
            if (i >= fields.size()) return badLine(number, fmt::format("{} needs more values", std::string(word.substr(0, 20))));
            return value(fields[i], number);
        };
        if (word == "RAPID")
            m_rapid = true;
        else if (word == "FEDRAT") {
            const auto f = at(0);
            if (!f) return tl::unexpected(f.error());
            m_feed = *f;
        } else if (word == "LOADTL") {
            const auto t = at(0);
            if (!t) return tl::unexpected(t.error());
            m_tool = static_cast<int>(std::clamp(*t, 0.0, 1e6));
        } else if (word == "GOTO") {
            ReadMove move;
            for (std::size_t k = 0; k < 6; ++k) {
                const auto v = at(k);
                if (!v) return tl::unexpected(v.error());
                (k < 3 ? move.tip : move.axis)[static_cast<Eigen::Index>(k % 3)] = *v;
            }
            if (!(move.axis.norm() > 0.5 && move.axis.norm() < 2.0)) return badLine(number, "the tool axis is not a unit vector");
            move.axis.normalize();
            move.line = number;
            move.rapid = m_rapid;
            move.feed = m_feed;
            move.tool = m_tool;
            m_out.moves.push_back(move);
            m_rapid = false; // RAPID holds for one motion
        } else if (word == "DELAY") {
            const auto s = at(0);
            if (!s) return tl::unexpected(s.error());
            if (!(*s >= 0.0 && *s <= 3600.0)) return badLine(number, "DELAY must be between 0 and 3600 s");
            if (!m_out.moves.empty()) m_out.moves.back().dwell = *s;
        } else if (word != "PARTNO" && word != "PPRINT" && word != "UNITS" && word != "MULTAX" && word != "CUTTER" && word != "SPINDL" && word != "FINI" &&
                   !word.empty()) {
            return badLine(number, fmt::format("'{}' is not understood", std::string(word.substr(0, 40))));
        }
        return {};
    }
    ReadProgram take() { return std::move(m_out); }

private:
    ReadProgram m_out;
    bool m_rapid = false;
    double m_feed = 0.0;
    int m_tool = 0;
};

template <class Reader> Result<ReadProgram> readLines(const std::string& text, Reader reader) {
    int number = 0;
    for (std::size_t from = 0; from < text.size();) {
        auto end = text.find('\n', from);
        if (end == std::string::npos) end = text.size();
        if (static_cast<std::size_t>(++number) > kMostLines) return fail(fmt::format("more than {} lines are not read", kMostLines));
        if (end - from > kLongestLine) return badLine(number, fmt::format("the line is longer than {} characters", kLongestLine));
        if (auto ok = reader.line(std::string_view(text).substr(from, end - from), number); !ok) return tl::unexpected(ok.error());
        from = end + 1;
    }
    return reader.take();
}

} // namespace

Result<ReadProgram> readProgram(const std::string& text, const Machine& machine) {
    const auto start = text.find_first_not_of(" \t\r\n");
    if (start == std::string::npos) return fail("the program is empty");
    const bool cutterData = text.compare(start, 7, "PARTNO/") == 0;
    auto read = cutterData ? readLines(text, CutterDataReader()) : readLines(text, Rs274Reader(machine));
    if (read && read->moves.empty()) return fail("the program moves nothing");
    if (read) {
        const auto tail = text.find_last_not_of(" \t\r\n%");
        const std::string last = text.substr(tail == std::string::npos || tail < 3 ? 0 : tail - 3, 4);
        if (cutterData ? last != "FINI" : last.find("M30") == std::string::npos)
            return fail(cutterData ? "the program is cut short: FINI is missing" : "the program is cut short: M30 is missing");
    }
    return read;
}

ReplayReport compareProgram(const ReadProgram& program, const PostInput& input, const PostDigits& d) {
    ReplayReport report;
    const double roundLength = 0.5 * std::pow(10.0, -d.length), roundAngle = radians(0.5 * std::pow(10.0, -d.angle));
    const bool cl = program.dialect == Dialect::CutterData;
    report.allowedTip = (cl ? 0.01 : 1.0) * std::sqrt(3.0) * roundLength + 1e-9;
    report.allowedRotary = roundAngle + 1e-12;
    report.allowedAxis = cl ? 1e-8 : 2.0 * roundAngle + 1e-9;
    std::vector<const ReadMove*> moves;
    for (const auto& m : program.moves)
        if (!m.machineCoordinates) moves.push_back(&m);
    report.moves = moves.size();
    const auto differ = [&](int line, const std::string& what) {
        if (report.differences.empty()) report.worstLine = line;
        if (report.differences.size() < 20) report.differences.push_back(line > 0 ? fmt::format("line {}: {}", line, what) : what);
    };
    const auto& joints = input.machine->joints;
    std::size_t at = 0;
    for (const PostOperation& op : input.operations) {
        const Toolpath& path = op.result->links->path;
        const JointMotion& motion = *op.result->motion;
        const Kinematics kinematics(*input.machine, input.partFrame, op.result->tool.gaugeLength());
        const std::size_t count = program.dialect == Dialect::Joints ? motion.size() : path.size();
        std::vector<double> turned(joints.size(), 0.0);
        std::unordered_map<std::size_t, double> dwells; // after the last step of these locations
        for (const CycleRun& run : cyclesOf(*op.result)) dwells.emplace(run.bottom, run.dwell);
        for (std::size_t i = 0; i < count; ++i, ++at) {
            if (at >= moves.size()) {
                differ(0, fmt::format("the program ends after {} moves; {} are missing in {}", moves.size(), count - i, op.name));
                return report;
            }
            const ReadMove& move = *moves[at];
            const std::size_t loc = program.dialect == Dialect::Joints ? motion.location[i] : i;
            const std::size_t step = program.dialect == Dialect::Joints ? i : motion.stepOf[i];
            const bool rapid = path.feed[loc] <= 0.0f || (program.dialect == Dialect::Joints && i == 0);
            if (rapid != move.rapid) differ(move.line, rapid ? "cuts where a rapid is meant" : "is a rapid where a cut is meant");
            const auto wait = motion.stepOf[loc] == step ? dwells.find(loc) : dwells.end();
            if (const double wanted = wait == dwells.end() ? 0.0 : wait->second; std::abs(move.dwell - wanted) > 6e-4)
                differ(move.line, fmt::format("waits {:.3f} s where {:.3f} s are meant", move.dwell, wanted));
            if (move.tool != op.toolNumber) differ(move.line, fmt::format("tool {} in place of {}", move.tool, op.toolNumber));
            if (program.dialect != Dialect::Joints) {
                const double off = (move.tip + input.zero - path.tip[i]).norm();
                report.tip = std::max(report.tip, off);
                if (off > report.allowedTip) differ(move.line, fmt::format("the tip is {:.5f} mm aside", off));
            }
            if (cl) {
                const double lean = angleBetween(move.axis, path.axis[i]);
                report.axis = std::max(report.axis, lean);
                if (lean > report.allowedAxis) differ(move.line, fmt::format("the axis leans by {:.6f}°", degrees(lean)));
            } else {
                for (std::size_t j = 0; j < joints.size(); ++j) {
                    const bool rotary = joints[j].kind == JointKind::Rotary;
                    if (!rotary && program.dialect == Dialect::TipControl) continue;
                    double off = move.joints[j] - motion.at(step)[j];
                    if (joints[j].shortest && i == 0) turned[j] = 2.0 * kPi * std::round(off / (2.0 * kPi)); // where it was before is not known
                    off = std::abs(off - turned[j]);
                    (rotary ? report.rotary : report.linear) = std::max(rotary ? report.rotary : report.linear, off);
                    if (off > (rotary ? report.allowedRotary : roundLength + 1e-9))
                        differ(move.line, fmt::format("{} is {:.5f}{} off", joints[j].name, rotary ? degrees(off) : off, rotary ? "°" : " mm"));
                }
                if (program.dialect == Dialect::Joints && !rapid && !move.ofCycle && i > 0) {
                    const double wanted = jointFeedWord(*input.machine, motion, i), off = std::abs(move.feed - wanted);
                    report.feed = std::max(report.feed, off / std::max(wanted, 1e-9));
                    if (off > 0.5 * std::pow(10.0, -feedDigits(wanted)) + 1e-9 * wanted)
                        differ(move.line, fmt::format("F is {:.3f} where {:.3f} is meant", move.feed, wanted));
                    if (move.inverseTime != (input.machine->jointFeed == JointFeed::InverseTime)) differ(move.line, "the feed is given in the other mode");
                }
                // What the joints say, seen from the part: tip and axis again.
                if (program.dialect == Dialect::Joints) {
                    const ToolPose said = kinematics.forward(move.joints), meant = kinematics.forward(motion.jointsAt(step));
                    report.tip = std::max(report.tip, (said.tip - meant.tip).norm());
                    report.axis = std::max(report.axis, angleBetween(said.axis, meant.axis));
                }
            }
        }
    }
    if (at < moves.size()) differ(moves[at]->line, fmt::format("the program has {} moves more than the job", moves.size() - at));
    return report;
}

} // namespace gyre
