// A sentence that is put together piece by piece.
#pragma once
#include "panels/Word.h"

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

} // namespace gyre
