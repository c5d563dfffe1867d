// The proof at the machine: against dense sampling of the same motion, and the marks that come of it.
#include "AtTheMachine.h"
#include "Program.h"
#include "Support.h"
#include "guard/GuardSpec.h"
#include "motion/SafeEnds.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include <set>

namespace test_proof {

using namespace gyre;
using test::Random;
using test::stretchOf;
using test::withBeam;

namespace {

bool tells(const ProofResult& proof, const std::string& body) {
    return std::any_of(proof.findings.begin(), proof.findings.end(), [&](const Finding& f) { return f.code == "bodies-meet" && f.text.find(body) != std::string::npos; });
}

} // namespace

class TestProof : public QObject {
    Q_OBJECT
    Progress m_quiet;
    const Workplace& place() { return *test::demoResults().results.place; }
    const OperationResult& whole() { return *test::demoResults().results.operations[0]; }

private slots:
    // A thin wire somewhere in the way of holder or shank. Whatever a dense look at the motion sees, the proof has found; and what the
    // proof calls clear the dense look finds clear by the margin.
    void whatADenseLookSeesTheProofHasFound() {
        Random r(91);
        const Machine& machine = *place().machine;
        std::vector<ConvexBody> tool;
        for (const Piece& p : piecesOf(whole().tool)) {
            ConvexBody b = ConvexBody::turned(p.shape);
            b.frame = machine.noseFrame * Eigen::Translation3d(0, 0, -whole().tool.gaugeLength());
            tool.push_back(b);
        }
        int met = 0, clear = 0;
        for (int n = 0; n < 40; ++n) {
            const auto first = static_cast<std::size_t>(r.integer(100, static_cast<int>(whole().motion->size()) - 400));
            const auto op = stretchOf(whole(), first, 60);
            // Near the tool at some step, in machine coordinates, standing on the base.
            const JointValues q = op->motion->jointsAt(static_cast<std::size_t>(r.integer(5, 50)));
            const Frame nose = linkMotion(machine, machine.toolJoint, q) * machine.noseFrame;
            ConvexBody wire = ConvexBody::box(Vec3(-40, -0.1, -0.1), Vec3(40, 0.1, 0.1));
            wire.frame.linear() = Eigen::Quaterniond::FromTwoVectors(Vec3::UnitX(), r.direction()).toRotationMatrix();
            wire.frame.translation() = nose * Vec3(r.number(-40, 40), r.number(-40, 40), -r.number(5, 110));
            const ProofSpec spec;
            const ProofResult proof = prove(withBeam(place(), wire, -1), *op, spec, m_quiet).value();
            double least = 1e9;
            for (std::size_t i = 0; i + 1 < op->motion->size(); ++i)
                for (int k = 0; k < 12; ++k) {
                    JointValues at(q.size());
                    for (std::size_t j = 0; j < at.size(); ++j) at[j] = op->motion->at(i)[j] + (op->motion->at(i + 1)[j] - op->motion->at(i)[j]) * k / 12.0;
                    const Frame tip = linkMotion(machine, machine.toolJoint, at);
                    for (ConvexBody piece : tool) {
                        piece.frame = tip * piece.frame;
                        least = std::min(least, convexDistance(piece, wire).value);
                    }
                }
            if (least < spec.margin) QVERIFY2(tells(proof, "wire"), qPrintable(QString("a wire met at %1 mm was missed").arg(least)));
            if (!tells(proof, "wire")) QVERIFY(least >= spec.margin);
            ++(tells(proof, "wire") ? met : clear);
        }
        qInfo("%d wires met, %d clear", met, clear);
        QVERIFY(met > 3 && clear > 3);
    }
    void bodiesThatRideTogetherAreNoPair() {
        // A beam through the spindle that rides on it meets nothing: it never moves against the tool.
        const Machine& machine = *place().machine;
        const ConvexBody beam = ConvexBody::box(machine.noseFrame.translation() - Vec3(60, 5, -20), machine.noseFrame.translation() + Vec3(60, 5, 30));
        const auto op = stretchOf(whole(), 500, 40);
        QVERIFY(!tells(prove(withBeam(place(), beam, machine.toolJoint), *op, ProofSpec{}, m_quiet).value(), "wire"));
    }
    void declaredPairsAreLeftOut() {
        const auto op = stretchOf(whole(), 500, 40);
        const JointValues q = op->motion->jointsAt(20);
        const Machine& machine = *place().machine;
        ConvexBody block = ConvexBody::box(Vec3(-30, -30, -80), Vec3(30, 30, -40));
        block.frame = linkMotion(machine, machine.toolJoint, q) * machine.noseFrame;
        Workplace in = withBeam(place(), block, -1);
        const ProofResult before = prove(in, *op, ProofSpec{}, m_quiet).value();
        QVERIFY(tells(before, "wire"));
        auto declared = std::make_shared<Machine>(*in.machine);
        for (const char* other : {"cutter", "shank", "holder", "head", "coolant ring", "lantern collar", "collar", "seat", "clamp 1", "clamp 2", "clamp 3", "table",
                                  "chuck", "cradle", "saddle"})
            declared->touching.emplace_back("wire", other);
        in.machine = declared;
        const ProofResult after = prove(in, *op, ProofSpec{}, m_quiet).value();
        QVERIFY(after.pairs < before.pairs);
        QVERIFY(!tells(after, "holder and wire") && !tells(after, "wire and holder"));
    }
    void whatTheGuardLetsNearerIsNotQuestionedAgain() {
        const auto& clearance = whole().shankClearance;
        const auto nearest = static_cast<std::size_t>(std::min_element(clearance.begin(), clearance.end()) - clearance.begin());
        const double least = clearance[nearest];
        const std::size_t step = whole().motion->stepOf[nearest];
        QVERIFY2(least > 0.5 && least < 5.0 && step > 4 && step + 5 < whole().motion->size(), qPrintable(QString::number(least)));
        const auto op = stretchOf(whole(), step - 4, 9);
        ProofSpec spec;
        spec.shank = least + 0.3;
        QVERIFY(tells(prove(place(), *op, spec, m_quiet).value(), "shank"));
        spec.shank = least - 0.3;
        QVERIFY(!tells(prove(place(), *op, spec, m_quiet).value(), "shank"));
        GuardSpec guard;
        guard.shankClearance = 0.05;
        guard.holderClearance = 3.0;
        spec = ProofSpec::under(guard);
        QCOMPARE(spec.shank, 0.05);
        QCOMPARE(spec.holder, spec.margin);
    }
    void theWayFromTheTopOfZIsProvenToo() {
        // High above the work, where no location of the path ever is.
        const Machine& machine = *place().machine;
        const JointValues q = whole().motion->jointsAt(0);
        const SafeEnds ends = safeEnds(machine, *whole().motion);
        const auto z = static_cast<std::size_t>(machine.find("Z"));
        QVERIFY(ends.above[z] > q[z] + 20);
        JointValues high = q;
        high[z] = 0.5 * (ends.above[z] + q[z]);
        ConvexBody wire = ConvexBody::box(Vec3(-40, -0.5, -0.5), Vec3(40, 0.5, 0.5));
        wire.frame = linkMotion(machine, machine.toolJoint, high) * machine.noseFrame * Eigen::Translation3d(0, 0, -whole().tool.gaugeLength() + 1.0);
        const auto op = stretchOf(whole(), 0, 1);
        QVERIFY(tells(prove(withBeam(place(), wire, -1), *op, ProofSpec{}, m_quiet).value(), "wire"));
    }
    // What stands only where the work passes while the rotaries turn, before the operation begins.
    void theSwingBeforeAnOperationIsProven() {
        Machine machine = *place().machine;
        machine.changeAt.clear(); // a changer that brings the slides back
        const auto op = stretchOf(whole(), 0, 1);
        const SafeEnds ends = safeEnds(machine, *op->motion);
        const auto c = static_cast<std::size_t>(machine.find("C"));
        Standing start{ends.above, true};
        start.joints[c] -= radians(120);
        JointValues middle = ends.above;
        middle[c] -= radians(60);
        // A post that rides on the table, and a wire of the base where it passes at half way.
        ConvexBody post = ConvexBody::box(Vec3(-3, -3, -3), Vec3(3, 3, 3)), wire = post;
        const Vec3 onTable = machine.workFrame * Vec3(250, 0, 0);
        post.frame.translation() = onTable;
        wire.frame.translation() = linkMotion(machine, machine.workJoint, middle) * onTable;
        const Workplace in = withBeam(withBeam(place(), wire, -1), post, machine.workJoint);
        const auto met = [&](const Standing& s) {
            const ProofResult proof = prove(in, *op, ProofSpec{}, m_quiet, s).value();
            return std::any_of(proof.findings.begin(), proof.findings.end(), [](const Finding& f) { return f.text.find("before it begins") != std::string::npos; });
        };
        QVERIFY(met(start));
        QVERIFY(!met(Standing{ends.above, true}));
        QVERIFY(!met(Standing{}));
        // As the operation before left it; the first one finds the rotaries at 0.
        const Standing after = standingAfter(machine, op.get());
        QVERIFY(after.slides && after.joints == ends.aboveExit);
        const Standing first = standingAfter(machine, nullptr);
        QVERIFY(!first.slides && first.joints == JointValues(machine.joints.size(), 0.0));
    }
    // Ways to and from the place where the tool is changed are proven, where the machine says where that is.
    void waysToTheToolChangeAreProven() {
        Machine machine = *place().machine;
        machine.changeAt.assign(machine.joints.size(), std::nullopt);
        const auto op = stretchOf(whole(), 0, 1);
        const SafeEnds ends = safeEnds(machine, *op->motion);
        const auto x = static_cast<std::size_t>(machine.find("X"));
        const double far = ends.aboveExit[x] > 0 ? machine.joints[x].low : machine.joints[x].high;
        // Half way across a post of the base stands up to the head.
        JointValues half = ends.aboveExit;
        half[x] = 0.5 * (ends.aboveExit[x] + far);
        ConvexBody post = ConvexBody::box(Vec3(-4, -4, -4), Vec3(4, 4, 4));
        post.frame.translation() = linkMotion(machine, machine.toolJoint, half) * Vec3(machine.noseFrame.translation() + Vec3(0, 0, 20));
        const auto met = [&](const Standing& s) {
            Workplace in = withBeam(place(), post, -1);
            Machine changed = *in.machine;
            changed.changeAt = machine.changeAt;
            in.machine = std::make_shared<const Machine>(changed);
            std::set<std::string> out;
            const ProofResult proof = prove(in, *op, ProofSpec{}, m_quiet, s).value();
            for (const Finding& f : proof.findings)
                if (f.text.find("wire") != std::string::npos)
                    out.insert(f.text.find("tool is changed") != std::string::npos ? "to" : f.text.find("before it begins") != std::string::npos ? "from" : f.text);
            return out;
        };
        QVERIFY(met(standingAfter(machine, op.get())).empty());
        machine.changeAt[x] = far;
        const Standing from = standingAfter(machine, op.get());
        QVERIFY(from.slides && from.joints[x] == far);
        const auto both = met(from);
        QVERIFY2(both.count("to") == 1 || both.count("from") == 1, both.empty() ? "nothing" : both.begin()->c_str());
        // On the far side of the post nothing is passed on the way there; before the first operation the slides are known as well.
        machine.changeAt[x] = ends.aboveExit[x];
        QVERIFY(met(standingAfter(machine, op.get())).empty());
        QVERIFY(!standingAfter(machine, nullptr).slides); // Y is not said
        machine.changeAt[static_cast<std::size_t>(machine.find("Y"))] = 0.0;
        QVERIFY(standingAfter(machine, nullptr).slides);
    }
    void marksAreThoseOfTheirFindings() {
        QVERIFY(marksOf(nullptr, nullptr) == (Marks{Mark::Unknown, Mark::Unknown, Mark::Unknown, Mark::Unknown, Mark::Unknown}));
        OperationResult clean = whole();
        clean.findings.clear();
        QVERIFY(marksOf(&clean, nullptr) == (Marks{Mark::Clear, Mark::Clear, Mark::Clear, Mark::Clear, Mark::Unknown}));
        ProofResult proof;
        QVERIFY(marksOf(&clean, &proof)[4] == Mark::Clear);
        const Check checks[] = {Check::Gouge, Check::Shank, Check::Holder, Check::Travel, Check::Machine};
        for (std::size_t i = 0; i < 5; ++i) {
            OperationResult r = clean;
            Finding f;
            f.check = checks[i];
            f.rank = Rank::Look;
            r.findings.push_back(f);
            QVERIFY(marksOf(&r, &proof)[i] == Mark::Look);
            f.rank = Rank::Stop;
            r.findings.push_back(f);
            QVERIFY(marksOf(&r, &proof)[i] == Mark::Stop); // the graver one counts
            for (std::size_t k = 0; k < 5; ++k)
                if (k != i) QVERIFY(marksOf(&r, &proof)[k] == Mark::Clear);
            f.rank = Rank::Note;
            r.findings = {f};
            QVERIFY(marksOf(&r, &proof)[i] == Mark::Clear);
        }
        Finding path;
        path.rank = Rank::Stop;
        path.check = Check::Path;
        clean.findings = {path};
        QVERIFY(marksOf(&clean, &proof)[0] == Mark::Stop);
    }
    void whatIsNotCompleteIsNotProven() {
        OperationResult nothing;
        const ProofResult proof = prove(place(), nothing, ProofSpec{}, m_quiet).value();
        QCOMPARE(proof.pairs, std::size_t(0));
        QVERIFY(marksOf(&nothing, nullptr)[0] == Mark::Unknown);
    }
    void provingCanBeCancelled() {
        Progress progress;
        progress.cancel();
        const auto proof = prove(place(), whole(), ProofSpec{}, progress);
        QVERIFY(!proof && proof.error().cancelled);
    }
};

GYRE_TEST(TestProof)

} // namespace test_proof
#include "test_proof.moc"
