// The cutter on the part itself, led by faces over or under it: closed forms on a ball, a cylinder and an edge, brute force on ragged meshes.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "along/Along.h"
#include "tool/Contact.h"
#include "touch/Touch.h"
#include "touch/TouchSpec.h"

namespace test_touch {

using namespace gyre;
using namespace gyre::test;

namespace {

Cutter cutterOf(CutterShape shape, double diameter, double corner = 0.0) {
    Cutter c;
    c.shape = shape;
    c.diameter = diameter;
    c.cornerRadius = corner;
    c.fluteLength = 40.0;
    return c;
}

/// A straight way over contacts with one normal and one axis.
Pass straight(const Cutter& cutter, const Vec3& from, const Vec3& to, const Vec3& normal, const Vec3& axis, int steps = 20) {
    Pass pass;
    for (int i = 0; i <= steps; ++i) {
        const Vec3 contact = from + (to - from) * i / steps;
        pass.path.push(tipFromContact(cutter, contact, normal, axis).tip, axis, contact, normal, Motion::Cut, 3, 0.0, 0);
        pass.feedDirection.push_back((to - from).normalized());
    }
    pass.row = pass.origin.row = 3;
    return pass;
}

TouchResult onto(const Part& part, const Cutter& cutter, const std::vector<Pass>& guiding, TouchBy by, double reach, double leave = 0.0, double tolerance = 0.005) {
    Progress progress;
    auto r = touchPart(part, cutter, guiding, {by, reach}, leave, tolerance, progress);
    return r ? *r : TouchResult{};
}

/// Calls with places all along the ways.
void walk(const std::vector<Pass>& passes, double most, const std::function<void(const AxisPose&)>& visit) {
    for (const Pass& p : passes)
        for (std::size_t i = 1; i < p.path.size(); ++i) {
            const Vec3 a = p.path.tip[i - 1], d = p.path.tip[i] - a;
            const int n = std::max(1, static_cast<int>(std::ceil(d.norm() / most)));
            for (int k = 0; k <= n; ++k) visit({a + d * k / n, slerp(p.path.axis[i - 1], p.path.axis[i], static_cast<double>(k) / n)});
        }
}

/// Hills and pits on a grid of uneven triangles, 40 × 40 about the origin, with a skirt below.
TriangleMesh hills(Random& random, double height) {
    constexpr int kCells = 16;
    TriangleMesh mesh;
    for (int j = 0; j <= kCells; ++j)
        for (int i = 0; i <= kCells; ++i) {
            const bool rim = i == 0 || j == 0 || i == kCells || j == kCells;
            const double shake = rim ? 0.0 : 0.8;
            mesh.points.emplace_back(-20 + 40.0 * i / kCells + random.number(-shake, shake), -20 + 40.0 * j / kCells + random.number(-shake, shake),
                                     random.number(0, height));
        }
    const auto at = [](int i, int j) { return static_cast<std::uint32_t>(j * (kCells + 1) + i); };
    for (int j = 0; j < kCells; ++j)
        for (int i = 0; i < kCells; ++i) {
            mesh.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            mesh.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    return mesh;
}

} // namespace

class TestTouch : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // Level rows under, through and over a lying cylinder of 20: the ball's middle runs on one of 20 + r, to the part's own exactness.
    void aBallOverACylinder() {
        const auto part = openPart(cylinderStep(dir(), 20, 60));
        const Cutter ball = cutterOf(CutterShape::Ball, 6);
        for (const double leave : {0.0, 0.4})
            for (const Vec3& axis : {Vec3(1, 0, 0), Vec3(Vec3(1, 0.2, 0.3).normalized())}) {
                const Pass guide = straight(ball, Vec3(19.6, -6, 20), Vec3(19.6, 6, 40), Vec3::UnitX(), axis);
                const TouchResult r = onto(*part, ball, {guide}, TouchBy::AlongAxis, 3.0, leave);
                QCOMPARE(r.passes.size(), std::size_t{1});
                QCOMPARE(r.stretches, std::size_t{0});
                QCOMPARE(r.passes[0].row, 3);
                const Toolpath& p = r.passes[0].path;
                for (std::size_t i = 0; i < p.size(); ++i) {
                    const Vec3 middle = p.tip[i] + 3 * p.axis[i];
                    QVERIFY2(near(middle.head<2>().norm(), 23 + leave, 1e-4), qPrintable(QString::number(middle.head<2>().norm(), 'f', 6)));
                    QVERIFY(near(p.contact[i].head<2>().norm(), 20 + leave, 2e-4));
                    QVERIFY((p.normal[i] - Vec3(middle.x(), middle.y(), 0).normalized()).norm() < 1e-3);
                    // It only moved along its axis.
                    const Vec3 way = guide.path.tip.back() - guide.path.tip.front(), off = p.tip[i] - guide.path.tip.front();
                    QVERIFY(std::abs(off.dot(way.cross(axis).normalized())) < 1e-9);
                }
                double worst = 0.0;
                walk(r.passes, 0.05, [&](const AxisPose& at) { worst = std::max(worst, std::abs((at.tip + 3 * at.axis).head<2>().norm() - 23 - leave)); });
                QVERIFY2(worst < 0.005, qPrintable(QString::number(worst)));
                QVERIFY(p.size() < 80); // and with no more places than that takes
            }
    }
    // Along the normal of a cylinder of 21 onto one of 20: all round, closed, with the axis leaning; and onto sides that are flat.
    void roundACylinderAlongTheNormal() {
        const auto part = openPart(cylinderStep(dir(), 20, 60));
        const Cutter ball = cutterOf(CutterShape::Ball, 8);
        Pass ring;
        ring.closed = true;
        for (int i = 0; i <= 72; ++i) {
            const double a = (i % 72) * 2 * kPi / 72;
            const Vec3 n(std::cos(a), std::sin(a), 0), axis = Vec3(n + Vec3(0, 0, 1)).normalized(), contact = 21 * n + Vec3(0, 0, 30);
            ring.path.push(tipFromContact(ball, contact, n, axis).tip, axis, contact, n, Motion::Cut, 0, 0.0, 0);
            ring.feedDirection.push_back(Vec3(-n.y(), n.x(), 0));
        }
        const TouchResult r = onto(*part, ball, {ring}, TouchBy::AlongNormal, 2.0);
        QCOMPARE(r.passes.size(), std::size_t{1});
        QVERIFY(r.passes[0].closed);
        QVERIFY(near(r.lowest, -1, 0.03) && near(r.highest, -1, 0.03));
        QCOMPARE(r.passes[0].path.tip.front(), r.passes[0].path.tip.back());
        walk(r.passes, 0.2, [&](const AxisPose& at) { QVERIFY(near((at.tip + 4 * at.axis).head<2>().norm(), 24, 0.005)); });
        // Other cutters are refused, and so is less than nothing.
        Progress progress;
        const auto flat = touchPart(*part, cutterOf(CutterShape::Flat, 8), {ring}, {TouchBy::AlongNormal, 2.0}, 0.0, 0.005, progress);
        QVERIFY(!flat && flat.error().text().find("round cutter") != std::string::npos);
        QVERIFY(!touchPart(*part, ball, {ring}, {TouchBy::AlongAxis, 2.0}, -0.1, 0.005, progress));
    }
    // Over the end of a box the ball rolls off its edge, as far as it may; then the row ends. Half of it is not there.
    void rowsEndWhereThePartDoes() {
        const auto part = openPart(boxStep(dir(), 40, 40, 20));
        const Cutter ball = cutterOf(CutterShape::Ball, 6);
        for (const double reach : {0.5, 1.0, 2.0}) {
            // Guided a tenth of a millimetre over its top: it may go down by reach and up by reach.
            const TouchResult r = onto(*part, ball, {straight(ball, Vec3(20, 20, 20.1), Vec3(60, 20, 20.1), Vec3::UnitZ(), Vec3::UnitZ())}, TouchBy::AlongAxis, reach);
            QCOMPARE(r.passes.size(), std::size_t{1});
            const double down = reach - 0.1, ends = 40 + std::sqrt(9 - (3 - down) * (3 - down));
            const Vec3 last = r.passes[0].path.tip.back();
            QVERIFY2(near(last.x(), ends, 0.01) && near(last.z(), 20 - down, 0.02), qPrintable(QString("%1, known %2; %3").arg(last.x()).arg(ends).arg(last.z())));
            QCOMPARE(r.stretches, std::size_t{1});
            QVERIFY(near(r.left, 60 - ends, 0.02));
            QVERIFY(r.leftAt.x() > ends - 0.01);
            QVERIFY(near(r.highest, -0.1, 1e-5) && near(r.lowest, -reach, 0.02));
        }
        // Nothing at all, and the part standing higher than it may go.
        QVERIFY(onto(*part, ball, {straight(ball, Vec3(50, 0, 20), Vec3(50, 40, 20), Vec3::UnitZ(), Vec3::UnitZ())}, TouchBy::AlongAxis, 1.0).passes.empty());
        QVERIFY(onto(*part, ball, {straight(ball, Vec3(5, 5, 18), Vec3(35, 5, 18), Vec3::UnitZ(), Vec3::UnitZ())}, TouchBy::AlongAxis, 1.0).passes.empty());
    }
    // A round whose half lies beside the part: what rests is one way through its first place, and it is closed no more.
    void aBrokenRoundGoesOnThroughItsFirstPlace() {
        const auto part = openPart(boxStep(dir(), 40, 40, 20));
        const Cutter ball = cutterOf(CutterShape::Ball, 6);
        Pass ring;
        ring.closed = true;
        for (int i = 0; i <= 90; ++i) {
            const double a = kPi + (i % 90) * 2 * kPi / 90; // begins over the part
            const Vec3 contact(40 + 10 * std::cos(a), 20 + 10 * std::sin(a), 20);
            ring.path.push(contact, Vec3::UnitZ(), contact, Vec3::UnitZ(), Motion::Cut, 0, 0.0, 0);
            ring.feedDirection.push_back(Vec3(-std::sin(a), std::cos(a), 0));
        }
        const TouchResult r = onto(*part, ball, {ring}, TouchBy::AlongAxis, 0.5);
        QCOMPARE(r.passes.size(), std::size_t{1});
        QVERIFY(!r.passes[0].closed);
        QCOMPARE(r.stretches, std::size_t{1});
        const auto& tips = r.passes[0].path.tip;
        const double ends = 40 + std::sqrt(9 - 2.5 * 2.5); // as far as it rolls off the edge
        QVERIFY(near(tips.front().x(), ends, 0.02) && near(tips.back().x(), ends, 0.02));
        QVERIFY((tips.front() - tips.back()).norm() > 15);
        double most = 0.0, around = 0.0;
        for (std::size_t i = 1; i < tips.size(); ++i) {
            most = std::max(most, (tips[i] - tips[i - 1]).norm());
            around += (tips[i] - tips[i - 1]).head<2>().norm();
        }
        QVERIFY2(most < 1.0, qPrintable(QString::number(most))); // nothing is missing at its first place, and nothing is there twice
        const double turn = kPi + 2 * std::asin((ends - 40) / 10);
        QVERIFY(near(around, 10 * turn, 0.05));
    }
    // Two boxes side by side, one a step higher: up first and then on, down after. In the sharp corner nothing is cut.
    void upAStepFirstAndThenOn() {
        Progress progress;
        TriangleMesh mesh;
        const auto boxOf = [&](const Vec3& low, const Vec3& high) {
            TriangleMesh b;
            for (int i = 0; i < 8; ++i) b.points.emplace_back(i & 1 ? high.x() : low.x(), i & 2 ? high.y() : low.y(), i & 4 ? high.z() : low.z());
            b.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4}, {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}};
            mesh.append(b);
        };
        boxOf(Vec3(0, 0, 0), Vec3(20, 20, 5));
        boxOf(Vec3(20, 0, 0), Vec3(30, 20, 6));
        const auto part = Part::fromMesh(mesh, "step", 0.01);
        QVERIFY(part.has_value());
        const Cutter flat = cutterOf(CutterShape::Flat, 4);
        const TouchResult r = onto(**part, flat, {straight(flat, Vec3(5, 10, 5.5), Vec3(28, 10, 5.5), Vec3::UnitZ(), Vec3::UnitZ())}, TouchBy::AlongAxis, 2.0);
        QCOMPARE(r.passes.size(), std::size_t{1});
        const Toolpath& p = r.passes[0].path;
        bool upright = false;
        for (std::size_t i = 1; i < p.size(); ++i) {
            const Vec3 d = p.tip[i] - p.tip[i - 1];
            upright |= std::abs(d.z()) > 0.9 && d.head<2>().norm() < 1e-9;
            if (d.z() > 0.0) QVERIFY(near(p.tip[i].x(), 18, 0.003));
        }
        QVERIFY(upright);
        walk(r.passes, 0.01, [&](const AxisPose& at) { QVERIFY(at.tip.x() < 18.0 ? at.tip.z() > 5 - 1e-5 : at.tip.z() > 6 - 1e-5); });
        QVERIFY(near(p.tip.front().z(), 5, 1e-5) && near(p.tip.back().z(), 6, 1e-5));
    }
    // Coarse hills, leaning axes, every shape that touches with its end: no point of the surface is entered by more than the tolerance, and everywhere
    // some is as near as that. Judged by the cutter's outline at thousands of points of the triangles.
    void nothingIsEnteredAndNothingStoodOff() {
        Random random(2400);
        constexpr double kTolerance = 0.01;
        const Cutter cutters[] = {cutterOf(CutterShape::Ball, 6), cutterOf(CutterShape::CornerRadius, 8, 1.5), cutterOf(CutterShape::Flat, 5),
                                  cutterOf(CutterShape::Ball, 3)};
        std::size_t looked = 0;
        for (int turn = 0; turn < 8; ++turn) {
            const TriangleMesh mesh = hills(random, turn % 2 ? 1.2 : 0.4);
            const auto part = Part::fromMesh(mesh, "hills", 0.01);
            QVERIFY(part.has_value());
            const Cutter& cutter = cutters[turn % 4];
            const bool alongNormal = turn % 4 == 3;
            const double leave = turn == 4 ? 0.25 : 0.0;
            std::vector<Pass> guides;
            for (int k = 0; k < 6; ++k) {
                const Vec3 axis = Vec3(random.number(-0.3, 0.3), random.number(-0.3, 0.3), 1).normalized(),
                           n = Vec3(random.number(-0.1, 0.1), random.number(-0.1, 0.1), 1).normalized();
                guides.push_back(
                    straight(cutter, Vec3(random.number(-12, 12), random.number(-12, 12), 1), Vec3(random.number(-12, 12), random.number(-12, 12), 1), n, axis));
            }
            const TouchResult r = onto(**part, cutter, guides, alongNormal ? TouchBy::AlongNormal : TouchBy::AlongAxis, 4.0, leave, kTolerance);
            QCOMPARE(r.passes.size(), guides.size());
            // Points of the surface, a tenth of a millimetre apart at the most.
            std::vector<Vec3> points;
            for (const auto& t : mesh.triangles) {
                const Vec3 &a = mesh.points[t[0]], &b = mesh.points[t[1]], &c = mesh.points[t[2]];
                constexpr int kParts = 30;
                for (int i = 0; i <= kParts; ++i)
                    for (int j = 0; i + j <= kParts; ++j) points.push_back(a + (b - a) * i / kParts + (c - a) * j / kParts);
            }
            const CutterSide side(cutter);
            double entered = 0.0, off = 0.0;
            walk(r.passes, 0.7, [&](const AxisPose& at) {
                double least = 1e300;
                for (const Vec3& p : points)
                    if ((p - at.tip).squaredNorm() < 100.0) {
                        const double d = side.off(at, p), over = (p - at.tip).dot(at.axis);
                        // Within a flat end the way out may be the bottom.
                        least = std::min(least, cutter.shape == CutterShape::Flat && d < 0.0 ? std::max(d, -over) : d);
                    }
                entered = std::max(entered, leave - least);
                off = std::max(off, least - leave);
                ++looked;
            });
            QVERIFY2(entered < kTolerance, qPrintable(QString("entered by %1 in turn %2").arg(entered).arg(turn)));
            // Between points of the surface the nearest place is a little nearer than the nearest point.
            QVERIFY2(off < kTolerance + 0.004, qPrintable(QString("stood off by %1 in turn %2").arg(off).arg(turn)));
        }
        QVERIFY(looked > 1000);
    }
    // The same bytes again; a cancelled one says so.
    void itIsTheSameAgain() {
        Random random(2401);
        const auto part = Part::fromMesh(hills(random, 1.0), "hills", 0.01);
        const Cutter ball = cutterOf(CutterShape::Ball, 6);
        std::vector<Pass> guides;
        for (int k = 0; k < 9; ++k) guides.push_back(straight(ball, Vec3(-12, k - 4.0, 1), Vec3(12, k - 4.0, 1), Vec3::UnitZ(), Vec3(0.1, 0.1, 1).normalized()));
        const TouchResult a = onto(**part, ball, guides, TouchBy::AlongAxis, 3.0), b = onto(**part, ball, guides, TouchBy::AlongAxis, 3.0);
        QCOMPARE(a.passes.size(), b.passes.size());
        for (std::size_t i = 0; i < a.passes.size(); ++i) QVERIFY(a.passes[i].path.tip == b.passes[i].path.tip);
        Progress progress;
        progress.cancel();
        const auto none = touchPart(**part, ball, guides, {TouchBy::AlongAxis, 3.0}, 0.0, 0.005, progress);
        QVERIFY(!none && none.error().cancelled);
    }
};

GYRE_TEST(TestTouch)

} // namespace test_touch
#include "test_touch.moc"
