// What of a part still lies under stock, by area: by hand, and against plain looking at random places.
#include "Program.h"
#include "Support.h"
#include "geom/Convex.h"
#include "session/StandingAreas.h"

namespace test_standing_areas {

using namespace gyre;
using namespace gyre::test;

class TestStandingAreas : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path at() const { return m_dir.path().toStdString(); }
    static Stock blockOf(const Vec3& low, const Vec3& high, double cell) {
        Progress progress;
        const TriangleMesh mesh = skinOf(ConvexBody::box(low, high));
        return Stock::of({&mesh}, cell, progress).value();
    }
    static void cut(Stock& stock, const Cutter& cutter, const std::vector<Vec3>& tips, std::uint16_t by, const Vec3& axis = Vec3::UnitZ()) {
        Toolpath path;
        for (const Vec3& tip : tips) path.push(tip, axis, path.size() == 0 ? Motion::Rapid : Motion::Cut, 0, 100);
        Progress progress;
        QVERIFY(stock.remove({.path = path, .cutter = cutter, .by = by}, progress).has_value());
    }
    static std::vector<StandingArea> areasOf(const Stock& stock, const Part& part, double more = 0.1) {
        Progress progress;
        return standingAreas(stock, part, more, progress).value();
    }
    static bool about(double a, double b, double by) {
        if (std::abs(a - b) <= by) return true;
        qWarning("%f is not %f to %f", a, b, by);
        return false;
    }

private slots:
    // Raw over the top alone, 2 mm: its area is the top's, nobody has cut there. Half of it cut down to 0.3: two areas, each with its own.
    void aTopThatIsHalfCut() {
        const auto part = openPart(boxStep(at(), 40, 30, 20));
        const Box box = part->mesh().bounds();
        for (const double cell : {0.5, 0.31}) {
            Stock stock = blockOf(box.low, box.high + Vec3(0, 0, 2), cell);
            auto told = areasOf(stock, *part);
            QCOMPARE(told.size(), std::size_t(1));
            QVERIFY(about(told[0].area, 40 * 30, 2.0 * cell * 140) && about(told[0].worst.mm, 2.0, 1e-4));
            QVERIFY(told[0].worst.by == 0 && told[0].faces == std::vector<int>{faceTowards(*part, Vec3::UnitZ())});
            QVERIFY((told[0].worst.outward - Vec3::UnitZ()).norm() < 1e-6 && about(told[0].worst.at.z(), box.high.z() + 2.0, 1e-4));
            const double x = box.low.x() + 10.0; // Ø20 over the left half
            cut(stock, flatTool(20, 30).cutter, {{x, box.low.y() - 15, box.high.z() + 0.3}, {x, box.high.y() + 15, box.high.z() + 0.3}}, 4);
            told = areasOf(stock, *part);
            QCOMPARE(told.size(), std::size_t(2));
            QVERIFY(told[0].worst.by == 0 && about(told[0].worst.mm, 2.0, 1e-4) && about(told[0].area, 20 * 30, 2.0 * cell * 100));
            QVERIFY(told[1].worst.by == 4 && about(told[1].worst.mm, 0.3, 1e-3) && about(told[1].area, 20 * 30, 2.0 * cell * 100));
            QVERIFY(areasOf(stock, *part, 0.4).size() == 1 && areasOf(stock, *part, 2.5).empty());
            cut(stock, flatTool(20, 30).cutter, {{x, box.low.y() - 15, box.high.z()}, {x, box.high.y() + 15, box.high.z()}}, 5);
            cut(stock, flatTool(20, 30).cutter, {{x + 20, box.low.y() - 15, box.high.z()}, {x + 20, box.high.y() + 15, box.high.z()}}, 5);
            QVERIFY(areasOf(stock, *part, 0.05).empty());
        }
    }
    // A pocket that is still full: floor, walls and fillets lie under stock; along its walls as far as the other one. With the floor cut to its level nothing of it
    // counts, and no wall that stands beside it is taken for stock.
    void aPocketThatIsFull() {
        const auto part = openPart(filletedPocket(at()));
        const Box box = part->mesh().bounds();
        const Stock full = blockOf(box.low, box.high, 0.4);
        double under = 0.0;
        for (const StandingArea& a : areasOf(full, *part)) {
            QCOMPARE(a.worst.by, 0);
            QVERIFY(a.worst.mm < 60.0);
            under += a.area;
        }
        double inside = 0.0; // all that is no outer side
        const TriangleMesh& mesh = part->mesh();
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            const Vec3 middle = (mesh.corner(t, 0) + mesh.corner(t, 1) + mesh.corner(t, 2)) / 3.0;
            const bool outer = ((middle - box.low).array() < 1e-6).any() || ((box.high - middle).array() < 1e-6).any();
            if (!outer) inside += 0.5 * (mesh.corner(t, 1) - mesh.corner(t, 0)).cross(mesh.corner(t, 2) - mesh.corner(t, 0)).norm();
        }
        QVERIFY2(about(under, inside, 0.05 * inside), "all of the pocket");
    }
    // So it is where the outer sides have been cut: behind the walls of the full pocket the stock ends where nobody of the pocket has been.
    void behindTheWallsOfAFullPocket() {
        const auto part = openPart(filletedPocket(at()));
        const Box box = part->mesh().bounds();
        Stock stock = blockOf(box.low - Vec3(2, 2, 0), box.high + Vec3(2, 2, 0), 0.4);
        const Cutter mill = flatTool(10, 60).cutter;
        for (const double side : {-1.0, 1.0}) {
            const double x = side < 0 ? box.low.x() - 5 : box.high.x() + 5, y = side < 0 ? box.low.y() - 5 : box.high.y() + 5;
            cut(stock, mill, {{x, box.low.y() - 20, box.low.z()}, {x, box.high.y() + 20, box.low.z()}}, 3);
            cut(stock, mill, {{box.low.x() - 20, y, box.low.z()}, {box.high.x() + 20, y, box.low.z()}}, 3);
        }
        double under = 0.0;
        for (const StandingArea& a : areasOf(stock, *part)) {
            // What another has left is the open side of a step: its faces end at a side that was cut.
            for (const int f : a.worst.by == 0 ? std::vector<int>() : a.faces) {
                bool ends = false;
                for (std::size_t t = 0; t < part->mesh().triangles.size(); ++t)
                    for (int k = 0; k < 3 && part->mesh().faces[t] == f; ++k) {
                        const Vec3& p = part->mesh().corner(t, k);
                        ends = ends || (p - box.low).head<2>().minCoeff() < 1e-6 || (box.high - p).head<2>().minCoeff() < 1e-6;
                    }
                QVERIFY2(ends, qPrintable(QString("%1 mm² left by %2, face %3").arg(a.area).arg(a.worst.by).arg(f)));
            }
            if (a.worst.by == 0) under += a.area;
        }
        QVERIFY(under > 500.0);
    }
    // A part that is its own stock: nothing stands anywhere, whatever its shape.
    void nothingOverItself() {
        for (const auto& file : {filletedPocket(at()), drilledPlate(at()), plateWithCone(at(), 8, 4, 6), bossOnPlate(at(), 5.0), bossOnPlate(at(), 0.0)}) {
            const auto part = openPart(file);
            Progress progress;
            const TriangleMesh mesh = part->mesh();
            for (const double cell : {0.35, 0.5, 0.4, 1.0}) { // with some of them rays run just in the walls
                const Stock stock = Stock::of({&mesh}, cell, progress).value();
                for (const StandingArea& a : areasOf(stock, *part, 0.05))
                    QVERIFY2(false,
                             qPrintable(QString("%1 mm² under %2 at %3 %4 %5").arg(a.area).arg(a.worst.mm).arg(a.worst.at.x()).arg(a.worst.at.y()).arg(a.worst.at.z())));
            }
        }
    }
    // Random cuts by a ball over parts in a block: all areas together are what plain looking finds at random places of the part's surface.
    void againstPlainLooking() {
        Random random(4711);
        for (int round = 0; round < 6; ++round) {
            const auto part = openPart(round % 2 == 0 ? bossOnPlate(at(), random.number(2, 12)) : coneStep(at(), 20, 9, 25));
            const Box box = part->mesh().bounds();
            Stock stock = blockOf(box.low, box.high + Vec3(0, 0, random.number(0, 3)), 0.4);
            for (int k = 0; k < 12; ++k) {
                const auto any = [&] {
                    return Vec3(random.number(box.low.x(), box.high.x()), random.number(box.low.y(), box.high.y()), random.number(box.low.z(), box.high.z()));
                };
                cut(stock, ballTool(10, 60).cutter, {any(), any()}, static_cast<std::uint16_t>(k + 1));
            }
            const double more = 0.3;
            double told = 0.0;
            for (const StandingArea& a : areasOf(stock, *part, more)) told += a.area;
            const TriangleMesh& mesh = part->mesh();
            double all = 0.0, under = 0.0;
            for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
                const Vec3 u = mesh.corner(t, 1) - mesh.corner(t, 0), v = mesh.corner(t, 2) - mesh.corner(t, 0), across = u.cross(v);
                const double area = 0.5 * across.norm();
                const int n = std::max(3, static_cast<int>(area * 6.0));
                all += area;
                for (int i = 0; i < n; ++i) {
                    double s = random.number(0, 1), q = random.number(0, 1);
                    if (s + q > 1.0) {
                        s = 1.0 - s;
                        q = 1.0 - q;
                    }
                    const Vec3 p = mesh.corner(t, 0) + s * u + q * v, out = across.normalized();
                    // Material from the surface on; not in the part itself.
                    if (stock.inside(p + more * out) && stock.inside(p + 0.5 * more * out)) under += area / n;
                }
            }
            QVERIFY2(std::abs(told - under) < 0.05 * all, qPrintable(QString("round %1: %2 told, %3 seen, of %4").arg(round).arg(told).arg(under).arg(all)));
            QVERIFY(under > 0.05 * all);
        }
    }
};

GYRE_TEST(TestStandingAreas)

} // namespace test_standing_areas
#include "test_standing_areas.moc"
