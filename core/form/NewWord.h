// A word's declaration, begun.
#pragma once
#include "form/Word.h"

namespace gyre {

[[nodiscard]] inline WordInfo newWord(const char* key, WordKind kind, const char* what) {
    WordInfo info;
    info.key = key;
    info.kind = kind;
    info.what = what;
    return info;
}

} // namespace gyre
