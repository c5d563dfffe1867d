// Flat areas and sheets: known areas, known offsets, the unrolled cylinder.
#include "Loops.h"
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "milling/Region.h"
#include "milling/Rings.h"
#include "milling/Sheet.h"

namespace test_region {

using namespace gyre;
using test::disc;
using test::near;
using test::rectangle;

class TestRegion : public QObject {
    Q_OBJECT
private slots:
    void areasAddUp() {
        const Region plate = regionOf({rectangle(0, 0, 100, 60), disc({30, 30}, 10)});
        QVERIFY(near(plate.area(), 6000 - kPi * 100, 0.02));
        QVERIFY(!plate.contains({30, 30}) && plate.contains({50, 30}) && !plate.contains({-1, 5}));
        const Region half = regionOf({rectangle(50, 0, 200, 60)});
        QVERIFY(near(common(plate, half).area(), 3000, 1e-3));
        QVERIFY(near(without(plate, half).area(), 3000 - kPi * 100, 0.02));
        QVERIFY(near(united(plate, half).area(), 12000 - kPi * 100, 0.02));
        QCOMPARE(pieces(without(plate, regionOf({rectangle(45, -1, 55, 61)}))).size(), std::size_t(2));
    }
    // Many at once come to the same as one after the other, whichever way they turn.
    void manyAtOnce() {
        test::Random random(61);
        for (int round = 0; round < 20; ++round) {
            std::vector<Loop> loops;
            Region one;
            for (int i = 0; i < 40; ++i) {
                const double x = random.number(0, 60), y = random.number(0, 40);
                Loop l = rectangle(x, y, x + random.number(1, 12), y + random.number(1, 12));
                if (i % 3 == 0) std::reverse(l.begin(), l.end());
                one = united(one, regionOf({l}));
                loops.push_back(l);
            }
            const Region all = unitedAll(loops);
            QVERIFY(near(all.area(), one.area(), 1e-3));
            QVERIFY(without(all, one).area() < 1e-3 && without(one, all).area() < 1e-3);
        }
        QVERIFY(unitedAll({}).empty());
    }
    void offsetsAreExactAndRound() {
        const Region square = regionOf({rectangle(0, 0, 10, 10)});
        QVERIFY(near(grown(square, 3).area(), 100 + 4 * 30 + kPi * 9, 0.01));
        QVERIFY(near(grown(square, -3).area(), 16, 1e-6));
        QVERIFY(grown(square, -5.001).empty());
        // A hole grows when its surroundings shrink.
        const Region ring = regionOf({disc({0, 0}, 20), disc({0, 0}, 10)});
        QVERIFY(near(grown(ring, -2).area(), kPi * (18 * 18 - 12 * 12), 0.05));
        QVERIFY(near(aroundLines({{{0, 0}, {10, 0}}}, 2).area(), 40 + kPi * 4, 0.005));
        // No point of an offset is nearer than asked by more than the tolerance.
        test::Random random(11);
        for (int i = 0; i < 20; ++i) {
            Loop star;
            for (int k = 0; k < 24; ++k) star.push_back(random.number(10, 30) * Vec2(std::cos(kPi * k / 12), std::sin(kPi * k / 12)));
            const Region r = regionOf({star}), in = grown(r, -2.0);
            for (const Loop& l : in.loops)
                for (const Vec2& p : l) QVERIFY(r.distanceToBorder(p) > 2.0 - 2 * kRegionTolerance);
        }
    }
    void waysAndMiddles() {
        const Region u = regionOf({rectangle(0, 0, 30, 30), rectangle(10, 10, 20, 31)});
        QVERIFY(u.containsWay({5, 5}, {25, 5}));
        QVERIFY(!u.containsWay({5, 25}, {25, 25}));
        QVERIFY(u.containsWay({0, 0}, {30, 0}));
        const Region odd = regionOf({rectangle(0, 0, 100, 10), disc({80, 5}, 15)});
        QVERIFY((deepestPoint(united(regionOf({rectangle(0, 0, 100, 10)}), regionOf({disc({80, 5}, 15)}))) - Vec2(80, 5)).norm() < 1.5);
        const auto cut = linesInside({{{-5, 5}, {105, 5}}}, odd);
        double sum = 0.0;
        for (const Line& l : cut) sum += (l.back() - l.front()).norm();
        QVERIFY(sum > 0.0 && sum < 110.0);
    }
    void ringsLeaveNothing() {
        test::Random random(12);
        for (int i = 0; i < 12; ++i) {
            // A random pocket with an island; steps up to nearly the cutter's diameter.
            Loop outer;
            for (int k = 0; k < 16; ++k) outer.push_back(random.number(25, 40) * Vec2(std::cos(kPi * k / 8), std::sin(kPi * k / 8)));
            const Region area = regionOf({outer, disc({random.number(-8, 8), random.number(-8, 8)}, 5)});
            const double r = random.number(1.5, 4.0), step = random.number(0.4, 1.7) * r;
            const Region centre = grown(area, -r);
            const auto ways = ringsIn(centre, {}, {step, r, true, 0.8 * r});
            QVERIFY(!ways.empty());
            const double left = leftBy(ways, centre, r).area();
            QVERIFY2(left < 0.05, qPrintable(QString("left %1 mm² with r %2, step %3").arg(left).arg(r).arg(step)));
            // And no way ever leaves the area.
            for (const auto& w : ways)
                for (std::size_t k = 1; k < w.points.size(); ++k) QVERIFY(area.distanceToBorder(0.5 * (w.points[k] + w.points[k - 1])) > r - 0.003);
        }
    }
    void strokesCoverAndStayInside() {
        const Region centre = regionOf({rectangle(0, 0, 80, 50), rectangle(30, 20, 45, 30)});
        const auto ways = strokesIn(centre, {}, {3.0, 5.0, true, 0.0}, radians(30));
        double length = 0.0;
        for (const auto& w : ways)
            for (std::size_t k = 1; k < w.points.size(); ++k) {
                QVERIFY(centre.containsWay(w.points[k - 1], w.points[k]));
                length += (w.points[k] - w.points[k - 1]).norm();
            }
        QVERIFY(length > centre.area() / 3.0 * 0.9);
        QVERIFY(leftBy(ways, centre, 5.0).area() < 0.05);
    }
    // Against many points of the way; zero where it crosses the border.
    void theDistanceOfAWayIsThatOfItsNearestPoint() {
        const Region area = regionOf({rectangle(0, 0, 80, 50), rectangle(30, 20, 45, 30)});
        test::Random random(14);
        int crossed = 0;
        for (int i = 0; i < 300; ++i) {
            const Vec2 a(random.number(-10, 90), random.number(-10, 60)), b(random.number(-10, 90), random.number(-10, 60));
            double nearest = 1e300;
            int changes = 0;
            for (int k = 0; k <= 400; ++k) {
                const Vec2 p = a + (b - a) * k / 400.0;
                nearest = std::min(nearest, area.distanceToBorder(p));
                changes += k > 0 && area.contains(p) != area.contains(a + (b - a) * (k - 1) / 400.0);
            }
            const double told = area.distanceToBorder(a, b);
            QVERIFY(told <= nearest + 1e-12 && told >= nearest - (b - a).norm() / 800.0);
            if (changes) QCOMPARE(told, 0.0);
            crossed += changes > 0;
        }
        QVERIFY(crossed > 50);
        QVERIFY(near(area.distanceToBorder(Vec2(10, 10), Vec2(10, 10)), 10.0, 1e-12));
    }
    // Chords about a round that must not be entered, and one right across it: points are added on the border until nothing is entered.
    void linesAreKeptInside() {
        const Region allowed = regionOf({rectangle(-50, -50, 50, 50), disc({0, 0}, 10, 2000)});
        Line around;
        for (int i = 0; i <= 40; ++i) around.push_back(10.0 * Vec2(std::cos(2 * kPi * i / 40), std::sin(2 * kPi * i / 40)));
        const Line across{{-30, 1}, {30, 1}}, free{{-30, 20}, {30, 20}, {30, 30}};
        for (const Line& l : {around, across}) {
            const Line kept = keptInside(l, allowed);
            QVERIFY(kept.size() > l.size() && kept.front() == l.front() && kept.back() == l.back());
            for (std::size_t i = 1; i < kept.size(); ++i)
                for (int k = 0; k <= 20; ++k) {
                    const Vec2 p = kept[i - 1] + (kept[i] - kept[i - 1]) * k / 20.0;
                    QVERIFY2(p.norm() > 10.0 - 0.003, qPrintable(QString::number(p.norm(), 'f', 5)));
                }
        }
        QVERIFY(keptInside(free, allowed) == free);
        QVERIFY(keptInside({}, allowed).empty());
    }
    void theUnrolledSheetKeepsLengthsAndTurns() {
        const Sheet s = wrappedSheet({Vec3(5, 0, 0), Vec3::UnitX()}, 40.0);
        // Angle 0 toward Y, by the right hand about X: a quarter turn on lies at Z.
        QVERIFY((s.point({12, 0, 0}) - Vec3(12, 40, 0)).norm() < 1e-12);
        QVERIFY((s.point({12, s.fromDegrees(90), 0}) - Vec3(12, 0, 40)).norm() < 1e-12);
        QVERIFY((s.point({12, s.fromDegrees(90), -3}) - Vec3(12, 0, 37)).norm() < 1e-12);
        // Seen from outside, x to the right and y up: what is drawn is not mirrored.
        const Vec3 x = s.direction({0, 7, 0}, {1, 0}), y = s.direction({0, 7, 0}, {0, 1});
        QVERIFY((x.cross(y) - s.up({0, 7, 0})).norm() < 1e-12);
        test::Random random(13);
        for (int i = 0; i < 200; ++i) {
            const Vec3 flat(random.number(-50, 50), random.number(-3000, 3000), random.number(-20, 20));
            QVERIFY((s.flat(s.point(flat), flat.y()) - flat).norm() < 1e-9);
            const AxisPose p = s.pose(flat, {1.5, -2.5});
            QVERIFY((p.axis - s.up(flat)).norm() < 1e-12);
            QVERIFY(near((p.tip - s.point(flat)).norm(), std::hypot(1.5, 2.5), 1e-9));
        }
        QVERIFY(near(s.degrees(s.fromDegrees(-1234.5)), -1234.5, 1e-9));
    }
};

GYRE_TEST(TestRegion)

} // namespace test_region
#include "test_region.moc"
