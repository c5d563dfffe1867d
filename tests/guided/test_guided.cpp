// Along curves: what follows, on which side, how deep; closed ones, parts of them; down the middle of a channel.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "guided/CurveSpec.h"
#include "guided/Guided.h"
#include "kinds/AlongWork.h"
#include "target/TargetSpec.h"

namespace test_guided {

using namespace gyre;
using test::near;

class TestGuided : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_box, m_round;

    static AlongResult made(const GuideInput& in, const CurveSpec& spec, const Assembly& tool, const AxisSpec& axis = {}, double leave = 0.0) {
        const auto rows = guideRows(in, spec, {0.002, 1.0});
        if (!rows) qFatal("%s", rows.error().text().c_str());
        const auto axes = setAxes(*rows, axis, tool.cutter, std::nullopt);
        if (!axes) qFatal("%s", axes.error().text().c_str());
        auto r = guidedPasses(*rows, *axes, spec, tool, leave, 0.002);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    /// A straight line over the box's top, and a circle around the round's.
    GuideInput line() const { return {m_box.get(), {straightLines({Vec3(5, 15, 20), Vec3(35, 15, 20)})}, {}, {}}; }
    GuideInput ring() const { return {m_round.get(), {circleArc(Vec3(0, 0, 25), Vec3::UnitZ(), Vec3(10, 0, 25), 2 * kPi)}, {}, {}}; }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_box = test::openPart(test::boxStep(dir, 40, 30, 20));
        m_round = test::openPart(test::cylinderStep(dir, 18, 25));
    }

    void whatFollows() {
        const Assembly ball = test::ballTool(6, 40);
        CurveSpec spec;
        AxisSpec lean;
        lean.tiltDegrees = 30;
        const double s = std::sin(radians(30)), c = std::cos(radians(30));
        // The feed is X, the normal Z, left is Y: tilted to the left.
        AlongResult r = made(line(), spec, ball, lean);
        QVERIFY((r.passes[0].path.axis[3] - Vec3(0, s, c)).norm() < 1e-9);
        for (const Vec3& t : r.passes[0].path.tip) QVERIFY(near(t.y(), 15, 1e-9) && near(t.z(), 20, 1e-9));
        spec.by = CurveBy::BallCentre;
        r = made(line(), spec, ball, lean);
        QVERIFY((r.passes[0].path.tip[3] + 3.0 * r.passes[0].path.axis[3] - Vec3(r.passes[0].path.tip[3].x(), 15, 20)).norm() < 1e-9);
        spec.by = CurveBy::Side;
        for (const CurveSide side : {CurveSide::Left, CurveSide::Right}) {
            spec.side = side;
            spec.offset = 0.5;
            r = made(line(), spec, ball, lean);
            const double sign = side == CurveSide::Left ? 1.0 : -1.0;
            const Vec3 left(0, c, -s); // square to axis and feed
            QVERIFY((r.passes[0].path.tip[3] - (Vec3(r.passes[0].path.tip[3].x(), 15, 20) + sign * 3.5 * left)).norm() < 1e-9);
        }
        spec.by = CurveBy::Tip;
        spec.side = CurveSide::Left;
        spec.offset = 2.0;
        spec.axial = -1.0;
        r = made(line(), spec, test::flatTool(6, 20));
        QVERIFY((r.passes[0].path.tip.front() - Vec3(5, 17, 19)).norm() < 1e-9);
    }

    // Depths go along the normal, the same cut each time; on a slope too.
    // Beside a curve with corners: rolled round outer ones, short of inner ones, and nowhere nearer to the curve than the cutter's radius.
    // Against the curve itself by brute force, and where the way is known by its length.
    void besideCorners() {
        const Assembly tool = test::flatTool(6, 20);
        CurveSpec spec;
        spec.by = CurveBy::Side;
        const auto nearest = [](const AlongResult& r, const Curve& c) {
            double least = 1e9;
            const Polyline line = c.polyline(1e-4);
            for (const Pass& p : r.passes)
                for (std::size_t i = 1; i < p.path.size(); ++i)
                    for (int k = 0; k <= 10; ++k) {
                        const Vec3 q = p.path.tip[i - 1] + (p.path.tip[i] - p.path.tip[i - 1]) * (k / 10.0);
                        for (std::size_t j = 1; j < line.size(); ++j) least = std::min(least, distanceToSegment(q, line[j - 1], line[j]));
                    }
            return least;
        };
        // A square of 16 in the middle of the top, run counterclockwise: its right is outside, its left inside.
        const Curve square = straightLines({Vec3(12, 7, 20), Vec3(28, 7, 20), Vec3(28, 23, 20), Vec3(12, 23, 20)}, true);
        const GuideInput in{m_box.get(), {square}, {}, {}};
        spec.side = CurveSide::Right;
        const AlongResult outside = made(in, spec, tool);
        QVERIFY(outside.passes.size() == 1 && outside.passes[0].closed && outside.findings.empty());
        QVERIFY2(near(outside.length, 64 + 6 * kPi, 0.05), qPrintable(QString::number(outside.length)));
        QVERIFY2(nearest(outside, square) > 3.0 - 0.004, qPrintable(QString::number(nearest(outside, square))));
        spec.side = CurveSide::Left;
        const AlongResult inside = made(in, spec, tool);
        QVERIFY(inside.passes.size() == 1 && inside.passes[0].closed);
        QVERIFY2(near(inside.length, 40, 0.05), qPrintable(QString::number(inside.length)));
        QVERIFY2(nearest(inside, square) > 3.0 - 0.004, qPrintable(QString::number(nearest(inside, square))));
        QVERIFY(inside.findings.size() == 1 && inside.findings[0].code == "curve-corners" && inside.findings[0].rank == Rank::Look &&
                near(inside.findings[0].amount, 24, 0.05));
        // No room at all: a Stop.
        const Curve slot = straightLines({Vec3(12, 10, 20), Vec3(28, 10, 20), Vec3(28, 14, 20), Vec3(12, 14, 20)}, true);
        const AlongResult none = made({m_box.get(), {slot}, {}, {}}, spec, tool);
        QVERIFY(none.passes.empty() && none.findings.size() == 1 && none.findings[0].rank == Rank::Stop);
        // Random ragged curves, open and closed, both sides.
        test::Random random(20261127);
        for (int n = 0; n < 60; ++n) {
            Polyline points;
            const int corners = 4 + random.integer(0, 5);
            const bool closed = n % 2 == 0;
            for (int k = 0; k < corners; ++k) {
                const double a = 2 * kPi * k / corners, r = random.number(4.0, 13.0);
                points.emplace_back(20 + r * std::cos(a), 15 + r * std::sin(a), 20);
            }
            const Curve ragged = straightLines(points, closed);
            spec.side = n % 3 == 0 ? CurveSide::Left : CurveSide::Right;
            const AlongResult r = made({m_box.get(), {ragged}, {}, {}}, spec, tool);
            if (!r.passes.empty()) QVERIFY2(nearest(r, ragged) > 3.0 - 0.006, qPrintable(QString("%1: %2").arg(n).arg(nearest(r, ragged))));
        }
    }

    void depthsAlongTheNormal() {
        CurveSpec spec;
        spec.depth = 1.0;
        spec.stepdown = 0.4;
        const AlongResult r = made(line(), spec, test::ballTool(4, 40));
        QCOMPARE(r.passes.size(), std::size_t(3));
        for (std::size_t k = 0; k < 3; ++k) QVERIFY(near(r.passes[k].path.tip[2].z(), 20 - (k + 1) / 3.0, 1e-9));
        QVERIFY(r.passes[1].path.tip.front().x() > r.passes[1].path.tip.back().x()); // back again
        spec.backAndForth = false;
        QVERIFY(made(line(), spec, test::ballTool(4, 40)).passes[1].path.tip.front().x() < 6);
        GuideInput slope{m_round.get(), {circleArc(Vec3(0, 0, 10), Vec3::UnitZ(), Vec3(18, 0, 10), kPi)}, {}, {}};
        const AlongResult round = made(slope, spec, test::ballTool(4, 40));
        for (std::size_t k = 0; k < 3; ++k)
            for (const Vec3& t : round.passes[k].path.tip) QVERIFY(near(std::hypot(t.x(), t.y()), 18 - (k + 1) / 3.0, 0.003));
    }

    void closedOpenedAndTurned() {
        CurveSpec spec;
        AlongResult r = made(ring(), spec, test::ballTool(4, 40));
        QVERIFY(r.passes[0].closed && near(r.length, 2 * kPi * 10, 0.05));
        QVERIFY((r.passes[0].path.tip.front() - r.passes[0].path.tip.back()).norm() < 1e-9);
        spec.entry = 0.25;
        r = made(ring(), spec, test::ballTool(4, 40));
        QVERIFY((r.passes[0].path.tip.front() - Vec3(0, 10, 25)).norm() < 1e-3);
        spec.overlap = 3.0;
        r = made(ring(), spec, test::ballTool(4, 40));
        QVERIFY(!r.passes[0].closed && near(r.length, 2 * kPi * 10 + 3.0, 0.05));
        spec = CurveSpec();
        spec.from = 0.25;
        spec.to = 0.75;
        r = made(ring(), spec, test::ballTool(4, 40));
        QVERIFY(!r.passes[0].closed && near(r.length, kPi * 10, 0.05));
        QVERIFY((r.passes[0].path.tip.front() - Vec3(0, 10, 25)).norm() < 1e-3);
        spec.reversed = true;
        r = made(ring(), spec, test::ballTool(4, 40));
        QVERIFY((r.passes[0].path.tip.front() - Vec3(0, -10, 25)).norm() < 1e-3);
    }

    // The channel of the horn guide: one row in its middle, the ball on its floor, depth after depth.
    void downAChannel() {
        const auto horn = test::openPart(test::demoFile("horn-guide.step"));
        Workplace place;
        place.part = horn;
        const Machine machine = test::demoMachine("snipe-5n.machine.json");
        place.machine = std::make_shared<const Machine>(machine);
        Recipe r;
        r.kind = OperationKind::Curve;
        r.curve->by = CurveBy::Channel;
        for (int f = 0; f < horn->bodyFaces(); ++f)
            if (horn->faces()[static_cast<std::size_t>(f)].area > 2500 && horn->faces()[static_cast<std::size_t>(f)].normal.z() > 0.9 &&
                horn->faces()[static_cast<std::size_t>(f)].kind == SurfaceKind::FreeForm)
                r.target->faces.push_back(horn->faceRef(f));
        QCOMPARE(r.target->faces.size(), std::size_t(1));
        r.curve->depth = 4.0;
        r.curve->stepdown = 2.0;
        const Assembly ball = test::ballTool(8, 60);
        Progress progress;
        const auto work = curveWork(place, r, ball, progress);
        QVERIFY2(work.has_value(), work ? "" : work.error().text().c_str());
        const AlongResult& made = *work->result;
        QCOMPARE(made.passes.size(), std::size_t(2));
        const int face = r.target->faces[0].index;
        for (std::size_t k = 0; k < 2; ++k)
            for (std::size_t i = 3; i + 3 < made.passes[k].path.size(); i += 5) {
                const Vec3 centre = made.passes[k].path.tip[i] + 4.0 * made.passes[k].path.axis[i];
                QVERIFY(near(distanceTo(*horn, face, centre), k == 0 ? 6.0 : 4.0, 0.02));
            }
        // It runs from end to end of the part.
        double low = 1e9, high = -1e9;
        for (const Vec3& t : made.passes[1].path.tip) {
            low = std::min(low, t.x());
            high = std::max(high, t.x());
        }
        QVERIFY(low < -66 && high > 66);
    }
    static double distanceTo(const Part& part, int face, const Vec3& p) { return (part.project(face, p).point - p).norm(); }

    void whatCannotBe() {
        QVERIFY(guideRows({m_box.get(), {}, {}, {}}, {}, {0.01, 1.0}).error().what.find("no curve") != std::string::npos);
        CurveSpec spec;
        spec.from = 0.6;
        spec.to = 0.4;
        QVERIFY(!guideRows(line(), spec, {0.01, 1.0}));
        spec = CurveSpec();
        spec.by = CurveBy::BallCentre;
        const auto rows = guideRows(line(), spec, {0.01, 1.0}).value();
        const auto axes = setAxes(rows, {}, test::flatTool(6, 20).cutter, std::nullopt).value();
        QVERIFY(guidedPasses(rows, axes, spec, test::flatTool(6, 20), 0.0, 0.002).error().what.find("no ball") != std::string::npos);
        spec.by = CurveBy::Side;
        QVERIFY(!guidedPasses(rows, axes, spec, test::flatTool(6, 20), 0.0, 0.002));
        spec.by = CurveBy::Tip;
        spec.depth = 1e4;
        spec.stepdown = 0.01;
        QVERIFY(!guidedPasses(rows, axes, spec, test::flatTool(6, 20), 0.0, 0.002));
    }
};

GYRE_TEST(TestGuided)

} // namespace test_guided
#include "test_guided.moc"
