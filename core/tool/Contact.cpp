#include "tool/Contact.h"
#include "base/Units.h"

namespace gyre {

namespace {

// Nose and flank are round: where the direction points along the arc, there is its support.
Vec3 barrelSupport(const Cutter& cutter, const Vec3& d) {
    const BarrelProfile b = barrelProfile(cutter);
    const double flat = std::hypot(d.x(), d.y());
    const Vec2 way = Vec2(flat, d.z()).normalized();
    Vec2 p;
    if (way.y() > 0.0)
        p = Vec2(b.middle.x() + b.radius, b.middle.y());
    else if (way.y() >= b.join.y())
        p = b.middle + b.radius * way;
    else
        p = b.nose + cutter.cornerRadius * way;
    const double k = flat > 1e-12 * d.norm() ? p.x() / flat : 0.0;
    return {k * d.x(), k * d.y(), p.y()};
}

} // namespace

Vec3 cutterSupport(const Cutter& cutter, const Vec3& d) {
    if (cutter.shape == CutterShape::Barrel) return barrelSupport(cutter, d);
    Vec3 best = Vec3::Zero();
    double most = -1e300;
    const double length = d.norm();
    for (const auto& f : cuttingZone(cutter)) {
        const double flat = std::hypot(d.x(), d.y());
        // Along a tie (flank or bottom square to d) the lower end and the middle of the bottom are chosen.
        const bool top = f.r1 * flat + f.z1 * d.z() > f.r0 * flat + f.z0 * d.z() + 1e-12 * length;
        const double r = top ? f.r1 : f.r0;
        const double k = flat > 1e-9 * length ? r / flat : 0.0;
        const Vec3 p = Vec3(k * d.x(), k * d.y(), top ? f.z1 : f.z0) + f.round / length * d;
        const double reach = p.dot(d);
        if (reach > most + 1e-12 * length) {
            most = reach;
            best = p;
        }
    }
    return best;
}

TipPlace tipFromContact(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const Vec3& axis) {
    const double along = normal.dot(axis);
    Vec3 side = rejected(normal, axis);
    const double flat = side.norm();
    TipPlace place{contact, false};
    if (flat > 1e-12)
        side /= flat;
    else
        side.setZero();
    // In the plane of axis and normal the question is two-dimensional: the support of the profile along −N.
    const Vec3 s = cutterSupport(cutter, Vec3(-flat, 0.0, -along));
    place.tip = contact + (-s.x()) * side - s.z() * axis;
    const CutterUse use = usedBy(cutter.shape);
    const bool bottom = flat < 1e-9 && contactRadius(cutter) < 0.5 * cutter.diameter - 1e-12 && (!use.point || cutter.tipDiameter > 0.0);
    const double lean = use.taper ? std::sin(radians(cutter.taperDegrees)) : use.point ? std::sin(radians(0.5 * cutter.pointDegrees)) : 0.0;
    const bool flank = std::abs(along - lean) < 1e-9;
    place.free = bottom || flank;
    return place;
}

} // namespace gyre
