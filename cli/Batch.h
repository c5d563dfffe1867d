// Many jobs: each computed and proven by a process of its own, results kept by what they rest on, one report over all.
#pragma once
#include "Console.h"

namespace gyre {

struct BatchWanted {
    std::vector<std::string> jobs; ///< job files, folders of jobs, or lists with a file on each line
    std::string out;               ///< folder for results, programs and the report
    std::string work = "prove";    ///< "prove" or "post"
    std::string dialect;           ///< one of them, or a file; empty: as each job says
    int atOnce = 0;                ///< processes; 0: as many as the machine has cores
    bool again = false;            ///< also what is there already
};
/// @return kExitStop when a job has a Stop, kExitFailed when one could not be computed
int batch(const Console& c, const BatchWanted& wanted);

/// The other side: one job, its result written to `result`.
int batchOne(const Console& c, const std::string& job, const std::string& result, const std::string& program, const std::string& work, const std::string& dialect,
             int threads);

} // namespace gyre
