// The assemblies that do the work of an operation, the best first, over the view.
#pragma once
#include "model/Fits.h"
#include "panels/OverView.h"
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace gyre {

class FitsPanel : public OverView {
    Q_OBJECT
public:
    FitsPanel(OpenJob& open, Fits& fits, QWidget* parent);

private:
    void close() override { m_fits.open(false); }
    void refresh();
    QWidget* rowFor(std::size_t fit, double tallest);
    OpenJob& m_open;
    Fits& m_fits;
    QLabel* m_trouble;
    QVBoxLayout* m_rows;
    QScrollArea* m_scroll;
    class Word* m_step;
};

} // namespace gyre
