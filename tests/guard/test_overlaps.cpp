// Bodies that stand inside one another.
#include "Program.h"
#include "Support.h"
#include "geom/Convex.h"
#include "guard/Overlaps.h"

namespace test_overlaps {

using namespace gyre;
using namespace gyre::test;

namespace {
Obstacle block(const char* name, ObstacleKind kind, const Vec3& low, const Vec3& high, const Frame& frame = Frame::Identity()) {
    TriangleMesh moved;
    moved.append(skinOf(ConvexBody::box(low, high)), frame);
    return {name, kind, MeshTree(moved), {}, 0.0};
}
double depthOf(const Scene& scene) {
    const auto found = overlapsOf(scene);
    return found.empty() ? 0.0 : found.front().depth;
}
/// How far two boxes would have to move apart along the best of the fifteen directions that can part them; negative: they are apart by so much.
double byPartingPlanes(const Vec3& halfA, const Frame& a, const Vec3& halfB, const Frame& b) {
    double least = 1e300;
    const auto ask = [&](const Vec3& d) {
        if (d.norm() < 1e-6) return;
        const Vec3 n = d.normalized();
        const double reach = (a.linear().transpose() * n).cwiseAbs().dot(halfA) + (b.linear().transpose() * n).cwiseAbs().dot(halfB);
        least = std::min(least, reach - std::abs(n.dot(a.translation() - b.translation())));
    };
    for (int i = 0; i < 3; ++i) {
        ask(a.linear().col(i));
        ask(b.linear().col(i));
        for (int j = 0; j < 3; ++j) ask(a.linear().col(i).cross(b.linear().col(j)));
    }
    return least;
}
} // namespace

class TestOverlaps : public QObject {
    Q_OBJECT
private slots:
    void depthsOfBoxes() {
        const auto part = block("part", ObstacleKind::Part, {0, 0, 0}, {10, 10, 10});
        // Two deep over a whole side, wholly inside, and through: no corner of either lies in the other there.
        QVERIFY(std::abs(depthOf({part, block("a", ObstacleKind::Fixture, {8, 0, 0}, {18, 10, 10})}) - 2.0) < 0.05);
        QVERIFY(std::abs(depthOf({part, block("a", ObstacleKind::Fixture, {3, 4, 4}, {6, 6, 7})}) - 4.0) < 0.2);
        const auto bar = block("bar", ObstacleKind::Fixture, {-10, -1, -1}, {10, 1, 1}), across = block("across", ObstacleKind::Fixture, {-1, -10, -1}, {1, 10, 1});
        QVERIFY(std::abs(depthOf({bar, across}) - 1.0) < 0.05);
        // What touches, or misses by little, does not; nor do bodies of the machine among themselves.
        QCOMPARE(depthOf({part, block("a", ObstacleKind::Fixture, {10, 0, 0}, {18, 10, 10})}), 0.0);
        QCOMPARE(depthOf({part, block("a", ObstacleKind::Fixture, {9.97, 0, 0}, {18, 10, 10})}), 0.0);
        QCOMPARE(depthOf({block("a", ObstacleKind::Machine, {0, 0, 0}, {5, 5, 5}), block("b", ObstacleKind::Machine, {0, 0, 0}, {5, 5, 4})}), 0.0);
        const auto worst = overlapsOf({part, block("a", ObstacleKind::Fixture, {8, 0, 0}, {18, 10, 10}), block("b", ObstacleKind::Fixture, {-5, 0, 0}, {0.5, 10, 10})});
        QCOMPARE(worst.size(), std::size_t(2));
        QCOMPARE(worst.front().other, std::string("a"));
        QVERIFY(worst.front().at.x() >= 8.0 - 1e-9 && worst.front().at.x() <= 10.0 + 1e-9);
    }
    void intoATableOfPieces() {
        Obstacle table{"table", ObstacleKind::Machine, {}, {ConvexBody::box({-100, -100, -20}, {100, 100, 0})}, 0.0};
        QVERIFY(std::abs(depthOf({block("part", ObstacleKind::Part, {0, 0, -3}, {30, 30, 10}), table}) - 3.0) < 1e-9);
        QCOMPARE(depthOf({block("part", ObstacleKind::Part, {0, 0, 0}, {30, 30, 10}), table}), 0.0);
        Obstacle round{"round", ObstacleKind::Machine, {}, {ConvexBody::turned({-20, 80, 0, 80, 0})}, 0.0};
        QVERIFY(std::abs(depthOf({block("part", ObstacleKind::Part, {0, 0, -3}, {30, 30, 10}), round}) - 3.0) < 1e-9);
        QCOMPARE(depthOf({block("part", ObstacleKind::Part, {80.05, -30, -10}, {120, 30, 10}), round}), 0.0);
    }
    // Boxes anywhere, turned anyhow: what is told must be there, and what is deep must be told.
    void randomBoxes() {
        Random random(311);
        int told = 0, apart = 0;
        for (int i = 0; i < 300; ++i) {
            const Vec3 halfA(random.number(2, 20), random.number(2, 20), random.number(2, 20)), halfB(random.number(2, 20), random.number(2, 20), random.number(2, 20));
            Frame a = Frame::Identity(), b = Frame::Identity();
            a.rotate(Eigen::AngleAxisd(random.number(-3, 3), random.direction()));
            b.rotate(Eigen::AngleAxisd(random.number(-3, 3), random.direction()));
            b.translation() = random.point(25);
            const double truth = byPartingPlanes(halfA, a, halfB, b);
            const double found = depthOf({block("part", ObstacleKind::Part, -halfA, halfA, a), block("b", ObstacleKind::Fixture, -halfB, halfB, b)});
            if (truth < 0.0) QVERIFY2(found == 0.0, qPrintable(QString("apart by %1, told %2").arg(-truth).arg(found)));
            // How far they would have to move is more than how deep a place of a surface can lie: not deeper than the thinner one is thick.
            const double deep = std::min({truth, halfA.minCoeff(), halfB.minCoeff()});
            if (deep > 0.5) QVERIFY2(found > 0.4 * deep - 0.1, qPrintable(QString("%1 deep, told %2").arg(deep).arg(found)));
            (truth < 0.0 ? apart : told) += 1;
        }
        QVERIFY2(apart > 50 && told > 50, qPrintable(QString("%1 %2").arg(apart).arg(told)));
    }
};

GYRE_TEST(TestOverlaps)

} // namespace test_overlaps
#include "test_overlaps.moc"
