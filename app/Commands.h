// What the finder knows of an action besides its name: what else it is called, and where it lives.
#pragma once
#include <QString>

namespace gyre {

struct CommandWords {
    const char* name;  ///< of the action, or how the names of several begin; the longest that fits counts
    const char* where; ///< the bench or panel that it lives in
    const char* words; ///< other words for it, apart by blanks
};
/// Null for an action that nothing is known of.
[[nodiscard]] const CommandWords* commandWords(const QString& action);

/// How many letters must be changed, added or left out to come from one word to the other.
[[nodiscard]] int lettersApart(const QString& a, const QString& b);

} // namespace gyre
