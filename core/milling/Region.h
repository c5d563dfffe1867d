// Flat areas with holes: union, difference, offsets. All exact to kRegionTolerance.
#pragma once
#include "geom/Vec.h"
#include <vector>

namespace gyre {

inline constexpr double kRegionTolerance = 5e-4; // mm: arcs of offsets are polygons this close, never outside of the true arc by more

using Loop = std::vector<Vec2>; ///< closed; the first point is not repeated
using Line = std::vector<Vec2>; ///< open

/// Outer loops run counter-clockwise, holes clockwise; loops do not cross.
struct Region {
    std::vector<Loop> loops;
    [[nodiscard]] bool empty() const { return loops.empty(); }
    [[nodiscard]] double area() const;
    [[nodiscard]] bool contains(const Vec2& p) const;
    /// Does the straight way stay inside (the border counts as inside, to 2 µm)?
    [[nodiscard]] bool containsWay(const Vec2& a, const Vec2& b) const;
    [[nodiscard]] Vec2 nearestOnBorder(const Vec2& p) const;
    [[nodiscard]] double distanceToBorder(const Vec2& p) const;
    [[nodiscard]] double distanceToBorder(const Vec2& a, const Vec2& b) const; ///< of a straight way
    [[nodiscard]] std::pair<Vec2, Vec2> bounds() const;
};

[[nodiscard]] double signedArea(const Loop& loop); ///< positive: counter-clockwise

/// What lies inside an odd number of loops, whichever way they run.
[[nodiscard]] Region regionOf(const std::vector<Loop>& loops);
[[nodiscard]] Region united(const Region& a, const Region& b);
/// All that lies in any of many small loops, whichever way each turns, at once.
[[nodiscard]] Region unitedAll(const std::vector<Loop>& loops);
[[nodiscard]] Region common(const Region& a, const Region& b);
[[nodiscard]] Region without(const Region& a, const Region& b);
/// Grown all around with round corners; shrunk when `by` is negative.
/// @param tolerance of its arcs, mm; coarser is much quicker
[[nodiscard]] Region grown(const Region& a, double by, double tolerance = kRegionTolerance);
/// With fewer points: none that is left out lies further than `tolerance` from what remains.
[[nodiscard]] Region fewerPoints(const Region& region, double tolerance);
[[nodiscard]] Line fewerPoints(const Line& line, double tolerance);
/// A line that leaves a region by no more than little, with more points: between them it stays inside as far as its points do.
[[nodiscard]] Line keptInside(const Line& line, const Region& region);
/// All within `by` of open lines or closed loops.
[[nodiscard]] Region aroundLines(const std::vector<Line>& lines, double by, double tolerance = kRegionTolerance);
/// The stretches of open lines that lie inside.
[[nodiscard]] std::vector<Line> linesInside(const std::vector<Line>& lines, const Region& region);
[[nodiscard]] std::vector<Line> linesOutside(const std::vector<Line>& lines, const Region& region);
/// Each connected piece by itself, with its holes; in a fixed order.
[[nodiscard]] std::vector<Region> pieces(const Region& region);
/// A point deep inside: as far from the border as can be found, to a hundredth of the region's size.
[[nodiscard]] Vec2 deepestPoint(const Region& region);

} // namespace gyre
