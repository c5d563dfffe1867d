#include "operation/StockOnTheWay.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "path/Pass.h"
#include "stock/Stock.h"
#include <fmt/format.h>
#include <map>
#include <set>

namespace gyre {

bool insideBody(const TriangleMesh& mesh, const MeshTree& tree, const Vec3& p, const Vec3& along) {
    const RayHit hit = tree.ray(p, along);
    if (!hit.hit) return false;
    const Vec3 normal = (mesh.corner(hit.triangle, 1) - mesh.corner(hit.triangle, 0)).cross(mesh.corner(hit.triangle, 2) - mesh.corner(hit.triangle, 0));
    return normal.dot(along) > 0.0;
}

namespace {

/// A body of the tool, and where it must not meet stock.
struct Follower {
    Zone zone;
    bool rapidsAlone;
};

struct Meeting {
    StockProbe probe;
    const PlacedBody* stock = nullptr;
};

/// Places of a path, so close that nothing of half a millimetre is passed over: rapids every 2 mm and 2°, other moves as far as the tool has come.
std::vector<StockProbe> placesAlong(const Toolpath& path, bool rapids, double reach) {
    constexpr double kRapid = 2.0, kCut = 0.5;
    std::vector<StockProbe> out;
    double since = 1e300;
    for (std::size_t i = 0; i < path.size(); ++i) {
        const AxisPose b{path.tip[i], path.axis[i]}, a = i > 0 ? AxisPose{path.tip[i - 1], path.axis[i - 1]} : b;
        const double turn = angleBetween(a.axis, b.axis), way = (b.tip - a.tip).norm();
        if (path.motion[i] == Motion::Rapid) {
            if (!rapids) continue;
            const int n = std::max({1, static_cast<int>(std::ceil(way / kRapid)), static_cast<int>(std::ceil(turn / radians(2.0)))});
            for (int k = 1; k <= n; ++k) {
                const double t = static_cast<double>(k) / n;
                out.push_back({i, t, {a.tip + t * (b.tip - a.tip), slerp(a.axis, b.axis, t)}});
            }
            since = 0.0;
            continue;
        }
        since += way + turn * reach;
        if (since < kCut && i + 1 < path.size()) continue;
        const int n = i > 0 ? std::max(1, static_cast<int>(std::ceil((way + turn * reach) / kCut))) : 1;
        for (int k = 1; k <= n; ++k) {
            const double t = static_cast<double>(k) / n;
            out.push_back({i, t, {a.tip + t * (b.tip - a.tip), slerp(a.axis, b.axis, t)}});
        }
        since = 0.0;
    }
    return out;
}

std::vector<RoundedFrustum> piecesIn(const Assembly& tool, Zone zone) {
    std::vector<RoundedFrustum> out;
    for (const Piece& p : piecesOf(tool))
        if (p.zone == zone) out.push_back(p.shape);
    return out;
}

/// Where followers meet stock, in the order of the path: as it is set up, still as the operations before leave it, and still when the cuts of
/// this one have come there. Each of the three is asked only where the one before says so. What is known to half a cell is not told.
/// @param cell  of what was asked last; 0: the stock as it is set up
Result<std::vector<Meeting>> meetings(const Workplace& place, const Toolpath& path, const Assembly& tool, const std::vector<Follower>& followers,
                                      const PresentStock& present, Progress& progress, double& cell) {
    cell = 0.0;
    std::vector<const PlacedBody*> stocks;
    for (const PlacedBody& b : place.bodies)
        if (b.role == "stock") stocks.push_back(&b);
    if (stocks.empty()) return std::vector<Meeting>{};
    StockWatch watch;
    for (const Follower& f : followers) watch.bodies.push_back(piecesIn(tool, f.zone));
    const bool everywhere = std::any_of(followers.begin(), followers.end(), [](const Follower& f) { return !f.rapidsAlone; });
    std::vector<StockProbe> places = placesAlong(path, true, tool.gaugeLength());
    if (!everywhere) std::erase_if(places, [&](const StockProbe& p) { return path.motion[p.location] != Motion::Rapid; });
    const std::vector<double> none(32, 0.0);
    std::vector<std::vector<Meeting>> met(places.size());
    if (!parallelFor(
            places.size(), 64,
            [&](std::size_t i) {
                for (std::size_t k = 0; k < followers.size(); ++k) {
                    const auto& pieces = watch.bodies[k];
                    if (pieces.empty() || (followers[k].rapidsAlone && path.motion[places[i].location] != Motion::Rapid)) continue;
                    const AxisPose& pose = places[i].pose;
                    const auto in = std::find_if(stocks.begin(), stocks.end(), [&](const PlacedBody* b) {
                        return b->shape->tree().anyWithin(pose, pieces.data(), none.data(), std::min(pieces.size(), none.size())) ||
                               insideBody(b->shape->mesh(), b->shape->tree(), pose.tip + pieces.front().low() * pose.axis, pose.axis);
                    });
                    if (in == stocks.end()) continue;
                    met[i].push_back({places[i], *in});
                    met[i].back().probe.body = k;
                }
            },
            &progress))
        return cancelledError();
    std::vector<Meeting> out;
    for (auto& m : met) out.insert(out.end(), m.begin(), m.end());
    if (out.empty() || !present) return out;
    progress.report(0.75, "Working out what is left of the stock");
    const auto left = present(progress);
    if (progress.cancelled()) return cancelledError();
    if (!left) return out;
    for (const Meeting& m : out) watch.probes.push_back(m.probe);
    Stock now = **left;
    cell = now.cell();
    if (auto ok = now.remove({.path = path, .cutter = tool.cutter, .to = out.back().probe.location + 1, .watch = &watch}, progress); !ok)
        return tl::unexpected(ok.error());
    for (std::size_t i = 0; i < out.size(); ++i) out[i].probe = watch.probes[i];
    std::erase_if(out, [&](const Meeting& m) { return m.probe.deep <= 0.5 * cell; });
    return out;
}

std::string passWords(const PassOrigin& origin) {
    const std::string one = passWord(origin);
    return one + (one.ends_with('s') ? "es" : "s");
}

Finding foundOn(const OperationResult& result, const Meeting& at) {
    const Toolpath& path = result.links->path;
    Finding f;
    f.rank = Rank::Stop;
    f.operation = result.operation;
    f.row = path.row[at.probe.location];
    f.place = {at.probe.pose.tip.x(), at.probe.pose.tip.y(), at.probe.pose.tip.z()};
    f.span = {at.probe.location, at.probe.location};
    return f;
}

std::vector<Finding> rapidFindings(const OperationResult& result, const std::vector<Meeting>& met) {
    std::vector<Finding> findings;
    std::map<const PlacedBody*, std::vector<const Meeting*>> by;
    for (const Meeting& m : met) by[m.stock].push_back(&m);
    for (const auto& [stock, list] : by) {
        std::set<std::size_t> moves;
        for (const Meeting* m : list) moves.insert(m->probe.location);
        Finding f = foundOn(result, *list.front());
        f.check = Check::Path;
        f.code = "rapid-through-stock";
        f.stage = "Links";
        f.amount = static_cast<double>(moves.size());
        f.text = moves.size() == 1 ? fmt::format("a rapid runs through {}", stock->name) : fmt::format("{} rapids run through {}", moves.size(), stock->name);
        f.reason = "cut the stock away there first, let the cut begin at the stock, or travel further out";
        findings.push_back(f);
    }
    return findings;
}

/// The stick-out that keeps the holder out of stock and lets no shank into it, if the tool is long enough.
Result<std::optional<double>> longerTool(const Workplace& place, const OperationResult& result, double up, const PresentStock& present, Progress& progress) {
    Assembly longer = result.tool;
    longer.stickOut = std::ceil((longer.stickOut + up + 0.05) * 10.0) / 10.0;
    if (longer.stickOut > longer.cutter.overallLength) return std::optional<double>();
    double cell = 0.0;
    const auto met = meetings(place, result.links->path, longer, {{Zone::Shank, false}, {Zone::Holder, false}}, present, progress, cell);
    if (!met) return tl::unexpected(met.error());
    return met->empty() ? std::optional(longer.stickOut) : std::nullopt;
}

} // namespace

Result<std::vector<Finding>> rapidsThroughStock(const Workplace& place, const OperationResult& result, const PresentStock& present, Progress& progress) {
    double cell = 0.0;
    const auto met = meetings(place, result.links->path, result.tool, {{Zone::Cutter, true}}, present, progress, cell);
    if (!met) return tl::unexpected(met.error());
    return rapidFindings(result, *met);
}

Result<std::vector<Finding>> toolThroughStock(const Workplace& place, const OperationResult& result, const PresentStock& present, Progress& progress) {
    if (!result.complete() || result.links->path.empty()) return std::vector<Finding>{};
    const bool told =
        std::any_of(result.findings.begin(), result.findings.end(), [](const Finding& f) { return f.code == "rapid-through-stock" || f.code == "stock-over-holes"; });
    std::vector<Follower> followers{{Zone::Shank, false}, {Zone::Holder, false}};
    if (!told) followers.push_back({Zone::Cutter, true});
    double cell = 0.0;
    const auto met = meetings(place, result.links->path, result.tool, followers, present, progress, cell);
    if (!met) return tl::unexpected(met.error());
    std::vector<Meeting> rapids;
    for (const Meeting& m : *met)
        if (followers[m.probe.body].zone == Zone::Cutter) rapids.push_back(m);
    std::vector<Finding> findings = rapidFindings(result, rapids);
    for (const Zone zone : {Zone::Shank, Zone::Holder}) {
        const Meeting* worst = nullptr;
        double up = 0.0;
        std::set<int> passes;
        for (const Meeting& m : *met) {
            if (followers[m.probe.body].zone != zone) continue;
            passes.insert(result.links->path.row[m.probe.location]);
            up = std::max(up, m.probe.up);
            if (!worst || m.probe.deep > worst->probe.deep) worst = &m;
        }
        if (!worst) continue;
        Finding f = foundOn(result, *worst);
        f.check = zone == Zone::Holder ? Check::Holder : Check::Shank;
        f.code = zone == Zone::Holder ? "holder-in-stock" : "shank-in-stock";
        f.stage = "Proof";
        f.amount = worst->probe.deep;
        const std::string where = passName(result.links->originOf(f.row), f.row),
                          all = passes.size() > 1 ? fmt::format("; {} {} in all", passes.size(), passWords(result.links->originOf(f.row))) : "";
        if (cell > 0.0) {
            f.text = fmt::format("{} runs {:.2f} mm deep into {} that still stands by then, deepest in {}{}", zoneName(zone), worst->probe.deep, worst->stock->name,
                                 where, all);
            f.reason = fmt::format("nothing has cut it away when the tool comes there; stock is known to {:.2g} mm", 0.5 * cell);
        } else { // a stock that cannot be cut, e.g. with holes in its skin
            f.text = fmt::format("{} runs through {} as it is set up, first in {}{}", zoneName(zone), worst->stock->name, where, all);
            f.reason = "what still stands of it by then is not known";
        }
        if (zone == Zone::Holder && cell > 0.0) {
            auto longer = longerTool(place, result, up, present, progress);
            if (!longer) return tl::unexpected(longer.error());
            if (*longer) f.remedies.push_back({fmt::format("Stick out {:.1f} mm", **longer), "tool.stickOut", fmt::format("{:.1f}", **longer)});
        }
        findings.push_back(f);
    }
    return findings;
}

// Rapids that end within the stock as it is set up, and still within what the operations before leave of it, where that is known.
std::vector<Finding> rapidsEndingInStock(const Workplace& place, const std::string& operation, const std::vector<AxisPose>& ends, const PresentStock& present,
                                         Progress& progress) {
    std::vector<Finding> findings;
    for (const PlacedBody& b : place.bodies) {
        if (b.role != "stock") continue;
        Finding f;
        std::vector<AxisPose> inside;
        for (const AxisPose& end : ends)
            if (insideBody(b.shape->mesh(), b.shape->tree(), end.tip, end.axis)) inside.push_back(end);
        if (inside.empty()) continue;
        if (present) {
            progress.report(0.75, "Working out what is left of the stock");
            if (const auto left = present(progress)) std::erase_if(inside, [&](const AxisPose& end) { return (*left)->depth(end.tip) > -0.5 * (*left)->cell(); });
        }
        for (const AxisPose& end : inside) {
            if (f.amount == 0.0) f.place = {end.tip.x(), end.tip.y(), end.tip.z()};
            f.amount += 1.0;
        }
        if (f.amount == 0.0) continue;
        f.rank = Rank::Stop;
        f.check = Check::Path;
        f.code = "stock-over-holes";
        f.stage = "Links";
        f.operation = operation;
        f.text =
            f.amount == 1.0 ? fmt::format("the rapid to one hole ends within {}", b.name) : fmt::format("the rapids to {:.0f} holes end within {}", f.amount, b.name);
        f.reason = "cut the stock away there first, or let feed start higher over the mouth";
        findings.push_back(f);
    }
    return findings;
}

} // namespace gyre
