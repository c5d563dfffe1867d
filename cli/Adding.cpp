// Commands that add operations to a job.
#include "Console.h"
#include "base/Text.h"
#include "guided/CurveSpec.h"
#include "job/Variants.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "operation/Meant.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "proposal/AlongGuess.h"
#include "proposal/HoleWork.h"
#include "proposal/MillWork.h"
#include "proposal/NewJob.h"
#include "swarf/Swarf.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <sstream>

namespace gyre {
Status saveBeside(const Job& job, const std::string& file, const std::string& out) {
    const std::filesystem::path from = std::filesystem::path(file).parent_path(), to = std::filesystem::path(out).parent_path();
    std::error_code ec;
    if (std::filesystem::exists(out, ec) && !openJob(out)) return fail("this is no job, and is not written over", out, "Choose another name");
    return saveJob(movedTo(job, from, to), out);
}

namespace {

/// Faces and edges by their numbers as picks of a recipe; what is not in the part is the trouble.
std::optional<Error> pickInto(const Part& part, const std::vector<int>& faces, const std::vector<int>& edges, Recipe& r, const std::string& file) {
    for (const int f : faces) {
        if (f < 0 || static_cast<std::size_t>(f) >= part.faces().size()) return Error{fmt::format("face {} is not in the part", f), file, "See 'gyre inspect'", false};
        r.target->faces.push_back(part.faceRef(f));
    }
    for (const int e : edges) {
        if (e < 0 || static_cast<std::size_t>(e) >= part.edges().size()) return Error{fmt::format("edge {} is not in the part", e), file, "See 'gyre inspect'", false};
        r.target->edges.push_back(part.edgeRef(e));
    }
    return std::nullopt;
}

/// "key=value" each. @param example  of one that would do
Status setWords(Job& job, const std::string& id, const std::vector<std::string>& words, const char* example) {
    for (const std::string& w : words) {
        const auto at = w.find('=');
        if (at == std::string::npos) return fail("'" + w + "' sets no word", {}, std::string("Say it as key=value, for example ") + example);
        if (auto ok = setWord(job, id, w.substr(0, at), w.substr(at + 1)); !ok) return ok;
    }
    return {};
}

/// "plane 40", "cylinder 60 z", "sphere 90" as the job file says it.
Result<std::string> skinWord(const std::string& text) {
    std::istringstream in(text);
    std::string kind, size, axis = "z", more;
    in >> kind >> size;
    in >> axis >> more;
    const auto number = numberIn(size);
    if ((kind != "plane" && kind != "cylinder" && kind != "sphere") || !number || !more.empty())
        return fail("'" + text + "' is no skin", {}, "Say it as \"plane 40\", \"cylinder 60 z\" or \"sphere 90\"");
    return OrderedJson{{"kind", kind}, {"size", *number}, {"axis", axis}}.dump();
}

/// Sets what the command line asks for, word by word, as if it stood in the job file.
Status apply(const Wanted& wanted, Job& job, const Workplace& place, const std::string& id) {
    const auto set = [&](const std::string& key, const std::string& value) { return setWord(job, id, key, value); };
    const OperationKind kind = job.operation(id)->kind;
    if (!wanted.tool.empty()) {
        if (!job.tool(wanted.tool)) return fail("the job has no tool '" + wanted.tool + "'", {}, "Name one of its tools");
        if (auto ok = set("tool", wanted.tool); !ok) return ok;
    }
    if (wanted.depth > 0.0) {
        const char* by = kind == OperationKind::Mill ? "mill.depthBy" : kind == OperationKind::HoleStep ? "drill.by" : nullptr;
        const char* deep = kind == OperationKind::Mill       ? "mill.depth"
                           : kind == OperationKind::HoleStep ? "drill.depth"
                           : kind == OperationKind::Curve    ? "curve.depth"
                                                             : nullptr;
        if (!deep) return fail("this kind of work has no depth to set", id, "Leave --depth out");
        if (by)
            if (auto ok = set(by, kind == OperationKind::Mill ? "typed" : "depth"); !ok) return ok;
        if (auto ok = set(deep, fmt::format("{}", wanted.depth)); !ok) return ok;
    }
    if (wanted.repeat > 1) {
        if (auto ok = set("repeat", OrderedJson{{"count", wanted.repeat}, {"axis", wanted.axis}}.dump()); !ok) return ok;
        fitRepeat(place, *job.operation(id));
    }
    if (!wanted.skin.empty()) {
        const auto skin = skinWord(wanted.skin);
        if (!skin) return tl::unexpected(skin.error());
        if (auto ok = set("links.skin", *skin); !ok) return ok;
    }
    return setWords(job, id, wanted.words, "links.approach=2");
}

} // namespace

int makeNew(const Console& c, const std::string& part, const std::string& out, const std::string& machine, const std::string& shop, double allowance) {
    std::error_code ec;
    if (std::filesystem::exists(out, ec)) return c.failed({"there is such a file already", out, "Choose another name", false});
    auto job = jobAround(part, shop, machine);
    if (!job) return c.failed(job.error());
    const std::filesystem::path folder = std::filesystem::absolute(part).parent_path();
    Workshop workshop(folder);
    Progress progress(c.listener());
    const auto place = workshop.placeFor(*job, progress);
    if (!place) return c.failed(place.error());
    if ((*place)->part) proposeSetup(*job, *(*place)->part, allowance);
    const Job there = movedTo(*job, folder, std::filesystem::absolute(out).parent_path());
    if (const auto ok = saveJob(there, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"machine", (*place)->machine->name}, {"tools", there.tools.size()}}, 1));
    else
        fmt::print(c.out, "{}: {} on {}, {} tools\n", out, there.name, (*place)->machine->name, there.tools.size());
    return kExitOk;
}

Result<Placed> openAndPlace(const Console& c, const std::string& file) {
    auto job = openJob(file);
    if (!job) return tl::unexpected(job.error());
    Workshop workshop(std::filesystem::path(file).parent_path());
    Progress progress(c.listener());
    const auto place = workshop.placeFor(*job, progress);
    if (!place) return tl::unexpected(place.error());
    return Placed{std::move(*job), *place};
}

int drill(const Console& c, const std::string& file, const std::string& out, int group, const Wanted& wanted) {
    auto opened = openAndPlace(c, file);
    if (!opened) return c.failed(opened.error());
    Job& job = opened->job;
    const auto& place = opened->place;
    const auto groups = groupHoles(wantedHoles(job, *place), rotaryLine(*place->machine, place->partFrame));
    turnToReach(job, *place); // the numbers are those of 'gyre holes'
    if (groups.empty()) return c.failed({"no holes were found on the part", file, {}, false});
    if (group > static_cast<int>(groups.size()))
        return c.failed({fmt::format("there is no group {}; there are {}", group, groups.size()), file, "See 'gyre holes'", false});
    OrderedJson added = OrderedJson::array(), notes = OrderedJson::array();
    for (std::size_t g = 0; g < groups.size(); ++g) {
        if (group > 0 && g + 1 != static_cast<std::size_t>(group)) continue;
        const HoleProposal made = proposeHoleWork(job, *place, groups[g]);
        for (const std::string& n : made.notes) notes.push_back(n);
        for (const Recipe& r : made.work) {
            added.push_back({{"operation", r.id}, {"name", r.name}, {"parent", r.parent}, {"tool", r.tool}, {"holes", job.resolved(r).holes.size()}});
            if (!c.json)
                fmt::print(c.out, "{:6} {:24} {}\n", r.id, (r.parent.empty() ? "" : "  ") + r.name,
                           r.parent.empty() ? groups[g].words
                           : r.tool.empty() ? "no tool of the job suits"
                                            : r.tool);
            job.route.push_back(r);
            if (const auto ok = apply(wanted, job, *place, r.id); !ok) return c.failed(ok.error());
        }
    }
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"added", added}, {"notes", notes}}, 1));
    else
        for (const auto& n : notes) fmt::print(c.out, "{}\n", n.get<std::string>());
    return kExitOk;
}

int mill(const Console& c, const std::string& file, const std::string& out, const std::string& shape, const Picked& pick, const std::string& on, const Wanted& wanted) {
    const auto& [faces, edges, drawing] = pick;
    auto opened = openAndPlace(c, file);
    if (!opened) return c.failed(opened.error());
    Job& job = opened->job;
    const auto& place = opened->place;
    if (!place->part) return c.failed({"the job has no part", file, {}, false});
    const Part& part = *place->part;
    Recipe picked;
    if (const auto trouble = pickInto(part, faces, edges, picked, file)) return c.failed(*trouble);
    MillShape kind = millShapeFor(part, faces, edges);
    bool known = shape.empty();
    for (int s = 0; s < kMillShapes; ++s)
        if (shape == millShapeName(static_cast<MillShape>(s))) {
            kind = static_cast<MillShape>(s);
            known = true;
        }
    if (!known) return c.failed({fmt::format("'{}' is no kind of milling", shape), {}, "face, pocket, outline, bore, follow, round, rough or body", false});
    Recipe r = proposeMill(job, *place, kind);
    r.target->faces = picked.target->faces;
    r.target->edges = picked.target->edges;
    if (!drawing.empty()) {
        if (const auto curves = curvesNamed(*place, drawing); !curves) return c.failed(curves.error());
        r.target->drawings = {drawing};
    }
    if (!on.empty()) r.mill->on = on;
    fitMill(job, *place, r);
    job.route.push_back(r);
    if (const auto ok = apply(wanted, job, *place, r.id); !ok) return c.failed(ok.error());
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"job", out}, {"operation", r.id}, {"name", r.name}, {"shape", millShapeName(kind)}, {"tool", job.operation(r.id)->tool}}, 1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", r.id, r.name, r.tool);
    return kExitOk;
}

int along(const Console& c, const std::string& file, const std::string& out, const std::string& what, const Picked& pick, const Wanted& wanted) {
    const auto& [faces, edges, drawing] = pick;
    struct Known {
        const char* name;
        OperationKind kind;
        BreakEdges edges;
    };
    static constexpr Known kKnown[] = {{"wall", OperationKind::Swarf, BreakEdges::Picked},         {"curve", OperationKind::Curve, BreakEdges::Picked},
                                       {"channel", OperationKind::Curve, BreakEdges::Picked},      {"edges", OperationKind::Edge, BreakEdges::Picked},
                                       {"around", OperationKind::Edge, BreakEdges::Faces},         {"body", OperationKind::Edge, BreakEdges::Body},
                                       {"holes-near", OperationKind::Edge, BreakEdges::HolesNear}, {"holes-far", OperationKind::Edge, BreakEdges::HolesFar},
                                       {"holes", OperationKind::Edge, BreakEdges::HolesBoth}};
    const auto* known = std::find_if(std::begin(kKnown), std::end(kKnown), [&](const Known& k) { return what == k.name; });
    if (known == std::end(kKnown))
        return c.failed({fmt::format("'{}' is no such work", what), {}, "wall, curve, channel, edges, around, body, holes-near, holes-far or holes", false});
    auto opened = openAndPlace(c, file);
    if (!opened) return c.failed(opened.error());
    Job& job = opened->job;
    const auto& place = opened->place;
    if (!place->part) return c.failed({"the job has no part", file, {}, false});
    Recipe r = proposeAlong(job, *place, known->kind, known->edges);
    if (what == "channel") r.curve->by = CurveBy::Channel;
    if (const auto trouble = pickInto(*place->part, faces, edges, r, file)) return c.failed(*trouble);
    // One face of a wall stands for all of it.
    if (known->kind == OperationKind::Swarf && faces.size() == 1) {
        r.target->faces.clear();
        for (const int f : wallFaces(*place->part, faces.front())) r.target->faces.push_back(place->part->faceRef(f));
    }
    if (!drawing.empty()) {
        if (const auto curves = curvesNamed(*place, drawing); !curves) return c.failed(curves.error());
        r.target->drawings = {drawing};
    }
    fitAlong(job, *place, r);
    job.route.push_back(r);
    if (const auto ok = apply(wanted, job, *place, r.id); !ok) return c.failed(ok.error());
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"job", out},
                                      {"operation", r.id},
                                      {"name", r.name},
                                      {"work", what},
                                      {"tool", job.operation(r.id)->tool},
                                      {"faces", r.target->faces.size()},
                                      {"edges", r.target->edges.size()}},
                          1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", r.id, r.name, r.tool);
    return kExitOk;
}

int rows(const Console& c, const std::string& file, const std::string& out, const std::vector<int>& faces, const std::vector<int>& rail1, const std::vector<int>& rail2,
         const Wanted& wanted) {
    auto opened = openAndPlace(c, file);
    if (!opened) return c.failed(opened.error());
    Job& job = opened->job;
    const auto& place = opened->place;
    if (!place->part) return c.failed({"the job has no part", file, {}, false});
    Recipe first, second;
    Recipe r = proposeRows(job, *place, job.route.empty() ? nullptr : &job.route.back());
    if (const auto trouble = pickInto(*place->part, faces, rail1, first, file)) return c.failed(*trouble);
    if (const auto trouble = pickInto(*place->part, {}, rail2, second, file)) return c.failed(*trouble);
    r.target->faces = first.target->faces;
    r.pattern->rail1 = first.target->edges;
    r.pattern->rail2 = second.target->edges;
    const bool proposed = rail1.empty() && rail2.empty();
    if (proposed) fitRails(*place->part, r);
    job.route.push_back(r);
    if (const auto ok = apply(wanted, job, *place, r.id); !ok) return c.failed(ok.error());
    if (proposed) fitPattern(*place->part, PatternBy::Rails, *job.operation(r.id));
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    const Recipe& made = *job.operation(r.id);
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"operation", made.id}, {"name", made.name}, {"tool", made.tool}}, 1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", made.id, made.name, made.tool);
    return kExitOk;
}

int slices(const Console& c, const std::string& file, const std::string& out, const std::vector<std::string>& operations, const Wanted& wanted) {
    auto job = openJob(file);
    if (!job) return c.failed(job.error());
    Recipe carrier;
    carrier.id = job->freshId();
    carrier.kind = OperationKind::Slices;
    carrier.name = "Slices";
    std::size_t first = job->route.size();
    for (std::size_t i = 0; i < operations.size(); ++i) {
        const auto at = std::find_if(job->route.begin(), job->route.end(), [&](const Recipe& r) { return r.id == operations[i]; });
        if (at == job->route.end()) return c.failed({"there is no operation '" + operations[i] + "'", file, "'gyre plan' tells their ids", false});
        if (carries(at->kind) || at->kind == OperationKind::HoleStep) return c.failed({"holes and slices cannot be cut in slices", operations[i], "Leave it out", false});
        if (!at->parent.empty()) return c.failed({"the operation stands in slices already", operations[i], {}, false});
        const auto number = static_cast<std::size_t>(at - job->route.begin());
        if (i == 0) first = number;
        if (number != first + i)
            return c.failed({"operations cut in the same slices must stand one below the other", operations[i], "Name them in the order of the route", false});
        at->parent = carrier.id;
    }
    job->route.insert(job->route.begin() + static_cast<std::ptrdiff_t>(first), carrier);
    if (const auto ok = setWords(*job, carrier.id, wanted.words, "slices.thickness=4"); !ok) return c.failed(ok.error());
    if (const auto ok = saveBeside(*job, file, out); !ok) return c.failed(ok.error());
    const std::size_t count = slicesOf(job->operation(carrier.id)->slices).size();
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"operation", carrier.id}, {"slices", count}}, 1));
    else
        fmt::print(c.out, "{}: {} operations in {} slices\n", out, operations.size(), count);
    return kExitOk;
}

int vary(const Console& c, const std::string& file, const std::string& out, const std::string& operation, const std::string& take, const Wanted& wanted) {
    auto job = openJob(file);
    if (!job) return c.failed(job.error());
    if (auto ok = take.empty() ? addVariant(*job, operation) : takeVariant(*job, operation, take); !ok) return c.failed(ok.error());
    const std::string id = job->operation(operation)->id;
    if (auto ok = setWords(*job, id, wanted.words, "pattern.spacing=0.5"); !ok) return c.failed(ok.error());
    if (const auto ok = saveBeside(*job, file, out); !ok) return c.failed(ok.error());
    const std::string& now = job->operation(id)->variant;
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"operation", id}, {"variant", now}, {"variants", variantsOf(*job, id).size()}}, 1));
    else
        fmt::print(c.out, "{}: variant {} of {} is in hand\n", out, now, job->operation(id)->name);
    return kExitOk;
}

} // namespace gyre
