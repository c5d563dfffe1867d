#include "Program.h"
#include "Support.h"

namespace test_geom {

using namespace gyre;
using test::Random;

namespace {

RoundedFrustum randomFrustum(Random& r) {
    const double z = r.number(-5, 5);
    RoundedFrustum f{z, r.number(0, 6), z + r.number(0, 12), r.number(0, 6), r.integer(0, 1) ? r.number(0, 3) : 0.0};
    if (r.integer(0, 9) == 0) f.z1 = f.z0, f.r1 = f.r0; // a disc or a ball
    return f;
}

TriangleMesh ballMesh(double radius, int n) {
    TriangleMesh m;
    for (int i = 0; i <= n; ++i)
        for (int j = 0; j < 2 * n; ++j) {
            const double t = kPi * i / n, p = kPi * j / n;
            m.points.emplace_back(radius * std::sin(t) * std::cos(p), radius * std::sin(t) * std::sin(p), radius * std::cos(t));
        }
    const auto id = [&](int i, int j) { return static_cast<std::uint32_t>(i * 2 * n + j % (2 * n)); };
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < 2 * n; ++j) {
            m.triangles.push_back({id(i, j), id(i + 1, j), id(i + 1, j + 1)});
            m.triangles.push_back({id(i, j), id(i + 1, j + 1), id(i, j + 1)});
        }
    return m;
}

} // namespace

class TestGeom : public QObject {
    Q_OBJECT
private slots:
    // Two methods that share nothing: slopes on a convex function, and the iteration on the difference of bodies.
    void frustumTriangleAgreesWithTheConvexIterationOnAMillionPairs() {
        Random r(1);
        double worst = 0.0;
        for (int i = 0; i < 1'000'000; ++i) {
            const RoundedFrustum f = randomFrustum(r);
            const Vec3 c = r.point(16);
            const std::array<Vec3, 3> t{c + r.point(8), c + r.point(8), c + r.point(8)};
            const double exact = distance(f, t);
            const double other = convexDistance(ConvexBody::turned(f), t).value;
            const double off = std::abs(std::max(0.0, exact) - other);
            worst = std::max(worst, off);
            if (off > 1e-6) QFAIL(qPrintable(QString("pair %1: %2 against %3").arg(i).arg(exact, 0, 'g', 15).arg(other, 0, 'g', 15)));
        }
        qInfo("largest difference %.2e mm", worst);
    }
    void frustumTriangleIsNeverAboveAnySample() {
        Random r(2);
        for (int i = 0; i < 2000; ++i) {
            const RoundedFrustum f = randomFrustum(r);
            const Vec3 c = r.point(10);
            const std::array<Vec3, 3> t{c + r.point(4), c + r.point(4), c + r.point(4)};
            const double exact = distance(f, t);
            double sampled = 1e300;
            for (int a = 0; a <= 30; ++a)
                for (int b = 0; a + b <= 30; ++b) sampled = std::min(sampled, distance(f, Vec3(t[0] + (t[1] - t[0]) * a / 30.0 + (t[2] - t[0]) * b / 30.0)));
            QVERIFY2(exact <= sampled + 1e-9 && exact > sampled - 0.6, qPrintable(QString("%1 %2").arg(exact).arg(sampled)));
        }
    }
    void withinIsTheSameQuestionAsDistance() {
        Random r(3);
        for (int i = 0; i < 200'000; ++i) {
            const RoundedFrustum f = randomFrustum(r);
            const Vec3 c = r.point(14);
            const std::array<Vec3, 3> t{c + r.point(6), c + r.point(6), c + r.point(6)};
            const double clearance = r.number(0, 6), d = distance(f, t);
            if (std::abs(d - clearance) < 1e-7) continue;
            QCOMPARE(within(f, t, clearance), d < clearance);
        }
    }
    void clearanceOfAHolderBesideAWallIsTheAnalyticOne() {
        // A cylinder of radius 10 whose axis leans by 20° towards a wall at x = 30: its lower rim comes nearest.
        const std::array<Vec3, 3> wall{Vec3(30, -500, -500), Vec3(30, 500, -500), Vec3(30, 0, 900)};
        TriangleMesh mesh;
        mesh.points = {wall[0], wall[1], wall[2]};
        mesh.triangles = {{0, 1, 2}};
        const MeshTree tree(mesh);
        const double lean = radians(20);
        const AxisPose pose{Vec3::Zero(), Vec3(std::sin(lean), 0, std::cos(lean))};
        const RoundedFrustum holder{40, 10, 70, 10, 0};
        const double expected = 30.0 - (70 * std::sin(lean) + 10 * std::cos(lean));
        const double got = tree.distance(pose, &holder, 1, 1e9);
        QVERIFY2(std::abs(got - std::max(expected, 0.0)) < 1e-9, qPrintable(QString::number(got)));
    }
    void clearanceOfAConeOverASphereIsTheAnalyticOne() {
        // Flank line at half angle 30° from the apex at height h over the sphere's middle.
        const MeshTree tree(ballMesh(10, 400));
        const double h = 25, half = radians(30);
        const RoundedFrustum cone{0, 0, 50, 50 * std::tan(half), 0};
        const double expected = h - 10; // the apex points down at the sphere: it is the nearest point
        QVERIFY(std::abs(tree.distance({Vec3(0, 0, h), Vec3::UnitZ()}, &cone, 1, 1e9) - expected) < 1e-4);
        // From the side: distance of the flank line to the sphere's middle, less the radius.
        const double side = 30 * std::cos(half) - 20 * std::sin(half) - 10;
        QVERIFY(std::abs(tree.distance({Vec3(30, 0, -20), Vec3::UnitZ()}, &cone, 1, 1e9) - side) < 1.5e-3);
    }
    void treeAnswersAsBruteForce() {
        Random r(4);
        const TriangleMesh mesh = ballMesh(10, 24);
        const MeshTree tree(mesh);
        for (int i = 0; i < 3000; ++i) {
            const RoundedFrustum f = randomFrustum(r);
            const AxisPose pose{r.point(22), r.direction()};
            const Vec3 x = anyPerpendicular(pose.axis), y = pose.axis.cross(x);
            double brute = 1e300, point = 1e300;
            const Vec3 p = r.point(20);
            for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
                std::array<Vec3, 3> local;
                for (int k = 0; k < 3; ++k) {
                    const Vec3 d = mesh.corner(t, k) - pose.tip;
                    local[static_cast<std::size_t>(k)] = {d.dot(x), d.dot(y), d.dot(pose.axis)};
                }
                brute = std::min(brute, distance(f, local));
                ConvexBody dot;
                dot.points = {p};
                point = std::min(point, convexDistance(dot, {mesh.corner(t, 0), mesh.corner(t, 1), mesh.corner(t, 2)}).value);
            }
            QVERIFY(std::abs(tree.distance(pose, &f, 1, 1e9) - brute) < 1e-9);
            QVERIFY(std::abs(tree.closest(p).distance - point) < 1e-6);
            const double clearance = r.number(0, 4);
            if (std::abs(brute - clearance) > 1e-7) QCOMPARE(tree.anyWithin(pose, &f, &clearance, 1), brute < clearance);
        }
    }
    void boxesApartAlongADiagonalHaveTheKnownDistance() {
        const ConvexBody a = ConvexBody::box(Vec3::Constant(-1), Vec3::Constant(1)), b = ConvexBody::box(Vec3(2, 3, 4), Vec3(5, 5, 5));
        QVERIFY(std::abs(convexDistance(a, b).value - std::sqrt(1.0 + 4.0 + 9.0)) < 1e-9);
        QCOMPARE(convexDistance(a, ConvexBody::box(Vec3(0.5, 0.5, 0.5), Vec3(3, 3, 3))).value, 0.0);
        QVERIFY(convexWithin(a, b, 3.75) && !convexWithin(a, b, 3.74));
    }
    void axialEscapeIsTheLeastShiftThatClears() {
        Random r(5);
        for (int i = 0; i < 20'000; ++i) {
            const RoundedFrustum f = randomFrustum(r);
            const Vec3 c = r.point(8);
            std::array<Vec3, 3> t{c + r.point(5), c + r.point(5), c + r.point(5)};
            const double clearance = r.number(0.01, 2), u = axialEscape(f, t, clearance);
            for (auto& p : t) p.z() -= u;
            QVERIFY(distance(f, t) > clearance - 1e-5);
            if (u > 0.0) {
                for (auto& p : t) p.z() += 1e-3;
                QVERIFY(distance(f, t) < clearance + 1e-6);
            }
        }
    }
    void slerpGoesEvenlyAndMeetsItsEnds() {
        Random r(6);
        for (int i = 0; i < 1000; ++i) {
            const Vec3 a = r.direction(), b = r.direction();
            QVERIFY((slerp(a, b, 0) - a).norm() < 1e-12 && (slerp(a, b, 1) - b).norm() < 1e-9);
            QVERIFY(std::abs(angleBetween(a, slerp(a, b, 0.3)) - 0.3 * angleBetween(a, b)) < 1e-9);
        }
    }
    void twoTreesNearEachOtherAsBruteForceSays() {
        Random r(404);
        for (int round = 0; round < 60; ++round) {
            std::array<TriangleMesh, 2> meshes;
            for (TriangleMesh& m : meshes)
                for (int i = 0; i < 40; ++i) {
                    const Vec3 at = r.point(10);
                    for (int k = 0; k < 3; ++k) m.points.push_back(at + r.point(2));
                    const auto n = static_cast<std::uint32_t>(m.points.size());
                    m.triangles.push_back({n - 3, n - 2, n - 1});
                }
            Frame place = Frame::Identity();
            place.linear() = rotation(r.direction(), r.number(-3, 3));
            place.translation() = r.number(0, 40) * r.direction();
            double least = 1e300;
            for (std::size_t i = 0; i < 40; ++i) {
                ConvexBody mine;
                for (int k = 0; k < 3; ++k) mine.points.push_back(place * meshes[0].corner(i, k));
                for (std::size_t j = 0; j < 40; ++j)
                    least = std::min(least, convexDistance(mine, {meshes[1].corner(j, 0), meshes[1].corner(j, 1), meshes[1].corner(j, 2)}).value);
            }
            const MeshTree a(meshes[0]), b(meshes[1]);
            for (const double off : {-1e-3, 1e-3, -0.5, 0.5, 5.0})
                if (least + off > 0.0) QCOMPARE(a.anyWithin(b, place, least + off), off > 0.0);
            QVERIFY(!a.anyWithin(MeshTree(), place, 1e9) && !MeshTree().anyWithin(b, place, 1e9));
        }
    }
    void aHintNeverChangesTheAnswer() {
        Random r(405);
        TriangleMesh m;
        for (int i = 0; i < 300; ++i) {
            const Vec3 at = r.point(20);
            for (int k = 0; k < 3; ++k) m.points.push_back(at + r.point(2));
            const auto n = static_cast<std::uint32_t>(m.points.size());
            m.triangles.push_back({n - 3, n - 2, n - 1});
        }
        const MeshTree tree(m);
        const std::vector<RoundedFrustum> pieces{{0, 2, 8, 2, 0}, {3, 0, 3, 0, 3}, {8, 5, 20, 6, 0}};
        const std::vector<double> clearance{0.2, 0.0, 1.0};
        std::uint32_t hint = UINT32_MAX;
        int hits = 0;
        for (int i = 0; i < 2000; ++i) {
            const AxisPose pose{r.point(30), r.direction()};
            const bool plain = tree.anyWithin(pose, pieces.data(), clearance.data(), 3);
            QCOMPARE(tree.anyWithin(pose, pieces.data(), clearance.data(), 3, &hint), plain);
            QCOMPARE(hint < tree.size(), plain);
            if (i % 7 == 0) hint = static_cast<std::uint32_t>(r.integer(0, 2'000'000)); // nonsense
            hits += plain;
        }
        QVERIFY(hits > 100 && hits < 1900);
    }
};

GYRE_TEST(TestGeom)

} // namespace test_geom
#include "test_geom.moc"
