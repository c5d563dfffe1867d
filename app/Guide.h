// The guide (F1), inside the program.
#pragma once
#include <QDialog>

class QListWidget;
class QTextBrowser;

namespace gyre {

class Guide : public QDialog {
    Q_OBJECT
public:
    /// @param page the file's name, e.g. "holes.md"
    Guide(const QString& page, QWidget* parent);
    void turnTo(const QString& page);

private:
    QListWidget* m_pages;
    QTextBrowser* m_text;
};

} // namespace gyre
