// Work in holes: depths, strokes, order, what does not fit; then whole steps run, guarded, written and read back.
#include "Program.h"
#include "ReadBack.h"
#include "Support.h"
#include "holes/Drill.h"
#include "holes/DrillSpec.h"
#include "link/Link.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "proposal/HoleWork.h"
#include "proposal/MillWork.h"
#include "session/Sending.h"
#include <numeric>
#include <set>

namespace test_drill {

using namespace gyre;

namespace {

Hole straight(double diameter, double depth, HoleBottom bottom, const Vec3& mouth = Vec3::Zero(), const Vec3& out = Vec3::UnitZ()) {
    Hole h;
    h.mouth = mouth;
    h.direction = out;
    h.depth = depth;
    h.bottom = bottom;
    const double r = 0.5 * diameter, point = bottom == HoleBottom::Cone ? r / std::tan(radians(70.0)) : 0.0;
    h.sections = {{0.0, depth - point, r, r}};
    if (point > 0.0) h.sections.push_back({depth - point, depth, r, 0.0});
    return h;
}

Assembly tool(CutterShape shape, double diameter, double angle) {
    Assembly a;
    a.id = "t";
    a.cutter.shape = shape;
    a.cutter.diameter = a.cutter.shankDiameter = a.cutter.neckDiameter = diameter;
    a.cutter.pointDegrees = angle;
    a.cutter.fluteLength = a.cutter.shoulderLength = 40;
    a.cutter.overallLength = 80;
    a.stickOut = 50;
    return a;
}

DrillSpec cycle(Cycle c) {
    DrillSpec s;
    s.cycle = c;
    return s;
}

} // namespace

class TestDrill : public QObject {
    Q_OBJECT

    struct Dome {
        Job job;
        std::unique_ptr<Workshop> workshop = std::make_unique<Workshop>(GYRE_DEMO_DIR);
        JobResults results;
    };
    // The dome's largest stars, spotted and drilled.
    const Dome& dome() {
        static std::unique_ptr<Dome> d;
        if (d) return *d;
        d = std::make_unique<Dome>();
        d->job = openJob(test::demoFile("dome-stars.gyre.json")).value();
        StageCache cache;
        Progress progress;
        d->results = computeJob(d->job, *d->workshop, cache, progress).value();
        return *d;
    }

private slots:
    void depthsComeFromTheHole() {
        const Assembly drill = tool(CutterShape::Drill, 6, 140);
        const double point = 3.0 / std::tan(radians(70.0));
        QVERIFY(std::abs(pointLength(drill.cutter) - point) < 1e-12);
        // Through: the full diameter goes the breakthrough beyond the end.
        QVERIFY(std::abs(holeDepth(straight(6, 20, HoleBottom::Through), cycle(Cycle::Drill), drill).tip - (20 + 1 + point)) < 1e-9);
        DrillSpec byPoint = cycle(Cycle::Drill);
        byPoint.fullDiameter = false;
        QVERIFY(std::abs(holeDepth(straight(6, 20, HoleBottom::Through), byPoint, drill).tip - 21) < 1e-9);
        // A blind hole with the drill's own point: to its very tip. Flat: never into the floor.
        QVERIFY(std::abs(holeDepth(straight(6, 20, HoleBottom::Cone), cycle(Cycle::Drill), drill).tip - 20) < 1e-9);
        const HoleDepth flat = holeDepth(straight(6, 20, HoleBottom::Flat), cycle(Cycle::Drill), drill);
        QVERIFY(std::abs(flat.tip - 20) < 1e-9 && flat.questions.empty() && flat.note.find("corners") != std::string::npos);
        // A blunter point than the hole's never goes deeper than the hole.
        QVERIFY(holeDepth(straight(6, 20, HoleBottom::Cone), cycle(Cycle::Drill), tool(CutterShape::Drill, 6, 90)).tip <= 20 + 1e-9);
        // Spot: the cone's edge stands 0.3 outside the hole, so the tip goes half its width deep at 90°.
        QVERIFY(std::abs(holeDepth(straight(4, 20, HoleBottom::Through), cycle(Cycle::Spot), tool(CutterShape::Spot, 8, 90)).tip - 2.3) < 1e-9);
        Assembly blunt = tool(CutterShape::Chamfer, 8, 90);
        blunt.cutter.tipDiameter = 1.0;
        QVERIFY(std::abs(holeDepth(straight(4, 20, HoleBottom::Through), cycle(Cycle::Chamfer), blunt).tip - 1.8) < 1e-9);
        // Taps and reamers stay off a blind end.
        QVERIFY(std::abs(holeDepth(straight(6, 20, HoleBottom::Flat), cycle(Cycle::Ream), tool(CutterShape::Flat, 6, 0)).tip - 19) < 1e-9);
        DrillSpec fixed = cycle(Cycle::Drill);
        fixed.toGeometry = false;
        fixed.depth = 7;
        QVERIFY(std::abs(holeDepth(straight(6, 20, HoleBottom::Through), fixed, drill).tip - (7 + point)) < 1e-9);
    }
    void stepsHaveTheirOwnDepths() {
        Hole h = straight(6, 20, HoleBottom::Through);
        h.sections = {{0, 5, 5, 5}, {5, 20, 3, 3}}; // Ø10 to 5, then Ø6 through
        QVERIFY(std::abs(holeDepth(h, cycle(Cycle::Bore), tool(CutterShape::Flat, 10, 0)).tip - 5) < 1e-9);
        QVERIFY(std::abs(holeDepth(h, cycle(Cycle::Drill), tool(CutterShape::Drill, 6, 140)).tip - (21 + 3.0 / std::tan(radians(70.0)))) < 1e-9);
        QVERIFY(!holeDepth(h, cycle(Cycle::Drill), tool(CutterShape::Drill, 11, 140)).questions.empty());
    }
    void whatDoesNotFitIsQuestioned() {
        const Hole h = straight(6, 20, HoleBottom::Through);
        const auto asked = [&](const Assembly& a, const DrillSpec& s) { return holeDepth(h, s, a).questions; };
        QVERIFY(asked(tool(CutterShape::Drill, 6, 140), cycle(Cycle::Drill)).empty());
        QVERIFY(asked(tool(CutterShape::Drill, 6.5, 140), cycle(Cycle::Drill)).at(0).find("does not go into") != std::string::npos);
        QVERIFY(holeDepth(h, cycle(Cycle::Drill), tool(CutterShape::Drill, 5, 140)).note.find("leaves 0.500") != std::string::npos);
        Assembly shortOne = tool(CutterShape::Drill, 6, 140);
        shortOne.cutter.fluteLength = 15;
        QVERIFY(asked(shortOne, cycle(Cycle::Drill)).at(0).find("cuts 15.0 mm long") != std::string::npos);
        shortOne.stickOut = 18;
        QCOMPARE(asked(shortOne, cycle(Cycle::Drill)).size(), std::size_t(2));
        QVERIFY(asked(tool(CutterShape::Ball, 6, 0), cycle(Cycle::Spot)).at(0).find("no cone") != std::string::npos);
        QVERIFY(asked(tool(CutterShape::Spot, 6, 90), cycle(Cycle::Spot)).at(0).find("too small") != std::string::npos);
        // Questioned tools drill nothing; wanted all the same, they do.
        DrillSpec spec = cycle(Cycle::Drill);
        const Assembly large = tool(CutterShape::Drill, 6.5, 140);
        DrillResult r = drillHoles({h}, spec, large, 100);
        QVERIFY(r.passes.empty() && r.findings.at(0).rank == Rank::Stop && !r.findings[0].remedies.empty());
        spec.anyTool = true;
        r = drillHoles({h}, spec, large, 100);
        QVERIFY(r.passes.size() == 1 && r.findings.at(0).rank == Rank::Note);
        r = drillHoles({h}, spec, tool(CutterShape::Drill, 5, 140), 100);
        QVERIFY(r.findings.size() == 1 && r.findings[0].code == "hole-note" && r.findings[0].text.find("leaves 0.500") != std::string::npos);
    }
    // What no spot drill fits is drilled without being spotted: a Note, no Stop.
    void spottingIsNoConditionForDrilling() {
        const Hole fits = straight(4, 20, HoleBottom::Through), wide = straight(9, 20, HoleBottom::Through);
        const Assembly small = tool(CutterShape::Spot, 8, 90);
        const DrillResult some = drillHoles({fits, wide}, cycle(Cycle::Spot), small, 100);
        QCOMPARE(some.holes, std::vector<std::size_t>{0});
        QVERIFY(some.findings.size() == 1 && some.findings[0].rank == Rank::Note && some.findings[0].code == "tool-does-not-fit");
        QVERIFY(some.findings[0].text.find("not spotted") != std::string::npos && some.findings[0].remedies.size() == 2);
        QVERIFY(drillHoles({wide}, cycle(Cycle::Spot), small, 100).passes.empty());
        QVERIFY(drillHoles({wide}, cycle(Cycle::Drill), tool(CutterShape::Drill, 10, 140), 100).findings.at(0).rank == Rank::Stop);
    }
    void strokesOfEveryCycle() {
        QCOMPARE(pecks(-2, 7, 3), (std::vector<double>{1, 4, 7}));
        QCOMPARE(pecks(-2, 7, 100), std::vector<double>{7});
        const auto depths = [](const std::vector<Stroke>& s) {
            std::vector<double> d;
            for (const Stroke& x : s) d.push_back(x.depth);
            return d;
        };
        QCOMPARE(depths(strokes(Cycle::Drill, 2, 10, 3)), (std::vector<double>{10, -2}));
        QCOMPARE(depths(strokes(Cycle::Peck, 2, 7, 3)), (std::vector<double>{1, -2, 1 - kPeckGap, 4, -2, 4 - kPeckGap, 7, -2}));
        QCOMPARE(depths(strokes(Cycle::ChipBreak, 2, 7, 3)), (std::vector<double>{1, 1 - kPeckGap, 4, 4 - kPeckGap, 7, -2}));
        QVERIFY(!strokes(Cycle::Bore, 2, 7, 3).back().rapid && !strokes(Cycle::Tap, 2, 7, 3).back().rapid && strokes(Cycle::Drill, 2, 7, 3).back().rapid);
        test::Random random(61);
        for (int i = 0; i < 200; ++i) {
            const double above = random.number(0.1, 5), depth = random.number(0.5, 60), peck = random.number(0.2, 20);
            for (const Cycle c : {Cycle::Peck, Cycle::ChipBreak}) {
                double cut = -above, deepest = -above;
                for (const Stroke& s : strokes(c, above, depth, peck)) {
                    if (s.rapid) QVERIFY(s.depth <= cut - (s.depth > -above ? kPeckGap - 1e-9 : 0.0)); // never a rapid into uncut material
                    if (!s.rapid) QVERIFY(s.depth - cut <= peck + 1e-9);
                    cut = std::max(cut, s.depth);
                    deepest = std::max(deepest, s.depth);
                }
                QCOMPARE(deepest, depth);
            }
        }
    }
    // A hole of several steps: its own drill, a flat tool for the counterbore, a cone for the countersink; what no tool makes is told, not guessed.
    void stepsGetToolsOfTheirOwn() {
        Hole h = straight(9, 20, HoleBottom::Through);
        h.sections = {{0, 1, 9, 8}, {1, 6, 8, 8}, {6, 20, 4.5, 4.5}};
        Workplace place;
        place.machine = std::make_shared<const Machine>(test::demoMachine("heron-5t.machine.json"));
        place.holes = {h};
        const HoleGroup group{{0}, false, {}};
        const auto named = [](Assembly a, const char* id) {
            a.id = id;
            return a;
        };
        Job job;
        job.tools = {named(tool(CutterShape::Drill, 16, 140), "drill-16"),   named(tool(CutterShape::Drill, 9, 140), "drill-9"),
                     named(tool(CutterShape::Drill, 8.5, 140), "drill-8.5"), named(tool(CutterShape::Flat, 16, 0), "flat-16"),
                     named(tool(CutterShape::Flat, 20, 0), "flat-20"),       named(tool(CutterShape::Flat, 6, 0), "flat-6"),
                     named(tool(CutterShape::Spot, 10, 90), "spot-10"),      named(tool(CutterShape::Chamfer, 20, 90), "cone-20")};
        HoleProposal made = proposeHoleWork(job, place, group);
        QVERIFY2(made.notes.empty(), made.notes.empty() ? "" : made.notes[0].c_str());
        QCOMPARE(made.work.size(), std::size_t(5));
        QCOMPARE(made.work[1].tool, std::string("spot-10")); // for the drill, not as wide as the mouth
        QCOMPARE(made.work[2].tool, std::string("drill-9"));
        QCOMPARE(made.work[3].tool, std::string("flat-16"));
        QCOMPARE(made.work[4].tool, std::string("cone-20"));
        std::set<std::string> ids;
        for (const Recipe& r : made.work) ids.insert(r.id);
        QCOMPARE(ids.size(), made.work.size());
        // Each goes as deep as its step: through and out, to the floor, to the chamfer's own size.
        const auto deep = [&](const Recipe& r) {
            const HoleDepth d = holeDepth(h, r.drill, *job.tool(r.tool));
            if (!d.questions.empty()) qFatal("%s", d.questions[0].c_str());
            return d.tip;
        };
        const double point = pointLength(job.tool("drill-9")->cutter);
        QVERIFY(std::abs(deep(made.work[2]) - (20 + made.work[2].drill->breakthrough + point)) < 1e-9);
        QVERIFY(std::abs(deep(made.work[3]) - 6) < 1e-9);
        const Cutter& cone = job.tool("cone-20")->cutter;
        QVERIFY(std::abs(deep(made.work[4]) - (9 - 0.5 * cone.tipDiameter) / std::tan(radians(45))) < 1e-9);
        // Without those tools the steps are told.
        std::erase_if(job.tools, [](const Assembly& a) { return a.id == "flat-16" || a.id == "cone-20"; });
        made = proposeHoleWork(job, place, group);
        QCOMPARE(made.work.size(), std::size_t(3));
        QCOMPARE(made.notes.size(), std::size_t(2));
        std::erase_if(job.tools, [](const Assembly& a) { return a.id == "spot-10"; });
        QCOMPARE(proposeHoleWork(job, place, group).work.size(), std::size_t(2));
        QCOMPARE(proposeHoleWork(job, place, group).notes.size(), std::size_t(3));
        job.tools.push_back(named(tool(CutterShape::Spot, 10, 90), "spot-10"));
        // A counterbore alone is spotted for its drill, not as wide as its mouth.
        h.sections = {{0, 6, 8, 8}, {6, 20, 4.5, 4.5}};
        place.holes = {h};
        made = proposeHoleWork(job, place, group);
        QCOMPARE(made.work[1].tool, std::string("spot-10"));
        QVERIFY(std::abs(holeDepth(h, made.work[1].drill, *job.tool("spot-10")).tip - (4.5 + made.work[1].drill->widen)) < 1e-9);
    }
    // From below the machine does not reach, from above it does: such holes are turned round, but for those that the user has turned himself.
    void holesAreEnteredFromWhereTheMachineReaches() {
        Workplace place;
        place.machine = std::make_shared<const Machine>(test::demoMachine("heron-5t.machine.json"));
        const Kinematics k(*place.machine, Frame::Identity(), 100);
        QVERIFY(reachOf(k, Vec3::UnitZ()).reached() && !reachOf(k, -Vec3::UnitZ()).reached());
        for (const bool air : {true, false}) {
            Hole down = straight(5, 10, HoleBottom::Through, Vec3(3, 4, 5), -Vec3::UnitZ());
            down.airBehind = air;
            place.holes = {down, straight(5, 10, HoleBottom::Flat, Vec3(30, 4, 5), -Vec3::UnitZ())};
            Job job;
            turnToReach(job, place);
            const auto wanted = wantedHoles(job, place);
            QVERIFY((wanted[0].direction - (air ? 1.0 : -1.0) * Vec3::UnitZ()).norm() < 1e-12);
            QVERIFY((wanted[1].direction + Vec3::UnitZ()).norm() < 1e-12);
            Job own;
            own.mark(down).turned = false;
            turnToReach(own, place);
            QVERIFY((wantedHoles(own, place)[0].direction + Vec3::UnitZ()).norm() < 1e-12);
        }
    }
    // A spot drill that does not fit is no reason to stop the job: the step can be left out by its own remedy.
    void aSpotStepCanBeLeftOut() {
        const DrillResult r = drillHoles({straight(20, 10, HoleBottom::Through)}, cycle(Cycle::Spot), tool(CutterShape::Spot, 6, 90), 100);
        QCOMPARE(r.findings.size(), std::size_t(1));
        const auto out = std::find_if(r.findings[0].remedies.begin(), r.findings[0].remedies.end(), [](const Remedy& x) { return x.key == "active"; });
        QVERIFY(out != r.findings[0].remedies.end());
        Job job;
        Recipe step;
        step.id = "s";
        job.route = {step};
        QVERIFY(setWord(job, "s", out->key, out->value));
        QVERIFY(!job.operation("s")->active);
    }
    // A job whose spot step has no tool: the step is left out with a Note, and the program is written and proven without it.
    void aSpotStepWithoutAToolIsOmitted() {
        const Dome& d = dome();
        Job job = d.job;
        const std::string spot = d.results.operations.at(0)->operation;
        job.operation(spot)->tool.clear();
        Workshop workshop{std::filesystem::path(GYRE_DEMO_DIR)};
        StageCache cache;
        Progress progress;
        const JobResults r = computeJob(job, workshop, cache, progress).value();
        QVERIFY(r.operations.at(0)->omitted && !r.operations[0]->complete() && !r.operations[1]->omitted);
        QVERIFY(r.operations[0]->findings.size() == 1 && r.operations[0]->findings[0].rank == Rank::Note && r.operations[0]->findings[0].code == "step-omitted");
        QVERIFY(judge(job, r, cache, progress).value().clean());
        const PostInput input = postInputOf(job, r.place, r.operations);
        QCOMPARE(input.operations.size(), r.operations.size() - 1);
        const std::string text = writeProgram(input, Dialect::Joints).value();
        QVERIFY(compareProgram(readProgram(text, *input.machine).value(), input).agrees());
        // Any other step without a tool stops.
        job.operation(r.operations[1]->operation)->tool.clear();
        const JobResults none = computeJob(job, workshop, cache, progress).value();
        QVERIFY(!none.operations[1]->omitted && none.operations[1]->findings.at(0).rank == Rank::Stop);
    }
    void theShortestWayIsShort() {
        // A grid: no way is shorter than one step to each next hole.
        std::vector<Hole> grid;
        for (int i = 0; i < 6; ++i)
            for (int k = 0; k < 7; ++k) grid.push_back(straight(4, 10, HoleBottom::Through, Vec3(10 * ((i * 5) % 6), 10 * ((k * 3) % 7), 0)));
        const auto length = [&](const std::vector<std::size_t>& order) {
            double sum = 0.0;
            for (std::size_t i = 1; i < order.size(); ++i) sum += (grid[order[i]].mouth - grid[order[i - 1]].mouth).norm();
            return sum;
        };
        auto order = shortestOrder(grid);
        QVERIFY2(length(order) <= 1.06 * 10 * 41, qPrintable(QString::number(length(order))));
        std::sort(order.begin(), order.end());
        std::vector<std::size_t> all(grid.size());
        std::iota(all.begin(), all.end(), 0);
        QCOMPARE(order, all);
        // Holes of one direction stay together where turning is dear.
        std::vector<Hole> two;
        for (int i = 0; i < 8; ++i) two.push_back(straight(4, 10, HoleBottom::Through, Vec3(3 * i, 0, 0), i % 2 ? Vec3::UnitX() : Vec3::UnitZ()));
        const auto turned = shortestOrder(two);
        int turns = 0;
        for (std::size_t i = 1; i < turned.size(); ++i) turns += turned[i] % 2 != turned[i - 1] % 2;
        QCOMPARE(turns, 1);
        QVERIFY(shortestOrder({}).empty());
    }
    void theDomesStarsAreDrilled() {
        const Dome& d = dome();
        QCOMPARE(d.job.route.size(), std::size_t(12)); // four sizes: what is meant, and two steps each
        QCOMPARE(d.results.operations.size(), std::size_t(8));
        for (const auto& r : d.results.operations) {
            QVERIFY(r->drill);
            QVERIFY2(r->complete() && r->drill->passes.size() == 12, r->findings.empty() ? "" : r->findings[0].text.c_str());
            for (const Finding& f : r->findings) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
            // The tool stands along every hole, and the tip goes from above the mouth to its depth.
            const Recipe step = d.job.resolved(*d.job.operation(r->operation));
            for (const CycleRun& run : cyclesOf(*r)) {
                const Toolpath& path = *r->path();
                const Vec3 top = path.tip[run.first];
                const auto hole = std::min_element(d.results.place->holes.begin(), d.results.place->holes.end(),
                                                   [&](const Hole& a, const Hole& b) { return (a.mouth - top).norm() < (b.mouth - top).norm(); });
                QVERIFY((top - (hole->mouth + step.drill->above * hole->direction)).norm() < 1e-9);
                for (std::size_t i = run.first; i <= run.first + run.strokes; ++i) {
                    QVERIFY(angleBetween(path.axis[i], hole->direction) < 1e-9);
                    QVERIFY(rejected(path.tip[i] - hole->mouth, hole->direction).norm() < 1e-9);
                }
                QVERIFY((path.tip[run.first + run.strokes] - top).norm() < 1e-9);
            }
            QVERIFY(r->facts(Stage::Target).find("12 of 12") != std::string::npos);
        }
        // Proven at the machine, too.
        Progress progress;
        const auto proof = prove(*d.results.place, *d.results.operations[1], ProofSpec{}, progress);
        QVERIFY(proof);
        for (const Finding& f : proof->findings) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
    }
    void theWaitAtTheBottomIsWrittenEverywhere() {
        const Dome& d = dome();
        std::vector<std::shared_ptr<const OperationResult>> waiting;
        for (const bool canned : {true, false}) {
            auto one = std::make_shared<OperationResult>(*d.results.operations.at(0)); // spotting
            QVERIFY(waitsAtBottom(one->cycle->cycle));
            one->cycle->dwell = 0.75;
            one->cycle->canned = canned;
            waiting.push_back(one);
        }
        const PostInput input = postInputOf(d.job, d.results.place, {waiting[0], waiting[1]});
        QVERIFY(std::abs(secondsOf(*waiting[0]) - waiting[0]->motion->duration - 12 * 0.75) < 1e-9);
        const auto count = [](const std::string& text, const std::string& words) {
            int n = 0;
            for (auto at = text.find(words); at != std::string::npos; at = text.find(words, at + 1)) ++n;
            return n;
        };
        for (const Dialect dialect : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
            const std::string text = writeProgram(input, dialect).value();
            const bool cutterData = dialect == Dialect::CutterData;
            QCOMPARE(count(text, cutterData ? "DELAY/0.750" : " P0.750"), 24);
            QCOMPARE(count(text, "G4 P"), cutterData ? 0 : dialect == Dialect::Joints ? 12 : 24); // the rest in cycles
            const ReplayReport report = compareProgram(readProgram(text, *input.machine).value(), input);
            QVERIFY2(report.agrees(), report.agrees() ? "" : report.differences[0].c_str());
            // A wait that is changed or forgotten is noticed.
            for (const std::string& other : {std::string(cutterData ? "DELAY/0.250" : " P0.250"), std::string(cutterData ? "RAPID" : "")}) {
                std::string changed = text;
                const auto at = changed.rfind(cutterData ? "DELAY/0.750" : "G4 P0.750");
                changed.replace(at + (cutterData || other.empty() ? 0 : 2), cutterData ? 11 : other.empty() ? 9 : 7, other);
                QVERIFY(!compareProgram(readProgram(changed, *input.machine).value(), input).agrees());
            }
        }
        const auto refused = [&](const char* line) { return readProgram(std::string("%\nG21\nG0 X0\n") + line + "\nM30\n%\n", *input.machine).error().text(); };
        for (const char* line : {"G4", "G4 P-1", "G4 P99999", "G4 P1 X5", "G1 X1 P1 F100"}) QVERIFY2(refused(line).find("line 4") != std::string::npos, line);
    }
    void cyclesAreWrittenAndReadBack() {
        const Dome& d = dome();
        PostInput input = postInputOf(d.job, d.results.place, d.results.operations);
        for (const Dialect dialect : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
            std::string text;
            const std::string trouble = test::readAgain(input, dialect, text);
            QVERIFY2(trouble.empty(), trouble.c_str());
            std::size_t cycles = 0;
            for (auto at = text.find("G99 G8"); at != std::string::npos; at = text.find("G99 G8", at + 1)) ++cycles;
            QCOMPARE(cycles, dialect == Dialect::Joints ? std::size_t(96) : std::size_t(0)); // Z runs along the tool on this machine
        }
        // A changed depth or a forgotten R is noticed.
        std::string text = writeProgram(input, Dialect::Joints).value();
        const auto z = text.find(" Z", text.find("G99 G8"));
        std::string other = text;
        other[z + 4] = other[z + 4] == '5' ? '6' : '5';
        const auto deeper = readProgram(other, *input.machine);
        QVERIFY(!deeper || !compareProgram(*deeper, input).agrees());
        other = text;
        const auto r = other.find(" R", z);
        other.erase(r, other.find(' ', r + 1) - r);
        QVERIFY(!readProgram(other, *input.machine));
    }
    void stockOverTheHolesIsTold() {
        Job job = openJob(test::demoFile("dome-setup.gyre.json")).value(); // a bar, nothing cut yet
        job.route = dome().job.route;
        job.route.resize(3);
        Workshop workshop(GYRE_DEMO_DIR);
        StageCache cache;
        Progress progress;
        const auto results = computeJob(job, workshop, cache, progress).value();
        const auto told = [](const OperationResult& r) {
            return std::any_of(r.findings.begin(), r.findings.end(),
                               [](const Finding& f) { return f.code == "stock-over-holes" && f.rank == Rank::Stop && f.amount > 3; });
        };
        QVERIFY(told(*results.operations.at(0)));
        QVERIFY(results.operations[0]->complete());
        QVERIFY(!told(*dome().results.operations[0]));
    }
    void stepsFollowTheirParent() {
        Job job = dome().job;
        const Recipe parent = job.route[0];
        QCOMPARE(job.worked().size(), std::size_t(8));
        job.route[0].holes.resize(3);
        job.route[0].drill->breakthrough = 4;
        const Recipe step = job.resolved(job.route[2]);
        QVERIFY(step.holes.size() == 3 && step.drill->breakthrough == 4);
        Hole first;
        first.mouth = parent.holes[0].mouth;
        job.mark(first).leftOut = true;
        QCOMPARE(job.resolved(job.route[2]).holes.size(), std::size_t(2));
        job.mark(first).leftOut = false;
        job.mark(first).turned = true;
        QVERIFY(job.resolved(job.route[2]).holes[0].turned);
        job.route[0].active = false;
        QCOMPARE(job.worked().size(), std::size_t(6));
        // Written, read back, and refused where the parent is missing.
        const std::string text = jobToJson(job);
        QCOMPARE(jobToJson(jobFromJson(text, "job").value()), text);
        job.route.erase(job.route.begin());
        QVERIFY(!jobFromJson(jobToJson(job), "job"));
    }
    void aHoleThatIsGoneIsSaid() {
        const Dome& d = dome();
        Recipe step = d.job.resolved(d.job.route[2]);
        step.holes[0].mouth += Vec3(5, 0, 0);
        StageCache cache;
        Progress progress;
        const auto r = runOperation(*d.results.place, step, cache, progress).value();
        QVERIFY(!r->complete() && r->findings.at(0).text.find("not in the part any more") != std::string::npos);
        step.holes.clear();
        QVERIFY(runOperation(*d.results.place, step, cache, progress).value()->findings.at(0).text.find("no hole") != std::string::npos);
    }
    void theSkinLiesAroundTheAxisOfTheHoles() {
        const Dome& d = dome();
        const auto with = [&](const std::vector<Vec3>& directions) { return skinAround(*d.results.place, directions, false); };
        QVERIFY(with({Vec3::UnitZ(), Vec3::UnitZ()}).kind == SkinKind::Plane);
        const Skin about = with({Vec3::UnitY(), Vec3::UnitZ()});
        QVERIFY(about.kind == SkinKind::Cylinder && about.axis == 0);
        QVERIFY(with({Vec3::UnitX(), Vec3::UnitY()}).axis == 2);
        QVERIFY(with({Vec3(0.6, 0, 0.8), Vec3::UnitY(), Vec3::UnitX()}).kind == SkinKind::Sphere);
        // Ways round any axis stay outside, turned or not.
        test::Random random(62);
        for (int i = 0; i < 300; ++i) {
            const Skin skin{SkinKind::Cylinder, 40, random.integer(0, 2)};
            const Vec3 axis = Vec3::Unit(skin.axis);
            const auto outside = [&] {
                const Vec3 radial = rejected(random.direction(), axis).normalized();
                return AxisPose{random.number(40, 60) * radial + random.number(-20, 20) * axis, radial};
            };
            const AxisPose a = outside(), b = outside();
            for (const AxisPose& p : alongSkin(skin, a, b)) QVERIFY(rejected(p.tip, axis).norm() > 40 - 1e-6);
            const auto out = wayOut(skin, 0.2 * a.tip, a.axis);
            QVERIFY(out && std::abs(rejected(0.2 * a.tip + *out * a.axis, axis).norm() - 40) < 1e-6);
        }
    }
};

GYRE_TEST(TestDrill)

} // namespace test_drill
#include "test_drill.moc"
