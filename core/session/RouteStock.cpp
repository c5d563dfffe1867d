#include "session/RouteStock.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include <algorithm>

namespace gyre {

CutFigures cutFigures(const Toolpath& path, const StockAfter& after, const std::function<double(std::size_t)>& timeOf) {
    CutFigures out;
    out.cell = after.stock.cell();
    const std::size_t n = std::min(path.size(), after.taken.size());
    out.rate.assign(path.size(), 0.0F);
    if (n < 2) return out;
    std::vector<double> way(n, 0.0), sum(n, 0.0), time(n, 0.0);
    for (std::size_t i = 1; i < n; ++i) {
        way[i] = way[i - 1] + (path.tip[i] - path.tip[i - 1]).norm();
        sum[i] = sum[i - 1] + after.taken[i];
        time[i] = timeOf(i);
    }
    // Rays are met now and then only: what goes is told over ten cells to either side, within moves that cut without a rapid between.
    const double reach = 10.0 * out.cell;
    const auto cuts = [&](std::size_t i) { return path.motion[i] != Motion::Rapid && path.motion[i] != Motion::Retract; };
    for (std::size_t first = 1, end = 1; first < n; first = std::max(end, first + 1)) {
        end = first;
        while (end < n && cuts(end)) ++end;
        for (std::size_t i = first, low = first, high = first; i < end; ++i) {
            while (way[i] - way[low] >= reach) ++low;
            while (high + 1 < end && way[high] - way[i] < reach) ++high;
            const double seconds = time[high] - time[low - 1];
            if (seconds <= 0.0) continue;
            out.rate[i] = static_cast<float>((sum[high] - sum[low - 1]) / 1000.0 / (seconds / 60.0));
            if (static_cast<double>(out.rate[i]) > out.most) {
                out.most = static_cast<double>(out.rate[i]);
                out.mostAt = i;
            }
        }
    }
    for (std::size_t i = 1; i < n;) {
        std::size_t end = i;
        while (end < n && path.motion[end] == Motion::Cut && after.taken[end] <= 0.0) ++end;
        if (end == i) {
            if (path.motion[i] == Motion::Cut) out.cutting += time[i] - time[i - 1];
            ++i;
            continue;
        }
        out.cutting += time[end - 1] - time[i - 1];
        if (const double length = way[end - 1] - way[i - 1]; length >= 10.0 * out.cell) {
            out.air += time[end - 1] - time[i - 1];
            out.airWay += length;
        }
        i = end;
    }
    return out;
}

RouteStock::RouteStock(std::shared_ptr<const Workplace> place, StageCache& kept) : m_place(std::move(place)), m_kept(kept) {
    m_setUp.add(std::string_view("stock")).add(m_place->looks);
    for (const PlacedBody& b : m_place->bodies) {
        if (b.role != "stock") continue;
        for (const Vec3& p : b.shape->mesh().points) m_setUp.add(p.x()).add(p.y()).add(p.z());
    }
}

void RouteStock::add(const std::shared_ptr<const OperationResult>& done) {
    if (done->path()) m_done.push_back(done);
}

std::uint64_t RouteStock::keyAfter(std::size_t operations) const {
    Hash key = m_setUp;
    for (std::size_t i = 0; i < operations; ++i) key.add(m_done[i]->key);
    return key.value();
}

std::shared_ptr<const OperationResult> RouteStock::result(const std::string& id) const {
    const auto it = std::find_if(m_done.begin(), m_done.end(), [&](const auto& r) { return r->operation == id; });
    return it == m_done.end() ? nullptr : *it;
}

Before RouteStock::before() const {
    return {[this](Progress& p) { return now(p); }, [this](const std::string& id) { return result(id); }};
}

Result<std::shared_ptr<const Stock>> RouteStock::now(Progress& progress) const {
    return after(m_done.size(), progress).map([](const auto& left) { return std::shared_ptr<const Stock>(left, &left->stock); });
}

Result<std::shared_ptr<const StockAfter>> RouteStock::after(std::size_t operations, Progress& progress) const {
    // From the last state that is known.
    std::size_t from = operations + 1;
    std::shared_ptr<const StockAfter> at;
    while (!at && from > 0) at = m_kept.find<StockAfter>(keyAfter(--from));
    const auto keep = [&](std::shared_ptr<const StockAfter> made, std::size_t number) {
        at = std::move(made);
        m_kept.keep<StockAfter>(keyAfter(number), at, at->stock.bytes() + at->taken.size() * sizeof(double));
    };
    if (!at) {
        std::vector<const TriangleMesh*> bodies;
        Box box;
        for (const PlacedBody& b : m_place->bodies) {
            if (b.role != "stock") continue;
            bodies.push_back(&b.shape->mesh());
            for (const Vec3& p : b.shape->mesh().points) box.add(p);
        }
        if (bodies.empty()) return fail("there is no stock", {}, "Add stock in Set up");
        auto made = Stock::of(bodies, std::max(0.1, box.diagonal() / 300.0), progress);
        if (!made) return tl::unexpected(made.error());
        keep(std::make_shared<const StockAfter>(StockAfter{std::move(*made), {}}), 0);
    }
    for (std::size_t i = from; i < operations; ++i) {
        auto next = std::make_shared<StockAfter>(StockAfter{at->stock, {}});
        const OperationResult& done = *m_done[i];
        if (auto ok = next->stock.remove({.path = *done.path(), .cutter = done.tool.cutter, .by = static_cast<std::uint16_t>(i + 1), .taken = &next->taken}, progress);
            !ok)
            return tl::unexpected(ok.error());
        keep(std::move(next), i + 1);
    }
    return at;
}

Result<Engagement> RouteStock::engagementOf(std::size_t operation, Progress& progress, Places places) const {
    const auto before = after(operation, progress);
    if (!before) return tl::unexpected(before.error());
    const OperationResult& own = *m_done[operation];
    return engagement((*before)->stock, *own.path(), own.tool.cutter, own.tool.spindleSpeed, progress, places);
}

Result<std::shared_ptr<const Stock>> RouteStock::at(std::size_t operations, std::size_t locations, StageCache& moments, Progress& progress) const {
    const auto whole = [&](std::size_t n) { return after(n, progress).map([](const auto& left) { return std::shared_ptr<const Stock>(left, &left->stock); }); };
    if (operations >= m_done.size() || locations == 0) return whole(std::min(operations, m_done.size()));
    const OperationResult& done = *m_done[operations];
    const std::size_t n = done.path()->size();
    if (locations >= n) return whole(operations + 1);
    // Kept every so often: a state takes some megabytes, and cutting a few hundred locations a tenth of a second.
    constexpr std::size_t kMostKept = 64, kLeastApart = 200;
    const std::size_t apart = std::max(kLeastApart, n / kMostKept);
    const std::uint64_t before = keyAfter(operations);
    const auto keyAt = [&](std::size_t location) { return Hash().add(std::string_view("moment")).add(before).add(done.key).add(location).value(); };
    std::size_t from = locations / apart * apart;
    std::shared_ptr<const Stock> found;
    while (from > 0 && !(found = moments.find<Stock>(keyAt(from)))) from -= apart;
    if (!found) {
        auto start = whole(operations);
        if (!start) return start;
        found = *start;
    }
    if (from == locations) return found;
    auto at = std::make_shared<Stock>(*found);
    while (from < locations) {
        const std::size_t to = std::min(locations, (from / apart + 1) * apart);
        if (auto ok = at->remove({.path = *done.path(), .cutter = done.tool.cutter, .by = static_cast<std::uint16_t>(operations + 1), .from = from, .to = to}, progress);
            !ok)
            return tl::unexpected(ok.error());
        from = to;
        if (from % apart == 0) {
            const auto kept = std::make_shared<const Stock>(*at);
            moments.keep<Stock>(keyAt(from), kept, kept->bytes());
        }
    }
    return at;
}

} // namespace gyre
