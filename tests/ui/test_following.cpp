// Along walls, curves and edges, by mouse and keyboard in the real window: every demo operation built from nothing.
#include "WindowTest.h"
#include <QStandardPaths>

using namespace gyre;

class TestFollowing : public test::WindowTest {
    Q_OBJECT
    void add(const QString& kind) { addFrom("addFollow", "followKinds", "followKind." + kind); }
    const Recipe& op() { return *m_model->recipe(); }
    void expectPath(OperationKind kind, bool withoutStop = true) {
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale(), 60000);
        QCOMPARE(op().kind, kind);
        for (const Finding& f : m_model->result()->findings) QVERIFY2(!withoutStop || f.rank != Rank::Stop, qPrintable(QString::fromStdString(f.text + ": " + f.reason)));
        QVERIFY(m_model->result()->follow && m_model->result()->path() && m_model->result()->path()->size() > 10);
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
        m_model->change("nothing yet", [](Job& j) { j.route.clear(); });
        settle();
        m_actions = 0;
        add("swarf");
        QCOMPARE(m_model->pickMode(), PickMode::Faces);
        clickFace(collarWall());
        QVERIFY2(m_actions <= 3, qPrintable(QString("%1 actions").arg(m_actions)));
        expectPath(OperationKind::Swarf);
        QCOMPARE(op().target.faces.size(), std::size_t(9));
        QVERIFY(m_model->result()->follow->passes.front().closed);
        // What the wall is off is on the card, and as a map in the view.
        QVERIFY(find<QLabel>("facts.Pattern")->text().contains("too much"));
        QVERIFY(m_model->result()->follow->map.size() > 1000);
        click(find<QPushButton>("peel.Pattern"));
        QVERIFY(!m_window->grab().isNull());
        // Stepped over, then down.
        type("swarf.thickness", "2");
        type("swarf.stepover", "1");
        expectPath(OperationKind::Swarf);
        QVERIFY(m_model->result()->follow->passes.size() >= 2);
        // Between rails: the lower one is asked for first; sync lines are words.
        choose("swarf.from", "rails");
        QCOMPARE(m_model->pickMode(), PickMode::Rail1);
        settle();
        QTRY_VERIFY(!m_model->stale() && !m_model->result()->findings.empty() && m_model->result()->findings[0].text.find("lower rail") != std::string::npos);
        type("swarf.sync", "0.25 0.3; 0.5 0.5");
        QCOMPARE(op().swarf.sync.size(), std::size_t(2));
        type("swarf.sync", "one two");
        QCOMPARE(op().swarf.sync.size(), std::size_t(2));
        QVERIFY2(message().contains("fractions"), qPrintable(message()));
        m_model->undo();
        m_model->undo();
        expectPath(OperationKind::Swarf);
        // Nonsense is refused.
        QVERIFY(!m_model->setWord("swarf.stepover", "0"));
        QVERIFY(!m_model->setWord("swarf.tolerance", "-1"));
        // A floor is no wall of straight lines to both sides, but one face of it is a path or says why not; undo brings the wall back.
        const std::size_t before = op().target.faces.size();
        m_model->toggleFaces({collarWall()});
        settle();
        QTRY_VERIFY(!m_model->stale());
        m_model->undo();
        QCOMPARE(op().target.faces.size(), before);
        expectPath(OperationKind::Swarf);
    }

    void nearAndFarEdgesOfAllHoles() {
        openJobFile("dome-edges.gyre.json");
        m_model->change("nothing yet", [](Job& j) { j.route.clear(); });
        settle();
        m_actions = 0;
        add("holesBoth");
        QVERIFY2(m_actions <= 4, qPrintable(QString("%1 actions").arg(m_actions)));
        expectPath(OperationKind::Edge);
        QCOMPARE(m_model->result()->follow->passes.size(), std::size_t(96));
        choose("edge.edges", "holesNear");
        expectPath(OperationKind::Edge);
        QCOMPARE(m_model->result()->follow->passes.size(), std::size_t(48));
        type("edge.size", "0.1");
        expectPath(OperationKind::Edge);
    }

    void channelWithTheAxisThroughACurve() {
        openJobFile("horn-guide.gyre.json");
        m_model->change("nothing yet", [](Job& j) { j.route.clear(); });
        settle();
        m_actions = 0;
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
        QVERIFY(m_model->result()->follow->passes.size() >= 2);
        // Saved and opened again it is the same.
        QVERIFY(m_model->save().has_value());
        const std::size_t size = m_model->result()->path()->size();
        openJobFile("horn-guide.gyre.json");
        m_model->select(QString::fromStdString(m_model->job().route.back().id));
        expectPath(OperationKind::Curve);
        QCOMPARE(m_model->result()->path()->size(), size);
    }

    void edgesPickedAndAround() {
        openJobFile("yoke-edges.gyre.json");
        m_model->change("nothing yet", [](Job& j) { j.route.clear(); });
        settle();
        add("around");
        clickFace(faceThat([](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.99 && f.centre.z() > 61.9; }));
        expectPath(OperationKind::Edge);
        const std::size_t around = m_model->result()->follow->passes.size();
        QVERIFY(around >= 1);
        // Turned about the edge by hand, in inches, cancelled in the middle.
        choose("edge.axis", "turn");
        type("edge.turn", "40");
        m_model->cancel();
        type("edge.size", "0.01in");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale(), 60000);
        QVERIFY(std::abs(op().edge.size - 0.254) < 1e-9);
        // A cutter that has no side for it says so.
        choose("tool", "flat-10");
        settle();
        QTRY_VERIFY(!m_model->stale() && !m_model->result()->findings.empty() && m_model->result()->findings[0].text.find("flat") != std::string::npos);
    }

    void axisKeysByWords() {
        openJobFile("runner-vanes.gyre.json");
        const auto& route = m_model->job().route;
        const auto rows = std::find_if(route.begin(), route.end(), [](const Recipe& r) { return r.kind == OperationKind::Surface; });
        QVERIFY(rows != route.end());
        m_model->select(QString::fromStdString(rows->id));
        settle();
        const std::size_t keys = op().axis.keys.size();
        choose("axis.key.new", "0.25");
        QCOMPARE(op().axis.keys.size(), keys + 1);
        type("axis.keys.1.tilt", "4");
        QVERIFY(std::abs(op().axis.keys[1].tiltDegrees - 4) < 1e-9);
        choose("axis.keys.1.off", "off");
        QCOMPARE(op().axis.keys.size(), keys);
        // On the tape: a double click makes one, dragging it up leans the axis more, a right click takes it away; each is one step to undo.
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && m_model->result()->path() && !m_model->stale(), 60000);
        auto* tape = m_window->findChild<TapeChart*>("tape");
        QVERIFY(tape);
        const Toolpath& path = *m_model->result()->path();
        std::vector<std::size_t> row; // one of the last rows, away from the keys that it has
        for (std::size_t i = 0; i < path.size(); ++i)
            if (path.motion[i] == Motion::Cut && path.row[i] == 14) row.push_back(i);
        QVERIFY(row.size() > 20);
        const std::size_t middle = row[row.size() / 4];
        m_model->setLocation(middle);
        // The tape draws itself a moment after the view.
        const auto marks = [&] {
            (void)m_window->grab();
            return tape->keyMarks();
        };
        QTRY_VERIFY(!marks().empty());
        QTest::mouseDClick(tape, Qt::LeftButton, {}, QPoint(static_cast<int>(tape->xOf(middle)), 16));
        QCOMPARE(op().axis.keys.size(), keys + 1);
        settle();
        QTRY_VERIFY(!m_model->stale());
        QTRY_VERIFY(marks().size() >= 2 * (keys + 1));
        const auto now = marks();
        const auto mark = *std::find_if(now.begin(), now.end(), [](const TapeChart::KeyMark& k) { return k.channel == 1; });
        const double before = op().axis.keys[mark.key].tiltDegrees;
        QTest::mousePress(tape, Qt::LeftButton, {}, mark.at.toPoint());
        QTest::mouseMove(tape, mark.at.toPoint() - QPoint(0, 10));
        QMouseEvent move(QEvent::MouseMove, mark.at - QPointF(0, 14), tape->mapToGlobal(mark.at - QPointF(0, 14)), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(tape, &move);
        QTest::mouseRelease(tape, Qt::LeftButton, {}, mark.at.toPoint() - QPoint(0, 14));
        QVERIFY(op().axis.keys[mark.key].tiltDegrees > before + 0.5);
        m_model->undo();
        QVERIFY(std::abs(op().axis.keys[mark.key].tiltDegrees - before) < 1e-9);
        settle();
        QTRY_VERIFY(!m_model->stale());
        QTRY_VERIFY(marks().size() >= 2 * (keys + 1));
        QTest::mouseClick(tape, Qt::RightButton, {}, marks().front().at.toPoint());
        QCOMPARE(op().axis.keys.size(), keys);
        choose("axis.last.rule", "same");
        QVERIFY(!op().axis.blended);
        choose("axis.locked", QString::fromStdString(m_model->place()->machine->joints.back().name));
        settle();
        m_model->undo();
        choose("axis.rule", "point");
        type("axis.point.2", "200");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result() && !m_model->stale() && m_model->result()->axis, 60000);
    }
};

QTEST_MAIN(TestFollowing)
#include "test_following.moc"
