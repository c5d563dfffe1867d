// Rows as they are traced, before their points are thinned, and the gaps between them.
#pragma once
#include "base/Progress.h"
#include "geom/Polyline.h"
#include <functional>

namespace gyre {

struct RowSample {
    Vec3 point, normal;
    Vec2 uv;
    int face;              ///< −1 over a hole that is closed for the field
    bool gapAfter = false; ///< the row ends here at such a hole, and goes on beyond it
};

struct RawLine {
    std::vector<RowSample> samples;
    bool closed = false;
};

/// What is traced before it is thinned: all lines of one level.
struct RawRow {
    double level = 0.0;
    std::vector<RawLine> lines;
};

/// Between a row and the next one.
struct RowGap {
    double widest = 0.0;
    double usual = 0.0;     ///< nearly all of it is no wider
    double counts = 0.0;    ///< that decides how close rows must be: the widest, but for a few places far wider than the rest
    Vec3 at = Vec3::Zero(); ///< the widest
};
/// @param rows by rising levels
[[nodiscard]] std::vector<RowGap> gapsBetween(const std::vector<RawRow>& rows);

/// What rows in between are made of.
struct RowSource {
    std::function<RawRow(double level)> trace;
    struct Place {
        double level, off; ///< of the field there; mm from the point that was asked for
    };
    std::function<Place(const Vec3&)> at; ///< the place of the faces nearest to a point
};
/// Puts rows that run only where they are needed between neighbours that leave more than the spacing: at corners of the border, where the field
/// stands still, and where rows fan out. Each new row lies at the middle of the widest place that is left; of its lines those stretches are kept
/// along which the rows on both sides are further apart than the spacing, and as far beyond.
///
/// @param rows     by rising levels; the new ones are put in among them
/// @param gaps     as from gapsBetween(); what is left afterwards
/// @return false when cancelled
bool closeGaps(std::vector<RawRow>& rows, std::vector<RowGap>& gaps, double spacing, const RowSource& source, const Progress* progress);

} // namespace gyre
