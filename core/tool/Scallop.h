// How high what stays between two neighbouring rows is, of any cutter in any posture, on any curvature.
#pragma once
#include "tool/Assembly.h"
#include <vector>

namespace gyre {

/// Step that leaves the scallop `h` between rows of a ball of radius r on a plane: 2√(2rh − h²).
[[nodiscard]] double stepFromScallop(double radius, double scallop);
[[nodiscard]] double scallopFromStep(double radius, double step);

/// Seen along the feed, a cutter that leans is an outline that touches the surface. On a plane two outlines `step` apart meet at the height at which
/// one of them is as wide as that, which is known for every cutter from its support. Across a surface of curvature κ (positive where it is convex) the
/// outline is taken as the circle that is as wide at that height; two circles outside of or inside a third meet in closed form (decision 0033).
class Scallop {
public:
    explicit Scallop(double ballRadius);
    /// @param axis unit, in a frame whose z is the surface's normal and whose x is the feed
    Scallop(const Cutter& cutter, const Vec3& axis);
    /// Widest step that leaves no more than `height`. As a chord from contact to contact; no more than twice that on a plane.
    [[nodiscard]] double step(double height, double curvature) const;
    [[nodiscard]] double height(double step, double curvature) const;
    /// How wide the outline is at a height above the contact, both sides together.
    [[nodiscard]] double width(double height) const;
    /// Does the surface set how far rows may be apart, or is the cutter flat across the feed?
    [[nodiscard]] bool round() const { return m_round; }

private:
    [[nodiscard]] double widthOf(const Cutter& cutter, const Vec3& axis, double height) const;
    double m_ball = 0.0;       ///< 0: the table holds
    std::vector<double> m_log; ///< of widths, by the log of their heights
    double m_lowest = 0.0, m_perStep = 1.0, m_most = 0.0;
    bool m_round = true;
};

} // namespace gyre
