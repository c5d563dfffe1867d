// The recipe of rows over faces, as sentences.
#include "job/Job.h"
#include "operation/Meant.h"
#include "operation/OperationResult.h"
#include "operation/RecipeForm.h"
#include "operation/Workplace.h"
#include "panels/RecipePanel.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"
#include "touch/TouchSpec.h"

namespace gyre {

namespace {

/// Does a curve stand for one of the two rails?
bool curveIsRail(const PatternSpec& p) { return p.kind == PatternBy::Rails && !p.curve.empty() && (p.rail1.empty() || p.rail2.empty()); }

} // namespace

/// The sentences are laid out anew when this changes.
QString RecipePanel::surfaceLayoutKey(const Recipe& r) const {
    QString key = axisLayoutKey(r);
    for (const bool said : {r.pattern->layers > 1, r.where->byStock, r.where->byReach, r.where->bySlope, r.where->byHeight, r.touch->any(), r.pattern->larger > 0.0,
                            r.pattern->cut != RowCut::AsLaid, r.pattern->beyond != 0.0, curveIsRail(*r.pattern)})
        key += said ? "1" : "0";
    key += QString::number(static_cast<int>(r.where->by));
    if (r.where->side != WhereSide::Both) key += planeNames();
    if (!r.where->notBy.empty()) key += "by";
    for (const auto& [id, name] : rowsBefore()) key += QString::fromStdString("/" + id + "/" + name);
    return key;
}

// Among the usual words where it keeps rows off something.
void RecipePanel::sayWhere(Said& s, const WhereSpec& where) {
    say(s, where.any() ? tr(" Rows only {where.bySlope}") : tr("Rows {where.bySlope}"));
    if (where.bySlope) say(s, tr(" {where.flattest} to {where.steepest} off {where.axis}"));
    say(s, tr(", {where.byHeight}"));
    if (where.byHeight) say(s, where.bySlope ? tr(" {where.low} to {where.high}") : tr(" {where.low} to {where.high} along {where.axis}"));
    say(s, tr(", {where.by}"));
    if (where.by != WhereCurves::Anywhere)
        say(s, where.bySlope || where.byHeight ? tr(" {where.edges} {where.curve} {where.faces}")
                                               : tr(" {where.edges} {where.curve} {where.faces}, seen along {where.axis}"));
    say(s, where.side != WhereSide::Both ? tr(", {where.side} {where.plane}") : tr(", {where.side}"));
    say(s, tr(", {where.byStock}"));
    if (where.byStock) say(s, tr(" {where.stock}"));
    say(s, tr(", {where.byReach}"));
    if (where.notBy.empty())
        say(s, tr(", {where.notBy}"));
    else
        say(s, tr(", not what is cut by {where.notBy}"));
    say(s, where.any() ? QStringLiteral(".") : QStringLiteral(". "));
}

void RecipePanel::layoutSentences() {
    const Recipe& r = *m_open.recipe();
    Said target, feed, pattern, rows, links, gaps;
    say(target, tr("Cut {target.faces}"));
    sayTool(target);
    say(target, ".");
    Said& touch = r.touch->any() ? target : feed;
    say(touch, r.touch->any() ? tr(" The cutter touches {touch.by}, up to {touch.reach} off these faces.") : tr("The cutter touches {touch.by}. "));
    sayWhere(r.where->any() ? target : feed, r.where);
    sayFeed(feed);
    put(Stage::Target, target, feed);
    const PatternWords kind = patternWords(r.pattern->kind);
    say(pattern, tr("Rows {pattern.kind} ") + tr(kind.says));
    if (!kind.drawn || (r.pattern->kind == PatternBy::Corners && r.pattern->larger > 0.0))
        say(pattern, r.pattern->by == RowsBy::Count     ? ", {pattern.by} {pattern.count}"
                     : r.pattern->by == RowsBy::Scallop ? ", {pattern.by} {pattern.scallop}"
                                                        : ", {pattern.by} {pattern.spacing}");
    say(pattern, tr(", {pattern.order}, starting at {pattern.from}."));
    const bool seam = r.pattern->kind == PatternBy::Seam;
    if (r.pattern->kind == PatternBy::Corners)
        formWord("pattern.from")->setOptions({{"rail1", tr("the outside")}, {"rail2", tr("the middle")}});
    else if (r.pattern->kind == PatternBy::Passage)
        formWord("pattern.from")
            ->setOptions({{"rail1", tr("the first wall")}, {"rail2", tr("the second wall")}, {"middle", tr("the middle")}, {"outside", tr("both walls")}});
    else if (kind.rails < 2)
        formWord("pattern.from")
            ->setOptions({{"rail1", seam              ? tr("these rows")
                                    : kind.rails == 1 ? tr("the rail")
                                                      : tr("one end")},
                          {"rail2", tr("the other end")},
                          {"middle", tr("the middle")},
                          {"outside", tr("the outside")}});
    const bool sided = r.pattern->cut != RowCut::AsLaid && !kind.drawn;
    if (sided) say(pattern, tr(" Rows are cut {pattern.cut}."));
    const bool passage = r.pattern->kind == PatternBy::Passage;
    if (!kind.drawn)
        say(rows, seam ? tr("Last row {pattern.ends}.") : passage ? tr("At upper edges rows lie {pattern.ends}.") : tr("First and last row {pattern.ends}."));
    if (passage) formWord("pattern.ends")->setOptions({{"onRails", tr("on them")}, {"halfStepIn", tr("half a step in")}});
    if (!kind.drawn && kind.rails == 0) formWord("pattern.ends")->setOptions({{"onRails", tr("on the border")}, {"halfStepIn", tr("half a step in")}});
    if (!sided) say(rows, kind.drawn ? tr("Rows {pattern.reversed}.") : tr(" Rows {pattern.reversed}, cut {pattern.cut}."));
    const bool between = r.pattern->kind == PatternBy::Rails;
    if (between) say(rows, tr(" Beyond the ends of rails {pattern.across}."));
    say(r.pattern->beyond != 0.0 ? pattern : rows, tr(" Rows go {pattern.beyond} beyond their ends."));
    if (between) say(curveIsRail(*r.pattern) ? pattern : rows, tr(" Rails without edges are {pattern.curve}."));
    if (between) say(rows, tr(" Between the rails they follow {pattern.guides}."));
    say(rows, tr(" Rows that holes break are cut {pattern.pieces}."));
    Said& layers = r.pattern->layers > 1 ? pattern : rows;
    say(layers, tr(" All in {pattern.layers} layers"));
    if (r.pattern->layers > 1) say(layers, tr(", {pattern.layer} apart {pattern.layersAlong}, {pattern.everyLayer}"));
    say(layers, ".");
    sayFineness(rows);
    put(Stage::Pattern, pattern, rows);
    layoutAxis();
    layoutGuard();
    say(links, tr("Enter by an arc of {links.entryRadius}; join gaps under {links.smallGap} by a {links.small}, travel"));
    saySkin(links);
    say(links, ".");
    say(gaps, tr("Come down fast to {links.approach} over the entry; without room for an arc a ramp of {links.ramp}; where the axis stays, {links.low}."));
    put(Stage::Links, links, gaps);
}

// Operations before this one that have rows over faces: one of them, or all.
std::vector<std::pair<std::string, std::string>> RecipePanel::rowsBefore() const {
    std::vector<std::pair<std::string, std::string>> out;
    for (const Recipe& r : m_open.job().route) {
        if (r.id == m_open.recipe()->id) break;
        if (r.kind == OperationKind::Surface && r.active) out.emplace_back(r.id, r.name);
    }
    return out;
}

// Rows that begin at others are as far apart as these.
void RecipePanel::beginBeside(const QString& operations) {
    m_open.change(tr("begin at other rows"), [&](Job& j) {
        const std::string id = m_open.selected().toStdString();
        (void)setWord(j, id, "pattern.beside", operations.toStdString());
        Recipe* r = j.operation(id);
        const auto theirs = r->pattern->beside.empty() ? nullptr : m_open.result(QString::fromStdString(r->pattern->beside.front()));
        if (!theirs || !theirs->pattern) return;
        r->pattern->by = RowsBy::Spacing;
        r->pattern->spacing = theirs->pattern->spacing;
    });
}

// A curve that is chosen as a rail, or from whose rows the pattern changes to distances from it, takes the place of rails that were proposed: of the second where
// it is one of two.
void RecipePanel::setPattern(const QString& key, const QString& value) {
    m_open.change(key == "pattern.kind" ? tr("where rows come from") : tr("the curve of the rows"), [&](Job& j) {
        const std::string id = m_open.selected().toStdString();
        const PatternBy before = j.operation(id)->pattern->kind;
        (void)setWord(j, id, key.toStdString(), value.toStdString());
        PatternSpec& pattern = *j.operation(id)->pattern;
        if (m_open.place() && m_open.place()->part) fitPattern(*m_open.place()->part, before, *j.operation(id));
        const bool distance = pattern.kind == PatternBy::Distance, followed = before == PatternBy::Strokes || before == PatternBy::Curves;
        if (pattern.curve.empty() || (key == "pattern.kind" ? !distance || !followed : !distance && pattern.kind != PatternBy::Rails)) return;
        const auto named = m_open.place() ? curvesNamed(*m_open.place(), pattern.curve) : Result<NamedCurves>(NamedCurves{});
        pattern.rail2.clear();
        if (distance || (named && named->curves.size() > 1)) pattern.rail1.clear();
    });
}

Word* RecipePanel::beforeWord(const QString& key, const QString& what, const std::vector<std::string>& now, const QString& none) {
    std::vector<Word::Option> options{{"[]", none}};
    std::vector<std::string> all;
    std::map<std::string, std::string> names;
    for (const auto& [id, name] : rowsBefore()) {
        options.push_back({listed({id}), QString::fromStdString(name)});
        all.push_back(id);
        names[id] = name;
    }
    if (all.size() > 1) options.push_back({listed(all), tr("all before it")});
    const auto known = [&](const Word::Option& o) { return o.value == listed(now); };
    if (!now.empty() && std::none_of(options.begin(), options.end(), known)) {
        std::vector<std::string> called;
        for (const std::string& id : now) called.push_back(names.count(id) ? names[id] : id);
        options.push_back({listed(now), joinedNames(called)});
    }
    return choice(key, what, options);
}

// Words that name planes are laid out anew when this changes.
QString RecipePanel::planeNames() const {
    QString out;
    for (const WorkPlane& p : m_open.job().planes) out += "/" + QString::fromStdString(p.name);
    return out;
}

Word* RecipePanel::planeWord(const QString& key, const QString& name, const std::string& now) {
    std::vector<Word::Option> options;
    for (const WorkPlane& p : m_open.job().planes) options.push_back({QString::fromStdString(p.name), QString::fromStdString(p.name)});
    const auto known = [&](const Word::Option& o) { return o.value == QString::fromStdString(now); };
    if (std::none_of(options.begin(), options.end(), known))
        options.insert(options.begin(), {QString::fromStdString(now), now.empty() ? tr("(none)") : QString::fromStdString(now)});
    return choice(key, name, options);
}

} // namespace gyre
