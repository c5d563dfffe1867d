#include "session/Comparison.h"
#include "base/Parallel.h"
#include "geom/Inside.h"
#include "geom/Polyline.h"
#include "job/Job.h"
#include "operation/Definition.h"
#include "operation/OperationResult.h"
#include "session/StandingAreas.h"
#include <algorithm>
#include <numeric>

namespace gyre {

double StockComparison::wholeArea() const { return std::accumulate(area.begin(), area.end(), meantArea); }

namespace {

/// Does the exact foot stand for the nearest place of the triangles? Within a triangle it does. On a side, the side may be the border of the face
/// and the foot lie beyond: then it stands off the triangles where they are flat, or the way from the border leans away from the triangle.
bool footCounts(const Part& body, const ClosestPoint& near, const Vec3& p, const SurfacePoint& foot) {
    const TriangleMesh& mesh = body.mesh();
    const Vec3 &a = mesh.corner(near.triangle, 0), u = mesh.corner(near.triangle, 1) - a, v = mesh.corner(near.triangle, 2) - a, w = near.point - a;
    const Vec3 across = u.cross(v);
    const double area = across.norm();
    if (area < 1e-14) return false;
    const double s = w.cross(v).dot(across) / (area * area), t = u.cross(w).dot(across) / (area * area);
    if (std::min({s, t, 1.0 - s - t}) > 1e-9) return true;
    const Vec3 normal = across / area;
    if ((normal - foot.normal).norm() < 1e-9) return body.tree().closest(foot.point).distance < 1e-7;
    const double lean = std::abs((p - near.point).dot(normal));
    return lean > std::cos(0.35) * near.distance;
}

} // namespace

double offBody(const Part& body, const Vec3& p) {
    const ClosestPoint near = body.tree().closest(p);
    if (near.distance < 4.0 * body.deflection() && !body.isMesh()) {
        const SurfacePoint foot = body.project(body.mesh().faces[near.triangle], p);
        const double off = (p - foot.point).dot(foot.normal);
        if (std::abs(std::abs(off) - (p - foot.point).norm()) < 1e-6 && footCounts(body, near, p, foot)) return off;
    }
    return near.distance > 1e-9 && insideClosed(body.tree(), p) ? -near.distance : near.distance;
}

MeantCuts meantCuts(const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done) {
    MeantCuts out(done.size());
    for (std::size_t i = 0; i < done.size(); ++i) {
        if (done[i]->along) out[i].edges = done[i]->along->strips;
        const auto recipe = job.worked(done[i]->operation);
        if (recipe && definitionOf(recipe->kind).meantDepth) out[i].deep = definitionOf(recipe->kind).meantDepth(*recipe);
    }
    return out;
}

namespace {

/// Was a place to go that a cut has made, so far inside of the part?
class Meant {
public:
    Meant(const MeantCuts& cuts, double cell) : m_cuts(cuts), m_cell(cell), m_edges(cuts.size()) {
        for (std::size_t i = 0; i < cuts.size(); ++i)
            for (const Strip& s : cuts[i].edges) m_edges[i].emplace_back(s.line);
    }
    [[nodiscard]] bool at(const Vec3& p, double gone, int by) const {
        if (by < 1 || static_cast<std::size_t>(by) > m_cuts.size()) return false;
        const std::size_t i = static_cast<std::size_t>(by) - 1;
        if (gone <= m_cuts[i].deep + 0.5 * m_cell && m_cuts[i].deep > 0.0) return true;
        for (std::size_t e = 0; e < m_edges[i].size(); ++e) {
            const double wide = m_cuts[i].edges[e].width;
            if (gone <= wide && m_edges[i][e].distance(p, wide + 2.0 * m_cell) <= wide + m_cell) return true;
        }
        return false;
    }

private:
    const MeantCuts& m_cuts;
    double m_cell;
    std::vector<std::vector<PolylineDistance>> m_edges;
};

} // namespace

Result<StockOff> stockOff(const Stock& stock, const Part& part, const Progress& progress, const MeantCuts& meant) {
    const Part& body = part.body() ? *part.body() : part; // mends are no material
    StockOff out;
    std::vector<SurfaceMet> met;
    out.skin = stock.skin(&met);
    out.off.resize(met.size());
    out.meant.assign(met.size(), 0);
    const Meant toGo(meant, stock.cell());
    const auto measure = [&](std::size_t i) {
        double off = offBody(body, met[i].at);
        // No more is told than is known.
        if (!met[i].exact) off = std::copysign(std::max(0.0, std::abs(off) - 0.5 * stock.cell()), off);
        out.off[i] = static_cast<float>(off);
        out.meant[i] = off < 0.0 && toGo.at(met[i].at, -off, out.skin.faces[2 * i]);
    };
    if (!parallelFor(met.size(), 256, measure, &progress)) return cancelledError();
    return out;
}

namespace {

/// The worst, then the worst that is not beside it, and so on.
std::vector<StockPlace> worstPlaces(const StockOff& measured, bool gone, double fine) {
    const TriangleMesh& skin = measured.skin;
    const auto amount = [&](std::size_t i) { return gone ? -static_cast<double>(measured.off[i]) : static_cast<double>(measured.off[i]); };
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < measured.off.size(); ++i)
        if (amount(i) > fine && !measured.meant[i]) order.push_back(i);
    // Of equals the first in the skin's order: the same places every time.
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return amount(a) != amount(b) ? amount(a) > amount(b) : a < b; });
    const double apart = 0.1 * skin.bounds().diagonal();
    std::vector<StockPlace> out;
    for (const std::size_t i : order) {
        const Vec3 &a = skin.corner(2 * i, 0), at = 0.5 * (a + skin.corner(2 * i, 2));
        if (std::any_of(out.begin(), out.end(), [&](const StockPlace& p) { return (p.at - at).norm() < apart; })) continue;
        const Vec3 across = (skin.corner(2 * i, 1) - a).cross(skin.corner(2 * i, 2) - a);
        out.push_back({amount(i), at, across.norm() > 0.0 ? Vec3(across.normalized()) : Vec3(Vec3::UnitZ()), skin.faces[2 * i]});
        if (out.size() == StockComparison::kMostPlaces) break;
    }
    return out;
}

} // namespace

Result<StockComparison> summed(const StockOff& measured, const Stock& stock, const Part& part, std::vector<double> limits, const Progress& progress) {
    constexpr std::size_t kSteps = 40;
    StockComparison out;
    out.cell = stock.cell();
    out.fine = std::max(0.05, 0.25 * out.cell);
    out.left = stock.volume();
    out.part = (part.body() ? *part.body() : part).volume();
    std::sort(limits.begin(), limits.end());
    out.limits = std::move(limits);
    out.area.assign(out.limits.size() + 1, 0.0);
    out.reach = out.limits.empty() ? 1.0 : std::max({4.0 * out.fine, std::abs(out.limits.front()), std::abs(out.limits.back())});
    out.histogram.assign(kSteps, 0.0);
    const TriangleMesh& skin = measured.skin;
    for (std::size_t i = 0; i < measured.off.size(); ++i) {
        const double off = static_cast<double>(measured.off[i]);
        const Vec3 middle = 0.5 * (skin.corner(2 * i, 0) + skin.corner(2 * i, 2));
        double area = 0.0;
        for (const std::size_t t : {2 * i, 2 * i + 1}) area += 0.5 * (skin.corner(t, 1) - skin.corner(t, 0)).cross(skin.corner(t, 2) - skin.corner(t, 0)).norm();
        // As well as it is known a surface lies where it is modelled: that is in its band.
        if (measured.meant[i] && -off > out.fine) {
            out.meantArea += area;
            out.meantDeepest = std::max(out.meantDeepest, -off);
            continue;
        }
        if (off > out.most) {
            out.most = off;
            out.mostAt = middle;
        }
        if (-off > out.deepest) {
            out.deepest = -off;
            out.deepestAt = middle;
            out.deepestBy = skin.faces[2 * i];
        }
        out.area[static_cast<std::size_t>(std::upper_bound(out.limits.begin(), out.limits.end(), off) - out.limits.begin())] += area;
        const double step = std::floor(0.5 * (off / out.reach + 1.0) * kSteps);
        out.histogram[static_cast<std::size_t>(std::clamp(step, 0.0, static_cast<double>(kSteps - 1)))] += area;
    }
    out.gone = worstPlaces(measured, true, out.fine);
    out.stands = worstPlaces(measured, false, out.fine);
    auto areas = standingAreas(stock, part, out.fine, progress);
    if (!areas) return tl::unexpected(areas.error());
    out.areas = std::move(*areas);
    return out;
}

Result<StockComparison> compareStock(const Stock& stock, const Part& part, std::vector<double> limits, const Progress& progress, const MeantCuts& meant) {
    const auto compared = stockOff(stock, part, progress, meant);
    if (!compared) return tl::unexpected(compared.error());
    return summed(*compared, stock, part, std::move(limits), progress);
}

} // namespace gyre
