// Where the part should stand: the table from above, with time and travel at many places of it; over the view.
#pragma once
#include "model/SeatShow.h"
#include "panels/OverView.h"

class QButtonGroup;
class QPushButton;

namespace gyre {

class SeatsPanel : public OverView {
    Q_OBJECT
public:
    SeatsPanel(OpenJob& open, SeatShow& seats, QWidget* parent);

private:
    void close() override { m_seats.open(false); }
    [[nodiscard]] int high() const override;
    void refresh();
    OpenJob& m_open;
    SeatShow& m_seats;
    QLabel *m_trouble, *m_under, *m_summary;
    QWidget* m_map;
    QButtonGroup* m_sheets;
    QPushButton* m_take;
};

} // namespace gyre
