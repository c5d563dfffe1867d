// The stock over the route: any place of it, from whatever was kept, is what cutting from the start gives.
#include "Program.h"
#include "Support.h"
#include "geom/Convex.h"
#include "job/Job.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/RouteStock.h"
#include "session/Session.h"

namespace test_route_stock {

using namespace gyre;

class TestRouteStock : public QObject {
    Q_OBJECT
    Workshop m_workshop{test::demoFile("").parent_path()};
    JobResults m_route; ///< of several operations on a turned block
    void fill(RouteStock& stock) const {
        for (const auto& r : m_route.operations) stock.add(r);
    }
    static bool same(const Stock& a, const Stock& b) {
        const TriangleMesh one = a.skin(), two = b.skin();
        return a.volume() == b.volume() && one.points == two.points && one.triangles == two.triangles && one.faces == two.faces;
    }

private slots:
    void initTestCase() {
        StageCache cache;
        Progress progress;
        m_route = computeJob(openJob(test::demoFile("barrel-work.gyre.json")).value(), m_workshop, cache, progress).value();
    }
    // Random places of a route of several operations, to and fro, from kept states or none: the same as cut from the start.
    void anyPlaceIsThatOfCuttingFromTheStart() {
        StageCache kept, moments, none(0);
        RouteStock stock(m_route.place, kept), bare(m_route.place, none);
        fill(stock);
        fill(bare);
        const auto& operations = stock.operations();
        QVERIFY(operations.size() >= 2);
        Progress progress;
        test::Random random(40);
        for (int i = 0; i < 5; ++i) {
            const auto which = static_cast<std::size_t>(random.integer(0, static_cast<int>(operations.size()) - 1));
            const Toolpath& path = *operations[which]->path();
            const auto location = static_cast<std::size_t>(random.integer(0, static_cast<int>(path.size())));
            const auto now = stock.at(which, location, moments, progress);
            QVERIFY(now.has_value());
            // By another way: everything before at once, then this path as far as it goes.
            Stock start = bare.after(0, progress).value()->stock;
            for (std::size_t k = 0; k <= which; ++k)
                QVERIFY(start
                            .remove({.path = *operations[k]->path(),
                                     .cutter = operations[k]->tool.cutter,
                                     .by = static_cast<std::uint16_t>(k + 1),
                                     .to = k < which ? SIZE_MAX : location},
                                    progress)
                            .has_value());
            QVERIFY(same(**now, start));
        }
        QVERIFY(moments.bytes() > 0);
        // The ends are those of the operations, and the volumes told per location add up.
        for (std::size_t k = 0; k < operations.size(); ++k) {
            const auto before = stock.after(k, progress).value(), after = stock.after(k + 1, progress).value();
            QVERIFY(same(**stock.at(k, operations[k]->path()->size(), moments, progress), after->stock));
            double sum = 0.0;
            for (const double v : after->taken) sum += v;
            QCOMPARE(after->taken.size(), operations[k]->path()->size());
            QVERIFY(std::abs(sum - (before->stock.volume() - after->stock.volume())) < 1e-3 * before->stock.volume());
            for (std::size_t i = 0; i < after->taken.size(); ++i)
                if (operations[k]->path()->rapid(i)) QCOMPARE(after->taken[i], 0.0);
        }
        QVERIFY(same(**stock.now(progress), stock.after(operations.size(), progress).value()->stock));
    }
    // A slot through a block, by its own formula: so much a minute within it, so much of the way in air on both sides.
    void whatCuttingIsLike() {
        const TriangleMesh block = skinOf(ConvexBody::box({-20, -15, 0}, {20, 15, 20}));
        Progress progress;
        StockAfter after{Stock::of({&block}, 0.25, progress).value(), {}};
        Cutter flat;
        flat.shape = CutterShape::Flat;
        flat.diameter = 8;
        flat.fluteLength = flat.shoulderLength = 30;
        Toolpath path;
        path.push({-40, 0, 12}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        for (int x = -79; x <= 80; ++x) path.push({0.5 * x, 0, 12}, Vec3::UnitZ(), Motion::Cut, 0, 600);
        path.push({40, 0, 40}, Vec3::UnitZ(), Motion::Retract, 0, kRapidFeed);
        QVERIFY(after.stock.remove({.path = path, .cutter = flat, .taken = &after.taken}, progress).has_value());
        const auto timeOf = [&](std::size_t i) { return 0.05 * static_cast<double>(i); }; // half a millimetre at 600 a minute
        const CutFigures f = cutFigures(path, after, timeOf);
        for (std::size_t i = 0; i < path.size(); ++i) {
            const double x = path.tip[i].x();
            if (std::abs(x) < 12 && path.motion[i] == Motion::Cut)
                QVERIFY2(std::abs(static_cast<double>(f.rate[i]) - 38.4) < 1.2, qPrintable(QString::number(f.rate[i])));
            if (x < -27 || x > 23 || path.motion[i] != Motion::Cut) QCOMPARE(f.rate[i], 0.0F);
        }
        QVERIFY(std::abs(f.most - 38.4) < 1.2 && std::abs(path.tip[f.mostAt].x()) < 20);
        QVERIFY(std::abs(f.cutting - 8.0) < 1e-9);
        QVERIFY2(std::abs(f.airWay - (16 + 20)) < 1.6 && std::abs(f.air - 0.1 * f.airWay) < 1e-9, qPrintable(QString::number(f.airWay)));
        // Across that slot with a wide cutter: a millimetre of air is too short to be sure of.
        StockAfter crossed{after.stock, {}};
        Cutter wide = flat;
        wide.diameter = 14;
        Toolpath across;
        across.push({0, -11.5, 13}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        for (int y = -114; y <= 115; ++y) across.push({0, 0.1 * y, 13}, Vec3::UnitZ(), Motion::Cut, 0, 600);
        QVERIFY(crossed.stock.remove({.path = across, .cutter = wide, .taken = &crossed.taken}, progress).has_value());
        QCOMPARE(cutFigures(across, crossed, [](std::size_t i) { return 0.01 * static_cast<double>(i); }).airWay, 0.0);
        // Once more along the same way: all of it is air.
        StockAfter again{after.stock, {}};
        QVERIFY(again.stock.remove({.path = path, .cutter = flat, .taken = &again.taken}, progress).has_value());
        const CutFigures none = cutFigures(path, again, timeOf);
        QVERIFY(none.most == 0.0 && std::abs(none.air - none.cutting) < 1e-9);
    }
    // A word that changes gives another key: what was kept for the old one is not shown for the new.
    void nothingStaleIsShown() {
        StageCache kept, moments;
        RouteStock stock(m_route.place, kept);
        fill(stock);
        Progress progress;
        const auto n = stock.operations().front()->path()->size();
        const double before = stock.at(0, n / 2, moments, progress).value()->volume();
        auto other = std::make_shared<OperationResult>(*stock.operations().front());
        other->tool.cutter.diameter *= 0.5;
        other->key ^= 1;
        RouteStock changed(m_route.place, kept);
        changed.add(other);
        QVERIFY(changed.at(0, n / 2, moments, progress).value()->volume() > before);
        QCOMPARE(stock.at(0, n / 2, moments, progress).value()->volume(), before);
        // Nor what was kept for an operation that is the same, behind another.
        changed.add(stock.operations()[1]);
        const auto middle = stock.operations()[1]->path()->size() / 2;
        const double behind = stock.at(1, middle, moments, progress).value()->volume();
        QVERIFY(changed.at(1, middle, moments, progress).value()->volume() > behind + 1.0);
    }
    void withoutStockThereIsNone() {
        auto bare = std::make_shared<Workplace>(*m_route.place);
        std::erase_if(bare->bodies, [](const PlacedBody& b) { return b.role == "stock"; });
        StageCache kept, moments;
        RouteStock stock(bare, kept);
        fill(stock);
        Progress progress;
        QVERIFY(!stock.now(progress) && !stock.at(0, 5, moments, progress));
        QVERIFY(!stock.now(progress).error().remedy.empty());
    }
    // Called off: no state, and nothing that is half done is kept.
    void calledOffNothingIsKept() {
        StageCache kept, moments;
        RouteStock stock(m_route.place, kept);
        fill(stock);
        Progress off, progress;
        off.cancel();
        QVERIFY(!stock.now(off) && stock.now(off).error().cancelled);
        QCOMPARE(kept.bytes(), 0u);
        QVERIFY(stock.after(1, progress).has_value());
        const std::size_t whole = kept.bytes();
        QVERIFY(!stock.at(1, 50, moments, off));
        QVERIFY(kept.bytes() == whole && moments.bytes() == 0);
    }
};

GYRE_TEST(TestRouteStock)

} // namespace test_route_stock
#include "test_route_stock.moc"
