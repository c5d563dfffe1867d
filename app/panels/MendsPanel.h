// Set up: the list of mends, each one sentence with editable words; and whether a cutter's side can follow a face.
#pragma once
#include "model/OpenJob.h"
#include "panels/Sentence.h"

class QLabel;
class QVBoxLayout;
class QPushButton;

namespace gyre {

class FlankShow;
class Picks;
class Mending;
class MendsPanel : public QWidget {
    Q_OBJECT
public:
    MendsPanel(OpenJob& open, Mending& mending, Picks& picks, FlankShow& flank, QWidget* parent = nullptr);

private:
    void refresh();
    void fillFlank();
    QWidget* row(std::size_t mend);
    Sentence* sentence(std::size_t mend, QWidget* parent);
    OpenJob& m_open;
    Mending& m_mending;
    Picks& m_picks;
    FlankShow& m_flank;
    QVBoxLayout* m_mends = nullptr;
    QPushButton *m_ask = nullptr, *m_askEdges = nullptr;
    QLabel* m_flankLine = nullptr;
};

} // namespace gyre
