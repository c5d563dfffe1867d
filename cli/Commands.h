// The command line `gyre`: everything without a window.
#pragma once
#include "base/Json.h"
#include "session/Session.h"
#include <iosfwd>

namespace gyre {

enum ExitCode {
    kExitOk = 0,
    kExitFailed = 1, ///< a file could not be read or written, nothing was computed
    kExitUsage = 2,  ///< the call's words are off
    kExitStop = 3    ///< done, but there are findings of rank Stop, or a replay differs
};

int runCommandLine(int argc, const char* const* argv, std::ostream& out, std::ostream& err);

[[nodiscard]] OrderedJson findingToJson(const Finding& finding);

/// Per operation `<id>.csv` and `<id>.json` in `folder`; docs/formats/dump.md.
[[nodiscard]] Status dumpOperation(const JobResults& results, const OperationResult& operation, const std::filesystem::path& folder);

} // namespace gyre
