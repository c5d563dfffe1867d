// Milling as a part of jobs: first guesses, what a result rests on, what is left of the stock, and the roughing of the demo measured on it.
#include "Engagement.h"
#include "Near.h"
#include "OpenedJob.h"
#include "Program.h"
#include "link/Link.h"
#include "link/LinkSpec.h"
#include "milling/Mill.h"
#include "milling/MillSpec.h"
#include "operation/Meant.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "proposal/MillWork.h"

namespace test_mill_work {

using namespace gyre;
using test::near;

class TestMillWork : public QObject {
    Q_OBJECT
    test::OpenedJob m_yoke, m_barrel;

    static std::vector<int> faces(const Part& part, const auto& wanted) {
        std::vector<int> out;
        for (std::size_t f = 0; f < part.faces().size(); ++f)
            if (wanted(part.faces()[f])) out.push_back(static_cast<int>(f));
        return out;
    }
    static std::uint64_t keyOf(const Job& job, const std::string& id) { return operationKey(7, job.resolved(*job.operation(id)), job.tool(job.operation(id)->tool)); }

private slots:
    void initTestCase() {
        m_yoke = test::openDemoJob("yoke-work.gyre.json");
        m_barrel = test::openDemoJob("barrel-work.gyre.json");
    }

    void whatIsPickedIsKnownByItsShape() {
        const Part& yoke = *m_yoke.place->part;
        const Part& barrel = *(m_barrel.place->part->body() ? m_barrel.place->part->body() : m_barrel.place->part);
        const auto top = faces(yoke, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && std::abs(f.centre.z() - 62) < 1e-6; });
        const auto ring = faces(yoke, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && std::abs(f.centre.z() - 56) < 1e-6 && f.normal.z() > 0.9; });
        const auto port = faces(yoke, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder && std::abs(f.radius - 5.5) < 1e-6; });
        QVERIFY(!top.empty() && !ring.empty() && !port.empty());
        QCOMPARE(millShapeFor(yoke, {ring[0]}, {}), MillShape::Pocket);
        QCOMPARE(millShapeFor(yoke, {port[0]}, {}), MillShape::Bore);
        QCOMPARE(millShapeFor(yoke, {}, {0}), MillShape::Follow);
        const auto window = faces(barrel, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder && std::abs(f.radius - 38.5) < 1e-6; });
        QVERIFY(!window.empty());
        QCOMPARE(millShapeFor(barrel, {window[0]}, {}), MillShape::Pocket);
        const QTemporaryDir dir;
        const auto opened = test::openPart(test::bossedBar(dir.path().toStdString()));
        const Part& bar = *opened;
        const auto boss = faces(bar, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        QVERIFY(!boss.empty());
        QCOMPARE(millShapeFor(bar, {boss[0]}, {}), MillShape::Face);
    }
    // The first guess fits in, reaches down, and travels over everything that stands there.
    void theFirstGuessFits() {
        for (const char* id : {"op3", "op4", "op5"}) {
            Recipe r = *m_yoke.job.operation(id);
            r.tool.clear();
            fitMill(m_yoke.job, *m_yoke.place, r);
            const Assembly* tool = m_yoke.job.tool(r.tool);
            QVERIFY2(tool, id);
            StageCache cache;
            Progress progress;
            const auto done = runOperation(*m_yoke.place, m_yoke.job.resolved(r), cache, progress).value();
            for (const Finding& f : done->findings) // nothing is cut before it here
                QVERIFY2(f.rank != Rank::Stop || f.code == "rapid-through-stock", f.text.c_str());
            QVERIFY(done->mill->leftOver < 0.05 * done->mill->target.area());
            // What has no upright flank is refused with the reason, and so is a drill.
            for (const char* wrong : {"spot-12", "taper-4", "lollipop-8", "barrel-10", "chamfer-8", "drill-3.2"}) {
                r.tool = wrong;
                const auto refused = runOperation(*m_yoke.place, m_yoke.job.resolved(r), cache, progress).value();
                QVERIFY2(!refused->complete() && !refused->findings.empty() && refused->findings[0].rank == Rank::Stop, wrong);
            }
        }
        const HelicalGroove groove = proposeHelicalGroove(m_barrel.job, *m_barrel.place);
        QVERIFY(near(groove.helix.number("radius"), 40, 0.01) && groove.recipe.mill->on == "round X" && groove.recipe.link->skin.kind == SkinKind::Cylinder &&
                groove.recipe.link->skin.axis == 0);
        // Around everything: outside of stock and fixture by ten at least.
        double furthest = 0.0;
        for (const PlacedBody& b : m_barrel.place->bodies)
            for (const Vec3& p : b.shape->mesh().points) furthest = std::max(furthest, std::hypot(p.y(), p.z()));
        QVERIFY(groove.recipe.link->skin.size >= furthest + 10 - 1e-6);
    }
    // Whatever a path rests on changes its key, whichever way it changes; what it does not rest on leaves it.
    void keysTellAllThatMatters() {
        Job job = m_yoke.job;
        const auto changes = [&](const char* id, const auto& edit) {
            Job other = job;
            edit(other);
            return keyOf(other, id) != keyOf(job, id);
        };
        test::Random random(91);
        for (int i = 0; i < 50; ++i) {
            const Vec3 turn = random.direction();
            const double by = random.number(1e-4, 0.5);
            const auto turned = [&](Job& j) {
                for (WorkPlane& p : j.planes) {
                    p.normal = rotation(turn, by) * p.normal;
                    p.x = rotation(turn, by) * p.x;
                }
            };
            QVERIFY(changes("op1", turned) && changes("op4", turned));
            QVERIFY(changes("op1", [&](Job& j) { j.planes[0].origin += by * turn; }));
        }
        // Roughing rests on all that is cut before it, drawn curves included.
        std::rotate(job.route.begin(), job.route.begin() + 1, job.route.end());
        QVERIFY(changes("op1", [](Job& j) { j.operation("op4")->mill->stepdown += 0.25; }));
        QVERIFY(changes("op1", [](Job& j) { j.operation("op4")->active = false; }));
        QVERIFY(changes("op1", [](Job& j) { j.tool("flat-10")->cutter.diameter -= 0.5; }));
        QVERIFY(!changes("op4", [](Job& j) { j.operation("op1")->mill->stepdown += 0.25; }));
        job = m_barrel.job;
        QVERIFY(changes("op3", [](Job& j) { j.mends[0].numbers["pitch"] += 0.5; }));
        QVERIFY(changes("op4", [](Job& j) { j.mends[0].numbers["pitch"] += 0.5; })); // its rapids run through what op3 leaves
        for (const char* id : {"op1", "op2"}) QVERIFY2(!changes(id, [](Job& j) { j.mends[0].numbers["pitch"] += 0.5; }), id);
    }
    void curvesAreFoundByName() {
        QCOMPARE(curvesNamed(*m_barrel.place, "follower")->curves.size(), std::size_t(1));
        QCOMPARE(curvesNamed(*m_barrel.place, "other followers")->curves.size(), std::size_t(2));
        QCOMPARE(curvesNamed(*m_barrel.place, "other followers/2")->curves.size(), std::size_t(1));
        QVERIFY(curvesNamed(*m_barrel.place, "degree scale")->flat);
        for (const char* none : {"other followers/3", "other followers/0", "follow", "followers", "", "degree"}) QVERIFY2(!curvesNamed(*m_barrel.place, none), none);
    }
    void jobsWithMillingSurviveARoundTripAndDamage() {
        for (const Job* job : {&m_yoke.job, &m_barrel.job}) {
            const std::string text = jobToJson(*job);
            QCOMPARE(jobToJson(jobFromJson(text, "job").value()), text);
            test::Random random(92);
            for (int i = 0; i < 400; ++i) {
                std::string t = text;
                for (int k = random.integer(1, 6); k > 0; --k)
                    t[static_cast<std::size_t>(random.integer(0, static_cast<int>(t.size()) - 1))] = static_cast<char>(random.integer(32, 126));
                if (const auto damaged = jobFromJson(t, "job")) QVERIFY(jobFromJson(jobToJson(*damaged), "again"));
            }
        }
        Job job = m_yoke.job;
        for (const auto& [key, value] :
             {std::pair{"mill.stepover", "0"}, std::pair{"mill.stepover", "-1"}, std::pair{"mill.depth", "1e12"}, std::pair{"mill.stepdown", "0.001"},
              std::pair{"mill.shape", "\"lathe\""}, std::pair{"repeat.count", "0"}, std::pair{"repeat.count", "1e9"}, std::pair{"repeat.planes", "7"},
              std::pair{"mill.passes", "1.5"}, std::pair{"mill.rampDegrees", "90"}, std::pair{"target.drawings", "[3]"}})
            QVERIFY2(!setWord(job, "op4", key, value), key);
        QCOMPARE(jobToJson(job), jobToJson(m_yoke.job));
    }
    // The stock after the roughing of the demo: nothing of the part is missing, and little of the way was in air.
    void theRoughingOfTheYoke() {
        StageCache cache;
        Progress progress;
        RouteStock left(m_yoke.place, cache);
        const Recipe r = m_yoke.job.worked().front();
        QCOMPARE(r.mill->shape, MillShape::Rough);
        const auto done = runOperation(*m_yoke.place, r, cache, progress, {}, [&](Progress& p) { return left.now(p); }).value();
        QVERIFY(done->complete());
        Stock stock = *left.now(progress).value();
        const double whole = stock.volume();
        const Toolpath& path = done->links->path;
        double cut = 0.0, air = 0.0;
        for (std::size_t i = 1; i < path.size(); ++i) {
            const Vec3 way = path.tip[i] - path.tip[i - 1];
            if (path.motion[i] == Motion::Rapid || path.motion[i] == Motion::Retract) continue;
            const int n = std::max(1, static_cast<int>(std::ceil(way.norm() / 1.0)));
            for (int k = 1; k <= n; ++k) {
                const AxisPose at{path.tip[i - 1] + way * k / n, path.axis[i]};
                const bool takes = stock.within(at, done->tool.cutter) > 0.0;
                if (takes) stock.remove(at, done->tool.cutter);
                if (path.motion[i] == Motion::Cut) (takes ? cut : air) += way.norm() / n;
            }
        }
        qInfo("cut %.0f mm, air %.0f mm: %.1f %%; %.0f of %.0f mm³ taken", cut, air, 100 * air / (cut + air), whole - stock.volume(), whole);
        QVERIFY2(air <= 0.02 * (cut + air), qPrintable(QString::number(air / (cut + air))));
        QVERIFY(whole - stock.volume() > 0.1 * whole);
        // What is engaged, level by level, in the full block: looked at from above.
        const double radius = 0.5 * done->tool.cutter.diameter, wanted = std::acos(1.0 - r.mill->stepover / radius);
        std::vector<double> levels;
        FlatPass all;
        for (std::size_t i = 0; i < path.size(); ++i) {
            const double z = path.tip[i].z();
            if (path.motion[i] == Motion::Cut && (levels.empty() || z < levels.back() - 1e-3)) levels.push_back(z);
            FlatPoint p;
            p.at = path.tip[i];
            p.motion = path.motion[i];
            all.points.push_back(p);
        }
        test::Engaged engaged;
        for (const double level : levels) {
            FlatPass from; // what runs lower comes later
            for (const FlatPoint& p : all.points)
                if (p.at.z() > level - 1e-3) from.points.push_back(p);
            test::EngagementGrid grid(Vec2(-70, -54), Vec2(70, 54), 0.1, [](const Vec2& p) { return std::abs(p.x()) < 60 && std::abs(p.y()) < 44; });
            const test::Engaged one = grid.run({from}, radius, wanted, level);
            one.tell(qPrintable(QString("level %1").arg(level)), wanted);
            engaged.add(one);
        }
        engaged.tell("all levels", wanted);
        // Below what is wanted where less than a step is left along a wall; else nowhere, and hardly ever above it.
        QVERIFY2(engaged.off <= 0.03 * engaged.steady, qPrintable(QString::number(engaged.off / engaged.steady)));
        QVERIFY2(engaged.heavy <= 0.005 * engaged.steady, qPrintable(QString::number(engaged.heavy / engaged.steady)));
        QVERIFY2(engaged.leading <= 1.3 * wanted, qPrintable(QString::number(degrees(engaged.leading))));
        // No point of the part's skin has lost its material: everywhere at least the allowance stands before it.
        const TriangleMesh& mesh = m_yoke.place->part->mesh();
        const RoundedFrustum kPoint{0.0, 0.0, 0.0, 0.0, 1e-6};
        for (const auto& t : mesh.triangles) {
            const Vec3 middle = (mesh.points[t[0]] + mesh.points[t[1]] + mesh.points[t[2]]) / 3.0,
                       normal = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).normalized();
            const Vec3 inside = middle - 2.0 * stock.cell() * normal;
            if (middle.z() > 41 && std::isfinite(normal.x()) && m_yoke.place->part->tree().distance({inside, Vec3::UnitZ()}, &kPoint, 1, 10.0) > 1.5 * stock.cell())
                QVERIFY(stock.inside(inside));
        }
        // What is left goes on into the next operation, the same however it is asked for.
        left.add(done);
        const double then = left.now(progress).value()->volume();
        QVERIFY(near(then, stock.volume(), 0.004 * whole));
        RouteStock again(m_yoke.place, cache);
        again.add(done);
        QCOMPARE(again.now(progress).value()->volume(), then);
    }
    // A rapid through what still stands is told; once that is cut away it is not.
    void rapidsIntoWhatStandsAreTold() {
        StageCache cache;
        Progress progress;
        const auto told = [&](const Recipe& r, RouteStock& left) {
            const auto done = runOperation(*m_yoke.place, m_yoke.job.resolved(r), cache, progress, {}, [&](Progress& p) { return left.now(p); }).value();
            return std::any_of(done->findings.begin(), done->findings.end(), [](const Finding& f) { return f.code == "rapid-through-stock"; });
        };
        const Recipe& ring = *m_yoke.job.operation("op3");
        RouteStock untouched(m_yoke.place, cache), roughed(m_yoke.place, cache);
        QVERIFY(told(ring, untouched));
        for (const char* id : {"op1", "op2"})
            roughed.add(
                runOperation(*m_yoke.place, m_yoke.job.resolved(*m_yoke.job.operation(id)), cache, progress, {}, [&](Progress& p) { return roughed.now(p); }).value());
        QVERIFY(!told(ring, roughed));
    }
    // The drop against small steps: no triangle is entered, and half a step further one would be.
    void theDropAgainstBruteForce() {
        const Part& part = *m_yoke.place->part;
        test::Random random(93);
        const Assembly tools[] = {test::flatTool(6, 20), test::ballTool(8, 60)};
        int rested = 0;
        for (int i = 0; i < 120; ++i) {
            const Cutter& c = tools[i % 2].cutter;
            const Vec3 axis = rotation(random.direction(), random.number(0, 0.5)) * Vec3::UnitZ();
            const AxisPose high{Vec3(random.number(-50, 50), random.number(-35, 35), 30) + 60.0 * axis, axis};
            const double range = 90, down = dropOnto(part.tree(), c, high, range);
            const auto pieces = cuttingZone(c);
            const auto near = [&](double at, double by) {
                const std::vector<double> clearance(pieces.size(), by);
                return part.tree().anyWithin({high.tip - at * axis, axis}, pieces.data(), clearance.data(), pieces.size());
            };
            for (double at = 0.0; at < down - 1e-4; at += 0.05) QVERIFY2(!near(at, 1e-7), qPrintable(QString("at %1 of %2").arg(at).arg(down)));
            if (down >= range) continue;
            QVERIFY(near(down + 2e-3, 1e-6));
            ++rested;
        }
        QVERIFY(rested > 60);
    }
};

GYRE_TEST(TestMillWork)

} // namespace test_mill_work
#include "test_mill_work.moc"
