// Taking away from a stock of rays what a cutter sweeps, and asking what lies within one.
#include "base/Parallel.h"
#include "stock/Stock.h"
#include <algorithm>
#include <atomic>

namespace gyre {

/// Frustums of the pieces from the tip up; those of two pieces may lie over one another.
struct Stock::Profile {
    std::vector<std::array<double, 4>> frustums; ///< z0, r0, z1, r1
    double radius = 0.0, low = 0.0, high = 0.0;
    [[nodiscard]] double deep(double radius, double height) const;
    [[nodiscard]] double up(double radius, double height) const;
    /// Radius of the widest frustum: half the error more than that of the cutter.
    [[nodiscard]] double widest() const {
        double most = 0.0;
        for (const auto& f : frustums) most = std::max({most, f[1], f[3]});
        return most;
    }
};

namespace {

/// How far up the tool's axis from `p` the stock's box may still be met by something of this radius.
double heightWithin(const Box& box, const Vec3& p, const Vec3& axis, double radius) {
    double top = 1e300;
    for (int k = 0; k < 3; ++k) {
        if (std::abs(axis[k]) < 1e-9) continue;
        const double across = radius * std::sqrt(std::max(0.0, 1.0 - axis[k] * axis[k]));
        top = std::min(top, ((axis[k] > 0.0 ? box.high[k] + across : box.low[k] - across) - p[k]) / axis[k]);
    }
    return top;
}

} // namespace

// Round ends become frustums whose corners lie on the true outline and half the error outside of its chords.
Stock::Profile Stock::profileOf(const std::vector<RoundedFrustum>& pieces, double error) {
    Profile p;
    p.low = pieces.empty() ? 0.0 : pieces.front().low();
    for (const RoundedFrustum& f : pieces) {
        std::vector<Vec2> part;
        if (f.round > 0.0) {
            const int n = std::max(4, static_cast<int>(std::ceil(0.5 * M_PI / std::acos(1.0 - std::min(0.5, 2.0 * error / f.round)))));
            const double grow = f.round * (0.5 + 0.5 / std::cos(0.25 * M_PI / n));
            // The flank's own lean is left to the true frustum: below, the quarter down; above, the quarter up.
            for (int i = 0; i <= n; ++i) part.push_back({f.r0 + grow * std::sin(0.5 * M_PI * i / n), f.z0 - grow * std::cos(0.5 * M_PI * i / n)});
            for (int i = 0; i <= n; ++i) part.push_back({f.r1 + grow * std::cos(0.5 * M_PI * i / n), f.z1 + grow * std::sin(0.5 * M_PI * i / n)});
        } else {
            part = {{f.r0, f.z0}, {f.r1, f.z1}};
        }
        for (std::size_t i = 1; i < part.size(); ++i)
            if (part[i].y() > part[i - 1].y() + 1e-9) p.frustums.push_back({part[i - 1].y(), part[i - 1].x(), part[i].y(), part[i].x()});
        p.high = std::max(p.high, f.high());
        p.low = std::min(p.low, f.low());
        p.radius = std::max(p.radius, f.radius());
    }
    return p;
}

// From a point within, given by its distance from the axis and its height, to the outline; what lies above its top goes on.
double Stock::Profile::deep(double radius, double height) const {
    double nearest = 1e300;
    const Vec2 p(radius, height);
    const auto side = [&](const Vec2& a, const Vec2& b) {
        const Vec2 d = b - a;
        const double length = d.squaredNorm(), t = length > 0.0 ? std::clamp((p - a).dot(d) / length, 0.0, 1.0) : 0.0;
        nearest = std::min(nearest, (p - a - t * d).norm());
    };
    Vec2 last(0.0, low);
    for (const auto& f : frustums) {
        side(last, {f[1], f[0]});
        last = {f[3], f[2]};
        side({f[1], f[0]}, last);
    }
    return nearest;
}

// How far the profile must go up until a point within it lies below its outline.
double Stock::Profile::up(double radius, double height) const {
    for (const auto& f : frustums) {
        if (f[1] >= radius) return std::max(0.0, height - f[0]);
        if (f[3] >= radius) return std::max(0.0, height - (f[0] + (f[2] - f[0]) * (radius - f[1]) / (f[3] - f[1])));
    }
    return 0.0;
}

namespace {

/// A frustum and the direction of a bundle of parallel lines, in tool coordinates: what is the same for all of them.
struct Aimed {
    double low, high;       ///< along the axis
    double radius;          ///< of its flank where the axis begins, be it beyond its ends
    double slope, change;   ///< of the radius along the axis, and along the lines
    double square, inverse; ///< what the square of a line's parameter is multiplied with in the equation of the flank, and 1 / that
    double widest;          ///< radius, squared
    Aimed(const std::array<double, 4>& f, const Vec3& d)
        : low(f[0]), high(f[2]), slope((f[3] - f[1]) / (f[2] - f[0])), change(slope * d.z()), square(d.x() * d.x() + d.y() * d.y() - change * change),
          inverse(std::abs(square) < 1e-14 ? 0.0 : 1.0 / square) {
        radius = f[1] - slope * f[0];
        const double most = std::max(f[1], f[3]);
        widest = most * most;
    }
};

/// The stretch of a line (point and unit direction in tool coordinates) within a frustum.
/// @param along 1 / d.z, where that is not all but 0
bool stretch(const Aimed& f, const Vec3& o, const Vec3& d, double along, double& from, double& to) {
    from = -1e30;
    to = 1e30;
    if (along != 0.0) {
        from = (f.low - o.z()) * along;
        to = (f.high - o.z()) * along;
        if (from > to) std::swap(from, to);
    } else if (o.z() < f.low || o.z() > f.high) {
        return false;
    }
    const double r = f.radius + f.slope * o.z(), b = o.x() * d.x() + o.y() * d.y() - r * f.change, c = o.x() * o.x() + o.y() * o.y() - r * r;
    if (f.inverse == 0.0) {
        if (std::abs(b) < 1e-14) return c <= 0.0;
        const double t = -0.5 * c / b;
        if (b > 0.0)
            to = std::min(to, t);
        else
            from = std::max(from, t);
        return from < to;
    }
    const double root = b * b - f.square * c;
    if (f.square > 0.0) {
        if (root <= 0.0) return false;
        const double s = std::sqrt(root);
        from = std::max(from, (-b - s) * f.inverse);
        to = std::min(to, (-b + s) * f.inverse);
        return from < to;
    }
    // Steeper than the cone: within the caps the line is inside before the first or after the second crossing; one of the two lies there.
    if (root <= 0.0) return from < to;                                                      // always inside of the double cone
    const double s = std::sqrt(root), t0 = (-b + s) * f.inverse, t1 = (-b - s) * f.inverse; // t0 < t1
    const double before = std::min(to, t0), after = std::max(from, t1);
    // Of the double cone only the half with a positive radius counts.
    const auto positive = [&](double t) { return r + f.change * t >= -1e-12; };
    if (from < before && positive(0.5 * (from + before))) {
        to = before;
        return true;
    }
    if (after < to && positive(0.5 * (after + to))) {
        from = after;
        return true;
    }
    return false;
}

/// Stretches that follow each other on a line become one.
template <class Each> class Joined {
public:
    explicit Joined(const Each& each) : m_each(each) {}
    void add(double from, double to) {
        if (m_to >= m_from && !(from <= m_to + 1e-6 && to >= m_from - 1e-6)) end();
        m_from = m_to < m_from ? from : std::min(m_from, from);
        m_to = std::max(m_to, to);
    }
    void end() {
        if (m_to > m_from) m_each(static_cast<float>(m_from), static_cast<float>(m_to));
        m_from = 0.0;
        m_to = -1e300;
    }

private:
    const Each& m_each;
    double m_from = 0.0, m_to = -1e300;
};

Mat3 toTool(const Vec3& axis) {
    Mat3 m;
    m.row(0) = anyPerpendicular(axis);
    m.row(1) = axis.cross(Vec3(m.row(0)));
    m.row(2) = axis;
    return m;
}

} // namespace

std::array<int, 4> Stock::reach(const Field& f, const AxisPose& pose, const Profile& profile) const {
    std::array<int, 4> out{};
    for (int k = 0; k < 2; ++k) {
        const int axis = (f.axis + 1 + k) % 3;
        const double across = profile.radius * std::sqrt(std::max(0.0, 1.0 - pose.axis[axis] * pose.axis[axis]));
        const double a = pose.tip[axis] + profile.low * pose.axis[axis], b = pose.tip[axis] + profile.high * pose.axis[axis];
        const double low = std::min(a, b) - across, high = std::max(a, b) + across;
        const auto index = static_cast<std::size_t>(k);
        out[2 * index] = static_cast<int>(std::clamp(std::ceil((low - m_origin[axis]) / m_cell - 0.5), 0.0, static_cast<double>(f.count[index])));
        out[2 * index + 1] = static_cast<int>(std::clamp(std::floor((high - m_origin[axis]) / m_cell - 0.5) + 1.0, 0.0, static_cast<double>(f.count[index])));
    }
    return out;
}

// What is cut beyond the material that a ray has left makes no difference: only frustums that its height and its distance from the axis can meet count.
template <class Each> void Stock::visit(const Field& f, const AxisPose& pose, const Profile& profile, int uFrom, int uTo, const Each& each) const {
    const auto r = reach(f, pose, profile);
    uFrom = std::max(uFrom, r[0]);
    uTo = std::min(uTo, r[1]);
    if (uFrom >= uTo || r[2] >= r[3]) return;
    const Mat3 turn = toTool(pose.axis);
    const Vec3 d = turn.col(f.axis), across = m_cell * turn.col((f.axis + 2) % 3);
    const double flat = d.x() * d.x() + d.y() * d.y(), widest = std::pow(profile.widest(), 2), along = std::abs(d.z()) > 1e-12 ? 1.0 / d.z() : 0.0;
    thread_local std::vector<Aimed> parts;
    parts.clear();
    for (const auto& part : profile.frustums) parts.emplace_back(part, d);
    for (int u = uFrom; u < uTo; ++u) {
        const Vec3 first = turn * (middle(f, u, 0) - pose.tip);
        const Ray* row = &f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1])];
        for (int v = r[2]; v < r[3]; ++v) {
            // Rays with nothing left, and such as pass the cutter's hull by, are most of them.
            const StockSpan left = row[v].hull();
            if (left.to < left.from) continue;
            const Vec3 o = first + v * across;
            const double t0 = static_cast<double>(left.from), t1 = static_cast<double>(left.to), z0 = o.z() + t0 * d.z(), z1 = o.z() + t1 * d.z();
            const double low = std::min(z0, z1), high = std::max(z0, z1);
            if (high < profile.low || low > profile.high) continue;
            const double nearest = flat > 1e-14 ? std::clamp(-(o.x() * d.x() + o.y() * d.y()) / flat, t0, t1) : t0;
            const double x = o.x() + nearest * d.x(), y = o.y() + nearest * d.y(), off = x * x + y * y - 1e-9;
            if (off > widest) continue;
            const auto tell = [&](float from, float to) { each(u, v, from, to); };
            Joined joined(tell);
            for (const Aimed& part : parts) {
                if (part.high < low - m_cell || part.low > high + m_cell || part.widest < off) continue;
                if (double a = 0.0, b = 0.0; stretch(part, o, d, along, a, b)) joined.add(a, b);
            }
            joined.end();
        }
    }
}

double Stock::within(const AxisPose& pose, const Cutter& cutter) const {
    const Profile profile = profileOf(cuttingZone(cutter), 0.05 * m_cell);
    double sum = 0.0;
    for (const Field& f : m_fields)
        visit(f, pose, profile, 0, f.count[0], [&](int u, int v, float from, float to) {
            sum += f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].overlap(from, to);
        });
    return sum * m_cell * m_cell / 3.0;
}

void Stock::remove(const AxisPose& pose, const Cutter& cutter) {
    const Profile profile = profileOf(cuttingZone(cutter), 0.05 * m_cell);
    for (Field& f : m_fields)
        visit(f, pose, profile, 0, f.count[0], [&](int u, int v, float from, float to) {
            f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].cut(from, to, 0);
        });
}

namespace {

/// From a to b with the axis all but still: between its ends a frustum sweeps a prism.
struct Sweep {
    AxisPose a, b;
    bool cuts = false, moves = false;
    std::size_t location = 0;     ///< on the way to it
    std::size_t from = 0, to = 0; ///< these questions are asked when it is done
};

/// The part of a line within value + t·change ≥ 0, and how that is asked of all lines of one direction.
class Clip {
public:
    explicit Clip(double change) : m_change(change), m_inverse(std::abs(change) < 1e-14 ? 0.0 : 1.0 / change) {}
    /// @return is anything left between `from` and `to`?
    bool operator()(double value, double& from, double& to) const {
        if (m_inverse == 0.0) return value >= 0.0;
        const double t = -value * m_inverse;
        if (m_change > 0.0)
            from = std::max(from, t);
        else
            to = std::min(to, t);
        return from < to;
    }

private:
    double m_change, m_inverse;
};

/// The prism that a frustum sweeps, for lines of one direction; in coordinates whose x runs along the way (without its part along the
/// axis), whose y runs across it, and whose z is the tool's, sheared so that the frustum stays at one height.
struct SweptFrustum {
    double low, high, radius, slope;
    Clip left, right; ///< flanks
    /// @param dy, dz of the lines
    SweptFrustum(const std::array<double, 4>& f, double dy, double dz)
        : low(f[0]), high(f[2]), radius(f[1] - (f[3] - f[1]) / (f[2] - f[0]) * f[0]), slope((f[3] - f[1]) / (f[2] - f[0])), left(slope * dz - dy),
          right(slope * dz + dy) {}
};

} // namespace

/// One path cut out of a stock.
struct Stock::Remover {
    Stock& stock;
    const StockCut& cut;
    const Profile profile;
    std::vector<Sweep> sweeps;
    struct Ready {
        Profile profile;                         ///< of the cutter, as far up as the stock reaches
        std::array<std::array<int, 4>, 3> reach; ///< of the whole sweep, per field
        Mat3 turn = Mat3::Identity();            ///< into the prism's coordinates
        double length = 0.0, rise = 0.0;
    };
    std::vector<Ready> ready;
    struct Probed {
        Profile profile; ///< as far up as the stock reaches
        std::array<std::array<int, 4>, 3> reach;
        Mat3 turn;
    };
    std::vector<Probed> probed;
    std::vector<std::atomic<std::int64_t>> deep, up; ///< by question, in millionths of a millimetre
    /// Rays that belong to one thread: no two write to the same ray, and every ray sees the sweeps in their order.
    struct Stripe {
        std::size_t field;
        int from, to;
    };
    std::vector<Stripe> stripes;
    std::vector<std::atomic<std::int64_t>> taken; ///< in millionths of a millimetre of ray: sums of whole numbers do not depend on their order

    Remover(Stock& s, const StockCut& c)
        : stock(s), cut(c), profile(profileOf(cuttingZone(c.cutter), 0.05 * s.m_cell)), deep(c.watch ? c.watch->probes.size() : 0), up(deep.size()),
          taken(c.taken ? c.path.size() : 0) {}
    Status run(Progress& progress);
    [[nodiscard]] double topOf(const AxisPose& a, const AxisPose& b) const;
    [[nodiscard]] static Profile upTo(Profile p, double top);
    void divide();
    void wayTo(std::size_t location, const AxisPose& a, const AxisPose& b, bool cuts, std::size_t& probe);
    void prepareProbes();
    void ask(const Stripe& stripe, std::size_t probe);
    void prepare(const Sweep& sweep, Ready& out) const;
    void cutStripe(const Stripe& stripe);
    void cutSweep(const Stripe& stripe, const Sweep& sweep, const Ready& r);
    void cutPrism(const Stripe& stripe, const Sweep& sweep, const Ready& r, std::int64_t& went);
    /// @param went  grows by what is taken
    void cutRay(Field& f, int u, int v, float from, float to, std::int64_t& went) const {
        const double mm = f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].cut(from, to, cut.by);
        if (mm > 0.0) went += std::llround(1e6 * mm);
    }
};

double Stock::Remover::topOf(const AxisPose& a, const AxisPose& b) const {
    const Box& box = stock.m_bounds;
    return std::clamp(std::max(heightWithin(box, a.tip, a.axis, profile.radius), heightWithin(box, b.tip, b.axis, profile.radius)) + 2.0 * stock.m_cell,
                      profile.low + 1e-3, profile.high);
}

// What stands out of the stock's box cuts nothing: only the rest of the cutter is swept, and only its turning counts.
Stock::Profile Stock::Remover::upTo(Profile p, double top) {
    std::erase_if(p.frustums, [&](const auto& f) { return f[0] >= top; });
    for (auto& f : p.frustums)
        if (f[2] > top) {
            f[3] = f[1] + (f[3] - f[1]) * (top - f[0]) / (f[2] - f[0]);
            f[2] = top;
        }
    p.high = std::min(p.high, top);
    return p;
}

void Stock::Remover::divide() {
    const Toolpath& path = cut.path;
    const auto takes = [&](std::size_t i) { return cut.everything || (path.motion[i] != Motion::Rapid && path.motion[i] != Motion::Retract); };
    std::size_t probe = 0;
    for (std::size_t i = cut.from; i < std::min(cut.to, path.size()); ++i) {
        const bool asked = cut.watch && probe < cut.watch->probes.size() && cut.watch->probes[probe].location == i;
        if (!takes(i) && !asked) continue;
        const AxisPose b{path.tip[i], path.axis[i]};
        if (i == 0) {
            wayTo(i, b, b, takes(i), probe);
            continue;
        }
        const AxisPose a{path.tip[i - 1], path.axis[i - 1]};
        // Where a stretch begins the cutter stands first; where a path was cut up to here, that takes nothing any more.
        if (takes(i) && (i == cut.from || !takes(i - 1))) sweeps.push_back({a, a, true, false, i});
        wayTo(i, a, b, takes(i), probe);
    }
}

// With the axis still a sweep is exact whatever its length; a turning one is divided until its ends lie within the error. Where something
// is asked on the way, a sweep ends.
void Stock::Remover::wayTo(std::size_t location, const AxisPose& a, const AxisPose& b, bool cuts, std::size_t& probe) {
    const double error = 0.25 * stock.m_cell, longest = std::max(4.0 * profile.radius, 4.0 * stock.m_cell);
    const auto at = [&](double t) { return AxisPose{(1.0 - t) * a.tip + t * b.tip, slerp(a.axis, b.axis, t)}; };
    AxisPose last = a;
    for (double done = 0.0; done < 1.0;) {
        const std::size_t first = probe;
        double next = 1.0;
        if (cut.watch) {
            const auto& probes = cut.watch->probes;
            if (probe < probes.size() && probes[probe].location == location) next = std::clamp(probes[probe].share, done, 1.0);
            while (probe < probes.size() && probes[probe].location == location && probes[probe].share <= next) ++probe;
        }
        if (cuts && (next > done || location == 0)) {
            const AxisPose from = last, to = next < 1.0 ? at(next) : b;
            const int n = std::max(
                1, static_cast<int>(std::ceil(std::max((to.tip - from.tip).norm() / longest, angleBetween(from.axis, to.axis) * topOf(from, to) / (2.0 * error)))));
            for (int k = 1; k <= n; ++k) {
                const double t = static_cast<double>(k) / n;
                const AxisPose end{(1.0 - t) * from.tip + t * to.tip, slerp(from.axis, to.axis, t)};
                sweeps.push_back({last, end, true, location > 0, location});
                last = end;
            }
        } else if (probe > first) {
            sweeps.push_back({last, last, false, false, location});
        }
        if (probe > first) {
            sweeps.back().from = first;
            sweeps.back().to = probe;
        }
        done = next;
    }
}

void Stock::Remover::prepare(const Sweep& s, Ready& r) const {
    r.profile = upTo(profile, topOf(s.a, s.b));
    for (std::size_t k = 0; k < 3; ++k) {
        r.reach[k] = stock.reach(stock.m_fields[k], s.b, r.profile);
        if (!s.moves) continue;
        const auto other = stock.reach(stock.m_fields[k], s.a, r.profile);
        for (const std::size_t c : {0u, 2u}) {
            r.reach[k][c] = std::min(r.reach[k][c], other[c]);
            r.reach[k][c + 1] = std::max(r.reach[k][c + 1], other[c + 1]);
        }
    }
    if (!s.moves) return;
    const Vec3 axis = (s.a.axis + s.b.axis).normalized(), way = s.b.tip - s.a.tip, flat = rejected(way, axis);
    r.length = flat.norm();
    if (r.length < 1e-9) return;
    r.turn.row(0) = flat / r.length;
    r.turn.row(1) = axis.cross(Vec3(r.turn.row(0)));
    r.turn.row(2) = axis;
    r.rise = way.dot(axis) / r.length;
}

// Which rays of a row can meet the prism at all follows from the stock's box: most lie before or behind it.
void Stock::Remover::cutPrism(const Stripe& stripe, const Sweep& s, const Ready& r, std::int64_t& went) {
    Field& f = stock.m_fields[stripe.field];
    const auto& bounds = r.reach[stripe.field];
    const Vec3 d = r.turn.col(f.axis), across = stock.m_cell * r.turn.col((f.axis + 2) % 3);
    const double margin = stock.m_cell; // spans are cut by the whole stretch, not by its part within the hull
    const double dz = d.z() - r.rise * d.x(), widest = r.profile.widest();
    const Clip ahead(d.x()), behind(-d.x()), leftOf(-d.y()), rightOf(d.y()), above(dz), below(-dz);
    thread_local std::vector<SweptFrustum> parts;
    parts.clear();
    for (const auto& part : r.profile.frustums) parts.emplace_back(part, d.y(), dz);
    const double boxFrom = stock.m_bounds.low[f.axis] - margin, boxTo = stock.m_bounds.high[f.axis] + margin;
    for (int u = std::max(stripe.from, bounds[0]); u < std::min(stripe.to, bounds[1]); ++u) {
        const Vec3 first = r.turn * (stock.middle(f, u, 0) - s.a.tip);
        double vFrom = bounds[2], vTo = bounds[3] - 1; // never wider than that
        const auto within = [&](int k, double low, double high) {
            low -= first[k] + std::max(d[k] * boxFrom, d[k] * boxTo);
            high -= first[k] + std::min(d[k] * boxFrom, d[k] * boxTo);
            if (std::abs(across[k]) < 1e-9 * stock.m_cell) return;
            vFrom = std::max(vFrom, std::min(low / across[k], high / across[k]) - 0.01);
            vTo = std::min(vTo, std::max(low / across[k], high / across[k]) + 0.01);
        };
        within(0, 0.0, r.length);
        within(1, -widest, widest);
        const Ray* row = &f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1])];
        if (vFrom > vTo) continue;
        for (int v = static_cast<int>(std::ceil(vFrom)); v <= static_cast<int>(std::floor(vTo)); ++v) {
            const StockSpan left = row[v].hull();
            if (left.to < left.from) continue;
            const Vec3 o = first + v * across;
            double from = static_cast<double>(left.from) - margin, to = static_cast<double>(left.to) + margin;
            if (!ahead(o.x(), from, to) || !behind(r.length - o.x(), from, to) || !leftOf(widest - o.y(), from, to) || !rightOf(widest + o.y(), from, to)) continue;
            const double oz = o.z() - r.rise * o.x(), za = oz + from * dz, zb = oz + to * dz, low = std::min(za, zb), high = std::max(za, zb);
            const auto tell = [&](float a, float b) { cutRay(f, u, v, a, b, went); };
            Joined joined(tell);
            for (const SweptFrustum& part : parts) {
                if (part.high < low || part.low > high) continue;
                double a = from, b = to;
                const double wide = part.radius + part.slope * oz;
                if (above(oz - part.low, a, b) && below(part.high - oz, a, b) && part.left(wide - o.y(), a, b) && part.right(wide + o.y(), a, b)) joined.add(a, b);
            }
            joined.end();
        }
    }
}

void Stock::Remover::cutStripe(const Stripe& stripe) {
    for (std::size_t i = 0; i < sweeps.size(); ++i) {
        const Sweep& s = sweeps[i];
        if (s.cuts) cutSweep(stripe, s, ready[i]);
        for (std::size_t p = s.from; p < s.to; ++p) ask(stripe, p);
    }
}

void Stock::Remover::cutSweep(const Stripe& stripe, const Sweep& s, const Ready& r) {
    Field& f = stock.m_fields[stripe.field];
    const auto& bounds = r.reach[stripe.field];
    if (bounds[0] >= stripe.to || bounds[1] <= stripe.from) return;
    std::int64_t went = 0;
    const auto each = [&](int u, int v, float from, float to) { cutRay(f, u, v, from, to, went); };
    stock.visit(f, s.b, r.profile, stripe.from, stripe.to, each);
    if (s.moves && r.length < 1e-9) { // straight down or up: what lies between is the widest disc's way
        const double down = (s.b.tip - s.a.tip).norm(), step = 0.4 * (r.profile.high - r.profile.low);
        for (double at = step; at < down; at += step) stock.visit(f, {s.a.tip + (s.b.tip - s.a.tip) * (at / down), s.b.axis}, r.profile, stripe.from, stripe.to, each);
    } else if (s.moves) {
        cutPrism(stripe, s, r, went);
    }
    if (went != 0 && cut.taken) taken[s.location].fetch_add(went, std::memory_order_relaxed);
}

void Stock::Remover::prepareProbes() {
    if (!cut.watch) return;
    std::vector<Profile> whole;
    for (const auto& pieces : cut.watch->bodies) whole.push_back(profileOf(pieces, 0.05 * stock.m_cell));
    for (const StockProbe& q : cut.watch->probes) {
        const Profile& body = whole[q.body];
        Probed out{upTo(body, std::clamp(heightWithin(stock.m_bounds, q.pose.tip, q.pose.axis, body.radius) + 2.0 * stock.m_cell, body.low + 1e-3, body.high)),
                   {},
                   toTool(q.pose.axis)};
        for (std::size_t k = 0; k < 3; ++k) out.reach[k] = stock.reach(stock.m_fields[k], q.pose, out.profile);
        probed.push_back(std::move(out));
    }
}

// Along every ray that meets the body the material within it is looked at cell by cell, its ends as well.
void Stock::Remover::ask(const Stripe& stripe, std::size_t probe) {
    const Probed& q = probed[probe];
    const auto& bounds = q.reach[stripe.field];
    if (bounds[0] >= stripe.to || bounds[1] <= stripe.from) return;
    const Field& f = stock.m_fields[stripe.field];
    const AxisPose& pose = cut.watch->probes[probe].pose;
    double deepest = 0.0, highest = 0.0;
    stock.visit(f, pose, q.profile, stripe.from, stripe.to, [&](int u, int v, float from, float to) {
        const Vec3 o = q.turn * (stock.middle(f, u, v) - pose.tip), d = q.turn.col(f.axis);
        f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].each([&](const StockSpan& s) {
            const double low = static_cast<double>(std::max(s.from, from)), high = static_cast<double>(std::min(s.to, to));
            if (high <= low) return;
            const int n = std::max(1, static_cast<int>(std::ceil((high - low) / stock.m_cell)));
            for (int k = 0; k <= n; ++k) {
                const Vec3 p = o + (low + (high - low) * k / n) * d;
                const double radius = std::hypot(p.x(), p.y());
                deepest = std::max(deepest, q.profile.deep(radius, p.z()));
                highest = std::max(highest, q.profile.up(radius, p.z()));
            }
        });
    });
    const auto raise = [](std::atomic<std::int64_t>& kept, double value) {
        const std::int64_t whole = std::llround(1e6 * value);
        for (std::int64_t was = kept.load(); was < whole && !kept.compare_exchange_weak(was, whole);) {
        }
    };
    if (deepest <= 0.0) return;
    raise(deep[probe], deepest);
    raise(up[probe], highest);
}

Status Stock::Remover::run(Progress& progress) {
    if (cut.taken) cut.taken->resize(cut.path.size(), 0.0);
    if (profile.frustums.empty()) return {};
    divide();
    prepareProbes();
    ready.resize(sweeps.size());
    for (std::size_t i = 0; i < sweeps.size(); ++i) prepare(sweeps[i], ready[i]);
    constexpr int kWide = 8;
    for (std::size_t k = 0; k < 3; ++k)
        for (int u = 0; u < stock.m_fields[k].count[0]; u += kWide) stripes.push_back({k, u, std::min(u + kWide, stock.m_fields[k].count[0])});
    if (!parallelFor(
            stripes.size(), 1, [&](std::size_t i) { cutStripe(stripes[i]); }, &progress))
        return cancelledError();
    for (std::size_t i = 0; i < taken.size(); ++i) (*cut.taken)[i] += 1e-6 * static_cast<double>(taken[i].load()) * stock.m_cell * stock.m_cell / 3.0;
    for (std::size_t i = 0; i < deep.size(); ++i) {
        cut.watch->probes[i].deep = 1e-6 * static_cast<double>(deep[i].load());
        cut.watch->probes[i].up = 1e-6 * static_cast<double>(up[i].load());
    }
    return {};
}

Status Stock::remove(const StockCut& cut, Progress& progress) { return Remover(*this, cut).run(progress); }

} // namespace gyre
