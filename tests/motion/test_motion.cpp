#include "Program.h"
#include "Programs.h"
#include "base/File.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/Sending.h"

namespace test_motion {

using namespace gyre;
using test::Random;

namespace {

JointMotion solve(const Toolpath& path, const Kinematics& k) {
    Progress p;
    auto m = solveMotion(path, k, MotionSpec{}, p);
    if (!m) qFatal("%s", m.error().text().c_str());
    return *m;
}

// Largest distance of tip and axis from the wanted motion, looked at 100 times between any two steps.
std::pair<double, double> deviation(const Toolpath& path, const Kinematics& k, const JointMotion& m) {
    double tip = 0, axis = 0;
    for (std::size_t s = 1; s < m.size(); ++s) {
        const std::size_t i = m.location[s];
        const double from = m.location[s - 1] == i ? static_cast<double>(m.fraction[s - 1]) : 0.0, to = static_cast<double>(m.fraction[s]);
        for (int n = 0; n <= 100; ++n) {
            const double u = n / 100.0, t = (1 - u) * from + u * to;
            JointValues q(m.joints);
            for (std::size_t j = 0; j < q.size(); ++j) q[j] = (1 - u) * m.at(s - 1)[j] + u * m.at(s)[j];
            const ToolPose pose = k.forward(q);
            tip = std::max(tip, (pose.tip - ((1 - t) * path.tip[i - 1] + t * path.tip[i])).norm());
            axis = std::max(axis, angleBetween(pose.axis, slerp(path.axis[i - 1], path.axis[i], t)));
        }
    }
    return {tip, axis};
}

bool has(const JointMotion& m, const char* code) {
    return std::any_of(m.findings.begin(), m.findings.end(), [&](const Finding& f) { return f.code == code; });
}

} // namespace

class TestMotion : public QObject {
    Q_OBJECT
private slots:
    void betweenLocationsTheTipStaysWithinTolerance_data() {
        QTest::addColumn<QString>("file");
        for (const char* f : {"heron-5t", "egret-5h", "dunlin-5m", "snipe-5n"}) QTest::newRow(f) << QString(f) + ".machine.json";
    }
    void betweenLocationsTheTipStaysWithinTolerance() {
        QFETCH(QString, file);
        Random r(51);
        const Machine machine = test::demoMachine(file.toStdString());
        const Kinematics k(machine, Frame::Identity(), 120);
        Toolpath path;
        for (int i = 0; i < 60; ++i) {
            const double a = 0.11 * i, lean = 0.35 + 0.2 * std::sin(0.3 * i);
            path.push(Vec3(30 * std::cos(a), 30 * std::sin(a), 10 + 0.2 * i), Vec3(std::sin(lean) * std::cos(a), std::sin(lean) * std::sin(a), std::cos(lean)),
                      i % 3 ? Motion::Cut : Motion::Rapid, 0, 1000); // rapids keep to it as cuts do
        }
        const JointMotion m = solve(path, k);
        const auto [tip, axis] = deviation(path, k, m);
        QVERIFY2(tip <= 0.005, qPrintable(QString::number(tip)));
        QVERIFY2(axis <= radians(0.11), qPrintable(QString::number(degrees(axis))));
        QVERIFY(!has(m, "rewind-in-cut"));
        for (std::size_t i = 0; i < path.size(); ++i) {
            const ToolPose pose = k.forward(m.jointsAt(m.stepOf[i]));
            QVERIFY((pose.tip - path.tip[i]).norm() < 1e-9 && angleBetween(pose.axis, path.axis[i]) < 1e-9);
        }
    }
    // Straight over the pole of the C axis: A goes through 0, C stays. No jump.
    void aPathOverThePoleDoesNotTurnTheTable() {
        const Kinematics k(test::demoMachine("heron-5t.machine.json"), Frame::Identity(), 120);
        Toolpath path;
        for (int i = -20; i <= 20; ++i) {
            const double lean = radians(i * 1.0);
            path.push(Vec3(0, i, 20), Vec3(0.0, -std::sin(lean), std::cos(lean)), Motion::Cut, 0, 1000);
        }
        const JointMotion m = solve(path, k);
        const auto c = static_cast<std::size_t>(k.machine().find("C"));
        for (std::size_t s = 1; s < m.size(); ++s)
            QVERIFY2(std::abs(m.at(s)[c] - m.at(s - 1)[c]) < 1e-6, qPrintable(QString::number(degrees(m.at(s)[c] - m.at(s - 1)[c]))));
        QVERIFY(m.findings.empty());
    }
    void nineTurnsRunThroughWithoutARewind() {
        const Kinematics k(test::demoMachine("plover-4.machine.json"), Frame::Identity(), 120);
        Toolpath path;
        for (int i = 0; i <= 900; ++i) {
            const double a = 2 * kPi * i / 100.0;
            path.push(Vec3(0.02 * i, -30 * std::sin(a), 30 * std::cos(a)), Vec3(0, -std::sin(a), std::cos(a)), Motion::Cut, 0, 1000);
        }
        const JointMotion m = solve(path, k);
        QVERIFY(m.findings.empty());
        const auto a = static_cast<std::size_t>(k.machine().find("A"));
        QVERIFY(std::abs(std::abs(m.at(m.size() - 1)[a] - m.at(0)[a]) - 18 * kPi) < 1e-6);
        for (std::size_t s = 1; s < m.size(); ++s) QVERIFY(std::abs(m.at(s)[a] - m.at(s - 1)[a]) < 0.1);
    }
    // Eighty turns of an endless axis: from its first angle on, not from far below so that zero lies in the middle.
    void anEndlessAxisBeginsWhereItStands() {
        Machine machine = test::demoMachine("plover-4.machine.json");
        Joint& a = machine.joints[static_cast<std::size_t>(machine.find("A"))];
        a.low = radians(-1e6);
        a.high = radians(1e6);
        const Kinematics k(machine, Frame::Identity(), 120);
        Toolpath path;
        for (int i = 0; i <= 8000; ++i) {
            const double angle = 0.3 + 2 * kPi * i / 100.0;
            path.push(Vec3(0.002 * i, -30 * std::sin(angle), 30 * std::cos(angle)), Vec3(0, -std::sin(angle), std::cos(angle)), Motion::Cut, 0, 1000);
        }
        const JointMotion m = solve(path, k);
        QVERIFY(m.findings.empty() && m.swings.empty() && m.jumps.empty());
        const auto at = static_cast<std::size_t>(machine.find("A"));
        QVERIFY(std::abs(m.at(0)[at]) < kPi);
        QVERIFY(std::abs(std::abs(m.at(m.size() - 1)[at] - m.at(0)[at]) - 160 * kPi) < 1e-6);
    }
    // C can follow the first lean in one solution only and the second in the other: it turns over at the top of Z and nowhere else.
    void aChangeOfSolutionIsMadeAtTheTopOfZ() {
        const auto [machine, path, away, second] = test::turningOver();
        const Kinematics k(machine, Frame::Identity(), 120);
        Progress quiet;
        const JointMotion m = solveMotion(path, k, MotionSpec{}, quiet, away).value();
        QVERIFY(m.findings.empty());
        QCOMPARE(m.swings, std::vector<std::uint32_t>{second});
        const auto z = static_cast<std::size_t>(machine.find("Z"));
        double turned = 0.0;
        for (std::size_t s = 1; s < m.size(); ++s)
            for (const int r : machine.rotaries()) {
                const double by = std::abs(m.at(s)[r] - m.at(s - 1)[r]);
                if (by < 1e-9) continue;
                turned = std::max(turned, by);
                QVERIFY(m.location[s] == second && m.at(s)[z] == machine.joints[z].high && m.at(s - 1)[z] == m.at(s)[z]);
            }
        QVERIFY(turned > radians(89));
        for (std::size_t i = 0; i < path.size(); ++i) QVERIFY((k.forward(m.jointsAt(m.stepOf[i])).tip - path.tip[i]).norm() < 1e-9);
        // Where nothing stands away from the part there is no place for it.
        const JointMotion low = solveMotion(path, k, MotionSpec{}, quiet, std::vector<char>(path.size(), 0)).value();
        QVERIFY(low.swings.empty() && low.jumps == std::vector<std::uint32_t>{second} && has(low, "rewind-in-cut"));
    }
    // A spiral of many turns on an axis of little more than one: it is left and entered anew, nothing of it is lost, nothing turns too far.
    void aRowTooLongForTheTravelIsLeftAndEnteredAnew() {
        Job job = openJob(test::demoFile("barrel-work.gyre.json")).value();
        Machine machine = test::demoMachine("plover-4.machine.json");
        Joint& a = machine.joints[static_cast<std::size_t>(machine.find("A"))];
        a.low = radians(-200);
        a.high = radians(200);
        const QTemporaryDir folder;
        job.machine = folder.filePath("short.machine.json").toStdString();
        QVERIFY(writeFileAtomic(job.machine, machineToJson(machine)));
        Workshop workshop(std::filesystem::path(GYRE_DEMO_DIR));
        Progress progress;
        StageCache cache;
        const auto computed = computeJob(job, workshop, cache, progress);
        QVERIFY2(computed, computed ? "" : computed.error().text().c_str());
        const JobResults& results = *computed;
        std::size_t split = 0;
        for (const auto& r : results.operations) {
            QVERIFY2(r->complete(), r->operation.c_str());
            QVERIFY2(r->motion->jumps.empty(), r->operation.c_str());
            QVERIFY(!has(*r->motion, "rewind-in-cut") && !has(*r->motion, "travel"));
            const bool left = std::any_of(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "row-left" && f.rank == Rank::Look; });
            const auto swings = std::find_if(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "rotaries-swing"; });
            QCOMPARE(swings == r->findings.end() ? 0.0 : swings->amount, static_cast<double>(r->motion->swings.size()));
            QCOMPARE(left, r->links->pieces.size() > r->guard->passes.size());
            split += r->links->pieces.size() - r->guard->passes.size();
            for (std::size_t p = 0; p < r->guard->passes.size(); ++p)
                for (std::size_t i = 0; i < r->guard->passes[p].path.size(); ++i)
                    QVERIFY((r->links->path.tip[r->links->locationOf(p, i)] - r->guard->passes[p].path.tip[i]).norm() < 1e-9);
        }
        QVERIFY2(split > 0, "no row was long enough to be split");
    }
    void turnsEndAtTheTravelAndThatIsTold() {
        Machine machine = test::demoMachine("plover-4.machine.json");
        machine.joints[static_cast<std::size_t>(machine.find("A"))].low = radians(-200);
        machine.joints[static_cast<std::size_t>(machine.find("A"))].high = radians(200);
        const Kinematics k(machine, Frame::Identity(), 120);
        Toolpath path;
        for (int i = 0; i <= 300; ++i) {
            const double a = 2 * kPi * i / 100.0;
            path.push(Vec3(0.02 * i, -30 * std::sin(a), 30 * std::cos(a)), Vec3(0, -std::sin(a), std::cos(a)), Motion::Cut, 0, 1000);
        }
        const JointMotion m = solve(path, k);
        QVERIFY(has(m, "rewind-in-cut"));
        for (const Finding& f : m.findings) QCOMPARE(f.rank, Rank::Stop);
    }
    void outOfReachAndOutOfTravelAreFindingsWithTheirAmount() {
        const Kinematics k(test::demoMachine("plover-4.machine.json"), Frame::Identity(), 120);
        Toolpath path;
        path.push(Vec3(0, 0, 30), Vec3::UnitZ(), Motion::Cut, 0, 1000);
        path.push(Vec3(1, 0, 30), Vec3(std::sin(radians(7)), 0, std::cos(radians(7))), Motion::Cut, 0, 1000);
        path.push(Vec3(3000, 0, 30), Vec3::UnitZ(), Motion::Cut, 0, 1000);
        const JointMotion m = solve(path, k);
        QVERIFY(has(m, "axis-unreachable") && has(m, "travel"));
        for (const Finding& f : m.findings)
            if (f.code == "axis-unreachable") QVERIFY(std::abs(f.amount - 7) < 1e-9);
        // They call a pass what those call it that made it.
        MotionSpec spec;
        spec.passName = [](int pass) { return "hole " + QString::number(pass + 5).toStdString(); };
        Progress quiet;
        const JointMotion named = solveMotion(path, k, spec, quiet).value();
        for (const Finding& f : named.findings) QVERIFY2(f.text.find("hole 5") != std::string::npos, f.text.c_str());
    }
    // A straight cut of 100 mm at 6000 mm/min takes 1 s, and a little more to start and stop.
    void timesAreThoseOfFeedAndAcceleration() {
        const Kinematics k(test::demoMachine("heron-5t.machine.json"), Frame::Identity(), 120);
        Toolpath path;
        for (int i = 0; i <= 100; ++i) path.push(Vec3(i, 0, 50), Vec3::UnitZ(), Motion::Cut, 0, 6000);
        const double t = solve(path, k).duration;
        const double ramp = 100.0 / 4000.0; // v/a at each end costs half of it more
        QVERIFY2(std::abs(t - (1.0 + ramp)) < 0.02, qPrintable(QString::number(t)));
    }
    void theDemoMovesWithinItsTravelAndInTime() {
        const auto& op = *test::demoResults().results.operations[0];
        QVERIFY(op.complete());
        for (std::size_t s = 1; s < op.motion->size(); ++s) QVERIFY(op.motion->time[s] >= op.motion->time[s - 1]);
        for (const Finding& f : op.motion->findings) QVERIFY2(false, f.text.c_str());
    }
    void theSameBytesEveryTime() {
        auto& demo = test::demoResults();
        StageCache fresh;
        Progress progress;
        const auto again = runOperation(*demo.results.place, demo.job.route[0], fresh, progress).value();
        QVERIFY(again->motion->values == demo.results.operations[0]->motion->values);
    }
    void workCanBeCancelledInTheMiddle() {
        auto& demo = test::demoResults();
        for (double when : {0.05, 0.35, 0.5, 0.7, 0.82}) {
            StageCache fresh;
            Progress* self = nullptr;
            Progress progress([&](double f, const std::string&) {
                if (f > when) self->cancel();
            });
            self = &progress;
            const auto r = runOperation(*demo.results.place, demo.job.route[0], fresh, progress);
            QVERIFY(!r && r.error().cancelled);
        }
    }
    void provingFindsTheHolderAndIsContentWhenCured() {
        auto& demo = test::demoResults();
        Progress progress;
        const auto bad = prove(*demo.results.place, *demo.results.operations[0], ProofSpec{}, progress).value();
        QVERIFY(std::any_of(bad.findings.begin(), bad.findings.end(), [](const Finding& f) { return f.check == Check::Holder; }));
        Workplace longer = *demo.results.place;
        for (Assembly& a : longer.tools) a.stickOut = std::min(a.cutter.overallLength, a.stickOut + 8);
        const auto op = runOperation(longer, demo.job.route[0], demo.cache, progress).value();
        const auto good = prove(longer, *op, ProofSpec{}, progress).value();
        for (const Finding& f : good.findings) QVERIFY2(false, f.text.c_str());
        QVERIFY(good.pairs > 40);
        const Marks marks = marksOf(op.get(), &good);
        for (const Mark m : marks) QCOMPARE(m, Mark::Clear);
        QCOMPARE(marksOf(op.get(), nullptr)[4], Mark::Unknown);
    }
    // A machine body in the way that only the machine's own motion meets; the same beam as a box and as triangles.
    void provingFindsMachineBodiesThatMeet_data() {
        QTest::addColumn<bool>("asMesh");
        QTest::newRow("box") << false;
        QTest::newRow("mesh") << true;
    }
    void provingFindsMachineBodiesThatMeet() {
        QFETCH(bool, asMesh);
        auto& demo = test::demoResults();
        Workplace place = *demo.results.place;
        auto machine = std::make_shared<Machine>(*place.machine);
        MachineBody beam;
        beam.name = "beam";
        beam.pieces = {ConvexBody::box(Vec3(-300, -60, 330), Vec3(300, -40, 350))};
        if (asMesh) {
            beam.mesh = std::make_shared<const TriangleMesh>(skinOf(beam.pieces[0]));
            beam.tree = std::make_shared<const MeshTree>(*beam.mesh);
            beam.pieces.clear();
        }
        machine->bodies.push_back(beam);
        place.machine = machine;
        Progress progress;
        const auto proof = prove(place, *demo.results.operations[0], ProofSpec{}, progress).value();
        QVERIFY(std::any_of(proof.findings.begin(), proof.findings.end(),
                            [](const Finding& f) { return f.check == Check::Machine && f.text.find("beam") != std::string::npos; }));
    }
};

GYRE_TEST(TestMotion)

} // namespace test_motion
#include "test_motion.moc"
