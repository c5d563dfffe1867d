// Recipes of work along walls, curves and edges, and the axis rules, as sentences.
#include "axis/AxisSpec.h"
#include "edgebreak/BreakSpec.h"
#include "form/Form.h"
#include "guided/CurveSpec.h"
#include "model/Along.h"
#include "operation/RecipeForm.h"
#include "panels/RecipePanel.h"
#include "pattern/PatternSpec.h"
#include "swarf/SwarfSpec.h"
#include "target/TargetSpec.h"

namespace gyre {

QString RecipePanel::axisLayoutKey(const Recipe& r) const {
    QString key = QString("axis/%1/%2/%3/%4/%5/%6/%7")
                      .arg(static_cast<int>(r.axis->rule))
                      .arg(r.axis->blended ? static_cast<int>(r.axis->last.rule) : -1)
                      .arg(r.axis->keys.size())
                      .arg(QString::fromStdString(r.axis->locked))
                      .arg(m_open.job().mends.size())
                      .arg(QString::fromStdString(r.axis->curve))
                      .arg(!r.pattern->rail1.empty() && !r.pattern->rail2.empty());
    for (const JobBody& b : m_open.job().bodies)
        if (b.role == "drawing") key += "/" + QString::fromStdString(b.name);
    for (const Mend& m : m_open.job().mends) key += "/" + QString::fromStdString(m.name);
    if (m_open.place()) key += "/" + QString::fromStdString(m_open.place()->machine->name);
    return key;
}

QString RecipePanel::alongLayoutKey(const Recipe& r) const {
    QString key = QString("follow/%1/%2/%3/%4/%5/%6/%7/%8")
                      .arg(static_cast<int>(r.kind))
                      .arg(r.swarf->fromRails)
                      .arg(r.swarf->thickness > 0.0)
                      .arg(static_cast<int>(r.curve->by))
                      .arg(static_cast<int>(r.curve->side))
                      .arg(static_cast<int>(r.edge->edges))
                      .arg(static_cast<int>(r.edge->axis))
                      .arg(r.edge->round);
    for (const std::string& n : r.target->drawings) key += "/" + QString::fromStdString(n);
    return key + axisLayoutKey(r);
}

Word* RecipePanel::curveWord(const QString& key, const QString& name, const QString& none, const std::string& now) {
    std::vector<Word::Option> options{{"", none}};
    for (const JobBody& b : m_open.job().bodies)
        if (b.role == "drawing" && !b.flat) options.push_back({QString::fromStdString(b.name), QString::fromStdString(b.name)});
    for (const Mend& m : m_open.job().mends)
        if (m.kind != MendKind::FreedFace) options.push_back({QString::fromStdString(m.name), QString::fromStdString(m.name)});
    if (key == "axis.curve" && !m_open.recipe()->pattern->rail1.empty() && !m_open.recipe()->pattern->rail2.empty())
        options.push_back({kRaisedMiddle, tr("+ a raised middle of the rails")});
    if (!now.empty() && std::none_of(options.begin(), options.end(), [&](const Word::Option& o) { return o.value == QString::fromStdString(now); }))
        options.push_back({QString::fromStdString(now), QString::fromStdString(now)});
    return choice(key, name, options);
}

// What one aim needs said; `at` is "axis." or "axis.last.".
void RecipePanel::sayAim(Said& s, const AxisAim& aim, const QString& at) {
    const bool first = at == "axis.";
    const auto words = [&](const char* text) { say(s, QString(tr(text)).replace("{", "{" + at)); };
    const auto curve = [&](const QString& name) { return curveWord(at + "curve", first ? name : tr("%1 of the last row").arg(name), tr("picked edges"), aim.curve); };
    switch (aim.rule) {
    case AxisRule::Surface:
        words(QT_TR_NOOP(", lead {lead}, tilt {tilt}"));
        break;
    case AxisRule::Fixed:
        words(" {direction.0} {direction.1} {direction.2}");
        break;
    case AxisRule::TowardRotary:
        break;
    case AxisRule::Point:
        words(", {away} {point.0} {point.1} {point.2}");
        break;
    case AxisRule::Curve:
        words(", {away}");
        say(s, " {}", {curve(tr("Curve that the axis goes by"))});
        if (first && aim.curve.empty()) words(" {edges}");
        if (first && m_parts.along.axisMiddle())
            say(s, tr(", raised by {} along {}"),
                {word(Word::Kind::Length, "middle.raise", tr("How far the middle is raised"), 1.0),
                 choice("middle.along", tr("Way that the middle is raised"), {{"0", "X"}, {"1", "Y"}, {"2", "Z"}})});
        words(", {reach}");
        break;
    case AxisRule::Lines:
        say(s, " {}", {curve(tr("Lines that the axis goes along"))});
        if (first && aim.curve.empty()) words(" {edges}");
        if (first) say(s, tr(" ({})"), {word(Word::Kind::Action, "axis.draw", tr("Draw lines in the view"))});
        break;
    case AxisRule::Normals:
        if (first) words(" {faces}");
        break;
    }
}

void RecipePanel::sayKeys(Said& s, const AxisSpec& a) {
    for (std::size_t i = 0; i < a.keys.size(); ++i) {
        const QString at = QString("axis.keys.%1.").arg(i);
        const auto named = [&](const char* key, const QString& name) {
            Word* w = formWord(at + key);
            w->setAccessibleName(name.arg(i + 1));
            return w;
        };
        say(s, tr(" At {} (last row {}): {} more lead, {} more tilt {}."),
            {named("at", tr("Place of key %1 along the first row")), named("atLast", tr("Place of key %1 along the last row")), named("lead", tr("Lead of key %1")),
             named("tilt", tr("Tilt of key %1")), choice(at + "off", tr("Keep key %1").arg(i + 1), {{"keep", tr("(key)")}, {"off", tr("take it away")}})});
    }
    say(s, tr(" Keys: {}."),
        {choice("axis.key.new", tr("New axis key"),
                {{"", tr("+ key")},
                 {"0.0", tr("at the start")},
                 {"0.25", tr("at a quarter")},
                 {"0.5", tr("in the middle")},
                 {"0.75", tr("at three quarters")},
                 {"1.0", tr("at the end")}})});
}

void RecipePanel::sayLimits(Said& rare, const AxisSpec& a) {
    std::vector<Word::Option> locks{{"", tr("no joint")}};
    if (m_open.place())
        for (const auto& j : m_open.place()->machine->joints)
            if (j.kind == JointKind::Rotary) locks.push_back({QString::fromStdString(j.name), QString::fromStdString(j.name)});
    say(rare, tr("Evened over {axis.smoothing}, at most {axis.steepest} °/mm (0: any), upright within {axis.nearPole} of the pole; lock {}"),
        {choice("axis.locked", tr("Rotary joint that is locked"), locks)});
    if (!a.locked.empty()) say(rare, tr(" at {axis.lockedAt}"));
    say(rare, tr("; at least {axis.offFaces} off the faces; angle to Z {}."),
        {choice(
            "axis.window", tr("Angle to the datum's Z"),
            {{"any", tr("any")}, {"[0.0,30.0]", tr("0° to 30°")}, {"[0.0,60.0]", tr("0° to 60°")}, {"[20.0,90.0]", tr("20° to 90°")}, {"[0.0,90.0]", tr("0° to 90°")}})});
}

void RecipePanel::layoutAxis() {
    const AxisSpec& a = m_open.recipe()->axis;
    Said s;
    say(s, tr("Axis {axis.rule}"));
    sayAim(s, a, "axis.");
    Word* last = formWord("axis.last.rule");
    std::vector<Word::Option> others; // faces are picked for one aim
    for (const WordOption& o : wordAt(recipeWords(m_open.recipe()->kind), "axis.last.rule")->options)
        if (o.id != "normals") others.push_back({QString::fromStdString(o.id), tr(o.label.c_str())});
    last->setOptions(others);
    // Where the last row is as the first, that is a rare word.
    Said rare;
    if (a.blended) {
        say(s, tr("; on the last row {}"), {last});
        sayAim(s, a.last, "axis.last.");
    }
    say(s, ".");
    sayKeys(s, a);
    if (!a.blended) say(rare, tr("On the last row {}. "), {last});
    if (a.rule == AxisRule::Surface || a.last.rule == AxisRule::Surface || !a.keys.empty()) say(rare, tr("Lead leans {axis.leads}. "));
    sayLimits(rare, a);
    put(Stage::Axis, s, rare);
}

void RecipePanel::layoutAlong() {
    switch (m_open.recipe()->kind) {
    case OperationKind::Swarf:
        layoutSwarf();
        break;
    case OperationKind::Curve:
        layoutCurve();
        break;
    default:
        layoutEdges();
    }
    layoutGuard();
    layoutTravel();
}

// "0.25 0.3; 0.5 0.5" as the list that the file has, and back.
QString RecipePanel::syncList(const QString& text) {
    OrderedJson list = OrderedJson::array();
    for (const QString& pair : text.split(';', Qt::SkipEmptyParts)) {
        const QStringList numbers = pair.simplified().split(' ', Qt::SkipEmptyParts);
        bool lower = false, upper = false;
        if (numbers.size() == 2) list.push_back({{"lower", numbers[0].toDouble(&lower)}, {"upper", numbers[1].toDouble(&upper)}});
        if (!lower || !upper) return {};
    }
    return QString::fromStdString(list.dump());
}

QString RecipePanel::syncText(const SwarfSpec& swarf) {
    QStringList pairs;
    for (const auto& p : swarf.sync) pairs << QString("%1 %2").arg(p[0]).arg(p[1]);
    return pairs.join("; ");
}

void RecipePanel::layoutSwarf() {
    using K = Word::Kind;
    const SwarfSpec& w = m_open.recipe()->swarf;
    Said target, pattern, axis;
    say(target, tr("The cutter's side down {swarf.from}"));
    if (w.fromRails) {
        say(target, tr(" {pattern.rail1} below and {pattern.rail2} above, on {swarf.otherSide}, held together at {} ({})"),
            {word(K::Text, "swarf.sync", tr("Sync lines: fraction of the lower and of the upper rail")),
             word(K::Action, "swarf.draw", tr("Draw sync lines in the view"))});
        formWord("pattern.rail1")->setAccessibleName(tr("Lower rail"));
        formWord("pattern.rail2")->setAccessibleName(tr("Upper rail"));
    } else
        say(target, " {target.faces}");
    Said feed, rare, sides;
    say(target, tr(", {swarf.flipped},"));
    sayTool(target);
    say(target, ".");
    sayFeed(feed);
    say(pattern, tr("The tip {swarf.past} past the lower edge, stepdown {swarf.stepdown} (0: full depth); stock in front of the wall {swarf.thickness} (0: one pass)"));
    if (w.thickness > 0.0) say(pattern, tr(", stepover {swarf.stepover}, {swarf.order}"));
    say(pattern, tr("; {swarf.climb}."));
    say(rare, tr("Outer corners {swarf.corner}; open ends {swarf.extend} further; a closed wall begins at {swarf.entry} of its length (0 … 1)."));
    sayFineness(rare);
    say(axis, tr("The side lies {swarf.twist}; deviation up to {swarf.tolerance} passes."));
    say(sides, tr("Where a floor or corner is in the way of the tip {swarf.floor}."));
    put(Stage::Target, target, feed);
    put(Stage::Pattern, pattern, rare);
    put(Stage::Axis, axis, sides);
}

void RecipePanel::layoutCurve() {
    const CurveSpec& c = m_open.recipe()->curve;
    const bool channel = c.by == CurveBy::Channel;
    Said target, feed, pattern, rare;
    say(target, channel ? tr("Lead {curve.by} {target.faces}") : tr("Lead {curve.by} along {target.edges}, {target.drawings}; normals of {target.faces}"));
    say(target, ",");
    sayTool(target);
    say(target, ".");
    sayFeed(feed);
    if (channel)
        say(pattern, tr("From {curve.depth} over its floor, stepdown {curve.stepdown} (0: full depth)"));
    else {
        say(pattern, tr("{curve.side} it"));
        if (c.side != CurveSide::On) say(pattern, tr(" by {curve.offset}"));
        say(pattern,
            tr(", {curve.axial} along the axis; {curve.depth} deep, stepdown {curve.stepdown} (0: full depth); from {curve.from} to {curve.to} of its length (0 … 1)"));
        say(rare, tr("Closed ones begin at {curve.entry} of their length and overlap by {curve.overlap}. "));
    }
    say(pattern, tr("; {curve.reversed}, {curve.backAndForth}."));
    sayFineness(rare);
    put(Stage::Target, target, feed);
    put(Stage::Pattern, pattern, rare);
    layoutAxis();
}

void RecipePanel::layoutEdges() {
    using K = Word::Kind;
    const BreakSpec& e = m_open.recipe()->edge;
    Said target, pattern, axis;
    say(target, tr("Break {edge.edges}"));
    if (e.edges == BreakEdges::Picked) say(target, " {target.edges}");
    if (e.edges == BreakEdges::Faces) say(target, " {target.faces}");
    if (e.edges >= BreakEdges::HolesNear) say(target, tr(" of {} ({})"), {groupWord(), word(K::Action, "holes", tr("Single holes"))});
    if (e.edges == BreakEdges::Faces || e.edges == BreakEdges::Body) say(target, tr(" sharper than {edge.sharper}"));
    say(target, tr(", with {tool}, stick-out {tool.stickOut}."));
    Said feed, fine;
    sayFeed(feed);
    sayFineness(fine);
    say(pattern, tr("A {edge.as} {edge.size} in {edge.rows} rows, {edge.climb}."));
    say(axis, tr("The axis {edge.axis}"));
    if (e.axis == BreakAxis::Turn) say(axis, " {edge.turn}");
    if (e.axis == BreakAxis::Fixed) say(axis, " {edge.direction.0} {edge.direction.1} {edge.direction.2}");
    say(axis, ".");
    put(Stage::Target, target, feed);
    put(Stage::Pattern, pattern, fine);
    put(Stage::Axis, axis);
}

void RecipePanel::layoutTravel() {
    Said links, rare;
    say(links, tr("Enter by an arc of {links.entryRadius}; join gaps under {links.smallGap} by a {links.small}; travel"));
    saySkin(links);
    // What repeats is said with the rest of the way.
    say(links, tr(". The same again, all {repeat.count} × about {repeat.axis}."));
    say(rare, tr("Come down fast to {links.approach} over the entry; without room for an arc a ramp of {links.ramp}; where the axis stays, {links.low}."));
    put(Stage::Links, links, rare);
}

} // namespace gyre
