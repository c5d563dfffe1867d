// How finely a way is laid.
#pragma once

namespace gyre {

struct Fineness {
    double chord = 0.005; ///< largest distance of the tool's way from the true one between two points, mm
    double longest = 2.0; ///< mm between two points
};

} // namespace gyre
