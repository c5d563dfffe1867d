#include "part/StepText.h"
#include <algorithm>
#include <cctype>
#include <fmt/format.h>
#include <utility>
#include <vector>

namespace gyre {
namespace {

bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool isLetter(char c) { return (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || c == '_'; }

class StepText {
public:
    explicit StepText(std::string_view text) : m_text(text) { m_names.reserve(text.size() / 60); }

    std::optional<StepFault> fault() {
        try {
            file();
        } catch (const StepFault& f) {
            return f;
        }
        return std::nullopt;
    }

private:
    [[noreturn]] void broken(std::string what, std::size_t at) const {
        throw StepFault{1 + static_cast<std::size_t>(std::count(m_text.begin(), m_text.begin() + static_cast<std::ptrdiff_t>(std::min(at, m_text.size())), '\n')),
                        std::move(what)};
    }
    static constexpr int kDeepest = 64; // no entity of the standard comes near; the kernel reads them by calling itself
    [[noreturn]] void broken(std::string what) const { broken(std::move(what), m_at); }
    [[nodiscard]] char here() const { return m_at < m_text.size() ? m_text[m_at] : '\0'; }
    [[nodiscard]] std::string shown() const { // what stands here, for messages
        std::string out;
        for (std::size_t i = m_at; i < m_text.size() && out.size() < 12 && m_text[i] > ' ' && m_text[i] < 127; ++i) out += m_text[i];
        return out.empty() ? "nothing that can be shown" : "'" + out + "'";
    }
    void space() {
        while (m_at < m_text.size()) {
            const auto c = static_cast<unsigned char>(m_text[m_at]);
            if (c <= ' ') {
                ++m_at;
            } else if (c == '/' && m_text.compare(m_at, 2, "/*") == 0) {
                const auto end = m_text.find("*/", m_at + 2);
                if (end == std::string_view::npos) broken("a remark is not closed");
                m_at = end + 2;
            } else if (c == '\\' && (m_text.compare(m_at, 3, "\\N\\") == 0 || m_text.compare(m_at, 3, "\\F\\") == 0)) {
                m_at += 3; // new line and new page for printers
            } else {
                return;
            }
        }
    }
    bool take(char c) {
        space();
        if (here() != c) return false;
        ++m_at;
        return true;
    }
    void expect(char c, const char* after) {
        if (!take(c)) broken(fmt::format("'{}' is missing after {}: {}", c, after, shown()));
    }
    /// Letters, digits and, in the names of sections, dashes.
    std::string_view word() {
        space();
        const std::size_t from = m_at;
        if (here() == '!') ++m_at;
        if (!isLetter(here())) {
            m_at = from;
            return {};
        }
        while (isLetter(here()) || isDigit(here()) || here() == '-') ++m_at;
        return m_text.substr(from, m_at - from);
    }
    void quoted(char mark, const char* what) {
        const std::size_t from = m_at++;
        while (true) {
            const auto end = m_text.find(mark, m_at);
            if (end == std::string_view::npos) broken(fmt::format("{} is not closed", what), from);
            m_at = end + 1;
            if (mark != '\'' || here() != mark) return; // twice: the mark itself
            ++m_at;
        }
    }
    void digits() {
        while (isDigit(here())) ++m_at;
    }
    void number() {
        const std::size_t from = m_at;
        if (here() == '+' || here() == '-') ++m_at;
        const std::size_t first = m_at;
        digits();
        std::size_t count = m_at - first;
        if (here() == '.') {
            const std::size_t point = ++m_at;
            digits();
            count += m_at - point;
        }
        bool good = count > 0;
        if (good && (here() == 'e' || here() == 'E')) {
            ++m_at;
            if (here() == '+' || here() == '-') ++m_at;
            const std::size_t power = m_at;
            digits();
            good = m_at > power;
        }
        const char next = here();
        if (!good || isLetter(next) || next == '.' || next == '#' || next == '\'' || next == '"') {
            m_at = from;
            broken("a number cannot be read: " + shown());
        }
    }
    std::size_t reference() { // '#' has been seen
        const std::size_t from = m_at++;
        std::size_t n = 0;
        const std::size_t first = m_at;
        for (; isDigit(here()) && m_at < first + 18; ++m_at) n = 10 * n + static_cast<std::size_t>(here() - '0');
        if (m_at == first || isDigit(here()) || isLetter(here())) {
            m_at = from;
            broken("a name of an instance cannot be read: " + shown());
        }
        return n;
    }
    /// .NAME., if one stands here.
    bool choice() {
        if (here() != '.' || m_at + 1 >= m_text.size() || !isLetter(m_text[m_at + 1])) return false;
        const std::size_t from = m_at++;
        while (isLetter(here()) || isDigit(here())) ++m_at;
        if (here() != '.') {
            m_at = from;
            broken("a choice cannot be read: " + shown());
        }
        ++m_at;
        return true;
    }
    bool number(char c) {
        if (!isDigit(c) && c != '+' && c != '-' && c != '.') return false;
        number();
        return true;
    }
    /// What stands between brackets; the opening one has been taken.
    void values() {
        std::size_t deep = 1;
        bool value = true; // one may stand here, not a comma
        bool first = true; // nothing has been said yet since the bracket
        while (deep > 0) {
            space();
            const char c = here();
            if (c == ')') {
                if (value && !first) broken("a value is missing before a bracket");
                ++m_at;
                --deep;
                value = first = false;
                continue;
            }
            if (!value) {
                if (c != ',') broken("a comma or a bracket is missing: " + shown());
                ++m_at;
                value = true;
                first = false;
                continue;
            }
            value = first = false;
            switch (c) {
            case '(':
                ++m_at;
                if (++deep > kDeepest) broken(fmt::format("brackets stand over {} deep in each other", kDeepest));
                value = first = true;
                break;
            case '\'':
                quoted('\'', "a text");
                break;
            case '"':
                quoted('"', "a row of bits");
                break;
            case '$':
            case '*':
                ++m_at;
                break;
            case '#':
                reference();
                break;
            default:
                if (choice() || number(c)) break;
                const std::size_t from = m_at;
                if (word().empty() || !take('(')) {
                    m_at = from;
                    broken("what stands here is no value: " + shown());
                }
                if (++deep > kDeepest) broken(fmt::format("brackets stand over {} deep in each other", kDeepest));
                value = first = true;
            }
        }
    }
    void record() {
        if (word().empty()) broken("the kind of an instance cannot be read: " + shown());
        expect('(', "the kind of an instance");
        values();
    }
    void instance() { // '#' stands here
        const std::size_t from = m_at, name = reference();
        expect('=', "the name of an instance");
        space();
        if (here() == '&') {
            m_scopes = true;
            return;
        }
        if (take('(')) {
            do record();
            while (!take(')'));
        } else {
            record();
        }
        expect(';', "an instance");
        m_names.emplace_back(name, from);
    }
    void file() {
        while (true) {
            const std::string_view section = word();
            if (section.empty()) broken("a section of the file cannot be read: " + shown());
            if (section == "END-ISO-10303-21") return names();
            if (section == "DATA" && take('(')) values();
            expect(';', "the name of a section");
            if (section == "ISO-10303-21") continue;
            if (section == "DATA") {
                while (space(), here() == '#') {
                    instance();
                    if (m_scopes) return;
                }
                end();
            } else if (section == "HEADER") {
                while (true) {
                    const std::size_t from = m_at;
                    if (word() == "ENDSEC") break;
                    m_at = from;
                    record();
                    expect(';', "an entry of the header");
                }
                expect(';', "ENDSEC");
            } else { // anchors, references, signatures of later editions
                const auto at = m_text.find("ENDSEC", m_at);
                if (at == std::string_view::npos) broken("a section is not closed");
                m_at = at;
                end();
            }
        }
    }
    void names() {
        const auto notAfter = [](const auto& a, const auto& b) { return a.first >= b.first; };
        if (std::adjacent_find(m_names.begin(), m_names.end(), notAfter) == m_names.end()) return; // most writers count up
        std::sort(m_names.begin(), m_names.end());
        const auto twice = std::adjacent_find(m_names.begin(), m_names.end(), [](const auto& a, const auto& b) { return a.first == b.first; });
        if (twice != m_names.end()) broken(fmt::format("the instance #{} stands there twice", twice->first), (twice + 1)->second);
    }
    void end() {
        if (word() != "ENDSEC") broken("neither an instance nor the end of the section: " + shown());
        expect(';', "ENDSEC");
    }

    std::string_view m_text;
    std::size_t m_at = 0;
    std::vector<std::pair<std::size_t, std::size_t>> m_names; ///< of instances, and where they stand
    bool m_scopes = false;                                    ///< of the first edition: what follows is not looked at
};

} // namespace

std::optional<StepFault> faultInStep(std::string_view text) {
    if (text.substr(0, 3) == "\xEF\xBB\xBF") text.remove_prefix(3);
    return StepText(text).fault();
}

} // namespace gyre
