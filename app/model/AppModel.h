// The window's view of an open job: the document with its history, results as they arrive, what is selected and shown.
#pragma once
#include "job/Session.h"
#include <QObject>
#include <QString>
#include <QTimer>
#include <map>
#include <memory>
#include <unordered_map>

namespace gyre {

enum class Bench { SetUp, Cut, Prove, Send };
enum class PickMode { None, Faces, Rail1, Rail2, PlaneFace };
/// How bodies of one role are drawn.
enum class Shown { Solid, Faded, Hidden };

class AppModel : public QObject {
    Q_OBJECT
public:
    explicit AppModel(QObject* parent = nullptr);
    ~AppModel() override;

    /// Opens a job, or makes one around a part file; the present one stays when it cannot be opened.
    Status open(const QString& file);
    /// Adds a body from a file: the part if there is none yet, else a fixture.
    void addBody(const QString& file);
    /// Stock around the part, and the part in the middle of the table; as one step.
    void proposeSetup();
    /// Changes the body's shape; a shape that cannot be is refused with its reason.
    Status setStock(std::size_t body, const StockShape& shape);
    /// Where machines and tools are looked for when there are none beside the job.
    void setShop(const QString& folder) { m_shop = folder; }
    [[nodiscard]] QString shop() const { return m_shop; }
    /// Machine files beside the job and of the shop; the file as it is to stand in the job.
    [[nodiscard]] std::vector<MachineFile> machines() const;
    Status save();
    Status saveAs(const QString& file);
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
    void moveOperation(const QString& id, int by);
    void toggleActive(const QString& id);
    /// Adds or removes faces of the selected operation; rails are proposed anew while the user has not picked them.
    void toggleFaces(const std::vector<int>& faces);
    void setRail(int which, const std::vector<int>& edges);
    // Holes and planes. A group is one of holeGroups().
    [[nodiscard]] std::vector<Hole> holes() const; ///< as the user wants them: turned round where asked
    [[nodiscard]] std::vector<HoleGroup> holeGroups() const;
    [[nodiscard]] bool leftOut(std::size_t hole) const;
    void turnHoles(const HoleGroup& group);
    void leaveOutHoles(const HoleGroup& group, bool out);
    [[nodiscard]] int litGroup() const { return m_litGroup; }
    void lightGroup(int group);
    void addPlane(const WorkPlane& plane);
    void removePlane(std::size_t plane);
    void flipPlane(std::size_t plane);
    /// With which rotary angles the machine stands the tool on the plane.
    [[nodiscard]] QString reachOfPlane(const WorkPlane& plane) const;

    void applyRemedy(const Finding& finding, const Remedy& remedy);

    // Selection.
    [[nodiscard]] QString selected() const { return m_selected; }
    void select(const QString& operation);
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
    [[nodiscard]] const ProofResult* proof(const QString& operation) const;
    [[nodiscard]] bool stale() const { return m_stale; } ///< the shown result is older than the job
    [[nodiscard]] std::vector<Finding> findings() const; ///< of all active operations, gravest first
    [[nodiscard]] QString setupTrouble() const { return m_trouble; }
    [[nodiscard]] bool computing() const { return m_computing; }
    void computeNow(bool alsoProve = false);
    void cancel();

    // Place on the path of the selected operation.
    [[nodiscard]] std::size_t location() const { return m_location; }
    void setLocation(std::size_t location);
    void showFinding(const Finding& finding);

    /// Writes the program, reads it back, compares. The text stays for the Send bench.
    [[nodiscard]] Result<QString> post(Dialect dialect);
    [[nodiscard]] const ReplayReport& replayReport() const { return m_report; }

signals:
    void jobChanged();
    void placeChanged();
    void resultChanged();
    void proofChanged();
    void selectionChanged();
    void benchChanged();
    void pickModeChanged();
    void shownChanged();
    void featuresChanged();
    void peelChanged();
    void locationChanged();
    void progressChanged(double fraction, const QString& what);
    void computingChanged();
    void toldUser(const QString& message);

private:
    void afterChange();
    void startComputer();
    void autosave();
    [[nodiscard]] std::uint64_t keyOf(const QString& operation) const;

    QString m_file;
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
    bool m_stale = false, m_computing = false, m_proveNext = false;
    std::uint64_t m_generation = 0;
    QString m_shop;
    bool m_proposeWhenOpen = false;
    int m_litGroup = -1;
    std::map<QString, Shown> m_shown;
    [[nodiscard]] Result<Job> jobAround(const QString& partFile) const;
    QTimer m_delay, m_autosave;
    ReplayReport m_report;
};

} // namespace gyre
