#include "Describe.h"
#include <CLI/CLI.hpp>
#include <fmt/format.h>

namespace gyre {
namespace {

/// As man(7) reads it: no line begins with a control character, hyphens are hyphens.
std::string escaped(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if ((c == '.' || c == '\'') && (i == 0 || text[i - 1] == '\n')) out += "\\&";
        if (c == '\\')
            out += "\\e";
        else if (c == '-')
            out += "\\-";
        else
            out += c;
    }
    return out;
}

std::vector<const CLI::App*> commandsOf(const CLI::App& app) {
    return app.get_subcommands([](const CLI::App* c) { return !c->get_group().empty() && !c->get_name().empty(); });
}

std::vector<const CLI::Option*> optionsOf(const CLI::App& app) {
    return app.get_options([](const CLI::Option* o) { return !o->get_group().empty(); });
}

std::string namesOf(const CLI::Option& o) {
    if (o.nonpositional() == false) return o.get_name(true);
    std::string out;
    for (const std::string& s : o.get_snames()) out += (out.empty() ? "-" : ", -") + s;
    for (const std::string& l : o.get_lnames()) out += (out.empty() ? "--" : ", --") + l;
    return out;
}

/// @param help  also the option for help, which every command has
void describe(const CLI::App& app, bool help, std::string& out) {
    for (const CLI::Option* o : optionsOf(app)) {
        if (!help && o == app.get_help_ptr()) continue;
        std::string takes = o->get_items_expected_max() > 0 && o->nonpositional() ? " " + o->get_type_name() : "";
        out += fmt::format(".TP\n\\fB{}\\fR{}\n{}", escaped(namesOf(*o)), escaped(takes), escaped(o->get_description()));
        if (!o->get_default_str().empty()) out += escaped(fmt::format(" (default {})", o->get_default_str()));
        out += o->get_required() && o->nonpositional() ? " (needed)\n" : "\n";
    }
}

/// The words between braces of a type like "TEXT:{a,b,c}".
std::string choicesOf(const CLI::Option& o) {
    const std::string type = o.get_type_name();
    const std::size_t from = type.find('{'), to = type.find('}');
    if (from == std::string::npos || to == std::string::npos) return {};
    std::string words = type.substr(from + 1, to - from - 1);
    std::replace(words.begin(), words.end(), ',', ' ');
    return words;
}

/// "names|of|option) words ;;" for every option that takes one of some words, and all option names in a line.
std::pair<std::string, std::string> casesOf(const CLI::App& app) {
    std::string cases, names;
    for (const CLI::Option* o : optionsOf(app)) {
        if (!o->nonpositional()) continue;
        std::string pattern;
        for (const std::string& l : o->get_lnames()) {
            names += " --" + l;
            pattern += (pattern.empty() ? "--" : "|--") + l;
        }
        if (const std::string words = choicesOf(*o); !words.empty() && !pattern.empty()) cases += fmt::format("        {}) given=\"{}\" ;;\n", pattern, words);
    }
    return {cases, names};
}

} // namespace

std::string manualPage(const CLI::App& app, const ManualWords& words) {
    std::string title = words.name;
    std::transform(title.begin(), title.end(), title.begin(), [](char c) { return static_cast<char>(std::toupper(static_cast<unsigned char>(c))); });
    std::string out = fmt::format(".TH {} 1 \"\" \"Humble Gyre {}\" \"\"\n.SH NAME\n{} \\- {}\n.SH SYNOPSIS\n", escaped(title), words.version, escaped(words.name),
                                  escaped(app.get_description()));
    const auto commands = commandsOf(app);
    out += fmt::format(".B {}\n{}[\\fIoptions\\fR]\n.SH DESCRIPTION\n", escaped(words.name), commands.empty() ? "" : "\\fIcommand\\fR ");
    std::string about = escaped(words.about);
    for (std::size_t at = 0; (at = about.find("\n\n", at)) != std::string::npos; at += 4) about.replace(at, 2, "\n.PP\n");
    out += about + "\n.SH OPTIONS\n";
    describe(app, true, out);
    if (!commands.empty()) out += ".SH COMMANDS\n";
    for (const CLI::App* c : commands) {
        out += fmt::format(".SS {} {}", escaped(words.name), escaped(c->get_name()));
        for (const CLI::Option* o : optionsOf(*c))
            if (!o->nonpositional()) out += " \\fI" + escaped(o->get_name(true)) + "\\fR";
        const std::string what = c->get_description();
        out += "\n" + escaped(what) + (what.ends_with('?') || what.ends_with('.') ? "\n" : ".\n");
        describe(*c, false, out);
    }
    if (!words.exits.empty()) {
        out += ".SH EXIT STATUS\n";
        std::istringstream lines(words.exits);
        for (std::string line; std::getline(lines, line);) out += ".TP\n.B " + line.substr(0, 1) + "\n" + escaped(line.substr(line.find_first_not_of(' ', 1))) + "\n";
    }
    return out + ".SH SEE ALSO\n" + escaped(words.see) + "\n";
}

std::string bashCompletion(const CLI::App& app, const std::string& name) {
    std::string function = "_" + name;
    std::replace(function.begin(), function.end(), '-', '_');
    const auto [ownCases, ownNames] = casesOf(app);
    std::string commands, parts;
    for (const CLI::App* c : commandsOf(app)) {
        commands += (commands.empty() ? "" : " ") + c->get_name();
        const auto [cases, names] = casesOf(*c);
        parts += fmt::format("    {})\n        options=\"{}{}\"\n        case $before in\n{}        esac ;;\n", c->get_name(), names.empty() ? "" : names.substr(1),
                             ownNames, cases);
    }
    return fmt::format(R"(# bash completion for {0}, made by the program itself
{1}() {{
    local now=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}} command="" given="" options="{2}" word
    for word in "${{COMP_WORDS[@]:1:COMP_CWORD-1}}"; do
        case " {3} " in *" $word "*) [ -n "$word" ] && command=$word && break ;; esac
    done
    case $before in
{4}    esac
    case $command in
    "") [ -n "{3}" ] && [ -z "$given" ] && [[ $now != -* ]] && given="{3}" ;;
{5}    esac
    if [ -n "$given" ]; then
        COMPREPLY=($(compgen -W "$given" -- "$now"))
    elif [[ $now == -* ]]; then
        COMPREPLY=($(compgen -W "$options" -- "$now"))
    else
        COMPREPLY=($(compgen -f -- "$now"))
    fi
}}
complete -o filenames -F {1} {0}
)",
                       name, function, ownNames.empty() ? "" : ownNames.substr(1), commands, ownCases, parts);
}

} // namespace gyre
