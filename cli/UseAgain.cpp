// A route put on another part.
#include "session/UseAgain.h"
#include "Console.h"
#include "operation/Workplace.h"

namespace gyre {
namespace {

const Part& bodyOf(const Workplace& place) { return place.part->body() ? *place.part->body() : *place.part; }

OrderedJson toldOf(const Followed& f) {
    OrderedJson out{{"name", f.name}};
    if (!f.operation.empty()) out["operation"] = f.operation;
    if (!f.word.empty()) out["word"] = f.word;
    for (const auto& [key, n] :
         {std::pair("same", f.same), std::pair("changed", f.moved), std::pair("alike", f.alike), std::pair("new", f.added), std::pair("gone", f.gone)})
        out[key] = n;
    out["furthest"] = f.furthest;
    return out;
}

} // namespace

int useOn(const Console& c, const std::string& file, const std::string& part, const std::string& out) {
    const auto was = openAndPlace(c, file);
    if (!was) return c.failed(was.error());
    if (!was->place->part) return c.failed({"the job has no part", file, "Open one in Set up", false});
    const std::filesystem::path folder = std::filesystem::absolute(file).parent_path();
    Job job = was->job;
    for (JobBody& b : job.bodies)
        if (b.role == "part") {
            b.file = std::filesystem::absolute(part).string();
            b.only.clear();
        }
    Workshop workshop(folder);
    Progress progress(c.listener());
    const auto is = workshop.placeFor(job, progress);
    if (!is) return c.failed(is.error());
    const UsedAgain again = useAgain(job, bodyOf(*was->place), was->place->holes, bodyOf(**is), (*is)->holes);
    if (const auto ok = saveBeside(again.job, file, out); !ok) return c.failed(ok.error());
    if (c.json) {
        OrderedJson named = OrderedJson::array();
        for (const Followed& f : again.followed) named.push_back(toldOf(f));
        const PartMatch& m = again.match;
        fmt::print(
            c.out, "{}\n",
            textOf(OrderedJson{{"job", out},
                               {"faces", {{"same", m.count(FoundBy::Same)}, {"gone", m.count(FoundBy::Nothing)}, {"all", m.faces.size()}, {"new", m.fresh.size()}}},
                               {"named", named},
                               {"gone", again.gone()}},
                   1));
    } else {
        fmt::print(c.out, "{}\n", wordsOf(again.match));
        for (const Followed& f : again.followed) fmt::print(c.out, "{}{}: {}\n", f.name, f.word.empty() ? "" : ", " + f.word, wordsOf(f));
    }
    return again.gone() > 0 ? kExitStop : kExitOk;
}

} // namespace gyre
