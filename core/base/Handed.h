// What one thread leaves for another through a queue of somebody else's library, a window's events say. The thread sanitizer does not see into those and is told here; in
// every other build nothing happens.
#pragma once

#ifdef GYRE_THREADS_WATCHED
extern "C" {
void __tsan_release(void*);
void __tsan_acquire(void*);
}
#endif

namespace gyre {

#ifdef GYRE_THREADS_WATCHED
inline char handedThings = 0;
inline void handOver() { __tsan_release(&handedThings); }
inline void takeOver() { __tsan_acquire(&handedThings); }
#else
/// All that this thread did so far is there for those who take over later.
inline void handOver() {}
inline void takeOver() {}
#endif

/// The last thing that a function takes with it into such a queue: what it took before is there for those who take over.
struct Handed {
    Handed() = default;
    Handed(const Handed&) { handOver(); }
    Handed& operator=(const Handed&) = delete;
};

} // namespace gyre
