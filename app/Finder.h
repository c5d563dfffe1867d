// The finder (Ctrl K): everything that can be done, by its name or by what else it is called, and the words of the recipe.
#pragma once
#include <QDialog>
#include <functional>

class QLineEdit;
class QListWidget;
class QListWidgetItem;

namespace gyre {

class Finder : public QDialog {
    Q_OBJECT
public:
    struct Entry {
        QString text, shortcut;
        QString where; ///< it lives in
        QString words; ///< other words for it
        std::function<void()> run;
    };
    Finder(std::vector<Entry> entries, QWidget* parent);

protected:
    bool eventFilter(QObject* object, QEvent* event) override;

private:
    void filter(const QString& text);
    void add(std::size_t entry);
    void take();
    std::vector<Entry> m_entries;
    QLineEdit* m_line;
    QListWidget* m_list;
};

} // namespace gyre
