#include "MainWindow.h"
#include "Ask.h"
#include "Sign.h"
#include "Theme.h"
#include "milling/Sheet.h"
#include "model/Closer.h"
#include "model/Dialects.h"
#include "model/Milling.h"
#include "model/StockShow.h"
#include "model/ToolShelf.h"
#include "panels/DialectPanel.h"
#include "panels/FeaturesPanel.h"
#include "panels/FindingsPanel.h"
#include "panels/FitsPanel.h"
#include "panels/MarksPanel.h"
#include "panels/MendsPanel.h"
#include "panels/RecipePanel.h"
#include "panels/RevisionPanel.h"
#include "panels/RoutePanel.h"
#include "panels/SeatsPanel.h"
#include "panels/SendPanel.h"
#include "panels/SetupPanel.h"
#include "panels/SkyPanel.h"
#include "panels/StandStillPanel.h"
#include "panels/TapePanel.h"
#include "panels/ToolDrawing.h"
#include "panels/ToolsPanel.h"
#include "panels/VariantsPanel.h"
#include "view/SheetView.h"
#include "view/View.h"
#include <QAction>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMimeData>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <QStackedWidget>
#include <QStandardPaths>

namespace gyre {

namespace {

constexpr int kRight = 490; // what the buttons beyond the bench switch may take

/// As wide as it is told, and narrower while the window is made smaller.
class TopLeft : public QWidget {
public:
    using QWidget::QWidget;
    int wanted = 280;
    [[nodiscard]] QSize sizeHint() const override { return {wanted, 44}; }
};

/// A column that scrolls up and down only.
QScrollArea* scrolled(const char* name, QWidget* inside) {
    auto* area = new QScrollArea;
    area->setObjectName(name);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setWidget(inside);
    return area;
}

} // namespace

MainWindow::MainWindow(AppModel& model, QWidget* parent) : QMainWindow(parent), m_model(model) {
    setWindowIcon(Sign::asIcon());
    setObjectName("mainWindow");
    setWindowTitle("Humble Gyre");
    setAcceptDrops(true);
    auto* centre = new QWidget(this);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    setCentralWidget(centre);
    makeActions();
    column->addWidget(makeTopBar(centre));
    auto* upper = new QWidget(centre);
    auto* middle = new QHBoxLayout(upper);
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    middle->addLayout(makeLeft(centre));
    makeViews(centre);
    middle->addWidget(m_centre, 1);
    makeRight(centre);
    middle->addWidget(m_right);
    m_tape = new TapePanel(m_model, m_model.route(), m_model.along(), m_model.stock(), centre);
    m_tape->setMinimumHeight(160);
    // The tape can be dragged taller by its upper edge.
    auto* rows = new QSplitter(Qt::Vertical, centre);
    rows->setObjectName("viewAndTape");
    rows->setHandleWidth(4);
    rows->addWidget(upper);
    rows->addWidget(m_tape);
    rows->setStretchFactor(0, 1);
    rows->setStretchFactor(1, 0);
    rows->setCollapsible(0, false);
    rows->setCollapsible(1, false);
    rows->setSizes({10000, 160});
    column->addWidget(rows, 1);
    makeMessages();
    followModel();
    refreshTop();
    showBench();
    resize(1280, 800);
}

QWidget* MainWindow::makeTopBar(QWidget* centre) {
    auto* top = new QWidget(centre);
    top->setObjectName("topBar");
    top->setAttribute(Qt::WA_StyledBackground);
    top->setFixedHeight(44);
    auto* bar = new QHBoxLayout(top);
    bar->setContentsMargins(12, 0, 14, 0);
    bar->setSpacing(8);
    // Its width depends on the window's alone: the benches stay where they are, whatever the job is called.
    m_topLeft = new TopLeft(top);
    m_topLeft->setMinimumWidth(280);
    auto* left = new QHBoxLayout(m_topLeft);
    left->setContentsMargins(0, 0, 0, 0);
    left->setSpacing(8);
    left->addWidget(new Sign(top));
    m_title = new QLabel(top);
    m_title->setProperty("role", "title");
    m_title->setObjectName("jobTitle");
    m_edited = new QLabel(top);
    m_edited->setProperty("role", "soft");
    m_edited->setObjectName("jobEdited");
    for (const auto& [words, name] : {std::pair{tr("Open"), "open"}, std::pair{tr("Save"), "save"}, std::pair{QString("↶"), "undo"}, std::pair{QString("↷"), "redo"}})
        left->addWidget(buttonFor(words, name, top));
    left->addSpacing(6);
    left->addWidget(m_title);
    left->addWidget(m_edited);
    left->addStretch(1);
    bar->addWidget(m_topLeft);
    bar->addLayout(makeBenches(top));
    bar->addStretch(1);
    makeTopButtons(top, bar);
    return top;
}

// A flat button for an action that has a short name in the top bar.
QPushButton* MainWindow::buttonFor(const QString& words, const char* name, QWidget* top) {
    auto* b = new QPushButton(words, top);
    b->setProperty("role", "flat");
    b->setObjectName(QString("top.%1").arg(name));
    auto* a = findChild<QAction*>(QString("action.%1").arg(name));
    const auto follow = [a, b] {
        b->setEnabled(a->isEnabled());
        b->setAccessibleName(a->text());
        b->setToolTip(a->shortcut().isEmpty() ? a->text() : QString("%1 (%2)").arg(a->text(), a->shortcut().toString(QKeySequence::NativeText)));
    };
    follow();
    connect(a, &QAction::changed, b, follow);
    connect(b, &QPushButton::clicked, a, &QAction::trigger);
    return b;
}

QLayout* MainWindow::makeBenches(QWidget* top) {
    m_benches = new QButtonGroup(this);
    auto* benches = new QHBoxLayout;
    benches->setSpacing(0);
    const char* names[] = {"Set up", "Cut", "Prove", "Send"};
    for (int i = 0; i < 4; ++i) {
        auto* b = new QPushButton(tr(names[i]), top);
        b->setCheckable(true);
        b->setProperty("role", "bench");
        b->setProperty("place", i == 0 ? "first" : i == 3 ? "last" : "middle");
        b->setObjectName(QString("bench.%1").arg(names[i]));
        b->setAccessibleName(tr("%1 bench").arg(tr(names[i])));
        b->setToolTip(tr("%1 bench (Ctrl+%2)").arg(tr(names[i])).arg(i + 1));
        // As wide as it is when it is chosen: its letters are bolder then.
        QFont chosen = b->font();
        chosen.setPixelSize(13);
        chosen.setWeight(QFont::DemiBold);
        b->setFixedWidth(QFontMetrics(chosen).horizontalAdvance(b->text()) + 40);
        m_benches->addButton(b, i);
        benches->addWidget(b);
    }
    connect(m_benches, &QButtonGroup::idClicked, this, [this](int id) { m_model.setBench(static_cast<Bench>(id)); });
    return benches;
}

void MainWindow::makeTopButtons(QWidget* top, QHBoxLayout* bar) {
    m_closer = new QPushButton(top);
    m_closer->setObjectName("closerButton");
    m_closer->setToolTip(tr("What stands around this place after the cuts, finely: against the part as modelled, then with the stock that is left (L)"));
    connect(m_closer, &QPushButton::clicked, this, [this] {
        m_view->setAtMachine(false);
        m_model.closer().cycle();
    });
    connect(&m_model.closer(), &Closer::changed, this, &MainWindow::refreshTop);
    m_machine = new QPushButton(top);
    m_machine->setObjectName("machineButton");
    m_machine->setMinimumWidth(60); // its name takes what the others leave
    m_machine->setToolTip(tr("Look at the tool or at the whole machine (M)"));
    connect(m_machine, &QPushButton::clicked, this, [this] { m_view->setAtMachine(!m_view->atMachine()); });
    m_units = new QPushButton(top);
    m_units->setObjectName("unitsButton");
    m_units->setToolTip(tr("Lengths in millimetres or inches"));
    connect(m_units, &QPushButton::clicked, this,
            [this] { m_model.change(tr("change units"), [](Job& j) { j.units = j.units == LengthUnit::Inch ? LengthUnit::Millimetre : LengthUnit::Inch; }); });
    auto* finder = new QPushButton(tr("Find  Ctrl K"), top);
    finder->setObjectName("finderButton");
    finder->setAccessibleName(tr("Find an action or a word"));
    connect(finder, &QPushButton::clicked, this, &MainWindow::find);
    bar->addWidget(m_closer);
    bar->addWidget(m_machine);
    bar->addWidget(m_units);
    bar->addWidget(finder);
    bar->addWidget(buttonFor(tr("Help"), "help", top));
}

QLayout* MainWindow::makeLeft(QWidget* centre) {
    m_left = new QStackedWidget(centre);
    m_left->setObjectName("leftPanel");
    m_left->setFixedWidth(236);
    m_left->addWidget(new BodiesPanel(m_model, m_model.setUp(), m_model.mending()));
    m_route = new RoutePanel(m_model, m_model.route(), m_model.milling(), m_model.holes(), m_model.along());
    connect(m_route, &RoutePanel::variantsAsked, this, [this] {
        m_model.setBench(Bench::Cut);
        m_model.variants().open(true);
    });
    m_left->addWidget(m_route);
    connect(m_route, &RoutePanel::foldAsked, this, [this] { foldRoute(!m_route->folded()); });
    auto* findings = new FindingsPanel(m_model, m_model.stock(), m_model.route());
    findings->setSeen([this] { return m_view->grab().toImage(); });
    m_left->addWidget(findings);
    m_left->addWidget(new ToolList(m_model, m_model.tools()));
    // Set up has two sides: what is cut, and what it is cut with.
    auto* leftColumn = new QVBoxLayout;
    leftColumn->setSpacing(0);
    m_setUpSwitch = new QWidget(centre);
    m_setUpSwitch->setObjectName("setUpSwitch");
    m_setUpSwitch->setAttribute(Qt::WA_StyledBackground);
    m_setUpSwitch->setFixedWidth(236);
    auto* sides = new QHBoxLayout(m_setUpSwitch);
    sides->setContentsMargins(14, 10, 12, 0);
    sides->setSpacing(0);
    m_setUpSide = new QButtonGroup(this);
    m_setUpSide->setExclusive(true);
    for (int i = 0; i < 2; ++i) {
        auto* b = new QPushButton(i == 0 ? tr("Work") : tr("Tools"), m_setUpSwitch);
        b->setObjectName(i == 0 ? "sideWork" : "sideTools");
        b->setCheckable(true);
        b->setProperty("role", "bench");
        b->setProperty("place", i == 0 ? "first" : "last");
        m_setUpSide->addButton(b, i);
        connect(b, &QPushButton::clicked, this, [this, i] { m_model.tools().setOpen(i == 1); });
        sides->addWidget(b);
    }
    sides->addStretch();
    leftColumn->addWidget(m_setUpSwitch);
    leftColumn->addWidget(m_left, 1);
    return leftColumn;
}

void MainWindow::makeViews(QWidget* centre) {
    m_centre = new QStackedWidget(centre);
    auto* views = new QSplitter(Qt::Vertical, centre);
    views->setObjectName("views");
    views->setHandleWidth(5);
    m_view = new View(m_model, views);
    m_sheet = new SheetView(m_model, m_model.picks(), m_model.milling(), views);
    views->addWidget(m_view);
    views->addWidget(m_sheet);
    views->setStretchFactor(0, 3);
    views->setStretchFactor(1, 2);
    m_centre->addWidget(views);
    makeSheetSwitch();
    makeStockSwitch();
    new SkyPanel(m_model, m_model.sky(), m_view);
    new FitsPanel(m_model, m_model.fits(), m_view);
    new StandStillPanel(m_model, m_model.standStill(), m_view);
    new VariantsPanel(m_model, m_model.variants(), m_view);
    new MarksPanel(m_model, m_model.marks(), m_view);
    new SeatsPanel(m_model, m_model.seats(), m_view);
    m_centre->addWidget(new ToolDrawing(m_model, m_model.tools(), centre));
    m_centre->addWidget(new DialectPanel(m_model, m_model.dialects(), centre));
    connect(&m_model.dialects(), &Dialects::changed, this, &MainWindow::showBench);
}

void MainWindow::makeRight(QWidget* centre) {
    m_right = new QStackedWidget(centre);
    m_right->setObjectName("rightPanel");
    m_right->setFixedWidth(344);
    auto* cards = new QWidget;
    auto* cardColumn = new QVBoxLayout(cards);
    cardColumn->setContentsMargins(0, 0, 0, 0);
    cardColumn->setSpacing(0);
    cardColumn->addWidget(new RevisionPanel(m_model.revision()));
    cardColumn->addWidget(new PlacingPanel(m_model, m_model.setUp(), m_model.picks()));
    cardColumn->addWidget(new FeaturesPanel(m_model, m_model.holes(), m_model.planes(), m_model.picks()));
    cardColumn->addWidget(new MendsPanel(m_model, m_model.mending(), m_model.picks(), m_model.flank()));
    cardColumn->addStretch(1);
    m_right->addWidget(scrolled("setUpCards", cards));
    m_recipe = new RecipePanel(m_model, {m_model.route(), m_model.picks(), m_model.holes(), m_model.mending(), m_model.milling(), m_model.along(), m_model.rowsAhead(),
                                         m_model.fits(), m_model.standStill()});
    m_right->addWidget(m_recipe);
    m_send = new SendPanel(m_model, m_model.programs(), m_model.dialects(), m_model.shopProgram());
    m_send->setSeen([this] { return m_view->grab().toImage(); });
    m_right->addWidget(m_send);
    m_right->addWidget(scrolled("toolCards", new ToolCards(m_model, m_model.tools())));
    connect(m_recipe, &RecipePanel::wordHovered, m_view, &View::lightWord);
    connect(m_recipe, &RecipePanel::wordEntered, m_view, [this] { m_view->setFocus(); });
}

void MainWindow::makeMessages() {
    // Messages and progress float over the view's upper edge.
    m_message = new QLabel(m_centre);
    m_message->setObjectName("message");
    m_message->setProperty("role", "soft");
    m_message->setAutoFillBackground(true);
    m_message->setMargin(8);
    m_message->setWordWrap(true);
    m_message->hide();
    m_messageTimer.setSingleShot(true);
    connect(&m_messageTimer, &QTimer::timeout, m_message, &QWidget::hide);
    m_busy = new QWidget(m_centre);
    auto* busy = new QHBoxLayout(m_busy);
    busy->setContentsMargins(8, 4, 8, 4);
    m_doing = new QLabel(m_busy);
    m_doing->setProperty("role", "soft");
    m_doing->setObjectName("doing");
    m_progress = new QProgressBar(m_busy);
    m_progress->setTextVisible(false);
    m_progress->setRange(0, 1000);
    m_progress->setFixedWidth(120);
    auto* stop = new QPushButton(tr("Cancel"), m_busy);
    stop->setObjectName("cancel");
    stop->setProperty("role", "flat");
    connect(stop, &QPushButton::clicked, &m_model, &AppModel::cancel);
    busy->addWidget(m_progress);
    busy->addWidget(m_doing);
    busy->addWidget(stop);
    m_busy->hide();
    m_busyTimer.setSingleShot(true);
    m_busyTimer.setInterval(200); // what is done at once needs no progress
    connect(&m_busyTimer, &QTimer::timeout, this, [this] {
        m_busy->adjustSize();
        m_busy->move((m_centre->width() - m_busy->width()) / 2, 10);
        m_busy->show();
        m_busy->raise();
    });
}

void MainWindow::followModel() {
    connect(&m_model, &AppModel::progressChanged, this, [this](double f, const QString& what) {
        m_progress->setValue(static_cast<int>(1000 * f));
        m_doing->setText(what);
        m_busy->adjustSize();
    });
    connect(&m_model, &AppModel::computingChanged, this, [this] {
        if (m_model.computing()) {
            if (!m_busyTimer.isActive() && !m_busy->isVisible()) m_busyTimer.start();
        } else {
            m_busyTimer.stop();
            m_busy->hide();
        }
    });
    connect(&m_model, &AppModel::toldUser, this, &MainWindow::tell);
    connect(m_view, &View::cannotDraw, this, &MainWindow::tell);
    connect(&m_model, &AppModel::jobChanged, this, &MainWindow::refreshTop);
    connect(&m_model, &AppModel::placeChanged, this, &MainWindow::refreshTop);
    connect(m_view, &View::atMachineChanged, this, &MainWindow::refreshTop);
    connect(&m_model, &AppModel::benchChanged, this, &MainWindow::showBench);
    for (auto signal : {&AppModel::selectionChanged, &AppModel::jobChanged, &AppModel::placeChanged}) connect(&m_model, signal, this, &MainWindow::showSheet);
    connect(&m_model.milling(), &Milling::sheetChanged, this, &MainWindow::showSheet);
}

void MainWindow::refreshTop() {
    const QString name = m_model.hasJob() ? QString::fromStdString(m_model.job().name) : tr("No job");
    m_edited->setText(m_model.edited() ? tr("edited") : QString());
    int taken = m_edited->text().isEmpty() ? 0 : m_edited->sizeHint().width() + 8;
    for (const QWidget* w : m_topLeft->findChildren<QWidget*>(Qt::FindDirectChildrenOnly))
        if (w != m_title && w != m_edited) taken += w->sizeHint().isValid() ? w->sizeHint().width() + 8 : w->width() + 8;
    m_title->setText(m_title->fontMetrics().elidedText(name, Qt::ElideRight, std::max(40, m_topLeft->sizeHint().width() - taken - 24)));
    m_title->setToolTip(name);
    const auto place = m_model.place();
    m_closer->setText(!m_model.closer().from() ? tr("Look closely") : *m_model.closer().from() == LookFrom::Part ? tr("Closely: the part") : tr("Closely: the stock"));
    m_closer->setVisible(m_model.bench() == Bench::Cut || m_model.bench() == Bench::Prove);
    m_units->setText(m_model.inches() ? "in" : "mm");
    // The machine's name takes what the others leave.
    const QString machine = place ? (m_view->atMachine() ? tr("%1 · machine") : tr("%1 · tool")).arg(QString::fromStdString(place->machine->name)) : tr("no machine");
    int room = width() - m_topLeft->sizeHint().width() - 26 - 7 * 8 - 24; // margins, gaps, its own frame
    for (const QAbstractButton* b : m_benches->buttons()) room -= b->minimumWidth();
    for (const char* name : {"closerButton", "unitsButton", "finderButton", "top.help"})
        if (auto* b = findChild<QPushButton*>(name); b && !b->isHidden()) room -= b->sizeHint().width();
    const QString shorter = !place ? tr("none") : m_view->atMachine() ? tr("machine") : tr("tool");
    const QFontMetrics letters = m_machine->fontMetrics();
    m_machine->setText(letters.horizontalAdvance(machine) <= room ? machine : letters.elidedText(shorter, Qt::ElideRight, std::max(40, room)));
    m_machine->setAccessibleName(machine);
    m_undo->setText(m_model.undoLabel().isEmpty() ? tr("Undo") : tr("Undo: %1").arg(m_model.undoLabel()));
    m_redo->setText(m_model.redoLabel().isEmpty() ? tr("Redo") : tr("Redo: %1").arg(m_model.redoLabel()));
    m_undo->setEnabled(!m_model.undoLabel().isEmpty());
    m_redo->setEnabled(!m_model.redoLabel().isEmpty());
}

void MainWindow::showBench() {
    const int i = static_cast<int>(m_model.bench());
    m_benches->button(i)->setChecked(true);
    const int left[] = {0, 1, 2, 1}, right[] = {0, 1, 1, 2};
    const bool tools = m_model.tools().isOpen();
    m_setUpSide->button(tools ? 1 : 0)->setChecked(true);
    m_setUpSwitch->setVisible(m_model.bench() == Bench::SetUp);
    m_left->setCurrentIndex(tools ? 3 : left[i]);
    m_right->setCurrentIndex(tools ? 3 : right[i]);
    m_centre->setCurrentIndex(tools ? 1 : m_model.bench() == Bench::Send && m_model.dialects().isOpen() ? 2 : 0);
    m_right->setFixedWidth(m_model.bench() == Bench::Send ? 430 : 344);
    m_right->setVisible(m_model.bench() != Bench::Prove);
    const bool route = m_left->currentWidget() == m_route;
    m_left->setFixedWidth(m_model.bench() == Bench::Prove ? 320 : route && m_route->folded() ? 72 : 236);
    m_tape->setVisible(m_model.bench() != Bench::SetUp);
    showSheet();
    showStock();
    refreshTop();
    if (m_model.bench() == Bench::Prove) m_view->setAtMachine(true);
    if (m_model.bench() == Bench::Cut) m_view->setAtMachine(false);
}

// The route to silhouettes: more room for the view.
void MainWindow::foldRoute(bool on) {
    m_route->setFolded(on);
    showBench();
}

// Over a corner of the view: one of a few.
QWidget* MainWindow::makeSwitch(const QString& name, const QStringList& titles, const QString& help, QButtonGroup*& group) {
    auto* all = new QWidget(m_centre);
    all->setObjectName(name + "Switch");
    auto* row = new QHBoxLayout(all);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    group = new QButtonGroup(this);
    for (int i = 0; i < titles.size(); ++i) {
        auto* b = new QPushButton(titles[i], all);
        b->setObjectName(QString("%1Shown.%2").arg(name).arg(i));
        b->setToolTip(help);
        b->setCheckable(true);
        b->setProperty("role", "bench");
        b->setProperty("place", i == 0 ? "first" : i + 1 == titles.size() ? "last" : "middle");
        group->addButton(b, i);
        row->addWidget(b);
    }
    all->hide();
    return all;
}

void MainWindow::makeSheetSwitch() {
    m_sheetSwitch = makeSwitch("sheet", {tr("Solid"), tr("Both"), tr("Flat")}, tr("The work as it is, laid flat, or both (U)"), m_sheetSides);
    connect(m_sheetSides, &QButtonGroup::idClicked, this, [this](int i) { m_model.milling().setSheetShown(static_cast<SheetShown>(i)); });
}

// The part, or what stands of the stock: in Prove, and in Cut while it is shown.
void MainWindow::makeStockSwitch() {
    m_stockSwitch = makeSwitch(
        "stock", {tr("Part"), tr("Stock"), tr("Deviation")},
        tr("The part as modelled; the stock as it is cut up to this place, by the operation that cut it, clicked again by tool, then by age; or by how far it is off the "
           "part (K)"),
        m_stockSides);
    connect(m_stockSides, &QButtonGroup::idClicked, this, [this](int i) {
        if (i == 1) return m_model.stock().showStock();
        m_model.stock().show(i == 0 ? std::nullopt : std::optional(StockBy::Deviation));
    });
    connect(&m_model.stock(), &StockShow::changed, this, &MainWindow::showStock);
    connect(&m_model, &AppModel::placeChanged, this, &MainWindow::showStock);
}

void MainWindow::showStock() {
    const auto by = m_model.stock().shown();
    const auto place = m_model.place();
    const bool any = place && std::any_of(place->bodies.begin(), place->bodies.end(), [](const PlacedBody& b) { return b.role == "stock"; });
    const bool visible = (by || any) && (m_model.bench() == Bench::Prove || (m_model.bench() == Bench::Cut && by));
    m_stockSides->button(!by ? 0 : *by == StockBy::Deviation ? 2 : 1)->setChecked(true);
    m_stockSides->button(1)->setText(by == StockBy::Tool ? tr("Stock by tool") : by == StockBy::Age ? tr("Stock by age") : tr("Stock"));
    m_stockSwitch->setVisible(visible);
    m_view->setOverlayTop(visible ? 56.0 : 14.0);
    if (!visible) return;
    m_stockSwitch->adjustSize();
    m_stockSwitch->move(12, 12);
    m_stockSwitch->raise();
}

void MainWindow::showSheet() {
    const bool possible = m_model.bench() == Bench::Cut && m_model.recipe() && m_model.recipe()->kind == OperationKind::Mill;
    const SheetShown shown = possible ? m_model.milling().sheetShown() : SheetShown::Wrapped;
    m_sheet->setVisible(shown != SheetShown::Wrapped);
    m_view->setVisible(shown != SheetShown::Flat);
    m_sheetSides->button(static_cast<int>(shown))->setChecked(true);
    m_sheetSwitch->setVisible(possible);
    if (!possible) return;
    m_sheetSwitch->adjustSize();
    m_sheetSwitch->move(m_centre->width() - m_sheetSwitch->width() - 12, 12);
    m_sheetSwitch->raise();
}

void MainWindow::resizeEvent(QResizeEvent* e) {
    QMainWindow::resizeEvent(e);
    int benches = 0;
    for (const QAbstractButton* b : m_benches->buttons()) benches += b->minimumWidth();
    static_cast<TopLeft*>(m_topLeft)->wanted = std::max(280, std::min((width() - benches) / 2, width() - benches - kRight));
    m_topLeft->updateGeometry();
    refreshTop();
    QTimer::singleShot(0, this, [this] { showSheet(); });
}

void MainWindow::tell(const QString& message) {
    if (message.isEmpty()) return;
    m_message->setText(message);
    m_message->setFixedWidth(std::min(520, m_centre->width() - 40));
    m_message->adjustSize();
    m_message->move((m_centre->width() - m_message->width()) / 2, 52);
    m_message->show();
    m_message->raise();
    m_messageTimer.start(6000);
}

// May the present work go? Saves it or lets it go as the user says.
bool MainWindow::letGo() {
    if (!m_model.edited() || !isVisible() || property("closeWithoutAsking").toBool()) return true;
    const int answer =
        gyre::ask(this, tr("Unsaved work"), tr("Save the changes to %1?").arg(QString::fromStdString(m_model.job().name)), {tr("Save"), tr("Discard"), tr("Cancel")});
    if (answer == 2) return false;
    if (answer == 0) return save();
    m_model.discard();
    return true;
}

// Never silently over what something else wrote there.
bool MainWindow::save() {
    if (m_model.isCopy()) return saveAs();
    if (m_model.changedOnDisk()) {
        const int answer = gyre::ask(this, tr("Changed on disk"),
                                     tr("%1 was changed by something else since it was opened here. Write over it?").arg(QFileInfo(m_model.file()).fileName()),
                                     {tr("Write over it"), tr("Cancel")}, true);
        if (answer != 0) {
            tell(tr("Not saved. \"Save the job as another file\" keeps both."));
            return false;
        }
    }
    const auto ok = m_model.save();
    tell(ok ? tr("Saved %1").arg(m_model.file()) : QString::fromStdString(ok.error().text()));
    return ok.has_value();
}

bool MainWindow::saveAs() {
    // What was shipped stays as it is; a copy of it goes where the user's own work lies.
    const QString where =
        m_model.isCopy() ? QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + "/" + QFileInfo(m_model.file()).fileName() : m_model.file();
    const QString file = askToSave(this, tr("Save the job as"), where, tr("Jobs (*.gyre.json)"));
    if (file.isEmpty()) return false;
    const auto ok = m_model.saveAs(file);
    tell(ok ? tr("Saved %1").arg(m_model.file()) : QString::fromStdString(ok.error().text()));
    return ok.has_value();
}

bool MainWindow::openFile(const QString& file, bool ask) {
    if (ask && !letGo()) return false;
    const bool again = ask && !AppModel::lostWork(file).isEmpty() &&
                       gyre::ask(this, tr("Unsaved work"), tr("There is newer, unsaved work on %1. Take it up again?").arg(QFileInfo(file).fileName()),
                                 {tr("Take it up"), tr("No")}) == 0;
    const auto ok = again ? m_model.recover(file) : m_model.open(file);
    if (!ok) tell(QString::fromStdString(ok.error().text()));
    return ok.has_value();
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!letGo()) return e->ignore();
    m_model.cancel();
    e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    for (const QUrl& url : e->mimeData()->urls()) {
        const QString suffix = QFileInfo(url.toLocalFile()).suffix().toLower();
        if (m_model.hasJob() && (suffix == "dxf" || suffix == "svg")) // a drawing is laid on the part that is open
            m_model.addBody(url.toLocalFile());
        else
            openFile(url.toLocalFile());
        return;
    }
}

} // namespace gyre
