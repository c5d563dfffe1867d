#include "session/Indexed.h"
#include "axis/AxisSpec.h"
#include "geom/Polyline.h"
#include "guard/Guard.h"
#include "guard/GuardSpec.h"
#include "operation/OperationResult.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

Result<std::vector<std::string>> makeIndexed(Job& job, const std::string& operation, const std::vector<Vec3>& directions) {
    const auto it = std::find_if(job.route.begin(), job.route.end(), [&](const Recipe& r) { return r.id == operation; });
    if (it == job.route.end()) return fail("there is no operation '" + operation + "'");
    if (directions.empty()) return fail("there is no direction", it->name);
    if (directions.size() > 1 && it->kind != OperationKind::Surface)
        return fail("only rows over faces can be parted among directions", it->name, "Use one direction, or let the axis turn");
    auto at = static_cast<std::size_t>(it - job.route.begin());
    std::vector<std::string> made;
    for (std::size_t k = 0; k < directions.size(); ++k) {
        Recipe r = job.route[at - made.size()];
        r.id = job.freshId();
        r.variant.clear();
        r.active = true;
        if (directions.size() > 1) r.name = fmt::format("{}, direction {} of {}", r.name, k + 1, directions.size());
        r.axis = AxisSpec{};
        r.axis->rule = AxisRule::Fixed;
        r.axis->direction = directions[k];
        std::vector<GuardResponse> stays;
        for (const GuardResponse response : {r.guard->response, r.guard->otherwise, r.guard->atLast})
            if (response != GuardResponse::Lean && response != GuardResponse::Report) stays.push_back(response);
        // Between the places that rows are asked at something may still come too near.
        if (directions.size() > 1 && stays.empty()) stays.push_back(GuardResponse::Drop);
        stays.resize(3, GuardResponse::Report);
        r.guard->response = stays[0];
        r.guard->otherwise = stays[1];
        r.guard->atLast = stays[2];
        if (directions.size() > 1) {
            r.where->byReach = true;
            r.where->notBy.insert(r.where->notBy.end(), made.begin(), made.end());
            r.pattern->pieces = true;
        }
        made.push_back(r.id);
        job.route.insert(job.route.begin() + static_cast<std::ptrdiff_t>(++at), std::move(r));
    }
    job.route[at - made.size()].active = false;
    return made;
}

double cutWay(const OperationResult& result) {
    const std::vector<Pass>* passes = result.guard ? &result.guard->passes : result.passes.get();
    double sum = 0.0;
    if (passes)
        for (const Pass& pass : *passes) sum += length(pass.path.contact);
    return sum;
}

Result<IndexedTold> indexedInstead(const std::shared_ptr<const Workplace>& place, const Job& job, const std::string& operation, const std::vector<Vec3>& directions,
                                   const std::vector<std::shared_ptr<const OperationResult>>& before, StageCache& kept, Progress& progress) {
    Job with = job;
    const auto made = makeIndexed(with, operation, directions);
    if (!made) return tl::unexpected(made.error());
    RouteStock route(place, kept);
    for (const auto& r : before) route.add(r);
    IndexedTold out;
    for (std::size_t k = 0; k < made->size(); ++k) {
        const Progress::Span span(progress, static_cast<double>(k) / static_cast<double>(made->size()), static_cast<double>(k + 1) / static_cast<double>(made->size()));
        const auto worked = with.worked((*made)[k]);
        if (!worked) return fail("the operation is switched off, or stands in one that is", operation);
        auto result = runOperation(*place, *worked, kept, progress, {}, route.before());
        if (!result) return tl::unexpected(result.error());
        route.add(*result);
        out.seconds += (*result)->complete() ? secondsOf(**result) : 0.0;
        out.cut += cutWay(**result);
        for (const Finding& f : (*result)->findings) (f.rank == Rank::Stop ? out.stops : out.looks) += f.rank == Rank::Note ? 0 : 1;
        out.results.push_back(std::move(*result));
    }
    return out;
}

} // namespace gyre
