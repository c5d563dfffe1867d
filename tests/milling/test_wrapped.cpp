// Wrapped milling: helices, grooves on simulated stock, depths on a cone, windows, whole rounds with bosses – against formulas.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "job/StockShape.h"
#include "milling/Mill.h"
#include "milling/MillSpec.h"
#include "motion/Motion.h"
#include "stock/Stock.h"

namespace test_wrapped {

using namespace gyre;
using test::near;

namespace {

double angleOf(const Vec3& p) { return std::atan2(p.z(), p.y()); }

} // namespace

class TestWrapped : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_cone, m_barrel;

    static Result<MillResult> mill(const MillInput& in, const MillSpec& spec, const Assembly& tool, double leave = 0.0) {
        Progress progress;
        return millOn(in, spec, tool, leave, 0.002, 500, progress);
    }
    static MillResult made(const MillInput& in, const MillSpec& spec, const Assembly& tool, double leave = 0.0) {
        auto r = mill(in, spec, tool, leave);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    static MillSpec follow(double depth, double stepdown = 0.0) {
        MillSpec s;
        s.shape = MillShape::Follow;
        s.on = "round X";
        s.depthBy = MillDepth::Typed;
        s.depth = depth;
        s.stepdown = stepdown;
        s.entry = MillEntry::Plunge;
        return s;
    }
    int barrelFace(double radius, double x) const {
        int best = -1;
        for (std::size_t i = 0; i < m_barrel->faces().size(); ++i) {
            const FaceInfo& f = m_barrel->faces()[i];
            if (f.kind == SurfaceKind::Cylinder && std::abs(f.radius - radius) < 1e-6 && f.bounds.low.x() < x && f.bounds.high.x() > x &&
                (best < 0 || f.area > m_barrel->faces()[static_cast<std::size_t>(best)].area))
                best = static_cast<int>(i);
        }
        return best;
    }

private slots:
    void initTestCase() {
        Progress progress;
        // A cone about X: stood up by the kernel about Z, so it is told by planes here.
        m_cone = Part::open(test::coneStep(m_dir.path().toStdString(), 20, 14, 40), 0.02, progress).value();
        m_barrel = Part::open(test::demoFile("focus-barrel.step"), 0.005, progress).value();
    }

    void flatAndBackAgain() {
        test::Random random(41);
        const Sheet s = wrappedSheet({Vec3(0, 3, -2), Vec3::UnitX()}, 25);
        for (int i = 0; i < 2000; ++i) {
            const Vec3 flat(random.number(-50, 50), random.number(-900, 900), random.number(-20, 20));
            QVERIFY((s.flat(s.point(flat), flat.y()) - flat).norm() < 1e-9);
            const AxisPose pose = s.pose(flat);
            const Vec3 foot = pose.tip - Vec3(0, 3, -2);
            QVERIFY(std::abs(pose.axis.x()) < 1e-12 && near(Vec3(0, foot.y(), foot.z()).cross(pose.axis).norm(), 0, 1e-9)); // along the radius
        }
        QVERIFY(near(s.degrees(s.fromDegrees(123.4)), 123.4, 1e-9));
        QVERIFY(near(s.turn(), 2 * kPi * 25, 1e-12));
    }
    // Length, pitch and end angle of nine turns; on the machine the rotary never jumps.
    void nineTurnsWithoutAJump() {
        MillInput in;
        const double r = 30, pitch = 4;
        in.curves = {helix(Vec3(5, 0, 0), Vec3::UnitX(), Vec3(5, r, 0), 2 * kPi * 9, pitch * 9)};
        MillSpec spec = follow(1.5);
        spec.radius = r;
        const MillResult m = made(in, spec, test::flatTool(4, 12));
        QCOMPARE(m.passes.size(), std::size_t(1));
        const Toolpath& p = m.passes[0].path;
        double turned = 0.0, length = 0.0, before = angleOf(p.tip.front());
        for (std::size_t i = 1; i < p.size(); ++i) {
            const double step = std::remainder(angleOf(p.tip[i]) - before, 2 * kPi);
            QVERIFY(std::abs(step) < 0.3);
            turned += step;
            before = angleOf(p.tip[i]);
            if (p.motion[i] == Motion::Cut) length += (p.tip[i] - p.tip[i - 1]).norm();
        }
        QVERIFY(near(turned, 2 * kPi * 9, 1e-6));
        QVERIFY(near(p.tip.back().x() - 5, pitch * 9, 1e-6));
        const double floor = r - 1.5;
        // A polyline of chords within 0.002 mm of the floor's helix, never longer.
        const double exact = 9 * std::hypot(2 * kPi * floor, pitch);
        QVERIFY(length < exact + 1e-6 && length > exact * (1 - 2e-4));
        for (std::size_t i = 0; i < p.size(); ++i)
            if (p.motion[i] == Motion::Cut) QVERIFY(near(std::hypot(p.tip[i].y(), p.tip[i].z()), floor, 1e-6));
        const Machine machine = test::demoMachine("plover-4.machine.json");
        const Kinematics kinematics(machine, Frame::Identity(), 120);
        Progress progress;
        const auto motion = solveMotion(p, kinematics, MotionSpec{}, progress);
        QVERIFY(motion.has_value());
        const int a = machine.find("A");
        for (std::size_t s = 1; s < motion->size(); ++s) QVERIFY(std::abs(motion->at(s)[a] - motion->at(s - 1)[a]) < 0.35);
        QVERIFY(near(std::abs(motion->at(motion->size() - 1)[a] - motion->at(0)[a]), 2 * kPi * 9, 1e-6));
        // A pitch that grows evenly: its mean decides the length along the axis.
        in.curves = {helix(Vec3(5, 0, 0), Vec3::UnitX(), Vec3(5, r, 0), 2 * kPi * 2, 10 * 2, 8 * 2)};
        const MillResult grows = made(in, spec, test::flatTool(4, 12));
        const Toolpath& g = grows.passes[0].path;
        QVERIFY(near(g.tip.back().x() - 5, 20, 1e-6));
        double half = 0.0; // after one turn of two: the smaller share
        for (std::size_t i = 1, n = 0; i < g.size(); ++i) {
            (void)n;
            half += std::remainder(angleOf(g.tip[i]) - angleOf(g.tip[i - 1]), 2 * kPi);
            if (half >= 2 * kPi - 1e-6) {
                QVERIFY(near(g.tip[i].x() - 5, 8, 0.08)); // pitch 6 … 10 in the first turn
                break;
            }
        }
    }
    // The groove's walls along a line through it parallel to the axis, against a dense run of the follower.
    void groovesAreAsWideAsTheirFollower_data() {
        QTest::addColumn<double>("cutter");
        QTest::addColumn<double>("width");
        QTest::addColumn<double>("pitch");
        QTest::newRow("ring, cutter as wide") << 6.0 << 0.0 << 0.0;
        QTest::newRow("helix, cutter as wide") << 6.0 << 6.0 << 60.0;
        QTest::newRow("ring, smaller cutter") << 4.0 << 6.0 << 0.0;
        QTest::newRow("helix, smaller cutter") << 4.0 << 6.0 << 60.0;
    }
    void groovesAreAsWideAsTheirFollower() {
        QFETCH(double, cutter);
        QFETCH(double, width);
        QFETCH(double, pitch);
        const double r = 20, deep = 3, follower = width > 0 ? width : cutter;
        const double turns = 0.5, start = 0.0;
        MillInput in;
        const double from = 20;
        in.curves = {helix(Vec3(from, 0, 0), Vec3::UnitX(), Vec3(from, r, 0), 2 * kPi * turns, pitch * turns)};
        MillSpec spec = follow(deep);
        spec.radius = r;
        spec.width = width;
        spec.stepover = 1;
        const MillResult m = made(in, spec, test::flatTool(cutter, 12));
        StockShape bar;
        bar.kind = StockShape::Kind::Cylinder;
        bar.axis = 0;
        bar.radius = r;
        bar.low.x() = 0;
        bar.high.x() = 70;
        const TriangleMesh mesh = bar.mesh();
        Progress progress;
        Stock stock = Stock::of({&mesh}, 0.15, progress).value();
        for (const Pass& p : m.passes) QVERIFY(stock.remove(p.path, test::flatTool(cutter, 12).cutter, progress).has_value());
        int measured = 0;
        for (int k = 0; k < 24; ++k) {
            const double angle = start + kPi * (0.25 + 0.5 * k / 24), rho = r - 0.4 - 0.08 * k;
            Vec3 foot;
            const auto spans = stock.along(0, Vec3(0, rho * std::cos(angle), rho * std::sin(angle)), foot);
            if (spans.size() != 2) continue;
            const double theta = angleOf(foot), radius = std::hypot(foot.y(), foot.z());
            if (radius < r - deep + 0.2) continue;
            double low = 1e9, high = -1e9;
            for (int i = 0; i <= 200000; ++i) {
                const double t = 2 * kPi * turns * i / 200000.0, side = radius * std::sin(theta - t), x = from + pitch * t / (2 * kPi);
                if (std::abs(side) >= 0.5 * follower || radius * std::cos(theta - t) < r - deep) continue;
                const double reach = std::sqrt(0.25 * follower * follower - side * side);
                low = std::min(low, x - reach);
                high = std::max(high, x + reach);
            }
            QVERIFY(near(static_cast<double>(spans[0].to), low, 0.01));
            QVERIFY(near(static_cast<double>(spans[1].from), high, 0.01));
            ++measured;
        }
        QVERIFY2(measured > 12, qPrintable(QString::number(measured)));
    }
    void widthAlongTheAxisIsNarrowerAcross() {
        MillInput in;
        in.curves = {helix(Vec3(20, 0, 0), Vec3::UnitX(), Vec3(20, 20, 0), kPi, 40)};
        MillSpec spec = follow(2);
        spec.radius = 20;
        spec.width = 8;
        spec.widthAlong = true;
        spec.stepover = 2;
        const MillResult m = made(in, spec, test::flatTool(4, 12));
        double widest = 0.0;
        for (const FlatPass& f : m.flat)
            for (const FlatPoint& p : f.points) widest = std::max(widest, p.shift.norm());
        const double slope = std::atan2(40, kPi * 20); // of the groove against the circumference
        QVERIFY(near(widest, 0.5 * 8 * std::cos(slope) - 2, 0.01));
        spec.width = 4.5; // across there is less than the cutter
        const auto tight = mill(in, spec, test::flatTool(4, 12));
        QVERIFY(!tight && tight.error().what.find("less than the cutter") != std::string::npos);
    }
    // Down to a cone, where the cutter really is.
    void depthFollowsACone() {
        // The cone stands along Z: radius 20 at 0, 14 at 40.
        MillInput in;
        in.part = m_cone.get();
        in.model = &m_cone->tree();
        in.body = m_cone.get(); // triangles lie up to 0.02 within the cone: the exact face decides
        in.curves = {helix(Vec3(0, 0, 6), Vec3::UnitZ(), Vec3(24, 0, 6), 2 * kPi * 2, 28)};
        MillSpec spec = follow(15);
        spec.on = "round Z";
        spec.radius = 24;
        spec.depthBy = MillDepth::Model;
        const double lean = std::atan2(6, 40);
        for (const bool ball : {true, false}) {
            const Assembly tool = ball ? test::ballTool(6, 50) : test::flatTool(6, 12);
            const MillResult m = made(in, spec, tool);
            int cuts = 0;
            for (const Pass& pass : m.passes)
                for (std::size_t i = 0; i < pass.path.size(); ++i) {
                    if (pass.path.motion[i] != Motion::Cut) continue;
                    const Vec3& t = pass.path.tip[i];
                    const double rho = std::hypot(t.x(), t.y()), cone = 20 - 6.0 / 40 * t.z();
                    if (ball) {
                        // The ball's middle keeps its radius from the cone: measured square to the cone's line.
                        QVERIFY(near((rho + 3 - cone) * std::cos(lean), 3, 0.002));
                    } else {
                        // A flat end touches where the cone is widest under it: at its edge toward the thick end.
                        double highest = -1e9;
                        for (int k = 0; k < 720; ++k) {
                            const double a = 2 * kPi * k / 720, z = t.z() + 3 * std::cos(a), y = 3 * std::sin(a), wide = 20 - 6.0 / 40 * z;
                            highest = std::max(highest, std::sqrt(wide * wide - y * y));
                        }
                        QVERIFY(near(rho, highest, 0.002));
                    }
                    ++cuts;
                }
            QVERIFY(cuts > 100);
        }
    }
    void theScallopOfAFlatCutter() {
        QVERIFY(near(roundScallop(40, radians(10)), 40 * (1 / std::cos(radians(5)) - 1), 1e-12));
        test::Random random(42);
        for (int i = 0; i < 200; ++i) {
            const double r = random.number(2, 200), h = random.number(1e-4, 0.2);
            QVERIFY(near(roundScallop(r, roundStep(r, h)), h, 1e-9));
        }
    }
    // The barrel's window: a pocket with straight ends, on its own cylinder.
    void theWindowOfTheBarrel() {
        MillInput in;
        in.part = m_barrel.get();
        in.model = &m_barrel->tree();
        const int face = barrelFace(38.5, 95);
        QVERIFY(face >= 0);
        in.faces = {face};
        MillSpec spec;
        spec.stepover = 2;
        spec.stepdown = 1;
        spec.scallop = 0.01;
        for (const bool parallel : {true, false}) {
            spec.parallel = parallel;
            const MillResult m = made(in, spec, test::flatTool(4, 12));
            QVERIFY(m.sheet.wrapped && near(m.sheet.radius, 38.5, 1e-6));
            QVERIFY(near(m.top, 1.5, 1e-3) && near(m.bottom, 0, 1e-9));
            QVERIFY(near(m.target.area(), 10 * radians(50) * 38.5, 0.1));
            QVERIFY(m.scallop <= 0.0101 && m.scallop > 0.0);
            for (const Pass& p : m.passes)
                for (std::size_t i = 0; i < p.path.size(); ++i) {
                    QVERIFY(p.path.tip[i].x() > 92 - 1e-3 && p.path.tip[i].x() < 98 + 1e-3);
                    QVERIFY(std::abs(p.path.axis[i].x()) < 1e-12);
                }
            // Without shift the tool always stands along the radius.
            if (!parallel)
                for (const Pass& p : m.passes)
                    for (std::size_t i = 0; i < p.path.size(); ++i) QVERIFY(Vec3(0, p.path.tip[i].y(), p.path.tip[i].z()).cross(p.path.axis[i]).norm() < 1e-9);
        }
    }
    void atTheAxisNothingIsWrapped() {
        MillInput in;
        in.curves = {helix(Vec3(5, 0, 0), Vec3::UnitX(), Vec3(5, 10, 0), kPi, 4)};
        MillSpec spec = follow(10);
        spec.radius = 10;
        const auto deep = mill(in, spec, test::flatTool(2, 8));
        QVERIFY(!deep && deep.error().what.find("reaches the axis") != std::string::npos);
        in.curves = {straightLines({Vec3(0, 0, 0), Vec3(10, 0, 0)})};
        spec.radius = 0;
        spec.depth = 0.1;
        const auto none = mill(in, spec, test::flatTool(2, 8));
        QVERIFY(!none && none.error().what.find("radius 0") != std::string::npos);
        spec.on = "round Q";
        QVERIFY(!mill(in, spec, test::flatTool(2, 8)));
    }
    // A groove along the axis, much wider than the cutter: its floor is round, its walls stand parallel to the middle's radius.
    void theFloorOfAWideGrooveIsRound() {
        const double radius = 30, depth = 3, width = 16, r = 3;
        MillInput in;
        in.curves = {straightLines({Vec3(0, 0, radius), Vec3(40, 0, radius)})};
        MillSpec spec = follow(depth);
        spec.on = "round X";
        spec.radius = radius;
        spec.width = width;
        spec.stepdown = 0;
        spec.stepover = 2;
        const MillResult m = made(in, spec, test::flatTool(2 * r, 12));
        // Across the middle of its length: what flat ends and flanks leave, by brute force over all locations.
        const double floor = radius - depth;
        double worstFloor = 0.0, deepest = 0.0, wall = 0.0;
        // As far out as an axis along the radius can stand with its flank inside of the wall: a flat end lies on a round floor with its middle.
        double lean = 0.0;
        while (radius * std::sin(lean + 1e-4) + r * std::cos(lean + 1e-4) < width / 2) lean += 1e-4;
        const double round = floor * std::sin(lean) - 0.02;
        for (double u = -width / 2 + 0.02; u <= width / 2 - 0.02; u += 0.02) {
            double left = radius; // the height over the axis that stays at this place beside the middle, looking along Z
            for (const Pass& p : m.passes)
                for (std::size_t i = 0; i < p.path.size(); ++i) {
                    if (p.path.motion[i] != Motion::Cut) continue; // straight along the axis: one section stands for all
                    const Vec3 &tip = p.path.tip[i], &a = p.path.axis[i];
                    // On the end's plane at this u, within its width.
                    const double across = (u - tip.y()) / a.z(); // along the end, in the plane of y and z
                    if (std::abs(across) <= r) left = std::min(left, tip.z() - across * a.y());
                }
            const double wanted = std::sqrt(floor * floor - u * u);
            if (std::abs(u) < round) worstFloor = std::max(worstFloor, left - wanted);
            deepest = std::min(deepest, left - wanted);
        }
        for (const Pass& p : m.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                const Vec3 &tip = p.path.tip[i], &a = p.path.axis[i];
                for (double h = 0; h <= depth; h += 0.1) { // the flank, up to the groove's top
                    const double y = tip.y() + h * a.y(), z = tip.z() + h * a.z();
                    if (std::hypot(y, z) < radius + 1e-6) wall = std::max(wall, std::abs(y) + r * a.z() - width / 2);
                }
            }
        QVERIFY2(worstFloor < 0.005 && deepest > -0.002, qPrintable(QString("%1 %2").arg(worstFloor).arg(deepest)));
        QVERIFY2(std::abs(wall) < 1e-3, qPrintable(QString::number(wall)));
        const auto told = std::find_if(m.findings.begin(), m.findings.end(), [](const Finding& f) { return f.code == "corner-stands"; });
        QVERIFY(told != m.findings.end() && told->amount > 0.5 && told->amount < 1.5);
        // Around the axis the floor is level across: nothing is left, nothing told.
        in.curves = {helix(Vec3(0, 0, 0), Vec3::UnitX(), Vec3(0, radius, 0), 2 * kPi, 0.0)};
        spec.width = 8;
        for (const Finding& f : made(in, spec, test::flatTool(2 * r, 12)).findings) QVERIFY(f.code != "corner-stands");
    }
    // A bar with cross holes: the ball runs over them as over a plain bar, unless they are to be left open; a picked boss does not change the sheet.
    void holesOfAWholeRoundAreClosed() {
        Progress progress;
        const auto tube = Part::open(test::drilledTube(m_dir.path().toStdString()), 0.003, progress).value();
        MillInput in;
        in.part = in.body = tube.get();
        in.model = &tube->tree();
        MillSpec spec;
        spec.shape = MillShape::Round;
        spec.on = "round X";
        spec.lines = MillLines::Spiral;
        spec.stepover = 2;
        spec.stepdown = 0;
        const auto lowest = [&](bool capped) {
            spec.capped = capped;
            double low = 1e9;
            for (const Pass& p : made(in, spec, test::ballTool(6, 50)).passes)
                for (std::size_t i = 0; i < p.path.size(); ++i)
                    if (p.path.tip[i].x() > 5 && p.path.tip[i].x() < 95) low = std::min(low, std::hypot(p.path.tip[i].y(), p.path.tip[i].z()));
            return low;
        };
        QVERIFY2(lowest(true) > 40 - 0.02, qPrintable(QString::number(lowest(true))));
        QVERIFY(lowest(false) < 39);
    }
    // A bore's helix is no steeper than the ramp, goes down at the feed of entries, and tells its pitch.
    void boresGoDownNoSteeperThanAsked() {
        Progress progress;
        const auto plate = Part::open(test::drilledPlate(m_dir.path().toStdString()), 0.003, progress).value();
        MillInput in;
        in.part = in.body = plate.get();
        in.model = &plate->tree();
        for (std::size_t f = 0; f < plate->faces().size(); ++f)
            if (plate->faces()[f].kind == SurfaceKind::Cylinder && std::abs(plate->faces()[f].radius - 8) < 1e-6) in.faces = {static_cast<int>(f)};
        MillSpec spec;
        spec.shape = MillShape::Bore;
        for (const double ramp : {1.0, 3.0, 10.0})
            for (const double down : {0.0, 1.0}) {
                spec.rampDegrees = ramp;
                spec.stepdown = down;
                spec.stepover = 1.5;
                const MillResult m = made(in, spec, test::flatTool(6, 20));
                double steepest = 0.0, deepestTurn = 0.0;
                for (std::size_t p = 0; p < m.passes.size(); ++p) {
                    const Toolpath& t = m.passes[p].path;
                    double fallen = 0.0;
                    for (std::size_t i = 1; i < t.size(); ++i) {
                        const Vec3 d = t.tip[i] - t.tip[i - 1];
                        if (-d.z() > 1e-9) {
                            steepest = std::max(steepest, degrees(std::atan2(-d.z(), d.head<2>().norm())));
                            if (p == 0) QVERIFY(t.motion[i] == Motion::LeadIn && near(static_cast<double>(t.feed[i]), 250, 1e-3));
                        }
                        fallen -= d.z();
                    }
                    deepestTurn = std::max(deepestTurn, fallen);
                }
                QVERIFY2(steepest <= ramp * 1.02, qPrintable(QString("%1 for %2").arg(steepest).arg(ramp)));
                QVERIFY(m.pitch > 0.0 && (down == 0.0 || m.pitch <= down + 1e-9));
                QVERIFY(near(steepest, ramp, 0.3 * ramp) || m.pitch < 1.0 + 1e-9);
            }
    }
    // A whole round: a stepped bar with a boss, in rings, a spiral and lengthwise; the boss keeps its own distance.
    void aWholeRoundKeepsOffItsBoss_data() {
        QTest::addColumn<int>("lines");
        QTest::newRow("rings") << 0;
        QTest::newRow("lengthwise") << 1;
        QTest::newRow("spiral") << 2;
    }
    void aWholeRoundKeepsOffItsBoss() {
        QFETCH(int, lines);
        Progress progress;
        const auto part = Part::open(test::bossedBar(m_dir.path().toStdString()), 0.003, progress).value();
        MillInput in;
        in.part = part.get();
        in.model = &part->tree();
        MillSpec spec;
        spec.shape = MillShape::Round;
        spec.on = "round X";
        spec.lines = static_cast<MillLines>(lines);
        spec.stepover = 4;
        spec.stepdown = 0;
        spec.bossClearance = 1.5;
        for (std::size_t f = 0; f < part->faces().size(); ++f) {
            const FaceInfo& i = part->faces()[f];
            if (i.kind == SurfaceKind::Cylinder && std::abs(i.radius - 4) < 1e-6) in.faces.push_back(static_cast<int>(f));
        }
        QVERIFY(!in.faces.empty());
        const Assembly tool = test::ballTool(6, 50);
        const MillResult m = made(in, spec, tool);
        double nearestBoss = 1e9, low = 1e9, high = -1e9;
        std::size_t places = 0, onBar = 0;
        for (const Pass& p : m.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i, ++places) {
                const Vec3 middle = p.path.tip[i] + 3 * p.path.axis[i];
                // The boss stands along Z from the bar's skin to 26.
                const double along = middle.z(), off = std::hypot(middle.x() - 30, middle.y());
                if (along > 0 && along < 26) nearestBoss = std::min(nearestBoss, off - 4 - 3);
                const double bar = std::hypot(middle.y(), middle.z()) - 3;
                low = std::min(low, bar);
                if (std::abs(bar - 15) < 0.01) ++onBar;
                high = std::max(high, middle.x());
            }
        QVERIFY2(nearestBoss > 1.5 - 0.01, qPrintable(QString::number(nearestBoss)));
        QVERIFY2(low > 15 - 0.01 && onBar > places / 2 && high > 55, qPrintable(QString("%1 %2 of %3, %4").arg(low).arg(onBar).arg(places).arg(high)));
        // With stock to leave everything stays that much further out.
        const MillResult left = made(in, spec, tool, 0.4);
        for (const Pass& p : left.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i) QVERIFY(std::hypot(p.path.tip[i].y(), p.path.tip[i].z()) > 15.4 - 0.01);
    }
    // Rows around a boss: its rim projected down, the axis fixed, the depth wherever the ball rests on the bar.
    void rowsAroundABossWithAFixedAxis() {
        Progress progress;
        const auto part = Part::open(test::bossedBar(m_dir.path().toStdString()), 0.01, progress).value();
        MillInput in;
        in.part = in.body = part.get();
        in.model = &part->tree();
        in.planes = {WorkPlane{"up", Vec3(0, 0, 26), Vec3::UnitZ(), Vec3::UnitX()}};
        in.curves = {circleArc(Vec3(30, 0, 26), Vec3::UnitZ(), Vec3(34, 0, 26), 2 * kPi)};
        MillSpec spec;
        spec.shape = MillShape::Outline;
        spec.on = "up";
        spec.side = MillSide::Outside;
        spec.depthBy = MillDepth::Model;
        spec.depth = 30;
        spec.stepdown = 0;
        spec.passes = 3;
        spec.stepover = 1.5;
        const MillResult m = made(in, spec, test::ballTool(6, 50));
        int cuts = 0;
        for (const Pass& p : m.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                if (p.path.motion[i] != Motion::Cut) continue;
                const Vec3 middle = p.path.tip[i] + 3 * p.path.axis[i];
                QVERIFY(p.path.axis[i] == Vec3::UnitZ());
                QVERIFY(std::hypot(middle.x() - 30, middle.y()) > 7 - 0.005);
                QVERIFY(near(std::hypot(middle.y(), middle.z()) - 3, 15, 0.004));
                ++cuts;
            }
        QVERIFY(cuts > 100);
    }
};

GYRE_TEST(TestWrapped)

} // namespace test_wrapped
#include "test_wrapped.moc"
