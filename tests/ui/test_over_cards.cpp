// Cards over the view: marks on the surface and the place on the table, by keys and mouse; one of them is open at a time. And the stock's colours.
#include "WindowTest.h"
#include "model/Fits.h"
#include "model/MarksShow.h"
#include "model/SeatShow.h"
#include "model/StandStill.h"
#include "model/StockShow.h"
#include "model/Variants.h"
#include "operation/OperationResult.h"
#include "pattern/PatternSpec.h"

namespace test_over_cards {

using namespace gyre;

class TestOverCards : public test::WindowTest {
    Q_OBJECT

    MarksShow& marks() { return m_model->marks(); }
    SeatShow& seats() { return m_model->seats(); }
    void waitForMarks() { QTRY_VERIFY_WITH_TIMEOUT(marks().settled() && (marks().picture() || !marks().trouble().isEmpty()), 120000); }
    void waitForSeats() { QTRY_VERIFY_WITH_TIMEOUT(seats().settled() && (seats().map() || !seats().trouble().isEmpty()), 240000); }
    [[nodiscard]] QString said(const char* name) const { return m_window->findChild<QLabel*>(name) ? m_window->findChild<QLabel*>(name)->text() : QString(); }
    [[nodiscard]] bool seen(const char* name) const { return m_window->findChild<QWidget*>(name) && m_window->findChild<QWidget*>(name)->isVisible(); }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // By its key; it follows the playhead and the path; twice and half as wide; wrong widths are refused; Escape closes it.
    void marksFollowThePlayhead() {
        m_model->setWord("pattern.spacing", "1"); // fewer rows tell as much
        waitForPath();
        m_model->setLocation(m_model->result()->path()->size() / 2);
        QTest::keyClick(m_window.get(), Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(marks().isOpen() && seen("marksPanel"));
        waitForMarks();
        QVERIFY2(marks().picture(), qPrintable(marks().trouble()));
        QVERIFY2(said("marks.told").contains("Rt") && said("marks.told").contains(QString::fromUtf8("µm")), qPrintable(said("marks.told")));
        const auto first = marks().picture();
        QVERIFY(first->across.rt > 0.0 && first->sum.uncut == 0.0);
        QVERIFY(std::abs(first->size - 6.0 * m_model->recipe()->pattern->spacing) < 0.51);
        m_model->setLocation(m_model->location() + m_model->result()->path()->size() / 9);
        QTRY_VERIFY_WITH_TIMEOUT(marks().settled() && marks().picture() != first, 120000);
        QVERIFY((marks().picture()->place.at - first->place.at).norm() > 0.1);
        const double size = marks().size();
        click(find<QPushButton>("marks.larger"));
        QCOMPARE(marks().size(), 2.0 * size);
        waitForMarks();
        QTRY_COMPARE_WITH_TIMEOUT(marks().picture()->size, 2.0 * size, 120000);
        click(find<QPushButton>("marks.smaller"));
        for (const double wrong : {0.0, -1.0, 1e9, std::nan("")}) marks().setSize(wrong);
        QCOMPARE(marks().size(), size);
        type("marks.size", "1.5");
        QCOMPARE(marks().size(), 1.5);
        // Wider steps leave higher ridges.
        QTRY_VERIFY_WITH_TIMEOUT(marks().settled() && marks().picture() && marks().picture()->size == 1.5, 120000);
        const double rt = marks().picture()->across.rt;
        m_model->setWord("pattern.spacing", "1.6");
        waitForPath();
        m_model->setLocation(m_model->result()->path()->size() / 2);
        marks().setSize(3.0);
        QTRY_VERIFY_WITH_TIMEOUT(marks().settled() && marks().picture() && marks().picture()->size == 3.0, 240000);
        QVERIFY2(marks().picture()->across.rt > 1.5 * rt, qPrintable(QString("%1 after %2").arg(marks().picture()->across.rt).arg(rt)));
        // In inches heights are told in millionths of one.
        m_model->change("inches", [](Job& j) { j.units = LengthUnit::Inch; });
        QTRY_VERIFY_WITH_TIMEOUT(marks().settled() && said("marks.told").contains(QString::fromUtf8("µin")), 120000);
        find<QWidget>("marksPanel")->setFocus();
        QTest::keyClick(find<QWidget>("marksPanel"), Qt::Key_Escape);
        QVERIFY(!marks().isOpen() && !seen("marksPanel"));
    }

    // The map of the table: a place is clicked, measured, taken; one step back. It says what it costs before.
    void thePartIsMovedToAPlaceOfTheMap() {
        waitForPath();
        const Vec3 before = m_model->job().seat;
        QTest::keyClick(m_window.get(), Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(seats().isOpen());
        waitForSeats();
        QVERIFY2(seats().map(), qPrintable(seats().trouble()));
        QVERIFY2(said("seats.summary").contains("As it stands"), qPrintable(said("seats.summary")));
        click(find<QPushButton>("seats.sheet0"));
        QCOMPARE(seats().sheet(), std::size_t{0});
        // The place in the middle of the map goes; a click far out chooses nothing.
        const SeatMap& map = *seats().map();
        std::size_t i = map.x.size() / 2, j = map.y.size() / 2;
        auto* table = find<QWidget>("seats.map");
        QTest::mouseClick(table, Qt::LeftButton, {}, QPoint(2, 2));
        QTest::mouseMove(table, table->rect().center());
        QTRY_VERIFY2(said("seats.under").contains("at "), qPrintable(said("seats.under")));
        QTest::mouseClick(table, Qt::LeftButton, {}, table->rect().center());
        QTRY_VERIFY_WITH_TIMEOUT(seats().settled() && seats().chosen() && seats().chosen()->measured, 120000);
        const SeatTry chosen = *seats().chosen();
        QCOMPARE(chosen.seat.x(), map.x[i]);
        QCOMPARE(chosen.seat.y(), map.y[j]);
        click(find<QPushButton>("seats.take"));
        QCOMPARE(m_model->job().seat, chosen.seat);
        waitForPath();
        QTRY_VERIFY_WITH_TIMEOUT(!m_model->computing() && !m_model->stale(), 240000);
        double seconds = 0.0;
        for (const Recipe& r : m_model->job().worked())
            if (const auto done = m_model->result(QString::fromStdString(r.id)); done && done->complete()) seconds += secondsOf(*done);
        QVERIFY2(std::abs(seconds - chosen.seconds) < 0.03 * chosen.seconds, qPrintable(QString("%1, told %2").arg(seconds).arg(chosen.seconds)));
        m_model->undo();
        QCOMPARE(m_model->job().seat, before);
    }

    // They lie at the same place: whichever opens last is seen alone, whatever is under way. Another bench hides what does not belong there.
    void oneAtATime() {
        waitForPath();
        const std::vector<std::pair<const char*, std::function<CardPart&()>>> cards{{"marksPanel", [&]() -> CardPart& { return m_model->marks(); }},
                                                                                    {"fitsPanel", [&]() -> CardPart& { return m_model->fits(); }},
                                                                                    {"seatsPanel", [&]() -> CardPart& { return m_model->seats(); }},
                                                                                    {"standStillPanel", [&]() -> CardPart& { return m_model->standStill(); }},
                                                                                    {"variantsPanel", [&]() -> CardPart& { return m_model->variants(); }}};
        for (const auto& [name, card] : cards) {
            card().toggle();
            for (const auto& [other, its] : cards) QCOMPARE(its().isOpen(), name == other);
            QVERIFY2(seen(name), name);
        }
        for (auto it = cards.rbegin(); it != cards.rend(); ++it) it->second().open(true);
        m_model->setBench(Bench::Send);
        for (const auto& [name, card] : cards) QVERIFY2(!seen(name), name);
        m_model->setBench(Bench::Prove);
        QVERIFY(seen("marksPanel"));
        m_model->marks().open(false);
        for (const auto& [name, card] : cards) QTRY_VERIFY_WITH_TIMEOUT(card().settled(), 120000);
    }

    // The stock by operation, clicked again by tool, by age; what it was coloured by comes back.
    void coloursOfTheStock() {
        openJobFile("barrel-work.gyre.json");
        m_model->setBench(Bench::Prove);
        m_model->select("op1");
        settle();
        auto* button = find<QPushButton>("stockShown.1");
        const auto settled = [&] { return m_model->stock().settled() && m_model->stock().picture(); };
        for (const StockBy by : {StockBy::Operation, StockBy::Tool, StockBy::Age}) {
            click(button);
            QCOMPARE(m_model->stock().shown(), std::optional(by));
            QTRY_VERIFY_WITH_TIMEOUT(settled() && m_model->stock().picture()->by == by, 120000);
            const auto& picture = *m_model->stock().picture();
            double whole = 0.0;
            for (const auto& band : picture.bands) whole += band.share;
            QVERIFY(std::abs(whole - 1.0) < 1e-9);
            for (const int face : picture.skin->faces) QVERIFY(face >= 0 && face < static_cast<int>(picture.bands.size()));
            if (by == StockBy::Tool) QCOMPARE(picture.bands[1].name, QString::fromStdString(m_model->result()->tool.name));
            if (by == StockBy::Age) QVERIFY2(picture.bands.back().name.contains("now"), qPrintable(picture.bands.back().name));
        }
        QCOMPARE(button->text(), QString("Stock by age"));
        QTest::keyClick(m_window.get(), Qt::Key_K);
        QCOMPARE(m_model->stock().shown(), std::optional(StockBy::Deviation));
        QTest::keyClick(m_window.get(), Qt::Key_K);
        QVERIFY(!m_model->stock().shown());
        QTest::keyClick(m_window.get(), Qt::Key_K);
        QCOMPARE(m_model->stock().shown(), std::optional(StockBy::Age));
        QTest::keyClick(m_window.get(), Qt::Key_K, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(m_model->stock().shown(), std::optional(StockBy::Operation));
    }
};

GYRE_WINDOW_TEST(TestOverCards)

} // namespace test_over_cards
#include "test_over_cards.moc"
