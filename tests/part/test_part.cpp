#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "target/Target.h"

namespace test_part {

using namespace gyre;
using test::Random;

class TestPart : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
    static Error openError(const std::filesystem::path& file) {
        Progress p;
        auto part = Part::open(file, 0.02, p);
        return part ? Error{"it opened", {}, {}, false} : part.error();
    }

private slots:
    // A cone ends at its tip: what lies beyond has its foot there, not on the other half of the surface.
    void coneFeetEndAtTheTip() {
        QTemporaryDir folder;
        const auto part = test::openPart(test::coneStep(folder.path().toStdString(), 10, 0, 15));
        int cone = -1;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].kind == SurfaceKind::Cone) cone = static_cast<int>(f);
        QVERIFY(cone >= 0);
        test::Random random(77);
        const auto [low, high] = part->parameterBounds(cone);
        for (int i = 0; i < 200; ++i) {
            const double u = random.number(low.x(), high.x()), v = random.number(low.y(), high.y());
            const Vec3 beyond(random.number(-1, 1), random.number(-1, 1), random.number(18, 40));
            QVERIFY2((part->project(cone, beyond, u, v).point - Vec3(0, 0, 15)).norm() < 1e-9, qPrintable(QString::number(part->project(cone, beyond, u, v).point.z())));
            // Beside it: the foot on the line down the cone that points there, by its own formula.
            const double a = random.number(-3, 3), r = random.number(0.1, 14), z = random.number(1, 14);
            const Vec3 p(r * std::cos(a), r * std::sin(a), z), out(std::cos(a), std::sin(a), 0), tip(0, 0, 15), down = (10.0 * out - 15.0 * Vec3::UnitZ()).normalized();
            const Vec3 foot = tip + std::max(0.0, (p - tip).dot(down)) * down;
            QVERIFY((part->project(cone, p, u, v).point - foot).norm() < 1e-9);
        }
    }
    void aCylinderHasItsKnownFacesAndEdges() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        QCOMPARE(part->faces().size(), std::size_t(3));
        int walls = 0, planes = 0;
        for (const FaceInfo& f : part->faces()) {
            if (f.kind == SurfaceKind::Cylinder) {
                ++walls;
                QVERIFY(std::abs(f.area - 2 * kPi * 20 * 30) < 1e-3);
                QCOMPARE(f.radius, 20.0);
                QVERIFY(f.normal.dot(Vec3(f.centre.x(), f.centre.y(), 0)) > 0);
            } else {
                ++planes;
                QVERIFY(std::abs(f.area - kPi * 400) < 1e-3);
            }
        }
        QCOMPARE(walls, 1);
        QCOMPARE(planes, 2);
        int rims = 0;
        for (const EdgeInfo& e : part->edges())
            if (e.kind == CurveKind::Circle) {
                ++rims;
                QVERIFY(e.closed && std::abs(e.length - 2 * kPi * 20) < 1e-6);
                QVERIFY2(std::abs(e.angle - kPi / 2) < 1e-9, qPrintable(QString::number(e.angle))); // convex
            }
        QCOMPARE(rims, 2);
        QVERIFY(std::abs(part->volume() - kPi * 400 * 30) < 0.01 * part->volume());
    }
    void boxEdgesAreConvexAndACollarsFootIsConcave() {
        const auto box = test::openPart(test::boxStep(dir(), 10, 20, 30));
        QCOMPARE(box->edges().size(), std::size_t(12));
        for (const EdgeInfo& e : box->edges()) QVERIFY(std::abs(e.angle - kPi / 2) < 1e-9);
        const auto collar = test::openPart(test::demoFile("lantern-collar.step"));
        int smooth = 0, concave = 0;
        for (const EdgeInfo& e : collar->edges()) {
            smooth += std::abs(e.angle) < 1e-6 && !e.degenerate;
            concave += e.angle < -0.1;
        }
        QVERIFY(smooth >= 18); // between the lobes, and from foot to wall to lip
        QVERIFY(concave > 0);  // the inside meets the floor
    }
    void footsOfPointsAreExact() {
        Random r(31);
        const auto part = test::openPart(test::coneStep(dir(), 30, 10, 40));
        for (std::size_t f = 0; f < part->faces().size(); ++f) {
            if (part->faces()[f].kind != SurfaceKind::Cone) continue;
            const double half = std::atan2(20.0, 40.0);
            for (int i = 0; i < 3000; ++i) {
                const double z = r.number(4, 30), t = r.number(0, 2 * kPi), radius = 30 - z * std::tan(half), off = r.number(-3, 3);
                const Vec3 n(std::cos(half) * std::cos(t), std::cos(half) * std::sin(t), std::sin(half)), p(radius * std::cos(t), radius * std::sin(t), z);
                const SurfacePoint s = part->project(static_cast<int>(f), p + off * n);
                QVERIFY((s.point - p).norm() < 1e-8);
                QVERIFY((s.normal - n).norm() < 1e-8);
            }
        }
    }
    void fieldMeshesAreConformingFineAndOnTheSurface() {
        const auto part = test::openPart(test::demoFile("lantern-collar.step"));
        const std::vector<int> faces = tangentFaces(*part, 4);
        QVERIFY(faces.size() >= 27); // foot, wall and lip of nine lobes
        const auto mesh = part->fieldMesh(faces, 1.5, nullptr);
        QVERIFY(mesh);
        std::map<std::pair<unsigned, unsigned>, int> sides;
        double area = 0;
        for (std::size_t t = 0; t < mesh->triangles.size(); ++t) {
            const auto& ids = mesh->triangles[t];
            for (std::size_t c = 0; c < 3; ++c) {
                const auto a = ids[c], b = ids[(c + 1) % 3];
                ++sides[{std::min(a, b), std::max(a, b)}];
                const SurfacePoint s = part->evaluate(mesh->faces[t], mesh->uv[t][c].x(), mesh->uv[t][c].y());
                QVERIFY2((s.point - mesh->points[a]).norm() < 1e-5, qPrintable(QString::number((s.point - mesh->points[a]).norm())));
            }
            area += 0.5 * (mesh->points[ids[1]] - mesh->points[ids[0]]).cross(mesh->points[ids[2]] - mesh->points[ids[0]]).norm();
        }
        double border = 0, exact = 0;
        for (const auto& [side, n] : sides) {
            const double l = (mesh->points[side.first] - mesh->points[side.second]).norm();
            QVERIFY(n <= 2 && l < 2.5);
            if (n == 1) border += l;
        }
        for (const EdgeChain& loop : borderLoops(*part, faces)) exact += chainLength(*part, loop);
        QVERIFY(std::abs(border - exact) < 2e-3 * exact); // only the true border is open
        double faceArea = 0;
        for (int f : faces) faceArea += part->faces()[static_cast<std::size_t>(f)].area;
        QVERIFY(std::abs(area - faceArea) < 5e-3 * faceArea);
    }
    void referencesFindTheirFaceAgainAfterAnotherOrder() {
        const auto part = test::openPart(test::demoFile("lantern-collar.step"));
        for (int f : {0, 3, 17, 30}) {
            ShapeRef ref = part->faceRef(f);
            ref.index = (f + 7) % static_cast<int>(part->faces().size()); // as after a re-export
            const auto found = part->findFace(ref);
            QVERIFY2(found, found ? "" : found.error().text().c_str());
            QCOMPARE(*found, f);
        }
        for (int e : {2, 11, 40}) {
            ShapeRef ref = part->edgeRef(e);
            ref.index += 5;
            QCOMPARE(part->findEdge(ref).value(), e);
        }
        ShapeRef gone = part->faceRef(3);
        gone.centre += Vec3(5, 5, 5);
        QVERIFY(!part->findFace(gone));
        QVERIFY(!part->findFace(ShapeRef{9999, "", 0, Vec3::Zero()}));
        QVERIFY(!part->findFace(ShapeRef{-1, "plane", 5, Vec3::Zero()}));
    }
    void railsProposeThemselves() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].kind == SurfaceKind::Cylinder) {
                const auto rails = proposeRails(*part, {static_cast<int>(f)});
                QVERIFY(rails && rails->first.closed && rails->second.closed);
                QVERIFY(part->edges()[static_cast<std::size_t>(rails->first.edges[0])].middle.z() <
                        part->edges()[static_cast<std::size_t>(rails->second.edges[0])].middle.z());
            } else
                QVERIFY(!proposeRails(*part, {static_cast<int>(f)}));
        QVERIFY(!proposeRails(*part, {}));
        QVERIFY(!chainOf(*part, {}));
    }
    void chainsAreFoundInWhateverOrderEdgesArePicked() {
        const auto part = test::openPart(test::demoFile("lantern-collar.step"));
        Random r(32);
        const auto rails = proposeRails(*part, tangentFaces(*part, 4));
        QVERIFY(rails);
        std::vector<int> edges = rails->first.edges;
        for (int i = 0; i < 20; ++i) {
            std::swap(edges[static_cast<std::size_t>(r.integer(0, static_cast<int>(edges.size()) - 1))],
                      edges[static_cast<std::size_t>(r.integer(0, static_cast<int>(edges.size()) - 1))]);
            const auto chain = chainOf(*part, edges);
            QVERIFY(chain && chain->closed == rails->first.closed && chain->edges.size() == edges.size());
        }
    }
    void damagedStepFilesGiveAReason() {
        const std::string whole = readFile(test::demoFile("lantern-collar.step"), 1 << 26).value();
        const auto with = [&](const std::string& text) {
            const auto file = dir() / "damaged.step";
            (void)writeFileAtomic(file, text);
            return openError(file).text();
        };
        QVERIFY(QString::fromStdString(with("")).contains("empty"));
        QVERIFY(QString::fromStdString(with("solid ascii\nfacet")).contains("not a STEP file"));
        QVERIFY(QString::fromStdString(with(whole.substr(0, whole.size() / 2))).contains("cut short"));
        QVERIFY(QString::fromStdString(with("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n")).contains("damaged.step"));
        QVERIFY(QString::fromStdString(openError(dir() / "nowhere.step").text()).contains("not there"));
        QVERIFY(
            QString::fromStdString(with("\n\nISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=A(1.Q);\nENDSEC;\nEND-ISO-10303-21;\n")).contains("damaged in line 7: a number"));
        // Whatever is broken inside: an answer, never a crash of the program.
        Random r(33);
        for (int i = 0; i < 12; ++i) {
            std::string broken = whole;
            for (int k = 0; k < 40; ++k) broken[static_cast<std::size_t>(r.integer(200, static_cast<int>(whole.size()) - 40))] = static_cast<char>(r.integer(32, 126));
            QVERIFY(QString::fromStdString(with(broken)).contains("is damaged in line"));
        }
        // Damage that keeps to the rules of the format reaches the kernel: other digits, other kinds. An answer, never a crash.
        int read = 0;
        for (int i = 0; i < 12; ++i) {
            std::string broken = readFile(test::demoFile("collar-seat.step"), 1 << 26).value();
            for (int k = 0; k < 3;) {
                char& c = broken[static_cast<std::size_t>(r.integer(200, static_cast<int>(broken.size()) - 40))];
                if (c >= '0' && c <= '9')
                    c = static_cast<char>(r.integer('0', '9'));
                else if (c >= 'A' && c <= 'Z')
                    c = static_cast<char>(r.integer('A', 'Z'));
                else
                    continue;
                ++k;
            }
            const auto file = dir() / "damaged.step";
            (void)writeFileAtomic(file, broken);
            Progress quiet;
            const auto part = Part::open(file, 0.02, quiet);
            QVERIFY(part || !part.error().text().empty());
            read += part.has_value();
        }
        QVERIFY(read < 12);
    }
    // Feet on a ball are on the ray from its middle, also around its pole, from whatever parameters the search begins. (Newton's steps stood still there,
    // and rows ran to the pole.)
    void feetOnABallPassItsPole() {
        const auto part = test::openPart(test::demoFile("pierced-dome.step"));
        int ball = -1;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].kind == SurfaceKind::Sphere && part->faces()[f].radius > 59.0) ball = static_cast<int>(f);
        QVERIFY(ball >= 0);
        test::Random r(90);
        double worst = 0.0;
        for (int i = 0; i < 3000; ++i) {
            const double far = std::pow(10.0, r.number(-5, 1));
            const Vec3 p = Vec3(far * r.number(-1, 1), far * r.number(-1, 1), 60.0).normalized() * r.number(58.0, 63.0);
            const SurfacePoint foot = part->project(ball, p, r.number(0, 6.28), r.number(0.3, 1.57079632679));
            worst = std::max({worst, (foot.point - 60.0 * p.normalized()).norm(), 60.0 * (foot.normal - p.normalized()).norm()});
        }
        QVERIFY2(worst < 1e-6, qPrintable(QString::number(worst)));
    }
    void openingCanBeCancelled() {
        Progress p;
        p.cancel();
        auto part = Part::open(test::demoFile("lantern-collar.step"), 0.02, p);
        QVERIFY(!part && part.error().cancelled);
    }
};

GYRE_TEST(TestPart)

} // namespace test_part
#include "test_part.moc"
