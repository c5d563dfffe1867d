// How a control is to run through the points of a path.
#pragma once
#include <cstdint>

namespace gyre {

enum class AtPoints : std::uint8_t {
    AsItStands, ///< nothing is said
    ExactStop,
    Smoothed ///< it may leave the path there
};

struct PointsSpec {
    AtPoints how = AtPoints::AsItStands;
    double within = 0.005; ///< mm that it may leave the path, where it is smoothed

    [[nodiscard]] double smoothing() const { return how == AtPoints::Smoothed ? within : 0.0; }
};

} // namespace gyre
