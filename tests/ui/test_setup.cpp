// The Set up bench by mouse and keyboard: opening parts, stock, units, holes, planes, what is shown.
#include "WindowTest.h"
#include "base/File.h"
#include "geom/MeshFile.h"

namespace test_setup {

using namespace gyre;

class TestSetup : public test::WindowTest {
    Q_OBJECT

    /// Opens a part of the demo folder and waits until stock and seat are proposed and placed.
    void openPart(const QString& name) {
        drop(m_dir->filePath(name));
        QTRY_VERIFY_WITH_TIMEOUT(
            m_model->hasJob() && m_model->job().bodies.size() == 2 && !m_model->computing() && m_model->place() && m_model->place()->bodies.size() == 2, 60000);
    }
    const StockShape& stock() { return *m_model->job().bodies[1].shape; }
    void key(Qt::Key k) {
        ++m_actions;
        QTest::keyClick(m_window.get(), k);
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // Called off while its bodies are looked for, a file opens nothing and hangs nothing; opened again it is there.
    void lookingIntoAFileIsCalledOff() {
        const QString file = QString::fromStdString(test::pinnedPlate(m_dir->path().toStdString()).string());
        QVERIFY(m_window->openFile(file, false));
        m_model->cancel();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled(), 60000);
        QVERIFY(!m_model->computing());
        // A second file at once: the first is let go of.
        QVERIFY(m_window->openFile(file, false));
        QVERIFY(m_window->openFile(file, false));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled() && m_model->place() && m_model->place()->bodies.size() > 1, 60000);
        QVERIFY(m_model->job().bodies.size() > 2);
    }
    void aPartIsOpenedWithStockAndSeatInOneAction() {
        openPart("pierced-dome.step");
        QVERIFY(m_actions <= 4);
        QCOMPARE(m_model->bench(), Bench::SetUp);
        QVERIFY(stock().kind == StockShape::Kind::Cylinder && stock().radius == 70);
        QCOMPARE(m_model->job().seat, Vec3(0, 0, 6)); // the rim's underside on the table
        QVERIFY(m_model->edited());
        QVERIFY(!m_model->job().tools.empty() && !m_model->job().machine.empty());
        // The machine in use is kept.
        QCOMPARE(m_model->place()->machine->name, std::string("Heron 5T"));
        m_model->undo();
        QCOMPARE(m_model->job().bodies.size(), std::size_t(1));
        m_model->redo();
        QVERIFY(m_model->save());
        QVERIFY(QFile::exists(m_dir->filePath("pierced-dome.gyre.json")));
        QVERIFY(m_window->openFile(m_dir->filePath("pierced-dome.gyre.json"), false));
        QCOMPARE(m_model->job().bodies.size(), std::size_t(2));
        // Opened again as a part, the saved job is not written over.
        openPart("pierced-dome.step");
        QCOMPARE(m_model->file(), m_dir->filePath("pierced-dome-2.gyre.json"));
    }
    void whatIsNeitherJobNorPartLeavesTheJobAlone() {
        for (const char* name : {"words.txt", "broken.step", "empty.stl", "missing.iges"}) {
            QFile f(m_dir->filePath(name));
            if (QString(name) != "missing.iges" && f.open(QIODevice::WriteOnly)) f.write(QString(name) == "empty.stl" ? "" : "just words");
            f.close();
            drop(m_dir->filePath(name));
            QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing(), 20000);
            QVERIFY2(find<QLabel>("message") || !m_model->setupTrouble().isEmpty(), name);
        }
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        waitForPath();
    }
    void stockIsEditedInWords() {
        openPart("pierced-dome.step");
        type("stock.1.radius", "75");
        QTRY_COMPARE(stock().radius, 75.0);
        choose("stock.1.kind", "tube");
        QTRY_COMPARE(stock().kind, StockShape::Kind::Tube);
        type("stock.1.inner", "80"); // more than outside: refused, with the reason
        QTRY_VERIFY(find<QLabel>("message")->text().contains("inner radius"));
        QVERIFY(stock().innerRadius < 75);
        type("stock.1.inner", "50");
        QTRY_COMPARE(stock().innerRadius, 50.0);
        choose("stock.1.kind", "block");
        QTRY_COMPARE(stock().kind, StockShape::Kind::Block);
        type("stock.1.high.z", "-100");
        QTRY_VERIFY(find<QLabel>("message")->text().contains("no size along Z"));
        type("stock.1.high.z", "3in");
        QTRY_VERIFY(std::abs(stock().high.z() - 76.2) < 1e-9);
        click(find<QPushButton>("proposeStock"));
        QTRY_COMPARE(stock().kind, StockShape::Kind::Cylinder);
        QCOMPARE(m_model->job().bodies.size(), std::size_t(2)); // the same stock, not another
    }
    void aScanAsksForItsUnit() {
        openPart("moth-relief.stl");
        QVERIFY(m_model->place()->part->isMesh());
        const double wide = m_model->place()->part->mesh().bounds().high.x();
        choose("body.0.unit", "in");
        QTRY_VERIFY_WITH_TIMEOUT(std::abs(m_model->place()->part->mesh().bounds().high.x() - 25.4 * wide) < 1e-3, 30000);
        m_model->undo();
        QTRY_VERIFY_WITH_TIMEOUT(std::abs(m_model->place()->part->mesh().bounds().high.x() - wide) < 1e-6, 30000);
    }
    // Only an open sheet is asked for: the side that is outside is chosen, and taken back.
    void aSheetAsksForItsOutside() {
        openPart("moth-relief.stl");
        QVERIFY(!m_model->place()->part->hasSheets() && !find<Word>("word.body.0.sheetsOver"));
        TriangleMesh sheet;
        sheet.points = {{0, 0, 0}, {60, 0, 0}, {60, 40, 5}, {0, 40, 5}};
        sheet.triangles = {{0, 2, 1}, {0, 3, 2}}; // looks down
        QVERIFY(writeFileAtomic(m_dir->filePath("sheet.STL").toStdString(), meshToStl(sheet)));
        drop(m_dir->filePath("sheet.STL"));
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->place() && m_model->place()->part && m_model->place()->part->hasSheets(), 30000);
        const auto up = [this] { return m_model->place()->part->faces()[0].normal.z() > 0.0; };
        QVERIFY(!up());
        choose("body.0.sheetsOver", "true");
        QTRY_VERIFY_WITH_TIMEOUT(up(), 30000);
        QVERIFY(m_model->job().bodies[0].sheetsOver);
        m_model->undo();
        QTRY_VERIFY_WITH_TIMEOUT(!up(), 30000);
    }
    void holesAreLitTurnedAndLeftOut() {
        openPart("pierced-dome.step");
        QCOMPARE(m_model->holes().groups().size(), std::size_t(4));
        click(find<QPushButton>("holes.1"));
        QTRY_COMPARE(m_model->holes().litGroup(), 1);
        const auto group = m_model->holes().groups()[1];
        const Hole before = m_model->holes().all()[group.holes[0]];
        click(find<QPushButton>("turn.1"));
        QTRY_VERIFY((m_model->holes().all()[group.holes[0]].direction + before.direction).norm() < 1e-12);
        click(find<QPushButton>("leave.1"));
        QTRY_VERIFY(m_model->holes().leftOut(group.holes[0]));
        QTRY_VERIFY(find<QPushButton>("holes.1")->text().contains("left out"));
        m_model->undo();
        m_model->undo();
        QVERIFY(!m_model->holes().leftOut(group.holes[0]) && (m_model->holes().all()[group.holes[0]].direction - before.direction).norm() < 1e-12);
        QVERIFY(!m_window->grab().isNull());
        click(find<QPushButton>("holes.1")); // dark again
        QTRY_COMPARE(m_model->holes().litGroup(), -1);
    }
    void oneHoleIsTurnedByItsArrow() {
        openPart("pierced-dome.step");
        click(find<QPushButton>("holes.0"));
        QTRY_COMPARE(m_model->holes().litGroup(), 0);
        const auto lit = m_model->holes().groups()[0].holes;
        View& view = m_window->view();
        // One whose arrow can be seen: its words tell so before the click.
        QPoint at;
        int which = -1;
        for (std::size_t i = 0; i < m_model->holes().all().size() && which < 0; ++i) {
            const Hole h = m_model->holes().all()[i];
            const auto p = view.camera().project(h.mouth + 0.5 * h.diameter() * h.direction);
            if (!p || !view.rect().adjusted(40, 40, -40, -40).contains(p->toPoint()) ||
                h.direction.dot(view.camera().eye() - h.mouth) < 0.6 * (view.camera().eye() - h.mouth).norm())
                continue;
            moveMouse(&view, p->toPoint() + QPoint(1, 0));
            moveMouse(&view, p->toPoint());
            if (!view.hoverWords().contains("turn it round")) continue;
            at = p->toPoint();
            which = static_cast<int>(i);
        }
        QVERIFY(which >= 0);
        const auto before = m_model->holes().all();
        ++m_actions;
        QTest::mouseClick(&view, Qt::LeftButton, {}, at);
        const auto after = m_model->holes().all();
        int turned = 0;
        for (std::size_t i = 0; i < before.size(); ++i) turned += (before[i].direction + after[i].direction).norm() < 1e-9;
        QCOMPARE(turned, 1);
        // The light stays on the group it was on, whatever the order of groups is now.
        QVERIFY(m_model->holes().litGroup() >= 0);
        const auto now = m_model->holes().groups()[static_cast<std::size_t>(m_model->holes().litGroup())].holes;
        QVERIFY(std::find(now.begin(), now.end(), lit.front()) != now.end());
        m_model->undo();
        QVERIFY((m_model->holes().all()[static_cast<std::size_t>(which)].direction - before[static_cast<std::size_t>(which)].direction).norm() < 1e-12);
    }
    void planesOnFacesAndHoles() {
        openPart("pierced-dome.step");
        click(find<QPushButton>("planeOnFace"));
        QCOMPARE(m_model->picks().mode(), PickMode::PlaneFace);
        View& view = m_window->view();
        const QPoint middle(view.width() / 2, view.height() / 2);
        moveMouse(&view, middle + QPoint(1, 0));
        moveMouse(&view, middle);
        QVERIFY2(view.hoverWords().contains("plane here"), qPrintable(view.hoverWords()));
        ++m_actions;
        QTest::mouseClick(&view, Qt::LeftButton, {}, middle);
        QTRY_COMPARE(m_model->job().planes.size(), std::size_t(1));
        QCOMPARE(m_model->picks().mode(), PickMode::None);
        QVERIFY(m_actions <= 4);
        const WorkPlane first = m_model->job().planes[0];
        QCOMPARE(first.name, std::string("Plane 1"));
        QTRY_VERIFY(find<QLabel>("reach.0")->text().contains(QString::fromUtf8("°")));
        click(find<QPushButton>("flipPlane.0"));
        QTRY_VERIFY((m_model->job().planes[0].normal + first.normal).norm() < 1e-12);
        click(find<QPushButton>("holes.0"));
        QTRY_VERIFY(find<QPushButton>("planeOnHoles")->isEnabled());
        click(find<QPushButton>("planeOnHoles"));
        QTRY_COMPARE(m_model->job().planes.size(), std::size_t(13)); // twelve holes, twelve directions
        QVERIFY(!m_window->grab().isNull());
        click(find<QPushButton>("removePlane.0"));
        QTRY_COMPARE(m_model->job().planes.size(), std::size_t(12));
        m_model->undo();
        QCOMPARE(m_model->job().planes.size(), std::size_t(13));
        // Picking can be given up.
        click(find<QPushButton>("planeOnFace"));
        key(Qt::Key_Escape);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
    }
    void oneKeyShowsFadesAndHides() {
        openPart("pierced-dome.step");
        QCOMPARE(m_model->shown("stock"), Shown::Faded);
        key(Qt::Key_S);
        QCOMPARE(m_model->shown("stock"), Shown::Hidden);
        key(Qt::Key_S);
        QCOMPARE(m_model->shown("stock"), Shown::Solid);
        key(Qt::Key_P);
        QCOMPARE(m_model->shown("part"), Shown::Faded);
        QVERIFY(!m_window->grab().isNull());
        key(Qt::Key_X);
        QCOMPARE(m_model->shown("fixture"), Shown::Faded);
        QVERIFY(find<QLabel>("message")->text().contains("fixture"));
    }
    void aBodyIsAddedAsAFixture() {
        m_model->addBody(m_dir->filePath("moth-relief.stl"));
        QCOMPARE(m_model->job().bodies.back().role, std::string("fixture"));
        QCOMPARE(m_model->job().bodies.back().file, std::string("moth-relief.stl"));
        waitForPath();
        QCOMPARE(m_model->place()->bodies.size(), std::size_t(6));
        m_model->undo();
        waitForPath();
    }
};

GYRE_WINDOW_TEST(TestSetup)

} // namespace test_setup
#include "test_setup.moc"
