// The workshop's tool library.
#include "Workshop.h"

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
    l.assemblies[5].cutter.cornerRadius = 2.0;
    l.assemblies[6].cutter.taperDegrees = 4.0;
    return l;
}

} // namespace gyre::demo
