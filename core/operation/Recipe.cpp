#include "operation/Recipe.h"

namespace gyre {

const char* stageName(Stage s) {
    switch (s) {
    case Stage::Target:
        return "Target";
    case Stage::Pattern:
        return "Pattern";
    case Stage::Axis:
        return "Axis";
    case Stage::Guard:
        return "Guard";
    case Stage::Links:
        return "Links";
    }
    return "";
}

} // namespace gyre
