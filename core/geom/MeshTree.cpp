#include "geom/MeshTree.h"
#include "geom/Convex.h"
#include <bit>
#ifdef __SSE2__
#include <xmmintrin.h>
#endif

namespace gyre {
namespace {

constexpr std::size_t kStack = 192; // three waiting nodes for each level of a tree that is never deeper than 64

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
    if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) return t[1] + ((d4 - d3) / ((d4 - d3) + (d5 - d6))) * (t[2] - t[1]);
    const double sum = va + vb + vc;
    if (!(sum > 0.0)) return t[0];
    return t[0] + ab * (vb / sum) + ac * (vc / sum);
}

/// The pose's coordinates.
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
    [[nodiscard]] std::array<Vec3, 3> local(const std::array<Vec3, 3>& t) const { return {local(t[0]), local(t[1]), local(t[2])}; }
};

/// 1/√v to some 3e-7 of its value (the slack of a question covers ten times that), without waiting for a root and a division.
inline Eigen::Array4f inverseRoot(const Eigen::Array4f& v) {
#ifdef __SSE2__
    const __m128 x = _mm_load_ps(v.data()), y = _mm_rsqrt_ps(x);
    Eigen::Array4f out;
    _mm_store_ps(out.data(), _mm_mul_ps(_mm_mul_ps(_mm_set1_ps(0.5f), y), _mm_sub_ps(_mm_set1_ps(3.0f), _mm_mul_ps(_mm_mul_ps(x, y), y))));
    return out;
#else
    return v.sqrt().inverse();
#endif
}

/// One bit for each lane below zero.
inline unsigned negativeLanes(const Eigen::Array4f& v) {
#ifdef __SSE2__
    return static_cast<unsigned>(_mm_movemask_ps(_mm_cmplt_ps(_mm_load_ps(v.data()), _mm_setzero_ps())));
#else
    return (v[0] < 0.0f ? 1u : 0u) | (v[1] < 0.0f ? 2u : 0u) | (v[2] < 0.0f ? 4u : 0u) | (v[3] < 0.0f ? 8u : 0u);
#endif
}

} // namespace

/// Tool pieces at a pose, in single precision: bounds on how near boxes and triangles can be, four at a time.
struct MeshTree::Query {
    static constexpr std::size_t kMost = 96;
    struct Extent { ///< in the pose's coordinates: range along the axis, least distance from the axis
        Four low, high, rho;
    };
    PoseView view;
    const RoundedFrustum* pieces;
    std::size_t count;
    std::array<Four, 3> tip, x, y, z, absZ; // one number in all four lanes, so that no instruction is spent on spreading it
    float slack;
    // Of every piece before growing, and the square of how far it reaches beyond that with its clearance. Not filled in beyond
    // `count`: that would cost more than a whole question.
    std::array<Four, kMost> outer, top, bottom, reach;

    Query(const MeshTree& tree, const AxisPose& pose, const RoundedFrustum* p, const double* clearance, std::size_t n) : view(pose), pieces(p), count(n) {
        for (std::size_t k = 0; k < n; ++k) {
            const double c = clearance ? clearance[k] : 0.0;
            outer[k] = spread(std::max(p[k].r0, p[k].r1));
            top[k] = spread(p[k].z1);
            bottom[k] = spread(p[k].z0);
            const double r = std::max(0.0, p[k].round + c);
            reach[k] = spread(r * r * 1.000002);
        }
        for (int k = 0; k < 3; ++k) {
            const auto i = static_cast<std::size_t>(k);
            tip[i] = spread(view.tip[k]);
            x[i] = spread(view.x[k]);
            y[i] = spread(view.y[k]);
            z[i] = spread(view.z[k]);
            absZ[i] = z[i].abs();
        }
        slack = static_cast<float>(4.0 * tree.m_rounding + 2e-6 * view.tip.cwiseAbs().maxCoeff() + 1e-7);
    }

    [[nodiscard]] static Four spread(double v) { return Four::Constant(static_cast<float>(v)); }

    [[nodiscard, gnu::always_inline]] Extent of(const Node& n) const {
        const Four cx = n.centre[0] - tip[0], cy = n.centre[1] - tip[1], cz = n.centre[2] - tip[2];
        const Four along = cx * z[0] + cy * z[1] + cz * z[2];
        const Four reach = n.half[0] * absZ[0] + n.half[1] * absZ[1] + n.half[2] * absZ[2] + slack;
        const Four rx = cx - along * z[0], ry = cy - along * z[1], rz = cz - along * z[2];
        const Four rr = (rx * rx + ry * ry + rz * rz).max(1e-30f);
        const Four rho = (rr - (rx.abs() * n.half[0] + ry.abs() * n.half[1] + rz.abs() * n.half[2])) * inverseRoot(rr) - slack;
        return {along - reach, along + reach, rho};
    }

    [[nodiscard, gnu::always_inline]] Extent of(const Block& b) const {
        std::array<Four, 3> px, py;
        Extent e;
        for (std::size_t c = 0; c < 3; ++c) {
            const Four dx = b.corner[c][0] - tip[0], dy = b.corner[c][1] - tip[1], dz = b.corner[c][2] - tip[2];
            px[c] = dx * x[0] + dy * x[1] + dz * x[2];
            py[c] = dx * y[0] + dy * y[1] + dz * y[2];
            const Four pz = dx * z[0] + dy * z[1] + dz * z[2];
            e.low = c == 0 ? pz : Four(e.low.min(pz));
            e.high = c == 0 ? pz : Four(e.high.max(pz));
        }
        e.low -= slack;
        e.high += slack;
        // No point of the triangle is nearer to the axis than its corners are along the direction of its middle.
        const Four mx = px[0] + px[1] + px[2], my = py[0] + py[1] + py[2];
        const Four over = inverseRoot((mx * mx + my * my).max(1e-30f));
        const Four ux = mx * over, uy = my * over;
        e.rho = (px[0] * ux + py[0] * uy).min(px[1] * ux + py[1] * uy).min(px[2] * ux + py[2] * uy) - slack;
        return e;
    }

    /// Negative where a piece may be nearer than its clearance.
    [[nodiscard]] Four gap(const Extent& e) const {
        Four least = gap(e, 0);
        for (std::size_t k = 1; k < count; ++k) least = least.min(gap(e, k));
        return least;
    }
    [[nodiscard]] Four gap(const Extent& e, std::size_t k) const {
        const Four dz = (e.low - top[k]).max(bottom[k] - e.high), dr = e.rho - outer[k];
        return dz.max(0.0f).square() + dr.max(0.0f).square() - reach[k] + dz.max(dr).min(0.0f); // the last tells what overlaps apart: the deepest goes first
    }
    /// No piece is nearer than this; for pieces without clearance.
    [[nodiscard]] Four bound(const Extent& e) const {
        Four least = bound(e, 0);
        for (std::size_t k = 1; k < count; ++k) least = least.min(bound(e, k));
        return least;
    }
    [[nodiscard]] Four bound(const Extent& e, std::size_t k) const {
        const Four dz = (e.low - top[k]).max(bottom[k] - e.high).max(0.0f);
        const Four dr = (e.rho - outer[k]).max(0.0f);
        const Four d = (dz * dz + dr * dr).sqrt() * 0.999999f;
        return d - static_cast<float>(pieces[k].round) - slack;
    }
};

namespace {

/// Indices of four values in rising order: each goes to the place that is the number of those before it. No branches.
inline std::array<std::uint8_t, 4> rising(const Eigen::Array4f& values) {
    alignas(16) std::array<float, 4> v;
    Eigen::Map<Eigen::Array4f, Eigen::Aligned16>(v.data()) = values;
    const bool b10 = v[1] < v[0], b20 = v[2] < v[0], b30 = v[3] < v[0], b21 = v[2] < v[1], b31 = v[3] < v[1], b32 = v[3] < v[2];
    std::array<std::uint8_t, 4> o;
    o[static_cast<std::size_t>(b10 + b20 + b30)] = 0;
    o[static_cast<std::size_t>(!b10 + b21 + b31)] = 1;
    o[static_cast<std::size_t>(!b20 + !b21 + b32)] = 2;
    o[static_cast<std::size_t>(!b30 + !b31 + !b32)] = 3;
    return o;
}

} // namespace

template <class Gap, class Leaf> bool MeshTree::walk(const Gap& gap, const Leaf& leaf) const {
    std::array<std::uint32_t, kStack> stack;
    std::size_t top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& n = m_nodes[stack[--top]];
        const Four g = gap(n);
        const unsigned near = negativeLanes(g);
        if (near == 0) continue;
        if ((near & (near - 1)) == 0) { // one lane only, the usual case: nothing to put in order
            const auto lane = static_cast<std::size_t>(std::countr_zero(near));
            if (n.child[lane] == kNone) continue;
            if (!n.leaf[lane])
                stack[top++] = n.child[lane];
            else if (!leaf(m_blocks[n.child[lane]]))
                return false;
            continue;
        }
        const auto order = rising(g);
        std::size_t nodes = 0;
        std::array<std::uint32_t, 4> next{};
        for (const auto lane : order) {
            if (!(g[lane] < 0.0f)) break;
            if (n.child[lane] == kNone) continue;
            if (!n.leaf[lane])
                next[nodes++] = n.child[lane];
            else if (!leaf(m_blocks[n.child[lane]]))
                return false;
        }
        while (nodes > 0) stack[top++] = next[--nodes];
    }
    return true;
}

ClosestPoint MeshTree::closest(const Vec3& p, double limit) const {
    ClosestPoint best;
    best.distance = limit;
    if (empty()) return best;
    const std::array<float, 3> at{static_cast<float>(p.x()), static_cast<float>(p.y()), static_cast<float>(p.z())};
    const float slack = static_cast<float>(4.0 * m_rounding + 1e-6 * p.cwiseAbs().maxCoeff());
    std::array<std::pair<std::uint32_t, float>, kStack> stack;
    std::size_t top = 0;
    stack[top++] = {0, 0.0f};
    while (top > 0) {
        const auto [index, bound] = stack[--top];
        if (static_cast<double>(bound) >= best.distance) continue;
        const Node& n = m_nodes[index];
        Four sum = Four::Zero();
        for (std::size_t k = 0; k < 3; ++k) sum += ((n.centre[k] - at[k]).abs() - n.half[k] - slack).max(0.0f).square();
        const Four bounds = sum.sqrt() * 0.999999f;
        const auto order = rising(bounds);
        std::size_t nodes = 0;
        std::array<std::uint8_t, 4> next{};
        for (const auto lane : order) {
            if (n.child[lane] == kNone || static_cast<double>(bounds[lane]) >= best.distance) continue;
            if (!n.leaf[lane]) {
                next[nodes++] = lane;
                continue;
            }
            const Block& b = m_blocks[n.child[lane]];
            for (std::uint32_t i = b.first; i < b.first + b.count; ++i) {
                const Vec3 q = closestOnTriangle(p, m_triangles[i]);
                const double d = (q - p).norm();
                if (d < best.distance) best = {d, q, m_original[i]};
            }
        }
        while (nodes > 0) {
            const auto lane = next[--nodes];
            stack[top++] = {n.child[lane], bounds[lane]};
        }
    }
    return best;
}

namespace {

/// How far along a ray a triangle lies; below 0: it is not met.
double alongRay(const std::array<Vec3, 3>& c, const Vec3& origin, const Vec3& direction) {
    const Vec3 e1 = c[1] - c[0], e2 = c[2] - c[0];
    const Vec3 q = direction.cross(e2);
    const double det = e1.dot(q);
    if (std::abs(det) < 1e-14) return -1.0;
    const Vec3 s = origin - c[0];
    const double u = s.dot(q) / det;
    if (u < -1e-12 || u > 1.0 + 1e-12) return -1.0;
    const Vec3 w = s.cross(e1);
    const double v = direction.dot(w) / det;
    if (v < -1e-12 || u + v > 1.0 + 1e-12) return -1.0;
    return e2.dot(w) / det;
}

} // namespace

RayHit MeshTree::ray(const Vec3& origin, const Vec3& direction, double limit) const {
    RayHit best;
    best.distance = limit;
    if (empty()) return best;
    const float slack = static_cast<float>(4.0 * m_rounding + 1e-6 * origin.cwiseAbs().maxCoeff());
    constexpr float kNever = 1e30f;
    const auto enters = [&](const Node& n) {
        Four low = Four::Zero(), high = Four::Constant(best.distance < 1e29 ? static_cast<float>(best.distance) * 1.000001f + slack : 1e29f);
        for (int k = 0; k < 3; ++k) {
            const auto i = static_cast<std::size_t>(k);
            const Four c = n.centre[i] - static_cast<float>(origin[k]), h = n.half[i] + slack;
            if (std::abs(direction[k]) < 1e-12) {
                low = (c.abs() > h).select(Four::Constant(kNever), low);
                continue;
            }
            const auto inverse = static_cast<float>(1.0 / direction[k]);
            const Four t1 = (c - h) * inverse, t2 = (c + h) * inverse;
            low = low.max(t1.min(t2) * 0.999999f);
            high = high.min(t1.max(t2) * 1.000001f);
        }
        return Four((low <= high).select(low, Four::Constant(kNever)));
    };
    std::array<std::pair<std::uint32_t, float>, kStack> stack;
    std::size_t top = 0;
    stack[top++] = {0, 0.0f};
    while (top > 0) {
        const auto [index, from] = stack[--top];
        if (static_cast<double>(from) > best.distance) continue;
        const Node& n = m_nodes[index];
        const Four t = enters(n);
        const auto order = rising(t);
        std::size_t nodes = 0;
        std::array<std::uint8_t, 4> next{};
        for (const auto lane : order) {
            if (t[lane] >= kNever || static_cast<double>(t[lane]) > best.distance) break;
            if (n.child[lane] == kNone) continue;
            if (!n.leaf[lane]) {
                next[nodes++] = lane;
                continue;
            }
            const Block& b = m_blocks[n.child[lane]];
            for (std::uint32_t i = b.first; i < b.first + b.count; ++i) {
                const auto& c = m_triangles[i];
                if (const double d = alongRay(c, origin, direction); d >= 0.0 && d < best.distance) best = {d, m_original[i], true};
            }
        }
        while (nodes > 0) {
            const auto lane = next[--nodes];
            stack[top++] = {n.child[lane], t[lane]};
        }
    }
    return best;
}

bool MeshTree::anyWithin(const AxisPose& pose, const RoundedFrustum* pieces, const double* clearance, std::size_t count, std::uint32_t* hint) const {
    if (empty() || count == 0) return false;
    if (hint && *hint < m_triangles.size()) {
        const auto local = PoseView(pose).local(m_triangles[*hint]);
        for (std::size_t k = 0; k < count; ++k)
            if (within(pieces[k], local, clearance[k])) return true;
    }
    if (count > Query::kMost)
        return anyWithin(pose, pieces, clearance, Query::kMost, hint) || anyWithin(pose, pieces + Query::kMost, clearance + Query::kMost, count - Query::kMost, hint);
    const Query query(*this, pose, pieces, clearance, count);
    if (hint) *hint = kNone;
    return !walk([&](const Node& n) { return query.gap(query.of(n)); },
                 [&](const Block& b) {
                     const Query::Extent e = query.of(b);
                     for (std::size_t k = 0; k < count; ++k) {
                         const Four g = query.gap(e, k);
                         for (std::uint32_t lane = 0; lane < b.count; ++lane)
                             if (g[lane] < 0.0f && within(pieces[k], query.view.local(m_triangles[b.first + lane]), clearance[k])) {
                                 if (hint) *hint = b.first + lane;
                                 return false;
                             }
                     }
                     return true;
                 });
}

void MeshTree::forEachWithin(const AxisPose& pose, const RoundedFrustum* pieces, const double* clearance, std::size_t count,
                             const std::function<bool(const std::array<Vec3, 3>&, std::uint32_t, std::size_t)>& each) const {
    if (empty() || count == 0) return;
    if (count > Query::kMost) {
        bool on = true;
        const auto tell = [&](std::size_t offset) {
            return [&, offset](const std::array<Vec3, 3>& t, std::uint32_t i, std::size_t k) { return on = each(t, i, k + offset); };
        };
        forEachWithin(pose, pieces, clearance, Query::kMost, tell(0));
        if (on) forEachWithin(pose, pieces + Query::kMost, clearance + Query::kMost, count - Query::kMost, tell(Query::kMost));
        return;
    }
    const Query query(*this, pose, pieces, clearance, count);
    walk([&](const Node& n) { return query.gap(query.of(n)); },
         [&](const Block& b) {
             const Query::Extent e = query.of(b);
             for (std::uint32_t lane = 0; lane < b.count; ++lane) {
                 const auto local = query.view.local(m_triangles[b.first + lane]);
                 for (std::size_t k = 0; k < count; ++k)
                     if (query.gap(e, k)[lane] < 0.0f && within(pieces[k], local, clearance[k]) && !each(local, m_original[b.first + lane], k)) return false;
             }
             return true;
         });
}

double MeshTree::distance(const AxisPose& pose, const RoundedFrustum* pieces, std::size_t count, double limit, std::uint32_t* hint) const {
    double best = limit;
    if (empty() || count == 0) return best;
    if (count > Query::kMost) {
        best = distance(pose, pieces, Query::kMost, limit, hint);
        return distance(pose, pieces + Query::kMost, count - Query::kMost, best, hint);
    }
    const Query query(*this, pose, pieces, nullptr, count);
    const auto look = [&](std::size_t k, std::uint32_t triangle) {
        const double d = distanceBelow(pieces[k], query.view.local(m_triangles[triangle]), best);
        if (d >= best) return;
        best = d;
        if (hint) *hint = triangle;
    };
    if (hint && *hint < m_triangles.size())
        for (std::size_t k = 0; k < count; ++k) look(k, *hint);
    std::array<std::pair<std::uint32_t, float>, kStack> stack;
    std::size_t top = 0;
    stack[top++] = {0, -1e30f};
    while (top > 0) {
        const auto [index, bound] = stack[--top];
        if (static_cast<double>(bound) >= best) continue;
        const Node& n = m_nodes[index];
        const Four bounds = query.bound(query.of(n));
        const auto order = rising(bounds);
        std::size_t nodes = 0;
        std::array<std::uint8_t, 4> next{};
        for (const auto lane : order) {
            if (static_cast<double>(bounds[lane]) >= best) break;
            if (n.child[lane] == kNone) continue;
            if (!n.leaf[lane]) {
                next[nodes++] = lane;
                continue;
            }
            const Block& b = m_blocks[n.child[lane]];
            const Query::Extent e = query.of(b);
            for (std::size_t k = 0; k < count; ++k) {
                const Four perTriangle = query.bound(e, k);
                for (std::uint32_t i = 0; i < b.count; ++i)
                    if (static_cast<double>(perTriangle[i]) < best) look(k, b.first + i);
            }
        }
        while (nodes > 0) {
            const auto lane = next[--nodes];
            stack[top++] = {n.child[lane], bounds[lane]};
        }
    }
    return best;
}

void MeshTree::forEachNear(const std::vector<AskewBox>& boxes, double reach, const std::function<bool(const std::array<Vec3, 3>&, std::uint32_t)>& each) const {
    if (empty()) return;
    const float slack = static_cast<float>(8.0 * m_rounding);
    const auto square = static_cast<float>(reach * reach * 1.00001);
    walk(
        [&](const Node& n) {
            Four most = Four::Zero();
            for (const AskewBox& box : boxes) {
                Four sum = Four::Zero();
                for (int k = 0; k < 3; ++k) {
                    const auto x = static_cast<float>(box.axes(0, k)), y = static_cast<float>(box.axes(1, k)), z = static_cast<float>(box.axes(2, k));
                    const Four at = n.centre[0] * x + n.centre[1] * y + n.centre[2] * z;
                    const Four wide = n.half[0] * std::abs(x) + n.half[1] * std::abs(y) + n.half[2] * std::abs(z) + slack;
                    sum += (at - wide - static_cast<float>(box.high[k])).max(static_cast<float>(box.low[k]) - at - wide).max(0.0f).square();
                }
                most = most.max(sum);
            }
            return Four(most - square - 1e-12f); // rises with the distance, so that the nearest is opened first
        },
        [&](const Block& b) {
            for (std::uint32_t i = b.first; i < b.first + b.count; ++i) {
                const auto& t = m_triangles[i];
                bool out = false;
                for (const AskewBox& box : boxes) {
                    const Vec3 p = box.axes.transpose() * t[0], q = box.axes.transpose() * t[1], r = box.axes.transpose() * t[2];
                    const Vec3 low = p.cwiseMin(q).cwiseMin(r), high = p.cwiseMax(q).cwiseMax(r);
                    out = out || (low - box.high).cwiseMax(box.low - high).cwiseMax(Vec3::Zero()).squaredNorm() > reach * reach * 1.00001;
                }
                if (!out && !each(t, m_original[i])) return false;
            }
            return true;
        });
}

std::size_t MeshTree::partsOf(std::uint32_t node, std::array<Part, 4>& parts) const {
    const Node& n = m_nodes[node];
    std::size_t count = 0;
    for (Eigen::Index lane = 0; lane < 4; ++lane) {
        const auto l = static_cast<std::size_t>(lane);
        if (n.child[l] == kNone) continue;
        parts[count++] = {n.child[l], n.leaf[l], Vec3(n.centre[0][lane], n.centre[1][lane], n.centre[2][lane]), Vec3(n.half[0][lane], n.half[1][lane], n.half[2][lane])};
    }
    return count;
}

// Both trees at once: pairs of boxes that neither box's own directions keep apart are opened, the larger first.
bool MeshTree::anyWithin(const MeshTree& other, const Frame& toOther, double reach) const {
    if (empty() || other.empty()) return false;
    const Eigen::Matrix3d turn = toOther.linear(), spread = turn.cwiseAbs();
    const double allowed = reach + 1e-6 + 4.0 * (m_rounding + other.m_rounding);
    const auto apart = [&](const Part& a, const Part& b) {
        const Vec3 d = toOther * a.centre - b.centre;
        return (d.cwiseAbs() - b.half - spread * a.half).cwiseMax(Vec3::Zero()).squaredNorm() > allowed * allowed ||
               ((turn.transpose() * d).cwiseAbs() - a.half - spread.transpose() * b.half).cwiseMax(Vec3::Zero()).squaredNorm() > allowed * allowed;
    };
    const auto meet = [&](const Block& a, const Block& b) {
        ConvexBody mine;
        for (std::uint32_t i = a.first; i < a.first + a.count; ++i) {
            const auto& t = m_triangles[i];
            mine.points = {toOther * t[0], toOther * t[1], toOther * t[2]};
            for (std::uint32_t k = b.first; k < b.first + b.count; ++k)
                if (convexWithin(mine, other.m_triangles[k], reach)) return true;
        }
        return false;
    };
    std::vector<std::pair<Part, Part>> waiting{{Part{0, false, m_bounds.centre(), m_bounds.half()}, Part{0, false, other.m_bounds.centre(), other.m_bounds.half()}}};
    std::array<Part, 4> parts;
    while (!waiting.empty()) {
        const auto [a, b] = waiting.back();
        waiting.pop_back();
        if (apart(a, b)) continue;
        if (a.leaf && b.leaf) {
            if (meet(m_blocks[a.child], other.m_blocks[b.child])) return true;
        } else if (b.leaf || (!a.leaf && a.half.sum() > b.half.sum())) {
            for (std::size_t k = partsOf(a.child, parts); k-- > 0;) waiting.emplace_back(parts[k], b);
        } else {
            for (std::size_t k = other.partsOf(b.child, parts); k-- > 0;) waiting.emplace_back(a, parts[k]);
        }
    }
    return false;
}

} // namespace gyre
