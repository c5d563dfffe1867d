// The lamp yoke: a block whose corners are cut to planes at compound angles, with bosses, ports and pockets on them.
#include "Solids.h"
#include "Workshop.h"
#include <cmath>

namespace gyre::demo {

std::vector<std::pair<Vec3, Vec3>> yokePlanes() {
    const auto way = [](double azimuth, double tilt) {
        const double a = azimuth * M_PI / 180.0, t = tilt * M_PI / 180.0;
        return Vec3(std::sin(t) * std::cos(a), std::sin(t) * std::sin(a), std::cos(t));
    };
    return {{Vec3(0, 0, 62), Vec3::UnitZ()},   {Vec3(34, -22, 48), way(-35, 38)}, {Vec3(-34, -20, 46), way(215, 42)}, {Vec3(32, 24, 47), way(40, 40)},
            {Vec3(-32, 24, 48), way(140, 36)}, {Vec3(52, 0, 26), way(4, 78)},     {Vec3(-52, 2, 26), way(176, 80)}};
}

TopoDS_Shape lampYoke() {
    const auto planes = yokePlanes();
    TopoDS_Shape body = block(Vec3(-56, -40, 0), Vec3(56, 40, 64));
    std::vector<TopoDS_Shape> away;
    for (const auto& [at, normal] : planes) away.push_back(pad(lookingAlong(at, normal), 200, 200, 0, 120));
    body = cut(body, away);
    // The yoke's fork: a slot from the front, with a cross bore through both arms.
    Frame front = Frame::Identity();
    front.translation() = Vec3(0, -40, 0);
    body = cut(body, {pad(front, 30, 56, 14, 90, 6)});
    std::vector<TopoDS_Shape> bosses, holes;
    for (std::size_t i = 1; i < planes.size(); ++i) {
        const auto& [at, normal] = planes[i];
        const bool port = i < 5;
        if (port) {
            bosses.push_back(rod(at - 2.0 * normal, normal, 9.5, 5.0));
            holes.push_back(rod(at - 16.0 * normal, normal, 3.3, 22.0));
            holes.push_back(rod(at - 1.0 * normal, normal, 5.5, 6.0));
        } else {
            holes.push_back(pad(lookingAlong(at, normal), 26, 18, -7, 5, 4));
            for (const double s : {-1.0, 1.0}) {
                const Vec3 beside = lookingAlong(at, normal) * Vec3(18.0 * s, 0, -12);
                holes.push_back(rod(beside, normal, 1.65, 20.0));
            }
        }
    }
    // On top: a round pocket with a boss left standing.
    holes.push_back(cut(rod(Vec3(0, 20, 56), Vec3::UnitZ(), 14, 10), {rod(Vec3(0, 20, 55), Vec3::UnitZ(), 6, 12)}));
    holes.push_back(rod(Vec3(0, 20, 44), Vec3::UnitZ(), 2.5, 30));
    holes.push_back(rod(Vec3(-60, -27, 36), Vec3::UnitX(), 4.0, 120));
    return cut(fuse(body, bosses), holes);
}

// A riser with a dovetail under it.
TopoDS_Shape yokeRiser() {
    const TopoDS_Shape riser = block(Vec3(-30, -22, -50), Vec3(30, 22, 0));
    const TopoDS_Shape tail = loft({{Vec3(-40, -14, -50), Vec3(40, -14, -50), Vec3(40, 14, -50), Vec3(-40, 14, -50)},
                                    {Vec3(-40, -24, -66), Vec3(40, -24, -66), Vec3(40, 24, -66), Vec3(-40, 24, -66)}},
                                   true);
    return fuse(riser, {tail});
}

} // namespace gyre::demo
