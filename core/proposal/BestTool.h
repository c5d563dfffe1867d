// Which of a job's tools a first guess takes.
#pragma once
#include "job/Job.h"
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

} // namespace gyre
