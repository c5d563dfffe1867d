// Words declared once: what is read, written, refused, told of them, and the schemas and pages made from them.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "form/Form.h"
#include "job/JobForm.h"
#include "machine/MachineForm.h"
#include "operation/RecipeForm.h"
#include "post/Spelling.h"
#include "tool/Library.h"
#include <fstream>

namespace test_form {

using namespace gyre;

namespace {

enum class Colour { Red, Green };
struct Wheel {
    double radius = 2.0;
    int spokes = 5;
    bool spare = false;
    Colour colour = Colour::Green;
    std::string name = "w";
};
struct Cart {
    Wheel front;
    std::vector<Wheel> others;
    Vec3 at = Vec3::UnitX();
    std::vector<int> numbers;
    std::vector<std::string> words;
};

const Form<Wheel>& wheelForm() {
    static const Form<Wheel> form = Form<Wheel>("a wheel")
                                        .length("radius", &Wheel::radius, 0.5, 10.0, "Radius")
                                        .needed()
                                        .count("spokes", &Wheel::spokes, 0, 64, "Spokes")
                                        .flag("spare", &Wheel::spare, "Is it spare", "spare", "in use")
                                        .choice("colour", &Wheel::colour, {{Colour::Red, "red", "bright red"}, {Colour::Green, "green", "green"}}, "Colour")
                                        .text("name", &Wheel::name, 10, "Name")
                                        .writtenWhenChanged()
                                        .check([](const JsonView& v, const Wheel& w) {
                                            if (w.spare && w.spokes == 0) v.complain("a spare wheel has spokes");
                                        })
                                        .settled([](Wheel& w) { w.spokes = std::max(w.spokes, 1); });
    return form;
}
const Form<Cart>& cartForm() {
    static const Form<Cart> form = Form<Cart>("a cart")
                                       .part("front", &Cart::front, wheelForm(), "Front wheel")
                                       .list("others", &Cart::others, 3, wheelForm(), "Other wheels")
                                       .vector("at", &Cart::at, 100.0, "Where it stands")
                                       .numbers("numbers", &Cart::numbers, 4, 0, 9, "Numbers")
                                       .texts("words", &Cart::words, 4, "Words");
    return form;
}

template <class T> std::pair<T, std::string> readText(const Form<T>& form, const std::string& text) {
    std::optional<Error> error;
    const Json json = Json::parse(text);
    T t = form.read(JsonView(json, "", error));
    return {std::move(t), error ? error->text() : std::string()};
}

/// Does a JSON value satisfy a schema? What our schemas use, and no more; anything else fails the test.
bool satisfies(const Json& value, const Json& schema, const Json& all) {
    for (const auto& item : schema.items()) {
        const std::string& key = item.key();
        const Json& s = item.value();
        if (key == "$ref") {
            if (!satisfies(value, all.at(Json::json_pointer(s.get<std::string>().substr(1))), all)) return false;
            continue;
        }
        if (key == "oneOf" || key == "anyOf") {
            const auto n = std::count_if(s.begin(), s.end(), [&](const Json& one) { return satisfies(value, one, all); });
            if (key == "oneOf" ? n != 1 : n < 1) return false;
        } else if (key == "type") {
            const std::string t = s;
            if (!(t == "object"    ? value.is_object()
                  : t == "array"   ? value.is_array()
                  : t == "number"  ? value.is_number()
                  : t == "integer" ? value.is_number_integer()
                  : t == "boolean" ? value.is_boolean()
                                   : t == "string" && value.is_string()))
                return false;
        } else if (key == "const") {
            if (value != s) return false;
        } else if (key == "enum") {
            if (std::find(s.begin(), s.end(), value) == s.end()) return false;
        } else if (key == "minimum") {
            if (value.is_number() && value.get<double>() < s.get<double>()) return false;
        } else if (key == "maximum") {
            if (value.is_number() && value.get<double>() > s.get<double>()) return false;
        } else if (key == "maxLength") {
            if (value.is_string() && value.get<std::string>().size() > s.get<std::size_t>()) return false;
        } else if (key == "minItems") {
            if (value.is_array() && value.size() < s.get<std::size_t>()) return false;
        } else if (key == "maxItems") {
            if (value.is_array() && value.size() > s.get<std::size_t>()) return false;
        } else if (key == "items") {
            if (value.is_array() && !std::all_of(value.begin(), value.end(), [&](const Json& v) { return satisfies(v, s, all); })) return false;
        } else if (key == "required") {
            if (value.is_object() && !std::all_of(s.begin(), s.end(), [&](const Json& k) { return value.contains(k.get<std::string>()); })) return false;
        } else if (key == "properties") {
            if (value.is_object())
                for (const auto& [name, v] : value.items())
                    if (s.contains(name) && !satisfies(v, s[name], all)) return false;
        } else if (key == "additionalProperties") {
            if (value.is_object() && s == Json(false))
                for (const auto& [name, v] : value.items())
                    if (!schema["properties"].contains(name)) return false;
        } else if (key != "description" && key != "default" && key != "title" && key != "$schema" && key != "$defs") {
            qWarning("a schema uses '%s'", key.c_str());
            return false;
        }
    }
    return true;
}

/// One word of a JSON document, anywhere in it, made wrong: another kind of value, or a word that is not there.
Json damaged(Json json, Dice& dice) {
    Json* at = &json;
    while (true) {
        if (at->is_object() && !at->empty() && dice() % 6 != 0) {
            auto it = at->begin();
            std::advance(it, static_cast<std::ptrdiff_t>(dice() % at->size()));
            at = &*it;
        } else if (at->is_array() && !at->empty() && dice() % 6 != 0)
            at = &(*at)[dice() % at->size()];
        else
            break;
    }
    if (at->is_object())
        (*at)["nobodyKnows"] = 1;
    else if (at->is_number())
        *at = (dice() & 1u) ? Json("three") : Json(1e30);
    else if (at->is_string())
        *at = (dice() & 1u) ? Json(7) : Json(std::string(5000, 'x'));
    else
        *at = Json("neither");
    return json;
}

} // namespace

class TestForm : public QObject {
    Q_OBJECT

private slots:
    void oneDeclarationReadsWritesAndRefuses() {
        auto [w, why] = readText(wheelForm(), R"({"radius": 3, "colour": "red", "spare": true})");
        QVERIFY2(why.empty(), why.c_str());
        QVERIFY(w.radius == 3 && w.spokes == 5 && w.spare && w.colour == Colour::Red && w.name == "w");
        QCOMPARE(wheelForm().write(w).dump(), std::string(R"({"radius":3.0,"spokes":5,"spare":true,"colour":"red"})"));
        w.name = "x";
        QVERIFY(wheelForm().write(w).contains("name"));
        for (const char* wrong :
             {R"({})", R"({"radius": 11})", R"({"radius": "3"})", R"({"radius": 3, "spokes": 2.5})", R"({"radius": 3, "colour": "blue"})", R"({"radius": 3, "axle": 1})",
              R"({"radius": 3, "spare": 1})", R"({"radius": 3, "name": "01234567890"})", R"({"radius": 3, "spare": true, "spokes": 0})", R"([])"})
            QVERIFY2(!readText(wheelForm(), wrong).second.empty(), wrong);
        QVERIFY(readText(wheelForm(), R"({"radius": 3, "axle": 1})").second.find("'axle' is not a word of a wheel") != std::string::npos);
        QVERIFY(readText(cartForm(), R"({"others": [{"radius": 1}, {"radius": 99}]})").second.find("others/1/radius") != std::string::npos);
    }
    void wordsTellOfThemselves() {
        const FormInfo cart = cartForm().info();
        const WordInfo* radius = wordAt(cart, "others.2.radius");
        QVERIFY(radius && radius->kind == WordKind::Length && radius->high == 10.0 && radius->needed);
        QVERIFY(wordAt(cart, "front.colour")->options.at(0).label == "bright red");
        QVERIFY(wordAt(cart, "at.1")->kind == WordKind::Vector);
        QVERIFY(!wordAt(cart, "front.axle") && !wordAt(cart, "axle") && !wordAt(cart, ""));
        const std::string page = wordsPage({cart});
        QVERIFY(page.find("## a cart") != std::string::npos && page.find("| `front` | [a wheel](#a-wheel) |  | Front wheel |") != std::string::npos);
        QVERIFY(page.find("| `radius` | 0.5 … 10 mm | refused | Radius |") != std::string::npos);
        QVERIFY(page.find("| `colour` | red, green | green | Colour |") != std::string::npos);
        QVERIFY(page.find("list of [a wheel](#a-wheel), 3 at most") != std::string::npos);
    }
    void randomThingsComeBackAsTheyWere() {
        test::Random seed(61);
        Dice dice(static_cast<unsigned>(seed.integer(0, 1 << 30)));
        const Json schema = Json::parse(schemaOf(jobForm().info()).dump());
        int damages = 0;
        for (int i = 0; i < 300; ++i) {
            const Job job = jobForm().random(dice);
            const std::string text = jobToJson(job);
            const auto back = jobFromJson(text, "random");
            QVERIFY2(back.has_value(), ((back ? "" : back.error().text()) + text).substr(0, 3000).c_str());
            QCOMPARE(jobToJson(*back), text);
            QVERIFY(jobForm().same(job, *back));
            const Json json = Json::parse(text);
            if (i % 10 == 0) QVERIFY2(satisfies(json, schema, schema), text.c_str());
            // What is damaged is refused, by us as by the schema.
            const Json bad = damaged(json, dice);
            if (bad == json) continue;
            const bool refused = !jobFromJson(bad.dump(), "damaged").has_value();
            if (!refused && i % 10 == 0) QVERIFY2(satisfies(bad, schema, schema), bad.dump().substr(0, 2000).c_str());
            damages += refused ? 1 : 0;
        }
        QVERIFY2(damages > 250, qPrintable(QString::number(damages)));
    }
    // Every word of every recipe, tool and stock: changed, the key of what rests on it changes; not changed, it does not.
    void everyWordIsInTheKey() {
        test::Random seed(62);
        Dice dice(static_cast<unsigned>(seed.integer(0, 1 << 30)));
        int words = 0;
        for (int k = 0; k < 7; ++k) {
            const auto kind = static_cast<OperationKind>(k);
            const Form<Recipe>& form = recipeForm(kind);
            const FormInfo& info = recipeWords(kind);
            for (std::size_t w = 0; w < info.words.size(); ++w) {
                int changed = 0;
                for (int i = 0; i < 60; ++i) {
                    const Recipe r = form.random(dice);
                    Recipe other = r;
                    QCOMPARE(operationKey(7, r, nullptr), operationKey(7, other, nullptr));
                    if (!form.shake(w, other, dice)) continue;
                    ++changed;
                    // Which of several ways it is called is the one word that nothing rests on: what is proven of it stays so when the others are dropped.
                    const bool sameKey = operationKey(7, r, nullptr) == operationKey(7, other, nullptr);
                    QVERIFY2(sameKey == (info.words[w].key == "variant"), info.words[w].key.c_str());
                }
                QVERIFY2(changed > 0 || info.words[w].key == "kind", info.words[w].key.c_str());
                ++words;
            }
        }
        QVERIFY(words > 70);
        const FormInfo tool = assemblyForm().info();
        for (std::size_t w = 0; w < tool.words.size(); ++w)
            for (int i = 0; i < 60; ++i) {
                const Assembly a = assemblyForm().random(dice);
                Assembly other = a;
                if (assemblyForm().shake(w, other, dice)) QVERIFY2(operationKey(7, Recipe{}, &a) != operationKey(7, Recipe{}, &other), tool.words[w].key.c_str());
            }
    }
    // Every word says what it does, and choices can be said in a sentence.
    void everyWordExplainsItself() {
        const auto look = [](const auto& self, const FormInfo& form, const std::string& at) -> void {
            for (const FormInfo& kind : form.kinds) self(self, kind, at);
            std::set<std::string> keys;
            for (const WordInfo& w : form.words) {
                QVERIFY2(keys.insert(w.key).second, (at + w.key).c_str());
                QVERIFY2(w.what.size() > 2 && w.what.back() != '.' && std::isupper(static_cast<unsigned char>(w.what[0])), (at + w.key + ": " + w.what).c_str());
                for (const WordOption& o : w.options) QVERIFY2(!o.label.empty() && !o.id.empty(), (at + w.key + ": " + o.id).c_str());
                if (w.part) self(self, *w.part, at + w.key + ".");
            }
        };
        look(look, jobForm().info(), "");
        look(look, machineForm().info(), "");
        look(look, spellingForm().info(), "");
    }
    // The schemas beside the pages are those made from the words. With GYRE_WRITE_SCHEMAS=1 they are written instead.
    void schemasAreThoseOfTheWords() {
        const std::filesystem::path folder = std::filesystem::path(GYRE_SOURCE_DIR) / "docs/formats";
        const auto compare = [&](const char* file, const char* title, const FormInfo& form) {
            OrderedJson schema = {{"$schema", "https://json-schema.org/draft/2020-12/schema"}, {"title", title}};
            schema.update(schemaOf(form));
            const std::string text = textOf(schema, 1) + "\n";
            if (qEnvironmentVariableIsSet("GYRE_WRITE_SCHEMAS")) std::ofstream(folder / file) << text;
            QVERIFY2(readFile(folder / file, 1u << 24).value() == text, file);
        };
        const std::string head = "# Every word of our files\n\nMade from the program; what the words are about is told in the pages beside this one. mm, degrees, unless "
                                 "a line says otherwise.\n";
        const std::string words = head + wordsPage({jobForm().info(), toolLibraryForm().info(), machineForm().info(), spellingForm().info()});
        if (qEnvironmentVariableIsSet("GYRE_WRITE_SCHEMAS")) std::ofstream(folder / "words.md") << words;
        QVERIFY(readFile(folder / "words.md", 1u << 24).value() == words);
        compare("job.schema.json", "Job", jobForm().info());
        compare("tools.schema.json", "Tool library", toolLibraryForm().info());
        compare("machine.schema.json", "Machine", machineForm().info());
        compare("dialect.schema.json", "Dialect", spellingForm().info());
    }
    // The jobs that are shipped satisfy their schema, and are written as they are.
    void shippedJobsSatisfyTheSchema() {
        const Json schema = Json::parse(schemaOf(jobForm().info()).dump());
        const Json dialects = Json::parse(schemaOf(spellingForm().info()).dump());
        const Json machines = Json::parse(schemaOf(machineForm().info()).dump()), tools = Json::parse(schemaOf(toolLibraryForm().info()).dump());
        int looked = 0;
        for (const auto& e : std::filesystem::directory_iterator(GYRE_DEMO_DIR)) {
            const std::string name = e.path().string();
            if (name.ends_with(".machine.json")) QVERIFY2(satisfies(Json::parse(readFile(e.path(), 1u << 26).value()), machines, machines), name.c_str());
            if (name.ends_with(".dialect.json")) QVERIFY2(satisfies(Json::parse(readFile(e.path(), 1u << 26).value()), dialects, dialects), name.c_str());
            if (name.ends_with(".tools.json")) QVERIFY2(satisfies(Json::parse(readFile(e.path(), 1u << 26).value()), tools, tools), name.c_str());
            if (!e.path().string().ends_with(".gyre.json")) continue;
            const std::string text = readFile(e.path(), 1u << 26).value();
            QVERIFY2(satisfies(Json::parse(text), schema, schema), e.path().c_str());
            QCOMPARE(jobToJson(jobFromJson(text, "demo").value()), text);
            ++looked;
        }
        QVERIFY(looked > 10);
    }
};

GYRE_TEST(TestForm)

} // namespace test_form
#include "test_form.moc"
