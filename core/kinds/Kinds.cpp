#include "kinds/Kinds.h"
#include "operation/StageCache.h"

namespace gyre {

const Definition& definitionOf(OperationKind kind) {
    static const Definition* const kAll[] = {&surfaceDefinition(), &holesDefinition(), &holeStepDefinition(), &millDefinition(),
                                             &swarfDefinition(),   &curveDefinition(), &edgeDefinition(),     &slicesDefinition()};
    for (const Definition* d : kAll)
        if (d->kind == kind) return *d;
    return *kAll[0];
}

} // namespace gyre
