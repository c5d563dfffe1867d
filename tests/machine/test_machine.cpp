#include "Program.h"
#include "Support.h"
#include "base/File.h"

namespace test_machine {

using namespace gyre;
using test::Random;

class TestMachine : public QObject {
    Q_OBJECT
private:
    void kinds() {
        QTest::addColumn<QString>("file");
        QTest::newRow("table-table") << "heron-5t.machine.json";
        QTest::newRow("head-head") << "egret-5h.machine.json";
        QTest::newRow("head-table") << "dunlin-5m.machine.json";
        QTest::newRow("nutating") << "snipe-5n.machine.json";
        QTest::newRow("single rotary") << "plover-4.machine.json";
    }
private slots:
    void forwardOfInverseIsWhereItStarted_data() { kinds(); }
    void forwardOfInverseIsWhereItStarted() {
        QFETCH(QString, file);
        Random r(21);
        Frame part = Frame::Identity();
        part.translation() = Vec3(12, -7, 41);
        part.linear() = rotation(r.direction(), 0.4);
        const Machine m = test::demoMachine(file.toStdString());
        const Kinematics k(m, part, 137.5);
        double worst = 0.0;
        for (int i = 0; i < 20'000; ++i) {
            // A reachable pose is one that some joints give.
            JointValues q(m.joints.size());
            for (std::size_t j = 0; j < q.size(); ++j) q[j] = r.number(std::max(m.joints[j].low, -3.1), std::min(m.joints[j].high, 3.1));
            const ToolPose pose = k.forward(q);
            const auto found = k.rotariesFor(pose.axis);
            QVERIFY(!found.solutions.empty());
            bool own = false;
            for (const auto& s : found.solutions) {
                const ToolPose again = k.forward(k.jointsFor(pose.tip, s.first, s.second));
                worst = std::max({worst, (again.tip - pose.tip).norm(), angleBetween(again.axis, pose.axis)});
                const auto r0 = k.rotaries();
                own = own || (s.firstFree || std::abs(std::remainder(s.first - q[static_cast<std::size_t>(r0[0])], 2 * kPi)) < 1e-6);
            }
            QVERIFY2(own, "the joints that made the pose are not among the solutions");
            if (k.rotaries().size() == 2 && !found.solutions[0].firstFree) QVERIFY(found.solutions.size() == 2 || std::abs(pose.axis.norm() - 1) > 1);
        }
        QVERIFY2(worst < 1e-9, qPrintable(QString::number(worst)));
    }
    void bodiesAndPathAgreeOnWhereTheToolIs_data() { kinds(); }
    // Two ways to the same place: the serial chain, and the bodies' own motion in machine coordinates.
    void bodiesAndPathAgreeOnWhereTheToolIs() {
        QFETCH(QString, file);
        Random r(22);
        const Machine m = test::demoMachine(file.toStdString());
        Frame part = Frame::Identity();
        part.translation() = Vec3(3, 4, 5);
        const Kinematics k(m, part, 100);
        for (int i = 0; i < 2000; ++i) {
            JointValues q(m.joints.size());
            for (auto& v : q) v = r.number(-2, 2);
            const Frame f = k.partInMachine(q).inverse() * k.toolInMachine(q);
            const ToolPose p = k.forward(q);
            QVERIFY((f.translation() - p.tip).norm() < 1e-9 && (f.linear().col(2) - p.axis).norm() < 1e-9);
        }
    }
    void outOfReachTellsTheMissingAngle() {
        const Machine m = test::demoMachine("plover-4.machine.json");
        const Kinematics k(m, Frame::Identity(), 100);
        const auto found = k.rotariesFor(Vec3(std::sin(0.2), 0, std::cos(0.2)));
        QVERIFY(found.solutions.empty());
        QVERIFY(std::abs(found.missing - 0.2) < 1e-12);
        const Machine n = test::demoMachine("snipe-5n.machine.json");
        QVERIFY(std::abs(Kinematics(n, Frame::Identity(), 100).rotariesFor(-Vec3::UnitZ()).missing - radians(90)) < 1e-9);
    }
    void aPoleLeavesTheTableFree() {
        const Kinematics k(test::demoMachine("heron-5t.machine.json"), Frame::Identity(), 100);
        const auto found = k.rotariesFor(Vec3::UnitZ());
        QVERIFY(!found.solutions.empty() && found.solutions[0].firstFree);
        QVERIFY(std::abs(found.solutions[0].second) < 1e-9);
    }
    void trunnionAnglesHaveTheSignsOfTheStandard() {
        // ISO 841: A turns the tool about X relative to the work. The axis (0, −sin A, cos A) is the tool's Z turned by +A about X.
        const Kinematics k(test::demoMachine("heron-5t.machine.json"), Frame::Identity(), 100);
        const auto j = k.machine().find("A");
        JointValues q(5, 0.0);
        q[static_cast<std::size_t>(j)] = radians(20);
        QVERIFY((k.forward(q).axis - Vec3(0, -std::sin(radians(20)), std::cos(radians(20)))).norm() < 1e-12);
    }
    void machineFilesSurviveARoundTripAndRefuseNonsense() {
        const std::string text = readFile(test::demoFile("heron-5t.machine.json"), 1 << 22).value();
        const auto m = machineFromJson(text, "m", GYRE_DEMO_DIR);
        QVERIFY(m);
        QCOMPARE(machineToJson(*m), text);
        const auto refused = [&](const char* from, const char* to) {
            std::string t = text;
            const auto at = t.find(from);
            QVERIFY2(at != std::string::npos, from);
            t.replace(at, std::strlen(from), to);
            QVERIFY2(!machineFromJson(t, "m", GYRE_DEMO_DIR), to);
        };
        refused("\"carriedBy\": \"A\"", "\"carriedBy\": \"Q\"");
        refused("\"version\": 1", "\"version\": 7");
        refused("\"kind\": \"rotary\"", "\"kind\": \"elastic\"");
        for (std::size_t cut = 0; cut < text.size(); cut += 97) QVERIFY(!machineFromJson(text.substr(0, cut), "m", GYRE_DEMO_DIR));
    }
    // Bodies may be mesh files beside the machine file, and nowhere else.
    void bodiesAreReadFromMeshFiles() {
        const Machine m = test::demoMachine("heron-5t.machine.json");
        const auto ring = std::find_if(m.bodies.begin(), m.bodies.end(), [](const MachineBody& b) { return b.name == "coolant ring"; });
        QVERIFY(ring != m.bodies.end() && ring->mesh && ring->tree);
        // The file's ring lies about its own middle; the frame puts it around the spindle, 322 mm up.
        QVERIFY((ring->mesh->bounds().centre() - Vec3(0, 0, 322)).norm() < 1e-4);
        QVERIFY(std::abs(ring->mesh->bounds().high.z() - 329) < 0.1);
        const std::string text = readFile(test::demoFile("heron-5t.machine.json"), 1 << 22).value();
        const auto with = [&](const std::string& file) {
            std::string t = text;
            t.replace(t.find("coolant-ring.stl"), std::strlen("coolant-ring.stl"), file);
            return machineFromJson(t, "m", GYRE_DEMO_DIR);
        };
        for (const char* bad : {"../coolant-ring.stl", "/etc/passwd", "not-there.stl", "heron-5t.machine.json", ""}) {
            const auto got = with(bad);
            QVERIFY2(!got, bad);
            QVERIFY(!got.error().what.empty());
        }
        QVERIFY(!machineFromJson(text, "m")); // a machine that is no file has no folder
    }
};

GYRE_TEST(TestMachine)

} // namespace test_machine
#include "test_machine.moc"
