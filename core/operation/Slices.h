// Thin parts: operations that run slice by slice, so that one slice is finished while what carries it is still whole.
#pragma once
#include "base/Result.h"
#include "path/Pass.h"
#include <string>
#include <vector>

namespace gyre {

struct SliceSpec;

/// One of them. Filled in by Job::worked().
struct Slice {
    int number = -1; ///< from 0; −1: it is none
    int of = 0;
    int axis = 2;
    double low = -1e300, high = 1e300; ///< mm of the datum that belong to it
    [[nodiscard]] bool any() const { return number >= 0; }
};

inline constexpr std::size_t kMostSlices = 500;
/// From the free end on. None when there would be more than the most.
[[nodiscard]] std::vector<Slice> slicesOf(const SliceSpec& spec);

/// Passes as far as they lie in the slice, by what they touch (by the tip where nothing is known to be touched): each is cut where it leaves the slice.
/// Levels, and passes with ways down in them, belong as a whole to the slice in which their place furthest from the free end lies.
[[nodiscard]] std::vector<Pass> inSlice(const std::vector<Pass>& passes, const Slice& slice, bool upward);

/// "op3@2" is the second slice of operation "op3".
[[nodiscard]] std::string sliceId(const std::string& operation, int number);
/// "op3" of both.
[[nodiscard]] std::string wholeId(const std::string& id);

} // namespace gyre
