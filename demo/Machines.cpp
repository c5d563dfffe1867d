// The five machines of the workshop. Lengths in mm; joints at 0 put the spindle nose 300 mm above the table seat, unless said.
#include "Workshop.h"
#include "base/Units.h"

namespace gyre::demo {
namespace {

Joint linear(const char* name, const Vec3& direction, double low, double high, int parent, bool work, double metresPerMinute = 30.0) {
    Joint j;
    j.name = name;
    j.direction = direction;
    j.low = low;
    j.high = high;
    j.speed = metresPerMinute * 1000.0 / 60.0;
    j.acceleration = 4000.0;
    j.parent = parent;
    j.carriesWork = work;
    return j;
}

Joint rotary(const char* name, const Vec3& direction, const Vec3& point, double low, double high, int parent, bool work, double turnsPerMinute = 30.0) {
    Joint j;
    j.name = name;
    j.kind = JointKind::Rotary;
    j.direction = direction.normalized();
    j.point = point;
    j.low = radians(low);
    j.high = radians(high);
    j.speed = turnsPerMinute * 2.0 * kPi / 60.0;
    j.acceleration = radians(1800.0);
    j.parent = parent;
    j.carriesWork = work;
    return j;
}

ConvexBody box(double x0, double y0, double z0, double x1, double y1, double z1) { return ConvexBody::box({x0, y0, z0}, {x1, y1, z1}); }

ConvexBody turned(double z0, double d0, double z1, double d1, const Vec3& origin = Vec3::Zero(), const Vec3& axis = Vec3::UnitZ()) {
    ConvexBody b = ConvexBody::turned({z0, 0.5 * d0, z1, 0.5 * d1, 0.0});
    b.frame.linear() = Eigen::Quaterniond::FromTwoVectors(Vec3::UnitZ(), axis).toRotationMatrix();
    b.frame.translation() = origin;
    return b;
}

MachineBody body(const char* name, int joint, const char* role, std::vector<ConvexBody> pieces) {
    MachineBody b;
    b.name = name;
    b.joint = joint;
    b.role = role;
    b.pieces = std::move(pieces);
    return b;
}

// A body whose shape is a mesh file written by main().
MachineBody meshBody(const char* name, int joint, const char* role, const char* file, const Frame& frame) {
    MachineBody b = body(name, joint, role, {});
    b.meshFile = file;
    b.meshFrame = frame;
    return b;
}

Frame at(double x, double y, double z) {
    Frame f = Frame::Identity();
    f.translation() = Vec3(x, y, z);
    return f;
}

} // namespace

TriangleMesh coolantRing() {
    constexpr int kAround = 72, kSection = 12;
    TriangleMesh m;
    for (int i = 0; i < kAround; ++i)
        for (int k = 0; k < kSection; ++k) {
            const double u = 2.0 * kPi * i / kAround, v = 2.0 * kPi * k / kSection, r = 72.0 + 7.0 * std::cos(v);
            m.points.emplace_back(r * std::cos(u), r * std::sin(u), 7.0 * std::sin(v));
        }
    const auto id = [](int i, int k) { return static_cast<std::uint32_t>((i % kAround) * kSection + k % kSection); };
    for (int i = 0; i < kAround; ++i)
        for (int k = 0; k < kSection; ++k) {
            m.triangles.push_back({id(i, k), id(i + 1, k), id(i + 1, k + 1)});
            m.triangles.push_back({id(i, k), id(i + 1, k + 1), id(i, k + 1)});
        }
    return m;
}

Machine heron5T() {
    // Machine zero: middle of the table seat. The A axis runs 40 mm below it, the C axis through it.
    Machine m;
    m.name = "Heron 5T";
    m.joints = {linear("X", {1, 0, 0}, -320, 320, -1, false), linear("Y", {0, 1, 0}, -260, 360, 0, false), linear("Z", {0, 0, 1}, -330, 170, 1, false),
                rotary("A", {1, 0, 0}, {0, 0, -40}, -115, 30, -1, true, 20), rotary("C", {0, 0, 1}, {0, 0, 0}, -3600, 3600, 3, true, 60)};
    m.joints[3].clampCode = 21;
    m.joints[3].freeCode = 22;
    m.joints[4].clampCode = 23;
    m.joints[4].freeCode = 24;
    m.workJoint = 4;
    m.toolJoint = 2;
    m.noseFrame = at(0, 0, 300);
    m.rapid = 500.0;
    m.changeAt = {-300.0, 340.0, 170.0}; // the magazine stands behind, on the left
    m.lengthCheck = "M150 T{tool} L{length}";
    m.bodies = {
        body("bed", -1, "bed", {box(-520, -420, -520, 520, 420, -330)}),
        body("portal", -1, "bed", {box(-520, 470, -520, 520, 620, 640)}),
        body("left bearing", -1, "bed", {box(-330, -90, -330, -230, 90, 40)}),
        body("right bearing", -1, "bed", {box(230, -90, -330, 330, 90, 40)}),
        body("cradle", 3, "cradle", {box(-225, -70, -110, 225, 70, -62), box(-225, -45, -110, -170, 45, 0), box(170, -45, -110, 225, 45, 0)}),
        body("table", 4, "table", {turned(-60, 190, 0, 190)}),
        body("saddle", 1, "head", {box(-130, 120, 420, 130, 330, 760)}),
        body("head", 2, "head", {box(-85, -95, 360, 85, 110, 640), turned(300, 100, 360, 150)}),
        meshBody("coolant ring", 2, "head", "coolant-ring.stl", at(0, 0, 322)),
    };
    m.touching = {{"cradle", "left bearing"}, {"cradle", "right bearing"}, {"cradle", "table"}, {"left bearing", "bed"},
                  {"right bearing", "bed"},   {"bed", "portal"},           {"saddle", "head"},  {"saddle", "portal"}};
    return m;
}

Machine plover4() {
    // A vertical mill; the A rotary lies on the table and turns the work about X.
    Machine m;
    m.name = "Plover 4";
    m.joints = {linear("X", {1, 0, 0}, -400, 400, -1, true), linear("Y", {0, 1, 0}, -220, 220, 0, true), linear("Z", {0, 0, 1}, -330, 150, -1, false),
                rotary("A", {1, 0, 0}, {0, 0, 0}, -36000, 36000, 1, true, 25)};
    m.joints[3].clampCode = 10;
    m.joints[3].freeCode = 11;
    m.jointFeed = JointFeed::PerMinute;
    m.workJoint = 3;
    m.toolJoint = 2;
    m.noseFrame = at(0, 0, 300);
    m.rapid = 400.0;
    m.bodies = {
        body("bed", -1, "bed", {box(-600, -400, -420, 600, 400, -240)}),
        body("column", -1, "bed", {box(-200, 420, -420, 200, 700, 760)}),
        body("table", 1, "table", {box(-450, -200, -180, 450, 200, -130)}),
        body("rotary housing", 1, "table", {box(-260, -110, -130, -110, 110, 120)}),
        body("chuck", 3, "chuck", {turned(-110, 160, -40, 160, {0, 0, 0}, {1, 0, 0})}),
        body("head", 2, "head", {box(-90, -90, 360, 90, 400, 640), turned(300, 100, 360, 150)}),
    };
    m.workFrame = at(-40, 0, 0);
    m.touching = {{"bed", "table"}, {"bed", "column"}, {"table", "rotary housing"}, {"rotary housing", "chuck"}, {"head", "column"}};
    return m;
}

Machine egret5H() {
    // Gantry: C turns the fork about Z, B tips the spindle in it; the work stands still.
    Machine m;
    m.name = "Egret 5H";
    m.joints = {linear("X", {1, 0, 0}, -900, 900, -1, false, 50), linear("Y", {0, 1, 0}, -600, 600, 0, false, 50), linear("Z", {0, 0, 1}, -500, 250, 1, false),
                rotary("C", {0, 0, 1}, {0, 0, 0}, -360, 360, 2, false, 40), rotary("B", {0, 1, 0}, {0, 0, 480}, -115, 115, 3, false, 40)};
    m.toolJoint = 4;
    m.noseFrame = at(0, 0, 300);
    m.rapid = 800.0;
    m.bodies = {
        body("table", -1, "table", {box(-1000, -700, -80, 1000, 700, 0)}),
        body("bridge", 0, "head", {box(-150, -900, 900, 150, 900, 1150)}),
        body("ram", 2, "head", {box(-110, -110, 640, 110, 110, 1300)}),
        body("fork", 3, "head", {turned(590, 240, 640, 240), box(-70, -130, 430, 70, -95, 600), box(-70, 95, 430, 70, 130, 600)}),
        body("spindle", 4, "head", {turned(300, 90, 360, 130), turned(360, 130, 560, 150)}),
    };
    m.touching = {{"bridge", "ram"}, {"ram", "fork"}, {"fork", "spindle"}};
    return m;
}

Machine dunlin5M() {
    // The head tips about Y, the table turns about Z.
    Machine m;
    m.name = "Dunlin 5M";
    m.joints = {linear("X", {1, 0, 0}, -400, 400, -1, true), linear("Y", {0, 1, 0}, -350, 350, -1, false), linear("Z", {0, 0, 1}, -400, 300, 1, false),
                rotary("B", {0, 1, 0}, {0, 0, 420}, -110, 110, 2, false, 30), rotary("C", {0, 0, 1}, {0, 0, 0}, -36000, 36000, 0, true, 50)};
    m.workJoint = 4;
    m.toolJoint = 3;
    m.noseFrame = at(0, 0, 300);
    m.rapid = 500.0;
    m.bodies = {
        body("bed", -1, "bed", {box(-700, -420, -400, 700, 420, -220)}),   body("column", -1, "bed", {box(-300, 480, -400, 300, 760, 900)}),
        body("slide", 0, "table", {box(-300, -260, -200, 300, 260, -70)}), body("table", 4, "table", {turned(-60, 400, 0, 400)}),
        body("arm", 2, "head", {box(-120, 135, 340, 120, 440, 700)}),      body("head", 3, "head", {turned(300, 100, 350, 150), box(-90, -90, 350, 90, 125, 620)}),
    };
    m.touching = {{"bed", "slide"}, {"bed", "column"}, {"slide", "table"}, {"arm", "head"}, {"arm", "column"}};
    return m;
}

Machine snipe5N() {
    // The B axis is inclined by 45° in the YZ plane: half a turn lays the table upright.
    Machine m;
    m.name = "Snipe 5N";
    m.joints = {linear("X", {1, 0, 0}, -350, 350, -1, false), linear("Y", {0, 1, 0}, -350, 450, 0, false), linear("Z", {0, 0, 1}, -400, 300, 1, false),
                rotary("B", {0, 1, 1}, {0, 0, 0}, -180, 180, -1, true, 30), rotary("C", {0, 0, 1}, {0, 0, 0}, -36000, 36000, 3, true, 50)};
    m.workJoint = 4;
    m.toolJoint = 2;
    m.noseFrame = at(0, 0, 300);
    m.rapid = 500.0;
    m.bodies = {
        body("bed", -1, "bed", {box(-500, -500, -560, 500, 500, -400)}),
        body("swivel", 3, "cradle", {turned(-240, 200, -150, 240, {0, 0, 0}, {0, 1, 1})}),
        body("table", 4, "table", {turned(-50, 320, 0, 320)}),
        body("head", 2, "head", {box(-90, -90, 360, 90, 320, 640), turned(300, 100, 360, 150)}),
    };
    m.touching = {{"bed", "swivel"}, {"swivel", "table"}};
    return m;
}

} // namespace gyre::demo
