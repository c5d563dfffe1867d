// Programs with one word changed: each must be told, but for what changes nothing of what a control does.
#include "Program.h"
#include "Programs.h"
#include "holes/DrillSpec.h"
#include <charconv>
#include <fmt/format.h>
#include <map>
#include <set>

namespace test_mutations {

using namespace gyre;
using namespace gyre::test;

namespace {

/// Cuts, a hole pecked, one drilled with a wait, a thread; four tools, coolants, clamps where the machine has them.
PostInput everything(const std::string& machineFile, bool taps, const ProgramWords& words = {}) {
    PostInput in;
    in.jobName = "Everything";
    in.machine = std::make_shared<const Machine>(demoMachine(machineFile));
    in.words = words;
    const bool aboutX = in.machine->find("A") >= 0;
    const Vec3 lean = aboutX ? Vec3(0, -0.5, std::sqrt(0.75)) : Vec3(0.5, 0, std::sqrt(0.75));
    in.operations.push_back(
        steadyOperation(*in.machine, "Slot", 1, plainTool("Flat 6", CutterShape::Flat, 6, 8000, Coolant::Mist), Vec3::UnitZ(),
                        {{Motion::Rapid, {0, 0, 50}}, {Motion::Plunge, {0, 0, 10}, 250}, {Motion::Cut, {20, 5, 10}, 500}, {Motion::Retract, {20, 5, 50}}}));
    in.operations.back() = atPoints(in.operations.back(), {AtPoints::ExactStop});
    in.operations.push_back(
        steadyOperation(*in.machine, "Lean", 2, plainTool("Ball 4", CutterShape::Ball, 4, 12000, Coolant::Flood), lean,
                        {{Motion::Rapid, {0, 0, 50}}, {Motion::Plunge, {0, 0, 20}, 300}, {Motion::Cut, {10, 3, 20}, 600}, {Motion::Retract, {10, 3, 50}}}));
    in.operations.back() = atPoints(in.operations.back(), {AtPoints::Smoothed, 0.0254});
    // Round where the words ask for arcs: in the usual plane, then in another one.
    std::vector<Step> round{{Motion::Rapid, {2, 0, 50}}, {Motion::Plunge, {2, 0, 10}, 250}};
    for (int i = 1; i <= 4; ++i) round.push_back({Motion::Cut, {2.0 * std::cos(0.17 * i), 2.0 * std::sin(0.17 * i), 10}, 500});
    const Vec3 here = round.back().tip;
    for (int i = 1; i <= 4; ++i) round.push_back({Motion::Cut, here + Vec3(2.0 * std::sin(0.17 * i), 0, 2.0 - 2.0 * std::cos(0.17 * i)), 500});
    round.push_back({Motion::Retract, {round.back().tip.x(), round.back().tip.y(), 50}});
    in.operations.push_back(steadyOperation(*in.machine, "Round", 6, plainTool("Flat 3", CutterShape::Flat, 3, 9000), Vec3::UnitZ(), round));
    DrillSpec drill;
    drill.toGeometry = false;
    drill.depth = 8.0;
    drill.fullDiameter = false;
    const std::vector<Vec3> mouths{{10, 0, 20}, {-10, 5, 20}};
    drill.cycle = Cycle::Peck;
    drill.peck = 3.0;
    in.operations.push_back(holeOperation(*in.machine, "Peck", 3, plainTool("Drill 5", CutterShape::Drill, 5, 2000, Coolant::Through), mouths, drill));
    drill.cycle = Cycle::Drill;
    drill.dwell = 0.5;
    in.operations.push_back(holeOperation(*in.machine, "Drill", 3, plainTool("Drill 5", CutterShape::Drill, 5, 2100), mouths, drill));
    drill.cycle = Cycle::Bore;
    in.operations.push_back(holeOperation(*in.machine, "Bore", 4, plainTool("Bore 6", CutterShape::Flat, 6, 900), mouths, drill));
    if (!taps) return in;
    drill.cycle = Cycle::Tap;
    drill.pitch = 1.0;
    in.operations.push_back(holeOperation(*in.machine, "Thread", 5, plainTool("Tap 6", CutterShape::Flat, 6, 400), mouths, drill));
    return in;
}

std::vector<std::string> linesOf(const std::string& text) {
    std::vector<std::string> lines;
    for (std::size_t from = 0; from < text.size();) {
        const auto end = std::min(text.find('\n', from), text.size());
        lines.push_back(text.substr(from, end - from));
        from = end + 1;
    }
    return lines;
}
std::string joined(const std::vector<std::string>& lines) {
    std::string text;
    for (const auto& l : lines) text += l + "\n";
    return text;
}

/// Words of a line: split at blanks, or for cutter data at / and commas.
std::vector<std::string> wordsOf(const std::string& line, bool cutterData) {
    std::vector<std::string> words;
    std::string word;
    if (!cutterData && (line.starts_with('(') || line.starts_with('{') || line.starts_with(';'))) return {line};
    for (const char c : line) {
        if (c == ' ' && !cutterData) {
            if (!word.empty()) words.push_back(std::exchange(word, {}));
            continue;
        }
        word += c;
        if (cutterData && (c == '/' || c == ',')) words.push_back(std::exchange(word, {}));
    }
    if (!word.empty()) words.push_back(word);
    return words;
}
std::string lineOf(const std::vector<std::string>& words, bool cutterData) {
    std::string line;
    for (const auto& w : words) line += (line.empty() || cutterData ? "" : " ") + w;
    return line;
}

/// What a word is, without its number where that is a measure: "G43.4", "M6", "X", "F", "GOTO/".
std::string kindOf(const std::string& word) {
    if (word.starts_with('(') || word.starts_with('{') || word.starts_with(';')) return "(comment)";
    if (word.starts_with('G') || word.starts_with('M')) return word;
    std::string kind;
    for (const char c : word)
        if (std::isalpha(static_cast<unsigned char>(c)) || c == '/') kind += c;
    return kind.empty() ? "number" : kind;
}

/// A number with a point, whatever the locale, if the text is one as a whole.
std::optional<double> pointNumber(std::string_view text) {
    if (text.starts_with('+') && !text.starts_with("+-")) text.remove_prefix(1);
    double v = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    return error == std::errc() && end == text.data() + text.size() ? std::optional(v) : std::nullopt;
}

/// A number as it counts; what is none stays as it is.
std::string plainNumber(const std::string& text) {
    const auto v = pointNumber(text);
    return v && std::abs(*v) < 1e9 ? fmt::format("{:.6f}", *v + 0.0) : text; // no minus zero
}

/// What each block of an RS-274 program comes to when all that goes on holding is written out: two programs with the same form are one to any control.
/// Made without the reader, and knows only what holds until when.
std::string writtenOut(const std::string& text) {
    static const std::map<std::string, std::string> kGroups{
        {"G0", "motion"},   {"G1", "motion"},    {"G80", "motion"},   {"G81", "motion"},    {"G82", "motion"},    {"G83", "motion"},    {"G84", "motion"},
        {"G85", "motion"},  {"G89", "motion"},   {"G73", "motion"},   {"G17", "plane"},     {"G18", "plane"},     {"G19", "plane"},     {"G2", "motion"},
        {"G3", "motion"},   {"G20", "units"},    {"G21", "units"},    {"G40", "radius"},    {"G43.4", "length"},  {"G49", "length"},    {"G54", "offset"},
        {"G55", "offset"},  {"G90", "distance"}, {"G91", "distance"}, {"G93", "feed mode"}, {"G94", "feed mode"}, {"G95", "feed mode"}, {"G98", "return"},
        {"G99", "return"},  {"M3", "spindle"},   {"M4", "spindle"},   {"M5", "spindle"},    {"M7", "coolant"},    {"M8", "coolant"},    {"M9", "coolant"},
        {"M88", "coolant"}, {"M10", "clamp a"},  {"M11", "clamp a"},  {"M21", "clamp b"},   {"M22", "clamp b"},   {"M23", "clamp c"},   {"M24", "clamp c"},
        {"M29", "coupled"}, {"G61", "points"},   {"G64", "points"}};
    std::map<std::string, std::string> holds{{"points", "G64"}}; // where a control stands when nothing is said
    const auto forget = [&](const char* letters) {
        for (; *letters; ++letters) holds.erase(std::string(1, *letters));
    };
    std::string out, frame;
    for (std::string line : linesOf(text)) {
        if (line.starts_with('(') || line == "%") continue;
        if (line.starts_with('N')) line.erase(0, std::min(line.find_first_not_of("0123456789. ", 1), line.size()));
        if (line.find_first_not_of(' ') == std::string::npos) continue;
        std::vector<std::string> once;
        bool acts = false, fed = false, machine = false;
        std::string spaced;
        for (const char c : line)
            if (c != ' ') spaced += std::isalpha(static_cast<unsigned char>(c)) ? std::string(" ") + c : std::string(1, c);
        for (const std::string& w : wordsOf(spaced, false)) machine = machine || w == "G53";
        const std::string now = machine ? "machine" : "program";
        for (std::string w : wordsOf(spaced, false)) {
            if (w[0] == 'G' || w[0] == 'M')
                if (const std::string n = plainNumber(w.substr(1)); n != w.substr(1) && n.find_first_not_of("0123456789.") == std::string::npos)
                    w = w[0] + fmt::format("{:g}", *pointNumber(n));
            if (const auto group = kGroups.find(w); group != kGroups.end()) {
                if (group->second == "motion" && (w == "G0" || w == "G1" || w == "G2" || w == "G3" || w == "G80")) {
                    forget("RQP");
                    holds.erase("coupled");
                }
                if (group->second == "motion" && w[1] >= '7') holds["cycle on"] = w; // only G80 puts it off for good
                if (group->second == "length" && holds["length"] != w) forget("XYZ");
                if (group->second == "feed mode" && holds["feed mode"] != w) forget("F");
                holds[group->second] = w;
            } else if (std::string_view("XYZABCFSTHRQP").find(w[0]) != std::string_view::npos && w.size() > 1) {
                if (std::string_view("XYZABC").find(w[0]) != std::string_view::npos && !acts) {
                    acts = true;
                    if (now != frame) forget("XYZ");
                    frame = now;
                }
                fed = fed || w[0] == 'F';
                holds[std::string(1, w[0])] = plainNumber(w.substr(1));
            } else {
                once.push_back(w);
                acts = acts || w == "M6" || w == "G4" || w == "M30";
                if (w == "M6") forget("XYZ");
                if (w != "M6" && w != "G4" && w != "M30" && w != "G53") acts = true; // not known here: it counts as it stands
            }
        }
        if (!acts) {
            if (fed) out += "a feed without a move\n";
            continue;
        }
        for (const auto& [key, value] : holds) out += key + "=" + value + " ";
        for (const std::string& w : once) out += w + " ";
        out += frame + "\n";
        if (holds["feed mode"] == "G93") forget("F");
        if (std::find(once.begin(), once.end(), "G4") != once.end()) forget("P");
    }
    return out;
}

struct Mutant {
    std::string kind; ///< word and change
    std::string text;
    std::string harmless; ///< why it may go untold; empty: it may not
};

/// Does this line only name something for people, or say what holds until the next move whatever its order?
std::string reasonOf(const std::string& kind, const std::string& change) {
    if (kind == "(comment)" || kind.starts_with("PARTNO") || kind.starts_with("PPRINT")) return "texts for people";
    if (kind == "N") return "block numbers do nothing";
    if (kind == "number" && change.find("gone") != std::string::npos) return "the mark of the tape does nothing"; // %
    if (change == "line twice" || change == "lines swapped") return "states hold until the next act: said twice or in another order they are the same";
    return {};
}

class Mutations {
public:
    Mutations(const PostInput& input, Dialect dialect)
        : m_input(input), m_cl(dialect == Dialect::CutterData), m_text(writeProgram(input, dialect).value()), m_lines(linesOf(m_text)) {}

    void all(const std::function<void(const Mutant&)>& test) {
        std::map<std::string, int> seen;
        constexpr int kEach = 4;
        for (std::size_t l = 0; l < m_lines.size(); ++l) {
            const auto words = wordsOf(m_lines[l], m_cl);
            const std::string first = words.empty() ? "" : kindOf(words[words.size() > 1 && kindOf(words[0]) == "N" ? 1 : 0]);
            const auto put = [&](const std::string& kind, const std::string& change, std::vector<std::string> lines) {
                if (++seen[kind + " " + change] > kEach) return;
                const bool forPeople = m_lines[l].starts_with("PPRINT/") || m_lines[l].starts_with("PARTNO/");
                test({kind + " " + change, joined(lines), reasonOf(forPeople ? "PPRINT" : kind, change)});
            };
            auto lines = m_lines;
            lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(l));
            put(first, "line gone", lines);
            lines = m_lines;
            lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(l), m_lines[l]);
            put(first, "line twice", lines);
            if (l + 1 < m_lines.size()) {
                lines = m_lines;
                std::swap(lines[l], lines[l + 1]);
                put(first, "lines swapped", lines);
            }
            for (std::size_t w = 0; w < words.size(); ++w) {
                const auto with = [&](const std::string& change, const std::vector<std::string>& other) {
                    lines = m_lines;
                    lines[l] = lineOf(other, m_cl);
                    put(kindOf(words[w]), change, lines);
                };
                auto other = words;
                other.erase(other.begin() + static_cast<std::ptrdiff_t>(w));
                with("gone", other);
                for (const auto& [change, word] : changed(words[w])) {
                    other = words;
                    other[w] = word;
                    with(change, other);
                }
            }
        }
    }
    [[nodiscard]] bool told(const std::string& text) const {
        const auto read = readBack(text, m_input);
        return !read || !compareProgram(*read, m_input).agrees();
    }
    [[nodiscard]] const std::string& text() const { return m_text; }

private:
    std::vector<std::pair<std::string, std::string>> changed(const std::string& word) const {
        std::vector<std::pair<std::string, std::string>> out;
        const std::string kind = kindOf(word);
        if (kind == "(comment)") return {{"other", "(X)"}};
        static const std::vector<std::string> kCodes{"G0",  "G1",  "G2",  "G3",  "G17", "G18",   "G19", "G20",   "G21", "G40", "G43.4", "G49", "G53",
                                                     "G54", "G55", "G80", "G81", "G43", "G68.2", "G69", "G53.1", "G61", "G64", "G82",   "G83", "G84",
                                                     "G85", "G89", "G73", "G90", "G91", "G93",   "G94", "G95",   "G98", "G99", "M0",    "M3",  "M4",
                                                     "M5",  "M6",  "M7",  "M8",  "M9",  "M88",   "M10", "M11",   "M21", "M22", "M30"};
        static const std::map<std::string, std::vector<std::string>> kOwnWords{
            {"TIPON", {"TIPOFF", "MACHINE", "G43.4"}}, {"TIPOFF", {"TIPON", "G49"}}, {"MACHINE", {"G53", "TIPOFF"}}, {"G234", {"G43.4"}}};
        if (const auto own = kOwnWords.find(word); own != kOwnWords.end()) {
            for (const auto& o : own->second) out.emplace_back("as " + o, o);
            return out;
        }
        if (!m_cl && (word[0] == 'G' || (word[0] == 'M' && word != "MACHINE"))) {
            for (const auto& code : kCodes)
                if (code != word && code[0] == word[0]) out.emplace_back("as " + code, code);
            return out;
        }
        if (m_cl && std::isalpha(static_cast<unsigned char>(word[0]))) {
            static const std::map<std::string, std::vector<std::string>> kOthers{
                {"MM", {"INCHES"}},         {"ON", {"OFF"}},     {"OFF", {"ON"}},    {"CLW", {"CCLW"}},  {"MMPM", {"IPM", "MMPR"}},
                {"FLOOD", {"MIST", "OFF"}}, {"MMPR,", {"IPR,"}}, {"RPM,", {"SFM,"}}, {"FINI", {"STOP"}}, {"RAPID", {"RAPIDE"}}};
            if (const auto it = kOthers.find(word); it != kOthers.end())
                for (const auto& o : it->second) out.emplace_back("as " + o, o);
            return out;
        }
        const auto equals = word.find('=');
        const std::size_t from = m_cl ? 0 : equals != std::string::npos ? equals + 1 : 1, end = word.find_last_of("0123456789.") + 1;
        if (end <= from) return out;
        const std::string number = word.substr(from, end - from), before = word.substr(0, from), after = word.substr(end);
        if (!pointNumber(number)) return out; // a word of a comment
        const double v = pointNumber(number).value();
        if (m_input.spelling && m_input.spelling->pointAlways && number.find('.') != std::string::npos)
            out.emplace_back("without its point", before + fmt::format("{:.0f}", v) + after);
        const auto digits = number.find('.') == std::string::npos ? 0 : number.size() - number.find('.') - 1;
        const auto put = [&](const char* change, double value) { out.emplace_back(change, before + fmt::format("{:.{}f}", value, digits) + after); };
        if (v != 0.0) {
            put("ten times", 10.0 * v);
            put("a tenth", 0.1 * v);
            put("negative", -v);
        }
        put("one more", v + 1.0);
        put("last digit", v + 2.0 * std::pow(10.0, -static_cast<double>(digits)));
        if (before == "F" || before == "S") out.emplace_back("0", before + "0" + after);
        return out;
    }

    const PostInput& m_input;
    const bool m_cl;
    std::string m_text;
    std::vector<std::string> m_lines;
};

} // namespace

class TestMutations : public QObject {
    Q_OBJECT
private slots:
    void everySingleWordCounts() {
        std::set<std::string> kinds;
        std::size_t tried = 0;
        QStringList survived;
        ProgramWords rigid;
        rigid.rigidTap = 29;
        rigid.arcs = 0.02;
        rigid.lengthCheck = "CHECK T{tool} L{length}";
        ProgramWords inch;
        inch.inch = inch.dwellMs = inch.tapPerTurn = true;
        inch.arcs = 0.02;
        for (const char* machine : {"plover-4.machine.json", "heron-5t.machine.json", "egret-5h.machine.json", "dunlin-5m.machine.json"})
            for (const ProgramWords& words : {ProgramWords{}, rigid, inch})
                for (const Dialect d : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
                    if (!(words == ProgramWords{}) && d == Dialect::TipControl) continue;
                    const PostInput in = everything(machine, d != Dialect::TipControl, words);
                    Mutations mutations(in, d);
                    std::string whole;
                    const auto read = readProgram(mutations.text(), *in.machine, in.words);
                    if (!read)
                        whole = read.error().text();
                    else if (const ReplayReport r = compareProgram(*read, in); !r.agrees())
                        whole = r.differences.front();
                    QVERIFY2(whole.empty(), qPrintable(QString("%1 %2: %3").arg(machine, kindOf(d).word, whole.c_str())));
                    mutations.all([&](const Mutant& m) {
                        if (m.text == mutations.text()) return;
                        ++tried;
                        kinds.insert(fmt::format("{} {}", kindOf(d).word, m.kind));
                        if (!m.harmless.empty() || mutations.told(m.text)) return;
                        // A word that says what holds already may be left out or said otherwise.
                        if (d == Dialect::CutterData || writtenOut(m.text) != writtenOut(mutations.text()))
                            survived << QString("%1 %2: %3").arg(machine, kindOf(d).word, m.kind.c_str());
                    });
                }
        survived.removeDuplicates();
        QVERIFY2(survived.isEmpty(), qPrintable(survived.join("\n")));
        qInfo("%zu mutants of %zu kinds", tried, kinds.size());
        QVERIFY(kinds.size() >= 200);
    }
    // The same for dialects that shops have made, in their own words: what they come to is judged by putting ours in their place, letter by letter.
    void wordsOfShopsCount() {
        static const std::vector<std::pair<std::string, std::string>> kOurs{{"TIPON", "G43.4 "}, {"TIPOFF", "G49 "}, {"MACHINE", "G53 "}, {"B1=", "B"}, {"C1=", "C"}};
        std::set<std::string> kinds;
        std::size_t tried = 0;
        QStringList survived;
        for (const std::string name : {"egret-5h", "plover-4", "dunlin-5m", "heron-5t", "snipe-5n", "tilted-planes"}) {
            const auto spelling = std::make_shared<const Spelling>(loadSpelling(demoFile(name + ".dialect.json")).value());
            const bool planes = spelling->indexed != IndexedWork::AsOther; // with its cycles
            const PostInput in = inDialect(everything((planes ? "heron-5t" : name) + ".machine.json", planes || spelling->kind == Dialect::Joints), spelling);
            Mutations mutations(in, spelling->kind);
            QVERIFY2(!mutations.told(mutations.text()), name.c_str());
            const auto ours = [&](const std::string& text) {
                std::string out;
                for (std::string line : linesOf(text)) {
                    const char open = spelling->comments == CommentMarks::Braces ? '{' : spelling->comments == CommentMarks::Semicolon ? ';' : '(';
                    if (const auto at = line.find(open); at != std::string::npos) line.erase(at);
                    for (const auto& [own, our] : kOurs)
                        for (auto at = line.find(own); at != std::string::npos; at = line.find(own, at + our.size())) line.replace(at, own.size(), our);
                    if (spelling->kind == Dialect::TipControl && name == "egret-5h")
                        for (char& c : line) c = c == 'D' ? 'H' : c;
                    out += line + "\n";
                }
                return writtenOut(out);
            };
            const std::string plain = ours(mutations.text());
            mutations.all([&](const Mutant& m) {
                if (m.text == mutations.text()) return;
                ++tried;
                kinds.insert(name + " " + m.kind);
                if (!m.harmless.empty() || mutations.told(m.text)) return;
                if (ours(m.text) != plain || m.kind.find("point") != std::string::npos) survived << QString("%1: %2").arg(name.c_str(), m.kind.c_str());
            });
        }
        survived.removeDuplicates();
        QVERIFY2(survived.isEmpty(), qPrintable(survived.join("\n")));
        qInfo("%zu mutants of %zu kinds", tried, kinds.size());
        QVERIFY(kinds.size() >= 200);
    }
    // One letter of the program replaced by another: told, unless it stands in a comment or a block number, or the number stays what it was.
    void randomLettersCount() {
        Random random(17);
        ProgramWords words;
        words.arcs = 0.02;
        const PostInput in = everything("heron-5t.machine.json", true, words);
        static const std::string kLetters = "0123456789.-GMXYZACFSTHRQPNIJK ";
        for (const Dialect d : {Dialect::Joints, Dialect::CutterData}) {
            const Mutations mutations(in, d);
            const bool cl = d == Dialect::CutterData;
            const auto meaning = [&](const std::string& text) {
                if (!cl) return writtenOut(text);
                std::string out; // without what does nothing
                for (std::string line : linesOf(text)) {
                    while (line.ends_with(' ')) line.pop_back();
                    if (line.starts_with("PPRINT/") || line.starts_with("PARTNO/")) continue;
                    for (const std::string& w : wordsOf(line, true)) out += w.ends_with(',') ? plainNumber(w.substr(0, w.size() - 1)) + "," : plainNumber(w);
                    out += "\n";
                }
                return out;
            };
            const std::string plain = meaning(mutations.text());
            int counted = 0;
            for (int i = 0; i < 1500; ++i) {
                std::string text = mutations.text();
                const auto at = static_cast<std::size_t>(random.integer(0, static_cast<int>(text.size()) - 1));
                if (text[at] == '\n') continue;
                const char letter = kLetters[static_cast<std::size_t>(random.integer(0, static_cast<int>(kLetters.size()) - 1))];
                if (letter == text[at]) continue;
                text[at] = letter;
                if (meaning(text) == plain) continue;
                ++counted;
                const auto from = text.rfind('\n', at) + 1;
                QVERIFY2(mutations.told(text), qPrintable(QString("%1: '%2'").arg(kindOf(d).word, text.substr(from, text.find('\n', from) - from).c_str())));
            }
            QVERIFY2(counted > 700, qPrintable(QString::number(counted)));
        }
    }
};

GYRE_TEST(TestMutations)

} // namespace test_mutations
#include "test_mutations.moc"
