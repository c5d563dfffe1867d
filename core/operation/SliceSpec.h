// Words of operations that run slice by slice.
#pragma once

namespace gyre {

/// How what stands under an operation "slices" is divided. The first slice takes what lies before `from` as well, the last one what lies beyond `to`:
/// nothing is left out.
struct SliceSpec {
    int axis = 2;           ///< X, Y or Z of the datum
    double from = 50.0;     ///< mm along it: the free end, where the first slice begins
    double to = 0.0;        ///< mm: where the last one ends
    double thickness = 5.0; ///< mm of a slice at most; all are alike
    double overlap = 0.0;   ///< mm that each goes on into the next one
};

} // namespace gyre
