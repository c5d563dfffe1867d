#include "guided/BesideCurve.h"
#include "base/Units.h"

namespace gyre {
namespace {

constexpr double kCorner = 0.06; ///< rad: turns of the curve in one point beyond this are corners

class Besider {
public:
    Besider(const Row& row, const std::vector<Vec3>& axes, const std::vector<Vec3>& feeds, double aside, double tolerance)
        : m_row(row), m_axes(axes), m_feeds(feeds), m_aside(std::abs(aside)), m_sign(aside < 0.0 ? -1.0 : 1.0), m_tolerance(tolerance) {}
    BesideWays run();

private:
    [[nodiscard]] std::size_t count() const { return m_row.points.size(); }
    [[nodiscard]] Vec3 tip(const BesidePlace& p) const { return p.at + m_aside * p.away; }
    void stations();
    [[nodiscard]] bool enters(const BesidePlace& p) const;
    [[nodiscard]] BesidePlace between(const BesidePlace& a, const BesidePlace& b, double t) const {
        return {a.at + t * (b.at - a.at), slerp(a.normal, b.normal, t), slerp(a.axis, b.axis, t), slerp(a.away, b.away, t)};
    }
    /// The last free place from a free one toward one that enters.
    [[nodiscard]] std::vector<BesideWay> runsBetween(const std::vector<char>& in);
    void joinRuns(const std::vector<BesideWay>& runs, BesideWays& out) const;
    [[nodiscard]] BesidePlace touching(const BesidePlace& free, const BesidePlace& in) const {
        double low = 0.0, high = 1.0;
        for (int round = 0; round < 40; ++round) {
            const double t = 0.5 * (low + high);
            (enters(between(free, in, t)) ? high : low) = t;
        }
        return between(free, in, low);
    }

    const Row& m_row;
    const std::vector<Vec3>&m_axes, &m_feeds;
    double m_aside, m_sign, m_tolerance;
    std::vector<BesidePlace> m_places;
};

// One place for every point; at corners several: turned around outer ones, both directions at inner ones.
void Besider::stations() {
    const std::size_t n = count();
    for (std::size_t i = 0; i < n; ++i) {
        const bool inner = m_row.closed || (i > 0 && i + 1 < n);
        const Vec3 &p = m_row.points[i], &a = m_axes[i];
        const auto away = [&](const Vec3& way) { return Vec3((m_sign * a.cross(way)).normalized()); };
        const auto place = [&](const Vec3& out) { m_places.push_back({p, m_row.normals[i], a, out}); };
        const Vec3 before = inner ? Vec3(rejected(p - m_row.points[(i + n - 1) % n], a)) : m_feeds[i],
                   behind = inner ? Vec3(rejected(m_row.points[(i + 1) % n] - p, a)) : m_feeds[i];
        if (before.norm() < 1e-12 || behind.norm() < 1e-12 || angleBetween(before, behind) < kCorner) {
            place(away(m_feeds[i]));
            continue;
        }
        const Vec3 from = away(before), to = away(behind);
        const bool outer = from.dot(behind) < 0.0; // the curve turns away from the cutter
        const double turn = angleBetween(from, to);
        const int steps = outer ? std::max(2, static_cast<int>(std::ceil(turn / std::sqrt(8.0 * m_tolerance / std::max(0.05, m_aside))))) : 1;
        for (int k = 0; k <= steps; ++k) place(slerp(from, to, static_cast<double>(k) / steps));
    }
}

// Seen along the axis, is any of the curve nearer than the cutter's side?
bool Besider::enters(const BesidePlace& place) const {
    const Vec3 c = tip(place);
    const double least = m_aside - m_tolerance, reach = m_aside * m_aside;
    const std::size_t n = count(), pieces = m_row.closed ? n : n - 1;
    for (std::size_t i = 0; i < pieces; ++i) {
        const Vec3 &p = m_row.points[i], &q = m_row.points[(i + 1) % n];
        const Vec3 way = q - p;
        if ((p - c).squaredNorm() > 4.0 * reach + 2.0 * way.squaredNorm()) continue;
        const Vec3 flatWay = rejected(way, place.axis), flat = rejected(Vec3(c - p), place.axis);
        const double l2 = flatWay.squaredNorm(), t = l2 > 1e-18 ? std::clamp(flat.dot(flatWay) / l2, 0.0, 1.0) : 0.0;
        if (std::abs((p + t * way - c).dot(place.axis)) > m_aside) continue; // another storey of the curve
        if ((flat - t * flatWay).norm() < least) return true;
    }
    return false;
}

// Stretches of the curve where the cutter enters nothing, each up to where it touches.
std::vector<BesideWay> Besider::runsBetween(const std::vector<char>& in) {
    const std::size_t n = in.size();
    // Round closed curves one begins behind a place that is left out.
    std::size_t start = 0;
    if (m_row.closed)
        while (start < n && in[start] == 0) ++start;
    std::vector<BesideWay> runs;
    bool open = false;
    if (n == 0) return {};
    const auto at = [&](std::size_t k) { return (start + k) % n; };
    for (std::size_t k = 0; k < n + (m_row.closed ? 1 : 0); ++k) {
        const std::size_t i = at(k);
        const std::size_t last = at(k + n - 1);
        const bool fromBefore = k > 0 || m_row.closed;
        if (in[i] != 0) {
            if (open) runs.back().places.push_back(touching(m_places[last], m_places[i]));
            open = false;
            continue;
        }
        if (!open) {
            runs.emplace_back();
            if (fromBefore && in[last] != 0) runs.back().places.push_back(touching(m_places[i], m_places[last]));
        }
        open = true;
        runs.back().places.push_back(m_places[i]);
    }
    return runs;
}

// Ends that touch both sides of an inner corner are one place: the way goes on there.
void Besider::joinRuns(const std::vector<BesideWay>& runs, BesideWays& out) const {
    const auto meet = [&](const BesideWay& a, const BesideWay& b) { return (tip(a.places.back()) - tip(b.places.front())).norm() < 0.02 + 4.0 * m_tolerance; };
    for (const BesideWay& r : runs) {
        if (!out.ways.empty() && meet(out.ways.back(), r)) {
            out.corners.push_back(r.places.front().at);
            auto& places = out.ways.back().places;
            places.insert(places.end(), r.places.begin(), r.places.end());
        } else {
            if (!out.ways.empty()) out.corners.push_back(r.places.front().at);
            out.ways.push_back(r);
        }
    }
    if (m_row.closed && !out.ways.empty()) {
        out.corners.push_back(out.ways.front().places.front().at);
        if (out.ways.size() == 1 && meet(out.ways.front(), out.ways.front())) {
            out.ways.front().closed = true;
        } else if (out.ways.size() > 1 && meet(out.ways.back(), out.ways.front())) {
            auto& places = out.ways.back().places;
            places.insert(places.end(), out.ways.front().places.begin(), out.ways.front().places.end());
            out.ways.erase(out.ways.begin());
        }
    }
}

BesideWays Besider::run() {
    BesideWays out;
    stations();
    std::vector<char> in(m_places.size(), 0);
    for (std::size_t i = 0; i < in.size(); ++i) in[i] = enters(m_places[i]) ? 1 : 0;
    if (std::none_of(in.begin(), in.end(), [](char c) { return c != 0; })) {
        out.ways.push_back({m_places, m_row.closed});
        return out;
    }
    const std::vector<BesideWay> runs = runsBetween(in);
    const auto lengthOf = [](const std::vector<BesidePlace>& places) {
        double sum = 0.0;
        for (std::size_t k = 1; k < places.size(); ++k) sum += (places[k].at - places[k - 1].at).norm();
        return sum;
    };
    out.left = lengthOf(m_places) + (m_row.closed ? (m_places.front().at - m_places.back().at).norm() : 0.0);
    for (const BesideWay& r : runs) out.left -= lengthOf(r.places);
    joinRuns(runs, out);
    std::erase_if(out.ways, [](const BesideWay& w) { return w.places.size() < 2; });
    return out;
}

} // namespace

BesideWays waysBeside(const Row& row, const std::vector<Vec3>& axes, const std::vector<Vec3>& feeds, double aside, double tolerance) {
    return Besider(row, axes, feeds, aside, tolerance).run();
}

} // namespace gyre
