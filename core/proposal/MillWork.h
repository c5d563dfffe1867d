// First guesses of operations on a sheet: what suits what is picked, which tool, how deep and how wide a cut.
#pragma once
#include "job/Job.h"

namespace gyre {

enum class MillShape;
struct Skin;
struct Workplace;

/// A safe skin around part, fixture and stock for tools that stand along all these directions while machines turn between them: a plane
/// where they are one of the datum's, a cylinder where they all stand square to one, else a sphere.
[[nodiscard]] Skin skinAround(const Workplace& place, const std::vector<Vec3>& directions, bool stockStands);

/// What picked faces and edges look like: a floor with walls is a pocket, without a face; the inside of a round a bore, its outside a
/// whole round; edges alone are followed.
[[nodiscard]] MillShape millShapeFor(const Part& part, const std::vector<int>& faces, const std::vector<int>& edges);

/// An operation with nothing picked yet.
[[nodiscard]] Recipe proposeMill(const Job& job, const Workplace& place, MillShape shape);
/// Tool, steps and skin that suit what the recipe has picked.
void fitMill(const Job& job, const Workplace& place, Recipe& recipe);

/// A groove along a helix around the part: the curve, and the operation that follows it.
struct HelicalGroove {
    Mend helix;
    Recipe recipe;
};
/// @param around  the cylinder it runs around; without one the largest outside cylinder along an axis of the datum, first of all one that the
/// machine's one rotary turns about
[[nodiscard]] HelicalGroove proposeHelicalGroove(const Job& job, const Workplace& place, std::optional<int> around = {});
/// The groove goes around another cylinder, or another axis: curve, sheet and skin follow; pitch, turns and depth stay.
[[nodiscard]] Status moveGroove(Job& job, const Workplace& place, const std::string& operation, const std::string& helix, int around);
/// The largest outside cylinder along X, Y or Z (0 … 2) of the datum.
[[nodiscard]] std::optional<int> cylinderAlong(const Part& part, int axis);

} // namespace gyre
