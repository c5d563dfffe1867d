#include "geom/MeshTree.h"
#include <bit>
#include <numeric>

namespace gyre {

struct MeshTree::Builder {
    MeshTree& tree;
    std::vector<Box> boxes;
    std::vector<Vec3> centres;
    std::vector<std::uint32_t> order;

    static constexpr int kBins = 16;
    static constexpr std::uint32_t kLeaf = 4;

    void setBox(Node& node, const Box& b) const {
        const Vec3 c = b.centre(), h = b.half();
        for (int k = 0; k < 3; ++k) {
            const auto i = static_cast<std::size_t>(k);
            node.centre[i] = static_cast<float>(c[k]);
            const double lost = std::abs(static_cast<double>(node.centre[i]) - c[k]);
            node.half[i] = std::nextafter(static_cast<float>((h[k] + lost) * (1.0 + 1e-6)) + 1e-6f, 1e30f);
        }
    }

    void build(std::uint32_t index, std::uint32_t first, std::uint32_t count) {
        Box box, centreBox;
        for (std::uint32_t i = first; i < first + count; ++i) {
            box.add(boxes[order[i]]);
            centreBox.add(centres[order[i]]);
        }
        setBox(tree.m_nodes[index], box);
        int axis = 0;
        const Vec3 spread = centreBox.high - centreBox.low;
        spread.maxCoeff(&axis);
        std::uint32_t middle = first + count / 2;
        if (count <= kLeaf) {
            tree.m_nodes[index].first = first;
            tree.m_nodes[index].count = count;
            return;
        }
        if (spread[axis] > 1e-12) middle = split(axis, first, count, centreBox);
        const auto left = static_cast<std::uint32_t>(tree.m_nodes.size());
        tree.m_nodes.resize(tree.m_nodes.size() + 2);
        tree.m_nodes[index].first = left;
        tree.m_nodes[index].count = 0;
        build(left, first, middle - first);
        build(left + 1, middle, first + count - middle);
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
        std::nth_element(begin, mid, end, [&](std::uint32_t a, std::uint32_t b) {
            return centres[a][axis] != centres[b][axis] ? centres[a][axis] < centres[b][axis] : a < b;
        });
        return first + count / 2;
    }
};

MeshTree::MeshTree(const TriangleMesh& mesh) {
    const std::size_t n = mesh.triangles.size();
    if (n == 0) return;
    Builder builder{*this, {}, {}, std::vector<std::uint32_t>(n)};
    builder.boxes.resize(n);
    builder.centres.resize(n);
    std::iota(builder.order.begin(), builder.order.end(), 0u);
    for (std::size_t t = 0; t < n; ++t) {
        for (int k = 0; k < 3; ++k) builder.boxes[t].add(mesh.corner(t, k));
        builder.centres[t] = builder.boxes[t].centre();
        m_bounds.add(builder.boxes[t]);
    }
    m_nodes.reserve(n);
    m_nodes.emplace_back();
    builder.build(0, 0, static_cast<std::uint32_t>(n));
    m_original = std::move(builder.order);
    m_triangles.resize(n);
    for (std::size_t i = 0; i < n; ++i)
        for (int k = 0; k < 3; ++k) m_triangles[i][static_cast<std::size_t>(k)] = mesh.corner(m_original[i], k);
}

namespace {

constexpr std::size_t kStack = 128;

Vec3 closestOnTriangle(const Vec3& p, const std::array<Vec3, 3>& t) {
    // Regions of the plane around the triangle, after the usual barycentric tests.
    const Vec3 ab = t[1] - t[0], ac = t[2] - t[0], ap = p - t[0];
    const double d1 = ab.dot(ap), d2 = ac.dot(ap);
    if (d1 <= 0.0 && d2 <= 0.0) return t[0];
    const Vec3 bp = p - t[1];
    const double d3 = ab.dot(bp), d4 = ac.dot(bp);
    if (d3 >= 0.0 && d4 <= d3) return t[1];
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) return t[0] + (d1 / (d1 - d3)) * ab;
    const Vec3 cp = p - t[2];
    const double d5 = ab.dot(cp), d6 = ac.dot(cp);
    if (d6 >= 0.0 && d5 <= d6) return t[2];
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) return t[0] + (d2 / (d2 - d6)) * ac;
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0)
        return t[1] + ((d4 - d3) / ((d4 - d3) + (d5 - d6))) * (t[2] - t[1]);
    const double sum = va + vb + vc;
    if (!(sum > 0.0)) return t[0];
    return t[0] + ab * (vb / sum) + ac * (vc / sum);
}

/// The pose's coordinates, and a node's extent in them: z range and least distance from the axis.
struct PoseView {
    Vec3 tip, x, y, z;
    explicit PoseView(const AxisPose& pose) : tip(pose.tip), z(pose.axis) {
        x = anyPerpendicular(z);
        y = z.cross(x);
    }
    [[nodiscard]] Vec3 local(const Vec3& p) const {
        const Vec3 d = p - tip;
        return {d.dot(x), d.dot(y), d.dot(z)};
    }
    [[nodiscard]] std::array<Vec3, 3> local(const std::array<Vec3, 3>& t) const {
        return {local(t[0]), local(t[1]), local(t[2])};
    }
};

struct NodeExtent {
    double zLow, zHigh, rho;
};

template <class Node> inline NodeExtent extentOf(const Node& n, const PoseView& v) {
    const double cx = static_cast<double>(n.centre[0]) - v.tip.x(), cy = static_cast<double>(n.centre[1]) - v.tip.y(),
                 cz = static_cast<double>(n.centre[2]) - v.tip.z();
    const double hx = static_cast<double>(n.half[0]), hy = static_cast<double>(n.half[1]),
                 hz = static_cast<double>(n.half[2]);
    const double along = cx * v.z.x() + cy * v.z.y() + cz * v.z.z();
    const double reach = std::abs(v.z.x()) * hx + std::abs(v.z.y()) * hy + std::abs(v.z.z()) * hz;
    const double rx = cx - along * v.z.x(), ry = cy - along * v.z.y(), rz = cz - along * v.z.z();
    const double r2 = rx * rx + ry * ry + rz * rz;
    double rho = 0.0;
    if (r2 > 0.0) {
        const double r = std::sqrt(r2);
        rho = r - (std::abs(rx) * hx + std::abs(ry) * hy + std::abs(rz) * hz) / r;
    }
    return {along - reach, along + reach, rho};
}

/// No point of the extent is nearer to the piece than this.
inline double leastDistance(const NodeExtent& e, const RoundedFrustum& p) {
    const double dz = std::max({0.0, e.zLow - p.high(), p.low() - e.zHigh});
    const double dr = std::max(0.0, e.rho - p.radius());
    return std::sqrt(dz * dz + dr * dr);
}

inline bool mayTouch(const NodeExtent& e, const RoundedFrustum* pieces, const double* clearance, std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) {
        const double c = clearance[i];
        if (e.rho < pieces[i].radius() + c && e.zLow < pieces[i].high() + c && e.zHigh > pieces[i].low() - c) return true;
    }
    return false;
}

} // namespace

ClosestPoint MeshTree::closest(const Vec3& p, double limit) const {
    ClosestPoint best;
    best.distance = limit;
    if (empty()) return best;
    const auto boxDistance = [&](const Node& n) {
        double sum = 0.0;
        for (int k = 0; k < 3; ++k) {
            const auto i = static_cast<std::size_t>(k);
            const double d =
                std::max(0.0, std::abs(p[k] - static_cast<double>(n.centre[i])) - static_cast<double>(n.half[i]));
            sum += d * d;
        }
        return std::sqrt(sum);
    };
    std::array<std::pair<std::uint32_t, double>, kStack> stack;
    std::size_t top = 0;
    stack[top++] = {0, boxDistance(m_nodes[0])};
    while (top > 0) {
        const auto [index, bound] = stack[--top];
        if (bound >= best.distance) continue;
        const Node& n = m_nodes[index];
        if (n.count > 0) {
            for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
                const Vec3 q = closestOnTriangle(p, m_triangles[i]);
                const double d = (q - p).norm();
                if (d < best.distance) best = {d, q, m_original[i]};
            }
            continue;
        }
        const double l = boxDistance(m_nodes[n.first]), r = boxDistance(m_nodes[n.first + 1]);
        if (l < r) {
            stack[top++] = {n.first + 1, r};
            stack[top++] = {n.first, l};
        } else {
            stack[top++] = {n.first, l};
            stack[top++] = {n.first + 1, r};
        }
    }
    return best;
}

RayHit MeshTree::ray(const Vec3& origin, const Vec3& direction, double limit) const {
    RayHit best;
    best.distance = limit;
    if (empty()) return best;
    const Vec3 inverse = direction.cwiseInverse();
    const auto enters = [&](const Node& n) {
        double tLow = 0.0, tHigh = best.distance;
        for (int k = 0; k < 3; ++k) {
            const auto i = static_cast<std::size_t>(k);
            const double c = static_cast<double>(n.centre[i]), h = static_cast<double>(n.half[i]);
            if (!std::isfinite(inverse[k])) {
                if (std::abs(origin[k] - c) > h) return 1e300;
                continue;
            }
            const double t1 = (c - h - origin[k]) * inverse[k], t2 = (c + h - origin[k]) * inverse[k];
            tLow = std::max(tLow, std::min(t1, t2));
            tHigh = std::min(tHigh, std::max(t1, t2));
        }
        return tLow <= tHigh ? tLow : 1e300;
    };
    std::array<std::uint32_t, kStack> stack;
    std::size_t top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& n = m_nodes[stack[--top]];
        if (n.count == 0) {
            const double l = enters(m_nodes[n.first]), r = enters(m_nodes[n.first + 1]);
            const bool leftFirst = l < r;
            const double near = leftFirst ? l : r, far = leftFirst ? r : l;
            if (far < best.distance) stack[top++] = leftFirst ? n.first + 1 : n.first;
            if (near < best.distance) stack[top++] = leftFirst ? n.first : n.first + 1;
            continue;
        }
        for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
            const auto& t = m_triangles[i];
            const Vec3 e1 = t[1] - t[0], e2 = t[2] - t[0];
            const Vec3 q = direction.cross(e2);
            const double det = e1.dot(q);
            if (std::abs(det) < 1e-14) continue;
            const Vec3 s = origin - t[0];
            const double u = s.dot(q) / det;
            if (u < -1e-12 || u > 1.0 + 1e-12) continue;
            const Vec3 w = s.cross(e1);
            const double v = direction.dot(w) / det;
            if (v < -1e-12 || u + v > 1.0 + 1e-12) continue;
            const double d = e2.dot(w) / det;
            if (d >= 0.0 && d < best.distance) best = {d, m_original[i], true};
        }
    }
    return best;
}

bool MeshTree::anyWithin(const AxisPose& pose, const RoundedFrustum* pieces, const double* clearance,
                         std::size_t count) const {
    if (empty() || count == 0) return false;
    const PoseView view(pose);
    std::array<std::uint32_t, kStack> stack;
    std::size_t top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& n = m_nodes[stack[--top]];
        if (!mayTouch(extentOf(n, view), pieces, clearance, count)) continue;
        if (n.count == 0) {
            stack[top++] = n.first;
            stack[top++] = n.first + 1;
            continue;
        }
        for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
            const auto local = view.local(m_triangles[i]);
            for (std::size_t k = 0; k < count; ++k)
                if (within(pieces[k], local, clearance[k])) return true;
        }
    }
    return false;
}

double MeshTree::distance(const AxisPose& pose, const RoundedFrustum* pieces, std::size_t count, double limit,
                          std::uint32_t* nearest) const {
    double best = limit;
    if (empty() || count == 0) return best;
    const PoseView view(pose);
    const auto boundOf = [&](const Node& n) {
        const NodeExtent e = extentOf(n, view);
        double bound = 1e300;
        for (std::size_t k = 0; k < count; ++k) {
            double b = leastDistance(e, pieces[k]);
            if (b <= 0.0) b = -pieces[k].round;
            bound = std::min(bound, b);
        }
        return bound;
    };
    std::array<std::pair<std::uint32_t, double>, kStack> stack;
    std::size_t top = 0;
    stack[top++] = {0, boundOf(m_nodes[0])};
    while (top > 0) {
        const auto [index, bound] = stack[--top];
        if (bound >= best) continue;
        const Node& n = m_nodes[index];
        if (n.count == 0) {
            const double l = boundOf(m_nodes[n.first]), r = boundOf(m_nodes[n.first + 1]);
            const bool leftFirst = l < r;
            const std::uint32_t left = n.first, right = n.first + 1;
            if (std::max(l, r) < best) stack[top++] = {leftFirst ? right : left, std::max(l, r)};
            if (std::min(l, r) < best) stack[top++] = {leftFirst ? left : right, std::min(l, r)};
            continue;
        }
        for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
            const auto local = view.local(m_triangles[i]);
            for (std::size_t k = 0; k < count; ++k) {
                if (best < 1e290 && !within(pieces[k], local, best)) continue;
                const double d = gyre::distance(pieces[k], local);
                if (d < best) {
                    best = d;
                    if (nearest) *nearest = m_original[i];
                }
            }
        }
    }
    return best;
}

void MeshTree::forEachWithin(
    const AxisPose& pose, const RoundedFrustum* pieces, const double* clearance, std::size_t count,
    const std::function<bool(const std::array<Vec3, 3>&, std::uint32_t, std::size_t)>& each) const {
    if (empty() || count == 0) return;
    const PoseView view(pose);
    std::array<std::uint32_t, kStack> stack;
    std::size_t top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& n = m_nodes[stack[--top]];
        if (!mayTouch(extentOf(n, view), pieces, clearance, count)) continue;
        if (n.count == 0) {
            stack[top++] = n.first;
            stack[top++] = n.first + 1;
            continue;
        }
        for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
            const auto local = view.local(m_triangles[i]);
            for (std::size_t k = 0; k < count; ++k)
                if (within(pieces[k], local, clearance[k]) && !each(local, m_original[i], k)) return;
        }
    }
}

void MeshTree::forEachNear(const std::vector<Slab>& slabs, double reach,
                           const std::function<bool(const std::array<Vec3, 3>&, std::uint32_t)>& each) const {
    if (empty()) return;
    std::array<std::uint32_t, kStack> stack;
    std::size_t top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& n = m_nodes[stack[--top]];
        const Vec3 c(static_cast<double>(n.centre[0]), static_cast<double>(n.centre[1]), static_cast<double>(n.centre[2]));
        const Vec3 h(static_cast<double>(n.half[0]), static_cast<double>(n.half[1]), static_cast<double>(n.half[2]));
        bool apart = false;
        for (const Slab& s : slabs) {
            const double at = s.direction.dot(c), wide = s.direction.cwiseAbs().dot(h) + reach;
            if (at - wide > s.high || at + wide < s.low) {
                apart = true;
                break;
            }
        }
        if (apart) continue;
        if (n.count == 0) {
            stack[top++] = n.first;
            stack[top++] = n.first + 1;
            continue;
        }
        for (std::uint32_t i = n.first; i < n.first + n.count; ++i) {
            const auto& t = m_triangles[i];
            bool out = false;
            for (const Slab& s : slabs) {
                const auto [low, high] = std::minmax({s.direction.dot(t[0]), s.direction.dot(t[1]), s.direction.dot(t[2])});
                out = out || low > s.high + reach || high < s.low - reach;
            }
            if (!out && !each(t, m_original[i])) return;
        }
    }
}

} // namespace gyre
