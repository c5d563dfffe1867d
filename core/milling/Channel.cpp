#include "milling/Channel.h"
#include "base/Units.h"
#include "milling/Lines.h"
#include "milling/Steady.h"
#include <algorithm>
#include <cmath>

namespace gyre {

namespace {

struct Room {
    Vec2 middle = Vec2::Zero();
    double radius = 0.0; ///< all within is allowed
};

class Looper {
public:
    Looper(const Region& allowed, const Region& cleared, const ChannelSpec& spec) : m_allowed(allowed), m_cleared(cleared), m_spec(spec) {
        // Loops nearer to each other than a fiftieth of the radius are not worth their time.
        m_narrowest = spec.radius / 12.0;
        while (m_narrowest < widest() && stepOf(m_narrowest) < 0.02 * spec.radius) m_narrowest += 0.01 * spec.radius;
    }

    ChannelWay run(const Vec2& from, Vec2 ahead, const Progress& progress) {
        Room at = roomAt(from, ahead);
        if (at.radius >= widest()) return {}; // no channel: fronts do better
        // Back to where nothing is met.
        double back = at.radius;
        for (; back < 4.0 * m_spec.radius; back += 0.1 * m_spec.radius) {
            at = roomAt(from - back * ahead, ahead);
            const double room = at.radius < narrowest() ? 0.0 : at.radius;
            if (m_allowed.contains(at.middle) && m_cleared.contains(at.middle) && m_cleared.distanceToBorder(at.middle) > room + m_spec.radius - 0.01 - 3.0 * m_spec.fine)
                break;
        }
        if (back >= 4.0 * m_spec.radius) return {};
        m_out.way.push_back(beginOf(at, ahead)); // there nothing stands
        m_out.angle.push_back(0.0);
        lookAround(at.middle);
        for (int n = 0; n < 20000 && !progress.cancelled(); ++n) {
            if ((at.middle - m_nearAt).norm() > 2.0 * m_spec.radius) lookAround(at.middle);
            const RimContact standing = rim();
            const Room next = nextOf(at, ahead, standing);
            const Vec2 moved = foremost(next, ahead) - foremost(at, ahead);
            if (moved.dot(ahead) < 0.004 * m_spec.radius) break;
            if (!m_allowed.containsWay(m_out.way.back(), beginOf(next, ahead))) break;
            take(next, ahead, standing);
            const Vec2 turn = next.middle - at.middle;
            at = next;
            if (turn.norm() > 1e-6) ahead = (ahead + turn.normalized()).normalized(); // evens out what the walls' corners do to it
            if (at.radius >= widest() || nothingAhead(at, ahead)) break;
        }
        m_out.cleared = united(m_out.cleared, m_taken);
        return std::move(m_out);
    }

private:
    [[nodiscard]] double widest() const { return 0.9 * m_spec.radius; }
    [[nodiscard]] double narrowest() const { return m_narrowest; }
    /// A hair smaller than the cutter: what is cleared may be off by as much.
    [[nodiscard]] RimContact rim() const { return RimContact(m_near, m_spec.radius - 0.5 * m_spec.fine); }
    /// How far apart loops of this radius lie: the formula solved for p.
    [[nodiscard]] double stepOf(double room) const {
        const double r = m_spec.radius, c = r * std::cos(kRoom * m_spec.angle);
        return -c + std::sqrt(c * c + room * (room + 2.0 * r)) - room;
    }
    /// What is cleared, as far as it matters next: a channel may be long.
    void lookAround(const Vec2& at) {
        m_out.cleared = united(m_out.cleared, m_taken);
        m_cleared = united(m_cleared, m_taken);
        m_taken = {};
        m_nearAt = at;
        const Vec2 far = Vec2::Constant(6.0 * m_spec.radius), a = at - far, b = at + far;
        m_near = common(m_cleared, {{{a, Vec2(b.x(), a.y()), b, Vec2(a.x(), b.y())}}});
    }
    /// Where it is entered: at its back; straight ahead in its middle.
    [[nodiscard]] Vec2 beginOf(const Room& r, const Vec2& ahead) const { return r.radius < narrowest() ? r.middle : Vec2(r.middle - r.radius * ahead); }
    [[nodiscard]] Vec2 foremost(const Room& r, const Vec2& ahead) const { return r.radius < narrowest() ? r.middle : Vec2(r.middle + r.radius * ahead); }

    /// Half way between the walls beside a place, and how far it is from there to the nearest border.
    [[nodiscard]] Room roomAt(const Vec2& place, const Vec2& ahead) const {
        const Vec2 side = leftOf(ahead);
        const double far = 2.0 * m_spec.radius;
        Vec2 p = place;
        if (!m_allowed.contains(p)) p = m_allowed.nearestOnBorder(p);
        const auto reach = [&](const Vec2& way) {
            if (m_allowed.containsWay(p, p + far * way)) return far;
            double in = 0.0, out = far;
            while (out - in > 1e-4) {
                const double middle = 0.5 * (in + out);
                (m_allowed.containsWay(p, p + middle * way) ? in : out) = middle;
            }
            return in;
        };
        const double left = reach(side), right = reach(-side);
        const Vec2 middle = p + 0.5 * (left - right) * side;
        return {middle, m_allowed.contains(middle) ? std::min(widest(), m_allowed.distanceToBorder(middle)) : 0.0};
    }

    [[nodiscard]] Line circle(const Room& room, const Vec2& ahead) const {
        const int n = std::max(36, static_cast<int>(std::ceil(2.0 * kPi * room.radius / (0.1 * m_spec.radius))));
        Line out;
        for (int i = 0; i <= n; ++i) {
            const double a = (m_spec.climb ? 1.0 : -1.0) * 2.0 * kPi * (i % n) / n;
            const Vec2 back = -room.radius * ahead;
            out.push_back(room.middle + Vec2(std::cos(a) * back.x() - std::sin(a) * back.y(), std::sin(a) * back.x() + std::cos(a) * back.y()));
        }
        return out;
    }
    /// The most of the rim that is met on the way around, rad.
    [[nodiscard]] double met(const Room& room, const Vec2& ahead, const RimContact& standing, std::vector<double>* each = nullptr) const {
        const Line way = room.radius < narrowest() ? Line{room.middle} : circle(room, ahead);
        double most = 0.0;
        std::vector<Vec2> own;
        for (std::size_t i = 0; i < way.size(); ++i) {
            own.clear();
            for (const std::size_t b : {1u, 2u, 3u, 5u, 8u, 12u})
                if (b <= i) own.push_back(way[i - b]);
            // What the last place had no part in yet, and half of the turn since: around a circle, not its corners.
            const double lag = i > 0 ? std::asin(std::min(1.0, 0.5 * (way[i] - way[i - 1]).norm() / m_spec.radius)) + kPi / static_cast<double>(way.size() - 1) : 0.0;
            const double angle = std::max(0.0, standing.engaged(way[i], own) - lag);
            if (each) each->push_back(angle);
            most = std::max(most, angle);
        }
        return most;
    }
    [[nodiscard]] Room nextOf(const Room& at, const Vec2& ahead, const RimContact& standing) const {
        if (at.radius < narrowest()) return roomAt(at.middle + 0.1 * m_spec.radius * ahead, ahead);
        double in = 0.0, out = 2.0 * at.radius;
        const auto fits = [&](double p) {
            const Room r = roomAt(at.middle + p * ahead, ahead);
            return r.radius >= narrowest() && met(r, ahead, standing) <= kRoom * m_spec.angle;
        };
        if (fits(out)) return roomAt(at.middle + out * ahead, ahead);
        for (int i = 0; i < 9; ++i) {
            const double middle = 0.5 * (in + out);
            (fits(middle) ? in : out) = middle;
        }
        // Where the channel becomes too narrow for loops it goes on straight.
        if (const Room further = roomAt(at.middle + 0.1 * m_spec.radius * ahead, ahead); in < 0.01 * m_spec.radius && further.radius < narrowest()) return further;
        return roomAt(at.middle + in * ahead, ahead);
    }
    [[nodiscard]] bool nothingAhead(const Room& at, const Vec2& ahead) const {
        const RimContact standing = rim();
        const Room further = roomAt(foremost(at, ahead) + 0.3 * m_spec.radius * ahead, ahead);
        return met({further.middle, 0.0}, ahead, standing) < 1e-3 && (further.middle - at.middle).norm() > 0.1 * m_spec.radius;
    }
    void take(const Room& room, const Vec2& ahead, const RimContact& standing) {
        Line covered;
        if (room.radius < narrowest()) {
            m_out.way.push_back(room.middle);
            m_out.angle.push_back(met(room, ahead, standing));
            covered = {m_out.way.size() > 1 ? m_out.way[m_out.way.size() - 2] : room.middle, room.middle};
        } else {
            covered = circle(room, ahead);
            m_out.way.insert(m_out.way.end(), covered.begin(), covered.end());
            (void)met(room, ahead, standing, &m_out.angle);
        }
        const Region taken = aroundLines({covered}, m_spec.radius, m_spec.fine);
        m_taken = united(m_taken, taken);
        m_near = fewerPoints(united(m_near, taken), 0.2 * m_spec.fine);
    }

    static constexpr double kRoom = 1.05; ///< of the wanted angle: where the next loop may come to

    const Region& m_allowed;
    Region m_cleared, m_near, m_taken; ///< before; around the present place; since that was looked at
    Vec2 m_nearAt = Vec2::Zero();
    double m_narrowest = 0.0;
    const ChannelSpec& m_spec;
    ChannelWay m_out;
};

} // namespace

ChannelWay throughChannel(const Vec2& from, const Vec2& ahead, const Region& allowed, const Region& cleared, const ChannelSpec& spec, const Progress& progress) {
    return Looper(allowed, cleared, spec).run(from, ahead, progress);
}

} // namespace gyre
