// Stage 2, Pattern: rows over the target as level sets of a field.
#pragma once
#include "base/Finding.h"
#include "base/Progress.h"
#include "geom/TriangleMesh.h"
#include "part/Part.h"
#include "path/Toolpath.h"
#include "pattern/RawRows.h"
#include <array>
#include <optional>

namespace gyre {

struct PatternSpec;
class WhereKept;
class RowsBeside;

/// What rows go by besides their words.
struct RowHelp {
    const WhereKept* where = nullptr;   ///< rows end where it does not hold
    std::vector<Polyline> curves;       ///< strokes that rows run along, or the curves that they are
    const RowsBeside* beside = nullptr; ///< rows of other operations that these begin at
    std::array<bool, 2> corner{};       ///< rails that lie in a corner: rows begin half a step from them, whatever is asked for
    bool guidesAsTheyLie = false;       ///< guides are corners: they keep the levels that rows without them would have there, and no row runs on them
    bool railsGoOn = false;             ///< where the faces go on beyond the ends of the rails, the rails run on straight to the border
};

/// What rows know of the cutter.
struct RowCutter {
    double radius = 0.0;            ///< of what touches, for the chord tolerance; 0: an edge
    std::optional<Scallop> scallop; ///< that it leaves; none where that cannot be told
    RowCutter(double ballRadius) : radius(ballRadius) {
        if (ballRadius > 0.0) scallop.emplace(ballRadius);
    }
    RowCutter(double contactRadius, const Scallop& left) : radius(contactRadius), scallop(left) {}
};

struct PatternResult {
    std::vector<Row> rows; ///< in cutting order, each in cutting direction
    std::vector<Polyline> rails;
    double spacing = 0.0;          ///< asked for, from the scallop, or what the count comes to
    double widestGap = 0.0;        ///< measured
    std::vector<StepAcross> steps; ///< those that leave most, as measured; empty where rows are given, not laid
    double rowsLength = 0.0;
    std::size_t turns = 0; ///< rounds of the spirals
    TriangleMesh region;   ///< of the faces, where rows are kept to a part of them
    std::vector<Finding> findings;
};

/// The rows of other faces after those that are there, and what is told of them.
void append(PatternResult& to, PatternResult&& more);
inline constexpr const char* kNothingKept = "no row lies where rows are to be kept";

/// The highest scallop that is left between the rows.
[[nodiscard]] double scallopBetween(const PatternResult& rows, const Scallop& scallop);

[[nodiscard]] Result<PatternResult> layRows(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowCutter& cutter, Progress& progress,
                                            const RowHelp& help = {});

} // namespace gyre
