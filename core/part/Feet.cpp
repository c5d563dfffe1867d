// Points of faces by their parameters, and the points of faces that are nearest to others.
#include "base/Index.h"
#include "base/Units.h"
#include "part/Kernel.h"
#include "part/MeshPart.h"
#include <ElSLib.hxx>
#include <algorithm>

namespace gyre {

SurfacePoint evaluateSurface(const Part::Kernel::Surface& s, double u, double v) {
    gp_Pnt p;
    gp_Vec du, dv;
    s.geometry->D1(u, v, p, du, dv);
    Vec3 n = vec(du).cross(vec(dv));
    double size = n.norm();
    if (size < 1e-12 * std::max(1.0, vec(du).norm() * vec(dv).norm())) {
        // A pole of the parameters: the normal a little inside stands for it.
        const double uMid = s.uPeriodic || std::abs(s.u0) > 1e50 ? u : 0.5 * (s.u0 + s.u1);
        const double vMid = s.cone                                           ? v + 1e3 * s.nappe * (s.cone->SemiAngle() < 0.0 ? -1.0 : 1.0)
                            : std::abs(s.v0) > 1e50 || std::abs(s.v1) > 1e50 ? v + 1e-3
                                                                             : 0.5 * (s.v0 + s.v1);
        gp_Pnt q;
        s.geometry->D1(u + 1e-5 * (uMid - u), v + 1e-5 * (vMid - v), q, du, dv);
        n = vec(du).cross(vec(dv));
        size = n.norm();
    }
    n = size > 0.0 ? Vec3(n / size) : Vec3(Vec3::UnitZ());
    return {vec(p), s.reversed ? Vec3(-n) : n, u, v};
}

namespace {

// At a pole, and at a cone's apex, Newton's steps stand still, or go on beyond it: these have closed forms. The turn nearest to u counts.
std::pair<double, double> footOnSphere(const gp_Sphere& sphere, const Vec3& p, double u) {
    double round = 0.0, height = 0.0;
    ElSLib::Parameters(sphere, gp_Pnt(p.x(), p.y(), p.z()), round, height);
    return {round + 2.0 * kPi * std::round((u - round) / (2.0 * kPi)), height};
}

std::pair<double, double> footOnCone(const gp_Cone& cone, double nappe, const Vec3& p, double u) {
    const gp_Ax3& at = cone.Position();
    const gp_Vec r(at.Location(), gp_Pnt(p.x(), p.y(), p.z()));
    const double x = nappe * r.Dot(gp_Vec(at.XDirection())), y = nappe * r.Dot(gp_Vec(at.YDirection())), z = r.Dot(gp_Vec(at.Direction())), out = std::hypot(x, y);
    const double sine = std::sin(cone.SemiAngle()), radius = cone.RefRadius();
    double along = (nappe * out - radius) * sine + z * std::cos(cone.SemiAngle());
    if (nappe * (radius + along * sine) < 0.0) along = -radius / sine;
    const double round = out > 1e-12 ? std::atan2(y, x) : u;
    return {round + 2.0 * kPi * std::round((u - round) / (2.0 * kPi)), along};
}

} // namespace

SurfacePoint Part::project(int face, const Vec3& p, double u, double v) const {
    const auto& s = m_kernel->surfaces[index(face)];
    if (m_kernel->scan) return footOnMesh(s, p);
    const auto clampU = [&](double x) { return s.uPeriodic ? x : std::clamp(x, s.u0, s.u1); };
    const auto clampV = [&](double x) { return s.vPeriodic ? x : std::clamp(x, s.v0, s.v1); };
    if (s.sphere || s.cone) {
        const auto [round, along] = s.sphere ? footOnSphere(*s.sphere, p, u) : footOnCone(*s.cone, s.nappe, p, u);
        return evaluateSurface(s, clampU(round), clampV(along));
    }
    gp_Pnt q;
    gp_Vec du, dv, duu, dvv, duv;
    // Where steps come to no end the nearest place that they met is the foot.
    double least = 1e300, bestU = u, bestV = v;
    const auto keep = [&](double distance) {
        if (distance >= least) return;
        least = distance;
        bestU = u;
        bestV = v;
    };
    bool settled = false;
    for (int i = 0; i < 30 && !settled; ++i) {
        s.geometry->D2(u, v, q, du, dv, duu, dvv, duv);
        const Vec3 r = vec(q) - p, a = vec(du), b = vec(dv);
        keep(r.norm());
        const double fu = a.dot(r), fv = b.dot(r);
        // At an end of the surface that the foot would lie beyond it moves along the end alone.
        const bool heldU = !s.uPeriodic && ((u <= s.u0 && fu > 0.0) || (u >= s.u1 && fu < 0.0)),
                   heldV = !s.vPeriodic && ((v <= s.v0 && fv > 0.0) || (v >= s.v1 && fv < 0.0));
        if (heldU && heldV) break;
        double huu = a.dot(a) + r.dot(vec(duu)), hvv = b.dot(b) + r.dot(vec(dvv)), huv = a.dot(b) + r.dot(vec(duv));
        double det = huu * hvv - huv * huv;
        bool newton = true;
        if (!(det > 1e-12 * huu * hvv)) { // not a minimum yet: the Gauss step is always downhill
            newton = false;
            huu = a.dot(a);
            hvv = b.dot(b);
            huv = a.dot(b);
            det = huu * hvv - huv * huv;
            if (!(det > 1e-300)) break;
        }
        const double alongU = heldV ? (huu > 0.0 ? fu / huu : 0.0) : (hvv * fu - huv * fv) / det,
                     alongV = heldU ? (hvv > 0.0 ? fv / hvv : 0.0) : (huu * fv - huv * fu) / det;
        const double nu = heldU ? u : clampU(u - alongU), nv = heldV ? v : clampV(v - alongV);
        const double moved = (nu - u) * (nu - u) * a.squaredNorm() + (nv - v) * (nv - v) * b.squaredNorm();
        u = nu;
        v = nv;
        // The error after a Newton step is about the square of the step over the radius of curvature: a step below 1e-6 mm was the last.
        settled = moved < (newton ? 1e-12 : 1e-22);
    }
    const SurfacePoint last = evaluateSurface(s, u, v);
    return (last.point - p).norm() <= least + 1e-9 ? last : evaluateSurface(s, bestU, bestV);
}

SurfacePoint Part::project(int face, const Vec3& p) const {
    const auto& s = m_kernel->surfaces[index(face)];
    if (m_kernel->scan) return footOnMesh(s, p);
    const ClosestPoint near = s.tree.closest(p);
    const auto& t = s.local.triangles[near.triangle];
    const auto uv = [&](std::uint32_t i) {
        const gp_Pnt2d q = s.triangles->UVNode(static_cast<int>(i) + 1);
        return Vec2(q.X(), q.Y());
    };
    const Vec3 w = cornerWeights(s.local, near);
    const Vec2 start = w[0] * uv(t[0]) + w[1] * uv(t[1]) + w[2] * uv(t[2]);
    return project(face, p, start.x(), start.y());
}

} // namespace gyre
