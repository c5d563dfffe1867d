// Mesh files as parts, other formats, and whether a side can follow a face.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "geom/MeshFile.h"
#include "part/Flank.h"
#include "part/Holes.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"
#include <fmt/format.h>

namespace test_mesh_part {

using namespace gyre;

class TestMeshPart : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
    /// A part's triangles written as STL and opened again.
    std::shared_ptr<const Part> asMesh(const Part& exact, const std::string& name) const {
        const auto file = dir() / (name + ".stl");
        (void)writeFileAtomic(file, meshToStl(exact.mesh()));
        return test::openPart(file);
    }

private slots:
    void aBoxOfTrianglesHasSixFacesAndTwelveEdges() {
        const auto part = asMesh(*test::openPart(test::boxStep(dir(), 10, 20, 30)), "box");
        QVERIFY(part->isMesh());
        QCOMPARE(part->faces().size(), std::size_t(6));
        QCOMPARE(part->edges().size(), std::size_t(12));
        for (const FaceInfo& f : part->faces()) {
            QCOMPARE(f.kind, SurfaceKind::Plane);
            QCOMPARE(f.loops.size(), std::size_t(1));
            QCOMPARE(f.loops[0].size(), std::size_t(4));
        }
        for (const EdgeInfo& e : part->edges()) {
            QCOMPARE(e.kind, CurveKind::Line);
            QVERIFY(std::abs(e.angle - kPi / 2) < 1e-6);
            QVERIFY(e.faces[0] >= 0 && e.faces[1] >= 0 && e.faces[0] != e.faces[1]);
        }
        QVERIFY(std::abs(part->volume() - 6000) < 1e-2);
    }
    void aCylinderOfTrianglesIsKnownForOne() {
        const auto part = asMesh(*test::openPart(test::cylinderStep(dir(), 20, 30)), "round");
        QCOMPARE(part->faces().size(), std::size_t(3));
        int walls = 0, rings = 0;
        for (const FaceInfo& f : part->faces())
            if (f.kind == SurfaceKind::Cylinder) {
                ++walls;
                QVERIFY(std::abs(f.radius - 20) < 0.01);
                QVERIFY(rejected(f.axis, Vec3::UnitZ()).norm() < 1e-6);
                QCOMPARE(f.loops.size(), std::size_t(2));
            }
        for (const EdgeInfo& e : part->edges()) rings += e.closed;
        QCOMPARE(walls, 1);
        QCOMPARE(rings, 2);
    }
    void holesAreFoundOnMeshesToo() {
        const auto exact = test::openPart(test::drilledPlate(dir()));
        const auto holes = findHoles(*asMesh(*exact, "plate"));
        int eights = 0;
        for (const Hole& h : holes) eights += std::abs(h.diameter() - 8) < 0.02 && h.bottom == HoleBottom::Through;
        QCOMPARE(eights, 4);
    }
    void footsLieOnTheTriangles() {
        const auto part = test::openPart(test::demoFile("moth-relief.stl"));
        QVERIFY(part->isMesh());
        QVERIFY2(part->faces().size() >= 6 && part->faces().size() < 40, qPrintable(QString::number(part->faces().size())));
        test::Random r(5);
        for (int i = 0; i < 300; ++i) {
            const Vec3 p(r.number(-40, 40), r.number(-30, 30), r.number(8, 20));
            const auto hit = part->tree().closest(p);
            const int face = part->mesh().faces[hit.triangle];
            const SurfacePoint s = part->project(face, p);
            QVERIFY(std::abs((s.point - p).norm() - hit.distance) < 1e-9);
            QVERIFY(std::abs(s.normal.norm() - 1) < 1e-9);
            QVERIFY((part->project(face, s.point, 0, 0).point - s.point).norm() < 1e-9);
        }
    }
    void rowsRunOverAScan() {
        const auto part = test::openPart(test::demoFile("moth-relief.stl"));
        int top = 0;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].area > part->faces()[static_cast<std::size_t>(top)].area && part->faces()[f].normal.z() > 0.5) top = static_cast<int>(f);
        QVERIFY(part->faces()[static_cast<std::size_t>(top)].area > 5000);
        const auto rails = proposeRails(*part, {top});
        QVERIFY2(rails.has_value(), rails ? "" : rails.error().text().c_str());
        PatternSpec spec;
        spec.spacing = 2.0;
        for (int e : rails->first.edges) spec.rail1.push_back(part->edgeRef(e));
        for (int e : rails->second.edges) spec.rail2.push_back(part->edgeRef(e));
        Progress progress;
        const auto rows = layRows(*part, {top}, spec, 3.0, progress);
        QVERIFY2(rows.has_value(), rows ? "" : rows.error().text().c_str());
        QVERIFY(rows->rows.size() > 20);
        QVERIFY2(rows->widestGap <= spec.spacing * 1.01, qPrintable(QString::number(rows->widestGap)));
        for (const Row& row : rows->rows)
            for (const auto& p : row.points) QVERIFY(part->tree().closest(p).distance < 1e-6);
    }
    void unitsOfAMeshAreTheUsers() {
        (void)asMesh(*test::openPart(test::boxStep(dir(), 1, 1, 1)), "inch");
        Progress p;
        const auto part = Part::open(dir() / "inch.stl", 0.02, p, {25.4}).value();
        QVERIFY((part->mesh().bounds().high - Vec3::Constant(25.4)).norm() < 1e-5);
    }
    // A mesh that is wound inwards, in whole or in places, is the same part as the right one, and says so; of an open sheet the user says which side is outside.
    void windingIsMended() {
        const auto exact = test::openPart(test::drilledPlate(dir()));
        const auto right = asMesh(*exact, "right");
        QVERIFY(right->remarks().empty() && !right->hasSheets());
        test::Random random(84);
        for (const double share : {1.0, 0.5, 0.02}) {
            TriangleMesh mesh = right->mesh();
            std::size_t over = 0;
            for (auto& t : mesh.triangles)
                if (random.number(0, 1) <= share) {
                    std::swap(t[1], t[2]);
                    ++over;
                }
            (void)writeFileAtomic(dir() / "over.stl", meshToStl(mesh));
            const auto part = test::openPart(dir() / "over.stl");
            QCOMPARE(part->remarks().size(), std::size_t(1));
            const std::string wanted =
                fmt::format("{} of {} triangles looked inwards or against their neighbours and were turned over", over, right->mesh().triangles.size());
            QVERIFY2(part->remarks().front() == wanted, (part->remarks().front() + " for " + wanted).c_str());
            QVERIFY(std::abs(part->volume() - right->volume()) < 1e-6 * right->volume() && part->volume() > 0.0);
            QCOMPARE(part->faces().size(), right->faces().size());
            for (std::size_t f = 0; f < right->faces().size(); ++f)
                QVERIFY(std::abs(part->faces()[f].area - right->faces()[f].area) < 1e-6 && (part->faces()[f].normal - right->faces()[f].normal).norm() < 1e-6);
        }
        TriangleMesh sheet;
        sheet.points = {{0, 0, 0}, {30, 0, 0}, {30, 20, 2}, {0, 20, 2}};
        sheet.triangles = {{0, 2, 1}, {0, 3, 2}}; // looks down
        (void)writeFileAtomic(dir() / "sheet.stl", meshToStl(sheet));
        Progress quiet;
        for (const bool over : {false, true}) {
            const auto part = Part::open(dir() / "sheet.stl", 0.02, quiet, {1.0, over}).value();
            QVERIFY(part->hasSheets() && part->remarks().empty());
            QCOMPARE(part->faces().size(), std::size_t(1));
            QCOMPARE(part->faces()[0].normal.z() > 0.0, over);
            const auto moved = Part::moved(*part, Frame(Eigen::Translation3d(1, 2, 3)), "sheet", quiet).value();
            QVERIFY(moved->hasSheets() && (moved->faces()[0].normal.z() > 0.0) == over);
        }
    }
    void openAndBrokenMeshesAreParts() {
        // One triangle; two that meet in a fold; a fan where three share a side; two winding against each other.
        const auto open = [&](const char* name, const TriangleMesh& m) {
            (void)writeFileAtomic(dir() / name, meshToStl(m));
            return test::openPart(dir() / name);
        };
        TriangleMesh m;
        m.points = {{0, 0, 0}, {10, 0, 0}, {0, 10, 0}, {0, -3, 9}, {0, -9, 2}};
        m.triangles = {{0, 1, 2}};
        auto part = open("one.stl", m);
        QCOMPARE(part->faces().size(), std::size_t(1));
        QVERIFY(part->edges().size() >= 1 && part->edges().size() <= 3);
        m.triangles = {{0, 1, 2}, {1, 0, 3}};
        QCOMPARE(open("fold.stl", m)->faces().size(), std::size_t(2));
        m.triangles = {{0, 1, 2}, {1, 0, 3}, {0, 1, 4}};
        QCOMPARE(open("fan.stl", m)->faces().size(), std::size_t(3));
        m.triangles = {{0, 1, 2}, {0, 1, 3}};
        QCOMPARE(open("against.stl", m)->faces().size(), std::size_t(2));
    }
    void igesAndBrepGiveTheSameBox() {
        for (const auto& file : {test::boxIges(dir(), 10, 20, 30), test::boxBrep(dir(), 10, 20, 30)}) {
            const auto part = test::openPart(file);
            QCOMPARE(part->faces().size(), std::size_t(6));
            QCOMPARE(part->edges().size(), std::size_t(12));
            QVERIFY(std::abs(part->volume() - 6000) < 1e-3);
            for (const EdgeInfo& e : part->edges()) QVERIFY(e.faces[1] >= 0);
        }
    }
    void anIgesFileCalledOffOpensTheNextTime() {
        const auto file = test::boxIges(dir(), 10, 20, 30);
        for (const double at : {0.0, 0.2, 0.5}) {
            bool asked = false;
            Progress progress([&](double fraction, const std::string&) {
                if (fraction >= at && !asked) progress.cancel();
                asked = asked || fraction >= at;
            });
            if (at == 0.0) progress.cancel();
            const auto part = Part::open(file, 0.02, progress);
            QVERIFY(part || part.error().cancelled);
            QVERIFY(at > 0.0 || !part);
            const auto again = test::openPart(file); // while the one called off may still be read
            QVERIFY(again && again->faces().size() == 6);
        }
    }
    void damagedFilesSayWhy() {
        const auto error = [&](const std::string& name, const std::string& text) {
            (void)writeFileAtomic(dir() / name, text);
            Progress p;
            const auto part = Part::open(dir() / name, 0.02, p);
            return part ? std::string("it opened") : part.error().what;
        };
        const std::string iges = readFile(test::boxIges(dir(), 1, 2, 3), 1 << 24).value();
        QVERIFY(QString::fromStdString(error("cut.igs", iges.substr(0, iges.size() / 2))).contains("cut short"));
        const std::string brep = readFile(test::boxBrep(dir(), 1, 2, 3), 1 << 24).value();
        QVERIFY(error("cut.brep", brep.substr(0, brep.size() / 2)) != "it opened");
        QVERIFY(QString::fromStdString(error("word.igs", "just words\nand more")).contains("neither IGES nor BREP"));
        QVERIFY(QString::fromStdString(error("empty.brep", "")).contains("empty"));
        test::Random r(9);
        for (int i = 0; i < 40; ++i) { // scribbled files open or say why; they never crash
            std::string text = i % 2 ? iges : brep;
            for (int k = 0; k < 12; ++k) text[static_cast<std::size_t>(r.integer(400, static_cast<int>(text.size()) - 200))] = static_cast<char>(r.integer(32, 126));
            QVERIFY(!error(i % 2 ? "s.igs" : "s.brep", text).empty());
        }
    }
    void planesAndConesCanBeFollowedATwistedWallAlmost() {
        const auto plane = test::openPart(test::ruledWall(dir(), 30, 0.0));
        const auto flat = flankOf(*plane, 0, 6.0).value();
        QCOMPARE(flat.kind, FlankKind::Developable);
        QVERIFY(flat.deviation < 1e-9);
        const auto cone = test::openPart(test::coneStep(dir(), 20, 10, 30));
        for (std::size_t f = 0; f < cone->faces().size(); ++f)
            if (cone->faces()[f].kind == SurfaceKind::Cone) {
                const auto a = flankOf(*cone, static_cast<int>(f), 5.0).value();
                QVERIFY(a.kind == FlankKind::Developable && a.twist < 1e-9 && a.deviation < 1e-9);
            }
        // Known answer: the wall's rulings join points at x = ±50·s; the normals at the ends of the ruling in the middle turn by the twist.
        for (const double twist : {0.02, 0.1, 0.3}) {
            const auto wall = test::openPart(test::ruledWall(dir(), 30, twist));
            const auto a = flankOf(*wall, 0, 6.0).value();
            QCOMPARE(a.kind, FlankKind::Twisted);
            QVERIFY2(std::abs(a.twist - twist) < 0.02 * twist, qPrintable(QString("%1 for %2").arg(a.twist).arg(twist)));
            QVERIFY2(std::abs(a.deviation - 6.0 * (1 - std::cos(0.5 * a.twist))) < 0.05 * a.deviation, qPrintable(QString::number(a.deviation)));
            const double c = 50 * std::cos(twist), s = 50 * std::sin(twist);
            const auto b = flankBetween({{-50, 0, 0}, {50, 0, 0}}, {{-c, -s, 30}, {c, s, 30}}, 6.0).value();
            QVERIFY(std::abs(a.deviation - b.deviation) < 0.02 * b.deviation);
        }
    }
    void aBallOrAScanCannotBeFollowedAndSaysSo() {
        const auto dome = test::openPart(test::demoFile("pierced-dome.step"));
        for (std::size_t f = 0; f < dome->faces().size(); ++f)
            if (dome->faces()[f].kind == SurfaceKind::Sphere) {
                const auto a = flankOf(*dome, static_cast<int>(f), 5.0).value();
                QCOMPARE(a.kind, FlankKind::NotRuled);
                QVERIFY(a.words.find("rail") != std::string::npos);
                break;
            }
        QVERIFY(flankOf(*test::openPart(test::demoFile("moth-relief.stl")), 0, 5.0).error().remedy.find("rail") != std::string::npos);
        QVERIFY(!flankOf(*dome, 9999, 5.0));
        QVERIFY(!flankOf(*dome, 0, 0.0));
        QVERIFY(!flankBetween({{0, 0, 0}}, {{0, 0, 1}, {1, 0, 1}}, 3.0));
    }
};

GYRE_TEST(TestMeshPart)

} // namespace test_mesh_part
#include "test_mesh_part.moc"
