// The marks that the cutters leave at the playhead: as relief, as heights across the feed, in words; over the view.
#pragma once
#include "model/MarksShow.h"
#include "panels/OverView.h"

namespace gyre {

class MarksPanel : public OverView {
    Q_OBJECT
public:
    MarksPanel(OpenJob& open, MarksShow& marks, QWidget* parent);

private:
    void close() override { m_marks.open(false); }
    [[nodiscard]] int high() const override;
    void resizeEvent(QResizeEvent* e) override;
    void refresh();
    OpenJob& m_open;
    MarksShow& m_marks;
    class Word* m_size;
    class Sentence* m_sentence;
    QLabel *m_trouble, *m_told;
    QWidget *m_relief, *m_heights;
};

} // namespace gyre
