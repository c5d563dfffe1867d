// Work away from the window's thread, one piece at a time.
#pragma once
#include "base/Handed.h"
#include "base/Progress.h"
#include <QObject>
#include <QThread>
#include <functional>
#include <memory>

namespace gyre {

class Apart {
public:
    ~Apart() { end(); }
    [[nodiscard]] bool busy() const { return m_thread != nullptr; }
    /// @param then in the thread of `owner`, also after it was called off; not after end()
    void run(QObject* owner, const std::function<void(Progress&)>& work, const std::function<void()>& then) {
        m_progress = std::make_shared<Progress>();
        m_thread.reset(QThread::create([work, progress = m_progress] {
            work(*progress);
            handOver();
        }));
        QObject::connect(m_thread.get(), &QThread::finished, owner, [this, then, own = m_thread.get()] {
            if (m_thread.get() != own) return;
            m_thread.release()->deleteLater();
            takeOver();
            then();
        });
        m_thread->start(QThread::LowPriority);
    }
    void cancel() {
        if (busy()) m_progress->cancel();
    }
    void end() {
        if (!busy()) return;
        m_progress->cancel();
        m_thread->wait();
        takeOver();
        m_thread.reset();
    }

private:
    std::unique_ptr<QThread> m_thread;
    std::shared_ptr<Progress> m_progress;
};

} // namespace gyre
