#include "view/Picking.h"
#include <QObject>
#include <algorithm>

namespace gyre {

FaceHit faceAt(const Part& part, const Camera& camera, const QPointF& pixel) {
    const auto ray = camera.ray(pixel);
    const RayHit hit = part.tree().ray(ray.origin, ray.direction);
    if (!hit.hit) return {};
    return {part.mesh().faces[hit.triangle], ray.origin + hit.distance * ray.direction};
}

namespace {
// Is the point in front of everything else of the part, or just on its surface?
bool visible(const Part& part, const Camera& camera, const Vec3& p) {
    const Vec3 way = p - camera.eye();
    const double far = way.norm();
    const RayHit hit = part.tree().ray(camera.eye(), way / far);
    return !hit.hit || hit.distance > far - std::max(0.3, 3.0 * camera.pixelSize());
}
double pixelDistance(const QPointF& p, const QPointF& a, const QPointF& b, double& t) {
    const QPointF ab = b - a, ap = p - a;
    const double l2 = QPointF::dotProduct(ab, ab);
    t = l2 > 0.0 ? std::clamp(QPointF::dotProduct(ap, ab) / l2, 0.0, 1.0) : 0.0;
    const QPointF d = p - (a + t * ab);
    return std::hypot(d.x(), d.y());
}
} // namespace

int edgeAt(const Part& part, const Camera& camera, const QPointF& pixel, double reach) {
    int best = -1;
    for (std::size_t e = 0; e < part.edges().size(); ++e) {
        const Polyline& line = part.edgeLine(static_cast<int>(e));
        for (std::size_t i = 1; i < line.size(); ++i) {
            const auto a = camera.project(line[i - 1]), b = camera.project(line[i]);
            if (!a || !b) continue;
            double t = 0.0;
            const double d = pixelDistance(pixel, *a, *b, t);
            if (d >= reach || !visible(part, camera, line[i - 1] + t * (line[i] - line[i - 1]))) continue;
            reach = d;
            best = static_cast<int>(e);
        }
    }
    return best;
}

std::optional<std::size_t> locationAt(const Part& part, const Toolpath& path, const Camera& camera, const QPointF& pixel, double reach) {
    std::optional<std::size_t> best;
    for (std::size_t i = 0; i < path.size(); ++i) {
        if (path.motion[i] != Motion::Cut) continue;
        const auto p = camera.project(path.contact[i]);
        if (!p) continue;
        const double d = std::hypot(p->x() - pixel.x(), p->y() - pixel.y());
        if (d >= reach || !visible(part, camera, path.contact[i])) continue;
        reach = d;
        best = i;
    }
    return best;
}

std::vector<Guess> faceGuesses(const Part& part, int face) {
    const FaceInfo& info = part.faces()[static_cast<std::size_t>(face)];
    std::vector<Guess> guesses{{{face}, {}, QObject::tr("1 face, %1").arg(surfaceKindName(info.kind))}};
    const std::vector<int> all = tangentFaces(part, face);
    // Round the part: tangent faces that lie at about the same height as this one.
    std::vector<int> level;
    for (int f : all) {
        const Box &a = part.faces()[static_cast<std::size_t>(f)].bounds, &b = info.bounds;
        const double tall = std::max(1e-3, b.high.z() - b.low.z());
        if (std::abs(a.low.z() - b.low.z()) < 0.1 * tall && std::abs(a.high.z() - b.high.z()) < 0.1 * tall) level.push_back(f);
    }
    if (level.size() > 1 && level.size() < all.size()) guesses.push_back({level, {}, QObject::tr("%1 faces, tangent, at one height").arg(level.size())});
    if (all.size() > 1) guesses.push_back({all, {}, QObject::tr("%1 faces, tangent").arg(all.size())});
    return guesses;
}

std::vector<Guess> edgeGuesses(const Part& part, const std::vector<int>& target, int edge) {
    const EdgeChain side = sideOf(part, target, edge);
    std::vector<Guess> guesses;
    if (side.edges.size() > 1) guesses.push_back({{}, side.edges, QObject::tr("%1 edges, the whole side").arg(side.edges.size())});
    guesses.push_back({{}, {edge}, QObject::tr("1 edge, %1").arg(curveKindName(part.edges()[static_cast<std::size_t>(edge)].kind))});
    return guesses;
}

} // namespace gyre
