// Passes cut into slices: nothing lost, nothing twice, every place in its slice.
#include "Program.h"
#include "Support.h"
#include "operation/SliceSpec.h"
#include "operation/Slices.h"

namespace test_slices {

using namespace gyre;

namespace {

Pass passOf(const std::vector<Vec3>& points, bool closed = false) {
    Pass out;
    out.closed = closed;
    for (const Vec3& p : points) {
        out.path.push(p + Vec3(0, 0, 1), Vec3::UnitZ(), p, Vec3::UnitY(), Motion::Cut, 0, 0.0, 0);
        out.feedDirection.push_back(Vec3::UnitX());
    }
    return out;
}

double lengthOf(const Pass& pass) {
    double sum = 0.0;
    for (std::size_t i = 1; i < pass.path.size(); ++i) sum += (pass.path.contact[i] - pass.path.contact[i - 1]).norm();
    return sum;
}

} // namespace

class TestSlices : public QObject {
    Q_OBJECT

private slots:
    // 29 mm in slices of 5 at most are six of 4.833; the first and the last go on without end, and each goes on into the next by the overlap.
    void bordersOfSlices() {
        for (const bool upward : {false, true})
            for (const double overlap : {0.0, 0.3}) {
                SliceSpec spec;
                spec.from = upward ? 7 : 36;
                spec.to = upward ? 36 : 7;
                spec.overlap = overlap;
                const auto all = slicesOf(spec);
                QCOMPARE(all.size(), std::size_t(6));
                for (std::size_t k = 0; k < 6; ++k) {
                    const double near = upward ? 7 + 29.0 / 6 * double(k) : 36 - 29.0 / 6 * double(k),
                                 far = upward ? near + 29.0 / 6 + overlap : near - 29.0 / 6 - overlap;
                    QCOMPARE(all[k].number, static_cast<int>(k));
                    QCOMPARE(all[k].of, 6);
                    const double from = upward ? all[k].low : all[k].high, to = upward ? all[k].high : all[k].low;
                    QVERIFY(k == 0 ? std::abs(from) > 1e299 : std::abs(from - near) < 1e-9);
                    QVERIFY(k == 5 ? std::abs(to) > 1e299 : std::abs(to - far) < 1e-9);
                }
            }
        SliceSpec none;
        none.from = none.to = 3;
        QCOMPARE(slicesOf(none).size(), std::size_t(1));
        none.to = 1e4;
        none.thickness = 0.05;
        QVERIFY(slicesOf(none).empty());
        QCOMPARE(wholeId(sliceId("op3", 12)), std::string("op3"));
        for (const char* plain : {"op3", "a@b", "x@", "@", ""}) QCOMPARE(wholeId(plain), std::string(plain));
    }
    // Random ways, open and closed, up and down along every axis: pieces lie in their slice, end on its borders, and together are the whole, once.
    void piecesAreTheWhole() {
        test::Random random(81);
        int borders = 0;
        for (int trial = 0; trial < 300; ++trial) {
            const int axis = trial % 3;
            std::vector<Vec3> points;
            const bool closed = trial % 4 == 0;
            for (int i = random.integer(3, 40); i > 0; --i) points.push_back(random.point(20));
            if (closed) points.push_back(points.front());
            const Pass pass = passOf(points, closed);
            SliceSpec spec;
            spec.axis = axis;
            spec.from = random.number(-15, 15);
            spec.to = random.number(-15, 15);
            spec.thickness = random.number(0.5, 9);
            const bool upward = spec.from < spec.to;
            double sum = 0.0;
            for (const Slice& slice : slicesOf(spec))
                for (const Pass& piece : inSlice({pass}, slice, upward)) {
                    sum += lengthOf(piece);
                    QVERIFY(piece.path.size() > 1 && piece.feedDirection.size() == piece.path.size());
                    for (std::size_t i = 0; i < piece.path.size(); ++i) {
                        const Vec3& c = piece.path.contact[i];
                        QVERIFY(c[axis] >= slice.low - 1e-9 && c[axis] <= slice.high + 1e-9);
                        QVERIFY((piece.path.tip[i] - c - Vec3(0, 0, 1)).norm() < 1e-9);
                    }
                    if (piece.closed) continue;
                    for (const Vec3& end : {piece.path.contact.front(), piece.path.contact.back()}) {
                        const bool own = !closed && (end == points.front() || end == points.back());
                        const bool onBorder = std::min(std::abs(end[axis] - slice.low), std::abs(end[axis] - slice.high)) < 1e-9;
                        QVERIFY(own || onBorder);
                        borders += onBorder;
                    }
                }
            QVERIFY2(std::abs(sum - lengthOf(pass)) < 2e-3 * (double(slicesOf(spec).size()) + 2), qPrintable(QString("%1 of %2").arg(sum).arg(lengthOf(pass))));
        }
        QVERIFY(borders > 1000);
    }
    // Levels, also on a border, lie in one slice each, whichever way slices follow each other; so do passes that go down on their way.
    void levelsLieInOneSlice() {
        for (const bool upward : {false, true}) {
            SliceSpec spec;
            spec.from = upward ? 0 : 20;
            spec.to = upward ? 20 : 0;
            spec.thickness = 4;
            std::vector<Pass> passes;
            for (int z = 24; z >= -4; --z) passes.push_back(passOf({{0, 0, double(z)}, {10, 0, double(z)}, {10, 10, double(z)}}));
            Pass ramp = passOf({{0, 0, 15}, {5, 0, 9}, {5, 5, 9}});
            ramp.path.motion[1] = Motion::Plunge;
            passes.push_back(ramp);
            std::vector<double> heights;
            std::size_t ramps = 0;
            for (const Slice& slice : slicesOf(spec)) {
                const auto in = inSlice(passes, slice, upward);
                for (std::size_t i = 0; i < in.size(); ++i) {
                    QCOMPARE(in[i].row, static_cast<int>(i));
                    QCOMPARE(in[i].path.row.front(), static_cast<int>(i));
                    if (in[i].path.motion[1] == Motion::Plunge) {
                        ++ramps;
                        // Its deepest place is at 9; upwards its highest, at 15.
                        QVERIFY(upward ? slice.low <= 15 && slice.high >= 15 : slice.low <= 9 && slice.high >= 9);
                        QCOMPARE(in[i].path.size(), ramp.path.size());
                    } else {
                        heights.push_back(in[i].path.contact.front().z());
                    }
                }
            }
            std::sort(heights.begin(), heights.end());
            QCOMPARE(heights.size(), std::size_t(29));
            for (std::size_t i = 0; i < heights.size(); ++i) QCOMPARE(heights[i], double(i) - 4.0);
            QCOMPARE(ramps, std::size_t(1));
        }
    }
};

GYRE_TEST(TestSlices)

} // namespace test_slices
#include "test_slices.moc"
