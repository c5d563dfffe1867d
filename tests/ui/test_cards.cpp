// The recipe's cards, the route, the tape and the view as someone meets them: nothing moves, nothing is hidden without a sign, figures are true.
#include "Tour.h"
#include "Units.h"
#include "WindowTest.h"
#include "guard/Guard.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "panels/RecipePanel.h"
#include "panels/RoutePanel.h"
#include "panels/RouteStrip.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <QRegularExpression>
#include <QScrollArea>
#include <QScrollBar>
#include <QSplitter>
#include <set>

namespace test_cards {

using namespace gyre;

class TestCards : public test::WindowTest {
    Q_OBJECT

    QString verdict() { return find<QPushButton>("verdict")->toolTip(); }
    std::map<QString, QRect> places() {
        std::map<QString, QRect> out;
        for (const StageCard* c : m_window->findChildren<StageCard*>()) out[c->objectName()] = QRect(c->mapTo(m_window.get(), QPoint()), c->size());
        return out;
    }

    // Layouts come a moment after what they lay out: until nothing changes any more.
    template <class What> auto steady(const What& what) {
        auto now = what();
        for (int same = 0; same < 3;) {
            QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
            const auto next = what();
            same = next == now ? same + 1 : 0;
            now = next;
        }
        return now;
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // The worst is told above the cards, whatever is scrolled; a click leads to its place.
    void theVerdictIsAlwaysInSight() {
        QVERIFY2(verdict().startsWith("Stop") && verdict().contains("holder"), qPrintable(verdict()));
        for (QScrollArea* area : m_window->findChildren<QScrollArea*>()) area->verticalScrollBar()->setValue(area->verticalScrollBar()->maximum());
        auto* button = find<QPushButton>("verdict");
        QVERIFY(button->visibleRegion().boundingRect().height() > 15);
        m_model->setLocation(0);
        click(button);
        const auto r = m_model->result();
        QVERIFY(std::any_of(r->hazards.begin(), r->hazards.end(), [&](const PathHazard& h) { return m_model->location() >= h.first && m_model->location() <= h.last; }));
        type("tool.stickOut", "60");
        waitForPath();
        QTRY_VERIFY2(verdict().contains("not proven yet"), qPrintable(verdict()));
        m_model->computeNow(true);
        settle();
        QTRY_VERIFY2(verdict().contains("Proven"), qPrintable(verdict()));
    }
    void whatIsCancelledSaysSo() {
        m_model->setWord("pattern.spacing", "0.11");
        m_model->computeNow();
        m_model->cancel();
        settle();
        QTRY_VERIFY2(verdict().contains("compute again"), qPrintable(verdict()));
        QVERIFY(m_model->stale());
        QVERIFY(find<QLabel>("facts.Pattern")->text().contains("104 rows")); // the old figures stay
        click(find<QPushButton>("verdict"));
        waitForPath();
        QTRY_VERIFY(!find<QLabel>("facts.Pattern")->text().contains("104 rows"));
    }
    // Rare words are folded; one that is not as it comes is counted where it is hidden, and the finder unfolds it.
    void rareWordsFoldWithASign() {
        auto* more = find<QPushButton>("more.Pattern");
        QVERIFY(more && !more->isChecked() && more->text() == "more words");
        auto* chord = m_window->findChild<Word*>("word.pattern.chordTolerance");
        QVERIFY(chord && !chord->isVisible());
        type("pattern.chordTolerance", "0.02"); // unfolds it
        QVERIFY(chord->isVisible());
        QCOMPARE(m_model->recipe()->pattern->chordTolerance, 0.02);
        click(more);
        QVERIFY(!chord->isVisible());
        QCOMPARE(more->text(), QString("more words · 1 changed"));
        m_window->findChild<RecipePanel*>()->revealWord(chord);
        QVERIFY(chord->isVisible() && chord->hasFocus());
        type("feed", "777");
        QCOMPARE(m_model->recipe()->feed, 777.0);
        QCOMPARE(find<QPushButton>("more.Target")->isChecked(), true);
        waitForPath();
    }
    // From the change to the new path no card moves or changes its height, and the findings of before stand as what is looked at again.
    void nothingMovesWhileItComputes() {
        const auto before = steady([&] { return places(); });
        const auto stops = m_window->findChildren<QFrame*>("finding.holder-near").size() + m_window->findChildren<QFrame*>("finding.holder-hit").size();
        bool moved = false, pending = false;
        const auto look = [&] {
            if (!m_model->stale() && !m_model->computing()) return;
            QCoreApplication::sendPostedEvents();
            const auto now = places();
            moved = moved || now != before;
            for (const QFrame* f : m_window->findChildren<QFrame*>()) pending = pending || (f->isVisible() && f->property("role") == "pending");
        };
        connect(m_model.get(), &AppModel::progressChanged, this, look);
        type("axis.lead", "6.5");
        look();
        waitForPath();
        disconnect(m_model.get(), &AppModel::progressChanged, this, nullptr);
        QVERIFY(!moved);
        QVERIFY(pending || stops == 0);
        settle();
        for (const QFrame* f : m_window->findChildren<QFrame*>()) QVERIFY(!f->isVisible() || f->property("role") != "pending");
    }
    // Return ends the typing and gives the keys back to the view; Tab from there comes to every word.
    void returnGivesTheKeysToTheView() {
        type("axis.tilt", "37");
        QTRY_VERIFY(m_window->view().hasFocus());
        QTest::keyClick(&m_window->view(), Qt::Key_2);
        QCOMPARE(m_model->peel(), Stage::Pattern);
        waitForPath();
    }
    void theTapeHasScalesAndChannels() {
        auto* chart = find<TapeChart>("tape");
        // Drawn, if that is still due.
        QTRY_VERIFY_WITH_TIMEOUT(!chart->grab().isNull() && chart->channels().contains("lead") && chart->channels().contains("holder"), 60000);
        const auto r = m_model->result();
        for (const double share : {0.1, 0.37, 0.8}) {
            m_model->setLocation(static_cast<std::size_t>(share * static_cast<double>(r->path()->size())));
            const std::size_t i = m_model->location();
            if (r->path()->motion[i] == Motion::Rapid) continue;
            const float v = r->holderClearance[i];
            QCOMPARE(chart->valueHere("holder"), v >= 19.999f ? QString("over 20 mm") : QString("%1 mm").arg(static_cast<double>(v), 0, 'f', 2));
        }
        chart->showChannel("C", false);
        QVERIFY(!chart->shows("C"));
        (void)chart->grab();
        for (const QString& c : chart->channels()) chart->showChannel(c, false);
        int shown = 0;
        (void)chart->grab();
        for (const QString& c : chart->channels()) shown += chart->shows(c);
        QVERIFY(shown >= 1);
        // It is dragged taller by its edge.
        auto* tape = m_window->findChild<TapePanel*>();
        const int height = tape->height();
        auto* rows = m_window->findChild<QSplitter*>("viewAndTape");
        const QPoint edge = rows->handle(1)->rect().center();
        QTest::mousePress(rows->handle(1), Qt::LeftButton, {}, edge);
        moveMouse(rows->handle(1), edge - QPoint(0, 60));
        QTest::mouseRelease(rows->handle(1), Qt::LeftButton, {}, edge - QPoint(0, 60));
        QTRY_VERIFY(tape->height() > height + 20);
    }
    void panelsFold() {
        const int wide = m_window->view().width();
        click(find<QPushButton>("routeFold"));
        QTRY_VERIFY(m_window->view().width() > wide + 100);
        QVERIFY(!find<QPushButton>("addOperation") || !find<QPushButton>("addOperation")->isVisible());
        click(find<QPushButton>("routeFold"));
        QTRY_COMPARE(m_window->view().width(), wide);
        click(find<QPushButton>("recipeFold"));
        QVERIFY(m_window->findChild<Word*>("word.links.entryRadius")->isVisible()); // the links are in hand
        QVERIFY(!m_window->findChild<Word*>("word.axis.lead")->isVisible());
        QTest::keyClick(m_window.get(), Qt::Key_3);
        QTRY_VERIFY(m_window->findChild<Word*>("word.axis.lead")->isVisible());
        click(find<QPushButton>("recipeFold"));
        QVERIFY(m_window->findChild<Word*>("word.links.entryRadius")->isVisible());
    }
    // A station is dragged to another place; its steps go with it, and it is one step to undo.
    void stationsAreDragged() {
        openJobFile("dome-stars.gyre.json");
        const auto ids = [&] {
            QStringList out;
            for (const Recipe& r : m_model->job().route) out << QString::fromStdString(r.id);
            return out;
        };
        const QStringList before = ids();
        QStringList heads;
        for (const Recipe& r : m_model->job().route)
            if (r.parent.empty()) heads << QString::fromStdString(r.id);
        QVERIFY(heads.size() >= 2);
        m_model->route().placeBefore(heads.last(), heads.first());
        QCOMPARE(ids().first(), heads.last());
        m_model->undo();
        QCOMPARE(ids(), before);
        auto* first = find<Station>("station." + heads.first());
        auto* panel = m_window->findChild<RoutePanel*>();
        QVERIFY(first && panel);
        QTest::mousePress(first, Qt::LeftButton, {}, QPoint(60, 20));
        moveMouse(first, QPoint(60, 60));
        moveMouse(first, QPoint(60, 3000));
        QVERIFY(m_window->findChild<QWidget*>("dropLine")->isVisible());
        QTest::mouseRelease(first, Qt::LeftButton, {}, QPoint(60, 3000));
        QVERIFY(!m_window->findChild<QWidget*>("dropLine")->isVisible());
        QVERIFY(ids() != before);
        int steps = 0;
        const auto& route = m_model->job().route;
        for (std::size_t i = 0; i < route.size(); ++i)
            if (!route[i].parent.empty()) {
                ++steps;
                QVERIFY(i > 0 && (route[i - 1].id == route[i].parent || route[i - 1].parent == route[i].parent));
            }
        QVERIFY(steps > 0);
        m_model->undo();
        QCOMPARE(ids(), before);
        settle();
    }
    // Rows closer than three pixels are thinned, by how far one has zoomed, and the view says so.
    void rowsAreThinnedFromAfar() {
        View& view = m_window->view();
        m_model->setPeel(Stage::Pattern);
        (void)view.grab();
        const double spacing = m_model->result()->pattern->spacing;
        for (const double factor : {1.0, 0.5, 0.25, 0.25, 0.25}) {
            view.camera().zoom(factor, QPointF(view.width() / 2.0, view.height() / 2.0));
            (void)view.grab();
            const double pixels = spacing * view.everyRow() / view.camera().pixelSize();
            QVERIFY2(pixels >= 2.99, qPrintable(QString("%1 px, every %2").arg(pixels).arg(view.everyRow())));
            QVERIFY(view.everyRow() == 1 || pixels < 13.0);
        }
        for (int i = 0; i < 8; ++i) view.camera().zoom(i % 2 ? 1.6 : 1.6, QPointF(view.width() / 2.0, view.height() / 2.0));
    }
    void theViewLooksFromAllSides() {
        View& view = m_window->view();
        const Vec3 wanted[] = {{0, 0, -1}, {0, 0, 1}, {0, 1, 0}, {0, -1, 0}, {1, 0, 0}, {-1, 0, 0}};
        for (int i = 0; i < 6; ++i) {
            view.lookFrom(static_cast<View::From>(i));
            QVERIFY2(angleBetween(view.camera().direction(), wanted[i]) < 0.02, qPrintable(QString::number(i)));
        }
        view.lookFrom(View::From::Corner);
        view.frameAll();
        const double far = view.camera().pixelSize();
        view.frameWork();
        QVERIFY(view.camera().pixelSize() < far);
        const Part& part = *m_model->place()->part;
        for (const int f : m_model->result()->faces) QVERIFY(view.rect().contains(view.camera().project(part.faces()[static_cast<std::size_t>(f)].centre)->toPoint()));
    }
    // Show goes to the worst place, frames it, and the number drawn there is the clearance that was measured.
    void showFramesThePlaceWithItsNumber() {
        View& view = m_window->view();
        const auto r = m_model->result();
        const auto stop = std::find_if(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.rank == Rank::Stop; });
        QVERIFY(stop != r->findings.end());
        (void)view.grab(); // framed, if that is still due
        const double before = view.camera().pixelSize();
        m_model->showFinding(*stop);
        QVERIFY(view.camera().pixelSize() < 0.8 * before);
        const auto& near = view.tooNear();
        QVERIFY(near);
        QCOMPARE(near->zone, Zone::Holder);
        QVERIFY2(near->body == "clamp 2", near->body.c_str());
        const float measured = r->holderClearance[m_model->location()];
        QVERIFY2(std::abs(std::max(0.0, near->distance) - std::max(0.0f, measured)) < 1e-3, qPrintable(QString("%1 and %2").arg(near->distance).arg(measured)));
        for (const Vec3& p : {near->onTool, near->onBody}) QVERIFY(view.rect().contains(view.camera().project(p)->toPoint()));
        QVERIFY(!view.grab().isNull());
        m_model->setLocation(0);
        QVERIFY(!view.tooNear());
    }
    // The tool is seen through where it hides the place that it touches, and wherever the user wants.
    void theToolNeverHidesTheWork() {
        View& view = m_window->view();
        const auto r = m_model->result();
        std::size_t at = r->path()->size() / 2;
        while (r->path()->motion[at] != Motion::Cut) ++at;
        m_model->setLocation(at);
        const Vec3 a = r->path()->axis[at];
        view.camera().look(degrees(std::atan2(a.y(), a.x())), degrees(std::asin(a.z()))); // along the tool from behind
        QVERIFY(view.toolHides());
        view.camera().look(degrees(std::atan2(-a.y(), -a.x())), 10);
        QTest::keyClick(m_window.get(), Qt::Key_O);
        QVERIFY(view.toolFaded());
        QTest::keyClick(m_window.get(), Qt::Key_O);
        QVERIFY(!view.toolFaded());
    }
    // Whatever the job is called, whether it is edited, and at which machine: the benches stay under the pointer.
    void theBenchesStayWhereTheyAre() {
        for (const int width : {1100, 1280, 1600}) {
            m_window->resize(width, 760);
            QCoreApplication::processEvents();
            const auto at = [&] {
                return steady([&] {
                    auto* b = m_window->findChild<QPushButton*>("bench.Prove");
                    return QRect(b->mapTo(m_window.get(), QPoint()), b->size());
                });
            };
            const QRect before = at();
            for (const char* name : {"x", "A part with a name that is much longer than there is room for in the bar", "Lantern collar"}) {
                m_model->change("name", [name](Job& j) { j.name = name; });
                QVERIFY2(at() == before, qPrintable(QString("%1 wide, %2: %3 and %4").arg(width).arg(name).arg(at().x()).arg(before.x())));
            }
            for (const Bench b : {Bench::SetUp, Bench::Cut, Bench::Send, Bench::Prove, Bench::Cut}) {
                m_model->setBench(b);
                QVERIFY2(m_window->width() <= width, qPrintable(QString("bench %1: %2 for %3").arg(static_cast<int>(b)).arg(m_window->width()).arg(width)));
                QVERIFY2(at() == before, qPrintable(QString("%1 wide, bench %2: %3 and %4").arg(width).arg(static_cast<int>(b)).arg(at().x()).arg(before.x())));
            }
        }
        settle();
    }
    // Inches are inches everywhere: facts, findings, tape, tool names, the words over the view; and they are the same lengths.
    void inchesAreEverywhere() {
        QCOMPARE(inUnits("104 rows · 10.12 m · widest gap 0.400 mm", true), QString("104 rows · 398.4 in · widest gap 0.01575 in"));
        QCOMPARE(inUnits("8 faces · 37.7 cm²", true), QString("8 faces · 5.84 in²"));
        QCOMPARE(inUnits("Ø6 ball, 1 to 2 mm, 11.71°/mm, 500 mm/min", true), QString("Ø0.2362 ball, 0.04 to 0.08 in, 297.4°/in, 19.7 in/min"));
        QCOMPARE(inUnits("rows 1–8, clamp 2, M3, -0.02 mm", true), QString("rows 1–8, clamp 2, M3, -0.0008 in"));
        QCOMPARE(inUnits("0.400 mm", false), QString("0.400 mm"));
        auto* chart = find<TapeChart>("tape");
        m_model->setLocation(m_model->result()->path()->size() / 2);
        QTRY_VERIFY_WITH_TIMEOUT(!chart->grab().isNull() && chart->valueHere("shank").endsWith(" mm"), 60000); // drawn, if that is still due
        const double before = chart->valueHere("shank").section(' ', 0, 0).toDouble();
        click(find<QPushButton>("unitsButton"));
        waitForPath();
        const QString after = chart->valueHere("shank");
        QVERIFY2(after.endsWith(" in") && std::abs(after.section(' ', 0, 0).toDouble() - before / 25.4) < 5e-4, qPrintable(after));
        const QRegularExpression millimetres("\\d ?mm\\b");
        for (const QLabel* l : m_window->findChildren<QLabel*>())
            if (l->isVisible()) QVERIFY2(!l->text().contains(millimetres), qPrintable(l->text()));
        for (const QPushButton* b : m_window->findChildren<QPushButton*>())
            if (b->isVisible()) QVERIFY2(!b->text().contains(millimetres), qPrintable(b->text()));
        QCOMPARE(find<Word>("word.tool")->text(), QString("Ø0.2362 ball"));
    }
    // The tour's cards stand inside the window at every size, beside what they speak of; Esc leaves.
    void theTourFitsAndEnds() {
        for (const QSize size : {QSize(1100, 700), QSize(1280, 800)}) {
            m_window->resize(size);
            m_window->takeTour();
            auto* tour = m_window->findChild<Tour*>("tour");
            QVERIFY(tour);
            for (int i = 0; i < tour->steps(); ++i) {
                QCOMPARE(tour->step(), i);
                QCoreApplication::processEvents();
                QVERIFY(m_window->rect().contains(tour->geometry()));
                for (const QLabel* l : tour->findChildren<QLabel*>()) QVERIFY(l->height() >= l->heightForWidth(l->width()) - 1);
                if (i + 1 < tour->steps()) QTest::mouseClick(find<QPushButton>("tourNext"), Qt::LeftButton);
            }
            QTest::keyClick(tour, Qt::Key_Escape);
            QTRY_VERIFY(!m_window->findChild<Tour*>("tour"));
        }
        QVERIFY(Tour::seen());
    }
    // The whole route over the tape: every station has its stretch, as long as it takes; a click goes there, and arrow keys step.
    void theWholeRouteStandsOverTheTape() {
        auto* strip = m_window->findChild<RouteStrip*>("routeStrip");
        QVERIFY(strip && !strip->isVisible()); // of one operation the tape tells all
        QVERIFY(m_window->openFile(m_dir->filePath("collar-patterns.gyre.json"), false));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled() && m_model->place(), 240000);
        m_model->setBench(Bench::Cut);
        QTRY_VERIFY(strip->isVisible());
        (void)m_window->grab();
        const auto& all = strip->stretches();
        QCOMPARE(all.size(), m_model->job().worked().size());
        double from = 0.0;
        for (const auto& s : all) {
            const auto r = m_model->result(s.operation);
            QVERIFY(r && r->complete() && s.known);
            QVERIFY(std::abs(s.from - from) < 1e-9 && std::abs(s.to - s.from - r->motion->duration) < 1e-9);
            QCOMPARE(s.stops, std::any_of(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.rank == Rank::Stop; }));
            for (const auto& [a, b] : s.hazards) QVERIFY(a >= 0.0 && b >= a && b <= r->motion->duration + 1e-9);
            from = s.to;
        }
        // Halfway into the last: that operation, at about half of its time.
        const auto last = all.back();
        const double x = strip->xOf(0.5 * (last.from + last.to));
        QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(static_cast<int>(x), strip->height() / 2));
        QCOMPARE(m_model->selected(), last.operation);
        const double pixel = 1.0 / (strip->xOf(1.0) - strip->xOf(0.0));
        QVERIFY(strip->now());
        QVERIFY2(std::abs(*strip->now() - 0.5 * (last.from + last.to)) < 2.0 * pixel + 1.0,
                 qPrintable(QString("%1 for %2").arg(*strip->now()).arg(0.5 * (last.from + last.to))));
        strip->setFocus();
        QTest::keyClick(strip, Qt::Key_Left);
        QCOMPARE(m_model->selected(), strip->stretches()[strip->stretches().size() - 2].operation);
        for (int i = 0; i < 9; ++i) QTest::keyClick(strip, Qt::Key_Left);
        QCOMPARE(m_model->selected(), strip->stretches().front().operation);
    }
    // Patterns by the words: every kind is chosen in the sentence, and says what it needs.
    void everyPatternIsAChoice() {
        type("pattern.spacing", "3");
        waitForPath();
        choose("pattern.kind", "distance");
        QVERIFY(find<Word>("word.pattern.rail1"));
        waitForPath();
        QVERIFY2(find<QLabel>("facts.Pattern")->text().contains("rows"), qPrintable(find<QLabel>("facts.Pattern")->text()));
        choose("pattern.kind", "rings");
        QVERIFY(find<Word>("word.pattern.axis") && find<Word>("word.pattern.centre.0"));
        waitForPath();
        choose("pattern.kind", "point");
        type("pattern.centre.2", "-40");
        waitForPath();
        QCOMPARE(m_model->recipe()->pattern->centre.z(), -40.0);
        choose("pattern.by", "count");
        type("pattern.count", "12");
        waitForPath();
        std::set<int> rows;
        for (const Row& row : m_model->result()->pattern->rows) rows.insert(row.index);
        QVERIFY2(rows.size() >= 10 && rows.size() <= 12, qPrintable(QString::number(rows.size()))); // the first and the last may be a point
        choose("pattern.from", "middle");
        waitForPath();
        choose("pattern.kind", "grid");
        QVERIFY(find<Word>("word.pattern.acrossGrid"));
        waitForPath();
    }
};

GYRE_WINDOW_TEST(TestCards)

} // namespace test_cards
#include "test_cards.moc"
