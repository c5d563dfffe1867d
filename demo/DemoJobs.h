// The demo jobs.
#pragma once
#include "job/Job.h"
#include <filesystem>

namespace gyre::demo {

/// Writes the jobs beside the part, machine and tool files that are already in the folder.
bool makeJobs(const std::filesystem::path& folder);
/// Indexed and wrapped work, from the setups.
bool makeMillJobs(const std::filesystem::path& folder);
/// Along walls, curves and edges, from the setups.
bool makeFollowJobs(const std::filesystem::path& folder);

/// Patterns of rows, from the setups and from the jobs above.
bool makeRowJobs(const std::filesystem::path& folder);
/// From the collar's own job: its lips begin at the rows of its walls.
bool makeSeamJob(Job job, const Part& part, const std::filesystem::path& folder);
/// The floor inside the collar in three ways, side by side.
bool makeVariantsJob(Job job, const Part& part, const std::filesystem::path& folder);

} // namespace gyre::demo
