// The machine file, docs/formats/machine.md: its words as they stand there (mm, degrees, minutes, joints by name), and the machine made of them.
#include "machine/MachineForm.h"
#include "base/Text.h"
#include "base/Units.h"
#include "form/Form.h"
#include "form/NewWord.h"
#include "geom/MeshFile.h"
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr double kLargest = 1e5, kFast = 1e7;

const Form<FrameWords>& frameForm() {
    using F = FrameWords;
    static const Form<F> form = Form<F>("a frame")
                                    .place("origin", &F::origin, 1e6, "Where it begins")
                                    .vector("x", &F::x, 1e6, "Direction of its X")
                                    .vector("z", &F::z, 1e6, "Direction of its Z")
                                    .check([](const JsonView& v, const F& f) {
                                        if (f.z.norm() < 1e-9 || f.z.cross(f.x).norm() < 1e-9 * f.x.norm())
                                            v.complain("x and z of a frame must have a length and differ in direction");
                                    })
                                    .settled([](F& f) {
                                        f.z = f.z.norm() > 1e-3 ? Vec3(f.z.normalized()) : Vec3(Vec3::UnitZ());
                                        f.x = f.z.unitOrthogonal();
                                    });
    return form;
}

Form<PieceWords> boxForm() {
    using P = PieceWords;
    return Form<P>("a box")
        .choice("kind", &P::frustum, {{false, "box", "box"}, {true, "frustum", "frustum about z"}}, "Kind of piece")
        .place("low", &P::low, 1e6, "Lowest corner")
        .needed()
        .place("high", &P::high, 1e6, "Highest corner")
        .needed()
        .maybe("frame", &P::frame, frameForm(), "Where it stands")
        .check([](const JsonView& v, const P& p) {
            if (!((p.high - p.low).minCoeff() > 0.0)) v.complain("'high' must be above 'low' in x, y and z");
        })
        .settled([](P& p) {
            p.frustum = false;
            p.high = p.low.cwiseMax(p.high) + Vec3::Ones();
        });
}

Form<PieceWords> frustumForm() {
    using P = PieceWords;
    return Form<P>("a frustum")
        .choice("kind", &P::frustum, {{false, "box", "box"}, {true, "frustum", "frustum about z"}}, "Kind of piece")
        .length("z0", &P::z0, -kLargest, kLargest, "Lower end")
        .needed()
        .length("z1", &P::z1, -kLargest, kLargest, "Upper end")
        .needed()
        .length("diameter0", &P::diameter0, 0.0, kLargest, "Diameter at its lower end")
        .needed()
        .length("diameter1", &P::diameter1, 0.0, kLargest, "Diameter at its upper end; as below when left out")
        .before([](const JsonView& v, P& p) { p.diameter1 = v.number("diameter0", 0.0, kLargest); })
        .maybe("frame", &P::frame, frameForm(), "Where it stands")
        .check([](const JsonView& v, const P& p) {
            if (!(p.z1 > p.z0)) v.complain("'z1' must be above 'z0'");
        })
        .settled([](P& p) {
            p.frustum = true;
            p.z1 = std::max(p.z0, p.z1) + 1.0;
        });
}

const Form<PieceWords>& pieceForm() {
    static const Form<PieceWords> box = boxForm(), frustum = frustumForm();
    static const Form<PieceWords> form = Form<PieceWords>::oneOf(
        "a piece", "kind", {&box, &frustum}, [](const PieceWords& p) -> std::size_t { return p.frustum; }, 0);
    return form;
}

const Form<MeshWords>& meshForm() {
    static const Form<MeshWords> form = Form<MeshWords>("a mesh of a body")
                                            .text("file", &MeshWords::file, 200, "Plain name of an .stl, .obj or .ply file beside the machine file, in mm")
                                            .needed()
                                            .maybe("frame", &MeshWords::frame, frameForm(), "Where the file's coordinates stand");
    return form;
}

const Form<BodyWords>& bodyForm() {
    using B = BodyWords;
    static const Form<B> form = Form<B>("a body of a machine")
                                    .text("name", &B::name, 100, "Name")
                                    .needed()
                                    .text("carriedBy", &B::carriedBy, 100, "Joint that it rides on, or base")
                                    .text("role", &B::role, 100, "What it is, for drawing and hiding: table, head, door …")
                                    .list("pieces", &B::pieces, 500, pieceForm(), "Boxes and frusta")
                                    .writtenWhen([](const B& b) { return !b.pieces.empty() || !b.mesh; })
                                    .maybe("mesh", &B::mesh, meshForm(), "A mesh file instead of pieces, or as well");
    return form;
}

const Form<ClampWords>& clampForm() {
    static const Form<ClampWords> form = Form<ClampWords>("a clamp")
                                             .count("on", &ClampWords::on, 1, 999, "M code that clamps")
                                             .needed()
                                             .count("off", &ClampWords::off, 1, 999, "M code that lets go")
                                             .needed()
                                             .check([](const JsonView& v, const ClampWords& c) {
                                                 if (c.on == c.off) v.complain("'on' and 'off' are the same code");
                                                 for (const int code : {c.on, c.off})
                                                     if (code == 3 || code == 4 || code == 5 || code == 6 || code == 30)
                                                         v.complain(fmt::format("M{} means something else already", code));
                                             })
                                             .settled([](ClampWords& c) {
                                                 c.on = 40 + c.on % 400;
                                                 c.off = c.on + 1;
                                             });
    return form;
}

const Form<JointWords>& jointForm() {
    using J = JointWords;
    static const Form<J> form = Form<J>("a joint")
                                    .text("name", &J::name, 16, "Letter of programs")
                                    .needed()
                                    .choice("kind", &J::kind, {{JointKind::Linear, "linear", "linear"}, {JointKind::Rotary, "rotary", "rotary"}}, "Kind")
                                    .vector("direction", &J::direction, 1e6, "Direction of its word: positive moves the tool relative to the work")
                                    .needed()
                                    .place("point", &J::point, 1e6, "A point on a rotary axis")
                                    .writtenWhen([](const J& j) { return j.kind == JointKind::Rotary; })
                                    .number("low", &J::low, -1e6, 1e6, "Least value, mm or degrees")
                                    .needed()
                                    .number("high", &J::high, -1e6, 1e6, "Greatest value, mm or degrees")
                                    .needed()
                                    .number("speed", &J::speed, 1e-3, kFast, "Speed, mm/min or degrees/min")
                                    .needed()
                                    .number("acceleration", &J::acceleration, 1e-3, kFast, "Acceleration, mm/s² or degrees/s²")
                                    .needed()
                                    .number("jerk", &J::jerk, 0.0, kFast, "How fast the acceleration may change, mm/s³ or degrees/s³; 0: at once")
                                    .writtenWhenChanged()
                                    .text("carriedBy", &J::carriedBy, 100, "Joint that carries it, or base")
                                    .choice("turns", &J::shortest, {{false, "counted", "counted on"}, {true, "shortest", "within one turn, the shorter way"}},
                                            "Words of a rotary: counted past 360°, or within one turn, the control taking the shorter way")
                                    .writtenWhenChanged()
                                    .maybe("clamp", &J::clamp, clampForm(), "Codes that clamp a rotary")
                                    .check([](const JsonView& v, const J& j) {
                                        if (j.direction.norm() < 1e-9) v.complain("the direction has no length");
                                        if (j.shortest && j.kind != JointKind::Rotary) v.complain("'turns' are for rotary joints");
                                    });
    return form;
}

const Form<SeatWords>& seatForm() {
    static const Form<SeatWords> form = Form<SeatWords>("an end of the machine")
                                            .text("carriedBy", &SeatWords::carriedBy, 100, "Joint that carries it, or base")
                                            .maybe("frame", &SeatWords::frame, frameForm(), "Where it stands; Z of the spindle points from tip to spindle");
    return form;
}

Frame frameOf(const std::optional<FrameWords>& words) {
    Frame f = Frame::Identity();
    if (!words) return f;
    const Vec3 z = words->z.normalized(), x = rejected(words->x, z).normalized();
    f.linear().col(0) = x;
    f.linear().col(1) = z.cross(x);
    f.linear().col(2) = z;
    f.translation() = words->origin;
    return f;
}

FrameWords wordsOf(const Frame& f) { return {f.translation(), f.linear().col(0), f.linear().col(2)}; }
std::optional<FrameWords> wordsUnlessPlain(const Frame& f) { return f.isApprox(Frame::Identity(), 1e-12) ? std::nullopt : std::optional(wordsOf(f)); }

ConvexBody pieceOf(const PieceWords& p) {
    ConvexBody body;
    if (p.frustum) {
        RoundedFrustum f;
        f.z0 = p.z0;
        f.z1 = p.z1;
        f.r0 = 0.5 * p.diameter0;
        f.r1 = 0.5 * p.diameter1;
        body = ConvexBody::turned(f);
    } else
        body = ConvexBody::box(p.low, p.high);
    if (p.frame) body.frame = frameOf(p.frame);
    return body;
}

PieceWords wordsOf(const ConvexBody& b) {
    PieceWords p;
    p.frame = wordsUnlessPlain(b.frame);
    p.frustum = b.kind != ConvexBody::Kind::Points;
    if (p.frustum) {
        p.z0 = b.frustum.z0;
        p.z1 = b.frustum.z1;
        p.diameter0 = 2.0 * b.frustum.r0;
        p.diameter1 = 2.0 * b.frustum.r1;
        return p;
    }
    Box box;
    for (const auto& q : b.points) box.add(q);
    p.low = box.low;
    p.high = box.high;
    return p;
}

/// A machine from its words; the first thing that is wrong is complained of.
class Maker {
public:
    Maker(const JsonView& view, const std::filesystem::path& folder) : m_v(view), m_folder(folder) {}

    Machine make(const MachineWords& w) {
        m.name = w.name;
        for (std::size_t i = 0; i < w.joints.size(); ++i) joint(w.joints[i], m_v.list("joints", 12)[i]);
        m.workJoint = link(w.work.carriedBy, m_v);
        m.toolJoint = link(w.spindle.carriedBy, m_v);
        m.workFrame = frameOf(w.work.frame);
        m.noseFrame = frameOf(w.spindle.frame);
        m.rapid = w.rapid / 60.0;
        m.changeSeconds = w.changeSeconds;
        m.clampSeconds = w.clampSeconds;
        m.jointFeed = w.jointFeed;
        m.lengthCheck = w.lengthCheck;
        if (!w.changeAt.empty()) m.changeAt.assign(m.joints.size(), std::nullopt);
        for (const auto& [name, value] : w.changeAt) {
            const int j = m.find(name);
            if (j < 0 || m.joints[static_cast<std::size_t>(j)].kind != JointKind::Linear)
                m_v.complain(fmt::format("there is no linear joint named '{}'", name.substr(0, 40)));
            else if (const Joint& at = m.joints[static_cast<std::size_t>(j)]; value < at.low || value > at.high)
                m_v.complain(fmt::format("a tool change at {} {} lies outside of its travel", name, value));
            else
                m.changeAt[static_cast<std::size_t>(j)] = value;
        }
        for (std::size_t i = 0; i < w.bodies.size() && !m_v.failed(); ++i) body(w.bodies[i], m_v.list("bodies", 200)[i]);
        m.touching = w.touching;
        for (int link = m.workJoint, guard = 0; link >= 0 && guard < 16; ++guard) {
            auto& j = m.joints[static_cast<std::size_t>(link)];
            j.carriesWork = true;
            link = j.parent;
        }
        return std::move(m);
    }

private:
    int link(const std::string& name, const JsonView& v) const {
        if (name == "base") return -1;
        const int j = m.find(name);
        if (j < 0) v.complain(fmt::format("there is no joint named '{}'", name.substr(0, 40)));
        return j;
    }
    void joint(const JointWords& w, const JsonView& v) {
        if (m.find(w.name) >= 0) v.complain(fmt::format("the joint '{}' is there twice", w.name));
        // Files hold mm, degrees and minutes, as machine data sheets do.
        const double unit = w.kind == JointKind::Rotary ? radians(1.0) : 1.0;
        Joint j;
        j.name = w.name;
        j.kind = w.kind;
        j.direction = w.direction.normalized();
        j.point = w.point;
        j.low = w.low * unit;
        j.high = w.high * unit;
        j.speed = w.speed * unit / 60.0;
        j.acceleration = w.acceleration * unit;
        j.jerk = w.jerk * unit;
        j.parent = link(w.carriedBy, v);
        j.shortest = w.shortest;
        if (w.clamp) {
            j.clampCode = w.clamp->on;
            j.freeCode = w.clamp->off;
        }
        m.joints.push_back(std::move(j));
    }
    void body(const BodyWords& w, const JsonView& v) {
        MachineBody b;
        b.name = w.name;
        b.joint = link(w.carriedBy, v);
        b.role = w.role;
        if (!w.mesh && !v.has("pieces")) v.complain("'pieces' is missing");
        for (const PieceWords& p : w.pieces) b.pieces.push_back(pieceOf(p));
        if (w.mesh) mesh(*w.mesh, v, b);
        m.bodies.push_back(std::move(b));
    }
    // A mesh file stands beside the machine file: a name without folders, so that a machine from elsewhere reads nothing else.
    void mesh(const MeshWords& w, const JsonView& v, MachineBody& b) {
        b.meshFile = w.file;
        b.meshFrame = frameOf(w.frame);
        const std::filesystem::path name = w.file;
        if (name.empty() || name.has_parent_path() || !isMeshFile(name))
            return v.complain("'file' must be the plain name of an .stl, .obj or .ply file beside the machine file");
        if (m_folder.empty()) return v.complain("mesh files can only be read for a machine that is a file itself");
        Progress quiet;
        auto read = readMesh(m_folder / name, quiet);
        if (!read) return v.complain(read.error().text());
        constexpr std::size_t kMost = 200'000;
        if (read->mesh.triangles.size() > kMost)
            return v.complain(fmt::format("{} triangles are more than the {} a machine body may have", read->mesh.triangles.size(), kMost));
        for (Vec3& p : read->mesh.points) p = b.meshFrame * p;
        b.mesh = std::make_shared<const TriangleMesh>(std::move(read->mesh));
        b.tree = std::make_shared<const MeshTree>(*b.mesh);
    }

    const JsonView& m_v;
    const std::filesystem::path& m_folder;
    Machine m;
};

MachineWords wordsOf(const Machine& m) {
    const auto linkName = [&](int j) { return j < 0 ? std::string("base") : m.joints[static_cast<std::size_t>(j)].name; };
    MachineWords w;
    w.name = m.name;
    w.rapid = m.rapid * 60.0;
    w.changeSeconds = m.changeSeconds;
    w.clampSeconds = m.clampSeconds;
    w.jointFeed = m.jointFeed;
    w.lengthCheck = m.lengthCheck;
    for (std::size_t j = 0; j < m.changeAt.size(); ++j)
        if (m.changeAt[j]) w.changeAt.emplace_back(m.joints[j].name, *m.changeAt[j]);
    for (const Joint& j : m.joints) {
        const bool rotary = j.kind == JointKind::Rotary;
        const auto shown = [&](double x) { return rotary ? std::round(degrees(x) * 1e9) / 1e9 : x; };
        JointWords words{
            j.name,     j.kind, j.direction, j.point, shown(j.low), shown(j.high), shown(j.speed * 60.0), shown(j.acceleration), shown(j.jerk), linkName(j.parent),
            j.shortest, {}};
        if (j.clampCode > 0) words.clamp = {j.clampCode, j.freeCode};
        w.joints.push_back(std::move(words));
    }
    w.work = {linkName(m.workJoint), wordsOf(m.workFrame)};
    w.spindle = {linkName(m.toolJoint), wordsOf(m.noseFrame)};
    for (const MachineBody& b : m.bodies) {
        BodyWords words{b.name, linkName(b.joint), b.role, {}, {}};
        for (const ConvexBody& p : b.pieces) words.pieces.push_back(wordsOf(p));
        if (!b.meshFile.empty()) words.mesh = MeshWords{b.meshFile, wordsUnlessPlain(b.meshFrame)};
        w.bodies.push_back(std::move(words));
    }
    w.touching = m.touching;
    return w;
}

void readChangeAt(const JsonView& v, MachineWords& m) {
    const JsonView at = v.object("changeAt");
    for (const auto& [name, value] : at.raw().items()) m.changeAt.emplace_back(name, at.number(name.c_str(), -kLargest, kLargest));
}

void writeChangeAt(const MachineWords& m, OrderedJson& out) {
    for (const auto& [name, value] : m.changeAt) out["changeAt"][name] = value;
}

void changeAtByChance(MachineWords& m, Dice& dice) { m.changeAt.assign(1, {"X", static_cast<double>(dice() % 10)}); }

void readTouching(const JsonView& v, MachineWords& m) {
    for (const JsonView& t : v.list("touching", 1000)) {
        if (!t.raw().is_array() || t.raw().size() != 2 || !t.raw()[0].is_string() || !t.raw()[1].is_string()) return t.complain("two body names are expected here");
        m.touching.emplace_back(t.raw()[0].get<std::string>(), t.raw()[1].get<std::string>());
    }
}

void writeTouching(const MachineWords& m, OrderedJson& out) {
    for (const auto& [a, b] : m.touching) out["touching"].push_back({a, b});
}

void touchingByChance(MachineWords& m, Dice& dice) { m.touching.assign(dice() % 3, {"a", "b"}); }

} // namespace

const Form<MachineWords>& machineForm() {
    using M = MachineWords;
    static const Form<M> form =
        Form<M>("a machine")
            .constant("format", "gyre-machine", "What the file is")
            .constant("version", 1, "Version of the format")
            .text("name", &M::name, 200, "Name")
            .needed()
            .number("rapid", &M::rapid, 1.0, 1e6, "Fastest speed of the tip, mm/min")
            .needed()
            .number("toolChange", &M::changeSeconds, 0.0, 3600.0, "What a tool change takes, s")
            .writtenWhenChanged()
            .number("clamping", &M::clampSeconds, 0.0, 60.0, "What a joint takes to be clamped or let go, s")
            .writtenWhenChanged()
            .choice("jointFeed", &M::jointFeed, {{JointFeed::InverseTime, "inverseTime", "inverse time (G93)"}, {JointFeed::PerMinute, "perMinute", "per minute (G94)"}},
                    "What F means in joint programs: moves per minute, or mm of the slides a minute (degrees where rotaries move alone)")
            .writtenWhenChanged()
            .special(newWord("changeAt", WordKind::Any, "Where linear joints stand at a tool change, by name, mm"), readChangeAt, writeChangeAt, changeAtByChance)
            .text("lengthCheck", &M::lengthCheck, 200, "Block of the control that stops when another tool length is loaded, with {tool} and {length}")
            .writtenWhenChanged()
            .list("joints", &M::joints, 12, jointForm(), "Joints; those that carry others stand first")
            .part("work", &M::work, seatForm(), "The table seat")
            .needed()
            .part("spindle", &M::spindle, seatForm(), "The spindle nose")
            .needed()
            .list("bodies", &M::bodies, 200, bodyForm(), "Bodies")
            .special(newWord("touching", WordKind::Any, "Pairs of bodies that always touch"), readTouching, writeTouching, touchingByChance)
            .remark("note", "For whoever writes the file by hand; not kept")
            .check([](const JsonView& v, const M& m) {
                if (!isOneBlock(m.lengthCheck)) v.complain("'lengthCheck' must be one block");
                if (!m.lengthCheck.empty() && m.lengthCheck.find("{length}") == std::string::npos) v.complain("'lengthCheck' must hold {length}");
            })
            .settled([](M& m) {
                if (!m.lengthCheck.empty()) m.lengthCheck = "CHECK {length}";
            });
    return form;
}

Result<Machine> machineFromJson(const std::string& text, const std::string& place, const std::filesystem::path& folder) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    if (!json->is_object() || v.text("format") != "gyre-machine") v.complain("this is not a machine file: 'format' is not 'gyre-machine'");
    if (!v.failed() && v.integer("version", 1, 1000000) != 1) v.complain("this version of the machine format is not known");
    if (error) return tl::unexpected(*error);
    const MachineWords words = machineForm().read(v);
    if (error) return tl::unexpected(*error);
    Machine m = Maker(v, folder).make(words);
    if (error) return tl::unexpected(*error);
    if (auto ok = validate(m); !ok) return tl::unexpected(ok.error());
    return m;
}

std::string machineToJson(const Machine& m) { return textOf(machineForm().write(wordsOf(m)), 1) + "\n"; }

} // namespace gyre
