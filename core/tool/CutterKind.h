// What a cutter's shape means: one entry for each in CutterKinds.cpp, and nowhere else.
#pragma once
#include "tool/Assembly.h"

namespace gyre {

struct CutterKind {
    CutterShape shape;
    const char *word, *name; ///< in files, on screen
    CutterUse use;
    std::vector<RoundedFrustum> (*zone)(const Cutter& cutter);
    double (*contactRadius)(const Cutter& cutter); ///< of the ball or corner that touches a smooth surface; 0: none
    std::string (*brief)(const Cutter& cutter);    ///< what follows the diameter in a short name
    Status (*valid)(const Cutter& cutter, const std::string& place);
};
[[nodiscard]] const CutterKind& kindOf(CutterShape shape);

/// Height of a point above the tip where it has the full diameter.
[[nodiscard]] double pointHeightOf(const Cutter& cutter);

} // namespace gyre
