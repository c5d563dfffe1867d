#include "mill/MillJson.h"

namespace gyre {
namespace {

constexpr double kFar = 1e5;
constexpr const char* kDepths[] = {"geometry", "typed", "model", "profile"};
constexpr const char* kTops[] = {"geometry", "stock", "typed"};
constexpr const char* kSides[] = {"inside", "outside", "left", "right"};
constexpr const char* kEntries[] = {"helix", "ramp", "plunge"};
constexpr const char* kLines[] = {"rings", "lines", "spiral"};

} // namespace

MillSpec millFromJson(const JsonView& v) {
    v.allow({"shape",      "on",       "radius", "depthBy", "depth", "topBy", "top",         "stepdown", "stepover",   "scallop", "side", "passes",        "width",
             "widthAlong", "parallel", "climb",  "lines",   "along", "entry", "rampDegrees", "beyond",   "leaveFloor", "from",    "to",   "bossClearance", "holes"});
    MillSpec m;
    m.shape = static_cast<MillShape>(v.choice("shape", {"face", "pocket", "outline", "bore", "follow", "round", "rough"}, static_cast<int>(m.shape)));
    m.on = v.text("on", "", 200);
    m.radius = v.number("radius", 0.0, kFar, 0.0);
    m.depthBy = static_cast<MillDepth>(v.choice("depthBy", {"geometry", "typed", "model", "profile"}, 0));
    m.depth = v.number("depth", -kFar, kFar, m.depth);
    m.topBy = static_cast<MillTop>(v.choice("topBy", {"geometry", "stock", "typed"}, 0));
    m.top = v.number("top", -kFar, kFar, 0.0);
    m.stepdown = v.number("stepdown", 0.0, 1e4, m.stepdown);
    if (m.stepdown > 0.0 && m.stepdown < 0.005 && !v.failed()) v.complain("'stepdown' is 0 or at least 0.005");
    m.stepover = v.number("stepover", 0.01, 1e4, m.stepover);
    m.scallop = v.number("scallop", 0.0, 100.0, 0.0);
    m.side = static_cast<MillSide>(v.choice("side", {"inside", "outside", "left", "right"}, 0));
    m.passes = v.integer("passes", 1, 1000, 1);
    m.width = v.number("width", 0.0, 1e4, 0.0);
    m.widthAlong = v.flag("widthAlong", false);
    m.parallel = v.flag("parallel", true);
    m.climb = v.flag("climb", true);
    m.lines = static_cast<MillLines>(v.choice("lines", {"rings", "lines", "spiral"}, 0));
    m.along = v.number("along", -360.0, 360.0, 0.0);
    m.entry = static_cast<MillEntry>(v.choice("entry", {"helix", "ramp", "plunge"}, 0));
    m.rampDegrees = v.number("rampDegrees", 0.1, 89.0, m.rampDegrees);
    m.beyond = v.number("beyond", 0.0, 1e3, 0.0);
    m.leaveFloor = v.number("leaveFloor", -100.0, 1000.0, 0.0);
    m.from = v.number("from", -kFar, kFar, 0.0);
    m.to = v.number("to", -kFar, kFar, 0.0);
    m.bossClearance = v.number("bossClearance", 0.0, 1e3, m.bossClearance);
    m.capped = v.choice("holes", {"closed", "open"}, 0) == 0;
    return m;
}

OrderedJson millToJson(const MillSpec& m) {
    return {{"shape", millShapeName(m.shape)},
            {"on", m.on},
            {"radius", m.radius},
            {"depthBy", kDepths[static_cast<int>(m.depthBy)]},
            {"depth", m.depth},
            {"topBy", kTops[static_cast<int>(m.topBy)]},
            {"top", m.top},
            {"stepdown", m.stepdown},
            {"stepover", m.stepover},
            {"scallop", m.scallop},
            {"side", kSides[static_cast<int>(m.side)]},
            {"passes", m.passes},
            {"width", m.width},
            {"widthAlong", m.widthAlong},
            {"parallel", m.parallel},
            {"climb", m.climb},
            {"lines", kLines[static_cast<int>(m.lines)]},
            {"along", m.along},
            {"entry", kEntries[static_cast<int>(m.entry)]},
            {"rampDegrees", m.rampDegrees},
            {"beyond", m.beyond},
            {"leaveFloor", m.leaveFloor},
            {"from", m.from},
            {"to", m.to},
            {"bossClearance", m.bossClearance},
            {"holes", m.capped ? "closed" : "open"}};
}

} // namespace gyre
