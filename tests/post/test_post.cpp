#include "Support.h"

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
        for (Dialect d : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) QTest::newRow(dialectName(d)) << static_cast<int>(d);
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
        const auto& op = *input.operations[0].result;
        QCOMPARE(r.moves, static_cast<Dialect>(dialect) == Dialect::Joints ? op.motion->size() : op.path()->size());
        QVERIFY(r.tip < 2e-3 && r.axis < 1e-5);
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
        QCOMPARE(moved.moves.size(), plain.moves.size());
        for (std::size_t i = 0; i < moved.moves.size(); ++i)
            if (!moved.moves[i].machineCoordinates) QVERIFY((moved.moves[i].tip + input.zero - plain.moves[i].tip).norm() < 1.5e-4);
        QCOMPARE(writeProgram(input, Dialect::Joints).value(), joints); // joints know no zero
        QVERIFY(compareProgram(readProgram(writeProgram(input, Dialect::CutterData).value(), *input.machine).value(), input).agrees());
    }
    // Written from one toolpath, both RS-274 programs must replay to the same poses.
    void bothProgramsReplayToTheSameMotion() {
        const PostInput input = demoInput();
        const auto tip = readProgram(writeProgram(input, Dialect::TipControl).value(), *input.machine).value();
        const auto joints = readProgram(writeProgram(input, Dialect::Joints).value(), *input.machine).value();
        std::vector<const ReadMove*> a, b;
        for (const auto& m : tip.moves)
            if (!m.machineCoordinates) a.push_back(&m);
        for (const auto& m : joints.moves)
            if (!m.machineCoordinates) b.push_back(&m);
        const auto& op = *input.operations[0].result;
        const Kinematics k(*input.machine, input.partFrame, op.tool.gaugeLength());
        for (std::size_t i = 0; i < a.size(); ++i) {
            const ToolPose pose = k.forward(b[op.motion->stepOf[i]]->joints);
            QVERIFY2((pose.tip - a[i]->tip).norm() < 1e-3, qPrintable(QString::number((pose.tip - a[i]->tip).norm())));
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

QTEST_GUILESS_MAIN(TestPost)
#include "test_post.moc"
