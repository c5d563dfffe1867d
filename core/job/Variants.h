// Several ways of doing one operation: one of them is in the route, the others are put aside in the job and can be taken instead.
#pragma once
#include "job/Job.h"

namespace gyre {

/// Operations that lay a path by themselves may have them; what stands in holes, and what only carries others, not.
[[nodiscard]] bool mayVary(const Recipe& recipe);
/// By their names; the one in the route among them. Empty: there is no such operation, or it has no others.
[[nodiscard]] std::vector<const Recipe*> variantsOf(const Job& job, const std::string& operation);
/// Puts the operation aside as it is; what stays in the route is a copy of it, a variant by the next free letter.
Status addVariant(Job& job, const std::string& operation);
/// The one in the route and this one change places. Where it stands in the route, and whether it is switched on, stays.
Status takeVariant(Job& job, const std::string& operation, const std::string& variant);
/// One that is put aside; the last one in the route is no variant any more.
Status dropVariant(Job& job, const std::string& operation, const std::string& variant);
/// Drops all that are put aside.
void keepVariant(Job& job, const std::string& operation);

inline constexpr std::size_t kMostVariants = 6; ///< of an operation

} // namespace gyre
