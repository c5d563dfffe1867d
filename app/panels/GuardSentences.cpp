// The sentences of what must not be touched, and of what is done where it would be.
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
        .arg(axisIsFree(r));
}

void RecipePanel::layoutGuard() {
    const Recipe& r = *m_model.recipe();
    const GuardSpec& g = r.guard;
    Said s, rare;
    // One response after the other; only an axis that is free can lean, and a file may ask for it all the same.
    const auto responses = [&](const QString& key, const QString& what) {
        std::vector<Word::Option> options{{"report", tr("only tell")}};
        if (axisIsFree(r) || asks(g, GuardResponse::Lean)) options.push_back({"lean", tr("lean away")});
        options.push_back({"lift", tr("lift along the axis")});
        options.push_back({"drop", tr("leave the stretch out")});
        return choice(key, what, options);
    };
    say(s, tr("Shank {guard.shank} and holder {guard.holder} clear of {}; if not, {}"),
        {choice("guard.against", tr("What is guarded"),
                {{R"(["part","fixture","machine"])", tr("part, fixture, machine")}, {R"(["part","fixture"])", tr("part, fixture")}, {R"(["part"])", tr("part")}}),
         responses("guard.response", tr("What to do when too near"))});
    if (g.response != GuardResponse::Report) say(s, tr("; what that leaves, {}"), {responses("guard.otherwise", tr("What to do with what that leaves"))});
    if (g.response != GuardResponse::Report && g.otherwise != GuardResponse::Report)
        say(s, tr("; and at last, {}"), {responses("guard.atLast", tr("What to do with what is left even then"))});
    say(s, ".");
    if (asks(g, GuardResponse::Lean))
        say(s, g.leanBy == LeanBy::LeadTilt ? tr(" Lean {guard.leanBy} by up to {guard.leanLead} and {guard.leanTilt}, over {guard.leanOver}.")
                                            : tr(" Lean {guard.leanBy} by up to {guard.leanTilt}, over {guard.leanOver}."));
    if (asks(g, GuardResponse::Lift)) say(rare, tr("Lift by {guard.highestLift} at most. "));
    const bool engraves = (r.kind == OperationKind::Mill && r.mill.shape == MillShape::Follow) || (r.kind == OperationKind::Curve && r.curve.by != CurveBy::Channel);
    if (engraves) // what is engraved need not be in the model
        say(s, tr(" The cutter may enter the part by {guard.gouge}."));
    else if (r.kind == OperationKind::Swarf) // the wall has a tolerance of its own
        say(rare, tr("The cutter may enter what is beside the wall by {guard.gouge}."));
    else
        say(rare, tr("The cutter may enter what is not cut by {guard.gouge}."));
    put(Stage::Guard, s, rare);
}

} // namespace gyre
