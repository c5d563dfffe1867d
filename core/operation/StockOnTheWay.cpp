#include "operation/StockOnTheWay.h"
#include "base/Units.h"
#include "stock/Stock.h"
#include <fmt/format.h>
#include <utility>

namespace gyre {

bool insideBody(const TriangleMesh& mesh, const MeshTree& tree, const Vec3& p, const Vec3& along) {
    const RayHit hit = tree.ray(p, along);
    if (!hit.hit) return false;
    const Vec3 normal = (mesh.corner(hit.triangle, 1) - mesh.corner(hit.triangle, 0)).cross(mesh.corner(hit.triangle, 2) - mesh.corner(hit.triangle, 0));
    return normal.dot(along) > 0.0;
}

namespace {

struct Place {
    std::size_t location;
    AxisPose pose;
};

/// Where rapids run through a body that is stock as it is set up.
std::vector<Place> rapidsWithin(const PlacedBody& stock, const Toolpath& path, const Cutter& cutter) {
    const std::vector<RoundedFrustum> cutting = cuttingZone(cutter);
    const std::vector<double> none(cutting.size(), 0.0);
    const auto within = [&](const AxisPose& pose) {
        if (stock.shape->tree().anyWithin(pose, cutting.data(), none.data(), cutting.size())) return true;
        return insideBody(stock.shape->mesh(), stock.shape->tree(), pose.tip, pose.axis);
    };
    std::vector<Place> places;
    for (std::size_t i = 1; i < path.size(); ++i) {
        if (path.motion[i] != Motion::Rapid) continue;
        const double turn = angleBetween(path.axis[i - 1], path.axis[i]), way = (path.tip[i] - path.tip[i - 1]).norm();
        const int n = std::max({1, static_cast<int>(std::ceil(way / 2.0)), static_cast<int>(std::ceil(turn / radians(2.0)))});
        for (int k = 1; k <= n; ++k) {
            const double t = static_cast<double>(k) / n;
            const AxisPose pose{path.tip[i - 1] + t * (path.tip[i] - path.tip[i - 1]), slerp(path.axis[i - 1], path.axis[i], t)};
            if (within(pose)) places.push_back({i, pose});
        }
    }
    return places;
}

/// Those where something still stands when the path comes there.
Result<std::vector<Place>> stillStanding(std::vector<Place> places, const Stock& left, const Toolpath& path, const Cutter& cutter, Progress& progress) {
    // Where a cut went along a wall, the stock is known to a cell only.
    Cutter thinner = cutter;
    thinner.diameter = std::max(0.5 * thinner.diameter, thinner.diameter - left.cell());
    const double touch = std::pow(left.cell(), 3);
    const auto meets = [&](const Stock& stock, const AxisPose& pose) { return stock.within(pose, thinner) > touch; };
    std::erase_if(places, [&](const Place& p) { return !meets(left, p.pose); });
    if (places.empty()) return places;
    Stock now = left;
    std::size_t done = 0;
    std::vector<Place> hit;
    for (const Place& p : places) {
        Toolpath cut; // up to here
        for (std::size_t from = done; from < p.location; ++from)
            cut.push(path.tip[from], path.axis[from], from == done ? Motion::Rapid : path.motion[from], path.row[from], path.feed[from]);
        if (cut.size() > 1)
            if (auto ok = now.remove(cut, cutter, progress); !ok) return tl::unexpected(ok.error());
        done = p.location > 0 ? p.location - 1 : 0;
        if (meets(now, p.pose)) hit.push_back(p);
    }
    return hit;
}

} // namespace

// Rapids whose cutter runs through the stock as it is set up, still through what the operations before leave of it, and through what the
// cuts of this one have left by then. Each of the three is asked only where the one before says so.
Result<std::vector<Finding>> rapidsThroughStock(const Workplace& place, const OperationResult& result, const PresentStock& present, Progress& progress) {
    std::vector<Finding> findings;
    const Toolpath& path = result.links->path;
    for (const PlacedBody& b : place.bodies) {
        if (b.role != "stock") continue;
        std::vector<Place> places = rapidsWithin(b, path, result.tool.cutter);
        if (places.empty()) continue;
        if (present) {
            progress.report(0.75, "Working out what is left of the stock");
            const auto left = present(progress);
            if (progress.cancelled()) return cancelledError();
            if (left) {
                auto hit = stillStanding(std::move(places), **left, path, result.tool.cutter, progress);
                if (!hit) return tl::unexpected(hit.error());
                places = std::move(*hit);
            }
        }
        if (places.empty()) continue;
        std::size_t moves = 0, last = 0;
        for (const Place& p : places) moves += std::exchange(last, p.location) != p.location;
        Finding f;
        f.rank = Rank::Stop;
        f.check = Check::Path;
        f.code = "rapid-through-stock";
        f.stage = "Links";
        f.operation = result.operation;
        f.amount = static_cast<double>(moves);
        const Vec3& at = places.front().pose.tip;
        f.place = {at.x(), at.y(), at.z()};
        f.span = {places.front().location, places.front().location};
        f.text = moves == 1 ? fmt::format("a rapid runs through {}", b.name) : fmt::format("{} rapids run through {}", moves, b.name);
        f.reason = "cut the stock away there first, let the cut begin at the stock, or travel further out";
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
