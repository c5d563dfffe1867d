#include "operation/Scenes.h"
#include "operation/Recipe.h"
#include "operation/Workplace.h"
#include "target/Target.h"
#include <fmt/format.h>
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

namespace {

/// A place of its own for every triangle, to know it again in another tree.
std::array<std::int64_t, 3> placeOf(const Vec3& a, const Vec3& b, const Vec3& c) {
    const Vec3 middle = 1e6 * (a + b + c);
    return {std::llround(middle.x()), std::llround(middle.y()), std::llround(middle.z())};
}

std::shared_ptr<const MeshTree> without(const MeshTree& tree, const TriangleMesh& gone) {
    std::set<std::array<std::int64_t, 3>> places;
    for (std::size_t t = 0; t < gone.triangles.size(); ++t) places.insert(placeOf(gone.corner(t, 0), gone.corner(t, 1), gone.corner(t, 2)));
    TriangleMesh rest;
    for (const std::array<Vec3, 3>& corners : tree.triangles()) {
        if (places.count(placeOf(corners[0], corners[1], corners[2]))) continue;
        const auto first = static_cast<std::uint32_t>(rest.points.size());
        rest.points.insert(rest.points.end(), corners.begin(), corners.end());
        rest.triangles.push_back({first, first + 1, first + 2});
    }
    return std::make_shared<const MeshTree>(rest);
}

} // namespace

Result<std::shared_ptr<const Scene>> withChecks(const Workplace& place, const Recipe& recipe, std::shared_ptr<const Scene> scene) {
    if (!scene || std::none_of(recipe.checks.begin(), recipe.checks.end(), [](const CheckFaces& c) { return !c.faces.empty(); })) return scene;
    auto out = std::make_shared<Scene>(*scene);
    int number = 0;
    for (const CheckFaces& check : recipe.checks) {
        ++number;
        if (check.faces.empty()) continue;
        const auto faces = resolveFaces(*place.part, check.faces);
        if (!faces) return tl::unexpected(faces.error());
        TriangleMesh mesh;
        for (const int f : *faces) mesh.append(place.part->faceMesh(f));
        mesh.faces.clear();
        double allowance = 0.0;
        for (Obstacle& o : *out)
            if (o.kind == ObstacleKind::Part) {
                allowance = std::max(allowance, o.allowance);
                if (check.keepOff < 0.0) o.forCutter = without(o.cutTree(), mesh);
            }
        Obstacle o{recipe.checks.size() > 1 ? fmt::format("check faces {}", number) : "check faces", ObstacleKind::Check, MeshTree(mesh), {}, allowance};
        o.keepOff = check.keepOff;
        out->push_back(std::move(o));
    }
    return std::shared_ptr<const Scene>(out);
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
