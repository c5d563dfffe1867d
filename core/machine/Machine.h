// A machine as a tree of joints from its base to the work and to the spindle, and its bodies.
#pragma once
#include "base/Result.h"
#include "geom/Convex.h"
#include "geom/MeshTree.h"
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

enum class JointKind { Linear, Rotary };

/// One axis. `direction` and `point` are given in machine coordinates with all joints at 0.
///
/// The sign is that of the program word (ISO 841): positive moves the *tool relative to the work*. A joint that carries
/// the work therefore moves its own bodies the other way; machineBodies() and partInMachine() do that, nobody else.
struct Joint {
    std::string name; ///< the address letter: X, Y, Z, A, B, C …
    JointKind kind = JointKind::Linear;
    Vec3 direction = Vec3::UnitX();
    Vec3 point = Vec3::Zero();     ///< a point on the rotary axis
    double low = -1e9, high = 1e9; ///< travel: mm or rad
    double speed = 0.0;            ///< mm/s or rad/s
    double acceleration = 0.0;     ///< mm/s² or rad/s²
    int parent = -1;               ///< joint that carries this one, −1 for the base
    bool carriesWork = false;
    bool shortest = false;           ///< programs name an angle within one turn, and the control takes the shorter way there; else turns are counted
    int clampCode = 0, freeCode = 0; ///< M codes that clamp the joint and let it go; 0: it has no clamp
    double jerk = 0.0;               ///< how fast its acceleration may change, mm/s³ or rad/s³; 0: at once
};

/// What F means in joint programs.
enum class JointFeed {
    InverseTime, ///< moves per minute, G93
    PerMinute    ///< mm of the slides a minute, or degrees where rotaries move alone, G94
};

struct MachineBody {
    std::string name;
    int joint = -1; ///< the joint it rides on, −1 for the base
    std::vector<ConvexBody> pieces;
    std::shared_ptr<const TriangleMesh> mesh{}; ///< beside or instead of pieces, from a mesh file; link coordinates
    std::shared_ptr<const MeshTree> tree{};     ///< over `mesh`
    std::string meshFile{};                     ///< its name beside the machine file
    Frame meshFrame = Frame::Identity();        ///< where the file's coordinates stand
    std::string role;                           ///< "table", "head", "door" … : free text for drawing and hiding
};

struct Machine {
    std::string name;
    std::vector<Joint> joints;
    std::vector<MachineBody> bodies;
    std::vector<std::pair<std::string, std::string>> touching; ///< pairs that always touch
    int workJoint = -1;                                        ///< carries the work; −1: the base
    int toolJoint = -1;                                        ///< carries the spindle
    Frame workFrame = Frame::Identity();                       ///< table seat in machine coordinates, joints at 0
    Frame noseFrame = Frame::Identity();                       ///< spindle nose; +z points from tip to spindle
    double rapid = 0.0;                                        ///< mm/s, fastest tip speed of rapid moves
    JointFeed jointFeed = JointFeed::InverseTime;
    std::vector<std::optional<double>> changeAt; ///< by joint: where linear joints stand at a tool change; as the operation before left them where nothing is said
    double changeSeconds = 0.0;                  ///< that a tool change takes, s
    double clampSeconds = 0.0;                   ///< that a joint takes to be clamped or let go, s
    std::string lengthCheck;                     ///< block of its control that stops when another length is loaded, with {tool} and {length}; empty: it has none

    /// Joint indices in serial order from the work through the base to the tool.
    [[nodiscard]] std::vector<int> chain() const;
    [[nodiscard]] std::vector<int> rotaries() const; ///< in that order
    [[nodiscard]] int find(const std::string& jointName) const;
};

/// Checks structure: three independent linear joints, at most two rotaries, all on the chain, sane limits.
[[nodiscard]] Status validate(const Machine& machine);

/// @param folder  where mesh files named by bodies lie; none can be read when it is empty
[[nodiscard]] Result<Machine> machineFromJson(const std::string& text, const std::string& place, const std::filesystem::path& folder = {});
[[nodiscard]] std::string machineToJson(const Machine& machine);

/// Joint values, in the machine's joint order; mm and rad.
using JointValues = std::vector<double>;

/// Movement of a link (−1: base) away from its place at joints 0.
[[nodiscard]] Frame linkMotion(const Machine& machine, int link, const JointValues& q);

} // namespace gyre
