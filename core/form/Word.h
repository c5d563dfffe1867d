// What is to be known of a word without a thing that has it: for schemas, pages, sentences and help.
#pragma once
#include "base/Json.h"
#include <memory>
#include <string>
#include <vector>

namespace gyre {

enum class WordKind {
    Length,   ///< mm
    Angle,    ///< degrees
    Number,   ///< of a unit that `what` names, or of none
    Count,    ///< a whole number
    Flag,     ///< true or false
    Choice,   ///< one of the options
    Text,     ///< up to `most` bytes
    Vector,   ///< three numbers without a unit
    Place,    ///< three lengths
    Numbers,  ///< up to `most` numbers
    Texts,    ///< up to `most` texts
    Part,     ///< words of its own
    List,     ///< up to `most` things that have words of their own
    Constant, ///< always the same
    Any       ///< whatever its writer likes
};

struct WordOption {
    std::string id;    ///< in files
    std::string label; ///< in sentences
};

struct WordInfo;

/// What a form tells of itself.
struct FormInfo {
    std::string name; ///< "rows between rails"
    std::vector<WordInfo> words;
    std::vector<FormInfo> kinds;     ///< instead of words: one for each kind of the thing
    std::string kindWord;            ///< the word that tells the kind
    int usualKind = -1;              ///< when a file does not say; −1: it must
    Json schema = Json::object();    ///< where words alone do not say it: laid over the one made from them
    Json shorthand = Json::object(); ///< what may stand in place of an object
    [[nodiscard]] const WordInfo* find(const std::string& key) const;
};

struct WordInfo {
    std::string key;
    WordKind kind = WordKind::Number;
    std::string what; ///< what it does, without a full stop
    double low = -1e300, high = 1e300;
    std::vector<WordOption> options;
    double step = 0.0; ///< by which a key or the wheel changes it; 0: as its kind has it
    std::size_t most = 0;
    bool needed = false; ///< a file without it is refused
    OrderedJson initial; ///< what it is when a file leaves it out; null: nothing
    std::shared_ptr<const FormInfo> part;
};

/// The word that a path leads to, e.g. "links.skin.size" or "axis.keys.3.lead".
[[nodiscard]] const WordInfo* wordAt(const FormInfo& form, const std::string& path);
const WordInfo* wordAt(FormInfo&&, const std::string&) = delete; // what it returns lives in the form

/// JSON Schema of what is read by it.
[[nodiscard]] OrderedJson schemaOf(const FormInfo& form);

/// A section for every form and every part of one: a table of its words with their values and what they do.
[[nodiscard]] std::string wordsPage(const std::vector<FormInfo>& forms);

} // namespace gyre
