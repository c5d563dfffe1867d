// Words of work that is done again elsewhere.
#pragma once
#include <string>
#include <vector>

namespace gyre {

/// The same once more elsewhere: on other work planes, or several times around an axis of the datum.
struct Repeat {
    std::vector<std::string> planes;
    int count = 1; ///< all in all, around the axis
    int axis = 2;
    double degrees = 0.0; ///< from one to the next; 0: evenly all around
    [[nodiscard]] bool any() const { return !planes.empty() || count > 1; }
};

} // namespace gyre
