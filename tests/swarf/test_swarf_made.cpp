// What the wall's stage tells is off, against what the passes make: brute force over every pass, on the part's own exact faces.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"
#include <fmt/format.h>

namespace test_swarf_made {

using namespace gyre;
using test::near;

namespace {

Assembly shaped(CutterShape shape, double d, double flutes) {
    Assembly a = test::flatTool(d, flutes);
    a.cutter = asShape(a.cutter, shape);
    return a;
}

AlongResult made(const SwarfInput& in, const SwarfSpec& spec, const Assembly& tool, double leave = 0.0) {
    Progress progress;
    auto r = swarf(in, spec, tool, leave, {0.005, 1.0}, progress);
    if (!r) qFatal("%s", r.error().text().c_str());
    return std::move(*r);
}

std::vector<int> sides(const Part& part) {
    std::vector<int> out;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (std::abs(part.faces()[f].normal.z()) < 0.9) out.push_back(static_cast<int>(f));
    return out;
}

struct Truth {
    double over = 0.0, under = 0.0;
    Vec3 underAt = Vec3::Zero();
};

/// How far a point lies off all that the cutter's flutes sweep, at the least.
double offSwept(const AlongResult& r, const Cutter& cutter, const Vec3& p) {
    double best = 1e300;
    const double flutes = cuttingLength(cutter) + 1e-6;
    const CutterSide side(cutter);
    for (const Pass& pass : r.passes)
        for (std::size_t i = 1; i < pass.path.size(); ++i) {
            const Toolpath& path = pass.path;
            if ((path.tip[i] - p).norm() > cutter.diameter + cuttingLength(cutter) + 5.0) continue;
            if (side.off({path.tip[i], path.axis[i]}, p) > best + 2.0) continue;
            for (int k = 0; k <= 8; ++k) {
                const AxisPose pose{path.tip[i - 1] + (path.tip[i] - path.tip[i - 1]) * (k / 8.0), slerp(path.axis[i - 1], path.axis[i], k / 8.0)};
                if ((p - pose.tip).dot(pose.axis) > flutes) continue;
                best = std::min(best, side.off(pose, p));
            }
        }
    return best;
}

/// Random points of the faces, some of them on their rims. What stays is not asked nearer than `aside` to one of the places.
Truth truth(const Part& part, const std::vector<int>& faces, const AlongResult& r, const Cutter& cutter, double leave, std::mt19937& random, int points,
            const std::vector<Vec3>& corners = {}, double aside = 0.0) {
    std::uniform_real_distribution<double> unit(0.0, 1.0);
    Truth out;
    const auto look = [&](const Vec3& p) {
        const double off = offSwept(r, cutter, p) - leave;
        out.over = std::max(out.over, -off);
        const bool corner = std::any_of(corners.begin(), corners.end(), [&](const Vec3& c) { return Vec2(p.x() - c.x(), p.y() - c.y()).norm() < aside; });
        if (!corner && off > out.under) {
            out.under = off;
            out.underAt = p;
        }
    };
    std::vector<TriangleMesh> meshes;
    for (const int f : faces) meshes.push_back(part.faceMesh(f));
    for (int n = 0; n < points; ++n) {
        const std::size_t which = static_cast<std::size_t>(n) % faces.size();
        const TriangleMesh& mesh = meshes[which];
        const auto t = static_cast<std::uint32_t>(unit(random) * static_cast<double>(mesh.triangles.size()) * 0.999999);
        const double a = n % 3 == 0 ? 1.0 : std::sqrt(unit(random)), b = unit(random);
        look(part.project(faces[which], (1 - a) * mesh.corner(t, 0) + a * (1 - b) * mesh.corner(t, 1) + a * b * mesh.corner(t, 2)).point);
    }
    // And those that were told to be worst.
    auto told = r.map;
    std::sort(told.begin(), told.end(), [](const WallSample& a, const WallSample& b) { return a.off < b.off; });
    for (std::size_t i = 0; i < std::min<std::size_t>(40, told.size()); ++i) {
        look(told[i].point);
        look(told[told.size() - 1 - i].point);
    }
    return out;
}

std::vector<Vec2> polygon(int n, double radius, double turn) {
    std::vector<Vec2> out;
    for (int i = 0; i < n; ++i) out.emplace_back(radius * std::cos(turn + 2.0 * kPi * i / n), radius * std::sin(turn + 2.0 * kPi * i / n));
    return out;
}

std::vector<Vec2> turned(std::vector<Vec2> points, double by, double scale) {
    for (Vec2& p : points) p = scale * Vec2(std::cos(by) * p.x() - std::sin(by) * p.y(), std::sin(by) * p.x() + std::cos(by) * p.y());
    return points;
}

} // namespace

class TestSwarfMade : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
    std::mt19937 m_random{20261127};

    void check(const Part& part, const std::vector<int>& faces, const AlongResult& r, const Cutter& cutter, double leave, const std::string& what,
               const std::vector<Vec3>& corners = {}, double aside = 0.0) {
        const Truth t = truth(part, faces, r, cutter, leave, m_random, 1500, corners, aside);
        qInfo("%s", fmt::format("{}: told {:.4f} / {:.4f}, made {:.4f} / {:.4f}, most stays at {:.2f} {:.2f} {:.2f}", what, r.over, r.under, t.over, t.under,
                                t.underAt.x(), t.underAt.y(), t.underAt.z())
                        .c_str());
        QVERIFY2(t.over < 1.05 * r.over + 0.002 && t.over > 0.95 * r.over - 0.002, what.c_str());
        QVERIFY2(t.under < 1.05 * r.under + 0.004 && t.under > 0.95 * r.under - 0.002, what.c_str());
    }

private slots:
    // Twisted prisms with outer corners, every cutter, depths, thicknesses and what is left standing.
    void twistedPrisms() {
        for (const auto& [n, turn] : {std::pair{4, 0.12}, std::pair{5, 0.3}}) {
            const auto part = test::openPart(test::ruledPrism(dir(), polygon(n, 34, 0.2), turned(polygon(n, 34, 0.2), turn, 0.85), 26));
            const auto walls = sides(*part);
            QCOMPARE(walls.size(), static_cast<std::size_t>(n));
            for (const CutterShape shape : {CutterShape::Flat, CutterShape::Ball, CutterShape::Tapered, CutterShape::Barrel})
                for (const int way : {0, 1, 2}) {
                    const Assembly tool = shaped(shape, 10, way == 1 ? 14 : 40);
                    SwarfSpec spec;
                    spec.tolerance = 5.0;
                    spec.past = flankStart(tool.cutter) + 0.6;
                    if (way == 1) spec.stepdown = 9.0;
                    if (way == 2) spec.thickness = 1.2, spec.stepover = 0.4;
                    const double leave = way == 2 ? 0.2 : 0.0;
                    const AlongResult r = made({part.get(), walls, {}, {}, {}}, spec, tool, leave);
                    check(*part, walls, r, tool.cutter, leave, fmt::format("{} sides turned {:.2f} {} way {}", n, turn, cutterShapeName(shape), way));
                }
        }
    }

    // An L: one inner corner. What stays there is told by itself.
    void innerCorner() {
        const std::vector<Vec2> l{{-30, -30}, {30, -30}, {30, 0}, {0, 0}, {0, 30}, {-30, 30}};
        for (const double turn : {0.0, 0.1}) {
            const auto part = test::openPart(test::ruledPrism(dir(), l, turned(l, turn, 1.0), 22));
            const auto walls = sides(*part);
            QCOMPARE(walls.size(), std::size_t(6));
            const Assembly tool = shaped(CutterShape::Flat, 8, 40);
            SwarfSpec spec;
            spec.past = 0.5;
            spec.tolerance = 5.0;
            const AlongResult r = made({part.get(), walls, {}, {}, {}}, spec, tool);
            check(*part, walls, r, tool.cutter, 0.0, fmt::format("L turned {:.2f}", turn), {Vec3(0, 0, 0)}, turn > 0.0 ? 6.5 : 4.01);
        }
    }

    // Short flutes with depths, on walls that are exact: nothing stays.
    void shortFlutes() {
        const auto cone = test::openPart(test::coneStep(dir(), 25, 16, 40));
        std::vector<int> wall;
        for (std::size_t f = 0; f < cone->faces().size(); ++f)
            if (cone->faces()[f].kind == SurfaceKind::Cone) wall = {static_cast<int>(f)};
        for (const CutterShape shape :
             {CutterShape::Flat, CutterShape::CornerRadius, CutterShape::Ball, CutterShape::Tapered, CutterShape::TaperedBall, CutterShape::Barrel}) {
            const Assembly tool = shaped(shape, 10, 13);
            SwarfSpec spec;
            spec.past = flankStart(tool.cutter) + 0.5;
            spec.stepdown = shape == CutterShape::Ball ? 7.0 : 10.0;
            const AlongResult r = made({cone.get(), wall, {}, {}, {}}, spec, tool);
            check(*cone, wall, r, tool.cutter, 0.0, fmt::format("cone in depths, {}", cutterShapeName(shape)));
            if (shape != CutterShape::Barrel)
                QVERIFY2(r.over < 5e-3 && r.under < (shape == CutterShape::Flat || shape == CutterShape::Tapered ? 1e-3 : 0.8), cutterShapeName(shape));
        }
    }

    // Four trapezoids: planes whose grid lies askew to their border are walls like others.
    void planesAskew() {
        const auto part = test::openPart(test::wedge(dir()));
        std::vector<int> walls;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (std::abs(part->faces()[f].normal.y()) < 0.9) walls.push_back(static_cast<int>(f));
        QCOMPARE(walls.size(), std::size_t(4));
        QCOMPARE(wallFaces(*part, walls[0]).size(), std::size_t(4));
        for (const CutterShape shape : {CutterShape::Flat, CutterShape::Ball, CutterShape::Tapered}) {
            const Assembly tool = shaped(shape, 8, 60);
            SwarfSpec spec;
            spec.past = flankStart(tool.cutter) + 0.5;
            const AlongResult r = made({part.get(), walls, {}, {}, {}}, spec, tool);
            QVERIFY2(r.over < 0.0051 && r.under < 1e-4, qPrintable(QString("%1 %2").arg(r.over).arg(r.under))); // round corners in chords
            QVERIFY(r.passes.size() == 1 && r.passes[0].closed);
        }
    }

    // A hyperboloid by both of its rims: its straight lines are found, though the rims' ends stand one over the other.
    void hyperboloidByItsRims() {
        const double waist = 20, slope = 22, half = 15;
        const auto part = test::openPart(test::hyperboloid(dir(), waist, slope, half));
        const double rim = waist * std::sqrt(1.0 + half * half / (slope * slope));
        const auto circle = [&](double z, double from) {
            return circleArc(Vec3(0, 0, z), Vec3::UnitZ(), Vec3(rim * std::cos(from), rim * std::sin(from), z), 2.0 * kPi);
        };
        const SwarfInput in{part.get(), {}, circle(-half, 0.3), circle(half, 1.1), {}};
        const auto wall = wallOfRails(in.lower, in.upper, {}, 0.005, 1.0, 4.0, part.get());
        QVERIFY(wall.has_value());
        const double known = 2.0 * std::atan(half / slope); // of the lower end against the upper, about z
        for (std::size_t i = 0; i < wall->rulings.size(); i += 7) {
            const Ruling& r = wall->rulings[i];
            const double angle = std::abs(std::atan2(r.low.x() * r.high.y() - r.low.y() * r.high.x(), r.low.x() * r.high.x() + r.low.y() * r.high.y()));
            QVERIFY2(near(angle, known, 2e-3), qPrintable(QString("%1, known %2").arg(angle).arg(known)));
        }
        const Assembly tool = shaped(CutterShape::Flat, 8, 60);
        SwarfSpec spec;
        spec.fromRails = true;
        spec.tolerance = 5.0;
        spec.past = 0.5;
        const AlongResult r = made(in, spec, tool);
        std::vector<int> face;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].bounds.low.z() < -half + 1 && part->faces()[f].bounds.high.z() > half - 1) face = {static_cast<int>(f)};
        check(*part, face, r, tool.cutter, 0.0, "hyperboloid by its rims");
        // Drawn one over the other, across the seam: the wall bends away from its lines, and all of that is told.
        spec.sync = {{0.2, 0.95}, {0.5, 0.25}, {0.9, 0.65}};
        const AlongResult straight = made(in, spec, tool);
        check(*part, face, straight, tool.cutter, 0.0, "hyperboloid, lines drawn otherwise");
        spec.twist = false; // laid on both ends, it would cut as deep as the lines lie in the part
        const double deep = waist - rim * std::cos(0.25 * kPi);
        QVERIFY(made(in, spec, tool).over > 0.95 * deep);
    }

    // Rails are their exact curves: along a round prism the axis does not tremble.
    void railsAreExact() {
        const auto part = test::openPart(test::cylinderStep(dir(), 18, 25));
        std::vector<Curve> rims;
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if (part->edges()[e].kind == CurveKind::Circle) rims.push_back(part->edgeCurve(static_cast<int>(e)).value());
        QCOMPARE(rims.size(), std::size_t(2));
        if (rims[0].start().z() > rims[1].start().z()) std::swap(rims[0], rims[1]);
        SwarfSpec spec;
        spec.fromRails = true;
        const Assembly tool = shaped(CutterShape::Flat, 8, 40);
        const AlongResult r = made({part.get(), {}, rims[0], rims[1], {}}, spec, tool);
        QVERIFY2(r.over < 0.005 && r.under < 1e-5, qPrintable(QString("%1 %2").arg(r.over).arg(r.under)));
        for (const Vec3& a : r.passes.at(0).path.axis) QVERIFY(angleBetween(a, Vec3::UnitZ()) < 1e-5);
        // Round a box: rolled around its corners, exact between them.
        const auto box = test::openPart(test::boxStep(dir(), 40, 30, 20));
        const auto ring = [](double z) { return straightLines({Vec3(0, 0, z), Vec3(40, 0, z), Vec3(40, 30, z), Vec3(0, 30, z)}, true); };
        const AlongResult b = made({box.get(), {}, ring(0), ring(20), {}}, spec, tool);
        QVERIFY2(b.over < 0.0051 && b.under < 1e-5, qPrintable(QString("%1 %2").arg(b.over).arg(b.under)));
        double length = 0.0;
        for (std::size_t i = 1; i < b.passes.at(0).path.size(); ++i) length += (b.passes[0].path.tip[i] - b.passes[0].path.tip[i - 1]).norm();
        QVERIFY2(near(length, 140 + 8 * kPi, 0.05), qPrintable(QString::number(length)));
    }

    // A wall that bends between its rails: what stays in its hollow, or goes from its bulge, is told.
    void bentBetweenRails() {
        const auto part = test::openPart(test::hyperboloid(dir(), 20, 30, 12));
        const double rim = 20 * std::sqrt(1.0 + 144.0 / 900.0);
        // A stretch of both rims, one over the other, by a line drawn: the hollow of 1.5 mm stays.
        const auto arc = [&](double z) { return circleArc(Vec3(0, 0, z), Vec3::UnitZ(), Vec3(rim, 0, z), 1.4); };
        SwarfSpec spec;
        spec.fromRails = true;
        spec.tolerance = 0.02;
        spec.sync = {{0.0, 0.0}, {0.25, 0.25}, {0.5, 0.5}, {0.75, 0.75}, {1.0, 1.0}};
        const Assembly tool = shaped(CutterShape::Flat, 8, 60);
        const AlongResult r = made({part.get(), {}, arc(-12), arc(12), {}}, spec, tool);
        QVERIFY2(r.under > 0.5 || r.over > 0.5, qPrintable(QString("%1 %2").arg(r.over).arg(r.under)));
        QVERIFY(std::any_of(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "wall-not-straight"; }));
    }

    // A round that is tighter than the cutter: the Stop says so, with both radii.
    void tooLargeForARound() {
        const auto part = test::openPart(test::filletedPocket(dir()));
        int wall = -1;
        for (std::size_t f = 0; f < part->faces().size(); ++f)
            if (part->faces()[f].kind == SurfaceKind::Plane && std::abs(part->faces()[f].normal.z()) < 0.1 && part->faces()[f].bounds.low.z() > 1.0)
                wall = static_cast<int>(f);
        QVERIFY(wall >= 0);
        const auto walls = wallFaces(*part, wall);
        double tightest = 1e9;
        for (const int f : walls)
            if (part->faces()[static_cast<std::size_t>(f)].kind == SurfaceKind::Cylinder)
                tightest = std::min(tightest, part->faces()[static_cast<std::size_t>(f)].radius);
        QVERIFY(tightest < 1e8);
        const AlongResult r = made({part.get(), walls, {}, {}, {}}, {}, shaped(CutterShape::Flat, 2.0 * tightest + 2.0, 40));
        QVERIFY(r.over > 0.1);
        const auto it = std::find_if(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "wall-over"; });
        QVERIFY(it != r.findings.end() && it->rank == Rank::Stop && it->reason.find("hollow") != std::string::npos);
    }
};

GYRE_TEST(TestSwarfMade)

} // namespace test_swarf_made
#include "test_swarf_made.moc"
