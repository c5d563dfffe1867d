// A dialect of the shop's own, changed in the window with the program beside.
#include "WindowTest.h"
#include "base/File.h"
#include "model/Dialects.h"
#include "panels/SendPanel.h"
#include <QFile>
#include <QTextBlock>

namespace test_dialect_bench {

using namespace gyre;

class TestDialectBench : public test::WindowTest {
    Q_OBJECT
    [[nodiscard]] QString program() { return m_window->findChild<QPlainTextEdit*>("program")->toPlainText(); }
    [[nodiscard]] QString checks() { return m_window->findChild<QLabel*>("postChecks")->text(); }
    void toSend() {
        waitForPath();
        m_model->setBench(Bench::Send);
        QCoreApplication::processEvents();
        m_actions = 0;
    }
    void openOwn() {
        toSend();
        click(find<Word>("word.send.changeDialect"));
        QVERIFY(m_model->dialects().isOpen());
        QVERIFY(find<QWidget>("dialectPanel"));
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // "Our machine wants M11 before A moves, comments in braces, no line numbers."
    void aShopsChangeInFewActions() {
        openOwn();
        choose("dialect.comments", "1");
        choose("dialect.numbers", "0");
        type("dialect.clamp.A.off", "M11");
        QVERIFY2(m_actions < 10, qPrintable(QString::number(m_actions)));
        const QString text = program();
        QVERIFY(text.startsWith("%\n{LANTERN COLLAR}\n") && !text.contains("N10 ") && !text.contains('('));
        QVERIFY(text.indexOf("\nM11\n") > 0 && text.indexOf("\nM11\n") < text.indexOf(QRegularExpression("\n[^{\n]*A-?\\d")));
        QVERIFY2(checks().contains("read back") && !checks().contains("differs"), qPrintable(checks()));
        // The file holds it already, beside the job, and the job names it.
        const QString word = QString::fromStdString(m_model->job().program.dialect);
        const auto stored = loadSpelling((m_dir->path() + "/" + word).toStdString());
        QVERIFY2(stored, stored ? "" : stored.error().text().c_str());
        QVERIFY(stored->comments == CommentMarks::Braces && stored->words.numberStep == 0 && stored->clamps.size() == 1 && stored->clamps[0].off == 11 &&
                stored->clamps[0].on == 21);
        // The command would write the same.
        QVERIFY(m_model->programs().posted()->dialect.spelling);
        QCOMPARE(chooseDialect(word.toStdString(), m_dir->path().toStdString()).value().spelling->clamps, stored->clamps);
        // Two changes back, and out of it again.
        click(find<QPushButton>("dialect.takeBack"));
        click(find<QPushButton>("dialect.takeBack"));
        QVERIFY(program().contains("N10 ") && program().contains("{LANTERN COLLAR}") && !program().contains("M11\n"));
        click(find<QPushButton>("dialect.done"));
        QVERIFY(!m_model->dialects().isOpen() && m_window->view().isVisible());
        m_model->undo();
        QCOMPARE(m_model->dialects().word(), QString("tip"));
        QCOMPARE(find<Word>("word.send.dialect")->text(), QString("tip control (RS-274)"));
    }
    void whatDiffersIsMarked() {
        openOwn();
        choose("dialect.comments", "1");
        auto* view = m_window->findChild<QPlainTextEdit*>("program");
        const auto marks = view->extraSelections();
        QVERIFY(!marks.isEmpty());
        for (const auto& mark : marks) QVERIFY2(mark.cursor.block().text().startsWith('{'), qPrintable(mark.cursor.block().text()));
        QCOMPARE(marks.size(), program().count("\n{"));
        QVERIFY(checks().contains(tr("%1 lines are other").arg(marks.size())));
        // Every word of a line says what it tells.
        const int at = static_cast<int>(program().left(program().indexOf("G43.4")).count('\n'));
        view->setTextCursor(QTextCursor(view->document()->findBlockByNumber(at)));
        const QString why = m_window->findChild<QLabel*>("lineWhy")->text();
        QVERIFY2(why.contains("<b>G43.4</b> tip control on") && why.contains("<b>H1</b> register") && why.contains("Flare"), qPrintable(why));
    }
    void whatCannotBeReadIsRefused() {
        openOwn();
        type("dialect.say.cut", "G0");
        QVERIFY2(message().contains("spelled the same"), qPrintable(message()));
        QCOMPARE(find<Word>("word.dialect.say.cut")->value(), QString("G1"));
        type("dialect.lines.finish", "G28 Z0");
        QVERIFY2(message().contains("moves"), qPrintable(message()));
        QVERIFY(m_model->dialects().spelling()->lines.finish.empty() && !m_model->dialects().canTakeBack());
        type("dialect.lines.finish", "M99 | (GOOD BYE)");
        QVERIFY(program().contains("M99\n") && program().contains("(GOOD BYE)\n"));
        QVERIFY2(checks().contains("2 lines are of the dialect") || checks().contains("1 lines are of the dialect"), qPrintable(checks()));
        type("dialect.say.tool", "T{tool} | M6");
        QVERIFY(program().contains(QRegularExpression("T1\nN\\d+ M6\n")));
        type("dialect.flood", "5");
        QVERIFY2(message().contains("M5"), qPrintable(message()));
        choose("dialect.positions", "joints");
        QVERIFY(program().contains("JOINT COORDINATES"));
        choose("dialect.positions", "cldata");
        QVERIFY(program().startsWith("PARTNO/"));
    }
    void scripts() {
        openOwn();
        auto* script = find<QPlainTextEdit>("dialect.script");
        script->setFocus();
        script->setPlainText("function before(act) if act.kind == \"tool\" then return \"M77\" end end");
        click(find<QPushButton>("dialect.useScript"));
        QVERIFY2(program().contains("M77\n"), qPrintable(checks()));
        script->setPlainText("function before(act) while true do end end");
        click(find<QPushButton>("dialect.useScript"));
        QVERIFY2(checks().contains("steps"), qPrintable(checks()));
        QVERIFY(!find<QPushButton>("storeProgram") || !m_window->findChild<QPushButton*>("storeProgram")->isEnabled());
        click(find<QPushButton>("dialect.takeBack"));
        QVERIFY(checks().contains("read back"));
    }
    // Somebody else has written the file meanwhile: theirs stays, and is shown.
    void othersWorkStays() {
        openOwn();
        const QString file = m_model->dialects().fileName();
        Spelling theirs = *m_model->dialects().spelling();
        theirs.name = "Theirs";
        QVERIFY(writeFileAtomic(file.toStdString(), spellingToJson(theirs)));
        choose("dialect.comments", "1");
        QVERIFY2(message().contains("changed on disk"), qPrintable(message()));
        QCOMPARE(find<Word>("word.dialect.name")->value(), QString("Theirs"));
        QVERIFY(loadSpelling(file.toStdString()).value() == theirs);
        choose("dialect.comments", "1");
        QVERIFY(loadSpelling(file.toStdString()).value().comments == CommentMarks::Braces);
        // Gone or broken: told, and nothing is written.
        QVERIFY(QFile::remove(file));
        click(find<QPushButton>("dialect.done"));
        click(find<QPushButton>("postNow"));
        settle();
        QTRY_VERIFY2(checks().contains("Cannot be written"), qPrintable(checks()));
    }
    // A dialect that lies beside the job is chosen from the list, and goes with the job when that is saved elsewhere.
    void chosenFromTheList() {
        toSend();
        choose("send.dialect", "egret-5h.dialect.json");
        QCOMPARE(find<Word>("word.send.dialect")->text(), QString("Egret 5H"));
        QVERIFY(!m_window->findChild<Word*>("word.send.numbers")->isVisible());
        click(find<QPushButton>("postNow"));
        settle();
        QTRY_VERIFY2(program().contains("TIPON D1"), qPrintable(checks()));
        // Its file changes on disk: what is shown is not what would be stored, so that nothing is; then it is.
        auto* panel = m_window->findChild<SendPanel*>();
        const QString target = m_dir->filePath("changed.nc");
        Spelling spelling = loadSpelling(m_dir->filePath("egret-5h.dialect.json").toStdString()).value();
        spelling[Phrase::TipOn] = "TIPIN D{register}";
        QVERIFY(writeFileAtomic(m_dir->filePath("egret-5h.dialect.json").toStdString(), spellingToJson(spelling)));
        panel->storeAs(target);
        QVERIFY2(!QFile::exists(target) && message().contains("dialect has changed"), qPrintable(message()));
        QVERIFY(program().contains("TIPIN D1"));
        panel->storeAs(target);
        QVERIFY(QFile::exists(target) && readFile(target.toStdString(), 1u << 26).value() == program().toStdString());
        QTemporaryDir other;
        QVERIFY(m_model->saveAs(other.filePath("moved.gyre.json")));
        QVERIFY(m_model->dialects().choice().value().spelling);
        QCOMPARE(m_model->dialects().choice().value().spelling->name, std::string("Egret 5H"));
    }
};

GYRE_WINDOW_TEST(TestDialectBench)

} // namespace test_dialect_bench
#include "test_dialect_bench.moc"
