// From acts to text: whatever differs from what the control has been told is said before the act, then the act itself.
#include "base/Text.h"
#include "base/Units.h"
#include "operation/OperationResult.h"
#include "post/Arcs.h"
#include "post/Script.h"
#include "post/Words.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace gyre {

namespace {

/// Takes a text line by line.
template <class Take> void eachLine(const std::string& text, Take take) {
    for (std::size_t from = 0; from < text.size();) {
        const auto end = std::min(text.find('\n', from), text.size());
        take(text.substr(from, end - from));
        from = end + 1;
    }
}

class Rs274Writer {
public:
    Rs274Writer(const PostInput& input, Program program)
        : m_input(input), m_machine(*input.machine), m_words(saidOn(*input.machine, input.words)), m_speller(spellingOf(input, program.dialect), m_machine, m_words),
          m_tip(kindOf(program.dialect).positions == Positions::Tip) {
        m_out.program = std::move(program);
    }

    Result<WrittenProgram> write() {
        const Spelling& spelling = m_speller.spelling();
        if (!spelling.script.empty()) {
            auto script = Script::make(spelling.script, spelling.name);
            if (!script) return tl::unexpected(script.error());
            if ((*script)->has(Script::Line)) m_script = std::move(*script);
        }
        head();
        std::uint32_t operation = 0;
        bool first = true;
        auto& acts = m_out.program.acts;
        for (std::size_t i = 0; i < acts.size() && !m_error; ++i) {
            Act& a = acts[i];
            m_act = &a;
            if (first || a.operation != operation)
                if (a.kind != Act::Kind::End) {
                    if (!first) settle(m_out.program.stateOf(a)); // the spindle of the one before is stopped before its name is
                    comment(a.operation);
                }
            first = false;
            operation = a.operation;
            settle(m_out.program.stateOf(a));
            act(a);
        }
        if (m_error) return tl::unexpected(*m_error);
        for (const std::string& text : spelling.lines.foot) bare(filled(text, m_input, m_speller, acts.empty() ? 0 : acts.back().operation));
        return std::move(m_out);
    }

private:
    [[nodiscard]] std::string length(double mm) const { return m_speller.length(mm); }
    void bare(const std::string& s) {
        m_out.text += s + "\n";
        ++m_line;
    }
    void note(const std::string& s) {
        if (const std::string text = m_speller.comment(s); !text.empty()) bare(text);
    }
    /// A block, with its number.
    int line(std::string s) {
        if (m_script && m_act && !m_error) {
            const Act* last = m_act == m_out.program.acts.data() ? nullptr : m_act - 1;
            auto made = m_script->line(s, {m_out.program, *m_act, last, m_input.operations[m_act->operation].name, m_machine, m_words.unit()});
            if (!made)
                m_error = made.error();
            else if (*made != s)
                rewrite(s, std::move(*made));
        }
        if (m_words.numberStep > 0) {
            m_number = m_number + m_words.numberStep > m_words.numberWrap ? m_words.numberStep : m_number + m_words.numberStep;
            m_out.text += fmt::format("{}{} ", m_speller.spelling().numberWord, m_number);
        }
        bare(s);
        return m_line;
    }
    void rewrite(std::string& s, std::string made) {
        made = std::string(trimmed(made));
        const auto [at, added] = m_out.rewritten.emplace(made, s);
        if (!added && at->second != s)
            m_error =
                Error{fmt::format("line of dialect {} makes '{}' of '{}' and of '{}': nobody could tell what is meant", m_speller.spelling().name, made, at->second, s),
                      {},
                      "Mend the script in the dialect file"};
        s = std::move(made);
    }
    /// Line by line; the last one is told.
    int lines(const std::string& text) {
        int last = m_line;
        eachLine(text, [&](const std::string& s) { last = line(s); });
        return last;
    }
    void head() {
        const auto plain = [&](const std::string& s) { return m_speller.plain(s); };
        for (const std::string& text : m_speller.spelling().lines.head) bare(filled(text, m_input, m_speller, 0));
        note(plain(m_input.jobName));
        note(plain(m_machine.name) + " - " +
             (m_speller.spelling().indexed == IndexedWork::PlanesAlone && m_tip ? "TILTED PLANES"
              : m_tip                                                           ? "TIP CONTROL"
              : m_machine.jointFeed == JointFeed::PerMinute                     ? "JOINT COORDINATES, FEED PER MINUTE"
                                                                                : "JOINT COORDINATES, INVERSE TIME"));
        for (const std::string& w : m_input.warnings) note(plain(w));
        note(m_words.inch ? "INCHES" : "MILLIMETRES");
        if (m_out.program.strays > 0.0) note(fmt::format("ARCS KEEP WITHIN {} OF THE MOVES THAT WERE PROVEN", length(m_words.arcs)));
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
        note(m_speller.plain(op.name));
        note(fmt::format("T{} {} - OUT {} - GAUGE LENGTH {}", op.toolNumber, m_speller.plain(tool.name), length(tool.stickOut), length(tool.gaugeLength())));
    }

    /// Says what is different from what has been said.
    void settle(const ControlState& to) {
        ControlState& at = m_state;
        if (at == to) return;
        if (at.units == 0) start(to);
        if (at.offset != to.offset && to.offset > 0) lines(m_speller.say(Phrase::Offset, {{"offset", std::to_string(to.offset)}}));
        at.offset = to.offset;
        endCycles(to);
        stopThings(to);
        clamps(to);
        startThings(to);
        points(to);
        arcPlane(to);
        lengthAndPlane(to);
        feedMode(to.feedMode);
        at.tool = to.tool; // its change is an act of its own
        at.cycles = to.cycles;
        at.cycleReturn = to.cycleReturn;
    }
    /// The plane is tilted before the length counts along it, and put off after it.
    void lengthAndPlane(const ControlState& to) {
        ControlState& at = m_state;
        const bool length = at.length != to.length || at.lengthRegister != to.lengthRegister,
                   plane = at.tilted != to.tilted || at.aligned != to.aligned || at.tilt != to.tilt;
        if (!length && !plane) return;
        if (at.length != LengthMode::None) lines(m_speller.say(Phrase::LengthOff));
        if (plane && at.tilted) lines(m_speller.say(Phrase::PlaneOff));
        if (plane && to.tilted) {
            const auto& t = to.tilt;
            lines(m_speller.say(Phrase::PlaneOn, {{"x", m_speller.length(t[0])},
                                                  {"y", m_speller.length(t[1])},
                                                  {"z", m_speller.length(t[2])},
                                                  {"i", m_speller.angle(t[3])},
                                                  {"j", m_speller.angle(t[4])},
                                                  {"k", m_speller.angle(t[5])}}));
            if (to.aligned) lines(m_speller.say(Phrase::PlaneAlign));
        }
        if (to.length != LengthMode::None)
            lines(m_speller.say(to.length == LengthMode::TipControl ? Phrase::TipOn : Phrase::LengthOn, {{"register", std::to_string(to.lengthRegister)}}));
        at.length = to.length;
        at.lengthRegister = to.lengthRegister;
        at.tilted = to.tilted;
        at.aligned = to.aligned;
        at.tilt = to.tilt;
        forget();
    }
    /// The safe line, and what it leaves out.
    void start(const ControlState& to) {
        lines(m_speller.safeLine());
        for (const Phrase p : {m_words.inch ? Phrase::Inches : Phrase::Millimetres, Phrase::Plane, Phrase::Absolute, Phrase::RadiusOff, Phrase::LengthOff,
                               Phrase::CyclesOff, Phrase::PerMinute})
            if (!m_speller.isSafe(p) && !m_speller.unsaid(p)) lines(m_speller.say(p));
        m_state.units = to.units;
        m_state.plane = to.plane;
        m_state.distance = to.distance;
        m_state.radius = to.radius;
        m_state.length = LengthMode::None;
        m_state.cycles = 80;
        m_state.feedMode = FeedMode::PerMinute;
    }
    void endCycles(const ControlState& to) {
        if (to.cycles == 80 && m_state.cycles != 80) {
            lines(m_speller.say(Phrase::CyclesOff));
            m_state.rigidTap = false;
            forget();
        }
    }
    void stopThings(const ControlState& to) {
        if (m_state.coolant != to.coolant && m_state.coolant != Coolant::None) line(fmt::format("M{}", m_words.coolantOff));
        if (m_state.turning != Turning::Off && to.turning == Turning::Off) lines(m_speller.say(Phrase::SpindleStop));
        if (m_state.coolant != to.coolant) m_state.coolant = Coolant::None;
        if (to.turning == Turning::Off) m_state.turning = Turning::Off;
    }
    void startThings(const ControlState& to) {
        if (to.turning != Turning::Off && (m_state.turning != to.turning || m_state.speed != to.speed)) {
            lines(m_speller.say(to.turning == Turning::Clockwise ? Phrase::Spindle : Phrase::SpindleBack, {{"speed", fmt::format("{:.0f}", to.speed)}}));
            m_state.turning = to.turning;
            m_state.speed = to.speed;
        }
        if (m_state.coolant != to.coolant) line(fmt::format("M{}", coolantCode(m_words, to.coolant)));
        m_state.coolant = to.coolant;
        if (!m_state.rigidTap && to.rigidTap) line(fmt::format("M{} S{:.0f}", m_words.rigidTap, to.speed));
        m_state.rigidTap = to.rigidTap;
    }
    void points(const ControlState& to) {
        if (m_state.points != to.points || m_state.smoothing != to.smoothing)
            lines(to.points == AtPoints::ExactStop ? m_speller.say(Phrase::ExactStop) : m_speller.smooth(to.smoothing));
        m_state.points = to.points;
        m_state.smoothing = to.smoothing;
    }
    void arcPlane(const ControlState& to) {
        if (m_state.plane != to.plane) lines(m_speller.say(to.plane == 18 ? Phrase::PlaneZX : to.plane == 19 ? Phrase::PlaneYZ : Phrase::Plane));
        m_state.plane = to.plane;
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
        lines(m_speller.say(to == FeedMode::InverseTime ? Phrase::InverseTime : to == FeedMode::PerTurn ? Phrase::PerTurn : Phrase::PerMinute));
        m_feed.clear();
    }
    void forget() {
        m_last.clear();
        m_code.clear();
        m_feed.clear();
    }

    void act(Act& a) {
        const ControlState& s = m_out.program.stateOf(a);
        switch (a.kind) {
        case Act::Kind::Move:
            move(a, s);
            break;
        case Act::Kind::Cycle:
            cycle(a, s);
            break;
        case Act::Kind::Dwell:
            a.line = lines(m_speller.say(Phrase::Wait, {{"seconds", m_speller.seconds(a.seconds)}}));
            break;
        case Act::Kind::ToolChange:
            a.line = lines(m_speller.say(Phrase::Tool, {{"tool", std::to_string(s.tool)}}));
            forget();
            break;
        case Act::Kind::LengthCheck:
            a.line =
                line(replaced(replaced(m_words.lengthCheck, "{tool}", std::to_string(s.tool)), "{length}", fixedText(a.gauge / m_words.unit(), m_words.digits().length)));
            break;
        case Act::Kind::Own:
            a.line = ownLine(m_out.program.own[a.own]);
            break;
        case Act::Kind::End:
            a.line = lines(m_speller.say(Phrase::End));
            break;
        }
    }
    /// As it is: scripts change what is ours alone. What it does is not known, so that nothing is taken as said.
    int ownLine(const std::string& text) {
        forget();
        const Act* at = std::exchange(m_act, nullptr);
        const int number = line(text);
        m_act = at;
        return number;
    }

    [[nodiscard]] std::string jointWord(const Joint& j, double v) const {
        if (j.kind != JointKind::Rotary) return m_speller.length(v);
        if (!j.shortest) return m_speller.angle(degrees(v));
        double within = std::fmod(degrees(v), 360.0); // one turn; what rounds up to a full one is none
        if (within < 0.0) within += 360.0;
        if (within > 360.0 - 0.5 * std::pow(10.0, -m_words.digits().angle)) within = 0.0;
        return m_speller.angle(within);
    }

    struct MoveWord {
        std::string joint, text;
        bool changed;
    };
    /// Words of a move; a word is left out while it repeats the last one of its letter.
    void move(Act& a, const ControlState& s) {
        if (a.machine != m_machineWords) forget();
        m_machineWords = a.machine;
        std::vector<MoveWord> words;
        const auto add = [&](const std::string& joint, const std::string& value) {
            auto& last = m_last[joint];
            const bool changed = last != value;
            last = value;
            words.push_back({joint, m_speller.axisWord(joint) + value, changed});
        };
        const bool tip = m_tip && !a.machine;
        if (tip)
            for (int k = 0; k < 3; ++k) add(std::string(1, "XYZ"[k]), length(a.tip[k]));
        for (const JointKind kind : {JointKind::Linear, JointKind::Rotary})
            for (std::size_t j = 0; j < m_machine.joints.size(); ++j)
                if (m_machine.joints[j].kind == kind && !(tip && kind == JointKind::Linear) && (a.says & (1u << j)) && !std::isnan(a.joints[j]))
                    add(m_machine.joints[j].name, jointWord(m_machine.joints[j], a.joints[j]));
        if (a.arc != 0) roundWords(a, normalOf(s.plane), words);
        // Every act has its line, so that reading back can be compared one by one.
        if (!words.empty() && std::none_of(words.begin(), words.end(), [](const MoveWord& w) { return w.changed; })) words.front().changed = true;
        if (!a.rapid) {
            const std::string feed = m_speller.feed(a.feed);
            if (feed != m_feed || s.feedMode == FeedMode::InverseTime || m_speller.spelling().repeatWords)
                words.push_back({"F", m_speller.say(Phrase::Feed, {{"feed", feed}}), true});
            m_feed = feed;
        }
        if (!m_speller.spelling().order.empty())
            std::stable_sort(words.begin(), words.end(), [&](const MoveWord& x, const MoveWord& y) { return m_speller.rank(x.joint) < m_speller.rank(y.joint); });
        const std::string motion = m_speller.say(a.rapid ? Phrase::Rapid : a.arc > 0 ? Phrase::ArcCounter : a.arc < 0 ? Phrase::ArcClockwise : Phrase::Cut);
        std::string code = a.machine ? m_speller.say(Phrase::MachineWords) + " " + motion : motion;
        std::string text = code == m_code && !a.machine && !m_speller.spelling().repeatMotion ? "" : code;
        m_code = std::move(code);
        for (const MoveWord& w : words)
            if (w.changed || m_speller.spelling().repeatWords) text += (text.empty() ? "" : " ") + w.text;
        a.line = lines(text);
    }
    /// The end of an arc within its plane is always said, and its centre.
    void roundWords(const Act& a, int normal, std::vector<MoveWord>& words) {
        static constexpr std::pair<Phrase, std::string_view> kCentres[] = {{Phrase::CentreX, "fromX"}, {Phrase::CentreY, "fromY"}, {Phrase::CentreZ, "fromZ"}};
        for (int k = 0; k < 3; ++k) {
            if (k == normal) continue;
            for (MoveWord& w : words)
                if (w.joint == std::string(1, "XYZ"[k])) w.changed = true;
            const auto& [phrase, field] = kCentres[k];
            words.push_back({std::string(1, "IJK"[k]), m_speller.say(phrase, {{field, length(a.centre[k])}}), true});
        }
    }
    void cycle(Act& a, const ControlState& s) {
        const bool tap = a.cycle == Cycle::Tap;
        std::string text = m_speller.say(Phrase::CycleReturn);
        text += (text.empty() ? "" : " ") + m_speller.say(cyclePhrase(cycleCode(a.cycle, a.seconds > 0.0)));
        for (int k = 0; k < 2; ++k) {
            const std::string axis(1, "XY"[k]);
            if (const int j = m_machine.find(axis); s.tilted || j >= 0)
                text += fmt::format(" {}{}", m_speller.axisWord(axis), length(s.tilted ? a.tip[k] : a.joints[static_cast<std::size_t>(j)]));
        }
        text += fmt::format(" {}{} {}", m_speller.axisWord("Z"), length(a.bottom), m_speller.say(Phrase::CycleTop, {{"top", length(a.top)}}));
        if (a.peck > 0.0) text += " " + m_speller.say(Phrase::CyclePeck, {{"peck", length(a.peck)}});
        if (a.seconds > 0.0) text += " " + m_speller.say(Phrase::CycleWait, {{"seconds", m_speller.seconds(a.seconds)}});
        a.line = line(text + " " + m_speller.say(Phrase::Feed, {{"feed", m_speller.feed(a.feed, tap)}}));
        m_state.cycles = s.cycles;
        m_code.clear();
        m_feed.clear();
    }

    const PostInput& m_input;
    const Machine& m_machine;
    const ProgramWords m_words;
    const Speller m_speller;
    WrittenProgram m_out;
    const bool m_tip;
    std::unique_ptr<Script> m_script;
    std::optional<Error> m_error;
    const Act* m_act = nullptr; ///< the one that lines are written for
    int m_line = 0, m_number = 0;
    ControlState m_state;
    bool m_machineWords = false;
    std::string m_code, m_feed;
    std::map<std::string, std::string> m_last;
};

class CutterDataWriter {
public:
    CutterDataWriter(const PostInput& input, Program program)
        : m_input(input), m_words(input.words), m_speller(spellingOf(input, program.dialect), *input.machine, m_words), m_program(std::move(program)) {}

    WrittenProgram write() {
        const auto plain = [&](const std::string& s) { return m_speller.plain(s); };
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
                pointsNote(m_input.operations[a.operation].result->points);
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
            case Act::Kind::Own:
                break;
            }
        }
        return {std::move(m_text), std::move(m_program), {}};
    }

private:
    int line(const std::string& s) {
        m_text += s + "\n";
        return ++m_line;
    }
    /// What no word of such programs says.
    void pointsNote(const PointsSpec& points) {
        if (points.how == AtPoints::ExactStop) line("PPRINT/EXACT STOP AT POINTS");
        if (points.how == AtPoints::Smoothed) line("PPRINT/POINTS ROUNDED OFF WITHIN " + fixedText(points.within / m_words.unit(), m_words.digits().length));
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
    const Speller m_speller;
    Program m_program;
    std::string m_text, m_feed;
    int m_line = 0;
    ControlState m_state;
};

} // namespace

Result<WrittenProgram> writeRs274(const PostInput& input, Program program) { return Rs274Writer(input, std::move(program)).write(); }
Result<WrittenProgram> writeCutterData(const PostInput& input, Program program) { return CutterDataWriter(input, std::move(program)).write(); }

Result<WrittenProgram> composeProgram(const PostInput& input, Dialect dialect) {
    auto program = intendedProgram(input, dialect);
    if (!program) return tl::unexpected(program.error());
    return kindOf(dialect).write(input, std::move(*program));
}

Result<std::string> writeProgram(const PostInput& input, Dialect dialect) {
    auto composed = composeProgram(input, dialect);
    if (!composed) return tl::unexpected(composed.error());
    return std::move(composed->text);
}

} // namespace gyre
