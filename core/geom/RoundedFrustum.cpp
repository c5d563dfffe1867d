#include "geom/RoundedFrustum.h"

namespace gyre {
namespace {

// std::hypot guards against overflow that lengths in mm never come near, at ten times the cost.
double length2(double a, double b) { return std::sqrt(a * a + b * b); }

// What an answer is needed for: below `enough` any value will do, and of what is not below `most` only that.
struct Needed {
    double enough = -1.0, most = 1e300;
};

bool isPoint(const RoundedFrustum& f) { return f.r0 == 0.0 && f.r1 == 0.0 && f.z0 == f.z1; }

// Least core distance on the segment: the root of the slope, bracketed; the error of the value is of second order. The slopes at both
// ends of the bracket bound it from below.
double edgeMinimum(const RoundedFrustum& f, const Vec3& a, const Vec3& b, const PointDistance& atA, const PointDistance& atB, const Needed& needed) {
    const Vec3 e = b - a;
    double lowSlope = atA.gradient.dot(e), highSlope = atB.gradient.dot(e);
    if (atA.value <= 0.0 || atB.value <= 0.0) return 0.0;
    if (lowSlope >= 0.0) return atA.value;
    if (highSlope <= 0.0) return atB.value;
    if (isPoint(f)) {
        const Vec3 foot = a - Vec3(0.0, 0.0, f.z0);
        return (foot - foot.dot(e) / e.squaredNorm() * e).norm();
    }
    double low = 0.0, high = 1.0, lowValue = atA.value, highValue = atB.value;
    double best = std::min(lowValue, highValue);
    int stuck = 0;
    for (int i = 0; i < 60; ++i) {
        const double width = high - low, bound = (highValue * -lowSlope + lowValue * highSlope + lowSlope * highSlope * width) / (highSlope - lowSlope);
        if (bound >= needed.most) break;
        double t = (low * highSlope - high * lowSlope) / (highSlope - lowSlope);
        // A slope that jumps (corners of the profile) makes the secant crawl: bisect then.
        if (stuck >= 2 || !(t > low && t < high)) t = 0.5 * (low + high);
        const PointDistance d = coreDistance(f, a + t * e);
        best = std::min(best, d.value);
        if (d.value <= 0.0) return 0.0;
        if (best < needed.enough) break;
        const double slope = d.gradient.dot(e);
        if (std::abs(slope) * width < 1e-10) break;
        if (slope < 0.0) {
            low = t;
            lowSlope = slope;
            lowValue = d.value;
        } else {
            high = t;
            highSlope = slope;
            highValue = d.value;
        }
        stuck = (high - low) > 0.5 * width ? stuck + 1 : 0;
        if ((high - low) * e.norm() < 1e-10) break;
    }
    return best;
}

// The point of the core that lies furthest along the unit direction d.
Vec3 support(const RoundedFrustum& f, const Vec3& d) {
    const double flat = length2(d.x(), d.y());
    const bool top = f.r1 * flat + f.z1 * d.z() > f.r0 * flat + f.z0 * d.z();
    const double r = top ? f.r1 : f.r0;
    const double k = flat > 1e-300 ? r / flat : 0.0;
    return {k * d.x(), k * d.y(), top ? f.z1 : f.z0};
}

bool insideTriangle(const Vec3& p, const std::array<Vec3, 3>& t, const Vec3& n) {
    return (t[1] - t[0]).cross(p - t[0]).dot(n) >= 0.0 && (t[2] - t[1]).cross(p - t[1]).dot(n) >= 0.0 && (t[0] - t[2]).cross(p - t[2]).dot(n) >= 0.0;
}

// Least core distance over the triangle, given that at the corners.
double coreDistance(const RoundedFrustum& f, const std::array<Vec3, 3>& t, const std::array<PointDistance, 3>& corners, const Needed& needed = {}) {
    double best = std::min({corners[0].value, corners[1].value, corners[2].value});
    if (best <= 0.0) return 0.0;
    Vec3 n = (t[1] - t[0]).cross(t[2] - t[0]);
    const double area = n.norm();
    if (area > 1e-14) {
        n /= area;
        const Vec3 middle(0.0, 0.0, 0.5 * (f.z0 + f.z1));
        const Vec3 toward = n.dot(middle - t[0]) >= 0.0 ? n : Vec3(-n);
        const Vec3 s = support(f, -toward);
        const double h = toward.dot(s - t[0]);
        if (h > 0.0) {
            if (h >= best || h >= needed.most) return best; // nothing in the plane is nearer than h
            if (insideTriangle(s - h * toward, t, n)) return h;
        } else {
            // The plane cuts the body. If no edge does, the cut lies wholly inside or wholly outside the triangle.
            const Vec3 far = support(f, toward);
            const double hFar = toward.dot(far - t[0]);
            const double k = hFar - h > 1e-300 ? -h / (hFar - h) : 0.0;
            if (insideTriangle(s + k * (far - s), t, n)) return 0.0;
        }
    }
    for (int i = 0; i < 3 && best > 0.0 && best >= needed.enough; ++i) {
        const auto a = static_cast<std::size_t>(i), b = static_cast<std::size_t>((i + 1) % 3);
        best = std::min(best, edgeMinimum(f, t[a], t[b], corners[a], corners[b], {needed.enough, std::min(needed.most, best)}));
    }
    return best;
}

// The distance is convex: its slopes at a corner bound it from below over the whole triangle.
bool cornersKeepAway(const std::array<Vec3, 3>& t, const std::array<PointDistance, 3>& corners, double reach) {
    for (std::size_t k = 0; k < 3; ++k) {
        const std::size_t a = (k + 1) % 3, b = (k + 2) % 3;
        const Vec3& g = corners[k].gradient;
        if (corners[k].value + std::min({0.0, g.dot(t[a] - t[k]), g.dot(t[b] - t[k])}) >= reach) return true;
    }
    return false;
}

} // namespace

PointDistance coreDistance(const RoundedFrustum& f, const Vec3& p) {
    const double rho = length2(p.x(), p.y());
    const double z = p.z();
    if (z < f.z0 && rho <= f.r0) return {f.z0 - z, -Vec3::UnitZ()};
    if (z > f.z1 && rho <= f.r1) return {z - f.z1, Vec3::UnitZ()};
    const double dr = f.r1 - f.r0, dz = f.z1 - f.z0;
    // Outside of the slanted side? The side's outward normal in the half plane is (dz, −dr).
    if (z >= f.z0 && z <= f.z1 && (rho - f.r0) * dz - (z - f.z0) * dr <= 0.0 && (dz > 0.0 || rho <= f.r0)) return {0.0, Vec3::Zero()};
    const double l2 = dr * dr + dz * dz;
    const double t = l2 > 0.0 ? std::clamp(((rho - f.r0) * dr + (z - f.z0) * dz) / l2, 0.0, 1.0) : 0.0;
    const double er = rho - (f.r0 + t * dr), ez = z - (f.z0 + t * dz);
    const double d = length2(er, ez);
    if (d <= 0.0) return {0.0, Vec3::Zero()};
    const double k = rho > 1e-300 ? er / (d * rho) : 0.0;
    return {d, Vec3(k * p.x(), k * p.y(), ez / d)};
}

double distance(const RoundedFrustum& f, const std::array<Vec3, 3>& t) {
    return coreDistance(f, t, {coreDistance(f, t[0]), coreDistance(f, t[1]), coreDistance(f, t[2])}) - f.round;
}

double distanceBelow(const RoundedFrustum& f, const std::array<Vec3, 3>& t, double limit) {
    const double reach = f.round + limit;
    const std::array<PointDistance, 3> corners{coreDistance(f, t[0]), coreDistance(f, t[1]), coreDistance(f, t[2])};
    if (cornersKeepAway(t, corners, reach)) return limit;
    return std::min(limit, coreDistance(f, t, corners, {-1.0, reach}) - f.round);
}

bool within(const RoundedFrustum& f, const std::array<Vec3, 3>& t, double clearance) {
    const double reach = f.round + clearance;
    // Reject by the slab along the axis and by the radius before any root is looked for.
    const auto [zLow, zHigh] = std::minmax({t[0].z(), t[1].z(), t[2].z()});
    if (zLow > f.z1 + reach || zHigh < f.z0 - reach) return false;
    const std::array<PointDistance, 3> corners{coreDistance(f, t[0]), coreDistance(f, t[1]), coreDistance(f, t[2])};
    for (const auto& c : corners)
        if (c.value < reach) return true;
    return !cornersKeepAway(t, corners, reach) && coreDistance(f, t, corners, {reach, reach}) < reach;
}

double axialEscape(const RoundedFrustum& f, const std::array<Vec3, 3>& t, double clearance) {
    const auto moved = [&](double u) {
        const Vec3 shift(0.0, 0.0, u);
        return std::array<Vec3, 3>{t[0] - shift, t[1] - shift, t[2] - shift};
    };
    if (!within(f, t, clearance)) return 0.0;
    const double top = std::max({t[0].z(), t[1].z(), t[2].z()});
    // The shifts at which it is too near form one interval (the distance is convex in u); find its upper end.
    double low = 0.0, high = top - f.z0 + f.round + clearance + 1e-9;
    if (high <= 0.0) return 0.0;
    while (high - low > 1e-7) {
        const double mid = 0.5 * (low + high);
        (within(f, moved(mid), clearance) ? low : high) = mid;
    }
    return high;
}

} // namespace gyre
