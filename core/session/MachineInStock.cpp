#include "session/MachineInStock.h"
#include "base/Parallel.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "proof/BesideStock.h"
#include "stock/Stock.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace gyre {

namespace {

/// Is any material nearer to the body than `reach`, as far as its rays tell? Every ray that may be is asked, of all three directions.
bool meets(const Stock& stock, const Mover& body, const Frame& toDatum, double reach) {
    Box box = body.bounds(toDatum);
    box.low = (box.low - Vec3::Constant(reach)).cwiseMax(stock.bounds().low);
    box.high = (box.high + Vec3::Constant(reach)).cwiseMin(stock.bounds().high);
    if ((box.low.array() > box.high.array()).any()) return false;
    for (int axis = 0; axis < 3; ++axis) {
        const int iu = (axis + 1) % 3, iv = (axis + 2) % 3;
        Vec3 p = box.low, through;
        for (p[iu] = box.low[iu]; p[iu] < box.high[iu] + stock.cell(); p[iu] += stock.cell())
            for (p[iv] = box.low[iv]; p[iv] < box.high[iv] + stock.cell(); p[iv] += stock.cell())
                for (const StockSpan& s : stock.along(axis, p, through)) {
                    const double from = std::max(static_cast<double>(s.from), box.low[axis]), to = std::min(static_cast<double>(s.to), box.high[axis]);
                    if (from > to) continue;
                    ConvexBody span;
                    span.points = {through, through};
                    span.points[0][axis] = from;
                    span.points[1][axis] = to;
                    if (near(body, toDatum, span, reach)) return true;
                }
    }
    return false;
}

Finding foundAt(const OperationResult& operation, const Mover& body, const StockBeside& at, double within, bool asSetUp) {
    const Toolpath& path = operation.links->path;
    Finding f;
    f.rank = Rank::Stop;
    f.check = !body.tool ? Check::Machine : body.cutter ? Check::Gouge : body.name == zoneName(Zone::Holder) ? Check::Holder : Check::Shank;
    f.code = "machine-in-stock";
    f.stage = "Proof";
    f.operation = operation.operation;
    f.row = path.row[at.location];
    f.span = {at.location, at.location};
    f.place = {path.tip[at.location].x(), path.tip[at.location].y(), path.tip[at.location].z()};
    f.amount = within;
    f.text = asSetUp ? fmt::format("{} comes to {} as it is set up{}", body.name, at.stock->name, at.when)
                     : fmt::format("{} comes to {} that still stands by then{}", body.name, at.stock->name, at.when);
    f.reason = asSetUp
                   ? "what still stands of it by then is not known"
                   : fmt::format("it comes nearer than {:.2g} mm, as near as is known: cut the stock away before, take a longer tool, or turn or move the part", within);
    return f;
}

} // namespace

// Asked in three steps, each only where the one before says so: the stock as it is set up, as the operations before leave it, and with what this
// operation has cut by then, the last location left out.
Result<std::vector<Finding>> machineThroughStock(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, const Standing& start,
                                                 const PresentStock& present, Progress& progress) {
    std::vector<Finding> findings;
    auto near = besideStock(place, operation, spec, progress, start);
    if (!near) return tl::unexpected(near.error());
    if (near->places.empty()) return findings;
    progress.report(0.5, "Working out what is left of the stock");
    const auto left = present ? present(progress) : Result<std::shared_ptr<const Stock>>(tl::unexpected(Error{}));
    if (progress.cancelled()) return cancelledError();
    std::map<std::size_t, const StockBeside*> first; // by body
    if (!left) {                                     // it cannot be cut, e.g. for holes in its skin
        for (const StockBeside& p : near->places) first.emplace(p.body, &p);
        for (const auto& [body, at] : first) findings.push_back(foundAt(operation, near->movers[body], *at, at->reach, true));
        return findings;
    }
    Stock now = **left;
    const double known = 0.5 * now.cell();
    std::vector<char> met(near->places.size(), 0);
    const auto ask = [&](std::size_t i) {
        const StockBeside& p = near->places[i];
        met[i] = meets(now, near->movers[p.body], p.toDatum, p.reach + known) ? 1 : 0;
    };
    if (!parallelFor(met.size(), 1, ask, &progress)) return cancelledError();
    std::vector<std::size_t> doubtful;
    for (std::size_t i = 0; i < met.size(); ++i)
        if (met[i]) doubtful.push_back(i);
    const Toolpath& path = operation.links->path;
    const auto cutBefore = [&](std::size_t i) { return near->places[i].afterAll ? path.size() : near->places[i].location; };
    std::stable_sort(doubtful.begin(), doubtful.end(), [&](std::size_t a, std::size_t b) { return cutBefore(a) < cutBefore(b); });
    std::size_t cut = 0;
    for (const std::size_t i : doubtful) {
        const StockBeside& p = near->places[i];
        if (first.count(p.body)) continue;
        if (cutBefore(i) > cut) {
            if (auto ok = now.remove({.path = path, .cutter = operation.tool.cutter, .from = cut, .to = cutBefore(i)}, progress); !ok) return tl::unexpected(ok.error());
            cut = cutBefore(i);
        }
        if (cut > 0) ask(i); // it was asked of what stood before
        if (progress.cancelled()) return cancelledError();
        if (met[i]) first.emplace(p.body, &p);
    }
    for (const auto& [body, at] : first) findings.push_back(foundAt(operation, near->movers[body], *at, at->reach + known, false));
    return findings;
}

} // namespace gyre
