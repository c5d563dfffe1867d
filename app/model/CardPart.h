// A part of the window's model whose card lies over the view; one of them is open at a time. What it shows is worked out away from the window's thread.
#pragma once
#include "model/Apart.h"
#include "model/ModelPart.h"

namespace gyre {

class CardPart : public ModelPart {
    Q_OBJECT
public:
    void open(bool on);
    void toggle() { open(!m_open); }
    [[nodiscard]] bool isOpen() const { return m_open; }
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_again && !m_soon.isActive(); }
    /// Why there is nothing to show, or what is waited for.
    [[nodiscard]] const QString& trouble() const { return m_trouble; }

signals:
    void changed();

protected:
    explicit CardPart(AppModel& model);
    /// What it shows may be another one now; where it is under way it is called off first.
    void ask();
    /// The same in a moment, for what moves on and on.
    void askSoon() { m_soon.start(); }
    /// Begins to work it out.
    virtual void start() = 0;
    /// It is called off.
    virtual void forget() {}
    virtual void closed() {}

    bool m_again = false;
    QString m_trouble;
    Apart m_apart;

private:
    bool m_open = false;
    QTimer m_soon;
};

} // namespace gyre
