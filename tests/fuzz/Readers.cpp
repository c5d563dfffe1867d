#include "Readers.h"
#include "drawing/Drawing.h"
#include "geom/MeshFile.h"
#include "job/Job.h"
#include "machine/Machine.h"
#include "part/StepText.h"
#include "post/Post.h"
#include "target/TargetSpec.h"
#include "tool/Library.h"
#include <stdexcept>

namespace gyre::test {
namespace {

bool meshOf(const char* name, const std::string& bytes) {
    Progress quiet;
    const auto m = meshFromBytes(bytes, name, quiet);
    if (!m) return false;
    for (const auto& t : m->mesh.triangles)
        for (const auto i : t)
            if (i >= m->mesh.points.size()) throw std::logic_error("a triangle without its point");
    return true;
}

bool drawingOf(const Result<Drawing>& d) {
    if (!d) return false;
    for (const DrawnCurve& c : d->curves)
        if (!std::isfinite(c.curve.length())) throw std::logic_error("a curve without length");
    return true;
}

const char* kTetrahedron = "solid t\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 0 1 0\nvertex 1 0 0\nendloop\nendfacet\nfacet normal 0 0 1\nouter loop\nvertex "
                           "0 0 0\nvertex 1 0 0\nvertex 0 0 1\n"
                           "endloop\nendfacet\nendsolid t\n";

std::string binaryStl() {
    TriangleMesh m;
    m.points = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    m.triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}};
    return meshToStl(m);
}

Job smallJob() {
    Job job;
    job.machine = "m.machine.json";
    job.bodies.push_back({"part", "part", "part.step"});
    Mend m;
    m.kind = MendKind::Sketch;
    m.name = "sketch";
    m.points = {{0, 0, 0}, {5, 0, 0.5}, {5, 5, 0}};
    job.mends.push_back(m);
    Assembly a;
    a.id = "b";
    a.materials = {{"brass", 100, 0.05}};
    job.tools.push_back(a);
    Recipe r;
    r.id = "op1";
    r.tool = "b";
    r.target->faces = {ShapeRef{1, "plane", 2.0, Vec3(1, 2, 3)}};
    job.route.push_back(r);
    return job;
}

/// Five axes with clamps: what programs are read for.
const Machine& smallMachine() {
    static const Machine machine = [] {
        Machine m;
        m.name = "M";
        const char* names[] = {"X", "Y", "Z", "A", "C"};
        for (int i = 0; i < 5; ++i) {
            Joint j;
            j.name = names[i];
            j.kind = i < 3 ? JointKind::Linear : JointKind::Rotary;
            j.direction = i < 3 ? Vec3(Vec3::Unit(i)) : i == 3 ? Vec3(Vec3::UnitX()) : Vec3(Vec3::UnitZ());
            j.clampCode = i == 3 ? 21 : 0;
            j.freeCode = i == 3 ? 22 : 0;
            j.shortest = i == 4;
            m.joints.push_back(j);
        }
        return m;
    }();
    return machine;
}

bool programOf(const std::string& text, bool inOtherWords) {
    ProgramWords words;
    if (inOtherWords) {
        words.lengthCheck = "CHECK T{tool} L{length}";
        words.rigidTap = 29;
        words.dwellMs = true;
    }
    const auto p = readProgram(text, smallMachine(), words);
    if (!p) return false;
    for (const Act& a : p->acts)
        if (a.state >= p->states.size() || a.line < 1) throw std::logic_error("an act without its state or line");
    return true;
}

} // namespace

const std::vector<FuzzTarget>& fuzzTargets() {
    static const std::vector<FuzzTarget> targets{
        {"stl", [](const std::string& b) { return meshOf("f.stl", b); }, {kTetrahedron, binaryStl()}},
        {"obj", [](const std::string& b) { return meshOf("f.obj", b); }, {"v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1/1/1 2//2 4\nf -1 -2 -3\n"}},
        {"ply",
         [](const std::string& b) { return meshOf("f.ply", b); },
         {"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int "
          "vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"}},
        {"dxf",
         [](const std::string& b) { return drawingOf(drawingFromDxf(b, "f.dxf")); },
         {dxfOf({{"a", circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(5, 0, 0), 3.0)}, {"b", straightLines({{0, 0, 0}, {3, 4, 0}})}}, 0.1),
          "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n70\n1\n10\n0\n20\n0\n42\n0."
          "4\n10\n5\n20\n1\n0\nARC\n10\n1\n20\n1\n40\n5\n50\n10\n51\n80\n0\nSPLINE\n71\n1\n40\n0\n40\n0\n40\n1\n40\n1\n10\n0\n20\n0\n10\n5\n20\n5\n0\nENDSEC\n0\nEOF\n"}},
        {"svg",
         [](const std::string& b) { return drawingOf(drawingFromSvg(b, "f.svg")); },
         {"<svg width='10mm' viewBox='0 0 10 10'><g transform='rotate(5)'><path d='M0 0C1 2 3 4 5 6A2 2 0 0 1 9 9Z'/><rect width='5' height='4' rx='1'/></g></svg>"}},
        {"step",
         [](const std::string& b) {
             const auto fault = faultInStep(b);
             if (fault && (fault->line < 1 || fault->what.empty())) throw std::logic_error("a fault without its line");
             return !fault;
         },
         {"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nENDSEC;\nDATA;\n#1=(A(1.5E-3,$,*)B((#2,.T.),'it''s',\"0F\"));/* two */\n#2=C(D(-1.),());\n"
          "ENDSEC;\nEND-ISO-10303-21;\n"}},
        {"job", [](const std::string& b) { return jobFromJson(b, "f.gyre.json").has_value(); }, {jobToJson(smallJob())}},
        {"tools", [](const std::string& b) { return toolLibraryFromJson(b, "f.tools.json").has_value(); }, {toolLibraryToJson({"t", smallJob().tools})}},
        {"nc",
         [](const std::string& b) {
             const bool plain = programOf(b, false);
             return programOf(b, true) || plain;
         },
         {"%\n(A)\nN10 G21 G17 G90 G40 G49 G80 G94\nN20 G54\nN30 G53 G0 Z170.\nT1 M6\nM22\nG53 G0 A0 C0\nS8000 M3\nM8\nG43.4 H1\nG0 X0 Y0 Z50 A0 C0\nM21\nG1 Z10 "
          "F250\nG4 "
          "P0.5\nG49\nM9\nM5\nM30\n%\n",
          "G20 G90\nT2 M6\nCHECK T2 L3.9\nG0 X1 Y1 Z3 A0 C350\nS400 M3\nM29 S400\nG95\nG99 G84 X1 Y1 Z1 R3 F0.05\nG80\nG93\nG1 X2 F20\nG17 G3 X4 Y1 I1 J0 F9\nG18 G2 X6 "
          "Z3 I1 K0 F9\nG1 C10 F3\nM30\n",
          "PARTNO/A\nUNITS/MM\nMULTAX/ON\nLOADTL/1\nCUTTER/6.,0.\nSPINDL/8000,RPM,CLW\nCOOLNT/FLOOD\nRAPID\nGOTO/0,0,50,0,0,1\nFEDRAT/250,MMPM\nGOTO/0,0,10,0,0,1\nDELAY/"
          "0.5\nCYCLE/"
          "TAP,5.,MMPR,1.\nGOTO/0,0,10,0,0,1\nCYCLE/OFF\nSPINDL/OFF\nFINI\n"}},
        {"dialect", // what is read as one is written as it was, and reads any program without harm
         [](const std::string& b) {
             auto s = spellingFromJson(b, "f.dialect.json");
             if (!s) return false;
             if (const auto again = spellingFromJson(spellingToJson(*s), "again"); !again || !(*again == *s)) throw std::logic_error("a dialect reads back as another");
             s->script.clear();
             PostInput as;
             as.machine = std::shared_ptr<const Machine>(std::shared_ptr<const Machine>(), &smallMachine());
             (void)readBack("%\nN1 G21 G90\nT1 M6\nG0 X1 Y2 (A)\nM30\n%\n", inDialect(as, std::make_shared<const Spelling>(std::move(*s))));
             return true;
         },
         {R"seed({"format":"gyre-dialect","version":1,"name":"A","positions":"tip","zeros":false,"comments":"braces","say":{"tipOn":"TIPON D{register}","tool":"T{tool}\nM6"},"axes":[{"joint":"C","word":"C1="}],"clamps":[{"joint":"A","on":10,"off":11}],"lines":{"finish":["M99 (BYE)"]},"script":["function before(a) end"]})seed"}},
        {"machine",
         [](const std::string& b) { return machineFromJson(b, "f.machine.json", {}).has_value(); },
         {R"({"format":"gyre-machine","version":1,"name":"M","joints":[{"name":"X","kind":"linear","direction":[1,0,0],"low":-1,"high":1}]})"}},
    };
    return targets;
}

} // namespace gyre::test
