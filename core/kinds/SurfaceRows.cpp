// Rows between rails over picked faces.
#include "axis/AxisForm.h"
#include "base/Parallel.h"
#include "form/Form.h"
#include "kinds/Kinds.h"
#include "operation/Meant.h"
#include "pattern/PatternForm.h"
#include "pattern/PatternKinds.h"
#include "target/TargetForm.h"
#include <fmt/format.h>

namespace gyre {
namespace {

std::vector<Pass> passesOf(const PatternResult& pattern, const AxisResult& axis, const Cutter& cutter, double leave) {
    std::vector<Pass> passes(pattern.rows.size());
    parallelFor(passes.size(), 1, [&](std::size_t r) {
        const Row& row = pattern.rows[r];
        Pass& pass = passes[r];
        pass.row = pass.origin.row = row.index;
        pass.closed = row.closed;
        const std::size_t n = row.points.size(), count = n + (row.closed ? 1 : 0);
        pass.path.reserve(count);
        for (std::size_t k = 0; k < count; ++k) {
            const std::size_t i = k % n;
            const Vec3 contact = row.points[i] + leave * row.normals[i];
            const Vec3& a = axis.axes[r][i];
            pass.path.push(tipFromContact(cutter, contact, row.normals[i], a).tip, a, contact, row.normals[i], Motion::Cut, row.index, 0.0, row.faces[i]);
            pass.feedDirection.push_back(axis.feeds[r][i]);
        }
    });
    return passes;
}

bool lay(Stages& s) {
    if (!s.pickFaces()) return false;
    const double radius = contactRadius(s.out.tool.cutter);
    // The stock to leave is a word of the target, but rows do not rest on it: it only shifts the contacts.
    s.key =
        Hash().add(s.under).add(targetForm().write(s.recipe.target)["faces"].dump()).add("Pattern").add(patternForm().write(s.recipe.pattern).dump()).add(radius).value();
    {
        const Progress::Span span(s.progress, 0.0, 0.3);
        if (!s.take(Stage::Pattern, s.key, s.out.pattern, [&] { return layRows(*s.place.part, s.out.faces, s.recipe.pattern, radius, s.progress); })) return false;
    }
    s.add(s.out.pattern->findings);
    s.key = Hash().add(s.key).add("Axis").add(axisForm().write(s.recipe.axis).dump()).add(s.tool).add(s.recipe.rests).value();
    const auto aimed = [&]() -> Result<AxisResult> {
        const auto help = axisHelp(s.place, s.recipe, s.out.tool);
        if (!help) return tl::unexpected(help.error());
        return setAxes(s.out.pattern->rows, s.recipe.axis, s.out.tool.cutter, *help);
    };
    if (!s.take(Stage::Axis, s.key, s.out.axis, aimed)) return false;
    s.add(s.out.axis->findings);
    s.key = Hash().add(s.key).add(s.recipe.target.leave).value();
    return s.take(Stage::Axis, s.key, s.out.passes,
                  [&]() -> Result<std::vector<Pass>> { return passesOf(*s.out.pattern, *s.out.axis, s.out.tool.cutter, s.recipe.target.leave); });
}

// What it touches stays, whatever the axis.
Freedom freedom(const Recipe&, const Assembly& tool) {
    Freedom out;
    out.turned = [cutter = tool.cutter](const Pass& pass, std::size_t i, const Vec3& axis) {
        return AxisPose{tipFromContact(cutter, pass.path.contact[i], pass.path.normal[i], axis).tip, axis};
    };
    return out;
}

// Faces that no two rails bound can be cut by planes all the same.
void curePattern(const Recipe& r, std::vector<Finding>& findings) {
    if (!kindOf(r.pattern.kind).rails) return;
    for (Finding& f : findings)
        if (f.code == "nothing-generated" && f.stage == stageName(Stage::Pattern)) f.remedies.push_back({"Rows in parallel planes", "pattern.kind", "planes"});
}

} // namespace

const Definition& surfaceDefinition() {
    static const Definition definition{.kind = OperationKind::Surface, .lay = lay, .facts = nullptr, .locks = true, .freedom = freedom, .cure = curePattern};
    return definition;
}

} // namespace gyre
