#include "base/Parallel.h"
#include <algorithm>
#include <atomic>
#include <sys/resource.h>
#include <tbb/parallel_for.h>
#include <tbb/task_scheduler_observer.h>
#include <thread>
#include <utility>
#include <vector>

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

#ifdef GYRE_THREADS_WATCHED
// The thread sanitizer does not see into the library of tasks. So: three threads for every loop, and loops inside loops where they are.
bool parallelBlocks(std::size_t count, std::size_t grain, const std::function<void(std::size_t, std::size_t)>& body, const Progress* progress) {
    thread_local bool inside = false;
    grain = std::max<std::size_t>(1, grain);
    std::atomic<std::size_t> next{0};
    std::atomic<bool> complete{true};
    const auto work = [&] {
        const bool before = std::exchange(inside, true);
        for (std::size_t begin = 0; (begin = grain * next++) < count;) {
            if (progress && progress->cancelled()) {
                complete.store(false, std::memory_order_relaxed);
                break;
            }
            body(begin, std::min(count, begin + grain));
        }
        inside = before;
    };
    std::vector<std::thread> others;
    if (!inside && count > grain)
        for (int i = 0; i < 2; ++i) others.emplace_back(work);
    work();
    for (std::thread& other : others) other.join();
    return complete.load();
}
#else
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
#endif

} // namespace gyre
