#include "proposal/NewJob.h"
#include "axis/AxisSpec.h"
#include "base/File.h"
#include "job/StockShape.h"
#include "link/LinkSpec.h"
#include "operation/Repeat.h"
#include "operation/Workplace.h"
#include "pattern/Passage.h"
#include "pattern/PatternSpec.h"
#include "proposal/MillWork.h"
#include "session/Workshop.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "tool/Library.h"
#include "tool/Scallop.h"
#include "touch/TouchSpec.h"
#include <algorithm>

namespace gyre {
namespace fs = std::filesystem;
namespace {

std::string lowerSuffix(const fs::path& file) {
    std::string s = file.extension().string();
    for (char& c : s) c = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    return s;
}

bool oneOf(const std::string& suffix, std::initializer_list<const char*> known) {
    return std::any_of(known.begin(), known.end(), [&](const char* k) { return suffix == k; });
}

/// All tools of the libraries in a folder; those that are known already stay.
void addTools(Job& job, const fs::path& folder) {
    std::error_code ec;
    std::vector<fs::path> files;
    for (const auto& entry : fs::directory_iterator(folder, ec))
        if (entry.path().filename().string().ends_with(".tools.json")) files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    for (const fs::path& f : files) {
        const auto text = readFile(f, 64u << 20);
        const auto library = text ? toolLibraryFromJson(*text, f.filename().string()) : tl::unexpected(text.error());
        if (!library) continue;
        for (const Assembly& a : library->assemblies)
            if (!job.tool(a.id)) job.tools.push_back(a);
    }
}

} // namespace

Result<Job> jobAround(const fs::path& given, const fs::path& shop, const std::string& machine) {
    const fs::path file = fs::absolute(given), folder = file.parent_path();
    const std::string suffix = lowerSuffix(file), name = file.filename().string();
    if (oneOf(suffix, {".dxf", ".svg"})) return fail("a drawing is laid on a part: open the part first", name, "Then drop the drawing on it");
    if (!oneOf(suffix, {".step", ".stp", ".iges", ".igs", ".brep", ".brp", ".stl", ".obj", ".ply"}))
        return fail("neither a job (*.gyre.json) nor a part (STEP, IGES, BREP, STL, OBJ, PLY)", name);
    std::error_code ec;
    if (!fs::exists(file, ec)) return fail("the file is not there", file.string());
    Job job;
    job.name = file.stem().string();
    JobBody body;
    body.name = job.name;
    body.role = "part";
    body.file = name;
    job.bodies.push_back(body);
    if (!machine.empty() && fs::is_regular_file(machine, ec)) {
        job.machine = fs::absolute(machine).string();
    } else {
        std::vector<MachineFile> known = machinesIn(folder);
        if (known.empty())
            for (const MachineFile& m : machinesIn(shop)) known.push_back({(shop / m.file).string(), m.name});
        if (known.empty()) return fail("there is no machine file (*.machine.json) beside the part", folder.string(), "Put one there");
        job.machine = known.front().file;
        bool found = machine.empty();
        for (const MachineFile& m : known)
            if (!found && m.name == machine) {
                job.machine = m.file;
                found = true;
            }
        if (!found) return fail("no machine '" + machine + "' is known", folder.string(), "Name its file, or one of those beside the part");
    }
    addTools(job, folder);
    addTools(job, shop);
    return job;
}

void proposeSetup(Job& job, const Part& part, double allowance) {
    const StockShape stock = proposeStock(part, allowance);
    const auto old = std::find_if(job.bodies.begin(), job.bodies.end(), [](const JobBody& b) { return b.role == "stock" && b.shape; });
    if (old != job.bodies.end()) {
        old->shape = stock;
    } else {
        JobBody b;
        b.name = "stock";
        b.role = "stock";
        b.shape = stock;
        job.bodies.push_back(b);
    }
    if (std::any_of(job.bodies.begin(), job.bodies.end(), [](const JobBody& b) { return b.role == "fixture"; })) return;
    // On the table's seat, its middle over the table's.
    const Vec3 middle = 0.5 * (stock.low + stock.high);
    job.seat = stock.kind == StockShape::Kind::Block ? Vec3(-middle.x(), -middle.y(), -stock.low.z())
                                                     : Vec3(-stock.centre.x(), -stock.centre.y(), -part.tree().bounds().low.z());
}

Recipe proposeRows(const Job& job, const Workplace& place, const Recipe* before) {
    Recipe r;
    r.id = job.freshId();
    r.name = "Surface rows";
    if (before && before->kind == OperationKind::Surface) {
        r.tool = before->tool;
        r.axis = before->axis;
        r.guard = before->guard;
        r.link = before->link;
    } else {
        if (!job.tools.empty()) r.tool = job.tools.front().id;
        r.axis->nearPole = 1.0;
        // Around everything: the axis may lean any way.
        if (place.part) r.link->skin = skinAround(place, {Vec3::UnitZ(), Vec3(0.3, 0.2, 0.9).normalized()}, false);
    }
    const Assembly* tool = job.tool(r.tool);
    if (tool && contactRadius(tool->cutter) > 0.0) {
        r.pattern->scallop = 0.005;
        r.pattern->spacing = std::round(100.0 * stepFromScallop(contactRadius(tool->cutter), 0.005)) / 100.0;
    }
    // Of a scan the facets themselves count, not the normals blended between them.
    if (place.part && (place.part->body() ? *place.part->body() : *place.part).isMesh()) r.touch->by = TouchBy::AlongAxis;
    return r;
}

void fitRails(const Part& part, Recipe& recipe) {
    PatternSpec& pattern = *recipe.pattern;
    pattern.rail1.clear();
    pattern.rail2.clear();
    if (pattern.kind == PatternBy::Rails || pattern.kind == PatternBy::Passage) pattern.guides.clear();
    const auto faces = resolveFaces(part, recipe.target->faces);
    if (!faces) return;
    const auto add = [&](const std::vector<int>& edges, std::vector<ShapeRef>& to) {
        for (const int e : edges) to.push_back(part.edgeRef(e));
    };
    if (pattern.kind == PatternBy::Passage) {
        const auto found = proposePassage(part, *faces);
        if (!found) return;
        add(found->first, pattern.rail1);
        add(found->second, pattern.rail2);
        add(found->between, pattern.guides);
    } else if (const auto rails = proposeRails(part, *faces)) {
        add(rails->first.edges, pattern.rail1);
        add(rails->second.edges, pattern.rail2);
    }
}

void fitPattern(const Part& part, PatternBy before, Recipe& recipe) {
    if ((before == PatternBy::Passage) != (recipe.pattern->kind == PatternBy::Passage)) fitRails(part, recipe);
}

void fitRepeat(const Workplace& place, Recipe& r) {
    if (!place.part || r.repeat->count < 2) return;
    const Vec3 axis = Vec3::Unit(r.repeat->axis);
    const Skin now = r.link->skin;
    if (now.kind == SkinKind::Sphere || (now.kind == SkinKind::Cylinder && now.axis == r.repeat->axis)) return;
    if (now.kind == SkinKind::Plane && now.axis == r.repeat->axis) return; // turned about its own normal a plane stays where it is
    // Square to the axis a cylinder about it will do; else the tool leans along it as well.
    const Vec3 across = anyPerpendicular(axis);
    r.link->skin = skinAround(place, {across, axis.cross(across)}, true);
}

} // namespace gyre
