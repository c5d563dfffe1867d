// The window's model: what was measured; it stays beside the things until it is put away.
#pragma once
#include "model/ModelPart.h"
#include "part/Measure.h"

namespace gyre {

class Measures : public ModelPart {
    Q_OBJECT
public:
    explicit Measures(AppModel& model);

    /// Of one thing, or between two that were picked one after the other.
    struct Entry {
        MeasuredThing one;
        std::optional<MeasuredThing> other;
        std::vector<Measured> facts;
        QString tool; ///< "holder": from a zone of the tool where it stood
    };
    [[nodiscard]] const std::vector<Entry>& all() const { return m_all; }
    /// Picks for measuring, or no more.
    void begin();
    /// A thing that was picked: its own figures, and those between it and the one before.
    void take(int face, int edge, const Vec3& at);
    /// From cutter, shank and holder as they stand to the thing that was picked last.
    void fromTool();
    void putAway();
    /// "wall thickness 4.000 mm"
    [[nodiscard]] QString words(const Measured& fact) const;
    /// All that an entry says, in one line.
    [[nodiscard]] QString words(const Entry& entry) const;

signals:
    void changed();

private:
    std::vector<Entry> m_all;
    std::optional<MeasuredThing> m_before; ///< waits for another one
};

} // namespace gyre
