// Deterministic parallel loops: the split of the work never depends on the number of threads.
#pragma once
#include "base/Progress.h"
#include <cstddef>
#include <functional>

namespace gyre {

/// Runs `body(begin, end)` over [0, count) in blocks of `grain`, on all cores.
/// Blocks are always the same, so a body that writes only to its own indices gives the same bytes with any thread count.
/// @return false when cancelled before all blocks had run
bool parallelBlocks(std::size_t count, std::size_t grain, const std::function<void(std::size_t, std::size_t)>& body, const Progress* progress = nullptr);

/// As parallelBlocks, one index at a time.
template <class Body> bool parallelFor(std::size_t count, std::size_t grain, const Body& body, const Progress* progress = nullptr) {
    return parallelBlocks(
        count, grain,
        [&](std::size_t begin, std::size_t end) {
            for (std::size_t i = begin; i < end; ++i) body(i);
        },
        progress);
}

/// Makes this thread and all that run parallel loops give way to other threads: with a window on few cores the interface stays
/// quick while much is computed. Lasts for the life of the process.
void yieldToInterface();

} // namespace gyre
