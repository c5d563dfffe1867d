// The words of a thing, declared once: a word is bound to its member, and reading, writing, refusing, comparing, hashing, schema, page, sentence,
// help and random values for tests come from the one declaration.
//
//     const Form<SwarfSpec>& swarfForm() {
//         static const Form<SwarfSpec> form = Form<SwarfSpec>("a wall")
//             .length("past", &SwarfSpec::past, -kFar, kFar, "How far the tip goes past the lower edge")
//             .choice("corner", &SwarfSpec::corner, {{SwarfCorner::Roll, "roll", "are rolled around"}, …}, "Outer corners");
//         return form;
//     }
//
// What a file leaves out is as a thing made by `T{}` has it.
#pragma once
#include "base/Boxed.h"
#include "base/Hash.h"
#include "base/Text.h"
#include "form/Word.h"
#include "geom/Vec.h"
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <optional>
#include <random>

namespace gyre {

/// Where random values come from.
using Dice = std::mt19937;

template <class T> class Form {
public:
    template <class V> struct Option {
        V value;
        const char* id;
        const char* label = "";
    };

    explicit Form(std::string name) { m_info.name = std::move(name); }

    /// A thing of several kinds, each with a form of its own.
    /// @param kind   the word that tells, a choice of every one of the forms
    /// @param of     position of a thing's form
    /// @param usual  position of the form of a file that does not say; −1: it must
    static Form oneOf(std::string name, const char* kind, std::vector<const Form*> forms, std::function<std::size_t(const T&)> of, int usual) {
        Form form(std::move(name));
        form.m_kindWord = kind;
        form.m_kinds = std::move(forms);
        form.m_kindOf = std::move(of);
        form.m_usualKind = usual;
        return form;
    }

    Form& length(const char* key, double T::*m, double low, double high, const char* what) { return real(WordKind::Length, key, m, low, high, what); }
    Form& angle(const char* key, double T::*m, double low, double high, const char* what) { return real(WordKind::Angle, key, m, low, high, what); }
    Form& number(const char* key, double T::*m, double low, double high, const char* what) { return real(WordKind::Number, key, m, low, high, what); }
    Form& count(const char* key, int T::*m, int low, int high, const char* what) {
        Entry& e = add(key, WordKind::Count, what);
        e.info.low = low;
        e.info.high = high;
        e.info.initial = T{}.*m;
        const std::string k = key;
        e.read = [k, m, low, high](const JsonView& v, T& t) { t.*m = v.integer(k.c_str(), low, high); };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = t.*m; };
        e.shake = [m, low, high](T& t, Dice& dice) { t.*m = std::uniform_int_distribution<int>(low, high)(dice); };
        return *this;
    }
    /// @param yes, no  how sentences say it
    Form& flag(const char* key, bool T::*m, const char* what, const char* yes = "", const char* no = "") {
        Entry& e = add(key, WordKind::Flag, what);
        e.info.options = {{"false", no}, {"true", yes}};
        e.info.initial = T{}.*m;
        const std::string k = key;
        e.read = [k, m](const JsonView& v, T& t) { t.*m = v.flag(k.c_str(), t.*m); };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = t.*m; };
        e.shake = [m](T& t, Dice& dice) { t.*m = (dice() & 1u) != 0; };
        return *this;
    }
    /// @param options at least one for every value that the member may have
    template <class V> Form& choice(const char* key, V T::*m, std::vector<Option<V>> options, const char* what) {
        Entry& e = add(key, WordKind::Choice, what);
        std::vector<std::string> ids;
        for (const auto& o : options) {
            e.info.options.push_back({o.id, o.label});
            ids.emplace_back(o.id);
        }
        const auto idOf = [options](const V& value) -> std::string {
            for (const auto& o : options)
                if (o.value == value) return o.id;
            return options.front().id;
        };
        e.info.initial = idOf(T{}.*m);
        const std::string k = key;
        e.read = [k, m, ids, options](const JsonView& v, T& t) {
            if (const int i = v.choice(k.c_str(), ids); i >= 0) t.*m = options[static_cast<std::size_t>(i)].value;
        };
        e.write = [k, m, idOf](const T& t, OrderedJson& out) { out[k] = idOf(t.*m); };
        e.shake = [m, options](T& t, Dice& dice) { t.*m = options[dice() % options.size()].value; };
        return *this;
    }
    Form& text(const char* key, std::string T::*m, std::size_t most, const char* what) {
        Entry& e = add(key, WordKind::Text, what);
        e.info.most = most;
        e.info.initial = T{}.*m;
        const std::string k = key;
        e.read = [k, m, most](const JsonView& v, T& t) { t.*m = v.text(k.c_str(), most); };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = t.*m; };
        e.shake = [m](T& t, Dice& dice) { t.*m = "w" + std::string(1 + dice() % 3, static_cast<char>('a' + dice() % 26)); };
        return *this;
    }
    Form& vector(const char* key, Vec3 T::*m, double limit, const char* what) {
        Entry& e = add(key, WordKind::Vector, what);
        e.info.low = -limit;
        e.info.high = limit;
        const Vec3 initial = T{}.*m;
        e.info.initial = {initial.x(), initial.y(), initial.z()};
        const std::string k = key;
        e.read = [k, m, limit](const JsonView& v, T& t) {
            const auto a = v.triple(k.c_str(), limit);
            t.*m = Vec3(a[0], a[1], a[2]);
        };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = {(t.*m).x(), (t.*m).y(), (t.*m).z()}; };
        e.shake = [m, limit](T& t, Dice& dice) {
            std::uniform_real_distribution<double> in(-std::min(limit, 1e3), std::min(limit, 1e3));
            t.*m = Vec3(in(dice), in(dice), in(dice));
        };
        return *this;
    }
    /// A vector of lengths.
    Form& place(const char* key, Vec3 T::*m, double limit, const char* what) {
        vector(key, m, limit, what);
        m_entries.back().info.kind = WordKind::Place;
        return *this;
    }
    /// Whole numbers.
    Form& numbers(const char* key, std::vector<int> T::*m, std::size_t most, int low, int high, const char* what) {
        Entry& e = add(key, WordKind::Numbers, what);
        e.info.most = most;
        e.info.low = low;
        e.info.high = high;
        const std::string k = key;
        e.read = [k, m, most, low, high](const JsonView& v, T& t) {
            (t.*m).clear();
            for (const double x : v.numbers(k.c_str(), most, low, high)) {
                if (x != std::floor(x)) return v.complain(fmt::format("'{}' are whole numbers, not {}", k, x));
                (t.*m).push_back(static_cast<int>(x));
            }
        };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = t.*m; };
        e.shake = [m, low, high](T& t, Dice& dice) {
            (t.*m).assign(dice() % 3, 0);
            for (int& x : t.*m) x = std::uniform_int_distribution<int>(low, high)(dice);
        };
        return *this;
    }
    Form& texts(const char* key, std::vector<std::string> T::*m, std::size_t most, const char* what) {
        Entry& e = add(key, WordKind::Texts, what);
        e.info.most = most;
        const std::string k = key;
        e.read = [k, m, most](const JsonView& v, T& t) {
            (t.*m).clear();
            for (const JsonView& name : v.list(k.c_str(), most)) {
                if (name.raw().is_string())
                    (t.*m).push_back(cutText(name.raw().template get<std::string>(), 200));
                else
                    name.complain("a name is expected here");
            }
        };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = t.*m; };
        e.shake = [m](T& t, Dice& dice) {
            (t.*m).clear();
            for (std::size_t i = dice() % 3; i > 0; --i) (t.*m).push_back("w" + std::string(1 + dice() % 3, static_cast<char>('a' + dice() % 26)));
        };
        return *this;
    }
    template <class U> Form& part(const char* key, Boxed<U> T::*m, const Form<U>& form, const char* what) { return part<U, Boxed<U>>(key, m, form, what); }
    template <class U, class Held = U> Form& part(const char* key, Held T::*m, const Form<U>& form, const char* what) {
        Entry& e = add(key, WordKind::Part, what);
        e.info.part = std::make_shared<const FormInfo>(form.info());
        const std::string k = key;
        const Form<U>* of = &form;
        e.read = [k, m, of](const JsonView& v, T& t) { t.*m = of->read(v.object(k.c_str())); };
        e.write = [k, m, of](const T& t, OrderedJson& out) { out[k] = of->write(t.*m); };
        e.shake = [m, of](T& t, Dice& dice) { t.*m = of->random(dice); };
        return *this;
    }
    template <class U> Form& list(const char* key, std::vector<U> T::*m, std::size_t most, const Form<U>& form, const char* what) {
        Entry& e = add(key, WordKind::List, what);
        e.info.most = most;
        e.info.part = std::make_shared<const FormInfo>(form.info());
        const std::string k = key;
        const Form<U>* of = &form;
        e.read = [k, m, most, of](const JsonView& v, T& t) {
            (t.*m).clear();
            for (const JsonView& each : v.list(k.c_str(), most)) (t.*m).push_back(of->read(each));
        };
        e.write = [k, m, of](const T& t, OrderedJson& out) {
            out[k] = OrderedJson::array();
            for (const U& each : t.*m) out[k].push_back(of->write(each));
        };
        e.shake = [m, of](T& t, Dice& dice) {
            (t.*m).clear();
            for (std::size_t i = dice() % 3; i > 0; --i) (t.*m).push_back(of->random(dice));
        };
        return *this;
    }
    /// Words of the thing itself that a file keeps together under one.
    Form& group(const char* key, const Form& form, const char* what) {
        Entry& e = add(key, WordKind::Part, what);
        e.info.part = std::make_shared<const FormInfo>(form.info());
        const std::string k = key;
        const Form* of = &form;
        e.read = [k, of](const JsonView& v, T& t) { of->read(v.object(k.c_str()), t); };
        e.write = [k, of](const T& t, OrderedJson& out) { out[k] = of->write(t); };
        e.shake = [of](T& t, Dice& dice) { of->scatter(t, dice); };
        return *this;
    }
    /// A part that may be missing.
    template <class U> Form& maybe(const char* key, std::optional<U> T::*m, const Form<U>& form, const char* what) {
        Entry& e = add(key, WordKind::Part, what);
        e.info.part = std::make_shared<const FormInfo>(form.info());
        const std::string k = key;
        const Form<U>* of = &form;
        e.read = [k, m, of](const JsonView& v, T& t) { t.*m = of->read(v.object(k.c_str())); };
        e.write = [k, m, of](const T& t, OrderedJson& out) { out[k] = of->write(*(t.*m)); };
        e.shake = [m, of](T& t, Dice& dice) { t.*m = of->random(dice); };
        e.when = [m](const T& t) { return (t.*m).has_value(); };
        return *this;
    }
    /// A word that says what a file is, always the same.
    Form& constant(const char* key, const OrderedJson& value, const char* what) {
        Entry& e = add(key, WordKind::Constant, what);
        e.info.initial = value;
        e.info.needed = true;
        const std::string k = key;
        e.read = [k, value](const JsonView& v, T&) {
            if (!v.has(k.c_str()) || OrderedJson(v.raw()[k]) != value) v.complain(fmt::format("'{}' must be {}", k, value.dump()));
        };
        e.write = [k, value](const T&, OrderedJson& out) { out[k] = value; };
        e.shake = [](T&, Dice&) {};
        return *this;
    }
    /// A word for whoever writes files: taken, and not kept.
    Form& remark(const char* key, const char* what) {
        Entry& e = add(key, WordKind::Any, what);
        e.read = [](const JsonView&, T&) {};
        e.write = [](const T&, OrderedJson&) {};
        e.shake = [](T&, Dice&) {};
        return *this;
    }
    /// A word that none of the above can say.
    Form& special(WordInfo info, std::function<void(const JsonView&, T&)> read, std::function<void(const T&, OrderedJson&)> write, std::function<void(T&, Dice&)> shake) {
        m_entries.push_back({std::move(info), std::move(read), std::move(write), std::move(shake), {}});
        return *this;
    }
    /// All words of another form of the same thing.
    Form& with(const Form& other) {
        m_entries.insert(m_entries.end(), other.m_entries.begin(), other.m_entries.end());
        m_before.insert(m_before.end(), other.m_before.begin(), other.m_before.end());
        m_checks.insert(m_checks.end(), other.m_checks.begin(), other.m_checks.end());
        m_settle.insert(m_settle.end(), other.m_settle.begin(), other.m_settle.end());
        return *this;
    }
    /// All words of what the thing is derived from.
    template <class B> Form& base(const Form<B>& form) {
        return inlinedBy([](T& t) -> B& { return t; }, [](const T& t) -> const B& { return t; }, form);
    }
    /// The words of a part of the thing, as if they were its own.
    template <class U> Form& inlined(U T::*m, const Form<U>& form) {
        return inlinedBy([m](T& t) -> U& { return t.*m; }, [m](const T& t) -> const U& { return t.*m; }, form);
    }

    // About the word declared last.
    /// By how much a key or the wheel changes it.
    Form& step(double by) {
        m_entries.back().info.step = by;
        return *this;
    }
    /// A file without it is refused.
    Form& needed() {
        m_entries.back().info.needed = true;
        m_entries.back().info.initial = nullptr;
        return *this;
    }
    /// Written only where it holds.
    Form& writtenWhen(std::function<bool(const T&)> when) {
        m_entries.back().when = std::move(when);
        return *this;
    }
    /// Written only when it is not as T{} has it.
    Form& writtenWhenChanged() {
        OrderedJson initial = OrderedJson::object();
        m_entries.back().write(T{}, initial);
        const auto write = m_entries.back().write;
        return writtenWhen([initial, write](const T& t) {
            OrderedJson now = OrderedJson::object();
            write(t, now);
            return now != initial;
        });
    }
    /// Called before the words are read: what depends on others where a file leaves it out.
    Form& before(std::function<void(const JsonView&, T&)> prepare) {
        m_before.push_back(std::move(prepare));
        return *this;
    }
    /// All of its words are written only when they are not as T{} has them.
    Form& changesOnly() {
        for (Entry& e : m_entries) {
            OrderedJson initial = OrderedJson::object();
            e.write(T{}, initial);
            e.when = [initial, write = e.write](const T& t) {
                OrderedJson now = OrderedJson::object();
                write(t, now);
                return now != initial;
            };
        }
        return *this;
    }
    /// What must hold between words; it complains itself.
    Form& check(std::function<void(const JsonView&, const T&)> check) {
        m_checks.push_back(std::move(check));
        return *this;
    }
    /// What the schema says besides; laid over the one made from the words.
    Form& schema(const char* json) {
        m_info.schema = Json::parse(json);
        return *this;
    }
    /// Another way to write the whole thing, shorter than an object: taken when `read` finds it, written when `write` gives something.
    Form& shorthand(std::function<bool(const JsonView&, T&)> read, std::function<OrderedJson(const T&)> write, const char* schema) {
        m_readShort = std::move(read);
        m_writeShort = std::move(write);
        m_info.shorthand = Json::parse(schema);
        return *this;
    }
    /// What else random values need so that a check passes.
    Form& settled(std::function<void(T&)> settle) {
        m_settle.push_back(std::move(settle));
        return *this;
    }

    [[nodiscard]] FormInfo info() const {
        FormInfo out = m_info;
        for (const Form* kind : m_kinds) out.kinds.push_back(kind->info());
        out.usualKind = m_usualKind;
        out.kindWord = m_kindWord;
        for (const Entry& e : m_entries) out.words.push_back(e.info);
        return out;
    }
    [[nodiscard]] T read(const JsonView& v) const {
        T t{};
        read(v, t);
        return t;
    }
    /// @param t  what it begins as: what a file leaves out stays
    void read(const JsonView& v, T& t) const {
        if (m_readShort && m_readShort(v, t)) return;
        if (!m_kinds.empty()) {
            const int kind = kindIn(v);
            return kind < 0 ? void() : m_kinds[static_cast<std::size_t>(kind)]->read(v, t);
        }
        refuseOthers(v);
        for (const auto& b : m_before) b(v, t);
        for (const Entry& e : m_entries)
            if (e.info.needed || v.has(e.info.key.c_str())) e.read(v, t);
        if (v.failed()) return;
        for (const auto& c : m_checks) c(v, t);
    }
    /// One word of it alone.
    void readOne(const std::string& key, const JsonView& v, T& t) const {
        for (const Entry& e : m_entries)
            if (e.info.key == key && v.has(key.c_str())) e.read(v, t);
    }
    void refuseOthers(const JsonView& v) const {
        std::vector<std::string> keys;
        for (const Entry& e : m_entries) keys.push_back(e.info.key);
        v.allow(keys, m_info.name.c_str());
    }
    [[nodiscard]] OrderedJson write(const T& t) const {
        if (m_writeShort)
            if (OrderedJson brief = m_writeShort(t); !brief.is_null()) return brief;
        if (!m_kinds.empty()) return m_kinds[m_kindOf(t)]->write(t);
        OrderedJson out = OrderedJson::object();
        for (const Entry& e : m_entries)
            if (!e.when || e.when(t)) e.write(t, out);
        return out;
    }
    [[nodiscard]] bool same(const T& a, const T& b) const { return write(a) == write(b); }
    void addTo(Hash& hash, const T& t) const { hash.add(std::string_view(textOf(write(t)))); }
    /// One that read() takes.
    [[nodiscard]] T random(Dice& dice) const {
        T t{};
        scatter(t, dice);
        return t;
    }
    void scatter(T& t, Dice& dice) const {
        if (!m_kinds.empty()) return m_kinds[dice() % m_kinds.size()]->scatter(t, dice);
        for (const Entry& e : m_entries)
            if (e.info.needed || dice() % 4 != 0) e.shake(t, dice);
        for (const auto& s : m_settle) s(t);
    }
    /// Changes one word. @return false when the value drawn was the one that stood there
    bool shake(std::size_t word, T& t, Dice& dice) const {
        const OrderedJson before = write(t);
        m_entries[word].shake(t, dice);
        for (const auto& s : m_settle) s(t);
        return write(t) != before;
    }

private:
    template <class U> friend class Form;
    struct Entry {
        WordInfo info;
        std::function<void(const JsonView&, T&)> read;
        std::function<void(const T&, OrderedJson&)> write;
        std::function<void(T&, Dice&)> shake;
        std::function<bool(const T&)> when;
    };
    Entry& add(const char* key, WordKind kind, const char* what) {
        Entry& e = m_entries.emplace_back();
        e.info.key = key;
        e.info.kind = kind;
        e.info.what = what;
        return e;
    }
    template <class U, class To, class From> Form& inlinedBy(To to, From from, const Form<U>& form) {
        for (const auto& e : form.m_entries) {
            Entry mine;
            mine.info = e.info;
            mine.read = [to, read = e.read](const JsonView& v, T& t) { read(v, to(t)); };
            mine.write = [from, write = e.write](const T& t, OrderedJson& out) { write(from(t), out); };
            mine.shake = [to, shake = e.shake](T& t, Dice& dice) { shake(to(t), dice); };
            if (e.when) mine.when = [from, when = e.when](const T& t) { return when(from(t)); };
            m_entries.push_back(std::move(mine));
        }
        for (const auto& b : form.m_before) m_before.push_back([to, b](const JsonView& v, T& t) { b(v, to(t)); });
        for (const auto& c : form.m_checks) m_checks.push_back([from, c](const JsonView& v, const T& t) { c(v, from(t)); });
        for (const auto& s : form.m_settle) m_settle.push_back([to, s](T& t) { s(to(t)); });
        return *this;
    }
    Form& real(WordKind kind, const char* key, double T::*m, double low, double high, const char* what) {
        Entry& e = add(key, kind, what);
        e.info.low = low;
        e.info.high = high;
        e.info.initial = T{}.*m;
        const std::string k = key;
        e.read = [k, m, low, high](const JsonView& v, T& t) { t.*m = v.number(k.c_str(), low, high); };
        e.write = [k, m](const T& t, OrderedJson& out) { out[k] = t.*m; };
        e.shake = [m, low, high](T& t, Dice& dice) {
            const double from = std::max(low, -1e3), to = std::min(high, 1e3);
            const unsigned edge = dice() % 8;
            t.*m = edge == 0 ? from : edge == 1 ? to : std::uniform_real_distribution<double>(from, to)(dice);
        };
        return *this;
    }

    [[nodiscard]] int kindIn(const JsonView& v) const {
        std::vector<std::string> ids;
        for (const Form* kind : m_kinds)
            for (const Entry& e : kind->m_entries)
                if (e.info.key == m_kindWord && ids.empty())
                    for (const WordOption& o : e.info.options) ids.push_back(o.id);
        return m_usualKind >= 0 && !v.has(m_kindWord.c_str()) ? m_usualKind : v.choice(m_kindWord.c_str(), ids);
    }

    FormInfo m_info;
    std::string m_kindWord;
    std::vector<const Form*> m_kinds;
    std::function<std::size_t(const T&)> m_kindOf;
    int m_usualKind = -1;
    std::vector<Entry> m_entries;
    std::vector<std::function<void(const JsonView&, T&)>> m_before;
    std::vector<std::function<void(const JsonView&, const T&)>> m_checks;
    std::vector<std::function<void(T&)>> m_settle;
    std::function<bool(const JsonView&, T&)> m_readShort;
    std::function<OrderedJson(const T&)> m_writeShort;
};

} // namespace gyre
