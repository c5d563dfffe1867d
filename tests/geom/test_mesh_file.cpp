// Meshes from files: every format gives the same body; damaged ones give a reason.
#include "Program.h"
#include "Support.h"
#include "geom/MeshFile.h"
#include <cstring>

namespace test_mesh_file {

using namespace gyre;
using test::Random;

namespace {

// A block with 8 points, wound outward.
TriangleMesh block() { return skinOf(ConvexBody::box(Vec3(0, 0, 0), Vec3(2, 3, 4)), 8); }

std::string textStl(const TriangleMesh& m) {
    std::string s = "solid a block with words\n";
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        s += "  facet normal 0 0 0\n    outer loop\n";
        for (int c = 0; c < 3; ++c) s += QString("      vertex %1 %2 %3\n").arg(m.corner(t, c).x()).arg(m.corner(t, c).y()).arg(m.corner(t, c).z()).toStdString();
        s += "    endloop\n  endfacet\n";
    }
    return s + "endsolid\n";
}

std::string obj(const TriangleMesh& m, bool backwards) {
    std::string s = "# a block\r\no block\r\n";
    for (const Vec3& p : m.points) s += QString("v %1 %2 %3\r\n").arg(p.x()).arg(p.y()).arg(p.z()).toStdString();
    s += "vt 0 0\nvn 0 0 1\n";
    const int n = static_cast<int>(m.points.size());
    for (const auto& t : m.triangles) {
        s += "f";
        for (auto i : t) s += backwards ? QString(" %1").arg(static_cast<int>(i) - n).toStdString() : QString(" %1/1/1").arg(i + 1).toStdString();
        s += "\n";
    }
    return s;
}

std::string ply(const TriangleMesh& m, const char* format) {
    std::string s = QString("ply\nformat %1 1.0\ncomment a block\nelement vertex %2\nproperty float x\nproperty double y\nproperty float z\nproperty uchar red\n"
                            "element face %3\nproperty list uchar int vertex_indices\nend_header\n")
                        .arg(format)
                        .arg(m.points.size())
                        .arg(m.triangles.size())
                        .toStdString();
    const bool text = std::strcmp(format, "ascii") == 0, big = std::strcmp(format, "binary_big_endian") == 0;
    const auto put = [&](auto v) {
        if (text) {
            s += QString::number(static_cast<double>(v)).toStdString() + " ";
            return;
        }
        char raw[sizeof v];
        std::memcpy(raw, &v, sizeof v);
        if (big) std::reverse(raw, raw + sizeof v);
        s.append(raw, sizeof v);
    };
    for (const Vec3& p : m.points) {
        put(static_cast<float>(p.x()));
        put(p.y());
        put(static_cast<float>(p.z()));
        put(static_cast<unsigned char>(200));
    }
    for (const auto& t : m.triangles) {
        put(static_cast<unsigned char>(3));
        for (auto i : t) put(static_cast<int>(i));
    }
    return s;
}

} // namespace

class TestMeshFile : public QObject {
    Q_OBJECT
    Progress m_quiet;

private slots:
    // Each triangle of a text STL rounds its corners by itself: they are one corner still, and how near they had to be is told.
    void cornersThatDifferByRoundingAreOne() {
        Random r(31);
        TriangleMesh fine = skinOf(ConvexBody::box(Vec3(-100, 0, 0), Vec3(100, 60, 40)), 8);
        for (const double tremble : {0.0, 5e-5}) {
            TriangleMesh loose;
            for (std::size_t t = 0; t < fine.triangles.size(); ++t) {
                std::array<std::uint32_t, 3> corner{};
                for (int c = 0; c < 3; ++c) {
                    corner[static_cast<std::size_t>(c)] = static_cast<std::uint32_t>(loose.points.size());
                    loose.points.push_back(fine.corner(t, c) + tremble * Vec3(r.number(-1, 1), r.number(-1, 1), r.number(-1, 1)));
                }
                loose.triangles.push_back(corner);
            }
            Progress progress;
            const auto read = meshFromBytes(meshToStl(loose), "loose.stl", progress);
            QVERIFY(read);
            QCOMPARE(read->mesh.points.size(), std::size_t(8));
            QCOMPARE(read->mesh.triangles.size(), fine.triangles.size());
            QCOMPARE(read->welded > 0, tremble > 0);
            QVERIFY(tremble == 0 || (read->weldedWithin > 2 * tremble && read->weldedWithin < 1e-3));
        }
        // Detail that is finer than that stays in a mesh that is closed as it is.
        TriangleMesh tiny = skinOf(ConvexBody::box(Vec3(0, 0, 0), Vec3(1e-5, 1e-5, 1e-5)), 8);
        tiny.append(fine);
        Progress progress;
        const auto kept = meshFromBytes(meshToStl(tiny), "tiny.stl", progress);
        QVERIFY(kept && kept->welded == 0 && kept->mesh.points.size() == 16);
        // By brute force: no two points that stay are within the distance of each other where one could have gone to the other.
        TriangleMesh cloud;
        for (int i = 0; i < 600; ++i) cloud.points.emplace_back(r.number(0, 1), r.number(0, 1), r.number(0, 0.05));
        for (std::uint32_t i = 0; i + 2 < 600; i += 3) cloud.triangles.push_back({i, i + 1, i + 2});
        const std::vector<Vec3> before = cloud.points;
        const std::size_t gone = weldNear(cloud, 0.05);
        QCOMPARE(gone + cloud.points.size(), before.size());
        for (std::size_t i = 0; i < cloud.points.size(); ++i)
            for (std::size_t k = i + 1; k < cloud.points.size(); ++k) QVERIFY((cloud.points[i] - cloud.points[k]).norm() > 0.05);
        for (const Vec3& p : before) QVERIFY(std::any_of(cloud.points.begin(), cloud.points.end(), [&](const Vec3& q) { return (p - q).norm() <= 0.05; }));
    }
    void everyFormatGivesTheSameBody() {
        const TriangleMesh m = block();
        const std::vector<std::pair<std::string, std::string>> files{{"a.stl", meshToStl(m)},
                                                                     {"b.stl", textStl(m)},
                                                                     {"c.obj", obj(m, false)},
                                                                     {"d.obj", obj(m, true)},
                                                                     {"e.ply", ply(m, "ascii")},
                                                                     {"f.ply", ply(m, "binary_little_endian")},
                                                                     {"g.ply", ply(m, "binary_big_endian")}};
        for (const auto& [name, bytes] : files) {
            const auto read = meshFromBytes(bytes, name, m_quiet);
            QVERIFY2(read, read ? "" : qPrintable(QString::fromStdString(name + ": " + read.error().text())));
            QCOMPARE(read->mesh.points.size(), std::size_t(8)); // corners that coincide are one point
            QCOMPARE(read->mesh.triangles.size(), m.triangles.size());
            QVERIFY2(std::abs(signedVolume(read->mesh) - 24.0) < 1e-9, name.c_str());
            QCOMPARE(read->dropped, std::size_t(0));
        }
    }
    void binaryFilesThatBeginWithSolidAreBinary() {
        std::string bytes = meshToStl(block());
        bytes.replace(0, 11, "solid block");
        QCOMPARE(meshFromBytes(bytes, "a.stl", m_quiet)->mesh.triangles.size(), block().triangles.size());
    }
    void polygonsAreCutIntoTriangles() {
        const auto read = meshFromBytes("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n", "a.obj", m_quiet);
        QCOMPARE(read->mesh.triangles.size(), std::size_t(2));
    }
    void trianglesWithoutAreaAreLeftOutAndCounted() {
        const auto read = meshFromBytes("v 0 0 0\nv 1 0 0\nv 2 0 0\nv 0 1 0\nf 1 2 4\nf 1 2 3\nf 1 1 2\n", "a.obj", m_quiet);
        QCOMPARE(read->mesh.triangles.size(), std::size_t(1));
        QCOMPARE(read->dropped, std::size_t(2));
    }
    void damagedFilesGiveAReason() {
        const std::string stl = meshToStl(block());
        std::string tooMany = stl;
        tooMany[80] = 120;
        std::string nan = stl;
        const float bad = NAN;
        std::memcpy(nan.data() + 84 + 12, &bad, 4);
        const std::vector<std::pair<std::string, std::string>> files{
            {"a.stl", ""},
            {"b.stl", "solid"},
            {"c.stl", stl.substr(0, 300)},
            {"d.stl", tooMany},
            {"e.stl", nan},
            {"f.stl", "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 zero\n"},
            {"g.stl", "solid x\nfacet\nvertex 0 0 0\nvertex 1 0 0\nendfacet\nendsolid\n"},
            {"h.obj", "v 0 0 0\nf 1 2 3\n"},
            {"i.obj", "v 0 0\n"},
            {"j.obj", "# nothing\n"},
            {"k.obj", "v 1 2 3\nv 1e99 0 0\nv 0 0 0\nf 1 2 3\n"},
            {"l.ply", "ply\nformat ascii 1.0\nelement vertex 4000000000\nproperty float x\nend_header\n"},
            {"m.ply", "ply\nformat strange 1.0\nend_header\n"},
            {"n.ply", "obj"},
            {"o.ply", "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0\n3 0 1 2\n"}};
        for (const auto& [name, bytes] : files) {
            const auto read = meshFromBytes(bytes, name, m_quiet);
            QVERIFY2(!read, name.c_str());
            QVERIFY2(read.error().what.size() > 10 && read.error().place == name, read.error().text().c_str());
        }
    }
    // Bytes cut short or changed at random: an answer or a reason, never a crash, whatever comes.
    void damagedBytesNeverCrash() {
        Random r(31);
        const TriangleMesh m = block();
        const std::vector<std::pair<std::string, std::string>> files{
            {"a.stl", meshToStl(m)}, {"b.stl", textStl(m)}, {"c.obj", obj(m, false)}, {"e.ply", ply(m, "ascii")}, {"f.ply", ply(m, "binary_little_endian")}};
        int good = 0, all = 0;
        for (const auto& [name, bytes] : files)
            for (int i = 0; i < 3000; ++i) {
                std::string damaged = bytes;
                if (r.integer(0, 2) == 0) damaged.resize(static_cast<std::size_t>(r.integer(0, static_cast<int>(damaged.size()))));
                for (int k = r.integer(0, 4); k > 0 && !damaged.empty(); --k)
                    damaged[static_cast<std::size_t>(r.integer(0, static_cast<int>(damaged.size()) - 1))] = static_cast<char>(r.integer(0, 255));
                const auto read = meshFromBytes(damaged, name, m_quiet);
                ++all;
                good += read.has_value();
                if (read)
                    for (const auto& t : read->mesh.triangles)
                        for (auto id : t) QVERIFY(id < read->mesh.points.size());
            }
        qInfo("%d of %d damaged files could still be read", good, all);
    }
    void readingCanBeCancelled() {
        Progress progress;
        progress.cancel();
        const auto read = meshFromBytes(meshToStl(block()), "a.stl", progress);
        QVERIFY(!read && read.error().cancelled);
    }
};

GYRE_TEST(TestMeshFile)

} // namespace test_mesh_file
#include "test_mesh_file.moc"
