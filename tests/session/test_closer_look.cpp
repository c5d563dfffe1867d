// The closer look against what is known: nothing where nothing was cut, an edge broken as deep as its formula says, a gouge, stock that stays.
#include "Near.h"
#include "OpenedJob.h"
#include "Program.h"
#include "edgebreak/BreakSpec.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/CloserLook.h"

namespace test_closer_look {

using namespace gyre;
using test::near;

class TestCloserLook : public QObject {
    Q_OBJECT
    test::OpenedJob m_yoke;
    std::shared_ptr<const OperationResult> m_edges;
    Vec3 m_at = Vec3::Zero(); ///< in the middle of a straight edge of the top

    CloserLook look(const std::vector<std::shared_ptr<const OperationResult>>& done, LookFrom from, double size = 6.0) {
        Progress progress;
        auto made = lookCloser(*m_yoke.place, done, from, m_at, size, progress);
        if (!made) qFatal("%s", made.error().text().c_str());
        return std::move(*made);
    }

private slots:
    void initTestCase() {
        m_yoke = test::openDemoJob("yoke-edges.gyre.json");
        StageCache cache;
        Progress progress;
        m_edges = runOperation(*m_yoke.place, m_yoke.job.worked().front(), cache, progress).value();
        QVERIFY(m_edges->complete());
        const Part& part = *m_yoke.place->part;
        double longest = 0.0;
        for (const EdgeInfo& e : part.edges())
            if (e.kind == CurveKind::Line && std::abs(e.middle.z() - 62) < 1e-6 && std::abs(e.angle - kPi / 2) < 1e-6 && e.length > longest && e.faces[0] >= 0) {
                double nearest = 1e9;
                for (const Vec3& c : m_edges->path()->contact) nearest = std::min(nearest, (c - e.middle).norm());
                if (nearest > 1.5) continue; // not one that is broken
                longest = e.length;
                m_at = e.middle;
            }
        QVERIFY2(longest > 8, qPrintable(QString::number(longest)));
    }
    void nothingIsGoneBeforeTheFirstCut() {
        const CloserLook l = look({}, LookFrom::Part);
        QVERIFY(l.cell < 0.04 && l.skin.triangles.size() > 1000 && l.off.size() == l.skin.points.size());
        QVERIFY2(l.least > -l.cell && l.most < l.cell, qPrintable(QString("%1 %2").arg(l.least).arg(l.most)));
        QCOMPARE(l.broken, 0.0);
    }
    // A ball of radius r that takes legs ℓ off an edge of 90° leaves a groove; its deepest place stands this far below both faces.
    void aBrokenEdgeIsAsDeepAsItsFormula() {
        const CloserLook l = look({m_edges}, LookFrom::Part);
        const Recipe r = m_yoke.job.worked().front();
        const double leg = r.edge->size, radius = 0.5 * m_edges->tool.cutter.diameter;
        QCOMPARE(m_edges->tool.cutter.shape == CutterShape::Ball || m_edges->tool.cutter.shape == CutterShape::Lollipop, true);
        const double deep = (radius - (std::sqrt(radius * radius - 0.5 * leg * leg) - leg / std::sqrt(2.0))) / std::sqrt(2.0);
        QVERIFY2(near(l.broken, deep, 0.5 * l.cell + 0.005), qPrintable(QString("%1 %2").arg(l.broken).arg(deep)));
        QVERIFY2(l.most < l.cell && l.least > -l.cell, qPrintable(QString::number(l.least))); // nothing is gone but at the edge
    }
    void aGougeIsSeenAndStockStays() {
        // A flat cutter 0.15 too low across the top.
        auto gouge = std::make_shared<OperationResult>();
        auto links = std::make_shared<LinkResult>();
        const Vec3 way = Vec3(1, 0, 0);
        links->path.push(m_at - 10 * way - Vec3(0, 0, 0.15), Vec3::UnitZ(), Motion::Rapid, 0, 0);
        links->path.push(m_at + 10 * way - Vec3(0, 0, 0.15), Vec3::UnitZ(), Motion::Cut, 0, 500);
        gouge->links = links;
        gouge->tool = test::flatTool(3, 12);
        const CloserLook l = look({gouge}, LookFrom::Part, 4.0);
        QVERIFY2(near(-l.least, 0.15, 0.5 * l.cell), qPrintable(QString::number(l.least)));
        QCOMPARE(l.broken, 0.0);
        // Beside a broken edge it is seen all the same.
        const CloserLook both = look({m_edges, gouge}, LookFrom::Part, 4.0);
        QVERIFY2(near(-both.least, 0.15, 0.5 * both.cell) && both.broken > 0.05, qPrintable(QString("%1 %2").arg(both.least).arg(both.broken)));
        // 0.3 stand all around the roughed part, in corners by the diagonal of that.
        const CloserLook s = look({}, LookFrom::Stock, 12.0);
        QVERIFY2(s.most > 0.29 && s.most < 0.3 * std::sqrt(3.0) + 0.1, qPrintable(QString::number(s.most)));
    }
    void whatCannotBeLookedAtSaysWhy() {
        Progress progress;
        const auto nowhere = lookCloser(*m_yoke.place, {}, LookFrom::Part, Vec3(500, 0, 0), 8.0, progress);
        QVERIFY(!nowhere && nowhere.error().text().find("nothing of the part") != std::string::npos);
        progress.cancel();
        QVERIFY(!lookCloser(*m_yoke.place, {m_edges}, LookFrom::Part, m_at, 8.0, progress));
        auto dome = test::openDemoJob("dome-edges.gyre.json");
        Progress again;
        const auto none = lookCloser(*dome.place, {}, LookFrom::Stock, Vec3(0, 0, 60), 8.0, again);
        QVERIFY(!none && none.error().text().find("no stock") != std::string::npos);
    }
};

GYRE_TEST(TestCloserLook)

} // namespace test_closer_look
#include "test_closer_look.moc"
