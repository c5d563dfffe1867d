// Rows at true distance from curves that lie anywhere on the faces: the curve made sides of the mesh, distances against closed forms.
#include "Program.h"
#include "Support.h"
#include "geom/Curve.h"
#include "pattern/Distance.h"
#include "pattern/Embed.h"
#include "pattern/Field.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <map>
#include <set>

namespace test_curve_distance {

using namespace gyre;
using test::Random;

namespace {

std::vector<int> facesWhere(const Part& part, const std::function<bool(const FaceInfo&)>& wanted) {
    std::vector<int> out;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (wanted(part.faces()[f])) out.push_back(static_cast<int>(f));
    return out;
}

Result<PatternResult> lay(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, std::vector<Polyline> curves) {
    Progress p;
    RowHelp help;
    help.curves = std::move(curves);
    return layRows(part, faces, spec, 3.0, p, help);
}

double areaOf(const FieldMesh& mesh) {
    double sum = 0.0;
    for (const auto& t : mesh.triangles) sum += 0.5 * (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).norm();
    return sum;
}

/// A smooth way to and fro, within the box.
Polyline wander(Random& random, const Vec2& low, const Vec2& high, const std::function<Vec3(double, double)>& place) {
    const double a = random.number(0.1, 0.4), b = random.number(0.5, 3.0), c = random.number(0.0, 6.0), d = random.number(-0.3, 0.3);
    Polyline out;
    for (int i = 0; i <= 200; ++i) {
        const double t = i / 200.0, x = 0.1 + 0.8 * t, y = 0.5 + d * (t - 0.5) + a * std::sin(b * 2.0 * t + c);
        out.push_back(place(low.x() + x * (high.x() - low.x()), low.y() + std::clamp(y, 0.05, 0.95) * (high.y() - low.y())));
    }
    return out;
}

double distanceTo(const Polyline& line, const Vec3& p) {
    double least = 1e300;
    for (std::size_t i = 1; i < line.size(); ++i) least = std::min(least, distanceToSegment(p, line[i - 1], line[i]));
    return least;
}

} // namespace

class TestCurveDistance : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // A mesh that lines were made sides of: the same faces once, every line in one piece along sides, and the lines where they were.
    void linesBecomeSides() {
        Random random(20261130);
        const auto part = test::openPart(test::drilledPlate(dir()));
        const auto flat = facesWhere(*part, [](const FaceInfo& f) { return f.normal.z() > 0.999 && std::abs(f.centre.z() - 20) < 1e-6 && f.area > 5000; });
        QCOMPARE(flat.size(), std::size_t(1));
        const Box box = part->faces()[static_cast<std::size_t>(flat[0])].bounds;
        for (int round = 0; round < 10; ++round) {
            Progress p;
            FieldMesh mesh = part->fieldMesh(flat, random.number(1.0, 3.0), &p).value();
            const double before = areaOf(mesh);
            const MeshTree tree = treeOf(mesh);
            const std::size_t border = borderOf(mesh).size();
            // As far as it lies on the face, which has holes.
            RawLine line;
            for (const Vec3& q : wander(random, {box.low.x(), box.low.y()}, {box.high.x(), box.high.y()}, [](double x, double y) { return Vec3(x, y, 20); })) {
                const ClosestPoint at = tree.closest(q);
                if (at.distance > 1e-9) {
                    if (line.samples.size() > 30) break;
                    line.samples.clear();
                    continue;
                }
                line.samples.push_back({q, Vec3::UnitZ(), part->project(flat[0], q).point.head<2>(), flat[0], false});
            }
            if (line.samples.size() < 3) continue;
            const auto made = embedLines(mesh, *part, {line});
            QVERIFY2(made.has_value(), made ? "" : qPrintable(QString("round %1: %2").arg(round).arg(QString::fromStdString(made.error().text()))));
            QCOMPARE(made->size(), std::size_t(1));
            QVERIFY2(std::abs(areaOf(mesh) - before) < 1e-5 * before, qPrintable(QString("round %1: area %2, was %3").arg(round).arg(areaOf(mesh)).arg(before)));
            QVERIFY(borderOf(mesh).size() >= border && borderOf(mesh).size() <= border + 8);
            std::set<std::uint64_t> sides;
            for (const auto& t : mesh.triangles) {
                QVERIFY(((mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]])).z() > 0.0); // none turned over
                for (std::size_t k = 0; k < 3; ++k) sides.insert((std::uint64_t(std::min(t[k], t[(k + 1) % 3])) << 32) | std::max(t[k], t[(k + 1) % 3]));
            }
            Polyline asked, got;
            for (const RowSample& s : line.samples) asked.push_back(s.point);
            for (std::size_t i = 0; i < made->front().size(); ++i) {
                const auto p = made->front()[i];
                got.push_back(mesh.points[p]);
                if (i == 0) continue;
                const auto q = made->front()[i - 1];
                QVERIFY(p != q && sides.count((std::uint64_t(std::min(p, q)) << 32) | std::max(p, q)) == 1);
            }
            double off = 0.0;
            for (const Vec3& p : asked) off = std::max(off, distanceTo(got, p));
            for (const Vec3& p : got) off = std::max(off, distanceTo(asked, p));
            QVERIFY2(off < 0.004, qPrintable(QString("round %1: %2").arg(round).arg(off)));
            QVERIFY((got.front() - asked.front()).norm() < 0.004 && (got.back() - asked.back()).norm() < 0.004);
        }
    }
    // On a plane without holes every point of the mesh is as far from the line as it is in space.
    void distancesFromItAreTrue() {
        Random random(5);
        const auto part = test::openPart(test::cylinderStep(dir(), 30, 20));
        const auto top = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        for (int round = 0; round < 10; ++round) {
            Progress p;
            FieldMesh mesh = part->fieldMesh(top, random.number(0.7, 2.0), &p).value();
            RawLine line;
            for (const Vec3& q : wander(random, {-18, -18}, {18, 18}, [](double x, double y) { return Vec3(x, y, 20); }))
                line.samples.push_back({q, Vec3::UnitZ(), q.head<2>(), top[0], false});
            const auto made = embedLines(mesh, *part, {line});
            QVERIFY(made.has_value());
            for (const auto& t : mesh.triangles) QVERIFY((mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).z() > 0.0);
            std::vector<Vec3> ways;
            const auto d = distancesFrom(mesh.points, mesh.triangles, *made, nullptr, &ways).value();
            Polyline got;
            for (const auto i : made->front()) got.push_back(mesh.points[i]);
            double off = 0.0, turned = 0.0;
            for (std::size_t i = 0; i < d.size(); ++i) {
                off = std::max(off, std::abs(d[i] - distanceTo(got, mesh.points[i])));
                if (d[i] < 1e-6) continue;
                // One step back along the way it is nearer by as much.
                turned = std::max(turned, std::abs(distanceTo(got, mesh.points[i] - 1e-3 * ways[i]) - (d[i] - 1e-3)));
            }
            QVERIFY2(off < 1e-9 && turned < 1e-6, qPrintable(QString("round %1: %2, %3").arg(round).arg(off).arg(turned)));
        }
    }
    // Beside a line a field rises as far as one goes away from it, and along it not at all; at its end as far as one goes ahead.
    void fieldsRiseFromWhereTheyAreFolded() {
        Field field{{0.0, 0.0}, {Vec3::Zero(), Vec3::Zero()}};
        field.foldRise = 0.5;
        field.folds[0] = {Vec3::UnitX(), -Vec3::UnitX()};
        field.folds[1] = {Vec3::UnitX()};
        QVERIFY(std::abs(field.slope(0, {0, 2, 0}) - 1.0) < 1e-12 && std::abs(field.slope(0, {0, -2, 0}) - 1.0) < 1e-12);
        QVERIFY(std::abs(field.slope(0, {3, 1, 0}) - 0.5) < 1e-12 && std::abs(field.slope(0, {2, 0, 0})) < 1e-12);
        QVERIFY(std::abs(field.slope(1, {-3, 4, 0}) - 2.5) < 1e-12);
    }
    // A side that runs along a front comes nearer to where that comes from between its ends: the level is met where it is, not where a straight line has it.
    void levelsAreMetWhereSidesRunAlongThem() {
        FieldMesh mesh;
        mesh.points = {{1.2, -0.6, 0}, {2.5, 0, 0}, {1.3, 0.7, 0}};
        mesh.triangles = {{0, 1, 2}};
        mesh.faces = {0};
        mesh.uv = {{Vec2::Zero(), Vec2::Zero(), Vec2::Zero()}};
        Field field;
        for (const Vec3& p : mesh.points) {
            field.value.push_back(p.norm() / 3.0);
            field.gradient.push_back(p.normalized() / 3.0);
        }
        field.knownSlopes = true;
        const auto lines = LevelTracer(mesh, field).lines(1.4 / 3.0);
        QVERIFY(lines.size() == 1 && lines[0].crossings.size() == 2);
        for (const Crossing& c : lines[0].crossings) QVERIFY2(std::abs(c.point.norm() - 1.4) < 0.03, qPrintable(QString::number(c.point.norm())));
    }
    // Curves that cross themselves and each other: what was laid first is divided by what comes after, and still counts everywhere.
    void curvesMayCross() {
        Random random(8);
        const auto part = test::openPart(test::cylinderStep(dir(), 30, 20));
        const auto top = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        for (int round = 0; round < 8; ++round) {
            Progress p;
            FieldMesh mesh = part->fieldMesh(top, random.number(0.7, 2.0), &p).value();
            const double turn = random.number(0, 3), size = random.number(8, 18);
            std::vector<RawLine> lines(2);
            for (int i = 0; i < 240; ++i) { // an eight, and a line across it
                const double t = 2 * kPi * i / 240, x = size * std::sin(t), y = size * std::sin(t) * std::cos(t);
                lines[0].samples.push_back(
                    {Vec3(std::cos(turn) * x - std::sin(turn) * y, std::sin(turn) * x + std::cos(turn) * y, 20), Vec3::UnitZ(), Vec2::Zero(), top[0], false});
            }
            lines[0].closed = true;
            for (const Vec3& q : wander(random, {-18, -18}, {18, 18}, [](double x, double y) { return Vec3(x, y, 20); }))
                lines[1].samples.push_back({q, Vec3::UnitZ(), Vec2::Zero(), top[0], false});
            const auto made = embedLines(mesh, *part, lines);
            QVERIFY2(made.has_value(), made ? "" : made.error().text().c_str());
            std::set<std::pair<std::uint32_t, std::uint32_t>> sides;
            for (const auto& t : mesh.triangles)
                for (std::size_t k = 0; k < 3; ++k) sides.insert({std::min(t[k], t[(k + 1) % 3]), std::max(t[k], t[(k + 1) % 3])});
            for (const auto& line : *made)
                for (std::size_t k = 1; k < line.size(); ++k) {
                    const std::pair<std::uint32_t, std::uint32_t> side{std::min(line[k - 1], line[k]), std::max(line[k - 1], line[k])};
                    QVERIFY2(sides.count(side) == 1, qPrintable(QString("round %1: a crossed line lost a side").arg(round)));
                }
            const auto d = distancesFrom(mesh.points, mesh.triangles, *made).value();
            double off = 0.0;
            for (std::size_t i = 0; i < d.size(); ++i) {
                double least = 1e300;
                for (const RawLine& line : lines) {
                    Polyline asked;
                    for (const RowSample& s : line.samples) asked.push_back(s.point);
                    if (line.closed) asked.push_back(asked.front());
                    least = std::min(least, distanceTo(asked, mesh.points[i]));
                }
                off = std::max(off, std::abs(d[i] - least));
            }
            QVERIFY2(off < 0.004, qPrintable(QString("round %1: %2").arg(round).arg(off)));
        }
    }
    // On a plane without holes the distance is the one in space: rows to both sides, round the curve's ends, as far apart as asked.
    void onAPlaneRowsKeepTheirDistance() {
        Random random(11);
        const auto part = test::openPart(test::cylinderStep(dir(), 30, 20));
        const auto top = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        for (int round = 0; round < 5; ++round) {
            const Polyline curve = wander(random, {-18, -18}, {18, 18}, [](double x, double y) { return Vec3(x, y, 20); });
            PatternSpec spec;
            spec.kind = PatternBy::Distance;
            spec.curve = "drawn";
            spec.spacing = random.number(0.6, 1.6);
            const auto r = lay(*part, top, spec, {curve});
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            // Where rows of two parts meet they fan out; what no further rows close is told.
            const bool told = std::any_of(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "gap-wide"; });
            QVERIFY2(r->widestGap <= 1.01 * spec.spacing || (told && r->widestGap < 1.5 * spec.spacing),
                     qPrintable(QString("round %1: %2 of %3").arg(round).arg(r->widestGap).arg(spec.spacing)));
            // Where rows of two parts of the curve meet they have a corner, which is rounded within a side of the mesh: few places.
            std::map<int, std::vector<double>> range;
            for (const Row& row : r->rows)
                for (const Vec3& p : row.points) {
                    QVERIFY(std::abs(p.z() - 20) < 1e-9 && std::hypot(p.x(), p.y()) < 30 + 1e-6);
                    range[row.index].push_back(distanceTo(curve, p));
                }
            std::size_t all = 0, off = 0;
            double before = -1.0;
            for (auto& [index, d] : range) {
                std::sort(d.begin(), d.end());
                const double middle = d[d.size() / 2];
                for (const double x : d) {
                    ++all;
                    off += std::abs(x - middle) > 0.003 + 0.003 * spec.spacing;
                    QVERIFY2(std::abs(x - middle) < 0.4, qPrintable(QString("round %1, row %2: %3, most %4").arg(round).arg(index).arg(x).arg(middle)));
                }
                QVERIFY(before < 0.0 ? d.back() < 0.002 : std::abs(middle - before) < 1.01 * spec.spacing);
                before = middle;
            }
            QVERIFY2(20 * off < all, qPrintable(QString("round %1: %2 of %3 points").arg(round).arg(off).arg(all)));
        }
    }
    // On a wall that goes all round: distances are those on the sheet that it unrolls to, whichever way round is shorter.
    void onAWallTheyAreThoseOfItsSheet() {
        constexpr double kRadius = 12.0;
        const auto part = test::openPart(test::cylinderStep(dir(), kRadius, 40));
        const auto wall = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        const auto onWall = [](double a, double z) { return Vec3(kRadius * std::cos(a), kRadius * std::sin(a), z); };
        Random random(31);
        for (int round = 0; round < 3; ++round) {
            const double from = random.number(0, 6), turn = random.number(1.0, 5.0), low = random.number(4, 14), high = random.number(20, 36);
            Polyline curve, sheet;
            for (int i = 0; i <= 400; ++i) {
                const double a = from + turn * i / 400, z = low + (high - low) * i / 400;
                curve.push_back(onWall(a, z));
                sheet.push_back({kRadius * a, z, 0});
            }
            PatternSpec spec;
            spec.kind = PatternBy::Distance;
            spec.curve = "helix";
            spec.spacing = random.number(1.43, 2.0); // a mesh of a millimetre
            const auto r = lay(*part, wall, spec, {curve});
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            std::map<int, std::vector<double>> far;
            for (const Row& row : r->rows)
                for (const Vec3& p : row.points) {
                    QVERIFY(std::abs(std::hypot(p.x(), p.y()) - kRadius) < 1e-6);
                    double least = 1e300;
                    for (int k = -2; k <= 2; ++k) least = std::min(least, distanceTo(sheet, {kRadius * (std::atan2(p.y(), p.x()) + 2 * kPi * k), p.z(), 0}));
                    far[row.index].push_back(least);
                }
            std::size_t all = 0, off = 0;
            double before = 0.0;
            for (auto& [index, d] : far) {
                std::sort(d.begin(), d.end());
                const double middle = d[d.size() / 2];
                for (const double x : d) {
                    ++all;
                    off += std::abs(x - middle) > 0.01;
                }
                QVERIFY2(middle - before < 1.01 * spec.spacing + 0.01,
                         qPrintable(QString("round %1, row %2: %3 after %4").arg(round).arg(index).arg(middle).arg(before)));
                before = middle;
            }
            QVERIFY2(20 * off < all, qPrintable(QString("round %1: %2 of %3").arg(round).arg(off).arg(all)));
        }
    }
    // Over the corner between a wall and a flat end: a ring drawn round the wall, and rows up and down from it, and onto the end.
    void fromARingTheyGoOverACorner() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto faces = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder || (f.kind == SurfaceKind::Plane && f.normal.z() > 0.9); });
        Polyline ring;
        for (int i = 0; i <= 720; ++i) ring.push_back(Vec3(20 * std::cos(i * kPi / 360), 20 * std::sin(i * kPi / 360), 12.0));
        ring.back() = ring.front();
        PatternSpec spec;
        spec.kind = PatternBy::Distance;
        spec.curve = "ring";
        spec.spacing = 1.0;
        const auto r = lay(*part, faces, spec, {ring});
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        QVERIFY2(r->widestGap <= 1.01, qPrintable(QString::number(r->widestGap)));
        std::map<int, double> at;
        for (const Row& row : r->rows)
            for (const Vec3& p : row.points) {
                const double d = p.z() < 30 - 1e-6 ? std::abs(p.z() - 12) : 18 + 20 - std::hypot(p.x(), p.y());
                if (d > 36.0) continue; // in the middle all ways meet
                const auto [it, first] = at.try_emplace(row.index, d);
                QVERIFY2(std::abs(it->second - d) < 0.012, qPrintable(QString("row %1: %2 and %3").arg(row.index).arg(d).arg(it->second)));
            }
        QVERIFY2(at.size() >= 36 && at.size() <= 39, qPrintable(QString::number(at.size())));
        QVERIFY(std::abs(at.begin()->second) < 1e-3);
        // The first row is the ring itself, closed.
        QVERIFY(r->rows.front().closed && std::abs(r->rows.front().points.front().z() - 12) < 1e-6);
    }
    // From an edge and a curve together: the nearer of both counts.
    void railsAndCurvesTogether() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto wall = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        Polyline ring;
        for (int i = 0; i <= 720; ++i) ring.push_back(Vec3(20 * std::cos(i * kPi / 360), 20 * std::sin(i * kPi / 360), 20.0));
        PatternSpec spec;
        spec.kind = PatternBy::Distance;
        spec.curve = "ring";
        spec.spacing = 0.8;
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if (part->edges()[e].kind == CurveKind::Circle && std::abs(part->edges()[e].middle.z()) < 1e-6) spec.rail1 = {part->edgeRef(static_cast<int>(e))};
        const auto r = lay(*part, wall, spec, {ring});
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        std::map<int, double> at;
        for (const Row& row : r->rows)
            for (const Vec3& p : row.points) {
                const double d = std::min(p.z(), std::abs(p.z() - 20));
                if (d > 9.0) continue; // in the middle between them rows of both meet
                const auto [it, first] = at.try_emplace(row.index, d);
                QVERIFY2(std::abs(it->second - d) < 0.01, qPrintable(QString("row %1: %2 and %3").arg(row.index).arg(d).arg(it->second)));
            }
        QVERIFY(r->widestGap <= 1.01 * spec.spacing);
        // Both are rows.
        std::size_t first = 0;
        for (const Row& row : r->rows) first += row.level == 0.0;
        QCOMPARE(first, std::size_t(2));
    }
    // Between two rings drawn on a plane the field is the logarithm of the radius: rows are rings, none within the smaller and none outside the larger one.
    void betweenTwoDrawnRings() {
        const auto part = test::openPart(test::cylinderStep(dir(), 30, 20));
        const auto top = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        const auto ring = [](double r) {
            Polyline out;
            for (int i = 0; i <= 360; ++i) out.push_back(Vec3(4 + r * std::cos(i * kPi / 180), -3 + r * std::sin(i * kPi / 180), 20));
            out.back() = out.front();
            return out;
        };
        PatternSpec spec;
        spec.curve = "rings";
        spec.spacing = 0.8;
        for (const bool swapped : {false, true}) {
            const auto r = lay(*part, top, spec, swapped ? std::vector<Polyline>{ring(20), ring(7)} : std::vector<Polyline>{ring(7), ring(20)});
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            QVERIFY2(r->widestGap <= 1.01 * spec.spacing, qPrintable(QString::number(r->widestGap)));
            std::map<int, double> radius;
            for (const Row& row : r->rows) {
                QVERIFY(row.closed);
                for (const Vec3& p : row.points) {
                    const double here = std::hypot(p.x() - 4, p.y() + 3);
                    QVERIFY2(here > 7 - 0.005 && here < 20 + 0.005, qPrintable(QString::number(here)));
                    const auto [it, first] = radius.try_emplace(row.index, here);
                    QVERIFY2(std::abs(it->second - here) < 0.04, qPrintable(QString("row %1: %2 and %3").arg(row.index).arg(it->second).arg(here)));
                }
            }
            // Every level is as far from the next everywhere: 13 mm in steps of 0.8.
            constexpr double wanted = 13.0 / 0.8;
            QVERIFY2(std::abs(static_cast<double>(radius.size()) - 1 - wanted) < 0.1 * wanted + 2, qPrintable(QString("%1 rows, %2").arg(radius.size()).arg(wanted)));
            QVERIFY(std::abs(radius.begin()->second - (swapped ? 20 : 7)) < 0.002 && std::abs(radius.rbegin()->second - (swapped ? 7 : 20)) < 0.002);
        }
    }
    // One rail an edge, the other drawn: on a wall levels between them, and nothing beyond.
    void fromAnEdgeToADrawnRing() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto wall = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        Polyline ring;
        for (int i = 0; i <= 720; ++i) ring.push_back(Vec3(20 * std::cos(i * kPi / 360), 20 * std::sin(i * kPi / 360), 18.0));
        ring.back() = ring.front();
        PatternSpec spec;
        spec.curve = "ring";
        spec.spacing = 0.9;
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if (part->edges()[e].kind == CurveKind::Circle && std::abs(part->edges()[e].middle.z()) < 1e-6) spec.rail2 = {part->edgeRef(static_cast<int>(e))};
        const auto r = lay(*part, wall, spec, {ring});
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        double last = 1e9;
        for (const Row& row : r->rows) {
            for (const Vec3& p : row.points) QVERIFY2(std::abs(p.z() - row.points.front().z()) < 0.01 && p.z() < 18.001, qPrintable(QString::number(p.z())));
            QVERIFY(last > 100 ? std::abs(row.points.front().z() - 18) < 1e-6 : last - row.points.front().z() < 0.9 * 1.01 && last > row.points.front().z());
            last = row.points.front().z();
        }
        QVERIFY2(std::abs(last) < 1e-6 && (r->rows.size() == 21 || r->rows.size() == 22), qPrintable(QString("%1 rows to %2").arg(r->rows.size()).arg(last)));
    }
    // Over a hole a rail would be open: that is said, and not cut through.
    void aRailOverAHoleIsRefused() {
        const auto part = test::openPart(test::drilledPlate(dir()));
        const auto flat = facesWhere(*part, [](const FaceInfo& f) { return f.normal.z() > 0.999 && std::abs(f.centre.z() - 20) < 1e-6 && f.area > 5000; });
        const Box box = part->faces()[static_cast<std::size_t>(flat[0])].bounds;
        int refused = 0, laid = 0;
        for (double y = box.low.y() + 3; y < 29.0; y += 2) {
            PatternSpec spec;
            spec.curve = "lines";
            spec.spacing = 2.0;
            const auto across = [&](double at) { return Polyline{Vec3(box.low.x() - 1, at, 20), Vec3(box.high.x() + 1, at, 20)}; };
            const auto r = lay(*part, flat, spec, {across(y), across(30.5)});
            if (!r)
                QVERIFY2(r.error().text().find("leaves the faces between its ends") != std::string::npos,
                         qPrintable(QString("at %1: %2").arg(y).arg(QString::fromStdString(r.error().text()))));
            for (const Row& row : r ? r->rows : std::vector<Row>{})
                for (const Vec3& p : row.points) QVERIFY(p.y() > y - 1e-3 && p.y() < 30.5 + 1e-3);
            ++(r ? laid : refused);
        }
        QVERIFY2(refused > 0 && laid > 0, qPrintable(QString("%1 refused, %2 laid").arg(refused).arg(laid)));
    }
    // As many curves as rails are wanted, and what is left of another pattern counts for nothing where both rails are edges.
    void curvesForRailsAreCounted() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto wall = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        const Polyline line{Vec3(20, 0, 5), Vec3(20, 0, 6)};
        PatternSpec spec;
        spec.spacing = 2.0;
        spec.curve = "one";
        const auto one = lay(*part, wall, spec, {line});
        QVERIFY(!one && one.error().text().find("one curve is chosen for two rails") != std::string::npos);
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if (part->edges()[e].kind == CurveKind::Circle) (part->edges()[e].middle.z() < 1.0 ? spec.rail1 : spec.rail2) = {part->edgeRef(static_cast<int>(e))};
        const auto both = lay(*part, wall, spec, {line});
        QVERIFY2(both.has_value(), both ? "" : both.error().text().c_str());
        QVERIFY(both->rows.size() == 16 || both->rows.size() == 17);
        spec.rail2.clear();
        const auto two = lay(*part, wall, spec, {line, line});
        QVERIFY(!two && two.error().text().find("2 curves are chosen for the one rail") != std::string::npos);
    }
    // What does not lie on the faces is no rail of theirs.
    void aCurveBesideTheFacesIsRefused() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto top = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        PatternSpec spec;
        spec.kind = PatternBy::Distance;
        spec.curve = "far";
        const auto r = lay(*part, top, spec, {Polyline{Vec3(25, 0, 30), Vec3(40, 0, 30)}});
        QVERIFY(!r && r.error().text().find("does not meet the picked faces") != std::string::npos);
    }
};

GYRE_TEST(TestCurveDistance)

} // namespace test_curve_distance
#include "test_curve_distance.moc"
