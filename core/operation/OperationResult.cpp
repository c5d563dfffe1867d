#include "operation/OperationResult.h"
#include "base/Units.h"
#include "holes/DrillSpec.h"
#include "operation/Definition.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

const Toolpath* OperationResult::path() const { return links ? &links->path : nullptr; }

PassOrigin OperationResult::originOf(int pass) const { return links->originOf(pass); }

namespace {

double areaOf(const TriangleMesh& mesh) {
    double sum = 0.0;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) sum += 0.5 * (mesh.corner(t, 1) - mesh.corner(t, 0)).cross(mesh.corner(t, 2) - mesh.corner(t, 0)).norm();
    return sum;
}

std::string rowsText(const PatternResult& pattern) {
    const auto spirals = static_cast<std::size_t>(std::count_if(pattern.rows.begin(), pattern.rows.end(), [](const Row& r) { return r.spiral; }));
    const auto counted = [](std::size_t n, const char* one, const char* many) { return fmt::format("{} {}", n, n == 1 ? one : many); };
    if (spirals == 0 || pattern.turns == 0) return counted(pattern.rows.size(), "row", "rows");
    const std::string rest = spirals == pattern.rows.size() ? std::string() : " · " + counted(pattern.rows.size() - spirals, "row", "rows");
    return fmt::format("{} turns in {}{}", pattern.turns, counted(spirals, "spiral", "spirals"), rest);
}

// Each of them once more over the same rows.
std::string layersText(const std::vector<Pass>* passes) {
    int last = 0;
    if (passes)
        for (const Pass& p : *passes) last = std::max(last, p.origin.layer);
    return last > 0 ? fmt::format(" in each of {} layers", last + 1) : std::string();
}

std::string feedText(const OperationResult& r) {
    if (!r.cutFeed || !r.motion) return "";
    return fmt::format(" · feed {:.0f} to {:.0f} %, {} instead of {}", 100.0 * r.cutFeed->least, 100.0 * r.cutFeed->most, clockText(r.motion->duration),
                       clockText(r.cutFeed->secondsAsAsked));
}

} // namespace

std::string OperationResult::facts(Stage stage) const {
    std::string text = factsOfWhole(stage);
    if (stage != Stage::Pattern || !slice.any() || text.empty() || !passes) return text;
    double here = 0.0;
    for (const Pass& pass : *passes)
        for (std::size_t i = 1; i < pass.path.size(); ++i) here += (pass.path.contact[i] - pass.path.contact[i - 1]).norm();
    return text + fmt::format(" in all slices; {:.2f} m here", here / 1000.0);
}

std::string OperationResult::factsOfWhole(Stage stage) const {
    if (const auto own = definitionOf(kind).facts)
        if (std::string text = own(*this, stage); text != kAsAll) return text;
    switch (stage) {
    case Stage::Target:
        if (faces.empty()) return "";
        return fmt::format("{} {} · {:.1f} cm²", faces.size(), faces.size() == 1 ? "face" : "faces", faceArea / 100.0) +
               (pattern && !pattern->region.triangles.empty() ? fmt::format(", {:.1f} kept", areaOf(pattern->region) / 100.0) : "");
    case Stage::Pattern:
        if (!pattern) return "";
        return fmt::format("{}{} · {:.2f} m", rowsText(*pattern), layersText(passes.get()), pattern->rowsLength / 1000.0) +
               (pattern->widestGap > 0.0 ? fmt::format(" · gap {:.3f} mm", pattern->widestGap) : "") +
               (scallop > 0.0 ? fmt::format(" · scallop {:.4f} mm", scallop) : "");
    case Stage::Axis:
        return axis ? fmt::format("steepest turn {:.2f}°/mm at row {}", axis->steepest, axis->steepestRow + 1) : "";
    case Stage::Guard: {
        if (!guard || !links) return "";
        if (shankClearance.empty()) return "measuring clearances …";
        float shank = 1e9f, holder = 1e9f;
        for (std::size_t i = 0; i < shankClearance.size(); ++i) {
            if (links->path.motion[i] != Motion::Cut) continue;
            shank = std::min(shank, shankClearance[i]);
            holder = std::min(holder, holderClearance[i]);
        }
        const auto text = [](float v) { return v >= 20.0f ? std::string("over 20 mm") : fmt::format("{:.2f} mm", v); };
        return fmt::format("nearest: shank {} · holder {}", text(shank), text(holder));
    }
    case Stage::Links:
        return links ? fmt::format("{} {} · {} {}", links->joins, links->joins == 1 ? "join" : "joins", links->retracts, links->retracts == 1 ? "retract" : "retracts") +
                           feedText(*this)
                     : "";
    }
    return "";
}

std::vector<CycleRun> cyclesOf(const OperationResult& result) {
    std::vector<CycleRun> out;
    if (!result.drill || !result.links || !result.guard) return out;
    for (std::size_t p = 0; p < result.guard->passes.size(); ++p) {
        const Toolpath& path = result.guard->passes[p].path;
        CycleRun run{result.links->passStart[p], path.size() - 1, 0.0};
        for (std::size_t i = 0; i < path.size(); ++i)
            if (const double deep = (path.tip.front() - path.tip[i]).norm(); deep > run.depth) {
                run.depth = deep;
                run.bottom = run.first + i;
            }
        if (waitsAtBottom(result.cycle->cycle)) run.dwell = result.cycle->dwell;
        out.push_back(run);
    }
    return out;
}

double secondsOf(const OperationResult& result) {
    double s = result.motion ? result.motion->duration : 0.0;
    for (const CycleRun& run : cyclesOf(result)) s += run.dwell;
    return s;
}

} // namespace gyre
