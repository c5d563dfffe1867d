// The job that is open in the window: the document with its history, results as they arrive, what is selected and shown. What works on it are parts of
// their own, see AppModel; panels know the open job and the parts that they show.
#pragma once
#include "base/Inputs.h"
#include "session/Session.h"
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
/// The view cut open: what lies beyond `at` along an axis is not drawn.
struct Section {
    int axis = -1; ///< −1: whole
    double at = 0.0;
    bool flipped = false;
};
/// How bodies of one role are drawn.
enum class Shown { Solid, Faded, Hidden };

class OpenJob : public QObject {
    Q_OBJECT
public:
    explicit OpenJob(QObject* parent = nullptr);
    ~OpenJob() override;

    /// Opens a job, or makes one around a part file; the present one stays when it cannot be opened.
    Status open(const QString& file);
    /// Adds a body from a file: the part if there is none yet, else a fixture.
    void addBody(const QString& file);
    /// The body comes from another file.
    void exchangeFile(std::size_t body, const QString& file);
    /// Where machines and tools are looked for when there are none beside the job.
    void setShop(const QString& folder) { m_shop = folder; }
    [[nodiscard]] QString shop() const { return m_shop; }
    /// Who reads part files, away from this process; without one they are read here.
    void setReader(const AsideReader& reader) { m_reader = reader; }
    /// Results and opened parts of other jobs, too; without it the model keeps its own while jobs come and go.
    void setShelf(std::shared_ptr<Shelf> shelf) { m_shelf = std::move(shelf); }
    [[nodiscard]] const std::shared_ptr<Shelf>& shelf() const { return m_shelf; }
    /// Machine files beside the job and of the shop; the file as it is to stand in the job.
    [[nodiscard]] std::vector<MachineFile> machines() const;
    Status save();
    /// What lies in the shop's own folder is shipped with the program: it is opened as a copy, which is saved elsewhere or not at all.
    [[nodiscard]] bool isCopy() const;
    /// In another folder its files are named from there.
    Status saveAs(const QString& file);
    /// Has something else written the job file since it was opened or saved here?
    [[nodiscard]] bool changedOnDisk();
    /// May something be written over this file? Not over the job itself, nor over what it is made from.
    [[nodiscard]] Status mayStore(const QString& file) const;
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
    [[nodiscard]] Section section() const { return m_section; }
    void setSection(const Section& section);

    [[nodiscard]] QStringList recentFiles() const;

    void applyRemedy(const Finding& finding, const Remedy& remedy);

    // Selection.
    /// Of what is cut in slices, the slice in hand: "op3@2".
    [[nodiscard]] QString selected() const { return m_selected; }
    /// The operation of the route, whichever slice of it is in hand.
    [[nodiscard]] QString chosen() const { return QString::fromStdString(wholeId(m_selected.toStdString())); }
    void stepSlice(int by);
    /// As results know an operation of the route: the slice in hand where it is cut in slices.
    [[nodiscard]] QString inHand(const QString& operation) const;
    void select(const QString& operation);
    [[nodiscard]] const Recipe* recipe() const { return hasJob() ? job().operation(m_selected.toStdString()) : nullptr; }
    [[nodiscard]] Bench bench() const { return m_bench; }
    void setBench(Bench bench);
    [[nodiscard]] Stage peel() const { return m_peel; }
    void setPeel(Stage stage);
    [[nodiscard]] bool inches() const { return hasJob() && job().units == LengthUnit::Inch; }

    [[nodiscard]] Shown shown(const QString& role) const;
    void cycleShown(const QString& role);

    // Results.
    [[nodiscard]] const std::shared_ptr<const Workplace>& place() const { return m_place; }
    [[nodiscard]] std::shared_ptr<const OperationResult> result() const { return result(m_selected); }
    [[nodiscard]] std::shared_ptr<const OperationResult> result(const QString& operation) const;
    /// Input files that are no longer as they were when the paths were computed.
    [[nodiscard]] std::vector<std::filesystem::path> changedInputs() const;
    /// Its path is that of the job as it stands now.
    [[nodiscard]] bool upToDate(const QString& operation) const;
    [[nodiscard]] const ProofResult* proof(const QString& operation) const;
    /// Every operation that makes a path is computed and proven as the job stands now.
    [[nodiscard]] bool allProven() const;
    [[nodiscard]] bool stale() const { return m_stale; } ///< the shown result is older than the job
    [[nodiscard]] std::vector<Finding> findings() const; ///< of all active operations, gravest first
    /// Of the selected operation: what its guard tells, and every Stop and heavy cut of links and proof that has a place on the path.
    struct HazardStretch {
        std::size_t first, last, worst; ///< locations
    };
    [[nodiscard]] std::vector<HazardStretch> hazards() const;
    [[nodiscard]] QString setupTrouble() const { return m_trouble; }
    [[nodiscard]] bool computing() const { return m_computing; }
    [[nodiscard]] bool settled() const { return !m_computing && !m_looker && !m_delay.isActive(); } ///< nothing is computed, nor about to be
    void computeNow(bool alsoProve = false);
    void cancel();

    // Place on the path of the selected operation.
    [[nodiscard]] std::size_t location() const { return m_location; }
    void setLocation(std::size_t location);
    void showFinding(const Finding& finding);

signals:
    void exchanged();  ///< another job is open from here on: what was known of the one before goes
    void partOpened(); ///< the part that the job was made around is there
    void jobChanged();
    void placeChanged();
    void resultChanged();
    void proofChanged();
    void selectionChanged();
    void benchChanged();
    void shownChanged();
    void featuresChanged();
    void peelChanged();
    void locationChanged();
    void findingAsked(const Finding& finding); ///< is about to be shown
    void findingShown();                       ///< the place stands where a finding was asked for
    void progressChanged(double fraction, const QString& what);
    void computingChanged();
    void toldUser(const QString& message);

private:
    /// Do the machine and the stock stand before the operation as they did when it was proven?
    [[nodiscard]] bool foundAsNow(const QString& operation, const ProofResult& proof) const;
    void afterChange();
    void takePlace(const std::shared_ptr<const Workplace>& place);
    void takeResult(const std::shared_ptr<const OperationResult>& result);
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
    int m_slice = 1; ///< in hand
    Bench m_bench = Bench::Cut;
    Stage m_peel = Stage::Links;
    std::size_t m_location = 0;
    bool m_stale = false, m_computing = false, m_proveNext = false, m_proving = false;
    std::uint64_t m_generation = 0;
    QString m_shop;
    QStringList m_remarks; ///< told last
    AsideReader m_reader;
    std::shared_ptr<Shelf> m_shelf = std::make_shared<Shelf>();
    bool m_proposeWhenOpen = false;
    Section m_section;
    void remember(const QString& file);
    std::map<QString, Shown> m_shown;
    [[nodiscard]] Result<Job> jobAround(const QString& partFile) const;
    void tellRemarks();
    /// Looks for the bodies of an assembly, away from the window's thread; then the body `name` gives way to them.
    void lookInside(const QString& file, const std::string& name, const QString& step);
    std::unique_ptr<QThread> m_looker;
    std::shared_ptr<Progress> m_looking; ///< of the looker
    void endLooking();                   ///< calls the looker off and waits for it
    QTimer m_delay, m_autosave;
    mutable FileContents m_contents;
};

} // namespace gyre
