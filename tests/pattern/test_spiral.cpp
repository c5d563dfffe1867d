#include "LaidRows.h"
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/Spiral.h"

namespace test_spiral {

using namespace gyre;
using test::faceOf;
using test::lay;

namespace {

PatternSpec levels(double spacing) {
    PatternSpec spec;
    spec.kind = PatternBy::Planes;
    spec.lean = 90.0;
    spec.spacing = spacing;
    spec.order = RowOrder::Spiral;
    return spec;
}

/// Degrees around Z, counted on past full turns.
std::vector<double> turned(const Row& row) {
    std::vector<double> out;
    for (const Vec3& p : row.points) {
        const double a = degrees(std::atan2(p.y(), p.x()));
        out.push_back(out.empty() ? a : out.back() + std::remainder(a - out.back(), 360.0));
    }
    return out;
}

/// How far a spiral's heights are from those that its angle says, between the heights of the rows that it comes from.
double offTheHelix(const Part& part, const std::vector<int>& faces, PatternSpec spec, const PatternResult& spiral) {
    spec.order = RowOrder::OneWay;
    std::vector<double> heights;
    for (const Row& row : lay(part, faces, spec).rows) heights.push_back(row.points.front().z());
    if (heights.size() + 1 != spiral.turns) return 1e9;
    const auto angle = turned(spiral.rows[0]);
    double worst = 0.0;
    for (std::size_t i = 0; i < angle.size(); ++i) {
        const double turns = std::clamp(std::abs(angle[i] - angle.front()) / 360.0 - 1.0, 0.0, static_cast<double>(heights.size()) - 1.0);
        const auto k = std::min(static_cast<std::size_t>(turns), heights.size() - 2);
        const double z = heights[k] + (turns - static_cast<double>(k)) * (heights[k + 1] - heights[k]);
        worst = std::max(worst, std::abs(spiral.rows[0].points[i].z() - z));
    }
    return worst;
}

double offTheFaces(const Part& part, const Row& row) {
    double off = 0.0;
    for (std::size_t i = 0; i < row.points.size(); ++i) {
        double least = 1e9;
        for (std::size_t f = 0; f < part.faces().size(); ++f) least = std::min(least, (part.project(static_cast<int>(f), row.points[i]).point - row.points[i]).norm());
        off = std::max(off, least);
    }
    return off;
}

} // namespace

class TestSpiral : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // On a cone the levels are circles: once round the lower one, then a helix whose height goes with the angle, once round the upper one.
    void onAConeItIsAHelix() {
        const auto part = test::openPart(test::coneStep(dir(), 20, 12, 15));
        const PatternResult r = lay(*part, {faceOf(*part, SurfaceKind::Cone)}, levels(0.9));
        QCOMPARE(r.rows.size(), std::size_t(1));
        QVERIFY(r.rows[0].spiral && !r.rows[0].closed && r.findings.empty());
        const double slant = std::hypot(15.0, 8.0);
        const int steps = static_cast<int>(std::ceil(slant / 0.9 - 1e-9));
        QVERIFY2(std::abs(static_cast<int>(r.turns) - (steps + 2)) <= 1, qPrintable(QString::number(r.turns)));
        const auto angle = turned(r.rows[0]);
        const double way = angle.back() > angle.front() ? 1.0 : -1.0;
        const double worst = offTheHelix(*part, {faceOf(*part, SurfaceKind::Cone)}, levels(0.9), r);
        QVERIFY2(worst < 0.004, qPrintable(QString::number(worst)));
        QVERIFY(std::abs(way * (angle.back() - angle.front()) - 360.0 * static_cast<double>(r.turns)) < 0.1);
        QVERIFY2(offTheFaces(*part, r.rows[0]) < 1e-4, qPrintable(QString::number(offTheFaces(*part, r.rows[0]))));
        QVERIFY(r.widestGap <= 1.01 * 0.9);
        for (std::size_t i = 1; i < r.rows[0].points.size(); ++i) QVERIFY((r.rows[0].points[i] - r.rows[0].points[i - 1]).norm() <= 2.0 + 1e-6);
    }
    // Between rails, where the field lies on triangles: a cylinder's helix.
    void betweenRailsAsWell() {
        const auto part = test::openPart(test::cylinderStep(dir(), 10, 12));
        PatternSpec spec;
        spec.spacing = 0.5;
        spec.order = RowOrder::Spiral;
        const PatternResult r = lay(*part, {faceOf(*part, SurfaceKind::Cylinder)}, spec);
        QCOMPARE(r.rows.size(), std::size_t(1));
        const double worst = offTheHelix(*part, {faceOf(*part, SurfaceKind::Cylinder)}, spec, r);
        QVERIFY2(worst < 0.01, qPrintable(QString::number(worst)));
    }
    // From a circle to a square around it: its corners are nearest to no place of the circle, and the way goes by them all the same.
    void cornersOfTheNextRingAreMet() {
        Ring inner, outer;
        inner.level = 0.0;
        outer.level = 1.0;
        const auto sample = [](double x, double y) { return RowSample{{x, y, 0}, Vec3::UnitZ(), {0, 0}, 0, false}; };
        for (int i = 0; i < 100; ++i) inner.samples.push_back(sample(5 * std::cos(kPi * i / 50), 5 * std::sin(kPi * i / 50)));
        const std::array<Vec2, 5> corners{Vec2(6, -6), Vec2(6, 6), Vec2(-6, 6), Vec2(-6, -6), Vec2(6, -6)};
        for (std::size_t c = 0; c < 4; ++c)
            for (int k = 0; k < 24; ++k)
                outer.samples.push_back(
                    sample(corners[c].x() + k / 24.0 * (corners[c + 1].x() - corners[c].x()), corners[c].y() + k / 24.0 * (corners[c + 1].y() - corners[c].y())));
        QVERIFY(runsBeside(inner, outer, 4.0) && !runsBeside(inner, outer, 3.0));
        const SpiralSource flat{[](const Vec3& p, double, const RowSample& beside) {
                                    return RowSample{p, beside.normal, beside.uv, 0, false};
                                },
                                [](const RowSample&, const RowSample&, const RowSample&) { return true; }};
        Polyline way;
        for (const RowSample& s : spiralThrough({inner, outer}, flat)) way.push_back(s.point);
        // Only the turn between the two rounds.
        const auto from = static_cast<std::ptrdiff_t>(inner.samples.size());
        const Polyline turn(way.begin() + from, way.end() - static_cast<std::ptrdiff_t>(outer.samples.size()));
        const PolylineDistance between(turn);
        for (const double degree : {45.0, 135.0, 225.0, 315.0}) {
            const Vec3 out(std::cos(radians(degree)), std::sin(radians(degree)), 0);
            const double share = degree / 360.0;
            const Vec3 meant = ((1 - share) * 5.0 + share * 6.0 * std::sqrt(2.0)) * out;
            QVERIFY2(between.distance(meant) < 0.03, qPrintable(QString("%1 at %2").arg(between.distance(meant)).arg(degree)));
        }
    }
    // By their number: whatever distance that comes to.
    void aGivenNumberOfRowsIsJoined() {
        const auto part = test::openPart(test::coneStep(dir(), 20, 12, 15));
        PatternSpec spec = levels(0.5);
        spec.by = RowsBy::Count;
        spec.count = 6;
        const PatternResult r = lay(*part, {faceOf(*part, SurfaceKind::Cone)}, spec);
        QCOMPARE(r.rows.size(), std::size_t(1));
        QCOMPARE(r.turns, std::size_t(7));
        QVERIFY(std::abs(r.widestGap - std::hypot(15.0, 8.0) / 5.0) < 0.05);
    }
    // From the other end; the other way round. Which end comes first does not turn the direction, and the direction leaves the first end where it is.
    void endAndDirectionAreAsAsked() {
        const auto part = test::openPart(test::coneStep(dir(), 20, 12, 15));
        const int cone = faceOf(*part, SurfaceKind::Cone);
        for (const bool last : {false, true})
            for (const bool reversed : {false, true}) {
                PatternSpec spec = levels(1.5);
                spec.start = last ? RowStart::Last : RowStart::First;
                spec.reversed = reversed;
                const PatternResult r = lay(*part, {cone}, spec);
                QCOMPARE(r.rows.size(), std::size_t(1));
                const auto& points = r.rows[0].points;
                QVERIFY(std::abs(points.front().z() - (last ? 15.0 : 0.0)) < 0.01 && std::abs(points.back().z() - (last ? 0.0 : 15.0)) < 0.01);
                const auto angle = turned(r.rows[0]);
                PatternSpec rows = spec;
                rows.order = RowOrder::OneWay;
                const auto single = turned(lay(*part, {cone}, rows).rows[0]);
                QVERIFY((single[1] > single[0]) == (angle.back() > angle.front()));
            }
        for (const RowStart start : {RowStart::Middle, RowStart::Outside}) {
            PatternSpec spec = levels(1.5);
            spec.start = start;
            Progress p;
            const auto r = layRows(*part, {cone}, spec, 3.0, p);
            QVERIFY(!r && r.error().what.find("from one end") != std::string::npos);
        }
    }
    // Over a waist, nearly up to a point, and round a twisted prism, whose sides meet in edges: every place of the faces lies within half the asked
    // distance of the way, by brute force, and all of the way on the faces.
    void nothingIsLeftBetweenTheTurns_data() {
        QTest::addColumn<QString>("shape");
        for (const char* shape : {"waist", "cone", "prism", "dome"}) QTest::newRow(shape) << shape;
    }
    void nothingIsLeftBetweenTheTurns() {
        QFETCH(QString, shape);
        const auto part = test::openPart(
            shape == "waist"  ? test::hyperboloid(dir(), 10, 12, 9)
            : shape == "cone" ? test::coneStep(dir(), 14, 0.4, 4)
            : shape == "dome" ? test::demoFile("pierced-dome.step")
                              : test::ruledPrism(dir(), {{0, 0}, {30, 0}, {36, 20}, {15, 34}, {-5, 18}}, {{2, 3}, {28, -2}, {34, 24}, {12, 30}, {-3, 20}}, 20));
        std::vector<int> faces;
        for (std::size_t f = 0; f < part->faces().size(); ++f) {
            const FaceInfo& i = part->faces()[f];
            const bool wanted = shape == "dome"   ? i.kind == SurfaceKind::Sphere && i.area > 1000
                                : shape == "cone" ? i.kind == SurfaceKind::Cone
                                                  : std::abs(i.normal.z()) < 0.95;
            if (wanted && (faces.empty() || shape != "dome")) faces.push_back(static_cast<int>(f));
        }
        QVERIFY(!faces.empty());
        const double spacing = 1.2;
        const PatternResult r = lay(*part, faces, levels(spacing));
        QVERIFY(r.turns > 3);
        if (shape != "dome") QCOMPARE(r.rows.size(), std::size_t(1)); // its holes break the rows that meet them
        std::vector<PolylineDistance> ways;
        for (const Row& row : r.rows) ways.emplace_back(row.points);
        test::Random random(5);
        double worst = 0.0;
        for (int i = 0; i < 4000; ++i) {
            const TriangleMesh& m = part->faceMesh(faces[static_cast<std::size_t>(i) % faces.size()]);
            const auto t = static_cast<std::size_t>(random.integer(0, static_cast<int>(m.triangles.size()) - 1));
            double a = random.number(0, 1), b = random.number(0, 1);
            if (a + b > 1) a = 1 - a, b = 1 - b;
            const Vec3 p = (1 - a - b) * m.corner(t, 0) + a * m.corner(t, 1) + b * m.corner(t, 2);
            double d = 1e9;
            for (const auto& way : ways) d = std::min(d, way.distance(p, d));
            worst = std::max(worst, d);
        }
        // Beside the rim of a hole the row before it lies over the hole: there the next one is up to a whole step away.
        QVERIFY2(worst < (shape == "dome" ? 1.02 : 0.52) * spacing + 0.02, qPrintable(QString::number(worst)));
        for (const Row& row : r.rows) {
            // Rows end at the rims of holes as their triangles have them: over the rim the ball goes on.
            if (shape == "dome") {
                for (const Vec3& p : row.points) QVERIFY(std::abs(p.norm() - 60.0) < 1e-4);
                continue;
            }
            QVERIFY2(offTheFaces(*part, row) < 1e-4, qPrintable(QString::number(offTheFaces(*part, row))));
        }
    }
    // Rows that end at a border stay rows, and it is told.
    void whatIsOpenStaysRowsAndIsTold() {
        const auto part = test::openPart(test::boxStep(dir(), 40, 30, 10));
        int top = -1;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].normal.z() > 0.99) top = static_cast<int>(f);
        PatternSpec spec;
        spec.kind = PatternBy::Rings;
        spec.centre = {20, 15, 0};
        spec.spacing = 1.0;
        spec.order = RowOrder::Spiral;
        PatternResult r = lay(*part, {top}, spec);
        QVERIFY2(r.turns > 10 && r.rows.size() > 1 && r.rows[0].spiral, qPrintable(QString("%1 turns, %2 rows").arg(r.turns).arg(r.rows.size())));
        QVERIFY(r.findings.size() == 1 && r.findings[0].code == "not-in-spiral" && r.findings[0].rank == Rank::Note);
        QCOMPARE(static_cast<std::size_t>(r.findings[0].amount), r.rows.size() - 1);
        // Round the whole circles the way stays on the face and within its border.
        for (const Vec3& p : r.rows[0].points) QVERIFY(std::abs(p.z() - 10) < 1e-6 && std::hypot(p.x() - 20, p.y() - 15) < 15.0 + 1e-6);
        spec.kind = PatternBy::Planes;
        r = lay(*part, {top}, spec);
        QVERIFY(r.turns == 0 && r.findings.size() == 1 && r.findings[0].rank == Rank::Look && !r.findings[0].remedies.empty());
    }
};
GYRE_TEST(TestSpiral)

} // namespace test_spiral
#include "test_spiral.moc"
