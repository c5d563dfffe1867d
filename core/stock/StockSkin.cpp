// The surface of a stock of rays.
#include "base/Parallel.h"
#include "stock/Stock.h"
#include <bit>
#include <cmath>

namespace gyre {
namespace {

/// Points of the lattice of one X as bits, Y by Y: is there material? One more on each side is air.
class Slab {
public:
    Slab(int ny, int nz) : m_words((static_cast<std::size_t>(nz) + 2 + 63) / 64), m_bits((static_cast<std::size_t>(ny) + 2) * m_words, 0) {}
    [[nodiscard]] std::size_t words() const { return m_words; }
    /// All Z at a Y, from −1 on; the bit of Z is at Z + 1.
    [[nodiscard]] std::uint64_t* row(int y) { return m_bits.data() + static_cast<std::size_t>(y + 1) * m_words; }
    [[nodiscard]] const std::uint64_t* row(int y) const { return m_bits.data() + static_cast<std::size_t>(y + 1) * m_words; }
    void set(int y, int z) { row(y)[static_cast<std::size_t>(z + 1) / 64] |= std::uint64_t{1} << (static_cast<std::size_t>(z + 1) % 64); }
    [[nodiscard]] bool at(int y, int z) const { return row(y)[static_cast<std::size_t>(z + 1) / 64] >> (static_cast<std::size_t>(z + 1) % 64) & 1; }
    /// What at least two of three say.
    static Slab most(const Slab& a, const Slab& b, const Slab& c) {
        Slab out = a;
        for (std::size_t i = 0; i < out.m_bits.size(); ++i) out.m_bits[i] = (a.m_bits[i] & b.m_bits[i]) | (b.m_bits[i] & c.m_bits[i]) | (c.m_bits[i] & a.m_bits[i]);
        return out;
    }

private:
    std::size_t m_words;
    std::vector<std::uint64_t> m_bits;
};

/// A side of the lattice, from a point to the next along an axis, that meets the surface.
struct Crossing {
    int axis = 0;
    std::array<int, 3> from{}; ///< −1: before the first
    bool leaves = false;       ///< there is material at `from`
    bool exact = false;        ///< a ray ends there
    float where = 0.0F;        ///< along the axis
    std::uint16_t by = 0;
};

} // namespace

/// The surface of one stock.
struct Stock::Skinner {
    const Stock& stock;
    const std::array<int, 3> n; ///< points of the lattice along X, Y, Z
    explicit Skinner(const Stock& s) : stock(s), n{s.m_fields[2].count[0], s.m_fields[0].count[0], s.m_fields[1].count[0]} {}

    [[nodiscard]] double at(int axis, int i) const { return stock.m_origin[axis] + (i + 0.5) * stock.m_cell; }
    [[nodiscard]] const Ray& rayAt(int axis, const std::array<int, 3>& p) const {
        const Field& f = stock.m_fields[static_cast<std::size_t>(axis)];
        const auto u = static_cast<std::size_t>(p[static_cast<std::size_t>((axis + 1) % 3)]), v = static_cast<std::size_t>(p[static_cast<std::size_t>((axis + 2) % 3)]);
        return f.rays[u * static_cast<std::size_t>(f.count[1]) + v];
    }
    /// Calls with the points of the lattice that lie in material along a ray.
    template <class Each> void eachWithin(int axis, const std::array<int, 3>& p, const Each& each) const {
        const int last = n[static_cast<std::size_t>(axis)] - 1;
        rayAt(axis, p).each([&](const StockSpan& s) {
            const int low = std::max(0, static_cast<int>(std::ceil((static_cast<double>(s.from) - stock.m_origin[axis]) / stock.m_cell - 0.5))),
                      high = std::min(last, static_cast<int>(std::floor((static_cast<double>(s.to) - stock.m_origin[axis]) / stock.m_cell - 0.5)));
            for (int i = low; i <= high; ++i) each(i);
        });
    }
    [[nodiscard]] std::vector<Slab> lattice() const;
    [[nodiscard]] Crossing crossing(int axis, const std::array<int, 3>& from, bool leaves) const;
    void findCrossings(const Slab& here, const Slab& next, int x, std::vector<Crossing>& out) const;
    [[nodiscard]] TriangleMesh mesh(const std::vector<std::vector<Crossing>>& crossings, std::vector<SurfaceMet>* met) const;
};

// Material at the points of the lattice: as two of the three rays through them say. The first slab and the last are air.
std::vector<Slab> Stock::Skinner::lattice() const {
    const Slab air(n[1], n[2]);
    std::vector<Slab> along(static_cast<std::size_t>(n[0]), air), slabs(static_cast<std::size_t>(n[0]) + 2, air);
    constexpr std::size_t kRows = 16; // Y of a thread at a time: no two write to the same word
    parallelFor((static_cast<std::size_t>(n[1]) + kRows - 1) / kRows, 1, [&](std::size_t group) {
        const int first = static_cast<int>(group * kRows), end = std::min(n[1], first + static_cast<int>(kRows));
        for (int y = first; y < end; ++y)
            for (int z = 0; z < n[2]; ++z) eachWithin(0, {0, y, z}, [&](int x) { along[static_cast<std::size_t>(x)].set(y, z); });
    });
    parallelFor(static_cast<std::size_t>(n[0]), 1, [&](std::size_t i) {
        const int x = static_cast<int>(i);
        Slab across = air, up = air;
        for (int z = 0; z < n[2]; ++z) eachWithin(1, {x, 0, z}, [&](int y) { across.set(y, z); });
        for (int y = 0; y < n[1]; ++y) eachWithin(2, {x, y, 0}, [&](int z) { up.set(y, z); });
        slabs[i + 1] = Slab::most(along[i], across, up);
    });
    return slabs;
}

// The end of a span between the two points; half way where this ray sees none.
Crossing Stock::Skinner::crossing(int axis, const std::array<int, 3>& from, bool leaves) const {
    Crossing c{axis, from, leaves, false, 0.0F, 0};
    const double low = at(axis, from[static_cast<std::size_t>(axis)]), high = low + stock.m_cell, middle = 0.5 * (low + high);
    double least = 1e300, w = middle;
    rayAt(axis, from).each([&](const StockSpan& s) {
        const double end = static_cast<double>(leaves ? s.to : s.from);
        const double d = std::abs(end - middle);
        if (d >= least) return;
        least = d;
        c.by = leaves ? s.toBy : s.fromBy;
        c.exact = end >= low && end <= high;
        if (d < 0.75 * stock.m_cell) w = std::clamp(end, low, high);
    });
    c.where = static_cast<float>(w);
    return c;
}

// Bits that differ from the next of their row, from the next row, from the next slab.
void Stock::Skinner::findCrossings(const Slab& here, const Slab& next, int x, std::vector<Crossing>& out) const {
    const std::size_t words = here.words();
    for (int y = -1; y < n[1]; ++y) {
        const std::uint64_t *row = here.row(y), *beside = here.row(y + 1), *beyond = next.row(y);
        for (std::size_t word = 0; word < words; ++word) {
            const std::uint64_t above = (row[word] >> 1) | (word + 1 < words ? row[word + 1] << 63 : 0);
            const std::uint64_t steps[3] = {row[word] ^ beyond[word], row[word] ^ beside[word], row[word] ^ above};
            for (int axis = 0; axis < 3; ++axis)
                for (std::uint64_t bits = steps[axis]; bits != 0; bits &= bits - 1) {
                    const int z = static_cast<int>(64 * word) + std::countr_zero(bits) - 1;
                    out.push_back(crossing(axis, {x, y, z}, here.at(y, z)));
                }
        }
    }
}

// Each crossing adds to the four cubes around it. Cube (i, j, k) lies below point (i, j, k); those of two neighbouring X are open at a time.
TriangleMesh Stock::Skinner::mesh(const std::vector<std::vector<Crossing>>& crossings, std::vector<SurfaceMet>* met) const {
    const std::size_t width = static_cast<std::size_t>(n[2]) + 1, plane = (static_cast<std::size_t>(n[1]) + 1) * width;
    std::array<std::vector<std::uint32_t>, 2> cubes{std::vector<std::uint32_t>(plane, UINT32_MAX), std::vector<std::uint32_t>(plane, UINT32_MAX)};
    TriangleMesh mesh;
    std::vector<int> count;
    const auto pointOf = [&](const std::array<int, 3>& c) {
        std::uint32_t& p = cubes[static_cast<std::size_t>(c[0] & 1)][static_cast<std::size_t>(c[1]) * width + static_cast<std::size_t>(c[2])];
        if (p == UINT32_MAX) {
            p = static_cast<std::uint32_t>(mesh.points.size());
            mesh.points.push_back(Vec3::Zero());
            count.push_back(0);
        }
        return p;
    };
    for (std::size_t i = 0; i < crossings.size(); ++i) {
        if (i > 0) std::fill(cubes[i & 1].begin(), cubes[i & 1].end(), UINT32_MAX); // of X, which this slab begins
        for (const Crossing& c : crossings[i]) {
            const auto k = static_cast<std::size_t>(c.axis), iu = static_cast<std::size_t>((c.axis + 1) % 3), iv = static_cast<std::size_t>((c.axis + 2) % 3);
            Vec3 where(at(0, c.from[0]), at(1, c.from[1]), at(2, c.from[2]));
            where[c.axis] = static_cast<double>(c.where);
            std::array<int, 3> q = c.from;
            ++q[k];
            std::array<std::uint32_t, 4> around{};
            for (std::size_t corner = 0; corner < 4; ++corner) {
                std::array<int, 3> cube = q; // its upper point
                if (corner == 1 || corner == 2) ++cube[iu];
                if (corner >= 2) ++cube[iv];
                const std::uint32_t point = around[corner] = pointOf(cube);
                mesh.points[point] += where;
                ++count[point];
            }
            // Counter-clockwise, seen from outside.
            if (!c.leaves) std::swap(around[1], around[3]);
            mesh.triangles.push_back({around[0], around[1], around[2]});
            mesh.triangles.push_back({around[0], around[2], around[3]});
            mesh.faces.insert(mesh.faces.end(), 2, static_cast<int>(c.by));
            if (met) met->push_back({where, c.exact});
        }
    }
    for (std::size_t i = 0; i < mesh.points.size(); ++i) mesh.points[i] /= count[i];
    return mesh;
}

TriangleMesh Stock::skin(std::vector<SurfaceMet>* met) const {
    const Skinner skinner(*this);
    const std::vector<Slab> slabs = skinner.lattice();
    std::vector<std::vector<Crossing>> crossings(slabs.size() - 1);
    parallelFor(crossings.size(), 1, [&](std::size_t i) { skinner.findCrossings(slabs[i], slabs[i + 1], static_cast<int>(i) - 1, crossings[i]); });
    TriangleMesh mesh = skinner.mesh(crossings, met);
    mesh.normals.assign(mesh.points.size(), Vec3::Zero());
    for (const auto& t : mesh.triangles) {
        const Vec3 normal = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]);
        for (const auto p : t) mesh.normals[p] += normal;
    }
    for (Vec3& normal : mesh.normals) normal = normal.norm() > 0.0 ? Vec3(normal.normalized()) : Vec3(Vec3::UnitZ());
    return mesh;
}

} // namespace gyre
