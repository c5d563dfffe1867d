// What operations are run against.
#pragma once
#include "base/Inputs.h"
#include "geom/Curve.h"
#include "guard/Obstacle.h"
#include "part/Holes.h"
#include "tool/Assembly.h"
#include <memory>

namespace gyre {

struct Machine;
struct MendResult;
struct Overlap;
struct Recipe;

/// A body of the setup. Its coordinates are those of the part datum.
struct PlacedBody {
    std::string name;
    std::string role; ///< "part", "fixture", "stock", "reference"
    std::shared_ptr<const Part> shape;
    Frame placed = Frame::Identity(); ///< how it was turned and moved from where its file has it
    double within = 0.0;              ///< of a fixture: so far from there it may stand, mm
};

/// What operations are run against: the part, what stands around it, the machine, the tools. Immutable once made.
struct Workplace {
    std::shared_ptr<const Part> part; ///< with all that mends made; its body alone stands in `bodies` and `scene`
    std::shared_ptr<const std::vector<MendResult>> mends;
    struct PlacedDrawing {
        std::string name, facts; ///< "12 curves, millimetres"
        bool flat = false;
        std::vector<Curve> curves; ///< where they lie in the part's datum
    };
    std::vector<PlacedDrawing> drawings;
    std::vector<PlacedBody> bodies;                       ///< all bodies of the setup, for drawing
    std::shared_ptr<const Scene> scene;                   ///< part datum coordinates: part, fixtures, machine bodies that ride with the work
    std::shared_ptr<const std::vector<Overlap>> overlaps; ///< bodies of the scene that stand inside one another
    std::shared_ptr<const Machine> machine;
    Frame partFrame = Frame::Identity(); ///< part datum in table-seat coordinates
    std::vector<Assembly> tools;
    std::vector<Hole> holes;             ///< found on the part
    std::uint64_t key = 0;               ///< changes when part, scene, machine or placement do
    std::uint64_t looks = 0;             ///< changes when anything does that is drawn
    std::uint64_t curves = 0, stock = 0; ///< of drawings and mends; of bodies of stock
    std::vector<InputFile> inputs;       ///< the files that all this was read from

    [[nodiscard]] const Assembly* tool(const std::string& id) const;
    /// Of all that an operation of this recipe reads of the setup: the key, or with curves and stock what is drawn besides.
    [[nodiscard]] std::uint64_t keyFor(const Recipe& recipe) const;
};

} // namespace gyre
