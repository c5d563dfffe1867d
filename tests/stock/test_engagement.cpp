// What the cutter stands in, against closed forms: slots, half and narrow cuts, depths, chips, plunges, leaning cutters, air.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "geom/Convex.h"
#include "stock/CutFeed.h"

namespace test_engagement {

using namespace gyre;
using test::near;
using namespace gyre::test;

namespace {

TriangleMesh block(const Vec3& low, const Vec3& high) { return skinOf(ConvexBody::box(low, high), 8); }

Stock blockOf(const Vec3& low, const Vec3& high, double cell) {
    const TriangleMesh mesh = block(low, high);
    Progress progress;
    return Stock::of({&mesh}, cell, progress).value();
}

Cutter cutterOf(CutterShape shape, double diameter, double corner = 0.0) {
    Cutter c;
    c.shape = shape;
    c.diameter = diameter;
    c.cornerRadius = corner;
    c.fluteLength = c.shoulderLength = 20.0;
    c.overallLength = 80.0;
    c.flutes = 2;
    return c;
}

/// A straight cut along X at y, at a depth below the top at z = 0, with the axis leaning by `lean` degrees across.
Toolpath way(double y, double z, double feed = 600.0, double lean = 0.0) {
    const Vec3 axis(0, std::sin(radians(lean)), std::cos(radians(lean)));
    Toolpath path;
    path.push({-60, y, z}, axis, Motion::Rapid, 0, 0.0);
    path.push({40, y, z}, axis, Motion::Cut, 0, feed);
    return path;
}

Engagement of(Stock stock, const Toolpath& path, const Cutter& c, double spindle = 6000.0) {
    Progress progress;
    return engagement(std::move(stock), path, c, spindle, progress).value();
}

} // namespace

class TestEngagement : public QObject {
    Q_OBJECT
private slots:
    // A full slot 180°, half of it 90°, else acos(1 − ae/R); chips as thick as the feed of a tooth as soon as the middle of the cutter is in.
    void widthsOfCut_data() {
        QTest::addColumn<double>("width");
        for (const double width : {10.0, 7.5, 5.0, 3.0, 1.0, 0.4}) QTest::newRow(qPrintable(QString::number(width))) << width;
    }
    void widthsOfCut() {
        QFETCH(double, width);
        const double radius = 5.0, tooth = 600.0 / (6000.0 * 2);
        // The block's side lies at y = 0; the cutter reaches so far beyond it.
        const Stock stock = blockOf({-50, 0, -12}, {20, 24, 0}, 0.1);
        const Engagement e = of(stock, way(width - radius, -4.0), cutterOf(CutterShape::Flat, 2 * radius));
        const double angle = width >= 2 * radius ? 180.0 : degrees(std::acos(1.0 - width / radius));
        QVERIFY2(near(e.most.angle, angle, 2.0), qPrintable(QString("%1 for %2").arg(e.most.angle).arg(angle)));
        QVERIFY2(near(e.most.deep, 4.0, 0.2), qPrintable(QString::number(e.most.deep)));
        const double chip = tooth * (width >= radius ? 1.0 : std::sin(radians(angle)));
        QVERIFY2(near(e.most.chip, chip, 0.04 * tooth), qPrintable(QString("%1 for %2").arg(e.most.chip).arg(chip)));
    }
    // A second cut beside the first, by a step: what the first has taken counts no more.
    void besideTheLastCut() {
        const Stock stock = blockOf({-50, -40, -20}, {50, 40, 0}, 0.2);
        Toolpath path = way(0, -3.0);
        path.tip[1].x() = 60; // out on the other side
        path.push({60, 0, 20}, Vec3::UnitZ(), Motion::Retract, 0, 0.0);
        path.push({-60, 2.5, 20}, Vec3::UnitZ(), Motion::Rapid, 1, 0.0);
        path.push({-60, 2.5, -3}, Vec3::UnitZ(), Motion::Rapid, 1, 0.0);
        path.push({40, 2.5, -3}, Vec3::UnitZ(), Motion::Cut, 1, 600.0);
        const Engagement e = of(stock, path, cutterOf(CutterShape::Flat, 10));
        QVERIFY2(near(e.at[1].angle, 180.0, 2.0) && e.angleAt == 1, qPrintable(QString::number(e.at[1].angle)));
        QVERIFY2(near(e.at[5].angle, degrees(std::acos(1.0 - 2.5 / 5.0)), 2.5), qPrintable(QString::number(e.at[5].angle)));
        for (const std::size_t i : {0u, 2u, 3u, 4u}) QVERIFY(e.at[i].angle == 0.0F && e.at[i].chip == 0.0F);
        // The same way once more: air.
        Toolpath again = path;
        again.append(path);
        const Engagement air = of(stock, again, cutterOf(CutterShape::Flat, 10));
        QVERIFY2(air.at[path.size() + 1].angle < 2.0F && air.at[path.size() + 5].angle < 2.0F, qPrintable(QString::number(air.at[path.size() + 1].angle)));
    }
    // A ball in the full: half of its round, as deep as it is in; straight down a drill's whole round.
    void ballsAndPlunges() {
        const Stock stock = blockOf({-50, -40, -30}, {50, 40, 0}, 0.2);
        const Engagement ball = of(stock, way(0, -2.0), cutterOf(CutterShape::Ball, 10));
        QVERIFY2(near(ball.most.angle, 180.0, 4.0) && near(ball.most.deep, 2.0, 0.2), qPrintable(QString("%1 %2").arg(ball.most.angle).arg(ball.most.deep)));
        Toolpath down;
        down.push({0, 0, 5}, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
        down.push({0, 0, -10}, Vec3::UnitZ(), Motion::Plunge, 0, 200.0);
        const Engagement flat = of(stock, down, cutterOf(CutterShape::Flat, 8), 4000.0);
        QVERIFY2(near(flat.most.angle, 360.0, 4.0) && near(flat.most.chip, 200.0 / 8000.0, 1e-4), qPrintable(QString("%1 %2").arg(flat.most.angle).arg(flat.most.chip)));
    }
    // Round and square pockets, a step deeper than before: their walls stand beside the cutter, on bends too, and are not cut.
    void wallsThatStayAreNotCut() {
        for (const int kind : {0, 1, 2, 3}) {
            const bool round = kind < 2, coarse = kind % 2 != 0;
            const Stock stock = blockOf({-25, -25, -20}, {25, 25, 0}, coarse ? 0.5 : 0.2);
            Toolpath path;
            for (const double z : {-8.0, -10.0}) {
                path.push({8, 0, 10}, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
                const double first = z > -9.0 ? 600.0 : 300.0; // told apart by their feeds
                path.push({8, 0, z}, Vec3::UnitZ(), Motion::Plunge, 0, 100.0);
                constexpr int kSteps = 120;
                if (round)
                    for (int i = 1; i <= kSteps; ++i)
                        path.push({8 * std::cos(2 * kPi * i / kSteps), 8 * std::sin(2 * kPi * i / kSteps), z}, Vec3::UnitZ(), Motion::Cut, 0, first);
                else
                    for (const auto& [x, y] : {std::pair(8, 8), {-8, 8}, {-8, -8}, {8, -8}, {8, 0}})
                        path.push({double(x), double(y), z}, Vec3::UnitZ(), Motion::Cut, 0, first);
            }
            const Engagement e = of(stock, path, cutterOf(CutterShape::Flat, coarse ? 6 : 10));
            for (std::size_t i = 0; i < path.size(); ++i)
                if (path.motion[i] == Motion::Cut && path.feed[i] == 300.0F)
                    QVERIFY2(e.at[i].deep < (coarse ? 2.8F : 2.3F), qPrintable(QString("%1: %2 mm, %3°").arg(i).arg(e.at[i].deep).arg(e.at[i].angle)));
        }
    }
    // The same cut in a block that is turned with the tool: the figures stay.
    void leaningChangesNothing() {
        Random random(37);
        const double angle = degrees(std::acos(1.0 - 3.0 / 5.0)), cell = degrees(0.1 / 5.0); // half a cell to either side
        for (int i = 0; i < 4; ++i) {
            const Mat3 turn = Eigen::AngleAxisd(random.number(0.2, 1.2), random.direction()).toRotationMatrix();
            TriangleMesh mesh = block({-40, 0, -15}, {40, 30, 0});
            for (Vec3& p : mesh.points) p = turn * p;
            Progress progress;
            const Stock stock = Stock::of({&mesh}, 0.2, progress).value();
            Toolpath path = way(3.0 - 5.0, -4.0);
            for (std::size_t k = 0; k < path.size(); ++k) {
                path.tip[k] = turn * path.tip[k];
                path.axis[k] = turn * path.axis[k];
            }
            const Engagement e = of(stock, path, cutterOf(CutterShape::Flat, 10));
            // The most of many places: noise of a cell counts upwards alone.
            QVERIFY2(e.most.angle > angle - 2.0 && e.most.angle < angle + 4.0 * cell + 2.0, qPrintable(QString("%1 for %2").arg(e.most.angle).arg(angle)));
            QVERIFY2(near(e.most.deep, 4.0, 0.45), qPrintable(QString::number(e.most.deep)));
        }
    }
    // Random widths and depths with corner radii, by plain geometry.
    void randomCuts() {
        Random random(41);
        for (int i = 0; i < 12; ++i) {
            const double diameter = random.number(4, 16), corner = random.number(0.2, 0.45 * diameter), radius = 0.5 * diameter,
                         width = random.number(0.1, 1.0) * diameter, depth = random.number(1.0, 8.0);
            const Stock stock = blockOf({-60, 0, -20}, {60, 40, 0}, 0.2);
            const Engagement e = of(stock, way(width - radius, -depth), cutterOf(CutterShape::CornerRadius, diameter, corner));
            // At the heights where most of it is in the block, for widths half a cell to either side.
            const auto anglesFor = [&](double beyond) {
                std::vector<std::pair<double, double>> all; // lengths and angles
                for (int k = 1; k <= 400; ++k) {
                    const double z = depth * k / 400.0, r = z >= corner ? radius : radius - corner + std::sqrt(corner * corner - (corner - z) * (corner - z));
                    const double at = beyond >= r ? 180.0 : beyond <= -r ? 0.0 : 90.0 + degrees(std::asin(beyond / r));
                    all.emplace_back(r * at, at);
                }
                const double longest = std::max_element(all.begin(), all.end())->first;
                double least = 1e300, most = 0.0;
                for (const auto& [length, angle] : all) {
                    if (length >= 0.97 * longest) least = std::min(least, angle);
                    if (length >= 0.87 * longest) most = std::max(most, angle);
                }
                return std::pair(least, most);
            };
            const double low = anglesFor(width - radius - 0.1).first, high = anglesFor(width - radius + 0.1).second, wanted = anglesFor(width - radius).first;
            // Skims thinner than what cells tell at the side are told as wide as that.
            QVERIFY2(e.most.angle > low - 3.0 && e.most.angle < std::max(high, 14.1) + 4.0,
                     qPrintable(QString("Ø%1 r%2 ae %3 ap %4: %5 for %6").arg(diameter).arg(corner).arg(width).arg(depth).arg(e.most.angle).arg(wanted)));
            // Low down the corner may not reach the block; a skim thinner than half a cell, or of less than 15°, may be missed.
            const auto lowest = [&](double skim) {
                double z = 0.0;
                while (z < std::min(depth, corner) && radius - corner + std::sqrt(corner * corner - (corner - z) * (corner - z)) < radius - width + skim) z += 0.01;
                return z;
            };
            if (wanted > 30.0)
                QVERIFY2(e.most.deep > depth - lowest(0.1 + 0.035 * radius) - 0.3 && e.most.deep < depth - lowest(0.0) + 0.3,
                         qPrintable(QString("%1 for %2").arg(e.most.deep).arg(depth - lowest(0.0))));
        }
    }
    // Chips are kept as thick as a tooth's feed: 1 in a slot and in half of one, 1/sin of the engaged angle beside a narrow cut; slower in proportion
    // where the round stands further in than it may; within what is allowed, always.
    void feedOfKnownCuts_data() {
        QTest::addColumn<double>("width");
        QTest::addColumn<double>("engaged");
        QTest::addColumn<double>("chip");
        QTest::addColumn<double>("share");
        const double narrow = 1.0 / std::sin(std::acos(1.0 - 1.0 / 5.0));
        QTest::newRow("slot") << 10.0 << 0.0 << 0.0 << 1.0;
        QTest::newRow("half") << 5.0 << 0.0 << 0.0 << 1.0;
        QTest::newRow("narrow") << 1.0 << 0.0 << 0.0 << narrow;
        QTest::newRow("slot, too wide") << 10.0 << 120.0 << 0.0 << 120.0 / 180.0;
        QTest::newRow("slot, far too wide") << 10.0 << 60.0 << 0.0 << 0.5;
        QTest::newRow("narrow, thin chips") << 1.0 << 0.0 << 0.04 << 0.04 / 0.05 * narrow;
    }
    void feedOfKnownCuts() {
        QFETCH(double, width);
        QFETCH(double, engaged);
        QFETCH(double, chip);
        QFETCH(double, share);
        Assembly tool;
        tool.cutter = cutterOf(CutterShape::Flat, 10.0);
        tool.spindleSpeed = 6000.0;
        tool.feedPerTooth = 0.05;
        tool.limits = {engaged, 0.0, chip};
        const Toolpath path = way(width - 5.0, -4.0);
        const Engagement e = of(blockOf({-50, 0, -12}, {20, 24, 0}, 0.1), path, tool.cutter);
        const CutFeed fed = feedByCut(path, e, tool, {true, 50.0, 200.0});
        QVERIFY2(near(fed.share[1], share, 0.05 * share), qPrintable(QString("%1 for %2").arg(fed.share[1]).arg(share)));
        QVERIFY(fed.share[0] == 1.0F && fed.least == fed.most && near(fed.most, fed.share[1], 1e-6));
        QVERIFY(near(feedByCut(path, e, tool, {true, 95.0, 105.0}).share[1], std::clamp(share, 0.95, 1.05), 1e-6) || near(share, 1.0, 0.05));
    }
    // By another way: the share of a place is the least that any place of the same cut asks for, grown by how far that is. Random paths and engagements.
    void feedIsTheLeastAroundIt() {
        test::Random random(20271129);
        for (int round = 0; round < 200; ++round) {
            Assembly tool;
            tool.cutter = cutterOf(CutterShape::Flat, random.number(1, 20));
            tool.feedPerTooth = random.number(0.01, 0.1);
            tool.limits = {random.number(0, 1) < 0.5 ? 0.0 : random.number(20, 200), random.number(0, 1) < 0.5 ? 0.0 : random.number(0.1, 9),
                           random.number(0, 1) < 0.5 ? 0.0 : random.number(0.01, 0.1)};
            const FeedByCut words{true, random.number(5, 100), random.number(100, 500)};
            Toolpath path;
            Engagement e;
            const auto n = static_cast<std::size_t>(random.number(1, 80));
            std::vector<double> way{0.0}, asked;
            for (std::size_t i = 0; i < n; ++i) {
                const Motion motion = random.number(0, 1) < 0.1 ? Motion::Rapid : random.number(0, 1) < 0.1 ? Motion::LeadIn : Motion::Cut;
                path.push({random.number(-1, 1), random.number(-1, 1), i * random.number(0, 1)}, Vec3::UnitZ(), motion, 0, 500.0);
                const bool air = random.number(0, 1) < 0.2;
                e.at.push_back(
                    air ? Engaged()
                        : Engaged{static_cast<float>(random.number(1, 360)), static_cast<float>(random.number(0.1, 9)), static_cast<float>(random.number(0.002, 0.1))});
                if (i > 0) way.push_back(way.back() + (path.tip[i] - path.tip[i - 1]).norm());
                const Engaged& k = e.at.back();
                double share = 1.0;
                if (!air && motion != Motion::Rapid) {
                    share = tool.feedPerTooth / static_cast<double>(k.chip);
                    if (tool.limits.chip > 0.0) share = std::min(share, tool.limits.chip / static_cast<double>(k.chip));
                    if (tool.limits.engaged > 0.0 && static_cast<double>(k.angle) > tool.limits.engaged)
                        share = std::min(share, tool.limits.engaged / static_cast<double>(k.angle));
                    if (tool.limits.deep > 0.0 && static_cast<double>(k.deep) > tool.limits.deep) share = std::min(share, tool.limits.deep / static_cast<double>(k.deep));
                    share = std::clamp(share, 0.01 * words.least, motion == Motion::Cut ? 0.01 * words.most : 1.0);
                }
                asked.push_back(share);
            }
            const CutFeed fed = feedByCut(path, e, tool, words);
            for (std::size_t i = 0; i < n; ++i) {
                double least = asked[i];
                const auto at = [&](std::size_t k) { least = std::min(least, asked[k] * std::pow(2.0, std::abs(way[i] - way[k]) / (0.5 * tool.cutter.diameter))); };
                if (path.motion[i] != Motion::Rapid) {
                    for (std::size_t k = i; k-- > 0 && path.motion[k] != Motion::Rapid;) at(k);
                    for (std::size_t k = i + 1; k < n && path.motion[k] != Motion::Rapid; ++k) at(k);
                }
                QVERIFY2(near(fed.share[i], least, 1e-5 * least), qPrintable(QString("round %1, %2: %3 for %4").arg(round).arg(i).arg(fed.share[i]).arg(least)));
            }
        }
    }
    // Through a step in the block: shallow, deep, shallow again. The deep stretch is told where it is, and nothing else.
    void heavyStretches() {
        TriangleMesh low = block({-50, -20, -12}, {50, 20, -6});
        const TriangleMesh high = block({-10, -20, -12}, {15, 20, 0});
        Progress progress;
        const Stock stock = Stock::of({&low, &high}, 0.2, progress).value();
        Toolpath path;
        path.push({-60, 0, -8}, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
        for (int i = 0; i <= 240; ++i) path.push({-60 + 0.5 * i, 0, -8}, Vec3::UnitZ(), Motion::Cut, 0, 600.0);
        const Engagement e = of(stock, path, cutterOf(CutterShape::Flat, 10));
        const auto at = [&](std::size_t i) { return path.tip[i].x(); };
        const std::vector<HeavyCut> deep = heavyCuts(path, e, {0.0, 5.0, 0.0}, {});
        QCOMPARE(deep.size(), std::size_t(1));
        QVERIFY(deep[0].what == HeavyCut::What::Deep && near(deep[0].amount, 8.0, 0.3) && deep[0].limit == 5.0 && !deep[0].slowed);
        // The cutter's round comes to the step 5 before its middle does; the sides of a step that it leaves are cut until the middle is there.
        QVERIFY2(near(at(deep[0].first), -15.0, 1.5) && near(at(deep[0].last), 15.0, 1.5), qPrintable(QString("%1 to %2").arg(at(deep[0].first)).arg(at(deep[0].last))));
        QVERIFY(heavyCuts(path, e, {0.0, 8.5, 0.0}, {}).empty() && heavyCuts(path, e, {}, {}).empty() && heavyCuts(path, e, {181.0, 0.0, 0.051}, {}).empty());
        const std::vector<HeavyCut> all = heavyCuts(path, e, {90.0, 5.0, 0.04}, {});
        QCOMPARE(all.size(), std::size_t(3));
        QVERIFY(near(all[0].amount, 180.0, 2.0) && near(all[2].amount, 0.05, 0.001) && at(all[0].first) < -48.0 && at(all[0].last) > 44.0);
        // Wherever the places lie that are looked at, what is heavy is not told later than it begins.
        for (int phase = 0; phase < 13; ++phase) {
            Toolpath shifted;
            shifted.push({-60 + 0.1 * phase, 0, -8}, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
            for (int i = 0; i <= 600; ++i) shifted.push({-60 + 0.1 * phase + 0.2 * i, 0, -8}, Vec3::UnitZ(), Motion::Cut, 0, 600.0);
            const auto cuts = heavyCuts(shifted, of(stock, shifted, cutterOf(CutterShape::Flat, 10)), {0.0, 5.0, 0.0}, {});
            QCOMPARE(cuts.size(), std::size_t(1));
            const double first = shifted.tip[cuts[0].first].x();
            QVERIFY2(first < -14.9 && first > -16.9, qPrintable(QString("phase %1: from %2").arg(phase).arg(first)));
        }
        // Slow enough all along, and not for one place.
        std::vector<float> share(path.size(), 0.6F);
        QVERIFY(heavyCuts(path, e, {0.0, 5.0, 0.0}, share)[0].slowed);
        share[deep[0].worst] = 0.9F;
        QVERIFY(!heavyCuts(path, e, {0.0, 5.0, 0.0}, share)[0].slowed);
    }
};

GYRE_TEST(TestEngagement)

} // namespace test_engagement
#include "test_engagement.moc"
