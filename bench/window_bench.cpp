// Measures the window: start, frames, scrubbing, pauses while computing.   xvfb-run gyre-window-bench
#include "MainWindow.h"
#include "Theme.h"
#include "geom/MeshFile.h"
#include "model/Picks.h"
#include "operation/OperationResult.h"
#include "path/Toolpath.h"
#include "view/View.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QMouseEvent>
#include <QTemporaryDir>
#include <QThread>
#include <QTimer>
#include <cmath>
#include <cstdio>
#include <filesystem>

using namespace gyre;

namespace {

/// Tells how long each event took, so that a pause can be laid at its door.
class TimedApplication : public QApplication {
public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override {
        const auto type = event->type();
        const QString who = QString("%1 %2").arg(receiver->metaObject()->className(), receiver->objectName());
        QElapsedTimer clock;
        clock.start();
        ++m_depth;
        const bool handled = QApplication::notify(receiver, event);
        --m_depth;
        const double ms = static_cast<double>(clock.nsecsElapsed()) * 1e-6;
        if (m_depth == 0 && ms > m_longest) {
            m_longest = ms;
            m_what = QString("event %1 of %2").arg(static_cast<int>(type)).arg(who);
        }
        return handled;
    }
    /// The longest event since the last time this was asked.
    QString longest() {
        const QString said = QString("%1 ms in %2").arg(m_longest, 0, 'f', 0).arg(m_what);
        m_longest = 0.0;
        return said;
    }

private:
    int m_depth = 0;
    double m_longest = 0.0;
    QString m_what;
};

/// Lets the window live until `done`, at most a minute; the longest time between two rounds of its loop is the longest pause.
template <class Done> double live(const Done& done) {
    QElapsedTimer clock, round;
    clock.start();
    round.start();
    double longest = 0.0;
    while (!done() && clock.elapsed() < 60000) {
        QApplication::processEvents(QEventLoop::AllEvents);
        longest = std::max(longest, static_cast<double>(round.nsecsElapsed()) * 1e-6);
        round.restart();
        QThread::usleep(500);
        round.restart();
    }
    return longest;
}

template <class Step> void frames(const char* what, View& view, const Step& step) {
    constexpr int kFrames = 40;
    QElapsedTimer clock;
    clock.start();
    double worst = 0.0;
    for (int i = 0; i < kFrames; ++i) {
        QElapsedTimer one;
        one.start();
        const std::size_t drawn = view.framesDrawn();
        step(i);
        while (view.framesDrawn() == drawn) QApplication::processEvents(QEventLoop::AllEvents);
        worst = std::max(worst, static_cast<double>(one.nsecsElapsed()) * 1e-6);
    }
    std::printf("  %-32s %6.1f ms a frame, worst %.1f\n", what, static_cast<double>(clock.elapsed()) / kFrames, worst);
}

/// A relief of a million triangles: waves in tiles with sharp borders, on a block.
TriangleMesh relief() {
    constexpr int kSide = 708, kTile = 118;
    TriangleMesh m;
    for (int j = 0; j <= kSide; ++j)
        for (int i = 0; i <= kSide; ++i) {
            const double x = 0.25 * i, y = 0.25 * j, tile = ((i / kTile + j / kTile) % 2) * 3.0;
            m.points.emplace_back(x, y, 20.0 + 2.0 * std::sin(0.11 * x) * std::cos(0.09 * y) + tile);
        }
    const auto at = [](int i, int j) { return static_cast<std::uint32_t>(j * (kSide + 1) + i); };
    for (int j = 0; j < kSide; ++j)
        for (int i = 0; i < kSide; ++i) {
            m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    return m;
}

void millionTriangles(MainWindow& window, AppModel& model, View& view, const QString& folder) {
    const QString file = folder + "/relief.stl";
    {
        const TriangleMesh mesh = relief();
        const std::string bytes = meshToStl(mesh);
        QFile out(file);
        if (!out.open(QIODevice::WriteOnly) || out.write(bytes.data(), static_cast<qint64>(bytes.size())) < 0) return;
    }
    QElapsedTimer clock;
    clock.start();
    (void)static_cast<TimedApplication*>(qApp)->longest();
    if (!window.openFile(file, false)) return;
    double pause = live([&] { return model.place() && model.place()->part && model.settled(); });
    std::printf("scan of %zu triangles, %zu faces: open after %.2f s, longest pause %.0f ms, longest event %s; drawn with %zu\n",
                model.place()->part->mesh().triangles.size(), model.place()->part->faces().size(), static_cast<double>(clock.elapsed()) * 1e-3, pause,
                qPrintable(static_cast<TimedApplication*>(qApp)->longest()), model.place()->part->drawing().triangles.size());
    frames("turning the view", view, [&](int) { view.orbit({6, 1}); });
    model.picks().ask({PickKind::Faces, "flank", {}});
    QElapsedTimer one;
    double worst = 0.0, sum = 0.0;
    for (int i = 0; i < 40; ++i) {
        const QPointF p(200 + 10 * i, 250 + 3 * i);
        QMouseEvent move(QEvent::MouseMove, p, view.mapToGlobal(p), Qt::NoButton, Qt::NoButton, Qt::NoModifier);
        one.start();
        QApplication::sendEvent(&view, &move);
        const double t = static_cast<double>(one.nsecsElapsed()) * 1e-6;
        worst = std::max(worst, t);
        sum += t;
    }
    std::printf("  %-32s %6.1f ms a move, worst %.1f\n", "what would be picked", sum / 40, worst);
    QElapsedTimer drawn;
    drawn.start();
    const std::size_t before = view.framesDrawn();
    view.update();
    while (view.framesDrawn() == before) QApplication::processEvents(QEventLoop::AllEvents);
    std::printf("  %-32s %6.1f ms\n", "a frame with the face lit", static_cast<double>(drawn.nsecsElapsed()) * 1e-6);
}

} // namespace

int main(int argc, char** argv) {
    QElapsedTimer start;
    start.start();
    QSurfaceFormat::setDefaultFormat(Renderer::surfaceFormat());
    TimedApplication app(argc, argv);
    applyTheme(false);
    AppModel model;
    MainWindow window(model);
    window.setProperty("closeWithoutAsking", true);
    window.resize(1280, 800);
    window.show();
    QApplication::processEvents();
    std::printf("window up                          %6.2f s\n", static_cast<double>(start.elapsed()) * 1e-3);
    // A copy: edits are autosaved beside the job.
    const QTemporaryDir folder;
    std::filesystem::copy(GYRE_DEMO_DIR, folder.path().toStdString(), std::filesystem::copy_options::overwrite_existing | std::filesystem::copy_options::recursive);
    if (const auto ok = model.open(folder.filePath("lantern-collar.gyre.json")); !ok) {
        std::printf("%s\n", ok.error().text().c_str());
        return 1;
    }
    double pause = live([&] { return model.place() != nullptr; });
    const double opening = pause;
    const QString longestOpening = app.longest();
    std::printf("demo part on the screen            %6.2f s\n", static_cast<double>(start.elapsed()) * 1e-3);
    std::printf("  the part is drawn with %zu triangles of %zu\n", model.place()->part->drawing().triangles.size(), model.place()->part->mesh().triangles.size());
    pause = live([&] { return model.result() && model.result()->complete(); });
    std::printf("demo path on the screen            %6.2f s\n", static_cast<double>(start.elapsed()) * 1e-3);
    pause = std::max(pause, live([&] { return !model.computing(); }));
    std::printf("longest pause until the part was there %3.0f ms; longest event %s\n", opening, qPrintable(longestOpening));
    std::printf("longest pause until all was there  %6.0f ms; longest event %s\n", pause, qPrintable(app.longest()));
    auto& view = *window.findChild<View*>("view");
    const auto scrub = [&](int i) { model.setLocation(model.result()->path()->size() * static_cast<std::size_t>(i) / 40); };
    const auto measure = [&](const char* what) {
        std::printf("%s: %zu locations\n", what, model.result()->path()->size());
        frames("turning the view", view, [&](int) { view.orbit({6, 1}); });
        frames("scrubbing", view, scrub);
        view.setAtMachine(true);
        frames("scrubbing at the machine", view, scrub);
        view.setAtMachine(false);
    };
    measure("demo operation");
    const auto edit = [&](const char* key, const char* value) {
        QElapsedTimer clock;
        clock.start();
        app.longest();
        (void)model.setWord(key, value);
        const auto old = model.result();
        double longest = live([&] { return model.result() != old && !model.stale() && model.result()->complete(); });
        const auto seen = clock.elapsed();
        longest = std::max(longest, live([&] { return !model.computing(); }));
        std::printf("edit of %s to %s: new path after %.2f s, all after %.2f s, longest pause %.0f ms; longest event %s\n", key, value, static_cast<double>(seen) * 1e-3,
                    static_cast<double>(clock.elapsed()) * 1e-3, longest, qPrintable(app.longest()));
    };
    edit("axis.lead", "6");
    edit("pattern.spacing", "0.1");
    measure("rows 0.1 mm apart");
    edit("axis.lead", "5");
    millionTriangles(window, model, view, folder.path());
    return 0;
}
