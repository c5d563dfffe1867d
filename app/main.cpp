#include "MainWindow.h"
#include "Theme.h"
#include "Tour.h"
#include "model/SkyShow.h"
#include "model/StockShow.h"
#include "view/View.h"
#include <CLI/CLI.hpp>
#include <QApplication>
#include <QFileInfo>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QTimer>
#include <cstdio>

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

} // namespace

int main(int argc, char** argv) {
    CLI::App options{"Humble Gyre: toolpaths for 4- and 5-axis milling", "humble-gyre"};
    std::string job = std::string(GYRE_DEMO_DIR) + "/lantern-collar.gyre.json", picture, bench = "cut";
    bool night = false;
    options.add_option("job", job, "job or part file; the demo job when none is given");
    options.add_option("--picture", picture, "write a picture of the computed window to this PNG file and leave");
    options.add_option("--bench", bench, "setup, tools, cut, prove or send")->check(CLI::IsMember({"setup", "tools", "cut", "prove", "send"}));
    std::string tool;
    options.add_option("--tool", tool, "the tool to show");
    std::string operation;
    options.add_option("--operation", operation, "the operation to show, by its id");
    options.add_flag("--night", night, "dark colours");
    int width = 1280, height = 800;
    double at = 0.4;
    options.add_option("--width", width)->check(CLI::Range(640, 7680));
    options.add_option("--height", height)->check(CLI::Range(480, 4320));
    options.add_option("--at", at, "place on the path for the picture, 0 to 1")->check(CLI::Range(0.0, 1.0));
    int stage = gyre::kStages;
    options.add_option("--stage", stage, "show the result up to this stage, 1 (target) to 5 (links)")->check(CLI::Range(1, gyre::kStages));
    std::string closely, stock, directions;
    options.add_option("--stock", stock, "the stock as it is cut up to that place, by who cut it or by how far it is off the part")
        ->check(CLI::IsMember({"operation", "deviation"}));
    options.add_option("--directions", directions, "the map of directions at that place")->check(CLI::IsMember({"small", "large"}));
    options.add_option("--closely", closely, "look closely at that place: at the part, or with the stock that is left")->check(CLI::IsMember({"part", "stock"}));
    CLI11_PARSE(options, argc, argv);

    QSurfaceFormat::setDefaultFormat(gyre::Renderer::surfaceFormat());
    QApplication app(argc, argv);
    QApplication::setApplicationName("Humble Gyre");
    if (QGuiApplication::platformName() == "offscreen" || !openGlWorks()) {
        std::fprintf(stderr, "Humble Gyre needs OpenGL 3.3, which this display does not give. On a machine without a graphics card, "
                             "Mesa's software rendering under Xvfb does: xvfb-run humble-gyre\n");
        return 1;
    }
    gyre::applyTheme(night);
    gyre::AppModel model;
    model.setShop(GYRE_DEMO_DIR);
    // Part files are read by the command line beside this program: whatever happens there, the window lives.
    if (const QString reader = QApplication::applicationDirPath() + "/gyre"; QFileInfo(reader).isExecutable()) model.setReader({reader.toStdString()});
    gyre::MainWindow window(model);
    window.resize(width, height);
    window.show();
    if (!window.openFile(QString::fromStdString(job), picture.empty()) && !picture.empty()) return 1;
    const gyre::Bench benches[] = {gyre::Bench::SetUp, gyre::Bench::Cut, gyre::Bench::Prove, gyre::Bench::Send};
    const char* names[] = {"setup", "cut", "prove", "send"};
    for (int i = 0; i < 4; ++i)
        if (bench == names[i]) model.setBench(benches[i]);
    if (bench == "tools") model.setAtTools(true);
    if (!operation.empty()) model.select(QString::fromStdString(operation));
    if (!tool.empty()) model.showTool(QString::fromStdString(tool));
    model.setPeel(static_cast<gyre::Stage>(stage - 1));
    if (picture.empty()) {
        if (options.count("job") == 0 && !gyre::Tour::seen()) window.takeTour();
        return QApplication::exec();
    }

    // A picture: compute (and prove, where the bench shows that), go to the place, let everything be drawn, write.
    window.setProperty("closeWithoutAsking", true);
    const bool prove = bench == "prove" || bench == "send";
    if (prove) model.computeNow(true);
    bool written = false;
    QObject::connect(&model, &gyre::AppModel::computingChanged, &window, [&] {
        if (model.computing()) return;
        if (const auto r = model.result(); r && r->path()) model.setLocation(static_cast<std::size_t>(at * static_cast<double>(r->path()->size() - 1)));
        if (bench == "send") window.findChild<QObject*>("postNow")->metaObject()->invokeMethod(window.findChild<QObject*>("postNow"), "click");
        const auto write = [&] {
            QTimer::singleShot(400, &window, [&] {
                written = window.grab().save(QString::fromStdString(picture));
                QApplication::quit();
            });
        };
        if (!stock.empty()) {
            QObject::connect(&model.stock(), &gyre::StockShow::changed, &window, [&, write] {
                if (model.stock().settled() && (model.stock().picture() || !model.stock().trouble().isEmpty())) write();
            });
            return model.stock().show(stock == "deviation" ? gyre::StockBy::Deviation : gyre::StockBy::Operation);
        }
        if (!directions.empty()) {
            QObject::connect(&model.sky(), &gyre::SkyShow::changed, &window, [&, write] {
                if (model.sky().picture()) write();
            });
            return model.sky().show(directions == "large" ? gyre::SkySize::Large : gyre::SkySize::Small);
        }
        if (closely.empty()) return write();
        QObject::connect(&model, &gyre::AppModel::closerChanged, &window, [&, write] {
            if (model.closer() || !model.closerTrouble().isEmpty()) write();
        });
        model.setCloser(closely == "part" ? gyre::LookFrom::Part : gyre::LookFrom::Stock);
    });
    QApplication::exec();
    return written ? 0 : 1;
}
