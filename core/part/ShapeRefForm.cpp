#include "part/ShapeRefForm.h"
#include "form/Form.h"

namespace gyre {

const Form<ShapeRef>& shapeRefForm() {
    constexpr int kLargest = 10'000'000;
    static const Form<ShapeRef> form =
        Form<ShapeRef>("a shape of the part")
            .count("index", &ShapeRef::index, 0, kLargest, "Its number in the part")
            .needed()
            .text("kind", &ShapeRef::kind, 40, "What it was when it was picked")
            .number("size", &ShapeRef::size, 0.0, 1e12, "Area of a face in mm², length of an edge in mm")
            .place("centre", &ShapeRef::centre, 1e6, "Middle")
            .settled([](ShapeRef& r) { r.index = std::max(r.index, 0); })
            // Written by hand it may be the index alone.
            .shorthand(
                [](const JsonView& v, ShapeRef& r) {
                    if (!v.raw().is_number_integer()) return false;
                    const auto i = v.raw().get<std::int64_t>();
                    if (i < 0 || i > kLargest)
                        v.complain("an index from 0 is expected here");
                    else
                        r.index = static_cast<int>(i);
                    return true;
                },
                [](const ShapeRef& r) -> OrderedJson { return r.kind.empty() ? OrderedJson(r.index) : OrderedJson(); }, R"({"type": "integer", "minimum": 0})");
    return form;
}

} // namespace gyre
