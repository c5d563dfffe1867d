// What tests share: seeds that are printed, demo files, simple exact shapes as STEP files.
#pragma once
#include "session/Session.h"
#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <random>

namespace gyre::test {

/// A generator whose seed is printed, so that a failure can be repeated with GYRE_SEED.
class Random {
public:
    explicit Random(unsigned salt);
    double number(double low, double high) { return std::uniform_real_distribution<double>(low, high)(m_engine); }
    int integer(int low, int high) { return std::uniform_int_distribution<int>(low, high)(m_engine); }
    Vec3 point(double size) { return {number(-size, size), number(-size, size), number(-size, size)}; }
    Vec3 direction();

private:
    std::mt19937 m_engine;
};

std::filesystem::path demoFile(const std::string& name);
Machine demoMachine(const std::string& file);
std::shared_ptr<const Part> openPart(const std::filesystem::path& file);
int faceOf(const Part& part, SurfaceKind kind);        ///< the first of that kind
int faceTowards(const Part& part, const Vec3& normal); ///< the largest plane one

/// STEP files of exact shapes in a folder.
std::filesystem::path cylinderStep(const std::filesystem::path& folder, double radius, double height);
std::filesystem::path boxStep(const std::filesystem::path& folder, double x, double y, double z);
std::filesystem::path coneStep(const std::filesystem::path& folder, double lower, double upper, double height);

/// A plate 120 × 80 × 20 (corner at the origin) with holes of every kind and with traps: see Support.cpp.
std::filesystem::path drilledPlate(const std::filesystem::path& folder);
/// A tube about X, radii 40 and 30, with a cross hole through both walls, a leaning hole, and one split into two half cylinders.
/// A plate 10 thick, its top at 0, with a cone cut into it from above.
std::filesystem::path plateWithCone(const std::filesystem::path& folder, double wideRadius, double narrowRadius, double depth);
std::filesystem::path drilledTube(const std::filesystem::path& folder);
/// A box in other formats.
std::filesystem::path boxIges(const std::filesystem::path& folder, double x, double y, double z);
std::filesystem::path boxBrep(const std::filesystem::path& folder, double x, double y, double z);
/// A wall over a line of length 100, upper edge turned by `twist` radians about the middle; ruled exactly.
std::filesystem::path ruledWall(const std::filesystem::path& folder, double height, double twist);

/// A STEP assembly: a plate 40 × 30 × 5 named "plate", red, and the same pin named "pin", placed twice, at 10 15 5 and 30 15 5, green.
/// A solid between a polygon at z = 0 and another of as many corners at `height`; its sides are ruled.
std::filesystem::path ruledPrism(const std::filesystem::path& folder, const std::vector<Vec2>& lower, const std::vector<Vec2>& upper, double height);
/// A solid whose profile is a hyperbola about z: waist radius `waist` at z = 0, radius waist·√(1 + (z/slope)²), from −half to half.
std::filesystem::path hyperboloid(const std::filesystem::path& folder, double waist, double slope, double half);
/// A plate of 90 × 80 × 12 with a boss of 36 × 28 on it, 16 high, whose sides lean in by so many degrees.
std::filesystem::path bossOnPlate(const std::filesystem::path& folder, double draftDegrees);
/// A plate of 80 × 60 × 10 about x = 40, y = 0 with two walls 15 high on it, whose sides y = ∓10 at the foot face each other and lean back by so many degrees, from
/// `from` to 80 − `from`; between them, from x = 35 to 60 and y = −1 to 1, one of 8 mm.
std::filesystem::path passageOnPlate(const std::filesystem::path& folder, double leanDegrees, double from);
/// A frustum of four plane sides, all of them trapezoids.
std::filesystem::path wedge(const std::filesystem::path& folder);
std::filesystem::path pinnedPlate(const std::filesystem::path& folder, bool filesApart = false); ///< apart: each part in a STEP file of its own beside the assembly's
/// A box 60 × 40 × 20 with a pocket whose floor meets its walls in a fillet R3; two steps at one height beside it.
std::filesystem::path filletedPocket(const std::filesystem::path& folder);

/// A block 100 × 70 × 30 (corner at the origin) to be milled from above: a pocket 10…50 × 10…45, 10 deep, with an island Ø12 at 30 27
/// up to the top; a slot 60…75 × 0…40, 8 deep, open at its front; a bore Ø20 at 85 55, 15 deep.
/// A block with a pocket with round corners and a row of holes along its far side; a slot comes in from its right end.
struct Family {
    double length = 100, width = 70, height = 30;
    double pocketX = 15, pocketY = 12, pocketLength = 40, pocketWidth = 28, pocketDepth = 10, corner = 4;
    int holes = 4;
    double hole = 6;
    bool slot = false;
};
std::filesystem::path familyPart(const std::filesystem::path& file, const Family& f);
/// A plate 100 × 50 × 20 with a square boss and a square pocket, their middles at these X.
std::filesystem::path bossAndPocket(const std::filesystem::path& file, double boss, double pocket, double wide);
std::filesystem::path milledBlock(const std::filesystem::path& folder);

/// A bar Ø30 about X, 60 long, with a boss Ø8 along Z at X 30, up to 26 from the axis.
std::filesystem::path bossedBar(const std::filesystem::path& folder);
/// A plate 100 × 60 × 10 with two ribs of 40 along x, the second one shifted; their feet face each other at y = 22 and 40.
[[nodiscard]] std::filesystem::path ribbedPlate(const std::filesystem::path& folder, double shift);

Assembly ballTool(double diameter, double stickOut);
Assembly flatTool(double diameter, double flutes);

/// The demo job, computed once for the whole test program.
struct DemoResults {
    Job job;
    JobResults results;
    StageCache cache;
};
DemoResults& demoResults();

} // namespace gyre::test
