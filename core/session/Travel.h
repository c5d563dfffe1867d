// What would leave the machine's travel where the part now stands: asked while placing, before there is a path.
#pragma once
#include "job/Job.h"

namespace gyre {

struct Workplace;

struct TravelTrouble {
    std::string where; ///< "square to the datum", "Plane 2"
    std::string words; ///< "X 12.4 mm beyond its upper end at 60 -44 66"
};

/// Stands the tool at the corners of what is cut – the stock, or the part – in the datum's Z direction and on every work plane.
/// @param gaugeLength tip to spindle nose, mm
[[nodiscard]] std::vector<TravelTrouble> beyondTravel(const Workplace& place, const Job& job, double gaugeLength);

} // namespace gyre
