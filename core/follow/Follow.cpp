#include "follow/Follow.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/Polyline.h"

namespace gyre {

double flankAngle(const Cutter& c) {
    const CutterUse use = usedBy(c.shape);
    return use.taper ? radians(c.taperDegrees) : use.point ? radians(0.5 * c.pointDegrees) : 0.0;
}

namespace {

/// The flank as a line in the half plane: radius at the tip's height, if it went on down to there.
double radiusAtTip(const Cutter& c) {
    const double k = flankAngle(c), r = 0.5 * c.diameter;
    switch (c.shape) {
    case CutterShape::TaperedBall: // tangent to the ball: its centre stands r over the tip
        return r / std::cos(k) - r * std::tan(k);
    case CutterShape::Tapered:
        return r;
    case CutterShape::Chamfer:
        return 0.5 * c.tipDiameter;
    case CutterShape::Spot:
    case CutterShape::Drill:
        return 0.0;
    default:
        return r;
    }
}

} // namespace

double flankStart(const Cutter& c) {
    const double r = 0.5 * c.diameter;
    switch (c.shape) {
    case CutterShape::Ball:
    case CutterShape::Lollipop:
        return r;
    case CutterShape::CornerRadius:
        return c.cornerRadius;
    case CutterShape::TaperedBall:
        return r * (1.0 - std::sin(flankAngle(c)));
    case CutterShape::Barrel: {
        const BarrelProfile b = barrelProfile(c);
        return b.middle.y() + b.radius * b.join.y();
    }
    default:
        return 0.0;
    }
}

double flankRadius(const Cutter& c, double height) {
    if (c.shape == CutterShape::Barrel) {
        const BarrelProfile b = barrelProfile(c);
        const double dy = std::clamp(height - b.middle.y(), -b.radius, b.radius);
        return b.middle.x() + std::sqrt(b.radius * b.radius - dy * dy);
    }
    return radiusAtTip(c) + height * std::tan(flankAngle(c));
}

double offCutter(const Cutter& c, double radial, double height) {
    const double r = 0.5 * c.diameter;
    switch (c.shape) {
    case CutterShape::Ball:
    case CutterShape::Lollipop:
        return (height < r ? std::hypot(radial, height - r) : radial) - r;
    case CutterShape::CornerRadius: {
        const double rc = c.cornerRadius;
        if (height >= rc) return radial - r;
        return std::hypot(std::max(0.0, radial - (r - rc)), height - rc) - rc;
    }
    case CutterShape::Barrel: {
        const BarrelProfile b = barrelProfile(c);
        const Vec2 p(radial, height);
        const Vec2 d = p - b.middle;
        if (d.y() >= b.radius * b.join.y()) return d.norm() - b.radius;
        return (p - b.nose).norm() - c.cornerRadius;
    }
    case CutterShape::TaperedBall: {
        const double k = flankAngle(c), along = radial * std::sin(k) + (height - r) * std::cos(k); // along the flank from where it leaves the ball
        if (along < 0.0) return std::hypot(radial, height - r) - r;
        return radial * std::cos(k) - (height - r) * std::sin(k) - r;
    }
    default: { // flat, tapered, pointed: a flank over a flat end
        const double k = flankAngle(c), tip = radiusAtTip(c), flank = (radial - tip) * std::cos(k) - height * std::sin(k);
        if (height >= 0.0) return flank;
        return radial <= tip ? -height : std::hypot(radial - tip, height);
    }
    }
}

double offCutter(const Cutter& cutter, const AxisPose& pose, const Vec3& p) {
    const Vec3 d = p - pose.tip;
    const double h = d.dot(pose.axis);
    return offCutter(cutter, (d - h * pose.axis).norm(), h);
}

Pass passAlong(const std::vector<AxisPose>& poses, const std::vector<Vec3>& contacts, const std::vector<Vec3>& normals, bool closed, int row, int face) {
    Pass pass;
    pass.row = row;
    pass.closed = closed;
    const std::size_t n = poses.size();
    pass.path.reserve(n + 1);
    for (std::size_t k = 0; k < n + (closed ? 1 : 0); ++k) {
        const std::size_t i = k % n;
        pass.path.push(poses[i].tip, poses[i].axis, contacts[i], normals[i], Motion::Cut, row, 0.0, face);
    }
    const std::size_t count = pass.path.size();
    pass.feedDirection.assign(count, Vec3::Zero());
    for (std::size_t i = 0; i < count; ++i) {
        // The nearest places before and after that are not the same.
        Vec3 d = Vec3::Zero();
        for (std::size_t step = 1; step < count && d.norm() < 1e-9; ++step) {
            const bool wraps = closed && count > 2;
            const std::size_t m = count - 1; // of a closed one the last repeats the first
            const Vec3& ahead = wraps ? pass.path.tip[(i + step) % m] : pass.path.tip[std::min(i + step, count - 1)];
            const Vec3& back = wraps ? pass.path.tip[(i + m - step % m) % m] : pass.path.tip[i >= step ? i - step : 0];
            d = rejected(ahead - back, pass.path.normal[i]);
        }
        pass.feedDirection[i] = d.norm() > 1e-12 ? Vec3(d.normalized()) : anyPerpendicular(pass.path.normal[i]);
    }
    return pass;
}

void measurePasses(FollowResult& result) {
    for (const Pass& p : result.passes)
        for (std::size_t i = 1; i < p.path.size(); ++i) {
            const double d = (p.path.tip[i] - p.path.tip[i - 1]).norm();
            result.length += d;
            if (d > 1e-3) result.steepest = std::max(result.steepest, degrees(angleBetween(p.path.axis[i], p.path.axis[i - 1])) / d);
        }
}

TriangleMesh withoutStrips(const TriangleMesh& mesh, const std::vector<Strip>& strips) {
    struct Band {
        PolylineDistance distance;
        Box box;
        double width;
    };
    std::vector<Band> bands;
    for (const Strip& s : strips) {
        Box box;
        for (const Vec3& p : s.line) box.add(p);
        box.low -= Vec3::Constant(s.width);
        box.high += Vec3::Constant(s.width);
        bands.push_back({PolylineDistance(s.line), box, s.width});
    }
    // Every block of triangles by itself, put together in their order.
    constexpr std::size_t kBlock = 128;
    std::vector<TriangleMesh> parts((mesh.triangles.size() + kBlock - 1) / kBlock);
    parallelFor(parts.size(), 1, [&](std::size_t k) {
        struct Open {
            std::array<Vec3, 3> corners;
            std::vector<std::size_t> near;
        };
        TriangleMesh& out = parts[k];
        std::vector<Open> open;
        const auto keep = [&](const std::array<Vec3, 3>& t) {
            const auto at = static_cast<std::uint32_t>(out.points.size());
            for (const Vec3& p : t) out.points.push_back(p);
            out.triangles.push_back({at, at + 1, at + 2});
        };
        for (std::size_t i = k * kBlock; i < std::min(mesh.triangles.size(), (k + 1) * kBlock); ++i) {
            const std::array<Vec3, 3> t{mesh.corner(i, 0), mesh.corner(i, 1), mesh.corner(i, 2)};
            Box box;
            for (const Vec3& p : t) box.add(p);
            std::vector<std::size_t> near;
            for (std::size_t b = 0; b < bands.size(); ++b)
                if ((box.low.array() <= bands[b].box.high.array()).all() && (bands[b].box.low.array() <= box.high.array()).all()) near.push_back(b);
            if (near.empty()) {
                keep(t);
                continue;
            }
            open.push_back({t, std::move(near)});
            while (!open.empty()) {
                const Open now = std::move(open.back());
                open.pop_back();
                const auto& part = now.corners;
                const Vec3 middle = (part[0] + part[1] + part[2]) / 3.0;
                const double reach = std::max({(part[0] - middle).norm(), (part[1] - middle).norm(), (part[2] - middle).norm()});
                std::vector<std::size_t> stillNear;
                bool gone = false;
                for (const std::size_t b : now.near) {
                    const double d = bands[b].distance.distance(middle, bands[b].width + reach + 1e-6);
                    if (d >= bands[b].width + reach) continue;
                    stillNear.push_back(b);
                    // Within as a whole, or so small that it does not matter: what is left must never reach into the strip.
                    gone = gone || d + reach <= bands[b].width || reach < std::max(0.05, 0.2 * bands[b].width);
                }
                if (gone) continue;
                if (stillNear.empty()) {
                    keep(part);
                    continue;
                }
                const Vec3 a = 0.5 * (part[0] + part[1]), b = 0.5 * (part[1] + part[2]), c = 0.5 * (part[2] + part[0]);
                const double ab = (part[0] - part[1]).norm(), bc = (part[1] - part[2]).norm(), ca = (part[2] - part[0]).norm();
                const double longest = std::max({ab, bc, ca}), shortest = std::min({ab, bc, ca});
                if (shortest < 0.4 * longest) { // slivers are halved across their longest side
                    const std::size_t side = longest == ab ? 0 : longest == bc ? 1 : 2;
                    const Vec3 m = side == 0 ? a : side == 1 ? b : c;
                    open.push_back({{part[side], m, part[(side + 2) % 3]}, stillNear});
                    open.push_back({{m, part[(side + 1) % 3], part[(side + 2) % 3]}, stillNear});
                } else {
                    open.push_back({{part[0], a, c}, stillNear});
                    open.push_back({{a, part[1], b}, stillNear});
                    open.push_back({{c, b, part[2]}, stillNear});
                    open.push_back({{a, b, c}, stillNear});
                }
            }
        }
    });
    TriangleMesh out;
    for (const TriangleMesh& part : parts) out.append(part);
    return out;
}

} // namespace gyre
