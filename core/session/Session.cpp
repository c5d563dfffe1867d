#include "session/Session.h"
#include "base/Parallel.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/RouteProof.h"
#include <algorithm>

namespace gyre {

void History::change(Job next, std::string label, std::string mergeKey) {
    m_steps.resize(m_at + 1);
    auto shared = std::make_shared<const Job>(std::move(next));
    if (!mergeKey.empty() && m_at > 0 && m_steps[m_at].mergeKey == mergeKey) {
        m_steps[m_at].job = std::move(shared);
        return;
    }
    m_steps.push_back({std::move(shared), std::move(label), std::move(mergeKey)});
    ++m_at;
    if (m_steps.size() > kMost) {
        m_steps.erase(m_steps.begin());
        --m_at;
    }
}

bool History::undo() {
    if (m_at == 0) return false;
    --m_at;
    m_steps[m_at].mergeKey.clear();
    return true;
}

void History::rewrite(const std::function<Job(Job)>& how) {
    for (Step& s : m_steps) s.job = std::make_shared<const Job>(how(*s.job));
}

bool History::redo() {
    if (m_at + 1 >= m_steps.size()) return false;
    ++m_at;
    return true;
}

Computer::Computer(std::filesystem::path folder, ComputeEvents events, AsideReader reader, std::shared_ptr<Shelf> shelf)
    : m_events(std::move(events)), m_shelf(std::move(shelf)), m_workshop(std::move(folder), std::move(reader), m_shelf), m_thread([this] { loop(); }) {}

Computer::~Computer() {
    {
        const std::lock_guard lock(m_mutex);
        m_quit = true;
        if (m_running) m_running->cancel();
    }
    m_wake.notify_all();
    m_thread.join();
}

void Computer::request(std::shared_ptr<const Job> job, bool alsoProve) {
    {
        const std::lock_guard lock(m_mutex);
        m_next = std::move(job);
        m_nextProve = alsoProve;
        m_busy = true;
        if (m_running) m_running->cancel();
    }
    m_wake.notify_all();
}

void Computer::cancel() {
    bool never = false; // taken back before it was begun: nobody else will say that it is over
    {
        const std::lock_guard lock(m_mutex);
        never = m_next && !m_running;
        m_next.reset();
        if (m_running) m_running->cancel();
        if (never) m_busy = false;
    }
    if (never && m_events.finished) m_events.finished(true);
}

void Computer::loop() {
    yieldToInterface();
    std::unique_lock lock(m_mutex);
    while (true) {
        m_wake.wait(lock, [this] { return m_quit || m_next; });
        if (m_quit) return;
        const auto job = std::move(m_next);
        m_next.reset();
        const bool alsoProve = m_nextProve;
        auto progress = std::make_shared<Progress>([this](double f, const std::string& what) {
            if (m_events.progress) m_events.progress(f, what);
        });
        m_running = progress;
        lock.unlock();
        work(*job, alsoProve, *progress);
        lock.lock();
        m_running.reset();
        if (!m_next) m_busy = false;
        const bool again = m_next != nullptr;
        lock.unlock();
        if (m_events.finished && !again) m_events.finished(progress->cancelled());
        lock.lock();
    }
}

void Computer::work(const Job& job, bool alsoProve, Progress& progress) {
    std::shared_ptr<const Workplace> place;
    {
        const Progress::Span span(progress, 0.0, 0.2);
        auto loaded = m_workshop.placeFor(job, progress);
        if (!loaded) {
            if (!loaded.error().cancelled && m_events.failed) m_events.failed(loaded.error());
            return;
        }
        place = *loaded;
    }
    if (progress.cancelled()) return;
    if (m_events.placeReady) m_events.placeReady(place);
    const std::vector<Recipe> active = job.worked();
    RouteStock left(place, m_shelf->results);
    RouteProof proofs(place, m_shelf->results);
    const double share = 0.8 / static_cast<double>(std::max<std::size_t>(1, active.size()));
    for (std::size_t i = 0; i < active.size(); ++i) {
        const double from = 0.2 + share * static_cast<double>(i), middle = from + (alsoProve ? 0.6 : 1.0) * share;
        std::shared_ptr<const OperationResult> done;
        {
            const Progress::Span span(progress, from, middle);
            auto result = runOperation(*place, active[i], m_shelf->results, progress, m_events.operationReady, left.before());
            if (!result) return;
            done = *result;
            left.add(done);
        }
        if (m_events.operationReady) m_events.operationReady(done);
        if (!alsoProve) continue;
        const Progress::Span span(progress, middle, from + share);
        progress.report(0.0, "Proving at the machine");
        auto proof = proofs.next(done, ProofSpec::under(active[i].guard), progress);
        if (!proof) return;
        if (m_events.proofReady) m_events.proofReady(std::move(*proof));
    }
}

Result<JobResults> computeJob(const Job& job, Workshop& workshop, StageCache& cache, Progress& progress) {
    JobResults out;
    {
        const Progress::Span span(progress, 0.0, 0.2);
        auto place = workshop.placeFor(job, progress);
        if (!place) return tl::unexpected(place.error());
        out.place = *place;
    }
    const Progress::Span span(progress, 0.2, 1.0);
    RouteStock left(out.place, cache);
    for (const Recipe& r : job.worked()) {
        auto result = runOperation(*out.place, r, cache, progress, {}, left.before());
        if (result) left.add(*result);
        if (!result) return tl::unexpected(result.error());
        out.operations.push_back(*result);
    }
    return out;
}

PostInput postInputOf(const Job& job, const std::shared_ptr<const Workplace>& place, const std::vector<std::shared_ptr<const OperationResult>>& operations) {
    PostInput in;
    in.jobName = job.name;
    in.machine = place->machine;
    in.partFrame = place->partFrame;
    in.zero = job.zero;
    in.words = job.program;
    for (const auto& r : operations) {
        const Recipe* recipe = job.operation(r->operation);
        if (!recipe || r->omitted) continue;
        const auto tool = std::find_if(job.tools.begin(), job.tools.end(), [&](const Assembly& a) { return a.id == recipe->tool; });
        const Recipe* parent = recipe->parent.empty() ? nullptr : job.operation(recipe->parent);
        in.operations.push_back({parent ? parent->name + " - " + r->name : r->name, r, static_cast<int>(tool - job.tools.begin()) + 1});
    }
    return in;
}

} // namespace gyre
