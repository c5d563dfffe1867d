#include "operation/Recipe.h"
#include "axis/AxisSpec.h"
#include "base/BoxedWhole.h"
#include "edgebreak/BreakSpec.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "motion/PointsSpec.h"
#include "operation/Repeat.h"
#include "operation/SliceSpec.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "stock/FeedByCut.h"
#include "swarf/SwarfSpec.h"
#include "target/TargetSpec.h"
#include "touch/TouchSpec.h"

namespace gyre {

const char* stageName(Stage s) {
    switch (s) {
    case Stage::Target:
        return "Target";
    case Stage::Pattern:
        return "Pattern";
    case Stage::Axis:
        return "Axis";
    case Stage::Guard:
        return "Guard";
    case Stage::Links:
        return "Links";
    }
    return "";
}

bool laidByStock(const Recipe& r) {
    return (r.kind == OperationKind::Mill && r.mill->shape == MillShape::Rough) || (r.kind == OperationKind::Surface && r.where->byStock);
}

bool restsOnStock(const Recipe& r) { return laidByStock(r) || r.feedByCut->on; }

template class Boxed<AxisSpec>;
template class Boxed<BreakSpec>;
template class Boxed<CurveSpec>;
template class Boxed<DrillSpec>;
template class Boxed<FeedByCut>;
template class Boxed<LinkSpec>;
template class Boxed<MillSpec>;
template class Boxed<PatternSpec>;
template class Boxed<PointsSpec>;
template class Boxed<Repeat>;
template class Boxed<SliceSpec>;
template class Boxed<SwarfSpec>;
template class Boxed<TargetSpec>;
template class Boxed<TouchSpec>;
template class Boxed<WhereSpec>;

} // namespace gyre
