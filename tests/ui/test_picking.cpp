// What lies under the cursor, in a window or in a lasso: pure geometry of camera and part, no window needed.
#include "Program.h"
#include "Support.h"
#include "view/Picking.h"
#include <set>

namespace test_picking {

using namespace gyre;

namespace {

Camera cameraOn(const Part& part, double azimuth, double elevation) {
    Camera c;
    c.resize({900, 700});
    c.look(azimuth, elevation);
    c.frame(part.mesh().bounds());
    return c;
}
QPolygonF around(const Camera& c, const Polyline& points, double margin) {
    QRectF r;
    for (const Vec3& p : points)
        if (const auto q = c.project(p)) r = r.isNull() ? QRectF(*q, QSizeF(1e-3, 1e-3)) : r.united(QRectF(*q, QSizeF(1e-3, 1e-3)));
    return QPolygonF(r.adjusted(-margin, -margin, margin, margin));
}

} // namespace

class TestPicking : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_box, m_pocket;

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_box = test::openPart(test::boxStep(dir, 40, 30, 20));
        m_pocket = test::openPart(test::filletedPocket(dir));
    }
    // From any side of a box exactly the faces that look to the eye are taken by a window over all of it.
    void aWindowTakesWhatFacesTheEye() {
        test::Random random(111);
        for (int i = 0; i < 60; ++i) {
            const Camera c = cameraOn(*m_box, random.number(-180, 180), random.number(-80, 80));
            const QPolygonF all(QRectF(-1e4, -1e4, 2e4, 2e4));
            std::vector<int> want;
            for (int f = 0; f < static_cast<int>(m_box->faces().size()); ++f) {
                const FaceInfo& info = m_box->faces()[static_cast<std::size_t>(f)];
                if (info.normal.dot(c.eye() - info.centre) > 0.0) want.push_back(f);
            }
            QCOMPARE(facesInside(*m_box, c, all), want);
            QVERIFY(want.size() <= 3);
            // Of the edges those of the faces that are seen.
            for (const int e : edgesInside(*m_box, c, all)) {
                const auto& faces = m_box->edges()[static_cast<std::size_t>(e)].faces;
                QVERIFY(std::find(want.begin(), want.end(), faces[0]) != want.end() || std::find(want.begin(), want.end(), faces[1]) != want.end());
            }
            QVERIFY(facesInside(*m_box, c, QPolygonF(QRectF(0, 0, 5, 5))).empty());
        }
    }
    void aLassoAroundOneFaceTakesIt() {
        const Camera c = cameraOn(*m_pocket, -60, 40);
        int taken = 0;
        for (const int f : facesInside(*m_pocket, c, QPolygonF(QRectF(-1e4, -1e4, 2e4, 2e4)))) {
            const auto inside = facesInside(*m_pocket, c, around(c, m_pocket->faceMesh(f).points, 2.0));
            QVERIFY(std::find(inside.begin(), inside.end(), f) != inside.end());
            // A lasso that leaves out a corner of it does not.
            const auto less = facesInside(*m_pocket, c, around(c, m_pocket->faceMesh(f).points, -4.0));
            QVERIFY(std::find(less.begin(), less.end(), f) == less.end());
            ++taken;
        }
        QVERIFY(taken >= 5);
    }
    void facesUnderThePixelAreTheNearestOnes() {
        test::Random random(112);
        for (int i = 0; i < 300; ++i) {
            const Camera c = cameraOn(*m_pocket, random.number(-180, 180), random.number(5, 80));
            const QPointF pixel(random.number(200, 700), random.number(150, 550));
            const FaceHit hit = faceAt(*m_pocket, c, pixel);
            // The point found is where the ray of its own pixel goes, on the face that is told, and nothing lies before it.
            if (hit.face < 0) continue;
            const auto back = c.project(hit.point);
            QVERIFY(back && std::hypot(back->x() - pixel.x(), back->y() - pixel.y()) < 0.05);
            QVERIFY((m_pocket->project(hit.face, hit.point).point - hit.point).norm() < 0.03);
            const Vec3 way = (hit.point - c.eye()).normalized();
            const RayHit first = m_pocket->tree().ray(c.eye(), way);
            QVERIFY(first.hit && std::abs(first.distance - (hit.point - c.eye()).norm()) < 1e-3);
        }
    }
    void cornersDrawPointsToThemselves() {
        const Camera c = cameraOn(*m_box, -60, 30);
        int seen = 0;
        for (int i = 0; i < 8; ++i) {
            const Vec3 corner(i & 1 ? 40 : 0, i & 2 ? 30 : 0, i & 4 ? 20 : 0);
            const auto q = c.project(corner);
            QVERIFY(q);
            const auto found = cornerAt(*m_box, c, *q + QPointF(5, 4));
            if (!found) continue; // behind the box
            QVERIFY((*found - corner).norm() < 1e-6);
            QVERIFY(!cornerAt(*m_box, c, *q + QPointF(5, 4), 3.0));
            ++seen;
        }
        QCOMPARE(seen, 7); // all but the one behind
    }
    void guessesGrowFromOneToMany() {
        for (int f = 0; f < static_cast<int>(m_pocket->faces().size()); ++f) {
            const auto guesses = faceGuesses(*m_pocket, f);
            QVERIFY(guesses.front().faces == std::vector<int>{f});
            for (const Guess& g : guesses) {
                QVERIFY(!g.words.isEmpty() && std::find(g.faces.begin(), g.faces.end(), f) != g.faces.end());
                QVERIFY(std::set<int>(g.faces.begin(), g.faces.end()).size() == g.faces.size());
            }
        }
        for (int e = 0; e < static_cast<int>(m_pocket->edges().size()); ++e) {
            if (m_pocket->edges()[static_cast<std::size_t>(e)].degenerate) continue;
            std::set<std::vector<int>> different;
            for (const Guess& g : edgeGuesses(*m_pocket, {}, e)) {
                QVERIFY(!g.words.isEmpty() && std::find(g.edges.begin(), g.edges.end(), e) != g.edges.end());
                std::vector<int> sorted = g.edges;
                std::sort(sorted.begin(), sorted.end());
                QVERIFY2(different.insert(sorted).second, "the same guess twice");
            }
        }
    }
};

GYRE_TEST(TestPicking)

} // namespace test_picking
#include "test_picking.moc"
