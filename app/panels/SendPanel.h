// The Send bench: write the program, see it in step with the view, see what the read-back says.
#pragma once
#include "model/AppModel.h"
#include <QWidget>

class QLabel;
class QPlainTextEdit;
class QPushButton;

namespace gyre {

class SendPanel : public QWidget {
    Q_OBJECT
public:
    explicit SendPanel(AppModel& model, QWidget* parent = nullptr);
    [[nodiscard]] QString text() const { return m_text; }

private:
    void write();
    void store();
    void followLocation();
    void outdated();
    AppModel& m_model;
    Dialect m_dialect = Dialect::TipControl;
    QLabel* m_checks = nullptr;
    QPlainTextEdit* m_view = nullptr;
    QPushButton *m_write = nullptr, *m_store = nullptr;
    QString m_text;
    std::vector<int> m_lineOf; ///< text line of every location of the first operation
};

} // namespace gyre
