// The Send bench: a program that came back from the shop with changes.
#include "WindowTest.h"
#include "base/File.h"
#include "model/ShopProgram.h"
#include <QFileDialog>
#include <QTextBlock>

namespace test_shop_program {

using namespace gyre;
using namespace gyre::test;

class TestShopProgram : public WindowTest {
    Q_OBJECT

    QPlainTextEdit* program() { return find<QPlainTextEdit>("program"); }
    QString checks() { return find<QLabel>("postChecks")->text(); }
    /// The job's own program, in a file.
    QStringList written(const QString& to) {
        m_model->setBench(Bench::Send);
        click(find<QPushButton>("postNow"));
        (void)QTest::qWaitFor([&] { return m_model->programs().posted() != nullptr; }, 240000);
        const QString text = program()->toPlainText();
        store(to, text);
        return text.split('\n');
    }
    void store(const QString& to, const QString& text) { QVERIFY(writeFileAtomic(m_dir->filePath(to).toStdString(), text.toStdString(), true)); }
    /// By the button and the file's name.
    void prove(const QString& name) {
        QTimer::singleShot(0, this, [this, name] {
            auto* dialog = QApplication::activeModalWidget();
            auto* files = qobject_cast<QFileDialog*>(dialog);
            if (!files) return;
            auto* line = files->findChild<QLineEdit*>("fileNameEdit");
            line->setText(m_dir->filePath(name));
            QTest::keyClick(line, Qt::Key_Return);
        });
        click(find<QPushButton>("proveEdited"));
        QTRY_VERIFY_WITH_TIMEOUT(m_model->shopProgram().settled(), 240000);
    }

private slots:
    void init() {
        openDemo();
        openJobFile("dome-stars.gyre.json");
    }
    void cleanup() { closeAll(); }

    void whatWasChangedIsMarkedAndWhatIsUnsafeIsToldAtItsLine() {
        QStringList lines = written("stars.nc");
        // Nothing changed.
        prove("stars.nc");
        QVERIFY2(checks().contains("as the job has it") && checks().contains("no Stop"), qPrintable(checks()));
        QVERIFY(program()->extraSelections().isEmpty());
        QVERIFY(!m_window->findChild<QPushButton*>("storeProgram")->isEnabled()); // it is not the job's
        // Slower at one place: told, marked, safe.
        const auto feed = lines.indexOf(QRegularExpression(".* F\\d.*"));
        QVERIFY(feed > 0);
        const QString was = lines[feed];
        lines[feed].replace(QRegularExpression("F[\\d.]+"), "F33");
        store("slower.nc", lines.join('\n'));
        prove("slower.nc");
        QVERIFY2(checks().contains("one line is changed") && checks().contains("no Stop"), qPrintable(checks()));
        QCOMPARE(program()->extraSelections().size(), 1);
        QCOMPARE(program()->textCursor().blockNumber(), static_cast<int>(feed));
        QVERIFY2(find<QLabel>("lineWhy")->text().contains("the job has"), qPrintable(find<QLabel>("lineWhy")->text()));
        // The spindle turns backwards.
        const auto spindle = lines.indexOf(QRegularExpression(".*M3\\b.*"));
        QVERIFY(spindle > 0);
        lines[spindle].replace("M3", "M4");
        store("backwards.nc", lines.join('\n'));
        prove("backwards.nc");
        QVERIFY2(checks().contains("Not safe") && checks().contains("turns backwards"), qPrintable(checks()));
        // A click on the line told goes there.
        program()->setTextCursor(QTextCursor(program()->document()));
        emit find<QLabel>("postChecks")->linkActivated("0");
        QCOMPARE(program()->textCursor().blockNumber() + 1, m_model->shopProgram().proven()->told[0].line);
        // What cannot be read is told with its line, and the window lives.
        lines[feed] = "G1 X$";
        store("broken.nc", lines.join('\n'));
        prove("broken.nc");
        QVERIFY2(checks().contains(QString("line %1").arg(feed + 1)), qPrintable(checks()));
        QVERIFY(!m_model->shopProgram().proven());
        // Written anew: the job's own again.
        click(find<QPushButton>("postNow"));
        QTRY_VERIFY_WITH_TIMEOUT(checks().contains("read back"), 240000);
        QVERIFY(!m_model->shopProgram().isOpen());
        QVERIFY(program()->toPlainText().contains(was));
    }

    void theJobMayChangeOrGoMeanwhile() {
        written("stars.nc");
        prove("stars.nc");
        m_model->change("other feed", [](Job& j) { j.tools[0].feedPerTooth *= 0.5; });
        QVERIFY2(checks().contains("has changed since"), qPrintable(checks()));
        settle();
        prove("stars.nc");
        QVERIFY(m_model->shopProgram().proven());
        // Called off in the middle by another job.
        m_model->shopProgram().open(m_dir->filePath("stars.nc"));
        QVERIFY(m_window->openFile(m_dir->filePath("lantern-collar.gyre.json"), false));
        settle();
        QTRY_VERIFY_WITH_TIMEOUT(m_model->shopProgram().settled(), 240000);
        QVERIFY(!m_model->shopProgram().isOpen());
        QVERIFY(program()->toPlainText().isEmpty());
    }
};

GYRE_WINDOW_TEST(TestShopProgram)

} // namespace test_shop_program
#include "test_shop_program.moc"
