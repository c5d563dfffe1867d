// What is picked: faces and edges by reference, borders, sides, chains, rails.
#include "Program.h"
#include "Support.h"
#include "target/Target.h"
#include <set>

namespace test_target {

using namespace gyre;

class TestTarget : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_box, m_cylinder, m_cone;
    int m_top = -1;

    static std::vector<int> allFaces(const Part& p) {
        std::vector<int> f(p.faces().size());
        for (std::size_t i = 0; i < f.size(); ++i) f[i] = static_cast<int>(i);
        return f;
    }
    static int wallOf(const Part& p) {
        for (std::size_t f = 0; f < p.faces().size(); ++f)
            if (p.faces()[f].kind != SurfaceKind::Plane) return static_cast<int>(f);
        return -1;
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_box = test::openPart(test::boxStep(dir, 30, 20, 10));
        m_cylinder = test::openPart(test::cylinderStep(dir, 15, 40));
        m_cone = test::openPart(test::coneStep(dir, 20, 10, 30));
        for (std::size_t f = 0; f < m_box->faces().size(); ++f)
            if (m_box->faces()[f].normal.z() > 0.9) m_top = static_cast<int>(f);
    }
    void picksComeBackSortedAndWithoutDoubles() {
        const auto refs = std::vector<ShapeRef>{m_box->faceRef(4), m_box->faceRef(1), m_box->faceRef(4)};
        QCOMPARE(resolveFaces(*m_box, refs).value(), (std::vector<int>{1, 4}));
        QVERIFY(resolveFaces(*m_box, {})->empty());
    }
    void aFaceThatIsGoneIsNamed() {
        ShapeRef stranger = m_box->faceRef(0);
        stranger.size *= 3.0;
        stranger.centre += Vec3(100, 0, 0);
        const auto got = resolveFaces(*m_box, {stranger});
        QVERIFY(!got && !got.error().what.empty() && !got.error().remedy.empty());
        ShapeRef edge = m_box->edgeRef(0);
        edge.size = 777;
        QVERIFY(!resolveEdges(*m_box, {edge}));
    }
    void theBorderOfABoxTopIsItsFourEdges() {
        const auto loops = borderLoops(*m_box, {m_top});
        QCOMPARE(loops.size(), std::size_t(1));
        QVERIFY(loops[0].closed);
        QCOMPARE(loops[0].edges.size(), std::size_t(4));
        QVERIFY(std::abs(chainLength(*m_box, loops[0]) - 100.0) < 1e-9);
        // Walking it, each edge begins where the one before ended.
        const auto end = [&](std::size_t i, bool last) {
            const EdgeInfo& e = m_box->edges()[static_cast<std::size_t>(loops[0].edges[i])];
            return last != loops[0].reversed[i] ? e.end : e.start;
        };
        for (std::size_t i = 0; i < 4; ++i) QVERIFY((end(i, true) - end((i + 1) % 4, false)).norm() < 1e-9);
    }
    void allFacesOfABodyHaveNoBorder() {
        QVERIFY(borderLoops(*m_box, allFaces(*m_box)).empty());
        QVERIFY(borderLoops(*m_cylinder, allFaces(*m_cylinder)).empty());
    }
    void sidesEndAtCorners() {
        QCOMPARE(borderSides(*m_box, {m_top}, radians(30)).size(), std::size_t(4));
        // A disc has no corner: its side is the whole loop.
        for (std::size_t f = 0; f < m_cylinder->faces().size(); ++f) {
            if (m_cylinder->faces()[f].kind != SurfaceKind::Plane) continue;
            const auto sides = borderSides(*m_cylinder, {static_cast<int>(f)}, radians(30));
            QCOMPARE(sides.size(), std::size_t(1));
            QVERIFY(sides[0].closed);
            QVERIFY(std::abs(chainLength(*m_cylinder, sides[0]) - 2 * kPi * 15) < 1e-6);
        }
    }
    void anEdgeKnowsItsSide() {
        const auto sides = borderSides(*m_box, {m_top}, radians(30));
        for (const auto& s : sides) QCOMPARE(sideOf(*m_box, {m_top}, s.edges[0]).edges, s.edges);
        // An edge off the border stands for itself.
        const std::set<int> border{sides[0].edges[0], sides[1].edges[0], sides[2].edges[0], sides[3].edges[0]};
        for (int e = 0; e < static_cast<int>(m_box->edges().size()); ++e)
            if (!border.count(e)) QCOMPARE(sideOf(*m_box, {m_top}, e).edges, std::vector<int>{e});
    }
    void tangentFacesStopAtSharpEdges() {
        QCOMPARE(tangentFaces(*m_box, m_top), std::vector<int>{m_top});
        QCOMPARE(tangentFaces(*m_box, m_top, radians(91)).size(), std::size_t(6));
        // The collar's eight outer wall faces run into each other.
        const auto collar = test::openPart(test::demoFile("lantern-collar.step"));
        std::size_t most = 0;
        for (std::size_t f = 0; f < collar->faces().size(); ++f) most = std::max(most, tangentFaces(*collar, static_cast<int>(f)).size());
        QVERIFY(most >= 8);
    }
    void railsOfRoundWallsAreTheirTwoCirclesTheLowerFirst() {
        for (const auto& part : {m_cylinder, m_cone}) {
            const auto rails = proposeRails(*part, {wallOf(*part)});
            QVERIFY(rails);
            QVERIFY(rails->first.closed && rails->second.closed);
            QVERIFY(part->edges()[static_cast<std::size_t>(rails->first.edges[0])].middle.z() <
                    part->edges()[static_cast<std::size_t>(rails->second.edges[0])].middle.z());
        }
    }
    void railsOfARectangleAreItsLongSides() {
        const auto rails = proposeRails(*m_box, {m_top});
        QVERIFY(rails);
        QVERIFY(std::abs(chainLength(*m_box, rails->first) - 30) < 1e-9 && std::abs(chainLength(*m_box, rails->second) - 30) < 1e-9);
        QVERIFY(rails->first.edges != rails->second.edges);
    }
    void whatHasNoTwoSidesSaysSo() {
        const auto whole = proposeRails(*m_box, allFaces(*m_box));
        QVERIFY(!whole && !whole.error().what.empty());
        for (std::size_t f = 0; f < m_cylinder->faces().size(); ++f)
            if (m_cylinder->faces()[f].kind == SurfaceKind::Plane) QVERIFY(!proposeRails(*m_cylinder, {static_cast<int>(f)}));
    }
    void chainsNeedEdgesThatMeet() {
        const auto loop = borderLoops(*m_box, {m_top})[0].edges;
        QVERIFY(!chainOf(*m_box, {loop[0], loop[2]})); // opposite sides
        const auto three = chainOf(*m_box, {loop[2], loop[0], loop[1]});
        QVERIFY(three && !three->closed && three->edges.size() == 3);
        const auto all = chainOf(*m_box, {loop[3], loop[1], loop[0], loop[2]});
        QVERIFY(all && all->closed);
        // A branch: three edges at one corner of the box.
        const Vec3 corner = m_box->edges()[static_cast<std::size_t>(loop[0])].start;
        std::vector<int> star;
        for (std::size_t e = 0; e < m_box->edges().size(); ++e)
            if ((m_box->edges()[e].start - corner).norm() < 1e-9 || (m_box->edges()[e].end - corner).norm() < 1e-9) star.push_back(static_cast<int>(e));
        QCOMPARE(star.size(), std::size_t(3));
        QVERIFY(!chainOf(*m_box, star));
    }
};

GYRE_TEST(TestTarget)

} // namespace test_target
#include "test_target.moc"
