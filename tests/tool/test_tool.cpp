#include "Program.h"
#include "Support.h"
#include "axis/Axis.h"
#include "tool/Contact.h"
#include "tool/Library.h"

namespace test_tool {

using namespace gyre;
using test::Random;

namespace {
Cutter cutterOf(CutterShape shape) {
    Cutter c;
    c.shape = shape;
    c.diameter = 10;
    c.cornerRadius = 2.5;
    c.taperDegrees = 6;
    c.fluteLength = 30;
    c.shoulderLength = 30;
    c.overallLength = 80;
    c.pointDegrees = shape == CutterShape::Drill ? 140 : 90;
    c.tipDiameter = 1;
    c.profileRadius = 300;
    if (shape == CutterShape::Lollipop) c.neckDiameter = 6;
    if (shape == CutterShape::Barrel) c.fluteLength = 24;
    return c;
}
constexpr CutterShape kAll[] = {CutterShape::Flat,     CutterShape::Ball,    CutterShape::CornerRadius, CutterShape::TaperedBall, CutterShape::Tapered,
                                CutterShape::Lollipop, CutterShape::Chamfer, CutterShape::Drill,        CutterShape::Spot,        CutterShape::Barrel};
Assembly assemblyOf(CutterShape shape) {
    Assembly a;
    a.id = a.name = cutterShapeName(shape);
    a.cutter = cutterOf(shape);
    a.cutter.shankDiameter = 10;
    a.stickOut = 45;
    a.holder = {{20, 26, 30}, {40, 40, 20}};
    return a;
}
} // namespace

class TestTool : public QObject {
    Q_OBJECT
private slots:
    // The plane through the contact is a very large triangle; its distance from the cutting zone must be 0.
    void tipsFromContactsTouchThePlaneExactly() {
        Random r(11);
        for (const CutterShape shape : kAll) {
            const Cutter c = cutterOf(shape);
            const double least =
                shape == CutterShape::Ball || shape == CutterShape::CornerRadius || shape == CutterShape::Flat || shape == CutterShape::TaperedBall ? 0.15 : -1.0;
            double worst = 0.0;
            for (int i = 0; i < 10'000; ++i) {
                const Vec3 n = r.direction(), contact = r.point(50);
                Vec3 a = r.direction();
                if (a.dot(n) < 0) a = -a;
                if (a.dot(n) < least) continue; // flank contact ends above the flutes
                const Vec3 tip = tipFromContact(c, contact, n, a).tip;
                const Vec3 x = anyPerpendicular(n), y = n.cross(x);
                TriangleMesh plane;
                plane.points = {contact + 2000 * x, contact - 1000 * x + 1700 * y, contact - 1000 * x - 1700 * y};
                const Vec3 ax = anyPerpendicular(a), ay = a.cross(ax);
                std::array<Vec3, 3> local;
                for (std::size_t k = 0; k < 3; ++k) {
                    const Vec3 d = plane.points[k] - tip;
                    local[k] = {d.dot(ax), d.dot(ay), d.dot(a)};
                }
                double d = 1e300;
                for (const auto& f : cuttingZone(c)) d = std::min(d, distance(f, local));
                if (shape != CutterShape::Ball && shape != CutterShape::CornerRadius && shape != CutterShape::TaperedBall && shape != CutterShape::Lollipop)
                    d = std::max(0.0, d); // no rounding: overlap is told as 0
                worst = std::max(worst, std::abs(d));
                // Nothing of the cutter lies below the plane.
                QVERIFY(
                    n.dot(tip +
                          Vec3(ax * cutterSupport(c, Vec3(-n.dot(ax), -n.dot(ay), -n.dot(a))).x() + ay * cutterSupport(c, Vec3(-n.dot(ax), -n.dot(ay), -n.dot(a))).y() +
                               a * cutterSupport(c, Vec3(-n.dot(ax), -n.dot(ay), -n.dot(a))).z()) -
                          contact) > -1e-9);
            }
            // A barrel's flank is laid out in cones for the guard, to a few thousandths; its contact is exact all the same.
            QVERIFY2(worst < (shape == CutterShape::Barrel ? 0.003 : 1e-8), qPrintable(QString("%1: %2").arg(cutterShapeName(shape)).arg(worst)));
        }
    }
    // The outline of a barrel from its own definition: every support point lies on the arc or the nose, and none is further out.
    void aBarrelsContactLiesOnItsArc() {
        Random random(17);
        for (int i = 0; i < 200; ++i) {
            Cutter c = cutterOf(CutterShape::Barrel);
            c.diameter = random.number(4, 20);
            c.cornerRadius = random.number(0.1, 0.35) * c.diameter;
            c.fluteLength = random.number(1.2, 2.0) * c.diameter;
            c.shoulderLength = c.fluteLength;
            c.profileRadius = random.number(12, 60) * c.diameter;
            Assembly a = assemblyOf(CutterShape::Barrel);
            a.cutter = c;
            a.stickOut = 60;
            QVERIFY2(validate(a), validate(a) ? "" : validate(a).error().text().c_str());
            const BarrelProfile b = barrelProfile(c);
            // Tangent where nose and flank meet; the nose stands on z = 0; the flank ends at the full diameter.
            QVERIFY((b.nose + c.cornerRadius * b.join - (b.middle + b.radius * b.join)).norm() < 1e-9);
            QVERIFY(std::abs(b.nose.y() - c.cornerRadius) < 1e-12 && std::abs(b.middle.x() + b.radius - 0.5 * c.diameter) < 1e-9);
            for (int k = 0; k < 100; ++k) {
                const double down = random.number(-kPi / 2, 0);
                const Vec3 d(std::cos(down), 0, std::sin(down)), p = cutterSupport(c, d);
                const Vec2 q(std::hypot(p.x(), p.y()), p.z());
                const double flank = std::abs((q - b.middle).norm() - b.radius), nose = std::abs((q - b.nose).norm() - c.cornerRadius);
                QVERIFY(std::min(flank, nose) < 1e-9);
                for (const auto& f : cuttingZone(c)) QVERIFY(cutterSupport(c, d).dot(d) > f.r0 * d.x() + f.z0 * d.z() - 0.0021 || f.round > 0);
            }
        }
    }
    void everyShapeIsWrittenReadAndStacked() {
        for (const CutterShape shape : kAll) {
            Assembly a = assemblyOf(shape);
            a.materials = {{"brass", 200, 0.04}, {"steel", 90, 0.02}};
            QVERIFY2(validate(a), validate(a) ? "" : validate(a).error().text().c_str());
            ToolLibrary l;
            l.assemblies = {a};
            const auto again = toolLibraryFromJson(toolLibraryToJson(l), "tools");
            QVERIFY2(again, again ? "" : again.error().text().c_str());
            const Assembly& b = again->assemblies[0];
            QVERIFY(b.cutter.shape == shape && b.materials == a.materials);
            QCOMPARE(toolLibraryToJson(*again), toolLibraryToJson(l));
            // Without a gap from the tip to the spindle, and named for its shape.
            const auto pieces = piecesOf(b);
            double reach = 0.0;
            for (const Piece& p : pieces) {
                QVERIFY(p.shape.low() <= reach + 1e-6);
                reach = std::max(reach, p.shape.high());
            }
            QVERIFY(std::abs(reach - b.gaugeLength()) < 1e-9);
            QVERIFY(shortName(b.cutter).find("10") != std::string::npos);
        }
        // A lollipop's neck leaves the ball where both are equally thick.
        const Cutter pop = cutterOf(CutterShape::Lollipop);
        QVERIFY(std::abs(cuttingLength(pop) - (5 + 4)) < 1e-12);
    }
    void impossibleShapesAreRefused() {
        const auto refused = [](CutterShape shape, const std::function<void(Assembly&)>& edit, const char* why) {
            Assembly a = assemblyOf(shape);
            edit(a);
            const auto ok = validate(a);
            return !ok && ok.error().text().find(why) != std::string::npos;
        };
        QVERIFY(refused(
            CutterShape::Lollipop, [](Assembly& a) { a.cutter.neckDiameter = 10; }, "hides the ball"));
        QVERIFY(refused(
            CutterShape::Drill, [](Assembly& a) { a.cutter.pointDegrees = 5; }, "cannot be ground"));
        QVERIFY(refused(
            CutterShape::Spot, [](Assembly& a) { a.cutter.fluteLength = 3; }, "end on the point"));
        QVERIFY(refused(
            CutterShape::Chamfer, [](Assembly& a) { a.cutter.tipDiameter = 10; }, "leaves no cone"));
        QVERIFY(refused(
            CutterShape::Tapered, [](Assembly& a) { a.cutter.taperDegrees = 0; }, "not a tapered"));
        QVERIFY(refused(
            CutterShape::Barrel, [](Assembly& a) { a.cutter.profileRadius = 4; }, "no larger"));
        QVERIFY(refused(
            CutterShape::Barrel, [](Assembly& a) { a.cutter.profileRadius = 30; }, "meets the axis"));
        QVERIFY(refused(
            CutterShape::Barrel, [](Assembly& a) { a.cutter.cornerRadius = 0; }, "nose"));
        QVERIFY(refused(
            CutterShape::Ball,
            [](Assembly& a) {
                a.materials = {{"", 1, 1}};
            },
            "material"));
        QVERIFY(refused(
            CutterShape::Ball,
            [](Assembly& a) {
                a.materials = {{"brass", -1, 1}};
            },
            "material"));
        QVERIFY(refused(
            CutterShape::Flat,
            [](Assembly& a) {
                a.cutter.fluteLength = 100;
                a.cutter.shoulderLength = 100;
            },
            "longer than the whole"));
    }
    // From any tool that can exist to any shape: the result can exist, too.
    void changingTheShapeMakesAPossibleTool() {
        Random random(18);
        for (int i = 0; i < 5000; ++i) {
            Assembly a = assemblyOf(kAll[random.integer(0, 9)]);
            a.cutter.diameter = random.number(0.5, 40);
            a.cutter.fluteLength = random.number(0.1, 3) * a.cutter.diameter;
            a.cutter.neckDiameter = random.number(0.3, 1.0) * a.cutter.diameter;
            a.cutter.cornerRadius = random.number(0, 0.6) * a.cutter.diameter;
            a.cutter.shoulderLength = a.cutter.fluteLength;
            a.cutter.overallLength = a.cutter.fluteLength + 60;
            const CutterShape to = kAll[random.integer(0, 9)];
            a.cutter = asShape(a.cutter, to);
            a.stickOut = cuttingLength(a.cutter) + 5;
            a.cutter.overallLength = std::max(a.cutter.overallLength, a.stickOut);
            const auto ok = validate(a);
            QVERIFY2(ok, ok ? "" : (ok.error().text() + " " + cutterShapeName(to)).c_str());
        }
    }
    void speedsComeFromTheMaterial() {
        Assembly a = assemblyOf(CutterShape::Flat);
        a.cutter.flutes = 4;
        a.materials = {{"brass", 157.0796326794897, 0.05}};
        QVERIFY(useMaterial(a, "brass"));
        QCOMPARE(a.spindleSpeed, 5000.0); // 157.08 m/min on Ø10
        QVERIFY(std::abs(a.feed() - 1000.0) < 1e-9);
        QVERIFY(!useMaterial(a, "cheese"));
        QCOMPARE(a.spindleSpeed, 5000.0);
    }
    // Sphere, cylinder and torus: the distance of the cutting zone from the middle point, axis or circle is their radius, exactly.
    void tipsFromContactsTouchRoundBodiesExactly() {
        Random r(14);
        for (const CutterShape shape : {CutterShape::Ball, CutterShape::CornerRadius, CutterShape::Flat, CutterShape::TaperedBall}) {
            const Cutter c = cutterOf(shape);
            const auto zone = cuttingZone(c);
            double worst = 0.0;
            for (int i = 0; i < 10'000; ++i) {
                const double radius = r.number(2, 40), large = radius + r.number(5, 40);
                const Vec3 n = r.direction(), middle = r.point(30);
                Vec3 a = r.direction();
                if (a.dot(n) < 0) a = -a;
                if (a.dot(n) < 0.15) continue;
                const Vec3 contact = middle + radius * n, tip = tipFromContact(c, contact, n, a).tip;
                const Vec3 ax = anyPerpendicular(a), ay = a.cross(ax);
                const auto local = [&](const Vec3& p) { return Vec3((p - tip).dot(ax), (p - tip).dot(ay), (p - tip).dot(a)); };
                const auto from = [&](const Vec3& p) {
                    double d = 1e300;
                    for (const auto& f : zone) d = std::min(d, distance(f, local(p)));
                    return d;
                };
                worst = std::max(worst, std::abs(from(middle) - radius));
                // A cylinder's axis and a torus' circle run through the same middle, square to the normal.
                const Vec3 along = Eigen::AngleAxisd(r.number(0, 6.28), n) * anyPerpendicular(n);
                const auto leastAlong = [&](const auto& pointAt) {
                    double low = -0.02, high = 0.02; // convex there: the golden section finds the least
                    for (int k = 0; k < 60; ++k) {
                        const double m1 = high - 0.618 * (high - low), m2 = low + 0.618 * (high - low);
                        (from(pointAt(m1)) < from(pointAt(m2)) ? high : low) = from(pointAt(m1)) < from(pointAt(m2)) ? m2 : m1;
                    }
                    return from(pointAt(0.5 * (low + high)));
                };
                worst = std::max(worst, std::abs(leastAlong([&](double t) { return Vec3(middle + 30.0 * t * along); }) - radius));
                const Vec3 centre = middle - large * n;
                worst = std::max(worst, std::abs(leastAlong([&](double t) { return Vec3(centre + large * (std::cos(t) * n + std::sin(t) * along)); }) - radius));
            }
            QVERIFY2(worst < 1e-9, qPrintable(QString("%1: %2").arg(cutterShapeName(shape)).arg(worst)));
        }
    }
    void ballTipFollowsTheFormula() {
        Random r(12);
        const Cutter c = cutterOf(CutterShape::Ball);
        for (int i = 0; i < 1000; ++i) {
            const Vec3 n = r.direction(), a = r.direction(), p = r.point(10);
            if (a.dot(n) < 0.01) continue;
            QVERIFY((tipFromContact(c, p, n, a).tip - (p + 5.0 * (n - a))).norm() < 1e-12);
        }
    }
    void cornerRadiusTipFollowsTheFormula() {
        Random r(13);
        const Cutter c = cutterOf(CutterShape::CornerRadius);
        for (int i = 0; i < 1000; ++i) {
            const Vec3 n = r.direction(), a = r.direction(), p = r.point(10);
            if (a.dot(n) < 0.01 || rejected(n, a).norm() < 1e-3) continue;
            QVERIFY((tipFromContact(c, p, n, a).tip - (p + 2.5 * n + 2.5 * rejected(n, a).normalized() - 2.5 * a)).norm() < 1e-11);
        }
    }
    void aDiscOfContactIsChosenAndSaid() {
        QVERIFY(tipFromContact(cutterOf(CutterShape::Flat), Vec3::Zero(), Vec3::UnitZ(), Vec3::UnitZ()).free);
        QVERIFY(!tipFromContact(cutterOf(CutterShape::Ball), Vec3::Zero(), Vec3::UnitZ(), Vec3::UnitZ()).free);
    }
    void signsOfLeadAndTilt() {
        const Vec3 n = Vec3::UnitZ(), f = Vec3::UnitX();
        // Left of a feed along +x, seen with the normal up, is +y.
        QVERIFY((axisFromLeadTilt(n, f, radians(90), 0) - f).norm() < 1e-12);
        QVERIFY((axisFromLeadTilt(n, f, 0, radians(90)) - Vec3::UnitY()).norm() < 1e-12);
        const Vec3 a = axisFromLeadTilt(n, f, radians(5), radians(12));
        QVERIFY(std::abs(a.x() - std::cos(radians(12)) * std::sin(radians(5))) < 1e-15 && std::abs(a.y() - std::sin(radians(12))) < 1e-15);
        const LeadTilt back = leadTiltOf(a, n, f);
        QVERIFY(std::abs(degrees(back.lead) - 5) < 1e-12 && std::abs(degrees(back.tilt) - 12) < 1e-12);
    }
    void axisTowardTheRotaryIsSquareToItAndMeetsIt() {
        Random r(14);
        for (const CutterShape shape : {CutterShape::Ball, CutterShape::CornerRadius, CutterShape::Flat}) {
            const Cutter c = cutterOf(shape);
            for (int i = 0; i < 2000; ++i) {
                const AxisLine line{r.point(5), r.direction()};
                const Vec3 out = rejected(r.direction(), line.direction).normalized();
                const Vec3 contact = line.point + r.number(25, 80) * out + r.number(-50, 50) * line.direction;
                const Vec3 n = (out + 0.5 * r.point(0.8)).normalized();
                const auto a = axisTowardLine(c, contact, n, line);
                // A flat bottom nearly square to the surface may have no answer; a ball always has one.
                if (!a && shape != CutterShape::Ball && angleBetween(rejected(n, line.direction).normalized(), out) < 0.45) continue;
                QVERIFY(a.has_value());
                QVERIFY(std::abs(a->dot(line.direction)) < 1e-9);
                const Vec3 tip = tipFromContact(c, contact, n, *a).tip;
                QVERIFY2(rejected(rejected(tip - line.point, line.direction), *a).norm() < 1e-9,
                         qPrintable(QString::number(rejected(rejected(tip - line.point, line.direction), *a).norm())));
            }
        }
    }
    void limitsMoveAnAxisNoFurtherThanNeeded() {
        Random r(15);
        for (int i = 0; i < 5000; ++i) {
            const Vec3 a = r.direction();
            const double low = radians(r.number(0, 40)), high = low + radians(r.number(0, 60)), angle = angleBetween(a, Vec3::UnitZ());
            const Vec3 k = limitedAxis(a, Vec3::UnitZ(), low, high, Vec3::UnitX());
            QVERIFY(angleBetween(k, Vec3::UnitZ()) > low - 1e-12 && angleBetween(k, Vec3::UnitZ()) < high + 1e-12);
            QVERIFY(std::abs(angleBetween(a, k) - std::max({0.0, low - angle, angle - high})) < 1e-9);
        }
    }
    void impossibleToolsAreRefusedWithTheReason() {
        const Assembly good = test::ballTool(6, 40);
        QVERIFY(validate(good));
        const auto bad = [&](auto&& spoil, const char* word) {
            Assembly a = good;
            spoil(a);
            const auto ok = validate(a);
            QVERIFY(!ok);
            QVERIFY2(ok.error().text().find(word) != std::string::npos, ok.error().text().c_str());
        };
        bad([](Assembly& a) { a.cutter.fluteLength = 500; }, "longer than the whole tool");
        bad(
            [](Assembly& a) {
                a.cutter.shape = CutterShape::CornerRadius;
                a.cutter.cornerRadius = 4;
            },
            "corner radius");
        bad([](Assembly& a) { a.stickOut = 1000; }, "stick-out");
        bad([](Assembly& a) { a.cutter.diameter = NAN; }, "sensible");
        bad([](Assembly& a) { a.holder[0].length = 0; }, "holder");
    }
    void librariesSurviveARoundTrip() {
        ToolLibrary l;
        l.name = "crib";
        for (int i = 0; i < 4; ++i) {
            Assembly a = test::ballTool(6 + i, 60);
            a.id = "t" + std::to_string(i);
            l.assemblies.push_back(a);
        }
        const std::string text = toolLibraryToJson(l);
        const auto back = toolLibraryFromJson(text, "crib");
        QVERIFY(back);
        QCOMPARE(toolLibraryToJson(*back), text);
        QVERIFY(!toolLibraryFromJson(R"({"format":"gyre-tools","version":2})", "x"));
        QVERIFY(!toolLibraryFromJson("[]", "x"));
    }
};

GYRE_TEST(TestTool)

} // namespace test_tool
#include "test_tool.moc"
