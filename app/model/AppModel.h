// The window's view of an open job: the document with its history, results as they arrive, what is selected and shown.
#pragma once
#include "job/Session.h"
#include <QObject>
#include <QString>
#include <QTimer>
#include <memory>
#include <unordered_map>

namespace gyre {

enum class Bench { SetUp, Cut, Prove, Send };
enum class PickMode { None, Faces, Rail1, Rail2 };

class AppModel : public QObject {
    Q_OBJECT
public:
    explicit AppModel(QObject* parent = nullptr);
    ~AppModel() override;

    /// Opens a job; the present one stays when it cannot be opened.
    Status open(const QString& file);
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
    QTimer m_delay, m_autosave;
    ReplayReport m_report;
};

} // namespace gyre
