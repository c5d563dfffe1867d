// Where the part should stand: travel by plain addition where the rotaries carry the tool, times and travel against jobs that were moved there and computed anew.
#include "OpenedJob.h"
#include "Program.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/Seats.h"
#include <set>

namespace test_seats {

using namespace gyre;
using namespace gyre::test;

namespace {

struct Ready {
    Job job;
    Workshop workshop{std::filesystem::path(GYRE_DEMO_DIR)};
    StageCache cache;
    JobResults results;
    /// @param coarser  rows so many times as far apart: what is asked of every location takes that much less time
    explicit Ready(const char* name, double coarser = 1.0) : job(openJob(demoFile(name)).value()) {
        for (Recipe& r : job.route) r.pattern->spacing *= coarser;
        compute();
    }
    void compute() {
        Progress progress;
        results = computeJob(job, workshop, cache, progress).value();
    }
    [[nodiscard]] double seconds() const {
        double s = 0.0;
        for (const auto& r : results.operations) s += secondsOf(*r);
        return s;
    }
    [[nodiscard]] Result<SeatMap> map() const {
        Progress progress;
        return seatMap(*results.place, job, results.operations, progress);
    }
};

/// From where to where each joint goes.
std::vector<std::pair<double, double>> spans(const JobResults& results) {
    std::vector<std::pair<double, double>> out;
    for (const auto& r : results.operations) {
        out.resize(r->motion->joints, {1e300, -1e300});
        for (std::size_t i = 0; i < r->motion->size(); ++i)
            for (std::size_t j = 0; j < r->motion->joints; ++j) out[j] = {std::min(out[j].first, r->motion->at(i)[j]), std::max(out[j].second, r->motion->at(i)[j])};
    }
    return out;
}

} // namespace

class TestSeats : public QObject {
    Q_OBJECT
private slots:
    // On a machine whose rotaries carry the tool the slides go as much further as the part is moved: room, and what leaves the travel, by addition.
    void byAddition() {
        Ready ready("moth-relief.gyre.json", 2.0);
        QVERIFY(ready.results.operations.front()->complete());
        const Machine& machine = *ready.results.place->machine;
        const auto span = spans(ready.results);
        const int x = machine.find("X"), y = machine.find("Y");
        QVERIFY(x >= 0 && y >= 0);
        const unsigned seed = std::random_device{}();
        qInfo("seed %u", seed);
        std::mt19937 random(seed);
        const auto number = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int beyond = 0, within = 0;
        for (int round = 0; round < 24; ++round) {
            const Vec3 shift(number(-900, 900), number(-700, 700), 0);
            Progress progress;
            const auto t = seatAt(*ready.results.place, ready.job, ready.results.operations, ready.job.seat + shift, ready.job.seatTurnDegrees, progress);
            QVERIFY(t.has_value());
            double over = 0.0, room = 1e300;
            for (std::size_t j = 0; j < span.size(); ++j) {
                const Joint& joint = machine.joints[j];
                if (joint.kind != JointKind::Linear) continue;
                const double by = static_cast<int>(j) == x ? shift.x() : static_cast<int>(j) == y ? shift.y() : 0.0;
                over = std::max({over, span[j].second + by - joint.high, joint.low - span[j].first - by});
                room = std::min({room, joint.high - span[j].second - by, span[j].first + by - joint.low});
            }
            if (over > 1e-6) {
                ++beyond;
                QVERIFY2(!t->goes() && std::abs(t->beyond - over) < 1e-6, qPrintable(QString("%1, not %2").arg(t->beyond).arg(over)));
                QVERIFY(t->leaves.starts_with("X") || t->leaves.starts_with("Y"));
            } else {
                ++within;
                QVERIFY2(t->goes() && std::abs(t->room - room) < 1e-6, t->leaves.c_str());
                QVERIFY2(std::abs(t->seconds - ready.seconds()) < 1e-6 * ready.seconds(), "moved slides take no other time");
            }
        }
        QVERIFY(beyond > 3 && within > 3);
        // Turned on that table, the slides go where the turned path leads: by a frame written out here.
        // Near the end of X's travel, so that it is X that has the least room.
        const Joint& slide = machine.joints[static_cast<std::size_t>(x)];
        const Vec3 seat = ready.job.seat + Vec3(slide.low - span[static_cast<std::size_t>(x)].first + 40.0, 0, 0);
        std::set<long> told;
        for (const double turn : {0.0, 90.0, -37.0, 180.0}) {
            Progress progress;
            const auto t = seatAt(*ready.results.place, ready.job, ready.results.operations, seat, turn, progress).value();
            Frame frame = Frame::Identity();
            const double c = std::cos(turn * M_PI / 180.0), s = std::sin(turn * M_PI / 180.0);
            frame.linear() << c, -s, 0, s, c, 0, 0, 0, 1;
            frame.translation() = seat;
            double room = 1e300;
            for (const auto& r : ready.results.operations) {
                const auto m = solveMotion(*r->path(), Kinematics(machine, frame, r->tool.gaugeLength()), {}, progress, {}).value();
                for (std::size_t j = 0; j < m.joints; ++j)
                    if (machine.joints[j].kind == JointKind::Linear)
                        for (std::size_t i = 0; i < m.size(); ++i) room = std::min({room, machine.joints[j].high - m.at(i)[j], m.at(i)[j] - machine.joints[j].low});
            }
            told.insert(std::lround(room));
            QVERIFY2(std::abs(t.room - room) < 1e-3, qPrintable(QString("turned by %1: %2, not %3").arg(turn).arg(t.room).arg(room)));
        }
        QVERIFY2(told.size() >= 3, "turning it makes a difference here");
        // The map runs some locations alone, and tells the time of all of them.
        const SeatMap map = ready.map().value();
        int timed = 0;
        for (const SeatTry& t : map.places)
            if (t.onTable && t.turnDegrees == map.present.turnDegrees) {
                ++timed;
                QVERIFY2(std::abs(t.seconds - map.present.seconds) < 1e-6 * map.present.seconds,
                         qPrintable(QString("%1, not %2").arg(t.seconds).arg(map.present.seconds)));
            }
        QVERIFY(timed > 10);
    }

    // What is told of a place is what the job comes to when the part stands there; the best is no worse than the present; none is told to go that does not.
    void asComputedThere() {
        Ready ready("lantern-collar.gyre.json");
        const auto map = ready.map();
        QVERIFY2(map.has_value(), map ? "" : map.error().text().c_str());
        QVERIFY2(std::abs(map->present.seconds - ready.seconds()) < 1e-9 * ready.seconds(), "the present place is told as it is");
        QVERIFY(map->present.goes() && map->present.measured && map->best && map->best->measured && map->best->goes());
        QCOMPARE_LE(map->best->seconds, 1.005 * map->present.seconds);
        QCOMPARE(map->places.size(), map->turns.size() * map->x.size() * map->y.size());
        // Some places, the best among them: the same paths run there.
        std::mt19937 random(5);
        std::vector<SeatTry> some{*map->best};
        while (some.size() < 5)
            if (const SeatTry& t = map->places[std::uniform_int_distribution<std::size_t>(0, map->places.size() - 1)(random)]; t.onTable) some.push_back(t);
        for (const SeatTry& t : some) {
            double seconds = 0.0;
            bool goes = true;
            Frame frame = Frame::Identity();
            frame.translation() = t.seat;
            frame.linear() = rotation(Vec3::UnitZ(), radians(t.turnDegrees));
            for (const auto& r : ready.results.operations) {
                Progress progress;
                const auto m = solveMotion(*r->path(), Kinematics(*ready.results.place->machine, frame, r->tool.gaugeLength()), {}, progress, {}).value();
                seconds += m.duration;
                for (const Finding& f : m.findings) goes = goes && f.rank != Rank::Stop;
            }
            // Without word of what stands away from the part, rotaries may turn over elsewhere.
            QVERIFY2(std::abs(t.seconds - seconds) < 0.03 * seconds,
                     qPrintable(QString("%1 at %2 %3, not %4").arg(t.seconds).arg(t.seat.x()).arg(t.seat.y()).arg(seconds)));
            QCOMPARE(t.goes(), goes);
        }
        // Moved there and computed anew, with its own links: within the travel, and in that time.
        ready.job.seat = map->best->seat;
        ready.job.seatTurnDegrees = map->best->turnDegrees;
        ready.compute();
        for (const auto& r : ready.results.operations) {
            QVERIFY(r->complete());
            for (const Finding& f : r->findings) QVERIFY2(f.check != Check::Travel || f.rank != Rank::Stop, f.text.c_str());
        }
        QVERIFY2(std::abs(ready.seconds() - map->best->seconds) < 0.03 * map->best->seconds,
                 qPrintable(QString("%1, told %2").arg(ready.seconds()).arg(map->best->seconds)));
    }

    // Nothing is offered that stands over the edge further than it does now.
    void onTheTable() {
        Ready ready("lantern-collar.gyre.json");
        const SeatMap map = ready.map().value();
        Box box;
        for (const PlacedBody& b : ready.results.place->bodies)
            if (b.role != "reference") box.add(b.shape->tree().bounds());
        // Its table is a round of 190 across.
        const double least = 95.0;
        // What stands over its edge now may do so elsewhere as far.
        double now = 0.0;
        for (const double x : {box.low.x(), box.high.x()})
            for (const double y : {box.low.y(), box.high.y()}) now = std::max(now, (Vec3(x, y, 0) + Vec3(ready.job.seat.x(), ready.job.seat.y(), 0)).norm());
        int on = 0, off = 0;
        for (const SeatTry& t : map.places) {
            double furthest = 0.0;
            for (const double x : {box.low.x(), box.high.x()})
                for (const double y : {box.low.y(), box.high.y()})
                    furthest = std::max(furthest, (rotation(Vec3::UnitZ(), radians(t.turnDegrees)) * Vec3(x, y, 0) + Vec3(t.seat.x(), t.seat.y(), 0)).norm());
            if (furthest < least - 0.3) QVERIFY(t.onTable);
            if (furthest > std::max(least, now) + 0.3) QVERIFY(!t.onTable);
            ++(t.onTable ? on : off);
        }
        QVERIFY(on > 0 && off > 0);
    }

    // A chuck has no other place; a job without paths none to look for; what is called off says so.
    void whereItCannot() {
        Ready chuck("barrel-work.gyre.json");
        const auto map = chuck.map();
        QVERIFY(!map && QString::fromStdString(map.error().text()).contains("flat top"));
        Ready ready("moth-relief.gyre.json");
        Progress progress;
        QVERIFY(!seatMap(*ready.results.place, ready.job, {}, progress));
        progress.cancel();
        const auto off = seatMap(*ready.results.place, ready.job, ready.results.operations, progress);
        QVERIFY(!off && off.error().cancelled);
    }
};

GYRE_TEST(TestSeats)

} // namespace test_seats
#include "test_seats.moc"
