// The finder (Ctrl K): every action by its name.
#pragma once
#include <QDialog>

class QLineEdit;
class QListWidget;

namespace gyre {

class Finder : public QDialog {
    Q_OBJECT
public:
    Finder(const QList<QAction*>& actions, QWidget* parent);

protected:
    bool eventFilter(QObject* object, QEvent* event) override;

private:
    void filter(const QString& text);
    void take();
    QList<QAction*> m_actions;
    QLineEdit* m_line;
    QListWidget* m_list;
};

} // namespace gyre
