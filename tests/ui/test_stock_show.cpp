// The stock as it is cut, in the window: shown by key and by switch, at any place of the route, by who cut it and by how far it is off.
#include "WindowTest.h"
#include "base/Units.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "panels/FindingsPanel.h"
#include "panels/TapePanel.h"
#include "stock/CutFeed.h"
#include "target/TargetSpec.h"
#include <QAction>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QStandardPaths>

namespace test_stock_show {

using namespace gyre;
using namespace gyre::test;

class TestStockShow : public WindowTest {
    Q_OBJECT
    StockShow& stock() { return m_model->stock(); }
    void waitForStock() { QTRY_VERIFY_WITH_TIMEOUT(stock().settled() && (stock().picture() || !stock().trouble().isEmpty() || !stock().shown()), 120000); }
    int facesOf(int band) {
        const auto& f = stock().picture()->skin->faces;
        return static_cast<int>(std::count(f.begin(), f.end(), band));
    }
    bool pressed(const char* name) {
        auto* b = find<QPushButton>(name);
        return b && b->isChecked();
    }

private slots:
    void init() {
        QStandardPaths::setTestModeEnabled(true);
        openDemo();
    }
    void cleanup() { closeAll(); }

    // In Prove: the switch; what the present operation has cut grows with the playhead; back at the start none of it is there.
    void theStockGrowsLess() {
        openJobFile("barrel-work.gyre.json");
        m_model->setBench(Bench::Prove);
        m_model->select("op1");
        QVERIFY(pressed("stockShown.0"));
        QTest::mouseClick(find<QPushButton>("stockShown.1"), Qt::LeftButton);
        QCOMPARE(stock().shown(), std::optional(StockBy::Operation));
        const std::size_t n = m_model->result()->path()->size();
        double before = 1e300;
        int faces = 0;
        for (const double share : {0.0, 0.25, 0.5, 1.0}) {
            m_model->setLocation(static_cast<std::size_t>(share * static_cast<double>(n - 1)));
            waitForStock();
            const auto& picture = *stock().picture();
            QCOMPARE(picture.location, m_model->location());
            QCOMPARE(picture.bands.size(), 2u);
            QVERIFY(picture.bands[1].name.startsWith("1 "));
            QVERIFY(share == 0.0 ? facesOf(1) == 0 && picture.volume < before : facesOf(1) > faces && picture.volume < before);
            double sum = 0.0;
            for (const auto& b : picture.bands) sum += b.share;
            QVERIFY(std::abs(sum - 1.0) < 1e-9);
            before = picture.volume;
            faces = facesOf(1);
        }
        // The next one begins with what this one left.
        m_model->select("op2");
        m_model->setLocation(0);
        waitForStock();
        QVERIFY(std::abs(stock().picture()->volume - before) < 1e-6 * before);
        QCOMPARE(stock().picture()->bands.size(), 3u);
    }
    // It is drawn: in place of the part, in other colours, and the part comes back.
    void itIsDrawnInPlaceOfThePart() {
        openJobFile("yoke-work.gyre.json");
        m_model->select("op1");
        m_model->setLocation(SIZE_MAX);
        auto* view = &m_window->view();
        const QImage part = view->grab().toImage();
        QTest::keyClick(view, Qt::Key_K);
        waitForStock();
        QTRY_VERIFY(view->stockDrawn() && pressed("stockShown.1"));
        QTRY_VERIFY(view->grab().toImage() != part);
        const auto onStock = view->camera().project(Vec3(m_model->result()->path()->tip.back().x(), m_model->result()->path()->tip.back().y(), 0));
        moveMouse(view, onStock ? onStock->toPoint() : view->rect().center());
        QVERIFY(view->hoverWords().isEmpty() || view->hoverWords().contains("cut by 1") || view->hoverWords().contains("set up"));
        // Its worst places can be gone to from the moment it is known, before it is drawn.
        bool wentAtOnce = false;
        const auto known = connect(&stock(), &StockShow::changed, view, [&] {
            if (!stock().picture() || wentAtOnce) return;
            const auto at = [&](std::size_t place) {
                const auto p = view->camera().project(stock().picture()->place(place).at);
                return p && (p->toPoint() - view->rect().center()).manhattanLength() < 40;
            };
            wentAtOnce = view->frameNextStockPlace() && at(0) && view->frameNextStockPlace() && at(1);
        });
        QTest::keyClick(view, Qt::Key_K);
        QCOMPARE(stock().shown(), std::optional(StockBy::Deviation));
        waitForStock();
        QObject::disconnect(known);
        QVERIFY(wentAtOnce);
        QVERIFY(view->frameStockPlace(stock().picture()->places() - 1)); // the next one is the first again
        const auto& bands = stock().picture()->bands;
        QCOMPARE(bands.size(), StockShow::kMeant + 1);
        QVERIFY(bands[0].share == 0.0 && bands[1].share == 0.0); // roughing leaves stock, and takes nothing of the part
        QVERIFY(bands[StockShow::kWithin].share > 0.0 && bands[StockShow::kMeant - 1].share > 0.3);
        // To the worst place, by key: it lies in the middle of the picture.
        QVERIFY(stock().picture()->compared && stock().picture()->compared->gone.empty());
        const auto worst = stock().picture()->place(0), next = stock().picture()->place(1);
        const auto& areas = stock().picture()->compared->areas;
        QVERIFY(areas.size() >= 2 && areas[0].area * areas[0].worst.mm >= areas[1].area * areas[1].worst.mm && !areas[0].faces.empty());
        QVERIFY(worst.mm > 2.0 && (next.at - worst.at).norm() > 10.0);
        view->setAtMachine(true);
        QTest::keyClick(view, Qt::Key_K, Qt::ShiftModifier);
        const auto there = view->camera().project(worst.at);
        QVERIFY(!view->atMachine() && there && (there->toPoint() - view->rect().center()).manhattanLength() < 40);
        // Once more: the next one. In Prove they stand in a list, and a click goes there.
        QTest::keyClick(view, Qt::Key_K, Qt::ShiftModifier);
        const auto second = view->camera().project(next.at);
        QVERIFY(second && (second->toPoint() - view->rect().center()).manhattanLength() < 40);
        m_model->setBench(Bench::Prove);
        waitForStock();
        auto* listed = find<QPushButton>("stockPlace.0");
        QTRY_VERIFY(listed && listed->isVisible());
        QVERIFY2(listed->text().contains("cm² under") && listed->text().contains(QString::number(worst.mm, 'f', 2) + " mm"), qPrintable(listed->text()));
        QVERIFY2(listed->width() <= listed->parentWidget()->width() && listed->toolTip().contains(stock().placeWords(0)), "no wider than its list");
        QTest::mouseClick(listed, Qt::LeftButton);
        const auto again = view->camera().project(stock().picture()->place(0).at);
        QVERIFY(again && (again->toPoint() - view->rect().center()).manhattanLength() < 40);
        // And on a page, with the picture and the same numbers.
        const QString page = m_dir->filePath("yoke-comparison.html");
        m_window->findChild<FindingsPanel*>()->storeComparisonAs(page);
        QFile stored(page);
        QVERIFY(stored.open(QIODevice::ReadOnly));
        const QString html = QString::fromUtf8(stored.readAll());
        QVERIFY(html.contains("data:image/png;base64,") && html.contains("Rough from above") &&
                html.contains(QString::fromStdString(formatLength(worst.mm, LengthUnit::Millimetre, 3))));
        m_window->findChild<FindingsPanel*>()->storeComparisonAs(m_dir->filePath("yoke-work.gyre.json"));
        QVERIFY(m_window->findChild<QWidget*>("storeComparison") && openJob(m_dir->filePath("yoke-work.gyre.json").toStdString()).has_value()); // not over a job
        m_model->setBench(Bench::Cut);
        waitForStock();
        view->frameAll();
        // Under the pointer: how far it is off there, as the colour says.
        int told = 0;
        for (int y = 120; y < view->height() - 80; y += 24)
            for (int x = 330; x < view->width() - 40; x += 24) {
                moveMouse(view, QPoint(x, y));
                const QString words = view->hoverWords();
                if (words.isEmpty()) continue;
                ++told;
                QVERIFY2(words.contains("within") || words.endsWith("stand"), qPrintable(words));
            }
        QVERIFY(told > 20);
        // While something is picked the part is there to be clicked.
        m_model->picks().setMode(PickMode::Faces);
        QVERIFY(!view->stockDrawn());
        m_model->picks().setMode(PickMode::None);
        QVERIFY(view->stockDrawn());
        QTest::keyClick(view, Qt::Key_K);
        QVERIFY(!stock().shown() && !view->stockDrawn() && !find<QPushButton>("stockShown.0"));
        // Set up is about bodies: the key does nothing there.
        m_model->setBench(Bench::SetUp);
        QTest::keyClick(view, Qt::Key_K);
        QVERIFY(!stock().shown());
    }
    // What cutting is like: a channel of the tape and words; gone when the stock is hidden.
    void whatCuttingIsLike() {
        openJobFile("yoke-work.gyre.json");
        m_model->select("op2");
        auto* tape = m_window->findChild<TapeChart*>();
        QVERIFY(tape);
        (void)tape->grab();
        QVERIFY(!tape->channels().contains("removal"));
        stock().show(StockBy::Operation);
        QTRY_VERIFY_WITH_TIMEOUT(stock().figures(), 120000);
        (void)tape->grab();
        QVERIFY(tape->channels().contains("removal"));
        const CutFigures f = *stock().figures();
        QVERIFY(f.most > 0.0 && f.cutting > 0.0 && f.air <= f.cutting && f.cutting <= m_model->result()->motion->duration + 1e-6);
        m_model->setLocation(f.mostAt);
        QCOMPARE(tape->valueHere("removal"), QString("%1 cm³/min").arg(f.most, 0, 'f', 1));
        // How heavily the cutter stands in it comes a moment later.
        QTRY_VERIFY_WITH_TIMEOUT(stock().figures() && !stock().figures()->engagement.at.empty(), 120000);
        (void)tape->grab();
        const Engagement e = stock().figures()->engagement;
        QVERIFY(tape->channels().contains("engaged") && tape->channels().contains("chip"));
        QVERIFY(e.most.angle > 20.0F && e.most.angle <= 360.0F && e.most.deep > 0.1F && e.most.chip > 0.0F);
        m_model->setLocation(e.angleAt);
        QCOMPARE(tape->valueHere("engaged"), QString("%1 °").arg(e.most.angle, 0, 'f', 1));
        // An edit takes the figures away until there are new ones.
        m_model->setWord("mill.stepover", "3");
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled(), 120000);
        QTRY_VERIFY_WITH_TIMEOUT(stock().figures() && stock().settled(), 120000);
        QVERIFY(stock().figures()->cutting > f.cutting);
        stock().show({});
        (void)tape->grab();
        QVERIFY(!stock().figures() && !tape->channels().contains("removal"));
    }
    // An operation before it is changed: figures and picture of what was are not told as what is.
    void whatStoodBeforeIsChanged() {
        openJobFile("yoke-work.gyre.json");
        m_model->select("op2");
        stock().show(StockBy::Operation);
        QTRY_VERIFY_WITH_TIMEOUT(stock().figures() && stock().settled(), 120000);
        QVERIFY(!stock().picture()->old);
        const double volume = stock().picture()->volume, most = stock().figures()->most;
        // Changed and called off: what is drawn was cut with a path that is no longer the job's, and says so.
        m_model->change("rough less", [](Job& j) { j.operation("op1")->target->leave += 3.0; });
        m_model->cancel();
        waitForStock();
        QTRY_VERIFY(stock().picture() && stock().picture()->old);
        QCOMPARE(stock().picture()->volume, volume);
        m_model->computeNow();
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(stock().settled() && stock().picture() && !stock().picture()->old && stock().figures(), 120000);
        QVERIFY(stock().picture()->volume > volume + 100.0 && stock().figures()->most > 1.05 * most); // more is left for this one
        // One that is switched off takes nothing.
        const double rough = stock().picture()->volume;
        m_model->route().toggleActive("op1");
        QTRY_VERIFY_WITH_TIMEOUT(stock().settled() && stock().picture() && stock().picture()->volume > rough + 100.0, 120000);
        QCOMPARE(stock().picture()->bands.size(), 2u);
        // While one looks closely, the stock is not there to be told about.
        m_model->closer().look(LookFrom::Part);
        QVERIFY(!m_window->view().stockDrawn());
        m_model->closer().look(std::nullopt);
    }
    // Its own path the same, but something else before it: measured anew all the same.
    void figuresRestOnWhatStoodBefore() {
        openJobFile("horn-guide.gyre.json");
        m_model->select("op2");
        stock().show(StockBy::Operation);
        QTRY_VERIFY_WITH_TIMEOUT(stock().figures() && stock().settled(), 120000);
        const auto key = m_model->result()->key;
        QSignalSpy measured(&stock(), &StockShow::measured);
        m_model->change("cut less", [](Job& j) { j.operation("op1")->target->leave += 0.5; });
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(stock().settled() && stock().figures() && measured.count() == 1, 120000);
        QCOMPARE(m_model->result()->key, key);
    }
    // Played in Prove, the route goes on with the next operation; in Cut it ends with its own.
    void thePlayheadGoesOn() {
        openJobFile("yoke-work.gyre.json");
        m_model->select("op2");
        m_model->setLocation(m_model->result()->path()->size() - 2);
        auto* tape = m_window->findChild<TapePanel*>();
        tape->play(true);
        QTRY_VERIFY(!tape->playing());
        QCOMPARE(m_model->selected(), QString("op2"));
        m_model->setBench(Bench::Prove);
        m_model->setLocation(m_model->result()->path()->size() - 2);
        tape->play(true);
        QTRY_COMPARE(m_model->selected(), QString("op3"));
        QVERIFY(tape->playing());
        tape->play(false);
        // Back again, over the seam to the end of the one before; faster as the menu says.
        m_model->setLocation(1);
        m_window->findChild<QAction*>("speed.1000")->trigger();
        QCOMPARE(tape->speed(), 1000.0);
        QTest::keyClick(m_window.get(), Qt::Key_Space, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(tape->playing());
        QTRY_COMPARE(m_model->selected(), QString("op2"));
        tape->play(false);
        QVERIFY(m_model->location() > 0);
        // op2 and op3 have another cutter each: it stops before the first move of the next.
        QVERIFY(m_model->result("op2")->tool.id != m_model->result("op3")->tool.id);
        m_model->setLocation(m_model->result()->path()->size() - 2);
        auto* atTools = m_window->findChild<QAction*>("stopAt.tool");
        atTools->trigger();
        tape->play(true);
        QTRY_VERIFY(!tape->playing());
        QCOMPARE(m_model->selected(), QString("op3"));
        QCOMPARE(m_model->location(), std::size_t(0));
        atTools->trigger();
        // A tenth of the machine's own speed, and all the way to the route's beginning backwards.
        m_window->findChild<QAction*>("speed.0.1")->trigger();
        QCOMPARE(tape->speed(), 0.1);
        m_model->select("op1");
        m_model->setLocation(1);
        tape->setSpeed(1000);
        tape->play(true, true);
        QTRY_VERIFY(!tape->playing());
        QCOMPARE(m_model->location(), std::size_t(0));
        QCOMPARE(m_model->selected(), QString("op1"));
    }
    // Without stock there is no switch, and the key says why nothing is shown.
    void withoutStock() {
        openJobFile("lantern-collar.gyre.json");
        m_model->setBench(Bench::Prove);
        QVERIFY(!find<QPushButton>("stockShown.1"));
        QTest::keyClick(&m_window->view(), Qt::Key_K);
        waitForStock();
        QVERIFY(!stock().picture() && stock().trouble().contains("no stock"));
        QVERIFY(find<QPushButton>("stockShown.1") && !m_window->view().stockDrawn());
        QTest::mouseClick(find<QPushButton>("stockShown.0"), Qt::LeftButton);
        QVERIFY(!stock().shown() && !find<QPushButton>("stockShown.1"));
    }
    // A roughed part put into a solid block: the proof says what meets it, Show goes there and lets the stock be seen; the other stock, and all is clear.
    void whatMeetsTheStockIsShownOnIt() {
        const QString file = m_dir->filePath("solid.gyre.json");
        QFile from(m_dir->filePath("yoke-edges.gyre.json"));
        QVERIFY(from.open(QIODevice::ReadOnly));
        QJsonObject job = QJsonDocument::fromJson(from.readAll()).object();
        QJsonArray bodies = job["bodies"].toArray();
        for (qsizetype i = 0; i < bodies.size(); ++i) {
            QJsonObject body = bodies[i].toObject();
            if (body["role"] == "stock") body["shape"] = QJsonObject{{"kind", "block"}, {"low", QJsonArray{-60, -44, 0}}, {"high", QJsonArray{60, 44, 66}}};
            bodies[i] = body;
        }
        job["bodies"] = bodies;
        QFile to(file);
        QVERIFY(to.open(QIODevice::WriteOnly));
        to.write(QJsonDocument(job).toJson());
        to.close();
        openJobFile("solid.gyre.json");
        m_model->setBench(Bench::Prove);
        QTest::mouseClick(find<QPushButton>("proveAll"), Qt::LeftButton);
        settle();
        const auto holderTold = [&] {
            const auto all = m_model->findings();
            const auto f = std::find_if(all.begin(), all.end(), [](const Finding& one) { return one.code == "holder-in-stock"; });
            return f == all.end() ? std::optional<Finding>() : std::optional(*f);
        };
        const auto told = holderTold();
        QVERIFY(told && told->rank == Rank::Stop);
        auto* show = find<QPushButton>("show.holder-in-stock");
        QTRY_VERIFY(show && show->isVisible());
        QTest::mouseClick(show, Qt::LeftButton);
        QCOMPARE(m_model->selected(), QString::fromStdString(told->operation));
        QCOMPARE(m_model->location(), told->span->first);
        QCOMPARE(stock().shown(), std::optional(StockBy::Operation));
        waitForStock();
        QVERIFY(m_window->view().stockDrawn());
        // What the proof tells of the stock is a hazard on the way: by key from before it, and playing stops there when it is told to.
        const auto hazards = m_model->hazards();
        QVERIFY(std::any_of(hazards.begin(), hazards.end(), [&](const auto& h) { return h.worst == told->span->first; }));
        std::size_t first = SIZE_MAX;
        for (const auto& h : hazards) first = std::min(first, h.worst);
        auto* tape = m_window->findChild<TapePanel*>();
        tape->setSpeed(1000);
        QTest::mouseClick(find<QPushButton>("toStart"), Qt::LeftButton);
        auto* stopAt = m_window->findChild<QAction*>("stopAt.hazard");
        QVERIFY(stopAt && stopAt->isCheckable());
        stopAt->trigger();
        tape->play(true);
        QTRY_VERIFY(!tape->playing());
        QCOMPARE(m_model->location(), first);
        QCOMPARE(m_model->selected(), QString::fromStdString(told->operation));
        stopAt->trigger();
        // The proof goes with its stock: taken away it holds no more, and with the stock around the part it is clear.
        const QString second = QString::fromStdString(m_model->job().route[1].id);
        QVERIFY(m_model->proof(second));
        openJobFile("yoke-edges.gyre.json");
        m_model->computeNow(true);
        settle();
        QVERIFY(m_model->proof(second) && !holderTold());
        // An edit of the operation before takes the proof of this one with it.
        m_model->select(QString::fromStdString(m_model->job().route[0].id));
        QVERIFY(m_model->setWord("edge.size", "0.6").has_value());
        settle();
        QVERIFY(!m_model->proof(second));
        stock().show({});
    }
    // Dragged to and fro, called off, another job opened in the middle: never a picture of another place or job.
    void hurried() {
        openJobFile("barrel-work.gyre.json");
        m_model->setBench(Bench::Prove);
        m_model->select("op2");
        stock().show(StockBy::Operation);
        const std::size_t n = m_model->result()->path()->size();
        Random random(91);
        for (int i = 0; i < 30; ++i) {
            m_model->setLocation(static_cast<std::size_t>(random.integer(0, static_cast<int>(n) - 1)));
            QCoreApplication::processEvents();
        }
        waitForStock();
        QCOMPARE(stock().picture()->location, m_model->location());
        stock().show(StockBy::Deviation);
        QVERIFY(m_window->openFile(m_dir->filePath("horn-guide.gyre.json"), false));
        settle();
        waitForStock();
        QVERIFY(stock().picture() && stock().picture()->by == StockBy::Deviation);
        QVERIFY(stock().picture()->skin->bounds().low.x() < -60.0); // the horn, not the barrel
        stock().show({});
        QVERIFY(!stock().picture());
        waitForStock();
    }
    // What a tool may take is said on its bench; what asks more of it is told in Prove, and its cure lets the feed follow the cut, which the sentence says then.
    void aHeavyCutAndAFeedThatFollows() {
        openJobFile("yoke-work.gyre.json");
        m_model->change("side pockets alone", [](Job& j) { std::erase_if(j.route, [](const Recipe& r) { return r.id != "op4"; }); });
        m_model->select("op4");
        settle();
        QTest::keyClick(m_window.get(), Qt::Key_T, Qt::ControlModifier);
        QTRY_VERIFY(m_model->tools().isOpen());
        click(find<QPushButton>("tool.flat-10"));
        QTRY_COMPARE(m_model->tools().shownId(), QString("flat-10"));
        type("tool.chip", "0.03");
        QTRY_COMPARE(m_model->job().tool("flat-10")->limits.chip, 0.03);
        type("tool.engaged", "400"); // refused: there is no more of it than 360
        QCOMPARE(m_model->job().tool("flat-10")->limits.engaged, 0.0);
        m_model->setBench(Bench::Cut);
        settle();
        QVERIFY(!wordFor("feedByCut.most"));
        QTest::keyClick(m_window.get(), Qt::Key_P, Qt::ControlModifier);
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->proof("op4"), 120000);
        m_model->setBench(Bench::Prove);
        QTRY_VERIFY(find<QPushButton>("fix.feedByCut.on.heavy-cut"));
        QVERIFY(!m_model->hazards().empty()); // playing stops there
        m_actions = 0;
        click(find<QPushButton>("show.heavy-cut"));
        QVERIFY(m_model->location() > 0);
        click(find<QPushButton>("fix.feedByCut.on.heavy-cut"));
        QCOMPARE(m_actions, 2);
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && !m_model->stale() && m_model->result() && m_model->result()->cutFeed, 120000);
        m_model->computeNow(true);
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && m_model->proof("op4"), 120000);
        QVERIFY(!find<QPushButton>("fix.feedByCut.on.heavy-cut") && m_model->hazards().empty());
        m_model->setBench(Bench::Cut);
        type("feedByCut.most", "180");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->upToDate("op4"), 120000);
        QCOMPARE(m_model->recipe()->feedByCut->most, 180.0);
        // The tape says the share that the path has there.
        auto* tape = find<TapeChart>("tape");
        const auto& share = m_model->result()->cutFeed->share;
        m_model->setLocation(static_cast<std::size_t>(std::min_element(share.begin(), share.end()) - share.begin()));
        QVERIFY(share[m_model->location()] < 0.9F);
        QTRY_COMPARE(tape->valueHere("feed"), QString("%1 %").arg(100.0 * static_cast<double>(share[m_model->location()]), 0, 'f', 1));
        type("feedByCut.least", "200"); // more than all of it is refused
        QVERIFY(m_model->recipe()->feedByCut->least <= 100.0);
        choose("feedByCut.on", "false");
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->upToDate("op4") && !m_model->result()->cutFeed, 120000);
        QVERIFY(!wordFor("feedByCut.most"));
        while (!m_model->undoLabel().isEmpty()) m_model->undo();
        QVERIFY(!m_model->job().tool("flat-10")->limits.any());
    }
};

GYRE_WINDOW_TEST(TestStockShow)

} // namespace test_stock_show
#include "test_stock_show.moc"
