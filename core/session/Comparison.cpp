#include "session/Comparison.h"
#include "base/Parallel.h"
#include "geom/Inside.h"
#include <algorithm>
#include <numeric>

namespace gyre {

double StockComparison::wholeArea() const { return std::accumulate(area.begin(), area.end(), 0.0); }

Result<StockComparison> compareStock(const Stock& stock, const Part& part, std::vector<double> limits, const Progress& progress) {
    StockComparison out;
    const Part& body = part.body() ? *part.body() : part; // mends are no material
    out.cell = stock.cell();
    out.left = stock.volume();
    out.part = body.volume();
    std::sort(limits.begin(), limits.end());
    out.limits = std::move(limits);
    out.area.assign(out.limits.size() + 1, 0.0);
    const TriangleMesh skin = stock.skin();
    const auto off = [&](const Vec3& p) {
        const double d = body.tree().closest(p).distance;
        return d > 1e-9 && insideClosed(body.tree(), p) ? -d : d;
    };
    std::vector<double> distance(skin.points.size());
    if (!parallelFor(
            skin.points.size(), 256, [&](std::size_t i) { distance[i] = off(skin.points[i]); }, &progress))
        return cancelledError();
    for (std::size_t i = 0; i < skin.points.size(); ++i) {
        if (distance[i] > out.most) {
            out.most = distance[i];
            out.mostAt = skin.points[i];
        }
        if (-distance[i] > out.deepest) {
            out.deepest = -distance[i];
            out.deepestAt = skin.points[i];
        }
    }
    for (const auto& t : skin.triangles) {
        const double area = 0.5 * (skin.points[t[1]] - skin.points[t[0]]).cross(skin.points[t[2]] - skin.points[t[0]]).norm();
        const double mean = (distance[t[0]] + distance[t[1]] + distance[t[2]]) / 3.0;
        out.area[static_cast<std::size_t>(std::upper_bound(out.limits.begin(), out.limits.end(), mean) - out.limits.begin())] += area;
    }
    return out;
}

} // namespace gyre
