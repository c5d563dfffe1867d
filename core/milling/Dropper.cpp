#include "milling/Dropper.h"
#include "base/Units.h"
#include "tool/Contact.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace gyre {

Dropper::Dropper(const MeshTree& model, const Part* body, const Cutter& cutter, const Sheet& sheet, double keep, double bottom)
    : m_body(body), m_cutter(cutter), m_sheet(sheet), m_keep(keep), m_bottom(bottom), m_radius(std::max(1e-3, 0.5 * cutter.diameter + keep)),
      m_corner(std::clamp(contactRadius(cutter) + keep, 0.0, m_radius)) {
    m_facets.reserve(model.triangles().size());
    for (const auto& t : model.triangles()) {
        Facet f;
        for (std::size_t k = 0; k < 3; ++k) f.p[k] = sheet.flat(t[k]);
        const Vec3 n = (f.p[1] - f.p[0]).cross(f.p[2] - f.p[0]);
        if (std::abs(n.z()) > 1e-9 * n.norm()) f.normal = n / (n.z() > 0.0 ? n.norm() : -n.norm());
        if (f.top() + keep > bottom) m_facets.push_back(f);
    }
    if (!m_facets.empty()) grow(0, static_cast<std::uint32_t>(m_facets.size()));
}

void Dropper::grow(std::uint32_t first, std::uint32_t last) { // NOLINT(misc-no-recursion)
    constexpr std::uint32_t kLeaf = 3;
    Hull hull{m_facets[first].low(), m_facets[first].high(), m_facets[first].top(), first, 0};
    for (std::uint32_t i = first + 1; i < last; ++i) {
        hull.low = hull.low.cwiseMin(m_facets[i].low());
        hull.high = hull.high.cwiseMax(m_facets[i].high());
        hull.top = std::max(hull.top, m_facets[i].top());
    }
    const std::size_t own = m_tree.size();
    m_tree.push_back(hull);
    if (last - first <= kLeaf) {
        m_tree[own].facets = last - first;
        return;
    }
    const int axis = hull.high.x() - hull.low.x() >= hull.high.y() - hull.low.y() ? 0 : 1;
    const auto middle = [axis](const Facet& f) { return f.low()[axis] + f.high()[axis]; };
    const std::uint32_t half = first + (last - first) / 2;
    std::nth_element(m_facets.begin() + first, m_facets.begin() + half, m_facets.begin() + last, [&](const Facet& x, const Facet& y) { return middle(x) < middle(y); });
    grow(first, half);
    m_tree[own].first = static_cast<std::uint32_t>(m_tree.size());
    grow(half, last);
}

/// Height of the grown cutter's outline over its tip, this far out from its axis.
double Dropper::outline(double out) const {
    const double level = m_radius - m_corner;
    return out <= level ? 0.0 : m_corner - std::sqrt(std::max(0.0, m_corner * m_corner - (out - level) * (out - level)));
}

// Along an edge the edge's height less the outline over it is concave: one place is the highest.
void Dropper::overEdge(const Vec3& from, const Vec3& to, const Vec2& at, double& best) const {
    if (std::max(from.z(), to.z()) <= best) return;
    const Vec2 a = from.head<2>() - at, d = (to - from).head<2>();
    const double l2 = d.squaredNorm(), rise = to.z() - from.z();
    if (l2 < 1e-24) return; // upright: its ends count
    const double foot = -a.dot(d) / l2, off2 = (a + foot * d).squaredNorm(), reach2 = (m_radius * m_radius - off2) / l2;
    if (reach2 <= 0.0) return;
    const double half = std::sqrt(reach2);
    double low = std::max(0.0, foot - half), high = std::min(1.0, foot + half);
    if (low >= high) return;
    const auto height = [&](double t) { return from.z() + t * rise - outline((a + t * d).norm()); };
    if (m_corner >= m_radius) { // a ball: the section along the edge is a circle
        const double l = std::sqrt(l2), m = rise / l;
        best = std::max(best, height(std::clamp(foot + half * m / std::sqrt(1.0 + m * m), low, high)));
        return;
    }
    if (m_corner <= 0.0) { // level: the higher end of what lies under it
        best = std::max(best, height(rise > 0.0 ? high : low));
        return;
    }
    const double level = m_radius - m_corner;
    const auto stillRises = [&](double t) {
        const Vec2 q = a + t * d;
        const double out = q.norm(), in = out - level;
        if (in <= 0.0) return rise > 0.0;
        if (in >= m_corner) return q.dot(d) < 0.0;
        return rise > in / std::sqrt(m_corner * m_corner - in * in) * q.dot(d) / out;
    };
    for (int i = 0; i < 48 && (high - low) * (high - low) * l2 > 1e-18; ++i) {
        const double t = 0.5 * (low + high);
        (stillRises(t) ? low : high) = t;
    }
    best = std::max(best, height(0.5 * (low + high)));
}

void Dropper::over(const Facet& f, const Vec2& at, double& best) const {
    if (f.top() <= best) return;
    if (f.normal.z() > 0.0) {
        const double lean = f.normal.head<2>().norm();
        const Vec2 touch = lean < 1e-12 ? at : Vec2(at - (m_radius - m_corner + m_corner * lean) / lean * f.normal.head<2>());
        const Vec2 q = touch - f.p[0].head<2>(), u = (f.p[1] - f.p[0]).head<2>(), v = (f.p[2] - f.p[0]).head<2>();
        const double area = u.x() * v.y() - u.y() * v.x(), b = (q.x() * v.y() - q.y() * v.x()) / area, c = (u.x() * q.y() - u.y() * q.x()) / area;
        if (b >= 0.0 && c >= 0.0 && b + c <= 1.0) {
            const double plane = f.p[0].z() + b * (f.p[1].z() - f.p[0].z()) + c * (f.p[2].z() - f.p[0].z());
            best = std::max(best, plane - m_corner * (1.0 - f.normal.z()));
            return; // where a plane is touched within the facet, nothing of its border is higher
        }
    }
    for (std::size_t k = 0; k < 3; ++k) {
        const double out = (f.p[k].head<2>() - at).norm();
        if (out < m_radius) best = std::max(best, f.p[k].z() - outline(out));
        overEdge(f.p[k], f.p[(k + 1) % 3], at, best);
    }
}

/// The highest of `best` and what the facets ask for; with `any` the first that is higher will do.
double Dropper::over(const Vec2& at, double best, bool any) const {
    if (m_tree.empty()) return best;
    const double given = best;
    // How high the cutter could have to stay over what lies in a hull.
    const auto most = [&](const Hull& h) {
        const double off2 = (h.low - at).cwiseMax(at - h.high).cwiseMax(0.0).squaredNorm();
        return off2 >= m_radius * m_radius ? -1e300 : h.top - outline(std::sqrt(off2));
    };
    struct Left {
        std::uint32_t node;
        double most;
    };
    std::array<Left, 64> left; // the tree is halved at every branch
    std::size_t n = 0;
    left[n++] = {0, most(m_tree[0])};
    while (n > 0) {
        const Left now = left[--n];
        if (now.most <= best) continue;
        const Hull& h = m_tree[now.node];
        if (h.facets > 0) {
            for (std::uint32_t i = h.first; i < h.first + h.facets; ++i) over(m_facets[i], at, best);
            if (any && best > given) return best;
            continue;
        }
        const Left a{now.node + 1, most(m_tree[now.node + 1])}, b{h.first, most(m_tree[h.first])};
        const bool aFirst = a.most >= b.most; // it leaves the least for others to be higher than
        if ((aFirst ? b : a).most > best) left[n++] = aFirst ? b : a;
        if ((aFirst ? a : b).most > best) left[n++] = aFirst ? a : b;
    }
    return best;
}

double Dropper::roughHeight(const Vec2& at) const { return over(at, m_bottom - m_keep, false) + m_keep; }

bool Dropper::standsAbove(const Vec2& at, double height) const { return height < m_bottom || over(at, height - m_keep, true) > height - m_keep; }

Vec2 Dropper::onFaces(const Vec2& at, double height) const {
    if (!m_body) return at;
    const AxisPose pose = m_sheet.pose({at.x(), at.y(), height});
    return m_sheet.flat(pose.tip + asideOntoFaces(*m_body, m_cutter, pose, m_keep)).head<2>();
}

double Dropper::height(const Vec2& at) const {
    double h = roughHeight(at);
    // What rests on the bottom may still be lifted by a face that bulges out of its triangles, but for less than counts.
    if (m_body && rests(h)) h += liftOntoFaces(*m_body, m_cutter, m_sheet.pose({at.x(), at.y(), h}), m_keep);
    return std::max(m_bottom, h);
}

Vec3 Dropper::contactNormal(const Vec2& at, double height) const {
    constexpr double kBy = 0.01, kFall = 20.0;
    const double here = roughHeight(at);
    if (rests(here) && std::abs(here - height) < kBy) {
        // Beside a fall the side where it rests counts.
        const auto rise = [&](const Vec2& d) {
            const double on = (roughHeight(at + kBy * d) - here) / kBy, back = (here - roughHeight(at - kBy * d)) / kBy;
            return std::abs(on - back) > kFall ? (std::abs(on) < std::abs(back) ? on : back) : 0.5 * (on + back);
        };
        return Vec3(-rise(Vec2::UnitX()), -rise(Vec2::UnitY()), 1.0).normalized();
    }
    // The directions in which it cannot go on: the wall stands in the middle of them.
    constexpr int kWays = 16;
    constexpr double kAround = 0.05, kTurn = 2.0 * kPi / kWays;
    const auto blocked = [&](double angle) { return over(at + kAround * Vec2(std::cos(angle), std::sin(angle)), height + kBy - m_keep, true) > height + kBy - m_keep; };
    std::array<bool, kWays> stands{};
    for (int i = 0; i < kWays; ++i) stands[static_cast<std::size_t>(i)] = blocked(i * kTurn);
    int first = 0, most = 0;
    for (int i = 0; i < kWays; ++i) {
        int n = 0;
        while (n < kWays && stands[static_cast<std::size_t>((i + n) % kWays)]) ++n;
        if (n > most) {
            most = n;
            first = i;
        }
    }
    if (most == 0 || most == kWays) return Vec3::UnitZ();
    const auto edge = [&](double in, double out) {
        for (int i = 0; i < 10; ++i) {
            const double m = 0.5 * (in + out);
            (blocked(m) ? in : out) = m;
        }
        return in;
    };
    const double wall = 0.5 * (edge(first * kTurn, (first - 1) * kTurn) + edge((first + most - 1) * kTurn, (first + most) * kTurn));
    return {-std::cos(wall), -std::sin(wall), 0.0};
}

namespace {

struct Along {
    const Dropper& dropper;
    const Vec2 from, way; ///< way: to the end, not of unit length
    const double length, tolerance;
    std::vector<Vec3>& out;

    [[nodiscard]] Vec3 at(double t) const {
        const Vec2 p = from + t * way;
        return {p.x(), p.y(), dropper.height(p)};
    }
    // Adds what lies between a and b, and b. A kink between them lies no further from the chord than four times what the middle does.
    void between(double t, const Vec3& a, double u, const Vec3& b) { // NOLINT(misc-no-recursion)
        constexpr double kNearest = 2e-3;
        if ((u - t) * length < kNearest) {
            if (std::abs(b.z() - a.z()) > 0.5 * tolerance) out.push_back(b.z() > a.z() ? Vec3(a.x(), a.y(), b.z()) : Vec3(b.x(), b.y(), a.z()));
            out.push_back(b);
            return;
        }
        const double middle = 0.5 * (t + u);
        const Vec3 m = at(middle);
        if (std::abs(m.z() - 0.5 * (a.z() + b.z())) <= 0.25 * tolerance) {
            out.push_back(b);
            return;
        }
        between(t, a, middle, m);
        between(middle, m, u, b);
    }
};

} // namespace

std::vector<Vec3> droppedAlong(const Dropper& dropper, const Vec2& from, const Vec2& to, double step, double tolerance) {
    std::vector<Vec3> out;
    Along along{dropper, from, to - from, (to - from).norm(), tolerance, out};
    const int n = std::max(1, static_cast<int>(std::ceil(along.length / step - 1e-9)));
    out.push_back(along.at(0.0));
    for (int i = 0; i < n; ++i) {
        const double t = static_cast<double>(i) / n, u = static_cast<double>(i + 1) / n;
        const Vec3 a = out.back();
        along.between(t, a, u, along.at(u));
    }
    return out;
}

double firstStep(const Cutter& cutter, double tolerance) {
    const double round = contactRadius(cutter);
    // A ball that rolls over a point sags by s²/8r between two points; what a level end rests on it sees over its whole width.
    return round >= 0.499 * cutter.diameter ? std::clamp(std::sqrt(8.0 * round * tolerance), 0.02, 1.0) : std::clamp(0.1 * cutter.diameter, 0.02, 1.0);
}

double leftByLarger(const Dropper& smaller, const Dropper& larger, const Vec2& at, double height) {
    const Vec3 normal = smaller.contactNormal(at, height), up = Vec3::UnitZ();
    // In the flat: x, y, height. Both cutters touch the same place with the same normal.
    const Vec3 contact = Vec3(at.x(), at.y(), height) - tipFromContact(smaller.cutter(), Vec3::Zero(), normal, up).tip;
    const Vec3 tip = contact + tipFromContact(larger.cutter(), Vec3::Zero(), normal, up).tip;
    const double rise = larger.height(tip.head<2>()) - tip.z();
    if (rise <= 0.0) return 0.0;
    const double r = contactRadius(larger.cutter());
    return std::sqrt(r * r + 2.0 * r * rise * normal.z() + rise * rise) - r;
}

} // namespace gyre
