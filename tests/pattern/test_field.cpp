// Fields and their level lines against fields that are known.
#include "Program.h"
#include "Support.h"
#include "pattern/Field.h"
#include "target/Target.h"
#include "target/TargetSpec.h"

namespace test_field {

using namespace gyre;

namespace {

struct Laid {
    FieldMesh mesh;
    Field field;
};

// The wall of a cylinder or cone, 0 on its lower edge and 1 on its upper one.
Laid wall(const Part& part, double side) {
    int face = -1;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind != SurfaceKind::Plane) face = static_cast<int>(f);
    Laid l;
    l.mesh = part.fieldMesh({face}, side, nullptr).value();
    std::vector<std::uint32_t> low, high;
    for (std::size_t e = 0; e < part.edges().size(); ++e) {
        const EdgeInfo& info = part.edges()[e];
        if (!info.closed || info.degenerate) continue;
        auto& rail = info.middle.z() < 1.0 ? low : high;
        rail.insert(rail.end(), l.mesh.edgeLine[e].begin(), l.mesh.edgeLine[e].end());
    }
    l.field = harmonicField(l.mesh, low, high).value();
    return l;
}

} // namespace

class TestField : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // On a cylinder the harmonic field between the two circles is the height.
    void onACylinderItIsTheHeight() {
        const auto part = test::openPart(test::cylinderStep(dir(), 15, 40));
        const Laid l = wall(*part, 1.5);
        double worst = 0.0, steep = 0.0;
        for (std::size_t i = 0; i < l.mesh.points.size(); ++i) {
            worst = std::max(worst, std::abs(l.field.value[i] - l.mesh.points[i].z() / 40.0));
            if (l.mesh.points[i].z() > 4 && l.mesh.points[i].z() < 36) steep = std::max(steep, std::abs(l.field.gradient[i].norm() * 40.0 - 1.0));
        }
        QVERIFY2(worst < 2e-3, qPrintable(QString::number(worst)));
        QVERIFY2(steep < 3e-2, qPrintable(QString::number(steep)));
    }
    // On a cone it is the logarithm of the distance from the apex.
    void onAConeItIsTheLogarithmOfTheDistanceFromTheApex() {
        const auto part = test::openPart(test::coneStep(dir(), 20, 10, 30));
        const Laid l = wall(*part, 1.0);
        const Vec3 apex(0, 0, 60);
        const double from = (Vec3(20, 0, 0) - apex).norm(), to = (Vec3(10, 0, 30) - apex).norm();
        double worst = 0.0;
        for (std::size_t i = 0; i < l.mesh.points.size(); ++i)
            worst = std::max(worst, std::abs(l.field.value[i] - std::log((l.mesh.points[i] - apex).norm() / from) / std::log(to / from)));
        QVERIFY2(worst < 3e-3, qPrintable(QString::number(worst)));
    }
    void linesAreClosedEvenAndAtTheirLevel() {
        const auto part = test::openPart(test::cylinderStep(dir(), 15, 40));
        const Laid l = wall(*part, 1.5);
        const LevelTracer tracer(l.mesh, l.field);
        for (const double level : {0.013, 0.25, 0.5, 0.777, 0.99}) {
            const auto lines = tracer.lines(level);
            QCOMPARE(lines.size(), std::size_t(1));
            QVERIFY(lines[0].closed);
            double length = 0.0;
            for (std::size_t i = 0; i < lines[0].crossings.size(); ++i) {
                const Vec3 &p = lines[0].crossings[i].point, &q = lines[0].crossings[(i + 1) % lines[0].crossings.size()].point;
                QVERIFY2(std::abs(p.z() - 40.0 * level) < 0.1, qPrintable(QString("%1 at %2").arg(p.z()).arg(level)));
                length += (q - p).norm();
            }
            QVERIFY(std::abs(length - 2 * kPi * 15) < 0.6);
        }
    }
    // Seen from outside the higher values lie on the left: around a cylinder whose field grows upward that is counter-clockwise.
    void linesRunWithTheHigherValuesOnTheirLeft() {
        const auto part = test::openPart(test::cylinderStep(dir(), 15, 40));
        const Laid l = wall(*part, 1.5);
        const auto line = LevelTracer(l.mesh, l.field).lines(0.5).at(0);
        double turned = 0.0;
        for (std::size_t i = 0; i < line.crossings.size(); ++i) {
            const Vec3 &p = line.crossings[i].point, &q = line.crossings[(i + 1) % line.crossings.size()].point;
            turned += std::atan2(p.x() * q.y() - p.y() * q.x(), p.x() * q.x() + p.y() * q.y());
        }
        QVERIFY(std::abs(turned - 2 * kPi) < 1e-6);
    }
    void linesOfAnOpenFaceEndOnItsBorder() {
        const auto part = test::openPart(test::boxStep(dir(), 30, 20, 10));
        int top = -1;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].normal.z() > 0.9) top = static_cast<int>(f);
        const FieldMesh mesh = part->fieldMesh({top}, 1.0, nullptr).value();
        std::vector<std::uint32_t> left, right;
        for (std::size_t e = 0; e < part->edges().size(); ++e) {
            if (mesh.edgeLine[e].empty()) continue;
            const Vec3& m = part->edges()[e].middle;
            if (std::abs(m.x()) < 1e-9) left.insert(left.end(), mesh.edgeLine[e].begin(), mesh.edgeLine[e].end());
            if (std::abs(m.x() - 30) < 1e-9) right.insert(right.end(), mesh.edgeLine[e].begin(), mesh.edgeLine[e].end());
        }
        const Field field = harmonicField(mesh, left, right).value();
        for (std::size_t i = 0; i < mesh.points.size(); ++i) QVERIFY(std::abs(field.value[i] - mesh.points[i].x() / 30.0) < 1e-6);
        const auto lines = LevelTracer(mesh, field).lines(0.4);
        QCOMPARE(lines.size(), std::size_t(1));
        QVERIFY(!lines[0].closed);
        const auto& ends = lines[0].crossings;
        QVERIFY(std::abs(std::abs(ends.front().point.y() - ends.back().point.y()) - 20.0) < 1e-6);
        for (const auto& c : ends) QVERIFY(std::abs(c.point.x() - 12.0) < 1e-5);
    }
    void railsThatTouchOrMissAPieceAreRefused() {
        const auto part = test::openPart(test::boxStep(dir(), 30, 20, 10));
        const FieldMesh mesh = part->fieldMesh({0}, 2.0, nullptr).value();
        QVERIFY(!harmonicField(mesh, {0, 1}, {1, 2}));
        // Two faces that do not meet: each piece would need both rails.
        int opposite = -1;
        for (std::size_t f = 1; f < part->faces().size(); ++f)
            if (part->faces()[f].normal.dot(part->faces()[0].normal) < -0.9) opposite = static_cast<int>(f);
        const FieldMesh two = part->fieldMesh({0, opposite}, 2.0, nullptr).value();
        QVERIFY(!harmonicField(two, {0}, {1}));
    }
    void trianglesAreWellShapedWhereFieldsAreLaid() {
        const auto collar = test::openPart(test::demoFile("lantern-collar.step"));
        const Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        const FieldMesh mesh = collar->fieldMesh(resolveFaces(*collar, job.route[0].target->faces).value(), 1.2, nullptr).value();
        std::size_t thin = 0;
        for (const auto& t : mesh.triangles) {
            double least = kPi;
            for (std::size_t c = 0; c < 3; ++c) {
                const Vec3 a = mesh.points[t[(c + 1) % 3]] - mesh.points[t[c]], b = mesh.points[t[(c + 2) % 3]] - mesh.points[t[c]];
                QVERIFY(a.norm() < 1.3 * 1.2);
                least = std::min(least, angleBetween(a, b));
            }
            thin += least < radians(12);
        }
        QVERIFY2(thin < mesh.triangles.size() / 50, qPrintable(QString("%1 of %2").arg(thin).arg(mesh.triangles.size())));
    }
};

GYRE_TEST(TestField)

} // namespace test_field
#include "test_field.moc"
