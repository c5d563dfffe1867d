// From acts to text: whatever differs from what the control has been told is said before the act, then the act itself.
#include "base/Units.h"
#include "post/Words.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace gyre {

namespace {

// Comments hold capitals, figures and simple signs only: every control reads those. Signs and letters that names have are spelled with them.
std::string plain(const std::string& text) {
    static constexpr std::pair<std::string_view, std::string_view> kSpelled[] = {
        {"×", "X"},  {"Ø", "D"},  {"ø", "D"},  {"⌀", "D"},  {"°", "DEG"}, {"µ", "U"},  {"±", "+-"}, {"–", "-"}, {"—", "-"}, {"·", "-"},
        {"ä", "AE"}, {"ö", "OE"}, {"ü", "UE"}, {"Ä", "AE"}, {"Ö", "OE"},  {"Ü", "UE"}, {"ß", "SS"}, {"å", "A"}, {"Å", "A"}, {"é", "E"},
        {"É", "E"},  {"è", "E"},  {"à", "A"},  {"ç", "C"},  {"ñ", "N"},   {"_", "-"},  {"/", "-"},  {"+", "+"}};
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto spelled = std::find_if(std::begin(kSpelled), std::end(kSpelled), [&](const auto& s) { return text.compare(i, s.first.size(), s.first) == 0; });
        if (spelled != std::end(kSpelled)) {
            out += spelled->second;
            i += spelled->first.size() - 1;
            continue;
        }
        const char c = text[i];
        const auto u = static_cast<unsigned char>(c);
        if (u < 128 && std::isalnum(u))
            out += static_cast<char>(std::toupper(u));
        else if (c == ' ' || c == '-' || c == '.' || c == ',')
            out += c;
    }
    return out;
}

std::string jointWord(const Joint& j, double v, const ProgramWords& words) {
    const PostDigits d = words.digits();
    if (j.kind != JointKind::Rotary) return fixedText(v / words.unit(), d.length);
    if (!j.shortest) return fixedText(degrees(v), d.angle);
    double within = std::fmod(degrees(v), 360.0); // one turn; what rounds up to a full one is none
    if (within < 0.0) within += 360.0;
    if (within > 360.0 - 0.5 * std::pow(10.0, -d.angle)) within = 0.0;
    return fixedText(within, d.angle);
}

std::string replaced(std::string text, const std::string& what, const std::string& by) {
    for (auto at = text.find(what); at != std::string::npos; at = text.find(what, at + by.size())) text.replace(at, what.size(), by);
    return text;
}

class Rs274Writer {
public:
    Rs274Writer(const PostInput& input, Program& program)
        : m_input(input), m_machine(*input.machine), m_words(saidOn(*input.machine, input.words)), m_program(program),
          m_tip(kindOf(program.dialect).positions == Positions::Tip) {}

    std::string write() {
        head();
        std::uint32_t operation = 0;
        bool first = true;
        for (std::size_t i = 0; i < m_program.acts.size(); ++i) {
            Act& a = m_program.acts[i];
            if ((first || a.operation != operation) && a.kind != Act::Kind::End) {
                if (!first) settle(m_program.stateOf(a)); // the spindle of the one before is stopped before its name is
                comment(a.operation);
            }
            first = false;
            operation = a.operation;
            settle(m_program.stateOf(a));
            act(a);
        }
        return m_text + "%\n";
    }

private:
    [[nodiscard]] std::string length(double mm) const { return fixedText(mm / m_words.unit(), m_words.digits().length); }
    void note(const std::string& s) {
        m_text += "(" + s + ")\n";
        ++m_line;
    }
    int line(const std::string& s) {
        if (m_words.numberStep > 0) {
            m_number = m_number + m_words.numberStep > m_words.numberWrap ? m_words.numberStep : m_number + m_words.numberStep;
            m_text += fmt::format("N{} ", m_number);
        }
        m_text += s + "\n";
        return ++m_line;
    }
    void head() {
        m_text = "%\n";
        m_line = 1;
        note(plain(m_input.jobName));
        note(plain(m_machine.name) + " - " +
             (m_tip                                         ? "TIP CONTROL"
              : m_machine.jointFeed == JointFeed::PerMinute ? "JOINT COORDINATES, FEED PER MINUTE"
                                                            : "JOINT COORDINATES, INVERSE TIME"));
        for (const std::string& w : m_input.warnings) note(plain(w));
        note(m_words.inch ? "INCHES" : "MILLIMETRES");
        if (m_tip && !m_input.zero.isZero())
            note(fmt::format("ZERO AT {} {} {} OF THE PART", length(m_input.zero.x()), length(m_input.zero.y()), length(m_input.zero.z())));
        if (!m_tip) {
            note(m_words.offset > 0 ? fmt::format("ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - G{} MUST HOLD ZEROS", m_words.offset)
                                    : "ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - NO WORK OFFSET MAY BE ON");
            note("TOOL LENGTHS ARE IN THE WORDS - LOAD TOOLS OF THESE GAUGE LENGTHS");
        }
    }
    void comment(std::uint32_t operation) {
        const PostOperation& op = m_input.operations[operation];
        const Assembly& tool = op.result->tool;
        note(plain(op.name));
        note(fmt::format("T{} {} - OUT {} - GAUGE LENGTH {}", op.toolNumber, plain(tool.name), length(tool.stickOut), length(tool.gaugeLength())));
    }

    /// Says what is different from what has been said.
    void settle(const ControlState& to) {
        ControlState& at = m_state;
        if (at == to) return;
        std::string safe;
        const auto say = [&](int& known, int wanted, int code) {
            if (known == wanted) return;
            known = wanted;
            safe += fmt::format("{}G{}", safe.empty() ? "" : " ", code);
        };
        const bool start = at.units == 0;
        say(at.units, to.units, to.units);
        say(at.plane, to.plane, to.plane);
        say(at.distance, to.distance, to.distance);
        say(at.radius, to.radius, to.radius);
        if (start) {
            safe += " G49 G80 G94";
            at.length = LengthMode::None;
            at.cycles = 80;
            at.feedMode = FeedMode::PerMinute;
        }
        if (!safe.empty()) line(safe);
        if (at.offset != to.offset) line(fmt::format("G{}", to.offset));
        at.offset = to.offset;
        endCycles(to);
        stopThings(to);
        clamps(to);
        startThings(to);
        if (at.length != to.length || at.lengthRegister != to.lengthRegister) {
            line(to.length == LengthMode::TipControl ? fmt::format("G43.4 H{}", to.lengthRegister) : "G49");
            at.length = to.length;
            at.lengthRegister = to.lengthRegister;
            forget();
        }
        feedMode(to.feedMode);
        at.tool = to.tool; // its change is an act of its own
        at.cycles = to.cycles;
        at.cycleReturn = to.cycleReturn;
    }
    void endCycles(const ControlState& to) {
        if (to.cycles == 80 && m_state.cycles != 80) {
            line("G80");
            m_state.rigidTap = false;
            forget();
        }
    }
    void stopThings(const ControlState& to) {
        if (m_state.coolant != to.coolant && m_state.coolant != Coolant::None) line(fmt::format("M{}", m_words.coolantOff));
        if (m_state.turning != Turning::Off && to.turning == Turning::Off) line("M5");
        if (m_state.coolant != to.coolant) m_state.coolant = Coolant::None;
        if (to.turning == Turning::Off) m_state.turning = Turning::Off;
    }
    void startThings(const ControlState& to) {
        if (to.turning != Turning::Off && (m_state.turning != to.turning || m_state.speed != to.speed)) {
            line(fmt::format("S{:.0f} {}", to.speed, to.turning == Turning::Clockwise ? "M3" : "M4"));
            m_state.turning = to.turning;
            m_state.speed = to.speed;
        }
        if (m_state.coolant != to.coolant) line(fmt::format("M{}", coolantCode(m_words, to.coolant)));
        m_state.coolant = to.coolant;
        if (!m_state.rigidTap && to.rigidTap) line(fmt::format("M{} S{:.0f}", m_words.rigidTap, to.speed));
        m_state.rigidTap = to.rigidTap;
    }
    void clamps(const ControlState& to) {
        for (std::size_t j = 0; j < m_machine.joints.size(); ++j) {
            const std::uint32_t bit = 1u << j;
            if ((to.clamped & bit) && !(m_state.clamped & bit)) line(fmt::format("M{}", m_machine.joints[j].clampCode));
            if ((to.free & bit) && !(m_state.free & bit)) line(fmt::format("M{}", m_machine.joints[j].freeCode));
        }
        m_state.clamped = to.clamped;
        m_state.free = to.free;
    }
    void feedMode(FeedMode to) {
        if (m_state.feedMode == to) return;
        m_state.feedMode = to;
        line(to == FeedMode::InverseTime ? "G93" : to == FeedMode::PerTurn ? "G95" : "G94");
        m_feed.clear();
    }
    void forget() {
        m_last.clear();
        m_code.clear();
        m_feed.clear();
    }

    void act(Act& a) {
        const ControlState& s = m_program.stateOf(a);
        switch (a.kind) {
        case Act::Kind::Move:
            move(a, s);
            break;
        case Act::Kind::Cycle:
            cycle(a, s);
            break;
        case Act::Kind::Dwell:
            a.line = line("G4 P" + seconds(a.seconds));
            break;
        case Act::Kind::ToolChange:
            a.line = line(fmt::format("T{} M6", s.tool));
            forget();
            break;
        case Act::Kind::LengthCheck:
            a.line = line(replaced(replaced(m_words.lengthCheck, "{tool}", std::to_string(s.tool)), "{length}", length(a.gauge)));
            break;
        case Act::Kind::End:
            a.line = line("M30");
            break;
        }
    }
    [[nodiscard]] std::string seconds(double s) const { return m_words.dwellMs ? fmt::format("{:.0f}", 1000.0 * s) : fmt::format("{:.3f}", s); }

    /// Words of a move; a word is left out while it repeats the last one of its letter.
    void move(Act& a, const ControlState& s) {
        if (a.machine != m_machineWords) forget();
        m_machineWords = a.machine;
        std::vector<std::pair<std::string, std::string>> words;
        const bool tip = m_tip && !a.machine;
        if (tip)
            for (int k = 0; k < 3; ++k) words.emplace_back(std::string(1, "XYZ"[k]), length(a.tip[k]));
        for (const JointKind kind : {JointKind::Linear, JointKind::Rotary})
            for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
                if (m_machine.joints[j].kind == kind && !(tip && kind == JointKind::Linear) && (a.says & (1u << j)) && !std::isnan(a.joints[j]))
                    words.emplace_back(m_machine.joints[j].name, jointWord(m_machine.joints[j], a.joints[j], m_words));
        const std::string code = a.machine ? "G53 G0" : a.rapid ? "G0" : "G1";
        std::string text = code == m_code && !a.machine ? "" : code;
        m_code = code;
        std::size_t written = 0;
        for (const auto& [letter, value] : words) {
            auto& last = m_last[letter];
            if (last == value) continue;
            last = value;
            text += fmt::format("{}{}{}", text.empty() ? "" : " ", letter, value);
            ++written;
        }
        // Every act has its line, so that reading back can be compared one by one.
        if (written == 0 && !words.empty()) text += fmt::format("{}{}{}", text.empty() ? "" : " ", words.front().first, words.front().second);
        if (!a.rapid) {
            const std::string feed = feedText(a.feed);
            if (feed != m_feed || s.feedMode == FeedMode::InverseTime) text += fmt::format(" F{}", feed);
            m_feed = feed;
        }
        a.line = line(text);
    }
    void cycle(Act& a, const ControlState& s) {
        const bool tap = a.cycle == Cycle::Tap;
        std::string text = fmt::format("G99 G{}", cycleCode(a.cycle, a.seconds > 0.0));
        for (const char* axis : {"X", "Y"})
            if (const int j = m_machine.find(axis); j >= 0) text += fmt::format(" {}{}", axis, length(a.joints[static_cast<std::size_t>(j)]));
        text += fmt::format(" Z{} R{}", length(a.bottom), length(a.top));
        if (a.peck > 0.0) text += fmt::format(" Q{}", length(a.peck));
        if (a.seconds > 0.0) text += fmt::format(" P{}", seconds(a.seconds));
        a.line = line(text + " F" + feedText(a.feed, tap));
        m_state.cycles = s.cycles;
        m_code.clear();
        m_feed.clear();
    }

    const PostInput& m_input;
    const Machine& m_machine;
    const ProgramWords m_words;
    Program& m_program;
    const bool m_tip;
    std::string m_text;
    int m_line = 0, m_number = 0;
    ControlState m_state;
    bool m_machineWords = false;
    std::string m_code, m_feed;
    std::map<std::string, std::string> m_last;
};

class CutterDataWriter {
public:
    CutterDataWriter(const PostInput& input, Program& program) : m_input(input), m_words(input.words), m_program(program) {}

    std::string write() {
        line("PARTNO/" + plain(m_input.jobName));
        for (const std::string& w : m_input.warnings) line("PPRINT/" + plain(w));
        line(m_words.inch ? "UNITS/INCHES" : "UNITS/MM");
        line("MULTAX/ON");
        for (Act& a : m_program.acts) {
            const ControlState& s = m_program.stateOf(a);
            settle(s);
            switch (a.kind) {
            case Act::Kind::ToolChange:
                line("PPRINT/" + plain(m_input.operations[a.operation].name));
                a.line = line(fmt::format("LOADTL/{}", s.tool));
                m_feed.clear();
                break;
            case Act::Kind::Move:
                if (a.rapid)
                    line("RAPID");
                else if (const std::string f = "FEDRAT/" + feedText(a.feed) + (m_words.inch ? ",IPM" : ",MMPM"); f != m_feed)
                    line(m_feed = f);
                a.line = line(to(a));
                break;
            case Act::Kind::Cycle:
                line("CYCLE/TAP," + fixedText(-a.bottom / m_words.unit(), m_words.digits().length) + (m_words.inch ? ",IPR," : ",MMPR,") + feedText(a.feed, true));
                a.line = line(to(a));
                line("CYCLE/OFF");
                break;
            case Act::Kind::Dwell:
                a.line = line(fmt::format("DELAY/{:.3f}", a.seconds));
                break;
            case Act::Kind::End:
                a.line = line("FINI");
                break;
            case Act::Kind::LengthCheck:
                break;
            }
        }
        return m_text;
    }

private:
    int line(const std::string& s) {
        m_text += s + "\n";
        return ++m_line;
    }
    [[nodiscard]] std::string to(const Act& a) const {
        const PostDigits d = m_words.digits();
        std::string text = "GOTO/";
        for (int k = 0; k < 3; ++k) text += fixedText(a.tip[k] / m_words.unit(), d.length + 2) + ",";
        for (int k = 0; k < 3; ++k) text += fixedText(a.axis[k], d.axis) + (k < 2 ? "," : "");
        return text;
    }
    void settle(const ControlState& to) {
        if (m_state.coolant != to.coolant && m_state.coolant != Coolant::None) line("COOLNT/OFF");
        if (m_state.turning != Turning::Off && to.turning == Turning::Off) line("SPINDL/OFF");
        if (m_state.diameter != to.diameter || m_state.corner != to.corner)
            line(fmt::format("CUTTER/{},{}", fixedText(to.diameter / m_words.unit(), m_words.digits().length),
                             fixedText(to.corner / m_words.unit(), m_words.digits().length)));
        if (to.turning != Turning::Off && (m_state.turning != to.turning || m_state.speed != to.speed))
            line(fmt::format("SPINDL/{:.0f},RPM,{}", to.speed, to.turning == Turning::Clockwise ? "CLW" : "CCLW"));
        if (m_state.coolant != to.coolant && to.coolant != Coolant::None)
            line(to.coolant == Coolant::Flood ? "COOLNT/FLOOD" : to.coolant == Coolant::Mist ? "COOLNT/MIST" : "COOLNT/THRU");
        m_state = to;
    }
    const PostInput& m_input;
    const ProgramWords& m_words;
    Program& m_program;
    std::string m_text, m_feed;
    int m_line = 0;
    ControlState m_state;
};

} // namespace

std::string writeRs274(const PostInput& input, Program& program) { return Rs274Writer(input, program).write(); }
std::string writeCutterData(const PostInput& input, Program& program) { return CutterDataWriter(input, program).write(); }

Result<WrittenProgram> composeProgram(const PostInput& input, Dialect dialect) {
    auto program = intendedProgram(input, dialect);
    if (!program) return tl::unexpected(program.error());
    WrittenProgram out{{}, std::move(*program)};
    out.text = kindOf(dialect).write(input, out.program);
    return out;
}

Result<std::string> writeProgram(const PostInput& input, Dialect dialect) {
    auto composed = composeProgram(input, dialect);
    if (!composed) return tl::unexpected(composed.error());
    return std::move(composed->text);
}

} // namespace gyre
