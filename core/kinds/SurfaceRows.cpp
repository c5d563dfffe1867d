// Rows between rails over picked faces.
#include "axis/AxisForm.h"
#include "axis/AxisSpec.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "form/Form.h"
#include "guard/GuardForm.h"
#include "kinds/Kinds.h"
#include "kinds/RowsReached.h"
#include "operation/Meant.h"
#include "operation/StageCache.h"
#include "pattern/Beside.h"
#include "pattern/PatternForm.h"
#include "pattern/PatternKinds.h"
#include "pattern/Where.h"
#include "pattern/WhereForm.h"
#include "target/Target.h"
#include "target/TargetForm.h"
#include "target/TargetSpec.h"
#include "touch/Touch.h"
#include "touch/TouchForm.h"
#include "touch/TouchSpec.h"
#include <fmt/format.h>
#include <map>

namespace gyre {
namespace {

/// A layer: what it leaves on the faces, and how far it stands off along an axis.
struct Layer {
    int number = -1; ///< from the outermost; −1: there is one only
    double leave = 0.0;
    Vec3 shift = Vec3::Zero();
};

std::vector<Layer> layersOf(const PatternSpec& spec, double leave) {
    std::vector<Layer> out;
    for (int k = 0; k < std::max(1, spec.layers); ++k) {
        const double off = spec.layer * (std::max(1, spec.layers) - 1 - k);
        out.push_back(
            {spec.layers > 1 ? k : -1, spec.layersAlong < 0 ? leave + off : leave, spec.layersAlong < 0 ? Vec3::Zero() : Vec3(off * Vec3::Unit(spec.layersAlong))});
    }
    return out;
}

// Layer by layer, or what belongs to a row in all of its layers.
std::vector<Pass> inOrder(std::vector<std::vector<Pass>> layers, bool everyLayer) {
    std::vector<Pass> out;
    if (!everyLayer || layers.size() < 2) {
        for (auto& layer : layers) std::move(layer.begin(), layer.end(), std::back_inserter(out));
        return out;
    }
    // One layer may be without a row, or have it in more pieces.
    std::vector<int> rows;
    std::map<int, std::vector<Pass*>> of;
    for (auto& layer : layers)
        for (Pass& pass : layer) {
            if (of[pass.origin.row].empty()) rows.push_back(pass.origin.row);
            of[pass.origin.row].push_back(&pass);
        }
    for (const int row : rows)
        for (Pass* pass : of[row]) out.push_back(std::move(*pass));
    return out;
}

/// Of a layer's rows, so that none of two layers have the same.
int firstNumber(const PatternResult& pattern, const Layer& layer) {
    int last = 0;
    for (const Row& row : pattern.rows) last = std::max(last, row.index);
    return std::max(0, layer.number) * (last + 1);
}

std::vector<Pass> passesOf(const PatternResult& pattern, const AxisResult& axis, const Cutter& cutter, const Layer& layer) {
    std::vector<Pass> passes(pattern.rows.size());
    const int first = firstNumber(pattern, layer);
    parallelFor(passes.size(), 1, [&](std::size_t r) {
        const Row& row = pattern.rows[r];
        Pass& pass = passes[r];
        pass.origin.row = row.index;
        pass.row = first + row.index;
        pass.origin.layer = layer.number;
        pass.closed = row.closed;
        const std::size_t n = row.points.size(), count = n + (row.closed ? 1 : 0);
        pass.path.reserve(count);
        for (std::size_t k = 0; k < count; ++k) {
            const std::size_t i = k % n;
            const Vec3 contact = row.points[i] + layer.leave * row.normals[i] + layer.shift;
            const Vec3& a = axis.axes[r][i];
            pass.path.push(tipFromContact(cutter, contact, row.normals[i], a).tip, a, contact, row.normals[i], Motion::Cut, pass.row, 0.0, row.faces[i]);
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
    if (curves->empty() && where.faces.empty()) return fail("no curve bounds where rows are kept", {}, "Pick the edges of a loop, or choose a drawing");
    constexpr double kGap = 0.05; // mm
    for (const Curve& c : *curves) {
        const double open = (c.end() - c.start()).norm();
        if (!c.closed() && open > kGap)
            return fail(fmt::format("a curve that bounds where rows are kept is open by {:.2f} mm", open), {}, "Close it, or pick the edges that close it");
        out.push_back(c.polyline(kChord));
    }
    return out;
}

/// Faces over or under which rows are kept, or not.
Result<std::vector<const TriangleMesh*>> coveringFaces(const Workplace& place, const WhereSpec& where) {
    std::vector<const TriangleMesh*> out;
    if (where.by == WhereCurves::Anywhere) return out;
    const auto faces = resolveFaces(*place.part, where.faces);
    if (!faces) return tl::unexpected(faces.error());
    for (const int f : *faces) out.push_back(&place.part->faceMesh(f));
    return out;
}

/// The work plane on one side of which rows are kept; any where none is asked for.
Result<WorkPlane> boundingPlane(const Recipe& recipe) {
    if (recipe.where->side == WhereSide::Both) return WorkPlane{};
    const std::string& name = recipe.where->plane;
    const auto it = std::find_if(recipe.planes.begin(), recipe.planes.end(), [&](const WorkPlane& p) { return p.name == name; });
    if (it != recipe.planes.end()) return *it;
    return fail(name.empty() ? "no plane is chosen that bounds where rows are kept" : "there is no plane '" + name + "' any more", {},
                "Choose a plane, or name one in Set up");
}

/// Strokes, the curves that are rows themselves, or those that are rails.
Result<std::vector<Polyline>> followedCurves(const Workplace& place, const PatternSpec& pattern) {
    std::vector<Polyline> out;
    const bool strokes = pattern.kind == PatternBy::Strokes, rails = kindOf(pattern.kind).rails > 0;
    if (!strokes && !rails && pattern.kind != PatternBy::Curves) return out;
    const auto curves = pickedCurves(place, rails ? std::vector<ShapeRef>{} : pattern.guides, pattern.curve);
    if (!curves) return tl::unexpected(curves.error());
    if (curves->empty() && !rails)
        return fail(strokes ? "no stroke is drawn" : "no curve is chosen", {},
                    strokes ? "Draw a curve on the part and choose it, or pick edges" : "Choose a drawing or a curve of a mend, or pick edges");
    for (const Curve& c : *curves) out.push_back(c.polyline(kChord));
    return out;
}

/// What a cutter leaves between rows, in the posture that lead and tilt give it. Where the axis comes of something else only a round corner or a ball
/// leaves something that can be told: no more than these. Nothing for any other.
std::optional<Scallop> scallopOf(const Cutter& cutter, const AxisSpec& axis) {
    const bool alike = axis.rule == AxisRule::Surface && !axis.blended && axis.keys.empty() && axis.offFaces == 0.0 && !axis.limited && axis.locked.empty();
    if (alike) return Scallop(cutter, axisFromLeadTilt(Vec3::UnitZ(), Vec3::UnitX(), radians(axis.leadDegrees), radians(axis.tiltDegrees)));
    const double radius = contactRadius(cutter);
    return radius > 0.0 ? std::optional<Scallop>(radius) : std::nullopt;
}

RowCutter rowCutter(const Cutter& cutter, const AxisSpec& axis) {
    RowCutter out(contactRadius(cutter));
    out.scallop = scallopOf(cutter, axis);
    return out;
}

/// Stock stands where there is material that far over a face, or over it within a cell beside: what rays between cells would miss is cut, not left.
AtPlace standing(const Stock& stock, double over) {
    return [&stock, over](const Vec3& point, const Vec3& normal) {
        constexpr int kAround = 8;
        const Vec3 at = point + over * normal, u = anyPerpendicular(normal), v = normal.cross(u);
        if (stock.inside(at)) return true;
        for (int k = 0; k < kAround; ++k) {
            const double turn = 2.0 * kPi * k / kAround;
            if (stock.inside(at + stock.cell() * (std::cos(turn) * u + std::sin(turn) * v))) return true;
        }
        return false;
    };
}

Finding inCells(double known, double asked) {
    Finding f;
    f.rank = Rank::Look;
    f.code = "stock-in-cells";
    f.stage = stageName(Stage::Pattern);
    f.amount = known;
    f.text = fmt::format("What stands of the stock is known to {:.2f} mm; {:.2f} was asked for", known, asked);
    f.reason = "It lies in cells of twice that; rows are kept where at least as much stands";
    f.remedies = {{fmt::format("Ask for {:.2f} mm", std::ceil(100.0 * known) / 100.0), "where.stock", fmt::format("{:.2f}", std::ceil(100.0 * known) / 100.0)}};
    return f;
}

/// The rows that these begin at; nothing where the pattern has none.
Result<std::shared_ptr<const RowsBeside>> rowsBeside(const Recipe& recipe, const Before& before) {
    if (recipe.pattern->kind != PatternBy::Seam) return std::shared_ptr<const RowsBeside>();
    std::vector<NeighbourRows> all;
    for (const std::string& id : recipe.pattern->beside) {
        const auto result = before.result ? before.result(id) : nullptr;
        if (!result)
            return fail("operation '" + id + "', whose rows these begin at, has no path, or does not stand before this one", {},
                        "Choose another one, or move it up in the route");
        if (!result->pattern || !result->axis || result->kind != OperationKind::Surface)
            return fail("operation “" + result->name + "” has no rows over faces that these could begin at", {}, "Choose one that has");
        all.push_back({result->name, result->pattern->rows, result->axis->axes, result->pattern->spacing});
    }
    if (all.empty()) return fail("no operation is chosen whose rows these begin at", {}, "Choose one that stands before this one");
    return std::make_shared<const RowsBeside>(std::move(all));
}

Finding seamOf(const SeamMeasure& seam, const RowsBeside& beside, double spacing) {
    Finding f;
    const double theirs = beside.spacing();
    const bool wide = seam.places == 0 || seam.gap > 1.02 * std::max(spacing, theirs), other = std::abs(theirs - spacing) > 0.02 * theirs;
    f.rank = wide || other ? Rank::Look : Rank::Note;
    f.code = "seam-met";
    f.stage = stageName(Stage::Axis);
    f.amount = seam.gap;
    f.place = std::array<double, 3>{seam.at.x(), seam.at.y(), seam.at.z()};
    f.text = seam.places == 0
                 ? fmt::format("No row lies beside those of {}", beside.names())
                 : fmt::format("The first row lies {:.3f} mm from the rows of {} at most, {:.1f}° off their direction; the axis turns by {:.1f}° from one to the other",
                               seam.gap, beside.names(), degrees(seam.apart), degrees(seam.turn));
    f.reason = other  ? fmt::format("Rows there are {:.3f} mm apart, these {:.3f}", theirs, spacing)
               : wide ? "Rows there run away from the border of these faces, or end there"
                      : "";
    if (other) f.remedies.push_back({fmt::format("Lay these {:.3f} mm apart too", theirs), "pattern.spacing", fmt::format("{:.6g}", theirs)});
    return f;
}

Result<PatternResult> rowsOver(const Workplace& place, const std::vector<int>& faces, const Recipe& recipe, const Cutter& cutter, const Before& before,
                               const RowsBeside* beside, Progress& progress) {
    auto loops = boundingLoops(place, recipe.where);
    if (!loops) return tl::unexpected(loops.error());
    auto followed = followedCurves(place, recipe.pattern);
    if (!followed) return tl::unexpected(followed.error());
    auto covering = coveringFaces(place, recipe.where);
    if (!covering) return tl::unexpected(covering.error());
    const auto plane = boundingPlane(recipe);
    if (!plane) return tl::unexpected(plane.error());
    std::shared_ptr<const Stock> stock;
    double known = 0.0;
    if (recipe.where->byStock) {
        if (!before.stock) return fail("there is no stock that could stand on the faces", {}, "Add stock in Set up");
        progress.report(0.0, "Working out what is left of the stock");
        auto made = before.stock(progress);
        if (!made) return tl::unexpected(made.error());
        stock = std::move(*made);
        known = 0.5 * stock->cell();
    }
    const double over = std::max(recipe.where->stock, known) + recipe.target->leave;
    auto reached = recipe.where->byReach ? reachedBy(place, recipe) : Result<AtPlace>(AtPlace());
    if (!reached) return tl::unexpected(reached.error());
    auto cut = recipe.where->notBy.empty() ? Result<AtPlace>(AtPlace()) : cutBy(recipe.where->notBy, before, recipe.target->leave);
    if (!cut) return tl::unexpected(cut.error());
    const WhereKept where(recipe.where, {.loops = std::move(*loops),
                                         .faces = std::move(*covering),
                                         .stands = stock ? standing(*stock, over) : AtPlace(),
                                         .reached = std::move(*reached),
                                         .cut = std::move(*cut),
                                         .planeAt = plane->origin,
                                         .planeNormal = plane->normal});
    auto rows =
        layRows(*place.part, faces, recipe.pattern, rowCutter(cutter, recipe.axis), progress, {recipe.where->any() ? &where : nullptr, std::move(*followed), beside});
    if (rows && stock && recipe.where->stock < known) rows->findings.push_back(inCells(known, recipe.where->stock));
    return rows;
}

std::string onPart(double mm) { return fmt::format("{:.2f} mm {} the faces", std::abs(mm), mm < 0.0 ? "under" : "over"); }

void tellTouched(Stages& s, const TouchResult& touched) {
    const double reach = s.recipe.touch->reach;
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

Result<TouchResult> touchInLayers(Stages& s, const Part& body, const std::vector<Pass>& guiding) {
    TouchResult out;
    std::vector<std::vector<Pass>> layers;
    const std::vector<Layer> all = layersOf(s.recipe.pattern, s.recipe.target->leave);
    for (std::size_t k = 0; k < all.size(); ++k) {
        const Progress::Span span(s.progress, static_cast<double>(k) / static_cast<double>(all.size()), static_cast<double>(k + 1) / static_cast<double>(all.size()));
        auto one = touchPart(body, s.out.tool.cutter, guiding, s.recipe.touch, all[k].leave, s.recipe.pattern->chordTolerance, s.progress);
        if (!one) return one;
        for (Pass& pass : one->passes) {
            pass.origin.layer = all[k].number;
            pass.row += firstNumber(*s.out.pattern, all[k]);
            std::fill(pass.path.row.begin(), pass.path.row.end(), pass.row);
            for (Vec3& p : pass.path.tip) p += all[k].shift;
            for (Vec3& p : pass.path.contact) p += all[k].shift;
        }
        layers.push_back(std::move(one->passes));
        out.lowest = k == 0 ? one->lowest : std::min(out.lowest, one->lowest);
        out.highest = k == 0 ? one->highest : std::max(out.highest, one->highest);
        out.left += one->left;
        if (out.stretches == 0) out.leftAt = one->leftAt;
        out.stretches += one->stretches;
    }
    out.passes = inOrder(std::move(layers), s.recipe.pattern->everyLayer);
    return out;
}

/// The passes over the faces become passes over the part.
bool touch(Stages& s) {
    s.key = Hash().add(s.key).add("Touch").add(touchForm().write(s.recipe.touch).dump()).add(s.recipe.pattern->chordTolerance).value();
    const auto body = s.place.part->body() ? s.place.part->body() : s.place.part;
    const auto guiding = s.out.passes;
    std::shared_ptr<const TouchResult> touched;
    if (!s.take(Stage::Axis, s.key, touched, [&] { return touchInLayers(s, *body, *guiding); })) {
        s.out.passes = nullptr;
        return false;
    }
    tellTouched(s, *touched);
    s.out.passes = std::shared_ptr<const std::vector<Pass>>(touched, &touched->passes);
    return !touched->passes.empty();
}

bool lay(Stages& s) {
    if (!s.pickFaces()) return false;
    // The stock to leave is a word of the target, but rows do not rest on it: it only shifts the contacts.
    s.key = Hash()
                .add(s.under)
                .add(targetForm().write(s.recipe.target)["faces"].dump())
                .add("Pattern")
                .add(patternForm().write(s.recipe.pattern).dump())
                .add(whereForm().write(s.recipe.where).dump())
                .add(contactRadius(s.out.tool.cutter))
                .value();
    if (s.recipe.where->side != WhereSide::Both) s.key = Hash().add(s.key).add(placesTextOf(s.recipe)).value();
    if (s.recipe.where->byStock) s.key = Hash().add(s.key).add(s.recipe.rests).add(s.recipe.target->leave).value();
    if (!s.recipe.where->notBy.empty()) s.key = Hash().add(s.key).add(s.recipe.rests).add(s.recipe.target->leave).value();
    if (s.recipe.where->byReach)
        s.key = Hash()
                    .add(s.key)
                    .add(s.tool)
                    .add(axisForm().write(s.recipe.axis).dump())
                    .add(guardForm().write(s.recipe.guard).dump())
                    .add(checksTextOf(s.recipe))
                    .add(s.recipe.target->leave)
                    .value();
    const auto beside = rowsBeside(s.recipe, s.before);
    if (!beside) {
        s.stop(Stage::Pattern, beside.error());
        return false;
    }
    if (*beside) s.key = Hash().add(s.key).add(s.recipe.rests).value();
    // How far apart they lie may rest on how the cutter stands.
    if (s.recipe.pattern->by == RowsBy::Scallop) s.key = Hash().add(s.key).add(s.tool).add(axisForm().write(s.recipe.axis).dump()).value();
    {
        const Progress::Span span(s.progress, 0.0, 0.3);
        const auto rows = [&] { return rowsOver(s.place, s.out.faces, s.recipe, s.out.tool.cutter, s.before, beside->get(), s.progress); };
        if (!s.take(Stage::Pattern, s.key, s.out.pattern, rows)) return false;
    }
    s.add(s.out.pattern->findings);
    if (const auto left = scallopOf(s.out.tool.cutter, s.recipe.axis); left && left->round()) s.out.scallop = scallopBetween(*s.out.pattern, *left);
    s.key = Hash().add(s.key).add("Axis").add(axisForm().write(s.recipe.axis).dump()).add(s.tool).add(s.recipe.rests).value();
    const auto aimed = [&]() -> Result<AxisResult> {
        auto help = axisHelp(s.place, s.recipe, s.out.tool);
        if (!help) return tl::unexpected(help.error());
        if (const double over = s.recipe.pattern->passOver; *beside && over > 0.0)
            help->besideOthers = [&near = **beside, over](const Vec3& contact, const Vec3& own) { return passedOver(near, over, contact, own); };
        return setAxes(s.out.pattern->rows, s.recipe.axis, s.out.tool.cutter, *help);
    };
    if (!s.take(Stage::Axis, s.key, s.out.axis, aimed)) return false;
    s.add(s.out.axis->findings);
    if (*beside) s.add({seamOf(measureSeam(**beside, s.out.pattern->rows, s.out.axis->axes, s.out.pattern->spacing), **beside, s.out.pattern->spacing)});
    s.key = Hash().add(s.key).add(s.recipe.target->leave).value();
    const auto laid = [&]() -> Result<std::vector<Pass>> {
        std::vector<std::vector<Pass>> layers;
        // On the part it is the contact that stands off: all layers are led by the same rows.
        for (const Layer& layer : s.recipe.touch->any() ? std::vector<Layer>{{-1, s.recipe.target->leave}} : layersOf(s.recipe.pattern, s.recipe.target->leave))
            layers.push_back(passesOf(*s.out.pattern, *s.out.axis, s.out.tool.cutter, layer));
        return inOrder(std::move(layers), s.recipe.pattern->everyLayer);
    };
    return s.take(Stage::Axis, s.key, s.out.passes, laid) && (!s.recipe.touch->any() || touch(s));
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
    const bool outOfPlace = r.pattern->order == RowOrder::Spiral && (r.pattern->start == RowStart::Middle || r.pattern->start == RowStart::Outside);
    for (Finding& f : findings)
        if (outOfPlace && f.code == "nothing-generated" && f.stage == stageName(Stage::Pattern)) f.remedies.push_back({"Start at one end", "pattern.from", "rail1"});
    const bool byTurns = r.pattern->order == RowOrder::BackAndForth && r.pattern->cut != RowCut::AsLaid && !kindOf(r.pattern->kind).drawn;
    for (Finding& f : findings)
        if (byTurns && f.code == "nothing-generated" && f.stage == stageName(Stage::Pattern)) {
            f.remedies.push_back({"Let rows run one way", "pattern.order", "oneWay"});
            f.remedies.push_back({"Cut them as they come", "pattern.cut", "asLaid"});
        }
    if (outOfPlace || byTurns) return;
    if (!kindOf(r.pattern->kind).rails) return;
    for (Finding& f : findings)
        if (f.code == "nothing-generated" && f.stage == stageName(Stage::Pattern)) f.remedies.push_back({"Rows in parallel planes", "pattern.kind", "planes"});
}

} // namespace

Result<PatternResult> bareRows(const Workplace& place, const Recipe& recipe, const Cutter& cutter, const Before& before, Progress& progress) {
    const auto faces = resolveFaces(*place.part, recipe.target->faces);
    if (!faces) return tl::unexpected(faces.error());
    const auto beside = rowsBeside(recipe, before);
    if (!beside) return tl::unexpected(beside.error());
    return rowsOver(place, *faces, recipe, cutter, before, beside->get(), progress);
}

const Definition& surfaceDefinition() {
    static const Definition definition{.kind = OperationKind::Surface, .lay = lay, .facts = nullptr, .locks = true, .freedom = freedom, .cure = curePattern};
    return definition;
}

} // namespace gyre
