// Words of work in holes.
#pragma once
#include "holes/Cycle.h"

namespace gyre {

struct DrillSpec {
    Cycle cycle = Cycle::Drill;
    bool toGeometry = true;    ///< depth from the hole; else `depth`
    double depth = 5.0;        ///< below the mouth, mm
    double breakthrough = 1.0; ///< beyond the end of a through hole; taps, reamers and bores stay as far from a blind hole's end
    bool fullDiameter = true;  ///< the depth is reached with the full diameter; else with the point
    double widen = 0.3;        ///< spot and chamfer: the cone's edge stands this far outside the hole's, mm
    double peck = 2.0;         ///< depth of one peck, mm
    double dwell = 0.0;        ///< s, at the bottom
    double pitch = 1.0;        ///< of a tap, mm
    double above = 2.0;        ///< feed begins this far over the mouth, mm
    bool anyTool = false;      ///< the user wants this tool whatever is questioned
    bool canned = true;        ///< as cycles in programs that know them
    bool shortest = true;      ///< order by the shortest way; else as the holes were picked
};

} // namespace gyre
