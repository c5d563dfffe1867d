// Demo jobs of indexed and wrapped work: the focus barrel and the lamp yoke, cut from their setups.
#include "DemoJobs.h"
#include "Route.h"
#include "Workshop.h"
#include "base/File.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "target/TargetSpec.h"
#include <cmath>
#include <cstdio>

namespace gyre::demo {
namespace {

/// The barrel's scale as a flat drawing: x along the barrel, y around it at Ø80; every tenth degree a line, each third longer.
std::string degreeScale() {
    std::string svg = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"40mm\" height=\"260mm\" viewBox=\"0 -260 40 260\">\n";
    for (int i = 0; i < 36; ++i) {
        const double y = 2.0 * M_PI * 40.0 * i / 36.0;
        char line[160];
        std::snprintf(line, sizeof line, "<path d=\"M%g %.6f L%g %.6f\"/>\n", 22.3, -y, i % 3 ? 25.7 : 28.7, -y);
        svg += line;
    }
    return svg + "</svg>\n";
}

bool makeBarrel(const std::filesystem::path& folder) {
    if (!writeFileAtomic(folder / "degree-scale.svg", degreeScale())) return false;
    Route r(folder, "barrel-setup");
    r.job.name = "Focus barrel, wrapped work";
    JobBody scale;
    scale.name = "degree scale";
    scale.role = "drawing";
    scale.file = "degree-scale.svg";
    scale.flat = true;
    r.job.bodies.push_back(scale);
    if (!r.place()) return false;
    Recipe& round = r.mill(MillShape::Round, "Outside");
    round.tool = "flat-10";
    round.mill->lines = MillLines::Spiral;
    round.mill->stepover = 6.0;
    round.mill->to = 104.0;
    Recipe& cone = r.mill(MillShape::Round, "Conical end");
    cone.tool = "ball-8";
    cone.mill->from = 104.0;
    cone.mill->to = 120.0;
    cone.mill->stepover = 0.8;
    Recipe& grooves = r.mill(MillShape::Follow, "Cam grooves", {}, "round X");
    grooves.target->drawings = {"follower"};
    grooves.tool = "flat-6";
    grooves.mill->depthBy = MillDepth::Typed;
    grooves.mill->depth = 4.0;
    grooves.mill->stepdown = 1.35;
    grooves.mill->width = 6.0;
    grooves.mill->rampDegrees = 2.0;
    grooves.repeat->count = 3;
    grooves.repeat->axis = 0;
    std::vector<int> floor;
    for (const int f : r.facesAt(SurfaceKind::Cylinder, Vec3(95, 38.5 * std::cos(125 * M_PI / 180), 38.5 * std::sin(125 * M_PI / 180)))) floor.push_back(f);
    Recipe& window = r.mill(MillShape::Pocket, "Window", floor);
    window.tool = "flat-4";
    window.mill->stepdown = 0.75;
    window.mill->stepover = 1.6;
    window.mill->scallop = 0.01;
    Recipe& marks = r.mill(MillShape::Follow, "Degree scale", {}, "round X");
    marks.target->drawings = {"degree scale"};
    marks.mill->radius = 40.0;
    marks.tool = "graver-0.5";
    marks.mill->depthBy = MillDepth::Typed;
    marks.mill->depth = 0.4;
    marks.mill->stepdown = 0.0;
    marks.mill->rampDegrees = 8.0;
    for (Recipe* o : {&grooves, &marks}) o->link->skin = window.link->skin;
    for (const Hole& h : r.now().holes) // drilled from outside
        if (h.direction.dot(Vec3(0, h.mouth.y(), h.mouth.z())) < 0.0) r.job.mark(h).turned = true;
    r.holes([](const HoleGroup& g) { return g.fourAxis; });
    return r.save("barrel-work");
}

bool makeYoke(const std::filesystem::path& folder) {
    Route r(folder, "yoke-setup");
    r.job.name = "Lamp yoke, indexed work";
    if (!r.place()) return false;
    Recipe& rough = r.mill(MillShape::Rough, "Rough from above", {}, "top");
    rough.tool = "flat-10";
    rough.mill->depthBy = MillDepth::Typed;
    rough.mill->depth = 22.0;
    rough.mill->stepdown = 6.0;
    rough.mill->stepover = 2.5;
    r.mill(MillShape::Face, "Top", r.facesAt(SurfaceKind::Plane, Vec3(0, -5, 62)), "top").tool = "flat-10";
    Recipe& ring = r.mill(MillShape::Pocket, "Ring pocket", r.facesAt(SurfaceKind::Plane, Vec3(10, 20, 56)), "top");
    ring.mill->stepdown = 2.0;
    const auto planes = yokePlanes();
    const auto at = [&](std::size_t i, double deep, const Vec3& aside = Vec3::Zero()) { return Vec3(planes[i].first - deep * planes[i].second + aside); };
    Recipe& pocket = r.mill(MillShape::Pocket, "Side pockets", r.facesAt(SurfaceKind::Plane, at(5, 7.0)), "right pocket");
    pocket.mill->stepdown = 1.75;
    pocket.mill->topBy = MillTop::Stock;
    r.repeat(pocket, {"left pocket"});
    const Vec3 side = planes[1].second.unitOrthogonal();
    Recipe& bore = r.mill(MillShape::Bore, "Port mouths", r.facesAt(SurfaceKind::Cylinder, at(1, -1.0, 5.5 * side)), "right port");
    bore.mill->stepdown = 0.8;
    bore.link->approach = 12.0; // what roughing leaves before the leaning faces is entered at feed
    r.repeat(bore, {"left port", "right rear port", "left rear port"});
    r.holes([](const HoleGroup& g) { return !g.holes.empty(); });
    for (Recipe& o : r.job.route)
        if (o.kind == OperationKind::Holes && o.holes.size() > 1) o.drill->above = 12.0; // over what stands there
    return r.save("yoke-work");
}

} // namespace

bool makeMillJobs(const std::filesystem::path& folder) { return makeBarrel(folder) && makeYoke(folder); }

} // namespace gyre::demo
