// Which face of one part is which of another: of a changed file, or of a part that is made like it.
#pragma once
#include "part/Part.h"

namespace gyre {

/// How a face or edge was found again, the surest first.
enum class FoundBy : std::uint8_t {
    Same,       ///< kind, size and place agree
    Place,      ///< the only one of its kind thereabouts
    Neighbours, ///< it lies like the other one between those that were found
    Likeness,   ///< the only one that is like it among those that lie so
    Nothing     ///< it is gone
};

struct ShapeMatch {
    int now = -1; ///< its number in the other part
    FoundBy by = FoundBy::Nothing;
    [[nodiscard]] bool found() const { return now >= 0; }
};

struct PartMatch {
    std::vector<ShapeMatch> faces, edges; ///< of the part that was, by number; construction is left out
    std::vector<int> fresh;               ///< faces of the other one that none of them became
    [[nodiscard]] std::size_t count(FoundBy by) const;
};

/// Faces that agree first; then those that moved a little; then, from them, what lies between the same neighbours with the same bends; where hardly anything agrees, what
/// is alone of its kind in the way faces hang together. Two that are alike and lie alike are both gone rather than guessed.
[[nodiscard]] PartMatch matchParts(const Part& was, const Part& is);

} // namespace gyre
