// The made-up workshop Larkmoor Sky Theatre: its parts, machines and tools.
#pragma once
#include "machine/Machine.h"
#include "tool/Library.h"
#include <TopoDS_Shape.hxx>
#include <filesystem>
#include <vector>

namespace gyre::demo {

/// A nine-lobed flared ring: filleted foot, ruled wall that leans over between the lobes, curled lip. Datum: bottom, on the axis.
TopoDS_Shape lanternCollar();
TopoDS_Shape collarSeat();            ///< the ring the collar stands on
TopoDS_Shape collarClamp(int number); ///< clamps 1 … 3, holding the collar's flange

/// A hemisphere shell on a rim, bottom of the hemisphere at z = 0, with 48 star holes.
TopoDS_Shape piercedDome();
TopoDS_Shape domeSpigot(); ///< the ring it stands on, with a spigot in its mouth
inline constexpr double kDomeRadius = 60.0, kDomeWall = 4.0;
struct StarHole {
    Vec3 point; ///< where its axis meets the outside
    Vec3 direction;
    double diameter;
};
std::vector<StarHole> starHoles();

/// A Ø80 tube about X, 120 long, with three cam grooves of growing pitch, a window, a degree scale, radial holes and a conical end.
TopoDS_Shape focusBarrel();
TopoDS_Shape barrelMandrel();

/// A block with ports and pockets on seven planes at compound angles.
TopoDS_Shape lampYoke();
TopoDS_Shape yokeRiser();
std::vector<std::pair<Vec3, Vec3>> yokePlanes(); ///< a point and the normal of each

/// A round-bottomed channel along a space curve, between two tall cheeks.
TopoDS_Shape hornGuide();
TopoDS_Shape hornVice();

/// A small radial fan wheel: seven full and seven half vanes on a curved hub.
TopoDS_Shape whisperRunner();
TopoDS_Shape runnerArbor();

TriangleMesh mothRelief(); ///< a mesh ornament on a block, 90 × 65 mm
TopoDS_Shape mothPlate();

Machine heron5T();          ///< trunnion: A under C, both carrying the table
TriangleMesh coolantRing(); ///< of Heron 5T, about its own middle
Machine plover4();          ///< vertical mill with an A rotary on the table
Machine egret5H();          ///< gantry router with a B–C head
Machine dunlin5M();         ///< B head and C table
Machine snipe5N();          ///< 45° nutating B and C table

ToolLibrary tools();

/// Writes a shape as STEP. @return false with a message on stderr when it cannot
bool writeStep(const TopoDS_Shape& shape, const std::filesystem::path& file, const char* name);

} // namespace gyre::demo
