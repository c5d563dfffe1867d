#include "guard/GuardForm.h"
#include "form/Form.h"

namespace gyre {

const Form<GuardSpec>& guardForm() {
    using G = GuardSpec;
    static constexpr std::pair<const char*, bool G::*> kBodies[] = {{"part", &G::part}, {"fixture", &G::fixture}, {"machine", &G::machine}};
    static const Form<G> form = [] {
        WordInfo against;
        against.key = "against";
        against.kind = WordKind::Texts;
        against.most = 3;
        against.what = "What is guarded: part, fixture, machine";
        against.initial = {"part", "fixture", "machine"};
        return Form<G>("the guard")
            .length("shank", &G::shankClearance, 0.0, 1000.0, "Clearance of the shank")
            .length("holder", &G::holderClearance, 0.0, 1000.0, "Clearance of the holder")
            .length("gouge", &G::gougeTolerance, 0.0, 10.0, "How deep the cutter may enter what is beside the cut")
            .step(0.01)
            .special(
                against,
                [](const JsonView& v, G& g) {
                    for (const auto& [name, member] : kBodies) g.*member = false;
                    for (const JsonView& word : v.list("against", 3)) {
                        bool known = false;
                        for (const auto& [name, member] : kBodies)
                            if (word.raw().is_string() && word.raw().get<std::string>() == name) known = g.*member = true;
                        if (!known) word.complain("'part', 'fixture' or 'machine' is expected here");
                    }
                },
                [](const G& g, OrderedJson& out) {
                    out["against"] = OrderedJson::array();
                    for (const auto& [name, member] : kBodies)
                        if (g.*member) out["against"].push_back(name);
                },
                [](G& g, Dice& dice) {
                    for (const auto& [name, member] : kBodies) g.*member = (dice() & 1u) != 0;
                })
            .choice("response", &G::response,
                    {{GuardResponse::Report, "report", "only tell"},
                     {GuardResponse::Lift, "lift", "lift along the axis"},
                     {GuardResponse::Drop, "drop", "leave the stretch out"}},
                    "What to do when too near");
    }();
    return form;
}

} // namespace gyre
