#include "base/File.h"
#include <cerrno>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace gyre {
namespace fs = std::filesystem;

Result<std::string> readFile(const fs::path& path, std::uintmax_t limitBytes) {
    std::error_code ec;
    const auto status = fs::status(path, ec);
    if (ec || !fs::exists(status)) return fail("the file is not there", path.string());
    if (!fs::is_regular_file(status)) return fail("this is not a file", path.string());
    const auto size = fs::file_size(path, ec);
    if (ec) return fail("the file cannot be measured: " + ec.message(), path.string());
    if (size > limitBytes) return fail(fmt::format("the file has {} bytes; more than {} are not read", size, limitBytes), path.string());
    std::ifstream in(path, std::ios::binary);
    if (!in) return fail(fmt::format("the file cannot be opened: {}", std::strerror(errno)), path.string());
    std::string content(static_cast<std::size_t>(size), '\0');
    in.read(content.data(), static_cast<std::streamsize>(size));
    content.resize(static_cast<std::size_t>(in.gcount()));
    return content;
}

namespace {

struct Descriptor {
    int fd = -1;
    ~Descriptor() {
        if (fd >= 0) ::close(fd);
    }
};

/// All of it, and on the disk. @return the step that failed, with errno; null when none did
const char* writeAll(int fd, std::string_view content) {
    std::size_t done = 0;
    while (done < content.size()) {
        const auto n = ::write(fd, content.data() + done, content.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return "writing failed";
        done += static_cast<std::size_t>(n);
    }
    return ::fsync(fd) == 0 ? nullptr : "writing failed";
}

/// What saves that were killed left beside the file: "<name>.<process>.part" of processes that are no more.
void clearLitter(const fs::path& path) {
    std::error_code ec;
    const std::string begin = path.filename().string() + ".";
    const fs::path folder = path.has_parent_path() ? path.parent_path() : fs::path(".");
    for (fs::directory_iterator it(folder, ec), end; !ec && it != end; it.increment(ec)) {
        const std::string name = it->path().filename().string();
        if (!name.starts_with(begin) || !name.ends_with(".part") || name.size() < begin.size() + 6) continue;
        const std::string id = name.substr(begin.size(), name.size() - begin.size() - 5);
        if (id.size() > 9 || id.find_first_not_of("0123456789") != std::string::npos) continue;
        const pid_t process = static_cast<pid_t>(std::stoi(id));
        if (process == ::getpid() || ::kill(process, 0) == 0 || errno != ESRCH) continue;
        std::error_code ignored;
        fs::remove(it->path(), ignored);
    }
}

void keepOld(const fs::path& path) {
    const fs::path last = path.string() + "~";
    std::error_code ec;
    // A hard link keeps the old bytes under the second name; the rename that follows never leaves a gap.
    ::unlink(last.c_str());
    if (::link(path.c_str(), last.c_str()) != 0) fs::copy_file(path, last, fs::copy_options::overwrite_existing, ec);
}

} // namespace

Status writeFileAtomic(const fs::path& name, std::string_view content, bool keepLast) {
    std::error_code ec;
    // A symbolic link stays one: what it points to is written.
    const fs::path path = fs::is_symlink(name, ec) ? fs::weakly_canonical(name, ec) : name;
    const auto whyNot = [&](const char* step) {
        return fail(fmt::format("{}: {}", step, std::strerror(errno)), path.string(), "Nothing was changed; choose another place or free some room");
    };
    clearLitter(path);
    struct stat old {};
    const bool there = ::stat(path.c_str(), &old) == 0;
    const fs::path aside = path.string() + fmt::format(".{}.part", ::getpid());
    const auto failed = [&](const char* step) {
        auto error = whyNot(step);
        ::unlink(aside.c_str());
        return error;
    };
    {
        Descriptor file{::open(aside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644)};
        if (file.fd < 0) return whyNot("the file cannot be written");
        // Modes and owners are kept; an owner that only root could give stays as it can be.
        if (there && (::fchmod(file.fd, old.st_mode & 07777) != 0 || ::fchown(file.fd, old.st_uid, old.st_gid) != 0)) errno = 0;
        if (const char* step = writeAll(file.fd, content)) return failed(step);
    }
    if (there && old.st_nlink > 1) {
        // Other names of the same file stay its names: what is in it is exchanged, with the whole text aside until that is done.
        if (keepLast) fs::copy_file(path, path.string() + "~", fs::copy_options::overwrite_existing, ec);
        Descriptor file{::open(path.c_str(), O_WRONLY | O_TRUNC | O_CLOEXEC)};
        if (file.fd < 0) return failed("the file cannot be written");
        if (const char* step = writeAll(file.fd, content))
            return fail(fmt::format("{}: {}", step, std::strerror(errno)), path.string(), "All of it stands in " + aside.string());
        ::unlink(aside.c_str());
    } else {
        if (keepLast && there) keepOld(path);
        if (::rename(aside.c_str(), path.c_str()) != 0) return failed("the new file could not take its place");
    }
    const fs::path folder = path.has_parent_path() ? path.parent_path() : fs::path(".");
    Descriptor dir{::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)};
    if (dir.fd >= 0) ::fsync(dir.fd);
    return {};
}

} // namespace gyre
