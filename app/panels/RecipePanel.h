// The recipe of the selected operation: five stage cards of sentences, facts and findings.
#pragma once
#include "model/OpenJob.h"
#include "panels/StageCard.h"
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <array>
#include <map>

class QScrollArea;

namespace gyre {

/// Among the curves that an axis may go by: one that is made on the spot.
inline constexpr const char* kRaisedMiddle = "/middle";

struct AxisAim;
class Along;
class Fits;
class StandStill;
class Holes;
class Mending;
class Milling;
class Picks;
class Route;
class RowsAhead;

/// What the words of a recipe act on, beside the recipe itself.
struct RecipeParts {
    Route& route;
    Picks& picks;
    Holes& holes;
    Mending& mending;
    Milling& milling;
    Along& along;
    RowsAhead& rowsAhead;
    Fits& fits;
    StandStill& standStill;
};

class RecipePanel : public QWidget {
    Q_OBJECT
public:
    RecipePanel(OpenJob& open, const RecipeParts& parts, QWidget* parent = nullptr);

    /// Puts a word under the keys, unfolding its card where it is among the rare ones.
    void revealWord(Word* word);
    /// Of the other stages only the heads, where there is little room.
    void setOnlyStage(bool on);
    [[nodiscard]] bool onlyStage() const { return m_onlyStage; }

signals:
    void wordHovered(const QString& key);
    void wordEntered(); ///< Return ended the typing of one

private:
    Word* word(Word::Kind kind, const QString& key, const QString& name, double step = 0.0);
    Word* choice(const QString& key, const QString& name, std::vector<Word::Option> options);
    /// The word as the form of its kind of operation declares it: kind, options, step, help.
    Word* formWord(const QString& key);
    /// Adds text whose words stand in braces by their keys: "lead {axis.lead}". An empty pair takes the next of `with`.
    void say(Said& sentence, const QString& text, const std::vector<Word*>& with = {});
    void changed(const QString& key, const QString& value);
    void triggered(const QString& key);
    [[nodiscard]] QString layoutKey(const Recipe& r) const;
    void layOut(const Recipe& r);
    [[nodiscard]] QString pickedWords(const QString& key, const Recipe& r) const;
    void showWord(const QString& key, Word* w, const Recipe& r);
    void refreshWords();
    void refreshResults();
    void refreshPeel();
    void countRare();
    void refreshVerdict(bool old);
    void followVerdict();
    void put(Stage stage, const Said& usual, const Said& rare = {});
    void sayTool(Said& sentence); ///< with which, how far out, what it leaves
    void sayFeed(Said& sentence);
    void sayFineness(Said& sentence);
    void sayWhere(Said& sentence, const WhereSpec& where);
    void saySkin(Said& sentence);
    void layoutSentences();
    void layoutHoles();
    void changeChecks(bool more);
    void layoutSlices();
    void layoutStep();
    void layoutMill();
    void layoutMillTarget();
    void layoutMillPattern();
    void layoutMillAxis();
    void sayFollowed(Said& sentence);
    void layoutAlong();
    void layoutSwarf();
    [[nodiscard]] bool picking(const QString& key) const; ///< does the view wait for what this word asks for?
    [[nodiscard]] static QString syncList(const QString& text);
    [[nodiscard]] static QString syncText(const SwarfSpec& swarf);
    void layoutCurve();
    void layoutEdges();
    void sayAim(Said& s, const AxisAim& aim, const QString& at);
    void sayKeys(Said& s, const AxisSpec& a);
    void sayLimits(Said& rare, const AxisSpec& a);
    void layoutAxis(); ///< rules, keys, limits: of surface rows and curves
    void layoutGuard();
    static QString guardLayoutKey(const Recipe& r); ///< changes when the guard's sentence does
    void layoutTravel();
    [[nodiscard]] QString alongLayoutKey(const Recipe& recipe) const; ///< changes when other words are needed
    [[nodiscard]] QString axisLayoutKey(const Recipe& recipe) const;
    [[nodiscard]] QString millLayoutKey(const Recipe& recipe) const; ///< changes when other words are needed
    Word* drawingWord(const Recipe& recipe);
    Word* curveWord(const QString& key, const QString& name, const QString& none, const std::string& now);
    Word* sheetWord();
    /// Operations before this one: one of them, or all.
    Word* beforeWord(const QString& key, const QString& name, const std::vector<std::string>& now, const QString& none);
    void beginBeside(const QString& operations);
    void setPattern(const QString& key, const QString& value);
    [[nodiscard]] std::vector<std::pair<std::string, std::string>> rowsBefore() const;
    [[nodiscard]] QString planeNames() const;
    [[nodiscard]] QString surfaceLayoutKey(const Recipe& r) const;
    Word* planeWord(const QString& key, const QString& name, const std::string& now);
    Word* toolBeforeWord();
    void layoutBodyPattern();
    [[nodiscard]] static QString noFaces(const Recipe& r);
    Word* toolWord();
    Word* groupWord();
    [[nodiscard]] QString groupOf(const Recipe& recipe) const;

    OpenJob& m_open;
    RecipeParts m_parts;
    QLabel* m_heading = nullptr;
    QPushButton *m_verdict = nullptr, *m_fold = nullptr;
    bool m_onlyStage = false;
    QScrollArea* m_scroll = nullptr;
    std::array<StageCard*, kStages> m_cards{};
    std::map<QString, Word*> m_words;
    QString m_shape;                 ///< which words the sentences show now
    std::vector<Finding> m_findings; ///< as they are shown
    QString m_told;                  ///< the operation that they are of
    std::optional<Finding> m_worst;  ///< that the verdict tells
};

} // namespace gyre
