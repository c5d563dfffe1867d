// Operations and machines of tests that look at the machine's own motion.
#pragma once
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"

namespace gyre::test {

/// An operation with a short stretch of its motion only.
inline std::shared_ptr<OperationResult> stretchOf(const OperationResult& whole, std::size_t first, std::size_t count) {
    auto part = std::make_shared<OperationResult>(whole);
    auto motion = std::make_shared<JointMotion>(*whole.motion);
    const auto from = static_cast<std::ptrdiff_t>(first), to = static_cast<std::ptrdiff_t>(first + count), joints = static_cast<std::ptrdiff_t>(motion->joints);
    motion->values.assign(whole.motion->values.begin() + from * joints, whole.motion->values.begin() + to * joints);
    motion->location.assign(whole.motion->location.begin() + from, whole.motion->location.begin() + to);
    motion->fraction.assign(whole.motion->fraction.begin() + from, whole.motion->fraction.begin() + to);
    motion->time.assign(whole.motion->time.begin() + from, whole.motion->time.begin() + to);
    part->motion = motion;
    part->findings.clear();
    return part;
}

/// With a body more, the "wire", that rides on a link.
inline Workplace withBeam(const Workplace& place, const ConvexBody& beam, int link) {
    Workplace changed = place;
    auto machine = std::make_shared<Machine>(*place.machine);
    MachineBody b;
    b.name = "wire";
    b.joint = link;
    b.pieces = {beam};
    machine->bodies.push_back(b);
    changed.machine = machine;
    return changed;
}

} // namespace gyre::test
