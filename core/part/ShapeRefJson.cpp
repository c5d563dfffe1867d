#include "part/ShapeRefJson.h"

namespace gyre {

// A reference written by hand may be the index alone.
ShapeRef shapeRefFromJson(const JsonView& v) {
    ShapeRef r;
    if (v.raw().is_number_integer()) {
        const auto i = v.raw().get<std::int64_t>();
        if (i < 0 || i > 10'000'000)
            v.complain("an index from 0 is expected here");
        else
            r.index = static_cast<int>(i);
        return r;
    }
    v.allow({"index", "kind", "size", "centre"});
    r.index = v.integer("index", 0, 10'000'000);
    r.kind = v.text("kind", "", 40);
    r.size = v.number("size", 0.0, 1e12, 0.0);
    const auto c = v.triple("centre", {0, 0, 0});
    r.centre = Vec3(c[0], c[1], c[2]);
    return r;
}

OrderedJson shapeRefToJson(const ShapeRef& r) {
    if (r.kind.empty()) return r.index;
    return {{"index", r.index}, {"kind", r.kind}, {"size", r.size}, {"centre", {r.centre.x(), r.centre.y(), r.centre.z()}}};
}

} // namespace gyre
