// Steady engagement: how much of a cutter's rim lies in what stands, and fronts led so that this stays the same.
#pragma once
#include "milling/Region.h"
#include <array>
#include <cstdint>
#include <span>
#include <unordered_map>

namespace gyre {

/// What of a cutter's rim lies in what stands. Borders are found by a grid of squares as large as the cutter's radius.
/// Not for several threads at once: it keeps room for its work.
class RimContact {
public:
    /// @param cleared what stands no more; all else does
    RimContact(const Region& cleared, double radius);
    /// @param own middles where the cutter has been since: what lay around them is gone as well
    /// @return rad of the rim about `c`
    [[nodiscard]] double engaged(const Vec2& c, std::span<const Vec2> own = {}) const;

private:
    struct Arc {
        double from = 0.0, to = 0.0; ///< rad, from < to
    };
    [[nodiscard]] static std::uint64_t key(int x, int y) { return (static_cast<std::uint64_t>(static_cast<std::uint32_t>(x)) << 32) | static_cast<std::uint32_t>(y); }
    [[nodiscard]] int square(double at) const;
    void takeOut(double from, double to) const;

    const Region& m_cleared;
    double m_radius;
    std::unordered_map<std::uint64_t, std::vector<std::array<Vec2, 2>>> m_edges;
    mutable std::vector<std::pair<double, bool>> m_crossings; ///< angle, and whether the rim enters what stands there
    mutable std::vector<Arc> m_arcs, m_rest;
};

struct SteadySpec {
    double radius = 5.0;
    double step = 1.5;  ///< between straight fronts
    double angle = 0.0; ///< rad of the rim that are wanted
    bool right = true;  ///< what stands lies on the right of the line
};
/// A front led sideways so that the engagement comes as near to what is wanted as can be, in the order in which it is cut: further into
/// what stands where that ends ahead (around an outer corner the way becomes a curve that follows the rim's foremost point along the
/// border), further back where more stands. It begins so far back that no more is met all around than is wanted, and does not chase what
/// ends within the last two radii. A short stretch along a wall before the front turns off it, or after, is left out.
/// @param front   as it is to be cut
/// @param allowed where the cutter's middle may be: all places lie there; between two of them the way may leave it by a bend's height
[[nodiscard]] Line steadied(const Line& front, const RimContact& standing, const Region& allowed, const SteadySpec& spec);

} // namespace gyre
