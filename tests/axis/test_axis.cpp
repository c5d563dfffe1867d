// The axis stage: rules over whole rows, limits, smoothing, and what is told.
#include "Program.h"
#include "Support.h"
#include "axis/Axis.h"
#include "axis/AxisSpec.h"

namespace test_axis {

using namespace gyre;
using test::Random;

namespace {

// A circle of radius r on a cylinder about z, counter-clockwise from above, normals outward.
Row circle(double r, int n, bool closed = true) {
    Row row;
    row.closed = closed;
    for (int i = 0; i < n; ++i) {
        const double t = 2.0 * kPi * i / n;
        row.points.emplace_back(r * std::cos(t), r * std::sin(t), 0);
        row.normals.emplace_back(std::cos(t), std::sin(t), 0);
        row.faces.push_back(0);
    }
    return row;
}

// A straight row along x on a plane.
Row straight(int n, bool returning = false) {
    Row row;
    row.returning = returning;
    for (int i = 0; i < n; ++i) {
        row.points.emplace_back(returning ? n - 1.0 - i : i, 0, 0);
        row.normals.emplace_back(0, 0, 1);
        row.faces.push_back(0);
    }
    return row;
}

const Cutter kBall{CutterShape::Ball, 6, 0, 0, 12, 18, 6, 6, 80, 2};

} // namespace

class TestAxis : public QObject {
    Q_OBJECT
    static AxisResult run(const std::vector<Row>& rows, const AxisSpec& spec, std::optional<AxisLine> rotary = {}) { return setAxes(rows, spec, kBall, rotary).value(); }

private slots:
    // Kept off the faces: turned towards the normal, in the plane of both, no further than it must; what stands off far enough stays.
    void keptOffTheFaces() {
        Random r(41);
        for (int i = 0; i < 20000; ++i) {
            const Vec3 axis = r.direction(), normal = r.direction();
            const double least = r.number(0.0, 0.5 * kPi - 0.01);
            const Vec3 kept = keptOffFace(axis, normal, least);
            QVERIFY(std::abs(kept.norm() - 1.0) < 1e-12);
            const double stands = 0.5 * kPi - angleBetween(axis, normal);
            if (stands >= least) {
                QVERIFY((kept - axis).norm() < 1e-12);
                continue;
            }
            QVERIFY(std::abs(0.5 * kPi - angleBetween(kept, normal) - least) < 1e-9);
            QVERIFY(std::abs(angleBetween(kept, axis) - (least - stands)) < 1e-9); // the shortest way
        }
        AxisSpec spec;
        spec.rule = AxisRule::Fixed;
        spec.direction = Vec3::UnitX();
        spec.offFaces = 15.0;
        const AxisResult a = run({straight(5)}, spec);
        for (const Vec3& axis : a.axes[0]) QVERIFY((axis - Vec3(std::cos(radians(15)), 0, std::sin(radians(15)))).norm() < 1e-12);
    }
    // A line that lies in its own wall is out of that neither way: the rows on the floor before it say which end is up. With the wall alone it is the datum.
    void linesInAWallGoByWhatLiesAround() {
        Row wall = straight(5), floor = straight(5);
        for (Vec3& n : wall.normals) n = Vec3::UnitY();
        for (Vec3& p : floor.points) p.y() += 3.0;
        const Curve down = straightLines({Vec3(0, 0, 10), Vec3(0, 0, 0)}), sunk = straightLines({Vec3(0, 0, -10), Vec3(0, 0, -20)});
        QVERIFY((lineWays({down}, {wall, floor}, {})[0] - Vec3::UnitZ()).norm() < 1e-12);
        QVERIFY((lineWays({down}, {wall, floor}, {0})[0] + Vec3::UnitZ()).norm() < 1e-12);
        for (Vec3& n : floor.normals) n = -Vec3::UnitZ(); // under a ceiling the other way
        QVERIFY((lineWays({sunk}, {wall, floor}, {})[0] + Vec3::UnitZ()).norm() < 1e-12);
        QVERIFY((lineWays({sunk}, {wall}, {})[0] - Vec3::UnitZ()).norm() < 1e-12);
    }
    // Keys stand at shares of what a row is a part of.
    void keysOfAPartOfTheWay() {
        AxisSpec spec;
        spec.keys = {{0.5, 0.5, -1, 20.0, 0.0}, {1.0, 1.0, -1, 0.0, 0.0}};
        for (const bool returning : {false, true}) {
            Row row = straight(11, returning);
            row.begins = 0.5;
            row.ends = 1.0;
            const AxisResult a = run({row}, spec);
            const auto lead = [&](std::size_t i) { return degrees(leadTiltOf(a.axes[0][i], row.normals[i], a.feeds[0][i]).lead); };
            QVERIFY2(std::abs(lead(returning ? 10 : 0) - 20.0) < 1e-9 && std::abs(lead(returning ? 0 : 10)) < 1e-9,
                     qPrintable(QString("%1 %2").arg(lead(0)).arg(lead(10))));
        }
    }
    void feedsOnACircleAreItsTangents() {
        for (const int n : {8, 50, 333}) {
            const Row row = circle(20, n);
            const auto feeds = feedDirections(row);
            for (int i = 0; i < n; ++i) {
                const double t = 2.0 * kPi * i / n;
                QVERIFY((feeds[static_cast<std::size_t>(i)] - Vec3(-std::sin(t), std::cos(t), 0)).norm() < 1e-12);
            }
        }
    }
    // Where points of a row coincide the last good direction goes on, and the first is still a direction.
    void feedsAreUnitAndTangentWhateverTheRow() {
        Random r(71);
        for (int n = 0; n < 500; ++n) {
            Row row;
            row.closed = r.integer(0, 1);
            Vec3 p = r.point(10);
            for (int i = r.integer(2, 12); i > 0; --i) {
                if (r.integer(0, 3)) p += r.point(1);
                row.points.push_back(p);
                row.normals.push_back(r.direction());
            }
            const auto feeds = feedDirections(row);
            for (std::size_t i = 0; i < feeds.size(); ++i) {
                QVERIFY(std::abs(feeds[i].norm() - 1.0) < 1e-9);
                QVERIFY(std::abs(feeds[i].dot(row.normals[i])) < 1e-6);
            }
        }
    }
    void leadAndTiltComeBackFromTheAxis() {
        Random r(72);
        for (int i = 0; i < 10'000; ++i) {
            const Vec3 n = r.direction(), f = (Eigen::AngleAxisd(r.number(0, 6.28), n) * anyPerpendicular(n)).normalized();
            const double lead = r.number(-1.5, 1.5), tilt = r.number(-1.5, 1.5);
            const LeadTilt back = leadTiltOf(axisFromLeadTilt(n, f, lead, tilt), n, f);
            QVERIFY(std::abs(back.lead - lead) < 1e-9 && std::abs(back.tilt - tilt) < 1e-9);
        }
    }
    void leadAndTiltAreKeptAlongTheRow() {
        AxisSpec spec;
        spec.leadDegrees = 7;
        spec.tiltDegrees = -13;
        const Row row = circle(25, 90);
        const AxisResult a = run({row}, spec);
        for (std::size_t i = 0; i < row.points.size(); ++i) {
            const LeadTilt lt = leadTiltOf(a.axes[0][i], row.normals[i], a.feeds[0][i]);
            QVERIFY(std::abs(degrees(lt.lead) - 7) < 1e-9 && std::abs(degrees(lt.tilt) + 13) < 1e-9);
        }
        // On a circle the axis turns as fast as the row does: nothing else is told.
        QVERIFY(a.findings.empty());
        QVERIFY(a.steepest > 0.0 && a.steepest < 1.2 * degrees(1.0 / 25.0));
    }
    void returningRowsLeanToTheSameSideOfThePart() {
        AxisSpec spec;
        spec.leadDegrees = 5;
        spec.tiltDegrees = 20;
        const AxisResult a = run({straight(10), straight(10, true)}, spec);
        // Tilt to +y for both; lead goes with the feed, so it changes sides.
        QVERIFY(std::abs(a.axes[0][4].y() - std::sin(radians(20))) < 1e-12);
        QVERIFY(std::abs(a.axes[1][4].y() - std::sin(radians(20))) < 1e-12);
        QVERIFY(a.axes[0][4].x() > 0.05 && a.axes[1][4].x() < -0.05);
    }
    void aFixedAxisIsFixed() {
        AxisSpec spec;
        spec.rule = AxisRule::Fixed;
        spec.direction = Vec3(0, 3, 4);
        const AxisResult a = run({circle(10, 30)}, spec);
        for (const auto& axis : a.axes[0]) QVERIFY((axis - Vec3(0, 0.6, 0.8)).norm() < 1e-12);
        spec.direction = Vec3::Zero();
        QVERIFY(!setAxes({circle(10, 30)}, spec, kBall, {}));
    }
    void towardTheRotaryNeedsOne() {
        AxisSpec spec;
        spec.rule = AxisRule::TowardRotary;
        const auto none = setAxes({circle(10, 30)}, spec, kBall, std::nullopt);
        QVERIFY(!none);
        QVERIFY(none.error().what.find("rotary") != std::string::npos);
        // About z, on a circle about z: straight outward.
        const AxisResult a = run({circle(10, 30)}, spec, AxisLine{Vec3::Zero(), Vec3::UnitZ()});
        for (std::size_t i = 0; i < 30; ++i) QVERIFY((a.axes[0][i] - circle(10, 30).normals[i]).norm() < 1e-9);
    }
    void aPointOnTheRotaryIsAFinding() {
        AxisSpec spec;
        spec.rule = AxisRule::TowardRotary;
        Row row = straight(5);
        for (auto& p : row.points) p.z() = -3.0; // the ball's middle runs on the axis itself
        const AxisResult a = run({row}, spec, AxisLine{Vec3::Zero(), Vec3::UnitX()});
        QVERIFY(std::any_of(a.findings.begin(), a.findings.end(), [](const Finding& f) { return f.code == "axis-on-rotary" && f.rank == Rank::Stop; }));
    }
    void limitsAreKeptAndToldWithTheirAmount() {
        AxisSpec spec; // normals of the cylinder lie at 90° to z
        spec.limited = true;
        spec.lowDegrees = 0;
        spec.highDegrees = 60;
        const AxisResult a = run({circle(30, 60)}, spec);
        for (const auto& axis : a.axes[0]) QVERIFY(std::abs(degrees(angleBetween(axis, Vec3::UnitZ())) - 60) < 1e-9);
        QVERIFY(std::abs(degrees(a.mostLimited) - 30) < 1e-9);
        QCOMPARE(a.findings.size(), std::size_t(1));
        QVERIFY(a.findings[0].code == "axis-limited" && std::abs(a.findings[0].amount - 30) < 1e-9);
        spec.lowDegrees = 70;
        QVERIFY(!setAxes({circle(30, 60)}, spec, kBall, {}));
    }
    void limitsNeverMoveAnAxisFurtherThanTheNearestAllowedOne() {
        Random r(73);
        for (int i = 0; i < 5000; ++i) {
            const Vec3 z = r.direction(), a = r.direction();
            const double low = r.number(0, 1.5), high = low + r.number(0, 1.5);
            const Vec3 kept = limitedAxis(a, z, low, high, r.direction());
            const double angle = angleBetween(kept, z);
            QVERIFY(angle > low - 1e-9 && angle < high + 1e-9);
            // The distance to a band of directions is the difference of the angles.
            const double needed = std::max({0.0, low - angleBetween(a, z), angleBetween(a, z) - high});
            QVERIFY(std::abs(angleBetween(kept, a) - needed) < 1e-7);
        }
    }
    void smoothingSlowsTheTurnAndKeepsStraightRows() {
        // Two planes that meet at 90°: the axis jumps there, and smoothing spreads it.
        Row row;
        for (int i = -40; i <= 40; ++i) {
            row.points.emplace_back(i < 0 ? 0.5 * i : 0.0, 0, i < 0 ? 0.0 : -0.5 * i);
            row.normals.emplace_back(i < 0 ? Vec3(0, 0, 1) : Vec3(1, 0, 0));
            row.faces.push_back(i < 0 ? 0 : 1);
        }
        AxisSpec spec;
        const double sharp = run({row}, spec).steepest;
        spec.smoothing = 6.0;
        const AxisResult even = run({row}, spec);
        QVERIFY2(even.steepest < 0.25 * sharp, qPrintable(QString("%1 of %2").arg(even.steepest).arg(sharp)));
        for (const auto& a : even.axes[0]) QVERIFY(std::abs(a.norm() - 1.0) < 1e-12);
        const AxisResult plain = run({straight(60)}, spec);
        for (const auto& a : plain.axes[0]) QVERIFY((a - Vec3::UnitZ()).norm() < 1e-12);
        // It never turns faster than asked for, and how far it is off for that is told; where that cannot be, that is.
        spec.smoothing = 0.0;
        spec.steepest = 5.0;
        const AxisResult slow = run({row}, spec);
        QVERIFY2(slow.steepest <= 5.0 && slow.steepest > 4.0, qPrintable(QString::number(slow.steepest)));
        QVERIFY(slow.findings.size() == 1 && slow.findings[0].code == "axis-evened" && slow.findings[0].amount > 30.0 && slow.findings[0].amount < 50.0);
        spec.steepest = 0.05;
        const AxisResult told = run({row}, spec);
        QVERIFY(!told.findings.empty() && told.findings[0].code == "axis-steep" && told.findings[0].place);
    }
    void noRowsIsNoTrouble() { QVERIFY(run({}, AxisSpec{}).axes.empty()); }
};

GYRE_TEST(TestAxis)

} // namespace test_axis
#include "test_axis.moc"
