// Holes, work planes, reach: known answers on drilled parts.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "machine/Reach.h"
#include "part/WorkPlane.h"

namespace test_holes {

using namespace gyre;

class TestHoles : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
    static const Hole* holeAt(const std::vector<Hole>& holes, const Vec3& mouth) {
        for (const Hole& h : holes)
            if ((h.mouth - mouth).norm() < 1e-6) return &h;
        return nullptr;
    }

private slots:
    void thePlateHasItsNineHolesAndNoMore() {
        const auto part = test::openPart(test::drilledPlate(dir()));
        const auto holes = findHoles(*part);
        QStringList found;
        for (const Hole& h : holes) found << QString("%1 at %2 %3 %4").arg(QString::fromStdString(h.words())).arg(h.mouth.x()).arg(h.mouth.y()).arg(h.mouth.z());
        QVERIFY2(holes.size() == 9, qPrintable(found.join("\n")));
        for (const double x : {10.0, 110.0})
            for (const double y : {10.0, 70.0}) {
                const Hole* h = holeAt(holes, Vec3(x, y, 20));
                QVERIFY(h && h->bottom == HoleBottom::Through);
                QVERIFY((h->direction - Vec3::UnitZ()).norm() < 1e-9);
                QVERIFY(std::abs(h->depth - 20) < 1e-6 && std::abs(h->diameter() - 8) < 1e-9);
            }
        const Hole* bored = holeAt(holes, Vec3(30, 20, 20));
        QVERIFY(bored && bored->sections.size() == 2);
        QVERIFY(std::abs(bored->sections[0].to - 6) < 1e-6 && std::abs(bored->sections[0].fromRadius - 8) < 1e-6);
        QVERIFY(std::abs(bored->sections[1].to - 20) < 1e-6 && std::abs(bored->diameter() - 9) < 1e-6);
        const Hole* flat = holeAt(holes, Vec3(50, 20, 20));
        QVERIFY(flat && flat->bottom == HoleBottom::Flat && std::abs(flat->depth - 12) < 1e-6);
        const Hole* tipped = holeAt(holes, Vec3(70, 20, 20));
        QVERIFY(tipped && tipped->bottom == HoleBottom::Cone);
        QVERIFY(std::abs(tipped->depth - 10 - 3 / std::tan(radians(59))) < 1e-4 && std::abs(tipped->diameter() - 6) < 1e-6);
        const Hole* chamfered = holeAt(holes, Vec3(90, 20, 20));
        QVERIFY(chamfered && chamfered->bottom == HoleBottom::Through && chamfered->sections.size() == 2);
        QVERIFY(chamfered->sections[0].cone() && std::abs(chamfered->sections[0].fromRadius - 7) < 1e-4);
        QVERIFY(chamfered->words().find("chamfered") != std::string::npos);
        const Hole* side = holeAt(holes, Vec3(0, 50, 10));
        QVERIFY(side && side->bottom == HoleBottom::Flat && (side->direction + Vec3::UnitX()).norm() < 1e-9 && std::abs(side->depth - 15) < 1e-6);
    }
    void groupsHoldWhatOneDrillDoes() {
        const auto part = test::openPart(test::drilledPlate(dir()));
        const auto holes = findHoles(*part);
        const auto groups = groupHoles(holes, std::nullopt);
        QCOMPARE(groups.size(), std::size_t(6));
        const auto four = std::find_if(groups.begin(), groups.end(), [](const HoleGroup& g) { return g.holes.size() == 4; });
        QVERIFY(four != groups.end() && four->words.rfind("4 × Ø8 through, 20 deep, one direction", 0) == 0);
        // About the plate's own X axis at half height only the bore in the middle plane of a radial hole counts.
        const auto turned = groupHoles(holes, AxisLine{Vec3(0, 20, 10), Vec3::UnitX()});
        for (const HoleGroup& g : turned)
            for (const auto i : g.holes) QCOMPARE(g.fourAxis, std::abs(holes[i].direction.z() - 1.0) < 1e-9 && std::abs(holes[i].mouth.y() - 20) < 1e-9);
    }
    void onFacesOnly() {
        const auto part = test::openPart(test::drilledPlate(dir()));
        for (std::size_t f = 0; f < part->faces().size(); ++f) {
            const FaceInfo& info = part->faces()[f];
            if (info.kind == SurfaceKind::Plane && info.normal.x() < -0.999 && info.bounds.high.x() < 1e-6)
                QCOMPARE(findHoles(*part, {static_cast<int>(f)}).size(), std::size_t(1));
        }
    }
    void holesThroughCurvedWalls() {
        const auto part = test::openPart(test::drilledTube(dir()));
        const auto holes = findHoles(*part);
        int cross = 0, leaning = 0, split = 0, bore = 0;
        for (const Hole& h : holes) {
            if (h.diameter() > 20) { // the bore of the tube itself
                ++bore;
                QVERIFY(std::abs(h.diameter() - 60) < 1e-6 && std::abs(h.depth - 100) < 1e-6);
                continue;
            }
            if (std::abs(h.diameter() - 8) < 1e-6) {
                ++cross;
                QVERIFY(h.direction.z() * h.mouth.z() > 0); // out of the tube on either side
                QVERIFY(std::abs(h.mouth.x() - 20) < 1e-6 && std::abs(h.mouth.y()) < 1e-6);
            } else if (std::abs(h.diameter() - 6) < 1e-6) {
                ++leaning;
                QVERIFY(angleBetween(h.direction, Vec3(0.5, 0, std::sqrt(0.75))) < 1e-6);
            } else if (std::abs(h.diameter() - 10) < 1e-6) {
                ++split; // two half cylinders are one hole
                QVERIFY(angleBetween(h.direction, Vec3::UnitY()) < 1e-6);
            }
            QCOMPARE(h.bottom, HoleBottom::Through);
        }
        QCOMPARE(cross, 2);
        QCOMPARE(leaning, 1);
        QCOMPARE(split, 1);
        QCOMPARE(bore, 1);
        const auto groups = groupHoles(holes, AxisLine{Vec3::Zero(), Vec3::UnitX()});
        for (const HoleGroup& g : groups) QCOMPARE(g.fourAxis, std::abs(holes[g.holes[0]].diameter() - 9) < 1.1); // Ø8 and Ø10
    }
    void theDomeHasItsFortyEightStars() {
        const auto part = test::openPart(test::demoFile("pierced-dome.step"));
        auto holes = findHoles(*part);
        std::erase_if(holes, [](const Hole& h) { return h.diameter() > 20; }); // the inside of the rim
        QCOMPARE(holes.size(), std::size_t(48));
        QCOMPARE(groupHoles(holes, std::nullopt).size(), std::size_t(4)); // four drills
        for (const Hole& h : holes) {
            QVERIFY(h.direction.dot(h.mouth.normalized()) > 0.9);              // outward
            QVERIFY(angleBetween(h.direction, h.mouth) > radians(4.0));        // never square to the surface
            QVERIFY(h.bottom == HoleBottom::Through && h.mouth.norm() > 58.0); // begins at the outside
        }
    }
    void bossesAndFilletsAreNoHoles() {
        QVERIFY(findHoles(*test::openPart(test::cylinderStep(dir(), 10, 20))).empty());
        QVERIFY(findHoles(*test::openPart(test::coneStep(dir(), 10, 4, 20))).empty());
        QVERIFY(findHoles(*test::openPart(test::boxStep(dir(), 10, 20, 30))).empty());
    }
    // A countersink without its hole, and a wide seat through a plate, are no holes to drill; a slim taper is.
    void wideConesAreNoHoles() {
        const auto plate = [&](double wide, double narrow, double depth) { return findHoles(*test::openPart(test::plateWithCone(dir(), wide, narrow, depth))); };
        QVERIFY(plate(8, 0, 8).empty());
        QVERIFY(plate(12, 4, 10).empty()); // through
        const auto taper = plate(5, 4, 10);
        QCOMPARE(taper.size(), std::size_t(1));
        QVERIFY((taper[0].direction - Vec3::UnitZ()).norm() < 1e-9); // from the wider end
    }
    void aThroughHoleCanBeTurnedRound() {
        const auto part = test::openPart(test::drilledPlate(dir()));
        for (const Hole& h : findHoles(*part)) {
            const Hole r = reversed(h), again = reversed(r);
            QVERIFY((again.mouth - h.mouth).norm() < 1e-12 && (again.direction - h.direction).norm() < 1e-12);
            if (h.bottom != HoleBottom::Through)
                QCOMPARE(r.mouth, h.mouth);
            else {
                QVERIFY((r.mouth - (h.mouth - h.depth * h.direction)).norm() < 1e-12);
                QVERIFY(std::abs(r.sections.front().fromRadius - h.sections.back().toRadius) < 1e-12);
            }
        }
    }
    void planesByEveryWay() {
        const auto plane = planeByPoints(Vec3(1, 2, 3), Vec3(5, 2, 3), Vec3(2, 9, 3));
        QVERIFY(plane && (plane->normal - Vec3::UnitZ()).norm() < 1e-12 && (plane->x - Vec3::UnitX()).norm() < 1e-12);
        QVERIFY(plane->frame().linear().determinant() > 0.999999);
        QVERIFY(planeByPoints(Vec3::Zero(), Vec3::UnitX(), 3 * Vec3::UnitX()).error().what.find("one line") != std::string::npos);
        QVERIFY(planeByPoints(Vec3::Zero(), Vec3::Zero(), Vec3::UnitX()).error().what.find("same") != std::string::npos);
        const auto box = test::openPart(test::boxStep(dir(), 10, 20, 30));
        for (int f = 0; f < 6; ++f) {
            const auto p = planeByFace(*box, f).value();
            QVERIFY((p.normal - box->faces()[static_cast<std::size_t>(f)].normal).norm() < 1e-9);
            QVERIFY(std::abs(p.x.dot(p.normal)) < 1e-12 && std::abs(p.x.norm() - 1) < 1e-12);
        }
        int meeting = 0, skew = 0;
        for (int a = 0; a < 12; ++a)
            for (int b = 0; b < 12; ++b) {
                if (a == b) continue;
                const auto p = planeByEdges(*box, a, b);
                if (!p) {
                    QVERIFY(p.error().what.find("pass each other") != std::string::npos);
                    ++skew;
                    continue;
                }
                ++meeting;
                for (const int e : {a, b})
                    for (const Vec3& q : {box->edges()[static_cast<std::size_t>(e)].start, box->edges()[static_cast<std::size_t>(e)].end})
                        QVERIFY(std::abs(p->normal.dot(q - p->origin)) < 1e-9);
            }
        QCOMPARE(skew, 12 * 4); // of the eleven others four pass by, four meet, three are parallel
        QCOMPARE(meeting, 12 * 7);
        QVERIFY(planeByEdges(*box, 0, 99).error().what.find("edge 99") != std::string::npos);
        const auto tilted = planeByAngles(Vec3::Zero(), 30, 0, 0).value();
        QVERIFY((tilted.normal - Vec3(0, -0.5, std::sqrt(0.75))).norm() < 1e-12);
        QVERIFY(!planeByAngles(Vec3::Zero(), 361, 0, 0));
        QVERIFY((flipped(tilted).normal + tilted.normal).norm() < 1e-15);
        const auto plate = test::openPart(test::drilledPlate(dir()));
        for (const Hole& h : findHoles(*plate)) {
            const WorkPlane p = planeByHole(h);
            QVERIFY((p.origin - h.mouth).norm() == 0 && (p.normal - h.direction).norm() == 0);
        }
    }
    void reachTellsBothSolutions() {
        const Machine heron = test::demoMachine("heron-5t.machine.json");
        const Kinematics k(heron, Frame::Identity(), 150);
        test::Random r(77);
        int reached = 0;
        for (int i = 0; i < 300; ++i) {
            Vec3 axis = r.direction();
            const ReachAnswer a = reachOf(k, axis);
            for (const ReachSolution& s : a.solutions) {
                JointValues q(k.joints(), 0.0);
                for (std::size_t n = 0; n < s.angles.size(); ++n) q[static_cast<std::size_t>(k.rotaries()[n])] = s.angles[n];
                QVERIFY(angleBetween(k.forward(q).axis, axis) < 1e-6);
                if (!s.withinTravel) continue;
                for (std::size_t n = 0; n < s.angles.size(); ++n) {
                    const Joint& joint = heron.joints[static_cast<std::size_t>(k.rotaries()[n])];
                    QVERIFY(s.angles[n] >= joint.low - 1e-9 && s.angles[n] <= joint.high + 1e-9);
                }
            }
            if (a.solutions.size() == 2) QVERIFY(a.solutions[0].withinTravel || !a.solutions[1].withinTravel);
            reached += a.reached();
        }
        QVERIFY(reached > 100 && reached < 300);
        QVERIFY(reachWords(heron, reachOf(k, Vec3(0, -0.5, std::sqrt(0.75)))).find("30.00°") != std::string::npos);
        const Machine plover = test::demoMachine("plover-4.machine.json");
        const Kinematics p(plover, Frame::Identity(), 150);
        const ReachAnswer no = reachOf(p, Vec3(1, 0, 1).normalized());
        QVERIFY(!no.reached() && std::abs(no.missing - radians(45)) < 1e-6);
        QVERIFY(reachWords(plover, no).find("45.00° are missing") != std::string::npos);
    }
};

GYRE_TEST(TestHoles)

} // namespace test_holes
#include "test_holes.moc"
