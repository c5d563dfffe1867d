// Milling on planes and around axes, by mouse and keyboard in the real window: every demo operation built from nothing.
#include "WindowTest.h"
#include "milling/Mill.h"
#include "milling/MillSpec.h"
#include "motion/Motion.h"
#include "motion/PointsSpec.h"
#include "operation/OperationResult.h"
#include "operation/Repeat.h"
#include "target/TargetSpec.h"
#include "view/SheetView.h"
#include <QStandardPaths>
#include <numeric>

namespace test_milling {

using namespace gyre;

class TestMilling : public test::WindowTest {
    Q_OBJECT
    /// From the list behind "+ Milling": two clicks.
    void add(const QString& kind) { addFrom("addMill", "millKinds", "millKind." + kind); }
    int planeAt(const Vec3& p) const {
        const Part& part = *m_model->place()->part;
        for (std::size_t f = 0; f < part.faces().size(); ++f)
            if (part.faces()[f].kind == SurfaceKind::Plane && (part.project(static_cast<int>(f), p).point - p).norm() < 1e-3 && part.faces()[f].bounds.distance(p) < 1e-3)
                return static_cast<int>(f);
        return -1;
    }
    int roundAt(double radius, double x) const {
        const Part& part = *m_model->place()->part;
        for (std::size_t f = 0; f < part.faces().size(); ++f) {
            const FaceInfo& i = part.faces()[f];
            if (i.kind == SurfaceKind::Cylinder && std::abs(i.radius - radius) < 1e-6 && i.bounds.low.x() < x && i.bounds.high.x() > x) return static_cast<int>(f);
        }
        return -1;
    }
    const Recipe& op() { return *m_model->recipe(); }
    void expectPath(MillShape shape) {
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale(), 60000);
        QCOMPARE(op().mill->shape, shape);
        for (const Finding& f : m_model->result()->findings) // where nothing is cut before it, rapids to what lies under the stock are told
            QVERIFY2(f.rank != Rank::Stop || f.code == "rapid-through-stock", qPrintable(QString("%1: %2").arg(millShapeName(shape), QString::fromStdString(f.text))));
        QVERIFY(m_model->result()->complete());
        QVERIFY(m_model->result()->path()->size() > 10);
    }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
    }
    void cleanup() { closeAll(); }

    void aHelicalGrooveInThreeDepths() {
        openJobFile("barrel-setup.gyre.json");
        add("helix");
        type("helix.pitch", "20");
        type("helix.turns", "2");
        type("mill.depth", "3");
        type("mill.stepdown", "1");
        QVERIFY2(m_actions <= 7, qPrintable(QString("%1 actions").arg(m_actions)));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && m_model->result()->mill && !m_model->stale(), 60000);
        QCOMPARE(m_model->result()->mill->levels, std::size_t(3));
        QVERIFY(std::abs(m_model->result()->mill->bottom + 3) < 1e-9);
        // The sheet lies beside the view; its curve is as long as it should be.
        QVERIFY(m_window->sheet().isVisible() && m_window->view().isVisible());
        const auto& line = m_model->result()->mill->curves.at(0);
        QVERIFY(std::abs(std::abs(line.back().y() - line.front().y()) - 2 * m_model->result()->mill->sheet.turn()) < 1e-6);
        QVERIFY(!m_window->grab().isNull());
        choose("helix.growth", "1");
        type("helix.endPitch", "30");
        settle();
        QTRY_VERIFY(m_model->result()->mill && !m_model->stale() &&
                    std::abs(m_model->result()->mill->curves.at(0).back().x() - m_model->result()->mill->curves.at(0).front().x() - 50) < 1e-6);
        // Undone to the start, the curve is gone with the operation.
        while (!m_model->undoLabel().isEmpty()) m_model->undo();
        QVERIFY(m_model->job().route.empty() && m_model->job().mends.size() == 3);
    }
    void whatIsPickedSaysWhatItIs() {
        openJobFile("barrel-setup.gyre.json");
        m_model->mending().remove(2); // the barrel's skin without grooves lies over all of it
        settle();
        m_actions = 0;
        add("picked");
        QCOMPARE(m_model->picks().mode(), PickMode::Faces);
        const int window = roundAt(38.5, 95);
        QVERIFY(window >= 0);
        clickFace(window);
        QVERIFY(!m_model->milling().hovered().empty()); // its border lights on the sheet as well
        expectPath(MillShape::Pocket);
        QVERIFY(m_model->milling().sheet() && m_model->milling().sheet()->wrapped);
        QVERIFY(m_actions <= 4);
        // A second one, flat: Ctrl+M, and round the outside.
        QTest::keyClick(m_window.get(), Qt::Key_M, Qt::ControlModifier);
        QCOMPARE(m_model->job().route.size(), std::size_t(2));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("mill.shape", "round");
        choose("tool", "flat-10");
        type("mill.stepover", "6");
        type("mill.to", "100");
        expectPath(MillShape::Round);
        choose("mill.lines", "spiral");
        expectPath(MillShape::Round);
        // Too deep for a round: said, and taken back.
        m_model->select(QString::fromStdString(m_model->job().route[0].id));
        choose("mill.depthBy", "typed");
        type("mill.depth", "38.5");
        settle();
        QTRY_VERIFY(!m_model->stale() && !m_model->result()->findings.empty() && m_model->result()->findings[0].text.find("reaches the axis") != std::string::npos);
        m_model->undo();
        m_model->undo();
        expectPath(MillShape::Pocket);
    }
    // A whole body from above by words alone: coarse, not deep, strokes alone with what they say of walls, what a larger tool left, and all the way back.
    void theYokeFromAbove() {
        openJobFile("yoke-setup.gyre.json");
        m_actions = 0;
        add("body");
        QCOMPARE(m_model->picks().mode(), PickMode::None); // nothing needs to be picked
        choose("mill.depthBy", "typed");
        type("mill.depth", "6");
        type("mill.stepover", "2");
        QVERIFY2(m_actions <= 8, qPrintable(QString::number(m_actions)));
        const auto done = [&] {
            settle();
            QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->settled(), 60000);
        };
        done();
        const auto mill = m_model->result()->mill;
        QVERIFY(mill && mill->rows > 5 && mill->levels > 2 && m_model->result()->path());
        const double lowest = std::accumulate(m_model->result()->path()->tip.begin(), m_model->result()->path()->tip.end(), 1e9,
                                              [](double z, const Vec3& p) { return std::min(z, p.z()); });
        const double top = m_model->place()->part->mesh().bounds().high.z();
        QVERIFY2(std::abs(top - 6.0 - lowest) < 1e-3, qPrintable(QString::number(top - lowest))); // the depth is the depth
        choose("mill.parts", "strokes");
        done();
        const auto wide = std::find_if(m_model->result()->findings.begin(), m_model->result()->findings.end(), [](const Finding& f) { return f.code == "steep-wide"; });
        QVERIFY(wide != m_model->result()->findings.end() && wide->remedies.size() == 1);
        m_model->applyRemedy(*wide, wide->remedies[0]);
        done();
        QCOMPARE(op().mill->parts, MillParts::Both);
        const double own = m_model->job().tool(op().tool)->cutter.diameter;
        QString larger;
        for (const Assembly& a : m_model->job().tools)
            if (a.cutter.diameter > own) larger = QString::fromStdString(a.id);
        QVERIFY(!larger.isEmpty());
        const double whole = m_model->result()->mill->length;
        choose("mill.after", larger);
        done();
        QVERIFY(wordFor("mill.afterMore"));
        QVERIFY(!m_model->result()->mill || m_model->result()->mill->length < whole);
        QVERIFY(m_model->tools().operationsWith(larger).contains(QString::fromStdString(op().name))); // it cannot be thrown away meanwhile
        while (!m_model->undoLabel().isEmpty()) m_model->undo();
        QVERIFY(m_model->job().route.empty());
    }
    void theYokeFromNothing() {
        openJobFile("yoke-setup.gyre.json");
        add("face");
        clickFace(planeAt({0, -5, 62}));
        expectPath(MillShape::Face);
        add("picked");
        const int ring = planeAt({10, 20, 56});
        QVERIFY(ring >= 0);
        clickFace(ring);
        expectPath(MillShape::Pocket);
        // The side pocket, and the same once more on the other side: one word.
        add("pocket");
        std::size_t right = 0;
        while (m_model->job().planes[right].name != "right pocket") ++right;
        clickFace(planeAt(m_model->job().planes[right].origin - 7.0 * m_model->job().planes[right].normal));
        choose("mill.on", "right pocket");
        expectPath(MillShape::Pocket);
        const std::size_t once = m_model->result()->guard->passes.size();
        choose("repeat.planes", R"(["left pocket"])");
        expectPath(MillShape::Pocket);
        QCOMPARE(m_model->result()->guard->passes.size(), 2 * once);
        // Edited once, both follow.
        type("mill.stepdown", "7");
        expectPath(MillShape::Pocket);
        QVERIFY(m_model->result()->guard->passes.size() < 2 * once);
        // A bore, by its wall.
        add("bore");
        int wall = -1;
        std::size_t port = 0;
        while (m_model->job().planes[port].name != "right port") ++port;
        for (std::size_t f = 0; f < m_model->place()->part->faces().size(); ++f) {
            const FaceInfo& i = m_model->place()->part->faces()[f];
            if (i.kind == SurfaceKind::Cylinder && std::abs(i.radius - 5.5) < 1e-6 && std::abs(i.axis.dot(m_model->job().planes[port].normal)) > 1 - 1e-9)
                wall = static_cast<int>(f);
        }
        QVERIFY(wall >= 0);
        clickFace(wall);
        expectPath(MillShape::Bore);
        // All holes of the yoke in one action.
        const std::size_t before = m_model->job().route.size();
        click(find<QPushButton>("addHoleWork"));
        settle();
        QVERIFY(m_model->job().route.size() >= before + 8);
        for (const Recipe& r : m_model->job().route)
            if (r.kind == OperationKind::HoleStep) {
                const QString id = QString::fromStdString(r.id);
                QTRY_VERIFY_WITH_TIMEOUT(m_model->result(id) && m_model->result(id)->complete(), 60000);
            }
        // Roughing needs no pick at all; it goes first and takes what is there.
        add("rough");
        choose("mill.depthBy", "typed");
        type("mill.depth", "10");
        m_model->route().move(m_model->selected(), -1);
        expectPath(MillShape::Rough);
        // Posted and read back, clamps and all.
        m_model->setBench(Bench::Send);
        const auto text = m_model->programs().post(Dialect::Joints);
        QVERIFY2(text, text ? "" : text.error().text().c_str());
        QVERIFY(m_model->programs().replayReport().agrees() && text->contains(" M23\n"));
        QVERIFY(!m_window->grab().isNull());
    }
    // The barrel's conical end as rings, and its engraved scale from a drawing that is laid around it.
    void theBarrelsConeAndScaleFromNothing() {
        openJobFile("barrel-work.gyre.json");
        withoutOperations();
        add("round");
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("tool", "ball-8");
        type("mill.from", "104");
        type("mill.to", "120");
        type("mill.stepover", "0.8");
        expectPath(MillShape::Round);
        double low = 1e9, high = 0.0; // lower where the cone is narrower
        const Toolpath& path = *m_model->result()->path();
        for (std::size_t i = 0; i < path.size(); ++i)
            if (path.motion[i] == Motion::Cut) {
                const double r = std::hypot(path.tip[i].y(), path.tip[i].z());
                low = std::min(low, r);
                high = std::max(high, r);
            }
        QVERIFY2(high - low > 1.0, qPrintable(QString("%1 %2").arg(low).arg(high)));
        add("follow");
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("target.drawings", R"(["degree scale"])");
        choose("mill.on", "round X");
        type("mill.radius", "40");
        choose("tool", "graver-0.5");
        choose("mill.depthBy", "typed");
        type("mill.depth", "0.4");
        type("mill.rampDegrees", "8");
        expectPath(MillShape::Follow);
        QVERIFY2(m_model->result()->guard->passes.size() > 20, qPrintable(QString::number(m_model->result()->guard->passes.size())));
    }
    // The cam grooves along their drawing, three times around, and the holes in their floors from outside.
    void theBarrelsGroovesAndHolesFromNothing() {
        openJobFile("barrel-work.gyre.json");
        withoutOperations();
        add("follow");
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("target.drawings", R"(["follower"])");
        choose("mill.on", "round X");
        choose("tool", "flat-6");
        choose("mill.depthBy", "typed");
        type("mill.depth", "4");
        type("mill.stepdown", "1.35");
        type("mill.width", "6");
        type("mill.rampDegrees", "2");
        type("repeat.count", "3");
        choose("repeat.axis", "x");
        QVERIFY2(m_actions <= 13, qPrintable(QString::number(m_actions)));
        expectPath(MillShape::Follow);
        QCOMPARE(m_model->result()->guard->passes.size() % 3, std::size_t(0));
        click(find<QPushButton>("addHoleWork"));
        settle();
        // Those in the grooves' floors; for the bore there is no drill.
        std::size_t done = 0;
        for (const Recipe& r : m_model->job().route) {
            const Recipe* group = r.kind == OperationKind::HoleStep ? m_model->job().operation(r.parent) : nullptr;
            if (!group || group->holes.empty() || std::abs(group->holes.front().diameter - 5.0) > 0.01) continue;
            const QString id = QString::fromStdString(r.id);
            QTRY_VERIFY_WITH_TIMEOUT(m_model->result(id) && m_model->result(id)->complete(), 60000);
            ++done;
        }
        QCOMPARE(done, std::size_t(2)); // spotted and drilled
    }
    void drawnOnTheSheet() {
        openJobFile("barrel-setup.gyre.json");
        add("follow");
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("mill.on", "round X");
        settle();
        SheetView& sheet = m_window->sheet();
        QVERIFY(sheet.isVisible());
        (void)sheet.grab();
        click(find<QPushButton>("sheetDraw"));
        QVERIFY(sheet.drawing());
        const double r = m_model->milling().sheet()->radius;
        QVERIFY(std::abs(r - 40) < 0.01);
        for (const Vec2& p : {Vec2(20, m_model->milling().sheet()->fromDegrees(10)), Vec2(30, m_model->milling().sheet()->fromDegrees(40))})
            QTest::mouseClick(&sheet, Qt::LeftButton, {}, sheet.pixelOf(p).toPoint());
        auto* typed = find<QLineEdit>("sheetTyped");
        QVERIFY(typed);
        QTest::keyClicks(typed, "40 400; 50 400 40");
        QTest::keyClick(typed, Qt::Key_Return);
        QTest::keyClicks(typed, "50 400 39"); // not on this sheet
        QTest::keyClick(typed, Qt::Key_Return);
        QVERIFY2(message().contains("radius"), qPrintable(message() + "|" + typed->text()));
        click(find<QPushButton>("sheetDone"));
        QCOMPARE(m_model->job().mends.size(), std::size_t(4));
        const Mend& drawn = m_model->job().mends.back();
        QCOMPARE(drawn.points.size(), std::size_t(4));
        QVERIFY(std::abs(drawn.points[1][1] - 40) < 1.01 && std::abs(drawn.points[2][1] - 400) < 1e-9 && std::abs(drawn.points[3][0] - 50) < 1e-9);
        QCOMPARE(op().target->drawings, std::vector<std::string>{drawn.name});
        choose("tool", "ball-4");
        type("mill.depth", "0.5");
        settle();
        // What is engraved is not in the model: the cutter is meant to be that deep in the part, and the guard has nothing to say of it.
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && m_model->result()->path() && !m_model->stale(), 60000);
        for (const Finding& f : m_model->result()->findings) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
        expectPath(MillShape::Follow);
        // Its points are words of the recipe.
        type("sketch.points", "20 0; 60 720");
        expectPath(MillShape::Follow);
        QVERIFY(std::abs(m_model->result()->mill->curves.at(0).back().y()) > 1.99 * m_model->milling().sheet()->turn());
        // The other edge of a click: edges of the part are picked on the sheet, and lit in both.
        m_model->milling().setSheetShown(SheetShown::Flat);
        QVERIFY(!m_window->view().isVisible());
        (void)sheet.grab();
        QTest::keyClick(m_window.get(), Qt::Key_U);
        QCOMPARE(m_model->milling().sheetShown(), SheetShown::Wrapped);
        QVERIFY(!sheet.isVisible());
        // Nonsense is refused, the last good path stays.
        const auto before = m_model->result();
        QVERIFY(!m_model->setWord("mill.stepover", "0"));
        QVERIFY(!m_model->setWord("mill.depth", "1e12"));
        QCOMPARE(m_model->result(), before);
    }
    void edgesPickedOnTheSheet() {
        openJobFile("barrel-setup.gyre.json");
        add("follow");
        choose("mill.on", "round X");
        settle();
        SheetView& sheet = m_window->sheet();
        (void)sheet.grab();
        const Part& part = *m_model->place()->part;
        int edge = -1;
        for (std::size_t e = 0; e < part.edges().size() && edge < 0; ++e) // a long edge of the window's rim
            if (part.edges()[e].kind == CurveKind::Circle && part.edges()[e].length > 30 && part.edges()[e].length < 40 &&
                std::abs(std::hypot(part.edges()[e].middle.y(), part.edges()[e].middle.z()) - 40) < 0.01)
                edge = static_cast<int>(e);
        QVERIFY(edge >= 0);
        const QPoint at = sheet.pixelOf(m_model->milling().sheet()->flat(part.edges()[static_cast<std::size_t>(edge)].middle).head<2>()).toPoint();
        moveMouse(&sheet, at);
        QTRY_VERIFY(!m_model->milling().hovered().empty());
        QVERIFY(std::find(m_model->milling().hovered().begin(), m_model->milling().hovered().end(), edge) != m_model->milling().hovered().end());
        QTest::mouseClick(&sheet, Qt::LeftButton, {}, at);
        QVERIFY(!op().target->edges.empty());
        type("mill.depth", "0.5");
        settle();
        QTRY_VERIFY(m_model->result() && !m_model->stale() && m_model->result()->mill);
        QTest::mouseClick(&sheet, Qt::LeftButton, {}, at); // and taken away again
        QVERIFY(op().target->edges.empty());
    }
    void inInchesCancelledSavedAndOpenedAgain() {
        openJobFile("yoke-work.gyre.json");
        click(find<QPushButton>("unitsButton"));
        m_model->select("op4");
        type("mill.stepdown", "0.05in");
        QVERIFY(std::abs(op().mill->stepdown - 1.27) < 1e-9);
        m_model->cancel();
        settle();
        type("mill.stepover", "2mm");
        expectPath(MillShape::Pocket);
        const std::string text = jobToJson(m_model->job());
        QVERIFY(m_model->save());
        QVERIFY(m_window->openFile(m_model->file(), false));
        QCOMPARE(jobToJson(m_model->job()), text);
        settle();
        // A plane that is renamed takes its operations along.
        std::size_t left = 0;
        while (m_model->job().planes[left].name != "left pocket") ++left;
        m_model->planes().rename(left, "west");
        m_model->select("op4");
        QCOMPARE(op().repeat->planes, std::vector<std::string>{"west"});
        expectPath(MillShape::Pocket);
    }
    // What the control does at points: a word of the operation, in its time, its findings, its program; in inches like everything.
    void theControlStopsAtPoints() {
        openJobFile("yoke-work.gyre.json");
        m_model->select("op4");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->upToDate("op4"), 60000);
        const double before = m_model->result()->motion->duration;
        choose("points.how", "exactStop");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->upToDate("op4") && m_model->result()->motion->duration > before, 60000);
        QVERIFY(!wordFor("points.within"));
        choose("points.how", "smoothed");
        QTRY_VERIFY(wordFor("points.within"));
        click(find<QPushButton>("unitsButton"));
        type("points.within", "0.01in");
        settle();
        QVERIFY(std::abs(op().points->within - 0.254) < 1e-9);
        QTRY_VERIFY_WITH_TIMEOUT(find<QFrame>("finding.points-smoothed"), 60000);
        type("points.within", "0"); // nothing is rounded off within nothing
        QVERIFY(std::abs(op().points->within - 0.254) < 1e-9);
        click(find<QPushButton>("fix.points.within.points-smoothed"));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(op().points->within < 0.254 && !m_model->computing(), 60000);
        m_model->computeNow(false);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled(), 120000);
        m_model->setBench(Bench::Send);
        const auto text = m_model->programs().post(Dialect::Joints);
        QVERIFY2(text, text ? "" : text.error().text().c_str());
        QVERIFY(m_model->programs().replayReport().agrees() && text->contains(" G64 P0.") && text->contains(" G64\n"));
    }
};

GYRE_WINDOW_TEST(TestMilling)

} // namespace test_milling
#include "test_milling.moc"
