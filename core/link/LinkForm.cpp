#include "link/LinkForm.h"
#include "form/Form.h"
#include "link/LinkKinds.h"

namespace gyre {
namespace {

constexpr double kFar = 1e5;

template <class T, class Kind, class Forms> std::vector<typename Form<T>::template Option<Kind>> optionsOf(const Forms& forms) {
    std::vector<typename Form<T>::template Option<Kind>> out;
    for (const auto& f : forms) out.push_back({f.kind, f.word, f.label});
    return out;
}

const Form<Skin>& skinForm() {
    static const Form<Skin> form = Form<Skin>("a safe skin")
                                       .choice("kind", &Skin::kind, optionsOf<Skin, SkinKind>(skinForms()), "Safe skin")
                                       .length("size", &Skin::size, -kFar, kFar, "Height of the plane, or radius")
                                       .step(1.0)
                                       .choice("axis", &Skin::axis, {{0, "x", "X"}, {1, "y", "Y"}, {2, "z", "Z"}}, "Axis of the safe skin")
                                       .check([](const JsonView& v, const Skin& s) {
                                           if (formOf(s.kind).round && !(s.size > 0.0)) v.complain("the radius of the skin must be above 0");
                                       })
                                       .settled([](Skin& s) {
                                           if (formOf(s.kind).round) s.size = std::max(1.0, std::abs(s.size));
                                       });
    return form;
}

} // namespace

const Form<LinkSpec>& linkForm() {
    using L = LinkSpec;
    static const Form<L> form = Form<L>("entries and ways between")
                                    .length("entryRadius", &L::entryRadius, 0.0, 1000.0, "Radius of the entry")
                                    .angle("ramp", &L::rampDegrees, 0.5, 45.0, "Slope of a ramp along the row, where beside a wall there is no room for an arc")
                                    .length("smallGap", &L::smallGap, 0.0, 1000.0, "Largest gap that is joined")
                                    .choice("small", &L::small, optionsOf<L, SmallLink>(smallLinkForms()), "How gaps are joined")
                                    .part("skin", &L::skin, skinForm(), "What moves between cuts stay outside of")
                                    .length("approach", &L::approach, 0.0, 1000.0, "Height over the entry where the rapid ends")
                                    .flag("low", &L::low, "Between places of one direction", "straight across where nothing is near", "always out to the skin");
    return form;
}

} // namespace gyre
