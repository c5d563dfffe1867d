// The job file, docs/formats/job.md.
#include "job/JobForm.h"
#include "form/Form.h"
#include "job/Variants.h"
#include "mend/MendForm.h"
#include "operation/RecipeForm.h"
#include "tool/Library.h"
#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

const Form<JobBody>& bodyForm() {
    using B = JobBody;
    static const Form<B> form = Form<B>("a body")
                                    .text("name", &B::name, 200, "Name")
                                    .needed()
                                    .choice<std::string>("role", &B::role,
                                                         {{"part", "part", "part"},
                                                          {"fixture", "fixture", "fixture"},
                                                          {"stock", "stock", "stock"},
                                                          {"reference", "reference", "reference"},
                                                          {"drawing", "drawing", "drawing"}},
                                                         "What it is")
                                    .maybe("shape", &B::shape, stockForm(), "Stock as a shape with numbers, instead of a file")
                                    .text("file", &B::file, 4096, "Its file, relative to the job's; coordinates are the part datum's")
                                    .writtenWhen([](const B& b) { return !b.shape; })
                                    .choice("unit", &B::unit, {{LengthUnit::Millimetre, "mm", "millimetres"}, {LengthUnit::Inch, "in", "inches"}},
                                            "Unit of a mesh or drawing that does not know its own")
                                    .writtenWhenChanged()
                                    .flag("sheetsOver", &B::sheetsOver, "Tools work on an open sheet from", "behind its triangles", "where its triangles look")
                                    .writtenWhenChanged()
                                    .text("plane", &B::plane, 200, "Work plane that a drawing lies on; XY of the datum when empty")
                                    .writtenWhenChanged()
                                    .flag("flat", &B::flat, "A drawing is", "kept flat, to be wrapped", "placed")
                                    .writtenWhenChanged()
                                    .text("only", &B::only, 400, "The one body of an assembly that is meant, by its name in the file")
                                    .writtenWhenChanged()
                                    .place("moved", &B::moved, 1e4, "How far it stands from where its file has it")
                                    .writtenWhenChanged()
                                    .vector("turned", &B::turned, 360.0, "Before that, turned about the datum's X, then Y, then Z, degrees")
                                    .writtenWhenChanged()
                                    .length("within", &B::within, 0.0, 50.0, "How far from its place a fixture may stand")
                                    .writtenWhenChanged()
                                    .check([](const JsonView& v, const B& b) {
                                        if (!b.mayMove() && (v.has("moved") || v.has("turned")))
                                            v.complain("only fixtures, stock and references from files are moved and turned");
                                        if (b.role != "fixture" && v.has("within")) v.complain("only a fixture may stand off its place");
                                        if (!b.shape && !v.has("file")) v.complain("'file' is missing");
                                        if (b.shape && v.has("file")) v.complain("a body has a file or a shape, not both");
                                        if (b.shape && b.role == "part") v.complain("the part must come from a file");
                                        if (b.shape && b.role == "drawing") v.complain("a drawing must come from a file");
                                    })
                                    .settled([](B& b) {
                                        if (b.shape) b.role = "stock";
                                        if (b.shape) b.file.clear();
                                        if (!b.mayMove()) b.moved = b.turned = Vec3::Zero();
                                        if (b.role != "fixture") b.within = 0.0;
                                    });
    return form;
}

const Form<WorkPlane>& planeForm() {
    using P = WorkPlane;
    static const Form<P> form = Form<P>("a work plane")
                                    .text("name", &P::name, 200, "Name")
                                    .needed()
                                    .place("origin", &P::origin, 1e5, "Where it begins")
                                    .needed()
                                    .vector("normal", &P::normal, 1.0 + 1e-9, "Unit vector out of it")
                                    .needed()
                                    .vector("x", &P::x, 1.0 + 1e-9, "Unit vector along its X")
                                    .needed()
                                    .check([](const JsonView& v, const P& p) {
                                        if (std::abs(p.normal.norm() - 1.0) > 1e-6 || std::abs(p.x.norm() - 1.0) > 1e-6 || std::abs(p.x.dot(p.normal)) > 1e-6)
                                            v.complain("'normal' and 'x' must be unit vectors square to each other");
                                    })
                                    .settled([](P& p) {
                                        p.normal = p.normal.norm() > 1e-3 ? Vec3(p.normal.normalized()) : Vec3(Vec3::UnitZ());
                                        p.x = p.normal.unitOrthogonal();
                                    });
    return form;
}

const Form<HoleMark>& holeMarkForm() {
    using H = HoleMark;
    static const Form<H> form = Form<H>("what is said of a hole")
                                    .place("mouth", &H::mouth, 1e5, "Middle of the mouth it is known again by")
                                    .needed()
                                    .flag("turned", &H::turned, "Entered from", "its other end", "the end that was found")
                                    .flag("leftOut", &H::leftOut, "Worked on", "not at all", "as others");
    return form;
}

const Form<Job>& placementForm() {
    static const Form<Job> form = Form<Job>("how the part stands")
                                      .place("seat", &Job::seat, 1e4, "Part datum over the table seat")
                                      .angle("turn", &Job::seatTurnDegrees, -360.0, 360.0, "Turn about the table's Z")
                                      .place("zero", &Job::zero, 1e4, "Where programs count from, in part coordinates");
    return form;
}

// What must hold between the things of a job.
void checkWhole(const JsonView& v, const Job& job) {
    const auto twice = [&](const char* list, std::size_t most, const auto& things, const auto& nameOf, const char* what) {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < things.size(); ++i)
            if (!seen.insert(nameOf(things[i])).second) v.list(list, most)[i].complain(fmt::format("the {} '{}' is there twice", what, nameOf(things[i])));
    };
    twice(
        "mends", 2000, job.mends, [](const Mend& m) { return m.name; }, "mend");
    twice(
        "tools", 1000, job.tools, [](const Assembly& a) { return a.id; }, "tool");
    twice(
        "route", 1000, job.route, [](const Recipe& r) { return r.id; }, "operation");
    const auto isPart = [](const JobBody& b) { return b.role == "part"; };
    if (std::count_if(job.bodies.begin(), job.bodies.end(), isPart) > 1) v.complain("there can be one part only");
    std::set<std::string> onHoles, inSlices;
    for (std::size_t i = 0; i < job.route.size(); ++i) {
        const Recipe& r = job.route[i];
        if (r.kind == OperationKind::HoleStep && !onHoles.count(r.parent)) v.list("route", 1000)[i].complain("'parent' names no operation on holes above this step");
        if (r.kind == OperationKind::Holes) onHoles.insert(r.id);
        if (r.kind == OperationKind::Slices) inSlices.insert(r.id);
        if (r.kind == OperationKind::HoleStep || r.parent.empty()) continue;
        // They stand right below, one after the other.
        const bool below = i > 0 && (job.route[i - 1].id == r.parent || job.route[i - 1].parent == r.parent);
        if (!inSlices.count(r.parent) || !below) v.list("route", 1000)[i].complain("'parent' names no slices right above this operation");
    }
    std::set<std::pair<std::string, std::string>> named;
    for (const Recipe& r : job.route) named.insert({r.id, r.variant});
    for (std::size_t i = 0; i < job.variants.size(); ++i) {
        const Recipe& r = job.variants[i];
        const Recipe* own = job.operation(r.id);
        if (!own || own->id != r.id || !mayVary(*own) || !mayVary(r))
            v.list("variants", 1000)[i].complain("'id' names no operation of the route that could have variants");
        if (r.variant.empty() || !named.insert({r.id, r.variant}).second) v.list("variants", 1000)[i].complain("'variant' is empty, or there twice");
    }
}

} // namespace

const Form<Job>& jobForm() {
    using J = Job;
    static const Form<J> form =
        Form<J>("a job")
            .constant("format", "gyre-job", "What the file is")
            .constant("version", kJobVersion, "Version of the format")
            .text("name", &J::name, 200, "Name")
            .choice("units", &J::units, {{LengthUnit::Millimetre, "mm", "millimetres"}, {LengthUnit::Inch, "in", "inches"}}, "Unit of the screen; the file holds mm")
            .text("machine", &J::machine, 4096, "Machine file, relative to the job's")
            .group("placement", placementForm(), "How the part stands")
            .list("bodies", &J::bodies, 500, bodyForm(), "Part, fixtures, stock, drawings")
            .list("tools", &J::tools, 1000, assemblyForm(), "Tools")
            .list("route", &J::route, 1000, recipeForm(), "Operations in their order")
            .text("material", &J::material, 80, "What the part is made of, as the tools name it")
            .writtenWhenChanged()
            .part("program", &J::program, programForm(), "What the control wants to read")
            .writtenWhenChanged()
            .list("planes", &J::planes, 1000, planeForm(), "Work planes")
            .writtenWhenChanged()
            .list("holes", &J::holes, 10000, holeMarkForm(), "What is said of holes")
            .writtenWhenChanged()
            .list("mends", &J::mends, 2000, mendForm(), "Mends")
            .writtenWhenChanged()
            .list("variants", &J::variants, 1000, recipeForm(), "Put aside: other ways of doing an operation of the route, by its id")
            .writtenWhenChanged()
            .remark("note", "For whoever writes the file by hand; not kept")
            .check(checkWhole)
            .settled([](J& j) {
                // Names that are there once, and steps that have a parent.
                int part = 0;
                for (std::size_t i = 0; i < j.bodies.size(); ++i)
                    if (j.bodies[i].role == "part" && ++part > 1) j.bodies[i].role = "fixture";
                for (std::size_t i = 0; i < j.mends.size(); ++i) j.mends[i].name = fmt::format("m{}", i);
                for (std::size_t i = 0; i < j.tools.size(); ++i) j.tools[i].id = fmt::format("t{}", i);
                for (std::size_t i = 0; i < j.route.size(); ++i) j.route[i].id = fmt::format("op{}", i);
                std::erase_if(j.route, [](const Recipe& r) { return r.kind == OperationKind::HoleStep; });
                for (Recipe& r : j.route) r.parent.clear();
                std::erase_if(j.variants, [&](const Recipe& r) { return j.route.empty() || !mayVary(j.route.front()) || !mayVary(r); });
                for (std::size_t i = 0; i < j.variants.size(); ++i) {
                    j.variants[i].id = j.route.front().id;
                    j.variants[i].variant = fmt::format("v{}", i);
                }
            });
    return form;
}

Result<Job> jobFromJson(const std::string& text, const std::string& place) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    if (!json->is_object() || v.text("format") != "gyre-job") v.complain("this is not a job: 'format' is not 'gyre-job'");
    if (!error)
        if (const int version = v.integer("version", 0, 1'000'000); version != kJobVersion && !error)
            return fail(fmt::format("the job has version {} of the format; this program knows version {}", version, kJobVersion), place,
                        version > kJobVersion ? "Open it with a newer Humble Gyre" : "");
    if (error) return tl::unexpected(*error);
    Job job = jobForm().read(v);
    if (error) return tl::unexpected(*error);
    return job;
}

std::string jobToJson(const Job& job) { return textOf(jobForm().write(job), 1) + "\n"; }

} // namespace gyre
