#include "mill/Rough.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/MeshSlice.h"
#include "mill/Floors.h"
#include "mill/Lines.h"
#include "mill/Steady.h"
#include "stock/Stock.h"
#include <atomic>
#include <fmt/format.h>
#include <map>
#include <numeric>
#include <optional>

namespace gyre {

Region sectionOf(const Stock& stock, const Sheet& sheet, double height) {
    // Marching squares over the depth in material; ends of rays make it finer than its cells.
    const double cell = stock.cell();
    Vec2 low = Vec2::Constant(1e300), high = Vec2::Constant(-1e300);
    for (int i = 0; i < 8; ++i) {
        const Vec3 corner(i & 1 ? stock.bounds().high.x() : stock.bounds().low.x(), i & 2 ? stock.bounds().high.y() : stock.bounds().low.y(),
                          i & 4 ? stock.bounds().high.z() : stock.bounds().low.z());
        const Vec2 q = sheet.flat(corner).head<2>();
        low = low.cwiseMin(q);
        high = high.cwiseMax(q);
    }
    low -= Vec2::Constant(1.5 * cell);
    const int nx = static_cast<int>(std::ceil((high.x() - low.x()) / cell)) + 3, ny = static_cast<int>(std::ceil((high.y() - low.y()) / cell)) + 3;
    std::vector<float> value(static_cast<std::size_t>(nx) * static_cast<std::size_t>(ny));
    const auto at = [&](int i, int k) -> float& { return value[static_cast<std::size_t>(i) * static_cast<std::size_t>(ny) + static_cast<std::size_t>(k)]; };
    parallelFor(static_cast<std::size_t>(nx), 4, [&](std::size_t i) {
        for (int k = 0; k < ny; ++k) {
            const auto d = static_cast<float>(stock.depth(sheet.point({low.x() + static_cast<double>(i) * cell, low.y() + k * cell, height})));
            at(static_cast<int>(i), k) = std::abs(d) < 1e-6F ? 1e-6F : d;
        }
    });
    // Every cell adds pieces with material on their left; pieces are chained by the grid's sides.
    std::map<std::pair<int, int>, std::pair<std::pair<int, int>, Vec2>> next; // side → next side, with the point on the first
    const auto sideOf = [&](int i, int k, int side) {                         // 0 bottom, 1 right, 2 top, 3 left
        const int x = 2 * i + (side == 1 ? 2 : side == 3 ? 0 : 1), y = 2 * k + (side == 2 ? 2 : side == 0 ? 0 : 1);
        return std::pair(x, y);
    };
    const auto pointOn = [&](int i, int k, int side) {
        const int i0 = side == 1 ? i + 1 : i, k0 = side == 2 ? k + 1 : k, i1 = side == 3 ? i : i + 1, k1 = side == 0 ? k : k + 1;
        const float a = at(i0, k0), b = at(i1, k1);
        const double t = std::clamp(static_cast<double>(a) / (static_cast<double>(a) - static_cast<double>(b)), 0.0, 1.0);
        return Vec2(low.x() + (i0 + t * (i1 - i0)) * cell, low.y() + (k0 + t * (k1 - k0)) * cell);
    };
    for (int i = 0; i + 1 < nx; ++i)
        for (int k = 0; k + 1 < ny; ++k) {
            const bool in[4] = {at(i, k) < 0, at(i + 1, k) < 0, at(i + 1, k + 1) < 0, at(i, k + 1) < 0}; // around, from the lower left
            // Going round the cell counter-clockwise, material ends on the side where `in` changes from true to false.
            std::vector<int> leave, enter;
            for (int s = 0; s < 4; ++s) {
                if (in[s] && !in[(s + 1) % 4]) leave.push_back(s);
                if (!in[s] && in[(s + 1) % 4]) enter.push_back(s);
            }
            for (std::size_t n = 0; n < leave.size(); ++n) {
                // Two pieces in one cell: each cuts off its own corner of material.
                int to = enter[0];
                if (enter.size() == 2) to = (leave[n] + 3) % 4;
                next[sideOf(i, k, leave[n])] = {sideOf(i, k, to), pointOn(i, k, leave[n])};
            }
        }
    std::vector<Loop> loops;
    while (!next.empty()) {
        Loop loop;
        auto it = next.begin();
        while (it != next.end()) {
            loop.push_back(it->second.second);
            const auto to = it->second.first;
            next.erase(it);
            it = next.find(to);
        }
        if (loop.size() >= 3) loops.push_back(std::move(loop));
    }
    return regionOf(loops);
}

namespace {

class Clearer {
public:
    Clearer(const Region& allowed, const Region& material, double radius, double step, double from, double height, const MillSpec& spec, int level)
        : m_allowed(allowed), m_material(material), m_radius(radius), m_step(std::min(step, 1.8 * radius)), m_from(from), m_height(height), m_spec(spec), m_level(level),
          m_angle(std::acos(std::clamp(1.0 - m_step / radius, -1.0, 1.0))), m_fine(std::min(0.004 * radius, 0.03 * step)) {}

    LevelCleared run(const Progress& progress) {
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
        for (int n = 0; n < 50000 && !waiting.empty() && !progress.cancelled(); ++n) {
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
        const Region near = grown(m_left, 0.95 * m_radius, m_fine);
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
            const Line& l = fronts[best];
            approach(way);
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
    /// A front as it is cut: where the rim meets too much, with less feed.
    void addCut(const Line& line, const Load& load) {
        add(line.front(), m_height, Motion::LeadIn);
        // Slower a little before and for some way behind: feed does not jump, and what a turn leaves standing is met late.
        constexpr std::size_t kAround = 8; // places, a tenth of the radius each
        const auto shareOf = [&](std::size_t at) {
            double angle = 0.0;
            for (std::size_t k = at - std::min(at, kAround); k < std::min(at + kAround + 1, load.angle.size()); ++k) angle = std::max(angle, load.angle[k]);
            if (!tooMuch(angle)) return 1.0;
            const double width = m_radius * (1.0 - std::cos(std::min(angle, kPi)));
            return std::clamp(std::round(10.0 * m_step / width) / 10.0, 0.3, 1.0);
        };
        std::size_t place = 0; // of the load, along the line
        double gone = 0.0, at = 0.0, share = shareOf(0);
        for (std::size_t i = 1; i < line.size(); ++i) {
            const double piece = (line[i] - line[i - 1]).norm();
            // The share changes within a piece where it must: a point of its own there.
            for (; place + 1 < load.places.size() && at + (load.places[place + 1] - load.places[place]).norm() <= gone + piece + 1e-9; ++place) {
                const double next = shareOf(place + 1);
                const double step = (load.places[place + 1] - load.places[place]).norm();
                if (tooMuch(load.angle[place + 1])) m_heavy += step;
                if (load.angle[place + 1] > m_most && tooMuch(load.angle[place + 1])) {
                    m_most = load.angle[place + 1];
                    m_mostAt = load.places[place + 1];
                }
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
        LevelCleared one = Clearer(allowed, piece, radius, step, from, height, spec, level).run(progress);
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

namespace {

struct LevelWork {
    Region allowed, material;
    double from, height;
    int level;
    LevelCleared made;
};

/// What the cutter could not enter.
std::optional<Finding> whatStays(const std::vector<LevelWork>& work, const Sheet& sheet) {
    // Told once, at the largest place.
    std::size_t places = 0;
    const Region* largest = nullptr;
    double height = 0.0;
    for (const LevelWork& w : work)
        for (const Region& r : w.made.standing) {
            ++places;
            if (largest && r.area() <= largest->area()) continue;
            largest = &r;
            height = w.height;
        }
    if (!largest) return std::nullopt;
    const Vec2 deep = deepestPoint(*largest);
    const Vec3 at = sheet.point({deep.x(), deep.y(), height});
    Finding f;
    f.rank = Rank::Look;
    f.code = "stock-stays";
    f.stage = "Pattern";
    f.text = fmt::format("stock stays at {}, the largest of {:.0f} mm² at X {:.1f} Y {:.1f} Z {:.1f}", places == 1 ? "one place" : fmt::format("{} places", places),
                         largest->area(), at.x(), at.y(), at.z());
    f.reason = "the cutter has room there, but none to come down in a helix, nor a way in from the side";
    f.place = {at.x(), at.y(), at.z()};
    f.amount = largest->area();
    return f;
}

/// Where the cutter meets more than it was asked to: how much of the way, how much at most, and what is done about it.
std::optional<Finding> whatIsHeavy(const std::vector<LevelWork>& work, const Sheet& sheet, double radius, double step) {
    double cut = 0.0, heavy = 0.0;
    const LevelWork* worst = nullptr;
    for (const LevelWork& w : work) {
        cut += w.made.cut;
        heavy += w.made.heavy;
        if (w.made.heavy > 0.0 && (!worst || w.made.most > worst->made.most)) worst = &w;
    }
    if (!worst || heavy < 1.0) return std::nullopt;
    const Vec3 at = sheet.point({worst->made.mostAt.x(), worst->made.mostAt.y(), worst->height});
    Finding f;
    f.rank = Rank::Note;
    f.code = "heavy-cuts";
    f.stage = "Pattern";
    f.text = fmt::format("over {:.0f} mm of {:.0f} the cutter meets more than {:.0f}°, up to {:.0f}°; there it runs slower", heavy, cut,
                         1.2 * degrees(std::acos(std::clamp(1.0 - step / radius, -1.0, 1.0))), degrees(worst->made.most));
    f.reason = "between walls, or where two fronts meet, there is no way that takes less";
    f.place = {at.x(), at.y(), at.z()};
    f.amount = heavy;
    return f;
}

} // namespace

Result<RoughMade> roughOn(const RoughInput& in, const MillSpec& spec, Progress& progress) {
    RoughMade out;
    if (in.sheet.wrapped) return fail("roughing by levels needs a plane", {}, "Choose a work plane");
    if (!in.in.present) return fail("there is no stock to rough", {}, "Add stock in Set up");
    const Stock& stock = *in.in.present;
    const Sheet& sheet = in.sheet;
    const TriangleMesh& mesh = in.in.part->mesh();
    // Heights: of the stock, and down to what is asked for.
    double low = 1e300, high = -1e300;
    for (int i = 0; i < 8; ++i) {
        const Vec3 corner(i & 1 ? stock.bounds().high.x() : stock.bounds().low.x(), i & 2 ? stock.bounds().high.y() : stock.bounds().low.y(),
                          i & 4 ? stock.bounds().high.z() : stock.bounds().low.z());
        low = std::min(low, sheet.flat(corner).z());
        high = std::max(high, sheet.flat(corner).z());
    }
    const double probe = std::max(0.5, stock.cell());
    while (high > low && sectionOf(stock, sheet, high - 0.5 * stock.cell()).area() < 4.0 * stock.cell() * stock.cell()) high -= probe;
    high = std::max(high, low);
    out.top = spec.topBy == MillTop::Typed ? spec.top : high;
    out.bottom = std::max(low, spec.depthBy == MillDepth::Typed ? -spec.depth : 0.0) + (spec.depthBy == MillDepth::Typed ? 0.0 : spec.leaveFloor);
    if (out.bottom >= out.top - 1e-6) return fail("no stock stands over the floor", {}, "Nothing is left to rough here");
    // Levels: steps down, and exactly over every flat floor of the part that is seen from here.
    std::vector<double> levels;
    std::vector<double> floors{out.bottom};
    for (const FaceInfo& f : in.in.part->faces())
        if (f.kind == SurfaceKind::Plane && f.normal.dot(sheet.up({})) > 1.0 - 1e-6) {
            const double h = sheet.flat(f.centre).z() + spec.leaveFloor;
            if (h > out.bottom + 1e-3 && h < out.top - 1e-3) floors.push_back(h);
        }
    std::sort(floors.rbegin(), floors.rend());
    double at = out.top;
    const double step = spec.stepdown > 0.0 ? spec.stepdown : out.top - out.bottom;
    for (const double floor : floors) {
        if (floor > at - 1e-3) continue;
        const int n = std::max(1, static_cast<int>(std::ceil((at - floor) / step - 1e-9)));
        for (int i = 1; i <= n; ++i) levels.push_back(at + (floor - at) * i / n);
        at = floor;
    }
    out.levels = levels.size();
    Region part, only;
    if (!in.in.faces.empty() || !in.in.curves.empty()) {
        auto floor = floorOf(in.in, sheet, 0.01);
        if (floor) only = grown(floor->area, in.radius);
    }
    std::vector<LevelWork> work;
    double from = out.top;
    for (std::size_t k = 0; k < levels.size(); ++k) {
        if (progress.cancelled()) return cancelledError();
        progress.report(0.3 * static_cast<double>(k) / static_cast<double>(levels.size()), "Roughing levels");
        const double height = levels[k];
        // The part seen from above down to this level; whatever stands over it must not be cut into.
        const double finest = std::min(0.2, from - height);
        for (double h = from; h > height - 1e-9; h -= std::max(0.05, finest)) {
            Region slice = regionOf(sliceOf(mesh, sheet.frame, std::max(height - spec.leaveFloor, h - spec.leaveFloor) + 2e-3));
            part = united(part, slice);
        }
        part = united(part, regionOf(sliceOf(mesh, sheet.frame, height - spec.leaveFloor + 2e-3)));
        // The stock between this level and the one before.
        Region material;
        for (double h = from - 0.25 * stock.cell(); h > height; h -= std::max(stock.cell(), 0.25 * (from - height)))
            material = united(material, sectionOf(stock, sheet, h));
        material = united(material, sectionOf(stock, sheet, height + 0.05 * (from - height)));
        material = grown(grown(material, -0.25 * stock.cell()), 0.25 * stock.cell());
        const Region keep = grown(part, in.leave);
        material = without(material, keep);
        if (!only.empty()) material = common(material, only);
        out.target = united(out.target, material);
        const auto [a, b] = material.bounds();
        if (material.empty()) {
            from = height;
            continue;
        }
        Region window;
        const double rim = 4.0 * in.radius;
        window.loops = {{a - Vec2::Constant(rim), Vec2(b.x() + rim, a.y() - rim), b + Vec2::Constant(rim), Vec2(a.x() - rim, b.y() + rim)}};
        work.push_back({without(window, grown(part, in.radius + in.leave - 1e-3)), std::move(material), from, height, static_cast<int>(k), {}});
        from = height;
    }
    std::atomic<std::size_t> done{0};
    parallelFor(
        work.size(), 1,
        [&](std::size_t k) {
            LevelWork& w = work[k];
            w.made = clearLevel(w.allowed, w.material, in.radius, spec.stepover, w.from, w.height, spec, w.level, progress);
            progress.report(0.3 + 0.7 * static_cast<double>(++done) / static_cast<double>(work.size()), "Roughing levels");
        },
        &progress);
    if (progress.cancelled()) return cancelledError();
    // What stays at one level stands over those below it: there the cutter and its shank cannot be.
    Region over;
    for (std::size_t k = 0; k < work.size(); ++k) {
        LevelWork& w = work[k];
        if (!over.empty() && !common(w.allowed, grown(over, in.radius)).empty()) {
            w.allowed = without(w.allowed, grown(over, in.radius));
            w.made = clearLevel(w.allowed, w.material, in.radius, spec.stepover, w.from, w.height, spec, w.level, progress);
            if (progress.cancelled()) return cancelledError();
        }
        for (const Region& r : w.made.standing) over = united(over, r);
    }
    for (LevelWork& w : work)
        for (FlatPass& p : w.made.passes) out.passes.push_back(std::move(p));
    if (auto f = whatStays(work, sheet)) out.findings.push_back(std::move(*f));
    if (auto f = whatIsHeavy(work, sheet, in.radius, spec.stepover)) out.findings.push_back(std::move(*f));
    if (out.passes.empty()) return fail("nothing of the stock can be reached here by this cutter");
    return out;
}

} // namespace gyre
