// Can a cutter's side follow a face? Ruled, how twisted, and what a given cutter would leave.
#pragma once
#include "part/Part.h"

namespace gyre {

enum class FlankKind { Developable, Twisted, NotRuled };
[[nodiscard]] const char* flankKindName(FlankKind k);

struct FlankAnswer {
    FlankKind kind = FlankKind::NotRuled;
    double twist = 0.0;     ///< rad: largest angle between the normals at the two ends of one ruling
    double bulge = 0.0;     ///< mm: how far the face leaves its straight rulings at most
    double deviation = 0.0; ///< mm: what a cylinder of the cutter's radius, laid on both ends of a ruling, would be off in between
    std::string words;      ///< the answer and what to do
    struct Sample {
        Vec3 point;
        double deviation;
    };
    std::vector<Sample> map;  ///< over the face, for colouring: along one straight line after the other
    std::size_t perLine = 13; ///< samples of each
};

/// Looks along the face's own two families of parameter lines and takes the straighter one for rulings.
/// @param radius of the cutter, mm
[[nodiscard]] Result<FlankAnswer> flankOf(const Part& part, int face, double radius);

/// The same for the surface ruled between two lines, matched by equal fractions of length.
[[nodiscard]] Result<FlankAnswer> flankBetween(const Polyline& lower, const Polyline& upper, double radius);

} // namespace gyre
