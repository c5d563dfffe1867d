#include "base/Units.h"
#include "post/JointWords.h"
#include "post/Post.h"
#include "proof/Proof.h"
#include <fmt/format.h>
#include <unordered_map>

namespace gyre {

const char* dialectName(Dialect d) { return d == Dialect::TipControl ? "tip" : d == Dialect::Joints ? "joints" : "cldata"; }

Result<Dialect> dialectNamed(const std::string& name) {
    for (Dialect d : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData})
        if (name == dialectName(d)) return d;
    return fail("'" + name + "' is not a dialect", {}, "Use tip, joints or cldata");
}

namespace {

std::string number(double v, int digits) {
    std::string t = fmt::format("{:.{}f}", v, digits);
    if (t.find_first_not_of("-0.") == std::string::npos) t = fmt::format("{:.{}f}", 0.0, digits); // no minus zero
    return t;
}

// Comments hold letters, digits and simple signs only, in capitals: every control reads those.
std::string plain(const std::string& text) {
    std::string out;
    for (char c : text) {
        const auto u = static_cast<unsigned char>(c);
        if (std::isalnum(u))
            out += static_cast<char>(std::toupper(u));
        else if (c == ' ' || c == '-' || c == '.' || c == ',')
            out += c;
    }
    return out;
}

/// Words of a block; a word is left out while it repeats the last one of its letter.
class Block {
public:
    explicit Block(std::string& text) : m_text(text) {}
    void line(const std::string& s) { m_text += fmt::format("N{} {}\n", m_number += 10, s); }
    void forget() { m_last.clear(); }
    void move(const std::string& code, const std::vector<std::pair<std::string, std::string>>& words, const std::string& feed, bool alwaysFeed) {
        std::string s;
        if (code != m_code) s = code;
        m_code = code;
        std::size_t written = 0;
        for (const auto& [letter, value] : words) {
            auto& last = m_last[letter];
            if (last == value) continue;
            last = value;
            s += (s.empty() ? "" : " ") + letter + value;
            ++written;
        }
        // Every location has its line, so that reading back can be compared one by one.
        if (written == 0) s += (s.empty() ? "" : " ") + words.front().first + words.front().second;
        if (!feed.empty() && (alwaysFeed || feed != m_feed)) {
            s += " F" + feed;
            m_feed = feed;
        }
        line(s);
    }
    void newMode() {
        m_code.clear();
        m_feed.clear();
        forget();
    }

private:
    std::string& m_text;
    int m_number = 0;
    std::string m_code, m_feed;
    std::unordered_map<std::string, std::string> m_last;
};

std::string jointWord(const Joint& j, double v, const PostDigits& d) {
    if (j.kind != JointKind::Rotary) return number(v, d.length);
    if (!j.shortest) return number(degrees(v), d.angle);
    double within = std::fmod(degrees(v), 360.0); // one turn; what rounds up to a full one is none
    if (within < 0.0) within += 360.0;
    if (within > 360.0 - 0.5 * std::pow(10.0, -d.angle)) within = 0.0;
    return number(within, d.angle);
}

std::vector<std::pair<std::string, std::string>> jointWords(const Machine& m, const double* q, const PostDigits& d, JointKind kind) {
    std::vector<std::pair<std::string, std::string>> words;
    for (std::size_t j = 0; j < m.joints.size(); ++j)
        if (m.joints[j].kind == kind) words.emplace_back(m.joints[j].name, jointWord(m.joints[j], q[j], d));
    return words;
}

std::string joined(const std::vector<std::pair<std::string, std::string>>& words) {
    std::string s;
    for (const auto& [letter, value] : words) s += " " + letter + value;
    return s;
}

/// The cycle that begins at the step, as one block in machine coordinates; empty where the program must spell it out: when more
/// than Z moves. Feed in mm/min.
std::string cycleWords(const Machine& m, const JointMotion& motion, const CycleRun& run, const DrillSpec& spec, double feed, const PostDigits& d) {
    const int z = m.find("Z");
    if (z < 0 || !spec.canned) return {};
    const double* at = motion.at(motion.stepOf[run.first]);
    double bottom = at[z];
    for (std::size_t s = motion.stepOf[run.first]; s <= motion.stepOf[run.first + run.strokes]; ++s)
        for (std::size_t j = 0; j < motion.joints; ++j) {
            if (static_cast<int>(j) != z && std::abs(motion.at(s)[j] - at[j]) > 1e-7) return {};
            bottom = std::min(bottom, motion.at(s)[z]);
        }
    if (std::abs(at[z] - bottom - run.depth) > 1e-5) return {}; // Z does not run along the tool
    const bool dwell = run.dwell > 0.0;
    std::string code;
    switch (spec.cycle) {
    case Cycle::Peck:
        code = "G83";
        break;
    case Cycle::ChipBreak:
        code = "G73";
        break;
    case Cycle::Bore:
    case Cycle::Ream:
        code = dwell ? "G89" : "G85";
        break;
    case Cycle::Tap:
        code = "G84";
        break;
    default:
        code = dwell ? "G82" : "G81";
    }
    std::string s = "G99 " + code;
    for (const char* axis : {"X", "Y"})
        if (const int j = m.find(axis); j >= 0) s += " " + std::string(axis) + number(at[j], d.length);
    s += " Z" + number(bottom, d.length) + " R" + number(at[z], d.length);
    if (spec.cycle == Cycle::Peck || spec.cycle == Cycle::ChipBreak) s += " Q" + number(spec.peck, d.length);
    if (dwell) s += fmt::format(" P{:.3f}", run.dwell);
    return s + fmt::format(" F{:.2f}", feed);
}

/// Seconds that the tool waits after a location: at the bottom of holes.
std::unordered_map<std::size_t, double> dwellsOf(const OperationResult& result) {
    std::unordered_map<std::size_t, double> out;
    for (const CycleRun& run : cyclesOf(result))
        if (run.dwell > 0.0) out.emplace(run.bottom, run.dwell);
    return out;
}

/// Writes M codes where a clamp closes or opens; remembers across operations.
class Clamps {
public:
    explicit Clamps(const Machine& machine) : m_machine(machine), m_closed(machine.joints.size(), 0) {}
    void begin(const JointMotion& motion, const std::vector<std::size_t>& steps, const std::vector<char>& rapid) {
        m_held = clampedBlocks(m_machine, motion, steps, rapid);
    }
    /// Must something be written before this block?
    [[nodiscard]] bool changes(std::size_t block) const {
        for (std::size_t j = 0; j < m_held.size(); ++j)
            if (!m_held[j].empty() && m_held[j][block] != m_closed[j]) return true;
        return false;
    }
    void before(std::size_t block, Block& out) {
        for (std::size_t j = 0; j < m_held.size(); ++j)
            if (!m_held[j].empty() && m_held[j][block] != m_closed[j]) set(j, m_held[j][block], out);
    }
    void openAll(Block& out) {
        for (std::size_t j = 0; j < m_closed.size(); ++j)
            if (m_closed[j]) set(j, 0, out);
    }

private:
    void set(std::size_t joint, char closed, Block& out) {
        m_closed[joint] = closed;
        out.line(fmt::format("M{}", closed ? m_machine.joints[joint].clampCode : m_machine.joints[joint].freeCode));
    }
    const Machine& m_machine;
    std::vector<char> m_closed;
    std::vector<std::vector<char>> m_held;
};

std::string writeRs274(const PostInput& input, Dialect dialect, const PostDigits& d) {
    const Machine& m = *input.machine;
    const bool tip = dialect == Dialect::TipControl;
    std::string text = fmt::format("%\n({})\n({} - {})\n", plain(input.jobName), plain(m.name),
                                   tip                                   ? "TIP CONTROL"
                                   : m.jointFeed == JointFeed::PerMinute ? "JOINT COORDINATES, FEED PER MINUTE"
                                                                         : "JOINT COORDINATES, INVERSE TIME");
    if (tip && !input.zero.isZero())
        text += fmt::format("(ZERO AT {} {} {} OF THE PART)\n", number(input.zero.x(), d.length), number(input.zero.y(), d.length), number(input.zero.z(), d.length));
    Block block(text);
    Clamps clamps(m);
    const bool perMinute = m.jointFeed == JointFeed::PerMinute;
    block.line("G21 G90 G94 G17 G40 G49");
    const int z = m.find("Z");
    const std::string zTop = z >= 0 ? number(m.joints[static_cast<std::size_t>(z)].high, d.length) : "0";
    for (const PostOperation& op : input.operations) {
        const Toolpath& path = op.result->links->path;
        const JointMotion& motion = *op.result->motion;
        const SafeEnds ends = safeEnds(m, motion);
        text += fmt::format("({})\n(T{} {} - OUT {:.2f})\n", plain(op.name), op.toolNumber, plain(op.result->tool.name), op.result->tool.stickOut);
        block.line("G53 G0 Z" + zTop);
        block.line(fmt::format("T{} M6", op.toolNumber));
        block.line(fmt::format("S{:.0f} M3", op.result->tool.spindleSpeed));
        clamps.openAll(block);
        const auto dwells = dwellsOf(*op.result);
        const auto waitAfter = [&](std::size_t loc) {
            if (const auto d = dwells.find(loc); d != dwells.end()) block.line(fmt::format("G4 P{:.3f}", d->second));
        };
        // At the top of Z the rotaries turn first, then the slides go over the entry.
        if (const auto r = jointWords(m, ends.above.data(), d, JointKind::Rotary); !r.empty()) block.line("G53 G0" + joined(r));
        std::vector<std::pair<std::string, std::string>> over;
        for (const auto& w : jointWords(m, ends.above.data(), d, JointKind::Linear))
            if (w.first != "Z") over.push_back(w);
        block.line("G53 G0" + joined(over));
        block.newMode();
        if (tip) {
            block.line(fmt::format("G43.4 H{}", op.toolNumber));
            std::vector<std::size_t> steps(motion.stepOf.begin(), motion.stepOf.end());
            std::vector<char> quick(path.size());
            for (std::size_t i = 0; i < path.size(); ++i) quick[i] = path.feed[i] <= 0.0f;
            clamps.begin(motion, steps, quick);
            for (std::size_t i = 0; i < path.size(); ++i) {
                clamps.before(i, block);
                const Vec3 at = path.tip[i] - input.zero;
                std::vector<std::pair<std::string, std::string>> words{{"X", number(at.x(), d.length)}, {"Y", number(at.y(), d.length)}, {"Z", number(at.z(), d.length)}};
                const auto r = jointWords(m, motion.at(motion.stepOf[i]), d, JointKind::Rotary);
                words.insert(words.end(), r.begin(), r.end());
                const bool rapid = path.feed[i] <= 0.0f;
                block.move(rapid ? "G0" : "G1", words, rapid ? "" : fmt::format("{:.0f}", path.feed[i]), false);
                waitAfter(i);
            }
            block.line("G49");
        } else {
            const char* mode = perMinute ? "G94" : "G93";
            block.line(mode);
            std::vector<std::size_t> steps(motion.size());
            std::vector<char> quick(motion.size());
            for (std::size_t s = 0; s < motion.size(); ++s) {
                steps[s] = s;
                quick[s] = s == 0 || path.feed[motion.location[s]] <= 0.0f;
            }
            clamps.begin(motion, steps, quick);
            const auto endCycle = [&](bool& inCycle) {
                if (!inCycle) return;
                block.line("G80");
                if (!perMinute) block.line(mode);
                block.newMode();
                inCycle = false;
            };
            const auto cycles = cyclesOf(*op.result);
            std::size_t next = 0;
            bool inCycle = false;
            for (std::size_t s = 0; s < motion.size(); ++s) {
                if (clamps.changes(s)) {
                    endCycle(inCycle);
                    clamps.before(s, block);
                }
                // The tool stands over the mouth; the strokes follow as one block.
                while (next < cycles.size() && motion.stepOf[cycles[next].first] + 1 < s) ++next;
                if (next < cycles.size() && s == motion.stepOf[cycles[next].first] + 1) {
                    const CycleRun& run = cycles[next++];
                    if (const std::string words = cycleWords(m, motion, run, op.result->cycle, path.feed[run.first + 1], d); !words.empty()) {
                        if (!inCycle && !perMinute) block.line("G94");
                        block.line(words);
                        inCycle = true;
                        s = motion.stepOf[run.first + run.strokes];
                        continue;
                    }
                }
                endCycle(inCycle);
                std::vector<std::pair<std::string, std::string>> words = jointWords(m, motion.at(s), d, JointKind::Linear);
                const auto r = jointWords(m, motion.at(s), d, JointKind::Rotary);
                words.insert(words.end(), r.begin(), r.end());
                const std::size_t loc = motion.location[s];
                const bool rapid = s == 0 || path.feed[loc] <= 0.0f;
                block.move(rapid ? "G0" : "G1", words, rapid ? "" : number(jointFeedWord(m, motion, s), feedDigits(jointFeedWord(m, motion, s))), !perMinute);
                if (motion.stepOf[loc] == s) waitAfter(loc);
            }
            if (inCycle) block.line("G80");
            block.line("G94");
        }
        block.line("G53 G0 Z" + zTop);
        block.line("M5");
        block.newMode();
    }
    block.line("M30");
    return text + "%\n";
}

// Where the control takes the shorter way to an angle, half a turn in one block may go either way.
Status turnsCanBeSaid(const Machine& m, const PostOperation& op, Dialect dialect) {
    const JointMotion& motion = *op.result->motion;
    const std::size_t count = dialect == Dialect::Joints ? motion.size() : motion.stepOf.size();
    for (std::size_t j = 0; j < m.joints.size(); ++j) {
        if (!m.joints[j].shortest) continue;
        for (std::size_t i = 1; i < count; ++i) {
            const std::size_t a = dialect == Dialect::Joints ? i - 1 : motion.stepOf[i - 1], b = dialect == Dialect::Joints ? i : motion.stepOf[i];
            const double by = degrees(std::abs(motion.at(b)[j] - motion.at(a)[j]));
            if (by < 179.9) continue;
            return fail(fmt::format("{} turns by {:.1f}° in one block, and the control would take the shorter way there", m.joints[j].name, by),
                        fmt::format("{}, location {}", op.name, motion.location[b]),
                        dialect == Dialect::TipControl ? "Write joint coordinates, or give the machine counted turns" : "Give the machine counted turns");
        }
    }
    return {};
}

std::string writeCutterData(const PostInput& input, const PostDigits& d) {
    std::string text = fmt::format("PARTNO/{}\nUNITS/MM\nMULTAX/ON\n", plain(input.jobName));
    for (const PostOperation& op : input.operations) {
        const Toolpath& path = op.result->links->path;
        const Assembly& tool = op.result->tool;
        text += fmt::format("PPRINT/{}\nLOADTL/{}\nCUTTER/{:.{}f},{:.{}f}\nSPINDL/{:.0f},RPM,CLW\n", plain(op.name), op.toolNumber, tool.cutter.diameter, d.length,
                            contactRadius(tool.cutter), d.length, tool.spindleSpeed);
        std::string feed;
        const auto dwells = dwellsOf(*op.result);
        for (std::size_t i = 0; i < path.size(); ++i) {
            if (path.feed[i] <= 0.0f)
                text += "RAPID\n";
            else if (const std::string f = fmt::format("FEDRAT/{:.1f},MMPM\n", path.feed[i]); f != feed)
                text += feed = f;
            text += "GOTO/";
            for (int k = 0; k < 3; ++k) text += number(path.tip[i][k] - input.zero[k], d.length + 2) + ",";
            for (int k = 0; k < 3; ++k) text += number(path.axis[i][k], d.axis) + (k < 2 ? "," : "\n");
            if (const auto wait = dwells.find(i); wait != dwells.end()) text += fmt::format("DELAY/{:.3f}\n", wait->second);
        }
        text += "SPINDL/OFF\n";
    }
    return text + "FINI\n";
}

} // namespace

Result<std::string> writeProgram(const PostInput& input, Dialect dialect, const PostDigits& digits) {
    if (input.operations.empty()) return fail("the job has no operation to post", input.jobName, "Add or switch on an operation");
    for (const PostOperation& op : input.operations)
        if (!op.result || !op.result->complete() || op.result->links->path.empty()) return fail("the operation has no toolpath", op.name, "Look at its findings in Cut");
    for (const PostOperation& op : input.operations)
        if (op.result->drill && op.result->cycle.cycle == Cycle::Tap) {
            // Spindle and feed must keep step; only the control's own cycle does that.
            const auto cycles = cyclesOf(*op.result);
            const bool all = dialect == Dialect::CutterData || (dialect == Dialect::Joints && std::all_of(cycles.begin(), cycles.end(), [&](const CycleRun& run) {
                                                                    return !cycleWords(*input.machine, *op.result->motion, run, op.result->cycle, 1.0, digits).empty();
                                                                }));
            if (!all)
                return fail("a tap needs the control's tapping cycle, which cannot be written here", op.name,
                            "Write joint coordinates, with cycles, on a machine whose Z runs along the tool");
        }
    if (dialect != Dialect::CutterData)
        for (const PostOperation& op : input.operations)
            if (const auto ok = turnsCanBeSaid(*input.machine, op, dialect); !ok) return tl::unexpected(ok.error());
    return dialect == Dialect::CutterData ? writeCutterData(input, digits) : writeRs274(input, dialect, digits);
}

} // namespace gyre
