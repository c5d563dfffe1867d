// Random bodies of triangles: regions, edges and what is recognised of them, against bodies whose faces are known.
#include "Program.h"
#include "Support.h"
#include "target/Target.h"

namespace test_mesh_regions {

using namespace gyre;

namespace {

/// A prism over a polygon of `sides` corners, turned and moved at random, every wall cut into `across` × `along` pieces.
struct Prism {
    TriangleMesh mesh;
    int sides;
    double radius, height;
};

Prism prism(test::Random& random) {
    Prism p;
    p.sides = random.integer(3, 9);
    p.radius = random.number(5, 40);
    p.height = random.number(3, 60);
    const int along = random.integer(1, 6);
    Frame f = Frame::Identity();
    f.linear() = rotation(random.direction(), random.number(0, 6));
    f.translation() = random.point(100);
    const auto n = static_cast<std::uint32_t>(p.sides);
    for (int k = 0; k <= along; ++k)
        for (int i = 0; i < p.sides; ++i) {
            const double a = 2 * kPi * i / p.sides;
            p.mesh.points.push_back(f * Vec3(p.radius * std::cos(a), p.radius * std::sin(a), p.height * k / along));
        }
    for (std::uint32_t k = 0; k < static_cast<std::uint32_t>(along); ++k)
        for (std::uint32_t i = 0; i < n; ++i) {
            const auto a = k * n + i, b = k * n + (i + 1) % n;
            p.mesh.triangles.push_back({a, b, b + n});
            p.mesh.triangles.push_back({a, b + n, a + n});
        }
    const auto top = static_cast<std::uint32_t>(along) * n;
    for (std::uint32_t i = 1; i + 1 < n; ++i) {
        p.mesh.triangles.push_back({0, i + 1, i});
        p.mesh.triangles.push_back({top, top + i, top + i + 1});
    }
    return p;
}

} // namespace

class TestMeshRegions : public QObject {
    Q_OBJECT
private slots:
    void prismsHaveTheirFacesAndEdges() {
        test::Random random(95);
        for (int round = 0; round < 150; ++round) {
            const Prism p = prism(random);
            const auto part = Part::fromMesh(p.mesh, "prism", 0.02);
            QVERIFY2(part, part ? "" : part.error().text().c_str());
            // Walls that meet at less than the sharpest bend would flow together; up to nine sides bend by 40° at least.
            QCOMPARE((*part)->faces().size(), static_cast<std::size_t>(p.sides + 2));
            QCOMPARE((*part)->edges().size(), static_cast<std::size_t>(3 * p.sides));
            double area = 0.0;
            for (const FaceInfo& f : (*part)->faces()) {
                QCOMPARE(f.kind, SurfaceKind::Plane);
                area += f.area;
            }
            const double side = 2 * p.radius * std::sin(kPi / p.sides), lid = 0.5 * p.sides * p.radius * p.radius * std::sin(2 * kPi / p.sides);
            QVERIFY(std::abs(area - (p.sides * side * p.height + 2 * lid)) < 1e-6 * area);
            QVERIFY(std::abs((*part)->volume() - lid * p.height) < 1e-6 * lid * p.height);
            for (const EdgeInfo& e : (*part)->edges()) {
                QVERIFY(e.faces[0] >= 0 && e.faces[1] >= 0 && e.faces[0] != e.faces[1] && e.angle > 0.0);
                QVERIFY(std::abs(e.length - side) < 1e-6 * side || std::abs(e.length - p.height) < 1e-6 * p.height);
            }
            // Normals look outward.
            Vec3 middle = Vec3::Zero();
            for (const Vec3& v : p.mesh.points) middle += v / static_cast<double>(p.mesh.points.size());
            for (const FaceInfo& f : (*part)->faces()) QVERIFY((f.centre - middle).dot(f.normal) > 0.0);
        }
    }
    void referencesFindTheirFacesAgainWhenTrianglesAreMixed() {
        test::Random random(96);
        for (int round = 0; round < 60; ++round) {
            Prism p = prism(random);
            const auto before = Part::fromMesh(p.mesh, "prism", 0.02).value();
            // The same body exported again: triangles in another order, so that faces have other numbers.
            for (std::size_t i = p.mesh.triangles.size(); i-- > 1;)
                std::swap(p.mesh.triangles[i], p.mesh.triangles[static_cast<std::size_t>(random.integer(0, static_cast<int>(i)))]);
            const auto after = Part::fromMesh(p.mesh, "prism", 0.02).value();
            for (std::size_t f = 0; f < before->faces().size(); ++f) {
                const auto found = after->findFace(before->faceRef(static_cast<int>(f)));
                QVERIFY2(found, found ? "" : found.error().text().c_str());
                QVERIFY((after->faces()[static_cast<std::size_t>(*found)].centre - before->faces()[f].centre).norm() < 1e-6 * p.radius + 1e-6 * p.height);
            }
        }
    }
    void borderLoopsOfRandomPicksClose() {
        test::Random random(97);
        for (int round = 0; round < 100; ++round) {
            const Prism p = prism(random);
            const auto part = Part::fromMesh(p.mesh, "prism", 0.02).value();
            std::vector<int> picked;
            for (int f = 0; f < static_cast<int>(part->faces().size()); ++f)
                if (random.integer(0, 1)) picked.push_back(f);
            for (const EdgeChain& loop : borderLoops(*part, picked)) {
                QVERIFY(loop.closed); // the border of anything on a closed body
                for (const int e : loop.edges) {
                    const EdgeInfo& info = part->edges()[static_cast<std::size_t>(e)];
                    const auto inside = [&](int f) { return std::find(picked.begin(), picked.end(), f) != picked.end(); };
                    QVERIFY(inside(info.faces[0]) != inside(info.faces[1]));
                }
            }
        }
    }
    void noiseBelowTheBendJoinsNothingAndSplitsNothing() {
        test::Random random(98);
        for (int round = 0; round < 40; ++round) {
            Prism p = prism(random);
            const double noise = 1e-4 * std::min(p.radius, p.height);
            for (Vec3& v : p.mesh.points) v += noise * random.direction();
            const auto part = Part::fromMesh(p.mesh, "prism", 0.02);
            QVERIFY(part);
            QCOMPARE((*part)->faces().size(), static_cast<std::size_t>(p.sides + 2));
        }
    }
};

GYRE_TEST(TestMeshRegions)

} // namespace test_mesh_regions
#include "test_mesh_regions.moc"
