#include "job/Job.h"
#include "axis/AxisSpec.h"
#include "base/File.h"
#include "base/Hash.h"
#include "form/Form.h"
#include "holes/DrillSpec.h"
#include "mend/MendForm.h"
#include "milling/MillSpec.h"
#include "operation/RecipeForm.h"
#include "operation/Repeat.h"
#include "operation/SliceSpec.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "target/TargetSpec.h"
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
    for (const Mend& m : job.mends) under.add(mendForm().write(m).dump());
    for (const WorkPlane& p : job.planes) {
        under.add(p.name);
        for (const Vec3& v : {p.origin, p.normal, p.x}) addTo(under, v);
    }
    for (const JobBody& b : job.bodies)
        if (b.role == "drawing") under.add(b.name).add(b.file).add(b.plane).add(b.flat ? 1.0 : 0.0).add(b.meshUnit());
    return under;
}

/// Of the operations that rows begin at, or that cut what is left to them, with what those rest on. Those that do not stand before it say nothing.
Hash hashOfNeighbours(const Job& job, const Recipe& recipe) {
    Hash under;
    for (const Recipe& before : job.route) {
        if (before.id == recipe.id) break;
        const auto named = [&](const std::vector<std::string>& ids) { return std::find(ids.begin(), ids.end(), before.id) != ids.end(); };
        if (!before.active || !(named(recipe.pattern->beside) || named(recipe.where->notBy))) continue;
        under.add(keyTextOf(job.resolved(before)));
        if (const Assembly* t = job.tool(before.tool)) under.add(assemblyForm().write(*t).dump());
    }
    return under;
}

/// Of the stock and of all operations that cut before this one, with what those rest on.
Hash hashBefore(const Job& job, const std::string& id) {
    Hash under;
    for (const JobBody& b : job.bodies)
        if (b.role == "stock") under.add(b.shape ? stockForm().write(*b.shape).dump() : b.file);
    bool curves = false, planes = false, holes = false;
    for (const Recipe& before : job.route) {
        if (before.id == id) break;
        if (!before.active) continue;
        under.add(keyTextOf(before));
        if (const Assembly* t = job.tool(before.tool)) under.add(assemblyForm().write(*t).dump());
        curves = curves || !before.target->drawings.empty() || !before.axis->curve.empty() || !before.axis->last.curve.empty();
        planes = planes || before.kind == OperationKind::Mill || !before.repeat->planes.empty() || before.where->side != WhereSide::Both;
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

std::size_t takeMaterial(Job& job, const std::string& material) {
    job.material = material;
    std::size_t took = 0;
    for (Assembly& a : job.tools) took += useMaterial(a, material);
    return took;
}

std::vector<std::string> materialsOf(const Job& job) {
    std::vector<std::string> all;
    for (const Assembly& a : job.tools)
        for (const CuttingData& d : a.materials)
            if (std::find(all.begin(), all.end(), d.material) == all.end()) all.push_back(d.material);
    return all;
}

Frame JobBody::placed() const {
    const auto about = [&](int axis) { return Eigen::AngleAxisd(radians(turned[axis]), Vec3(Vec3::Unit(axis))); };
    Frame f = Frame::Identity();
    f.translate(moved).rotate(about(2)).rotate(about(1)).rotate(about(0));
    return f;
}

Frame Job::partFrame() const {
    Frame f = Frame::Identity();
    f.translation() = seat;
    f.linear() = rotation(Vec3::UnitZ(), radians(seatTurnDegrees));
    return f;
}

const Recipe* Job::operation(const std::string& id) const {
    const Recipe* own = findById(route, id);
    return own ? own : findById(route, wholeId(id));
}
Recipe* Job::operation(const std::string& id) {
    Recipe* own = findById(route, id);
    return own ? own : findById(route, wholeId(id));
}
Recipe Job::resolved(const Recipe& recipe) const {
    Recipe r = recipe;
    for (const WorkPlane& p : planes)
        if ((r.kind == OperationKind::Mill && p.name == r.mill->on) ||
            (r.kind == OperationKind::Surface && r.where->side != WhereSide::Both && p.name == r.where->plane) ||
            std::find(r.repeat->planes.begin(), r.repeat->planes.end(), p.name) != r.repeat->planes.end())
            r.planes.push_back(p);
    if (r.kind == OperationKind::Mill && r.mill->on.empty()) r.planes = planes; // directions that the user knows
    // What stands in the job and not in the recipe: curves of mends and drawings, planes, holes, a larger tool, and all that is cut before.
    const bool aimed = !r.axis->curve.empty() || !r.axis->last.curve.empty();
    if (!r.target->drawings.empty() || aimed) r.rests = hashOfCurves(*this).value() | 1u;
    if (const Assembly* larger = r.kind == OperationKind::Mill && r.mill->shape == MillShape::Body ? tool(r.mill->after) : nullptr)
        r.rests = Hash().add(r.rests).add(assemblyForm().write(*larger).dump()).value() | 1u;
    if (r.kind == OperationKind::Surface && (r.pattern->kind == PatternBy::Seam || !r.where->notBy.empty()))
        r.rests = Hash().add(r.rests).add(hashOfNeighbours(*this, r).value()).value() | 1u;
    if (restsOnStock(r))
        r.rests = Hash().add(r.rests).add(hashBefore(*this, recipe.id).value()).value() | 1u;
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
    r.drill->breakthrough = parent->drill->breakthrough;
    r.drill->above = parent->drill->above;
    r.drill->shortest = parent->drill->shortest;
    r.link = parent->link;
    r.guard = parent->guard;
    return r;
}

std::string Job::nameOf(const std::string& id) const {
    const Recipe* r = operation(id);
    if (!r) return id;
    return r->id == id ? r->name : fmt::format("{}, slice {}", r->name, id.substr(r->id.size() + 1));
}

int Job::slices(const Recipe& recipe) const {
    const Recipe* parent = recipe.parent.empty() ? nullptr : operation(recipe.parent);
    return parent && parent->kind == OperationKind::Slices && parent->active ? static_cast<int>(slicesOf(parent->slices).size()) : 0;
}

namespace {

// Slice by slice all that stands under it.
void addSlices(const Job& job, const Recipe& parent, std::vector<Recipe>& out) {
    std::vector<const Recipe*> under;
    Hash all; // what was cut in the slices before
    for (const Recipe& r : job.route)
        if (r.active && r.parent == parent.id) {
            under.push_back(&r);
            all.add(keyTextOf(r));
            if (const Assembly* t = job.tool(r.tool)) all.add(assemblyForm().write(*t).dump());
        }
    for (const Slice& slice : slicesOf(parent.slices))
        for (const Recipe* r : under) {
            Recipe one = job.resolved(*r);
            one.id = sliceId(r->id, slice.number + 1);
            one.name = job.nameOf(one.id);
            one.slice = slice;
            one.upward = parent.slices->from < parent.slices->to;
            if (slice.number > 0)
                for (std::uint64_t* rests : {&one.rests, &one.before})
                    if (*rests != 0) *rests = Hash().add(*rests).add(all.value()).add(recipeForm().write(parent).dump()).value() | 1u;
            out.push_back(std::move(one));
        }
}

} // namespace

std::vector<Recipe> Job::worked() const {
    std::vector<Recipe> out;
    for (const Recipe& r : route) {
        const Recipe* parent = r.parent.empty() ? nullptr : operation(r.parent);
        if (r.active && r.kind == OperationKind::Slices) addSlices(*this, r, out);
        const bool sliced = parent && parent->kind == OperationKind::Slices; // with it
        if (r.active && !carries(r.kind) && !sliced && (!parent || parent->active)) out.push_back(resolved(r));
    }
    return out;
}

std::optional<Recipe> Job::worked(const std::string& id) const {
    const Recipe* r = operation(id);
    if (!r) return std::nullopt;
    if (slices(*r) == 0) return resolved(*r);
    for (Recipe& one : worked())
        if (one.id == id) return std::move(one);
    return std::nullopt;
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
    if (job.program.dialect.ends_with(".json")) renamed(job.program.dialect); // others are words
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

// What is wrong with a value, in the word's own terms: who types it does not know where it stands in a file.
Error wrongValue(const WordInfo& word, const std::string& value, const Error& told, LengthUnit units) {
    const std::string name = word.what.substr(0, word.what.find_first_of(",;:("));
    const bool length = word.kind == WordKind::Length, number = length || word.kind == WordKind::Angle || word.kind == WordKind::Number || word.kind == WordKind::Count;
    if (!number) return {told.what, name, told.remedy, false};
    const OrderedJson parsed = OrderedJson::parse(value, nullptr, false);
    if (!parsed.is_number()) return {"a number is expected", name, {}, false};
    const double v = parsed.get<double>();
    if (v >= word.low && v <= word.high) return {told.what, name, told.remedy, false};
    const double unit = length && units == LengthUnit::Inch ? 25.4 : 1.0;
    const char* suffix = length ? units == LengthUnit::Inch ? " inch" : " mm" : word.kind == WordKind::Angle ? "°" : "";
    return {fmt::format("must be between {:.5g} and {:.5g}{}", word.low / unit, word.high / unit, suffix), name, {}, false};
}

} // namespace

Status setWord(Job& job, const std::string& operation, const std::string& key, const std::string& value) {
    Recipe* recipe = job.operation(operation);
    if (!recipe) return fail("there is no such operation", operation);
    const bool ofTool = key.rfind("tool.", 0) == 0;
    Assembly* tool = ofTool ? job.tool(recipe->tool) : nullptr;
    if (ofTool && !tool) return fail("the operation has no tool", recipe->name, "Choose a tool first");
    const OrderedJson before = ofTool ? assemblyForm().write(*tool) : recipeForm().write(*recipe);
    try {
        OrderedJson changed = before;
        const OrderedJson parsed = OrderedJson::parse(value, nullptr, false);
        const std::string path = ofTool ? key.substr(5) : key;
        // One number of three that are written only when they are not all zero.
        const WordInfo* meant = wordAt(ofTool ? toolWords() : recipeWords(recipe->kind), path);
        const std::string whole = path.substr(0, path.rfind('.'));
        if (meant && (meant->kind == WordKind::Vector || meant->kind == WordKind::Place) && !changed.contains(pointerOf(whole)))
            changed[pointerOf(whole)] = OrderedJson::array({0.0, 0.0, 0.0});
        changed[pointerOf(path)] = parsed.is_discarded() ? OrderedJson(value) : parsed;
        std::optional<Error> error;
        const Json plain = Json::parse(changed.dump());
        const JsonView view(plain, "", error);
        if (ofTool) {
            const Assembly a = assemblyForm().read(view);
            if (!error) *tool = a;
        } else {
            const Recipe r = recipeForm().read(view);
            if (!error) *recipe = r;
        }
        if (error) {
            const WordInfo* word = wordAt(ofTool ? toolWords() : recipeWords(recipe->kind), path);
            return tl::unexpected(word ? wrongValue(*word, value, *error, job.units) : *error);
        }
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
    const OrderedJson j = ofTool ? assemblyForm().write(*tool) : recipeForm().write(*recipe);
    const std::string path = ofTool ? key.substr(5) : key;
    const auto text = [](const OrderedJson& v) { return v.is_string() ? v.get<std::string>() : v.dump(); };
    try {
        return text(j.at(pointerOf(path)));
    } catch (const OrderedJson::exception&) {
        // Some are written only when they differ from what they are without.
        const WordInfo* word = wordAt(ofTool ? toolWords() : recipeWords(recipe->kind), path);
        if (word && (word->kind == WordKind::Vector || word->kind == WordKind::Place)) return "0.0";
        return word && word->initial.is_primitive() && !word->initial.is_null() ? text(word->initial) : std::string();
    }
}

} // namespace gyre
