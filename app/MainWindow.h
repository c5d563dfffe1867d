// The window: four benches around one view and one tape.
#pragma once
#include "model/AppModel.h"
#include <QMainWindow>

class QLabel;
class QProgressBar;
class QPushButton;
class QStackedWidget;
class QHBoxLayout;
class QLayout;
class QButtonGroup;

namespace gyre {

class View;
class TapePanel;
class RecipePanel;
class RoutePanel;
class SendPanel;
class SheetView;
struct Command;

class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    explicit MainWindow(AppModel& model, QWidget* parent = nullptr);
    [[nodiscard]] View& view() { return *m_view; }
    [[nodiscard]] SheetView& sheet() { return *m_sheet; }
    [[nodiscard]] TapePanel& tape() { return *m_tape; }
    /// Opens a job or a part; asks before unsaved work goes, and offers unsaved work on it that is newer. Tells the user when it cannot.
    bool openFile(const QString& file, bool ask = true);
    /// Cards over the demo that tell what is where.
    void takeTour();

protected:
    void closeEvent(QCloseEvent* e) override;
    void resizeEvent(QResizeEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;

private:
    [[nodiscard]] bool letGo();
    bool save();
    bool saveAs(); ///< asks where
    QWidget* makeTopBar(QWidget* centre);
    QLayout* makeBenches(QWidget* top);
    void makeTopButtons(QWidget* top, QHBoxLayout* bar);
    QLayout* makeLeft(QWidget* centre);
    void makeViews(QWidget* centre);
    void makeRight(QWidget* centre);
    void makeMessages();
    void followModel();
    void makeActions();
    QPushButton* buttonFor(const QString& words, const char* name, QWidget* top);
    void openGuide();
    void refreshTop();
    void showBench();
    void foldRoute(bool on);
    void showSheet();
    [[nodiscard]] QWidget* makeSwitch(const QString& name, const QStringList& titles, const QString& help, QButtonGroup*& group);
    void makeSheetSwitch();
    void makeStockSwitch();
    void showStock();
    void tell(const QString& message);
    void find();
    void askAndOpen();
    void cutOpen(); ///< the view, along another axis each time
    void drawOnSheet();
    // The table of commands: Commands.cpp
    [[nodiscard]] std::vector<Command> commands();
    [[nodiscard]] std::vector<Command> jobCommands();
    [[nodiscard]] std::vector<Command> newWorkCommands();
    [[nodiscard]] std::vector<Command> operationCommands();
    [[nodiscard]] std::vector<Command> setUpCommands();
    [[nodiscard]] std::vector<Command> benchCommands();
    [[nodiscard]] std::vector<Command> pickCommands();
    [[nodiscard]] std::vector<Command> viewCommands();
    [[nodiscard]] std::vector<Command> tapeCommands();
    [[nodiscard]] std::vector<Command> helpCommands();

    AppModel& m_model;
    View* m_view = nullptr;
    SheetView* m_sheet = nullptr;
    QWidget *m_sheetSwitch = nullptr, *m_stockSwitch = nullptr; ///< solid, both or flat; the part, the stock or its deviation
    QButtonGroup* m_stockSides = nullptr;
    QButtonGroup* m_sheetSides = nullptr;
    TapePanel* m_tape = nullptr;
    SendPanel* m_send = nullptr;
    QLabel *m_title = nullptr, *m_edited = nullptr, *m_message = nullptr, *m_doing = nullptr;
    QWidget *m_busy = nullptr, *m_topLeft = nullptr;
    QProgressBar* m_progress = nullptr;
    QPushButton *m_machine = nullptr, *m_closer = nullptr, *m_units = nullptr;
    RoutePanel* m_route = nullptr;
    RecipePanel* m_recipe = nullptr;
    QStackedWidget *m_left = nullptr, *m_centre = nullptr, *m_right = nullptr;
    QButtonGroup* m_setUpSide = nullptr; ///< bodies or tools
    QWidget* m_setUpSwitch = nullptr;
    QButtonGroup* m_benches = nullptr;
    QAction *m_undo = nullptr, *m_redo = nullptr;
    QList<QAction*> m_recent; ///< files opened lately
    QTimer m_messageTimer, m_busyTimer;
};

} // namespace gyre
