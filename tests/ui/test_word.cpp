// Words and sentences by themselves: typing, stepping, dragging, units, choices, lists; and that text never overlaps.
#include "WindowTest.h"
#include "panels/Sentence.h"
#include <QApplication>
#include <QLineEdit>
#include <QMenu>
#include <QSignalSpy>
#include <QWheelEvent>

namespace test_word {

using namespace gyre;

class TestWord : public QObject {
    Q_OBJECT

    struct Shown {
        QWidget box;
        Sentence* sentence = new Sentence(&box);
        Shown() {
            box.resize(320, 200);
            sentence->setGeometry(8, 8, 300, 180);
            box.show();
            (void)QTest::qWaitForWindowExposed(&box);
            QApplication::setActiveWindow(&box);
        }
    };
    static Word* wordIn(Shown& s, Word::Kind kind, const QString& value, bool inches = false) {
        auto* w = new Word(kind, "key", "a word", s.sentence);
        w->show(value, inches);
        s.sentence->set("Before {}, after.", {w});
        return w;
    }
    static QLineEdit* line(Word* w) {
        for (auto* l : w->parentWidget()->findChildren<QLineEdit*>("edit.key"))
            if (l->isVisible()) return l; // closed ones live on until the next event
        return nullptr;
    }
    static void type(Word* w, const QString& text) {
        QTest::mouseClick(w, Qt::LeftButton);
        QVERIFY(line(w));
        QTest::keyClicks(line(w), text);
        QTest::keyClick(line(w), Qt::Key_Return);
    }

private slots:
    void typedNumbersTakeUnits_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<bool>("inches");
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("value");
        const auto length = static_cast<int>(Word::Kind::Length), angle = static_cast<int>(Word::Kind::Angle), number = static_cast<int>(Word::Kind::Number);
        QTest::newRow("mm") << length << false << "12.5" << 12.5;
        QTest::newRow("comma") << length << false << "2,5" << 2.5;
        QTest::newRow("inch in a mm job") << length << false << "0.5in" << 12.7;
        QTest::newRow("bare in an inch job") << length << true << "2" << 50.8;
        QTest::newRow("mm in an inch job") << length << true << "3 mm" << 3.0;
        QTest::newRow("fraction") << length << true << "1/4" << 6.35;
        QTest::newRow("degrees") << angle << false << QString::fromUtf8("45°") << 45.0;
        QTest::newRow("radians") << angle << false << "1 rad" << 180.0 / kPi;
        QTest::newRow("number") << number << false << "8000" << 8000.0;
        QTest::newRow("number with comma") << number << false << "0,05" << 0.05;
    }
    void typedNumbersTakeUnits() {
        QFETCH(int, kind);
        QFETCH(bool, inches);
        QFETCH(QString, text);
        QFETCH(double, value);
        Shown s;
        Word* w = wordIn(s, static_cast<Word::Kind>(kind), "1", inches);
        QSignalSpy spy(w, &Word::changed);
        type(w, text);
        QCOMPARE(spy.count(), 1);
        QVERIFY2(std::abs(spy[0][1].toDouble() - value) < 1e-9, qPrintable(spy[0][1].toString()));
    }
    void nonsenseIsToldAndChangesNothing() {
        for (const auto kind : {Word::Kind::Length, Word::Kind::Angle, Word::Kind::Number}) {
            Shown s;
            Word* w = wordIn(s, kind, "7");
            QSignalSpy changed(w, &Word::changed), wrong(w, &Word::wrongText);
            for (const char* text : {"words", "1..2", "--3", "1e999"}) {
                type(w, text);
                QVERIFY(w->value() == "7");
            }
            QCOMPARE(changed.count(), 0);
            QVERIFY(wrong.count() >= 3);
        }
    }
    void escapeKeepsWhatWas() {
        Shown s;
        Word* w = wordIn(s, Word::Kind::Length, "7");
        QSignalSpy changed(w, &Word::changed);
        QTest::mouseClick(w, Qt::LeftButton);
        QTest::keyClicks(line(w), "99");
        QTest::keyClick(line(w), Qt::Key_Escape);
        QCOMPARE(changed.count(), 0);
        QVERIFY(w->text().contains("7"));
        // The same text again is no change, either.
        QTest::mouseClick(w, Qt::LeftButton);
        QTest::keyClick(line(w), Qt::Key_Return);
        QCOMPARE(changed.count(), 0);
    }
    void keysWheelAndDragStep() {
        Shown s;
        Word* w = wordIn(s, Word::Kind::Length, "7.03");
        w->setStep(0.5);
        QSignalSpy changed(w, &Word::changed);
        w->setFocus();
        QTest::keyClick(w, Qt::Key_Up);
        QCOMPARE(changed.last()[1].toDouble(), 7.5); // round numbers, whatever it was
        QTest::keyClick(w, Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(changed.last()[1].toDouble(), 2.0);
        QWheelEvent wheel(QPointF(5, 5), w->mapToGlobal(QPointF(5, 5)), {}, QPoint(0, 120), Qt::NoButton, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(w, &wheel);
        QCOMPARE(changed.last()[1].toDouble(), 7.5);
        const QPoint from = w->rect().center();
        QTest::mousePress(w, Qt::LeftButton, {}, from);
        for (const int x : {10, 20, 30}) {
            QMouseEvent move(QEvent::MouseMove, from + QPoint(x, 0), w->mapToGlobal(from + QPoint(x, 0)), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(w, &move);
        }
        QCOMPARE(changed.last()[1].toDouble(), 10.0); // six steps of five pixels from 7
        QVERIFY(w->text().contains("10"));            // and the word shows it while it is dragged
        QTest::mouseRelease(w, Qt::LeftButton, {}, from + QPoint(30, 0));
        QVERIFY(!line(w)); // a drag is no click
        w->clearFocus();
        const int count = changed.count();
        QWheelEvent idle(QPointF(5, 5), w->mapToGlobal(QPointF(5, 5)), {}, QPoint(0, 120), Qt::NoButton, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(w, &idle);
        QCOMPARE(changed.count(), count); // the panel scrolls instead
    }
    void typingStartsTheLine() {
        Shown s;
        Word* w = wordIn(s, Word::Kind::Number, "3");
        QSignalSpy changed(w, &Word::changed);
        w->setFocus();
        QTest::keyClick(w, '4');
        QVERIFY(line(w) && line(w)->text() == "4");
        QTest::keyClicks(line(w), "2");
        QTest::keyClick(line(w), Qt::Key_Return);
        QCOMPARE(changed.last()[1].toDouble(), 42.0);
    }
    void choicesByMenuAndKeys() {
        Shown s;
        auto* w = new Word(Word::Kind::Choice, "key", "a choice", s.sentence);
        w->setOptions({{"a", "first"}, {"b", "second"}, {"c", "third"}});
        w->show("b", false);
        s.sentence->set("It is {}.", {w});
        QCOMPARE(w->text(), QString("second"));
        QSignalSpy changed(w, &Word::changed);
        w->setFocus();
        QTest::keyClick(w, Qt::Key_Up);
        QCOMPARE(changed.last()[1].toString(), QString("c"));
        w->show("c", false);
        QTest::keyClick(w, Qt::Key_Up); // round to the first
        QCOMPARE(changed.last()[1].toString(), QString("a"));
        QTest::keyClick(w, Qt::Key_Return);
        auto* menu = w->findChild<QMenu*>("menu.key");
        QVERIFY(menu && menu->actions().size() == 3 && menu->actions()[2]->isChecked());
        menu->actions()[1]->trigger();
        QCOMPARE(changed.last()[1].toString(), QString("b"));
        menu->close();
        w->show("", false);
        QCOMPARE(w->text(), QString("choose"));
    }
    void actionsPickAndTakeLists() {
        Shown s;
        auto* w = new Word(Word::Kind::Action, "key", "faces", s.sentence);
        w->setWords("3 faces");
        w->setList("1 4-5");
        s.sentence->set("Cut {}.", {w});
        QSignalSpy triggered(w, &Word::triggered), listed(w, &Word::listed);
        QTest::mouseClick(w, Qt::LeftButton);
        QCOMPARE(triggered.count(), 1);
        w->setFocus();
        QTest::keyClick(w, Qt::Key_F2);
        QVERIFY(line(w) && line(w)->text() == "1 4-5");
        QTest::keyClick(line(w), Qt::Key_End);
        QTest::keyClicks(line(w), " 9");
        QTest::keyClick(line(w), Qt::Key_Return);
        QCOMPARE(listed.count(), 1);
        QCOMPARE(listed[0][1].toString(), QString("1 4-5 9"));
        QTest::keyClick(w, '7');
        QVERIFY(line(w) && line(w)->text() == "7");
        QTest::keyClick(line(w), Qt::Key_Escape);
        QCOMPARE(listed.count(), 1);
        QTest::keyClick(w, Qt::Key_Space);
        QCOMPARE(triggered.count(), 2);
    }
    void textsAreText() {
        Shown s;
        Word* w = wordIn(s, Word::Kind::Text, "");
        QCOMPARE(w->text(), QString("nothing yet"));
        QSignalSpy changed(w, &Word::changed);
        type(w, "port, left");
        QCOMPARE(changed.last()[1].toString(), QString("port, left"));
    }
    void accessibleAndNamed() {
        Shown s;
        Word* w = wordIn(s, Word::Kind::Length, "7");
        QCOMPARE(w->accessibleName(), QString("a word"));
        QVERIFY(w->accessibleDescription().contains("7"));
        QCOMPARE(w->objectName(), QString("word.key"));
        QVERIFY(!w->toolTip().isEmpty());
        QVERIFY(!w->grab().isNull());
    }
    // Words of random lengths in sentences of random widths: all inside, none over another.
    void sentencesNeverOverlap() {
        test::Random random(91);
        for (int round = 0; round < 60; ++round) {
            Shown shown;
            Shown* s = &shown;
            std::vector<Word*> words;
            QString text = "Start";
            for (int n = random.integer(1, 12); n > 0; --n) {
                auto* w = new Word(Word::Kind::Action, QString("k%1").arg(n), "w", s->sentence);
                w->setWords(QString(random.integer(1, 18), 'm'));
                words.push_back(w);
                text += random.integer(0, 1) ? " and {}," : " {}";
            }
            const int width = random.integer(230, 420);
            s->sentence->setGeometry(0, 0, width, 20);
            s->sentence->set(text + ".", words);
            const int high = s->sentence->heightForWidth(width);
            for (std::size_t i = 0; i < words.size(); ++i) {
                QVERIFY(words[i]->x() >= 0 && words[i]->y() >= 0 && words[i]->geometry().bottom() <= high);
                QVERIFY2(words[i]->geometry().right() <= width || words[i]->x() == 0, "a word is cut off");
                for (std::size_t k = 0; k < i; ++k) QVERIFY(!words[i]->geometry().intersects(words[k]->geometry()));
            }
            QVERIFY(s->sentence->minimumHeight() >= s->sentence->fontMetrics().height());
        }
    }
};

GYRE_WINDOW_TEST(TestWord)

} // namespace test_word
#include "test_word.moc"
