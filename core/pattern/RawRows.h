// Rows as they are traced, before their points are thinned, and the gaps between them.
#pragma once
#include "base/Progress.h"
#include "geom/Polyline.h"
#include "tool/Scallop.h"
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

/// The stretches of a line whose samples are kept, as lines of their own.
void addStretches(const RawLine& line, const std::vector<char>& keep, std::vector<RawLine>& to);

/// What is traced before it is thinned: all lines of one level.
struct RawRow {
    double level = 0.0;
    std::vector<RawLine> lines;
    bool between = false; ///< put in by closeGaps(): it runs only where it is needed
};

/// From a row across to the next: how far, and how the faces bend in between (positive where they are convex).
struct StepAcross {
    double mm = 0.0, curvature = 0.0;
};

/// How much a step between rows counts for: as far as it is, or by the scallop that it leaves. Then every distance stands for the step on a plane that
/// would leave as much.
class RowMeasure {
public:
    RowMeasure() = default;
    RowMeasure(const Scallop& scallop, double asked) : m_scallop(&scallop), m_asked(asked), m_flat(scallop.step(asked, 0.0)) {}
    [[nodiscard]] bool byScallop() const { return m_scallop != nullptr; }
    [[nodiscard]] double counts(const StepAcross& step) const { return m_scallop ? step.mm * m_flat / m_scallop->step(m_asked, step.curvature) : step.mm; }

private:
    const Scallop* m_scallop = nullptr;
    double m_asked = 0.0, m_flat = 0.0;
};

/// Between a row and the next one.
struct RowGap {
    double widest = 0.0;
    double usual = 0.0;     ///< nearly all of it is no wider
    double counts = 0.0;    ///< that decides how close rows must be: the widest, but for a few places far wider than the rest
    Vec3 at = Vec3::Zero(); ///< the widest
};

/// Leaves out stretches of rows where both neighbours are next to touching: where the field rises steeply its levels lie far closer than elsewhere.
/// @param least  mm from neighbour to neighbour
void thinOut(std::vector<RawRow>& rows, double least);

/// The steps that leave most: none of them is at the same time no wider and no more convex than another one.
struct LargestSteps {
    std::vector<StepAcross> all;
    double widest = 0.0; ///< mm
    Vec3 at = Vec3::Zero();
    std::vector<std::pair<Vec3, Vec3>> wide; ///< of each row the widest step over the limit, from it to the next
};
/// @param limit  mm: what is wider may be no gap at all, but lead past the border or over to another part of the faces
/// @param truly  how wide it is then
[[nodiscard]] LargestSteps largestSteps(const std::vector<RawRow>& rows, double limit, const std::function<double(const Vec3&, const Vec3&)>& truly);

/// What rows in between are made of.
struct RowSource {
    std::function<RawRow(double level)> trace;
    struct Place {
        double level, off; ///< of the field there; mm from the point that was asked for
    };
    std::function<Place(const Vec3&)> at; ///< the place of the faces nearest to a point
    /// Does a step from a row to its neighbour lead over faces that lie between the two, and not past the border or over to another part of the faces?
    [[nodiscard]] bool leadsAcross(const Vec3& a, const Vec3& b, double low, double high) const;
};

/// @param rows   by rising levels
/// @param limit  mm: wider steps are asked about
[[nodiscard]] std::vector<RowGap> gapsBetween(const std::vector<RawRow>& rows, const RowMeasure& measure, const RowSource& source, double limit);

/// Puts rows that run only where they are needed between neighbours that leave more than the spacing: at corners of the border, where the field
/// stands still, and where rows fan out. Each new row lies at the middle of the widest place that is left; of its lines those stretches are kept
/// along which the rows on both sides are further apart than the spacing, and as far beyond.
///
/// @param rows     by rising levels; the new ones are put in among them
/// @param gaps     as from gapsBetween(); what is left afterwards
/// @return false when cancelled
bool closeGaps(std::vector<RawRow>& rows, std::vector<RowGap>& gaps, double spacing, const RowMeasure& measure, const RowSource& source, const Progress* progress);

} // namespace gyre
