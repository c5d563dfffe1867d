// From a job to what operations run against: what is loaded anew, what is kept, and which changes make paths old.
#include "Program.h"
#include "Support.h"
#include "drawing/Drawing.h"
#include "operation/Workplace.h"
#include <atomic>
#include <fstream>
#include <thread>

namespace test_workshop {

using namespace gyre;

class TestWorkshop : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    Progress m_quiet;
    std::filesystem::path dir() { return m_dir.path().toStdString(); }

    Job boxJob() {
        Job job;
        job.machine = test::demoFile("heron-5t.machine.json").string();
        job.bodies.push_back({"box", "part", test::boxStep(dir(), 40, 30, 20).string()});
        return job;
    }
    static JobBody block(const char* name, const char* role, double high) {
        JobBody b;
        b.name = name;
        b.role = role;
        b.shape = StockShape{};
        b.shape->low = Vec3(-5, -5, -5);
        b.shape->high = Vec3(45, 35, high);
        return b;
    }
    std::shared_ptr<const Workplace> load(Workshop& w, const Job& job) {
        auto p = w.placeFor(job, m_quiet);
        if (!p) qWarning("%s", p.error().text().c_str());
        return p ? *p : nullptr;
    }

private slots:
    // Whenever it is taken back, before it is begun or in the middle, somebody says that it is over.
    void aRequestTakenBackEnds() {
        auto job = std::make_shared<Job>(boxJob());
        std::atomic<int> finished{0};
        ComputeEvents events;
        events.finished = [&](bool) { ++finished; };
        Computer computer(dir(), events);
        test::Random random(63);
        for (int i = 0; i < 300; ++i) {
            const int before = finished;
            computer.request(job, false);
            for (int spin = random.integer(0, 3); spin > 0; --spin) std::this_thread::yield();
            computer.cancel();
            QTRY_VERIFY_WITH_TIMEOUT(!computer.busy() && finished > before, 20000);
        }
    }
    // What is only looked at changes no path; what is in the way of a tool does.
    void keysTellWhatPathsRestOn() {
        Workshop workshop(dir());
        const Job base = boxJob();
        const auto first = load(workshop, base);
        QVERIFY(first);
        const auto after = [&](const std::function<void(Job&)>& edit) {
            Job job = base;
            edit(job);
            const auto p = load(workshop, job);
            return p ? std::pair{p->key != first->key, p->looks != first->looks} : std::pair{false, false};
        };
        const std::pair onlyLooks{false, true}, both{true, true}, none{false, false};
        QCOMPARE(after([](Job&) {}), none);
        QCOMPARE(after([](Job& j) { j.name = "other"; }), none);
        QCOMPARE(after([](Job& j) { j.bodies.push_back(block("stock", "stock", 30)); }), onlyLooks);
        QCOMPARE(after([](Job& j) { j.bodies.push_back(block("model", "reference", 30)); }), onlyLooks);
        QCOMPARE(after([](Job& j) { j.bodies.push_back(block("clamp", "fixture", 30)); }), both);
        QCOMPARE(after([](Job& j) { j.seat = Vec3(1, 0, 0); }), both);
        QCOMPARE(after([](Job& j) { j.seatTurnDegrees = 5; }), both);
        QCOMPARE(after([](Job& j) { j.machine = test::demoFile("snipe-5n.machine.json").string(); }), both);
        QCOMPARE(after([](Job& j) { j.holes.push_back({Vec3(1, 2, 3), true, false}); }), none);
        QCOMPARE(after([](Job& j) {
                     Mend m;
                     m.kind = MendKind::Helix;
                     m.name = "coil";
                     j.mends.push_back(m);
                 }),
                 onlyLooks);
        QCOMPARE(after([&](Job& j) {
                     Mend m;
                     m.kind = MendKind::FreedFace;
                     m.name = "freed";
                     m.faces = {first->part->faceRef(0)};
                     j.mends.push_back(m);
                 }),
                 both);
        QCOMPARE(after([](Job&) {}), none); // and back
    }
    void filesAreReadAgainWhenTheyChange() {
        Workshop workshop(dir());
        const Job job = boxJob();
        const auto first = load(workshop, job);
        QVERIFY(first && load(workshop, job)->part == first->part); // kept
        test::boxStep(dir(), 44, 30, 20);
        std::filesystem::last_write_time(dir() / "box.step", std::filesystem::file_time_type::clock::now() + std::chrono::seconds(5));
        const auto second = load(workshop, job);
        QVERIFY(second && second->part != first->part && std::abs(second->part->volume() - 44 * 30 * 20) < 1e-6);
        QVERIFY(second->key != first->key);
        std::filesystem::remove(dir() / "box.step");
        const auto gone = workshop.placeFor(job, m_quiet);
        QVERIFY(!gone && gone.error().place == "box");
    }
    void drawingsArePlacedAndKept() {
        Workshop workshop(dir());
        Job job = boxJob();
        std::ofstream(dir() / "d.dxf") << dxfOf({{"0", straightLines({{0, 0, 0}, {10, 0, 0}})}}, 0.01);
        JobBody d;
        d.name = "d";
        d.role = "drawing";
        d.file = "d.dxf";
        job.bodies.push_back(d);
        WorkPlane up;
        up.name = "up";
        up.origin = Vec3(1, 2, 3);
        up.normal = Vec3::UnitX();
        up.x = Vec3::UnitZ();
        job.planes.push_back(up);
        const auto flat = load(workshop, job);
        QVERIFY(flat && flat->drawings.size() == 1 && (flat->drawings[0].curves[0].end() - Vec3(10, 0, 0)).norm() < 1e-9);
        QCOMPARE(flat->bodies.size(), std::size_t(1)); // a drawing is no body
        job.bodies[1].plane = "up";
        const auto placed = load(workshop, job);
        QVERIFY(placed && (placed->drawings[0].curves[0].start() - Vec3(1, 2, 3)).norm() < 1e-9 && (placed->drawings[0].curves[0].end() - Vec3(1, 2, 13)).norm() < 1e-9);
        QVERIFY(placed->key == flat->key && placed->looks != flat->looks);
        job.bodies[1].flat = true; // flat is flat, whatever plane is named
        QVERIFY((load(workshop, job)->drawings[0].curves[0].end() - Vec3(10, 0, 0)).norm() < 1e-9);
        job.bodies[1].flat = false;
        job.planes.clear();
        const auto lost = workshop.placeFor(job, m_quiet);
        QVERIFY(!lost && lost.error().what.find("'up'") != std::string::npos);
        const auto again = jobFromJson(jobToJson(job), "job");
        QVERIFY(again && again->bodies[1].role == "drawing" && again->bodies[1].plane == "up");
    }
    void oneFileGivesManyBodies() {
        Workshop workshop(dir());
        Job job = boxJob();
        const std::string file = test::pinnedPlate(dir()).string();
        Progress looking;
        const auto inside = bodiesIn(file, looking);
        QVERIFY(inside);
        for (const BodyInFile& b : *inside) {
            JobBody body;
            body.name = body.only = b.name;
            body.role = "fixture";
            body.file = file;
            job.bodies.push_back(body);
        }
        const auto place = load(workshop, job);
        QVERIFY(place);
        QCOMPARE(place->bodies.size(), std::size_t(4));
        QVERIFY(std::abs(place->bodies[1].shape->volume() - 6000) < 1e-6);
        QVERIFY(std::abs(place->bodies[2].shape->volume() - place->bodies[3].shape->volume()) < 1e-9);
        QVERIFY((place->bodies[2].shape->mesh().bounds().centre() - place->bodies[3].shape->mesh().bounds().centre()).norm() > 15);
        const auto again = jobFromJson(jobToJson(job), "job");
        QVERIFY(again && again->bodies[2].only == job.bodies[2].only);
        job.bodies[2].only = "nothing";
        QVERIFY(!workshop.placeFor(job, m_quiet));
    }
    void whatAJobMayNotSay() {
        const std::string good = jobToJson(boxJob());
        QVERIFY(jobFromJson(good, "job"));
        const auto refused = [&](const std::string& body, const char* why) {
            const std::string text = R"({"format":"gyre-job","version":1,"bodies":[)" + body + "]}";
            const auto j = jobFromJson(text, "job");
            return !j && j.error().text().find(why) != std::string::npos;
        };
        QVERIFY(refused(R"({"name":"d","role":"drawing","shape":{"kind":"block","low":[0,0,0],"high":[1,1,1]}})", "must come from a file"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"around","allowance":0}})", "allowance"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"outline","axis":"z","from":0,"to":5}})", "outline"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"outline","axis":"z","outline":"c","from":5,"to":5}})", "nothing"));
        QVERIFY(refused(R"({"name":"s","role":"stock","shape":{"kind":"heap"}})", "kind"));
        QVERIFY(refused(R"({"name":"s","role":"gift","file":"x.step"})", "role"));
    }
    void randomEditsNeverBreakAJob() {
        test::Random random(101);
        Job job = boxJob();
        for (int round = 0; round < 300; ++round) {
            switch (random.integer(0, 5)) {
            case 0: {
                Mend m;
                m.kind = static_cast<MendKind>(random.integer(0, kMendKinds - 1));
                m.name = job.freshMendName(m.kind);
                if (!job.mends.empty() && random.integer(0, 1)) m.first.curve = job.mends.back().name;
                job.mends.push_back(m);
                break;
            }
            case 1:
                if (!job.mends.empty()) job.mends.erase(job.mends.begin() + random.integer(0, static_cast<int>(job.mends.size()) - 1));
                break;
            case 2: {
                WorkPlane p = planeByAngles(random.point(50), random.number(-180, 180), random.number(-180, 180), random.number(-180, 180)).value();
                p.name = job.freshPlaneName();
                job.planes.push_back(p);
                break;
            }
            case 3:
                if (!job.planes.empty()) job.planes.pop_back();
                break;
            case 4:
                job.seat = random.point(100);
                break;
            default:
                job.units = job.units == LengthUnit::Inch ? LengthUnit::Millimetre : LengthUnit::Inch;
            }
            const std::string text = jobToJson(job);
            const auto again = jobFromJson(text, "job");
            QVERIFY2(again, again ? "" : again.error().text().c_str());
            QCOMPARE(jobToJson(*again), text);
        }
        // Whatever stands in the list, every mend has its answer.
        const auto part = test::openPart(job.bodies[0].file);
        const auto results = runMends(part, job.mends, {job.planes, {}});
        QCOMPARE(results.size(), job.mends.size());
        for (const MendResult& r : results) QVERIFY(!r.trouble.empty() || !r.facts.empty());
    }
};

GYRE_TEST(TestWorkshop)

} // namespace test_workshop
#include "test_workshop.moc"
