// The stock as rays: known volumes, known cuts, the same bytes whatever the threads.
#include "Program.h"
#include "Support.h"
#include "job/StockShape.h"
#include "stock/Stock.h"
#include <tbb/global_control.h>

namespace test_stock {

using namespace gyre;

namespace {

TriangleMesh block(const Vec3& low, const Vec3& high) {
    StockShape s;
    s.kind = StockShape::Kind::Block;
    s.low = low;
    s.high = high;
    return s.mesh();
}
TriangleMesh bar(double radius, double length) {
    StockShape s;
    s.kind = StockShape::Kind::Cylinder;
    s.axis = 0;
    s.radius = radius;
    s.low.x() = 0;
    s.high.x() = length;
    return s.mesh();
}
Cutter cutter(CutterShape shape, double d, double corner = 0.0) {
    Cutter c;
    c.shape = shape;
    c.diameter = d;
    c.cornerRadius = corner;
    c.fluteLength = 30;
    c.shoulderLength = 30;
    return c;
}
Stock stockOf(const TriangleMesh& m, double cell) {
    Progress progress;
    auto s = Stock::of({&m}, cell, progress);
    return std::move(s.value());
}
bool nearShare(double a, double b, double share) {
    if (std::abs(a - b) <= share * std::abs(b)) return true;
    qWarning("%.6f is not %.6f to %g %%", a, b, 100 * share);
    return false;
}

} // namespace

class TestStock : public QObject {
    Q_OBJECT
private slots:
    void volumesOfBodies() {
        QVERIFY(nearShare(stockOf(block({0, 0, 0}, {40, 30, 20}), 0.5).volume(), 24000, 0.002));
        QVERIFY(nearShare(stockOf(bar(20, 60), 0.4).volume(), kPi * 400 * 60, 0.003));
        // Two bodies that overlap are material once.
        const TriangleMesh a = block({0, 0, 0}, {20, 20, 20}), b = block({10, 0, 0}, {30, 20, 20});
        Progress progress;
        const auto both = Stock::of({&a, &b}, 0.5, progress);
        QVERIFY(both.has_value() && nearShare(both->volume(), 12000, 0.003));
        QVERIFY(both->inside({15, 10, 10}) && !both->inside({31, 10, 10}) && both->depth({10, 10, 19.5}) < -0.45);
        QVERIFY(!Stock::of({}, 0.5, progress).has_value());
    }
    // Its surface closes, encloses its volume, lies on what it was made of, and looks outward.
    void theSkinOfAStock() {
        const TriangleMesh b = block({0, 0, 0}, {12, 9, 6}), c = bar(8, 20);
        for (const TriangleMesh* m : {&b, &c}) {
            const Stock s = stockOf(*m, 0.25);
            const TriangleMesh skin = s.skin();
            QVERIFY(nearShare(signedVolume(skin), s.volume(), 0.01));
            std::map<std::pair<std::uint32_t, std::uint32_t>, int> sides;
            for (const auto& t : skin.triangles)
                for (std::size_t k = 0; k < 3; ++k) {
                    ++sides[{t[k], t[(k + 1) % 3]}];
                    --sides[{t[(k + 1) % 3], t[k]}];
                }
            for (const auto& side : sides) QCOMPARE(side.second, 0);
            const MeshTree tree(*m);
            double most = 0.0, sum = 0.0;
            for (std::size_t i = 0; i < skin.points.size(); ++i) {
                const double d = tree.closest(skin.points[i]).distance;
                most = std::max(most, d);
                sum += d;
                if (d < 0.02) QVERIFY(!s.inside(skin.points[i] + 0.6 * skin.normals[i]));
            }
            QVERIFY2(most < 0.25, qPrintable(QString::number(most))); // at sharp edges
            QVERIFY2(sum / static_cast<double>(skin.points.size()) < 0.02, qPrintable(QString::number(sum / static_cast<double>(skin.points.size()))));
        }
        // A piece of it only.
        Progress progress;
        Box only;
        only.add(Vec3(8, -1, -1));
        only.add(Vec3(13, 4, 7));
        const Stock corner = Stock::of({&b}, 0.1, progress, only).value();
        QVERIFY(nearShare(corner.volume(), 4.0 * 4 * 6, 0.02));
        only.low.x() = only.low.y() = 20;
        only.high.x() = only.high.y() = 30;
        QVERIFY(!Stock::of({&b}, 0.1, progress, only));
    }
    // Each piece of the surface knows which cut made it, and every location how much went on the way to it.
    void whoMadeItAndHowMuchWent() {
        Progress progress;
        Stock s = stockOf(block({-20, -15, 0}, {20, 15, 20}), 0.25);
        const double whole = s.volume();
        const Cutter flat = cutter(CutterShape::Flat, 8);
        Toolpath first, second;
        first.push({-40, 0, 12}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        first.push({0, 0, 12}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        first.push({40, 0, 12}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        second.push({0, -40, 15}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        second.push({0, 40, 15}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        std::vector<double> one, two;
        QVERIFY(s.remove({.path = first, .cutter = flat, .by = 1, .taken = &one}, progress).has_value());
        const double after = s.volume();
        QVERIFY(s.remove({.path = second, .cutter = flat, .by = 2, .taken = &two}, progress).has_value());
        QVERIFY(one.size() == 3 && one[0] == 0.0 && two.size() == 2 && two[0] == 0.0);
        QVERIFY(std::abs(one[1] + one[2] - (whole - after)) < 1e-3 * whole && std::abs(two[1] - (after - s.volume())) < 1e-3 * whole);
        QVERIFY(nearShare(one[1], 8.0 * (8.0 * 20 + 0.5 * kPi * 16), 0.01) && nearShare(one[2], 8.0 * (8.0 * 20 - 0.5 * kPi * 16), 0.01));
        QVERIFY(nearShare(two[1], 5.0 * 8 * (30 - 8), 0.01)); // but for what the first slot had taken
        const TriangleMesh skin = s.skin();
        QCOMPARE(skin.faces.size(), skin.triangles.size());
        int of[3]{};
        for (std::size_t i = 0; i < skin.triangles.size(); ++i) {
            const Vec3 p = (skin.corner(i, 0) + skin.corner(i, 1) + skin.corner(i, 2)) / 3.0;
            QVERIFY(skin.faces[i] >= 0 && skin.faces[i] <= 2);
            ++of[skin.faces[i]];
            // Away from edges there is no doubt.
            if (std::abs(p.x()) < 3 && std::abs(p.z() - 15) < 0.3 && std::abs(p.y()) > 5 && std::abs(p.y()) < 14) QCOMPARE(skin.faces[i], 2);
            if (std::abs(p.x()) < 19 && std::abs(p.z() - 12) < 0.3 && std::abs(p.y()) < 3) QCOMPARE(skin.faces[i], 1);
            if (p.z() < 11 || std::abs(p.x()) > 19.9) QVERIFY(skin.faces[i] == 0 || std::abs(p.y()) < 4.3);
        }
        QVERIFY(of[0] > 1000 && of[1] > 1000 && of[2] > 1000);
    }
    // Where a stretch begins the cutter stands whole, not only from its middle on; after every rapid anew.
    void whereAStretchBegins() {
        Progress progress;
        Stock s = stockOf(block({-20, -15, 0}, {20, 15, 20}), 0.25);
        const double whole = s.volume();
        Toolpath path;
        for (const double x : {-12.0, 8.0}) {
            path.push({x, 0, 12}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
            path.push({x + 5, 0, 12}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        }
        QVERIFY(s.remove(path, cutter(CutterShape::Flat, 8), progress).has_value());
        QVERIFY(nearShare(whole - s.volume(), 2 * 8.0 * (8.0 * 5 + kPi * 16), 0.01));
    }
    // Cut piece by piece, at random places, with turning axes and rapids between: the same to the last bit as at once.
    void pieceByPiece() {
        test::Random random(23);
        const auto share = [&] { return random.number(0.0, 1.0); };
        const auto at = [&] { return random.number(-14.0, 14.0); };
        int taken = 0;
        for (int round = 0; round < 6; ++round) {
            Toolpath path;
            for (int i = 0; i < 40; ++i)
                path.push({at(), at(), 6 + 10 * share()}, Vec3(0.6 * share(), 0.6 * share(), 1.0).normalized(), share() < 0.25 ? Motion::Rapid : Motion::Cut, 0, 100);
            const Cutter c = cutter(round % 2 ? CutterShape::Ball : CutterShape::Flat, 4.0 + 3.0 * share());
            Progress progress;
            Stock whole = stockOf(block({-15, -15, 0}, {15, 15, 20}), 0.5), pieces = whole;
            QVERIFY(whole.remove({.path = path, .cutter = c, .by = 3}, progress).has_value());
            for (std::size_t from = 0; from < path.size();) {
                const std::size_t to = from + 1 + static_cast<std::size_t>(7 * share());
                QVERIFY(pieces.remove({.path = path, .cutter = c, .by = 3, .from = from, .to = to}, progress).has_value());
                from = to;
            }
            QCOMPARE(pieces.volume(), whole.volume());
            const TriangleMesh a = whole.skin(), b = pieces.skin();
            QVERIFY(a.points.size() == b.points.size() && a.triangles == b.triangles && a.faces == b.faces);
            for (std::size_t i = 0; i < a.points.size(); ++i) QCOMPARE(a.points[i], b.points[i]);
            taken += whole.volume() < 17900.0;
        }
        QVERIFY(taken >= 4); // it did cut
    }
    // Drilled, slotted, turned: within half a percent of the formula.
    void drilledSlottedTurned() {
        Progress progress;
        Stock drilled = stockOf(block({-15, -15, 0}, {15, 15, 20}), 0.25);
        const double whole = drilled.volume();
        Toolpath down;
        down.push({0, 0, 25}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        down.push({0, 0, -1}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        QVERIFY(drilled.remove(down, cutter(CutterShape::Flat, 10), progress).has_value());
        QVERIFY(nearShare(whole - drilled.volume(), kPi * 25 * 20, 0.005));
        Stock slotted = stockOf(block({-20, -15, 0}, {20, 15, 20}), 0.15);
        const double before = slotted.volume();
        Toolpath along;
        along.push({-40, 0, 12}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        along.push({40, 0, 12}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        Stock ballSlot = slotted;
        QVERIFY(slotted.remove(along, cutter(CutterShape::Flat, 8), progress).has_value());
        QVERIFY(nearShare(before - slotted.volume(), 8.0 * 8 * 40, 0.005));
        QVERIFY(ballSlot.remove(along, cutter(CutterShape::Ball, 8), progress).has_value());
        QVERIFY(nearShare(before - ballSlot.volume(), (8.0 * 4 + 0.5 * kPi * 16) * 40, 0.005));
        // A bar turned down by a cutter that goes round it: the axis turns all the while.
        Stock turned = stockOf(bar(20, 30), 0.25);
        const double round = turned.volume();
        Toolpath ring;
        for (int i = 0; i <= 720; ++i) {
            const double a = radians(0.5 * i);
            const Vec3 out(0, std::cos(a), std::sin(a));
            ring.push(Vec3(15, 0, 0) + 17.0 * out, out, i == 0 ? Motion::Rapid : Motion::Cut, 0, 100);
        }
        QVERIFY(turned.remove(ring, cutter(CutterShape::Flat, 10), progress).has_value());
        // The flat end is a tangent plane; along its middle line, ten wide, the radius is 17 in the end.
        QVERIFY(nearShare(round - turned.volume(), kPi * (400 - 289) * 10, 0.006));
    }
    void rapidsTakeNothingAndAskingTakesNothing() {
        Stock s = stockOf(block({0, 0, 0}, {20, 20, 20}), 0.5);
        const double whole = s.volume();
        Progress progress;
        Toolpath across;
        across.push({-10, 10, 5}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        across.push({30, 10, 5}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        QVERIFY(s.remove(across, cutter(CutterShape::Flat, 6), progress).has_value());
        QCOMPARE(s.volume(), whole);
        const Cutter c = cutter(CutterShape::Ball, 6);
        QVERIFY(nearShare(s.within({{10, 10, 15}, Vec3::UnitZ()}, c), kPi * 9 * 2 + 2.0 / 3.0 * kPi * 27, 0.05));
        QCOMPARE(s.within({{10, 10, 20.5}, Vec3::UnitZ()}, c), 0.0);
        QCOMPARE(s.volume(), whole);
    }
    // Every shape of cutter at any angle takes what points within it say it should.
    void anyCutterAtAnyAngle() {
        test::Random random(21);
        const Cutter cutters[] = {cutter(CutterShape::Flat, 9), cutter(CutterShape::Ball, 8), cutter(CutterShape::CornerRadius, 10, 2)};
        for (int i = 0; i < 30; ++i) {
            Stock s = stockOf(block({-12, -12, -12}, {12, 12, 12}), 0.4);
            const Cutter& c = cutters[i % 3];
            const AxisPose pose{random.point(6), random.direction()};
            const double before = s.volume(), inside = s.within(pose, c);
            s.remove(pose, c);
            QVERIFY(nearShare(before - s.volume(), inside, 1e-6));
            // Points: inside the true cutter they are gone, outside they are there.
            int wrong = 0, asked = 0;
            const auto shape = cuttingZone(c);
            for (int k = 0; k < 3000; ++k) {
                const Vec3 p = random.point(11.5), q = p - pose.tip;
                const double z = q.dot(pose.axis), r = rejected(q, pose.axis).norm();
                double d = 1e300;
                for (const RoundedFrustum& f : shape) d = std::min(d, distance(f, Vec3(r, 0, z)));
                bool clearIn = d <= 0.0;
                if (std::abs(d) < 0.6 || (clearIn && !(r < 0.5 * c.diameter - 0.6 && z > 0.6 && z < 29.4))) continue;
                ++asked;
                wrong += s.inside(p) == clearIn;
            }
            QVERIFY2(wrong == 0, qPrintable(QString("%1 of %2 points").arg(wrong).arg(asked)));
        }
    }
    // A wide collar above a slim cutter in a slot: it stands in the stock as deep as the slot goes beyond its height, and is free where it was cut
    // wide enough before. By hand: block up to 20, slot down to 5, collar from 12 over the tip, hence 3 mm.
    void whatFollowsTheCutterIsToldWhereItMeetsStock() {
        Progress progress;
        Toolpath slot;
        slot.push({-30, 0, 5}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        slot.push({30, 0, 5}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        const auto watch = [&](std::vector<double> shares) {
            StockWatch w;
            w.bodies = {{RoundedFrustum{12, 15, 40, 15, 0}}};
            for (const double t : shares) w.probes.push_back({1, t, {slot.tip[0] + t * (slot.tip[1] - slot.tip[0]), Vec3::UnitZ()}, 0});
            return w;
        };
        Stock s = stockOf(block({-20, -20, 0}, {20, 20, 20}), 0.25);
        StockWatch w = watch({0.1, 0.5, 1.0});
        QVERIFY(s.remove({.path = slot, .cutter = cutter(CutterShape::Flat, 8), .watch = &w}, progress).has_value());
        QVERIFY2(std::abs(w.probes[1].deep - 3.0) < 0.01, qPrintable(QString::number(w.probes[1].deep)));
        QVERIFY2(std::abs(w.probes[1].up - 3.0) < 0.01, qPrintable(QString::number(w.probes[1].up)));
        QCOMPARE(w.probes[0].deep, w.probes[2].deep); // at 24 mm to either side, by symmetry
        // 24 mm out, the rim reaches 11 mm over the block's end: still 3 deep from below.
        QVERIFY(std::abs(w.probes[0].deep - 3.0) < 0.3);
        // Cut wide before, down to where the collar's lower end comes: not told any more.
        Stock wide = stockOf(block({-20, -20, 0}, {20, 20, 20}), 0.25);
        Toolpath clear = slot;
        for (Vec3& tip : clear.tip) tip.z() = 16.9;
        QVERIFY(wide.remove(clear, cutter(CutterShape::Flat, 31), progress).has_value());
        StockWatch again = watch({0.1, 0.5, 1.0});
        QVERIFY(wide.remove({.path = slot, .cutter = cutter(CutterShape::Flat, 8), .watch = &again}, progress).has_value());
        for (const StockProbe& p : again.probes) QCOMPARE(p.deep, 0.0);
        // A shank of the cutter's own size in its own slot touches nothing, whatever the direction and wherever it is asked.
        StockWatch shank;
        shank.bodies = {{RoundedFrustum{30, 4, 60, 4, 0}}};
        Stock turned = stockOf(block({-20, -20, 0}, {20, 20, 40}), 0.25);
        Toolpath deep, high;
        deep.push({-24, -20, -5}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        deep.push({24, 13, 2}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        high = deep;
        for (Vec3& tip : high.tip) tip.z() += 20;
        QVERIFY(turned.remove(high, cutter(CutterShape::Flat, 8), progress).has_value());
        for (int k = 1; k <= 20; ++k) shank.probes.push_back({1, k / 20.0, {deep.tip[0] + k / 20.0 * (deep.tip[1] - deep.tip[0]), Vec3::UnitZ()}, 0});
        QVERIFY(turned.remove({.path = deep, .cutter = cutter(CutterShape::Flat, 8), .watch = &shank}, progress).has_value());
        for (const StockProbe& p : shank.probes) QVERIFY2(p.deep < 0.5 * turned.cell(), qPrintable(QString::number(p.deep)));
    }
    // Straight down in one move: where the shank ends up, the flutes have been just before.
    void whatTheSameMoveHasCutIsGone() {
        Stock s = stockOf(block({-20, -20, 0}, {20, 20, 20}), 0.25);
        Progress progress;
        Cutter c = cutter(CutterShape::Flat, 8);
        c.fluteLength = c.shoulderLength = 10;
        Toolpath down;
        down.push({0, 0, 30}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
        down.push({0, 0, 5}, Vec3::UnitZ(), Motion::Cut, 0, 100);
        StockWatch w;
        w.bodies = {{RoundedFrustum{10, 4, 40, 4, 0}}};
        w.probes = {{1, 1.0, {down.tip[1], Vec3::UnitZ()}, 0}};
        QVERIFY(s.remove({.path = down, .cutter = c, .watch = &w}, progress).has_value());
        QVERIFY2(w.probes[0].deep < 0.5 * s.cell(), qPrintable(QString::number(w.probes[0].deep)));
    }
    // A frame cut through a plate leaves its middle loose, by its own size; a bridge of a millimetre holds it.
    void piecesThatComeLoose() {
        for (const double bridge : {0.0, 1.0}) {
            Stock s = stockOf(block({-30, -20, 0}, {30, 20, 8}), 0.25);
            QCOMPARE(s.pieces().size(), std::size_t(1));
            Progress progress;
            Toolpath frame;
            const Vec3 corners[] = {{-15, -10, -1}, {15, -10, -1}, {15, 10, -1}, {-15, 10, -1}, {-15, -10 + (bridge > 0 ? 4 + bridge : 0), -1}};
            for (const Vec3& p : corners) frame.push(p, Vec3::UnitZ(), frame.size() == 0 ? Motion::Rapid : Motion::Cut, 0, 100);
            QVERIFY(s.remove(frame, cutter(CutterShape::Flat, 4), progress).has_value());
            const auto pieces = s.pieces();
            if (bridge > 0) {
                QCOMPARE(pieces.size(), std::size_t(1));
                continue;
            }
            QCOMPARE(pieces.size(), std::size_t(2));
            QVERIFY(nearShare(pieces[1].volume, 26 * 16 * 8, 0.01)); // the corners outside are round, the inner ones are not
            QVERIFY((pieces[1].middle - Vec3(0, 0, 4)).norm() < s.cell());
        }
        // Two bodies are two pieces from the beginning.
        Progress progress;
        const TriangleMesh a = block({0, 0, 0}, {5, 5, 5}), b = block({7, 0, 0}, {9, 5, 5});
        QCOMPARE(Stock::of({&a, &b}, 0.25, progress).value().pieces().size(), std::size_t(2));
        // A wall thinner than a cell holds two blocks together, wherever it stands: rays of two directions may all pass beside it. No piece is told loose.
        const TriangleMesh c = block({0, 0, 0}, {5, 5, 5}), d = block({0, 7, 0}, {5, 12, 5});
        for (int i = 0; i < 10; ++i) {
            const double x = 2.0 + 0.025 * i;
            const TriangleMesh wall = block({x, 4, 0}, {x + 0.1, 8, 5});
            QVERIFY(Stock::of({&c, &d, &wall}, 0.25, progress).value().pieces().size() < 2);
        }
    }
    // A rapid that clips a corner by 0.3 mm, and one that passes it by as much.
    void aRapidThatClipsACorner() {
        for (const double off : {0.3, -0.3}) {
            Stock s = stockOf(block({-20, -20, 0}, {20, 20, 20}), 0.1);
            Progress progress;
            Toolpath path;
            const double side = 20.0 + 4.0 - off; // an 8 mm cutter beside the wall
            path.push({-30, side, 15}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
            path.push({30, side, 15}, Vec3::UnitZ(), Motion::Rapid, 0, 0);
            StockWatch w;
            w.bodies = {cuttingZone(cutter(CutterShape::Flat, 8))};
            w.probes = {{1, 0.5, {{0, side, 15}, Vec3::UnitZ()}, 0}};
            const double before = s.volume();
            QVERIFY(s.remove({.path = path, .cutter = cutter(CutterShape::Flat, 8), .watch = &w}, progress).has_value());
            QCOMPARE(s.volume(), before);
            if (off > 0)
                QVERIFY2(w.probes[0].deep > 0.15 && w.probes[0].deep < 0.31, qPrintable(QString::number(w.probes[0].deep)));
            else
                QCOMPARE(w.probes[0].deep, 0.0);
        }
    }
    // Random ways with turning axes: by another way the stock is cut up to each question and random points of the body are looked at one by one.
    void questionsAgainstPlainPoints() {
        test::Random random(77);
        int touched = 0, free = 0;
        for (int round = 0; round < 12; ++round) {
            const Cutter c = cutter(CutterShape::Flat, 6);
            Progress progress;
            Toolpath p;
            Vec3 at(0, 0, 8);
            for (int i = 0; i < 12; ++i) {
                p.push(at, Vec3(random.number(-0.3, 0.3), random.number(-0.3, 0.3), 1).normalized(), i % 5 == 0 ? Motion::Rapid : Motion::Cut, 0, 100);
                at = (at + random.point(6)).cwiseMax(Vec3(-14, -14, 3)).cwiseMin(Vec3(14, 14, 16));
            }
            const double low = random.number(4, 12), wide = random.number(3, 9);
            StockWatch w;
            w.bodies = {{RoundedFrustum{low, wide, low + 6, wide + 2, 0}, RoundedFrustum{low + 6, wide + 4, low + 30, wide + 4, 0}}};
            for (std::size_t i = 1; i < p.size(); i += 2) w.probes.push_back({i, 1.0, {p.tip[i], p.axis[i]}, 0});
            Stock all = stockOf(block({-15, -15, 0}, {15, 15, 20}), 0.3), now = all;
            QVERIFY(all.remove({.path = p, .cutter = c, .watch = &w}, progress).has_value());
            std::size_t done = 0;
            for (const StockProbe& q : w.probes) {
                QVERIFY(now.remove({.path = p, .cutter = c, .from = done, .to = q.location + 1}, progress).has_value());
                done = q.location + 1;
                double deepest = 0.0;
                const Mat3 turn = [&] {
                    Mat3 m;
                    m.col(2) = q.pose.axis;
                    m.col(0) = anyPerpendicular(q.pose.axis);
                    m.col(1) = q.pose.axis.cross(Vec3(m.col(0)));
                    return m;
                }();
                for (int k = 0; k < 4000; ++k) {
                    const double z = random.number(low, low + 30), r = (z < low + 6 ? wide + (z - low) / 3.0 : wide + 4) * std::sqrt(random.number(0, 1)),
                                 a = random.number(0, 2 * kPi);
                    const Vec3 point = q.pose.tip + turn * Vec3(r * std::cos(a), r * std::sin(a), z);
                    if (!now.inside(point)) continue;
                    double depth = 1e300; // to points of the outline
                    const std::pair<double, double> line[] = {{0, low}, {wide, low}, {wide + 2, low + 6}, {wide + 4, low + 6}, {wide + 4, low + 30}};
                    for (int e = 0; e < 4; ++e)
                        for (int n = 0; n <= 60; ++n) {
                            const double t = n / 60.0, x = line[e].first + t * (line[e + 1].first - line[e].first),
                                         y = line[e].second + t * (line[e + 1].second - line[e].second);
                            depth = std::min(depth, std::hypot(x - r, y - z));
                        }
                    deepest = std::max(deepest, depth);
                }
                if (deepest > 0.6) QVERIFY2(q.deep > deepest - 0.6, qPrintable(QString("seed 77, round %1: %2 instead of %3").arg(round).arg(q.deep).arg(deepest)));
                if (q.deep > 1.5) QVERIFY2(deepest > 0.0, qPrintable(QString("seed 77, round %1: %2 where nothing is").arg(round).arg(q.deep)));
                (q.deep > 0.15 ? touched : free) += 1;
            }
            QCOMPARE(all.volume() < 30 * 30 * 20, true);
        }
        QVERIFY2(touched > 10 && free > 5, qPrintable(QString("%1 touched, %2 free").arg(touched).arg(free)));
    }
    void theSameForAnyNumberOfThreads() {
        const auto run = [&](int threads) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, static_cast<std::size_t>(threads));
            Stock s = stockOf(bar(20, 40), 0.4);
            Toolpath p;
            test::Random random(22);
            Vec3 at(20, 0, 15);
            for (int i = 0; i < 60; ++i) {
                at = (at + random.point(4)).cwiseMax(Vec3(0, -20, 5)).cwiseMin(Vec3(40, 20, 25));
                p.push(at, Vec3(random.number(-0.3, 0.3), random.number(-0.3, 0.3), 1).normalized(), Motion::Cut, 0, 100);
            }
            Progress progress;
            [&] { QVERIFY(s.remove(p, cutter(CutterShape::Ball, 6), progress).has_value()); }();
            return s.volume();
        };
        const double one = run(1);
        QCOMPARE(run(4), one);
        QCOMPARE(run(4), one);
    }
};

GYRE_TEST(TestStock)

} // namespace test_stock
#include "test_stock.moc"
