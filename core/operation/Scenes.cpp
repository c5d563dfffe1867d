#include "operation/Scenes.h"
#include <set>

namespace gyre {

std::shared_ptr<const Scene> openedAlong(const Workplace& place, const std::vector<Strip>& strips) {
    const auto body = place.part->body() ? place.part->body() : place.part;
    const auto tree = std::make_shared<const MeshTree>(withoutStrips(body->mesh(), strips));
    auto scene = std::make_shared<Scene>(*place.scene);
    for (Obstacle& o : *scene)
        if (o.kind == ObstacleKind::Part) o.forCutter = tree;
    return scene;
}

std::shared_ptr<const Scene> withOwnFaces(const Workplace& place, const std::vector<int>& faces, double tolerance) {
    const auto body = place.part->body() ? place.part->body() : place.part;
    std::vector<char> own(body->faces().size(), 0);
    for (const int f : faces)
        if (static_cast<std::size_t>(f) < own.size()) own[static_cast<std::size_t>(f)] = 1; // faces that mends made are no part of the body
    TriangleMesh mine = body->mesh(), rest = mine;
    mine.triangles.clear();
    rest.triangles.clear();
    const TriangleMesh& all = body->mesh();
    for (std::size_t t = 0; t < all.triangles.size(); ++t) (own[static_cast<std::size_t>(all.faces[t])] ? mine : rest).triangles.push_back(all.triangles[t]);
    mine.faces.clear();
    rest.faces.clear();
    auto scene = std::make_shared<Scene>(*place.scene);
    for (Obstacle& o : *scene)
        if (o.kind == ObstacleKind::Part) {
            o.forCutter = std::make_shared<const MeshTree>(rest);
            o.own = std::make_shared<const MeshTree>(mine);
            o.ownTolerance = tolerance;
        }
    return scene;
}

std::vector<int> movedFaces(const Part& part, const std::vector<int>& faces, const std::vector<Frame>& moves) {
    std::set<int> out;
    for (const Frame& move : moves)
        for (const int f : faces) {
            const FaceInfo& from = part.faces()[static_cast<std::size_t>(f)];
            for (std::size_t other = 0; other < part.faces().size(); ++other) {
                const FaceInfo& to = part.faces()[other];
                const bool same = (move * from.centre - to.centre).norm() < 0.05 && std::abs(from.area - to.area) < 1e-3 * (1.0 + from.area);
                if (same) out.insert(static_cast<int>(other));
            }
        }
    return {out.begin(), out.end()};
}

std::vector<Strip> movedStrips(const std::vector<Strip>& strips, const std::vector<Frame>& moves) {
    std::vector<Strip> out;
    for (const Frame& move : moves)
        for (Strip s : strips) {
            for (Vec3& p : s.line) p = move * p;
            out.push_back(std::move(s));
        }
    return out;
}

} // namespace gyre
