// Nothing of the user's is lost, and nothing old is shown as new: recovery, files that change, programs and their lines.
#include "WindowTest.h"
#include "base/File.h"
#include "operation/OperationResult.h"
#include "panels/SendPanel.h"
#include <QTextBlock>

namespace test_safety {

using namespace gyre;
using namespace gyre::test;

class TestSafety : public WindowTest {
    Q_OBJECT

    /// Another program writes this file.
    void exchange(const QString& name, const QString& from) {
        const std::string text = readFile(m_dir->filePath(from).toStdString(), 1u << 30).value();
        QVERIFY(writeFileAtomic(m_dir->filePath(name).toStdString(), text));
    }
    QPlainTextEdit* program() { return find<QPlainTextEdit>("program"); }
    void write() {
        m_model->setBench(Bench::Send);
        click(find<QPushButton>("postNow"));
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->programs().posted(), 120000);
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // A part was opened, work was done, the window was killed: opening the part again offers it.
    void workBegunFromAPartIsOfferedAgain() {
        const QString part = m_dir->filePath("whisper-runner.step"), aside = m_dir->filePath("whisper-runner.gyre.json.autosave");
        QVERIFY(m_window->openFile(part));
        settle();
        m_model->change("rename", [](Job& j) { j.name = "precious"; });
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(aside), 15000);
        const std::string kept = readFile(aside.toStdString(), 1 << 24).value();
        settle();
        // As after a crash: another window, the file aside still there.
        closeAll();
        QVERIFY(writeFileAtomic(aside.toStdString(), kept));
        const auto dir = std::move(m_dir);
        openDemo();
        int asked = 0;
        answer("Take it up", &asked);
        QVERIFY(m_window->openFile(dir->filePath("whisper-runner.step")));
        QCOMPARE(asked, 1);
        QCOMPARE(m_model->job().name, std::string("precious"));
        QVERIFY(m_model->edited());
        settle();
        QVERIFY(m_model->place() && m_model->place()->part);
        QVERIFY(m_model->save());
        QVERIFY(!QFile::exists(dir->filePath("whisper-runner.gyre.json.autosave")));
        QCOMPARE(openJob(dir->filePath("whisper-runner.gyre.json").toStdString())->name, std::string("precious"));
    }
    void openingAnotherAsksAndDiscardDiscards() {
        m_window->setProperty("closeWithoutAsking", false);
        const QString file = m_dir->filePath("lantern-collar.gyre.json");
        m_model->change("rename", [](Job& j) { j.name = "edited"; });
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(file + ".autosave"), 15000);
        int asked = 0;
        answer("Cancel", &asked);
        QVERIFY(!m_window->openFile(m_dir->filePath("dome-setup.gyre.json")));
        QCOMPARE(asked, 1);
        QCOMPARE(m_model->job().name, std::string("edited"));
        answer("Cancel", &asked);
        drop(m_dir->filePath("dome-setup.gyre.json"));
        QCOMPARE(asked, 2);
        QCOMPARE(m_model->job().name, std::string("edited"));
        answer("Discard", &asked);
        QVERIFY(m_window->openFile(m_dir->filePath("dome-setup.gyre.json")));
        QCOMPARE(asked, 3);
        QVERIFY(!QFile::exists(file + ".autosave"));
        QVERIFY(AppModel::lostWork(file).isEmpty());
        QVERIFY(openJob(file.toStdString())->name != "edited");
        settle();
    }
    void aJobChangedOnDiskIsNotSavedOverSilently() {
        const QString file = m_dir->filePath("lantern-collar.gyre.json");
        Job other = m_model->job();
        other.name = "of somebody else";
        QVERIFY(saveJob(other, file.toStdString()));
        m_model->change("rename", [](Job& j) { j.name = "mine"; });
        answer("Cancel");
        m_window->findChild<QAction*>("action.save")->trigger();
        QCOMPARE(openJob(file.toStdString())->name, std::string("of somebody else"));
        answer("Write over it");
        m_window->findChild<QAction*>("action.save")->trigger();
        QCOMPARE(openJob(file.toStdString())->name, std::string("mine"));
        int asked = 0;
        answer("Cancel", &asked);
        m_window->findChild<QAction*>("action.save")->trigger(); // known by now: no question
        QCOMPARE(asked, 0);
        settle();
    }
    void windowsOnOneJobKnowOfEachOther() {
        AppModel second;
        QSignalSpy told(&second, &AppModel::toldUser);
        QVERIFY(second.open(m_dir->filePath("lantern-collar.gyre.json")));
        QVERIFY(std::any_of(told.begin(), told.end(), [](const QList<QVariant>& t) { return t[0].toString().contains("another window"); }));
        second.cancel();
    }
    void savedElsewhereItOpensAndCanBeUndone() {
        QDir(m_dir->path()).mkpath("else/where");
        const QString file = m_dir->filePath("else/where/copy.gyre.json");
        type("axis.tilt", "30");
        waitForPath();
        QVERIFY(m_model->saveAs(file));
        waitForPath();
        QVERIFY(m_model->setupTrouble().isEmpty() && m_model->place()->part);
        m_model->undo();
        waitForPath();
        QVERIFY2(m_model->setupTrouble().isEmpty(), qPrintable(m_model->setupTrouble()));
        QVERIFY(m_window->openFile(file));
        waitForPath();
        QVERIFY2(m_model->setupTrouble().isEmpty(), qPrintable(m_model->setupTrouble()));
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, 30.0);
    }
    void relativeNamesWork() {
        const QString before = QDir::currentPath();
        QVERIFY(QDir::setCurrent(m_dir->path()));
        QVERIFY(m_window->openFile("dome-setup.gyre.json"));
        settle();
        QVERIFY(m_model->setupTrouble().isEmpty() && m_model->place()->part);
        QVERIFY(m_window->openFile("whisper-runner.step"));
        settle();
        QVERIFY2(m_model->setupTrouble().isEmpty() && m_model->place() && m_model->place()->part, qPrintable(m_model->setupTrouble()));
        QVERIFY(QDir::setCurrent(before));
    }
    // A part exchanged on disk: the paths are made anew by themselves, and what was proven is not any more.
    void exchangedFilesAreNoticed() {
        click(find<QPushButton>("fix.tool.stickOut.holder-near"));
        waitForPath();
        m_model->computeNow(true);
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->allProven(), 120000);
        const auto key = m_model->result()->key;
        QString machine = QString::fromStdString(m_model->job().machine);
        std::string text = readFile(m_dir->filePath(machine).toStdString(), 1 << 26).value();
        text.replace(text.find("\"low\": -320"), 11, "\"low\": -321");
        QVERIFY(writeFileAtomic(m_dir->filePath(machine).toStdString(), text));
        // At once: nothing is written from what was.
        const auto now = m_model->programs().post(Dialect::TipControl);
        QVERIFY(!now || m_model->result()->key != key);
        if (!now) QVERIFY(now.error().text().find("has changed") != std::string::npos);
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->result()->key != key && m_model->allProven(), 120000);
        // Without being asked: the file is watched.
        const auto second = m_model->result()->key;
        exchange(QString::fromStdString(m_model->job().bodies.front().file), "pierced-dome.step");
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->allProven(), 60000);
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->result()->key != second, 120000);
    }
    // The line of the right operation, in both directions; and no program of another job.
    void linesBelongToTheirOperation() {
        QVERIFY(m_window->openFile(m_dir->filePath("dome-stars.gyre.json"), false));
        settle();
        write();
        const auto& posted = *m_model->programs().posted();
        QVERIFY(posted.operations.size() > 2 && posted.proven);
        auto* text = program();
        for (const std::string& id : {posted.operations[2], posted.operations[0], posted.operations[1]}) {
            m_model->select(QString::fromStdString(id));
            const std::size_t n = m_model->result()->path()->size();
            for (const std::size_t at : {n / 2, n - 1, std::size_t(0)}) {
                m_model->setLocation(at);
                const int line = text->textCursor().blockNumber() + 1;
                const auto& acts = posted.program.program.acts;
                const auto act = std::find_if(acts.begin(), acts.end(), [&](const Act& a) { return a.line == line; });
                QVERIFY(act != acts.end());
                QCOMPARE(posted.operations[act->operation], id);
                QVERIFY2(act->location == at && !act->aside, qPrintable(QString("%1 for %2").arg(act->location).arg(at)));
                QCOMPARE(m_model->programs().lineHere(), text->textCursor().block().text().trimmed()); // beside the machine in Prove
            }
        }
        // A click into the text of the second operation moves the tool there.
        const auto& acts = posted.program.program.acts;
        const auto second = std::find_if(acts.begin(), acts.end(), [](const Act& a) { return a.operation == 1 && a.location == 7; });
        QVERIFY(second != acts.end());
        m_window->activateWindow();
        QApplication::setActiveWindow(m_window.get());
        text->setFocus();
        QTRY_VERIFY(text->hasFocus());
        QTextCursor cursor(text->document()->findBlockByNumber(second->line - 1));
        text->setTextCursor(cursor);
        QCOMPARE(m_model->selected().toStdString(), posted.operations[1]);
        QCOMPARE(m_model->location(), std::size_t(7));
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        QVERIFY(program()->toPlainText().isEmpty() && !m_model->programs().posted());
        settle();
    }
    // A word of the job divides the route: the program of the operation in hand is seen, or the one that is chosen; all of them are stored, and written over no input.
    void aProgramForEachOperation() {
        QVERIFY(m_window->openFile(m_dir->filePath("dome-stars.gyre.json"), false));
        settle();
        m_model->setBench(Bench::Send);
        choose("send.programs", "operations");
        QCOMPARE(m_model->job().program.split, ProgramSplit::Operations);
        write();
        const auto& programs = m_model->programs();
        const std::size_t count = m_model->job().worked().size();
        QCOMPARE(programs.all().size(), count);
        QVERIFY(programs.agree() && find<QPushButton>("storeProgram")->isEnabled());
        for (const std::size_t k : {count - 1, std::size_t{1}, std::size_t{0}}) {
            m_model->select(QString::fromStdString(programs.all()[k].operations.front()));
            m_model->setLocation(3);
            QCOMPARE(programs.shown(), k);
            QCOMPARE(program()->toPlainText().trimmed(), QString::fromStdString(programs.all()[k].program.text).trimmed());
            QCOMPARE(programs.lineHere(), program()->textCursor().block().text().trimmed());
        }
        choose("send.part", "1");
        QCOMPARE(programs.shown(), std::size_t{1});
        QVERIFY(program()->toPlainText().trimmed() == QString::fromStdString(programs.all()[1].program.text).trimmed());
        m_window->findChild<SendPanel*>()->storeAs(m_dir->filePath("stars.nc"));
        QVERIFY(!QFile::exists(m_dir->filePath("stars.nc")));
        for (std::size_t k = 0; k < count; ++k) {
            const auto stored = readFile(m_dir->filePath(QString("stars-%1.nc").arg(k + 1)).toStdString(), 1 << 28);
            QVERIFY(stored.has_value());
            QCOMPARE(*stored, programs.all()[k].program.text);
        }
        m_window->findChild<SendPanel*>()->storeSheetAs(m_dir->filePath("stars.html"));
        const std::string page = readFile(m_dir->filePath("stars.html").toStdString(), 1 << 28).value();
        QVERIFY(page.find("stars-1.nc") != std::string::npos && page.find("stars-" + std::to_string(count) + ".nc") != std::string::npos);
        choose("send.programs", "one");
        write();
        QCOMPARE(programs.all().size(), std::size_t{1});
        QVERIFY(!m_window->findChild<Word*>("word.send.part")->isVisible());
    }
    // With a Stop the program is stored only after a word that says so, and says so itself; inputs are not written over.
    void stopsAreNotStoredByAccident() {
        waitForPath();
        write();
        QVERIFY(!m_model->programs().posted()->stops.empty());
        QVERIFY2(find<QLabel>("postChecks")->text().contains("Stop"), qPrintable(find<QLabel>("postChecks")->text()));
        QVERIFY2(find<QLabel>("postChecks")->text().contains(QString::fromStdString(m_model->recipe()->name)), qPrintable(find<QLabel>("postChecks")->text()));
        QVERIFY(find<QPushButton>("storeProgram")->text().contains("despite"));
        auto* panel = m_window->findChild<SendPanel*>();
        const QString file = m_dir->filePath("program.nc");
        panel->storeAs(file);
        QVERIFY(readFile(file.toStdString(), 1 << 28).value().find("STOP - ") != std::string::npos);
        const QString job = m_dir->filePath("lantern-collar.gyre.json");
        const std::string whole = readFile(job.toStdString(), 1 << 28).value();
        panel->storeAs(job);
        QCOMPARE(readFile(job.toStdString(), 1 << 28).value(), whole);
        QVERIFY(message().contains("job"));
    }
    // What the control reads is chosen on the bench, kept in the job, and seen in the program.
    void wordsOfTheProgramAreChosen() {
        write();
        choose("send.units", "in");
        choose("send.offset", "56");
        choose("send.numbers", "0");
        QVERIFY(m_model->job().program.inch && m_model->job().program.offset == 56);
        write();
        QVERIFY(program()->toPlainText().contains("\nG20 G17 G90 G40 G49 G80 G94\nG56\n"));
        QVERIFY(m_model->programs().posted()->report.agrees());
        QCOMPARE(jobFromJson(jobToJson(m_model->job()), "again")->program, m_model->job().program);
        // What is round as arcs, within so much; the word for how much comes with it.
        QVERIFY(!m_window->findChild<Word*>("word.send.arcsWithin")->isVisible());
        choose("send.arcs", "arcs");
        QCOMPARE(m_model->job().program.arcs, 0.02);
        type("send.arcsWithin", "0.05");
        QCOMPARE(m_model->job().program.arcs, 0.05);
        write();
        QVERIFY(m_model->programs().posted()->report.agrees());
        QCOMPARE(find<QLabel>("postChecks")->text().contains(" arcs, at most 0.0"), m_model->programs().posted()->report.arcs > 0);
        for (int i = 0; i < 5; ++i) m_model->undo();
        QCOMPARE(find<Word>("word.send.arcs")->value(), QString("straight"));
        QCOMPARE(find<Word>("word.send.units")->value(), QString("mm"));
    }
};

GYRE_WINDOW_TEST(TestSafety)

} // namespace test_safety
#include "test_safety.moc"
