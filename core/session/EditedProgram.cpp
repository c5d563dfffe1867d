#include "session/EditedProgram.h"
#include "guard/Guard.h"
#include "guard/GuardSpec.h"
#include "operation/Definition.h"
#include "pattern/PatternSpec.h"
#include "session/Following.h"
#include "session/RouteProof.h"
#include <fmt/format.h>

namespace gyre {
namespace {

/// As an operation whose path that is.
Result<std::shared_ptr<const OperationResult>> asOperation(Stretch& s, const PostInput& input, const Workplace& place, std::uint64_t key, Progress& progress) {
    auto out = std::make_shared<OperationResult>();
    const auto loaded = std::find_if(input.operations.begin(), input.operations.end(), [&](const PostOperation& op) { return op.toolNumber == s.tool; });
    out->operation = s.written->result->operation;
    out->name = s.written->name;
    out->kind = s.written->result->kind;
    out->key = key;
    out->tool = loaded->result->tool;
    if (s.motion.joints == 0) {
        auto solved = solveMotion(s.path, Kinematics(*input.machine, place.partFrame, out->tool.gaugeLength()), {}, progress);
        if (!solved) return tl::unexpected(solved.error());
        s.motion = std::move(*solved);
        out->findings = s.motion.findings;
    } else {
        JointMotion& m = s.motion;
        const std::size_t n = s.path.size();
        m.location.resize(n);
        m.stepOf.resize(n);
        m.fraction.assign(n, 1.0f);
        m.time.assign(n, 0.0);
        for (std::size_t i = 0; i < n; ++i) {
            m.location[i] = m.stepOf[i] = static_cast<std::uint32_t>(i);
            if (i == 0) continue;
            const double way = (s.path.tip[i] - s.path.tip[i - 1]).norm();
            m.time[i] = m.time[i - 1] + way / (s.path.rapid(i) ? input.machine->rapid : static_cast<double>(s.path.feed[i]) / 60.0);
        }
        m.asked = m.time;
        m.duration = m.time.back();
    }
    out->motion = std::make_shared<const JointMotion>(std::move(s.motion));
    auto links = std::make_shared<LinkResult>();
    links->path = s.path;
    out->links = std::move(links);
    return std::shared_ptr<const OperationResult>(std::move(out));
}

/// What the guard says. (The cutter on rapids is the proof's affair.)
Result<std::vector<Finding>> guarded(const Stretch& s, const Recipe& recipe, const OperationResult& own, const Workplace& place, Progress& progress) {
    GuardSpec spec = recipe.guard;
    spec.response = spec.otherwise = spec.atLast = GuardResponse::Report;
    const Definition& definition = definitionOf(recipe.kind);
    const auto scene = s.written->result->scene ? s.written->result->scene : place.scene;
    const Guard guard(own.tool, *scene, spec, recipe.pattern->chordTolerance, definition.meantDepth ? definition.meantDepth(recipe) : 0.0);
    Pass all; // rapids too: shank and holder keep off by what the operation asks for
    all.path = s.path;
    all.feedDirection.assign(s.path.size(), Vec3::Zero());
    auto result = guardPasses(guard, {std::move(all)}, progress);
    if (!result) return tl::unexpected(result.error());
    for (Finding& f : result->findings)
        for (const Hazard& h : result->hazards) {
            const Check check = h.zone == Zone::Cutter ? Check::Gouge : h.zone == Zone::Shank ? Check::Shank : Check::Holder;
            if (f.check == check && std::abs(f.amount - h.least) < 1e-12) f.span = {h.first, h.last};
        }
    return std::move(result->findings);
}

/// By line of the text: the operation of the job whose line it is.
std::map<int, std::uint32_t> operationsOf(const WrittenProgram& written, const std::string& text) {
    std::map<int, std::uint32_t> out, ofLine;
    const auto same = sameLines(written.text, text);
    if (!same) return out;
    for (const Act& a : written.program.acts) ofLine[a.line] = a.operation;
    for (std::size_t i = 0; i < same->size(); ++i)
        if (const auto it = ofLine.find((*same)[i] + 1); (*same)[i] >= 0 && it != ofLine.end()) out[static_cast<int>(i) + 1] = it->second;
    return out;
}

/// What stands behind the program's end.
Finding neverRun() {
    Finding f;
    f.rank = Rank::Look;
    f.check = Check::Machine;
    f.code = "program-changed";
    f.stage = "Proof";
    f.text = "what stands from here on is never run";
    f.reason = "the program ends before it";
    return f;
}

} // namespace

Result<EditedProgram> proveEdited(const std::string& text, const PostInput& whole, const Job& job, const JobResults& results, StageCache& cache, Progress& progress) {
    const ProgramPart part = partLike(whole, text);
    const PostInput& input = part.input;
    const auto read = readBack(text, input);
    if (!read) return tl::unexpected(read.error());
    const auto written = composeProgram(input, read->dialect);
    if (!written) return tl::unexpected(written.error());
    EditedProgram out;
    if (auto changes = changedLines(written->text, text))
        out.changes = std::move(*changes);
    else
        out.tooMany = true;
    std::vector<Stretch> stretches = followed(*read, input, *results.place, operationsOf(*written, text), out);
    for (const Act& a : read->acts) out.notChecked += a.kind == Act::Kind::Own;
    out.notChecked += read->takenAsMade.size();
    if (read->goesOn > 0) out.told.push_back({neverRun(), read->goesOn});
    RouteProof proofs(results.place, cache);
    // What the programs before it leave of the stock.
    for (std::size_t i = 0; i < part.first; ++i)
        if (const auto before = proofs.next(whole.operations[i].result, {}, progress); !before) return tl::unexpected(before.error());
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        Stretch& s = stretches[i];
        if (!s.written || s.path.empty()) continue;
        const double share = 1.0 / static_cast<double>(stretches.size());
        const Progress::Span span(progress, share * static_cast<double>(i), share * static_cast<double>(i + 1));
        progress.report(0.0, fmt::format("Proving line {} and what follows", s.line));
        Hash key;
        key.add("edited").add(text).add(static_cast<double>(i)).add(results.place->key);
        const Recipe* known = job.operation(s.written->result->operation);
        const Recipe recipe = known ? job.resolved(*known) : Recipe();
        const auto own = asOperation(s, input, *results.place, key.value(), progress);
        if (!own) return tl::unexpected(own.error());
        const auto take = [&](const std::vector<Finding>& findings) {
            for (Finding f : findings) {
                f.operation = (*own)->operation;
                f.remedies.clear();
                const int line = f.span && f.span->first < s.lines.size() ? s.lines[f.span->first] : s.line;
                out.told.push_back({std::move(f), line});
            }
        };
        take((*own)->findings);
        const auto met = guarded(s, recipe, **own, *results.place, progress);
        if (!met) return tl::unexpected(met.error());
        take(*met);
        const auto proof = proofs.next(*own, ProofSpec::under(recipe.guard), progress);
        if (!proof) return tl::unexpected(proof.error());
        take(proof->findings);
    }
    std::stable_sort(out.told.begin(), out.told.end(),
                     [](const auto& x, const auto& y) { return std::pair(x.finding.rank, x.line) < std::pair(y.finding.rank, y.line); });
    return out;
}

} // namespace gyre
