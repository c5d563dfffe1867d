// The recipe of milling on a plane or an unrolled cylinder, as sentences.
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "milling/Sheet.h"
#include "model/Milling.h"
#include "operation/Repeat.h"
#include "panels/RecipePanel.h"
#include "target/TargetSpec.h"

namespace gyre {

QString RecipePanel::millLayoutKey(const Recipe& r) const {
    const auto mend = m_parts.milling.followedMend();
    QString key =
        QString("mill/%1/%2/%3/%4/%5/%6/%7/%8")
            .arg(millShapeName(r.mill->shape))
            .arg(static_cast<int>(r.mill->depthBy))
            .arg(static_cast<int>(r.mill->topBy))
            .arg(QString::fromStdString(r.mill->on))
            .arg(static_cast<int>(r.link->skin.kind))
            .arg(m_open.job().planes.size())
            .arg(mend ? QString("%1.%2.%3").arg(*mend).arg(static_cast<int>(m_open.job().mends[*mend].kind)).arg(m_open.job().mends[*mend].choice("growth")) : QString())
            .arg(m_parts.milling.sheet() && m_parts.milling.sheet()->wrapped);
    key += QString("/%1/%2").arg(static_cast<int>(r.mill->parts)).arg(QString::fromStdString(r.mill->after + "/" + r.tool));
    for (const Assembly& a : m_open.job().tools) key += "/" + QString::fromStdString(a.name);
    for (const Mend& m : m_open.job().mends) key += "/" + QString::fromStdString(m.name);
    for (const std::string& n : r.target->drawings) key += "/" + QString::fromStdString(n);
    return key + planeNames();
}

Word* RecipePanel::drawingWord(const Recipe& r) {
    std::vector<Word::Option> options{{"[]", tr("+ drawing")}};
    std::vector<std::string> names;
    for (const JobBody& b : m_open.job().bodies)
        if (b.role == "drawing") names.push_back(b.name);
    for (const Mend& m : m_open.job().mends)
        if (m.kind != MendKind::FreedFace) names.push_back(m.name);
    for (const std::string& n : names) options.push_back({listed({n}), QString::fromStdString(n)});
    if (r.target->drawings.size() > 1) options.push_back({listed(r.target->drawings), joinedNames(r.target->drawings)});
    return choice("target.drawings", tr("Drawing or curve to follow"), options);
}

Word* RecipePanel::sheetWord() {
    const bool body = m_open.recipe()->mill->shape == MillShape::Body;
    std::vector<Word::Option> options{{"", body ? tr("Z") : tr("what is picked")}};
    for (const WorkPlane& p : m_open.job().planes) options.push_back({QString::fromStdString(p.name), QString::fromStdString(p.name)});
    if (!body)
        for (const char* axis : {"X", "Y", "Z"}) options.push_back({QString("round %1").arg(axis), tr("a round about %1").arg(axis)});
    return choice("mill.on", tr("Plane, or axis that the work is wrapped around"), options);
}

// A helix or a sketch is read and changed where it is used.
void RecipePanel::sayFollowed(Said& s) {
    using K = Word::Kind;
    const auto mend = m_parts.milling.followedMend();
    if (!mend) return;
    const Mend& m = m_open.job().mends[*mend];
    if (m.kind == MendKind::Helix) {
        static constexpr const char* kCentre[] = {"cx", "cy", "cz"};
        say(s, tr(" The helix goes around {} (or {}): pitch {} {}"),
            {choice("helix.axis", tr("Axis that the groove goes around"), {{"0", "X"}, {"1", "Y"}, {"2", "Z"}}),
             word(K::Action, "helix.around", tr("Cylinder that the groove goes around")), word(K::Length, "helix.pitch", tr("Pitch"), 0.5),
             choice("helix.growth", tr("Does the pitch change"), {{"0", tr("all along")}, {"1", tr("growing to")}})});
        if (m.choice("growth") == 1) say(s, " {}", {word(K::Length, "helix.endPitch", tr("Pitch at the end"), 0.5)});
        say(s, tr(", {} turns, from {} at {}, {}, radius {}."),
            {word(K::Number, "helix.turns", tr("Turns"), 0.25), word(K::Length, QString("helix.%1").arg(kCentre[m.choice("axis")]), tr("Start along the axis"), 1.0),
             word(K::Angle, "helix.start", tr("Starting angle"), 5.0), choice("helix.hand", tr("Hand"), {{"0", tr("right-handed")}, {"1", tr("left-handed")}}),
             word(K::Length, "helix.radius", tr("Radius"), 0.5)});
        return;
    }
    const bool round = m.choice("on") >= 3 && m.choice("on") < 6;
    say(s, round ? tr(" Drawn through {} (along, degrees)") : tr(" Drawn through {}"),
        {word(K::Text, "sketch.points", round ? tr("Points: along the axis and degrees around") : tr("Points: two coordinates each"))});
    if (round) say(s, tr(" at radius {}"), {word(K::Length, "helix.radius", tr("Radius"), 0.5)});
    say(s, ", {}.", {choice("helix.ends", tr("Ends"), {{"0", tr("open")}, {"1", tr("closed")}})});
}

void RecipePanel::layoutMillTarget() {
    Said s;
    switch (m_open.recipe()->mill->shape) {
    case MillShape::Face:
        say(s, tr("{mill.shape} {target.faces} with {tool}, stick-out {tool.stickOut}, stock to leave {mill.leaveFloor}."));
        break;
    case MillShape::Pocket:
    case MillShape::Outline:
        say(s, tr("{mill.shape} {target.faces}, {target.edges}, {target.drawings} with {tool}, stick-out {tool.stickOut}, stock to leave {target.leave} at the walls, "
                  "{mill.leaveFloor} below."));
        break;
    case MillShape::Bore:
        say(s, tr("{mill.shape} {target.faces} with {tool}, stick-out {tool.stickOut}, stock to leave {target.leave}."));
        break;
    case MillShape::Follow:
        say(s, tr("{mill.shape} {target.edges}, {target.drawings} with {tool}, stick-out {tool.stickOut}, stock to leave {target.leave} at the walls."));
        break;
    case MillShape::Round:
        say(s, tr("{mill.shape} the whole part, {mill.bossClearance} off {target.faces}, holes {mill.holes}, with {tool}, stick-out {tool.stickOut}, stock to leave "
                  "{target.leave}."));
        formWord("target.faces")->setAccessibleName(tr("Bosses to keep off"));
        break;
    case MillShape::Rough:
        say(s, tr("{mill.shape} what stands over {target.faces} with {tool}, stick-out {tool.stickOut}, stock to leave {target.leave} at walls, {mill.leaveFloor} on "
                  "floors."));
        break;
    case MillShape::Body:
        say(s, tr("{mill.shape} {target.faces} with {tool}, stick-out {tool.stickOut}, stock to leave {target.leave}; {} tool before"), {toolBeforeWord()});
        if (!m_open.recipe()->mill->after.empty()) say(s, tr(", where that leaves more than {mill.afterMore}"));
        say(s, ".");
        break;
    }
    sayFollowed(s);
    Said feed;
    sayFeed(feed);
    put(Stage::Target, s, feed);
}

void RecipePanel::layoutMillPattern() {
    const Recipe& r = *m_open.recipe();
    const MillShape shape = r.mill->shape;
    const bool wrapped = m_parts.milling.sheet() && m_parts.milling.sheet()->wrapped;
    Said s;
    switch (shape) {
    case MillShape::Face:
        say(s, tr("Strokes along {mill.along}, stepover {mill.stepover}"));
        break;
    case MillShape::Pocket:
        say(s, tr("Rings, stepover {mill.stepover}, {mill.climb}"));
        if (wrapped) say(s, tr(", a scallop of {mill.scallop} at most around (0: any)"));
        break;
    case MillShape::Outline:
        say(s, tr("{mill.passes} beside each other, stepover {mill.stepover}, {mill.side} the line, {mill.climb}"));
        break;
    case MillShape::Bore:
        say(s, tr("Helices, stepover {mill.stepover}, {mill.climb}, stepdown {mill.stepdown} a turn"));
        break;
    case MillShape::Follow:
        say(s, tr("A groove {mill.width} wide (0: as the cutter)"));
        if (r.mill->width > 0.0 || wrapped) say(s, tr(", measured {mill.widthAlong}"));
        say(s, tr(", stepover {mill.stepover}, {mill.climb}"));
        break;
    case MillShape::Round:
        say(s, tr("In {mill.lines}, stepover {mill.stepover}, {mill.climb}, from {mill.from} to {mill.to} along the axis (equal: all of it)"));
        break;
    case MillShape::Rough:
        say(s, tr("Fronts, stepover {mill.stepover}, {mill.climb}"));
        break;
    case MillShape::Body:
        layoutBodyPattern();
        return;
    }
    std::vector<Word::Option> tops{{"geometry", shape == MillShape::Follow  ? tr("the curve")
                                                : shape == MillShape::Rough ? tr("the stock's top")
                                                                            : tr("the top of the walls")}};
    if (shape != MillShape::Rough && shape != MillShape::Follow && shape != MillShape::Bore) tops.push_back({"stock", tr("the stock")});
    tops.push_back({"typed", tr("a height of")});
    say(s, tr("; from {}"), {choice("mill.topBy", tr("Where the cut begins"), tops)});
    if (r.mill->topBy == MillTop::Typed) say(s, " {mill.top}");
    std::vector<Word::Option> depths{{"typed", tr("a depth of")}};
    if (shape != MillShape::Follow)
        depths.insert(depths.begin(), {"geometry", shape == MillShape::Rough ? tr("the plane") : shape == MillShape::Bore ? tr("its end") : tr("the floor")});
    if (shape != MillShape::Rough && shape != MillShape::Bore) depths.insert(depths.end(), {{"model", tr("the model, at most")}, {"profile", tr("a profile")}});
    if (shape != MillShape::Round) {
        say(s, tr(" down to {}"), {choice("mill.depthBy", tr("What the depth goes by"), depths)});
        if (r.mill->depthBy == MillDepth::Typed || r.mill->depthBy == MillDepth::Model) say(s, " {mill.depth}");
        if (r.mill->depthBy == MillDepth::Profile) say(s, " {target.profile}");
    } else {
        say(s, tr(" down to the model"));
    }
    if (shape != MillShape::Bore) say(s, tr(", stepdown {mill.stepdown} (0: full depth)"));
    if (shape == MillShape::Bore || shape == MillShape::Outline) say(s, tr(", {mill.beyond} past the lower edge"));
    say(s, ".");
    Said fine;
    say(fine, tr("Points within {pattern.chordTolerance} of the true way."));
    put(Stage::Pattern, s, fine);
}

Word* RecipePanel::toolBeforeWord() {
    std::vector<Word::Option> options{{"", tr("no")}};
    const Assembly* own = m_open.job().tool(m_open.recipe()->tool);
    for (const Assembly& a : m_open.job().tools)
        if (!own || a.cutter.diameter > own->cutter.diameter || a.id == m_open.recipe()->mill->after)
            options.push_back({QString::fromStdString(a.id), tr("only what is left by the %1 as").arg(QString::fromStdString(a.name))});
    return choice("mill.after", tr("Larger tool that has cut it before"), options);
}

void RecipePanel::layoutBodyPattern() {
    const MillSpec& m = m_open.recipe()->mill;
    Said s;
    say(s, tr("In {mill.parts}, ways {mill.stepover} apart"));
    if (m.parts == MillParts::Both) say(s, tr(", steep from {mill.slope} on"));
    if (m.parts != MillParts::Levels) say(s, tr("; strokes along {mill.along}"));
    if (m.parts != MillParts::Strokes) say(s, tr("; levels {mill.climb}"));
    say(s, tr("; down to {}"), {choice("mill.depthBy", tr("What the depth goes by"), {{"geometry", tr("the lowest place")}, {"typed", tr("a depth of")}})});
    if (m.depthBy == MillDepth::Typed) say(s, " {mill.depth}");
    say(s, ".");
    Said fine;
    say(fine, tr("Points within {pattern.chordTolerance} of the true way."));
    put(Stage::Pattern, s, fine);
}

void RecipePanel::layoutMillAxis() {
    const Recipe& r = *m_open.recipe();
    const MillShape shape = r.mill->shape;
    Said s;
    if (m_parts.milling.sheet() && m_parts.milling.sheet()->wrapped) {
        say(s, tr("Unrolled from {mill.on} at radius {mill.radius} (0: as picked); "));
        say(s, shape == MillShape::Round ? tr("the tool stands along the radius.") : "{mill.parallel}.");
    } else {
        say(s, shape == MillShape::Bore   ? tr("The tool stands along each bore.")
               : shape == MillShape::Body ? tr("The tool stands along {mill.on}.")
                                          : tr("The tool stands square to {mill.on}."));
    }
    std::vector<Word::Option> others{{"[]", tr("no other plane")}};
    std::vector<std::string> all;
    for (const WorkPlane& p : m_open.job().planes)
        if (p.name != r.mill->on) {
            others.push_back({listed({p.name}), QString::fromStdString(p.name)});
            all.push_back(p.name);
        }
    if (all.size() > 1) others.push_back({listed(all), tr("all other planes")});
    if (!r.repeat->planes.empty() && r.repeat->planes.size() != 1 && r.repeat->planes != all) others.push_back({listed(r.repeat->planes), joinedNames(r.repeat->planes)});
    say(s, tr(" The same again on {}, and all {repeat.count} × about {repeat.axis}."), {choice("repeat.planes", tr("Other planes with the same work"), others)});
    put(Stage::Axis, s);
}

void RecipePanel::layoutMill() {
    const Recipe& r = *m_open.recipe();
    layoutMillTarget();
    layoutMillPattern();
    layoutMillAxis();
    layoutGuard();
    Said s;
    if (r.mill->shape != MillShape::Round && r.mill->shape != MillShape::Bore && r.mill->shape != MillShape::Body)
        say(s, tr("Come down by {mill.entry} at {mill.rampDegrees}; "));
    if (r.mill->shape == MillShape::Outline) say(s, tr("touch walls by an arc of {links.entryRadius}; "));
    say(s, tr("join gaps under {links.smallGap}; travel"));
    saySkin(s);
    say(s, ".");
    Said rare;
    say(rare, tr("Come down fast to {links.approach} over the entry; where the axis stays, {links.low}."));
    put(Stage::Links, s, rare);
}

} // namespace gyre
