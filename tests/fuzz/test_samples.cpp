// Files that other people made: the sample data of some of Debian's packages, where they are installed (scripts/test installs them).
// Nothing of it is ours, and nothing of it is committed.
#include "Program.h"
#include "Support.h"
#include "drawing/Drawing.h"
#include "geom/MeshFile.h"
#include <QDirIterator>
#include <QProcess>

namespace test_samples {

using namespace gyre;

namespace {

/// Opened as a part or a drawing: how much is in it, or why it was refused.
struct Answer {
    bool opened = false;
    std::size_t pieces = 0;
    std::string why;
};

Answer open(const std::filesystem::path& file) {
    if (isDrawingFile(file)) {
        const auto drawing = readDrawing(file);
        return drawing ? Answer{true, drawing->curves.size(), {}} : Answer{false, 0, drawing.error().text()};
    }
    Progress progress;
    const auto part = Part::open(file, 0.5, progress); // some are metres large
    if (!part) return {false, 0, part.error().text()};
    for (const FaceInfo& f : (*part)->faces())
        if (!f.centre.allFinite() || !(f.area >= 0.0)) return {false, 0, "a face has no size"};
    return {true, (*part)->faces().size(), {}};
}

} // namespace

const QStringList kLarge{"hammer.brep", "hammer.iges", "terrain.brep"}; // see whatTakesLongIsCalledOff()

class TestSamples : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    static QString exchanged() { return QString(GYRE_BIN_DIR) + "/../samples/occt-import-js/package/test/testfiles"; }

private slots:
    // A refusal is an answer too, but only for what truly cannot be cut from.
    void filesOfOthersOpen_data() {
        QTest::addColumn<QString>("folder");
        QTest::addColumn<QStringList>("refused");
        const auto add = [](const char* name, const QString& folder, const QStringList& refused) {
            if (QFileInfo(folder).isDir()) QTest::newRow(name) << folder << refused; // what is not installed has no row
        };
        add("own", QString::fromStdString(std::filesystem::path(GYRE_DEMO_DIR).string()), {});
        add("shapes", "/usr/share/opencascade/data", {"edge.brep", "asahi.brep"}); // curves only
        add("examples", "/usr/share/doc/netgen/examples", {});
        add("exchanged", exchanged(), {});
        for (const char* package : {"node-occ", "step-to-json"}) add(package, QString(GYRE_BIN_DIR) + "/../samples/" + package + "/package/test", {});
        // Broken on purpose, points without triangles, drawings of meshes only.
        add("meshes", "/usr/share/assimp/models",
            {"malformed.obj", "malformed2.obj", "empty.ply", "empty.obj", "issue_2229.dxf", "PinkEggFromLW.dxf", "wuson.dxf", "pond.0.ply", "issue623.ply", "points.ply",
             "testpoints.obj", "point_cloud.obj", "number_formats.obj", "box_UTF16BE.obj", "testline.obj"});
        add("pictures", "/usr/share/icons", {});
    }
    void filesOfOthersOpen() {
        QFETCH(QString, folder);
        QFETCH(QStringList, refused);
        QDirIterator it(folder, {"*.step", "*.stp", "*.iges", "*.igs", "*.brep", "*.stl", "*.obj", "*.ply", "*.dxf", "*.svg"}, QDir::Files, QDirIterator::Subdirectories);
        int seen = 0, opened = 0;
        while (it.hasNext() && seen < 400) {
            const QString file = it.next();
            if (kLarge.contains(it.fileName())) continue;
            const bool picture = file.endsWith(".svg");
            if (picture && ++seen % 10) continue; // icons are much alike
            seen += !picture;
            const Answer a = open(file.toStdString());
            const bool may = picture || refused.contains(it.fileName());
            QVERIFY2(a.opened || may, qPrintable(file + ": " + QString::fromStdString(a.why)));
            QVERIFY2(a.opened ? a.pieces > 0 : !a.why.empty(), qPrintable(file));
            opened += a.opened;
        }
        qInfo("%d files, %d opened", seen, opened);
        QVERIFY(seen == 0 || opened > 0);
    }
    // Assemblies whose parts lie in files of their own, several levels deep, by three writers; and a cone trimmed at its apex, which the kernel
    // does not lay out at once: nothing of them is missing.
    void exchangedFilesAreWhole() {
        if (!QFileInfo(exchanged()).isDir()) return qInfo("not there");
        int assemblies = 0;
        for (const auto& [name, faces] :
             {std::pair{"cax-if/s1-c5-214/s1-c5-214.stp", 150}, {"cax-if/s1-tu-203/s1-tu-203.stp", 150}, {"cax-if/s1_pe_214/s1_pe_214.stp", 150}}) {
            const std::string file = (exchanged() + "/" + name).toStdString();
            if (!std::filesystem::exists(file)) continue;
            Progress progress;
            const auto part = Part::open(file, 0.5, progress);
            QVERIFY2(part, part ? "" : part.error().text().c_str());
            for (const std::string& r : (*part)->remarks()) QVERIFY2(r.find("left out") == std::string::npos && r.find("missing") == std::string::npos, r.c_str());
            QVERIFY(static_cast<int>((*part)->faces().size()) >= faces);
            ++assemblies;
        }
        QVERIFY(assemblies > 0);
        const std::string cone = (exchanged() + "/conical-surface/conical-surface.step").toStdString();
        Progress progress;
        const auto part = Part::open(cone, 0.05, progress);
        QVERIFY2(part, part ? "" : part.error().text().c_str());
        QCOMPARE((*part)->faces().size(), std::size_t(5));
        QVERIFY((*part)->remarks().size() == 1 && (*part)->remarks().front().find("healed") != std::string::npos);
    }
    // What takes long is called off in the middle: surfaces metres wide and full of waves take a minute to lay out.
    void whatTakesLongIsCalledOff() {
        const std::filesystem::path large = "/usr/share/opencascade/data/occ/hammer.brep";
        for (const std::filesystem::path& file : {test::demoFile("lantern-collar.step"), large}) {
            if (!std::filesystem::exists(file)) continue;
            Progress* asked = nullptr;
            Progress progress([&](double, const std::string& what) {
                if (what.find("triangles") != std::string::npos) asked->cancel();
            });
            asked = &progress;
            const auto part = Part::open(file, 0.05, progress);
            QVERIFY(!part && part.error().cancelled);
        }
    }
    // Packed in the package's documentation: an assembly by others has bodies with names.
    void anAssemblyOfOthersHasBodies() {
        const QString packed = "/usr/share/doc/gmsh-doc/doc/gmsh/demos/boolean/as1-tu-203.stp.gz";
        if (!QFile::exists(packed)) return qInfo("not installed here");
        const QString file = m_dir.path() + "/assembly.stp";
        QProcess unpack;
        unpack.setStandardOutputFile(file);
        unpack.start("gzip", {"-dc", packed});
        QVERIFY(unpack.waitForFinished(60000));
        Progress looking;
        const auto bodies = bodiesIn(file.toStdString(), looking);
        QVERIFY2(bodies, bodies ? "" : bodies.error().text().c_str());
        QVERIFY(bodies->size() > 10);
        Progress progress;
        for (const std::size_t i : {std::size_t(0), bodies->size() / 2, bodies->size() - 1}) {
            const auto part = Part::open(file.toStdString(), 0.05, progress, {}, (*bodies)[i].name);
            QVERIFY2(part, part ? "" : part.error().text().c_str());
            QVERIFY(std::abs((*part)->volume() - (*bodies)[i].volume) < 0.02 * (*bodies)[i].volume);
        }
    }
};

GYRE_TEST(TestSamples)

} // namespace test_samples
#include "test_samples.moc"
