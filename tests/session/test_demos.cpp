// Every demo job: no finding of rank Stop, proven at its machine, and its programs in every dialect say the same when they are read back.
#include "OpenedJob.h"
#include "Program.h"
#include "ReadBack.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "proof/Proof.h"

namespace test_demos {

using namespace gyre;

class TestDemos : public QObject {
    Q_OBJECT
private slots:
    void everyJobIsProvenAndReplayed_data() {
        QTest::addColumn<QString>("file");
        for (const char* job : {"barrel-work", "yoke-work", "dome-stars", "moth-relief", "collar-walls", "collar-leans", "horn-guide", "dome-edges", "yoke-edges",
                                "yoke-corners", "runner-vanes", "runner-passage"})
            QTest::newRow(job) << QString(job) + ".gyre.json";
    }
    void everyJobIsProvenAndReplayed() {
        QFETCH(QString, file);
        const Job job = openJob(test::demoFile(file.toStdString())).value();
        Workshop workshop(std::filesystem::path(GYRE_DEMO_DIR));
        StageCache cache;
        Progress progress;
        const JobResults results = computeJob(job, workshop, cache, progress).value();
        QVERIFY(!results.operations.empty());
        const OperationResult* before = nullptr;
        for (const auto& r : results.operations) {
            QVERIFY2(r->complete(), r->operation.c_str());
            const auto proof =
                prove(*results.place, *r, ProofSpec::under(job.resolved(*job.operation(r->operation)).guard), progress, standingAfter(*results.place->machine, before));
            QVERIFY(proof);
            before = r.get();
            // Every place of the path knows what it is cut for.
            for (std::size_t i = 0; i < r->links->path.size(); ++i) {
                const PassOrigin from = r->links->originOf(r->links->path.row[i]);
                QVERIFY2(r->drill ? from.hole >= 0 : r->mill ? from.level >= 0 : from.row >= 0 || from.level >= 0 || from.layer >= 0, r->operation.c_str());
            }
            for (const auto* findings : {&r->findings, &proof->findings})
                for (const Finding& f : *findings) QVERIFY2(f.rank != Rank::Stop, (r->operation + ": " + f.text).c_str());
        }
        // What some of them must tell: the lip of the collar's undercut stands where the disc does not reach; between the yoke's cheeks roughing
        // has to go through the full.
        const auto told = [&](const char* code, Rank rank) {
            return std::any_of(results.operations.begin(), results.operations.end(), [&](const auto& r) {
                return std::any_of(r->findings.begin(), r->findings.end(),
                                   [&](const Finding& f) { return f.code == code && f.rank == rank && f.place && f.amount > 0.0; });
            });
        };
        if (QTest::currentDataTag() == std::string("collar-walls")) QVERIFY(told("wall-under", Rank::Look));
        if (QTest::currentDataTag() == std::string("collar-leans")) QVERIFY(told("guard-leaned", Rank::Note));
        if (QTest::currentDataTag() == std::string("yoke-work")) QVERIFY(told("heavy-cuts", Rank::Note));
        const PostInput input = postInputOf(job, results.place, results.operations);
        for (const Dialect dialect : {Dialect::TipControl, Dialect::Joints, Dialect::CutterData}) {
            std::string text;
            const std::string trouble = test::readAgain(input, dialect, text);
            QVERIFY2(trouble.empty(), trouble.c_str());
        }
        // As the shop's own controls take them, where they can: a tap needs a cycle.
        std::string machine = results.place->machine->name;
        for (char& c : machine) c = c == ' ' ? '-' : static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        for (const std::string& name : {machine, std::string("tilted-planes")}) {
            const auto shop = chooseDialect(name + ".dialect.json", GYRE_DEMO_DIR).value();
            std::string text;
            const std::string trouble = test::readAgain(inDialect(input, shop.spelling), shop.kind, text);
            QVERIFY2(trouble.empty() || trouble.find("tap needs") != std::string::npos, (name + ": " + trouble).c_str());
        }
    }
};

GYRE_TEST(TestDemos)

} // namespace test_demos
#include "test_demos.moc"
