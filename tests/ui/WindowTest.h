// What tests of the window share: the demo job open in a real window, and the user's actions, counted.
#pragma once
#include "MainWindow.h"
#include "Program.h"
#include "Support.h"
#include "Theme.h"
#include "model/Along.h"
#include "model/Closer.h"
#include "model/FlankShow.h"
#include "model/Holes.h"
#include "model/Mending.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "model/Planes.h"
#include "model/Programs.h"
#include "model/Route.h"
#include "model/SetUp.h"
#include "model/SkyShow.h"
#include "model/StockShow.h"
#include "model/ToolShelf.h"
#include "panels/StageCard.h"
#include "panels/TapePanel.h"
#include "panels/Word.h"
#include "view/View.h"
#include <QAction>
#include <QApplication>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSignalSpy>

namespace gyre::test {

/// Ticks in the window's own thread; the longest pause between two ticks is the longest stall.
class Watchdog : public QObject {
public:
    Watchdog() {
        m_clock.start();
        m_timer.setInterval(5);
        connect(&m_timer, &QTimer::timeout, this, [this] {
            const double now = static_cast<double>(m_clock.nsecsElapsed()) * 1e-6;
            longest = std::max(longest, now - m_last);
            m_last = now;
        });
        m_timer.start();
    }
    double longest = 0.0;

private:
    QTimer m_timer;
    QElapsedTimer m_clock;
    double m_last = 0.0;
};

class WindowTest : public QObject {
protected:
    std::unique_ptr<AppModel> m_model;
    std::unique_ptr<MainWindow> m_window;
    std::unique_ptr<QTemporaryDir> m_dir;
    int m_actions = 0;

    /// Every test opens the demo anew; what the ones before it read and computed is not computed again.
    static std::shared_ptr<Shelf> shelf() {
        static const auto all = std::make_shared<Shelf>();
        return all;
    }

    template <class T> T* find(const QString& name) {
        // The visible one, where the same finding stands in two panels; a layout shows new widgets a moment later.
        T* found = nullptr;
        (void)QTest::qWaitFor(
            [&] {
                found = nullptr; // what was there may be gone
                for (T* w : m_window->findChildren<T*>(name))
                    if (w->isVisibleTo(m_window.get())) found = w;
                // A cure that is being computed can be taken in a moment; what has no size yet has no middle to click on.
                return found != nullptr && found->isEnabled() && found->height() >= std::min(8, found->sizeHint().height());
            },
            2000);
        return found;
    }
    /// What the window last told the user; empty when that has gone again.
    QString message() {
        auto* label = m_window->findChild<QLabel*>("message");
        return label && label->isVisible() ? label->text() : QString();
    }
    void waitForPath() {
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && !m_model->stale(), 240000);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() || !m_model->recipe(), 1000);
    }
    void settle() {
        QCoreApplication::processEvents();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled(), 240000);
    }
    void openJobFile(const char* name) {
        QVERIFY(m_window->openFile(m_dir->filePath(name), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        m_actions = 0;
    }
    /// The job as it was before its first operation; actions count from here.
    void withoutOperations() {
        m_model->change("nothing yet", [](Job& j) { j.route.clear(); });
        settle();
        m_actions = 0;
    }
    /// From the list behind a button of the route: two clicks.
    void addFrom(const QString& buttonName, const QString& menuName, const QString& actionName) {
        auto* button = find<QPushButton>(buttonName);
        QVERIFY(button);
        ++m_actions;
        QTimer::singleShot(0, this, [this, menuName, actionName] {
            auto* menu = m_window->findChild<QMenu*>(menuName);
            auto* action = menu->findChild<QAction*>(actionName);
            ++m_actions;
            QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(action).center());
            menu->close();
        });
        QTest::mouseClick(button, Qt::LeftButton);
        QCoreApplication::processEvents();
    }
    /// A face by a click in the view, from above or from where it can be seen; as near as it gets to a place on it, if one is given.
    void clickFace(int face, const std::optional<Vec3>& place = {}) {
        const FaceInfo& info = m_model->place()->part->faces()[static_cast<std::size_t>(face)];
        View& view = m_window->view();
        (void)view.grab(); // framed, if that is still due
        const double azimuth = degrees(std::atan2(info.normal.y(), info.normal.x())), up = degrees(std::asin(std::clamp(info.normal.z(), -1.0, 1.0)));
        const Part& part = *m_model->place()->part;
        // Somewhere on it that is not hidden, from its own side or from higher up.
        QPoint at;
        for (const double high : {std::clamp(up, -80.0, 80.0), 35.0, 60.0}) {
            view.camera().look(std::abs(up) > 80 ? -90 : azimuth, high);
            (void)view.grab();
            double nearest = 1e300;
            for (const auto& t : part.faceMesh(face).triangles) {
                const auto& points = part.faceMesh(face).points;
                const Vec3 middle = (points[t[0]] + points[t[1]] + points[t[2]]) / 3.0;
                const double far = place ? (middle - *place).norm() : 0.0;
                const auto p = far <= nearest ? view.camera().project(middle) : std::nullopt;
                if (!p || !view.rect().adjusted(4, 50, -4, -4).contains(p->toPoint()) || faceAt(part, view.camera(), *p).face != face) continue;
                at = p->toPoint();
                nearest = far;
            }
            if (!at.isNull()) break;
        }
        QVERIFY2(!at.isNull(), qPrintable(QString("face %1 cannot be seen").arg(face)));
        ++m_actions;
        moveMouse(&view, at);
        QTest::mouseClick(&view, Qt::LeftButton, {}, at);
    }
    /// An edge by a click in the view, from where one of its faces is seen.
    void clickEdge(int edge, Qt::KeyboardModifiers held = {}) {
        const Part& part = *m_model->place()->part;
        const EdgeInfo& info = part.edges()[static_cast<std::size_t>(edge)];
        View& view = m_window->view();
        (void)view.grab();
        std::vector<Vec3> from;
        for (const int face : info.faces)
            if (face >= 0) from.push_back(part.project(face, info.middle).normal);
        if (from.empty()) from.push_back((info.middle - part.mesh().bounds().centre()).normalized()); // a mend's
        for (const Vec3& nearby : from) {
            for (const double high : {degrees(std::asin(std::clamp(nearby.z(), -1.0, 1.0))), 25.0, 50.0, 75.0}) {
                view.camera().look(degrees(std::atan2(nearby.y(), nearby.x())), std::clamp(high, -80.0, 80.0));
                (void)view.grab();
                for (const Vec3& p : part.edgeLine(edge)) {
                    const auto at = view.camera().project(p);
                    if (!at || !view.rect().adjusted(6, 50, -6, -6).contains(at->toPoint()) || edgeAt(part, view.camera(), at->toPoint(), 3.0) != edge) continue;
                    ++m_actions;
                    moveMouse(&view, at->toPoint());
                    return QTest::mouseClick(&view, Qt::LeftButton, held, at->toPoint());
                }
            }
        }
        QFAIL(qPrintable(QString("edge %1 cannot be seen").arg(edge)));
    }
    // Qt's own moves the pointer of the screen while no button is held, and the event comes when the server sends it: on a busy machine after the next check.
    static void moveMouse(QWidget* w, QPoint at) {
        if (QTestPrivate::qtestMouseButtons != Qt::NoButton) return QTest::mouseMove(w, at);
        QMouseEvent moved(QEvent::MouseMove, at, w->mapToGlobal(at), Qt::NoButton, Qt::NoButton, Qt::NoModifier);
        QApplication::sendEvent(w, &moved);
    }
    // Every one of these is one action of the user.
    void click(QWidget* w) {
        QVERIFY(w);
        ++m_actions;
        QTest::mouseClick(w, Qt::LeftButton);
    }
    /// A word of the recipe; one of the rare ones is unfolded first, which is one action more.
    Word* wordFor(const QString& key) {
        for (Word* w : m_window->findChildren<Word*>("word." + key)) {
            if (w->isVisible() || w->isHidden()) continue;
            for (QWidget* up = w; up; up = up->parentWidget())
                if (auto* card = qobject_cast<StageCard*>(up); card && !card->unfolded())
                    click(card->findChild<QPushButton*>("more." + card->objectName().section('.', 1)));
        }
        return find<Word>("word." + key);
    }
    void type(const QString& key, const QString& text) {
        Word* w = wordFor(key);
        QVERIFY2(w, qPrintable(key));
        ++m_actions;
        QTest::mouseClick(w, Qt::LeftButton);
        auto* edit = find<QLineEdit>("edit." + key);
        QVERIFY(edit);
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, Qt::Key_Return);
    }
    void choose(const QString& key, const QString& value) {
        Word* w = wordFor(key);
        QVERIFY2(w, qPrintable(key));
        ++m_actions;
        QTest::mouseClick(w, Qt::LeftButton);
        auto* menu = w->findChild<QMenu*>("menu." + key);
        QVERIFY(menu);
        auto* action = menu->findChild<QAction*>("choice." + value);
        QVERIFY2(action, qPrintable(value));
        QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(action).center());
    }
    /// Answers the next question that the window asks, by the words on the button.
    void answer(const QString& words, int* asked = nullptr) {
        QTimer::singleShot(0, this, [words, asked] {
            auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            if (!box) return;
            if (asked) ++*asked;
            for (QAbstractButton* b : box->buttons())
                if (b->text() == words) return QTest::mouseClick(b, Qt::LeftButton);
            box->reject();
            QFAIL(qPrintable("no answer " + words));
        });
    }
    void drop(const QString& file) {
        ++m_actions;
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(file)});
        QDragEnterEvent enter(QPoint(400, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(m_window.get(), &enter);
        QDropEvent event(QPointF(400, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(m_window.get(), &event);
    }
    QPoint pixelOfFace(int face) {
        const auto p = m_window->view().camera().project(m_model->place()->part->faces()[static_cast<std::size_t>(face)].centre);
        return p->toPoint();
    }
    // A face that can be seen and clicked in the present view.
    int visibleFace(int except = -1) {
        const Part& part = *m_model->place()->part;
        for (std::size_t f = 0; f < part.faces().size(); ++f) {
            const FaceInfo& info = part.faces()[f];
            if (info.kind != SurfaceKind::FreeForm || static_cast<int>(f) == except) continue;
            const QPoint p = pixelOfFace(static_cast<int>(f));
            if (m_window->view().rect().adjusted(60, 60, -60, -60).contains(p) && faceAt(part, m_window->view().camera(), p).face == static_cast<int>(f))
                return static_cast<int>(f);
        }
        return -1;
    }
    void openDemo() {
        m_dir = std::make_unique<QTemporaryDir>();
        for (const auto& e : std::filesystem::directory_iterator(GYRE_DEMO_DIR))
            if (e.path().extension() != ".autosave") // someone may have played with the demo
                std::filesystem::copy(e.path(), std::filesystem::path(m_dir->path().toStdString()) / e.path().filename());
        m_model = std::make_unique<AppModel>();
        m_model->setShelf(shelf());
        m_window = std::make_unique<MainWindow>(*m_model);
        m_window->setProperty("closeWithoutAsking", true);
        m_window->show();
        QVERIFY(QTest::qWaitForWindowExposed(m_window.get()));
        // There is no window manager under Xvfb that would hand the window its focus.
        m_window->activateWindow();
        QApplication::setActiveWindow(m_window.get());
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        waitForPath();
        m_actions = 0;
    }
    void closeAll() {
        m_window.reset();
        m_model.reset();
    }
};

/// Runs tests with an application that can open windows.
int runWithWindows(int argc, char** argv, const std::function<int()>& tests);

/// What GYRE_WINDOW_TEST runs.
template <class Test> int runWindowTest(int argc, char** argv) {
    return runWithWindows(argc, argv, [&] {
        Test test;
        return QTest::qExec(&test, argc, argv);
    });
}

} // namespace gyre::test
