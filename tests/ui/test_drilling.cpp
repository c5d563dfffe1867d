// Work in holes, by mouse and keyboard in the real window.
#include "WindowTest.h"
#include "holes/Drill.h"
#include "holes/DrillSpec.h"
#include "operation/OperationResult.h"
#include <QStandardPaths>

namespace test_drilling {

using namespace gyre;

class TestDrilling : public test::WindowTest {
    Q_OBJECT
    const Recipe& op(std::size_t i) { return m_model->job().route[i]; }
    QString idOf(std::size_t i) { return QString::fromStdString(op(i).id); }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
        QVERIFY(m_window->openFile(m_dir->filePath("dome-setup.gyre.json"), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->holes.size() == 48);
        m_model->setBench(Bench::Cut);
        m_actions = 0;
    }
    void cleanup() { closeAll(); }

    void allHolesOfTheDomeInOneAction() {
        click(find<QPushButton>("addHoleWork"));
        settle();
        QVERIFY2(m_actions <= 5, "spot and drill all holes of the dome: five actions at most");
        QCOMPARE(m_model->job().route.size(), std::size_t(12));
        for (std::size_t i = 0; i < 12; ++i) {
            if (op(i).kind != OperationKind::HoleStep) continue;
            QTRY_VERIFY_WITH_TIMEOUT(m_model->result(idOf(i)) && m_model->result(idOf(i))->complete(), 60000);
        }
        QCOMPARE(m_model->route().numberOf(op(0)), QString("1"));
        QCOMPARE(m_model->route().numberOf(op(2)), QString("1b"));
        QVERIFY(!m_model->stale());
        QVERIFY(!m_window->grab().isNull());
        // Sentences are of words that the kind of operation has: none stands there by its name in files.
        for (std::size_t i = 0; i < 2; ++i) {
            m_model->select(idOf(i));
            settle();
            for (const Word* w : m_window->findChildren<Word*>()) QVERIFY2(w->text() != w->key(), qPrintable(w->key()));
        }
        // One step back takes it all away.
        m_model->undo();
        QVERIFY(m_model->job().route.empty());
    }
    // Single holes by clicks in the view, the others of their kind by Space, all of it by numbers.
    void singleHolesAreTakenInAndOut() {
        click(find<QPushButton>("addHoleWork"));
        settle();
        m_model->select(idOf(0));
        QCOMPARE(op(0).holes.size(), std::size_t(12));
        click(find<Word>("word.holes"));
        QCOMPARE(m_model->picks().mode(), PickMode::Feature);
        const auto& holes = m_model->place()->holes;
        std::size_t mine = holes.size(), other = holes.size(); // from above, both can be looked into
        for (std::size_t i = 0; i < holes.size(); ++i)
            if (holes[i].direction.z() > 0.7) (m_model->holes().works(i) ? mine : other) = i;
        QVERIFY(mine < holes.size() && other < holes.size());
        const auto clickHole = [&](std::size_t hole) { // on its wall, where the eye sees it
            View& view = m_window->view();
            const Vec3 d = holes[hole].direction;
            const Part& part = *m_model->place()->part;
            for (const double lean : {-12.0, 12.0, -25.0, 25.0}) {
                view.camera().look(degrees(std::atan2(d.y(), d.x())), std::clamp(degrees(std::asin(d.z())) + lean, -85.0, 85.0));
                (void)view.grab();
                for (const auto& t : part.faceMesh(holes[hole].faces[0]).triangles) {
                    const auto& points = part.faceMesh(holes[hole].faces[0]).points;
                    const auto p = view.camera().project((points[t[0]] + points[t[1]] + points[t[2]]) / 3.0);
                    if (!p || faceAt(part, view.camera(), p->toPoint()).face != holes[hole].faces[0]) continue;
                    moveMouse(&view, p->toPoint());
                    QVERIFY(view.hoverWords().contains("take it"));
                    return QTest::mouseClick(&view, Qt::LeftButton, {}, p->toPoint());
                }
            }
            QFAIL("the hole cannot be seen");
        };
        clickHole(mine);
        QCOMPARE(op(0).holes.size(), std::size_t(11));
        QVERIFY(!m_model->holes().works(mine));
        clickHole(other);
        QCOMPARE(op(0).holes.size(), std::size_t(12));
        QVERIFY(m_model->holes().works(other));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->result(idOf(1)) && m_model->result(idOf(1))->drill && m_model->result(idOf(1))->drill->passes.size() == 12, 60000);
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
        m_model->undo();
        m_model->undo();
        QVERIFY(m_model->holes().works(mine) && !m_model->holes().works(other));
        // By numbers; and what is no hole is told.
        QVERIFY(m_model->picks().setNumbers("holes", "0-4"));
        QCOMPARE(op(0).holes.size(), std::size_t(5));
        QCOMPARE(m_model->picks().numbers("holes"), QString("0-4"));
        QVERIFY(!m_model->picks().setNumbers("holes", "48"));
        QVERIFY(!m_model->picks().setNumbers("holes", "one"));
    }
    void aStepIsReadAndChangedInWords() {
        click(find<QPushButton>("addHoleWork"));
        settle();
        // The second step of the first group, by a click on its station.
        QTest::mouseClick(find<QWidget>("station." + idOf(2)), Qt::LeftButton);
        QTRY_COMPARE(m_model->selected(), idOf(2));
        QVERIFY(find<QLabel>("facts.Target")->text().contains("12 of 12"));
        choose("drill.cycle", "chip-break");
        settle();
        QCOMPARE(op(2).drill->cycle, Cycle::ChipBreak);
        type("drill.peck", "1.5");
        settle();
        QCOMPARE(op(2).drill->peck, 1.5);
        const std::size_t before = m_model->result()->path()->size();
        type("drill.peck", "0.5");
        settle();
        QTRY_VERIFY(m_model->result()->path()->size() > before);
        choose("drill.by", "depth");
        type("drill.depth", "3");
        settle();
        QTRY_VERIFY(find<QLabel>("facts.Pattern")->text().contains("tip"));
        // The holes are the parent's: a click on the word goes there, and what is changed there holds for every step.
        click(find<Word>("word.holes.of"));
        QTRY_COMPARE(m_model->selected(), idOf(0));
        type("drill.above", "4");
        settle();
        QCOMPARE(m_model->job().resolved(op(1)).drill->above, 4.0);
        QCOMPARE(m_model->job().resolved(op(2)).drill->above, 4.0);
        QVERIFY(!m_model->stale());
    }
    void aToolThatDoesNotFitIsQuestionedAndOverruled() {
        click(find<QPushButton>("addHoleWork"));
        settle();
        m_model->select(idOf(2));
        const double hole = op(0).holes[0].diameter;
        const QString large = hole < 4.5 ? "drill-5" : "drill-8";
        choose("tool", large);
        settle();
        QTRY_VERIFY(m_model->result() && !m_model->result()->findings.empty());
        QCOMPARE(m_model->result()->findings[0].code, std::string("tool-does-not-fit"));
        QVERIFY(!m_model->result()->complete());
        click(find<QPushButton>("fix.drill.anyTool.tool-does-not-fit"));
        settle();
        QVERIFY(op(2).drill->anyTool);
        QTRY_VERIFY(m_model->result()->path() != nullptr);
        m_model->undo();
        settle();
        QTRY_VERIFY(m_model->result()->path() == nullptr);
    }
    void stepsAreAddedMovedAndRemoved() {
        click(find<QPushButton>("addHoleWork"));
        settle();
        m_model->select(idOf(0));
        m_model->holes().addStep(idOf(0), Cycle::Chamfer);
        QCOMPARE(m_model->job().route.size(), std::size_t(13));
        QCOMPARE(op(3).drill->cycle, Cycle::Chamfer);
        QCOMPARE(m_model->selected(), idOf(3));
        const QString chamfer = idOf(3), first = idOf(0), second = idOf(4);
        m_model->route().move(chamfer, -1);
        QCOMPARE(idOf(2), chamfer);
        m_model->route().move(chamfer, -1);
        m_model->route().move(chamfer, -1); // no further than its parent
        QCOMPARE(idOf(1), chamfer);
        m_model->route().move(first, 1); // with all its steps behind the next
        QCOMPARE(idOf(0), second);
        QCOMPARE(idOf(3), first);
        QCOMPARE(idOf(4), chamfer);
        m_model->route().remove(first);
        QCOMPARE(m_model->job().route.size(), std::size_t(9));
        settle();
        // Saved, opened again, the same.
        const std::string text = jobToJson(m_model->job());
        QVERIFY(m_model->save());
        QVERIFY(m_window->openFile(m_model->file(), false));
        QCOMPARE(jobToJson(m_model->job()), text);
    }
    void theLitGroupAlone() {
        m_model->setBench(Bench::SetUp);
        m_model->holes().lightGroup(1);
        QTest::keyClick(m_window.get(), Qt::Key_H, Qt::ControlModifier);
        settle();
        QCOMPARE(m_model->job().route.size(), std::size_t(3));
        QCOMPARE(m_model->bench(), Bench::Cut);
        QCOMPARE(m_model->job().route[0].holes.size(), m_model->holes().groups()[1].holes.size());
        m_model->setBench(Bench::Send);
        const auto text = m_model->programs().post(Dialect::Joints);
        QVERIFY2(text, text ? "" : text.error().text().c_str());
        QVERIFY(text->contains("G99 G8") && m_model->programs().replayReport().agrees());
        QVERIFY(!m_window->grab().isNull());
    }
};

GYRE_WINDOW_TEST(TestDrilling)

} // namespace test_drilling
#include "test_drilling.moc"
