// Curves drawn on the part as rails of rows, by mouse and keyboard: at true distance from them and between two of them.
#include "WindowTest.h"
#include "geom/Polyline.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"

namespace test_curve_rails {

using namespace gyre;

class TestCurveRails : public test::WindowTest {
    Q_OBJECT

    /// A box with lines drawn along its top, from border to border or short of it, and rows over the top.
    void rowsBesideLines(const std::vector<double>& at, double shortOf) {
        QVERIFY(m_window->openFile(QString::fromStdString(test::boxStep(m_dir->path().toStdString(), 60, 40, 25).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        m_model->change("lines", [&](Job& j) {
            Mend drawn;
            drawn.kind = MendKind::Drawn;
            drawn.name = "lines";
            drawn.numbers["shape"] = 2.0; // pairs
            for (const double y : at)
                for (const double x : {shortOf, 60.0 - shortOf}) drawn.points.push_back({x, y, 25});
            j.mends.push_back(drawn);
        });
        settle();
        click(find<QPushButton>("addOperation"));
        int top = -1;
        const auto& faces = m_model->place()->part->faces();
        for (std::size_t f = 0; f < faces.size(); ++f)
            if (faces[f].kind == SurfaceKind::Plane && faces[f].normal.z() > 0.99) top = static_cast<int>(f);
        QVERIFY(m_model->picks().setNumbers("target.faces", QString::number(top)).has_value());
        waitForPath();
    }
    [[nodiscard]] const PatternSpec& pattern() const { return *m_model->recipe()->pattern; }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // The curve takes the place of the rails that were proposed, in one step; one step back brings them again.
    void distancesFromADrawnLine() {
        rowsBesideLines({16.0}, 12.0);
        choose("pattern.kind", "distance");
        type("pattern.spacing", "1.5");
        waitForPath();
        const auto proposed = pattern();
        choose("pattern.curve", "lines");
        QVERIFY(pattern().rail1.empty() && pattern().rail2.empty());
        waitForPath();
        const auto rows = m_model->result()->pattern;
        QVERIFY2(rows, qPrintable(m_model->findings().empty() ? QString() : QString::fromStdString(m_model->findings().front().text)));
        QVERIFY(std::abs(length(rows->rows.front().points) - 36.0) < 0.05);
        for (const Row& row : rows->rows)
            for (const Vec3& p : row.points)
                QVERIFY2(row.index == 0 || distanceToSegment(p, {12, 16, 25}, {48, 16, 25}) > 1.0, qPrintable(QString("row %1").arg(row.index)));
        m_model->undo();
        QVERIFY(pattern().curve.empty() && pattern().rail1.size() == proposed.rail1.size() && pattern().rail2.size() == proposed.rail2.size());
    }
    // Two lines for both rails: rows lie between them. One alone is told to be too few; the sentence shows what stands for the rails.
    void rowsBetweenTwoDrawnLines() {
        rowsBesideLines({11.0, 29.0}, 0.0);
        choose("pattern.kind", "rails");
        type("pattern.spacing", "0.75");
        choose("pattern.curve", "lines");
        QVERIFY(pattern().rail1.empty() && pattern().rail2.empty());
        waitForPath();
        QVERIFY2(m_model->result()->pattern, qPrintable(m_model->findings().empty() ? QString() : QString::fromStdString(m_model->findings().front().text)));
        double low = 1e9, high = -1e9;
        for (const Row& row : m_model->result()->pattern->rows)
            for (const Vec3& p : row.points) {
                low = std::min(low, p.y());
                high = std::max(high, p.y());
            }
        QVERIFY2(std::abs(low - 11) < 0.01 && std::abs(high - 29) < 0.01, qPrintable(QString("%1 to %2").arg(low).arg(high)));
        QVERIFY(find<Word>("word.pattern.curve")->isVisible());
        m_model->change("one of them", [&](Job& j) { (void)setWord(j, m_model->selected().toStdString(), "pattern.curve", "lines/1"); });
        waitForPath();
        const auto told = m_model->findings();
        QVERIFY(std::any_of(told.begin(), told.end(), [](const Finding& f) { return f.text.find("one curve is chosen for two rails") != std::string::npos; }));
    }
    // Lines that end amid the face have no "between": it is said, and what can be done.
    void linesThatEndAmidTheFace() {
        rowsBesideLines({11.0, 29.0}, 8.0);
        choose("pattern.kind", "rails");
        choose("pattern.curve", "lines");
        waitForPath();
        const auto told = m_model->findings();
        QVERIFY(std::any_of(told.begin(), told.end(), [](const Finding& f) { return f.text.find("ends amid the faces") != std::string::npos && !f.reason.empty(); }));
    }
};

GYRE_WINDOW_TEST(TestCurveRails)

} // namespace test_curve_rails
#include "test_curve_rails.moc"
