// Cutter, shank and holder as one stack of turned pieces. Lengths in mm from the tip, along the axis to the spindle.
#pragma once
#include "base/Result.h"
#include "geom/RoundedFrustum.h"
#include <cstdint>
#include <string>
#include <vector>

namespace gyre {

enum class CutterShape { Flat, Ball, CornerRadius, TaperedBall, Tapered, Lollipop, Chamfer, Drill, Spot, Barrel };
inline constexpr int kCutterShapes = 10;
[[nodiscard]] const char* cutterShapeName(CutterShape shape);

/// Which part of the assembly a piece belongs to.
enum class Zone { Cutter, Shank, Holder };
[[nodiscard]] const char* zoneName(Zone zone);

/// Names follow ISO 13399 where it has one (in brackets).
struct Cutter {
    CutterShape shape = CutterShape::Ball;
    double diameter = 6.0;        ///< cutting diameter (DC); of tapered cutters: at the tip
    double cornerRadius = 0.0;    ///< (RE); of a corner-radius cutter, of a barrel's nose
    double taperDegrees = 0.0;    ///< half angle of a tapered cutter's flank (TA)
    double fluteLength = 12.0;    ///< cutting length (APMX); of a lollipop the ball's size decides
    double shoulderLength = 12.0; ///< free length below the shank (LU)
    double neckDiameter = 6.0;    ///< between flutes and shoulder (DN)
    double shankDiameter = 6.0;   ///< (DMM)
    double overallLength = 60.0;  ///< (OAL)
    int flutes = 2;               ///< (NOF)
    double pointDegrees = 90.0;   ///< whole angle of the point (SIG) of chamfer cutters, drills and spot drills
    double tipDiameter = 0.0;     ///< of the flat at a chamfer cutter's tip
    double profileRadius = 60.0;  ///< (PRFRAD) of a barrel's flank, an arc that reaches the cutting diameter at the end of the flutes
};

/// Which numbers of a cutter count for its shape, besides the lengths and diameters that all have.
struct CutterUse {
    bool cornerRadius = false, taper = false, point = false, tip = false, profile = false, fluteLength = true;
};
[[nodiscard]] CutterUse usedBy(CutterShape shape);

/// A barrel's outline in the half plane (radius, height): the flank's arc about `middle` from the direction `join` up, the nose's circle
/// about `nose` below.
struct BarrelProfile {
    Vec2 middle, nose, join;
    double radius = 0.0;
};
[[nodiscard]] BarrelProfile barrelProfile(const Cutter& cutter);

/// Where the cutting part ends: the flutes, or a lollipop's neck.
[[nodiscard]] double cuttingLength(const Cutter& cutter);

/// One step of a holder: a frustum, listed from the cutter side up to the spindle nose.
struct HolderStep {
    double lowerDiameter, upperDiameter, length;
};

/// What a tool may do in a material.
struct CuttingData {
    std::string material;
    double surfaceSpeed = 100.0; ///< m/min at the cutting diameter (VC)
    double chipLoad = 0.05;      ///< mm a tooth (FZ)
    bool operator==(const CuttingData&) const = default;
};

/// What it may stand in at most; 0: nobody said.
struct CutLimits {
    double engaged = 0.0; ///< degrees of its round
    double deep = 0.0;    ///< mm along its axis
    double chip = 0.0;    ///< mm, the thickest chip
    [[nodiscard]] bool any() const { return engaged > 0.0 || deep > 0.0 || chip > 0.0; }
};

/// What cools the cut.
enum class Coolant : std::uint8_t { None, Flood, Mist, Through };
inline constexpr int kCoolants = 4;
[[nodiscard]] const char* coolantName(Coolant c); ///< "none", "flood", "mist", "through"

struct Assembly {
    std::string id;
    std::string name;
    Cutter cutter;
    double stickOut = 40.0; ///< tip to holder face
    std::string holderName;
    std::vector<HolderStep> holder;
    double spindleSpeed = 8000.0; ///< 1/min
    double feedPerTooth = 0.05;   ///< mm
    std::vector<CuttingData> materials;
    Coolant coolant = Coolant::None;
    CutLimits limits;

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

/// The nearest that validate() takes, by raising what is too small for the rest.
[[nodiscard]] Assembly possible(Assembly assembly);

/// The same cutter in another shape, with numbers that make one that can exist.
[[nodiscard]] Cutter asShape(const Cutter& cutter, CutterShape shape);

/// 1/min; what thin cutters would like beyond it no spindle gives.
inline constexpr double kFastestSpindle = 60000.0;
/// Spindle speed and feed from what the tool may do in the material; false when it does not say.
bool useMaterial(Assembly& assembly, const std::string& material);

/// Radius of the ball or corner that touches a smooth surface; 0 for a sharp-cornered flat cutter.
[[nodiscard]] double contactRadius(const Cutter& cutter);

/// e.g. "Ø6 ball"
[[nodiscard]] std::string shortName(const Cutter& cutter);

} // namespace gyre
