#include "view/Picking.h"
#include "path/Toolpath.h"
#include "target/Target.h"
#include <QObject>
#include <algorithm>

namespace gyre {

FaceHit faceAt(const Part& part, const Camera& camera, const QPointF& pixel) {
    const auto ray = camera.ray(pixel);
    const RayHit hit = part.tree().ray(ray.origin, ray.direction);
    if (!hit.hit) return {};
    // A mend that lies on the body is meant, whichever of their triangles comes first by a hair.
    const double apart = 3.0 * part.deflection();
    for (RayHit next = hit; next.hit && next.distance <= hit.distance + apart;) {
        if (part.mesh().faces[next.triangle] >= part.bodyFaces()) return {part.mesh().faces[next.triangle], ray.origin + next.distance * ray.direction};
        const double from = next.distance + 1e-6;
        next = part.tree().ray(ray.origin + from * ray.direction, ray.direction);
        next.distance += from;
    }
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

std::vector<int> facesInside(const Part& part, const Camera& camera, const QPolygonF& polygon) {
    std::vector<int> out;
    for (std::size_t f = 0; f < part.faces().size(); ++f) {
        const FaceInfo& info = part.faces()[f];
        if (!visible(part, camera, info.centre + 1e-3 * info.normal) || info.normal.dot(camera.eye() - info.centre) <= 0.0) continue;
        const auto& points = part.faceMesh(static_cast<int>(f)).points;
        const bool inside = !points.empty() && std::all_of(points.begin(), points.end(), [&](const Vec3& p) {
            const auto q = camera.project(p);
            return q && polygon.containsPoint(*q, Qt::OddEvenFill);
        });
        if (inside) out.push_back(static_cast<int>(f));
    }
    return out;
}

std::vector<int> edgesInside(const Part& part, const Camera& camera, const QPolygonF& polygon) {
    std::vector<int> out;
    for (std::size_t e = 0; e < part.edges().size(); ++e) {
        if (part.edges()[e].degenerate || !visible(part, camera, part.edges()[e].middle)) continue;
        const Polyline& line = part.edgeLine(static_cast<int>(e));
        const bool inside = line.size() > 1 && std::all_of(line.begin(), line.end(), [&](const Vec3& p) {
                                const auto q = camera.project(p);
                                return q && polygon.containsPoint(*q, Qt::OddEvenFill);
                            });
        if (inside) out.push_back(static_cast<int>(e));
    }
    return out;
}

std::optional<Vec3> cornerAt(const Part& part, const Camera& camera, const QPointF& pixel, double reach) {
    std::optional<Vec3> best;
    for (const EdgeInfo& e : part.edges()) {
        if (e.degenerate) continue;
        for (const Vec3& p : {e.start, e.end, e.middle}) {
            const auto q = camera.project(p);
            if (!q) continue;
            const double d = std::hypot(q->x() - pixel.x(), q->y() - pixel.y());
            if (d >= reach || !visible(part, camera, p)) continue;
            reach = d;
            best = p;
        }
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
    if (const auto fillet = filletFaces(part, face); fillet.size() > 1 && fillet.size() < all.size())
        guesses.push_back({fillet, {}, QObject::tr("%1 faces, one fillet R%2").arg(fillet.size()).arg(info.radius)});
    if (const auto floor = levelFaces(part, face); floor.size() > 1) guesses.push_back({floor, {}, QObject::tr("%1 faces in one plane").arg(floor.size())});
    return guesses;
}

std::vector<Guess> edgeGuesses(const Part& part, const std::vector<int>& target, int edge) {
    const EdgeChain side = sideOf(part, target, edge);
    std::vector<Guess> guesses;
    if (side.edges.size() > 1) guesses.push_back({{}, side.edges, QObject::tr("%1 edges, the whole side").arg(side.edges.size())});
    guesses.push_back({{},
                       {edge},
                       edge >= part.bodyEdges() && part.edges()[static_cast<std::size_t>(edge)].faces[0] < 0
                           ? QObject::tr("a mend's curve")
                           : QObject::tr("1 edge, %1").arg(curveKindName(part.edges()[static_cast<std::size_t>(edge)].kind))});
    const auto differs = [&](std::vector<int> edges) {
        std::sort(edges.begin(), edges.end());
        return std::none_of(guesses.begin(), guesses.end(), [&](const Guess& g) {
            std::vector<int> other = g.edges;
            std::sort(other.begin(), other.end());
            return other == edges;
        });
    };
    if (const auto chain = tangentChain(part, edge); differs(chain)) guesses.push_back({{}, chain, QObject::tr("%1 edges, tangent").arg(chain.size())});
    for (const auto& loop : loopsOf(part, edge))
        if (differs(loop)) guesses.push_back({{}, loop, QObject::tr("%1 edges, a face's loop").arg(loop.size())});
    return guesses;
}

} // namespace gyre
