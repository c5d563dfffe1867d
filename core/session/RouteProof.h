// Proof of a route: every operation at the machine, and against the stock as those before it leave it.
#pragma once
#include "job/Job.h"
#include "proof/Proof.h"
#include "session/RouteStock.h"
#include <optional>

namespace gyre {

/// Changes when the stock does that an operation finds: the stock as it is set up, and what has been done to it.
[[nodiscard]] std::uint64_t stockFound(const Workplace& place, const std::vector<std::shared_ptr<const OperationResult>>& before);

class RouteProof {
public:
    /// @param kept  where states of the stock are kept
    RouteProof(std::shared_ptr<const Workplace> place, StageCache& kept) : m_place(std::move(place)), m_stock(m_place, kept) {}
    /// Operations in the order of the route; those that are left out need not be given. @return an error only when called off
    [[nodiscard]] Result<ProofResult> next(const std::shared_ptr<const OperationResult>& operation, const ProofSpec& spec, Progress& progress);
    /// What is left after those that were given.
    [[nodiscard]] Result<std::shared_ptr<const Stock>> left(Progress& progress) const { return m_stock.now(progress); }

private:
    [[nodiscard]] Status tellHeavy(std::size_t operation, std::vector<Finding>& findings, Progress& progress) const;
    void tellLoose(const Stock& stock, const OperationResult& operation, std::vector<Finding>& findings);
    std::shared_ptr<const Workplace> m_place;
    RouteStock m_stock;
    std::vector<std::shared_ptr<const OperationResult>> m_before;
    std::optional<std::vector<StockPiece>> m_pieces; ///< that the stock lies in; not known before the first operation
};

} // namespace gyre
