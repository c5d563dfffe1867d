// Measuring on exact parts: known answers; the kernel's least distance against random places of both faces.
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "part/Measure.h"

namespace test_measure {

using namespace gyre;
using test::faceTowards;

namespace {

std::optional<Measured> named(const std::vector<Measured>& all, const char* what) {
    const auto it = std::find_if(all.begin(), all.end(), [&](const Measured& m) { return m.what == what; });
    return it == all.end() ? std::nullopt : std::optional(*it);
}

std::vector<int> facesOf(const Part& part, SurfaceKind kind) {
    std::vector<int> out;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind == kind) out.push_back(static_cast<int>(f));
    return out;
}

bool is(const std::optional<Measured>& m, double value, double within = 1e-6) { return m && std::abs(m->value - value) < within; }

} // namespace

class TestMeasure : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // A box of 60 × 40 × 25: how thick it is, how far apart its planes are, its angles, its edges.
    void aBox() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ()), bottom = faceTowards(*part, -Vec3::UnitZ()), front = faceTowards(*part, -Vec3::UnitY());
        const MeasuredThing t{top, -1, {20, 10, 25}}, b{bottom, -1, {50, 30, 0}}, f{front, -1, {30, 0, 12}};
        const auto own = measured(*part, t);
        QVERIFY(is(named(own, "wall thickness"), 25) && is(named(own, "area"), 2400) && is(named(own, "draft against Z"), kPi / 2));
        QVERIFY((named(own, "wall thickness")->to - Vec3(20, 10, 0)).norm() < 1e-6);
        QVERIFY(is(named(measured(*part, f), "draft against Z"), 0) && is(named(measured(*part, f), "wall thickness"), 40));
        QVERIFY(!named(own, "radius") && !named(own, "hollow") && !named(own, "round outward"));
        const auto both = measuredBetween(*part, t, b);
        QVERIFY(is(named(both, "least distance"), 25) && is(named(both, "angle"), 0) && is(named(both, "planes apart"), 25));
        QVERIFY(is(named(both, "from place to place"), std::sqrt(900 + 400 + 625.0)));
        const auto square = measuredBetween(*part, t, f);
        QVERIFY(is(named(square, "least distance"), 0) && is(named(square, "angle"), kPi / 2) && !named(square, "planes apart"));
        int edge = -1; // along X at the top's front
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if ((part->edges()[e].middle - Vec3(30, 0, 25)).norm() < 1e-6) edge = static_cast<int>(e);
        QVERIFY(edge >= 0);
        const MeasuredThing e{-1, edge, {30, 0, 25}};
        QVERIFY(is(named(measured(*part, e), "length"), 60));
        const auto line = measuredBetween(*part, e, b);
        QVERIFY(is(named(line, "angle"), 0) && is(named(line, "planes apart"), 25) && is(named(line, "least distance"), 25));
        QVERIFY(is(named(measuredBetween(*part, e, MeasuredThing{faceTowards(*part, Vec3::UnitX()), -1, {60, 20, 12}}), "angle"), kPi / 2));
    }
    // A face that a mend made within the part is no matter: the wall is as thick as before. It is measured itself all the same.
    void whatMendsMadeIsNoMatter() {
        const auto box = test::openPart(test::boxStep(dir(), 60, 40, 25)), low = test::openPart(test::boxStep(dir(), 60, 40, 10));
        const auto inside = low->freedFace(faceTowards(*low, Vec3::UnitZ()), false, 0.0);
        QVERIFY(inside.has_value());
        const auto part = Part::withConstruction(box, {*inside}, {});
        const int top = faceTowards(*box, Vec3::UnitZ());
        QVERIFY(is(named(measured(*part, {top, -1, {20, 10, 25}}), "wall thickness"), 25));
        QVERIFY(is(named(measuredBetween(*part, {top, -1, {20, 10, 25}}, {part->bodyFaces(), -1, {20, 10, 10}}), "planes apart"), 15));
    }
    // A cone's draft, a cylinder's radius and bend, a tube's wall, the dome's ball; a hole's circle and its axis.
    void rounds() {
        const auto cone = test::openPart(test::coneStep(dir(), 30, 12, 25));
        const MeasuredThing wall{facesOf(*cone, SurfaceKind::Cone).front(), -1, {21, 0, 12.5}};
        QVERIFY(is(named(measured(*cone, wall), "draft against Z"), std::atan2(18, 25), 1e-6));
        const auto cylinder = test::openPart(test::cylinderStep(dir(), 20, 30));
        const int side = facesOf(*cylinder, SurfaceKind::Cylinder).front();
        const auto own = measured(*cylinder, {side, -1, {20, 0, 10}});
        QVERIFY(is(named(own, "radius"), 20) && is(named(own, "round outward"), 20, 1e-6) && !named(own, "hollow") && is(named(own, "wall thickness"), 40, 1e-6));
        const auto lid = measuredBetween(*cylinder, {side, -1, {20, 0, 10}}, {faceTowards(*cylinder, Vec3::UnitZ()), -1, {5, 5, 30}});
        QVERIFY(is(named(lid, "angle"), kPi / 2)); // the axis stands on the lid
        const auto tube = test::openPart(test::drilledTube(dir()));
        int outer = -1, inner = -1;
        for (const int f : facesOf(*tube, SurfaceKind::Cylinder)) {
            if (std::abs(tube->faces()[static_cast<std::size_t>(f)].radius - 40) < 1e-6) outer = f;
            if (std::abs(tube->faces()[static_cast<std::size_t>(f)].radius - 30) < 1e-6) inner = f;
        }
        QVERIFY(outer >= 0 && inner >= 0);
        const Vec3 at = tube->project(outer, Vec3(tube->faces()[static_cast<std::size_t>(outer)].centre.x(), 28, 28)).point;
        const auto thick = named(measured(*tube, {outer, -1, at}), "wall thickness");
        QVERIFY2(thick && std::abs(thick->value - 10) < 1e-6, qPrintable(QString::number(thick ? thick->value : -1)));
        const auto hollow = measured(*tube, {inner, -1, tube->project(inner, at).point});
        QVERIFY(is(named(hollow, "hollow"), 30, 1e-6));
        const auto coaxial = measuredBetween(*tube, {outer, -1, at}, {inner, -1, at});
        QVERIFY(is(named(coaxial, "axes apart"), 0, 1e-6) && is(named(coaxial, "least distance"), 10, 1e-6));
        const auto dome = test::openPart(test::demoFile("pierced-dome.step"));
        for (const int f : facesOf(*dome, SurfaceKind::Sphere)) {
            const SurfacePoint s = dome->project(f, dome->faces()[static_cast<std::size_t>(f)].centre + Vec3(3, 2, 1));
            int bends = 0;
            for (const Measured& m : measured(*dome, {f, -1, s.point}))
                if (m.what == "round outward" || m.what == "hollow") {
                    ++bends;
                    QVERIFY(std::abs(m.value - s.point.norm()) < 1e-6 && (m.what == "hollow") == (s.normal.dot(s.point) < 0));
                }
            QCOMPARE(bends, 2);
        }
    }
    // Random pairs of faces of the collar: no two places of their triangles are nearer than what is told by more than the triangles may be off, and the feet lie on them.
    void leastDistances() {
        test::Random random(101);
        const auto part = test::openPart(test::demoFile("lantern-collar.step"));
        const int n = static_cast<int>(part->faces().size());
        for (int trial = 0; trial < 25; ++trial) {
            const int a = random.integer(0, n - 1), b = random.integer(0, n - 1);
            if (a == b) continue;
            const auto told =
                named(measuredBetween(*part, {a, -1, part->faces()[static_cast<std::size_t>(a)].centre}, {b, -1, part->faces()[static_cast<std::size_t>(b)].centre}),
                      "least distance");
            QVERIFY(told);
            const TriangleMesh &one = part->faceMesh(a), &other = part->faceMesh(b);
            const MeshTree tree(other);
            double nearest = 1e300;
            for (const Vec3& p : one.points) nearest = std::min(nearest, tree.closest(p).distance);
            QVERIFY2(told->value <= nearest + part->deflection() + 1e-6, qPrintable(QString("%1 and %2: %3 for %4").arg(a).arg(b).arg(told->value).arg(nearest)));
            QVERIFY(std::abs((told->to - told->from).norm() - told->value) < 1e-9);
            QVERIFY(MeshTree(one).closest(told->from).distance < 2 * part->deflection() && tree.closest(told->to).distance < 2 * part->deflection());
        }
    }
    // A scan has no exact faces: places and thickness all the same.
    void scans() {
        const auto moth = test::openPart(test::demoFile("moth-relief.stl"));
        int top = 0;
        for (std::size_t f = 0; f < moth->faces().size(); ++f)
            if (moth->faces()[f].normal.z() > moth->faces()[static_cast<std::size_t>(top)].normal.z()) top = static_cast<int>(f);
        const Vec3 at = moth->faceMesh(top).points[moth->faceMesh(top).points.size() / 2];
        const auto own = measured(*moth, {top, -1, at});
        QVERIFY(named(own, "wall thickness") && named(own, "wall thickness")->value > 1.0);
        QVERIFY(is(named(measuredBetween(*moth, {top, -1, at}, {top, -1, at + Vec3(3, 4, 0)}), "from place to place"), 5));
        // Its underside is plane, at 0: as far below its top as the lowest of that.
        int under = 0;
        for (std::size_t f = 0; f < moth->faces().size(); ++f)
            if (moth->faces()[f].normal.z() < moth->faces()[static_cast<std::size_t>(under)].normal.z()) under = static_cast<int>(f);
        double lowest = 1e300;
        for (const Vec3& p : moth->faceMesh(top).points) lowest = std::min(lowest, p.z());
        const auto apart = named(measuredBetween(*moth, {top, -1, at}, {under, -1, {0, 0, 0}}), "least distance");
        QVERIFY2(apart && apart->value <= lowest + 1e-6, qPrintable(QString("%1 for %2").arg(apart ? apart->value : -1).arg(lowest)));
        QVERIFY(apart->value >= lowest - 1e-6 || apart->value < 1e-6); // unless they meet at the rim
    }
};

GYRE_TEST(TestMeasure)

} // namespace test_measure
#include "test_measure.moc"
