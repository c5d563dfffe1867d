// The moth relief: a mesh from a formula, with the tremble of a scan.
#include "Solids.h"
#include "Workshop.h"
#include <cmath>
#include <random>

namespace gyre::demo {

TriangleMesh mothRelief() {
    constexpr int kWide = 180, kHigh = 130;
    constexpr double kWidth = 90.0, kHeight = 65.0;
    std::mt19937 random(5);
    const auto tremble = [&] { return 0.012 * (static_cast<double>(random() % 2001) / 1000.0 - 1.0); };
    // Height over a flat ground: two pairs of wings with veins, a body, smooth to the rim.
    const auto height = [](double x, double y) {
        const double ax = std::abs(x);
        const auto wing = [&](double cx, double cy, double rx, double ry, double turn) {
            const double c = std::cos(turn), s = std::sin(turn), u = (c * (ax - cx) + s * (y - cy)) / rx, v = (-s * (ax - cx) + c * (y - cy)) / ry;
            const double d = u * u + v * v;
            return d < 1.0 ? (1.0 - d) * (1.0 - d) * (1.0 + 0.1 * std::min(1.0, 4.0 * d) * std::cos(7.0 * std::atan2(v, u))) : 0.0;
        };
        const double body = std::exp(-(x * x) / 30.0 - (y * y) / 260.0);
        return 5.0 * wing(20.0, 10.0, 22.0, 13.0, 0.45) + 4.0 * wing(15.0, -13.0, 15.0, 11.0, -0.6) + 5.5 * body;
    };
    TriangleMesh m;
    const auto at = [&](int i, int j) { return static_cast<std::uint32_t>(i * (kHigh + 1) + j); };
    for (int i = 0; i <= kWide; ++i)
        for (int j = 0; j <= kHigh; ++j) {
            const double x = kWidth * (static_cast<double>(i) / kWide - 0.5), y = kHeight * (static_cast<double>(j) / kHigh - 0.5);
            m.points.emplace_back(x, y, 10.0 + height(x, y) + tremble());
        }
    for (int i = 0; i < kWide; ++i)
        for (int j = 0; j < kHigh; ++j) {
            m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    // A block below it: walls down to z = 0 and a floor, so that the body is closed.
    std::vector<std::uint32_t> rim;
    for (int i = 0; i < kWide; ++i) rim.push_back(at(i, 0));
    for (int j = 0; j < kHigh; ++j) rim.push_back(at(kWide, j));
    for (int i = kWide; i > 0; --i) rim.push_back(at(i, kHigh));
    for (int j = kHigh; j > 0; --j) rim.push_back(at(0, j));
    const auto first = static_cast<std::uint32_t>(m.points.size()), n = static_cast<std::uint32_t>(rim.size());
    for (const auto r : rim) m.points.emplace_back(m.points[r].x(), m.points[r].y(), 0.0);
    m.points.emplace_back(0.0, 0.0, 0.0);
    for (std::uint32_t k = 0; k < n; ++k) {
        const std::uint32_t next = (k + 1) % n;
        m.triangles.push_back({rim[k], first + k, first + next});
        m.triangles.push_back({rim[k], first + next, rim[next]});
        m.triangles.push_back({first + next, first + k, first + n});
    }
    return m;
}

// A plate with low stops along the block's long sides and one at its end, below everything that is carved.
TopoDS_Shape mothPlate() {
    return fuse(block(Vec3(-60, -48, -20), Vec3(60, 48, 0)),
                {block(Vec3(-40, 32.5, -1), Vec3(40, 40, 5)), block(Vec3(-40, -40, -1), Vec3(40, -32.5, 5)), block(Vec3(-54, -20, -1), Vec3(-45, 20, 5))});
}

} // namespace gyre::demo
