#include "axis/AxisForm.h"
#include "axis/AxisRules.h"
#include "form/Form.h"
#include "part/ShapeRefForm.h"

namespace gyre {
namespace {

constexpr double kFar = 1e5;
constexpr std::size_t kMostKeys = 1000;

/// An aim, and whether there is one: the last row may have the first one's.
struct LastAim : AxisAim {
    bool same = true;
};
/// What an aim has besides its rule.
const Form<AxisAim>& aimWords() {
    using A = AxisAim;
    static const Form<A> form =
        Form<A>("where the axis comes from")
            .angle("lead", &A::leadDegrees, -90.0, 90.0, "Lead")
            .angle("tilt", &A::tiltDegrees, -90.0, 90.0, "Tilt")
            .vector("direction", &A::direction, 1e6, "Direction from tip to spindle")
            .place("point", &A::point, kFar, "Point that the axis goes through")
            .flag("away", &A::away, "Side of the spindle", "away from", "through")
            .text("curve", &A::curve, 200, "Curve that the axis goes by")
            .choice("reach", &A::inStep, {{false, "nearest", "where it is nearest"}, {true, "inStep", "in step with the row"}}, "Which place of the curve")
            .list("edges", &A::edges, kMostShapes, shapeRefForm(), "Edges that the axis goes by")
            .writtenWhenChanged()
            .list("faces", &A::faces, kMostShapes, shapeRefForm(), "Faces that the axis is square to")
            .writtenWhenChanged()
            .numbers("turned", &A::turned, kMostKeys, 0, 1'000'000, "Numbers of lines that are turned over")
            .writtenWhenChanged();
    return form;
}

const Form<AxisAim>& aimForm() {
    static const Form<AxisAim> form = [] {
        std::vector<Form<AxisAim>::Option<AxisRule>> rules;
        for (const AxisRuleKind& r : axisRules()) rules.push_back({r.rule, r.word, r.label});
        return Form<AxisAim>("where the axis comes from").choice("rule", &AxisAim::rule, rules, "Where the axis comes from").with(aimWords());
    }();
    return form;
}

/// The last row's may be "the same".
const Form<LastAim>& lastForm() {
    static const Form<LastAim> form = [] {
        WordInfo rule;
        rule.key = "rule";
        rule.kind = WordKind::Choice;
        rule.what = "Where the axis of the last row comes from";
        rule.options.push_back({"same", "the same"});
        std::vector<std::string> ids{"same"};
        for (const AxisRuleKind& r : axisRules()) {
            rule.options.push_back({r.word, r.label});
            ids.emplace_back(r.word);
        }
        rule.initial = "same";
        return Form<LastAim>("where the axis of the last row comes from")
            .special(
                rule,
                [ids](const JsonView& v, LastAim& a) {
                    const int i = v.choice("rule", ids);
                    a.same = i <= 0;
                    a.rule = i > 0 ? axisRules()[static_cast<std::size_t>(i) - 1].rule : AxisRule::Surface;
                },
                [](const LastAim& a, OrderedJson& out) {
                    out["rule"] = "same";
                    if (!a.same) out["rule"] = kindOf(a.rule).word;
                },
                [](LastAim& a, Dice& dice) {
                    const std::size_t i = dice() % (axisRules().size() + 1);
                    a.same = i == 0;
                    a.rule = i > 0 ? axisRules()[i - 1].rule : AxisRule::Surface;
                })
            .base(aimWords());
    }();
    return form;
}

const Form<AxisKey>& keyForm() {
    using K = AxisKey;
    static const Form<K> form = Form<K>("an axis key")
                                    .number("at", &K::at, 0.0, 1.0, "Fraction of the first row")
                                    .needed()
                                    .number("atLast", &K::atLast, 0.0, 1.0, "Fraction of the last row; `at` when left out")
                                    .angle("lead", &K::leadDegrees, -90.0, 90.0, "More lead there")
                                    .angle("tilt", &K::tiltDegrees, -90.0, 90.0, "More tilt there")
                                    .count("row", &K::row, -1, 1'000'000, "Holds for one row only; −1: for all")
                                    .writtenWhen([](const K& k) { return k.row >= 0; })
                                    .before([](const JsonView& v, K& k) { k.atLast = v.number("at", 0.0, 1.0, k.at); });
    return form;
}

} // namespace

namespace {

WordInfo lastWord() {
    WordInfo last;
    last.key = "last";
    last.kind = WordKind::Part;
    last.what = "Axis of the last row, turned to from the first one's";
    last.part = std::make_shared<const FormInfo>(lastForm().info());
    return last;
}

WordInfo windowWord() {
    WordInfo window;
    window.key = "window";
    window.kind = WordKind::Numbers;
    window.low = 0.0;
    window.high = 180.0;
    window.most = 2;
    window.what = "Smallest and largest angle to the datum's Z; any when left out";
    return window;
}

} // namespace

const Form<AxisSpec>& axisForm() {
    using A = AxisSpec;
    static const Form<A> form = [] {
        const auto lastOf = [](const A& a) {
            LastAim aim;
            static_cast<AxisAim&>(aim) = a.last;
            aim.same = !a.blended;
            return aim;
        };
        const auto take = [](A& a, const LastAim& aim) {
            a.last = aim;
            a.blended = !aim.same;
        };
        return Form<A>("the axis")
            .base(aimForm())
            .special(
                lastWord(), [take](const JsonView& v, A& a) { take(a, lastForm().read(v.object("last"))); },
                [lastOf](const A& a, OrderedJson& out) { out["last"] = lastForm().write(lastOf(a)); }, [take](A& a, Dice& dice) { take(a, lastForm().random(dice)); })
            .angle("offFaces", &A::offFaces, 0.0, 90.0, "Least angle between the axis and the faces, whatever it comes from; 0: any")
            .step(5.0)
            .writtenWhenChanged()
            .list("keys", &A::keys, kMostKeys, keyForm(), "More lead and tilt at places along the rows")
            .text("locked", &A::locked, 20, "Rotary joint that is locked")
            .angle("lockedAt", &A::lockedDegrees, -36000.0, 36000.0, "Angle of the locked joint")
            .length("smoothing", &A::smoothing, 0.0, 1000.0, "Length over which the axis is evened out")
            .number("steepest", &A::steepest, 0.0, 1e4, "Largest turn for each millimetre, °/mm; 0: any")
            .step(0.5)
            .angle("nearPole", &A::nearPole, 0.0, 10.0, "Angle to a rotary's pole within which the axis is taken to it")
            .step(0.5)
            .choice("leads", &A::leadByPattern, {{false, "feed", "ahead of the feed on every row"}, {true, "pattern", "the same way on all rows"}},
                    "Which way lead leans on rows that run back")
            .special(
                windowWord(),
                [](const JsonView& v, A& a) {
                    const auto w = v.numbers("window", 2, 0.0, 180.0);
                    if (w.size() == 2 && w[0] <= w[1]) {
                        a.limited = true;
                        a.lowDegrees = w[0];
                        a.highDegrees = w[1];
                    } else if (!v.failed()) {
                        v.complain("'window' is the smallest and the largest angle, e.g. [10, 60]");
                    }
                },
                [](const A& a, OrderedJson& out) {
                    out["window"] = {a.lowDegrees, a.highDegrees};
                },
                [](A& a, Dice& dice) {
                    a.limited = true;
                    a.lowDegrees = static_cast<double>(dice() % 90);
                    a.highDegrees = a.lowDegrees + static_cast<double>(dice() % 90);
                })
            .writtenWhen([](const A& a) { return a.limited; });
    }();
    return form;
}

} // namespace gyre
