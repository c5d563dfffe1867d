// The window's model: operations are added, named, moved, switched and taken away.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

class Route : public ModelPart {
    Q_OBJECT
public:
    explicit Route(AppModel& model) : ModelPart(model) {}

    void addRows(); ///< over faces that are picked next
    void remove(const QString& id);
    void rename(const QString& id, const QString& name);
    void duplicate(const QString& id); ///< with its steps, behind it
    void move(const QString& id, int by);
    /// Before another of its kind (operations, or steps of the same one); at the end when that is empty. With its steps.
    void placeBefore(const QString& id, const QString& before);
    void toggleActive(const QString& id);
    /// Cut slice by slice together with what is cut so right above it, or in slices of its own; what is in slices is cut as a whole again.
    void toggleSlices(const QString& id);
    [[nodiscard]] QString numberOf(const Recipe& recipe) const; ///< "2", and "2b" for its second step
};

} // namespace gyre
