// Setting up by hand: bodies moved in the view and by numbers, the material, new tools, grooves and middles where they belong, what is shipped.
#include "WindowTest.h"
#include "operation/OperationResult.h"
#include "panels/SetupPanel.h"
#include "pattern/PatternSpec.h"
#include "target/TargetSpec.h"
#include "view/Picking.h"
#include <QFileDialog>
#include <QStandardPaths>

namespace test_hands {

using namespace gyre;
using namespace gyre::test;

class TestHands : public WindowTest {
    Q_OBJECT
    std::size_t bodyNamed(const char* name) {
        for (std::size_t i = 0; i < m_model->job().bodies.size(); ++i)
            if (m_model->job().bodies[i].name == name) return i;
        return 999;
    }
    const JobBody& body(std::size_t i) { return m_model->job().bodies[i]; }
    void atSetUp(const char* job) {
        openJobFile(job);
        m_model->setBench(Bench::SetUp);
        QCoreApplication::processEvents();
        (void)m_window->grab();
    }
    /// Drags a handle by so many pixels, in steps as a hand does.
    void drag(int handle, const QPoint& by) {
        View& view = m_window->view();
        const auto from = view.moveHandle(handle);
        QVERIFY(from);
        ++m_actions;
        QTest::mousePress(&view, Qt::LeftButton, {}, from->toPoint());
        for (int k = 1; k <= 5; ++k) moveMouse(&view, from->toPoint() + by * k / 5);
        QTest::mouseRelease(&view, Qt::LeftButton, {}, from->toPoint() + by);
    }
    /// A word of the Set up bench.
    void set(const QString& key, const QString& text) {
        type(key, text);
        settle();
    }
    Vec3 middleOf(std::size_t i) { return m_model->setUp().placedBody(i)->shape->mesh().bounds().centre(); }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
    }
    void cleanup() { closeAll(); }

    void aClampIsMovedInTheViewAndByNumbers() {
        atSetUp("collar-setup.gyre.json");
        const std::size_t clamp = bodyNamed("clamp 3");
        QVERIFY(clamp < 999);
        const Vec3 start = middleOf(clamp);
        // Taken in hand by a click on it in the view.
        View& view = m_window->view();
        std::optional<QPoint> on;
        for (int y = 60; y < view.height() - 10 && !on; y += 3)
            for (int x = 10; x < view.width() - 10 && !on; x += 3) {
                const auto ray = view.camera().ray(QPointF(x, y));
                double nearest = 1e300;
                std::string hit;
                for (const PlacedBody& b : m_model->place()->bodies)
                    if (const RayHit at = b.shape->tree().ray(ray.origin, ray.direction); b.role != "stock" && at.hit && at.distance < nearest) {
                        nearest = at.distance;
                        hit = b.name;
                    }
                if (hit == "clamp 3") on = QPoint(x, y);
            }
        QVERIFY(on);
        QTest::mouseClick(&view, Qt::LeftButton, {}, *on);
        QCOMPARE(m_model->setUp().heldBody(), static_cast<int>(clamp));
        QVERIFY(view.moveHandle(0) && view.moveHandle(3));
        // Up by its arrow, in whole millimetres; one step to undo.
        const QString undo = m_model->undoLabel();
        const auto c = view.moveHandle(2);
        drag(2, QPoint(0, -40));
        const Vec3 up = body(clamp).moved;
        QVERIFY2(up.z() > 1.0 && up.x() == 0.0 && up.y() == 0.0 && std::abs(up.z() - std::round(up.z())) < 1e-9, qPrintable(QString::number(up.z())));
        settle();
        QVERIFY((middleOf(clamp) - start - up).norm() < 0.02);
        QVERIFY(c && view.moveHandle(2)->y() < c->y() - 20); // the handle went with it
        if (const QByteArray file = qgetenv("GYRE_PICTURE"); !file.isEmpty()) (void)m_window->grab().save(QString::fromLocal8Bit(file));
        QVERIFY(!m_window->grab().isNull());
        m_model->undo();
        QCOMPARE(m_model->undoLabel(), undo);
        QVERIFY(body(clamp).moved.isZero());
        settle();
        QVERIFY((middleOf(clamp) - start).norm() < 1e-9);
        // It may stand a little off: a word beside its place; taken back with one step.
        const std::uint64_t before = m_model->place()->key;
        type(QString("body.%1.within").arg(clamp), "1.5");
        settle();
        QVERIFY(body(clamp).within == 1.5 && m_model->place()->key != before);
        type(QString("body.%1.within").arg(clamp), "-4");
        settle();
        QCOMPARE(body(clamp).within, 0.0);
        type(QString("body.%1.within").arg(clamp), "900");
        settle();
        QCOMPARE(body(clamp).within, 50.0);
        for (int k = 0; k < 3 && body(clamp).within != 0.0; ++k) m_model->undo();
        while (body(clamp).within != 0.0) m_model->undo();
        settle();
        QCOMPARE(m_model->place()->key, before);
        // Turned by the ring: its middle stays.
        drag(3, QPoint(40, 0));
        QVERIFY(body(clamp).turned.z() != 0.0 && std::abs(std::remainder(body(clamp).turned.z(), 5.0)) < 1e-9);
        settle();
        QVERIFY((middleOf(clamp) - start).head<2>().norm() < 0.5); // of its box, which turns
        m_model->undo();
        settle();
        // By numbers, and turned about X as well.
        set(QString("body.%1.moved.0").arg(clamp), "12.5");
        QVERIFY((middleOf(clamp) - start - Vec3(12.5, 0, 0)).norm() < 0.02);
        set(QString("body.%1.turned.0").arg(clamp), "90");
        QCOMPARE(body(clamp).turned.x(), 90.0);
        QVERIFY((middleOf(clamp) - start - Vec3(12.5, 0, 0)).norm() < 0.05);
        // Nonsense and far away: told, or kept within what a file may hold.
        set(QString("body.%1.moved.0").arg(clamp), "1e300");
        QVERIFY(std::abs(body(clamp).moved.x()) <= 1e4);
        QTest::keyClick(&view, Qt::Key_Escape);
        QCOMPARE(m_model->setUp().heldBody(), -1);
        QVERIFY(!view.moveHandle(0));
    }
    void theFixtureThatIsPushedIntoThePartIsTold() {
        atSetUp("collar-setup.gyre.json");
        const auto* words = m_window->findChild<QLabel*>("travelWords");
        QVERIFY(words && !words->text().contains("one another"));
        const std::size_t clamp = bodyNamed("clamp 2");
        m_model->setUp().holdBody(static_cast<int>(clamp));
        set(QString("body.%1.moved.2").arg(clamp), "-2");
        QVERIFY2(words->text().contains("clamp 2") && words->text().contains("one another"), qPrintable(words->text()));
        m_model->undo();
        settle();
        QVERIFY(!words->text().contains("one another"));
    }
    void thePartMovesOverTheTableAndTheTableStays() {
        atSetUp("collar-setup.gyre.json");
        const std::size_t part = bodyNamed("part") < 999 ? bodyNamed("part") : 0;
        QCOMPARE(body(part).role, std::string("part"));
        click(find<QPushButton>(QString("holdBody.%1").arg(part)));
        QTRY_COMPARE(m_model->setUp().heldBody(), static_cast<int>(part));
        const Vec3 seat = m_model->job().seat;
        View& view = m_window->view();
        const auto onTable = [&] { return view.camera().project(m_model->place()->partFrame.inverse() * Vec3(40, -30, 0)); };
        const QPointF before = *onTable();
        drag(0, QPoint(60, 0));
        const Vec3 by = m_model->job().seat - seat;
        QVERIFY(std::abs(by.x()) >= 1.0 && by.y() == 0.0 && by.z() == 0.0);
        settle();
        const QPointF after = *onTable();
        QVERIFY2(std::hypot(after.x() - before.x(), after.y() - before.y()) < 1.0, qPrintable(QString("%1 %2").arg(after.x() - before.x()).arg(after.y() - before.y())));
        m_model->undo();
        settle();
        QVERIFY((m_model->job().seat - seat).norm() < 1e-9);
    }
    void theMaterialChoosesFeedsAndNewToolsKnowIt() {
        atSetUp("collar-setup.gyre.json");
        auto* w = find<Word>("word.setup.material");
        QVERIFY(w);
        QTest::mouseClick(w, Qt::LeftButton);
        auto* menu = w->findChild<QMenu*>("menu.setup.material");
        QVERIFY(menu && menu->actions().size() >= 3);
        const QString material = QString::fromStdString(materialsOf(m_model->job()).front());
        QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(menu->findChild<QAction*>("choice." + material)).center());
        QCOMPARE(QString::fromStdString(m_model->job().material), material);
        QVERIFY2(message().contains(material), qPrintable(message()));
        for (const Assembly& a : m_model->job().tools) {
            Assembly own = a;
            if (useMaterial(own, material.toStdString())) QCOMPARE(own.spindleSpeed, a.spindleSpeed);
        }
        settle();
        // A tool of each shape, made from nothing.
        m_model->tools().setOpen(true);
        QCoreApplication::processEvents();
        for (int i = 0; i < kCutterShapes; ++i) {
            const std::size_t before = m_model->job().tools.size();
            auto* button = find<QPushButton>("newTool");
            QVERIFY(button);
            auto* shapes = m_window->findChild<QMenu*>("newToolShapes");
            QTimer::singleShot(0, this, [shapes, i] {
                auto* action = shapes->findChild<QAction*>(QString("newTool.%1").arg(i));
                QTest::mouseClick(shapes, Qt::LeftButton, {}, shapes->actionGeometry(action).center());
                shapes->close();
            });
            QTest::mouseClick(button, Qt::LeftButton);
            QTRY_COMPARE(m_model->job().tools.size(), before + 1);
            const Assembly& made = m_model->job().tools.back();
            QVERIFY(made.cutter.shape == static_cast<CutterShape>(i) && validate(made) && m_model->tools().shown() && m_model->tools().shown()->id == made.id);
            Assembly own = made;
            if (useMaterial(own, material.toStdString())) QCOMPARE(own.spindleSpeed, made.spindleSpeed);
        }
        const auto again = jobFromJson(jobToJson(m_model->job()), "again"); // names are there once
        QVERIFY2(again, again ? "" : again.error().text().c_str());
        while (!m_model->undoLabel().isEmpty()) m_model->undo();
        QVERIFY(m_model->job().material.empty());
        settle();
    }
    // The groove stands about the part's own cylinder from the start, and goes around another with a click.
    void aGrooveGoesAroundTheCylinderThatIsThere() {
        atSetUp("dome-setup.gyre.json"); // round about Z
        m_model->setBench(Bench::Cut);
        m_model->milling().addHelicalGroove();
        QCOMPARE(m_model->picks().mode(), PickMode::Feature);
        const auto mend = m_model->milling().followedMend();
        QVERIFY(mend);
        const Part& part = *m_model->place()->part;
        const auto there = [&](const Mend& helix) {
            for (const FaceInfo& f : part.faces())
                if (f.kind == SurfaceKind::Cylinder && std::abs(f.radius - helix.number("radius")) < 1e-9 && std::abs(f.axis[helix.choice("axis")]) > 1 - 1e-9)
                    return true;
            return false;
        };
        QVERIFY(there(m_model->job().mends[*mend]));
        // Another outside cylinder, by its number.
        int other = -1;
        for (int f = 0; f < part.bodyFaces(); ++f) {
            const FaceInfo& info = part.faces()[static_cast<std::size_t>(f)];
            if (info.kind == SurfaceKind::Cylinder && std::abs(info.radius - m_model->job().mends[*mend].number("radius")) > 0.5 &&
                info.axis.cwiseAbs().maxCoeff() > 1 - 1e-9)
                other = f;
        }
        QVERIFY(other >= 0);
        m_model->picks().give({other}, {}, part.faces()[static_cast<std::size_t>(other)].centre);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
        QVERIFY(std::abs(m_model->job().mends[*mend].number("radius") - part.faces()[static_cast<std::size_t>(other)].radius) < 1e-9);
        // A plane is refused in words, and nothing changes.
        int plane = -1;
        for (int f = 0; f < part.bodyFaces(); ++f)
            if (part.faces()[static_cast<std::size_t>(f)].kind == SurfaceKind::Plane) plane = f;
        if (plane >= 0) {
            const double radius = m_model->job().mends[*mend].number("radius");
            m_model->milling().moveGroove(plane);
            QVERIFY2(message().contains("cylinder"), qPrintable(message()));
            QCOMPARE(m_model->job().mends[*mend].number("radius"), radius);
        }
        settle();
        QVERIFY(find<Word>("word.helix.axis") && find<Word>("word.helix.around") && find<Word>("word.helix.radius"));
    }
    // From the flare's rails: the curve that the axis goes by, raised, in at most six actions.
    void aRaisedMiddleForTheAxis() {
        openJobFile("lantern-collar.gyre.json");
        waitForPath();
        m_actions = 0;
        choose("axis.rule", "curve");
        choose("axis.curve", "/middle");
        type("middle.raise", "60");
        QVERIFY2(m_actions <= 6, qPrintable(QString::number(m_actions)));
        waitForPath();
        const auto mend = m_model->along().axisMiddle();
        QVERIFY(mend && m_model->recipe()->axis->curve == m_model->job().mends[*mend].name);
        const auto& made = m_model->place()->mends->at(*mend);
        QVERIFY2(made.trouble.empty() && made.curves.size() == 1, made.trouble.c_str());
        // Higher than both rails by what was asked, on the average.
        const auto height = [&](const std::vector<ShapeRef>& rail, int along) {
            double sum = 0.0;
            int n = 0;
            for (const ShapeRef& r : rail)
                for (const Vec3& p : m_model->place()->part->edgeLine(m_model->place()->part->findEdge(r).value())) sum += p[along], ++n;
            return sum / n;
        };
        const int along = m_model->job().mends[*mend].choice("along");
        double sum = 0.0;
        int n = 0;
        for (const CurveKnot& k : made.curves.front().knots()) sum += k.point[along], ++n;
        const auto& pattern = m_model->recipe()->pattern;
        QVERIFY2(std::abs(sum / n - 0.5 * (height(pattern->rail1, along) + height(pattern->rail2, along)) - 60.0) < 1.0, qPrintable(QString::number(sum / n)));
        QVERIFY(m_model->result() && m_model->result()->complete());
        while (!m_model->undoLabel().isEmpty()) m_model->undo();
        QVERIFY(m_model->job().mends.empty() || !m_model->along().axisMiddle());
    }
    // The chip below the view tells lead and tilt as they were typed, on rows that run back as well.
    void theChipTellsLeadAndTilt() {
        openJobFile("lantern-collar.gyre.json");
        waitForPath();
        type("axis.lead", "6");
        type("axis.tilt", "31");
        waitForPath();
        const Toolpath& p = *m_model->result()->path();
        std::set<int> rows;
        for (std::size_t i = 2; i + 2 < p.size() && rows.size() < 2; ++i) {
            if (p.motion[i] != Motion::Cut || rows.count(p.row[i]) || p.row[i] != p.row[i - 2] || p.row[i] != p.row[i + 2] || p.motion[i - 2] != Motion::Cut) continue;
            rows.insert(p.row[i]);
            m_model->setLocation(i);
            const auto here = m_window->view().hereWords();
            QVERIFY2(here.words.contains(QStringLiteral("lead 6.0° · tilt 31.0°")), qPrintable(here.words.join(" | ")));
        }
        QCOMPARE(rows.size(), std::size_t(2));
    }
    // A mend that is not drawn takes no clicks; what is drawn says whose it is.
    void mendsAreHiddenAndNamed() {
        atSetUp("barrel-setup.gyre.json");
        m_model->setBench(Bench::Cut);
        m_model->route().addRows();
        QCOMPARE(m_model->picks().mode(), PickMode::Faces);
        View& view = m_window->view();
        settle();
        const auto place = m_model->place();
        QVERIFY(place->mends && place->part->body());
        const int first = place->part->bodyFaces();
        QVERIFY(first < static_cast<int>(place->part->faces().size()));
        (void)m_window->grab(); // the view has the size by now that it keeps
        // Where a mend lies before the body, as it is seen now.
        const auto where = [&] {
            for (int y = 70; y < view.height() - 10; y += 5)
                for (int x = 10; x < view.width() - 10; x += 5)
                    if (faceAt(*place->part, view.camera(), QPointF(x, y)).face >= first && faceAt(*place->part->body(), view.camera(), QPointF(x, y)).face >= 0)
                        return std::optional(QPoint(x, y));
            return std::optional<QPoint>();
        };
        auto on = where();
        QVERIFY(on);
        moveMouse(&view, QPoint(3, 3));
        moveMouse(&view, *on);
        QTRY_VERIFY2(view.hoverWords().contains("face of the mend"), qPrintable(view.hoverWords()));
        int named = 0;
        for (const MendResult& m : *place->mends) named += view.hoverWords().contains(QString::fromStdString(m.name));
        QVERIFY(named >= 1);
        for (int i = 0; i < 2; ++i) QTest::keyClick(m_window.get(), Qt::Key_N); // faded, hidden
        QCOMPARE(m_model->shown("mends"), Shown::Hidden);
        QVERIFY2(!view.hoverWords().contains("mend"), qPrintable(view.hoverWords())); // also under a pointer that rests
        QCoreApplication::processEvents();
        on = where();
        QVERIFY(on);
        moveMouse(&view, QPoint(3, 3));
        moveMouse(&view, *on);
        QTRY_VERIFY2(!view.hoverWords().isEmpty() && !view.hoverWords().contains("mend"), qPrintable(view.hoverWords()));
        QTest::mouseClick(&view, Qt::LeftButton, {}, *on);
        QCOMPARE(m_model->recipe()->target->faces.size(), std::size_t(1));
        QVERIFY(place->part->findFace(m_model->recipe()->target->faces.front()).value() < first);
        QTest::keyClick(m_window.get(), Qt::Key_N);
        QCOMPARE(m_model->shown("mends"), Shown::Solid);
        settle();
    }
    // What is shipped is a copy in the window: it may be spoiled, and saving asks where.
    void whatIsShippedStaysAsItIs() {
        m_model->setShop(m_dir->path());
        const QString file = m_dir->filePath("lantern-collar.gyre.json");
        QVERIFY(m_window->openFile(file, false));
        waitForPath();
        QVERIFY(m_model->isCopy());
        const std::string before = jobToJson(openJob(file.toStdString()).value());
        type("axis.tilt", "12");
        waitForPath();
        int asked = 0;
        const auto dialog = [&](const QString& to) {
            QTimer::singleShot(0, this, [&asked, to] {
                auto* d = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
                if (!d) return;
                ++asked;
                QVERIFY(d->testOption(QFileDialog::DontUseNativeDialog));
                if (to.isEmpty()) return d->reject();
                d->selectFile(to);
                d->setDirectory(QFileInfo(to).absolutePath());
                d->findChild<QLineEdit*>("fileNameEdit")->setText(to);
                static_cast<QDialog*>(d)->done(QDialog::Accepted);
            });
        };
        dialog({});
        m_window->findChild<QAction*>("action.save")->trigger();
        QCOMPARE(asked, 1);
        QVERIFY(m_model->edited());
        QCOMPARE(jobToJson(openJob(file.toStdString()).value()), before);
        QVERIFY(!QFile::exists(file + ".autosave"));
        QVERIFY(!m_model->saveAs(m_dir->filePath("mine.gyre.json"))); // not among what is shipped
        // Elsewhere it opens, with all its files.
        QTemporaryDir own;
        QVERIFY(m_model->saveAs(own.filePath("mine.gyre.json")));
        QVERIFY(!m_model->isCopy() && !m_model->edited());
        settle();
        QVERIFY(m_window->openFile(own.filePath("mine.gyre.json"), false));
        waitForPath();
        QCOMPARE(m_model->recipe()->axis->tiltDegrees, 12.0);
    }
};

GYRE_WINDOW_TEST(TestHands)

} // namespace test_hands
#include "test_hands.moc"
