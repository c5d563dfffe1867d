// The focus barrel: a tube about X with cam grooves, a window, a scale, radial holes and a conical end.
#include "Solids.h"
#include "Workshop.h"
#include <cmath>

#include <BRepPrimAPI_MakeCylinder.hxx>
#include <gp_Ax2.hxx>

namespace gyre::demo {
namespace {

constexpr double kOuter = 40.0, kBore = 29.0, kLength = 120.0;
const Vec3 kAlong = Vec3::UnitX();

Vec3 onBarrel(double x, double degrees, double radius) {
    const double a = degrees * M_PI / 180.0;
    return {x, radius * std::cos(a), radius * std::sin(a)};
}

/// A cam groove whose pitch grows along the barrel: 6 wide across, 4 deep, 150° round.
TopoDS_Shape camGroove(double startDegrees) {
    std::vector<std::vector<Vec3>> sections;
    constexpr int kSections = 25;
    for (int i = 0; i <= kSections; ++i) {
        const double t = static_cast<double>(i) / kSections;
        const double x = 34.0 + 30.0 * t + 18.0 * t * t, slope = 30.0 + 36.0 * t; // mm over the whole groove
        const double degrees = startDegrees + 150.0 * t, round = kOuter * 150.0 * M_PI / 180.0;
        // Across the groove, square to its direction; the walls stand parallel to the follower's axis.
        const Vec3 out = onBarrel(0, degrees, 1), round1 = kAlong.cross(out), middle = onBarrel(x, degrees, 0);
        const Vec3 across = 3.0 * (slope * kAlong + round * round1).normalized().cross(out);
        sections.push_back({middle + (kOuter - 4.0) * out - across, middle + (kOuter - 4.0) * out + across, middle + (kOuter + 1.5) * out + across,
                            middle + (kOuter + 1.5) * out - across});
    }
    return loft(sections);
}

/// Part of a ring about X.
TopoDS_Shape sector(double from, double to, double inner, double outer, double fromDegrees, double degrees) {
    const double a = fromDegrees * M_PI / 180.0;
    const gp_Ax2 axes(gp_Pnt(from, 0, 0), gp_Dir(1, 0, 0), gp_Dir(0, std::cos(a), std::sin(a)));
    return cut(BRepPrimAPI_MakeCylinder(axes, outer, to - from, degrees * M_PI / 180.0).Shape(), {rod(Vec3(from - 1, 0, 0), kAlong, inner, to - from + 2)});
}

} // namespace

TopoDS_Shape focusBarrel() {
    TopoDS_Shape body = cut(rod(Vec3::Zero(), kAlong, kOuter, kLength), {rod(Vec3(-1, 0, 0), kAlong, kBore, kLength + 2)});
    // The far end runs down in a cone.
    const TopoDS_Shape relief =
        cut(rod(Vec3(104, 0, 0), kAlong, kOuter + 5, 20), {coneRod(Vec3(104, 0, 0), kAlong, kOuter, kOuter - 6, 16), rod(Vec3(103, 0, 0), kAlong, 1.0, 30)});
    body = cut(body, {relief});
    std::vector<TopoDS_Shape> ends; // round, as the follower's cutter leaves them
    for (const double start : {0.0, 120.0, 240.0})
        for (const auto& [x, degrees] : {std::pair{34.0, 0.0}, std::pair{82.0, 150.0}}) {
            const Vec3 out = onBarrel(0, start + degrees, 1);
            ends.push_back(rod(onBarrel(x, start + degrees, kOuter - 4.0), out, 3.002, 6.0)); // a hair wider: tangent walls confuse the kernel
        }
    body = cut(body, ends);
    body = cut(body, {camGroove(0), camGroove(120), camGroove(240)});
    std::vector<TopoDS_Shape> small{sector(90, 100, kOuter - 1.5, kOuter + 2, 100, 50)};
    for (int i = 0; i < 6; ++i) small.push_back(rod(onBarrel(14, 60 * i + 15, kBore - 4), onBarrel(0, 60 * i + 15, 1), 2.5, 20));
    for (int i = 0; i < 36; ++i) { // every tenth degree, longer at every third
        const Frame at = lookingAlong(onBarrel(i % 3 ? 24 : 25.5, 10.0 * i, kOuter), onBarrel(0, 10.0 * i, 1));
        Frame turned = at;
        turned.linear().col(0) = kAlong;
        turned.linear().col(1) = at.linear().col(2).cross(kAlong);
        small.push_back(pad(turned, i % 3 ? 4 : 7, 0.6, -0.4, 2));
    }
    return cut(body, small);
}

// A mandrel that fills the bore, with a collar at each end and a groove where drills come through.
TopoDS_Shape barrelMandrel() {
    const TopoDS_Shape groove = cut(rod(Vec3(9, 0, 0), kAlong, kBore + 1, 10), {rod(Vec3(8, 0, 0), kAlong, 22, 12)});
    return cut(fuse(rod(Vec3(-30, 0, 0), kAlong, kBore - 0.05, 160),
                    {rod(Vec3(-18, 0, 0), kAlong, 36, 18), rod(Vec3(120, 0, 0), kAlong, 33, 8), rod(Vec3(128, 0, 0), kAlong, 12, 14)}),
               {groove});
}

} // namespace gyre::demo
