#include "operation/Free.h"
#include "machine/Reach.h"
#include "operation/Definition.h"
#include "operation/Leans.h"

namespace gyre {

// With a locked joint there is one direction for every place, and none to lean to.
bool axisIsFree(const Recipe& recipe) {
    const Definition& definition = definitionOf(recipe.kind);
    return definition.freedom && recipe.axis.locked.empty() && definition.freedom(recipe, {}).turned;
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

std::optional<SkyMap> skyAt(const Workplace& place, const Recipe& recipe, const OperationResult& result, std::size_t location, double cell, bool rooms) {
    if (!result.path() || !place.scene || location >= result.path()->size()) return std::nullopt;
    const auto feed = Leans(result, recipe.axis).feed(location);
    const Freedom freedom = freedomOf(place, recipe, result.tool);
    if (!feed || !freedom.turned) return std::nullopt;
    const Toolpath& path = *result.path();
    Pass here;
    here.path.push(path.tip[location], path.axis[location], path.contact[location], path.normal[location], Motion::Cut, path.row[location], 0.0, path.face[location]);
    here.feedDirection.push_back(*feed);
    const Definition& definition = definitionOf(recipe.kind);
    const Guard guard(result.tool, *place.scene, recipe.guard, recipe.pattern.chordTolerance, definition.meantDepth ? definition.meantDepth(recipe) : 0.0);
    return skyMap(guard, freedom, here, 0, cell, rooms);
}

} // namespace gyre
