#include "Program.h"
#include "Programs.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include <fmt/format.h>

namespace test_post {

using namespace gyre;
using test::Random;

namespace {
PostInput demoInput() {
    auto& d = test::demoResults();
    return postInputOf(d.job, d.results.place, d.results.operations);
}
} // namespace

class TestPost : public QObject {
    Q_OBJECT
private slots:
    void dialects() {
        QTest::addColumn<int>("dialect");
        for (Dialect d : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) QTest::newRow(kindOf(d).word) << static_cast<int>(d);
    }
    void whatIsWrittenReadsBackWithinTheRounding_data() { dialects(); }
    void whatIsWrittenReadsBackWithinTheRounding() {
        QFETCH(int, dialect);
        const PostInput input = demoInput();
        const auto text = writeProgram(input, static_cast<Dialect>(dialect));
        QVERIFY(text);
        const auto read = readProgram(*text, *input.machine);
        QVERIFY2(read, read ? "" : read.error().text().c_str());
        QCOMPARE(static_cast<int>(read->dialect), dialect);
        const ReplayReport r = compareProgram(*read, input);
        QVERIFY2(r.agrees(), r.agrees() ? "" : r.differences.front().c_str());
        QVERIFY(r.moves > input.operations[0].result->path()->size());
        QVERIFY(r.tip < 2e-3 && r.axis < 1e-5);
    }
    // Names keep their meaning in the few signs that every control has.
    void namesAreSpelledInPlainLetters() {
        PostInput input = demoInput();
        input.operations[0].name = "12 × Ø4, 90° – Größe/ä_1 ∞ (x)";
        for (const Dialect d : {Dialect::TipControl, Dialect::Joints}) {
            const std::string text = writeProgram(input, d).value();
            QVERIFY2(text.find("(12 X D4, 90DEG - GROESSE-AE-1  X)") != std::string::npos, text.substr(0, 600).c_str());
            QVERIFY(compareProgram(readProgram(text, *input.machine).value(), input).agrees());
        }
    }
    // Another zero moves the tip's words and nothing else.
    void programsCountFromTheirZero() {
        PostInput input = demoInput();
        const auto plain = readProgram(writeProgram(input, Dialect::TipControl).value(), *input.machine).value();
        const std::string joints = writeProgram(input, Dialect::Joints).value();
        input.zero = Vec3(12.5, -3, 40);
        const std::string text = writeProgram(input, Dialect::TipControl).value();
        QVERIFY(text.find("ZERO AT 12.5000 -3.0000 40.0000") != std::string::npos);
        const auto moved = readProgram(text, *input.machine).value();
        QVERIFY(compareProgram(moved, input).agrees());
        QVERIFY(!compareProgram(plain, input).agrees());
        QCOMPARE(moved.acts.size(), plain.acts.size());
        for (std::size_t i = 0; i < moved.acts.size(); ++i)
            if (moved.acts[i].tip.allFinite()) QVERIFY((moved.acts[i].tip + input.zero - plain.acts[i].tip).norm() < 1.5e-4);
        QCOMPARE(writeProgram(input, Dialect::Joints).value(), joints); // joints know no zero
        QVERIFY(compareProgram(readProgram(writeProgram(input, Dialect::CutterData).value(), *input.machine).value(), input).agrees());
    }
    // Clamps close where a joint stands still from one rapid to the next, and open before it moves; what moves a clamped joint is refused.
    void clampsTurnsAndFeeds() {
        const Machine machine = test::demoMachine("plover-4.machine.json");
        const int a = machine.find("A");
        QVERIFY(machine.joints[static_cast<std::size_t>(a)].clampCode == 10 && machine.jointFeed == JointFeed::PerMinute);
        // Two indexed cuts a third of a turn apart, then one all around.
        auto links = std::make_shared<LinkResult>();
        Toolpath& p = links->path;
        const auto out = [](double degrees) { return Vec3(0, std::cos(radians(degrees)), std::sin(radians(degrees))); };
        const auto push = [&](double x, double r, double degrees, Motion m, double feed) { p.push(Vec3(x, 0, 0) + r * out(degrees), out(degrees), m, 0, feed); };
        for (const double index : {90.0, 210.0}) {
            push(0, 60, index, Motion::Rapid, 0);
            push(0, 30, index, Motion::Plunge, 100);
            push(20, 30, index, Motion::Cut, 300);
            push(20, 60, index, Motion::Retract, kRapidFeed);
        }
        push(40, 60, 210, Motion::Rapid, 0);
        push(40, 30, 210, Motion::Plunge, 100);
        for (int i = 1; i <= 100; ++i) push(40, 30, 210 + 9.0 * i, Motion::Cut, 300); // two and a half turns
        push(40, 60, 210 + 900, Motion::Retract, kRapidFeed);
        auto result = std::make_shared<OperationResult>();
        result->links = links;
        result->tool = test::flatTool(6, 20);
        const auto post = [&](const Machine& m) {
            const Kinematics kinematics(m, Frame::Identity(), result->tool.gaugeLength());
            Progress progress;
            result->motion = std::make_shared<const JointMotion>(solveMotion(p, kinematics, MotionSpec{}, progress).value());
            PostInput input;
            input.jobName = "clamps";
            input.machine = std::make_shared<const Machine>(m);
            input.operations = {{"index", result, 1}};
            return input;
        };
        const auto lines = [](const std::string& text, const std::string& what) {
            int n = 0;
            for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) ++n;
            return n;
        };
        for (const bool perMinute : {true, false})
            for (const bool shortest : {false, true}) {
                Machine m = machine;
                m.jointFeed = perMinute ? JointFeed::PerMinute : JointFeed::InverseTime;
                m.joints[static_cast<std::size_t>(a)].shortest = shortest;
                QCOMPARE(machineToJson(machineFromJson(machineToJson(m), "m").value()), machineToJson(m));
                const PostInput input = post(m);
                for (const Dialect d : {Dialect::Joints, Dialect::TipControl}) {
                    const auto text = writeProgram(input, d);
                    QVERIFY2(text, text ? "" : text.error().text().c_str());
                    QCOMPARE(lines(*text, " M10\n"), 2); // once at each index; not while it turns
                    QCOMPARE(lines(*text, " M11\n"), 3); // before the first swing too: nobody knows how the machine was left
                    const auto read = readProgram(*text, m);
                    QVERIFY2(read, read ? "" : read.error().text().c_str());
                    const ReplayReport r = compareProgram(*read, input);
                    QVERIFY2(r.agrees(), r.agrees() ? "" : r.differences.front().c_str());
                    if (shortest)
                        for (double turn = 360.0; turn <= 1440.0; turn += 0.5)
                            QVERIFY(text->find(fmt::format(" A{:.4f}", turn)) == std::string::npos && text->find(fmt::format(" A-{:.4f}", turn)) == std::string::npos);
                    QCOMPARE(lines(*text, "G93"), d == Dialect::Joints && !perMinute ? 1 : 0);
                    // A move of the joint while it is clamped.
                    std::string wrong = *text;
                    const std::size_t open = wrong.find(" M11\n", wrong.find(" M10\n"));
                    wrong.replace(open, 5, " M10\n");
                    const auto bad = readProgram(wrong, m);
                    QVERIFY(!bad && bad.error().what.find("clamped") != std::string::npos);
                }
            }
        // Half a turn in one block may go either way where the control chooses.
        Machine m = machine;
        m.joints[static_cast<std::size_t>(a)].shortest = true;
        PostInput input = post(m);
        auto wide = std::make_shared<JointMotion>(*result->motion);
        for (std::size_t s = wide->size() / 2; s < wide->size(); ++s) wide->values[s * wide->joints + static_cast<std::size_t>(a)] += kPi;
        result->motion = wide;
        input.operations[0].result = result;
        const auto refused = writeProgram(input, Dialect::Joints);
        QVERIFY(!refused && refused.error().what.find("shorter way") != std::string::npos);
    }
    // Between two rows that want different turns the program goes up, turns and comes down as it does between operations.
    void rotariesTurnOverAtTheTopOfZ() {
        const auto [machineThere, path, away, second] = test::turningOver();
        const Machine& machine = machineThere;
        auto links = std::make_shared<LinkResult>();
        links->path = path;
        auto result = std::make_shared<OperationResult>();
        result->links = links;
        result->tool = test::flatTool(6, 20);
        Progress progress;
        const Kinematics kinematics(machine, Frame::Identity(), result->tool.gaugeLength());
        result->motion = std::make_shared<const JointMotion>(solveMotion(path, kinematics, MotionSpec{}, progress, away).value());
        PostInput input;
        input.jobName = "over";
        input.machine = std::make_shared<const Machine>(machine);
        input.operations = {{"rows", result, 1}};
        const std::string top = fmt::format("G53 G0 Z{:.4f}\n", machine.joints[static_cast<std::size_t>(machine.find("Z"))].high);
        for (const Dialect d : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
            const auto text = writeProgram(input, d);
            QVERIFY2(text, text ? "" : text.error().text().c_str());
            const auto agrees = [&](const std::string& program) {
                const auto read = readProgram(program, machine);
                return read && compareProgram(*read, input).agrees();
            };
            QVERIFY(agrees(*text));
            if (d != Dialect::TipControl) continue;
            // In the first row's last line the control follows the tip; then it does not, until all is turned.
            const std::size_t off = text->find("G49\n", text->find("G43.4")), on = text->find("G43.4", off);
            QVERIFY(off != std::string::npos && on != std::string::npos);
            const std::string between = text->substr(off, on - off);
            const std::size_t up = between.find(top), turn = between.find("G53 G0 A"), across = between.find("G53 G0 X");
            QVERIFY2(up < turn && turn < across && across != std::string::npos, between.c_str());
            for (const std::size_t at : {up, turn, across}) {
                std::string without = *text;
                const std::size_t from = off + at;
                without.erase(from, without.find('\n', from) + 1 - from);
                QVERIFY(!agrees(without));
            }
        }
    }
    // Written from one toolpath, both RS-274 programs must replay to the same poses.
    void bothProgramsReplayToTheSameMotion() {
        const PostInput input = demoInput();
        const auto tip = readProgram(writeProgram(input, Dialect::TipControl).value(), *input.machine).value();
        const auto joints = readProgram(writeProgram(input, Dialect::Joints).value(), *input.machine).value();
        const auto path = [](const Program& p, bool tips) {
            std::vector<Act> moves;
            for (const Act& a : p.acts)
                if (a.kind == Act::Kind::Move && (!tips || a.tip.allFinite())) moves.push_back(a);
            return moves;
        };
        const auto a = path(tip, true), b = path(joints, false);
        const auto& op = *input.operations[0].result;
        const std::size_t before = b.size() - op.motion->size() - 1; // the ways from and to the top of Z
        const Kinematics k(*input.machine, input.partFrame, op.tool.gaugeLength());
        QCOMPARE(a.size(), op.path()->size());
        for (std::size_t i = 0; i < a.size(); ++i) {
            const auto& q = b[before + op.motion->stepOf[i]].joints;
            const ToolPose pose = k.forward({q.begin(), q.begin() + static_cast<std::ptrdiff_t>(k.joints())});
            QVERIFY2((pose.tip - a[i].tip).norm() < 1e-3, qPrintable(QString::number((pose.tip - a[i].tip).norm())));
        }
    }
    void oneChangedDigitIsFound() {
        const PostInput input = demoInput();
        std::string text = writeProgram(input, Dialect::TipControl).value();
        const auto at = text.find("X-", text.size() / 2);
        QVERIFY(at != std::string::npos);
        text[at + 2] = text[at + 2] == '9' ? '8' : static_cast<char>(text[at + 2] + 1);
        const auto read = readProgram(text, *input.machine);
        QVERIFY(read);
        const ReplayReport r = compareProgram(*read, input);
        QVERIFY(!r.agrees() && r.worstLine > 1);
    }
    void missingAndAddedLinesAreFound() {
        const PostInput input = demoInput();
        const std::string text = writeProgram(input, Dialect::CutterData).value();
        const auto at = text.find("GOTO/", text.size() / 2), end = text.find('\n', at) + 1;
        std::string less = text, more = text;
        less.erase(at, end - at);
        more.insert(at, text.substr(at, end - at));
        QVERIFY(!compareProgram(readProgram(less, *input.machine).value(), input).agrees());
        QVERIFY(!compareProgram(readProgram(more, *input.machine).value(), input).agrees());
        QVERIFY(!readProgram(text.substr(0, text.size() / 2), *input.machine));
    }
    void whatIsNotUnderstoodIsAnErrorWithItsLine() {
        const Machine m = test::demoMachine("heron-5t.machine.json");
        for (const char* bad : {"G1 X1 Q7\nM30\n", "G77\nM30\n", "G1 X1..2\nM30\n", "G1 X1 X2\nM30\n", "(open\nM30\n", "G93 G1 X1\nM30\n", "", "%\n%", "M30", "G1 X1\n",
                                "PARTNO/A\nGOTO/1,2,3\nFINI\n", "PARTNO/A\nGOTO/1,2,3,0,0,0\nFINI\n", "PARTNO/A\nDANCE/1\nFINI\n", "G43.4\nG1 W5\nM30\n"})
            QVERIFY2(!readProgram(bad, m), bad);
        const auto e = readProgram("G1 X1\nG1 X2\nG77\nM30\n", m);
        QVERIFY(e.error().place.find("line 3") != std::string::npos);
    }
    void mutatedProgramsNeverCrashTheReader() {
        Random r(61);
        const PostInput input = demoInput();
        for (Dialect d : {Dialect::TipControl, Dialect::CutterData}) {
            const std::string text = writeProgram(input, d).value().substr(0, 6000);
            for (int i = 0; i < 600; ++i) {
                std::string t = text;
                for (int k = r.integer(1, 12); k > 0; --k)
                    t[static_cast<std::size_t>(r.integer(0, static_cast<int>(t.size()) - 1))] = static_cast<char>(r.integer(0, 255));
                (void)readProgram(t, *input.machine);
            }
        }
    }
    void nothingIsWrittenWithoutAToolpath() {
        PostInput input = demoInput();
        input.operations[0].result = std::make_shared<const OperationResult>();
        QVERIFY(!writeProgram(input, Dialect::TipControl));
        input.operations.clear();
        QVERIFY(!writeProgram(input, Dialect::TipControl));
    }
};

GYRE_TEST(TestPost)

} // namespace test_post
#include "test_post.moc"
