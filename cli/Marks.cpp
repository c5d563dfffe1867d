// The marks on the surface at a place of a path.
#include "Console.h"
#include "base/File.h"
#include "session/Sending.h"
#include "session/SurfaceMarks.h"
#include <algorithm>

namespace gyre {
namespace {

OrderedJson toldOf(const Roughness& r) { return {{"rt", r.rt}, {"ra", r.ra}, {"places", r.places}}; }

OrderedJson toldOf(const SurfaceMarks& m) {
    OrderedJson by = OrderedJson::array();
    for (const MarkShare& s : m.sum.by) by.push_back({{"operation", m.cutBy[s.cut]}, {"share", s.share}, {"mean", s.mean}});
    return {{"at", list(m.place.at)},
            {"normal", list(m.place.outward)},
            {"feed", list(m.place.feed)},
            {"size", m.size},
            {"step", m.marks.step},
            {"across", toldOf(m.across)},
            {"along", toldOf(m.along)},
            {"low", m.sum.low},
            {"high", m.sum.high},
            {"uncut", m.sum.uncut},
            {"by", by}};
}

} // namespace

int marksThere(const Console& c, const std::string& file, const MarksAsked& asked, const std::string& out) {
    const auto opened = openAndCompute(c, file, 0.6);
    if (!opened) return c.failed(opened.error());
    const Opened& o = **opened;
    const Workplace& place = *o.results.place;
    std::vector<std::shared_ptr<const OperationResult>> done;
    for (const auto& r : o.results.operations) {
        done.push_back(r);
        if (r->operation == asked.operation) break;
    }
    if (done.empty() || (!asked.operation.empty() && done.back()->operation != asked.operation))
        return c.failed({"there is no operation '" + asked.operation + "'", file, "'gyre plan' tells their ids", false});
    const OperationResult& own = *done.back();
    const std::size_t size = own.path() ? own.path()->size() : 0, location = size > 0 ? static_cast<std::size_t>(asked.at * static_cast<double>(size - 1)) : 0;
    const auto at = markPlaceOf(place, own, location);
    if (!at) return c.failed(at.error());
    Progress progress(c.listener());
    const auto marks = surfaceMarks(place, done, *at, asked.size > 0.0 ? asked.size : usualPatch(own), progress);
    if (!marks) return c.failed(marks.error());
    if (!out.empty()) {
        if (auto ok = mayBeReplaced(out, file, place.inputs); !ok) return c.failed(ok.error());
        if (auto ok = writeFileAtomic(out, tableOf(*marks), true); !ok) return c.failed(ok.error());
    }
    if (c.json) {
        OrderedJson told = toldOf(*marks);
        told["operation"] = own.operation;
        told["location"] = location;
        fmt::print(c.out, "{}\n", textOf(told, 1));
        return kExitOk;
    }
    fmt::print(
        c.out, "{} ({}), location {}: a patch of {:g} mm, a place every {:.4g} mm\n  across the feed Rt {:.2f} µm, Ra {:.2f} µm; along it Rt {:.2f} µm, Ra {:.2f} µm\n",
        own.name, own.operation, location, marks->size, marks->marks.step, 1e3 * marks->across.rt, 1e3 * marks->across.ra, 1e3 * marks->along.rt, 1e3 * marks->along.ra);
    fmt::print(c.out, "  between {:.2f} and {:.2f} µm over the part as modelled; {:.1f} % not cut\n", 1e3 * marks->sum.low, 1e3 * marks->sum.high,
               100.0 * marks->sum.uncut);
    for (const MarkShare& s : marks->sum.by)
        fmt::print(c.out, "  {} cut {:.1f} % of it, {:.2f} µm over the part on average\n", marks->cutBy[s.cut], 100.0 * s.share, 1e3 * s.mean);
    return kExitOk;
}

} // namespace gyre
