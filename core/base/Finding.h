// What the user must know about a job: rank, place, reason, remedy.
#pragma once
#include <array>
#include <cstddef>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

enum class Rank {
    Stop, ///< unsafe: must be cured before the job may run
    Look, ///< works, but must be looked at
    Note
};

/// Which of the five marks of a station a finding belongs to.
enum class Check { Gouge, Shank, Holder, Travel, Machine, Path };

/// A change to the recipe that would cure a finding: set `key` to `value`.
struct Remedy {
    std::string label; ///< e.g. "Stick out 47.5 mm"
    std::string key;   ///< recipe or setup word, e.g. "tool.stickOut"
    std::string value; ///< in the job file's units
};

struct Finding {
    Rank rank = Rank::Note;
    Check check = Check::Path;
    std::string code;   ///< stable identifier for scripts, e.g. "holder-near"
    std::string text;   ///< what and where, in a sentence
    std::string reason; ///< why
    std::string stage;  ///< Target, Pattern, Axis, Guard, Links, Motion, Proof
    std::string operation;
    std::optional<std::array<double, 3>> place; ///< part datum coordinates, mm
    /// Locations of the operation's toolpath that the finding is about, first and last; equal when it is one place.
    std::optional<std::pair<std::size_t, std::size_t>> span;
    int row = -1;
    double amount = 0.0; ///< the number the text speaks of (mm, degrees …)
    std::vector<Remedy> remedies;
};

[[nodiscard]] inline const char* rankName(Rank r) { return r == Rank::Stop ? "Stop" : r == Rank::Look ? "Look" : "Note"; }
[[nodiscard]] inline const char* checkName(Check c) {
    switch (c) {
    case Check::Gouge:
        return "gouge";
    case Check::Shank:
        return "shank";
    case Check::Holder:
        return "holder";
    case Check::Travel:
        return "travel";
    case Check::Machine:
        return "machine";
    case Check::Path:
        return "path";
    }
    return "path";
}

} // namespace gyre
