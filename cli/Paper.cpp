// gyre setup-sheet: the set-up sheet and the list of tools.
#include "Console.h"
#include "base/File.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/Sending.h"
#include "session/SetupSheet.h"
#include <fmt/format.h>

namespace gyre {

int setupSheet(const Console& c, const std::string& file, const std::string& target, const std::string& tools, const std::string& program) {
    auto opened = openAndCompute(c, file, 0.6);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    for (const std::string& f : {target, tools})
        if (!f.empty())
            if (const auto ok = mayBeReplaced(f, file, o.results.place->inputs); !ok) return c.failed(ok.error());
    if (target == tools || (!program.empty() && (target == program || tools == program)))
        return c.failed(Error{"sheet, tool list and program must be files of their own", target, {}, false});
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.6, 0.95);
    const auto verdict = judge(o.job, o.results, o.cache, progress);
    if (!verdict) return c.failed(verdict.error());
    if (!verdict->unread.empty()) return c.failed(Error{"an input file has changed while the job was computed", verdict->unread.front(), "Run it again", false});
    SetupSheetInput in{.job = o.job, .place = o.results.place, .operations = o.results.operations, .findings = verdict->stops, .proven = verdict->clean()};
    for (const auto& r : o.results.operations)
        for (Finding f : r->findings)
            if (f.rank == Rank::Look) {
                f.operation = r->operation;
                in.findings.push_back(f);
            }
    if (!program.empty()) {
        const auto text = readFile(program, 1u << 30);
        if (!text) return c.failed(text.error());
        // A sheet must not vouch for a program of something else.
        const auto dialect = dialectOf(o.job, file);
        if (!dialect) return c.failed(dialect.error());
        const PostInput post = partLike(inDialect(postInputOf(o.job, o.results.place, o.results.operations), dialect->spelling), *text).input;
        const auto read = readBack(*text, post);
        if (!read) return c.failed(read.error());
        if (const auto report = compareProgram(*read, post); !report.agrees())
            return c.failed(Error{"the program is not that of this job: " + report.differences.front(), program, "Write it anew with gyre post", false});
        in.programs.push_back({std::filesystem::path(program).filename().string(), *text});
    }
    if (auto ok = writeFileAtomic(target, gyre::setupSheet(in), true); !ok) return c.failed(ok.error());
    if (!tools.empty())
        if (auto ok = writeFileAtomic(tools, toolList(in), true); !ok) return c.failed(ok.error());
    const auto used = setupTools(in).size();
    if (c.json)
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"file", target}, {"tools", used}, {"operations", o.results.operations.size()}, {"stops", verdict->stops.size()}}, 1));
    else
        fmt::print(c.out, "{}: {} tools, {} operations; {}\n", target, used, o.results.operations.size(),
                   verdict->clean() ? "proven, no Stop" : fmt::format("{} Stops stand on it", verdict->stops.size()));
    return verdict->clean() ? kExitOk : kExitStop;
}

} // namespace gyre
