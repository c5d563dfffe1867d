// The window's model: a closer look at the work around the present location; it follows the location.
#pragma once
#include "model/Apart.h"
#include "model/ModelPart.h"
#include "session/CloserLook.h"

namespace gyre {

class Closer : public ModelPart {
    Q_OBJECT
public:
    explicit Closer(AppModel& model);

    void look(std::optional<LookFrom> from);
    void cycle(); ///< off, the part, the stock
    [[nodiscard]] std::optional<LookFrom> from() const { return m_from; }
    [[nodiscard]] const std::shared_ptr<const CloserLook>& picture() const { return m_picture; } ///< null until it is there
    [[nodiscard]] QString trouble() const { return m_trouble; }
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_delay.isActive(); }

signals:
    void changed();

private:
    void lookNow();
    void none(const QString& why);
    std::optional<LookFrom> m_from;
    std::shared_ptr<const CloserLook> m_picture;
    QString m_trouble;
    QTimer m_delay;
    Apart m_apart;
};

} // namespace gyre
