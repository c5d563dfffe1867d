// Roughing by levels from what is left of the stock, with steady engagement.
#pragma once
#include "milling/Mill.h"

namespace gyre {

class Stock;

struct RoughInput {
    const MillInput& in;
    const Sheet& sheet;
    const Assembly& tool;
    double radius, leave, chord;
};
struct RoughMade {
    double top = 0.0, bottom = 0.0;
    std::size_t levels = 0;
    Region target;
    std::vector<FlatPass> passes;
    std::vector<Finding> findings;
};
[[nodiscard]] Result<RoughMade> roughOn(const RoughInput& in, const MillSpec& spec, Progress& progress);

struct LevelCleared {
    std::vector<FlatPass> passes;
    std::vector<Region> standing; ///< where the cutter could be, but nowhere has room to come down nor a way in from the side
    double cut = 0.0;             ///< mm of cuts
    double heavy = 0.0;           ///< of those: where more of the rim stands in the stock than is asked for, by more than a fifth
    double most = 0.0;            ///< the largest of that, rad
    Vec2 mostAt = Vec2::Zero();
};
/// One level: fronts that move forward from where nothing stands any more. The cutter's middle runs along what is cleared, shrunk by
/// its radius less the step, led sideways so that the angle of engagement stays that of the step on a straight front,
/// `acos(1 − step/r)` (`steadied`).
///
/// Cuts that meet more than is asked for are left until no others can be made; those that stay (between an island and a wall nearer than two
/// diameters there may be no other) run with less feed.
///
/// @param allowed   where the middle may be
/// @param material  what is to be cut there
/// @return passes with `Cut` stretches, climbing unless told otherwise, and `Rapid` ones over what is cleared
[[nodiscard]] LevelCleared clearLevel(const Region& allowed, const Region& material, double radius, double step, double from, double height, const MillSpec& spec,
                                      int level, const Progress& progress);

/// Where a flat section of the stock is material.
[[nodiscard]] Region sectionOf(const Stock& stock, const Sheet& sheet, double height);

} // namespace gyre
