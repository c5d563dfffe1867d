#include "form/Word.h"
#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace gyre {

const WordInfo* FormInfo::find(const std::string& key) const {
    for (const FormInfo& kind : kinds)
        if (const WordInfo* w = kind.find(key)) return w;
    const auto it = std::find_if(words.begin(), words.end(), [&](const WordInfo& w) { return w.key == key; });
    return it == words.end() ? nullptr : &*it;
}

const WordInfo* wordAt(const FormInfo& form, const std::string& path) {
    const FormInfo* at = &form;
    const WordInfo* word = nullptr;
    for (std::size_t from = 0; from <= path.size();) {
        const std::size_t dot = std::min(path.find('.', from), path.size());
        const std::string key = path.substr(from, dot - from);
        from = dot + 1;
        // A number leads to an entry of a list or vector.
        if (word && !key.empty() && key.find_first_not_of("0123456789") == std::string::npos) continue;
        if (!at || !(word = at->find(key))) return nullptr;
        at = word->part.get();
    }
    return word;
}

namespace {

constexpr double kNoLimit = 1e299;

void putLimits(OrderedJson& out, const WordInfo& w) {
    if (w.low > -kNoLimit) out["minimum"] = w.low;
    if (w.high < kNoLimit) out["maximum"] = w.high;
}

/// Parts stand once, by the name of their form.
using Definitions = OrderedJson;
OrderedJson schemaOfForm(const FormInfo& form, Definitions& all);

OrderedJson referenceTo(const FormInfo& form, Definitions& all) {
    std::string name = form.name;
    std::replace(name.begin(), name.end(), ' ', '-');
    if (!all.contains(name)) {
        all[name] = nullptr; // its place
        OrderedJson made = schemaOfForm(form, all);
        all[name] = std::move(made);
    }
    return {{"$ref", "#/$defs/" + name}};
}

OrderedJson schemaOfWord(const WordInfo& w, Definitions& all) {
    OrderedJson out;
    switch (w.kind) {
    case WordKind::Length:
    case WordKind::Angle:
    case WordKind::Number:
        out["type"] = "number";
        putLimits(out, w);
        break;
    case WordKind::Count:
        out["type"] = "integer";
        putLimits(out, w);
        break;
    case WordKind::Flag:
        out["type"] = "boolean";
        break;
    case WordKind::Choice:
        for (const WordOption& o : w.options) out["enum"].push_back(o.id);
        break;
    case WordKind::Text:
        out["type"] = "string";
        out["maxLength"] = w.most;
        break;
    case WordKind::Vector:
    case WordKind::Place: {
        OrderedJson each = {{"type", "number"}};
        putLimits(each, w);
        out = {{"type", "array"}, {"items", each}, {"minItems", 3}, {"maxItems", 3}};
        break;
    }
    case WordKind::Numbers: {
        OrderedJson each = {{"type", "number"}};
        putLimits(each, w);
        out = {{"type", "array"}, {"items", each}, {"maxItems", w.most}};
        break;
    }
    case WordKind::Texts:
        out = {{"type", "array"}, {"items", {{"type", "string"}}}, {"maxItems", w.most}};
        break;
    case WordKind::Part:
        out = referenceTo(*w.part, all);
        break;
    case WordKind::List:
        out = {{"type", "array"}, {"items", referenceTo(*w.part, all)}, {"maxItems", w.most}};
        break;
    case WordKind::Constant:
        return {{"const", w.initial}};
    case WordKind::Any:
        return OrderedJson::object();
    }
    if (!w.what.empty()) out["description"] = w.what;
    if (!w.initial.is_null()) out["default"] = w.initial;
    return out;
}

OrderedJson schemaOfForm(const FormInfo& form, Definitions& all) {
    if (!form.kinds.empty()) {
        OrderedJson kinds = OrderedJson::array();
        for (std::size_t i = 0; i < form.kinds.size(); ++i) {
            OrderedJson one = schemaOfForm(form.kinds[i], all);
            // Each has its own kind, and no other.
            OrderedJson& kind = one["properties"][form.kindWord];
            const std::string id = kind["enum"][i];
            kind = {{"const", id}};
            if (static_cast<int>(i) != form.usualKind) one["required"].push_back(form.kindWord);
            kinds.push_back(std::move(one));
        }
        return {{"oneOf", kinds}};
    }
    OrderedJson out = {{"type", "object"}};
    OrderedJson needed = OrderedJson::array();
    for (const WordInfo& w : form.words) {
        out["properties"][w.key] = schemaOfWord(w, all);
        if (w.needed) needed.push_back(w.key);
    }
    if (!needed.empty()) out["required"] = needed;
    out["additionalProperties"] = false;
    if (!form.schema.empty()) out.merge_patch(OrderedJson::parse(form.schema.dump()));
    if (!form.shorthand.empty()) return {{"anyOf", {OrderedJson::parse(form.shorthand.dump()), out}}};
    return out;
}

std::string limitsOf(const WordInfo& w, const char* unit) {
    if (w.low > -kNoLimit && w.high < kNoLimit) return fmt::format("{:g} … {:g}{}", w.low, w.high, unit);
    return unit;
}

std::string valuesOf(const WordInfo& w) {
    switch (w.kind) {
    case WordKind::Length:
        return limitsOf(w, " mm");
    case WordKind::Angle:
        return limitsOf(w, "°");
    case WordKind::Number:
    case WordKind::Count:
        return limitsOf(w, "");
    case WordKind::Flag:
        return fmt::format("true: {}; false: {}", w.options[1].label, w.options[0].label);
    case WordKind::Choice: {
        std::vector<std::string> ids;
        for (const WordOption& o : w.options) ids.push_back(o.id);
        return fmt::format("{}", fmt::join(ids, ", "));
    }
    case WordKind::Text:
        return "text";
    case WordKind::Vector:
        return "three numbers";
    case WordKind::Place:
        return "three lengths in mm";
    case WordKind::Numbers:
        return "numbers";
    case WordKind::Texts:
        return "texts";
    case WordKind::Part:
        return "";
    case WordKind::List:
        return "list";
    case WordKind::Constant:
        return w.initial.dump();
    case WordKind::Any:
        return "anything";
    }
    return {};
}

std::string anchorOf(const std::string& name) {
    std::string anchor = name;
    std::replace(anchor.begin(), anchor.end(), ' ', '-');
    std::erase_if(anchor, [](char c) { return c == '\'' || c == '(' || c == ')' || c == ':'; });
    return anchor;
}

void putSection(const FormInfo& form, const std::string& title, std::set<std::string>& done, std::string& out) {
    if (!done.insert(title).second) return;
    out += fmt::format("\n## {}\n\n", title);
    std::vector<std::pair<const FormInfo*, std::string>> next;
    if (!form.kinds.empty()) {
        const WordInfo* which = form.kinds.front().find(form.kindWord);
        for (std::size_t i = 0; i < form.kinds.size(); ++i) {
            const std::string name = form.kinds.size() == which->options.size() ? fmt::format("{}: {}", title, which->options[i].id) : fmt::format("{}: {}", title, i);
            out += fmt::format("- `{}` {}: [{}](#{})\n", form.kindWord, which->options[i].id, name, anchorOf(name));
            next.emplace_back(&form.kinds[i], name);
        }
    } else {
        out += "| word | values | when left out | what it does |\n|---|---|---|---|\n";
        for (const WordInfo& w : form.words) {
            std::string initial = w.needed                                           ? "refused"
                                  : w.initial.is_string()                            ? w.initial.get<std::string>()
                                  : w.initial.is_primitive() && !w.initial.is_null() ? w.initial.dump()
                                                                                     : "";
            if (w.kind == WordKind::Constant) initial = "refused";
            std::string values = w.part ? fmt::format("[{}](#{})", w.part->name, anchorOf(w.part->name)) : valuesOf(w);
            if (w.kind == WordKind::List) values = fmt::format("list of {}, {} at most", values, w.most);
            out += fmt::format("| `{}` | {} | {} | {} |\n", w.key, values, initial, w.what);
            if (w.part) next.emplace_back(w.part.get(), w.part->name);
        }
    }
    for (const auto& [part, name] : next) putSection(*part, name, done, out);
}

} // namespace

OrderedJson schemaOf(const FormInfo& form) {
    Definitions all = OrderedJson::object();
    OrderedJson out = schemaOfForm(form, all);
    if (!all.empty()) out["$defs"] = all;
    return out;
}

std::string wordsPage(const std::vector<FormInfo>& forms) {
    std::string out;
    std::set<std::string> done;
    for (const FormInfo& form : forms) putSection(form, form.name, done, out);
    return out;
}

} // namespace gyre
