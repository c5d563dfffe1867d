#include "Programs.h"
#include "guard/GuardSpec.h"
#include "holes/Drill.h"
#include "holes/DrillSpec.h"
#include "link/Link.h"
#include "link/LinkSpec.h"
#include "motion/Motion.h"
#include "motion/PointsSpec.h"
#include "operation/OperationResult.h"

namespace gyre::test {

Assembly plainTool(const std::string& name, CutterShape shape, double diameter, double speed, Coolant coolant) {
    Assembly a;
    a.id = a.name = name;
    a.cutter = asShape(Cutter{}, shape);
    a.cutter.diameter = a.cutter.shankDiameter = a.cutter.neckDiameter = diameter;
    a.cutter.fluteLength = 20.0;
    a.cutter.shoulderLength = 25.0;
    a.cutter.overallLength = 80.0;
    a.stickOut = 40.0;
    a.holder = {{30.0, 30.0, 60.0}};
    a.spindleSpeed = speed;
    a.coolant = coolant;
    return a;
}

namespace {

PostOperation finished(const Machine& machine, const std::string& name, int toolNumber, std::shared_ptr<OperationResult> result) {
    const Kinematics kinematics(machine, Frame::Identity(), result->tool.gaugeLength());
    Progress quiet;
    result->operation = name;
    result->motion = std::make_shared<const JointMotion>(solveMotion(result->links->path, kinematics, MotionSpec{}, quiet).value());
    return {name, result, toolNumber};
}

} // namespace

PostOperation steadyOperation(const Machine& machine, const std::string& name, int toolNumber, const Assembly& tool, const Vec3& axis, const std::vector<Step>& steps) {
    auto links = std::make_shared<LinkResult>();
    for (const Step& s : steps) links->path.push(s.tip, axis, s.motion, 0, s.feed > 0.0 ? s.feed : static_cast<double>(kRapidFeed));
    auto result = std::make_shared<OperationResult>();
    result->tool = tool;
    result->links = links;
    return finished(machine, name, toolNumber, result);
}

PostOperation atPoints(const PostOperation& operation, const PointsSpec& points) {
    PostOperation out = operation;
    auto result = std::make_shared<OperationResult>(*operation.result);
    result->points = points;
    out.result = std::move(result);
    return out;
}

PostInput slotAndLean(const std::string& machineFile, const Vec3& lean, const ProgramWords& words) {
    PostInput in;
    in.jobName = "Golden";
    in.machine = std::make_shared<const Machine>(withoutRamps(demoMachine(machineFile)));
    in.words = words;
    in.operations.push_back(
        steadyOperation(*in.machine, "Slot", 1, plainTool("Flat 6", CutterShape::Flat, 6, 8000), Vec3::UnitZ(),
                        {{Motion::Rapid, {0, 0, 50}}, {Motion::Plunge, {0, 0, 10}, 250}, {Motion::Cut, {20, 0, 10}, 500}, {Motion::Retract, {20, 0, 50}}}));
    in.operations.push_back(
        steadyOperation(*in.machine, "Lean", 2, plainTool("Ball 4", CutterShape::Ball, 4, 12000, Coolant::Flood), lean,
                        {{Motion::Rapid, {0, 0, 50}}, {Motion::Plunge, {0, 0, 20}, 300}, {Motion::Cut, {10, 0, 20}, 600}, {Motion::Retract, {10, 0, 50}}}));
    return in;
}

PostOperation holeOperation(const Machine& machine, const std::string& name, int toolNumber, const Assembly& tool, const std::vector<Vec3>& mouths,
                            const DrillSpec& spec) {
    std::vector<Hole> holes;
    for (const Vec3& m : mouths) {
        Hole h;
        h.mouth = m;
        h.direction = Vec3::UnitZ();
        h.depth = 10.0;
        h.bottom = HoleBottom::Flat;
        HoleSection section;
        section.from = 0.0;
        section.to = 10.0;
        section.fromRadius = section.toRadius = 0.5 * tool.cutter.diameter;
        h.sections = {section};
        holes.push_back(h);
    }
    auto result = std::make_shared<OperationResult>();
    result->kind = OperationKind::HoleStep;
    result->tool = tool;
    result->cycle = spec;
    result->cycle->anyTool = true;
    result->drill = std::make_shared<const DrillResult>(drillHoles(holes, result->cycle, tool, 200.0));
    const Scene nothing;
    const Guard guard(tool, nothing, GuardSpec{}, 0.0);
    auto guarded = std::make_shared<GuardResult>();
    guarded->passes = result->drill->passes;
    result->guard = guarded;
    LinkSpec link;
    link.skin = {SkinKind::Plane, 50.0};
    link.entryRadius = 0.0;
    Progress quiet;
    result->links = std::make_shared<const LinkResult>(linkPasses(guard, guarded->passes, link, 200.0, quiet).value());
    return finished(machine, name, toolNumber, result);
}

TurningOver turningOver() {
    TurningOver out;
    Machine& machine = out.machine;
    machine = demoMachine("heron-5t.machine.json");
    Joint& turn = machine.joints[static_cast<std::size_t>(machine.rotaries()[0])];
    const Kinematics free(machine, Frame::Identity(), 120);
    const Vec3 lean(0, -std::sin(radians(20)), std::cos(radians(20))), other = rotation(Vec3::UnitZ(), radians(50)) * lean;
    const double c1 = free.rotariesFor(lean).solutions[0].first, c2 = free.rotariesFor(other).solutions[0].first;
    const double way = std::remainder(c2 - c1, 2 * kPi) > 0 ? 1.0 : -1.0; // 50° on, or 130° back in the other solution
    turn.low = c1 + std::min(way * radians(20), -way * radians(140));
    turn.high = c1 + std::max(way * radians(20), -way * radians(140));
    Joint& tilt = machine.joints[static_cast<std::size_t>(machine.rotaries()[1])];
    tilt.low = -kPi;
    tilt.high = kPi;
    const auto add = [&](const Vec3& tip, const Vec3& axis, Motion kind, bool outside) {
        out.path.push(tip, axis, kind, outside ? 0 : 1, kind == Motion::Retract ? static_cast<double>(kRapidFeed) : 500.0);
        out.away.push_back(outside);
    };
    const auto row = [&](const Vec3& axis, double x) {
        add(Vec3(x, 0, 10) + 60 * axis, axis, Motion::Rapid, true);
        add(Vec3(x, 0, 10) + 3 * axis, axis, Motion::Rapid, false);
        for (int i = 0; i < 10; ++i) add(Vec3(x, i, 10), axis, Motion::Cut, false);
        add(Vec3(x, 9, 10) + 60 * axis, axis, Motion::Retract, true);
    };
    row(lean, 0);
    out.second = static_cast<std::uint32_t>(out.path.size());
    row(other, 5);
    return out;
}

Machine withoutRamps(Machine machine) {
    for (Joint& j : machine.joints) j.acceleration = 1e12;
    return machine;
}

void mustBe(const PostInput& in, Dialect dialect, const std::string& golden) {
    const auto text = writeProgram(in, dialect);
    QVERIFY2(text, text ? "" : text.error().text().c_str());
    if (*text != golden) {
        std::size_t line = 1, at = 0;
        while (at < text->size() && at < golden.size() && (*text)[at] == golden[at]) line += golden[at++] == '\n';
        const auto lineOf = [&](const std::string& t) {
            const auto from = t.rfind('\n', at > 0 ? at - 1 : 0) + 1;
            return t.substr(from, t.find('\n', from) - from);
        };
        QFAIL(qPrintable(QString("line %1: '%2' where '%3' is meant\n%4").arg(line).arg(lineOf(*text).c_str(), lineOf(golden).c_str(), text->c_str())));
    }
    const auto read = readBack(golden, in);
    QVERIFY2(read, read ? "" : read.error().text().c_str());
    const ReplayReport report = compareProgram(*read, in);
    QVERIFY2(report.agrees(), report.agrees() ? "" : report.differences.front().c_str());
}

} // namespace gyre::test
