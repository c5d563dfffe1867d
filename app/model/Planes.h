// The window's model: work planes.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

class Planes : public ModelPart {
    Q_OBJECT
public:
    explicit Planes(AppModel& model) : ModelPart(model) {}

    void add(const WorkPlane& plane);
    Status addByAngles(double aboutX, double aboutY, double aboutZ);
    void remove(std::size_t plane);
    void flip(std::size_t plane);
    void rename(std::size_t plane, const QString& name);
    /// With which rotary angles the machine stands the tool on the plane.
    [[nodiscard]] QString reach(const WorkPlane& plane) const;
};

} // namespace gyre
