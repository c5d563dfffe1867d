// A recipe through its stages: what rests on what, what is kept, what comes early, what is told.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/Json.h"
#include "edgebreak/BreakSpec.h"
#include "form/Form.h"
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/Link.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "motion/Motion.h"
#include "motion/PointsSpec.h"
#include "operation/Leans.h"
#include "operation/OperationResult.h"
#include "operation/RecipeForm.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "swarf/SwarfSpec.h"
#include "target/TargetSpec.h"
#include <set>

namespace test_operation {

using namespace gyre;
using test::near;
using test::Random;

class TestOperation : public QObject {
    Q_OBJECT
    Progress m_quiet;
    const Workplace& place() { return *test::demoResults().results.place; }
    const Recipe& flare() { return test::demoResults().job.route[0]; }
    // The same rows, but few: enough where only the stages matter.
    Recipe coarse() {
        Recipe r = flare();
        r.pattern->spacing = 3.0;
        return r;
    }
    std::shared_ptr<const OperationResult> run(const Recipe& r, StageCache& cache) { return runOperation(place(), r, cache, m_quiet).value(); }

private slots:
    void anEditRunsOnlyTheStagesThatRestOnIt() {
        StageCache cache;
        const auto first = run(coarse(), cache);
        QVERIFY(first->complete());
        Recipe r = coarse();
        r.link->entryRadius = 1.0;
        const auto links = run(r, cache);
        QVERIFY(links->pattern == first->pattern && links->axis == first->axis && links->guard == first->guard);
        QVERIFY(links->links != first->links && links->motion != first->motion);
        r = coarse();
        r.guard->shankClearance = 0.5;
        const auto guard = run(r, cache);
        QVERIFY(guard->pattern == first->pattern && guard->axis == first->axis && guard->guard != first->guard);
        r = coarse();
        r.axis->leadDegrees += 1.0;
        const auto axis = run(r, cache);
        QVERIFY(axis->pattern == first->pattern && axis->axis != first->axis);
        r = coarse();
        r.pattern->spacing = 2.5;
        QVERIFY(run(r, cache)->pattern != first->pattern);
        // And back: everything is still there.
        const auto again = run(coarse(), cache);
        QVERIFY(again->links == first->links && again->motion == first->motion);
    }
    void theKeyChangesWithEveryWordAndNothingElse() {
        std::set<std::uint64_t> keys;
        const Assembly* tool = place().tool(flare().tool);
        const auto key = [&](const Recipe& r) { return operationKey(place().key, r, tool); };
        keys.insert(key(flare()));
        const std::vector<std::function<void(Recipe&)>> edits{[](Recipe& r) { r.target->leave = 0.1; },
                                                              [](Recipe& r) { r.target->faces.pop_back(); },
                                                              [](Recipe& r) { r.pattern->spacing = 0.41; },
                                                              [](Recipe& r) { r.pattern->reversed = !r.pattern->reversed; },
                                                              [](Recipe& r) { r.pattern->by = RowsBy::Scallop; },
                                                              [](Recipe& r) { r.axis->tiltDegrees = 1; },
                                                              [](Recipe& r) { r.axis->limited = !r.axis->limited; },
                                                              [](Recipe& r) { r.guard->holderClearance = 3; },
                                                              [](Recipe& r) { r.guard->machine = false; },
                                                              [](Recipe& r) { r.guard->response = GuardResponse::Lift; },
                                                              [](Recipe& r) { r.link->smallGap = 0.7; },
                                                              [](Recipe& r) { r.link->skin.size = 99; },
                                                              [](Recipe& r) { r.feed = 321; },
                                                              [](Recipe& r) { r.tool = "another"; }};
        for (const auto& edit : edits) {
            Recipe r = flare();
            edit(r);
            QVERIFY(keys.insert(key(r)).second);
        }
        QCOMPARE(key(flare()), *keys.find(key(flare())));
        Assembly longer = *tool;
        longer.stickOut += 1.0;
        QVERIFY(keys.insert(operationKey(place().key, flare(), &longer)).second);
        QVERIFY(keys.insert(operationKey(place().key + 1, flare(), tool)).second);
    }
    // What a kind does not have counts for nothing: neither in its text, nor in its key (decision 24).
    void partsOfOtherKindsCountForNothing() {
        Random random(82);
        std::set<OperationKind> kinds;
        int changed = 0;
        for (const char* file :
             {"lantern-collar.gyre.json", "barrel-work.gyre.json", "dome-stars.gyre.json", "dome-edges.gyre.json", "collar-walls.gyre.json", "horn-guide.gyre.json"}) {
            const Job job = openJob(test::demoFile(file)).value();
            for (const Recipe& plain : job.route) {
                Recipe r = plain;
                const auto foreign = [&](std::initializer_list<OperationKind> has) { return std::find(has.begin(), has.end(), r.kind) == has.end(); };
                using K = OperationKind;
                if (foreign({K::Mill})) r.mill->shape = static_cast<MillShape>(random.integer(0, kMillShapes - 1)), r.mill->after = "another", ++changed;
                if (foreign({K::Swarf})) r.swarf->past = random.number(1, 9), ++changed;
                if (foreign({K::Curve})) r.curve->backAndForth = !r.curve->backAndForth, ++changed;
                if (foreign({K::Edge})) r.edge->size = random.number(1, 9), ++changed;
                if (foreign({K::Holes, K::HoleStep})) r.drill->peck = random.number(1, 9), ++changed;
                if (foreign({K::Surface, K::Curve})) r.axis->leadDegrees = random.number(1, 9), ++changed;
                if (foreign({K::Surface, K::Swarf, K::Curve, K::Edge})) r.pattern->spacing = random.number(1, 9), ++changed;
                QCOMPARE(recipeForm().write(r).dump(), recipeForm().write(plain).dump());
                const Assembly* tool = job.tool(r.tool);
                QCOMPARE(operationKey(7, r, tool), operationKey(7, plain, tool));
                kinds.insert(r.kind);
            }
        }
        QCOMPARE(kinds.size(), std::size_t(7));
        QVERIFY(changed > 60);
    }
    void recipesSurviveTheirOwnText() {
        Random random(81);
        for (int i = 0; i < 300; ++i) {
            Recipe r = flare();
            r.pattern->spacing = random.number(0.01, 9);
            r.pattern->order = random.integer(0, 1) ? RowOrder::OneWay : RowOrder::BackAndForth;
            r.pattern->ends = random.integer(0, 1) ? RowEnds::OnRails : RowEnds::HalfStepIn;
            r.pattern->start = static_cast<RowStart>(random.integer(0, 3));
            r.axis->rule = static_cast<AxisRule>(random.integer(0, 2));
            r.axis->leadDegrees = random.number(-80, 80);
            r.axis->limited = random.integer(0, 1);
            r.axis->lowDegrees = random.number(0, 40);
            r.axis->highDegrees = random.number(41, 90);
            r.guard->part = random.integer(0, 1);
            r.guard->response = static_cast<GuardResponse>(random.integer(0, 2));
            r.link->skin = {static_cast<SkinKind>(random.integer(0, 2)), random.number(1, 300)};
            const std::string text = recipeForm().write(r).dump();
            const auto json = parseJson(text, "recipe").value();
            std::optional<Error> error;
            const Recipe back = recipeForm().read(JsonView(json, "recipe", error));
            QVERIFY2(!error, error ? error->text().c_str() : "");
            QCOMPARE(recipeForm().write(back).dump(), text);
        }
    }
    void thePathComesBeforeItsClearances() {
        StageCache cache;
        std::vector<std::shared_ptr<const OperationResult>> early;
        const auto tell = [&](std::shared_ptr<const OperationResult> r) { early.push_back(std::move(r)); };
        const auto done = runOperation(place(), coarse(), cache, m_quiet, tell).value();
        QCOMPARE(early.size(), std::size_t(1));
        QVERIFY(early[0]->complete() && early[0]->shankClearance.empty() && early[0]->links == done->links);
        QCOMPARE(early[0]->key, done->key);
        QVERIFY(!early[0]->facts(Stage::Guard).empty() && early[0]->facts(Stage::Guard) != done->facts(Stage::Guard));
        // Known already: nothing comes early.
        (void)runOperation(place(), coarse(), cache, m_quiet, tell);
        QCOMPARE(early.size(), std::size_t(1));
    }
    // Along the path each search starts from the answer before; the answers are those of every place alone.
    void clearancesAlongThePathAreThoseOfEveryPlaceAlone() {
        StageCache cache;
        const auto r = run(coarse(), cache);
        const Guard guard(r->tool, *place().scene, coarse().guard, coarse().pattern->chordTolerance);
        QCOMPARE(r->shankClearance.size(), r->path()->size());
        for (std::size_t i = 0; i < r->path()->size(); i += 7) {
            const ZoneClearance z = guard.clearance({r->path()->tip[i], r->path()->axis[i]}, 20.0);
            QCOMPARE(r->shankClearance[i], static_cast<float>(z.shank));
            QCOMPARE(r->holderClearance[i], static_cast<float>(z.holder));
        }
    }
    void stockToLeaveLiftsEveryContactByThatMuch() {
        StageCache cache;
        Recipe r = coarse();
        const auto plain = run(r, cache);
        r.target->leave = 0.35;
        const auto left = run(r, cache);
        QVERIFY(left->pattern == plain->pattern);
        for (std::size_t p = 0; p < plain->passes->size(); ++p)
            for (std::size_t i = 0; i < (*plain->passes)[p].path.size(); ++i) {
                const auto &a = (*plain->passes)[p].path, &b = (*left->passes)[p].path;
                QVERIFY((b.contact[i] - a.contact[i] - 0.35 * a.normal[i]).norm() < 1e-12);
                QVERIFY((b.tip[i] - a.tip[i] - 0.35 * a.normal[i]).norm() < 1e-9); // a ball follows its contact
            }
    }
    // Exact stops change nothing of the path and take longer, by a move from rest to rest at every location; rounding off is told, with what cures it.
    void whatTheControlDoesAtPoints() {
        StageCache cache;
        Recipe r = coarse();
        const auto plain = run(r, cache);
        r.points->how = AtPoints::ExactStop;
        const auto stops = run(r, cache);
        QVERIFY(stops->pattern == plain->pattern && stops->links->path.tip == plain->links->path.tip && stops->motion->values == plain->motion->values);
        QVERIFY(stops->key != plain->key && stops->motion->duration > 1.2 * plain->motion->duration);
        QVERIFY(stops->points->how == AtPoints::ExactStop && stops->findings.size() == plain->findings.size());
        const auto smoothed = [&](double within) {
            r.points = PointsSpec{AtPoints::Smoothed, within};
            const auto result = run(r, cache);
            const auto f = std::find_if(result->findings.begin(), result->findings.end(), [](const Finding& finding) { return finding.code == "points-smoothed"; });
            return f == result->findings.end() ? Finding() : *f;
        };
        const Finding fine = smoothed(r.pattern->chordTolerance), wide = smoothed(2.0 * r.pattern->chordTolerance);
        QVERIFY(fine.rank == Rank::Note && fine.remedies.empty() && near(fine.amount, r.pattern->chordTolerance, 1e-12));
        QVERIFY(wide.rank == Rank::Look && wide.remedies.size() == 2);
        QCOMPARE(wide.remedies[0].value, std::string("exactStop"));
        QVERIFY(near(Json::parse(wide.remedies[1].value).get<double>(), r.pattern->chordTolerance, 1e-9));
        r.guard->shankClearance = 0.1;
        QVERIFY(smoothed(0.2).reason.find("shank or holder") != std::string::npos);
    }
    void theScallopSetsTheSpacing() {
        StageCache cache;
        Recipe r = coarse();
        r.pattern->by = RowsBy::Scallop;
        r.pattern->scallop = 0.1;
        const auto result = run(r, cache);
        QVERIFY(std::abs(result->pattern->spacing - 2.0 * std::sqrt(2.0 * 3.0 * 0.1 - 0.01)) < 1e-9);
        // In hollows rows lie further apart than that, on rounds closer: what stays is what counts.
        QVERIFY2(result->scallop <= 1.03 * 0.1 && result->scallop > 0.09, qPrintable(QString::number(result->scallop)));
        QVERIFY(result->pattern->widestGap <= 2.0 * result->pattern->spacing);
    }
    void whatCannotBeRunSaysWhyAndKeepsWhatCameBefore_data() {
        QTest::addColumn<int>("trouble");
        QTest::addColumn<QString>("words");
        QTest::newRow("no tool") << 0 << "no tool";
        QTest::newRow("unknown tool") << 1 << "no tool 'ghost'";
        QTest::newRow("no faces") << 2 << "no face";
        QTest::newRow("rails that touch") << 3 << "rail";
        QTest::newRow("too close") << 4 << "0.001 mm";
        QTest::newRow("window upside down") << 5 << "angle";
    }
    void whatCannotBeRunSaysWhyAndKeepsWhatCameBefore() {
        QFETCH(int, trouble);
        QFETCH(QString, words);
        StageCache cache;
        Recipe r = coarse();
        if (trouble == 0) r.tool.clear();
        if (trouble == 1) r.tool = "ghost";
        if (trouble == 2) r.target->faces.clear();
        if (trouble == 3) r.pattern->rail2 = r.pattern->rail1;
        if (trouble == 4) r.pattern->spacing = 0.001;
        if (trouble == 5) r.axis->limited = true, r.axis->lowDegrees = 50, r.axis->highDegrees = 10;
        const auto result = run(r, cache);
        QVERIFY(!result->complete());
        QVERIFY(!result->findings.empty());
        const Finding& f = result->findings.back();
        QVERIFY(f.rank == Rank::Stop && f.code == "nothing-generated");
        QVERIFY2(QString::fromStdString(f.text).contains(words), f.text.c_str());
        if (trouble == 5) QVERIFY(result->pattern != nullptr);
    }
    // Without a feed or a speed no way is laid that could be taken for a rapid; the remedy cures it.
    void noFeedAndNoSpeedAreStops() {
        const Assembly good = *place().tool(coarse().tool);
        for (const bool speed : {false, true}) {
            Workplace without = place();
            for (Assembly& a : without.tools)
                if (a.id == good.id) (speed ? a.spindleSpeed : a.feedPerTooth) = speed ? 0.4 : 0.0;
            StageCache cache;
            const auto result = runOperation(without, coarse(), cache, m_quiet).value();
            QVERIFY(!result->complete() && !result->links && result->pattern && result->guard);
            const Finding& f = result->findings.back();
            QVERIFY(f.rank == Rank::Stop && f.code == (speed ? "no-speed" : "no-feed"));
            QCOMPARE(f.remedies.at(0).key, std::string(speed ? "tool.spindleSpeed" : "tool.feedPerTooth"));
            Recipe own = coarse();
            own.feed = 300.0; // of the operation's own
            QCOMPARE(runOperation(without, own, cache, m_quiet).value()->complete(), !speed);
        }
    }
    void cancellingAnywhereIsCleanAndTheNextRunIsTheSame() {
        StageCache whole;
        const auto expected = run(coarse(), whole);
        for (int stop = 1; stop < 12; ++stop) {
            StageCache cache;
            int told = 0;
            Progress* running = nullptr;
            Progress progress([&](double, const std::string&) {
                if (++told == stop && running) running->cancel();
            });
            running = &progress;
            const auto result = runOperation(place(), coarse(), cache, progress);
            if (!result) QVERIFY(result.error().cancelled);
            const auto again = run(coarse(), cache);
            QCOMPARE(again->path()->size(), expected->path()->size());
            for (std::size_t i = 0; i < again->path()->size(); ++i) QVERIFY(again->path()->tip[i] == expected->path()->tip[i]);
        }
    }
    // What the tape and the view tell of lead and tilt is what was asked for, on rows that run back too, and its own formula agrees.
    void toldLeansAreThoseAskedFor() {
        for (const bool byPattern : {false, true}) {
            Recipe r = coarse();
            r.axis = {};
            r.axis->rule = AxisRule::Surface;
            r.axis->leadDegrees = 7.0;
            r.axis->tiltDegrees = 15.0;
            r.axis->leadByPattern = byPattern;
            r.pattern->order = RowOrder::BackAndForth;
            StageCache cache;
            const auto result = run(r, cache);
            QVERIFY(result->path());
            const Toolpath& p = *result->path();
            const Leans leans(*result, r.axis);
            int there = 0, back = 0;
            for (std::size_t i = 2; i + 2 < p.size(); ++i) {
                const auto told = leans.at(i);
                if (!told) continue;
                bool inner = true; // the feed is known from both neighbours
                for (const std::size_t k : {i - 2, i - 1, i + 1, i + 2}) inner = inner && p.motion[k] == Motion::Cut && p.row[k] == p.row[i];
                if (!inner) continue;
                (leans.returning(i) ? back : there) += 1;
                QVERIFY2(std::abs(degrees(told->lead) - 7.0) < 0.1 && std::abs(degrees(told->tilt) - 15.0) < 0.1,
                         qPrintable(QString("%1 %2 at %3").arg(degrees(told->lead)).arg(degrees(told->tilt)).arg(i)));
                // To the left of the pattern's own direction the axis leans on every row.
                const Vec3 way = *leans.feed(i) * (leans.returning(i) ? -1.0 : 1.0);
                QVERIFY(near(degrees(std::asin(p.axis[i].dot(p.normal[i].cross(way)))), 15.0, 0.1));
            }
            QVERIFY(there > 100 && back > 100);
        }
    }
    void theRotaryLineStandsWhereTheTableTurns() {
        // Heron 5T's C axis runs through the middle of the table seat; the part's datum stands above it.
        const auto line = rotaryLine(*place().machine, place().partFrame);
        QVERIFY(line);
        QVERIFY(std::abs(line->direction.normalized().z()) > 0.999);
        QVERIFY(std::hypot(line->point.x(), line->point.y()) < 1e-9);
    }
};

GYRE_TEST(TestOperation)

} // namespace test_operation
#include "test_operation.moc"
