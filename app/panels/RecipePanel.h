// The recipe of the selected operation: five stage cards of sentences, facts and findings.
#pragma once
#include "model/AppModel.h"
#include "panels/Said.h"
#include "panels/Sentence.h"
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <array>
#include <map>

namespace gyre {

class RecipePanel : public QWidget {
    Q_OBJECT
public:
    explicit RecipePanel(AppModel& model, QWidget* parent = nullptr);

signals:
    void wordHovered(const QString& key);

private:
    struct Card {
        QFrame* frame = nullptr;
        Sentence* sentence = nullptr;
        QLabel* facts = nullptr;
        QPushButton* eye = nullptr;
        QVBoxLayout* findings = nullptr;
    };
    Word* word(Word::Kind kind, const QString& key, const QString& name, double step = 0.0);
    Word* choice(const QString& key, const QString& name, std::vector<Word::Option> options);
    /// The word as the form of its kind of operation declares it: kind, options, step, help.
    Word* formWord(const QString& key);
    /// Adds text whose words stand in braces by their keys: "lead {axis.lead}". An empty pair takes the next of `with`.
    void say(Said& sentence, const QString& text, const std::vector<Word*>& with = {});
    void changed(const QString& key, const QString& value);
    void triggered(const QString& key);
    void refreshWords();
    void refreshResults();
    void refreshPeel();
    void layoutSentences();
    void layoutHoles();
    void layoutStep();
    void layoutMill();
    void layoutMillTarget();
    void layoutMillPattern();
    void layoutMillAxis();
    void sayFollowed(Said& sentence);
    void layoutFollow();
    void layoutSwarf();
    [[nodiscard]] bool picking(const QString& key) const; ///< does the view wait for what this word asks for?
    [[nodiscard]] static QString syncList(const QString& text);
    [[nodiscard]] static QString syncText(const SwarfSpec& swarf);
    void layoutCurve();
    void layoutEdges();
    void layoutAxis(); ///< rules, keys, limits: of surface rows and curves
    void layoutGuard();
    void layoutTravel();
    [[nodiscard]] QString followLayoutKey(const Recipe& recipe) const; ///< changes when other words are needed
    [[nodiscard]] QString axisLayoutKey(const Recipe& recipe) const;
    [[nodiscard]] QString millLayoutKey(const Recipe& recipe) const; ///< changes when other words are needed
    Word* drawingWord(const Recipe& recipe);
    Word* curveWord(const QString& key, const QString& name, const QString& none, const std::string& now);
    Word* sheetWord();
    Word* toolWord();
    Word* groupWord();
    [[nodiscard]] QString groupOf(const Recipe& recipe) const;

    AppModel& m_model;
    QLabel* m_heading = nullptr;
    std::array<Card, kStages> m_cards;
    std::map<QString, Word*> m_words;
    QString m_shape; ///< which words the sentences show now
};

/// One finding as a small block: rank, text, Show, and a link for every remedy.
[[nodiscard]] QFrame* findingBlock(AppModel& model, const Finding& finding, QWidget* parent);

} // namespace gyre
