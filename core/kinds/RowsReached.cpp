#include "kinds/RowsReached.h"
#include "axis/AxisSpec.h"
#include "geom/Polyline.h"
#include "guard/Guard.h"
#include "guard/GuardSpec.h"
#include "operation/Free.h"
#include "operation/OperationResult.h"
#include "operation/Scenes.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "target/TargetSpec.h"
#include "tool/Contact.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

Result<AtPlace> reachedBy(const Workplace& place, const Recipe& recipe) {
    const AxisSpec& a = recipe.axis;
    if (a.rule != AxisRule::Fixed || a.blended || !a.keys.empty() || a.offFaces > 0.0 || !a.locked.empty())
        return fail("what the tool reaches can be told for an axis that stands still alone", {},
                    "Let the axis stand in one direction, or leave out what it does not reach");
    const Assembly* tool = place.tool(recipe.tool);
    if (!tool) return fail("no tool is chosen", {}, "Choose a tool");
    const Vec3 axis = a.direction.normalized();
    if (const Freedom freedom = freedomOf(place, recipe, *tool); freedom.reached && !freedom.reached(axis))
        return fail("the machine cannot stand like that: the tool reaches nothing", {}, "Let the axis stand in another direction");
    auto scene = withChecks(place, recipe, place.scene);
    if (!scene) return tl::unexpected(scene.error());
    struct Asked {
        std::shared_ptr<const Scene> scene;
        Guard guard;
    };
    const auto asked = std::make_shared<const Asked>(Asked{*scene, Guard(*tool, **scene, recipe.guard, recipe.pattern->chordTolerance)});
    return AtPlace([asked, cutter = tool->cutter, axis, leave = recipe.target->leave](const Vec3& point, const Vec3& normal) {
        constexpr double kBefore = 0.05; // mm: rows end a little before what is too near
        return !asked->guard.hit({tipFromContact(cutter, point + leave * normal, normal, axis).tip, axis}, Contact::Cutting, kBefore);
    });
}

namespace {

/// What one operation cuts.
struct Cut {
    double within; ///< mm
    std::vector<PolylineDistance> lines;
    std::vector<Box> boxes;
    std::vector<std::vector<Vec3>> normals; ///< by point
    [[nodiscard]] bool at(const Vec3& p, const Vec3& normal) const {
        constexpr double kSameSide = 0.7;
        for (std::size_t i = 0; i < lines.size(); ++i) {
            if (((boxes[i].low - p).array() > within).any() || ((p - boxes[i].high).array() > within).any()) continue;
            const auto near = lines[i].nearest(p, within);
            if (near.distance < within && normals[i][near.segment].dot(normal) > kSameSide) return true;
        }
        return false;
    }
};

} // namespace

Result<AtPlace> cutBy(const std::vector<std::string>& operations, const Before& before, double leave) {
    const auto all = std::make_shared<std::vector<Cut>>();
    for (const std::string& id : operations) {
        const auto result = before.result ? before.result(id) : nullptr;
        if (!result)
            return fail("operation '" + id + "', to which what it cuts is left, has no path, or does not stand before this one", {},
                        "Choose another one, or move it up in the route");
        const std::vector<Pass>* passes = result->guard ? &result->guard->passes : result->passes.get();
        if (!result->pattern || result->kind != OperationKind::Surface || !passes)
            return fail("operation “" + result->name + "” has no rows over faces", {}, "Choose one that has");
        Cut& cut = all->emplace_back(Cut{0.505 * result->pattern->spacing + 0.01, {}, {}, {}});
        for (const Pass& pass : *passes) {
            if (pass.path.size() < 2) continue;
            Polyline line = pass.path.contact;
            std::vector<Vec3> normals = pass.path.normal;
            Box box;
            for (const Vec3& p : line) box.add(p);
            cut.boxes.push_back(box);
            cut.lines.emplace_back(std::move(line));
            cut.normals.push_back(std::move(normals));
        }
    }
    return AtPlace([all, leave](const Vec3& point, const Vec3& normal) {
        const Vec3 at = point + leave * normal;
        return std::any_of(all->begin(), all->end(), [&](const Cut& cut) { return cut.at(at, normal); });
    });
}

} // namespace gyre
