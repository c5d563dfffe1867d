// Milling on a plane, or wrapped around an axis.
#include "form/Form.h"
#include "kinds/Kinds.h"
#include "kinds/MillInput.h"
#include "milling/MillForm.h"
#include "milling/MillSpec.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"
#include "target/TargetForm.h"
#include "target/TargetSpec.h"
#include <fmt/format.h>

namespace gyre {
namespace {

bool lay(Stages& s) {
    const MillSpec& spec = s.recipe.mill;
    s.out.shape = spec.shape;
    auto gathered = gatherMill(s.place, s.recipe);
    if (!gathered) {
        s.stop(Stage::Target, gathered.error());
        return false;
    }
    MillInput& in = gathered->input;
    s.out.faces = in.faces;
    for (int f : s.out.faces) s.out.faceArea += s.place.part->faces()[static_cast<std::size_t>(f)].area;
    s.key = Hash()
                .add(s.under)
                .add(targetForm().write(s.recipe.target).dump())
                .add(millForm().write(s.recipe.mill).dump())
                .add(placesTextOf(s.recipe))
                .add(s.recipe.rests)
                .add(gathered->curves)
                .add(s.tool)
                .add(s.feed())
                .add(s.recipe.pattern->chordTolerance)
                .value();
    if (spec.topBy == MillTop::Stock) s.key = Hash().add(s.key).add(s.place.looks).value();
    std::shared_ptr<const Stock> present;
    const auto run = [&]() -> Result<MillResult> {
        if (laidByStock(s.recipe)) {
            if (!s.present) return gyre::fail("there is no stock to rough", {}, "Add stock in Set up");
            s.progress.report(0.0, "Working out what is left of the stock");
            auto made = s.present(s.progress);
            if (!made) return tl::unexpected(made.error());
            present = *made;
            in.present = present.get();
        }
        return millOn(in, spec, s.out.tool, s.recipe.target->leave, s.recipe.pattern->chordTolerance, s.feed(), s.progress);
    };
    {
        const Progress::Span span(s.progress, 0.0, 0.3);
        if (!s.take(Stage::Pattern, s.key, s.out.mill, run)) return false;
    }
    s.add(s.out.mill->findings);
    s.out.passes = std::shared_ptr<const std::vector<Pass>>(s.out.mill, &s.out.mill->passes);
    return true;
}

std::string facts(const OperationResult& r, Stage stage) {
    if (stage == Stage::Guard || stage == Stage::Links) return kAsAll;
    if (!r.mill) return "";
    const std::string sheet = r.mill->sheet.wrapped ? fmt::format("unrolled at radius {:.3f} mm", r.mill->sheet.radius) : "";
    if (stage == Stage::Target) {
        const std::string what = !r.mill->target.empty()  ? fmt::format("{:.2f} cm²", r.mill->target.area() / 100.0)
                                 : r.mill->curves.empty() ? ""
                                                          : fmt::format("{} {}", r.mill->curves.size(), r.mill->curves.size() == 1 ? "curve" : "curves");
        return what + (what.empty() || sheet.empty() ? "" : " · ") + sheet;
    }
    if (stage == Stage::Pattern) {
        if (r.shape == MillShape::Body) {
            std::string text = r.mill->rows > 0 ? fmt::format("{} {}", r.mill->rows, r.mill->rows == 1 ? "stroke" : "strokes") : "";
            if (r.mill->levels > 0) text += fmt::format("{}{} {}", text.empty() ? "" : " · ", r.mill->levels, r.mill->levels == 1 ? "level" : "levels");
            return text + fmt::format(" · {:.2f} m · down to {:.2f} mm", r.mill->length / 1000.0, r.mill->bottom);
        }
        std::string text =
            fmt::format("{} {} · {:.2f} m · down to {:.2f} mm", r.mill->levels, r.mill->levels == 1 ? "level" : "levels", r.mill->length / 1000.0, r.mill->bottom);
        if (r.mill->pitch > 0.0) text += fmt::format(" · helix pitch {:.2f} mm", r.mill->pitch);
        if (r.mill->scallop > 0.0) text += fmt::format(" · scallop {:.3f} mm", r.mill->scallop);
        return text;
    }
    return "";
}

double meantDepth(const Recipe& r) { return r.mill->shape == MillShape::Follow && r.mill->depthBy == MillDepth::Typed ? std::max(0.0, r.mill->depth) + kHair : 0.0; }

void cure(const Recipe& r, std::vector<Finding>& findings) {
    for (Finding& f : findings)
        if (f.code == "steep-wide" || f.code == "flat-left") f.remedies.push_back({"Levels and strokes", "mill.parts", "both"});
    if (r.mill->topBy == MillTop::Stock || r.mill->shape == MillShape::Body) return;
    for (Finding& f : findings)
        if (f.code == "rapid-through-stock") f.remedies.push_back({"Begin at the stock", "mill.topBy", "stock"});
}

} // namespace

const Definition& millDefinition() {
    static const Definition definition{.kind = OperationKind::Mill,
                                       .lay = lay,
                                       .facts = facts,
                                       .drawsPasses = true,
                                       .meantDepth = meantDepth,
                                       .spacing = [](const Recipe& r) { return r.mill->stepover; },
                                       .readsStock = true,
                                       .cure = cure};
    return definition;
}

} // namespace gyre
