// Directions that stand still instead of a turning axis: looked for, told and taken in the window.
#include "WindowTest.h"
#include "axis/AxisSpec.h"
#include "model/Fits.h"
#include "model/StandStill.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"

namespace test_stand_still {

using namespace gyre;

class TestStandStill : public test::WindowTest {
    Q_OBJECT

    void waitForDirections() {
        QTRY_VERIFY_WITH_TIMEOUT(m_model->standStill().settled() && (m_model->standStill().told() || !m_model->standStill().trouble().isEmpty()), 240000);
    }
    [[nodiscard]] QString said(const char* name) const { return m_window->findChild<QLabel*>(name) ? m_window->findChild<QLabel*>(name)->text() : QString(); }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // From the card of the guard: directions, what they come to, one click for the operations; and one step back.
    void directionsAreToldAndTaken() {
        waitForPath();
        const std::size_t before = m_model->job().route.size();
        const QString own = m_model->selected();
        m_model->setPeel(Stage::Guard);
        settle();
        click(find<Word>("word.guard.directions"));
        QVERIFY(m_model->standStill().isOpen());
        waitForDirections();
        QVERIFY2(m_model->standStill().found(), qPrintable(m_model->standStill().trouble()));
        const auto found = *m_model->standStill().found();
        QVERIFY(!found.chosen.empty());
        QVERIFY2(said("still.summary").contains("instead of") && said("still.0.words").contains("cuts"), qPrintable(said("still.summary")));
        // The time that is told is that of the operations when they are made.
        const double told = m_model->standStill().told()->seconds;
        click(find<QPushButton>("still.make"));
        QVERIFY(!m_model->standStill().isOpen());
        waitForPath();
        QCOMPARE(m_model->job().route.size(), before + found.chosen.size());
        QVERIFY(!m_model->job().operation(own.toStdString())->active);
        double seconds = 0.0;
        for (const Recipe& r : m_model->job().route) {
            if (r.id.empty() || !r.active || r.axis->rule != AxisRule::Fixed) continue;
            QTRY_VERIFY_WITH_TIMEOUT(m_model->upToDate(QString::fromStdString(r.id)), 240000);
            seconds += secondsOf(*m_model->result(QString::fromStdString(r.id)));
        }
        QVERIFY2(std::abs(seconds - told) < 0.02 * told + 0.5, qPrintable(QString("%1 for %2").arg(seconds).arg(told)));
        m_model->undo();
        QCOMPARE(m_model->job().route.size(), before);
        QVERIFY(m_model->job().operation(own.toStdString())->active);
    }
    // Less lean needs more of them, or leaves more; nonsense is refused; another list at the same place closes this one; Escape does; called off in the middle.
    void howFarItMayLean() {
        waitForPath();
        QTest::keyClick(m_window.get(), Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_VERIFY(m_model->standStill().isOpen());
        waitForDirections();
        QVERIFY(m_model->standStill().found());
        const std::size_t wide = m_model->standStill().found()->chosen.size();
        const double reached = m_model->standStill().found()->reached;
        m_model->standStill().setLean(0.0);
        QCOMPARE(m_model->standStill().lean(), 75.0);
        m_model->standStill().setLean(25.0);
        waitForDirections();
        QVERIFY(m_model->standStill().found());
        QVERIFY(m_model->standStill().found()->chosen.size() > wide || m_model->standStill().found()->reached <= reached);
        QTest::keyClick(m_window.get(), Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(!m_model->standStill().isOpen());
        m_model->fits().open(false);
        m_model->standStill().setLean(75.0);
        m_model->standStill().open(true);
        m_model->standStill().open(false);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->standStill().settled(), 60000);
        QVERIFY(!m_window->findChild<QWidget*>("standStillPanel")->isVisible());
    }
    // Words of where rows lie: what the tool reaches, and what others cut.
    void wordsOfWhere() {
        m_model->setWord("pattern.spacing", "2"); // fewer rows tell as much
        waitForPath();
        const std::size_t all = m_model->result()->pattern->rows.size();
        m_model->change("still", [&](Job& j) {
            Recipe& r = *j.operation(m_model->selected().toStdString());
            r.axis = AxisSpec{};
            r.axis->rule = AxisRule::Fixed;
            r.axis->direction = Vec3(0.3, 0, 1).normalized();
        });
        waitForPath();
        m_model->change("reach", [&](Job& j) { (void)setWord(j, m_model->selected().toStdString(), "where.byReach", "true"); });
        waitForPath();
        QVERIFY(m_model->recipe()->where->byReach && m_model->result());
        const auto kept = m_model->result()->pattern;
        QVERIFY(!kept || kept->rows.size() != all);
        settle();
        const auto words = m_window->findChildren<Word*>("word.where.byReach"); // one that was there before may be on its way out
        QVERIFY(std::any_of(words.begin(), words.end(), [](const Word* w) { return w->isVisible(); }));
    }
};

GYRE_WINDOW_TEST(TestStandStill)

} // namespace test_stand_still
#include "test_stand_still.moc"
