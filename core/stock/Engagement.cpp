// The front of the cutter is looked at before it goes on: a place of it cuts where material stands that it will come to two cells further along its
// way. So sides that it runs along keep their exact place, on bends too; what the cutter has made itself lies behind.
#include "stock/Engagement.h"
#include "base/Units.h"
#include "stock/AtFeed.h"
#include <algorithm>

namespace gyre {
namespace {

constexpr double kAhead = 2.0; ///< cells
/// A row of cells beside the point is met by the cutter's round so much earlier that it seems cut already where the round leaves the side by less.
const double kUnclear = std::atan(0.5 / kAhead);

/// A circle of the cutter with the normal of its outline there, by its parts across and along the axis.
struct Ring {
    double z, r, across, along;
};

double radiusAt(const RoundedFrustum& f, double z) {
    const double low = std::max(f.z0, z - f.round), high = std::min(f.z1, z + f.round);
    if (low > high + 1e-12) return -1.0;
    const auto at = [&](double core) {
        const double share = f.z1 > f.z0 ? (core - f.z0) / (f.z1 - f.z0) : 0.0, up = z - core;
        return f.r0 + share * (f.r1 - f.r0) + std::sqrt(std::max(0.0, f.round * f.round - up * up));
    };
    double most = -1.0;
    constexpr int kSteps = 32;
    for (int i = 0; i <= kSteps; ++i) most = std::max(most, at(low + (high - low) * i / kSteps));
    return most;
}
double radiusAt(const std::vector<RoundedFrustum>& pieces, double z) {
    double most = -1.0;
    for (const RoundedFrustum& f : pieces) most = std::max(most, radiusAt(f, z));
    return most;
}

Ring ringAt(const std::vector<RoundedFrustum>& pieces, double z, double low, double high) {
    const double h = 1e-4 * (high - low), up = std::min(high, z + h), down = std::max(low, z - h);
    const double slope = (radiusAt(pieces, up) - radiusAt(pieces, down)) / (up - down), norm = std::hypot(1.0, slope);
    return {z, radiusAt(pieces, z), 1.0 / norm, -slope / norm};
}

class Front {
public:
    Front(const Cutter& cutter, double cell) : m_pieces(cuttingZone(cutter)), m_cell(cell) {
        m_low = 1e300;
        m_high = -1e300;
        for (const RoundedFrustum& f : m_pieces) {
            m_low = std::min(m_low, f.low());
            m_high = std::max(m_high, f.high());
        }
        m_high = std::min(m_high, std::max(cuttingLength(cutter), m_low + 1e-3));
        const double width = cutter.diameter;
        // Its end face, where that is flat.
        if (const double flat = radiusAt(m_pieces, m_low); flat > 1e-6)
            for (const double share : {0.25, 0.5, 0.75, 0.98}) m_rings.push_back({m_low, share * flat, 0.0, -1.0});
        for (double z = m_low + 1e-3 * width; z < m_high;) {
            if (const Ring ring = ringAt(m_pieces, z, m_low, m_high); ring.r > 1e-6) m_rings.push_back(ring);
            z += z < m_low + 0.5 * width ? 0.025 * width : std::max(cell, 0.1 * width);
        }
    }

    /// @param pose  two cells further on
    [[nodiscard]] Engaged at(const Stock& stock, const AxisPose& pose, const Vec3& feed, double tooth) const {
        const Look look(*this, stock, pose, feed);
        constexpr int kCoarse = 24;
        double longest = 0.0, square = 0.0;
        std::vector<std::pair<double, std::size_t>> lengths; // of those that meet something
        std::size_t bottom = 0, top = 0;
        for (std::size_t i = 0; i < m_rings.size(); ++i) {
            const Ring& ring = m_rings[i];
            int met = 0;
            for (int k = 0; k < kCoarse; ++k)
                if (const double s = look.square(ring, 2.0 * kPi * k / kCoarse); s > 0.0) {
                    ++met;
                    square = std::max(square, s);
                }
            if (met == 0) continue; // material may begin higher up, under a lip: all of the flutes are looked at
            lengths.emplace_back(ring.r * met, i);
            longest = std::max(longest, ring.r * met);
            if (lengths.size() == 1) bottom = i;
            top = i;
        }
        if (lengths.empty()) return {};
        // A closer look at some of those that cut most; of nearly equal ones the widest angle counts.
        std::erase_if(lengths, [&](const auto& l) { return l.first < 0.85 * longest; });
        Engaged out;
        constexpr std::size_t kCloser = 8;
        std::vector<std::pair<double, double>> arcs;
        for (std::size_t n = 0, every = (lengths.size() + kCloser - 1) / kCloser; n < lengths.size(); n += every) {
            const Ring& ring = m_rings[lengths[n].second];
            const double arc = look.arc(ring, square);
            arcs.emplace_back(ring.r * arc, arc);
        }
        const double length = std::max_element(arcs.begin(), arcs.end())->first;
        for (const auto& [all, arc] : arcs)
            if (all >= 0.9 * length) out.angle = std::max(out.angle, static_cast<float>(degrees(arc)));
        // Where it begins and ends between two rings.
        const auto end = [&](double in, double off) {
            for (int i = 0; i < 5; ++i) {
                const double z = 0.5 * (in + off);
                const Ring ring = ringAt(m_pieces, z, m_low, m_high);
                bool met = false;
                for (int k = 0; k < kCoarse && !met; ++k) met = look.square(ring, 2.0 * kPi * k / kCoarse) > 0.0;
                (met ? in : off) = z;
            }
            return in;
        };
        const double above = end(m_rings[top].z, top + 1 < m_rings.size() ? m_rings[top + 1].z : m_high);
        const double below = m_rings[bottom].z <= m_low ? m_low : end(m_rings[bottom].z, bottom > 0 ? m_rings[bottom - 1].z : m_low);
        out.deep = static_cast<float>(above - below);
        out.chip = static_cast<float>(tooth * square);
        return out;
    }

private:
    struct Look {
        Look(const Front& of, const Stock& in, const AxisPose& at, const Vec3& along) : front(of), stock(in), pose(at), feed(along) {
            ahead = feed - feed.dot(pose.axis) * pose.axis;
            if (ahead.norm() < 1e-9) ahead = std::abs(pose.axis.x()) < 0.9 ? Vec3::UnitX() : Vec3::UnitY();
            ahead = (ahead - ahead.dot(pose.axis) * pose.axis).normalized();
            side = pose.axis.cross(ahead);
        }
        /// How squarely the cutter goes into what stands at this place of it; 0 where it does not.
        [[nodiscard]] double square(const Ring& ring, double angle) const {
            const Vec3 out = std::cos(angle) * ahead + std::sin(angle) * side;
            const double into = (ring.across * out + ring.along * pose.axis).dot(feed);
            if (into < 1e-3) return 0.0;
            // A quarter of a cell deep, and towards the sides, where walls stand that stay, by the rays of all three directions: rows of cells that
            // run beside the point lie up to half a cell from it.
            const Vec3 p = pose.tip + ring.z * pose.axis + ring.r * out;
            if (stock.depth(p) >= -0.25 * front.m_cell) return 0.0;
            return std::abs(std::sin(angle)) < 0.7 || surely(p) ? into : 0.0;
        }
        [[nodiscard]] bool surely(const Vec3& p) const {
            Vec3 through;
            for (int axis = 0; axis < 3; ++axis) {
                const std::vector<StockSpan> spans = stock.along(axis, p, through);
                if (std::none_of(spans.begin(), spans.end(),
                                 [&](const StockSpan& s) { return p[axis] >= static_cast<double>(s.from) && p[axis] <= static_cast<double>(s.to); }))
                    return false;
            }
            return true;
        }
        /// How much of a ring stands in material. Where the cutter runs along the side that it makes, its round comes so near to that side
        /// that cells do not tell: there it cuts all of the way to the side, or nothing.
        double arc(const Ring& ring, double& most) const {
            constexpr int kFine = 240;
            constexpr double kStep = 2.0 * kPi / kFine;
            const double into = ring.across * feed.dot(ahead), cosine = into > 1e-6 ? -ring.along * feed.dot(pose.axis) / into : 2.0;
            const double side = std::abs(cosine) <= 1.0 ? std::acos(cosine) : 10.0; // none: it cuts all round
            int met = 0;
            double sides = 0.0;
            for (const int way : {1, -1}) {
                bool near = false, last = false;
                double from = side;
                for (int k = way > 0 ? 0 : 1; k < kFine / 2 + (way > 0 ? 1 : 0); ++k) {
                    const double angle = kStep * k, s = square(ring, way * angle);
                    most = std::max(most, s);
                    if (side < kPi && angle <= side && side - angle < kUnclear) {
                        from = std::min(from, angle - 0.5 * kStep);
                        near = near || s > 0.0 || last;
                        continue;
                    }
                    last = s > 0.0;
                    met += last;
                }
                if (near) sides += side - from;
            }
            return std::min(met * kStep + sides, 2.0 * kPi);
        }
        const Front& front;
        const Stock& stock;
        const AxisPose& pose;
        const Vec3& feed;
        Vec3 ahead, side; ///< across the axis, along the feed and square to it
    };
    std::vector<RoundedFrustum> m_pieces;
    double m_cell, m_low = 0.0, m_high = 0.0;
    std::vector<Ring> m_rings; ///< from the end up
};

/// So far along the moves that cut behind a location.
AxisPose furtherOn(const Toolpath& path, std::size_t k, double way) {
    for (; k + 1 < path.size() && atFeed(path, k + 1); ++k) {
        const double length = (path.tip[k + 1] - path.tip[k]).norm();
        if (length >= way) {
            const double t = way / std::max(length, 1e-12);
            return {path.tip[k] + t * (path.tip[k + 1] - path.tip[k]), slerp(path.axis[k], path.axis[k + 1], t)};
        }
        way -= length;
    }
    return {path.tip[k], path.axis[k]};
}

/// The path with places on long moves.
struct Dense {
    Toolpath path;
    std::vector<std::size_t> of;     ///< location that each belongs to
    std::vector<std::size_t> places; ///< in the dense path: looked at before the next one is cut
};

Dense withPlaces(const Toolpath& path, double apart) {
    Dense out;
    double since = 1e300;
    for (std::size_t i = 0; i < path.size(); ++i) {
        const double length = i > 0 ? (path.tip[i] - path.tip[i - 1]).norm() : 0.0;
        if (i > 0 && atFeed(path, i)) {
            if (since >= apart) {
                out.places.push_back(out.path.size() - 1);
                since = 0.0;
            }
            const int parts = std::max(1, static_cast<int>(std::ceil(length / apart)));
            for (int k = 1; k < parts; ++k) {
                const double t = static_cast<double>(k) / parts;
                out.path.push(path.tip[i - 1] + t * (path.tip[i] - path.tip[i - 1]), slerp(path.axis[i - 1], path.axis[i], t), path.motion[i], path.row[i],
                              static_cast<double>(path.feed[i]));
                out.of.push_back(i);
                out.places.push_back(out.path.size() - 1);
            }
            since = parts > 1 ? length / parts : since + length;
        } else
            since = 1e300;
        out.path.push(path.tip[i], path.axis[i], path.motion[i], path.row[i], static_cast<double>(path.feed[i]));
        out.of.push_back(i);
    }
    return out;
}

// Between places it is the more of what it is at both.
void fillBetween(const Toolpath& path, const std::vector<char>& looked, std::vector<Engaged>& at) {
    const auto more = [&](std::size_t i, const Engaged& beside) {
        Engaged& e = at[i];
        e = {std::max(e.angle, beside.angle), std::max(e.deep, beside.deep), std::max(e.chip, beside.chip)};
    };
    for (std::size_t first = 1; first < path.size(); ++first) {
        if (looked[first] || !atFeed(path, first)) continue;
        std::size_t end = first;
        while (end < path.size() && !looked[end] && atFeed(path, end)) ++end;
        const Engaged behind = at[first - 1], ahead = end < path.size() && atFeed(path, end) ? at[end] : Engaged();
        for (; first < end; ++first) {
            more(first, behind);
            more(first, ahead);
        }
    }
}

} // namespace

Result<Engagement> engagement(Stock before, const Toolpath& path, const Cutter& cutter, double spindle, Progress& progress, Places wanted) {
    Engagement out;
    out.cell = before.cell();
    out.at.resize(path.size());
    double way = 0.0;
    for (std::size_t i = 1; i < path.size(); ++i)
        if (atFeed(path, i)) way += (path.tip[i] - path.tip[i - 1]).norm();
    constexpr double kSome = 2000.0;
    out.apart = std::max({0.125 * cutter.diameter, 2.0 * out.cell, wanted == Places::Some ? way / kSome : 0.0});
    const Front front(cutter, out.cell);
    const auto [dense, of, places] = withPlaces(path, out.apart);
    std::vector<char> looked(path.size(), 0);
    std::size_t done = 0;
    for (std::size_t p = 0; p < places.size(); ++p) {
        if (p % 64 == 0) {
            if (progress.cancelled()) return cancelledError();
            progress.report(static_cast<double>(p) / static_cast<double>(places.size()), "Measuring what the cutter stands in");
        }
        const std::size_t k = places[p];
        Progress quiet;
        if (auto ok = before.remove({.path = dense, .cutter = cutter, .from = done, .to = k + 1}, quiet); !ok) return tl::unexpected(ok.error());
        done = k + 1;
        const Vec3 move = dense.tip[k + 1] - dense.tip[k];
        if (move.norm() < 1e-9) continue;
        const AxisPose ahead = furtherOn(dense, k, kAhead * out.cell);
        const std::size_t i = of[k + 1];
        const double tooth = spindle > 0.0 && cutter.flutes > 0 ? static_cast<double>(path.feed[i]) / (spindle * cutter.flutes) : 0.0;
        const Engaged now = front.at(before, ahead, move.normalized(), tooth);
        looked[i] = 1;
        Engaged& kept = out.at[i];
        kept = {std::max(kept.angle, now.angle), std::max(kept.deep, now.deep), std::max(kept.chip, now.chip)};
    }
    fillBetween(path, looked, out.at);
    for (std::size_t i = 0; i < path.size(); ++i) {
        if (out.at[i].angle > out.most.angle) out.most.angle = out.at[out.angleAt = i].angle;
        if (out.at[i].deep > out.most.deep) out.most.deep = out.at[out.deepAt = i].deep;
        if (out.at[i].chip > out.most.chip) out.most.chip = out.at[out.chipAt = i].chip;
    }
    return out;
}

} // namespace gyre
