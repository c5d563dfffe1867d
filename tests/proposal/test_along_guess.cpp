// First guesses along walls, curves and edges; how such work is written down; what its results rest on; floors under walls.
#include "Near.h"
#include "OpenedJob.h"
#include "Program.h"
#include "axis/AxisSpec.h"
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "kinds/AlongWork.h"
#include "link/LinkSpec.h"
#include "operation/Repeat.h"
#include "pattern/PatternSpec.h"
#include "proposal/AlongGuess.h"
#include "proposal/NewJob.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"
#include "target/TargetSpec.h"

namespace test_along_guess {

using namespace gyre;
using test::near;

class TestAlongGuess : public QObject {
    Q_OBJECT
    test::OpenedJob m_collar, m_dome, m_horn;

private slots:
    void initTestCase() {
        m_collar = test::openDemoJob("collar-walls.gyre.json");
        m_dome = test::openDemoJob("dome-edges.gyre.json");
        m_horn = test::openDemoJob("horn-guide.gyre.json");
    }

    void aWallGetsACutterThatReachesAndFits() {
        const Part& part = *m_collar.place->part;
        int inside = -1, outside = -1;
        for (int f = 0; f < static_cast<int>(part.faces().size()); ++f) {
            const FaceInfo& i = part.faces()[static_cast<std::size_t>(f)];
            if (i.kind == SurfaceKind::FreeForm && i.bounds.high.z() - i.bounds.low.z() > 40) inside = f;
            if (i.kind == SurfaceKind::FreeForm && i.bounds.low.z() > 13.9 && i.bounds.high.z() < 40.1) outside = f;
        }
        QVERIFY(inside >= 0 && outside >= 0);
        Recipe r = proposeAlong(m_collar.job, *m_collar.place, OperationKind::Swarf);
        for (const int f : wallFaces(part, inside)) r.target->faces.push_back(part.faceRef(f));
        fitAlong(m_collar.job, *m_collar.place, r);
        QCOMPARE(r.tool, std::string("flat-6-side")); // a sharp floor, bends of 3.5 mm, 47 mm high
        QVERIFY(near(r.swarf->past, 0.0, 1e-12) && r.swarf->stepdown == 0.0);
        // A foot with a fillet gets a ball that goes into it, and its round end goes past the wall.
        Recipe foot = proposeAlong(m_collar.job, *m_collar.place, OperationKind::Swarf);
        for (const int f : wallFaces(part, outside)) foot.target->faces.push_back(part.faceRef(f));
        fitAlong(m_collar.job, *m_collar.place, foot);
        const Assembly* ball = m_collar.job.tool(foot.tool);
        QVERIFY(ball && ball->cutter.shape == CutterShape::Ball);
        QVERIFY(near(foot.swarf->past, 0.5 * ball->cutter.diameter, 1e-9));
    }

    void holesGetASmallLollipop() {
        const Recipe both = proposeAlong(m_dome.job, *m_dome.place, OperationKind::Edge, BreakEdges::HolesBoth);
        QCOMPARE(both.tool, std::string("lollipop-2"));
        QCOMPARE(both.link->skin.kind, SkinKind::Sphere);
        QVERIFY(both.edge->size <= 0.15 + 1e-9 && both.guard->shankClearance < 0.3);
        const Recipe picked = proposeAlong(m_dome.job, *m_dome.place, OperationKind::Edge);
        QVERIFY(m_dome.job.tool(picked.tool)->cutter.shape == CutterShape::Ball);
    }

    void aChannelGetsABallThatFits() {
        Recipe r = proposeAlong(m_horn.job, *m_horn.place, OperationKind::Curve);
        r.curve->by = CurveBy::Channel;
        r.target->faces = m_horn.job.route[0].target->faces;
        fitAlong(m_horn.job, *m_horn.place, r);
        const Assembly* tool = m_horn.job.tool(r.tool);
        QVERIFY(tool && tool->cutter.shape == CutterShape::Ball && tool->cutter.diameter <= 17.1);
        QVERIFY(!r.pattern->rail1.empty() && !r.pattern->rail2.empty());
    }

    // Whatever the words are, they come back from the file; what is damaged is refused with its place.
    void writtenAndReadBack() {
        test::Random random(93);
        for (int k = 0; k < 200; ++k) {
            Job job = m_collar.job;
            Recipe r;
            r.id = "x";
            r.kind = static_cast<OperationKind>(random.integer(4, 6));
            *r.swarf = {random.integer(0, 1) == 1,
                        random.integer(0, 1) == 1,
                        random.integer(0, 1) == 1,
                        random.number(-5, 5),
                        random.number(0, 9),
                        random.number(0, 9),
                        random.number(0.1, 3),
                        random.integer(0, 1) == 1,
                        random.number(0, 1),
                        random.integer(0, 1) == 1,
                        static_cast<SwarfCorner>(random.integer(0, 2)),
                        random.number(0, 3),
                        random.integer(0, 1) == 1,
                        random.integer(0, 1) == 1,
                        random.number(0.01, 1),
                        {{0.25, random.number(0, 1)}}};
            *r.curve = {static_cast<CurveBy>(random.integer(0, 3)),
                        static_cast<CurveSide>(random.integer(0, 2)),
                        random.number(-3, 3),
                        random.number(-3, 3),
                        random.number(0, 3),
                        random.number(0, 3),
                        random.number(0, 3),
                        random.number(0, 1),
                        random.number(0, 1),
                        random.number(0, 1),
                        random.integer(0, 1) == 1,
                        random.integer(0, 1) == 1};
            *r.edge = {static_cast<BreakEdges>(random.integer(0, 5)), random.number(5, 90),   random.integer(0, 1) == 1, random.number(0.01, 3),   random.integer(1, 9),
                       static_cast<BreakAxis>(random.integer(0, 2)),  random.number(-90, 90), random.direction(),        random.integer(0, 1) == 1};
            r.axis->rule = static_cast<AxisRule>(random.integer(0, 6));
            r.axis->point = random.point(50);
            r.axis->away = random.integer(0, 1) == 1;
            r.axis->inStep = random.integer(0, 1) == 1;
            r.axis->curve = "a curve";
            r.axis->blended = random.integer(0, 1) == 1;
            if (r.axis->blended) r.axis->last.rule = static_cast<AxisRule>(random.integer(0, 6));
            r.axis->keys = {{0.2, 0.3, -1, 5, 6}, {0.7, 0.7, 3, random.number(-9, 9), 0}};
            r.axis->locked = "C";
            r.axis->lockedDegrees = random.number(-90, 90);
            job.route = {r};
            const auto again = jobFromJson(jobToJson(job), "job");
            QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
            const Recipe& b = again->route[0];
            QCOMPARE(b.kind, r.kind);
            if (r.kind == OperationKind::Swarf) QVERIFY(*b.swarf == *r.swarf);
            if (r.kind == OperationKind::Edge) QVERIFY(*b.edge == *r.edge);
            if (r.kind == OperationKind::Curve) {
                QVERIFY(*b.curve == *r.curve);
                QVERIFY(b.axis->rule == r.axis->rule && b.axis->keys == r.axis->keys && b.axis->locked == "C" && b.axis->blended == r.axis->blended &&
                        b.axis->curve == "a curve" && (b.axis->point - r.axis->point).norm() < 1e-9);
            }
        }
        Job job = m_collar.job;
        QVERIFY(setWord(job, job.route[0].id, "swarf.corner", "loop"));
        QCOMPARE(job.route[0].swarf->corner, SwarfCorner::Loop);
        QVERIFY(!setWord(job, job.route[0].id, "swarf.corner", "jump"));
        QVERIFY(!setWord(job, job.route[0].id, "swarf.tolerance", "-1"));
        QVERIFY(!setWord(job, job.route[0].id, "swarf.speed", "1"));
        QVERIFY(setWord(m_horn.job, m_horn.job.route[0].id, "axis.last.rule", "fixed"));
        QVERIFY(m_horn.job.route[0].axis->blended);
        QVERIFY(setWord(m_horn.job, m_horn.job.route[0].id, "axis.last.rule", "same"));
        QVERIFY(!m_horn.job.route[0].axis->blended);
    }

    // A curve that the axis goes by is one of the things a result rests on.
    void resultsRestOnTheirCurves() {
        const auto key = [](const Job& j) { return operationKey(7, j.resolved(j.route[0]), j.tool(j.route[0].tool)); };
        Job job = m_horn.job;
        const auto before = key(job);
        QCOMPARE(key(job), before);
        job.mends.back().numbers["distance"] = 91;
        QVERIFY(key(job) != before);
    }

    // Plain walls over a floor, leaning in, upright and leaning out; round a boss, and round the inside of a pocket: what is proposed has no
    // Stop, neither in the operation nor in its proof.
    void plainWallsOverAFloorAreCleanAsProposed() {
        QTemporaryDir dir;
        const std::filesystem::path folder = dir.path().toStdString();
        struct Case {
            std::string name;
            std::filesystem::path file;
            Vec3 beside;
        };
        std::vector<Case> cases;
        for (const double draft : {0.0, 4.0, -4.0, 12.0}) {
            const auto own = folder / fmt::format("draft{:.0f}", draft);
            std::filesystem::create_directories(own);
            cases.push_back({fmt::format("boss, draft {:.0f}", draft), test::bossOnPlate(own, draft), Vec3(45, 26, 20)});
        }
        cases.push_back({"pocket with rounds", test::filletedPocket(folder), Vec3(30, 10, 14)});
        cases.push_back({"pocket with sharp corners", test::milledBlock(folder), Vec3(10, 27, 24)});
        for (const Case& c : cases) {
            auto begun = jobAround(c.file, GYRE_DEMO_DIR, test::demoFile("dunlin-5m.machine.json").string());
            QVERIFY2(begun.has_value(), begun ? "" : begun.error().text().c_str());
            Job job = std::move(*begun);
            Assembly reaching = test::ballTool(5, 40); // into rounds of 3 mm; what lies in the shop is too short for them
            reaching.id = "ball-5-reaching";
            reaching.cutter.fluteLength = reaching.cutter.shoulderLength = 16;
            reaching.materials = job.tools.front().materials;
            job.tools.push_back(reaching);
            Workshop workshop(c.file.parent_path());
            Progress progress;
            auto place = workshop.placeFor(job, progress).value();
            proposeSetup(job, *place->part);
            place = workshop.placeFor(job, progress).value();
            const Part& part = *place->part;
            int wall = -1; // the upright face next to the place
            for (std::size_t f = 0; f < part.faces().size(); ++f)
                if (std::abs(part.faces()[f].normal.z()) < 0.3 && part.faces()[f].kind != SurfaceKind::Cylinder &&
                    (wall < 0 || (part.faces()[f].centre - c.beside).norm() < (part.faces()[static_cast<std::size_t>(wall)].centre - c.beside).norm()))
                    wall = static_cast<int>(f);
            Recipe r = proposeAlong(job, *place, OperationKind::Swarf);
            for (const int f : wallFaces(part, wall)) r.target->faces.push_back(part.faceRef(f));
            fitAlong(job, *place, r);
            job.route.push_back(r);
            StageCache cache;
            const auto results = computeJob(job, workshop, cache, progress);
            QVERIFY2(results.has_value(), results ? "" : results.error().text().c_str());
            const OperationResult& made = *results->operations.front();
            qInfo("%s", fmt::format("{}: {} · {} · {} faces · past {} · {}", c.name, r.tool, made.along ? made.along->what : "", r.target->faces.size(), r.swarf->past,
                                    made.along ? made.along->how : "")
                            .c_str());
            for (const Finding& f : made.findings) qInfo("   %s", fmt::format("{} {}: {} ({})", static_cast<int>(f.rank), f.code, f.text, f.reason).c_str());
            QVERIFY2(made.complete(), c.name.c_str());
            const auto proof = prove(*results->place, made, ProofSpec::under(job.resolved(r).guard), progress);
            QVERIFY(proof);
            for (const Finding& f : proof->findings)
                qInfo("   proof %s", fmt::format("{} {}: {} ({}) {} {}", static_cast<int>(f.rank), f.code, f.text, f.reason, f.amount,
                                                 f.place ? fmt::format("{} {} {}", (*f.place)[0], (*f.place)[1], (*f.place)[2]) : "")
                                         .c_str());
            for (const auto* findings : {&made.findings, &proof->findings})
                for (const Finding& f : *findings) QVERIFY2(f.rank != Rank::Stop, (c.name + ": " + f.text).c_str());
        }
    }

    // The hub of the runner comes up under a vane: the tool is lifted there, and the guard finds nothing to say.
    void floorsLift() {
        const test::OpenedJob runner = test::openDemoJob("runner-vanes.gyre.json");
        Recipe r = runner.job.resolved(runner.job.route[0]);
        Progress progress;
        const Assembly& tool = *runner.place->tool(r.tool);
        const auto lifted = swarfWork(*runner.place, r, tool, progress);
        QVERIFY2(lifted.has_value(), lifted ? "" : lifted.error().text().c_str());
        QVERIFY(std::any_of(lifted->result->findings.begin(), lifted->result->findings.end(),
                            [](const Finding& f) { return f.code == "wall-lifted" && f.place && f.amount > 0.0; }));
        r.swarf->lift = false;
        const auto down = swarfWork(*runner.place, r, tool, progress);
        QVERIFY(down && std::none_of(down->result->findings.begin(), down->result->findings.end(), [](const Finding& f) { return f.code == "wall-lifted"; }));
        GuardSpec spec = r.guard;
        spec.gougeTolerance = r.swarf->tolerance; // the deepest may be on the wall itself
        const Guard guard(tool, *runner.place->scene, spec, r.pattern->chordTolerance);
        const auto deepest = [&](const AlongResult& w) {
            double most = 0.0;
            for (const Pass& p : w.passes)
                for (std::size_t i = 0; i < p.path.size(); ++i) most = std::max(most, guard.gouge({p.path.tip[i], p.path.axis[i]}, 0));
            return most;
        };
        QVERIFY2(deepest(*lifted->result) <= spec.gougeTolerance + r.pattern->chordTolerance + 0.006 && deepest(*down->result) > 0.05,
                 qPrintable(QString("%1 %2").arg(deepest(*lifted->result)).arg(deepest(*down->result))));
    }

    // A wall between rails stands as its rails do: the skin goes around it.
    void betweenRailsTheSkinSuits() {
        Recipe r = m_collar.job.route.back(); // the undercut
        r.link->skin = {SkinKind::Cylinder, 1.0, 0};
        fitAlong(m_collar.job, *m_collar.place, r);
        QCOMPARE(r.link->skin.kind, SkinKind::Sphere);
        QCOMPARE(r.tool, m_collar.job.route.back().tool);
        QVERIFY(r.link->entryRadius > 2.0);
        r.pattern->rail2.clear(); // only one is known yet
        r.link->skin = {SkinKind::Cylinder, 1.0, 0};
        fitAlong(m_collar.job, *m_collar.place, r);
        QCOMPARE(r.link->skin.kind, SkinKind::Sphere);
    }

    // The tips of seven vanes, one picked: where the cutter may enter the part is repeated with it.
    void aRepeatedEdgeMayBeEnteredEveryTime() {
        const auto runner = test::openDemoJob("runner-vanes.gyre.json");
        const auto rows = std::find_if(runner.job.route.begin(), runner.job.route.end(), [](const Recipe& r) { return r.kind == OperationKind::Surface; });
        Recipe r = proposeAlong(runner.job, *runner.place, OperationKind::Edge);
        r.target->edges = rows->pattern->rail2;
        r.tool = "ball-4";
        r.edge->size = 0.3;
        r.link->skin = rows->link->skin;
        r.repeat->count = 7;
        Job job = runner.job;
        if (!job.tool(r.tool)) {
            Assembly ball = test::ballTool(4, 40);
            ball.id = r.tool;
            job.tools.push_back(ball);
        }
        job.route = {r};
        Workshop workshop(std::filesystem::path(GYRE_DEMO_DIR));
        Progress progress;
        const auto place = workshop.placeFor(job, progress).value();
        StageCache cache;
        const auto made = runOperation(*place, job.worked().front(), cache, progress).value();
        for (const Finding& f : made->findings) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
        QVERIFY(made->complete());
        QCOMPARE(made->passes->size(), std::size_t(7));
        QCOMPARE(made->along->strips.size(), std::size_t(7));
    }
};

GYRE_TEST(TestAlongGuess)

} // namespace test_along_guess
#include "test_along_guess.moc"
