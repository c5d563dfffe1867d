// Rows that go on beyond their ends or end before them, and rows that run so that what still stands lies on the wanted side.
#include "Program.h"
#include "RandomFaces.h"
#include "base/Units.h"
#include "geom/Polyline.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"

namespace test_row_ends {

using namespace gyre;

namespace {

Result<PatternResult> tried(const Part& part, const std::vector<int>& faces, const PatternSpec& spec) {
    Progress p;
    return layRows(part, faces, spec, 3.0, p);
}

PatternResult lay(const Part& part, const std::vector<int>& faces, const PatternSpec& spec) {
    auto r = tried(part, faces, spec);
    if (!r) qFatal("%s", r.error().text().c_str());
    return *r;
}

int faceOf(const Part& part, SurfaceKind kind, double height) {
    int found = -1;
    for (std::size_t f = 0; f < part.faces().size(); ++f) {
        const auto& face = part.faces()[f];
        if (face.kind != kind || (kind == SurfaceKind::Plane && (face.normal.z() < 0.99 || std::abs(face.centre.z() - height) > 1e-6))) continue;
        if (found < 0 || face.area > part.faces()[static_cast<std::size_t>(found)].area) found = static_cast<int>(f);
    }
    return found;
}

PatternSpec planes(double spacing, double along = 0.0) {
    PatternSpec spec;
    spec.kind = PatternBy::Planes;
    spec.spacing = spacing;
    spec.along = along;
    spec.order = RowOrder::OneWay;
    return spec;
}

/// Places of rows with only what is cut later beside them on the right, on the left.
struct Sides {
    int right = 0, left = 0;
};

/// The first row that is met from a place to one side, seen along the normal there, within some reach: its number in the order of cutting, or -1.
int firstBeside(const std::vector<Row>& rows, const Vec3& from, const Vec3& way, const Vec3& normal, double reach) {
    const Vec3 across = normal.cross(way);
    double nearest = reach;
    int first = -1;
    for (std::size_t i = 0; i < rows.size(); ++i)
        for (std::size_t q = 1; q < rows[i].points.size(); ++q) {
            const Vec3 a = rows[i].points[q - 1] - from, b = rows[i].points[q] - from;
            const double before = a.dot(across), after = b.dot(across);
            if ((before > 0.0) == (after > 0.0)) continue;
            const Vec3 met = a + before / (before - after) * (b - a);
            const double far = met.dot(way);
            if (far < 0.01 * reach || far > nearest || std::abs(met.dot(normal)) > reach) continue;
            nearest = far;
            first = static_cast<int>(i);
        }
    return first;
}

// By the places themselves: is what lies next to them on either side cut later?
Sides sidesOfWhatComes(const std::vector<Row>& rows, double spacing) {
    Sides out;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Row& row = rows[i];
        Sides here;
        bool amid = false; // one of the first, which stand between others that are cut later
        for (std::size_t p = 1; p + 1 < row.points.size(); p += std::max<std::size_t>(1, row.points.size() / 7)) {
            const Vec3 &at = row.points[p], &normal = row.normals[p], right = (row.points[p + 1] - row.points[p - 1]).cross(normal).normalized();
            const auto stands = [&](const Vec3& way) { return firstBeside(rows, at, way, normal, 1.5 * spacing) > static_cast<int>(i); };
            const bool onTheRight = stands(right), onTheLeft = stands(-right);
            if (onTheRight != onTheLeft) ++(onTheRight ? here.right : here.left);
            amid = amid || (onTheRight && onTheLeft);
        }
        if (amid) continue;
        out.right += here.right;
        out.left += here.left;
    }
    return out;
}

} // namespace

class TestRowEnds : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // On a box's top: from 5 before it to 5 behind it, and as much of it left out.
    void onAPlane() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 10));
        const int top = faceOf(*part, SurfaceKind::Plane, 10);
        for (const double mm : {5.0, 0.0, -7.5}) {
            PatternSpec spec = planes(2.0);
            spec.beyond = mm;
            const PatternResult r = lay(*part, {top}, spec);
            QCOMPARE(r.rows.size(), std::size_t(21));
            double sum = 0.0;
            for (const Row& row : r.rows) {
                QVERIFY(std::abs(std::min(row.points.front().x(), row.points.back().x()) + mm) < 1e-4);
                QVERIFY(std::abs(std::max(row.points.front().x(), row.points.back().x()) - 60 - mm) < 1e-4);
                QVERIFY(row.points.size() == row.normals.size() && row.points.size() == row.faces.size());
                for (std::size_t i = 0; i < row.points.size(); ++i) {
                    QVERIFY(std::abs(row.points[i].z() - 10) < 1e-9 && (row.normals[i] - Vec3::UnitZ()).norm() < 1e-9);
                    if (i > 0) QVERIFY((row.points[i] - row.points[i - 1]).norm() <= spec.longestStep + 1e-9);
                }
                sum += length(row.points);
            }
            QVERIFY(std::abs(sum - r.rowsLength) < 1e-6 && std::abs(sum - 21 * (60 + 2 * mm)) < 1e-2);
        }
    }
    // Round a cone's wall, cut by planes: straight on as they end, square to the normal; shortened ones lie on the wall and miss as much at either end.
    void onARound() {
        const auto part = test::openPart(test::coneStep(dir(), 30, 12, 25));
        const int wall = faceOf(*part, SurfaceKind::Cone, 0);
        PatternSpec spec = planes(3.0, 30.0);
        const PatternResult whole = lay(*part, {wall}, spec);
        spec.beyond = 4.0;
        const PatternResult longer = lay(*part, {wall}, spec);
        spec.beyond = -2.0;
        const PatternResult shorter = lay(*part, {wall}, spec);
        QCOMPARE(longer.rows.size(), whole.rows.size());
        int open = 0;
        for (std::size_t i = 0; i < whole.rows.size(); ++i) {
            const Row &w = whole.rows[i], &l = longer.rows[i];
            if (w.closed) continue;
            ++open;
            const auto front = std::find(l.points.begin(), l.points.end(), w.points.front());
            QVERIFY(front != l.points.end() && front != l.points.begin());
            const Vec3 out = (l.points.front() - *front).normalized();
            QVERIFY(std::abs(out.dot(w.normals.front())) < 1e-9);
            // Planes at 30°: a way on the cone within such a plane is square to both normals.
            const Vec3 plane(-std::sin(radians(30)), std::cos(radians(30)), 0.0), way = plane.cross(w.normals.front()).normalized();
            QVERIFY2(std::abs(out.dot(way)) > std::cos(radians(1.5)), qPrintable(QString::number(degrees(std::acos(std::abs(out.dot(way)))))));
        }
        QVERIFY(open > 5);
        double lost = 0.0;
        int kept = 0;
        for (const Row& s : shorter.rows) {
            const auto same = std::find_if(whole.rows.begin(), whole.rows.end(),
                                           [&](const Row& w) { return w.index == s.index && PolylineDistance(w.points).distance(s.points.front()) < 0.02; });
            QVERIFY(same != whole.rows.end());
            if (s.closed) continue;
            ++kept;
            lost += length(same->points) - length(s.points);
            for (const Vec3& p : s.points) QVERIFY(std::abs((std::hypot(p.x(), p.y()) - 30 + 18.0 / 25.0 * p.z()) * std::cos(std::atan2(18, 25))) < 1e-5);
        }
        QVERIFY(kept > 5);
        QVERIFY2(std::abs(lost / kept - 4.0) < 0.02, qPrintable(QString::number(lost / kept)));
    }
    // Over a round hole of 24 two pieces of a row meet half way at most: none runs over the other.
    void piecesOfARowMeetHalfWay() {
        const auto part = test::openPart(test::plateWithCone(dir(), 12, 6, 8));
        const int top = faceOf(*part, SurfaceKind::Plane, 0);
        PatternSpec spec = planes(1.0);
        const PatternResult whole = lay(*part, {top}, spec);
        spec.beyond = 9.0;
        const PatternResult r = lay(*part, {top}, spec);
        QCOMPARE(r.rows.size(), whole.rows.size());
        int halved = 0, apart = 0;
        for (std::size_t i = 1; i < r.rows.size(); ++i) {
            if (r.rows[i].index != r.rows[i - 1].index) continue;
            const auto reach = [](const Row& row) { return std::minmax({row.points.front().x(), row.points.back().x()}); };
            const auto a = reach(r.rows[i - 1]), b = reach(r.rows[i]);
            const double between = std::max(a.first, b.first) - std::min(a.second, b.second);
            QVERIFY2(between > -1e-6, qPrintable(QString::number(between)));
            ++(between < 1e-6 ? halved : apart);
        }
        QVERIFY2(halved > 5 && apart > 3, qPrintable(QString("%1 meet, %2 do not").arg(halved).arg(apart)));
    }
    // What is shorter than both ends together is left out and told; where all of it is, nothing is laid and it says why.
    void whatIsTooShortIsTold() {
        const auto part = test::openPart(test::plateWithCone(dir(), 12, 6, 8));
        const int top = faceOf(*part, SurfaceKind::Plane, 0);
        PatternSpec spec = planes(1.0);
        const PatternResult whole = lay(*part, {top}, spec);
        double shortest = 1e300, longest = 0.0;
        for (const Row& row : whole.rows) {
            shortest = std::min(shortest, length(row.points));
            longest = std::max(longest, length(row.points));
        }
        QVERIFY(longest > 1.5 * shortest);
        spec.beyond = -0.5 * (shortest + 1.0);
        const PatternResult r = lay(*part, {top}, spec);
        const auto told = std::find_if(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "rows-too-short"; });
        QVERIFY(told != r.findings.end() && told->remedies.size() == 1);
        QCOMPARE(static_cast<std::size_t>(told->amount), whole.rows.size() - r.rows.size());
        QCOMPARE(told->remedies[0].key, std::string("pattern.beyond")); // taken: all rows are there again
        spec.beyond = QString::fromStdString(told->remedies[0].value).toDouble();
        QCOMPARE(lay(*part, {top}, spec).rows.size(), whole.rows.size());
        spec.beyond = -0.5 * longest - 1.0;
        const auto none = tried(*part, {top}, spec);
        QVERIFY(!none && none.error().what.find("nothing is left") != std::string::npos);
    }
    // Climb milling has what still stands on its right, conventional on its left: from one end, from the other, from the middle, from outside.
    void whatStandsLiesOnTheWantedSide() {
        test::Random random(71);
        int looked = 0, against = 0;
        for (int kind = 0; kind < test::RandomFace::kKinds; ++kind) {
            const test::RandomFace face(dir(), random, kind);
            const auto part = test::openPart(face.file());
            for (const RowStart start : {RowStart::First, RowStart::Last, RowStart::Middle, RowStart::Outside})
                for (const RowCut cut : {RowCut::Climb, RowCut::Conventional}) {
                    PatternSpec spec = planes(1.2, random.number(-180, 180));
                    spec.start = start;
                    spec.cut = cut;
                    spec.reversed = random.integer(0, 1) == 1; // which does not count
                    const auto r = tried(*part, {0}, spec);
                    if (!r || r->rows.size() < 6) continue;
                    const Sides sides = sidesOfWhatComes(r->rows, 1.2);
                    const int wanted = cut == RowCut::Climb ? sides.right : sides.left, other = cut == RowCut::Climb ? sides.left : sides.right;
                    if (wanted + other <= 10) continue; // slivers
                    looked += wanted;
                    against += other;
                    // Where planes graze a face its rows are short and stand amid others any way: few places, but on some faces more than one of fifty.
                    QVERIFY2(wanted >= 10 && other * 10 <= wanted,
                             qPrintable(QString("%1, start %2: %3 as wanted, %4 not").arg(face.what().c_str()).arg(static_cast<int>(start)).arg(wanted).arg(other)));
                }
        }
        QVERIFY2(looked > 2000 && against * 50 <= looked, qPrintable(QString("%1 as wanted, %2 not").arg(looked).arg(against)));
    }
    // A spiral over a cone's wall from below and from above: the next turn lies on the right where it climbs. Rows that go back and forth cannot.
    void spiralsToo() {
        const auto part = test::openPart(test::coneStep(dir(), 30, 12, 25));
        const int wall = faceOf(*part, SurfaceKind::Cone, 0);
        PatternSpec spec = planes(2.0);
        spec.lean = 90.0;
        spec.order = RowOrder::Spiral;
        for (const RowStart start : {RowStart::First, RowStart::Last})
            for (const RowCut cut : {RowCut::Climb, RowCut::Conventional}) {
                spec.start = start;
                spec.cut = cut;
                const PatternResult r = lay(*part, {wall}, spec);
                QCOMPARE(r.rows.size(), std::size_t(1));
                const Row& row = r.rows.front();
                const Vec3 &a = row.points[row.points.size() / 2], &b = row.points[row.points.size() / 2 + 1];
                const Vec3 right = (b - a).cross(row.normals[row.points.size() / 2]);
                const bool upward = row.points.back().z() > row.points.front().z();
                QVERIFY((right.z() > 0.0) == (upward == (cut == RowCut::Climb)));
            }
        spec.order = RowOrder::BackAndForth;
        const auto none = tried(*part, {wall}, spec);
        QVERIFY(!none && none.error().what.find("by turns") != std::string::npos);
    }
};

GYRE_TEST(TestRowEnds)

} // namespace test_row_ends
#include "test_row_ends.moc"
