// Milling on a plane: pockets, open sides, bores, outlines, facing, roughing – measured against walls and stock that are known.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "job/StockShape.h"
#include "milling/Mill.h"
#include "milling/MillSpec.h"
#include "stock/Stock.h"

namespace test_mill {

using namespace gyre;
using test::near;

class TestMill : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_part;
    MillInput m_in;

    int faceAt(const Vec3& p, SurfaceKind kind = SurfaceKind::Plane) {
        for (std::size_t i = 0; i < m_part->faces().size(); ++i) {
            const FaceInfo& f = m_part->faces()[i];
            if (f.kind != kind) continue;
            const SurfacePoint s = m_part->project(static_cast<int>(i), p);
            if ((s.point - p).norm() < 1e-6 && f.bounds.distance(p) < 1e-6) return static_cast<int>(i);
        }
        return -1;
    }
    Result<MillResult> mill(const MillSpec& spec, const std::vector<int>& faces, const Assembly& tool, double leave = 0.0) {
        m_in.faces = faces;
        Progress progress;
        return millOn(m_in, spec, tool, leave, 0.005, 500, progress);
    }
    MillResult made(const MillSpec& spec, const std::vector<int>& faces, const Assembly& tool, double leave = 0.0) {
        auto r = mill(spec, faces, tool, leave);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    // Nothing of the cutter may enter the part by more than the tolerance: the drop from above stops at every location.
    double deepestIntrusion(const MillResult& r, const Assembly& tool) {
        double worst = 0.0;
        for (const Pass& p : r.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                const AxisPose high{p.path.tip[i] + 60.0 * p.path.axis[i], p.path.axis[i]};
                Cutter slim = tool.cutter;
                slim.diameter -= 0.008; // walls are touched: look a little inside
                const double stop = dropOnto(m_part->tree(), slim, high, 61.0);
                worst = std::max(worst, 60.0 - stop);
            }
        return worst;
    }

private slots:
    void initTestCase() {
        Progress progress;
        m_part = Part::open(test::milledBlock(m_dir.path().toStdString()), 0.005, progress).value();
        m_in.part = m_part.get();
        m_in.model = &m_part->tree();
        WorkPlane top{"top", Vec3(0, 0, 30), Vec3::UnitZ(), Vec3::UnitX()};
        m_in.planes = {top};
    }

    // A bore hardly wider than the cutter: no helix goes in, so roughing leaves it and says so; a smaller cutter clears it.
    void roughingTellsWhereItCannotComeDown() {
        StockShape block;
        block.low = Vec3::Zero();
        block.high = Vec3(100, 70, 32);
        const TriangleMesh mesh = block.mesh();
        Progress progress;
        const Stock stock = Stock::of({&mesh}, 0.5, progress).value();
        m_in.present = &stock;
        MillSpec spec;
        spec.shape = MillShape::Rough;
        spec.on = "top";
        spec.depthBy = MillDepth::Typed;
        spec.depth = 8;
        spec.stepdown = 5;
        spec.stepover = 3;
        const auto told = [&](double diameter) -> std::optional<Finding> {
            const MillResult r = made(spec, {}, test::flatTool(diameter, 30));
            for (const Finding& f : r.findings)
                if (f.code == "stock-stays") return f;
            return std::nullopt;
        };
        const auto wide = told(19.6);
        QVERIFY(wide && wide->rank == Rank::Look && wide->place);
        QVERIFY(std::hypot((*wide->place)[0] - 85, (*wide->place)[1] - 55) < 8);
        QVERIFY2(wide->text.find("one place") != std::string::npos || wide->text.find("places") != std::string::npos, wide->text.c_str());
        QVERIFY(!told(8));
        m_in.present = nullptr;
    }
    void aPocketHasExactWallsAndItsIslandStands() {
        MillSpec spec;
        spec.stepdown = 4;
        spec.stepover = 3;
        const Assembly tool = test::flatTool(6, 20);
        const MillResult r = made(spec, {faceAt({20, 40, 20})}, tool);
        QCOMPARE(r.levels, std::size_t(3)); // 10 in steps of at most 4
        QVERIFY(near(r.top, 10, 1e-9) && near(r.bottom, 0, 1e-9));
        QVERIFY(near(r.target.area(), 40 * 35 - kPi * 36, 0.02));
        double nearestWall = 1e9, nearestIsland = 1e9, lowest = 1e9;
        for (const Pass& p : r.passes)
            for (const Vec3& t : p.path.tip) {
                nearestWall = std::min({nearestWall, t.x() - 10, 50 - t.x(), t.y() - 10, 45 - t.y()});
                nearestIsland = std::min(nearestIsland, (t - Vec3(30, 27, t.z())).norm() - 6);
                lowest = std::min(lowest, t.z());
            }
        QVERIFY(near(nearestWall, 3, 1e-4));
        QVERIFY(near(nearestIsland, 3, 2e-3));
        QVERIFY(near(lowest, 20, 1e-9));
        QVERIFY(deepestIntrusion(r, tool) < 0.005);
        // What stays in the four corners is what a round cutter must leave.
        QVERIFY(near(r.leftOver, 4 * (1 - kPi / 4) * 9, 0.05));
        QVERIFY(std::any_of(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "corners-left"; }));
        // Less what is to be left on the walls and the floor.
        MillSpec rough = spec;
        rough.leaveFloor = 0.5;
        const MillResult left = made(rough, m_in.faces, tool, 0.3);
        for (const Pass& p : left.passes)
            for (const Vec3& t : p.path.tip) QVERIFY(t.z() > 20.5 - 1e-9 && t.x() > 13.3 - 1e-3 && t.x() < 46.7 + 1e-3);
    }
    // Strokes further apart than the cutter is wide leave strips: their area is told, and is what is there by brute force.
    void stripsBetweenStrokesAreTold() {
        const auto box = test::openPart(test::boxStep(m_dir.path().toStdString(), 60, 40, 10));
        MillInput in;
        in.part = box.get();
        in.model = &box->tree();
        in.planes = {WorkPlane{"top", Vec3(0, 0, 10), Vec3::UnitZ(), Vec3::UnitX()}};
        for (std::size_t f = 0; f < box->faces().size(); ++f)
            if (box->faces()[f].centre.z() > 9.99) in.faces = {static_cast<int>(f)};
        MillSpec spec;
        spec.shape = MillShape::Face;
        spec.topBy = MillTop::Typed;
        spec.top = 1;
        const Assembly tool = test::flatTool(6, 20);
        Progress progress;
        const auto told = [&](double step) {
            spec.stepover = step;
            const MillResult r = millOn(in, spec, tool, 0.0, 0.005, 500, progress).value();
            constexpr double kGrid = 0.1;
            double stays = 0.0;
            for (double x = kGrid / 2; x < 60; x += kGrid)
                for (double y = kGrid / 2; y < 40; y += kGrid) {
                    double d = 1e9;
                    for (const Pass& p : r.passes)
                        for (std::size_t i = 1; i < p.path.size() && d > 3; ++i)
                            if (p.path.tip[i].z() < 10.001 && p.path.tip[i - 1].z() < 10.001)
                                d = std::min(d, distanceToSegment({x, y, 10}, p.path.tip[i - 1], p.path.tip[i]));
                    if (d > 3) stays += kGrid * kGrid;
                }
            const auto f = std::find_if(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "left-between"; });
            return std::pair{f == r.findings.end() ? 0.0 : f->amount, stays};
        };
        const auto [wide, there] = told(8);
        QVERIFY2(there > 20 && near(wide, there, 0.03 * there + 0.5), qPrintable(QString("%1 told, %2 there").arg(wide).arg(there)));
        QVERIFY(told(4) == std::pair(0.0, 0.0));
    }
    void theMiddleOfAPocketIsEnteredByAHelixRampOrPlunge() {
        MillSpec spec;
        spec.stepdown = 5;
        const Assembly tool = test::flatTool(8, 20);
        for (const MillEntry entry : {MillEntry::Helix, MillEntry::Ramp, MillEntry::Plunge}) {
            spec.entry = entry;
            const MillResult r = made(spec, {faceAt({20, 40, 20})}, tool);
            QVERIFY(deepestIntrusion(r, tool) < 0.005);
            for (const Pass& p : r.passes) {
                // It begins over what is left of the material and never falls more steeply than asked.
                double highest = -1e9;
                for (const Vec3& t : p.path.tip) highest = std::max(highest, t.z());
                QVERIFY(near(p.path.tip.front().z(), highest, 1e-9));
                for (std::size_t i = 1; i < p.path.size(); ++i) {
                    const Vec3 d = p.path.tip[i] - p.path.tip[i - 1];
                    const double fall = -d.z(), along = d.head<2>().norm();
                    if (entry != MillEntry::Plunge)
                        QVERIFY2(fall <= std::tan(radians(spec.rampDegrees)) * along + 1e-6, qPrintable(QString("%1 over %2").arg(fall).arg(along)));
                    if (fall > 1e-9) QVERIFY(p.path.motion[i] != Motion::Cut);
                }
            }
        }
    }
    void climbingKeepsTheWallOnTheRight() {
        const Assembly tool = test::flatTool(6, 20);
        MillSpec spec;
        spec.stepdown = 0;
        for (const bool climb : {true, false}) {
            spec.climb = climb;
            const MillResult r = made(spec, {faceAt({20, 40, 20})}, tool);
            double around = 0.0; // signed area of what runs along the outer wall
            for (const Pass& p : r.passes)
                for (std::size_t i = 1; i < p.path.size(); ++i) {
                    const Vec3 &a = p.path.tip[i - 1], &b = p.path.tip[i];
                    if (std::abs(a.y() - 13) < 1e-3 && std::abs(b.y() - 13) < 1e-3) around += b.x() - a.x();
                }
            QVERIFY(climb ? around > 20 : around < -20); // along the front wall, which is on the right when going to +X
        }
    }
    void anOpenSlotIsEnteredFromOutside() {
        MillSpec spec;
        spec.stepdown = 4;
        const Assembly tool = test::flatTool(10, 20);
        const MillResult r = made(spec, {faceAt({67, 20, 22})}, tool);
        QVERIFY(deepestIntrusion(r, tool) < 0.005);
        QCOMPARE(r.levels, std::size_t(2));
        for (const Pass& p : r.passes) {
            QVERIFY2(p.path.tip.front().y() < -5.2, qPrintable(QString::number(p.path.tip.front().y()))); // the cutter stands free of the block
            QVERIFY(near(p.path.tip.front().z(), p.path.tip.back().z(), 1e-9));                           // and needs no slope
        }
        // All of the floor is reached, but for the two inner corners.
        QVERIFY(near(r.leftOver, 2 * (1 - kPi / 4) * 25, 0.05));
    }
    void whatDoesNotFitIsSaid() {
        MillSpec spec;
        QVERIFY(mill(spec, {faceAt({67, 20, 22})}, test::flatTool(16, 20)).error().what.find("does not fit") != std::string::npos);
        QVERIFY(mill(spec, {faceAt({20, 40, 20}), faceAt({67, 20, 22})}, test::flatTool(6, 20)).error().what.find("above the others") != std::string::npos);
        QVERIFY(mill(spec, {}, test::flatTool(6, 20)).error().what.find("nothing is picked") != std::string::npos);
        QVERIFY(mill(spec, {faceAt({95, 55, 20}, SurfaceKind::Cylinder)}, test::flatTool(6, 20)).error().what.size() > 5);
        spec.on = "no such plane";
        QVERIFY(mill(spec, {faceAt({20, 40, 20})}, test::flatTool(6, 20)).error().what.find("no work plane") != std::string::npos);
    }
    void boresAreRoundToTheirBottom() {
        MillSpec spec;
        spec.shape = MillShape::Bore;
        spec.stepdown = 1.5;
        spec.stepover = 3;
        const Assembly tool = test::flatTool(8, 20);
        const int wall = faceAt({95, 55, 20}, SurfaceKind::Cylinder);
        QVERIFY(wall >= 0);
        const MillResult r = made(spec, {wall}, tool);
        double widest = 0.0, lowest = 1e9;
        for (const Pass& p : r.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                const Vec3& t = p.path.tip[i];
                widest = std::max(widest, (t - Vec3(85, 55, t.z())).norm());
                lowest = std::min(lowest, t.z());
                if (i > 0) QVERIFY(p.path.tip[i - 1].z() - t.z() < 0.2); // a helix, no plunge
            }
        QVERIFY(near(widest, 6, 1e-9) && near(lowest, 15, 1e-6));
        QVERIFY(deepestIntrusion(r, tool) < 0.005);
        QVERIFY(mill(spec, {wall}, test::flatTool(21, 20)).error().what.find("does not fit into a bore") != std::string::npos);
        QVERIFY(mill(spec, {faceAt({36, 27, 25}, SurfaceKind::Cylinder)}, tool).error().what.find("outside of a round") != std::string::npos);
        QCOMPARE(made(spec, {wall}, test::flatTool(20, 20)).passes.size(), std::size_t(1)); // as wide as the cutter: straight down
    }
    void outlinesStandOffByTheRadius() {
        MillSpec spec;
        spec.shape = MillShape::Outline;
        spec.stepdown = 0;
        spec.depthBy = MillDepth::Typed;
        spec.depth = 8;
        const Assembly tool = test::flatTool(6, 20);
        // Around the outside of a square, given as curves.
        m_in.curves = {straightLines({Vec3(0, 0, 30), Vec3(100, 0, 30), Vec3(100, 70, 30), Vec3(0, 70, 30), Vec3(0, 0, 30)})};
        spec.side = MillSide::Outside;
        spec.passes = 2;
        spec.stepover = 2;
        const MillResult r = made(spec, {}, tool, 0.1);
        QCOMPARE(r.passes.size(), std::size_t(2));
        for (std::size_t k = 0; k < 2; ++k) {
            const double off = k == 0 ? 5.1 : 3.1; // the outer one first
            const Toolpath& p = r.passes[k].path;
            double length = 0.0;
            for (std::size_t i = 0; i < p.size(); ++i) {
                const Vec3 q = p.tip[i].cwiseMax(Vec3(0, 0, 0)).cwiseMin(Vec3(100, 70, 30));
                QVERIFY(near((Vec3(p.tip[i].x(), p.tip[i].y(), 0) - Vec3(q.x(), q.y(), 0)).norm(), off, 2e-3));
                QVERIFY(near(p.tip[i].z(), 22, 1e-9));
                if (i > 0) length += (p.tip[i] - p.tip[i - 1]).norm();
            }
            QVERIFY(near(length, 340 + 2 * kPi * off, 0.02));
            QVERIFY(r.passes[k].closed);
        }
        // Beside an open line, on both sides; where it bends inward the way is cut short, outward it goes round.
        m_in.curves = {straightLines({Vec3(0, 0, 30), Vec3(40, 0, 30), Vec3(40, 40, 30)})};
        spec.passes = 1;
        spec.side = MillSide::Left;
        const MillResult inner = made(spec, {}, tool);
        spec.side = MillSide::Right;
        const MillResult outer = made(spec, {}, tool);
        const auto lengthOf = [](const MillResult& m) {
            double sum = 0.0;
            for (const Pass& p : m.passes) sum += pathLength(p.path).all;
            return sum;
        };
        QVERIFY(near(lengthOf(inner), 2 * 37, 0.02));
        QVERIFY(near(lengthOf(outer), 80 + 0.5 * kPi * 3, 0.02));
        // Along the walls of a floor.
        m_in.curves.clear();
        spec.depthBy = MillDepth::Geometry;
        const MillResult walls = made(spec, {faceAt({67, 20, 22})}, tool);
        QCOMPARE(walls.passes.size(), std::size_t(1));
        QVERIFY(deepestIntrusion(walls, tool) < 0.005);
        QVERIFY(lengthOf(walls) > 2 * 37 + 9 - 0.1);
    }
    void facingCoversTheFaceAndLeavesBosses() {
        MillSpec spec;
        spec.shape = MillShape::Face;
        spec.stepover = 6;
        spec.stepdown = 1;
        spec.topBy = MillTop::Typed;
        spec.top = 2.5;
        const Assembly tool = test::flatTool(10, 20);
        const MillResult r = made(spec, {faceAt({5, 5, 30})}, tool);
        QCOMPARE(r.levels, std::size_t(3));
        for (const Pass& p : r.passes)
            for (const Vec3& t : p.path.tip)
                QVERIFY2(t.z() > 30 - 1e-9 && t.z() < 32.5, qPrintable(QString("%1 %2 %3 of %4").arg(t.x()).arg(t.y()).arg(t.z()).arg(p.path.size())));
        // The island is picked on its own: nothing of the pocket's floor is.
        MillSpec floor = spec;
        floor.topBy = MillTop::Geometry;
        const MillResult f = made(floor, {faceAt({20, 40, 20})}, tool);
        QVERIFY(deepestIntrusion(f, tool) < 0.005);
    }
    void theDropFindsTheFloorExactly() {
        const Assembly tool = test::flatTool(6, 20);
        QVERIFY(near(dropOnto(m_part->tree(), tool.cutter, {Vec3(20, 20, 50), Vec3::UnitZ()}, 60), 30, 1e-5));
        QVERIFY(near(dropOnto(m_part->tree(), tool.cutter, {Vec3(11, 20, 50), Vec3::UnitZ()}, 60), 20, 1e-5)); // on the wall's edge
        QVERIFY(near(dropOnto(m_part->tree(), tool.cutter, {Vec3(-20, 20, 50), Vec3::UnitZ()}, 60), 60, 1e-12));
        const Assembly ball = test::ballTool(6, 60);
        // A ball beside an edge: 2 from it, so its lowest point hangs 3 − √5 below.
        QVERIFY(near(dropOnto(m_part->tree(), ball.cutter, {Vec3(12, 20, 50), Vec3::UnitZ()}, 60), 20 + 3 - std::sqrt(5.0), 1e-5));
    }
    // In the bore of a tube the triangles stand out of the wall; a ball comes to rest on the wall itself, and on the rim of a hole in it.
    void aHollowIsMetOnItsFacesAndItsEdges() {
        Progress progress;
        const auto tube = Part::open(test::drilledTube(m_dir.path().toStdString()), 0.02, progress).value();
        const double radius = 4.0;
        const Assembly ball = test::ballTool(2.0 * radius, 60);
        test::Random random(2611);
        const auto wall = [](double y) { return -std::sqrt(900.0 - y * y); };
        double worst = 0.0;
        for (int i = 0; i < 200; ++i) {
            const double x = i % 2 ? random.number(30, 66) : random.number(13, 27), y = i % 2 ? random.number(-14, 14) : random.number(-9, 9);
            if (std::hypot(x - 20, y) < 3.0) continue; // there it sinks in, along the steep of its own side
            const AxisPose from{Vec3(x, y, 0), Vec3::UnitZ()};
            double down = dropOnto(tube->tree(), ball.cutter, from, 60);
            down -= liftOntoFaces(*tube, ball.cutter, {Vec3(x, y, -down), Vec3::UnitZ()}, 0.0);
            // The height that the wall asks for, without the hole, and its rim.
            double tip = -1e9;
            const auto asks = [&](double px, double py) {
                const double d = std::hypot(px - x, py - y);
                if (d < radius) tip = std::max(tip, wall(py) + std::sqrt(radius * radius - d * d) - radius);
            };
            for (double u = -radius; u <= radius; u += 0.05)
                for (double v = -radius; v <= radius; v += 0.05)
                    if (std::hypot(x + u - 20, y + v) > 4.0) asks(x + u, y + v);
            for (int k = 0; k < 4000; ++k) asks(20 + 4.0 * std::cos(k * kPi / 2000), 4.0 * std::sin(k * kPi / 2000));
            const double off = -down - tip;
            QVERIFY2(off > -0.001, qPrintable(QString("%1 too deep at %2 %3").arg(-off).arg(x).arg(y)));
            if (i % 2) worst = std::max(worst, std::abs(off));
            QVERIFY2(off < 0.021, qPrintable(QString("%1 too high at %2 %3").arg(off).arg(x).arg(y)));
        }
        QVERIFY2(worst < 0.0005, qPrintable(QString::number(worst)));
    }
};

GYRE_TEST(TestMill)

} // namespace test_mill
#include "test_mill.moc"
