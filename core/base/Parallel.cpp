#include "base/Parallel.h"
#include <algorithm>
#include <atomic>
#include <sys/resource.h>
#include <tbb/parallel_for.h>
#include <tbb/task_scheduler_observer.h>

namespace gyre {
namespace {

// On Linux this concerns the calling thread alone.
void giveWay() { (void)setpriority(PRIO_PROCESS, 0, 10); }

class WorkersGiveWay : public tbb::task_scheduler_observer {
public:
    WorkersGiveWay() { observe(true); }
    void on_scheduler_entry(bool isWorker) override {
        if (isWorker) giveWay();
    }
};

} // namespace

void yieldToInterface() {
    static WorkersGiveWay workers;
    giveWay();
}

bool parallelBlocks(std::size_t count, std::size_t grain, const std::function<void(std::size_t, std::size_t)>& body, const Progress* progress) {
    grain = std::max<std::size_t>(1, grain);
    const std::size_t blocks = (count + grain - 1) / grain;
    std::atomic<bool> complete{true};
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, blocks, 1),
        [&](const tbb::blocked_range<std::size_t>& range) {
            for (std::size_t block = range.begin(); block != range.end(); ++block) {
                if (progress && progress->cancelled()) {
                    complete.store(false, std::memory_order_relaxed);
                    return;
                }
                body(block * grain, std::min(count, (block + 1) * grain));
            }
        },
        tbb::simple_partitioner());
    return complete.load();
}

} // namespace gyre
