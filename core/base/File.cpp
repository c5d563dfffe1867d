#include "base/File.h"
#include <cerrno>
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
} // namespace

Status writeFileAtomic(const fs::path& path, std::string_view content, bool keepLast) {
    const auto whyNot = [&](const char* step) {
        return fail(fmt::format("{}: {}", step, std::strerror(errno)), path.string(), "Nothing was changed; choose another place or free some room");
    };
    const fs::path aside = path.string() + fmt::format(".{}.part", ::getpid());
    {
        Descriptor file{::open(aside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644)};
        if (file.fd < 0) return whyNot("the file cannot be written");
        std::size_t done = 0;
        while (done < content.size()) {
            const auto n = ::write(file.fd, content.data() + done, content.size() - done);
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) {
                auto error = whyNot("writing failed");
                ::unlink(aside.c_str());
                return error;
            }
            done += static_cast<std::size_t>(n);
        }
        if (::fsync(file.fd) != 0) {
            auto error = whyNot("writing failed");
            ::unlink(aside.c_str());
            return error;
        }
    }
    std::error_code ec;
    if (keepLast && fs::exists(path, ec)) {
        const fs::path last = path.string() + "~";
        // A hard link keeps the old bytes under the second name; the rename below never leaves a gap.
        ::unlink(last.c_str());
        if (::link(path.c_str(), last.c_str()) != 0) fs::copy_file(path, last, fs::copy_options::overwrite_existing, ec);
    }
    if (::rename(aside.c_str(), path.c_str()) != 0) {
        auto error = whyNot("the new file could not take its place");
        ::unlink(aside.c_str());
        return error;
    }
    const fs::path folder = path.has_parent_path() ? path.parent_path() : fs::path(".");
    Descriptor dir{::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)};
    if (dir.fd >= 0) ::fsync(dir.fd);
    return {};
}

} // namespace gyre
