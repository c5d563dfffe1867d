// Set up: the list of mends, each one sentence with editable words; and whether a cutter's side can follow a face.
#pragma once
#include "model/AppModel.h"
#include "panels/Sentence.h"

class QLabel;
class QVBoxLayout;
class QPushButton;

namespace gyre {

class MendsPanel : public QWidget {
    Q_OBJECT
public:
    explicit MendsPanel(AppModel& model, QWidget* parent = nullptr);

private:
    void refresh();
    void fillFlank();
    QWidget* row(std::size_t mend);
    Sentence* sentence(std::size_t mend, QWidget* parent);
    AppModel& m_model;
    QVBoxLayout* m_mends = nullptr;
    QPushButton *m_ask = nullptr, *m_askEdges = nullptr;
    QLabel* m_flank = nullptr;
};

} // namespace gyre
