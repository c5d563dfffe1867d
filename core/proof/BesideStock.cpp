#include "proof/BesideStock.h"
#include "base/Parallel.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "proof/WholeMotion.h"
#include <algorithm>

namespace gyre {

// The same halving as of the proof, against the stock as a body of its own; a place of half a millimetre is small enough to be asked as one.
Result<BesideStock> besideStock(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, Progress& progress, const Standing& start) {
    constexpr double kPlace = 0.5;
    BesideStock out;
    if (!operation.complete() || operation.links->path.empty()) return out;
    const Machine& machine = *place.machine;
    out.movers = moversOf(place, operation.tool);
    std::vector<Mover> stocks;
    std::vector<const PlacedBody*> bodies;
    for (const PlacedBody& b : place.bodies) {
        if (b.role != "stock" || b.shape->tree().empty()) continue;
        Mover v;
        v.name = v.called = b.name;
        v.link = machine.workJoint;
        v.work = true;
        v.tree = &b.shape->tree();
        v.solid = &b.shape->mesh();
        v.meshFrame = machine.workFrame * place.partFrame;
        v.allowance = b.shape->deflection();
        v.enclose();
        stocks.push_back(std::move(v));
        bodies.push_back(&b);
    }
    if (stocks.empty()) return out;
    const WholeMotion whole(machine, operation.links->path, *operation.motion, start);
    const JointMotion& motion = whole.motion;
    const JointBoxes boxes(motion);
    const auto swung = [&](std::size_t location) { return std::find(motion.swings.begin(), motion.swings.end(), location) != motion.swings.end(); };
    const std::vector<char> machinesOwn = boxes.anyOf([&](std::size_t step) { return !whole.own(step + 1) || swung(motion.location[step + 1]); });
    struct Asked {
        PairCheck check;
        std::size_t body, stock;
    };
    std::vector<Asked> asked;
    for (std::size_t i = 0; i < out.movers.size(); ++i)
        for (std::size_t k = 0; k < stocks.size(); ++k) {
            const Mover& body = out.movers[i];
            if (body.work || body.link == machine.workJoint) continue;
            PairCheck check(machine, motion, boxes, body, stocks[k], {spec.margin, kPlace, body.tool ? &machinesOwn : nullptr, SIZE_MAX, true});
            if (!check.fixedTogether()) asked.push_back({std::move(check), i, k});
        }
    if (!parallelFor(
            asked.size(), 1, [&](std::size_t i) { asked[i].check.run(&progress); }, &progress) ||
        progress.cancelled())
        return cancelledError();
    const Frame toDatum = (machine.workFrame * place.partFrame).inverse();
    for (const Asked& a : asked)
        for (const NearPlace& p : a.check.places()) {
            const Frame body = linkMotion(machine, out.movers[a.body].link, p.joints), work = linkMotion(machine, machine.workJoint, p.joints);
            out.places.push_back({a.body, bodies[a.stock], toDatum * work.inverse() * body, spec.margin + p.motion, motion.location[p.step],
                                  p.step + whole.after >= motion.size(), whole.when(p.step, operation)});
        }
    return out;
}

} // namespace gyre
