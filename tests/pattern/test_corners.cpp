// Rows along inner corners: where a ball touches two faces at once, by closed forms.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <numeric>
#include <set>

namespace test_corners {

using namespace gyre;
using namespace gyre::test;

class TestCorners : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
    static std::vector<int> all(const Part& part) {
        std::vector<int> out(part.faces().size());
        std::iota(out.begin(), out.end(), 0);
        return out;
    }
    static Result<PatternResult> lay(const Part& part, double radius, double larger = 0.0, double spacing = 0.3, RowEnds ends = RowEnds::OnRails) {
        PatternSpec spec;
        spec.kind = PatternBy::Corners;
        spec.larger = larger;
        spec.spacing = spacing;
        spec.ends = ends;
        Progress progress;
        return layRows(part, all(part), spec, radius, progress);
    }
    /// Middles of the ball along all rows of one number.
    static std::vector<Vec3> middles(const PatternResult& r, int index, double radius) {
        std::vector<Vec3> out;
        for (const Row& row : r.rows)
            for (std::size_t i = 0; i < row.points.size(); ++i)
                if (row.index == index) out.push_back(row.points[i] + radius * row.normals[i]);
        return out;
    }

private slots:
    // Planes at 60, 90 and 120 degrees: the middle runs r / sin(φ/2) from the edge, on the bisector, along the whole foot of the boss.
    void betweenPlanes() {
        for (const double draft : {-30.0, 0.0, 30.0}) {
            const auto part = openPart(bossOnPlate(dir(), draft));
            for (const double radius : {0.5, 2.0, 3.0}) {
                const auto r = lay(*part, radius);
                QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
                QCOMPARE(r->rows.size(), std::size_t{4});
                const double off = radius / std::sin(0.5 * radians(90 + draft));
                double length = 0.0;
                for (const Row& row : r->rows)
                    for (std::size_t i = 0; i < row.points.size(); ++i) {
                        const Vec3 c = row.points[i] + radius * row.normals[i];
                        const double x = std::max(27 - c.x(), c.x() - 63), y = std::max(26 - c.y(), c.y() - 54); // beside the boss
                        QVERIFY(near(c.z(), 12 + radius, 1e-7));
                        QVERIFY2(near(std::hypot(std::max(x, y), radius), off, 1e-6), qPrintable(QString("%1 %2").arg(draft).arg(radius)));
                        if (i > 0) length += (row.points[i] - row.points[i - 1]).norm();
                    }
                // As long as the edges: beside their ends the other side of the boss is touched no more. Where sides lean out they end sooner or later.
                if (draft == 0.0) QVERIFY(near(length, 2 * (36 + 28), 0.01));
            }
        }
    }
    // A boss on a round bar: r + 15 from one axis and r + 4 from the other, all the way round, in one closed row.
    void betweenTwoCylinders() {
        const auto part = openPart(bossedBar(dir()));
        const auto r = lay(*part, 2.5);
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        QCOMPARE(r->rows.size(), std::size_t{1});
        QVERIFY(r->rows[0].closed);
        for (const Vec3& c : middles(*r, 0, 2.5)) {
            QVERIFY(near(std::hypot(c.y(), c.z()), 17.5, 1e-5));
            QVERIFY(near(std::hypot(c.x() - 30, c.y()), 6.5, 1e-4));
        }
        const auto& points = r->rows[0].points;
        for (std::size_t i = 0; i < points.size(); ++i) QVERIFY((points[i] - points[(i + 1) % points.size()]).norm() < 2.1);
    }
    // Fillets of 3: a smaller ball finds no corner there, a larger one does, and the rows round the floor are one.
    void filletsCountWhereTheBallIsLarger() {
        const auto part = openPart(filletedPocket(dir()));
        const auto none = lay(*part, 2.0);
        // The steps beside the pocket have sharp feet.
        QVERIFY(none.has_value());
        for (const Row& row : none->rows)
            for (const Vec3& p : row.points) QVERIFY2(p.x() < 6.1 || p.x() > 53.9, qPrintable(QString::number(p.x())));
        // The walls of the steps are 5 high: a ball of 12 looks over them, and touches their edge, not their face.
        const auto high = lay(*part, 6.0);
        QVERIFY(high.has_value() && !high->rows.empty());
        for (const Row& row : high->rows)
            for (const Vec3& p : row.points) QVERIFY2(p.x() > 6.1 && p.x() < 53.9, qPrintable(QString::number(p.x())));
        const auto r = lay(*part, 4.0);
        QVERIFY(r.has_value());
        int rings = 0;
        for (const Row& row : r->rows) {
            const bool onFloor = std::abs(row.points.front().z() - 8) < 1e-6;
            if (!onFloor) continue;
            rings += row.closed;
            for (const Vec3& p : row.points) QVERIFY(near(std::min({p.x() - 10, 50 - p.x(), p.y() - 10, 30 - p.y()}), 4, 2e-5));
        }
        QCOMPARE(rings, 1);
    }
    // What a ball of 10 left beside one of 8: bounded by its own contact lines, rows no further apart than asked, and the middle at last.
    void whatALargerBallLeft() {
        const auto part = openPart(filletedPocket(dir()));
        for (const RowEnds ends : {RowEnds::OnRails, RowEnds::HalfStepIn}) {
            const auto r = lay(*part, 4.0, 10.0, 0.3, ends);
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            std::map<int, double> onFloor, upWall;
            for (const Row& row : r->rows)
                for (const Vec3& p : row.points) {
                    if (p.x() < 10 - 1e-6 || p.x() > 50 + 1e-6) continue; // the steps
                    const double in = std::min({p.x() - 10, 50 - p.x(), p.y() - 10, 30 - p.y()});
                    if (std::abs(p.z() - 8) < 1e-6) onFloor[row.index] = in;
                    if (in < 1e-6) upWall[row.index] = std::min(upWall.try_emplace(row.index, 1e300).first->second, p.z() - 8);
                }
            const bool rails = ends == RowEnds::OnRails;
            QCOMPARE(onFloor.size(), std::size_t(rails ? 5 : 4));
            for (const auto& [index, in] : onFloor) QVERIFY(near(in, rails ? 5.0 - 0.25 * index : 5.0 - (index + 0.5) / 3.5, 2e-5));
            QVERIFY(near(upWall.at(0), rails ? 5.0 : 5.0 - 0.5 / 3.5, 2e-5));
            QVERIFY2(r->widestGap <= 0.303 && r->widestGap > 0.2, qPrintable(QString::number(r->widestGap)));
            for (std::size_t i = 1; i < r->rows.size(); ++i) QVERIFY(r->rows[i].index >= r->rows[i - 1].index); // from both sides to the middle
            // A ball that touches there enters nothing.
            for (const Row& row : r->rows)
                for (std::size_t i = 0; i < row.points.size(); ++i) {
                    const double room = part->tree().closest(row.points[i] + 4.0 * row.normals[i]).distance;
                    QVERIFY2(room > 4.0 - 2.0 * part->deflection(), qPrintable(QString::number(room)));
                }
        }
    }
    // A ball of 10 left more than the fillets of 3; one of 4 fits into them: rows over the faces and over the fillets, to the middle of those.
    void whatWasLeftInAFillet() {
        const auto part = openPart(filletedPocket(dir()));
        const auto r = lay(*part, 2.0, 10.0, 0.4);
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        QVERIFY2(r->widestGap <= 0.404 && r->widestGap > 0.3, qPrintable(QString::number(r->widestGap)));
        int last = 0;
        for (const Row& row : r->rows) last = std::max(last, row.index);
        std::set<int> onFloor, onFillet;
        double middle = 0.0;
        for (const Row& row : r->rows)
            for (std::size_t i = 0; i < row.points.size(); ++i) {
                const Vec3 &p = row.points[i], c = p + 2.0 * row.normals[i];
                const double room = part->tree().closest(c).distance;
                QVERIFY2(room > 2.0 - 2.0 * part->deflection(), qPrintable(QString::number(room)));
                if (p.x() < 14 || p.x() > 46 || p.y() > 20) continue; // along the long wall at y = 10
                const double in = p.y() - 10, up = p.z() - 8;
                if (up < 1e-6 && in < 5.5) onFloor.insert(row.index);
                if (in < 3 - 1e-6 && up < 3 - 1e-6 && up > 1e-6) {
                    onFillet.insert(row.index);
                    QVERIFY(near(std::hypot(in - 3, up - 3), 3, 1e-6));
                }
                if (row.index == last && up < 4) {
                    QVERIFY(near(in, 3 - 3 / std::sqrt(2.0), 1e-4) && near(up, in, 1e-4));
                    middle = std::max(middle, p.x());
                }
            }
        QVERIFY(middle > 40);
        // Two millimetres of floor and a quarter of a round of 3: in all 4.36 mm in steps of no more than 0.4.
        QVERIFY2(onFloor.size() >= 5 && onFillet.size() >= 6 && last <= 13, qPrintable(QString("%1 %2 %3").arg(onFloor.size()).arg(onFillet.size()).arg(last)));
        const auto fits = lay(*part, 2.0, 5.0); // that one fitted as well
        QVERIFY(fits.has_value());
        for (const Row& row : fits->rows)
            for (const Vec3& p : row.points) QVERIFY(p.x() < 6.1 || p.x() > 53.9);
    }
    // By number; from the middle outwards; what cannot be says why.
    void countedTurnedRoundAndRefused() {
        const auto part = openPart(filletedPocket(dir()));
        PatternSpec spec;
        spec.kind = PatternBy::Corners;
        spec.larger = 10;
        spec.by = RowsBy::Count;
        spec.count = 4;
        spec.start = RowStart::Last;
        Progress progress;
        const auto r = layRows(*part, all(*part), spec, 4.0, progress);
        QVERIFY(r.has_value());
        QCOMPARE(r->rows.front().index, 3);
        QCOMPARE(r->rows.back().index, 0);
        QVERIFY(near(r->widestGap, 1.0 / 3.0, 0.01));
        spec.larger = 6;
        const auto smaller = layRows(*part, all(*part), spec, 4.0, progress);
        QVERIFY(!smaller && smaller.error().what.find("leaves nothing") != std::string::npos);
        spec.larger = 0;
        const auto flat = layRows(*part, all(*part), spec, 0.0, progress);
        QVERIFY(!flat && flat.error().what.find("flat cutter") != std::string::npos);
        const auto box = openPart(boxStep(dir(), 30, 20, 10));
        const auto none = layRows(*box, all(*box), spec, 2.0, progress);
        QVERIFY(!none && none.error().what.find("no inner corner") != std::string::npos);
        Progress off;
        off.cancel();
        const auto cancelled = layRows(*part, all(*part), spec, 4.0, off);
        QVERIFY(!cancelled && cancelled.error().cancelled);
    }
};

GYRE_TEST(TestCorners)

} // namespace test_corners
#include "test_corners.moc"
