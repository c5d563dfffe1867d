// Holes: found from faces, with their steps, chamfers and bottoms.
#pragma once
#include "part/Part.h"
#include <optional>

namespace gyre {

/// A stretch of a hole with one cylinder or one cone, from the mouth inward.
struct HoleSection {
    double from = 0.0, to = 0.0;             ///< depth below the mouth, mm
    double fromRadius = 0.0, toRadius = 0.0; ///< equal for a cylinder
    [[nodiscard]] bool cone() const { return std::abs(fromRadius - toRadius) > 1e-6; }
};

enum class HoleBottom { Through, Flat, Cone, Round };
[[nodiscard]] const char* holeBottomName(HoleBottom b);

struct Hole {
    Vec3 mouth;     ///< on the axis, where the hole begins
    Vec3 direction; ///< unit, out of the material: the way the tool comes from is its opposite
    double depth = 0.0;
    HoleBottom bottom = HoleBottom::Through;
    bool airBehind = false; ///< of a through hole: a tool could come from its other end as well
    std::vector<HoleSection> sections;
    std::vector<int> faces;

    [[nodiscard]] double diameter() const; ///< of the narrowest cylinder, which a drill makes
    [[nodiscard]] std::string words(bool withDepth = true) const;
};

/// Finds holes made of cylinders and cones that close all around, on the whole part or on some faces (those whose mouths lie on
/// them count as well). Cut-open ones (a slot's end, a fillet, a bore that breaks out of a side) and grooves around a boss are none, nor
/// are wide cones by themselves (a seat, a countersink without its hole).
[[nodiscard]] std::vector<Hole> findHoles(const Part& part, const std::vector<int>& onFaces = {});

/// The same hole entered from the other side; only through holes have one.
[[nodiscard]] Hole reversed(const Hole& hole);

/// Holes alike: same sections, depth and bottom, and all reachable by turning one rotary axis, or not.
struct HoleGroup {
    std::vector<std::size_t> holes; ///< indices
    bool fourAxis = false;          ///< square to the rotary centreline and meeting it: one rotary brings it under the spindle
    std::string words;
};
[[nodiscard]] std::vector<HoleGroup> groupHoles(const std::vector<Hole>& holes, const std::optional<AxisLine>& rotary);

} // namespace gyre
