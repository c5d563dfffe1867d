#include "milling/Rough.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/MeshSlice.h"
#include "milling/Floors.h"
#include "milling/MillSpec.h"
#include "stock/Stock.h"
#include <atomic>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <utility>

namespace gyre {

namespace {

/// Side → next side, with the point on the first.
using Pieces = std::map<std::pair<int, int>, std::pair<std::pair<int, int>, Vec2>>;

std::vector<Loop> chained(Pieces next) {
    std::vector<Loop> loops;
    while (!next.empty()) {
        Loop loop;
        auto it = next.begin();
        while (it != next.end()) {
            loop.push_back(it->second.second);
            const auto to = it->second.first;
            next.erase(it);
            it = next.find(to);
        }
        if (loop.size() >= 3) loops.push_back(std::move(loop));
    }
    return loops;
}

} // namespace

Region sectionOf(const Stock& stock, const Sheet& sheet, double height) {
    // Marching squares over the depth in material; ends of rays make it finer than its cells.
    const double cell = stock.cell();
    Vec2 low = Vec2::Constant(1e300), high = Vec2::Constant(-1e300);
    for (int i = 0; i < 8; ++i) {
        const Vec3 corner(i & 1 ? stock.bounds().high.x() : stock.bounds().low.x(), i & 2 ? stock.bounds().high.y() : stock.bounds().low.y(),
                          i & 4 ? stock.bounds().high.z() : stock.bounds().low.z());
        const Vec2 q = sheet.flat(corner).head<2>();
        low = low.cwiseMin(q);
        high = high.cwiseMax(q);
    }
    low -= Vec2::Constant(1.5 * cell);
    const int nx = static_cast<int>(std::ceil((high.x() - low.x()) / cell)) + 3, ny = static_cast<int>(std::ceil((high.y() - low.y()) / cell)) + 3;
    std::vector<float> value(static_cast<std::size_t>(nx) * static_cast<std::size_t>(ny));
    const auto at = [&](int i, int k) -> float& { return value[static_cast<std::size_t>(i) * static_cast<std::size_t>(ny) + static_cast<std::size_t>(k)]; };
    parallelFor(static_cast<std::size_t>(nx), 4, [&](std::size_t i) {
        for (int k = 0; k < ny; ++k) {
            const auto d = static_cast<float>(stock.depth(sheet.point({low.x() + static_cast<double>(i) * cell, low.y() + k * cell, height})));
            at(static_cast<int>(i), k) = std::abs(d) < 1e-6F ? 1e-6F : d;
        }
    });
    // Every cell adds pieces with material on their left; pieces are chained by the grid's sides.
    Pieces next;
    const auto sideOf = [&](int i, int k, int side) { // 0 bottom, 1 right, 2 top, 3 left
        const int x = 2 * i + (side == 1 ? 2 : side == 3 ? 0 : 1), y = 2 * k + (side == 2 ? 2 : side == 0 ? 0 : 1);
        return std::pair(x, y);
    };
    const auto pointOn = [&](int i, int k, int side) {
        const int i0 = side == 1 ? i + 1 : i, k0 = side == 2 ? k + 1 : k, i1 = side == 3 ? i : i + 1, k1 = side == 0 ? k : k + 1;
        const float a = at(i0, k0), b = at(i1, k1);
        const double t = std::clamp(static_cast<double>(a) / (static_cast<double>(a) - static_cast<double>(b)), 0.0, 1.0);
        return Vec2(low.x() + (i0 + t * (i1 - i0)) * cell, low.y() + (k0 + t * (k1 - k0)) * cell);
    };
    for (int i = 0; i + 1 < nx; ++i)
        for (int k = 0; k + 1 < ny; ++k) {
            const bool in[4] = {at(i, k) < 0, at(i + 1, k) < 0, at(i + 1, k + 1) < 0, at(i, k + 1) < 0}; // around, from the lower left
            // Going round the cell counter-clockwise, material ends on the side where `in` changes from true to false.
            std::vector<int> leave, enter;
            for (int s = 0; s < 4; ++s) {
                if (in[s] && !in[(s + 1) % 4]) leave.push_back(s);
                if (!in[s] && in[(s + 1) % 4]) enter.push_back(s);
            }
            for (std::size_t n = 0; n < leave.size(); ++n) {
                // Two pieces in one cell: each cuts off its own corner of material.
                int to = enter[0];
                if (enter.size() == 2) to = (leave[n] + 3) % 4;
                next[sideOf(i, k, leave[n])] = {sideOf(i, k, to), pointOn(i, k, leave[n])};
            }
        }
    return regionOf(chained(std::move(next)));
}

namespace {

struct LevelWork {
    Region allowed, material;
    double from, height;
    int level;
    LevelCleared made;
};

/// What the cutter could not enter.
std::optional<Finding> whatStays(const std::vector<LevelWork>& work, const Sheet& sheet) {
    // Told once, at the largest place.
    std::size_t places = 0;
    const Region* largest = nullptr;
    double height = 0.0;
    for (const LevelWork& w : work)
        for (const Region& r : w.made.standing) {
            ++places;
            if (largest && r.area() <= largest->area()) continue;
            largest = &r;
            height = w.height;
        }
    if (!largest) return std::nullopt;
    const Vec2 deep = deepestPoint(*largest);
    const Vec3 at = sheet.point({deep.x(), deep.y(), height});
    Finding f;
    f.rank = Rank::Look;
    f.code = "stock-stays";
    f.stage = "Pattern";
    f.text = fmt::format("stock stays at {}, the largest of {:.0f} mm² at X {:.1f} Y {:.1f} Z {:.1f}", places == 1 ? "one place" : fmt::format("{} places", places),
                         largest->area(), at.x(), at.y(), at.z());
    f.reason = "the cutter has room there, but none to come down in a helix, nor a way in from the side";
    f.place = {at.x(), at.y(), at.z()};
    f.amount = largest->area();
    return f;
}

/// Where the cutter meets more than it was asked to: how much of the way, how much at most, and what is done about it.
std::optional<Finding> whatIsHeavy(const std::vector<LevelWork>& work, const Sheet& sheet, double radius, double step) {
    double cut = 0.0, heavy = 0.0;
    const LevelWork* worst = nullptr;
    for (const LevelWork& w : work) {
        cut += w.made.cut;
        heavy += w.made.heavy;
        if (w.made.heavy > 0.0 && (!worst || w.made.most > worst->made.most)) worst = &w;
    }
    if (!worst || heavy < 1.0) return std::nullopt;
    const Vec3 at = sheet.point({worst->made.mostAt.x(), worst->made.mostAt.y(), worst->height});
    Finding f;
    f.rank = Rank::Note;
    f.code = "heavy-cuts";
    f.stage = "Pattern";
    f.text = fmt::format("over {:.0f} mm of {:.0f} the cutter meets more than {:.0f}°, up to {:.0f}°; there it runs slower", heavy, cut,
                         1.2 * degrees(std::acos(std::clamp(1.0 - step / radius, -1.0, 1.0))), degrees(worst->made.most));
    f.reason = "between walls, or where two fronts meet, there is no way that takes less";
    f.place = {at.x(), at.y(), at.z()};
    f.amount = heavy;
    return f;
}

/// Lowest and highest corner of the stock over the sheet.
std::pair<double, double> heightsOf(const Stock& stock, const Sheet& sheet) {
    double low = 1e300, high = -1e300;
    for (int i = 0; i < 8; ++i) {
        const Vec3 corner(i & 1 ? stock.bounds().high.x() : stock.bounds().low.x(), i & 2 ? stock.bounds().high.y() : stock.bounds().low.y(),
                          i & 4 ? stock.bounds().high.z() : stock.bounds().low.z());
        low = std::min(low, sheet.flat(corner).z());
        high = std::max(high, sheet.flat(corner).z());
    }
    return {low, high};
}

/// Top and bottom of what is to be roughed.
Status findRange(const RoughInput& in, const MillSpec& spec, RoughMade& out) {
    const Stock& stock = *in.in.present;
    auto [low, high] = heightsOf(stock, in.sheet);
    const double probe = std::max(0.5, stock.cell());
    while (high > low && sectionOf(stock, in.sheet, high - 0.5 * stock.cell()).area() < 4.0 * stock.cell() * stock.cell()) high -= probe;
    high = std::max(high, low);
    out.top = spec.topBy == MillTop::Typed ? spec.top : high;
    out.bottom = std::max(low, spec.depthBy == MillDepth::Typed ? -spec.depth : 0.0) + (spec.depthBy == MillDepth::Typed ? 0.0 : spec.leaveFloor);
    if (out.bottom >= out.top - 1e-6) return fail("no stock stands over the floor", {}, "Nothing is left to rough here");
    return {};
}

/// Steps down, and exactly over every flat floor of the part that is seen from here.
std::vector<double> levelsOf(const RoughInput& in, const MillSpec& spec, double top, double bottom) {
    std::vector<double> levels;
    std::vector<double> floors{bottom};
    for (const FaceInfo& f : in.in.part->faces())
        if (f.kind == SurfaceKind::Plane && f.normal.dot(in.sheet.up({})) > 1.0 - 1e-6) {
            const double h = in.sheet.flat(f.centre).z() + spec.leaveFloor;
            if (h > bottom + 1e-3 && h < top - 1e-3) floors.push_back(h);
        }
    std::sort(floors.rbegin(), floors.rend());
    double at = top;
    const double step = spec.stepdown > 0.0 ? spec.stepdown : top - bottom;
    for (const double floor : floors) {
        if (floor > at - 1e-3) continue;
        const int n = std::max(1, static_cast<int>(std::ceil((at - floor) / step - 1e-9)));
        for (int i = 1; i <= n; ++i) levels.push_back(at + (floor - at) * i / n);
        at = floor;
    }
    return levels;
}

/// The part as it is seen from above down to a level: whatever stands over it must not be cut into.
void seeDown(const RoughInput& in, const MillSpec& spec, double from, double height, Region& part) {
    const TriangleMesh& mesh = in.in.part->mesh();
    const double finest = std::min(0.2, from - height);
    for (double h = from; h > height - 1e-9; h -= std::max(0.05, finest)) {
        Region slice = regionOf(sliceOf(mesh, in.sheet.frame, std::max(height - spec.leaveFloor, h - spec.leaveFloor) + 2e-3));
        part = united(part, slice);
    }
    part = united(part, regionOf(sliceOf(mesh, in.sheet.frame, height - spec.leaveFloor + 2e-3)));
}

/// The stock between two levels.
Region stockBetween(const Stock& stock, const Sheet& sheet, double from, double height) {
    Region material;
    for (double h = from - 0.25 * stock.cell(); h > height; h -= std::max(stock.cell(), 0.25 * (from - height))) material = united(material, sectionOf(stock, sheet, h));
    material = united(material, sectionOf(stock, sheet, height + 0.05 * (from - height)));
    return grown(grown(material, -0.25 * stock.cell()), 0.25 * stock.cell());
}

/// What is to be cut at every level, and where the cutter's middle may be there. Nothing when cancelled.
std::optional<std::vector<LevelWork>> gatherLevels(const RoughInput& in, const MillSpec& spec, const std::vector<double>& levels, RoughMade& out, Progress& progress) {
    Region part, only;
    if (!in.in.faces.empty() || !in.in.curves.empty())
        if (auto floor = floorOf(in.in, in.sheet, 0.01)) only = grown(floor->area, in.radius);
    std::vector<LevelWork> work;
    double from = out.top;
    for (std::size_t k = 0; k < levels.size(); ++k) {
        if (progress.cancelled()) return std::nullopt;
        progress.report(0.3 * static_cast<double>(k) / static_cast<double>(levels.size()), "Roughing levels");
        const double height = levels[k], above = std::exchange(from, height);
        seeDown(in, spec, above, height, part);
        Region material = without(stockBetween(*in.in.present, in.sheet, above, height), grown(part, in.leave));
        if (!only.empty()) material = common(material, only);
        out.target = united(out.target, material);
        if (material.empty()) continue;
        const auto [a, b] = material.bounds();
        Region window;
        const double rim = 4.0 * in.radius;
        window.loops = {{a - Vec2::Constant(rim), Vec2(b.x() + rim, a.y() - rim), b + Vec2::Constant(rim), Vec2(a.x() - rim, b.y() + rim)}};
        work.push_back({without(window, grown(part, in.radius + in.leave - 1e-3)), std::move(material), above, height, static_cast<int>(k), {}});
    }
    return work;
}

/// Clears all levels. @return false when cancelled
bool clearLevels(const RoughInput& in, const MillSpec& spec, std::vector<LevelWork>& work, Progress& progress) {
    const auto clear = [&](LevelWork& w) { w.made = clearLevel(w.allowed, w.material, in.radius, spec.stepover, w.from, w.height, spec, w.level, progress); };
    std::atomic<std::size_t> done{0};
    parallelFor(
        work.size(), 1,
        [&](std::size_t k) {
            clear(work[k]);
            progress.report(0.3 + 0.7 * static_cast<double>(++done) / static_cast<double>(work.size()), "Roughing levels");
        },
        &progress);
    if (progress.cancelled()) return false;
    // What stays at one level stands over those below it: there the cutter and its shank cannot be.
    Region over;
    for (LevelWork& w : work) {
        if (!over.empty() && !common(w.allowed, grown(over, in.radius)).empty()) {
            w.allowed = without(w.allowed, grown(over, in.radius));
            clear(w);
            if (progress.cancelled()) return false;
        }
        for (const Region& r : w.made.standing) over = united(over, r);
    }
    return true;
}

} // namespace

Result<RoughMade> roughOn(const RoughInput& in, const MillSpec& spec, Progress& progress) {
    RoughMade out;
    if (in.sheet.wrapped) return fail("roughing by levels needs a plane", {}, "Choose a work plane");
    if (!in.in.present) return fail("there is no stock to rough", {}, "Add stock in Set up");
    if (const auto ok = findRange(in, spec, out); !ok) return tl::unexpected(ok.error());
    const std::vector<double> levels = levelsOf(in, spec, out.top, out.bottom);
    out.levels = levels.size();
    auto work = gatherLevels(in, spec, levels, out, progress);
    if (!work || !clearLevels(in, spec, *work, progress)) return cancelledError();
    for (LevelWork& w : *work)
        for (FlatPass& p : w.made.passes) out.passes.push_back(std::move(p));
    if (auto f = whatStays(*work, in.sheet)) out.findings.push_back(std::move(*f));
    if (auto f = whatIsHeavy(*work, in.sheet, in.radius, spec.stepover)) out.findings.push_back(std::move(*f));
    if (out.passes.empty()) return fail("nothing of the stock can be reached here by this cutter");
    return out;
}

} // namespace gyre
