// The marks that cutters leave on a small patch of a surface: what stays between rows, at seams and where they enter, far finer than any stock.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "path/Toolpath.h"
#include "tool/Assembly.h"
#include <cstdint>
#include <vector>

namespace gyre {

/// Places on a surface in a grid, each with the line along which heights are measured.
struct MarkGround {
    std::size_t across = 0, along = 0; ///< so many, row by row: place (i, j) has the number j · across + i
    double step = 0.0;                 ///< mm from place to place
    std::vector<Vec3> foot;            ///< on the surface as modelled
    std::vector<Vec3> outward;         ///< unit; zero where there is no surface
};

struct MarkCut {
    const Toolpath& path;
    const Cutter& cutter;
};

struct MarkMap {
    std::size_t across = 0, along = 0;
    double step = 0.0;
    std::vector<float> height;    ///< mm over the surface as modelled, below it negative; kUncut where nothing comes near
    std::vector<std::int32_t> by; ///< number of the cut that went lowest there; −1 where none did
    [[nodiscard]] bool isCut(std::size_t place) const { return by[place] >= 0; }
    static constexpr float kUncut = 1e30F;
    /// What stands higher counts as not cut, mm; of small cutters less.
    static constexpr double kReach = 1.5;
    /// Deeper than this is not looked for, mm.
    static constexpr double kDeepest = 5.0;
};

/// A cutter that turns sweeps, from location to location, a body; on each line of the ground the lowest place at which one of these bodies begins is what
/// stays. The way between two locations is not divided into places: how near a convex body that moves straight comes to a point is a convex function of the
/// way, so that its least is found to some nanometres. Rapids leave no marks. Teeth do not count: the cutter is the body that it is when it turns.
[[nodiscard]] Result<MarkMap> marksOn(const MarkGround& ground, const std::vector<MarkCut>& cuts, Progress& progress);

/// How rough heights along a line are.
struct Roughness {
    double rt = 0.0; ///< mm from the lowest to the highest
    double ra = 0.0; ///< mm: the mean of how far they are off their mean
    std::size_t places = 0;
};
/// Of those places of a row (or column) of the grid that are cut.
[[nodiscard]] Roughness roughnessAcross(const MarkMap& marks, std::size_t row);
[[nodiscard]] Roughness roughnessAlong(const MarkMap& marks, std::size_t column);

/// What one cut leaves of the patch.
struct MarkShare {
    std::size_t cut = 0;
    double share = 0.0; ///< of the places that are cut, 0 … 1
    double mean = 0.0;  ///< mm over the surface as modelled
};
struct MarkSum {
    double low = 0.0, high = 0.0; ///< mm, of what is cut
    double uncut = 0.0;           ///< of the places of the surface, 0 … 1
    std::vector<MarkShare> by;    ///< by the cuts' numbers
};
[[nodiscard]] MarkSum sumOf(const MarkMap& marks, const MarkGround& ground);

} // namespace gyre
