// Polylines: length, resampling, distance.
#pragma once
#include "geom/Vec.h"
#include <vector>

namespace gyre {

using Polyline = std::vector<Vec3>;

[[nodiscard]] double length(const Polyline& line);
/// Distance from p to the segment ab.
[[nodiscard]] double distanceToSegment(const Vec3& p, const Vec3& a, const Vec3& b);
/// Arc length at every point, starting with 0.
[[nodiscard]] std::vector<double> arcLengths(const Polyline& line);
/// Point at arc length s, clamped to the ends. `lengths` as from arcLengths().
[[nodiscard]] Vec3 pointAtLength(const Polyline& line, const std::vector<double>& lengths, double s);

/// `line` run the way that suits `beside` better; a closed one (its last point is its first) starts nearest to the other's start.
[[nodiscard]] Polyline alignedWith(const Polyline& beside, Polyline line);

/// Nearest distances to a fixed polyline, for many questions: a small tree over its segments.
class PolylineDistance {
public:
    explicit PolylineDistance(Polyline line);
    /// Least distance from p; `limit` cuts the search short (a larger true distance is returned as ≥ limit).
    [[nodiscard]] double distance(const Vec3& p, double limit = 1e300) const { return nearest(p, limit).distance; }
    struct Nearest {
        double distance;
        std::size_t segment = 0; ///< from this point to the next one
    };
    [[nodiscard]] Nearest nearest(const Vec3& p, double limit = 1e300) const;

private:
    struct Node {
        Vec3 low, high;
        std::uint32_t first, count; ///< segments of a leaf; count 0: children at first and first+1
    };
    void build(std::uint32_t node, std::uint32_t first, std::uint32_t count);
    Polyline m_line;
    std::vector<Node> m_nodes;
};

} // namespace gyre
