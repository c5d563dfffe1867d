// Curves against circles, helices and straight lines that are known exactly.
#include "Program.h"
#include "Support.h"
#include "geom/Curve.h"

namespace test_curve {

using namespace gyre;

namespace {
double furthest(const Curve& c, const std::function<double(const Vec3&)>& off) {
    double most = 0.0;
    for (std::size_t i = 0; i < c.pieces(); ++i)
        for (int k = 0; k <= 10; ++k) most = std::max(most, std::abs(off(c.at(i, 0.1 * k))));
    return most;
}
} // namespace

class TestCurve : public QObject {
    Q_OBJECT
private slots:
    void arcsAndHelicesFollowTheirFormula() {
        test::Random random(31);
        for (int i = 0; i < 200; ++i) {
            const Vec3 axis = random.direction(), centre = random.point(50), x = anyPerpendicular(axis);
            const double r = std::pow(10.0, random.number(-1, 2.5)), angle = random.number(-9, 9), rise = random.integer(0, 1) ? random.number(-40, 40) : 0.0;
            const Curve c = helix(centre, axis, centre + r * x, angle, rise);
            QVERIFY(furthest(c, [&](const Vec3& p) { return rejected(p - centre, axis).norm() - r; }) < 2e-6);
            QVERIFY(std::abs(c.length() - std::hypot(r * angle, rise)) < 1e-5 * std::max(1.0, c.length()));
            QVERIFY((c.end() - (centre + rise * axis + rotation(axis, angle) * (r * x))).norm() < 1e-9);
            // Half way along its length it is half way round.
            const Vec3 half = centre + 0.5 * rise * axis + rotation(axis, 0.5 * angle) * (r * x);
            QVERIFY((c.at(c.atLength(0.5 * c.length())) - half).norm() < 1e-5 * std::max(1.0, r));
        }
        const Curve ring = circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(20, 0, 0), 2 * kPi);
        QVERIFY(ring.closed());
        QVERIFY(std::abs(ring.length() - 40 * kPi) < 1e-6);
        QVERIFY((ring.at(ring.atLength(10 * kPi + ring.length())) - Vec3(0, 20, 0)).norm() < 1e-6); // goes round
    }
    // A bulge is tan(¼ of the arc's angle): its height over the chord is bulge · ½ chord, to the right of it when positive.
    void bulgesAreArcsOfTheirAngle() {
        test::Random random(34);
        for (int i = 0; i < 300; ++i) {
            const Vec3 a(random.number(-50, 50), random.number(-50, 50), 3), b = a + Vec3(random.number(1, 40), random.number(-40, 40), 0);
            const double bulge = random.number(0.05, 3) * (random.integer(0, 1) ? 1 : -1), chord = (b - a).norm(), angle = 4 * std::atan(std::abs(bulge));
            const Curve c = bulgedLine(a, b, Vec3::UnitZ(), bulge);
            QVERIFY((c.start() - a).norm() < 1e-9 && (c.end() - b).norm() < 1e-8);
            QVERIFY(std::abs(c.length() - angle * 0.5 * chord / std::sin(0.5 * angle)) < 1e-5 * c.length());
            const Vec3 right = (b - a).normalized().cross(Vec3::UnitZ()), top = 0.5 * (a + b) + 0.5 * bulge * chord * right;
            QVERIFY((c.at(c.atLength(0.5 * c.length())) - top).norm() < 1e-4);
        }
        QCOMPARE(bulgedLine(Vec3::Zero(), Vec3::UnitX(), Vec3::UnitZ(), 0.0).pieces(), std::size_t(1));
    }
    void aFootIsTheNearestPoint() {
        test::Random random(32);
        const Curve ring = circleArc(Vec3(1, 2, 3), Vec3::UnitZ(), Vec3(21, 2, 3), 2 * kPi);
        for (int i = 0; i < 500; ++i) {
            const Vec3 p = random.point(40);
            const Vec3 flat(p.x() - 1, p.y() - 2, 0);
            const Vec3 want = Vec3(1, 2, 3) + 20.0 * flat.normalized();
            const auto foot = ring.closest(p);
            QVERIFY2((foot.point - want).norm() < 1e-5 * (1.0 + 20.0 / flat.norm()), qPrintable(QString("%1 %2").arg((foot.point - want).norm()).arg(flat.norm())));
            QVERIFY(std::abs(foot.distance - (p - want).norm()) < 1e-6);
            QVERIFY(std::abs(ring.lengthAt(foot) - 20.0 * std::fmod(std::atan2(flat.y(), flat.x()) + 2 * kPi, 2 * kPi)) < 1e-4);
        }
    }
    void sampledCurvesKeepTheirTolerance() {
        const auto wave = [](double t) -> Result<Vec3> { return Vec3(40 * t, 5 * std::sin(9 * t), 3 * std::cos(7 * t)); };
        const auto c = sampled(wave);
        QVERIFY(c);
        for (int i = 0; i <= 1000; ++i) QVERIFY(c->closest(*wave(0.001 * i)).distance < 1e-6);
        QVERIFY(c->knots().size() < 400);
        // An error inside ends the work with its words.
        const auto torn = sampled([](double t) -> Result<Vec3> { return t > 0.6 ? Result<Vec3>(fail("torn")) : Vec3(t, 0, 0); });
        QVERIFY(!torn && torn.error().what == "torn");
        QVERIFY(!sampled([](double) -> Result<Vec3> { return Vec3::Zero(); })); // a point is no curve
    }
    void cutTurnedMovedAndJoined() {
        const Curve arc = circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), kPi);
        const double l = arc.length();
        const Curve a = arc.between(0, 0.3 * l), b = arc.between(0.3 * l, l);
        QVERIFY(std::abs(a.length() + b.length() - l) < 1e-6);
        QVERIFY((a.end() - b.start()).norm() < 1e-9);
        const Curve whole = joined(a, b);
        QVERIFY(!whole.closed() && std::abs(whole.length() - l) < 1e-6);
        QVERIFY(furthest(whole, [](const Vec3& p) { return p.norm() - 10; }) < 1e-6);
        const Curve back = whole.reversed();
        QVERIFY((back.start() - whole.end()).norm() < 1e-12 && (back.at(back.atLength(1)) - whole.at(whole.atLength(l - 1))).norm() < 1e-6);
        Frame f = Frame::Identity();
        f.translation() = Vec3(5, 6, 7);
        f.linear() = rotation(Vec3::UnitX(), 0.5);
        QVERIFY((whole.moved(f).at(whole.atLength(4)) - f * whole.at(whole.atLength(4))).norm() < 1e-9);
        // Closing straight: a half disc's border, with two corners.
        const Curve disc = joined(whole, straightLines({whole.end(), whole.start()}));
        QVERIFY(disc.closed() && std::abs(disc.length() - l - 20) < 1e-6);
        // A gap is bridged.
        const Curve gap = joined(straightLines({{0, 0, 0}, {1, 0, 0}}), straightLines({{1, 3, 0}, {5, 3, 0}}));
        QVERIFY(std::abs(gap.length() - 8) < 1e-12);
        // Round a closed one over its start.
        const Curve ring = circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), 2 * kPi);
        // A stretch from corner to corner is its own straight line, whichever side the corners' tangents have.
        const Curve square = straightLines({Vec3(0, 0, 0), Vec3(10, 0, 0), Vec3(10, 10, 0), Vec3(0, 10, 0)}, true);
        for (const double from : {0.0, 10.0, 20.0, 30.0}) {
            const Curve side = square.between(from, from + 10.0);
            QVERIFY(std::abs(side.length() - 10.0) < 1e-9 && (side.at(0, 0.5) - 0.5 * (side.start() + side.end())).norm() < 1e-9);
        }
        const Curve over = ring.between(50, 75);
        QVERIFY(std::abs(over.length() - 25) < 1e-6);
        QVERIFY(furthest(over, [](const Vec3& p) { return p.norm() - 10; }) < 1e-6);
    }
    void cornersStay() {
        const Curve box = straightLines({{0, 0, 0}, {10, 0, 0}, {10, 5, 0}, {0, 5, 0}}, true);
        QVERIFY(box.closed() && std::abs(box.length() - 30) < 1e-12);
        const auto same = sampledAlong(box, [&](const Curve::Place& p) -> Result<Vec3> { return Vec3(box.at(p) + Vec3(0, 0, 2)); });
        QVERIFY(same && same->closed() && std::abs(same->length() - 30) < 1e-6);
        int corners = 0;
        for (const CurveKnot& k : same->knots()) corners += angleBetween(k.before, k.after) > 1.0;
        QCOMPARE(corners, 4);
        QCOMPARE(simplified(*same, 0.01).knots().size(), std::size_t(4));
        QVERIFY(straightLines({{1, 1, 1}}).pieces() == 0 && straightLines({{1, 1, 1}, {1, 1, 1}}).pieces() == 0);
        // A line drawn as polyline keeps its chord tolerance.
        const Curve ring = circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(30, 0, 0), 2 * kPi);
        for (const double tol : {0.1, 0.01, 0.001}) {
            const Polyline line = ring.polyline(tol);
            for (std::size_t i = 1; i < line.size(); ++i) QVERIFY(30.0 - (0.5 * (line[i] + line[i - 1])).norm() < tol);
        }
    }
    void theMiddleIsAsFarFromBoth() {
        // Two straight lines of different lengths that open at an angle: the middle is their bisector.
        const Curve a = straightLines({{1, 0, 0}, {21, 0, 0}}), b = straightLines({{std::cos(0.5), std::sin(0.5), 0}, {14 * std::cos(0.5), 14 * std::sin(0.5), 0}});
        const auto m = middleOf(a, b.reversed()); // whichever way it was picked
        QVERIFY(m);
        for (std::size_t i = 0; i < m->pieces(); ++i)
            for (const double t : {0.0, 0.3, 0.8}) {
                const Vec3 p = m->at(i, t);
                if (p.x() < 10) QVERIFY(std::abs(std::atan2(p.y(), p.x()) - 0.25) < 1e-6 / p.norm() + 1e-7);
                QVERIFY(std::abs(a.closest(p).distance - b.closest(p).distance) < 2e-6);
            }
        // Rings about one centre, one turned and begun elsewhere.
        const auto ring = middleOf(circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), 2 * kPi), circleArc(Vec3::Zero(), -Vec3::UnitZ(), Vec3(0, 16, 0), 2 * kPi));
        QVERIFY(ring);
        QVERIFY(furthest(*ring, [](const Vec3& p) { return p.norm() - 13; }) < 1e-6);
        QVERIFY(ring->closed());
        // Two helices on cylinders of one axis: the middle is the helix between.
        const auto coil = middleOf(helix(Vec3::Zero(), Vec3::UnitZ(), Vec3(20, 0, 0), 6, 15), helix(Vec3(0, 0, 4), Vec3::UnitZ(), Vec3(20, 0, 4), 6, 15));
        QVERIFY(coil);
        QVERIFY((coil->at(coil->atLength(0.5 * coil->length())) - Vec3(0, 0, 0)).norm() > 5); // it stays out at the wall
        QVERIFY(!middleOf(a, Curve()));
    }
    // A curve of one point, or of none, answers without falling over.
    void aMerePointIsNoTrap() {
        const Curve point({{Vec3(1, 2, 3), Vec3::UnitX(), Vec3::UnitX()}}, false), nothing;
        QCOMPARE(point.length(), 0.0);
        QCOMPARE(nothing.length(), 0.0);
        QCOMPARE(point.pieces(), std::size_t(0));
        QVERIFY((point.at(point.atLength(5.0)) - Vec3(1, 2, 3)).norm() < 1e-15);
        QVERIFY((point.closest(Vec3(1, 2, 4)).point - Vec3(1, 2, 3)).norm() < 1e-15);
        QCOMPARE(point.between(0.0, 1.0).knots().size(), std::size_t(1));
        QVERIFY(nothing.between(0.0, 1.0).knots().empty() && nothing.polyline(0.1).empty());
        QVERIFY(!middleOf(point, straightLines({Vec3(0, 0, 0), Vec3(1, 0, 0)})));
    }
    void simplifiedStaysWithin() {
        test::Random random(33);
        for (const double tol : {0.001, 0.01, 0.1}) {
            Polyline points;
            for (int i = 0; i <= 400; ++i) points.push_back(Vec3(0.1 * i, 4 * std::sin(0.05 * i), 0));
            const auto fine = sampled([&](double t) -> Result<Vec3> { return Vec3(40 * t, 4 * std::sin(20 * t), 0); });
            const Curve few = simplified(*fine, tol);
            QVERIFY(few.knots().size() < fine->knots().size() / 2);
            for (std::size_t i = 0; i < fine->pieces(); ++i) QVERIFY(few.closest(fine->at(i, random.number(0, 1))).distance < 1.2 * tol);
            QVERIFY((few.start() - fine->start()).norm() < 1e-12 && (few.end() - fine->end()).norm() < 1e-12);
        }
        const Curve ring = circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), 2 * kPi);
        const Curve few = simplified(ring, 0.05);
        QVERIFY(few.closed() && few.knots().size() < ring.knots().size());
        QVERIFY(furthest(few, [](const Vec3& p) { return p.norm() - 10; }) < 0.06);
    }
    void knotsAreLeftOutByNumber() {
        const Curve zigzag = straightLines({{0, 0, 0}, {1, 1, 0}, {2, 0, 0}, {3, 1, 0}});
        const auto two = withoutKnots(zigzag, {1, 2});
        QVERIFY(two && two->knots().size() == 2 && (two->end() - Vec3(3, 1, 0)).norm() < 1e-12);
        QVERIFY(!withoutKnots(zigzag, {4}));
        QVERIFY(!withoutKnots(zigzag, {-1}));
        QVERIFY(!withoutKnots(zigzag, {0, 1, 2}));
    }
};

GYRE_TEST(TestCurve)

} // namespace test_curve
#include "test_curve.moc"
