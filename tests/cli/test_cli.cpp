#include "Commands.h"
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/File.h"
#include "drawing/Drawing.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "pattern/PatternSpec.h"
#include <sstream>

namespace test_cli {

using namespace gyre;

namespace {
struct Ran {
    int code;
    std::string out, err;
};
Ran gyre_(std::vector<std::string> words) {
    std::vector<const char*> argv{"gyre"};
    for (const auto& w : words) argv.push_back(w.c_str());
    std::ostringstream out, err;
    const int code = runCommandLine(static_cast<int>(argv.size()), argv.data(), out, err);
    return {code, out.str(), err.str()};
}
std::string demoJob() { return test::demoFile("lantern-collar.gyre.json"); }
} // namespace

class TestCli : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;

    /// The demo's, in fewer rows: what commands do with it takes a fraction of the time.
    std::string coarseJob() {
        const std::string file = m_dir.filePath("coarse.gyre.json").toStdString();
        if (std::filesystem::exists(file)) return file;
        Job job = openJob(demoJob()).value();
        for (auto& b : job.bodies) b.file = test::demoFile(b.file);
        job.machine = test::demoFile(job.machine);
        job.route.front().pattern->spacing *= 4.0;
        return saveJob(job, file) ? file : std::string();
    }

private slots:
    void inspectTellsFacesAndEdges() {
        const Ran r = gyre_({"--json", "--quiet", "inspect", test::demoFile("lantern-collar.step")});
        QCOMPARE(r.code, int(kExitOk));
        const Json j = Json::parse(r.out);
        QCOMPARE(j["faces"].size(), std::size_t(42));
        for (const char* key : {"kind", "area", "centre", "normal"}) QVERIFY(j["faces"][0].contains(key));
        for (const char* key : {"kind", "length", "start", "end", "convexity"}) QVERIFY(j["edges"][0].contains(key));
        QVERIFY(r.err.empty());
    }
    // An id from a file is no way out of the folder; text that is no UTF-8 does not end the program.
    void namesFromFilesAreHarmless() {
        Job job = openJob(demoJob()).value();
        for (auto& b : job.bodies) b.file = test::demoFile(b.file);
        job.machine = test::demoFile(job.machine);
        const std::filesystem::path victim = std::filesystem::path(m_dir.path().toStdString()) / "victim.csv";
        QVERIFY(writeFileAtomic(victim, "mine"));
        job.route.front().id = "../victim";
        const std::string file = m_dir.filePath("wild.gyre.json").toStdString(), tables = m_dir.filePath("tables").toStdString();
        QVERIFY(saveJob(job, file));
        QCOMPARE(gyre_({"--quiet", "dump", file, "--dir", tables}).code, int(kExitOk));
        QCOMPARE(readFile(victim, 100).value(), std::string("mine"));
        QCOMPARE(std::distance(std::filesystem::directory_iterator(tables), {}), std::ptrdiff_t(2));
        const std::string drawing = m_dir.filePath("umlaut.dxf").toStdString();
        QVERIFY(writeFileAtomic(drawing, "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nStra\xdf"
                                         "e \xfc\n10\n0\n20\n0\n11\n5\n21\n0\n0\nENDSEC\n0\nEOF\n"));
        const Ran told = gyre_({"--json", "--quiet", "contents", drawing});
        QCOMPARE(told.code, int(kExitOk));
        QVERIFY2(told.out.find("Straße ü") != std::string::npos, told.out.c_str());
    }
    // A job written into another folder opens there.
    void jobsWrittenElsewhereOpen() {
        QDir(m_dir.path()).mkpath("else/where");
        const std::string out = m_dir.filePath("else/where/drilled.gyre.json").toStdString();
        QCOMPARE(gyre_({"--quiet", "drill", test::demoFile("dome-setup.gyre.json"), "--out", out, "--group", "1"}).code, int(kExitOk));
        QCOMPARE(gyre_({"--quiet", "mends", out}).code, int(kExitOk));
        QCOMPARE(gyre_({"--quiet", "drill", test::demoFile("dome-setup.gyre.json"), "--out", test::demoFile("pierced-dome.step"), "--group", "1"}).code,
                 int(kExitFailed));
    }
    void planTellsFactsAndProveStopsAtTheHolder() {
        const Ran plan = gyre_({"--json", "plan", demoJob()});
        QCOMPARE(plan.code, int(kExitOk));
        QVERIFY(!plan.err.empty()); // progress goes to stderr
        const Json p = Json::parse(plan.out)["operations"][0];
        QVERIFY(p["complete"].get<bool>() && p["widestGap"].get<double>() <= 1.01 * p["spacing"].get<double>());
        const Ran proof = gyre_({"--json", "--quiet", "prove", demoJob()});
        QCOMPARE(proof.code, int(kExitStop));
        const Json j = Json::parse(proof.out)["operations"][0];
        QCOMPARE(j["marks"]["holder"].get<std::string>(), std::string("stop"));
        QCOMPARE(j["marks"]["gouge"].get<std::string>(), std::string("clear"));
        // The remedy it names, applied by hand, makes it clean: exit 0.
        Job job = openJob(demoJob()).value();
        for (const auto& f : j["findings"])
            for (const auto& r : f["remedies"])
                if (r["set"] == "tool.stickOut") QVERIFY(setWord(job, "flare", "tool.stickOut", r["to"].get<std::string>()));
        for (auto& b : job.bodies) b.file = test::demoFile(b.file);
        job.machine = test::demoFile(job.machine);
        const std::string cured = m_dir.filePath("cured.gyre.json").toStdString();
        QVERIFY(saveJob(job, cured));
        QCOMPARE(gyre_({"--quiet", "prove", cured}).code, int(kExitOk));
    }
    void postedProgramsReplay() {
        const std::string job = coarseJob();
        for (const char* dialect : {"tip", "joints", "cldata"}) {
            const std::string nc = m_dir.filePath(dialect).toStdString();
            // The demo's holder hits: nothing is written by accident.
            const Ran refused = gyre_({"--quiet", "post", job, "--out", nc, "--dialect", dialect});
            QCOMPARE(refused.code, int(kExitStop));
            QVERIFY(!std::filesystem::exists(nc) && refused.err.find("Stop") != std::string::npos && refused.err.find("holder") != std::string::npos);
            QCOMPARE(gyre_({"--quiet", "post", job, "--out", nc, "--dialect", dialect, "--despite-stops"}).code, int(kExitOk));
            const std::string head = readFile(nc, 1 << 28).value().substr(0, 600);
            QVERIFY2(head.find("WRITTEN DESPITE") != std::string::npos && head.find("STOP - ") != std::string::npos, head.c_str());
            QCOMPARE(gyre_({"--quiet", "replay", nc, "--job", job}).code, int(kExitOk));
        }
        // What is replaced is kept; inputs and jobs are not written over.
        const std::string tip = m_dir.filePath("tip").toStdString(), before = readFile(tip, 1 << 28).value();
        QVERIFY(writeFileAtomic(tip, "% mine"));
        QCOMPARE(gyre_({"--quiet", "post", job, "--out", tip, "--despite-stops"}).code, int(kExitOk));
        QCOMPARE(readFile(tip, 1 << 28).value(), before);
        QCOMPARE(readFile(tip + "~", 1 << 28).value(), std::string("% mine"));
        for (const std::string& file :
             {job, test::demoFile("lantern-collar.step").string(), test::demoFile("heron-5t.machine.json").string(), test::demoFile("larkmoor.tools.json").string()}) {
            const std::string whole = readFile(file, 1 << 28).value();
            QCOMPARE(gyre_({"--quiet", "post", job, "--out", file, "--despite-stops"}).code, int(kExitFailed));
            QCOMPARE(readFile(file, 1 << 28).value(), whole);
        }
        std::string text = readFile(m_dir.filePath("tip").toStdString(), 1 << 28).value();
        text.replace(text.find("X-", text.size() / 2), 3, "X-9");
        const std::string wrong = m_dir.filePath("wrong").toStdString();
        QVERIFY(writeFileAtomic(wrong, text));
        QCOMPARE(gyre_({"--quiet", "replay", wrong, "--job", job}).code, int(kExitStop));
    }
    // The dump alone, with the formulas of the documentation, tells everything: tip, contact, axis, joints.
    void dumpedTablesCanBeCheckedWithoutUs() {
        const std::string folder = m_dir.filePath("tables").toStdString();
        QCOMPARE(gyre_({"--quiet", "dump", demoJob(), "--dir", folder}).code, int(kExitOk));
        std::istringstream csv(readFile(folder + "/flare.csv", 1 << 28).value());
        const Json j = Json::parse(readFile(folder + "/flare.json", 1 << 24).value());
        std::string line;
        std::getline(csv, line);
        QCOMPARE(line, std::string("index,row,kind,x,y,z,i,j,k,cx,cy,cz,nx,ny,nz,feed,time,X,Y,Z,A,C"));
        const double radius = 0.5 * j["cutter"]["DC"].get<double>();
        std::size_t n = 0;
        double before = -1;
        while (std::getline(csv, line)) {
            const QStringList f = QString::fromStdString(line).split(',');
            QCOMPARE(f.size(), 22);
            QCOMPARE(f[0].toULongLong(), static_cast<qulonglong>(n++));
            const auto v = [&](int at) { return Vec3(f[at].toDouble(), f[at + 1].toDouble(), f[at + 2].toDouble()); };
            QVERIFY(f[16].toDouble() >= before);
            before = f[16].toDouble();
            if (f[2] != "cut") continue;
            QVERIFY((v(9) + radius * (v(12) - v(6)) - v(3)).norm() < 1e-9); // P = C + r(N − a)
            const double a = radians(f[20].toDouble()), c = radians(f[21].toDouble());
            // Trunnion: A turns about X, C about Z, the axis in part coordinates is Rz(C) Rx(A) z.
            QVERIFY((rotation(Vec3::UnitZ(), c) * rotation(Vec3::UnitX(), a) * Vec3::UnitZ() - v(6)).norm() < 1e-9);
        }
        QVERIFY(n > 10000);
        QVERIFY(j["assembly"].size() >= 5 && j["machine"]["joints"].size() == 5);
    }
    void aHandWrittenJobAgainstAForeignPartWorks() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        test::cylinderStep(dir, 20, 30);
        const Json faces = Json::parse(gyre_({"--json", "--quiet", "inspect", dir / "cylinder.step"}).out)["faces"];
        std::size_t wall = 0;
        for (std::size_t i = 0; i < faces.size(); ++i)
            if (faces[i]["kind"] == "cylinder") wall = i;
        const Json job = {{"format", "gyre-job"},
                          {"version", 1},
                          {"name", "Post"},
                          {"machine", test::demoFile("dunlin-5m.machine.json").string()},
                          {"placement", {{"seat", {0, 0, 60}}}},
                          {"bodies", {{{"name", "post"}, {"role", "part"}, {"file", "cylinder.step"}}}},
                          {"tools", {{{"id", "b6"}, {"cutter", {{"shape", "ball"}, {"DC", 6}, {"APMX", 12}, {"OAL", 80}}}, {"stickOut", 45}}}},
                          {"route",
                           {{{"id", "wall"},
                             {"tool", "b6"},
                             {"target", {{"faces", {wall}}}},
                             {"pattern", {{"spacing", 1.0}}},
                             {"axis", {{"tilt", 60}}},
                             {"links", {{"skin", {{"kind", "cylinder"}, {"size", 60}}}}}}}}};
        QVERIFY(writeFileAtomic(dir / "hand.json", job.dump()));
        const Ran r = gyre_({"--json", "--quiet", "plan", dir / "hand.json"});
        QCOMPARE(r.code, int(kExitOk));
        const Json op = Json::parse(r.out)["operations"][0];
        QVERIFY2(op["complete"].get<bool>(), r.out.c_str());
        for (const auto& f : op["findings"]) QVERIFY2(f["rank"] != "Stop", r.out.c_str());
    }
    void mistakesHaveMeaningfulExitCodes() {
        QCOMPARE(gyre_({}).code, int(kExitUsage));
        QCOMPARE(gyre_({"dance"}).code, int(kExitUsage));
        QCOMPARE(gyre_({"plan"}).code, int(kExitUsage));
        QCOMPARE(gyre_({"--help"}).code, int(kExitOk));
        QCOMPARE(gyre_({"plan", "/nowhere.json"}).code, int(kExitFailed));
        QCOMPARE(gyre_({"--quiet", "post", demoJob(), "--out", "/proc/no", "--dialect", "tip", "--despite-stops"}).code, int(kExitFailed));
        QCOMPARE(gyre_({"--quiet", "post", demoJob(), "--out", "x", "--dialect", "esperanto"}).code, int(kExitFailed));
        const Ran r = gyre_({"--json", "inspect", "/nowhere.step"});
        QCOMPARE(r.code, int(kExitFailed));
        QVERIFY(Json::parse(r.out)["error"]["what"].get<std::string>().find("not there") != std::string::npos);
    }
    void holesAreSpottedAndDrilled() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        for (const char* f : {"dome-setup.gyre.json", "pierced-dome.step", "dome-spigot.step", "heron-5t.machine.json", "coolant-ring.stl"})
            std::filesystem::copy_file(test::demoFile(f), dir / f, std::filesystem::copy_options::skip_existing);
        const std::string from = (dir / "dome-setup.gyre.json").string(), to = (dir / "drilled.gyre.json").string();
        const Ran r = gyre_({"--json", "--quiet", "drill", from, "--out", to, "--group", "2"});
        QVERIFY2(r.code == kExitOk, r.err.c_str());
        const Json added = Json::parse(r.out)["added"];
        QCOMPARE(added.size(), std::size_t(3));
        QVERIFY(added[1]["holes"] == 12 && added[1]["parent"] == added[0]["operation"] && added[2]["tool"] == "drill-2.5");
        const Ran plan = gyre_({"--json", "--quiet", "plan", to});
        QVERIFY2(plan.code == kExitOk, plan.err.c_str());
        const Json operations = Json::parse(plan.out)["operations"];
        QCOMPARE(operations.size(), std::size_t(2)); // the steps; what only names holes makes no path
        for (const auto& op : operations) QVERIFY(op["complete"].get<bool>());
        QVERIFY(gyre_({"--quiet", "dump", to, "--dir", (dir / "dump").string()}).code == kExitOk);
        QVERIFY(gyre_({"drill", from, "--out", to, "--group", "9"}).err.find("there are 4") != std::string::npos);
    }
    void contentsOfAssembliesAndDrawings() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        const Ran r = gyre_({"--json", "contents", test::pinnedPlate(dir)});
        QCOMPARE(r.code, int(kExitOk));
        const Json bodies = Json::parse(r.out)["bodies"];
        QCOMPARE(bodies.size(), std::size_t(3));
        QVERIFY(bodies[0]["name"] == "plate" && bodies[0]["colour"][0].get<double>() > 0.9);
        QVERIFY(gyre_({"contents", test::boxStep(dir, 1, 2, 3)}).out.find("one body") != std::string::npos);
        const std::string file = (dir / "d.dxf").string();
        QVERIFY(writeFileAtomic(file, dxfOf({{"cut", circleArc(Vec3::Zero(), Vec3::UnitZ(), Vec3(10, 0, 0), 2 * kPi)}}, 0.001)));
        const Ran d = gyre_({"--json", "contents", file});
        QCOMPARE(d.code, int(kExitOk));
        QVERIFY(std::abs(Json::parse(d.out)["curves"][0]["length"].get<double>() - 20 * kPi) < 0.01);
        QVERIFY(gyre_({"contents", file}).out.find("1 curves, millimetres") == 0);
        QCOMPARE(gyre_({"contents", (dir / "none.dxf").string()}).code, int(kExitFailed));
    }
    void mendsWithoutAWindow() {
        const std::string out = m_dir.filePath("mends.dxf").toStdString();
        const Ran r = gyre_({"--json", "--quiet", "mends", test::demoFile("barrel-setup.gyre.json"), "--out", out});
        QVERIFY2(r.code == kExitOk, r.err.c_str());
        const Json m = Json::parse(r.out)["mends"][0];
        QVERIFY(m["name"] == "follower" && m["trouble"] == "");
        // 150° round Ø80 while the pitch grows from 72 to 158.4.
        double length = 0.0;
        for (int i = 0; i < 10000; ++i) length += 150.0 / 360.0 * std::hypot(72.0 + 86.4 * (i + 0.5) / 10000, 80 * kPi) / 10000;
        QVERIFY(std::abs(m["lengths"][0].get<double>() - length) < 1e-3);
        const auto drawing = readDrawing(out);
        QVERIFY(drawing && drawing->curves.size() == 3 && drawing->curves[0].layer == "follower");
        // One that cannot be made: told, and exit 3.
        Job job = openJob(test::demoFile("barrel-setup.gyre.json")).value();
        for (auto& b : job.bodies)
            if (!b.file.empty()) b.file = test::demoFile(b.file);
        job.machine = test::demoFile(job.machine);
        job.mends[0].kind = MendKind::Middle;
        const std::string broken = m_dir.filePath("broken.gyre.json").toStdString();
        QVERIFY(saveJob(job, broken));
        const Ran b = gyre_({"--quiet", "mends", broken});
        QVERIFY(b.code == kExitStop && b.out.find("cannot:") != std::string::npos);
    }
    // From a part file to a job with rows, holes and milling: no JSON is written by hand.
    void aJobFromNothing() {
        const std::filesystem::path dir = std::filesystem::path(m_dir.path().toStdString()) / "fresh";
        std::filesystem::create_directories(dir);
        const std::string part = test::drilledPlate(dir).string(), job = (dir / "plate.gyre.json").string();
        const Ran none = gyre_({"--quiet", "new", part, "--out", job});
        QVERIFY(none.code == kExitFailed && none.err.find("no machine") != std::string::npos);
        QVERIFY(gyre_({"--quiet", "new", part, "--out", job, "--shop", GYRE_DEMO_DIR, "--machine", "Nobody's"}).err.find("no machine 'Nobody's'") != std::string::npos);
        const Ran made =
            gyre_({"--json", "--quiet", "new", part, "--out", job, "--shop", GYRE_DEMO_DIR, "--machine", test::demoFile("heron-5t.machine.json"), "--allowance", "3"});
        QVERIFY2(made.code == kExitOk, made.err.c_str());
        QVERIFY(Json::parse(made.out)["machine"].get<std::string>().find("Heron") != std::string::npos && Json::parse(made.out)["tools"].get<int>() > 10);
        const Job fresh = openJob(job).value();
        QCOMPARE(fresh.bodies.size(), std::size_t(2));
        QVERIFY(fresh.bodies[1].role == "stock" && std::abs(fresh.bodies[1].shape->high.z() - 29) < 1e-6 && std::abs(fresh.seat.x() + 60) < 1e-6);
        QVERIFY(gyre_({"--quiet", "new", part, "--out", job, "--shop", GYRE_DEMO_DIR}).err.find("already") != std::string::npos); // nothing is written over
        const Ran holes = gyre_({"--json", "--quiet", "drill", job, "--out", job});
        QVERIFY2(holes.code == kExitOk && Json::parse(holes.out).contains("notes"), holes.err.c_str());
        const auto opened = test::openPart(part);
        std::string floor, left, right;
        for (std::size_t f = 0; f < opened->faces().size(); ++f)
            if (opened->faces()[f].kind == SurfaceKind::Plane && opened->faces()[f].normal.z() > 0.999 && std::abs(opened->faces()[f].centre.z() - 20) < 1e-6 &&
                opened->faces()[f].area > 3000)
                floor = std::to_string(f);
        for (std::size_t e = 0; e < opened->edges().size(); ++e) {
            const EdgeInfo& i = opened->edges()[e];
            if (i.kind != CurveKind::Line || std::abs(i.middle.z() - 20) > 1e-6 || std::abs(i.length - 80) > 1e-6) continue;
            (i.middle.x() < 1 ? left : right) = std::to_string(e);
        }
        const Ran rows =
            gyre_({"--json", "--quiet", "rows",   job,      "--out",    job,     "--faces",      floor,   "--rail1",           left,    "--rail2",
                   right,    "--tool",  "ball-8", "--skin", "plane 45", "--set", "axis.lead=10", "--set", "pattern.spacing=2", "--set", "pattern.by=spacing"});
        QVERIFY2(rows.code == kExitOk, rows.err.c_str());
        // Rails need not be told: there are patterns without, and others take what the faces suggest.
        const std::string other = (dir / "others.gyre.json").string();
        for (const char* kind : {"pattern.kind=planes", "pattern.kind=rails"}) {
            std::filesystem::remove(other);
            const Ran bare = gyre_({"--quiet", "rows", job, "--out", other, "--faces", floor, "--set", kind});
            QVERIFY2(bare.code == kExitOk, bare.err.c_str());
            const PatternSpec pattern = openJob(other).value().route.back().pattern;
            QVERIFY(pattern.kind == PatternBy::Planes || (!pattern.rail1.empty() && !pattern.rail2.empty()));
        }
        const Ran turned = gyre_({"--quiet", "mill", job, "--out", job, "--shape", "face", "--faces", floor, "--repeat", "3", "--axis", "x", "--depth", "1.5"});
        QVERIFY2(turned.code == kExitOk, turned.err.c_str());
        const Job whole = openJob(job).value();
        const Recipe& face = whole.route.back();
        QVERIFY(face.repeat->count == 3 && face.repeat->axis == 0 && face.mill->depth == 1.5 && face.mill->depthBy == MillDepth::Typed);
        QVERIFY(face.link->skin.kind == SkinKind::Cylinder && face.link->skin.axis == 0 && face.link->skin.size > std::hypot(80, 20)); // all around, not through the part
        const Recipe& laid = whole.route[whole.route.size() - 2];
        QVERIFY(laid.tool == "ball-8" && laid.axis->leadDegrees == 10 && laid.pattern->spacing == 2 && laid.link->skin.kind == SkinKind::Plane &&
                laid.link->skin.size == 45);
        for (const auto& [words, what] : std::vector<std::pair<std::vector<std::string>, const char*>>{
                 {{"--skin", "plate 5"}, "no skin"}, {{"--set", "axis.lead"}, "sets no word"}, {{"--tool", "none"}, "no tool"}, {{"--depth", "2"}, "no depth"}}) {
            std::vector<std::string> all{"--quiet", "rows", job, "--out", job, "--faces", floor, "--rail1", left, "--rail2", right};
            all.insert(all.end(), words.begin(), words.end());
            const Ran wrong = gyre_(all);
            QVERIFY2(wrong.code == kExitFailed && wrong.err.find(what) != std::string::npos, wrong.err.c_str());
        }
        const Ran plan = gyre_({"--json", "--quiet", "plan", job});
        QVERIFY2(plan.code == kExitOk || plan.code == kExitStop, plan.err.c_str());
    }
    void millingWithoutAWindow() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        for (const auto& e : std::filesystem::directory_iterator(GYRE_DEMO_DIR))
            std::filesystem::copy(e.path(), dir / e.path().filename(), std::filesystem::copy_options::skip_existing);
        const std::string job = (dir / "barrel-setup.gyre.json").string(), out = (dir / "milled.gyre.json").string(), program = (dir / "milled.nc").string();
        const Ran first = gyre_({"--quiet", "mill", job, "--out", out, "--shape", "follow", "--drawing", "follower", "--on", "round X"});
        QVERIFY2(first.code == kExitOk, first.err.c_str());
        const Ran second = gyre_({"--json", "--quiet", "mill", out, "--out", out, "--shape", "round"});
        QVERIFY2(second.code == kExitOk, second.err.c_str());
        QCOMPARE(Json::parse(second.out)["tool"].get<std::string>(), std::string("ball-8"));
        Job made = openJob(out).value();
        QCOMPARE(made.route.size(), std::size_t(2));
        made.route[1].mill->from = 105;
        made.route[1].mill->to = 119;
        QVERIFY(saveJob(made, out));
        const Ran plan = gyre_({"--json", "--quiet", "plan", out});
        QVERIFY2(plan.code == kExitOk || plan.code == kExitStop, plan.err.c_str());
        // A body from above, by its words.
        const std::string yoke = (dir / "yoke-setup.gyre.json").string();
        const Ran body = gyre_({"--quiet", "mill", yoke, "--out", out, "--shape", "body", "--set", "mill.depthBy=typed", "--set", "mill.depth=4", "--set",
                                "mill.stepover=3", "--set", "mill.parts=strokes"});
        QVERIFY2(body.code == kExitOk, body.err.c_str());
        const Ran laid = gyre_({"--json", "--quiet", "plan", out});
        QVERIFY2(laid.code == kExitOk || laid.code == kExitStop, laid.err.c_str());
        QVERIFY2(laid.out.find("steep-wide") != std::string::npos && laid.out.find("mill.parts") != std::string::npos, laid.out.c_str());
        // What cannot be is said.
        QVERIFY(gyre_({"--quiet", "mill", job, "--out", out, "--shape", "lathe"}).err.find("no kind of milling") != std::string::npos);
        QVERIFY(gyre_({"--quiet", "mill", job, "--out", out, "--faces", "99999"}).err.find("face 99999") != std::string::npos);
        QVERIFY(gyre_({"--quiet", "mill", job, "--out", out, "--drawing", "nothing"}).err.find("nothing") != std::string::npos);
    }
    void followingWithoutAWindow() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        for (const auto& e : std::filesystem::directory_iterator(GYRE_DEMO_DIR))
            std::filesystem::copy(e.path(), dir / e.path().filename(), std::filesystem::copy_options::skip_existing);
        const std::string job = (dir / "yoke-setup.gyre.json").string(), out = (dir / "followed.gyre.json").string();
        const Ran first = gyre_({"--json", "--quiet", "along", job, "--out", out, "--what", "holes-near"});
        QVERIFY2(first.code == kExitOk, first.err.c_str());
        QCOMPARE(Json::parse(first.out)["work"].get<std::string>(), std::string("holes-near"));
        const std::string collar = (dir / "lantern-collar.gyre.json").string();
        const auto opened = test::openPart(test::demoFile("lantern-collar.step"));
        const Part& part = *opened;
        int wall = -1;
        for (std::size_t f = 0; f < part.faces().size(); ++f)
            if (part.faces()[f].kind == SurfaceKind::FreeForm && part.faces()[f].bounds.high.z() - part.faces()[f].bounds.low.z() > 40) wall = static_cast<int>(f);
        const Ran second = gyre_({"--json", "--quiet", "along", collar, "--out", out, "--what", "wall", "--faces", std::to_string(wall)});
        QVERIFY2(second.code == kExitOk, second.err.c_str());
        QCOMPARE(Json::parse(second.out)["faces"].get<int>(), 9); // one face stands for the whole wall
        QCOMPARE(Json::parse(second.out)["tool"].get<std::string>(), std::string("flat-6-side"));
        QVERIFY(gyre_({"--quiet", "along", job, "--out", out, "--what", "lathe"}).err.find("no such work") != std::string::npos);
        QVERIFY(gyre_({"--quiet", "along", job, "--out", out, "--what", "edges", "--edges", "99999"}).err.find("edge 99999") != std::string::npos);
        QVERIFY(gyre_({"--quiet", "follow", job, "--out", out, "--what", "curve", "--drawing", "nothing"}).err.find("nothing") != std::string::npos);
    }
    // The list of assemblies, the best first; one that reaches all of it, taken, has nothing in its way. Slices are made and worked.
    void assembliesAndSlicesWithoutAWindow() {
        const std::string job = coarseJob();
        const Ran list = gyre_({"--quiet", "--json", "assemblies", job, "--operation", "flare", "--step", "1"});
        QCOMPARE(list.code, int(kExitOk));
        const auto all = Json::parse(list.out)["assemblies"];
        QVERIFY(all.size() > 5 && all[0]["reached"] == 1.0);
        for (std::size_t i = 1; i < all.size(); ++i) QVERIFY(all[i - 1]["reached"].get<double>() >= all[i]["reached"].get<double>());
        QCOMPARE(gyre_({"--quiet", "assemblies", job, "--operation", "nobody"}).code, int(kExitFailed));
        const std::string out = m_dir.filePath("sliced.gyre.json").toStdString();
        const Ran made =
            gyre_({"--quiet", "slices", job, "--operations", "flare", "--set", "slices.from=54", "--set", "slices.to=14", "--set", "slices.thickness=14", "--out", out});
        QVERIFY2(made.code == kExitOk && made.out.find("1 operations in 3 slices") != std::string::npos, made.out.c_str());
        const Ran planned = gyre_({"--quiet", "--json", "plan", out});
        QVERIFY(planned.code == kExitOk);
        const auto operations = Json::parse(planned.out)["operations"];
        QCOMPARE(operations.size(), std::size_t(3));
        QCOMPARE(operations[2]["operation"].get<std::string>(), std::string("flare@3"));
        for (const std::vector<std::string>& wrong : {std::vector<std::string>{"slices", job, "--operations", "nobody", "--out", out},
                                                      {"slices", out, "--operations", "flare", "--out", out},
                                                      {"slices", job, "--operations", "flare", "--set", "slices.thickness=0.05", "--out", out}})
            QVERIFY(gyre_(wrong).code != kExitOk);
    }
    // A sheet vouches for the program of its job alone, and is written over nothing it was made from.
    void theSetUpSheetGoesWithItsProgram() {
        const std::string job = test::demoFile("dome-stars.gyre.json").string(), other = test::demoFile("collar-leans.gyre.json").string();
        const auto file = [&](const char* name) { return m_dir.filePath(name).toStdString(); };
        const std::string nc = file("dome.nc"), page = file("dome.html"), tools = file("dome.csv");
        QCOMPARE(gyre_({"--quiet", "post", job, "--out", nc, "--dialect", "joints"}).code, 0);
        const Ran good = gyre_({"--quiet", "--json", "setup-sheet", job, "--out", page, "--tools", tools, "--program", nc});
        QCOMPARE(good.code, 0);
        const std::string text = readFile(page, 1 << 24).value(), list = readFile(tools, 1 << 20).value();
        QVERIFY(text.find("dome.nc, ") != std::string::npos && text.find("Proven at the machine") != std::string::npos);
        QCOMPARE(static_cast<std::size_t>(std::count(list.begin(), list.end(), '\n')), Json::parse(good.out)["tools"].get<std::size_t>() + 1);
        for (const auto& [out, csv] : {std::pair{nc, tools}, {page, nc}, {page, page}})
            QVERIFY(gyre_({"--quiet", "setup-sheet", job, "--out", out, "--tools", csv, "--program", nc}).err.find("of their own") != std::string::npos);
        const Ran wrong = gyre_({"--quiet", "setup-sheet", other, "--out", file("other.html"), "--program", nc});
        QVERIFY(wrong.code != 0 && !std::filesystem::exists(file("other.html")));
        QVERIFY(gyre_({"--quiet", "setup-sheet", job, "--out", job}).err.find("the job itself") != std::string::npos);
    }
    // Names without a folder mean files here; the machine's own mesh is found beside it.
    void filesInTheWorkingFolder() {
        const QString before = QDir::currentPath();
        QVERIFY(QDir::setCurrent(GYRE_DEMO_DIR));
        const Ran plan = gyre_({"--quiet", "plan", "lantern-collar.gyre.json"}),
                  holes = gyre_({"--json", "--quiet", "holes", "pierced-dome.step", "--machine", "heron-5t.machine.json"});
        QDir::setCurrent(before);
        QVERIFY2(plan.code == kExitOk || plan.code == kExitStop, plan.err.c_str());
        QCOMPARE(holes.code, int(kExitOk));
    }
    void holesAndFlanks() {
        const std::string dome = (std::filesystem::path(GYRE_DEMO_DIR) / "pierced-dome.step").string(),
                          machine = (std::filesystem::path(GYRE_DEMO_DIR) / "heron-5t.machine.json").string();
        std::ostringstream out, err;
        const std::vector<const char*> holes{"gyre", "--json", "--quiet", "holes", dome.c_str(), "--machine", machine.c_str()};
        QCOMPARE(runCommandLine(static_cast<int>(holes.size()), holes.data(), out, err), kExitOk);
        const Json j = Json::parse(out.str());
        QCOMPARE(j["count"].get<int>(), 48);
        QCOMPARE(j["groups"].size(), std::size_t(4));
        for (const auto& g : j["groups"])
            for (const auto& h : g["holes"]) QVERIFY(!h["reach"].get<std::string>().empty() && h["bottom"] == "through" && h["sections"].size() == 1);
        std::ostringstream text;
        const std::vector<const char*> flank{"gyre", "--quiet", "flank", dome.c_str(), "--faces", "0", "--diameter", "8"};
        QCOMPARE(runCommandLine(static_cast<int>(flank.size()), flank.data(), text, err), kExitOk);
        QVERIFY(text.str().find("face   0") != std::string::npos);
        const std::vector<const char*> wrong{"gyre", "--quiet", "holes", dome.c_str(), "--faces", "99999"};
        QCOMPARE(runCommandLine(static_cast<int>(wrong.size()), wrong.data(), text, err), kExitFailed);
        QVERIFY(err.str().find("face 99999") != std::string::npos);
    }
};

GYRE_TEST(TestCli)

} // namespace test_cli
#include "test_cli.moc"
