// Operations cut in slices, from the route: made, joined, gone through, taken out.
#include "WindowTest.h"
#include "model/Route.h"
#include "operation/OperationResult.h"
#include "operation/SliceSpec.h"
#include "panels/RoutePanel.h"
#include <QAction>

namespace test_slicing {

using namespace gyre;

class TestSlicesInWindow : public test::WindowTest {
    Q_OBJECT
    void command(const char* name) {
        QAction* action = m_window->findChild<QAction*>(name);
        QVERIFY2(action, name);
        ++m_actions;
        action->trigger();
        settle();
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // The collar's patterns: two of them in slices, each slice with its path, its findings and its stretch on the tape of the route.
    void madeAndGoneThrough() {
        openJobFile("collar-patterns.gyre.json");
        QVERIFY(m_model->job().route.size() == 3);
        const QString first = QString::fromStdString(m_model->job().route[0].id), second = QString::fromStdString(m_model->job().route[1].id);
        m_model->select(first);
        command("action.operation.slices");
        QCOMPARE(m_model->job().route.size(), std::size_t(4));
        const QString carrier = QString::fromStdString(m_model->job().route[0].id);
        QVERIFY(m_model->job().route[0].kind == OperationKind::Slices && m_model->job().route[1].parent == carrier.toStdString());
        m_model->select(second);
        command("action.operation.slices"); // joins the one above
        QCOMPARE(m_model->job().route.size(), std::size_t(4));
        QCOMPARE(m_model->job().route[2].parent, carrier.toStdString());
        // What is said of them, in the sentence of their station.
        click(find<Station>("station." + carrier));
        type("slices.from", "54");
        type("slices.to", "14");
        type("slices.thickness", "20");
        settle();
        const auto worked = m_model->job().worked();
        QCOMPARE(worked.size(), std::size_t(5));
        for (const Recipe& r : worked) {
            const auto result = m_model->result(QString::fromStdString(r.id));
            QVERIFY2(result && result->complete(), r.id.c_str());
        }
        // The upper slice is in hand first; the next is taken, and stays in hand for the other operation too.
        click(find<Station>("station." + first));
        QCOMPARE(m_model->selected(), first + "@1");
        const auto lowest = [&] {
            double z = 1e9;
            const Toolpath& path = *m_model->result()->path();
            for (std::size_t i = 0; i < path.size(); ++i)
                if (path.motion[i] == Motion::Cut) z = std::min(z, path.contact[i].z());
            return z;
        };
        QVERIFY2(lowest() > 34 - 1e-6, qPrintable(QString::number(lowest())));
        command("action.sliceNext");
        QCOMPARE(m_model->selected(), first + "@2");
        QVERIFY(lowest() < 34);
        command("action.sliceNext"); // there are two
        QCOMPARE(m_model->selected(), first + "@2");
        click(find<Station>("station." + second));
        QCOMPARE(m_model->selected(), second + "@2");
        // A word of the recipe holds for all its slices, and is undone for all of them.
        const auto keyBefore = m_model->result(first + "@1")->key;
        m_model->select(first);
        type("axis.lead", "7");
        waitForPath();
        QVERIFY(m_model->result(first + "@1")->key != keyBefore && m_model->result(first + "@2")->key != keyBefore);
        m_model->undo();
        settle();
        QCOMPARE(m_model->result(first + "@1")->key, keyBefore);
        // Proven, each slice for itself.
        m_model->computeNow(true);
        settle();
        for (const Recipe& r : worked) QVERIFY2(m_model->proof(QString::fromStdString(r.id)), r.id.c_str());
        for (const Finding& f : m_model->findings()) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
        // Taken out, it is cut as a whole behind them; the last one takes the station with it.
        m_model->select(first);
        command("action.operation.slices");
        QCOMPARE(m_model->selected(), first);
        QVERIFY(m_model->job().route[0].id == carrier.toStdString() && m_model->job().route[1].id == second.toStdString() && m_model->job().route[2].parent.empty());
        m_model->select(second);
        command("action.operation.slices");
        QCOMPARE(m_model->job().route.size(), std::size_t(3));
        for (const Recipe& r : m_model->job().route) QVERIFY(r.parent.empty() && r.kind == OperationKind::Surface);
    }
    // Removed with what stands in them, duplicated with it, fewer slices than the one in hand: nothing is left behind.
    void whateverIsDoneToThem() {
        const QString flare = m_model->selected();
        command("action.operation.slices");
        const QString carrier = QString::fromStdString(m_model->job().route[0].id);
        QVERIFY(m_model->selected().startsWith(flare + "@"));
        for (int i = 0; i < 4; ++i) command("action.sliceNext");
        QVERIFY(m_model->selected().section('@', 1).toInt() > 2);
        m_model->change("thick", [](Job& j) { j.route[0].slices->thickness = 100; });
        settle();
        QCOMPARE(m_model->selected(), flare + "@1");
        QVERIFY(m_model->result() && m_model->result()->complete());
        // Slices themselves and holes cannot be cut in slices.
        m_model->select(carrier);
        command("action.operation.slices");
        QCOMPARE(m_model->job().route.size(), std::size_t(2));
        m_model->route().duplicate(carrier);
        settle();
        QCOMPARE(m_model->job().route.size(), std::size_t(4));
        QCOMPARE(m_model->job().route[3].parent, m_model->job().route[2].id);
        m_model->route().remove(carrier);
        settle();
        QCOMPARE(m_model->job().route.size(), std::size_t(2));
        m_model->undo();
        m_model->undo();
        settle();
        // Saved, opened again: the same.
        QVERIFY(m_window->findChild<QAction*>("action.save"));
        m_window->findChild<QAction*>("action.save")->trigger();
        const auto again = openJob(m_model->file().toStdString());
        QVERIFY(again && jobToJson(*again) == jobToJson(m_model->job()));
        // Too many are refused with the reason, and the job stays.
        m_model->select(carrier);
        const std::size_t worked = m_model->job().worked().size();
        QVERIFY(!m_model->setWord("slices.thickness", "0.05"));
        QCOMPARE(m_model->job().worked().size(), worked);
    }
};

GYRE_WINDOW_TEST(TestSlicesInWindow)

} // namespace test_slicing
#include "test_slicing.moc"
