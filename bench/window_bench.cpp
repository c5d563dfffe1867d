// Measures the window: start, frames, scrubbing, pauses while computing.   xvfb-run gyre-window-bench
#include "MainWindow.h"
#include "Theme.h"
#include "view/View.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QThread>
#include <QTimer>
#include <cmath>
#include <cstdio>
#include <filesystem>

using namespace gyre;

namespace {

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

} // namespace

int main(int argc, char** argv) {
    QElapsedTimer start;
    start.start();
    QSurfaceFormat::setDefaultFormat(Renderer::surfaceFormat());
    QApplication app(argc, argv);
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
    std::filesystem::copy(GYRE_DEMO_DIR, folder.path().toStdString(), std::filesystem::copy_options::overwrite_existing);
    if (!window.openFile(folder.filePath("lantern-collar.gyre.json"), false)) return 1;
    live([&] { return model.place() != nullptr; });
    std::printf("demo part on the screen            %6.2f s\n", static_cast<double>(start.elapsed()) * 1e-3);
    std::printf("  the part is drawn with %zu triangles of %zu\n", model.place()->part->drawing().triangles.size(), model.place()->part->mesh().triangles.size());
    double pause = live([&] { return model.result() && model.result()->complete(); });
    std::printf("demo path on the screen            %6.2f s\n", static_cast<double>(start.elapsed()) * 1e-3);
    pause = std::max(pause, live([&] { return !model.computing(); }));
    std::printf("longest pause until all was there  %6.0f ms\n", pause);
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
        (void)model.setWord(key, value);
        const auto old = model.result();
        double longest = live([&] { return model.result() != old && !model.stale() && model.result()->complete(); });
        const auto seen = clock.elapsed();
        longest = std::max(longest, live([&] { return !model.computing(); }));
        std::printf("edit of %s to %s: new path after %.2f s, all after %.2f s, longest pause %.0f ms\n", key, value, static_cast<double>(seen) * 1e-3,
                    static_cast<double>(clock.elapsed()) * 1e-3, longest);
    };
    edit("axis.lead", "6");
    edit("pattern.spacing", "0.1");
    measure("rows 0.1 mm apart");
    edit("axis.lead", "5");
    return 0;
}
