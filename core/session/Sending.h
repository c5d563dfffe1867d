// Before a program leaves the house: is it proven, may it be stored there?
#pragma once
#include "session/Session.h"

namespace gyre {

/// What stands against running the job's program.
struct Verdict {
    std::vector<Finding> stops;      ///< of operations and proofs; each names its operation
    std::vector<std::string> unread; ///< input files that hold something else by now
    [[nodiscard]] bool clean() const { return stops.empty() && unread.empty(); }
};
/// Proves every operation at the machine and against the stock, and looks at the input files again.
/// @param cache  where states of the stock are kept
[[nodiscard]] Result<Verdict> judge(const Job& job, const JobResults& results, StageCache& cache, Progress& progress);

/// How the job's programs are spelled.
/// @param wanted  a dialect or a dialect file of the user's; empty: what the job names, beside its own file
[[nodiscard]] Result<DialectChoice> dialectOf(const Job& job, const std::filesystem::path& jobFile, const std::string& wanted = {});

/// A program, read back and compared with the job before anybody gets it.
struct CheckedProgram {
    std::string text;
    ReplayReport report;
};
/// @return an error when it cannot be written, cannot be read back, or differs from the job
[[nodiscard]] Result<CheckedProgram> writeChecked(const PostInput& input, Dialect dialect);

/// Lines for the head of a program that is written all the same.
[[nodiscard]] std::vector<std::string> warningsOf(const std::vector<Finding>& stops);

/// "Operation 'Flare': Holder comes within …", the name left out where there is none.
[[nodiscard]] std::string named(const Job& job, const Finding& finding);

/// May a program or table be written over this file? Not over the job, its inputs, parts, machines, tools or jobs of anyone.
[[nodiscard]] Status mayBeReplaced(const std::filesystem::path& file, const std::filesystem::path& jobFile, const std::vector<InputFile>& inputs);

/// A name for a file from any text: no folder, nothing hidden, nothing that a shell or file system takes amiss. Different texts stay different.
[[nodiscard]] std::string harmlessName(const std::string& text);

} // namespace gyre
