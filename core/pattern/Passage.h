// Rows through a passage: down one wall, over the floor, up the other wall, and over what stands between.
#pragma once
#include "pattern/Pattern.h"

namespace gyre {

/// The upper edges of what a passage lies between, and of what stands in it.
struct PassageEdges {
    std::vector<int> first, second, between;
};
/// Of the faces that stand on others, each on one line of edges, the two with the longest are the walls; all others stand between them. Their upper edges
/// are those that meet no end of that line.
[[nodiscard]] Result<PassageEdges> proposePassage(const Part& part, const std::vector<int>& faces);

/// Rows over each of the faces' parts between the edges that part them, in one sequence: from the upper edge of one wall (rail 1) down to the floor, over
/// this to the next wall, and where something stands in between (guides: its upper edges), up and down that. On the floor rows keep to
/// its feet; those that would run under it end there. Beside the corners at the foot of the walls rows begin half a step away on both sides.
/// Beyond the ends of the walls the floor goes on as far as these, prolonged, reach its border.
[[nodiscard]] Result<PatternResult> layPassage(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowCutter& cutter, Progress& progress,
                                               const RowHelp& help);

} // namespace gyre
