// The Set up bench's card for a part that has changed: what of it the job names, and what became of that. Hidden while there is nothing to tell.
#pragma once
#include "model/Revision.h"
#include <QWidget>

class QVBoxLayout;

namespace gyre {

class RevisionPanel : public QWidget {
    Q_OBJECT
public:
    explicit RevisionPanel(Revision& revision, QWidget* parent = nullptr);

private:
    void refresh();
    QWidget* lights();
    Revision& m_revision;
    QVBoxLayout* m_inside = nullptr;
};

} // namespace gyre
