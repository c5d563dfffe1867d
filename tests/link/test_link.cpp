// Ways into, out of and between cuts: where they lie, that they are guarded, and what is said when they cannot be.
#include "Program.h"
#include "Support.h"
#include "guard/GuardSpec.h"
#include "link/Link.h"
#include "link/LinkSpec.h"

namespace test_link {

using namespace gyre;
using test::Random;

namespace {

// A flat block with its top at z = 0, and whatever else stands around.
Scene blockAnd(std::vector<ConvexBody> fixtures = {}) {
    Scene scene;
    scene.push_back({"block", ObstacleKind::Part, MeshTree(skinOf(ConvexBody::box(Vec3(-50, -50, -30), Vec3(50, 50, 0)))), {}, 0.0});
    for (const auto& f : fixtures) scene.push_back({"post", ObstacleKind::Fixture, MeshTree(skinOf(f)), {}, 0.0});
    return scene;
}

// A ball of 6 mm along x at a height y, axis up.
Pass rowAt(double y, int index, double from = -20, double to = 20) {
    Pass p;
    p.row = p.origin.row = index;
    const double way = to > from ? 1.0 : -1.0;
    for (int i = 0; i <= 20; ++i) {
        const Vec3 contact(from + (to - from) * i / 20.0, y, 0.0);
        p.path.push(contact, Vec3::UnitZ(), contact, Vec3::UnitZ(), Motion::Cut, index, 0.0, 0);
        p.feedDirection.emplace_back(way, 0, 0);
    }
    return p;
}

LinkSpec specWith(SkinKind kind, double size) {
    LinkSpec s;
    s.skin = {kind, size};
    return s;
}

} // namespace

class TestLink : public QObject {
    Q_OBJECT
    Progress m_quiet;
    const GuardSpec m_guard{1.0, 2.0, 0.01, true, true, true, GuardResponse::Report};

    LinkResult link(const Scene& scene, const std::vector<Pass>& passes, const LinkSpec& spec) {
        const Guard guard(test::ballTool(6, 40), scene, m_guard, 0.005);
        return linkPasses(guard, passes, spec, 1000.0, m_quiet).value();
    }

private slots:
    void passesAreCalledByWhatTheyAre() {
        const auto from = [](int row, int hole, int level, int layer, int copy) {
            PassOrigin o;
            o.row = row;
            o.hole = hole;
            o.level = level;
            o.layer = layer;
            o.copy = copy;
            return o;
        };
        QCOMPARE(passName(from(2, -1, -1, -1, -1), 7), std::string("row 3"));
        QCOMPARE(passName(from(-1, 11, -1, -1, -1), 0), std::string("hole 12"));
        QCOMPARE(passName(from(-1, -1, 1, -1, -1), 6), std::string("pass 7 at level 2"));
        QCOMPARE(passName(from(-1, -1, 0, 2, 1), 0), std::string("pass 1 at level 1, layer 3, copy 2"));
        QCOMPARE(passTitle(from(0, -1, -1, -1, 0), 5), std::string("Row 1"));
        QCOMPARE(passTitle({}, 0), std::string("Pass 1"));
    }
    // A wire that the ball meets in the middle of the arc only, neither on the way down to it nor in the cut: a smaller arc is taken.
    void arcsAreGuarded() {
        ConvexBody wire = ConvexBody::box(Vec3(-0.05, -10, -0.05), Vec3(0.05, 10, 0.05));
        wire.frame.translation() = Vec3(-20 - 3.465, 0, 5 - 3.465);
        Scene scene = blockAnd({wire});
        scene.back().kind = ObstacleKind::Part; // to which the cutter keeps no distance
        const LinkResult r = link(scene, {rowAt(0, 0)}, specWith(SkinKind::Plane, 25));
        QVERIFY2(r.findings.empty(), (r.findings.empty() ? "" : r.findings[0].text + r.findings[0].reason).c_str());
        double highest = 0.0;
        int arc = 0;
        for (std::size_t i = 0; i < r.path.size(); ++i)
            if (r.path.motion[i] == Motion::LeadIn) {
                ++arc;
                highest = std::max(highest, r.path.tip[i].z());
                QVERIFY((r.path.tip[i] + Vec3(0, 0, 3) - wire.frame.translation()).norm() > 3.0);
            }
        QVERIFY(arc > 2 && highest < 1.01);
    }
    // What a pass brings of its own, such as the feed of a tap, stays; what has none gets the operation's.
    void feedsOfPassesStay() {
        Pass own = rowAt(0, 0);
        for (std::size_t i = 5; i < 12; ++i) own.path.feed[i] = 137.0f;
        own.path.feed[15] = kRapidFeed;
        const LinkResult r = link(blockAnd(), {own}, specWith(SkinKind::Plane, 25));
        for (std::size_t i = 1; i < own.path.size(); ++i) QCOMPARE(r.path.feed[r.passStart[0] + i], i == 15 ? kRapidFeed : i >= 5 && i < 12 ? 137.0f : 1000.0f);
    }
    // A row left in the middle: its parts meet, each has its own way in and out, and every location is found again.
    void rowsAreSplitWhereItIsAskedFor() {
        const Scene scene = blockAnd();
        const std::vector<Pass> passes{rowAt(0, 0), rowAt(1, 1, 20, -20), rowAt(2, 2)};
        const Guard guard(test::ballTool(6, 40), scene, m_guard, 0.005);
        const LinkSpec spec = specWith(SkinKind::Plane, 25);
        const LinkResult whole = linkPasses(guard, passes, spec, 1000.0, m_quiet).value();
        QCOMPARE(whole.retracts, std::size_t(0));
        const LinkResult r = linkPasses(guard, passes, spec, 1000.0, m_quiet, {{{1, 0}, {1, 7}, {1, 12}}, std::nullopt}).value();
        QVERIFY(r.findings.empty());
        QCOMPARE(r.retracts, std::size_t(3));
        QCOMPARE(r.pieces.size(), std::size_t(5));
        for (std::size_t p = 0; p < passes.size(); ++p)
            for (std::size_t k = 0; k < passes[p].path.size(); ++k) {
                const std::size_t at = r.locationOf(p, k);
                QVERIFY((r.path.tip[at] - passes[p].path.tip[k]).norm() < 1e-12);
                // What a location of a cut asks to be split at is that pass there, or nothing on its way in.
                if (r.path.motion[at] == Motion::Cut) QCOMPARE(splitsAt(r, {static_cast<std::uint32_t>(at)}), (std::vector<Split>{{p, k}}));
            }
        for (std::size_t i = 1; i < r.pieces.size(); ++i) {
            double highest = 0.0;
            for (std::size_t l = r.pieces[i - 1].start + r.pieces[i - 1].count; l < r.pieces[i].start; ++l) {
                highest = std::max(highest, r.path.tip[l].z());
                QCOMPARE(static_cast<bool>(r.away[l]), r.path.tip[l].z() > 24.999);
            }
            QCOMPARE(highest > 24.0, i < 4);
        }
        // On the way to a pass, it is not joined to the one before.
        const auto join = static_cast<std::uint32_t>(whole.passStart[2] - 2);
        QCOMPARE(splitsAt(whole, {join}), (std::vector<Split>{{2, 0}}));
    }
    // Rows to and fro that lean ahead of their feed: the join between them goes straight over the pole if it passes near it, and only then.
    void joinsGoOverAPole() {
        const Scene nothing; // what is in the way is not the question here
        const Guard guard(test::ballTool(6, 40), nothing, m_guard, 0.005);
        for (const double side : {0.0, 0.03, 0.4}) {
            std::vector<Pass> passes{rowAt(0, 0), rowAt(1, 1, 20, -20)};
            for (std::size_t r = 0; r < 2; ++r)
                for (Vec3& axis : passes[r].path.axis) axis = Vec3(r == 0 ? 0.25 : -0.25, side, 1).normalized();
            const LinkSpec spec = specWith(SkinKind::Plane, 25);
            const LinkResult plain = linkPasses(guard, passes, spec, 1000.0, m_quiet).value();
            const LinkResult over = linkPasses(guard, passes, spec, 1000.0, m_quiet, {{}, Vec3::UnitZ()}).value();
            QCOMPARE(over.joins, std::size_t(1));
            int onPole = 0;
            double steepest = 0.0;
            for (std::size_t i = 1; i < over.path.size(); ++i) {
                onPole += (over.path.axis[i] - Vec3::UnitZ()).norm() < 1e-12;
                steepest = std::max(steepest, angleBetween(over.path.axis[i], over.path.axis[i - 1]));
            }
            QCOMPARE(onPole, side < 0.1 ? 1 : 0);
            QVERIFY(steepest < radians(8));
            if (side > 0.1) QVERIFY(plain.path.axis == over.path.axis);
        }
    }
    void entriesAreQuarterArcsThatEndTangentToTheCut() {
        const Scene scene = blockAnd();
        const LinkResult r = link(scene, {rowAt(0, 0)}, specWith(SkinKind::Plane, 25));
        QVERIFY(r.findings.empty());
        // The centre of the entry arc stands a radius above the first location.
        const Vec3 centre(-20, 0, 2);
        int arc = 0;
        Vec3 before = Vec3::Zero(), last = Vec3::Zero();
        for (std::size_t i = 0; i < r.path.size(); ++i)
            if (r.path.motion[i] == Motion::LeadIn) {
                ++arc;
                QVERIFY(std::abs((r.path.tip[i] - centre).norm() - 2.0) < 1e-9);
                before = r.path.tip[i - 1];
                last = r.path.tip[i];
            }
        QVERIFY(arc >= 4);
        QVERIFY((last - Vec3(-20, 0, 0)).norm() < 1e-9);
        // The last chord leans by half a step against the tangent, no more.
        QVERIFY(angleBetween(last - before, Vec3::UnitX()) < 0.5 * kPi / arc);
    }
    void feedsAreThoseOfTheirKind() {
        const LinkResult r = link(blockAnd(), {rowAt(0, 0), rowAt(1, 1, 20, -20)}, specWith(SkinKind::Plane, 25));
        for (std::size_t i = 0; i < r.path.size(); ++i) switch (r.path.motion[i]) {
            case Motion::Cut:
            case Motion::Link:
                QCOMPARE(r.path.feed[i], 1000.0f);
                break;
            case Motion::LeadIn:
                QCOMPARE(r.path.feed[i], 600.0f);
                break;
            case Motion::Plunge:
                QCOMPARE(r.path.feed[i], 500.0f);
                break;
            case Motion::Rapid:
                QVERIFY(r.path.rapid(i));
                break;
            default:
                break;
            }
    }
    void gapsAreSplitBySize() {
        // 1 mm apart: joined; 5 mm apart: over the skin.
        const LinkResult joined = link(blockAnd(), {rowAt(0, 0), rowAt(1, 1, 20, -20)}, specWith(SkinKind::Plane, 25));
        QCOMPARE(joined.joins, std::size_t(1));
        QCOMPARE(joined.retracts, std::size_t(0));
        const LinkResult apart = link(blockAnd(), {rowAt(0, 0), rowAt(5, 1, 20, -20)}, specWith(SkinKind::Plane, 25));
        QCOMPARE(apart.joins, std::size_t(0));
        QCOMPARE(apart.retracts, std::size_t(1));
        double highest = -1e9;
        for (std::size_t i = apart.passStart[0]; i < apart.passStart[1]; ++i) highest = std::max(highest, apart.path.tip[i].z());
        QVERIFY(highest >= 25.0 - 1e-9);
        double between = -1e9;
        for (std::size_t i = joined.passStart[0]; i < joined.passStart[1]; ++i) between = std::max(between, joined.path.tip[i].z());
        QVERIFY(between < 3.0);
    }
    void smoothJoinsLeaveAndArriveAlongTheRows() {
        const LinkResult r = link(blockAnd(), {rowAt(0, 0), rowAt(1.5, 1, 20, -20)}, specWith(SkinKind::Plane, 25));
        QCOMPARE(r.joins, std::size_t(1));
        std::size_t first = 0;
        while (r.path.motion[first] != Motion::Link) ++first;
        const Vec3 leaving = r.path.tip[first] - r.path.tip[first - 1];
        QVERIFY(angleBetween(leaving, Vec3::UnitX()) < radians(35));
        for (std::size_t i = first; r.path.motion[i] == Motion::Link; ++i) QVERIFY(r.path.tip[i].z() > -1e-9); // never into the part
    }
    void directJoinsAreOneStraightMove() {
        LinkSpec spec = specWith(SkinKind::Plane, 25);
        spec.small = SmallLink::Direct;
        const LinkResult r = link(blockAnd(), {rowAt(0, 0), rowAt(1, 1, 20, -20)}, spec);
        QCOMPARE(std::count(r.path.motion.begin(), r.path.motion.end(), Motion::Link), std::ptrdiff_t(1));
    }
    void everyPassIsInThePathOnceAndInOrder() {
        Random random(61);
        for (int n = 0; n < 20; ++n) {
            std::vector<Pass> passes;
            double y = -30;
            for (int i = 0; i < 6; ++i) {
                y += random.number(0.3, 6.0);
                passes.push_back(i % 2 ? rowAt(y, i, 20, -20) : rowAt(y, i));
            }
            const LinkResult r = link(blockAnd(), passes, specWith(SkinKind::Plane, random.number(15, 60)));
            QCOMPARE(r.passStart.size(), passes.size());
            QCOMPARE(r.joins + r.retracts, passes.size() - 1);
            for (std::size_t p = 0; p < passes.size(); ++p)
                for (std::size_t k = 0; k < passes[p].path.size(); ++k) QVERIFY((r.path.tip[r.passStart[p] + k] - passes[p].path.tip[k]).norm() < 1e-12);
        }
    }
    // What is linked is as safe as what is cut: looked at twenty times finer than the linker did.
    void linksAreClearOfAPostBesideTheRows() {
        Random random(62);
        int looked = 0;
        for (int n = 0; n < 12; ++n) {
            const double x = random.number(-15, 15), y = random.number(4, 9), high = random.number(5, 30);
            const Scene scene = blockAnd({ConvexBody::box(Vec3(x - 1, y - 1, 0), Vec3(x + 1, y + 1, high))});
            const Guard guard(test::ballTool(6, 40), scene, m_guard, 0.005);
            const auto r = linkPasses(guard, {rowAt(0, 0), rowAt(-8, 1, 20, -20), rowAt(16, 2)}, specWith(SkinKind::Plane, 12), 1000.0, m_quiet).value();
            if (!r.findings.empty()) continue; // told, not hidden
            ++looked;
            for (std::size_t i = 1; i < r.path.size(); ++i) {
                if (r.path.motion[i] == Motion::Cut) continue;
                for (int k = 1; k <= 20; ++k) {
                    const double t = k / 20.0;
                    const AxisPose pose{(1 - t) * r.path.tip[i - 1] + t * r.path.tip[i], slerp(r.path.axis[i - 1], r.path.axis[i], t)};
                    const auto hit = guard.hit(pose, r.path.motion[i] == Motion::Rapid ? Contact::Free : Contact::Cutting);
                    if (hit && r.path.motion[i] == Motion::Rapid && pose.tip.z() < 4.0) continue; // the first millimetres of the approach
                    QVERIFY2(!hit, qPrintable(QString("post at %1, %2, height %3: location %4 of %5").arg(x).arg(y).arg(high).arg(i).arg(r.path.size())));
                }
            }
        }
        QVERIFY2(looked >= 6, qPrintable(QString::number(looked)));
    }
    void aCapOverTheRowIsAFindingWithItsPlace() {
        const Scene scene = blockAnd({ConvexBody::box(Vec3(-40, -20, 60), Vec3(40, 20, 80))});
        const LinkResult r = link(scene, {rowAt(0, 0)}, specWith(SkinKind::Plane, 55));
        QVERIFY(!r.findings.empty());
        const Finding& f = r.findings.front();
        QVERIFY(f.rank == Rank::Stop);
        QVERIFY(!f.reason.empty() && f.text.find("row 1") != std::string::npos);
    }
    // Looked at twenty times finer than the linker did: what is not told is clear.
    bool clear(const Scene& scene, const LinkResult& r) {
        const Guard guard(test::ballTool(6, 40), scene, m_guard, 0.005);
        for (std::size_t i = 1; i < r.path.size(); ++i) {
            if (r.path.motion[i] == Motion::Cut) continue;
            for (int k = 1; k <= 20; ++k) {
                const double t = k / 20.0;
                if (guard.hit({(1 - t) * r.path.tip[i - 1] + t * r.path.tip[i], slerp(r.path.axis[i - 1], r.path.axis[i], t)}, Contact::Cutting)) return false;
            }
        }
        return true;
    }
    // Round the inside of a pocket. Its walls are finished: nothing comes down along them.
    static Pass roundInside(double x, double y, double startAt) {
        Pass p;
        p.closed = true;
        const std::vector<Vec3> corners{{-x, -y, -5}, {x, -y, -5}, {x, y, -5}, {-x, y, -5}};
        std::vector<std::pair<Vec3, Vec3>> places; // and the wall's normal
        for (std::size_t k = 0; k < 4; ++k) {
            const Vec3 a = corners[k], b = corners[(k + 1) % 4], way = (b - a).normalized();
            for (int i = 0; i < 20; ++i) places.emplace_back(a + (b - a) * i / 20.0, Vec3(Vec3::UnitZ().cross(way)));
        }
        const auto shift = static_cast<std::size_t>(startAt * static_cast<double>(places.size()));
        for (std::size_t i = 0; i <= places.size(); ++i) {
            const auto& [tip, normal] = places[(i + shift) % places.size()];
            p.path.push(tip, Vec3::UnitZ(), tip - 3.0 * normal, normal, Motion::Cut, 0, 0.0, 0);
            p.feedDirection.push_back(normal.cross(Vec3::UnitZ()));
        }
        return p;
    }
    static Scene pocket(double x, double y) { // free within ±x, ±y
        Scene scene;
        for (const ConvexBody& b : {ConvexBody::box(Vec3(-60, -60, -30), Vec3(-x, 60, 0)), ConvexBody::box(Vec3(x, -60, -30), Vec3(60, 60, 0)),
                                    ConvexBody::box(Vec3(-60, -60, -30), Vec3(60, -y, 0)), ConvexBody::box(Vec3(-60, y, -30), Vec3(60, 60, 0))})
            scene.push_back({"pocket", ObstacleKind::Part, MeshTree(skinOf(b)), {}, 0.0});
        return scene;
    }
    // Lead-ins and lead-outs lie over the row, fall no steeper than asked, and are all that moves between the walls beside the cut.
    static bool rampsEvenly(const LinkResult& r, const Pass& pass, double degreesDown) {
        Polyline row = pass.path.tip;
        const PolylineDistance flat(row);
        const double z = row.front().z();
        double steepest = 0.0, off = 0.0, high = 0.0;
        for (std::size_t i = 1; i < r.path.size(); ++i) {
            const Vec3 &a = r.path.tip[i - 1], &b = r.path.tip[i];
            const bool lead = r.path.motion[i] == Motion::LeadIn || r.path.motion[i] == Motion::LeadOut;
            if (!lead && r.path.motion[i] != Motion::Cut && std::min(a.z(), b.z()) < -1e-9) return false; // straight down between the walls
            if (!lead) continue;
            const double along = std::hypot(b.x() - a.x(), b.y() - a.y());
            if (along > 1e-9) steepest = std::max(steepest, std::abs(b.z() - a.z()) / along);
            off = std::max(off, flat.distance(Vec3(b.x(), b.y(), z)));
            high = std::max(high, b.z());
        }
        return off < 1e-6 && steepest < std::tan(radians(degreesDown)) * 1.0001 && high >= 0.0;
    }
    void entriesIntoPockets() {
        // Begun in a corner the arc would sweep into the next wall: begun elsewhere, and the arc is whole.
        for (const double startAt : {0.0, 0.24, 0.25, 0.5, 0.74}) {
            const Scene scene = pocket(20, 12);
            const Pass pass = roundInside(17, 9, startAt);
            const LinkResult r = link(scene, {pass}, specWith(SkinKind::Plane, 25));
            QCOMPARE(r.findings.size(), std::size_t(1));
            QVERIFY(r.findings[0].code == "entry-moved" && r.findings[0].rank == Rank::Note);
            QVERIFY(clear(scene, r));
            double in = 0.0, cut = 0.0, lowest = 1e9;
            for (std::size_t i = 1; i < r.path.size(); ++i) {
                const double d = (r.path.tip[i] - r.path.tip[i - 1]).norm();
                if (r.path.motion[i] == Motion::LeadIn) in += d;
                if (r.path.motion[i] == Motion::Cut) cut += d;
                if (r.path.motion[i] == Motion::Plunge)
                    lowest = std::min({lowest, 17.0 - std::abs(r.path.tip[i].x()), 9.0 - std::abs(r.path.tip[i].y())}); // off the finished walls
            }
            QVERIFY(std::abs(in - kPi) < 0.01 && std::abs(cut - 104.0) < 1e-6 && lowest > 0.5);
            // Every location of the pass is found where it went.
            for (std::size_t i = 0; i + 1 < pass.path.size(); ++i) QVERIFY((r.path.tip[r.locationOf(0, i)] - pass.path.tip[i]).norm() < 1e-9);
        }
        // Where no arc has room, a straight way in from before the wall; where not even that, a ramp along the row. Nothing falls down along a wall.
        for (const double room : {0.15, 0.01}) {
            const Scene scene = pocket(20, 3.0 + room);
            const LinkResult r = link(scene, {roundInside(17, room, 0.1)}, specWith(SkinKind::Plane, 25));
            QVERIFY(clear(scene, r));
            QCOMPARE(r.findings.size(), std::size_t(1));
            const Finding& f = r.findings[0];
            QVERIFY(f.code == "arc-left-out" && f.rank == Rank::Look && f.place);
            QVERIFY2(f.reason.find(room > 0.1 ? "goes straight in" : "by a ramp of 3") != std::string::npos, f.reason.c_str());
            if (room > 0.1) continue;
            QVERIFY(rampsEvenly(r, roundInside(17, room, 0.1), 3.0));
        }
        // An open row between two walls, to and fro; leaner and steeper.
        for (const double slope : {1.0, 3.0, 10.0}) {
            const Scene scene = pocket(20, 3.01);
            LinkSpec spec = specWith(SkinKind::Plane, 25);
            spec.rampDegrees = slope;
            Pass row = roundInside(17, 0.01, 0.0);
            std::vector<char> half(row.path.size(), 0);
            for (std::size_t i = 0; i < half.size(); ++i) half[i] = i < half.size() / 5 ? 1 : 0; // of the long side
            row.path.filter(half);
            row.feedDirection.resize(row.path.size());
            row.closed = false;
            const LinkResult r = link(scene, {row}, spec);
            QVERIFY(clear(scene, r));
            QVERIFY(rampsEvenly(r, row, slope));
        }
    }
    // A post where the arc in or out would sweep: a smaller arc, or straight down, which is told.
    void arcsGiveWayToPosts() {
        for (const bool atEnd : {false, true}) {
            const double x = atEnd ? 25.4 : -25.4; // the cutter's radius and a millimetre beyond the row's end, and less than the arc
            const Scene scene = blockAnd({ConvexBody::box(Vec3(std::min(x, 2 * x), -5, 0), Vec3(std::max(x, 2 * x), 5, 8))});
            const LinkResult r = link(scene, {rowAt(0, 0)}, specWith(SkinKind::Plane, 25));
            for (const Finding& f : r.findings) QVERIFY2(f.code == "arc-left-out" && f.rank == Rank::Look && f.place, f.reason.c_str());
            QVERIFY(clear(scene, r));
            const LinkResult free = link(blockAnd(), {rowAt(0, 0)}, specWith(SkinKind::Plane, 25));
            QVERIFY(r.path.size() != free.path.size());
        }
    }
    // Something over the row's beginning or end, clear of the cut itself: there is no way in or out, and that is told with its code.
    void blockedWaysAreTold() {
        for (const bool atEnd : {false, true}) {
            const double from = atEnd ? 14 : -40, to = atEnd ? 40 : -14;
            const Scene scene = blockAnd({ConvexBody::box(Vec3(from, -20, 150), Vec3(to, 20, 160))});
            const LinkResult r = link(scene, {rowAt(0, 0)}, specWith(SkinKind::Plane, 80)); // the holder ends 40 + 60 over the tip
            QVERIFY(!r.findings.empty());
            QCOMPARE(r.findings.front().code, std::string(atEnd ? "exit-blocked" : "entry-blocked"));
            QVERIFY(r.findings.front().rank == Rank::Stop && r.findings.front().place);
        }
    }
    // A post higher than the skin between two rows: the rapid goes over it; one higher than any way goes: it is told.
    void rapidsGoOverPosts() {
        const std::vector<Pass> rows{rowAt(-45, 0), rowAt(45, 1, 20, -20)};
        const Scene low = blockAnd({ConvexBody::box(Vec3(-60, -2, 0), Vec3(60, 2, 31))});
        const LinkResult over = link(low, rows, specWith(SkinKind::Plane, 25));
        QVERIFY2(over.findings.empty(), over.findings.empty() ? "" : over.findings.front().reason.c_str());
        QVERIFY(clear(low, over));
        double highest = 0.0;
        for (std::size_t i = over.passStart[0]; i < over.passStart[1]; ++i) highest = std::max(highest, over.path.tip[i].z());
        QVERIFY(highest >= 32.0);
        const LinkResult blocked = link(blockAnd({ConvexBody::box(Vec3(-60, -2, 0), Vec3(60, 2, 400))}), rows, specWith(SkinKind::Plane, 25));
        QVERIFY(!blocked.findings.empty());
        QCOMPARE(blocked.findings.front().code, std::string("travel-blocked"));
    }
    // A post beyond the rows' ends where a smooth join would swing out: no join, or one that stays clear.
    void joinsGiveWayToPosts() {
        const Scene scene = blockAnd({ConvexBody::box(Vec3(24.05, -6, 0), Vec3(40, 8, 30))});
        const LinkResult r = link(scene, {rowAt(0, 0), rowAt(1.9, 1, 20, -20)}, specWith(SkinKind::Plane, 25));
        QVERIFY(clear(scene, r));
        const LinkResult free = link(blockAnd(), {rowAt(0, 0), rowAt(1.9, 1, 20, -20)}, specWith(SkinKind::Plane, 25));
        double way = -1e9, freeWay = -1e9;
        for (std::size_t i = free.passStart[0]; i < free.passStart[1]; ++i) freeWay = std::max(freeWay, free.path.tip[i].x());
        for (std::size_t i = r.passStart[0]; i < r.passStart[1]; ++i) way = std::max(way, r.path.tip[i].x());
        QVERIFY2(freeWay > 20.06 && way <= 20.051, qPrintable(QString("%1 %2").arg(freeWay).arg(way)));
    }
    // Straight across as a rapid only where nothing stands between.
    void straightRapidsGiveWayToPosts() {
        LinkSpec spec = specWith(SkinKind::Plane, 25);
        spec.low = true;
        std::vector<Pass> rows{rowAt(-20, 0), rowAt(20, 1, 20, -20)};
        for (Pass& p : rows)
            for (Vec3& t : p.path.tip) t.z() += 2.0; // clear of the block
        QCOMPARE(link(blockAnd(), rows, spec).retracts, std::size_t(0));
        const Scene scene = blockAnd({ConvexBody::box(Vec3(-60, -2, 0), Vec3(60, 2, 10))});
        const LinkResult r = link(scene, rows, spec);
        QCOMPARE(r.retracts, std::size_t(1));
        QVERIFY(clear(scene, r));
    }
    void theWayOutOfASkinHasItsClosedForm() {
        QCOMPARE(*wayOut({SkinKind::Plane, 25}, Vec3(3, 4, 5), Vec3::UnitZ()), 20.0);
        QVERIFY(!wayOut({SkinKind::Plane, 25}, Vec3(3, 4, 5), Vec3::UnitX()));
        QVERIFY(std::abs(*wayOut({SkinKind::Cylinder, 50}, Vec3(30, 0, 7), Vec3::UnitX()) - 20.0) < 1e-12);
        QVERIFY(!wayOut({SkinKind::Cylinder, 50}, Vec3(30, 0, 7), Vec3::UnitZ()));
        QVERIFY(std::abs(*wayOut({SkinKind::Sphere, 50}, Vec3(0, 0, 10), Vec3::UnitZ()) - 40.0) < 1e-12);
        Random random(63);
        for (int i = 0; i < 5000; ++i) {
            const Skin skin{random.integer(0, 1) ? SkinKind::Sphere : SkinKind::Cylinder, random.number(20, 90)};
            const Vec3 p = random.point(60), a = random.direction();
            const auto t = wayOut(skin, p, a);
            if (!t) continue;
            const Vec3 q = p + *t * a;
            const double out = skin.kind == SkinKind::Sphere ? q.norm() : std::hypot(q.x(), q.y());
            QVERIFY2(out >= skin.size - 1e-6 || *t == 0.0, qPrintable(QString::number(out)));
        }
    }
    void alongASkinNothingDipsIntoIt() {
        Random random(64);
        for (int i = 0; i < 2000; ++i) {
            const Skin skin{random.integer(0, 1) ? SkinKind::Sphere : SkinKind::Cylinder, random.number(20, 90)};
            const auto outside = [&] {
                Vec3 p = random.direction();
                while (skin.kind == SkinKind::Cylinder && std::hypot(p.x(), p.y()) < 0.2) p = random.direction();
                const double r = skin.kind == SkinKind::Sphere ? p.norm() : std::hypot(p.x(), p.y());
                return AxisPose{Vec3(p * (skin.size * random.number(1.0, 1.4) / r)), random.direction()};
            };
            const AxisPose a = outside(), b = outside();
            const auto way = alongSkin(skin, a, b);
            QVERIFY((way.front().tip - a.tip).norm() < 1e-12 && (way.back().tip - b.tip).norm() < 1e-12);
            for (const AxisPose& p : way) {
                const double r = skin.kind == SkinKind::Sphere ? p.tip.norm() : std::hypot(p.tip.x(), p.tip.y());
                QVERIFY2(r >= skin.size - 1e-9, qPrintable(QString("%1 of %2").arg(r).arg(skin.size)));
                QVERIFY(std::abs(p.axis.norm() - 1.0) < 1e-9);
            }
        }
    }
    void nothingToLinkIsNoPath() { QVERIFY(link(blockAnd(), {}, LinkSpec{}).path.empty()); }
};

GYRE_TEST(TestLink)

} // namespace test_link
#include "test_link.moc"
