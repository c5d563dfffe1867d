// A whole body from one direction: nothing entered, nothing left wider than told, larger tools' corners found – judged by formulas and brute force of their own.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "geom/WriteMesh.h"
#include "kinds/Kinds.h"
#include "milling/Dropper.h"
#include "milling/LevelWays.h"
#include "milling/MillSpec.h"
#include <map>

namespace test_body {

using namespace gyre;
using test::near;
using test::Random;

class TestBody : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    int m_files = 0;

    std::shared_ptr<const Part> part(const TriangleMesh& mesh) {
        const auto file = std::filesystem::path(m_dir.path().toStdString()) / ("body" + QByteArray::number(++m_files).toStdString() + ".stl");
        if (!writeStl(mesh, file)) qFatal("no mesh written");
        return test::openPart(file);
    }
    // Closed below and around; heights by a function of the place.
    static TriangleMesh heights(double length, double width, double cell, const std::function<double(double, double)>& height) {
        TriangleMesh mesh;
        const auto n = static_cast<std::uint32_t>(std::lround(length / cell)), m = static_cast<std::uint32_t>(std::lround(width / cell));
        for (std::uint32_t j = 0; j <= m; ++j)
            for (std::uint32_t i = 0; i <= n; ++i) mesh.points.emplace_back(i * cell, j * cell, height(i * cell, j * cell));
        const auto at = [&](std::uint32_t i, std::uint32_t j) { return j * (n + 1) + i; };
        for (std::uint32_t j = 0; j < m; ++j)
            for (std::uint32_t i = 0; i < n; ++i) {
                mesh.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
                mesh.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
            }
        return mesh;
    }
    static void block(TriangleMesh& mesh, const Vec3& low, const Vec3& high) {
        const auto first = static_cast<std::uint32_t>(mesh.points.size());
        for (int k = 0; k < 8; ++k) mesh.points.emplace_back(k & 1 ? high.x() : low.x(), k & 2 ? high.y() : low.y(), k & 4 ? high.z() : low.z());
        for (const auto& [a, b, c, d] : {std::array{0u, 2u, 3u, 1u}, std::array{4u, 5u, 7u, 6u}, std::array{0u, 1u, 5u, 4u}, std::array{2u, 6u, 7u, 3u},
                                         std::array{0u, 4u, 6u, 2u}, std::array{1u, 3u, 7u, 5u}}) {
            mesh.triangles.push_back({first + a, first + b, first + c});
            mesh.triangles.push_back({first + a, first + c, first + d});
        }
    }
    static TriangleMesh ragged(Random& random) {
        struct Hill {
            double x, y, high, wide;
        };
        std::vector<Hill> hills;
        for (int i = 0; i < 6; ++i) hills.push_back({random.number(0, 26), random.number(0, 20), random.number(-4, 6), random.number(1.5, 6)});
        TriangleMesh mesh = heights(26, 20, 0.5, [&](double x, double y) {
            double z = 6.0;
            for (const Hill& h : hills) z += h.high * std::exp(-((x - h.x) * (x - h.x) + (y - h.y) * (y - h.y)) / (h.wide * h.wide));
            return z;
        });
        for (int i = 0; i < 3; ++i) {
            const Vec3 low(random.number(0, 20), random.number(0, 15), 0.0);
            block(mesh, low, low + Vec3(random.number(0.3, 6), random.number(0.3, 5), random.number(4, 14)));
        }
        return mesh;
    }
    static Assembly tool(CutterShape shape, double diameter, double corner = 0.0) {
        Assembly a = shape == CutterShape::Ball ? test::ballTool(diameter, 60) : test::flatTool(diameter, 40);
        if (corner > 0.0) {
            a.cutter.shape = CutterShape::CornerRadius;
            a.cutter.cornerRadius = corner;
        }
        return a;
    }
    // How deep a point lies in a cutter whose tip stands at `tip`, by its outline written out.
    static double inside(const Cutter& c, const Vec3& tip, const Vec3& p) {
        const double out = std::hypot(p.x() - tip.x(), p.y() - tip.y()), up = p.z() - tip.z(), r = 0.5 * c.diameter;
        const double rc = c.shape == CutterShape::Ball ? r : c.shape == CutterShape::CornerRadius ? c.cornerRadius : 0.0;
        if (up >= rc) return std::min(r - out, rc > 0.0 ? 1e9 : up);
        return rc - std::hypot(std::max(0.0, out - (r - rc)), up - rc);
    }
    static MillInput inputOf(const Part& p) {
        MillInput in;
        in.part = in.body = &p;
        in.model = &p.tree();
        return in;
    }
    static MillSpec bodySpec(double stepover, MillParts parts = MillParts::Both) {
        MillSpec s;
        s.shape = MillShape::Body;
        s.stepover = stepover;
        s.parts = parts;
        return s;
    }
    static Result<MillResult> mill(const MillInput& in, const MillSpec& spec, const Assembly& tool, double leave = 0.0) {
        Progress progress;
        return millOn(in, spec, tool, leave, 0.005, 500, progress);
    }
    // Straight ways of all passes in pieces no longer than `most`.
    static void walk(const MillResult& r, double most, const std::function<void(const Vec3&, const Vec3&)>& visit) {
        for (const Pass& pass : r.passes)
            for (std::size_t i = 1; i < pass.path.size(); ++i) {
                const Vec3 a = pass.path.tip[i - 1], d = pass.path.tip[i] - a;
                const int n = std::max(1, static_cast<int>(std::ceil(d.norm() / most)));
                for (int k = 0; k < n; ++k) visit(a + d * k / n, a + d * (k + 1) / n);
            }
    }

private slots:
    // Closed forms against the cutter let down bit by bit with the general distance: places by chance, every shape, with stock to leave.
    void droppingAgreesWithTheGeneralDistance() {
        Random random(2100);
        const Vec3 up = Vec3(0.1, -0.2, 1).normalized();
        const Sheet sheet = planeSheet({"", Vec3(1, 2, 3), up, anyPerpendicular(up)});
        double worst = 0.0;
        int rested = 0;
        for (int turn = 0; turn < 12; ++turn) {
            const TriangleMesh mesh = ragged(random);
            const MeshTree tree(mesh);
            const double keep = turn % 4 == 2 ? 0.3 : 0.0;
            const Assembly t = turn % 3 == 0   ? tool(CutterShape::Ball, random.number(1, 8))
                               : turn % 3 == 1 ? tool(CutterShape::Flat, random.number(1, 8))
                                               : tool(CutterShape::CornerRadius, random.number(4, 10), random.number(0.3, 1.9));
            const Dropper d(tree, nullptr, t.cutter, sheet, keep, -10.0);
            for (int i = 0; i < 150; ++i) {
                const Vec3 on = mesh.points[static_cast<std::size_t>(random.integer(0, static_cast<int>(mesh.points.size()) - 1))];
                const Vec2 at = sheet.flat(on).head<2>() + Vec2(random.number(-4, 4), random.number(-4, 4));
                const double told = d.roughHeight(at), general = 60.0 - dropOnto(tree, t.cutter, sheet.pose({at.x(), at.y(), 60.0}), 70.0, keep);
                rested += told > -9.9;
                // A wall that is only grazed may count for one and not for the other: then a hair aside both agree.
                const double aside = std::abs(told - general) < 1e-4 ? 0.0 : std::abs(d.roughHeight(at + Vec2(1e-4, 1e-4)) - general);
                worst = std::max(worst, std::min(std::abs(told - general), aside));
                QVERIFY(!d.standsAbove(at, told + 1e-9) && (told < -9.9 || d.standsAbove(at, told - 1e-6)));
            }
        }
        QVERIFY2(rested > 1200, qPrintable(QString::number(rested)));
        QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
    }
    // Every cutter over random hills and blocks: points of the surface against the cutter's outline, all along the ways.
    void nothingIsEntered() {
        Random random(2101);
        const Assembly tools[] = {tool(CutterShape::Ball, 4), tool(CutterShape::Flat, 5), tool(CutterShape::CornerRadius, 6, 1)};
        for (int turn = 0; turn < 6; ++turn) {
            const TriangleMesh mesh = ragged(random);
            const auto p = part(mesh);
            const Assembly& t = tools[turn % 3];
            MillSpec spec = bodySpec(random.number(0.4, 1.2), static_cast<MillParts>(turn % 2 ? random.integer(1, 2) : 0));
            spec.along = random.number(0, 180);
            spec.slope = random.number(20, 70);
            const auto r = mill(inputOf(*p), spec, t);
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            // Points of the surface, by cells of 1 mm.
            std::map<std::pair<int, int>, std::vector<Vec3>> cells;
            const auto keep = [&](const Vec3& q) { cells[{static_cast<int>(std::floor(q.x())), static_cast<int>(std::floor(q.y()))}].push_back(q); };
            for (std::size_t k = 0; k < mesh.triangles.size(); ++k) {
                const Vec3 a = mesh.points[mesh.triangles[k][0]], b = mesh.points[mesh.triangles[k][1]], c = mesh.points[mesh.triangles[k][2]];
                const double area = 0.5 * (b - a).cross(c - a).norm();
                const int n = std::max(1, static_cast<int>(area / 0.02));
                for (const Vec3& q : {a, b, c}) keep(q);
                for (int i = 0; i < n; ++i) {
                    double u = random.number(0, 1), v = random.number(0, 1);
                    if (u + v > 1) u = 1 - u, v = 1 - v;
                    keep(a + u * (b - a) + v * (c - a));
                }
            }
            double worst = 0.0;
            std::size_t looked = 0;
            const int reach = static_cast<int>(std::ceil(0.5 * t.cutter.diameter));
            walk(*r, 0.2, [&](const Vec3& a, const Vec3& b) {
                const Vec3 tip = 0.5 * (a + b);
                for (int i = -reach; i <= reach; ++i)
                    for (int j = -reach; j <= reach; ++j)
                        if (const auto c = cells.find({static_cast<int>(std::floor(tip.x())) + i, static_cast<int>(std::floor(tip.y())) + j}); c != cells.end())
                            for (const Vec3& q : c->second) {
                                worst = std::max(worst, inside(t.cutter, tip, q));
                                ++looked;
                            }
            });
            QVERIFY(looked > 100000);
            QVERIFY2(worst < 0.006, qPrintable(QString("part %1: %2 mm deep").arg(turn).arg(worst)));
        }
    }
    // Anywhere on the part the tip's lowest place lies near a way: half of what is asked for from the next one, in a corner of steep and flat a little more.
    void nothingStaysWider() {
        Random random(2102);
        for (int turn = 0; turn < 4; ++turn) {
            const auto p = part(ragged(random));
            const Assembly t = turn % 2 ? tool(CutterShape::CornerRadius, 5, 1) : tool(CutterShape::Ball, 4);
            MillSpec spec = bodySpec(random.number(0.4, 1.0));
            spec.along = random.number(0, 90);
            spec.slope = random.number(30, 60);
            const auto r = mill(inputOf(*p), spec, t);
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            std::map<std::tuple<int, int, int>, std::vector<std::pair<Vec3, Vec3>>> near1;
            const auto cell = [](const Vec3& q) {
                return std::tuple(static_cast<int>(std::floor(q.x())), static_cast<int>(std::floor(q.y())), static_cast<int>(std::floor(q.z())));
            };
            walk(*r, 0.3, [&](const Vec3& a, const Vec3& b) { near1[cell(0.5 * (a + b))].emplace_back(a, b); });
            double worst = 0.0, sum = 0.0;
            Vec3 where = Vec3::Zero();
            int looked = 0;
            for (int i = 0; i < 4000; ++i) {
                const Vec2 at(random.number(1, 25), random.number(1, 19));
                const double down = dropOnto(p->tree(), t.cutter, {Vec3(at.x(), at.y(), 60), Vec3::UnitZ()}, 60 - r->bottom);
                const Vec3 tip(at.x(), at.y(), 60 - down);
                if (tip.z() < r->bottom + 1e-3) continue;
                double least = 1e9;
                const auto [x, y, z] = cell(tip);
                for (int a = -2; a <= 2; ++a)
                    for (int b = -2; b <= 2; ++b)
                        for (int c = -2; c <= 2; ++c)
                            if (const auto f = near1.find({x + a, y + b, z + c}); f != near1.end())
                                for (const auto& [s, e] : f->second) {
                                    const Vec3 d = e - s;
                                    const double u = d.squaredNorm() > 0 ? std::clamp((tip - s).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
                                    least = std::min(least, (tip - s - u * d).norm());
                                }
                ++looked;
                sum += least;
                if (least > worst) {
                    worst = least;
                    where = tip;
                }
            }
            QVERIFY(looked > 3000);
            QVERIFY2(worst < 0.75 * spec.stepover, qPrintable(QString("part %1: %2 of %3 at %4 %5 %6, mean %7")
                                                                  .arg(turn)
                                                                  .arg(worst)
                                                                  .arg(spec.stepover)
                                                                  .arg(where.x())
                                                                  .arg(where.y())
                                                                  .arg(where.z())
                                                                  .arg(sum / looked)));
        }
    }
    // Around a boss and in a pocket, at one level: rings of their own length, climbing or not.
    void levelsGoAroundAsTheyAreToldTo() {
        TriangleMesh mesh;
        block(mesh, {0, 0, 0}, {40, 30, 4});
        block(mesh, {15, 10, 4}, {25, 20, 14});
        const auto p = part(mesh);
        for (const bool climb : {true, false}) {
            MillSpec spec = bodySpec(2.0, MillParts::Levels);
            spec.climb = climb;
            const auto r = mill(inputOf(*p), spec, tool(CutterShape::Flat, 6));
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            int rings = 0;
            for (const FlatPass& pass : r->flat) {
                if (pass.points.front().at.z() < 4.5) continue;
                QVERIFY(pass.closed);
                Loop loop;
                double length = 0.0;
                for (std::size_t i = 1; i < pass.points.size(); ++i) {
                    loop.push_back(pass.points[i].at.head<2>());
                    length += (pass.points[i].at - pass.points[i - 1].at).norm();
                }
                QVERIFY2(near(length, 40 + 2 * kPi * 3, 0.02), qPrintable(QString::number(length)));
                // What stands is on the right when it climbs: clockwise around a boss.
                QCOMPARE(signedArea(loop) < 0.0, climb);
                ++rings;
            }
            QCOMPARE(rings, 4); // 12, 10, 8, 6; at 4 the boss stands on the floor
            QVERIFY(std::any_of(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "flat-left"; }));
        }
    }
    // A ball on a cylinder that lies: its centre keeps the sum of both radii from the axis, on the exact face.
    void aBallRollsOverTheExactFace() {
        const auto p = test::openPart(test::cylinderStep(std::filesystem::path(m_dir.path().toStdString()), 20, 30));
        MillInput in = inputOf(*p);
        in.planes = {{"side", Vec3(20, 0, 15), Vec3::UnitX(), Vec3::UnitY()}};
        MillSpec spec = bodySpec(1.0, MillParts::Strokes);
        spec.on = "side";
        spec.depthBy = MillDepth::Typed;
        spec.depth = 12;
        const auto r = mill(in, spec, tool(CutterShape::Ball, 6));
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        int looked = 0;
        for (const Pass& pass : r->passes)
            for (const Vec3& tip : pass.path.tip) {
                const Vec3 centre = tip + 3.0 * Vec3::UnitX();
                if (tip.z() < 0.5 || tip.z() > 29.5) continue; // over the round rims
                ++looked;
                QVERIFY2(std::abs(std::hypot(centre.x(), centre.y()) - 23.0) < 2e-4, qPrintable(QString::number(std::hypot(centre.x(), centre.y()))));
            }
        QVERIFY(looked > 300);
    }
    // Levels around an upright cylinder lie on the exact face, not on its triangles: every cutter keeps its radius off.
    void levelsLieOnTheExactFace() {
        const auto p = test::openPart(test::cylinderStep(std::filesystem::path(m_dir.path().toStdString()), 20, 10));
        for (const Assembly& t : {tool(CutterShape::Ball, 6), tool(CutterShape::Flat, 8), tool(CutterShape::CornerRadius, 10, 2)})
            for (const double leave : {0.0, 0.2}) {
                const auto r = mill(inputOf(*p), bodySpec(2.0, MillParts::Levels), t, leave);
                QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
                int looked = 0;
                for (const Pass& pass : r->passes)
                    for (const Vec3& tip : pass.path.tip) {
                        if (tip.z() > 7.5) continue; // over the rim
                        ++looked;
                        const double off = std::hypot(tip.x(), tip.y()) - 20.0 - leave - 0.5 * t.cutter.diameter;
                        QVERIFY2(std::abs(off) < 3e-4, qPrintable(QString("%1 at %2 %3 %4, diameter %5 leave %6, %7")
                                                                      .arg(off)
                                                                      .arg(tip.x())
                                                                      .arg(tip.y())
                                                                      .arg(tip.z())
                                                                      .arg(t.cutter.diameter)
                                                                      .arg(leave)
                                                                      .arg(p->deflection())));
                    }
                QVERIFY(looked > 100);
            }
    }
    // In a groove of two planes a ball of radius R touches R / tan(φ/2) from its edge: what a Ø10 leaves to a Ø4 ends there.
    void whatALargerBallLeftEndsAtItsContactLines() {
        for (const double angle : {60.0, 90.0, 120.0}) {
            const double half = radians(0.5 * angle);
            TriangleMesh mesh;
            // The groove's edge along y through the origin, its planes rising to both sides.
            const double wide = 14.0 * std::sin(half), high = 14.0 * std::cos(half);
            mesh.points = {{-wide, 0, high}, {0, 0, 0}, {wide, 0, high}, {-wide, 30, high}, {0, 30, 0}, {wide, 30, high}};
            mesh.triangles = {{0, 1, 4}, {0, 4, 3}, {1, 2, 5}, {1, 5, 4}};
            const auto p = part(mesh);
            MillInput in = inputOf(*p);
            const Assembly small = tool(CutterShape::Ball, 4), large = tool(CutterShape::Ball, 10);
            in.after = &large;
            MillSpec spec = bodySpec(0.5, MillParts::Strokes);
            spec.after = "large";
            spec.afterMore = 0.001;
            const auto r = mill(in, spec, small);
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            // The contact from the tip: along the normal of whichever plane is nearer.
            double furthest = 0.0;
            int looked = 0;
            for (const Pass& pass : r->passes) {
                if (pass.path.tip.front().y() < 6 || pass.path.tip.front().y() > 24) continue; // beyond the ends the larger one rolls over the rim
                for (const Vec3& tip : {pass.path.tip.front(), pass.path.tip.back()}) {
                    const Vec3 centre = tip + 2.0 * Vec3::UnitZ(), along(tip.x() < 0 ? -std::sin(half) : std::sin(half), 0, std::cos(half));
                    const double contact = centre.dot(along);
                    QVERIFY2(near(contact, 5.0 / std::tan(half), 0.01), qPrintable(QString("%1°: %2 of %3").arg(angle).arg(contact).arg(5.0 / std::tan(half))));
                    furthest = std::max(furthest, contact);
                    ++looked;
                }
            }
            QVERIFY(looked > 40);
        }
    }
    // Straight up a wall and on: never through its edge.
    void aWallIsClimbedFirst() {
        TriangleMesh mesh;
        block(mesh, {0, 0, 0}, {10, 20, 2});
        block(mesh, {10, 0, 0}, {20, 20, 12});
        const auto p = part(mesh);
        const Sheet sheet = planeSheet({"", Vec3::Zero(), Vec3::UnitZ(), Vec3::UnitX()});
        const Assembly t = tool(CutterShape::Flat, 4);
        const Dropper d(p->tree(), nullptr, t.cutter, sheet, 0.0, 0.0);
        const auto line = droppedAlong(d, {3, 10}, {17, 10}, 0.5, 0.005);
        int steep = 0;
        for (std::size_t i = 1; i < line.size(); ++i) {
            if (std::abs(line[i].z() - line[i - 1].z()) < 0.1) continue;
            ++steep;
            QVERIFY(near(line[i].x(), line[i - 1].x(), 1e-9));
            QVERIFY(near(line[i].x(), 8.0, 3e-3) && line[i].x() <= 8.0 + 1e-6); // a radius before the wall
        }
        QCOMPARE(steep, 1);
        QVERIFY(near(line.front().z(), 2, 1e-5) && near(line.back().z(), 12, 1e-5));
    }
    void strokesAloneSayHowWideTheyLieOnWalls() {
        TriangleMesh mesh;
        block(mesh, {0, 0, 0}, {30, 20, 2});
        block(mesh, {0, 8, 2}, {30, 20, 10});
        const auto p = part(mesh);
        const auto r = mill(inputOf(*p), bodySpec(0.8, MillParts::Strokes), tool(CutterShape::Ball, 4));
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        const auto told = std::find_if(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "steep-wide"; });
        QVERIFY(told != r->findings.end() && told->rank == Rank::Note);
        QVERIFY(told->amount > 5.0 && told->amount < 8.1);
        const auto both = mill(inputOf(*p), bodySpec(0.8), tool(CutterShape::Ball, 4));
        QVERIFY(both && both->findings.empty());
        QVERIFY2(both->widestGap <= 0.8 + 1e-6, qPrintable(QString::number(both->widestGap)));
    }
    // Over a round back and up a valley whose border between flat and steep runs along the strokes: across it no two ways are further apart than asked for,
    // whatever the step.
    void noStripStaysWhereLevelsTakeOver() {
        const double t30 = std::tan(radians(30)), t60 = std::tan(radians(60));
        const std::shared_ptr<const Part> parts[] = {part(heights(40, 20, 0.5, [](double x, double) { return std::sqrt(21.0 * 21.0 - (x - 20) * (x - 20)); })),
                                                     part(heights(30, 20, 0.5, [&](double x, double) { return x < 16 ? t30 * x : t30 * 16 + t60 * (x - 16); }))};
        for (const auto& p : parts)
            for (const double stepover : {0.7, 0.83, 0.96, 1.09, 1.22, 1.35}) {
                MillSpec spec = bodySpec(stepover);
                spec.along = 90;
                const auto r = mill(inputOf(*p), spec, tool(CutterShape::Ball, 4));
                QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
                const double right = p->mesh().bounds().high.x();
                std::vector<Vec2> across; // where ways cross the plane y = 10
                walk(*r, 1e9, [&](const Vec3& a, const Vec3& b) {
                    if ((a.y() - 10) * (b.y() - 10) > 0 || std::abs(a.y() - b.y()) < 1e-9) return;
                    const Vec3 at = a + (10 - a.y()) / (b.y() - a.y()) * (b - a);
                    if (at.x() > 0.5 && at.x() < right - 0.5) across.emplace_back(at.x(), at.z());
                });
                std::sort(across.begin(), across.end(), [](const Vec2& a, const Vec2& b) { return a.x() < b.x(); });
                QVERIFY(across.size() > 20);
                for (std::size_t i = 1; i < across.size(); ++i) {
                    const double gap = (across[i] - across[i - 1]).norm();
                    QVERIFY2(gap < 1.01 * stepover, qPrintable(QString("step %1: %2 at x %3").arg(stepover).arg(gap).arg(across[i].x())));
                }
            }
    }
    // What leans by just the slope at which levels take over is cut once, by strokes, and no further apart than asked for.
    void aPlaneAtJustTheSlopeIsCutOnce() {
        const auto p = part(heights(24, 20, 1.0, [](double x, double) { return x; }));
        MillSpec spec = bodySpec(1.0);
        spec.along = 90;
        const auto r = mill(inputOf(*p), spec, tool(CutterShape::Ball, 4));
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        int strokes = 0;
        for (const FlatPass& pass : r->flat)
            for (const FlatPoint& q : pass.points)
                if (q.at.x() > 5 && q.at.x() < 19 && q.at.y() > 5 && q.at.y() < 15) QVERIFY2(pass.level < 0, qPrintable(QString::number(pass.level)));
        for (const FlatPass& pass : r->flat) strokes += pass.level < 0;
        QVERIFY(strokes > 24);
        QVERIFY2(r->widestGap < 1.0 + 1e-6, qPrintable(QString::number(r->widestGap)));
    }
    void whatIsPickedBoundsIt() {
        const auto p = test::openPart(test::filletedPocket(std::filesystem::path(m_dir.path().toStdString())));
        MillInput in = inputOf(*p);
        for (std::size_t f = 0; f < p->faces().size(); ++f)
            if (p->faces()[f].kind == SurfaceKind::Cylinder) in.faces.push_back(static_cast<int>(f));
        QVERIFY(in.faces.size() >= 4);
        std::vector<MeshTree> picked;
        for (const int f : in.faces) picked.emplace_back(p->faceMesh(f));
        const Assembly t = tool(CutterShape::Ball, 4);
        const auto r = mill(in, bodySpec(0.5), t, 0.0);
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        for (const Pass& pass : r->passes)
            for (const Vec3& tip : pass.path.tip) {
                // The ball touches a picked face: one lies a radius from its centre.
                const Vec3 centre = tip + 2.0 * Vec3::UnitZ();
                double least = 1e9;
                for (const MeshTree& tree : picked)
                    for (double up = 0.0; up < 8.0; up += 0.1) least = std::min(least, tree.closest(centre + up * Vec3::UnitZ(), 10.0).distance); // or with its side
                QVERIFY2(least < 2.0 + p->deflection() + 7e-3, qPrintable(QString::number(least)));
            }
    }
    // Upright walls that are picked are cut in levels over their whole height, others not at all.
    void pickedWallsAreCutToTheirFoot() {
        TriangleMesh mesh;
        block(mesh, {0, 0, 0}, {40, 30, 4});
        block(mesh, {10, 10, 4}, {30, 20, 14});
        const auto p = part(mesh);
        MillInput in = inputOf(*p);
        for (std::size_t f = 0; f < p->faces().size(); ++f)
            if (p->faces()[f].normal.y() < -0.9 && std::abs(p->faces()[f].centre.y() - 10) < 0.1) in.faces.push_back(static_cast<int>(f));
        QCOMPARE(in.faces.size(), std::size_t(1));
        const auto r = mill(in, bodySpec(1.0, MillParts::Levels), tool(CutterShape::Flat, 6));
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        QCOMPARE(r->passes.size(), std::size_t(10));
        // The plate's top is flat, but nobody asked for it.
        QVERIFY(std::none_of(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "flat-left"; }));
        for (const Pass& pass : r->passes) {
            QVERIFY(!pass.closed);
            // Round the corners as far as the cutter still touches them, no further.
            QVERIFY(pass.path.tip.front().x() > 30 && pass.path.tip.front().x() < 33.01 && pass.path.tip.back().x() < 10 && pass.path.tip.back().x() > 6.99);
            for (const Vec3& tip : pass.path.tip) QVERIFY(tip.x() < 10 || tip.x() > 30 ? tip.y() < 10.6 : near(tip.y(), 7, 3e-3));
            QVERIFY(pass.path.tip.front().x() > pass.path.tip.back().x()); // the wall on the right
        }
    }
    void theStockToLeaveIsLeft() {
        TriangleMesh mesh;
        block(mesh, {0, 0, 0}, {20, 20, 5});
        const auto p = part(mesh);
        const auto r = mill(inputOf(*p), bodySpec(1.0, MillParts::Strokes), tool(CutterShape::Ball, 4), 0.3);
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        double highest = -1e9;
        for (const Pass& pass : r->passes)
            for (const Vec3& tip : pass.path.tip) highest = std::max(highest, tip.z());
        QVERIFY2(near(highest, 5.3, 1.1e-3), qPrintable(QString::number(highest, 'g', 9)));
    }
    void whatCannotBeIsSaid() {
        TriangleMesh mesh;
        block(mesh, {0, 0, 0}, {20, 20, 5});
        const auto p = part(mesh);
        MillInput in = inputOf(*p);
        const Assembly ball = tool(CutterShape::Ball, 4), smaller = tool(CutterShape::Ball, 3);
        const auto refused = [&](const MillSpec& spec, const char* words) {
            const auto r = mill(in, spec, ball);
            return !r && r.error().text().find(words) != std::string::npos;
        };
        MillSpec spec = bodySpec(20.0);
        QVERIFY(refused(spec, "further apart"));
        spec = bodySpec(0.01);
        spec.on = "round X";
        spec.radius = 5.0;
        QVERIFY(refused(spec, "one direction"));
        spec = bodySpec(0.5);
        spec.on = "nowhere";
        QVERIFY(refused(spec, "no work plane"));
        spec = bodySpec(0.5);
        spec.depthBy = MillDepth::Typed;
        spec.depth = -6.0;
        QVERIFY(refused(spec, "above the depth"));
        in.after = &smaller;
        QVERIFY(refused(bodySpec(0.5), "no larger"));
        // A plain block holds no corner that a large ball cannot reach.
        const Assembly large = tool(CutterShape::Ball, 10);
        in.after = &large;
        QVERIFY(refused(bodySpec(0.5), "reached everything"));
        in.after = nullptr;
        Progress progress;
        progress.cancel();
        const auto cancelled = millOn(in, bodySpec(0.5), ball, 0.0, 0.005, 500, progress);
        QVERIFY(!cancelled && cancelled.error().cancelled);
    }
};

GYRE_TEST(TestBody)

} // namespace test_body
#include "test_body.moc"
