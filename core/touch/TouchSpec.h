// Words of what the cutter touches.
#pragma once

namespace gyre {

enum class TouchBy {
    Faces,       ///< the points of the faces
    AlongAxis,   ///< moved along its axis until it rests on the part
    AlongNormal, ///< moved along the faces' normal until it rests on the part; round cutters
};

struct TouchSpec {
    TouchBy by = TouchBy::Faces;
    double reach = 2.0; ///< how far it may move to either side, mm
    [[nodiscard]] bool any() const { return by != TouchBy::Faces; }
};

} // namespace gyre
