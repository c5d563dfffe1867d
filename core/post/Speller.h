// A spelling at work on one machine: from what is told to text, and from text to what it tells.
#pragma once
#include "machine/Machine.h"
#include "post/Spelling.h"
#include <initializer_list>
#include <string_view>

namespace gyre {

/// A word of a block as our own spelling has it: G in tenths, M, and letters with values.
struct PlainWord {
    char letter = 0;
    double value = 0.0;
};

class Speller {
public:
    struct Field {
        std::string_view name;
        std::string value;
    };

    Speller(const Spelling& spelling, const Machine& machine, const ProgramWords& words);

    [[nodiscard]] const Spelling& spelling() const { return m_spelling; }
    [[nodiscard]] const ProgramWords& words() const { return m_words; }

    // Writing.
    /// May hold several lines.
    [[nodiscard]] std::string say(Phrase phrase, std::initializer_list<Field> fields = {}) const;
    /// Points rounded off within so much; 0: as the control usually runs through them.
    [[nodiscard]] std::string smooth(double mm) const;
    /// The safe line at a program's beginning.
    [[nodiscard]] std::string safeLine() const;
    [[nodiscard]] bool isSafe(Phrase phrase) const; ///< does the safe line say it?
    [[nodiscard]] std::string length(double mm) const;
    [[nodiscard]] std::string angle(double degrees) const;
    [[nodiscard]] std::string feed(double feed, bool tap = false) const;
    [[nodiscard]] std::string seconds(double s) const;
    /// A line with a comment; empty where the control takes none.
    [[nodiscard]] std::string comment(const std::string& text) const;
    /// Signs that names have, as the control can read them.
    [[nodiscard]] std::string plain(const std::string& text) const;
    [[nodiscard]] std::string axisWord(const std::string& joint) const;
    /// Position of an axis word, or of "F", among the words of a move.
    [[nodiscard]] std::size_t rank(const std::string& joint) const;
    [[nodiscard]] bool saysRegister(Phrase phrase) const { return m_spelling[phrase].find("{register}") != std::string::npos; }
    [[nodiscard]] bool toolAhead() const { return m_toolAhead; } ///< T stands in a line before the one that changes

    // Reading.
    /// Without comments and blanks.
    [[nodiscard]] Result<std::string> withoutComments(std::string_view text, int line) const;
    /// The words of a block without comments and blanks.
    [[nodiscard]] Result<std::vector<PlainWord>> read(std::string_view code, int line) const;
    struct Meaning {
        std::string text, what;
    };
    /// Every word of a line with what it tells; what is not understood has no meaning.
    [[nodiscard]] std::vector<Meaning> meanings(std::string_view line) const;
    /// May a line of the shop's own, or of its script, stand in a program? Not when it names an axis or says what the program is about.
    [[nodiscard]] Status mayBeOwn(const std::string& text) const;
    [[nodiscard]] bool isComment(const std::string& line) const;
    /// What the control is told by saying nothing: phrases that are spelled as nothing.
    [[nodiscard]] bool unsaid(Phrase phrase) const { return m_spelling[phrase].empty(); }
    /// Codes, prefixes and axes that cannot be told apart, or a phrase without what it needs.
    [[nodiscard]] static Status check(const Spelling& spelling);

private:
    class Check;
    struct Piece {
        std::string name;  ///< a letter, or a whole word
        std::string field; ///< empty: a code
        double value = 0.0;
        bool numbered = false; ///< a code with a number
    };
    struct Pattern {
        Phrase phrase;
        std::vector<Piece> codes, fields;
        std::vector<PlainWord> means;
    };
    struct Token {
        std::string_view text, name;
        double value = 0.0;
        bool numbered = false, point = false, used = false;
        const PhraseKind* said = nullptr;
        const Pattern* code = nullptr; ///< stands for all of it
        std::string_view field;
    };
    static Result<std::vector<Piece>> pieces(const std::string& text, Phrase phrase);
    [[nodiscard]] Result<std::vector<Token>> tokens(std::string_view code, int line) const;
    /// Gives every token to the phrase that it belongs to.
    void assign(std::vector<Token>& tokens) const;
    [[nodiscard]] std::string number(std::string text) const;
    [[nodiscard]] char axisLetter(std::string_view name) const;

    const Spelling& m_spelling;
    const Machine& m_machine;
    const ProgramWords m_words;
    std::vector<Pattern> m_patterns;  ///< those with most codes first
    std::vector<std::string> m_names; ///< of more than a letter, longest first
    std::vector<std::pair<std::string, char>> m_axes, m_prefixes;
    std::vector<std::pair<int, std::string>> m_codes; ///< M codes of this machine and what they do
    bool m_toolAhead = false;
};

} // namespace gyre
