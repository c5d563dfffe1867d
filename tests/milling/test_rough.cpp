// Roughing: how much of the cutter is in the cut, measured against formulas, brute force and a fine grid.
#include "Engagement.h"
#include "Loops.h"
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "milling/Channel.h"
#include "milling/Lines.h"
#include "milling/MillSpec.h"
#include "milling/Rough.h"
#include "milling/Steady.h"

namespace test_rough {

using namespace gyre;
using test::disc;
using test::near;
using test::rectangle;

class TestRough : public QObject {
    Q_OBJECT
private slots:
    // Straight, around the outside of a round, inside of one: the front is met where three sides of a triangle are known.
    void theContactIsThatOfTheFormulas() {
        test::Random random(31);
        for (int i = 0; i < 200; ++i) {
            const double r = random.number(1, 10), step = r * random.number(0.05, 0.95), turn = random.number(0, 2 * kPi);
            const Vec2 t(std::cos(turn), std::sin(turn)), n = leftOf(t), middle(random.number(-50, 50), random.number(-50, 50));
            // A straight border, the cleared half plane on the left of t.
            const Region half{{{middle - 200 * t, middle + 200 * t, middle + 200 * t + 200 * n, middle - 200 * t + 200 * n}}};
            const RimContact straight(half, r);
            const Vec2 c = middle + (r - step) * n;
            const double wanted = std::acos(1 - step / r);
            QVERIFY(near(straight.engaged(c), 2 * wanted, 1e-9));
            // Coming along t, the half behind has been cut already, up to asin(d/2r) behind the side.
            const double d = 0.01 * r;
            const Vec2 own[] = {c - d * t};
            QVERIFY(near(straight.engaged(c, own), wanted + std::asin(0.5 * d / r), 1e-9));
            // Far from all that stands, and in the full.
            QCOMPARE(straight.engaged(middle + 1.01 * r * n), 0.0);
            QVERIFY(near(straight.engaged(middle - 1.01 * r * n), 2 * kPi, 1e-12));
            // A round post of radius R, and the inside of a ring.
            const double R = r * random.number(0.3, 8.0), away = R + r - std::min(step, 1.5 * R), inside = R * random.number(1.05, 2.0) + r;
            const auto met = [&](double front, double at) { return std::acos(std::clamp((at * at + r * r - front * front) / (2 * at * r), -1.0, 1.0)); };
            const Region around = without({{rectangle(middle.x() - 200, middle.y() - 200, middle.x() + 200, middle.y() + 200)}}, {{disc(middle, R, 4000)}});
            QVERIFY(near(RimContact(around, r).engaged(middle + away * n), 2 * met(R, away), 0.01));
            const Region hole{{disc(middle, inside, 4000)}};
            const double at = inside - r + step;
            QVERIFY(near(RimContact(hole, r).engaged(middle + at * n), 2 * (kPi - met(inside, at)), 0.01));
        }
    }
    // Many random borders and ways: against looking at three thousand places of the rim.
    void theContactAgainstBruteForce() {
        test::Random random(32);
        for (int i = 0; i < 150; ++i) {
            std::vector<Loop> loops;
            for (int k = random.integer(1, 6); k > 0; --k) {
                Loop l;
                const Vec2 c(random.number(-12, 12), random.number(-12, 12));
                for (int q = 0, n = random.integer(3, 9); q < n; ++q) l.push_back(c + random.number(2, 9) * Vec2(std::cos(2 * kPi * q / n), std::sin(2 * kPi * q / n)));
                loops.push_back(l);
            }
            const Region cleared = regionOf(loops);
            const double r = random.number(1, 6);
            const RimContact contact(cleared, r);
            const Vec2 c(random.number(-10, 10), random.number(-10, 10));
            std::vector<Vec2> own;
            for (int k = random.integer(0, 4); k > 0; --k) own.push_back(c + r * Vec2(random.number(-1.5, 1.5), random.number(-1.5, 1.5)));
            int hit = 0;
            constexpr int kRound = 3000;
            for (int q = 0; q < kRound; ++q) {
                const Vec2 p = c + r * Vec2(std::cos(2 * kPi * (q + 0.5) / kRound), std::sin(2 * kPi * (q + 0.5) / kRound));
                hit += !cleared.contains(p) && std::all_of(own.begin(), own.end(), [&](const Vec2& o) { return (p - o).norm() > r; });
            }
            const double seen = 2 * kPi * hit / kRound, told = contact.engaged(c, own);
            QVERIFY2(near(told, seen, 0.03), qPrintable(QString("case %1: %2, seen %3").arg(i).arg(told).arg(seen)));
        }
    }
    // A straight front stays where it is; around the corner of a block the engagement stays, which the plain way does not do.
    void frontsAreLedAroundACorner() {
        const double r = 5, step = 1.5, wanted = std::acos(1 - step / r);
        const Region block{{rectangle(-60, -60, 0, 0)}}, window{{rectangle(-90, -90, 40, 40)}}, cleared = without(window, block);
        const RimContact standing(cleared, r);
        for (const bool right : {true, false}) {
            Line plain{{-50, r - step}, {0, r - step}};
            for (int i = 1; i <= 30; ++i) plain.push_back((r - step) * Vec2(std::sin(kPi * i / 60), std::cos(kPi * i / 60)));
            plain.push_back({r - step, -50});
            if (!right) std::reverse(plain.begin(), plain.end());
            const Line led = steadied(plain, standing, window, {r, step, wanted, right});
            const auto least = [&](const Line& l) {
                double low = 10.0;
                for (std::size_t i = 25; i + 45 < l.size(); ++i) {
                    const std::vector<Vec2> own(l.begin() + static_cast<std::ptrdiff_t>(i) - 25, l.begin() + static_cast<std::ptrdiff_t>(i));
                    const double e = standing.engaged(l[i], own) - std::asin(0.5 * (l[i] - l[i - 1]).norm() / r);
                    low = std::min(low, e);
                    if (e > 1.02 * wanted) qFatal("%.2f of %.2f", e, wanted);
                }
                return low;
            };
            QVERIFY(least(led) > 0.97 * wanted);
            Line even{plain.front()};
            for (const Vec2& p : plain)
                while ((p - even.back()).norm() > 0.5) even.push_back(even.back() + 0.5 * (p - even.back()).normalized());
            QVERIFY(least(even) < 0.1 * wanted); // it runs out of the material at the corner
            // Before the corner it runs straight. About the corner the rim's foremost point goes down the far side, x + r sin(θ + α) = 0:
            // that leads to 1.86 mm from the corner where the way has turned by 45°, and nearer since what the way itself has cut
            // just before is missing there too.
            for (const Vec2& p : led)
                if (right && p.x() < -6 && p.x() > -25) QVERIFY(near(p.y(), r - step, 0.02));
            double nearest = 1e300;
            for (const Vec2& p : led) nearest = std::min(nearest, p.norm());
            QVERIFY2(nearest > 0.6 && nearest < 1.86, qPrintable(QString::number(nearest)));
        }
    }
    // Whatever stands and wherever the cutter may be: the way stays there, and is never heavier than wanted but where it cannot give way.
    void ledFrontsStayWhereTheCutterMayBe() {
        test::Random random(33);
        int led = 0;
        for (int i = 0; i < 40; ++i) {
            const double r = random.number(2, 6), step = r * random.number(0.1, 0.6), wanted = std::acos(1 - step / r);
            Loop blob, forbidden;
            for (int q = 0; q < 12; ++q) {
                blob.push_back(random.number(18, 30) * Vec2(std::cos(kPi * q / 6), std::sin(kPi * q / 6)));
                forbidden.push_back(0.6 * random.number(10, 26) * Vec2(std::cos(kPi * q / 6), std::sin(kPi * q / 6)));
            }
            const Region window{{rectangle(-80, -80, 80, 80)}}, cleared = without(window, {{blob}}), allowed = without(window, grown({{forbidden}}, r));
            const RimContact standing(cleared, r);
            const Region middle = common(grown(grown(cleared, -1.4 * r + step, 0.01), 0.4 * r, 0.01), allowed);
            for (Loop l : middle.loops) {
                l.push_back(l.front());
                for (Line& p : linesInside({l}, grown({{blob}}, r))) {
                    if (p.size() < 3 || lengthOf(p) < 2 * r) continue;
                    if (senseOn(p, l) < 0) std::reverse(p.begin(), p.end());
                    const Line way = steadied(p, standing, allowed, {r, step, wanted, true});
                    ++led;
                    for (std::size_t k = 1; k < way.size(); ++k)
                        QVERIFY2(allowed.containsWay(way[k - 1], way[k]), qPrintable(QString("case %1: %2 %3").arg(i).arg(way[k].x()).arg(way[k].y())));
                }
            }
        }
        qInfo("%d fronts led", led);
        QVERIFY(led > 30);
    }
    // Random stock around random parts: the cutter never comes over the part, and what it could reach is gone or told.
    void randomLevelsAreClearedOrTold() {
        test::Random random(34);
        const auto blob = [&](const Vec2& c, double low, double high, int n) {
            Loop l;
            for (int i = 0; i < n; ++i) l.push_back(c + random.number(low, high) * Vec2(std::cos(2 * kPi * i / n), std::sin(2 * kPi * i / n)));
            return l;
        };
        test::Engaged all;
        for (int i = 0; i < 24; ++i) {
            const double r = random.number(2.0, 8.0), step = r * random.number(0.15, 0.7), wanted = std::acos(1 - step / r), leave = i % 2 ? 0.3 : 0.0;
            const Region stock = regionOf({i % 3 ? blob({35, 25}, 18, 38, 9) : rectangle(0, 0, 70, 50)});
            Region part = regionOf({blob({random.number(10, 60), random.number(10, 40)}, 2, 14, 8)});
            for (int k = random.integer(0, 3); k > 0; --k)
                part = united(part, regionOf({blob({random.number(0, 70), random.number(0, 50)}, 2, 12, random.integer(3, 8))}));
            if (i % 4 == 0) part = united(part, without({{rectangle(-60, -60, 130, 110)}}, regionOf({blob({35, 25}, 20, 30, 10)}))); // a pocket
            const Region material = without(stock, grown(part, leave)), allowed = without({{rectangle(-100, -100, 170, 150)}}, grown(part, r + leave));
            if (material.empty()) continue;
            MillSpec spec;
            spec.stepover = step;
            spec.climb = random.integer(0, 1) == 1;
            Progress progress;
            const LevelCleared made = clearLevel(allowed, material, r, step, 3, 0, spec, 0, progress);
            const Region legal = grown(allowed, 0.002);
            for (const FlatPass& p : made.passes)
                for (std::size_t k = 1; k < p.points.size(); ++k)
                    if (p.points[k].at.z() < 1.0 && p.points[k - 1].at.z() < 1.0)
                        QVERIFY2(legal.containsWay(p.points[k - 1].at.head<2>(), p.points[k].at.head<2>()),
                                 qPrintable(QString("case %1: %2 %3, %4").arg(i).arg(p.points[k].at.x()).arg(p.points[k].at.y()).arg(motionName(p.points[k].motion))));
            test::EngagementGrid grid(Vec2(-10, -15), Vec2(80, 70), 0.1, [&](const Vec2& p) { return material.contains(p); });
            const test::Engaged e = grid.run(made.passes, r, wanted);
            all.add(e);
            QCOMPARE(e.plunged, 0);
            QVERIFY2(e.rushed == 0.0, qPrintable(QString("case %1: %2 mm").arg(i).arg(e.rushed)));
            // What meets too much on the way in is cut, slower and told, and no way in.
            QVERIFY2(e.leading <= 1.2 * wanted + radians(8.0), qPrintable(QString("case %1: %2° of %3°").arg(i).arg(degrees(e.leading)).arg(degrees(wanted))));
            double told = 0.0;
            for (const Region& s : made.standing) told += s.area();
            const double cannot = material.area() - common(material, grown(allowed, r)).area(), left = grid.left() - cannot - told;
            QVERIFY2(left < 0.15 * r * r + 1.0,
                     qPrintable(QString("case %1: %2 mm² left of %3, %4 told, Ø%5").arg(i).arg(left).arg(material.area()).arg(told).arg(2 * r)));
        }
        all.tell("random levels, whatever was wanted", 0.0);
        QVERIFY2(all.heavy <= 0.015 * all.steady, qPrintable(QString::number(all.heavy / all.steady)));
        QVERIFY2(all.off <= 0.04 * all.steady, qPrintable(QString::number(all.off / all.steady)));
        QVERIFY2(all.air <= 0.03 * all.total(), qPrintable(QString::number(all.air / all.total())));
    }
    // A closed slot hardly wider than the cutter: no helix goes in, and that is told instead of being left out quietly.
    void whatCannotBeEnteredIsTold() {
        const double r = 5;
        const Region slot{{rectangle(0, 0, 60, 2 * r + 0.5)}};
        MillSpec spec;
        spec.stepover = 1.5;
        Progress progress;
        const LevelCleared made = clearLevel(grown(slot, -r), slot, r, 1.5, 3, 0, spec, 0, progress);
        QVERIFY(made.passes.empty());
        QCOMPARE(made.standing.size(), std::size_t{1});
        QVERIFY(made.standing.front().area() > 0.9 * slot.area());
        // Open at one end it is cut from there, in steps, wide as it is.
        const Region open{{rectangle(-30, r, 60 - r, r + 0.5)}};
        const LevelCleared reached = clearLevel(open, slot, r, 1.5, 3, 0, spec, 0, progress);
        QVERIFY(!reached.passes.empty() && reached.standing.empty());
    }
    // Between an island and a wall, hardly wider apart than the cutter: more than was asked for is met there, told with its length, and run
    // slower. Measured on a fine grid of our own: nowhere does a cut at full feed meet more than a fifth over what is wanted.
    void heavyCutsAreToldAndSlower() {
        const double r = 5, step = 1.5, wanted = std::acos(1 - step / r);
        for (const double gap : {10.5, 13.0, 17.0, 22.0}) {
            const Loop boss = disc({50, 35}, 20, 180);
            const double x = 70 + gap; // a wall beside the boss
            const Region part = united(regionOf({boss}), regionOf({rectangle(x, -20, x + 40, 90)}));
            const Region material = without(regionOf({rectangle(0, 0, x, 70)}), regionOf({boss}));
            const Region allowed = without({{rectangle(-40, -40, x + 40, 110)}}, grown(part, r));
            MillSpec spec;
            spec.stepover = step;
            Progress progress;
            const LevelCleared made = clearLevel(allowed, material, r, step, 3, 0, spec, 0, progress);
            test::EngagementGrid grid(Vec2(-10, -10), Vec2(150, 100), 0.1, [&](const Vec2& p) { return material.contains(p); });
            std::vector<FlatPass> full = made.passes;
            const test::Engaged e = grid.run(made.passes, r, wanted);
            qInfo("gap %.1f: %.0f of %.0f mm heavy, up to %.0f told; measured up to %.0f, at full feed %.0f over %.1f mm; %zu stay", gap, made.heavy, made.cut,
                  degrees(made.most), degrees(e.most), degrees(e.mostAtFull), e.heavyAtFull, made.standing.size());
            QVERIFY2(e.heavyAtFull <= 0.01 * e.total(), qPrintable(QString::number(e.heavyAtFull)));
            QVERIFY(made.heavy < 0.25 * made.cut);
            QCOMPARE(e.rushed, 0.0);
            QCOMPARE(e.plunged, 0);
        }
    }
    // A channel, straight or bent, hardly wider than the cutter and open at one end: loops keep what is met. Where they have no room it is
    // cut along its middle, with less feed. Nothing is left either way but what the cutter is too round for.
    void channelsKeepTheirAngle() {
        const double r = 5, step = 1.5, wanted = std::acos(1 - step / r);
        const double corner = (1 - kPi / 4) * r * r; // mm² in a corner that no cutter reaches
        for (const bool bent : {false, true})
            for (const double gap : bent ? std::vector<double>{10.5, 11, 13} : std::vector<double>{10.5, 12, 15}) {
                Region channel{{rectangle(0, 0, 60, gap)}};
                if (bent) channel = united(channel, Region{{rectangle(60 - gap, 0, 60, 40)}});
                const Region allowed = grown(united(channel, Region{{rectangle(-40, -40, 0, 60)}}), -r);
                MillSpec spec;
                spec.stepover = step;
                Progress progress;
                const LevelCleared made = clearLevel(allowed, channel, r, step, 3, 0, spec, 0, progress);
                test::EngagementGrid grid(Vec2(-2, -2), Vec2(62, 42), 0.1, [&](const Vec2& p) { return channel.contains(p); });
                const test::Engaged e = grid.run(made.passes, r, wanted);
                qInfo("%s gap %.1f: %.0f of %.0f mm heavy, up to %.0f told; measured up to %.0f, at full feed %.0f over %.1f mm; %zu stay, %zu passes, left %.1f",
                      bent ? "bent" : "straight", gap, made.heavy, made.cut, degrees(made.most), degrees(e.most), degrees(e.mostAtFull), e.heavyAtFull,
                      made.standing.size(), made.passes.size(), grid.left());
                QVERIFY(made.standing.empty());
                QVERIFY(grid.left() < (bent ? 3 : 2) * corner + 6.0);
                QCOMPARE(e.rushed, 0.0);
                QCOMPARE(e.plunged, 0);
                QVERIFY(e.heavyAtFull <= 0.01 * e.total());
                const bool room = 0.5 * gap - r > r / 12;
                if (room) QVERIFY2(made.heavy < (bent ? 0.015 : 0.01) * made.cut, qPrintable(QString::number(made.heavy)));
                // Straight on its length is what there is to cut at least, loops are many times that.
                QVERIFY(room ? made.cut > 8.0 * 60 : made.cut < 5.0 * (bent ? 90 : 60));
            }
    }
    // How far one loop lies from the next: as the formula says.
    void loopsOfAStraightChannel() {
        const double r = 5;
        for (const double room : {0.8, 1.5, 3.5})
            for (const double wanted : {30.0, 45.0, 70.0}) {
                const double half = r + room;
                const Region allowed{{rectangle(-60, -room, 60, room)}};
                const Region cleared =
                    united(Region{{rectangle(-80, -half, -20, half)}}, without(Region{{rectangle(-90, -40, 90, 40)}}, Region{{rectangle(-85, -half, 60 + r, half)}}));
                Progress progress;
                const ChannelWay made = throughChannel(Vec2(-25 + room, 0), Vec2::UnitX(), allowed, cleared, {r, radians(wanted), true, 0.002}, progress);
                QVERIFY(made.way.size() > 100);
                // Foremost places, one for each loop.
                std::vector<double> front;
                for (std::size_t i = 1; i + 1 < made.way.size(); ++i)
                    if (made.way[i].x() > made.way[i - 1].x() && made.way[i].x() >= made.way[i + 1].x() && made.way[i].x() > -10 && made.way[i].x() < 40)
                        front.push_back(made.way[i].x());
                QVERIFY(front.size() > 10);
                const double p = (front.back() - front.front()) / static_cast<double>(front.size() - 1);
                // What is met at the foremost place where all loops lie p apart.
                const double ahead = room + p, angle = std::acos((half * half - r * r - ahead * ahead) / (2 * r * ahead));
                QVERIFY2(degrees(angle) < 1.05 * wanted + 1.0 && degrees(angle) > 0.8 * wanted,
                         qPrintable(QString("%1 %2: %3").arg(room).arg(wanted).arg(degrees(angle))));
                QVERIFY(*std::max_element(made.angle.begin(), made.angle.end()) < radians(1.05 * wanted) + 1e-6);
            }
    }
    // A level of roughing: what is engaged is measured point by point on a fine grid.
    void roughingIsSteadyAndCutsLittleAir_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("a block around a boss") << 0;
        QTest::newRow("a closed pocket") << 1;
        QTest::newRow("open to one side") << 2;
        QTest::newRow("a wall across the block") << 3;
        QTest::newRow("a whole block") << 4;
        QTest::newRow("a block around a boss, conventional") << 5;
        QTest::newRow("a closed pocket, conventional") << 6;
    }
    void roughingIsSteadyAndCutsLittleAir() {
        QFETCH(int, kind);
        const bool climb = kind < 5;
        if (!climb) kind -= 5;
        const double r = 5, step = 1.5, wanted = std::acos(1 - step / r);
        const Loop boss = disc({60, 40}, 15, 180);
        const Region wall = regionOf({rectangle(40, 12, 48, 90)});
        Region material = kind == 0   ? regionOf({rectangle(0, 0, 120, 80), boss})
                          : kind == 3 ? without(regionOf({rectangle(0, 0, 90, 60)}), wall)
                                      : regionOf({rectangle(0, 0, 90, 60)});
        Region allowed = kind == 0   ? without(regionOf({rectangle(-30, -30, 150, 110)}), grown(regionOf({boss}), r))
                         : kind == 3 ? without(regionOf({rectangle(-30, -30, 120, 90)}), grown(wall, r))
                         : kind == 4 ? regionOf({rectangle(-30, -30, 120, 90)})
                         : kind == 1 ? regionOf({rectangle(r, r, 90 - r, 60 - r)})
                                     : regionOf({rectangle(-30, r, 90 - r, 60 - r)});
        MillSpec spec;
        spec.stepover = step;
        spec.climb = climb;
        Progress progress;
        const LevelCleared made = clearLevel(allowed, material, r, step, 3, 0, spec, 0, progress);
        QVERIFY(made.standing.empty());
        QVERIFY(!made.passes.empty());
        test::EngagementGrid grid(Vec2(-10, -10), Vec2(130, 90), 0.1, [&](const Vec2& p) { return material.contains(p); });
        const test::Engaged e = grid.run(made.passes, r, wanted);
        e.tell("roughing", wanted);
        qInfo("left %.2f mm², passes %zu", grid.left(), made.passes.size());
        // Nothing that runs low comes over where the part stands, whatever it is called.
        const Region legal = grown(allowed, 0.03);
        for (const FlatPass& p : made.passes)
            for (std::size_t i = 1; i < p.points.size(); ++i) {
                if (p.points[i].at.z() > 1.0 || p.points[i - 1].at.z() > 1.0) continue;
                const Vec2 a = p.points[i - 1].at.head<2>(), b = p.points[i].at.head<2>();
                for (double t = 0.0; t <= 1.0; t += 0.5 / std::max(0.5, (b - a).norm())) {
                    const Vec2 q = a + t * (b - a);
                    QVERIFY2(legal.contains(q), qPrintable(QString("%1 %2, %3").arg(q.x()).arg(q.y()).arg(motionName(p.points[i].motion))));
                }
            }
        QVERIFY2(e.air <= 0.01 * e.total(), qPrintable(QString::number(e.air / e.total())));
        // Along a wall less than a step may be left; nowhere else is the cut more than a fifth beside what is wanted.
        QVERIFY2(e.off <= (kind == 1 ? 0.025 : 0.008) * e.steady, qPrintable(QString::number(e.off / e.steady)));
        QVERIFY2(e.heavy <= 0.006 * e.steady, qPrintable(QString::number(e.heavy / e.steady)));
        QVERIFY2(e.most <= radians(115.0), qPrintable(QString::number(degrees(e.most))));
        QCOMPARE(e.rushed, 0.0);
        QVERIFY2(e.leading <= 1.2 * wanted, qPrintable(QString::number(degrees(e.leading))));
        QVERIFY(grid.left() < (kind == 0 || kind >= 3 ? 1.0 : 30.0));
    }
};

GYRE_TEST(TestRough)

} // namespace test_rough
#include "test_rough.moc"
