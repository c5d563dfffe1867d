// Check faces: the cutter keeps off them by an amount of their own, or may enter them by so much; by plain distances.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "geom/MeshTree.h"
#include "guard/GuardSpec.h"
#include "job/Job.h"
#include "link/LinkSpec.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "proposal/NewJob.h"
#include "target/TargetSpec.h"

namespace test_checks {

using namespace gyre;

class TestChecks : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    Job m_job; ///< rows on a plate, over all of it, between and beside its ribs
    std::shared_ptr<const Workplace> m_place;
    Recipe m_recipe;
    std::vector<int> m_walls; ///< of the rib at y = 18 … 22
    StageCache m_cache;
    Progress m_progress;

    std::shared_ptr<const OperationResult> run(const Recipe& r) { return runOperation(*m_place, r, m_cache, m_progress).value(); }
    static const Finding* told(const OperationResult& r, const char* code) {
        const auto it = std::find_if(r.findings.begin(), r.findings.end(), [&](const Finding& f) { return f.code == code; });
        return it == r.findings.end() ? nullptr : &*it;
    }
    /// From the ball to the rib as a box: its walls are the plane's sides.
    static double toRib(const Vec3& tip, const Vec3& axis, double radius) {
        const Vec3 c = tip + radius * axis, low(20, 18, 10), high(60, 22, 22);
        return (low - c).cwiseMax(c - high).cwiseMax(0.0).norm() - radius;
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_job = jobAround(test::ribbedPlate(dir, 0), GYRE_DEMO_DIR, test::demoFile("heron-5t.machine.json").string()).value();
        Workshop workshop(dir);
        proposeSetup(m_job, *workshop.placeFor(m_job, m_progress).value()->part);
        m_job.seat.z() += 60.0;
        m_job.tools = {test::ballTool(6, 60)};
        m_job.tools[0].id = "ball";
        m_place = workshop.placeFor(m_job, m_progress).value();
        const Part& part = *m_place->part;
        int floor = -1;
        for (std::size_t f = 0; f < part.faces().size(); ++f) {
            const FaceInfo& i = part.faces()[f];
            if (i.normal.z() > 0.99 && std::abs(i.centre.z() - 10) < 1e-6 && (floor < 0 || i.area > part.faces()[static_cast<std::size_t>(floor)].area))
                floor = static_cast<int>(f);
            if (i.centre.y() > 17.9 && i.centre.y() < 22.1 && i.centre.z() > 11) m_walls.push_back(static_cast<int>(f));
        }
        QVERIFY(floor >= 0 && m_walls.size() == 5);
        m_recipe = proposeRows(m_job, *m_place, nullptr);
        m_recipe.id = "op";
        m_recipe.tool = "ball";
        m_recipe.feed = 500;
        m_recipe.target->faces = {part.faceRef(floor)};
        m_recipe.pattern = PatternSpec{};
        m_recipe.pattern->kind = PatternBy::Planes;
        m_recipe.pattern->spacing = 0.7;
        m_recipe.axis = AxisSpec{};
        m_recipe.guard = GuardSpec{};
        m_recipe.guard->shankClearance = 0.1;
        m_recipe.guard->response = GuardResponse::Drop;
        m_recipe.link->entryRadius = 0.0;
    }
    // Rows on the floor end where the ball would come nearer than that to the rib, and nowhere before; shank and holder go by their own clearances.
    void keptOffByItsOwnAmount() {
        const double free = [&] {
            double least = 1e9;
            for (const Pass& pass : run(m_recipe)->guard->passes)
                for (std::size_t i = 0; i < pass.path.size(); ++i) least = std::min(least, toRib(pass.path.tip[i], pass.path.axis[i], 3));
            return least;
        }();
        QVERIFY2(free < 0.85 && free > 0.07, qPrintable(QString::number(free))); // the part alone: up to the shank's clearance, within a row
        for (const double off : {0.3, 1.5}) {
            Recipe r = m_recipe;
            CheckFaces check;
            for (const int f : m_walls) check.faces.push_back(m_place->part->faceRef(f));
            check.keepOff = off;
            r.checks = {check};
            const auto done = run(r);
            QVERIFY(told(*done, "guard-dropped") && !told(*done, "check-near"));
            double least = 1e9, kept = 0.0, allowed = 0.0;
            for (const Pass& pass : done->guard->passes)
                for (std::size_t i = 0; i < pass.path.size(); ++i) {
                    least = std::min(least, toRib(pass.path.tip[i], pass.path.axis[i], 3));
                    if (i > 0) kept += (pass.path.tip[i] - pass.path.tip[i - 1]).norm();
                }
            // Never nearer than asked, but for what the path may be off; no more left out than needed, but for a location to either side.
            QVERIFY2(least > off - m_recipe.pattern->chordTolerance - 1e-6 && least < off + 0.8, qPrintable(QString("%1 for %2").arg(least).arg(off)));
            for (const Pass& pass : *done->passes)
                for (std::size_t i = 1; i < pass.path.size(); ++i)
                    for (int k = 0; k < 10; ++k) {
                        const Vec3 p = pass.path.tip[i - 1] + (k + 0.5) / 10.0 * (pass.path.tip[i] - pass.path.tip[i - 1]);
                        const bool second = std::abs(p.y() - 42) < 5.0 && p.x() > 16 && p.x() < 64; // the other rib is the part's own matter
                        if (toRib(p, pass.path.axis[i], 3) > off + 0.05 && !second) allowed += (pass.path.tip[i] - pass.path.tip[i - 1]).norm() / 10.0;
                    }
            QVERIFY2(kept > 0.93 * allowed, qPrintable(QString("%1 of %2").arg(kept).arg(allowed)));
        }
    }
    // Only told: how near it comes, what is asked, and the answers; taken as offered they cure it.
    void toldWithItsCures() {
        Recipe r = m_recipe;
        r.guard->response = GuardResponse::Report;
        r.checks.resize(2);
        for (const int f : m_walls) r.checks[1].faces.push_back(m_place->part->faceRef(f));
        r.checks[1].keepOff = 0.5;
        const auto done = run(r);
        const Finding* near = told(*done, "check-near");
        QVERIFY(near && near->rank == Rank::Stop && near->text.find("check faces 2") != std::string::npos && near->reason.find("0.5 mm") != std::string::npos);
        QVERIFY(near->remedies.size() >= 2);
        for (const Remedy& cure : near->remedies) {
            if (cure.key != "guard.response" || cure.value == "lean") continue;
            Recipe cured = r;
            cured.guard->response = cure.value == "drop" ? GuardResponse::Drop : GuardResponse::Lift;
            QVERIFY2(!told(*run(cured), "check-near"), cure.label.c_str());
        }
        // An empty group is none; one whose face is gone is a Stop that says so.
        r.checks.resize(1);
        QVERIFY(!told(*run(r), "check-near"));
        r.checks[0].faces = {ShapeRef{99999, {}}};
        const auto lost = run(r);
        QVERIFY(!lost->complete() &&
                std::any_of(lost->findings.begin(), lost->findings.end(), [](const Finding& f) { return f.text.find("check faces") != std::string::npos; }));
    }
    // Less than nothing: the ball may enter these walls by so much, and the part by no more than ever.
    void mayBeEntered() {
        Recipe r = m_recipe;
        const Part& part = *m_place->part;
        // Rows on the rib's long wall, sunk into the floor's corner: the wall is cut, the floor is checked.
        int wall = -1, floor = -1;
        for (const int f : m_walls)
            if (part.faces()[static_cast<std::size_t>(f)].normal.y() < -0.9) wall = f;
        for (std::size_t f = 0; f < part.faces().size(); ++f)
            if (part.faces()[f].normal.z() > 0.99 && std::abs(part.faces()[f].centre.z() - 10) < 1e-6) floor = static_cast<int>(f);
        QVERIFY(wall >= 0 && floor >= 0);
        r.target->faces = {part.faceRef(wall)};
        r.pattern->lean = 90.0; // levels
        r.pattern->along = 0.0;
        r.axis->tiltDegrees = 0.0;
        r.axis->rule = AxisRule::Fixed;
        r.axis->direction = Vec3(0, -std::sin(radians(30)), std::cos(radians(30)));
        const auto lowest = [&](const std::vector<CheckFaces>& checks) {
            Recipe one = r;
            one.checks = checks;
            double z = 1e9;
            const auto done = run(one);
            for (const Pass& pass : done->guard->passes)
                for (std::size_t i = 0; i < pass.path.size(); ++i) z = std::min(z, pass.path.tip[i].z() + 3 * pass.path.axis[i].z() - 3);
            return z;
        };
        CheckFaces check{{part.faceRef(floor)}, -0.4};
        const double plain = lowest({}), entered = lowest({check});
        check.keepOff = 0.6;
        const double off = lowest({check});
        // The ball's lowest point over the floor at 10.
        QVERIFY2(std::abs(plain - 10) < 0.75, qPrintable(QString::number(plain)));
        QVERIFY2(entered < plain - 1e-6 && entered >= 10 - 0.4 - 0.03, qPrintable(QString::number(entered)));
        QVERIFY2(off >= 10.6 - 0.01 && off < 10.6 + 0.75, qPrintable(QString::number(off)));
    }
    // Every word of a group is in the key; a job with groups comes back as it was.
    void keysAndFiles() {
        Recipe r = m_recipe;
        CheckFaces check;
        check.faces = {m_place->part->faceRef(m_walls[0])};
        r.checks = {check};
        const std::string key = keyTextOf(r);
        r.checks[0].keepOff = 0.25;
        QVERIFY(keyTextOf(r) != key);
        r.checks[0].keepOff = 0.2;
        r.checks[0].faces.push_back(m_place->part->faceRef(m_walls[1]));
        QVERIFY(keyTextOf(r) != key);
        Job job = m_job;
        job.route = {r};
        const std::string text = jobToJson(job);
        QCOMPARE(jobToJson(jobFromJson(text, "here").value()), text);
        QVERIFY(setWord(job, "op", "checks.0.keepOff", "1.25").has_value());
        QCOMPARE(job.route[0].checks[0].keepOff, 1.25);
    }
};

GYRE_TEST(TestChecks)

} // namespace test_checks
#include "test_checks.moc"
