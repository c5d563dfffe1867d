// A command line described by itself: manual page, completion. Made when the program is built, so that they cannot differ from it.
#pragma once
#include <string>

namespace CLI {
class App;
}

namespace gyre {

/// What a manual page says beside the options.
struct ManualWords {
    std::string name, version, about; ///< of the program; `about` in paragraphs, parted by empty lines
    std::string exits;                ///< what it returns, one line each: "0  all went well"
    std::string see;                  ///< other pages, e.g. "gyre(1)"
};
/// In the language of man(7), section 1.
[[nodiscard]] std::string manualPage(const CLI::App& app, const ManualWords& words);

/// For bash: commands, options, the words that an option takes, files.
[[nodiscard]] std::string bashCompletion(const CLI::App& app, const std::string& name);

} // namespace gyre
