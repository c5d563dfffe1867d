#include "post/Script.h"
#include "base/Text.h"
#include "base/Units.h"
#include "post/ReadLines.h"
#include <algorithm>
#include <chrono>
#include <clocale>
#include <cstdlib>
#include <cstring>
#include <fmt/format.h>
#include <lua.hpp>

namespace gyre {
namespace {

constexpr std::size_t kMostMemory = 4u << 20;
constexpr int kStepsBetweenLooks = 1000;
constexpr long kMostSteps = 200'000;    ///< of one call
constexpr double kMostSeconds = 60.0;   ///< of all calls: steps that copy a lot take long
constexpr std::size_t kMostLines = 100; ///< of one act
constexpr std::size_t kLongestLine = 500;
constexpr std::size_t kMostRepeated = 10'000; ///< characters that string.rep makes
constexpr const char* kFunctions[] = {"before", "after", "line"};

/// What is left to a script is kept where the hook finds it.
struct Left {
    long steps = kMostSteps;
    double seconds = kMostSeconds;
    std::chrono::steady_clock::time_point begun;
};
Left& leftTo(lua_State* L) { return **static_cast<Left**>(lua_getextraspace(L)); }

/// Numbers are written and texts compared alike in every locale.
class PlainLocale {
public:
    PlainLocale() : m_before(uselocale(plain())) {}
    ~PlainLocale() { uselocale(m_before); }
    PlainLocale(const PlainLocale&) = delete;
    PlainLocale& operator=(const PlainLocale&) = delete;

private:
    static locale_t plain() {
        static const locale_t c = newlocale(LC_ALL_MASK, "C", nullptr);
        return c;
    }
    locale_t m_before;
};

void* allocate(void* data, void* block, std::size_t before, std::size_t wanted) {
    auto& used = *static_cast<std::size_t*>(data);
    const std::size_t had = block ? before : 0;
    if (wanted == 0) {
        used -= had;
        std::free(block); // NOLINT: Lua's own way
        return nullptr;
    }
    if (wanted > had && used + (wanted - had) > kMostMemory) return nullptr;
    void* grown = std::realloc(block, wanted); // NOLINT: Lua's own way
    if (grown) used = used - had + wanted;
    return grown;
}

void look(lua_State* L, lua_Debug*) {
    Left& left = leftTo(L);
    left.steps -= kStepsBetweenLooks;
    if (left.steps < 0) luaL_error(L, "more than %d steps", static_cast<int>(kMostSteps));
    if (std::chrono::duration<double>(std::chrono::steady_clock::now() - left.begun).count() > left.seconds)
        luaL_error(L, "more than %d seconds", static_cast<int>(kMostSeconds));
}

// What stands in for functions of the library that run without end in C, where no step is counted.
int repeat(lua_State* L) {
    std::size_t size = 0;
    const char* text = luaL_checklstring(L, 1, &size);
    const lua_Integer times = luaL_checkinteger(L, 2);
    if (times <= 0) {
        lua_pushliteral(L, "");
        return 1;
    }
    if (static_cast<lua_Unsigned>(times) > kMostRepeated || size * static_cast<std::size_t>(times) > kMostRepeated)
        return luaL_error(L, "rep makes at most %d characters", static_cast<int>(kMostRepeated));
    luaL_Buffer b;
    luaL_buffinit(L, &b);
    for (lua_Integer i = 0; i < times; ++i) luaL_addlstring(&b, text, size);
    luaL_pushresult(&b);
    return 1;
}
/// Position of a plain text in another; nil when it is not there.
int findPlain(lua_State* L) {
    std::size_t size = 0;
    const char* text = luaL_checklstring(L, 1, &size);
    const char* what = luaL_checkstring(L, 2);
    if (size > kMostRepeated) return luaL_error(L, "find takes at most %d characters", static_cast<int>(kMostRepeated));
    const char* at = std::strstr(text, what);
    if (at)
        lua_pushinteger(L, at - text + 1);
    else
        lua_pushnil(L);
    return 1;
}
/// A text with every occurrence of a plain text replaced.
int replacePlain(lua_State* L) {
    std::size_t size = 0, width = 0, by = 0;
    const char* text = luaL_checklstring(L, 1, &size);
    const char* what = luaL_checklstring(L, 2, &width);
    const char* with = luaL_checklstring(L, 3, &by);
    if (size > kMostRepeated || by > kMostRepeated) return luaL_error(L, "replace takes at most %d characters", static_cast<int>(kMostRepeated));
    if (width == 0) {
        lua_pushvalue(L, 1);
        return 1;
    }
    luaL_Buffer b;
    luaL_buffinit(L, &b);
    for (std::size_t i = 0; i < size;)
        if (size - i >= width && std::memcmp(text + i, what, width) == 0) {
            luaL_addlstring(&b, with, by);
            i += width;
        } else
            luaL_addlstring(&b, text + i++, 1);
    luaL_pushresult(&b);
    return 1;
}

/// The same text for the same thing in every run: no addresses.
int textOfPlain(lua_State* L) {
    luaL_checkany(L, 1);
    const int type = lua_type(L, 1);
    if (type == LUA_TNUMBER || type == LUA_TSTRING || type == LUA_TBOOLEAN || type == LUA_TNIL)
        luaL_tolstring(L, 1, nullptr);
    else
        lua_pushstring(L, luaL_typename(L, 1));
    return 1;
}
int formatPlain(lua_State* L) {
    const char* format = luaL_checkstring(L, 1);
    for (const char* c = std::strchr(format, '%'); c; c = std::strchr(c + 1, '%')) {
        c += 1 + std::strspn(c + 1, "-+ #0123456789.");
        if (*c == 'p') return luaL_error(L, "format writes no addresses");
        if (*c == '\0') break;
    }
    for (int i = 2; i <= lua_gettop(L); ++i)
        if (lua_istable(L, i) || lua_isfunction(L, i)) return luaL_error(L, "format writes texts and numbers");
    lua_pushvalue(L, lua_upvalueindex(1));
    lua_insert(L, 1);
    lua_call(L, lua_gettop(L) - 1, 1);
    return 1;
}
/// Goes through a table in the order of its keys; the library's own order differs from run to run.
constexpr const char* kPairs = R"(
local next, sort, type = next, table.sort, type
function pairs(t)
  local keys = {}
  for key in next, t do
    if type(key) == "number" or type(key) == "string" then keys[#keys + 1] = key end
  end
  sort(keys, function(a, b)
    if type(a) == type(b) then return a < b end
    return type(a) == "number"
  end)
  local i = 0
  return function()
    i = i + 1
    if keys[i] ~= nil then return keys[i], t[keys[i]] end
  end
end
)";

void keepOnly(lua_State* L, const char* library, std::initializer_list<const char*> names) {
    lua_newtable(L);
    lua_getglobal(L, library);
    for (const char* name : names) {
        lua_getfield(L, -1, name);
        lua_setfield(L, -3, name);
    }
    lua_pop(L, 1);
    lua_setglobal(L, library);
}

/// Everything that a script may name. Nothing that catches errors, makes code of text, or has metatables.
int furnish(lua_State* L) {
    luaL_requiref(L, LUA_GNAME, luaopen_base, 1);
    luaL_requiref(L, LUA_STRLIBNAME, luaopen_string, 1);
    luaL_requiref(L, LUA_TABLIBNAME, luaopen_table, 1);
    luaL_requiref(L, LUA_MATHLIBNAME, luaopen_math, 1);
    lua_settop(L, 0);
    if (luaL_loadstring(L, kPairs) != LUA_OK) return lua_error(L);
    lua_call(L, 0, 0);
    keepOnly(L, LUA_STRLIBNAME, {"byte", "char", "format", "len", "lower", "upper", "sub", "reverse"});
    keepOnly(L, LUA_TABLIBNAME, {"concat", "insert", "remove", "sort", "unpack"});
    keepOnly(L, LUA_MATHLIBNAME, {"abs", "ceil", "floor", "fmod", "max", "min", "sqrt", "sin", "cos", "tan", "asin", "acos", "atan", "pi", "huge", "tointeger", "type"});
    lua_getglobal(L, LUA_STRLIBNAME);
    lua_getfield(L, -1, "format");
    lua_pushcclosure(L, formatPlain, 1);
    lua_setfield(L, -2, "format");
    lua_pushcfunction(L, repeat);
    lua_setfield(L, -2, "rep");
    lua_pushcfunction(L, findPlain);
    lua_setfield(L, -2, "find");
    lua_pushcfunction(L, replacePlain);
    lua_setfield(L, -2, "replace");
    // Texts are asked as text:upper(); their own table is the one that was kept.
    lua_pushliteral(L, "");
    lua_getmetatable(L, -1);
    lua_pushvalue(L, -3);
    lua_setfield(L, -2, "__index");
    lua_settop(L, 0);
    static constexpr const char* kKept[] = {"assert", "error", "ipairs", "pairs", "select", "tonumber", "tostring", "type", "string", "table", "math"};
    lua_newtable(L);
    for (const char* name : kKept) {
        lua_getglobal(L, name);
        lua_setfield(L, -2, name);
    }
    lua_pushcfunction(L, textOfPlain);
    lua_setfield(L, -2, "tostring");
    lua_rawseti(L, LUA_REGISTRYINDEX, LUA_RIDX_GLOBALS);
    return 0;
}

void put(lua_State* L, const char* key, const char* value) {
    lua_pushstring(L, value);
    lua_setfield(L, -2, key);
}
void put(lua_State* L, const char* key, double value) {
    if (std::isnan(value)) return;
    lua_pushnumber(L, value);
    lua_setfield(L, -2, key);
}
void put(lua_State* L, const char* key, int value) {
    lua_pushinteger(L, value);
    lua_setfield(L, -2, key);
}
void put(lua_State* L, const char* key, bool value) {
    lua_pushboolean(L, value);
    lua_setfield(L, -2, key);
}

/// Keeps the functions of a script where asking for them needs no memory.
int findFunctions(lua_State* L) {
    auto& has = *static_cast<std::array<int, 3>*>(lua_touserdata(L, 1));
    for (std::size_t i = 0; i < std::size(kFunctions); ++i) {
        lua_getglobal(L, kFunctions[i]);
        if (lua_isfunction(L, -1)) has[i] = luaL_ref(L, LUA_REGISTRYINDEX);
    }
    return 0;
}
int pushText(lua_State* L) {
    const auto* given = static_cast<const std::string*>(lua_touserdata(L, 1));
    lua_pushlstring(L, given->data(), given->size());
    return 1;
}

/// Leaves a table that tells of the act.
int pushAct(lua_State* L) {
    const ScriptAct& s = *static_cast<const ScriptAct*>(lua_touserdata(L, 1));
    static constexpr const char* kKinds[] = {"move", "cycle", "wait", "tool", "check", "own", "end"};
    static constexpr const char* kCoolants[] = {"none", "flood", "mist", "through"};
    const Act& a = s.act;
    const ControlState& state = s.program.stateOf(a);
    lua_createtable(L, 0, 24);
    put(L, "kind", kKinds[static_cast<int>(a.kind)]);
    put(L, "rapid", a.rapid);
    put(L, "machine", a.machine);
    put(L, "aside", a.aside);
    put(L, "first", !s.before || s.before->operation != a.operation);
    put(L, "operation", s.operation.c_str());
    put(L, "tool", state.tool);
    put(L, "speed", state.turning == Turning::Off ? 0 : static_cast<int>(state.speed));
    put(L, "coolant", kCoolants[static_cast<int>(state.coolant)]);
    put(L, "feed", a.feed);
    put(L, "x", a.tip.x() / s.unit);
    put(L, "y", a.tip.y() / s.unit);
    put(L, "z", a.tip.z() / s.unit);
    if (a.arc != 0) {
        put(L, "arc", a.arc > 0 ? "counter" : "clockwise");
        static constexpr const char* kCentres[] = {"i", "j", "k"};
        for (int k = 0; k < 3; ++k) put(L, kCentres[k], a.centre[k] / s.unit);
    }
    if (a.kind == Act::Kind::Cycle) put(L, "cycle", cycleName(a.cycle));
    if (a.seconds > 0.0) put(L, "seconds", a.seconds);
    lua_createtable(L, 0, 6);
    lua_createtable(L, 0, 6);
    for (std::size_t j = 0; j < s.machine.joints.size(); ++j) {
        const Joint& joint = s.machine.joints[j];
        const bool rotary = joint.kind == JointKind::Rotary;
        if (std::isnan(a.joints[j])) continue;
        lua_pushnumber(L, rotary ? degrees(a.joints[j]) : a.joints[j] / s.unit);
        lua_setfield(L, -3, joint.name.c_str());
        if (!rotary || a.kind != Act::Kind::Move || (s.before && std::abs(s.before->joints[j] - a.joints[j]) < 1e-9)) continue;
        lua_pushboolean(L, 1);
        lua_setfield(L, -2, joint.name.c_str());
    }
    lua_setfield(L, -3, "turns");
    lua_setfield(L, -2, "joints");
    return 1;
}

} // namespace

// All that may ask for memory runs inside of a protected call: there may be none left.
Result<std::unique_ptr<Script>> Script::make(const std::string& source, const std::string& name) {
    const PlainLocale locale;
    std::unique_ptr<Script> script(new Script(name));
    script->m_lua = lua_newstate(allocate, &script->m_memory);
    if (!script->m_lua) return fail("there is no memory for the script", name);
    lua_State* L = script->m_lua;
    auto* left = new Left;
    std::memcpy(lua_getextraspace(L), &left, sizeof(void*));
    lua_pushcfunction(L, furnish);
    if (lua_pcall(L, 0, 0, 0) != LUA_OK) return script->failed("the script");
    lua_sethook(L, look, LUA_MASKCOUNT, kStepsBetweenLooks);
    left->begun = std::chrono::steady_clock::now();
    if (luaL_loadbufferx(L, source.data(), source.size(), "=script", "t") != LUA_OK || lua_pcall(L, 0, 0, 0) != LUA_OK) return script->failed("the script");
    lua_pushcfunction(L, findFunctions);
    lua_pushlightuserdata(L, &script->m_has);
    if (lua_pcall(L, 1, 0, 0) != LUA_OK) return script->failed("the script");
    return script;
}

Script::~Script() {
    if (!m_lua) return;
    const Left* left = &leftTo(m_lua);
    lua_close(m_lua);
    delete left;
}

// Errors of Lua name the script's line themselves: "script:3: …".
tl::unexpected<Error> Script::failed(const char* what) {
    std::string said = lua_type(m_lua, -1) == LUA_TSTRING ? printable(lua_tostring(m_lua, -1)) : "an error without words";
    if (said.rfind("script:", 0) == 0) said = "line " + said.substr(7);
    lua_settop(m_lua, 0);
    return fail(fmt::format("{} of dialect {}: {}", what, m_name, cutText(said, 300)), {}, "Mend the script in the dialect file");
}

/// Calls a function; what it gives is left on the stack.
Status Script::begin(Function function, const std::string* text, const ScriptAct& act) {
    lua_State* L = m_lua;
    lua_settop(L, 0);
    lua_rawgeti(L, LUA_REGISTRYINDEX, m_has[function]);
    if (text) {
        lua_pushcfunction(L, pushText);
        lua_pushlightuserdata(L, const_cast<std::string*>(text)); // NOLINT: read alone
        if (lua_pcall(L, 1, 1, 0) != LUA_OK) return failed(kFunctions[function]);
    }
    lua_pushcfunction(L, pushAct);
    lua_pushlightuserdata(L, const_cast<ScriptAct*>(&act)); // NOLINT: read alone
    if (lua_pcall(L, 1, 1, 0) != LUA_OK) return failed(kFunctions[function]);
    Left& left = leftTo(L);
    left.steps = kMostSteps;
    left.begun = std::chrono::steady_clock::now();
    const int done = lua_pcall(L, text ? 2 : 1, 1, 0);
    left.seconds -= std::chrono::duration<double>(std::chrono::steady_clock::now() - left.begun).count();
    return done == LUA_OK ? Status{} : failed(kFunctions[function]);
}

Result<std::vector<std::string>> Script::around(Function function, const ScriptAct& act) {
    const PlainLocale locale;
    lua_State* L = m_lua;
    if (const auto ok = begin(function, nullptr, act); !ok) return tl::unexpected(ok.error());
    const auto bad = [&](const std::string& what) { return fail(fmt::format("{} of dialect {} gives {}", kFunctions[function], m_name, what)); };
    std::vector<std::string> out;
    const auto take = [&]() -> Status { // the value at the top
        if (lua_type(L, -1) != LUA_TSTRING) return bad("something that is no text");
        std::size_t size = 0;
        const char* text = lua_tolstring(L, -1, &size);
        std::string line(text, size);
        if (size > kLongestLine || !isOneBlock(line)) return bad("a text that is no line");
        out.push_back(std::move(line));
        return {};
    };
    if (lua_istable(L, -1)) {
        const auto count = lua_rawlen(L, -1);
        if (count > kMostLines) return bad(fmt::format("more than {} lines", kMostLines));
        for (lua_Unsigned i = 1; i <= count; ++i) {
            lua_rawgeti(L, -1, static_cast<lua_Integer>(i));
            if (const auto ok = take(); !ok) return tl::unexpected(ok.error());
            lua_pop(L, 1);
        }
    } else if (!lua_isnil(L, -1)) {
        if (const auto ok = take(); !ok) return tl::unexpected(ok.error());
    }
    return out;
}

Result<std::string> Script::line(const std::string& text, const ScriptAct& act) {
    const PlainLocale locale;
    lua_State* L = m_lua;
    if (const auto ok = begin(Line, &text, act); !ok) return tl::unexpected(ok.error());
    if (lua_isnil(L, -1)) return text;
    if (lua_type(L, -1) != LUA_TSTRING) return fail(fmt::format("line of dialect {} gives something that is no text", m_name));
    std::size_t size = 0;
    const char* made = lua_tolstring(L, -1, &size);
    std::string out(made, size);
    if (size > kLongestLine || !isOneBlock(out) || trimmed(out).empty()) return fail(fmt::format("line of dialect {} gives a text that is no line", m_name));
    return out;
}

Result<Program> withScriptLines(Program program, const Speller& speller, const Machine& machine, const std::vector<std::string>& operations) {
    const Spelling& spelling = speller.spelling();
    auto script = Script::make(spelling.script, spelling.name);
    if (!script) return tl::unexpected(script.error());
    const bool before = (*script)->has(Script::Before), after = (*script)->has(Script::After);
    if (!before && !after) return program;
    constexpr std::size_t kMostOwn = 1'000'000;
    std::vector<Act> acts;
    acts.reserve(program.acts.size());
    /// Before an act that changes the tool or is a cycle the control has not been told of it yet.
    const auto stateBefore = [&](const Act& a, const Act* last) {
        ControlState s = program.stateOf(a);
        const ControlState was = last ? program.stateOf(*last) : ControlState{};
        if (a.kind == Act::Kind::ToolChange) s.tool = was.tool;
        if (a.kind == Act::Kind::Cycle) {
            s.cycles = was.cycles;
            s.cycleReturn = was.cycleReturn;
        }
        if (s == program.stateOf(a)) return a.state;
        program.states.push_back(s);
        return static_cast<std::uint32_t>(program.states.size() - 1);
    };
    const auto say = [&](Script::Function function, const Act& a, const Act* last) -> Status {
        const std::string name = a.operation < operations.size() ? operations[a.operation] : std::string();
        auto lines = (*script)->around(function, {program, a, last, name, machine, speller.words().unit()});
        if (!lines) return tl::unexpected(lines.error());
        for (std::string& line : *lines) {
            if (trimmed(line).empty()) continue;
            if (const auto ok = speller.mayBeOwn(line); !ok)
                return fail(fmt::format("{} of dialect {}: {}", kFunctions[function], spelling.name, ok.error().what), ok.error().place, ok.error().remedy);
            if (program.own.size() >= kMostOwn) return fail(fmt::format("the script of dialect {} adds more than {} lines", spelling.name, kMostOwn));
            Act own = a;
            own.kind = Act::Kind::Own;
            if (function == Script::Before) own.state = stateBefore(a, last);
            own.own = static_cast<std::uint32_t>(program.own.size());
            program.own.push_back(std::move(line));
            acts.push_back(own);
        }
        return {};
    };
    for (std::size_t i = 0; i < program.acts.size(); ++i) {
        const Act& a = program.acts[i];
        const Act* last = i > 0 ? &program.acts[i - 1] : nullptr;
        if (before && a.kind != Act::Kind::Own)
            if (const auto ok = say(Script::Before, a, last); !ok) return tl::unexpected(ok.error());
        acts.push_back(a);
        if (after && a.kind != Act::Kind::Own && a.kind != Act::Kind::End)
            if (const auto ok = say(Script::After, a, last); !ok) return tl::unexpected(ok.error());
    }
    program.acts = std::move(acts);
    return program;
}

} // namespace gyre
