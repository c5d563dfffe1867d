#include "operation/Workplace.h"
#include "axis/AxisSpec.h"
#include "base/Hash.h"
#include "operation/Recipe.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "target/TargetSpec.h"

namespace gyre {

const Assembly* Workplace::tool(const std::string& id) const {
    for (const auto& t : tools)
        if (t.id == id) return &t;
    return nullptr;
}

std::uint64_t Workplace::keyFor(const Recipe& r) const {
    const bool withCurves = !r.target->drawings.empty() || !r.axis->curve.empty() || !r.axis->last.curve.empty() || !r.where->curve.empty() || !r.pattern->curve.empty();
    const bool withStock = r.kind == OperationKind::Mill || r.kind == OperationKind::HoleStep || restsOnStock(r);
    if (!withCurves && !withStock) return key;
    Hash all;
    all.add(key);
    if (withCurves) all.add(curves);
    if (withStock) all.add(stock);
    return all.value();
}

} // namespace gyre
