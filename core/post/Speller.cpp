#include "post/Speller.h"
#include "base/Text.h"
#include "base/Units.h"
#include "post/ReadLines.h"
#include "post/Words.h"
#include <algorithm>
#include <fmt/format.h>
#include <set>
#include <span>

namespace gyre {
namespace {

constexpr int kMCodes = 10000;

bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool isCapital(char c) { return c >= 'A' && c <= 'Z'; }

/// Letters of values as our own spelling has them.
char letterOf(std::string_view field) {
    static constexpr std::pair<std::string_view, char> kLetters[] = {{"tool", 'T'}, {"register", 'H'}, {"speed", 'S'}, {"seconds", 'P'}, {"feed", 'F'}, {"top", 'R'},
                                                                     {"peck", 'Q'}, {"x", 'x'},        {"y", 'y'},     {"z", 'z'},       {"i", 'i'},    {"j", 'j'},
                                                                     {"k", 'k'},    {"within", 'w'},   {"fromX", 'p'}, {"fromY", 'q'},   {"fromZ", 'r'}};
    for (const auto& [name, letter] : kLetters)
        if (name == field) return letter;
    return 0;
}

/// A name in programs: a letter, or letters and figures, with a '=' at its end where a value follows.
bool isName(std::string_view name, bool valued) {
    if (name.empty() || !isCapital(name.front())) return false;
    if (valued && name.size() > 1 && name.back() == '=') name.remove_suffix(1);
    return std::all_of(name.begin(), name.end(), [](char c) { return isCapital(c) || isDigit(c) || c == '_' || c == '.'; });
}

std::vector<std::string> split(const std::string& text, const char* at) {
    std::vector<std::string> out;
    for (std::size_t from = 0; from < text.size();) {
        from = text.find_first_not_of(at, from);
        if (from == std::string::npos) break;
        const auto end = std::min(text.find_first_of(at, from), text.size());
        out.push_back(text.substr(from, end - from));
        from = end;
    }
    return out;
}

/// What the safe line calls them.
constexpr std::pair<Phrase, std::string_view> kSafe[] = {{Phrase::Millimetres, "units"},   {Phrase::Inches, "units"},        {Phrase::Plane, "plane"},
                                                         {Phrase::Absolute, "absolute"},   {Phrase::RadiusOff, "radiusOff"}, {Phrase::LengthOff, "lengthOff"},
                                                         {Phrase::CyclesOff, "cyclesOff"}, {Phrase::PerMinute, "perMinute"}};

} // namespace

Result<std::vector<Speller::Piece>> Speller::pieces(const std::string& text, Phrase phrase) {
    const PhraseKind& kind = phraseKind(phrase);
    std::vector<Piece> out;
    for (const std::string& word : split(text, " \n")) {
        Piece p;
        const auto brace = word.find('{');
        if (brace != std::string::npos) {
            p.name = word.substr(0, brace);
            p.field = word.substr(brace + 1, std::max<std::size_t>(word.size(), brace + 2) - brace - 2);
            if (word.back() != '}' || !isName(p.name, true)) return fail(fmt::format("'{}' is not a letter and a value in braces", printable(word)), kind.word);
            const auto values = split(std::string(kind.fields) + " " + kind.others, " ");
            if (std::find(values.begin(), values.end(), p.field) == values.end()) return fail(fmt::format("there is no value '{}' here", printable(p.field)), kind.word);
        } else {
            if (!isName(word, false)) return fail(fmt::format("'{}' is no word of a program: capitals and figures", printable(word)), kind.word);
            p.name = word;
            if (const auto number = numberIn(std::string_view(word).substr(1)); word.size() > 1 && isDigit(word[1]) && number) {
                p.name = word.substr(0, 1);
                p.numbered = true;
                p.value = *number;
            } else if (word.size() < 2)
                return fail(fmt::format("'{}' has no number", printable(word)), kind.word);
        }
        out.push_back(std::move(p));
    }
    return out;
}

Speller::Speller(const Spelling& spelling, const Machine& machine, const ProgramWords& words) : m_spelling(spelling), m_machine(machine), m_words(words) {
    std::set<std::string> names;
    const auto add = [&](Phrase phrase, const std::string& text, int code) {
        const auto parts = pieces(text, phrase);
        if (!parts) return;
        Pattern p;
        p.phrase = phrase;
        for (const Piece& piece : *parts) {
            (piece.field.empty() ? p.codes : p.fields).push_back(piece);
            if (piece.name.size() > 1) names.insert(piece.name);
            if (!piece.field.empty() && phrase != Phrase::PlaneOn && phrase != Phrase::Smooth) m_prefixes.emplace_back(piece.name, letterOf(piece.field));
        }
        if (code < 0) return;
        p.means.push_back(code >= kMCodes ? PlainWord{'M', static_cast<double>(code - kMCodes)} : PlainWord{'G', static_cast<double>(code)});
        if (!p.codes.empty() || !p.fields.empty()) m_patterns.push_back(std::move(p));
    };
    for (std::size_t i = 0; i < kPhrases; ++i) {
        const auto phrase = static_cast<Phrase>(i);
        if (phrase == Phrase::Offset)
            for (int g = 54; g <= 59; ++g) add(phrase, replaced(spelling[phrase], "{offset}", std::to_string(g)), g * 10);
        else
            add(phrase, spelling[phrase], phraseKind(phrase).code);
    }
    std::stable_sort(m_patterns.begin(), m_patterns.end(), [](const Pattern& a, const Pattern& b) { return a.codes.size() > b.codes.size(); });
    for (const char* tip : {"X", "Y", "Z"}) m_axes.emplace_back(axisWord(tip), *tip);
    for (const Joint& j : machine.joints)
        if (j.name.size() == 1 && (j.name < "X" || j.name > "Z")) m_axes.emplace_back(axisWord(j.name), j.name.front());
    for (const auto& [word, letter] : m_axes)
        if (word.size() > 1) names.insert(word);
    if (spelling.numberWord.size() > 1) names.insert(spelling.numberWord);
    m_names.assign(names.begin(), names.end());
    std::stable_sort(m_names.begin(), m_names.end(), [](const std::string& a, const std::string& b) { return a.size() > b.size(); });
    m_codes = {{words.flood, "coolant from outside"}, {words.mist, "mist"}, {words.through, "coolant through the tool"}, {words.coolantOff, "coolant off"}};
    if (words.rigidTap > 0) m_codes.emplace_back(words.rigidTap, "couples spindle and feed");
    for (const Joint& j : machine.joints) {
        if (j.clampCode > 0) m_codes.emplace_back(j.clampCode, "clamps " + j.name);
        if (j.freeCode > 0) m_codes.emplace_back(j.freeCode, "lets " + j.name + " go");
    }
    const auto line = spelling[Phrase::Tool].find('\n');
    m_toolAhead = line != std::string::npos && spelling[Phrase::Tool].find("{tool}") < line;
}

std::string Speller::axisWord(const std::string& joint) const {
    for (const AxisWord& a : m_spelling.axes)
        if (a.joint == joint) return a.word;
    return joint;
}

std::size_t Speller::rank(const std::string& joint) const {
    const auto order = split(m_spelling.order, " ");
    return static_cast<std::size_t>(std::find(order.begin(), order.end(), joint) - order.begin());
}

std::string Speller::say(Phrase phrase, std::initializer_list<Field> fields) const {
    std::string text = m_spelling[phrase];
    for (const Field& f : fields) text = replaced(std::move(text), fmt::format("{{{}}}", f.name), f.value);
    return text;
}

std::string Speller::smooth(double mm) const {
    if (mm > 0.0) return say(Phrase::Smooth, {{"within", length(mm)}});
    std::string out;
    for (const std::string& word : split(m_spelling[Phrase::Smooth], " "))
        if (word.find('{') == std::string::npos) out += (out.empty() ? "" : " ") + word;
    return out;
}

bool Speller::isSafe(Phrase phrase) const {
    for (const auto& [p, name] : kSafe)
        if (p == phrase) return m_spelling.safe.find(fmt::format("{{{}}}", name)) != std::string::npos;
    return false;
}

std::string Speller::safeLine() const {
    std::string text = m_spelling.safe;
    for (const auto& [p, name] : kSafe)
        if (name != "units" || (p == Phrase::Inches) == m_words.inch) text = replaced(std::move(text), fmt::format("{{{}}}", name), m_spelling[p]);
    std::string out; // blanks around what is spelled as nothing go
    for (const std::string& line : split(text, "\n")) {
        std::string tidy;
        for (const std::string& word : split(line, " ")) tidy += (tidy.empty() ? "" : " ") + word;
        if (!tidy.empty()) out += (out.empty() ? "" : "\n") + tidy;
    }
    return out;
}

std::string Speller::number(std::string t) const {
    if (!m_spelling.zerosKept && t.find('.') != std::string::npos) {
        while (t.back() == '0') t.pop_back();
        if (t.back() == '.') t.pop_back();
    }
    if (m_spelling.pointAlways && t.find('.') == std::string::npos) t += '.';
    return m_spelling.plusWritten && t.front() != '-' ? "+" + t : t;
}

std::string Speller::length(double mm) const { return number(fixedText(mm / m_words.unit(), m_words.digits().length)); }
std::string Speller::angle(double degrees) const { return number(fixedText(degrees, m_words.digits().angle)); }
std::string Speller::seconds(double s) const { return m_words.dwellMs ? fmt::format("{:.0f}", 1000.0 * s) : fmt::format("{:.3f}", s); }
std::string Speller::feed(double feed, bool tap) const {
    std::string t = feedText(feed, tap);
    if (m_spelling.pointAlways && t.find('.') == std::string::npos) t += '.';
    return t;
}

std::string Speller::comment(const std::string& text) const {
    switch (m_spelling.comments) {
    case CommentMarks::Braces:
        return "{" + text + "}";
    case CommentMarks::Semicolon:
        return "; " + text;
    case CommentMarks::None:
        return {};
    default:
        return "(" + text + ")";
    }
}

// Capitals, figures and simple signs only: every control reads those. Signs and letters that names have are spelled with them.
std::string Speller::plain(const std::string& text) const {
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
            out += m_spelling.capitals ? static_cast<char>(std::toupper(u)) : c;
        else if (c == ' ' || c == '-' || c == '.' || c == ',')
            out += c;
    }
    return out;
}

Result<std::string> Speller::withoutComments(std::string_view text, int line) const {
    const CommentMarks marks = m_spelling.comments;
    const char open = marks == CommentMarks::Braces ? '{' : '(', close = marks == CommentMarks::Braces ? '}' : ')';
    std::string code;
    int depth = 0;
    for (const char c : text) {
        if (marks == CommentMarks::Semicolon && c == ';') break;
        const bool marked = marks == CommentMarks::Round || marks == CommentMarks::Braces;
        if (marked && c == open)
            ++depth;
        else if (marked && c == close) {
            if (--depth < 0) return badLine(line, fmt::format("a '{}' without a '{}'", close, open));
        } else if (depth == 0 && c != ' ' && c != '\t' && c != '\r')
            code += c;
    }
    if (depth != 0) return badLine(line, "a comment is not closed");
    return code;
}

bool Speller::isComment(const std::string& line) const {
    const auto code = withoutComments(line, 0);
    return code && code->empty();
}

char Speller::axisLetter(std::string_view name) const {
    for (const auto& [word, letter] : m_axes)
        if (word == name) return letter;
    return 0;
}

Result<std::vector<Speller::Token>> Speller::tokens(std::string_view code, int line) const {
    std::vector<Token> out;
    const auto isAlpha = [](char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; };
    for (std::size_t i = 0; i < code.size();) {
        const auto known = std::find_if(m_names.begin(), m_names.end(), [&](const std::string& n) { return code.substr(i, n.size()) == n; });
        Token t;
        if (known == m_names.end() && !isAlpha(code[i])) return badLine(line, fmt::format("a letter is expected before '{}'", printable(code.substr(i, 20))));
        const std::size_t size = known == m_names.end() ? 1 : known->size();
        t.name = code.substr(i, size);
        std::size_t end = i + size;
        while (end < code.size() && !isAlpha(code[end])) ++end;
        const std::string_view number = code.substr(i + size, end - i - size);
        t.text = code.substr(i, end - i);
        if (size == 1 || !number.empty()) {
            const auto v = numberOf(number, line);
            if (!v) return tl::unexpected(v.error());
            t.value = *v;
            t.numbered = true;
            t.point = number.find('.') != std::string_view::npos;
        }
        out.push_back(t);
        i = end;
    }
    return out;
}

void Speller::assign(std::vector<Token>& tokens) const {
    const auto find = [&](const Piece& p) {
        return std::find_if(tokens.begin(), tokens.end(), [&](const Token& t) {
            return !t.used && t.name == p.name && (!p.field.empty() ? t.numbered : t.numbered == p.numbered && (!p.numbered || t.value == p.value));
        });
    };
    for (const Pattern& p : m_patterns)
        while (true) {
            std::vector<Token*> taken;
            bool all = true;
            for (const Piece& code : p.codes) {
                const auto t = find(code);
                all = all && t != tokens.end();
                if (!all) break;
                t->used = true;
                taken.push_back(&*t);
            }
            const bool bare = p.codes.empty();
            for (const Piece& f : p.fields)
                if (const auto t = find(f); all && t != tokens.end()) {
                    t->used = true;
                    t->field = f.field;
                    taken.push_back(&*t);
                } else if (bare)
                    all = false;
            if (!all || taken.empty()) {
                for (Token* t : taken) t->used = false, t->field = {};
                break;
            }
            for (Token* t : taken) t->said = &phraseKind(p.phrase);
            taken.front()->code = &p;
        }
}

Result<std::vector<PlainWord>> Speller::read(std::string_view code, int line) const {
    auto all = tokens(code, line);
    if (!all) return tl::unexpected(all.error());
    assign(*all);
    std::vector<PlainWord> out;
    bool first = true;
    for (const Token& t : *all) {
        const auto bad = [&](const std::string& what) { return badLine(line, what); };
        const bool begins = std::exchange(first, false);
        if (t.name == m_spelling.numberWord) {
            if (!begins || t.value < 0.0 || std::signbit(t.value) || t.value != std::round(t.value))
                return bad(fmt::format("{} and a whole number stand at the beginning of a block, or not at all", m_spelling.numberWord));
            continue;
        }
        if (t.code)
            for (const PlainWord& w : t.code->means) out.push_back(w);
        if (!t.field.empty()) out.push_back({letterOf(t.field), t.value});
        if (t.used) continue;
        const auto pointed = [&] { return !m_spelling.pointAlways || t.point; };
        if (t.name == "M" && t.numbered) {
            if (std::none_of(m_codes.begin(), m_codes.end(), [&](const auto& c) { return t.value == c.first; }))
                return bad(fmt::format("M{:g} is not understood", t.value));
            out.push_back({'M', t.value});
            continue;
        }
        if (const char axis = axisLetter(t.name)) {
            if (!pointed()) return bad(fmt::format("{} has no decimal point", printable(t.text)));
            out.push_back({axis, t.value});
            continue;
        }
        const auto prefix = std::find_if(m_prefixes.begin(), m_prefixes.end(), [&](const auto& p) { return p.first == t.name; });
        if (prefix == m_prefixes.end())
            return bad(t.name == "G" || t.name.size() > 1 ? fmt::format("{} is not understood", printable(t.text))
                                                          : fmt::format("the machine has no axis {}", printable(t.name)));
        if (std::string_view("FRQpqr").find(prefix->second) != std::string_view::npos && !pointed())
            return bad(fmt::format("{} has no decimal point", printable(t.text)));
        out.push_back({prefix->second, t.value});
    }
    return out;
}

std::vector<Speller::Meaning> Speller::meanings(std::string_view line) const {
    const auto code = withoutComments(line, 0);
    if (!code || code->empty()) return {};
    auto all = tokens(*code, 0);
    if (!all) return {};
    assign(*all);
    std::vector<Meaning> out;
    for (const Token& t : *all) {
        Meaning m{std::string(t.text), {}};
        const auto machineCode = std::find_if(m_codes.begin(), m_codes.end(), [&](const auto& c) { return t.value == c.first; });
        const auto prefix = std::find_if(m_prefixes.begin(), m_prefixes.end(), [&](const auto& p) { return p.first == t.name; });
        const char letter = !t.field.empty() ? letterOf(t.field) : !t.used && prefix != m_prefixes.end() ? prefix->second : char(0);
        if (t.name == m_spelling.numberWord)
            m.what = "block number";
        else if (letter == 'T')
            m.what = "number of the tool";
        else if (letter == 'S')
            m.what = "turns a minute";
        else if (letter == 'H')
            m.what = "register of the tool's length";
        else if (letter == 'F')
            m.what = "feed";
        else if (letter == 'R')
            m.what = "height over the hole";
        else if (letter == 'Q')
            m.what = "depth of a peck";
        else if (letter >= 'i' && letter <= 'k')
            m.what = "angle of the plane";
        else if (letter >= 'x' && letter <= 'z')
            m.what = "zero of the plane";
        else if (letter >= 'p' && letter <= 'r')
            m.what = fmt::format("centre of the arc, from its beginning along {}", "XYZ"[letter - 'p']);
        else if (letter == 'w')
            m.what = "how far the path may be left";
        else if (letter == 'P')
            m.what = m_words.dwellMs ? "milliseconds" : "seconds";
        else if (t.said)
            m.what = t.said->what;
        else if (t.name == "M" && machineCode != m_codes.end())
            m.what = machineCode->second;
        else if (const char axis = axisLetter(t.name)) {
            const int j = m_machine.find(std::string(1, axis));
            m.what = j >= 0 && m_machine.joints[static_cast<std::size_t>(j)].kind == JointKind::Rotary ? fmt::format("angle of {}", axis)
                                                                                                       : fmt::format("{} of the place", axis);
        }
        out.push_back(std::move(m));
    }
    return out;
}

Status Speller::mayBeOwn(const std::string& text) const {
    std::string line = text;
    for (const char* number : {"{tool}", "{next}"}) line = replaced(std::move(line), number, "1");
    if (!isOneBlock(line) && m_spelling.comments != CommentMarks::None) return fail("a line of the shop's own is one block without '%'", "'" + printable(line) + "'");
    if (isComment(line)) return {};
    const auto refuse = [&](const std::string& what) {
        return fail(what, "'" + printable(line) + "'", "Lines of the shop's own tell the control nothing that the program is about: their motion would not be proven");
    };
    const auto code = withoutComments(line, 0);
    if (!code) return refuse(code.error().what);
    if (code->find('{') != std::string::npos) return refuse("names of jobs and operations stand in comments alone: they may hold anything");
    // Any axis of any machine, whether or not the rest is understood.
    for (std::size_t i = 0; i + 1 < code->size(); ++i)
        if (std::string_view("XYZABCUVW").find((*code)[i]) != std::string_view::npos && (i == 0 || !isCapital((*code)[i - 1])) &&
            std::string_view("0123456789.+-=").find((*code)[i + 1]) != std::string_view::npos)
            return refuse(fmt::format("it moves {}", (*code)[i]));
    auto all = tokens(*code, 0);
    if (!all) return {};
    assign(*all);
    for (const Token& t : *all) {
        if (t.said && t.said->phrase != Phrase::Tool) return refuse(fmt::format("{} means: {}", t.text, t.said->what));
        if (t.said && t.code && !t.code->codes.empty()) return refuse(fmt::format("{} changes the tool", t.text));
        if (t.name == "G" && (t.value == 28.0 || t.value == 30.0)) return refuse(fmt::format("{} moves axes", t.text));
        if (t.name == m_spelling.numberWord) return refuse("block numbers are given by the program");
        if (t.name == "M")
            for (const auto& [number, what] : m_codes)
                if (t.value == number) return refuse(fmt::format("{} means: {}", t.text, what));
        if (!t.used && axisLetter(t.name)) return refuse(fmt::format("it moves {}", t.name));
        for (const auto& [name, letter] : m_prefixes)
            if (!t.used && name == t.name && (letter == 'F' || letter == 'S')) return refuse(fmt::format("{} is a feed or a speed", t.text));
    }
    return {};
}

/// Is every word of a spelling one thing, and is all said that must be?
class Speller::Check {
public:
    explicit Check(const Spelling& s) : m_s(s) {}

    Status codes() {
        for (const char* letter : {"G", "M"})
            if (auto ok = take(letter, "a code"); !ok) return ok;
        if (!isName(m_s.numberWord, false) && m_s.numberWord != ":") return fail("'numberWord' is a letter", "numberWord");
        if (auto ok = take(m_s.numberWord, "numberWord"); !ok) return ok;
        const ProgramWords& w = m_s.words;
        for (const int code : {w.flood, w.mist, w.through, w.coolantOff}) m_seen.emplace(std::set{fmt::format("M{}", code)}, "coolant");
        if (w.rigidTap > 0 && !m_seen.emplace(std::set{fmt::format("M{}", w.rigidTap)}, "rigidTap").second) return fail("'rigidTap' is a code of coolant", "rigidTap");
        for (const ClampCodes& c : m_s.clamps)
            for (const int code : {c.on, c.off})
                if (!m_seen.emplace(std::set{fmt::format("M{}", code)}, "clamps").second) return fail(fmt::format("M{} means something else already", code), "clamps");
        return {};
    }

    Status phrases() {
        if (m_s[Phrase::Millimetres].empty() && m_s[Phrase::Inches].empty()) return fail("'mm' and 'inch' are both spelled as nothing", "say");
        if (m_s.words.arcs > 0.0 && (m_s[Phrase::ArcClockwise].empty() || m_s[Phrase::ArcCounter].empty()))
            return fail("'arcs' needs 'arcClockwise' and 'arcCounter'", "arcs");
        for (std::size_t i = 0; i < kPhrases; ++i)
            if (auto ok = phrase(phraseKind(static_cast<Phrase>(i)), m_s.phrases[i]); !ok) return ok;
        return {};
    }

    Status axes() {
        for (const char* tip : {"X", "Y", "Z"})
            if (std::none_of(m_s.axes.begin(), m_s.axes.end(), [&](const AxisWord& a) { return a.joint == tip; }))
                if (auto ok = take(tip, std::string("axis ") + tip); !ok) return ok;
        for (const AxisWord& a : m_s.axes) {
            if (!isName(a.word, true)) return fail(fmt::format("'{}' is no word of an axis", printable(a.word)), "axes");
            if (auto ok = take(a.word, "axis " + a.joint); !ok) return ok;
        }
        return {};
    }

    [[nodiscard]] Status headAndFoot() const {
        std::string safe = m_s.safe;
        for (const auto& [p, name] : kSafe) safe = replaced(std::move(safe), fmt::format("{{{}}}", name), "");
        if (safe.find_first_not_of(" \n") != std::string::npos)
            return fail("'safe' holds the names of phrases in braces and nothing else: {units} {plane} {absolute} {radiusOff} {lengthOff} {cyclesOff} {perMinute}",
                        "say");
        for (const auto* lines : {&m_s.lines.head, &m_s.lines.foot})
            for (std::string line : *lines) {
                for (const char* name : {"{program}", "{operation}", "{tool}", "{next}"}) line = replaced(std::move(line), name, "");
                if (line.find_first_not_of(" ()") == std::string::npos || line.find('\n') != std::string::npos)
                    return fail("a line at the head or foot holds more than a name", "lines");
            }
        return {};
    }

private:
    Status take(const std::string& word, const std::string& by) {
        const auto [at, added] = m_prefixes.emplace(word, by);
        if (added || at->second == by) return {};
        return fail(fmt::format("'{}' and '{}' are both {}", at->second, by, word), "say");
    }

    Status phrase(const PhraseKind& kind, const std::string& text) {
        if (text.empty()) return kind.mayBeEmpty ? Status() : fail(fmt::format("'{}' must be said", kind.word), "say");
        const auto parts = pieces(text, kind.phrase);
        if (!parts) return tl::unexpected(parts.error());
        std::set<std::string> codes;
        for (const std::string& field : split(kind.fields, " "))
            if (std::none_of(parts->begin(), parts->end(), [&](const Piece& p) { return p.field == field; }))
                return fail(fmt::format("'{}' must hold {{{}}}", kind.word, field), "say");
        for (const Piece& p : *parts) {
            if (p.field.empty()) {
                codes.insert(p.numbered ? fmt::format("{}{:g}", p.name, p.value) : p.name);
                continue;
            }
            // P of waits and cycles, S of both ways of turning are one; values that stand beside their code may be any letter.
            if (kind.phrase == Phrase::Offset || kind.phrase == Phrase::Wait || kind.phrase == Phrase::PlaneOn || kind.phrase == Phrase::Smooth) continue;
            if (auto ok = take(p.name, p.field); !ok) return ok;
        }
        if (kind.code >= 0 && codes.empty() && kind.phrase != Phrase::Tool) return fail(fmt::format("'{}' has no code", kind.word), "say");
        if (kind.code < 0 && kind.phrase != Phrase::Offset && !codes.empty()) return fail(fmt::format("'{}' is a value alone", kind.word), "say");
        if (codes.empty()) return {};
        const auto [at, added] = m_seen.emplace(codes, kind.word);
        return added ? Status() : fail(fmt::format("'{}' and '{}' are spelled the same", at->second, kind.word), "say");
    }

    const Spelling& m_s;
    std::map<std::set<std::string>, const char*> m_seen; ///< codes that stand together, and what they say
    std::map<std::string, std::string> m_prefixes;       ///< letters, and what they are of
};

Status Speller::check(const Spelling& s) {
    if (s.kind == Dialect::CutterData) return {};
    Check all(s);
    if (auto ok = all.codes(); !ok) return ok;
    if (auto ok = all.phrases(); !ok) return ok;
    if (auto ok = all.axes(); !ok) return ok;
    if (auto ok = all.headAndFoot(); !ok) return ok;
    const Machine none;
    const Speller speller(s, none, s.words);
    for (const auto* lines : {&s.lines.start, &s.lines.beforeTool, &s.lines.afterTool, &s.lines.beforeOperation, &s.lines.afterOperation, &s.lines.finish})
        for (const std::string& line : *lines)
            if (auto ok = speller.mayBeOwn(line); !ok) return ok;
    return {};
}

} // namespace gyre
