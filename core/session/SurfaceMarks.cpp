#include "session/SurfaceMarks.h"
#include "base/Parallel.h"
#include "pattern/Pattern.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr std::size_t kPlaces = 256; // across and along the patch

SurfacePoint footOn(const Part& body, const Vec3& p, const SurfacePoint* beside, int besideFace, int& face) {
    const ClosestPoint near = body.tree().closest(p);
    const TriangleMesh& mesh = body.mesh();
    face = mesh.faces.empty() ? -1 : mesh.faces[near.triangle];
    if (body.isMesh() || face < 0) {
        const Vec3 &a = mesh.corner(near.triangle, 0), across = (mesh.corner(near.triangle, 1) - a).cross(mesh.corner(near.triangle, 2) - a);
        return {near.point, across.norm() > 0.0 ? Vec3(across.normalized()) : Vec3(Vec3::Zero()), 0.0, 0.0};
    }
    return beside && besideFace == face ? body.project(face, p, beside->u, beside->v) : body.project(face, p);
}

const Part& bodyOf(const Workplace& place) { return place.part->body() ? *place.part->body() : *place.part; }

Vec3 flattened(const Vec3& v, const Vec3& normal) { return v - v.dot(normal) * normal; }

/// Where the patch bends further than this off its middle, heights are not its own.
constexpr double kSteepest = 0.35; // cosine

Result<MarkGround> groundAt(const Part& body, const MarkPlace& at, double size, const Progress& progress) {
    MarkGround g{kPlaces, kPlaces, size / static_cast<double>(kPlaces - 1), {}, {}};
    g.foot.resize(kPlaces * kPlaces);
    g.outward.assign(kPlaces * kPlaces, Vec3::Zero());
    const Vec3 across = at.feed.cross(at.outward);
    const auto row = [&](std::size_t j) {
        SurfacePoint last;
        int lastFace = -1;
        for (std::size_t i = 0; i < kPlaces; ++i) {
            const double x = g.step * static_cast<double>(i) - 0.5 * size, y = g.step * static_cast<double>(j) - 0.5 * size;
            const Vec3 p = at.at + x * across + y * at.feed;
            int face = -1;
            const SurfacePoint foot = footOn(body, p, &last, lastFace, face);
            last = foot;
            lastFace = face;
            g.foot[j * kPlaces + i] = foot.point;
            if ((foot.point - p).norm() < 0.5 * size + 1e-6 && foot.normal.dot(at.outward) > kSteepest) g.outward[j * kPlaces + i] = foot.normal;
        }
    };
    if (!parallelFor(kPlaces, 4, row, &progress)) return cancelledError();
    return g;
}

} // namespace

Result<MarkPlace> markPlaceOf(const Workplace& place, const OperationResult& done, std::size_t location) {
    if (!place.part) return fail("there is no part whose surface could be looked at");
    const Toolpath* path = done.path();
    if (!path || path->empty()) return fail("there is no path here that could leave marks");
    const std::size_t i = std::min(location, path->size() - 1);
    const Part& body = bodyOf(place);
    MarkPlace out;
    int face = -1;
    const SurfacePoint foot = footOn(body, path->normal[i].squaredNorm() > 0.5 ? path->contact[i] : path->tip[i], nullptr, -1, face);
    out.at = foot.point;
    out.outward = foot.normal;
    if (out.outward.squaredNorm() < 0.5) return fail("the part has no surface here that could be looked at");
    // Along the row, from the place before to the one behind.
    const auto beside = [&](std::size_t n) { return path->row[n] == path->row[i] ? n : i; };
    Vec3 feed = flattened(path->tip[beside(std::min(i + 1, path->size() - 1))] - path->tip[beside(i > 0 ? i - 1 : i)], out.outward);
    for (const Vec3& other : {Vec3(Vec3::UnitX()), Vec3(Vec3::UnitY())})
        if (feed.norm() < 1e-6) feed = flattened(other, out.outward);
    out.feed = feed.normalized();
    return out;
}

double usualPatch(const OperationResult& done) {
    constexpr double kRows = 6.0;
    const double wide = done.pattern && done.pattern->spacing > 0.0 ? kRows * done.pattern->spacing : 0.75 * done.tool.cutter.diameter;
    return std::clamp(std::round(2.0 * wide) / 2.0, 1.0, 20.0);
}

Result<SurfaceMarks> surfaceMarks(const Workplace& place, const std::vector<std::shared_ptr<const OperationResult>>& done, const MarkPlace& at, double size,
                                  Progress& progress) {
    if (!place.part) return fail("there is no part whose surface could be looked at");
    if (!(size >= kSmallestPatch && size <= kLargestPatch))
        return fail(fmt::format("a patch of {:g} mm is none to look at", size), {}, fmt::format("Use {:g} to {:g} mm", kSmallestPatch, kLargestPatch));
    SurfaceMarks out;
    out.place = at;
    out.size = size;
    progress.report(0.0, "Looking at the surface");
    auto ground = groundAt(bodyOf(place), at, size, progress);
    if (!ground) return tl::unexpected(ground.error());
    out.ground = std::move(*ground);
    std::vector<MarkCut> cuts;
    for (const auto& d : done)
        if (d && d->path()) {
            cuts.push_back({*d->path(), d->tool.cutter});
            out.cutBy.push_back(d->operation);
        }
    progress.report(0.3, "Cutting it finely");
    auto marks = marksOn(out.ground, cuts, progress);
    if (!marks) return tl::unexpected(marks.error());
    out.marks = std::move(*marks);
    out.across = roughnessAcross(out.marks, out.middleRow());
    out.along = roughnessAlong(out.marks, out.middleColumn());
    out.sum = sumOf(out.marks, out.ground);
    progress.report(1.0, "Looked at the marks");
    return out;
}

std::string tableOf(const SurfaceMarks& marks) {
    std::string out = "across mm;along mm;height µm;operation\n";
    const MarkMap& m = marks.marks;
    for (std::size_t p = 0; p < m.height.size(); ++p) {
        const double x = m.step * static_cast<double>(p % m.across) - 0.5 * marks.size, y = m.step * static_cast<double>(p / m.across) - 0.5 * marks.size;
        if (m.isCut(p))
            out += fmt::format("{:.4f};{:.4f};{:.3f};{}\n", x, y, 1000.0 * static_cast<double>(m.height[p]), marks.cutBy[static_cast<std::size_t>(m.by[p])]);
        else
            out += fmt::format("{:.4f};{:.4f};;\n", x, y);
    }
    return out;
}

} // namespace gyre
