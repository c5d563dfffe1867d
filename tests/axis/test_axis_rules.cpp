// Axis rules beyond lead and tilt: by points, curves, lines and faces; blends, keys, locks.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "axis/Axis.h"
#include "axis/AxisSpec.h"
#include "motion/Motion.h"
#include "operation/Meant.h"
#include "operation/Workplace.h"

namespace test_axis_rules {

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

    // Half way up a wall the nearer end of a line is now one, now the other: the line points one way for all rows, and can be turned over.
    void linesPointOneWayForAllRows() {
        std::vector<Row> wall; // along X up a wall whose normal is −Y
        for (int r = 0; r <= 20; ++r) {
            Row row;
            for (int i = 0; i <= 50; ++i) row.points.emplace_back(2.0 * i, 0.0, 2.0 * r);
            row.normals.assign(row.points.size(), -Vec3::UnitY());
            row.faces.assign(row.points.size(), 0);
            row.index = r;
            row.level = r / 20.0;
            wall.push_back(std::move(row));
        }
        AxisSpec spec;
        spec.rule = AxisRule::Lines;
        AxisHelp help;
        const Vec3 lean = Vec3(0.2, 0, 1).normalized();
        help.first.curves = {straightLines({Vec3(10, 0, 40), Vec3(10, 0, 0)}), straightLines({Vec3(90, 0, 0), Vec3(90, 0, 0) + 40 * lean})};
        const AxisResult a = run(wall, spec, ball(), help);
        for (std::size_t r = 0; r < wall.size(); ++r) {
            QVERIFY((a.axes[r][0] - Vec3::UnitZ()).norm() < 1e-9);
            QVERIFY((a.axes[r][50] - lean).norm() < 1e-9);
        }
        QVERIFY(a.findings.empty());
        // One turned over: they disagree, which is told with its cure; the cure works.
        spec.turned = {1};
        const AxisResult odd = run(wall, spec, ball(), help);
        const auto told = std::find_if(odd.findings.begin(), odd.findings.end(), [](const Finding& f) { return f.code == "axis-lines-disagree"; });
        QVERIFY(told != odd.findings.end() && told->rank == Rank::Look && told->amount > 160 && told->remedies.size() == 1);
        Recipe recipe;
        recipe.axis = spec;
        QCOMPARE(told->remedies[0].key, std::string("axis.turned"));
        QCOMPARE(told->remedies[0].value, std::string("[]"));
        spec.turned = {};
        QVERIFY(run(wall, spec, ball(), help).findings.empty());
        spec.turned = {0, 1};
        QVERIFY((run(wall, spec, ball(), help).axes[7][0] + Vec3::UnitZ()).norm() < 1e-9);
        // Lines that leave the surface point out of it, however they were drawn.
        const auto flat = rows(2);
        for (const bool back : {false, true}) {
            const Vec3 foot(50, 5, 0), head(55, 5, 20);
            const auto ways = lineWays({back ? straightLines({head, foot}) : straightLines({foot, head})}, flat, {});
            QVERIFY((ways[0] - (head - foot).normalized()).norm() < 1e-9);
        }
    }

    // Lead goes ahead of the feed on both ways, of aim and keys alike, or leans one way on all rows.
    void leadOnRowsThatRunBack() {
        AxisSpec spec;
        spec.leadDegrees = 4;
        spec.keys = {{0.5, 0.5, -1, 6, 0}};
        const auto r = rows(2, true);
        for (const bool pattern : {false, true}) {
            spec.leadByPattern = pattern;
            const AxisResult a = run(r, spec, ball());
            for (const std::size_t row : {std::size_t(0), std::size_t(1)}) {
                QVERIFY(near(degrees(leadTiltOf(a.axes[row][30], r[row].normals[30], a.feeds[row][30]).lead), pattern && row == 1 ? -10 : 10, 1e-9));
                if (pattern) QVERIFY(near(a.axes[row][30].x(), std::sin(radians(10)), 1e-9));
            }
        }
    }

    // Across the seam of a closed row the largest turn holds as anywhere, and is told if not; keys go on around it.
    void theSeamOfAClosedRow() {
        Row ring;
        constexpr int n = 240;
        for (int i = 0; i < n; ++i) {
            const double angle = 2 * kPi * i / n;
            ring.points.emplace_back(30 * std::cos(angle), 30 * std::sin(angle), 0);
        }
        ring.normals.assign(n, Vec3::UnitZ());
        ring.faces.assign(n, 0);
        ring.closed = true;
        AxisSpec spec;
        spec.rule = AxisRule::Lines;
        AxisHelp help; // two lines close to the seam, on either side of it, far apart in direction
        help.first.curves = {straightLines({ring.points[1], ring.points[1] + 20 * Vec3(0.5, 0, 1)}),
                             straightLines({ring.points[n - 2], ring.points[n - 2] + 20 * Vec3(-0.5, 0, 1)})};
        const auto fastest = [&](const AxisResult& a) {
            double most = 0.0;
            for (std::size_t i = 0; i < n; ++i)
                most = std::max(most, degrees(angleBetween(a.axes[0][i], a.axes[0][(i + 1) % n])) / (ring.points[i] - ring.points[(i + 1) % n]).norm());
            return most;
        };
        const AxisResult rough = run({ring}, spec, ball(), help);
        QVERIFY(rough.steepest > 10 && near(rough.steepest, fastest(rough), 1e-9));
        spec.steepest = 2.0;
        const AxisResult even = run({ring}, spec, ball(), help);
        QVERIFY(fastest(even) <= 2.0 && near(even.steepest, fastest(even), 1e-9));
        AxisSpec keys;
        keys.keys = {{0.1, 0.1, -1, 0, 0}, {0.9, 0.9, -1, 20, 0}};
        const AxisResult around = run({ring}, keys, ball());
        QVERIFY(fastest(around) < 4.0); // 20° over a fifth of the ring, not at once
        QVERIFY(near(degrees(leadTiltOf(around.axes[0][0], Vec3::UnitZ(), around.feeds[0][0]).lead), 10, 1e-6));
    }

    // To the pole within the angle, untouched beyond three times that, evenly and without a jump in between.
    void nearThePole() {
        const Vec3 pole = Vec3::UnitZ();
        double last = 0.0;
        for (double angle = 0.0; angle < 10.0; angle += 0.01) {
            const Vec3 a(std::sin(radians(angle)) * 0.6, std::sin(radians(angle)) * 0.8, std::cos(radians(angle)));
            const Vec3 b = takenToPole(a, pole, radians(1.5));
            const double now = degrees(angleBetween(b, pole));
            QVERIFY(now >= last - 1e-9 && now - last < 0.0151 && angleBetween(a, b) <= radians(1.5) + 1e-9);
            if (angle <= 1.5) QVERIFY(now < 1e-6);
            if (angle >= 4.5) QVERIFY((a - b).norm() < 1e-12);
            last = now;
        }
        QVERIFY((takenToPole(Vec3(0.6, 0, 0.8), pole, 0.0) - Vec3(0.6, 0, 0.8)).norm() < 1e-15);
        // Only where the axis would go around it: a lean that stays as it is is left alone.
        AxisSpec spec;
        spec.leadDegrees = 1.0;
        spec.nearPole = 1.5;
        AxisHelp help;
        help.pole = pole;
        const AxisResult still = run(rows(1), spec, ball(), help);
        QVERIFY(still.mostPoled == 0.0 && still.findings.empty());
        QVERIFY(near(degrees(angleBetween(still.axes[0][5], pole)), 1.0, 1e-9));
        auto bumps = rows(1);
        for (std::size_t i = 0; i < bumps[0].normals.size(); ++i) {
            const double around = 0.4 * static_cast<double>(i);
            bumps[0].normals[i] = Vec3(0.02 * std::cos(around), 0.02 * std::sin(around), 1).normalized();
        }
        spec.leadDegrees = 0.0;
        const AxisResult a = run(bumps, spec, ball(), help);
        QVERIFY(near(a.mostPoled, std::atan(0.02), 1e-9) && (a.axes[0][5] - pole).norm() < 1e-12);
        QVERIFY(!a.findings.empty() && a.findings[0].code == "axis-at-pole" && a.findings[0].rank == Rank::Note);
    }

    // The angle window is kept under a lock where the other joint can keep it; else the lock stays and the window is told to have given way.
    void windowUnderALock() {
        const Machine heron = test::demoMachine("heron-5t.machine.json");
        Workplace place;
        place.machine = std::make_shared<const Machine>(heron);
        const Assembly tool = test::ballTool(6, 40);
        const auto name = [&](int r) { return heron.joints[static_cast<std::size_t>(heron.rotaries()[static_cast<std::size_t>(r)])].name; };
        test::Random random(93);
        Recipe recipe;
        recipe.axis->locked = name(0); // turning about the pole: the other joint leans freely
        recipe.axis->lockedDegrees = 30;
        const auto free = axisHelp(place, recipe, tool).value();
        for (int i = 0; i < 40; ++i) {
            const double low = random.number(5, 40), high = low + random.number(1, 20);
            const Vec3 got = free.locked(random.direction(), radians(low), radians(high));
            const double lean = degrees(angleBetween(got, Vec3::UnitZ()));
            QVERIFY2(lean >= low - 1e-4 && lean <= high + 1e-4, qPrintable(QString::number(lean)));
        }
        recipe.axis->locked = name(1); // the lean itself
        recipe.axis->lockedDegrees = 40;
        recipe.axis->leadDegrees = 20;
        recipe.axis->limited = true;
        recipe.axis->lowDegrees = 0;
        recipe.axis->highDegrees = 25;
        const AxisResult a = run(rows(1), recipe.axis, tool.cutter, axisHelp(place, recipe, tool).value());
        const auto told = std::find_if(a.findings.begin(), a.findings.end(), [](const Finding& f) { return f.code == "axis-window-left"; });
        QVERIFY(told != a.findings.end() && told->place && near(told->amount, 15, 1e-3));
        for (const Vec3& axis : a.axes[0]) QVERIFY(near(degrees(angleBetween(axis, Vec3::UnitZ())), 40, 1e-6));
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
        recipe.axis->locked = name;
        recipe.axis->lockedDegrees = 30;
        recipe.axis->leadDegrees = 20;
        const Assembly tool = test::ballTool(6, 40);
        const auto help = axisHelp(place, recipe, tool);
        QVERIFY(help && help->locked);
        test::Random random(92);
        const Kinematics k(heron, Frame::Identity(), tool.gaugeLength());
        for (int i = 0; i < 50; ++i) {
            const Vec3 wanted = random.direction(), got = help->locked(wanted, 0.0, kPi);
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
            for (int s = 0; s < 20; ++s) QVERIFY(angleBetween(help->locked(random.direction(), 0.0, kPi), wanted) >= angleBetween(got, wanted) - 1e-6);
        }
        const AxisResult a = run(rows(1), recipe.axis, tool.cutter, *help);
        QVERIFY(!a.findings.empty() && a.findings[0].code == "axis-locked");
        // Locked is locked in the joints, too, sign and all: the solution with the opposite angle would do for the axis alone.
        Toolpath path;
        for (int i = 0; i < 40; ++i) path.push(Vec3(i, 0, 10), help->locked(Vec3(0.3 * std::sin(0.1 * i), -0.4, 0.8).normalized(), 0.0, kPi), Motion::Cut, 0, 500);
        MotionSpec spec;
        spec.locked = heron.rotaries()[1];
        for (const double at : {40.0, -40.0}) {
            recipe.axis->locked = heron.joints[static_cast<std::size_t>(spec.locked)].name;
            recipe.axis->lockedDegrees = at;
            spec.lockedAt = radians(at);
            const auto lean = axisHelp(place, recipe, tool).value();
            for (std::size_t i = 0; i < path.size(); ++i) path.axis[i] = lean.locked(path.axis[i], 0.0, kPi);
            Machine wide = heron;
            wide.joints[static_cast<std::size_t>(spec.locked)].low = -kPi;
            wide.joints[static_cast<std::size_t>(spec.locked)].high = kPi;
            Progress quiet;
            const JointMotion m = solveMotion(path, Kinematics(wide, Frame::Identity(), tool.gaugeLength()), spec, quiet).value();
            QVERIFY(m.findings.empty());
            for (std::size_t s = 0; s < m.size(); ++s)
                QVERIFY2(std::abs(m.at(s)[spec.locked] - spec.lockedAt) < 1e-5, qPrintable(QString::number(degrees(m.at(s)[spec.locked]))));
        }
        // What the lock does not reach is told: lock-left.
        path.axis[20] = Vec3(0, -std::sin(radians(10)), std::cos(radians(10)));
        Progress quiet;
        const JointMotion left = solveMotion(path, Kinematics(heron, Frame::Identity(), tool.gaugeLength()), spec, quiet).value();
        QVERIFY(std::any_of(left.findings.begin(), left.findings.end(), [](const Finding& f) { return f.code == "lock-left" && f.rank == Rank::Look && f.place; }));
        recipe.axis->locked = "Q";
        const auto none = axisHelp(place, recipe, tool);
        QVERIFY(none && !setAxes(rows(1), recipe.axis, tool.cutter, *none));
    }
};

GYRE_TEST(TestAxisRules)

} // namespace test_axis_rules
#include "test_axis_rules.moc"
