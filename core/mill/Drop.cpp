#include "mill/Mill.h"
#include "part/Part.h"
#include "tool/Contact.h"
#include <algorithm>

namespace gyre {

// From above in steps shorter than the cutter is long, so that no triangle slips by; then up again by exactly what the triangles ask for.
double dropOnto(const MeshTree& model, const Cutter& cutter, const AxisPose& pose, double range, double allowance) {
    const std::vector<RoundedFrustum> pieces = cuttingZone(cutter);
    // What is touched lies at distance 0, not below it: look a hair further.
    const std::vector<double> clearance(pieces.size(), allowance + 1e-6);
    double tall = 0.0;
    for (const RoundedFrustum& f : pieces) tall = std::max(tall, f.high());
    const double step = std::clamp(0.4 * tall, 0.05, 1.0);
    const auto at = [&](double down) { return AxisPose{pose.tip - down * pose.axis, pose.axis}; };
    std::uint32_t hint = UINT32_MAX;
    for (double down = 0.0;; down = std::min(range, down + step)) {
        if (model.anyWithin(at(down), pieces.data(), clearance.data(), pieces.size(), &hint)) {
            // Close in first: asking whether is far cheaper than asking how far, and then few triangles are left to ask.
            double clear = std::max(0.0, down - step);
            for (int i = 0; i < 9 && down > clear; ++i) {
                const double middle = 0.5 * (clear + down);
                (model.anyWithin(at(middle), pieces.data(), clearance.data(), pieces.size(), &hint) ? down : clear) = middle;
            }
            for (int i = 0; i < 60; ++i) {
                double more = 0.0;
                model.forEachWithin(at(down), pieces.data(), clearance.data(), pieces.size(), [&](const auto& t, std::uint32_t, std::size_t k) {
                    more = std::max(more, axialEscape(pieces[k], t, clearance[k]));
                    return true;
                });
                if (more <= 0.0) break;
                down -= more + 1e-7;
            }
            return down;
        }
        if (down >= range) return range;
    }
}

namespace {

/// The nearest point of the face's whole surface; of cylinders, which are most of what is wrapped, by their formula.
SurfacePoint footOn(const Part& body, int face, const Vec3& p) {
    const FaceInfo& f = body.faces()[static_cast<std::size_t>(face)];
    const Vec3 arm = rejected(p - f.axisPoint, f.axis);
    if (f.kind != SurfaceKind::Cylinder || f.radius <= 0.0 || arm.norm() < 1e-9) return body.project(face, p);
    const Vec3 out = arm.normalized();
    const double side = f.normal.dot(rejected(f.centre - f.axisPoint, f.axis)) >= 0.0 ? 1.0 : -1.0;
    return {p - arm + f.radius * out, side * out, 0.0, 0.0};
}

} // namespace

// Contact by contact: the exact face's point under the cutter, the tangent plane there, the height at which the cutter rests on that plane;
// the place where it then touches tells the next point. Two or three rounds suffice for the small way from the triangles.
double liftOntoFaces(const Part& body, const Cutter& cutter, const AxisPose& pose, double allowance) {
    const std::vector<RoundedFrustum> pieces = cuttingZone(cutter);
    const double near = 2.0 * body.deflection();
    const std::vector<double> clearance(pieces.size(), allowance + near);
    std::vector<std::pair<int, Vec3>> touched; // face, where about
    body.tree().forEachWithin(pose, pieces.data(), clearance.data(), pieces.size(), [&](const auto& t, std::uint32_t triangle, std::size_t) {
        const int face = body.mesh().faces[triangle];
        if (body.faces()[static_cast<std::size_t>(face)].kind == SurfaceKind::Plane) return true; // its triangles are exact
        if (std::none_of(touched.begin(), touched.end(), [&](const auto& known) { return known.first == face; })) {
            // In the pose's coordinates: the corner nearest to the middle of the cutter's end.
            Vec3 corner = t[0];
            for (const Vec3& c : t)
                if (c.squaredNorm() < corner.squaredNorm()) corner = c;
            touched.emplace_back(face, corner);
        }
        return touched.size() < 12;
    });
    double lift = 0.0;
    const double middle = contactRadius(cutter);
    for (const auto& known : touched) {
        const int face = known.first;
        Vec3 from = pose.tip + middle * pose.axis;
        double need = 0.0;
        bool rests = false;
        for (int round = 0; round < 3; ++round) {
            const SurfacePoint s = footOn(body, face, from);
            const double lean = s.normal.dot(pose.axis);
            if (lean < 0.02) break; // a wall is not rested on
            const Vec3 contact = s.point + allowance * s.normal;
            const Vec3 tip = tipFromContact(cutter, contact, s.normal, pose.axis).tip;
            need = (tip - pose.tip).dot(s.normal) / lean;
            const Vec3 touches = contact - tip + pose.tip + need * pose.axis; // where the cutter would touch the plane
            // Within the face's own border, as its triangles have it.
            rests = std::abs(need) < 4.0 * near && (body.faceMesh(face).bounds().distance(s.point) < near);
            if ((touches - contact).norm() < 1e-4) break;
            from = touches - allowance * s.normal;
        }
        if (rests) lift = std::max(lift, need);
    }
    return lift;
}

} // namespace gyre
