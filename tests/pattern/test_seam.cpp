// Rows that begin at the rows of another operation: a step from the last of them, around whatever edge lies between.
#include "Program.h"
#include "Support.h"
#include "axis/Axis.h"
#include "base/Units.h"
#include "pattern/Beside.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include <map>

namespace test_seam {

using namespace gyre;
using test::faceOf;
using test::faceTowards;

namespace {

Result<PatternResult> tried(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowsBeside* beside = nullptr) {
    Progress p;
    RowHelp help;
    help.beside = beside;
    return layRows(part, faces, spec, 3.0, p, help);
}

PatternResult lay(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowsBeside* beside = nullptr) {
    auto r = tried(part, faces, spec, beside);
    if (!r) qFatal("%s", r.error().text().c_str());
    return *r;
}

PatternSpec planes(double spacing, double along, double lean = 0.0) {
    PatternSpec spec;
    spec.kind = PatternBy::Planes;
    spec.spacing = spacing;
    spec.along = along;
    spec.lean = lean;
    return spec;
}

PatternSpec seamed(double spacing, RowEnds ends = RowEnds::OnRails) {
    PatternSpec spec;
    spec.kind = PatternBy::Seam;
    spec.spacing = spacing;
    spec.ends = ends;
    return spec;
}

/// Rows with axes along their normals, leaning by so much in their feed.
NeighbourRows neighbour(const PatternResult& r, double lead = 0.0) {
    NeighbourRows out{"before", r.rows, {}, r.spacing};
    for (const Row& row : r.rows) {
        const auto feeds = feedDirections(row);
        out.axes.emplace_back();
        for (std::size_t i = 0; i < row.points.size(); ++i) out.axes.back().push_back(axisFromLeadTilt(row.normals[i], feeds[i], lead, 0.0));
    }
    return out;
}

} // namespace

class TestSeam : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // The top of a box in rows along X; its front wall goes on from them, whether they end on the edge or half a step before it.
    void overAnEdge() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ()), front = faceTowards(*part, -Vec3::UnitY());
        for (const RowEnds ends : {RowEnds::OnRails, RowEnds::HalfStepIn})
            for (const RowEnds last : {RowEnds::OnRails, RowEnds::HalfStepIn}) {
                PatternSpec above = planes(0.8, 0.0);
                above.ends = ends;
                const PatternResult theirs = lay(*part, {top}, above);
                double edge = 1e300; // how far the last of them stands off the edge
                for (const Row& r : theirs.rows) edge = std::min(edge, r.points.front().y());
                const RowsBeside beside({neighbour(theirs)});
                const PatternResult r = lay(*part, {front}, seamed(0.8, last), &beside);
                QVERIFY(r.rows.size() > 25);
                std::vector<double> depths;
                for (const Row& row : r.rows) {
                    for (const Vec3& p : row.points) QVERIFY(std::abs(p.z() - row.points.front().z()) < 1e-4 && std::abs(p.y()) < 1e-9);
                    QVERIFY(std::abs(length(row.points) - 60) < 1e-3);
                    depths.push_back(25 - row.points.front().z());
                }
                std::sort(depths.begin(), depths.end());
                const double step = depths[1] - depths[0];
                QVERIFY(step <= 0.8 * 1.001 && step > 0.75);
                QVERIFY2(std::abs(depths[0] + edge - step) < 2e-3, qPrintable(QString("%1 and %2 for %3").arg(depths[0]).arg(edge).arg(step)));
                QVERIFY(std::abs(25 - depths.back() - (last == RowEnds::OnRails ? 0.0 : 0.5 * step)) < 2e-3);
                std::vector<std::vector<Vec3>> axes;
                for (const Row& row : r.rows) axes.push_back(row.normals);
                const SeamMeasure seam = measureSeam(beside, r.rows, axes, 0.8);
                // Straight across the edge, not along the faces.
                QVERIFY(std::abs(seam.gap - std::hypot(depths[0], edge)) < 2e-3 && seam.apart < radians(0.1) && std::abs(seam.turn - kPi / 2) < radians(0.1));
                QVERIFY(seam.places > 20);
            }
    }
    // A cone's wall in levels, and the lid goes on in rings from its rim: closed all round, each ring a step within the one before.
    void allRoundARim() {
        const auto part = test::openPart(test::coneStep(dir(), 30, 20, 25));
        const int wall = faceOf(*part, SurfaceKind::Cone), lid = faceTowards(*part, Vec3::UnitZ());
        PatternSpec levels = planes(1.0, 0.0, 90.0);
        levels.ends = RowEnds::HalfStepIn;
        const PatternResult theirs = lay(*part, {wall}, levels);
        double highest = 0.0;
        for (const Row& r : theirs.rows) highest = std::max(highest, r.points.front().z());
        const double rim = (25 - highest) / std::cos(std::atan2(10, 25)); // from the last level up the wall
        QVERIFY(rim > 0.4 && rim < 0.6);
        const RowsBeside beside({neighbour(theirs)});
        const PatternResult r = lay(*part, {lid}, seamed(1.0), &beside);
        double before = 20.0 + rim;
        std::vector<double> radii;
        for (const Row& row : r.rows) {
            double low = 1e300, high = 0.0;
            for (const Vec3& p : row.points) {
                low = std::min(low, std::hypot(p.x(), p.y()));
                high = std::max(high, std::hypot(p.x(), p.y()));
            }
            if (high < 1.0) continue; // around the middle point
            QVERIFY2(row.closed && high - low < 0.02, qPrintable(QString("%1 to %2").arg(low).arg(high)));
            radii.push_back(0.5 * (low + high));
        }
        std::sort(radii.rbegin(), radii.rend());
        QVERIFY(radii.size() > 17);
        for (const double radius : radii) {
            QVERIFY2(std::abs(before - radius) < 1.01 && std::abs(before - radius) > 0.9, qPrintable(QString("%1 after %2").arg(radius).arg(before)));
            before = radius;
        }
    }
    // Rows that lie on both sides: they are met in the middle, no further from either than a step.
    void betweenTwoNeighbours() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ()), front = faceTowards(*part, -Vec3::UnitY()), back = faceTowards(*part, Vec3::UnitY());
        const PatternResult one = lay(*part, {front}, planes(1.0, 0.0, 90.0)), other = lay(*part, {back}, planes(1.0, 0.0, 90.0));
        const RowsBeside beside({neighbour(one), neighbour(other)});
        const PatternResult r = lay(*part, {top}, seamed(1.0), &beside);
        std::vector<double> at{0.0, 40.0};
        for (const Row& row : r.rows) at.push_back(row.points[row.points.size() / 2].y());
        std::sort(at.begin(), at.end());
        for (std::size_t i = 1; i < at.size(); ++i) QVERIFY2(at[i] - at[i - 1] < 1.011, qPrintable(QString("%1 after %2").arg(at[i]).arg(at[i - 1])));
        QVERIFY(at.size() > 38 && at.size() < 46);
        for (const double y : at) QVERIFY(y < 1e-9 || y > 0.5); // the rows on the edges are theirs
    }
    // The axis is theirs at the seam and its own beyond the way given; in between it turns from one to the other and never back.
    void theAxisPassesOver() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ());
        const RowsBeside beside({neighbour(lay(*part, {top}, planes(0.8, 0.0)), radians(20))});
        const Vec3 own(0, -1, 0);
        double before = 1e300;
        for (const double depth : {0.0, 0.4, 1.0, 2.0, 3.0, 3.9, 4.0, 9.0}) {
            const Vec3 axis = passedOver(beside, 4.0, {30, 0, 25 - depth}, own);
            const double left = angleBetween(axis, own), t = std::min(1.0, depth / 4.0), s = t * t * (3 - 2 * t);
            const Vec3 theirs = beside.nearest({30, 0, 25}, 1.0).axis;
            QVERIFY(std::abs(angleBetween(theirs, Vec3::UnitZ()) - radians(20)) < 1e-6);
            QVERIFY2(std::abs(left - (1 - s) * angleBetween(theirs, own)) < 1e-6, qPrintable(QString::number(degrees(left))));
            QVERIFY(left <= before + 1e-9);
            before = left;
        }
    }
    // Half of a face has rows, in both of its halves and askew: the other half goes on from them, a step from the last, and nothing is cut twice.
    void withinOneFace() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ());
        test::Random random(77);
        for (int round = 0; round < 6; ++round) {
            const double turn = round == 0 ? 0.0 : random.number(-40, 40), theirs = random.number(0.5, 1.2), spacing = random.number(0.4, 1.5);
            const Vec3 across(-std::sin(radians(turn)), std::cos(radians(turn)), 0);
            PatternResult rows = lay(*part, {top}, planes(theirs, turn));
            const double middle = across.dot(rows.rows[rows.rows.size() / 2].points.front());
            const bool lower = round % 2 == 0;
            std::erase_if(rows.rows, [&](const Row& r) { return (across.dot(r.points.front()) > middle + 1e-6) == lower; });
            double last = lower ? -1e9 : 1e9;
            for (const Row& r : rows.rows) last = lower ? std::max(last, across.dot(r.points.front())) : std::min(last, across.dot(r.points.front()));
            const RowsBeside beside({neighbour(rows)});
            const auto r = tried(*part, {top}, seamed(spacing), &beside);
            QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
            std::map<int, double> at; // how far from theirs
            for (const Row& row : r->rows)
                for (const Vec3& p : row.points) {
                    QVERIFY2(lower ? across.dot(p) > last : across.dot(p) < last,
                             qPrintable(QString("round %1: %2 %3, %4 behind the last, %5 from theirs, step %6 theirs %7 turn %8")
                                            .arg(round)
                                            .arg(p.x())
                                            .arg(p.y())
                                            .arg(across.dot(p) - last)
                                            .arg(beside.nearest(p, 100.0).distance)
                                            .arg(spacing)
                                            .arg(theirs)
                                            .arg(turn)));
                    const double d = beside.nearest(p, 100.0).distance;
                    const auto [it, first] = at.try_emplace(row.index, d);
                    QVERIFY2(std::abs(it->second - d) < 0.02, qPrintable(QString("round %1, row %2: %3 and %4").arg(round).arg(row.index).arg(it->second).arg(d)));
                }
            double before = 0.0;
            for (const auto& [index, d] : at) {
                QVERIFY2(d - before < 1.01 * spacing + 1e-3 && d > before,
                         qPrintable(QString("round %1, row %2: %3 for %4").arg(round).arg(index).arg(d - before).arg(spacing)));
                before = d;
            }
            QVERIFY(before > 10.0);
            const SeamMeasure seam = measureSeam(beside, r->rows, neighbour(*r).axes, spacing);
            QVERIFY2(seam.places > 10 && seam.gap < 1.01 * spacing + 1e-3 && seam.apart < radians(3.0),
                     qPrintable(QString("round %1: gap %2 for %3, %4 apart, %5 places; at %6 %7; turn %8 theirs %9")
                                    .arg(round)
                                    .arg(seam.gap)
                                    .arg(spacing)
                                    .arg(seam.apart)
                                    .arg(seam.places)
                                    .arg(seam.at.x())
                                    .arg(seam.at.y())
                                    .arg(turn)
                                    .arg(theirs)));
        }
    }
    // Rows on an island amid a face: those that begin there go round it, as far from the nearest of them as they are called.
    void aroundAnIsland() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ());
        PatternResult rows = lay(*part, {top}, planes(0.8, 20.0));
        const Vec3 centre(30, 20, 25);
        for (Row& row : rows.rows) {
            // As far as it lies in the circle, to the very rim.
            const Vec3 from = row.points.front(), way = (row.points.back() - from).normalized(), foot = from + (centre - from).dot(way) * way;
            const double half = std::sqrt(std::max(0.0, 81.0 - (foot - centre).squaredNorm()));
            row.points.clear();
            for (int i = 0; half > 0.5 && i <= 20; ++i) row.points.push_back(foot + (i / 10.0 - 1.0) * half * way);
            row.normals.assign(row.points.size(), Vec3::UnitZ());
            row.faces.assign(row.points.size(), top);
        }
        std::erase_if(rows.rows, [](const Row& r) { return r.points.size() < 2; });
        QVERIFY(rows.rows.size() > 15);
        const RowsBeside beside({neighbour(rows)});
        const auto r = tried(*part, {top}, seamed(1.0), &beside);
        QVERIFY2(r.has_value(), r ? "" : r.error().text().c_str());
        std::map<int, std::vector<double>> far;
        for (const Row& row : r->rows)
            for (const Vec3& p : row.points) far[row.index].push_back(beside.nearest(p, 100.0).distance);
        // Short rows close what rings leave wide where they turn round the ends of theirs.
        std::size_t all = 0, off = 0, rings = 0;
        double before = 0.0;
        for (auto& [index, d] : far) {
            std::sort(d.begin(), d.end());
            const double middle = d[d.size() / 2];
            QVERIFY2(middle - before < 1.02 && d.front() > 0.4, qPrintable(QString("row %1: %2 after %3, least %4").arg(index).arg(middle).arg(before).arg(d.front())));
            before = middle;
            if (d.size() < 200) continue;
            ++rings;
            for (const double x : d) {
                ++all;
                off += std::abs(x - middle) > 0.01;
            }
        }
        QVERIFY2(rings > 8 && 10 * off < all && before > 18.0, qPrintable(QString("%1 rings, %2 of %3, up to %4").arg(rings).arg(off).arg(all).arg(before)));
    }
    // Rows that end at the common edge, rows on the faces themselves, rows elsewhere: there is no seam, and it is said why.
    void whatIsNoSeam() {
        const auto part = test::openPart(test::boxStep(dir(), 60, 40, 25));
        const int top = faceTowards(*part, Vec3::UnitZ()), front = faceTowards(*part, -Vec3::UnitY()), below = faceTowards(*part, -Vec3::UnitZ());
        const auto refused = [&](const PatternResult& theirs, int face, const char* why) {
            const RowsBeside beside({neighbour(theirs)});
            const auto r = tried(*part, {face}, seamed(0.8), &beside);
            return !r && r.error().what.find(why) != std::string::npos && !r.error().remedy.empty();
        };
        QVERIFY(refused(lay(*part, {top}, planes(0.8, 90.0)), front, "runs along the border"));
        QVERIFY(refused(lay(*part, {top}, planes(0.8, 0.0)), below, "runs along the border"));
        PatternSpec inside = planes(0.8, 0.0);
        inside.ends = RowEnds::HalfStepIn;
        QVERIFY(refused(lay(*part, {front}, planes(0.8, 0.0, 90.0)), front, "cover these faces already"));
        QVERIFY(refused(lay(*part, {top}, inside), top, "cover these faces already"));
        const auto none = tried(*part, {front}, seamed(0.8));
        QVERIFY(!none && none.error().what.find("no operation is chosen") != std::string::npos);
    }
};

GYRE_TEST(TestSeam)

} // namespace test_seam
#include "test_seam.moc"
