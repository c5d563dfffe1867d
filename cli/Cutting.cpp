// The stock as the operations leave it.
#include "Console.h"
#include "base/File.h"
#include "geom/WriteMesh.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/ComparisonPage.h"
#include "session/Sending.h"
#include <algorithm>
#include <functional>

namespace gyre {
namespace {

struct Left {
    std::unique_ptr<Opened> opened;
    std::shared_ptr<const Stock> before, after;
    std::vector<std::string> cutBy; ///< ids, as surfaces of the stock count them
    MeantCuts meant;
};

Result<Left> leftBy(const Console& c, const std::string& file, const std::string& until) {
    auto opened = openAndCompute(c, file, 0.6);
    if (!opened) return tl::unexpected(opened.error());
    Opened& o = **opened;
    if (!until.empty() && !o.job.operation(until)) return fail("there is no operation '" + until + "'", file, "'gyre plan' tells their ids");
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.6, 0.95);
    RouteStock left(o.results.place, o.cache);
    auto before = left.now(progress);
    if (!before) return tl::unexpected(before.error());
    for (const auto& r : o.results.operations) {
        left.add(r);
        if (r->operation == until) break;
    }
    auto after = left.now(progress);
    if (!after) return tl::unexpected(after.error());
    std::vector<std::string> cutBy;
    for (const auto& r : left.operations()) cutBy.push_back(r->operation);
    MeantCuts meant = meantCuts(o.job, left.operations());
    return Left{std::move(*opened), *before, *after, std::move(cutBy), std::move(meant)};
}

} // namespace

int cutStock(const Console& c, const std::string& file, const std::string& out, const std::string& until) {
    const auto left = leftBy(c, file, until);
    if (!left) return c.failed(left.error());
    const auto& place = *left->opened->results.place;
    // Stock that was written before may be written anew, unless the job rests on it.
    std::error_code ec;
    const bool ours =
        wroteStl(out) && std::none_of(place.inputs.begin(), place.inputs.end(), [&](const InputFile& f) { return std::filesystem::equivalent(f.file, out, ec); });
    if (auto ok = mayBeReplaced(out, file, place.inputs); !ok && !ours) return c.failed(ok.error());
    const TriangleMesh skin = left->after->skin();
    if (auto ok = writeStl(skin, out); !ok) return c.failed(ok.error());
    const double was = left->before->volume(), is = left->after->volume();
    if (c.json)
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"file", out}, {"triangles", skin.triangles.size()}, {"cell", left->after->cell()}, {"before", was}, {"left", is}}, 1));
    else
        fmt::print(c.out, "{}: {} triangles; {:.0f} of {:.0f} mm³ are left, known to cells of {:.3g} mm\n", out, skin.triangles.size(), is, was, left->after->cell());
    return kExitOk;
}

int engagementOf(const Console& c, const std::string& file, const std::string& only) {
    auto opened = openAndCompute(c, file, 0.4);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    if (!only.empty() && !o.job.operation(only)) return c.failed({"there is no operation '" + only + "'", file, "'gyre plan' tells their ids", false});
    Progress progress(c.listener());
    RouteStock route(o.results.place, o.cache);
    for (const auto& r : o.results.operations) route.add(r);
    OrderedJson all = OrderedJson::array();
    const std::size_t count = route.operations().size();
    for (std::size_t i = 0; i < count; ++i) {
        const OperationResult& own = *route.operations()[i];
        if (!only.empty() && own.operation != only) continue;
        const double share = 0.6 / static_cast<double>(count), from = 0.4 + share * static_cast<double>(i);
        const Progress::Span span(progress, from, from + share);
        const auto e = route.engagementOf(i, progress);
        if (!e) return c.failed(e.error());
        if (!c.json)
            fmt::print(c.out,
                       "{}: engaged up to {:.0f}° (location {}), {:.2f} mm deep (location {}), chips up to {:.4f} mm (location {}); cells of {:.2g} mm, places {:.2g} mm "
                       "apart\n",
                       o.job.nameOf(own.operation), e->most.angle, e->angleAt, e->most.deep, e->deepAt, e->most.chip, e->chipAt, e->cell, e->apart);
        all.push_back({{"operation", own.operation},
                       {"engaged", e->most.angle},
                       {"engagedAt", e->angleAt},
                       {"deep", e->most.deep},
                       {"deepAt", e->deepAt},
                       {"chip", e->most.chip},
                       {"chipAt", e->chipAt},
                       {"cell", e->cell},
                       {"apart", e->apart}});
    }
    if (c.json) fmt::print(c.out, "{}\n", textOf(all, 1));
    return kExitOk;
}

namespace {

/// Names of operations by the numbers that surfaces have; empty: as it was set up.
using CutNames = std::function<std::string(int)>;

void writeComparison(const Console& c, const StockComparison& told, const CutNames& named) {
    OrderedJson bands = OrderedJson::array();
    for (std::size_t i = 0; i < told.area.size(); ++i) {
        OrderedJson band;
        if (i > 0) band["from"] = told.limits[i - 1];
        if (i < told.limits.size()) band["to"] = told.limits[i];
        band["area"] = told.area[i];
        bands.push_back(band);
    }
    OrderedJson places = OrderedJson::array();
    for (const bool gone : {true, false})
        for (const StockPlace& p : gone ? told.gone : told.stands) places.push_back({{"mm", gone ? -p.mm : p.mm}, {"at", list(p.at)}, {"by", named(p.by)}});
    OrderedJson areas = OrderedJson::array();
    for (const StandingArea& a : told.areas)
        areas.push_back({{"area", a.area}, {"most", {{"mm", a.worst.mm}, {"at", list(a.worst.at)}}}, {"by", named(a.worst.by)}, {"faces", a.faces}});
    fmt::print(c.out, "{}\n",
               textOf(OrderedJson{{"cell", told.cell},
                                  {"left", told.left},
                                  {"part", told.part},
                                  {"most", {{"mm", told.most}, {"at", list(told.mostAt)}}},
                                  {"deepest", {{"mm", told.deepest}, {"at", list(told.deepestAt)}, {"by", named(told.deepestBy)}}},
                                  {"meant", {{"area", told.meantArea}, {"mm", told.meantDeepest}}},
                                  {"places", places},
                                  {"areas", areas},
                                  {"bands", bands}},
                      1));
}

void tellComparison(const Console& c, const StockComparison& told, const CutNames& named) {
    const double all = std::max(1e-300, told.wholeArea());
    const std::string by = named(told.deepestBy);
    fmt::print(c.out, "Stock left {:.0f} mm³, part {:.0f} mm³; surfaces are known to cells of {:.3g} mm\n", told.left, told.part, told.cell);
    fmt::print(c.out, "  at the most {:.3f} mm stand over the part, at {:.2f} {:.2f} {:.2f}\n", told.most, told.mostAt.x(), told.mostAt.y(), told.mostAt.z());
    fmt::print(c.out, "  at the deepest {:.3f} mm are cut into it{}, at {:.2f} {:.2f} {:.2f}\n", told.deepest, by.empty() ? "" : " by " + by, told.deepestAt.x(),
               told.deepestAt.y(), told.deepestAt.z());
    for (std::size_t i = 0; i < told.area.size(); ++i) {
        const std::string band = told.limits.empty()       ? "all"
                                 : i == 0                  ? fmt::format("below {:g} mm", told.limits[0])
                                 : i == told.limits.size() ? fmt::format("above {:g} mm", told.limits.back())
                                                           : fmt::format("{:g} to {:g} mm", told.limits[i - 1], told.limits[i]);
        fmt::print(c.out, "  {:>18}: {:5.1f} %\n", band, 100.0 * told.area[i] / all);
    }
    if (told.meantArea > 0.0)
        fmt::print(c.out, "  {:>18}: {:5.1f} % (edges broken, engraved; up to {:.3f} mm)\n", "meant to go", 100.0 * told.meantArea / all, told.meantDeepest);
    for (const StandingArea& a : told.areas)
        fmt::print(c.out, "  {:.0f} mm² of the part under up to {:.3f} mm, at {:.2f} {:.2f} {:.2f}, {}\n", a.area, a.worst.mm, a.worst.at.x(), a.worst.at.y(),
                   a.worst.at.z(), a.worst.by > 0 ? "left by " + named(a.worst.by) : "not cut");
}

} // namespace

int compareWithPart(const Console& c, const std::string& file, const std::vector<double>& limits, const std::string& until, const std::string& page) {
    const auto left = leftBy(c, file, until);
    if (!left) return c.failed(left.error());
    const auto& place = *left->opened->results.place;
    if (!place.part) return c.failed({"the job has no part", file, {}, false});
    Progress progress(c.listener());
    progress.report(0.95, "Comparing");
    const auto told = compareStock(*left->after, *place.part, limits, progress, left->meant);
    if (!told) return c.failed(told.error());
    if (!page.empty()) {
        ComparisonPageInput in{.job = left->opened->job, .compared = *told, .cutBy = {}, .picture = {}};
        for (const std::string& id : left->cutBy) in.cutBy.push_back(left->opened->job.nameOf(id));
        if (auto ok = mayBeReplaced(page, file, place.inputs); !ok) return c.failed(ok.error());
        if (auto ok = writeFileAtomic(page, comparisonPage(in), true); !ok) return c.failed(ok.error());
    }
    const auto named = [&](int by) { return by > 0 ? left->cutBy[static_cast<std::size_t>(by - 1)] : std::string(); };
    c.json ? writeComparison(c, *told, named) : tellComparison(c, *told, named);
    return kExitOk;
}

} // namespace gyre
