// All that the window can do: one entry for each command, with everything that is known of it.
#pragma once
#include <QKeySequence>
#include <QString>
#include <functional>

namespace gyre {

struct Command {
    QString name;      ///< of its action: "action.save"
    QString text;      ///< what it does, as menus and the finder say it
    QKeySequence keys; ///< may be none
    QString where;     ///< the bench or panel that it lives in
    QString words;     ///< what else it is called, apart by blanks: the trade's own words first
    std::function<void()> run;
};

} // namespace gyre
