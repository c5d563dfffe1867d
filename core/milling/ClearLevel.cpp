#include "base/Units.h"
#include "milling/Channel.h"
#include "milling/Lines.h"
#include "milling/MillSpec.h"
#include "milling/Rough.h"
#include "milling/Steady.h"
#include <optional>

namespace gyre {

namespace {

class Clearer {
public:
    Clearer(const Region& allowed, const Region& material, double radius, double step, double from, double height, const MillSpec& spec, int level,
            const Progress& progress)
        : m_allowed(allowed), m_material(material), m_radius(radius), m_step(std::min(step, 1.8 * radius)), m_from(from), m_height(height), m_spec(spec), m_level(level),
          m_progress(progress), m_angle(std::acos(std::clamp(1.0 - m_step / radius, -1.0, 1.0))), m_fine(std::min(0.004 * radius, 0.03 * step)) {}

    LevelCleared run() {
        if (m_material.empty()) return {};
        const auto [low, high] = m_material.bounds();
        const double rim = 3.0 * m_radius + 2.0;
        m_window.loops = {{low - Vec2::Constant(rim), Vec2(high.x() + rim, low.y() - rim), high + Vec2::Constant(rim), Vec2(low.x() - rim, high.y() + rim)}};
        m_cleared = without(m_window, m_material);
        // What the cutter can never reach stays: it is neither cleared nor waited for. Piece by piece, so that it does not go to and fro.
        std::vector<Region> waiting = pieces(common(m_material, grown(m_allowed, m_radius, m_fine)));
        LevelCleared out;
        const auto stands = [&](Region piece) {
            const double small = 0.1 * m_radius * m_radius, area = piece.area(); // a wide piece, or a long one along a wall
            if (area > 2.0 * small || (area > small && piece.distanceToBorder(deepestPoint(piece)) > 0.1 * m_radius)) out.standing.push_back(std::move(piece));
        };
        for (int n = 0; n < 50000 && !waiting.empty() && !m_progress.cancelled(); ++n) {
            m_left = without(nearestOf(waiting), m_cleared);
            m_left = grown(grown(m_left, -0.02, m_fine), 0.02, m_fine);
            std::vector<Region> parts = pieces(m_left);
            if (parts.size() > 1) {
                std::move(parts.begin(), parts.end(), std::back_inserter(waiting));
                continue;
            }
            const double before = m_left.area();
            if (m_left.empty() || before < 0.004 * m_radius * m_radius) continue;
            bool further = advance(0.35, 0.4) || corners() || advance(0.08, 0.4) || advance(0.02, 0.0);
            further = further && without(m_left, m_cleared).area() < before - 1e-4;
            if (further || dive())
                waiting.push_back(m_left);
            else
                stands(m_left);
        }
        for (const Region& piece : waiting) stands(without(piece, m_cleared)); // only if there was no end of it
        flush();
        out.passes = std::move(m_passes);
        out.cut = m_cut;
        out.heavy = m_heavy;
        out.most = m_most;
        out.mostAt = m_mostAt;
        return out;
    }

private:
    /// One front further, along all lines where the cutter takes at least this much of a strip a step wide. @return false when there is none
    bool advance(double worth, double rounded) {
        const double back = m_radius - m_step, round = rounded * m_radius;
        const double coarse = std::min(0.01 * m_radius, 0.1 * m_step); // fronts are led, they need not begin exact
        const Region middle = common(grown(grown(fewerPoints(aroundWhatIsLeft(), coarse), -back - round, coarse), round, coarse), m_allowed);
        std::vector<Line> fronts;
        const RimContact standing(m_cleared, m_radius);
        const Region near = grown(fewerPoints(m_left, coarse), m_radius - std::min(0.05, 0.1 * m_step), coarse);
        const Region rim = grown(m_window, -(back + 0.5), m_fine);
        for (Loop l : middle.loops) {
            l.push_back(l.front());
            std::vector<Line> parts = linesInside(linesInside({l}, near), rim);
            // A closed line is cut open where it begins: put that together again.
            for (std::size_t a = 0; a < parts.size(); ++a)
                for (std::size_t b = 0; b < parts.size(); ++b)
                    if (a != b && !parts[a].empty() && !parts[b].empty() && (parts[a].back() - parts[b].front()).norm() < 1e-4) {
                        parts[a].insert(parts[a].end(), parts[b].begin() + 1, parts[b].end());
                        parts[b].clear();
                    }
            for (Line& p : parts) {
                if (p.size() < 2) continue;
                if (senseOn(p, l) < 0) std::reverse(p.begin(), p.end());
                if (lengthOf(p) < 0.02 * m_radius) continue;
                if (!m_spec.climb) std::reverse(p.begin(), p.end());
                Line front = steadied(p, standing, m_allowed, {m_radius, m_step, m_angle, m_spec.climb});
                if (worthIt(front, worth * m_step)) fronts.push_back(std::move(front));
            }
        }
        return cutAll(fronts, standing);
    }

    /// Takes the piece next to where the cutter is.
    [[nodiscard]] Region nearestOf(std::vector<Region>& waiting) const {
        auto best = waiting.begin();
        const auto away = [&](const Region& r) { return r.contains(*m_at) ? 0.0 : r.distanceToBorder(*m_at); };
        if (m_at) best = std::min_element(waiting.begin(), waiting.end(), [&](const Region& a, const Region& b) { return away(a) < away(b); });
        Region out = std::move(*best);
        waiting.erase(best);
        return out;
    }

    /// What is cleared, as far as it matters for the next front: around the piece that is left.
    [[nodiscard]] Region aroundWhatIsLeft() const {
        const auto [low, high] = m_left.bounds();
        const Vec2 rim = Vec2::Constant(3.0 * m_radius), a = low - rim, b = high + rim;
        return common(m_cleared, {{{a, Vec2(b.x(), a.y()), b, Vec2(a.x(), b.y())}}});
    }

    /// May the cutter go straight from one place to the other, over what is cleared and where it may stand? Where the part stands nothing
    /// is "cleared" for a way across; what fronts may be off does not bar it.
    [[nodiscard]] bool free(const Vec2& a, const Vec2& b) const {
        return m_cleared.contains(a) && m_cleared.distanceToBorder(a, b) >= m_radius - 0.01 - 3.0 * m_fine && m_allowed.containsWay(a, b);
    }

    /// Does the cutter take at least a strip of this width along the line, on average?
    [[nodiscard]] bool worthIt(const Line& line, double width) const { return common(m_left, aroundLines({line}, m_radius, m_fine)).area() > width * lengthOf(line); }

    /// What fronts creep into without end: along the walls there, as far in as the cutter goes.
    bool corners() {
        // What is as thick as the cutter is no rest along a wall: into that the cutter goes from above.
        if (const Vec2 deep = deepestPoint(m_left); m_left.contains(deep) && m_left.distanceToBorder(deep) > 0.5 * m_radius) return false;
        const Region near = grown(m_left, 0.97 * m_radius, m_fine); // strips from a thirtieth of the radius on
        std::vector<Line> lines;
        for (Loop l : m_allowed.loops) {
            l.push_back(l.front());
            for (Line& p : linesInside({l}, near)) {
                if (p.size() < 2 || lengthOf(p) < 1e-3) continue;
                if ((senseOn(p, l) < 0) == m_spec.climb) std::reverse(p.begin(), p.end());
                if (worthIt(p, 0.04 * m_radius)) lines.push_back(std::move(p));
            }
        }
        return cutAll(lines, RimContact(m_cleared, m_radius));
    }

    /// What the rim meets along a line, at even places of it.
    struct Load {
        Line places;
        std::vector<double> angle; ///< rad
        double heavy = 0.0;        ///< mm
    };
    [[nodiscard]] bool tooMuch(double angle) const { return angle > 1.2 * m_angle + radians(3.0); }
    [[nodiscard]] Load loadOf(const Line& line, const RimContact& standing) const {
        Load out;
        const double pace = 0.1 * m_radius;
        constexpr std::size_t kBack[] = {1, 2, 4, 8, 16, 24};
        out.places = evenly(line, pace);
        std::vector<Vec2> own;
        for (std::size_t i = 0; i < out.places.size(); ++i) {
            own.clear();
            for (const std::size_t b : kBack)
                if (b <= i) own.push_back(out.places[i - b]);
            const double met =
                standing.engaged(out.places[i], own) - (i > 0 ? std::asin(std::min(1.0, 0.5 * (out.places[i] - out.places[i - 1]).norm() / m_radius)) : 0.0);
            out.angle.push_back(std::max(0.0, met));
            if (i > 0 && tooMuch(met)) out.heavy += (out.places[i] - out.places[i - 1]).norm();
        }
        return out;
    }

    /// @param fronts as they are to be cut: what stands lies on the right where the cutter climbs
    /// @param standing what stands now
    bool cutAll(const std::vector<Line>& fronts, const RimContact& standing) {
        std::vector<char> done(fronts.size(), 0);
        // Heavy ones wait: from where the others end there may be an easier way to what they take.
        std::vector<double> heavy(fronts.size());
        for (std::size_t i = 0; i < fronts.size(); ++i) heavy[i] = loadOf(fronts[i], standing).heavy;
        const double light = 0.5 * m_radius, least = heavy.empty() ? 0.0 : *std::min_element(heavy.begin(), heavy.end());
        for (std::size_t i = 0; i < fronts.size(); ++i) done[i] = heavy[i] > std::max(light, least + 1e-9) ? 1 : 0;
        // Across a channel fronts are short and heavy all along.
        if (const std::size_t easiest = static_cast<std::size_t>(std::min_element(heavy.begin(), heavy.end()) - heavy.begin());
            !fronts.empty() && least > std::min(light, 0.04 * lengthOf(fronts[easiest])) && through(fronts[easiest]))
            return true;
        Region made;
        while (true) {
            // The nearest of those that are reached at this height; another one only to begin with: from where that ends there may be more.
            std::size_t best = fronts.size();
            Approach way;
            for (const bool reached : {true, false}) {
                if (best < fronts.size() || (!reached && !made.empty())) break;
                for (std::size_t i = 0; i < fronts.size(); ++i) {
                    if (done[i] || (best < fronts.size() && m_at && (fronts[i].front() - *m_at).norm() >= (fronts[best].front() - *m_at).norm())) continue;
                    const Approach one = approachTo(fronts[i]);
                    if (one.reached < reached || (!one.start && !one.there)) continue; // never straight down into what stands
                    way = one;
                    best = i;
                }
            }
            if (best == fronts.size()) break;
            done[best] = 1;
            Line l = fronts[best];
            approach(way);
            // A way in that meets too much is a cut like others, not a lead.
            if (way.start && !way.there && loadOf({*way.start, l.front()}, standing).heavy > 0.0) l.insert(l.begin(), *way.start);
            const Line few = keptInside(fewerPoints(l, 0.2 * m_fine), m_allowed);
            addCut(few, made.empty() ? loadOf(few, standing) : loadOf(few, RimContact(united(m_cleared, made), m_radius)));
            m_at = few.back();
            made = united(made, aroundLines({few}, m_radius, m_fine));
        }
        if (made.empty()) return false;
        // Fewer points: fronts grow from fronts.
        m_cleared = fewerPoints(united(m_cleared, made), 0.2 * m_fine);
        return true;
    }

    /// Through the channel across which a front stands.
    bool through(const Line& front) {
        const Line even = evenly(front, 0.1 * m_radius);
        const std::size_t middle = even.size() / 2;
        if (middle == 0) return false;
        const Vec2 along = (even[std::min(middle + 1, even.size() - 1)] - even[middle - 1]).normalized();
        const ChannelWay made = throughChannel(even[middle], m_spec.climb ? Vec2(-leftOf(along)) : leftOf(along), m_allowed, m_cleared,
                                               {m_radius, m_angle, m_spec.climb, 0.25 * m_fine}, m_progress);
        const Vec2 start = made.way.empty() ? Vec2(Vec2::Zero()) : made.way.front();
        if (made.way.size() < 3 || !free(start, start)) return false;
        const bool low = m_at && !m_pass.points.empty();
        approach({start, low && free(*m_at, start), low && (start - *m_at).norm() < 1e-6});
        for (std::size_t i = 1; i < made.way.size(); ++i) {
            const double angle = std::max(made.angle[i - 1], made.angle[i]);
            double near = angle; // feed does not jump
            for (std::size_t k = i - std::min<std::size_t>(i, 3); k < std::min(i + 3, made.angle.size()); ++k) near = std::max(near, made.angle[k]);
            add(made.way[i], m_height, angle > 1e-3 ? Motion::Cut : Motion::Link, shareAt(near));
            countLoad(angle, made.way[i], (made.way[i] - made.way[i - 1]).norm());
            if (angle > 1e-3) m_cut += (made.way[i] - made.way[i - 1]).norm();
        }
        m_at = made.way.back();
        m_cleared = fewerPoints(united(m_cleared, made.cleared), 0.2 * m_fine);
        return true;
    }

    /// Into the full: a helix where there is most room.
    bool dive() {
        const Region room = common(m_allowed, m_left);
        double best = 0.0;
        Vec2 at = Vec2::Zero();
        for (const Region& piece : pieces(room)) {
            const Vec2 p = deepestPoint(piece);
            const double d = piece.contains(p) ? std::min(m_allowed.distanceToBorder(p), 10.0 * m_radius) : 0.0;
            if (d > best) {
                best = d;
                at = p;
            }
        }
        if (best < 0.15 * m_radius) return false;
        flush();
        const double radius = std::min(0.8 * m_radius, best);
        const double slope = std::tan(radians(std::clamp(m_spec.rampDegrees, 0.1, 89.0)));
        const double deep = m_from + 1.0 - m_height;
        const double turns = std::max(1.0, std::ceil(deep / (2.0 * kPi * radius * slope)));
        const int perTurn = 36, n = static_cast<int>(turns) * perTurn;
        for (int i = 0; i <= n + perTurn; ++i) {
            const double a = (m_spec.climb ? 1.0 : -1.0) * 2.0 * kPi * i / perTurn;
            add(at + radius * Vec2(std::cos(a), std::sin(a)), m_height + deep * std::max(0.0, 1.0 - static_cast<double>(i) / n), Motion::LeadIn);
        }
        m_at = at + radius * Vec2::UnitX();
        Loop disc;
        for (int i = 0; i < 72; ++i) disc.push_back(at + (m_radius + radius) * Vec2(std::cos(2.0 * kPi * i / 72), std::sin(2.0 * kPi * i / 72)));
        m_cleared = united(m_cleared, regionOf({disc}));
        return true;
    }

    struct Approach {
        std::optional<Vec2> start; ///< a free place from which the front is entered
        bool reached = false;      ///< over what is cleared, from where the cutter is
        bool there = false;        ///< the front begins where the cutter is
    };
    [[nodiscard]] Approach approachTo(const Line& l) const {
        Approach out;
        const bool low = m_at && !m_pass.points.empty();
        out.reached = out.there = low && (l.front() - *m_at).norm() < 1e-6;
        const Vec2 t = (l[1] - l[0]).normalized(), side = m_spec.climb ? leftOf(t) : Vec2(-leftOf(t)); // what is cleared lies there
        // The nearest place that is free; a further one where that spares a retract.
        for (const double far : {1.05 * m_step + 0.05, 0.6 * m_radius, 1.2 * m_radius, 2.0 * m_radius + 1.0})
            for (const Vec2& way : {Vec2(-t), Vec2(side - t), side}) {
                if (out.reached) return out;
                const Vec2 p = l.front() + far * way.normalized();
                if (!free(p, p) || !m_allowed.containsWay(p, l.front())) continue;
                out.reached = low && free(*m_at, p);
                if (!out.start || out.reached) out.start = p;
            }
        // In a channel as wide as the cutter there is hardly a step aside.
        for (const double far : {0.02 * m_radius, 0.05 * m_radius, 0.08 * m_radius})
            for (const double on : {0.0, 0.05 * m_radius, 0.2 * m_radius}) {
                if (out.start || out.there) return out;
                const Vec2 p = l.front() + far * side + on * t;
                if (!free(p, p) || !m_allowed.containsWay(p, l.front())) continue;
                out.start = p;
                out.reached = low && free(*m_at, p);
            }
        return out;
    }
    /// To the start of a front: over what is cleared where the way there is free, else from above.
    void approach(const Approach& way) {
        const std::optional<Vec2>& start = way.start;
        if (way.there) return;
        if (way.reached) {
            // Long ways are lifted rapids where no more than a hundredth is brushed, beside what the border of what is cleared may be off.
            if ((*start - *m_at).norm() > 2.0 * m_radius && m_cleared.distanceToBorder(*m_at, *start) >= m_radius - 0.01 - m_fine) {
                constexpr double kLift = 0.3;
                add(*m_at, m_height + kLift, Motion::Rapid);
                add(*start, m_height + kLift, Motion::Rapid);
                add(*start, m_height, Motion::LeadIn);
            } else {
                add(*start, m_height, Motion::Link);
            }
            return;
        }
        flush();
        if (start) add(*start, m_height, Motion::LeadIn);
    }

    void add(const Vec2& at, double height, Motion motion, double share = 1.0) {
        FlatPoint p;
        p.share = share;
        p.at = {at.x(), at.y(), height};
        p.motion = motion;
        if (!m_pass.points.empty() && (m_pass.points.back().at - p.at).norm() < 1e-7) return;
        m_pass.points.push_back(p);
    }
    /// Of the feed, where that much of the rim is met.
    [[nodiscard]] double shareAt(double angle) const {
        if (!tooMuch(angle)) return 1.0;
        const double width = m_radius * (1.0 - std::cos(std::min(angle, kPi)));
        return std::clamp(std::round(10.0 * m_step / width) / 10.0, 0.3, 1.0);
    }
    void countLoad(double angle, const Vec2& at, double length) {
        if (!tooMuch(angle)) return;
        m_heavy += length;
        if (angle <= m_most) return;
        m_most = angle;
        m_mostAt = at;
    }
    /// A front as it is cut: where the rim meets too much, with less feed.
    void addCut(const Line& line, const Load& load) {
        add(line.front(), m_height, Motion::LeadIn);
        // Slower a little before and for some way behind: feed does not jump, and what a turn leaves standing is met late.
        constexpr std::size_t kAround = 8; // places, a tenth of the radius each
        const auto shareOf = [&](std::size_t at) {
            double angle = 0.0;
            for (std::size_t k = at - std::min(at, kAround); k < std::min(at + kAround + 1, load.angle.size()); ++k) angle = std::max(angle, load.angle[k]);
            return shareAt(angle);
        };
        std::size_t place = 0; // of the load, along the line
        double gone = 0.0, at = 0.0, share = shareOf(0);
        for (std::size_t i = 1; i < line.size(); ++i) {
            const double piece = (line[i] - line[i - 1]).norm();
            // The share changes within a piece where it must: a point of its own there.
            for (; place + 1 < load.places.size() && at + (load.places[place + 1] - load.places[place]).norm() <= gone + piece + 1e-9; ++place) {
                const double next = shareOf(place + 1);
                const double step = (load.places[place + 1] - load.places[place]).norm();
                countLoad(load.angle[place + 1], load.places[place + 1], step);
                if (next != share && at > gone + 1e-3 && at < gone + piece - 1e-3)
                    add(line[i - 1] + (at - gone) / piece * (line[i] - line[i - 1]), m_height, Motion::Cut, share);
                share = next;
                at += step;
            }
            add(line[i], m_height, Motion::Cut, share);
            gone += piece;
        }
        m_cut += gone;
    }
    void flush() {
        m_pass.level = m_level;
        if (m_pass.points.size() > 1) m_passes.push_back(std::move(m_pass));
        m_pass = {};
        m_at.reset();
    }

    const Region &m_allowed, &m_material;
    double m_radius, m_step, m_from, m_height;
    const MillSpec& m_spec;
    int m_level;
    const Progress& m_progress;
    double m_angle, m_fine; ///< mm that fronts may be off; walls are exact
    Region m_window, m_cleared;
    Region m_left; ///< one piece
    std::vector<FlatPass> m_passes;
    FlatPass m_pass;
    std::optional<Vec2> m_at;
    double m_cut = 0.0, m_heavy = 0.0, m_most = 0.0;
    Vec2 m_mostAt = Vec2::Zero();
};

} // namespace

LevelCleared clearLevel(const Region& allowed, const Region& material, double radius, double step, double from, double height, const MillSpec& spec, int level,
                        const Progress& progress) {
    LevelCleared out;
    for (const Region& piece : pieces(material)) {
        LevelCleared one = Clearer(allowed, piece, radius, step, from, height, spec, level, progress).run();
        for (FlatPass& p : one.passes) out.passes.push_back(std::move(p));
        for (Region& r : one.standing) out.standing.push_back(std::move(r));
        out.cut += one.cut;
        out.heavy += one.heavy;
        if (one.most > out.most) {
            out.most = one.most;
            out.mostAt = one.mostAt;
        }
    }
    return out;
}

} // namespace gyre
