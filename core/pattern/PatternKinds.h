// The patterns: one entry for each in PatternKinds.cpp. Rows are the level lines of a field over the faces; a pattern is where that comes from.
#pragma once
#include "pattern/Field.h"
#include "pattern/Pattern.h"
#include <functional>
#include <span>

namespace gyre {

/// What a field is made for: the mesh with its holes bridged, and the rails where there are any.
struct FieldInput {
    const FieldMesh& mesh;
    const PatternSpec& spec;
    const std::array<std::vector<std::uint32_t>, 2>& rails;    ///< points of the mesh
    const std::vector<std::pair<std::uint32_t, double>>& held; ///< points with their levels
};
/// A field that space has everywhere, 0 … 1 over the faces: its level lines are met exactly on the exact surfaces.
struct SpaceField {
    std::function<double(const Vec3&)> value;
    std::function<Vec3(const Vec3&)> gradient;
};
struct PatternField {
    Field field;
    std::optional<SpaceField> space;
};
struct PatternKind {
    PatternBy by;
    const char *word, *label; ///< in files, in sentences
    bool rails;               ///< runs from one picked rail to another; they are rows themselves
    Result<PatternField> (*field)(const FieldInput& input);
};
[[nodiscard]] std::span<const PatternKind> patternKinds();
[[nodiscard]] const PatternKind& kindOf(PatternBy by);

} // namespace gyre
