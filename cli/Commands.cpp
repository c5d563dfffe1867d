#include "Commands.h"
#include "base/File.h"
#include "drawing/Drawing.h"
#include "job/FollowGuess.h"
#include "job/HoleWork.h"
#include "job/MillWork.h"
#include "machine/Reach.h"
#include "operation/MillInput.h"
#include "part/Flank.h"
#include "part/WorkPlane.h"
#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <fmt/ostream.h>
#include <iostream>

namespace gyre {

OrderedJson findingToJson(const Finding& f) {
    OrderedJson j = {{"rank", rankName(f.rank)}, {"check", checkName(f.check)}, {"code", f.code},    {"stage", f.stage}, {"operation", f.operation},
                     {"text", f.text},           {"reason", f.reason},          {"amount", f.amount}};
    if (f.row >= 0) j["row"] = f.row;
    if (f.place) j["place"] = {(*f.place)[0], (*f.place)[1], (*f.place)[2]};
    if (f.span) j["locations"] = {f.span->first, f.span->second};
    j["remedies"] = OrderedJson::array();
    for (const Remedy& r : f.remedies) j["remedies"].push_back({{"label", r.label}, {"set", r.key}, {"to", r.value}});
    return j;
}

namespace {

std::vector<double> list(const Vec3& v) { return {v.x(), v.y(), v.z()}; }

/// What the commands share: streams, and whether JSON is wanted.
struct Console {
    std::ostream& out;
    std::ostream& err;
    bool json = false;
    bool quiet = false;

    int failed(const Error& e) const {
        if (json) fmt::print(out, "{}\n", OrderedJson{{"error", {{"what", e.what}, {"place", e.place}, {"remedy", e.remedy}}}}.dump(1));
        fmt::print(err, "gyre: {}\n", e.text());
        return kExitFailed;
    }
    [[nodiscard]] Progress::Listener listener() const {
        if (quiet) return {};
        return [this, last = std::string()](double f, const std::string& what) mutable {
            if (what == last) return;
            last = what;
            fmt::print(err, "{:3.0f} % {}\n", 100.0 * f, what);
        };
    }
};

int inspect(const Console& c, const std::string& file) {
    Progress progress(c.listener());
    auto part = Part::open(file, 0.02, progress);
    if (!part) return c.failed(part.error());
    const Part& p = **part;
    if (c.json) {
        OrderedJson faces = OrderedJson::array(), edges = OrderedJson::array();
        for (std::size_t i = 0; i < p.faces().size(); ++i) {
            const FaceInfo& f = p.faces()[i];
            faces.push_back({{"index", i},
                             {"kind", surfaceKindName(f.kind)},
                             {"area", f.area},
                             {"centre", list(f.centre)},
                             {"normal", list(f.normal)},
                             {"low", list(f.bounds.low)},
                             {"high", list(f.bounds.high)},
                             {"radius", f.radius},
                             {"loops", f.loops}});
        }
        for (std::size_t i = 0; i < p.edges().size(); ++i) {
            const EdgeInfo& e = p.edges()[i];
            if (e.degenerate) continue;
            edges.push_back({{"index", i},
                             {"kind", curveKindName(e.kind)},
                             {"length", e.length},
                             {"start", list(e.start)},
                             {"middle", list(e.middle)},
                             {"end", list(e.end)},
                             {"faces", {e.faces[0], e.faces[1]}},
                             {"angle", degrees(e.angle)},
                             {"convexity", std::abs(e.angle) < 0.01 ? "smooth"
                                           : e.angle > 0.0          ? "convex"
                                                                    : "concave"}});
        }
        const Box b = p.mesh().bounds();
        fmt::print(c.out, "{}\n",
                   OrderedJson{{"part", p.name()}, {"volume", p.volume()}, {"low", list(b.low)}, {"high", list(b.high)}, {"faces", faces}, {"edges", edges}}.dump(1));
        return kExitOk;
    }
    fmt::print(c.out, "{}: {} faces, {} edges, {:.0f} mm³\n", p.name(), p.faces().size(), p.edges().size(), p.volume());
    for (std::size_t i = 0; i < p.faces().size(); ++i) {
        const FaceInfo& f = p.faces()[i];
        fmt::print(c.out, "face {:3}  {:9} {:10.2f} mm²  at {:8.2f} {:8.2f} {:8.2f}  normal {:6.3f} {:6.3f} {:6.3f}\n", i, surfaceKindName(f.kind), f.area, f.centre.x(),
                   f.centre.y(), f.centre.z(), f.normal.x(), f.normal.y(), f.normal.z());
    }
    for (std::size_t i = 0; i < p.edges().size(); ++i) {
        const EdgeInfo& e = p.edges()[i];
        if (e.degenerate) continue;
        fmt::print(c.out, "edge {:3}  {:9} {:9.2f} mm  faces {:3} {:3}  {:7.2f}° {}\n", i, curveKindName(e.kind), e.length, e.faces[0], e.faces[1],
                   std::abs(degrees(e.angle)),
                   std::abs(e.angle) < 0.01 ? "smooth"
                   : e.angle > 0.0          ? "convex"
                                            : "concave");
    }
    return kExitOk;
}

/// A machine with the part's datum on its table seat, to ask what it reaches.
Result<std::optional<Kinematics>> machineFor(const std::string& file) {
    if (file.empty()) return std::optional<Kinematics>();
    const auto text = readFile(file, 64u << 20);
    if (!text) return tl::unexpected(text.error());
    const std::filesystem::path path = file;
    const auto machine = machineFromJson(*text, path.filename().string(), path.parent_path());
    if (!machine) return tl::unexpected(machine.error());
    return std::optional<Kinematics>(Kinematics(*machine, Frame::Identity(), 150.0));
}

int holes(const Console& c, const std::string& file, const std::vector<int>& faces, const std::string& machineFile) {
    const auto machine = machineFor(machineFile);
    if (!machine) return c.failed(machine.error());
    Progress progress(c.listener());
    const auto part = Part::open(file, 0.02, progress);
    if (!part) return c.failed(part.error());
    for (const int f : faces)
        if (f < 0 || static_cast<std::size_t>(f) >= (*part)->faces().size()) return c.failed(Error{fmt::format("face {} is not in the part", f), file, {}, false});
    const auto found = findHoles(**part, faces);
    std::optional<AxisLine> rotary;
    if (*machine) rotary = rotaryLine((*machine)->machine(), Frame::Identity());
    const auto groups = groupHoles(found, rotary);
    OrderedJson all = OrderedJson::array();
    for (const HoleGroup& g : groups) {
        OrderedJson members = OrderedJson::array();
        if (!c.json) fmt::print(c.out, "{}\n", g.words);
        for (const std::size_t i : g.holes) {
            const Hole& h = found[i];
            std::string reach;
            if (*machine) reach = reachWords((*machine)->machine(), reachOf(**machine, h.direction));
            if (!c.json) {
                fmt::print(c.out, "  mouth {:8.3f} {:8.3f} {:8.3f}  direction {:7.4f} {:7.4f} {:7.4f}  {}\n", h.mouth.x(), h.mouth.y(), h.mouth.z(), h.direction.x(),
                           h.direction.y(), h.direction.z(), reach);
                continue;
            }
            OrderedJson sections = OrderedJson::array();
            for (const HoleSection& s : h.sections)
                sections.push_back({{"from", s.from}, {"to", s.to}, {"fromDiameter", 2 * s.fromRadius}, {"toDiameter", 2 * s.toRadius}});
            members.push_back({{"mouth", list(h.mouth)},
                               {"direction", list(h.direction)},
                               {"diameter", h.diameter()},
                               {"depth", h.depth},
                               {"bottom", holeBottomName(h.bottom)},
                               {"sections", sections},
                               {"faces", h.faces},
                               {"reach", reach}});
        }
        all.push_back({{"words", g.words}, {"fourAxis", g.fourAxis}, {"holes", members}});
    }
    if (c.json)
        fmt::print(c.out, "{}\n", OrderedJson{{"part", (*part)->name()}, {"count", found.size()}, {"groups", all}}.dump(1));
    else if (found.empty())
        fmt::print(c.out, "no holes: no cylinder or cone closes around an empty axis\n");
    return kExitOk;
}

int flank(const Console& c, const std::string& file, const std::vector<int>& faces, double diameter) {
    Progress progress(c.listener());
    const auto part = Part::open(file, 0.02, progress);
    if (!part) return c.failed(part.error());
    std::vector<int> asked = faces;
    if (asked.empty())
        for (std::size_t f = 0; f < (*part)->faces().size(); ++f) asked.push_back(static_cast<int>(f));
    OrderedJson all = OrderedJson::array();
    for (const int f : asked) {
        const auto a = flankOf(**part, f, 0.5 * diameter);
        if (!a) return c.failed(a.error());
        if (c.json)
            all.push_back(
                {{"face", f}, {"kind", flankKindName(a->kind)}, {"twist", degrees(a->twist)}, {"bulge", a->bulge}, {"deviation", a->deviation}, {"words", a->words}});
        else
            fmt::print(c.out, "face {:3}  {:11}  {}\n", f, flankKindName(a->kind), a->words);
    }
    if (c.json) fmt::print(c.out, "{}\n", OrderedJson{{"part", (*part)->name()}, {"diameter", diameter}, {"faces", all}}.dump(1));
    return kExitOk;
}

/// The surface drawn straight between two chains of edges.
int flankOfEdges(const Console& c, const std::string& file, const std::vector<int>& lower, const std::vector<int>& upper, double diameter) {
    Progress progress(c.listener());
    const auto part = Part::open(file, 0.005, progress);
    if (!part) return c.failed(part.error());
    std::array<Polyline, 2> lines;
    for (std::size_t i = 0; i < 2; ++i) {
        for (const int e : i == 0 ? lower : upper)
            if (e < 0 || static_cast<std::size_t>(e) >= (*part)->edges().size()) return c.failed({fmt::format("edge {} is not in the part", e), file, {}, false});
        const auto chain = chainOf(**part, i == 0 ? lower : upper);
        if (!chain) return c.failed(chain.error());
        lines[i] = chainLine(**part, *chain);
    }
    const auto a = flankBetween(lines[0], alignedWith(lines[0], lines[1]), 0.5 * diameter);
    if (!a) return c.failed(a.error());
    if (c.json)
        fmt::print(c.out, "{}\n",
                   OrderedJson{{"part", (*part)->name()},
                               {"diameter", diameter},
                               {"kind", flankKindName(a->kind)},
                               {"twist", degrees(a->twist)},
                               {"deviation", a->deviation},
                               {"words", a->words}}
                       .dump(1));
    else
        fmt::print(c.out, "{}  {}\n", flankKindName(a->kind), a->words);
    return kExitOk;
}

/// Bodies of an assembly, or the curves of a drawing.
int contents(const Console& c, const std::string& file) {
    if (isDrawingFile(file)) {
        const auto drawing = readDrawing(file);
        if (!drawing) return c.failed(drawing.error());
        OrderedJson curves = OrderedJson::array();
        for (const DrawnCurve& d : drawing->curves)
            curves.push_back(
                {{"layer", d.layer}, {"length", d.curve.length()}, {"closed", d.curve.closed()}, {"start", list(d.curve.start())}, {"end", list(d.curve.end())}});
        const Box b = drawing->bounds();
        if (c.json) {
            fmt::print(c.out, "{}\n",
                       OrderedJson{{"drawing", file},
                                   {"unit", drawing->unitWords},
                                   {"low", list(b.low)},
                                   {"high", list(b.high)},
                                   {"curves", curves},
                                   {"passedOver", drawing->passedOver}}
                           .dump(1));
            return kExitOk;
        }
        fmt::print(c.out, "{} curves, {}; {:.2f} × {:.2f} mm\n", drawing->curves.size(), drawing->unitWords, b.high.x() - b.low.x(), b.high.y() - b.low.y());
        for (const DrawnCurve& d : drawing->curves) fmt::print(c.out, "{:20} {:10.3f} mm  {}\n", d.layer, d.curve.length(), d.curve.closed() ? "closed" : "open");
        for (const auto& [kind, count] : drawing->passedOver) fmt::print(c.out, "{} {} passed over\n", count, kind);
        return kExitOk;
    }
    const auto bodies = bodiesIn(file);
    if (!bodies) return c.failed(bodies.error());
    OrderedJson all = OrderedJson::array();
    for (const BodyInFile& b : *bodies) {
        OrderedJson one = {{"name", b.name}, {"volume", b.volume}, {"low", list(b.bounds.low)}, {"high", list(b.bounds.high)}};
        if (b.colour) one["colour"] = *b.colour;
        all.push_back(one);
        if (!c.json)
            fmt::print(c.out, "{:30} {:12.1f} mm³  {:8.2f} {:8.2f} {:8.2f} to {:8.2f} {:8.2f} {:8.2f}\n", b.name, b.volume, b.bounds.low.x(), b.bounds.low.y(),
                       b.bounds.low.z(), b.bounds.high.x(), b.bounds.high.y(), b.bounds.high.z());
    }
    if (c.json)
        fmt::print(c.out, "{}\n", OrderedJson{{"file", file}, {"bodies", all}}.dump(1));
    else if (bodies->empty())
        fmt::print(c.out, "one body, no assembly\n");
    return kExitOk;
}

/// A job with what its operations would run against.
struct Placed {
    Job job;
    std::shared_ptr<const Workplace> place;
};
Result<Placed> openAndPlace(const Console& c, const std::string& file) {
    auto job = openJob(file);
    if (!job) return tl::unexpected(job.error());
    Workshop workshop(std::filesystem::path(file).parent_path());
    Progress progress(c.listener());
    const auto place = workshop.placeFor(*job, progress);
    if (!place) return tl::unexpected(place.error());
    return Placed{std::move(*job), *place};
}

/// What the mends of a job come to; their curves as DXF when a file is named.
int mends(const Console& c, const std::string& file, const std::string& out) {
    const auto opened = openAndPlace(c, file);
    if (!opened) return c.failed(opened.error());
    const Job& job = opened->job;
    const auto& place = opened->place;
    OrderedJson all = OrderedJson::array();
    std::vector<DrawnCurve> curves;
    bool trouble = false;
    for (std::size_t i = 0; i < job.mends.size() && place->mends; ++i) {
        const MendResult& r = (*place->mends)[i];
        trouble = trouble || !r.trouble.empty();
        OrderedJson lengths = OrderedJson::array();
        for (const Curve& curve : r.curves) {
            lengths.push_back(curve.length());
            curves.push_back({job.mends[i].name, curve});
        }
        all.push_back({{"name", job.mends[i].name},
                       {"kind", formOf(job.mends[i].kind).id},
                       {"faces", r.faces.size()},
                       {"lengths", lengths},
                       {"points", r.points.size()},
                       {"facts", r.facts},
                       {"trouble", r.trouble}});
        if (!c.json) fmt::print(c.out, "{:30} {}\n", job.mends[i].name, r.trouble.empty() ? r.facts : "cannot: " + r.trouble);
    }
    if (c.json) fmt::print(c.out, "{}\n", OrderedJson{{"job", job.name}, {"mends", all}}.dump(1));
    if (!out.empty())
        if (const auto ok = writeFileAtomic(out, dxfOf(curves, 0.001)); !ok) return c.failed(ok.error());
    return trouble ? kExitStop : kExitOk;
}

/// Puts work in holes behind the route: spot and drill, for one group or for all.
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
    if (const auto ok = saveJob(job, out); !ok) return c.failed(ok.error());
    if (c.json) fmt::print(c.out, "{}\n", OrderedJson{{"job", out}, {"added", added}}.dump(1));
    return kExitOk;
}

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

/// Puts milling behind the route: the first guess for faces and edges.
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
    if (const auto ok = saveJob(job, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n", OrderedJson{{"job", out}, {"operation", r.id}, {"name", r.name}, {"shape", millShapeName(kind)}, {"tool", r.tool}}.dump(1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", r.id, r.name, r.tool);
    return kExitOk;
}

/// Puts work along a wall, a curve, a channel or edges behind the route: the first guess for faces and edges.
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
    if (const auto ok = saveJob(job, out); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(
            c.out, "{}\n",
            OrderedJson{
                {"job", out}, {"operation", r.id}, {"name", r.name}, {"work", what}, {"tool", r.tool}, {"faces", r.target.faces.size()}, {"edges", r.target.edges.size()}}
                .dump(1));
    else
        fmt::print(c.out, "{:6} {:24} {}\n", r.id, r.name, r.tool);
    return kExitOk;
}

struct Opened {
    Job job;
    Workshop workshop;
    StageCache cache;
    JobResults results;
};

Result<std::unique_ptr<Opened>> openAndCompute(const Console& c, const std::string& file, double upTo) {
    auto job = openJob(file);
    if (!job) return tl::unexpected(job.error());
    auto o = std::unique_ptr<Opened>(new Opened{std::move(*job), Workshop(std::filesystem::path(file).parent_path()), {}, {}});
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.0, upTo);
    auto results = computeJob(o->job, o->workshop, o->cache, progress);
    if (!results) return tl::unexpected(results.error());
    o->results = std::move(*results);
    return o;
}

OrderedJson summaryOf(const Job& job, const OperationResult& r) {
    const Recipe* recipe = job.operation(r.operation);
    OrderedJson j = {{"operation", r.operation}, {"name", recipe ? recipe->name : ""}, {"complete", r.complete()}};
    for (int s = 0; s < kStages; ++s) j["facts"][stageName(static_cast<Stage>(s))] = r.facts(static_cast<Stage>(s));
    if (r.complete()) {
        const PathLength l = pathLength(r.links->path);
        j["locations"] = r.links->path.size();
        j["steps"] = r.motion->size();
        j["rows"] = r.pattern->rows.size();
        j["widestGap"] = r.pattern->widestGap;
        j["spacing"] = r.pattern->spacing;
        j["length"] = l.all;
        j["cuttingLength"] = l.cutting;
        j["seconds"] = r.motion->duration;
        j["stickOutThatWouldDo"] = r.guard->stickOut ? OrderedJson(*r.guard->stickOut) : OrderedJson(nullptr);
    }
    return j;
}

void printFindings(const Console& c, const std::vector<Finding>& findings) {
    for (const Finding& f : findings) {
        fmt::print(c.out, "  {} · {}", rankName(f.rank), f.text);
        if (!f.reason.empty()) fmt::print(c.out, " ({})", f.reason);
        if (f.place) fmt::print(c.out, " at {:.2f} {:.2f} {:.2f}", (*f.place)[0], (*f.place)[1], (*f.place)[2]);
        fmt::print(c.out, "\n");
        for (const Remedy& r : f.remedies) fmt::print(c.out, "      {}: set {} to {}\n", r.label, r.key, r.value);
    }
}

bool anyStop(const std::vector<Finding>& findings) {
    return std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.rank == Rank::Stop; });
}

int planOrProve(const Console& c, const std::string& file, bool proveToo) {
    auto opened = openAndCompute(c, file, proveToo ? 0.6 : 1.0);
    if (!opened) return c.failed(opened.error());
    const Opened& o = **opened;
    OrderedJson all = OrderedJson::array();
    bool stop = false;
    Progress progress(c.listener());
    for (const auto& r : o.results.operations) {
        std::vector<Finding> findings = r->findings;
        OrderedJson j = summaryOf(o.job, *r);
        if (proveToo) {
            progress.report(0.6, "Proving " + r->operation + " at the machine");
            auto proof = prove(*o.results.place, *r, ProofSpec{}, progress);
            if (!proof) return c.failed(proof.error());
            findings.insert(findings.end(), proof->findings.begin(), proof->findings.end());
            static constexpr const char* kMarks[] = {"unknown", "clear", "look", "stop"};
            static constexpr const char* kChecks[] = {"gouge", "shank", "holder", "travel", "machine"};
            const Marks marks = marksOf(r.get(), &*proof);
            for (std::size_t k = 0; k < marks.size(); ++k) j["marks"][kChecks[k]] = kMarks[static_cast<int>(marks[k])];
            j["pairs"] = proof->pairs;
            j["questions"] = proof->questions;
        }
        stop = stop || anyStop(findings);
        if (c.json) {
            j["findings"] = OrderedJson::array();
            for (const Finding& f : findings) j["findings"].push_back(findingToJson(f));
            all.push_back(j);
            continue;
        }
        const Recipe* recipe = o.job.operation(r->operation);
        fmt::print(c.out, "{} ({})\n", recipe->name, r->operation);
        for (int s = 0; s < kStages; ++s)
            if (const auto text = r->facts(static_cast<Stage>(s)); !text.empty()) fmt::print(c.out, "  {}: {}\n", stageName(static_cast<Stage>(s)), text);
        if (r->complete()) fmt::print(c.out, "  {} locations, {:.0f} s\n", r->links->path.size(), r->motion->duration);
        if (proveToo) fmt::print(c.out, "  marks: {}\n", j["marks"].dump());
        printFindings(c, findings);
    }
    if (c.json) fmt::print(c.out, "{}\n", OrderedJson{{"job", o.job.name}, {"operations", all}, {"stop", stop}}.dump(1));
    return proveToo && stop ? kExitStop : kExitOk;
}

int post(const Console& c, const std::string& file, const std::string& target, const std::string& dialectText) {
    const auto dialect = dialectNamed(dialectText);
    if (!dialect) return c.failed(dialect.error());
    auto opened = openAndCompute(c, file, 0.9);
    if (!opened) return c.failed(opened.error());
    const Opened& o = **opened;
    const PostInput input = postInputOf(o.job, o.results.place, o.results.operations);
    const auto text = writeProgram(input, *dialect);
    if (!text) return c.failed(text.error());
    // What was written is read back and replayed before it is handed out.
    const auto read = readProgram(*text, *input.machine);
    if (!read) return c.failed(Error{"the written program cannot be read back: " + read.error().text(), target, {}, false});
    const ReplayReport report = compareProgram(*read, input);
    if (!report.agrees()) return c.failed(Error{"the written program differs from the job: " + report.differences.front(), target, {}, false});
    if (auto ok = writeFileAtomic(target, *text); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(
            c.out, "{}\n",
            OrderedJson{{"file", target}, {"dialect", dialectName(*dialect)}, {"moves", report.moves}, {"tip", report.tip}, {"axis", degrees(report.axis)}}.dump(1));
    else
        fmt::print(c.out, "{}: {} moves, read back and replayed: tip within {:.6f} mm, axis within {:.6f}°\n", target, report.moves, report.tip, degrees(report.axis));
    return kExitOk;
}

int replay(const Console& c, const std::string& program, const std::string& file) {
    auto opened = openAndCompute(c, file, 0.9);
    if (!opened) return c.failed(opened.error());
    const Opened& o = **opened;
    const auto text = readFile(program, 1u << 30);
    if (!text) return c.failed(text.error());
    const PostInput input = postInputOf(o.job, o.results.place, o.results.operations);
    for (const auto& op : input.operations)
        if (!op.result->complete()) return c.failed(Error{"the operation has no toolpath to compare with", op.name, {}, false});
    const auto read = readProgram(*text, *input.machine);
    if (!read) return c.failed(Error{read.error().what, program + " " + read.error().place, read.error().remedy, false});
    const ReplayReport r = compareProgram(*read, input);
    if (c.json)
        fmt::print(c.out, "{}\n",
                   OrderedJson{{"moves", r.moves},
                               {"agrees", r.agrees()},
                               {"tip", r.tip},
                               {"axis", degrees(r.axis)},
                               {"linear", r.linear},
                               {"rotary", degrees(r.rotary)},
                               {"differences", r.differences}}
                       .dump(1));
    else {
        fmt::print(c.out, "{} moves: {}\n", r.moves, r.agrees() ? "agrees with the job within the rounding" : "differs from the job");
        for (const auto& d : r.differences) fmt::print(c.out, "  {}\n", d);
    }
    return r.agrees() ? kExitOk : kExitStop;
}

int dump(const Console& c, const std::string& file, const std::string& folder) {
    auto opened = openAndCompute(c, file, 1.0);
    if (!opened) return c.failed(opened.error());
    for (const auto& r : (*opened)->results.operations) {
        if (auto ok = dumpOperation((*opened)->results, *r, folder); !ok) return c.failed(ok.error());
        fmt::print(c.out, "{}/{}.csv\n", folder, r->operation);
    }
    return kExitOk;
}

} // namespace

int runCommandLine(int argc, const char* const* argv, std::ostream& out, std::ostream& err) {
    Console c{out, err};
    CLI::App app{"Humble Gyre without a window: toolpaths for 4- and 5-axis milling", "gyre"};
    app.require_subcommand(1);
    app.add_flag("--json", c.json, "results as JSON");
    app.add_flag("--quiet", c.quiet, "no progress on stderr");
    app.fallthrough();
    std::string file, second, dialect = "tip";
    auto* inspectCmd = app.add_subcommand("inspect", "faces and edges of a part");
    inspectCmd->add_option("part", file, "STEP, IGES, BREP, STL, OBJ or PLY file")->required();
    std::vector<int> faces;
    std::string machine;
    double diameter = 6.0;
    auto* holesCmd = app.add_subcommand("holes", "holes of a part, in groups");
    holesCmd->add_option("part", file, "part file")->required();
    holesCmd->add_option("--faces", faces, "only those on these faces");
    holesCmd->add_option("--machine", machine, "machine file: says which rotary angles bring each hole under the spindle");
    auto* flankCmd = app.add_subcommand("flank", "can a cutter's side follow the faces?");
    flankCmd->add_option("part", file, "part file")->required();
    flankCmd->add_option("--faces", faces, "only these faces");
    std::vector<int> lowerEdges, upperEdges;
    auto* lowerOption = flankCmd->add_option("--lower", lowerEdges, "the surface between these edges …");
    auto* upperOption = flankCmd->add_option("--upper", upperEdges, "… and these");
    lowerOption->needs(upperOption);
    upperOption->needs(lowerOption);
    flankCmd->add_option("--diameter", diameter, "of the cutter, mm")->capture_default_str()->check(CLI::Range(0.01, 500.0));
    auto* contentsCmd = app.add_subcommand("contents", "bodies of a STEP assembly, curves of a DXF or SVG drawing");
    contentsCmd->add_option("file", file, "STEP, DXF or SVG file")->required();
    int group = 0;
    std::string shape, drawing, on;
    std::vector<int> edges;
    auto* millCmd = app.add_subcommand("mill", "add milling on a plane or around an axis to a job");
    millCmd->add_option("job", file, "job file")->required();
    millCmd->add_option("--out", second, "the job file to write, in the same folder")->required();
    millCmd->add_option("--shape", shape, "face, pocket, outline, bore, follow, round or rough; guessed from what is picked when left out");
    millCmd->add_option("--faces", faces, "faces by number, as in 'gyre inspect'")->delimiter(',');
    millCmd->add_option("--edges", edges, "edges by number")->delimiter(',');
    millCmd->add_option("--drawing", drawing, "a drawing of the job, or a curve that its mends made");
    millCmd->add_option("--on", on, "a work plane by name, or \"round X\", \"round Y\", \"round Z\"");
    auto* followCmd = app.add_subcommand("follow", "add work along a wall, a curve, a channel or sharp edges to a job");
    followCmd->add_option("job", file, "job file")->required();
    followCmd->add_option("--out", second, "the job file to write, in the same folder")->required();
    followCmd->add_option("--what", shape, "wall, curve, channel, edges, around, body, holes-near, holes-far or holes")->required();
    followCmd->add_option("--faces", faces, "faces by number, as in 'gyre inspect'; one face of a wall stands for all of it")->delimiter(',');
    followCmd->add_option("--edges", edges, "edges by number")->delimiter(',');
    followCmd->add_option("--drawing", drawing, "a drawing of the job, or a curve that its mends made");
    auto* drillCmd = app.add_subcommand("drill", "add spotting and drilling of the holes to a job");
    drillCmd->add_option("job", file, "job file")->required();
    drillCmd->add_option("--out", second, "the job file to write, in the same folder")->required();
    drillCmd->add_option("--group", group, "one group of 'gyre holes' alone, counted from 1")->check(CLI::Range(1, 100000));
    auto* mendsCmd = app.add_subcommand("mends", "what the mends of a job come to; exit 3 when one cannot be made");
    mendsCmd->add_option("job", file, "job file")->required();
    mendsCmd->add_option("--out", second, "write their curves to this DXF file");
    auto* planCmd = app.add_subcommand("plan", "compute all operations; facts and findings");
    planCmd->add_option("job", file, "job file")->required();
    auto* proveCmd = app.add_subcommand("prove", "plan, then check every body of the machine; exit 3 when there is a Stop");
    proveCmd->add_option("job", file, "job file")->required();
    auto* postCmd = app.add_subcommand("post", "write the NC program, read it back, compare");
    postCmd->add_option("job", file, "job file")->required();
    postCmd->add_option("--out", second, "file to write")->required();
    postCmd->add_option("--dialect", dialect, "tip, joints or cldata")->capture_default_str();
    auto* replayCmd = app.add_subcommand("replay", "compare an NC program with a job; exit 3 when it differs");
    replayCmd->add_option("program", second, "NC or cutter-location file")->required();
    replayCmd->add_option("--job", file, "job file")->required();
    auto* dumpCmd = app.add_subcommand("dump", "tables of every location");
    dumpCmd->add_option("job", file, "job file")->required();
    dumpCmd->add_option("--dir", second, "folder to write to")->required();
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e, out, err) == 0 ? kExitOk : kExitUsage;
    }
    if (*inspectCmd) return inspect(c, file);
    if (*holesCmd) return holes(c, file, faces, machine);
    if (*flankCmd && !lowerEdges.empty()) return flankOfEdges(c, file, lowerEdges, upperEdges, diameter);
    if (*flankCmd) return flank(c, file, faces, diameter);
    if (*contentsCmd) return contents(c, file);
    if (*millCmd) return mill(c, file, second, shape, faces, edges, drawing, on);
    if (*followCmd) return follow(c, file, second, shape, faces, edges, drawing);
    if (*drillCmd) return drill(c, file, second, group);
    if (*mendsCmd) return mends(c, file, second);
    if (*planCmd) return planOrProve(c, file, false);
    if (*proveCmd) return planOrProve(c, file, true);
    if (*postCmd) return post(c, file, second, dialect);
    if (*replayCmd) return replay(c, second, file);
    return dump(c, file, second);
}

} // namespace gyre
