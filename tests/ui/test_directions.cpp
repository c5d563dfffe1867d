// Leaning away in the window: offered, taken, said in the sentence; the map of directions beside it.
#include "WindowTest.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "operation/Leans.h"
#include "operation/OperationResult.h"
#include "panels/SkyPanel.h"
#include <QStandardPaths>

namespace test_directions {

using namespace gyre;
using namespace gyre::test;

class TestDirections : public WindowTest {
    Q_OBJECT
    SkyShow& sky() { return m_model->sky(); }
    SkyPanel* panel() { return m_window->findChild<SkyPanel*>("skyPanel"); }
    void waitForMap() { QTRY_VERIFY_WITH_TIMEOUT(sky().settled(), 60000); }
    bool told(const char* code) {
        const auto all = m_model->findings();
        return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
    }
    QStringList choicesOf(const char* word) {
        QStringList out;
        if (auto* w = find<Word>(QString("word.") + word))
            for (const Word::Option& o : w->options()) out << o.value;
        return out;
    }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
    }
    void cleanup() { closeAll(); }

    void theHolderLeansAwayInTwoActions() {
        click(find<QPushButton>("show.holder-near"));
        auto* cure = find<QPushButton>("fix.guard.response.holder-near");
        QVERIFY(cure && cure->text().startsWith("Lean away, by up to "));
        const double promised = cure->text().section("to ", 1).section(QString::fromUtf8("°"), 0, 0).toDouble();
        click(cure);
        QVERIFY(m_actions <= 2);
        waitForPath();
        QVERIFY(m_model->result()->hazards.empty() && !told("holder-near"));
        const auto all = m_model->findings();
        const auto leaned = std::find_if(all.begin(), all.end(), [](const Finding& f) { return f.code == "guard-leaned"; });
        QVERIFY(leaned != all.end() && leaned->rank == Rank::Note);
        QVERIFY(std::abs(leaned->amount - promised) < 0.051); // as it was told
        QVERIFY(find<Word>("word.guard.leanLead") && find<Word>("word.guard.leanOver") && find<Word>("word.guard.otherwise"));
        // Too narrow: the Stop is back, and says what it would take.
        type("guard.leanTilt", "0.5");
        type("guard.leanLead", "0.5");
        waitForPath();
        QVERIFY(told("holder-near"));
        type("guard.leanTilt", "20");
        type("guard.leanLead", "20");
        waitForPath();
        QVERIFY(!told("holder-near"));
        // About one axis of the datum the limit of lead is no word any more.
        choose("guard.leanBy", "z");
        QVERIFY(!find<Word>("word.guard.leanLead"));
        for (int k = 0; k < 6; ++k) m_model->undo();
        waitForPath();
        QVERIFY(told("holder-near") && !find<Word>("word.guard.leanOver"));
    }
    // Only work whose axis is free offers it.
    void whatCannotLean() {
        QVERIFY(choicesOf("guard.response").contains("lean"));
        QVERIFY(panel()->isVisible());
        openJobFile("yoke-work.gyre.json");
        m_model->select("op1");
        QVERIFY(!choicesOf("guard.response").contains("lean") && choicesOf("guard.response").contains("lift"));
        QVERIFY(!panel()->isVisible());
        QTest::keyClick(&m_window->view(), Qt::Key_Y);
        QCOMPARE(sky().size(), SkySize::Off);
        m_model->setBench(Bench::Prove);
        QVERIFY(!panel()->isVisible());
    }
    // Opened by its button, larger and away by key; the dot stands for the axis; what is in the way has a name under the pointer.
    void theMap() {
        QVERIFY(find<QPushButton>("sky.open"));
        click(find<QPushButton>("sky.open"));
        QCOMPARE(sky().size(), SkySize::Small);
        const auto& hazards = m_model->result()->hazards;
        m_model->setLocation(std::min_element(hazards.begin(), hazards.end(), [](const PathHazard& a, const PathHazard& b) { return a.least < b.least; })->worst);
        waitForMap();
        QVERIFY(sky().picture());
        QVERIFY2(panel()->words().contains("holder") && panel()->words().contains("clamp 2"), qPrintable(panel()->words()));
        // Away from there the axis is free.
        m_model->setLocation(m_model->result()->path()->size() / 2);
        waitForMap();
        QVERIFY2(panel()->words().contains("free"), qPrintable(panel()->words()));
        // What is told to be to spare is what the tape has there.
        const auto r = m_model->result();
        const std::size_t at = r->hazards.front().first > 60 ? r->hazards.front().first - 40 : 0;
        m_model->setLocation(at);
        waitForMap();
        const GuardSpec& g = m_model->recipe()->guard;
        const double room = std::min(static_cast<double>(r->shankClearance[at]) - g.shankClearance, static_cast<double>(r->holderClearance[at]) - g.holderClearance);
        QVERIFY(sky().picture() && room > 0.0);
        QVERIFY(std::abs(static_cast<double>(sky().picture()->ask(sky().picture()->axis).room) - std::min(room, double{SkyMap::kMostRoom})) < 1e-3);
        const SkyMap map = sky().picture()->map;
        QVERIFY(map.count(SkyMap::Kind::Safe) > 100 && map.count(SkyMap::Kind::Blocked) > 100 && map.count(SkyMap::Kind::Reach) > 10);
        // Under the pointer: the tool as it would stand, and the body in its way.
        const QRect beside(0, 0, panel()->x() - 4, m_window->view().height()); // of the map
        const QImage before = m_window->view().grab(beside).toImage();
        std::optional<Vec3> blocked;
        for (const SkyMap::Cell& c : map.cells)
            if (const auto i = static_cast<int>(&c - map.cells.data()); c.kind == SkyMap::Kind::Blocked && !blocked) blocked = map.axisOf(i % map.across, i / map.across);
        QVERIFY(blocked);
        moveMouse(panel(), panel()->pixelOf(*blocked).toPoint());
        QVERIFY(sky().pointed() && sky().pointed()->zone && !sky().pointed()->body.isEmpty());
        QVERIFY(panel()->words().contains(sky().pointed()->body));
        const Vec3 contact = r->path()->contact[at], normal = r->path()->normal[at];
        QVERIFY((sky().pointed()->stands.tip + 3.0 * sky().pointed()->axis - contact - 3.0 * normal).norm() < 1e-6); // the ball stays
        QTRY_VERIFY(m_window->view().grab(beside).toImage() != before);
        QEvent leave(QEvent::Leave);
        QApplication::sendEvent(panel(), &leave);
        QVERIFY(!sky().pointed());
        moveMouse(panel(), panel()->pixelOf(map.axisAt(Vec2(0.95, 0.0))).toPoint());
        QVERIFY2(panel()->words().contains("machine") || panel()->words().contains(QString::fromUtf8("·")), qPrintable(panel()->words()));
        QTest::keyClick(&m_window->view(), Qt::Key_Y);
        QCOMPARE(sky().size(), SkySize::Large);
        waitForMap();
        moveMouse(panel(), panel()->pixelOf(sky().picture()->axis).toPoint());
        QVERIFY2(panel()->words().contains("to spare"), qPrintable(panel()->words()));
        QVERIFY(m_window->view().rect().contains(panel()->geometry()));
        QTest::keyClick(&m_window->view(), Qt::Key_Y);
        QCOMPARE(sky().size(), SkySize::Off);
        QVERIFY(!sky().picture());
    }
    // The dot is dragged: a key on the row, and the axis stands there.
    void dragged() {
        sky().show(SkySize::Small);
        m_model->setLocation(m_model->result()->path()->size() / 2);
        waitForMap();
        const auto keys = m_model->recipe()->axis->keys.size();
        const Vec3 was = sky().picture()->axis, contact = m_model->result()->path()->contact[m_model->location()];
        const LeadTilt lean = leadTiltOf(was, sky().picture()->map.normal, sky().picture()->map.feed);
        const Vec3 wanted = axisFromLeadTilt(sky().picture()->map.normal, sky().picture()->map.feed, lean.lead + radians(6), lean.tilt - radians(12));
        // Beside the dot a press does nothing.
        QTest::mousePress(panel(), Qt::LeftButton, {}, panel()->pixelOf(was).toPoint() + QPoint(0, 30));
        moveMouse(panel(), panel()->pixelOf(wanted).toPoint());
        QTest::mouseRelease(panel(), Qt::LeftButton, {}, panel()->pixelOf(wanted).toPoint());
        QCOMPARE(m_model->recipe()->axis->keys.size(), keys);
        QTest::mousePress(panel(), Qt::LeftButton, {}, panel()->pixelOf(was).toPoint());
        moveMouse(panel(), panel()->pixelOf(wanted).toPoint());
        QTest::mouseRelease(panel(), Qt::LeftButton, {}, panel()->pixelOf(wanted).toPoint());
        QCOMPARE(m_model->recipe()->axis->keys.size(), keys + 1);
        waitForPath();
        const Toolpath& path = *m_model->result()->path();
        std::size_t nearest = 0;
        for (std::size_t i = 0; i < path.size(); ++i)
            if ((path.contact[i] - contact).squaredNorm() < (path.contact[nearest] - contact).squaredNorm()) nearest = i;
        QVERIFY2(angleBetween(path.axis[nearest], wanted) < radians(2.5), qPrintable(QString::number(degrees(angleBetween(path.axis[nearest], wanted)))));
        m_model->undo();
        waitForPath();
        QCOMPARE(m_model->recipe()->axis->keys.size(), keys);
    }
    // Keys and the playhead in a hurry: at the end the map is that of the place.
    void hurried() {
        Random random(901);
        for (int k = 0; k < 40; ++k) {
            const int what = random.integer(0, 5);
            if (what == 0) sky().cycle();
            if (what == 1) m_model->setBench(random.integer(0, 1) == 0 ? Bench::Prove : Bench::Cut);
            if (what > 1) m_model->setLocation(static_cast<std::size_t>(random.integer(0, static_cast<int>(m_model->result()->path()->size()) - 1)));
            if (what == 5) QCoreApplication::processEvents();
        }
        m_model->setBench(Bench::Cut);
        sky().show(SkySize::Small);
        m_model->setLocation(m_model->result()->path()->size() / 3);
        waitForMap();
        QVERIFY(sky().picture());
        QCOMPARE(sky().picture()->location, m_model->location());
    }
};

GYRE_WINDOW_TEST(TestDirections)

} // namespace test_directions
#include "test_directions.moc"
