// Safe skins and ways over small gaps: one entry for each in LinkKinds.cpp.
#pragma once
#include "geom/MeshTree.h"
#include "link/LinkSpec.h"
#include <optional>
#include <span>

namespace gyre {

/// A turn about an axis through the datum.
struct SkinTurn {
    Vec3 axis = Vec3::UnitZ();
    double angle = 0.0;
};

/// The skin's axis is Z for all of them.
struct SkinForm {
    SkinKind kind;
    const char *word, *label; ///< in files, in sentences
    bool round;               ///< its size is a radius
    /// How far one must go from a point along a unit direction until outside of it; nullopt when never.
    std::optional<double> (*wayOut)(double size, const Vec3& from, const Vec3& along);
    /// What brings the side of it that one place lies on to that of another.
    SkinTurn (*between)(const Vec3& from, const Vec3& to);
    bool keepsRadius; ///< a way along it keeps its distance from the datum
};
[[nodiscard]] std::span<const SkinForm> skinForms();
[[nodiscard]] const SkinForm& formOf(SkinKind kind);

struct SmallLinkForm {
    SmallLink kind;
    const char *word, *label; ///< in files, in sentences
    bool straight;            ///< where nothing is near it goes straight across
    double reach;             ///< of the gap: how far it follows the rows at both of its ends
};
[[nodiscard]] std::span<const SmallLinkForm> smallLinkForms();
[[nodiscard]] const SmallLinkForm& formOf(SmallLink kind);

} // namespace gyre
