#include "pattern/Distance.h"
#include "base/Index.h"
#include "base/Units.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>

namespace gyre {
namespace {

constexpr std::uint32_t kNone = 0xffffffffu;
constexpr double kInfinite = std::numeric_limits<double>::infinity();
// What is sooner by less than that is not: in the thinnest triangles, between three points of a line that hardly bends, rounding tells no better.
constexpr double kSooner = 1e-9;

double cross(const Vec2& a, const Vec2& b) { return a.x() * b.y() - a.y() * b.x(); }

/// A piece of a front that enters a triangle over one of its sides. The triangle lies in the plane with that side along x, from 0 on, and its third
/// corner above; what the front comes from lies below.
struct Window {
    std::uint32_t triangle;
    std::uint8_t corner; ///< the side is the one opposite to it
    bool straight;       ///< parallel rays along `from`; else rays out of the point `from`
    double low, high;    ///< stretch of the side
    double before;       ///< length of the way that the front has behind it where `from` is; of straight ones where x and y are 0
    Vec2 from;
    double least; ///< shortest way to the stretch
    [[nodiscard]] double at(const Vec2& p) const { return straight ? before + from.dot(p) : before + (p - from).norm(); }
    [[nodiscard]] Vec2 rayAt(const Vec2& p) const { return straight ? from : Vec2(p - from); }
    [[nodiscard]] double leastOn() const {
        if (straight) return std::min(at({low, 0.0}), at({high, 0.0}));
        return at({std::clamp(from.x(), low, high), 0.0});
    }
};

class Fronts {
public:
    Fronts(const std::vector<Vec3>& points, const std::vector<std::array<std::uint32_t, 3>>& triangles)
        : m_points(points), m_triangles(triangles), m_across(triangles.size(), {kNone, kNone, kNone}), m_best(triangles.size()), m_distance(points.size(), kInfinite),
          m_bends(points.size(), 0), m_spread(points.size(), kInfinite), m_around(points.size()), m_arrival(points.size()) {
        connect();
        findBends();
    }

    Status run(const std::vector<std::vector<std::uint32_t>>& lines, const Progress* progress) {
        start(lines);
        const std::size_t most = 400 * m_triangles.size() + 100000;
        std::size_t done = 0;
        while (!m_queue.empty()) {
            if (++done % 4096 == 0 && progress && progress->cancelled()) return tl::unexpected(Error{{}, {}, {}, true});
            if (done > most) return fail("the distances along these faces branch too often", "Pattern", "Use fewer faces, or rows between rails");
            const Entry e = m_queue.top();
            m_queue.pop();
            if (e.window == kNone)
                spread(e.point, e.least);
            else
                advance(e.window);
        }
        return {};
    }
    [[nodiscard]] std::vector<double> take() { return std::move(m_distance); }
    /// At each point, how the way that was first there goes on.
    [[nodiscard]] std::vector<Vec3> ways() const {
        std::vector<Vec3> out(m_points.size(), Vec3::Zero());
        for (std::size_t p = 0; p < out.size(); ++p) {
            if (!(m_distance[p] > 0.0) || std::isinf(m_distance[p])) continue;
            const Arrival& from = m_arrival[p];
            if (from.neighbour != kNone) {
                out[p] = (m_points[p] - m_points[from.neighbour]).normalized();
                continue;
            }
            const auto& ids = m_triangles[from.triangle];
            const std::size_t corner = ids[0] == p ? 0 : ids[1] == p ? 1 : 2;
            const Vec3 first = (m_points[ids[(corner + 1) % 3]] - m_points[p]).normalized();
            const Vec3 aside = rejected(m_points[ids[(corner + 2) % 3]] - m_points[p], first).normalized();
            out[p] = -(std::cos(from.angle) * first + std::sin(from.angle) * aside);
        }
        return out;
    }

private:
    struct Entry {
        double least;
        std::uint32_t window, point;
        bool operator<(const Entry& other) const {
            return least != other.least ? least > other.least : window != other.window ? window > other.window : point > other.point;
        }
    };
    /// Where a way comes to a point from: through a triangle, at an angle from its first side there, or along the side from another point.
    struct Arrival {
        std::uint32_t triangle = kNone, neighbour = kNone;
        double angle = 0.0;
    };
    [[nodiscard]] static double angleOf(const Vec2& a, const Vec2& b) { return std::atan2(std::abs(cross(a, b)), a.dot(b)); }
    /// The window that has reached a triangle's corner first, over the side opposite to it: of all that cover the corner it alone can go on over both
    /// other sides.
    struct Best {
        std::array<double, 3> distance{kInfinite, kInfinite, kInfinite};
        std::array<Vec2, 3> ray{Vec2::Zero(), Vec2::Zero(), Vec2::Zero()};
    };

    void connect() {
        struct Side {
            std::uint64_t key;
            std::uint32_t triangle;
            std::uint8_t corner;
        };
        std::vector<Side> sides;
        for (std::uint32_t t = 0; t < m_triangles.size(); ++t)
            for (std::uint8_t c = 0; c < 3; ++c) {
                sides.push_back({pairKey(m_triangles[t][(c + 1u) % 3], m_triangles[t][(c + 2u) % 3]), t, c});
                m_around[m_triangles[t][c]].push_back({t, c});
            }
        std::sort(sides.begin(), sides.end(), [](const Side& a, const Side& b) { return a.key != b.key ? a.key < b.key : a.triangle < b.triangle; });
        for (std::size_t i = 0; i < sides.size();) {
            std::size_t end = i + 1;
            while (end < sides.size() && sides[end].key == sides[i].key) ++end;
            const auto ids = [&](const Side& s) { return m_triangles[s.triangle][(s.corner + 1u) % 3]; };
            if (end - i == 2 && ids(sides[i]) != ids(sides[i + 1])) { // they turn the same way round
                m_across[sides[i].triangle][sides[i].corner] = sides[i + 1].triangle;
                m_across[sides[i + 1].triangle][sides[i + 1].corner] = sides[i].triangle;
            } else {
                for (std::size_t k = i; k < end; ++k)
                    for (std::uint8_t d = 1; d < 3; ++d) m_bends[m_triangles[sides[k].triangle][(sides[k].corner + d) % 3u]] = 1;
            }
            i = end;
        }
    }

    // A shortest way bends only where there is more than a full turn around a point, and along a border.
    void findBends() {
        std::vector<double> turn(m_points.size(), 0.0);
        for (const auto& t : m_triangles)
            for (std::size_t c = 0; c < 3; ++c) {
                const Vec3 a = m_points[t[(c + 1) % 3]] - m_points[t[c]], b = m_points[t[(c + 2) % 3]] - m_points[t[c]];
                turn[t[c]] += std::atan2(a.cross(b).norm(), a.dot(b));
            }
        for (std::size_t i = 0; i < turn.size(); ++i)
            if (turn[i] > 2.0 * kPi + 1e-7) m_bends[i] = 1;
    }

    void start(const std::vector<std::vector<std::uint32_t>>& lines) {
        for (const auto& line : lines)
            for (std::size_t i = 1; i < line.size(); ++i) m_sources.push_back(pairKey(line[i - 1], line[i]));
        std::sort(m_sources.begin(), m_sources.end());
        for (const auto& line : lines)
            for (const std::uint32_t p : line) offer(p, 0.0, true, {});
        for (std::uint32_t t = 0; t < m_triangles.size(); ++t)
            for (std::uint8_t c = 0; c < 3; ++c) {
                const auto a = m_triangles[t][(c + 1u) % 3], b = m_triangles[t][(c + 2u) % 3];
                if (isSource(a, b)) push({t, c, true, 0.0, (m_points[b] - m_points[a]).norm(), 0.0, Vec2(0.0, 1.0), 0.0});
            }
    }

    /// @param arrival  from where the way comes
    void offer(std::uint32_t point, double distance, bool source, const Arrival& arrival) {
        if (distance >= m_distance[point]) return;
        m_distance[point] = distance;
        m_arrival[point] = arrival;
        if (m_bends[point] || source) m_queue.push({distance, kNone, point});
    }

    void push(Window w) {
        if (!(w.high > w.low)) return;
        w.least = w.leastOn();
        // Does a way over one of the side's ends reach all of the stretch sooner? Then nothing beyond depends on it.
        const auto a = m_triangles[w.triangle][(w.corner + 1u) % 3], b = m_triangles[w.triangle][(w.corner + 2u) % 3];
        const double side = (m_points[b] - m_points[a]).norm(), hair = kSooner * (1.0 + w.least);
        if (m_distance[a] + w.high < w.at({w.high, 0.0}) - hair || m_distance[b] + side - w.low < w.at({w.low, 0.0}) - hair) return;
        std::uint32_t slot = 0;
        if (m_free.empty()) {
            slot = static_cast<std::uint32_t>(m_windows.size());
            m_windows.push_back(w);
        } else {
            slot = m_free.back();
            m_free.pop_back();
            m_windows[slot] = w;
        }
        m_queue.push({w.least, slot, 0});
    }

    /// A triangle at a point, and between which angles around the point it lies.
    struct Slice {
        std::uint32_t triangle;
        std::uint8_t corner;
        double from, to;
    };
    /// Around a point, counted from one triangle to its neighbour; empty where they are no single fan.
    [[nodiscard]] std::vector<Slice> fanOf(std::uint32_t point, bool& closed) const {
        const auto& around = m_around[point];
        const auto first = [&](const auto& s) { return m_triangles[s.first][(s.second + 1u) % 3]; };
        const auto second = [&](const auto& s) { return m_triangles[s.first][(s.second + 2u) % 3]; };
        const auto follows = [&](std::uint32_t side, const auto& s) { return first(s) == side; };
        std::size_t at = 0;
        closed = true;
        for (std::size_t i = 0; i < around.size(); ++i)
            if (std::none_of(around.begin(), around.end(), [&](const auto& s) { return second(s) == first(around[i]); })) {
                at = i;
                closed = false;
            }
        std::vector<Slice> fan;
        double angle = 0.0;
        while (fan.size() < around.size()) {
            const auto& s = around[at];
            const Vec3 a = m_points[first(s)] - m_points[point], b = m_points[second(s)] - m_points[point];
            const double wide = std::atan2(a.cross(b).norm(), a.dot(b));
            fan.push_back({s.first, s.second, angle, angle + wide});
            angle += wide;
            const auto next = std::find_if(around.begin(), around.end(), [&](const auto& n) { return follows(second(s), n); });
            if (next == around.end()) break;
            at = static_cast<std::size_t>(next - around.begin());
        }
        return fan.size() == around.size() ? fan : std::vector<Slice>{};
    }

    // From a point that ways bend at: along all sides, and as rays over the opposite sides of its triangles. What leaves a corner of a line is no
    // nearer than a right angle to either of its sides there: that far the straight fronts are first. Elsewhere a shortest way leaves with at least half
    // a turn to either side of where it came from.
    void spread(std::uint32_t point, double distance) {
        if (distance > m_distance[point] || distance >= m_spread[point]) return;
        m_spread[point] = distance;
        bool closed = false;
        const auto fan = fanOf(point, closed);
        std::vector<double> lines; // at which angles they leave, or the way comes
        const Arrival& from = m_arrival[point];
        const double apart = distance == 0.0 ? 0.5 * kPi - 1e-9 : kPi - 1e-6;
        for (const Slice& s : fan) {
            if (distance > 0.0) {
                if (s.triangle == from.triangle) lines.push_back(s.from + from.angle);
                if (from.neighbour != kNone && from.neighbour == m_triangles[s.triangle][(s.corner + 1u) % 3]) lines.push_back(s.from);
                if (from.neighbour != kNone && !closed && &s == &fan.back() && from.neighbour == m_triangles[s.triangle][(s.corner + 2u) % 3]) lines.push_back(s.to);
                continue;
            }
            if (isSource(point, m_triangles[s.triangle][(s.corner + 1u) % 3])) lines.push_back(s.from);
            if (!closed && &s == &fan.back() && isSource(point, m_triangles[s.triangle][(s.corner + 2u) % 3])) lines.push_back(s.to);
        }
        if (lines.empty())
            for (const auto& [t, c] : m_around[point]) spreadInto(t, c, point, distance, 0.0, 1e300);
        for (const Slice& s : lines.empty() ? std::vector<Slice>{} : fan) {
            // What the lines leave of the slice, a stretch after the other.
            std::vector<std::pair<double, double>> taken;
            for (const double l : lines)
                for (const double shift : {0.0, -fan.back().to, fan.back().to})
                    if (shift == 0.0 || closed) taken.emplace_back(l + shift - apart, l + shift + apart);
            std::sort(taken.begin(), taken.end());
            double free = s.from;
            for (const auto& [low, high] : taken) {
                if (low > free && low > s.from) spreadInto(s.triangle, s.corner, point, distance, free - s.from, std::min(low, s.to) - s.from);
                free = std::max(free, high);
                if (free >= s.to) break;
            }
            if (free < s.to) spreadInto(s.triangle, s.corner, point, distance, free - s.from, s.to - s.from);
        }
        for (const auto& [t, c] : m_around[point])
            for (const unsigned k : {1u, 2u}) {
                const auto other = m_triangles[t][(c + k) % 3];
                offer(other, distance + (m_points[other] - m_points[point]).norm(), false, {kNone, point, 0.0});
            }
    }

    // Between two angles, counted from the triangle's first side there.
    void spreadInto(std::uint32_t t, std::uint8_t c, std::uint32_t point, double distance, double fromAngle, double toAngle) {
        const std::uint32_t beyond = m_across[t][c];
        if (beyond == kNone || !(toAngle > fromAngle)) return;
        const auto a = m_triangles[t][(c + 1u) % 3], b = m_triangles[t][(c + 2u) % 3];
        const auto entry = enter(beyond, t, c);
        const double side = entry.second;
        // The side runs from b to a where it is entered.
        const Vec3 x = (m_points[a] - m_points[b]) / side, to = m_points[point] - m_points[b], out = m_points[a] - m_points[point];
        const double along = to.dot(x), below = (to - along * x).norm(), whole = std::atan2(out.cross(-to).norm(), out.dot(-to));
        // A ray that leaves the first side by an angle stands by `lean` off the perpendicular; towards a it leans to greater x.
        const double first = std::atan2(side - along, below);
        const auto meets = [&](double angle) { return std::clamp(along + below * std::tan(std::clamp(first - angle, -1.5707, 1.5707)), 0.0, side); };
        push({beyond, entry.first, false, toAngle >= whole ? 0.0 : meets(toAngle), fromAngle <= 0.0 ? side : meets(fromAngle), distance, Vec2(along, -below), 0.0});
    }

    [[nodiscard]] bool isSource(std::uint32_t a, std::uint32_t b) const { return std::binary_search(m_sources.begin(), m_sources.end(), pairKey(a, b)); }

    /// By which corner's side a triangle is entered over another's side, and how long that is.
    [[nodiscard]] std::pair<std::uint8_t, double> enter(std::uint32_t triangle, std::uint32_t from, std::uint8_t corner) const {
        const auto a = m_triangles[from][(corner + 1u) % 3], b = m_triangles[from][(corner + 2u) % 3];
        std::uint8_t entered = 0;
        while (entered < 2 && (m_triangles[triangle][entered] == a || m_triangles[triangle][entered] == b)) ++entered;
        return {entered, (m_points[b] - m_points[a]).norm()};
    }

    // Through the triangle and over its two other sides.
    void advance(std::uint32_t slot) {
        const Window w = m_windows[slot];
        m_free.push_back(slot);
        if (!w.straight && w.from.y() > -1e-12) return; // it runs along the side
        const auto& ids = m_triangles[w.triangle];
        const std::uint32_t i = ids[(w.corner + 1u) % 3], j = ids[(w.corner + 2u) % 3], top = ids[w.corner];
        const Vec3 x = m_points[j] - m_points[i], up = m_points[top] - m_points[i];
        const double side = x.norm(), px = up.dot(x) / side;
        const Vec2 p(px, (up - px / side * x).norm()), low(w.low, 0.0), high(w.high, 0.0), lowRay = w.rayAt(low), highRay = w.rayAt(high);
        const double scale = 1e-12 * (1.0 + p.norm()) * (1.0 + std::max(lowRay.norm(), highRay.norm()));
        // On which side of the corner do the outer rays pass?
        const bool lowLeft = cross(lowRay, p - low) <= scale, highRight = cross(highRay, p - high) >= -scale;
        bool left = lowLeft, right = highRight;
        if (left && right) {
            const double d = w.at(p), hair = 1e-12 * (1.0 + d);
            const Vec2 ray = w.rayAt(p).normalized();
            Best& best = m_best[w.triangle];
            if (d < best.distance[w.corner] - hair) {
                best.distance[w.corner] = d;
                best.ray[w.corner] = ray;
                offer(top, d, false, {w.triangle, kNone, angleOf(-p, -ray)});
            } else if (d > best.distance[w.corner] + hair) {
                // Of another that is at the corner sooner: what comes from its left can be first on the left side only.
                const double turn = cross(ray, best.ray[w.corner]);
                left = turn >= 0.0;
                right = turn <= 0.0;
            }
        }
        const Vec2 first(0.0, 0.0), second(side, 0.0);
        if (left) leave(w, first, p, static_cast<std::uint8_t>((w.corner + 2u) % 3), &lowRay, highRight ? nullptr : &highRay, {j, second, true});
        if (right) leave(w, p, second, static_cast<std::uint8_t>((w.corner + 1u) % 3), lowLeft ? nullptr : &lowRay, &highRay, {i, first, false});
    }

    /// The end of the side that was come in over which the side that is left over does not have.
    struct Behind {
        std::uint32_t point;
        Vec2 at;
        bool sharesLow; ///< the corner that both sides share is the low end of the one that is left over
    };
    // Over the side opposite to `corner`, from `a` to `b` as the triangle beyond has it. A ray that passes the corner on its other side is null.
    void leave(const Window& w, const Vec2& a, const Vec2& b, std::uint8_t corner, const Vec2* lowRay, const Vec2* highRay, const Behind& behind) {
        const std::uint32_t beyond = m_across[w.triangle][corner];
        if (beyond == kNone) return;
        const auto entry = enter(beyond, w.triangle, corner);
        const double side = entry.second;
        const Vec2 x = (b - a) / side, y(-x.y(), x.x());
        const auto meets = [&](const Vec2* ray, double from, double otherwise) {
            const double along = ray ? cross(*ray, x) : 0.0;
            return !ray || std::abs(along) < 1e-14 * ray->norm() ? otherwise : std::clamp(cross(*ray, Vec2(from, 0.0) - a) / along, 0.0, side);
        };
        Window next{beyond, entry.first, w.straight, meets(lowRay, w.low, 0.0), meets(highRay, w.high, side), w.before, Vec2::Zero(), 0.0};
        if (w.straight) {
            next.before += w.from.dot(a);
            next.from = Vec2(w.from.dot(x), w.from.dot(y));
        } else {
            next.from = Vec2((w.from - a).dot(x), (w.from - a).dot(y));
        }
        // All these ways cross the straight line from the point behind to that end of the stretch which lies next to the corner that both sides share: if the end
        // is reached sooner from there, so is where they cross, and all that comes after.
        const Vec2 end(behind.sharesLow ? next.low : next.high, 0.0);
        const double there = next.at(end);
        if (m_distance[behind.point] + (a + end.x() * x - behind.at).norm() < there - kSooner * (1.0 + there)) return;
        push(next);
    }

    const std::vector<Vec3>& m_points;
    const std::vector<std::array<std::uint32_t, 3>>& m_triangles;
    std::vector<std::array<std::uint32_t, 3>> m_across; ///< by the corner opposite to the side
    std::vector<Best> m_best;
    std::vector<double> m_distance;
    std::vector<char> m_bends;
    std::vector<std::uint64_t> m_sources; ///< sides of the lines, sorted
    std::vector<double> m_spread;         ///< the distance that rays went out from a point with
    std::vector<std::vector<std::pair<std::uint32_t, std::uint8_t>>> m_around;
    std::vector<Arrival> m_arrival;
    std::vector<Window> m_windows;
    std::vector<std::uint32_t> m_free;
    std::priority_queue<Entry> m_queue;
};

} // namespace

Result<std::vector<double>> distancesFrom(const std::vector<Vec3>& points, const std::vector<std::array<std::uint32_t, 3>>& triangles,
                                          const std::vector<std::vector<std::uint32_t>>& lines, const Progress* progress, std::vector<Vec3>* ways) {
    Fronts fronts(points, triangles);
    if (auto ok = fronts.run(lines, progress); !ok) return tl::unexpected(ok.error());
    if (ways) *ways = fronts.ways();
    return fronts.take();
}

} // namespace gyre
