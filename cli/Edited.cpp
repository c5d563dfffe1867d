// A program that came back from the shop.
#include "Console.h"
#include "base/File.h"
#include "session/EditedProgram.h"
#include "session/Sending.h"

namespace gyre {

int proveProgram(const Console& c, const std::string& program, const std::string& file, const std::string& dialectText) {
    const auto text = readFile(program, 1u << 30); // before all the work
    if (!text) return c.failed(text.error());
    auto opened = openAndCompute(c, file, 0.6);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    const auto dialect = dialectOf(o.job, file, dialectText);
    if (!dialect) return c.failed(dialect.error());
    const PostInput input = inDialect(postInputOf(o.job, o.results.place, o.results.operations), dialect->spelling);
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.6, 1.0);
    const auto proven = proveEdited(*text, input, o.job, o.results, o.cache, progress);
    if (!proven) return c.failed(Error{proven.error().what, program + " " + proven.error().place, proven.error().remedy, false});
    if (c.json) {
        OrderedJson j = {{"safe", proven->safe()}, {"moves", proven->moves}, {"notChecked", proven->notChecked}, {"anotherProgram", proven->tooMany}};
        j["changes"] = OrderedJson::array();
        for (const LineChange& l : proven->changes) j["changes"].push_back({{"line", l.line}, {"was", l.was}, {"is", l.is}});
        j["findings"] = OrderedJson::array();
        for (const EditedProgram::Told& t : proven->told) {
            OrderedJson f = findingToJson(t.finding);
            f["line"] = t.line;
            j["findings"].push_back(f);
        }
        fmt::print(c.out, "{}\n", textOf(j, 1));
        return proven->safe() ? kExitOk : kExitStop;
    }
    constexpr std::size_t kMost = 40;
    if (proven->tooMany)
        fmt::print(c.out, "more than 1000 lines are not the job's: it is another program\n");
    else
        fmt::print(c.out, "{}\n", proven->changes.size() == 1 ? "one line is changed" : fmt::format("{} lines are changed", proven->changes.size()));
    for (std::size_t i = 0; i < std::min(kMost, proven->changes.size()); ++i) {
        const LineChange& l = proven->changes[i];
        fmt::print(c.out, "  line {}: {}\n", l.line, l.was.empty() ? "put in: " + l.is : l.is.empty() ? "taken out: " + l.was : l.was + "  ->  " + l.is);
    }
    if (proven->changes.size() > kMost) fmt::print(c.out, "  and {} more\n", proven->changes.size() - kMost);
    fmt::print(c.out, "{} moves proven: {}\n", proven->moves, proven->safe() ? "no Stop" : "NOT SAFE");
    for (const EditedProgram::Told& t : proven->told) fmt::print(c.out, "  {} · line {}: {}\n", rankName(t.finding.rank), t.line, named(o.job, t.finding));
    if (proven->notChecked > 0) fmt::print(c.out, "  {} lines are the shop's own or its script's: what they do is NOT CHECKED\n", proven->notChecked);
    return proven->safe() ? kExitOk : kExitStop;
}

} // namespace gyre
