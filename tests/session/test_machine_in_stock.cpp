// Bodies of the machine, and the tool where the machine leads it, against stock that still stands by then; by distances of boxes.
#include "AtTheMachine.h"
#include "Program.h"
#include "Support.h"
#include "job/StockShape.h"
#include "link/Link.h"
#include "motion/SafeEnds.h"
#include "session/MachineInStock.h"
#include "stock/Stock.h"

namespace test_machine_in_stock {

using namespace gyre;
using test::stretchOf;
using test::withBeam;

namespace {

/// A machine part or stock where it stands, as a box.
struct Block {
    Vec3 low, high;
    [[nodiscard]] ConvexBody body() const { return ConvexBody::box(low, high); }
    [[nodiscard]] std::shared_ptr<const Part> part() const {
        StockShape s;
        s.low = low;
        s.high = high;
        return Part::fromMesh(s.mesh(), "left over", 0.01).value();
    }
    static Block around(const Vec3& middle, double size) { return {middle - Vec3::Constant(0.5 * size), middle + Vec3::Constant(0.5 * size)}; }
};

Workplace withStock(const Workplace& place, const Block& block) {
    Workplace changed = place;
    std::erase_if(changed.bodies, [](const PlacedBody& b) { return b.role == "stock"; });
    changed.bodies.push_back({"left over", "stock", block.part()});
    return changed;
}

const Finding* about(const std::vector<Finding>& findings, const std::string& body) {
    for (const Finding& f : findings)
        if (f.code == "machine-in-stock" && f.text.starts_with(body + " comes to left over")) return &f;
    return nullptr;
}

} // namespace

class TestMachineInStock : public QObject {
    Q_OBJECT
    Progress m_quiet;
    Workplace m_place; ///< the demo's, with a changer that brings the slides back
    const Workplace& place() { return m_place; }
    const OperationResult& whole() { return *test::demoResults().results.operations[0]; }
    const Machine& machine() { return *place().machine; }
    /// From a link's coordinates to the part's datum.
    Frame toDatum(int link, const JointValues& q) {
        return (linkMotion(machine(), machine().workJoint, q) * machine().workFrame * place().partFrame).inverse() * linkMotion(machine(), link, q);
    }
    static JointValues between(const JointValues& a, const JointValues& b, double share) {
        JointValues at(a.size());
        for (std::size_t j = 0; j < at.size(); ++j) at[j] = (1.0 - share) * a[j] + share * b[j];
        return at;
    }
    Vec3 tipAt(const JointValues& q, double above = 0.0) {
        return toDatum(machine().toolJoint, q) * machine().noseFrame * Vec3(0, 0, above - whole().tool.gaugeLength());
    }
    /// A stretch, and a step of it where the cutter stands far from the ways up from its ends.
    std::pair<std::shared_ptr<OperationResult>, std::size_t> farFromTheWays() {
        for (std::size_t first = 500; first + 700 < whole().motion->size(); first += 50) {
            auto op = stretchOf(whole(), first, 600);
            const auto apart = [&](std::size_t end, std::size_t step) {
                const JointValues q = op->motion->jointsAt(end);
                return rejected(tipAt(op->motion->jointsAt(step)) - tipAt(q), Vec3(tipAt(q, 1.0) - tipAt(q))).norm();
            };
            for (std::size_t step = 100; step < 500; step += 10)
                if (apart(0, step) > 45.0 && apart(599, step) > 45.0) return {op, step};
        }
        return {};
    }
    /// The stock as it stands, cut into cells of a fifth of a millimetre.
    PresentStock standing(const Block& block) {
        return [this, block](Progress&) -> Result<std::shared_ptr<const Stock>> {
            const TriangleMesh mesh = block.part()->mesh();
            return std::make_shared<const Stock>(Stock::of({&mesh}, 0.2, m_quiet).value());
        };
    }
    /// The same, and the cutter has been everywhere in it.
    PresentStock gone(const Block& block) {
        return [this, block](Progress&) -> Result<std::shared_ptr<const Stock>> {
            const TriangleMesh mesh = block.part()->mesh();
            Stock stock = Stock::of({&mesh}, 0.2, m_quiet).value();
            Cutter wide;
            wide.shape = CutterShape::Flat;
            wide.diameter = 200.0;
            wide.fluteLength = wide.overallLength = 200.0;
            stock.remove(AxisPose{0.5 * (block.low + block.high) - Vec3(0, 0, 100), Vec3::UnitZ()}, wide);
            return std::make_shared<const Stock>(std::move(stock));
        };
    }
    std::vector<Finding> told(const Workplace& in, const OperationResult& op, const PresentStock& present, const Standing& start = {}) {
        return machineThroughStock(in, op, ProofSpec{}, start, present, m_quiet).value();
    }

private slots:
    void initTestCase() {
        m_place = *test::demoResults().results.place;
        auto machine = std::make_shared<Machine>(*m_place.machine);
        machine->changeAt.clear();
        m_place.machine = machine;
    }
    // An arm of the head beside a block, at random: what a dense look at the motion sees nearer than the margin is told, and what is told is not further
    // off than what is told to be known.
    void asADenseLookAtBoxesHasIt() {
        test::Random r(static_cast<unsigned>(QDateTime::currentMSecsSinceEpoch()));
        int met = 0, clear = 0, asSetUp = 0;
        for (int n = 0; n < 40; ++n) {
            const auto op = stretchOf(whole(), static_cast<std::size_t>(r.integer(100, static_cast<int>(whole().motion->size()) - 400)), 60);
            ConvexBody arm = ConvexBody::box(-Vec3(r.number(4, 30), r.number(4, 30), r.number(4, 30)), Vec3(5, 5, 5));
            arm.frame.linear() = Eigen::Quaterniond::FromTwoVectors(Vec3::UnitX(), r.direction()).toRotationMatrix();
            arm.frame.translation() = machine().noseFrame * Vec3(r.number(-150, 150), r.number(-150, 150), r.number(-80, 80));
            ConvexBody there = arm;
            there.frame = toDatum(machine().toolJoint, op->motion->jointsAt(static_cast<std::size_t>(r.integer(5, 50)))) * arm.frame;
            const Block block = Block::around(there.middle() + r.number(0.0, 70.0) * r.direction(), r.number(3.0, 25.0));
            const Workplace in = withBeam(withStock(place(), block), arm, machine().toolJoint);
            const bool known = n % 2 == 0;
            const auto findings = told(in, *op, known ? standing(block) : PresentStock());
            const Finding* f = about(findings, "wire");
            // All of the motion, and the ways from and to the top of Z.
            const SafeEnds ends = safeEnds(machine(), *op->motion);
            std::vector<JointValues> steps{ends.above};
            for (std::size_t i = 0; i < op->motion->size(); ++i) steps.push_back(op->motion->jointsAt(i));
            steps.push_back(ends.aboveExit);
            double least = 1e9;
            for (std::size_t i = 0; i + 1 < steps.size(); ++i) {
                const int parts = i == 0 || i + 2 == steps.size() ? 2000 : 12;
                for (int k = 0; k < parts; ++k) {
                    ConvexBody at = arm;
                    at.frame = toDatum(machine().toolJoint, between(steps[i], steps[i + 1], static_cast<double>(k) / parts)) * arm.frame;
                    least = std::min(least, convexDistance(at, block.body()).value);
                }
            }
            if (least < ProofSpec{}.margin) QVERIFY2(f, qPrintable(QString("an arm at %1 mm was missed").arg(least)));
            if (f)
                QVERIFY2(least <= f->amount + 0.35 && f->rank == Rank::Stop && f->check == Check::Machine,
                         qPrintable(QString("%1 at %2").arg(f->text.c_str()).arg(least)));
            if (f) QVERIFY((f->text.find("still stands") != std::string::npos) == known);
            asSetUp += f && !known ? 1 : 0;
            ++(f ? met : clear);
            if (f) QVERIFY(!about(told(in, *op, gone(block)), "wire")); // not once it is gone
        }
        qInfo("%d met, %d clear", met, clear);
        QVERIFY(met > 3 && clear > 3 && asSetUp > 0);
    }
    // What rides with the stock never comes to it, nor does the tool on the operation's own ways: those are asked elsewhere.
    void whatIsNotAsked() {
        const auto [op, step] = farFromTheWays();
        QVERIFY(op);
        const Vec3 tip = tipAt(op->motion->jointsAt(step));
        const Block block = Block::around(tip, 2.0);
        ConvexBody onTable = ConvexBody::box(Vec3(-5, -5, -5), Vec3(5, 5, 5));
        onTable.frame.translation() = machine().workFrame * place().partFrame * tip;
        const Workplace in = withBeam(withStock(place(), block), onTable, machine().workJoint);
        for (const Finding& f : told(in, *op, standing(block))) QFAIL(f.text.c_str());
    }
    // Over the top of Z the machine goes other ways than from tip to tip: there the tool is asked too.
    void theToolIsAskedWhereTheRotariesTurn() {
        const auto [op, step] = farFromTheWays();
        QVERIFY(op);
        // Within the holder, where no cut of the path has been.
        const Block block = Block::around(tipAt(between(op->motion->jointsAt(step), op->motion->jointsAt(step + 1), 0.5), 0.9 * whole().tool.gaugeLength()), 2.0);
        const Workplace in = withStock(place(), block);
        QVERIFY(told(in, *op, standing(block)).empty());
        auto swung = std::make_shared<JointMotion>(*op->motion);
        swung->swings = {swung->location[step + 1]};
        op->motion = swung;
        const auto findings = told(in, *op, standing(block));
        const Finding* f = about(findings, "holder");
        QVERIFY(f && f->check == Check::Holder && f->span && f->span->first == swung->location[step + 1]);
    }
    // The way down from the top of Z, and the way back.
    void theWayFromTheTopOfZ() {
        const auto op = stretchOf(whole(), 500, 40);
        const SafeEnds ends = safeEnds(machine(), *op->motion);
        const auto z = static_cast<std::size_t>(machine().find("Z"));
        for (const bool back : {false, true}) {
            JointValues high = back ? ends.exit : ends.entry;
            high[z] = 0.5 * (high[z] + ends.above[z]);
            const Block block = Block::around(tipAt(high, 1.0), 3.0);
            const auto findings = told(withStock(place(), block), *op, standing(block));
            const Finding* f = about(findings, "cutter");
            QVERIFY(f && f->text.ends_with("top of Z"));
            QVERIFY(told(withStock(place(), block), *op, gone(block)).empty());
            // A large block of which only that still stands: where the way first comes to it there is nothing any more.
            const Block large = Block::around(0.5 * (block.low + block.high), 60.0);
            QVERIFY(about(told(withStock(place(), large), *op, standing(block)), "cutter"));
        }
    }
    // An arm that comes where the cutter has been before: the block is gone by then. One that comes there first meets it.
    void whatIsCutByThenIsGone() {
        const auto& path = *whole().path();
        const auto& motion = *whole().motion;
        int before = 0, after = 0;
        for (std::size_t first = 5; first + 400 < motion.size() && (before < 3 || after < 3); first += 31) {
            const auto op = stretchOf(whole(), first, 120);
            const std::size_t cutAt = op->motion->location[60];
            if (path.motion[cutAt] != Motion::Cut) continue;
            const Block block = Block::around(path.tip[cutAt] + 1.5 * path.axis[cutAt], 0.8); // within the cutter there
            // Cut by nothing but this stretch?
            Stock untouched = **standing(block)(m_quiet);
            QVERIFY(untouched.remove({.path = path, .cutter = whole().tool.cutter, .to = op->motion->location[2]}, m_quiet).has_value());
            const bool fresh = std::abs(untouched.volume() - 0.512) < 0.01;
            for (const std::size_t armAt : {std::size_t{20}, std::size_t{100}}) {
                if ((armAt == 20 ? before : after) >= 3) continue;
                Stock then = untouched;
                QVERIFY(then.remove({.path = path, .cutter = whole().tool.cutter, .to = op->motion->location[armAt]}, m_quiet).has_value());
                const bool stands = fresh && std::abs(then.volume() - 0.512) < 0.01;
                if (!stands && then.volume() > 1e-9) continue; // half of it
                // An arm that rides with the base, as a needle through the block at that step alone.
                ConvexBody needle = ConvexBody::box(Vec3(-0.2, -0.2, -0.2), Vec3(0.2, 0.2, 0.2));
                const JointValues q = op->motion->jointsAt(armAt);
                needle.frame.translation() =
                    (linkMotion(machine(), machine().workJoint, q) * machine().workFrame * place().partFrame) * Vec3(0.5 * (block.low + block.high));
                const Workplace in = withBeam(withStock(place(), block), needle, -1);
                // The needle may meet the block at other steps as well, where the table hardly moves: those that come while it stands are told.
                const auto findings = told(in, *op, standing(block));
                if (stands) {
                    QVERIFY(about(findings, "wire"));
                    ++before;
                } else if (!about(findings, "wire")) {
                    ++after;
                } else {
                    Stock told = untouched; // then something of it does stand
                    QVERIFY(told.remove({.path = path, .cutter = whole().tool.cutter, .to = about(findings, "wire")->span->first}, m_quiet).has_value());
                    QVERIFY(told.volume() > 1e-6);
                }
            }
        }
        qInfo("%d came before the cutter, %d after it", before, after);
        QVERIFY(before >= 3 && after >= 3);
    }
    void calledOff() {
        const auto op = stretchOf(whole(), 500, 40);
        const Block block = Block::around(Vec3::Zero(), 5.0);
        Progress off;
        off.cancel();
        QVERIFY(!machineThroughStock(withStock(place(), block), *op, ProofSpec{}, {}, standing(block), off));
    }
};

GYRE_TEST(TestMachineInStock)

} // namespace test_machine_in_stock
#include "test_machine_in_stock.moc"
