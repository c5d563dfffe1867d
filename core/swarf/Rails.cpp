// Walls between two rails: which place of the upper rail belongs to which of the lower one.
#include "base/Units.h"
#include "swarf/Swarf.h"
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr double kCorner = 20.0 * kPi / 180.0; ///< a rail turns so much in one place: a corner of the wall

/// A rail by fractions of its length; of closed ones they go on beyond 0 and 1.
class Rail {
public:
    explicit Rail(const Curve& curve) : m_curve(curve), m_length(curve.length()) {
        double s = 0.0;
        const auto& knots = curve.knots();
        for (std::size_t i = 0; i < knots.size(); ++i) {
            const bool end = !curve.closed() && (i == 0 || i + 1 == knots.size());
            const double turn = end ? 0.0 : angleBetween(knots[i].before, knots[i].after);
            if (turn > kCorner)
                m_corners.push_back({s / m_length, i});
            else if (turn > 1e-3)
                m_faceted = true;
            if (i < curve.pieces()) s += curve.pieceLength(i);
        }
        // What is made of short straight lines has its direction from both neighbours.
        m_blur = m_faceted ? 0.6 / static_cast<double>(std::max<std::size_t>(1, curve.pieces())) : 0.0;
    }
    [[nodiscard]] double length() const { return m_length; }
    [[nodiscard]] Vec3 at(double t) const { return m_curve.at(m_curve.atLength(t * m_length)); }
    /// Unit tangent; at a corner that before or behind it.
    [[nodiscard]] Vec3 along(double t, bool behind) const {
        if (const auto c = cornerAt(t)) return behind ? m_curve.knots()[*c].after : m_curve.knots()[*c].before;
        if (m_faceted) {
            const double low = m_curve.closed() ? t - m_blur : std::max(0.0, t - m_blur), high = m_curve.closed() ? t + m_blur : std::min(1.0, t + m_blur);
            const Vec3 v = at(high) - at(low);
            if (v.norm() > 1e-12) return v.normalized();
        }
        return m_curve.tangent(m_curve.atLength(t * m_length));
    }
    [[nodiscard]] std::optional<std::size_t> cornerAt(double t) const {
        for (const auto& [where, knot] : m_corners)
            if (std::abs(t - where - std::round(t - where)) * m_length < 1e-6 && (m_curve.closed() || std::abs(t - where) < 0.5)) return knot;
        return std::nullopt;
    }
    [[nodiscard]] std::vector<double> corners() const {
        std::vector<double> out;
        for (const auto& c : m_corners) out.push_back(c.first);
        return out;
    }

private:
    const Curve& m_curve;
    double m_length;
    std::vector<std::pair<double, std::size_t>> m_corners; ///< fraction and knot
    bool m_faceted = false;
    double m_blur = 0.0;
};

using Pair = std::array<double, 2>;

/// Finds which places belong together. A line is the better the less its ends' normals differ and the nearer it lies to the part.
class Matcher {
public:
    Matcher(const Rail& a, const Rail& b, bool closed, const MeshTree* surface) : m_a(a), m_b(b), m_closed(closed), m_surface(surface) {
        // Is there a part to lie on at all?
        int near = 0;
        constexpr int kLooks = 9;
        for (int i = 0; i < kLooks && m_surface; ++i) {
            const Vec3 l = m_a.at((i + 0.5) / kLooks), h = m_b.at((i + 0.5) / kLooks);
            const double reach = kFar * (h - l).norm();
            if (m_surface->closest(0.5 * (l + h), reach).distance < reach) ++near;
        }
        if (2 * near < kLooks) m_surface = nullptr;
    }
    [[nodiscard]] Result<std::vector<Pair>> match(const std::vector<Pair>& sync) const;

private:
    static constexpr double kFar = 0.25; ///< of a line's length: further from the part there is no wall to lie on
    [[nodiscard]] double cost(double s, double t) const {
        const Vec3 l = m_a.at(s), h = m_b.at(t), r = h - l;
        const double size = r.norm();
        if (size < 1e-9) return 0.0;
        const Vec3 n0 = m_a.along(s, true).cross(r), n1 = m_b.along(t, true).cross(r);
        const double thin = std::min(n0.norm(), n1.norm()) / size;
        // Off the surface counts as much as the angle it would be seen under, ten times.
        const double off = m_surface ? 20.0 * std::min(kFar, m_surface->closest(0.5 * (l + h), kFar * size).distance / size) : 0.0;
        return angleBetween(n0, n1) + 0.02 * (1.0 / std::max(0.05, thin) - 1.0) + off;
    }
    [[nodiscard]] double beginOfUpper() const;
    [[nodiscard]] Result<std::vector<Pair>> pairsOf(std::vector<Pair> sync) const;
    [[nodiscard]] std::vector<Pair> between(const Pair& from, const Pair& to) const;
    [[nodiscard]] Result<std::vector<Pair>> along(const std::vector<Pair>& pairs) const;

    const Rail &m_a, &m_b;
    bool m_closed;
    const MeshTree* m_surface;
};

// Closed rails: the place of the upper one that belongs to the lower one's start. Of equal ones the nearest.
double Matcher::beginOfUpper() const {
    const auto mean = [&](double o) {
        constexpr int kLooks = 24;
        double sum = 0.0;
        for (int i = 0; i < kLooks; ++i) sum += cost(static_cast<double>(i) / kLooks, static_cast<double>(i) / kLooks + o);
        return sum / kLooks;
    };
    constexpr int kTries = 48;
    double best = 0.0, least = mean(0.0);
    for (int k = 1; k <= kTries / 2; ++k)
        for (const double o : {static_cast<double>(k) / kTries, -static_cast<double>(k) / kTries})
            if (const double m = mean(o); m < 0.8 * least - 1e-6) {
                least = m;
                best = o;
            }
    const auto finest = [](double from, double to, const auto& f) {
        for (int i = 0; i < 40; ++i) {
            const double p = from + (to - from) / 3.0, q = to - (to - from) / 3.0;
            if (f(p) < f(q))
                to = q;
            else
                from = p;
        }
        return 0.5 * (from + to);
    };
    const double refined = finest(best - 1.0 / kTries, best + 1.0 / kTries, mean);
    if (mean(refined) < least - 1e-6) best = refined;
    const double own = finest(best - 0.5 / kTries, best + 0.5 / kTries, [&](double o) { return cost(0.0, o); });
    return cost(0.0, own) < cost(0.0, best) - 1e-6 ? own : best;
}

// Pairs that belong together, from the first to the last: lines drawn by the user, corners with corners, ends with ends.
Result<std::vector<Pair>> Matcher::pairsOf(std::vector<Pair> pairs) const {
    std::sort(pairs.begin(), pairs.end());
    for (const Pair& p : pairs)
        if (p[0] < 0.0 || p[0] > 1.0 || p[1] < 0.0 || p[1] > 1.0) return fail("a sync line lies beyond the end of a rail");
    if (m_closed && pairs.size() > 1 && pairs.back()[0] - pairs.front()[0] > 1.0 - 1e-9) pairs.pop_back(); // the same line once more
    if (m_closed)                                                                                          // the upper places go on over the seam
        for (std::size_t i = 1; i < pairs.size(); ++i)
            while (pairs[i][1] < pairs[i - 1][1] - 1e-12 && pairs[i][1] + 1.0 <= pairs[0][1] + 1.0 + 1e-12) pairs[i][1] += 1.0;
    for (std::size_t i = 1; i < pairs.size(); ++i)
        if (pairs[i][1] < pairs[i - 1][1] ||
            (m_closed && (pairs[i][1] > pairs[0][1] + 1.0 + 1e-12 || pairs[i][1] - pairs[i - 1][1] > pairs[i][0] - pairs[i - 1][0] + 0.5)))
            return fail(fmt::format("sync line {} crosses the one before it", i), {}, "Sync lines must not cross each other");
    const auto ca = m_a.corners(), cb = m_b.corners();
    if (pairs.empty() && !ca.empty() && ca.size() == cb.size()) {
        // As many corners on both rails: they are the same edges of the wall, when they lie about as far along.
        std::size_t shift = 0;
        double least = 1e300;
        for (std::size_t k = 0; k < (m_closed ? cb.size() : 1); ++k) {
            double apart = 0.0;
            for (std::size_t i = 0; i < ca.size(); ++i) apart += (m_a.at(ca[i]) - m_b.at(cb[(i + k) % cb.size()])).norm();
            if (apart < least - 1e-9) {
                least = apart;
                shift = k;
            }
        }
        for (std::size_t i = 0; i < ca.size(); ++i) {
            double t = cb[(i + shift) % cb.size()];
            if (m_closed && i == 0 && t - ca[i] > 0.5) t -= 1.0; // the nearer way round
            while (m_closed && i > 0 && t < pairs.back()[1]) t += 1.0;
            if (!m_closed && std::abs(t - ca[i]) > 0.2) {
                pairs.clear();
                break;
            }
            pairs.push_back({ca[i], t});
        }
    }
    if (m_closed) {
        if (pairs.empty()) pairs.push_back({0.0, beginOfUpper()});
        pairs.push_back({pairs.front()[0] + 1.0, pairs.front()[1] + 1.0});
        return pairs;
    }
    if (pairs.empty() || pairs.front()[0] > 1e-9) pairs.insert(pairs.begin(), {0.0, 0.0});
    if (pairs.back()[0] < 1.0 - 1e-9) pairs.push_back({1.0, 1.0});
    return pairs;
}

// Between two pairs the way of least cost over a grid of both rails, never back (dynamic programming).
std::vector<Pair> Matcher::between(const Pair& from, const Pair& to) const {
    const double longest = std::max(m_a.length(), m_b.length());
    const int all = std::clamp(static_cast<int>(longest / 0.5), 60, m_surface ? 180 : 400);
    const int n = std::max(4, static_cast<int>(all * std::max(to[0] - from[0], to[1] - from[1])));
    const auto s = [&](int i) { return from[0] + (to[0] - from[0]) * i / n; };
    const auto t = [&](int j) { return from[1] + (to[1] - from[1]) * j / n; };
    const auto id = [&](int i, int j) { return static_cast<std::size_t>(i) * static_cast<std::size_t>(n + 1) + static_cast<std::size_t>(j); };
    std::vector<double> sum(static_cast<std::size_t>(n + 1) * static_cast<std::size_t>(n + 1), 1e300);
    std::vector<char> came(sum.size(), 0);
    sum[0] = 0.0;
    // Standing still on one rail is dearer than going on with both: rulings shall not fan out for a trifle.
    constexpr double kStand = 0.015;
    for (int i = 0; i <= n; ++i)
        for (int j = 0; j <= n; ++j) {
            if (i == 0 && j == 0) continue;
            const double here = cost(s(i), t(j));
            const auto attempt = [&](int pi, int pj, double weight, double extra, char way) {
                if (pi < 0 || pj < 0) return;
                const double c = sum[id(pi, pj)] + weight * here * here + extra;
                if (c < sum[id(i, j)]) {
                    sum[id(i, j)] = c;
                    came[id(i, j)] = way;
                }
            };
            attempt(i - 1, j - 1, 1.0, 0.0, 0);
            attempt(i - 1, j, 0.5, 0.5 * kStand * kStand, 1);
            attempt(i, j - 1, 0.5, 0.5 * kStand * kStand, 2);
        }
    std::vector<Pair> way;
    for (int i = n, j = n;;) {
        way.push_back({s(i), t(j)});
        if (i == 0 && j == 0) break;
        const char c = came[id(i, j)];
        if (i == 0)
            --j;
        else if (j == 0)
            --i;
        else {
            if (c != 2) --i;
            if (c != 1) --j;
        }
    }
    std::reverse(way.begin(), way.end());
    return way;
}

// Steps of the grid are evened out, the pairs kept.
std::vector<Pair> evened(const std::vector<Pair>& stairs, const std::vector<Pair>& pairs) {
    std::vector<Pair> out = stairs;
    constexpr std::size_t kReach = 6;
    const auto kept = [&](std::size_t q) {
        return q < stairs.size() &&
               std::any_of(pairs.begin(), pairs.end(), [&](const Pair& p) { return std::abs(stairs[q][0] - p[0]) < 1e-12 && std::abs(stairs[q][1] - p[1]) < 1e-12; });
    };
    for (std::size_t i = 0; i < stairs.size(); ++i) {
        std::size_t room = kReach;
        for (std::size_t k = 0; k <= kReach && room == kReach; ++k)
            if ((i >= k && kept(i - k)) || kept(i + k)) room = k;
        double difference = 0.0;
        std::size_t count = 0;
        for (std::size_t k = i - std::min(i, room); k <= std::min(stairs.size() - 1, i + room); ++k, ++count) difference += stairs[k][0] - stairs[k][1];
        const double sum = stairs[i][0] + stairs[i][1], d = difference / static_cast<double>(count);
        out[i] = {0.5 * (sum + d), 0.5 * (sum - d)};
    }
    return out;
}

Result<std::vector<Pair>> Matcher::match(const std::vector<Pair>& sync) const {
    const auto pairs = pairsOf(sync);
    if (!pairs) return tl::unexpected(pairs.error());
    auto found = along(*pairs);
    if (!found || !m_closed || !sync.empty() || pairs->size() != 2) return found;
    // The pair it began with was a guess, and forced the lines beside it. Half way round they have found their places: once more from there.
    const Pair half = (*found)[found->size() / 2];
    found = along({half, {half[0] + 1.0, half[1] + 1.0}});
    if (!found) return found;
    // It begins where the lower rail does.
    const auto start = std::find_if(found->begin(), found->end(), [](const Pair& p) { return p[0] >= 1.0 - 1e-12; });
    std::vector<Pair> out;
    for (auto it = start; it != found->end(); ++it) out.push_back({(*it)[0] - 1.0, (*it)[1] - 1.0});
    for (auto it = found->begin() + 1; it != start; ++it) out.push_back(*it);
    out.push_back({out.front()[0] + 1.0, out.front()[1] + 1.0});
    return out;
}

Result<std::vector<Pair>> Matcher::along(const std::vector<Pair>& pairs) const {
    double even = 0.0, least = 0.0;
    std::size_t count = 0;
    std::vector<Pair> found, proportional;
    for (std::size_t part = 1; part < pairs.size(); ++part) {
        const Pair from = pairs[part - 1], to = pairs[part];
        if (to[0] - from[0] < 1e-12 && to[1] - from[1] < 1e-12) continue;
        const auto way = between(from, to);
        double sum = 0.0;
        for (const Pair& p : way) sum += cost(p[0], p[1]);
        least += sum / static_cast<double>(way.size());
        constexpr int kSteps = 60;
        sum = 0.0;
        for (int i = 0; i <= kSteps; ++i) {
            const double f = static_cast<double>(i) / kSteps;
            const Pair p{from[0] + f * (to[0] - from[0]), from[1] + f * (to[1] - from[1])};
            sum += cost(p[0], p[1]);
            if (i > 0 || proportional.empty()) proportional.push_back(p);
        }
        even += sum / (kSteps + 1);
        ++count;
        found.insert(found.end(), way.begin() + (found.empty() ? 0 : 1), way.end());
    }
    if (count == 0) return fail("the sync lines leave nothing between them");
    // Least twist is worth its uneven steps where it makes the wall much less twisted: where there are true rulings to be found.
    return least > 0.5 * even ? proportional : evened(found, pairs);
}

} // namespace

Result<Wall> wallOfRails(const Curve& lower, const Curve& upperAsPicked, const std::vector<std::array<double, 2>>& sync, double tolerance, double spacing, double radius,
                         const Part* body) {
    if (lower.pieces() == 0 || upperAsPicked.pieces() == 0) return fail("a lower and an upper rail are needed", {}, "Pick the edges of both");
    const Curve upper = alignedWith(lower, upperAsPicked);
    const Rail a(lower), b(upper);
    if (a.length() < 1e-6 || b.length() < 1e-6) return fail("a rail has no length");
    Wall wall;
    wall.closed = lower.closed() && upper.closed();
    auto match = Matcher(a, b, wall.closed, body ? &body->tree() : nullptr).match(sync);
    if (!match) return tl::unexpected(match.error());
    // Corners are places of their own.
    for (const bool of : {false, true})
        for (const double c : (of ? b : a).corners())
            for (std::size_t i = 1; i < match->size(); ++i) {
                const Pair from = (*match)[i - 1], to = (*match)[i];
                for (const double turns : {-1.0, 0.0, 1.0, 2.0}) {
                    const double where = c + turns;
                    if (where <= from[of] + 1e-9 || where >= to[of] - 1e-9 || (turns != 0.0 && !wall.closed)) continue;
                    const double f = (where - from[of]) / (to[of] - from[of]);
                    match->insert(match->begin() + static_cast<std::ptrdiff_t>(i), {from[0] + f * (to[0] - from[0]), from[1] + f * (to[1] - from[1])});
                    break;
                }
            }
    const auto rulingOf = [&](const Pair& m, bool behind) {
        const Vec3 l = a.at(m[0]), h = b.at(m[1]), r = h - l;
        Ruling out{l, h, a.along(m[0], behind).cross(r), b.along(m[1], behind).cross(r), -1, false};
        out.lowNormal.normalize();
        out.highNormal.normalize();
        return out;
    };
    // As many rulings as tolerance and spacing ask for.
    for (std::size_t i = 0; i < match->size(); ++i) {
        const Pair m = (*match)[i];
        const bool corner = a.cornerAt(m[0]) || b.cornerAt(m[1]);
        if (i > 0) {
            const Pair before = (*match)[i - 1];
            const Ruling from = rulingOf(before, true), to = rulingOf(m, false);
            double steps = 1.0;
            for (const double side : {radius, -radius}) // which one is free is not known yet
                for (const auto& [step, turn] :
                     {std::pair<Vec3, Vec3>{to.low - from.low, to.lowNormal - from.lowNormal}, {to.high - from.high, to.highNormal - from.highNormal}}) {
                    const double sag = 0.125 * (step + side * turn).norm() * turn.norm(); // of the cutter's way over its chord
                    steps = std::max({steps, step.norm() / spacing, std::sqrt(sag / (0.5 * tolerance))});
                }
            const int pieces = static_cast<int>(std::ceil(std::min(steps, 1000.0) - 1e-9));
            for (int k = 1; k < pieces; ++k) {
                const double f = static_cast<double>(k) / pieces;
                wall.rulings.push_back(rulingOf({(1 - f) * before[0] + f * m[0], (1 - f) * before[1] + f * m[1]}, true));
            }
            if (corner && (i + 1 < match->size() || wall.closed)) wall.rulings.push_back(to);
        }
        const bool last = i + 1 == match->size();
        if (!last || !wall.closed) wall.rulings.push_back(rulingOf(m, !last));
    }
    return wall;
}

} // namespace gyre
