// How it is found: a grid of leans at every station of a stretch, safe or not; the cheapest way through by dynamic programming, again on finer grids about
// that, then relaxed against its neighbours along and across as long as it stays safe. What has no safe lean at all is left to be told.
#include "guard/LeanSearch.h"
#include "base/Parallel.h"

namespace gyre::leaning {

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

} // namespace gyre::leaning
