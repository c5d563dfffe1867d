#include "LaidRows.h"
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/Pieces.h"
#include <map>

namespace test_where {

using namespace gyre;
using test::lay;

namespace {

int topOf(const Part& part) {
    int top = -1;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind == SurfaceKind::Plane && part.faces()[f].normal.z() > 0.99 &&
            (top < 0 || part.faces()[f].area > part.faces()[static_cast<std::size_t>(top)].area))
            top = static_cast<int>(f);
    return top;
}

/// How often a closed line runs round a point: by the angles under which its sides are seen, another formula than the program's.
int windings(const std::vector<Vec2>& loop, const Vec2& p) {
    double sum = 0.0;
    for (std::size_t i = 0; i < loop.size(); ++i) {
        const Vec2 a = loop[i] - p, b = loop[(i + 1) % loop.size()] - p;
        sum += std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b));
    }
    return static_cast<int>(std::lround(sum / (2.0 * kPi)));
}

double lengthOf(const RawLine& line) {
    double sum = 0.0;
    for (std::size_t i = 1; i < line.samples.size(); ++i) sum += (line.samples[i].point - line.samples[i - 1].point).norm();
    return sum;
}

} // namespace

class TestWhere : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // A cylinder's wall seen from its side is a rectangle, from above a mere circle; with its lid a disc. Whatever lies over or under is inside.
    void outlinesOfFaces() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const TriangleMesh *wall = nullptr, *lid = nullptr;
        for (std::size_t f = 0; f < part->faces().size(); ++f) {
            if (part->faces()[f].kind == SurfaceKind::Cylinder) wall = &part->faceMesh(static_cast<int>(f));
            if (part->faces()[f].normal.z() > 0.99) lid = &part->faceMesh(static_cast<int>(f));
        }
        QVERIFY(wall && lid);
        test::Random random(58);
        int inside = 0;
        for (int i = 0; i < 4000; ++i) {
            const Vec3 p(random.number(-30, 30), random.number(-30, 30), random.number(-15, 45));
            WhereSpec spec;
            spec.axis = i % 3;
            spec.by = i % 2 ? WhereCurves::Inside : WhereCurves::Outside;
            const bool both = i % 5 < 2;
            const double across = spec.axis == 0 ? std::abs(p.y()) : std::abs(p.x()), around = std::hypot(p.x(), p.y());
            if (std::abs(across - 20) < 0.1 || std::abs(around - 20) < 0.1 || std::abs(p.z()) < 0.01 || std::abs(p.z() - 30) < 0.01) continue; // chords
            const bool in = spec.axis == 2 ? both && around < 20 : across < 20 && p.z() > 0 && p.z() < 30;
            inside += in ? 1 : 0;
            const WhereKept kept(spec, {{}, both ? std::vector{wall, lid} : std::vector{wall}, {}});
            QVERIFY2(kept.holds(p, Vec3::UnitZ()) == (in == (spec.by == WhereCurves::Inside)), qPrintable(QString("%1 along %2").arg(i).arg(spec.axis)));
        }
        QVERIFY(inside > 500);
        // With a loop beside them either counts.
        WhereSpec spec;
        spec.by = WhereCurves::Inside;
        const WhereKept either(spec, {{{{40, 0, 0}, {50, 0, 0}, {50, 10, 0}, {40, 10, 0}}}, {lid}, {}});
        QVERIFY(either.holds({45, 5, 7}, Vec3::UnitZ()) && either.holds({0, 0, -7}, Vec3::UnitZ()) && !either.holds({30, 5, 7}, Vec3::UnitZ()));
    }
    // Random closed lines that cross themselves, seen along every axis; a hole drawn within counts as a hole.
    void insideIsWhereAnOddNumberOfSidesSays() {
        test::Random random(41);
        int looked = 0;
        for (int trial = 0; trial < 30; ++trial) {
            WhereSpec spec;
            spec.axis = trial % 3;
            spec.by = trial % 2 ? WhereCurves::Inside : WhereCurves::Outside;
            std::vector<std::vector<Vec2>> flat(static_cast<std::size_t>(random.integer(1, 3)));
            std::vector<Polyline> loops;
            for (auto& loop : flat) {
                loops.emplace_back();
                for (int i = random.integer(3, 40); i > 0; --i) {
                    loop.emplace_back(random.number(-10, 10), random.number(-10, 10));
                    Vec3 p = Vec3::Zero();
                    p[spec.axis] = random.number(-50, 50);
                    p[(spec.axis + 1) % 3] = loop.back().x();
                    p[(spec.axis + 2) % 3] = loop.back().y();
                    loops.back().push_back(p);
                }
            }
            const WhereKept where(spec, {loops, {}, {}});
            for (int i = 0; i < 500; ++i) {
                const Vec2 q(random.number(-12, 12), random.number(-12, 12));
                double near = 1e9;
                int round = 0;
                for (const auto& loop : flat) {
                    round += windings(loop, q);
                    for (std::size_t k = 0; k < loop.size(); ++k) {
                        const Vec2 &a = loop[k], &b = loop[(k + 1) % loop.size()];
                        near = std::min(near, distanceToSegment(Vec3(q.x(), q.y(), 0), Vec3(a.x(), a.y(), 0), Vec3(b.x(), b.y(), 0)));
                    }
                }
                if (near < 0.01) continue;
                ++looked;
                Vec3 p = Vec3::Zero();
                p[spec.axis] = random.number(-50, 50);
                p[(spec.axis + 1) % 3] = q.x();
                p[(spec.axis + 2) % 3] = q.y();
                QVERIFY(where.holds(p, Vec3::UnitZ()) == ((round % 2 != 0) == (spec.by == WhereCurves::Inside)));
            }
        }
        QVERIFY(looked > 10000);
    }
    // What lies on a limit is kept, on either side of it.
    void limitsThemselvesAreKept() {
        WhereSpec spec;
        spec.bySlope = true;
        spec.flattest = 45.0;
        spec.steepest = 90.0;
        const Vec3 chamfer(0, -std::sqrt(0.5), std::sqrt(0.5));
        QVERIFY(WhereKept(spec, {}).holds({}, chamfer) && WhereKept(spec, {}).holds({}, Vec3::UnitX()) && !WhereKept(spec, {}).holds({}, Vec3::UnitZ()));
        spec.flattest = 0.0;
        spec.steepest = 45.0;
        QVERIFY(WhereKept(spec, {}).holds({}, chamfer) && WhereKept(spec, {}).holds({}, Vec3::UnitZ()) && !WhereKept(spec, {}).holds({}, -Vec3::UnitZ()));
        spec.bySlope = false;
        spec.byHeight = true;
        spec.axis = 0;
        spec.low = 3.0;
        spec.high = 4.0;
        QVERIFY(WhereKept(spec, {}).holds({3, 9, 9}, {}) && WhereKept(spec, {}).holds({4, 9, 9}, {}) && !WhereKept(spec, {}).holds({4.001, 0, 0}, {}) &&
                !WhereKept(spec, {}).holds({2.999, 0, 0}, {}));
        // Over a plane and under it, by its own formula; what lies in it is both.
        test::Random random(43);
        for (int i = 0; i < 300; ++i) {
            WhereSpec beside;
            beside.side = i % 2 ? WhereSide::Over : WhereSide::Under;
            const Vec3 at = random.point(20), normal = random.direction(), p = random.point(20);
            const double over = normal.x() * (p.x() - at.x()) + normal.y() * (p.y() - at.y()) + normal.z() * (p.z() - at.z());
            const WhereKept kept(beside, {.loops = {}, .faces = {}, .planeAt = at, .planeNormal = normal});
            if (std::abs(over) > 1e-3) QVERIFY(kept.holds(p, Vec3::UnitZ()) == ((over > 0.0) == (beside.side == WhereSide::Over)));
            QVERIFY(kept.holds(at + 5.0 * anyPerpendicular(normal), Vec3::UnitZ()));
        }
        const Polyline square{{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}};
        for (const WhereCurves by : {WhereCurves::Inside, WhereCurves::Outside}) {
            WhereSpec curves;
            curves.by = by;
            const WhereKept where(curves, {{square}, {}, {}});
            for (const Vec3& p : {Vec3(0, 5, 1), Vec3(10, 5, 2), Vec3(5, 0, 3), Vec3(5, 10, 4), Vec3(0, 0, 5)}) QVERIFY(where.holds(p, {}));
            QVERIFY(where.holds({5, 5, 0}, {}) == (by == WhereCurves::Inside) && where.holds({5, 11, 0}, {}) == (by == WhereCurves::Outside));
        }
    }
    // Parts of random ways, open and closed, in random bands: no part leaves the band, none is lost, ends lie on its border.
    void partsAreWhatLiesWithin() {
        test::Random random(42);
        int ends = 0;
        for (int trial = 0; trial < 200; ++trial) {
            RawLine line;
            line.closed = trial % 2 == 0;
            const int n = random.integer(4, 60);
            for (int i = 0; i < n; ++i) {
                const double a = 2.0 * kPi * i / n, r = random.number(5, 9);
                line.samples.push_back(
                    {line.closed ? Vec3(r * std::cos(a), r * std::sin(a), 0) : Vec3(i * 0.8, random.number(0, 6), 0), Vec3::UnitZ(), {0, 0}, 0, false});
            }
            WhereSpec spec;
            spec.byHeight = true;
            spec.axis = trial % 3 == 0 ? 0 : 1;
            spec.low = random.number(-6, 3);
            spec.high = spec.low + random.number(1, 8);
            const WhereKept where(spec, {});
            const auto between = [](const RowSample& a, const RowSample& b, double t) { return RowSample{(1 - t) * a.point + t * b.point, a.normal, a.uv, 0, false}; };
            const auto parts = keptParts(line, where, between);
            double kept = 0.0;
            for (const RawLine& p : parts) {
                kept += lengthOf(p);
                if (p.closed) {
                    kept += (p.samples.front().point - p.samples.back().point).norm();
                    continue;
                }
                for (const RowSample& s : p.samples) QVERIFY(where.holds(s.point, s.normal));
                for (const Vec3& end : {p.samples.front().point, p.samples.back().point}) {
                    const bool own = !line.closed && (end == line.samples.front().point || end == line.samples.back().point);
                    QVERIFY(own || std::min(std::abs(end[spec.axis] - spec.low), std::abs(end[spec.axis] - spec.high)) < 1e-4);
                    ++ends;
                }
            }
            // By plain counting in steps of a fiftieth of every span.
            double counted = 0.0;
            const std::size_t spans = line.closed ? line.samples.size() : line.samples.size() - 1;
            for (std::size_t i = 0; i < spans; ++i) {
                const Vec3 &a = line.samples[i].point, &b = line.samples[(i + 1) % line.samples.size()].point;
                for (int k = 0; k < 50; ++k) counted += where.holds(a + (k + 0.5) / 50.0 * (b - a), Vec3::UnitZ()) ? (b - a).norm() / 50.0 : 0.0;
            }
            QVERIFY2(std::abs(kept - counted) < 0.02 * counted + 0.3, qPrintable(QString("%1 kept, %2 counted").arg(kept).arg(counted)));
        }
        QVERIFY(ends > 200);
    }
    // A ball's zone between two slopes, in rows that know nothing of it: nothing outside, all of it within, and the zones together are the whole.
    void slopesDivideAWholeIntoZones() {
        const auto part = test::openPart(test::demoFile("pierced-dome.step"));
        int ball = -1;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].kind == SurfaceKind::Sphere && (ball < 0 || part->faces()[f].area > part->faces()[static_cast<std::size_t>(ball)].area))
                ball = static_cast<int>(f);
        QVERIFY(ball >= 0);
        PatternSpec spec;
        spec.kind = PatternBy::Planes;
        spec.along = 20.0;
        spec.spacing = 1.5;
        const double whole = lay(*part, {ball}, spec).rowsLength;
        double sum = 0.0;
        for (const auto& [from, to] : {std::pair{0.0, 25.0}, std::pair{25.0, 50.0}, std::pair{50.0, 180.0}}) {
            WhereSpec zone;
            zone.bySlope = true;
            zone.flattest = from;
            zone.steepest = to;
            const WhereKept where(zone, {});
            const PatternResult r = lay(*part, {ball}, spec, {&where, {}});
            sum += r.rowsLength;
            for (const Row& row : r.rows)
                for (const Vec3& n : row.normals) {
                    const double slope = degrees(angleBetween(Vec3::UnitZ(), n));
                    QVERIFY2(slope > from - 1e-3 && slope < to + 1e-3, qPrintable(QString::number(slope)));
                }
        }
        QVERIFY2(std::abs(sum - whole) < 0.003 * whole, qPrintable(QString("%1 of %2").arg(sum).arg(whole)));
    }
    // Inside a circle and outside of it, a spiral and rows: together the whole face, by its area.
    void insideAndOutsideAreTheWhole() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 10));
        const int top = topOf(*part);
        Polyline circle;
        for (int i = 0; i < 720; ++i) circle.emplace_back(30 + 12 * std::cos(kPi * i / 360), 20 + 12 * std::sin(kPi * i / 360), 3.0);
        PatternSpec spec;
        spec.kind = PatternBy::Planes;
        spec.spacing = 0.5;
        for (const WhereCurves by : {WhereCurves::Inside, WhereCurves::Outside}) {
            WhereSpec region;
            region.by = by;
            const WhereKept where(region, {{circle}, {}, {}});
            const PatternResult r = lay(*part, {top}, spec, {&where, {}});
            const double area = by == WhereCurves::Inside ? kPi * 144 : 2400 - kPi * 144;
            QVERIFY2(std::abs(r.rowsLength * 0.5 - area) < 0.02 * area + 30, qPrintable(QString::number(r.rowsLength * 0.5)));
            // What is marked on the face, and told as kept.
            double marked = 0.0;
            for (std::size_t t = 0; t < r.region.triangles.size(); ++t)
                marked += 0.5 * (r.region.corner(t, 1) - r.region.corner(t, 0)).cross(r.region.corner(t, 2) - r.region.corner(t, 0)).norm();
            QVERIFY2(std::abs(marked - area) < 0.005 * area, qPrintable(QString("%1 for %2").arg(marked).arg(area)));
            for (const Row& row : r.rows)
                for (const Vec3& p : row.points)
                    QVERIFY((std::hypot(p.x() - 30, p.y() - 20) <= 12.004) == (by == WhereCurves::Inside) || std::abs(std::hypot(p.x() - 30, p.y() - 20) - 12) < 0.004);
        }
        WhereSpec nowhere;
        nowhere.byHeight = true;
        nowhere.low = 100;
        nowhere.high = 200;
        const WhereKept where(nowhere, {});
        Progress p;
        const auto r = layRows(*part, {top}, spec, 3.0, p, {&where, {}});
        QVERIFY(!r && r.error().what.find("where rows are to be kept") != std::string::npos);
    }
    // A slanted edge between the rails: rows follow it when it is a guide. It is the level half way, so no row crosses it.
    void guidesAreFollowed() {
        const auto part = test::openPart(test::ruledPrism(dir(), {{0, 0}, {20, 0}, {60, 0}, {60, 30}, {0, 30}}, {{0, 0}, {38, 0}, {60, 0}, {60, 30}, {0, 30}}, 20));
        std::vector<int> faces;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (std::abs(part->faces()[f].centre.y()) < 1e-6) faces.push_back(static_cast<int>(f));
        QCOMPARE(faces.size(), std::size_t(2));
        PatternSpec spec;
        spec.spacing = 1.0;
        const auto edgeAt = [&](double x) {
            for (std::size_t e = 0; e < part->edges().size(); ++e)
                if (const Vec3& m = part->edges()[e].middle; std::abs(m.y()) < 1e-6 && std::abs(m.x() - x) < 1e-3 && std::abs(m.z() - 10) < 1e-3)
                    return part->edgeRef(static_cast<int>(e));
            qFatal("no such edge");
        };
        spec.rail1 = {edgeAt(0)};
        spec.rail2 = {edgeAt(60)};
        const auto crossing = [&](const PatternResult& r) {
            int rows = 0;
            for (const Row& row : r.rows) {
                double least = 1e9, most = -1e9;
                for (const Vec3& p : row.points) { // to the right of the edge from (20, 0) to (38, 20)
                    const double off = ((p.x() - 20) * 20 - p.z() * 18) / std::hypot(20, 18);
                    least = std::min(least, off);
                    most = std::max(most, off);
                }
                rows += least < -0.05 && most > 0.05;
            }
            return rows;
        };
        QVERIFY(crossing(lay(*part, faces, spec)) > 5);
        spec.guides = {edgeAt(29)};
        const PatternResult r = lay(*part, faces, spec);
        QCOMPARE(crossing(r), 0);
        QVERIFY2(r.widestGap <= 1.01, qPrintable(QString::number(r.widestGap)));
        for (const Row& row : r.rows)
            for (const Vec3& p : row.points) {
                const double off = (p.x() - 20) * 20 - p.z() * 18;
                QVERIFY(std::abs(off) < 2.0 || (off < 0) == (row.level < 0.5));
            }
        // What cannot be followed says why.
        Progress p;
        spec.guides = {edgeAt(29), edgeAt(0)};
        auto bad = layRows(*part, faces, spec, 3.0, p);
        QVERIFY(!bad && bad.error().what.find("meets a rail") != std::string::npos);
        spec.guides.clear();
        for (std::size_t e = 0; e < part->edges().size() && spec.guides.empty(); ++e)
            if (part->edges()[e].middle.y() > 29) spec.guides = {part->edgeRef(static_cast<int>(e))};
        bad = layRows(*part, faces, spec, 3.0, p);
        QVERIFY(!bad && bad.error().what.find("none of the picked faces") != std::string::npos);
    }
};
GYRE_TEST(TestWhere)

} // namespace test_where
#include "test_where.moc"
