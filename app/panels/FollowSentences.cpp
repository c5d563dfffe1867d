// Recipes of work along walls, curves and edges, and the axis rules, as sentences.
#include "panels/RecipePanel.h"
#include "panels/Said.h"

namespace gyre {

QString RecipePanel::axisLayoutKey(const Recipe& r) const {
    QString key = QString("axis/%1/%2/%3/%4/%5")
                      .arg(static_cast<int>(r.axis.rule))
                      .arg(r.axis.blended ? static_cast<int>(r.axis.last.rule) : -1)
                      .arg(r.axis.keys.size())
                      .arg(QString::fromStdString(r.axis.locked))
                      .arg(m_model.job().mends.size());
    for (const JobBody& b : m_model.job().bodies)
        if (b.role == "drawing") key += "/" + QString::fromStdString(b.name);
    for (const Mend& m : m_model.job().mends) key += "/" + QString::fromStdString(m.name);
    if (m_model.place()) key += "/" + QString::fromStdString(m_model.place()->machine->name);
    return key;
}

QString RecipePanel::followLayoutKey(const Recipe& r) const {
    QString key = QString("follow/%1/%2/%3/%4/%5/%6/%7/%8")
                      .arg(static_cast<int>(r.kind))
                      .arg(r.swarf.fromRails)
                      .arg(r.swarf.thickness > 0.0)
                      .arg(static_cast<int>(r.curve.by))
                      .arg(static_cast<int>(r.curve.side))
                      .arg(static_cast<int>(r.edge.edges))
                      .arg(static_cast<int>(r.edge.axis))
                      .arg(r.edge.round);
    for (const std::string& n : r.target.drawings) key += "/" + QString::fromStdString(n);
    return key + axisLayoutKey(r);
}

Word* RecipePanel::curveWord(const QString& key, const QString& name, const QString& none, const std::string& now) {
    std::vector<Word::Option> options{{"", none}};
    for (const JobBody& b : m_model.job().bodies)
        if (b.role == "drawing" && !b.flat) options.push_back({QString::fromStdString(b.name), QString::fromStdString(b.name)});
    for (const Mend& m : m_model.job().mends)
        if (m.kind != MendKind::FreedFace) options.push_back({QString::fromStdString(m.name), QString::fromStdString(m.name)});
    if (!now.empty() && std::none_of(options.begin(), options.end(), [&](const Word::Option& o) { return o.value == QString::fromStdString(now); }))
        options.push_back({QString::fromStdString(now), QString::fromStdString(now)});
    return choice(key, name, options);
}

void RecipePanel::layoutAxis() {
    using K = Word::Kind;
    const AxisSpec& a = m_model.recipe()->axis;
    const std::vector<Word::Option> rules{{"surface", tr("from the surface")}, {"fixed", tr("in one direction")}, {"towardRotary", tr("toward the rotary axis")},
                                          {"point", tr("by a point")},         {"curve", tr("by a curve")},       {"lines", tr("along lines")},
                                          {"normals", tr("square to faces")}};
    Said s;
    // What one aim needs said; `at` is "axis." or "axis.last.".
    const auto aim = [&](const AxisAim& aim, const QString& at, const QString& which) {
        const auto away = [&] { return choice(at + "away", tr("Side of the spindle %1").arg(which), {{"false", tr("through")}, {"true", tr("away from")}}); };
        switch (aim.rule) {
        case AxisRule::Surface:
            s(tr(", lead {}, tilt {}"), {word(K::Angle, at + "lead", which.isEmpty() ? tr("Lead") : tr("Lead %1").arg(which)),
                                         word(K::Angle, at + "tilt", which.isEmpty() ? tr("Tilt") : tr("Tilt %1").arg(which))});
            break;
        case AxisRule::Fixed:
            s(" {} {} {}", {word(K::Number, at + "direction.0", tr("X of the direction %1").arg(which).trimmed(), 0.1),
                            word(K::Number, at + "direction.1", tr("Y of the direction %1").arg(which).trimmed(), 0.1),
                            word(K::Number, at + "direction.2", tr("Z of the direction %1").arg(which).trimmed(), 0.1)});
            break;
        case AxisRule::TowardRotary:
            break;
        case AxisRule::Point:
            s(tr(", {} {} {} {}"), {away(), word(K::Length, at + "point.0", tr("X of the point %1").arg(which).trimmed(), 1.0),
                                    word(K::Length, at + "point.1", tr("Y of the point %1").arg(which).trimmed(), 1.0),
                                    word(K::Length, at + "point.2", tr("Z of the point %1").arg(which).trimmed(), 1.0)});
            break;
        case AxisRule::Curve:
            s(tr(", {} {}"), {away(), curveWord(at + "curve", tr("Curve that the axis goes by %1").arg(which).trimmed(), tr("picked edges"), aim.curve)});
            if (which.isEmpty() && aim.curve.empty()) s(" {}", {word(K::Action, "axis.edges", tr("Edges that the axis goes by"))});
            s(", {}", {choice(at + "reach", tr("Which place of the curve %1").arg(which).trimmed(),
                              {{"nearest", tr("where it is nearest")}, {"inStep", tr("in step with the row")}})});
            break;
        case AxisRule::Lines:
            s(" {}", {curveWord(at + "curve", tr("Lines that the axis goes along %1").arg(which).trimmed(), tr("picked edges"), aim.curve)});
            if (which.isEmpty() && aim.curve.empty()) s(" {}", {word(K::Action, "axis.edges", tr("Edges that the axis goes by"))});
            if (which.isEmpty()) s(tr(" ({})"), {word(K::Action, "axis.draw", tr("Draw lines in the view"))});
            break;
        case AxisRule::Normals:
            if (which.isEmpty()) s(" {}", {word(K::Action, "axis.faces", tr("Faces that the axis is square to"))});
            break;
        }
    };
    s(tr("Axis {}"), {choice("axis.rule", tr("Where the axis comes from"), rules)});
    aim(a, "axis.", "");
    std::vector<Word::Option> others = rules;
    others.erase(others.begin() + 6); // faces are picked for one aim
    others.insert(others.begin(), {"same", tr("the same")});
    s(tr("; on the last row {}"), {choice("axis.last.rule", tr("Where the axis of the last row comes from"), others)});
    if (a.blended) aim(a.last, "axis.last.", tr("of the last row"));
    s(".");
    for (std::size_t i = 0; i < a.keys.size(); ++i) {
        const QString at = QString("axis.keys.%1.").arg(i);
        s(tr(" At {} (last row {}): {} more lead, {} more tilt {}."),
          {word(K::Number, at + "at", tr("Place of key %1 along the first row").arg(i + 1), 0.05),
           word(K::Number, at + "atLast", tr("Place of key %1 along the last row").arg(i + 1), 0.05), word(K::Angle, at + "lead", tr("Lead of key %1").arg(i + 1)),
           word(K::Angle, at + "tilt", tr("Tilt of key %1").arg(i + 1)),
           choice(at + "off", tr("Keep key %1").arg(i + 1), {{"keep", tr("(key)")}, {"off", tr("take it away")}})});
    }
    s(tr(" Keys: {}."), {choice("axis.key.new", tr("New axis key"),
                                {{"", tr("+ key")},
                                 {"0.0", tr("at the start")},
                                 {"0.25", tr("at a quarter")},
                                 {"0.5", tr("in the middle")},
                                 {"0.75", tr("at three quarters")},
                                 {"1.0", tr("at the end")}})});
    if (a.rule == AxisRule::Surface || a.last.rule == AxisRule::Surface || !a.keys.empty())
        s(tr(" Lead leans {}."), {choice("axis.leads", tr("Which way lead leans on rows that run back"),
                                         {{"feed", tr("ahead of the feed on every row")}, {"pattern", tr("the same way on all rows")}})});
    std::vector<Word::Option> locks{{"", tr("no joint")}};
    if (m_model.place())
        for (const auto& j : m_model.place()->machine->joints)
            if (j.kind == JointKind::Rotary) locks.push_back({QString::fromStdString(j.name), QString::fromStdString(j.name)});
    s(tr(" Evened over {}, at most {} °/mm (0: any), upright within {} of the pole; lock {}"),
      {word(K::Length, "axis.smoothing", tr("Length over which the axis is evened out"), 0.5),
       word(K::Number, "axis.steepest", tr("Largest turn for each millimetre"), 0.5),
       word(K::Angle, "axis.nearPole", tr("Angle to a rotary's pole within which the axis is taken to it"), 0.5),
       choice("axis.locked", tr("Rotary joint that is locked"), locks)});
    if (!a.locked.empty()) s(tr(" at {}"), {word(K::Angle, "axis.lockedAt", tr("Angle of the locked joint"), 1.0)});
    s(tr("; angle to Z {}."),
      {choice(
          "axis.window", tr("Angle to the datum's Z"),
          {{"any", tr("any")}, {"[0.0,30.0]", tr("0° to 30°")}, {"[0.0,60.0]", tr("0° to 60°")}, {"[20.0,90.0]", tr("20° to 90°")}, {"[0.0,90.0]", tr("0° to 90°")}})});
    m_cards[2].sentence->set(s.text, s.words);
}

void RecipePanel::layoutFollow() {
    switch (m_model.recipe()->kind) {
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
    const SwarfSpec& w = m_model.recipe()->swarf;
    Said target;
    target(tr("The cutter's side down {}"), {choice("swarf.from", tr("What tells the wall"), {{"faces", tr("a wall of")}, {"rails", tr("the wall between")}})});
    if (w.fromRails)
        target(tr(" {} below and {} above, on {}"),
               {word(K::Action, "pattern.rail1", tr("Lower rail")), word(K::Action, "pattern.rail2", tr("Upper rail")),
                choice("swarf.otherSide", tr("Side of the rails"), {{"false", tr("the free side")}, {"true", tr("the other side")}})})(
            tr(", held together at {} ({})"), {word(K::Text, "swarf.sync", tr("Sync lines: fraction of the lower and of the upper rail")),
                                               word(K::Action, "swarf.draw", tr("Draw sync lines in the view"))});
    else
        target(" {}", {word(K::Action, "target.faces", tr("Faces of the wall"))});
    target(tr(", {}, with {}, {} out; leave {}."),
           {choice("swarf.flipped", tr("Which end is the lower one"), {{"false", tr("this way up")}, {"true", tr("the other way up")}}), toolWord(),
            word(K::Length, "tool.stickOut", tr("Stick-out of the tool"), 0.5), word(K::Length, "target.leave", tr("Stock to leave"), 0.05)});
    m_cards[0].sentence->set(target.text, target.words);
    Said pattern;
    pattern(tr("The tip {} past the lower end, {} at a time (0: at once); {} stand before it (0: one pass)"),
            {word(K::Length, "swarf.past", tr("How far the tip goes past the lower end"), 0.5), word(K::Length, "swarf.stepdown", tr("Depth of one level"), 0.5),
             word(K::Length, "swarf.thickness", tr("Thickness before the wall"), 0.5)});
    if (w.thickness > 0.0)
        pattern(tr(", taken {} at a time, {}"),
                {word(K::Length, "swarf.stepover", tr("Thickness of one pass"), 0.1),
                 choice("swarf.order", tr("What comes first"), {{"thicknessFirst", tr("over, then down")}, {"depthsFirst", tr("down, then over")}})});
    pattern(tr("; {}; outer corners {}; open ends {} further; a closed wall begins at {} of the way."),
            {choice("swarf.climb", tr("Direction of the cut"), {{"true", tr("climbing")}, {"false", tr("conventional")}}),
             choice("swarf.corner", tr("At outer corners"), {{"roll", tr("rolled around")}, {"stop", tr("stopped at")}, {"loop", tr("looped")}}),
             word(K::Length, "swarf.extend", tr("How far beyond open ends"), 0.5), word(K::Number, "swarf.entry", tr("Place of entry on a closed wall"), 0.05)});
    m_cards[1].sentence->set(pattern.text, pattern.words);
    Said axis;
    axis(tr("The side lies {}; let {} pass; where a floor or corner is in the way of the tip {}."),
         {choice("swarf.twist", tr("How the side lies on twisted walls"), {{"true", tr("where it is least off")}, {"false", tr("on both ends")}}),
          word(K::Length, "swarf.tolerance", tr("Largest deviation that is let pass"), 0.005),
          choice("swarf.floor", tr("What to do where a floor is in the way"), {{"lift", tr("lift it")}, {"report", tr("only tell")}})});
    m_cards[2].sentence->set(axis.text, axis.words);
}

void RecipePanel::layoutCurve() {
    using K = Word::Kind;
    const Recipe& r = *m_model.recipe();
    const CurveSpec& c = r.curve;
    const bool channel = c.by == CurveBy::Channel;
    Word* by = choice("curve.by", tr("What follows the curve"),
                      {{"tip", tr("the tip")}, {"ballCentre", tr("the ball's middle")}, {"side", tr("the side")}, {"channel", tr("the cutter down a channel:")}});
    Said target;
    if (channel)
        target(tr("Lead {} {}"), {by, word(K::Action, "target.faces", tr("Faces of the channel"))});
    else
        target(tr("Lead {} along {}, {}; normals of {}"),
               {by, word(K::Action, "target.edges", tr("Edges to follow")), drawingWord(r), word(K::Action, "target.faces", tr("Faces whose normals count"))});
    target(tr(", with {}, {} out; leave {}."),
           {toolWord(), word(K::Length, "tool.stickOut", tr("Stick-out of the tool"), 0.5), word(K::Length, "target.leave", tr("Stock to leave"), 0.05)});
    m_cards[0].sentence->set(target.text, target.words);
    Said pattern;
    if (channel)
        pattern(tr("From {} over its floor, {} at a time (0: at once)"),
                {word(K::Length, "curve.depth", tr("Height over the floor to begin at"), 0.5), word(K::Length, "curve.stepdown", tr("Depth of one pass"), 0.1)});
    else {
        pattern(tr("{} it"), {choice("curve.side", tr("Side of the curve"), {{"on", tr("On")}, {"left", tr("Left of")}, {"right", tr("Right of")}})});
        if (c.side != CurveSide::On) pattern(tr(" by {}"), {word(K::Length, "curve.offset", tr("Distance to the curve"), 0.1)});
        pattern(tr(", {} along the axis; {} deep, {} at a time (0: at once)"),
                {word(K::Length, "curve.axial", tr("Shift along the axis"), 0.1), word(K::Length, "curve.depth", tr("Depth along the surface's normal"), 0.1),
                 word(K::Length, "curve.stepdown", tr("Depth of one pass"), 0.1)});
        pattern(tr("; from {} to {} of it; closed ones from {}, {} further"),
                {word(K::Number, "curve.from", tr("Start of the part that is cut"), 0.05), word(K::Number, "curve.to", tr("End of the part that is cut"), 0.05),
                 word(K::Number, "curve.entry", tr("Place of entry on a closed curve"), 0.05), word(K::Length, "curve.overlap", tr("Overlap on a closed curve"), 0.5)});
    }
    pattern(tr("; {}, {}."), {choice("curve.reversed", tr("Direction of the curve"), {{"false", tr("as it runs")}, {"true", tr("turned round")}}),
                              choice("curve.backAndForth", tr("Every other pass"), {{"true", tr("back and forth")}, {"false", tr("always this way")}})});
    m_cards[1].sentence->set(pattern.text, pattern.words);
    layoutAxis();
}

void RecipePanel::layoutEdges() {
    using K = Word::Kind;
    const Recipe& r = *m_model.recipe();
    const BreakSpec& e = r.edge;
    const bool ofHoles = e.edges >= BreakEdges::HolesNear;
    Said target;
    target(tr("Break {}"), {choice("edge.edges", tr("Which edges"),
                                   {{"picked", tr("what is picked:")},
                                    {"faces", tr("the edges around")},
                                    {"body", tr("all edges of the body")},
                                    {"holesNear", tr("the near edges")},
                                    {"holesFar", tr("the far edges")},
                                    {"holesBoth", tr("near and far edges")}})});
    if (e.edges == BreakEdges::Picked) target(" {}", {word(K::Action, "target.edges", tr("Edges to break"))});
    if (e.edges == BreakEdges::Faces) target(" {}", {word(K::Action, "target.faces", tr("Faces whose edges are broken"))});
    if (ofHoles) {
        std::vector<Word::Option> groups{{"", tr("all holes")}};
        for (const HoleGroup& g : m_model.holeGroups()) groups.push_back({QString::fromStdString(g.words), QString::fromStdString(g.words)});
        target(tr(" of {} ({})"), {choice("holes.group", tr("Holes"), groups), word(K::Action, "holes", tr("Single holes"))});
    }
    if (e.edges == BreakEdges::Faces || e.edges == BreakEdges::Body) target(tr(" sharper than {}"), {word(K::Angle, "edge.sharper", tr("Least bend of an edge"), 5.0)});
    target(tr(", with {}, {} out."), {toolWord(), word(K::Length, "tool.stickOut", tr("Stick-out of the tool"), 0.5)});
    m_cards[0].sentence->set(target.text, target.words);
    Said pattern;
    pattern(tr("A {} {} in {} rows, {}."),
            {choice("edge.as", tr("Shape of the broken edge"), {{"chamfer", tr("chamfer with legs of")}, {"round", tr("round of radius")}}),
             word(K::Length, "edge.size", tr("Leg or radius"), 0.05), word(K::Number, "edge.rows", tr("Rows of a ball"), 1.0),
             choice("edge.climb", tr("Direction of the cut"), {{"true", tr("climbing")}, {"false", tr("conventional")}})});
    m_cards[1].sentence->set(pattern.text, pattern.words);
    Said axis;
    axis(tr("The axis {}"), {choice("edge.axis", tr("How the axis stands"),
                                    {{"propose", tr("stands as it reaches")}, {"turn", tr("is turned about the edge by")}, {"fixed", tr("stands in one direction")}})});
    if (e.axis == BreakAxis::Turn) axis(" {}", {word(K::Angle, "edge.turn", tr("Turn about the edge, out of the middle"), 5.0)});
    if (e.axis == BreakAxis::Fixed)
        axis(" {} {} {}", {word(K::Number, "edge.direction.0", tr("X of the direction"), 0.1), word(K::Number, "edge.direction.1", tr("Y of the direction"), 0.1),
                           word(K::Number, "edge.direction.2", tr("Z of the direction"), 0.1)});
    axis(".");
    m_cards[2].sentence->set(axis.text, axis.words);
}

void RecipePanel::layoutTravel() {
    using K = Word::Kind;
    const Recipe& r = *m_model.recipe();
    Said links;
    links(tr("Enter by an arc of {}; join gaps under {}; travel over a {}"),
          {word(K::Length, "links.entryRadius", tr("Radius of the entry"), 0.5), word(K::Length, "links.smallGap", tr("Largest gap that is joined"), 0.5),
           choice("links.skin.kind", tr("Safe skin"), {{"plane", tr("plane")}, {"cylinder", tr("cylinder")}, {"sphere", tr("sphere R")}})});
    if (r.link.skin.kind != SkinKind::Sphere) links(tr(" about {}"), {choice("links.skin.axis", tr("Axis of the safe skin"), {{"x", "X"}, {"y", "Y"}, {"z", "Z"}})});
    links(tr(" at {}"), {word(K::Length, "links.skin.size", tr("Size of the safe skin"), 1.0)});
    links(tr("; where the axis stays, {}."),
          {choice("links.low", tr("Between places of one direction"), {{"true", tr("straight across where nothing is near")}, {"false", tr("always out to the skin")}})});
    // What repeats is said with the rest of the way.
    links(tr(" The same again, all {} × about {}."), {word(K::Number, "repeat.count", tr("Times around the axis"), 1.0),
                                                      choice("repeat.axis", tr("Axis that it is repeated around"), {{"x", "X"}, {"y", "Y"}, {"z", "Z"}})});
    m_cards[4].sentence->set(links.text, links.words);
}

} // namespace gyre
