// Directions that stand still: the fewest of them by known answers and against plain trial, and the operations that are made of them.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "geom/Polyline.h"
#include "guard/GuardSpec.h"
#include "job/Job.h"
#include "operation/Directions.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"
#include "session/Indexed.h"
#include "target/TargetSpec.h"

namespace test_fewest {

using namespace gyre;

namespace {

std::vector<Vec3> spread(int count, double lowestZ) {
    std::vector<Vec3> out;
    const double golden = kPi * (3.0 - std::sqrt(5.0));
    for (int i = 0; i < count; ++i) {
        const double z = 1.0 - (2.0 * i + 1.0) / count, r = std::sqrt(std::max(0.0, 1.0 - z * z));
        if (z >= lowestZ) out.emplace_back(r * std::cos(golden * i), r * std::sin(golden * i), z);
    }
    return out;
}

/// Each direction reaches the places whose normals lie within an angle of it.
Covering covered(const std::vector<Vec3>& directions, const std::vector<Vec3>& normals, double degreesOff) {
    Reached reached(normals.size());
    for (const Vec3& d : directions) {
        std::vector<char> one;
        for (const Vec3& n : normals) one.push_back(angleBetween(d, n) <= radians(degreesOff) + 1e-9 ? 1 : 0);
        reached.add(one);
    }
    const Covering out = fewestCovering(reached);
    for (std::size_t p = 0; p < normals.size(); ++p)
        if (std::none_of(out.chosen.begin(), out.chosen.end(), [&](std::size_t d) { return reached.holds(d, p); })) qFatal("a place is left");
    return out;
}

} // namespace

class TestFewest : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    Job m_job; ///< rows over the two walls of a passage
    std::shared_ptr<const Workplace> m_place;
    std::shared_ptr<const OperationResult> m_done;
    Progress m_progress;

    std::vector<int> m_walls;

    [[nodiscard]] Guard guardOf(const OperationResult& r, const Recipe& recipe) const { return Guard(r.tool, *r.scene, recipe.guard, recipe.pattern->chordTolerance); }
    /// Share of the way that a direction reaches, every location asked plainly.
    double plainly(const Vec3& axis, double lean) const {
        const Guard guard = guardOf(*m_done, m_job.route[0]);
        double all = 0.0, reached = 0.0;
        for (const Pass& pass : *m_done->passes)
            for (std::size_t i = 1; i < pass.path.size(); ++i) {
                const double way = (pass.path.contact[i] - pass.path.contact[i - 1]).norm();
                const Vec3& n = pass.path.normal[i];
                all += way;
                if (axis.dot(n) < std::cos(lean) - 1e-9) continue;
                const double r = 0.5 * m_done->tool.cutter.diameter; // a ball
                if (!guard.hit({pass.path.contact[i] + r * (n - axis), axis}, Contact::Cutting)) reached += way;
            }
        return reached / all;
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_job = jobAround(test::passageOnPlate(dir, 0.0, 0.0), GYRE_DEMO_DIR, test::demoFile("heron-5t.machine.json").string()).value();
        Workshop workshop(dir);
        proposeSetup(m_job, *workshop.placeFor(m_job, m_progress).value()->part);
        m_job.seat.z() += 60.0;
        Assembly ball = test::ballTool(6, 60);
        ball.id = "own";
        ball.cutter.fluteLength = 10;
        ball.cutter.shoulderLength = 40;
        ball.cutter.neckDiameter = 3.0;
        ball.cutter.shankDiameter = 6;
        ball.cutter.overallLength = 100;
        ball.holder = {{24, 24, 50}};
        m_job.tools = {ball};
        m_place = workshop.placeFor(m_job, m_progress).value();
        const Part& part = *m_place->part;
        for (int f = 0; f < static_cast<int>(part.faces().size()); ++f) {
            const FaceInfo& i = part.faces()[static_cast<std::size_t>(f)];
            if (i.centre.z() > 10.5 && std::abs(i.centre.y()) > 9.0 && std::abs(i.centre.y()) < 11.0 && std::abs(i.normal.y()) > 0.9) m_walls.push_back(f);
        }
        QCOMPARE(m_walls.size(), std::size_t{2});
        Recipe r = proposeRows(m_job, *m_place, nullptr);
        r.id = "walls";
        r.name = "Walls";
        r.tool = "own";
        r.feed = 500;
        for (const int f : m_walls) r.target->faces.push_back(part.faceRef(f));
        r.pattern->kind = PatternBy::Planes;
        r.pattern->lean = 90;
        r.pattern->spacing = 1.5;
        r.where->byHeight = true; // over what a ball of 6 can reach beside the floor
        r.where->low = 14.0;
        r.where->high = 24.0;
        r.axis->leadDegrees = 0;
        r.axis->tiltDegrees = 0;
        r.guard = {};
        r.guard->response = GuardResponse::Lean;
        r.guard->otherwise = GuardResponse::Drop;
        m_job.route = {r};
        StageCache cache;
        m_done = runOperation(*m_place, m_job.resolved(r), cache, m_progress).value();
        QVERIFY(m_done->passes && m_done->passes->size() > 8);
    }
    // The five open sides of a cube: five where the axis must be square, two from opposite corners where it may lean by 60°, three where by 53°: 54.7° are needed for
    // two.
    void sidesOfACube() {
        const std::vector<Vec3> sides{Vec3::UnitX(), -Vec3::UnitX(), Vec3::UnitY(), -Vec3::UnitY(), Vec3::UnitZ()};
        std::vector<Vec3> all = spread(2000, -1.0);
        all.insert(all.end(), sides.begin(), sides.end());
        for (const auto& [off, wanted] : {std::pair{2.0, 5U}, {44.0, 5U}, {53.0, 3U}, {60.0, 2U}}) {
            const Covering c = covered(all, sides, off);
            QVERIFY2(c.chosen.size() == wanted && c.fewest, qPrintable(QString("%1°: %2").arg(off).arg(c.chosen.size())));
        }
    }
    // A hemisphere with an allowed lean of 60°: four; three leave something, wherever they stand.
    void aHemisphere() {
        std::vector<Vec3> places = spread(500, 0.0);
        for (int i = 0; i < 90; ++i) places.emplace_back(std::cos(radians(4.0 * i)), std::sin(radians(4.0 * i)), 0.0);
        const Covering c = covered(spread(1000, 0.0), places, 60.0);
        QVERIFY2(c.chosen.size() == 4 && c.fewest, qPrintable(QString("%1 %2").arg(c.chosen.size()).arg(c.fewest)));
    }
    // Random tables against every subset.
    void againstEverySubset() {
        test::Random random(17);
        int proven = 0;
        for (int round = 0; round < 300; ++round) {
            const auto places = static_cast<std::size_t>(random.integer(1, 90)), directions = static_cast<std::size_t>(random.integer(1, 9));
            Reached reached(places);
            const double share = random.number(0.1, 0.7);
            for (std::size_t d = 0; d < directions; ++d) {
                std::vector<char> one;
                for (std::size_t p = 0; p < places; ++p) one.push_back(random.number(0, 1) < share ? 1 : 0);
                reached.add(one);
            }
            const Covering c = fewestCovering(reached);
            const auto covers = [&](unsigned subset, std::size_t p) {
                for (std::size_t d = 0; d < directions; ++d)
                    if ((subset >> d & 1U) && reached.holds(d, p)) return true;
                return false;
            };
            const unsigned everything = (1U << directions) - 1;
            std::size_t least = directions;
            for (unsigned subset = 0; subset <= everything; ++subset) {
                bool all = true;
                for (std::size_t p = 0; p < places && all; ++p) all = covers(subset, p) || !covers(everything, p);
                if (all) least = std::min(least, static_cast<std::size_t>(std::popcount(subset)));
            }
            QCOMPARE(c.chosen.size(), least);
            QVERIFY(c.fewest);
            proven += least > 1;
        }
        QVERIFY(proven > 100);
    }
    // Two upright walls that face each other need a direction each; what is told of these is so at every location, and no single direction does it all.
    void wallsThatFaceEachOther() {
        const double lean = radians(80.0);
        const auto found = fewestDirections(*m_place, m_job.resolved(m_job.route[0]), *m_done, lean, 6, m_progress);
        QVERIFY2(found.has_value(), found ? "" : found.error().text().c_str());
        QCOMPARE(found->chosen.size(), std::size_t{2});
        QVERIFY(found->reached == 1.0 && found->fewest && found->blockedBy.empty());
        double cuts = 0.0;
        for (const FixedDirection& d : found->chosen) {
            QVERIFY2(std::abs(plainly(d.axis, lean) - d.reaches) < 0.02, qPrintable(QString("%1 %2").arg(plainly(d.axis, lean)).arg(d.reaches)));
            QVERIFY(d.room > 0.0 && std::abs(d.axis.norm() - 1.0) < 1e-12);
            cuts += d.cuts;
        }
        QVERIFY(std::abs(cuts - 1.0) < 1e-9);
        QVERIFY(found->chosen[0].axis.y() * found->chosen[1].axis.y() < 0.0);
        test::Random random(5);
        for (int i = 0; i < 60; ++i) {
            const Vec3 d(random.number(-1, 1), random.number(-1, 1), random.number(0, 1));
            if (d.norm() > 0.1) QVERIFY(plainly(d.normalized(), lean) < 0.999);
        }
        // The room that is told: turned by as much, any way, they reach all of it between them still, at every location. No row goes over from one to the other here.
        const Guard guard = guardOf(*m_done, m_job.route[0]);
        const auto reaches = [&](const Pass& pass, std::size_t i, const Vec3& axis) {
            const Vec3& n = pass.path.normal[i];
            return axis.dot(n) >= std::cos(lean) - 1e-9 && !guard.hit({pass.path.contact[i] + 0.5 * m_done->tool.cutter.diameter * (n - axis), axis}, Contact::Cutting);
        };
        QVERIFY(found->chosen[0].room > radians(2) && found->chosen[1].room > radians(2));
        for (int i = 0; i < 40; ++i) {
            const FixedDirection &turned = found->chosen[static_cast<std::size_t>(i % 2)], &other = found->chosen[static_cast<std::size_t>(1 - i % 2)];
            const Vec3 u = anyPerpendicular(turned.axis), v = turned.axis.cross(u);
            const double around = random.number(0.0, 2.0 * kPi), by = turned.room * std::sqrt(random.number(0.0, 1.0));
            const Vec3 axis = std::cos(by) * turned.axis + std::sin(by) * (std::cos(around) * u + std::sin(around) * v);
            for (const Pass& pass : *m_done->passes)
                for (std::size_t k = 0; k < pass.path.size(); ++k) QVERIFY(reaches(pass, k, axis) || reaches(pass, k, other.axis));
        }
        QCOMPARE(found->changes, std::size_t{0});
        // One of them, where more are not wanted: it is told how much it reaches.
        const auto one = fewestDirections(*m_place, m_job.resolved(m_job.route[0]), *m_done, lean, 1, m_progress);
        QVERIFY(one && one->chosen.size() == 1 && one->reached < 0.6 && one->bare);
    }
    // Rings around a block of four upright sides: two directions over opposite corners have two sides each, and every ring goes over from one to the other twice.
    void ringsGoOverTwice() {
        Recipe r = m_job.route[0];
        r.target->faces.clear();
        const Part& part = *m_place->part;
        for (int f = 0; f < static_cast<int>(part.faces().size()); ++f) {
            const FaceInfo& i = part.faces()[static_cast<std::size_t>(f)];
            if (i.centre.z() > 10.5 && i.centre.z() < 16.0 && std::abs(i.normal.z()) < 0.1 && std::abs(i.centre.y()) < 1.5) r.target->faces.push_back(part.faceRef(f));
        }
        QCOMPARE(r.target->faces.size(), std::size_t{4});
        r.where->high = 17.0;
        StageCache cache;
        const auto done = runOperation(*m_place, m_job.resolved(r), cache, m_progress).value();
        QVERIFY(done->passes && done->passes->size() > 1);
        for (const Pass& pass : *done->passes) QVERIFY(pass.closed);
        const auto found = fewestDirections(*m_place, m_job.resolved(r), *done, radians(80.0), 6, m_progress);
        QVERIFY2(found.has_value(), found ? "" : found.error().text().c_str());
        QVERIFY2(found->chosen.size() == 2 && found->reached == 1.0, qPrintable(QString("%1 %2").arg(found->chosen.size()).arg(found->reached)));
        QCOMPARE(found->changes, 2 * done->passes->size());
    }
    // The operations in its place stand still, cut all of it between them and nothing twice, and have no Stop; the one before is switched off.
    void operationsInItsPlace() {
        const auto found = fewestDirections(*m_place, m_job.resolved(m_job.route[0]), *m_done, radians(80.0), 6, m_progress).value();
        std::vector<Vec3> axes;
        for (const FixedDirection& d : found.chosen) axes.push_back(d.axis);
        Job job = m_job;
        const auto made = makeIndexed(job, "walls", axes);
        QVERIFY(made && made->size() == 2 && job.route.size() == 3);
        QVERIFY(!job.route[0].active && job.route[1].active && job.route[2].active);
        QVERIFY(job.route[1].id == (*made)[0] && job.route[2].where->notBy == std::vector<std::string>{(*made)[0]});
        QVERIFY(!asks(job.route[1].guard, GuardResponse::Lean) && job.route[1].guard->response == GuardResponse::Drop);
        StageCache kept;
        const auto told = indexedInstead(m_place, m_job, "walls", axes, {}, kept, m_progress);
        QVERIFY2(told.has_value(), told ? "" : told.error().text().c_str());
        QCOMPARE(told->results.size(), std::size_t{2});
        QCOMPARE(told->stops, std::size_t{0});
        QVERIFY(told->seconds > 0.0);
        // All that its rows are, where the turning axis, with its guard, leaves some of them out.
        double rowsOfAll = 0.0;
        for (const Pass& pass : *m_done->passes) rowsOfAll += length(pass.path.contact);
        QVERIFY2(std::abs(told->cut / rowsOfAll - 1.0) < 0.03, qPrintable(QString("%1 of %2").arg(told->cut).arg(rowsOfAll)));
        QVERIFY(cutWay(*m_done) < rowsOfAll);
        std::vector<PolylineDistance> rows[2];
        for (std::size_t k = 0; k < 2; ++k)
            for (const Pass& pass : told->results[k]->guard->passes) {
                if (pass.path.size() < 2) continue;
                rows[k].emplace_back(pass.path.contact);
                for (const Vec3& a : pass.path.axis) QVERIFY((a - axes[k]).norm() < 1e-9);
            }
        double doubled = 0.0;
        for (const Pass& pass : *m_done->passes)
            for (std::size_t i = 0; i < pass.path.size(); ++i) {
                double near[2] = {1e300, 1e300};
                for (std::size_t k = 0; k < 2; ++k)
                    for (const auto& line : rows[k]) near[k] = std::min(near[k], line.distance(pass.path.contact[i], near[k]));
                QVERIFY2(std::min(near[0], near[1]) < 0.8, qPrintable(QString("%1").arg(std::min(near[0], near[1]))));
                if (std::max(near[0], near[1]) < 0.3) doubled += 1.0;
            }
        QCOMPARE(doubled, 0.0);
        // A second direction that reaches what the first one does finds next to nothing left.
        const auto again = indexedInstead(m_place, m_job, "walls", {axes[0], (axes[0] + 0.05 * Vec3::UnitX()).normalized()}, {}, kept, m_progress);
        QVERIFY(again && cutWay(*again->results[0]) > 100.0);
        QVERIFY2(cutWay(*again->results[1]) < 0.02 * cutWay(*again->results[0]), qPrintable(QString::number(cutWay(*again->results[1]))));
        // What the first one does is a part of what the second one rests on.
        Job other = job;
        other.operation((*made)[0])->axis->direction = Vec3(0, 0.1, 1).normalized();
        QVERIFY(other.resolved(*other.operation((*made)[1])).rests != job.resolved(*job.operation((*made)[1])).rests);
        other = job;
        other.operation((*made)[0])->active = false;
        QVERIFY(other.resolved(*other.operation((*made)[1])).rests != job.resolved(*job.operation((*made)[1])).rests);
        // One direction cuts everything, without a condition on where.
        const auto single = makeIndexed(job = m_job, "walls", {Vec3::UnitZ()});
        QVERIFY(single && !job.route[1].where->byReach && job.route[1].name == "Walls");
    }
    // Rows where the tool reaches: every location is reached, and what is left out is not, by plain trial.
    void rowsWhereItReaches() {
        Recipe r = m_job.route[0];
        r.axis = AxisSpec{};
        r.axis->rule = AxisRule::Fixed;
        r.axis->direction = Vec3(0.2, 0.5, 1.0).normalized();
        r.guard->response = r.guard->otherwise = GuardResponse::Report;
        StageCache cache;
        const auto all = runOperation(*m_place, m_job.resolved(r), cache, m_progress).value();
        r.where->byReach = true;
        const auto kept = runOperation(*m_place, m_job.resolved(r), cache, m_progress).value();
        QVERIFY(all->passes && kept->passes);
        const Guard guard = guardOf(*kept, r);
        std::vector<PolylineDistance> rows;
        std::size_t in = 0, out = 0;
        for (const Pass& pass : *kept->passes) {
            if (pass.path.size() > 1) rows.emplace_back(pass.path.contact);
            for (std::size_t i = 0; i < pass.path.size(); ++i) in += guard.hit({pass.path.tip[i], pass.path.axis[i]}, Contact::Cutting) ? 1 : 0;
        }
        QVERIFY2(in <= 2 * kept->passes->size(), qPrintable(QString::number(in))); // the ends lie on the border itself
        for (const Pass& pass : *all->passes)
            for (std::size_t i = 0; i < pass.path.size(); ++i) {
                double near = 1e300;
                for (const auto& line : rows) near = std::min(near, line.distance(pass.path.contact[i], near));
                if (near < 0.3) continue; // of the places that rows are asked at
                ++out;
                QVERIFY(guard.hit({pass.path.tip[i], pass.path.axis[i]}, Contact::Cutting));
            }
        QVERIFY2(out > 50, qPrintable(QString::number(out)));
        // Every word that it rests on counts, in the same cache: more clearance, less reached; more stock to leave, other places.
        const auto wayOf = [](const OperationResult& o) {
            double sum = 0.0;
            if (o.passes)
                for (const Pass& pass : *o.passes) sum += length(pass.path.contact);
            return sum;
        };
        Recipe wider = r;
        wider.guard->shankClearance = 4.0;
        const auto less = runOperation(*m_place, m_job.resolved(wider), cache, m_progress).value();
        QVERIFY2(wayOf(*less) < wayOf(*kept) - 1.0, qPrintable(QString("%1 %2").arg(wayOf(*less)).arg(wayOf(*kept))));
        // An axis that turns says nothing of it.
        r.axis->rule = AxisRule::Surface;
        const auto refused = runOperation(*m_place, m_job.resolved(r), cache, m_progress).value();
        QVERIFY(!refused->passes && !refused->findings.empty() &&
                refused->findings.front().reason.find("stands still") + refused->findings.front().text.find("stands still") < 2 * std::string::npos);
    }
    void whatCannotIsRefused() {
        Job job = m_job;
        QVERIFY(!makeIndexed(job, "nothing", {Vec3::UnitZ()}));
        QVERIFY(!makeIndexed(job, "walls", {}));
        job.route[0].kind = OperationKind::Curve;
        const auto parted = makeIndexed(job, "walls", {Vec3::UnitZ(), Vec3::UnitX()});
        QVERIFY(!parted && parted.error().what.find("only rows over faces") != std::string::npos);
        Recipe r = m_job.route[0];
        r.where->notBy = {"later"};
        StageCache cache;
        const auto refused = runOperation(*m_place, m_job.resolved(r), cache, m_progress).value();
        QVERIFY(!refused->passes);
        OperationResult empty;
        QVERIFY(!fewestDirections(*m_place, r, empty, 1.0, 3, m_progress));
        Recipe locked = m_job.route[0];
        locked.axis->locked = "C";
        const auto bound = fewestDirections(*m_place, locked, *m_done, 1.0, 3, m_progress);
        QVERIFY(!bound && bound.error().what.find("not free") != std::string::npos);
    }
};

GYRE_TEST(TestFewest)

} // namespace test_fewest
#include "test_fewest.moc"
