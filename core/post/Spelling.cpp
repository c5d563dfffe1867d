#include "post/Spelling.h"
#include "base/File.h"
#include "base/Text.h"
#include "base/Units.h"
#include "form/Form.h"
#include "form/NewWord.h"
#include "post/Post.h"
#include "post/Speller.h"

namespace gyre {
namespace {

constexpr int kM = 10000;
constexpr PhraseKind kPhraseKinds[kPhrases] = {
    {Phrase::Rapid, "rapid", "G0", "rapid", "", "", 0, false},
    {Phrase::Cut, "cut", "G1", "straight feed move", "", "", 10, false},
    {Phrase::MachineWords, "machine", "G53", "this block counts from the machine's zero", "", "", 530, false},
    {Phrase::Millimetres, "mm", "G21", "lengths in millimetres", "", "", 210, true},
    {Phrase::Inches, "inch", "G20", "lengths in inches", "", "", 200, true},
    {Phrase::Plane, "plane", "G17", "plane XY", "", "", 170, true},
    {Phrase::Absolute, "absolute", "G90", "positions are absolute", "", "", 900, true},
    {Phrase::RadiusOff, "radiusOff", "G40", "radius compensation off", "", "", 400, true},
    {Phrase::LengthOff, "lengthOff", "G49", "tool length and tip control off", "", "", 490, false},
    {Phrase::CyclesOff, "cyclesOff", "G80", "cycles off", "", "", 800, false},
    {Phrase::PerMinute, "perMinute", "G94", "feed per minute", "", "", 940, false},
    {Phrase::InverseTime, "inverseTime", "G93", "feed in inverse time", "", "", 930, false},
    {Phrase::PerTurn, "perTurn", "G95", "feed per turn", "", "", 950, false},
    {Phrase::TipOn, "tipOn", "G43.4 H{register}", "tip control on", "", "register", 434, false},
    {Phrase::LengthOn, "lengthOn", "G43 H{register}", "tool length along the tool", "", "register", 430, false},
    {Phrase::PlaneOn, "planeOn", "G68.2 X{x} Y{y} Z{z} I{i} J{j} K{k}", "tilted plane: its zero and three angles", "i j k", "x y z", 682, false},
    {Phrase::PlaneAlign, "planeAlign", "", "the tool stands square to the plane", "", "", 531, true},
    {Phrase::PlaneOff, "planeOff", "G69", "tilted plane off", "", "", 690, false},
    {Phrase::Offset, "offset", "G{offset}", "work offset", "offset", "", -1, false},
    {Phrase::Wait, "wait", "G4 P{seconds}", "waits", "seconds", "", 40, false},
    {Phrase::Tool, "tool", "T{tool} M6", "tool change", "tool", "", kM + 6, false},
    {Phrase::Spindle, "spindle", "S{speed} M3", "spindle clockwise", "speed", "", kM + 3, false},
    {Phrase::SpindleBack, "spindleBack", "S{speed} M4", "spindle counter-clockwise", "speed", "", kM + 4, false},
    {Phrase::SpindleStop, "spindleStop", "M5", "spindle stops", "", "", kM + 5, false},
    {Phrase::End, "end", "M30", "end of the program", "", "", kM + 30, false},
    {Phrase::CycleReturn, "cycleReturn", "G99", "cycles return to R", "", "", 990, true},
    {Phrase::Drill, "drill", "G81", "drilling cycle", "", "", 810, false},
    {Phrase::DrillWait, "drillWait", "G82", "drilling cycle that waits at the bottom", "", "", 820, false},
    {Phrase::Peck, "peck", "G83", "cycle with pecks", "", "", 830, false},
    {Phrase::ChipBreak, "chipBreak", "G73", "cycle that breaks chips", "", "", 730, false},
    {Phrase::Tap, "tap", "G84", "tapping cycle", "", "", 840, false},
    {Phrase::Bore, "bore", "G85", "boring cycle", "", "", 850, false},
    {Phrase::BoreWait, "boreWait", "G89", "boring cycle that waits at the bottom", "", "", 890, false},
    {Phrase::Feed, "feed", "F{feed}", "feed", "feed", "", -1, false},
    {Phrase::CycleTop, "cycleTop", "R{top}", "height over the hole", "top", "", -1, false},
    {Phrase::CyclePeck, "cyclePeck", "Q{peck}", "depth of a peck", "peck", "", -1, false},
    {Phrase::CycleWait, "cycleWait", "P{seconds}", "wait at the bottom", "seconds", "", -1, false},
    {Phrase::ExactStop, "exactStop", "G61", "stops exactly at every point", "", "", 610, true},
    {Phrase::Smooth, "smooth", "G64 P{within}", "runs through points, within so much of the path; without that as it usually does", "", "within", 640, true},
    {Phrase::PlaneZX, "planeZX", "G18", "plane ZX, for arcs", "", "", 180, true},
    {Phrase::PlaneYZ, "planeYZ", "G19", "plane YZ, for arcs", "", "", 190, true},
    {Phrase::ArcClockwise, "arcClockwise", "G2", "arc, clockwise in its plane", "", "", 20, true},
    {Phrase::ArcCounter, "arcCounter", "G3", "arc, counter-clockwise in its plane", "", "", 30, true},
    {Phrase::CentreX, "centreX", "I{fromX}", "centre of an arc along X, from its beginning", "fromX", "", -1, false},
    {Phrase::CentreY, "centreY", "J{fromY}", "centre of an arc along Y, from its beginning", "fromY", "", -1, false},
    {Phrase::CentreZ, "centreZ", "K{fromZ}", "centre of an arc along Z, from its beginning", "fromZ", "", -1, false},
};

constexpr std::size_t kLongestPhrase = 80, kMostOwnLines = 40, kLongestOwnLine = 160, kLongestScript = 64 * 1024;

/// A word whose value is a text, with a member of its own kept by `of`.
template <class Of> void textWord(Form<Spelling>& form, const char* key, const char* what, const char* usual, std::size_t most, Of of) {
    WordInfo info = newWord(key, WordKind::Text, what);
    info.most = most;
    info.initial = usual;
    const std::string k = key;
    form.special(
        std::move(info), [k, most, of](const JsonView& v, Spelling& s) { of(s) = v.text(k.c_str(), most); },
        [k, of](const Spelling& s, OrderedJson& out) { out[k] = of(s); }, [](Spelling&, Dice&) {});
    form.writtenWhenChanged();
}

Form<Spelling> phrasesForm() {
    Form<Spelling> form("how each thing is said");
    for (const PhraseKind& k : kPhraseKinds) {
        std::string what = k.what;
        what[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(what[0])));
        const Phrase p = k.phrase;
        textWord(
            form, k.word, what.c_str(), k.usual, kLongestPhrase, [p](auto& s) -> auto& { return s[p]; });
    }
    textWord(
        form, "safe", "The line that a program begins with: names of the things that it says", Spelling().safe.c_str(), kLongestOwnLine * 2,
        [](auto& s) -> auto& { return s.safe; });
    return form;
}

const Form<AxisWord>& axisForm() {
    static const Form<AxisWord> form = Form<AxisWord>("the word of an axis")
                                           .text("joint", &AxisWord::joint, 16, "Joint of the machine; X, Y and Z are those of the tip as well")
                                           .needed()
                                           .text("word", &AxisWord::word, 16, "How programs name it: 'C1='")
                                           .needed();
    return form;
}

const Form<ClampCodes>& clampForm() {
    static const Form<ClampCodes> form = Form<ClampCodes>("a clamp")
                                             .text("joint", &ClampCodes::joint, 16, "Rotary joint of the machine")
                                             .needed()
                                             .count("on", &ClampCodes::on, 1, 999, "M code that clamps")
                                             .needed()
                                             .count("off", &ClampCodes::off, 1, 999, "M code that lets go, before it turns")
                                             .needed()
                                             .check([](const JsonView& v, const ClampCodes& c) {
                                                 if (c.on == c.off) v.complain("'on' and 'off' are the same code");
                                             })
                                             .settled([](ClampCodes& c) {
                                                 c.on = 40 + c.on % 400;
                                                 c.off = c.on + 1;
                                             });
    return form;
}

const Form<OwnLines>& linesForm() {
    using L = OwnLines;
    static const Form<L> form = Form<L>("lines of the shop's own, with {program}, {operation}, {tool}, {next} in them")
                                    .texts("head", &L::head, kMostOwnLines, "Before everything, without block numbers")
                                    .texts("start", &L::start, kMostOwnLines, "Behind the safe line")
                                    .texts("beforeTool", &L::beforeTool, kMostOwnLines, "Before every tool change")
                                    .texts("afterTool", &L::afterTool, kMostOwnLines, "Behind every tool change")
                                    .texts("beforeOperation", &L::beforeOperation, kMostOwnLines, "Before an operation's first cut, with the spindle on")
                                    .texts("afterOperation", &L::afterOperation, kMostOwnLines, "Behind its retract")
                                    .texts("finish", &L::finish, kMostOwnLines, "Before the program's end")
                                    .texts("foot", &L::foot, kMostOwnLines, "Behind everything, without block numbers")
                                    .changesOnly();
    return form;
}

} // namespace

const PhraseKind& phraseKind(Phrase phrase) { return kPhraseKinds[static_cast<std::size_t>(phrase)]; }

Spelling::Spelling() {
    for (const PhraseKind& k : kPhraseKinds) phrases[static_cast<std::size_t>(k.phrase)] = k.usual;
}

const std::shared_ptr<const Spelling>& plainSpelling(Dialect kind) {
    static const auto plain = [] {
        std::map<Dialect, std::shared_ptr<const Spelling>> out;
        for (const DialectKind& k : dialects()) {
            Spelling s;
            s.kind = k.dialect;
            out.emplace(k.dialect, std::make_shared<const Spelling>(std::move(s)));
        }
        return out;
    }();
    return plain.at(kind);
}

Mat3 planeTurn(PlaneAngles angles, const std::array<double, 3>& degree) {
    const auto about = [](double by, const Vec3& of) { return Eigen::AngleAxisd(radians(by), of).toRotationMatrix(); };
    if (angles == PlaneAngles::Turning) return about(degree[0], Vec3::UnitZ()) * about(degree[1], Vec3::UnitX()) * about(degree[2], Vec3::UnitZ());
    return about(degree[2], Vec3::UnitZ()) * about(degree[1], Vec3::UnitY()) * about(degree[0], Vec3::UnitX());
}

TiltedPlane planeSquareTo(const Vec3& axis, PlaneAngles angles, int places) {
    const auto rounded = [&](double a) {
        const double unit = std::pow(10.0, places), r = std::round(degrees(a) * unit) / unit;
        return r == 0.0 ? 0.0 : r; // no minus zero
    };
    const Vec3 z = axis.normalized();
    TiltedPlane out;
    if (angles == PlaneAngles::Turning) {
        const double across = std::hypot(z.x(), z.y());
        out.angles = {rounded(across > 1e-9 ? std::atan2(z.x(), -z.y()) : 0.0), rounded(std::atan2(across, z.z())), 0.0};
    } else {
        const double along = std::hypot(z.x(), z.z());
        out.angles = {rounded(std::atan2(-z.y(), along)), rounded(along > 1e-9 ? std::atan2(z.x(), z.z()) : 0.0), 0.0};
    }
    out.turn = planeTurn(angles, out.angles);
    return out;
}

namespace {

// Numbers, comments, and what stands in a block.
void sayWriting(Form<Spelling>& f) {
    using S = Spelling;
    static const Form<S> phrases = phrasesForm();
    f.flag("zeros", &S::zerosKept, "Zeros at the end of positions", "kept", "left out")
        .writtenWhenChanged()
        .flag("point", &S::pointAlways, "A decimal point", "always", "where it is needed")
        .writtenWhenChanged()
        .flag("plus", &S::plusWritten, "Plus signs", "written", "left out")
        .writtenWhenChanged()
        .choice("comments", &S::comments,
                {{CommentMarks::Round, "round", "in ( )"},
                 {CommentMarks::Braces, "braces", "in { }"},
                 {CommentMarks::Semicolon, "semicolon", "behind ;"},
                 {CommentMarks::None, "none", "left out"}},
                "Comments")
        .writtenWhenChanged()
        .flag("capitals", &S::capitals, "Letters of comments", "capitals alone", "as they are")
        .writtenWhenChanged()
        .text("numberWord", &S::numberWord, 4, "Letter of block numbers")
        .writtenWhenChanged()
        .text("order", &S::order, 40, "Order of a move's words, e.g. 'X Y Z A C F'; as usual when empty")
        .writtenWhenChanged()
        .flag("repeatWords", &S::repeatWords, "Words that have not changed", "written", "left out")
        .writtenWhenChanged()
        .flag("repeatMotion", &S::repeatMotion, "The code of a move that has not changed", "written", "left out")
        .writtenWhenChanged()
        .group("say", phrases, "How each thing is said")
        .writtenWhenChanged()
        .list("axes", &S::axes, 12, axisForm(), "Words of axes that differ from the joint's name")
        .writtenWhenChanged()
        .list("clamps", &S::clamps, 6, clampForm(), "Clamps, instead of those of the machine")
        .writtenWhenChanged()
        .part("lines", &S::lines, linesForm(), "Lines of the shop's own")
        .writtenWhenChanged();
}

// Line by line, as people write it.
void sayScript(Form<Spelling>& f) {
    using S = Spelling;
    WordInfo script = newWord("script", WordKind::Texts, "Lua, line by line: before(act), after(act), line(text, act)");
    script.most = 2000;
    f.special(
        std::move(script),
        [](const JsonView& v, S& s) {
            s.script.clear();
            for (const JsonView& each : v.list("script", 2000)) {
                if (!each.raw().is_string()) return each.complain("a line of the script is expected here");
                s.script += each.raw().get<std::string>() + "\n";
            }
            if (s.script.size() > kLongestScript) v.complain("the script is longer than 64 KB");
        },
        [](const S& s, OrderedJson& out) {
            out["script"] = OrderedJson::array();
            for (std::size_t from = 0; from < s.script.size();) {
                auto end = s.script.find('\n', from);
                if (end == std::string::npos) end = s.script.size();
                out["script"].push_back(s.script.substr(from, end - from));
                from = end + 1;
            }
        },
        [](S& s, Dice& dice) {
            s.script.clear();
            for (std::size_t i = dice() % 3; i > 0; --i) s.script += "-- a line\n";
        });
}

} // namespace

const Form<Spelling>& spellingForm() {
    using S = Spelling;
    static const Form<S> form = [] {
        Form<S> f("a dialect");
        f.constant("format", "gyre-dialect", "What the file is")
            .constant("version", 1, "Version of the format")
            .text("name", &S::name, 100, "Name")
            .needed()
            .text("note", &S::note, 1000, "For people")
            .writtenWhenChanged()
            .choice("positions", &S::kind,
                    {{Dialect::TipControl, "tip", "the tip, the control holds it"},
                     {Dialect::Joints, "joints", "joint coordinates"},
                     {Dialect::CutterData, "cldata", "cutter data"}},
                    "What positions are said in")
            .text("ending", &S::ending, 16, "Ending of its files")
            .choice("jointFeed", &S::jointFeed,
                    {{JointFeedWord::AsMachine, "machine", "as the machine has it"},
                     {JointFeedWord::InverseTime, "inverseTime", "inverse time"},
                     {JointFeedWord::PerMinute, "perMinute", "per minute"}},
                    "What F means in joint programs")
            .writtenWhenChanged()
            .choice("indexed", &S::indexed,
                    {{IndexedWork::AsOther, "tip", "as all other work"},
                     {IndexedWork::InPlanes, "planes", "in tilted planes"},
                     {IndexedWork::PlanesAlone, "planesAlone", "in tilted planes, and nothing else"}},
                    "How work is written while the rotaries stand still")
            .writtenWhenChanged()
            .choice("planeAngles", &S::planeAngles,
                    {{PlaneAngles::Turning, "turning", "about Z, the new X, the new Z"}, {PlaneAngles::Fixed, "fixed", "about X, the old Y, the old Z"}},
                    "Angles of a tilted plane")
            .writtenWhenChanged()
            .inlined(&S::words, controlForm());
        sayWriting(f);
        sayScript(f);
        f.writtenWhenChanged().check([](const JsonView& v, const S& s) {
            if (s.ending.size() < 2 || s.ending[0] != '.' || s.ending.find_first_of("/\\") != std::string::npos) v.complain("'ending' is a point and letters");
            if (const auto ok = Speller::check(s); !ok) v.complain(ok.error().text());
        });
        f.settled([](S& s) {
            s.ending = ".nc";
            s.numberWord = "N";
            s.order.clear();
            s.axes.clear();
            for (auto* lines : {&s.lines.start, &s.lines.beforeTool, &s.lines.afterTool, &s.lines.beforeOperation, &s.lines.afterOperation, &s.lines.finish})
                for (std::string& line : *lines) line = "(" + line + ")";
        });
        return f;
    }();
    return form;
}

Result<Spelling> spellingFromJson(const std::string& text, const std::string& place) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    if (!json->is_object() || v.text("format") != "gyre-dialect") v.complain("this is not a dialect file: 'format' is not 'gyre-dialect'");
    if (!v.failed() && v.integer("version", 1, 1000000) != 1) v.complain("this version of the dialect format is not known");
    if (error) return tl::unexpected(*error);
    Spelling s = spellingForm().read(v);
    if (error) return tl::unexpected(*error);
    return s;
}

Result<Spelling> loadSpelling(const std::filesystem::path& file) {
    constexpr std::uintmax_t kLargest = 1 << 20;
    const auto text = readFile(file, kLargest);
    if (!text) return tl::unexpected(text.error());
    return spellingFromJson(*text, file.filename().string());
}

std::string spellingToJson(const Spelling& s) { return textOf(spellingForm().write(s), 1) + "\n"; }

} // namespace gyre
