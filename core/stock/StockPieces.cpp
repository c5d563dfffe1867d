// In how many pieces a stock lies.
#include "base/Groups.h"
#include "base/Parallel.h"
#include "stock/Stock.h"
#include <algorithm>

namespace gyre {

// Stretches of neighbouring rays that overlap hang together.
std::vector<StockPiece> Stock::piecesAlong(const Field& f) const {
    const auto rays = static_cast<std::size_t>(f.count[0]) * static_cast<std::size_t>(f.count[1]), wide = static_cast<std::size_t>(f.count[1]);
    std::vector<std::uint32_t> first(rays + 1, 0);
    std::vector<StockSpan> spans;
    for (std::size_t i = 0; i < rays; ++i) {
        f.rays[i].each([&](const StockSpan& s) { spans.push_back(s); });
        first[i + 1] = static_cast<std::uint32_t>(spans.size());
    }
    Groups groups(spans.size());
    const auto joinRays = [&](std::size_t one, std::size_t other) {
        for (std::uint32_t a = first[one], b = first[other]; a < first[one + 1] && b < first[other + 1];) {
            if (std::min(spans[a].to, spans[b].to) > std::max(spans[a].from, spans[b].from)) groups.join(a, b);
            (spans[a].to < spans[b].to ? a : b) += 1;
        }
    };
    for (std::size_t i = 0; i < rays; ++i) {
        if (i + wide < rays) joinRays(i, i + wide);
        if ((i + 1) % wide != 0) joinRays(i, i + 1);
    }
    std::vector<StockPiece> pieces;
    std::vector<std::uint32_t> number(spans.size(), 0);
    for (std::size_t i = 0; i < rays; ++i)
        for (std::uint32_t s = first[i]; s < first[i + 1]; ++s) {
            const std::uint32_t group = groups.find(s);
            if (group == s) {
                number[s] = static_cast<std::uint32_t>(pieces.size());
                pieces.push_back({0.0, Vec3::Zero()});
            }
            StockPiece& piece = pieces[number[group]];
            const double from = static_cast<double>(spans[s].from), to = static_cast<double>(spans[s].to), volume = (to - from) * m_cell * m_cell;
            Vec3 at = middle(f, static_cast<int>(i / wide), static_cast<int>(i % wide));
            at[f.axis] = 0.5 * (from + to);
            piece.volume += volume;
            piece.middle += volume * at;
        }
    const double crumb = std::pow(3.0 * m_cell, 3);
    std::erase_if(pieces, [&](const StockPiece& p) { return p.volume < crumb; });
    for (StockPiece& p : pieces) p.middle /= p.volume;
    return pieces;
}

// Where a wall is thinner than a cell, rays may pass beside it: only what the rays of all three directions see apart is apart.
std::vector<StockPiece> Stock::pieces() const {
    std::array<std::vector<StockPiece>, 3> seen;
    parallelFor(3, 1, [&](std::size_t k) { seen[k] = piecesAlong(m_fields[k]); });
    const auto same = [&](const StockPiece& a, const StockPiece& b) {
        return std::abs(a.volume - b.volume) < 0.1 * a.volume + std::pow(3.0 * m_cell, 3) && (a.middle - b.middle).norm() < 3.0 * m_cell + 0.05 * std::cbrt(a.volume);
    };
    const auto with = [&](const StockPiece& p, std::size_t k) { return std::any_of(seen[k].begin(), seen[k].end(), [&](const StockPiece& q) { return same(p, q); }); };
    std::vector<StockPiece> out;
    for (const StockPiece& p : seen[2])
        if (with(p, 0) && with(p, 1)) out.push_back(p);
    std::sort(out.begin(), out.end(), [](const StockPiece& a, const StockPiece& b) { return a.volume > b.volume; });
    return out;
}

} // namespace gyre
