// The sentences of what must not be touched, and of what is done where it would be.
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "milling/MillSpec.h"
#include "operation/Free.h"
#include "panels/RecipePanel.h"

namespace gyre {

QString RecipePanel::guardLayoutKey(const Recipe& r) {
    const GuardSpec& g = r.guard;
    return QString("/%1%2%3%4%5")
               .arg(static_cast<int>(g.response))
               .arg(static_cast<int>(g.otherwise))
               .arg(static_cast<int>(g.atLast))
               .arg(static_cast<int>(g.leanBy))
               .arg(axisIsFree(r) ? 1 : 0) +
           QString("/%1").arg(r.checks.size());
}

namespace {
constexpr std::size_t kCheckGroups = 3; // that the sentence speaks of; a file may have more
}

void RecipePanel::layoutGuard() {
    const Recipe& r = *m_open.recipe();
    const GuardSpec& g = r.guard;
    Said s, rare;
    // Only an axis that is free can lean; a file may ask for it all the same.
    const auto response = [&](const QString& key) {
        Word* w = formWord(key);
        std::vector<Word::Option> options = w->options();
        if (!axisIsFree(r) && !asks(g, GuardResponse::Lean)) std::erase_if(options, [](const Word::Option& o) { return o.value == "lean"; });
        w->setOptions(std::move(options));
        return w;
    };
    say(s, tr("Shank {guard.shank} and holder {guard.holder} clear of {}; if not, {}"),
        {choice("guard.against", tr("What is guarded"),
                {{R"(["part","fixture","machine"])", tr("part, fixture, machine")}, {R"(["part","fixture"])", tr("part, fixture")}, {R"(["part"])", tr("part")}}),
         response("guard.response")});
    if (g.response != GuardResponse::Report) say(s, tr("; what that leaves, {}"), {response("guard.otherwise")});
    if (g.response != GuardResponse::Report && g.otherwise != GuardResponse::Report) say(s, tr("; and at last, {}"), {response("guard.atLast")});
    say(s, ".");
    if (asks(g, GuardResponse::Lean))
        say(s, g.leanBy == LeanBy::LeadTilt ? tr(" Lean {guard.leanBy} by up to {guard.leanLead} and {guard.leanTilt}, over {guard.leanOver}.")
                                            : tr(" Lean {guard.leanBy} by up to {guard.leanTilt}, over {guard.leanOver}."));
    for (std::size_t i = 0; i < r.checks.size() && i < kCheckGroups; ++i)
        say(s, i == 0 ? tr(" The cutter keeps off {checks.0.faces} by {checks.0.keepOff}.") : tr(" Off {checks.%1.faces} by {checks.%1.keepOff}.").arg(i));
    if (r.checks.size() < kCheckGroups)
        say(r.checks.empty() ? rare : s, r.checks.empty() ? tr("The cutter keeps off {checks.new} by amounts of their own. ") : tr(" {checks.new}"));
    if (!r.checks.empty()) say(s, tr(" {checks.fewer}"));
    say(s, tr(" {guard.assemblies}"));
    if (axisIsFree(r)) say(s, tr(" {guard.directions}"));
    if (asks(g, GuardResponse::Lift)) say(rare, tr("Lift by {guard.highestLift} at most. "));
    const bool engraves = (r.kind == OperationKind::Mill && r.mill->shape == MillShape::Follow) || (r.kind == OperationKind::Curve && r.curve->by != CurveBy::Channel);
    if (engraves) // what is engraved need not be in the model
        say(s, tr(" The cutter may enter the part by {guard.gouge}."));
    else if (r.kind == OperationKind::Swarf) // the wall has a tolerance of its own
        say(rare, tr("The cutter may enter what is beside the wall by {guard.gouge}."));
    else
        say(rare, tr("The cutter may enter what is not cut by {guard.gouge}."));
    put(Stage::Guard, s, rare);
}

} // namespace gyre
