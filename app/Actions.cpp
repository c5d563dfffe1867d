// The commands made into actions, the finder, the guide.
#include "Ask.h"
#include "Commands.h"
#include "Finder.h"
#include "Guide.h"
#include "MainWindow.h"
#include "Tour.h"
#include "milling/Sheet.h"
#include "model/Milling.h"
#include "panels/RecipePanel.h"
#include "panels/RoutePanel.h"
#include "panels/Word.h"
#include "view/SheetView.h"
#include "view/View.h"
#include <QAction>
#include <QFileInfo>
#include <cmath>

namespace gyre {
namespace {

// What the finder knows of an action besides its name.
constexpr char kWhere[] = "where", kOtherWords[] = "otherWords";

} // namespace

void MainWindow::makeActions() {
    for (const Command& c : commands()) {
        auto* a = new QAction(c.text, this);
        a->setShortcut(c.keys);
        a->setObjectName(c.name);
        a->setProperty(kWhere, c.where);
        a->setProperty(kOtherWords, c.words);
        connect(a, &QAction::triggered, this, c.run);
        addAction(a);
    }
    m_undo = findChild<QAction*>("action.undo");
    m_redo = findChild<QAction*>("action.redo");
}

void MainWindow::askAndOpen() {
    const QString f = askToOpen(this, tr("Open a job or a part"), QFileInfo(m_model.file()).absolutePath(),
                                tr("Jobs and parts (*.gyre.json *.step *.stp *.iges *.igs *.brep *.stl *.obj *.ply);;All files (*)"));
    if (!f.isEmpty()) openFile(f);
}

void MainWindow::cutOpen() {
    Section s = m_model.section();
    s.axis = s.axis == 2 ? -1 : s.axis + 1;
    if (const auto place = m_model.place(); place && place->part && s.axis >= 0) s.at = std::round(place->part->tree().bounds().centre()[s.axis]);
    m_model.setSection(s);
}

void MainWindow::drawOnSheet() {
    if (!m_sheetSwitch->isVisible()) return tell(tr("Choose a milling operation first."));
    if (m_model.milling().sheetShown() == SheetShown::Wrapped) m_model.milling().setSheetShown(SheetShown::Both);
    m_sheet->setFocus();
    m_sheet->setDrawing(true);
}

void MainWindow::takeTour() {
    m_model.setBench(Bench::Cut);
    if (!findChild<Tour*>("tour")) new Tour(this);
}

// The page about what is in hand.
void MainWindow::openGuide() {
    QString page = m_model.bench() == Bench::Send ? "sending.md" : m_model.bench() == Bench::Prove ? "proving.md" : "set-up.md";
    if (const Recipe* r = m_model.recipe(); r && m_model.bench() == Bench::Cut)
        page = r->kind == OperationKind::Mill                                          ? "milling.md"
               : r->kind == OperationKind::Holes || r->kind == OperationKind::HoleStep ? "holes.md"
               : r->kind == OperationKind::Surface                                     ? "rows.md"
               : r->kind == OperationKind::Slices                                      ? "slices.md"
                                                                                       : "along.md";
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
        if (a->isEnabled())
            entries.push_back({a->text(), a->shortcut().toString(QKeySequence::NativeText), a->property(kWhere).toString(), a->property(kOtherWords).toString(),
                               [a] { a->trigger(); }});
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
