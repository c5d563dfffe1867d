// Which of a job's tools a first guess takes, and its numbers as a person would write them.
#pragma once
#include "job/Job.h"
#include <algorithm>
#include <cmath>
#include <optional>

namespace gyre {

/// Of all tools that please, the id of the one that is liked most; empty when none does.
/// @param like  gives how much, or nothing for a tool that does not suit
template <class Like> [[nodiscard]] std::string bestTool(const Job& job, const Like& like) {
    std::string id;
    double most = -1e300;
    for (const Assembly& a : job.tools)
        if (const std::optional<double> liked = like(a); liked && *liked > most) {
            most = *liked;
            id = a.id;
        }
    return id;
}

/// To the step, and never less than one.
[[nodiscard]] inline double tidy(double v, double step) { return std::max(step, std::round(v / step) * step); }

} // namespace gyre
