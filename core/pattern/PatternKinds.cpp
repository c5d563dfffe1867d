#include "pattern/PatternKinds.h"
#include "base/Units.h"

namespace gyre {
namespace {

Result<PatternField> betweenRails(const FieldInput& in) {
    auto field = harmonicField(in.mesh, in.rails[0], in.rails[1], in.held);
    if (!field) return tl::unexpected(field.error());
    return PatternField{std::move(*field), std::nullopt};
}

/// Planes stand on XY along the rows' direction, or lean from there: 90 degrees makes them levels of Z. The field is the height over the lowest of
/// them, n·p, so that |∇f| over a face is the sine of the angle between its normal and n: rows are no further apart on the face than asked, the
/// planes as much nearer. Where a face lies in the planes it has no rows.
Result<PatternField> inPlanes(const FieldInput& in) {
    const double a = radians(in.spec.along), lean = radians(in.spec.lean);
    const Vec3 n(-std::sin(a) * std::cos(lean), std::cos(a) * std::cos(lean), std::sin(lean));
    double low = 1e300, high = -1e300;
    for (const auto& t : in.mesh.triangles)
        for (const auto i : t) {
            low = std::min(low, n.dot(in.mesh.points[i]));
            high = std::max(high, n.dot(in.mesh.points[i]));
        }
    if (high - low < 0.01) return fail("the faces lie in the planes: no row runs over them", "Pattern", "Choose another direction");
    const double range = high - low;
    std::vector<double> value;
    for (const Vec3& p : in.mesh.points) value.push_back(std::clamp((n.dot(p) - low) / range, 0.0, 1.0));
    PatternField out{fieldOf(in.mesh, std::move(value)), SpaceField{}};
    out.space->value = [n, low, range](const Vec3& p) { return (n.dot(p) - low) / range; };
    out.space->gradient = [n, range](const Vec3&) { return Vec3(n / range); };
    return out;
}

const PatternKind kKinds[] = {
    {PatternBy::Rails, "rails", "between rails", true, betweenRails},
    {PatternBy::Planes, "planes", "in parallel planes", false, inPlanes},
};

} // namespace

std::span<const PatternKind> patternKinds() { return kKinds; }

const PatternKind& kindOf(PatternBy by) {
    for (const PatternKind& k : kKinds)
        if (k.by == by) return k;
    return kKinds[0];
}

} // namespace gyre
