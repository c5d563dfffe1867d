// Drives the real window by mouse and keyboard.
#include "WindowTest.h"
#include "guard/GuardSpec.h"
#include "operation/OperationResult.h"
#include "panels/SendPanel.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "session/SetupSheet.h"
#include "target/TargetSpec.h"
#include <QAction>
#include <QDialog>
#include <QListWidget>
#include <QTextBrowser>

namespace test_ui {

using namespace gyre;
using test::Watchdog;

class TestUi : public test::WindowTest {
    Q_OBJECT
private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    void theDemoOpensReadyToPlay() {
        QTRY_VERIFY(m_window->view().framesDrawn() > 0);
        QVERIFY(m_model->result()->complete());
        QVERIFY(find<QLabel>("facts.Pattern")->text().contains("rows"));
        QVERIFY(find<QPushButton>("show.holder-near"));
        QCOMPARE(find<QWidget>("station.flare")->accessibleName(), QString("Flare"));
        // Something is drawn: the middle of the view is not its background.
        const QImage shot = m_window->grab().toImage();
        const QPoint middle = m_window->view().mapTo(m_window.get(), m_window->view().rect().center());
        QVERIFY(shot.pixelColor(middle) != shot.pixelColor(m_window->view().mapTo(m_window.get(), QPoint(20, 60))));
        // Everything that can be used has a name for those who cannot see it.
        for (QPushButton* b : m_window->findChildren<QPushButton*>())
            if (b->isVisibleTo(m_window.get())) QVERIFY2(!b->accessibleName().isEmpty() || !b->text().isEmpty(), qPrintable(b->objectName()));
        for (Word* w : m_window->findChildren<Word*>()) QVERIFY(!w->accessibleName().isEmpty());
    }
    void leadAndTiltTakeTwoActions() {
        type("axis.lead", "6");
        type("axis.tilt", "40");
        QVERIFY(m_actions <= 2);
        waitForPath();
        QCOMPARE(m_model->recipe()->axis->leadDegrees, 6.0);
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, 40.0);
        QVERIFY(m_model->result()->complete());
    }
    void theHolderIsSeenAndCuredInTwoActions() {
        click(find<QPushButton>("show.holder-near"));
        const auto r = m_model->result();
        QVERIFY(std::any_of(r->hazards.begin(), r->hazards.end(), [&](const PathHazard& h) { return m_model->location() >= h.first && m_model->location() <= h.last; }));
        click(find<QPushButton>("fix.tool.stickOut.holder-near"));
        QVERIFY(m_actions <= 2);
        waitForPath();
        QVERIFY(m_model->result()->hazards.empty());
        QVERIFY(m_model->findings().empty());
    }
    void aNewOperationShowsItsRowsInFourActions() {
        click(find<QPushButton>("addOperation"));
        QCOMPARE(m_model->picks().mode(), PickMode::Faces);
        QCoreApplication::processEvents();
        const int face = visibleFace();
        QVERIFY(face >= 0);
        ++m_actions;
        moveMouse(&m_window->view(), QPoint(3, 3));
        moveMouse(&m_window->view(), pixelOfFace(face));
        QTRY_VERIFY(m_window->view().hoverWords().contains("1 face"));
        QTest::mouseClick(&m_window->view(), Qt::LeftButton, {}, pixelOfFace(face));
        QCOMPARE(m_model->recipe()->target->faces.size(), std::size_t(1));
        ++m_actions;
        QTest::keyClick(&m_window->view(), Qt::Key_2); // peel to the bare rows
        QCOMPARE(m_model->peel(), Stage::Pattern);
        QVERIFY(m_actions <= 4);
        waitForPath();
        QVERIFY(m_model->result()->pattern && m_model->result()->pattern->rows.size() > 3);
        QVERIFY(!m_model->recipe()->pattern->rail1.empty()); // proposed
    }
    // The first operation, or one with a smaller tolerance, lays the part out in finer triangles: what the user looks at stays where it is.
    void finerTrianglesDoNotTurnTheView() {
        waitForPath();
        settle();
        View& view = m_window->view();
        (void)view.grab();
        view.camera().look(-40.0, 33.0);
        view.camera().pan({37, 12});
        const Vec3 eye = view.camera().eye();
        const auto part = m_model->place()->part;
        QVERIFY(m_model->setWord("pattern.chordTolerance", "0.001"));
        settle();
        waitForPath();
        QVERIFY(m_model->place()->part != part && m_model->place()->part->deflection() < part->deflection());
        (void)view.grab();
        const Box now = m_model->place()->part->mesh().bounds(), before = part->mesh().bounds();
        QVERIFY2((view.camera().eye() - eye).norm() < 1e-9, qPrintable(QString("the eye moved by %1; extents differ by %2 and %3")
                                                                           .arg((view.camera().eye() - eye).norm())
                                                                           .arg((now.low - before.low).norm())
                                                                           .arg((now.high - before.high).norm())));
        // Another part is framed anew.
        QVERIFY(m_window->openFile(m_dir->filePath("horn-guide.gyre.json"), false));
        settle();
        (void)view.grab();
        QVERIFY((view.camera().eye() - eye).norm() > 1.0);
    }
    void guessesGoRoundWithSpace() {
        click(find<Word>("word.target.faces"));
        const int face = visibleFace();
        moveMouse(&m_window->view(), QPoint(3, 3));
        moveMouse(&m_window->view(), pixelOfFace(face));
        QTRY_VERIFY(m_window->view().hoverWords().startsWith("1 face"));
        m_window->view().setFocus();
        QTest::keyClick(&m_window->view(), Qt::Key_Space);
        QVERIFY2(m_window->view().hoverWords().contains("tangent"), qPrintable(m_window->view().hoverWords()));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
    }
    void railsArePickedByTheirEdges() {
        click(find<Word>("word.pattern.rail2"));
        QCOMPARE(m_model->picks().mode(), PickMode::Rail2);
        const Part& part = *m_model->place()->part;
        const int old = m_model->recipe()->pattern->rail2[0].index;
        bool picked = false;
        // Any visible border edge of the target other than the present rail.
        for (std::size_t e = 0; e < part.edges().size() && !picked; ++e) {
            const Polyline& line = part.edgeLine(static_cast<int>(e));
            if (line.size() < 3 || static_cast<int>(e) == old) continue;
            const auto p = m_window->view().camera().project(line[line.size() / 2]);
            if (!p || !m_window->view().rect().contains(p->toPoint()) || edgeAt(part, m_window->view().camera(), *p, 4.0) != static_cast<int>(e)) continue;
            moveMouse(&m_window->view(), p->toPoint());
            if (!m_window->view().hoverWords().contains("edge")) continue;
            QTest::mouseClick(&m_window->view(), Qt::LeftButton, {}, p->toPoint());
            picked = true;
        }
        QVERIFY(picked);
        QVERIFY(m_model->recipe()->pattern->rail2[0].index != old || m_model->recipe()->pattern->rail2.size() != 4);
        waitForPath();
        QVERIFY(m_model->result()); // whatever was picked: rows, or the reason why not
        if (!m_model->result()->complete()) QVERIFY(!m_model->result()->findings.empty());
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        waitForPath();
        QVERIFY(m_model->result()->complete());
    }
    void wordsTakeKeysWheelUnitsAndRefuseNonsense() {
        type("pattern.spacing", "0.02in");
        QVERIFY(std::abs(m_model->recipe()->pattern->spacing - 0.508) < 1e-12);
        Word* lead = find<Word>("word.axis.lead");
        lead->setFocus();
        QTest::keyClick(lead, Qt::Key_Up);
        QCOMPARE(m_model->recipe()->axis->leadDegrees, 6.0);
        QTest::keyClick(lead, Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(m_model->recipe()->axis->leadDegrees, -4.0);
        const QString before = m_model->word("guard.shank");
        for (const char* bad : {"abc", "1e999", "-5", "1/0", "99999999999"}) {
            type("guard.shank", bad);
            QCOMPARE(m_model->word("guard.shank"), before);
            QVERIFY(find<QLabel>("message"));
        }
        auto* w = find<Word>("word.guard.shank");
        QTest::mouseClick(w, Qt::LeftButton);
        QTest::keyClicks(find<QLineEdit>("edit.guard.shank"), "77");
        QTest::keyClick(find<QLineEdit>("edit.guard.shank"), Qt::Key_Escape);
        QCOMPARE(m_model->word("guard.shank"), before);
        // Sideways drag: five pixels a step.
        QTest::mousePress(lead, Qt::LeftButton, {}, QPoint(5, 5));
        moveMouse(lead, QPoint(26, 5));
        QTest::mouseRelease(lead, Qt::LeftButton, {}, QPoint(26, 5));
        QCOMPARE(m_model->recipe()->axis->leadDegrees, 0.0);
        waitForPath();
    }
    void choicesChangeTheSentence() {
        choose("pattern.by", "scallop");
        QVERIFY(find<Word>("word.pattern.scallop"));
        QVERIFY(!m_window->findChild<Word*>("word.pattern.spacing")->isVisible());
        choose("axis.rule", "fixed");
        QVERIFY(find<Word>("word.axis.direction.2"));
        QVERIFY(!m_window->findChild<Word*>("word.axis.lead")->isVisible());
        choose("guard.response", "drop");
        waitForPath();
        QCOMPARE(m_model->recipe()->guard->response, GuardResponse::Drop);
    }
    // Another pattern is one choice; what it does not need goes out of the sentence and comes back with the old one.
    void rowsInPlanesAreOneChoice() {
        waitForPath();
        const auto rails = m_model->recipe()->pattern->rail1.size();
        choose("pattern.kind", "planes");
        waitForPath();
        QVERIFY(!find<Word>("word.pattern.rail1") && find<Word>("word.pattern.from") && find<Word>("word.pattern.along"));
        type("pattern.lean", "90");
        waitForPath();
        const auto r = m_model->result();
        QVERIFY(r && r->complete() && r->pattern && r->pattern->rails.empty());
        // Levels of Z: whole rows lie at one height each.
        for (const Row& row : r->pattern->rows)
            for (const Vec3& p : row.points) QVERIFY2(std::abs(p.z() - row.points.front().z()) < 0.02, qPrintable(QString::number(p.z() - row.points.front().z())));
        QVERIFY(r->pattern->widestGap <= 1.01 * r->pattern->spacing);
        type("pattern.along", "400");
        QVERIFY2(message().contains("Direction of rows in planes") && message().contains("between"), qPrintable(message()));
        choose("pattern.kind", "rails");
        waitForPath();
        QVERIFY(find<Word>("word.pattern.rail1") && m_model->recipe()->pattern->rail1.size() == rails);
        QVERIFY(m_model->result()->complete());
    }
    void stagesArePeeledByEyeAndKey() {
        for (int i = 0; i < kStages; ++i) {
            click(find<QPushButton>(QString("peel.%1").arg(stageName(static_cast<Stage>(i)))));
            QCOMPARE(static_cast<int>(m_model->peel()), i);
            (void)m_window->grab();
        }
        QTest::keyClick(&m_window->view(), Qt::Key_3);
        QCOMPARE(m_model->peel(), Stage::Axis);
    }
    void theTapeScrubsAndStepsToHazards() {
        auto* tape = find<TapeChart>("tape");
        QTRY_VERIFY(tape->xOf(10000) > tape->xOf(0)); // drawn a moment after the view
        QTest::mouseClick(tape, Qt::LeftButton, {}, QPoint(static_cast<int>(tape->xOf(10000)), 50));
        QVERIFY(std::abs(static_cast<double>(m_model->location()) - 10000) < 200);
        QTest::mousePress(tape, Qt::LeftButton, {}, QPoint(200, 50));
        moveMouse(tape, QPoint(300, 50));
        const auto dragged = m_model->location();
        QVERIFY(dragged > 0);
        QTest::mouseRelease(tape, Qt::LeftButton, {}, QPoint(300, 50));
        tape->setFocus();
        QTest::keyClick(tape, Qt::Key_Right);
        QCOMPARE(m_model->location(), dragged + 1);
        QTest::keyClick(tape, Qt::Key_End);
        QCOMPARE(m_model->location(), m_model->result()->path()->size() - 1);
        QTest::keyClick(tape, Qt::Key_Home);
        click(find<QPushButton>("hazardForward"));
        QCOMPARE(m_model->location(), m_model->result()->hazards.front().worst);
        click(find<QPushButton>("rowForward"));
        click(find<QPushButton>("play"));
        const auto from = m_model->location();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->location() > from, 5000);
        click(find<QPushButton>("play"));
        QVERIFY(!m_window->tape().playing());
    }
    void theTiltHandleIsDraggedAtTheTool() {
        // A place where the handle is in sight and not foreshortened.
        const auto r = m_model->result();
        std::optional<QPointF> at;
        for (std::size_t i = 0; i < r->path()->size() && !at; i += 97) {
            m_model->setLocation(i);
            at = m_window->view().tiltHandle();
            if (at && !m_window->view().rect().adjusted(40, 40, -40, -40).contains(at->toPoint())) at.reset();
        }
        QVERIFY(at);
        const double before = m_model->recipe()->axis->tiltDegrees;
        QTest::mousePress(&m_window->view(), Qt::LeftButton, {}, at->toPoint());
        for (int k = 1; k <= 6; ++k) moveMouse(&m_window->view(), at->toPoint() + QPoint(3 * k, 5 * k));
        QTest::mouseRelease(&m_window->view(), Qt::LeftButton, {}, at->toPoint() + QPoint(18, 30));
        QVERIFY(m_model->recipe()->axis->tiltDegrees != before);
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier); // the whole drag is one step
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, before);
        waitForPath();
    }
    void provingAndPostingTakeTwoActions() {
        click(find<QPushButton>("fix.tool.stickOut.holder-near"));
        waitForPath();
        m_model->setBench(Bench::Prove);
        m_actions = 0;
        click(find<QPushButton>("proveAll"));
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->proof("flare"), 90000);
        QVERIFY2(m_model->findings().empty(), m_model->findings().empty() ? "" : m_model->findings().front().text.c_str());
        QVERIFY(m_window->view().atMachine());
        m_model->setBench(Bench::Send);
        click(find<QPushButton>("postNow"));
        QVERIFY(m_actions <= 2);
        QVERIFY(m_model->programs().replayReport().agrees());
        QVERIFY(find<QLabel>("postChecks")->text().contains("Proven"));
        // The line goes with the view.
        auto* text = find<QPlainTextEdit>("program");
        const int line = text->textCursor().blockNumber();
        m_model->setLocation(5000);
        QVERIFY(text->textCursor().blockNumber() > line);
        // And stands beside the machine in Prove, until the path is another one.
        QCOMPARE(m_model->programs().lineHere(), text->toPlainText().split('\n').at(text->textCursor().blockNumber()).trimmed());
        // On paper: proven, with the sum of just this program; as a page and as a PDF, and over nothing that the job rests on.
        auto* send = m_window->findChild<SendPanel*>();
        const auto stored = [&](const QString& name) {
            send->storeSheetAs(m_dir->filePath(name));
            QFile f(m_dir->filePath(name));
            return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
        };
        const QByteArray page = stored("sheet.html"), pdf = stored("sheet.pdf");
        QVERIFY(page.contains("Proven at the machine"));
        QVERIFY(page.contains(QByteArray::fromStdString("checksum " + checksum(m_model->programs().posted()->program.text))));
        QVERIFY(page.contains("data:image/png;base64,"));
        QVERIFY(pdf.startsWith("%PDF-") && pdf.size() > 20000);
        const QString part = m_dir->filePath(QString::fromStdString(m_model->job().bodies.front().file));
        QVERIFY(QFile::exists(part));
        QVERIFY(!stored(QFileInfo(part).fileName()).contains("<html"));
        // Any change makes the proof and the program old.
        QTest::keyClick(m_window.get(), Qt::Key_2, Qt::ControlModifier);
        type("guard.holder", "2.5");
        QVERIFY(!m_model->proof("flare"));
        waitForPath();
        QVERIFY(m_model->programs().lineHere().isEmpty());
        const QByteArray later = stored("later.html");
        QVERIFY(!later.contains("Proven at the machine") && (later.contains("Not proven") || later.contains("Do not run this")));
        QVERIFY(later.contains("none is written yet"));
        // A part that is another one on disk by now: what was computed does not go on paper.
        QFile changed(part);
        QVERIFY(changed.open(QIODevice::Append) && changed.write("\n") == 1);
        changed.close();
        QVERIFY(stored("stale.html").isEmpty());
        QVERIFY(message().contains("has changed"));
    }
    void undoGoesToTheStartAndTheJobReopens() {
        const std::string start = jobToJson(m_model->job());
        type("pattern.spacing", "0.6");
        type("axis.tilt", "30");
        click(find<QPushButton>("addOperation"));
        QTest::keyClick(m_window.get(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!m_model->edited());
        const std::string saved = jobToJson(m_model->job());
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        QCOMPARE(jobToJson(m_model->job()), saved);
        waitForPath();
        // What was saved over is kept beside it.
        QCOMPARE(jobToJson(openJob(m_dir->filePath("lantern-collar.gyre.json~").toStdString()).value()), start);
        type("axis.tilt", "33");
        type("axis.lead", "1");
        while (!m_model->undoLabel().isEmpty()) QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(jobToJson(m_model->job()), saved);
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, 33.0);
        waitForPath();
    }
    void theFinderFindsAndRuns() {
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        auto* line = m_window->findChild<QLineEdit*>("finderLine");
        QVERIFY(line);
        QTest::keyClicks(line, "send bench");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(m_model->bench(), Bench::Send);
    }
    // Each has a name and a key of its own, says what it does, where it lives and what else it is called.
    void everyCommandIsComplete() {
        QSet<QString> names, keys;
        for (const QAction* a : m_window->actions()) {
            if (a->objectName().startsWith("action.recent.")) continue;
            QVERIFY2(a->objectName().startsWith("action.") && !names.contains(a->objectName()), qPrintable(a->objectName()));
            names << a->objectName();
            QVERIFY2(a->text().size() > 3 && !a->property("otherWords").toString().isEmpty(), qPrintable(a->objectName()));
            QVERIFY2(!a->property("where").toString().isEmpty() || a->objectName().startsWith("action.bench"), qPrintable(a->objectName()));
            const QString key = a->shortcut().toString();
            QVERIFY2(key.isEmpty() || !keys.contains(key), qPrintable(key));
            if (!key.isEmpty()) keys << key;
        }
        QVERIFY(names.size() > 80 && keys.size() > 40);
    }
    // A machinist's words find something, spelled nearly right as well; what nothing is called says so and does nothing.
    void theFinderKnowsTheTradesWords() {
        waitForPath();
        const auto found = [&](const QString& typed) {
            QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
            auto* line = m_window->findChild<QLineEdit*>("finderLine");
            QTest::keyClicks(line, typed);
            auto* list = m_window->findChild<QListWidget*>("finderList");
            QStringList out;
            for (int i = 0; i < list->count(); ++i)
                if (list->item(i)->flags() & Qt::ItemIsEnabled) out << list->item(i)->text();
            m_window->findChild<QDialog*>("finder")->close();
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
            return out;
        };
        const std::pair<const char*, const char*> words[] = {
            {"swarf", "side"},     {"side cutting", "side"}, {"deburr", "edges"},    {"break edges", "edges"}, {"4 axis", "groove"}, {"5 axis", "surface"},
            {"simulate", "Prove"}, {"play", "Play"},         {"collision", "Prove"}, {"holder", "Prove"},      {"post", "Send"},     {"NC", "Send"},
            {"G-code", "Send"},    {"measure", "closely"},   {"section", "open"},    {"compare", "closely"},   {"set-up", "Set up"}, {"origin", "Set up"},
            {"tool axis", "Cut"},  {"tilt", "Tilt"},         {"rotary", "groove"},   {"delete", "Remove"},     {"rename", "Rename"}, {"help", "guide"},
            {"inch", "inches"},    {"spacing", "rows"},      {"stick-out", "Tools"}, {"engrav", "curves"},     {"z-level", "above"}, {"left over", "above"},
            {"colision", "Prove"}, {"simulaton", "Prove"}};
        for (const auto& [typed, named] : words)
            QVERIFY2(!found(typed).filter(named, Qt::CaseInsensitive).isEmpty(), qPrintable(QString("%1: %2").arg(typed, found(typed).join(" | "))));
        QVERIFY(found("qqqqzz").isEmpty());
        // A word of the recipe comes under the keys.
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        auto* line = m_window->findChild<QLineEdit*>("finderLine");
        QTest::keyClicks(line, "lead:");
        QTest::keyClick(line, Qt::Key_Return);
        QTRY_VERIFY(find<Word>("word.axis.lead")->hasFocus());
        const double lead = m_model->recipe()->axis->leadDegrees;
        QTest::keyClick(find<Word>("word.axis.lead"), Qt::Key_Up);
        QCOMPARE(m_model->recipe()->axis->leadDegrees, lead + 1.0);
        waitForPath();
    }
    void operationsAreRenamedAndDuplicated() {
        waitForPath();
        const auto act = [&](const char* name) {
            auto* action = m_window->findChild<QAction*>(name);
            QVERIFY2(action, name);
            action->trigger();
        };
        const std::size_t before = m_model->job().route.size();
        act("action.operation.duplicate");
        QCOMPARE(m_model->job().route.size(), before + 1);
        QVERIFY(m_model->recipe()->name.ends_with(", copy"));
        waitForPath();
        QVERIFY(m_model->result() && m_model->result()->complete());
        act("action.operation.rename");
        auto* edit = find<QLineEdit>("rename");
        QVERIFY(edit);
        QTest::keyClicks(edit, "Lip, finer");
        QTest::keyClick(edit, Qt::Key_Return);
        QCOMPARE(m_model->recipe()->name, std::string("Lip, finer"));
        act("action.operation.rename");
        QTest::keyClick(find<QLineEdit>("rename"), Qt::Key_Escape);
        QCOMPARE(m_model->recipe()->name, std::string("Lip, finer"));
        act("action.operation.remove");
        QCOMPARE(m_model->job().route.size(), before);
        waitForPath();
    }
    void theGuideOpensAtWhatIsInHand() {
        QTest::keyClick(m_window.get(), Qt::Key_F1);
        auto* guide = m_window->findChild<QDialog*>("guide");
        QVERIFY(guide);
        auto* text = guide->findChild<QTextBrowser*>("guideText");
        QVERIFY(text->toPlainText().contains("walls", Qt::CaseInsensitive));
        auto* pages = guide->findChild<QListWidget*>("guidePages");
        for (int i = 0; i < pages->count(); ++i) {
            pages->setCurrentRow(i);
            QVERIFY2(text->toPlainText().size() > 300, qPrintable(pages->item(i)->text()));
        }
        guide->close();
    }
    void aBrokenJobIsRefusedAndTheOpenOneStays() {
        const QString bad = m_dir->filePath("bad.json");
        QFile f(bad);
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write("{\"format\": \"gyre-job\"");
        f.close();
        QVERIFY(!m_window->openFile(bad, false));
        QVERIFY(find<QLabel>("message")->text().contains("bad.json"));
        QCOMPARE(m_model->job().name, std::string("Lantern collar"));
        // A part that is gone: a reason in the view, no crash.
        QFile::remove(m_dir->filePath("lantern-collar.step"));
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->setupTrouble().contains("lantern-collar.step"), 20000);
        (void)m_window->grab();
    }
    void inchesAndNightColoursAndAllBenchesDraw() {
        click(find<QPushButton>("unitsButton"));
        QCOMPARE(find<Word>("word.pattern.spacing")->text(), QString("0.016"));
        waitForPath();
        QTest::keyClick(m_window.get(), Qt::Key_D, Qt::ControlModifier);
        QVERIFY(theme().dark);
        for (int i = 0; i < 4; ++i) {
            QTest::keyClick(m_window.get(), static_cast<Qt::Key>(Qt::Key_1 + i), Qt::ControlModifier);
            QCOMPARE(static_cast<int>(m_model->bench()), i);
            QVERIFY(!m_window->grab().isNull());
        }
        applyTheme(false);
    }
    void nothingStallsTheWindowWhileComputing() {
        Watchdog dog;
        for (const char* spacing : {"0.31", "0.33", "0.35"}) {
            type("pattern.spacing", spacing);
            QTRY_VERIFY(m_model->computing() || !m_model->stale()); // the user looks, the machine computes: events run meanwhile
        }
        waitForPath();
        qInfo("longest pause of the window's thread %.0f ms", dog.longest);
        QVERIFY2(dog.longest < 2000.0, qPrintable(QString::number(dog.longest)));
    }
    void aComputationCanBeCancelledAndTakenUpAgain() {
        type("pattern.spacing", "0.21");
        QTRY_VERIFY_WITH_TIMEOUT(m_model->computing(), 5000);
        QElapsedTimer clock;
        clock.start();
        m_model->cancel();
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing(), 5000);
        qInfo("called off after %lld ms", static_cast<long long>(clock.elapsed()));
        QVERIFY(m_model->stale() && m_model->result()); // the old path is still there
        m_model->computeNow();
        waitForPath();
        QCOMPARE(m_model->result()->pattern->spacing, 0.21);
    }
};

GYRE_WINDOW_TEST(TestUi)

} // namespace test_ui
#include "test_ui.moc"
