// Every remedy that is offered works when it is taken: the finding is gone, or smaller, and nothing else stops the operation for it.
#include "OpenedJob.h"
#include "Program.h"
#include "operation/OperationResult.h"
#include <fmt/format.h>

namespace test_remedies {

using namespace gyre;

class TestRemedies : public QObject {
    Q_OBJECT
    Workshop m_workshop{std::filesystem::path(GYRE_DEMO_DIR)};
    StageCache m_cache;

    struct Found {
        double amount = 0.0;
        bool stop = false, there = false;
        std::vector<Remedy> remedies;
        std::string text;
    };
    static Found found(const OperationResult& r, const std::string& code) {
        Found out;
        for (const Finding& f : r.findings)
            if (f.code == code) {
                out.there = true;
                out.stop = out.stop || f.rank == Rank::Stop;
                out.amount = std::max(out.amount, f.amount);
                out.text = f.text + " (" + f.reason + ")";
                for (const Remedy& m : f.remedies) out.remedies.push_back(m);
            }
        return out;
    }
    // What comes after an operation says nothing of it; what was computed for the remedy before need not be again.
    std::shared_ptr<const OperationResult> run(const Job& job, const std::string& id) {
        Progress progress;
        Job one = job;
        const auto self = std::find_if(one.route.begin(), one.route.end(), [&](const Recipe& r) { return r.id == id; });
        one.route.erase(self + 1, one.route.end());
        std::erase_if(one.route, [&](const Recipe& r) { return r.id != id && r.parent.empty() && r.kind == OperationKind::Surface; });
        const auto results = computeJob(one, m_workshop, m_cache, progress);
        if (!results) qFatal("%s", results.error().text().c_str());
        for (const auto& r : results->operations)
            if (r->operation == id) return r;
        return nullptr; // switched off
    }

private slots:
    void takenAsOffered_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("operation");
        QTest::addColumn<QStringList>("words");
        QTest::addColumn<QString>("code");
        QTest::newRow("a tolerance too narrow for the wall") << "collar-walls" << 1 << QStringList{"swarf.tolerance=0.0045"} << "wall-over";
        QTest::newRow("laid on both ends of a twisted wall") << "collar-walls" << 1 << QStringList{"swarf.twist=false", "swarf.tolerance=0.012"} << "wall-over";
        QTest::newRow("the foot over the tip") << "collar-walls" << 1 << QStringList{"swarf.past=-3", "swarf.floor=report"} << "wall-under";
        QTest::newRow("left down at a floor") << "runner-vanes" << 0 << QStringList{"swarf.floor=report"} << "cutter-gouges";
        QTest::newRow("lifted off a floor") << "runner-vanes" << 0 << QStringList{} << "wall-lifted";
        QTest::newRow("no feed") << "yoke-work" << 1 << QStringList{"tool.feedPerTooth=0"} << "no-feed";
        QTest::newRow("no speed") << "yoke-work" << 1 << QStringList{"tool.spindleSpeed=0"} << "no-speed";
        const QStringList body{"mill.shape=body", "tool=ball-8", "mill.depthBy=typed", "mill.depth=4", "mill.stepover=3"};
        QTest::newRow("strokes alone down walls") << "yoke-work" << 0 << body + QStringList{"mill.parts=strokes"} << "steep-wide";
        QTest::newRow("levels alone around flat places") << "yoke-work" << 0 << body + QStringList{"mill.parts=levels"} << "flat-left";
        QTest::newRow("holder too near") << "lantern-collar" << 0 << QStringList{"tool.stickOut=24", "guard.response=report"} << "holder-near";
        QTest::newRow("a drill that does not go in") << "dome-stars" << 2 << QStringList{"tool=drill-8"} << "tool-does-not-fit";
        QTest::newRow("a spot step without a tool") << "dome-stars" << 1 << QStringList{"tool="} << "step-omitted";
        QTest::newRow("an edge that a fixed axis does not reach")
            << "yoke-edges" << 0 << QStringList{"edge.axis=fixed", "edge.direction=[0,0,-1]"} << "nothing-generated";
        QTest::newRow("rows without a rail") << "lantern-collar" << 0 << QStringList{"pattern.rail1=[]", "tool.stickOut=46"} << "nothing-generated";
        QTest::newRow("open rows in a spiral") << "lantern-collar" << 0 << QStringList{"pattern.order=spiral", "pattern.spacing=2", "tool.stickOut=46"}
                                               << "not-in-spiral";
        QTest::newRow("a spiral from the middle") << "lantern-collar" << 0 << QStringList{"pattern.order=spiral", "pattern.from=middle", "tool.stickOut=46"}
                                                  << "nothing-generated";
        QTest::newRow("a part out of reach") << "moth-relief" << 0 << QStringList{"pattern.spacing=6", "touch.reach=0.004"} << "part-not-in-reach";
        QTest::newRow("stock over a pocket") << "yoke-work" << 3 << QStringList{"mill.topBy=geometry"} << "rapid-through-stock";
    }
    void takenAsOffered() {
        QFETCH(QString, file);
        QFETCH(int, operation);
        QFETCH(QStringList, words);
        QFETCH(QString, code);
        const test::OpenedJob opened = test::openDemoJob((file + ".gyre.json").toStdString().c_str());
        Job job = opened.job;
        const std::string id = job.route.at(static_cast<std::size_t>(operation)).id;
        for (const QString& w : words) {
            const auto set = setWord(job, id, w.section('=', 0, 0).toStdString(), w.section('=', 1).toStdString());
            QVERIFY2(set.has_value(), set ? "" : set.error().text().c_str());
        }
        const auto before = run(job, id);
        QVERIFY(before);
        const Found was = found(*before, code.toStdString());
        std::string all;
        for (const Finding& f : before->findings) all += fmt::format("{} ({}): {}; ", f.code, f.remedies.size(), f.text);
        QVERIFY2(was.there && !was.remedies.empty(), all.c_str());
        for (const Remedy& r : was.remedies) {
            Job mended = job;
            const auto set = setWord(mended, id, r.key, r.value);
            QVERIFY2(set.has_value(), (r.label + ": " + (set ? "" : set.error().text())).c_str());
            const auto after = run(mended, id);
            if (!after) continue; // left out of the route, as it said
            const Found is = found(*after, code.toStdString());
            qInfo("%s", fmt::format("{} · {} → {}: {:.4f} before, {} after", code.toStdString(), r.key, r.value, was.amount,
                                    is.there ? fmt::format("{:.4f}", is.amount) : "gone")
                            .c_str());
            QVERIFY2(!is.there || (!is.stop && (was.stop || is.amount < was.amount)), (r.label + ": " + is.text).c_str());
        }
    }
};

GYRE_TEST(TestRemedies)

} // namespace test_remedies
#include "test_remedies.moc"
