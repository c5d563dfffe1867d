// The window's view of an open job: the document with its history, results as they arrive, what is selected and shown.
#pragma once
#include "base/Inputs.h"
#include "part/Flank.h"
#include "session/CloserLook.h"
#include <QFileSystemWatcher>
#include <QLockFile>
#include <QObject>
#include <QString>
#include <QStringList>
#include <QThread>
#include <QTimer>
#include <map>
#include <memory>
#include <unordered_map>

namespace gyre {

enum class Bench { SetUp, Cut, Prove, Send };
enum class PickMode { None, Faces, Rail1, Rail2, Edges, Profile, AxisFaces, AxisEdges, PlaneFace, Feature };
/// What stands beside the view: nothing, the unrolled sheet as well, or the sheet alone.
enum class SheetShown { Wrapped, Both, Flat };
/// What a PickMode::Feature asks for, and for what: "mend.3.faces", "plane.points" …
enum class PickKind { Faces, Edges, Points, Holes };
struct FeaturePick {
    PickKind kind = PickKind::Faces;
    QString key, prompt;
};
/// The view cut open: what lies beyond `at` along an axis is not drawn.
struct Section {
    int axis = -1; ///< −1: whole
    double at = 0.0;
    bool flipped = false;
};
/// How bodies of one role are drawn.
enum class Shown { Solid, Faded, Hidden };

class SkyShow;
class StockShow;

class AppModel : public QObject {
    Q_OBJECT
public:
    explicit AppModel(QObject* parent = nullptr);
    ~AppModel() override;

    /// Opens a job, or makes one around a part file; the present one stays when it cannot be opened.
    Status open(const QString& file);
    /// Adds a body from a file: the part if there is none yet, else a fixture.
    void addBody(const QString& file);
    /// There is one part: a body that was it before becomes a reference.
    void setBodyRole(std::size_t body, const QString& role);
    /// The body of the set-up that is in hand, with arrows and a ring to move it by; −1: none. The part in hand moves with all that stands around it.
    [[nodiscard]] int heldBody() const { return m_heldBody; }
    void holdBody(int body);
    /// Where a fixture, a stock or a reference stands, by numbers. @param mergeKey  changes while it is dragged are one step to undo
    void placeBody(std::size_t body, const Vec3& moved, const Vec3& turned, const QString& mergeKey = {});
    /// Turned about X, Y or Z (0 … 2) to an angle, its middle where it is.
    void turnBody(std::size_t body, int axis, double degrees);
    void seatPart(const Vec3& seat, double turnDegrees, const QString& mergeKey = {});
    /// Where a body stands now against where the present picture shows it.
    [[nodiscard]] Frame aheadOfPicture(std::size_t body) const;
    [[nodiscard]] const PlacedBody* placedBody(std::size_t body) const;
    /// The part is made of this; tools that know it take its speed and feed.
    void setMaterial(const QString& material);
    /// Stock around the part, and the part in the middle of the table; as one step.
    void proposeSetup();
    /// Changes the body's shape; a shape that cannot be is refused with its reason.
    Status setStock(std::size_t body, const StockShape& shape);
    /// Where machines and tools are looked for when there are none beside the job.
    void setShop(const QString& folder) { m_shop = folder; }
    [[nodiscard]] QString shop() const { return m_shop; }
    /// Who reads part files, away from this process; without one they are read here.
    void setReader(const AsideReader& reader) { m_reader = reader; }
    /// Results and opened parts of other jobs, too; without it the model keeps its own while jobs come and go.
    void setShelf(std::shared_ptr<Shelf> shelf) { m_shelf = std::move(shelf); }
    [[nodiscard]] const std::shared_ptr<Shelf>& shelf() const { return m_shelf; }
    /// The stock as it is cut, in place of the part.
    [[nodiscard]] StockShow& stock() const { return *m_stock; }
    /// All directions at the present place.
    [[nodiscard]] SkyShow& sky() const { return *m_sky; }
    /// Machine files beside the job and of the shop; the file as it is to stand in the job.
    [[nodiscard]] std::vector<MachineFile> machines() const;
    Status save();
    /// What lies in the shop's own folder is shipped with the program: it is opened as a copy, which is saved elsewhere or not at all.
    [[nodiscard]] bool isCopy() const;
    /// In another folder its files are named from there.
    Status saveAs(const QString& file);
    /// Has something else written the job file since it was opened or saved here?
    [[nodiscard]] bool changedOnDisk();
    /// The work is not wanted: what was saved aside goes.
    void discard();
    /// Where unsaved work on a job or on a part would lie, when it is newer than what is saved; empty when there is none.
    [[nodiscard]] static QString lostWork(const QString& file);
    /// Takes up what lies there.
    Status recover(const QString& file);
    [[nodiscard]] QString file() const { return m_file; }
    [[nodiscard]] bool edited() const { return m_history && m_savedJob != m_history->shared(); }
    [[nodiscard]] bool hasJob() const { return m_history != nullptr; }
    [[nodiscard]] const Job& job() const { return m_history->now(); }

    // Edits. Every one is a step that can be undone; steps with the same merge key flow together.
    void change(const QString& label, const std::function<void(Job&)>& edit, const QString& mergeKey = {});
    Status setWord(const QString& key, const QString& value);
    [[nodiscard]] QString word(const QString& key) const;
    void undo();
    void redo();
    [[nodiscard]] QString undoLabel() const;
    [[nodiscard]] QString redoLabel() const;
    void addOperation();
    void removeOperation(const QString& id);
    void renameOperation(const QString& id, const QString& name);
    void duplicateOperation(const QString& id); ///< with its steps, behind it
    void moveOperation(const QString& id, int by);
    /// Before another of its kind (operations, or steps of the same one); at the end when that is empty. With its steps.
    void placeOperation(const QString& id, const QString& before);
    void toggleActive(const QString& id);
    /// Adds or removes faces of the selected operation; rails are proposed anew while the user has not picked them.
    void toggleFaces(const std::vector<int>& faces);
    void setRail(int which, const std::vector<int>& edges);
    // Holes and planes. A group is one of holeGroups().
    [[nodiscard]] std::vector<Hole> holes() const; ///< as the user wants them: turned round where asked
    [[nodiscard]] std::vector<HoleGroup> holeGroups() const;
    [[nodiscard]] bool leftOut(std::size_t hole) const;
    void turnHoles(const HoleGroup& group);
    void turnHole(std::size_t hole); ///< one alone
    /// Operations on holes: for the lit group, or one for each group when none is lit; each with the steps that suit it.
    void addHoleWork();
    void addHoleStep(const QString& parent, Cycle cycle);
    /// The holes that an operation works on: a group by its words, or all.
    void setHoles(const QString& operation, const QString& groupWords);
    void pickHoles();                                ///< of the selected operation, one by one
    void toggleHoles(const std::vector<int>& faces); ///< those that the faces belong to
    /// The hole that a face belongs to.
    [[nodiscard]] std::optional<std::size_t> holeOfFace(int face) const;
    [[nodiscard]] bool works(std::size_t hole) const; ///< does the selected operation work on it?
    // Milling on a sheet.
    /// A new operation; without a shape it is guessed from what is picked first.
    void addMill(std::optional<MillShape> shape);
    void addHelicalGroove();
    void moveGroove(int face);                                   ///< the helix of the selected operation goes around that cylinder
    void turnGroove(int axis);                                   ///< … or around the largest one along X, Y or Z (0 … 2)
    void addAxisMiddle(const QString& word);                     ///< a raised middle of both rails for the axis to go by; the word that names the curve
    [[nodiscard]] std::optional<std::size_t> axisMiddle() const; ///< the one that the axis goes by; its place among the mends
    void setMillShape(const QString& shape);                     ///< as in files; tool and steps follow
    /// Adds or removes edges of the list that a pick mode is about.
    void toggleEdges(const std::vector<int>& edges, PickMode list = PickMode::Edges);
    /// The helix or sketch that the selected operation follows; its place among the mends.
    [[nodiscard]] std::optional<std::size_t> followedMend() const;
    /// A curve drawn on the sheet: becomes a sketch, and is followed by the selected operation. Along x and y in mm, or degrees around.
    void addSheetCurve(const Sheet& sheet, const std::vector<Vec2>& points, bool closed);
    // A closer look at the work around the present location; it follows the location.
    void setCloser(std::optional<LookFrom> from);
    void cycleCloser(); ///< off, the part, the stock
    [[nodiscard]] std::optional<LookFrom> closerFrom() const { return m_closerFrom; }
    [[nodiscard]] const std::shared_ptr<const CloserLook>& closer() const { return m_closer; } ///< null until it is there
    [[nodiscard]] QString closerTrouble() const { return m_closerTrouble; }
    [[nodiscard]] bool closerSettled() const { return !m_closerThread && !m_closerDelay.isActive(); }
    // Work along walls, curves and edges.
    void addFollow(OperationKind kind, BreakEdges edges = BreakEdges::Picked);
    void setFollowWord(const QString& key, const QString& value); ///< a word that changes what the work is: tool and steps follow
    void addAxisKey(double at);
    void setAxisKey(std::size_t key, const AxisKey& to); ///< changes while it is dragged are one step to undo
    void removeAxisKey(std::size_t key);
    /// Where a cutting location lies on its row, as axis keys count it: in the pattern's direction.
    struct OnRow {
        double fraction = 0.0, level = 0.0;
        int row = -1;
    };
    [[nodiscard]] std::optional<OnRow> onRow(std::size_t location) const;
    /// The axis key that the present location stands on.
    [[nodiscard]] std::optional<std::size_t> keyHere() const;
    /// Lines that hold both rails of a wall together: drawn by two clicks each.
    void drawSyncLines();
    [[nodiscard]] std::vector<Polyline> syncLines() const;
    /// The lines that the axis goes by, each from its foot to its head, as they count.
    struct AxisLine {
        Vec3 foot, head;
    };
    [[nodiscard]] const std::vector<AxisLine>& axisLines() const;
    void turnAxisLine(std::size_t line); ///< it points the other way
    /// Straight lines that the axis goes along: drawn by two clicks each; they are a mend.
    void drawAxisLines();
    /// The wall that a face belongs to; remembered for the face under the cursor.
    [[nodiscard]] const std::vector<int>& wallOf(int face) const;
    void setStanding(const QString& key, const QString& value); ///< a word that decides from where the tool comes: the skin follows
    [[nodiscard]] std::shared_ptr<const Sheet> sheet() const;   ///< of the selected operation; null when it has none
    [[nodiscard]] SheetShown sheetShown() const;
    void setSheetShown(SheetShown shown);
    /// Edges under the cursor in one of the views, lit in the other.
    [[nodiscard]] const std::vector<int>& hovered() const { return m_hovered; }
    void setHovered(const std::vector<int>& edges);
    void leaveOutHoles(const HoleGroup& group, bool out);
    [[nodiscard]] int litGroup() const { return m_litGroup; }
    void lightGroup(int group);
    void addPlane(const WorkPlane& plane);
    void removePlane(std::size_t plane);
    void flipPlane(std::size_t plane);
    /// With which rotary angles the machine stands the tool on the plane.
    [[nodiscard]] QString reachOfPlane(const WorkPlane& plane) const;

    /// Two straight edges, or three points: collected while they are picked, see pickFeature().
    [[nodiscard]] std::size_t collected() const { return m_points.size() + m_edges.size(); }
    [[nodiscard]] const std::vector<Vec3>& collectedPoints() const { return m_points; }
    Status addPlaneByAngles(double aboutX, double aboutY, double aboutZ);
    void renamePlane(std::size_t plane, const QString& name);
    /// Bodies that stand inside one another, in words, the worst first.
    [[nodiscard]] QStringList bodiesInside() const;
    /// What leaves the machine's travel where the part stands now.
    [[nodiscard]] QStringList beyondTravel() const;

    // Mends: construction on the part.
    void addMend(MendKind kind);
    void removeMend(std::size_t mend);
    void setMendNumber(std::size_t mend, const QString& key, double value);
    void addMendPoint(std::size_t mend, const Vec3& point);
    void setMendCurve(std::size_t mend, const QString& which, const QString& curve);
    /// Picks by their numbers, as words: "3 5 7-9".
    Status setMendPicks(std::size_t mend, const QString& which, const QString& numbers);
    Status setMendPoints(std::size_t mend, const QString& text);
    [[nodiscard]] QString mendTrouble(std::size_t mend) const;
    [[nodiscard]] QString mendFacts(std::size_t mend) const;
    /// Curves a mend may start from: those above it, and drawings.
    [[nodiscard]] QStringList curvesFor(std::size_t mend) const;
    [[nodiscard]] int litMend() const { return m_litMend; }
    void lightMend(int mend);
    [[nodiscard]] std::vector<int> litFaces() const; ///< picked for the lit mend
    [[nodiscard]] std::vector<int> litEdges() const;

    // Can a cutter's side follow a face?
    [[nodiscard]] const std::optional<FlankAnswer>& flank() const { return m_flank; }
    [[nodiscard]] QString flankWhat() const { return m_flankWhat; } ///< "Face 7", "Between edges 3 and 9"
    [[nodiscard]] double flankRadius() const;                       ///< of the tool in use
    void askFlank(int face);                                        ///< −1: no more
    void askFlankBetween(const std::vector<int>& lower, const std::vector<int>& upper);

    // Picking for features.
    [[nodiscard]] const FeaturePick& featurePick() const { return m_feature; }
    void pickFeature(const FeaturePick& pick);
    void give(const std::vector<int>& faces, const std::vector<int>& edges, const Vec3& point);

    /// Faces or rails of the operation by their numbers.
    Status setPicks(const QString& key, const QString& numbers);
    [[nodiscard]] QString picks(const QString& key) const;

    [[nodiscard]] Section section() const { return m_section; }
    void setSection(const Section& section);

    // Tools of the job.
    [[nodiscard]] bool atTools() const { return m_atTools && m_bench == Bench::SetUp; } ///< the Set up bench shows its tools
    void setAtTools(bool on);
    [[nodiscard]] QString shownTool() const { return m_shownTool; }
    void showTool(const QString& id);
    [[nodiscard]] const Assembly* toolShown() const { return hasJob() ? job().tool(m_shownTool.toStdString()) : nullptr; }
    /// Changes a tool; one that cannot exist is refused with its reason.
    Status changeTool(const QString& id, const std::function<void(Assembly&)>& edit, const QString& mergeKey = {});
    void newTool(CutterShape shape); ///< 6 mm across, in the holder of the tool that is shown
    void duplicateTool(const QString& id);
    Status removeTool(const QString& id);
    [[nodiscard]] QStringList operationsWith(const QString& tool) const;
    Status importTools(const QString& file);
    Status exportTools(const QString& file) const;

    [[nodiscard]] QStringList recentFiles() const;

    void applyRemedy(const Finding& finding, const Remedy& remedy);

    // Selection.
    [[nodiscard]] QString selected() const { return m_selected; }
    void select(const QString& operation);
    [[nodiscard]] QString numberOf(const Recipe& recipe) const; ///< "2", and "2b" for its second step
    [[nodiscard]] const Recipe* recipe() const { return hasJob() ? job().operation(m_selected.toStdString()) : nullptr; }
    [[nodiscard]] Bench bench() const { return m_bench; }
    void setBench(Bench bench);
    [[nodiscard]] PickMode pickMode() const { return m_pickMode; }
    void setPickMode(PickMode mode);
    [[nodiscard]] Stage peel() const { return m_peel; }
    void setPeel(Stage stage);
    [[nodiscard]] bool inches() const { return hasJob() && job().units == LengthUnit::Inch; }

    [[nodiscard]] Shown shown(const QString& role) const;
    void cycleShown(const QString& role);

    // Results.
    [[nodiscard]] std::shared_ptr<const Workplace> place() const { return m_place; }
    [[nodiscard]] std::shared_ptr<const OperationResult> result() const { return result(m_selected); }
    [[nodiscard]] std::shared_ptr<const OperationResult> result(const QString& operation) const;
    /// Its path is that of the job as it stands now.
    [[nodiscard]] bool upToDate(const QString& operation) const;
    [[nodiscard]] const ProofResult* proof(const QString& operation) const;
    [[nodiscard]] Standing standingBefore(const QString& operation) const; ///< as the operation before it leaves the machine
    [[nodiscard]] bool stale() const { return m_stale; }                   ///< the shown result is older than the job
    [[nodiscard]] std::vector<Finding> findings() const;                   ///< of all active operations, gravest first
    [[nodiscard]] QString setupTrouble() const { return m_trouble; }
    [[nodiscard]] bool computing() const { return m_computing; }
    [[nodiscard]] bool settled() const { return !m_computing && !m_looker && !m_delay.isActive(); } ///< nothing is computed, nor about to be
    void computeNow(bool alsoProve = false);
    void cancel();

    // Place on the path of the selected operation.
    [[nodiscard]] std::size_t location() const { return m_location; }
    void setLocation(std::size_t location);
    void showFinding(const Finding& finding);

    /// A program with what stands against running it, as it was when it was written.
    struct Posted {
        WrittenProgram program;
        ReplayReport report;
        std::vector<std::string> operations; ///< ids, as the acts count them
        std::vector<Finding> stops;
        bool proven = false; ///< every operation, exactly as it was posted
    };
    /// Looks at the input files again, writes the program, reads it back, compares.
    /// @param despiteStops  the Stops stand at its head
    [[nodiscard]] Result<QString> post(Dialect dialect, bool despiteStops = false);
    [[nodiscard]] const Posted* posted() const { return m_posted.get(); } ///< the last one, of this job
    [[nodiscard]] const ReplayReport& replayReport() const { return m_posted ? m_posted->report : m_noReport; }
    /// May a program be written over this file?
    [[nodiscard]] Status mayStore(const QString& file) const;
    /// Every operation that makes a path is computed and proven as the job stands now.
    [[nodiscard]] bool allProven() const;

signals:
    void jobChanged();
    void placeChanged();
    void resultChanged();
    void proofChanged();
    void selectionChanged();
    void benchChanged();
    void pickModeChanged();
    void shownChanged();
    void toolShownChanged();
    void featuresChanged();
    void heldChanged();
    void sheetChanged();
    void hoveredChanged();
    void closerChanged();
    void peelChanged();
    void locationChanged();
    void findingShown(); ///< the place stands where a finding was asked for
    void progressChanged(double fraction, const QString& what);
    void computingChanged();
    void toldUser(const QString& message);

private:
    void afterChange();
    void standClear(Job& job) const;
    void fitFirstPick(Recipe& recipe, const std::vector<int>& faces, const std::vector<int>& edges, const Job& job);
    void startComputer();
    void autosave();
    [[nodiscard]] std::uint64_t keyOf(const QString& operation) const;

    void tookFile(const QString& file); ///< the job's file from now on: watched, and known to other windows
    void watchInputs();
    QString m_file;
    std::uint64_t m_onDisk = 0; ///< what is in the file as it was opened or saved; 0: it is not there
    std::unique_ptr<QLockFile> m_lock;
    QFileSystemWatcher m_watcher;
    QTimer m_looked;
    std::unique_ptr<History> m_history;
    std::shared_ptr<const Job> m_savedJob;
    std::unique_ptr<Computer> m_computer;
    std::shared_ptr<const Workplace> m_place;
    struct Known {
        std::shared_ptr<const OperationResult> result;
        std::unique_ptr<ProofResult> proof;
    };
    std::unordered_map<std::string, Known> m_known;
    QString m_selected, m_trouble;
    Bench m_bench = Bench::Cut;
    PickMode m_pickMode = PickMode::None;
    Stage m_peel = Stage::Links;
    std::size_t m_location = 0;
    bool m_stale = false, m_computing = false, m_proveNext = false, m_proving = false;
    std::uint64_t m_generation = 0;
    QString m_shop;
    QStringList m_remarks; ///< told last
    AsideReader m_reader;
    std::shared_ptr<Shelf> m_shelf = std::make_shared<Shelf>();
    bool m_proposeWhenOpen = false;
    int m_litGroup = -1, m_litMend = -1, m_flankFace = -1, m_heldBody = -1;
    FeaturePick m_feature;
    std::vector<Vec3> m_points;
    std::vector<int> m_edges;
    std::optional<FlankAnswer> m_flank;
    Section m_section;
    QString m_shownTool;
    bool m_atTools = false;
    void remember(const QString& file);
    std::map<QString, Shown> m_shown;
    std::optional<SheetShown> m_sheetShown; ///< until chosen: as the operation suggests
    bool m_shapeOpen = false;               ///< the shape of the selected operation is still to be guessed
    std::vector<int> m_hovered;
    mutable std::pair<int, std::pair<std::vector<int>, std::uint64_t>> m_wallOf{-1, {}};
    mutable std::pair<std::string, std::shared_ptr<const Sheet>> m_sheet; ///< by what it was made of
    void addSyncLine(const Vec3& low, const Vec3& high);
    mutable std::pair<std::shared_ptr<const OperationResult>, std::vector<AxisLine>> m_axisLines; ///< of that result
    [[nodiscard]] Result<Job> jobAround(const QString& partFile) const;
    void tellRemarks();
    /// Looks for the bodies of an assembly, away from the window's thread; then the body `name` gives way to them.
    void lookInside(const QString& file, const std::string& name, const QString& step);
    std::unique_ptr<QThread> m_looker;
    std::shared_ptr<Progress> m_looking; ///< of the looker
    void endLooking();                   ///< calls the looker off and waits for it
    QString m_flankWhat;
    QTimer m_delay, m_autosave;
    void lookNow();
    void endCloser();
    std::optional<LookFrom> m_closerFrom;
    std::shared_ptr<const CloserLook> m_closer;
    QString m_closerTrouble;
    QTimer m_closerDelay;
    std::unique_ptr<QThread> m_closerThread;
    std::shared_ptr<Progress> m_closerProgress;
    std::unique_ptr<Posted> m_posted;
    ReplayReport m_noReport;
    FileContents m_contents;
    std::unique_ptr<StockShow> m_stock;
    std::unique_ptr<SkyShow> m_sky;
};

} // namespace gyre
