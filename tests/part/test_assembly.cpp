// STEP assemblies: bodies with names, colours and places; and what is picked together.
#include "Program.h"
#include "Support.h"
#include "part/Aside.h"
#include "session/Travel.h"
#include "target/Target.h"
#include <fstream>

namespace test_assembly {

using namespace gyre;

namespace {
Result<std::vector<BodyInFile>> found(const std::filesystem::path& file) {
    Progress progress;
    return bodiesIn(file, progress);
}
} // namespace

class TestAssembly : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() { return m_dir.path().toStdString(); }
private slots:
    void lookingIntoAFileIsCalledOff() {
        for (const double at : {0.0, 0.08, 0.16}) { // before it, in its text, while shapes are made
            Progress progress([&](double fraction, const std::string&) {
                if (fraction >= at) progress.cancel();
            });
            if (at == 0.0) progress.cancel();
            const auto bodies = bodiesIn(test::pinnedPlate(dir()), progress);
            QVERIFY(!bodies);
            QVERIFY(bodies.error().cancelled);
        }
        QVERIFY(found(test::pinnedPlate(dir())));
    }
    // An assembly whose parts lie in files of their own opens with those that are beside it; what is missing is named, and the rest opens.
    void partsInFilesOfTheirOwn() {
        const QTemporaryDir folder;
        const std::filesystem::path at = folder.path().toStdString(), file = test::pinnedPlate(at, true);
        std::vector<std::filesystem::path> others;
        for (const auto& e : std::filesystem::directory_iterator(at))
            if (e.path() != file) others.push_back(e.path());
        QVERIFY2(others.size() == 2, qPrintable(QString::number(others.size())));
        Progress progress;
        const auto whole = Part::open(file, 0.02, progress);
        QVERIFY2(whole, whole ? "" : whole.error().text().c_str());
        QVERIFY((*whole)->remarks().empty());
        const double pins = 2 * kPi * 9 * 8;
        QVERIFY2(std::abs((*whole)->volume() - 6000 - pins) < 0.02 * pins, qPrintable(QString::number((*whole)->volume())));
        QCOMPARE(found(file)->size(), std::size_t(3));
        // Through the reader aside as well.
        const auto aside = openAside({std::filesystem::path(GYRE_BIN_DIR) / "gyre"}, file, 0.02, progress);
        QVERIFY(aside && std::abs((*aside)->volume() - (*whole)->volume()) < 1e-6);
        for (const auto& other : others) {
            const std::filesystem::path hidden = other.string() + ".away";
            std::filesystem::rename(other, hidden);
            const auto part = Part::open(file, 0.02, progress);
            QVERIFY2(part, part ? "" : part.error().text().c_str());
            QVERIFY((*part)->volume() < 6000 + 0.9 * pins);
            QCOMPARE((*part)->remarks().size(), std::size_t(1));
            QVERIFY((*part)->remarks()[0].find(other.filename().string()) != std::string::npos);
            const auto told = openAside({std::filesystem::path(GYRE_BIN_DIR) / "gyre"}, file, 0.02, progress);
            QVERIFY(told && (*told)->remarks() == (*part)->remarks());
            std::filesystem::rename(hidden, other);
        }
        // Damage in one of them is told with its own name, before the kernel sees it.
        std::ofstream(others[0], std::ios::app) << "#1=(;";
        std::filesystem::resize_file(others[1], std::filesystem::file_size(others[1]) / 2);
        const auto damaged = Part::open(file, 0.02, progress);
        QVERIFY(!damaged && damaged.error().text().find("of_") != std::string::npos);
        for (const auto& other : others) std::filesystem::remove(other);
        const auto none = Part::open(file, 0.02, progress);
        QVERIFY(!none && none.error().text().find("missing") != std::string::npos);
    }
    void bodiesHaveNamesColoursAndPlaces() {
        const auto file = test::pinnedPlate(dir());
        const auto bodies = found(file);
        QVERIFY2(bodies, bodies ? "" : bodies.error().text().c_str());
        QCOMPARE(bodies->size(), std::size_t(3));
        QCOMPARE((*bodies)[0].name, std::string("plate")); // the largest first
        QVERIFY(std::abs((*bodies)[0].volume - 6000) < 1e-6);
        QCOMPARE((*bodies)[1].name, std::string("pin"));
        QVERIFY((*bodies)[2].name != "pin" && (*bodies)[2].name.rfind("pin", 0) == 0); // no two alike
        QVERIFY((*bodies)[0].colour && (*(*bodies)[0].colour)[0] > 0.9 && (*(*bodies)[0].colour)[1] < 0.1);
        QVERIFY((*bodies)[1].colour && (*(*bodies)[1].colour)[1] > 0.9);
        double xs = 0.0;
        for (std::size_t i = 1; i < 3; ++i) {
            QVERIFY(std::abs((*bodies)[i].bounds.low.z() - 5) < 0.01 && std::abs((*bodies)[i].bounds.high.z() - 13) < 0.01);
            xs += (*bodies)[i].bounds.centre().x();
        }
        QVERIFY(std::abs(xs - 40) < 0.01);
        // Each opens by its name, where the assembly puts it.
        Progress progress;
        for (const BodyInFile& b : *bodies) {
            const auto part = Part::open(file, 0.02, progress, {}, b.name);
            QVERIFY2(part, part ? "" : part.error().text().c_str());
            QVERIFY(((*part)->mesh().bounds().centre() - b.bounds.centre()).norm() < 0.05);
            QCOMPARE((*part)->name(), b.name);
        }
        const auto gone = Part::open(file, 0.02, progress, {}, "screw");
        QVERIFY(!gone && gone.error().what.find("screw") != std::string::npos);
        const auto whole = Part::open(file, 0.02, progress);
        QVERIFY(whole && (*whole)->faces().size() == 12);
    }
    void whatIsNoAssemblyHasNoBodiesToChoose() {
        const auto one = found(test::boxStep(dir(), 10, 10, 10));
        QVERIFY(one && one->empty());
        const auto iges = found(test::boxIges(dir(), 10, 10, 10));
        QVERIFY(iges && iges->empty());
        QVERIFY(!found(dir() / "missing.step"));
        Progress progress;
        QVERIFY(!Part::open(test::boxIges(dir(), 10, 10, 10), 0.02, progress, {}, "body"));
    }
    void damagedAssembliesNeverHurt() {
        const auto file = test::pinnedPlate(dir());
        std::ifstream in(file);
        const std::string good((std::istreambuf_iterator<char>(in)), {});
        test::Random random(81);
        for (int i = 0; i < 40; ++i) {
            std::string s = good;
            const auto from = s.find("DATA;"), to = s.rfind("ENDSEC");
            for (int n = random.integer(1, 6); n > 0; --n)
                s[from + static_cast<std::size_t>(random.integer(6, static_cast<int>(to - from) - 1))] = static_cast<char>(random.integer(33, 126));
            const auto broken = dir() / QString("broken-%1.step").arg(i).toStdString();
            std::ofstream(broken) << s;
            const auto bodies = found(broken);
            if (!bodies) QVERIFY(!bodies.error().what.empty());
        }
    }
    void filletsFloorsChainsAndLoops() {
        const auto part = test::openPart(test::filletedPocket(dir()));
        const auto find = [&](const std::function<bool(const FaceInfo&)>& is) {
            for (std::size_t f = 0; f < part->faces().size(); ++f)
                if (is(part->faces()[f])) return static_cast<int>(f);
            return -1;
        };
        const int round = find([](const FaceInfo& f) { return f.kind == SurfaceKind::Cylinder && std::abs(f.normal.z()) > 0.1; });
        QVERIFY(round >= 0);
        const auto fillet = filletFaces(*part, round);
        QVERIFY2(fillet.size() >= 8 && fillet.size() < part->faces().size() / 2 + 4, qPrintable(QString::number(fillet.size())));
        for (const int f : fillet) QVERIFY(std::abs(part->faces()[static_cast<std::size_t>(f)].radius - 3) < 0.05);
        const int step = find([](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.99 && std::abs(f.centre.z() - 15) < 1e-6; });
        QVERIFY(step >= 0);
        QCOMPARE(levelFaces(*part, step).size(), std::size_t(2)); // both steps
        QCOMPARE(levelFaces(*part, round).size(), std::size_t(1));
        QCOMPARE(filletFaces(*part, step).size(), std::size_t(1));
        // The pocket's rim: four lines and four arcs, tangent all round, and the same as the pocket's loop in the top.
        int rim = -1;
        for (std::size_t e = 0; e < part->edges().size(); ++e)
            if (part->edges()[e].kind == CurveKind::Line && (part->edges()[e].middle - Vec3(30, 10, 20)).norm() < 1e-3) rim = static_cast<int>(e);
        QVERIFY(rim >= 0);
        auto chain = tangentChain(*part, rim);
        QCOMPARE(chain.size(), std::size_t(8));
        const auto loops = loopsOf(*part, rim);
        QCOMPARE(loops.size(), std::size_t(2));
        auto loop = loops[0].size() == 8 ? loops[0] : loops[1];
        std::sort(chain.begin(), chain.end());
        std::sort(loop.begin(), loop.end());
        QCOMPARE(chain, loop);
        // A box's edge carries on nowhere.
        const auto box = test::openPart(test::boxStep(dir(), 10, 20, 30));
        QCOMPARE(tangentChain(*box, 0).size(), std::size_t(1));
        QCOMPARE(loopsOf(*box, 0).size(), std::size_t(2));
        QCOMPARE(loopsOf(*box, 0)[0].size(), std::size_t(4));
    }
    void whatLeavesTheTravelIsToldWithItsPlace() {
        Job job;
        job.machine = "heron-5t.machine.json"; // X −320 … 320
        job.bodies.push_back({"box", "part", test::boxStep(dir(), 40, 30, 20).string()});
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        const auto at = [&](const Vec3& seat) {
            job.seat = seat;
            return beyondTravel(**workshop.placeFor(job, progress), job, 120.0);
        };
        QVERIFY(at(Vec3(-20, -15, 0)).empty());
        auto far = at(Vec3(290, 0, 0));
        QCOMPARE(far.size(), std::size_t(1));
        QVERIFY2(far[0].where == "square to the datum" && far[0].words.find("X 10.0 mm beyond its upper end") != std::string::npos, far[0].words.c_str());
        WorkPlane below;
        below.name = "underside";
        below.normal = -Vec3::UnitZ();
        job.planes.push_back(below);
        far = at(Vec3(-20, -15, 0));
        QVERIFY(far.size() == 1 && far[0].where == "underside" && far[0].words.find("travel") != std::string::npos);
        // The stock counts, where there is one.
        job.planes.clear();
        JobBody stock;
        stock.name = "stock";
        stock.role = "stock";
        stock.shape = StockShape{};
        stock.shape->low = Vec3(-400, 0, 0);
        stock.shape->high = Vec3(40, 30, 25);
        job.bodies.push_back(stock);
        far = at(Vec3(-20, -15, 0));
        QVERIFY(far.size() == 1 && far[0].words.find("X 100.0 mm beyond its lower end") != std::string::npos);
    }
};

GYRE_TEST(TestAssembly)

} // namespace test_assembly
#include "test_assembly.moc"
