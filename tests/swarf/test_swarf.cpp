// The cutter's side down walls: exact on what can be unrolled, little off on what is twisted; corners, depths, sides.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"

namespace test_swarf {

using namespace gyre;
using test::faceOf;
using test::near;

class TestSwarf : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_cone, m_cylinder, m_box;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

    static Result<AlongResult> attempt(const SwarfInput& in, const SwarfSpec& spec, const Assembly& tool, double leave = 0.0) {
        Progress progress;
        return swarf(in, spec, tool, leave, {0.005, 1.0}, progress);
    }
    static AlongResult made(const SwarfInput& in, const SwarfSpec& spec, const Assembly& tool, double leave = 0.0) {
        auto r = attempt(in, spec, tool, leave);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    static SwarfInput faces(const std::shared_ptr<const Part>& part, std::vector<int> which) { return {part.get(), std::move(which), {}, {}, {}}; }
    static Assembly shaped(CutterShape shape, double d = 8, double flutes = 40) {
        Assembly a = test::flatTool(d, flutes);
        a.cutter = asShape(a.cutter, shape);
        return a;
    }
    static Curve circle(double radius, double z, double from = 0.0) {
        return circleArc(Vec3(0, 0, z), Vec3::UnitZ(), Vec3(radius * std::cos(from), radius * std::sin(from), z), 2.0 * kPi);
    }
    static int sideOfBox(const Part& box) {
        for (std::size_t f = 0; f < box.faces().size(); ++f)
            if (std::abs(box.faces()[f].normal.x()) > 0.9) return static_cast<int>(f);
        return -1;
    }

private slots:
    void initTestCase() {
        m_cone = test::openPart(test::coneStep(dir(), 20, 14, 30));
        m_cylinder = test::openPart(test::cylinderStep(dir(), 18, 25));
        m_box = test::openPart(test::boxStep(dir(), 40, 30, 20));
    }

    // Whatever the cutter and its lean, cones and cylinders come out exactly.
    void exactOnConesAndCylinders() {
        for (const auto& [part, kind] : {std::pair{m_cone, SurfaceKind::Cone}, std::pair{m_cylinder, SurfaceKind::Cylinder}})
            for (const CutterShape shape : {CutterShape::Flat, CutterShape::CornerRadius, CutterShape::Ball, CutterShape::Tapered, CutterShape::TaperedBall})
                for (const double leave : {0.0, 0.3}) {
                    const Assembly tool = shaped(shape);
                    SwarfSpec spec;
                    spec.past = flankStart(tool.cutter) + 0.5;
                    const AlongResult r = made(faces(part, {faceOf(*part, kind)}), spec, tool, leave);
                    for (const WallSample& s : r.map)
                        QVERIFY2(s.off < 1e-6 && s.off > -0.0026, qPrintable(QString("%1: %2").arg(cutterShapeName(shape)).arg(s.off))); // half a chord
                    QCOMPARE(r.passes.size(), std::size_t(1));
                    QVERIFY(r.passes[0].closed && r.findings.empty());
                    if (shape != CutterShape::Flat) continue;
                    for (std::size_t i = 0; i < r.passes[0].path.size(); ++i) {
                        // The axis is the ruling, R + leave further out along the normal; the tip half a millimetre below the rail.
                        const Vec3 tip = r.passes[0].path.tip[i], a = r.passes[0].path.axis[i];
                        const Vec3 out = Vec3(tip.x(), tip.y(), 0).normalized();
                        const double lean = kind == SurfaceKind::Cone ? std::atan2(6.0, 30.0) : 0.0, foot = kind == SurfaceKind::Cone ? 20.0 : 18.0;
                        const Vec3 wanted = std::cos(lean) * Vec3::UnitZ() - std::sin(lean) * out, normal = std::cos(lean) * out + std::sin(lean) * Vec3::UnitZ();
                        QVERIFY((a - wanted).norm() < 1e-6);
                        QVERIFY((tip - (foot * out + (4.0 + leave) * normal - 0.5 * wanted)).norm() < 1e-5);
                    }
                }
    }

    // A twisted wall: laid on both ends it is R(1 − cos ½ω) off; made as small as it goes, less than half of that.
    void twistedWalls() {
        for (const double twist : {0.15, 0.4, 0.8}) {
            const auto wall = test::openPart(test::ruledWall(dir(), 20, twist));
            SwarfInput in = faces(wall, {});
            double largest = 0.0;
            for (std::size_t f = 0; f < wall->faces().size(); ++f)
                if (wall->faces()[f].kind == SurfaceKind::FreeForm && wall->faces()[f].area > largest) {
                    largest = wall->faces()[f].area;
                    in.faces = {static_cast<int>(f)};
                }
            QCOMPARE(in.faces.size(), std::size_t(1));
            const Assembly tool = shaped(CutterShape::Flat, 10, 60);
            SwarfSpec spec;
            spec.past = 1.0;
            spec.tolerance = 5.0;
            spec.twist = false;
            const AlongResult ends = made(in, spec, tool);
            spec.twist = true;
            const AlongResult least = made(in, spec, tool);
            qInfo("twist %.2f: both ends %.4f too much; fitted %.4f too much, %.4f stays", twist, ends.over, least.over, least.under);
            double omega = 0.0;
            const Wall rulings = wallOfFaces(*wall, in.faces, 0.005, 1.0, 5.0).value();
            for (const Ruling& r : rulings.rulings) omega = std::max(omega, angleBetween(r.lowNormal, r.highNormal));
            const double known = 5.0 * (1.0 - std::cos(0.5 * omega));
            QVERIFY2(near(ends.over, known, 0.06 * known + 1e-3), qPrintable(QString("%1, known %2").arg(ends.over).arg(known)));
            QVERIFY(least.over <= 0.5 * ends.over && least.under <= 0.5 * ends.over);
            // The map against a dense look at the swept cutter.
            double worst = 0.0, most = 0.0;
            const Toolpath& path = least.passes[0].path;
            const CutterSide side(tool.cutter);
            for (std::size_t s = 7; s < least.map.size(); s += 97) {
                const WallSample& sample = least.map[s];
                double off = 1e300;
                for (std::size_t i = 1; i < path.size(); ++i)
                    for (int k = 0; k <= 8; ++k)
                        off = std::min(
                            off, side.off({path.tip[i - 1] + (path.tip[i] - path.tip[i - 1]) * (k / 8.0), slerp(path.axis[i - 1], path.axis[i], k / 8.0)}, sample.point));
                worst = std::max(worst, std::abs(off - sample.off));
                most = std::max(most, std::abs(off));
            }
            QVERIFY2(worst < 0.05 * std::max(ends.over, 0.02) + 5e-4, qPrintable(QString("%1 of %2").arg(worst).arg(most)));
            // Beyond what is let pass it is a Stop, with what would cure it.
            spec.twist = false;
            spec.tolerance = 0.3 * ends.over;
            const AlongResult told = made(in, spec, tool);
            QVERIFY(std::any_of(told.findings.begin(), told.findings.end(),
                                [](const Finding& f) { return f.rank == Rank::Stop && f.code == "wall-over" && f.remedies.at(0).key == "swarf.twist"; }));
        }
    }

    void wallsAreFound() {
        QCOMPARE(wallFaces(*m_box, sideOfBox(*m_box)).size(), std::size_t(4));
        const auto collar = test::openPart(test::demoFile("lantern-collar.step"));
        for (std::size_t f = 0; f < collar->faces().size(); ++f) {
            const FaceInfo& i = collar->faces()[f];
            if (i.kind != SurfaceKind::FreeForm || i.bounds.low.z() < 13.9 || i.bounds.high.z() > 40.1) continue;
            QCOMPARE(wallFaces(*collar, static_cast<int>(f)).size(), std::size_t(9));
            break;
        }
        // A plane and a wall that do not hang together are told.
        const auto r = attempt(faces(m_box, {0, 1}), {}, shaped(CutterShape::Flat));
        QVERIFY(!r && r.error().what.find("hang together") != std::string::npos);
    }

    void roundTheBox_data() {
        QTest::addColumn<int>("corner");
        QTest::newRow("rolled") << 0;
        QTest::newRow("stopped") << 1;
        QTest::newRow("looped") << 2;
    }
    void roundTheBox() {
        QFETCH(int, corner);
        const Assembly tool = shaped(CutterShape::Flat, 8, 30);
        SwarfSpec spec;
        spec.corner = static_cast<SwarfCorner>(corner);
        const AlongResult r = made(faces(m_box, wallFaces(*m_box, sideOfBox(*m_box))), spec, tool);
        for (const WallSample& at : r.map) QVERIFY(at.off < 1e-6 && at.off > -0.0051);
        QVERIFY(r.over <= 0.0051 && r.under < 1e-6); // round corners in chords
        QCOMPARE(r.passes.size(), corner == 1 ? std::size_t(4) : std::size_t(1));
        double length = 0.0;
        for (const Pass& p : r.passes)
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                const Vec3 t = p.path.tip[i];
                // Never nearer than the radius to the block; the axis upright.
                QVERIFY(std::hypot(std::max({-t.x(), t.x() - 40.0, 0.0}), std::max({-t.y(), t.y() - 30.0, 0.0})) > 4.0 - 1e-6);
                QVERIFY(near(t.z(), 0.0, 1e-6) && p.path.axis[i].z() > 1.0 - 1e-9);
                if (i > 0) length += (t - p.path.tip[i - 1]).norm();
            }
        if (corner == 0) QVERIFY(near(length, 140 + 2 * kPi * 4, 0.05));
        if (corner == 1) QVERIFY(near(length, 140, 1e-6));
        if (corner == 2) QVERIFY(length > 180);
        // Climbing round the outside goes with the clock, seen from above.
        double turn = 0.0;
        const Toolpath& p = r.passes[0].path;
        for (std::size_t i = 1; i < p.size(); ++i) turn += (p.tip[i - 1] - Vec3(20, 15, 0)).cross(p.tip[i] - Vec3(20, 15, 0)).z();
        QVERIFY(turn < 0.0);
    }

    // Inside of a pocket with sharp corners: the cutter stops where it touches both walls.
    void innerCorners() {
        const auto block = test::openPart(test::milledBlock(dir()));
        int wall = -1;
        for (std::size_t f = 0; f < block->faces().size(); ++f)
            if (block->faces()[f].kind == SurfaceKind::Plane && block->faces()[f].normal.x() > 0.9 && std::abs(block->faces()[f].centre.x() - 10) < 1e-6)
                wall = static_cast<int>(f);
        QVERIFY(wall >= 0);
        const std::vector<int> all = wallFaces(*block, wall);
        QCOMPARE(all.size(), std::size_t(4));
        const AlongResult r = made(faces(block, all), {}, shaped(CutterShape::Flat, 6, 14));
        QCOMPARE(r.passes.size(), std::size_t(1));
        double low = 1e9, high = -1e9;
        for (const Vec3& t : r.passes[0].path.tip) {
            QVERIFY2(t.x() > 13 - 1e-3 && t.x() < 47 + 1e-3 && t.y() > 13 - 1e-3 && t.y() < 42 + 1e-3, qPrintable(QString("%1 %2").arg(t.x()).arg(t.y())));
            low = std::min(low, t.x());
            high = std::max(high, t.x());
        }
        QVERIFY(near(low, 13, 1e-6) && near(high, 47, 1e-6) && r.over < 1e-3);
    }

    void depthsAndThicknesses() {
        const Assembly tool = shaped(CutterShape::Flat, 8, 40);
        SwarfSpec spec;
        spec.past = 1.0;
        spec.stepdown = 6.0;
        spec.thickness = 2.0;
        spec.stepover = 1.0;
        const int cone = faceOf(*m_cone, SurfaceKind::Cone);
        const double tall = std::hypot(30, 6) + 1.0;
        const auto depths = static_cast<std::size_t>(std::ceil(tall / 6.0));
        AlongResult r = made(faces(m_cone, {cone}), spec, tool);
        QCOMPARE(r.passes.size(), 2 * depths);
        for (const WallSample& at : r.map) QVERIFY(at.off < 1e-6 && at.off > -0.0051);
        QVERIFY(r.over < 0.005);
        const auto away = [](const Pass& p) { return std::hypot(p.path.tip[0].x(), p.path.tip[0].y()); };
        const auto height = [](const Pass& p) { return p.path.tip[0].z(); };
        QVERIFY(near(height(r.passes[0]), height(r.passes[1]), 0.3) && away(r.passes[0]) > away(r.passes[1]) + 0.9); // first over, then down
        QVERIFY(height(r.passes[2]) < height(r.passes[0]) - 3.0);
        spec.depthsFirst = true;
        r = made(faces(m_cone, {cone}), spec, tool);
        QVERIFY(height(r.passes[1]) < height(r.passes[0]) - 3.0);
        // Flutes too short for the whole height: told, with a depth that suits.
        spec = SwarfSpec();
        r = made(faces(m_cone, {cone}), spec, shaped(CutterShape::Flat, 8, 12));
        QVERIFY(std::any_of(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "flutes-short" && f.remedies.at(0).key == "swarf.stepdown"; }));
    }

    // Between rails: matched by least twist, on the free side; the other one is refused.
    void betweenRails() {
        const Curve lower = circle(20, 0), upper = circle(14, 30, 0.7).reversed(); // begins elsewhere
        SwarfInput in{m_cone.get(), {}, lower, upper, {}};
        SwarfSpec spec;
        spec.fromRails = true;
        spec.past = 0.5;
        const AlongResult r = made(in, spec, shaped(CutterShape::Flat));
        QVERIFY2(r.over < 0.01 && r.under < 0.01, qPrintable(QString("%1 %2").arg(r.over).arg(r.under)));
        for (const Vec3& t : r.passes.at(0).path.tip) QVERIFY(std::hypot(t.x(), t.y()) > 20.0);
        QVERIFY(r.findings.empty());
        spec.otherSide = true;
        const AlongResult wrong = made(in, spec, shaped(CutterShape::Flat));
        QVERIFY(!wrong.findings.empty() && wrong.findings[0].rank == Rank::Stop && wrong.findings[0].code == "wall-side" &&
                wrong.findings[0].reason.find("wrong side") != std::string::npos);
        // Sync lines are kept, and must not cross.
        spec.otherSide = false;
        spec.sync = {{0.5, 0.2}, {0.6, 0.1}};
        QVERIFY(!attempt(in, spec, shaped(CutterShape::Flat)));
        const Wall w =
            wallOfRails(straightLines({Vec3(0, 0, 0), Vec3(50, 0, 0)}), straightLines({Vec3(0, 0, 10), Vec3(50, 0, 10)}), {{0.5, 0.6}}, 0.005, 1.0, 4.0).value();
        double least = 1e9;
        for (const Ruling& q : w.rulings) least = std::min(least, (q.low - Vec3(25, 0, 0)).norm() + (q.high - Vec3(30, 0, 10)).norm());
        QVERIFY2(least < 0.05, qPrintable(QString::number(least)));
    }

    void whatCannotBe() {
        QVERIFY(attempt(faces(m_cone, {}), {}, shaped(CutterShape::Flat)).error().what.find("no face") != std::string::npos);
        QVERIFY(attempt(faces(m_cone, {faceOf(*m_cone, SurfaceKind::Cone)}), {}, shaped(CutterShape::Lollipop)).error().what.find("lollipop") != std::string::npos);
        // A dome has no straight lines.
        const auto dome = test::openPart(test::demoFile("pierced-dome.step"));
        const auto r = attempt(faces(dome, {faceOf(*dome, SurfaceKind::Sphere)}), {}, shaped(CutterShape::Flat));
        QVERIFY(!r);
    }
};

GYRE_TEST(TestSwarf)

} // namespace test_swarf
#include "test_swarf.moc"
