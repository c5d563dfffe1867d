#include "Batch.h"
#include "base/File.h"
#include "base/Html.h"
#include "base/Inputs.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/Sending.h"
#include <algorithm>
#include <csignal>
#include <fcntl.h>
#include <map>
#include <set>
#include <spawn.h>
#include <sys/prctl.h>
#include <sys/wait.h>
#include <tbb/global_control.h>
#include <thread>
#include <unistd.h>

namespace gyre {
namespace fs = std::filesystem;

namespace {

constexpr int kVersion = 2; // 2: several programs

/// One job of a batch: where it lies, and what its files are called.
struct Item {
    fs::path job;
    std::string name;
    [[nodiscard]] fs::path in(const fs::path& folder, const char* ending) const { return folder / (name + ending); }
    [[nodiscard]] fs::path programIn(const fs::path& folder, const BatchWanted& wanted) const {
        const auto dialect = chooseDialect(wanted.dialect, {});
        return in(folder, dialect ? dialect->ending() : ".nc");
    }
};

/// What became of it.
struct Outcome {
    OrderedJson told; ///< as the process of its own wrote it
    bool kept = false;
    [[nodiscard]] std::string state() const { return told.value("state", "failed"); }
};

Result<std::vector<fs::path>> jobsIn(const std::string& given) {
    std::error_code ec;
    const fs::path file = given;
    std::vector<fs::path> out;
    if (fs::is_directory(file, ec)) {
        for (const auto& e : fs::directory_iterator(file, ec))
            if (e.path().filename().string().ends_with(".gyre.json")) out.push_back(e.path());
        std::sort(out.begin(), out.end());
        if (out.empty()) return fail("there are no jobs in the folder", given, "Jobs end in .gyre.json");
        return out;
    }
    if (given.ends_with(".json")) return std::vector<fs::path>{file};
    constexpr std::size_t kLargest = 16u << 20;
    const auto text = readFile(file, kLargest);
    if (!text) return tl::unexpected(text.error());
    std::istringstream lines(*text);
    for (std::string line; std::getline(lines, line);) {
        while (!line.empty() && std::isspace(static_cast<unsigned char>(line.back()))) line.pop_back();
        if (line.empty() || line[0] == '#') continue;
        out.push_back(fs::path(line).is_absolute() ? fs::path(line) : file.parent_path() / line);
    }
    if (out.empty()) return fail("the list names no jobs", given, "It has a job file on each line");
    return out;
}

Result<std::vector<Item>> itemsOf(const std::vector<std::string>& given) {
    std::vector<Item> items;
    std::set<fs::path> seen;
    std::set<std::string> names;
    for (const std::string& g : given) {
        const auto files = jobsIn(g);
        if (!files) return tl::unexpected(files.error());
        for (const fs::path& f : *files) {
            std::error_code ec;
            const fs::path whole = fs::weakly_canonical(f, ec);
            if (!seen.insert(whole).second) continue;
            std::string stem = f.filename().string();
            for (const char* ending : {".json", ".gyre"})
                if (stem.ends_with(ending)) stem.resize(stem.size() - std::string(ending).size());
            std::string name = harmlessName(stem);
            // Two jobs of one name in different folders: told apart by where they lie.
            if (!names.insert(name).second) names.insert(name = harmlessName(stem + " of " + whole.string()));
            items.push_back({whole, name});
        }
    }
    return items;
}

OrderedJson inputsOf(const std::vector<InputFile>& inputs) {
    OrderedJson out = OrderedJson::array();
    for (const InputFile& f : inputs) out.push_back({{"file", f.file.string()}, {"content", fmt::format("{:016x}", f.content)}});
    return out;
}

/// Nothing in the folder that no batch has written is written over.
Status onlyOurs(const fs::path& folder, const std::vector<Item>& items, const BatchWanted& wanted) {
    constexpr std::size_t kLargest = 1u << 30;
    std::error_code ec;
    const auto other = [](const fs::path& file) { return fail("there is a file of that name that no batch wrote", file.string(), "Choose another folder"); };
    if (fs::exists(folder / "report.json", ec)) {
        const auto text = readFile(folder / "report.json", kLargest);
        const auto parsed = text ? OrderedJson::parse(*text, nullptr, false) : OrderedJson();
        if (!parsed.is_object() || parsed.value("format", "") != "gyre-batch") return other(folder / "report.json");
    } else if (fs::exists(folder / "report.html", ec)) {
        return other(folder / "report.html");
    }
    for (const Item& item : items)
        if (wanted.work == "post" && fs::exists(item.programIn(folder, wanted), ec) && !fs::exists(item.in(folder, ".result.json"), ec))
            return other(item.programIn(folder, wanted));
    return {};
}

/// A result that was written before, if it is of the same work and all that it rests on is as it was.
/// Files of the programs that a result tells of, with what was in them.
std::vector<std::pair<std::string, std::string>> programsOf(const OrderedJson& told) {
    std::vector<std::pair<std::string, std::string>> out;
    if (told.is_object() && told.contains("nc") && told["nc"].is_array())
        for (const auto& p : told["nc"])
            if (p.is_object()) out.emplace_back(p.value("file", ""), p.value("content", ""));
    return out;
}

std::optional<OrderedJson> keptResult(const fs::path& file, const Item& item, const BatchWanted& wanted, FileContents& contents) {
    constexpr std::size_t kLargest = 256u << 20;
    const auto text = readFile(file, kLargest);
    if (!text) return std::nullopt;
    const auto parsed = OrderedJson::parse(*text, nullptr, false);
    if (!parsed.is_object() || parsed.value("version", 0) != kVersion || parsed.value("program", "") != GYRE_VERSION || parsed.value("work", "") != wanted.work ||
        parsed.value("dialect", "") != wanted.dialect || parsed.value("job", "") != item.job.string() || !parsed.contains("inputs") || !parsed["inputs"].is_array() ||
        parsed["inputs"].empty() || parsed.value("state", "failed") == "failed")
        return std::nullopt;
    for (const auto& in : parsed["inputs"]) {
        if (!in.is_object()) return std::nullopt;
        const auto now = contents.of(in.value("file", ""));
        if (!now || fmt::format("{:016x}", *now) != in.value("content", "")) return std::nullopt;
    }
    for (const auto& [file, content] : programsOf(parsed)) {
        const auto now = contents.of(file);
        if (!now || fmt::format("{:016x}", *now) != content) return std::nullopt;
    }
    return parsed;
}

std::string sentenceOf(const OrderedJson& told) {
    const std::string state = told.value("state", "failed");
    if (state == "failed") return "failed: " + told.value("error", "no result");
    const std::size_t stops = told.contains("stops") ? told["stops"].size() : 0;
    const auto seconds = static_cast<int>(std::lround(told.value("seconds", 0.0)));
    std::string out = state == "safe" ? "safe" : fmt::format("{} {}", stops, stops == 1 ? "Stop" : "Stops");
    if (const int looks = told.value("looks", 0); looks > 0) out += fmt::format(", {} {}", looks, looks == 1 ? "Look" : "Looks");
    return out + fmt::format(", {}:{:02} min at the machine", seconds / 60, seconds % 60);
}

/// A page that shows which jobs are safe: the others first, in words and signs, not in colours alone.
std::string pageOf(const std::vector<Item>& items, const std::map<std::string, Outcome>& outcomes) {
    std::size_t safe = 0, stopped = 0, failed = 0;
    std::map<int, std::string> rows; // by rank
    for (const Item& item : items) {
        const Outcome& o = outcomes.at(item.name);
        const std::string state = o.state();
        (state == "safe" ? safe : state == "stop" ? stopped : failed) += 1;
        std::string list;
        if (o.told.contains("stops"))
            for (const auto& s : o.told["stops"]) list += "<li>" + htmlText(s.get<std::string>()) + "</li>";
        if (state == "failed") list = "<li>" + htmlText(o.told.value("error", "no result")) + "</li>";
        std::string links;
        for (const auto& program : programsOf(o.told)) links += fmt::format("<a href=\"{0}\">{0}</a> ", htmlText(fs::path(program.first).filename().string()));
        rows[state == "failed" ? 0
             : state == "stop" ? 1
                               : 2] += fmt::format("<tr class=\"{}\"><td>{}</td><td><b>{}</b><br><small>{}</small></td><td>{}{}</td><td>{}</td></tr>\n", state,
                                                   state == "safe"   ? "✓ safe"
                                                   : state == "stop" ? "▲ Stop"
                                                                     : "✕ failed",
                                                   htmlText(o.told.value("name", item.name)), htmlText(item.job.string()), htmlText(sentenceOf(o.told)),
                                                   list.empty() ? "" : "<ul>" + list + "</ul>", links);
    }
    std::string body;
    for (const auto& [rank, text] : rows) body += text;
    return fmt::format(R"(<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>Jobs</title><style>
body {{ font-family: sans-serif; margin: 2em; color: #22292f; }} table {{ border-collapse: collapse; }} td, th {{ text-align: left; vertical-align: top; padding: .5em 1em; border-top: 1px solid #ccc; }}
.stop td:first-child, .failed td:first-child {{ color: #9c2f1b; font-weight: bold; }} .safe td:first-child {{ color: #156a61; }} ul {{ margin: .3em 0; padding-left: 1.2em; }}
</style></head><body><h1>{} of {} jobs are safe</h1><p>{} with a Stop, {} failed.</p>
<table><tr><th></th><th>Job</th><th>What was found</th><th>Program</th></tr>
{}</table></body></html>
)",
                       safe, items.size(), stopped, failed, body);
}

/// Starts this program once more for one job. What it says goes to a file. @return 0 when it cannot be started
pid_t start(const Item& item, const fs::path& folder, const BatchWanted& wanted, int threads) {
    const std::string result = item.in(folder, ".result.json").string(), nc = wanted.work == "post" ? item.programIn(folder, wanted).string() : "",
                      said = item.in(folder, ".log").string();
    std::error_code ec;
    // What a former run left is no result of this one: the program first, so that none stays that nobody knows.
    if (!nc.empty()) {
        fs::remove(nc, ec);
        // One of several is told by the result; no file but one of this job's own is taken away.
        const auto former = readFile(result, 256u << 20);
        const std::string stem = fs::path(nc).stem().string();
        if (former)
            for (const auto& [file, content] : programsOf(OrderedJson::parse(*former, nullptr, false)))
                if (fs::path(file).parent_path() == fs::path(nc).parent_path() && fs::path(file).filename().string().starts_with(stem + "-") &&
                    fs::path(file).extension() == fs::path(nc).extension())
                    fs::remove(file, ec);
    }
    fs::remove(result, ec);
    std::vector<std::string> words{"gyre",   "--quiet",   "batch-one", item.job.string(), "--result",  result,
                                   "--work", wanted.work, "--dialect", wanted.dialect,    "--threads", fmt::format("{}", threads)};
    if (!nc.empty()) words.insert(words.end(), {"--program", nc});
    std::vector<char*> arguments;
    for (std::string& w : words) arguments.push_back(w.data());
    arguments.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    ::posix_spawn_file_actions_init(&actions);
    ::posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    ::posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, said.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
    ::posix_spawn_file_actions_adddup2(&actions, STDOUT_FILENO, STDERR_FILENO);
    pid_t child = 0;
    const int failed = ::posix_spawn(&child, "/proc/self/exe", &actions, nullptr, arguments.data(), environ);
    ::posix_spawn_file_actions_destroy(&actions);
    return failed == 0 ? child : 0;
}

OrderedJson resultOf(const Item& item, const fs::path& folder, int status) {
    constexpr std::size_t kLargest = 256u << 20;
    if (const auto text = readFile(item.in(folder, ".result.json"), kLargest)) {
        auto parsed = OrderedJson::parse(*text, nullptr, false);
        if (parsed.is_object()) return parsed;
    }
    std::string why =
        WIFSIGNALED(status) ? fmt::format("its process was ended by signal {}", WTERMSIG(status)) : fmt::format("its process ended with {}", WEXITSTATUS(status));
    if (const auto said = readFile(item.in(folder, ".log"), kLargest); said && !said->empty()) why += ": " + said->substr(0, 400);
    return {{"job", item.job.string()}, {"name", item.name}, {"state", "failed"}, {"error", why}};
}

/// Runs what is to be done, so many at a time.
class Runs {
public:
    Runs(const Console& c, const BatchWanted& wanted, fs::path folder, std::size_t whole) : m_c(c), m_wanted(wanted), m_folder(std::move(folder)), m_whole(whole) {
        const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
        m_most = wanted.atOnce > 0 ? wanted.atOnce : cores;
        m_threads = std::max(1, cores / m_most);
    }
    void kept(const Item& item, OrderedJson told) { done(item, {std::move(told), true}); }
    void all(const std::vector<const Item*>& todo) {
        for (const Item* item : todo) {
            while (static_cast<int>(m_running.size()) >= m_most) wait();
            const pid_t child = start(*item, m_folder, m_wanted, m_threads);
            if (child == 0)
                done(*item, {{{"job", item->job.string()}, {"name", item->name}, {"state", "failed"}, {"error", "no process could be started"}}, false});
            else
                m_running[child] = item;
        }
        while (!m_running.empty()) wait();
    }
    [[nodiscard]] const std::map<std::string, Outcome>& outcomes() const { return m_outcomes; }

private:
    void wait() {
        int status = 0;
        const pid_t child = ::waitpid(-1, &status, 0);
        const auto it = m_running.find(child);
        if (child < 0) m_running.clear();
        if (it == m_running.end()) return;
        const Item* item = it->second;
        m_running.erase(it);
        done(*item, {resultOf(*item, m_folder, status), false});
    }
    void done(const Item& item, Outcome outcome) {
        if (!m_c.quiet)
            fmt::print(m_c.err, "[{}/{}] {}: {}{}\n", m_outcomes.size() + 1, m_whole, item.name, sentenceOf(outcome.told), outcome.kept ? " (as before)" : "");
        m_outcomes[item.name] = std::move(outcome);
    }
    const Console& m_c;
    const BatchWanted& m_wanted;
    fs::path m_folder;
    std::size_t m_whole;
    int m_most = 1, m_threads = 1;
    std::map<pid_t, const Item*> m_running;
    std::map<std::string, Outcome> m_outcomes;
};

} // namespace

int batch(const Console& c, const BatchWanted& asked) {
    BatchWanted wanted = asked;
    if (const auto dialect = chooseDialect(wanted.dialect, {}); !dialect) return c.failed(dialect.error());
    if (!wanted.dialect.empty() && !dialectNamed(wanted.dialect)) wanted.dialect = fs::absolute(wanted.dialect).string();
    const auto items = itemsOf(wanted.jobs);
    if (!items) return c.failed(items.error());
    std::error_code ec;
    fs::create_directories(wanted.out, ec);
    const fs::path folder = fs::canonical(wanted.out, ec);
    if (ec) return c.failed({"the folder cannot be made: " + ec.message(), wanted.out, {}, false});
    if (const auto ok = onlyOurs(folder, *items, wanted); !ok) return c.failed(ok.error());
    Runs runs(c, wanted, folder, items->size());
    FileContents contents;
    std::vector<const Item*> todo;
    for (const Item& item : *items) {
        auto kept = wanted.again ? std::nullopt : keptResult(item.in(folder, ".result.json"), item, wanted, contents);
        if (kept)
            runs.kept(item, std::move(*kept));
        else
            todo.push_back(&item);
    }
    runs.all(todo);
    OrderedJson jobs = OrderedJson::array();
    std::map<std::string, int> count{{"safe", 0}, {"stop", 0}, {"failed", 0}};
    for (const Item& item : *items) {
        const Outcome& o = runs.outcomes().at(item.name);
        OrderedJson j = o.told;
        j.erase("inputs");
        j["kept"] = o.kept;
        count[o.state()] += 1;
        jobs.push_back(std::move(j));
    }
    const OrderedJson report = {{"format", "gyre-batch"}, {"version", kVersion},    {"work", wanted.work},       {"dialect", wanted.dialect},
                                {"safe", count["safe"]},  {"stops", count["stop"]}, {"failed", count["failed"]}, {"jobs", jobs}};
    for (const auto& [file, text] : {std::pair{folder / "report.json", textOf(report, 1) + "\n"}, std::pair{folder / "report.html", pageOf(*items, runs.outcomes())}})
        if (auto ok = writeFileAtomic(file, text); !ok) return c.failed(ok.error());
    if (c.json)
        fmt::print(c.out, "{}\n", textOf(report, 1));
    else
        fmt::print(c.out, "{} of {} jobs are safe, {} with a Stop, {} failed: {}\n", count["safe"], items->size(), count["stop"], count["failed"],
                   (folder / "report.html").string());
    return count["failed"] > 0 ? kExitFailed : count["stop"] > 0 ? kExitStop : kExitOk;
}

int batchOne(const Console& c, const std::string& job, const std::string& result, const std::string& program, const std::string& work, const std::string& dialectText,
             int threads) {
    ::prctl(PR_SET_PDEATHSIG, SIGKILL); // with the batch gone nobody waits for it
    const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, static_cast<std::size_t>(threads));
    OrderedJson told = {{"format", "gyre-batch-result"}, {"version", kVersion}, {"program", GYRE_VERSION}, {"work", work}, {"dialect", dialectText}, {"job", job}};
    const auto write = [&](int code) { return writeFileAtomic(result, textOf(told, 1) + "\n") ? code : kExitFailed; };
    const auto failed = [&](const Error& e) {
        told["state"] = "failed";
        told["error"] = e.text();
        return write(kExitFailed);
    };
    FileContents contents;
    const auto jobContent = contents.of(job);
    if (!jobContent) return failed(jobContent.error());
    auto opened = openAndCompute(c, job, 1.0);
    if (!opened) return failed(opened.error());
    Opened& o = **opened;
    told["name"] = o.job.name;
    const auto dialect = dialectOf(o.job, job, dialectText);
    if (!dialect) return failed(dialect.error());
    Progress progress;
    const auto verdict = judge(o.job, o.results, o.cache, progress);
    if (!verdict) return failed(verdict.error());
    if (!verdict->unread.empty()) return failed({"a file has changed while the job was computed", verdict->unread.front(), {}, false});
    double seconds = 0.0;
    int looks = 0;
    for (const auto& r : o.results.operations) {
        if (r->complete()) seconds += secondsOf(*r);
        looks += static_cast<int>(std::count_if(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.rank == Rank::Look; }));
    }
    told["state"] = verdict->clean() ? "safe" : "stop";
    told["stops"] = OrderedJson::array();
    for (const Finding& f : verdict->stops) told["stops"].push_back(named(o.job, f));
    told["looks"] = looks;
    told["operations"] = o.results.operations.size();
    told["seconds"] = seconds;
    std::vector<InputFile> inputs = o.results.place->inputs;
    inputs.insert(inputs.begin(), InputFile{job, *jobContent});
    if (dialect->spelling) {
        const fs::path file = dialectText.empty() ? fs::path(job).parent_path() / o.job.program.dialect : fs::path(dialectText);
        const auto content = contents.of(file);
        if (!content) return failed(content.error());
        inputs.push_back(InputFile{file, *content});
    }
    told["inputs"] = inputsOf(inputs);
    if (!program.empty() && verdict->clean()) {
        const auto parts = partsOf(inDialect(postInputOf(o.job, o.results.place, o.results.operations), dialect->spelling));
        std::size_t unread = 0;
        told["nc"] = OrderedJson::array();
        for (std::size_t k = 0; k < parts.size(); ++k) {
            const auto checked = writeChecked(parts[k].input, dialect->kind);
            if (!checked) return failed(checked.error());
            const std::string stored = partFile(program, k, parts.size()).string();
            if (auto ok = writeFileAtomic(stored, checked->text); !ok) return failed(ok.error());
            told["nc"].push_back({{"file", stored}, {"content", fmt::format("{:016x}", contents.of(stored).value_or(0))}});
            unread += checked->report.unread;
        }
        told["unread"] = unread; // lines that a dialect's script made so that nobody can read them back
    }
    return write(verdict->clean() ? kExitOk : kExitStop);
}

} // namespace gyre
