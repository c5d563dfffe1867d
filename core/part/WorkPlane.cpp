#include "part/WorkPlane.h"
#include "base/Index.h"
#include "base/Units.h"
#include <fmt/format.h>

namespace gyre {
namespace {

// X points as the datum's X does, as far as the plane allows; where the normal is the datum's X, as its Y.
Vec3 naturalX(const Vec3& normal) {
    const Vec3 x = rejected(Vec3::UnitX(), normal);
    return x.norm() > 1e-3 ? Vec3(x.normalized()) : Vec3(rejected(Vec3::UnitY(), normal).normalized());
}

} // namespace

Frame WorkPlane::frame() const {
    Frame f = Frame::Identity();
    f.linear().col(0) = x;
    f.linear().col(1) = normal.cross(x);
    f.linear().col(2) = normal;
    f.translation() = origin;
    return f;
}

Result<WorkPlane> planeByPoints(const Vec3& origin, const Vec3& onX, const Vec3& toY) {
    const Vec3 x = onX - origin, y = toY - origin;
    if (x.norm() < 1e-6 || y.norm() < 1e-6) return fail("two of the three points are the same", {}, "Pick three different points");
    const Vec3 n = x.cross(y);
    if (n.norm() < 1e-6 * x.norm() * y.norm()) return fail("the three points lie on one line", {}, "Pick a third point beside the line");
    return WorkPlane{{}, origin, n.normalized(), x.normalized()};
}

Result<WorkPlane> planeByFace(const Part& part, int face, const std::optional<Vec3>& at) {
    if (face < 0 || index(face) >= part.faces().size()) return fail(fmt::format("face {} is not in the part", face));
    const FaceInfo& info = part.faces()[index(face)];
    SurfacePoint s{info.centre, info.normal, 0.0, 0.0};
    if (at) s = part.project(face, *at);
    return WorkPlane{{}, s.point, s.normal, naturalX(s.normal)};
}

WorkPlane planeByHole(const Hole& hole) { return {{}, hole.mouth, hole.direction, naturalX(hole.direction)}; }

Result<WorkPlane> planeByEdges(const Part& part, int first, int second) {
    for (const int e : {first, second}) {
        if (e < 0 || index(e) >= part.edges().size()) return fail(fmt::format("edge {} is not in the part", e));
        if (part.edges()[index(e)].kind != CurveKind::Line) return fail(fmt::format("edge {} is not straight", e), {}, "Pick two straight edges");
    }
    if (first == second) return fail("this is the same edge twice");
    const EdgeInfo &a = part.edges()[index(first)], &b = part.edges()[index(second)];
    const Vec3 da = (a.end - a.start).normalized(), db = (b.end - b.start).normalized();
    Vec3 n = da.cross(db);
    const bool parallel = n.norm() < 1e-6;
    if (parallel) n = da.cross(b.middle - a.middle);
    if (n.norm() < 1e-6) return fail("the two edges lie on one line", {}, "Pick an edge beside it");
    n.normalize();
    const double apart = std::abs(n.dot(b.middle - a.middle));
    if (!parallel && apart > 1e-4)
        return fail(fmt::format("the two edges pass each other {:.3f} mm apart: no plane holds both", apart), {}, "Pick edges that meet or run side by side");
    // Outward: as the faces beside the first edge look on the whole.
    Vec3 outward = Vec3::Zero();
    for (const EdgeInfo* e : {&a, &b})
        for (const int f : e->faces)
            if (f >= 0) outward += part.faces()[index(f)].normal;
    if (n.dot(outward) < 0.0) n = -n;
    return WorkPlane{{}, a.start, n, da};
}

Result<WorkPlane> planeByAngles(const Vec3& origin, double aboutX, double aboutY, double aboutZ) {
    for (const double angle : {aboutX, aboutY, aboutZ})
        if (!(std::abs(angle) <= 360.0)) return fail("angles go from −360° to 360°");
    const Eigen::Matrix3d r = rotation(Vec3::UnitX(), radians(aboutX)) * rotation(Vec3::UnitY(), radians(aboutY)) * rotation(Vec3::UnitZ(), radians(aboutZ));
    return WorkPlane{{}, origin, r.col(2), r.col(0)};
}

WorkPlane flipped(const WorkPlane& plane) { return {plane.name, plane.origin, -plane.normal, plane.x}; }

} // namespace gyre
