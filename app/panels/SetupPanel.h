// The Set up bench: bodies and their roles, machine, placing and travel, units, the view cut open.
#pragma once
#include "model/OpenJob.h"
#include "panels/Sentence.h"

class QLabel;
class QVBoxLayout;

namespace gyre {

class Picks;
class Mending;
class SetUp;
/// Left: the bodies.
class BodiesPanel : public QWidget {
    Q_OBJECT
public:
    BodiesPanel(OpenJob& open, SetUp& setUp, Mending& mending, QWidget* parent = nullptr);

private:
    void refresh();
    QWidget* bodyCard(std::size_t body);
    QWidget* holdButton(std::size_t body, const JobBody& b, QWidget* parent);
    Sentence* stockSentence(std::size_t body, const StockShape& shape, QWidget* parent);
    QWidget* otherFile(std::size_t body, QWidget* frame);
    Sentence* meshSentence(std::size_t body, const JobBody& b, QWidget* parent);
    Sentence* placeSentence(std::size_t body, const JobBody& b, QWidget* parent);
    Sentence* drawingSentence(std::size_t body, const JobBody& drawing, QWidget* parent);
    Word* unitWord(std::size_t body, LengthUnit unit, QWidget* parent);
    OpenJob& m_open;
    SetUp& m_setUp;
    Mending& m_mending;
    QVBoxLayout* m_list = nullptr;
};

/// Right: machine and placing.
class PlacingPanel : public QWidget {
    Q_OBJECT
public:
    PlacingPanel(OpenJob& open, SetUp& setUp, Picks& picks, QWidget* parent = nullptr);

private:
    Word* make(Word::Kind kind, const QString& key, const QString& name, double step);
    void addSection(QVBoxLayout* inside);
    void refresh();
    void changed(const QString& key, const QString& value);
    OpenJob& m_open;
    SetUp& m_setUp;
    Picks& m_picks;
    void refreshSection();
    Sentence *m_machine = nullptr, *m_made = nullptr, *m_place = nullptr, *m_sectionWords = nullptr;
    Word *m_cut = nullptr, *m_cutAt = nullptr, *m_cutSide = nullptr;
    QLabel* m_travel = nullptr;
    Sentence* m_zeroWords = nullptr;
    std::array<Word*, 3> m_zero{};
    Word* m_pickZero = nullptr;
    Word *m_which, *m_material, *m_x, *m_y, *m_z, *m_turn, *m_units;
    QLabel* m_facts = nullptr;
};

} // namespace gyre
