// A surface cut in layers: the last one on the faces, the others off them by so much, along the normal or an axis.
#include "OpenedJob.h"
#include "Program.h"
#include "job/Job.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "proposal/NewJob.h"
#include "target/TargetSpec.h"

namespace test_layers {

using namespace gyre;

class TestLayers : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    StageCache m_cache;

    std::shared_ptr<const OperationResult> run(const Workplace& place, const Recipe& recipe) {
        Progress progress;
        const auto r = runOperation(place, recipe, m_cache, progress);
        if (!r) qFatal("%s", r.error().text().c_str());
        return *r;
    }

private slots:
    // A cone's wall leans: square to it a layer stands off by its thickness, along Z by the thickness times the cosine.
    void layersStandOffTheFaces() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        Job job = jobAround(test::coneStep(dir, 30, 12, 25), GYRE_DEMO_DIR, test::demoFile("dunlin-5m.machine.json").string()).value();
        Workshop workshop(dir);
        Progress progress;
        proposeSetup(job, *workshop.placeFor(job, progress).value()->part);
        job.tools = {test::ballTool(8, 60)};
        job.tools[0].id = "ball";
        const auto place = workshop.placeFor(job, progress).value();
        int wall = -1;
        for (std::size_t f = 0; f < place->part->faces().size(); ++f)
            if (place->part->faces()[f].kind == SurfaceKind::Cone) wall = static_cast<int>(f);
        Recipe r = proposeRows(job, *place, nullptr);
        r.tool = "ball";
        r.feed = 800;
        r.target->faces = {place->part->faceRef(wall)};
        r.target->leave = 0.1;
        r.pattern->kind = PatternBy::Planes;
        r.pattern->lean = 90;
        r.pattern->spacing = 4;
        const auto one = run(*place, r);
        QVERIFY(one->passes && !one->passes->empty());
        r.pattern->layers = 3;
        r.pattern->layer = 0.5;
        for (const int along : {-1, 2})
            for (const bool every : {false, true}) {
                r.pattern->layersAlong = along;
                r.pattern->everyLayer = every;
                const auto in = run(*place, r);
                QVERIFY(in->passes && in->passes->size() == 3 * one->passes->size());
                const std::size_t n = one->passes->size();
                for (std::size_t k = 0; k < in->passes->size(); ++k) {
                    const Pass& pass = (*in->passes)[k];
                    const std::size_t row = every ? k / 3 : k % n, layer = every ? k % 3 : k / n;
                    const Pass& base = (*one->passes)[row];
                    QCOMPARE(pass.origin.layer, static_cast<int>(layer));
                    QCOMPARE(pass.origin.row, base.origin.row);
                    const double off = 0.5 * static_cast<double>(2 - layer);
                    for (std::size_t i = 0; i < pass.path.size(); ++i) {
                        const Vec3 moved = pass.path.tip[i] - base.path.tip[i], wanted = along < 0 ? Vec3(off * base.path.normal[i]) : Vec3(off * Vec3::Unit(along));
                        QVERIFY((moved - wanted).norm() < 1e-9);
                        QVERIFY((pass.path.contact[i] - base.path.contact[i] - wanted).norm() < 1e-9);
                        // The wall is 18 over 25 steep: its own closed form.
                        const Vec3& c = pass.path.contact[i];
                        const double lean = std::atan2(18, 25), wallAt = (std::hypot(c.x(), c.y()) - 30 + 18.0 / 25.0 * c.z()) * std::cos(lean);
                        QVERIFY2(std::abs(wallAt - 0.1 - (along < 0 ? off : off * std::sin(lean))) < 1e-6, qPrintable(QString::number(wallAt)));
                    }
                }
                QVERIFY2(in->facts(Stage::Pattern).find("in each of 3 layers") != std::string::npos, in->facts(Stage::Pattern).c_str());
                QVERIFY(in->complete());
                // Every location knows its layer and its row: what the tape says is where the cutter is.
                for (std::size_t i = 0; i < in->path()->size(); ++i) {
                    if (in->path()->motion[i] != Motion::Cut) continue;
                    const PassOrigin from = in->links->originOf(in->path()->row[i]);
                    const Vec3& c = in->path()->contact[i];
                    const double lean = std::atan2(18, 25), wallAt = (std::hypot(c.x(), c.y()) - 30 + 18.0 / 25.0 * c.z()) * std::cos(lean) - 0.1;
                    QCOMPARE(from.layer, 2 - static_cast<int>(std::lround(wallAt / (along < 0 ? 0.5 : 0.5 * std::sin(lean)))));
                }
            }
    }
};

GYRE_TEST(TestLayers)

} // namespace test_layers
#include "test_layers.moc"
