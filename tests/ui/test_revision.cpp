// A part that changes under an open job, by mouse and keyboard in the real window.
#include "WindowTest.h"
#include "model/Revision.h"
#include "proposal/NewJob.h"
#include "target/TargetSpec.h"

namespace test_revision {

using namespace gyre;
using test::Family;

class TestRevision : public test::WindowTest {
    Q_OBJECT
    std::filesystem::path folder() const { return m_dir->path().toStdString(); }
    static int floorOf(const Part& part, const Family& f) {
        for (std::size_t i = 0; i < part.faces().size(); ++i)
            if (part.faces()[i].normal.z() > 0.999 && std::abs(part.faces()[i].centre.z() - (f.height - f.pocketDepth)) < 1e-6) return static_cast<int>(i);
        return -1;
    }
    const Part& part() { return *m_model->place()->part; }
    int named() { return part().findFace(m_model->job().route[0].target->faces[0]).value_or(-1); }

private slots:
    void init() {
        openDemo();
        const Family f;
        const auto file = test::familyPart(folder() / "block.step", f);
        Job job = jobAround(file, GYRE_DEMO_DIR).value();
        const auto opened = test::openPart(file);
        proposeSetup(job, *opened);
        Recipe r;
        r.id = "op1";
        r.name = "Pocket floor";
        r.tool = job.tools.empty() ? std::string() : job.tools.front().id;
        r.target->faces = {opened->faceRef(floorOf(*opened, f))};
        job.route = {r};
        QVERIFY(saveJob(job, folder() / "block.gyre.json").has_value());
        QVERIFY(m_window->openFile(m_dir->filePath("block.gyre.json"), false));
        settle();
        m_model->setBench(Bench::SetUp);
        QVERIFY(!m_model->revision().told() && !find<QWidget>("revision"));
    }
    void cleanup() { closeAll(); }

    // Its file is written anew: told, lit, followed in one action, undone in one; the job's own faces were never another's.
    void theFileChanges() {
        Family g;
        g.height = 36;
        g.pocketDepth = 14;
        g.slot = true;
        (void)test::familyPart(folder() / "block.step", g);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->revision().told() && m_model->settled(), 60000);
        QTRY_VERIFY(find<QWidget>("revision"));
        QVERIFY2(find<QLabel>("revision.faces")->text().contains("4 new"), qPrintable(find<QLabel>("revision.faces")->text()));
        QVERIFY2(find<QLabel>("revision.line")->text().startsWith("Pocket floor"), qPrintable(find<QLabel>("revision.line")->text()));
        click(find<QPushButton>("revision.lightNew"));
        QTRY_COMPARE(m_model->revision().litFaces().size(), std::size_t(4));
        QVERIFY(!m_window->grab().isNull());
        click(find<QPushButton>("revision.lightChanged"));
        QTRY_VERIFY(m_model->revision().lit() == Revision::Lit::Changed);
        m_actions = 0;
        click(find<QPushButton>("revision.follow"));
        QCOMPARE(m_actions, 1);
        settle();
        QTRY_COMPARE(named(), floorOf(part(), g));
        QVERIFY(!m_model->revision().told());
        QTRY_VERIFY(!find<QWidget>("revision"));
        m_model->undo();
        settle();
        QVERIFY(named() != floorOf(part(), g));
        m_model->redo();
        settle();
        QCOMPARE(named(), floorOf(part(), g));
    }
    // Another part in its place, put away, then the first one again.
    void anotherFile() {
        Family g;
        g.length = 140;
        g.pocketLength = 60;
        g.height = 24;
        (void)test::familyPart(folder() / "longer.step", g);
        QVERIFY(find<QPushButton>("exchange.0"));
        m_model->exchangeFile(0, m_dir->filePath("longer.step"));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->revision().told() && m_model->settled(), 60000);
        QCOMPARE(m_model->job().bodies[0].file, std::string("longer.step"));
        click(find<QPushButton>("revision.away"));
        QTRY_VERIFY(!find<QWidget>("revision"));
        m_model->undo();
        settle();
        QTRY_COMPARE(named(), floorOf(part(), Family()));
        QVERIFY(!m_model->revision().told()); // what it names is there
        m_model->redo();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->revision().told() && m_model->settled(), 60000);
        click(find<QPushButton>("revision.follow"));
        settle();
        QTRY_COMPARE(named(), floorOf(part(), g));
        // A file that is none leaves the job where it can be undone.
        m_model->exchangeFile(0, m_dir->filePath("nothing.step"));
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->setupTrouble().isEmpty(), 60000);
        m_model->undo();
        settle();
        QTRY_COMPARE(named(), floorOf(part(), g));
        // Another job knows nothing of it.
        m_model->exchangeFile(0, m_dir->filePath("block.step"));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->revision().told(), 60000);
        m_model->undo();
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        settle();
        QVERIFY(!m_model->revision().told());
    }
};

GYRE_WINDOW_TEST(TestRevision)

} // namespace test_revision
#include "test_revision.moc"
