// A finding with its place.
#pragma once
#include "base/Finding.h"
#include "geom/Vec.h"
#include <utility>

namespace gyre {

[[nodiscard]] inline Finding findingAt(Rank rank, const char* code, const char* stage, std::string text, std::string reason, const Vec3& at, double amount,
                                       std::vector<Remedy> remedies = {}) {
    Finding f;
    f.rank = rank;
    f.code = code;
    f.stage = stage;
    f.text = std::move(text);
    f.reason = std::move(reason);
    f.place = {at.x(), at.y(), at.z()};
    f.amount = amount;
    f.remedies = std::move(remedies);
    return f;
}

} // namespace gyre
