// How it is found: a grid of leans at every station of a stretch, safe or not; the cheapest way through by dynamic programming, again on finer grids about
// that, then relaxed against its neighbours along and across as long as it stays safe. What has no safe lean at all is left to be told.
#include "guard/Lean.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "path/LeadTilt.h"
#include <functional>

namespace gyre {
namespace {

constexpr double kBlocked = 1e4; // rad²: what a place costs that is not safe, against its lean
constexpr double kPinned = 1e7;  // rad² mm: what a lean costs where there is to be none
constexpr double kMoves = 2e-4;  // rad: what is less off is left as it is
constexpr double kStill = 1e-4;  // rad: less is none
constexpr int kFiner = 3;        // times finer grid for grid
constexpr int kCells = 12;       // of the first grid, to either side, at most

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

// Where locations lie further apart than `step`, more of them between: straight, as the chord's tolerance allows.
Pass divided(const Pass& from, double step) {
    Pass out = from;
    out.path = {};
    out.feedDirection.clear();
    const Toolpath& p = from.path;
    for (std::size_t i = 0; i < p.size(); ++i) {
        const bool touches = i > 0 && p.normal[i].squaredNorm() > 0.5 && p.normal[i - 1].squaredNorm() > 0.5;
        const int pieces = touches ? std::clamp(static_cast<int>(std::ceil((p.contact[i] - p.contact[i - 1]).norm() / step - 1e-6)), 1, 10000) : 1;
        for (int k = 1; k < pieces; ++k) {
            const double t = static_cast<double>(k) / pieces;
            const auto between = [&](const Vec3& a, const Vec3& b) { return Vec3((1.0 - t) * a + t * b); };
            const Vec3 normal = slerp(p.normal[i - 1], p.normal[i], t);
            const Vec3 feed = rejected(between(from.feedDirection[i - 1], from.feedDirection[i]), normal);
            out.path.push(between(p.tip[i - 1], p.tip[i]), slerp(p.axis[i - 1], p.axis[i], t), between(p.contact[i - 1], p.contact[i]), normal, p.motion[i], p.row[i],
                          static_cast<double>(p.feed[i]), p.face[i]);
            out.feedDirection.push_back(feed.norm() > 1e-9 ? Vec3(feed.normalized()) : from.feedDirection[i]);
        }
        out.path.push(p.tip[i], p.axis[i], p.contact[i], p.normal[i], p.motion[i], p.row[i], static_cast<double>(p.feed[i]), p.face[i]);
        out.feedDirection.push_back(from.feedDirection[i]);
    }
    return out;
}

double stationStep(const GuardSpec& spec) { return std::clamp(std::max(0.1, spec.leanOver) / 10.0, 0.25, 2.0); }

/// How far a lean may turn from the wish, rad in lead and tilt; and how fast, rad/mm.
Vec2 mostLean(const GuardSpec& spec) { return {spec.leanBy == LeanBy::LeadTilt ? radians(spec.leanLead) : 0.0, radians(spec.leanTilt)}; }
double fastestTurn(const GuardSpec& spec, const Freedom& freedom) {
    return freedom.steepest > 0.0 ? freedom.steepest : 4.0 * std::max(mostLean(spec).maxCoeff(), 0.02) / std::max(0.1, spec.leanOver);
}
/// mm around what is hit within which it may have to lean over and back.
double leanReach(const GuardSpec& spec, const Freedom& freedom) {
    return std::max(3.5 * spec.leanOver, 1.2 * mostLean(spec).maxCoeff() / fastestTurn(spec, freedom) + 0.5 * spec.leanOver);
}

/// Places that are hit, none nearer to another than `apart`.
std::vector<Vec3> placesHit(const std::vector<Pass>& passes, const HitTable& hits, double apart) {
    std::vector<Vec3> places;
    for (std::size_t p = 0; p < passes.size(); ++p)
        for (std::size_t i = 0; i < hits[p].size(); ++i) {
            if (hits[p][i].empty()) continue;
            const Vec3& at = passes[p].path.contact[i];
            if (std::none_of(places.begin(), places.end(), [&](const Vec3& q) { return (q - at).squaredNorm() < apart * apart; })) places.push_back(at);
        }
    return places;
}
bool anyNear(const std::vector<Vec3>& places, const Vec3& at, double reach) {
    return std::any_of(places.begin(), places.end(), [&](const Vec3& q) { return (q - at).squaredNorm() < reach * reach; });
}

bool turns(const Pass& pass) {
    // Lifted places touch nothing, and a hole's cycle has one direction.
    return !pass.whole && pass.path.size() >= 2 && pass.feedDirection.size() == pass.path.size();
}

/// Numbers of the passes that may have to lean.
std::vector<std::size_t> passesNear(const std::vector<Pass>& passes, const HitTable& hits, double reach) {
    const std::vector<Vec3> places = placesHit(passes, hits, 0.1 * reach);
    std::vector<std::size_t> out;
    for (std::size_t p = 0; p < passes.size(); ++p) {
        const auto& at = passes[p].path.contact;
        if (turns(passes[p]) && std::any_of(at.begin(), at.end(), [&](const Vec3& q) { return anyNear(places, q, 1.1 * reach); })) out.push_back(p);
    }
    return out;
}

std::size_t countOf(const HitTable& hits) {
    std::size_t n = 0;
    for (const auto& pass : hits) n += static_cast<std::size_t>(std::count_if(pass.begin(), pass.end(), [](const auto& h) { return !h.empty(); }));
    return n;
}

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

void Leaner::prepare(std::size_t p) {
    Line& line = m_lines[p];
    line.pass = &m_passes[p];
    const Toolpath& path = line.pass->path;
    line.closed = line.pass->closed;
    if (!turns(*line.pass)) return;
    line.wish.resize(path.size());
    for (std::size_t i = 0; i < path.size(); ++i)
        if (path.normal[i].squaredNorm() > 0.5) line.wish[i] = leadTiltOf(path.axis[i], path.normal[i], line.pass->feedDirection[i]);
    const std::size_t n = path.size() - (line.closed ? 1 : 0); // the last one of a closed pass is the first again
    double along = 0.0, last = -1e9;
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) along += (path.contact[i] - path.contact[i - 1]).norm();
        if (along - last < m_step - 1e-9 && i + 1 < n) continue;
        Station s;
        s.at = i;
        s.along = along;
        s.free = m_hits[p][i].empty() && (i + 1 >= path.size() || m_hits[p][i + 1].empty());
        line.stations.push_back(s);
        last = along;
    }
    line.whole = along + (line.closed ? (path.contact[0] - path.contact[n - 1]).norm() : 0.0);
    // What is hit between two stations counts for both.
    for (std::size_t i = 0; i < path.size(); ++i) {
        if (m_hits[p][i].empty()) continue;
        const auto after = std::lower_bound(line.stations.begin(), line.stations.end(), i, [](const Station& s, std::size_t at) { return s.at < at; });
        if (after != line.stations.end()) after->free = false;
        if (after != line.stations.begin()) std::prev(after)->free = false;
        if (line.closed && after == line.stations.end()) line.stations.front().free = false;
    }
}

// Near are those within a few lengths of what is hit, so that it can lean over and back.
void Leaner::findNear() {
    const double reach = leanReach(m_spec, m_freedom);
    const std::vector<Vec3> places = placesHit(m_passes, m_hits, 0.1 * reach);
    parallelFor(m_lines.size(), 1, [&](std::size_t p) {
        Line& line = m_lines[p];
        for (Station& s : line.stations) {
            const Vec3& at = line.pass->path.contact[s.at];
            s.near = !s.free || anyNear(places, at, reach);
            s.near = s.near && line.pass->path.normal[s.at].squaredNorm() > 0.5;
            line.any = line.any || s.near;
        }
        findRuns(line);
    });
}

void Leaner::findRuns(Line& line) const {
    const std::size_t n = line.stations.size();
    if (!line.any) return;
    std::size_t start = 0; // of closed ones: one that is far, so that no run is cut in two
    if (line.closed)
        while (start < n && line.stations[start].near) ++start;
    if (start == n) { // all around: twice, and the middle of it is taken
        std::vector<std::size_t> run(2 * n);
        for (std::size_t k = 0; k < 2 * n; ++k) run[k] = k % n;
        line.runs.push_back(std::move(run));
        return;
    }
    bool open = false;
    for (std::size_t k = 0; k < n; ++k) {
        const std::size_t s = (start + k) % n;
        if (!line.stations[s].near) {
            open = false;
            continue;
        }
        if (!open) line.runs.emplace_back();
        open = true;
        line.runs.back().push_back(s);
    }
    for (const auto& run : line.runs) {
        line.stations[run.front()].pinned = line.closed || run.front() > 0;
        line.stations[run.back()].pinned = line.closed || run.back() + 1 < n;
    }
}

// The nearest station of the pass before and of the one behind.
void Leaner::findBeside(std::size_t p) {
    Line& line = m_lines[p];
    for (Station& s : line.stations) {
        if (!s.near) continue;
        const Vec3& at = line.pass->path.contact[s.at];
        for (const int way : {0, 1}) {
            const auto q = static_cast<std::ptrdiff_t>(p) + 2 * way - 1;
            if (q < 0 || q >= static_cast<std::ptrdiff_t>(m_lines.size())) continue;
            const Line& other = m_lines[static_cast<std::size_t>(q)];
            double least = m_over * m_over;
            std::optional<std::size_t> nearest;
            for (std::size_t k = 0; k < other.stations.size(); ++k) {
                const double d = (other.pass->path.contact[other.stations[k].at] - at).squaredNorm();
                if (d < least) {
                    least = d;
                    nearest = k;
                }
            }
            if (!nearest) continue;
            const double between = std::max(std::sqrt(least), 0.5 * m_step);
            const double same = line.pass->feedDirection[s.at].dot(other.pass->feedDirection[other.stations[*nearest].at]);
            s.beside[static_cast<std::size_t>(way)] = {q, *nearest, 1.0 / (between * between), same < 0.0 ? -1.0 : 1.0};
        }
    }
}

double Leaner::gap(const Line& line, std::size_t from, std::size_t to) const {
    double d = line.stations[to].along - line.stations[from].along;
    if (d <= 0.0 && line.closed) d += line.whole;
    return std::max(d, 1e-3);
}

Vec2 Leaner::wishedBeside(const Station& s, double& weight) const {
    Vec2 sum = Vec2::Zero();
    weight = 0.0;
    for (const Station::Beside& b : s.beside) {
        if (b.pass < 0) continue;
        sum += b.weight * (m_spec.leanBy == LeanBy::LeadTilt ? b.sign : 1.0) * m_known[static_cast<std::size_t>(b.pass)][b.station];
        weight += b.weight;
    }
    return weight > 0.0 ? Vec2(sum / weight) : sum;
}

// Some places of a run, so that a cell of the grid is no faster a turn than is allowed; what is hit begins and ends at one of them.
std::vector<std::size_t> Leaner::thinned(const Line& line, const std::vector<std::size_t>& run, double apart) const {
    std::vector<std::size_t> picked{0};
    double since = 0.0;
    for (std::size_t k = 1; k < run.size(); ++k) {
        since += gap(line, run[k - 1], run[k]);
        const bool edge = line.stations[run[k]].free != line.stations[run[k - 1]].free && since > 0.5 * apart;
        if (since < apart - 1e-9 && !edge && k + 1 < run.size()) continue;
        picked.push_back(k);
        since = 0.0;
    }
    return picked;
}

// The cheapest way through the choices of some places; each is asked once whether it is safe.
// @param widest  rad from one place to the next
// @return false: it had to take one that is not
bool Leaner::cheapest(const Line& line, const std::vector<std::size_t>& run, const std::vector<Choices>& choices, double widest, const SafeAt& safeAt,
                      std::vector<Vec2>& leans) const {
    const std::size_t n = run.size();
    std::vector<std::vector<std::uint16_t>> from(n);
    std::vector<std::vector<char>> bad(n);
    std::vector<double> cost, next;
    parallelFor(n, 1, [&](std::size_t k) {
        HitHints hints = m_guard.hints();
        bad[k].resize(choices[k].size());
        for (std::size_t c = 0; c < bad[k].size(); ++c) bad[k][c] = !safeAt(k, c, hints);
    });
    for (std::size_t k = 0; k < n; ++k) {
        const Station& s = line.stations[run[k]];
        const Choices& mine = choices[k];
        const double before = k > 0 ? gap(line, run[k - 1], run[k]) : m_step, after = k + 1 < n ? gap(line, run[k], run[k + 1]) : m_step;
        double weight = 0.0;
        const Vec2 beside = wishedBeside(s, weight);
        weight = std::min(weight * m_over * m_over, 25.0);
        next.assign(mine.size(), 0.0);
        from[k].assign(mine.size(), 0);
        // No faster than allowed, or than it came here: what stays beside the grid before is always to be had.
        const double shift = k > 0 ? (mine.about - choices[k - 1].about).norm() + 1e-9 : 0.0;
        const double reach = std::max(std::min(m_turn * before, widest), shift), slow = m_over * m_over / before;
        for (std::size_t c = 0; c < mine.size(); ++c) {
            const Vec2 lean = mine.at(c);
            double best = k > 0 ? 1e300 : 0.0;
            if (k > 0)
                choices[k - 1].forNear(lean, reach, [&](std::size_t b) {
                    const double step = (lean - choices[k - 1].at(b)).squaredNorm();
                    if (step > reach * reach) return;
                    if (const double all = cost[b] + slow * step; all < best) {
                        best = all;
                        from[k][c] = static_cast<std::uint16_t>(b);
                    }
                });
            const double own = lean.squaredNorm() + weight * (lean - beside).squaredNorm();
            next[c] = best + 0.5 * (before + after) * (own + (bad[k][c] ? kBlocked : 0.0)) + (s.pinned && lean.norm() > kStill ? kPinned : 0.0);
        }
        cost.swap(next);
    }
    auto c = static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
    bool good = true;
    leans.resize(n);
    for (std::size_t k = n; k-- > 0;) {
        leans[k] = choices[k].at(c);
        good = good && !bad[k][c];
        c = from[k][c];
    }
    return good;
}

// Leans of the picked places, and evenly between them. All around it was gone twice: the middle counts.
void Leaner::take(Line& line, const std::vector<std::size_t>& run, const std::vector<std::size_t>& picked, const std::vector<Vec2>& leans) const {
    const bool around = line.closed && run.size() == 2 * line.stations.size();
    const auto counts = [&](std::size_t k) { return !around || (k >= run.size() / 4 && k < run.size() / 4 + run.size() / 2); };
    for (std::size_t i = 0; i < picked.size(); ++i) {
        if (counts(picked[i])) line.stations[run[picked[i]]].lean = leans[i];
        if (i + 1 == picked.size()) break;
        double whole = 0.0, along = 0.0;
        for (std::size_t k = picked[i]; k < picked[i + 1]; ++k) whole += gap(line, run[k], run[k + 1]);
        for (std::size_t k = picked[i] + 1; k < picked[i + 1]; ++k) {
            along += gap(line, run[k - 1], run[k]);
            if (counts(k)) line.stations[run[k]].lean = leans[i] + along / whole * (leans[i + 1] - leans[i]);
        }
    }
}

// Within a small part of the limits first, then in more of them: little is mostly enough, and far fewer questions.
void Leaner::coarse(std::size_t p, double cell) {
    Line& line = m_lines[p];
    const auto cells = [&](double most) { return static_cast<int>(std::floor(most / cell + 1e-9)); };
    for (const auto& run : line.runs) {
        if (std::all_of(run.begin(), run.end(), [&](std::size_t s) { return line.stations[s].free; })) continue;
        const std::vector<std::size_t> picked = thinned(line, run, std::max(3.0 * m_step, 1.02 * cell / m_turn));
        std::vector<std::size_t> places;
        for (const std::size_t k : picked) places.push_back(run[k]);
        std::vector<Vec2> leans;
        // What was asked within less is known within more.
        const int mostWide = cells(m_most.x()), mostHigh = cells(m_most.y());
        std::vector<std::vector<char>> known(places.size(), std::vector<char>(static_cast<std::size_t>((2 * mostWide + 1) * (2 * mostHigh + 1)), 2));
        for (const double share : {1.0 / 6.0, 1.0 / 3.0, 2.0 / 3.0, 1.0}) {
            const int wide = cells(share * m_most.x()), high = cells(share * m_most.y());
            if (share < 1.0 && wide + high < 2) continue;
            const Choices grid{Vec2(-wide * cell, -high * cell), Vec2::Zero(), cell, 2 * wide + 1, 2 * high + 1, false};
            const auto safeAt = [&](std::size_t k, std::size_t c, HitHints& hints) {
                const int x = static_cast<int>(c) / grid.high - wide + mostWide, y = static_cast<int>(c) % grid.high - high + mostHigh;
                char& answer = known[k][static_cast<std::size_t>(x * (2 * mostHigh + 1) + y)];
                if (answer == 2) answer = safe(line, line.stations[places[k]], grid.at(c), hints) ? 1 : 0;
                return answer == 1;
            };
            if (cheapest(line, places, std::vector<Choices>(places.size(), grid), 4.01 * cell, safeAt, leans)) break;
        }
        take(line, run, picked, leans);
    }
}

void Leaner::finer(std::size_t p, double cell) {
    Line& line = m_lines[p];
    for (const auto& run : line.runs) {
        if (std::all_of(run.begin(), run.end(), [&](std::size_t s) { return line.stations[s].free && line.stations[s].lean.norm() < kStill; })) continue;
        const std::vector<std::size_t> picked = thinned(line, run, std::max(m_step, 1.02 * cell / m_turn));
        std::vector<std::size_t> places;
        std::vector<Choices> choices;
        const auto still = [&](std::size_t i) { // no lean there, nor nearby
            for (std::size_t j = i < 3 ? 0 : i - 3; j <= std::min(picked.size() - 1, i + 3); ++j)
                if (const Station& s = line.stations[run[picked[j]]]; !s.free || s.lean.norm() >= kStill) return false;
            return true;
        };
        for (std::size_t i = 0; i < picked.size(); ++i) {
            const std::size_t k = picked[i];
            places.push_back(run[k]);
            const Vec2& about = line.stations[run[k]].lean;
            Choices& mine = choices.emplace_back();
            if (still(i)) continue;
            mine.cell = cell;
            mine.about = about;
            const auto side = [&](int i) { // how many cells down and up
                const auto room = [&](double to) { return std::clamp(static_cast<int>(std::floor(to / cell + 1e-9)), 0, kFiner); };
                return std::pair(room(about[i] + m_most[i]), room(m_most[i] - about[i]));
            };
            const auto [left, right] = side(0);
            const auto [down, up] = side(1);
            mine.first = about - cell * Vec2(left, down);
            mine.wide = left + right + 1;
            mine.high = down + up + 1;
            mine.wish = about.norm() > 0.0 && about.norm() < 2.0 * kFiner * cell;
        }
        std::vector<Vec2> leans;
        (void)cheapest(
            line, places, choices, kPi, [&](std::size_t k, std::size_t c, HitHints& hints) { return safe(line, line.stations[places[k]], choices[k].at(c), hints); },
            leans);
        take(line, run, picked, leans);
    }
}

// One round towards what its neighbours say, where that is safe.
void Leaner::relax(std::size_t p) {
    Line& line = m_lines[p];
    HitHints hints = m_guard.hints();
    const std::size_t n = line.stations.size();
    const auto neighbour = [&](std::size_t s, int by) -> std::optional<std::size_t> {
        const auto k = static_cast<std::ptrdiff_t>(s) + by, count = static_cast<std::ptrdiff_t>(n);
        if (line.closed && n > 4) return static_cast<std::size_t>((k + count) % count);
        if (k < 0 || k >= count) return std::nullopt;
        return static_cast<std::size_t>(k);
    };
    const double over2 = m_over * m_over, bend = 0.0625 * over2 * over2;
    for (std::size_t s = 0; s < n; ++s) {
        Station& here = line.stations[s];
        if (!here.near || here.pinned) continue;
        Vec2 sum = Vec2::Zero();
        double weight = 1.0; // of the wish itself
        const auto a = neighbour(s, -1), b = neighbour(s, 1), aa = neighbour(s, -2), bb = neighbour(s, 2);
        const auto pull = [&](std::size_t to, double d) {
            sum += over2 / (d * d) * line.stations[to].lean;
            weight += over2 / (d * d);
        };
        if (a) pull(*a, gap(line, *a, s));
        if (b) pull(*b, gap(line, s, *b));
        if (a && b && aa && bb) { // against bending, as if they lay evenly
            const double d = 0.5 * (gap(line, *a, s) + gap(line, s, *b)), w = bend / (d * d * d * d);
            sum += w * (4.0 * (line.stations[*a].lean + line.stations[*b].lean) - line.stations[*aa].lean - line.stations[*bb].lean);
            weight += 6.0 * w;
        }
        double across = 0.0;
        const Vec2 beside = wishedBeside(here, across);
        sum += over2 * across * beside;
        weight += over2 * across;
        const Vec2 goal = (sum / weight).cwiseMax(-m_most).cwiseMin(m_most);
        if ((goal - here.lean).norm() < kMoves) continue;
        const auto allowed = [&](const Vec2& lean) {
            for (const auto& to : {a, b})
                if (to) {
                    const double d = to == a ? gap(line, *to, s) : gap(line, s, *to);
                    const double now = (here.lean - line.stations[*to].lean).norm(), then = (lean - line.stations[*to].lean).norm();
                    if (then > m_turn * d && then > now) return false;
                }
            return safe(line, here, lean, hints);
        };
        if (!here.sure) here.sure = safe(line, here, here.lean, hints);
        if (!here.sure) {
            here.lean = goal; // nothing to lose
            continue;
        }
        // A little further than asked, so that it comes there sooner; else less.
        for (const double share : {1.3, 0.65, 0.3})
            if (const Vec2 lean = (here.lean + share * (goal - here.lean)).cwiseMax(-m_most).cwiseMin(m_most); allowed(lean)) {
                line.moved = std::max(line.moved, (lean - here.lean).norm());
                here.lean = lean.norm() < kStill ? Vec2(Vec2::Zero()) : lean;
                break;
            }
    }
}

void Leaner::publish(std::size_t p) {
    for (std::size_t k = 0; k < m_lines[p].stations.size(); ++k) m_known[p][k] = m_lines[p].stations[k].lean;
}

bool Leaner::run(Progress& progress) {
    m_lines.resize(m_passes.size());
    parallelFor(m_passes.size(), 1, [&](std::size_t p) { prepare(p); });
    for (const Line& line : m_lines) m_known.emplace_back(line.stations.size(), Vec2::Zero());
    findNear();
    parallelFor(m_passes.size(), 1, [&](std::size_t p) { findBeside(p); });
    double cell = std::max(radians(2.5), std::max(m_most.x(), m_most.y()) / kCells);
    // One after the other, so that each can be like the one before.
    for (std::size_t p = 0; p < m_lines.size(); ++p) {
        if (progress.cancelled()) return false;
        progress.report(0.6 * static_cast<double>(p) / static_cast<double>(m_lines.size()), "Leaning away");
        coarse(p, cell);
        publish(p);
    }
    const auto all = [&](const auto& step) {
        if (!parallelFor(m_lines.size(), 1, step, &progress) || progress.cancelled()) return false;
        for (std::size_t p = 0; p < m_lines.size(); ++p) publish(p);
        return true;
    };
    for (cell /= kFiner; cell > radians(0.12); cell /= kFiner)
        if (!all([&](std::size_t p) { finer(p, cell); })) return false;
    constexpr int kRounds = 40;
    for (int round = 0; round < kRounds; ++round) {
        std::vector<double> moved;
        for (const Line& line : m_lines) moved.push_back(line.any ? line.moved : 0.0);
        if (*std::max_element(moved.begin(), moved.end()) < kMoves) break;
        // Every other pass, then those between: each sees what those beside it have come to.
        for (const std::size_t odd : {0u, 1u}) {
            const auto step = [&](std::size_t p) { // where it or one beside it has moved
                if (p % 2 != odd) return;
                m_lines[p].moved = 0.0;
                const double around = std::max({moved[p], p > 0 ? moved[p - 1] : 0.0, p + 1 < moved.size() ? moved[p + 1] : 0.0});
                if (around >= kMoves) relax(p);
            };
            if (!all(step)) return false;
        }
    }
    return parallelFor(
        m_lines.size(), 1,
        [&](std::size_t p) {
            HitHints hints = m_guard.hints();
            for (Station& s : m_lines[p].stations) s.sure = s.sure || safe(m_lines[p], s, s.lean, hints);
        },
        &progress);
}

void Leaner::write(LeanResult& out) {
    for (std::size_t p = 0; p < m_lines.size(); ++p) {
        Line& line = m_lines[p];
        if (!line.any) continue;
        Toolpath& path = line.pass->path;
        const std::size_t n = line.stations.size(), count = path.size() - (line.closed ? 1 : 0);
        const std::vector<Vec3> wished = path.axis;
        std::vector<AxisPose> turned(count);
        std::vector<double> along(count, 0.0);
        for (std::size_t i = 1; i < count; ++i) along[i] = along[i - 1] + (path.contact[i] - path.contact[i - 1]).norm();
        std::size_t k = 0;
        for (std::size_t i = 0; i < count; ++i) {
            while (k + 1 < n && line.stations[k + 1].at <= i) ++k;
            const Station &a = line.stations[k], &b = line.stations[k + 1 < n ? k + 1 : line.closed ? 0 : k];
            const double span = &a == &b ? 0.0 : gap(line, k, k + 1 < n ? k + 1 : 0);
            const double t = span > 0.0 ? std::clamp((along[i] - a.along) / span, 0.0, 1.0) : 0.0;
            const Vec2 lean = (1.0 - t) * a.lean + t * b.lean;
            turned[i] = {path.tip[i], path.axis[i]};
            if (lean.norm() < kStill || path.normal[i].squaredNorm() < 0.5) continue;
            const Vec3 axis = axisAt(line, i, lean);
            turned[i] = m_freedom.turned(*line.pass, i, axis);
            const double by = angleBetween(axis, wished[i]);
            if (by < 10.0 * kStill) continue;
            ++out.leaned;
            out.rows.insert(line.pass->row);
            if (by > out.most) {
                out.most = by;
                out.pass = p;
                out.at = i;
            }
        }
        for (std::size_t i = 0; i < path.size(); ++i) {
            const std::size_t from = i % count;
            if (m_freedom.tipTouches) path.contact[i] = turned[from].tip;
            path.tip[i] = turned[from].tip;
            path.axis[i] = turned[from].axis;
        }
        for (std::size_t i = 1; i < path.size(); ++i) {
            const double d = (path.contact[i] - path.contact[i - 1]).norm();
            const bool here = angleBetween(path.axis[i], wished[i]) > kStill || angleBetween(path.axis[i - 1], wished[i - 1]) > kStill;
            if (here && d > 1e-6) out.steepest = std::max(out.steepest, angleBetween(path.axis[i], path.axis[i - 1]) / d);
        }
    }
}

bool Leaner::surprised(const HitTable& left) const {
    for (std::size_t p = 0; p < m_lines.size(); ++p) {
        const auto& stations = m_lines[p].stations;
        for (std::size_t i = 0; i < left[p].size(); ++i) {
            if (left[p][i].empty()) continue;
            const auto after = std::lower_bound(stations.begin(), stations.end(), i, [](const Station& s, std::size_t at) { return s.at < at; });
            const bool ahead = after == stations.end() || after->sure, behind = after == stations.begin() || std::prev(after)->sure;
            if (ahead && behind) return true;
        }
    }
    return false;
}

} // namespace

bool leanPasses(const Guard& guard, const Freedom& freedom, std::vector<Pass>& passes, HitTable& hits, LeanResult& out, Progress& progress) {
    if (!freedom.turned) return true;
    const double step = stationStep(guard.spec());
    const std::vector<std::size_t> near = passesNear(passes, hits, leanReach(guard.spec(), freedom));
    if (near.empty()) return true;
    std::vector<Pass> wished;
    for (const std::size_t p : near) wished.push_back(divided(passes[p], step));
    HitTable wishedHits;
    std::vector<char> anew(near.size());
    for (std::size_t k = 0; k < near.size(); ++k) {
        anew[k] = wished[k].path.size() != passes[near[k]].path.size();
        wishedHits.push_back(hits[near[k]]);
    }
    if (!findHits(guard, wished, anew, wishedHits, &progress)) return false;
    std::size_t least = countOf(wishedHits);
    // Between the stations, and on the way, a little more room is needed than at them: as much as it takes.
    for (const double margin : {0.06, 0.3}) {
        std::vector<Pass> tried = wished;
        LeanResult result;
        Leaner leaner(guard, freedom, tried, wishedHits, margin);
        if (!leaner.run(progress)) return false;
        leaner.write(result);
        HitTable left = wishedHits;
        for (std::size_t k = 0; k < near.size(); ++k) anew[k] = tried[k].path.axis != wished[k].path.axis;
        if (!findHits(guard, tried, anew, left, &progress)) return false;
        const std::size_t now = countOf(left);
        const bool again = leaner.surprised(left);
        if (now >= least) {
            if (!again) break;
            continue;
        }
        least = now;
        out = std::move(result);
        out.pass = near[out.pass];
        for (std::size_t k = 0; k < near.size(); ++k) {
            passes[near[k]] = std::move(tried[k]);
            hits[near[k]] = std::move(left[k]);
        }
        if (least == 0 || !again) break;
    }
    return true;
}

std::optional<NeededLean> neededLean(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at) {
    if (!freedom.turned || !turns(pass) || pass.path.normal[at].squaredNorm() < 0.5) return std::nullopt;
    const Vec3 wish = pass.path.axis[at], x = anyPerpendicular(wish), y = wish.cross(x);
    HitHints hints = guard.hints();
    const LeadTilt now = leadTiltOf(wish, pass.path.normal[at], pass.feedDirection[at]);
    // Rings around the wish, the nearest first.
    for (double turn = 1.0; turn < 120.0; turn += 1.0) {
        const int around = std::max(12, static_cast<int>(std::ceil(360.0 * std::sin(radians(turn)) / 2.0)));
        for (int k = 0; k < around; ++k) {
            const double angle = 2.0 * kPi * k / around;
            const Vec3 axis = std::cos(radians(turn)) * wish + std::sin(radians(turn)) * (std::cos(angle) * x + std::sin(angle) * y);
            if (const double high = angleBetween(axis, Vec3::UnitZ()); high < freedom.low - 1e-9 || high > freedom.high + 1e-9) continue;
            if (freedom.reached && !freedom.reached(axis)) continue;
            if (guard.blocked(freedom.turned(pass, at, axis), 0.0, hints)) continue;
            const LeadTilt then = leadTiltOf(axis, pass.path.normal[at], pass.feedDirection[at]);
            return NeededLean{std::remainder(then.lead - now.lead, 2.0 * kPi), then.tilt - now.tilt, radians(turn)};
        }
    }
    return std::nullopt;
}

} // namespace gyre
