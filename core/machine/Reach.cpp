#include "machine/Reach.h"
#include "base/Units.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

std::optional<AxisLine> rotaryLine(const Machine& machine, const Frame& partFrame) {
    const auto rotaries = machine.rotaries();
    if (rotaries.empty()) return std::nullopt;
    const Joint& j = machine.joints[static_cast<std::size_t>(rotaries[0])];
    const Frame toPart = (machine.workFrame * partFrame).inverse();
    return AxisLine{toPart * j.point, toPart.linear() * j.direction};
}

ReachAnswer reachOf(const Kinematics& kinematics, const Vec3& axis) {
    ReachAnswer answer;
    const Kinematics::Rotaries found = kinematics.rotariesFor(axis, 1e-7);
    answer.missing = found.missing;
    for (const auto& s : found.solutions) {
        ReachSolution r;
        r.withinTravel = true;
        const double values[2] = {s.firstFree ? 0.0 : s.first, s.secondFree ? 0.0 : s.second};
        for (std::size_t i = 0; i < std::min(kinematics.rotaries().size(), std::size(values)); ++i) {
            const Joint& joint = kinematics.machine().joints[static_cast<std::size_t>(kinematics.rotaries()[i])];
            double value = values[i];
            constexpr double kGrace = 1e-9;
            for (const double turned : {value - 2.0 * kPi, value + 2.0 * kPi})
                if ((value < joint.low - kGrace || value > joint.high + kGrace) && turned >= joint.low - kGrace && turned <= joint.high + kGrace) value = turned;
            r.withinTravel = r.withinTravel && value >= joint.low - kGrace && value <= joint.high + kGrace;
            r.angles.push_back(value);
        }
        answer.solutions.push_back(std::move(r));
    }
    std::stable_partition(answer.solutions.begin(), answer.solutions.end(), [](const ReachSolution& r) { return r.withinTravel; });
    return answer;
}

std::string reachWords(const Machine& machine, const ReachAnswer& answer) {
    if (answer.solutions.empty()) return fmt::format("out of reach of {}: {:.2f}° are missing", machine.name, degrees(answer.missing));
    std::string text;
    for (const ReachSolution& s : answer.solutions) {
        if (!text.empty()) text += ", or ";
        std::size_t i = 0;
        for (const int r : machine.rotaries()) {
            const double angle = degrees(s.angles[i++]);
            text += fmt::format("{}{} {:.2f}°", i > 1 ? " " : "", machine.joints[static_cast<std::size_t>(r)].name, std::abs(angle) < 0.005 ? 0.0 : angle);
        }
        if (s.angles.empty()) text += "as it stands";
        if (!s.withinTravel) text += " (beyond its travel)";
    }
    return text;
}

} // namespace gyre
