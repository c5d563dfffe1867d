// Commands that look at files.
#include "Console.h"
#include "base/File.h"
#include "drawing/Drawing.h"
#include "machine/Reach.h"
#include "operation/Workplace.h"
#include "part/Flank.h"
#include "part/WorkPlane.h"
#include "target/Target.h"

namespace gyre {
namespace {

/// A machine with the part's datum on its table seat, to ask what it reaches.
Result<std::optional<Kinematics>> machineFor(const std::string& file) {
    if (file.empty()) return std::optional<Kinematics>();
    const auto text = readFile(file, 64u << 20);
    if (!text) return tl::unexpected(text.error());
    const std::filesystem::path path = file;
    const auto machine = machineFromJson(*text, path.filename().string(), path.has_parent_path() ? path.parent_path() : std::filesystem::path("."));
    if (!machine) return tl::unexpected(machine.error());
    return std::optional<Kinematics>(Kinematics(*machine, Frame::Identity(), 150.0));
}

} // namespace

namespace {

const char* convexity(const EdgeInfo& e) { return std::abs(e.angle) < 0.01 ? "smooth" : e.angle > 0.0 ? "convex" : "concave"; }

OrderedJson described(const Part& p) {
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
                         {"convexity", convexity(e)}});
    }
    const Box b = p.tree().bounds();
    return {{"part", p.name()}, {"volume", p.volume()}, {"low", list(b.low)}, {"high", list(b.high)}, {"faces", faces}, {"edges", edges}, {"remarks", p.remarks()}};
}

} // namespace

int inspect(const Console& c, const std::string& file) {
    Progress progress(c.listener());
    auto part = Part::open(file, 0.02, progress);
    if (!part) return c.failed(part.error());
    const Part& p = **part;
    if (!c.json)
        for (const std::string& r : p.remarks()) fmt::print(c.out, "{}\n", r);
    if (c.json) {
        fmt::print(c.out, "{}\n", textOf(described(p), 1));
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
                   std::abs(degrees(e.angle)), convexity(e));
    }
    return kExitOk;
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
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"part", (*part)->name()}, {"count", found.size()}, {"groups", all}}, 1));
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
    if (c.json) fmt::print(c.out, "{}\n", textOf(OrderedJson{{"part", (*part)->name()}, {"diameter", diameter}, {"faces", all}}, 1));
    return kExitOk;
}

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
                   textOf(OrderedJson{{"part", (*part)->name()},
                                      {"diameter", diameter},
                                      {"kind", flankKindName(a->kind)},
                                      {"twist", degrees(a->twist)},
                                      {"deviation", a->deviation},
                                      {"words", a->words}},
                          1));
    else
        fmt::print(c.out, "{}  {}\n", flankKindName(a->kind), a->words);
    return kExitOk;
}

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
                       textOf(OrderedJson{{"drawing", file},
                                          {"unit", drawing->unitWords},
                                          {"low", list(b.low)},
                                          {"high", list(b.high)},
                                          {"curves", curves},
                                          {"passedOver", drawing->passedOver}},
                              1));
            return kExitOk;
        }
        fmt::print(c.out, "{} curves, {}; {:.2f} × {:.2f} mm\n", drawing->curves.size(), drawing->unitWords, b.high.x() - b.low.x(), b.high.y() - b.low.y());
        for (const DrawnCurve& d : drawing->curves) fmt::print(c.out, "{:20} {:10.3f} mm  {}\n", d.layer, d.curve.length(), d.curve.closed() ? "closed" : "open");
        for (const auto& [kind, count] : drawing->passedOver) fmt::print(c.out, "{} {} passed over\n", count, kind);
        return kExitOk;
    }
    Progress progress(c.listener());
    const auto bodies = bodiesIn(file, progress);
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
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"file", file}, {"bodies", all}}, 1));
    else if (bodies->empty())
        fmt::print(c.out, "one body, no assembly\n");
    return kExitOk;
}

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
    if (c.json) fmt::print(c.out, "{}\n", textOf(OrderedJson{{"job", job.name}, {"mends", all}}, 1));
    if (!out.empty())
        if (const auto ok = writeFileAtomic(out, dxfOf(curves, 0.001)); !ok) return c.failed(ok.error());
    return trouble ? kExitStop : kExitOk;
}

} // namespace gyre
