#include "geom/Winding.h"
#include "base/Index.h"
#include "base/Units.h"
#include "geom/Inside.h"
#include "geom/MeshTree.h"
#include <algorithm>
#include <map>
#include <numeric>
#include <tbb/parallel_sort.h>

namespace gyre {
namespace {

void sortOnAllCores(std::vector<std::pair<std::uint64_t, std::uint32_t>>& values) {
#ifdef GYRE_THREADS_WATCHED
    std::sort(values.begin(), values.end());
#else
    tbb::parallel_sort(values.begin(), values.end());
#endif
}

/// Triangles that hang together over sides that two of them share, each with whether it looks to the other side than the first of its group.
class Shells {
public:
    explicit Shells(const TriangleMesh& mesh) : m_mesh(mesh), m_up(mesh.triangles.size()), m_against(m_up.size(), 0), m_rim(m_up.size(), 0.0), m_twisted(m_up.size(), 0) {
        std::iota(m_up.begin(), m_up.end(), 0u);
        std::vector<std::pair<std::uint64_t, std::uint32_t>> halves; // the side, triangle·3 + corner
        halves.reserve(3 * m_up.size());
        for (std::uint32_t t = 0; t < m_up.size(); ++t)
            for (std::uint32_t c = 0; c < 3; ++c) halves.emplace_back(pairKey(mesh.triangles[t][c], mesh.triangles[t][(c + 1) % 3]), 3 * t + c);
        sortOnAllCores(halves);
        std::vector<std::uint32_t> rims; // triangle·3 + corner
        for (std::size_t i = 0, end = 0; i < halves.size(); i = end) {
            while (end < halves.size() && halves[end].first == halves[i].first) ++end;
            if (end - i == 2)
                join(halves[i].second, halves[i + 1].second);
            else if ((end - i) % 2 == 1) // bodies that touch along a line share it between four
                for (std::size_t k = i; k < end; ++k) rims.push_back(halves[k].second);
        }
        for (const std::uint32_t rim : rims) m_rim[root(rim / 3)] += sideOf(rim);
    }
    [[nodiscard]] std::size_t twisted() {
        std::size_t count = 0;
        for (std::uint32_t t = 0; t < m_up.size(); ++t) count += m_twisted[root(t)] != 0;
        return count;
    }

    struct Shell {
        std::vector<std::uint32_t> triangles;
        bool turned = false; ///< those that look with the first of it are turned over, else those that look against it
        bool closed = false;
        double volume = 0.0; ///< of a closed one, as it will be wound
        Box box;
    };
    /// In the order of their first triangles; without those that cannot be wound.
    std::vector<Shell> all() {
        std::map<std::uint32_t, Shell> by;
        for (std::uint32_t t = 0; t < m_up.size(); ++t)
            if (const std::uint32_t r = root(t); !m_twisted[r]) by[r].triangles.push_back(t);
        std::vector<Shell> out;
        for (auto& [r, shell] : by) {
            for (const std::uint32_t t : shell.triangles)
                for (int k = 0; k < 3; ++k) shell.box.add(m_mesh.corner(t, k));
            const Vec3 middle = shell.box.centre();
            double with = 0.0, against = 0.0;
            for (const std::uint32_t t : shell.triangles) {
                const Vec3 a = m_mesh.corner(t, 0) - middle, b = m_mesh.corner(t, 1) - middle, c = m_mesh.corner(t, 2) - middle;
                (m_against[t] ? against : with) += (b - a).cross(c - a).norm();
                shell.volume += (m_against[t] ? -1.0 : 1.0) * a.dot(b.cross(c)) / 6.0;
            }
            shell.turned = against > with;
            if (shell.turned) shell.volume = -shell.volume;
            // A hole of that rim, were it a round one, takes so little of the whole that the volume tells which side is the inner one.
            constexpr double kSmallHoles = 0.01;
            shell.closed = m_rim[r] * m_rim[r] <= 4.0 * kPi * kSmallHoles * 0.5 * (with + against);
            out.push_back(std::move(shell));
        }
        return out;
    }
    [[nodiscard]] bool against(std::uint32_t triangle) const { return m_against[triangle] != 0; }

private:
    [[nodiscard]] double sideOf(std::uint32_t half) const {
        const auto& t = m_mesh.triangles[half / 3];
        return (m_mesh.points[t[half % 3]] - m_mesh.points[t[(half % 3 + 1) % 3]]).norm();
    }
    /// Afterwards every triangle hangs directly from the first of its group.
    std::uint32_t root(std::uint32_t t) {
        std::uint32_t top = t;
        char turned = 0;
        while (m_up[top] != top) {
            turned ^= m_against[top];
            top = m_up[top];
        }
        while (m_up[t] != t) {
            const std::uint32_t next = m_up[t];
            const char own = m_against[t];
            m_up[t] = top;
            m_against[t] = turned;
            turned ^= own;
            t = next;
        }
        return top;
    }
    void join(std::uint32_t one, std::uint32_t other) {
        const std::uint32_t a = one / 3, b = other / 3;
        // Neighbours that look to the same side go along the side they share in opposite directions.
        const char turned = m_mesh.triangles[a][one % 3] == m_mesh.triangles[b][other % 3] ? 1 : 0;
        const std::uint32_t ra = root(a), rb = root(b);
        const char between = m_against[a] ^ m_against[b] ^ turned;
        if (ra == rb) {
            if (between) m_twisted[ra] = 1;
            return;
        }
        const std::uint32_t first = std::min(ra, rb), second = std::max(ra, rb);
        m_up[second] = first;
        m_against[second] = between;
        m_twisted[first] = m_twisted[first] || m_twisted[second];
    }

    const TriangleMesh& m_mesh;
    std::vector<std::uint32_t> m_up;
    std::vector<char> m_against;
    std::vector<double> m_rim; ///< of a group's first: the length of all sides that an odd number of triangles share
    std::vector<char> m_twisted;
};

/// The outermost closed shell that each one lies in; itself where it lies in none.
std::vector<std::size_t> outermost(const TriangleMesh& mesh, const std::vector<Shells::Shell>& shells) {
    std::vector<std::size_t> out(shells.size());
    std::iota(out.begin(), out.end(), std::size_t{0});
    std::map<std::size_t, MeshTree> trees;
    const auto lies = [&](const Shells::Shell& inner, std::size_t outer) {
        if (trees.find(outer) == trees.end()) {
            TriangleMesh own;
            for (const std::uint32_t t : shells[outer].triangles) {
                const auto first = static_cast<std::uint32_t>(own.points.size());
                for (int k = 0; k < 3; ++k) own.points.push_back(mesh.corner(t, k));
                own.triangles.push_back({first, first + 1, first + 2});
            }
            trees.emplace(outer, MeshTree(own));
        }
        // All of it: bodies that run into one another stand side by side.
        for (const std::uint32_t t : inner.triangles)
            if (!insideClosed(trees.at(outer), mesh.corner(t, 0))) return false;
        return true;
    };
    for (std::size_t i = 0; i < shells.size(); ++i) {
        if (!shells[i].closed) continue;
        for (std::size_t k = 0; k < shells.size(); ++k) {
            const Box& box = shells[k].box;
            if (k == i || !shells[k].closed || !((box.low - shells[i].box.low).array() < 0.0).all() || !((shells[i].box.high - box.high).array() < 0.0).all()) continue;
            const bool further = out[i] == i || ((box.low - shells[out[i]].box.low).array() < 0.0).all();
            if (further && lies(shells[i], k)) out[i] = k;
        }
    }
    return out;
}

} // namespace

Wound windOutward(TriangleMesh& mesh, bool sheetsOver) {
    Shells groups(mesh);
    std::vector<Shells::Shell> shells = groups.all();
    constexpr std::size_t kMost = 2000; // of so many pieces none is asked whether it lies within another
    std::vector<std::size_t> outer(shells.size());
    std::iota(outer.begin(), outer.end(), std::size_t{0});
    if (shells.size() <= kMost) outer = outermost(mesh, shells);
    Wound out;
    out.twisted = groups.twisted();
    std::vector<char> over(shells.size(), 0);
    for (std::size_t i = 0; i < shells.size(); ++i) {
        over[i] = shells[i].closed ? shells[outer[i]].volume < 0.0 : sheetsOver;
        if (!shells[i].closed) out.sheets += shells[i].triangles.size();
    }
    for (std::size_t i = 0; i < shells.size(); ++i)
        for (const std::uint32_t t : shells[i].triangles)
            if (groups.against(t) != (shells[i].turned != (over[i] != 0))) {
                std::swap(mesh.triangles[t][1], mesh.triangles[t][2]);
                ++out.turned;
            }
    return out;
}

} // namespace gyre
