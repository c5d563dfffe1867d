#include "session/RouteProof.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/StockOnTheWay.h"
#include "operation/Workplace.h"
#include "session/MachineInStock.h"
#include "stock/CutFeed.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {
constexpr double kSmallestSlug = 50.0; // mm³
constexpr std::size_t kMostHeavy = 6;  // of a kind, told one by one
} // namespace

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
    const Standing start = standingAfter(*m_place->machine, last);
    Result<ProofResult> proof = [&] {
        const Progress::Span span(progress, 0.0, 0.6);
        return prove(*m_place, *operation, spec, progress, start);
    }();
    if (!proof) return proof;
    proof->stock = stockFound(*m_place, m_before);
    const PresentStock present = [this](Progress& p) { return m_stock.now(p); };
    {
        const Progress::Span span(progress, 0.6, 0.85);
        progress.report(0.0, "Looking at the stock on the way");
        auto met = toolThroughStock(*m_place, *operation, present, progress);
        if (!met) return tl::unexpected(met.error());
        proof->findings.insert(proof->findings.end(), met->begin(), met->end());
    }
    {
        const Progress::Span span(progress, 0.85, 1.0);
        auto met = machineThroughStock(*m_place, *operation, spec, start, present, progress);
        if (!met) return tl::unexpected(met.error());
        proof->findings.insert(proof->findings.end(), met->begin(), met->end());
    }
    const std::size_t done = m_stock.operations().size();
    const bool stock = std::any_of(m_place->bodies.begin(), m_place->bodies.end(), [](const PlacedBody& b) { return b.role == "stock"; });
    m_stock.add(operation);
    m_before.push_back(operation);
    if (!stock || m_stock.operations().size() == done) return proof;
    if (auto ok = tellHeavy(done, proof->findings, progress); !ok) return tl::unexpected(ok.error());
    if (!m_pieces) {
        const auto first = m_stock.after(done, progress);
        if (first) m_pieces = (*first)->stock.pieces();
    }
    const auto after = m_stock.after(done + 1, progress);
    if (progress.cancelled()) return cancelledError();
    if (after && m_pieces) tellLoose((*after)->stock, *operation, proof->findings);
    return proof;
}

namespace {

Finding heavyFinding(const OperationResult& operation, const HeavyCut& cut) {
    const Toolpath& path = *operation.path();
    const Vec3& p = path.tip[cut.worst];
    Finding f;
    f.rank = cut.slowed ? Rank::Note : Rank::Look;
    f.check = Check::Machine;
    f.code = "heavy-cut";
    f.stage = "Proof";
    f.operation = operation.operation;
    f.row = path.row[cut.worst];
    f.amount = cut.amount;
    f.span = {cut.first, cut.last};
    f.place = {p.x(), p.y(), p.z()};
    const std::string where = passName(operation.links->originOf(f.row), f.row);
    double way = 0.0;
    for (std::size_t i = std::max<std::size_t>(cut.first, 1); i <= cut.last; ++i) way += (path.tip[i] - path.tip[i - 1]).norm();
    switch (cut.what) {
    case HeavyCut::What::Engaged:
        f.text = fmt::format("{:.0f}° of the cutter's round stand in material over {:.3g} mm in {}; its tool may {:.0f}°", cut.amount, way, where, cut.limit);
        f.reason = "the step is too wide there, or the cutter runs into a corner or a full cut";
        break;
    case HeavyCut::What::Deep:
        f.text = fmt::format("it cuts {:.2f} mm deep along its axis over {:.3g} mm in {}; its tool may {:.2f} mm", cut.amount, way, where, cut.limit);
        f.reason = "more stands there than was meant to; a step down, or an operation before it, would take it in parts";
        break;
    case HeavyCut::What::Chip:
        f.text = fmt::format("the chip is {:.3f} mm thick over {:.3g} mm in {}; its tool may {:.3f} mm", cut.amount, way, where, cut.limit);
        f.reason = "it is fed too fast there";
        if (const double feed = std::floor(static_cast<double>(path.feed[cut.worst]) * cut.limit / cut.amount); feed > 0.0 && !operation.cutFeed)
            f.remedies.push_back({fmt::format("Feed at {:.0f} mm/min", feed), "feed", fmt::format("{:.0f}", feed)});
        break;
    }
    if (!operation.cutFeed) f.remedies.push_back({"Let the feed follow the cut", "feedByCut.on", "true"});
    if (cut.slowed) f.reason = "it is fed slower there in proportion";
    return f;
}

} // namespace

// Only where somebody said what the tool may take: to measure it takes as long as to cut the stock.
Status RouteProof::tellHeavy(std::size_t operation, std::vector<Finding>& findings, Progress& progress) const {
    const OperationResult& own = *m_stock.operations()[operation];
    if (!own.tool.limits.any() || own.drill) return {};
    const auto engaged = m_stock.engagementOf(operation, progress, Places::All);
    if (!engaged) return tl::unexpected(engaged.error());
    std::vector<HeavyCut> cuts = heavyCuts(*own.path(), *engaged, own.tool.limits, own.cutFeed ? own.cutFeed->share : std::vector<float>());
    std::stable_sort(cuts.begin(), cuts.end(), [](const HeavyCut& a, const HeavyCut& b) { return a.what != b.what ? a.what < b.what : a.amount > b.amount; });
    for (std::size_t i = 0, first = 0; i < cuts.size(); ++i) {
        if (cuts[i].what != cuts[first].what) first = i;
        if (i - first < kMostHeavy) {
            findings.push_back(heavyFinding(own, cuts[i]));
            continue;
        }
        const auto end = std::find_if(cuts.begin() + static_cast<std::ptrdiff_t>(i), cuts.end(), [&](const HeavyCut& c) { return c.what != cuts[first].what; });
        const auto more = end - cuts.begin() - static_cast<std::ptrdiff_t>(i);
        findings.back().text += fmt::format("; and {} more {}", more, more == 1 ? "stretch" : "stretches");
        i = static_cast<std::size_t>(end - cuts.begin()) - 1;
    }
    return {};
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
