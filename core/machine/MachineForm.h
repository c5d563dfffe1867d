// The words of a machine file, as they stand there: mm, degrees, minutes, joints by name.
#pragma once
#include "form/FormFwd.h"
#include "machine/Machine.h"

namespace gyre {

struct FrameWords {
    Vec3 origin = Vec3::Zero(), x = Vec3::UnitX(), z = Vec3::UnitZ();
};
struct PieceWords {
    bool frustum = false;
    Vec3 low = Vec3::Zero(), high = Vec3::Ones();
    double z0 = 0.0, z1 = 1.0, diameter0 = 1.0, diameter1 = 1.0;
    std::optional<FrameWords> frame;
};
struct MeshWords {
    std::string file;
    std::optional<FrameWords> frame;
};
struct BodyWords {
    std::string name, carriedBy = "base", role;
    std::vector<PieceWords> pieces;
    std::optional<MeshWords> mesh;
};
struct ClampWords {
    int on = 0, off = 0;
};
struct JointWords {
    std::string name;
    JointKind kind = JointKind::Linear;
    Vec3 direction = Vec3::UnitX(), point = Vec3::Zero();
    double low = 0.0, high = 0.0, speed = 0.0, acceleration = 0.0, jerk = 0.0;
    std::string carriedBy = "base";
    bool shortest = false;
    std::optional<ClampWords> clamp;
};
struct SeatWords {
    std::string carriedBy = "base";
    std::optional<FrameWords> frame;
};
struct MachineWords {
    std::string name;
    double rapid = 0.0, changeSeconds = 0.0, clampSeconds = 0.0;
    JointFeed jointFeed = JointFeed::InverseTime;
    std::vector<std::pair<std::string, double>> changeAt;
    std::string lengthCheck;
    std::vector<JointWords> joints;
    SeatWords work, spindle;
    std::vector<BodyWords> bodies;
    std::vector<std::pair<std::string, std::string>> touching;
};

[[nodiscard]] const Form<MachineWords>& machineForm();

} // namespace gyre
