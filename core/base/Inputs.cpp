#include "base/Inputs.h"
#include "base/Hash.h"
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <fstream>
#include <sys/stat.h>

namespace gyre {
namespace {

std::int64_t nanoseconds(const timespec& t) { return static_cast<std::int64_t>(t.tv_sec) * 1'000'000'000 + t.tv_nsec; }

} // namespace

Result<std::uint64_t> FileContents::of(const std::filesystem::path& file) {
    struct stat s {};
    if (::stat(file.c_str(), &s) != 0) return fail(std::strerror(errno), file.string());
    if (!S_ISREG(s.st_mode)) return fail("this is not a file", file.string());
    const Seen seen{s.st_dev, s.st_ino, static_cast<std::uint64_t>(s.st_size), nanoseconds(s.st_mtim), nanoseconds(s.st_ctim)};
    {
        const std::lock_guard lock(m_mutex);
        const auto it = m_known.find(file);
        if (it != m_known.end() && it->second.settled && it->second.seen == seen) return it->second.content;
    }
    timespec now{};
    ::clock_gettime(CLOCK_REALTIME, &now);
    std::ifstream in(file, std::ios::binary);
    if (!in) return fail(std::strerror(errno), file.string());
    Hash hash;
    std::vector<char> some(1u << 20);
    while (in) {
        in.read(some.data(), static_cast<std::streamsize>(some.size()));
        hash.bytes(some.data(), static_cast<std::size_t>(in.gcount()));
    }
    if (in.bad()) return fail("the file cannot be read", file.string());
    const std::uint64_t content = hash.add(seen.size).value() | 1u;
    constexpr std::int64_t kYoung = 2'000'000'000; // some file systems count whole seconds
    const std::lock_guard lock(m_mutex);
    m_known[file] = {seen, content, nanoseconds(now) - std::max(seen.changed, seen.modified) > kYoung};
    return content;
}

std::vector<std::filesystem::path> changedFiles(const std::vector<InputFile>& files, FileContents& contents) {
    std::vector<std::filesystem::path> changed;
    for (const InputFile& f : files)
        if (const auto now = contents.of(f.file); !now || *now != f.content) changed.push_back(f.file);
    return changed;
}

} // namespace gyre
