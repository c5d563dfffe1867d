// Rows that are kept where stock stands: after a ball that cut half of a block's top, against its own round.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "job/Job.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"
#include "target/TargetSpec.h"

namespace test_rest_rows {

using namespace gyre;

class TestRestRows : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    Job m_job; ///< a block 60 × 40 × 20 with 2 mm of stock all around it; the first operation cuts its top up to x = 30, the second where stock stands
    std::unique_ptr<Workshop> m_workshop;
    StageCache m_cache;

    JobResults computed(const Job& job) {
        Progress progress;
        auto r = computeJob(job, *m_workshop, m_cache, progress);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    static bool told(const OperationResult& r, const char* code) {
        return std::any_of(r.findings.begin(), r.findings.end(), [&](const Finding& f) { return f.code == code; });
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_workshop = std::make_unique<Workshop>(dir);
        m_job = jobAround(test::boxStep(dir, 60, 40, 20), GYRE_DEMO_DIR, test::demoFile("dunlin-5m.machine.json").string()).value();
        Progress progress;
        const auto place = m_workshop->placeFor(m_job, progress).value();
        proposeSetup(m_job, *place->part, 2.0);
        const auto set = m_workshop->placeFor(m_job, progress).value();
        m_job.tools.push_back(test::ballTool(10, 60));
        m_job.tools.back().id = "ball";
        int top = -1;
        for (std::size_t f = 0; f < set->part->faces().size(); ++f)
            if (set->part->faces()[f].normal.z() > 0.99) top = static_cast<int>(f);
        Recipe rows = proposeRows(m_job, *set, nullptr);
        rows.id = "half";
        rows.tool = "ball";
        rows.target->faces = {set->part->faceRef(top)};
        rows.pattern->kind = PatternBy::Planes;
        rows.pattern->spacing = 0.4;
        rows.axis->leadDegrees = rows.axis->tiltDegrees = 0;
        rows.feed = 1000;
        rows.where->axis = 0;
        rows.where->byHeight = true;
        rows.where->low = -100;
        rows.where->high = 30;
        Recipe rest = rows;
        rest.id = "rest";
        rest.where = {};
        rest.where->byStock = true;
        rest.where->stock = 0.5;
        m_job.route = {rows, rest};
    }
    // Beside the last place of the ball stock stands 5 − √(25 − u²) high at u from it: half a millimetre at u = 2.18.
    void rowsBeginWhereTheBallEnded() {
        const JobResults r = computed(m_job);
        QCOMPARE(r.operations.size(), 2u);
        const OperationResult& rest = *r.operations[1];
        QVERIFY2(rest.pattern && rest.complete(), rest.findings.empty() ? "" : rest.findings[0].text.c_str());
        const double cell = 0.3, from = 30 + std::sqrt(25 - 4.5 * 4.5);
        std::set<int> indices;
        for (const Row& row : rest.pattern->rows) {
            double low = 1e9, high = -1e9;
            for (const Vec3& p : row.points) {
                low = std::min(low, p.x());
                high = std::max(high, p.x());
            }
            QVERIFY2(low > from - 2.5 * cell && low < from + cell, qPrintable(QString("%1, expected %2").arg(low).arg(from)));
            QVERIFY(high > 60 - 0.05);
            indices.insert(row.index);
        }
        QVERIFY(indices.size() >= 100);
        QVERIFY(!told(rest, "stock-in-cells"));
        // The region that is drawn is as large.
        double area = 0.0;
        const TriangleMesh& m = rest.pattern->region;
        for (std::size_t i = 0; i < m.triangles.size(); ++i) area += 0.5 * (m.corner(i, 1) - m.corner(i, 0)).cross(m.corner(i, 2) - m.corner(i, 0)).norm();
        QVERIFY2(area > 40 * (59.9 - from) && area < 40 * (60.0 - from + 3.0 * cell), qPrintable(QString::number(area / 40)));
    }
    void whatStandsBeforeDecides() {
        // More is cut before: less is left. Nothing before: all is.
        Job job = m_job;
        job.route[0].where->high = 45;
        const double shorter = computed(job).operations[1]->pattern->rowsLength;
        job.route[0].active = false;
        const JobResults alone = computed(job);
        const double all = alone.operations.back()->pattern->rowsLength, half = computed(m_job).operations[1]->pattern->rowsLength;
        QVERIFY2(std::abs(all / 60 - half / 27.8) < 0.05 * all / 60 && std::abs(all / 60 - shorter / 12.8) < 0.1 * all / 60,
                 qPrintable(QString("%1 %2 %3").arg(all).arg(half).arg(shorter)));
        // Less stock than asked for stands anywhere: there is nothing to cut, and that is said. What is left on the faces anyway counts on top.
        job = m_job;
        job.route[1].where->stock = 2.2;
        const JobResults none = computed(job);
        QVERIFY(!none.operations[1]->pattern && told(*none.operations[1], "nothing-generated"));
        job.route[1].where->stock = 1.5;
        QVERIFY(computed(job).operations[1]->pattern);
        job.route[1].target->leave = 0.7;
        QVERIFY(!computed(job).operations[1]->pattern);
    }
    void lessThanIsKnownIsTold() {
        Job job = m_job;
        job.route[1].where->stock = 0.01;
        const JobResults r = computed(job);
        const OperationResult& rest = *r.operations[1];
        const auto f = std::find_if(rest.findings.begin(), rest.findings.end(), [](const Finding& f) { return f.code == "stock-in-cells"; });
        QVERIFY(f != rest.findings.end() && f->remedies.size() == 1);
        QVERIFY(setWord(job, "rest", f->remedies[0].key, f->remedies[0].value).has_value());
        QVERIFY(!told(*computed(job).operations[1], "stock-in-cells"));
    }
    // A stock file that changes on disk: rows that rest on it are not the same, others are.
    void anotherStockIsAnotherKey() {
        Workplace other = *computed(m_job).place;
        const auto keys = [&] { return std::pair(other.keyFor(m_job.route[0]), other.keyFor(m_job.route[1])); };
        const auto before = keys();
        other.stock ^= 1;
        QVERIFY(keys().first == before.first && keys().second != before.second);
    }
    void withoutStock() {
        Job job = m_job;
        std::erase_if(job.bodies, [](const JobBody& b) { return b.role == "stock"; });
        const JobResults r = computed(job);
        QVERIFY(!r.operations[1]->pattern && told(*r.operations[1], "nothing-generated"));
        for (const Finding& f : r.operations[1]->findings)
            if (f.code == "nothing-generated") QVERIFY(!f.remedies.empty() || f.reason.find("stock") != std::string::npos || f.text.find("stock") != std::string::npos);
    }
};

GYRE_TEST(TestRestRows)

} // namespace test_rest_rows
#include "test_rest_rows.moc"
