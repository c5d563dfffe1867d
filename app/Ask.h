// Files and decisions asked of the user, all in the window's own looks.
#pragma once
#include <QString>
#include <QStringList>

class QWidget;

namespace gyre {

/// The file that is to be read; empty when the user thinks better of it. @param kinds  "Jobs (*.gyre.json);;All files (*)"
[[nodiscard]] QString askToOpen(QWidget* parent, const QString& title, const QString& folder, const QString& kinds);
/// Where to write. @param suggested  a file, or a folder
[[nodiscard]] QString askToSave(QWidget* parent, const QString& title, const QString& suggested, const QString& kinds);
/// Which of the answers, counted from 0; the last one also stands for Esc and closing. The first is what Return takes, unless `last` says so.
[[nodiscard]] int ask(QWidget* parent, const QString& title, const QString& question, const QStringList& answers, bool lastIsUsual = false);

} // namespace gyre
