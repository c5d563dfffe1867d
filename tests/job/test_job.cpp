#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/File.h"
#include "guard/GuardSpec.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "target/TargetSpec.h"
#include <condition_variable>

namespace test_job {

using namespace gyre;
using test::Random;

class TestJob : public QObject {
    Q_OBJECT
    std::string m_text;

private slots:
    void initTestCase() { m_text = readFile(test::demoFile("lantern-collar.gyre.json"), 1 << 24).value(); }

    // What a larger tool left depends on that tool: a proof of it does not outlive a change of either.
    void theToolThatCutBeforeCounts() {
        Job job = jobFromJson(m_text, "job").value();
        QVERIFY(job.tools.size() > 2);
        Recipe body;
        body.id = "body";
        body.kind = OperationKind::Mill;
        body.mill->shape = MillShape::Body;
        body.tool = job.tools[0].id;
        body.mill->after = job.tools[1].id;
        const std::string before = keyTextOf(job.resolved(body));
        job.tools[2].cutter.diameter += 1.0;
        QCOMPARE(keyTextOf(job.resolved(body)), before);
        job.tools[1].cutter.diameter += 0.001;
        QVERIFY(keyTextOf(job.resolved(body)) != before);
        body.mill->shape = MillShape::Round; // others do not ask for it
        QCOMPARE(job.resolved(body).rests, std::uint64_t(0));
    }
    void jobsSurviveARoundTrip() {
        const auto job = jobFromJson(m_text, "job");
        QVERIFY2(job, job ? "" : job.error().text().c_str());
        QCOMPARE(jobToJson(*job), m_text);
    }
    void truncatedJobsAreRefusedWithAPlace() {
        for (std::size_t cut = 0; cut + 2 < m_text.size(); cut += 61) {
            const auto job = jobFromJson(m_text.substr(0, cut), "job");
            QVERIFY(!job);
            QVERIFY(!job.error().what.empty() && !job.error().place.empty());
        }
    }
    void mutatedJobsNeverCrash() {
        Random r(71);
        for (int i = 0; i < 3000; ++i) {
            std::string t = m_text;
            for (int k = r.integer(1, 6); k > 0; --k) t[static_cast<std::size_t>(r.integer(0, static_cast<int>(t.size()) - 1))] = static_cast<char>(r.integer(32, 126));
            const auto job = jobFromJson(t, "job");
            if (job) QVERIFY(jobFromJson(jobToJson(*job), "again")); // what is taken can be written and read again
        }
    }
    void wrongTypesHugeNumbersAndUnknownVersions_data() {
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<QString>("said");
        QTest::newRow("newer") << "\"version\": 1"
                               << "\"version\": 2"
                               << "newer";
        QTest::newRow("no job") << "gyre-job"
                                << "gyre-jam"
                                << "not a job";
        QTest::newRow("text for number") << "\"spacing\": 0.4"
                                         << "\"spacing\": \"wide\""
                                         << "/route/0/pattern/spacing";
        QTest::newRow("huge") << "\"spacing\": 0.4"
                              << "\"spacing\": 1e300"
                              << "outside";
        QTest::newRow("overflow") << "\"spacing\": 0.4"
                                  << "\"spacing\": 1e999"
                                  << "cannot be read";
        QTest::newRow("nan") << "\"spacing\": 0.4"
                             << "\"spacing\": NaN"
                             << "not valid JSON";
        QTest::newRow("negative") << "\"shank\": 1.0"
                                  << "\"shank\": -1.0"
                                  << "/route/0/guard/shank";
        QTest::newRow("list for object") << "\"placement\": {"
                                         << "\"placement\": [], \"note\": {"
                                         << "/placement";
        QTest::newRow("unknown word") << "\"smallGap\""
                                      << "\"smelGap\""
                                      << "smelGap";
        QTest::newRow("unknown choice") << "\"backAndForth\""
                                        << "\"zigzag\""
                                        << "none of";
        QTest::newRow("impossible tool") << "\"OAL\": 80.0"
                                         << "\"OAL\": 8.0"
                                         << "longer than";
    }
    void wrongTypesHugeNumbersAndUnknownVersions() {
        QFETCH(QString, from);
        QFETCH(QString, to);
        QFETCH(QString, said);
        QString text = QString::fromStdString(m_text);
        const auto at = text.indexOf(from);
        QVERIFY(at >= 0);
        text.replace(at, from.size(), to);
        const auto job = jobFromJson(text.toStdString(), "job");
        QVERIFY(!job);
        QVERIFY2(QString::fromStdString(job.error().text()).contains(said), job.error().text().c_str());
    }
    void missingFilesAreNamed() {
        Job job = jobFromJson(m_text, "job").value();
        QTemporaryDir empty;
        Workshop workshop(empty.path().toStdString());
        Progress p;
        auto place = workshop.placeFor(job, p);
        QVERIFY(!place && place.error().text().find("machine") != std::string::npos);
        Workshop demo(GYRE_DEMO_DIR);
        job.bodies[0].file = "gone.step";
        place = demo.placeFor(job, p);
        QVERIFY(!place && place.error().text().find("gone.step") != std::string::npos);
    }
    void aJobThatCannotBeReadAgainIsNotSaved() {
        QTemporaryDir dir;
        const std::filesystem::path file = dir.filePath("a.gyre.json").toStdString();
        Job job = jobFromJson(m_text, "job").value();
        QVERIFY(saveJob(job, file));
        job.route[0].pattern->spacing = NAN;
        QVERIFY(!saveJob(job, file));
        QCOMPARE(readFile(file, 1 << 24).value(), m_text);
    }
    void wordsAreSetAndChecked() {
        Job job = jobFromJson(m_text, "job").value();
        QVERIFY(setWord(job, "flare", "axis.lead", "7.5"));
        QCOMPARE(job.route[0].axis->leadDegrees, 7.5);
        QVERIFY(setWord(job, "flare", "guard.response", "lift"));
        QCOMPARE(job.route[0].guard->response, GuardResponse::Lift);
        QVERIFY(setWord(job, "flare", "tool.stickOut", "45"));
        QCOMPARE(job.tool("ball-6")->stickOut, 45.0);
        QCOMPARE(wordOf(job, "flare", "links.skin.kind"), std::string("cylinder"));
        QCOMPARE(wordOf(job, "flare", "pattern.kind"), std::string("rails")); // not written while it is the usual one
        QCOMPARE(wordOf(job, "flare", "no.such.word"), std::string());
        const std::string before = jobToJson(job);
        for (const auto& [key, value] : std::vector<std::pair<std::string, std::string>>{{"axis.lead", "400"},
                                                                                         {"axis.lead", "much"},
                                                                                         {"axis.nothing", "1"},
                                                                                         {"tool.stickOut", "500"},
                                                                                         {"guard.response", "pray"},
                                                                                         {"pattern", "3"},
                                                                                         {"axis.lead.x", "1"},
                                                                                         {"", ""}})
            QVERIFY2(!setWord(job, "flare", key, value), key.c_str());
        QVERIFY(!setWord(job, "nobody", "axis.lead", "1"));
        // What is wrong is said in the word's own terms and the job's unit, not by its place in a file.
        const auto said = [&](const char* key, const char* value) { return setWord(job, "flare", key, value).error().text(); };
        QCOMPARE(said("pattern.spacing", "5000"), std::string("Distance between rows: must be between 0.005 and 1000 mm"));
        QCOMPARE(said("pattern.spacing", "wide"), std::string("Distance between rows: a number is expected"));
        QCOMPARE(said("axis.lead", "91"), std::string("Lead: must be between -90 and 90°"));
        job.units = LengthUnit::Inch;
        QCOMPARE(said("pattern.spacing", "5000"), std::string("Distance between rows: must be between 0.00019685 and 39.37 inch"));
        job.units = LengthUnit::Millimetre;
        QCOMPARE(jobToJson(job), before);
    }
    void historyGoesBackToTheStartAndForthAgain() {
        History h(jobFromJson(m_text, "job").value());
        for (int i = 1; i <= 5; ++i) {
            Job j = h.now();
            j.name = std::to_string(i);
            h.change(j, "name");
        }
        Job dragged = h.now();
        for (int i = 0; i < 10; ++i) {
            dragged.seat.x() = i;
            h.change(dragged, "drag", "seat.x");
        }
        QVERIFY(h.undo());
        QCOMPARE(h.now().name, std::string("5"));
        QCOMPARE(h.now().seat.x(), 0.0);
        while (h.undo()) {
        }
        QCOMPARE(jobToJson(h.now()), m_text);
        while (h.redo()) {
        }
        QCOMPARE(h.now().seat.x(), 9.0);
    }
    void aNewRequestCancelsTheOneUnderWayAndStagesAreKept() {
        std::mutex mutex;
        std::condition_variable wake;
        int finished = 0;
        std::vector<std::shared_ptr<const OperationResult>> results;
        ComputeEvents events;
        events.operationReady = [&](std::shared_ptr<const OperationResult> r) {
            const std::lock_guard lock(mutex);
            results.push_back(r);
        };
        events.finished = [&](bool) {
            const std::lock_guard lock(mutex);
            ++finished;
            wake.notify_all();
        };
        const Job base = jobFromJson(m_text, "job").value();
        Computer computer(GYRE_DEMO_DIR, events);
        for (int i = 0; i < 6; ++i) {
            Job j = base;
            j.route[0].axis->leadDegrees = i;
            computer.request(std::make_shared<const Job>(j), false);
        }
        std::unique_lock lock(mutex);
        QVERIFY(wake.wait_for(lock, std::chrono::seconds(120), [&] { return finished > 0; }));
        QVERIFY(!results.empty());
        Job last = base;
        last.route[0].axis->leadDegrees = 5;
        QCOMPARE(results.back()->key, operationKey(
                                          [&] {
                                              Workshop w(GYRE_DEMO_DIR);
                                              Progress p;
                                              return w.placeFor(last, p).value()->key;
                                          }(),
                                          last.route[0], last.tool("ball-6")));
    }
    void unchangedStagesComeFromTheCache() {
        auto& demo = test::demoResults();
        Progress p;
        Recipe r = demo.job.route[0];
        r.link->entryRadius = 1.5;
        const auto changed = runOperation(*demo.results.place, r, demo.cache, p).value();
        QVERIFY(changed->pattern == demo.results.operations[0]->pattern && changed->guard == demo.results.operations[0]->guard);
        QVERIFY(changed->links != demo.results.operations[0]->links);
    }
    void nothingGeneratedAlwaysHasItsReason() {
        auto& demo = test::demoResults();
        Progress p;
        const auto reasonOf = [&](auto&& spoil) {
            Recipe r = demo.job.route[0];
            spoil(r);
            const auto result = runOperation(*demo.results.place, r, demo.cache, p).value();
            return result->complete() || result->findings.empty() ? std::string() : result->findings.front().text;
        };
        QVERIFY(!reasonOf([](Recipe& r) { r.target->faces.clear(); }).empty());
        QVERIFY(!reasonOf([](Recipe& r) { r.tool = "none such"; }).empty());
        QVERIFY(!reasonOf([](Recipe& r) { r.pattern->rail1 = r.pattern->rail2; }).empty());
        QVERIFY(!reasonOf([](Recipe& r) { r.target->faces = {ShapeRef{4000, "", 0, Vec3::Zero()}}; }).empty());
        QVERIFY(!reasonOf([](Recipe& r) {
                     r.axis->rule = AxisRule::Fixed;
                     r.axis->direction = Vec3::Zero();
                 }).empty());
    }
    void stockPlanesAndHolesAreKept() {
        Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        JobBody bar;
        bar.name = "bar";
        bar.role = "stock";
        bar.shape = StockShape{StockShape::Kind::Tube, Vec3(0, 0, -5), Vec3(0, 0, 60), 2, 40, 12, Vec3(1, 2, 0)};
        job.bodies.push_back(bar);
        JobBody scan;
        scan.name = "scan";
        scan.role = "reference";
        scan.file = "moth-relief.stl";
        scan.unit = LengthUnit::Inch;
        job.bodies.push_back(scan);
        job.planes.push_back(planeByAngles(Vec3(1, 2, 3), 30, -20, 10).value());
        job.planes.back().name = "slope";
        job.holes.push_back({Vec3(4, 5, 6), true, false});
        const auto again = jobFromJson(jobToJson(job), "again");
        QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
        QCOMPARE(jobToJson(*again), jobToJson(job));
        QVERIFY(again->bodies[5].shape->innerRadius == 12 && again->bodies[6].meshUnit() == 25.4);
        QVERIFY((again->planes[0].normal - job.planes[0].normal).norm() < 1e-12 && again->holes[0].turned);
        QCOMPARE(again->freshPlaneName(), std::string("Plane 2"));
        Hole hole;
        hole.mouth = Vec3(4, 5, 6.001);
        QVERIFY(again->markOf(hole) && again->markOf(hole)->turned);
        hole.mouth = Vec3(9, 9, 9);
        QVERIFY(!again->markOf(hole));
    }
    void impossibleStockAndPlanesAreRefusedWithTheirPlace() {
        const Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        const auto refused = [&](const std::string& body, const std::string& planes) {
            OrderedJson j = OrderedJson::parse(jobToJson(job));
            if (!body.empty()) j["bodies"].push_back(OrderedJson::parse(body));
            if (!planes.empty()) j["planes"] = OrderedJson::parse(planes);
            const auto r = jobFromJson(j.dump(), "j");
            return r ? QString("read") : QString::fromStdString(r.error().text());
        };
        QCOMPARE(refused(R"({"name":"s","role":"stock","shape":{"kind":"block","low":[0,0,0],"high":[9,9,9]}})", ""), QString("read"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"block","low":[0,0,0],"high":[9,0,9]}})", "").contains("no size along Y"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"tube","from":0,"to":9,"radius":5,"inner":6}})", "").contains("inner radius"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"cylinder","from":9,"to":0,"radius":5}})", "").contains("no length"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"ball"}})", "").contains("/bodies/5"));
        QVERIFY(refused(R"({"name":"s","role":"part","shape":{"kind":"block","low":[0,0,0],"high":[9,9,9]}})", "").contains("file"));
        QVERIFY(refused(R"({"name":"s","file":"a.stl","shape":{"kind":"block","low":[0,0,0],"high":[9,9,9]}})", "").contains("not both"));
        QVERIFY(refused("", R"([{"name":"p","origin":[0,0,0],"normal":[0,0,1],"x":[0,0,1]}])").contains("square"));
        QVERIFY(refused("", R"([{"name":"p","origin":[0,0,0],"normal":[0,0,0.5],"x":[1,0,0]}])").contains("unit"));
    }
    void stockShapesHaveTheirVolume() {
        StockShape s;
        s.low = Vec3(-1, -2, -3);
        s.high = Vec3(4, 5, 6);
        QVERIFY(std::abs(signedVolume(s.mesh()) - 5 * 7 * 9) < 1e-9);
        for (const int axis : {0, 1, 2}) {
            s = {StockShape::Kind::Cylinder, Vec3::Constant(-10), Vec3::Constant(20), axis, 8, 3, Vec3(1, 2, 3)};
            const double ring = 0.5 * 180 * std::sin(2 * kPi / 180); // of a regular 180-gon, for radius 1
            QVERIFY(std::abs(signedVolume(s.mesh()) - ring * 64 * 30) < 1e-6);
            s.kind = StockShape::Kind::Tube;
            QVERIFY(std::abs(signedVolume(s.mesh()) - ring * (64 - 9) * 30) < 1e-6);
            QVERIFY(s.words().find("XYZ"[axis]) != std::string::npos);
        }
        QTemporaryDir dir;
        const StockShape round = proposeStock(*test::openPart(test::cylinderStep(dir.path().toStdString(), 20, 30)), 2);
        QVERIFY(round.kind == StockShape::Kind::Cylinder && round.axis == 2 && round.radius == 22 && round.high.z() == 32 && round.low.z() == 0);
        const StockShape block = proposeStock(*test::openPart(test::boxStep(dir.path().toStdString(), 100, 20, 30)), 2);
        QVERIFY(block.kind == StockShape::Kind::Block && block.high.x() == 102 && block.low.x() == -2 && block.low.z() == 0);
        const StockShape bar = proposeStock(*test::openPart(test::drilledTube(dir.path().toStdString())), 2);
        QVERIFY(bar.kind == StockShape::Kind::Cylinder && bar.axis == 0 && bar.radius == 42);
    }
    void stockDoesNotMakeOperationsAnew() {
        const Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        const auto before = workshop.placeFor(job, progress).value();
        Job with = job;
        JobBody bar;
        bar.name = "bar";
        bar.role = "stock";
        bar.shape = StockShape{};
        with.bodies.push_back(bar);
        const auto after = workshop.placeFor(with, progress).value();
        QCOMPARE(after->key, before->key);
        QVERIFY(after->looks != before->looks && after->bodies.size() == before->bodies.size() + 1);
        QCOMPARE(after->scene->size(), before->scene->size());
    }
};

GYRE_TEST(TestJob)

} // namespace test_job
#include "test_job.moc"
