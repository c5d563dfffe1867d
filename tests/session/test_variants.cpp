// Several ways of doing an operation: put aside, taken, dropped, kept; what they come to beside each other is what each comes to alone.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "form/Form.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "session/Sending.h"
#include "session/Variants.h"

namespace test_variants {

using namespace gyre;

class TestVariants : public QObject {
    Q_OBJECT
    Workshop m_workshop{test::demoFile("").parent_path()};
    StageCache m_cache;
    Progress m_progress;

    JobResults computed(const Job& job) { return computeJob(job, m_workshop, m_cache, m_progress).value(); }
    std::vector<VariantResult> compared(const Job& job, const std::string& id, StageCache& cache) {
        const JobResults r = computed(job);
        std::vector<std::shared_ptr<const OperationResult>> before;
        for (const auto& o : r.operations) {
            if (wholeId(o->operation) == id) break;
            before.push_back(o);
        }
        return compareVariants(r.place, job, id, before, cache, m_progress).value();
    }

private slots:
    // What is in the route and what is put aside change places; words, place in the route and switch are not lost. Written and read it is the same.
    void theyChangePlaces() {
        Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        const Job first = job;
        QVERIFY(variantsOf(job, "flare").empty() && !addVariant(job, "nothing") && !takeVariant(job, "flare", "B") && !dropVariant(job, "flare", "A"));
        QCOMPARE(jobToJson(job), jobToJson(first));
        QVERIFY(addVariant(job, "flare") && setWord(job, "flare", "pattern.spacing", "1.5"));
        QVERIFY(addVariant(job, "flare") && setWord(job, "flare", "axis.tilt", "30"));
        QCOMPARE(job.route.size(), first.route.size());
        auto all = variantsOf(job, "flare");
        QCOMPARE(all.size(), std::size_t(3));
        QVERIFY(all[0]->variant == "A" && all[1]->variant == "B" && all[2]->variant == "C" && all[2] == job.operation("flare"));
        QVERIFY(all[0]->pattern->spacing == first.route[0].pattern->spacing && all[1]->pattern->spacing == 1.5 && all[2]->pattern->spacing == 1.5);
        QVERIFY(all[1]->axis->tiltDegrees == first.route[0].axis->tiltDegrees && all[2]->axis->tiltDegrees == 30.0);
        const auto again = jobFromJson(jobToJson(job), "again");
        QVERIFY2(again, again ? "" : again.error().text().c_str());
        QCOMPARE(jobToJson(*again), jobToJson(job));
        job.operation("flare")->name = "Renamed";
        job.operation("flare")->active = false;
        QVERIFY(takeVariant(job, "flare", "A"));
        const Recipe& now = *job.operation("flare");
        QVERIFY(now.variant == "A" && now.name == "Renamed" && !now.active && now.pattern->spacing == first.route[0].pattern->spacing);
        QVERIFY(!dropVariant(job, "flare", "A") && dropVariant(job, "flare", "C"));
        QVERIFY(addVariant(job, "flare") && job.operation("flare")->variant == "C"); // the letter that is free
        while (addVariant(job, "flare")) {
        }
        QCOMPARE(variantsOf(job, "flare").size(), kMostVariants);
        for (const char* v : {"A", "B", "D", "E"}) QVERIFY(job.operation("flare")->variant == v || dropVariant(job, "flare", v));
        QVERIFY(takeVariant(job, "flare", "C"));
        keepVariant(job, "flare");
        QVERIFY(job.variants.empty() && job.operation("flare")->variant.empty());
        // The last one that goes takes the name of the one that stays.
        QVERIFY(addVariant(job, "flare") && dropVariant(job, "flare", "A") && job.operation("flare")->variant.empty());
    }
    // A file whose variants belong to nothing, or are there twice, is refused with the place.
    void wrongFilesAreRefused() {
        Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        QVERIFY(!addVariant(job, "op6") && !addVariant(job, "op7")); // holes, a step in them
        QVERIFY(addVariant(job, "op3"));
        for (const auto& [what, spoil] : std::vector<std::pair<const char*, std::function<void(Job&)>>>{{"id", [](Job& j) { j.variants[0].id = "op99"; }},
                                                                                                        {"id", [](Job& j) { j.variants[0].id = "op6"; }},
                                                                                                        {"variant", [](Job& j) { j.variants[0].variant = "B"; }},
                                                                                                        {"variant", [](Job& j) { j.variants[0].variant.clear(); }}}) {
            Job wrong = job;
            spoil(wrong);
            const auto read = jobFromJson(jobToJson(wrong), "job");
            QVERIFY(!read);
            QVERIFY2(read.error().text().find(what) != std::string::npos, read.error().text().c_str());
        }
    }
    // Beside each other they come to what each comes to when it stands in the route; figures by another way.
    void figuresAreThoseOfEachAlone() {
        Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        QVERIFY(addVariant(job, "flare") && setWord(job, "flare", "pattern.spacing", "1.2"));
        QVERIFY(addVariant(job, "flare") && setWord(job, "flare", "pattern.kind", "planes") && setWord(job, "flare", "pattern.lean", "90"));
        StageCache own;
        const auto all = compared(job, "flare", own);
        QCOMPARE(all.size(), std::size_t(3));
        const Machine& machine = *computed(job).place->machine;
        const auto table = tableOf(all, machine);
        const auto line = [&](const std::string& what) -> const VariantLine& {
            return *std::find_if(table.begin(), table.end(), [&](const VariantLine& l) { return l.what == what; });
        };
        QVERIFY(all[0].differs.empty());
        QCOMPARE(all[1].differs.size(), std::size_t(1));
        QVERIFY2(all[1].differs[0].ends_with(": 1.2 mm"), all[1].differs[0].c_str());
        QVERIFY(all[2].differs.size() >= 3);
        for (std::size_t i = 0; i < all.size(); ++i) {
            Job alone = job;
            QVERIFY(takeVariant(alone, "flare", all[i].variant));
            keepVariant(alone, "flare");
            StageCache fresh;
            const JobResults r = computeJob(alone, m_workshop, fresh, m_progress).value();
            const OperationResult& is = *r.operations.front();
            QVERIFY(is.path()->tip == all[i].result->path()->tip && is.motion->time == all[i].result->motion->time);
            QCOMPARE(line("Time").said[i], clockText(is.motion->duration));
            double fastest = 0.0, turned = 0.0;
            for (const int j : machine.rotaries())
                for (std::size_t k = 0; k + 1 < is.motion->size(); ++k) {
                    const double by = degrees(std::abs(is.motion->jointsAt(k + 1)[static_cast<std::size_t>(j)] - is.motion->jointsAt(k)[static_cast<std::size_t>(j)]));
                    turned += by;
                    if (is.motion->time[k + 1] - is.motion->time[k] > 1e-9) fastest = std::max(fastest, 60.0 * by / (is.motion->time[k + 1] - is.motion->time[k]));
                }
            QCOMPARE(line("They turn in all").said[i], fmt::format("{:.0f}°", turned));
            QCOMPARE(line("Rotaries at most").said[i], fmt::format("{:.0f}°/min", fastest));
            QCOMPARE(line("Retracts").said[i], std::to_string(is.links->retracts));
            QCOMPARE(line("Widest gap").said[i], fmt::format("{:.3f} mm", is.pattern->widestGap));
            float holder = 1e9F;
            for (std::size_t k = 0; k < is.holderClearance.size(); ++k)
                if (is.path()->motion[k] == Motion::Cut) holder = std::min(holder, is.holderClearance[k]);
            QCOMPARE(line("Holder, nearest").said[i], holder >= 20.0F ? std::string("over 20 mm") : fmt::format("{:.2f} mm", holder));
            for (const Finding& f : is.findings) QVERIFY(f.rank != Rank::Stop || line("Stops").said[i] != "0");
        }
        // Best is least time, most clearance; never all of them.
        for (const VariantLine& l : table) {
            QVERIFY(!l.alike || std::all_of(l.said.begin(), l.said.end(), [&](const std::string& s) { return s == l.said[0]; }));
            const auto best = std::count(l.best.begin(), l.best.end(), true);
            QVERIFY(l.what == "Of that cutting" ? best == 0
                    : best == 0                 ? std::all_of(l.said.begin(), l.said.end(), [&](const std::string& s) { return s == l.said[0]; })
                                                : best < 3);
        }
        std::size_t quickest = 0;
        for (std::size_t i = 1; i < 3; ++i)
            if (all[i].result->motion->duration < all[quickest].result->motion->duration) quickest = i;
        QVERIFY(line("Time").best[quickest]);
        const VariantLine& shank = line("Shank, nearest");
        std::size_t clearest = 0;
        const auto nearest = [&](std::size_t i) {
            float least = 1e9F;
            for (std::size_t k = 0; k < all[i].result->shankClearance.size(); ++k)
                if (all[i].result->path()->motion[k] == Motion::Cut) least = std::min(least, all[i].result->shankClearance[k]);
            return least;
        };
        for (std::size_t i = 1; i < 3; ++i)
            if (nearest(i) > nearest(clearest)) clearest = i;
        QVERIFY(shank.alike || shank.best[clearest]);
        // What is put aside does nothing in the route.
        const auto worked = job.worked();
        QCOMPARE(worked.size(), std::size_t(1));
        QCOMPARE(worked[0].variant, std::string("C"));
    }
    // How a variant is called is no word of the path: kept, or by another letter, what was proven of it is proven.
    void itsNameIsNoWord() {
        Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        const auto key = [&] { return keyTextOf(job.worked()[0]); };
        const std::string alone = key();
        QVERIFY(addVariant(job, "flare"));
        QCOMPARE(key(), alone);
        QVERIFY(setWord(job, "flare", "pattern.spacing", "1.2"));
        const std::string other = key();
        QVERIFY(other != alone && takeVariant(job, "flare", "A"));
        QCOMPARE(key(), alone);
        QVERIFY(takeVariant(job, "flare", "B"));
        keepVariant(job, "flare");
        QCOMPARE(key(), other);
    }
    // The part's triangles are as fine as the finest of them asks, whichever is in hand: they stand beside each other on the same.
    void theyShareThePart() {
        Job job = openJob(test::demoFile("lantern-collar.gyre.json")).value();
        const auto alone = m_workshop.placeFor(job, m_progress).value();
        QVERIFY(addVariant(job, "flare") && setWord(job, "flare", "pattern.chordTolerance", "0.0012"));
        const auto fine = m_workshop.placeFor(job, m_progress).value();
        QVERIFY(fine->key != alone->key);
        QVERIFY(takeVariant(job, "flare", "A"));
        QCOMPARE(m_workshop.placeFor(job, m_progress).value()->key, fine->key);
        keepVariant(job, "flare");
        QCOMPARE(m_workshop.placeFor(job, m_progress).value()->key, alone->key);
    }
    // They rest on what stands before them: without the roughing a feed that follows the cut is another.
    void theyRestOnWhatIsBefore() {
        Job job = openJob(test::demoFile("yoke-work.gyre.json")).value();
        job.route.erase(job.route.begin() + 3, job.route.end());
        job.route.erase(job.route.begin() + 1);
        QVERIFY(addVariant(job, "op3") && setWord(job, "op3", "feedByCut.on", "true") && setWord(job, "op3", "tool.limits.engaged", "100"));
        StageCache one, two;
        const auto with = compared(job, "op3", one);
        job.operation("op1")->active = false;
        const auto without = compared(job, "op3", two);
        QVERIFY(with[0].result->path()->feed == without[0].result->path()->feed && with[1].result->path()->feed != without[1].result->path()->feed);
        QVERIFY(with[1].differs.size() == 1 && with[1].differs[0].find("following the cut") != std::string::npos);
    }
};

GYRE_TEST(TestVariants)

} // namespace test_variants
#include "test_variants.moc"
