// The window's model: can a cutter's side follow a face?
#pragma once
#include "model/ModelPart.h"
#include "part/Flank.h"

namespace gyre {

class FlankShow : public ModelPart {
    Q_OBJECT
public:
    explicit FlankShow(AppModel& model) : ModelPart(model) {}

    [[nodiscard]] const std::optional<FlankAnswer>& answer() const { return m_answer; }
    [[nodiscard]] QString what() const { return m_what; } ///< "Face 7", "Between edges 3 and 9"
    [[nodiscard]] double radius() const;                  ///< of the tool in use
    void ask(int face);                                   ///< −1: no more
    void askBetween(const std::vector<int>& lower, const std::vector<int>& upper);
    /// The part may be another one.
    void askAgain();
    void reset();

private:
    std::optional<FlankAnswer> m_answer;
    QString m_what;
    int m_face = -1;
};

} // namespace gyre
