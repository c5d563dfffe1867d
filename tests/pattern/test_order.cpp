// Rows that holes break, piece by piece: the same rows, with few ways in between.
#include "LaidRows.h"
#include "Program.h"
#include "Support.h"
#include "pattern/PatternSpec.h"
#include "pattern/RowOrder.h"
#include <map>

namespace test_order {

using namespace gyre;
using test::lay;

namespace {

int topOf(const Part& part, double height) {
    int top = -1;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].normal.z() > 0.99 && part.faces()[f].kind == SurfaceKind::Plane && std::abs(part.faces()[f].centre.z() - height) < 1e-6 &&
            (top < 0 || part.faces()[f].area > part.faces()[static_cast<std::size_t>(top)].area))
            top = static_cast<int>(f);
    return top;
}

/// Ways from row to row that are longer than a few steps, and their length.
std::pair<int, double> leaps(const std::vector<Row>& rows, double spacing) {
    int count = 0;
    double sum = 0.0;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        const double d = (rows[i].points.front() - rows[i - 1].points.back()).norm();
        if (d < 4.0 * spacing) continue;
        ++count;
        sum += d;
    }
    return {count, sum};
}

/// The same lines, whichever way they run and in whatever order.
bool sameRows(const std::vector<Row>& a, const std::vector<Row>& b) {
    const auto all = [](const std::vector<Row>& rows) {
        std::multimap<std::tuple<int, double, double, double>, double> out;
        for (const Row& r : rows) {
            const Vec3 middle = r.points.front() + r.points.back();
            out.emplace(std::tuple(r.index, std::round(1e6 * middle.x()), std::round(1e6 * middle.y()), std::round(1e6 * middle.z())),
                        std::round(1e6 * length(r.points)));
        }
        return out;
    };
    return all(a) == all(b);
}

} // namespace

class TestOrder : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // A round hole in a plate: what lies before it, on its two sides and behind it. Three ways between four pieces, or fewer.
    void aroundAHole() {
        const auto part = test::openPart(test::plateWithCone(dir(), 12, 6, 8));
        const int top = topOf(*part, 0.0);
        QVERIFY(top >= 0);
        for (const double along : {0.0, 90.0, 37.0}) {
            PatternSpec spec;
            spec.kind = PatternBy::Planes;
            spec.along = along;
            const PatternResult rows = lay(*part, {top}, spec);
            spec.pieces = true;
            const PatternResult pieces = lay(*part, {top}, spec);
            QVERIFY(sameRows(rows.rows, pieces.rows));
            const auto before = leaps(rows.rows, 0.5), after = leaps(pieces.rows, 0.5);
            QVERIFY2(before.first > 20, qPrintable(QString::number(before.first)));
            QVERIFY2(after.first <= 3 && after.second < 0.2 * before.second,
                     qPrintable(QString("%1° %2: %3 mm; %4: %5 mm").arg(along).arg(before.first).arg(before.second).arg(after.first).arg(after.second)));
            // Back and forth, also from piece to piece; a row that runs back says so.
            for (std::size_t i = 1; i < pieces.rows.size(); ++i) {
                const Row &a = pieces.rows[i - 1], &b = pieces.rows[i];
                if (a.points.size() < 2 || b.points.size() < 2) continue;
                QVERIFY((b.points.front() - a.points.back()).norm() <= (b.points.back() - a.points.back()).norm() + 1e-9);
            }
            for (const Row& r : pieces.rows) {
                const auto same = std::find_if(rows.rows.begin(), rows.rows.end(), [&](const Row& o) {
                    return o.index == r.index && (o.points.front() == r.points.front() || o.points.front() == r.points.back());
                });
                QVERIFY(same != rows.rows.end() && (same->points.front() == r.points.front()) == (same->returning == r.returning));
            }
            // One way stays one way.
            spec.order = RowOrder::OneWay;
            const Vec3 forth = lay(*part, {top}, spec).rows.front().points.back() - lay(*part, {top}, spec).rows.front().points.front();
            for (const Row& r : lay(*part, {top}, spec).rows) QVERIFY(!r.returning && (r.points.back() - r.points.front()).dot(forth) > 0.0);
        }
    }
    // A plate full of holes, a slot and a boss, from any end: never more leaps, and the same rows.
    void neverWorse() {
        const auto part = test::openPart(test::drilledPlate(dir()));
        const int top = topOf(*part, 20.0);
        test::Random random(612);
        for (int i = 0; i < 8; ++i) {
            PatternSpec spec;
            spec.kind = i % 4 == 3 ? PatternBy::Point : PatternBy::Planes;
            spec.along = random.number(-180, 180);
            spec.centre = Vec3(random.number(-20, 140), random.number(-20, 100), 20);
            spec.spacing = random.number(0.8, 2.0);
            spec.start = std::array{RowStart::First, RowStart::Last, RowStart::Middle}[static_cast<std::size_t>(i % 3)];
            const PatternResult rows = lay(*part, {top}, spec);
            spec.pieces = true;
            const PatternResult pieces = lay(*part, {top}, spec);
            QVERIFY(sameRows(rows.rows, pieces.rows));
            const auto before = leaps(rows.rows, spec.spacing), after = leaps(pieces.rows, spec.spacing);
            QVERIFY2(
                3 * after.first < before.first && after.second < 0.6 * before.second,
                qPrintable(
                    QString("%1 %2: %3 leaps of %4 mm, before %5 of %6").arg(i).arg(spec.along).arg(after.first).arg(after.second).arg(before.first).arg(before.second)));
        }
    }
    // Rows that nothing breaks follow each other as ever.
    void unbrokenRowsStay() {
        const auto part = test::openPart(test::boxStep(dir(), 50, 40, 20));
        const int top = topOf(*part, 20.0);
        for (const RowStart start : {RowStart::First, RowStart::Last}) {
            PatternSpec spec;
            spec.kind = PatternBy::Planes;
            spec.along = 20;
            spec.start = start;
            const PatternResult rows = lay(*part, {top}, spec);
            spec.pieces = true;
            const PatternResult pieces = lay(*part, {top}, spec);
            QCOMPARE(rows.rows.size(), pieces.rows.size());
            for (std::size_t i = 0; i < rows.rows.size(); ++i)
                QVERIFY(rows.rows[i].points == pieces.rows[i].points && rows.rows[i].returning == pieces.rows[i].returning);
        }
    }
};

GYRE_TEST(TestOrder)

} // namespace test_order
#include "test_order.moc"
