#include "post/JointWords.h"
#include "base/Units.h"
#include "motion/Motion.h"

namespace gyre {

double jointFeedWord(const Machine& machine, const JointMotion& motion, std::size_t step, double unit) {
    const double minutes = std::max(1e-7, motion.asked[step] / 60.0);
    if (machine.jointFeed == JointFeed::InverseTime) return 1.0 / minutes;
    double slides = 0.0, turns = 0.0;
    for (std::size_t j = 0; j < motion.joints; ++j) {
        const double d = motion.at(step)[j] - motion.at(step - 1)[j];
        (machine.joints[j].kind == JointKind::Rotary ? turns : slides) += d * d;
    }

    return (slides > kStandsStill * kStandsStill ? std::sqrt(slides) / unit : degrees(std::sqrt(turns))) / minutes;
}

std::vector<std::vector<char>> clampedBlocks(const Machine& machine, const JointMotion& motion, const std::vector<std::size_t>& steps, const std::vector<char>& rapid) {
    std::vector<std::vector<char>> held(machine.joints.size());
    for (std::size_t j = 0; j < machine.joints.size(); ++j) {
        if (machine.joints[j].clampCode <= 0) continue;
        held[j].assign(steps.size(), 0);
        const auto still = [&](std::size_t i) { return std::abs(motion.at(steps[i])[j] - motion.at(steps[i - 1])[j]) < 1e-9; };
        for (std::size_t from = 1; from < steps.size();) {
            if (!still(from)) {
                ++from;
                continue;
            }
            std::size_t to = from;
            while (to < steps.size() && still(to)) ++to;
            // Closed and opened beside a rapid only, never in the middle of a cut.
            const std::size_t after = to;
            while (from < to && from != 1 && !rapid[from] && !rapid[from - 1]) ++from;
            while (to > from && to != steps.size() && !rapid[to]) --to;
            bool cuts = false;
            for (std::size_t i = from; i < to; ++i) cuts = cuts || !rapid[i];
            if (cuts) std::fill(held[j].begin() + static_cast<std::ptrdiff_t>(from), held[j].begin() + static_cast<std::ptrdiff_t>(to), char{1});
            from = after;
        }
    }
    return held;
}

} // namespace gyre
