// Along walls, curves and edges, by mouse and keyboard in the real window: every demo operation built from nothing.
#include "Program.h"
#include "WindowTest.h"
#include "along/Along.h"
#include "edgebreak/BreakSpec.h"
#include "operation/Meant.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "swarf/SwarfSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <QStandardPaths>

namespace test_along {

using namespace gyre;

class TestAlong : public test::WindowTest {
    Q_OBJECT
    void add(const QString& kind) { addFrom("addAlong", "alongKinds", "followKind." + kind); }
    const Recipe& op() { return *m_model->recipe(); }
    void expectPath(OperationKind kind, bool withoutStop = true) {
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale(), 60000);
        QCOMPARE(op().kind, kind);
        for (const Finding& f : m_model->result()->findings) QVERIFY2(!withoutStop || f.rank != Rank::Stop, qPrintable(QString::fromStdString(f.text + ": " + f.reason)));
        QVERIFY(m_model->result()->along && m_model->result()->path() && m_model->result()->path()->size() > 10);
        if (withoutStop) QVERIFY(m_model->result()->complete());
    }
    int faceThat(const std::function<bool(const FaceInfo&)>& like) const {
        const Part& part = *m_model->place()->part;
        for (int f = 0; f < part.bodyFaces(); ++f)
            if (like(part.faces()[static_cast<std::size_t>(f)])) return f;
        return -1;
    }
    int collarWall() const {
        return faceThat([](const FaceInfo& f) {
            return f.kind == SurfaceKind::FreeForm && f.bounds.high.z() - f.bounds.low.z() > 40.0 && f.normal.dot(Vec3(f.centre.x(), f.centre.y(), 0)) < 0.0;
        });
    }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
    }
    void cleanup() { closeAll(); }

    void swarfRoundAClosedWallFromOneFace() {
        openJobFile("collar-walls.gyre.json");
        withoutOperations();
        add("swarf");
        QCOMPARE(m_model->picks().mode(), PickMode::Faces);
        clickFace(collarWall());
        QVERIFY2(m_actions <= 3, qPrintable(QString("%1 actions").arg(m_actions)));
        expectPath(OperationKind::Swarf);
        QCOMPARE(op().target->faces.size(), std::size_t(9));
        QVERIFY(m_model->result()->along->passes.front().closed);
        // What the wall is off is on the card, and as a map in the view.
        QVERIFY(find<QLabel>("facts.Pattern")->text().contains("too much"));
        QVERIFY(m_model->result()->along->map.size() > 1000);
        click(find<QPushButton>("peel.Pattern"));
        QVERIFY(!m_window->grab().isNull());
        // Stepped over, then down.
        type("swarf.thickness", "2");
        type("swarf.stepover", "1");
        expectPath(OperationKind::Swarf);
        QVERIFY(m_model->result()->along->passes.size() >= 2);
        // Between rails: the lower one is asked for first; sync lines are words.
        choose("swarf.from", "rails");
        QCOMPARE(m_model->picks().mode(), PickMode::Rail1);
        settle();
        QTRY_VERIFY(!m_model->stale() && !m_model->result()->findings.empty() && m_model->result()->findings[0].text.find("lower rail") != std::string::npos);
        type("swarf.sync", "0.25 0.3; 0.5 0.5");
        QCOMPARE(op().swarf->sync.size(), std::size_t(2));
        type("swarf.sync", "one two");
        QCOMPARE(op().swarf->sync.size(), std::size_t(2));
        QVERIFY2(message().contains("fractions"), qPrintable(message()));
        m_model->undo();
        m_model->undo();
        expectPath(OperationKind::Swarf);
        // Nonsense is refused.
        QVERIFY(!m_model->setWord("swarf.stepover", "0"));
        QVERIFY(!m_model->setWord("swarf.tolerance", "-1"));
        // A floor is no wall of straight lines to both sides, but one face of it is a path or says why not; undo brings the wall back.
        const std::size_t before = op().target->faces.size();
        m_model->picks().toggleFaces({collarWall()});
        settle();
        QTRY_VERIFY(!m_model->stale());
        m_model->undo();
        QCOMPARE(op().target->faces.size(), before);
        expectPath(OperationKind::Swarf);
    }

    // The outer wall below its lip: a whole chain of edges below, lines of a mend above, a wide cutter in and out sideways.
    void theUndercutFromNothing() {
        openJobFile("collar-walls.gyre.json");
        const Recipe demo = m_model->job().route.back();
        const auto place = m_model->place(); // the part stays the same while the route changes
        const Part& part = *place->part;
        withoutOperations();
        add("swarf");
        choose("swarf.from", "rails");
        const auto rail = [&](bool upper) -> const std::vector<ShapeRef>& { return upper ? op().pattern->rail2 : op().pattern->rail1; };
        for (const bool upper : {false, true}) {
            if (upper) click(find<Word>("word.pattern.rail2"));
            for (const ShapeRef& ref : upper ? demo.pattern->rail2 : demo.pattern->rail1) { // what a click did not take with it is added
                const int edge = *part.findEdge(ref);
                const auto now = resolveEdges(part, rail(upper)).value();
                if (std::find(now.begin(), now.end(), edge) == now.end()) clickEdge(edge, Qt::ShiftModifier);
            }
            QCOMPARE(rail(upper).size(), (upper ? demo.pattern->rail2 : demo.pattern->rail1).size());
        }
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("tool", "disc-16");
        type("swarf.past", "-5.5");
        type("guard.shank", "0.5");
        type("guard.gouge", "0.03");
        type("links.entryRadius", "10");
        type("swarf.thickness", "3");
        type("swarf.stepover", "1");
        expectPath(OperationKind::Swarf);
        QVERIFY(m_model->result()->along->passes.size() >= 3);
        QVERIFY(m_model->result()->along->over < 0.03);
    }
    // A vane's side in rows that lean from the first to the last, with keys where it begins and ends.
    void rowsOverAVaneWithKeys() {
        openJobFile("runner-vanes.gyre.json");
        const auto& route = m_model->job().route;
        const Recipe demo = *std::find_if(route.begin(), route.end(), [&](const Recipe& r) { return r.kind == OperationKind::Surface && !r.pattern->across; });
        const auto place = m_model->place();
        withoutOperations();
        click(find<QPushButton>("addOperation"));
        clickFace(*place->part->findFace(demo.target->faces.at(0)));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        QCOMPARE(op().pattern->rail1.size() + op().pattern->rail2.size(), std::size_t(2)); // foot and tip are found
        choose("tool", "taper-4");
        type("pattern.spacing", "1");
        choose("guard.response", "drop");
        type("axis.tilt", "75");
        choose("axis.last.rule", "surface");
        type("axis.last.tilt", "65");
        choose("axis.key.new", "0.0");
        type("axis.keys.0.lead", "-5");
        choose("axis.key.new", "1.0");
        type("axis.keys.1.lead", "5");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->result()->path(), 60000);
        for (const Finding& f : m_model->result()->findings) QVERIFY2(f.rank != Rank::Stop, qPrintable(QString::fromStdString(f.text + ": " + f.reason)));
        QVERIFY(m_model->result()->complete());
        QVERIFY(m_model->result()->pattern->rows.size() > 10);
    }
    void nearAndFarEdgesOfAllHoles() {
        openJobFile("dome-edges.gyre.json");
        withoutOperations();
        add("holesBoth");
        QVERIFY2(m_actions <= 4, qPrintable(QString("%1 actions").arg(m_actions)));
        expectPath(OperationKind::Edge);
        QCOMPARE(m_model->result()->along->passes.size(), std::size_t(96));
        choose("edge.edges", "holesNear");
        expectPath(OperationKind::Edge);
        QCOMPARE(m_model->result()->along->passes.size(), std::size_t(48));
        type("edge.size", "0.1");
        expectPath(OperationKind::Edge);
    }

    void channelWithTheAxisThroughACurve() {
        openJobFile("horn-guide.gyre.json");
        withoutOperations();
        add("curve");
        choose("curve.by", "channel");
        clickFace(faceThat([](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 2500 && f.normal.z() > 0.9; }));
        expectPath(OperationKind::Curve, false);
        choose("axis.rule", "curve");
        choose("axis.curve", "above the channel");
        expectPath(OperationKind::Curve);
        QVERIFY(m_model->result()->axis);
        type("curve.depth", "4");
        expectPath(OperationKind::Curve);
        QVERIFY(m_model->result()->along->passes.size() >= 2);
        // Saved and opened again it is the same.
        QVERIFY(m_model->save().has_value());
        const std::size_t size = m_model->result()->path()->size();
        openJobFile("horn-guide.gyre.json");
        m_model->select(QString::fromStdString(m_model->job().route.back().id));
        expectPath(OperationKind::Curve);
        QCOMPARE(m_model->result()->path()->size(), size);
    }

    // A cheek beside the channel: rows whose axis goes through the curve above it.
    void rowsOnACheek() {
        openJobFile("horn-guide.gyre.json");
        withoutOperations();
        click(find<QPushButton>("addOperation"));
        clickFace(faceThat(
            [](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 3500 && std::abs(f.normal.z()) < 0.2 && f.normal.y() < 0 && f.centre.y() > 10; }));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("tool", "ball-6-long");
        choose("axis.rule", "curve");
        choose("axis.curve", "above the channel");
        choose("guard.response", "drop");
        type("pattern.spacing", "1.2");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->result()->path(), 60000);
        QVERIFY(m_model->result()->pattern && m_model->result()->pattern->rows.size() > 10);
        for (const Finding& f : m_model->result()->findings) QVERIFY2(f.rank != Rank::Stop || f.stage == "Links", f.text.c_str());
        // Every axis goes through the curve.
        const auto curve = curvesNamed(*m_model->place(), "above the channel").value().curves.at(0).polyline(0.01);
        const Toolpath& path = *m_model->result()->path();
        for (std::size_t i = 0; i < path.size(); i += 97) {
            if (path.motion[i] != Motion::Cut) continue;
            double least = 1e9;
            for (std::size_t k = 1; k < curve.size(); ++k)
                for (double t = 0.0; t < 1.0; t += 0.02)
                    least = std::min(least, rejected(curve[k - 1] + t * (curve[k] - curve[k - 1]) - path.tip[i], path.axis[i]).norm());
            QVERIFY2(least < 0.05, qPrintable(QString::number(least)));
        }
    }
    // The side of a vane between two rails that are picked edge by edge, seven times around; then rows over the hub between two vanes.
    void vaneSidesAndRowsBetweenVanes() {
        openJobFile("runner-vanes.gyre.json");
        const auto& route = m_model->job().route;
        const auto demo = [&](OperationKind kind, bool across) {
            return *std::find_if(route.begin(), route.end(), [&](const Recipe& r) { return r.kind == kind && r.pattern->across == across; });
        };
        const Recipe vane = demo(OperationKind::Swarf, false), hub = demo(OperationKind::Surface, true);
        const auto place = m_model->place(); // the part stays the same while the route changes
        const Part& part = *place->part;
        const auto edge = [&](const std::vector<ShapeRef>& refs) { return *part.findEdge(refs.at(0)); };
        withoutOperations();
        add("swarf");
        choose("swarf.from", "rails");
        clickEdge(edge(vane.pattern->rail1));
        click(find<Word>("word.pattern.rail2"));
        clickEdge(edge(vane.pattern->rail2));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("tool", "taper-4");
        type("repeat.count", "7");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->result()->along, 240000);
        QCOMPARE(m_model->result()->along->passes.size(), std::size_t(1));
        QCOMPARE(m_model->result()->passes->size(), std::size_t(7));
        QVERIFY2(m_model->result()->along->over < 0.05, qPrintable(QString::number(m_model->result()->along->over)));
        // The hub is one face around all vanes: its rows end where the rails do.
        click(find<QPushButton>("addOperation"));
        clickFace(*part.findFace(hub.target->faces.at(0)));
        click(find<Word>("word.pattern.rail1"));
        clickEdge(edge(hub.pattern->rail1));
        click(find<Word>("word.pattern.rail2"));
        clickEdge(edge(hub.pattern->rail2));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        choose("pattern.across", "true");
        choose("tool", QString::fromStdString(hub.tool));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->result()->pattern, 240000);
        for (const Row& row : m_model->result()->pattern->rows) QVERIFY2(length(row.points) < 90, qPrintable(QString::number(length(row.points))));
        QVERIFY(m_model->result()->pattern->rows.size() > 5);
        QVERIFY2(m_actions <= 24, qPrintable(QString::number(m_actions)));
    }

    void edgesPickedAndAround() {
        openJobFile("yoke-edges.gyre.json");
        withoutOperations();
        add("around");
        clickFace(faceThat([](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.99 && f.centre.z() > 61.9; }));
        expectPath(OperationKind::Edge);
        const std::size_t around = m_model->result()->along->passes.size();
        QVERIFY(around >= 1);
        // Turned about the edge by hand, in inches, cancelled in the middle.
        choose("edge.axis", "turn");
        type("edge.turn", "40");
        m_model->cancel();
        type("edge.size", "0.01in");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale(), 60000);
        QVERIFY(std::abs(op().edge->size - 0.254) < 1e-9);
        // A cutter that has no side for it says so.
        choose("tool", "flat-10");
        settle();
        QTRY_VERIFY(!m_model->stale() && !m_model->result()->findings.empty() && m_model->result()->findings[0].text.find("flat") != std::string::npos);
    }

    // Lines drawn by two clicks each: rails held together, and the axis along lines.
    void linesAreDrawnInTheView() {
        openJobFile("runner-vanes.gyre.json");
        m_model->select(QString::fromStdString(m_model->job().route.front().id));
        settle();
        QVERIFY(op().kind == OperationKind::Swarf && op().swarf->fromRails);
        const auto place = m_model->place();
        const Part& part = *place->part;
        const int foot = *part.findEdge(op().pattern->rail1[0]), tip = *part.findEdge(op().pattern->rail2[0]);
        const auto& of = part.edges()[static_cast<std::size_t>(foot)].faces;
        int side = -1; // the face between them
        for (const int f : part.edges()[static_cast<std::size_t>(tip)].faces)
            if (f == of[0] || f == of[1]) side = f;
        QVERIFY(side >= 0);
        click(find<Word>("word.swarf.draw"));
        clickFace(side, part.edges()[static_cast<std::size_t>(foot)].middle);
        QCOMPARE(m_model->picks().points().size(), std::size_t(1));
        clickFace(side, part.edges()[static_cast<std::size_t>(tip)].middle);
        QCOMPARE(op().swarf->sync.size(), std::size_t(1));
        const auto line = op().swarf->sync[0];
        QVERIFY2(line[0] > 0.2 && line[0] < 0.8 && line[1] > 0.2 && line[1] < 0.8, qPrintable(QString("%1 %2").arg(line[0]).arg(line[1])));
        const auto drawn = m_model->along().syncLines();
        QVERIFY(drawn.size() == 1 && drawn[0].size() == 2);
        // One that crosses it is refused, with the reason.
        clickFace(side, part.edges()[static_cast<std::size_t>(foot)].start);
        const auto first = m_model->picks().points().at(0);
        m_model->picks().give({}, {},
                              (first - part.edges()[static_cast<std::size_t>(foot)].start).norm() < (first - part.edges()[static_cast<std::size_t>(foot)].end).norm()
                                  ? drawn[0][1] + 2.0 * (drawn[0][1] - part.edges()[static_cast<std::size_t>(tip)].start).normalized()
                                  : drawn[0][1]);
        QVERIFY(op().swarf->sync.size() == 1 || op().swarf->sync[1][1] > op().swarf->sync[0][1]);
        m_model->picks().setMode(PickMode::None);
        while (!op().swarf->sync.empty()) m_model->undo();
        // The axis along lines.
        const auto& route = m_model->job().route;
        const auto rows = std::find_if(route.begin(), route.end(), [](const Recipe& r) { return r.kind == OperationKind::Surface; });
        m_model->select(QString::fromStdString(rows->id));
        choose("axis.last.rule", "same");
        choose("axis.rule", "lines");
        click(find<Word>("word.axis.draw"));
        QVERIFY(!m_model->job().mends.empty() && m_model->job().mends.back().kind == MendKind::Drawn);
        QCOMPARE(op().axis->curve, m_model->job().mends.back().name);
        const auto& edges = part.edges();
        for (const int e : {foot, tip}) clickFace(side, edges[static_cast<std::size_t>(e)].start);
        for (const int e : {foot, tip}) clickFace(side, edges[static_cast<std::size_t>(e)].end);
        QCOMPARE(m_model->job().mends.back().points.size(), std::size_t(4));
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->place()->mends, 60000);
        QCOMPARE(m_model->place()->mends->back().curves.size(), std::size_t(2));
        QVERIFY2(m_model->result()->axis, m_model->result()->findings.empty() ? "" : m_model->result()->findings[0].text.c_str());
    }
    // What stands after the cuts, by one key; it follows the place, and the view comes back as it was.
    void theCloserLook() {
        openJobFile("yoke-edges.gyre.json");
        m_model->select(QString::fromStdString(m_model->job().route.front().id));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && m_model->result()->path() && !m_model->stale(), 60000);
        const Toolpath& path = *m_model->result()->path();
        std::size_t at = 0;
        while (at < path.size() && path.motion[at] != Motion::Cut) ++at;
        m_model->setLocation(at + 3);
        View& view = m_window->view();
        (void)view.grab(); // framed, if that is still due
        const Vec3 eye = view.camera().eye();
        QTest::keyClick(m_window.get(), Qt::Key_L);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->closer().picture(), 30000);
        QVERIFY(m_model->closer().from() == LookFrom::Part);
        QVERIFY2(m_model->closer().picture()->broken > 0.05, qPrintable(QString::number(m_model->closer().picture()->broken)));
        QVERIFY2(m_model->closer().picture()->least > -m_model->closer().picture()->cell, qPrintable(QString::number(m_model->closer().picture()->least)));
        (void)view.grab();
        QVERIFY((view.camera().eye() - eye).norm() > 1.0);
        const Vec3 centre = m_model->closer().picture()->box.centre();
        m_model->setLocation(at + 12);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->closer().settled() && (m_model->closer().picture()->box.centre() - centre).norm() > 0.1, 30000);
        QTest::keyClick(m_window.get(), Qt::Key_L); // with the stock: the block still stands there
        QTRY_VERIFY_WITH_TIMEOUT(m_model->closer().picture() || !m_model->closer().trouble().isEmpty(), 30000);
        QVERIFY(m_model->closer().from() == LookFrom::Stock);
        click(find<QPushButton>("closerButton"));
        QVERIFY(!m_model->closer().from() && !m_model->closer().picture());
        (void)view.grab();
        QVERIFY((view.camera().eye() - eye).norm() < 1e-9);
        // Turned off, or another job opened, while it is being made: nothing hangs.
        QTest::keyClick(m_window.get(), Qt::Key_L);
        m_model->closer().look(std::nullopt);
        QTest::keyClick(m_window.get(), Qt::Key_L);
        openJobFile("collar-walls.gyre.json");
        QVERIFY(!m_model->closer().from() && m_model->closer().settled());
    }
    // Keys in the view: made by a double click on the path, dragged along their row, turned at the tool, taken away.
    void axisKeysInTheView() {
        View& view = m_window->view();
        m_model->setPeel(Stage::Links);
        (void)view.grab();
        const Toolpath& path = *m_model->result()->path();
        std::optional<QPoint> at; // a place of the path that can be seen
        for (std::size_t i = path.size() / 3; i < path.size() && !at; ++i) {
            if (path.motion[i] != Motion::Cut) continue;
            const auto p = view.camera().project(path.contact[i]);
            if (!p || !view.rect().adjusted(60, 80, -60, -60).contains(p->toPoint())) continue;
            const auto hit = locationAt(*m_model->place()->part, path, view.camera(), p->toPoint());
            const auto on = hit ? m_model->along().onRow(*hit) : std::nullopt;
            if (on && on->fraction > 0.3 && on->fraction < 0.7) at = p->toPoint();
        }
        QVERIFY(at);
        QVERIFY(view.keyMarks().empty());
        QTest::mouseDClick(&view, Qt::LeftButton, {}, *at);
        QCOMPARE(op().axis->keys.size(), std::size_t(1));
        settle();
        QTRY_VERIFY(!m_model->stale());
        (void)view.grab();
        QCOMPARE(view.keyMarks().size(), std::size_t(2)); // on the first and on the last row
        // A click goes there; what is turned at the tool then is the key, not the rule.
        const auto mark = view.keyMarks()[1];
        m_model->setLocation(0);
        QTest::mouseClick(&view, Qt::LeftButton, {}, mark.at.toPoint());
        QVERIFY(m_model->location() > 0);
        QCOMPARE(m_model->along().keyHere().value_or(99), std::size_t(0));
        const double lead = op().axis->leadDegrees;
        const auto knob = view.leadHandle();
        QVERIFY(knob);
        const auto drag = [&](const QPointF& from, const QPointF& to) {
            QTest::mousePress(&view, Qt::LeftButton, {}, from.toPoint());
            for (int i = 1; i <= 4; ++i) {
                const QPointF p = from + (to - from) * i / 4.0;
                QMouseEvent move(QEvent::MouseMove, p, view.mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
                QApplication::sendEvent(&view, &move);
            }
            QTest::mouseRelease(&view, Qt::LeftButton, {}, to.toPoint());
        };
        drag(*knob, *knob + QPointF(24, 10));
        QVERIFY2(std::abs(op().axis->keys[0].leadDegrees) > 0.2, qPrintable(QString::number(op().axis->keys[0].leadDegrees)));
        QCOMPARE(op().axis->leadDegrees, lead);
        settle();
        QTRY_VERIFY(!m_model->stale());
        // Along its row: this end moves, the other stays.
        const AxisKey before = op().axis->keys[0];
        const auto now = view.keyMarks();
        const auto end = std::find_if(now.begin(), now.end(), [&](const View::KeyMark& k) { return view.rect().adjusted(90, 90, -90, -90).contains(k.at.toPoint()); });
        QVERIFY(end != now.end());
        const bool last = end->last;
        drag(end->at, end->at + QPointF(40, 0));
        const AxisKey after = op().axis->keys[0];
        QVERIFY(last ? std::abs(after.atLast - before.atLast) > 0.005 && after.at == before.at : std::abs(after.at - before.at) > 0.005 && after.atLast == before.atLast);
        m_model->undo(); // the whole drag is one step
        QCOMPARE(op().axis->keys[0].at, before.at);
        QCOMPARE(op().axis->keys[0].atLast, before.atLast);
        settle();
        QTRY_VERIFY(!m_model->stale());
        QTest::mouseClick(&view, Qt::RightButton, {}, view.keyMarks()[0].at.toPoint());
        QVERIFY(op().axis->keys.empty());
    }
    // The lines that the axis goes by stand in the view as arrows; a click on a head turns its line over, and undo turns it back.
    void linesForTheAxisAreTurnedInTheView() {
        openJobFile("runner-vanes.gyre.json");
        const auto& route = m_model->job().route;
        const auto lines = std::find_if(route.begin(), route.end(), [](const Recipe& r) { return r.axis->rule == AxisRule::Lines; });
        QVERIFY(lines != route.end());
        m_model->select(QString::fromStdString(lines->id));
        m_model->setPeel(Stage::Axis);
        settle();
        QTRY_VERIFY(!m_model->stale());
        View& view = m_window->view();
        (void)view.grab();
        const auto heads = view.axisLineHeads();
        QCOMPARE(heads.size(), std::size_t(2));
        std::size_t seen = heads.size();
        for (std::size_t k = 0; k < heads.size(); ++k)
            if (heads[k] && view.rect().contains(heads[k]->toPoint())) seen = k;
        QVERIFY(seen < heads.size());
        QVERIFY(op().axis->turned.empty());
        const Vec3 foot = m_model->along().axisLines()[seen].foot;
        QTest::mouseClick(&view, Qt::LeftButton, {}, heads[seen]->toPoint());
        QCOMPARE(op().axis->turned, std::vector<int>{static_cast<int>(seen)});
        settle();
        QTRY_VERIFY(!m_model->stale());
        QVERIFY((m_model->along().axisLines()[seen].head - foot).norm() < 1e-9);
        m_model->undo();
        QVERIFY(op().axis->turned.empty());
        settle();
        QTRY_VERIFY(!m_model->stale());
    }
    void axisKeysByWords() {
        openJobFile("runner-vanes.gyre.json");
        const auto& route = m_model->job().route;
        const auto rows = std::find_if(route.begin(), route.end(), [](const Recipe& r) { return r.kind == OperationKind::Surface; });
        QVERIFY(rows != route.end());
        m_model->select(QString::fromStdString(rows->id));
        settle();
        std::size_t keys = op().axis->keys.size();
        choose("axis.key.new", "0.25");
        QCOMPARE(op().axis->keys.size(), keys + 1);
        type("axis.keys.1.tilt", "4");
        QVERIFY(std::abs(op().axis->keys[1].tiltDegrees - 4) < 1e-9);
        choose("axis.keys.1.off", "off");
        QCOMPARE(op().axis->keys.size(), keys);
        choose("axis.keys.1.off", "off"); // room on the tape between those at both ends
        --keys;
        // On the tape: a double click makes one, dragging it up leans the axis more, a right click takes it away; each is one step to undo.
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && m_model->result()->path() && !m_model->stale(), 60000);
        auto* tape = m_window->findChild<TapeChart*>("tape");
        QVERIFY(tape);
        const Toolpath& path = *m_model->result()->path();
        std::vector<std::size_t> row; // one of the last rows, away from the keys that it has
        for (std::size_t i = 0; i < path.size(); ++i)
            if (path.motion[i] == Motion::Cut && path.row[i] == 14) row.push_back(i);
        // Well inside a stretch of it: beside its ends a pixel is as well a way in or out.
        std::vector<std::size_t> inside;
        for (const std::size_t i : row)
            if (i >= 4 && i + 4 < path.size() &&
                std::all_of(path.motion.begin() + static_cast<std::ptrdiff_t>(i) - 4, path.motion.begin() + static_cast<std::ptrdiff_t>(i) + 5,
                            [](Motion m) { return m == Motion::Cut; }))
                inside.push_back(i);
        row = std::move(inside);
        QVERIFY(row.size() > 10);
        m_model->setLocation(row[row.size() / 4]);
        // The tape draws itself a moment after the view.
        const auto marks = [&] {
            (void)m_window->grab();
            return tape->keyMarks();
        };
        QTRY_VERIFY(!marks().empty());
        // As far from the keys that are there as this row has it.
        const auto there = marks();
        std::size_t middle = row[0];
        double furthest = 0.0;
        for (const std::size_t i : row) {
            double nearest = 1e9;
            for (const TapeChart::KeyMark& k : there) nearest = std::min(nearest, std::abs(k.at.x() - tape->xOf(i)));
            if (nearest > furthest) {
                furthest = nearest;
                middle = i;
            }
        }
        QVERIFY2(furthest > 10, qPrintable(QString::number(furthest)));
        const Vec3 clicked = path.tip[middle];
        QTest::mouseDClick(tape, Qt::LeftButton, {}, QPoint(static_cast<int>(tape->xOf(middle)), 16));
        QCOMPARE(op().axis->keys.size(), keys + 1);
        settle();
        QTRY_VERIFY(!m_model->stale());
        // The way in may have more locations than before: back to where the click was.
        const Toolpath& anew = *m_model->result()->path();
        std::size_t back = 0;
        for (std::size_t i = 0; i < anew.size(); ++i)
            if (anew.motion[i] == Motion::Cut && anew.row[i] == 14 && (anew.tip[i] - clicked).norm() < (anew.tip[back] - clicked).norm()) back = i;
        m_model->setLocation(back);
        QTRY_VERIFY(marks().size() >= 2 * (keys + 1));
        const auto now = marks();
        const auto mark = *std::find_if(now.begin(), now.end(), [](const TapeChart::KeyMark& k) { return k.channel == 1; });
        const double before = op().axis->keys[mark.key].tiltDegrees;
        QTest::mousePress(tape, Qt::LeftButton, {}, mark.at.toPoint());
        moveMouse(tape, mark.at.toPoint() - QPoint(0, 10));
        QMouseEvent move(QEvent::MouseMove, mark.at - QPointF(0, 14), tape->mapToGlobal(mark.at - QPointF(0, 14)), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(tape, &move);
        QTest::mouseRelease(tape, Qt::LeftButton, {}, mark.at.toPoint() - QPoint(0, 14));
        QVERIFY(op().axis->keys[mark.key].tiltDegrees > before + 0.5);
        m_model->undo();
        QVERIFY(std::abs(op().axis->keys[mark.key].tiltDegrees - before) < 1e-9);
        settle();
        QTRY_VERIFY(!m_model->stale());
        QTRY_VERIFY(marks().size() >= 2 * (keys + 1));
        QTest::mouseClick(tape, Qt::RightButton, {}, marks().front().at.toPoint());
        QCOMPARE(op().axis->keys.size(), keys);
        choose("axis.last.rule", "same");
        QVERIFY(!op().axis->blended);
        choose("axis.locked", QString::fromStdString(m_model->place()->machine->joints.back().name));
        settle();
        m_model->undo();
        choose("axis.rule", "point");
        type("axis.point.2", "200");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->result()->axis, 60000);
    }
};

GYRE_WINDOW_TEST(TestAlong)

} // namespace test_along
#include "test_along.moc"
