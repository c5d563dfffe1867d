#include "view/Drafter.h"
#include <QOpenGLContext>
#include <QOpenGLFramebufferObject>
#include <sys/resource.h>

namespace gyre {

Drafter::~Drafter() {
    {
        const std::lock_guard guard(m_lock);
        m_leave = true;
    }
    m_changed.notify_all();
    wait();
}

void Drafter::open() {
    m_surface = std::make_unique<QOffscreenSurface>();
    m_surface->setFormat(Renderer::surfaceFormat());
    m_surface->create();
    start();
}

void Drafter::ask(Picture picture) {
    {
        const std::lock_guard guard(m_lock);
        m_waiting = std::move(picture);
    }
    m_changed.notify_all();
}

bool Drafter::busy() const {
    const std::lock_guard guard(m_lock);
    return !m_failed && (m_drawing || m_waiting);
}

void Drafter::finish() {
    std::unique_lock guard(m_lock);
    m_changed.wait(guard, [&] { return m_failed || (!m_drawing && !m_waiting); });
}

QImage Drafter::image() const {
    const std::lock_guard guard(m_lock);
    return m_image;
}

void Drafter::run() {
    // The window's own thread comes first; what the driver starts of its own takes this over.
    (void)setpriority(PRIO_PROCESS, 0, 3);
    QOpenGLContext context; // made here: the first one of a program takes a while
    context.setFormat(Renderer::surfaceFormat());
    {
        // What lives on the GPU goes before the context does.
        Renderer renderer;
        std::unique_ptr<QOpenGLFramebufferObject> plain, smooth;
        QString why = tr("OpenGL 3.3 is not to be had on this display");
        const bool works = context.create() && context.makeCurrent(m_surface.get()) && renderer.initialise(why);
        m_software = works && renderer.inSoftware();
        std::unique_lock guard(m_lock);
        if (!works) {
            m_failed = true;
            m_changed.notify_all();
            emit failed(why);
        }
        const auto sized = [](std::unique_ptr<QOpenGLFramebufferObject>& sheet, const QSize& pixels, int samples) {
            if (sheet && sheet->size() == pixels) return;
            QOpenGLFramebufferObjectFormat format;
            format.setSamples(samples);
            format.setAttachment(QOpenGLFramebufferObject::Depth);
            sheet = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
        };
        while (!m_failed) {
            m_changed.wait(guard, [&] { return m_leave || m_waiting; });
            if (m_leave) break;
            std::optional<Picture> picture = std::exchange(m_waiting, std::nullopt);
            m_drawing = true;
            guard.unlock();
            const QSize pixels = picture->pixels();
            sized(plain, pixels, 0);
            if (picture->smooth()) sized(smooth, pixels, 4);
            (picture->smooth() ? smooth : plain)->bind();
            picture->drawWith(renderer);
            if (picture->smooth()) renderer.copy(smooth->handle(), plain->handle(), pixels);
            QImage image = renderer.read(pixels);
            picture.reset();
            guard.lock();
            m_image = std::move(image);
            m_drawing = false;
            m_changed.notify_all();
            emit drawn();
        }
    }
    context.doneCurrent();
}

} // namespace gyre
