// The tools of the job in the real window: list, search, drawing with handles, sentences, holders, materials, libraries.
#include "WindowTest.h"
#include "operation/OperationResult.h"
#include "panels/ToolDrawing.h"

namespace test_tools {

using namespace gyre;

class TestTools : public test::WindowTest {
    Q_OBJECT

    const Assembly& tool(const char* id) { return *m_model->job().tool(id); }
    ToolDrawing& drawing() { return *m_window->findChild<ToolDrawing*>("toolDrawing"); }
    QPointF handle(const QString& key) {
        for (const auto& d : drawing().dimensions())
            if (d.key == key) return d.handle;
        return {};
    }
    void dragHandle(const QString& key, const QPoint& by) {
        ++m_actions;
        const QPoint from = handle(key).toPoint();
        QTest::mousePress(&drawing(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 4; ++i) {
            const QPoint p = from + by * i / 4;
            QMouseEvent move(QEvent::MouseMove, p, drawing().mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&drawing(), &move);
        }
        QTest::mouseRelease(&drawing(), Qt::LeftButton, {}, from + by);
    }
    void show(const char* id) {
        click(find<QPushButton>(QString("tool.%1").arg(id)));
        QTRY_COMPARE(m_model->tools().shownId(), QString(id));
    }

private slots:
    void init() {
        openDemo();
        QTest::keyClick(m_window.get(), Qt::Key_T, Qt::ControlModifier);
        QTRY_VERIFY(m_model->tools().isOpen());
        QTRY_VERIFY(drawing().isVisible());
        m_actions = 0;
    }
    void cleanup() { closeAll(); }

    void allShapesAreDrawnAndSearched() {
        QCOMPARE(m_model->job().tools.size(), std::size_t(26));
        for (const Assembly& a : m_model->job().tools) {
            m_model->tools().show(QString::fromStdString(a.id));
            QVERIFY(!m_window->grab().isNull());
            QVERIFY(!drawing().dimensions().empty());
            for (const auto& d : drawing().dimensions()) QVERIFY2(drawing().rect().contains(d.handle.toPoint()), qPrintable(QString::fromStdString(a.id) + " " + d.key));
        }
        auto* search = find<QLineEdit>("toolSearch");
        QTest::keyClicks(search, "ball 6 long");
        QTRY_VERIFY(find<QPushButton>("tool.ball-6-long"));
        QTRY_VERIFY(m_window->findChildren<QPushButton*>(QRegularExpression("^tool\\.")).size() > 0);
        QStringList shown;
        for (auto* b : m_window->findChildren<QPushButton*>(QRegularExpression("^tool\\.")))
            if (b->isVisible()) shown << b->objectName();
        QCOMPARE(shown, QStringList{"tool.ball-6-long"});
        search->setText("granite");
        QTRY_VERIFY(!m_window->grab().isNull());
        search->clear();
        QTRY_VERIFY(find<QPushButton>("tool.drill-5"));
        QVERIFY(find<QPushButton>("tool.ball-6")->accessibleDescription().contains("used by 1 operation"));
    }
    void numbersInSentencesAndByHandle() {
        show("ball-8");
        type("tool.DC", "7.5");
        QTRY_COMPARE(tool("ball-8").cutter.diameter, 7.5);
        type("tool.out", "2in");
        QTRY_COMPARE(tool("ball-8").stickOut, 50.8);
        // Up by some pixels: longer, in tenths of a millimetre.
        const double before = tool("ball-8").stickOut;
        dragHandle("out", QPoint(0, -30));
        QTRY_VERIFY(tool("ball-8").stickOut > before + 2);
        const double after = tool("ball-8").stickOut;
        QVERIFY(std::abs(after * 10 - std::round(after * 10)) < 1e-6);
        m_model->undo(); // one drag is one step
        QCOMPARE(tool("ball-8").stickOut, before);
        dragHandle("DC", QPoint(-6, 0));
        QTRY_VERIFY(tool("ball-8").cutter.diameter > 7.5);
        m_model->undo();
        // A drag into what cannot be stops where it still can.
        dragHandle("out", QPoint(0, 400));
        QVERIFY(tool("ball-8").stickOut >= tool("ball-8").cutter.fluteLength);
        QTRY_VERIFY(message().contains("buries"));
    }
    void impossibleToolsAreRefusedWithTheReason() {
        show("torus-10");
        type("tool.RE", "6");
        QTRY_VERIFY(message().contains("does not fit"));
        QCOMPARE(tool("torus-10").cutter.cornerRadius, 2.0);
        type("tool.APMX", "200");
        QTRY_VERIFY(message().contains("longer than the whole tool"));
        QCOMPARE(tool("torus-10").cutter.fluteLength, 16.0);
        type("tool.DC", "0");
        QTRY_VERIFY(message().contains("above 0"));
        type("tool.NOF", "words");
        QTRY_VERIFY(message().contains("not a number"));
        QTRY_VERIFY(find<Word>("word.tool.RE"));
        QTRY_COMPARE(find<Word>("word.tool.RE")->value().toDouble(), 2.0); // the words show what is
    }
    void theShapeIsChosenAndStaysPossible() {
        show("flat-10");
        for (int i = 0; i < kCutterShapes; ++i) {
            choose("tool.shape", QString::number(i));
            QTRY_COMPARE(static_cast<int>(tool("flat-10").cutter.shape), i);
            const CutterUse use = usedBy(static_cast<CutterShape>(i));
            QTRY_VERIFY((find<Word>("word.tool.DC") != nullptr));
            QCOMPARE(m_window->findChild<Word*>("word.tool.SIG") && m_window->findChild<Word*>("word.tool.SIG")->isVisible(), use.point);
            QVERIFY(!m_window->grab().isNull());
        }
        for (int i = 0; i < kCutterShapes; ++i) m_model->undo();
        QCOMPARE(tool("flat-10").cutter.shape, CutterShape::Flat);
    }
    void holdersAreBuiltAndBorrowed() {
        show("flat-10");
        const std::size_t steps = tool("flat-10").holder.size();
        click(find<QPushButton>("addStep"));
        QTRY_COMPARE(tool("flat-10").holder.size(), steps + 1);
        type(QString("step.%1.upper").arg(steps), "63");
        QTRY_COMPARE(tool("flat-10").holder.back().upperDiameter, 63.0);
        type(QString("step.%1.long").arg(steps), "0");
        QTRY_VERIFY(message().contains("length above 0"));
        click(find<QPushButton>(QString("removeStep.%1").arg(steps)));
        QTRY_COMPARE(tool("flat-10").holder.size(), steps);
        choose("tool.holderOf", "ball-6");
        QTRY_COMPARE(tool("flat-10").holderName, std::string("slim shrink holder"));
        QCOMPARE(tool("flat-10").holder.size(), tool("ball-6").holder.size());
        type("tool.holderName", "borrowed");
        QTRY_COMPARE(tool("flat-10").holderName, std::string("borrowed"));
    }
    void materialsGiveSpeedAndFeed() {
        show("flat-10");
        QVERIFY(tool("flat-10").materials.size() == 4);
        click(find<QPushButton>("useMaterial.0"));
        QTRY_COMPARE(tool("flat-10").spindleSpeed, std::round(1000.0 * tool("flat-10").materials[0].surfaceSpeed / (kPi * 10)));
        type("material.0.speed", "314.159");
        QTRY_COMPARE(tool("flat-10").materials[0].surfaceSpeed, 314.159);
        click(find<QPushButton>("useMaterial.0"));
        QTRY_COMPARE(tool("flat-10").spindleSpeed, 10000.0);
        click(find<QPushButton>("addMaterial"));
        QTRY_COMPARE(tool("flat-10").materials.size(), std::size_t(5));
        type("material.4.name", "bronze");
        QTRY_COMPARE(tool("flat-10").materials[4].material, std::string("bronze"));
        type("material.4.bite", "-1");
        QTRY_VERIFY(message().contains("chip load"));
        click(find<QPushButton>("removeMaterial.4"));
        QTRY_COMPARE(tool("flat-10").materials.size(), std::size_t(4));
        type("tool.speed", "9000");
        QTRY_COMPARE(tool("flat-10").spindleSpeed, 9000.0);
    }
    void duplicatedRemovedExportedImported() {
        show("ball-6");
        QTRY_VERIFY(find<QLabel>("toolUsed")->text().contains("Flare"));
        click(find<QPushButton>("removeTool")); // an operation needs it
        QTRY_VERIFY(message().contains("used by"));
        QVERIFY(m_model->job().tool("ball-6"));
        click(find<QPushButton>("duplicateTool"));
        QTRY_COMPARE(m_model->tools().shownId(), QString("ball-6-2"));
        type("tool.name", "My ball");
        QTRY_COMPARE(tool("ball-6-2").name, std::string("My ball"));
        const QString file = m_dir->filePath("out.tools.json");
        QVERIFY(m_model->tools().exportTo(file));
        click(find<QPushButton>("removeTool"));
        QTRY_VERIFY(!m_model->job().tool("ball-6-2"));
        const std::size_t count = m_model->job().tools.size();
        QVERIFY(m_model->tools().importFrom(file));
        QCOMPARE(m_model->job().tools.size(), count + 1); // those that were there already are not doubled
        QTRY_VERIFY(message().contains("1 tools added"));
        // Another tool of the same name does not replace ours.
        (void)m_model->tools().changeTool("ball-4", [](Assembly& a) { a.stickOut = 40; });
        QVERIFY(m_model->tools().importFrom(file));
        QVERIFY(m_model->job().tool("ball-4-2") && tool("ball-4").stickOut == 40);
        QVERIFY(!m_model->tools().importFrom(m_dir->filePath("heron-5t.machine.json")));
        QTRY_VERIFY(message().contains("not a tool library"));
    }
    void backToTheWorkAndTheCut() {
        click(find<QPushButton>("sideWork"));
        QTRY_VERIFY(!m_model->tools().isOpen() && m_window->view().isVisible());
        click(find<QPushButton>("sideTools"));
        QTRY_VERIFY(m_model->tools().isOpen());
        m_model->setBench(Bench::Cut);
        QTRY_VERIFY(m_window->view().isVisible() && !drawing().isVisible());
        m_model->setBench(Bench::SetUp);
        QTRY_VERIFY(drawing().isVisible()); // where one was
        // A change of the tool in use is computed.
        (void)m_model->tools().changeTool("ball-6", [](Assembly& a) { a.stickOut = 45.3; });
        waitForPath();
        QCOMPARE(m_model->result()->tool.stickOut, 45.3);
    }
};

GYRE_WINDOW_TEST(TestTools)

} // namespace test_tools
#include "test_tools.moc"
