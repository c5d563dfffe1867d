#include "part/Aside.h"
#include "base/File.h"
#include "base/Json.h"
#include "base/Text.h"
#include "geom/MeshFile.h"
#include "part/Kernel.h"
#include "part/ReadShape.h"
#include <BRepTools.hxx>
#include <BinTools.hxx>
#include <Standard_Failure.hxx>
#include <chrono>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <poll.h>
#include <spawn.h>
#include <sstream>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ; // NOLINT: as POSIX has it

namespace gyre {
namespace fs = std::filesystem;
namespace {

constexpr std::uintmax_t kLargestAnswer = 4ULL << 30;

/// A folder that is gone again afterwards.
struct OwnFolder {
    fs::path path;
    OwnFolder() {
        std::string form = (fs::temp_directory_path() / "gyre-aside-XXXXXX").string();
        if (::mkdtemp(form.data())) path = form;
    }
    ~OwnFolder() {
        std::error_code ec;
        if (!path.empty()) fs::remove_all(path, ec);
    }
    OwnFolder(const OwnFolder&) = delete;
    OwnFolder& operator=(const OwnFolder&) = delete;
};

std::uintmax_t mostMemory(const AsideReader& reader) {
    if (reader.bytes > 0) return reader.bytes;
    const long pages = ::sysconf(_SC_PHYS_PAGES), size = ::sysconf(_SC_PAGE_SIZE);
    return pages > 0 && size > 0 ? static_cast<std::uintmax_t>(pages) / 4 * 3 * static_cast<std::uintmax_t>(size) : 4ULL << 30;
}

/// The child's progress lines as they come; false once it has closed its end.
bool takeLines(int fd, std::string& pending, Progress& progress) {
    char some[4096];
    const auto n = ::read(fd, some, sizeof some);
    if (n <= 0) return n < 0 && (errno == EINTR || errno == EAGAIN);
    pending.append(some, static_cast<std::size_t>(n));
    for (auto end = pending.find('\n'); end != std::string::npos; end = pending.find('\n')) {
        const std::string line = pending.substr(0, end);
        pending.erase(0, end + 1);
        const auto blank = line.find(' ');
        if (const auto f = numberIn(std::string_view(line).substr(0, blank)); f && blank != std::string::npos) progress.report(*f, line.substr(blank + 1));
    }
    return pending.size() < 1u << 20;
}

/// Starts the reader, which writes what it does into the pipe.
Result<pid_t> start(const AsideReader& reader, const fs::path& file, double deflection, const std::string& only, const fs::path& answer, const int (&pipes)[2]) {
    const std::vector<std::string> words{reader.program.string(),
                                         "read-aside",
                                         fs::absolute(file).string(),
                                         "--deflection",
                                         fmt::format("{:.17g}", deflection),
                                         "--only",
                                         only,
                                         "--out",
                                         answer.string(),
                                         "--memory",
                                         std::to_string(mostMemory(reader) >> 20)};
    std::vector<char*> arguments;
    for (const std::string& w : words) arguments.push_back(const_cast<char*>(w.c_str()));
    arguments.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    ::posix_spawn_file_actions_init(&actions);
    ::posix_spawn_file_actions_adddup2(&actions, pipes[1], STDOUT_FILENO);
    ::posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
    pid_t child = 0;
    const int failed = ::posix_spawn(&child, reader.program.c_str(), &actions, nullptr, arguments.data(), environ);
    ::posix_spawn_file_actions_destroy(&actions);
    ::close(pipes[1]);
    if (failed != 0) {
        ::close(pipes[0]);
        return fail(fmt::format("the reader {} cannot be started: {}", reader.program.string(), std::strerror(failed)), file.filename().string(),
                    "Install the program anew");
    }
    return child;
}

/// Runs the reader until its answer is there. @return the answer's file
Result<fs::path> ask(const AsideReader& reader, const fs::path& file, double deflection, const std::string& only, const OwnFolder& folder, Progress& progress) {
    const std::string place = file.filename().string();
    if (folder.path.empty()) return fail(fmt::format("no folder for the reader: {}", std::strerror(errno)), place, "Free some room in the folder for temporary files");
    const fs::path answer = folder.path / "answer";
    int pipes[2];
    if (::pipe2(pipes, O_CLOEXEC) != 0) return fail(fmt::format("no pipe to the reader: {}", std::strerror(errno)), place);
    const auto started = start(reader, file, deflection, only, answer, pipes);
    if (!started) return tl::unexpected(started.error());
    const pid_t child = *started;
    const auto begun = std::chrono::steady_clock::now();
    bool late = false;
    std::string pending;
    for (bool open = true; open;) {
        pollfd waiting{pipes[0], POLLIN, 0};
        const int ready = ::poll(&waiting, 1, 20);
        if (ready > 0) open = takeLines(pipes[0], pending, progress);
        late = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count() > reader.seconds;
        if (late || progress.cancelled()) {
            ::kill(child, SIGKILL);
            break;
        }
    }
    ::close(pipes[0]);
    int status = 0;
    while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
    }
    if (progress.cancelled()) return cancelledError();
    if (late) return fail(fmt::format("after {:.0f} s the file was still being read", reader.seconds), place, "Export the part again, or parts of it");
    if (WIFSIGNALED(status))
        return fail(fmt::format("the CAD kernel fell over this file ({})", ::strsignal(WTERMSIG(status))), place,
                    "Export the part again; all else that is open is untouched");
    if (WEXITSTATUS(status) != 0) { // what the reader has to say about the file
        const auto told = readFile(answer, 1u << 20);
        const auto json = told ? Json::parse(*told, nullptr, false) : Json();
        if (!json.is_object() || !json.value("what", Json()).is_string())
            return fail("the file could not be read in the memory that there is", place, "Export the part again, or parts of it");
        return fail(json["what"].get<std::string>(), json.value("place", place), json.value("remedy", ""));
    }
    return answer;
}

OrderedJson bodyToJson(const BodyInFile& b) {
    OrderedJson j = {{"name", b.name}, {"volume", b.volume}};
    if (b.colour) j["colour"] = *b.colour;
    if (b.bounds.low.allFinite()) {
        j["low"] = {b.bounds.low.x(), b.bounds.low.y(), b.bounds.low.z()};
        j["high"] = {b.bounds.high.x(), b.bounds.high.y(), b.bounds.high.z()};
    }
    return j;
}

/// What this process asked for comes from its own program; still nothing is taken for granted.
Result<std::vector<BodyInFile>> bodiesFrom(const std::string& text, const std::string& place) {
    const auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView all(*json, place + " ", error);
    std::vector<BodyInFile> out;
    for (const JsonView& v : all.list("bodies", 100000)) {
        BodyInFile b;
        b.name = v.text("name", 1000);
        b.volume = v.number("volume", 0.0, 1e30, 0.0);
        if (v.has("colour")) b.colour = v.triple("colour", 1.0);
        if (v.has("low"))
            for (const char* corner : {"low", "high"}) {
                const auto p = v.triple(corner, 1e12);
                b.bounds.add(Vec3(p[0], p[1], p[2]));
            }
        out.push_back(std::move(b));
    }
    if (error) return tl::unexpected(*error);
    return out;
}

} // namespace

Result<std::shared_ptr<const Part>> openAside(const AsideReader& reader, const fs::path& file, double deflection, Progress& progress, const MeshTaken& taken,
                                              const std::string& only) {
    if (reader.here() || isMeshFile(file)) return Part::open(file, deflection, progress, taken, only);
    const std::string place = file.filename().string();
    const OwnFolder folder;
    progress.report(0.0, "Reading " + place);
    const auto answer = [&] {
        const Progress::Span span(progress, 0.0, 0.7);
        return ask(reader, file, deflection, only, folder, progress);
    }();
    if (!answer) return tl::unexpected(answer.error());
    const Progress::Span span(progress, 0.7, 1.0);
    return Part::takeOver(*answer, only.empty() ? file.stem().string() : only, place, deflection, progress);
}

Result<std::vector<BodyInFile>> bodiesAside(const AsideReader& reader, const fs::path& file, Progress& progress) {
    if (reader.here()) return bodiesIn(file, progress);
    const OwnFolder folder;
    const auto answer = ask(reader, file, 0.0, {}, folder, progress);
    if (!answer) return tl::unexpected(answer.error());
    const auto text = readFile(*answer, kLargestAnswer);
    if (!text) return tl::unexpected(text.error());
    return bodiesFrom(*text, file.filename().string());
}

// The answer: the list of bodies as JSON; or a line with the colour, one with remarks, then the kernel's own binary form, triangles and all.
Status readForOther(const fs::path& file, double deflection, const std::string& only, const fs::path& out) {
    Progress progress([last = std::string()](double f, const std::string& what) mutable {
        const std::string line = fmt::format("{:.3f} {}\n", f, what);
        if (line == last) return;
        last = line;
        if (::write(STDOUT_FILENO, line.data(), line.size()) < 0) ::_exit(1); // nobody waits for it any more
    });
    if (deflection <= 0.0) {
        const auto bodies = bodiesIn(file, progress);
        if (!bodies) return tl::unexpected(bodies.error());
        OrderedJson json = {{"bodies", OrderedJson::array()}};
        for (const BodyInFile& b : *bodies) json["bodies"].push_back(bodyToJson(b));
        return writeFileAtomic(out, textOf(json));
    }
    try {
        auto read = only.empty() ? readShape(file, progress) : readBody(file, only, progress);
        if (!read) return tl::unexpected(read.error());
        if (auto ok = sizeIsSane(read->shape, file.filename().string()); !ok) return ok;
        progress.report(0.6, "Laying triangles over " + file.filename().string());
        layAll(read->shape, deflection, read->remarks);
        std::ofstream stream(out, std::ios::binary);
        stream << (read->colour ? fmt::format("{:.17g} {:.17g} {:.17g}\n", (*read->colour)[0], (*read->colour)[1], (*read->colour)[2]) : std::string("none\n"));
        stream << OrderedJson(read->remarks).dump() << '\n';
        BinTools::Write(read->shape, stream);
        stream.flush();
        if (!stream) return fail("what was read cannot be handed over: is the disk full?", file.filename().string(), "Free some room in the folder for temporary files");
        return {};
    } catch (const Standard_Failure& failure) {
        return fail(fmt::format("the CAD kernel refuses the file ({})", failure.DynamicType()->Name()), file.filename().string(), "Export the part again");
    } catch (const std::bad_alloc&) {
        return fail("the file asks for more memory than there is", file.filename().string(), "Check its unit, or export parts of it");
    } catch (const std::exception& failure) {
        return fail(fmt::format("the file cannot be read ({})", failure.what()), file.filename().string());
    }
}

Result<std::shared_ptr<const Part>> Part::takeOver(const fs::path& answer, const std::string& name, const std::string& place, double deflection, Progress& progress) {
    try {
        std::ifstream stream(answer, std::ios::binary);
        std::string colour;
        std::getline(stream, colour);
        std::string remarks;
        std::getline(stream, remarks);
        TopoDS_Shape shape;
        BinTools::Read(shape, stream);
        if (shape.IsNull()) return fail("what was read holds nothing", place, "Export the part again");
        std::shared_ptr<Part> part(new Part);
        part->m_kernel->name = name;
        part->m_kernel->deflection = deflection;
        if (const Json told = Json::parse(remarks, nullptr, false); told.is_array())
            for (const Json& t : told)
                if (t.is_string()) part->m_kernel->remarks.push_back(t.get<std::string>());
        std::istringstream parts(colour);
        parts.imbue(std::locale::classic());
        if (std::array<double, 3> c{}; parts >> c[0] >> c[1] >> c[2]) part->m_kernel->colour = c;
        if (auto ok = part->m_kernel->fill(*part, shape, place, progress, true); !ok) return tl::unexpected(ok.error());
        progress.report(1.0, "Part is open");
        return std::shared_ptr<const Part>(part);
    } catch (const Standard_Failure& failure) {
        return fail(fmt::format("the CAD kernel refuses what was read ({})", failure.DynamicType()->Name()), place, "Export the part again");
    } catch (const std::exception& failure) {
        return fail(fmt::format("what was read cannot be taken over ({})", failure.what()), place);
    }
}

} // namespace gyre
