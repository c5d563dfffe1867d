// Stage 5, Links: entries, exits and the ways between passes, guarded like cuts.
#pragma once
#include "guard/Guard.h"

namespace gyre {

enum class SkinKind { Plane, Cylinder, Sphere };
enum class SmallLink { Direct, Smooth };

/// The closed safe surface that moves between cuts stay outside of. Plane: square to the axis at `size`. Cylinder: about the axis.
/// Sphere: about the datum.
struct Skin {
    SkinKind kind = SkinKind::Cylinder;
    double size = 80.0; ///< height of the plane, or radius, mm
    int axis = 2;       ///< of plane and cylinder: the datum's X, Y or Z
};

struct LinkSpec {
    double entryRadius = 2.0; ///< tangent arc into and out of the cut; 0: none
    double smallGap = 2.0;    ///< gaps up to this are joined without leaving the part
    SmallLink small = SmallLink::Smooth;
    Skin skin;
    double approach = 3.0; ///< rapid ends this far above the entry
    bool low = false;      ///< where the axis stays and nothing is near: straight across as a rapid, without going out to the skin
};

/// How far one must go from p along the unit direction a until outside of the skin; nullopt when never.
[[nodiscard]] std::optional<double> wayOut(const Skin& skin, const Vec3& p, const Vec3& a);

/// Poses along the skin from a to b (both outside of it): they turn with the skin, so that the tool keeps its lean against it.
[[nodiscard]] std::vector<AxisPose> alongSkin(const Skin& skin, const AxisPose& a, const AxisPose& b);

struct LinkResult {
    Toolpath path;
    std::vector<std::size_t> passStart; ///< index in `path` of every pass's first location
    std::size_t joins = 0, retracts = 0;
    std::vector<Finding> findings;
};

/// @param feed cutting feed, mm/min
[[nodiscard]] Result<LinkResult> linkPasses(const Guard& guard, const std::vector<Pass>& passes, const LinkSpec& spec, double feed, Progress& progress);

} // namespace gyre
