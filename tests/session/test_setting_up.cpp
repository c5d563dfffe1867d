// Fixtures moved and turned, the material of the part.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "form/Form.h"
#include "geom/MeshFile.h"
#include "guard/Overlaps.h"
#include "operation/Workplace.h"
#include "tool/Library.h"

namespace test_setting_up {

using namespace gyre;
using namespace gyre::test;
namespace fs = std::filesystem;

class TestSettingUp : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    fs::path at(const std::string& name) const { return fs::path(m_dir.path().toStdString()) / name; }
    Job m_job;

private slots:
    void initTestCase() {
        for (const auto& e : fs::directory_iterator(GYRE_DEMO_DIR)) fs::copy(e.path(), at(e.path().filename().string()));
        m_job = openJob(at("lantern-collar.gyre.json")).value();
    }

    // Every point of the moved body is the file's point turned about X, then Y, then Z, then moved; exact bodies and meshes.
    void aMovedBodyIsTheFilesBodyMoved() {
        Random random(401);
        Workshop workshop(at(""));
        Progress progress;
        Job job = m_job;
        job.bodies.push_back({"ring", "fixture", "coolant-ring.stl"});
        const auto before = workshop.placeFor(job, progress).value();
        for (int i = 0; i < 6; ++i) {
            Job moved = job;
            for (JobBody& b : moved.bodies)
                if (b.mayMove())
                    for (int k = 0; k < 3; ++k) {
                        b.moved[k] = random.number(-80, 80);
                        b.turned[k] = random.number(-180, 180);
                    }
            const auto after = workshop.placeFor(moved, progress).value();
            QVERIFY(after->key != before->key && after->scene->size() == before->scene->size());
            QCOMPARE(after->part, before->part); // its own place is the datum's
            int looked = 0;
            for (std::size_t b = 0; b < job.bodies.size(); ++b) {
                const JobBody& body = moved.bodies[b];
                if (!body.mayMove()) continue;
                const Part &was = *before->bodies[b].shape, &is = *after->bodies[b].shape;
                QVERIFY(after->bodies[b].name == body.name && was.faces().size() == is.faces().size());
                QVERIFY(std::abs(was.volume() - is.volume()) < 1e-3 * was.volume());
                // Turned by hand, one axis after the other.
                for (std::size_t p = 0; p < was.mesh().points.size(); p += 1 + was.mesh().points.size() / 200) {
                    Vec3 q = was.mesh().points[p];
                    const double x = radians(body.turned.x()), y = radians(body.turned.y()), z = radians(body.turned.z());
                    q = Vec3(q.x(), std::cos(x) * q.y() - std::sin(x) * q.z(), std::sin(x) * q.y() + std::cos(x) * q.z());
                    q = Vec3(std::cos(y) * q.x() + std::sin(y) * q.z(), q.y(), -std::sin(y) * q.x() + std::cos(y) * q.z());
                    q = Vec3(std::cos(z) * q.x() - std::sin(z) * q.y(), std::sin(z) * q.x() + std::cos(z) * q.y(), q.z()) + body.moved;
                    QVERIFY2(is.tree().closest(q).distance < 2.0 * is.deflection(), qPrintable(QString::fromStdString(body.name)));
                    ++looked;
                }
                const auto inScene = std::find_if(after->scene->begin(), after->scene->end(), [&](const Obstacle& o) { return o.name == body.name; });
                if (body.role == "fixture") QVERIFY(inScene != after->scene->end() && (inScene->tree.bounds().centre() - is.mesh().bounds().centre()).norm() < 1e-9);
            }
            QVERIFY(looked > 100);
            // Put back, all is as it was.
            QCOMPARE(workshop.placeFor(job, progress).value()->key, before->key);
        }
    }
    void movedBodiesAreWrittenAndWhatMayNotMoveIsRefused() {
        Job job = m_job;
        for (JobBody& b : job.bodies)
            if (b.mayMove()) {
                b.moved = Vec3(1.5, -2, 0.25);
                b.turned = Vec3(0, 90, -45);
            }
        job.material = "aluminium 6061";
        const Job again = jobFromJson(jobToJson(job), "job").value();
        QCOMPARE(jobToJson(again), jobToJson(job));
        QVERIFY(again.bodies[1].moved == job.bodies[1].moved && again.bodies[1].turned == job.bodies[1].turned);
        std::string text = jobToJson(m_job);
        const auto role = text.find("\"part\"");
        QVERIFY(role != std::string::npos);
        text.insert(text.find(',', role), ", \"moved\": [1, 0, 0]");
        const auto refused = jobFromJson(text, "job");
        QVERIFY(!refused && refused.error().text().find("moved and turned") != std::string::npos);
    }
    // A clamp pushed into the part is told, as deep as it was pushed, and no longer when it is back.
    void aClampInsideThePartIsTold() {
        Workshop workshop(at(""));
        Progress progress;
        const auto free = workshop.placeFor(m_job, progress).value();
        QVERIFY2(free->overlaps && free->overlaps->empty(), free->overlaps->empty() ? "" : free->overlaps->front().one.c_str());
        Job job = m_job;
        const auto clamp = std::find_if(job.bodies.begin(), job.bodies.end(), [](const JobBody& b) { return b.name == "clamp 2"; });
        QVERIFY(clamp != job.bodies.end());
        clamp->moved.z() = -2.0; // it rests on the part
        const auto pushed = workshop.placeFor(job, progress).value();
        QVERIFY(!pushed->overlaps->empty());
        QVERIFY2(std::abs(pushed->overlaps->front().depth - 2.0) < 0.25, qPrintable(QString::number(pushed->overlaps->front().depth)));
        // A job of every demo can be built as it stands.
        for (const auto& e : fs::directory_iterator(at(""))) {
            if (!e.path().string().ends_with("-setup.gyre.json")) continue; // the others stand on these
            const auto place = workshop.placeFor(openJob(e.path()).value(), progress);
            QVERIFY(place);
            QVERIFY2(
                (*place)->overlaps->empty(),
                qPrintable(QString::fromStdString(e.path().filename().string() + ": " +
                                                  ((*place)->overlaps->empty() ? "" : (*place)->overlaps->front().one + " in " + (*place)->overlaps->front().other))));
        }
    }
    void theMaterialChoosesSpeedAndFeed() {
        Job job = m_job;
        const auto known = materialsOf(job);
        QVERIFY(known.size() >= 2);
        for (const std::string& material : known) {
            const std::size_t took = takeMaterial(job, material);
            std::size_t counted = 0;
            for (const Assembly& a : job.tools)
                for (const CuttingData& d : a.materials)
                    if (d.material == material) {
                        ++counted;
                        QVERIFY(std::abs(a.spindleSpeed - std::min(60000.0, 1000.0 * d.surfaceSpeed / (kPi * a.cutter.diameter))) <= 0.5 && a.feedPerTooth == d.chipLoad);
                    }
            QVERIFY(took == counted && took > 0 && job.material == material);
            const auto again = jobFromJson(jobToJson(job), "job"); // thin cutters, too
            QVERIFY2(again, again ? "" : again.error().text().c_str());
        }
        const auto before = job.tools;
        QCOMPARE(takeMaterial(job, "moon cheese"), std::size_t(0));
        for (std::size_t i = 0; i < before.size(); ++i) QVERIFY(assemblyForm().same(before[i], job.tools[i]));
    }
};

GYRE_TEST(TestSettingUp)

} // namespace test_setting_up
#include "test_setting_up.moc"
