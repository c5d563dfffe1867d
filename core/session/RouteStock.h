// The stock over the route: what stands after every operation, and anywhere on the way of one.
#pragma once
#include "base/Hash.h"
#include "operation/Operation.h"
#include "operation/StageCache.h"
#include "stock/Engagement.h"
#include <functional>

namespace gyre {

struct OperationResult;
struct Workplace;

/// The stock behind an operation, and how it came about.
struct StockAfter {
    Stock stock;
    std::vector<double> taken; ///< mm³ that went on the way to each location of the operation's path
};

/// What cutting a path is like.
struct CutFigures {
    std::vector<float> rate;        ///< cm³/min on the way to each location, over ten cells' length to either side; 0 where nothing is cut
    double most = 0.0;              ///< of them
    std::size_t mostAt = 0;         ///< its location
    double cutting = 0.0;           ///< s at cutting feed, passes alone
    double air = 0.0, airWay = 0.0; ///< of that in air: s, mm. Only stretches of ten cells and more count, for what is thinner may be missed
    double cell = 0.0;              ///< mm, that it was measured with
    Engagement engagement;          ///< empty while that is not measured
};
/// @param timeOf  s from the start of the path, by location
[[nodiscard]] CutFigures cutFigures(const Toolpath& path, const StockAfter& after, const std::function<double(std::size_t)>& timeOf);

/// Operations in their order. What is left after each is kept by what it rests on. Cells are a 300th of the stock's size, at least 0.1 mm.
/// Surfaces carry the number of the operation that made them, counted from 1 among those with a path; 0: the stock as it was set up.
class RouteStock {
public:
    RouteStock(std::shared_ptr<const Workplace> place, StageCache& kept);
    void add(const std::shared_ptr<const OperationResult>& done);
    /// One of them by its id; null where there is none.
    [[nodiscard]] std::shared_ptr<const OperationResult> result(const std::string& id) const;
    /// For the next operation. No longer than this lives.
    [[nodiscard]] Before before() const;
    /// Those with a path.
    [[nodiscard]] const std::vector<std::shared_ptr<const OperationResult>>& operations() const { return m_done; }

    /// After all of them.
    [[nodiscard]] Result<std::shared_ptr<const Stock>> now(Progress& progress) const;
    /// After so many of them; 0: as it was set up.
    [[nodiscard]] Result<std::shared_ptr<const StockAfter>> after(std::size_t operations, Progress& progress) const;
    /// How heavily the cutter of one of them stands in what it cuts.
    [[nodiscard]] Result<Engagement> engagementOf(std::size_t operation, Progress& progress, Places places = Places::Some) const;
    /// After so many of them and some locations of the next one's path. States on the way there are kept in `moments`, so that going to and fro is quick.
    [[nodiscard]] Result<std::shared_ptr<const Stock>> at(std::size_t operations, std::size_t locations, StageCache& moments, Progress& progress) const;

private:
    [[nodiscard]] std::uint64_t keyAfter(std::size_t operations) const;
    std::shared_ptr<const Workplace> m_place;
    StageCache& m_kept;
    Hash m_setUp; ///< of the stock as it was set up
    std::vector<std::shared_ptr<const OperationResult>> m_done;
};

} // namespace gyre
