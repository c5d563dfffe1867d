#include "session/StandingAreas.h"
#include "base/Groups.h"
#include "base/Parallel.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <unordered_map>

namespace gyre {
namespace {

/// A piece of the part's surface where one of the stock's rays meets it.
struct CoveredBit {
    Vec3 at, outward;
    double area = 0.0, high = 0.0;
    int axis = 0, by = 0, face = -1;
};

/// Where the rays along each triangle's steepest direction meet it: about as many per area everywhere, and all exactly on a ray.
std::vector<CoveredBit> bitsOf(const TriangleMesh& mesh, const Stock& stock) {
    constexpr double kAside = 1e-7; // of a cell: what a ray meets on the side of two triangles lies in one of them
    std::vector<CoveredBit> out;
    std::array<Vec3, 3> lattice;
    for (int axis = 0; axis < 3; ++axis) (void)stock.along(axis, stock.bounds().low, lattice[static_cast<std::size_t>(axis)]);
    const double cell = stock.cell();
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const Vec3 &a = mesh.corner(t, 0), &b = mesh.corner(t, 1), &c = mesh.corner(t, 2), across = (b - a).cross(c - a);
        const double twice = across.norm();
        if (!(twice > 1e-12)) continue;
        CoveredBit p;
        p.outward = across / twice;
        p.outward.cwiseAbs().maxCoeff(&p.axis);
        p.area = cell * cell / std::abs(p.outward[p.axis]);
        p.face = mesh.faces.empty() ? -1 : mesh.faces[t];
        const int iu = (p.axis + 1) % 3, iv = (p.axis + 2) % 3;
        const Vec3& origin = lattice[static_cast<std::size_t>(p.axis)];
        const auto range = [&](int i) {
            return std::array<int, 2>{static_cast<int>(std::ceil((std::min({a[i], b[i], c[i]}) - origin[i]) / cell - kAside)),
                                      static_cast<int>(std::floor((std::max({a[i], b[i], c[i]}) - origin[i]) / cell))};
        };
        const auto [uFrom, uTo] = range(iu);
        const auto [vFrom, vTo] = range(iv);
        const Vec3 e = b - a, f = c - a;
        const double det = e[iu] * f[iv] - e[iv] * f[iu];
        for (int u = uFrom; u <= uTo; ++u)
            for (int v = vFrom; v <= vTo; ++v) {
                const double x = origin[iu] + u * cell - a[iu], y = origin[iv] + v * cell - a[iv], x1 = x + kAside * cell, y1 = y + 0.6 * kAside * cell;
                const double s = (x1 * f[iv] - y1 * f[iu]) / det, q = (e[iu] * y1 - e[iv] * x1) / det;
                if (s < 0.0 || q < 0.0 || s + q > 1.0) continue;
                p.at = a + (x * f[iv] - y * f[iu]) / det * e + (e[iu] * y - e[iv] * x) / det * f;
                out.push_back(p);
            }
    }
    return out;
}

/// How high the stock stands over a place along its normal, and who made its surface there. False: no higher than `more`.
bool covered(CoveredBit& p, const Stock& stock, const Part& body, double more) {
    const double lean = p.outward[p.axis], foot = p.at[p.axis], over = foot + more / lean;
    Vec3 through;
    for (const StockSpan& s : stock.along(p.axis, p.at, through)) {
        const double from = static_cast<double>(s.from), to = static_cast<double>(s.to);
        if (over < from || over > to) continue;
        p.high = (lean > 0.0 ? to - foot : from - foot) * lean;
        p.by = lean > 0.0 ? s.toBy : s.fromBy;
        // Right beside a wall the ray may run in it.
        if (body.tree().closest(p.at + more * p.outward, more).distance < 0.5 * more) return false;
        // In a slot that is still full the stock ends nowhere before the other wall, along the ray or square to the surface: nobody has been there.
        const Vec3 off = p.at + 0.5 * more * p.outward;
        const Vec3 up = std::copysign(1.0, lean) * Vec3::Unit(p.axis);
        if (const RayHit wall = body.tree().ray(off, up, p.high / std::abs(lean)); wall.hit) {
            p.high = wall.distance * std::abs(lean) + 0.5 * more;
            p.by = 0;
        }
        if (const RayHit wall = body.tree().ray(off, p.outward, p.high); wall.hit) p.high = wall.distance + 0.5 * more;
        return true;
    }
    return false;
}

/// Those that lie side by side and are both cut, or both not.
std::map<std::uint32_t, std::vector<std::size_t>> bitsTogether(const std::vector<CoveredBit>& bits, double within) {
    const auto cellOf = [&](const Vec3& p) { return Eigen::Vector3i((p / within).array().floor().cast<int>()); };
    const auto keyOf = [](const Eigen::Vector3i& c) {
        const auto part = [](int v) { return static_cast<std::uint64_t>(static_cast<std::uint32_t>(v)) & 0x1fffffu; };
        return part(c.x()) << 42 | part(c.y()) << 21 | part(c.z());
    };
    std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> cells;
    for (std::uint32_t i = 0; i < bits.size(); ++i) cells[keyOf(cellOf(bits[i].at))].push_back(i);
    Groups groups(bits.size());
    for (std::uint32_t i = 0; i < bits.size(); ++i) {
        const Eigen::Vector3i own = cellOf(bits[i].at);
        for (int k = 0; k < 27; ++k) {
            const auto found = cells.find(keyOf(own + Eigen::Vector3i(k % 3 - 1, k / 3 % 3 - 1, k / 9 - 1)));
            if (found == cells.end()) continue;
            for (const std::uint32_t j : found->second)
                if (j > i && (bits[i].by > 0) == (bits[j].by > 0) && (bits[i].at - bits[j].at).norm() <= within) groups.join(i, j);
        }
    }
    std::map<std::uint32_t, std::vector<std::size_t>> out;
    for (std::uint32_t i = 0; i < bits.size(); ++i) out[groups.find(i)].push_back(i);
    return out;
}

StandingArea areaOf(const std::vector<CoveredBit>& bits, const std::vector<std::size_t>& members) {
    StandingArea out;
    std::map<int, double> by;
    for (const std::size_t i : members) {
        const CoveredBit& p = bits[i];
        out.area += p.area;
        by[p.by] += p.area;
        out.faces.push_back(p.face);
        if (p.high <= out.worst.mm) continue;
        out.worst.mm = p.high;
        out.worst.at = p.at + p.high * p.outward;
        out.worst.outward = p.outward;
    }
    out.worst.by = std::max_element(by.begin(), by.end(), [](const auto& a, const auto& b) { return a.second < b.second; })->first;
    std::sort(out.faces.begin(), out.faces.end());
    out.faces.erase(std::unique(out.faces.begin(), out.faces.end()), out.faces.end());
    return out;
}

} // namespace

Result<std::vector<StandingArea>> standingAreas(const Stock& stock, const Part& part, double more, const Progress& progress) {
    const Part& body = part.body() ? *part.body() : part;
    more = std::max(more, 2.0 * body.deflection());
    std::vector<CoveredBit> all = bitsOf(body.mesh(), stock);
    std::vector<char> under(all.size(), 0);
    if (!parallelFor(
            all.size(), 512, [&](std::size_t i) { under[i] = covered(all[i], stock, body, more); }, &progress))
        return cancelledError();
    std::vector<CoveredBit> bits;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (under[i]) bits.push_back(all[i]);
    std::vector<StandingArea> out;
    const double least = 9.0 * stock.cell() * stock.cell();
    for (const auto& [first, members] : bitsTogether(bits, 2.5 * stock.cell()))
        if (StandingArea area = areaOf(bits, members); area.area >= least) out.push_back(std::move(area));
    std::stable_sort(out.begin(), out.end(), [](const StandingArea& a, const StandingArea& b) { return a.area * a.worst.mm > b.area * b.worst.mm; });
    for (const bool cut : {false, true}) {
        std::size_t kept = 0;
        std::erase_if(out, [&](const StandingArea& a) { return (a.worst.by > 0) == cut && ++kept > StockComparison::kMostPlaces; });
    }
    return out;
}

} // namespace gyre
