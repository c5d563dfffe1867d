#include "base/Json.h"
#include "base/Text.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace gyre {

namespace {
const Json& emptyObject() {
    static const Json empty = Json::object();
    return empty;
}

// The parser itself has no depth limit; a file nested deeper than any of ours is refused before it is built.
std::size_t deepest(const std::string& text) {
    std::size_t depth = 0, most = 0;
    bool inText = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inText) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                inText = false;
        } else if (c == '"')
            inText = true;
        else if (c == '{' || c == '[')
            most = std::max(most, ++depth);
        else if ((c == '}' || c == ']') && depth > 0)
            --depth;
    }
    return most;
}
} // namespace

Result<Json> parseJson(const std::string& text, const std::string& place) {
    if (deepest(text) > 64) return fail("the file is nested deeper than 64 levels", place);
    try {
        return Json::parse(text);
    } catch (const Json::parse_error& e) {
        std::size_t line = 1, column = 1;
        for (std::size_t i = 0; i + 1 < e.byte && i < text.size(); ++i) {
            ++column;
            if (text[i] == '\n') {
                ++line;
                column = 1;
            }
        }
        const bool cut = e.byte >= text.size();
        return fail(cut ? std::string("the file ends too early: it seems to be cut short") : std::string("this is not valid JSON"),
                    fmt::format("{}, line {}, column {}", place, line, column));
    } catch (const Json::exception& e) {
        return fail(fmt::format("a value cannot be read ({})", e.what()), place);
    }
}

void JsonView::complain(const std::string& what) const {
    if (!*m_error) *m_error = Error{what, m_path.empty() ? "/" : m_path, {}, false};
}

const Json* JsonView::member(const char* key, bool needed) const {
    if (!m_value->is_object()) {
        complain("an object { … } is expected here");
        return nullptr;
    }
    const auto it = m_value->find(key);
    if (it == m_value->end()) {
        if (needed) complain(fmt::format("'{}' is missing", key));
        return nullptr;
    }
    return &*it;
}

JsonView JsonView::at(const char* key, const Json& value) const { return {value, m_path + "/" + key, *m_error}; }

bool JsonView::has(const char* key) const { return m_value->is_object() && m_value->contains(key); }

void JsonView::allow(std::initializer_list<const char*> keys, const char* of) const { allow(std::vector<std::string>(keys.begin(), keys.end()), of); }

void JsonView::allow(const std::vector<std::string>& keys, const char* of) const {
    if (!m_value->is_object()) return complain("an object { … } is expected here");
    for (const auto& [name, value] : m_value->items())
        if (std::find(keys.begin(), keys.end(), name) == keys.end()) return complain(fmt::format("'{}' is not a word of {}", cutText(name, 60), of));
}

double JsonView::number(const char* key, double low, double high) const {
    const Json* v = member(key, true);
    if (!v) return low;
    if (!v->is_number()) {
        at(key, *v).complain("a number is expected here");
        return low;
    }
    const double d = v->get<double>();
    if (!std::isfinite(d) || d < low || d > high) {
        at(key, *v).complain(fmt::format("{} is outside of {} … {}", d, low, high));
        return low;
    }
    return d;
}

double JsonView::number(const char* key, double low, double high, double otherwise) const { return has(key) ? number(key, low, high) : otherwise; }

int JsonView::integer(const char* key, int low, int high) const {
    const double d = number(key, low, high);
    if (d != std::floor(d)) {
        complain(fmt::format("'{}' must be a whole number, not {}", key, d));
        return low;
    }
    return static_cast<int>(d);
}

int JsonView::integer(const char* key, int low, int high, int otherwise) const { return has(key) ? integer(key, low, high) : otherwise; }

bool JsonView::flag(const char* key, bool otherwise) const {
    const Json* v = member(key, false);
    if (!v) return otherwise;
    if (!v->is_boolean()) {
        at(key, *v).complain("true or false is expected here");
        return otherwise;
    }
    return v->get<bool>();
}

std::string JsonView::text(const char* key, std::size_t limit) const {
    const Json* v = member(key, true);
    if (!v) return {};
    if (!v->is_string()) {
        at(key, *v).complain("a text is expected here");
        return {};
    }
    auto s = v->get<std::string>();
    if (s.size() > limit) {
        at(key, *v).complain(fmt::format("the text is longer than {} bytes", limit));
        return {};
    }
    return s;
}

std::string JsonView::text(const char* key, const char* otherwise, std::size_t limit) const { return has(key) ? text(key, limit) : std::string(otherwise); }

int JsonView::choice(const char* key, std::initializer_list<const char*> words, int otherwise) const {
    if (!has(key)) return otherwise;
    const int i = choice(key, std::vector<std::string>(words.begin(), words.end()));
    return i < 0 ? otherwise : i;
}

int JsonView::choice(const char* key, const std::vector<std::string>& words) const {
    const std::string s = text(key);
    const auto it = std::find(words.begin(), words.end(), s);
    if (it != words.end()) return static_cast<int>(it - words.begin());
    std::string all;
    for (const std::string& w : words) all += fmt::format("{}'{}'", all.empty() ? "" : ", ", w);
    if (!failed()) at(key, (*m_value)[key]).complain(fmt::format("'{}' is none of {}", s.substr(0, 60), all));
    return -1;
}

std::array<double, 3> JsonView::triple(const char* key, double limit) const {
    const Json* v = member(key, true);
    if (!v) return {};
    if (!v->is_array() || v->size() != 3) {
        at(key, *v).complain("three numbers [x, y, z] are expected here");
        return {};
    }
    std::array<double, 3> out{};
    for (std::size_t i = 0; i < 3; ++i) {
        if (!(*v)[i].is_number() || !(std::abs((*v)[i].get<double>()) <= limit)) {
            at(key, *v).complain(fmt::format("numbers within ±{} are expected here", limit));
            return {};
        }
        out[i] = (*v)[i].get<double>();
    }
    return out;
}

std::array<double, 3> JsonView::triple(const char* key, std::array<double, 3> otherwise, double limit) const { return has(key) ? triple(key, limit) : otherwise; }

JsonView JsonView::object(const char* key) const {
    const Json* v = member(key, true);
    if (v && !v->is_object()) at(key, *v).complain("an object { … } is expected here");
    return at(key, v && v->is_object() ? *v : emptyObject());
}

std::vector<JsonView> JsonView::list(const char* key, std::size_t limit) const {
    const Json* v = member(key, false);
    if (!v) return {};
    if (!v->is_array()) {
        at(key, *v).complain("a list [ … ] is expected here");
        return {};
    }
    if (v->size() > limit) {
        at(key, *v).complain(fmt::format("{} entries are more than the {} allowed", v->size(), limit));
        return {};
    }
    std::vector<JsonView> out;
    for (std::size_t i = 0; i < v->size(); ++i) out.emplace_back((*v)[i], fmt::format("{}/{}/{}", m_path, key, i), *m_error);
    return out;
}

std::vector<double> JsonView::numbers(const char* key, std::size_t limit, double low, double high) const {
    std::vector<double> out;
    for (const JsonView& entry : list(key, limit)) {
        if (!entry.m_value->is_number() || !(entry.m_value->get<double>() >= low) || !(entry.m_value->get<double>() <= high)) {
            entry.complain(fmt::format("a number from {} to {} is expected here", low, high));
            return out;
        }
        out.push_back(entry.m_value->get<double>());
    }
    return out;
}

} // namespace gyre
