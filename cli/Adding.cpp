// Commands that add operations to a job.
#include "Console.h"
#include "job/FollowGuess.h"
#include "job/HoleWork.h"
#include "job/MillWork.h"
#include "machine/Reach.h"
#include "operation/MillInput.h"

namespace gyre {
namespace {

/// Faces and edges by their numbers as picks of a recipe; what is not in the part is the trouble.
std::optional<Error> pickInto(const Part& part, const std::vector<int>& faces, const std::vector<int>& edges, Recipe& r, const std::string& file) {
    for (const int f : faces) {
        if (f < 0 || static_cast<std::size_t>(f) >= part.faces().size()) return Error{fmt::format("face {} is not in the part", f), file, "See 'gyre inspect'", false};
        r.target.faces.push_back(part.faceRef(f));
    }
    for (const int e : edges) {
        if (e < 0 || static_cast<std::size_t>(e) >= part.edges().size()) return Error{fmt::format("edge {} is not in the part", e), file, "See 'gyre inspect'", false};
        r.target.edges.push_back(part.edgeRef(e));
    }
    return std::nullopt;
}

/// As it must be where `out` lies; over no file but a job.
Status saveBeside(const Job& job, const std::string& file, const std::string& out) {
    const std::filesystem::path from = std::filesystem::path(file).parent_path(), to = std::filesystem::path(out).parent_path();
    std::error_code ec;
    if (std::filesystem::exists(out, ec) && !openJob(out)) return fail("this is no job, and is not written over", out, "Choose another name");
    return saveJob(movedTo(job, from, to), out);
}

} // namespace

Result<Placed> openAndPlace(const Console& c, const std::string& file) {
    auto job = openJob(file);
    if (!job) return tl::unexpected(job.error());
    Workshop workshop(std::filesystem::path(file).parent_path());
    Progress progress(c.listener());
    const auto place = workshop.placeFor(*job, progress);
    if (!place) return tl::unexpected(place.error());
    return Placed{std::move(*job), *place};
}

int drill(const Console& c, const std::string& file, const std::string& out, int group) {
    auto opened = openAndPlace(c, file);
    if (!opened) return c.failed(opened.error());
    Job& job = opened->job;
    const auto& place = opened->place;
    const auto groups = groupHoles(wantedHoles(job, *place), rotaryLine(*place->machine, place->partFrame));
    if (groups.empty()) return c.failed({"no holes were found on the part", file, {}, false});
    if (group > static_cast<int>(groups.size()))
        return c.failed({fmt::format("there is no group {}; there are {}", group, groups.size()), file, "See 'gyre holes'", false});
    OrderedJson added = OrderedJson::array();
    for (std::size_t g = 0; g < groups.size(); ++g) {
        if (group > 0 && g + 1 != static_cast<std::size_t>(group)) continue;
        for (const Recipe& r : proposeHoleWork(job, *place, groups[g])) {
            added.push_back({{"operation", r.id}, {"name", r.name}, {"parent", r.parent}, {"tool", r.tool}, {"holes", job.resolved(r).holes.size()}});
            if (!c.json)
                fmt::print(c.out, "{:6} {:24} {}\n", r.id, (r.parent.empty() ? "" : "  ") + r.name,
                           r.parent.empty() ? groups[g].words
                           : r.tool.empty() ? "no tool of the job suits"
                                            : r.tool);
            job.route.push_back(r);
        }
    }
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    if (c.json) fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"added", added}}, 1));
    return kExitOk;
}

int mill(const Console& c, const std::string& file, const std::string& out, const std::string& shape, const std::vector<int>& faces, const std::vector<int>& edges,
         const std::string& drawing, const std::string& on) {
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
    if (!known) return c.failed({fmt::format("'{}' is no kind of milling", shape), {}, "face, pocket, outline, bore, follow, round or rough", false});
    Recipe r = proposeMill(job, *place, kind);
    r.target.faces = picked.target.faces;
    r.target.edges = picked.target.edges;
    if (!drawing.empty()) {
        if (const auto curves = curvesNamed(*place, drawing); !curves) return c.failed(curves.error());
        r.target.drawings = {drawing};
    }
    if (!on.empty()) r.mill.on = on;
    fitMill(job, *place, r);
    job.route.push_back(r);
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", out}, {"operation", r.id}, {"name", r.name}, {"shape", millShapeName(kind)}, {"tool", r.tool}}, 1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", r.id, r.name, r.tool);
    return kExitOk;
}

int follow(const Console& c, const std::string& file, const std::string& out, const std::string& what, const std::vector<int>& faces, const std::vector<int>& edges,
           const std::string& drawing) {
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
    Recipe r = proposeFollow(job, *place, known->kind, known->edges);
    if (what == "channel") r.curve.by = CurveBy::Channel;
    if (const auto trouble = pickInto(*place->part, faces, edges, r, file)) return c.failed(*trouble);
    // One face of a wall stands for all of it.
    if (known->kind == OperationKind::Swarf && faces.size() == 1) {
        r.target.faces.clear();
        for (const int f : wallFaces(*place->part, faces.front())) r.target.faces.push_back(place->part->faceRef(f));
    }
    if (!drawing.empty()) {
        if (const auto curves = curvesNamed(*place, drawing); !curves) return c.failed(curves.error());
        r.target.drawings = {drawing};
    }
    fitFollow(job, *place, r);
    job.route.push_back(r);
    if (const auto ok = saveBeside(job, file, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"job", out},
                                      {"operation", r.id},
                                      {"name", r.name},
                                      {"work", what},
                                      {"tool", r.tool},
                                      {"faces", r.target.faces.size()},
                                      {"edges", r.target.edges.size()}},
                          1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", r.id, r.name, r.tool);
    return kExitOk;
}

} // namespace gyre
