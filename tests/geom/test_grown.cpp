// Bodies grown by a distance and outlines raised: volumes and distances that are known.
#include "Program.h"
#include "Support.h"
#include "geom/Grown.h"
#include "geom/Inside.h"
#include "geom/Thinned.h"
#include "operation/Workplace.h"

namespace test_grown {

using namespace gyre;

namespace {

TriangleMesh boxMesh(const Vec3& low, const Vec3& high, bool inward = false) {
    StockShape s;
    s.low = low;
    s.high = high;
    TriangleMesh m = s.mesh();
    if (inward)
        for (auto& t : m.triangles) std::swap(t[1], t[2]);
    return m;
}
/// Every side has exactly one neighbour that runs the other way.
bool closed(const TriangleMesh& m) {
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> sides;
    for (const auto& t : m.triangles)
        for (std::size_t k = 0; k < 3; ++k) ++sides[{t[k], t[(k + 1) % 3]}];
    return std::all_of(sides.begin(), sides.end(), [&](const auto& s) { return s.second == 1 && sides.count({s.first.second, s.first.first}); });
}

} // namespace

class TestGrown : public QObject {
    Q_OBJECT
private slots:
    void aThinnedMeshLooksTheSame() {
        TriangleMesh m; // a wavy square of 20 000 triangles in two faces
        constexpr int kSide = 100;
        for (int j = 0; j <= kSide; ++j)
            for (int i = 0; i <= kSide; ++i) {
                m.points.emplace_back(i, j, 3.0 * std::sin(0.05 * i) * std::cos(0.06 * j));
                m.normals.push_back(Vec3::UnitZ());
            }
        for (int j = 0; j < kSide; ++j)
            for (int i = 0; i < kSide; ++i) {
                const auto at = [](int x, int y) { return static_cast<std::uint32_t>(y * (kSide + 1) + x); };
                m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
                m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
                m.faces.insert(m.faces.end(), 2, i < 50 ? 3 : 4);
            }
        const TriangleMesh t = thinned(m, 4.0);
        QVERIFY2(t.triangles.size() < m.triangles.size() / 5, qPrintable(QString::number(t.triangles.size())));
        QCOMPARE(t.faces.size(), t.triangles.size());
        QCOMPARE(t.normals.size(), t.points.size());
        const MeshTree tree(m);
        for (const Vec3& p : t.points) QVERIFY(tree.closest(p).distance < 0.5);
        // The border is untouched: all around it stands as it did.
        const auto whole = [](const TriangleMesh& mesh) {
            double area = 0.0;
            for (std::size_t i = 0; i < mesh.triangles.size(); ++i)
                area += 0.5 * (mesh.corner(i, 1) - mesh.corner(i, 0)).cross(mesh.corner(i, 2) - mesh.corner(i, 0)).z();
            return area;
        };
        QVERIFY(std::abs(whole(t) - 10000.0) < 1e-6);
        QVERIFY(thinned({}, 1.0).triangles.empty());
    }
    void aBoxGrowsByItsParallelBody() {
        const TriangleMesh box = boxMesh(Vec3(0, 0, 0), Vec3(40, 30, 20));
        for (const double d : {3.0, 8.0}) {
            const auto grown = grownMesh(box, MeshTree(box), d, 72);
            QVERIFY(grown);
            QVERIFY(closed(*grown));
            // Steiner: V + S·d + (sum of edges)·π/4·d² + 4π/3·d³
            const double want = 24000 + 5200 * d + 360 * kPi / 4 * d * d + 4 * kPi / 3 * d * d * d;
            QVERIFY2(std::abs(signedVolume(*grown) - want) < 0.005 * want, qPrintable(QString("%1 %2").arg(signedVolume(*grown)).arg(want)));
            const MeshTree tree(box);
            for (const Vec3& p : grown->points) QVERIFY(std::abs(tree.closest(p).distance - d) < 0.001);
        }
    }
    // A skin far thinner than a step of the grid: still solid, with the body inside of it, and its points at the distance. (It was a hollow shell once.)
    void aThinSkinIsSolid() {
        const TriangleMesh box = boxMesh(Vec3(0, 0, 0), Vec3(40, 30, 20));
        const MeshTree tree(box);
        for (const double d : {0.05, 0.3, 0.7}) {
            const auto grown = grownMesh(box, tree, d, 72); // a step is over half a millimetre
            QVERIFY(grown && closed(*grown));
            const double want = 24000 + 5200 * d + 360 * kPi / 4 * d * d + 4 * kPi / 3 * d * d * d;
            // Between its points it is flat: along the edges a part of a step is missing.
            QVERIFY2(std::abs(signedVolume(*grown) - want) < 0.01 * want, qPrintable(QString("%1 mm: %2 %3").arg(d).arg(signedVolume(*grown)).arg(want)));
            for (const Vec3& p : grown->points) QVERIFY(std::abs(tree.closest(p).distance - d) < 0.001);
            const MeshTree skin(*grown);
            test::Random random(19);
            for (int i = 0; i < 400; ++i) QVERIFY(insideClosed(skin, Vec3(random.number(1, 39), random.number(1, 29), random.number(1, 19))));
        }
        for (const char* name : {"lantern-collar.step", "lamp-yoke.step", "whisper-runner.step"}) {
            const auto part = test::openPart(test::demoFile(name));
            const auto grown = grownMesh(part->mesh(), part->tree(), 0.3, 72);
            QVERIFY(grown && closed(*grown));
            QVERIFY2(signedVolume(*grown) > 0.97 * part->volume() && signedVolume(*grown) < 1.35 * part->volume(),
                     qPrintable(QString("%1: %2 around %3").arg(name).arg(signedVolume(*grown)).arg(part->volume())));
        }
    }
    void hollowsAreFilledAndPocketsAreNot() {
        TriangleMesh shell = boxMesh(Vec3(0, 0, 0), Vec3(40, 40, 40));
        shell.append(boxMesh(Vec3(10, 10, 10), Vec3(30, 30, 30), true));
        const auto grown = grownMesh(shell, MeshTree(shell), 2.0, 48);
        QVERIFY(grown && closed(*grown));
        QVERIFY(signedVolume(*grown) > 64000 + 6 * 1600 * 2.0); // solid inside
        // A slot wider than twice the distance stays open: a U of three boxes.
        TriangleMesh u = boxMesh(Vec3(0, 0, 0), Vec3(40, 20, 10));
        u.append(boxMesh(Vec3(0, 0, 0), Vec3(10, 20, 40)));
        u.append(boxMesh(Vec3(30, 0, 0), Vec3(40, 20, 40)));
        const auto open = grownMesh(u, MeshTree(u), 2.0, 64);
        QVERIFY(open && closed(*open));
        const MeshTree tree(*open);
        QVERIFY(!tree.ray(Vec3(20, 10, 60), -Vec3::UnitZ()).hit || tree.ray(Vec3(20, 10, 60), -Vec3::UnitZ()).distance > 45); // down to its floor
    }
    void theSameBytesWhateverTheThreads() {
        const auto part = test::openPart(test::demoFile("lantern-collar.step"));
        const auto a = grownMesh(part->mesh(), part->tree(), 2.0, 40), b = grownMesh(part->mesh(), part->tree(), 2.0, 40);
        QVERIFY(a && b && a->points == b->points && a->triangles == b->triangles);
        QVERIFY(closed(*a));
        for (const Vec3& p : a->points) QVERIFY(std::abs(part->tree().closest(p).distance - 2.0) < 0.01);
    }
    void whatCannotGrowSaysWhy() {
        const TriangleMesh box = boxMesh(Vec3(0, 0, 0), Vec3(4, 3, 2));
        QVERIFY(!grownMesh(box, MeshTree(box), 0.0, 40));
        QVERIFY(!grownMesh(TriangleMesh(), MeshTree(TriangleMesh()), 1.0, 40));
        Progress progress;
        progress.cancel();
        const auto none = grownMesh(box, MeshTree(box), 1.0, 40, &progress);
        QVERIFY(!none && none.error().cancelled);
    }
    void outlinesAreRaised() {
        const Curve ring = circleArc(Vec3(5, 6, 7), Vec3::UnitZ(), Vec3(25, 6, 7), 2 * kPi);
        const auto bar = raisedOutline(ring, 2, -3, 10, 0.001);
        QVERIFY(bar && closed(*bar));
        QVERIFY(std::abs(signedVolume(*bar) - 13 * kPi * 400) < 0.001 * 13 * kPi * 400);
        // A star with deep bays, drawn either way round, raised along each axis.
        for (const bool turned : {false, true})
            for (int axis = 0; axis < 3; ++axis) {
                Polyline star;
                for (int i = 0; i < 14; ++i) {
                    const double r = i % 2 ? 4 : 20, a = (turned ? -1 : 1) * i * kPi / 7;
                    Vec3 p = Vec3::Constant(3.0);
                    p[(axis + 1) % 3] = r * std::cos(a);
                    p[(axis + 2) % 3] = r * std::sin(a);
                    star.push_back(p);
                }
                const auto body = raisedOutline(straightLines(star, true), axis, 0, 5, 0.01);
                QVERIFY2(body, body ? "" : body.error().text().c_str());
                QVERIFY(closed(*body));
                QVERIFY(std::abs(signedVolume(*body) - 5 * 14 * 0.5 * 4 * 20 * std::sin(kPi / 7)) < 1e-6);
            }
        QVERIFY(!raisedOutline(straightLines({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}}), 2, 0, 1, 0.01)); // open
        QVERIFY(!raisedOutline(ring, 2, 5, 5, 0.01));
        QVERIFY(!raisedOutline(ring, 0, 0, 5, 0.01));                                                                  // on edge
        QVERIFY(!raisedOutline(straightLines({{0, 0, 0}, {10, 10, 0}, {10, 0, 0}, {0, 12, 0}}, true), 2, 0, 1, 0.01)); // crosses itself
    }
    void randomPolygonsKeepTheirArea() {
        test::Random random(71);
        for (int i = 0; i < 200; ++i) {
            Polyline p;
            double area = 0.0;
            const int n = random.integer(3, 60);
            for (int k = 0; k < n; ++k) {
                const double r = random.number(2, 30), a = 2 * kPi * k / n;
                p.emplace_back(r * std::cos(a), r * std::sin(a), 0.0);
            }
            for (int k = 0; k < n; ++k) area += 0.5 * p[static_cast<std::size_t>(k)].cross(p[static_cast<std::size_t>((k + 1) % n)]).z();
            const auto body = raisedOutline(straightLines(p, true), 2, 0, 1, 0.01);
            QVERIFY2(body, body ? "" : body.error().text().c_str());
            QVERIFY(closed(*body) && std::abs(signedVolume(*body) - area) < 1e-9 * std::max(1.0, area));
        }
    }
    void stockRestsOnPartsAndCurves() {
        Job job;
        job.machine = "heron-5t.machine.json";
        job.bodies.push_back({"collar", "part", "lantern-collar.step"});
        Mend rim;
        rim.kind = MendKind::Helix;
        rim.name = "coil";
        job.mends.push_back(rim);
        JobBody stock;
        stock.name = "skin";
        stock.role = "stock";
        stock.shape = StockShape{};
        stock.shape->kind = StockShape::Kind::Around;
        stock.shape->allowance = 3.0;
        job.bodies.insert(job.bodies.begin(), stock); // before the part it rests on
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        const auto place = workshop.placeFor(job, progress);
        QVERIFY2(place, place ? "" : place.error().text().c_str());
        QCOMPARE((*place)->bodies.size(), std::size_t(2));
        const auto& skin = (*place)->bodies.back();
        QVERIFY(skin.name == "skin" && skin.shape->volume() > (*place)->part->volume());
        const auto again = jobFromJson(jobToJson(job), "job");
        QVERIFY(again && again->bodies[0].shape == stock.shape);
        // An outline that is no ring, and one that is not there.
        job.bodies[0].shape->kind = StockShape::Kind::Outline;
        for (const char* name : {"coil", "nothing"}) {
            job.bodies[0].shape->outline = name;
            const auto none = workshop.placeFor(job, progress);
            QVERIFY(!none && none.error().place == "skin");
        }
        job.mends[0].kind = MendKind::Sketch;
        job.mends[0].points = sketchPoints("-60 -60; 60 -60; 60 60; -60 60").value();
        job.mends[0].numbers = {{"ends", 1}};
        job.bodies[0].shape->outline = "coil";
        const auto raised = workshop.placeFor(job, progress);
        QVERIFY2(raised, raised ? "" : raised.error().text().c_str());
        QVERIFY(std::abs((*raised)->bodies.back().shape->volume() - 120 * 120 * 50) < 1.0);
        const auto text = jobFromJson(jobToJson(job), "job");
        QVERIFY(text && text->bodies[0].shape->outline == "coil");
    }
};

GYRE_TEST(TestGrown)

} // namespace test_grown
#include "test_grown.moc"
