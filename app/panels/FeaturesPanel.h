// The Set up bench's cards for what was found on the part and what was laid on it: holes and planes.
#pragma once
#include "model/OpenJob.h"
#include "panels/Sentence.h"
#include <QWidget>

class QVBoxLayout;
class QPushButton;

namespace gyre {

class Picks;
class Planes;
class Holes;
class FeaturesPanel : public QWidget {
    Q_OBJECT
public:
    FeaturesPanel(OpenJob& open, Holes& holes, Planes& planes, Picks& picks, QWidget* parent = nullptr);

private:
    void planesOnHoles();
    void refresh();
    void fillHoles();
    void fillPlanes();
    Sentence* whereSentence(std::size_t plane, const WorkPlane& at);
    OpenJob& m_open;
    Holes& m_holes;
    Planes& m_planes;
    Picks& m_picks;
    QVBoxLayout *m_holeList = nullptr, *m_planeList = nullptr;
    QPushButton *m_onFace = nullptr, *m_onHoles = nullptr;
};

} // namespace gyre
