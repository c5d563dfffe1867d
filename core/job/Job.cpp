#include "job/Job.h"
#include "base/File.h"
#include "base/Hash.h"
#include "tool/Library.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {
constexpr std::uintmax_t kLargestJob = 64u << 20;

template <class List> auto* findById(List& list, const std::string& id) {
    for (auto& x : list)
        if (x.id == id) return &x;
    return static_cast<decltype(&list.front())>(nullptr);
}

void addTo(Hash& under, const Vec3& v) { under.add(v.x()).add(v.y()).add(v.z()); }

Hash hashOfCurves(const Job& job) {
    Hash under;
    for (const Mend& m : job.mends) under.add(mendToJson(m).dump());
    for (const WorkPlane& p : job.planes) {
        under.add(p.name);
        for (const Vec3& v : {p.origin, p.normal, p.x}) addTo(under, v);
    }
    for (const JobBody& b : job.bodies)
        if (b.role == "drawing") under.add(b.name).add(b.file).add(b.plane).add(b.flat ? 1.0 : 0.0).add(b.meshUnit());
    return under;
}

/// Of the stock and of all operations that cut before this one, with what those rest on.
Hash hashBefore(const Job& job, const std::string& id) {
    Hash under;
    for (const JobBody& b : job.bodies)
        if (b.role == "stock") under.add(b.shape ? stockToJson(*b.shape).dump() : b.file);
    bool curves = false, planes = false, holes = false;
    for (const Recipe& before : job.route) {
        if (before.id == id) break;
        if (!before.active) continue;
        under.add(recipeToJson(before).dump());
        if (const Assembly* t = job.tool(before.tool)) under.add(assemblyToJson(*t).dump());
        curves = curves || !before.target.drawings.empty() || !before.axis.curve.empty() || !before.axis.last.curve.empty();
        planes = planes || before.kind == OperationKind::Mill || !before.repeat.planes.empty();
        holes = holes || before.kind == OperationKind::HoleStep || before.kind == OperationKind::Edge;
    }
    if (curves) under.add(hashOfCurves(job).value());
    if (planes)
        for (const WorkPlane& p : job.planes) {
            under.add(p.name);
            for (const Vec3& v : {p.origin, p.normal, p.x}) addTo(under, v);
        }
    if (holes)
        for (const HoleMark& m : job.holes) {
            addTo(under, m.mouth);
            under.add(m.turned ? 1.0 : 0.0).add(m.leftOut ? 1.0 : 0.0);
        }
    return under;
}
} // namespace

Frame Job::partFrame() const {
    Frame f = Frame::Identity();
    f.translation() = seat;
    f.linear() = rotation(Vec3::UnitZ(), radians(seatTurnDegrees));
    return f;
}

const Recipe* Job::operation(const std::string& id) const { return findById(route, id); }
Recipe* Job::operation(const std::string& id) { return findById(route, id); }
Recipe Job::resolved(const Recipe& recipe) const {
    Recipe r = recipe;
    for (const WorkPlane& p : planes)
        if ((r.kind == OperationKind::Mill && p.name == r.mill.on) || std::find(r.repeat.planes.begin(), r.repeat.planes.end(), p.name) != r.repeat.planes.end())
            r.planes.push_back(p);
    if (r.kind == OperationKind::Mill && r.mill.on.empty()) r.planes = planes; // directions that the user knows
    // What stands in the job and not in the recipe: curves of mends and drawings, planes, holes, and all that is cut before.
    const bool aimed = !r.axis.curve.empty() || !r.axis.last.curve.empty();
    if (!r.target.drawings.empty() || aimed) r.rests = hashOfCurves(*this).value() | 1u;
    if (restsOnStock(r))
        r.rests = hashBefore(*this, recipe.id).value() | 1u;
    else if (r.kind == OperationKind::Mill || r.kind == OperationKind::HoleStep)
        r.before = hashBefore(*this, recipe.id).value() | 1u;
    const Recipe* parent = recipe.kind == OperationKind::HoleStep ? operation(recipe.parent) : nullptr;
    if (!parent) return r;
    r.holes.clear();
    for (const HoleRef& h : parent->holes) {
        Hole at;
        at.mouth = h.mouth;
        const HoleMark* mark = markOf(at);
        if (mark && mark->leftOut) continue;
        r.holes.push_back(h);
        r.holes.back().turned = mark && mark->turned;
    }
    r.drill.breakthrough = parent->drill.breakthrough;
    r.drill.above = parent->drill.above;
    r.drill.shortest = parent->drill.shortest;
    r.link = parent->link;
    r.guard = parent->guard;
    return r;
}

std::vector<Recipe> Job::worked() const {
    std::vector<Recipe> out;
    for (const Recipe& r : route) {
        const Recipe* parent = r.parent.empty() ? nullptr : operation(r.parent);
        if (r.active && r.kind != OperationKind::Holes && (!parent || parent->active)) out.push_back(resolved(r));
    }
    return out;
}

const Assembly* Job::tool(const std::string& id) const { return findById(tools, id); }
Assembly* Job::tool(const std::string& id) { return findById(tools, id); }

std::string Job::freshId() const {
    for (std::size_t i = route.size() + 1;; ++i)
        if (const std::string id = fmt::format("op{}", i); !operation(id)) return id;
}

std::string Job::freshPlaneName() const {
    for (std::size_t i = planes.size() + 1;; ++i) {
        const std::string name = fmt::format("Plane {}", i);
        if (std::none_of(planes.begin(), planes.end(), [&](const WorkPlane& p) { return p.name == name; })) return name;
    }
}

std::string Job::freshMendName(MendKind kind) const {
    for (std::size_t i = 1;; ++i) {
        const std::string name = fmt::format("{} {}", formOf(kind).title, i);
        if (std::none_of(mends.begin(), mends.end(), [&](const Mend& m) { return m.name == name; })) return name;
    }
}

const HoleMark* Job::markOf(const Hole& hole) const {
    for (const HoleMark& m : holes)
        if ((m.mouth - hole.mouth).norm() < 0.01) return &m;
    return nullptr;
}

HoleMark& Job::mark(const Hole& hole) {
    if (const HoleMark* m = markOf(hole)) return holes[static_cast<std::size_t>(m - holes.data())];
    return holes.emplace_back(HoleMark{hole.mouth, false, false});
}

namespace {

Vec3 vectorOf(const JsonView& v, const char* key, double limit = 1e5) {
    const auto t = v.triple(key, limit);
    return {t[0], t[1], t[2]};
}
std::array<double, 3> listOf(const Vec3& v) { return {v.x(), v.y(), v.z()}; }

JobBody bodyFromJson(const JsonView& b) {
    static constexpr const char* kRoles[] = {"part", "fixture", "stock", "reference", "drawing"};
    b.allow({"name", "role", "file", "unit", "shape", "plane", "flat", "only"});
    JobBody body;
    body.name = b.text("name", 200);
    body.role = kRoles[b.choice("role", {"part", "fixture", "stock", "reference", "drawing"}, 1)];
    if (b.has("shape"))
        body.shape = stockFromJson(b.object("shape"));
    else
        body.file = b.text("file");
    if (body.shape && b.has("file")) b.complain("a body has a file or a shape, not both");
    if (body.shape && body.role == "part") b.complain("the part must come from a file");
    body.plane = b.text("plane", "", 200);
    body.flat = b.flag("flat", false);
    body.only = b.text("only", "", 400);
    if (body.role == "drawing" && body.shape) b.complain("a drawing must come from a file");
    body.unit = b.choice("unit", {"mm", "in"}, 0) == 1 ? LengthUnit::Inch : LengthUnit::Millimetre;
    return body;
}

WorkPlane planeFromJson(const JsonView& p) {
    p.allow({"name", "origin", "normal", "x"});
    WorkPlane plane{p.text("name", 200), vectorOf(p, "origin"), vectorOf(p, "normal", 1.0 + 1e-9), vectorOf(p, "x", 1.0 + 1e-9)};
    if (std::abs(plane.normal.norm() - 1.0) > 1e-6 || std::abs(plane.x.norm() - 1.0) > 1e-6 || std::abs(plane.x.dot(plane.normal)) > 1e-6)
        p.complain("'normal' and 'x' must be unit vectors square to each other");
    return plane;
}

} // namespace

Result<Job> jobFromJson(const std::string& text, const std::string& place) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    Job job;
    if (!json->is_object() || v.text("format") != "gyre-job") v.complain("this is not a job: 'format' is not 'gyre-job'");
    if (!error)
        if (const int version = v.integer("version", 0, 1'000'000); version != kJobVersion && !error)
            return fail(fmt::format("the job has version {} of the format; this program knows version {}", version, kJobVersion), place,
                        version > kJobVersion ? "Open it with a newer Humble Gyre" : "");
    if (error) return tl::unexpected(*error);
    v.allow({"format", "version", "name", "units", "machine", "placement", "bodies", "planes", "holes", "mends", "tools", "route", "program", "note"});
    job.name = v.text("name", "New job", 200);
    job.units = v.choice("units", {"mm", "in"}, 0) == 1 ? LengthUnit::Inch : LengthUnit::Millimetre;
    job.machine = v.text("machine", "");
    if (v.has("placement")) {
        const JsonView p = v.object("placement");
        p.allow({"seat", "turn", "zero"});
        const auto s = p.triple("seat", {0, 0, 0}, 1e4);
        job.seat = Vec3(s[0], s[1], s[2]);
        job.seatTurnDegrees = p.number("turn", -360.0, 360.0, 0.0);
        const auto z = p.triple("zero", {0, 0, 0}, 1e4);
        job.zero = Vec3(z[0], z[1], z[2]);
    }
    if (v.has("program")) job.program = programWordsFromJson(v.object("program"));
    int parts = 0;
    for (const JsonView& b : v.list("bodies", 500)) {
        JobBody body = bodyFromJson(b);
        if (body.role == "part" && ++parts > 1) b.complain("there can be one part only");
        job.bodies.push_back(std::move(body));
    }
    for (const JsonView& p : v.list("planes", 1000)) job.planes.push_back(planeFromJson(p));
    for (const JsonView& h : v.list("holes", 10000)) {
        h.allow({"mouth", "turned", "leftOut"});
        job.holes.push_back({vectorOf(h, "mouth"), h.flag("turned", false), h.flag("leftOut", false)});
    }
    for (const JsonView& m : v.list("mends", 2000)) {
        Mend mend = mendFromJson(m);
        for (const Mend& other : job.mends)
            if (other.name == mend.name) m.complain(fmt::format("the mend '{}' is there twice", mend.name));
        job.mends.push_back(std::move(mend));
    }
    for (const JsonView& t : v.list("tools", 1000)) {
        Assembly a = assemblyFromJson(t);
        if (job.tool(a.id)) t.complain(fmt::format("the tool '{}' is there twice", a.id));
        job.tools.push_back(std::move(a));
    }
    for (const JsonView& o : v.list("route", 1000)) {
        Recipe r = recipeFromJson(o);
        if (job.operation(r.id)) o.complain(fmt::format("the operation '{}' is there twice", r.id));
        const Recipe* parent = r.parent.empty() ? nullptr : job.operation(r.parent);
        if (r.kind == OperationKind::HoleStep && (!parent || parent->kind != OperationKind::Holes)) o.complain("'parent' names no operation on holes above this step");
        if (r.kind != OperationKind::HoleStep && !r.parent.empty()) o.complain("only a step in holes has a parent");
        job.route.push_back(std::move(r));
    }
    if (error) return tl::unexpected(*error);
    return job;
}

std::string jobToJson(const Job& job) {
    OrderedJson out = {
        {"format", "gyre-job"},
        {"version", kJobVersion},
        {"name", job.name},
        {"units", unitSuffix(job.units)},
        {"machine", job.machine},
        {"placement", {{"seat", {job.seat.x(), job.seat.y(), job.seat.z()}}, {"turn", job.seatTurnDegrees}, {"zero", {job.zero.x(), job.zero.y(), job.zero.z()}}}},
        {"bodies", OrderedJson::array()},
        {"tools", OrderedJson::array()},
        {"route", OrderedJson::array()}};
    if (const OrderedJson words = programWordsToJson(job.program); !words.empty()) out["program"] = words;
    for (const auto& b : job.bodies) {
        OrderedJson body = {{"name", b.name}, {"role", b.role}};
        if (b.shape)
            body["shape"] = stockToJson(*b.shape);
        else
            body["file"] = b.file;
        if (b.unit == LengthUnit::Inch) body["unit"] = "in";
        if (!b.plane.empty()) body["plane"] = b.plane;
        if (b.flat) body["flat"] = true;
        if (!b.only.empty()) body["only"] = b.only;
        out["bodies"].push_back(std::move(body));
    }
    for (const auto& p : job.planes) out["planes"].push_back({{"name", p.name}, {"origin", listOf(p.origin)}, {"normal", listOf(p.normal)}, {"x", listOf(p.x)}});
    for (const auto& h : job.holes) out["holes"].push_back({{"mouth", listOf(h.mouth)}, {"turned", h.turned}, {"leftOut", h.leftOut}});
    for (const auto& m : job.mends) out["mends"].push_back(mendToJson(m));
    for (const auto& t : job.tools) out["tools"].push_back(assemblyToJson(t));
    for (const auto& r : job.route) out["route"].push_back(recipeToJson(r));
    return textOf(out, 1) + "\n";
}

Result<Job> openJob(const std::filesystem::path& file) {
    auto text = readFile(file, kLargestJob);
    if (!text) return tl::unexpected(text.error());
    return jobFromJson(*text, file.filename().string());
}

Status saveJob(const Job& job, const std::filesystem::path& file) {
    const std::string text = jobToJson(job);
    // What cannot be read again must not replace what can.
    if (auto again = jobFromJson(text, file.filename().string()); !again) return tl::unexpected(again.error());
    return writeFileAtomic(file, text, true);
}

Job movedTo(Job job, const std::filesystem::path& from, const std::filesystem::path& to) {
    namespace fs = std::filesystem;
    std::error_code ec;
    const fs::path was = fs::absolute(from.empty() ? "." : from, ec).lexically_normal(), is = fs::absolute(to.empty() ? "." : to, ec).lexically_normal();
    if (fs::equivalent(was, is, ec) || was == is) return job;
    const auto renamed = [&](std::string& file) {
        if (file.empty() || fs::path(file).is_absolute()) return;
        file = (was / file).lexically_normal().lexically_proximate(is).generic_string();
    };
    renamed(job.machine);
    for (JobBody& b : job.bodies) renamed(b.file);
    return job;
}

namespace {

// "axis.lead" → /axis/lead; lists have numbers: "axis.window.0".
OrderedJson::json_pointer pointerOf(const std::string& key) {
    std::string p;
    std::size_t from = 0;
    while (from <= key.size()) {
        const auto dot = key.find('.', from);
        p.append("/").append(key, from, dot == std::string::npos ? dot : dot - from);
        if (dot == std::string::npos) break;
        from = dot + 1;
    }
    return OrderedJson::json_pointer(p);
}

} // namespace

Status setWord(Job& job, const std::string& operation, const std::string& key, const std::string& value) {
    Recipe* recipe = job.operation(operation);
    if (!recipe) return fail("there is no such operation", operation);
    const bool ofTool = key.rfind("tool.", 0) == 0;
    Assembly* tool = ofTool ? job.tool(recipe->tool) : nullptr;
    if (ofTool && !tool) return fail("the operation has no tool", recipe->name, "Choose a tool first");
    const OrderedJson before = ofTool ? assemblyToJson(*tool) : recipeToJson(*recipe);
    try {
        OrderedJson changed = before;
        const OrderedJson parsed = OrderedJson::parse(value, nullptr, false);
        const std::string path = ofTool ? key.substr(5) : key;
        changed[pointerOf(path)] = parsed.is_discarded() ? OrderedJson(value) : parsed;
        std::optional<Error> error;
        const Json plain = Json::parse(changed.dump());
        const JsonView view(plain, "", error);
        if (ofTool) {
            const Assembly a = assemblyFromJson(view);
            if (!error) *tool = a;
        } else {
            const Recipe r = recipeFromJson(view);
            if (!error) *recipe = r;
        }
        if (error) return tl::unexpected(*error);
    } catch (const Json::exception& e) {
        return fail(fmt::format("'{}' cannot be set to '{}'", key, value));
    }
    return {};
}

std::string wordOf(const Job& job, const std::string& operation, const std::string& key) {
    const Recipe* recipe = job.operation(operation);
    if (!recipe) return {};
    const bool ofTool = key.rfind("tool.", 0) == 0;
    const Assembly* tool = ofTool ? job.tool(recipe->tool) : nullptr;
    if (ofTool && !tool) return {};
    const OrderedJson j = ofTool ? assemblyToJson(*tool) : recipeToJson(*recipe);
    try {
        const OrderedJson& v = j.at(pointerOf(ofTool ? key.substr(5) : key));
        return v.is_string() ? v.get<std::string>() : v.dump();
    } catch (const OrderedJson::exception&) {
        return {};
    }
}

} // namespace gyre
