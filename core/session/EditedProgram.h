// A program that came back from the shop: what a hand changed in it, and whether what it makes the machine do is still safe.
#pragma once
#include "post/ChangedLines.h"
#include "session/Session.h"

namespace gyre {

struct EditedProgram {
    /// Against the job's own program.
    std::vector<LineChange> changes;
    bool tooMany = false; ///< lines differ: it is another program, and changes are not told one by one
    /// Of what the machine does by this text, each with the line where it begins; 0: of the whole.
    struct Told {
        Finding finding;
        int line = 0;
    };
    std::vector<Told> told;
    std::size_t moves = 0;      ///< that were followed
    std::size_t notChecked = 0; ///< lines of the shop's own or its script's, whose doing nobody knows
    [[nodiscard]] bool safe() const {
        return std::none_of(told.begin(), told.end(), [](const Told& t) { return t.finding.rank == Rank::Stop; });
    }
};

/// Follows the text as the control would, from tool change to tool change, and proves what comes of it: travel, machine, stock, and shank, holder and
/// cutter against what must not be touched, as the guard of the operation has it that the text was written for. Rapids are taken as straight in joints,
/// with tip control as straight for the tip.
/// @param whole  in the dialect of the text; where the route is written as several programs the text is taken for the one that it is most like
/// @return an error when the text cannot be read, or when called off
[[nodiscard]] Result<EditedProgram> proveEdited(const std::string& text, const PostInput& whole, const Job& job, const JobResults& results, StageCache& cache,
                                                Progress& progress);

} // namespace gyre
