#include "guard/Overlaps.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/Inside.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace gyre {
namespace {

constexpr double kAcross = 50.0;            // samples along the shared room
constexpr std::size_t kMostSamples = 20000; // of one body in another: a mesh of finer triangles is sampled by some of them

/// How deep in a convex body, by the planes that touch it; not less than 0 where none parts it from the point. Exact for boxes; round ones
/// are taken up to 0.12 % of their radius too large.
double depthIn(const ConvexBody& body, const Vec3& p) {
    double depth = 1e300;
    const auto ask = [&](const Vec3& local) {
        const Vec3 d = body.frame.linear() * local;
        depth = std::min(depth, (body.support(d) - p).dot(d) + body.round());
        return depth >= 0.0;
    };
    for (int k = 0; k < 3; ++k)
        for (const double sign : {-1.0, 1.0})
            if (!ask(sign * Vec3::Unit(k))) return depth;
    constexpr int kRound = 64;
    for (int i = 0; i < kRound; ++i)
        for (const double up : {-1.0, 0.0, 1.0}) {
            const double a = 2.0 * kPi * i / kRound;
            if (!ask(Vec3(std::cos(a), std::sin(a), up).normalized())) return depth;
        }
    return depth;
}

double depthIn(const Obstacle& body, const Vec3& p) {
    double depth = -1.0;
    for (const ConvexBody& piece : body.pieces) depth = std::max(depth, depthIn(piece, p));
    if (!body.tree.empty() && body.tree.bounds().distance(p) <= 0.0 && insideClosed(body.tree, p)) depth = std::max(depth, body.tree.closest(p).distance);
    return depth;
}

Box boundsOf(const Obstacle& o) {
    Box b;
    if (!o.tree.empty()) b = o.tree.bounds();
    for (const ConvexBody& piece : o.pieces) {
        const Box own = piece.bounds();
        b.add(own.low);
        b.add(own.high);
    }
    return b;
}

/// The deepest that the triangles of `one` reach into `other`.
void sample(const Obstacle& one, const Obstacle& other, const Box& shared, Overlap& worst) {
    const double step = std::max(0.05, shared.diagonal() / kAcross);
    std::vector<Vec3> samples;
    for (const auto& t : one.tree.triangles()) {
        Box own;
        for (const Vec3& p : t) own.add(p);
        if ((own.low.array() > shared.high.array()).any() || (own.high.array() < shared.low.array()).any()) continue;
        const double longest = std::max({(t[1] - t[0]).norm(), (t[2] - t[1]).norm(), (t[0] - t[2]).norm()});
        const int n = std::clamp(static_cast<int>(std::ceil(longest / step)), 1, 400);
        for (int i = 0; i <= n; ++i)
            for (int j = 0; i + j <= n; ++j) {
                const Vec3 p = t[0] + (t[1] - t[0]) * (static_cast<double>(i) / n) + (t[2] - t[0]) * (static_cast<double>(j) / n);
                if (shared.distance(p) <= 0.0) samples.push_back(p);
            }
    }
    const std::size_t every = 1 + samples.size() / kMostSamples;
    std::vector<double> depths((samples.size() + every - 1) / every);
    (void)parallelFor(depths.size(), 64, [&](std::size_t i) { depths[i] = depthIn(other, samples[every * i]); });
    for (std::size_t i = 0; i < depths.size(); ++i)
        if (depths[i] > worst.depth) {
            worst.depth = depths[i];
            worst.at = samples[every * i];
        }
}

} // namespace

std::vector<Overlap> overlapsOf(const Scene& scene, double least) {
    std::vector<Overlap> out;
    for (std::size_t a = 0; a < scene.size(); ++a)
        for (std::size_t b = a + 1; b < scene.size(); ++b) {
            const Obstacle &one = scene[a], &other = scene[b];
            if (one.kind == ObstacleKind::Machine && other.kind == ObstacleKind::Machine) continue;
            const Box boxA = boundsOf(one), boxB = boundsOf(other);
            Box shared;
            shared.low = boxA.low.cwiseMax(boxB.low);
            shared.high = boxA.high.cwiseMin(boxB.high);
            const double told = least + 2.0 * (one.allowance + other.allowance);
            if (((shared.high - shared.low).array() < told).any()) continue;
            Overlap worst{one.name, other.name};
            sample(one, other, shared, worst);
            sample(other, one, shared, worst);
            if (worst.depth > told) out.push_back(worst);
        }
    std::stable_sort(out.begin(), out.end(), [](const Overlap& a, const Overlap& b) { return a.depth > b.depth; });
    return out;
}

} // namespace gyre
