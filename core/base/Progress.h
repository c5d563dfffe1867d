// Progress and cancellation of long work.
#pragma once
#include <atomic>
#include <functional>
#include <string>

namespace gyre {

/// Long work reports to a Progress and asks it whether to go on. Safe to use from several threads.
class Progress {
public:
    using Listener = std::function<void(double fraction, const std::string& what)>;

    Progress() = default;
    explicit Progress(Listener listener) : m_listener(std::move(listener)) {}

    void cancel() { m_cancelled.store(true, std::memory_order_relaxed); }
    [[nodiscard]] bool cancelled() const { return m_cancelled.load(std::memory_order_relaxed); }

    /// @param fraction 0 … 1 of the current span (see Span)
    void report(double fraction, const std::string& what) {
        if (m_listener) m_listener(m_from + (m_to - m_from) * fraction, what);
    }

    /// Maps the reports of a piece of work into a part of the whole, for the life of the object.
    class Span {
    public:
        Span(Progress& progress, double from, double to) : m_progress(progress), m_oldFrom(progress.m_from), m_oldTo(progress.m_to) {
            const double width = m_oldTo - m_oldFrom;
            progress.m_from = m_oldFrom + width * from;
            progress.m_to = m_oldFrom + width * to;
        }
        ~Span() {
            m_progress.m_from = m_oldFrom;
            m_progress.m_to = m_oldTo;
        }
        Span(const Span&) = delete;
        Span& operator=(const Span&) = delete;

    private:
        Progress& m_progress;
        double m_oldFrom;
        double m_oldTo;
    };

private:
    std::atomic<bool> m_cancelled{false};
    Listener m_listener;
    double m_from = 0.0;
    double m_to = 1.0;
};

} // namespace gyre
