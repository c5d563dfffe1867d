// Dialect files of the made-up workshop.
#pragma once
#include "post/Spelling.h"
#include <utility>
#include <vector>

namespace gyre::demo {

/// By the name of the file, without its ending.
std::vector<std::pair<std::string, Spelling>> dialects();

} // namespace gyre::demo
