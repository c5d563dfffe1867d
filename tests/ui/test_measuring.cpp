// Measuring in the view: clicks on faces, figures that stay, the tool, put away.
#include "WindowTest.h"
#include "model/Measures.h"
#include "operation/OperationResult.h"
#include <QAction>

namespace test_measuring {

using namespace gyre;
using test::faceTowards;

class TestMeasuring : public test::WindowTest {
    Q_OBJECT
    void command(const char* name) {
        QAction* action = m_window->findChild<QAction*>(name);
        QVERIFY2(action, name);
        ++m_actions;
        action->trigger();
    }
private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // A box: its top says how thick it is; its front after that, how both stand to each other. In inches too. Figures stay when picking ends, and go when put away.
    void aBoxByClicks() {
        QVERIFY(m_window->openFile(QString::fromStdString(test::boxStep(m_dir->path().toStdString(), 60, 40, 25).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        const Part& part = *m_model->place()->part;
        m_actions = 0;
        command("action.measure");
        clickFace(faceTowards(part, Vec3::UnitZ()));
        QCOMPARE(m_model->measures().all().size(), std::size_t(1));
        QVERIFY2(m_model->measures().words(m_model->measures().all()[0]).contains("wall thickness 25.000 mm"),
                 qPrintable(m_model->measures().words(m_model->measures().all()[0])));
        clickFace(faceTowards(part, -Vec3::UnitY()));
        QCOMPARE(m_model->measures().all().size(), std::size_t(2));
        const QString both = m_model->measures().words(m_model->measures().all()[1]);
        QVERIFY2(both.contains("angle 90.000°") && both.contains("least distance 0.000 mm"), qPrintable(both));
        QVERIFY(m_actions == 3);
        (void)m_window->view().grab(); // drawn without a word on the console
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        QCOMPARE(m_model->picks().mode(), PickMode::None);
        QCOMPARE(m_model->measures().all().size(), std::size_t(2));
        m_model->change("inches", [](Job& j) { j.units = LengthUnit::Inch; });
        QVERIFY(m_model->measures().words(m_model->measures().all()[0]).contains("wall thickness 0.9843 in"));
        command("action.measuresAway");
        QVERIFY(m_model->measures().all().empty());
    }
    // From the tool where it stands: cutter, shank and holder, as the guard knows them. Without anything measured, or without a path, it says why not.
    void fromTheTool() {
        command("action.measureTool");
        QVERIFY(m_model->measures().all().empty());
        const auto path = m_model->result()->path();
        std::size_t at = path->size() / 2;
        while (path->motion[at] != Motion::Cut) ++at;
        m_model->setLocation(at);
        m_model->measures().take(path->face[at], -1, path->contact[at]);
        command("action.measureTool");
        QCOMPARE(m_model->measures().all().size(), std::size_t(4));
        // The cutter touches the face that it cuts; the shank keeps off all of the part by at least what the guard says.
        QVERIFY2(m_model->measures().all()[1].facts[0].value < 0.03, qPrintable(QString::number(m_model->measures().all()[1].facts[0].value)));
        const auto& r = *m_model->result();
        QVERIFY(m_model->measures().all()[2].facts[0].value > static_cast<double>(r.shankClearance[at]) - 0.05);
        QVERIFY(m_model->measures().all()[3].facts[0].value > static_cast<double>(r.holderClearance[at]) - 0.05);
        // Another part: what was measured is gone.
        QVERIFY(m_window->openFile(m_dir->filePath("dome-setup.gyre.json"), false));
        settle();
        QTRY_VERIFY(m_model->measures().all().empty());
        m_model->measures().fromTool();
        QVERIFY(m_model->measures().all().empty());
    }
};

GYRE_WINDOW_TEST(TestMeasuring)

} // namespace test_measuring
#include "test_measuring.moc"
