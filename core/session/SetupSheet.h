// On paper for whoever clamps the part and measures the tools: what stands where, which tools, what the machine will do, and what it was all made from.
#pragma once
#include "session/Session.h"

namespace gyre {

struct SetupPicture {
    std::string caption, png; ///< its bytes
};

struct SetupSheetInput {
    const Job& job;
    std::shared_ptr<const Workplace> place{};
    std::vector<std::shared_ptr<const OperationResult>> operations{}; ///< as they are posted
    std::vector<Finding> findings{};                                  ///< each names its operation; Stops and Looks are told
    bool proven = false;                                              ///< every operation, as it stands now
    struct NamedProgram {
        std::string name, text;
    };
    std::vector<NamedProgram> programs{}; ///< that go with it; none: none is written yet
    std::vector<SetupPicture> pictures{};
    /// Pictures of tools and views as links `gyre:tool/1`, `gyre:view/1` for a printer that fetches them, in place of what stands in the page itself.
    bool linked = false;
};

/// One HTML page with nothing beside it.
[[nodiscard]] std::string setupSheet(const SetupSheetInput& input);

/// The tools of the active operations, one a line, for a spreadsheet or a presetter: RFC 4180, decimal points, lengths in mm.
[[nodiscard]] std::string toolList(const SetupSheetInput& input);

/// The tools in the order of their numbers, each once.
struct SetupTool {
    int number = 0;
    Assembly tool;
    std::vector<std::string> operations; ///< their names
};
[[nodiscard]] std::vector<SetupTool> setupTools(const SetupSheetInput& input);

/// As the POSIX command `cksum` tells it: "2938475610 18234", the sum and the number of bytes.
[[nodiscard]] std::string checksum(std::string_view bytes);

} // namespace gyre
