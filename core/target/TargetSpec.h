// What an operation cuts, as it was picked.
#pragma once
#include "part/Part.h"
#include <string>
#include <vector>

namespace gyre {

struct TargetSpec {
    std::vector<ShapeRef> faces;
    std::vector<ShapeRef> edges;       ///< curves of milling on a sheet
    std::vector<std::string> drawings; ///< by name: drawings, or curves of mends ("name", or "name/2" for the second one)
    std::vector<ShapeRef> profile;     ///< edges that tell a depth along the axis
    double leave = 0.0;                ///< stock to leave, mm along the normal
};

} // namespace gyre
