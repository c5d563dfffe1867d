#include "Program.h"
#include "Support.h"
#include "guard/GuardSpec.h"
#include "guard/Nearest.h"
#include "link/Link.h"
#include "link/LinkSpec.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"

namespace test_guard {

using namespace gyre;
using test::Random;

namespace {

Obstacle meshObstacle(const char* name, ObstacleKind kind, const ConvexBody& body) {
    const TriangleMesh m = skinOf(body, 96);
    return {name, kind, MeshTree(m), {}, 0.0};
}

// A tool with a plain shank of radius 3 and one holder step of radius 10.
Assembly plainTool(double stickOut) {
    Assembly a = test::ballTool(6, stickOut);
    a.holder = {{20, 20, 60}};
    return a;
}

} // namespace

class TestGuard : public QObject {
    Q_OBJECT
private slots:
    void aThinWireBetweenTwoLocationsIsAlwaysFound() {
        Random r(41);
        const GuardSpec spec{0.0, 0.0, 0.01, true, true, true, GuardResponse::Report};
        int found = 0, asked = 0;
        while (asked < 400) {
            // A wire of 0.2 mm somewhere in the middle of a long move, across the way of the shank or the holder.
            const AxisPose a{r.point(30), r.direction()}, b{a.tip + 40.0 * r.direction(), slerp(a.axis, r.direction(), 0.3)};
            const double t = r.number(0.2, 0.8);
            const Vec3 axis = slerp(a.axis, b.axis, t), tip = (1 - t) * a.tip + t * b.tip;
            const Vec3 at = tip + r.number(15, 90) * axis, along = axis.cross((b.tip - a.tip).normalized());
            if (along.norm() < 0.3) continue;
            const Vec3 w = along.normalized(), side = 0.1 * axis.cross(w).normalized();
            TriangleMesh wire;
            wire.points = {at - 60 * w - side, at + 60 * w - side, at + 60 * w + side, at - 60 * w + side};
            wire.triangles = {{0, 1, 2}, {0, 2, 3}};
            const Scene scene{{"wire", ObstacleKind::Fixture, MeshTree(wire), {}, 0.0}};
            const Guard guard(plainTool(40), scene, spec, 0.0);
            ++asked;
            found += guard.sweep(a, b, Contact::Free).has_value();
        }
        QCOMPARE(found, asked);
    }
    void aClearWayIsNotAccused() {
        const Scene scene{meshObstacle("block", ObstacleKind::Fixture, ConvexBody::box(Vec3(-10, -10, -10), Vec3(10, 10, 0)))};
        const Guard guard(plainTool(40), scene, {1.0, 2.0, 0.01, true, true, true, GuardResponse::Report}, 0.0);
        // 1.0 mm are asked of the cutter against a fixture: 1.05 is clear, 0.95 is not.
        QVERIFY(!guard.sweep({Vec3(-50, 0, 1.05), Vec3::UnitZ()}, {Vec3(50, 0, 1.05), Vec3::UnitZ()}, Contact::Cutting));
        QVERIFY(guard.sweep({Vec3(-50, 0, 0.95), Vec3::UnitZ()}, {Vec3(50, 0, 0.95), Vec3::UnitZ()}, Contact::Cutting));
    }
    void stickOutHasTheClosedForm() {
        // A wall as high as H beside the tool; the holder (radius 10) reaches over it, so its face must stay 2 mm above the top.
        const double wallTop = 45.0;
        const Scene scene{meshObstacle("wall", ObstacleKind::Part, ConvexBody::box(Vec3(7, -50, -5), Vec3(30, 50, wallTop)))};
        Guard guard(plainTool(40), scene, {1.0, 2.0, 0.01, true, true, true, GuardResponse::Report}, 0.0);
        const AxisPose pose{Vec3(0, 0, 0), Vec3::UnitZ()};
        QCOMPARE(guard.hit(pose, Contact::Cutting)->zone, Zone::Holder);
        const auto extra = guard.extraStickOut(pose, 100);
        QVERIFY(extra && std::abs(*extra - (wallTop + 2.0 - 40.0)) < 1e-4);
        QVERIFY(!guard.extraStickOut(pose, 5.0));
        const auto lift = guard.lift(pose, 100);
        QVERIFY(lift && std::abs(*lift - 7.0) < 1e-4);
        const ZoneClearance z = guard.clearance(pose, 20);
        QVERIFY(std::abs(z.shank - 4.0) < 1e-4 && z.holder <= 0.0);
    }
    // Where the drawing of a clearance begins and ends: as far apart as was measured, each on its own body; a closed form, and random ones.
    void nearestPlacesAreThoseOfTheClearance() {
        const Obstacle wall = meshObstacle("wall", ObstacleKind::Fixture, ConvexBody::box(Vec3(15, -50, -5), Vec3(30, 50, 90)));
        const auto known = nearestPlaces(plainTool(40), Zone::Holder, wall, {Vec3(0, 0, 0), Vec3::UnitZ()}, 20.0);
        QVERIFY(known && std::abs(known->distance - 5.0) < 1e-9);
        QVERIFY(std::abs(known->onTool.x() - 10.0) < 1e-6 && std::abs(known->onBody.x() - 15.0) < 1e-9 && std::abs(known->onTool.y()) < 1e-3);
        QVERIFY(!nearestPlaces(plainTool(40), Zone::Holder, wall, {Vec3(-40, 0, 0), Vec3::UnitZ()}, 20.0));
        Random r(2711);
        int apart = 0, inside = 0;
        for (int i = 0; i < 300; ++i) {
            const Vec3 low = r.point(40), high = low + Vec3(r.number(1, 30), r.number(1, 30), r.number(1, 30));
            Obstacle o = meshObstacle("block", ObstacleKind::Fixture, ConvexBody::box(low, high));
            if (i % 3 == 0) o = {"block", ObstacleKind::Machine, {}, {ConvexBody::box(low, high)}, 0.0};
            const Scene scene{o};
            const Assembly tool = plainTool(40);
            const Guard guard(tool, scene, {1.0, 2.0, 0.01, true, true, true, GuardResponse::Report}, 0.0);
            const AxisPose pose{r.point(40), r.direction()};
            const Zone zone = i % 2 ? Zone::Holder : Zone::Shank;
            const auto near = nearestPlaces(tool, zone, o, pose, 20.0);
            const double wanted = guard.clearanceOf(zone, 0, pose, 20.0);
            QCOMPARE(near.has_value(), wanted < 20.0 - 1e-9);
            if (!near) continue;
            QVERIFY2(std::abs(std::max(0.0, near->distance) - std::max(0.0, wanted)) < 1e-6, qPrintable(QString("%1: %2 and %3").arg(i).arg(near->distance).arg(wanted)));
            QVERIFY2(std::abs((near->onTool - near->onBody).norm() - std::max(0.0, near->distance)) < 1e-4, qPrintable(QString::number(i)));
            const TriangleMesh mesh = skinOf(ConvexBody::box(low, high), 96);
            QVERIFY(MeshTree(mesh).closest(near->onBody).distance < 1e-6);
            (near->distance > 0.0 ? apart : inside) += 1;
        }
        QVERIFY2(apart > 40 && inside > 3, qPrintable(QString("%1 %2").arg(apart).arg(inside)));
    }
    void gougesAreFoundAndMeasured() {
        // A ball of radius 3 in a slot 5 mm wide rides up on its walls: it cannot touch the floor.
        const Scene scene{meshObstacle("left", ObstacleKind::Part, ConvexBody::box(Vec3(-20, -20, 0), Vec3(-2.5, 20, 20))),
                          meshObstacle("right", ObstacleKind::Part, ConvexBody::box(Vec3(2.5, -20, 0), Vec3(20, 20, 20)))};
        const Guard guard(plainTool(40), scene, {0.0, 0.0, 0.01, true, true, true, GuardResponse::Report}, 0.005);
        const auto hit = guard.sweep({Vec3(0, -5, 5), Vec3::UnitZ()}, {Vec3(0, 5, 5), Vec3::UnitZ()}, Contact::Cutting);
        QVERIFY(hit.has_value());
        QVERIFY(std::abs(guard.gouge({Vec3(0, 0, 5), Vec3::UnitZ()}, 0) - 0.5) < 1e-6);
        // Lying on a face is not a gouge.
        const Scene floor{meshObstacle("floor", ObstacleKind::Part, ConvexBody::box(Vec3(-50, -50, -10), Vec3(50, 50, 0)))};
        const Guard on(plainTool(40), floor, {0.0, 0.0, 0.01, true, true, true, GuardResponse::Report}, 0.005);
        QVERIFY(!on.sweep({Vec3(-20, 0, 0), Vec3::UnitZ()}, {Vec3(20, 0, 0), Vec3::UnitZ()}, Contact::Cutting));
        QVERIFY(on.sweep({Vec3(-20, 0, -0.05), Vec3::UnitZ()}, {Vec3(20, 0, -0.05), Vec3::UnitZ()}, Contact::Cutting));
    }
    void responsesDoWhatTheySay() {
        auto& demo = test::demoResults();
        const Workplace& place = *demo.results.place;
        Recipe recipe = demo.job.route[0];
        Progress progress;
        const auto told = demo.results.operations[0];
        QVERIFY(!told->hazards.empty() && told->guard->stickOut);
        recipe.guard->response = GuardResponse::Drop;
        const auto dropped = runOperation(place, recipe, demo.cache, progress).value();
        QVERIFY(dropped->hazards.empty() && dropped->guard->dropped > 0);
        recipe.guard->response = GuardResponse::Lift;
        const auto lifted = runOperation(place, recipe, demo.cache, progress).value();
        QVERIFY(lifted->guard->lifted > 0);
        // Checked by brute force at every location, with the guard's own clearances.
        const Guard guard(lifted->tool, *place.scene, recipe.guard, 0.005);
        for (const Pass& pass : lifted->guard->passes)
            for (std::size_t i = 0; i < pass.path.size(); i += 3) {
                const ZoneClearance z = guard.clearance({pass.path.tip[i], pass.path.axis[i]}, 5);
                QVERIFY(z.shank >= recipe.guard->shankClearance - 0.03 && z.holder >= recipe.guard->holderClearance - 0.03);
            }
        // The stick-out that would do, does.
        Workplace longer = place;
        for (Assembly& a : longer.tools)
            if (a.id == recipe.tool) a.stickOut = *told->guard->stickOut;
        recipe.guard->response = GuardResponse::Report;
        const auto cured = runOperation(longer, recipe, demo.cache, progress).value();
        for (const Finding& f : cured->findings) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
    }
    void skinsAreLeftWhereTheyShould() {
        QVERIFY(std::abs(*wayOut({SkinKind::Sphere, 50}, Vec3(10, 0, 0), Vec3::UnitX()) - 40) < 1e-12);
        QVERIFY(std::abs(*wayOut({SkinKind::Cylinder, 50}, Vec3(0, 0, 7), Vec3(0, std::sqrt(0.5), std::sqrt(0.5))) - 50 / std::sqrt(0.5)) < 1e-9);
        QVERIFY(std::abs(*wayOut({SkinKind::Plane, 80}, Vec3(0, 0, 30), Vec3::UnitZ()) - 50) < 1e-12);
        QVERIFY(!wayOut({SkinKind::Plane, 80}, Vec3(0, 0, 30), Vec3::UnitX()));
        QVERIFY(!wayOut({SkinKind::Cylinder, 50}, Vec3(0, 0, 0), Vec3::UnitZ()));
        Random r(42);
        for (const SkinKind kind : {SkinKind::Cylinder, SkinKind::Sphere})
            for (int i = 0; i < 500; ++i) {
                const Skin skin{kind, 60};
                const auto outside = [&] {
                    Vec3 d = r.direction();
                    const AxisPose p{r.number(61, 80) * d, d};
                    return kind == SkinKind::Sphere ? p : AxisPose{Vec3(70 * std::cos(d.x() * 4), 70 * std::sin(d.x() * 4), 20 * d.z()), d};
                };
                const AxisPose a = outside(), b = outside();
                const auto way = alongSkin(skin, a, b);
                QVERIFY(way.front().tip == a.tip && way.back().tip == b.tip);
                for (const AxisPose& p : way) QVERIFY((kind == SkinKind::Sphere ? p.tip.norm() : std::hypot(p.tip.x(), p.tip.y())) > 59.9);
            }
    }
    void everyJoinAndEntryOfTheDemoIsThere() {
        const auto& op = *test::demoResults().results.operations[0];
        const Toolpath& path = *op.path();
        QCOMPARE(op.links->passStart.size(), op.guard->passes.size());
        QCOMPARE(op.links->joins + op.links->retracts + 1, op.guard->passes.size());
        QCOMPARE(path.motion.front(), Motion::Rapid);
        QCOMPARE(path.motion.back(), Motion::Retract);
        // No gap anywhere: neighbours are near, and cuts touch the part where they say.
        for (std::size_t i = 1; i < path.size(); ++i) {
            QVERIFY(std::abs(path.axis[i].norm() - 1) < 1e-12);
            if (path.motion[i] == Motion::Cut) QVERIFY((path.tip[i] - path.tip[i - 1]).norm() < 4.0);
            if (path.motion[i] != Motion::Cut) continue;
            const Vec3 ball = path.tip[i] + 3.0 * path.axis[i];
            QVERIFY(std::abs((ball - path.contact[i]).norm() - 3.0) < 1e-9);
            QVERIFY(((ball - path.contact[i]) / 3.0 - path.normal[i]).norm() < 1e-9);
        }
    }
};

GYRE_TEST(TestGuard)

} // namespace test_guard
#include "test_guard.moc"
