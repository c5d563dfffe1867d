// The cutter's side down a wall (swarf).
//
// A wall is a strip of straight lines (rulings) from a lower to an upper rail with the outward normals at both ends. On each ruling the
// cutter's axis is first laid over both ends: over L at (R + leave)·N_L, over U at (R + leave)·N_U (R taken along the flank's own normal).
// Where the normals turn by ω along the ruling that takes up to R(1 − cos ½ω) too much in the middle. Then both ends are moved square to
// the wall, and against each other along the feed, until the largest deviation over the neighbouring rulings is least.
#pragma once
#include "along/Along.h"
#include "geom/Curve.h"
#include "geom/Fineness.h"

namespace gyre {

struct SwarfSpec;

struct Ruling {
    Vec3 low, high;             ///< on the rails
    Vec3 lowNormal, highNormal; ///< outward, unit
    int face = -1;
    bool corner = false; ///< rolled around an outer corner
};

inline constexpr int kWallSamples = 13; ///< along a ruling, its ends among them

/// A wall as rulings in order along it.
struct Wall {
    std::vector<Ruling> rulings;
    std::vector<std::array<double, kWallSamples>> bow; ///< how far the part lies before the samples of each ruling, along its normals; empty: on them
    bool closed = false;                               ///< the last joins the first, which is not repeated
    double bulge = 0.0;                                ///< the largest of that, mm
    double loose = 0.0;                                ///< share of the samples that have no part to compare with, 0 … 1
    std::vector<int> faces;
    struct Corner {
        std::size_t after; ///< between this ruling and the next
        bool outer;
    };
    std::vector<Corner> corners;
};

/// The faces that go on beside a wall's face over straight common edges, in order; the whole wall where it closes.
[[nodiscard]] std::vector<int> wallFaces(const Part& part, int face);

/// @param spacing rulings are no further apart than this at either rail; @param turn rad between normals of neighbours
[[nodiscard]] Result<Wall> wallOfFaces(const Part& part, const std::vector<int>& faces, double tolerance, double spacing, double radius);
/// Matched between the pairs of `sync` so that the straight lines lie on the part, where there is one between the rails, and are twisted
/// least. On closed rails pairs go on over the seam. Corners are not rolled yet: that needs to know the free side.
/// @param sync fractions of the lower and upper rail's length; @param body null: none
[[nodiscard]] Result<Wall> wallOfRails(const Curve& lower, const Curve& upper, const std::vector<std::array<double, 2>>& sync, double tolerance, double spacing,
                                       double radius, const Part* body = nullptr);
/// Rolls around outer corners, and notes inner ones. Normals point out by then.
void roundCorners(Wall& wall, double radius, double tolerance);
/// Measures how far the part lies off the straight lines.
void layOnPart(Wall& wall, const Part& body);

/// Where the cutter stands on one ruling, laid on both ends.
/// @param past how far below the lower end the tip is, along the axis
[[nodiscard]] AxisPose onBothEnds(const Cutter& cutter, const Ruling& ruling, double past, double leave);

struct SwarfInput {
    const Part* part = nullptr;
    std::vector<int> faces;
    Curve lower, upper;
    /// Moves finished passes where something else stands in the way (up, off floors) before what they leave is measured; false: called off.
    std::function<bool(AlongResult&, Progress&)> settle;
};

[[nodiscard]] Result<AlongResult> swarf(const SwarfInput& input, const SwarfSpec& spec, const Assembly& tool, double leave, const Fineness& fineness, Progress& progress);

} // namespace gyre
