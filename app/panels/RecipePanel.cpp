#include "panels/RecipePanel.h"
#include "Units.h"
#include "axis/AxisSpec.h"
#include "form/Form.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "milling/Sheet.h"
#include "model/Along.h"
#include "model/Fits.h"
#include "model/Holes.h"
#include "model/Mending.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "model/Route.h"
#include "model/RowsAhead.h"
#include "model/StandStill.h"
#include "motion/PointsSpec.h"
#include "operation/OperationResult.h"
#include "operation/RecipeForm.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "stock/FeedByCut.h"
#include "target/TargetSpec.h"
#include "tool/Library.h"
#include <QScrollArea>
#include <QSet>
#include <QStyle>

namespace gyre {

RecipePanel::RecipePanel(OpenJob& open, const RecipeParts& parts, QWidget* parent) : QWidget(parent), m_open(open), m_parts(parts) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 12, 12, 8);
    outer->setSpacing(8);
    m_heading = new QLabel(this);
    m_heading->setProperty("role", "heading");
    m_heading->setObjectName("recipeHeading");
    m_fold = new QPushButton(this);
    m_fold->setProperty("role", "fold");
    m_fold->setObjectName("recipeFold");
    m_fold->setAccessibleName(tr("Only the stage in hand, or all stages"));
    m_fold->setToolTip(m_fold->accessibleName());
    connect(m_fold, &QPushButton::clicked, this, [this] { setOnlyStage(!m_onlyStage); });
    auto* head = new QHBoxLayout;
    head->addWidget(m_heading, 1);
    head->addWidget(m_fold);
    outer->addLayout(head);
    m_verdict = new QPushButton(this);
    m_verdict->setProperty("role", "verdict");
    m_verdict->setObjectName("verdict");
    m_verdict->setCursor(Qt::PointingHandCursor);
    m_verdict->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(m_verdict, &QPushButton::clicked, this, &RecipePanel::followVerdict);
    outer->addWidget(m_verdict);
    auto* scroll = m_scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    auto* inside = new QWidget;
    auto* column = new QVBoxLayout(inside);
    column->setContentsMargins(0, 0, 4, 0);
    column->setSpacing(6);
    for (int i = 0; i < kStages; ++i) {
        StageCard*& c = m_cards[static_cast<std::size_t>(i)];
        c = new StageCard(m_open, static_cast<Stage>(i), inside);
        connect(c, &StageCard::peeled, this, [this, i] {
            m_open.setPeel(static_cast<Stage>(i));
            refreshPeel();
        });
        column->addWidget(c);
    }
    column->addStretch();
    scroll->setWidget(inside);
    outer->addWidget(scroll, 1);
    connect(&m_open, &OpenJob::jobChanged, this, &RecipePanel::refreshWords);
    connect(&m_open, &OpenJob::selectionChanged, this, &RecipePanel::refreshWords);
    connect(&m_open, &OpenJob::placeChanged, this, &RecipePanel::refreshWords);
    connect(&m_parts.picks, &Picks::modeChanged, this, &RecipePanel::refreshWords);
    connect(&m_open, &OpenJob::resultChanged, this, &RecipePanel::refreshResults);
    connect(&m_open, &OpenJob::proofChanged, this, &RecipePanel::refreshResults);
    connect(&m_open, &OpenJob::computingChanged, this, &RecipePanel::refreshResults);
    connect(&m_open, &OpenJob::peelChanged, this, &RecipePanel::refreshPeel);
    refreshWords();
    refreshPeel();
}

namespace {
/// The words that make most of the difference stand out of their sentences.
bool matters(const QString& key) {
    static const QSet<QString> heavy{"tool",       "pattern.spacing", "pattern.scallop", "axis.lead",   "axis.tilt", "mill.stepover", "mill.stepdown", "mill.depth",
                                     "swarf.past", "swarf.stepdown",  "curve.offset",    "curve.depth", "edge.size", "drill.depth",   "drill.cycle"};
    return heavy.contains(key);
}
} // namespace

Word* RecipePanel::word(Word::Kind kind, const QString& key, const QString& name, double step) {
    Word*& w = m_words[key];
    if (!w) {
        w = new Word(kind, key, name, this);
        w->hide();
        if (step > 0.0) w->setStep(step);
        w->setHeavy(matters(key));
        connect(w, &Word::entered, this, &RecipePanel::wordEntered);
        connect(w, &Word::changed, this, &RecipePanel::changed);
        connect(w, &Word::triggered, this, &RecipePanel::triggered);
        connect(w, &Word::listed, this, [this](const QString& k, const QString& numbers) { (void)m_parts.picks.setNumbers(k, numbers); });
        connect(w, &Word::hovered, this, &RecipePanel::wordHovered);
        connect(w, &Word::offered, this, [this](const QString& k, const QString& value) {
            if (value.isEmpty() || value == m_open.word(k)) return m_parts.rowsAhead.drop();
            m_parts.rowsAhead.ask(k, value);
        });
        connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
    }
    return w;
}

Word* RecipePanel::choice(const QString& key, const QString& name, std::vector<Word::Option> options) {
    Word* w = word(Word::Kind::Choice, key, name);
    w->setOptions(std::move(options));
    return w;
}

Word* RecipePanel::formWord(const QString& key) {
    using K = Word::Kind;
    if (key == "tool") return toolWord();
    if (key == "mill.on") return sheetWord();
    if (key == "target.drawings") return drawingWord(*m_open.recipe());
    if (key == "pattern.curve") return curveWord(key, tr("Drawing or curves that rows follow"), tr("+ drawing"), m_open.recipe()->pattern->curve);
    if (key == "pattern.beside") return beforeWord(key, tr("Operations before this one whose last rows these begin at"), m_open.recipe()->pattern->beside, tr("(none)"));
    if (key == "where.notBy")
        return beforeWord(key, tr("Operations before this one: what they cut is left to them"), m_open.recipe()->where->notBy, tr("whatever others cut"));
    if (key == "where.plane") return planeWord(key, tr("Work plane that bounds the rows"), m_open.recipe()->where->plane);
    if (key == "where.curve") return curveWord(key, tr("Drawing or curve that bounds the rows"), tr("+ drawing"), m_open.recipe()->where->curve);
    const bool ofTool = key.startsWith("tool.");
    const std::string path = (ofTool ? key.mid(5) : key).toStdString();
    const WordInfo* info = wordAt(ofTool ? toolWords() : recipeWords(m_open.recipe()->kind), path);
    if (!info) return word(K::Action, key, key); // what is done, not said: "swarf.draw"
    QString what = tr(info->what.c_str());
    if (info->kind == WordKind::Vector || info->kind == WordKind::Place)
        what = tr("%1 of the %2").arg(QStringLiteral("XYZ").mid(key.section('.', -1).toInt(), 1), what.left(1).toLower() + what.mid(1));
    static const std::map<WordKind, std::pair<K, double>> kKinds{
        {WordKind::Length, {K::Length, 0.5}}, {WordKind::Angle, {K::Angle, 0.0}},   {WordKind::Number, {K::Number, 0.05}}, {WordKind::Count, {K::Number, 1.0}},
        {WordKind::Flag, {K::Choice, 0.0}},   {WordKind::Choice, {K::Choice, 0.0}}, {WordKind::Text, {K::Text, 0.0}},      {WordKind::Vector, {K::Number, 0.1}},
        {WordKind::Place, {K::Length, 1.0}},  {WordKind::List, {K::Action, 0.0}}};
    const auto& [kind, step] = kKinds.at(info->kind);
    Word* w = word(kind, key, what, info->step > 0.0 ? info->step : step);
    w->setToolTip(what);
    w->setAccessibleName(what);
    if (kind == K::Choice) {
        std::vector<Word::Option> options;
        for (const WordOption& o : info->options) options.push_back({QString::fromStdString(o.id), tr(o.label.c_str())});
        w->setOptions(std::move(options));
    }
    return w;
}

void RecipePanel::say(Said& s, const QString& text, const std::vector<Word*>& with) {
    std::size_t next = 0;
    QString plain;
    std::vector<Word*> words;
    for (qsizetype at = 0; at < text.size();) {
        const qsizetype open = text.indexOf('{', at), close = open < 0 ? -1 : text.indexOf('}', open);
        if (close < 0) {
            plain += text.mid(at);
            break;
        }
        plain += text.mid(at, open - at) + "{}";
        const QString key = text.mid(open + 1, close - open - 1);
        words.push_back(key.isEmpty() ? with.at(next++) : formWord(key));
        at = close + 1;
    }
    s(plain, words);
}

namespace {
QString countedPicks(std::size_t n, const QString& none, const QString& one, const QString& many) { return n == 0 ? none : n == 1 ? one : many.arg(n); }
} // namespace

bool RecipePanel::picking(const QString& key) const {
    if (m_parts.picks.mode() == PickMode::Feature) {
        const QString& now = m_parts.picks.feature().key;
        return key == "holes"          ? now == "holes"
               : key == "swarf.draw"   ? now == "swarf.sync"
               : key == "helix.around" ? now == "groove.around"
                                       : key == "axis.draw" && now.endsWith(".spots");
    }
    const PickWord* word = pickWord(key);
    return word && m_parts.picks.mode() == word->mode;
}

void RecipePanel::changed(const QString& key, const QString& value) {
    m_parts.rowsAhead.drop(); // it is chosen
    if (key == "holes.group")
        m_parts.holes.set(m_open.selected(), value);
    else if (key == "axis.window" && value == "any")
        m_open.change(tr("any angle"), [&](Job& j) { j.operation(m_open.selected().toStdString())->axis->limited = false; });
    else if (key == "pattern.beside")
        beginBeside(value);
    else if (key == "pattern.curve" || key == "pattern.kind")
        setPattern(key, value);
    else if (key == "axis.key.new")
        m_parts.along.addKey(value.toDouble());
    else if (key == "swarf.sync") {
        if (const QString list = syncList(value); !list.isEmpty())
            (void)m_open.setWord(key, list);
        else
            emit m_open.toldUser(tr("Two fractions for each line, as in 0.25 0.3; 0.5 0.5"));
    } else if (key == "edge.edges" || key == "curve.by" || key == "swarf.from")
        m_parts.along.setWord(key, value);
    else if (key.startsWith("axis.keys.") && key.endsWith(".off"))
        m_parts.along.removeKey(key.section('.', 2, 2).toULong());
    else if (key == "mill.shape")
        m_parts.milling.setShape(value);
    else if (m_open.recipe() && m_open.recipe()->kind == OperationKind::Mill && (key == "mill.on" || key == "target.drawings" || key.startsWith("repeat.")))
        m_parts.milling.setStanding(key, value);
    else if ((key == "axis.curve" || key == "axis.last.curve") && value == kRaisedMiddle)
        m_parts.along.addAxisMiddle(key);
    else if (const auto middle = m_parts.along.axisMiddle(); middle && key.startsWith("middle."))
        m_parts.mending.setNumber(*middle, key.mid(7), value.toDouble());
    else if (key == "helix.axis")
        m_parts.milling.turnGroove(value.toInt());
    else if (const auto mend = m_parts.milling.followedMend(); mend && key.startsWith("helix."))
        m_parts.mending.setNumber(*mend, key.mid(6), value.toDouble());
    else if (mend && key == "sketch.points")
        (void)m_parts.mending.setPoints(*mend, value);
    else
        (void)m_open.setWord(key, value);
}

// One more group, and straight on to its faces; or one less.
void RecipePanel::changeChecks(bool more) {
    m_parts.picks.setMode(PickMode::None);
    m_open.change(more ? tr("check faces") : tr("no check faces"), [&](Job& j) {
        auto& checks = j.operation(m_open.selected().toStdString())->checks;
        if (more)
            checks.emplace_back();
        else if (!checks.empty())
            checks.pop_back();
    });
    if (!more || !m_open.recipe()) return;
    if (const PickWord* word = pickWord(QString("checks.%1.faces").arg(m_open.recipe()->checks.size() - 1))) m_parts.picks.setMode(word->mode);
}

void RecipePanel::triggered(const QString& key) {
    if (key == "holes.of") return m_open.select(QString::fromStdString(m_open.recipe()->parent)); // edited once, there
    if (key == "holes") return m_parts.holes.pick();
    if (key == "swarf.draw") return m_parts.along.drawSyncLines();
    if (key == "axis.draw") return m_parts.along.drawAxisLines();
    if (key == "guard.directions") return m_parts.standStill.toggle();
    if (key == "guard.assemblies") return m_parts.fits.toggle();
    if (key == "checks.new" || key == "checks.fewer") return changeChecks(key == "checks.new");
    if (key == "helix.around") return m_parts.picks.ask({PickKind::Faces, "groove.around", tr("Click the cylinder that the groove goes around · Esc")});
    const PickWord* list = pickWord(key);
    if (!list) return;
    const PickMode mode = list->mode;
    m_parts.picks.setMode(m_parts.picks.mode() == mode ? PickMode::None : mode);
}

// What stands where faces may be picked and none are.
QString RecipePanel::noFaces(const Recipe& r) {
    if (r.kind == OperationKind::Mill && (r.mill->shape == MillShape::Rough || r.mill->shape == MillShape::Body)) return tr("all of it");
    if (r.kind == OperationKind::Mill && r.mill->shape == MillShape::Round) return tr("no bosses");
    const bool optional =
        r.kind == OperationKind::Mill ? !r.target->edges.empty() || !r.target->drawings.empty() : r.kind == OperationKind::Curve && r.curve->by != CurveBy::Channel;
    return optional ? tr("+ faces") : tr("pick faces");
}

void RecipePanel::put(Stage stage, const Said& usual, const Said& rare) { m_cards[static_cast<std::size_t>(stage)]->say(usual, rare); }

void RecipePanel::sayTool(Said& s) { say(s, tr(" with {tool}, stick-out {tool.stickOut}, stock to leave {target.leave}")); }

void RecipePanel::sayFeed(Said& s) {
    if (m_open.recipe()->kind == OperationKind::HoleStep) return say(s, tr("Feed {feed} a minute (0: as the tool has it)."));
    const bool follows = m_open.recipe()->feedByCut->on;
    say(s, follows ? tr("Feed {feed} a minute (0: as the tool has it), {feedByCut.on} within {feedByCut.least} % and {feedByCut.most} % of it.")
                   : tr("Feed {feed} a minute (0: as the tool has it), {feedByCut.on}."));
    say(s, m_open.recipe()->points->how == AtPoints::Smoothed ? tr(" At points the control {points.how}, within {points.within}.")
                                                              : tr(" At points the control {points.how}."));
}

void RecipePanel::sayFineness(Said& s) { say(s, tr(" Points within {pattern.chordTolerance} of the true way, {pattern.longestStep} apart at most.")); }

void RecipePanel::saySkin(Said& s) {
    say(s, tr(" over a {links.skin.kind}"));
    if (m_open.recipe()->link->skin.kind != SkinKind::Sphere) say(s, tr(" about {links.skin.axis}"));
    say(s, tr(" at {links.skin.size}"));
}

Word* RecipePanel::toolWord() {
    std::vector<Word::Option> tools;
    for (const Assembly& a : m_open.job().tools)
        tools.push_back({QString::fromStdString(a.id),
                         inUnits(QString::fromStdString(shortName(a.cutter) + (a.cutter.shankDiameter > 0 && a.id.find("long") != std::string::npos ? ", long" : "")),
                                 m_open.inches())});
    return choice("tool", tr("Tool"), tools);
}

QString RecipePanel::groupOf(const Recipe& r) const {
    for (const HoleGroup& g : m_parts.holes.groups())
        if (m_open.place() && !r.holes.empty() && g.holes.size() == r.holes.size() &&
            (m_open.place()->holes[g.holes.front()].mouth - r.holes.front().mouth).norm() < 0.05)
            return QString::fromStdString(g.words);
    return {};
}

// Which holes, and what all steps in them share.
void RecipePanel::layoutHoles() {
    using K = Word::Kind;
    std::array<Said, kStages> said;
    say(said[0], tr("Work on {} ({}), in the order {drill.order}."), {groupWord(), word(K::Action, "holes", tr("Single holes"))});
    say(said[1], tr("Feed starts {drill.above} over the mouth; go {drill.breakthrough} beyond the end of through holes."));
    say(said[2], tr("The tool stands along each hole. Holes are turned round in Set up."));
    say(said[3], tr("Shank {guard.shank}, holder {guard.holder} clear; if not, {}."),
        {choice("guard.response", tr("What to do when too near"), {{"report", tr("only tell")}, {"drop", tr("leave the hole out")}})});
    say(said[4], tr("Travel over a {links.skin.kind}"));
    if (m_open.recipe()->link->skin.kind != SkinKind::Sphere) say(said[4], tr(" about {links.skin.axis} at"));
    say(said[4], tr(" {links.skin.size}; between holes of one direction {links.low}."));
    for (std::size_t c = 0; c < said.size(); ++c) put(static_cast<Stage>(c), said[c]);
}

// One tool with one cycle.
void RecipePanel::layoutStep() {
    using K = Word::Kind;
    const Recipe& r = *m_open.recipe();
    const Cycle c = r.drill->cycle;
    Said target, pattern;
    say(target, tr("In {} with {tool}, stick-out {tool.stickOut}."), {word(K::Action, "holes.of", tr("Holes of the operation"))});
    Said feed;
    sayFeed(feed);
    put(Stage::Target, target, feed);
    const bool cone = c == Cycle::Spot || c == Cycle::Chamfer, pecks = c == Cycle::Peck || c == Cycle::ChipBreak;
    say(pattern, tr("{drill.cycle} to {}"),
        {choice("drill.by", tr("Where the depth comes from"),
                {{"hole", cone ? tr("an edge wider than the hole by") : tr("the end of the hole")}, {"depth", tr("a depth of")}})});
    if (!r.drill->toGeometry)
        say(pattern, " {drill.depth}");
    else if (cone)
        say(pattern, " {drill.widen}");
    if (!cone && c != Cycle::Tap) say(pattern, tr(", reached with {drill.reached}"));
    if (pecks) say(pattern, tr(", {drill.peck} at a time"));
    if (c == Cycle::Tap) say(pattern, tr(", pitch {drill.pitch}"));
    if (c != Cycle::Tap && !pecks) say(pattern, tr(", wait {drill.dwell} s"));
    say(pattern, ".");
    Said rare;
    say(rare, tr("Written as {drill.canned}; a tool that does not suit is {drill.anyTool}."));
    put(Stage::Pattern, pattern, rare);
    const Recipe* parent = m_open.job().operation(r.parent);
    const QString as = tr("As for all steps of “%1”.").arg(parent ? QString::fromStdString(parent->name) : QString());
    for (const Stage stage : {Stage::Axis, Stage::Guard, Stage::Links}) put(stage, {as, {}});
}

// How what stands under it is divided.
void RecipePanel::layoutSlices() {
    Said target;
    say(target, tr("Cut slice by slice along {slices.axis}, from the free end at {slices.from} to {slices.to}, each {slices.thickness} thick at most"));
    say(target, tr(" and {slices.overlap} into the next."));
    put(Stage::Target, target);
    Said order;
    order(tr("In each slice every operation that stands in it, in their order; then the next slice. What lies beyond the last slice belongs to it."));
    put(Stage::Pattern, order);
    for (const Stage stage : {Stage::Axis, Stage::Guard, Stage::Links}) put(stage, {tr("As each operation says."), {}});
}

Word* RecipePanel::groupWord() {
    std::vector<Word::Option> groups{{"", tr("all holes")}};
    for (const HoleGroup& g : m_parts.holes.groups()) groups.push_back({QString::fromStdString(g.words), QString::fromStdString(g.words)});
    return choice("holes.group", tr("Holes"), groups);
}

/// The sentences are laid out anew when this changes.
QString RecipePanel::layoutKey(const Recipe& r) const {
    const QString own = follows(r.kind)                    ? alongLayoutKey(r)
                        : r.kind == OperationKind::Mill    ? millLayoutKey(r)
                        : r.kind == OperationKind::Surface ? surfaceLayoutKey(r)
                                                           : QString();
    return QString("%1/%2/%3/%4/%5/%6/%7/%8")
               .arg(m_open.selected())
               .arg(own)
               .arg(10 * static_cast<int>(r.pattern->kind) + static_cast<int>(r.pattern->by))
               .arg(m_open.job().tools.size() * 2 + (m_open.inches() ? 1 : 0))
               .arg(static_cast<int>(r.drill->cycle))
               .arg(r.drill->toGeometry)
               .arg(static_cast<int>(r.link->skin.kind))
               .arg(m_parts.holes.groups().size()) +
           (r.feedByCut->on ? "/by the cut" : "") + (r.points->how == AtPoints::Smoothed ? "/rounded" : "") + guardLayoutKey(r);
}

void RecipePanel::layOut(const Recipe& r) {
    if (r.kind == OperationKind::Surface)
        layoutSentences();
    else if (r.kind == OperationKind::Holes)
        layoutHoles();
    else if (r.kind == OperationKind::Slices)
        layoutSlices();
    else if (r.kind == OperationKind::Mill)
        layoutMill();
    else if (follows(r.kind))
        layoutAlong();
    else
        layoutStep();
}

/// What is picked for a word, in words; empty for a word of another kind.
QString RecipePanel::pickedWords(const QString& key, const Recipe& r) const {
    const auto edges = [](const auto& refs, const QString& none) { return countedPicks(refs.size(), none, tr("1 edge"), tr("%1 edges")); };
    const auto faces = [](const auto& refs, const QString& none) { return countedPicks(refs.size(), none, tr("1 face"), tr("%1 faces")); };
    if (key == "holes.of") return tr("%1 holes").arg(m_open.job().resolved(r).holes.size());
    if (key == "holes") return tr("pick them");
    if (key == "target.faces") return faces(r.target->faces, noFaces(r));
    if (key == "axis.faces") return faces(r.axis->faces, tr("pick faces"));
    if (key == "axis.edges") return edges(r.axis->edges, tr("pick edges"));
    if (key == "target.profile") return edges(r.target->profile, tr("pick its edges"));
    if (key == "target.edges") {
        const bool first = follows(r.kind) || (r.mill->shape == MillShape::Follow && r.target->drawings.empty());
        return edges(r.target->edges, first ? tr("pick edges") : tr("+ edges"));
    }
    if (key == "pattern.rail1" || key == "pattern.rail2") {
        const auto& rail = key == "pattern.rail1" ? r.pattern->rail1 : r.pattern->rail2;
        if (r.kind == OperationKind::Swarf) return edges(rail, tr("pick edges"));
        const QString name = key == "pattern.rail1" ? tr("rail 1") : tr("rail 2");
        return rail.empty() ? tr("%1 (none)").arg(name) : name;
    }
    if (key == "pattern.guides") {
        const PatternBy kind = r.pattern->kind;
        return edges(r.pattern->guides, kind == PatternBy::Rails ? tr("no edges between") : kind == PatternBy::Passage ? tr("nothing between") : tr("+ edges"));
    }
    if (key == "where.edges") return edges(r.where->edges, tr("+ edges"));
    if (key == "where.faces") return faces(r.where->faces, tr("+ the outline of faces"));
    if (key == "helix.around") return tr("another cylinder");
    if (key == "guard.directions") return tr("Would fewer directions do?");
    if (key == "guard.assemblies") return tr("Which assemblies reach it?");
    if (key == "checks.new") return r.checks.empty() ? tr("check faces") : tr("+ another group");
    if (key == "checks.fewer") return tr("− the last group");
    if (key.startsWith("checks.") && key.endsWith(".faces")) {
        const PickWord* word = pickWord(key);
        return faces(word ? word->of(r) : std::vector<ShapeRef>{}, tr("pick faces"));
    }
    return key.endsWith(".draw") ? tr("draw") : QString();
}

void RecipePanel::showWord(const QString& key, Word* w, const Recipe& r) {
    const auto middle = m_parts.along.axisMiddle(), mend = m_parts.milling.followedMend();
    const auto ofMend = [&](std::size_t i, const QString& number) {
        w->show(QString::number(m_open.job().mends[i].number(number.toUtf8().constData()), 'g', 12), m_open.inches());
    };
    if (const QString picked = pickedWords(key, r); !picked.isEmpty()) {
        w->setWords(picked);
    } else if (key == "holes.group") {
        w->show(groupOf(r), false);
        w->setWords(r.kind == OperationKind::Edge && r.holes.empty() ? tr("all holes") : tr("%1 holes").arg(r.holes.size()));
    } else if (key == "swarf.sync")
        w->show(syncText(r.swarf), false);
    else if (key == "axis.key.new")
        w->show("", false);
    else if (key.startsWith("axis.keys.") && key.endsWith(".off"))
        w->show("keep", false);
    else if (middle && key.startsWith("middle."))
        ofMend(*middle, key.mid(7));
    else if (mend && key.startsWith("helix."))
        ofMend(*mend, key.mid(6));
    else if (mend && key == "sketch.points")
        w->show(QString::fromStdString(sketchText(m_open.job().mends[*mend].points)), false);
    else if (key == "axis.window" && !r.axis->limited)
        w->show("any", false);
    else
        w->show(m_open.word(key), m_open.inches() && !key.startsWith("axis.direction"));
    if (w->kind() != Word::Kind::Action) return;
    if (key != "holes.of" && key != "guard.assemblies" && key != "guard.directions" && key != "checks.new" && key != "checks.fewer" && !key.endsWith(".draw")) {
        w->setList(m_parts.picks.numbers(key));
        w->setToolTip(tr("%1: click to pick, F2 for their numbers").arg(w->accessibleName()));
    }
    w->setChecked(picking(key));
}

void RecipePanel::refreshWords() {
    const Recipe* r = m_open.recipe();
    for (StageCard* c : m_cards) c->setVisible(r != nullptr);
    m_verdict->setVisible(r != nullptr);
    if (!r) {
        m_heading->setText(m_open.hasJob() ? tr("NO OPERATION YET") : tr("NO JOB"));
        return;
    }
    m_heading->setText(QString("%1 · %2").arg(m_parts.route.numberOf(*r), QString::fromStdString(r->name).toUpper()));
    if (const QString shape = layoutKey(*r); shape != m_shape) {
        layOut(*r);
        m_shape = shape;
    }
    for (auto& [key, w] : m_words) showWord(key, w, *r);
    for (StageCard* c : m_cards) c->reflow();
    countRare();
    refreshResults();
}

// Rare words that are not as they come are counted where they are folded away.
void RecipePanel::countRare() {
    const FormInfo& form = recipeWords(m_open.recipe()->kind);
    for (StageCard* card : m_cards) {
        int changed = 0;
        for (const Word* w : card->findChildren<Word*>()) {
            const WordInfo* info = wordAt(form, w->key().toStdString());
            if (!card->isRare(w) || !info || info->initial.is_null()) continue;
            const QString initial = info->initial.is_string() ? QString::fromStdString(info->initial.get<std::string>()) : QString::fromStdString(info->initial.dump());
            bool numbers = false;
            const double usual = initial.toDouble(&numbers);
            changed += numbers ? std::abs(w->value().toDouble() - usual) > 1e-9 : w->value() != initial;
        }
        card->setRareChanged(changed);
    }
}

void RecipePanel::refreshResults() {
    const auto result = m_open.result();
    const Recipe* r = m_open.recipe();
    // The clearances are measured last: until then the findings of before stand, as what is looked at again.
    const bool early = result && result->complete() && result->shankClearance.empty() && m_open.computing();
    const bool old = result && (m_open.stale() || early);
    if (r && (!old || m_told != m_open.selected())) m_findings = result ? result->findings : std::vector<Finding>{};
    m_told = m_open.selected();
    for (int i = 0; i < kStages; ++i) {
        StageCard* c = m_cards[static_cast<std::size_t>(i)];
        const Stage stage = static_cast<Stage>(i);
        c->setFacts(result ? QString::fromStdString(result->facts(stage)) : QString(), old);
        std::vector<Finding> here;
        for (const Finding& f : m_findings)
            if (f.stage == stageName(stage) || (stage == Stage::Links && f.stage == "Motion")) here.push_back(f);
        c->setFindings(here, old);
    }
    refreshVerdict(old);
}

// What stands against running the operation, always in sight.
void RecipePanel::refreshVerdict(bool old) {
    const auto result = m_open.result();
    std::vector<Finding> all = m_findings;
    if (const ProofResult* proof = m_open.proof(m_open.selected())) all.insert(all.end(), proof->findings.begin(), proof->findings.end());
    std::stable_sort(all.begin(), all.end(), [](const Finding& a, const Finding& b) { return a.rank < b.rank; });
    m_worst.reset();
    QString text, rank = "plain";
    const bool carrying = m_open.recipe() && carries(m_open.recipe()->kind);
    if (carrying)
        text = m_open.recipe()->kind == OperationKind::Slices ? tr("The operations in it make the paths") : tr("Its steps make the paths");
    else if (m_open.settled() && (m_open.stale() || !result) && m_open.recipe() && m_open.recipe()->active)
        text = tr("Cancelled – compute again");
    else if (old || !result)
        text = tr("Computing; what stands below is of before");
    else if (!all.empty() && all.front().rank != Rank::Note) {
        m_worst = all.front();
        rank = all.front().rank == Rank::Stop ? "stop" : "look";
        const auto alike = std::count_if(all.begin(), all.end(), [&](const Finding& f) { return f.rank == all.front().rank; });
        text = tr("%1 · %2").arg(rankName(all.front().rank), QString::fromStdString(all.front().text));
        if (alike > 1) text = tr("%1 (of %2)").arg(text).arg(alike);
    } else if (!result->complete())
        text = result->omitted ? tr("Left out") : tr("No path");
    else
        text = m_open.proof(m_open.selected()) ? tr("Proven on the machine") : tr("Nothing stands against it; not proven yet");
    text = inUnits(text, m_open.inches());
    m_verdict->setToolTip(text);
    m_verdict->setAccessibleName(tr("Verdict: %1").arg(text));
    m_verdict->setText(m_verdict->fontMetrics().elidedText(text, Qt::ElideRight, width() - 44));
    if (m_verdict->property("rank") == rank) return;
    m_verdict->setProperty("rank", rank);
    m_verdict->style()->unpolish(m_verdict);
    m_verdict->style()->polish(m_verdict);
}

// To the place, and to the card that tells of it; or on with what was cancelled.
void RecipePanel::followVerdict() {
    if (m_open.settled() && (m_open.stale() || !m_open.result())) return m_open.computeNow();
    if (!m_worst) return;
    for (std::size_t i = 0; i < m_cards.size(); ++i)
        if (m_worst->stage == stageName(static_cast<Stage>(i)) || (m_worst->stage == "Motion" && static_cast<Stage>(i) == Stage::Links))
            m_scroll->ensureWidgetVisible(m_cards[i], 0, 20);
    if (m_worst->place || m_worst->span) m_open.showFinding(*m_worst);
}

void RecipePanel::revealWord(Word* word) {
    for (StageCard* c : m_cards)
        if (c->isRare(word)) c->unfold(true);
    setOnlyStage(false);
    word->setFocus(Qt::ShortcutFocusReason);
    m_scroll->ensureWidgetVisible(word, 0, 40);
}

void RecipePanel::setOnlyStage(bool on) {
    m_onlyStage = on;
    refreshPeel();
}

void RecipePanel::refreshPeel() {
    m_fold->setText(m_onlyStage ? tr("all stages") : tr("this stage only"));
    const int hand = static_cast<int>(m_open.peel());
    for (int i = 0; i < kStages; ++i) {
        m_cards[static_cast<std::size_t>(i)]->setShown(i <= hand, i == hand);
        m_cards[static_cast<std::size_t>(i)]->setHeadOnly(m_onlyStage && i != hand);
    }
}

} // namespace gyre
