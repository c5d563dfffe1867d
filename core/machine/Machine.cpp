#include "machine/Machine.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {
std::vector<int> ancestry(const Machine& m, int link) { // from the link up to the base
    std::vector<int> up;
    while (link >= 0 && up.size() <= m.joints.size()) {
        up.push_back(link);
        link = m.joints[static_cast<std::size_t>(link)].parent;
    }
    return up;
}
} // namespace

std::vector<int> Machine::chain() const {
    std::vector<int> serial = ancestry(*this, workJoint);
    auto tool = ancestry(*this, toolJoint);
    serial.insert(serial.end(), tool.rbegin(), tool.rend());
    return serial;
}

std::vector<int> Machine::rotaries() const {
    std::vector<int> r;
    for (int j : chain())
        if (joints[static_cast<std::size_t>(j)].kind == JointKind::Rotary) r.push_back(j);
    return r;
}

int Machine::find(const std::string& jointName) const {
    for (std::size_t i = 0; i < joints.size(); ++i)
        if (joints[i].name == jointName) return static_cast<int>(i);
    return -1;
}

Status validate(const Machine& m) {
    const std::size_t n = m.joints.size();
    if (n < 3 || n > 12) return fail(fmt::format("a machine has 3 to 12 joints, not {}", n), m.name);
    const auto link = [&](int j) { return j >= -1 && j < static_cast<int>(n); };
    if (!link(m.workJoint) || !link(m.toolJoint)) return fail("work or tool rides on a joint that is not there", m.name);
    Mat3 linear = Mat3::Zero();
    int linears = 0, rotaries = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const Joint& j = m.joints[i];
        if (j.parent >= static_cast<int>(n) || j.parent < -1) return fail("the joint is carried by one that is not there", j.name);
        if (ancestry(m, static_cast<int>(i)).size() > n) return fail("the joints carry each other in a circle", j.name);
        if (!j.direction.allFinite() || std::abs(j.direction.norm() - 1.0) > 1e-9) return fail("the direction must have a length", j.name);
        if (!j.point.allFinite()) return fail("the point on the axis is not a number", j.name);
        if (!(j.low < j.high)) return fail(fmt::format("the travel {} … {} is empty", j.low, j.high), j.name);
        if (!(j.speed > 0.0) || !(j.acceleration > 0.0) || !std::isfinite(j.speed) || !std::isfinite(j.acceleration))
            return fail("speed and acceleration must be above 0", j.name);
        if (!(j.jerk >= 0.0) || !std::isfinite(j.jerk)) return fail("the jerk must be 0 or more", j.name);
    }
    const auto serial = m.chain();
    for (int k : serial) {
        const Joint& j = m.joints[static_cast<std::size_t>(k)];
        if (j.kind == JointKind::Rotary)
            ++rotaries;
        else if (linears < 3)
            linear.col(linears++) = j.direction;
        else
            return fail("more than three linear joints move the tool against the work", m.name);
    }
    if (serial.size() != n) return fail("a joint moves neither the work nor the tool", m.name);
    for (std::size_t a = 0; a < serial.size(); ++a)
        for (std::size_t b = a + 1; b < serial.size(); ++b)
            if (serial[a] == serial[b]) return fail("one joint carries both the work and the tool", m.joints[static_cast<std::size_t>(serial[a])].name);
    if (linears != 3 || std::abs(linear.determinant()) < 1e-6) return fail("three linear joints in independent directions are needed", m.name);
    if (rotaries > 2) return fail(fmt::format("{} rotary joints; at most two can be solved for", rotaries), m.name);
    const auto r = m.rotaries();
    if (r.size() == 2) {
        const Vec3& a = m.joints[static_cast<std::size_t>(r[0])].direction;
        const Vec3& b = m.joints[static_cast<std::size_t>(r[1])].direction;
        if (a.cross(b).norm() < 1e-6) return fail("the two rotary joints are parallel", m.name);
    }
    return {};
}

Frame linkMotion(const Machine& m, int link, const JointValues& q) {
    Frame motion = Frame::Identity();
    auto up = ancestry(m, link);
    for (auto it = up.rbegin(); it != up.rend(); ++it) {
        const Joint& j = m.joints[static_cast<std::size_t>(*it)];
        const double v = j.carriesWork ? -q[static_cast<std::size_t>(*it)] : q[static_cast<std::size_t>(*it)];
        if (j.kind == JointKind::Linear)
            motion.translate(v * j.direction);
        else
            motion = motion * Eigen::Translation3d(j.point) * Eigen::AngleAxisd(v, j.direction) * Eigen::Translation3d(-j.point);
    }
    return motion;
}

} // namespace gyre
