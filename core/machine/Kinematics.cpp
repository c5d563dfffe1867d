#include "machine/Kinematics.h"
#include "base/Units.h"

namespace gyre {

namespace {

// Twist of one joint in the serial chain work → base → tool, where every joint acts with the sign of its word.
Frame twist(const Joint& j, double v) {
    Frame f = Frame::Identity();
    if (j.kind == JointKind::Linear)
        f.translate(v * j.direction);
    else
        f = Eigen::Translation3d(j.point) * Eigen::AngleAxisd(v, j.direction) * Eigen::Translation3d(-j.point);
    return f;
}

double wrapped(double a) {
    a = std::remainder(a, 2.0 * kPi);
    return a <= -kPi ? a + 2.0 * kPi : a;
}

// Angle that turns u into v about the unit axis k.
double turn(const Vec3& k, const Vec3& u, const Vec3& v) {
    const Vec3 a = rejected(u, k), b = rejected(v, k);
    return std::atan2(k.dot(a.cross(b)), a.dot(b));
}

} // namespace

Kinematics::Kinematics(const Machine& machine, const Frame& partFrame, double gaugeLength)
    : m_machine(machine), m_chain(machine.chain()), m_rotaries(machine.rotaries()), m_work(machine.workFrame * partFrame),
      m_tool(machine.noseFrame * Eigen::Translation3d(0.0, 0.0, -gaugeLength)) {}

// The work's own motion is the product of its joints with the opposite sign, base to work; its inverse is the product with
// the word's sign, work to base. So the relative pose is one serial chain.
Frame Kinematics::relative(const JointValues& q) const {
    Frame f = m_work.inverse();
    for (int k : m_chain) f = f * twist(m_machine.joints[static_cast<std::size_t>(k)], q[static_cast<std::size_t>(k)]);
    return f * m_tool;
}

ToolPose Kinematics::forward(const JointValues& q) const {
    const Frame f = relative(q);
    return {f.translation(), f.linear().col(2)};
}

Frame Kinematics::partInMachine(const JointValues& q) const { return linkMotion(m_machine, m_machine.workJoint, q) * m_work; }
Frame Kinematics::toolInMachine(const JointValues& q) const { return linkMotion(m_machine, m_machine.toolJoint, q) * m_tool; }

Kinematics::Rotaries Kinematics::rotariesFor(const Vec3& axis, double tolerance) const {
    Rotaries out;
    const Vec3 a = m_work.linear() * axis; // wanted, in machine coordinates at joints 0
    const Vec3 a0 = m_tool.linear().col(2);
    if (m_rotaries.empty()) {
        out.missing = angleBetween(a, a0);
        if (out.missing <= tolerance) out.solutions.push_back({});
        return out;
    }
    const Vec3& k1 = m_machine.joints[static_cast<std::size_t>(m_rotaries[0])].direction;
    if (m_rotaries.size() == 1) {
        // The axis can only be carried around a cone about k1.
        const double have = angleBetween(k1, a0), want = angleBetween(k1, a);
        out.missing = std::abs(have - want);
        if (out.missing > tolerance) return out;
        RotarySolution s;
        s.firstFree = std::sin(have) < std::max(tolerance, 1e-12);
        s.first = s.firstFree ? 0.0 : turn(k1, a0, a);
        out.solutions.push_back(s);
        out.missing = 0.0;
        return out;
    }
    const Vec3& k2 = m_machine.joints[static_cast<std::size_t>(m_rotaries[1])].direction;
    // a = R1 R2 a0. Let c = R2 a0: it keeps its part along k2, and R1 keeps c's part along k1 equal to a's.
    const double onK1 = k1.dot(a), onK2 = k2.dot(a0);
    const double d = k1.dot(k2);
    const double det = 1.0 - d * d;
    const double alpha = (onK1 - d * onK2) / det, beta = (onK2 - d * onK1) / det;
    const Vec3 inPlane = alpha * k1 + beta * k2;
    const Vec3 across = k1.cross(k2);
    const double rest = 1.0 - inPlane.squaredNorm();
    // How far is the axis from the band it can reach? Angles to k1 of c lie between |θ2 − θd| and θ2 + θd.
    const double theta2 = angleBetween(k2, a0), thetaD = angleBetween(k1, k2), theta1 = angleBetween(k1, a);
    const double lowest = std::abs(theta2 - thetaD);
    const double sum = theta2 + thetaD;
    const double highest = sum > kPi ? 2.0 * kPi - sum : sum;
    const double missing = std::max({0.0, lowest - theta1, theta1 - highest});
    if (missing > tolerance && rest < 0.0) {
        out.missing = missing;
        return out;
    }
    const double offset = std::sqrt(std::max(0.0, rest) / across.squaredNorm());
    const bool firstFree = theta1 < std::max(tolerance, 1e-12) || kPi - theta1 < std::max(tolerance, 1e-12);
    const bool secondFree = theta2 < 1e-12 || kPi - theta2 < 1e-12;
    const int count = offset * across.norm() < 1e-12 ? 1 : 2;
    for (int i = 0; i < count; ++i) {
        const Vec3 c = (inPlane + (i == 0 ? offset : -offset) * across).normalized();
        RotarySolution s;
        s.firstFree = firstFree;
        s.secondFree = secondFree;
        s.second = secondFree ? 0.0 : wrapped(turn(k2, a0, c));
        s.first = firstFree ? 0.0 : wrapped(turn(k1, c, a));
        out.solutions.push_back(s);
        if (firstFree) {
            // On the pole both solutions may coincide in the second joint; keep one of them only.
            if (out.solutions.size() == 2 && std::abs(wrapped(out.solutions[0].second - s.second)) < 1e-9) out.solutions.pop_back();
        }
    }
    return out;
}

JointValues Kinematics::jointsFor(const Vec3& tip, double first, double second) const {
    JointValues q(m_machine.joints.size(), 0.0);
    if (!m_rotaries.empty()) q[static_cast<std::size_t>(m_rotaries[0])] = first;
    if (m_rotaries.size() > 1) q[static_cast<std::size_t>(m_rotaries[1])] = second;
    // With the rotaries set, the tip is an affine function of the linear joints.
    Frame f = m_work.inverse();
    Mat3 columns;
    std::array<std::size_t, 3> linear{};
    int n = 0;
    for (int k : m_chain) {
        const auto u = static_cast<std::size_t>(k);
        const Joint& j = m_machine.joints[u];
        if (j.kind == JointKind::Linear) {
            columns.col(n) = f.linear() * j.direction;
            linear[static_cast<std::size_t>(n++)] = u;
        } else {
            f = f * twist(j, q[u]);
        }
    }
    const Vec3 at0 = (f * m_tool).translation();
    const Vec3 x = columns.partialPivLu().solve(tip - at0);
    for (int i = 0; i < 3; ++i) q[linear[static_cast<std::size_t>(i)]] = x[i];
    return q;
}

std::optional<Vec3> poleOf(const Kinematics& kinematics) {
    if (kinematics.rotaries().size() < 2) return std::nullopt;
    const JointValues still(kinematics.joints(), 0.0);
    const Joint& first = kinematics.machine().joints[static_cast<std::size_t>(kinematics.rotaries()[0])];
    const Vec3 pole = (kinematics.partInMachine(still).linear().transpose() * first.direction).normalized();
    return pole.dot(kinematics.forward(still).axis) < 0.0 ? Vec3(-pole) : pole;
}

} // namespace gyre
