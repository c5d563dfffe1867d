// The table of commands, bench by bench.
#include "Commands.h"
#include "Ask.h"
#include "MainWindow.h"
#include "Theme.h"
#include "milling/MillSpec.h"
#include "milling/Sheet.h"
#include "model/Along.h"
#include "model/Fits.h"
#include "model/Holes.h"
#include "model/MarksShow.h"
#include "model/Measures.h"
#include "model/Mending.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "model/Route.h"
#include "model/SeatShow.h"
#include "model/SetUp.h"
#include "model/SkyShow.h"
#include "model/StandStill.h"
#include "model/StockShow.h"
#include "model/ToolShelf.h"
#include "model/Variants.h"
#include "panels/RecipePanel.h"
#include "panels/RoutePanel.h"
#include "panels/TapePanel.h"
#include "view/SheetView.h"
#include "view/View.h"
#include <QFileInfo>
#include <QPushButton>
#include <cmath>

namespace gyre {

std::vector<Command> MainWindow::commands() {
    std::vector<Command> all;
    for (auto part : {&MainWindow::jobCommands, &MainWindow::newWorkCommands, &MainWindow::operationCommands, &MainWindow::setUpCommands, &MainWindow::benchCommands,
                      &MainWindow::pickCommands, &MainWindow::viewCommands, &MainWindow::tapeCommands, &MainWindow::helpCommands}) {
        std::vector<Command> some = (this->*part)();
        all.insert(all.end(), std::make_move_iterator(some.begin()), std::make_move_iterator(some.end()));
    }
    return all;
}

std::vector<Command> MainWindow::jobCommands() {
    const QString any = tr("Any bench");
    return {
        {"action.open", tr("Open a job or a part"), QKeySequence::Open, any, tr("load import file step stp iges stl part job"), [this] { askAndOpen(); }},
        {"action.save", tr("Save the job"), QKeySequence::Save, any, tr("store write file"), [this] { save(); }},
        {"action.saveAs", tr("Save the job as another file"), QKeySequence("Ctrl+Shift+S"), any, tr("store copy file"), [this] { saveAs(); }},
        {"action.undo", tr("Undo"), QKeySequence::Undo, any, tr("back revert"), [this] { m_model.undo(); }},
        {"action.redo", tr("Redo"), QKeySequence("Ctrl+Shift+Z"), any, tr("again forward"), [this] { m_model.redo(); }},
        {"action.cancel", tr("Cancel what is computed"), QKeySequence("Ctrl+."), any, tr("stop abort"), [this] { m_model.cancel(); }},
        {"action.units", tr("Millimetres or inches"), {}, any, tr("inch inches mm millimetre metric imperial"), [this] { m_units->click(); }},
        {"action.theme", tr("Day or night colours"), QKeySequence("Ctrl+D"), any, tr("dark night light colours"),
         [this] {
             applyTheme(!theme().dark);
             emit m_model.placeChanged();
             update();
         }},
    };
}

std::vector<Command> MainWindow::newWorkCommands() {
    const QString route = tr("Cut, the route");
    std::vector<Command> all{
        {"action.newOperation", tr("New surface operation"), QKeySequence::New, route, tr("surface finishing rows scan 5 axis five 5-axis simultaneous toolpath add"),
         [this] { m_model.route().addRows(); }},
        {"action.holeWork", tr("Work on the lit holes, or on all"), QKeySequence("Ctrl+H"), route, tr("drill drilling holes spot peck tap"),
         [this] { m_model.holes().addWork(); }},
        {"action.mill", tr("Mill what I pick"), QKeySequence("Ctrl+M"), route, tr("pocket contour 2d indexed 3+2 wrapped"), [this] { m_model.milling().add({}); }},
        {"action.helicalGroove",
         tr("New helical groove"),
         {},
         route,
         tr("cam worm thread helix wrapped rotary 4 axis"),
         [this] { m_model.milling().addHelicalGroove(); }},
    };
    for (int c = 0; c < kCycles; ++c)
        all.push_back({QString("action.holeStep%1").arg(c),
                       tr("Add a step in holes: %1").arg(cycleName(static_cast<Cycle>(c))),
                       {},
                       route,
                       tr("drill drilling cycle tap ream bore spot"),
                       [this, c] { m_model.holes().addStep(m_model.selected(), static_cast<Cycle>(c)); }});
    const auto millWords = [](MillShape s) {
        switch (s) {
        case MillShape::Rough:
            return tr("roughing clear adaptive hog stock 3 axis");
        case MillShape::Round:
            return tr("turn rotary wrapped 4 axis four 4-axis lathe");
        case MillShape::Follow:
            return tr("engrave engraving slot groove text");
        case MillShape::Face:
            return tr("facing deck flat");
        case MillShape::Body:
            return tr("finish finishing 3 axis three z-level waterline raster parallel scan drop rest left over indexed 3+2");
        default:
            return tr("pocket contour profile 2d indexed 3+2 4 axis");
        }
    };
    for (int s = 0; s < kMillShapes; ++s) {
        const auto shape = static_cast<MillShape>(s);
        all.push_back(
            {QString("action.mill.%1").arg(millShapeName(shape)), tr("New milling: %1").arg(RoutePanel::millWords(shape)), {}, route, millWords(shape), [this, shape] {
                 m_model.milling().add(shape);
             }});
    }
    for (const RoutePanel::AlongKind& k : RoutePanel::alongKinds())
        all.push_back({"action.along." + k.id,
                       tr("New work: %1").arg(k.words),
                       {},
                       route,
                       k.kind == OperationKind::Swarf   ? tr("swarf side cutting flank ruled wall")
                       : k.kind == OperationKind::Curve ? tr("guide trim curve channel slot")
                                                        : tr("deburr deburring break edges chamfer burr sharp"),
                       [this, k] { m_model.along().add(k.kind, k.edges); }});
    return all;
}

// What is done to the operation in hand.
std::vector<Command> MainWindow::operationCommands() {
    const QString route = tr("Cut, the route");
    const auto onSelected = [this](void (Route::*what)(const QString&)) {
        return [this, what] {
            if (m_model.selected().isEmpty()) return tell(tr("Choose an operation first."));
            (m_model.route().*what)(m_model.chosen());
        };
    };
    return {
        {"action.operation.remove", tr("Remove the operation"), {}, route, tr("delete erase clear operation"), onSelected(&Route::remove)},
        {"action.operation.duplicate", tr("Duplicate the operation"), {}, route, tr("copy clone operation"), onSelected(&Route::duplicate)},
        {"action.operation.switch",
         tr("Switch the operation on or off"),
         {},
         route,
         tr("disable enable suppress off on skip operation"),
         onSelected(&Route::toggleActive)},
        {"action.assemblies", tr("Which assemblies reach it, and how far out"), QKeySequence("Ctrl+Shift+A"), route,
         tr("holder tool library stick-out stickout shortest reach stiff gauge length choose"), [this] { m_model.fits().toggle(); }},
        {"action.standStill", tr("Which directions would do, standing still"), QKeySequence("Ctrl+Shift+D"), route,
         tr("fixed direction indexed 3+2 simultaneous fewest positions stand still stiff axis instead"), [this] { m_model.standStill().toggle(); }},
        {"action.variants", tr("Several ways of doing it, side by side"), QKeySequence("Ctrl+Shift+V"), route,
         tr("variant alternative compare side by side another way time length retracts which is better keep"), [this] { m_model.variants().toggle(); }},
        {"action.stockColours", tr("The stock: coloured by the operation, the tool, the age"), QKeySequence("Ctrl+Shift+K"), tr("Cut and Prove"),
         tr("colour stock by tool age operation who cut it when"), [this] { m_model.stock().showStock(); }},
        {"action.marks", tr("The marks on the surface here"), QKeySequence("Ctrl+Shift+M"), tr("Cut and Prove"),
         tr("roughness ridges scallop cusp height finish Ra Rt relief surface quality seam feel marks"), [this] { m_model.marks().toggle(); }},
        {"action.operation.slices",
         tr("Cut the operation in slices, or as a whole again"),
         {},
         route,
         tr("thin blade vane slice by slice level free end interleave order"),
         onSelected(&Route::toggleSlices)},
        {"action.sliceNext", tr("Next slice of the operation"), {}, route, tr("slice following"), [this] { m_model.stepSlice(1); }},
        {"action.sliceBefore", tr("Slice before of the operation"), {}, route, tr("slice previous"), [this] { m_model.stepSlice(-1); }},
        {"action.operation.up",
         tr("Move the operation up"),
         {},
         route,
         tr("order earlier before sort operation"),
         [this] { m_model.route().move(m_model.chosen(), -1); }},
        {"action.operation.down",
         tr("Move the operation down"),
         {},
         route,
         tr("order later after sort operation"),
         [this] { m_model.route().move(m_model.chosen(), 1); }},
        {"action.operation.rename", tr("Rename the operation"), {}, route, tr("name title call operation"), [this] { m_route->rename(m_model.chosen()); }},
    };
}

std::vector<Command> MainWindow::setUpCommands() {
    const QString setUp = tr("Set up");
    std::vector<Command> all{
        {"action.proposeSetup", tr("Propose stock and seat"), QKeySequence("Ctrl+B"), setUp, tr("stock origin seat automatic"), [this] { m_model.setUp().propose(); }},
        {"action.seats", tr("Where the part should stand on the table"), QKeySequence("Ctrl+Shift+B"), setUp,
         tr("seat place position travel limits shortest time table map clamp where best"), [this] { m_model.seats().toggle(); }},
        {"action.tools", tr("Tools of the job"), QKeySequence("Ctrl+T"), tr("Cut and Set up"), tr("tool library cutter holder stick-out magazine assembly"),
         [this] { m_model.tools().setOpen(!m_model.tools().isOpen()); }},
        {"action.planeOnFace", tr("New work plane on a face"), QKeySequence("Alt+P"), setUp, tr("work plane wcs indexed tilted 3+2"),
         [this] {
             m_model.setBench(Bench::SetUp);
             m_model.picks().setMode(PickMode::PlaneFace);
         }},
        {"action.measure", tr("Measure faces and edges"), QKeySequence("Alt+M"), tr("The view"), tr("distance angle radius thickness draft curvature dimension caliper"),
         [this] { m_model.measures().begin(); }},
        {"action.measureTool", tr("Measure from the tool to what was measured last"), QKeySequence("Alt+Shift+M"), tr("The view"),
         tr("distance cutter shank holder clearance"), [this] { m_model.measures().fromTool(); }},
        {"action.measuresAway", tr("Put measurements away"), {}, tr("The view"), tr("clear remove measure distance"), [this] { m_model.measures().putAway(); }},
        {"action.flank", tr("Can a cutter's side follow a face?"), QKeySequence("Alt+K"), tr("The view"), tr("swarf ruled twist side cutting measure"),
         [this] {
             m_model.setBench(Bench::SetUp);
             m_model.picks().ask({PickKind::Faces, "flank", tr("Click a face: can a cutter's side follow it? · Esc when done")});
         }},
    };
    for (int i = 0; i < kMendKinds; ++i) {
        const auto kind = static_cast<MendKind>(i);
        all.push_back({QString("action.mend.%1").arg(formOf(kind).id),
                       tr("New mend: %1").arg(QString::fromUtf8(formOf(kind).title)),
                       {},
                       tr("Set up, mends"),
                       tr("construct construction build geometry"),
                       [this, kind] {
                           m_model.setBench(Bench::SetUp);
                           m_model.mending().add(kind);
                       }});
    }
    return all;
}

std::vector<Command> MainWindow::benchCommands() {
    const std::pair<QString, QString> benches[] = {
        {tr("Set up"), tr("set-up setup set up origin zero datum wcs work offset stock fixture clamp machine seat")},
        {tr("Cut"), tr("recipe toolpath tool axis tilt lead program operations")},
        {tr("Prove"), tr("simulate simulation verify collision check holder shank machine")},
        {tr("Send"), tr("post nc g-code gcode program output control code")},
    };
    std::vector<Command> all;
    for (int i = 0; i < 4; ++i)
        all.push_back({QString("action.bench%1").arg(i),
                       tr("Go to the %1 bench").arg(benches[i].first),
                       QKeySequence(QString("Ctrl+%1").arg(i + 1)),
                       {},
                       benches[i].second,
                       [this, i] { m_model.setBench(static_cast<Bench>(i)); }});
    const auto press = [this](const char* button) {
        return [this, button] {
            m_model.setBench(Bench::Send);
            if (auto* b = findChild<QPushButton*>(button)) b->click();
        };
    };
    all.push_back(
        {"action.setupSheet", tr("Store the set-up sheet"), {}, tr("Send"), tr("setup sheet paper print pdf html document clamping times"), press("storeSheet")});
    all.push_back({"action.toolList", tr("Store the tool list"), {}, tr("Send"), tr("csv table presetter magazine tools export"), press("storeToolList")});
    for (int i = 0; i < kStages; ++i)
        all.push_back({QString("action.peel%1").arg(i), tr("Show the result up to %1").arg(stageName(static_cast<Stage>(i))), QKeySequence(QString::number(i + 1)),
                       tr("Cut, the recipe"), tr("stage hide show bare pattern"), [this, i] { m_model.setPeel(static_cast<Stage>(i)); }});
    all.push_back({"action.foldRoute", tr("Fold the route, or unfold it"), QKeySequence("Ctrl+["), tr("Cut, the route"), tr("panel narrow hide collapse silhouettes"),
                   [this] { foldRoute(!m_route->folded()); }});
    all.push_back({"action.onlyStage", tr("Only the stage in hand, or all stages"), QKeySequence("Ctrl+]"), tr("Cut, the recipe"), tr("panel narrow hide collapse cards"),
                   [this] { m_recipe->setOnlyStage(!m_recipe->onlyStage()); }});
    all.push_back({"action.prove", tr("Prove the whole job"), QKeySequence("Ctrl+P"), tr("Prove"), tr("collision check verify simulate holder machine safe"), [this] {
                       m_model.setBench(Bench::Prove);
                       m_model.computeNow(true);
                   }});
    return all;
}

std::vector<Command> MainWindow::pickCommands() {
    const QString view = tr("The view"), words = tr("select selection choose");
    const auto picks = [this](PickMode mode) { return [this, mode] { m_model.picks().setMode(mode); }; };
    return {
        {"action.pickFaces", tr("Pick faces"), QKeySequence("Alt+F"), view, words, picks(PickMode::Faces)},
        {"action.pickEdges", tr("Pick edges"), QKeySequence("Alt+E"), view, words, picks(PickMode::Edges)},
        {"action.pickRail1", tr("Pick rail 1"), QKeySequence("Alt+1"), view, words, picks(PickMode::Rail1)},
        {"action.pickRail2", tr("Pick rail 2"), QKeySequence("Alt+2"), view, words, picks(PickMode::Rail2)},
        {"action.pickGuides", tr("Pick edges that rows follow"), QKeySequence(), view, words + tr(" guide curve"), picks(PickMode::Guides)},
        {"action.pickBounds", tr("Pick edges that bound the rows"), QKeySequence(), view, words + tr(" boundary region containment inside outside"),
         picks(PickMode::WhereEdges)},
        {"action.stopPicking", tr("Stop picking"), QKeySequence(Qt::Key_Escape), view, tr("select done"),
         [this] {
             if (m_model.picks().mode() == PickMode::None) m_model.setUp().holdBody(-1);
             m_model.picks().setMode(PickMode::None);
         }},
    };
}

std::vector<Command> MainWindow::viewCommands() {
    const QString view = tr("The view"), work = tr("Cut and Prove"), unrolled = tr("unroll unrolled flat develop wrapped");
    std::vector<Command> all{
        {"action.frame", tr("Frame everything in the view"), QKeySequence("F"), view, tr("zoom fit all"), [this] { m_view->frameAll(); }},
        {"action.frameWork", tr("Frame what is cut or lit"), QKeySequence("Shift+F"), view, tr("zoom selection fit selected"), [this] { m_view->frameWork(); }},
        {"action.toolFaded", tr("See through shank and holder"), QKeySequence("O"), view, tr("holder transparent fade hide tool"),
         [this] { m_view->setToolFaded(!m_view->toolFaded()); }},
        {"action.machine", tr("Look at the tool or the whole machine"), QKeySequence("M"), work, tr("simulate machine kinematics rotary table head"),
         [this] { m_view->setAtMachine(!m_view->atMachine()); }},
        {"action.machineBody", tr("See through, or hide, the part of the machine under the pointer"), QKeySequence("B"), work,
         tr("machine body door cover column head transparent fade hide"),
         [this] {
             const QString now = m_view->cycleMachineBody();
             tell(!now.isEmpty()        ? now
                  : m_view->atMachine() ? tr("Point at a part of the machine first.")
                                        : tr("Look at the whole machine first (M), and point at a part of it."));
         }},
        {"action.machineWhole", tr("Show all of the machine again"), QKeySequence("Shift+B"), work, tr("machine bodies doors covers unhide show hidden"),
         [this] { tell(m_view->showWholeMachine() ? tr("All of the machine is shown again.") : tr("All of the machine is shown.")); }},
        {"action.sky", tr("Map of directions: small, large, off"), QKeySequence("Y"), tr("Cut, the view"),
         tr("sky map lean tilt lead collision avoid safe free direction axis holder reach"),
         [this] {
             if (!m_model.sky().possible()) return tell(tr("The axis of this work is its own: there is nothing to lean."));
             m_model.sky().cycle();
         }},
        {"action.closer", tr("Look closely at what stands after the cuts"), QKeySequence("L"), work, tr("measure compare deviation left over stock what stands inspect"),
         [this] {
             if (m_closer->isVisible()) m_closer->click();
         }},
        {"action.stock", tr("Show the part, the stock as it is cut, or its deviation"), QKeySequence("K"), work,
         tr("simulate simulation material removal verify stock left rest rough cut away deviation gouge compare colour"),
         [this] {
             if (m_model.bench() == Bench::Cut || m_model.bench() == Bench::Prove) m_model.stock().cycle();
         }},
        {"action.stockWorst", tr("Go to where most is gone of the part, or stands over it"), QKeySequence("Shift+K"), work,
         tr("deviation worst gouge deepest compare stock"),
         [this] {
             if (!m_view->frameNextStockPlace()) tell(tr("Show the deviation of the stock first (K)."));
         }},
        {"action.section", tr("Cut the view open, another way"), QKeySequence("C"), view, tr("section clip plane cut"), [this] { cutOpen(); }},
        {"action.sheet", tr("Show the work solid, flat, or both"), QKeySequence("U"), tr("Cut, the view"), unrolled,
         [this] {
             if (m_sheetSwitch->isVisible()) m_model.milling().setSheetShown(static_cast<SheetShown>((static_cast<int>(m_model.milling().sheetShown()) + 1) % 3));
         }},
        {"action.sheetDraw", tr("Draw a curve on the sheet"), {}, tr("Cut, the view"), unrolled, [this] { drawOnSheet(); }},
    };
    const std::pair<const char*, QString> roles[] = {{"part", "P"}, {"fixture", "X"}, {"stock", "S"}, {"reference", "R"}, {"mends", "N"}};
    for (const auto& [role, key] : roles)
        all.push_back({QString("action.show.%1").arg(role), tr("Show, fade or hide: %1").arg(tr(role)), QKeySequence(key), view, tr("hide visible fade transparent"),
                       [this, which = QString(role)] { m_model.cycleShown(which); }});
    const QString sides[] = {tr("above"), tr("below"), tr("the front"), tr("the back"), tr("the left"), tr("the right"), tr("a corner")};
    for (int i = 0; i < View::kFrom; ++i)
        all.push_back({QString("action.from%1").arg(i), tr("Look from %1").arg(sides[i]), QKeySequence(QString("Alt+Shift+%1").arg(i + 1)), view,
                       tr("standard views top bottom front left right isometric side plan"), [this, i] { m_view->lookFrom(static_cast<View::From>(i)); }});
    return all;
}

std::vector<Command> MainWindow::tapeCommands() {
    const QString tape = tr("The tape"), hazard = tr("collision gouge near holder"), rows = tr("step pass forward backward");
    return {
        {"action.play", tr("Play or pause"), QKeySequence("Ctrl+Space"), tape, tr("simulate simulation play run animate"), [this] { m_tape->play(!m_tape->playing()); }},
        {"action.playBack", tr("Play backwards"), QKeySequence("Ctrl+Shift+Space"), tape, tr("simulate reverse back rewind"),
         [this] { m_tape->play(!m_tape->playing(), true); }},
        {"action.nextHazard", tr("Next hazard"), QKeySequence("H"), tape, hazard, [this] { m_tape->stepHazard(1); }},
        {"action.hazardBefore", tr("Hazard before"), QKeySequence("Shift+H"), tape, hazard, [this] { m_tape->stepHazard(-1); }},
        {"action.nextRow", tr("Next row"), QKeySequence("PgDown"), tape, rows, [this] { m_tape->stepRow(1); }},
        {"action.rowBefore", tr("Row before"), QKeySequence("PgUp"), tape, rows, [this] { m_tape->stepRow(-1); }},
        {"action.keepRow",
         tr("Keep this row as a curve"),
         {},
         tape,
         tr("extract convert save path curve last first row rail guide"),
         [this] { m_model.mending().keepRow(); }},
    };
}

std::vector<Command> MainWindow::helpCommands() {
    const QString any = tr("Any bench");
    return {
        {"action.help", tr("Open the guide"), QKeySequence::HelpContents, any, tr("help manual guide documentation how"), [this] { openGuide(); }},
        {"action.tour", tr("Take the tour"), {}, any, tr("introduction tutorial start getting started first steps"), [this] { takeTour(); }},
        {"action.find", tr("Find an action"), QKeySequence("Ctrl+K"), any, tr("search"), [this] { find(); }},
    };
}

} // namespace gyre
