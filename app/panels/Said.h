// A sentence that is put together piece by piece.
#pragma once
#include "base/Json.h"
#include "panels/Word.h"
#include <QStringList>

namespace gyre {

struct Said {
    QString text;
    std::vector<Word*> words;
    Said& operator()(const QString& more, const std::vector<Word*>& with = {}) {
        text += more;
        words.insert(words.end(), with.begin(), with.end());
        return *this;
    }
};

/// Names as the value of a word that takes a list of them, and as they are read.
[[nodiscard]] inline QString listed(const std::vector<std::string>& names) {
    OrderedJson list = OrderedJson::array();
    for (const std::string& n : names) list.push_back(n);
    return QString::fromStdString(list.dump());
}

[[nodiscard]] inline QString joinedNames(const std::vector<std::string>& names) {
    QStringList all;
    for (const std::string& n : names) all << QString::fromStdString(n);
    return all.join(", ");
}

} // namespace gyre
