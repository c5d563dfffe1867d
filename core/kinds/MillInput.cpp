#include "kinds/MillInput.h"
#include "base/Hash.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "operation/Meant.h"
#include "operation/Recipe.h"
#include "operation/Workplace.h"
#include "target/Target.h"
#include "target/TargetSpec.h"

namespace gyre {

Result<GatheredMill> gatherMill(const Workplace& place, const Recipe& recipe) {
    GatheredMill out;
    MillInput& in = out.input;
    in.part = place.part.get();
    in.planes = recipe.planes;
    if (recipe.mill->shape == MillShape::Body && !recipe.mill->after.empty()) {
        in.after = place.tool(recipe.mill->after);
        if (!in.after) return fail("the tool that cut before is not in the job: " + recipe.mill->after, {}, "Choose another tool before, or none");
    }
    auto faces = resolveFaces(*place.part, recipe.target->faces);
    if (!faces) return tl::unexpected(faces.error());
    auto edges = resolveEdges(*place.part, recipe.target->edges);
    if (!edges) return tl::unexpected(edges.error());
    auto profile = resolveEdges(*place.part, recipe.target->profile);
    if (!profile) return tl::unexpected(profile.error());
    in.faces = std::move(*faces);
    in.profile = std::move(*profile);
    auto curves = curvesOf(*place.part, std::move(*edges));
    if (!curves) return tl::unexpected(curves.error());
    in.curves = std::move(*curves);
    Hash drawn;
    for (const std::string& name : recipe.target->drawings) {
        const auto found = curvesNamed(place, name);
        if (!found) return tl::unexpected(found.error());
        for (const Curve& c : found->curves) {
            (found->flat ? in.drawn : in.curves).push_back(c);
            drawn.add(found->flat ? 1.0 : 0.0);
            for (const CurveKnot& k : c.knots()) drawn.add(k.point.x()).add(k.point.y()).add(k.point.z());
        }
    }
    out.curves = drawn.value();
    if (const auto line = rotaryLine(*place.machine, place.partFrame)) in.rotary.push_back(*line);
    in.body = place.part->body() ? place.part->body().get() : place.part.get();
    in.model = &in.body->tree();
    for (const PlacedBody& b : place.bodies)
        if (b.role == "stock") in.stock.push_back(&b.shape->tree());
    return out;
}

Result<Sheet> sheetShown(const Workplace& place, const Recipe& recipe) {
    if (!place.part) return fail("the job has no part", {}, "Open a part in Set up");
    auto gathered = gatherMill(place, recipe);
    if (!gathered) return tl::unexpected(gathered.error());
    auto sheet = sheetOf(gathered->input, recipe.mill);
    if (sheet || recipe.mill->on.rfind("round ", 0) != 0) return sheet;
    // Nothing tells the radius yet: that of the part.
    MillSpec outside = recipe.mill;
    outside.shape = MillShape::Round;
    return sheetOf(gathered->input, outside);
}

} // namespace gyre
