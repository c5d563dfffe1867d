// The Lua script of a dialect file, shut off from everything: no files, no network, no other code, bounded steps and memory.
#pragma once
#include "post/Speller.h"
#include <memory>

struct lua_State;

namespace gyre {

/// What a script is shown of an act.
struct ScriptAct {
    const Program& program;
    const Act& act;
    const Act* before; ///< the one before it; null at the beginning
    std::string operation;
    const Machine& machine;
    double unit; ///< mm in one unit of length of the program
};

class Script {
public:
    /// @param name of the dialect, for errors
    [[nodiscard]] static Result<std::unique_ptr<Script>> make(const std::string& source, const std::string& name);
    ~Script();
    Script(const Script&) = delete;
    Script& operator=(const Script&) = delete;

    enum Function : std::uint8_t { Before, After, Line };
    [[nodiscard]] bool has(Function function) const { return m_has[function] != 0; }
    /// Lines that "before" or "after" wants around an act.
    [[nodiscard]] Result<std::vector<std::string>> around(Function function, const ScriptAct& act);
    /// What "line" makes of a block; the block itself where it has nothing against it.
    [[nodiscard]] Result<std::string> line(const std::string& text, const ScriptAct& act);

private:
    explicit Script(std::string name) : m_name(std::move(name)) {}
    [[nodiscard]] tl::unexpected<Error> failed(const char* what);
    [[nodiscard]] Status begin(Function function, const std::string* text, const ScriptAct& act);
    std::string m_name;
    std::size_t m_memory = 0; ///< bytes in use
    lua_State* m_lua = nullptr;
    std::array<int, 3> m_has{}; ///< where Lua keeps each function; 0: there is none
};

/// The program with the lines that a dialect's script wants around its acts.
[[nodiscard]] Result<Program> withScriptLines(Program program, const Speller& speller, const Machine& machine, const std::vector<std::string>& operations);

} // namespace gyre
