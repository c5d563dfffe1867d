// A passage between two walls as one operation, built in the window by mouse and keyboard.
#include "WindowTest.h"
#include "geom/Polyline.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <set>

namespace test_passage_rows {

using namespace gyre;

class TestPassageRows : public test::WindowTest {
    Q_OBJECT

    [[nodiscard]] const PatternSpec& pattern() const { return *m_model->recipe()->pattern; }
    /// Numbers of the faces that a passage on the plate is made of: both walls, the floor, and the sides of what stands between.
    [[nodiscard]] QString passageFaces() const {
        QStringList out;
        const auto& faces = m_model->place()->part->faces();
        for (std::size_t f = 0; f < faces.size(); ++f) {
            const FaceInfo& i = faces[f];
            const bool floor = i.normal.z() > 0.99 && std::abs(i.centre.z() - 10.0) < 0.01 && i.bounds.low.y() < 0.0 && i.bounds.high.y() > 0.0;
            const bool wall = std::abs(i.normal.y()) > 0.8 && i.centre.z() > 10.5 && std::abs(i.centre.y()) < 19.0;
            if (floor || wall) out << QString::number(f);
        }
        return out.join(' ');
    }
    /// A plate with a passage, opened, and rows over the faces of that as they are proposed.
    void rowsOverAPassage(double lean, double from) {
        QVERIFY(m_window->openFile(QString::fromStdString(test::passageOnPlate(m_dir->path().toStdString(), lean, from).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        click(find<QPushButton>("addOperation"));
        type("pattern.spacing", "2.5"); // a few rows will do
        QVERIFY(m_model->picks().setNumbers("target.faces", passageFaces()).has_value());
        waitForPath();
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // Faces picked, the pattern chosen: upper edges are found by themselves, also when the faces change; going back to rows between rails finds those again.
    void aPassageIsBuiltFromNothing() {
        rowsOverAPassage(10.0, 10.0);
        const std::size_t proposed = pattern().rail1.size();
        type("pattern.spacing", "2");
        choose("pattern.kind", "passage");
        waitForPath();
        QCOMPARE(pattern().rail1.size(), std::size_t{1});
        QCOMPARE(pattern().rail2.size(), std::size_t{1});
        QCOMPARE(pattern().guides.size(), std::size_t{2});
        const auto rows = m_model->result()->pattern;
        QVERIFY2(rows, qPrintable(m_model->findings().empty() ? QString() : QString::fromStdString(m_model->findings().front().text)));
        QVERIFY2(rows->widestGap < 2.03, qPrintable(QString::number(rows->widestGap)));
        std::set<int> met;
        for (const Row& row : rows->rows) met.insert(row.faces.begin(), row.faces.end());
        QCOMPARE(met.size(), static_cast<std::size_t>(passageFaces().split(' ').size()));
        // What goes with other patterns alone is not asked for.
        QVERIFY(find<Word>("word.pattern.rail1")->isVisible() && find<Word>("word.pattern.guides")->isVisible());
        choose("pattern.from", "middle");
        waitForPath();
        QVERIFY(pattern().start == RowStart::Middle && m_model->result()->pattern);
        // What stands between left out: its edges are no guides any more.
        QStringList faces = passageFaces().split(' ');
        faces.removeIf([&](const QString& f) {
            const FaceInfo& i = m_model->place()->part->faces()[f.toUInt()];
            return std::abs(i.centre.y()) < 1.5 && std::abs(i.normal.y()) > 0.9;
        });
        QVERIFY(m_model->picks().setNumbers("target.faces", faces.join(' ')).has_value());
        waitForPath();
        QVERIFY(pattern().guides.empty() && m_model->result()->pattern);
        m_model->undo();
        waitForPath();
        QCOMPARE(pattern().guides.size(), std::size_t{2});
        choose("pattern.kind", "rails");
        waitForPath();
        QVERIFY(pattern().guides.empty());
        QCOMPARE(pattern().rail1.size(), proposed);
    }
    // Words that a passage cannot follow are refused with the reason, and can be taken back.
    void whatItCannotIsTold() {
        rowsOverAPassage(0.0, 0.0);
        choose("pattern.kind", "passage");
        choose("pattern.order", "spiral");
        waitForPath();
        const auto told = [&](const char* what) {
            const auto& all = m_model->findings();
            return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return (f.text + f.reason).find(what) != std::string::npos; });
        };
        QVERIFY(told("spiral"));
        choose("pattern.order", "oneWay");
        waitForPath();
        QVERIFY2(!told("spiral") && m_model->result()->pattern,
                 qPrintable(m_model->findings().empty() ? QString() : QString::fromStdString(m_model->findings().front().text + m_model->findings().front().reason)));
        QStringList faces = passageFaces().split(' ');
        faces.removeIf([&](const QString& f) { return m_model->place()->part->faces()[f.toUInt()].normal.z() > 0.99; });
        QVERIFY(m_model->picks().setNumbers("target.faces", faces.join(' ')).has_value());
        waitForPath();
        QVERIFY(told("stand on the others"));
    }
};

GYRE_WINDOW_TEST(TestPassageRows)

} // namespace test_passage_rows
#include "test_passage_rows.moc"
