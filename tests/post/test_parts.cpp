// A route as several programs: each a whole program, together all of the route, known again when it comes back.
#include "Program.h"
#include "Programs.h"
#include "base/File.h"
#include "operation/OperationResult.h"
#include "session/EditedProgram.h"
#include <QProcess>
#include <QTemporaryDir>

namespace test_parts {

using namespace gyre;
using namespace gyre::test;

namespace {

/// Rows at depths of their own, so that no two operations say the same.
PostInput routeOf(const std::vector<int>& tools, ProgramSplit split) {
    PostInput in;
    in.jobName = "Frame";
    in.machine = std::make_shared<const Machine>(demoMachine("heron-5t.machine.json"));
    in.words.split = split;
    for (std::size_t i = 0; i < tools.size(); ++i) {
        const Assembly tool = plainTool("tool " + std::to_string(tools[i]), CutterShape::Ball, 4.0 + tools[i], 6000);
        const double z = -0.5 * static_cast<double>(i + 1);
        in.operations.push_back(
            steadyOperation(*in.machine, "work " + std::to_string(i + 1), tools[i], tool, Vec3::UnitZ(),
                            {{Motion::Rapid, {0, 0, 40}}, {Motion::Plunge, {0, 0, z}, 300}, {Motion::Cut, {30, 0, z}, 900}, {Motion::Retract, {30, 0, 40}}}));
    }
    return in;
}

/// Where the tool cuts, in the order of the program.
std::vector<Vec3> cutsOf(const Program& program) {
    std::vector<Vec3> out;
    for (const Act& a : program.acts)
        if (a.kind == Act::Kind::Move && !a.rapid && !a.aside) out.push_back(std::isnan(a.tip.x()) ? Vec3(a.joints[0], a.joints[1], a.joints[2]) : a.tip);
    return out;
}

} // namespace

class TestParts : public QObject {
    Q_OBJECT
private slots:
    // By tools a stretch with one tool each, by operations each; one program where there is one only.
    void howItIsDivided() {
        const auto sizes = [](const std::vector<ProgramPart>& parts) {
            std::vector<std::size_t> out;
            for (const ProgramPart& p : parts) out.push_back(p.input.operations.size());
            return out;
        };
        using Sizes = std::vector<std::size_t>;
        QCOMPARE(sizes(partsOf(routeOf({1, 1, 2, 1}, ProgramSplit::One))), Sizes{4});
        QCOMPARE(sizes(partsOf(routeOf({1, 1, 2, 1}, ProgramSplit::Tools))), (Sizes{2, 1, 1}));
        QCOMPARE(sizes(partsOf(routeOf({1, 1, 2, 1}, ProgramSplit::Operations))), (Sizes{1, 1, 1, 1}));
        QCOMPARE(sizes(partsOf(routeOf({3, 3, 3}, ProgramSplit::Tools))), Sizes{3});
        QCOMPARE(sizes(partsOf(routeOf({3}, ProgramSplit::Operations))), Sizes{1});
        const auto parts = partsOf(routeOf({1, 1, 2, 1}, ProgramSplit::Tools));
        QCOMPARE(parts[1].first, std::size_t{2});
        QCOMPARE(parts[2].first, std::size_t{3});
        QCOMPARE(parts[2].input.jobName, std::string("Frame, 3 of 3: tool 1"));
        QCOMPARE(partFile("a/frame.nc", 1, 3).string(), std::string("a/frame-2.nc"));
        QCOMPARE(partFile("frame.nc", 0, 1).string(), std::string("frame.nc"));
        QCOMPARE(partFile("frame.v2.nc", 2, 3).string(), std::string("frame.v2-3.nc"));
    }

    // In every dialect: each is read back as what it means, has an end of its own and the tool that it needs; together they cut what the whole cuts.
    void together_data() {
        QTest::addColumn<int>("dialect");
        for (const DialectKind& k : dialects()) QTest::newRow(k.word) << static_cast<int>(k.dialect);
    }
    void together() {
        QFETCH(int, dialect);
        const auto kind = static_cast<Dialect>(dialect);
        const PostInput whole = routeOf({1, 1, 2, 1}, ProgramSplit::One);
        const auto all = cutsOf(readBack(writeProgram(whole, kind).value(), whole).value());
        for (const ProgramSplit split : {ProgramSplit::Tools, ProgramSplit::Operations}) {
            std::vector<Vec3> cuts;
            for (const ProgramPart& p : partsOf(routeOf({1, 1, 2, 1}, split))) {
                const auto written = composeProgram(p.input, kind).value();
                const auto read = readBack(written.text, p.input).value();
                const ReplayReport report = compareProgram(read, p.input);
                QVERIFY2(report.agrees(), report.agrees() ? "" : report.differences.front().c_str());
                QCOMPARE(read.acts.back().kind, Act::Kind::End);
                QVERIFY(std::any_of(read.acts.begin(), read.acts.end(), [](const Act& a) { return a.kind == Act::Kind::ToolChange; }));
                const auto own = cutsOf(read);
                cuts.insert(cuts.end(), own.begin(), own.end());
                // It is known again, also when lines of it are changed.
                const PostInput routed = routeOf({1, 1, 2, 1}, split);
                QCOMPARE(partLike(routed, written.text).first, p.first);
                std::string edited = written.text;
                if (const auto at = edited.find("F900"); at != std::string::npos) edited.replace(at, 4, "F850");
                QCOMPARE(partLike(routed, edited).first, p.first);
                // Another's program is not taken for it.
                QVERIFY(!compareProgram(read, whole).agrees());
            }
            QCOMPARE(cuts.size(), all.size());
            for (std::size_t i = 0; i < all.size(); ++i) QVERIFY((cuts[i] - all[i]).norm() < 1e-6);
        }
        QCOMPARE(partLike(routeOf({1, 2}, ProgramSplit::Tools), "no program at all\n").first, std::size_t{0});
    }

    // From the command line: files numbered, replayed one by one; a stale word of split is refused like any other.
    void fromTheCommandLine() {
        QTemporaryDir folder;
        const std::filesystem::path out = folder.path().toStdString();
        auto text = readFile(demoFile("yoke-edges.gyre.json"), 1u << 24).value();
        const auto gyre = [&](const QStringList& words) {
            QProcess p;
            p.start(QStringLiteral(GYRE_BIN_DIR "/gyre"), QStringList{"--quiet"} + words);
            p.waitForFinished(-1);
            return std::pair(p.exitCode(), p.readAllStandardOutput() + p.readAllStandardError());
        };
        Job job = openJob(demoFile("yoke-edges.gyre.json")).value();
        const std::size_t count = job.worked().size();
        job.program.split = ProgramSplit::Operations;
        for (const auto& entry : std::filesystem::directory_iterator(GYRE_DEMO_DIR))
            if (entry.is_regular_file()) std::filesystem::create_symlink(entry.path(), out / entry.path().filename());
        const std::string file = (out / "divided.json").string();
        QVERIFY(saveJob(job, file).has_value());
        const QString name = QString::fromStdString(file), nc = QString::fromStdString((out / "edges.nc").string());
        auto [code, said] = gyre({"post", name, "--out", nc});
        QVERIFY2(code == 0, said.constData());
        QVERIFY(!std::filesystem::exists(out / "edges.nc"));
        for (std::size_t k = 0; k < count; ++k) {
            const QString part = QString::fromStdString(partFile(nc.toStdString(), k, count).string());
            QVERIFY2(std::filesystem::exists(part.toStdString()), qPrintable(part));
            const auto replayed = gyre({"replay", part, "--job", name});
            QVERIFY2(replayed.first == 0, replayed.second.constData());
        }
        QVERIFY(!std::filesystem::exists(partFile(nc.toStdString(), count, count + 1)));
        const auto proven = gyre({"prove-program", QString::fromStdString(partFile(nc.toStdString(), count - 1, count).string()), "--job", name});
        QVERIFY2(proven.first == 0 && proven.second.contains("0 lines are changed"), proven.second.constData());
    }
};

GYRE_TEST(TestParts)

} // namespace test_parts
#include "test_parts.moc"
