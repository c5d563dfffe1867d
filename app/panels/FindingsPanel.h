// The Prove bench's list: all findings of the job, gravest first, and the button that proves.
#pragma once
#include "model/AppModel.h"
#include <QSet>
#include <QWidget>

class QLabel;
class QVBoxLayout;
class QPushButton;

namespace gyre {

class FindingsPanel : public QWidget {
    Q_OBJECT
public:
    explicit FindingsPanel(AppModel& model, QWidget* parent = nullptr);

protected:
    void showEvent(QShowEvent* e) override;

private:
    void refresh();
    void showGroups(const std::vector<Finding>& findings);
    void showPlaces(int at);
    QSet<QString> m_unfolded; ///< kinds of findings
    QString m_shown;          ///< key of what stands there
    AppModel& m_model;
    QLabel* m_summary = nullptr;
    QVBoxLayout* m_list = nullptr;
    QPushButton* m_prove = nullptr;
};

} // namespace gyre
