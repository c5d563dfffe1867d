// An open job: its history, its results, and the thread that computes them.
#pragma once
#include "post/Post.h"
#include "proof/Proof.h"
#include "session/RouteStock.h"
#include "session/Workshop.h"
#include <condition_variable>
#include <thread>

namespace gyre {

/// One line of history for the whole job. Neighbouring edits with the same non-empty merge key become one step.
class History {
public:
    explicit History(Job first) { m_steps.push_back({std::make_shared<const Job>(std::move(first)), "open", ""}); }
    [[nodiscard]] const Job& now() const { return *m_steps[m_at].job; }
    [[nodiscard]] std::shared_ptr<const Job> shared() const { return m_steps[m_at].job; }
    void change(Job next, std::string label, std::string mergeKey = {});
    bool undo();
    bool redo();
    /// The same change to every step, without one of its own: where the job lies.
    void rewrite(const std::function<Job(Job)>& how);
    [[nodiscard]] std::string undoLabel() const { return m_at > 0 ? m_steps[m_at].label : ""; }
    [[nodiscard]] std::string redoLabel() const { return m_at + 1 < m_steps.size() ? m_steps[m_at + 1].label : ""; }

private:
    struct Step {
        std::shared_ptr<const Job> job;
        std::string label, mergeKey;
    };
    static constexpr std::size_t kMost = 500;
    std::vector<Step> m_steps;
    std::size_t m_at = 0;
};

/// What the computing thread tells. Called on that thread.
struct ComputeEvents {
    std::function<void(double fraction, std::string what)> progress;
    std::function<void(std::shared_ptr<const Workplace>)> placeReady;
    /// Twice when clearances have to be measured: first without them.
    std::function<void(std::shared_ptr<const OperationResult>)> operationReady;
    std::function<void(ProofResult)> proofReady;
    std::function<void(Error)> failed; ///< the setup could not be loaded
    std::function<void(bool cancelled)> finished;
};

/// Computes jobs one after the other on a thread of its own; a new request cancels the one under way.
class Computer {
public:
    /// @param shelf  what other jobs have left there is not computed or opened again
    Computer(std::filesystem::path folder, ComputeEvents events, AsideReader reader = {}, std::shared_ptr<Shelf> shelf = std::make_shared<Shelf>());
    ~Computer();
    Computer(const Computer&) = delete;
    Computer& operator=(const Computer&) = delete;

    void request(std::shared_ptr<const Job> job, bool alsoProve);
    /// Stops what is under way; nothing is computed until the next request.
    void cancel();
    [[nodiscard]] bool busy() const { return m_busy.load(); }

private:
    void loop();
    void work(const Job& job, bool alsoProve, Progress& progress);
    ComputeEvents m_events;
    std::shared_ptr<Shelf> m_shelf;
    Workshop m_workshop;
    mutable std::mutex m_mutex;
    std::condition_variable m_wake;
    std::shared_ptr<const Job> m_next;
    bool m_nextProve = false, m_quit = false;
    std::shared_ptr<Progress> m_running;
    std::atomic<bool> m_busy{false};
    std::thread m_thread;
};

/// Everything at once, for the command line.
struct JobResults {
    std::shared_ptr<const Workplace> place;
    std::vector<std::shared_ptr<const OperationResult>> operations; ///< active ones, in route order
};
[[nodiscard]] Result<JobResults> computeJob(const Job& job, Workshop& workshop, StageCache& cache, Progress& progress);
/// In the plain spelling; see inDialect().
[[nodiscard]] PostInput postInputOf(const Job& job, const std::shared_ptr<const Workplace>& place, const std::vector<std::shared_ptr<const OperationResult>>& operations);

} // namespace gyre
