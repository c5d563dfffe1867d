#include "proof/Proof.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "guard/Obstacle.h"
#include "link/Link.h"
#include "motion/SafeEnds.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "path/Pass.h"
#include "proof/Pairs.h"
#include "proof/WholeMotion.h"
#include "tool/Assembly.h"
#include <fmt/format.h>
#include <optional>
#include <set>

namespace gyre {
namespace {

constexpr std::size_t kMostPlaces = 400; // of a pair

double marginOf(const ProofSpec& spec, const Mover& a, const Mover& b) {
    if (!a.tool || a.cutter || !b.work) return spec.margin;
    return a.name == "holder" ? spec.holder : spec.shank;
}

} // namespace

ProofSpec ProofSpec::under(const GuardSpec& guard) {
    ProofSpec spec;
    spec.shank = std::min(spec.margin, guard.shankClearance);
    spec.holder = std::min(spec.margin, guard.holderClearance);
    return spec;
}

double turnOf(const Joint& joint, double from, double to) { return joint.shortest || endless(joint) ? std::remainder(to - from, 2.0 * kPi) : to - from; }

Standing standingAfter(const Machine& machine, const OperationResult* before) {
    const bool known = before && before->motion && before->motion->size() > 0;
    Standing s{known ? safeEnds(machine, *before->motion).aboveExit : JointValues(machine.joints.size(), 0.0), true};
    for (std::size_t j = 0; j < machine.joints.size(); ++j) {
        if (machine.joints[j].kind != JointKind::Linear) continue;
        if (const auto at = changesAt(machine, j))
            s.joints[j] = *at;
        else if (!known && machine.joints[j].name != "Z")
            s.slides = false;
    }
    return s;
}

namespace {

Finding meeting(const OperationResult& operation, const ProofSpec& spec, const PairCheck& check, const WholeMotion& whole) {
    const Toolpath& path = operation.links->path;
    const Mover &a = check.first(), &b = check.second();
    const std::size_t step = check.places().front().step, first = whole.motion.location[step], last = whole.motion.location[check.places().back().step];
    Finding f;
    f.rank = Rank::Stop;
    f.check = a.tool && !a.cutter && b.work ? (a.name == "holder" ? Check::Holder : Check::Shank) : a.cutter && b.work ? Check::Gouge : Check::Machine;
    f.code = "bodies-meet";
    f.stage = "Proof";
    f.operation = operation.operation;
    f.row = path.row[first];
    f.span = {first, last};
    f.place = {path.tip[first].x(), path.tip[first].y(), path.tip[first].z()};
    f.amount = marginOf(spec, a, b);
    f.text = fmt::format("{} and {} meet{}", a.called, b.called, whole.when(step, operation));
    f.reason = fmt::format("they come nearer than {:g} mm in the machine's own motion", f.amount);
    return f;
}

} // namespace

Result<ProofResult> prove(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, Progress& progress, const Standing& start) {
    ProofResult out;
    out.operation = operation.operation;
    out.key = operation.key;
    out.start = start;
    if (!operation.complete()) return out;
    const Machine& machine = *place.machine;
    const Toolpath& path = operation.links->path;
    const WholeMotion whole(machine, path, *operation.motion, start);
    const JointBoxes boxes(whole.motion);
    const std::vector<char> rapids = boxes.anyOf([&](std::size_t step) { return path.motion[whole.motion.location[step + 1]] == Motion::Rapid; });
    const std::vector<Mover> movers = moversOf(place, operation.tool);
    const auto touching = [&](const Mover& a, const Mover& b) {
        for (const auto& [x, y] : machine.touching)
            if ((a.name == x && b.name == y) || (a.name == y && b.name == x)) return true;
        return false;
    };
    std::vector<PairCheck> checks;
    for (std::size_t i = 0; i < movers.size(); ++i)
        for (std::size_t j = i + 1; j < movers.size(); ++j) {
            // The tool comes last, so it is always the second; the check wants it first.
            const Mover &a = movers[j], &b = movers[i];
            if (touching(a, b)) continue;
            if (a.work && b.work) continue;
            if (a.work && b.link == machine.workJoint) continue;
            const PairCheck::Wanted wanted{marginOf(spec, a, b), spec.resolution, a.cutter && b.work ? &rapids : nullptr, kMostPlaces}; // cutting is the cutter's job
            PairCheck check(machine, whole.motion, boxes, a, b, wanted);
            if (!check.fixedTogether()) checks.push_back(std::move(check));
        }
    out.pairs = checks.size();
    if (!parallelFor(
            checks.size(), 1, [&](std::size_t i) { checks[i].run(&progress); }, &progress) ||
        progress.cancelled())
        return cancelledError();
    progress.report(1.0, "Proved");
    for (const PairCheck& check : checks) {
        out.questions += check.questions();
        if (!check.places().empty()) out.findings.push_back(meeting(operation, spec, check, whole));
    }
    return out;
}

Marks marksOf(const OperationResult* result, const ProofResult* proof) {
    Marks marks;
    marks.fill(Mark::Unknown);
    if (!result) return marks;
    if (result->complete()) {
        for (int i = 0; i < 4; ++i) marks[index(i)] = Mark::Clear;
        if (proof) marks[4] = Mark::Clear;
    }
    const auto lower = [&](const Finding& f) {
        if (f.check == Check::Path) {
            if (f.rank != Rank::Stop) return;
            marks[0] = Mark::Stop; // nothing generated, or a way that is not safe
            return;
        }
        Mark& m = marks[static_cast<std::size_t>(f.check)];
        if (f.rank == Rank::Stop)
            m = Mark::Stop;
        else if (f.rank == Rank::Look && m != Mark::Stop)
            m = Mark::Look;
    };
    for (const Finding& f : result->findings) lower(f);
    if (proof)
        for (const Finding& f : proof->findings) lower(f);
    return marks;
}

} // namespace gyre
