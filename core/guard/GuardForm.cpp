#include "guard/GuardForm.h"
#include "form/Form.h"
#include "guard/Responses.h"

namespace gyre {

const Form<GuardSpec>& guardForm() {
    using G = GuardSpec;
    static constexpr std::pair<const char*, bool G::*> kBodies[] = {{"part", &G::part}, {"fixture", &G::fixture}, {"machine", &G::machine}};
    static const Form<G> form = [] {
        std::vector<Form<G>::Option<GuardResponse>> responses;
        for (const ResponseKind& kind : responseKinds()) responses.push_back({kind.response, kind.word, kind.label});
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
            .choice("response", &G::response, responses, "What to do when too near")
            .choice("otherwise", &G::otherwise, responses, "What to do with what that leaves")
            .writtenWhenChanged()
            .choice("atLast", &G::atLast, responses, "What to do with what is left even then")
            .writtenWhenChanged()
            .choice("leanBy", &G::leanBy,
                    {{LeanBy::LeadTilt, "leadTilt", "in lead and tilt"}, {LeanBy::X, "x", "about X"}, {LeanBy::Y, "y", "about Y"}, {LeanBy::Z, "z", "about Z"}},
                    "How the axis may lean away")
            .writtenWhenChanged()
            .angle("leanLead", &G::leanLead, 0.0, 90.0, "How far lead may go from what is wished for when the axis leans away")
            .writtenWhenChanged()
            .angle("leanTilt", &G::leanTilt, 0.0, 90.0, "How far tilt may go from what is wished for when the axis leans away; about an axis: how far it may turn")
            .writtenWhenChanged()
            .length("leanOver", &G::leanOver, 0.5, 1000.0, "Over what length it leans over and back")
            .writtenWhenChanged()
            .length("highestLift", &G::highestLift, 0.0, 300.0, "How far it may be lifted")
            .writtenWhenChanged();
    }();
    return form;
}

} // namespace gyre
