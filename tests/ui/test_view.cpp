// Camera, picking and colours, without a window.
#include "Program.h"
#include "Support.h"
#include "Theme.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "view/Camera.h"
#include "view/Picking.h"
#include <set>

namespace test_view {

using namespace gyre;
using test::Random;

namespace {

// Relative luminance and contrast as the web accessibility guidelines define them.
double luminance(const QColor& c) {
    const auto linear = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
    const double high = std::max(luminance(a), luminance(b)), low = std::min(luminance(a), luminance(b));
    return (high + 0.05) / (low + 0.05);
}

Camera cameraAt(const Box& box, double azimuth, double elevation) {
    Camera c;
    c.resize({900, 700});
    c.look(azimuth, elevation);
    c.frame(box);
    return c;
}

} // namespace

class TestView : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_box, m_cylinder;

private slots:
    void initTestCase() {
        m_box = test::openPart(test::boxStep(m_dir.path().toStdString(), 30, 20, 10));
        m_cylinder = test::openPart(test::cylinderStep(m_dir.path().toStdString(), 15, 40));
    }
    void raysGoThroughThePixelsTheyAreAskedFor() {
        Random r(101);
        for (int i = 0; i < 2000; ++i) {
            const Camera c = cameraAt(m_box->mesh().bounds(), r.number(-180, 180), r.number(-80, 80));
            const QPointF pixel(r.number(0, 900), r.number(0, 700));
            const auto ray = c.ray(pixel);
            const auto back = c.project(ray.origin + r.number(20, 400) * ray.direction);
            QVERIFY(back && (*back - pixel).manhattanLength() < 0.1);
        }
    }
    void framingShowsTheWholeBox() {
        Random r(102);
        for (int i = 0; i < 500; ++i) {
            Box box;
            box.add(r.point(200));
            box.add(r.point(200));
            const Camera c = cameraAt(box, r.number(-180, 180), r.number(-80, 80));
            for (int k = 0; k < 8; ++k) {
                const Vec3 corner((k & 1) ? box.low.x() : box.high.x(), (k & 2) ? box.low.y() : box.high.y(), (k & 4) ? box.low.z() : box.high.z());
                const auto p = c.project(corner);
                QVERIFY(p && p->x() > 0 && p->x() < 900 && p->y() > 0 && p->y() < 700);
            }
        }
    }
    void zoomingKeepsWhatIsUnderTheCursor() {
        Camera c = cameraAt(m_box->mesh().bounds(), -60, 30);
        const QPointF pixel(300, 500);
        // The point on the plane of the turning point stays under the cursor.
        const double before = c.pixelSize();
        c.zoom(1.5, pixel);
        QVERIFY(c.pixelSize() < before);
        for (int i = 0; i < 200; ++i) c.zoom(1.5, pixel);
        QVERIFY(c.pixelSize() > 0.0 && std::isfinite(c.pixelSize()));
        for (int i = 0; i < 400; ++i) c.zoom(0.5, pixel);
        QVERIFY(std::isfinite(c.pixelSize()));
    }
    // From every side: the face under the middle pixel is the one whose outside looks at us, and the point lies on it.
    void theFaceUnderThePixelIsTheNearestOne() {
        Random r(103);
        for (int i = 0; i < 300; ++i) {
            const Camera c = cameraAt(m_box->mesh().bounds(), r.number(-180, 180), r.number(-85, 85));
            const FaceHit hit = faceAt(*m_box, c, QPointF(450, 350));
            QVERIFY(hit.face >= 0);
            const FaceInfo& f = m_box->faces()[static_cast<std::size_t>(hit.face)];
            QVERIFY(f.normal.dot(c.direction()) < 0.05);
            QVERIFY(std::abs((hit.point - f.centre).dot(f.normal)) < 1e-6);
        }
        QCOMPARE(faceAt(*m_box, cameraAt(m_box->mesh().bounds(), 0, 0), QPointF(2, 2)).face, -1);
    }
    void edgesArePickedOnlyWhereTheyAreSeen() {
        const Camera c = cameraAt(m_box->mesh().bounds(), -60, 30);
        int seen = 0;
        for (std::size_t e = 0; e < m_box->edges().size(); ++e) {
            const auto p = c.project(m_box->edges()[e].middle);
            QVERIFY(p);
            const int got = edgeAt(*m_box, c, *p);
            if (got == static_cast<int>(e))
                ++seen;
            else
                QVERIFY(got == -1 || (m_box->edges()[static_cast<std::size_t>(got)].middle - m_box->edges()[e].middle).norm() > 1e-9);
        }
        QCOMPARE(seen, 9); // of twelve, three lie behind a box seen from a corner
    }
    void guessesGrowFromTheFaceToItsNeighbours() {
        const auto box = faceGuesses(*m_box, 0);
        QCOMPARE(box.front().faces, std::vector<int>{0});
        QVERIFY(box.front().words.contains("face"));
        const auto collar = test::openPart(test::demoFile("lantern-collar.step"));
        const Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        const auto picked = resolveFaces(*collar, job.route[0].target->faces).value();
        const auto guesses = faceGuesses(*collar, picked[0]);
        QVERIFY(guesses.size() >= 2);
        for (std::size_t i = 1; i < guesses.size(); ++i) {
            QVERIFY(guesses[i].faces.size() > guesses[i - 1].faces.size());
            const std::set<int> larger(guesses[i].faces.begin(), guesses[i].faces.end());
            QVERIFY(larger.count(picked[0]));
        }
    }
    void edgeGuessesAreTheSideAndThenTheEdge() {
        int top = -1;
        for (std::size_t f = 0; f < m_box->faces().size(); ++f)
            if (m_box->faces()[f].normal.z() > 0.9) top = static_cast<int>(f);
        const int edge = borderLoops(*m_box, {top})[0].edges[0];
        const auto guesses = edgeGuesses(*m_box, {top}, edge);
        QVERIFY(!guesses.empty());
        for (const Guess& g : guesses) QVERIFY(std::find(g.edges.begin(), g.edges.end(), edge) != g.edges.end());
    }
    void placesOnThePathAreFoundByTheirPixel() {
        Toolpath path;
        for (int i = 0; i <= 60; ++i) {
            const Vec3 p(0.5 * i, 10, 10);
            path.push(p, Vec3::UnitZ(), p, Vec3::UnitZ(), Motion::Cut, 0, 100, 0);
        }
        const Camera c = cameraAt(m_box->mesh().bounds(), -60, 40);
        for (std::size_t i = 0; i <= 60; i += 10) {
            const auto at = locationAt(*m_box, path, c, *c.project(path.tip[i]));
            QVERIFY(at && std::abs(static_cast<double>(*at) - static_cast<double>(i)) <= 1);
        }
        QVERIFY(!locationAt(*m_box, path, c, QPointF(2, 2)));
    }
    void textIsReadableInBothThemes() {
        const auto readable = [](const QColor& text, const QColor& ground) {
            QVERIFY2(contrast(text, ground) >= 4.5, qPrintable(QString("%1 on %2: %3").arg(text.name(), ground.name()).arg(contrast(text, ground))));
        };
        for (const Theme& t : {Theme::paper(), Theme::night()}) {
            for (const QColor& ground : {t.ground, t.panel, t.card}) {
                readable(t.ink, ground);
                readable(t.softInk, ground);
                QVERIFY(contrast(t.ochre, ground) >= 3.0); // lines and marks
            }
            // Words of the recipe and findings stand on cards.
            readable(t.accent, t.card);
            readable(t.unsafe, t.card);
            readable(t.unsafe, t.unsafeSoft);
        }
    }
};

GYRE_TEST(TestView)

} // namespace test_view
#include "test_view.moc"
