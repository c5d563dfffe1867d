#include "WindowTest.h"
#include "geom/Polyline.h"
#include "geom/WriteMesh.h"
#include "model/Planes.h"
#include "model/Route.h"
#include "model/RowsAhead.h"
#include "operation/OperationResult.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "touch/TouchSpec.h"
#include <QAction>
#include <set>

namespace test_rows {
using namespace gyre;

class TestRows : public test::WindowTest {
    Q_OBJECT
    /// The largest plane face that looks up.
    static int largestAbove(const Part& part) {
        int top = -1;
        for (int f = 0; f < static_cast<int>(part.faces().size()); ++f) {
            const auto area = [&](int i) { return i < 0 ? 0.0 : part.faces()[static_cast<std::size_t>(i)].area; };
            const FaceInfo& info = part.faces()[static_cast<std::size_t>(f)];
            if (info.kind == SurfaceKind::Plane && info.normal.z() > 0.99 && area(f) > area(top)) top = f;
        }
        return top;
    }

private slots:
    void init() { openDemo(); }
    void cleanup() { closeAll(); }

    // The lid of a cone goes on from the levels of its wall: the stepover is taken over, the card tells the seam; an edit of the wall moves the lid along.
    void aLidBeginsAtTheRowsOfItsWall() {
        QVERIFY(m_window->openFile(QString::fromStdString(test::coneStep(m_dir->path().toStdString(), 20, 12, 15).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        m_actions = 0;
        int cone = -1, lid = -1;
        const auto& faces = m_model->place()->part->faces();
        for (std::size_t f = 0; f < faces.size(); ++f) {
            if (faces[f].kind == SurfaceKind::Cone) cone = static_cast<int>(f);
            if (faces[f].kind == SurfaceKind::Plane && faces[f].normal.z() > 0.9) lid = static_cast<int>(f);
        }
        click(find<QPushButton>("addOperation"));
        clickFace(cone);
        choose("pattern.kind", "planes");
        type("pattern.lean", "90");
        choose("pattern.by", "spacing");
        type("pattern.spacing", "0.9");
        waitForPath();
        const QString wall = m_model->selected();
        click(find<QPushButton>("addOperation"));
        clickFace(lid);
        waitForPath();
        choose("pattern.kind", "seam");
        waitForPath();
        QVERIFY(!m_model->result()->complete()); // no operation is chosen yet, which is said
        choose("pattern.beside", QString("[\"%1\"]").arg(wall));
        waitForPath();
        QCOMPARE(m_model->word("pattern.by"), QString("spacing"));
        QVERIFY(std::abs(m_model->word("pattern.spacing").toDouble() - 0.9) < 1e-9);
        const auto seam = [&] {
            const auto r = m_model->result();
            const auto f = std::find_if(r->findings.begin(), r->findings.end(), [](const Finding& one) { return one.code == "seam-met"; });
            return f == r->findings.end() ? -1.0 : f->amount;
        };
        QVERIFY2(seam() > 0.7 && seam() < 0.92, qPrintable(QString::number(seam())));
        QVERIFY(m_model->result()->complete());
        // Two steps at the wall: the seam is wider, and a Look offers the stepover that is there.
        const QString own = m_model->selected();
        m_model->select(wall);
        type("pattern.spacing", "1.3");
        waitForPath();
        m_model->select(own);
        waitForPath();
        const auto r = m_model->result();
        const auto look = std::find_if(r->findings.begin(), r->findings.end(), [](const Finding& f) { return f.code == "seam-met" && f.rank == Rank::Look; });
        QVERIFY(look != r->findings.end() && look->remedies.size() == 1);
        QVERIFY(m_model->setWord(QString::fromStdString(look->remedies[0].key), QString::fromStdString(look->remedies[0].value)).has_value());
        waitForPath();
        QVERIFY2(seam() > 1.0 && seam() < 1.32, qPrintable(QString::number(seam())));
        // Moved up, before what it begins at, it says so.
        m_model->route().move(own, -1);
        waitForPath();
        QVERIFY(!m_model->result()->complete());
        m_model->undo();
        waitForPath();
        QVERIFY(m_model->result()->complete());
    }
    // Rows that climb, longer than the face and half a step within its border, on one side of a plane: all from the rare words, with the arrow turned once.
    void howRowsEndAndWhichWayTheyCut() {
        QVERIFY(m_window->openFile(QString::fromStdString(test::boxStep(m_dir->path().toStdString(), 60, 40, 20).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->change("a plane", [](Job& j) {
            WorkPlane p;
            p.name = "middle";
            p.origin = Vec3(30, 0, 0);
            p.normal = Vec3::UnitX();
            p.x = Vec3::UnitY();
            j.planes.push_back(p);
        });
        settle();
        m_model->setBench(Bench::Cut);
        click(find<QPushButton>("addOperation"));
        clickFace(largestAbove(*m_model->place()->part));
        choose("pattern.kind", "planes");
        choose("pattern.by", "spacing");
        type("pattern.spacing", "2");
        choose("pattern.cut", "climb");
        waitForPath();
        QVERIFY(!m_model->result()->complete()); // back and forth cannot
        choose("pattern.order", "oneWay");
        choose("pattern.ends", "halfStepIn");
        type("pattern.beyond", "5");
        waitForPath();
        const auto rows = [&] { return m_model->result()->pattern->rows; };
        QCOMPARE(rows().size(), std::size_t(20));
        const auto right = [&](std::size_t i) { // does the next row lie to the right?
            const auto all = rows();
            const Vec3 way = all[i].points.back() - all[i].points.front();
            return way.cross(all[i].normals.front()).dot(all[i + 1].points.front() - all[i].points.front()) > 0;
        };
        for (std::size_t i = 0; i + 1 < 20; ++i) QVERIFY(right(i));
        QVERIFY(std::abs(length(rows()[3].points) - 70.0) < 1e-3);
        const bool fromFront = rows().front().points.front().y() < 20; // the first row is half a step in
        QVERIFY(std::abs(rows().front().points.front().y() - (fromFront ? 1.0 : 39.0)) < 1e-3);
        choose("pattern.cut", "conventional");
        waitForPath();
        for (std::size_t i = 0; i + 1 < 20; ++i) QVERIFY(!right(i));
        choose("where.side", "under");
        choose("where.plane", "middle");
        type("pattern.beyond", "0");
        waitForPath();
        for (const Row& row : rows())
            for (const Vec3& p : row.points) QVERIFY2(p.x() < 30.011, qPrintable(QString::number(p.x())));
        QVERIFY(std::abs(length(rows()[3].points) - 30.0) < 0.02);
        // The plane is renamed and moved: the region goes with it.
        m_model->planes().rename(0, "half way");
        QCOMPARE(m_model->word("where.plane"), QString("half way"));
        m_model->change("move it", [](Job& j) { j.planes[0].origin.x() = 20; });
        waitForPath();
        QVERIFY(std::abs(length(rows()[3].points) - 20.0) < 0.02);
        m_model->change("gone", [](Job& j) { j.planes.clear(); });
        waitForPath();
        QVERIFY(!m_model->result()->complete());
    }
    // The row under the playhead becomes a curve of the part; undone, it is gone.
    void aRowIsKeptAsACurve() {
        const std::size_t before = m_model->job().mends.size();
        const auto path = m_model->result()->path();
        std::size_t at = path->size() / 2;
        while (path->motion[at] != Motion::Cut) ++at;
        m_model->setLocation(at);
        QAction* keep = m_window->findChild<QAction*>("action.keepRow");
        QVERIFY(keep);
        keep->trigger();
        settle();
        QCOMPARE(m_model->job().mends.size(), before + 1);
        QTRY_VERIFY(m_model->place() && m_model->place()->mends && m_model->place()->mends->size() == before + 1);
        const MendResult& made = m_model->place()->mends->back();
        QVERIFY2(made.trouble.empty() && made.curves.size() == 1, made.trouble.c_str());
        Polyline row;
        for (std::size_t i = 0; i < path->size(); ++i)
            if (path->row[i] == path->row[at] && path->motion[i] == Motion::Cut) row.push_back(path->contact[i]);
        const PolylineDistance to(row);
        for (const Vec3& p : made.curves[0].polyline(0.01)) QVERIFY2(to.distance(p) < 0.02, qPrintable(QString::number(to.distance(p))));
        QVERIFY(std::abs(made.curves[0].length() - length(row)) < 0.01 * length(row));
        m_model->undo();
        QCOMPARE(m_model->job().mends.size(), before);
    }

    // A cone from nothing: its face, levels in one spiral, kept between two heights.
    void aSpiralBetweenTwoHeights() {
        QVERIFY(m_window->openFile(QString::fromStdString(test::coneStep(m_dir->path().toStdString(), 20, 12, 15).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        m_actions = 0;
        int cone = -1;
        const auto& faces = m_model->place()->part->faces();
        for (std::size_t f = 0; f < faces.size(); ++f)
            if (faces[f].kind == SurfaceKind::Cone) cone = static_cast<int>(f);
        QVERIFY(cone >= 0);
        click(find<QPushButton>("addOperation"));
        clickFace(cone);
        choose("pattern.kind", "planes");
        type("pattern.lean", "90");
        choose("pattern.by", "spacing");
        type("pattern.spacing", "1");
        choose("pattern.order", "spiral");
        waitForPath();
        QVERIFY(m_model->result() && m_model->result()->pattern);
        QCOMPARE(m_model->result()->pattern->rows.size(), std::size_t(1));
        choose("where.byHeight", "true");
        // What was among the rare words stands in the sentence now, all of it.
        for (const char* key : {"low", "high", "axis", "bySlope", "byHeight", "by"}) QVERIFY2(find<Word>(QString("word.where.%1").arg(key)), key);
        type("where.low", "4");
        type("where.high", "11");
        waitForPath();
        const auto pattern = m_model->result()->pattern;
        QCOMPARE(pattern->rows.size(), std::size_t(1));
        QVERIFY(pattern->rows[0].spiral);
        for (const Vec3& p : pattern->rows[0].points) QVERIFY(p.z() > 3.999 && p.z() < 11.001);
        QVERIFY2(find<QLabel>("facts.Pattern")->text().contains("turns in 1 spiral"), qPrintable(find<QLabel>("facts.Pattern")->text()));
        QVERIFY2(find<QLabel>("facts.Target")->text().contains("kept"), qPrintable(find<QLabel>("facts.Target")->text()));
        QVERIFY2(m_actions <= 16, qPrintable(QString::number(m_actions)));
        m_model->setPeel(Stage::Target);
        QVERIFY(!m_window->grab().isNull()); // the region is marked
        // Undone, all of it is back.
        for (int i = 0; i < 3; ++i) m_model->undo();
        waitForPath();
        QVERIFY(!m_model->recipe()->where->any());
        for (int i = 0; i < 3; ++i) m_model->redo();
        waitForPath();
        QCOMPARE(m_model->recipe()->where->high, 11.0);
        // Heights that the faces do not have leave nothing: it is said, and the words stay to be mended.
        type("where.low", "100");
        type("where.high", "200");
        waitForPath();
        const auto all = m_model->findings();
        QVERIFY(std::any_of(all.begin(), all.end(),
                            [](const Finding& f) { return f.code == "nothing-generated" && f.text.find("where rows are to be kept") != std::string::npos; }));
    }
    // Rows that end at a border make no spiral: the finding offers what does.
    void whatIsNoSpiralIsCuredByAClick() {
        type("pattern.spacing", "2");
        choose("pattern.order", "spiral");
        waitForPath();
        const auto all = m_model->findings();
        const auto told = std::find_if(all.begin(), all.end(), [](const Finding& f) { return f.code == "not-in-spiral"; });
        QVERIFY(told != all.end() && told->rank == Rank::Look && told->remedies.size() == 1);
        m_model->setBench(Bench::Prove);
        QPushButton* cure = nullptr;
        QTRY_VERIFY((cure = [&]() -> QPushButton* {
            for (auto* b : m_window->findChildren<QPushButton*>())
                if (b->isVisible() && b->text().contains("back and forth")) return b;
            return nullptr;
        }()));
        click(cure);
        waitForPath();
        QCOMPARE(m_model->recipe()->pattern->order, RowOrder::BackAndForth);
        m_model->setBench(Bench::Cut);
        choose("pattern.from", "middle");
        choose("pattern.order", "spiral");
        waitForPath();
        const auto now = m_model->findings();
        QVERIFY(std::any_of(now.begin(), now.end(), [](const Finding& f) { return f.text.find("from one end") != std::string::npos && !f.remedies.empty(); }));
    }
    // What a choice would lay is drawn while it lies under the pointer: nothing is changed by looking, and Escape puts it away.
    void rowsAreShownBeforeTheyAreChosen() {
        type("pattern.spacing", "2");
        waitForPath();
        const std::string before = keyTextOf(*m_model->recipe());
        QTest::mouseClick(wordFor("pattern.kind"), Qt::LeftButton);
        auto* menu = find<Word>("word.pattern.kind")->findChild<QMenu*>("menu.pattern.kind");
        QVERIFY(menu);
        RowsAhead& ahead = m_model->rowsAhead();
        const auto point = [&](const char* choice) {
            moveMouse(menu, menu->actionGeometry(menu->findChild<QAction*>(choice)).center());
            QTRY_VERIFY_WITH_TIMEOUT(ahead.settled(), 60000);
        };
        point("choice.planes");
        QVERIFY(ahead.rows() && ahead.rows()->rails.empty());
        const double planes = ahead.rows()->rowsLength;
        QVERIFY(m_model->recipe()->pattern->kind == PatternBy::Rails && !m_model->computing());
        point("choice.distance");
        QVERIFY(ahead.rows() && std::abs(ahead.rows()->rowsLength - planes) > 1.0);
        // A pattern that lacks something shows nothing; what is there already, neither.
        point("choice.strokes");
        QVERIFY(!ahead.rows());
        point("choice.planes");
        QVERIFY(ahead.rows());
        QTest::keyClick(menu, Qt::Key_Escape);
        QTRY_VERIFY(!ahead.rows());
        QCOMPARE(keyTextOf(*m_model->recipe()), before);
        // Without a tool there is nothing to see, and nothing goes wrong.
        m_model->change("no tool", [](Job& j) { j.route.front().tool.clear(); });
        QTest::mouseClick(wordFor("pattern.kind"), Qt::LeftButton);
        menu = find<Word>("word.pattern.kind")->findChild<QMenu*>("menu.pattern.kind");
        QVERIFY(menu);
        point("choice.planes");
        QVERIFY(!ahead.rows());
        QTest::keyClick(menu, Qt::Key_Escape);
        m_model->undo();
        waitForPath();
        // Taken, it is what was seen.
        choose("pattern.kind", "planes");
        waitForPath();
        QVERIFY(!ahead.rows());
        QVERIFY2(std::abs(m_model->result()->pattern->rowsLength - planes) < 1e-9,
                 qPrintable(QString("%1 for %2").arg(m_model->result()->pattern->rowsLength).arg(planes)));
    }
    // Strokes drawn on the part by clicks, then chosen: rows run as they do. The same curve laid onto the faces is a single row.
    void strokesAreDrawnAndFollowed() {
        openJobFile("yoke-setup.gyre.json");
        const Part& part = *m_model->place()->part;
        const int top = largestAbove(part);
        const Vec3 middle = part.faces()[static_cast<std::size_t>(top)].centre;
        m_model->change("a stroke", [&](Job& j) {
            Mend stroke;
            stroke.kind = MendKind::Drawn;
            stroke.name = "stroke";
            for (const Vec3& at : {Vec3(middle - Vec3(9, 5, 0)), middle, Vec3(middle + Vec3(9, 5, 0))}) stroke.points.push_back({at.x(), at.y(), at.z()});
            j.mends.push_back(stroke);
        });
        settle();
        click(find<QPushButton>("addOperation"));
        QVERIFY(m_model->picks().setNumbers("target.faces", QString::number(top)).has_value());
        choose("pattern.kind", "strokes");
        waitForPath();
        const auto all = m_model->findings();
        QVERIFY(std::any_of(all.begin(), all.end(), [](const Finding& f) { return f.text.find("no stroke is drawn") != std::string::npos; }));
        choose("pattern.curve", "stroke");
        type("pattern.spacing", "2");
        waitForPath();
        QVERIFY2(m_model->result()->pattern, qPrintable(m_model->findings().empty() ? QString() : QString::fromStdString(m_model->findings().front().text)));
        const Vec3 way = Vec3(9, 5, 0).normalized();
        double worst = 0.0;
        for (const Row& row : m_model->result()->pattern->rows)
            if (length(row.points) > 5.0)
                worst = std::max(worst, degrees(std::asin(std::min(1.0, (row.points.back() - row.points.front()).normalized().cross(way).norm()))));
        QVERIFY2(worst < 2.0, qPrintable(QString::number(worst)));
        choose("pattern.kind", "curves");
        QVERIFY(find<Word>("word.pattern.onto") && !find<Word>("word.pattern.spacing"));
        waitForPath();
        QCOMPARE(m_model->result()->pattern->rows.size(), std::size_t(1));
        QVERIFY(std::abs(length(m_model->result()->pattern->rows[0].points) - 2.0 * Vec3(9, 5, 0).norm()) < 0.2);
        QVERIFY2(!find<QLabel>("facts.Pattern")->text().contains("gap"), qPrintable(find<QLabel>("facts.Pattern")->text()));
        // As a rail it is the first row, and the others keep their distance to both sides of it.
        choose("pattern.kind", "distance");
        waitForPath();
        const auto beside = m_model->result();
        QVERIFY(beside->pattern && beside->pattern->rows.size() > 8 && beside->pattern->widestGap < 2.02);
        QVERIFY(std::abs(length(beside->pattern->rows[0].points) - 2.0 * Vec3(9, 5, 0).norm()) < 0.2);
        // The stroke is taken away: what rested on it says so.
        m_model->change("no stroke", [](Job& j) { j.mends.clear(); });
        waitForPath();
        const auto gone = m_model->findings();
        QVERIFY(std::any_of(gone.begin(), gone.end(), [](const Finding& f) { return f.text.find("any more") != std::string::npos; }));
    }

private:
    /// New rows in planes over the largest face above; the face.
    int planesOverTheTop(const char* spacing) {
        openJobFile("yoke-setup.gyre.json");
        const int top = largestAbove(*m_model->place()->part);
        click(find<QPushButton>("addOperation"));
        if (!m_model->picks().setNumbers("target.faces", QString::number(top))) qFatal("the face is not there");
        choose("pattern.kind", "planes");
        type("pattern.spacing", spacing);
        waitForPath();
        return top;
    }

private slots:
    // Edges of the part bound the rows: picked in the view, or by their numbers; an open loop says how far it is open.
    void edgesBoundRows() {
        const int top = planesOverTheTop("2");
        const Part& part = *m_model->place()->part;
        const double whole = m_model->result()->pattern->rowsLength;
        const auto loops = borderLoops(part, {top});
        QVERIFY(!loops.empty());
        choose("where.by", "inside");
        waitForPath();
        const auto says = [&](const char* text) {
            const auto all = m_model->findings();
            return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.text.find(text) != std::string::npos; });
        };
        QVERIFY(says("no curve bounds"));
        // One edge of the outer border is not closed; all of them keep everything, border rows too.
        click(find<Word>("word.where.edges"));
        QCOMPARE(m_model->picks().mode(), PickMode::WhereEdges);
        clickEdge(loops.front().edges.front());
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        waitForPath();
        if (loops.front().edges.size() > 1) QVERIFY(says("is open by"));
        QString numbers;
        for (const int e : loops.front().edges) numbers += QString("%1 ").arg(e);
        QVERIFY(m_model->picks().setNumbers("where.edges", numbers).has_value());
        waitForPath();
        QVERIFY2(std::abs(m_model->result()->pattern->rowsLength - whole) < 0.01 * whole,
                 qPrintable(QString("%1 of %2").arg(m_model->result()->pattern->rowsLength).arg(whole)));
        choose("where.by", "outside");
        waitForPath();
        // Of it nothing is left but what lies on the border.
        QVERIFY(says("where rows are to be kept") || m_model->result()->pattern->rowsLength < 0.2 * whole);
    }
    // Where stock stands, over faces, piece by piece, in layers, by a scallop that is told: all by words of the sentence.
    void stockFacesPiecesAndLayers() {
        const int top = planesOverTheTop("1");
        const double whole = m_model->result()->pattern->rowsLength;
        const auto facts = [&] { return find<QLabel>("facts.Pattern")->text(); };
        QVERIFY2(facts().contains("gap") && facts().contains("scallop"), qPrintable(facts()));
        // All of the top is under stock; more than there is stands nowhere.
        choose("where.byStock", "true");
        type("where.stock", "0.5");
        waitForPath();
        QVERIFY(m_model->result()->pattern);
        QVERIFY2(std::abs(m_model->result()->pattern->rowsLength - whole) < 0.02 * whole,
                 qPrintable(QString("%1 of %2").arg(m_model->result()->pattern->rowsLength).arg(whole)));
        type("where.stock", "200");
        waitForPath();
        QVERIFY(!m_model->result()->pattern);
        choose("where.byStock", "false");
        // Under itself lies all of the face, outside of its outline nothing.
        choose("where.by", "inside");
        click(find<Word>("word.where.faces"));
        QCOMPARE(m_model->picks().mode(), PickMode::WhereFaces);
        QVERIFY(m_model->picks().setNumbers("where.faces", QString::number(top)).has_value());
        QTest::keyClick(&m_window->view(), Qt::Key_Escape);
        waitForPath();
        QVERIFY(m_model->result()->pattern && std::abs(m_model->result()->pattern->rowsLength - whole) < 0.02 * whole);
        choose("where.by", "outside");
        waitForPath();
        QVERIFY(!m_model->result()->pattern || m_model->result()->pattern->rowsLength < 0.2 * whole);
        choose("where.by", "anywhere");
        waitForPath();
        const auto ways = [&] {
            double sum = 0.0;
            const auto& rows = m_model->result()->pattern->rows;
            for (std::size_t i = 1; i < rows.size(); ++i) sum += (rows[i].points.front() - rows[i - 1].points.back()).norm();
            return sum;
        };
        const double byRows = ways();
        choose("pattern.pieces", "true");
        waitForPath();
        QVERIFY2(ways() <= byRows + 1e-9, qPrintable(QString("%1 %2").arg(ways()).arg(byRows)));
        QVERIFY(!find<Word>("word.pattern.layer"));
        type("pattern.layers", "3");
        for (const char* key : {"layer", "layersAlong", "everyLayer"}) QVERIFY2(find<Word>(QString("word.pattern.%1").arg(key)), key);
        type("pattern.layer", "0.3");
        waitForPath();
        QCOMPARE(m_model->result()->passes->size(), 3 * m_model->result()->pattern->rows.size());
        QVERIFY2(facts().contains("3 layers"), qPrintable(facts()));
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        waitForPath();
        QCOMPARE(m_model->recipe()->pattern->layers, 1);
        // By scallop rows of a ball lie as on the plane that this is.
        choose("pattern.by", "scallop");
        type("pattern.scallop", "0.02");
        waitForPath();
        const double r = 0.5 * m_model->result()->tool.cutter.diameter;
        QVERIFY2(std::abs(m_model->result()->scallop / 0.02 - 1.0) < 0.2 && m_model->result()->scallop < 0.0206, qPrintable(QString::number(m_model->result()->scallop)));
        QVERIFY(m_model->result()->pattern->widestGap < 1.02 * 2.0 * std::sqrt(2.0 * r * 0.02));
    }
    // A scan of coarse facets: new rows are proposed so that the cutter rests on them. On the points alone it would enter them, which is told.
    void aScanIsTouchedItself() {
        TriangleMesh mesh;
        constexpr std::uint32_t kCells = 12;
        for (std::uint32_t j = 0; j <= kCells; ++j)
            for (std::uint32_t i = 0; i <= kCells; ++i) mesh.points.emplace_back(3.0 * i, 3.0 * j, 2.0 * std::sin(0.55 * i) * std::sin(0.45 * j + 0.3));
        for (std::uint32_t j = 0; j < kCells; ++j)
            for (std::uint32_t i = 0; i < kCells; ++i) {
                const std::uint32_t at = j * (kCells + 1) + i;
                mesh.triangles.push_back({at, at + 1, at + kCells + 2});
                mesh.triangles.push_back({at, at + kCells + 2, at + kCells + 1});
            }
        const auto post = static_cast<std::uint32_t>(mesh.points.size()); // over the table
        for (int i = 0; i < 8; ++i) mesh.points.emplace_back(i & 1 ? 30 : 6, i & 2 ? 30 : 6, i & 4 ? -4 : -60);
        for (const std::array<std::uint32_t, 3>& t : std::vector<std::array<std::uint32_t, 3>>{
                 {0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4}, {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}})
            mesh.triangles.push_back({post + t[0], post + t[1], post + t[2]});
        const QString file = m_dir->filePath("waves.stl");
        QVERIFY(writeStl(mesh, file.toStdString()).has_value());
        QVERIFY(m_window->openFile(file, false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        const auto& faces = m_model->place()->part->faces();
        QString numbers;
        for (std::size_t f = 0; f < faces.size(); ++f)
            if (faces[f].bounds.high.z() > -3.0) numbers += QString("%1 ").arg(f);
        m_actions = 0;
        click(find<QPushButton>("addOperation"));
        QVERIFY(m_model->picks().setNumbers("target.faces", numbers).has_value());
        choose("pattern.kind", "planes");
        choose("pattern.by", "spacing");
        type("pattern.spacing", "1.2");
        waitForPath();
        QVERIFY(m_model->recipe()->touch->by == TouchBy::AlongAxis);
        QVERIFY(find<Word>("word.touch.by") && find<Word>("word.touch.reach"));
        const auto deepest = [&](const char* code) {
            double most = -1.0;
            for (const Finding& f : m_model->findings())
                if (f.code == code) most = std::max(most, f.amount);
            return most;
        };
        QVERIFY(m_model->result()->complete());
        QVERIFY(deepest("rests-on-part") > 0.01);
        // By brute force: no triangle is nearer to the ball's middle than its radius, and everywhere one is about as near as that.
        const auto off = [&] {
            std::pair<double, double> out{1e300, -1e300};
            const double r = 0.5 * m_model->result()->tool.cutter.diameter;
            for (const Pass& p : *m_model->result()->passes)
                for (std::size_t i = 0; i < p.path.size(); ++i) {
                    const double d = m_model->place()->part->tree().closest(p.path.tip[i] + r * p.path.axis[i]).distance - r;
                    out = {std::min(out.first, d), std::max(out.second, d)};
                }
            return out;
        };
        QVERIFY2(off().first > -1e-4 && off().second < 1e-3, qPrintable(QString("%1 %2").arg(off().first).arg(off().second)));
        choose("touch.by", "faces");
        waitForPath();
        QVERIFY(!find<Word>("word.touch.reach"));
        QVERIFY2(off().first < -0.01, qPrintable(QString::number(off().first)));
        m_model->undo();
        waitForPath();
        QVERIFY(m_model->recipe()->touch->by == TouchBy::AlongAxis);
        // Where it may hardly move, rows end, which is told with a cure; taken, less is left out.
        type("touch.reach", "0.004");
        waitForPath();
        const double left = deepest("part-not-in-reach");
        QVERIFY(left > 1.0);
        const auto all = m_model->findings();
        const auto told = std::find_if(all.begin(), all.end(), [](const Finding& f) { return f.code == "part-not-in-reach"; });
        QVERIFY(told->place && told->remedies.size() == 1);
        type("touch.reach", QString::fromStdString(told->remedies[0].value));
        waitForPath();
        QVERIFY(deepest("part-not-in-reach") < left);
        // A ball alone may move along the normal.
        type("touch.reach", "2");
        choose("touch.by", "normal");
        waitForPath();
        QVERIFY(m_model->result()->complete());
        choose("tool", "flat-6");
        waitForPath();
        const auto refused = m_model->findings();
        QVERIFY(std::any_of(refused.begin(), refused.end(), [](const Finding& f) { return f.rank == Rank::Stop && f.text.find("round cutter") != std::string::npos; }));
        choose("touch.by", "axis");
        waitForPath();
        QVERIFY(m_model->result()->complete());
    }
    // A pocket's corners after a larger ball, from nothing: a click takes the pocket, one choice the pattern, one number what cut before.
    void cornersAfterALargerBall() {
        QVERIFY(m_window->openFile(QString::fromStdString(test::filletedPocket(m_dir->path().toStdString()).string()), false));
        settle();
        QTRY_VERIFY(m_model->place() && m_model->place()->part);
        m_model->setBench(Bench::Cut);
        const auto& faces = m_model->place()->part->faces();
        int floor = -1;
        for (std::size_t f = 0; f < faces.size(); ++f)
            if (faces[f].kind == SurfaceKind::Plane && faces[f].normal.z() > 0.99 && std::abs(faces[f].centre.z() - 8) < 1e-6) floor = static_cast<int>(f);
        QVERIFY(floor >= 0);
        m_actions = 0;
        click(find<QPushButton>("addOperation"));
        // The guess after the face alone takes what goes on smoothly: fillets and walls.
        m_window->view().camera().look(-90, 85);
        m_window->view().grab();
        moveMouse(&m_window->view(), QPoint(3, 3));
        const QPoint at = pixelOfFace(floor);
        moveMouse(&m_window->view(), at);
        QTRY_VERIFY(m_window->view().hoverWords().startsWith("1 face"));
        m_window->view().setFocus();
        QTest::keyClick(&m_window->view(), Qt::Key_Space);
        if (m_window->view().hoverWords().contains("one height")) QTest::keyClick(&m_window->view(), Qt::Key_Space);
        QVERIFY2(m_window->view().hoverWords().contains("tangent"), qPrintable(m_window->view().hoverWords()));
        QTest::mouseClick(&m_window->view(), Qt::LeftButton, {}, at);
        QTRY_VERIFY(m_model->recipe()->target->faces.size() > 8);
        choose("tool", "ball-8");
        choose("pattern.kind", "corners");
        waitForPath();
        for (const Finding& f : m_model->findings()) QVERIFY2(f.stage != "Pattern", (f.text + f.reason).c_str());
        QVERIFY(m_model->result() && m_model->result()->pattern);
        QVERIFY(!find<Word>("word.pattern.spacing")); // one row: nothing to ask of their distance
        const auto one = m_model->result()->pattern->rows.size();
        type("pattern.larger", "10");
        QVERIFY(find<Word>("word.pattern.spacing") || find<Word>("word.pattern.scallop"));
        choose("pattern.by", "spacing");
        type("pattern.spacing", "0.3");
        waitForPath();
        QVERIFY2(m_actions <= 9, qPrintable(QString::number(m_actions)));
        const auto pattern = m_model->result()->pattern;
        QVERIFY(pattern->rows.size() > 4 * one && pattern->widestGap <= 0.303);
        for (const Row& row : pattern->rows)
            for (std::size_t i = 0; i < row.points.size(); ++i) QVERIFY(m_model->place()->part->tree().closest(row.points[i] + 4.0 * row.normals[i]).distance > 3.97);
        // A smaller ball before than this one leaves nothing; none at all is one row again.
        type("pattern.larger", "6");
        waitForPath();
        const auto refused = m_model->findings();
        QVERIFY(std::any_of(refused.begin(), refused.end(), [](const Finding& f) { return f.text.find("leaves nothing") != std::string::npos; }));
        type("pattern.larger", "0");
        waitForPath();
        QCOMPARE(m_model->result()->pattern->rows.size(), one);
        m_model->undo(); // both numbers were one step
        waitForPath();
        QCOMPARE(m_model->result()->pattern->rows.size(), pattern->rows.size());
    }
};

GYRE_WINDOW_TEST(TestRows)

} // namespace test_rows
#include "test_rows.moc"
