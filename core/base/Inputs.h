// Files that a job rests on, known by what is in them.
#pragma once
#include "base/Result.h"
#include <cstdint>
#include <filesystem>
#include <map>
#include <mutex>
#include <string>
#include <vector>

namespace gyre {

/// A file that was read, and what was in it then.
struct InputFile {
    std::filesystem::path file;
    std::uint64_t content = 0;
    bool operator==(const InputFile&) const = default;
};

/// Hashes of files. One is read again when anything that the file system tells of it has changed, or was so young when it was read that a
/// later change might not show. Thread-safe.
class FileContents {
public:
    /// 0 never: an empty file has an id too. @return why the file cannot be read
    [[nodiscard]] Result<std::uint64_t> of(const std::filesystem::path& file);

private:
    struct Seen {
        std::uint64_t device = 0, inode = 0, size = 0;
        std::int64_t modified = 0, changed = 0; ///< ns
        bool operator==(const Seen&) const = default;
    };
    struct Known {
        Seen seen;
        std::uint64_t content = 0;
        bool settled = false; ///< older than the file system's clock can hide
    };
    std::mutex m_mutex;
    std::map<std::filesystem::path, Known> m_known;
};

/// Those of the files that are gone, cannot be read or hold something else now.
[[nodiscard]] std::vector<std::filesystem::path> changedFiles(const std::vector<InputFile>& files, FileContents& contents);

} // namespace gyre
