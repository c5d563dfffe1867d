// The Prove bench's list: all findings of the job, gravest first, and the button that proves.
#pragma once
#include "model/AppModel.h"
#include <QWidget>

class QLabel;
class QVBoxLayout;
class QPushButton;

namespace gyre {

class FindingsPanel : public QWidget {
    Q_OBJECT
public:
    explicit FindingsPanel(AppModel& model, QWidget* parent = nullptr);

private:
    void refresh();
    AppModel& m_model;
    QLabel* m_summary = nullptr;
    QVBoxLayout* m_list = nullptr;
    QPushButton* m_prove = nullptr;
};

} // namespace gyre
