// The workshop's tool library.
#include "Workshop.h"
#include <cmath>
#include <functional>

namespace gyre::demo {
namespace {

std::vector<HolderStep> slimHolder() { return {{16, 20, 26}, {28, 28, 22}, {46, 46, 26}}; }
std::vector<HolderStep> stoutHolder() { return {{27, 30, 30}, {40, 40, 20}, {50, 50, 26}}; }

Assembly make(const char* id, const char* name, CutterShape shape, double d, double flute, double shoulder, double neck, double shank, double overall, double out,
              int flutes, double speed, double perTooth, bool slim) {
    Assembly a;
    a.id = id;
    a.name = name;
    a.cutter = {shape, d, 0.0, 0.0, flute, shoulder, neck, shank, overall, flutes};
    a.stickOut = out;
    a.holderName = slim ? "slim shrink holder" : "stout collet holder";
    a.holder = slim ? slimHolder() : stoutHolder();
    a.spindleSpeed = speed;
    a.feedPerTooth = perTooth;
    a.coolant = Coolant::Flood;
    return a;
}

} // namespace

ToolLibrary tools() {
    ToolLibrary l;
    l.name = "Larkmoor tool crib";
    l.assemblies = {
        make("ball-6", "Ball 6, slim", CutterShape::Ball, 6, 12, 26, 5.7, 6, 80, 42, 2, 14000, 0.06, true),
        make("ball-6-long", "Ball 6, long reach", CutterShape::Ball, 6, 12, 40, 5.7, 6, 100, 62, 2, 11000, 0.05, true),
        make("ball-8", "Ball 8", CutterShape::Ball, 8, 16, 30, 7.6, 8, 90, 50, 2, 11000, 0.07, true),
        make("ball-4", "Ball 4", CutterShape::Ball, 4, 8, 18, 3.8, 6, 70, 34, 2, 18000, 0.04, true),
        make("flat-10", "Flat 10", CutterShape::Flat, 10, 24, 32, 9.6, 10, 80, 44, 4, 8000, 0.05, false),
        make("torus-10", "Corner radius 10 R2", CutterShape::CornerRadius, 10, 16, 34, 9.4, 10, 85, 46, 4, 8000, 0.08, false),
        make("taper-4", "Tapered ball 4, 4°", CutterShape::TaperedBall, 4, 28, 28, 8, 8, 80, 42, 2, 16000, 0.05, true),
    };
    l.assemblies.push_back(make("flat-4", "Flat 4", CutterShape::Flat, 4, 11, 16, 3.8, 6, 60, 30, 3, 16000, 0.03, true));
    l.assemblies.push_back(make("graver-0.5", "Graver 0.5, 15°", CutterShape::TaperedBall, 0.5, 4, 4, 2.5, 4, 50, 26, 1, 20000, 0.02, true));
    l.assemblies.back().cutter.taperDegrees = 15.0;
    l.assemblies.push_back(make("spot-12", "Spot 12, 90°", CutterShape::Spot, 12, 18, 18, 12, 12, 75, 40, 2, 4000, 0.05, false));
    l.assemblies.back().cutter.pointDegrees = 90.0;
    l.assemblies[5].cutter.cornerRadius = 2.0;
    l.assemblies[6].cutter.taperDegrees = 4.0;
    const auto add = [&](Assembly a, const std::function<void(Cutter&)>& edit) {
        edit(a.cutter);
        l.assemblies.push_back(std::move(a));
    };
    add(make("flat-6", "Flat 6", CutterShape::Flat, 6, 16, 20, 5.7, 6, 65, 34, 3, 12000, 0.04, true), [](Cutter&) {});
    add(make("taper-flat-3", "Tapered 3, 3°", CutterShape::Tapered, 3, 20, 20, 6, 6, 65, 34, 3, 16000, 0.03, true), [](Cutter& c) { c.taperDegrees = 3.0; });
    add(make("lollipop-8", "Lollipop 8", CutterShape::Lollipop, 8, 7, 40, 5, 8, 90, 54, 3, 9000, 0.04, true), [](Cutter&) {});
    add(make("chamfer-8", "Chamfer 8, 90°", CutterShape::Chamfer, 8, 9, 9, 8, 8, 70, 38, 4, 9000, 0.03, true), [](Cutter& c) {
        c.pointDegrees = 90.0;
        c.tipDiameter = 1.0;
    });
    add(make("drill-2.5", "Drill 2.5", CutterShape::Drill, 2.5, 28, 28, 2.5, 2.5, 60, 34, 2, 9000, 0.03, true), [](Cutter& c) { c.pointDegrees = 140.0; });
    add(make("drill-5", "Drill 5", CutterShape::Drill, 5, 40, 40, 5, 5, 82, 48, 2, 6000, 0.06, true), [](Cutter& c) { c.pointDegrees = 140.0; });
    for (const auto& [id, name, d, length, out, speed] :
         {std::tuple{"drill-3.2", "Drill 3.2", 3.2, 32.0, 38.0, 8000.0}, std::tuple{"drill-3.3", "Drill 3.3", 3.3, 32.0, 38.0, 8000.0},
          std::tuple{"drill-4", "Drill 4", 4.0, 36.0, 42.0, 7000.0}, std::tuple{"drill-6.6", "Drill 6.6", 6.6, 52.0, 60.0, 5000.0},
          std::tuple{"drill-8", "Drill 8", 8.0, 60.0, 68.0, 4200.0}})
        add(make(id, name, CutterShape::Drill, d, length, length, d, d, length + 34, out, 2, speed, 0.05, true), [](Cutter& c) { c.pointDegrees = 140.0; });
    add(make("spot-6", "Spot 6, 90°", CutterShape::Spot, 6, 10, 10, 6, 6, 60, 32, 2, 6000, 0.04, true), [](Cutter& c) { c.pointDegrees = 90.0; });
    add(make("barrel-10", "Barrel 10, R 85", CutterShape::Barrel, 10, 20, 24, 9.6, 10, 85, 46, 4, 8000, 0.07, true), [](Cutter& c) {
        c.cornerRadius = 1.5;
        c.profileRadius = 85.0;
    });
    add(make("ball-8-side", "Ball 8, long flutes", CutterShape::Ball, 8, 36, 38, 8, 8, 95, 56, 4, 8000, 0.05, true), [](Cutter&) {});
    add(make("flat-6-side", "Flat 6, long flutes", CutterShape::Flat, 6, 50, 52, 6, 6, 110, 62, 4, 9000, 0.03, true), [](Cutter&) {});
    add(make("lollipop-2", "Lollipop 2", CutterShape::Lollipop, 2, 2, 12, 0.6, 4, 50, 28, 2, 18000, 0.015, true), [](Cutter&) {});
    for (Assembly& a : l.assemblies) {
        const double bite = a.feedPerTooth;
        const bool drills = a.cutter.shape == CutterShape::Drill || a.cutter.shape == CutterShape::Spot;
        a.materials = {{"aluminium 6061", drills ? 110.0 : 280.0, bite},
                       {"brass CW614N", drills ? 80.0 : 200.0, 0.8 * bite},
                       {"steel 42CrMo4", drills ? 55.0 : 120.0, 0.6 * bite},
                       {"PA6", drills ? 90.0 : 220.0, 1.2 * bite}};
        for (CuttingData& m : a.materials) m.chipLoad = std::max(0.01, std::round(1000.0 * m.chipLoad) / 1000.0);
    }
    return l;
}

} // namespace gyre::demo
