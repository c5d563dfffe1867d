// The recipe of milling on a plane or an unrolled cylinder, as sentences.
#include "panels/RecipePanel.h"
#include "panels/Said.h"

namespace gyre {

namespace {

QString listed(const std::vector<std::string>& names) {
    OrderedJson list = OrderedJson::array();
    for (const std::string& n : names) list.push_back(n);
    return QString::fromStdString(list.dump());
}

QString joinedNames(const std::vector<std::string>& names) {
    QStringList all;
    for (const std::string& n : names) all << QString::fromStdString(n);
    return all.join(", ");
}

} // namespace

QString RecipePanel::millLayoutKey(const Recipe& r) const {
    const auto mend = m_model.followedMend();
    QString key = QString("mill/%1/%2/%3/%4/%5/%6/%7/%8")
                      .arg(millShapeName(r.mill.shape))
                      .arg(static_cast<int>(r.mill.depthBy))
                      .arg(static_cast<int>(r.mill.topBy))
                      .arg(QString::fromStdString(r.mill.on))
                      .arg(static_cast<int>(r.link.skin.kind))
                      .arg(m_model.job().planes.size())
                      .arg(mend ? QString("%1.%2.%3").arg(*mend).arg(static_cast<int>(m_model.job().mends[*mend].kind)).arg(m_model.job().mends[*mend].choice("growth"))
                                : QString())
                      .arg(m_model.sheet() && m_model.sheet()->wrapped);
    for (const Mend& m : m_model.job().mends) key += "/" + QString::fromStdString(m.name);
    for (const std::string& n : r.target.drawings) key += "/" + QString::fromStdString(n);
    for (const WorkPlane& p : m_model.job().planes) key += "/" + QString::fromStdString(p.name);
    return key;
}

Word* RecipePanel::drawingWord(const Recipe& r) {
    std::vector<Word::Option> options{{"[]", tr("+ drawing")}};
    std::vector<std::string> names;
    for (const JobBody& b : m_model.job().bodies)
        if (b.role == "drawing") names.push_back(b.name);
    for (const Mend& m : m_model.job().mends)
        if (m.kind != MendKind::FreedFace) names.push_back(m.name);
    for (const std::string& n : names) options.push_back({listed({n}), QString::fromStdString(n)});
    if (r.target.drawings.size() > 1) options.push_back({listed(r.target.drawings), joinedNames(r.target.drawings)});
    return choice("target.drawings", tr("Drawing or curve to follow"), options);
}

Word* RecipePanel::sheetWord() {
    std::vector<Word::Option> options{{"", tr("what is picked")}};
    for (const WorkPlane& p : m_model.job().planes) options.push_back({QString::fromStdString(p.name), QString::fromStdString(p.name)});
    for (const char* axis : {"X", "Y", "Z"}) options.push_back({QString("round %1").arg(axis), tr("a round about %1").arg(axis)});
    return choice("mill.on", tr("Plane, or axis that the work is wrapped around"), options);
}

void RecipePanel::layoutMill() {
    using K = Word::Kind;
    const Recipe& r = *m_model.recipe();
    const MillShape shape = r.mill.shape;
    const bool wrapped = m_model.sheet() && m_model.sheet()->wrapped;
    Word* what = choice("mill.shape", tr("Kind of milling"),
                        {{"face", tr("Face off")},
                         {"pocket", tr("Clear")},
                         {"outline", tr("Go along")},
                         {"bore", tr("Bore out")},
                         {"follow", tr("Follow")},
                         {"round", tr("Go round")},
                         {"rough", tr("Rough")}});
    Word* faces = word(K::Action, "target.faces", shape == MillShape::Round ? tr("Bosses to keep off") : tr("Faces"));
    Word* edges = word(K::Action, "target.edges", tr("Edges"));
    const auto with = [&]() -> std::vector<Word*> { return {toolWord(), word(K::Length, "tool.stickOut", tr("Stick-out of the tool"), 0.5)}; };
    Word* leave = word(K::Length, "target.leave", tr("Stock to leave"), 0.05);
    Word* leaveFloor = word(K::Length, "mill.leaveFloor", tr("Stock to leave on the floor"), 0.05);
    Said target, pattern, links;
    switch (shape) {
    case MillShape::Face:
        target("{} {} with {}, {} out; leave {}.", {what, faces, toolWord(), word(K::Length, "tool.stickOut", tr("Stick-out of the tool"), 0.5), leaveFloor});
        break;
    case MillShape::Pocket:
    case MillShape::Outline:
        target("{} {}, {}, {} with {}, {} out; leave {} at the walls, {} below.", {what, faces, edges, drawingWord(r)});
        target("", with());
        target("", {leave, leaveFloor});
        break;
    case MillShape::Bore:
        target("{} {} with {}, {} out; leave {}.", {what, faces});
        target("", with());
        target("", {leave});
        break;
    case MillShape::Follow:
        target("{} {}, {} with {}, {} out; leave {} at the walls.", {what, edges, drawingWord(r)});
        target("", with());
        target("", {leave});
        break;
    case MillShape::Round:
        target("{} the whole part, {} off {}, holes {}, with {}, {} out; leave {}.",
               {what, word(K::Length, "mill.bossClearance", tr("Distance to the bosses"), 0.1), faces,
                choice("mill.holes", tr("Holes and ports"), {{"closed", tr("closed over")}, {"open", tr("as they are")}})});
        target("", with());
        target("", {leave});
        break;
    case MillShape::Rough:
        target("{} what stands over {} with {}, {} out; leave {} at walls, {} on floors.", {what, faces});
        target("", with());
        target("", {leave, leaveFloor});
        break;
    }
    // A helix or a sketch is read and changed where it is used.
    if (const auto mend = m_model.followedMend()) {
        const Mend& m = m_model.job().mends[*mend];
        if (m.kind == MendKind::Helix) {
            static constexpr const char* kCentre[] = {"cx", "cy", "cz"};
            target(tr(" The helix: pitch {} {}"), {word(K::Length, "helix.pitch", tr("Pitch"), 0.5),
                                                   choice("helix.growth", tr("Does the pitch change"), {{"0", tr("all along")}, {"1", tr("growing to")}})});
            if (m.choice("growth") == 1) target(" {}", {word(K::Length, "helix.endPitch", tr("Pitch at the end"), 0.5)});
            target(tr(", {} turns, from {} at {}, {}, radius {}."),
                   {word(K::Number, "helix.turns", tr("Turns"), 0.25),
                    word(K::Length, QString("helix.%1").arg(kCentre[m.choice("axis")]), tr("Start along the axis"), 1.0),
                    word(K::Angle, "helix.start", tr("Starting angle"), 5.0), choice("helix.hand", tr("Hand"), {{"0", tr("right-handed")}, {"1", tr("left-handed")}}),
                    word(K::Length, "helix.radius", tr("Radius"), 0.5)});
        } else if (m.choice("on") >= 3 && m.choice("on") < 6) {
            target(tr(" Drawn through {} (along, degrees) at radius {}, {}."),
                   {word(K::Text, "sketch.points", tr("Points: along the axis and degrees around")), word(K::Length, "helix.radius", tr("Radius"), 0.5),
                    choice("helix.ends", tr("Ends"), {{"0", tr("open")}, {"1", tr("closed")}})});
        } else {
            target(tr(" Drawn through {}, {}."),
                   {word(K::Text, "sketch.points", tr("Points: two coordinates each")), choice("helix.ends", tr("Ends"), {{"0", tr("open")}, {"1", tr("closed")}})});
        }
    }
    m_cards[0].sentence->set(target.text, target.words);

    Word* stepover = word(K::Length, "mill.stepover", tr("Distance between passes"), 0.1);
    Word* stepdown = word(K::Length, "mill.stepdown", tr("Depth of one level"), 0.1);
    Word* climb = choice("mill.climb", tr("Direction of the cut"), {{"true", tr("climbing")}, {"false", tr("conventional")}});
    Word* passes = word(K::Number, "mill.passes", tr("Passes beside each other"), 1.0);
    Word* beyond = word(K::Length, "mill.beyond", tr("How far beyond the lower end"), 0.1);
    switch (shape) {
    case MillShape::Face:
        pattern(tr("Strokes {} apart, along {}"), {stepover, word(K::Angle, "mill.along", tr("Direction of the strokes"), 15.0)});
        break;
    case MillShape::Pocket:
        pattern(tr("Rings {} apart, {}"), {stepover, climb});
        if (wrapped) pattern(tr(", a scallop of {} at most around (0: any)"), {word(K::Length, "mill.scallop", tr("Scallop on the round floor"), 0.005)});
        break;
    case MillShape::Outline:
        pattern(tr("{} beside each other, {} apart, {} the line, {}"),
                {passes, stepover,
                 choice("mill.side", tr("Side of the line"), {{"inside", tr("inside")}, {"outside", tr("outside")}, {"left", tr("left of")}, {"right", tr("right of")}}),
                 climb});
        break;
    case MillShape::Bore:
        pattern(tr("Helices {} apart, {}, falling {} a turn"), {stepover, climb, stepdown});
        break;
    case MillShape::Follow:
        pattern(tr("A groove {} wide (0: as the cutter)"), {word(K::Length, "mill.width", tr("Width of the groove"), 0.1)});
        if (r.mill.width > 0.0 || wrapped)
            pattern(tr(", measured {}"), {choice("mill.widthAlong", tr("How the width is measured"), {{"false", tr("square to it")}, {"true", tr("along the axis")}})});
        pattern(tr(", passes {} apart, {}"), {stepover, climb});
        break;
    case MillShape::Round:
        pattern(tr("In {} {} apart, {}, from {} to {} along the axis (equal: all of it)"),
                {choice("mill.lines", tr("Way over the round"), {{"rings", tr("rings")}, {"spiral", tr("one spiral")}, {"lines", tr("strokes lengthwise")}}), stepover,
                 climb, word(K::Length, "mill.from", tr("Start along the axis"), 1.0), word(K::Length, "mill.to", tr("End along the axis"), 1.0)});
        break;
    case MillShape::Rough:
        pattern(tr("Fronts {} wide, {}"), {stepover, climb});
        break;
    }
    std::vector<Word::Option> tops{{"geometry", shape == MillShape::Follow  ? tr("the curve")
                                                : shape == MillShape::Rough ? tr("the stock's top")
                                                                            : tr("the top of the walls")}};
    if (shape != MillShape::Rough && shape != MillShape::Follow && shape != MillShape::Bore) tops.push_back({"stock", tr("the stock")});
    tops.push_back({"typed", tr("a height of")});
    pattern(tr("; from {}"), {choice("mill.topBy", tr("Where the cut begins"), tops)});
    if (r.mill.topBy == MillTop::Typed) pattern(" {}", {word(K::Length, "mill.top", tr("Height where the cut begins"), 0.5)});
    std::vector<Word::Option> depths;
    if (shape == MillShape::Rough)
        depths = {{"geometry", tr("the plane")}, {"typed", tr("a depth of")}};
    else if (shape == MillShape::Bore)
        depths = {{"geometry", tr("its end")}, {"typed", tr("a depth of")}};
    else if (shape == MillShape::Follow)
        depths = {{"typed", tr("a depth of")}, {"model", tr("the model, at most")}, {"profile", tr("a profile")}};
    else
        depths = {{"geometry", tr("the floor")}, {"typed", tr("a depth of")}, {"model", tr("the model, at most")}, {"profile", tr("a profile")}};
    if (shape != MillShape::Round) {
        pattern(tr(" down to {}"), {choice("mill.depthBy", tr("What the depth goes by"), depths)});
        if (r.mill.depthBy == MillDepth::Typed || r.mill.depthBy == MillDepth::Model) pattern(" {}", {word(K::Length, "mill.depth", tr("Depth"), 0.25)});
        if (r.mill.depthBy == MillDepth::Profile) pattern(" {}", {word(K::Action, "target.profile", tr("Edges of the profile"))});
    } else {
        pattern(tr(" down to the model"));
    }
    if (shape != MillShape::Bore) pattern(tr(", {} at a time (0: at once)"), {stepdown});
    if (shape == MillShape::Bore || shape == MillShape::Outline) pattern(tr(", {} beyond"), {beyond});
    pattern(".");
    m_cards[1].sentence->set(pattern.text, pattern.words);

    Said axis;
    if (wrapped) {
        axis(tr("Unrolled from {} at radius {} (0: as picked); "), {sheetWord(), word(K::Length, "mill.radius", tr("Radius it is unrolled at"), 0.5)});
        if (shape == MillShape::Round)
            axis(tr("the tool stands along the radius."));
        else
            axis("{}.", {choice("mill.parallel", tr("How walls stand"),
                                {{"true", tr("walls parallel, as a follower makes them")}, {"false", tr("the tool always along the radius")}})});
    } else if (shape == MillShape::Bore) {
        axis(tr("The tool stands along each bore."));
    } else {
        axis(tr("The tool stands square to {}."), {sheetWord()});
    }
    std::vector<Word::Option> others{{"[]", tr("no other plane")}};
    std::vector<std::string> all;
    for (const WorkPlane& p : m_model.job().planes)
        if (p.name != r.mill.on) {
            others.push_back({listed({p.name}), QString::fromStdString(p.name)});
            all.push_back(p.name);
        }
    if (all.size() > 1) others.push_back({listed(all), tr("all other planes")});
    if (!r.repeat.planes.empty() && r.repeat.planes.size() != 1 && r.repeat.planes != all) others.push_back({listed(r.repeat.planes), joinedNames(r.repeat.planes)});
    axis(tr(" The same again on {}, and all {} × about {}."),
         {choice("repeat.planes", tr("Other planes with the same work"), others), word(K::Number, "repeat.count", tr("Times around the axis"), 1.0),
          choice("repeat.axis", tr("Axis that it is repeated around"), {{"x", "X"}, {"y", "Y"}, {"z", "Z"}})});
    m_cards[2].sentence->set(axis.text, axis.words);
    layoutGuard();

    if (shape != MillShape::Round && shape != MillShape::Bore)
        links(tr("Come down by {} at {}; "),
              {choice("mill.entry", tr("How the cutter comes down"), {{"helix", tr("a helix")}, {"ramp", tr("a ramp")}, {"plunge", tr("plunging")}}),
               word(K::Angle, "mill.rampDegrees", tr("Slope of helix or ramp"), 0.5)});
    if (shape == MillShape::Outline) links(tr("touch walls by an arc of {}; "), {word(K::Length, "links.entryRadius", tr("Radius of the entry"), 0.5)});
    links(tr("join gaps under {}; travel over a {}"),
          {word(K::Length, "links.smallGap", tr("Largest gap that is joined"), 0.5),
           choice("links.skin.kind", tr("Safe skin"), {{"plane", tr("plane")}, {"cylinder", tr("cylinder")}, {"sphere", tr("sphere R")}})});
    if (r.link.skin.kind != SkinKind::Sphere) links(tr(" about {}"), {choice("links.skin.axis", tr("Axis of the safe skin"), {{"x", "X"}, {"y", "Y"}, {"z", "Z"}})});
    links(tr(" at {}."), {word(K::Length, "links.skin.size", tr("Size of the safe skin"), 1.0)});
    m_cards[4].sentence->set(links.text, links.words);
}

} // namespace gyre
