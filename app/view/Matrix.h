// Frames as the picture takes them.
#pragma once
#include "geom/Vec.h"
#include <QMatrix4x4>

namespace gyre {

inline QMatrix4x4 qt(const Frame& f) {
    QMatrix4x4 m;
    for (int r = 0; r < 4; ++r)
        for (int c = 0; c < 4; ++c) m(r, c) = static_cast<float>(f.matrix()(r, c));
    return m;
}

} // namespace gyre
