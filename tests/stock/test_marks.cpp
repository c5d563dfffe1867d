// Marks on the surface against closed forms (balls, leaning discs, corner radii, barrels; planes, rounds, hollows), against plain trial, and what is told of a
// demo job against what its operation promises.
#include "Program.h"
#include "Support.h"
#include "session/SurfaceMarks.h"
#include "tool/Scallop.h"

namespace test_marks {

using namespace gyre;
using namespace gyre::test;

namespace {

Cutter cutterOf(CutterShape shape, double diameter, double corner = 0.0) {
    Cutter c;
    c.shape = shape;
    c.diameter = diameter;
    c.cornerRadius = corner;
    c.fluteLength = c.shoulderLength = 20.0;
    c.overallLength = 80.0;
    return c;
}

/// A patch of the plane z = 0 about the datum's zero.
MarkGround plane(double size, std::size_t places) {
    MarkGround g{places, places, size / static_cast<double>(places - 1), {}, {}};
    for (std::size_t j = 0; j < places; ++j)
        for (std::size_t i = 0; i < places; ++i) {
            g.foot.emplace_back(g.step * static_cast<double>(i) - 0.5 * size, g.step * static_cast<double>(j) - 0.5 * size, 0.0);
            g.outward.emplace_back(0, 0, 1);
        }
    return g;
}

/// A line across a round about the Y axis of this radius, hollow or not; its middle at the datum's zero.
MarkGround roundOf(double radius, bool hollow, double width, std::size_t places) {
    MarkGround g{places, 1, width / static_cast<double>(places - 1), {}, {}};
    for (std::size_t i = 0; i < places; ++i) {
        const double a = (g.step * static_cast<double>(i) - 0.5 * width) / radius;
        const Vec3 out(std::sin(a), 0, std::cos(a));
        if (hollow) {
            g.foot.emplace_back(radius * std::sin(a), 0, radius * (1.0 - std::cos(a)));
            g.outward.emplace_back(-std::sin(a), 0, std::cos(a));
        } else {
            g.foot.emplace_back(radius * out - Vec3(0, 0, radius));
            g.outward.push_back(out);
        }
    }
    return g;
}

/// Rows along Y at these places of X, to and fro; each touches the plane there.
Toolpath rows(const std::vector<double>& at, const Vec3& axis, const Vec3& tipFromContact, double step = 1.7) {
    Toolpath path;
    for (std::size_t r = 0; r < at.size(); ++r) {
        const double way = r % 2 ? -1.0 : 1.0;
        path.push(Vec3(at[r], -12.0 * way, 0) + tipFromContact, axis, r == 0 ? Motion::Rapid : Motion::Link, static_cast<int>(r), r == 0 ? 0.0 : 800.0);
        for (double y = -12.0 + step; y < 12.0; y += step) path.push(Vec3(at[r], y * way, 0) + tipFromContact, axis, Motion::Cut, static_cast<int>(r), 800.0);
    }
    return path;
}

MarkMap marksOf(const MarkGround& ground, const Toolpath& path, const Cutter& cutter) {
    Progress progress;
    return marksOn(ground, {{path, cutter}}, progress).value();
}

Vec3 leaning(double lead, double tilt) { return Vec3(std::tan(radians(tilt)), std::tan(radians(lead)), 1.0).normalized(); }

/// The tip of a disc of radius R (grown by `corner`), its lowest point in the datum's zero.
Vec3 tipOfDisc(double radius, double corner, const Vec3& axis) {
    const Vec3 z(0, 0, 1), up = rejected(z, axis);
    const Vec3 low = up.norm() > 1e-12 ? Vec3(-up.normalized()) : Vec3(Vec3::Zero());
    return corner * z - (radius - corner) * low - corner * axis;
}

const std::vector<double> kRows{-1.5, -0.9, -0.3, 0.3, 0.9, 1.5};
constexpr double kStep = 0.6;

} // namespace

class TestMarks : public QObject {
    Q_OBJECT
private slots:
    // A ball leaves r − √(r² − s²/4), however its axis leans; between its rows the height is that of its circle. The mean of such parabolas lies a third up.
    void ballOnPlane_data() {
        QTest::addColumn<double>("radius");
        QTest::addColumn<double>("lead");
        QTest::addColumn<double>("tilt");
        for (const double radius : {0.5, 3.0, 8.0})
            for (const double lean : {0.0, 35.0}) QTest::addRow("%g %g", radius, lean) << radius << lean << 0.5 * lean;
    }
    void ballOnPlane() {
        QFETCH(double, radius);
        QFETCH(double, lead);
        QFETCH(double, tilt);
        const Vec3 axis = leaning(lead, tilt);
        const MarkGround ground = plane(1.8, 91);
        const MarkMap m = marksOf(ground, rows(kRows, axis, Vec3(0, 0, radius) - radius * axis), cutterOf(CutterShape::Ball, 2 * radius));
        const double ridge = radius - std::sqrt(radius * radius - 0.25 * kStep * kStep);
        for (std::size_t p = 0; p < m.height.size(); ++p) {
            double off = 1e9;
            for (const double x : kRows) off = std::min(off, std::abs(ground.foot[p].x() - x));
            QVERIFY(m.isCut(p));
            const double expected = radius - std::sqrt(radius * radius - off * off);
            QVERIFY2(std::abs(static_cast<double>(m.height[p]) - expected) < 5e-7, qPrintable(QString("%1 at %2, not %3").arg(m.height[p]).arg(off).arg(expected)));
        }
        const Roughness r = roughnessAcross(m, 45);
        QCOMPARE_LE(std::abs(r.rt - ridge), 5e-7 + 0.002 * ridge); // the ridge itself may lie between two places
        if (radius > 1.0) QCOMPARE_LE(std::abs(r.ra / r.rt - 4.0 / (9.0 * std::sqrt(3.0))), 0.01);
        QCOMPARE_LE(roughnessAlong(m, 45).rt, 1e-6);
    }

    // A disc that leans in the feed is an ellipse seen along it: r across, r sin λ high.
    void leaningDisc() {
        const MarkGround ground = plane(1.8, 91);
        for (const double lead : {2.0, 10.0, 40.0}) {
            const double radius = 5.0;
            const Vec3 axis = leaning(lead, 0.0);
            const MarkMap m = marksOf(ground, rows(kRows, axis, tipOfDisc(radius, 0.0, axis)), cutterOf(CutterShape::Flat, 2 * radius));
            for (std::size_t p = 0; p < m.height.size(); ++p) {
                double off = 1e9;
                for (const double x : kRows) off = std::min(off, std::abs(ground.foot[p].x() - x));
                const double expected = radius * std::sin(radians(lead)) * (1.0 - std::sqrt(1.0 - off * off / (radius * radius)));
                QVERIFY2(std::abs(static_cast<double>(m.height[p]) - expected) < 1e-6, qPrintable(QString("%1: %2, not %3").arg(lead).arg(m.height[p]).arg(expected)));
            }
        }
    }

    // §14: the ridge between rows by the effective radius, within 5 %: corner radii leaning, a barrel's flank, a flat that leans.
    void effectiveRadius() {
        const MarkGround ground = plane(0.6, 61);
        for (const double lead : {5.0, 15.0, 30.0}) {
            const double radius = 5.0, corner = 1.0, rho = (radius - corner) / std::sin(radians(lead)) + corner;
            const Vec3 axis = leaning(lead, 0.0);
            const Cutter cutter = cutterOf(CutterShape::CornerRadius, 2 * radius, corner);
            const MarkMap m = marksOf(ground, rows(kRows, axis, tipOfDisc(radius, corner, axis)), cutter);
            const double ridge = roughnessAcross(m, 30).rt, formula = kStep * kStep / (8.0 * rho);
            QVERIFY2(std::abs(ridge / formula - 1.0) < 0.05, qPrintable(QString("%1: %2, not %3").arg(lead).arg(ridge).arg(formula)));
            const double told = Scallop(cutter, {axis.y(), -axis.x(), axis.z()}).height(kStep, 0.0);
            QVERIFY2(std::abs(ridge / told - 1.0) < 0.05, qPrintable(QString("%1: %2, told %3").arg(lead).arg(ridge).arg(told)));
        }
        Cutter barrel = cutterOf(CutterShape::Barrel, 10.0, 2.0);
        barrel.profileRadius = 40.0;
        barrel.fluteLength = 12.0;
        QVERIFY(validate([&] {
                    Assembly a;
                    a.cutter = barrel;
                    a.stickOut = 40.0;
                    return a;
                }())
                    .has_value());
        const BarrelProfile profile = barrelProfile(barrel);
        // Its flank, half way up its arc, lies on the plane: the axis leans over across the rows.
        const double a = 0.5 * std::atan2(profile.join.y(), profile.join.x());
        const Vec3 axis(-std::cos(a), 0, -std::sin(a)), outward(std::sin(a), 0, -std::cos(a)); // of the half plane in which it touches
        const Vec2 touch = profile.middle + profile.radius * Vec2(std::cos(a), std::sin(a));
        const MarkMap m = marksOf(ground, rows(kRows, axis, -touch.x() * outward - touch.y() * axis), barrel);
        const double ridge = roughnessAcross(m, 30).rt, formula = kStep * kStep / (8.0 * barrel.profileRadius);
        QVERIFY2(std::abs(ridge / formula - 1.0) < 0.05, qPrintable(QString("barrel: %1, not %2").arg(ridge).arg(formula)));
        // No edges of frusta are seen in it: it is an arc.
        const Roughness flat = roughnessAcross(marksOf(plane(0.3, 61), rows({0.0}, axis, -touch.x() * outward - touch.y() * axis), barrel), 30);
        QCOMPARE_LE(std::abs(flat.rt - 0.15 * 0.15 / 80.0), 2e-6);
    }

    // On rounds and in hollows two circles meet where they do.
    void ballOnRounds() {
        const double radius = 3.0, step = 0.5;
        for (const double round : {6.0, 25.0})
            for (const bool hollow : {false, true}) {
                const MarkGround ground = roundOf(round, hollow, 2.0 * step, 201);
                const double away = hollow ? round - radius : round + radius, half = 0.5 * step / round;
                Toolpath path;
                for (const double a : {-3.0 * half, -half, half, 3.0 * half}) {
                    const Vec3 out = hollow ? Vec3(std::sin(a), 0, -std::cos(a)) : Vec3(std::sin(a), 0, std::cos(a));
                    const Vec3 middle = away * out + Vec3(0, 0, hollow ? round : -round);
                    path.push(middle - Vec3(0, 4, radius), Vec3::UnitZ(), path.empty() ? Motion::Rapid : Motion::Link, 0, 500.0);
                    path.push(middle - Vec3(0, -4, radius), Vec3::UnitZ(), Motion::Cut, 0, 500.0);
                    path.push(middle - Vec3(0, 4, radius), Vec3::UnitZ(), Motion::Cut, 0, 500.0);
                }
                const MarkMap m = marksOf(ground, path, cutterOf(CutterShape::Ball, 2 * radius));
                const double reach = std::sqrt(radius * radius - std::pow(away * std::sin(half), 2));
                const double ridge = hollow ? round - away * std::cos(half) - reach : away * std::cos(half) - reach - round;
                QVERIFY2(std::abs(static_cast<double>(m.height[100]) - ridge) < 1e-6,
                         qPrintable(QString("%1 %2: %3, not %4").arg(round).arg(hollow).arg(m.height[100]).arg(ridge)));
                // §14's short form holds within 5 %.
                QCOMPARE_LE(std::abs(ridge / (step * step / 8.0 * (1.0 / radius + (hollow ? -1.0 : 1.0) / round)) - 1.0), 0.05);
            }
    }

    // Random cutters on random ways, with turning axes, by plain trial of many places and heights.
    void byPlainTrial() {
        const unsigned seed = qEnvironmentVariableIsSet("GYRE_SEED") ? qEnvironmentVariable("GYRE_SEED").toUInt() : std::random_device{}();
        qInfo("seed %u (repeat with GYRE_SEED)", seed);
        std::mt19937 random(seed);
        const auto number = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        const CutterShape shapes[] = {CutterShape::Flat,    CutterShape::Ball,     CutterShape::CornerRadius, CutterShape::TaperedBall,
                                      CutterShape::Tapered, CutterShape::Lollipop, CutterShape::Chamfer};
        std::size_t compared = 0;
        for (int round = 0; round < 14; ++round) {
            Cutter c = cutterOf(shapes[round % 7], number(3.0, 9.0));
            c.cornerRadius = c.shape == CutterShape::CornerRadius ? number(0.3, 0.45 * c.diameter) : 0.0;
            c.taperDegrees = c.shape == CutterShape::TaperedBall || c.shape == CutterShape::Tapered ? number(2.0, 12.0) : 0.0;
            c.neckDiameter = 0.4 * c.diameter;
            Toolpath path;
            Vec3 axis = leaning(number(-40, 40), number(-40, 40));
            Vec3 at(number(-1, 1), number(-1, 1), 0);
            for (int i = 0; i < 6; ++i) {
                // The cutter's lowest point goes from place to place a little over and under the plane.
                double lowest = 1e9;
                for (const RoundedFrustum& f : cuttingZone(c))
                    for (const auto& [z, r] : {std::pair(f.z0, f.r0), std::pair(f.z1, f.r1)})
                        lowest = std::min(lowest, z * axis.z() - r * std::sqrt(std::max(0.0, 1.0 - axis.z() * axis.z())) - f.round);
                path.push(at + Vec3(0, 0, number(-0.1, 0.3) - lowest), axis, i == 0 ? Motion::Rapid : Motion::Cut, 0, 500.0);
                at += Vec3(number(-1.5, 1.5), number(-1.5, 1.5), 0);
                axis = (axis + Vec3(number(-0.05, 0.05), number(-0.05, 0.05), 0)).normalized();
            }
            const MarkGround ground = plane(3.0, 13);
            const MarkMap m = marksOf(ground, path, c);
            const double reach = std::min(MarkMap::kReach, 0.25 * std::min(c.diameter, cuttingLength(c)));
            const auto within = [&](const Vec3& p, const Vec3& tip, const Vec3& a) {
                const double z = (p - tip).dot(a), r = (p - tip - z * a).norm();
                for (const RoundedFrustum& f : cuttingZone(c))
                    if (coreDistance(f, {r, 0, z}).value <= f.round) return true;
                return false;
            };
            constexpr int kPlaces = 1500;
            for (std::size_t p = 0; p < m.height.size(); ++p) {
                // From above: as long as some place on the way holds the point, it goes lower.
                double lowest = 1e9;
                Vec3 tipThere = Vec3::Zero(), axisThere = Vec3::UnitZ();
                for (int pass = 0; pass < 2; ++pass)
                    for (std::size_t i = 1; i < path.size(); ++i)
                        for (int k = 0; k <= kPlaces; ++k) {
                            const double s = static_cast<double>(k) / kPlaces;
                            const Vec3 tip = path.tip[i - 1] + s * (path.tip[i] - path.tip[i - 1]),
                                       a = (path.axis[i - 1] + s * (path.axis[i] - path.axis[i - 1])).normalized();
                            double high = std::min(lowest, reach);
                            if (!within(ground.foot[p] + Vec3(0, 0, high), tip, a)) continue;
                            double low = high;
                            do low -= 0.01;
                            while (low > -2.0 && within(ground.foot[p] + Vec3(0, 0, low), tip, a));
                            while (high - low > 1e-8) {
                                const double middle = 0.5 * (low + high);
                                (within(ground.foot[p] + Vec3(0, 0, middle), tip, a) ? high : low) = middle;
                            }
                            lowest = high;
                            tipThere = tip;
                            axisThere = a;
                        }
                // Places lie up to 0.0015 mm apart, and an edge that goes on by so much goes lower by as much at most.
                if (lowest > 1e8) {
                    // What it only just comes near to may be found by the one and missed by the other.
                    if (m.isCut(p)) QCOMPARE_GE(static_cast<double>(m.height[p]), reach - 0.02);
                    continue;
                }
                ++compared;
                QVERIFY2(m.isCut(p), qPrintable(QString("round %1, place %2: %3 by trial").arg(round).arg(p).arg(lowest)));
                const double off = static_cast<double>(m.height[p]) - lowest;
                // Where the line grazes a side, heights say little: no more of it than a ten-thousandth may lie within the cutter.
                const Vec3 there = ground.foot[p] + Vec3(0, 0, static_cast<double>(m.height[p]));
                bool grazes = false;
                for (int axis = 0; axis < 3; ++axis)
                    for (const double sign : {-1e-4, 1e-4}) grazes = grazes || !within(there + sign * Vec3::Unit(axis), tipThere, axisThere);
                if (off > 0.0 && grazes) continue;
                QVERIFY2(off < 2e-6 && off > -0.003, qPrintable(QString("round %1, place %2: %3, by trial %4").arg(round).arg(p).arg(m.height[p]).arg(lowest)));
            }
        }
        QCOMPARE_GE(compared, std::size_t{250});
    }

    // Rapids leave none; what is cut too deep is told as deep as it is; each cut has its share.
    void whoCutWhat() {
        const MarkGround ground = plane(2.0, 41);
        const Cutter ball = cutterOf(CutterShape::Ball, 6.0);
        Toolpath rapid;
        rapid.push({0, -5, 0}, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
        rapid.push({0, 5, 0}, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
        const MarkMap none = marksOf(ground, rapid, ball);
        QCOMPARE(sumOf(none, ground).uncut, 1.0);
        QVERIFY(sumOf(none, ground).by.empty());
        QCOMPARE(roughnessAcross(none, 20).places, std::size_t{0});
        const Toolpath even = rows({-0.8, 0.8}, Vec3::UnitZ(), Vec3::Zero()), deep = rows({0.0}, Vec3::UnitZ(), Vec3(0, 0, -0.1));
        Progress progress;
        const MarkMap m = marksOn(ground, {{even, ball}, {deep, ball}}, progress).value();
        const MarkSum sum = sumOf(m, ground);
        QCOMPARE_LE(std::abs(sum.low + 0.1), 1e-6);
        QCOMPARE(sum.uncut, 0.0);
        QCOMPARE(sum.by.size(), std::size_t{2});
        // The two circles meet where x² ⁄ 2r − 0.1 = (x − 0.8)² ⁄ 2r, nearly.
        const double x = 0.5 * (0.64 + 0.6) / 0.8;
        QCOMPARE_LE(std::abs(sum.by[1].share - 2.0 * x / 2.05), 0.03);
        QCOMPARE_LE(sum.by[1].mean, sum.by[0].mean);
        // Where no surface lies, there is nothing to tell.
        MarkGround gone = ground;
        gone.outward.assign(gone.outward.size(), Vec3::Zero());
        QVERIFY(!marksOn(gone, {{even, ball}}, progress));
        QVERIFY(!marksOn({}, {{even, ball}}, progress));
    }

    // A place on the demo's rows: between the part and the ridge that the operation promises, give or take the tolerance of its path.
    void whatTheOperationPromises() {
        const JobResults& all = demoResults().results;
        const auto& done = all.operations.front();
        QVERIFY(done->complete() && done->scallop > 0.0);
        const double tolerance = 0.006;
        Progress progress;
        std::size_t looked = 0;
        for (const double share : {0.21, 0.4, 0.63, 0.8}) {
            const auto location = static_cast<std::size_t>(share * static_cast<double>(done->path()->size()));
            const auto at = markPlaceOf(*all.place, *done, location);
            QVERIFY(at.has_value());
            const auto m = surfaceMarks(*all.place, {done}, *at, 1.2, progress);
            QVERIFY2(m.has_value(), m ? "" : m.error().text().c_str());
            if (m->sum.uncut > 0.0) continue; // beside a border
            ++looked;
            QVERIFY2(m->sum.high <= 1.05 * done->scallop + tolerance && m->sum.low >= -tolerance,
                     qPrintable(QString("%1 … %2 µm, promised %3").arg(1e3 * m->sum.low).arg(1e3 * m->sum.high).arg(1e3 * done->scallop)));
            QCOMPARE_GE(m->across.rt, 0.3 * done->scallop); // rows are seen across, not along
            QCOMPARE_LE(m->along.rt, tolerance);
        }
        QCOMPARE_GE(looked, std::size_t{3});
        QVERIFY(!surfaceMarks(*all.place, {done}, *markPlaceOf(*all.place, *done, 100), 0.0, progress));
        QVERIFY(!surfaceMarks(*all.place, {done}, *markPlaceOf(*all.place, *done, 100), std::nan(""), progress));
    }
};

GYRE_TEST(TestMarks)

} // namespace test_marks
#include "test_marks.moc"
