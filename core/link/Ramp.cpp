#include "link/Ramp.h"
#include <cmath>

namespace gyre {

std::vector<double> lengthsAlong(const Pass& pass) {
    std::vector<double> s(pass.path.size(), 0.0);
    for (std::size_t i = 1; i < s.size(); ++i) s[i] = s[i - 1] + (pass.path.tip[i] - pass.path.tip[i - 1]).norm();
    return s;
}

std::vector<AxisPose> rampAlong(const Pass& pass, double rise, double slope, bool atEnd) {
    constexpr double kLongest = 3000.0, kShortest = 3.0; // mm
    const std::vector<double> s = lengthsAlong(pass);
    const std::size_t n = s.size();
    const double whole = s.back(), wanted = rise / std::tan(slope);
    if (n < 2 || whole < kShortest || !(wanted > 0.0) || wanted > kLongest) return {};
    std::vector<AxisPose> way;
    double gone = 0.0;
    const auto put = [&](const Vec3& tip, const Vec3& axis) { way.push_back({tip + rise * std::min(1.0, gone / wanted) * axis, axis}); };
    // From one location to a neighbour, or as far as `limit` of the whole way.
    const auto step = [&](std::size_t i, std::size_t j, double limit) {
        const double length = std::abs(s[j] - s[i]), t = length > 1e-12 ? std::min(1.0, (limit - gone) / length) : 1.0;
        gone += t * length;
        put(pass.path.tip[i] + t * (pass.path.tip[j] - pass.path.tip[i]), t < 1.0 ? slerp(pass.path.axis[i], pass.path.axis[j], t) : pass.path.axis[j]);
        return t < 1.0;
    };
    const std::size_t first = atEnd ? n - 1 : 0;
    put(pass.path.tip[first], pass.path.axis[first]);
    if (pass.closed) {
        for (std::size_t k = 0; gone < wanted - 1e-9; ++k) {
            const std::size_t round = k % (n - 1), i = atEnd ? round : n - 1 - round;
            step(i, atEnd ? i + 1 : i - 1, wanted);
        }
        return way;
    }
    const auto at = [&](std::size_t k) { return atEnd ? n - 1 - k : k; };
    const double turns = std::ceil(wanted / (2.0 * whole)), leg = wanted / (2.0 * turns);
    for (int turn = 0; turn < static_cast<int>(turns); ++turn) {
        const double out = (2 * turn + 1) * leg;
        std::size_t k = 0;
        for (; k + 1 < n && gone < out - 1e-9; ++k)
            if (step(at(k), at(k + 1), out)) break;
        // Back over the locations that were passed.
        const double back = (2 * turn + 2) * leg;
        for (std::size_t i = k + 1; i-- > 0;) {
            gone = back - std::abs(s[at(i)] - s[first]);
            put(pass.path.tip[at(i)], pass.path.axis[at(i)]);
        }
    }
    return way;
}

} // namespace gyre
