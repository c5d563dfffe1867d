// Which assemblies do the work: the shortest stick-out beside ribs by its formula, against plain trial; stiffness of bars.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "job/Job.h"
#include "operation/Assemblies.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"
#include "target/TargetSpec.h"

namespace test_assemblies {

using namespace gyre;

class TestAssemblies : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    Job m_job; ///< rows between two ribs, the axis upright
    std::shared_ptr<const Workplace> m_place;
    std::shared_ptr<const OperationResult> m_done;
    Recipe m_recipe;
    double m_top = 0.0, m_floor = 0.0;
    Progress m_progress;

    static Assembly ball(double diameter, double overall, double holder) {
        Assembly a = test::ballTool(diameter, 60);
        a.id = a.name = QString("ball %1 of %2 in %3").arg(diameter).arg(overall).arg(holder).toStdString();
        a.cutter.fluteLength = 10;
        a.cutter.shoulderLength = 12;
        a.cutter.neckDiameter = a.cutter.shankDiameter = diameter;
        a.cutter.overallLength = overall;
        a.holder = {{holder, holder, 50}};
        return a;
    }
    // Every place of every pass, asked plainly.
    bool freeEverywhere(const Assembly& tool) const {
        const Guard guard(tool, *m_place->scene, m_recipe.guard, m_recipe.pattern->chordTolerance);
        for (const Pass& pass : *m_done->passes)
            for (std::size_t i = 0; i < pass.path.size(); ++i)
                if (guard.hit({pass.path.tip[i], pass.path.axis[i]}, Contact::Cutting)) return false;
        return true;
    }
    std::vector<AssemblyFit> fits(const std::vector<Assembly>& tools, double step) {
        const auto out = assembliesFor(*m_place, m_recipe, *m_done, tools, step, m_progress);
        if (!out) qFatal("%s", out.error().text().c_str());
        return *out;
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_job = jobAround(test::ribbedPlate(dir, 0), GYRE_DEMO_DIR, test::demoFile("heron-5t.machine.json").string()).value();
        Workshop workshop(dir);
        proposeSetup(m_job, *workshop.placeFor(m_job, m_progress).value()->part);
        m_job.seat.z() += 60.0;
        m_job.tools = {ball(6, 100, 40)};
        m_job.tools[0].id = "own";
        m_place = workshop.placeFor(m_job, m_progress).value();
        const Part& part = *m_place->part;
        int floor = -1;
        for (std::size_t f = 0; f < part.faces().size(); ++f) {
            m_top = std::max(m_top, part.faces()[f].bounds.high.z());
            const FaceInfo& i = part.faces()[f];
            // The largest floor that looks up below the ribs.
            if (i.normal.z() > 0.99 && (floor < 0 || i.area > part.faces()[static_cast<std::size_t>(floor)].area)) floor = static_cast<int>(f);
        }
        m_floor = part.faces()[static_cast<std::size_t>(floor)].centre.z();
        QVERIFY(m_top > m_floor + 10);
        m_recipe = proposeRows(m_job, *m_place, nullptr);
        m_recipe.id = "op";
        m_recipe.tool = "own";
        m_recipe.feed = 500;
        m_recipe.target->faces = {part.faceRef(floor)};
        m_recipe.pattern->kind = PatternBy::Planes;
        m_recipe.pattern->spacing = 2;
        m_recipe.axis->leadDegrees = m_recipe.axis->tiltDegrees = 0;
        m_recipe.where->by = WhereCurves::Anywhere;
        m_recipe.where->byHeight = true; // between the ribs, off their feet by more than the ball
        m_recipe.where->axis = 1;
        m_recipe.where->low = 26.5;
        m_recipe.where->high = 35.5;
        m_recipe.guard = {};
        m_job.route = {m_recipe};
        StageCache cache;
        m_done = runOperation(*m_place, m_recipe, cache, m_progress).value();
        QVERIFY(m_done->passes && !m_done->passes->empty());
    }
    // A wide holder must stay over the ribs by its clearance; a slim one goes down between them as far as the shoulder lets it.
    void shortestStickOutByItsFormula() {
        for (const double step : {0.1, 0.5, 2.0})
            for (const double wide : {40.0, 24.0}) {
                const auto all = fits({ball(6, 100, wide)}, step);
                QCOMPARE(all.size(), std::size_t(1));
                const double needed = m_top - m_floor + m_recipe.guard->holderClearance;
                QVERIFY(all[0].reached == 1.0 && all[0].sameCut && all[0].blockedBy.empty());
                QVERIFY2(all[0].stickOut >= needed - 1e-6 && all[0].stickOut < needed + 0.03 + step, qPrintable(QString("%1 for %2").arg(all[0].stickOut).arg(needed)));
                QVERIFY(std::abs(std::remainder(all[0].stickOut, step)) < 1e-9);
            }
    }
    // Random assemblies: what is told reaches all is free everywhere by plain trial, and a step less is not; what is told too short is not free at any length.
    void againstPlainTrial() {
        test::Random random(91);
        int reach = 0, short_ = 0;
        std::vector<Assembly> tools;
        for (int i = 0; i < 24; ++i) tools.push_back(ball(6, random.number(18.5, 28), random.number(9, 50)));
        for (const AssemblyFit& f : fits(tools, 0.5)) {
            QVERIFY(f.sameCut);
            Assembly at = f.tool;
            QCOMPARE(at.stickOut, f.stickOut);
            const double least = std::max(at.cutter.fluteLength, at.cutter.shoulderLength), most = at.cutter.overallLength - at.cutter.shankDiameter;
            if (f.reached == 1.0) {
                ++reach;
                QVERIFY2(freeEverywhere(at), at.name.c_str());
                at.stickOut -= 0.5;
                if (at.stickOut >= least) QVERIFY2(!freeEverywhere(at), at.name.c_str());
                continue;
            }
            ++short_;
            QVERIFY(!f.blockedBy.empty() && f.reached < 1.0);
            for (double l = least; l <= most; l += 1.0) {
                at.stickOut = l;
                QVERIFY2(!freeEverywhere(at), at.name.c_str());
            }
        }
        QVERIFY2(reach > 5 && short_ > 3, qPrintable(QString("%1 reach, %2 do not").arg(reach).arg(short_)));
    }
    // The best first; a drill is none for rows; another ball cuts the same contacts, and says that it is another.
    void sortedAndSuited() {
        Assembly drill = ball(6, 100, 20);
        drill.cutter.shape = CutterShape::Drill;
        drill.cutter.pointDegrees = 140;
        const auto all = fits({ball(6, 19, 40), ball(4, 100, 40), ball(6, 100, 40), ball(8, 100, 40), drill}, 0.5);
        QCOMPARE(all.size(), std::size_t(4));
        QVERIFY(all[0].tool.cutter.diameter == 6 && all[0].tool.cutter.overallLength == 100 && all[0].reached == 1.0);
        for (std::size_t i = 1; i < all.size(); ++i) QVERIFY(all[i - 1].reached >= all[i].reached);
        QVERIFY(all.back().reached < 1.0 && all.back().tool.cutter.overallLength == 19);
        const auto eight = std::find_if(all.begin(), all.end(), [](const AssemblyFit& f) { return f.tool.cutter.diameter == 8; });
        QVERIFY(eight != all.end() && !eight->sameCut);
        // One that is too short needs to lean out of the slot, if any direction is free at all.
        if (all.back().lean) QVERIFY(*all.back().lean > radians(1));
    }
    void stiffnessOfBars() {
        Assembly bar = ball(10, 200, 40);
        bar.cutter.fluteLength = bar.cutter.shoulderLength = 1e-6;
        bar.stickOut = 50;
        const double one = complianceOf(bar);
        QVERIFY(std::abs(one - 50.0 * 50 * 50 / 3 / 1e4) < 1e-6 * one);
        bar.stickOut = 100;
        QVERIFY(std::abs(complianceOf(bar) - 8 * one) < 1e-6 * one);
        bar.cutter.shankDiameter = bar.cutter.neckDiameter = 20;
        QVERIFY(std::abs(complianceOf(bar) - 0.5 * one) < 1e-6 * one);
        // Flutes: a bar of four fifths.
        Assembly fluted = ball(10, 200, 40);
        fluted.cutter.fluteLength = fluted.cutter.shoulderLength = 50;
        fluted.stickOut = 50;
        QVERIFY(std::abs(complianceOf(fluted) - one / std::pow(0.8, 4)) < 1e-6 * one / std::pow(0.8, 4));
    }
};

GYRE_TEST(TestAssemblies)

} // namespace test_assemblies
#include "test_assemblies.moc"
