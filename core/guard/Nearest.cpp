#include "guard/Nearest.h"
#include <algorithm>

namespace gyre {
namespace {

// The distance to a convex body is a convex function of the place, so over a triangle it has one valley: a search along one side for the least of
// the searches across.
template <class F> double leastOf(double low, double high, const F& value) {
    constexpr double kGolden = 0.6180339887498949;
    double a = high - kGolden * (high - low), b = low + kGolden * (high - low), fa = value(a), fb = value(b);
    for (int i = 0; i < 44; ++i) {
        if (fa <= fb) {
            high = b;
            b = a;
            fb = fa;
            fa = value(a = high - kGolden * (high - low));
        } else {
            low = a;
            a = b;
            fa = fb;
            fb = value(b = low + kGolden * (high - low));
        }
    }
    return fa <= fb ? a : b;
}

Vec3 nearestOn(const std::array<Vec3, 3>& t, const RoundedFrustum& piece) {
    const auto at = [&](double u, double v) { return Vec3(t[0] + u * ((1.0 - v) * (t[1] - t[0]) + v * (t[2] - t[0]))); };
    const auto across = [&](double u) { return leastOf(0.0, 1.0, [&](double v) { return distance(piece, at(u, v)); }); };
    const double u = leastOf(0.0, 1.0, [&](double x) { return distance(piece, at(x, across(x))); });
    return at(u, across(u));
}

} // namespace

std::optional<NearestPlaces> nearestPlaces(const Assembly& assembly, Zone zone, const Obstacle& obstacle, const AxisPose& pose, double limit) {
    std::vector<RoundedFrustum> pieces;
    for (const Piece& p : piecesOf(assembly))
        if (p.zone == zone) pieces.push_back(p.shape);
    std::optional<std::array<Vec3, 3>> nearest;
    double least = limit;
    const auto look = [&](const MeshTree& tree) {
        std::uint32_t at = 0;
        const double d = tree.distance(pose, pieces.data(), pieces.size(), least, &at);
        if (d >= least) return;
        least = d;
        nearest = tree.triangles()[at];
    };
    look(obstacle.tree);
    for (const ConvexBody& b : obstacle.pieces) look(MeshTree(skinOf(b, 64)));
    if (!nearest) return std::nullopt;
    Frame frame = Frame::Identity();
    frame.linear().col(2) = pose.axis;
    frame.linear().col(0) = anyPerpendicular(pose.axis);
    frame.linear().col(1) = pose.axis.cross(frame.linear().col(0));
    frame.translation() = pose.tip;
    const Frame back = frame.inverse();
    const std::array<Vec3, 3> here{back * (*nearest)[0], back * (*nearest)[1], back * (*nearest)[2]};
    const RoundedFrustum& piece = *std::min_element(pieces.begin(), pieces.end(), [&](const auto& a, const auto& b) { return distance(a, here) < distance(b, here); });
    const Vec3 on = nearestOn(here, piece);
    const PointDistance d = coreDistance(piece, on);
    const double apart = std::max(0.0, d.value - piece.round);
    return NearestPlaces{frame * Vec3(on - apart * d.gradient), frame * on, least};
}

} // namespace gyre
