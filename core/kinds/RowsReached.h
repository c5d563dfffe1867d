// Where rows are kept by what the tool reaches, and by what other operations cut.
#pragma once
#include "base/Result.h"
#include "operation/Operation.h"
#include "pattern/Where.h"

namespace gyre {

/// Does the operation's tool stand at a place without coming too near to anything, its axis in its one direction?
/// @return an error where the axis turns, or the machine cannot stand like that
[[nodiscard]] Result<AtPlace> reachedBy(const Workplace& place, const Recipe& recipe);

/// Does one of these run within half a step of a place, as far as they come with their guard?
/// @param leave  mm that these rows leave on the faces
[[nodiscard]] Result<AtPlace> cutBy(const std::vector<std::string>& operations, const Before& before, double leave);

} // namespace gyre
