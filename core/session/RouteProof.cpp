#include "session/RouteProof.h"
#include "operation/StockOnTheWay.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {
constexpr double kSmallestSlug = 50.0; // mm³
}

std::uint64_t stockFound(const Workplace& place, const std::vector<std::shared_ptr<const OperationResult>>& before) {
    Hash key;
    key.add(place.stock);
    for (const auto& r : before)
        if (r && r->path()) key.add(r->key);
    return key.value();
}

Result<ProofResult> RouteProof::next(const std::shared_ptr<const OperationResult>& operation, const ProofSpec& spec, Progress& progress) {
    const OperationResult* last = nullptr;
    for (const auto& r : m_before)
        if (!r->omitted) last = r.get();
    Result<ProofResult> proof = [&] {
        const Progress::Span span(progress, 0.0, 0.6);
        return prove(*m_place, *operation, spec, progress, standingAfter(*m_place->machine, last));
    }();
    if (!proof) return proof;
    proof->stock = stockFound(*m_place, m_before);
    {
        const Progress::Span span(progress, 0.6, 1.0);
        progress.report(0.0, "Looking at the stock on the way");
        auto met = toolThroughStock(
            *m_place, *operation, [this](Progress& p) { return m_stock.now(p); }, progress);
        if (!met) return tl::unexpected(met.error());
        proof->findings.insert(proof->findings.end(), met->begin(), met->end());
    }
    const std::size_t done = m_stock.operations().size();
    const bool stock = std::any_of(m_place->bodies.begin(), m_place->bodies.end(), [](const PlacedBody& b) { return b.role == "stock"; });
    m_stock.add(operation);
    m_before.push_back(operation);
    if (!stock || m_stock.operations().size() == done) return proof;
    if (!m_pieces) {
        const auto first = m_stock.after(done, progress);
        if (first) m_pieces = (*first)->stock.pieces();
    }
    const auto after = m_stock.after(done + 1, progress);
    if (progress.cancelled()) return cancelledError();
    if (after && m_pieces) tellLoose((*after)->stock, *operation, proof->findings);
    return proof;
}

// More pieces than before: of those that were not there as they are, the largest is what is held.
void RouteProof::tellLoose(const Stock& stock, const OperationResult& operation, std::vector<Finding>& findings) {
    std::vector<StockPiece> now = stock.pieces(), loose;
    const auto there = [&](const StockPiece& p) {
        return std::any_of(m_pieces->begin(), m_pieces->end(),
                           [&](const StockPiece& k) { return (k.middle - p.middle).norm() < stock.cell() && std::abs(k.volume - p.volume) < 0.01 * k.volume; });
    };
    const std::size_t more = now.size() > m_pieces->size() ? now.size() - m_pieces->size() : 0;
    const double slug = std::max(kSmallestSlug, std::pow(6.0 * stock.cell(), 3)); // what is smaller goes with the chips
    for (std::size_t i = now.size(), seen = 0; i-- > 0 && seen < more;) {
        if (there(now[i])) continue;
        ++seen;
        if (now[i].volume >= slug) loose.push_back(now[i]);
    }
    m_pieces = std::move(now);
    if (loose.empty()) return;
    const StockPiece& largest = loose.back();
    Finding f;
    f.rank = Rank::Look;
    f.check = Check::Machine;
    f.code = "piece-loose";
    f.stage = "Proof";
    f.operation = operation.operation;
    f.amount = largest.volume;
    f.span = {operation.path()->size() - 1, operation.path()->size() - 1}; // when all is cut
    f.place = {largest.middle.x(), largest.middle.y(), largest.middle.z()};
    f.text = loose.size() == 1 ? fmt::format("a piece of {:.3g} cm³ comes loose from the stock", 1e-3 * f.amount)
                               : fmt::format("{} pieces come loose from the stock, the largest of {:.3g} cm³", loose.size(), 1e-3 * f.amount);
    f.reason = "nothing holds it any more while the tool is beside it: leave a bridge, cut it up, or hold it";
    findings.push_back(f);
}

} // namespace gyre
