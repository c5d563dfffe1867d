// Opening a STEP file beside the CAD kernel's own reading and triangulation of the same file, in the same run: here, and in a process
// of its own as the window does.   gyre-opening-bench [FILE …]
#include "part/Aside.h"
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <STEPControl_Reader.hxx>
#include <algorithm>
#include <chrono>
#include <fmt/format.h>

using namespace gyre;

namespace {

constexpr double kDeflection = 0.02;
double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

double kernel(const std::string& file) {
    const double t = now();
    STEPControl_Reader reader;
    reader.ReadFile(file.c_str());
    reader.TransferRoots();
    TopoDS_Shape shape = reader.OneShape();
    const BRepMesh_IncrementalMesh mesher(shape, kDeflection, false, 0.2, true);
    return now() - t;
}

double ours(const std::string& file, const AsideReader& reader) {
    const double t = now();
    Progress progress;
    const auto part = openAside(reader, file, kDeflection, progress);
    if (!part) fmt::print("{}\n", part.error().text());
    return now() - t;
}

} // namespace

int main(int argc, char** argv) {
    Message::DefaultMessenger()->ChangePrinters().Clear();
    std::vector<std::string> files(argv + 1, argv + argc);
    if (files.empty())
        for (const char* f : {"lantern-collar", "pierced-dome", "focus-barrel", "lamp-yoke", "horn-guide", "whisper-runner"})
            files.push_back(std::string(GYRE_DEMO_DIR) + "/" + f + ".step");
    const AsideReader here, aside{GYRE_BIN_DIR "/gyre"};
    fmt::print("{:24} {:>10} {:>10} {:>7} {:>10} {:>7}   wanted: 1.30 here, 1.40 aside\n", "file", "kernel s", "here s", "ratio", "aside s", "ratio");
    for (const std::string& file : files) {
        double theirs = 1e300, own = 1e300, apart = 1e300;
        for (int round = 0; round < 7; ++round) { // the best of seven, in turn
            theirs = std::min(theirs, kernel(file));
            own = std::min(own, ours(file, here));
            apart = std::min(apart, ours(file, aside));
        }
        fmt::print("{:24} {:10.3f} {:10.3f} {:7.2f} {:10.3f} {:7.2f}\n", file.substr(file.rfind('/') + 1), theirs, own, own / theirs, apart, apart / theirs);
    }
    return 0;
}
