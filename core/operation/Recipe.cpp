#include "operation/Recipe.h"
#include "base/Text.h"

namespace gyre {

const char* stageName(Stage s) {
    switch (s) {
    case Stage::Target:
        return "Target";
    case Stage::Pattern:
        return "Pattern";
    case Stage::Axis:
        return "Axis";
    case Stage::Guard:
        return "Guard";
    case Stage::Links:
        return "Links";
    }
    return "";
}

namespace {

constexpr double kFar = 1e5; // mm: no length of a recipe is larger
constexpr std::size_t kMostShapes = 20000;

std::vector<ShapeRef> refs(const JsonView& v, const char* key) {
    std::vector<ShapeRef> out;
    for (const JsonView& r : v.list(key, kMostShapes)) out.push_back(shapeRefFromJson(r));
    return out;
}

OrderedJson refsToJson(const std::vector<ShapeRef>& refs) {
    OrderedJson out = OrderedJson::array();
    for (const auto& r : refs) out.push_back(shapeRefToJson(r));
    return out;
}

constexpr const char* kKinds[] = {"surface", "holes", "holeStep", "mill", "swarf", "curve", "edge"};
constexpr const char* kRules[] = {"surface", "fixed", "towardRotary", "point", "curve", "lines", "normals"};
constexpr std::size_t kMostKeys = 1000;

void aimFromJson(const JsonView& a, AxisAim& aim) {
    aim.leadDegrees = a.number("lead", -90.0, 90.0, 0.0);
    aim.tiltDegrees = a.number("tilt", -90.0, 90.0, 0.0);
    const auto d = a.triple("direction", {0, 0, 1}), p = a.triple("point", {0, 0, 100}, kFar);
    aim.direction = Vec3(d[0], d[1], d[2]);
    aim.point = Vec3(p[0], p[1], p[2]);
    aim.away = a.flag("away", false);
    aim.curve = a.text("curve", "", 200);
    aim.inStep = a.choice("reach", {"nearest", "inStep"}, 0) == 1;
    if (a.has("edges")) aim.edges = refs(a, "edges");
    if (a.has("faces")) aim.faces = refs(a, "faces");
    for (const double number : a.numbers("turned", kMostKeys, 0.0, 1e6)) aim.turned.push_back(static_cast<int>(number));
}

OrderedJson aimToJson(const AxisAim& a, const char* rule) {
    OrderedJson out = {{"rule", rule},
                       {"lead", a.leadDegrees},
                       {"tilt", a.tiltDegrees},
                       {"direction", {a.direction.x(), a.direction.y(), a.direction.z()}},
                       {"point", {a.point.x(), a.point.y(), a.point.z()}},
                       {"away", a.away},
                       {"curve", a.curve},
                       {"reach", a.inStep ? "inStep" : "nearest"}};
    if (!a.edges.empty()) out["edges"] = refsToJson(a.edges);
    if (!a.faces.empty()) out["faces"] = refsToJson(a.faces);
    if (!a.turned.empty()) out["turned"] = a.turned;
    return out;
}

DrillSpec drillFromJson(const JsonView& v) {
    v.allow({"cycle", "by", "depth", "breakthrough", "reached", "widen", "peck", "dwell", "pitch", "above", "anyTool", "canned", "order"});
    DrillSpec d;
    d.cycle = static_cast<Cycle>(v.choice("cycle",
                                          {cycleName(Cycle::Spot), cycleName(Cycle::Drill), cycleName(Cycle::Peck), cycleName(Cycle::ChipBreak), cycleName(Cycle::Bore),
                                           cycleName(Cycle::Ream), cycleName(Cycle::Tap), cycleName(Cycle::Chamfer)},
                                          static_cast<int>(d.cycle)));
    d.toGeometry = v.choice("by", {"hole", "depth"}, 0) == 0;
    d.depth = v.number("depth", 0.0, 1e4, d.depth);
    d.breakthrough = v.number("breakthrough", 0.0, 1e3, d.breakthrough);
    d.fullDiameter = v.choice("reached", {"fullDiameter", "point"}, 0) == 0;
    d.widen = v.number("widen", -100.0, 100.0, d.widen);
    d.peck = v.number("peck", 0.01, 1e3, d.peck);
    d.dwell = v.number("dwell", 0.0, 60.0, d.dwell);
    d.pitch = v.number("pitch", 0.05, 50.0, d.pitch);
    d.above = v.number("above", 0.01, 1e3, d.above);
    d.anyTool = v.flag("anyTool", false);
    d.canned = v.flag("canned", true);
    d.shortest = v.choice("order", {"shortest", "picked"}, 0) == 0;
    return d;
}

void holesToJson(const Recipe& r, OrderedJson& out) {
    for (const HoleRef& h : r.holes) {
        OrderedJson j = {{"mouth", {h.mouth.x(), h.mouth.y(), h.mouth.z()}}, {"diameter", h.diameter}};
        if (h.turned) j["turned"] = true;
        out["holes"].push_back(std::move(j));
    }
}

OrderedJson drillToJson(const DrillSpec& d) {
    return {{"cycle", cycleName(d.cycle)},
            {"by", d.toGeometry ? "hole" : "depth"},
            {"depth", d.depth},
            {"breakthrough", d.breakthrough},
            {"reached", d.fullDiameter ? "fullDiameter" : "point"},
            {"widen", d.widen},
            {"peck", d.peck},
            {"dwell", d.dwell},
            {"pitch", d.pitch},
            {"above", d.above},
            {"anyTool", d.anyTool},
            {"canned", d.canned},
            {"order", d.shortest ? "shortest" : "picked"}};
}

} // namespace

namespace {

/// Complains about what is a word of other kinds of operation.
void allowForKind(const JsonView& v, OperationKind kind) {
    static constexpr const char* kOf = "this kind of operation";
    switch (kind) {
    case OperationKind::Surface:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "repeat", "target", "pattern", "axis"}, kOf);
    case OperationKind::Holes:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "holes", "drill"}, kOf);
    case OperationKind::HoleStep:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "parent", "drill", "holes", "repeat"}, kOf);
    case OperationKind::Mill:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "repeat", "target", "pattern", "mill"}, kOf);
    case OperationKind::Swarf:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "repeat", "target", "pattern", "swarf"}, kOf);
    case OperationKind::Curve:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "repeat", "target", "pattern", "curve", "axis"}, kOf);
    case OperationKind::Edge:
        return v.allow({"id", "kind", "name", "tool", "active", "feed", "guard", "links", "repeat", "target", "pattern", "edge", "holes"}, kOf);
    }
}

} // namespace

Recipe recipeFromJson(const JsonView& v) {
    v.allow({"id", "kind", "parent", "name", "tool", "active", "target", "pattern", "axis", "guard", "links", "feed", "holes", "drill", "mill", "swarf", "curve", "edge",
             "repeat"});
    Recipe r;
    r.id = v.text("id", 100);
    r.kind = static_cast<OperationKind>(v.choice("kind", {"surface", "holes", "holeStep", "mill", "swarf", "curve", "edge"}, 0));
    allowForKind(v, r.kind);
    r.parent = v.text("parent", "", 100);
    for (const JsonView& h : v.list("holes", kMostShapes)) {
        h.allow({"mouth", "diameter", "turned"});
        HoleRef ref;
        const auto m = h.triple("mouth", {0, 0, 0}, kFar);
        ref.mouth = Vec3(m[0], m[1], m[2]);
        ref.diameter = h.number("diameter", 0.0, 1e4, 0.0);
        ref.turned = h.flag("turned", false);
        r.holes.push_back(ref);
    }
    if (v.has("drill")) r.drill = drillFromJson(v.object("drill"));
    if (v.has("mill")) r.mill = millFromJson(v.object("mill"));
    if (v.has("swarf")) r.swarf = swarfFromJson(v.object("swarf"));
    if (v.has("curve")) r.curve = curveFromJson(v.object("curve"));
    if (v.has("edge")) r.edge = breakFromJson(v.object("edge"));
    if (v.has("repeat")) {
        const JsonView p = v.object("repeat");
        p.allow({"planes", "count", "axis", "degrees"});
        for (const JsonView& name : p.list("planes", 1000)) {
            if (name.raw().is_string())
                r.repeat.planes.push_back(cutText(name.raw().get<std::string>(), 200));
            else
                name.complain("the name of a work plane is expected here");
        }
        r.repeat.count = p.integer("count", 1, 1000, 1);
        r.repeat.axis = p.choice("axis", {"x", "y", "z"}, 2);
        r.repeat.degrees = p.number("degrees", -360.0, 360.0, 0.0);
    }
    r.name = v.text("name", "Surface rows", 200);
    r.tool = v.text("tool", "", 100);
    r.active = v.flag("active", true);
    r.feed = v.number("feed", 0.0, 1e6, 0.0);
    if (v.has("target")) {
        const JsonView t = v.object("target");
        t.allow({"faces", "edges", "drawings", "profile", "leave"});
        r.target.faces = refs(t, "faces");
        r.target.edges = refs(t, "edges");
        r.target.profile = refs(t, "profile");
        for (const JsonView& name : t.list("drawings", 500)) {
            if (name.raw().is_string())
                r.target.drawings.push_back(cutText(name.raw().get<std::string>(), 200));
            else
                name.complain("the name of a drawing is expected here");
        }
        r.target.leave = t.number("leave", -100.0, 1000.0, 0.0);
    }
    if (v.has("pattern")) {
        const JsonView p = v.object("pattern");
        if (r.kind == OperationKind::Mill) p.allow({"chordTolerance"});
        p.allow({"rail1", "rail2", "by", "spacing", "scallop", "order", "ends", "from", "reversed", "across", "chordTolerance", "longestStep"});
        r.pattern.rail1 = refs(p, "rail1");
        r.pattern.rail2 = refs(p, "rail2");
        r.pattern.byScallop = p.choice("by", {"spacing", "scallop"}, 0) == 1;
        r.pattern.spacing = p.number("spacing", 0.005, 1000.0, r.pattern.spacing);
        r.pattern.scallop = p.number("scallop", 1e-5, 100.0, r.pattern.scallop);
        r.pattern.order = static_cast<RowOrder>(p.choice("order", {"oneWay", "backAndForth"}, 1));
        r.pattern.ends = static_cast<RowEnds>(p.choice("ends", {"onRails", "halfStepIn"}, 0));
        r.pattern.fromSecondRail = p.choice("from", {"rail1", "rail2"}, 0) == 1;
        r.pattern.reversed = p.flag("reversed", false);
        r.pattern.across = p.flag("across", false);
        r.pattern.chordTolerance = p.number("chordTolerance", 1e-4, 10.0, r.pattern.chordTolerance);
        r.pattern.longestStep = p.number("longestStep", 0.01, 100.0, r.pattern.longestStep);
    }
    if (v.has("axis")) {
        const JsonView a = v.object("axis");
        a.allow({"rule", "lead", "tilt",   "direction", "point",  "away",      "curve",    "reach",    "edges", "faces",
                 "last", "keys", "locked", "lockedAt",  "window", "smoothing", "steepest", "nearPole", "leads", "turned"});
        r.axis.rule = static_cast<AxisRule>(a.choice("rule", {"surface", "fixed", "towardRotary", "point", "curve", "lines", "normals"}, 0));
        aimFromJson(a, r.axis);
        if (a.has("last")) {
            const JsonView l = a.object("last");
            l.allow({"rule", "lead", "tilt", "direction", "point", "away", "curve", "reach", "edges", "faces", "turned"});
            const int rule = l.choice("rule", {"surface", "fixed", "towardRotary", "point", "curve", "lines", "normals", "same"}, 7);
            r.axis.blended = rule < 7;
            r.axis.last.rule = r.axis.blended ? static_cast<AxisRule>(rule) : AxisRule::Surface;
            aimFromJson(l, r.axis.last);
        }
        for (const JsonView& k : a.list("keys", kMostKeys)) {
            k.allow({"at", "atLast", "row", "lead", "tilt"});
            AxisKey key;
            key.at = k.number("at", 0.0, 1.0);
            key.atLast = k.number("atLast", 0.0, 1.0, key.at);
            key.row = k.integer("row", -1, 1000000, -1);
            key.leadDegrees = k.number("lead", -90.0, 90.0, 0.0);
            key.tiltDegrees = k.number("tilt", -90.0, 90.0, 0.0);
            r.axis.keys.push_back(key);
        }
        r.axis.locked = a.text("locked", "", 20);
        r.axis.lockedDegrees = a.number("lockedAt", -36000.0, 36000.0, 0.0);
        r.axis.smoothing = a.number("smoothing", 0.0, 1000.0, 0.0);
        r.axis.steepest = a.number("steepest", 0.0, 1e4, 0.0);
        r.axis.nearPole = a.number("nearPole", 0.0, 10.0, 0.0);
        r.axis.leadByPattern = a.choice("leads", {"feed", "pattern"}, 0) == 1;
        if (a.has("window")) {
            const auto w = a.numbers("window", 2, 0.0, 180.0);
            if (w.size() == 2 && w[0] <= w[1]) {
                r.axis.limited = true;
                r.axis.lowDegrees = w[0];
                r.axis.highDegrees = w[1];
            } else if (!a.failed()) {
                a.complain("'window' is the smallest and the largest angle, e.g. [10, 60]");
            }
        }
    }
    if (v.has("guard")) {
        const JsonView g = v.object("guard");
        g.allow({"shank", "holder", "gouge", "against", "response"});
        r.guard.shankClearance = g.number("shank", 0.0, 1000.0, r.guard.shankClearance);
        r.guard.holderClearance = g.number("holder", 0.0, 1000.0, r.guard.holderClearance);
        r.guard.gougeTolerance = g.number("gouge", 0.0, 10.0, r.guard.gougeTolerance);
        r.guard.response = static_cast<GuardResponse>(g.choice("response", {"report", "lift", "drop"}, 0));
        if (g.has("against")) {
            r.guard.part = r.guard.fixture = r.guard.machine = false;
            for (const JsonView& word : g.list("against", 3)) {
                const std::string w = word.raw().is_string() ? word.raw().get<std::string>() : "";
                if (w == "part")
                    r.guard.part = true;
                else if (w == "fixture")
                    r.guard.fixture = true;
                else if (w == "machine")
                    r.guard.machine = true;
                else
                    word.complain("'part', 'fixture' or 'machine' is expected here");
            }
        }
    }
    if (v.has("links")) {
        const JsonView l = v.object("links");
        l.allow({"entryRadius", "smallGap", "small", "skin", "approach", "low"});
        r.link.low = l.flag("low", false);
        r.link.entryRadius = l.number("entryRadius", 0.0, 1000.0, r.link.entryRadius);
        r.link.smallGap = l.number("smallGap", 0.0, 1000.0, r.link.smallGap);
        r.link.small = static_cast<SmallLink>(l.choice("small", {"direct", "smooth"}, 1));
        r.link.approach = l.number("approach", 0.0, 1000.0, r.link.approach);
        if (l.has("skin")) {
            const JsonView s = l.object("skin");
            s.allow({"kind", "size", "axis"});
            r.link.skin.axis = static_cast<int>(s.choice("axis", {"x", "y", "z"}, 2));
            r.link.skin.kind = static_cast<SkinKind>(s.choice("kind", {"plane", "cylinder", "sphere"}, 1));
            r.link.skin.size = s.number("size", -kFar, kFar, r.link.skin.size);
            if (r.link.skin.kind != SkinKind::Plane && !s.failed() && !(r.link.skin.size > 0.0)) s.complain("the radius of the skin must be above 0");
        }
    }
    return r;
}

OrderedJson stageToJson(const Recipe& r, Stage stage) {
    switch (stage) {
    case Stage::Target: {
        OrderedJson out = {{"faces", refsToJson(r.target.faces)}, {"leave", r.target.leave}};
        if (!r.target.edges.empty()) out["edges"] = refsToJson(r.target.edges);
        if (!r.target.profile.empty()) out["profile"] = refsToJson(r.target.profile);
        if (!r.target.drawings.empty()) out["drawings"] = r.target.drawings;
        return out;
    }
    case Stage::Pattern: {
        const PatternSpec& p = r.pattern;
        return {{"rail1", refsToJson(p.rail1)},
                {"rail2", refsToJson(p.rail2)},
                {"by", p.byScallop ? "scallop" : "spacing"},
                {"spacing", p.spacing},
                {"scallop", p.scallop},
                {"order", p.order == RowOrder::OneWay ? "oneWay" : "backAndForth"},
                {"ends", p.ends == RowEnds::OnRails ? "onRails" : "halfStepIn"},
                {"from", p.fromSecondRail ? "rail2" : "rail1"},
                {"reversed", p.reversed},
                {"across", p.across},
                {"chordTolerance", p.chordTolerance},
                {"longestStep", p.longestStep}};
    }
    case Stage::Axis: {
        const AxisSpec& a = r.axis;
        OrderedJson out = aimToJson(a, kRules[static_cast<int>(a.rule)]);
        out["last"] = aimToJson(a.last, a.blended ? kRules[static_cast<int>(a.last.rule)] : "same");
        out["keys"] = OrderedJson::array();
        for (const AxisKey& k : a.keys) {
            OrderedJson key = {{"at", k.at}, {"atLast", k.atLast}, {"lead", k.leadDegrees}, {"tilt", k.tiltDegrees}};
            if (k.row >= 0) key["row"] = k.row;
            out["keys"].push_back(std::move(key));
        }
        out["locked"] = a.locked;
        out["lockedAt"] = a.lockedDegrees;
        out["smoothing"] = a.smoothing;
        out["steepest"] = a.steepest;
        out["nearPole"] = a.nearPole;
        out["leads"] = a.leadByPattern ? "pattern" : "feed";
        if (a.limited) out["window"] = {a.lowDegrees, a.highDegrees};
        return out;
    }
    case Stage::Guard: {
        static constexpr const char* kResponses[] = {"report", "lift", "drop"};
        const GuardSpec& g = r.guard;
        OrderedJson against = OrderedJson::array();
        if (g.part) against.push_back("part");
        if (g.fixture) against.push_back("fixture");
        if (g.machine) against.push_back("machine");
        return {{"shank", g.shankClearance},
                {"holder", g.holderClearance},
                {"gouge", g.gougeTolerance},
                {"against", against},
                {"response", kResponses[static_cast<int>(g.response)]}};
    }
    case Stage::Links: {
        static constexpr const char* kSkins[] = {"plane", "cylinder", "sphere"};
        const LinkSpec& l = r.link;
        return {{"entryRadius", l.entryRadius},
                {"smallGap", l.smallGap},
                {"small", l.small == SmallLink::Direct ? "direct" : "smooth"},
                {"skin", {{"kind", kSkins[static_cast<int>(l.skin.kind)]}, {"size", l.skin.size}, {"axis", std::string(1, "xyz"[l.skin.axis])}}},
                {"approach", l.approach},
                {"low", l.low}};
    }
    }
    return {};
}

OrderedJson recipeToJson(const Recipe& r) {
    OrderedJson out = {{"id", r.id}, {"kind", kKinds[static_cast<int>(r.kind)]}, {"name", r.name}, {"tool", r.tool}, {"active", r.active}, {"feed", r.feed}};
    if (!r.parent.empty()) out["parent"] = r.parent;
    if (r.kind == OperationKind::Surface) {
        for (const Stage s : {Stage::Target, Stage::Pattern, Stage::Axis}) {
            static constexpr const char* kNames[] = {"target", "pattern", "axis"};
            out[kNames[static_cast<int>(s)]] = stageToJson(r, s);
        }
    } else if (follows(r.kind)) {
        out["target"] = stageToJson(r, Stage::Target);
        if (r.target.drawings.empty()) out["target"]["drawings"] = OrderedJson::array();
        out["pattern"] = stageToJson(r, Stage::Pattern);
        if (r.kind == OperationKind::Swarf) out["swarf"] = swarfToJson(r.swarf);
        if (r.kind == OperationKind::Edge) out["edge"] = breakToJson(r.edge);
        if (r.kind == OperationKind::Curve) {
            out["curve"] = curveToJson(r.curve);
            out["axis"] = stageToJson(r, Stage::Axis);
        }
        holesToJson(r, out);
    } else if (r.kind == OperationKind::Mill) {
        out["target"] = stageToJson(r, Stage::Target);
        if (r.target.drawings.empty()) out["target"]["drawings"] = OrderedJson::array();
        if (r.pattern.chordTolerance != PatternSpec{}.chordTolerance) out["pattern"] = {{"chordTolerance", r.pattern.chordTolerance}};
        out["mill"] = millToJson(r.mill);
    } else {
        holesToJson(r, out);
        out["drill"] = drillToJson(r.drill);
    }
    if (r.repeat.any() || r.kind == OperationKind::Mill || follows(r.kind))
        out["repeat"] = {{"planes", r.repeat.planes}, {"count", r.repeat.count}, {"axis", std::string(1, "xyz"[r.repeat.axis])}, {"degrees", r.repeat.degrees}};
    for (const WorkPlane& p : r.planes) {
        const Frame f = p.frame();
        OrderedJson numbers = OrderedJson::array();
        for (int i = 0; i < 3; ++i)
            for (int k = 0; k < 4; ++k) numbers.push_back(f.matrix()(i, k));
        out["onPlanes"].push_back({{"name", p.name}, {"frame", numbers}});
    }
    if (r.rests != 0) out["rests"] = r.rests;
    out["guard"] = stageToJson(r, Stage::Guard);
    out["links"] = stageToJson(r, Stage::Links);
    return out;
}

} // namespace gyre
