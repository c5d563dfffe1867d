// What the guard can do where something is too near: one entry for each in GuardPasses.cpp.
#pragma once
#include "guard/GuardSpec.h"
#include "guard/Hits.h"
#include <span>

namespace gyre {

/// Passes on their way through the responses.
struct Answering {
    const Guard& guard;
    const Freedom& freedom;
    std::vector<Pass>& passes;
    HitTable& hits; ///< what is too near now
    GuardResult& out;
    Progress& progress;
};

struct ResponseKind {
    GuardResponse response;
    const char *word, *label;       ///< in files, in sentences
    bool (*answer)(Answering& all); ///< to every hit, as far as it can; `hits` are then what is left. @return false: called off
};
[[nodiscard]] std::span<const ResponseKind> responseKinds();

} // namespace gyre
