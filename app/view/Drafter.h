// Draws pictures in a thread of its own, so that the window answers while one is drawn.
#pragma once
#include "view/Renderer.h"
#include <QImage>
#include <QOffscreenSurface>
#include <QThread>
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <optional>

namespace gyre {

class Drafter : public QThread {
    Q_OBJECT
public:
    explicit Drafter(QObject* parent = nullptr) : QThread(parent) {}
    ~Drafter() override;
    void open();
    /// Is everything computed by the processor, for lack of a graphics card? Known from the first picture on.
    [[nodiscard]] bool inSoftware() const { return m_software; }
    /// One that still waits gives way to this one.
    void ask(Picture picture);
    [[nodiscard]] bool busy() const;
    /// Waits until what was asked for is drawn.
    void finish();
    /// What was drawn last.
    [[nodiscard]] QImage image() const;

signals:
    void drawn();
    void failed(const QString& why); ///< OpenGL 3.3 is not to be had

protected:
    void run() override;

private:
    mutable std::mutex m_lock;
    std::condition_variable m_changed;
    std::optional<Picture> m_waiting;
    bool m_drawing = false, m_leave = false, m_failed = false;
    std::atomic<bool> m_software = false;
    QImage m_image;
    std::unique_ptr<QOffscreenSurface> m_surface;
};

} // namespace gyre
