#include "Support.h"
#include "base/File.h"
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <STEPControl_Writer.hxx>

namespace gyre::test {

Random::Random(unsigned salt) {
    const unsigned seed = qEnvironmentVariableIsSet("GYRE_SEED") ? qEnvironmentVariableIntValue("GYRE_SEED") : 20261123u + salt;
    qInfo("seed %u (repeat with GYRE_SEED=%u)", seed, seed);
    m_engine.seed(seed);
}

Vec3 Random::direction() {
    while (true) {
        const Vec3 v = point(1.0);
        if (v.norm() > 0.05 && v.norm() <= 1.0) return v.normalized();
    }
}

std::filesystem::path demoFile(const std::string& name) { return std::filesystem::path(GYRE_DEMO_DIR) / name; }

Machine demoMachine(const std::string& file) {
    const auto m = machineFromJson(readFile(demoFile(file), 1 << 24).value(), file, GYRE_DEMO_DIR);
    if (!m) qFatal("%s", m.error().text().c_str());
    return *m;
}

std::shared_ptr<const Part> openPart(const std::filesystem::path& file) {
    Progress progress;
    auto part = Part::open(file, 0.02, progress);
    if (!part) qFatal("%s", part.error().text().c_str());
    return *part;
}

namespace {
std::filesystem::path write(const TopoDS_Shape& shape, const std::filesystem::path& file) {
    Message::DefaultMessenger()->ChangePrinters().Clear();
    STEPControl_Writer writer;
    writer.Transfer(shape, STEPControl_AsIs);
    writer.Write(file.c_str());
    return file;
}
} // namespace

std::filesystem::path cylinderStep(const std::filesystem::path& folder, double radius, double height) {
    return write(BRepPrimAPI_MakeCylinder(radius, height).Shape(), folder / "cylinder.step");
}
std::filesystem::path boxStep(const std::filesystem::path& folder, double x, double y, double z) {
    return write(BRepPrimAPI_MakeBox(x, y, z).Shape(), folder / "box.step");
}
std::filesystem::path coneStep(const std::filesystem::path& folder, double lower, double upper, double height) {
    return write(BRepPrimAPI_MakeCone(lower, upper, height).Shape(), folder / "cone.step");
}

Assembly ballTool(double diameter, double stickOut) {
    Assembly a;
    a.id = a.name = "ball";
    a.cutter = {CutterShape::Ball, diameter, 0, 0, 2 * diameter, 3 * diameter, diameter, diameter, 200, 2};
    a.stickOut = stickOut;
    a.holder = {{20, 20, 30}, {40, 40, 30}};
    return a;
}

DemoResults& demoResults() {
    static DemoResults* demo = [] {
        auto* d = new DemoResults;
        d->job = openJob(demoFile("lantern-collar.gyre.json")).value();
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        auto r = computeJob(d->job, workshop, d->cache, progress);
        if (!r) qFatal("%s", r.error().text().c_str());
        d->results = std::move(*r);
        return d;
    }();
    return *demo;
}

} // namespace gyre::test
