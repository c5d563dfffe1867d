// The window as a whole: files dropped on it, work recovered, the route, Set up, the keyboard alone.
#include "WindowTest.h"
#include "base/File.h"
#include "operation/OperationResult.h"
#include "pattern/PatternSpec.h"
#include <QDropEvent>
#include <QMimeData>
#include <QTimer>

namespace test_window {

using namespace gyre;

class TestWindow : public test::WindowTest {
    Q_OBJECT
    void drop(const QString& file) {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(file)});
        QDragEnterEvent enter(QPoint(400, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(m_window.get(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent event(QPointF(400, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(m_window.get(), &event);
    }
    QWidget* station(const QString& id) { return find<QWidget>("station." + id); }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    void aDroppedJobOpens() {
        Job other = m_model->job();
        other.name = "Dropped";
        const QString file = m_dir->filePath("dropped.gyre.json");
        QVERIFY(saveJob(other, file.toStdString()));
        drop(file);
        QCOMPARE(m_model->job().name, std::string("Dropped"));
        QCOMPARE(m_model->file(), file);
        waitForPath();
    }
    void droppedThingsThatAreNoJobAreRefusedInWords() {
        drop(m_dir->filePath("nothing.txt"));
        QVERIFY(find<QLabel>("message")->text().contains("gyre.json"));
        QCOMPARE(m_model->job().name, std::string("Lantern collar"));
    }
    // The window was killed with unsaved work: the next start offers it.
    void unsavedWorkIsOfferedAgain() {
        type("axis.tilt", "31");
        const QString file = m_dir->filePath("lantern-collar.gyre.json");
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(file + ".autosave"), 8000);
        // As after a crash: the file aside is newer than the job.
        const std::string aside = readFile((file + ".autosave").toStdString(), 1 << 24).value();
        QVERIFY(m_model->save());
        Job old = m_model->job();
        old.route[0].axis->tiltDegrees = 38;
        QVERIFY(saveJob(old, file.toStdString()));
        QFile crash(file + ".autosave");
        QVERIFY(crash.open(QIODevice::WriteOnly));
        crash.write(aside.data(), static_cast<qint64>(aside.size()));
        QVERIFY(crash.flush());
        QVERIFY(crash.setFileTime(QDateTime::currentDateTime().addSecs(60), QFileDevice::FileModificationTime));
        crash.close();
        answer("No");
        QVERIFY(m_window->openFile(file));
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, 38.0);
        answer("Take it up");
        QVERIFY(m_window->openFile(file));
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, 31.0);
        QVERIFY(m_model->edited()); // and the file itself is untouched until it is saved
        QCOMPARE(openJob(file.toStdString())->route[0].axis->tiltDegrees, 38.0);
        waitForPath();
    }
    void closingAsksOnlyWhenSomethingWasChanged() {
        m_window->setProperty("closeWithoutAsking", false);
        type("axis.tilt", "30");
        waitForPath();
        answer("Cancel");
        QVERIFY(!m_window->close());
        QVERIFY(m_window->isVisible());
        answer("Save");
        QVERIFY(m_window->close());
        QCOMPARE(openJob(m_dir->filePath("lantern-collar.gyre.json").toStdString())->route[0].axis->tiltDegrees, 30.0);
        m_window->show();
        QVERIFY(m_window->close()); // nothing new: no question
    }
    void theRouteIsReorderedSwitchedOffAndEmptiedByKeyboard() {
        QTest::keyClick(m_window.get(), Qt::Key_N, Qt::ControlModifier);
        QCOMPARE(m_model->job().route.size(), std::size_t(2));
        const QString fresh = QString::fromStdString(m_model->job().route[1].id);
        QWidget* s = station(fresh);
        QVERIFY(s);
        QTest::keyClick(s, Qt::Key_Up, Qt::AltModifier);
        QCOMPARE(QString::fromStdString(m_model->job().route[0].id), fresh);
        m_model->route().toggleActive("flare");
        QVERIFY(!m_model->job().operation("flare")->active);
        QVERIFY(!m_window->grab().isNull());
        QTest::keyClick(station(fresh), Qt::Key_Delete);
        QTRY_COMPARE(m_model->job().route.size(), std::size_t(1));
        QTest::keyClick(station("flare"), Qt::Key_Delete);
        QTRY_COMPARE(m_model->job().route.size(), std::size_t(0));
        QVERIFY(!m_window->grab().isNull()); // an empty route is drawn, not a crash
        for (int i = 0; i < 5; ++i) QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(m_model->job().route.size(), std::size_t(1));
        QVERIFY(m_model->job().operation("flare")->active);
        waitForPath();
    }
    void anEmptyOperationSaysWhatItNeeds() {
        QTest::keyClick(m_window.get(), Qt::Key_N, Qt::ControlModifier);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->computing(), 20000);
        const auto r = m_model->result();
        QVERIFY(r && !r->findings.empty());
        QCOMPARE(r->findings[0].text, std::string("no face is picked"));
        QCOMPARE(r->findings[0].reason, std::string("Click faces in the view"));
    }
    void wordsAreReachedAndSetWithTheKeyboardAlone() {
        Word* lead = find<Word>("word.axis.lead");
        lead->setFocus();
        QTest::keyClick(lead, Qt::Key_Return);
        auto* edit = find<QLineEdit>("edit.axis.lead");
        QVERIFY(edit);
        QTest::keyClicks(edit, "9");
        QTest::keyClick(edit, Qt::Key_Return);
        QCOMPARE(m_model->recipe()->axis->leadDegrees, 9.0);
        // Escape takes an edit back; Tab goes on to another word.
        QTest::keyClick(lead, Qt::Key_Return);
        edit = find<QLineEdit>("edit.axis.lead");
        QTest::keyClicks(edit, "77");
        QTest::keyClick(edit, Qt::Key_Escape);
        QCOMPARE(m_model->recipe()->axis->leadDegrees, 9.0);
        lead->setFocus();
        QTest::keyClick(lead, Qt::Key_Tab);
        QVERIFY(QApplication::focusWidget() != lead);
        waitForPath();
    }
    void everyControlHasANameForThoseWhoCannotSeeIt() {
        for (int bench = 0; bench < 4; ++bench) {
            m_model->setBench(static_cast<Bench>(bench));
            QApplication::processEvents();
            for (QWidget* w : m_window->findChildren<QWidget*>()) {
                if (!w->isVisible() || w->focusPolicy() == Qt::NoFocus) continue;
                const auto* button = qobject_cast<QPushButton*>(w);
                const bool named = !w->accessibleName().isEmpty() || (button && !button->text().isEmpty()) || qobject_cast<QLineEdit*>(w) || w->inherits("QScrollArea") ||
                                   w->inherits("QAbstractScrollArea");
                QVERIFY2(named, qPrintable(QString("%1 '%2' on bench %3").arg(w->metaObject()->className(), w->objectName()).arg(bench)));
            }
        }
    }
    void thePlaceOnTheTableIsAWord() {
        m_model->setBench(Bench::SetUp);
        const auto before = m_model->result();
        type("setup.z", "80");
        QCOMPARE(m_model->job().seat.z(), 80.0);
        waitForPath();
        QVERIFY(m_model->result() != before);
        type("setup.turn", "15");
        QCOMPARE(m_model->job().seatTurnDegrees, 15.0);
        waitForPath();
    }
    void anotherMachineIsChosenByItsOwnName() {
        m_model->setBench(Bench::SetUp);
        auto* word = find<Word>("word.setup.machine");
        QCOMPARE(word->text(), QString("Heron 5T"));
        choose("setup.machine", "plover-4.machine.json");
        QTRY_COMPARE(m_model->job().machine, std::string("plover-4.machine.json"));
        waitForPath();
        QTRY_COMPARE(find<Word>("word.setup.machine")->text(), QString("Plover 4"));
        // Four axes cannot follow lead and tilt: that is told, with the angle that is missing.
        bool told = false;
        for (const Finding& f : m_model->findings()) told = told || (f.rank == Rank::Stop && f.text.find("°") != std::string::npos);
        QVERIFY(told);
    }
    void rolesChangeWhatTheGuardLooksAt() {
        m_model->setBench(Bench::SetUp);
        // Clamp 2 is what the holder runs into; as a mere reference nobody minds it.
        int clamp = -1;
        for (std::size_t i = 0; i < m_model->job().bodies.size(); ++i)
            if (m_model->job().bodies[i].name == "clamp 2") clamp = static_cast<int>(i);
        QVERIFY(clamp >= 0);
        choose(QString("body.%1.role").arg(clamp), "reference");
        QTRY_COMPARE(m_model->job().bodies[static_cast<std::size_t>(clamp)].role, std::string("reference"));
        waitForPath();
        QVERIFY(m_model->result()->hazards.empty());
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        waitForPath();
        QVERIFY(!m_model->result()->hazards.empty());
    }
    void theViewTurnsMovesAndComesBack() {
        View& view = m_window->view();
        const auto where = [&] { return *view.camera().project(Vec3(40, 0, 30)); };
        (void)view.grab(); // framed, if that is still due
        const QPointF start = where();
        QTest::mousePress(&view, Qt::LeftButton, {}, QPoint(60, 60));
        moveMouse(&view, QPoint(90, 60));
        moveMouse(&view, QPoint(160, 90));
        QTest::mouseRelease(&view, Qt::LeftButton, {}, QPoint(160, 90));
        QVERIFY((where() - start).manhattanLength() > 5);
        QTest::keyClick(m_window.get(), Qt::Key_F);
        QVERIFY((where() - start).manhattanLength() < 1e-6);
        QTest::mousePress(&view, Qt::RightButton, {}, QPoint(60, 60));
        moveMouse(&view, QPoint(90, 60));
        moveMouse(&view, QPoint(140, 60));
        QTest::mouseRelease(&view, Qt::RightButton, {}, QPoint(140, 60));
        QVERIFY(std::abs(where().x() - start.x() - 80) < 40);
        QTest::keyClick(m_window.get(), Qt::Key_M);
        QVERIFY(view.atMachine());
        QVERIFY(!m_window->grab().isNull());
    }
    // It is drawn in a thread of its own: whatever happens meanwhile, what is seen in the end is what is true.
    void theViewIsDrawnAsideAndKeepsUp() {
        View& view = m_window->view();
        QTRY_VERIFY(view.framesDrawn() > 0);
        for (int i = 0; i < 24; ++i) {
            view.orbit({7.0, 1.0});
            if (i % 3 == 0) m_model->setLocation(m_model->result()->path()->size() * static_cast<std::size_t>(i) / 24);
            if (i % 5 == 0) m_window->resize(1000 + 17 * i, 700 - 5 * i);
            if (i % 6 == 0) m_model->setBench(i % 12 == 0 ? Bench::SetUp : Bench::Cut);
            if (i % 8 == 0) view.setAtMachine(!view.atMachine());
            QApplication::processEvents();
        }
        // Fewer pictures than reasons, and the last one is shown.
        const std::size_t drawn = view.framesDrawn();
        view.setAtMachine(false);
        m_model->setBench(Bench::Cut);
        QTRY_VERIFY(view.framesDrawn() > drawn);
        const QImage now = view.grab().toImage();
        QCOMPARE(view.grab().toImage(), now);
        view.orbit({60.0, 0.0});
        QVERIFY(view.grab().toImage() != now);
        // Another job comes, and the window goes, while a picture is under way.
        view.orbit({5.0, 0.0});
        openJobFile("horn-guide.gyre.json");
        view.orbit({5.0, 0.0});
        QApplication::processEvents();
        closeAll();
    }
    void theTapePlaysAndStops() {
        QTest::keyClick(m_window.get(), Qt::Key_Space, Qt::ControlModifier);
        auto* tape = m_window->findChild<TapePanel*>("tapePanel");
        QVERIFY(tape->playing());
        QTRY_VERIFY_WITH_TIMEOUT(m_model->location() > 20, 10000);
        click(find<QPushButton>("play"));
        QVERIFY(!tape->playing());
        click(find<QPushButton>("toEnd"));
        QCOMPARE(m_model->location(), m_model->result()->path()->size() - 1);
        click(find<QPushButton>("toStart"));
        QCOMPARE(m_model->location(), std::size_t(0));
        const int row = m_model->result()->path()->row[0];
        click(find<QPushButton>("rowForward"));
        QVERIFY(m_model->result()->path()->row[m_model->location()] != row);
    }
    void oddNumbersAreRefusedInWordsAndChangeNothing() {
        const std::string before = jobToJson(m_model->job());
        for (const char* text : {"0", "-1", "1e9", "nan", "inf", "three", "0.0001", ""}) {
            type("pattern.spacing", text);
            if (auto* open = m_window->findChild<QLineEdit*>("edit.pattern.spacing"); open && open->isVisible()) QTest::keyClick(open, Qt::Key_Escape);
            QVERIFY2(m_model->recipe()->pattern->spacing > 0.0 && std::isfinite(m_model->recipe()->pattern->spacing), text);
        }
        while (!m_model->undoLabel().isEmpty()) m_model->undo();
        QCOMPARE(jobToJson(m_model->job()), before);
        waitForPath();
    }
};

GYRE_WINDOW_TEST(TestWindow)

} // namespace test_window
#include "test_window.moc"
