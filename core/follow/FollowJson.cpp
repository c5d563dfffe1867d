#include "follow/FollowJson.h"

namespace gyre {

namespace {
constexpr const char* kCorners[] = {"roll", "stop", "loop"};
constexpr const char* kBy[] = {"tip", "ballCentre", "side", "channel"};
constexpr const char* kSides[] = {"on", "left", "right"};
constexpr const char* kAxes[] = {"propose", "turn", "fixed"};
constexpr double kFar = 1e4; // mm
} // namespace

SwarfSpec swarfFromJson(const JsonView& v) {
    v.allow({"from", "otherSide", "flipped", "past", "stepdown", "thickness", "stepover", "order", "entry", "climb", "corner", "extend", "twist", "floor", "tolerance",
             "sync"});
    SwarfSpec s;
    s.fromRails = v.choice("from", {"faces", "rails"}, 0) == 1;
    s.otherSide = v.flag("otherSide", false);
    s.flipped = v.flag("flipped", false);
    s.past = v.number("past", -kFar, kFar, 0.0);
    s.stepdown = v.number("stepdown", 0.0, kFar, 0.0);
    s.thickness = v.number("thickness", 0.0, kFar, 0.0);
    s.stepover = v.number("stepover", 0.01, kFar, s.stepover);
    s.depthsFirst = v.choice("order", {"thicknessFirst", "depthsFirst"}, 0) == 1;
    s.entry = v.number("entry", 0.0, 1.0, 0.0);
    s.climb = v.flag("climb", true);
    s.corner = static_cast<SwarfCorner>(v.choice("corner", {"roll", "stop", "loop"}, 0));
    s.extend = v.number("extend", 0.0, kFar, 0.0);
    s.twist = v.flag("twist", true);
    s.lift = v.choice("floor", {"lift", "report"}, 0) == 0;
    s.tolerance = v.number("tolerance", 1e-4, 100.0, s.tolerance);
    if (v.has("sync"))
        for (const JsonView& pair : v.list("sync", 1000)) {
            pair.allow({"lower", "upper"});
            s.sync.push_back({pair.number("lower", 0.0, 1.0), pair.number("upper", 0.0, 1.0)});
        }
    return s;
}

OrderedJson swarfToJson(const SwarfSpec& s) {
    OrderedJson out = {{"from", s.fromRails ? "rails" : "faces"},
                       {"otherSide", s.otherSide},
                       {"flipped", s.flipped},
                       {"past", s.past},
                       {"stepdown", s.stepdown},
                       {"thickness", s.thickness},
                       {"stepover", s.stepover},
                       {"order", s.depthsFirst ? "depthsFirst" : "thicknessFirst"},
                       {"entry", s.entry},
                       {"climb", s.climb},
                       {"corner", kCorners[static_cast<int>(s.corner)]},
                       {"extend", s.extend},
                       {"twist", s.twist},
                       {"floor", s.lift ? "lift" : "report"},
                       {"tolerance", s.tolerance},
                       {"sync", OrderedJson::array()}};
    for (const auto& pair : s.sync) out["sync"].push_back({{"lower", pair[0]}, {"upper", pair[1]}});
    return out;
}

CurveSpec curveFromJson(const JsonView& v) {
    v.allow({"by", "side", "offset", "axial", "depth", "stepdown", "overlap", "entry", "from", "to", "reversed", "backAndForth"});
    CurveSpec s;
    s.by = static_cast<CurveBy>(v.choice("by", {"tip", "ballCentre", "side", "channel"}, 0));
    s.side = static_cast<CurveSide>(v.choice("side", {"on", "left", "right"}, 0));
    s.offset = v.number("offset", -kFar, kFar, 0.0);
    s.axial = v.number("axial", -kFar, kFar, 0.0);
    s.depth = v.number("depth", 0.0, kFar, 0.0);
    s.stepdown = v.number("stepdown", 0.0, kFar, 0.0);
    s.overlap = v.number("overlap", 0.0, kFar, 0.0);
    s.entry = v.number("entry", 0.0, 1.0, 0.0);
    s.from = v.number("from", 0.0, 1.0, 0.0);
    s.to = v.number("to", 0.0, 1.0, 1.0);
    s.reversed = v.flag("reversed", false);
    s.backAndForth = v.flag("backAndForth", true);
    return s;
}

OrderedJson curveToJson(const CurveSpec& s) {
    return {{"by", kBy[static_cast<int>(s.by)]},
            {"side", kSides[static_cast<int>(s.side)]},
            {"offset", s.offset},
            {"axial", s.axial},
            {"depth", s.depth},
            {"stepdown", s.stepdown},
            {"overlap", s.overlap},
            {"entry", s.entry},
            {"from", s.from},
            {"to", s.to},
            {"reversed", s.reversed},
            {"backAndForth", s.backAndForth}};
}

BreakSpec breakFromJson(const JsonView& v) {
    v.allow({"edges", "sharper", "as", "size", "rows", "axis", "turn", "direction", "climb"});
    BreakSpec s;
    s.edges = static_cast<BreakEdges>(v.choice("edges", {"picked", "faces", "body", "holesNear", "holesFar", "holesBoth"}, 0));
    s.sharper = v.number("sharper", 5.0, 180.0, s.sharper);
    s.round = v.choice("as", {"chamfer", "round"}, 0) == 1;
    s.size = v.number("size", 0.005, 1e3, s.size);
    s.rows = v.integer("rows", 1, 500, 1);
    s.axis = static_cast<BreakAxis>(v.choice("axis", {"propose", "turn", "fixed"}, 0));
    s.turnDegrees = v.number("turn", -150.0, 150.0, s.turnDegrees);
    const auto d = v.triple("direction", {0, 0, 1});
    s.direction = Vec3(d[0], d[1], d[2]);
    if (s.axis == BreakAxis::Fixed && !v.failed() && !(s.direction.norm() > 1e-9)) v.complain("the direction has no length");
    s.climb = v.flag("climb", true);
    return s;
}

OrderedJson breakToJson(const BreakSpec& s) {
    return {{"edges", breakEdgesName(s.edges)},
            {"sharper", s.sharper},
            {"as", s.round ? "round" : "chamfer"},
            {"size", s.size},
            {"rows", s.rows},
            {"axis", kAxes[static_cast<int>(s.axis)]},
            {"turn", s.turnDegrees},
            {"direction", {s.direction.x(), s.direction.y(), s.direction.z()}},
            {"climb", s.climb}};
}

} // namespace gyre
