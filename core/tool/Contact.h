// Where the tip stands when the cutter touches a surface: the support rule.
#pragma once
#include "tool/Assembly.h"

namespace gyre {

/// Tip position for a contact point, outward unit normal and unit axis: `P = C − s(−N)`.
///
/// Ball: `P = C + r(N − a)`. Corner radius: `P = C + rc·N + (R − rc)·n⊥ − rc·a`. Where a whole disc or line of the cutter
/// touches (flat bottom with a = N, flank with a ⟂ N) the tip of a flat bottom is put on the contact, and a flank
/// touches at the lower end of its straight part; `free` then says so.
struct TipPlace {
    Vec3 tip;
    bool free = false; ///< the support was a disc or a line, and the rule above chose
};
[[nodiscard]] TipPlace tipFromContact(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const Vec3& axis);

/// Furthest point of the cutting zone along d, in tool coordinates (tip at 0, axis z).
[[nodiscard]] Vec3 cutterSupport(const Cutter& cutter, const Vec3& d);

} // namespace gyre
