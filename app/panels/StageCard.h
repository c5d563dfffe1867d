// The card of one stage: a sentence, rarer words folded under it, facts, findings.
#pragma once
#include "model/OpenJob.h"
#include "panels/Said.h"
#include "panels/Sentence.h"
#include <QFrame>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace gyre {

class StageCard : public QFrame {
    Q_OBJECT
public:
    StageCard(OpenJob& open, Stage stage, QWidget* parent);
    /// What stands in the card; `rare` is shown when it is asked for, or when a word of it is not as it comes.
    void say(const Said& usual, const Said& rare = {});
    /// How many of the rare words are not as they come: these are not hidden without a sign.
    void setRareChanged(int words);
    void unfold(bool on);
    [[nodiscard]] bool unfolded() const;
    [[nodiscard]] bool isRare(const Word* word) const { return word->parentWidget() == m_rare; }
    void reflow();
    /// @param old  they are of before the last change; what they need of room stays as it is
    void setFacts(const QString& facts, bool old);
    /// @param pending  they are looked at again just now
    void setFindings(const std::vector<Finding>& findings, bool pending);
    /// @param last  the view ends with this stage
    void setShown(bool shown, bool last);
    /// Only its head is shown: of all but the stage in hand, where there is little room.
    void setHeadOnly(bool on);

signals:
    void peeled();

protected:
    void paintEvent(QPaintEvent* e) override;

private:
    void refreshFold();
    OpenJob& m_open;
    Sentence *m_sentence = nullptr, *m_rare = nullptr;
    QWidget* m_body = nullptr; ///< all but the head
    QLabel* m_facts = nullptr;
    QPushButton *m_eye = nullptr, *m_more = nullptr;
    QVBoxLayout* m_findings = nullptr;
    QString m_findingsKey; ///< of those that stand there
    bool m_old = false, m_hasRare = false;
    int m_changed = 0;
};

/// Two findings with the same one look the same and do the same.
[[nodiscard]] QString keyOf(const OpenJob& open, const Finding& f);
/// One finding as a small block: rank, text, Show, and a link for every remedy.
/// @param pending  a cure is being computed: it may be gone in a moment
[[nodiscard]] QFrame* findingBlock(OpenJob& open, const Finding& finding, QWidget* parent, bool pending = false);

/// An eye, open or closed.
[[nodiscard]] QIcon eyeIcon(bool open);

} // namespace gyre
