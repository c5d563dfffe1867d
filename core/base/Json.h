// Strict reading of our JSON files: every value is checked for kind and size, and the first mistake is told with its place.
#pragma once
#include "base/Result.h"
#include <array>
#include <initializer_list>
#include <nlohmann/json.hpp>
#include <optional>
#include <vector>

namespace gyre {

using Json = nlohmann::json;
using OrderedJson = nlohmann::ordered_json;

/// As text; bytes that are no UTF-8 become U+FFFD instead of ending the program.
[[nodiscard]] inline std::string textOf(const OrderedJson& json, int indent = -1) { return json.dump(indent, ' ', false, OrderedJson::error_handler_t::replace); }

/// Parses text; a syntax error names line and column.
[[nodiscard]] Result<Json> parseJson(const std::string& text, const std::string& place);

/// A value in a JSON document, its path, and the place where the first mistake of the whole document is kept.
/// After a mistake all getters return defaults, so a reader can be written straight through and ask once at the end.
class JsonView {
public:
    JsonView(const Json& value, std::string path, std::optional<Error>& error) : m_value(&value), m_path(std::move(path)), m_error(&error) {}

    [[nodiscard]] const std::string& path() const { return m_path; }
    [[nodiscard]] bool failed() const { return m_error->has_value(); }
    void complain(const std::string& what) const;

    [[nodiscard]] bool has(const char* key) const;
    /// Complains about keys that are not in the list.
    void allow(std::initializer_list<const char*> keys, const char* of = "this format") const;
    void allow(const std::vector<std::string>& keys, const char* of) const;

    [[nodiscard]] double number(const char* key, double low, double high) const;
    [[nodiscard]] double number(const char* key, double low, double high, double otherwise) const;
    [[nodiscard]] int integer(const char* key, int low, int high) const;
    [[nodiscard]] int integer(const char* key, int low, int high, int otherwise) const;
    [[nodiscard]] bool flag(const char* key, bool otherwise) const;
    [[nodiscard]] std::string text(const char* key, std::size_t limit = 4096) const;
    [[nodiscard]] std::string text(const char* key, const char* otherwise, std::size_t limit = 4096) const;
    /// One of `words`; returns its position.
    [[nodiscard]] int choice(const char* key, std::initializer_list<const char*> words, int otherwise) const;
    /// The same; −1 when it is none of them.
    [[nodiscard]] int choice(const char* key, const std::vector<std::string>& words) const;
    [[nodiscard]] std::array<double, 3> triple(const char* key, double limit = 1e6) const;
    [[nodiscard]] std::array<double, 3> triple(const char* key, std::array<double, 3> otherwise, double limit = 1e6) const;
    [[nodiscard]] JsonView object(const char* key) const;
    [[nodiscard]] std::vector<JsonView> list(const char* key, std::size_t limit) const;
    [[nodiscard]] std::vector<double> numbers(const char* key, std::size_t limit, double low, double high) const;
    [[nodiscard]] const Json& raw() const { return *m_value; }

private:
    [[nodiscard]] const Json* member(const char* key, bool needed) const;
    [[nodiscard]] JsonView at(const char* key, const Json& value) const;
    const Json* m_value;
    std::string m_path;
    std::optional<Error>* m_error;
};

} // namespace gyre
