#include "geom/Convex.h"
#include "geom/FrustumOutline.h"
#include <array>

namespace gyre {

Vec3 ConvexBody::support(const Vec3& d) const {
    const Vec3 local = frame.linear().transpose() * d;
    if (kind == Kind::Frustum) {
        const double flat = std::hypot(local.x(), local.y());
        const bool top = frustum.r1 * flat + frustum.z1 * local.z() > frustum.r0 * flat + frustum.z0 * local.z();
        const double r = top ? frustum.r1 : frustum.r0;
        const double k = flat > 1e-300 ? r / flat : 0.0;
        return frame * Vec3(k * local.x(), k * local.y(), top ? frustum.z1 : frustum.z0);
    }
    const Vec3* best = &points.front();
    double most = best->dot(local);
    for (const auto& p : points)
        if (const double v = p.dot(local); v > most) {
            most = v;
            best = &p;
        }
    return frame * *best;
}

Vec3 ConvexBody::middle() const {
    if (kind == Kind::Frustum) return frame * Vec3(0.0, 0.0, 0.5 * (frustum.z0 + frustum.z1));
    Vec3 sum = Vec3::Zero();
    for (const auto& p : points) sum += p;
    return frame * Vec3(sum / static_cast<double>(points.size()));
}

Box ConvexBody::bounds() const {
    Box b;
    const Vec3 grow = Vec3::Constant(round());
    for (int k = 0; k < 3; ++k) {
        const Vec3 d = Vec3::Unit(k);
        b.add(support(d));
        b.add(support(-d));
    }
    b.low -= grow;
    b.high += grow;
    return b;
}

ConvexBody ConvexBody::box(const Vec3& low, const Vec3& high) {
    ConvexBody body;
    for (int i = 0; i < 8; ++i) body.points.emplace_back((i & 1) ? high.x() : low.x(), (i & 2) ? high.y() : low.y(), (i & 4) ? high.z() : low.z());
    return body;
}

ConvexBody ConvexBody::turned(const RoundedFrustum& f) {
    ConvexBody body;
    body.kind = Kind::Frustum;
    body.frustum = f;
    return body;
}

namespace {

struct Corner {
    Vec3 w, a, b;
    double weight = 0.0;
};

/// Up to four corners of the difference body; `reduce` keeps those that carry the point nearest to the origin.
struct Simplex {
    std::array<Corner, 4> c;
    int n = 0;

    [[nodiscard]] Vec3 point() const {
        Vec3 p = Vec3::Zero();
        for (int i = 0; i < n; ++i) p += at(i).weight * at(i).w;
        return p;
    }
    [[nodiscard]] const Corner& at(int i) const { return c[static_cast<std::size_t>(i)]; }
    Corner& at(int i) { return c[static_cast<std::size_t>(i)]; }

    // Weights of the point nearest to the origin in the subset's span, or false when it lies outside of the subset.
    template <int K> bool weights(const std::array<int, 4>& pick, std::array<double, 4>& out, double& dist2) const {
        const Vec3& p0 = at(pick[0]).w;
        if constexpr (K == 1) {
            out[0] = 1.0;
            dist2 = p0.squaredNorm();
            return true;
        } else {
            Eigen::Matrix<double, 3, K - 1> edges;
            for (int i = 1; i < K; ++i) edges.col(i - 1) = at(pick[static_cast<std::size_t>(i)]).w - p0;
            const Eigen::Matrix<double, K - 1, K - 1> gram = edges.transpose() * edges;
            const double scale = gram.trace();
            if (!(scale > 0.0)) return false;
            // Corners nearly in line or in plane: a smaller subset carries the point.
            if (gram.determinant() < 1e-18 * std::pow(scale, K - 1)) return false;
            const Eigen::Matrix<double, K - 1, 1> x = gram.inverse() * (edges.transpose() * -p0);
            double first = 1.0;
            for (int i = 0; i < K - 1; ++i) {
                if (x[i] < -1e-13) return false;
                out[static_cast<std::size_t>(i) + 1] = x[i];
                first -= x[i];
            }
            if (first < -1e-13) return false;
            out[0] = first;
            dist2 = (p0 + edges * x).squaredNorm();
            return true;
        }
    }
    bool weights(const std::array<int, 4>& pick, int k, std::array<double, 4>& out, double& dist2) const {
        return k == 1 ? weights<1>(pick, out, dist2) : k == 2 ? weights<2>(pick, out, dist2) : k == 3 ? weights<3>(pick, out, dist2) : weights<4>(pick, out, dist2);
    }

    // Tries all subsets that hold the newest corner or not: at most 15, each a tiny linear system.
    void reduce() {
        double best = 1e300;
        std::array<int, 4> bestPick{};
        std::array<double, 4> bestWeights{};
        int bestCount = 0;
        for (unsigned mask = 1; mask < (1u << n); ++mask) {
            std::array<int, 4> pick{};
            int k = 0;
            for (int i = 0; i < n; ++i)
                if (mask & (1u << i)) pick[static_cast<std::size_t>(k++)] = i;
            std::array<double, 4> w{};
            double d2 = 0.0;
            if (!weights(pick, k, w, d2)) continue;
            if (d2 < best * (1.0 - 1e-14) || bestCount == 0) {
                best = d2;
                bestPick = pick;
                bestWeights = w;
                bestCount = k;
            }
        }
        std::array<Corner, 4> kept;
        for (int i = 0; i < bestCount; ++i) {
            const auto u = static_cast<std::size_t>(i);
            kept[u] = at(bestPick[u]);
            kept[u].weight = bestWeights[u];
        }
        c = kept;
        n = bestCount;
    }
};

template <class SupportA, class SupportB>
ConvexDistance iterate(const SupportA& supportA, const SupportB& supportB, const Vec3& start, double grown, double enough = 1e300) {
    Simplex s;
    Vec3 v = start.squaredNorm() > 0.0 ? start : Vec3(Vec3::UnitX());
    double bound = 0.0;
    const auto finish = [&](bool overlap) {
        ConvexDistance d{0.0, 0.0, Vec3::Zero(), Vec3::Zero()};
        for (int i = 0; i < s.n; ++i) {
            d.onA += s.at(i).weight * s.at(i).a;
            d.onB += s.at(i).weight * s.at(i).b;
        }
        if (!overlap) {
            d.value = std::max(0.0, v.norm() - grown);
            d.bound = std::max(0.0, std::min(bound, v.norm()) - grown);
        }
        return d;
    };
    for (int i = 0; i < 100; ++i) {
        Corner next;
        next.a = supportA(-v);
        next.b = supportB(v);
        next.w = next.a - next.b;
        const double length = v.norm();
        bound = std::max(bound, v.dot(next.w) / length);
        if (s.n > 0 && length - bound <= 1e-10 * (1.0 + length)) return finish(false);
        if (bound - grown >= enough || (s.n > 0 && length - grown < enough && enough < 1e299)) return finish(false);
        for (int k = 0; k < s.n; ++k)
            if (s.at(k).w == next.w) return finish(false);
        s.at(s.n++) = next;
        s.reduce();
        v = s.point();
        if (s.n == 4 || v.squaredNorm() < 1e-24) return finish(true);
    }
    return finish(false);
}

} // namespace

namespace {

ConvexDistance between(const ConvexBody& a, const ConvexBody& b, double enough) {
    return iterate([&](const Vec3& d) { return a.support(d); }, [&](const Vec3& d) { return b.support(d); }, a.middle() - b.middle(), a.round() + b.round(), enough);
}

ConvexDistance between(const ConvexBody& a, const std::array<Vec3, 3>& t, double enough) {
    const auto corner = [&](const Vec3& d) {
        const double x = t[0].dot(d), y = t[1].dot(d), z = t[2].dot(d);
        return x >= y && x >= z ? t[0] : y >= z ? t[1] : t[2];
    };
    return iterate([&](const Vec3& d) { return a.support(d); }, corner, a.middle() - (t[0] + t[1] + t[2]) / 3.0, a.round(), enough);
}

} // namespace

ConvexDistance convexDistance(const ConvexBody& a, const ConvexBody& b) { return between(a, b, 1e300); }
ConvexDistance convexDistance(const ConvexBody& a, const std::array<Vec3, 3>& t) { return between(a, t, 1e300); }
bool convexWithin(const ConvexBody& a, const ConvexBody& b, double reach) { return between(a, b, reach).bound < reach; }
bool convexWithin(const ConvexBody& a, const std::array<Vec3, 3>& t, double reach) { return between(a, t, reach).bound < reach; }

std::vector<Vec2> outlineOf(const RoundedFrustum& f, int steps) {
    std::vector<Vec2> outline;
    const Vec2 side = Vec2(f.z1 - f.z0, f.r0 - f.r1).norm() > 0.0 ? Vec2(Vec2(f.z1 - f.z0, f.r0 - f.r1).normalized()) : Vec2(1.0, 0.0); // (radial, axial) normal
    outline.emplace_back(0.0, f.low());
    const double sideAngle = std::atan2(side.y(), side.x());
    const int n = f.round > 0.0 ? steps : 0;
    const auto arc = [&](double r, double z, double from, double to) {
        for (int i = 0; i <= n; ++i) {
            const double t = n ? from + (to - from) * i / n : sideAngle;
            outline.emplace_back(std::max(0.0, r + f.round * std::cos(t)), z + f.round * std::sin(t));
        }
    };
    arc(f.r0, f.z0, -M_PI / 2, sideAngle);
    arc(f.r1, f.z1, sideAngle, M_PI / 2);
    outline.emplace_back(0.0, f.high());
    return outline;
}

namespace {

std::vector<std::array<std::size_t, 3>> trianglesAround(const std::vector<Vec3>& points) {
    std::vector<std::array<std::size_t, 3>> out;
    // Few points: every plane through three of them that has all others behind it is a side, cut into triangles around once.
    const std::size_t n = points.size();
    std::vector<std::vector<std::size_t>> sides;
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = 0; j < n; ++j)
            for (std::size_t k = 0; k < n; ++k) {
                if (i >= j || i >= k || j == k) continue;
                const Vec3 nrm = (points[j] - points[i]).cross(points[k] - points[i]).normalized();
                if (!nrm.allFinite() || nrm.norm() < 0.5) continue;
                std::vector<std::size_t> on;
                bool outer = true;
                for (std::size_t p = 0; p < n && outer; ++p) {
                    const double above = nrm.dot(points[p] - points[i]);
                    outer = above <= 1e-9 * (1.0 + points[i].norm());
                    if (outer && above >= -1e-9 * (1.0 + points[i].norm())) on.push_back(p);
                }
                if (!outer || std::find(sides.begin(), sides.end(), on) != sides.end()) continue;
                sides.push_back(on);
                Vec3 middle = Vec3::Zero();
                for (auto p : on) middle += points[p] / static_cast<double>(on.size());
                const Vec3 x = (points[on[0]] - middle).normalized(), y = nrm.cross(x);
                std::sort(on.begin(), on.end(), [&](std::size_t p, std::size_t q) {
                    const auto angle = [&](std::size_t r) { return std::atan2((points[r] - middle).dot(y), (points[r] - middle).dot(x)); };
                    return angle(p) < angle(q);
                });
                for (std::size_t c = 2; c < on.size(); ++c) out.push_back({on[0], on[c - 1], on[c]});
            }
    return out;
}

} // namespace

TriangleMesh skinOf(const ConvexBody& body, int sides) {
    TriangleMesh mesh;
    const auto triangle = [&](const Vec3& a, const Vec3& b, const Vec3& c) {
        const Vec3 n = (b - a).cross(c - a);
        if (n.norm() < 1e-12) return;
        const auto i = static_cast<std::uint32_t>(mesh.points.size());
        for (const auto* p : {&a, &b, &c}) {
            mesh.points.push_back(body.frame * *p);
            mesh.normals.push_back(body.frame.linear() * n.normalized());
        }
        mesh.triangles.push_back({i, i + 1, i + 2});
    };
    if (body.kind == ConvexBody::Kind::Points) {
        for (const auto& t : trianglesAround(body.points)) triangle(body.points[t[0]], body.points[t[1]], body.points[t[2]]);
        return mesh;
    }
    const std::vector<Vec2> profile = outlineOf(body.frustum, 12);
    for (std::size_t i = 1; i < profile.size(); ++i) {
        const Vec2 p = profile[i - 1], q = profile[i];
        if ((q - p).norm() < 1e-12) continue;
        for (int k = 0; k < sides; ++k) {
            const double s = 2.0 * M_PI * k / sides, e = 2.0 * M_PI * (k + 1) / sides;
            const Vec3 a(p.x() * std::cos(s), p.x() * std::sin(s), p.y()), b(p.x() * std::cos(e), p.x() * std::sin(e), p.y());
            const Vec3 c(q.x() * std::cos(e), q.x() * std::sin(e), q.y()), d(q.x() * std::cos(s), q.x() * std::sin(s), q.y());
            triangle(a, b, c);
            triangle(a, c, d);
        }
    }
    return mesh;
}

} // namespace gyre
