// Files: bounded reading, and writing that is complete or not there at all.
#pragma once
#include "base/Result.h"
#include <cstdint>
#include <filesystem>
#include <string>

namespace gyre {

/// Reads a whole file of at most `limitBytes`.
[[nodiscard]] Result<std::string> readFile(const std::filesystem::path& path, std::uintmax_t limitBytes);

/// Writes aside, syncs, renames over `path` and syncs the folder. The file that was there is kept as `path` + "~" when
/// `keepLast` is set. After an error the old file is untouched.
[[nodiscard]] Status writeFileAtomic(const std::filesystem::path& path, std::string_view content, bool keepLast = false);

} // namespace gyre
