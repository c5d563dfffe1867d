// Which assemblies do the work of an operation.
#include "operation/Assemblies.h"
#include "Console.h"
#include "base/File.h"
#include "base/Units.h"
#include "operation/OperationResult.h"
#include "tool/Library.h"
#include <algorithm>

namespace gyre {

int assemblies(const Console& c, const std::string& file, const std::string& operation, const std::string& library, double step) {
    const auto opened = openAndCompute(c, file, 0.6);
    if (!opened) return c.failed(opened.error());
    const Job& job = (*opened)->job;
    const auto& operations = (*opened)->results.operations;
    const auto it = operation.empty() ? operations.begin() : std::find_if(operations.begin(), operations.end(), [&](const auto& r) { return r->operation == operation; });
    if (it == operations.end()) return c.failed({"there is no operation '" + operation + "'", file, "'gyre plan' tells their ids", false});
    std::vector<Assembly> tools = job.tools;
    if (!library.empty()) {
        const auto text = readFile(library, 64u << 20);
        if (!text) return c.failed(text.error());
        const auto more = toolLibraryFromJson(*text, library);
        if (!more) return c.failed(more.error());
        for (const Assembly& a : more->assemblies)
            if (!job.tool(a.id)) tools.push_back(a);
    }
    Progress progress(c.listener());
    const auto worked = job.worked((*it)->operation);
    const auto fits = assembliesFor(*(*opened)->results.place, *worked, **it, tools, step, progress);
    if (!fits) return c.failed(fits.error());
    if (c.json) {
        OrderedJson all = OrderedJson::array();
        for (const AssemblyFit& f : *fits) {
            OrderedJson j = {{"tool", f.tool.id},      {"name", f.tool.name},      {"reached", f.reached},
                             {"stickOut", f.stickOut}, {"stiffness", f.stiffness}, {"sameCut", f.sameCut}};
            if (!f.blockedBy.empty()) j["inTheWay"] = f.blockedBy;
            if (f.lean) j["lean"] = degrees(*f.lean);
            all.push_back(j);
        }
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"operation", (*it)->operation}, {"assemblies", all}}, 1));
        return kExitOk;
    }
    fmt::print(c.out, "{} ({}), the axis as it is:\n", (*it)->name, (*it)->operation);
    for (const AssemblyFit& f : *fits)
        fmt::print(c.out, "  {:28} reaches {:5.1f} %  stick-out {:6.1f} mm  {:5.2g} × as stiff{}{}{}\n", f.tool.name,
                   f.reached >= 1.0 ? 100.0 : std::min(99.9, 100.0 * f.reached), f.stickOut, f.stiffness, f.sameCut ? "" : "  cuts otherwise",
                   f.blockedBy.empty() ? "" : "  in the way: " + f.blockedBy, f.lean ? fmt::format("  would have to lean {:.0f}°", degrees(*f.lean)) : "");
    return kExitOk;
}

} // namespace gyre
