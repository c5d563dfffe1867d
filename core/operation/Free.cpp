#include "operation/Free.h"
#include "axis/AxisSpec.h"
#include "machine/Reach.h"
#include "operation/Definition.h"
#include "operation/Leans.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"

namespace gyre {

// With a locked joint there is one direction for every place, and none to lean to.
bool axisIsFree(const Recipe& recipe) {
    const Definition& definition = definitionOf(recipe.kind);
    return definition.freedom && recipe.axis->locked.empty() && definition.freedom(recipe, {}).turned;
}

Freedom freedomOf(const Workplace& place, const Recipe& recipe, const Assembly& tool) {
    const AxisSpec& axis = recipe.axis;
    if (!axisIsFree(recipe)) return {};
    Freedom out = definitionOf(recipe.kind).freedom(recipe, tool);
    const auto kinematics = std::make_shared<const Kinematics>(*place.machine, place.partFrame, tool.gaugeLength());
    out.reached = [kinematics](const Vec3& direction) { return reachOf(*kinematics, direction).reached(); };
    if (axis.limited) {
        out.low = radians(axis.lowDegrees);
        out.high = radians(axis.highDegrees);
    }
    out.steepest = radians(axis.steepest);
    return out;
}

std::optional<SkyHere> skyAt(const Workplace& place, const Recipe& recipe, const OperationResult& result, std::size_t location, double cell, bool rooms) {
    if (!result.path() || !result.scene || location >= result.path()->size()) return std::nullopt;
    const auto feed = Leans(result, recipe.axis).feed(location);
    if (!feed || !axisIsFree(recipe)) return std::nullopt;
    struct Asked { // outlives the workplace
        std::shared_ptr<const Scene> scene;
        Guard guard;
        Freedom freedom;
        Pass here;
    };
    const Definition& definition = definitionOf(recipe.kind);
    const double meant = definition.meantDepth ? definition.meantDepth(recipe) : 0.0;
    const auto asked = std::make_shared<Asked>(
        Asked{result.scene, Guard(result.tool, *result.scene, recipe.guard, recipe.pattern->chordTolerance, meant), freedomOf(place, recipe, result.tool), {}});
    const Toolpath& path = *result.path();
    asked->here.path.push(path.tip[location], path.axis[location], path.contact[location], path.normal[location], Motion::Cut, path.row[location], 0.0,
                          path.face[location]);
    asked->here.feedDirection.push_back(*feed);
    SkyHere out{skyMap(asked->guard, asked->freedom, asked->here, 0, cell, rooms), {}, {}};
    out.stands = [asked](const Vec3& axis) { return asked->freedom.turned(asked->here, 0, axis); };
    out.ask = [asked](const Vec3& axis) {
        HitHints hints = asked->guard.hints();
        return skyCell(asked->guard, asked->freedom, asked->here, 0, axis, true, hints);
    };
    return out;
}

} // namespace gyre
