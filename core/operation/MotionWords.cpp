#include "operation/MotionWords.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "motion/PointsSpec.h"
#include "operation/Definition.h"
#include "operation/Recipe.h"

namespace gyre {

MotionSpec motionWordsOf(const Recipe& recipe, const Machine& machine) {
    MotionSpec spec;
    if (definitionOf(recipe.kind).locks && !recipe.axis->locked.empty()) {
        spec.locked = machine.find(recipe.axis->locked);
        spec.lockedAt = radians(recipe.axis->lockedDegrees);
    }
    spec.stopsAtPoints = recipe.points->how == AtPoints::ExactStop;
    return spec;
}

} // namespace gyre
