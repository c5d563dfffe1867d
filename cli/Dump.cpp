// Tables of a toolpath for anyone's script.
#include "Commands.h"
#include "base/File.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/Sending.h"
#include <fmt/format.h>

namespace gyre {

Status dumpOperation(const JobResults& results, const OperationResult& op, const std::filesystem::path& folder) {
    if (!op.complete()) return fail("the operation has no toolpath", op.operation, "Look at its findings");
    const Machine& m = *results.place->machine;
    const Toolpath& path = op.links->path;
    std::string csv = "index,row,kind,x,y,z,i,j,k,cx,cy,cz,nx,ny,nz,feed,time";
    for (const Joint& j : m.joints) csv += "," + j.name;
    csv += "\n";
    const auto add = [&](double v) { csv += fmt::format(",{:.17g}", v); };
    for (std::size_t i = 0; i < path.size(); ++i) {
        csv += fmt::format("{},{},{}", i, path.row[i], motionName(path.motion[i]));
        for (const Vec3* v : {&path.tip[i], &path.axis[i], &path.contact[i], &path.normal[i]})
            for (int k = 0; k < 3; ++k) add((*v)[k]);
        add(path.rapid(i) ? 0.0 : static_cast<double>(path.feed[i]));
        add(op.motion->timeOf(i));
        const double* q = op.motion->at(op.motion->stepOf[i]);
        for (std::size_t j = 0; j < m.joints.size(); ++j) add(m.joints[j].kind == JointKind::Rotary ? degrees(q[j]) : q[j]);
        csv += "\n";
    }
    OrderedJson zones = OrderedJson::array();
    for (const Piece& p : piecesOf(op.tool))
        zones.push_back({{"zone", zoneName(p.zone)},
                         {"name", p.name},
                         {"z0", p.shape.z0},
                         {"radius0", p.shape.r0},
                         {"z1", p.shape.z1},
                         {"radius1", p.shape.r1},
                         {"round", p.shape.round}});
    const Cutter& c = op.tool.cutter;
    OrderedJson json = {{"format", "gyre-dump"},
                        {"version", 1},
                        {"operation", op.operation},
                        {"cutter", {{"shape", cutterShapeName(c.shape)}, {"DC", c.diameter}, {"RE", c.cornerRadius}, {"TA", c.taperDegrees}, {"APMX", c.fluteLength}}},
                        {"stickOut", op.tool.stickOut},
                        {"gaugeLength", op.tool.gaugeLength()},
                        {"assembly", zones},
                        {"machine", OrderedJson::parse(machineToJson(m))}};
    const Frame& f = results.place->partFrame;
    for (int r = 0; r < 4; ++r) {
        OrderedJson row = OrderedJson::array();
        for (int k = 0; k < 4; ++k) row.push_back(f.matrix()(r, k));
        json["datumInSeat"].push_back(row);
    }
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    const std::string name = harmlessName(op.operation);
    if (auto ok = writeFileAtomic(folder / (name + ".csv"), csv); !ok) return ok;
    return writeFileAtomic(folder / (name + ".json"), textOf(json, 1) + "\n");
}

} // namespace gyre
