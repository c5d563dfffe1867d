// A recipe run through the stages.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include <concepts>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>

namespace gyre {

class StageCache;
class Stock;
struct Assembly;
struct OperationResult;
struct Recipe;
struct Workplace;

/// Runs the stages in order; those whose inputs have not changed come from the cache. Only cancellation is an error: what goes
/// wrong in a stage is a finding of rank Stop, and the stages before it are still there.
/// @param early  gets the path as soon as it is there, before the clearances along it have been measured
/// @param before  asked for only where it is needed
using PresentStock = std::function<Result<std::shared_ptr<const Stock>>(Progress&)>;
using EarlyResult = std::function<void(std::shared_ptr<const OperationResult>)>;
/// What operations before it came to.
struct Before {
    PresentStock stock;
    std::function<std::shared_ptr<const OperationResult>(const std::string& id)> result; ///< null where there is none
    Before() = default;
    template <std::invocable<Progress&> Stock> Before(Stock present) : stock(std::move(present)) {}
    template <class Stock, class Results> Before(Stock present, Results results) : stock(std::move(present)), result(std::move(results)) {}
};
[[nodiscard]] Result<std::shared_ptr<const OperationResult>> runOperation(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress,
                                                                          const EarlyResult& early = {}, const Before& before = {});

/// Changes when anything changes that the operation's result rests on.
[[nodiscard]] std::uint64_t operationKey(std::uint64_t placeKey, const Recipe& recipe, const Assembly* tool);

} // namespace gyre
