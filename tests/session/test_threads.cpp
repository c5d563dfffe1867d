// One thread or two: motion, proof and programs are the same to the last bit.
#include "OpenedJob.h"
#include "Program.h"
#include "ReadBack.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "proof/Proof.h"
#include <tbb/global_control.h>

namespace test_threads {

using namespace gyre;

class TestThreads : public QObject {
    Q_OBJECT

    struct Made {
        std::vector<std::vector<double>> numbers; ///< of every operation: path, joints, times
        std::vector<std::string> told;            ///< findings of operations and proofs
        std::vector<std::string> programs;
    };
    static Made made(const char* file, std::size_t threads) {
        const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
        Made out;
        const Job job = openJob(test::demoFile(file)).value();
        Workshop workshop{std::filesystem::path(GYRE_DEMO_DIR)};
        StageCache cache;
        Progress progress;
        const JobResults results = computeJob(job, workshop, cache, progress).value();
        const OperationResult* before = nullptr;
        for (const auto& r : results.operations) {
            std::vector<double> numbers;
            const Toolpath& path = *r->path();
            for (std::size_t i = 0; i < path.size(); ++i)
                for (const double v :
                     {path.tip[i].x(), path.tip[i].y(), path.tip[i].z(), path.axis[i].x(), path.axis[i].y(), path.axis[i].z(), static_cast<double>(path.feed[i])})
                    numbers.push_back(v);
            for (std::size_t i = 0; i < r->motion->size(); ++i)
                for (const double q : r->motion->jointsAt(i)) numbers.push_back(q);
            out.numbers.push_back(std::move(numbers));
            const auto proof =
                prove(*results.place, *r, ProofSpec::under(job.resolved(*job.operation(r->operation)).guard), progress, standingAfter(*results.place->machine, before))
                    .value();
            before = r.get();
            for (const auto* findings : {&r->findings, &proof.findings})
                for (const Finding& f : *findings) out.told.push_back(f.code + ": " + f.text + f.reason);
        }
        const PostInput input = postInputOf(job, results.place, results.operations);
        for (const Dialect dialect : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
            std::string text;
            (void)test::readAgain(input, dialect, text);
            out.programs.push_back(std::move(text));
        }
        return out;
    }

private slots:
    void oneOrTwo_data() {
        QTest::addColumn<QString>("file");
        for (const char* file : {"collar-walls.gyre.json", "collar-leans.gyre.json", "yoke-work.gyre.json", "dome-edges.gyre.json"}) QTest::newRow(file) << QString(file);
    }
    void oneOrTwo() {
        QFETCH(QString, file);
        const Made one = made(qPrintable(file), 1), two = made(qPrintable(file), 2);
        QVERIFY(!one.numbers.empty() && !one.programs.front().empty());
        QVERIFY(one.numbers == two.numbers);
        QVERIFY(one.told == two.told);
        QVERIFY(one.programs == two.programs);
    }
};

GYRE_TEST(TestThreads)

} // namespace test_threads
#include "test_threads.moc"
