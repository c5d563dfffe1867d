// What happens to the axes of a row on their way, and what the user is told of it.
#pragma once
#include "axis/AxisRules.h"

namespace gyre {

/// The largest of something along a row, and where.
struct Most {
    double by = 0.0;
    std::size_t at = 0;
    void meet(double value, std::size_t point) {
        if (value > by) *this = {value, point};
    }
};

struct RowTold {
    Most moved, evened, poled, outside; ///< rad: by window and lock, by the largest turn per mm, by the pole; out of the window
    Most steep;                         ///< °/mm
    LineDisagreement lines;
    std::size_t linesAt = 0; ///< the point where they disagree
    bool lost = false;       ///< somewhere there is no direction
    bool tooSteep = false;   ///< too short to be evened
};

/// Fills in the largest of all rows and the findings about them.
void tellOfAxes(const std::vector<Row>& rows, const AxisSpec& spec, const std::vector<RowTold>& told, AxisResult& out);

} // namespace gyre
