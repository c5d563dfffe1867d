// Words of work along curves.
#pragma once

namespace gyre {

enum class CurveBy { Tip, BallCentre, Side, Channel };
enum class CurveSide { On, Left, Right };

struct CurveSpec {
    CurveBy by = CurveBy::Tip;
    CurveSide side = CurveSide::On;
    double offset = 0.0;         ///< mm away from the curve, to `side`; of By Side beside the cutter's radius
    double axial = 0.0;          ///< mm along the axis, positive toward the spindle
    double depth = 0.0;          ///< mm against the surface normal, at the end
    double stepdown = 0.0;       ///< 0: at once
    double overlap = 0.0;        ///< mm further over the start, on closed curves
    double entry = 0.0;          ///< closed curves: fraction of the way where it begins
    double from = 0.0, to = 1.0; ///< the part that is cut, as fractions of the curve
    bool reversed = false;
    bool backAndForth = true; ///< open curves: every other depth the other way
    bool operator==(const CurveSpec&) const = default;
};

} // namespace gyre
