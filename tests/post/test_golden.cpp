// Programs written by hand, from the drawings of the machines: what the writer must write, to the letter.
//
// All tools are 100 long from the spindle nose to the tip, and the nose stands at 300 over the seat with joints at 0. With the tool upright Z is
// therefore the tip's height less 200. Machines have no ramps of acceleration here, so that inverse time is feed / length.
#include "Program.h"
#include "Programs.h"
#include "holes/DrillSpec.h"
#include "link/Link.h"
#include "operation/OperationResult.h"

namespace test_golden {

using namespace gyre;
using namespace gyre::test;

namespace {

PostInput input(const std::string& machineFile, const ProgramWords& words = {}) {
    PostInput in;
    in.jobName = "Golden";
    in.machine = std::make_shared<const Machine>(withoutRamps(demoMachine(machineFile)));
    in.words = words;
    return in;
}

const Vec3 kAboutX(0, -0.5, std::sqrt(0.75)), kAboutY(0.5, 0, std::sqrt(0.75)); // what A30 and B30 make of the upright axis

} // namespace

class TestGolden : public QObject {
    Q_OBJECT
private slots:
    // A trunnion: the work turns about X 40 below the seat. P = (0, 0, 50) at A30: 90·sin 30 = 45 in Y, 90·cos 30 − 40 − 200 in Z.
    void tipOnHeron() {
        mustBe(slotAndLean("heron-5t.machine.json", kAboutX), Dialect::TipControl, R"(%
(GOLDEN)
(HERON 5T - TIP CONTROL)
(MILLIMETRES)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G53 G0 Z170.0000
N40 T1 M6
N50 G53 G0 Z170.0000
N60 M22
N70 M24
N80 G53 G0 A0.0000 C0.0000
N90 S8000 M3
N100 G53 G0 X0.0000 Y0.0000
N110 G43.4 H1
N120 G0 X0.0000 Y0.0000 Z50.0000 A0.0000 C0.0000
N130 M21
N140 M23
N150 G1 Z10.0000 F250
N160 X20.0000 F500
N170 G0 Z50.0000
N180 G49
N190 G53 G0 Z170.0000
N200 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N210 T2 M6
N220 G53 G0 Z170.0000
N230 M22
N240 M24
N250 G53 G0 A30.0000 C0.0000
N260 S12000 M3
N270 M8
N280 G53 G0 X0.0000 Y45.0000
N290 G43.4 H2
N300 G0 X0.0000 Y0.0000 Z50.0000 A30.0000 C0.0000
N310 M21
N320 M23
N330 G1 Z20.0000 F300
N340 X10.0000 F600
N350 G0 Z50.0000
N360 G49
N370 G53 G0 Z170.0000
N380 M9
N390 M5
N400 M30
%
)");
    }
    void jointsOnHeron() {
        mustBe(slotAndLean("heron-5t.machine.json", kAboutX), Dialect::Joints, R"(%
(GOLDEN)
(HERON 5T - JOINT COORDINATES, INVERSE TIME)
(MILLIMETRES)
(ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - G54 MUST HOLD ZEROS)
(TOOL LENGTHS ARE IN THE WORDS - LOAD TOOLS OF THESE GAUGE LENGTHS)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G0 Z170.0000
N40 T1 M6
N50 M150 T1 L100.0000
N60 G0 Z170.0000
N70 M22
N80 M24
N90 A0.0000 C0.0000
N100 S8000 M3
N110 X0.0000 Y0.0000
N120 G93
N130 Z-150.0000
N140 M21
N150 M23
N160 G1 Z-190.0000 F6.25
N170 X20.0000 F25
N180 G0 Z-150.0000
N190 G94
N200 Z170.0000
N210 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N220 T2 M6
N230 M150 T2 L100.0000
N240 G0 Z170.0000
N250 M22
N260 M24
N270 A30.0000 C0.0000
N280 S12000 M3
N290 M8
N300 X0.0000 Y45.0000
N310 G93
N320 Z-162.0577
N330 M21
N340 M23
N350 G1 Y30.0000 Z-188.0385 F10
N360 X10.0000 F60
N370 G0 Y45.0000 Z-162.0577
N380 G94
N390 Z170.0000
N400 M9
N410 M5
N420 M30
%
)");
    }
    // The work moves with X, Y and A; its seat lies at −40. F per minute; clamp M10 and M11.
    void jointsOnPlover() {
        mustBe(slotAndLean("plover-4.machine.json", kAboutX), Dialect::Joints, R"(%
(GOLDEN)
(PLOVER 4 - JOINT COORDINATES, FEED PER MINUTE)
(MILLIMETRES)
(ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - G54 MUST HOLD ZEROS)
(TOOL LENGTHS ARE IN THE WORDS - LOAD TOOLS OF THESE GAUGE LENGTHS)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G0 Z150.0000
N40 T1 M6
N50 G0 Z150.0000
N60 M11
N70 A0.0000
N80 S8000 M3
N90 X-40.0000 Y0.0000
N100 Z-150.0000
N110 M10
N120 G1 Z-190.0000 F250
N130 X-20.0000 F500
N140 G0 Z-150.0000
N150 Z150.0000
N160 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N170 T2 M6
N180 G0 Z150.0000
N190 M11
N200 A30.0000
N210 S12000 M3
N220 M8
N230 X-40.0000 Y25.0000
N240 Z-156.6987
N250 M10
N260 G1 Y10.0000 Z-182.6795 F300
N270 X-30.0000 F600
N280 G0 Y25.0000 Z-156.6987
N290 Z150.0000
N300 M9
N310 M5
N320 M30
%
)");
    }
    // No offset named, numbers by 5 up to 100, rapids along the path as feed moves.
    void tipOnPloverInOtherWords() {
        ProgramWords words;
        words.offset = 0;
        words.numberStep = 5;
        words.numberWrap = 100;
        words.rapidsAsFeed = true;
        mustBe(slotAndLean("plover-4.machine.json", kAboutX, words), Dialect::TipControl, R"(%
(GOLDEN)
(PLOVER 4 - TIP CONTROL)
(MILLIMETRES)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N5 G21 G17 G90 G40 G49 G80 G94
N10 G53 G0 Z150.0000
N15 T1 M6
N20 G53 G0 Z150.0000
N25 M11
N30 G53 G0 A0.0000
N35 S8000 M3
N40 G53 G0 X-40.0000 Y0.0000
N45 G43.4 H1
N50 G1 X0.0000 Y0.0000 Z50.0000 A0.0000 F24000
N55 M10
N60 Z10.0000 F250
N65 X20.0000 F500
N70 Z50.0000 F24000
N75 G49
N80 G53 G0 Z150.0000
N85 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N90 T2 M6
N95 G53 G0 Z150.0000
N100 M11
N5 G53 G0 A30.0000
N10 S12000 M3
N15 M8
N20 G53 G0 X-40.0000 Y25.0000
N25 G43.4 H2
N30 G1 X0.0000 Y0.0000 Z50.0000 A30.0000 F24000
N35 M10
N40 Z20.0000 F300
N45 X10.0000 F600
N50 Z50.0000 F24000
N55 G49
N60 G53 G0 Z150.0000
N65 M9
N70 M5
N75 M30
%
)");
    }
    // A gantry whose head tips about Y, 280 above the tip: at B30 the head stands 140 aside and 280·cos 30 up. C before B in the words.
    void tipAndJointsOnEgret() {
        const PostInput in = slotAndLean("egret-5h.machine.json", kAboutY);
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
N90 G43.4 H1
N100 G0 X0.0000 Y0.0000 Z50.0000 C0.0000 B0.0000
N110 G1 Z10.0000 F250
N120 X20.0000 F500
N130 G0 Z50.0000
N140 G49
N150 G53 G0 Z250.0000
N160 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N170 T2 M6
N180 G53 G0 Z250.0000
N190 G53 G0 C0.0000 B30.0000
N200 S12000 M3
N210 M8
N220 G53 G0 X140.0000 Y0.0000
N230 G43.4 H2
N240 G0 X0.0000 Y0.0000 Z50.0000 C0.0000 B30.0000
N250 G1 Z20.0000 F300
N260 X10.0000 F600
N270 G0 Z50.0000
N280 G49
N290 G53 G0 Z250.0000
N300 M9
N310 M5
N320 M30
%
)");
        mustBe(in, Dialect::Joints, R"(%
(GOLDEN)
(EGRET 5H - JOINT COORDINATES, INVERSE TIME)
(MILLIMETRES)
(ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - G54 MUST HOLD ZEROS)
(TOOL LENGTHS ARE IN THE WORDS - LOAD TOOLS OF THESE GAUGE LENGTHS)
(SLOT)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G0 Z250.0000
N40 T1 M6
N50 G0 Z250.0000
N60 C0.0000 B0.0000
N70 S8000 M3
N80 X0.0000 Y0.0000
N90 G93
N100 Z-150.0000
N110 G1 Z-190.0000 F6.25
N120 X20.0000 F25
N130 G0 Z-150.0000
N140 G94
N150 Z250.0000
N160 M5
(LEAN)
(T2 BALL 4 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N170 T2 M6
N180 G0 Z250.0000
N190 C0.0000 B30.0000
N200 S12000 M3
N210 M8
N220 X140.0000 Y0.0000
N230 G93
N240 Z-187.5129
N250 G1 Z-217.5129 F10
N260 X150.0000 F60
N270 G0 Z-187.5129
N280 G94
N290 Z250.0000
N300 M9
N310 M5
N320 M30
%
)");
    }
    // The head tips about Y, 220 above the tip; inches. 110 mm are 4.33071 in, 50 − 420 + 220·cos 30 = −179.4744 mm are −7.06592 in.
    void inchesOnDunlin() {
        ProgramWords words;
        words.inch = true;
        words.offset = 57;
        const PostInput in = slotAndLean("dunlin-5m.machine.json", kAboutY, words);
        mustBe(in, Dialect::TipControl, R"(%
(GOLDEN)
(DUNLIN 5M - TIP CONTROL)
(INCHES)
(SLOT)
(T1 FLAT 6 - OUT 1.57480 - GAUGE LENGTH 3.93701)
N10 G20 G17 G90 G40 G49 G80 G94
N20 G57
N30 G53 G0 Z11.81102
N40 T1 M6
N50 G53 G0 Z11.81102
N60 G53 G0 B0.0000 C0.0000
N70 S8000 M3
N80 G53 G0 X0.00000 Y0.00000
N90 G43.4 H1
N100 G0 X0.00000 Y0.00000 Z1.96850 B0.0000 C0.0000
N110 G1 Z0.39370 F9.843
N120 X0.78740 F19.685
N130 G0 Z1.96850
N140 G49
N150 G53 G0 Z11.81102
N160 M5
(LEAN)
(T2 BALL 4 - OUT 1.57480 - GAUGE LENGTH 3.93701)
N170 T2 M6
N180 G53 G0 Z11.81102
N190 G53 G0 B30.0000 C0.0000
N200 S12000 M3
N210 M8
N220 G53 G0 X4.33071 Y0.00000
N230 G43.4 H2
N240 G0 X0.00000 Y0.00000 Z1.96850 B30.0000 C0.0000
N250 G1 Z0.78740 F11.811
N260 X0.39370 F23.622
N270 G0 Z1.96850
N280 G49
N290 G53 G0 Z11.81102
N300 M9
N310 M5
N320 M30
%
)");
        mustBe(in, Dialect::Joints, R"(%
(GOLDEN)
(DUNLIN 5M - JOINT COORDINATES, INVERSE TIME)
(INCHES)
(ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - G57 MUST HOLD ZEROS)
(TOOL LENGTHS ARE IN THE WORDS - LOAD TOOLS OF THESE GAUGE LENGTHS)
(SLOT)
(T1 FLAT 6 - OUT 1.57480 - GAUGE LENGTH 3.93701)
N10 G20 G17 G90 G40 G49 G80 G94
N20 G57
N30 G0 Z11.81102
N40 T1 M6
N50 G0 Z11.81102
N60 B0.0000 C0.0000
N70 S8000 M3
N80 X0.00000 Y0.00000
N90 G93
N100 Z-5.90551
N110 G1 Z-7.48031 F6.25
N120 X0.78740 F25
N130 G0 Z-5.90551
N140 G94
N150 Z11.81102
N160 M5
(LEAN)
(T2 BALL 4 - OUT 1.57480 - GAUGE LENGTH 3.93701)
N170 T2 M6
N180 G0 Z11.81102
N190 B30.0000 C0.0000
N200 S12000 M3
N210 M8
N220 X4.33071 Y0.00000
N230 G93
N240 Z-7.06592
N250 G1 Z-8.24702 F10
N260 X4.72441 F60
N270 G0 Z-7.06592
N280 G94
N290 Z11.81102
N300 M9
N310 M5
N320 M30
%
)");
    }
    // Cutter data speak of the part alone: the same on every machine.
    void cutterDataOnFourMachines() {
        for (const char* machine : {"heron-5t.machine.json", "egret-5h.machine.json", "dunlin-5m.machine.json", "snipe-5n.machine.json"})
            mustBe(slotAndLean(machine, kAboutY), Dialect::CutterData, R"(PARTNO/GOLDEN
UNITS/MM
MULTAX/ON
PPRINT/SLOT
LOADTL/1
CUTTER/6.0000,0.0000
SPINDL/8000,RPM,CLW
RAPID
GOTO/0.000000,0.000000,50.000000,0.000000000,0.000000000,1.000000000
FEDRAT/250,MMPM
GOTO/0.000000,0.000000,10.000000,0.000000000,0.000000000,1.000000000
FEDRAT/500,MMPM
GOTO/20.000000,0.000000,10.000000,0.000000000,0.000000000,1.000000000
RAPID
GOTO/20.000000,0.000000,50.000000,0.000000000,0.000000000,1.000000000
SPINDL/OFF
PPRINT/LEAN
LOADTL/2
CUTTER/4.0000,2.0000
SPINDL/12000,RPM,CLW
COOLNT/FLOOD
RAPID
GOTO/0.000000,0.000000,50.000000,0.500000000,0.000000000,0.866025404
FEDRAT/300,MMPM
GOTO/0.000000,0.000000,20.000000,0.500000000,0.000000000,0.866025404
FEDRAT/600,MMPM
GOTO/10.000000,0.000000,20.000000,0.500000000,0.000000000,0.866025404
RAPID
GOTO/10.000000,0.000000,50.000000,0.500000000,0.000000000,0.866025404
COOLNT/OFF
SPINDL/OFF
FINI
)");
    }
    // The way in ends 3 above R as a rapid, then goes at half feed: 100 mm/min over 3 mm; out at 200.
    // A hole drilled and a thread, with a coupled tap: 1.25 mm × 400/min = 500 mm/min = 19.68503937 in/min, or 0.04921259843 in a turn.
    void cyclesAndTapsOnSnipe() {
        ProgramWords words;
        words.dwellMs = true;
        words.rigidTap = 29;
        words.lengthCheck = "CHECK T{tool} L{length}";
        DrillSpec peck, tap;
        peck.cycle = Cycle::Drill;
        peck.toGeometry = false;
        peck.depth = 8.0;
        peck.fullDiameter = false;
        peck.dwell = 0.25;
        tap = peck;
        tap.cycle = Cycle::Tap;
        tap.pitch = 1.25;
        PostInput in = input("snipe-5n.machine.json", words);
        const std::vector<Vec3> mouths{{10, 0, 20}};
        in.operations.push_back(holeOperation(*in.machine, "Drill", 1, plainTool("Drill 5", CutterShape::Drill, 5, 2000, Coolant::Through), mouths, peck));
        in.operations.push_back(holeOperation(*in.machine, "Thread", 2, plainTool("Tap 6", CutterShape::Flat, 6, 400), mouths, tap));
        const std::string golden = R"(%
(GOLDEN)
(SNIPE 5N - JOINT COORDINATES, INVERSE TIME)
(MILLIMETRES)
(ALL WORDS COUNT FROM THE ZERO OF THE MACHINE - G54 MUST HOLD ZEROS)
(TOOL LENGTHS ARE IN THE WORDS - LOAD TOOLS OF THESE GAUGE LENGTHS)
(DRILL)
(T1 DRILL 5 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G0 Z300.0000
N40 T1 M6
N50 CHECK T1 L100.0000
N60 G0 Z300.0000
N70 B0.0000 C0.0000
N80 S2000 M3
N90 M88
N100 X10.0000 Y0.0000
N110 G93
N120 Z-150.0000
N130 Z-175.0000
N140 G1 Z-178.0000 F33.333
N150 G94
N160 G99 G82 X10.0000 Y0.0000 Z-188.0000 R-178.0000 P250 F200
N170 G80
N180 G93
N190 G1 X10.0000 Y0.0000 Z-175.0000 B0.0000 C0.0000 F66.667
N200 G0 Z-150.0000
N210 G94
N220 Z300.0000
N230 M9
N240 M5
(THREAD)
(T2 TAP 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N250 T2 M6
N260 CHECK T2 L100.0000
N270 G0 Z300.0000
N280 B0.0000 C0.0000
N290 S400 M3
N300 X10.0000 Y0.0000
N310 G93
N320 Z-150.0000
N330 Z-175.0000
N340 G1 Z-178.0000 F33.333
N350 M29 S400
N360 G94
N370 G99 G84 X10.0000 Y0.0000 Z-188.0000 R-178.0000 F500
N380 G80
N390 G93
N400 G1 X10.0000 Y0.0000 Z-175.0000 B0.0000 C0.0000 F66.667
N410 G0 Z-150.0000
N420 G94
N430 Z300.0000
N440 M5
N450 M30
%
)";
        mustBe(in, Dialect::Joints, golden);
        in.words.inch = true;
        std::string text = writeProgram(in, Dialect::Joints).value();
        QVERIFY2(text.find("G84 X0.39370 Y0.00000 Z-7.40157 R-7.00787 F19.6850394\n") != std::string::npos, text.c_str());
        in.words.tapPerTurn = true;
        text = writeProgram(in, Dialect::Joints).value();
        QVERIFY2(text.find("G95\n") != std::string::npos && text.find("F0.0492125984\n") != std::string::npos, text.c_str());
        QVERIFY(writeProgram(in, Dialect::CutterData).value().find("CYCLE/TAP,0.39370,IPR,0.0492125984\n") != std::string::npos);
        in.words.inch = false;
        text = writeProgram(in, Dialect::Joints).value();
        QVERIFY2(text.find("R-178.0000 F1.25\n") != std::string::npos, text.c_str());
        const auto read = readProgram(text, *in.machine, in.words);
        QVERIFY2(read && compareProgram(*read, in).agrees(), read ? "" : read.error().text().c_str());
        QVERIFY(!writeProgram(in, Dialect::TipControl)); // no tapping cycle there
    }
    // Without a feed or a speed nothing is written; small ones are not rounded away.
    void missingAndSmallFeeds() {
        PostInput in = slotAndLean("heron-5t.machine.json", kAboutX);
        const auto with = [&](float feed, double speed) {
            auto result = std::make_shared<OperationResult>(*in.operations[0].result);
            auto links = std::make_shared<LinkResult>(*result->links);
            links->path.feed[2] = feed;
            result->links = links;
            result->tool.spindleSpeed = speed;
            PostInput other = in;
            other.operations[0].result = result;
            return other;
        };
        for (const Dialect d : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
            for (const float none : {0.0f, -5.0f, std::nanf("")}) {
                const auto text = writeProgram(with(none, 8000), d);
                QVERIFY(!text && text.error().text().find("Slot") != std::string::npos && text.error().what.find("feed") != std::string::npos);
            }
            QVERIFY(!writeProgram(with(100, 0), d) && !writeProgram(with(100, 0.3), d));
            if (d != Dialect::Joints)
                QVERIFY(writeProgram(with(0.0123f, 8000), d).value().find(d == Dialect::CutterData ? "FEDRAT/0.0123," : " F0.0123\n") != std::string::npos);
        }
    }
};

GYRE_TEST(TestGolden)

} // namespace test_golden
#include "test_golden.moc"
