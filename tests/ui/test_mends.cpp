// Mends, planes, flankability, drawings, sections and every way to pick: by mouse and keyboard in the real window.
#include "WindowTest.h"
#include "drawing/Drawing.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "target/TargetSpec.h"
#include <QListWidget>
#include <QStandardPaths>
#include <fstream>

namespace test_mends {

using namespace gyre;

class TestMends : public test::WindowTest {
    Q_OBJECT

    void openPart(const std::filesystem::path& file) {
        drop(QString::fromStdString(file.string()));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->place() && m_model->place()->part && !m_model->job().bodies.empty() && m_model->job().bodies.back().role == "stock", 60000);
        settle();
    }
    std::filesystem::path folder() {
        const std::filesystem::path f = (m_dir->path() + "/more").toStdString();
        std::filesystem::create_directories(f);
        std::filesystem::copy_file(std::filesystem::path(GYRE_DEMO_DIR) / "heron-5t.machine.json", f / "heron-5t.machine.json",
                                   std::filesystem::copy_options::skip_existing);
        std::filesystem::copy_file(std::filesystem::path(GYRE_DEMO_DIR) / "coolant-ring.stl", f / "coolant-ring.stl", std::filesystem::copy_options::skip_existing);
        std::filesystem::copy_file(std::filesystem::path(GYRE_DEMO_DIR) / "larkmoor.tools.json", f / "larkmoor.tools.json", std::filesystem::copy_options::skip_existing);
        return f;
    }
    void addMend(const char* kind) {
        ++m_actions;
        auto* action = m_window->findChild<QAction*>(QString("mendKind.%1").arg(kind));
        QVERIFY2(action, kind);
        action->trigger();
    }
    const Mend& mend(std::size_t i) { return m_model->job().mends[i]; }
    const MendResult& made(std::size_t i) { return (*m_model->place()->mends)[i]; }
    const Part& part() { return *m_model->place()->part; }
    View& view() { return m_window->view(); }
    QPoint pixelOf(const Vec3& p) {
        const auto q = view().camera().project(p);
        return q ? q->toPoint() : QPoint(-1, -1);
    }
    void clickAt(const QPoint& p, Qt::KeyboardModifiers with = {}) {
        ++m_actions;
        moveMouse(&view(), p + QPoint(1, 0));
        moveMouse(&view(), p);
        QTest::mouseClick(&view(), Qt::LeftButton, with, p);
    }
    int visible(const std::function<bool(int)>& wanted) {
        for (int f = 0; f < static_cast<int>(part().faces().size()); ++f)
            if (wanted(f) && view().rect().contains(pixelOfFace(f)) && faceAt(part(), view().camera(), pixelOfFace(f)).face == f) return f;
        return -1;
    }
    void key(Qt::Key k, Qt::KeyboardModifiers with = {}) {
        ++m_actions;
        QTest::keyClick(&view(), k, with);
    }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
    }
    void cleanup() { closeAll(); }

    void aFaceIsFreedOfItsTrimAndCut() {
        openPart(test::drilledPlate(folder()));
        addMend("freedFace");
        QTRY_COMPARE(m_model->picks().mode(), PickMode::Feature);
        const int top =
            visible([&](int f) { return part().faces()[static_cast<std::size_t>(f)].normal.z() > 0.99 && part().faces()[static_cast<std::size_t>(f)].area > 4000; });
        QVERIFY(top >= 0);
        clickAt(pixelOfFace(top));
        QTRY_COMPARE(mend(0).faces.size(), std::size_t(1));
        key(Qt::Key_Escape);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
        type("mend.0.grow", "4");
        settle();
        QTRY_COMPARE(made(0).trouble, std::string());
        QVERIFY(std::abs(made(0).faces.at(0)->faces()[0].area - 128 * 88) < 1.0);
        QTRY_VERIFY(find<QLabel>("mendFacts.0")->text().contains("mm"));
        QVERIFY(!m_window->grab().isNull());
        // It can be picked for an operation like a face of the part; its own edges become the rails.
        m_model->setBench(Bench::Cut);
        m_model->route().addRows();
        QTRY_COMPARE(m_model->picks().mode(), PickMode::Faces);
        const int freed = part().bodyFaces();
        (void)m_model->picks().setNumbers("target.faces", QString::number(freed));
        (void)m_model->setWord("pattern.spacing", "8");
        waitForPath();
        QVERIFY2(m_model->result() && m_model->result()->pattern && m_model->result()->pattern->rows.size() > 10,
                 m_model->result() && !m_model->result()->findings.empty() ? m_model->result()->findings[0].text.c_str() : "");
        // Undone step by step, and saved with the job.
        QVERIFY(m_model->save());
        QVERIFY(m_window->openFile(m_model->file(), false));
        QCOMPARE(m_model->job().mends.size(), std::size_t(1));
        waitForPath();
        QCOMPARE(part().bodyFaces(), freed);
    }
    void curvesAreBuiltOnOneAnother() {
        openPart(test::cylinderStep(folder(), 20, 30));
        addMend("edges");
        const int ring = [&] {
            for (std::size_t e = 0; e < part().edges().size(); ++e)
                if (part().edges()[e].closed && std::abs(part().edges()[e].middle.z() - 30) < 1e-6) return static_cast<int>(e);
            return -1;
        }();
        QVERIFY(ring >= 0);
        const Polyline line = part().edgeLine(ring);
        QPoint where;
        for (const Vec3& p : line)
            if (edgeAt(part(), view().camera(), pixelOf(p)) == ring) where = pixelOf(p);
        clickAt(where);
        QTRY_COMPARE(mend(0).first.edges.size(), std::size_t(1));
        QVERIFY(view().hoverWords().contains("edge"));
        key(Qt::Key_Escape);
        settle();
        QVERIFY(std::abs(made(0).curves.at(0).length() - 40 * kPi) < 1e-4);
        // Half way to the other ring, chosen from the list and by number.
        addMend("middle");
        key(Qt::Key_Escape);
        choose("mend.1.first.curve", QString::fromStdString(mend(0).name));
        QTRY_COMPARE(mend(1).first.curve, mend(0).name);
        int low = -1;
        for (std::size_t e = 0; e < part().edges().size(); ++e)
            if (part().edges()[e].closed && std::abs(part().edges()[e].middle.z()) < 1e-6) low = static_cast<int>(e);
        Word* second = find<Word>("word.mend.1.second");
        QVERIFY(second);
        second->setFocus();
        QTest::keyClicks(second, QString::number(low));
        auto* edit = find<QLineEdit>("edit.mend.1.second");
        QVERIFY(edit);
        QTest::keyClick(edit, Qt::Key_Return);
        QTRY_COMPARE(mend(1).second.edges.size(), std::size_t(1));
        settle();
        QTRY_COMPARE(made(1).trouble, std::string());
        QVERIFY(std::abs(made(1).curves.at(0).start().z() - 15) < 1e-6);
        // A line that a mend made is clicked like an edge, and taken by its name.
        addMend("offsetAway");
        const Vec3 onBelt = [&] {
            const Curve& belt = made(1).curves[0];
            for (int i = 0; i < 64; ++i) {
                const Vec3 p = belt.at(belt.atLength(belt.length() * i / 64));
                if (const int e = edgeAt(part(), view().camera(), pixelOf(p)); e >= part().bodyEdges()) return p;
            }
            return Vec3(Vec3::Zero());
        }();
        QVERIFY(onBelt.norm() > 1);
        clickAt(pixelOf(onBelt));
        QTRY_COMPARE(mend(2).first.curve, mend(1).name);
        key(Qt::Key_Escape);
        choose("mend.2.along", "3");
        type("mend.2.distance", "0.5in");
        settle();
        QTRY_COMPARE(made(2).trouble, std::string());
        QVERIFY(std::abs(made(2).curves.at(0).start().z() - 27.7) < 1e-6);
        // Taking away what they rest on is told in the list, not swallowed.
        click(find<QPushButton>("removeMend.0"));
        settle();
        QTRY_VERIFY(find<QLabel>("mendFacts.0")->text().contains("no mend above"));
        m_model->undo();
        settle();
        QTRY_COMPARE(made(0).trouble, std::string());
    }
    void everyKindIsAddedChangedAndUndone() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        for (int i = 0; i < kMendKinds; ++i) {
            addMend(formOf(static_cast<MendKind>(i)).id);
            QCOMPARE(m_model->job().mends.size(), static_cast<std::size_t>(i + 1));
            QTRY_VERIFY(find<QPushButton>(QString("mend.%1").arg(i)));
            key(Qt::Key_Escape);
        }
        settle();
        // What has not been picked yet says so; what needs nothing is there.
        QTRY_VERIFY(made(0).trouble.find("face") != std::string::npos);
        QTRY_COMPARE(made(static_cast<std::size_t>(MendKind::Helix)).trouble, std::string());
        const auto sketch = static_cast<int>(MendKind::Sketch), coil = static_cast<int>(MendKind::Helix);
        type(QString("mend.%1.points").arg(sketch), "0 0; 20 0 0.5; 20 10");
        type(QString("mend.%1.turns").arg(coil), "2.5");
        type(QString("mend.%1.pitch").arg(coil), "8");
        settle();
        QCOMPARE(mend(static_cast<std::size_t>(sketch)).points.size(), std::size_t(3));
        QVERIFY(std::abs(made(static_cast<std::size_t>(coil)).curves.at(0).length() - 2.5 * std::hypot(8, 40 * kPi)) < 1e-4);
        // Wrong numbers are refused with a reason and change nothing.
        type(QString("mend.%1.points").arg(sketch), "up and down");
        QTRY_VERIFY(message().contains("not a point"));
        type(QString("mend.%1.turns").arg(coil), "-3");
        QTRY_VERIFY(message().contains("between"));
        QCOMPARE(mend(static_cast<std::size_t>(coil)).number("turns"), 2.5);
        QVERIFY(!m_model->mending().setPicks(0, "faces", "3 x"));
        QVERIFY(!m_model->mending().setPicks(0, "faces", "99"));
        QVERIFY(m_model->mending().setPicks(0, "faces", "0 2-4"));
        QCOMPARE(mend(0).faces.size(), std::size_t(4));
        // Keys step a number, and the keyboard stays on its word.
        Word* turns = find<Word>(QString("word.mend.%1.turns").arg(coil));
        turns->setFocus();
        QTest::keyClick(turns, Qt::Key_Up);
        QTRY_VERIFY(mend(static_cast<std::size_t>(coil)).number("turns") > 2.9);
        QTRY_VERIFY(QApplication::focusWidget() && QApplication::focusWidget()->objectName() == QString("word.mend.%1.turns").arg(coil));
        while (!m_model->job().mends.empty()) m_model->undo();
        settle();
        QVERIFY(!m_window->grab().isNull());
        for (int i = 0; i < 30; ++i) m_model->redo();
        settle();
        QCOMPARE(m_model->job().mends.size(), std::size_t(kMendKinds));
    }
    void planesByPointsEdgesAndAngles() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        m_window->findChild<QAction*>("planeBy.points")->trigger();
        // Corners draw the points to themselves.
        for (const Vec3& p : {Vec3(0, 0, 20), Vec3(40, 0, 20), Vec3(0, 30, 20)}) {
            const QPoint at = pixelOf(p);
            moveMouse(&view(), at + QPoint(3, 2));
            moveMouse(&view(), at + QPoint(2, 2));
            QTRY_VERIFY2(view().hoverWords().contains("on an edge"), qPrintable(view().hoverWords()));
            QTest::mouseClick(&view(), Qt::LeftButton, {}, at + QPoint(2, 2));
        }
        QTRY_COMPARE(m_model->job().planes.size(), std::size_t(1));
        QVERIFY((m_model->job().planes[0].origin - Vec3(0, 0, 20)).norm() < 1e-6 && m_model->job().planes[0].normal.z() > 0.999999);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
        m_window->findChild<QAction*>("planeBy.edges")->trigger();
        std::vector<int> picked;
        for (std::size_t e = 0; e < part().edges().size() && picked.size() < 2; ++e) {
            const Vec3 p = part().edges()[e].middle;
            const bool top = std::abs(p.z() - 20) < 1e-6;
            if (!top || edgeAt(part(), view().camera(), pixelOf(p)) != static_cast<int>(e)) continue;
            picked.push_back(static_cast<int>(e));
            clickAt(pixelOf(p));
        }
        QTRY_COMPARE(m_model->job().planes.size(), std::size_t(2));
        QVERIFY(std::abs(m_model->job().planes[1].normal.z()) > 0.999999);
        m_window->findChild<QAction*>("planeBy.angles")->trigger();
        QTRY_COMPARE(m_model->job().planes.size(), std::size_t(3));
        type("plane.2.turnX", "30");
        type("plane.2.turnY", "20");
        type("plane.2.atZ", "12");
        const auto want = planeByAngles(Vec3(0, 0, 12), 30, 20, 0).value();
        QTRY_VERIFY((m_model->job().planes[2].normal - want.normal).norm() < 1e-9 && (m_model->job().planes[2].origin - want.origin).norm() < 1e-9);
        type("plane.2.name", "port");
        QTRY_COMPARE(m_model->job().planes[2].name, std::string("port"));
        type("plane.2.name", "Plane 1"); // taken
        QTRY_VERIFY(message().contains("already"));
        QCOMPARE(m_model->job().planes[2].name, std::string("port"));
        settle();
        QVERIFY(!m_window->grab().isNull());
    }
    void aFaceSaysWhetherASideCanFollowIt() {
        openPart(test::ruledWall(folder(), 30, 0.3));
        click(find<QPushButton>("askFlank"));
        QCOMPARE(m_model->picks().mode(), PickMode::Feature);
        clickAt(pixelOfFace(0));
        QTRY_VERIFY(m_model->flank().answer().has_value());
        QVERIFY(find<QLabel>("flankWords")->text().contains("twisted"));
        key(Qt::Key_Escape);
        QVERIFY(!m_window->grab().isNull());
        // Asked by key, answered again for the face under the keyboard.
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::AltModifier);
        QTRY_COMPARE(m_model->picks().mode(), PickMode::Feature);
        key(Qt::Key_Period);
        QTRY_VERIFY(view().hoverWords().contains("face"));
        key(Qt::Key_Return);
        QTRY_COMPARE(m_model->flank().what(), QString("Face 0"));
        key(Qt::Key_Escape);
    }
    void twoEdgesSayWhetherASideCanFollowThem() {
        openPart(test::ruledWall(folder(), 30, 0.3));
        click(find<QPushButton>("askFlankEdges"));
        QCOMPARE(m_model->picks().mode(), PickMode::Feature);
        // The two long edges, lower first.
        std::vector<int> edges;
        for (const bool upper : {false, true})
            for (std::size_t e = 0; e < part().edges().size(); ++e)
                if (part().edges()[e].length > 50 && (part().edges()[e].middle.z() > 15) == upper) edges.push_back(static_cast<int>(e));
        QVERIFY2(edges.size() >= 2, qPrintable(QString::number(edges.size())));
        m_model->picks().give({}, {edges.front()}, {});
        QVERIFY(!m_model->flank().answer());
        QCOMPARE(m_model->mending().litEdges(), std::vector<int>{edges.front()});
        m_model->picks().give({}, {edges.back()}, {});
        QTRY_VERIFY(m_model->flank().answer().has_value());
        QVERIFY2(find<QLabel>("flankWords")->text().contains("from edge") && find<QLabel>("flankWords")->text().contains("twisted"),
                 qPrintable(find<QLabel>("flankWords")->text()));
        QVERIFY(!m_window->grab().isNull());
        key(Qt::Key_Escape);
    }
    void aCurveIsDrawnOnAScan() {
        openPart(test::demoFile("moth-relief.stl"));
        addMend("drawn");
        QTRY_COMPARE(m_model->picks().mode(), PickMode::Feature);
        QCOMPARE(m_model->picks().feature().kind, PickKind::Points);
        const QPoint middle(view().width() / 2, view().height() / 2);
        for (const int x : {-60, 0, 60}) clickAt(middle + QPoint(x, x / 4));
        QTRY_COMPARE(mend(0).points.size(), std::size_t(3));
        settle();
        QTRY_COMPARE(made(0).trouble, std::string());
        QCOMPARE(made(0).curves.size(), std::size_t(1));
        key(Qt::Key_Escape);
        QVERIFY(find<Word>("word.mend.0.spots")->text().contains("3 points"));
        choose("mend.0.shape", "1");
        settle();
        QTRY_COMPARE(made(0).trouble, std::string());
        m_model->undo();
        m_model->undo(); // the last point
        QTRY_COMPARE(mend(0).points.size(), std::size_t(2));
        settle();
        QVERIFY(!m_window->grab().isNull());
    }
    void filesAddedOneRightAfterTheOther() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        const std::size_t before = m_model->job().bodies.size();
        m_model->addBody(QString::fromStdString(test::pinnedPlate(folder()).string()));
        m_model->addBody(QString::fromStdString(test::cylinderStep(folder(), 5, 8).string()));
        settle();
        QTRY_COMPARE(m_model->job().bodies.size(), before + 4); // three of the assembly, one more
        QCOMPARE(m_model->setupTrouble(), QString());
    }
    void theZeroIsPickedAndTyped() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        click(find<Word>("word.setup.zero"));
        QTRY_COMPARE(m_model->picks().mode(), PickMode::Feature);
        const QPoint corner = pixelOf(Vec3(0, 0, 20)); // it draws the cursor to itself
        clickAt(corner + QPoint(2, 1));
        QTRY_COMPARE(m_model->picks().mode(), PickMode::None);
        QVERIFY2((m_model->job().zero - Vec3(0, 0, 20)).norm() < 1e-9, qPrintable(QString::number(m_model->job().zero.z())));
        type("zero.x", "-2");
        QTRY_COMPARE(m_model->job().zero.x(), -2.0);
        QVERIFY(!m_window->grab().isNull());
        m_model->undo();
        m_model->undo();
        QVERIFY(m_model->job().zero.isZero());
    }
    void windowLassoAndNumbersPick() {
        m_model->route().addRows();
        QTRY_COMPARE(m_model->picks().mode(), PickMode::Faces);
        QVERIFY(m_model->recipe()->target->faces.empty());
        view().frameAll();
        // A window over everything takes every face that can be seen whole.
        const QPoint a(4, 4), b(view().width() - 4, view().height() - 4);
        const auto drag = [&](Qt::KeyboardModifiers with, const std::vector<QPoint>& way) {
            ++m_actions;
            QTest::mousePress(&view(), Qt::LeftButton, with, way.front());
            for (const QPoint& p : way) {
                QMouseEvent move(QEvent::MouseMove, p, view().mapToGlobal(p), Qt::NoButton, Qt::LeftButton, with);
                QApplication::sendEvent(&view(), &move);
            }
            QVERIFY(!m_window->grab().isNull());
            QTest::mouseRelease(&view(), Qt::LeftButton, with, way.back());
        };
        const Vec3 eye = view().camera().eye();
        drag(Qt::ShiftModifier, {a, QPoint(300, 200), b});
        const std::size_t all = m_model->recipe()->target->faces.size();
        QVERIFY(all > 4);
        QCOMPARE(view().camera().eye(), eye); // the view was not turned
        m_model->undo();
        // A lasso around one face takes that one.
        const int face = visibleFace();
        QVERIFY(face >= 0);
        QRect around;
        for (const Vec3& p : part().faceMesh(face).points) around |= QRect(pixelOf(p), QSize(1, 1));
        around.adjust(-6, -6, 6, 6);
        drag(Qt::ControlModifier, {around.topLeft(), around.topRight(), around.bottomRight(), around.bottomLeft(), around.topLeft()});
        const std::size_t some = m_model->recipe()->target->faces.size();
        QVERIFY(some >= 1 && some < all);
        // Nothing inside is said, too.
        drag(Qt::ShiftModifier, {QPoint(5, 5), QPoint(12, 10), QPoint(20, 14)});
        QTRY_VERIFY(message().contains("inside"));
        // Typed on the word: the list is what the numbers say.
        Word* faces = find<Word>("word.target.faces");
        QVERIFY(faces);
        faces->setFocus();
        QTest::keyClicks(faces, "3");
        auto* edit = find<QLineEdit>("edit.target.faces");
        QVERIFY(edit);
        QTest::keyClicks(edit, " 5-7");
        QTest::keyClick(edit, Qt::Key_Return);
        QTRY_COMPARE(m_model->picks().numbers("target.faces"), QString("3 5-7"));
        QVERIFY(!m_model->picks().setNumbers("target.faces", "5000"));
        QTRY_VERIFY(message().contains("there is no face"));
        // By keyboard alone.
        view().setFocus();
        m_model->picks().setMode(PickMode::Faces);
        key(Qt::Key_Comma);
        key(Qt::Key_Return);
        QTRY_VERIFY(m_model->picks().numbers("target.faces") != "3 5-7");
        m_model->picks().setMode(PickMode::Rail1);
        key(Qt::Key_Period);
        QTRY_VERIFY(view().hoverWords().contains("edge"));
        key(Qt::Key_Space);
        key(Qt::Key_Return);
        QTRY_VERIFY(!m_model->picks().numbers("pattern.rail1").isEmpty());
    }
    void rowsAreTurnedWhereTheyAreDrawn() {
        QVERIFY(!view().rowArrow()); // beside the finished path it would only be in the way
        m_model->setPeel(Stage::Pattern);
        QVERIFY(!m_window->grab().isNull());
        const auto arrow = view().rowArrow();
        QVERIFY(arrow);
        const Polyline before = m_model->result()->pattern->rows.front().points;
        clickAt((0.5 * (arrow->first + arrow->second)).toPoint());
        QTRY_COMPARE(m_model->word("pattern.reversed"), QString("true"));
        waitForPath();
        const Polyline after = m_model->result()->pattern->rows.front().points;
        QVERIFY((after.front() - before.back()).norm() < 0.5 && (after.back() - before.front()).norm() < 0.5);
        m_model->undo();
        QCOMPARE(m_model->word("pattern.reversed"), QString("false"));
        waitForPath();
    }
    void drawingsLieOnPlanesOrStayFlat() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        const auto file = folder() / "emblem.dxf";
        std::ofstream(file) << dxfOf({{"0", circleArc(Vec3(20, 15, 0), Vec3::UnitZ(), Vec3(26, 15, 0), 2 * kPi)}, {"0", straightLines({{2, 2, 0}, {38, 2, 0}})}}, 0.001);
        drop(QString::fromStdString(file.string()));
        QTRY_COMPARE(m_model->job().bodies.back().role, std::string("drawing"));
        QCOMPARE(m_model->bench(), Bench::SetUp); // on the part that is open
        settle();
        QTRY_COMPARE(m_model->place()->drawings.size(), std::size_t(1));
        QVERIFY(m_model->place()->drawings[0].facts.find("2 curves, millimetres") == 0);
        QCOMPARE(m_model->place()->drawings[0].curves.size(), std::size_t(2));
        (void)m_model->planes().addByAngles(90, 0, 0);
        settle();
        const QString which = QString("body.%1.plane").arg(m_model->job().bodies.size() - 1);
        choose(which, QString::fromStdString(m_model->job().planes[0].name));
        settle();
        QTRY_VERIFY(std::abs(m_model->place()->drawings[0].curves[0].bounds().high.y()) < 1e-6); // upright now
        choose(which, "/flat");
        settle();
        QTRY_VERIFY(m_model->place()->drawings[0].flat);
        choose(which, "");
        settle();
        // Its curves are for mends: projected onto the top from above.
        addMend("project");
        key(Qt::Key_Escape);
        choose("mend.0.first.curve", "emblem");
        int top = -1;
        for (std::size_t f = 0; f < part().faces().size(); ++f)
            if (part().faces()[f].normal.z() > 0.99) top = static_cast<int>(f);
        QVERIFY(m_model->mending().setPicks(0, "faces", QString::number(top)));
        choose("mend.0.along", "3");
        settle();
        QTRY_COMPARE(made(0).trouble, std::string());
        QCOMPARE(made(0).curves.size(), std::size_t(2));
        QVERIFY(std::abs(made(0).curves[0].start().z() - 20) < 1e-6);
        QVERIFY(!m_window->grab().isNull());
        // A drawing without unit asks for it; a damaged one says what is wrong.
        std::ofstream(folder() / "bare.svg") << "<svg xmlns='http://www.w3.org/2000/svg'><circle cx='10' cy='10' r='1'/></svg>";
        drop(QString::fromStdString((folder() / "bare.svg").string()));
        settle();
        const QString unit = QString("body.%1.unit").arg(m_model->job().bodies.size() - 1);
        QTRY_VERIFY(find<Word>("word." + unit));
        choose(unit, "in");
        settle();
        QTRY_VERIFY(std::abs(m_model->place()->drawings.back().curves[0].length() - 2 * kPi * 25.4) < 1e-3);
        std::ofstream(folder() / "torn.dxf") << "0\nSECTION\n2\nENT";
        drop(QString::fromStdString((folder() / "torn.dxf").string()));
        settle();
        QTRY_VERIFY(m_model->setupTrouble().contains("torn"));
        m_model->undo();
        settle();
        QTRY_VERIFY(m_model->setupTrouble().isEmpty());
    }
    void assembliesComeAsBodiesWithNames() {
        openPart(test::pinnedPlate(folder()));
        const auto& bodies = m_model->job().bodies;
        QCOMPARE(bodies.size(), std::size_t(4)); // plate, two pins, the proposed stock
        QVERIFY(bodies[0].name == "plate" && bodies[0].role == "part" && bodies[1].role == "reference");
        choose("body.1.role", "fixture");
        settle();
        QTRY_COMPARE(m_model->job().bodies[1].role, std::string("fixture"));
        QCOMPARE(m_model->place()->bodies.size(), std::size_t(4));
        choose("body.2.role", "part"); // the plate steps back
        settle();
        QTRY_COMPARE(m_model->job().bodies[0].role, std::string("reference"));
        QTRY_COMPARE(m_model->place()->part->name(), m_model->job().bodies[2].only);
    }
    void theViewIsCutOpen() {
        openPart(test::drilledPlate(folder()));
        const QImage whole = view().grab().toImage();
        QTest::keyClick(m_window.get(), Qt::Key_C);
        QTRY_COMPARE(m_model->section().axis, 0);
        QVERIFY(std::abs(m_model->section().at - 60) < 1);
        QTRY_VERIFY(view().grab().toImage() != whole);
        type("section.at", "30");
        QTRY_COMPARE(m_model->section().at, 30.0);
        choose("section.side", "1");
        QTRY_VERIFY(m_model->section().flipped);
        choose("section.axis", "2");
        QTRY_COMPARE(m_model->section().axis, 2);
        QVERIFY(!m_window->grab().isNull());
        choose("section.axis", "-1");
        QTRY_COMPARE(m_model->section().axis, -1);
    }
    void stockAroundThePartAndOfAnOutline() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        const auto stock = [&]() -> const StockShape& { return *m_model->job().bodies[1].shape; };
        choose("stock.1.kind", "around");
        settle();
        QTRY_COMPARE(stock().kind, StockShape::Kind::Around);
        QTRY_VERIFY(m_model->place()->bodies.back().shape->volume() > 24000);
        type("stock.1.allowance", "5");
        settle();
        const double want = 24000 + 5200 * 5 + 360 * kPi / 4 * 25 + 4 * kPi / 3 * 125;
        QTRY_VERIFY(std::abs(m_model->place()->bodies.back().shape->volume() - want) < 0.01 * want);
        addMend("sketch");
        type("mend.0.points", "-5 -5; 45 -5; 45 35; -5 35");
        choose("mend.0.ends", "1");
        settle();
        choose("stock.1.kind", "outline");
        type("stock.1.from", "0");
        type("stock.1.to", "22");
        settle();
        QTRY_VERIFY(std::abs(m_model->place()->bodies.back().shape->volume() - 50 * 40 * 22) < 1.0);
        type("stock.1.to", "-4"); // refused, with the reason
        QTRY_VERIFY(message().contains("raised by nothing"));
    }
    void whatLeavesTheTravelIsToldWhilePlacing() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        QTRY_VERIFY(find<QLabel>("travelWords")->text().contains("within the travel"));
        type("setup.x", "400");
        QTRY_VERIFY2(find<QLabel>("travelWords")->text().contains("X "), qPrintable(find<QLabel>("travelWords")->text()));
        QVERIFY(find<QLabel>("travelWords")->text().contains("beyond"));
        m_model->undo();
        QTRY_VERIFY(find<QLabel>("travelWords")->text().contains("within the travel"));
    }
    void filesOpenedLatelyAreFound() {
        openPart(test::boxStep(folder(), 40, 30, 20));
        QVERIFY(m_model->recentFiles().first().endsWith("box.step"));
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier);
        auto* line = m_window->findChild<QLineEdit*>("finderLine");
        QVERIFY(line);
        QTest::keyClicks(line, "again lantern");
        QVERIFY(m_window->findChild<QListWidget*>("finderList")->count() >= 1);
        QTest::keyClick(line, Qt::Key_Return);
        QTRY_COMPARE_WITH_TIMEOUT(m_model->job().name, std::string("Lantern collar"), 30000);
        waitForPath();
    }
};

GYRE_WINDOW_TEST(TestMends)

} // namespace test_mends
#include "test_mends.moc"
