#include "session/CloserLook.h"
#include "along/Along.h"
#include "base/Parallel.h"
#include "geom/Polyline.h"
#include "operation/OperationResult.h"
#include "operation/StockOnTheWay.h"
#include "operation/Workplace.h"
#include "stock/Stock.h"

namespace gyre {
namespace {

/// Stretches of the path whose cutter can reach into the box, each with the location before it.
std::vector<Toolpath> near(const Toolpath& path, const Box& box, double reach) {
    std::vector<Toolpath> out;
    const auto far = [&](std::size_t i) { return box.distance(path.tip[i]); };
    bool open = false;
    for (std::size_t i = 1; i < path.size(); ++i) {
        const double way = (path.tip[i] - path.tip[i - 1]).norm();
        if (std::min(far(i), far(i - 1)) > reach + 0.5 * way) {
            open = false;
            continue;
        }
        if (!open) {
            out.emplace_back();
            out.back().push(path.tip[i - 1], path.axis[i - 1], Motion::Rapid, path.row[i - 1], 0.0);
        }
        open = true;
        out.back().push(path.tip[i], path.axis[i], path.motion[i], path.row[i], static_cast<double>(path.feed[i]));
    }
    return out;
}

using BrokenEdge = std::pair<PolylineDistance, double>; ///< broken on purpose, and how far that reaches

/// How far the skin lies off the part. @return false when it was called off
bool measure(CloserLook& out, TriangleMesh skin, const Part& part, const std::vector<BrokenEdge>& edges, const Progress& progress) {
    skin.faces.clear();
    // The walls of the box are no surface of the work.
    const double rim = 1.01 * out.cell;
    const auto onWall = [&](const Vec3& p) {
        for (int k = 0; k < 3; ++k)
            if (p[k] < out.box.low[k] + rim || p[k] > out.box.high[k] - rim) return true;
        return false;
    };
    std::erase_if(skin.triangles, [&](const auto& t) { return onWall(skin.points[t[0]]) || onWall(skin.points[t[1]]) || onWall(skin.points[t[2]]); });
    out.off.assign(skin.points.size(), 0.0F);
    out.meant.assign(skin.points.size(), 0);
    if (!parallelFor(
            skin.points.size(), 256,
            [&](std::size_t i) {
                const Vec3& p = skin.points[i];
                if (onWall(p)) return;
                const double d = part.tree().closest(p).distance;
                // On which side: a look along the surface's own normal meets the part from within or not. Nearer than a rounding it does not matter.
                const bool inside = d > 1e-5 && insideBody(part.mesh(), part.tree(), p, skin.normals[i]);
                out.off[i] = static_cast<float>(inside ? -d : d);
                out.meant[i] =
                    inside && std::any_of(edges.begin(), edges.end(), [&](const auto& e) { return e.first.distance(p, 2.0 * e.second) < e.second + out.cell; });
            },
            &progress))
        return false;
    for (const auto& t : skin.triangles)
        for (const auto p : t) {
            out.most = std::max(out.most, static_cast<double>(out.off[p]));
            if (out.meant[p]) {
                out.broken = std::max(out.broken, -static_cast<double>(out.off[p]));
            } else if (out.off[p] < out.least) {
                out.least = out.off[p];
                out.leastAt = skin.points[p];
            }
        }
    out.skin = std::move(skin);
    return true;
}

} // namespace

Result<CloserLook> lookCloser(const Workplace& place, const std::vector<std::shared_ptr<const OperationResult>>& done, LookFrom from, const Vec3& centre, double size,
                              Progress& progress) {
    if (!place.part) return fail("there is no part to compare with");
    const Part& part = place.part->body() ? *place.part->body() : *place.part;
    CloserLook out;
    out.box.low = centre - Vec3::Constant(0.5 * size);
    out.box.high = centre + Vec3::Constant(0.5 * size);
    constexpr double kCells = 160.0;
    out.cell = size / kCells;
    std::vector<const TriangleMesh*> bodies;
    if (from == LookFrom::Part)
        bodies.push_back(&part.mesh());
    else
        for (const PlacedBody& b : place.bodies)
            if (b.role == "stock") bodies.push_back(&b.shape->mesh());
    if (bodies.empty()) return fail("there is no stock to start from", {}, "Add stock in Set up, or look at the part as it is cut");
    auto stock = Stock::of(bodies, out.cell, progress, out.box);
    if (!stock) return fail(from == LookFrom::Part ? "nothing of the part stands there" : "no stock stands there", {}, "Go to another place of the path");
    out.cell = stock->cell();
    std::vector<BrokenEdge> edges;
    for (std::size_t i = 0; i < done.size(); ++i) {
        progress.report(0.8 * static_cast<double>(i) / static_cast<double>(done.size()), "Cutting what is near");
        if (!done[i] || !done[i]->path()) continue;
        const Cutter& cutter = done[i]->tool.cutter;
        // From the tip up to the flutes' end nothing is further away than this.
        const double reach = std::hypot(0.5 * cutter.diameter, std::max(cutter.fluteLength, cutter.diameter)) + 1.0;
        for (const Toolpath& stretch : near(*done[i]->path(), out.box, reach))
            if (auto ok = stock->remove(stretch, cutter, progress); !ok) return tl::unexpected(ok.error());
        if (done[i]->along)
            for (const Strip& s : done[i]->along->strips)
                if (PolylineDistance edge(s.line); edge.distance(centre, size) < size) edges.emplace_back(std::move(edge), s.width);
    }
    progress.report(0.8, "Measuring what stands");
    if (!measure(out, stock->skin(), part, edges, progress)) return cancelledError();
    progress.report(1.0, "Looked closely");
    return out;
}

} // namespace gyre
