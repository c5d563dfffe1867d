// Every construction against an answer that is known exactly.
#include "Program.h"
#include "Support.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"

namespace test_mend {

using namespace gyre;

namespace {

constexpr double kExact = 1e-6;

int faceOf(const Part& part, const std::function<bool(const FaceInfo&)>& is) {
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (is(part.faces()[f])) return static_cast<int>(f);
    return -1;
}
int topOf(const Part& part) {
    return faceOf(part, [&](const FaceInfo& f) {
        return f.kind == SurfaceKind::Plane && f.normal.z() > 0.99 && (f.area > 5000 || f.centre.z() > part.mesh().bounds().high.z() - 1e-6);
    });
}
int wallOf(const Part& part) {
    return faceOf(part, [](const FaceInfo& f) { return f.kind != SurfaceKind::Plane; });
}
int edgeAt(const Part& part, const Vec3& middle) {
    int best = -1;
    double least = 1e-3;
    for (std::size_t e = 0; e < part.edges().size(); ++e)
        for (const double f : {0.5, 0.0, 0.25})
            if (!part.edges()[e].degenerate && !part.edges()[e].closed)
                if (const double d = (part.onEdge(static_cast<int>(e), f, part.edges()[e].faces[0]).point - middle).norm(); d < least) {
                    least = d;
                    best = static_cast<int>(e);
                }
    return best;
}
int ringAt(const Part& part, double z) {
    for (std::size_t e = 0; e < part.edges().size(); ++e)
        if (part.edges()[e].closed && std::abs(part.edges()[e].middle.z() - z) < 1e-6 && std::abs(part.edges()[e].start.z() - z) < 1e-6) return static_cast<int>(e);
    return -1;
}
double furthest(const Curve& c, const std::function<double(const Vec3&)>& off) {
    double most = 0.0;
    for (std::size_t i = 0; i < c.pieces(); ++i)
        for (int k = 0; k <= 8; ++k) most = std::max(most, std::abs(off(c.at(i, k / 8.0))));
    return most;
}
Mend mend(MendKind kind, const char* name) {
    Mend m;
    m.kind = kind;
    m.name = name;
    return m;
}
Mend onEdge(MendKind kind, const char* name, const Part& part, int edge) {
    Mend m = mend(kind, name);
    m.first.edges = {part.edgeRef(edge)};
    return m;
}

} // namespace

class TestMend : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() { return m_dir.path().toStdString(); }

    MendResult one(const std::shared_ptr<const Part>& part, const Mend& m) { return runMends(part, {m}, {}).at(0); }

private slots:
    void aPlaneIsFreedOfItsHolesAndGrows() {
        const auto plate = test::openPart(test::drilledPlate(dir()));
        const int top = topOf(*plate);
        QVERIFY(plate->faces()[static_cast<std::size_t>(top)].area < 120 * 80 - 500);
        for (const double grow : {0.0, 2.5, 40.0}) {
            const auto freed = plate->freedFace(top, false, grow);
            QVERIFY2(freed, freed ? "" : freed.error().text().c_str());
            QVERIFY(std::abs((*freed)->faces()[0].area - (120 + 2 * grow) * (80 + 2 * grow)) < kExact * 1e3);
            QVERIFY(((*freed)->faces()[0].normal - Vec3::UnitZ()).norm() < kExact); // the same side is outside
            QCOMPARE((*freed)->faces()[0].loops.size(), std::size_t(1));
        }
        QVERIFY(!plate->freedFace(top, true, -1));
        QVERIFY(!plate->freedFace(999, true, 1));
    }
    void roundFacesStayFullAndGrowAlong() {
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        const int wall = wallOf(*bar);
        const auto freed = bar->freedFace(wall, true, 4);
        QVERIFY(freed);
        QVERIFY(std::abs((*freed)->faces()[0].area - 2 * kPi * 20 * 38) < 1e-3);
        const Box box = (*freed)->mesh().bounds();
        QVERIFY(std::abs(box.low.z() + 4) < kExact && std::abs(box.high.z() - 34) < kExact);
        // A cone grows along its flank, and not beyond its apex.
        const auto cone = test::openPart(test::coneStep(dir(), 20, 10, 30));
        const int flank = wallOf(*cone);
        const double slant = std::hypot(10, 30), up = 30 / slant;
        const auto larger = cone->freedFace(flank, true, 6);
        QVERIFY2(larger, larger ? "" : larger.error().text().c_str());
        QVERIFY(std::abs((*larger)->mesh().bounds().high.z() - (30 + 6 * up)) < kExact);
        QVERIFY(std::abs((*larger)->mesh().bounds().low.z() + 6 * up) < kExact);
        QVERIFY(!cone->freedFace(flank, true, 40));
    }
    void aRuledWallGoesOnStraight() {
        const auto wall = test::openPart(test::ruledWall(dir(), 30, 0.3));
        const auto freed = wall->freedFace(0, true, 5);
        QVERIFY2(freed, freed ? "" : freed.error().text().c_str());
        // Points of the middle ruling, carried on in a straight line, lie on the larger face.
        const Vec3 low(0, 0, 0), high(0, 0, 30);
        for (const double t : {-0.15, -0.05, 0.5, 1.05, 1.15}) {
            const Vec3 p = low + t * (high - low);
            QVERIFY2(((*freed)->project(0, p).point - p).norm() < 1e-5, qPrintable(QString::number(t)));
        }
        QVERIFY((*freed)->faces()[0].area > wall->faces()[0].area + 5 * 2 * (100 + 30) * 0.95);
        QVERIFY((*freed)->faces()[0].normal.dot(wall->faces()[0].normal) > 0.9);
    }
    void rowsRunOnAFreedFace() {
        const auto plate = test::openPart(test::drilledPlate(dir()));
        Mend m = mend(MendKind::FreedFace, "top");
        m.faces = {plate->faceRef(topOf(*plate))};
        m.numbers["grow"] = 3;
        m.numbers["extent"] = 0;
        const auto results = runMends(plate, {m}, {});
        QCOMPARE(results[0].trouble, std::string());
        const auto part = mendedPart(plate, results);
        QCOMPARE(part->bodyFaces(), static_cast<int>(plate->faces().size()));
        QCOMPARE(part->faces().size(), plate->faces().size() + 1);
        QVERIFY(part->body() == plate);
        QCOMPARE(part->volume(), plate->volume());
        const int face = part->bodyFaces();
        const auto rails = proposeRails(*part, {face});
        QVERIFY(rails);
        PatternSpec spec;
        spec.spacing = 4;
        Progress progress;
        const auto rows = layRows(*part, {face}, spec, 3.0, progress);
        QVERIFY2(rows, rows ? "" : rows.error().text().c_str());
        QVERIFY(rows->rows.size() >= 22); // 86 mm across; the trimmed face cannot even be laid out like this
        for (const Row& r : rows->rows)
            for (const Vec3& p : r.points) QVERIFY(std::abs(p.z() - 20) < 1e-4);
        // A mend below may start from the freed face's own edges.
        Mend rim = mend(MendKind::Edges, "rim");
        for (const auto& loop : part->faces()[static_cast<std::size_t>(face)].loops)
            for (const int e : loop) rim.first.edges.push_back(part->edgeRef(e));
        const auto both = runMends(plate, {m, rim}, {});
        QCOMPARE(both[1].trouble, std::string());
        QVERIFY(both[1].curves.at(0).closed() && std::abs(both[1].curves.at(0).length() - 2 * (126 + 86)) < kExact);
        QVERIFY(runMends(plate, {rim, m}, {})[0].trouble.find("no longer") != std::string::npos);
        // References find the face again, and the original ones still mean the same.
        QCOMPARE(part->findFace(part->faceRef(face)).value(), face);
        for (int f = 0; f < part->bodyFaces(); ++f) QCOMPARE(part->findFace(plate->faceRef(f)).value(), f);
    }
    void edgesAndGridLinesAreTheTrueCurves() {
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto ring = bar->edgeCurve(ringAt(*bar, 30));
        QVERIFY2(ring, ring ? "" : ring.error().text().c_str());
        QVERIFY(ring->closed());
        QVERIFY(furthest(*ring, [](const Vec3& p) { return std::hypot(p.x(), p.y()) - 20; }) < kExact);
        QVERIFY(std::abs(ring->length() - 40 * kPi) < 1e-5);
        const auto round = bar->gridLine(wallOf(*bar), false, 0.5), along = bar->gridLine(wallOf(*bar), true, 0.25);
        QVERIFY(round && along);
        QVERIFY(furthest(*round, [](const Vec3& p) { return p.z() - 15; }) < kExact);
        QVERIFY(std::abs(along->length() - 30) < kExact);
        QVERIFY(!bar->gridLine(wallOf(*bar), false, 1.5));
        QVERIFY(!bar->edgeCurve(99));
        Mend m = mend(MendKind::GridLine, "half way");
        m.faces = {bar->faceRef(wallOf(*bar))};
        m.numbers["at"] = 10;
        QVERIFY(std::abs(one(bar, m).curves.at(0).start().z() - 3) < kExact);
    }
    void besideACurveOnTheFace() {
        // Plane, cylinder, cone, sphere: distances along the face are known.
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto low = bar->edgeCurve(ringAt(*bar, 0)).value();
        for (const double d : {7.0, -7.0}) {
            const auto off = offsetOnFaces(*bar, {wallOf(*bar)}, low, d);
            QVERIFY2(off, off ? "" : off.error().text().c_str());
            QVERIFY(furthest(*off, [](const Vec3& p) { return std::hypot(p.x(), p.y()) - 20; }) < kExact);
            QVERIFY(furthest(*off, [](const Vec3& p) { return std::abs(p.z()) - 7; }) < kExact);
        }
        // A line along the cylinder goes round it by the arc.
        const auto along = bar->gridLine(wallOf(*bar), true, 0.0).value();
        const auto beside = offsetOnFaces(*bar, {wallOf(*bar)}, along, 10);
        QVERIFY(beside);
        const double a0 = std::atan2(along.start().y(), along.start().x());
        QVERIFY(furthest(*beside, [&](const Vec3& p) { return 20 * (std::abs(std::remainder(std::atan2(p.y(), p.x()) - a0, 2 * kPi)) - 0.5); }) < kExact);
        const auto cone = test::openPart(test::coneStep(dir(), 20, 10, 30));
        const auto foot = cone->edgeCurve(ringAt(*cone, 0)).value();
        const auto up = offsetOnFaces(*cone, {wallOf(*cone)}, foot, 6), down = offsetOnFaces(*cone, {wallOf(*cone)}, foot, -6);
        QVERIFY(up && down);
        const double slant = std::hypot(10, 30);
        QVERIFY(furthest(*up, [&](const Vec3& p) { return std::abs(p.z()) - 6 * 30 / slant; }) < kExact);
        QVERIFY(furthest(*down, [&](const Vec3& p) { return std::hypot(p.x(), p.y()) - 20 + (p.z() > 0 ? 6 : -6) * 10 / slant; }) < kExact);
        const auto dome = test::openPart(test::demoFile("pierced-dome.step"));
        const int outside = faceOf(*dome, [](const FaceInfo& f) { return f.kind == SurfaceKind::Sphere && std::abs(f.radius - 60) < 1e-9; });
        QVERIFY(outside >= 0);
        const Curve parallel = circleArc(Vec3(0, 0, 30), Vec3::UnitZ(), Vec3(std::sqrt(3600.0 - 900.0), 0, 30), 2 * kPi);
        const auto higher = offsetOnFaces(*dome, {outside}, parallel, 12);
        QVERIFY2(higher, higher ? "" : higher.error().text().c_str());
        QVERIFY(furthest(*higher, [](const Vec3& p) { return p.z() - 60 * std::sin(kPi / 6 + 0.2); }) < kExact);
        // What is not on the face is refused.
        QVERIFY(!offsetOnFaces(*bar, {topOf(*bar)}, circleArc(Vec3(0, 0, 40), Vec3::UnitZ(), Vec3(5, 0, 40), 3), 2));
        const auto wall = test::openPart(test::ruledWall(dir(), 30, 0.3));
        const auto over = offsetOnFaces(*wall, {0}, wall->gridLine(0, false, 0.5).value(), 60);
        QVERIFY(!over && over.error().what.find("ends") != std::string::npos);
    }
    void randomStraightLinesOnTheCylinderAreHelices() {
        test::Random random(51);
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        const int wall = wallOf(*bar);
        for (int i = 0; i < 100; ++i) {
            const double a = random.number(-3, 3), z = random.number(5, 25), way = random.number(-3, 3), l = random.number(0, 30);
            const Vec3 start(20 * std::cos(a), 20 * std::sin(a), z), round(-std::sin(a), std::cos(a), 0);
            const auto end = straightOnFace(*bar, wall, start, std::cos(way) * round + std::sin(way) * Vec3::UnitZ(), l);
            QVERIFY(end);
            const double b = a + l * std::cos(way) / 20;
            QVERIFY((end->point - Vec3(20 * std::cos(b), 20 * std::sin(b), z + l * std::sin(way))).norm() < kExact);
        }
        QVERIFY(!straightOnFace(*bar, wall, Vec3(20, 0, 5), Vec3::UnitX(), 3));
    }
    void offAFaceAndAlongAnAxis() {
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        Mend m = onEdge(MendKind::OffsetAway, "off", *bar, ringAt(*bar, 30));
        m.faces = {bar->faceRef(wallOf(*bar))};
        m.numbers["distance"] = 3;
        QVERIFY(furthest(one(bar, m).curves.at(0), [](const Vec3& p) { return std::hypot(p.x(), p.y()) - 23; }) < kExact);
        m.faces = {bar->faceRef(topOf(*bar))};
        QVERIFY(furthest(one(bar, m).curves.at(0), [](const Vec3& p) { return p.z() - 33; }) < kExact);
        m.faces.clear();
        m.numbers["along"] = 1; // X needs no face
        const auto shifted = one(bar, m);
        QCOMPARE(shifted.trouble, std::string());
        QVERIFY(furthest(shifted.curves.at(0), [](const Vec3& p) { return std::hypot(p.x() - 3, p.y()) - 20; }) < kExact);
        m.numbers["along"] = 0;
        QVERIFY(one(bar, m).trouble.find("face") != std::string::npos);
    }
    void projectedOntoFaces() {
        const auto dome = test::openPart(test::demoFile("pierced-dome.step"));
        const int outside = faceOf(*dome, [](const FaceInfo& f) { return f.kind == SurfaceKind::Sphere && std::abs(f.radius - 60) < 1e-9; });
        // A circle between two rings of holes, from above: all of it lands on the sphere at one height.
        const double r = 60 * std::cos(kPi * 26 / 180);
        const auto ring = projected(*dome, {outside}, circleArc(Vec3(0, 0, 90), Vec3::UnitZ(), Vec3(r, 0, 90), 2 * kPi), Away::Z);
        QVERIFY2(ring, ring ? "" : ring.error().text().c_str());
        for (const Curve& c : *ring) QVERIFY(furthest(c, [&](const Vec3& p) { return p.norm() - 60; }) < kExact);
        const auto box = test::openPart(test::boxStep(dir(), 40, 30, 20));
        // A line across the box and beyond: only what is above it lands.
        const Curve line = straightLines({{-10, 7, 50}, {60, 11, 50}});
        const auto on = projected(*box, {topOf(*box)}, line, Away::Z);
        QVERIFY(on && on->size() == 1);
        QVERIFY(furthest(on->at(0), [](const Vec3& p) { return p.z() - 20; }) < kExact);
        QVERIFY(std::abs(on->at(0).start().x()) < 1e-4 && std::abs(on->at(0).end().x() - 40) < 1e-4);
        QVERIFY(furthest(on->at(0), [](const Vec3& p) { return p.y() - 7 - (p.x() + 10) * 4 / 70; }) < kExact);
        const auto near = projected(*box, {topOf(*box)}, straightLines({{5, 5, 25}, {30, 20, 31}}), Away::Normal);
        QVERIFY(near && furthest(near->at(0), [](const Vec3& p) { return p.z() - 20; }) < kExact);
        QVERIFY(!projected(*box, {topOf(*box)}, straightLines({{100, 0, 0}, {110, 0, 0}}), Away::Z));
    }
    void extendedTrimmedJoined() {
        const Curve arc = circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), 1.0);
        const auto round = extended(arc, 3, 4, true);
        QVERIFY(round);
        QVERIFY(furthest(*round, [](const Vec3& p) { return p.norm() - 10; }) < kExact);
        QVERIFY(std::abs(round->length() - 17) < 1e-5);
        QVERIFY(round->end().y() > 0 && round->start().y() < 0);
        const auto straight = extended(arc, 0, 4, false);
        QVERIFY(straight && (straight->end() - (arc.end() + 4 * Vec3(-std::sin(1.0), std::cos(1.0), 0))).norm() < kExact);
        QVERIFY(!extended(circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), 2 * kPi), 1, 1, false));
        const auto box = test::openPart(test::boxStep(dir(), 40, 30, 20));
        const int front = edgeAt(*box, Vec3(20, 0, 20)), side = edgeAt(*box, Vec3(40, 15, 20)), back = edgeAt(*box, Vec3(20, 30, 20)),
                  left = edgeAt(*box, Vec3(0, 15, 20));
        QVERIFY(front >= 0 && side >= 0 && back >= 0 && left >= 0);
        Mend trim = onEdge(MendKind::Trim, "trim", *box, front);
        trim.numbers["start"] = 5;
        trim.numbers["end"] = 8;
        auto r = one(box, trim);
        QVERIFY(std::abs(r.curves.at(0).length() - 27) < kExact);
        trim.numbers["end"] = 36;
        QVERIFY(one(box, trim).trouble.find("nothing is left") != std::string::npos);
        // Cut where a sketch crosses it.
        Mend cross = mend(MendKind::Sketch, "cross");
        cross.points = {{13, -5, 0}, {13, 35, 0}};
        Mend lift = mend(MendKind::OffsetAway, "lifted");
        lift.first.curve = "cross";
        lift.numbers = {{"along", 3}, {"distance", 20}};
        trim.numbers = {{"keep", 0}};
        trim.second.curve = "lifted";
        for (const double keep : {0.0, 1.0}) {
            trim.numbers["keep"] = keep;
            const auto all = runMends(box, {cross, lift, trim}, {});
            QCOMPARE(all[2].trouble, std::string());
            const Curve& c = all[2].curves.at(0);
            const bool fromLeft = box->edges()[static_cast<std::size_t>(front)].start.x() < 1;
            QVERIFY(std::abs(c.length() - ((keep == 0.0) == fromLeft ? 13 : 27)) < 1e-4);
        }
        Mend join = mend(MendKind::Join, "rim");
        join.first.edges = {box->edgeRef(back), box->edgeRef(side), box->edgeRef(front)}; // in any order
        join.second.edges = {box->edgeRef(left)};
        r = one(box, join);
        QCOMPARE(r.trouble, std::string());
        QVERIFY(r.curves.at(0).closed() && std::abs(r.curves.at(0).length() - 140) < kExact);
        Mend edges = onEdge(MendKind::Edges, "edges", *box, front);
        edges.first.edges.push_back(box->edgeRef(back));
        QVERIFY(one(box, edges).trouble.find("separate") != std::string::npos);
    }
    void middleCopiesAndFewerPoints() {
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        Mend m = onEdge(MendKind::Middle, "belt", *bar, ringAt(*bar, 0));
        m.second.edges = {bar->edgeRef(ringAt(*bar, 30))};
        const auto belt = one(bar, m);
        QCOMPARE(belt.trouble, std::string());
        QVERIFY(furthest(belt.curves.at(0), [](const Vec3& p) { return p.z() - 15; }) < kExact);
        // Raised along X, Y or Z it is the same line somewhere else.
        for (int k = 0; k < 3; ++k) {
            m.numbers = {{"raise", -7.0}, {"along", static_cast<double>(k)}};
            const auto raised = one(bar, m);
            QVERIFY(std::abs(raised.curves.at(0).length() - belt.curves.at(0).length()) < 1e-6);
            const Vec3 centre = Vec3(0, 0, 15) - 7.0 * Vec3::Unit(k);
            QVERIFY(furthest(raised.curves.at(0), [&](const Vec3& p) { return (p - centre).norm() - 20; }) < kExact);
            QVERIFY(furthest(raised.curves.at(0), [&](const Vec3& p) { return p.z() - centre.z(); }) < kExact);
        }
        Mend copy = onEdge(MendKind::Copy, "copies", *bar, ringAt(*bar, 30));
        copy.numbers = {{"count", 3}, {"dx", 50}, {"turn", 90}};
        const auto copies = one(bar, copy);
        QCOMPARE(copies.curves.size(), std::size_t(3));
        // Turned by 90° and moved, over and over: (50,0), (50,50), (0,50).
        const Vec3 want[] = {{50, 0, 30}, {50, 50, 30}, {0, 50, 30}};
        for (std::size_t i = 0; i < 3; ++i) QVERIFY(furthest(copies.curves[i], [&](const Vec3& p) { return (p - want[i]).norm() - 20; }) < kExact);
        Mend fewer = mend(MendKind::Simplify, "fewer");
        fewer.first.curve = "copies/2";
        fewer.numbers["tolerance"] = 0.05;
        const auto both = runMends(bar, {copy, fewer}, {});
        QVERIFY(both[1].curves.at(0).knots().size() < both[0].curves.at(1).knots().size() / 2);
        fewer.drop = {0, 400};
        QVERIFY(runMends(bar, {copy, fewer}, {})[1].trouble.find("no point 400") != std::string::npos);
    }
    void sketchesAndHelicesByNumbers() {
        const auto box = test::openPart(test::boxStep(dir(), 40, 30, 20));
        Mend m = mend(MendKind::Sketch, "slot");
        m.points = sketchPoints("0 0; 30 0 1; 30 10; 0 10 1").value(); // a slot with half circles
        m.numbers["ends"] = 1;
        auto r = one(box, m);
        QCOMPARE(r.trouble, std::string());
        QVERIFY(r.curves.at(0).closed());
        QVERIFY(std::abs(r.curves.at(0).length() - (60 + 10 * kPi)) < 1e-5);
        QVERIFY(r.curves.at(0).bounds().high.x() > 34.9 && std::abs(r.curves.at(0).closest(Vec3(40, 5, 0)).distance - 5) < kExact);
        m.numbers["on"] = 1; // YZ
        QVERIFY(furthest(one(box, m).curves.at(0), [](const Vec3& p) { return p.x(); }) < 1e-12);
        m.numbers = {{"on", 3}, {"radius", 20}}; // round X: straight lines become helices
        m.points = {{0, 0, 0}, {30, 270, 0}};
        r = one(box, m);
        QVERIFY(std::abs(r.curves.at(0).length() - std::hypot(30, 1.5 * kPi * 20)) < 1e-5);
        QVERIFY(furthest(r.curves.at(0), [](const Vec3& p) { return std::hypot(p.y(), p.z()) - 20; }) < kExact);
        m.points[0][2] = 0.5;
        QVERIFY(!one(box, m).trouble.empty());
        m = mend(MendKind::Sketch, "points");
        m.numbers["as"] = 1;
        m.points = {{1, 2, 0}, {3, 4, 0}};
        r = one(box, m);
        QVERIFY(r.points.size() == 2 && (r.points[1] - Vec3(3, 4, 0)).norm() < 1e-12 && r.curves.empty());
        m.numbers["on"] = 6;
        QVERIFY(one(box, m).trouble.find("work plane") != std::string::npos);
        WorkPlane plane;
        plane.origin = Vec3(0, 0, 20);
        plane.normal = Vec3::UnitX();
        plane.x = Vec3::UnitY();
        r = runMends(box, {m}, MendGround{{plane}, {}})[0];
        QVERIFY((r.points.at(0) - Vec3(0, 1, 22)).norm() < 1e-12);
        Mend coil = mend(MendKind::Helix, "coil");
        coil.numbers = {{"radius", 20}, {"pitch", 7}, {"turns", 9}, {"hand", 1}, {"cx", 5}};
        r = one(box, coil);
        QVERIFY(std::abs(r.curves.at(0).length() - 9 * std::hypot(7, 40 * kPi)) < 1e-4);
        QVERIFY((r.curves.at(0).end() - Vec3(25, 0, 63)).norm() < kExact);
        QVERIFY(r.curves.at(0).at(0, 0.5).y() < 0); // left-handed
        for (const char* wrong : {"1", "1 2 3 4", "a b", "1 2; 3", "1e9 0", "nan 1"}) QVERIFY2(!sketchPoints(wrong), wrong);
        QCOMPARE(sketchText(sketchPoints(" 1 2;3  4 0.5 ; ").value()), std::string("1 2; 3 4 0.5"));
    }
    void curvesAreDrawnOnThePart() {
        // Round a bar from point to point: the foot of a chord is the arc, whose length is known.
        const auto bar = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto at = [](double degreesRound, double z) { return Vec3(20 * std::cos(radians(degreesRound)), 20 * std::sin(radians(degreesRound)), z); };
        const auto arc = drawnOn(*bar, {at(10, 12), at(70, 12), at(100, 12)}, false, false);
        QVERIFY2(arc, arc ? "" : arc.error().text().c_str());
        QVERIFY(std::abs(arc->length() - 20 * kPi / 2) < kExact);
        QVERIFY(furthest(*arc, [](const Vec3& p) { return std::hypot(p.x(), p.y()) - 20 + std::abs(p.z() - 12); }) < kExact);
        QVERIFY((arc->start() - at(10, 12)).norm() < kExact && (arc->end() - at(100, 12)).norm() < kExact);
        // Points of a circle, smoothly: the circle itself, closed.
        std::vector<Vec3> ring;
        for (int i = 0; i < 8; ++i) ring.push_back(at(45 * i, 15));
        const auto round = drawnOn(*bar, ring, true, true);
        QVERIFY(round && round->closed());
        QVERIFY(std::abs(round->length() - 40 * kPi) < kExact);
        // From the top down the wall: the curve bends over the edge and stays on the skin.
        const auto over = drawnOn(*bar, {Vec3(15, 0, 30), at(0, 25)}, false, false);
        QVERIFY2(over, over ? "" : over.error().text().c_str());
        const double off30 = furthest(*over, [&](const Vec3& p) { return std::min(std::abs(30 - p.z()), std::abs(std::hypot(p.x(), p.y()) - 20)); });
        QVERIFY2(off30 < 1e-4, qPrintable(QString::number(off30)));
        // Straight through the body there is no way along the skin.
        const auto through = drawnOn(*bar, {at(0, 15), at(179, 15)}, false, false);
        QVERIFY(!through && through.error().remedy.find("between") != std::string::npos);
        QVERIFY(!drawnOn(*bar, {at(0, 15)}, true, false));
        QVERIFY(!drawnOn(*bar, {at(0, 15), at(20, 15)}, true, true));
        const auto off = drawnOn(*bar, {at(0, 15), Vec3(25, 0, 15)}, false, false);
        QVERIFY(!off && off.error().what.find("5.00 mm off") != std::string::npos);
        // On a scan every point lies on its triangles; as a mend it becomes a line to pick.
        const auto scan = test::openPart(test::demoFile("moth-relief.stl"));
        const Box box = scan->mesh().bounds();
        Mend m = mend(MendKind::Drawn, "vein");
        for (const double x : {0.3, 0.45, 0.6}) {
            const RayHit hit =
                scan->tree().ray(Vec3(box.low.x() + x * (box.high.x() - box.low.x()), box.centre().y() + 40 * (x - 0.45), box.high.z() + 10), -Vec3::UnitZ());
            QVERIFY(hit.hit);
            const Vec3 p(box.low.x() + x * (box.high.x() - box.low.x()), box.centre().y() + 40 * (x - 0.45), box.high.z() + 10 - hit.distance);
            m.points.push_back({p.x(), p.y(), p.z()});
        }
        const MendResult vein = one(scan, m);
        QVERIFY2(vein.trouble.empty(), vein.trouble.c_str());
        for (const CurveKnot& k : vein.curves.at(0).knots()) QVERIFY(scan->tree().closest(k.point).distance < 1e-9);
        for (const auto& p : m.points) QVERIFY(vein.curves[0].closest(Vec3(p[0], p[1], p[2])).distance < 1e-6);
        QCOMPARE(mendedPart(scan, {vein})->edges().size(), scan->edges().size() + 1);
    }
    void aSketchLiesOnThePlaneItNames() {
        const auto box = test::openPart(test::boxStep(dir(), 40, 30, 20));
        Mend m = mend(MendKind::Sketch, "slot");
        m.points = sketchPoints("0 0; 10 0").value();
        m.numbers["on"] = 6;
        const MendGround ground{{planeByAngles(Vec3::Zero(), 0, 0, 0).value(), planeByAngles(Vec3(1, 2, 3), 0, 0, 90).value()}, {}};
        const auto on = [&](int plane) {
            m.numbers["plane"] = plane;
            return runMends(box, {m}, ground).at(0);
        };
        QVERIFY((on(1).curves.at(0).end() - Vec3(10, 0, 0)).norm() < kExact);
        QVERIFY((on(2).curves.at(0).end() - Vec3(1, 12, 3)).norm() < kExact);
        QVERIFY(on(3).trouble.find("there are 2") != std::string::npos);
        QVERIFY(m.matters("plane") && !m.matters("radius") && m.matters("ends"));
    }
    void aMendThatFailsStopsNoOther() {
        const auto box = test::openPart(test::boxStep(dir(), 40, 30, 20));
        Mend broken = mend(MendKind::Edges, "broken");
        Mend rests = mend(MendKind::Extend, "rests on it");
        rests.first.curve = "broken";
        Mend later = mend(MendKind::Edges, "from below");
        later.first.curve = "coil";
        const Mend coil = mend(MendKind::Helix, "coil");
        const auto r = runMends(box, {broken, rests, later, coil}, {});
        QVERIFY(r[0].trouble.find("not picked") != std::string::npos);
        QVERIFY(r[1].trouble.find("'broken' above could not be made") != std::string::npos);
        QVERIFY(r[2].trouble.find("no mend above") != std::string::npos);
        QVERIFY(r[3].trouble.empty() && r[3].facts.find("mm") != std::string::npos);
        const auto part = mendedPart(box, r);
        QCOMPARE(part->edges().size(), box->edges().size() + 1);
        // The line can be asked like an edge.
        const int line = static_cast<int>(box->edges().size());
        QVERIFY(part->edgeLine(line).size() > 20);
        QVERIFY((part->onEdge(line, 1.0, -1).point - r[3].curves[0].end()).norm() < kExact);
        QCOMPARE(part->findEdge(part->edgeRef(line)).value(), line);
        QVERIFY(mendedPart(box, {}) == box);
        // What was an edge on a scan works too.
        const auto scan = test::openPart(test::demoFile("moth-relief.stl"));
        const auto onScan = mendedPart(scan, runMends(scan, {coil, onEdge(MendKind::Edges, "border", *scan, 0)}, {}));
        QCOMPARE(onScan->edges().size(), scan->edges().size() + 2);
        QVERIFY((onScan->onEdge(static_cast<int>(scan->edges().size()), 0.0, -1).point - r[3].curves[0].start()).norm() < kExact);
        QVERIFY(onScan->fieldMesh({0}, 5.0, nullptr));
        Mend freed = mend(MendKind::FreedFace, "freed");
        freed.faces = {scan->faceRef(0)};
        QVERIFY(runMends(scan, {freed}, {})[0].trouble.find("mesh") != std::string::npos);
    }
    void mendsAreWrittenAndReadBack() {
        Job job;
        job.machine = "heron-5t.machine.json";
        job.bodies.push_back({"collar", "part", "lantern-collar.step"});
        test::Random random(52);
        for (int i = 0; i < kMendKinds; ++i) {
            Mend m;
            m.kind = static_cast<MendKind>(i);
            m.name = job.freshMendName(m.kind);
            m.faces = {ShapeRef{3, "plane", 12.5, Vec3(1, 2, 3)}};
            m.first.edges = {ShapeRef{7, "line", 4.0, Vec3(0, 1, 0)}};
            m.second.curve = i ? job.mends.back().name : "";
            m.points = {{1, 2, 0}, {3, 4, 0.5}};
            m.drop = {1, 4};
            for (const MendField& f : formOf(m.kind).fields)
                m.numbers[f.key] = f.type == MendField::Type::Choice ? random.integer(0, static_cast<int>(f.options.size()) - 1)
                                                                     : random.number(std::max(f.low, -50.0), std::min(f.high, 50.0));
            job.mends.push_back(m);
        }
        const std::string text = jobToJson(job);
        const auto again = jobFromJson(text, "job");
        QVERIFY2(again, again ? "" : again.error().text().c_str());
        QCOMPARE(jobToJson(*again), text);
        QCOMPARE(again->mends.size(), std::size_t(kMendKinds));
        // Every word of a sentence is a field or something that is picked.
        for (int i = 0; i < kMendKinds; ++i) {
            const MendForm& form = formOf(static_cast<MendKind>(i));
            for (const MendField& f : form.fields) QVERIFY2(form.asks(f.key), f.key);
            QVERIFY(!form.asks("nonsense"));
        }
        for (const auto& [from, to] : {std::pair{"\"helix\"", "\"spring\""}, std::pair{"\"pitch\"", "\"patch\""}, std::pair{"\"right\"", "\"upright\""},
                                       std::pair{"\"drop\": [", "\"drop\": [1.5,"}}) {
            std::string broken = text;
            const auto at = broken.find(from);
            if (at == std::string::npos) continue; // the random hand may be left
            broken.replace(at, std::string(from).size(), to);
            QVERIFY2(!jobFromJson(broken, "job"), to);
        }
        // The workshop runs them, and keeps paths that do not rest on them.
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        job.mends = {mend(MendKind::Helix, "coil")};
        const auto a = workshop.placeFor(job, progress);
        QVERIFY2(a, a ? "" : a.error().text().c_str());
        QCOMPARE((*a)->mends->size(), std::size_t(1));
        job.mends[0].numbers["turns"] = 5;
        const auto b = workshop.placeFor(job, progress);
        QVERIFY(b && (*b)->key == (*a)->key && (*b)->looks != (*a)->looks);
        QVERIFY((*b)->mends->at(0).curves[0].length() > (*a)->mends->at(0).curves[0].length());
        job.mends.push_back(mend(MendKind::FreedFace, "freed"));
        job.mends[1].faces = {(*b)->part->faceRef(0)};
        const auto c = workshop.placeFor(job, progress);
        QVERIFY(c && (*c)->key != (*b)->key && (*c)->part->faces().size() == (*b)->part->faces().size() + 1);
        QVERIFY((*c)->bodies[0].shape->faces().size() == (*b)->part->faces().size()); // the body itself is as it was
    }
};

GYRE_TEST(TestMend)

} // namespace test_mend
#include "test_mend.moc"
