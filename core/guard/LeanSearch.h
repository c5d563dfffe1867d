// How leans are found: stations along the passes, and the search over them. Only for Lean.cpp and LeanSearch.cpp.
#pragma once
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "guard/Lean.h"
#include "path/LeadTilt.h"
#include <functional>

namespace gyre::leaning {

inline constexpr double kBlocked = 1e4; // rad²: what a place costs that is not safe, against its lean
inline constexpr double kPinned = 1e7;  // rad² mm: what a lean costs where there is to be none
inline constexpr double kMoves = 2e-4;  // rad: what is less off is left as it is
inline constexpr double kStill = 1e-4;  // rad: less is none
inline constexpr int kFiner = 3;        // times finer grid for grid
inline constexpr int kCells = 12;       // of the first grid, to either side, at most

/// A place of a pass at which a lean is chosen; between them it is interpolated.
struct Station {
    std::size_t at = 0;       ///< location of the pass
    double along = 0.0;       ///< mm from its start
    Vec2 lean = Vec2::Zero(); ///< rad, lead and tilt beside the wish
    bool near = false;        ///< near enough to something that is hit to lean
    bool sure = false;        ///< its lean was asked and is safe
    bool pinned = false;      ///< the last one that is near, with more of the pass behind it: as it is wished
    bool free = true;         ///< safe as it is wished
    struct Beside {
        std::ptrdiff_t pass = -1;
        std::size_t station = 0;
        double weight = 0.0; ///< how much it is to be like that one, 1/mm²
        double sign = 1.0;   ///< −1: that one runs the other way
    };
    std::array<Beside, 2> beside;
};

/// Leans to choose from at one station, as a grid.
struct Choices {
    Vec2 first = Vec2::Zero(), about = Vec2::Zero(); ///< the lowest, and the one that it is laid around
    double cell = 0.0;
    int wide = 1, high = 1;
    bool wish = false; ///< none as well, as the last one
    [[nodiscard]] std::size_t size() const { return static_cast<std::size_t>(wide * high) + (wish ? 1 : 0); }
    [[nodiscard]] Vec2 at(std::size_t c) const {
        if (c == static_cast<std::size_t>(wide * high)) return Vec2::Zero();
        return first + cell * Vec2(static_cast<int>(c) / high, static_cast<int>(c) % high);
    }
    /// All that lie within `reach` of a lean in both.
    template <class Do> void forNear(const Vec2& lean, double reach, const Do& what) const {
        const auto range = [&](double from, double to, int count) {
            const double scale = cell > 0.0 ? 1.0 / cell : 0.0;
            return std::pair(std::max(0, static_cast<int>(std::ceil(from * scale - 1e-9))), std::min(count - 1, static_cast<int>(std::floor(to * scale + 1e-9))));
        };
        const Vec2 off = lean - first;
        const auto [x0, x1] = range(off.x() - reach, off.x() + reach, wide);
        const auto [y0, y1] = range(off.y() - reach, off.y() + reach, high);
        for (int x = x0; x <= x1; ++x)
            for (int y = y0; y <= y1; ++y) what(static_cast<std::size_t>(x * high + y));
        if (wish && lean.cwiseAbs().maxCoeff() <= reach) what(static_cast<std::size_t>(wide * high));
    }
};

/// A pass with the leans along it.
struct Line {
    Pass* pass = nullptr;
    std::vector<LeadTilt> wish;
    std::vector<Station> stations;
    double whole = 0.0; ///< mm, once around when closed
    bool closed = false, any = false;
    double moved = 1e9; ///< rad, the furthest of the last round
    /// Runs of stations that are near, as they follow each other; on closed ones they may go over the seam.
    std::vector<std::vector<std::size_t>> runs;
};

[[nodiscard]] double stationStep(const GuardSpec& spec); ///< mm between stations
/// How far a lean may turn from the wish, rad in lead and tilt; and how fast, rad/mm.
[[nodiscard]] Vec2 mostLean(const GuardSpec& spec);
[[nodiscard]] double fastestTurn(const GuardSpec& spec, const Freedom& freedom);
/// mm around what is hit within which it may have to lean over and back.
[[nodiscard]] double leanReach(const GuardSpec& spec, const Freedom& freedom);
/// Places that are hit, none nearer to another than `apart`.
[[nodiscard]] std::vector<Vec3> placesHit(const std::vector<Pass>& passes, const HitTable& hits, double apart);
[[nodiscard]] bool anyNear(const std::vector<Vec3>& places, const Vec3& at, double reach);
/// Lifted places touch nothing, and a hole's cycle has one direction.
[[nodiscard]] bool turns(const Pass& pass);

class Leaner {
public:
    Leaner(const Guard& guard, const Freedom& freedom, std::vector<Pass>& passes, const HitTable& hits, double margin)
        : m_guard(guard), m_freedom(freedom), m_spec(guard.spec()), m_passes(passes), m_hits(hits), m_margin(margin), m_over(std::max(0.1, m_spec.leanOver)) {
        m_most = mostLean(m_spec);
        m_turn = fastestTurn(m_spec, freedom);
        m_step = stationStep(m_spec);
    }

    [[nodiscard]] bool run(Progress& progress);
    void write(LeanResult& out);
    /// Is something hit where it was to be safe? Then more room between the stations may help.
    [[nodiscard]] bool surprised(const HitTable& left) const;

    [[nodiscard]] Vec3 axisAt(const Line& line, std::size_t at, const Vec2& lean) const {
        const Toolpath& p = line.pass->path;
        if (m_spec.leanBy != LeanBy::LeadTilt) return rotation(Vec3::Unit(static_cast<int>(m_spec.leanBy) - static_cast<int>(LeanBy::X)), lean.y()) * p.axis[at];
        return axisFromLeadTilt(p.normal[at], line.pass->feedDirection[at], line.wish[at].lead + lean.x(), line.wish[at].tilt + lean.y());
    }
    [[nodiscard]] bool safe(const Line& line, const Station& s, const Vec2& lean, HitHints& hints) const {
        if (lean.norm() < kStill) return s.free;
        if (line.pass->path.normal[s.at].squaredNorm() < 0.5) return false;
        const Vec3 axis = axisAt(line, s.at, lean);
        const double angle = angleBetween(axis, Vec3::UnitZ());
        if (angle < m_freedom.low - 1e-9 || angle > m_freedom.high + 1e-9) return false;
        if (m_freedom.reached && !m_freedom.reached(axis)) return false;
        return !m_guard.blocked(m_freedom.turned(*line.pass, s.at, axis), m_margin, hints);
    }

private:
    void prepare(std::size_t p);
    void findNear();
    void findBeside(std::size_t p);
    void findRuns(Line& line) const;
    void coarse(std::size_t p, double cell);
    void finer(std::size_t p, double cell);
    void relax(std::size_t p);
    void publish(std::size_t p);                                                        ///< what the others see of it from now on
    [[nodiscard]] double gap(const Line& line, std::size_t from, std::size_t to) const; ///< mm from a station to the next
    [[nodiscard]] Vec2 wishedBeside(const Station& s, double& weight) const;
    [[nodiscard]] std::vector<std::size_t> thinned(const Line& line, const std::vector<std::size_t>& run, double apart) const;
    using SafeAt = std::function<bool(std::size_t place, std::size_t choice, HitHints& hints)>;
    [[nodiscard]] bool cheapest(const Line& line, const std::vector<std::size_t>& run, const std::vector<Choices>& choices, double widest, const SafeAt& safeAt,
                                std::vector<Vec2>& leans) const;
    void take(Line& line, const std::vector<std::size_t>& run, const std::vector<std::size_t>& picked, const std::vector<Vec2>& leans) const;

    const Guard& m_guard;
    const Freedom& m_freedom;
    const GuardSpec& m_spec;
    std::vector<Pass>& m_passes;
    const HitTable& m_hits;
    const double m_margin, m_over;
    double m_turn = 0.0, m_step = 1.0; ///< rad/mm; mm between stations
    Vec2 m_most;
    std::vector<Line> m_lines;
    std::vector<std::vector<Vec2>> m_known; ///< leans by pass and station, as passes beside see them
};

} // namespace gyre::leaning
