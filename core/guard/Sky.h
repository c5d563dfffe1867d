// All directions at one place: where the axis may stand, and what is in the way elsewhere.
#pragma once
#include "guard/Guard.h"

namespace gyre {

/// As seen from above the surface: the middle is its normal, the rim lies in the surface, up is the feed, right is the feed's right hand.
struct SkyMap {
    enum class Kind : std::uint8_t {
        Below,   ///< no direction: outside of the disc
        Safe,    ///< nothing is too near
        Blocked, ///< by `obstacle`, with `zone`
        Reach,   ///< the machine cannot stand like that
        Outside  ///< of the axis' own window
    };
    struct Cell {
        Kind kind = Kind::Below;
        Zone zone = Zone::Holder;
        std::int16_t obstacle = -1;
        float room = 0.0f; ///< Safe: mm beyond what is asked, for whichever of shank and holder has less; never more than kMostRoom
    };
    static constexpr float kMostRoom = 5.0f;
    int across = 0; ///< cells in a row and rows in all
    Vec3 normal = Vec3::UnitZ(), feed = Vec3::UnitX();
    std::vector<Cell> cells; ///< row by row, from the lower left

    /// The direction in the middle of a cell; nothing outside of the disc.
    [[nodiscard]] std::optional<Vec3> axisOf(int column, int row) const;
    /// Where a direction lies, −1 … 1 to the right and up.
    [[nodiscard]] Vec2 placeOf(const Vec3& axis) const;
    /// The direction at a place of the disc; beyond the rim the one on it.
    [[nodiscard]] Vec3 axisAt(const Vec2& place) const;
    [[nodiscard]] const Cell& cellAt(const Vec2& place) const;
    [[nodiscard]] std::size_t count(Kind kind) const;
};

/// What one direction is like.
/// @param rooms measure how much room it has
[[nodiscard]] SkyMap::Cell skyCell(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at, const Vec3& axis, bool rooms, HitHints& hints);
/// @param cell  ° across a cell, each as its middle is
/// @param rooms measure how much room safe directions have
[[nodiscard]] SkyMap skyMap(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at, double cell, bool rooms);

} // namespace gyre
