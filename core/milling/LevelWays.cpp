#include "milling/LevelWays.h"
#include "milling/Lines.h"
#include <algorithm>
#include <array>
#include <cstdint>
#include <functional>
#include <unordered_map>
#include <unordered_set>

namespace gyre {
namespace {

constexpr double kFree = 1e-4; ///< mm: a tip this much below its lowest height still counts as free

struct Tracer {
    const Dropper& dropper;
    double height, tolerance;

    [[nodiscard]] bool free(const Vec2& p) const { return !dropper.standsAbove(p, height + kFree); }
    /// The last free place on the way from a free one to one that is not, to a quarter of the tolerance.
    [[nodiscard]] Vec2 border(Vec2 in, Vec2 out) const {
        while ((out - in).norm() > 0.25 * tolerance) {
            const Vec2 m = 0.5 * (in + out);
            (free(m) ? in : out) = m;
        }
        return in;
    }
    /// The same where it is likely to lie near `guess`, a share of the way: a few questions around that are enough then.
    [[nodiscard]] Vec2 border(const Vec2& in, const Vec2& out, double guess) const {
        const Vec2 way = out - in;
        double low = 0.0, high = 1.0;
        double by = tolerance / way.norm();
        double at = std::clamp(guess, 0.0, 1.0);
        if (at > low && at < high) {
            const bool first = free(in + at * way);
            (first ? low : high) = at;
            for (at += first ? by : -by; at > low && at < high; at += first ? by : -by) {
                const bool now = free(in + at * way);
                (now ? low : high) = at;
                if (now != first) break;
                by *= 4.0;
            }
        }
        return border(in + low * way, in + high * way);
    }
    /// Adds what lies between a and b, and b. @return false where no free way along the border is found: a is the last good point
    bool between(const Vec2& a, const Vec2& b, std::vector<Vec2>& out, int depth = 0) const { // NOLINT(misc-no-recursion)
        const double length = (b - a).norm();
        constexpr double kNearest = 2e-3;
        if (length < kNearest || depth > 24) {
            out.push_back(b);
            return true;
        }
        const Vec2 m = 0.5 * (a + b), toWall = -leftOf(b - a) / length; // the wall is on the right
        const bool middleFree = free(m);
        // Towards the wall from a free place, away from it from one that is not.
        const Vec2 way = middleFree ? toWall : Vec2(-toWall);
        Vec2 last = m;
        for (double by = 0.5 * tolerance; by <= 0.75 * length; by *= 2.0) {
            const Vec2 next = m + by * way;
            if (free(next) == middleFree) {
                last = next;
                continue;
            }
            const Vec2 q = middleFree ? border(last, next) : border(next, last);
            if ((q - m).norm() <= 0.5 * tolerance) {
                if (!middleFree) out.push_back(q);
                out.push_back(b);
                return true;
            }
            return between(a, q, out, depth + 1) && between(q, b, out, depth + 1);
        }
        if (!middleFree) return false;
        return between(a, m, out, depth + 1) && between(m, b, out, depth + 1); // free all around: a notch between the points
    }
};

} // namespace

namespace {

std::size_t indexOf(const LevelGrid& grid, int i, int j) { return static_cast<std::size_t>(j) * static_cast<std::size_t>(grid.columns) + static_cast<std::size_t>(i); }

/// Sides of the grid that the border of what is free crosses, by their lower end and direction; each is met by one way in and one way out.
struct Borders {
    std::unordered_map<std::uint64_t, std::uint64_t> next;
    std::vector<std::uint64_t> order;
};

Borders bordersOf(const LevelGrid& grid, const std::function<bool(int, int)>& freeAt) {
    Borders out;
    auto& [next, order] = out;
    const auto side = [&](int i, int j, int upward) { return static_cast<std::uint64_t>(indexOf(grid, i, j)) * 2 + static_cast<std::uint64_t>(upward); };
    for (int j = 0; j + 1 < grid.rows; ++j)
        for (int i = 0; i + 1 < grid.columns; ++i) {
            const std::array<bool, 4> in{freeAt(i, j), freeAt(i + 1, j), freeAt(i + 1, j + 1), freeAt(i, j + 1)}; // counter-clockwise
            const std::array<std::uint64_t, 4> sides{side(i, j, 0), side(i + 1, j, 1), side(i, j + 1, 0), side(i, j, 1)};
            // Counter-clockwise around the cell a way leaves where free turns to not free, and came in at the side before where it turned back: the free part
            // lies on its left. Where two cross, free corners stay apart.
            for (int k = 0; k < 4; ++k) {
                if (in[static_cast<std::size_t>(k)] || !in[static_cast<std::size_t>((k + 1) % 4)]) continue; // side k: from not free to free
                int to = (k + 1) % 4;
                while (in[static_cast<std::size_t>((to + 1) % 4)]) to = (to + 1) % 4; // … the next from free to not free
                next[sides[static_cast<std::size_t>(to)]] = sides[static_cast<std::size_t>(k)];
                order.push_back(sides[static_cast<std::size_t>(to)]);
            }
        }
    return out;
}

} // namespace

std::vector<LevelWay> waysAtLevel(const Dropper& dropper, const LevelGrid& grid, double height, double tolerance) {
    const Tracer trace{dropper, height, tolerance};
    const auto freeAt = [&](int i, int j) { return grid.height[indexOf(grid, i, j)] <= height + kFree; };
    auto [next, order] = bordersOf(grid, freeAt);
    // Where a way goes on as it came is where it most likely crosses the next side.
    const auto crossing = [&](std::uint64_t s, const std::vector<Vec2>& before) {
        const int upward = static_cast<int>(s % 2);
        const auto c = static_cast<int>(s / 2);
        const int i = c % grid.columns, j = c / grid.columns;
        const Vec2 a = grid.place(i, j), b = grid.place(i + (upward ? 0 : 1), j + upward);
        const Vec2 in = freeAt(i, j) ? a : b, out = freeAt(i, j) ? b : a;
        if (before.size() < 2) return trace.border(in, out);
        const Vec2 p = before.back(), d = p - before[before.size() - 2], way = out - in;
        const double across = way.x() * d.y() - way.y() * d.x();
        return std::abs(across) > 1e-3 * way.norm() * d.norm() ? trace.border(in, out, ((p - in).x() * d.y() - (p - in).y() * d.x()) / across) : trace.border(in, out);
    };
    // Ways that come in over the grid's edge begin there.
    std::unordered_set<std::uint64_t> entered;
    for (const auto& [from, to] : next) entered.insert(to);
    std::stable_partition(order.begin(), order.end(), [&](std::uint64_t s) { return !entered.count(s); });
    std::vector<LevelWay> out;
    std::unordered_set<std::uint64_t> done;
    for (const std::uint64_t first : order) {
        if (done.count(first)) continue;
        std::vector<Vec2> rough;
        bool closed = false;
        for (std::uint64_t s = first;;) {
            rough.push_back(crossing(s, rough));
            done.insert(s);
            const auto n = next.find(s);
            if (n == next.end()) break; // the grid's edge
            s = n->second;
            if (s == first) {
                closed = true;
                break;
            }
        }
        if (closed) rough.push_back(rough.front());
        LevelWay way{{rough.front()}, closed};
        for (std::size_t i = 1; i < rough.size(); ++i) {
            if (trace.between(rough[i - 1], rough[i], way.points)) continue;
            way.closed = false;
            if (way.points.size() > 1) out.push_back(way);
            way.points = {rough[i]};
        }
        if (way.points.size() > 1) out.push_back(std::move(way));
    }
    for (LevelWay& way : out) {
        for (Vec2& p : way.points) p = dropper.onFaces(p, height);
        if (way.closed) way.points.back() = way.points.front();
    }
    return out;
}

} // namespace gyre
