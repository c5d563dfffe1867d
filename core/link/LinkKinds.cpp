#include "link/LinkKinds.h"
#include "base/Units.h"
#include <algorithm>
#include <cmath>

namespace gyre {
namespace {

constexpr double kLongest = 5000.0; // mm

std::optional<double> outOfPlane(double size, const Vec3& p, const Vec3& a) {
    if (p.z() >= size) return 0.0;
    if (a.z() < 1e-3) return std::nullopt;
    const double t = (size - p.z()) / a.z();
    return t <= kLongest ? std::optional(t) : std::nullopt;
}

/// @param o, d  what counts of the place and the direction
std::optional<double> outOfRound(double size, const Vec3& o, const Vec3& d) {
    const double dd = d.squaredNorm(), od = o.dot(d), c = o.squaredNorm() - size * size;
    if (dd < 1e-6) return c >= 0.0 ? std::optional(0.0) : std::nullopt;
    const double root = od * od - dd * c;
    // Outside and moving away, or passing by: nothing to leave.
    if (c >= 0.0 && (od >= 0.0 || root <= 0.0)) return 0.0;
    const double t = (-od + std::sqrt(std::max(0.0, root))) / dd;
    return t <= kLongest ? std::optional(t) : std::nullopt;
}

std::optional<double> outOfCylinder(double size, const Vec3& p, const Vec3& a) { return outOfRound(size, {p.x(), p.y(), 0.0}, {a.x(), a.y(), 0.0}); }

SkinTurn noTurn(const Vec3&, const Vec3&) { return {}; }

SkinTurn aboutAxis(const Vec3& a, const Vec3& b) { return {Vec3::UnitZ(), std::remainder(std::atan2(b.y(), b.x()) - std::atan2(a.y(), a.x()), 2.0 * kPi)}; }

SkinTurn aboutDatum(const Vec3& a, const Vec3& b) {
    const Vec3 n = a.cross(b);
    return {n.norm() > 1e-9 ? Vec3(n.normalized()) : anyPerpendicular(a.normalized()), angleBetween(a, b)};
}

const SkinForm kSkins[] = {
    {SkinKind::Plane, "plane", "plane", false, outOfPlane, noTurn, false},
    {SkinKind::Cylinder, "cylinder", "cylinder", true, outOfCylinder, aboutAxis, false},
    {SkinKind::Sphere, "sphere", "sphere R", true, outOfRound, aboutDatum, true},
};

const SmallLinkForm kSmallLinks[] = {
    {SmallLink::Direct, "direct", "straight line", true, 0.3},
    {SmallLink::Smooth, "smooth", "smooth curve", false, 1.5},
};

} // namespace

std::span<const SkinForm> skinForms() { return kSkins; }
std::span<const SmallLinkForm> smallLinkForms() { return kSmallLinks; }

const SkinForm& formOf(SkinKind kind) {
    return *std::find_if(std::begin(kSkins), std::end(kSkins), [&](const SkinForm& f) { return f.kind == kind; });
}

const SmallLinkForm& formOf(SmallLink kind) {
    return *std::find_if(std::begin(kSmallLinks), std::end(kSmallLinks), [&](const SmallLinkForm& f) { return f.kind == kind; });
}

} // namespace gyre
