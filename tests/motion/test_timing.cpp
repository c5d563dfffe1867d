// Times of joint motion against closed forms: triangle, trapezoid, seven stretches of jerk; chains of tiny steps; bends; and where the time goes.
#include "Program.h"
#include "Programs.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/TimeSpent.h"

namespace test_timing {

using namespace gyre;

namespace {

/// X alone moves for ways along X on this one; its other joints do as well with their own numbers.
Machine machineWith(double speed, double acceleration, double jerk) {
    Machine m = test::demoMachine("egret-5h.machine.json");
    for (Joint& j : m.joints)
        if (j.kind == JointKind::Linear) {
            j.low = -1e5;
            j.high = 1e5;
            j.speed = speed;
            j.acceleration = acceleration;
            j.jerk = jerk;
        }
    return m;
}

double durationOf(const Toolpath& path, const Machine& machine, const MotionSpec& spec = {}) {
    Progress progress;
    return solveMotion(path, Kinematics(machine, Frame::Identity(), 120), spec, progress).value().duration;
}

/// From rest to rest over a distance.
double closedForm(double d, double v, double a, double j) {
    if (j <= 0.0) return d >= v * v / a ? d / v + v / a : 2.0 * std::sqrt(d / a);
    const double ramp = v >= a * a / j ? v / a + a / j : 2.0 * std::sqrt(v / j);
    if (v * ramp <= d) return 2.0 * ramp + (d - v * ramp) / v;
    const double p = 0.5 * (-a * a / j + std::sqrt(a * a * a * a / (j * j) + 4.0 * a * d));
    if (p >= a * a / j) return 2.0 * (p / a + a / j);
    return 4.0 * std::cbrt(d / (2.0 * j));
}

Toolpath straight(double length, double feed, int pieces) {
    Toolpath path;
    for (int i = 0; i <= pieces; ++i) path.push(Vec3(length * i / pieces, 0, 100), Vec3::UnitZ(), Motion::Cut, 0, 60.0 * feed);
    return path;
}

Toolpath circle(double radius, double feed, int pieces, double rounds) {
    Toolpath path;
    const int n = static_cast<int>(pieces * rounds);
    for (int i = 0; i <= n; ++i) {
        const double a = 2.0 * kPi * i / pieces;
        path.push(Vec3(radius * std::cos(a), radius * std::sin(a), 100), Vec3::UnitZ(), Motion::Cut, 0, 60.0 * feed);
    }
    return path;
}

} // namespace

class TestTiming : public QObject {
    Q_OBJECT
private slots:
    // One move from rest to rest, at random: exactly as the closed form has it; in a chain of steps the same.
    void singleMoves() {
        const unsigned seed = std::random_device{}();
        qInfo("seed %u", seed);
        std::mt19937 random(seed);
        const auto number = [&](double low, double high) { return std::exp(std::uniform_real_distribution<double>(std::log(low), std::log(high))(random)); };
        int kinds[4] = {};
        for (int round = 0; round < 600; ++round) {
            const double d = number(0.01, 900), v = static_cast<double>(static_cast<float>(60.0 * number(1, 900))) / 60.0, a = number(100, 12000),
                         j = round % 3 == 0 ? 0.0 : number(1e3, 1e6);
            const double expected = closedForm(d, v, a, j);
            const Machine machine = machineWith(1e6, a, j);
            const double t = durationOf(straight(d, v, 1), machine);
            QVERIFY2(std::abs(t - expected) < 1e-9 * std::max(1.0, expected),
                     qPrintable(QString("%1 for %2: d %3 v %4 a %5 j %6").arg(t, 0, 'g', 12).arg(expected, 0, 'g', 12).arg(d).arg(v).arg(a).arg(j)));
            ++kinds[j <= 0.0 ? (d >= v * v / a ? 0 : 1) : v >= a * a / j ? 2 : 3];
            const int pieces = 2 + static_cast<int>(number(1, 200));
            const double chain = durationOf(straight(d, v, pieces), machine);
            QVERIFY2(std::abs(chain - expected) < 1e-6 * std::max(1.0, expected),
                     qPrintable(QString("%1 pieces: %2 for %3").arg(pieces).arg(chain, 0, 'g', 12).arg(expected, 0, 'g', 12)));
        }
        for (const int n : kinds) QVERIFY(n > 20);
    }

    // With exact stops every move is one from rest to rest, wherever it goes; steps between locations are none of them.
    void exactStops() {
        test::Random random(86);
        MotionSpec stops;
        stops.stopsAtPoints = true;
        for (int round = 0; round < 100; ++round) {
            const double a = random.number(200, 8000), j = round % 2 == 0 ? 0.0 : random.number(1e4, 1e6),
                         v = static_cast<double>(static_cast<float>(60.0 * random.number(5, 300))) / 60.0;
            const Machine machine = machineWith(1e6, a, j);
            Toolpath path;
            double expected = 0.0;
            Vec3 at(0, 0, 100);
            path.push(at, Vec3::UnitZ(), Motion::Cut, 0, 60.0 * v);
            for (int i = 0; i < 12; ++i) {
                // Along one joint at a time, or straight on: what the closed form is of.
                const int axis = random.integer(0, 1);
                const double d = random.number(0.1, 60);
                at[axis] += d;
                expected += closedForm(d, v, a, j);
                path.push(at, Vec3::UnitZ(), Motion::Cut, 0, 60.0 * v);
            }
            const double t = durationOf(path, machine, stops), on = durationOf(path, machine);
            QVERIFY2(std::abs(t - expected) < 1e-9 * expected, qPrintable(QString("%1 for %2").arg(t, 0, 'g', 12).arg(expected, 0, 'g', 12)));
            QVERIFY(on < t);
        }
    }

    // A joint's own speed is the limit where the feed asks for more, and it is told which.
    void whichJointLimits() {
        const Machine machine = machineWith(50.0, 2000.0, 0.0);
        Progress progress;
        const JointMotion m = solveMotion(straight(500, 200, 50), Kinematics(machine, Frame::Identity(), 120), MotionSpec{}, progress).value();
        QVERIFY(std::abs(m.duration - closedForm(500, 50, 2000, 0)) < 1e-6);
        const int x = machine.find("X");
        QCOMPARE(m.limitedBy.size(), m.size());
        for (std::size_t i = 1; i < m.size(); ++i) QCOMPARE(static_cast<int>(m.limitedBy[i]), x);
        const JointMotion slow = solveMotion(straight(500, 20, 50), Kinematics(machine, Frame::Identity(), 120), MotionSpec{}, progress).value();
        for (std::size_t i = 3; i + 3 < slow.size(); ++i) QCOMPARE(static_cast<int>(slow.limitedBy[i]), -1);
    }

    // Round a bend no joint takes up speed faster than it can: v² ⁄ r, however short the steps; a feed below that is kept.
    void bends() {
        const double a = 1000.0, r = 10.0;
        const Machine machine = machineWith(1e6, a, 0.0);
        const double kept = 0.9 * std::sqrt(a * r), length = 2.0 * kPi * r * 20;
        for (const int pieces : {400, 1600})
            QVERIFY2(std::abs(durationOf(circle(r, kept, pieces, 20), machine) - (length / kept + kept / a)) < 0.01 * length / kept,
                     "a feed that the bend allows is kept");
        double last = 0.0, before = 0.0;
        for (const int pieces : {400, 800, 1600, 3200}) {
            const double t = durationOf(circle(r, 1000.0, pieces, 20), machine);
            // X and Y share the work in between: at 45° each has 1 ⁄ √2 of it.
            const double slowest = length / std::sqrt(a * r), quickest = length / std::sqrt(std::sqrt(2.0) * a * r);
            QVERIFY2(t < 1.02 * slowest + 0.2 && t > 0.98 * quickest,
                     qPrintable(QString("%1 pieces: %2, between %3 and %4").arg(pieces).arg(t).arg(quickest).arg(slowest)));
            qInfo("%d pieces: %g s, between %g and %g", pieces, t, quickest, slowest);
            before = last;
            last = t;
        }
        QVERIFY2(std::abs(last - before) < 0.005 * last, "shorter steps come to the same time");
    }

    // A corner is rounded within the corner time: as sharp as it is, so much slower; a chain that is divided further takes the same.
    void corners() {
        const Machine machine = machineWith(1e6, 2000.0, 0.0);
        const auto cornered = [](double degrees, int pieces) {
            Toolpath path;
            const Vec3 way(std::cos(radians(degrees)), std::sin(radians(degrees)), 0);
            for (int i = 0; i <= pieces; ++i) path.push(Vec3(60.0 * i / pieces - 60.0, 0, 100), Vec3::UnitZ(), Motion::Cut, 0, 6000);
            for (int i = 1; i <= pieces; ++i) path.push(60.0 * i / pieces * way + Vec3(0, 0, 100), Vec3::UnitZ(), Motion::Cut, 0, 6000);
            return path;
        };
        double last = durationOf(cornered(0, 40), machine);
        QVERIFY(std::abs(last - closedForm(120, 100, 2000, 0)) < 1e-6);
        for (const double degrees : {20.0, 60.0, 90.0, 150.0}) {
            const double t = durationOf(cornered(degrees, 40), machine);
            QVERIFY(t > last);
            // Down to the rate at which no joint jumps by more than a · cornerTime, and up again.
            const double jump = 100.0 * std::max(1.0 - std::cos(radians(degrees)), std::sin(radians(degrees))), rate = std::min(1.0, 2000.0 * 0.01 / jump);
            const double expected = closedForm(120, 100, 2000, 0) + 100.0 / 2000.0 * (1.0 - rate) * (1.0 - rate); // both joints are no slower than X alone
            if (degrees == 90.0) QVERIFY2(std::abs(t - expected) < 0.002, qPrintable(QString("%1 for %2").arg(t).arg(expected)));
            QVERIFY(std::abs(durationOf(cornered(degrees, 160), machine) - t) < 0.01 * t);
            last = t;
        }
    }

    // What makes a machine slower never makes its time shorter, on the demo's own path; all times rise from step to step.
    void neverTheOtherWay() {
        const auto& op = *test::demoResults().results.operations[0];
        const Toolpath& path = *op.path();
        Progress progress;
        const Machine own = *test::demoResults().results.place->machine;
        const auto with = [&](double acceleration, double jerk) {
            Machine m = own;
            for (Joint& j : m.joints) {
                j.acceleration *= acceleration;
                j.jerk = jerk > 0.0 ? j.acceleration * jerk : 0.0;
            }
            const JointMotion motion =
                solveMotion(path, Kinematics(m, test::demoResults().results.place->partFrame, op.tool.gaugeLength()), MotionSpec{}, progress, op.links->away).value();
            for (std::size_t i = 1; i < motion.size(); ++i)
                if (!(motion.time[i] >= motion.time[i - 1])) qFatal("time runs back at step %zu", i);
            return motion.duration;
        };
        const double plain = with(1.0, 0.0);
        QVERIFY(with(0.5, 0.0) > plain && with(2.0, 0.0) < plain);
        const double soft = with(1.0, 20.0), softer = with(1.0, 5.0);
        QVERIFY2(soft > plain && softer > soft, qPrintable(QString("%1 %2 %3").arg(plain).arg(soft).arg(softer)));
        QVERIFY(softer < 3.0 * plain);
    }

    // The parts of the time are the whole; changes and clamps are counted as the program says them.
    void whereItGoes() {
        Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        Workshop workshop{std::filesystem::path(GYRE_DEMO_DIR)};
        StageCache cache;
        Progress progress;
        const JobResults results = computeJob(job, workshop, cache, progress).value();
        PostInput input = postInputOf(job, results.place, results.operations);
        auto machine = std::make_shared<Machine>(*input.machine);
        machine->changeSeconds = 7.0;
        machine->clampSeconds = 0.5;
        input.machine = machine;
        const TimeSpent spent = timeSpent(input);
        double seconds = 0.0;
        std::size_t changes = 0;
        int tool = 0;
        for (const PostOperation& o : input.operations) {
            seconds += secondsOf(*o.result);
            const TimeSpent own = timeSpent(*o.result, *machine);
            QVERIFY(std::abs(own.paths() - secondsOf(*o.result)) < 1e-6);
            double limited = 0.0;
            for (const double s : own.byJoint) limited += s;
            QVERIFY(limited <= own.cutting + own.rapids + 1e-9);
            if (o.toolNumber != tool) ++changes;
            tool = o.toolNumber;
        }
        QVERIFY(std::abs(spent.paths() - seconds) < 1e-6);
        QCOMPARE(spent.changes, changes);
        QCOMPARE(spent.changing, 7.0 * static_cast<double>(changes));
        QCOMPARE(spent.clamping, 0.5 * static_cast<double>(spent.clampings));
        const std::string words = wordsOf(spent, *machine);
        QVERIFY2(words.find("tool change") != std::string::npos, words.c_str());
    }
};

GYRE_TEST(TestTiming)

} // namespace test_timing
#include "test_timing.moc"
