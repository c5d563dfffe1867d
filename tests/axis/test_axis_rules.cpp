// Axis rules beyond lead and tilt: by points, curves, lines and faces; blends, keys, locks.
#include "Near.h"
#include "Support.h"
#include "axis/Axis.h"
#include "operation/FollowWork.h"

using namespace gyre;
using test::near;

class TestAxisRules : public QObject {
    Q_OBJECT

    /// Rows along X over the plane z = 0, ten apart.
    static std::vector<Row> rows(int n, bool backAndForth = false) {
        std::vector<Row> out;
        for (int r = 0; r < n; ++r) {
            Row row;
            for (int i = 0; i <= 100; ++i) row.points.emplace_back(i, 10.0 * r, 0.0);
            row.returning = backAndForth && r % 2 == 1;
            if (row.returning) std::reverse(row.points.begin(), row.points.end());
            row.normals.assign(row.points.size(), Vec3::UnitZ());
            row.faces.assign(row.points.size(), 0);
            row.index = r;
            row.level = n > 1 ? static_cast<double>(r) / (n - 1) : 0.0;
            out.push_back(std::move(row));
        }
        return out;
    }
    static Cutter ball(double d = 6) { return test::ballTool(d, 40).cutter; }
    static AxisResult run(const std::vector<Row>& r, const AxisSpec& spec, const Cutter& cutter, const AxisHelp& help = {}) {
        auto a = setAxes(r, spec, cutter, help);
        if (!a) qFatal("%s", a.error().text().c_str());
        return std::move(*a);
    }
    static Vec3 tip(const Row& r, std::size_t i, const Vec3& axis, const Cutter& c) { return tipFromContact(c, r.points[i], r.normals[i], axis).tip; }

private slots:
    // Every axis' line meets the point, whatever the cutter; away from it the spindle is on the other side.
    void byAPoint() {
        test::Random random(91);
        Assembly torus = test::flatTool(10, 20);
        torus.cutter = asShape(torus.cutter, CutterShape::CornerRadius);
        for (const Cutter& c : {ball(), torus.cutter})
            for (int k = 0; k < 30; ++k) {
                AxisSpec spec;
                spec.rule = AxisRule::Point;
                spec.point = Vec3(random.number(-50, 150), random.number(-80, -20), random.number(40, 120));
                const auto r = rows(2);
                const AxisResult up = run(r, spec, c);
                for (std::size_t i = 0; i < r[1].points.size(); i += 9) {
                    const Vec3 t = tip(r[1], i, up.axes[1][i], c);
                    QVERIFY(rejected(spec.point - t, up.axes[1][i]).norm() < 1e-7 && (spec.point - t).dot(up.axes[1][i]) > 0.0);
                }
                spec.away = true;
                spec.point.z() = -spec.point.z();
                const AxisResult down = run(r, spec, c);
                const Vec3 t = tip(r[0], 5, down.axes[0][5], c);
                QVERIFY(rejected(spec.point - t, down.axes[0][5]).norm() < 1e-7 && (spec.point - t).dot(down.axes[0][5]) < 0.0);
            }
        // On the point itself there is no direction: a Stop with its place.
        AxisSpec spec;
        spec.rule = AxisRule::Point;
        spec.point = Vec3(50, 0, 3);
        const AxisResult none = run(rows(1), spec, ball());
        QVERIFY(!none.findings.empty() && none.findings.back().rank == Rank::Stop && none.findings.back().code == "axis-none");
    }

    void byACurve() {
        AxisSpec spec;
        spec.rule = AxisRule::Curve;
        AxisHelp help;
        help.first.curves = {straightLines({Vec3(100, -20, 60), Vec3(0, 20, 80)})}; // runs against the rows
        for (const bool inStep : {false, true}) {
            spec.inStep = inStep;
            const auto r = rows(3, true);
            const AxisResult a = run(r, spec, ball(), help);
            for (std::size_t k = 0; k < r.size(); ++k)
                for (std::size_t i = 0; i < r[k].points.size(); i += 7) {
                    const Curve& c = help.first.curves[0];
                    const Vec3 through = inStep ? c.at(c.atLength(c.length() * (1.0 - r[k].points[i].x() / 100.0))) : c.closest(r[k].points[i]).point;
                    QVERIFY(rejected(through - tip(r[k], i, a.axes[k][i], ball()), a.axes[k][i]).norm() < 1e-6);
                }
        }
        QVERIFY(!setAxes(rows(1), spec, ball(), {}));
    }

    // Lines are met exactly where they stand, and the axis turns evenly from one to the next.
    void alongLines() {
        AxisSpec spec;
        spec.rule = AxisRule::Lines;
        AxisHelp help;
        const Vec3 first = Vec3(0.3, 0, 1).normalized(), second = Vec3(0, 0.5, 1).normalized();
        help.first.curves = {straightLines({Vec3(20, 0, 0), Vec3(20, 0, 0) + 30 * first}), straightLines({Vec3(80, 0, 0) + 30 * second, Vec3(80, 0, 0)})};
        const auto r = rows(1);
        const AxisResult a = run(r, spec, ball(), help);
        QVERIFY((a.axes[0][20] - first).norm() < 1e-9 && (a.axes[0][80] - second).norm() < 1e-9);
        QVERIFY((a.axes[0][0] - first).norm() < 1e-9 && (a.axes[0][100] - second).norm() < 1e-9);
        QVERIFY((a.axes[0][50] - slerp(first, second, 0.5)).norm() < 1e-9);
        for (std::size_t i = 1; i < 100; ++i) QVERIFY(angleBetween(a.axes[0][i + 1] - a.axes[0][i] + 2 * a.axes[0][i], 2 * a.axes[0][i]) < 0.03);
    }

    void squareToFaces() {
        QTemporaryDir dir;
        const auto cone = test::openPart(test::coneStep(dir.path().toStdString(), 60, 20, 40));
        AxisSpec spec;
        spec.rule = AxisRule::Normals;
        AxisHelp help;
        help.first.part = cone.get();
        for (std::size_t f = 0; f < cone->faces().size(); ++f)
            if (cone->faces()[f].kind == SurfaceKind::Cone) help.first.faces = {static_cast<int>(f)};
        auto r = rows(1);
        for (Vec3& p : r[0].points) p += Vec3(10, 5, 20);
        const AxisResult a = run(r, spec, ball(), help);
        for (std::size_t i = 0; i < r[0].points.size(); i += 10) {
            const Vec3 out = Vec3(r[0].points[i].x(), r[0].points[i].y(), 0).normalized();
            QVERIFY((a.axes[0][i] - (out + Vec3::UnitZ()).normalized()).norm() < 1e-6);
        }
    }

    void blendedFromRowToRow() {
        AxisSpec spec;
        spec.tiltDegrees = 0;
        spec.blended = true;
        spec.last.rule = AxisRule::Fixed;
        spec.last.direction = Vec3(0, 1, 1);
        const auto r = rows(5, true);
        const AxisResult a = run(r, spec, ball());
        for (std::size_t k = 0; k < 5; ++k) QVERIFY(near(angleBetween(a.axes[k][10], Vec3::UnitZ()), radians(45.0 * static_cast<double>(k) / 4.0), 1e-9));
        // Cut from the last rail the first row has the last aim's place still.
        auto turned = r;
        std::reverse(turned.begin(), turned.end());
        const AxisResult b = run(turned, spec, ball());
        QVERIFY(near(angleBetween(b.axes[0][10], Vec3::UnitZ()), 0.0, 1e-9));
    }

    // Keys are met exactly, change smoothly between, hold beyond, and mark lines straight across the rows.
    void keysAlongAndAcross() {
        AxisSpec spec;
        spec.leadDegrees = 5;
        spec.keys = {{0.2, 0.4, -1, 0, 10}, {0.6, 0.6, -1, 20, 0}};
        const auto r = rows(3, true);
        const AxisResult a = run(r, spec, ball());
        const auto at = [&](std::size_t row, double fraction) {
            const std::size_t i = static_cast<std::size_t>(std::lround(100 * (r[row].returning ? 1.0 - fraction : fraction)));
            return leadTiltOf(a.axes[row][i], r[row].normals[i], a.feeds[row][i]);
        };
        QVERIFY(near(degrees(at(0, 0.2).tilt), 10, 1e-9) && near(degrees(at(0, 0.2).lead), 5, 1e-9) && near(degrees(at(0, 0.6).lead), 25, 1e-9));
        QVERIFY(near(degrees(at(2, 0.4).tilt), 10, 1e-9) && near(degrees(at(2, 0.1).tilt), 10, 1e-9) && near(degrees(at(0, 0.9).lead), 25, 1e-9));
        // The row that comes back leans to the same side of the part.
        QVERIFY(near(degrees(at(1, 0.3).tilt), -10, 1e-9));
        double last = degrees(at(0, 0.2).lead);
        for (double f = 0.21; f < 0.6; f += 0.01) {
            const double now = degrees(at(0, f).lead);
            QVERIFY(now >= last - 1e-9 && now - last < 0.8);
            last = now;
        }
        // A key for one row leaves the others alone.
        spec.keys = {{0.5, 0.5, 1, 0, 30}};
        const AxisResult one = run(r, spec, ball());
        QVERIFY(near(degrees(leadTiltOf(one.axes[0][50], r[0].normals[50], one.feeds[0][50]).tilt), 0, 1e-9));
        QVERIFY(near(degrees(leadTiltOf(one.axes[1][50], r[1].normals[50], one.feeds[1][50]).tilt), -30, 1e-9));
    }

    // With one rotary held the machine can stand along every axis that comes out, and none nearer is there.
    void lockedJoint() {
        const Machine heron = test::demoMachine("heron-5t.machine.json");
        Workplace place;
        place.machine = std::make_shared<const Machine>(heron);
        Recipe recipe;
        std::string name;
        for (const auto& j : heron.joints)
            if (j.kind == JointKind::Rotary && name.empty()) name = j.name;
        recipe.axis.locked = name;
        recipe.axis.lockedDegrees = 30;
        recipe.axis.leadDegrees = 20;
        const Assembly tool = test::ballTool(6, 40);
        const auto help = axisHelp(place, recipe, tool);
        QVERIFY(help && help->locked);
        test::Random random(92);
        const Kinematics k(heron, Frame::Identity(), tool.gaugeLength());
        for (int i = 0; i < 50; ++i) {
            const Vec3 wanted = random.direction(), got = help->locked(wanted);
            const auto q = k.rotariesFor(got, 1e-7);
            QVERIFY(!q.solutions.empty());
            std::size_t place30 = 0;
            for (std::size_t r = 0; r < k.rotaries().size(); ++r)
                if (heron.joints[static_cast<std::size_t>(k.rotaries()[r])].name == name) place30 = r;
            double off = 1e9;
            for (const auto& s : q.solutions) {
                const bool free = place30 == 0 ? s.firstFree : s.secondFree;
                off = std::min(off, free ? 0.0 : std::abs(std::remainder((place30 == 0 ? s.first : s.second) - radians(30), 2 * kPi)));
            }
            QVERIFY2(off < 1e-5, qPrintable(QString::number(off)));
            for (int s = 0; s < 20; ++s) QVERIFY(angleBetween(help->locked(random.direction()), wanted) >= angleBetween(got, wanted) - 1e-6);
        }
        const AxisResult a = run(rows(1), recipe.axis, tool.cutter, *help);
        QVERIFY(!a.findings.empty() && a.findings[0].code == "axis-locked");
        recipe.axis.locked = "Q";
        const auto none = axisHelp(place, recipe, tool);
        QVERIFY(none && !setAxes(rows(1), recipe.axis, tool.cutter, *none));
    }
};

QTEST_MAIN(TestAxisRules)
#include "test_axis_rules.moc"
