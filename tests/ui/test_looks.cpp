// What the eye would see at once: nothing cut off, nothing squeezed, nothing over something else – in every demo job, at two sizes.
#include "Theme.h"
#include "WindowTest.h"
#include <QScrollArea>
#include <map>

namespace test_looks {

using namespace gyre;

class TestLooks : public test::WindowTest {
    Q_OBJECT

    QString m_trouble;

    static bool shown(const QWidget* w) { return w->isVisible() && w->width() > 0; }
    void complain(const QWidget* w, const QString& what) {
        const auto* label = qobject_cast<const QLabel*>(w);
        const auto* word = qobject_cast<const Word*>(w);
        m_trouble += QString("%1 '%2' %3; ").arg(w->metaObject()->className(), label ? label->text() : word ? word->text() : w->objectName(), what);
    }
    /// Of a label's text with what is behind most of it.
    static double contrastOf(QLabel* label) {
        const QImage drawn = label->grab().toImage();
        std::map<QRgb, int> counts;
        for (int x = 0; x < drawn.width(); x += 2)
            for (int y = 0; y < drawn.height(); y += 2) ++counts[drawn.pixel(x, y)];
        const auto most = std::max_element(counts.begin(), counts.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        return most == counts.end() ? 21.0 : Theme::contrast(label->palette().color(label->foregroundRole()), QColor(most->first));
    }
    QString lookedAt() {
        m_trouble.clear();
        for (const QWidget* side : {m_window->findChild<QWidget*>("leftPanel"), m_window->findChild<QWidget*>("rightPanel")}) {
            if (!side || !shown(side)) continue;
            for (const QLabel* l : side->findChildren<QLabel*>()) {
                if (!shown(l) || l->text().isEmpty()) continue;
                const QSize room = l->contentsRect().size();
                if (l->wordWrap() ? l->heightForWidth(l->width()) > l->height() + 1
                                  : l->sizeHint().width() > l->width() + 1 || l->fontMetrics().height() > room.height() + 2)
                    complain(l, "is cut off");
            }
            for (const QLabel* l : side->findChildren<QLabel*>())
                if (shown(l) && !l->text().isEmpty() && l->pixmap().isNull())
                    if (const double c = contrastOf(const_cast<QLabel*>(l)); c < 4.5) complain(l, QString("has a contrast of %1").arg(c, 0, 'f', 2));
            for (const Word* w : side->findChildren<Word*>()) {
                if (!shown(w)) continue;
                const int left = w->mapTo(side, QPoint(0, 0)).x();
                if (left < 0 || left + w->width() > side->width()) complain(w, "stands out of its panel");
                const QWidget* sentence = w->parentWidget();
                if (w->geometry().bottom() > sentence->height() + 1) complain(w, "hangs out of its sentence");
            }
            for (const QPushButton* b : side->findChildren<QPushButton*>()) {
                if (!shown(b) || b->text().isEmpty()) continue;
                const int left = b->mapTo(side, QPoint(0, 0)).x();
                if (left < 0 || left + b->width() > side->width() + 1) complain(b, "stands out of its panel");
            }
            // In a card no line lies over another.
            for (const QFrame* card : side->findChildren<QFrame*>()) {
                if (!shown(card) || card->property("role") != "card") continue;
                std::vector<const QWidget*> lines;
                for (const QObject* o : card->children())
                    if (const auto* w = qobject_cast<const QWidget*>(o); w && shown(w)) lines.push_back(w);
                for (std::size_t i = 0; i < lines.size(); ++i)
                    for (std::size_t k = 0; k < i; ++k)
                        if (const QRect both = lines[i]->geometry() & lines[k]->geometry(); both.width() > 1 && both.height() > 2)
                            complain(lines[i], "lies over another");
            }
        }
        return m_trouble;
    }
    /// Sentences may still be on their way to their places: what is wrong must stay so to count.
    void look() {
        (void)QTest::qWaitFor([this] { return lookedAt().isEmpty(); });
        QVERIFY2(m_trouble.isEmpty(), qPrintable(m_trouble));
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    void nothingIsCutOff_data() {
        QTest::addColumn<QString>("job");
        for (const char* j : {"lantern-collar", "dome-setup", "barrel-setup", "yoke-setup", "horn-setup", "runner-setup"}) QTest::newRow(j) << QString(j);
    }
    void nothingIsCutOff() {
        QFETCH(QString, job);
        QVERIFY(m_window->openFile(m_dir->filePath(job + ".gyre.json"), false));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled() && m_model->place(), 60000);
        QVERIFY2(m_model->setupTrouble().isEmpty(), qPrintable(m_model->setupTrouble()));
        for (const QSize& size : {QSize(1280, 800), QSize(1920, 1080)}) {
            m_window->resize(size);
            for (const Bench b : {Bench::SetUp, Bench::Cut, Bench::Prove, Bench::Send}) {
                m_model->tools().setOpen(false);
                m_model->setBench(b);
                QVERIFY(!m_window->grab().isNull());
                QCOMPARE(m_window->size(), size); // nothing pushes the window wider than it was made
                look();
            }
            m_model->tools().setOpen(true);
            QVERIFY(!m_window->grab().isNull());
            look();
            m_model->tools().setOpen(false);
        }
        // In inches numbers are longer.
        m_model->change("units", [](Job& j) { j.units = LengthUnit::Inch; });
        m_window->resize(1280, 800);
        m_model->setBench(Bench::SetUp);
        QTRY_VERIFY_WITH_TIMEOUT(m_model->settled(), 60000);
        look();
    }
    // Every colour that text has, on every ground that it stands on.
    void textIsReadInBothThemes() {
        for (const Theme& t : {Theme::paper(), Theme::night()}) {
            for (const QColor& ground : {t.ground, t.panel, t.card, t.accentSoft})
                for (const QColor& ink : {t.ink, t.softInk, t.accent, t.ochreInk, t.unsafe, t.slate})
                    QVERIFY2(Theme::contrast(ink, ground) >= 4.5, qPrintable(QString("%1 on %2: %3").arg(ink.name(), ground.name()).arg(Theme::contrast(ink, ground))));
            QVERIFY(Theme::contrast(t.card, t.accent) >= 4.5); // what is checked
            QVERIFY(Theme::contrast(t.unsafe, t.unsafeSoft) >= 4.5);
            QVERIFY(Theme::contrast(t.ink, t.unsafeSoft) >= 4.5);
        }
        QVERIFY(std::abs(Theme::contrast(Qt::black, Qt::white) - 21.0) < 1e-9);
        QVERIFY(std::abs(Theme::contrast(QColor("#777777"), Qt::white) - 4.48) < 0.01);
    }
    void everyDemoPartIsSetUpWithinReach() {
        for (const char* job : {"collar-setup", "dome-setup", "barrel-setup", "yoke-setup", "horn-setup", "runner-setup", "moth-relief"}) {
            QVERIFY(m_window->openFile(m_dir->filePath(QString(job) + ".gyre.json"), false));
            QTRY_VERIFY_WITH_TIMEOUT(m_model->settled() && m_model->place(), 60000);
            QVERIFY2(m_model->setupTrouble().isEmpty(), qPrintable(m_model->setupTrouble()));
            QVERIFY2(m_model->setUp().beyondTravel().isEmpty(), qPrintable(QString(job) + ": " + m_model->setUp().beyondTravel().join("; ")));
            // The stock holds the part; no mend is in trouble; the part is one whole body of some weight.
            const auto place = m_model->place();
            Box stock, part = place->part->body() ? place->part->body()->mesh().bounds() : place->part->mesh().bounds();
            for (const PlacedBody& b : place->bodies)
                if (b.role == "stock") stock.add(b.shape->mesh().bounds());
            QVERIFY2((stock.low.array() <= part.low.array() + 0.2).all() && (stock.high.array() >= part.high.array() - 0.2).all(), job);
            for (std::size_t i = 0; i < m_model->job().mends.size(); ++i) QVERIFY2(m_model->mending().trouble(i).isEmpty(), qPrintable(m_model->mending().trouble(i)));
            QVERIFY(place->part->volume() > 10000);
        }
    }

    // What stands before the work goes by a key, one part of the machine at a time, and comes back.
    void aPartOfTheMachineGoesByAKey() {
        openDemo();
        View& view = m_window->view();
        view.setAtMachine(false);
        QTest::keyClick(m_window.get(), Qt::Key_B);
        QVERIFY(find<QLabel>("message")->text().contains("(M)"));
        view.setAtMachine(true);
        const auto at = [&](const QString& body) {
            for (int y = 20; y < view.height(); y += 12)
                for (int x = 20; x < view.width(); x += 12)
                    if (view.machineBodyAt(QPointF(x, y)) == body) return QPoint(x, y);
            return QPoint();
        };
        (void)view.grab(); // drawn once
        const QPoint head = at("head");
        QVERIFY2(!head.isNull(), qPrintable(view.machineBodyAt(QPointF(0.5 * view.width(), 30))));
        QVERIFY(view.machineShown("head") == Shown::Solid && view.machineShown("bed") == Shown::Faded);
        QTest::mouseMove(&view, head);
        QTRY_VERIFY(view.hoverWords().startsWith("head"));
        const auto colour = [&] { return view.grab().toImage().pixelColor(head * view.devicePixelRatioF()); };
        const QColor solid = colour();
        QTest::keyClick(m_window.get(), Qt::Key_B);
        QVERIFY(view.machineShown("head") == Shown::Faded && find<QLabel>("message")->text().contains("Shift+B"));
        const QColor faded = colour();
        QVERIFY(faded != solid);
        QTest::keyClick(m_window.get(), Qt::Key_B);
        QVERIFY(view.machineShown("head") == Shown::Hidden && view.machineBodyAt(head) != "head");
        QVERIFY(colour() != solid);
        QTest::keyClick(m_window.get(), Qt::Key_B, Qt::ShiftModifier);
        QVERIFY(view.machineShown("head") == Shown::Solid && view.machineBodyAt(head) == "head");
        QTRY_COMPARE(colour(), solid);
        QTest::keyClick(m_window.get(), Qt::Key_B, Qt::ShiftModifier);
        QVERIFY(find<QLabel>("message")->text().contains("is shown"));
        closeAll();
    }
};

GYRE_WINDOW_TEST(TestLooks)

} // namespace test_looks
#include "test_looks.moc"
