// What the guard tells: everything that is too near, with true depths; and nothing because of what a wall may be off.
#include "Program.h"
#include "Programs.h"
#include "Support.h"
#include "guard/GuardSpec.h"
#include "kinds/AlongWork.h"
#include <fmt/format.h>

namespace test_guard_findings {

using namespace gyre;
using test::Random;

namespace {

Obstacle block(const char* name, ObstacleKind kind, const Vec3& low, const Vec3& high) { return {name, kind, MeshTree(skinOf(ConvexBody::box(low, high))), {}, 0.0}; }

/// A straight cut along x at a height, axis up.
Pass along(double y, double z, int n = 20) {
    Pass p;
    for (int i = 0; i <= n; ++i) {
        const Vec3 at(-20.0 + 40.0 * i / n, y, z);
        p.path.push(at, Vec3::UnitZ(), at, Vec3::UnitZ(), Motion::Cut, 0, 0.0, 0);
        p.feedDirection.emplace_back(1, 0, 0);
    }
    return p;
}

GuardResult guarded(const Assembly& tool, const Scene& scene, const Pass& pass, GuardResponse response = GuardResponse::Report) {
    Progress quiet;
    GuardSpec spec;
    spec.response = response;
    const Guard guard(tool, scene, spec, 0.0);
    return guardPasses(guard, {pass}, quiet).value();
}

const Finding* find(const GuardResult& r, const char* code, const std::string& body = {}) {
    for (const Finding& f : r.findings)
        if (f.code == code && f.text.find(body) != std::string::npos) return &f;
    return nullptr;
}

/// Every shape, of size 10.
std::vector<Assembly> allShapes() {
    std::vector<Assembly> tools;
    for (int s = 0; s < kCutterShapes; ++s) {
        Assembly a = test::plainTool(cutterShapeName(static_cast<CutterShape>(s)), static_cast<CutterShape>(s), 10, 8000);
        a.cutter = asShape(a.cutter, static_cast<CutterShape>(s));
        if (validate(a)) tools.push_back(a);
    }
    return tools;
}

/// Depth under a flank that leans by `angle` and has radius `low` at the tip's height.
double underFlank(double radial, double height, double low, double angle) { return (low + height * std::tan(angle) - radial) * std::cos(angle); }

/// Below the flutes' end, as if they went on without one.
double depthUpward(const Cutter& c, double radial, double height) {
    const double r = 0.5 * c.diameter;
    const auto inBall = [&] { return r - std::hypot(radial, height - r); };
    switch (c.shape) {
    case CutterShape::Flat:
        return std::min(height, r - radial);
    case CutterShape::Ball:
        return height < r ? inBall() : r - radial;
    case CutterShape::Lollipop:
        return inBall();
    case CutterShape::CornerRadius: {
        const double k = c.cornerRadius;
        if (radial > r - k && height < k) return k - std::hypot(radial - (r - k), height - k);
        return std::min(height, r - radial);
    }
    case CutterShape::Tapered:
        return std::min(height, underFlank(radial, height, r, radians(c.taperDegrees)));
    case CutterShape::TaperedBall: {
        const double a = radians(c.taperDegrees);
        const bool ball = radial * std::sin(a) + (height - r) * std::cos(a) < 0.0; // below where the flank leaves the ball
        return ball ? inBall() : r + (height - r) * std::sin(a) - radial * std::cos(a);
    }
    case CutterShape::Chamfer:
    case CutterShape::Drill:
    case CutterShape::Spot: {
        const double tip = c.shape == CutterShape::Chamfer ? 0.5 * c.tipDiameter : 0.0;
        return std::min({height, r - radial, underFlank(radial, height, tip, radians(0.5 * c.pointDegrees))});
    }
    case CutterShape::Barrel: {
        const BarrelProfile b = barrelProfile(c);
        const Vec2 p(radial, height), d = p - b.middle, n = p - b.nose;
        // Each arc counts where the way square to it leads through the point.
        double least = height;
        if (d.y() >= b.join.y() * d.norm()) least = std::min(least, b.radius - d.norm());
        if (n.x() > 0.0 && n.y() <= b.join.y() * n.norm()) least = std::min(least, c.cornerRadius - n.norm());
        return least;
    }
    }
    return -1.0;
}

// The outline in the half plane is convex: the distance from within is the least of those to its lines and arcs.
double depthInCutter(const Cutter& c, double radial, double height) {
    const double below = depthUpward(c, radial, height);
    return c.shape == CutterShape::Lollipop ? below : std::min(below, cuttingLength(c) - height);
}

} // namespace

class TestGuardFindings : public QObject {
    Q_OBJECT
private slots:
    // What is engraved is not in the model: that deep the cutter may stand in the part, no deeper, and beside nothing is let go.
    void whatIsMeantIsNotAGouge() {
        const Assembly tool = test::ballTool(6, 40);
        const Scene plain{block("plate", ObstacleKind::Part, Vec3(-50, -50, -30), Vec3(50, 50, 0))};
        Scene ledge = plain;
        ledge.push_back(block("ledge", ObstacleKind::Part, Vec3(-50, 2, 0), Vec3(50, 50, 12)));
        Scene clamp = plain;
        clamp.push_back(block("clamp", ObstacleKind::Fixture, Vec3(-5, 2, 0), Vec3(5, 10, 12)));
        Progress quiet;
        const auto deepest = [&](const Scene& scene, double depth, double meant) {
            const GuardResult r = guardPasses(Guard(tool, scene, GuardSpec{}, 0.0, meant), {along(0, -depth)}, quiet).value();
            double worst = 0.0;
            for (const Finding& f : r.findings)
                if (f.code == "cutter-gouges") worst = std::min(worst, f.amount);
            return r.findings.empty() ? 1.0 : worst;
        };
        for (const double depth : {0.3, 1.0, 4.0}) {
            QVERIFY(std::abs(deepest(plain, depth, 0.0) + depth) < 1e-3);       // unmeant: as deep as it is
            QVERIFY(deepest(plain, depth, depth + 0.01) == 1.0);                // meant: nothing to say
            QVERIFY(std::abs(deepest(plain, depth + 0.2, depth) + 0.2) < 1e-3); // deeper than meant: by so much
            QVERIFY(deepest(ledge, depth, depth + 0.01) < -0.9);                // a wall of the part beside is entered sideways, 1 mm and less by the ball's shape
            QVERIFY(deepest(clamp, depth, depth + 0.01) <= 0.0);                // fixtures know of nothing meant
        }
    }
    // A holder that hits, a shank that hits, and a floor that is cut into: all are told at once, each with its body.
    void noFindingHidesAnother() {
        const Assembly tool = test::plainTool("flat", CutterShape::Flat, 10, 8000); // holder Ø30 from 40 on
        const Scene scene{block("part", ObstacleKind::Part, {-60, -60, -40}, {60, 60, 0}), block("high", ObstacleKind::Fixture, {-60, 12, 45}, {60, 40, 60}),
                          block("low", ObstacleKind::Fixture, {-60, 5.5, 26}, {60, 40, 32}), block("far", ObstacleKind::Fixture, {-60, 30, 0}, {60, 40, 20})};
        const GuardResult r = guarded(tool, scene, along(0, -3));
        const Finding* gouge = find(r, "cutter-gouges", "part");
        QVERIFY(gouge && std::abs(gouge->amount + 3.0) < 0.02);
        QVERIFY(find(r, "holder-near", "high"));
        QVERIFY(find(r, "shank-near", "low"));
        QCOMPARE(r.findings.size(), std::size_t(3));
        for (const Finding& f : r.findings) QVERIFY(f.rank == Rank::Stop && f.place && !f.reason.empty());
        QCOMPARE(r.hazards.size(), std::size_t(3));
        for (const Hazard& h : r.hazards) QVERIFY2(h.first == 0 && h.last == 20, qPrintable(QString("%1 to %2").arg(h.first).arg(h.last)));
    }
    // Sunk into a floor, driven into a wall: what is told is how far, for every cutter.
    void depthsAreTrueForEveryCutter() {
        Random random(71);
        int looked = 0;
        for (const Assembly& tool : allShapes()) {
            const Cutter& c = tool.cutter;
            for (int n = 0; n < 6; ++n) {
                const double deep = random.number(0.05, 0.8);
                const Scene floor{block("floor", ObstacleKind::Part, {-60, -60, -40}, {60, 60, 0})};
                const Guard down(tool, floor, GuardSpec{}, 0.0);
                // A point sinks into a floor beside its own flank: what lies furthest within is nearer to the flank than the tip is deep.
                double wanted = deep;
                if (c.shape == CutterShape::Chamfer || c.shape == CutterShape::Drill || c.shape == CutterShape::Spot) wanted = depthInCutter(c, 0.0, deep);
                const double told = down.gouge({Vec3(3, 4, -deep), Vec3::UnitZ()}, 0);
                QVERIFY2(std::abs(told - wanted) < 0.003 * wanted + 1e-4, qPrintable(QString("%1 in a floor: %2 of %3").arg(tool.name.c_str()).arg(told).arg(wanted)));
                // Against a wall that ends within the flutes, as wide as the cutter is up to there.
                ++looked;
                if (c.shape == CutterShape::Barrel) continue; // its flank is an arc: see the triangles
                const double top = c.shape == CutterShape::Lollipop ? 60.0 : 0.8 * cuttingLength(c);
                double widest = 0.0;
                for (const RoundedFrustum& f : cuttingZone(c)) {
                    const double h = std::min(top, f.z1), part = f.z1 > f.z0 ? (h - f.z0) / (f.z1 - f.z0) : 0.0;
                    if (h >= f.z0) widest = std::max(widest, f.round + f.r0 + part * (f.r1 - f.r0));
                }
                const Scene wall{block("wall", ObstacleKind::Part, {widest - deep, -60, -10}, {60, 60, top})};
                const Guard side(tool, wall, GuardSpec{}, 0.0);
                const double beside = side.gouge({Vec3(0, 0, 0), Vec3::UnitZ()}, 0);
                // A flank that widens upward is deepest at the wall's upper edge, where the distance is square to the flank.
                const double lean = c.shape == CutterShape::Tapered || c.shape == CutterShape::TaperedBall ? std::cos(radians(c.taperDegrees)) : 1.0;
                QVERIFY2(std::abs(beside - deep * lean) < 0.003 * deep + 1e-3,
                         qPrintable(QString("%1 in a wall: %2 of %3").arg(tool.name.c_str()).arg(beside).arg(deep * lean)));
            }
        }
        QVERIFY(looked >= 50);
    }
    // Against brute force: points all over random triangles, and how deep the outline says they are.
    void theDeepestPointIsFound() {
        Random random(72);
        int met = 0;
        for (const Assembly& tool : allShapes())
            for (int n = 0; n < 60; ++n) {
                TriangleMesh one;
                one.points = {random.point(8) + Vec3(0, 0, 6), random.point(8) + Vec3(0, 0, 6), random.point(8) + Vec3(0, 0, 6)};
                one.triangles = {{0, 1, 2}};
                double most = 0.0;
                for (int i = 0; i <= 120; ++i)
                    for (int k = 0; k <= 120 - i; ++k) {
                        const Vec3 p = one.points[0] + i / 120.0 * (one.points[1] - one.points[0]) + k / 120.0 * (one.points[2] - one.points[0]);
                        most = std::max(most, depthInCutter(tool.cutter, std::hypot(p.x(), p.y()), p.z()));
                    }
                if (most > 0.4 * tool.cutter.diameter) continue; // there the tip counts
                const Scene scene{{"triangle", ObstacleKind::Part, MeshTree(one), {}, 0.0}};
                const double found = Guard(tool, scene, GuardSpec{}, 0.0).gouge({Vec3::Zero(), Vec3::UnitZ()}, 0);
                met += most > 0.0;
                QVERIFY2(found >= most * 0.995 - 1e-3 && found <= most * 1.02 + 0.15,
                         qPrintable(QString("%1: %2, by points %3").arg(tool.name.c_str()).arg(found).arg(most)));
            }
        QVERIFY(met > 100);
    }
    // Depth is a distance: no point outside of the ball of that radius about a point within is outside of the cutter.
    void depthsAreDistancesToTheSurface() {
        Random random(73);
        for (const Assembly& tool : allShapes()) {
            int inside = 0;
            for (int n = 0; n < 4000; ++n) {
                const double radial = random.number(0, 6), height = random.number(0, 15), d = depthInCutter(tool.cutter, radial, height);
                if (d <= 0.0) continue;
                ++inside;
                const double a = random.number(0, 2 * kPi);
                const double r = std::abs(radial + 0.999 * d * std::cos(a)), h = height + 0.999 * d * std::sin(a);
                QVERIFY2(depthInCutter(tool.cutter, r, h) > -1e-9, qPrintable(QString("%1 at %2 %3").arg(tool.name.c_str()).arg(radial).arg(height)));
            }
            QVERIFY(inside > 200);
        }
    }
    void sunkInDeeperThanItIsWide() {
        const Scene floor{block("floor", ObstacleKind::Part, {-60, -60, -40}, {60, 60, 0})};
        const Assembly tool = test::plainTool("flat", CutterShape::Flat, 6, 8000);
        QVERIFY(std::abs(Guard(tool, floor, GuardSpec{}, 0.0).gouge({Vec3(0, 0, -12), Vec3::UnitZ()}, 0) - 12.0) < 0.01);
    }
    // A floor that is cut into is lifted off, and nothing is told of it but that it was lifted.
    void liftingHelpsOffFloors() {
        const Scene floor{block("floor", ObstacleKind::Part, {-60, -60, -40}, {60, 60, 0})};
        for (const Assembly& tool : allShapes()) {
            const GuardResult r = guarded(tool, floor, along(0, -0.5), GuardResponse::Lift);
            const Finding* lifted = find(r, "guard-lifted");
            QVERIFY2(lifted && std::abs(lifted->amount - 0.5) < 0.05, qPrintable(QString("%1: %2").arg(tool.name.c_str()).arg(lifted ? lifted->amount : -1)));
            QVERIFY2(!find(r, "cutter-gouges"), tool.name.c_str());
        }
        const GuardResult dropped = guarded(allShapes().front(), floor, along(0, -0.5), GuardResponse::Drop);
        QVERIFY(find(dropped, "guard-dropped") && find(dropped, "guard-dropped")->rank == Rank::Stop && dropped.passes.empty());
    }
    // What a wall may be off says nothing of the floor beside it.
    void tolerancesAreSeparate() {
        const Assembly tool = test::plainTool("flat", CutterShape::Flat, 10, 8000);
        Obstacle part = block("part", ObstacleKind::Part, {-60, -60, -40}, {60, 60, 0});
        part.forCutter = std::make_shared<const MeshTree>(skinOf(ConvexBody::box(Vec3(-60, -60, -40), Vec3(60, 60, 0))));
        part.own = std::make_shared<const MeshTree>(skinOf(ConvexBody::box(Vec3(-60, 4.9, 0), Vec3(60, 20, 30)))); // 0.1 into the wall
        part.ownTolerance = 0.2;
        const Scene scene{part};
        QVERIFY(guarded(tool, scene, along(0, 0.0)).findings.empty());
        QVERIFY(find(guarded(tool, scene, along(0, -0.1)), "cutter-gouges")); // the same 0.1 into the floor
        part.ownTolerance = 0.05;
        QVERIFY(find(guarded(tool, Scene{part}, along(0, 0.0)), "cutter-gouges"));
    }
};

GYRE_TEST(TestGuardFindings)

} // namespace test_guard_findings
#include "test_guard_findings.moc"
