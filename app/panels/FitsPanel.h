// The assemblies that do the work of an operation, the best first, over the view.
#pragma once
#include "model/Fits.h"
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace gyre {

class FitsPanel : public QFrame {
    Q_OBJECT
public:
    FitsPanel(OpenJob& open, Fits& fits, QWidget* parent);

protected:
    bool event(QEvent* e) override;
    bool eventFilter(QObject* watched, QEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

private:
    void refresh();
    void place();
    QWidget* rowFor(std::size_t fit, double tallest);
    OpenJob& m_open;
    Fits& m_fits;
    QLabel *m_heading, *m_trouble;
    QVBoxLayout* m_rows;
    QScrollArea* m_scroll;
    class Word* m_step;
};

} // namespace gyre
