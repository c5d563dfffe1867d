// The window's model: bodies and where they stand, the part's seat, stock, material.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

class SetUp : public ModelPart {
    Q_OBJECT
public:
    explicit SetUp(AppModel& model) : ModelPart(model) {}

    /// There is one part: a body that was it before becomes a reference.
    void setRole(std::size_t body, const QString& role);
    /// The body that is in hand, with arrows and a ring to move it by; −1: none. The part in hand moves with all that stands around it.
    [[nodiscard]] int heldBody() const { return m_held; }
    void holdBody(int body);
    /// Where a fixture, a stock or a reference stands, by numbers. @param mergeKey  changes while it is dragged are one step to undo
    void placeBody(std::size_t body, const Vec3& moved, const Vec3& turned, const QString& mergeKey = {});
    /// Turned about X, Y or Z (0 … 2) to an angle, its middle where it is.
    void turnBody(std::size_t body, int axis, double degrees);
    /// How far from there a fixture may stand.
    void setWithin(std::size_t body, double mm);
    void seatPart(const Vec3& seat, double turnDegrees, const QString& mergeKey = {});
    /// Where a body stands now against where the present picture shows it.
    [[nodiscard]] Frame aheadOfPicture(std::size_t body) const;
    [[nodiscard]] const PlacedBody* placedBody(std::size_t body) const;
    /// The part is made of this; tools that know it take its speed and feed.
    void setMaterial(const QString& material);
    /// Stock around the part, and the part in the middle of the table; as one step.
    void propose();
    /// Changes the body's shape; a shape that cannot be is refused with its reason.
    Status setStock(std::size_t body, const StockShape& shape);
    /// Bodies that stand inside one another, in words, the worst first.
    [[nodiscard]] QStringList bodiesInside() const;
    /// What leaves the machine's travel where the part stands now.
    [[nodiscard]] QStringList beyondTravel() const;

signals:
    void heldChanged();

private:
    int m_held = -1;
};

} // namespace gyre
