// The stock that is left against the exact part, and as a file.
#include "Commands.h"
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "base/Units.h"
#include "geom/Convex.h"
#include "geom/Inside.h"
#include "geom/MeshFile.h"
#include "session/ComparisonPage.h"
#include <sstream>

namespace test_comparison {

using namespace gyre;
using namespace gyre::test;
namespace fs = std::filesystem;

namespace {
TriangleMesh boxMesh(const Vec3& low, const Vec3& high) { return skinOf(ConvexBody::box(low, high)); }
Stock stockOf(const TriangleMesh& mesh, double cell) {
    Progress progress;
    return Stock::of({&mesh}, cell, progress).value();
}
std::string told(const std::vector<std::string>& words, int expected) {
    std::vector<const char*> argv{"gyre"};
    for (const std::string& w : words) argv.push_back(w.c_str());
    std::ostringstream out, err;
    const int code = runCommandLine(static_cast<int>(argv.size()), argv.data(), out, err);
    if (code != expected) qWarning("%s", err.str().c_str());
    return code == expected ? out.str() : "";
}
} // namespace

class TestComparison : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    fs::path at(const std::string& name) const { return fs::path(m_dir.path().toStdString()) / name; }

private slots:
    // A block around a box: over its sides by what it is larger, over its corners by the diagonal of that; nothing is cut into it.
    void aBlockAroundABox() {
        const auto part = openPart(boxStep(at(""), 40, 30, 20));
        const Box box = part->mesh().bounds();
        const Vec3 more(2, 2, 2);
        Progress progress;
        const Stock stock = stockOf(boxMesh(box.low - more, box.high + more), 0.25);
        const auto r = compareStock(stock, *part, {-0.05, 0.05, 1.0, 2.05}, progress).value();
        QVERIFY2(std::abs(r.most - std::sqrt(12.0)) < 2 * stock.cell(), qPrintable(QString::number(r.most)));
        QCOMPARE(r.deepest, 0.0);
        QVERIFY(std::abs(r.part - 24000.0) < 1e-6 * 24000.0 && std::abs(r.left - 44.0 * 34.0 * 24.0) < 0.01 * r.left);
        // All of its surface stands further out than one; most of it by two, the rims by more.
        QCOMPARE(r.area[0] + r.area[1] + r.area[2], 0.0);
        const double sides = 2.0 * (40 * 30 + 40 * 20 + 30 * 20);
        QVERIFY2(std::abs(r.area[3] - sides) < 0.1 * sides, qPrintable(QString("%1 for %2").arg(r.area[3]).arg(sides)));
        QVERIFY(std::abs(r.wholeArea() - 2.0 * (44 * 34 + 44 * 24 + 34 * 24)) < 0.02 * r.wholeArea());
    }
    // A top that lies too low is cut into the part, as deep as it lies; a stock of the part's own size is neither.
    void tooLowIsToldAsDeepAsItIs() {
        const auto part = openPart(boxStep(at(""), 40, 30, 20));
        const Box box = part->mesh().bounds();
        Progress progress;
        Vec3 high = box.high;
        const auto same = compareStock(stockOf(boxMesh(box.low, high), 0.2), *part, {-0.05, 0.05}, progress).value();
        QVERIFY2(same.most < 1e-3 && same.deepest < 1e-3, qPrintable(QString("%1 %2").arg(same.most).arg(same.deepest)));
        QVERIFY(same.area[1] > 0.95 * same.wholeArea());
        high.z() -= 1.3;
        const auto low = compareStock(stockOf(boxMesh(box.low, high), 0.2), *part, {-0.05, 0.05}, progress).value();
        QVERIFY2(std::abs(low.deepest - 1.3) < 0.02 && low.most < 1e-3, qPrintable(QString::number(low.deepest)));
        QVERIFY(std::abs(low.area[0] - 40 * 30) < 0.05 * 40 * 30);
        QVERIFY(low.deepestAt.z() < box.high.z() - 1.2);
    }
    // A ball that goes once along the top of a block leaves a groove of its own section, cut into the part where it should not be.
    void aGrooveOfABall() {
        const auto part = openPart(boxStep(at(""), 40, 30, 20));
        const Box box = part->mesh().bounds();
        Progress progress;
        Stock stock = stockOf(boxMesh(box.low, box.high), 0.2);
        const Assembly ball = ballTool(6, 40);
        const double deep = 1.1;
        for (double x = box.low.x() - 5; x <= box.high.x() + 5; x += 0.05) stock.remove({Vec3(x, box.centre().y(), box.high.z() - deep), Vec3::UnitZ()}, ball.cutter);
        const auto r = compareStock(stock, *part, {-0.05, 0.05}, progress).value();
        QVERIFY2(std::abs(r.deepest - deep) < 0.02, qPrintable(QString::number(r.deepest)));
        QVERIFY(std::abs(r.deepestAt.y() - box.centre().y()) < 0.3);
        const double angle = std::acos(1.0 - deep / 3.0), section = 9.0 * (angle - std::sin(angle) * std::cos(angle));
        QVERIFY2(std::abs((r.part - r.left) - 40.0 * section) < 0.02 * r.part * 0.02 + 0.02 * 40.0 * section,
                 qPrintable(QString("%1 for %2").arg(r.part - r.left).arg(40.0 * section)));
    }
    // A groove that is engraved by its operation, and an edge that is broken, were to go: they are told apart, as far as they were meant and no further.
    void whatWasToGo() {
        const auto part = openPart(boxStep(at(""), 60, 30, 20));
        const Box box = part->mesh().bounds();
        Progress progress;
        const TriangleMesh own = boxMesh(box.low, box.high);
        Stock stock = Stock::of({&own}, 0.2, progress).value();
        const Assembly ball = ballTool(6, 40);
        const auto cut = [&](const Vec3& from, const Vec3& to, std::uint16_t by) {
            Toolpath path;
            path.push(from, Vec3::UnitZ(), Motion::Rapid, 0, 0.0);
            path.push(to, Vec3::UnitZ(), Motion::Cut, 0, 100);
            QVERIFY(stock.remove({.path = path, .cutter = ball.cutter, .by = by}, progress).has_value());
        };
        const double top = box.high.z();
        cut({box.low.x() + 15, box.low.y() - 5, top - 0.6}, {box.low.x() + 15, box.high.y() + 5, top - 0.6}, 1); // engraved
        cut({box.low.x() + 35, box.low.y() - 5, top - 0.9}, {box.low.x() + 35, box.high.y() + 5, top - 0.9}, 2); // by mistake
        // Along the edge at the high Y, whose corner goes: 0.8 on the top, 0.74 down the side.
        const Vec3 edge(0, box.high.y() + 1.6, top - 1.2);
        cut({box.low.x() - 5, edge.y(), edge.z()}, {box.high.x() + 5, edge.y(), edge.z()}, 3);
        const auto plain = compareStock(stock, *part, {-0.3, -0.05, 0.05}, progress).value();
        QCOMPARE(plain.meantArea, 0.0);
        QVERIFY(std::abs(plain.deepest - 0.9) < 0.1);
        MeantCuts meant(3);
        meant[0].deep = 0.6;
        meant[2].edges = {{{{box.low.x(), box.high.y(), top}, {box.high.x(), box.high.y(), top}}, 1.2}};
        const auto told = compareStock(stock, *part, {-0.3, -0.05, 0.05}, progress, meant).value();
        QVERIFY2(std::abs(told.wholeArea() - plain.wholeArea()) < 1e-6 * plain.wholeArea(), "every bit of the surface is told once");
        QVERIFY(told.meantArea > 30.0 && std::abs(told.meantDeepest - 0.6) < 0.15);
        QVERIFY2(std::abs(told.deepest - 0.9) < 0.05 && told.deepestBy == 2, qPrintable(QString("%1 by %2").arg(told.deepest).arg(told.deepestBy)));
        QVERIFY(std::none_of(told.gone.begin(), told.gone.end(), [](const StockPlace& p) { return p.by != 2; }));
        // Deeper than was meant is gone, and so is what lies further from the edge.
        meant[0].deep = 0.3;
        meant[2].edges[0].width = 0.2;
        const auto deeper = compareStock(stock, *part, {-0.3, -0.05, 0.05}, progress, meant).value();
        QVERIFY(std::any_of(deeper.gone.begin(), deeper.gone.end(), [](const StockPlace& p) { return p.by == 1; }));
        QVERIFY(deeper.meantArea < told.meantArea);
        meant[0].deep = meant[1].deep = 1.0;
        const auto beside = compareStock(stock, *part, {-0.3, -0.05, 0.05}, progress, meant).value();
        QVERIFY(!beside.gone.empty() && std::all_of(beside.gone.begin(), beside.gone.end(), [](const StockPlace& p) { return p.by == 3; }));
    }
    // Two grooves and a bump far apart: each is a place of its own, the deeper first, where it is and by whom; the page tells them with their numbers.
    void theWorstPlacesAndThePage() {
        const auto part = openPart(boxStep(at(""), 60, 30, 20));
        const Box box = part->mesh().bounds();
        Progress progress;
        const TriangleMesh own = boxMesh(box.low, box.high),
                           bump = boxMesh({box.high.x() - 6, box.centre().y() - 3, box.high.z()}, {box.high.x() - 2, box.centre().y() + 3, box.high.z() + 1.5});
        Stock stock = Stock::of({&own, &bump}, 0.25, progress).value();
        const Assembly ball = ballTool(6, 40);
        const auto cut = [&](double x, double deep, std::uint16_t by) {
            Toolpath path;
            for (const double y : {box.low.y() - 5, box.high.y() + 5})
                path.push({x, y, box.high.z() - deep}, Vec3::UnitZ(), path.size() == 0 ? Motion::Rapid : Motion::Cut, 0, 100);
            QVERIFY(stock.remove({.path = path, .cutter = ball.cutter, .by = by}, progress).has_value());
        };
        cut(box.low.x() + 12, 0.6, 1);
        cut(box.centre().x() + 6, 1.2, 2);
        const auto r = compareStock(stock, *part, {-0.5, -0.1, 0.1, 2.0}, progress).value();
        // Along a groove of 30 mm the places keep a tenth of the body's diagonal from each other.
        QVERIFY(r.gone.size() >= 2 && r.stands.size() >= 1);
        QVERIFY2(std::abs(r.gone[0].mm - 1.2) < 0.02 && r.gone[0].by == 2 && std::abs(r.gone[0].at.x() - box.centre().x() - 6) < 0.5,
                 qPrintable(QString::number(r.gone[0].mm)));
        QVERIFY(std::any_of(r.gone.begin(), r.gone.end(), [&](const StockPlace& p) { return p.by == 1 && std::abs(p.mm - 0.6) < 0.02; }) || r.gone.back().mm > 0.6);
        QVERIFY(std::abs(r.stands[0].mm - 1.5) < 0.3 && r.stands[0].by == 0 && r.stands[0].outward.norm() > 0.99);
        for (std::size_t i = 1; i < r.gone.size(); ++i) {
            QVERIFY(r.gone[i].mm <= r.gone[i - 1].mm);
            for (std::size_t k = 0; k < i; ++k) QVERIFY((r.gone[i].at - r.gone[k].at).norm() > 5.0);
        }
        // Every bit of the surface is in one step of the histogram; what is as modelled in the two at its middle.
        double sum = 0.0;
        for (const double a : r.histogram) sum += a;
        QVERIFY(std::abs(sum - r.wholeArea()) < 1e-6 * sum);
        const std::size_t middle = r.histogram.size() / 2;
        QVERIFY(r.histogram[middle - 1] + r.histogram[middle] > 0.8 * sum);
        QCOMPARE(r.reach, 2.0);
        Job job;
        job.name = "Box <with> \"signs\"";
        const std::string page = comparisonPage({.job = job, .compared = r, .cutBy = {"First", "Second & last"}, .picture = {}});
        for (const char* word : {"Box &lt;with&gt; &quot;signs&quot;", "Second &amp; last", "▲ gone", "<svg", "the stock as it was set up"})
            QVERIFY2(page.find(word) != std::string::npos, word);
        QVERIFY(page.find("above " + formatLength(2.0, LengthUnit::Millimetre, 3)) != std::string::npos);
        QVERIFY(page.find(formatLength(r.gone[0].mm, LengthUnit::Millimetre, 3)) != std::string::npos);
        job.units = LengthUnit::Inch;
        const std::string inches = comparisonPage({.job = job, .compared = r, .cutBy = {"First", "Second"}, .picture = {}});
        QVERIFY(inches.find("inches") != std::string::npos && inches.find("in³") != std::string::npos &&
                inches.find("above " + formatLength(2.0, LengthUnit::Inch, 3)) != std::string::npos);
    }
    // How far a point is off a box and a cylinder, by their formulas: near the surfaces, beside edges and corners, far away.
    void offBodiesByTheirFormulas() {
        Random random(78);
        const auto box = openPart(boxStep(at(""), 40, 30, 20)), round = openPart(cylinderStep(at(""), 12, 25));
        const Box of = box->mesh().bounds(), rim = round->mesh().bounds();
        const auto signedFrom = [](const auto& q) { return q.cwiseMax(0.0).norm() + std::min(0.0, q.maxCoeff()); };
        int beside = 0;
        for (int i = 0; i < 4000; ++i) {
            const double far = i % 4 == 0 ? 3.0 : 0.03;
            // About a random place of the box's surface, an edge or a corner of it.
            Vec3 p;
            for (int k = 0; k < 3; ++k) p[k] = random.integer(0, 1) ? random.number(of.low[k], of.high[k]) : (random.integer(0, 1) ? of.low[k] : of.high[k]);
            p += random.point(far);
            const Vec3 q = (p - of.centre()).cwiseAbs() - 0.5 * (of.high - of.low);
            beside += (q.array() > 0.0).count() > 1;
            QVERIFY2(std::abs(offBody(*box, p) - signedFrom(q)) < 1e-6, qPrintable(QString("%1 for %2").arg(offBody(*box, p)).arg(signedFrom(q))));
            const double angle = random.number(0, 2 * M_PI), r = 12 + random.number(-far, far);
            const Vec3 c(r * std::cos(angle), r * std::sin(angle),
                         random.integer(0, 1) ? rim.high.z() + random.number(-far, far) : random.number(rim.low.z(), rim.high.z()));
            const double truth = signedFrom(Vec2(std::abs(c.z() - rim.centre().z()) - 12.5, r - 12.0));
            // Beside the rim the triangles' own corners count, else the exact surface.
            const bool rimmed = std::abs(c.z() - rim.centre().z()) > 12.5 - 4.0 * round->deflection() || far > 1.0;
            QVERIFY2(std::abs(offBody(*round, c) - truth) < (rimmed ? 2.0 * round->deflection() : 1e-6),
                     qPrintable(QString("%1 for %2").arg(offBody(*round, c)).arg(truth)));
        }
        QVERIFY(beside > 300);
    }
    // The deepest of two grooves is told with the number of the cut that made it.
    void whoWentDeepest() {
        const auto part = openPart(boxStep(at(""), 40, 30, 20));
        const Box box = part->mesh().bounds();
        Progress progress;
        Stock stock = stockOf(boxMesh(box.low, box.high), 0.2);
        const Assembly ball = ballTool(6, 40);
        for (const auto& [y, deep, by] : {std::tuple{-6.0, 0.7, 1}, std::tuple{5.0, 0.9, 2}, std::tuple{0.0, 0.3, 3}}) {
            Toolpath path;
            for (const double x : {box.low.x() - 5, box.high.x() + 5}) path.push({x, box.centre().y() + y, box.high.z() - deep}, Vec3::UnitZ(), Motion::Cut, 0, 100);
            QVERIFY(stock.remove({.path = path, .cutter = ball.cutter, .by = static_cast<std::uint16_t>(by)}, progress).has_value());
        }
        const auto r = compareStock(stock, *part, {-0.05, 0.05}, progress).value();
        QVERIFY(r.deepestBy == 2 && std::abs(r.deepest - 0.9) < 0.02 && std::abs(r.deepestAt.y() - box.centre().y() - 5.0) < 0.5);
        QCOMPARE(compareStock(stockOf(boxMesh(box.low, box.high), 0.2), *part, {}, progress).value().deepestBy, 0);
    }
    // Inside and outside of boxes turned anyhow, by their own coordinates.
    void insideByAnotherFormula() {
        Random random(77);
        int in = 0, out = 0;
        for (int i = 0; i < 60; ++i) {
            const Vec3 half(random.number(1, 9), random.number(1, 9), random.number(1, 9));
            Frame f = Frame::Identity();
            f.rotate(Eigen::AngleAxisd(random.number(-3, 3), random.direction()));
            f.translation() = random.point(5);
            TriangleMesh moved;
            moved.append(boxMesh(-half, half), f);
            const MeshTree tree(moved);
            for (int k = 0; k < 50; ++k) {
                const Vec3 p = f * random.point(10), q = f.inverse() * p;
                const bool truth = (q.cwiseAbs() - half).maxCoeff() < 0.0;
                if (std::abs((q.cwiseAbs() - half).maxCoeff()) < 1e-6) continue;
                QCOMPARE(insideClosed(tree, p), truth);
                (truth ? in : out) += 1;
            }
        }
        QVERIFY(in > 100 && out > 100);
    }
    // On the command line: the file holds the volume that is told, and what is told of the part agrees with the stock made by hand.
    void onTheCommandLine() {
        for (const auto& e : fs::directory_iterator(GYRE_DEMO_DIR))
            if (e.path().extension() != ".autosave") fs::copy(e.path(), at(e.path().filename().string()));
        const std::string job = at("yoke-work.gyre.json").string(), stl = at("left.stl").string();
        const auto cut = nlohmann::json::parse(told({"--quiet", "--json", "cut", job, "--out", stl}, kExitOk));
        QVERIFY(cut["left"].get<double>() < 0.98 * cut["before"].get<double>());
        Progress progress;
        const auto mesh = readMesh(stl, progress).value();
        QVERIFY2(std::abs(signedVolume(mesh.mesh) - cut["left"].get<double>()) < 0.01 * cut["left"].get<double>(), qPrintable(QString::number(signedVolume(mesh.mesh))));
        const auto first = nlohmann::json::parse(told({"--quiet", "--json", "cut", job, "--out", stl, "--until", "op1"}, kExitOk));
        QVERIFY(first["left"].get<double>() > cut["left"].get<double>());
        const auto compared = nlohmann::json::parse(told({"--quiet", "--json", "compare", job, "--page", at("page.html").string()}, kExitOk));
        const std::string page = readFile(at("page.html"), 1u << 24).value();
        QVERIFY(compared["places"].size() > 0 && page.find(compared["places"][0]["mm"].get<double>() < 0 ? "▲ gone" : "stands") != std::string::npos);
        QVERIFY(told({"--quiet", "compare", job, "--page", job}, kExitFailed).empty());
        QVERIFY(std::abs(compared["left"].get<double>() - cut["left"].get<double>()) < 1e-6 * cut["left"].get<double>());
        const std::string by = compared["deepest"]["by"];
        QVERIFY2(by.empty() || by.starts_with("op"), by.c_str());
        QVERIFY(compared["bands"].size() == 5 && compared["most"]["mm"].get<double>() > 0.3);
        // Never over what the job rests on; an operation that is not there is told.
        (void)told({"--quiet", "cut", job, "--out", at("lamp-yoke.step").string()}, kExitFailed);
        (void)told({"--quiet", "cut", job, "--out", stl, "--until", "nobody"}, kExitFailed);
        QVERIFY(told({"--quiet", "compare", job}, kExitOk).find("cut into it") != std::string::npos);
    }
};

GYRE_TEST(TestComparison)

} // namespace test_comparison
#include "test_comparison.moc"
