// Which way the triangles of a mesh look: whatever was turned over at random comes back.
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "geom/Convex.h"
#include "geom/MeshFile.h"
#include "geom/Winding.h"

namespace test_winding {

using namespace gyre;
using namespace gyre::test;

class TestWinding : public QObject {
    Q_OBJECT
    /// Its sides are shared by their points.
    static TriangleMesh welded(TriangleMesh mesh) {
        mesh.normals.clear();
        weldNear(mesh, 1e-9);
        return mesh;
    }
    static TriangleMesh box(const Vec3& low, const Vec3& high) { return welded(skinOf(ConvexBody::box(low, high))); }
    static void turnOver(TriangleMesh& mesh, std::size_t triangle) { std::swap(mesh.triangles[triangle][1], mesh.triangles[triangle][2]); }
    static TriangleMesh turnedOver(TriangleMesh mesh) {
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) turnOver(mesh, t);
        return mesh;
    }
    /// Looking to the same sides, wherever the corners begin.
    static bool same(const TriangleMesh& a, const TriangleMesh& b) {
        for (std::size_t t = 0; t < a.triangles.size(); ++t) {
            const auto normal = [t](const TriangleMesh& m) { return (m.corner(t, 1) - m.corner(t, 0)).cross(m.corner(t, 2) - m.corner(t, 0)); };
            if (normal(a).dot(normal(b)) < 0.0) return false;
        }
        return a.triangles.size() == b.triangles.size();
    }
    /// A sheet of hills over a square.
    static TriangleMesh sheet(Random& random, int n) {
        TriangleMesh mesh;
        for (int i = 0; i <= n; ++i)
            for (int k = 0; k <= n; ++k) mesh.points.emplace_back(i, k, random.number(-0.8, 0.8));
        const auto at = [n](int i, int k) { return static_cast<std::uint32_t>(i * (n + 1) + k); };
        for (int i = 0; i < n; ++i)
            for (int k = 0; k < n; ++k) {
                mesh.triangles.push_back({at(i, k), at(i + 1, k), at(i + 1, k + 1)});
                mesh.triangles.push_back({at(i, k), at(i + 1, k + 1), at(i, k + 1)});
            }
        return mesh;
    }

private slots:
    // Any of a closed body's triangles turned over, or all of them: it looks outward again; what was right stays as it is, to the letter.
    void closedBodies() {
        Random random(81);
        for (const auto& step : {boxStep(dir(), 10, 20, 30), drilledPlate(dir()), filletedPocket(dir())}) {
            TriangleMesh right = openPart(step)->mesh();
            TriangleMesh mesh; // sides are shared by their points
            std::map<std::array<double, 3>, std::uint32_t> known;
            for (const auto& t : right.triangles) {
                std::array<std::uint32_t, 3> own{};
                for (int k = 0; k < 3; ++k) {
                    const Vec3& p = right.points[t[static_cast<std::size_t>(k)]];
                    const std::array<double, 3> key{std::round(p.x() * 1e6), std::round(p.y() * 1e6), std::round(p.z() * 1e6)};
                    const auto [it, fresh] = known.try_emplace(key, static_cast<std::uint32_t>(mesh.points.size()));
                    if (fresh) mesh.points.push_back(p);
                    own[static_cast<std::size_t>(k)] = it->second;
                }
                if (own[0] != own[1] && own[1] != own[2] && own[2] != own[0]) mesh.triangles.push_back(own);
            }
            const double volume = signedVolume(mesh);
            QVERIFY(volume > 0.0);
            TriangleMesh again = mesh;
            QVERIFY(windOutward(again).turned == 0 && again.triangles == mesh.triangles);
            again = turnedOver(mesh);
            QCOMPARE(windOutward(again).turned, mesh.triangles.size());
            QVERIFY(again.triangles == mesh.triangles);
            for (int round = 0; round < 20; ++round) {
                again = mesh;
                std::size_t over = 0;
                const double share = random.number(0, 1);
                for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
                    if (random.number(0, 1) < share) {
                        turnOver(again, t);
                        ++over;
                    }
                QCOMPARE(windOutward(again).turned, over);
                QVERIFY2(again.triangles == mesh.triangles && std::abs(signedVolume(again) - volume) < 1e-9 * volume, "as it was");
            }
        }
    }
    // A hollow looks into itself, with its shell right or turned over as a whole; bodies beside one another and through one another look outward each.
    void hollowsAndNeighbours() {
        TriangleMesh hollow = box({0, 0, 0}, {10, 10, 10});
        hollow.append(turnedOver(box({3, 3, 3}, {7, 7, 7})));
        TriangleMesh again = hollow;
        QVERIFY(windOutward(again).turned == 0 && std::abs(signedVolume(again) - (1000.0 - 64.0)) < 1e-9);
        again = turnedOver(hollow);
        QCOMPARE(windOutward(again).turned, hollow.triangles.size());
        QVERIFY(same(again, hollow));
        for (const Vec3& shift : {Vec3(20, 0, 0), Vec3(5, 5, 5), Vec3(-3, 2, 9)}) {
            const TriangleMesh one = box({0, 0, 0}, {10, 10, 10}), other = box(shift, shift + Vec3(8, 8, 8));
            TriangleMesh both = one, right = one;
            both.append(turnedOver(other));
            right.append(other);
            QCOMPARE(windOutward(both).turned, other.triangles.size());
            QVERIFY(same(both, right));
        }
    }
    // A scan of a whole body has holes: small ones do not hide which side is the inner one, wherever the body lies. A tube without ends is a sheet.
    void smallHoles() {
        Random random(83);
        for (int round = 0; round < 20; ++round) {
            const Vec3 at(random.number(-500, 500), random.number(-500, 500), random.number(-500, 500));
            TriangleMesh ball;
            constexpr std::uint32_t kAround = 40, kUp = 20;
            for (std::uint32_t i = 0; i <= kUp; ++i)
                for (std::uint32_t k = 0; k < kAround; ++k) {
                    const double u = kPi * i / kUp, v = 2.0 * kPi * k / kAround;
                    ball.points.push_back(at + 10.0 * Vec3(std::sin(u) * std::cos(v), std::sin(u) * std::sin(v), std::cos(u)));
                }
            for (std::uint32_t i = 0; i < kUp; ++i)
                for (std::uint32_t k = 0; k < kAround; ++k) {
                    const std::uint32_t a = i * kAround + k, b = i * kAround + (k + 1) % kAround, c = a + kAround, d = b + kAround;
                    if (i > 0) ball.triangles.push_back({a, c, b});
                    if (i + 1 < kUp) ball.triangles.push_back({b, c, d});
                }
            ball = welded(ball);
            ball.triangles.erase(ball.triangles.begin() + static_cast<int>(random.number(200, 1000)));
            const TriangleMesh in = turnedOver(ball);
            for (const TriangleMesh& from : {ball, in}) {
                TriangleMesh mesh = from;
                for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
                    if (random.number(0, 1) < 0.3) turnOver(mesh, t);
                const Wound wound = windOutward(mesh, true);
                QVERIFY(wound.sheets == 0 && same(mesh, ball));
            }
        }
        TriangleMesh tube;
        for (std::uint32_t k = 0; k < 40; ++k)
            for (const double z : {0.0, 60.0}) tube.points.emplace_back(10.0 * std::cos(0.05 * kPi * k), 10.0 * std::sin(0.05 * kPi * k), z);
        for (std::uint32_t k = 0; k < 40; ++k) {
            const std::uint32_t a = 2 * k, b = 2 * ((k + 1) % 40);
            tube.triangles.push_back({a, b + 1, b});
            tube.triangles.push_back({a, a + 1, b + 1});
        }
        const auto before = tube.triangles;
        QVERIFY(windOutward(tube).sheets == tube.triangles.size() && tube.triangles == before);
    }
    // Blocks that touch along an edge or with a whole side are closed each for itself.
    void touching() {
        for (const Vec3& shift : {Vec3(10, 10, 0), Vec3(10, 0, 0)}) {
            TriangleMesh right = box({0, 0, 0}, {10, 10, 10});
            TriangleMesh other = box(shift, shift + Vec3(10, 10, 10));
            for (auto& t : other.triangles) {
                std::array<std::uint32_t, 3> own{};
                for (std::size_t k = 0; k < 3; ++k) {
                    const auto known = std::find_if(right.points.begin(), right.points.end(), [&](const Vec3& p) { return (p - other.points[t[k]]).norm() < 1e-9; });
                    own[k] = static_cast<std::uint32_t>(known - right.points.begin());
                    if (known == right.points.end()) right.points.push_back(other.points[t[k]]);
                }
                right.triangles.push_back(own);
            }
            TriangleMesh mesh = turnedOver(right);
            const Wound wound = windOutward(mesh);
            QCOMPARE(wound.sheets, std::size_t(0));
            QVERIFY(shift.y() == 0.0 || same(mesh, right));
        }
    }
    // An open sheet keeps the side that most of it looks to, though it be all of it; a strip with a twist, and what three triangles meet in, is let be.
    void sheets() {
        Random random(82);
        for (int round = 0; round < 10; ++round) {
            const TriangleMesh up = sheet(random, 9);
            TriangleMesh mesh = up;
            QVERIFY(windOutward(mesh).turned == 0 && mesh.triangles == up.triangles);
            std::size_t over = 0;
            for (std::size_t t = 0; t < up.triangles.size(); ++t)
                if (random.number(0, 1) < 0.3) {
                    turnOver(mesh, t);
                    ++over;
                }
            if (over < 60) { // of 162
                QCOMPARE(windOutward(mesh).turned, over);
                QVERIFY(mesh.triangles == up.triangles);
            }
            TriangleMesh down = turnedOver(up);
            const Wound wound = windOutward(down);
            QVERIFY(wound.turned == 0 && wound.sheets == up.triangles.size() && wound.twisted == 0);
            QCOMPARE(windOutward(down, true).turned, up.triangles.size());
            QVERIFY(same(down, up));
        }
        TriangleMesh strip;
        constexpr int kSteps = 12;
        for (int i = 0; i < kSteps; ++i) {
            const double a = 2.0 * M_PI * i / kSteps, half = 0.5 * a;
            for (const double side : {-1.0, 1.0})
                strip.points.emplace_back((5.0 + side * std::cos(half)) * std::cos(a), (5.0 + side * std::cos(half)) * std::sin(a), side * std::sin(half));
        }
        for (std::uint32_t i = 0; i < kSteps; ++i) {
            const bool last = i + 1 == kSteps;
            const std::uint32_t a = 2 * i, b = a + 1, c = last ? 1 : a + 2, d = last ? 0 : a + 3;
            strip.triangles.push_back({a, b, d});
            strip.triangles.push_back({a, d, c});
        }
        const auto before = strip.triangles;
        const Wound wound = windOutward(strip);
        QVERIFY(wound.turned == 0 && wound.twisted == before.size() && strip.triangles == before);
    }

private:
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
};

GYRE_TEST(TestWinding)

} // namespace test_winding
#include "test_winding.moc"
