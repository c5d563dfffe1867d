// The window's model: directions that stand still instead of the turning axis of the operation in hand; worked out away from the window's thread.
#pragma once
#include "model/Apart.h"
#include "model/ModelPart.h"
#include "operation/Directions.h"
#include "session/Indexed.h"

namespace gyre {

class StandStill : public ModelPart {
    Q_OBJECT
public:
    explicit StandStill(AppModel& model);

    void open(bool on);
    [[nodiscard]] bool isOpen() const { return m_open; }
    /// Of the operation in hand; nothing while they are looked for, and where there are none.
    [[nodiscard]] const std::optional<Directions>& found() const { return m_found; }
    /// What operations with these come to; nothing until they are computed.
    [[nodiscard]] const std::optional<IndexedTold>& told() const { return m_told; }
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_again; }
    [[nodiscard]] const QString& trouble() const { return m_trouble; }
    /// ° off the faces' normal that they may lean.
    [[nodiscard]] double lean() const { return m_lean; }
    void setLean(double degrees);
    [[nodiscard]] QString angleWords(std::size_t direction) const;     ///< "A −30.00° C 45.00°"
    [[nodiscard]] QString directionWords(std::size_t direction) const; ///< "cuts 64 %, reaches 71 % · room of 12°"
    [[nodiscard]] QString summary() const;                             ///< "2 directions reach all of it, fewer do not. …"
    /// Operations with these do its work from now on.
    void take();

signals:
    void changed();

private:
    void ask();
    void start();
    void compute(const std::vector<std::shared_ptr<const OperationResult>>& before, std::uint64_t key);
    [[nodiscard]] std::vector<Vec3> directions() const;
    bool m_open = false, m_again = false;
    double m_lean = 75.0;
    std::optional<Directions> m_found;
    std::optional<IndexedTold> m_told;
    double m_secondsNow = 0.0, m_cutNow = 0.0; ///< of the operation as it is
    QString m_trouble;
    std::uint64_t m_of = 0; ///< of all that they rest on
    Apart m_apart;
};

} // namespace gyre
