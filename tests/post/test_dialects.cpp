// Dialect files: how they are spelled and read, what they refuse, what their scripts may and may not.
#include "Program.h"
#include "Programs.h"
#include "base/File.h"
#include "form/Form.h"
#include "holes/DrillSpec.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "post/Speller.h"
#include <fmt/format.h>

namespace test_dialects {

using namespace gyre;
using namespace gyre::test;

namespace {

const Vec3 kAboutY(0.5, 0, std::sqrt(0.75));

PostInput slotAndLean(const std::string& machineFile) { return test::slotAndLean(machineFile, kAboutY); }
PostInput with(PostInput in, const Spelling& spelling) { return inDialect(std::move(in), std::make_shared<const Spelling>(spelling)); }

Spelling scripted(const std::string& script, Dialect kind = Dialect::TipControl) {
    Spelling s;
    s.name = "Test";
    s.kind = kind;
    s.script = script;
    return s;
}

/// What writing with this script comes to: the error, or what the read-back says.
std::string outcome(const std::string& script, std::string* text = nullptr) {
    const PostInput in = with(slotAndLean("egret-5h.machine.json"), scripted(script));
    const auto written = writeProgram(in, Dialect::TipControl);
    if (!written) return written.error().text();
    if (text) *text = *written;
    const auto read = readBack(*written, in);
    if (!read) return read.error().text();
    const ReplayReport r = compareProgram(*read, in);
    return r.agrees() ? std::string() : r.differences.front();
}

std::string refusal(const std::function<void(Spelling&)>& spoil) {
    Spelling s;
    s.name = "Test";
    spoil(s);
    const auto again = spellingFromJson(spellingToJson(s), "test");
    return again ? std::string() : again.error().text();
}

int count(const std::string& text, const std::string& what) {
    int n = 0;
    for (auto at = text.find(what); at != std::string::npos; at = text.find(what, at + what.size())) ++n;
    return n;
}

} // namespace

class TestDialects : public QObject {
    Q_OBJECT
private slots:
    // The control of the router, by hand from its page: words for tip control, braces, no zeros behind, F first, T and M6 apart.
    void goldenOfWords() {
        const auto spelling = std::make_shared<const Spelling>(loadSpelling(demoFile("egret-5h.dialect.json")).value());
        mustBe(inDialect(slotAndLean("egret-5h.machine.json"), spelling), Dialect::TipControl, R"({Golden}
{Egret 5H - TIP CONTROL}
{MILLIMETRES}
{Slot}
{T1 Flat 6 - OUT 40 - GAUGE LENGTH 100}
G21 G17 G90 G40 TIPOFF G80 G94
G54
MACHINE G0 Z250
T1
M6
MACHINE G0 Z250
MACHINE G0 B1=0 C1=0
S8000 M3
MACHINE G0 X0 Y0
TIPON D1
G0 X0 Y0 Z50 B1=0 C1=0
G1 F250 Z10
F500 X20
G0 Z50
TIPOFF
MACHINE G0 Z250
M5
{Lean}
{T2 Ball 4 - OUT 40 - GAUGE LENGTH 100}
T2
M6
MACHINE G0 Z250
MACHINE G0 B1=30 C1=0
S12000 M3
M8
MACHINE G0 X140 Y0
TIPON D2
G0 X0 Y0 Z50 B1=30 C1=0
G1 F300 Z20
F600 X10
G0 Z50
TIPOFF
MACHINE G0 Z250
M9
M5
M30
)");
    }
    // What the control does at points, by hand: exact stops for the one, rounding off for the other, each put off behind it.
    void goldenOfPointsModes() {
        Spelling s;
        s.name = "Points";
        PostInput in = with(slotAndLean("egret-5h.machine.json"), s);
        in.operations[0] = atPoints(in.operations[0], {AtPoints::ExactStop});
        in.operations[1] = atPoints(in.operations[1], {AtPoints::Smoothed, 0.025});
        mustBe(in, Dialect::TipControl, R"(%
(GOLDEN)
(EGRET 5H - TIP CONTROL)
(MILLIMETRES)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G53 G0 Z250.0000
N40 T1 M6
N50 G53 G0 Z250.0000
N60 G53 G0 C0.0000 B0.0000
N70 S8000 M3
N80 G53 G0 X0.0000 Y0.0000
N90 G61
N100 G43.4 H1
N110 G0 X0.0000 Y0.0000 Z50.0000 C0.0000 B0.0000
N120 G1 Z10.0000 F250
N130 X20.0000 F500
N140 G0 Z50.0000
N150 G64
N160 G49
N170 G53 G0 Z250.0000
N180 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N190 T2 M6
N200 G53 G0 Z250.0000
N210 G53 G0 C0.0000 B30.0000
N220 S12000 M3
N230 M8
N240 G53 G0 X140.0000 Y0.0000
N250 G64 P0.0250
N260 G43.4 H2
N270 G0 X0.0000 Y0.0000 Z50.0000 C0.0000 B30.0000
N280 G1 Z20.0000 F300
N290 X10.0000 F600
N300 G0 Z50.0000
N310 G64
N320 G49
N330 G53 G0 Z250.0000
N340 M9
N350 M5
N360 M30
%
)");
    }
    // A control that lacks the words is not sent something else in their place.
    void pointsNeedTheirWords() {
        const auto posted = [](const PointsSpec& points, const char* stop, const char* smooth) {
            Spelling s;
            s.name = "Points";
            s[Phrase::ExactStop] = stop;
            s[Phrase::Smooth] = smooth;
            PostInput in = with(slotAndLean("egret-5h.machine.json"), s);
            in.operations[1] = atPoints(in.operations[1], points);
            const auto text = writeProgram(in, Dialect::TipControl);
            if (!text) return text.error().text();
            const auto read = readBack(*text, in);
            const ReplayReport r = read ? compareProgram(*read, in) : ReplayReport();
            return !read ? read.error().text() : r.agrees() ? std::string() : r.differences.front();
        };
        const PointsSpec stands, stops{AtPoints::ExactStop}, smooth{AtPoints::Smoothed, 0.02}, finest{AtPoints::Smoothed, 0.00001};
        QCOMPARE(posted(stands, "", ""), std::string());
        QCOMPARE(posted(stops, "G9", "CONTIN"), std::string());
        QCOMPARE(posted(smooth, "", "CONTIN T{within}"), std::string());
        QCOMPARE(posted(smooth, "G61", "G64 G642 TOL{within}"), std::string());
        QVERIFY(posted(stops, "", "G64").find("no words for exact stops") != std::string::npos);
        QVERIFY(posted(stops, "G61", "").find("no words for exact stops") != std::string::npos);
        QVERIFY(posted(smooth, "G61", "").find("no word for rounding") != std::string::npos);
        QVERIFY(posted(smooth, "G61", "G64").find("within how much") != std::string::npos);
        QVERIFY(posted(finest, "G61", "G64 P{within}").find("program's digits") != std::string::npos);
    }
    // An older control: joints, feed per minute, a point in every number and every code said again, no G40. Its head tips 220 above the tip: 110 aside.
    void goldenOfPoints() {
        Spelling s;
        s.name = "Old";
        s.kind = Dialect::Joints;
        s.jointFeed = JointFeedWord::PerMinute;
        s.pointAlways = s.repeatMotion = s.repeatWords = true;
        s.zerosKept = false;
        s.words.placesMm = 3;
        s.words.placesAngle = 2;
        s.words.numberStep = 1;
        s.words.flood = 51;
        s.words.coolantOff = 59;
        s.numberWord = "BLK";
        s.comments = CommentMarks::None;
        s[Phrase::RadiusOff] = "";
        s.safe = "{units} {absolute}\n{plane} {cyclesOff} {perMinute}";
        s.lines.start = {"M77"};
        s.lines.beforeTool = {"M78 T{next}"};
        s.lines.foot = {"RTS"};
        mustBe(with(slotAndLean("dunlin-5m.machine.json"), s), Dialect::Joints, R"(%
BLK1 G21 G90
BLK2 G17 G80 G94
BLK3 G49
BLK4 G54
BLK5 M77
BLK6 G0 Z300.
BLK7 M78 T2
BLK8 T1 M6
BLK9 G0 Z300.
BLK10 G0 B0. C0.
BLK11 S8000 M3
BLK12 G0 X0. Y0.
BLK13 G0 X0. Y0. Z-150. B0. C0.
BLK14 G1 X0. Y0. Z-190. B0. C0. F250.
BLK15 G1 X20. Y0. Z-190. B0. C0. F500.
BLK16 G0 X20. Y0. Z-150. B0. C0.
BLK17 G0 Z300.
BLK18 M5
BLK19 M78 T1
BLK20 T2 M6
BLK21 G0 Z300.
BLK22 G0 B30. C0.
BLK23 S12000 M3
BLK24 M51
BLK25 G0 X110. Y0.
BLK26 G0 X110. Y0. Z-179.474 B30. C0.
BLK27 G1 X110. Y0. Z-209.474 B30. C0. F300.
BLK28 G1 X120. Y0. Z-209.474 B30. C0. F600.
BLK29 G0 X120. Y0. Z-179.474 B30. C0.
BLK30 G0 Z300.
BLK31 M59
BLK32 M5
BLK33 M30
RTS
)");
    }
    // Work with standing rotaries, by hand: at B30 the plane's X is the program's Y, its Y rises by cos 30 towards −X, its Z leans by 30° towards X.
    void goldenOfPlanes() {
        const auto spelling = std::make_shared<const Spelling>(loadSpelling(demoFile("tilted-planes.dialect.json")).value());
        mustBe(inDialect(slotAndLean("egret-5h.machine.json"), spelling), Dialect::TipControl, R"(%
(GOLDEN)
(EGRET 5H - TIP CONTROL)
(MILLIMETRES)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G53 G0 Z250.0000
N40 T1 M6
N50 G53 G0 Z250.0000
N60 G53 G0 C0.0000 B0.0000
N70 S8000 M3
N80 G53 G0 X0.0000 Y0.0000
N90 G68.2 X0.0000 Y0.0000 Z0.0000 I0.0000 J0.0000 K0.0000
N100 G53.1
N110 G43 H1
N120 G0 X0.0000 Y0.0000 Z50.0000
N130 G1 Z10.0000 F250
N140 X20.0000 F500
N150 G0 Z50.0000
N160 G49
N170 G69
N180 G53 G0 Z250.0000
N190 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N200 T2 M6
N210 G53 G0 Z250.0000
N220 G53 G0 C0.0000 B30.0000
N230 S12000 M3
N240 M8
N250 G53 G0 X140.0000 Y0.0000
N260 G68.2 X0.0000 Y0.0000 Z0.0000 I90.0000 J30.0000 K0.0000
N270 G53.1
N280 G43 H2
N290 G0 X0.0000 Y25.0000 Z43.3013
N300 G1 Y10.0000 Z17.3205 F300
N310 Y1.3397 Z22.3205 F600
N320 G0 Y16.3397 Z48.3013
N330 G49
N340 G69
N350 G53 G0 Z250.0000
N360 M9
N370 M5
N380 M30
%
)");
    }
    // The plane's angles against rotations written out: the tool's axis is its Z, to the rounding of the angles, for any axis and both kinds of angles.
    void planesAreSquare() {
        Random random(31);
        for (int i = 0; i < 2000; ++i) {
            Vec3 axis = random.direction();
            if (i < 6) axis = (i % 2 ? -1.0 : 1.0) * Vec3::Unit(i / 2);
            for (const PlaneAngles kind : {PlaneAngles::Turning, PlaneAngles::Fixed}) {
                const TiltedPlane plane = planeSquareTo(axis, kind, 4);
                const auto [a, b, c] = plane.angles;
                const auto s = [](double d) { return std::sin(radians(d)); };
                const auto co = [](double d) { return std::cos(radians(d)); };
                const Vec3 z = kind == PlaneAngles::Turning ? Vec3(s(a) * s(b), -co(a) * s(b), co(b)) : Vec3(co(a) * s(b), -s(a), co(a) * co(b));
                QVERIFY2(angleBetween(z, axis) < 2e-6 && (plane.turn.col(2) - z).norm() < 1e-12 && c == 0.0, qPrintable(QString("%1: %2 %3").arg(i).arg(a).arg(b)));
                QVERIFY((plane.turn * plane.turn.transpose()).isIdentity(1e-12) && plane.turn.determinant() > 0.0);
            }
        }
    }
    void planesWithCycles() {
        Spelling s = loadSpelling(demoFile("tilted-planes.dialect.json")).value();
        const auto holes = [&](Cycle cycle) {
            PostInput in;
            in.jobName = "Holes";
            in.machine = std::make_shared<const Machine>(demoMachine("heron-5t.machine.json"));
            DrillSpec drill;
            drill.cycle = cycle;
            drill.toGeometry = false;
            drill.depth = 8.0;
            drill.fullDiameter = false;
            drill.pitch = 1.0;
            in.operations.push_back(holeOperation(*in.machine, "Holes", 1, plainTool("Drill 5", CutterShape::Drill, 5, 2000), {{10, 0, 20}, {-10, 5, 20}}, drill));
            return in;
        };
        const std::string tap = writeProgram(with(holes(Cycle::Tap), s), Dialect::TipControl).value_or("");
        QVERIFY2(tap.find("G99 G84 X10.0000 Y0.0000 Z12.0000 R22.0000 F2000\n") != std::string::npos, tap.c_str());
        QVERIFY(readBack(tap, with(holes(Cycle::Tap), s)) && compareProgram(*readBack(tap, with(holes(Cycle::Tap), s)), with(holes(Cycle::Tap), s)).agrees());
        QVERIFY(!writeProgram(holes(Cycle::Tap), Dialect::TipControl)); // without planes there is no cycle
        // A control that knows planes alone: what turns while it cuts is refused with its name.
        s.indexed = IndexedWork::PlanesAlone;
        PostInput in = slotAndLean("egret-5h.machine.json");
        QVERIFY(writeProgram(with(in, s), Dialect::TipControl).value().find("TILTED PLANES") != std::string::npos);
        auto turning = std::make_shared<OperationResult>(*in.operations[1].result);
        auto motion = std::make_shared<JointMotion>(*turning->motion);
        const auto b = static_cast<std::size_t>(in.machine->find("B"));
        motion->values[motion->joints * (motion->size() - 1) + b] += 0.01;
        turning->motion = motion;
        in.operations[1].result = turning;
        const auto refused = writeProgram(with(in, s), Dialect::TipControl);
        QVERIFY(!refused && refused.error().text().find("Lean") != std::string::npos);
        s.indexed = IndexedWork::InPlanes; // that one with tip control, the other in its plane
        const std::string both = writeProgram(with(in, s), Dialect::TipControl).value();
        QVERIFY2(count(both, "G68.2") == 1 && count(both, "G43.4 H2") == 1, both.c_str());
    }
    // Random dialects: what one writes it reads as what is meant, and the other does not.
    void randomDialectsReadBack() {
        Random random(29);
        PostInput plain = slotAndLean("egret-5h.machine.json");
        plain.operations[0] = atPoints(plain.operations[0], {AtPoints::ExactStop});
        plain.operations[1] = atPoints(plain.operations[1], {AtPoints::Smoothed, 1.0}); // in any number of places
        Dice dice(29);
        int tried = 0;
        for (int i = 0; i < 200; ++i) {
            Spelling s = spellingForm().random(dice);
            s.kind = random.integer(0, 1) ? Dialect::TipControl : Dialect::Joints;
            s.script.clear();
            std::vector<int> codes(900);
            std::iota(codes.begin(), codes.end(), 100);
            std::shuffle(codes.begin(), codes.end(), dice);
            std::size_t next = 0;
            for (std::size_t p = 0; p < kPhrases; ++p) {
                const auto phrase = static_cast<Phrase>(p);
                const PhraseKind& kind = phraseKind(phrase);
                if (kind.code < 0 || phrase == Phrase::PlaneOn || random.integer(0, 2) == 0) continue;
                const std::string values = s[phrase].find('{') == std::string::npos ? "" : " " + s[phrase].substr(s[phrase].rfind(' ', s[phrase].find('{')) + 1);
                const std::string value = phrase == Phrase::TipOn    ? " H{register}"
                                          : phrase == Phrase::Wait   ? " P{seconds}"
                                          : phrase == Phrase::Tool   ? " T{tool}"
                                          : phrase == Phrase::Smooth ? " E{within}"
                                          : kind.fields[0]           ? " S{speed}"
                                                                     : "";
                const int code = codes[next++];
                const int how = random.integer(0, 3);
                s[phrase] = (how == 0   ? fmt::format("G{}", code)
                             : how == 1 ? fmt::format("M{}", code)
                             : how == 2 ? fmt::format("WORD{}", code)
                                        : fmt::format("G{}.5 M{}", code, code)) +
                            value;
            }
            const auto made = spellingFromJson(spellingToJson(s), "random");
            if (!made) continue; // a code of coolant drawn twice
            QVERIFY(*made == s);
            const PostInput in = with(plain, s);
            const auto text = writeProgram(in, s.kind);
            QVERIFY2(text, text ? "" : text.error().text().c_str());
            const auto read = readBack(*text, in);
            QVERIFY2(read, read ? "" : (read.error().text() + "\n" + spellingToJson(s) + *text).c_str());
            const ReplayReport r = compareProgram(*read, in);
            QVERIFY2(r.agrees(), r.agrees() ? "" : (r.differences.front() + "\n" + spellingToJson(s) + *text).c_str());
            ++tried;
        }
        QVERIFY2(tried > 100, qPrintable(QString::number(tried)));
    }
    void clampsAndNumbersOfAShop() {
        Spelling s;
        s.name = "Shop";
        s.comments = CommentMarks::Braces;
        s.words.numberStep = 0;
        s.clamps = {{"C", 10, 11}};
        const std::string text = writeProgram(with(slotAndLean("heron-5t.machine.json"), s), Dialect::TipControl).value_or(std::string());
        QVERIFY(!text.empty() ? text.find("N10") == std::string::npos && text.find("\nM11\n") < text.find("C0.0000") && count(text, "{") > 4 && count(text, "(") == 0
                              : true);
        PostInput in = slotAndLean("dunlin-5m.machine.json");
        const std::string b = writeProgram(with(in, s), Dialect::TipControl).value();
        QVERIFY2(b.find("\nM11\nG53 G0 B0.0000 C0.0000\n") != std::string::npos && b.find("\nM10\nG1 ") != std::string::npos, b.c_str());
    }
    void refusesWhatCannotBeRead() {
        QVERIFY(refusal([](Spelling&) {}).empty());
        const auto says = [](const std::string& text, const char* what) { return text.find(what) != std::string::npos; };
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Cut] = "G0"; }), "spelled the same"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Cut] = ""; }), "must be said"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Tool] = "M6"; }), "must hold {tool}"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Spindle] = "S{tool} M3"; }), "no value 'tool'"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::SpindleStop] = "m5"; }), "no word of a program"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Rapid] = "X"; }), "has no number"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::SpindleStop] = "M8"; }), "spelled the same"));
        QVERIFY(says(refusal([](Spelling& s) { s.clamps = {{"A", 5, 11}}; }), "spelled the same"));
        QVERIFY(says(refusal([](Spelling& s) { s.words.rigidTap = 8; }), "taps are the same"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Millimetres] = s[Phrase::Inches] = ""; }), "both spelled as nothing"));
        QVERIFY(says(refusal([](Spelling& s) { s[Phrase::Feed] = "S{feed}"; }), "are both S"));
        QVERIFY(says(refusal([](Spelling& s) { s.axes = {{"A", "F"}}; }), "are both F"));
        QVERIFY(says(refusal([](Spelling& s) { s.axes = {{"A", "a"}}; }), "no word of an axis"));
        QVERIFY(says(refusal([](Spelling& s) { s.safe = "{units} G91"; }), "'safe' holds"));
        QVERIFY(says(refusal([](Spelling& s) { s.ending = "../x"; }), "'ending'"));
        QVERIFY(says(refusal([](Spelling& s) { s.lines.head = {"{program}"}; }), "more than a name"));
        for (const char* line :
             {"G28 Z0", "G91 G28 Z0.", "X10", "M8", "M5", "S100", "F200", "G54", "T2 M6", "G30", "N10 M77", "MSG {program}", "G0", "A90", "M77 X{tool}"})
            QVERIFY2(!refusal([&](Spelling& s) { s.lines.finish = {line}; }).empty(), line);
        for (const char* line : {"M77", "G261 P3", "T{next}", "(FOR {program})", "M1 (TOOL {tool})", "SMOOTH"})
            QVERIFY2(refusal([&](Spelling& s) { s.lines.finish = {line}; }).empty(), refusal([&](Spelling& s) { s.lines.finish = {line}; }).c_str());
        QVERIFY(!spellingFromJson("{}", "x") && !spellingFromJson("[", "x") && !spellingFromJson(R"({"format":"gyre-dialect","version":2,"name":"x"})", "x"));
        QVERIFY(!spellingFromJson(R"({"format":"gyre-dialect","version":1,"name":"x","say":{"rapids":"G0"}})", "x"));
        QVERIFY(!chooseDialect("nonsense", {}) && !chooseDialect("missing.json", {}));
        QVERIFY(chooseDialect("", {}).value().kind == Dialect::TipControl && chooseDialect("cldata", {}).value().kind == Dialect::CutterData);
    }
    // A program of one dialect means something else, or nothing, to the control of another.
    void oneDialectIsNotAnother() {
        const PostInput plain = slotAndLean("egret-5h.machine.json");
        const PostInput shop = inDialect(plain, std::make_shared<const Spelling>(loadSpelling(demoFile("egret-5h.dialect.json")).value()));
        const auto reads = [](const std::string& text, const PostInput& as) {
            const auto read = readBack(text, as);
            return read && compareProgram(*read, as).agrees();
        };
        const std::string a = writeProgram(plain, Dialect::TipControl).value(), b = writeProgram(shop, Dialect::TipControl).value();
        QVERIFY(reads(a, plain) && reads(b, shop) && !reads(a, shop) && !reads(b, plain));
    }
    // Own lines are steps: one that is gone, moved or other is told.
    void ownLinesCount() {
        Spelling s;
        s.name = "Shop";
        s.words.numberStep = 0;
        s.lines.beforeTool = {"M77"};
        s.lines.afterTool = {"T{next} (NEXT)"};
        s.lines.finish = {"(THE END OF {program})", "M99"};
        const PostInput in = with(slotAndLean("egret-5h.machine.json"), s);
        const std::string text = writeProgram(in, Dialect::TipControl).value();
        QCOMPARE(count(text, "\nM77\nT"), 2);
        QVERIFY(text.find("\nT2 (NEXT)\n") != std::string::npos && text.find("(THE END OF GOLDEN)\nM99\nM30\n") != std::string::npos);
        const auto told = [&](const char* what, const char* by) {
            std::string other = text;
            const auto at = other.find(what);
            other.replace(at, std::string_view(what).size(), by);
            const auto read = readBack(other, in);
            return !read || !compareProgram(*read, in).agrees();
        };
        QVERIFY(!told("M77", "M77") && !told("(THE END OF GOLDEN)\n", ""));
        QVERIFY(told("M77\n", "") && told("M77", "M78") && told("M99", "M77") && told("T2 (NEXT)", "T3 (NEXT)") && told("M99\nM30", "M30\nM99"));
        const auto read = readBack(text, in);
        QCOMPARE(compareProgram(*read, in).own, std::size_t(5));
    }
    void meaningsOfALine() {
        const Spelling s = loadSpelling(demoFile("egret-5h.dialect.json")).value();
        const Machine m = demoMachine("egret-5h.machine.json");
        const Speller speller(s, m, s.words);
        const auto told = [&](const char* line) {
            std::string out;
            for (const auto& w : speller.meanings(line)) out += w.text + "=" + w.what + ";";
            return out;
        };
        QCOMPARE(told("TIPON D2"), std::string("TIPON=tip control on;D2=register of the tool's length;"));
        QCOMPARE(told("G1 F250 X1 B1=30 {x}"), std::string("G1=straight feed move;F250=feed;X1=X of the place;B1=30=angle of B;"));
        QCOMPARE(told("S8000 M3"), std::string("S8000=turns a minute;M3=spindle clockwise;"));
        QCOMPARE(told("M8"), std::string("M8=coolant from outside;"));
        QCOMPARE(told("M99"), std::string("M99=;"));
        QCOMPARE(told("{only}"), std::string());
    }

    // Scripts.
    void scriptsAddLines() {
        std::string text;
        const std::string trouble = outcome(R"lua(
function before(act)
  if act.kind == "tool" then return {"M77 (TOOL " .. act.tool .. ")", "M78"} end
  if act.kind == "move" and act.turns.B then return "M11" end
end
function after(act)
  if act.kind == "move" and act.turns.B then return "M10" end
end)lua",
                                            &text);
        QVERIFY2(trouble.empty(), trouble.c_str());
        QVERIFY2(text.find("M77 (TOOL 1)\nN50 M78\nN60 T1 M6") != std::string::npos, text.c_str());
        QCOMPARE(count(text, " M11\n"), 2);
        QCOMPARE(count(text, " M10\n"), 2);
    }
    void scriptsChangeLines() {
        std::string text;
        std::string trouble = outcome(R"lua(function line(text, act) if text:find("M3") then return text .. " (ON)" end end)lua", &text);
        QVERIFY2(trouble.empty() && text.find("S8000 M3 (ON)") != std::string::npos, trouble.c_str());
        // What can still be read is read as it stands: another number is told.
        trouble = outcome(R"lua(function line(text) return text:replace("X20.0000", "X21.0000") end)lua");
        QVERIFY2(trouble.find("X of the tip") != std::string::npos, trouble.c_str());
        // What cannot be read any more is taken for what it was made of, and told to be unchecked.
        const PostInput in = with(slotAndLean("egret-5h.machine.json"), scripted(R"lua(function line(text) if text == "M5" then return "SPINDLE(OFF)$" end end)lua"));
        const std::string strange = writeProgram(in, Dialect::TipControl).value();
        const auto read = readBack(strange, in);
        QVERIFY2(read, read ? "" : read.error().text().c_str());
        const ReplayReport r = compareProgram(*read, in);
        QVERIFY(r.agrees());
        QCOMPARE(r.unread, std::size_t(2));
        std::string other = strange;
        other.replace(other.find("SPINDLE(OFF)$"), 13, "SPINDLE(ON)$$");
        QVERIFY(!readBack(other, in));
        // Two blocks made the same: nobody could tell which one is meant.
        QVERIFY(outcome(R"lua(function line(text) if text:find("S8000") or text:find("S12000") then return "GO()$" end end)lua").find("nobody could tell") !=
                std::string::npos);
    }
    void scriptsMayNotMove() {
        for (const char* line : {"G0 Z0", "M8", "G28", "S100"}) QVERIFY2(!outcome(fmt::format(R"lua(function before(act) return "{}" end)lua", line)).empty(), line);
    }
    // Endless loops, memory, files, other code, tricks with errors and bytecode: an error with the script's line, never a standstill.
    void hostileScriptsAreStopped_data() {
        QTest::addColumn<QString>("script");
        QTest::addColumn<QString>("told");
        const auto row = [](const char* name, const char* script, const char* told) { QTest::newRow(name) << QString(script) << QString(told); };
        row("loop at the beginning", "while true do end", "steps");
        row("loop", "function before(act) while true do end end", "steps");
        row("recursion", "function f() return f() + 1 end function before(act) f() end", "");
        row("memory", "function before(act) local t = {} while true do t[#t + 1] = ('x'):rep(9000) .. #t end end", "memory");
        row("doubling", "function before(act) local s = 'x' while true do s = s .. s end end", "memory");
        row("huge repeat", "function before(act) return ('x'):rep(1e15) end", "rep makes");
        row("nothing repeated for ever", "function before(act) return (''):rep(1e15) end", "rep makes");
        row("files", "function before(act) io.open('/etc/passwd') end", "io");
        row("system", "function before(act) os.execute('true') end", "os");
        row("other code", "function before(act) require('x') end", "require");
        row("code of text", "function before(act) load('x')() end", "load");
        row("bytecode", "\x1bLua", "");
        row("caught errors", "function before(act) while true do pcall(function() while true do end end) end end", "pcall");
        row("coroutines", "function before(act) coroutine.wrap(function() end)() end", "coroutine");
        row("metatables", "function before(act) setmetatable({}, {}) end", "setmetatable");
        row("texts' metatable", "function before(act) getmetatable('').__index = nil end", "getmetatable");
        row("moves without end", "function before(act) table.move({}, 1, 1e15, 2) end", "move");
        row("patterns", "function before(act) ('a'):rep(5000):gsub(('.-'):rep(60), '') end", "gsub");
        row("debug", "function before(act) debug.sethook() end", "debug");
        row("addresses", "function before(act) return string.format('%p', {}) end", "address");
        row("other errors", "function before(act) error({}) end", "without words");
        row("numbers as errors", "function before(act) error(5) end", "");
        row("other things", "function before(act) return 5 end", "no text");
        row("other things inside", "function before(act) return {{}} end", "no text");
        row("many lines", "function before(act) local t = {} for i = 1, 1000 do t[i] = 'M77' end return t end", "more than");
        row("several lines in one", "function before(act) return 'M77\\nX10' end", "no line");
        row("a long line", "function before(act) return ('M77 '):rep(1000) end", "no line");
        row("no text at all", "function line(text) return '' end", "no line");
        row("wrong grammar", "function before(act", "line 1");
        row("its own end", "function before(act) string = nil end function after(act) return string.format('M1') end", "nil");
    }
    void hostileScriptsAreStopped() {
        QFETCH(QString, script);
        QFETCH(QString, told);
        const std::string said = outcome(script.toStdString());
        QVERIFY2(!said.empty() && said.find(told.toStdString()) != std::string::npos, said.c_str());
    }
    // The same program in every run: tables are gone through in the order of their keys, and nothing tells the time or an address.
    void scriptsAreTheSameEachTime() {
        const char* script = R"lua(
function before(act)
  if act.kind ~= "tool" then return end
  local out = {}
  for key, value in pairs({b = 1, a = 2, c = 3, [2] = "y", [1] = "x", zz = tostring({}), d = 1.5}) do out[#out + 1] = "(" .. tostring(key) .. "-" .. tostring(value) .. ")" end
  return out
end)lua";
        std::string first, again;
        QVERIFY(outcome(script, &first).empty());
        for (int i = 0; i < 5; ++i) {
            QVERIFY(outcome(script, &again).empty());
            QCOMPARE(again, first);
        }
        QVERIFY2(first.find("(1-x)\nN50 (2-y)\nN60 (a-2)\nN70 (b-1)\nN80 (c-3)\nN90 (d-1.5)\nN100 (zz-table)\n") != std::string::npos, first.c_str());
    }
};

GYRE_TEST(TestDialects)

} // namespace test_dialects
#include "test_dialects.moc"
