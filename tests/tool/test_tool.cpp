#include "Support.h"
#include "axis/Axis.h"
#include "tool/Contact.h"
#include "tool/Library.h"

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
    return c;
}
} // namespace

class TestTool : public QObject {
    Q_OBJECT
private slots:
    // The plane through the contact is a very large triangle; its distance from the cutting zone must be 0.
    void tipsFromContactsTouchThePlaneExactly() {
        Random r(11);
        for (const CutterShape shape : {CutterShape::Ball, CutterShape::CornerRadius, CutterShape::Flat, CutterShape::TaperedBall}) {
            const Cutter c = cutterOf(shape);
            double worst = 0.0;
            for (int i = 0; i < 10'000; ++i) {
                const Vec3 n = r.direction(), contact = r.point(50);
                Vec3 a = r.direction();
                if (a.dot(n) < 0) a = -a;
                if (a.dot(n) < 0.15) continue; // flank contact ends above the flutes
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
                if (shape == CutterShape::Flat) d = std::max(0.0, d); // no rounding: overlap is told as 0
                worst = std::max(worst, std::abs(d));
                // Nothing of the cutter lies below the plane.
                QVERIFY(
                    n.dot(tip +
                          Vec3(ax * cutterSupport(c, Vec3(-n.dot(ax), -n.dot(ay), -n.dot(a))).x() + ay * cutterSupport(c, Vec3(-n.dot(ax), -n.dot(ay), -n.dot(a))).y() +
                               a * cutterSupport(c, Vec3(-n.dot(ax), -n.dot(ay), -n.dot(a))).z()) -
                          contact) > -1e-9);
            }
            QVERIFY2(worst < 1e-8, qPrintable(QString("%1: %2").arg(cutterShapeName(shape)).arg(worst)));
        }
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

QTEST_GUILESS_MAIN(TestTool)
#include "test_tool.moc"
