// Building the tree of boxes.
#include "base/Parallel.h"
#include "geom/MeshTree.h"
#include <numeric>

namespace gyre {

struct MeshTree::Builder {
    MeshTree& tree;
    std::vector<Box> boxes;
    std::vector<Vec3> centres;
    std::vector<std::uint32_t> order;

    static constexpr int kBins = 16;
    static constexpr std::uint32_t kLeaf = 4;

    struct Pair { ///< a node of the two-way tree that the four-way one is made from
        Box box;
        std::uint32_t first = 0; ///< leaf: first triangle; else: left child (right = left + 1)
        std::uint32_t count = 0; ///< triangles of a leaf, 0 for inner nodes
    };
    std::vector<Pair> pairs;

    void build(std::vector<Pair>& into, std::uint32_t index, std::uint32_t first, std::uint32_t count) {
        Box box, centreBox;
        for (std::uint32_t i = first; i < first + count; ++i) {
            box.add(boxes[order[i]]);
            centreBox.add(centres[order[i]]);
        }
        into[index].box = box;
        int axis = 0;
        const Vec3 spread = centreBox.high - centreBox.low;
        spread.maxCoeff(&axis);
        std::uint32_t middle = first + count / 2;
        if (count <= kLeaf) {
            into[index].first = first;
            into[index].count = count;
            return;
        }
        if (spread[axis] > 1e-12) middle = split(axis, first, count, centreBox);
        const auto left = static_cast<std::uint32_t>(into.size());
        into.resize(into.size() + 2);
        into[index].first = left;
        constexpr std::uint32_t kAlone = 8192;
        if (count < kAlone) {
            build(into, left, first, middle - first);
            build(into, left + 1, middle, first + count - middle);
            return;
        }
        // Both sides at once, each with pairs of its own; where these end up makes no difference to the tree.
        std::array<std::vector<Pair>, 2> sides;
        parallelFor(2, 1, [&](std::size_t side) {
            sides[side].emplace_back();
            build(sides[side], 0, side == 0 ? first : middle, side == 0 ? middle - first : first + count - middle);
        });
        for (std::uint32_t side = 0; side < 2; ++side) {
            const auto moved = static_cast<std::uint32_t>(into.size()) - 1; // its own first one goes to the place kept for it
            for (Pair& p : sides[side])
                if (p.count == 0) p.first += moved;
            into[left + side] = sides[side].front();
            into.insert(into.end(), sides[side].begin() + 1, sides[side].end());
        }
    }

    // Four descendants of a pair: the largest inner one is opened until there are four.
    std::uint32_t gather(std::uint32_t from) {
        std::array<std::uint32_t, 4> child{from};
        std::size_t n = 1;
        while (n < 4) {
            std::size_t largest = 4;
            for (std::size_t i = 0; i < n; ++i)
                if (pairs[child[i]].count == 0 && (largest == 4 || pairs[child[i]].box.area() > pairs[child[largest]].box.area())) largest = i;
            if (largest == 4) break;
            const std::uint32_t left = pairs[child[largest]].first;
            child[largest] = left;
            child[n++] = left + 1;
        }
        const auto index = static_cast<std::uint32_t>(tree.m_nodes.size());
        tree.m_nodes.emplace_back();
        for (std::size_t i = 0; i < 4; ++i) {
            setLane(index, static_cast<int>(i), i < n ? pairs[child[i]].box : Box{});
            if (i >= n) continue;
            const bool leaf = pairs[child[i]].count > 0;
            const std::uint32_t below = leaf ? addBlock(pairs[child[i]]) : gather(child[i]);
            tree.m_nodes[index].child[i] = below;
            tree.m_nodes[index].leaf[i] = leaf;
        }
        return index;
    }

    void setLane(std::uint32_t index, int lane, const Box& b) const {
        Node& node = tree.m_nodes[index];
        for (int k = 0; k < 3; ++k) {
            auto& centre = node.centre[static_cast<std::size_t>(k)];
            auto& half = node.half[static_cast<std::size_t>(k)];
            if (b.empty()) { // nothing is near it, whatever the question
                centre[lane] = 1e18f;
                half[lane] = 0.0f;
                continue;
            }
            const double c = b.centre()[k], h = b.half()[k];
            centre[lane] = static_cast<float>(c);
            const double lost = std::abs(static_cast<double>(centre[lane]) - c);
            half[lane] = std::nextafter(static_cast<float>((h + lost) * (1.0 + 1e-6)) + 1e-6f, 1e30f);
        }
    }

    std::uint32_t addBlock(const Pair& leaf) {
        Block b;
        b.first = leaf.first;
        b.count = leaf.count;
        for (std::uint32_t lane = 0; lane < 4; ++lane)
            for (std::size_t corner = 0; corner < 3; ++corner) {
                const Vec3& p = tree.m_triangles[leaf.first + std::min(lane, leaf.count - 1)][corner];
                for (int k = 0; k < 3; ++k) b.corner[corner][static_cast<std::size_t>(k)][static_cast<int>(lane)] = static_cast<float>(p[k]);
            }
        tree.m_blocks.push_back(b);
        return static_cast<std::uint32_t>(tree.m_blocks.size() - 1);
    }

    // Binned surface-area split along one axis; falls back to the median when a side would be empty.
    std::uint32_t split(int axis, std::uint32_t first, std::uint32_t count, const Box& centreBox) {
        const double low = centreBox.low[axis];
        const double scale = kBins * (1.0 - 1e-9) / (centreBox.high[axis] - low);
        const auto binOf = [&](std::uint32_t t) { return static_cast<int>((centres[t][axis] - low) * scale); };
        std::array<Box, kBins> binBox;
        std::array<std::uint32_t, kBins> binCount{};
        for (std::uint32_t i = first; i < first + count; ++i) {
            const auto b = static_cast<std::size_t>(binOf(order[i]));
            binBox[b].add(boxes[order[i]]);
            ++binCount[b];
        }
        std::array<double, kBins> rightCost{};
        Box run;
        std::uint32_t n = 0;
        for (int b = kBins - 1; b > 0; --b) {
            run.add(binBox[static_cast<std::size_t>(b)]);
            n += binCount[static_cast<std::size_t>(b)];
            rightCost[static_cast<std::size_t>(b)] = run.area() * n;
        }
        run = Box{};
        n = 0;
        double best = 1e300;
        int bestBin = -1;
        for (int b = 0; b + 1 < kBins; ++b) {
            run.add(binBox[static_cast<std::size_t>(b)]);
            n += binCount[static_cast<std::size_t>(b)];
            const double cost = run.area() * n + rightCost[static_cast<std::size_t>(b) + 1];
            if (n > 0 && n < count && cost < best) {
                best = cost;
                bestBin = b;
            }
        }
        const auto begin = order.begin() + first, end = begin + count;
        if (bestBin >= 0) {
            const auto mid = std::stable_partition(begin, end, [&](std::uint32_t t) { return binOf(t) <= bestBin; });
            return static_cast<std::uint32_t>(mid - order.begin());
        }
        const auto mid = begin + count / 2;
        std::nth_element(begin, mid, end,
                         [&](std::uint32_t a, std::uint32_t b) { return centres[a][axis] != centres[b][axis] ? centres[a][axis] < centres[b][axis] : a < b; });
        return first + count / 2;
    }
};

MeshTree::MeshTree(const TriangleMesh& mesh) {
    const std::size_t n = mesh.triangles.size();
    if (n == 0) return;
    Builder builder{*this, {}, {}, std::vector<std::uint32_t>(n), {}};
    builder.boxes.resize(n);
    builder.centres.resize(n);
    std::iota(builder.order.begin(), builder.order.end(), 0u);
    constexpr std::size_t kGrain = 8192;
    parallelFor(n, kGrain, [&](std::size_t t) {
        for (int k = 0; k < 3; ++k) builder.boxes[t].add(mesh.corner(t, k));
        builder.centres[t] = builder.boxes[t].centre();
    });
    for (const Box& b : builder.boxes) m_bounds.add(b);
    builder.pairs.reserve(n);
    builder.pairs.emplace_back();
    builder.build(builder.pairs, 0, 0, static_cast<std::uint32_t>(n));
    m_original = std::move(builder.order);
    m_triangles.resize(n);
    parallelFor(n, kGrain, [&](std::size_t i) {
        for (int k = 0; k < 3; ++k) m_triangles[i][static_cast<std::size_t>(k)] = mesh.corner(m_original[i], k);
    });
    // Coordinates are rounded to single precision in the tree's own tests: so much do they lie beside their place at most.
    m_rounding = 4e-7 * std::max(m_bounds.low.cwiseAbs().maxCoeff(), m_bounds.high.cwiseAbs().maxCoeff());
    builder.gather(0);
}

} // namespace gyre
