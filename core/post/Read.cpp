// From text to acts. RS-274 as our dialects write it; whatever else stands in a block is an error, never passed over.
#include "base/Text.h"
#include "base/Units.h"
#include "post/Arcs.h"
#include "post/Block.h"
#include "post/LinePattern.h"
#include "post/ReadLines.h"
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

class Rs274Reader {
public:
    Rs274Reader(const PostInput& as, const ScriptLines& scripted)
        : m_machine(*as.machine), m_words(saidOn(*as.machine, as.words)), m_spelling(spellingOf(as, Dialect::TipControl)), m_speller(m_spelling, m_machine, m_words),
          m_scripted(scripted) {
        m_out.dialect = as.spelling ? m_spelling.kind : Dialect::Joints;
        ownPatterns();
        m_state.units = m_speller.unsaid(Phrase::Millimetres) ? 21 : m_speller.unsaid(Phrase::Inches) ? 20 : 0;
        if (m_speller.unsaid(Phrase::Plane)) m_state.plane = 17;
        if (m_speller.unsaid(Phrase::Absolute)) m_state.distance = 90;
        if (m_speller.unsaid(Phrase::RadiusOff)) m_state.radius = 40;
        if (m_speller.unsaid(Phrase::CycleReturn)) m_state.cycleReturn = 99;
        for (const Joint& j : m_machine.joints) {
            if (j.clampCode > 0) m_clampCodes.insert(j.clampCode);
            if (j.freeCode > 0) m_clampCodes.insert(j.freeCode);
        }
        m_checkBegins = m_words.lengthCheck.substr(0, m_words.lengthCheck.find('{'));
    }

    Status line(std::string_view text, int number) {
        m_number = number;
        const std::string bare = withoutNumber(text);
        if ((m_ended || m_out.acts.empty()) && matchesAny(m_ended ? m_foot : m_head, text)) return {};
        if (!m_ended && isOwn(bare)) return ownLine(bare);
        auto ok = block(text);
        if (ok) return ok;
        // What a script has made of a block may be beyond reading; then it is taken for the block that it was made of.
        const auto made = m_scripted.rewritten.find(bare);
        if (made == m_scripted.rewritten.end()) return ok;
        m_out.takenAsMade.push_back(number);
        return block(made->second);
    }
    Result<Program> take() {
        if (!m_ended) return fail(fmt::format("the program is cut short: {} is missing", m_spelling[Phrase::End]));
        return std::move(m_out);
    }

private:
    Status block(std::string_view text) {
        const int number = m_number;
        auto code = m_speller.withoutComments(text, number);
        if (!code) return tl::unexpected(code.error());
        if (code->empty() || *code == "%") return {};
        if (m_ended) {
            if (m_out.goesOn == 0) m_out.goesOn = number;
            return {};
        }
        if (!m_checkBegins.empty())
            if (const auto check = lengthCheck(text)) {
                Act a = m_now;
                a.kind = Act::Kind::LengthCheck;
                a.gauge = *check;
                add(a);
                return {};
            }
        auto block = words(*code);
        if (!block) return tl::unexpected(block.error());
        return run(*block);
    }
    // Lines of the shop's own: as they stand, with any text where a value was put in.
    void ownPatterns() {
        const OwnLines& lines = m_spelling.lines;
        for (const auto& [from, to] : {std::pair(&lines.head, &m_head), std::pair(&lines.foot, &m_foot)})
            for (const std::string& text : *from) to->push_back(linePatternOf(text));
        for (const auto* own : {&lines.start, &lines.beforeTool, &lines.afterTool, &lines.beforeOperation, &lines.afterOperation, &lines.finish})
            for (const std::string& text : *own)
                if (!m_speller.isComment(text)) m_own.push_back(linePatternOf(text));
    }
    [[nodiscard]] std::string withoutNumber(std::string_view text) const {
        text = trimmed(text);
        const std::string& word = m_spelling.numberWord;
        if (text.substr(0, word.size()) == word && text.size() > word.size() && std::isdigit(static_cast<unsigned char>(text[word.size()]))) {
            text.remove_prefix(word.size());
            while (!text.empty() && std::isdigit(static_cast<unsigned char>(text.front()))) text.remove_prefix(1);
        }
        return std::string(trimmed(text));
    }
    [[nodiscard]] bool isOwn(const std::string& bare) const { return m_scripted.own.count(bare) > 0 || matchesAny(m_own, bare); }
    Status ownLine(const std::string& bare) {
        Act a = m_now;
        a.kind = Act::Kind::Own;
        a.own = static_cast<std::uint32_t>(m_out.own.size());
        m_out.own.push_back(bare);
        add(a);
        return {};
    }

    [[nodiscard]] tl::unexpected<Error> bad(const std::string& what) const { return badLine(m_number, what); }

    Result<Block> words(const std::string& code) {
        const auto plain = m_speller.read(code, m_number);
        if (!plain) return tl::unexpected(plain.error());
        Block out;
        std::set<int> groups;
        for (const PlainWord& w : *plain) {
            if (w.letter == 'G') {
                const int g = static_cast<int>(w.value);
                if (!groups.insert(groupOf(g)).second) return bad(fmt::format("G{:g} contradicts another word of the block", 0.1 * w.value));
                out.g.push_back(g);
            } else if (w.letter == 'M')
                out.m.push_back(static_cast<int>(w.value));
            else if (!out.words.emplace(w.letter, w.value).second)
                return bad(fmt::format("{} stands twice in one block", w.letter));
        }
        return out;
    }

    // The order in which a control carries out the words of one block.
    Status run(Block& block) {
        const bool end = std::find(block.m.begin(), block.m.end(), 30) != block.m.end();
        if (auto ok = modes(block); !ok) return ok;
        if (auto ok = machineCodes(block); !ok) return ok;
        const bool g53 = takeCode(block.g, 530), wait = takeCode(block.g, 40);
        for (const int g : block.g)
            if (groupOf(g) == 1) {
                if (g > 700) m_state.cycles = g / 10;
                if (g <= 30 || g == 800) endCycle();
                m_motion = g / 10;
            }
        if (wait) {
            const auto p = block.take('P');
            if (!p || !block.words.empty() || block.g.size() > 0) return bad("G4 stands by itself, with P");
            if (auto ok = seconds(*p); !ok) return ok;
            Act a = m_now;
            a.kind = Act::Kind::Dwell;
            a.seconds = *p * secondsPerP();
            add(a);
        } else if (!block.words.empty()) {
            const bool axes =
                std::any_of(block.words.begin(), block.words.end(), [](const auto& w) { return std::string_view("FSTHPQR").find(w.first) == std::string_view::npos; });
            if (!axes) return bad(fmt::format("{} belongs to nothing in this block", block.words.begin()->first));
            if (m_motion > 3 && m_motion != 80) {
                if (g53) return bad("G53 does not go with a cycle");
                if (auto ok = cycle(block); !ok) return ok;
            } else if (auto ok = move(block, g53); !ok) {
                return ok;
            }
        } else if (g53) {
            return bad("G53 needs axes");
        }
        if (!block.words.empty()) return bad(fmt::format("{} belongs to nothing in this block", block.words.begin()->first));
        if (end) {
            Act a = m_now;
            a.kind = Act::Kind::End;
            add(a);
            m_ended = true;
        }
        return {};
    }

    static bool takeCode(std::vector<int>& codes, int code) {
        const auto it = std::find(codes.begin(), codes.end(), code);
        if (it == codes.end()) return false;
        codes.erase(it);
        return true;
    }

    Status modes(Block& block) {
        for (const int g : block.g) switch (groupOf(g)) {
            case 2:
                m_state.plane = g / 10;
                break;
            case 3:
                m_state.distance = g / 10;
                break;
            case 5: {
                const FeedMode mode = g == 930 ? FeedMode::InverseTime : g == 940 ? FeedMode::PerMinute : FeedMode::PerTurn;
                if (mode != m_state.feedMode) m_feed.reset(); // a number of another mode means nothing
                m_state.feedMode = mode;
                break;
            }
            case 6:
                m_state.units = g / 10;
                break;
            case 7:
                m_state.radius = g / 10;
                break;
            case 8: {
                m_state.length = g == 490 ? LengthMode::None : g == 430 ? LengthMode::Plain : LengthMode::TipControl;
                const auto h = block.take('H');
                if (g != 490 && !h && m_speller.saysRegister(g == 434 ? Phrase::TipOn : Phrase::LengthOn)) return bad("a tool length needs its register");
                if (g == 490 && h) return bad("a register belongs to a tool length");
                m_state.lengthRegister = h ? static_cast<int>(std::clamp(*h, -1.0, 1e6)) : 0;
                if (g == 434) m_out.dialect = Dialect::TipControl;
                unsayTip();
                break;
            }
            case 10:
                m_state.cycleReturn = g / 10;
                break;
            case 13:
                if (auto ok = points(block, g == 610); !ok) return ok;
                break;
            case 16:
                if (auto ok = tilt(block, g == 682); !ok) return ok;
                break;
            case 102:
                if (!m_state.tilted || m_state.aligned)
                    return bad(m_state.tilted ? "the tool stands square to the plane already" : "there is no plane to stand square to");
                m_state.aligned = true;
                break;
            case 12:
                m_state.offset = g / 10;
                unsayTip();
                break;
            default:
                break;
            }
        return {};
    }

    Status points(Block& block, bool stop) {
        const auto within = stop ? std::optional<double>() : block.take('w');
        if (within && !(*within > 0.0)) return bad("how far the path may be left must be above 0");
        m_state.points = stop ? AtPoints::ExactStop : within ? AtPoints::Smoothed : AtPoints::AsItStands;
        m_state.smoothing = within ? *within * unit() : 0.0;
        return {};
    }

    Status tilt(Block& block, bool on) {
        if (!on && !m_state.tilted) return bad("there is no tilted plane to put off");
        m_state.tilted = on;
        m_state.aligned = false;
        m_state.tilt = {};
        static constexpr std::string_view kLetters = "xyzijk";
        for (std::size_t k = 0; k < kLetters.size(); ++k) {
            const auto v = block.take(kLetters[k]);
            if (on && !v && m_spelling[Phrase::PlaneOn].find(std::string("{") + kLetters[k] + "}") != std::string::npos)
                return bad(k < 3 ? "a tilted plane needs its zero" : "a tilted plane needs its three angles");
            m_state.tilt[k] = v ? *v * (k < 3 ? unit() : 1.0) : 0.0;
        }
        unsayTip();
        return {};
    }

    Status machineCodes(Block& block) {
        const auto t = block.take('T');
        if (t) {
            if (*t < 0.0 || *t > 1e6 || *t != std::round(*t)) return bad("T must be a whole number");
            if (std::find(block.m.begin(), block.m.end(), 6) == block.m.end() && !m_speller.toolAhead()) return bad("T without M6 changes nothing");
            m_chosen = static_cast<int>(*t);
        }
        const bool rigid = m_words.rigidTap > 0 && std::find(block.m.begin(), block.m.end(), m_words.rigidTap) != block.m.end();
        if (const auto s = block.take('S')) {
            if (!(*s > 0.0 && *s <= 1e6)) return bad("S must be above 0");
            if (!rigid && std::none_of(block.m.begin(), block.m.end(), [](int m) { return m == 3 || m == 4; })) return bad("S stands with M3 or M4");
            m_state.speed = *s;
        }
        m_fedHere = block.has('F');
        if (const auto f = block.take('F')) {
            const bool moves =
                std::any_of(block.words.begin(), block.words.end(), [](const auto& w) { return std::string_view("STHPQR").find(w.first) == std::string_view::npos; });
            if (!moves) return bad("F stands with the move that it is for");
            if (!(*f > 0.0)) return bad("F must be above 0");
            m_feed = *f;
        }
        std::set<int> groups;
        for (const int m : block.m) {
            int group = 0;
            if (m == 3 || m == 4 || m == 5) {
                group = 1;
                m_state.turning = m == 3 ? Turning::Clockwise : m == 4 ? Turning::Counter : Turning::Off;
            } else if (m == m_words.flood || m == m_words.mist || m == m_words.through || m == m_words.coolantOff) {
                group = 2;
                m_state.coolant = m == m_words.coolantOff ? Coolant::None : m == m_words.flood ? Coolant::Flood : m == m_words.mist ? Coolant::Mist : Coolant::Through;
            } else if (m == 6) {
                group = 3;
                if (auto ok = changeTool(t.has_value()); !ok) return ok;
            } else if (m == 30) {
                group = 4;
            } else if (rigid && m == m_words.rigidTap) {
                group = 5;
                m_state.rigidTap = true;
            } else if (m_clampCodes.count(m)) {
                clamp(m);
                continue;
            } else {
                return bad(fmt::format("M{} is not understood", m));
            }
            if (!groups.insert(group).second) return bad(fmt::format("M{} contradicts another word of the block", m));
        }
        return {};
    }
    Status changeTool(bool said) {
        if (!said && m_chosen == 0) return bad("M6 without a T before it");
        m_state.tool = m_chosen;
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
            if (m_machine.joints[j].kind == JointKind::Linear) m_now.joints[j] = kUnsaid;
        unsayTip();
        Act a = m_now;
        a.kind = Act::Kind::ToolChange;
        add(a);
        return {};
    }
    void clamp(int code) {
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j) {
            const std::uint32_t bit = 1u << j;
            if (m_machine.joints[j].clampCode <= 0) continue;
            if (code == m_machine.joints[j].clampCode) {
                m_state.clamped |= bit;
                m_state.free &= ~bit;
            }
            if (code == m_machine.joints[j].freeCode) {
                m_state.clamped &= ~bit;
                m_state.free |= bit;
            }
        }
    }

    Status move(Block& block, bool g53) {
        if (m_motion == 80) return bad("axes without a motion: G0 or G1 is missing behind G80");
        const bool rapid = m_motion == 0;
        if (rapid && m_fedHere) return bad("F stands with a feed move");
        const bool plane = m_state.tilted && !g53, tip = plane || (m_state.length == LengthMode::TipControl && !g53);
        if (plane && m_state.length != LengthMode::Plain) return bad("a move in a tilted plane needs the tool's length");
        if (!plane && !g53 && m_state.length == LengthMode::Plain) return bad("a plain tool length counts in tilted planes alone here");
        const Act before = m_now;
        std::array<std::optional<double>, 3> centre;
        for (int k = 0; k < 3; ++k) centre[static_cast<std::size_t>(k)] = block.take("pqr"[k]);
        Act a = m_now;
        a.machine = g53;
        a.rapid = rapid;
        if (!rapid && m_state.feedMode == FeedMode::InverseTime && !m_feed) return bad("inverse time needs an F in every cutting block");
        for (const auto& [letter, v] : std::map<char, double>(block.words)) {
            if (std::string_view("FSTHPQR").find(letter) != std::string_view::npos) continue;
            block.take(letter);
            const int j = m_machine.find(std::string(1, letter));
            const bool rotary = j >= 0 && m_machine.joints[static_cast<std::size_t>(j)].kind == JointKind::Rotary;
            if (plane && rotary) return bad(fmt::format("{} turns in a tilted plane", letter));
            if (tip && !rotary) {
                if (letter < 'X' || letter > 'Z') return bad(fmt::format("{} is no coordinate of the tip", letter));
                m_now.tip[letter - 'X'] = v * unit();
            } else if (j < 0) {
                return bad(fmt::format("the machine has no axis {}", letter));
            } else if (auto ok = turn(static_cast<std::size_t>(j), rotary ? radians(v) : v * unit()); !ok) {
                return ok;
            }
        }
        // The slides go wherever tip control sends them, and the tip wherever the machine's own words do.
        if (tip)
            for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
                if (m_machine.joints[j].kind == JointKind::Linear) m_now.joints[j] = kUnsaid;
        if (!tip) unsayTip();
        a.joints = m_now.joints;
        a.tip = m_now.tip;
        a.feed = rapid ? 0.0 : m_feed.value_or(0.0);
        if (auto ok = round(a, before, tip, centre); !ok) return ok;
        add(a);
        if (m_state.feedMode == FeedMode::InverseTime) m_feed.reset();
        return {};
    }
    /// An arc from where the tool stood to where it stands now, if the motion is one.
    Status round(Act& a, const Act& before, bool tip, const std::array<std::optional<double>, 3>& centre) const {
        const bool said = centre[0] || centre[1] || centre[2];
        if (m_motion != 2 && m_motion != 3) return said ? Status(bad("a centre belongs to an arc")) : Status();
        if (a.machine) return bad("an arc does not count from the machine's zero");
        const int normal = normalOf(m_state.plane);
        if (normal < 0) return bad("an arc before its plane is said");
        for (int k = 0; k < 3; ++k)
            if (centre[static_cast<std::size_t>(k)].has_value() == (k == normal))
                return bad(k == normal ? "the centre of an arc lies in its plane" : "an arc needs both words of its centre");
        if (const auto j = rotaryTurned(m_machine, before, a)) return bad(fmt::format("{} turns in an arc", m_machine.joints[*j].name));
        for (int k = 0; k < 3; ++k)
            if (k != normal) a.centre[k] = *centre[static_cast<std::size_t>(k)] * unit();
        a.arc = m_motion == 3 ? 1 : -1;
        const auto from = tip ? std::optional(before.tip) : straightPlace(m_machine, before), to = tip ? std::optional(a.tip) : straightPlace(m_machine, a);
        if (!from || !from->allFinite() || !to->allFinite()) return bad("nobody can tell where this arc begins");
        const Arc arc{*from, *to, a.centre, normal, a.arc};
        const double off = std::abs(arc.radius(0.0) - arc.radius(1.0)), step = std::pow(10.0, -m_words.digits().length) * unit();
        if (!(arc.radius(0.0) > 0.0) || off > std::max(0.01, 4.0 * step)) return bad("the ends of an arc are not as far from its centre");
        return {};
    }
    Status turn(std::size_t j, double to) {
        const Joint& joint = m_machine.joints[j];
        double& at = m_now.joints[j];
        const double before = at;
        // An angle within one turn is reached by the shorter way.
        at = joint.shortest && joint.kind == JointKind::Rotary && !std::isnan(before) ? before + std::remainder(to - before, 2.0 * kPi) : to;
        if ((m_state.clamped & (1u << j)) && !(std::abs(at - before) <= 1e-9)) return bad(fmt::format("{} is moved while it is clamped", joint.name));
        return {};
    }

    /// What a cycle was told is forgotten with it.
    void endCycle() {
        m_state.rigidTap = false;
        m_return.reset();
        m_bottom.reset();
        m_peck.reset();
        m_wait = 0.0;
    }
    /// One block of a cycle in machine coordinates.
    Status cycle(Block& block) {
        const int z = m_machine.find("Z");
        const bool plane = m_state.tilted;
        if ((plane ? m_state.length != LengthMode::Plain : z < 0 || m_state.length == LengthMode::TipControl || m_state.length == LengthMode::Plain) ||
            m_state.feedMode == FeedMode::InverseTime)
            return bad("a cycle is not understood here: it needs feed per minute and machine coordinates");
        const auto kind = cycleOfCode(m_motion);
        if (!kind) return bad("this cycle is not known");
        if (const auto r = block.take('R')) m_return = *r * unit();
        if (const auto q = block.take('Q')) {
            if (m_motion != 83 && m_motion != 73) return bad("Q belongs to G83 and G73");
            m_peck = *q * unit();
        }
        const auto p = block.take('P');
        if (p) {
            if (auto ok = seconds(*p); !ok) return ok;
            m_wait = *p * secondsPerP();
        }
        const bool waits = m_motion == 82 || m_motion == 89, pecks = m_motion == 83 || m_motion == 73;
        if (p && !waits) return bad("P belongs to G82 and G89");
        if (!m_return) return bad("a cycle needs R");
        if (pecks && !(m_peck.value_or(0.0) > 0.0)) return bad("this cycle needs Q above 0");
        for (const char letter : {'X', 'Y', 'Z'})
            if (const auto v = block.take(letter)) {
                const int j = m_machine.find(std::string(1, letter));
                if (!plane && j < 0) return bad(fmt::format("the machine has no axis {}", letter));
                if (letter == 'Z') {
                    m_bottom = *v * unit();
                    continue;
                }
                double& at = plane ? m_now.tip[letter - 'X'] : m_now.joints[static_cast<std::size_t>(j)];
                if (!(std::abs(at - *v * unit()) <= 1e-3)) return bad("the tool does not stand over the hole");
                at = *v * unit();
            }
        if (!block.words.empty()) return bad("only X, Y and Z move in a cycle");
        if (!m_bottom) return bad("a cycle needs Z");
        if (!(*m_bottom < *m_return)) return bad("the hole's bottom lies above R");
        if (!(m_feed.value_or(0.0) > 0.0)) return bad("a cycle needs an F");
        Act a = m_now;
        a.kind = Act::Kind::Cycle;
        a.cycle = *kind;
        a.top = *m_return;
        a.bottom = *m_bottom;
        a.peck = pecks ? *m_peck : 0.0;
        a.seconds = waits ? m_wait : 0.0;
        a.feed = *m_feed;
        if (plane)
            m_now.tip.z() = a.tip.z() = *m_return;
        else
            m_now.joints[static_cast<std::size_t>(z)] = a.joints[static_cast<std::size_t>(z)] = *m_return;
        add(a);
        return {};
    }

    /// The gauge length that a check block names; nothing when the block is none.
    [[nodiscard]] std::optional<double> lengthCheck(std::string_view line) const {
        const std::string bare = withoutNumber(line);
        const std::string_view text = bare;
        std::string form = m_words.lengthCheck;
        for (auto at = form.find("{tool}"); at != std::string::npos; at = form.find("{tool}")) form.replace(at, 6, std::to_string(m_state.tool));
        const auto hole = form.find("{length}");
        if (hole == std::string::npos) return std::nullopt;
        const std::string before = form.substr(0, hole), after = form.substr(hole + 8);
        if (text.size() < before.size() + after.size() || text.substr(0, before.size()) != before || text.substr(text.size() - after.size()) != after)
            return std::nullopt;
        const auto v = numberOf(text.substr(before.size(), text.size() - before.size() - after.size()), m_number);
        return v ? std::optional(*v * unit()) : std::nullopt;
    }

    [[nodiscard]] double unit() const { return m_state.units == 20 ? 25.4 : 1.0; }
    [[nodiscard]] double secondsPerP() const { return m_words.dwellMs ? 1e-3 : 1.0; }
    [[nodiscard]] Status seconds(double p) const {
        if (p >= 0.0 && p * secondsPerP() <= 3600.0) return {};
        return bad("P must be between 0 and 3600 s");
    }
    void unsayTip() { m_now.tip = Vec3::Constant(kUnsaid); }
    void add(Act& a) {
        a.line = m_number;
        m_out.add(a, m_state);
    }

    const Machine& m_machine;
    const ProgramWords m_words;
    const Spelling& m_spelling;
    const Speller m_speller;
    const ScriptLines& m_scripted;
    std::vector<LinePattern> m_head, m_foot, m_own;
    std::set<int> m_clampCodes;
    std::string m_checkBegins;
    Program m_out;
    ControlState m_state;
    Act m_now; ///< where everything stands
    int m_number = 0, m_motion = 80, m_chosen = 0;
    bool m_ended = false, m_fedHere = false;
    std::optional<double> m_feed, m_return, m_bottom, m_peck;
    double m_wait = 0.0;
};

} // namespace

Result<Program> readRs274(const std::string& text, const PostInput& as, const ScriptLines& scripted) { return readLines(text, Rs274Reader(as, scripted)); }

namespace {

Result<Program> readAs(const std::string& text, const PostInput& as, const ScriptLines& scripted) {
    if (as.machine->joints.size() > kMostJoints) return fail("the machine has more joints than a program can name", as.machine->name);
    const auto start = text.find_first_not_of(" \t\r\n");
    if (start == std::string::npos) return fail("the program is empty");
    const DialectKind* kind = as.spelling ? &kindOf(as.spelling->kind) : nullptr;
    if (!kind)
        for (const DialectKind& k : dialects())
            if (k.begins ? k.begins(std::string_view(text).substr(start)) : !kind) kind = &k;
    if (!kind) return fail("no dialect begins like this program");
    auto read = kind->read(text, as, scripted);
    if (read && std::none_of(read->acts.begin(), read->acts.end(), [](const Act& a) { return a.kind == Act::Kind::Move || a.kind == Act::Kind::Cycle; }))
        return fail("the program moves nothing");
    return read;
}

} // namespace

Result<Program> readProgram(const std::string& text, const Machine& machine, const ProgramWords& words) {
    PostInput as;
    as.machine = std::shared_ptr<const Machine>(std::shared_ptr<const Machine>(), &machine); // not owned
    as.words = words;
    return readAs(text, as, {});
}

Result<Program> readBack(const std::string& text, const PostInput& input) {
    ScriptLines scripted;
    if (input.spelling && !input.spelling->script.empty()) {
        auto written = composeProgram(input, input.spelling->kind);
        if (!written) return tl::unexpected(written.error());
        for (std::string& own : written->program.own) scripted.own.insert(std::string(trimmed(own)));
        scripted.rewritten = std::move(written->rewritten);
    }
    return readAs(text, input, scripted);
}

} // namespace gyre
