// Directions that stand still instead of the turning axis of an operation.
#include "operation/Directions.h"
#include "Console.h"
#include "base/Units.h"
#include "machine/Reach.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/Indexed.h"
#include <algorithm>

namespace gyre {
namespace {

OrderedJson toldOf(const Directions& found) {
    OrderedJson all = OrderedJson::array();
    for (const FixedDirection& d : found.chosen)
        all.push_back({{"axis", {d.axis.x(), d.axis.y(), d.axis.z()}}, {"cuts", d.cuts}, {"reaches", d.reaches}, {"room", degrees(d.room)}});
    OrderedJson out{{"directions", all}, {"reached", found.reached}, {"fewest", found.fewest}, {"changes", found.changes}};
    if (!found.blockedBy.empty()) out["inTheWay"] = found.blockedBy;
    return out;
}

} // namespace

int directions(const Console& c, const std::string& file, const std::string& operation, double lean, const std::string& out) {
    const auto opened = openAndCompute(c, file, 0.4);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    const auto& operations = o.results.operations;
    const auto it = operation.empty() ? operations.begin() : std::find_if(operations.begin(), operations.end(), [&](const auto& r) { return r->operation == operation; });
    if (it == operations.end()) return c.failed({"there is no operation '" + operation + "'", file, "'gyre plan' tells their ids", false});
    Progress progress(c.listener());
    const auto worked = o.job.worked((*it)->operation);
    constexpr std::size_t kMost = 6;
    const auto found = fewestDirections(*o.results.place, *worked, **it, radians(lean), kMost, progress);
    if (!found) return c.failed(found.error());
    std::vector<Vec3> axes;
    for (const FixedDirection& d : found->chosen) axes.push_back(d.axis);
    if (!out.empty()) {
        if (const auto made = makeIndexed(o.job, wholeId((*it)->operation), axes); !made) return c.failed(made.error());
        if (const auto ok = saveBeside(o.job, file, out); !ok) return c.failed(ok.error());
    }
    if (c.json) {
        OrderedJson told = toldOf(*found);
        told["operation"] = (*it)->operation;
        fmt::print(c.out, "{}\n", textOf(told, 1));
        return kExitOk;
    }
    fmt::print(c.out, "{} ({}): {} direction{} reach{} {:.1f} %{}\n", (*it)->name, (*it)->operation, axes.size(), axes.size() == 1 ? "" : "s",
               axes.size() == 1 ? "es" : "", found->reached >= 1.0 ? 100.0 : std::min(99.9, 100.0 * found->reached),
               found->blockedBy.empty() ? "" : "  in the way elsewhere: " + found->blockedBy);
    const Kinematics kinematics(*o.results.place->machine, o.results.place->partFrame, (*it)->tool.gaugeLength());
    for (const FixedDirection& d : found->chosen)
        fmt::print(c.out, "  {:+.3f} {:+.3f} {:+.3f}  cuts {:5.1f} %  reaches {:5.1f} %  room {:3.0f}°  {}\n", d.axis.x(), d.axis.y(), d.axis.z(), 100.0 * d.cuts,
                   100.0 * d.reaches, degrees(d.room), reachWords(*o.results.place->machine, reachOf(kinematics, d.axis)));
    return kExitOk;
}

} // namespace gyre
