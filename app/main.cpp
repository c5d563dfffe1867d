#include "Describe.h"
#include "MainWindow.h"
#include "Theme.h"
#include "Tour.h"
#include "model/Closer.h"
#include "model/Dialects.h"
#include "model/Fits.h"
#include "model/MarksShow.h"
#include "model/SeatShow.h"
#include "model/SkyShow.h"
#include "model/StandStill.h"
#include "model/StockShow.h"
#include "model/ToolShelf.h"
#include "model/Variants.h"
#include "operation/OperationResult.h"
#include "path/Toolpath.h"
#include "view/View.h"
#include <CLI/CLI.hpp>
#include <QApplication>
#include <QFileInfo>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QTimer>
#include <cstdio>
#include <functional>
#include <map>

namespace {

// A window without its view would be of no use: say so and leave.
bool openGlWorks() {
    QOpenGLContext context;
    context.setFormat(gyre::Renderer::surfaceFormat());
    if (!context.create()) return false;
    QOffscreenSurface surface;
    surface.setFormat(context.format());
    surface.create();
    return surface.isValid() && context.makeCurrent(&surface) && context.format().version() >= qMakePair(3, 3);
}

struct Asked {
    std::string job, describe, picture, bench = "cut", tool, operation, closely, stock, directions, dialect;
    bool night = false, assemblies = false, standStill = false, variants = false, marks = false, seats = false;
    int width = 1280, height = 800, stage = gyre::kStages;
    double at = 0.4;
};

void declare(CLI::App& options, Asked& a) {
    options.set_version_flag("--version", std::string("Humble Gyre ") + GYRE_VERSION, "its version");
    options.add_option("--describe", a.describe, "")->group("")->check(CLI::IsMember({"manual", "bash"}));
    options.add_option("job", a.job, "job or part file; the demo job when none is given");
    options.add_option("--picture", a.picture, "write a picture of the computed window to this PNG file and leave");
    options.add_option("--bench", a.bench, "setup, tools, cut, prove or send")->check(CLI::IsMember({"setup", "tools", "cut", "prove", "send"}));
    options.add_option("--tool", a.tool, "the tool to show");
    options.add_option("--operation", a.operation, "the operation to show, by its id");
    options.add_flag("--night", a.night, "dark colours");
    options.add_option("--width", a.width)->check(CLI::Range(640, 7680));
    options.add_option("--height", a.height)->check(CLI::Range(480, 4320));
    options.add_option("--at", a.at, "place on the path for the picture, 0 to 1")->check(CLI::Range(0.0, 1.0));
    options.add_option("--stage", a.stage, "show the result up to this stage, 1 (target) to 5 (links)")->check(CLI::Range(1, gyre::kStages));
    options.add_option("--stock", a.stock, "the stock as it is cut up to that place, by who cut it, with which tool, when, or by how far it is off the part")
        ->check(CLI::IsMember({"operation", "tool", "age", "deviation"}));
    options.add_option("--directions", a.directions, "the map of directions at that place")->check(CLI::IsMember({"small", "large"}));
    options.add_flag("--assemblies", a.assemblies, "which assemblies do the work of the operation");
    options.add_flag("--stand-still", a.standStill, "directions that stand still instead of the operation's turning axis");
    options.add_flag("--seats", a.seats, "where the part should stand on the table");
    options.add_flag("--marks", a.marks, "the marks on the surface at that place");
    options.add_flag("--variants", a.variants, "several ways of doing the operation, side by side");
    options.add_option("--dialect", a.dialect, "in the Send bench: the programs in this dialect, and the dialect to be changed");
    options.add_option("--closely", a.closely, "look closely at that place: at the part, or with the stock that is left")->check(CLI::IsMember({"part", "stock"}));
}

std::string described(const CLI::App& options, const std::string& as) {
    if (as == "bash") return gyre::bashCompletion(options, "humble-gyre");
    return gyre::manualPage(options, {"humble-gyre", GYRE_VERSION,
                                      "Opens a job, or a part file to begin one; the demo job when none is named. F1 in the window opens the guide.\n\n"
                                      "The view draws with OpenGL 3.3; without a graphics card Mesa's software rendering does.",
                                      "", "gyre(1)"});
}

/// The demo workshop: where it was installed, or beside the programs where they were built.
QString demoFolder() {
    QString here = QApplication::applicationDirPath();
    for (const char* there : {"/../share/humble-gyre/demo", "/../demo-data"})
        if (const QFileInfo folder(here + there); folder.isDir()) return folder.canonicalFilePath();
    return here;
}

void show(const Asked& a, gyre::AppModel& model) {
    static const std::map<std::string, gyre::Bench> benches{
        {"setup", gyre::Bench::SetUp}, {"cut", gyre::Bench::Cut}, {"prove", gyre::Bench::Prove}, {"send", gyre::Bench::Send}};
    if (const auto bench = benches.find(a.bench); bench != benches.end()) model.setBench(bench->second);
    if (a.bench == "tools") model.tools().setOpen(true);
    if (!a.operation.empty()) model.select(QString::fromStdString(a.operation));
    if (!a.tool.empty()) model.tools().show(QString::fromStdString(a.tool));
    model.setPeel(static_cast<gyre::Stage>(a.stage - 1));
}

/// What is asked for over the view is there: `then`.
void whenShown(const Asked& a, gyre::AppModel& model, QObject* owner, const std::function<void()>& then) {
    if (!a.stock.empty()) {
        QObject::connect(&model.stock(), &gyre::StockShow::changed, owner, [&model, then] {
            if (model.stock().settled() && (model.stock().picture() || !model.stock().trouble().isEmpty())) then();
        });
        static const std::map<std::string, gyre::StockBy> ways{
            {"operation", gyre::StockBy::Operation}, {"tool", gyre::StockBy::Tool}, {"age", gyre::StockBy::Age}, {"deviation", gyre::StockBy::Deviation}};
        return model.stock().show(ways.at(a.stock));
    }
    if (!a.directions.empty()) {
        QObject::connect(&model.sky(), &gyre::SkyShow::changed, owner, [&model, then] {
            if (model.sky().picture()) then();
        });
        return model.sky().show(a.directions == "large" ? gyre::SkySize::Large : gyre::SkySize::Small);
    }
    if (a.assemblies) {
        QObject::connect(&model.fits(), &gyre::Fits::changed, owner, [&model, then] {
            if (model.fits().settled() && !model.fits().all().empty()) then();
        });
        return model.fits().open(true);
    }
    if (a.standStill) {
        QObject::connect(&model.standStill(), &gyre::StandStill::changed, owner, [&model, then] {
            if (model.standStill().settled() && (model.standStill().told() || !model.standStill().trouble().isEmpty())) then();
        });
        return model.standStill().open(true);
    }
    if (a.seats) {
        QObject::connect(&model.seats(), &gyre::SeatShow::changed, owner, [&model, then] {
            if (model.seats().settled() && (model.seats().map() || !model.seats().trouble().isEmpty())) then();
        });
        return model.seats().open(true);
    }
    if (a.marks) {
        QObject::connect(&model.marks(), &gyre::MarksShow::changed, owner, [&model, then] {
            if (model.marks().settled() && (model.marks().picture() || !model.marks().trouble().isEmpty())) then();
        });
        return model.marks().open(true);
    }
    if (a.variants) {
        QObject::connect(&model.variants(), &gyre::Variants::changed, owner, [&model, then] {
            if (model.variants().settled() && !model.variants().all().empty()) then();
        });
        return model.variants().open(true);
    }
    if (!a.dialect.empty() && !model.dialects().isOpen()) {
        model.dialects().choose(QString::fromStdString(a.dialect));
        model.dialects().open(true);
        return then();
    }
    if (a.closely.empty()) return then();
    QObject::connect(&model.closer(), &gyre::Closer::changed, owner, [&model, then] {
        if (model.closer().picture() || !model.closer().trouble().isEmpty()) then();
    });
    model.closer().look(a.closely == "part" ? gyre::LookFrom::Part : gyre::LookFrom::Stock);
}

/// Computes (and proves, where the bench shows that), goes to the place, lets everything be drawn, writes.
bool takePicture(const Asked& a, gyre::AppModel& model, gyre::MainWindow& window) {
    window.setProperty("closeWithoutAsking", true);
    if (a.bench == "prove" || a.bench == "send") model.computeNow(true);
    bool written = false;
    QObject::connect(&model, &gyre::AppModel::computingChanged, &window, [&] {
        if (model.computing()) return;
        if (const auto r = model.result(); r && r->path()) model.setLocation(static_cast<std::size_t>(a.at * static_cast<double>(r->path()->size() - 1)));
        if (a.bench == "send") window.findChild<QObject*>("postNow")->metaObject()->invokeMethod(window.findChild<QObject*>("postNow"), "click");
        whenShown(a, model, &window, [&] {
            QTimer::singleShot(400, &window, [&] {
                written = window.grab().save(QString::fromStdString(a.picture));
                QApplication::quit();
            });
        });
    });
    QApplication::exec();
    return written;
}

} // namespace

int main(int argc, char** argv) {
    CLI::App options{"Humble Gyre: toolpaths for 4- and 5-axis milling", "humble-gyre"};
    Asked asked;
    declare(options, asked);
    CLI11_PARSE(options, argc, argv);
    if (!asked.describe.empty()) return std::fputs(described(options, asked.describe).c_str(), stdout) < 0;

    QSurfaceFormat::setDefaultFormat(gyre::Renderer::surfaceFormat());
    QApplication app(argc, argv);
    QApplication::setApplicationName("Humble Gyre");
    if (QGuiApplication::platformName() == "offscreen" || !openGlWorks()) {
        std::fprintf(stderr, "Humble Gyre needs OpenGL 3.3, which this display does not give. On a machine without a graphics card, "
                             "Mesa's software rendering under Xvfb does: xvfb-run humble-gyre\n");
        return 1;
    }
    QApplication::setApplicationVersion(GYRE_VERSION);
    QApplication::setDesktopFileName("humble-gyre");
    gyre::applyTheme(asked.night);
    gyre::AppModel model;
    const QString demo = demoFolder();
    if (asked.job.empty()) asked.job = demo.toStdString() + "/lantern-collar.gyre.json";
    model.setShop(demo);
    // Part files are read by the command line beside this program: whatever happens there, the window lives.
    if (const QString reader = QApplication::applicationDirPath() + "/gyre"; QFileInfo(reader).isExecutable()) model.setReader({reader.toStdString()});
    gyre::MainWindow window(model);
    window.resize(asked.width, asked.height);
    window.show();
    const bool forUser = asked.picture.empty();
    if (!window.openFile(QString::fromStdString(asked.job), forUser) && !forUser) return 1;
    show(asked, model);
    if (!forUser) return takePicture(asked, model, window) ? 0 : 1;
    if (options.count("job") == 0 && !gyre::Tour::seen()) window.takeTour();
    return QApplication::exec();
}
