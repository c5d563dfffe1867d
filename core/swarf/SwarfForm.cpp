#include "swarf/SwarfForm.h"
#include "form/Form.h"
#include "swarf/SwarfSpec.h"

namespace gyre {
namespace {

constexpr double kFar = 1e4; // mm

struct SyncLine {
    double lower = 0.0, upper = 0.0;
};

const Form<SyncLine>& syncForm() {
    static const Form<SyncLine> form = Form<SyncLine>("a sync line")
                                           .number("lower", &SyncLine::lower, 0.0, 1.0, "Fraction of the lower rail")
                                           .needed()
                                           .number("upper", &SyncLine::upper, 0.0, 1.0, "Fraction of the upper rail")
                                           .needed();
    return form;
}

} // namespace

const Form<SwarfSpec>& swarfForm() {
    using S = SwarfSpec;
    static const Form<S> form = [] {
        WordInfo sync;
        sync.key = "sync";
        sync.kind = WordKind::List;
        sync.most = 1000;
        sync.what = "Sync lines: fractions of the lower and of the upper rail that belong together";
        sync.part = std::make_shared<const FormInfo>(syncForm().info());
        return Form<S>("a wall")
            .choice("from", &S::fromRails, {{false, "faces", "a wall of"}, {true, "rails", "the wall between"}}, "What tells the wall")
            .flag("otherSide", &S::otherSide, "Side of the rails", "the other side", "the free side")
            .flag("flipped", &S::flipped, "Which end is the lower one", "the other way up", "this way up")
            .length("past", &S::past, -kFar, kFar, "How far the tip goes past the lower edge")
            .length("stepdown", &S::stepdown, 0.0, kFar, "Depth of one level; 0: at once")
            .length("thickness", &S::thickness, 0.0, kFar, "Stock before the wall; 0: one pass")
            .length("stepover", &S::stepover, 0.01, kFar, "Thickness of one pass")
            .step(0.1)
            .choice("order", &S::depthsFirst, {{false, "thicknessFirst", "over, then down"}, {true, "depthsFirst", "down, then over"}}, "What comes first")
            .number("entry", &S::entry, 0.0, 1.0, "Place of entry on a closed wall, as a fraction of it")
            .flag("climb", &S::climb, "Direction of the cut", "climbing", "conventional")
            .choice("corner", &S::corner,
                    {{SwarfCorner::Roll, "roll", "rolled around"}, {SwarfCorner::Stop, "stop", "stopped at"}, {SwarfCorner::Loop, "loop", "looped"}}, "At outer corners")
            .length("extend", &S::extend, 0.0, kFar, "How far beyond open ends")
            .flag("twist", &S::twist, "How the side lies on twisted walls", "where it is least off", "on both ends")
            .choice("floor", &S::lift, {{true, "lift", "lift it"}, {false, "report", "only tell"}}, "What to do where a floor is in the way of the tip")
            .length("tolerance", &S::tolerance, 1e-4, 100.0, "Largest deviation that is let pass")
            .step(0.005)
            .special(
                sync,
                [](const JsonView& v, S& s) {
                    s.sync.clear();
                    for (const JsonView& line : v.list("sync", 1000)) {
                        const SyncLine one = syncForm().read(line);
                        s.sync.push_back({one.lower, one.upper});
                    }
                },
                [](const S& s, OrderedJson& out) {
                    out["sync"] = OrderedJson::array();
                    for (const auto& line : s.sync) out["sync"].push_back(syncForm().write({line[0], line[1]}));
                },
                [](S& s, Dice& dice) {
                    const SyncLine one = syncForm().random(dice);
                    s.sync.assign(dice() % 3, {one.lower, one.upper});
                });
    }();
    return form;
}

} // namespace gyre
