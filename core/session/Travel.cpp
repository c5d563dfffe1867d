#include "session/Travel.h"
#include "machine/Reach.h"
#include "operation/Workplace.h"
#include <fmt/format.h>

namespace gyre {

std::vector<TravelTrouble> beyondTravel(const Workplace& place, const Job& job, double gaugeLength) {
    std::vector<TravelTrouble> out;
    Box box;
    for (const PlacedBody& b : place.bodies)
        if (b.role == "stock") box.add(b.shape->tree().bounds());
    if (box.empty() && place.part) box = place.part->tree().bounds();
    if (box.empty() || !place.machine) return out;
    const Kinematics kinematics(*place.machine, place.partFrame, gaugeLength);
    std::vector<std::pair<std::string, Vec3>> ways{{"square to the datum", Vec3::UnitZ()}};
    for (const WorkPlane& p : job.planes) ways.emplace_back(p.name, p.normal);
    for (const auto& [where, way] : ways) {
        const ReachAnswer answer = reachOf(kinematics, way);
        if (!answer.reached()) {
            out.push_back({where, reachWords(*place.machine, answer)});
            continue;
        }
        // The best of the solutions: the one whose worst joint leaves its travel least.
        std::string least;
        double leastBy = 1e300;
        for (const ReachSolution& s : answer.solutions) {
            if (!s.withinTravel) continue;
            double worst = 0.0;
            std::string words;
            for (int corner = 0; corner < 8; ++corner) {
                const Vec3 tip(corner & 1 ? box.high.x() : box.low.x(), corner & 2 ? box.high.y() : box.low.y(), corner & 4 ? box.high.z() : box.low.z());
                // The four corners turned to the spindle are enough: nothing is reached through the stock.
                if ((tip - box.centre()).dot(way) < 0.0) continue;
                const JointValues q = kinematics.jointsFor(tip, s.angles.empty() ? 0.0 : s.angles[0], s.angles.size() > 1 ? s.angles[1] : 0.0);
                for (std::size_t j = 0; j < q.size(); ++j) {
                    const Joint& joint = place.machine->joints[j];
                    if (joint.kind != JointKind::Linear) continue;
                    const double by = std::max(q[j] - joint.high, joint.low - q[j]);
                    if (by <= 1e-6 || by <= worst) continue;
                    worst = by;
                    words = fmt::format("{} {:.1f} mm beyond its {} end at {:.0f} {:.0f} {:.0f}", joint.name, by, q[j] > joint.high ? "upper" : "lower", tip.x(), tip.y(),
                                        tip.z());
                }
            }
            if (worst < leastBy) {
                leastBy = worst;
                least = words;
            }
        }
        if (leastBy > 0.0 && !least.empty()) out.push_back({where, least});
    }
    return out;
}

} // namespace gyre
