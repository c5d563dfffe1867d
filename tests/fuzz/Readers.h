// Every reader of other people's text as a function of bytes: for fuzzing by a tool, and for the short run in the tests.
#pragma once
#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

namespace gyre::test {

struct FuzzTarget {
    const char* name;
    /// Reads the bytes; returns whether they were accepted. Whatever they are, it must come back.
    bool (*read)(const std::string& bytes);
    std::vector<std::string> seeds; ///< small files that are accepted
};
const std::vector<FuzzTarget>& fuzzTargets();

} // namespace gyre::test
