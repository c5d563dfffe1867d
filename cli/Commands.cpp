#include "Batch.h"
#include "Console.h"
#include "Describe.h"
#include "base/File.h"
#include "guard/Overlaps.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "part/Aside.h"
#include "pattern/Pattern.h"
#include "session/RouteProof.h"
#include "session/Sending.h"
#include "session/TimeSpent.h"
#include <CLI/CLI.hpp>
#include <clocale>
#include <functional>
#include <sys/resource.h>

namespace gyre {

OrderedJson findingToJson(const Finding& f) {
    OrderedJson j = {{"rank", rankName(f.rank)}, {"check", checkName(f.check)}, {"code", f.code},    {"stage", f.stage}, {"operation", f.operation},
                     {"text", f.text},           {"reason", f.reason},          {"amount", f.amount}};
    if (f.row >= 0) j["row"] = f.row;
    if (f.place) j["place"] = {(*f.place)[0], (*f.place)[1], (*f.place)[2]};
    if (f.span) j["locations"] = {f.span->first, f.span->second};
    j["remedies"] = OrderedJson::array();
    for (const Remedy& r : f.remedies) j["remedies"].push_back({{"label", r.label}, {"set", r.key}, {"to", r.value}});
    return j;
}

Result<std::unique_ptr<Opened>> openAndCompute(const Console& c, const std::string& file, double upTo) {
    auto job = openJob(file);
    if (!job) return tl::unexpected(job.error());
    auto o = std::unique_ptr<Opened>(new Opened{std::move(*job), Workshop(std::filesystem::path(file).parent_path()), {}, {}});
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.0, upTo);
    auto results = computeJob(o->job, o->workshop, o->cache, progress);
    if (!results) return tl::unexpected(results.error());
    o->results = std::move(*results);
    return o;
}

namespace {

OrderedJson summaryOf(const OperationResult& r) {
    OrderedJson j = {{"operation", r.operation}, {"name", r.name}, {"complete", r.complete()}};
    if (r.omitted) j["omitted"] = true;
    for (int s = 0; s < kStages; ++s) j["facts"][stageName(static_cast<Stage>(s))] = r.facts(static_cast<Stage>(s));
    if (r.complete()) {
        const PathLength l = pathLength(r.links->path);
        j["locations"] = r.links->path.size();
        j["steps"] = r.motion->size();
        j["rows"] = r.pattern->rows.size();
        j["widestGap"] = r.pattern->widestGap;
        j["spacing"] = r.pattern->spacing;
        if (r.scallop > 0.0) j["scallop"] = r.scallop;
        j["length"] = l.all;
        j["cuttingLength"] = l.cutting;
        j["seconds"] = secondsOf(r);
        j["stickOutThatWouldDo"] = r.guard->stickOut ? OrderedJson(*r.guard->stickOut) : OrderedJson(nullptr);
    }
    return j;
}

OrderedJson toldOf(const TimeSpent& spent, const Machine& machine) {
    OrderedJson waits;
    for (std::size_t j = 0; j < spent.byJoint.size(); ++j) waits[machine.joints[j].name] = spent.byJoint[j];
    return {{"all", spent.all()},         {"cutting", spent.cutting},     {"rapids", spent.rapids},     {"waits", spent.waits}, {"changes", spent.changes},
            {"changing", spent.changing}, {"clampings", spent.clampings}, {"clamping", spent.clamping}, {"waitsFor", waits}};
}

void printFindings(const Console& c, const std::vector<Finding>& findings) {
    for (const Finding& f : findings) {
        fmt::print(c.out, "  {} · {}", rankName(f.rank), f.text);
        if (!f.reason.empty()) fmt::print(c.out, " ({})", f.reason);
        if (f.place) fmt::print(c.out, " at {:.2f} {:.2f} {:.2f}", (*f.place)[0], (*f.place)[1], (*f.place)[2]);
        fmt::print(c.out, "\n");
        for (const Remedy& r : f.remedies) fmt::print(c.out, "      {}: set {} to {}\n", r.label, r.key, r.value);
    }
}

bool anyStop(const std::vector<Finding>& findings) {
    return std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.rank == Rank::Stop; });
}

int planOrProve(const Console& c, const std::string& file, bool proveToo) {
    auto opened = openAndCompute(c, file, proveToo ? 0.6 : 1.0);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    OrderedJson all = OrderedJson::array();
    bool stop = false;
    RouteProof proofs(o.results.place, o.cache);
    Progress progress(c.listener());
    OrderedJson overlaps = OrderedJson::array();
    for (const Overlap& lap : *o.results.place->overlaps) {
        overlaps.push_back({{"bodies", {lap.one, lap.other}}, {"depth", lap.depth}, {"at", list(lap.at)}});
        if (!c.json) fmt::print(c.out, "{} and {} stand {:.2f} mm in one another\n", lap.one, lap.other, lap.depth);
    }
    for (const auto& r : o.results.operations) {
        std::vector<Finding> findings = r->findings;
        OrderedJson j = summaryOf(*r);
        if (proveToo) {
            progress.report(0.6, "Proving " + r->operation + " at the machine");
            auto proof = proofs.next(r, ProofSpec::under(o.job.resolved(*o.job.operation(r->operation)).guard), progress);
            if (!proof) return c.failed(proof.error());
            findings.insert(findings.end(), proof->findings.begin(), proof->findings.end());
            static constexpr const char* kMarks[] = {"unknown", "clear", "look", "stop"};
            static constexpr const char* kChecks[] = {"gouge", "shank", "holder", "travel", "machine"};
            const Marks marks = marksOf(r.get(), &*proof);
            for (std::size_t k = 0; k < marks.size(); ++k) j["marks"][kChecks[k]] = kMarks[static_cast<int>(marks[k])];
            j["pairs"] = proof->pairs;
            j["questions"] = proof->questions;
        }
        stop = stop || anyStop(findings);
        if (c.json) {
            j["findings"] = OrderedJson::array();
            for (const Finding& f : findings) j["findings"].push_back(findingToJson(f));
            all.push_back(j);
            continue;
        }
        fmt::print(c.out, "{} ({})\n", r->name, r->operation);
        for (int s = 0; s < kStages; ++s)
            if (const auto text = r->facts(static_cast<Stage>(s)); !text.empty()) fmt::print(c.out, "  {}: {}\n", stageName(static_cast<Stage>(s)), text);
        if (r->complete()) fmt::print(c.out, "  {} locations, {:.0f} s\n", r->links->path.size(), secondsOf(*r));
        if (proveToo) fmt::print(c.out, "  marks: {}\n", j["marks"].dump());
        printFindings(c, findings);
    }
    const TimeSpent spent = timeSpent(postInputOf(o.job, o.results.place, o.results.operations));
    if (c.json)
        fmt::print(
            c.out, "{}\n",
            textOf(OrderedJson{{"job", o.job.name}, {"overlaps", overlaps}, {"operations", all}, {"time", toldOf(spent, *o.results.place->machine)}, {"stop", stop}}, 1));
    else if (spent.paths() > 0.0)
        fmt::print(c.out, "in all {:.0f} s: {}\n", spent.all(), wordsOf(spent, *o.results.place->machine));
    return proveToo && stop ? kExitStop : kExitOk;
}

/// Tells what stands against a program. @return kExitStop
int refused(const Console& c, const Job& job, const Verdict& verdict, const std::string& target) {
    if (c.json) {
        OrderedJson j = {{"file", nullptr}, {"stops", OrderedJson::array()}, {"changed", verdict.unread}};
        for (const Finding& f : verdict.stops) j["stops"].push_back(findingToJson(f));
        fmt::print(c.out, "{}\n", textOf(j, 1));
    }
    for (const std::string& f : verdict.unread) fmt::print(c.err, "gyre: {} has changed while the job was computed\n", f);
    for (const Finding& f : verdict.stops) fmt::print(c.err, "gyre: Stop · {}\n", named(job, f));
    fmt::print(c.err, "gyre: {} is not written{}\n", target, verdict.unread.empty() ? "; --despite-stops writes it with these Stops at its head" : "");
    return kExitStop;
}

/// What the read-back tells besides.
void tellBesides(const Console& c, const ReplayReport& r) {
    if (r.arcs > 0) fmt::print(c.out, "  {} arcs, at most {:.4f} mm from the straight moves that were proven\n", r.arcs, r.strays);
    if (r.own > 0) fmt::print(c.out, "  {} lines are the dialect's own: they stand where they are meant to, what they do is not checked\n", r.own);
    if (r.unread > 0) fmt::print(c.out, "  {} lines were rewritten by the dialect's script beyond reading: NOT CHECKED\n", r.unread);
}

int post(const Console& c, const std::string& file, const std::string& target, const std::string& dialectText, bool despiteStops) {
    if (const auto known = chooseDialect(dialectText, {}); !known) return c.failed(known.error()); // before all the work
    auto opened = openAndCompute(c, file, 0.6);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    const auto dialect = dialectOf(o.job, file, dialectText);
    if (!dialect) return c.failed(dialect.error());
    if (const auto ok = mayBeReplaced(target, file, o.results.place->inputs); !ok) return c.failed(ok.error());
    PostInput input = inDialect(postInputOf(o.job, o.results.place, o.results.operations), dialect->spelling);
    // What cannot be written at all needs no proof.
    if (const auto can = intendedProgram(input, dialect->kind); !can) return c.failed(can.error());
    Progress progress(c.listener());
    const Progress::Span span(progress, 0.6, 0.95);
    const auto verdict = judge(o.job, o.results, o.cache, progress);
    if (!verdict) return c.failed(verdict.error());
    if (!verdict->unread.empty() || (!verdict->stops.empty() && !despiteStops)) return refused(c, o.job, *verdict, target);
    input.warnings = warningsOf(verdict->stops);
    // All of them are written and read back before the first is stored.
    const std::vector<ProgramPart> parts = partsOf(input);
    std::vector<CheckedProgram> programs;
    for (std::size_t k = 0; k < parts.size(); ++k) {
        if (const auto ok = mayBeReplaced(partFile(target, k, parts.size()), file, o.results.place->inputs); !ok) return c.failed(ok.error());
        auto checked = writeChecked(parts[k].input, dialect->kind);
        if (!checked) return c.failed(checked.error());
        programs.push_back(std::move(*checked));
    }
    OrderedJson told = OrderedJson::array();
    for (std::size_t k = 0; k < parts.size(); ++k) {
        const std::string stored = partFile(target, k, parts.size()).string();
        const ReplayReport& report = programs[k].report;
        if (auto ok = writeFileAtomic(stored, programs[k].text, true); !ok) return c.failed(ok.error());
        told.push_back({{"file", stored},
                        {"dialect", dialect->spelling ? dialect->spelling->name.c_str() : kindOf(dialect->kind).word},
                        {"moves", report.moves},
                        {"tip", report.tip},
                        {"axis", degrees(report.axis)},
                        {"stops", verdict->stops.size()},
                        {"own", report.own},
                        {"unread", report.unread}});
        if (c.json) continue;
        fmt::print(c.out, "{}: {} steps, read back and replayed: tip within {:.6f} mm, axis within {:.6f}°; {}\n", stored, report.moves, report.tip, degrees(report.axis),
                   verdict->stops.empty() ? "proven, no Stop" : fmt::format("written despite {} Stops", verdict->stops.size()));
        tellBesides(c, report);
    }
    if (c.json) fmt::print(c.out, "{}\n", textOf(parts.size() == 1 ? told.front() : OrderedJson{{"programs", told}}, 1));
    return kExitOk;
}

int replay(const Console& c, const std::string& program, const std::string& file, const std::string& dialectText) {
    auto opened = openAndCompute(c, file, 0.9);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    const auto text = readFile(program, 1u << 30);
    if (!text) return c.failed(text.error());
    const auto dialect = dialectOf(o.job, file, dialectText);
    if (!dialect) return c.failed(dialect.error());
    const PostInput whole = inDialect(postInputOf(o.job, o.results.place, o.results.operations), dialect->spelling);
    for (const auto& op : whole.operations)
        if (!op.result->complete()) return c.failed(Error{"the operation has no toolpath to compare with", op.name, {}, false});
    const PostInput input = partLike(whole, *text).input;
    const auto read = readBack(*text, input);
    if (!read) return c.failed(Error{read.error().what, program + " " + read.error().place, read.error().remedy, false});
    const ReplayReport r = compareProgram(*read, input);
    if (c.json)
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"moves", r.moves},
                                      {"agrees", r.agrees()},
                                      {"tip", r.tip},
                                      {"axis", degrees(r.axis)},
                                      {"linear", r.linear},
                                      {"rotary", degrees(r.rotary)},
                                      {"differences", r.differences},
                                      {"own", r.own},
                                      {"unread", r.unread}},
                          1));
    else {
        fmt::print(c.out, "{} moves: {}\n", r.moves, r.agrees() ? "agrees with the job within the rounding" : "differs from the job");
        for (const auto& d : r.differences) fmt::print(c.out, "  {}\n", d);
        tellBesides(c, r);
    }
    return r.agrees() ? kExitOk : kExitStop;
}

/// The other side of openAside(): the answer, or what is wrong with the file, goes to `out`.
int readAside(const std::string& file, double deflection, const std::string& only, const std::string& out, std::uint64_t megabytes) {
    if (megabytes > 0) {
        const rlimit most{megabytes << 20, megabytes << 20};
        if (::setrlimit(RLIMIT_AS, &most) != 0) return kExitFailed;
    }
    const auto ok = readForOther(file, deflection, only, out);
    if (ok) return kExitOk;
    const auto told = writeFileAtomic(out, textOf({{"what", ok.error().what}, {"place", ok.error().place}, {"remedy", ok.error().remedy}}));
    return told ? kExitFailed : kExitUsage;
}

int dump(const Console& c, const std::string& file, const std::string& folder) {
    auto opened = openAndCompute(c, file, 1.0);
    if (!opened) return c.failed(opened.error());
    for (const auto& r : (*opened)->results.operations) {
        if (auto ok = dumpOperation((*opened)->results, *r, folder); !ok) return c.failed(ok.error());
        fmt::print(c.out, "{}/{}.csv\n", folder, harmlessName(r->operation));
    }
    return kExitOk;
}

} // namespace

namespace {

/// Numbers on the command line have a point, whatever the locale of who calls.
class PointInNumbers {
public:
    PointInNumbers() : m_plain(::newlocale(LC_NUMERIC_MASK, "C", nullptr)), m_before(::uselocale(m_plain)) {}
    ~PointInNumbers() {
        ::uselocale(m_before);
        ::freelocale(m_plain);
    }
    PointInNumbers(const PointInNumbers&) = delete;
    PointInNumbers& operator=(const PointInNumbers&) = delete;

private:
    locale_t m_plain, m_before;
};

/// "TEXT:{tip,joints,cldata}": for help, the manual and completion.
std::string dialectWords() {
    std::string words;
    for (const DialectKind& k : dialects()) words += (words.empty() ? "" : ",") + std::string(k.word);
    return "TEXT:{" + words + "}";
}

/// The commands with their options; each runs when it was the one that was named.
class CommandLine {
public:
    CommandLine(std::ostream& out, std::ostream& err) : m_c{out, err} {
        m_app.require_subcommand(1);
        m_app.set_version_flag("--version", std::string("gyre ") + GYRE_VERSION + " of Humble Gyre", "its version");
        m_app.add_option("--describe", m_describe, "")->group("")->check(CLI::IsMember({"manual", "bash"}))->trigger_on_parse()->each([this](const std::string& as) {
            m_c.out << describedAs(as);
            throw CLI::Success();
        });
        m_app.add_flag("--json", m_c.json, "results as JSON");
        m_app.add_flag("--quiet", m_c.quiet, "no progress on stderr");
        m_app.fallthrough();
        looking();
        making();
        computing();
        sending();
    }
    int run(int argc, const char* const* argv) {
        const PointInNumbers point;
        try {
            m_app.parse(argc, argv);
        } catch (const CLI::ParseError& e) {
            return m_app.exit(e, m_c.out, m_c.err) == 0 ? kExitOk : kExitUsage;
        }
        return m_code;
    }

private:
    [[nodiscard]] std::string describedAs(const std::string& as) const {
        if (as == "bash") return bashCompletion(m_app, "gyre");
        return manualPage(
            m_app, {"gyre", GYRE_VERSION,
                    "Everything that the window of humble-gyre(1) computes, for scripts: look at parts, make jobs and add operations to them, compute and prove them, "
                    "write NC programs and set-up sheets, compare programs with jobs.\n\nFiles are described in /usr/share/doc/humble-gyre/formats.",
                    "0 all went well\n1 it could not be done; the reason is told\n2 the command line is not right\n3 there is a Stop, or a program differs from its job",
                    "humble-gyre(1)"});
    }
    CLI::App* command(const char* name, const char* what, const std::function<int()>& does) {
        CLI::App* made = m_app.add_subcommand(name, what);
        made->callback([this, does] { m_code = does(); });
        return made;
    }
    CLI::App* onPart(const char* name, const char* what, const std::function<int()>& does) {
        CLI::App* made = command(name, what, does);
        made->add_option("part", m_file, "STEP, IGES, BREP, STL, OBJ or PLY file")->required();
        return made;
    }
    CLI::App* onJob(const char* name, const char* what, const std::function<int()>& does) {
        CLI::App* made = command(name, what, does);
        made->add_option("job", m_file, "job file")->required();
        return made;
    }
    CLI::App* addsToJob(const char* name, const char* what, const std::function<int()>& does) {
        CLI::App* made = onJob(name, what, does);
        made->add_option("--out", m_second, "the job file to write")->required();
        made->add_option("--tool", m_wanted.tool, "id of a tool of the job");
        made->add_option("--depth", m_wanted.depth, "mm below what is picked")->check(CLI::Range(0.001, 10000.0));
        made->add_option("--repeat", m_wanted.repeat, "so many times around an axis")->check(CLI::Range(2, 10000));
        made->add_option("--axis", m_wanted.axis, "of the repeat: x, y or z")->capture_default_str()->check(CLI::IsMember({"x", "y", "z"}));
        made->add_option("--skin", m_wanted.skin, "\"plane 40\", \"cylinder 60 z\" or \"sphere 90\": what moves between cuts stay outside of");
        made->add_option("--set", m_wanted.words, "any word of the operation: key=value as in the job file, e.g. links.approach=2");
        return made;
    }

    void looking() {
        onPart("inspect", "faces and edges of a part", [this] { return inspect(m_c, m_file); });
        auto* holesCmd = onPart("holes", "holes of a part, in groups", [this] { return holes(m_c, m_file, m_faces, m_machine); });
        holesCmd->add_option("--faces", m_faces, "only those on these faces");
        holesCmd->add_option("--machine", m_machine, "machine file: says which rotary angles bring each hole under the spindle");
        auto* flankCmd = onPart("flank", "can a cutter's side follow the faces?",
                                [this] { return m_lower.empty() ? flank(m_c, m_file, m_faces, m_diameter) : flankOfEdges(m_c, m_file, m_lower, m_upper, m_diameter); });
        flankCmd->add_option("--faces", m_faces, "only these faces");
        auto* lower = flankCmd->add_option("--lower", m_lower, "the surface between these edges …");
        auto* upper = flankCmd->add_option("--upper", m_upper, "… and these");
        lower->needs(upper);
        upper->needs(lower);
        flankCmd->add_option("--diameter", m_diameter, "of the cutter, mm")->capture_default_str()->check(CLI::Range(0.01, 500.0));
        command("contents", "bodies of a STEP assembly, curves of a DXF or SVG drawing", [this] { return contents(m_c, m_file); })
            ->add_option("file", m_file, "STEP, DXF or SVG file")
            ->required();
        auto* asideCmd = command("read-aside", "read a part file for another process", [this] { return readAside(m_file, m_deflection, m_only, m_second, m_megabytes); });
        asideCmd->group(""); // not for people
        asideCmd->add_option("file", m_file)->required();
        asideCmd->add_option("--deflection", m_deflection);
        asideCmd->add_option("--only", m_only)->expected(1);
        asideCmd->add_option("--out", m_second)->required();
        asideCmd->add_option("--memory", m_megabytes);
    }

    void making() {
        static constexpr const char* kByNumber = "faces by number, as in 'gyre inspect'";
        auto* newCmd =
            onPart("new", "a job around a part, with stock, seat, machine and tools", [this] { return makeNew(m_c, m_file, m_second, m_machine, m_shop, m_allowance); });
        newCmd->add_option("--out", m_second, "the job file to write")->required();
        newCmd->add_option("--machine", m_machine, "machine file, or the name of one beside the part or in the shop");
        newCmd->add_option("--shop", m_shop, "folder with more machines and tools");
        newCmd->add_option("--allowance", m_allowance, "stock around the part, mm")->capture_default_str()->check(CLI::Range(0.0, 1000.0));
        auto* rowsCmd = addsToJob("rows", "add rows over faces to a job", [this] { return rows(m_c, m_file, m_second, m_faces, m_lower, m_upper, m_wanted); });
        rowsCmd->add_option("--faces", m_faces, kByNumber)->delimiter(',')->required();
        rowsCmd->add_option("--rail1", m_lower, "edges of the first rail, where the pattern has one; none: as the faces suggest")->delimiter(',');
        rowsCmd->add_option("--rail2", m_upper, "edges of the second rail")->delimiter(',');
        auto* millCmd = addsToJob("mill", "add milling on a plane or around an axis to a job", [this] {
            return mill(m_c, m_file, m_second, m_shape, {m_faces, m_edges, m_drawing}, m_on, m_wanted);
        });
        millCmd->add_option("--shape", m_shape, "face, pocket, outline, bore, follow, round, rough or body; guessed from what is picked when left out");
        millCmd->add_option("--on", m_on, "a work plane by name, or \"round X\", \"round Y\", \"round Z\"");
        auto* alongCmd = addsToJob("along", "add work along a wall, a curve, a channel or sharp edges to a job", [this] {
            return along(m_c, m_file, m_second, m_shape, {m_faces, m_edges, m_drawing}, m_wanted);
        });
        alongCmd->alias("follow"); // its name before
        alongCmd->add_option("--what", m_shape, "wall, curve, channel, edges, around, body, holes-near, holes-far or holes")->required();
        for (CLI::App* picks : {millCmd, alongCmd}) {
            picks->add_option("--faces", m_faces, std::string(kByNumber) + (picks == alongCmd ? "; one face of a wall stands for all of it" : ""))->delimiter(',');
            picks->add_option("--edges", m_edges, "edges by number")->delimiter(',');
            picks->add_option("--drawing", m_drawing, "a drawing of the job, or a curve that its mends made");
        }
        auto* slicesCmd = onJob("slices", "cut operations of a job slice by slice", [this] { return slices(m_c, m_file, m_second, m_operations, m_wanted); });
        slicesCmd->add_option("--operations", m_operations, "their ids, as they stand one below the other")->delimiter(',')->required();
        slicesCmd->add_option("--out", m_second, "the job file to write")->required();
        slicesCmd->add_option("--set", m_wanted.words, "a word of the slices, e.g. slices.from=36, slices.to=7, slices.thickness=4");
        auto* varyCmd =
            onJob("vary", "another variant of an operation, which is put aside as it is", [this] { return vary(m_c, m_file, m_second, m_only, m_take, m_wanted); });
        varyCmd->add_option("--operation", m_only, "its id")->required();
        varyCmd->add_option("--out", m_second, "the job file to write")->required();
        varyCmd->add_option("--take", m_take, "no new one: this one, that is put aside, is taken");
        varyCmd->add_option("--set", m_wanted.words, "a word that it says otherwise: key=value as in the job file, e.g. pattern.spacing=0.5");
        addsToJob("drill", "add spotting and drilling of the holes to a job", [this] { return drill(m_c, m_file, m_second, m_group, m_wanted); })
            ->add_option("--group", m_group, "one group of 'gyre holes' alone, counted from 1")
            ->check(CLI::Range(1, 100000));
    }

    void computing() {
        onJob("mends", "what the mends of a job come to; exit 3 when one cannot be made", [this] {
            return mends(m_c, m_file, m_second);
        })->add_option("--out", m_second, "write their curves to this DXF file");
        onJob("plan", "compute all operations; facts and findings", [this] { return planOrProve(m_c, m_file, false); });
        onJob("prove", "plan, then check every body of the machine; exit 3 when there is a Stop", [this] { return planOrProve(m_c, m_file, true); });
        auto* cutCmd = onJob("cut", "the stock that the operations leave, as an STL file", [this] { return cutStock(m_c, m_file, m_second, m_only); });
        cutCmd->add_option("--out", m_second, "STL file to write")->required();
        cutCmd->add_option("--until", m_only, "id of the last operation that counts; all when left out");
        auto* engagedCmd = onJob("engagement", "how heavily the cutters stand in what they cut: angle, depth, chip; the most of each operation and where",
                                 [this] { return engagementOf(m_c, m_file, m_only); });
        engagedCmd->add_option("--operation", m_only, "its id; all when left out");
        auto* compareCmd =
            onJob("compare", "the stock that the operations leave against the exact part", [this] { return compareWithPart(m_c, m_file, m_limits, m_only, m_second); });
        compareCmd->add_option("--page", m_second, "write it as an HTML page too");
        compareCmd->add_option("--bands", m_limits, "ends of the bands that the surface is counted in, mm, e.g. -0.05,0.05,0.2")->delimiter(',')->capture_default_str();
        compareCmd->add_option("--until", m_only, "id of the last operation that counts; all when left out");
        onJob("variants", "what the variants of an operation come to, side by side", [this] { return variants(m_c, m_file, m_only); })
            ->add_option("--operation", m_only, "its id")
            ->required();
        auto* fitsCmd = onJob("assemblies", "which assemblies of the job do the work of an operation, and how far they must stick out",
                              [this] { return assemblies(m_c, m_file, m_only, m_shop, m_step); });
        fitsCmd->add_option("--operation", m_only, "its id; the first one when left out");
        fitsCmd->add_option("--library", m_shop, "a file of tools, tried as well");
        fitsCmd->add_option("--step", m_step, "stick-outs are rounded up to it, mm")->capture_default_str()->check(CLI::Range(0.01, 100.0));
        auto* marksCmd = onJob("marks", "the marks that the cutters leave on the part at a place of a path: heights, roughness across and along the feed",
                               [this] { return marksThere(m_c, m_file, m_marks, m_second); });
        marksCmd->add_option("--operation", m_marks.operation, "its id; the last one when left out");
        marksCmd->add_option("--at", m_marks.at, "place on its path, 0 to 1")->capture_default_str()->check(CLI::Range(0.0, 1.0));
        marksCmd->add_option("--size", m_marks.size, "width of the patch, mm; wide enough for some rows when left out")->check(CLI::Range(0.1, 50.0));
        marksCmd->add_option("--out", m_second, "write all heights to this CSV file");
        onJob("seats", "where the part should stand on the table: time and travel at many places of it; and the job with the part at the best", [this] {
            return seats(m_c, m_file, m_second);
        })->add_option("--out", m_second, "job to write, with the part there");
        auto* againCmd = onJob("use-again", "the job for another part, or a newer file of it: what operations name is looked for there; exit 3 when something is gone",
                               [this] { return useOn(m_c, m_file, m_part, m_second); });
        againCmd->add_option("PART", m_part, "part file to use it on")->required()->check(CLI::ExistingFile);
        againCmd->add_option("--out", m_second, "job to write")->required();
        auto* stillCmd = onJob("directions", "the fewest directions that reach what an operation cuts, the axis standing still; and operations with them",
                               [this] { return directions(m_c, m_file, m_only, m_lean, m_second); });
        stillCmd->add_option("--operation", m_only, "its id; the first one when left out");
        stillCmd->add_option("--lean", m_lean, "how far the axis may lean off the faces' normal, degrees")->capture_default_str()->check(CLI::Range(5.0, 120.0));
        stillCmd->add_option("--out", m_second, "job to write, with an operation for each direction in its place");
        onJob("dump", "tables of every location", [this] { return dump(m_c, m_file, m_second); })->add_option("--dir", m_second, "folder to write to")->required();
    }

    void sending() {
        auto* postCmd = onJob("post", "prove, write the NC program, read it back, compare; exit 3 and no program when there is a Stop",
                              [this] { return post(m_c, m_file, m_second, m_dialect, m_despiteStops); });
        postCmd->add_option("--out", m_second, "file to write")->required();
        postCmd->add_option("--dialect", m_dialect, "how it is written: one of these, or a dialect file; as the job says when left out")->type_name(dialectWords());
        postCmd->add_flag("--despite-stops", m_despiteStops, "write it although there are findings of rank Stop; they stand at its head");
        auto* sheetCmd = onJob("setup-sheet", "prove, write the set-up sheet: clamping, tools, operations, what to look at; exit 3 when a Stop stands on it",
                               [this] { return setupSheet(m_c, m_file, m_second, m_tools, m_program); });
        sheetCmd->add_option("--out", m_second, "HTML file to write")->required();
        sheetCmd->add_option("--tools", m_tools, "write the list of tools to this CSV file as well");
        sheetCmd->add_option("--program", m_program, "the NC file that goes with it: it is compared with the job, and its checksum told");
        auto* batchCmd =
            command("batch", "prove many jobs, or write their programs, on all cores; what is unchanged since the last time is kept; exit 3 when one has a Stop",
                    [this] { return batch(m_c, m_batch); });
        batchCmd->add_option("jobs", m_batch.jobs, "job files, folders of jobs, or lists with a job file on each line")->required();
        batchCmd->add_option("--out", m_batch.out, "folder for results, programs, report.json and report.html")->required();
        batchCmd->add_option("--work", m_batch.work, "what is done: prove, or post where there is no Stop")
            ->capture_default_str()
            ->check(CLI::IsMember({"prove", "post"}));
        batchCmd->add_option("--dialect", m_batch.dialect, "how they are written: one of these, or a dialect file; as each job says when left out")
            ->type_name(dialectWords());
        batchCmd->add_option("--at-once", m_batch.atOnce, "so many jobs at a time; as many as there are cores when left out")->check(CLI::Range(1, 1024));
        batchCmd->add_flag("--again", m_batch.again, "also those that are unchanged");
        auto* oneCmd = command("batch-one", "one job of a batch", [this] { return batchOne(m_c, m_file, m_second, m_program, m_batch.work, m_batch.dialect, m_group); });
        oneCmd->group(""); // not for people
        oneCmd->add_option("job", m_file)->required();
        oneCmd->add_option("--result", m_second)->required();
        oneCmd->add_option("--program", m_program);
        oneCmd->add_option("--work", m_batch.work);
        oneCmd->add_option("--dialect", m_batch.dialect);
        oneCmd->add_option("--threads", m_group)->required()->check(CLI::Range(1, 1024));
        auto* replayCmd = command("replay", "compare an NC program with a job; exit 3 when it differs", [this] { return replay(m_c, m_second, m_file, m_dialect); });
        replayCmd->add_option("program", m_second, "NC or cutter-location file")->required();
        replayCmd->add_option("--job", m_file, "job file")->required();
        replayCmd->add_option("--dialect", m_dialect, "a dialect file; the job's own when left out")->type_name("FILE");
        auto* proveTextCmd = command("prove-program", "prove an NC program that a hand has changed; exit 3 when it is not safe",
                                     [this] { return proveProgram(m_c, m_second, m_file, m_dialect); });
        proveTextCmd->add_option("program", m_second, "NC or cutter-location file")->required();
        proveTextCmd->add_option("--job", m_file, "job file that it was written from")->required();
        proveTextCmd->add_option("--dialect", m_dialect, "a dialect file; the job's own when left out")->type_name("FILE");
    }

    Console m_c;
    CLI::App m_app{"Humble Gyre without a window: toolpaths for 4- and 5-axis milling", "gyre"};
    int m_code = kExitOk;
    std::string m_file, m_second, m_dialect, m_machine, m_shape, m_drawing, m_on, m_shop, m_only, m_tools, m_program, m_describe, m_take, m_part;
    std::vector<int> m_faces, m_edges, m_lower, m_upper;
    std::vector<std::string> m_operations;
    double m_step = 0.5, m_lean = 75.0;
    MarksAsked m_marks;
    std::vector<double> m_limits{-0.05, 0.05, 0.2, 1.0};
    double m_diameter = 6.0, m_allowance = 2.0, m_deflection = 0.0;
    int m_group = 0;
    std::uint64_t m_megabytes = 0;
    bool m_despiteStops = false;
    Wanted m_wanted;
    BatchWanted m_batch;
};

} // namespace

int runCommandLine(int argc, const char* const* argv, std::ostream& out, std::ostream& err) { return CommandLine(out, err).run(argc, argv); }

} // namespace gyre
