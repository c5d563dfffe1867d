// The Set up bench's cards for what was found on the part and what was laid on it: holes and planes.
#pragma once
#include "model/AppModel.h"
#include "panels/Sentence.h"
#include <QWidget>

class QVBoxLayout;
class QPushButton;

namespace gyre {

class FeaturesPanel : public QWidget {
    Q_OBJECT
public:
    explicit FeaturesPanel(AppModel& model, QWidget* parent = nullptr);

private:
    void planesOnHoles();
    void refresh();
    void fillHoles();
    void fillPlanes();
    Sentence* whereSentence(std::size_t plane, const WorkPlane& at);
    AppModel& m_model;
    QVBoxLayout *m_holes = nullptr, *m_planes = nullptr;
    QPushButton *m_onFace = nullptr, *m_onHoles = nullptr;
};

} // namespace gyre
