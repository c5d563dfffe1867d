// Two operations in slices: the route as it is worked, its keys, the paths, the program and the proof.
#include "Program.h"
#include "Support.h"
#include "job/Job.h"
#include "operation/OperationResult.h"
#include "operation/SliceSpec.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"
#include "session/RouteProof.h"
#include "session/Sending.h"
#include "target/TargetSpec.h"

namespace test_slice_route {

using namespace gyre;

class TestSliceRoute : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    Job m_job; ///< a cone's wall in levels, twice, in slices of 6 from 25 down to 0
    std::unique_ptr<Workshop> m_workshop;
    StageCache m_cache;

    JobResults computed(const Job& job) {
        Progress progress;
        auto r = computeJob(job, *m_workshop, m_cache, progress);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    static double cutLength(const OperationResult& r) {
        double sum = 0.0;
        for (const Pass& pass : *r.passes)
            for (std::size_t i = 1; i < pass.path.size(); ++i) sum += (pass.path.contact[i] - pass.path.contact[i - 1]).norm();
        return sum;
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_workshop = std::make_unique<Workshop>(dir);
        m_job = jobAround(test::coneStep(dir, 30, 12, 25), GYRE_DEMO_DIR, test::demoFile("dunlin-5m.machine.json").string()).value();
        Progress progress;
        proposeSetup(m_job, *m_workshop->placeFor(m_job, progress).value()->part, 1.5);
        for (JobBody& b : m_job.bodies)
            if (b.role == "stock") { // roughed before
                b.shape = StockShape{};
                b.shape->kind = StockShape::Kind::Around;
                b.shape->allowance = 1.5;
            }
        m_job.seat.z() += 30.0; // off the table
        const auto place = m_workshop->placeFor(m_job, progress).value();
        m_job.tools = {test::ballTool(8, 60)};
        m_job.tools[0].id = "ball";
        int wall = -1;
        for (std::size_t f = 0; f < place->part->faces().size(); ++f)
            if (place->part->faces()[f].kind == SurfaceKind::Cone) wall = static_cast<int>(f);
        Recipe slices;
        slices.id = "s";
        slices.kind = OperationKind::Slices;
        slices.name = "Slices";
        *slices.slices = {2, 25.0, 0.0, 6.0, 0.0};
        Recipe rough = proposeRows(m_job, *place, nullptr);
        rough.id = "first";
        rough.name = "Thick";
        rough.parent = "s";
        rough.tool = "ball";
        rough.feed = 900;
        rough.target->faces = {place->part->faceRef(wall)};
        rough.target->leave = 1.0;
        rough.pattern->kind = PatternBy::Lines; // down the wall: every row is cut
        rough.pattern->spacing = 4.0;
        Recipe fine = rough;
        fine.id = "second";
        fine.name = "Thin";
        fine.target->leave = 0.0;
        fine.pattern->kind = PatternBy::Planes;
        fine.pattern->lean = 90.0;
        fine.pattern->spacing = 2.0;
        m_job.route = {slices, rough, fine};
    }
    // Slice by slice both operations; each keeps to its heights, and all slices together are what it is as a whole.
    void sliceBySlice() {
        const auto worked = m_job.worked();
        QCOMPARE(worked.size(), std::size_t(10));
        for (std::size_t i = 0; i < worked.size(); ++i) {
            QCOMPARE(worked[i].id, sliceId(i % 2 ? "second" : "first", static_cast<int>(i / 2) + 1));
            QCOMPARE(worked[i].name, std::string(i % 2 ? "Thin" : "Thick") + ", slice " + QString::number(i / 2 + 1).toStdString());
            QCOMPARE(m_job.operation(worked[i].id)->id, wholeId(worked[i].id));
            QVERIFY(m_job.worked(worked[i].id)->slice.number == static_cast<int>(i / 2));
        }
        const JobResults r = computed(m_job);
        Job whole = m_job;
        whole.route.erase(whole.route.begin());
        for (Recipe& o : whole.route) o.parent.clear();
        const JobResults at = computed(whole);
        std::array<double, 2> sum{};
        for (std::size_t i = 0; i < r.operations.size(); ++i) {
            const OperationResult& one = *r.operations[i];
            QVERIFY2(one.complete(), one.operation.c_str());
            sum[i % 2] += cutLength(one);
            const double high = 25.0 - 5.0 * static_cast<double>(i / 2), low = high - 5.0;
            for (const Pass& pass : *one.passes)
                for (const Vec3& c : pass.path.contact)
                    QVERIFY2((i / 2 == 0 || c.z() < high + 1e-6) && (i / 2 == 4 || c.z() > low - 1e-6), qPrintable(QString::number(c.z())));
        }
        for (std::size_t k = 0; k < 2; ++k) {
            const double all = cutLength(*at.operations[k]);
            QVERIFY2(std::abs(sum[k] - all) < 1e-3 * all, qPrintable(QString("%1 of %2").arg(sum[k]).arg(all)));
        }
    }
    // What stands is found as it is by then: the ball goes into stock that no other slice has taken away, and the proof has no Stop of its own making.
    void proofAndProgram() {
        const JobResults r = computed(m_job);
        Progress progress;
        RouteProof proofs(r.place, m_cache);
        for (const auto& one : r.operations) {
            const auto proof = proofs.next(one, ProofSpec::under(m_job.resolved(*m_job.operation(one->operation)).guard), progress);
            QVERIFY(proof.has_value());
            for (const Finding& f : proof->findings)
                QVERIFY2(f.rank != Rank::Stop,
                         (one->operation + ": " + f.text + (f.place ? fmt::format(" at {} {} {}", (*f.place)[0], (*f.place)[1], (*f.place)[2]) : "")).c_str());
        }
        const PostInput input = postInputOf(m_job, r.place, r.operations);
        QCOMPARE(input.operations.size(), std::size_t(10));
        const auto written = writeChecked(input, Dialect::TipControl);
        QVERIFY2(written.has_value(), written ? "" : written.error().text().c_str());
        for (const char* name : {"Thick, slice 1", "Thin, slice 5"}) {
            QString upper = QString(name).toUpper(), text = QString::fromStdString(written->text).toUpper();
            QVERIFY2(text.contains(upper) || text.contains(upper.remove(',')), name);
        }
    }
    // Every word of the slices changes the keys of what stands in them, and of what comes after and rests on the stock; nothing else's.
    void keysKnowTheirSlices() {
        const auto keys = [](const Job& job) {
            std::map<std::string, std::string> out;
            for (const Recipe& r : job.worked()) out[r.id] = keyTextOf(r);
            return out;
        };
        const auto before = keys(m_job);
        std::set<std::string> different;
        for (const auto& [id, key] : before) different.insert(key);
        QCOMPARE(different.size(), before.size());
        Job other = m_job;
        QVERIFY(setWord(other, "s", "slices.overlap", "0.5").has_value());
        int changed = 0;
        for (const auto& [id, key] : keys(other)) changed += before.at(id) != key;
        QCOMPARE(changed, 8); // the last slice of both has none after it
        other = m_job;
        QVERIFY(setWord(other, "s", "slices.thickness", "5").has_value());
        QVERIFY(keys(other) == before); // five slices of five, as they are
        QVERIFY(setWord(other, "s", "slices.to", "5").has_value());
        QVERIFY(keys(other) != before);
        // What stands in them may rest on the stock: then all that was cut in the slices before counts.
        other = m_job;
        other.operation("second")->where->byStock = true;
        const auto resting = keys(other);
        other.operation("first")->pattern->spacing = 3.0;
        for (const auto& [id, key] : keys(other)) QVERIFY2(resting.at(id) != key, id.c_str());
        // What stands after it in the slice has cut in the slices before: its first slice alone knows nothing of that.
        other = m_job;
        other.operation("first")->where->byStock = true;
        const auto first = keys(other);
        other.operation("second")->pattern->spacing = 3.0;
        for (const auto& [id, key] : keys(other)) QVERIFY2((first.at(id) != key) == (id != "first@1"), id.c_str());
        other = m_job;
        other.operation("first")->pattern->spacing = 3.0;
        for (const auto& [id, key] : keys(other)) QCOMPARE(before.at(id) != key, wholeId(id) == "first");
    }
    // Written and read back the same; a carrier that is not right above is refused.
    void files() {
        const std::string text = jobToJson(m_job);
        const auto again = jobFromJson(text, "here");
        QVERIFY2(again.has_value(), again ? "" : again.error().text().c_str());
        QCOMPARE(jobToJson(*again), text);
        const auto refused = [&](const std::function<void(Job&)>& damage) {
            Job job = m_job;
            damage(job);
            const auto r = jobFromJson(jobToJson(job), "here");
            return !r && r.error().text().find("parent") != std::string::npos;
        };
        QVERIFY(refused([](Job& j) { j.route[1].parent = "nobody"; }));
        QVERIFY(refused([](Job& j) { std::swap(j.route[0], j.route[2]); }));
        QVERIFY(refused([](Job& j) {
            Recipe other = j.route[2];
            other.id = "between";
            other.parent.clear();
            j.route.insert(j.route.begin() + 2, other);
        }));
        // Switched off nothing of it is cut.
        Job off = m_job;
        off.route[0].active = false;
        QVERIFY(off.worked().empty());
    }
};

GYRE_TEST(TestSliceRoute)

} // namespace test_slice_route
#include "test_slice_route.moc"
