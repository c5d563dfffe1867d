// Fixtures moved and turned, the material of the part.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "form/Form.h"
#include "geom/MeshFile.h"
#include "guard/Guard.h"
#include "guard/GuardSpec.h"
#include "guard/Overlaps.h"
#include "operation/Workplace.h"
#include "proof/Pairs.h"
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
    // A clamp that may stand 3 mm off: what is told safe is safe wherever it stands within that; distances are less by just so much; findings say it.
    void aFixtureThatMayStandOff() {
        Random random(402);
        Workshop workshop(at(""));
        Progress progress;
        const double within = 3.0;
        const auto with = [&](double room, const Vec3& moved, const Vec3& turned = Vec3::Zero()) {
            Job job = m_job;
            const auto clamp = std::find_if(job.bodies.begin(), job.bodies.end(), [](const JobBody& b) { return b.name == "clamp 2"; });
            clamp->within = room;
            clamp->moved = moved;
            clamp->turned = turned;
            auto place = workshop.placeFor(job, progress).value();
            Scene alone;
            for (const Obstacle& o : *place->scene)
                if (o.name == "clamp 2") alone.push_back(o);
            return std::pair{place, alone};
        };
        const auto [plain, plainScene] = with(0.0, Vec3::Zero());
        const auto [wide, wideScene] = with(within, Vec3::Zero());
        QVERIFY(plain->key != wide->key && wide->key != with(2.0, Vec3::Zero()).first->key && plain->key == with(0.0, Vec3::Zero()).first->key);
        QVERIFY2(wide->overlaps->empty(), "it rests on the part, and may");
        QCOMPARE(plainScene.size(), std::size_t(1));
        QVERIFY(wideScene[0].called() == "clamp 2 (which may stand 3 mm off)" && plainScene[0].called() == "clamp 2");
        const GuardSpec spec;
        const Assembly& tool = m_job.tools.front();
        const Guard near(tool, plainScene, spec, 0.01), far(tool, wideScene, spec, 0.01);
        const Vec3 middle = plainScene[0].tree.bounds().centre();
        int safe = 0, blocked = 0, moreBlocked = 0;
        std::vector<AxisPose> poses;
        for (int i = 0; i < 400; ++i) {
            const AxisPose pose{middle + random.point(45.0), (Vec3::UnitZ() + random.point(0.8)).normalized()};
            const ZoneClearance a = near.clearance(pose, 15.0), b = far.clearance(pose, 15.0);
            if (a.shank < 15.0) QVERIFY2(std::abs(a.shank - within - b.shank) < 1e-6 || a.shank <= 0.0, qPrintable(QString("%1 %2").arg(a.shank).arg(b.shank)));
            if (a.holder < 15.0) QVERIFY(std::abs(a.holder - within - b.holder) < 1e-6 || a.holder <= 0.0);
            const bool here = near.hit(pose, Contact::Free).has_value(), there = far.hit(pose, Contact::Free).has_value();
            QVERIFY(there || !here);
            moreBlocked += there && !here;
            (there ? blocked : safe) += 1;
            if (!there) poses.push_back(pose);
            if (const auto up = far.lift(pose, 200.0)) {
                const AxisPose lifted{pose.tip + *up * pose.axis, pose.axis};
                const ZoneClearance z = near.clearance(lifted, 15.0);
                QVERIFY2(z.shank > spec.shankClearance + within - 1e-6 && z.holder > spec.holderClearance + within - 1e-6,
                         qPrintable(QString("%1 %2").arg(z.shank).arg(z.holder)));
            }
        }
        QVERIFY2(safe > 50 && blocked > 50 && moreBlocked > 5, qPrintable(QString("%1 %2 %3").arg(safe).arg(blocked).arg(moreBlocked)));
        for (int i = 0; i < 12; ++i) {
            const auto [place, scene] = with(0.0, within * random.number(0.9, 1.0) * random.direction());
            const Guard off(tool, scene, spec, 0.01);
            for (const AxisPose& pose : poses) QVERIFY(!off.hit(pose, Contact::Free));
        }
        // The machine's own bodies keep off it as far in the proof: a block at two gaps over the clamp.
        const auto comesNear = [&](const Workplace& place, double gap) {
            for (const Mover& m : moversOf(place, tool)) {
                if (m.name != "clamp 2") continue;
                const Box box = m.bounds(Frame::Identity());
                return gyre::near(m, Frame::Identity(), ConvexBody::box({box.low.x(), box.low.y(), box.high.z() + gap}, box.high + Vec3(0, 0, gap + 20.0)), 0.5);
            }
            return false;
        };
        QVERIFY(comesNear(*plain, 0.4) && !comesNear(*plain, 1.0) && comesNear(*wide, 1.0) && comesNear(*wide, 3.3) && !comesNear(*wide, 3.8));
        // Written and read; what is no fixture may not.
        Job job = m_job;
        job.bodies[1].within = 1.25;
        QCOMPARE(job.bodies[1].role, std::string("fixture"));
        QCOMPARE(jobFromJson(jobToJson(job), "job").value().bodies[1].within, 1.25);
        std::string text = jobToJson(m_job);
        text.insert(text.find(',', text.find("\"part\"")), ", \"within\": 1");
        const auto refused = jobFromJson(text, "job");
        QVERIFY(!refused && refused.error().text().find("only a fixture") != std::string::npos);
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
