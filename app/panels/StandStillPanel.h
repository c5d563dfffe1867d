// Directions that stand still instead of a turning axis, and what operations with them come to, over the view.
#pragma once
#include "model/StandStill.h"
#include "panels/OverView.h"
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace gyre {

class StandStillPanel : public OverView {
    Q_OBJECT
public:
    StandStillPanel(OpenJob& open, StandStill& still, QWidget* parent);

private:
    void close() override { m_still.open(false); }
    [[nodiscard]] int high() const override;
    void refresh();
    QWidget* rowFor(std::size_t direction);
    OpenJob& m_open;
    StandStill& m_still;
    QLabel *m_trouble, *m_summary;
    QVBoxLayout* m_rows;
    QPushButton* m_make;
    class Word* m_lean;
};

} // namespace gyre
