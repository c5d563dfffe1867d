// Cutter, shank and holder as one stack of turned pieces. Lengths in mm from the tip, along the axis to the spindle.
#pragma once
#include "base/Result.h"
#include "geom/RoundedFrustum.h"
#include <string>
#include <vector>

namespace gyre {

enum class CutterShape { Flat, Ball, CornerRadius, TaperedBall };
[[nodiscard]] const char* cutterShapeName(CutterShape shape);

/// Which part of the assembly a piece belongs to.
enum class Zone { Cutter, Shank, Holder };
[[nodiscard]] const char* zoneName(Zone zone);

/// Names follow ISO 13399 where it has one (in brackets).
struct Cutter {
    CutterShape shape = CutterShape::Ball;
    double diameter = 6.0;        ///< cutting diameter (DC); of a tapered ball: the ball's diameter
    double cornerRadius = 0.0;    ///< (RE); of a corner-radius cutter
    double taperDegrees = 0.0;    ///< half angle of a tapered ball's flank (TA)
    double fluteLength = 12.0;    ///< cutting length (APMX)
    double shoulderLength = 12.0; ///< free length below the shank (LU)
    double neckDiameter = 6.0;    ///< between flutes and shoulder (DN)
    double shankDiameter = 6.0;   ///< (DMM)
    double overallLength = 60.0;  ///< (OAL)
    int flutes = 2;               ///< (NOF)
};

/// One step of a holder: a frustum, listed from the cutter side up to the spindle nose.
struct HolderStep {
    double lowerDiameter, upperDiameter, length;
};

struct Assembly {
    std::string id;
    std::string name;
    Cutter cutter;
    double stickOut = 40.0; ///< tip to holder face
    std::string holderName;
    std::vector<HolderStep> holder;
    double spindleSpeed = 8000.0; ///< 1/min
    double feedPerTooth = 0.05;   ///< mm

    [[nodiscard]] double feed() const { return spindleSpeed * feedPerTooth * cutter.flutes; } ///< mm/min
    [[nodiscard]] double gaugeLength() const;                                                 ///< tip to spindle nose
};

struct Piece {
    RoundedFrustum shape;
    Zone zone;
    std::string name; ///< as it reads in findings, e.g. "holder collar"
};

/// The whole assembly as pieces, tip at z = 0. Ball and corner radius are exact, not faceted.
[[nodiscard]] std::vector<Piece> piecesOf(const Assembly& assembly);

/// The convex cutting end alone: the body whose support point is the contact.
[[nodiscard]] std::vector<RoundedFrustum> cuttingZone(const Cutter& cutter);

/// Refuses tools that cannot exist (flutes longer than the tool, corner radius over half the diameter …), with the reason.
[[nodiscard]] Status validate(const Assembly& assembly);

/// Radius of the ball or corner that touches a smooth surface; 0 for a sharp-cornered flat cutter.
[[nodiscard]] double contactRadius(const Cutter& cutter);

/// e.g. "Ø6 ball"
[[nodiscard]] std::string shortName(const Cutter& cutter);

} // namespace gyre
