// What the main window can do: actions with their shortcuts, the finder, the guide.
#include "Ask.h"
#include "Finder.h"
#include "Guide.h"
#include "MainWindow.h"
#include "Theme.h"
#include "Tour.h"
#include "panels/RecipePanel.h"
#include "panels/RoutePanel.h"
#include "panels/TapePanel.h"
#include "panels/Word.h"
#include "view/SheetView.h"
#include "view/View.h"
#include <QAction>
#include <QFileInfo>
#include <QPushButton>

namespace gyre {

QAction* MainWindow::action(const QString& text, const QKeySequence& keys, const QString& name, const std::function<void()>& run) {
    auto* a = new QAction(text, this);
    a->setShortcut(keys);
    a->setObjectName(name);
    connect(a, &QAction::triggered, this, run);
    addAction(a);
    return a;
}

void MainWindow::makeActions() {
    action(tr("Open a job or a part"), QKeySequence::Open, "action.open", [this] {
        const QString f = askToOpen(this, tr("Open a job or a part"), QFileInfo(m_model.file()).absolutePath(),
                                    tr("Jobs and parts (*.gyre.json *.step *.stp *.iges *.igs *.brep *.stl *.obj *.ply);;All files (*)"));
        if (!f.isEmpty()) openFile(f);
    });
    action(tr("Save the job"), QKeySequence::Save, "action.save", [this] { save(); });
    action(tr("Save the job as another file"), QKeySequence("Ctrl+Shift+S"), "action.saveAs", [this] { saveAs(); });
    m_undo = action(tr("Undo"), QKeySequence::Undo, "action.undo", [this] { m_model.undo(); });
    m_redo = action(tr("Redo"), QKeySequence("Ctrl+Shift+Z"), "action.redo", [this] { m_model.redo(); });
    action(tr("New surface operation"), QKeySequence::New, "action.newOperation", [this] { m_model.addOperation(); });
    action(tr("Work on the lit holes, or on all"), QKeySequence("Ctrl+H"), "action.holeWork", [this] { m_model.addHoleWork(); });
    for (int c = 0; c < kCycles; ++c)
        action(tr("Add a step in holes: %1").arg(cycleName(static_cast<Cycle>(c))), {}, QString("action.holeStep%1").arg(c),
               [this, c] { m_model.addHoleStep(m_model.selected(), static_cast<Cycle>(c)); });
    action(tr("Mill what I pick"), QKeySequence("Ctrl+M"), "action.mill", [this] { m_model.addMill({}); });
    for (int s = 0; s < kMillShapes; ++s)
        action(tr("New milling: %1").arg(RoutePanel::millWords(static_cast<MillShape>(s))), {}, QString("action.mill.%1").arg(millShapeName(static_cast<MillShape>(s))),
               [this, s] { m_model.addMill(static_cast<MillShape>(s)); });
    for (const RoutePanel::FollowKind& k : RoutePanel::followKinds())
        action(tr("New work: %1").arg(k.words), {}, "action.along." + k.id, [this, k] { m_model.addFollow(k.kind, k.edges); });
    action(tr("New helical groove"), {}, "action.helicalGroove", [this] { m_model.addHelicalGroove(); });
    action(tr("Show the work solid, flat, or both"), QKeySequence("U"), "action.sheet", [this] {
        if (m_sheetSwitch->isVisible()) m_model.setSheetShown(static_cast<SheetShown>((static_cast<int>(m_model.sheetShown()) + 1) % 3));
    });
    action(tr("Draw a curve on the sheet"), {}, "action.sheetDraw", [this] {
        if (!m_sheetSwitch->isVisible()) return tell(tr("Choose a milling operation first."));
        if (m_model.sheetShown() == SheetShown::Wrapped) m_model.setSheetShown(SheetShown::Both);
        m_sheet->setFocus();
        m_sheet->setDrawing(true);
    });
    const char* benches[] = {"Set up", "Cut", "Prove", "Send"};
    for (int i = 0; i < 4; ++i)
        action(tr("Go to the %1 bench").arg(tr(benches[i])), QKeySequence(QString("Ctrl+%1").arg(i + 1)), QString("action.bench%1").arg(i),
               [this, i] { m_model.setBench(static_cast<Bench>(i)); });
    for (int i = 0; i < kStages; ++i)
        action(tr("Show the result up to %1").arg(stageName(static_cast<Stage>(i))), QKeySequence(QString::number(i + 1)), QString("action.peel%1").arg(i),
               [this, i] { m_model.setPeel(static_cast<Stage>(i)); });
    action(tr("Pick faces"), QKeySequence("Alt+F"), "action.pickFaces", [this] { m_model.setPickMode(PickMode::Faces); });
    action(tr("Pick edges"), QKeySequence("Alt+E"), "action.pickEdges", [this] { m_model.setPickMode(PickMode::Edges); });
    action(tr("Pick rail 1"), QKeySequence("Alt+1"), "action.pickRail1", [this] { m_model.setPickMode(PickMode::Rail1); });
    action(tr("Pick rail 2"), QKeySequence("Alt+2"), "action.pickRail2", [this] { m_model.setPickMode(PickMode::Rail2); });
    action(tr("Stop picking"), QKeySequence(Qt::Key_Escape), "action.stopPicking", [this] {
        if (m_model.pickMode() == PickMode::None) m_model.holdBody(-1);
        m_model.setPickMode(PickMode::None);
    });
    action(tr("Look closely at what stands after the cuts"), QKeySequence("L"), "action.closer", [this] {
        if (m_closer->isVisible()) m_closer->click();
    });
    action(tr("Look at the tool or the whole machine"), QKeySequence("M"), "action.machine", [this] { m_view->setAtMachine(!m_view->atMachine()); });
    const std::pair<const char*, const char*> roles[] = {{"part", "P"}, {"fixture", "X"}, {"stock", "S"}, {"reference", "R"}, {"mends", "N"}};
    for (const auto& [role, key] : roles)
        action(tr("Show, fade or hide: %1").arg(tr(role)), QKeySequence(key), QString("action.show.%1").arg(role),
               [this, role = QString(role)] { m_model.cycleShown(role); });
    action(tr("Propose stock and seat"), QKeySequence("Ctrl+B"), "action.proposeSetup", [this] { m_model.proposeSetup(); });
    action(tr("Tools of the job"), QKeySequence("Ctrl+T"), "action.tools", [this] { m_model.setAtTools(!m_model.atTools()); });
    for (int i = 0; i < kMendKinds; ++i)
        action(tr("New mend: %1").arg(QString::fromUtf8(formOf(static_cast<MendKind>(i)).title)), {}, QString("action.mend.%1").arg(formOf(static_cast<MendKind>(i)).id),
               [this, i] {
                   m_model.setBench(Bench::SetUp);
                   m_model.addMend(static_cast<MendKind>(i));
               });
    action(tr("Can a cutter's side follow a face?"), QKeySequence("Alt+K"), "action.flank", [this] {
        m_model.setBench(Bench::SetUp);
        m_model.pickFeature({PickKind::Faces, "flank", tr("Click a face: can a cutter's side follow it? · Esc when done")});
    });
    action(tr("Cut the view open, another way"), QKeySequence("C"), "action.section", [this] {
        Section s = m_model.section();
        s.axis = s.axis == 2 ? -1 : s.axis + 1;
        if (const auto place = m_model.place(); place && place->part && s.axis >= 0) s.at = std::round(place->part->mesh().bounds().centre()[s.axis]);
        m_model.setSection(s);
    });
    action(tr("New work plane on a face"), QKeySequence("Alt+P"), "action.planeOnFace", [this] {
        m_model.setBench(Bench::SetUp);
        m_model.setPickMode(PickMode::PlaneFace);
    });
    action(tr("Frame everything in the view"), QKeySequence("F"), "action.frame", [this] { m_view->frameAll(); });
    action(tr("Frame what is cut or lit"), QKeySequence("Shift+F"), "action.frameWork", [this] { m_view->frameWork(); });
    const char* sides[] = {"above", "below", "the front", "the back", "the left", "the right", "a corner"};
    for (int i = 0; i < View::kFrom; ++i)
        action(tr("Look from %1").arg(tr(sides[i])), QKeySequence(QString("Alt+Shift+%1").arg(i + 1)), QString("action.from%1").arg(i),
               [this, i] { m_view->lookFrom(static_cast<View::From>(i)); });
    action(tr("See through shank and holder"), QKeySequence("O"), "action.toolFaded", [this] { m_view->setToolFaded(!m_view->toolFaded()); });
    action(tr("Play or pause"), QKeySequence("Ctrl+Space"), "action.play", [this] { m_tape->play(!m_tape->playing()); });
    action(tr("Next hazard"), QKeySequence("H"), "action.nextHazard", [this] { m_tape->stepHazard(1); });
    action(tr("Hazard before"), QKeySequence("Shift+H"), "action.hazardBefore", [this] { m_tape->stepHazard(-1); });
    action(tr("Next row"), QKeySequence("PgDown"), "action.nextRow", [this] { m_tape->stepRow(1); });
    action(tr("Row before"), QKeySequence("PgUp"), "action.rowBefore", [this] { m_tape->stepRow(-1); });
    action(tr("Prove the whole job"), QKeySequence("Ctrl+P"), "action.prove", [this] {
        m_model.setBench(Bench::Prove);
        m_model.computeNow(true);
    });
    action(tr("Cancel what is computed"), QKeySequence("Ctrl+."), "action.cancel", [this] { m_model.cancel(); });
    action(tr("Day or night colours"), QKeySequence("Ctrl+D"), "action.theme", [this] {
        applyTheme(!theme().dark);
        emit m_model.placeChanged();
        update();
    });
    action(tr("Fold the route, or unfold it"), QKeySequence("Ctrl+["), "action.foldRoute", [this] { foldRoute(!m_route->folded()); });
    action(tr("Only the stage in hand, or all stages"), QKeySequence("Ctrl+]"), "action.onlyStage", [this] { m_recipe->setOnlyStage(!m_recipe->onlyStage()); });
    makeOperationActions();
    action(tr("Millimetres or inches"), {}, "action.units", [this] { m_units->click(); });
    action(tr("Open the guide"), QKeySequence::HelpContents, "action.help", [this] { openGuide(); });
    action(tr("Take the tour"), {}, "action.tour", [this] { takeTour(); });
    action(tr("Find an action"), QKeySequence("Ctrl+K"), "action.find", [this] { find(); });
}

// What is done to the operation in hand.
void MainWindow::makeOperationActions() {
    const auto onSelected = [this](const QString& text, const char* name, void (AppModel::*what)(const QString&)) {
        action(text, {}, QString("action.operation.") + name, [this, what] {
            if (m_model.selected().isEmpty()) return tell(tr("Choose an operation first."));
            (m_model.*what)(m_model.selected());
        });
    };
    onSelected(tr("Remove the operation"), "remove", &AppModel::removeOperation);
    onSelected(tr("Duplicate the operation"), "duplicate", &AppModel::duplicateOperation);
    onSelected(tr("Switch the operation on or off"), "switch", &AppModel::toggleActive);
    action(tr("Move the operation up"), {}, "action.operation.up", [this] { m_model.moveOperation(m_model.selected(), -1); });
    action(tr("Move the operation down"), {}, "action.operation.down", [this] { m_model.moveOperation(m_model.selected(), 1); });
    action(tr("Rename the operation"), {}, "action.operation.rename", [this] { m_route->rename(m_model.selected()); });
}

void MainWindow::takeTour() {
    m_model.setBench(Bench::Cut);
    if (!findChild<Tour*>("tour")) new Tour(this);
}

// The page about what is in hand.
void MainWindow::openGuide() {
    QString page = "set-up.md";
    if (const Recipe* r = m_model.recipe(); r && m_model.bench() == Bench::Cut)
        page = r->kind == OperationKind::Mill                                          ? "milling.md"
               : r->kind == OperationKind::Holes || r->kind == OperationKind::HoleStep ? "holes.md"
               : r->kind == OperationKind::Surface                                     ? "rows.md"
                                                                                       : "following.md";
    if (auto* open = findChild<Guide*>("guide")) {
        open->turnTo(page);
        open->raise();
        return;
    }
    (new Guide(page, this))->open();
}

void MainWindow::find() {
    QList<QAction*> all = actions();
    // Files opened lately are actions, too.
    const QStringList recent = m_model.recentFiles();
    qDeleteAll(m_recent);
    m_recent.clear();
    for (const QString& file : recent) {
        if (file == m_model.file()) continue;
        auto* a = new QAction(tr("Open again: %1").arg(QFileInfo(file).fileName()), this);
        a->setObjectName("action.recent." + QFileInfo(file).fileName());
        a->setToolTip(file);
        connect(a, &QAction::triggered, this, [this, file] { openFile(file); });
        m_recent << a;
        all << a;
    }
    std::vector<Finder::Entry> entries;
    for (QAction* a : all)
        if (a->isEnabled()) entries.push_back(Finder::entryOf(a));
    // The words of the recipe in hand: found by their name, and put under the keys.
    for (Word* w : m_recipe->findChildren<Word*>())
        if (m_model.recipe() && !w->isHidden() && !w->accessibleName().isEmpty())
            entries.push_back({w->accessibleName() + ": " + w->text(), {}, tr("Cut, the recipe"), w->key().replace('.', ' '), [this, w] {
                                   m_model.setBench(Bench::Cut);
                                   m_recipe->revealWord(w);
                               }});
    auto* f = new Finder(std::move(entries), this);
    f->move(mapToGlobal(QPoint((width() - f->width()) / 2, 52)));
    f->show();
}

} // namespace gyre
