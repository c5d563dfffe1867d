// What lies over the view: which assemblies reach it, taken with two clicks; several ways of doing an operation, side by side.
#include "WindowTest.h"
#include "model/Fits.h"
#include "model/Picks.h"
#include "model/Variants.h"
#include "operation/OperationResult.h"
#include "panels/VariantsPanel.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <QAction>

namespace test_fits {

using namespace gyre;

class TestFitsInWindow : public test::WindowTest {
    Q_OBJECT
    void waitForFits() { QTRY_VERIFY_WITH_TIMEOUT(m_model->fits().settled() && !m_model->fits().all().empty(), 120000); }
    [[nodiscard]] bool stops() const {
        const auto all = m_model->findings();
        return std::any_of(all.begin(), all.end(), [](const Finding& f) { return f.rank == Rank::Stop; });
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // The first demo's holder comes too near: the list is asked for, and the best of it taken. Two actions.
    void theShortestSafeAssemblyInTwoActions() {
        m_model->setWord("pattern.spacing", "2"); // fewer rows tell as much
        settle();
        QVERIFY(stops());
        m_actions = 0;
        click(find<Word>("word.guard.assemblies"));
        waitForFits();
        const auto all = m_model->fits().all();
        QVERIFY(all.size() > 5);
        QVERIFY(all[0].reached == 1.0 && all[0].sameCut);
        for (std::size_t i = 1; i < all.size(); ++i) QVERIFY(all[i - 1].reached >= all[i].reached);
        // What is said is what stands in the row.
        QVERIFY2(find<QLabel>("fit.0.words")->text().contains("reaches all of it"), qPrintable(find<QLabel>("fit.0.words")->text()));
        click(find<QPushButton>("fit.0.take"));
        QVERIFY2(m_actions == 2, qPrintable(QString::number(m_actions)));
        settle();
        waitForPath();
        QVERIFY(!stops());
        QCOMPARE(m_model->recipe()->tool, all[0].tool.id);
        QVERIFY(std::abs(m_model->job().tool(m_model->recipe()->tool)->stickOut - all[0].stickOut) < 1e-9);
        // Proven on the machine, too.
        m_model->computeNow(true);
        settle();
        QVERIFY(m_model->proof(m_model->selected()) && !stops());
        waitForFits();
        QVERIFY(!find<QPushButton>("fit.0.take") || m_model->fits().all()[0].tool.id != all[0].tool.id || !m_window->findChild<QPushButton*>("fit.0.take")->isEnabled());
        m_model->undo();
        settle();
        QVERIFY(stops());
    }
    // A tool that another operation uses with another stick-out stays as it is there: a copy is made.
    void whatOthersUseStays() {
        openJobFile("collar-patterns.gyre.json");
        const QString first = QString::fromStdString(m_model->job().route[0].id);
        m_model->select(first);
        const double before = m_model->job().tool("ball-6")->stickOut;
        m_model->fits().open(true);
        waitForFits();
        // Another operation in hand: what was tried for this one can no longer be taken.
        m_model->select(QString::fromStdString(m_model->job().route[1].id));
        QVERIFY(m_model->fits().all().empty());
        waitForFits();
        const std::size_t kept = m_model->shelf()->results.bytes();
        m_model->select(first);
        QVERIFY(m_model->fits().all().empty());
        waitForFits();
        QCOMPARE(m_model->shelf()->results.bytes(), kept); // what was asked before is not worked out again
        std::size_t own = 0;
        while (own < m_model->fits().all().size() && m_model->fits().all()[own].tool.id != "ball-6") ++own;
        QVERIFY(own < m_model->fits().all().size());
        const double wanted = m_model->fits().all()[own].stickOut;
        QVERIFY(std::abs(wanted - before) > 0.01);
        const std::size_t tools = m_model->job().tools.size();
        m_model->fits().take(own);
        settle();
        QCOMPARE(m_model->job().tools.size(), tools + 1);
        QCOMPARE(m_model->job().tool("ball-6")->stickOut, before);
        QVERIFY(m_model->recipe()->tool != "ball-6" && std::abs(m_model->job().tool(m_model->recipe()->tool)->stickOut - wanted) < 1e-9);
        QCOMPARE(m_model->job().route[1].tool, std::string("ball-6"));
    }
    // Check faces from the rare words: a group, its faces by a click, its amount; another group; taken back.
    void checkFacesByClicks() {
        const auto key = m_model->result()->key;
        click(wordFor("checks.new"));
        QCOMPARE(m_model->recipe()->checks.size(), std::size_t(1));
        QVERIFY(m_model->picks().mode() == PickMode::Check1);
        const Part& part = *m_model->place()->part;
        int face = -1; // the rim's plane looks up
        for (std::size_t f = 0; f < part.faces().size(); ++f)
            if (part.faces()[f].kind == SurfaceKind::Plane && part.faces()[f].normal.z() > 0.99 &&
                (face < 0 || part.faces()[f].centre.z() > part.faces()[static_cast<std::size_t>(face)].centre.z()))
                face = static_cast<int>(f);
        QVERIFY(face >= 0);
        clickFace(face);
        QVERIFY(!m_model->recipe()->checks[0].faces.empty());
        type("checks.0.keepOff", "0.35");
        waitForPath();
        QCOMPARE(m_model->recipe()->checks[0].keepOff, 0.35);
        QVERIFY(m_model->result()->key != key);
        QVERIFY(find<Word>("word.checks.0.faces")->text().contains("face"));
        QVERIFY(m_model->result()->scene && m_model->result()->scene->back().kind == ObstacleKind::Check);
        click(wordFor("checks.new"));
        QCOMPARE(m_model->recipe()->checks.size(), std::size_t(2));
        QVERIFY(m_model->picks().mode() == PickMode::Check2);
        m_model->picks().setMode(PickMode::None);
        click(wordFor("checks.fewer"));
        QCOMPARE(m_model->recipe()->checks.size(), std::size_t(1));
        click(wordFor("checks.fewer"));
        waitForPath();
        QVERIFY(m_model->recipe()->checks.empty());
        QCOMPARE(m_model->result()->key, key);
    }
    // Steps of another size; a silly one is refused with its reason; Esc closes; another bench hides it, and it is there again.
    void openedAndClosed() {
        QAction* action = m_window->findChild<QAction*>("action.assemblies");
        QVERIFY(action);
        action->trigger();
        waitForFits();
        QVERIFY(find<QFrame>("fitsPanel"));
        type("fits.step", "5");
        waitForFits();
        for (const AssemblyFit& f : m_model->fits().all())
            if (f.reached == 1.0) QVERIFY2(std::abs(std::remainder(f.stickOut, 5.0)) < 1e-6 || f.stickOut > 30, qPrintable(QString::number(f.stickOut)));
        m_model->fits().setStep(0.0);
        QCOMPARE(m_model->fits().step(), 5.0);
        m_model->setBench(Bench::Prove);
        QVERIFY(!m_window->findChild<QFrame*>("fitsPanel")->isVisible());
        m_model->setBench(Bench::Cut);
        QTRY_VERIFY(m_window->findChild<QFrame*>("fitsPanel")->isVisible());
        m_window->findChild<QFrame*>("fitsPanel")->setFocus();
        QTest::keyClick(m_window->findChild<QFrame*>("fitsPanel"), Qt::Key_Escape);
        QVERIFY(!m_model->fits().isOpen());
        // Asked again and called off in the middle: nothing is left of it.
        m_model->fits().open(true);
        m_model->fits().open(false);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->fits().settled(), 60000);
        QVERIFY(!m_window->findChild<QFrame*>("fitsPanel")->isVisible());
    }
    // Another way of doing it: put aside, changed, compared, looked at, taken, kept.
    void variantsSideBySide() {
        auto& variants = m_model->variants();
        const auto waitForThem = [&](std::size_t count) {
            QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && !m_model->stale() && variants.settled() && variants.trouble().isEmpty() && variants.all().size() == count,
                                     120000);
        };
        const double spacing = m_model->recipe()->pattern->spacing;
        m_actions = 0;
        QTest::keyClick(m_window.get(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
        auto* panel = m_window->findChild<VariantsPanel*>();
        QVERIFY(panel->isVisible() && find<QLabel>("variants.trouble")->text().contains("one way") && !m_window->findChild<QPushButton*>("variants.keep")->isEnabled());
        click(find<QPushButton>("variants.add"));
        type("pattern.spacing", "1.3");
        settle();
        waitForThem(2);
        QVERIFY(m_actions <= 4 && m_model->recipe()->variant == "B");
        QVERIFY(find<QLabel>("variant.B.differs")->text().contains("1.3"));
        // The figures are those of the table, which is within the view.
        const auto table = variants.table();
        int row = 0;
        for (const VariantLine& line : table) {
            if (line.alike) {
                QVERIFY(find<QLabel>("variants.alike")->text().contains(QString::fromStdString(line.said[0])));
                continue;
            }
            ++row;
            for (std::size_t i = 0; i < 2; ++i) {
                auto* cell = m_window->findChild<QLabel*>(QString("variant.%1.%2").arg(i ? "B" : "A").arg(row));
                QVERIFY(cell && panel->rect().contains(cell->mapTo(panel, cell->rect().bottomRight())));
                QCOMPARE(cell->property("role").toString() == "title", line.best[i] == true);
                QCOMPARE(cell->text(), QString::fromStdString(line.said[i]));
            }
        }
        QVERIFY(row >= 4);
        QVERIFY(m_window->view().rect().contains(panel->geometry()));
        // Under the pointer: its rows beside those in hand.
        QVERIFY(!variants.pointed());
        auto* head = m_window->findChild<QWidget*>("variant.A");
        QEnterEvent enter(QPointF(4, 4), QPointF(4, 4), QPointF(4, 4));
        QApplication::sendEvent(head, &enter);
        QVERIFY(variants.pointed() && variants.pointed()->rows.size() > m_model->result()->pattern->rows.size());
        QEvent leave(QEvent::Leave);
        QApplication::sendEvent(head, &leave);
        QVERIFY(!variants.pointed());
        // Taken and back again by undo; what is computed is there at once and the same.
        click(find<QPushButton>("variant.A.take"));
        QTRY_COMPARE(m_model->recipe()->pattern->spacing, spacing);
        waitForThem(2);
        QVERIFY(m_model->recipe()->variant == "A" && find<QPushButton>("variant.B.take") && !m_window->findChild<QPushButton*>("variant.A.take"));
        m_model->undo();
        QTRY_COMPARE(m_model->recipe()->pattern->spacing, 1.3);
        waitForThem(2);
        // Both lists lie at the same place: one at a time.
        m_model->fits().open(true);
        QVERIFY(!variants.isOpen() && !panel->isVisible());
        variants.open(true);
        QVERIFY(!m_model->fits().isOpen() && panel->isVisible());
        waitForThem(2);
        // Kept: the other one is gone, and the operation is removed with all of its variants.
        click(find<QPushButton>("variants.add"));
        waitForThem(3);
        click(find<QPushButton>("variant.A.drop"));
        waitForThem(2);
        click(find<QPushButton>("variants.keep"));
        QTRY_VERIFY(m_model->job().variants.empty() && m_model->recipe()->variant.empty() && m_model->recipe()->pattern->spacing == 1.3);
        QTRY_VERIFY(variants.settled() && variants.all().empty());
        click(find<QPushButton>("variants.add"));
        QTRY_VERIFY(m_model->job().variants.size() == 1);
        m_model->route().remove(m_model->chosen());
        QVERIFY(m_model->job().variants.empty());
        m_model->undo();
        QCOMPARE(m_model->job().variants.size(), std::size_t(1));
        panel->setFocus();
        QTest::keyClick(panel, Qt::Key_Escape);
        QVERIFY(!variants.isOpen());
    }
};

GYRE_WINDOW_TEST(TestFitsInWindow)

} // namespace test_fits
#include "test_fits.moc"
