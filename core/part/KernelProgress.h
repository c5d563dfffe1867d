// Private to part/: the CAD kernel's long work told to a Progress, which may call it off.
#pragma once
#include "base/Progress.h"
#include <Message_ProgressIndicator.hxx>
#include <Message_ProgressRange.hxx>
#include <Message_ProgressScope.hxx>
#include <streambuf>
#include <string>
#include <utility>

namespace gyre {

/// The kernel asks it whether to go on, and tells how far it is; told in whole per cents of the span only.
class KernelWatch : public Message_ProgressIndicator {
public:
    KernelWatch(Progress& progress, std::string what, double from, double to) : m_progress(progress), m_what(std::move(what)), m_from(from), m_to(to) {}
    Standard_Boolean UserBreak() override { return m_progress.cancelled(); }
    void Show(const Message_ProgressScope&, const Standard_Boolean) override {
        const int percent = static_cast<int>(100.0 * (m_from + (m_to - m_from) * GetPosition()));
        if (percent != std::exchange(m_told, percent)) m_progress.report(0.01 * percent, m_what);
    }

private:
    Progress& m_progress;
    std::string m_what;
    double m_from;
    double m_to;
    int m_told = -1;
};

/// A text as the kernel reads it: told as it is used up, and at its end at once when the work is called off.
class WatchedText : public std::streambuf {
public:
    /// @param text must outlive the buffer
    WatchedText(std::string& text, Progress& progress, std::string what, double from, double to)
        : m_text(text), m_progress(progress), m_what(std::move(what)), m_from(from), m_to(to) {}

protected:
    int_type underflow() override {
        constexpr std::size_t kPiece = 65536;
        if (m_progress.cancelled() || m_next >= m_text.size()) return traits_type::eof();
        const std::size_t size = std::min(kPiece, m_text.size() - m_next);
        setg(m_text.data() + m_next, m_text.data() + m_next, m_text.data() + m_next + size);
        m_next += size;
        m_progress.report(m_from + (m_to - m_from) * static_cast<double>(m_next) / static_cast<double>(m_text.size()), m_what);
        return traits_type::to_int_type(*gptr());
    }

private:
    std::string& m_text;
    Progress& m_progress;
    std::string m_what;
    double m_from;
    double m_to;
    std::size_t m_next = 0;
};

} // namespace gyre
