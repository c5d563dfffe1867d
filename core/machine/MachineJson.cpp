// The machine file, docs/formats/machine.md.
#include "base/Json.h"
#include "base/Units.h"
#include "geom/MeshFile.h"
#include "machine/Machine.h"
#include <fmt/format.h>

namespace gyre {
namespace {

Vec3 toVec(const std::array<double, 3>& a) { return {a[0], a[1], a[2]}; }
OrderedJson fromVec(const Vec3& v) { return OrderedJson::array({v.x(), v.y(), v.z()}); }

// A frame is an origin and the directions of its x and z axes.
Frame readFrame(const JsonView& v) {
    v.allow({"origin", "x", "z"});
    const Vec3 z = toVec(v.triple("z", {0, 0, 1})), x = toVec(v.triple("x", {1, 0, 0}));
    if (z.norm() < 1e-9 || z.cross(x).norm() < 1e-9 * x.norm()) {
        v.complain("x and z of a frame must have a length and differ in direction");
        return Frame::Identity();
    }
    Frame f = Frame::Identity();
    const Vec3 zz = z.normalized();
    const Vec3 xx = rejected(x, zz).normalized();
    f.linear().col(0) = xx;
    f.linear().col(1) = zz.cross(xx);
    f.linear().col(2) = zz;
    f.translation() = toVec(v.triple("origin", {0, 0, 0}));
    return f;
}

OrderedJson writeFrame(const Frame& f) { return {{"origin", fromVec(f.translation())}, {"x", fromVec(f.linear().col(0))}, {"z", fromVec(f.linear().col(2))}}; }

int linkNamed(const Machine& m, const JsonView& v, const char* key) {
    const std::string name = v.text(key, "base");
    if (name == "base") return -1;
    const int j = m.find(name);
    if (j < 0) v.complain(fmt::format("there is no joint named '{}'", name.substr(0, 40)));
    return j;
}

ConvexBody readPiece(const JsonView& v) {
    const int kind = v.choice("kind", {"box", "frustum"}, 0);
    ConvexBody body;
    if (kind == 0) {
        v.allow({"kind", "low", "high", "frame"});
        const Vec3 low = toVec(v.triple("low")), high = toVec(v.triple("high"));
        if (!v.failed() && !((high - low).minCoeff() > 0.0)) v.complain("'high' must be above 'low' in x, y and z");
        body = ConvexBody::box(low, high);
    } else {
        v.allow({"kind", "z0", "z1", "diameter0", "diameter1", "frame"});
        RoundedFrustum f;
        f.z0 = v.number("z0", -1e5, 1e5);
        f.z1 = v.number("z1", -1e5, 1e5);
        f.r0 = 0.5 * v.number("diameter0", 0.0, 1e5);
        f.r1 = 0.5 * v.number("diameter1", 0.0, 1e5, 2.0 * f.r0);
        if (!v.failed() && !(f.z1 > f.z0)) v.complain("'z1' must be above 'z0'");
        body = ConvexBody::turned(f);
    }
    if (v.has("frame")) body.frame = readFrame(v.object("frame"));
    return body;
}

// A mesh file stands beside the machine file: a name without folders, so that a machine from elsewhere reads nothing else.
void readBodyMesh(const JsonView& v, const std::filesystem::path& folder, MachineBody& body) {
    v.allow({"file", "frame"});
    body.meshFile = v.text("file", 200);
    if (v.has("frame")) body.meshFrame = readFrame(v.object("frame"));
    if (v.failed()) return;
    const std::filesystem::path name = body.meshFile;
    if (name.empty() || name.has_parent_path() || !isMeshFile(name))
        return v.complain("'file' must be the plain name of an .stl, .obj or .ply file beside the machine file");
    if (folder.empty()) return v.complain("mesh files can only be read for a machine that is a file itself");
    Progress quiet;
    auto read = readMesh(folder / name, quiet);
    if (!read) return v.complain(read.error().text());
    constexpr std::size_t kMost = 200'000;
    if (read->mesh.triangles.size() > kMost)
        return v.complain(fmt::format("{} triangles are more than the {} a machine body may have", read->mesh.triangles.size(), kMost));
    for (Vec3& p : read->mesh.points) p = body.meshFrame * p;
    body.mesh = std::make_shared<const TriangleMesh>(std::move(read->mesh));
    body.tree = std::make_shared<const MeshTree>(*body.mesh);
}

Joint readJoint(const Machine& m, const JsonView& v) {
    v.allow({"name", "kind", "direction", "point", "low", "high", "speed", "acceleration", "carriedBy", "turns", "clamp"});
    Joint j;
    j.name = v.text("name", 16);
    if (m.find(j.name) >= 0) v.complain(fmt::format("the joint '{}' is there twice", j.name));
    j.kind = v.choice("kind", {"linear", "rotary"}, 0) == 1 ? JointKind::Rotary : JointKind::Linear;
    const Vec3 d = toVec(v.triple("direction"));
    if (!v.failed() && d.norm() < 1e-9) v.complain("the direction has no length");
    j.direction = d.norm() > 0.0 ? Vec3(d.normalized()) : Vec3(Vec3::UnitX());
    j.point = toVec(v.triple("point", {0, 0, 0}));
    // Files hold mm, degrees and minutes, as machine data sheets do.
    const double unit = j.kind == JointKind::Rotary ? radians(1.0) : 1.0;
    j.low = v.number("low", -1e6, 1e6) * unit;
    j.high = v.number("high", -1e6, 1e6) * unit;
    j.speed = v.number("speed", 1e-3, 1e7) * unit / 60.0;
    j.acceleration = v.number("acceleration", 1e-3, 1e7) * unit;
    j.parent = linkNamed(m, v, "carriedBy");
    j.shortest = v.choice("turns", {"counted", "shortest"}, 0) == 1;
    if (j.shortest && j.kind != JointKind::Rotary) v.complain("'turns' are for rotary joints");
    if (v.has("clamp")) {
        const JsonView c = v.object("clamp");
        c.allow({"on", "off"});
        j.clampCode = c.integer("on", 1, 999);
        j.freeCode = c.integer("off", 1, 999);
        if (!v.failed() && j.clampCode == j.freeCode) c.complain("'on' and 'off' are the same code");
        for (const int code : {j.clampCode, j.freeCode})
            if (code == 3 || code == 4 || code == 5 || code == 6 || code == 30) c.complain(fmt::format("M{} means something else already", code));
    }
    return j;
}

} // namespace

Result<Machine> machineFromJson(const std::string& text, const std::string& place, const std::filesystem::path& folder) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    Machine m;
    v.allow({"format", "version", "name", "joints", "work", "spindle", "rapid", "jointFeed", "bodies", "touching", "note"});
    if (v.text("format") != "gyre-machine") v.complain("this is not a machine file: 'format' is not 'gyre-machine'");
    if (!v.failed() && v.integer("version", 1, 1000000) != 1) v.complain("this version of the machine format is not known");
    m.name = v.text("name", 200);
    for (const JsonView& j : v.list("joints", 12)) m.joints.push_back(readJoint(m, j));
    const JsonView work = v.object("work"), spindle = v.object("spindle");
    work.allow({"carriedBy", "frame"});
    spindle.allow({"carriedBy", "frame"});
    m.workJoint = linkNamed(m, work, "carriedBy");
    m.toolJoint = linkNamed(m, spindle, "carriedBy");
    if (work.has("frame")) m.workFrame = readFrame(work.object("frame"));
    if (spindle.has("frame")) m.noseFrame = readFrame(spindle.object("frame"));
    m.rapid = v.number("rapid", 1.0, 1e6) / 60.0;
    m.jointFeed = v.choice("jointFeed", {"inverseTime", "perMinute"}, 0) == 1 ? JointFeed::PerMinute : JointFeed::InverseTime;
    for (const JsonView& b : v.list("bodies", 200)) {
        b.allow({"name", "carriedBy", "role", "pieces", "mesh"});
        MachineBody body;
        body.name = b.text("name", 100);
        body.joint = linkNamed(m, b, "carriedBy");
        body.role = b.text("role", "");
        if (b.has("mesh")) readBodyMesh(b.object("mesh"), folder, body);
        if (!b.has("mesh") || b.has("pieces"))
            for (const JsonView& p : b.list("pieces", 500)) body.pieces.push_back(readPiece(p));
        m.bodies.push_back(std::move(body));
    }
    for (const JsonView& t : v.list("touching", 1000)) {
        if (!t.raw().is_array() || t.raw().size() != 2 || !t.raw()[0].is_string() || !t.raw()[1].is_string()) {
            t.complain("two body names are expected here");
            break;
        }
        m.touching.emplace_back(t.raw()[0].get<std::string>(), t.raw()[1].get<std::string>());
    }
    if (error) return tl::unexpected(*error);
    for (int link = m.workJoint, guard = 0; link >= 0 && guard < 16; ++guard) {
        auto& j = m.joints[static_cast<std::size_t>(link)];
        j.carriesWork = true;
        link = j.parent;
    }
    if (auto ok = validate(m); !ok) return tl::unexpected(ok.error());
    return m;
}

std::string machineToJson(const Machine& m) {
    const auto linkName = [&](int j) { return j < 0 ? std::string("base") : m.joints[static_cast<std::size_t>(j)].name; };
    OrderedJson out = {{"format", "gyre-machine"}, {"version", 1}, {"name", m.name}, {"rapid", m.rapid * 60.0}};
    if (m.jointFeed == JointFeed::PerMinute) out["jointFeed"] = "perMinute";
    for (const Joint& j : m.joints) {
        const bool rotary = j.kind == JointKind::Rotary;
        const auto shown = [&](double x) { return rotary ? std::round(degrees(x) * 1e9) / 1e9 : x; };
        OrderedJson e = {{"name", j.name}, {"kind", rotary ? "rotary" : "linear"}, {"direction", fromVec(j.direction)}};
        if (rotary) e["point"] = fromVec(j.point);
        e["low"] = shown(j.low);
        e["high"] = shown(j.high);
        e["speed"] = shown(j.speed * 60.0);
        e["acceleration"] = shown(j.acceleration);
        e["carriedBy"] = linkName(j.parent);
        if (j.shortest) e["turns"] = "shortest";
        if (j.clampCode > 0) e["clamp"] = {{"on", j.clampCode}, {"off", j.freeCode}};
        out["joints"].push_back(e);
    }
    out["work"] = {{"carriedBy", linkName(m.workJoint)}, {"frame", writeFrame(m.workFrame)}};
    out["spindle"] = {{"carriedBy", linkName(m.toolJoint)}, {"frame", writeFrame(m.noseFrame)}};
    out["bodies"] = OrderedJson::array();
    for (const MachineBody& b : m.bodies) {
        OrderedJson pieces = OrderedJson::array();
        for (const ConvexBody& p : b.pieces) {
            OrderedJson e;
            if (p.kind == ConvexBody::Kind::Points) {
                Box box;
                for (const auto& q : p.points) box.add(q);
                e = {{"kind", "box"}, {"low", fromVec(box.low)}, {"high", fromVec(box.high)}};
            } else {
                e = {{"kind", "frustum"}, {"z0", p.frustum.z0}, {"z1", p.frustum.z1}, {"diameter0", 2.0 * p.frustum.r0}, {"diameter1", 2.0 * p.frustum.r1}};
            }
            if (!p.frame.isApprox(Frame::Identity(), 1e-12)) e["frame"] = writeFrame(p.frame);
            pieces.push_back(e);
        }
        OrderedJson entry = {{"name", b.name}, {"carriedBy", linkName(b.joint)}, {"role", b.role}};
        if (!b.pieces.empty() || b.meshFile.empty()) entry["pieces"] = pieces;
        if (!b.meshFile.empty()) {
            entry["mesh"] = {{"file", b.meshFile}};
            if (!b.meshFrame.isApprox(Frame::Identity(), 1e-12)) entry["mesh"]["frame"] = writeFrame(b.meshFrame);
        }
        out["bodies"].push_back(std::move(entry));
    }
    for (const auto& [a, b] : m.touching) out["touching"].push_back({a, b});
    return textOf(out, 1) + "\n";
}

} // namespace gyre
