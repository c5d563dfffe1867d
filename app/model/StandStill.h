// The window's model: directions that stand still instead of the turning axis of the operation in hand; worked out away from the window's thread.
#pragma once
#include "model/CardPart.h"
#include "operation/Directions.h"
#include "session/Indexed.h"

namespace gyre {

class StandStill : public CardPart {
    Q_OBJECT
public:
    explicit StandStill(AppModel& model);

    /// Of the operation in hand; nothing while they are looked for, and where there are none.
    [[nodiscard]] const std::optional<Directions>& found() const { return m_found; }
    /// What operations with these come to; nothing until they are computed.
    [[nodiscard]] const std::optional<IndexedTold>& told() const { return m_told; }
    /// ° off the faces' normal that they may lean.
    [[nodiscard]] double lean() const { return m_lean; }
    void setLean(double degrees);
    [[nodiscard]] QString angleWords(std::size_t direction) const;     ///< "A −30.00° C 45.00°"
    [[nodiscard]] QString directionWords(std::size_t direction) const; ///< "cuts 64 %, reaches 71 % · room of 12°"
    [[nodiscard]] QString summary() const;                             ///< "2 directions reach all of it, fewer do not. …"
    /// Operations with these do its work from now on.
    void take();

private:
    void start() override;
    void compute(const std::vector<std::shared_ptr<const OperationResult>>& before, std::uint64_t key);
    [[nodiscard]] std::vector<Vec3> directions() const;
    double m_lean = 75.0;
    std::optional<Directions> m_found;
    std::optional<IndexedTold> m_told;
    double m_secondsNow = 0.0, m_cutNow = 0.0; ///< of the operation as it is
    std::uint64_t m_of = 0;                    ///< of all that they rest on
};

} // namespace gyre
