// True distance along meshes against closed forms, and the patterns that rest on it or on closed forms of their own.
#include "LaidRows.h"
#include "Program.h"
#include "Support.h"
#include "pattern/Distance.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <map>
#include <set>

namespace test_distance {

using namespace gyre;
using test::lay;
using test::Random;

namespace {

struct Grid {
    std::vector<Vec3> points;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    int n = 0;
    [[nodiscard]] std::uint32_t id(int i, int j) const { return static_cast<std::uint32_t>(j * (n + 1) + i); }
    [[nodiscard]] std::vector<double> from(const std::vector<std::vector<std::uint32_t>>& lines) const { return distancesFrom(points, triangles, lines).value(); }
};

// A grid of n × n ragged triangles over the unit square, laid into space.
template <class Place> Grid sheet(int n, Random& random, const Place& place) {
    Grid s;
    s.n = n;
    for (int j = 0; j <= n; ++j)
        for (int i = 0; i <= n; ++i) {
            const bool border = i == 0 || j == 0 || i == n || j == n;
            const double u = i + (border ? 0.0 : random.number(-0.2, 0.2)), v = j + (border ? 0.0 : random.number(-0.2, 0.2));
            s.points.push_back(place(u / n, v / n));
        }
    for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
            s.triangles.push_back({s.id(i, j), s.id(i + 1, j), s.id(i + 1, j + 1)});
            s.triangles.push_back({s.id(i, j), s.id(i + 1, j + 1), s.id(i, j + 1)});
        }
    return s;
}

std::vector<int> facesWhere(const Part& part, const std::function<bool(const FaceInfo&)>& wanted) {
    std::vector<int> out;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (wanted(part.faces()[f])) out.push_back(static_cast<int>(f));
    return out;
}

} // namespace

class TestDistance : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // From points and from bent lines, on any triangles of a plane: Pythagoras, to rounding.
    void onAPlaneItIsExact() {
        Random random(20261127);
        for (int round = 0; round < 12; ++round) {
            const int n = random.integer(6, 40);
            const Grid s = sheet(n, random, [&](double u, double v) { return Vec3(30 * u, 20 * v, 0); });
            std::vector<std::uint32_t> line{s.id(random.integer(0, n), random.integer(0, n))};
            const int steps = round % 3 == 0 ? 0 : random.integer(1, 2 * n);
            for (int k = 0; k < steps; ++k) { // a walk along sides
                const int at = static_cast<int>(line.back()), i = at % (n + 1), j = at / (n + 1);
                const int to = random.integer(0, 1) ? std::clamp(i + (random.integer(0, 1) ? 1 : -1), 0, n) : i, up = to == i ? std::clamp(j + 1, 0, n) : j;
                if (s.id(to, up) != line.back()) line.push_back(s.id(to, up));
            }
            const auto d = s.from({line});
            double worst = 0.0;
            for (std::size_t p = 0; p < d.size(); ++p) {
                double least = (s.points[p] - s.points[line[0]]).norm();
                for (std::size_t k = 1; k < line.size(); ++k) least = std::min(least, distanceToSegment(s.points[p], s.points[line[k - 1]], s.points[line[k]]));
                worst = std::max(worst, std::abs(d[p] - least));
            }
            QVERIFY2(worst < 1e-9, qPrintable(QString("round %1, %2 points of a line: %3").arg(round).arg(line.size()).arg(worst)));
        }
    }
    // Behind a round hole: two tangents and an arc.
    void aroundAHoleItBends() {
        const double rho = 5.0;
        // A plane in rings around the hole.
        Grid s;
        const int rings = 40, spokes = 360;
        for (int j = 0; j <= rings; ++j)
            for (int i = 0; i < spokes; ++i) {
                const double r = rho + 20.0 * j / rings, a = 2 * kPi * i / spokes;
                s.points.push_back(Vec3(r * std::cos(a), r * std::sin(a), 0));
            }
        const auto id = [&](int i, int j) { return static_cast<std::uint32_t>(j * spokes + i % spokes); };
        for (int j = 0; j < rings; ++j)
            for (int i = 0; i < spokes; ++i) {
                s.triangles.push_back({id(i, j), id(i, j + 1), id(i + 1, j + 1)});
                s.triangles.push_back({id(i, j), id(i + 1, j + 1), id(i + 1, j)});
            }
        const auto d = s.from({{id(0, rings)}});
        const double e = 25.0;
        for (int j = 2; j <= rings; j += 3) {
            const double f = rho + 20.0 * j / rings, turn = kPi - std::acos(rho / e) - std::acos(rho / f);
            const double wanted = std::sqrt(e * e - rho * rho) + std::sqrt(f * f - rho * rho) + rho * turn;
            QVERIFY2(std::abs(d[id(spokes / 2, j)] / wanted - 1) < 1e-3, qPrintable(QString("%1, wanted %2").arg(d[id(spokes / 2, j)]).arg(wanted)));
        }
    }
    // What can be unrolled is as far as on the sheet; a sphere's great circles, better with every finer mesh.
    void onRoundThingsItIsTrue() {
        Random random(7);
        const Grid cone = sheet(60, random, [&](double u, double v) { // a sector of 100 degrees of an unrolled cone of half angle 30
            const double r = 10 + 30 * v, a = radians(100) * u / std::sin(radians(30));
            return Vec3(r * std::sin(radians(30)) * std::cos(a), r * std::sin(radians(30)) * std::sin(a), r * std::cos(radians(30)));
        });
        const auto onSheet = [](const Vec3& p) {
            double a = std::atan2(p.y(), p.x());
            if (a < -1e-9) a += 2 * kPi;
            return Vec2(p.norm() * std::cos(a * std::sin(radians(30))), p.norm() * std::sin(a * std::sin(radians(30))));
        };
        const auto far = cone.from({{cone.id(0, 30)}});
        double worst = 0.0;
        for (int j = 40; j <= 60; ++j)
            for (int i = 10; i <= 40; ++i) {
                const double wanted = (onSheet(cone.points[cone.id(i, j)]) - onSheet(cone.points[cone.id(0, 30)])).norm();
                worst = std::max(worst, std::abs(far[cone.id(i, j)] / wanted - 1));
            }
        QVERIFY2(worst < 1e-3, qPrintable(QString::number(worst)));
        double before = 1.0;
        for (const int n : {16, 32, 64}) {
            const Grid ball = sheet(n, random, [&](double u, double v) {
                const double a = 2.0 * u - 1.0, b = 2.0 * v - 1.0; // half of it
                return Vec3(Vec3(std::sin(a), std::sin(b), std::cos(a) * std::cos(b)).normalized() * 10);
            });
            const auto source = ball.id(n / 4, n / 4);
            const auto d = ball.from({{source}});
            double off = 0.0;
            for (int j = n / 3; j <= n; ++j)
                for (int i = n / 2; i <= n; ++i) {
                    const double wanted = 10 * angleBetween(ball.points[ball.id(i, j)], ball.points[source]);
                    if (i < n && j < n) off = std::max(off, std::abs(d[ball.id(i, j)] / wanted - 1)); // not along the border, which bends
                }
            QVERIFY2(off < 0.6 * before, qPrintable(QString("%1 after %2").arg(off).arg(before)));
            before = off;
        }
        QVERIFY2(before < 1e-3, qPrintable(QString::number(before)));
    }
    // Calling off ends it in the middle, and is told as that.
    void itIsCalledOff() {
        Random random(3);
        const Grid s = sheet(60, random, [&](double u, double v) { return Vec3(30 * u, 20 * v, 3 * std::sin(6 * u) * std::sin(5 * v)); });
        Progress progress;
        progress.cancel();
        const auto d = distancesFrom(s.points, s.triangles, {{s.id(0, 0)}}, &progress);
        QVERIFY(!d && d.error().cancelled);
    }
    void whatCannotBeReachedIsInfinite() {
        const std::vector<Vec3> points{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {9, 0, 0}, {10, 0, 0}, {9, 1, 0}};
        const auto d = distancesFrom(points, {{0, 1, 2}, {3, 4, 5}}, {{0}}).value();
        QVERIFY(std::abs(d[1] - 1) < 1e-12 && std::abs(d[2] - 1) < 1e-12 && std::isinf(d[3]) && std::isinf(d[5]));
    }
    // A cylinder's wall and the flat end that it runs into: rows from the far rim keep their distance over the corner.
    void rowsKeepTheirDistanceOverACorner() {
        const auto part = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto faces = facesWhere(*part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder || (f.kind == SurfaceKind::Plane && f.normal.z() > 0.9); });
        QCOMPARE(faces.size(), std::size_t(2));
        PatternSpec spec;
        spec.kind = PatternBy::Distance;
        spec.spacing = 1.25;
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if (part->edges()[e].kind == CurveKind::Circle && std::abs(part->edges()[e].middle.z()) < 1e-6) spec.rail1 = {part->edgeRef(static_cast<int>(e))};
        QCOMPARE(spec.rail1.size(), std::size_t(1));
        const PatternResult r = lay(*part, faces, spec);
        QVERIFY2(r.widestGap <= 1.01 * spec.spacing, qPrintable(QString::number(r.widestGap)));
        std::map<int, double> at; // how far the row is, by the closed form
        for (const Row& row : r.rows)
            for (const Vec3& p : row.points) {
                const double d = p.z() < 30 - 1e-6 ? p.z() : 30 + 20 - std::hypot(p.x(), p.y());
                if (d > 48.0) continue; // in the middle all ways meet
                const auto [it, first] = at.try_emplace(row.index, d);
                QVERIFY2(std::abs(it->second - d) < 0.01 * spec.spacing, qPrintable(QString("row %1: %2 and %3").arg(row.index).arg(d).arg(it->second)));
            }
        // 50 mm from the rim to the middle: 41 rows but the last, which is a point; a tenth more may be laid.
        QVERIFY2(at.size() >= 38 && at.size() <= 42, qPrintable(QString::number(at.size())));
        double before = at.begin()->second;
        QVERIFY(std::abs(before) < 1e-7);
        for (auto it = std::next(at.begin()); it != at.end(); ++it) {
            QVERIFY2(it->second - before < 1.012 * spec.spacing, qPrintable(QString("row %1: %2").arg(it->first).arg(it->second - before)));
            before = it->second;
        }
    }
    // Rings, lines, about a point, own lines: every point of a row has the row's value, by its closed form, and lies on the face.
    void closedFormsAreMet() {
        const auto wall = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto top = facesWhere(*wall, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        const auto side = facesWhere(*wall, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        const auto plate = test::openPart(test::drilledPlate(dir()));
        const auto flat = facesWhere(*plate, [](const FaceInfo& f) { return f.normal.z() > 0.999 && std::abs(f.centre.z() - 20) < 1e-6 && f.area > 5000; });
        QVERIFY(top.size() == 1 && side.size() == 1 && flat.size() == 1);
        struct Case {
            const Part* part;
            std::vector<int> faces;
            PatternSpec spec;
            std::function<double(const Vec3&)> value;
        };
        Random random(88);
        std::vector<Case> cases;
        for (int i = 0; i < 4; ++i) {
            PatternSpec spec;
            spec.spacing = random.number(0.7, 2.0);
            spec.centre = Vec3(random.number(-30, 30), random.number(-30, 30), random.number(-10, 10));
            const Vec3 c = spec.centre;
            spec.kind = PatternBy::Rings;
            cases.push_back({plate.get(), flat, spec, [c](const Vec3& p) { return std::hypot(p.x() - c.x(), p.y() - c.y()); }});
            spec.kind = PatternBy::Point;
            cases.push_back({plate.get(), flat, spec, [c](const Vec3& p) { return (p - c).norm(); }});
            cases.push_back({wall.get(), side, spec, [c](const Vec3& p) { return (p - c).norm(); }});
            spec.kind = PatternBy::Lines;
            spec.centre = Vec3(-200, random.number(-30, 30), 0);
            cases.push_back({plate.get(), flat, spec, [c = spec.centre](const Vec3& p) { return 200 * std::atan2(p.y() - c.y(), p.x() - c.x()); }});
            spec.kind = PatternBy::Grid;
            spec.acrossGrid = false;
            cases.push_back({wall.get(), side, spec, [](const Vec3& p) { return p.z(); }});
        }
        for (std::size_t k = 0; k < cases.size(); ++k) {
            const Case& c = cases[k];
            const PatternResult r = lay(*c.part, c.faces, c.spec);
            std::map<int, std::vector<double>> values;
            for (const Row& row : r.rows)
                for (std::size_t i = 0; i < row.points.size(); ++i) {
                    QVERIFY((c.part->project(row.faces[i], row.points[i]).point - row.points[i]).norm() < 1e-6);
                    values[row.index].push_back(c.value(row.points[i]));
                }
            // Beside a saddle of the field a few points may stay where the triangles have them.
            std::size_t all = 0, off = 0;
            double worst = 0.0;
            for (auto& [row, v] : values) {
                std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
                const double middle = v[v.size() / 2];
                for (const double x : v) {
                    ++all;
                    off += std::abs(x - middle) > 1e-4;
                    worst = std::max(worst, std::abs(x - middle));
                }
            }
            QVERIFY2(worst < 0.05 && 200 * off <= all, qPrintable(QString("case %1: %2 of %3 points, by up to %4").arg(k).arg(off).arg(all).arg(worst)));
            QVERIFY2(r.widestGap <= 1.01 * c.spec.spacing || !r.findings.empty(), qPrintable(QString("case %1: %2 of %3").arg(k).arg(r.widestGap).arg(c.spec.spacing)));
        }
    }
    // Lengthwise lines all round a cylinder and a cone, by the axis and by the face's own lines: straight, at even angles, none twice, and the last as near to
    // the first as any other.
    void linesGoAllRound() {
        struct Case {
            std::shared_ptr<const Part> part;
            SurfaceKind kind;
            double radius; ///< where it is widest
        };
        for (const Case& c : {Case{test::openPart(test::cylinderStep(dir(), 20, 30)), SurfaceKind::Cylinder, 20.0},
                              Case{test::openPart(test::coneStep(dir(), 30, 12, 25)), SurfaceKind::Cone, 30.0}})
            for (const PatternBy kind : {PatternBy::Lines, PatternBy::Grid})
                for (const int count : {0, 17}) {
                    const auto wall = facesWhere(*c.part, [&](const FaceInfo& f) { return f.kind == c.kind; });
                    PatternSpec spec;
                    spec.kind = kind;
                    spec.acrossGrid = true;
                    spec.spacing = 1.7;
                    spec.by = count > 0 ? RowsBy::Count : RowsBy::Spacing;
                    spec.count = count;
                    spec.ends = count > 0 ? RowEnds::HalfStepIn : RowEnds::OnRails;
                    Progress p;
                    for (const RowEnds ends : {RowEnds::OnRails, RowEnds::HalfStepIn}) {
                        spec.ends = ends;
                        const auto r = layRows(*c.part, wall, spec, 3.0, p);
                        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
                        const double whole = 2.0 * kPi * c.radius;
                        const auto n = r->rows.size();
                        if (count > 0)
                            QCOMPARE(n, 17u);
                        else
                            QVERIFY2(static_cast<double>(n) >= whole / 1.72 && static_cast<double>(n) < 1.05 * whole / 1.7 + 2, qPrintable(QString::number(n)));
                        std::vector<double> angles;
                        for (const Row& row : r->rows) {
                            const double a = std::atan2(row.points[0].y(), row.points[0].x());
                            for (const Vec3& q : row.points) {
                                QVERIFY(std::abs(std::remainder(std::atan2(q.y(), q.x()) - a, 2.0 * kPi)) < 1e-5);
                                QVERIFY(c.part->project(wall[0], q).point.isApprox(q, 1e-6));
                            }
                            QVERIFY(std::abs(row.points.front().z() - row.points.back().z()) > 24.99);
                            angles.push_back(a);
                        }
                        std::sort(angles.begin(), angles.end());
                        double least = 1e9, most = 0.0;
                        for (std::size_t i = 0; i < n; ++i) {
                            const double gap = i + 1 < n ? angles[i + 1] - angles[i] : angles[0] + 2.0 * kPi - angles[i];
                            least = std::min(least, gap);
                            most = std::max(most, gap);
                        }
                        QVERIFY2(most < 1.05 * least, qPrintable(QString("%1 %2 of %3 rows").arg(least).arg(most).arg(n)));
                        if (count == 0) QVERIFY2(2.0 * c.radius * std::sin(0.5 * most) < 1.01 * 1.7, qPrintable(QString::number(most)));
                        QVERIFY(r->findings.empty());
                    }
                }
    }
    // "Cannot, because": on the axis, all at one distance.
    void whatHasNoFirstRowIsRefused() {
        const auto wall = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto side = facesWhere(*wall, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        const auto top = facesWhere(*wall, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9; });
        Progress p;
        PatternSpec spec;
        const auto refused = [&](const std::vector<int>& faces, PatternBy kind, bool across = false) {
            spec.kind = kind;
            spec.acrossGrid = across;
            const auto r = layRows(*wall, faces, spec, 3.0, p);
            return r ? std::string() : r.error().text();
        };
        QVERIFY(refused(top, PatternBy::Lines).find("the axis") != std::string::npos);
        QVERIFY(refused(side, PatternBy::Rings).find("one distance from the axis") != std::string::npos);
        QVERIFY(refused(top, PatternBy::Rings).empty());
    }
    // A number of rows, and where they begin.
    void rowsByCountAndFromAnywhere() {
        const auto wall = test::openPart(test::cylinderStep(dir(), 20, 30));
        const auto side = facesWhere(*wall, [](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder; });
        PatternSpec spec;
        spec.kind = PatternBy::Planes;
        spec.lean = 90;
        spec.by = RowsBy::Count;
        for (const int n : {2, 7, 16}) {
            spec.count = n;
            const PatternResult r = lay(*wall, side, spec);
            std::set<int> rows;
            for (const Row& row : r.rows) rows.insert(row.index);
            QCOMPARE(static_cast<int>(rows.size()), n);
            QVERIFY2(std::abs(r.spacing - 30.0 / (n - 1)) < 0.01 * r.spacing, qPrintable(QString::number(r.spacing)));
        }
        spec.count = 7;
        const auto order = [&](RowStart start) {
            spec.start = start;
            std::vector<int> out;
            for (const Row& row : lay(*wall, side, spec).rows) out.push_back(row.index);
            return out;
        };
        QCOMPARE(order(RowStart::First), (std::vector<int>{0, 1, 2, 3, 4, 5, 6}));
        QCOMPARE(order(RowStart::Last), (std::vector<int>{6, 5, 4, 3, 2, 1, 0}));
        QCOMPARE(order(RowStart::Middle), (std::vector<int>{3, 4, 2, 5, 1, 6, 0}));
        QCOMPARE(order(RowStart::Outside), (std::vector<int>{0, 6, 1, 5, 2, 4, 3}));
    }
};

GYRE_TEST(TestDistance)

} // namespace test_distance
#include "test_distance.moc"
