// Rows between rails over picked faces.
#include "axis/AxisForm.h"
#include "base/Parallel.h"
#include "form/Form.h"
#include "kinds/Kinds.h"
#include "operation/Meant.h"
#include "pattern/PatternForm.h"
#include "pattern/PatternKinds.h"
#include "pattern/WhereForm.h"
#include "target/TargetForm.h"
#include "touch/TouchForm.h"
#include <fmt/format.h>

namespace gyre {
namespace {

std::vector<Pass> passesOf(const PatternResult& pattern, const AxisResult& axis, const Cutter& cutter, double leave) {
    std::vector<Pass> passes(pattern.rows.size());
    parallelFor(passes.size(), 1, [&](std::size_t r) {
        const Row& row = pattern.rows[r];
        Pass& pass = passes[r];
        pass.row = pass.origin.row = row.index;
        pass.closed = row.closed;
        const std::size_t n = row.points.size(), count = n + (row.closed ? 1 : 0);
        pass.path.reserve(count);
        for (std::size_t k = 0; k < count; ++k) {
            const std::size_t i = k % n;
            const Vec3 contact = row.points[i] + leave * row.normals[i];
            const Vec3& a = axis.axes[r][i];
            pass.path.push(tipFromContact(cutter, contact, row.normals[i], a).tip, a, contact, row.normals[i], Motion::Cut, row.index, 0.0, row.faces[i]);
            pass.feedDirection.push_back(axis.feeds[r][i]);
        }
    });
    return passes;
}

constexpr double kChord = 0.001; // mm, of curves as lines

/// Picked edges in chains, and a drawing or the curves of a mend.
Result<std::vector<Curve>> pickedCurves(const Workplace& place, const std::vector<ShapeRef>& edges, const std::string& name) {
    auto numbers = resolveEdges(*place.part, edges);
    if (!numbers) return tl::unexpected(numbers.error());
    auto curves = curvesOf(*place.part, *numbers);
    if (!curves) return tl::unexpected(curves.error());
    if (name.empty()) return curves;
    const auto named = curvesNamed(place, name);
    if (!named) return tl::unexpected(named.error());
    if (named->flat) return fail("the drawing '" + name + "' lies flat on a sheet", {}, "Put it on a plane in Set up first");
    curves->insert(curves->end(), named->curves.begin(), named->curves.end());
    return curves;
}

/// The closed curves that rows are kept inside or outside of.
Result<std::vector<Polyline>> boundingLoops(const Workplace& place, const WhereSpec& where) {
    std::vector<Polyline> out;
    if (where.by == WhereCurves::Anywhere) return out;
    const auto curves = pickedCurves(place, where.edges, where.curve);
    if (!curves) return tl::unexpected(curves.error());
    if (curves->empty()) return fail("no curve bounds where rows are kept", {}, "Pick the edges of a loop, or choose a drawing");
    constexpr double kGap = 0.05; // mm
    for (const Curve& c : *curves) {
        const double open = (c.end() - c.start()).norm();
        if (!c.closed() && open > kGap)
            return fail(fmt::format("a curve that bounds where rows are kept is open by {:.2f} mm", open), {}, "Close it, or pick the edges that close it");
        out.push_back(c.polyline(kChord));
    }
    return out;
}

/// Strokes, or the curves that are rows themselves.
Result<std::vector<Polyline>> followedCurves(const Workplace& place, const PatternSpec& pattern) {
    std::vector<Polyline> out;
    const bool strokes = pattern.kind == PatternBy::Strokes;
    if (!strokes && pattern.kind != PatternBy::Curves) return out;
    const auto curves = pickedCurves(place, pattern.guides, pattern.curve);
    if (!curves) return tl::unexpected(curves.error());
    if (curves->empty())
        return fail(strokes ? "no stroke is drawn" : "no curve is chosen", {},
                    strokes ? "Draw a curve on the part and choose it, or pick edges" : "Choose a drawing or a curve of a mend, or pick edges");
    for (const Curve& c : *curves) out.push_back(c.polyline(kChord));
    return out;
}

Result<PatternResult> rowsOver(const Workplace& place, const std::vector<int>& faces, const Recipe& recipe, double radius, Progress& progress) {
    const auto loops = boundingLoops(place, recipe.where);
    if (!loops) return tl::unexpected(loops.error());
    auto followed = followedCurves(place, recipe.pattern);
    if (!followed) return tl::unexpected(followed.error());
    const WhereKept where(recipe.where, *loops);
    return layRows(*place.part, faces, recipe.pattern, radius, progress, {recipe.where.any() ? &where : nullptr, std::move(*followed)});
}

std::string onPart(double mm) { return fmt::format("{:.2f} mm {} the faces", std::abs(mm), mm < 0.0 ? "under" : "over"); }

void tellTouched(Stages& s, const TouchResult& touched) {
    const double reach = s.recipe.touch.reach;
    Finding f;
    f.stage = stageName(Stage::Axis);
    if (!touched.passes.empty()) {
        f.code = "rests-on-part";
        f.text = fmt::format("The cutter rests on the part, from {} to {}", onPart(touched.lowest), onPart(touched.highest));
        f.reason = "Rows and axis come of the faces; along them the cutter is let down on the part itself";
        f.amount = std::max(-touched.lowest, touched.highest);
        s.add({f});
    }
    if (touched.stretches == 0) return;
    f.rank = touched.passes.empty() ? Rank::Stop : Rank::Look;
    f.code = "part-not-in-reach";
    f.text = fmt::format("The part is not within {:g} mm of the faces in {} stretch{}, {:.1f} mm of rows in all; these are left out", reach, touched.stretches,
                         touched.stretches == 1 ? "" : "es", touched.left);
    f.reason = "The cutter would have to move further than it may to rest on the part, or there is none";
    f.amount = touched.left;
    f.place = std::array<double, 3>{touched.leftAt.x(), touched.leftAt.y(), touched.leftAt.z()};
    constexpr double kMostReach = 1000.0; // as the word has it
    if (2.0 * reach <= kMostReach) f.remedies = {{fmt::format("Look for the part within {:g} mm", 2.0 * reach), "touch.reach", fmt::format("{:g}", 2.0 * reach)}};
    s.add({f});
}

/// The passes over the faces become passes over the part.
bool touch(Stages& s) {
    s.key = Hash().add(s.key).add("Touch").add(touchForm().write(s.recipe.touch).dump()).add(s.recipe.pattern.chordTolerance).value();
    const auto body = s.place.part->body() ? s.place.part->body() : s.place.part;
    const auto guiding = s.out.passes;
    std::shared_ptr<const TouchResult> touched;
    if (!s.take(Stage::Axis, s.key, touched,
                [&] { return touchPart(*body, s.out.tool.cutter, *guiding, s.recipe.touch, s.recipe.target.leave, s.recipe.pattern.chordTolerance, s.progress); })) {
        s.out.passes = nullptr;
        return false;
    }
    tellTouched(s, *touched);
    s.out.passes = std::shared_ptr<const std::vector<Pass>>(touched, &touched->passes);
    return !touched->passes.empty();
}

bool lay(Stages& s) {
    if (!s.pickFaces()) return false;
    const double radius = contactRadius(s.out.tool.cutter);
    // The stock to leave is a word of the target, but rows do not rest on it: it only shifts the contacts.
    s.key = Hash()
                .add(s.under)
                .add(targetForm().write(s.recipe.target)["faces"].dump())
                .add("Pattern")
                .add(patternForm().write(s.recipe.pattern).dump())
                .add(whereForm().write(s.recipe.where).dump())
                .add(radius)
                .value();
    {
        const Progress::Span span(s.progress, 0.0, 0.3);
        if (!s.take(Stage::Pattern, s.key, s.out.pattern, [&] { return rowsOver(s.place, s.out.faces, s.recipe, radius, s.progress); })) return false;
    }
    s.add(s.out.pattern->findings);
    s.key = Hash().add(s.key).add("Axis").add(axisForm().write(s.recipe.axis).dump()).add(s.tool).add(s.recipe.rests).value();
    const auto aimed = [&]() -> Result<AxisResult> {
        const auto help = axisHelp(s.place, s.recipe, s.out.tool);
        if (!help) return tl::unexpected(help.error());
        return setAxes(s.out.pattern->rows, s.recipe.axis, s.out.tool.cutter, *help);
    };
    if (!s.take(Stage::Axis, s.key, s.out.axis, aimed)) return false;
    s.add(s.out.axis->findings);
    s.key = Hash().add(s.key).add(s.recipe.target.leave).value();
    const auto laid = [&]() -> Result<std::vector<Pass>> { return passesOf(*s.out.pattern, *s.out.axis, s.out.tool.cutter, s.recipe.target.leave); };
    return s.take(Stage::Axis, s.key, s.out.passes, laid) && (!s.recipe.touch.any() || touch(s));
}

// What it touches stays, whatever the axis.
Freedom freedom(const Recipe&, const Assembly& tool) {
    Freedom out;
    out.turned = [cutter = tool.cutter](const Pass& pass, std::size_t i, const Vec3& axis) {
        return AxisPose{tipFromContact(cutter, pass.path.contact[i], pass.path.normal[i], axis).tip, axis};
    };
    return out;
}

// Faces that no two rails bound can be cut by planes all the same.
void curePattern(const Recipe& r, std::vector<Finding>& findings) {
    const bool outOfPlace = r.pattern.order == RowOrder::Spiral && (r.pattern.start == RowStart::Middle || r.pattern.start == RowStart::Outside);
    for (Finding& f : findings)
        if (outOfPlace && f.code == "nothing-generated" && f.stage == stageName(Stage::Pattern)) f.remedies.push_back({"Start at one end", "pattern.from", "rail1"});
    if (outOfPlace) return;
    if (!kindOf(r.pattern.kind).rails) return;
    for (Finding& f : findings)
        if (f.code == "nothing-generated" && f.stage == stageName(Stage::Pattern)) f.remedies.push_back({"Rows in parallel planes", "pattern.kind", "planes"});
}

} // namespace

Result<PatternResult> bareRows(const Workplace& place, const Recipe& recipe, double contactRadius, Progress& progress) {
    const auto faces = resolveFaces(*place.part, recipe.target.faces);
    if (!faces) return tl::unexpected(faces.error());
    return rowsOver(place, *faces, recipe, contactRadius, progress);
}

const Definition& surfaceDefinition() {
    static const Definition definition{.kind = OperationKind::Surface, .lay = lay, .facts = nullptr, .locks = true, .freedom = freedom, .cure = curePattern};
    return definition;
}

} // namespace gyre
