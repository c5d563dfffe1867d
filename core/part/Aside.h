// Part files read in a process of their own: whatever the CAD kernel does there, this one lives on.
#pragma once
#include "part/Part.h"

namespace gyre {

/// Who reads, and what that may cost. Without a program the file is read here.
struct AsideReader {
    std::filesystem::path program; ///< `gyre`, called as "gyre read-aside …"
    double seconds = 1200.0;       ///< longest time of one file
    std::uintmax_t bytes = 0;      ///< most memory; 0: three quarters of the machine's
    [[nodiscard]] bool here() const { return program.empty(); }
};

/// As Part::open(). A reader that falls over, asks for too much memory or never ends is told with the file's name; calling off ends it at once.
[[nodiscard]] Result<std::shared_ptr<const Part>> openAside(const AsideReader& reader, const std::filesystem::path& file, double deflection, Progress& progress,
                                                            const MeshTaken& taken = {}, const std::string& only = {});
/// As bodiesIn().
[[nodiscard]] Result<std::vector<BodyInFile>> bodiesAside(const AsideReader& reader, const std::filesystem::path& file, Progress& progress);

/// What the other process does. Progress goes to standard output, one line "fraction words" each; the result to a file of its own.
/// @param deflection of the triangles that are laid; 0: only the list of bodies is wanted
[[nodiscard]] Status readForOther(const std::filesystem::path& file, double deflection, const std::string& only, const std::filesystem::path& out);

} // namespace gyre
