#include "panels/RecipePanel.h"
#include "form/Form.h"
#include "operation/RecipeForm.h"
#include "tool/Library.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QScrollArea>
#include <QStyle>

namespace gyre {

QFrame* findingBlock(AppModel& model, const Finding& f, QWidget* parent) {
    auto* block = new QFrame(parent);
    block->setProperty("role", f.rank == Rank::Stop ? "stop" : "look");
    block->setObjectName("finding." + QString::fromStdString(f.code));
    auto* column = new QVBoxLayout(block);
    column->setContentsMargins(10, 6, 8, 6);
    column->setSpacing(3);
    auto* text = new QLabel(block);
    text->setTextFormat(Qt::RichText);
    text->setWordWrap(true);
    text->setText(QString("<b>%1</b> · %2").arg(rankName(f.rank), QString::fromStdString(f.text).toHtmlEscaped()));
    text->setToolTip(QString::fromStdString(f.reason));
    column->addWidget(text);
    if (!f.reason.empty()) {
        auto* reason = new QLabel(QString::fromStdString(f.reason), block);
        reason->setProperty("role", "soft");
        reason->setWordWrap(true);
        column->addWidget(reason);
    }
    // One line for Show and the first cure, one more for the next: nothing is cut off in a narrow card.
    auto* links = new QHBoxLayout;
    links->setSpacing(12);
    const auto link = [&](const QString& label, const QString& name, auto&& action) {
        auto* b = new QPushButton(label, block);
        b->setProperty("role", "link");
        b->setObjectName(name);
        b->setAccessibleName(label);
        b->setCursor(Qt::PointingHandCursor);
        QObject::connect(b, &QPushButton::clicked, &model, action);
        links->addWidget(b);
        return b;
    };
    if (f.place || f.span) link(QObject::tr("Show"), "show." + QString::fromStdString(f.code), [&model, f] { model.showFinding(f); });
    for (std::size_t i = 0; i < std::min<std::size_t>(3, f.remedies.size()); ++i) {
        if (i == 1) {
            links->addStretch();
            column->addLayout(links);
            links = new QHBoxLayout;
            links->setSpacing(12);
        }
        // Two remedies may set the same word; the later one's name tells its value as well.
        QString name = "fix." + QString::fromStdString(f.remedies[i].key) + "." + QString::fromStdString(f.code);
        if (i > 0 && f.remedies[i].key == f.remedies[i - 1].key) name += "." + QString::fromStdString(f.remedies[i].value);
        link(QString::fromStdString(f.remedies[i].label), name, [&model, f, r = f.remedies[i]] { model.applyRemedy(f, r); });
    }
    links->addStretch();
    column->addLayout(links);
    return block;
}

RecipePanel::RecipePanel(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 12, 12, 8);
    outer->setSpacing(8);
    m_heading = new QLabel(this);
    m_heading->setProperty("role", "heading");
    m_heading->setObjectName("recipeHeading");
    outer->addWidget(m_heading);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    auto* inside = new QWidget;
    auto* column = new QVBoxLayout(inside);
    column->setContentsMargins(0, 0, 4, 0);
    column->setSpacing(6);
    for (int i = 0; i < kStages; ++i) {
        Card& c = m_cards[static_cast<std::size_t>(i)];
        const QString name = stageName(static_cast<Stage>(i));
        c.frame = new QFrame(inside);
        c.frame->setProperty("role", "card");
        c.frame->setObjectName("card." + name);
        auto* v = new QVBoxLayout(c.frame);
        v->setContentsMargins(12, 5, 8, 7);
        v->setSpacing(1);
        auto* top = new QHBoxLayout;
        auto* title = new QLabel(QString("%1   %2").arg(i + 1).arg(name), c.frame);
        title->setProperty("role", "title");
        c.eye = new QPushButton(c.frame);
        c.eye->setProperty("role", "flat");
        c.eye->setCheckable(true);
        c.eye->setObjectName("peel." + name);
        c.eye->setAccessibleName(tr("Show the result up to %1").arg(name));
        c.eye->setToolTip(tr("Show the result up to %1 (%2)").arg(name).arg(i + 1));
        c.eye->setIcon(QIcon());
        connect(c.eye, &QPushButton::clicked, this, [this, i] {
            m_model.setPeel(static_cast<Stage>(i));
            refreshPeel();
        });
        top->addWidget(title);
        top->addStretch();
        top->addWidget(c.eye);
        v->addLayout(top);
        c.sentence = new Sentence(c.frame);
        v->addWidget(c.sentence);
        c.facts = new QLabel(c.frame);
        c.facts->setProperty("role", "soft");
        c.facts->setWordWrap(true);
        c.facts->setObjectName("facts." + name);
        v->addWidget(c.facts);
        c.findings = new QVBoxLayout;
        c.findings->setSpacing(4);
        v->addLayout(c.findings);
        column->addWidget(c.frame);
    }
    column->addStretch();
    scroll->setWidget(inside);
    outer->addWidget(scroll, 1);
    connect(&m_model, &AppModel::jobChanged, this, &RecipePanel::refreshWords);
    connect(&m_model, &AppModel::selectionChanged, this, &RecipePanel::refreshWords);
    connect(&m_model, &AppModel::placeChanged, this, &RecipePanel::refreshWords);
    connect(&m_model, &AppModel::pickModeChanged, this, &RecipePanel::refreshWords);
    connect(&m_model, &AppModel::resultChanged, this, &RecipePanel::refreshResults);
    connect(&m_model, &AppModel::proofChanged, this, &RecipePanel::refreshResults);
    connect(&m_model, &AppModel::peelChanged, this, &RecipePanel::refreshPeel);
    refreshWords();
    refreshPeel();
}

Word* RecipePanel::word(Word::Kind kind, const QString& key, const QString& name, double step) {
    Word*& w = m_words[key];
    if (!w) {
        w = new Word(kind, key, name, this);
        w->hide();
        if (step > 0.0) w->setStep(step);
        connect(w, &Word::changed, this, &RecipePanel::changed);
        connect(w, &Word::triggered, this, &RecipePanel::triggered);
        connect(w, &Word::listed, this, [this](const QString& k, const QString& numbers) { (void)m_model.setPicks(k, numbers); });
        connect(w, &Word::hovered, this, &RecipePanel::wordHovered);
        connect(w, &Word::wrongText, &m_model, &AppModel::toldUser);
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
    if (key == "target.drawings") return drawingWord(*m_model.recipe());
    const bool ofTool = key.startsWith("tool.");
    const std::string path = (ofTool ? key.mid(5) : key).toStdString();
    const WordInfo* info = wordAt(ofTool ? toolWords() : recipeWords(m_model.recipe()->kind), path);
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
PickMode pickModeOf(const QString& key) {
    if (key == "axis.faces") return PickMode::AxisFaces;
    if (key == "axis.edges") return PickMode::AxisEdges;
    return key == "target.faces"     ? PickMode::Faces
           : key == "target.edges"   ? PickMode::Edges
           : key == "target.profile" ? PickMode::Profile
           : key == "pattern.rail1"  ? PickMode::Rail1
                                     : PickMode::Rail2;
}

QString countedPicks(std::size_t n, const QString& none, const QString& one, const QString& many) { return n == 0 ? none : n == 1 ? one : many.arg(n); }
} // namespace

bool RecipePanel::picking(const QString& key) const {
    if (m_model.pickMode() == PickMode::Feature) {
        const QString& now = m_model.featurePick().key;
        return key == "holes" ? now == "holes" : key == "swarf.draw" ? now == "swarf.sync" : key == "axis.draw" && now.endsWith(".spots");
    }
    return key != "holes.of" && key != "holes" && !key.endsWith(".draw") && m_model.pickMode() == pickModeOf(key);
}

void RecipePanel::changed(const QString& key, const QString& value) {
    if (key == "holes.group")
        m_model.setHoles(m_model.selected(), value);
    else if (key == "axis.window" && value == "any")
        m_model.change(tr("any angle"), [&](Job& j) { j.operation(m_model.selected().toStdString())->axis.limited = false; });
    else if (key == "axis.key.new")
        m_model.addAxisKey(value.toDouble());
    else if (key == "swarf.sync") {
        if (const QString list = syncList(value); !list.isEmpty())
            (void)m_model.setWord(key, list);
        else
            emit m_model.toldUser(tr("Two fractions for each line, as in 0.25 0.3; 0.5 0.5"));
    } else if (key == "edge.edges" || key == "curve.by" || key == "swarf.from")
        m_model.setFollowWord(key, value);
    else if (key.startsWith("axis.keys.") && key.endsWith(".off"))
        m_model.removeAxisKey(key.section('.', 2, 2).toULong());
    else if (key == "mill.shape")
        m_model.setMillShape(value);
    else if (m_model.recipe() && m_model.recipe()->kind == OperationKind::Mill && (key == "mill.on" || key == "target.drawings" || key.startsWith("repeat.")))
        m_model.setStanding(key, value);
    else if (const auto mend = m_model.followedMend(); mend && key.startsWith("helix."))
        m_model.setMendNumber(*mend, key.mid(6), value.toDouble());
    else if (mend && key == "sketch.points")
        (void)m_model.setMendPoints(*mend, value);
    else
        (void)m_model.setWord(key, value);
}

void RecipePanel::triggered(const QString& key) {
    if (key == "holes.of") return m_model.select(QString::fromStdString(m_model.recipe()->parent)); // edited once, there
    if (key == "holes") return m_model.pickHoles();
    if (key == "swarf.draw") return m_model.drawSyncLines();
    if (key == "axis.draw") return m_model.drawAxisLines();
    const PickMode mode = pickModeOf(key);
    m_model.setPickMode(m_model.pickMode() == mode ? PickMode::None : mode);
}

void RecipePanel::layoutSentences() {
    const Recipe& r = *m_model.recipe();
    Said target, pattern, links;
    say(target, tr("Cut {target.faces} with {tool}, {tool.stickOut} out, leave {target.leave}."));
    m_cards[0].sentence->set(target.text, target.words);
    const bool rails = r.pattern.kind == PatternBy::Rails;
    say(pattern, rails ? tr("Rows {pattern.kind} {pattern.rail1} and {pattern.rail2}, ") : tr("Rows {pattern.kind} along {pattern.along}, leaning {pattern.lean}, "));
    say(pattern, r.pattern.byScallop ? "{pattern.scallop}" : "{pattern.spacing}");
    say(pattern, rails ? tr(" {pattern.by}, {pattern.order}, starting at {pattern.from}, {pattern.ends} {pattern.reversed}; beyond the ends of rails {pattern.across}.")
                       : tr(" {pattern.by}, {pattern.order} {pattern.reversed}."));
    m_cards[1].sentence->set(pattern.text, pattern.words);
    layoutAxis();
    layoutGuard();
    say(links, tr("Enter by an arc of {links.entryRadius}; join gaps under {links.smallGap} by {links.small}, others over a {links.skin.kind}"));
    if (r.link.skin.kind != SkinKind::Sphere) say(links, tr(" about {links.skin.axis} at"));
    say(links, " {links.skin.size}.");
    m_cards[4].sentence->set(links.text, links.words);
}

void RecipePanel::layoutGuard() {
    const Recipe& r = *m_model.recipe();
    Said s;
    say(s, tr("Shank {guard.shank}, holder {guard.holder} clear of {}"),
        {choice("guard.against", tr("What is guarded"),
                {{R"(["part","fixture","machine"])", tr("part, fixture, machine")}, {R"(["part","fixture"])", tr("part, fixture")}, {R"(["part"])", tr("part")}})});
    if ((r.kind == OperationKind::Mill && r.mill.shape == MillShape::Follow) ||
        (r.kind == OperationKind::Curve && r.curve.by != CurveBy::Channel)) // what is engraved need not be in the model
        say(s, tr("; the cutter may enter the part by {guard.gouge}"));
    else if (r.kind == OperationKind::Swarf) // the wall has a tolerance of its own
        say(s, tr("; the cutter may enter what is beside the wall by {guard.gouge}"));
    say(s, tr("; if not, {guard.response}."));
    m_cards[3].sentence->set(s.text, s.words);
}

Word* RecipePanel::toolWord() {
    std::vector<Word::Option> tools;
    for (const Assembly& a : m_model.job().tools)
        tools.push_back({QString::fromStdString(a.id),
                         QString::fromStdString(shortName(a.cutter) + (a.cutter.shankDiameter > 0 && a.id.find("long") != std::string::npos ? ", long" : ""))});
    return choice("tool", tr("Tool"), tools);
}

QString RecipePanel::groupOf(const Recipe& r) const {
    for (const HoleGroup& g : m_model.holeGroups())
        if (m_model.place() && !r.holes.empty() && g.holes.size() == r.holes.size() &&
            (m_model.place()->holes[g.holes.front()].mouth - r.holes.front().mouth).norm() < 0.05)
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
    if (m_model.recipe()->link.skin.kind != SkinKind::Sphere) say(said[4], tr(" about {links.skin.axis} at"));
    say(said[4], tr(" {links.skin.size}; between holes of one direction {links.low}."));
    for (std::size_t c = 0; c < said.size(); ++c) m_cards[c].sentence->set(said[c].text, said[c].words);
}

// One tool with one cycle.
void RecipePanel::layoutStep() {
    using K = Word::Kind;
    const Recipe& r = *m_model.recipe();
    const Cycle c = r.drill.cycle;
    Said target, pattern;
    say(target, tr("In {} with {tool}, {tool.stickOut} out."), {word(K::Action, "holes.of", tr("Holes of the operation"))});
    m_cards[0].sentence->set(target.text, target.words);
    const bool cone = c == Cycle::Spot || c == Cycle::Chamfer, pecks = c == Cycle::Peck || c == Cycle::ChipBreak;
    say(pattern, tr("{drill.cycle} to {}"),
        {choice("drill.by", tr("Where the depth comes from"),
                {{"hole", cone ? tr("an edge wider than the hole by") : tr("the end of the hole")}, {"depth", tr("a depth of")}})});
    if (!r.drill.toGeometry)
        say(pattern, " {drill.depth}");
    else if (cone)
        say(pattern, " {drill.widen}");
    if (!cone && c != Cycle::Tap) say(pattern, tr(", reached with {drill.reached}"));
    if (pecks) say(pattern, tr(", {drill.peck} at a time"));
    if (c == Cycle::Tap) say(pattern, tr(", pitch {drill.pitch}"));
    if (c != Cycle::Tap && !pecks) say(pattern, tr(", wait {drill.dwell} s"));
    say(pattern, tr("; written as {drill.canned}; a tool that does not suit is {drill.anyTool}."));
    m_cards[1].sentence->set(pattern.text, pattern.words);
    const Recipe* parent = m_model.job().operation(r.parent);
    const QString as = tr("As for all steps of “%1”.").arg(parent ? QString::fromStdString(parent->name) : QString());
    for (const std::size_t i : {2u, 3u, 4u}) m_cards[i].sentence->set(as, {});
}

Word* RecipePanel::groupWord() {
    std::vector<Word::Option> groups{{"", tr("all holes")}};
    for (const HoleGroup& g : m_model.holeGroups()) groups.push_back({QString::fromStdString(g.words), QString::fromStdString(g.words)});
    return choice("holes.group", tr("Holes"), groups);
}

void RecipePanel::refreshWords() {
    const Recipe* r = m_model.recipe();
    for (Card& c : m_cards) c.frame->setVisible(r != nullptr);
    if (!r) {
        m_heading->setText(m_model.hasJob() ? tr("NO OPERATION YET") : tr("NO JOB"));
        return;
    }
    m_heading->setText(QString("%1 · %2").arg(m_model.numberOf(*r), QString::fromStdString(r->name).toUpper()));
    const QString own = follows(r->kind)                    ? followLayoutKey(*r)
                        : r->kind == OperationKind::Mill    ? millLayoutKey(*r)
                        : r->kind == OperationKind::Surface ? axisLayoutKey(*r)
                                                            : QString();
    const QString shape = QString("%1/%2/%3/%4/%5/%6/%7/%8")
                              .arg(m_model.selected())
                              .arg(own)
                              .arg(2 * static_cast<int>(r->pattern.kind) + (r->pattern.byScallop ? 1 : 0))
                              .arg(m_model.job().tools.size())
                              .arg(static_cast<int>(r->drill.cycle))
                              .arg(r->drill.toGeometry)
                              .arg(static_cast<int>(r->link.skin.kind))
                              .arg(m_model.holeGroups().size());
    if (shape != m_shape) {
        if (r->kind == OperationKind::Surface)
            layoutSentences();
        else if (r->kind == OperationKind::Holes)
            layoutHoles();
        else if (r->kind == OperationKind::Mill)
            layoutMill();
        else if (follows(r->kind))
            layoutFollow();
        else
            layoutStep();
        m_shape = shape;
    }
    for (auto& [key, w] : m_words) {
        if (key == "holes.group") {
            const QString group = groupOf(*r);
            w->show(group, false);
            w->setWords(r->kind == OperationKind::Edge && r->holes.empty() ? tr("all holes") : tr("%1 holes").arg(r->holes.size()));
        } else if (key == "holes.of") {
            const Recipe all = m_model.job().resolved(*r);
            w->setWords(tr("%1 holes").arg(all.holes.size()));
        } else if (key == "target.faces") {
            const bool optional = (r->kind == OperationKind::Curve && r->curve.by != CurveBy::Channel) ||
                                  (r->kind == OperationKind::Mill &&
                                   (r->mill.shape == MillShape::Round || r->mill.shape == MillShape::Rough || !r->target.edges.empty() || !r->target.drawings.empty()));
            w->setWords(countedPicks(r->target.faces.size(),
                                     r->mill.shape == MillShape::Rough && r->kind == OperationKind::Mill   ? tr("all of it")
                                     : r->mill.shape == MillShape::Round && r->kind == OperationKind::Mill ? tr("no bosses")
                                     : optional                                                            ? tr("+ faces")
                                                                                                           : tr("pick faces"),
                                     tr("1 face"), tr("%1 faces")));
        } else if (key == "axis.faces")
            w->setWords(countedPicks(r->axis.faces.size(), tr("pick faces"), tr("1 face"), tr("%1 faces")));
        else if (key == "axis.edges")
            w->setWords(countedPicks(r->axis.edges.size(), tr("pick edges"), tr("1 edge"), tr("%1 edges")));
        else if (key == "holes")
            w->setWords(tr("pick them"));
        else if (key.endsWith(".draw"))
            w->setWords(tr("draw"));
        else if (key == "swarf.sync")
            w->show(syncText(r->swarf), false);
        else if (key == "axis.key.new")
            w->show("", false);
        else if (key.startsWith("axis.keys.") && key.endsWith(".off"))
            w->show("keep", false);
        else if (key == "target.edges" && follows(r->kind))
            w->setWords(countedPicks(r->target.edges.size(), tr("pick edges"), tr("1 edge"), tr("%1 edges")));
        else if (key == "target.edges")
            w->setWords(countedPicks(r->target.edges.size(), r->mill.shape == MillShape::Follow && r->target.drawings.empty() ? tr("pick edges") : tr("+ edges"),
                                     tr("1 edge"), tr("%1 edges")));
        else if (key == "target.profile")
            w->setWords(countedPicks(r->target.profile.size(), tr("pick its edges"), tr("1 edge"), tr("%1 edges")));
        else if (const auto mend = m_model.followedMend(); mend && key.startsWith("helix."))
            w->show(QString::number(m_model.job().mends[*mend].number(key.mid(6).toUtf8().constData()), 'g', 12), m_model.inches());
        else if (mend && key == "sketch.points")
            w->show(QString::fromStdString(sketchText(m_model.job().mends[*mend].points)), false);
        else if (r->kind == OperationKind::Swarf && key.startsWith("pattern.rail"))
            w->setWords(countedPicks((key == "pattern.rail1" ? r->pattern.rail1 : r->pattern.rail2).size(), tr("pick edges"), tr("1 edge"), tr("%1 edges")));
        else if (key == "pattern.rail1")
            w->setWords(r->pattern.rail1.empty() ? tr("rail 1 (none)") : tr("rail 1"));
        else if (key == "pattern.rail2")
            w->setWords(r->pattern.rail2.empty() ? tr("rail 2 (none)") : tr("rail 2"));
        else if (key == "axis.window" && !r->axis.limited)
            w->show("any", false);
        else
            w->show(m_model.word(key), m_model.inches() && !key.startsWith("axis.direction"));
        if (w->kind() == Word::Kind::Action && key != "holes.of" && !key.endsWith(".draw")) {
            w->setList(m_model.picks(key));
            w->setToolTip(tr("%1: click to pick, F2 for their numbers").arg(w->accessibleName()));
        }
        if (w->kind() == Word::Kind::Action) w->setChecked(picking(key));
    }
    for (Card& c : m_cards) c.sentence->reflow();
    refreshResults();
}

void RecipePanel::refreshResults() {
    const auto result = m_model.result();
    for (int i = 0; i < kStages; ++i) {
        Card& c = m_cards[static_cast<std::size_t>(i)];
        const Stage stage = static_cast<Stage>(i);
        QString facts = result ? QString::fromStdString(result->facts(stage)) : QString();
        if (m_model.stale() && !facts.isEmpty()) facts += tr("  (computing)");
        c.facts->setText(facts);
        c.facts->setVisible(!facts.isEmpty());
        while (QLayoutItem* item = c.findings->takeAt(0)) {
            if (QWidget* w = item->widget()) {
                w->hide();
                w->deleteLater();
            }
            delete item;
        }
        if (!result) continue;
        for (const Finding& f : result->findings) {
            const bool here = f.stage == stageName(stage) || (stage == Stage::Links && f.stage == "Motion");
            if (here) c.findings->addWidget(findingBlock(m_model, f, c.frame));
        }
    }
}

void RecipePanel::refreshPeel() {
    for (int i = 0; i < kStages; ++i) {
        const Card& c = m_cards[static_cast<std::size_t>(i)];
        const bool shown = i <= static_cast<int>(m_model.peel());
        c.eye->setChecked(shown);
        // A filled ring is shown, an empty one is peeled off.
        c.eye->setText(shown ? QString::fromUtf8("◉") : QString::fromUtf8("○"));
        c.frame->setProperty("active", i == static_cast<int>(m_model.peel()));
        c.frame->style()->unpolish(c.frame);
        c.frame->style()->polish(c.frame);
    }
}

} // namespace gyre
