// The patterns: one entry for each in PatternKinds.cpp. Rows are the level lines of a field over the faces; a pattern is where that comes from.
#pragma once
#include "pattern/Field.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/RawRows.h"
#include <cmath>
#include <functional>
#include <span>

namespace gyre {

/// What a field is made for: the mesh with its holes bridged, and the rails where there are any.
struct FieldInput {
    const Part& part;
    FieldMesh& mesh; ///< one that closes on itself may have to be opened
    const PatternSpec& spec;
    const std::array<std::vector<std::vector<std::uint32_t>>, 2>& rails; ///< points of the mesh, edge by edge
    const std::vector<std::pair<std::uint32_t, double>>& held;           ///< points with their levels
    const std::vector<Polyline>& curves;                                 ///< strokes
    const Progress* progress;                                            ///< may call it off
};
/// A field with a closed form, 0 … 1 over the faces: its level lines are met exactly on the exact surfaces. It may go by the place in space, or by the
/// face and where on it.
struct SpaceField {
    std::function<double(const RowSample&)> value;
    std::function<Vec3(const RowSample&)> gradient;
    bool round = false; ///< the last level is the first again
    /// How far a place is off a level.
    [[nodiscard]] double off(const RowSample& s, double level) const {
        const double d = value(s) - level;
        return round ? d - std::round(d) : d;
    }
};
struct PatternField {
    Field field;
    std::optional<SpaceField> space;
    double width = 0.0;  ///< mm from level 0 to 1 where that is the same everywhere
    double extent = 0.0; ///< mm from level 0 to 1 in space, where faces that lie nearly at one level would ask for rows without end; 0: they do not
    std::vector<Finding> findings = {};
};
struct PatternKind {
    PatternBy by;
    const char *word, *label; ///< in files, in sentences
    const char* says;         ///< what follows the label, with its words in braces
    int rails;                ///< how many rails it needs; those are rows themselves
    double secondLevel;       ///< of the field on the second rail; on the first one it is 0
    bool fine;                ///< its rows are no better than the triangles that the field lies on
    bool faceByFace;          ///< every face has rows of its own
    Result<PatternField> (*field)(const FieldInput& input);
    bool drawn = false; ///< rows are curves that are given: nothing is asked of their distance
};
[[nodiscard]] std::span<const PatternKind> patternKinds();
[[nodiscard]] const PatternKind& kindOf(PatternBy by);

} // namespace gyre
