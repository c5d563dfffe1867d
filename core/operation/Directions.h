// Directions that stand still instead of an axis that turns: the fewest that reach all that an operation cuts.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "geom/Vec.h"
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

struct OperationResult;
struct Recipe;
struct Workplace;

/// Which directions reach which places: for each direction a bit for every place.
struct Reached {
    std::size_t places = 0;
    std::vector<std::vector<std::uint64_t>> by;
    explicit Reached(std::size_t places) : places(places) {}
    void add(const std::vector<char>& one); ///< one more direction
    [[nodiscard]] bool holds(std::size_t direction, std::size_t place) const { return (by[direction][place / 64] >> (place % 64) & 1U) != 0; }
};
struct Covering {
    std::vector<std::size_t> chosen; ///< numbers of directions; together they reach what all of them together do
    bool fewest = true;              ///< every way to do it with fewer was looked at
};
/// One after the other the direction that reaches most of what is left; then every way to do with fewer, as far as there is time for.
/// @param steps  of the search at most
[[nodiscard]] Covering fewestCovering(const Reached& reached, std::size_t steps = 4'000'000);

struct FixedDirection {
    Vec3 axis = Vec3::UnitZ(); ///< from tip to spindle, in the datum
    double reaches = 0.0;      ///< share of the way that it reaches, 0 … 1
    double cuts = 0.0;         ///< share of the way that is left to it by those before
    double room = 0.0;         ///< rad by which it might stand otherwise, and they would still reach as much together
};
struct Directions {
    std::vector<FixedDirection> chosen; ///< the one that cuts most comes first
    double reached = 0.0;               ///< share of the way that one of them reaches
    bool fewest = true;                 ///< fewer do not reach as much, of all directions that were tried
    std::size_t changes = 0;            ///< along the rows, from one of them to another
    std::string blockedBy;              ///< "holder, clamp 2": what is in the way where none reaches, by the operation's own axis
    std::optional<Vec3> bare;           ///< a place that none reaches
};

/// Looked at in about a thousand places of the passes and two thousand directions all around: those within the axis' own window that the machine
/// takes, where shank, holder and cutter come too near to nothing and the axis leans no further than `lean` off the face's normal.
/// @param lean  rad
/// @param most  directions; where more are needed the first of them are told
[[nodiscard]] Result<Directions> fewestDirections(const Workplace& place, const Recipe& recipe, const OperationResult& result, double lean, std::size_t most,
                                                  Progress& progress);

} // namespace gyre
