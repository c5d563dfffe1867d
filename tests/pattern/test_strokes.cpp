#include "LaidRows.h"
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "pattern/Field.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/Strokes.h"
#include <Eigen/Geometry>
#include <set>

namespace test_strokes {

using namespace gyre;
using test::lay;

namespace {

/// A part of a cylinder about Z with uneven triangles: angles from 0 to `sweep`, heights 0 to `height`.
FieldMesh cylinderMesh(double radius, double sweep, double height, int around, int up, unsigned salt) {
    test::Random random(salt);
    FieldMesh m;
    for (int j = 0; j <= up; ++j)
        for (int i = 0; i <= around; ++i) {
            const bool rim = i == 0 || i == around, end = j == 0 || j == up;
            const double a = sweep * (i + (rim ? 0.0 : random.number(-0.25, 0.25))) / around, z = height * (j + (end ? 0.0 : random.number(-0.25, 0.25))) / up;
            m.points.emplace_back(radius * std::cos(a), radius * std::sin(a), z);
        }
    const auto at = [&](int i, int j) { return static_cast<std::uint32_t>(j * (around + 1) + i); };
    for (int j = 0; j < up; ++j)
        for (int i = 0; i < around; ++i) {
            m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    m.faces.assign(m.triangles.size(), 0);
    m.uv.resize(m.triangles.size());
    return m;
}

/// A helix that climbs by `climb` radians against the rings, through the angle `a` at height z0.
Polyline helix(double radius, double a, double z0, double climb, double from, double to, bool back) {
    Polyline out;
    for (int i = 0; i <= 60; ++i) {
        const double s = from + (to - from) * (back ? 60 - i : i) / 60.0, turn = a + s * std::cos(climb) / radius;
        out.emplace_back(radius * std::cos(turn), radius * std::sin(turn), z0 + s * std::sin(climb));
    }
    return out;
}

PatternResult along(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const std::vector<Polyline>& curves) {
    return lay(part, faces, spec, {nullptr, curves});
}

int faceUp(const Part& part) {
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind == SurfaceKind::Plane && part.faces()[f].normal.z() > 0.99) return static_cast<int>(f);
    qFatal("no face looks up");
}

int ballOf(const Part& part) {
    int ball = -1;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind == SurfaceKind::Sphere && part.faces()[f].radius > 59.0) ball = static_cast<int>(f);
    return ball;
}

} // namespace

class TestStrokes : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // Two strokes along helices on half a cylinder, drawn in opposite directions: everywhere the rows are helices, and a millimetre is a millimetre.
    void twoHelicesMakeHelices() {
        for (const double climb : {radians(25.0), radians(-60.0), radians(80.0)}) {
            const double radius = 20.0;
            FieldMesh m = cylinderMesh(radius, kPi, 40.0, 50, 36, 7);
            std::vector<Polyline> strokes{helix(radius, 0.8, 12, climb, -8, 8, false), helix(radius, 2.2, 24, climb, -8, 8, true)};
            // Turned anyhow: the directions that tangent planes are counted from jump somewhere then.
            const Eigen::Matrix3d turned = (Eigen::AngleAxisd(1.1 + climb, Vec3(1, 2, -1).normalized()) * Eigen::AngleAxisd(0.7, Vec3::UnitX())).toRotationMatrix();
            for (Vec3& p : m.points) p = turned * p;
            for (Polyline& stroke : strokes)
                for (Vec3& p : stroke) p = turned * p;
            const auto directions = directionsAlong(m, strokes);
            QVERIFY(directions);
            const auto u = risingAcross(m, *directions);
            QVERIFY(u);
            // Over every five millimetres of a row.
            const auto [low, high] = std::minmax_element(u->begin(), u->end());
            std::vector<double> value;
            for (const double v : *u) value.push_back((v - *low) / (*high - *low));
            const Field field = fieldOf(m, value);
            const LevelTracer tracer(m, field);
            double worst = 0.0;
            int looked = 0;
            for (int k = 1; k < 40; ++k)
                for (const LevelLine& line : tracer.lines(k / 40.0)) {
                    std::size_t from = 0;
                    for (std::size_t i = 1; i < line.crossings.size(); ++i) {
                        const Vec3 a = turned.transpose() * line.crossings[from].point, b = turned.transpose() * line.crossings[i].point;
                        if ((b - a).norm() < 5.0) continue;
                        from = i;
                        const double turn = radius * std::remainder(std::atan2(b.y(), b.x()) - std::atan2(a.y(), a.x()), 2.0 * kPi);
                        const double off = std::abs(std::atan2(b.z() - a.z(), turn) - climb);
                        worst = std::max(worst, degrees(std::min(std::abs(std::remainder(off, kPi)), kPi)));
                        ++looked;
                    }
                }
            QVERIFY(looked > 100);
            QVERIFY2(worst < 0.5, qPrintable(QString("%1° at %2°").arg(worst).arg(degrees(climb))));
            // From corner to corner of the unrolled sheet, across the helices.
            const double wide = kPi * radius * std::abs(std::sin(climb)) + 40.0 * std::abs(std::cos(climb));
            QVERIFY2(std::abs(*high - *low - wide) < 0.01 * wide, qPrintable(QString("%1 for %2").arg(*high - *low).arg(wide)));
            QVERIFY(degrees(offStrokes(m, *u, strokes).angle) < 0.5);
        }
    }
    // A single stroke says it for all; a bent one bends them all, which is least of all turning.
    void oneStrokeRulesAPlane() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 10));
        PatternSpec spec;
        spec.kind = PatternBy::Strokes;
        spec.spacing = 1.0;
        const double a = radians(35.0);
        PatternResult r = along(*part, {faceUp(*part)}, spec, {{{20, 10, 10}, {20 + 20 * std::cos(a), 10 + 20 * std::sin(a), 10}}});
        QVERIFY(r.findings.empty() && r.widestGap <= 1.01);
        double worst = 0.0;
        for (const Row& row : r.rows)
            if (length(row.points) > 3.0) {
                const Vec3 along = row.points.back() - row.points.front();
                const double angle = angleBetween(along, Vec3(std::cos(a), std::sin(a), 0));
                worst = std::max(worst, degrees(std::min(angle, kPi - angle)));
            }
        QVERIFY2(worst < 0.5, qPrintable(QString::number(worst)));
        // The face's width across the rows, in steps of a millimetre.
        const double across = 60 * std::sin(a) + 40 * std::cos(a);
        std::set<int> numbers;
        for (const Row& row : r.rows) numbers.insert(row.index);
        QVERIFY2(std::abs(static_cast<double>(numbers.size()) - across) < 0.1 * across, qPrintable(QString("%1 for %2").arg(numbers.size()).arg(across)));
    }
    // Strokes that cannot be followed: across each other it is told by how much; on a whole cylinder helices come round to another level.
    void strokesThatContradictAreTold() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 10));
        PatternSpec spec;
        spec.kind = PatternBy::Strokes;
        spec.spacing = 1.0;
        Progress p;
        const std::vector<Polyline> crossed{{{10, 20, 10}, {50, 20, 10}}, {{30, 5, 10}, {30, 35, 10}}};
        const auto r = layRows(*part, {faceUp(*part)}, spec, 3.0, p, {nullptr, crossed});
        QVERIFY(!r ? r.error().what.find("turn against each other") != std::string::npos
                   : std::any_of(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "strokes-not-met" && f.amount > 10.0; }));
        const auto tube = test::openPart(test::cylinderStep(dir(), 20, 40));
        int wall = -1;
        for (std::size_t f = 0; f < tube->faces().size(); ++f)
            if (tube->faces()[f].kind == SurfaceKind::Cylinder) wall = static_cast<int>(f);
        const auto round = layRows(*tube, {wall}, spec, 3.0, p, {nullptr, {helix(20, 0.8, 20, radians(30), -8, 8, false)}});
        QVERIFY(!round || std::any_of(round->findings.begin(), round->findings.end(), [](const Finding& f) { return f.code == "strokes-not-met"; }));
        const auto beside = layRows(*part, {faceUp(*part)}, spec, 3.0, p, {nullptr, {{{10, 20, 10}, {10, 20, 20}}}});
        QVERIFY(!beside && beside.error().what.find("no stroke runs along") != std::string::npos);
    }
    // Curves over a plate: a circle that lies on it is a closed row, one that reaches over the border ends there, one beside it is none.
    void curvesFallOntoAPlate() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 10));
        const auto circle = [](double x, double y, double r, double z) {
            Polyline out;
            for (int i = 0; i <= 360; ++i) out.emplace_back(x + r * std::cos(kPi * (i % 360) / 180), y + r * std::sin(kPi * (i % 360) / 180), z);
            return out;
        };
        for (const int onto : {-1, 2}) {
            PatternSpec spec;
            spec.kind = PatternBy::Curves;
            spec.onto = onto;
            spec.order = RowOrder::OneWay;
            const PatternResult r = along(*part, {faceUp(*part)}, spec, {circle(20, 20, 10, 14), circle(60, 20, 8, 13), circle(200, 20, 5, 12)});
            QCOMPARE(r.rows.size(), std::size_t(2));
            QVERIFY(r.rows[0].closed && !r.rows[1].closed && r.rows[0].index == 0 && r.rows[1].index == 1);
            for (const Vec3& p : r.rows[0].points) QVERIFY(std::abs(std::hypot(p.x() - 20, p.y() - 20) - 10) < 0.003 && std::abs(p.z() - 10) < 1e-9);
            QVERIFY2(std::abs(length(r.rows[1].points) - kPi * 8) < 0.05, qPrintable(QString::number(length(r.rows[1].points))));
            for (const Vec3& end : {r.rows[1].points.front(), r.rows[1].points.back()}) QVERIFY2(std::abs(end.x() - 60) < 0.01, qPrintable(QString::number(end.x())));
        }
    }
    // Onto a ball along Z: the curve seen from above stays what it is. To the nearest point: along the rays from the middle.
    void curvesFallOntoABall() {
        const auto part = test::openPart(test::demoFile("pierced-dome.step"));
        const int ball = ballOf(*part);
        QVERIFY(ball >= 0);
        PatternSpec spec;
        spec.kind = PatternBy::Curves;
        const Polyline line{{-12, 9, 80}, {14, 9, 80}};
        spec.onto = 2;
        for (const Row& row : along(*part, {ball}, spec, {line}).rows)
            for (const Vec3& p : row.points) QVERIFY(std::abs(p.y() - 9) < 1e-4 && std::abs(p.norm() - 60) < 1e-4);
        spec.onto = -1;
        const PatternResult nearest = along(*part, {ball}, spec, {line});
        QCOMPARE(nearest.rows.size(), std::size_t(1));
        const Vec3 square = line[0].cross(line[1]).normalized();
        for (const Vec3& p : nearest.rows[0].points) QVERIFY(std::abs(p.dot(square)) < 1e-4 && std::abs(p.norm() - 60) < 1e-4);
        QVERIFY(std::abs(length(nearest.rows[0].points) - 60 * angleBetween(line[0], line[1])) < 0.01);
    }
    // Over the edge between two faces a row goes on, with points on the edge from both sides.
    void curvesGoOnOverEdges() {
        const auto part = test::openPart(test::bossOnPlate(dir(), 10.0));
        // Every face that is seen from above.
        std::vector<int> faces;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].normal.z() > 0.05) faces.push_back(static_cast<int>(f));
        QVERIFY(faces.size() >= 6);
        PatternSpec spec;
        spec.kind = PatternBy::Curves;
        spec.onto = 2;
        const Box box = part->mesh().bounds();
        const double y = box.centre().y() + 3.0;
        const PatternResult r = along(*part, faces, spec, {{{box.low.x() - 5, y, 60}, {box.high.x() + 5, y, 60}}});
        QCOMPARE(r.rows.size(), std::size_t(1));
        const auto& points = r.rows[0].points;
        QVERIFY(std::abs(points.front().x() - box.low.x()) < 0.01 && std::abs(points.back().x() - box.high.x()) < 0.01);
        for (const Vec3& p : points) QVERIFY(std::abs(p.y() - y) < 1e-3);
        // The way over the middle: up the side and down again is longer than across by what the sides are steep.
        const double high = box.high.z() - points.front().z();
        const double sides = 2.0 * high / std::cos(radians(10.0)) - 2.0 * high * std::tan(radians(10.0));
        QVERIFY2(std::abs(length(points) - (box.high.x() - box.low.x()) - sides) < 0.1,
                 qPrintable(QString::number(length(points) - (box.high.x() - box.low.x()) - sides)));
    }
};
GYRE_TEST(TestStrokes)

} // namespace test_strokes
#include "test_strokes.moc"
