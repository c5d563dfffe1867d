// A dialect of the user's own: how programs are spelled, as sentences, with the program beside.
#pragma once
#include "model/Dialects.h"
#include <QScrollArea>
#include <functional>

class QLabel;
class QPlainTextEdit;
class QPushButton;
class QVBoxLayout;

namespace gyre {

class OpenJob;
class Sentence;
class Word;

class DialectPanel : public QScrollArea {
    Q_OBJECT
public:
    DialectPanel(OpenJob& open, Dialects& dialects, QWidget* parent = nullptr);

private:
    /// A word of the dialect: how it is shown, and what typing or choosing changes.
    struct Shown {
        Word* word;
        std::function<QString(const Spelling&)> value;
    };
    using Options = std::vector<std::pair<QString, QString>>;
    Word* choice(const char* key, const QString& name, const Options& options, std::function<QString(const Spelling&)> value,
                 std::function<void(Spelling&, const QString&)> set);
    Word* flag(const char* key, const QString& name, const QString& yes, const QString& no, bool Spelling::*member);
    Word* text(const QString& key, const QString& name, std::function<std::string&(Spelling&)> of);
    Word* count(const char* key, const QString& name, int ProgramWords::*member);
    Word* length(const char* key, const QString& name, double ProgramWords::*member);
    Word* phrase(Phrase phrase);
    Word* lines(const char* key, const QString& name, std::vector<std::string> OwnLines::*member);
    Word* clamp(const std::string& joint, bool on);
    void section(const QString& heading);
    Sentence* sentence(const QString& text, const std::vector<Word*>& words);
    void makeHead();
    void makeNumbers();
    void makeControl();
    void makeSayings();
    void makeOwnLines();
    void makeScript();
    void makeClamps();
    void refresh();

    OpenJob& m_open;
    Dialects& m_dialects;
    QWidget* m_inside = nullptr;
    QVBoxLayout* m_column = nullptr;
    std::vector<Shown> m_words;
    std::vector<Sentence*> m_sentences;
    Sentence* m_clampSentence = nullptr;
    std::vector<std::string> m_clampJoints;
    QPlainTextEdit* m_script = nullptr;
    QPushButton *m_takeBack = nullptr, *m_useScript = nullptr;
    QLabel* m_file = nullptr;
};

} // namespace gyre
