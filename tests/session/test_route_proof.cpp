// What the tool meets of the stock as it stands when it comes there: shank, holder, rapids; not once it is gone.
#include "Program.h"
#include "ReadBack.h"
#include "Support.h"
#include "base/Text.h"
#include "job/Job.h"
#include "job/StockShape.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/StockOnTheWay.h"
#include "session/RouteProof.h"
#include "session/Sending.h"
#include "stock/CutFeed.h"

namespace test_route_proof {

using namespace gyre;

namespace {

const Finding* found(const std::vector<Finding>& findings, const std::string& code) {
    for (const Finding& f : findings)
        if (f.code == code) return &f;
    return nullptr;
}

StockShape block(const Vec3& low, const Vec3& high) {
    StockShape s;
    s.low = low;
    s.high = high;
    return s;
}

} // namespace

class TestRouteProof : public QObject {
    Q_OBJECT
    Workshop m_workshop{test::demoFile("").parent_path()};
    StageCache m_cache;
    Progress m_progress;

    JobResults computed(const Job& job) { return computeJob(job, m_workshop, m_cache, m_progress).value(); }
    std::vector<ProofResult> proven(const Job& job, const JobResults& results) {
        RouteProof proofs(results.place, m_cache);
        std::vector<ProofResult> out;
        for (const auto& r : results.operations) out.push_back(proofs.next(r, ProofSpec::under(job.resolved(*job.operation(r->operation)).guard), m_progress).value());
        return out;
    }
    static void solid(Job& job, const StockShape& shape) {
        for (JobBody& b : job.bodies)
            if (b.role == "stock") b.shape = shape;
    }

private slots:
    // The yoke's edges are broken on a part that was roughed: all clear. The same paths in a solid block: shank, holder and rapids run into it.
    void aSolidBlockIsTold() {
        Job job = openJob(test::demoFile("yoke-edges.gyre.json")).value();
        const JobResults good = computed(job);
        for (const ProofResult& p : proven(job, good))
            for (const Finding& f : p.findings) QFAIL(f.text.c_str());
        QVERIFY(judge(job, good, m_cache, m_progress).value().clean());
        solid(job, block({-60, -44, 0}, {60, 44, 66}));
        const JobResults bad = computed(job);
        const auto proofs = proven(job, bad);
        const Finding *rapids = found(proofs[0].findings, "rapid-through-stock"), *shank = found(proofs[1].findings, "shank-in-stock"),
                      *holder = found(proofs[1].findings, "holder-in-stock");
        QVERIFY(rapids && shank && holder);
        QVERIFY(rapids->check == Check::Path && shank->check == Check::Shank && holder->check == Check::Holder && holder->rank == Rank::Stop);
        QVERIFY2(holder->text.find("roughed part") != std::string::npos, holder->text.c_str());
        // Marks, and nothing is written by accident.
        const Marks marks = marksOf(bad.operations[1].get(), &proofs[1]);
        QVERIFY(marks[1] == Mark::Stop && marks[2] == Mark::Stop);
        QVERIFY(!judge(job, bad, m_cache, m_progress).value().clean());
        // The place told: there the shank does lie in the block as it was set up, at least as deep as told within a cell, for cuts took from it only.
        const OperationResult& op = *bad.operations[1];
        const std::size_t at = holder->span->first;
        const Vec3 tip(holder->place->at(0), holder->place->at(1), holder->place->at(2)), axis = op.path()->axis[at];
        double deepest = 0.0;
        test::Random random(5);
        for (const Piece& piece : piecesOf(op.tool)) {
            if (piece.zone != Zone::Holder) continue;
            for (int k = 0; k < 20000; ++k) {
                const double t = random.number(0, 1), z = piece.shape.z0 + t * (piece.shape.z1 - piece.shape.z0);
                const double r = (piece.shape.r0 + t * (piece.shape.r1 - piece.shape.r0)) * std::sqrt(random.number(0, 1)), a = random.number(0, 2 * kPi);
                const Vec3 x = anyPerpendicular(axis), p = tip + z * axis + r * (std::cos(a) * x + std::sin(a) * axis.cross(x));
                if (p.cwiseAbs().x() < 60 && p.cwiseAbs().y() < 44 && p.z() > 0 && p.z() < 66)
                    deepest = std::max(deepest, std::min(z - op.tool.stickOut, piece.shape.r0 + t * (piece.shape.r1 - piece.shape.r0) - r));
            }
        }
        QVERIFY2(holder->amount > 0.5 && std::abs(deepest - holder->amount) < 1.0, qPrintable(QString("%1 told, %2 by points").arg(holder->amount).arg(deepest)));
    }
    // What an operation before has cut away is not told any more: roughing on or off.
    void whatIsGoneIsNotTold() {
        Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        const auto told = [&](const Job& j) {
            const JobResults r = computed(j);
            std::size_t n = 0;
            const auto proofs = proven(j, r);
            for (const ProofResult& p : proofs)
                for (const Finding& f : p.findings) n += f.code == "shank-in-stock" || f.code == "rapid-through-stock" || f.code == "holder-in-stock";
            return n;
        };
        QCOMPARE(told(job), std::size_t(0));
        for (const char* id : {"op1", "op2"}) job.operation(id)->active = false;
        QVERIFY(told(job) > 0);
    }
    // A proof knows the stock it was made with: other stock, or another path before, and it is another's.
    void aProofIsThatOfItsStock() {
        Job job = openJob(test::demoFile("yoke-edges.gyre.json")).value();
        const JobResults r = computed(job);
        const auto proofs = proven(job, r);
        QCOMPARE(proofs[0].stock, stockFound(*r.place, {}));
        QCOMPARE(proofs[1].stock, stockFound(*r.place, {r.operations[0]}));
        QVERIFY(proofs[0].stock != proofs[1].stock);
        solid(job, block({-60, -44, 0}, {60, 44, 65}));
        QVERIFY(stockFound(*computed(job).place, {}) != proofs[0].stock);
        Job other = openJob(test::demoFile("yoke-edges.gyre.json")).value();
        QVERIFY(setWord(other, other.route[0].id, "edge.size", "0.7"));
        const JobResults changed = computed(other);
        QVERIFY(stockFound(*changed.place, {changed.operations[0]}) != proofs[1].stock);
    }
    // Feeds follow the cut: never under or over what is allowed, the time told is that of the motion, the program says the same and is read back.
    // They rest on what stands: another operation before, and they are others.
    void theFeedFollowsTheCut() {
        const auto job = [&](bool follows) {
            Job j = openJob(test::demoFile("yoke-work.gyre.json")).value();
            j.route.erase(j.route.begin() + 3, j.route.end());
            for (const char* id : {"op1", "op2"}) j.operation(id)->active = false;
            if (follows) {
                [&] {
                    for (const auto& [key, value] : {std::pair("tool.limits.engaged", "120"), std::pair("feedByCut.on", "true"), std::pair("feedByCut.least", "60"),
                                                     std::pair("feedByCut.most", "180")})
                        QVERIFY(setWord(j, "op3", key, value));
                }();
            }
            return j;
        };
        const Job plain = job(false), fed = job(true);
        const JobResults was = computed(plain), is = computed(fed);
        const OperationResult &before = *was.operations.back(), &now = *is.operations.back();
        QVERIFY(!before.cutFeed && now.cutFeed && now.cutFeed->least >= 0.6 && now.cutFeed->most <= 1.8 && now.cutFeed->least < 0.95 && now.cutFeed->most > 1.05);
        QCOMPARE(now.cutFeed->secondsAsAsked, before.motion->duration);
        QVERIFY(now.motion->duration > before.motion->duration + 1.0);
        QVERIFY2(now.facts(Stage::Links).find(clockText(now.motion->duration) + " instead of " + clockText(before.motion->duration)) != std::string::npos,
                 now.facts(Stage::Links).c_str());
        QCOMPARE(now.path()->size(), before.path()->size());
        for (std::size_t i = 0; i < now.path()->size(); ++i) {
            QVERIFY(now.path()->tip[i] == before.path()->tip[i] && now.path()->axis[i] == before.path()->axis[i]);
            QVERIFY(now.path()->motion[i] == Motion::Cut || now.cutFeed->share[i] <= 1.0F);
            QCOMPARE(now.path()->feed[i], before.path()->rapid(i) ? before.path()->feed[i] : before.path()->feed[i] * now.cutFeed->share[i]);
        }
        QVERIFY(now.shankClearance == before.shankClearance);
        // Measured with these feeds every chip is a tooth's feed at the most, and what stands in further than it may is slower in proportion, but where
        // it is as slow as may be.
        RouteStock route(is.place, m_cache);
        for (const auto& r : is.operations) route.add(r);
        const Engagement e = route.engagementOf(route.operations().size() - 1, m_progress, Places::All).value();
        std::size_t wide = 0;
        for (std::size_t i = 0; i < e.at.size(); ++i) {
            if (now.path()->motion[i] != Motion::Cut || now.cutFeed->share[i] < 0.601F) continue;
            const double most = now.tool.feedPerTooth * std::min(1.0, 120.0 / std::max(1.0, static_cast<double>(e.at[i].angle)));
            wide += e.at[i].angle > 120.0F;
            QVERIFY2(static_cast<double>(e.at[i].chip) <= 1.001 * now.tool.feedPerTooth, qPrintable(QString::number(i)));
            QVERIFY(e.at[i].angle <= 120.0F || static_cast<double>(now.cutFeed->share[i]) <= 1.001 * most / now.tool.feedPerTooth);
        }
        QVERIFY(wide > 10);
        // The program.
        for (const Dialect dialect : {Dialect::Joints, Dialect::TipControl}) {
            std::string text;
            const std::string wrong = test::readAgain(postInputOf(fed, is.place, is.operations), dialect, text);
            QVERIFY2(wrong.empty(), wrong.c_str());
        }
        // With the roughing before it less stands there.
        Job roughed = fed;
        roughed.operation("op1")->active = true;
        QVERIFY(roughed.resolved(*roughed.operation("op3")).rests != fed.resolved(*fed.operation("op3")).rests);
        const JobResults less = computed(roughed);
        QVERIFY(less.operations.back()->key != now.key && less.operations.back()->cutFeed->share != now.cutFeed->share);
        // Without stock nobody knows; the feed stays, and that is said. Its remedy serves.
        Job bare = fed;
        std::erase_if(bare.bodies, [](const JobBody& b) { return b.role == "stock"; });
        const JobResults none = computed(bare);
        const Finding* f = found(none.operations.back()->findings, "feed-as-asked");
        QVERIFY(f && f->rank == Rank::Look && !none.operations.back()->cutFeed && f->remedies.size() == 1);
        QVERIFY(setWord(bare, "op3", f->remedies[0].key, f->remedies[0].value));
        QVERIFY(!found(computed(bare).operations.back()->findings, "feed-as-asked"));
    }
    // What a cut asks of the tool over what the tool may take is told with its place, and each remedy does what it says.
    void heavyCutsAreTold() {
        Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        job.route.erase(job.route.begin() + 4, job.route.end());
        job.route.erase(job.route.begin(), job.route.begin() + 3); // pockets in the full block
        const auto heavy = [&](const Job& j) {
            std::vector<Finding> out;
            const JobResults r = computed(j);
            const auto proofs = proven(j, r);
            for (const Finding& f : proofs.back().findings)
                if (f.code == "heavy-cut") out.push_back(f);
            return out;
        };
        QVERIFY(heavy(job).empty()); // nobody said what it may take
        QVERIFY(setWord(job, "op4", "tool.limits.chip", "0.03"));
        std::vector<Finding> told = heavy(job);
        QVERIFY(!told.empty() && told.size() <= 6);
        QVERIFY2(told[0].rank == Rank::Look && told[0].span && told[0].place && told[0].amount > 0.045 && told[0].remedies.size() == 2, told[0].text.c_str());
        const Remedy slower = told[0].remedies[0], follow = told[0].remedies[1];
        Job slow = job;
        QVERIFY(setWord(slow, "op4", slower.key, slower.value));
        for (const Finding& f : heavy(slow)) QFAIL(f.text.c_str());
        Job following = job;
        QVERIFY(setWord(following, "op4", follow.key, follow.value));
        for (const Finding& f : heavy(following)) QFAIL(f.text.c_str());
        // Wider than it may: slower in proportion it is a Note.
        QVERIFY(setWord(job, "op4", "tool.limits.chip", "0") && setWord(job, "op4", "tool.limits.engaged", "120"));
        told = heavy(job);
        QVERIFY(!told.empty() && told[0].rank == Rank::Look && told[0].amount > 123.0 && told[0].remedies.size() == 1);
        QVERIFY(setWord(job, "op4", told[0].remedies[0].key, told[0].remedies[0].value));
        told = heavy(job);
        QVERIFY(!told.empty());
        for (const Finding& f : told) QVERIFY2(f.rank == Rank::Note && f.remedies.empty(), f.text.c_str());
    }
    // A slot 15 mm deep, in two steps, with the holder 12 mm over the tip: 3 mm too deep, and the stick-out offered is 15 with a tenth for rounding.
    // Taken, it serves; where a wider neck would touch, or the tool is too short, none is offered.
    void theStickOutOfferedServes() {
        const Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        const JobResults r = computed(job);
        OperationResult slot = *r.operations.front();
        auto links = std::make_shared<LinkResult>(*slot.links);
        links->path = {};
        links->path.push({-90, 0, 58}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        links->path.push({90, 0, 58}, Vec3::UnitZ(), Motion::Cut, 0, 500);
        links->path.push({90, 0, 80}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        links->path.push({-90, 0, 80}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        links->path.push({-90, 0, 51}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        links->path.push({90, 0, 51}, Vec3::UnitZ(), Motion::Cut, 0, 500);
        slot.links = links;
        slot.findings.clear();
        slot.tool.cutter.diameter = 10;
        slot.tool.cutter.fluteLength = 12;
        slot.tool.cutter.shoulderLength = 20;
        slot.tool.cutter.neckDiameter = 9;
        slot.tool.cutter.shankDiameter = 10;
        slot.tool.cutter.overallLength = 70;
        slot.tool.stickOut = 12;
        slot.tool.holder = {{40, 40, 30}};
        const RouteStock stock(r.place, m_cache);
        const auto asked = [&](const OperationResult& op) {
            return toolThroughStock(
                       *r.place, op, [&](Progress& p) { return stock.now(p); }, m_progress)
                .value();
        };
        const auto findings = asked(slot);
        QCOMPARE(findings.size(), std::size_t(1));
        QCOMPARE(findings[0].code, std::string("holder-in-stock"));
        QVERIFY2(std::abs(findings[0].amount - 3.0) < 0.02, findings[0].text.c_str());
        QCOMPARE(findings[0].remedies.size(), std::size_t(1));
        QCOMPARE(findings[0].remedies[0].key, std::string("tool.stickOut"));
        // Where nobody can say what is left of the stock, all of it counts, and that is said.
        const auto unknown = toolThroughStock(
                                 *r.place, slot, [](Progress&) -> Result<std::shared_ptr<const Stock>> { return fail("the stock is not closed"); }, m_progress)
                                 .value();
        QVERIFY(!unknown.empty() && unknown.back().code == "holder-in-stock" && unknown.back().remedies.empty());
        QVERIFY2(unknown.back().text.find("as it is set up") != std::string::npos && unknown.back().reason.find("not known") != std::string::npos,
                 unknown.back().text.c_str());
        slot.tool.stickOut = numberIn(findings[0].remedies[0].value).value();
        QVERIFY(slot.tool.stickOut > 15.0 && slot.tool.stickOut < 15.2);
        QVERIFY(asked(slot).empty());
        slot.tool.stickOut = 12;
        slot.tool.cutter.overallLength = 15;
        QVERIFY(asked(slot)[0].remedies.empty());
        slot.tool.cutter.overallLength = 70;
        slot.tool.cutter.shoulderLength = 12; // the shank, wider than the slot, would come down with it
        slot.tool.cutter.shankDiameter = 12;
        QVERIFY(asked(slot)[0].remedies.empty());
        // In one step the flutes are too short: what stands over them meets the neck, and more stick-out is no remedy.
        slot.tool.cutter.shoulderLength = 20;
        slot.tool.cutter.shankDiameter = 10;
        auto once = std::make_shared<LinkResult>(*links);
        once->path = {};
        once->path.push({-90, 0, 51}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        once->path.push({90, 0, 51}, Vec3::UnitZ(), Motion::Cut, 0, 500);
        slot.links = once;
        QVERIFY(asked(slot)[0].remedies.empty());
    }
    // A ring through the block: what falls out of it is told, at the operation that cuts it loose, once.
    void aPieceThatComesLoose() {
        Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        const JobResults r = computed(job);
        const OperationResult& first = *r.operations.front();
        // A ring through the stock, as a path of that operation: the block is 120 × 88 × 66.
        auto ring = std::make_shared<OperationResult>(first);
        auto links = std::make_shared<LinkResult>(*first.links);
        Toolpath path;
        for (int i = 0; i <= 180; ++i) {
            const double a = 2.0 * kPi * i / 180;
            path.push({20 * std::cos(a), 20 * std::sin(a), -1}, Vec3::UnitZ(), i == 0 ? Motion::Rapid : Motion::Cut, 0, 500);
        }
        links->path = path;
        ring->links = links;
        ring->motion = std::make_shared<JointMotion>();
        ring->tool.cutter.fluteLength = 80;
        RouteProof proofs(r.place, m_cache);
        const auto loose = [&](const std::shared_ptr<const OperationResult>& op) {
            const ProofResult p = proofs.next(op, {}, m_progress).value();
            const Finding* f = found(p.findings, "piece-loose");
            return f ? std::optional<Finding>(*f) : std::nullopt;
        };
        ring->motion = nullptr; // not to be proven at the machine
        ring->key += 1;
        const auto told = loose(ring);
        QVERIFY(told.has_value());
        const double radius = 20 - 0.5 * ring->tool.cutter.diameter;
        QVERIFY2(std::abs(told->amount / (kPi * radius * radius * 66) - 1.0) < 0.03, told->text.c_str());
        QVERIFY(told->rank == Rank::Look);
        ring = std::make_shared<OperationResult>(*ring);
        ring->key += 1;
        QVERIFY(!loose(ring).has_value());
    }
    // With no stock there is nothing to meet, and nothing is made up.
    void noStockNoFindings() {
        const Job job = openJob(test::demoFile("dome-edges.gyre.json")).value();
        const JobResults r = computed(job);
        for (const auto& op : r.operations) QVERIFY(toolThroughStock(*r.place, *op, {}, m_progress).value().empty());
    }
};

GYRE_TEST(TestRouteProof)

} // namespace test_route_proof
#include "test_route_proof.moc"
