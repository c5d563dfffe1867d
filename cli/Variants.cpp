// Several ways of doing an operation.
#include "session/Variants.h"
#include "Console.h"
#include "operation/OperationResult.h"
#include "operation/Recipe.h"
#include "operation/Workplace.h"
#include <algorithm>

namespace gyre {

int variants(const Console& c, const std::string& file, const std::string& operation) {
    const auto opened = openAndCompute(c, file, 0.3);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    const Recipe* own = o.job.operation(operation);
    if (!own) return c.failed({"there is no operation '" + operation + "'", file, "'gyre plan' tells their ids", false});
    std::vector<std::shared_ptr<const OperationResult>> before;
    for (const auto& r : o.results.operations) {
        if (wholeId(r->operation) == own->id) break;
        before.push_back(r);
    }
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.3, 1.0);
    const auto all = compareVariants(o.results.place, o.job, own->id, before, o.cache, progress);
    if (!all) return c.failed(all.error());
    const auto table = tableOf(*all, *o.results.place->machine);
    if (c.json) {
        OrderedJson told = OrderedJson::array();
        for (std::size_t i = 0; i < all->size(); ++i) {
            OrderedJson figures = OrderedJson::object();
            for (const VariantLine& line : table)
                if (!line.said[i].empty()) figures[line.what] = line.said[i];
            told.push_back({{"variant", (*all)[i].variant}, {"inHand", (*all)[i].variant == own->variant}, {"differs", (*all)[i].differs}, {"figures", figures}});
        }
        fmt::print(c.out, "{}\n", textOf(OrderedJson{{"operation", own->id}, {"variants", told}}, 1));
        return kExitOk;
    }
    if (all->empty()) fmt::print(c.out, "{} ({}): there is one way of doing it\n", own->name, own->id);
    for (const VariantResult& v : *all) {
        fmt::print(c.out, "{} {}{}\n", own->name, v.variant, v.variant == own->variant ? ", in hand" : "");
        for (const std::string& d : v.differs) fmt::print(c.out, "  {}\n", d);
    }
    for (const VariantLine& line : table) {
        fmt::print(c.out, "{:18}", line.what);
        for (std::size_t i = 0; i < line.said.size(); ++i) fmt::print(c.out, "  {:>14}{}", line.said[i].empty() ? "-" : line.said[i], line.best[i] ? '*' : ' ');
        fmt::print(c.out, "\n");
    }
    return kExitOk;
}

} // namespace gyre
