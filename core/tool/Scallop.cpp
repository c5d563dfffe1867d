#include "tool/Scallop.h"
#include "tool/Contact.h"
#include <algorithm>
#include <cmath>

namespace gyre {

double stepFromScallop(double radius, double scallop) {
    const double h = std::clamp(scallop, 0.0, radius);
    return 2.0 * std::sqrt(2.0 * radius * h - h * h);
}

double scallopFromStep(double radius, double step) {
    const double half = 0.5 * step;
    return half >= radius ? radius : radius - std::sqrt(radius * radius - half * half);
}

namespace {
constexpr double kLowest = 1e-6; // mm
constexpr std::size_t kHeights = 160;
} // namespace

Scallop::Scallop(double ballRadius) : m_ball(std::max(0.0, ballRadius)), m_most(m_ball), m_round(ballRadius > 0.0) {}

Scallop::Scallop(const Cutter& cutter, const Vec3& axis) : m_lowest(std::log(kLowest)), m_most(0.5 * cutter.diameter) {
    if (const double ball = contactRadius(cutter); ball >= m_most - 1e-9) { // the same however it leans
        *this = Scallop(ball);
        return;
    }
    m_perStep = (std::log(m_most) - m_lowest) / static_cast<double>(kHeights - 1);
    m_log.reserve(kHeights);
    for (std::size_t i = 0; i < kHeights; ++i) m_log.push_back(std::log(std::max(1e-12, widthOf(cutter, axis, std::exp(m_lowest + m_perStep * static_cast<double>(i))))));
    constexpr double kFlat = 0.8; // of its diameter, at a hundredth of a millimetre
    m_round = width(0.01) < kFlat * cutter.diameter;
}

// The outline lies on one side of every line that touches it: y sin β − z cos β ≤ support. At the height z the narrowest of these bounds counts, on both sides.
double Scallop::widthOf(const Cutter& cutter, const Vec3& axis, double height) const {
    const auto support = [&](const Vec3& d) {
        const double up = d.dot(axis);
        const Vec3 own(std::sqrt(std::max(0.0, 1.0 - up * up)), 0.0, up);
        return cutterSupport(cutter, own).dot(own);
    };
    const double lowest = -support(-Vec3::UnitZ());
    double sum = 0.0;
    for (const double side : {-1.0, 1.0}) {
        const auto bound = [&](double beta) {
            const Vec3 d(0.0, side * std::sin(beta), -std::cos(beta));
            return (support(d) + (lowest + height) * std::cos(beta)) / std::sin(beta);
        };
        // Of a convex outline the bounds fall to one least place and rise again.
        double low = 1e-7, high = 1.6;
        const double golden = 0.5 * (std::sqrt(5.0) - 1.0);
        // The angle at low heights is small: it is looked for by its logarithm first.
        double best = 1e300, at = high;
        for (int k = 0; k <= 120; ++k) {
            const double beta = low * std::pow(high / low, k / 120.0);
            if (const double b = bound(beta); b < best) {
                best = b;
                at = beta;
            }
        }
        const double ratio = std::pow(high / low, 1.0 / 120.0);
        low = at / ratio;
        high = std::min(high, at * ratio);
        for (int k = 0; k < 60; ++k) {
            const double a = high - golden * (high - low), b = low + golden * (high - low);
            (bound(a) < bound(b) ? high : low) = bound(a) < bound(b) ? b : a;
        }
        sum += std::min(best, bound(0.5 * (low + high)));
    }
    return sum;
}

double Scallop::width(double height) const {
    const double h = std::min(height, m_most);
    if (m_log.empty()) return stepFromScallop(m_ball, h);
    const double at = std::max(0.0, (std::log(std::max(h, 1e-300)) - m_lowest) / m_perStep);
    const std::size_t i = std::min(static_cast<std::size_t>(at), kHeights - 2);
    const double share = std::min(at - static_cast<double>(i), 1.0);
    return std::exp((1.0 - share) * m_log[i] + share * m_log[i + 1]);
}

// Circles of radius ρ around points (R + ρ) from the middle of the surface's circle R = 1/κ meet (R + h) from it. The law of cosines says at which angle.
double Scallop::step(double height, double curvature) const {
    constexpr double kMost = 2.0, kLeast = 0.05; // in a hollow that is hardly wider than the cutter
    const double flat = width(height), half = 0.5 * flat, radius = (half * half + height * height) / (2.0 * height);
    const double beside = std::max(1.0 + curvature * radius, kLeast) * std::max(1.0 + curvature * height, kLeast);
    const double x = std::min(1.0, 0.5 * curvature * curvature * half * half / beside); // 1 − cos of half the angle between the contacts
    return std::min(kMost * flat, flat * std::sqrt(0.5 * (2.0 - x) / beside));
}

double Scallop::height(double step, double curvature) const {
    if (!(step > 0.0) || !(m_most > 0.0)) return 0.0;
    if (m_log.empty() && curvature == 0.0) return scallopFromStep(m_ball, step);
    double low = std::log(1e-9), high = std::log(m_most);
    if (this->step(m_most, curvature) <= step) return m_most;
    for (int k = 0; k < 50; ++k) {
        const double middle = 0.5 * (low + high);
        (this->step(std::exp(middle), curvature) < step ? low : high) = middle;
    }
    return std::exp(high);
}

} // namespace gyre
