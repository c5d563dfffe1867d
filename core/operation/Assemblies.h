// Which assemblies do the work of an operation: how much of it they reach, how far they must stick out for that, how stiff they are then.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "tool/Assembly.h"
#include <optional>

namespace gyre {

struct OperationResult;
struct Recipe;
struct Workplace;

struct AssemblyFit {
    Assembly tool;          ///< sticking out as said below
    double reached = 0.0;   ///< share of the way that it cuts without coming too near to anything, 0 … 1
    double stickOut = 0.0;  ///< mm: the shortest with which it reaches that much
    double stiffness = 0.0; ///< against the operation's own assembly as it sticks out now; less is softer
    bool sameCut = true;    ///< its cutting end is that of the operation's own: the passes stay as they are
    std::optional<double>
        lean; ///< rad: where it does not reach, a direction that far from the wish is free at each of some places; empty: not at all of them, or its axis is not free
    std::string blockedBy; ///< "holder, clamp 2": what stops it at most places that it does not reach
};

/// How much the tip gives way to a force across, mm⁻¹ for each unit of E: ∫ x²/d⁴ from the tip to the holder, as it is for stepped bars but for a factor.
/// Flutes count with four fifths of their diameter.
[[nodiscard]] double complianceOf(const Assembly& tool);

/// Each of these for the operation, the best first: those that reach most, and of those the stiffest. The axis stays as it is wished; what cuts with
/// another end than the operation's own is placed anew at every contact. Looked at in thousands of places, and what seems to reach all of it
/// everywhere between them.
/// @param result  of the operation with its own assembly; its passes are needed
/// @param step    mm: stick-outs are rounded up to it
[[nodiscard]] Result<std::vector<AssemblyFit>> assembliesFor(const Workplace& place, const Recipe& recipe, const OperationResult& result,
                                                             const std::vector<Assembly>& tools, double step, Progress& progress);

} // namespace gyre
