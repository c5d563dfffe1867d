// The pierced dome: a hemisphere shell with star holes, none of them square to its surface.
#include "Solids.h"
#include "Workshop.h"
#include <cmath>

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <TopTools_ListOfShape.hxx>
#include <gp_Ax2.hxx>

namespace gyre::demo {

// Four rings of twelve. Each hole's axis leans from the radius by 6° to 14° to a side that turns with the ring.
std::vector<StarHole> starHoles() {
    constexpr double kDiameter[4] = {2.5, 3.2, 4.0, 5.0};
    std::vector<StarHole> holes;
    for (int ring = 0; ring < 4; ++ring)
        for (int i = 0; i < 12; ++i) {
            const double latitude = (18.0 + 16.0 * ring) * M_PI / 180.0, longitude = (30.0 * i + 11.0 * ring) * M_PI / 180.0;
            const Vec3 out(std::cos(latitude) * std::cos(longitude), std::cos(latitude) * std::sin(longitude), std::sin(latitude));
            const Vec3 east(-std::sin(longitude), std::cos(longitude), 0.0), north = out.cross(east);
            const double lean = (6.0 + 2.0 * ((i + ring) % 5)) * M_PI / 180.0, side = 70.0 * ring * M_PI / 180.0;
            holes.push_back(
                {kDomeRadius * out, (std::cos(lean) * out + std::sin(lean) * (std::cos(side) * east + std::sin(side) * north)).normalized(), kDiameter[(i + ring) % 4]});
        }
    return holes;
}

TopoDS_Shape piercedDome() {
    const gp_Pnt centre(0, 0, 0);
    const TopoDS_Shape outer = BRepPrimAPI_MakeSphere(centre, kDomeRadius, 0.0, M_PI / 2).Shape();
    const TopoDS_Shape inner = BRepPrimAPI_MakeSphere(centre, kDomeRadius - kDomeWall, 0.0, M_PI / 2).Shape();
    const TopoDS_Shape rim = BRepAlgoAPI_Cut(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -6), gp_Dir(0, 0, 1)), kDomeRadius + 8.0, 6.0).Shape(),
                                             BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -7), gp_Dir(0, 0, 1)), kDomeRadius - kDomeWall, 8.0).Shape())
                                 .Shape();
    const TopoDS_Shape shell = BRepAlgoAPI_Fuse(BRepAlgoAPI_Cut(outer, inner).Shape(), rim).Shape();
    TopTools_ListOfShape body, drills;
    body.Append(shell);
    for (const StarHole& h : starHoles()) {
        const Vec3 from = h.point - 3.0 * kDomeWall * h.direction;
        drills.Append(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(from.x(), from.y(), from.z()), gp_Dir(h.direction.x(), h.direction.y(), h.direction.z())), 0.5 * h.diameter,
                                               6.0 * kDomeWall)
                          .Shape());
    }
    BRepAlgoAPI_Cut cut;
    cut.SetArguments(body);
    cut.SetTools(drills);
    cut.Build();
    return cut.Shape();
}

// The rim stands on a ring and is held from below by screws; a low spigot centres it, clear of the drills that come through.
TopoDS_Shape domeSpigot() {
    const TopoDS_Shape ring =
        fuse(rod(Vec3(0, 0, -30), Vec3::UnitZ(), kDomeRadius + 6.0, 24.0), {rod(Vec3(0, 0, -6), Vec3::UnitZ(), kDomeRadius - kDomeWall - 0.02, 4.0)});
    std::vector<TopoDS_Shape> room{rod(Vec3(0, 0, -31), Vec3::UnitZ(), 40.0, 30.0)};
    for (int i = 0; i < 6; ++i) {
        const double turn = M_PI / 3.0 * i;
        room.push_back(rod(Vec3((kDomeRadius + 1.0) * std::cos(turn), (kDomeRadius + 1.0) * std::sin(turn), -31.0), Vec3::UnitZ(), 2.75, 26.0));
    }
    return cut(ring, room);
}

} // namespace gyre::demo
