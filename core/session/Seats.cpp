#include "session/Seats.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "link/Link.h"
#include "machine/Kinematics.h"
#include "operation/MotionWords.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include <algorithm>
#include <atomic>
#include <cmath>
#include <fmt/format.h>

namespace gyre {
namespace {

/// The path of an operation, or some of its locations.
struct Way {
    Toolpath path;
    std::vector<char> away;
    MotionSpec words;
    double gauge = 0.0;
};

/// The ends of every stretch of one kind, what lies furthest in many directions, and of the rest every so-manieth.
Way some(const Way& whole, std::size_t every) {
    const Toolpath& p = whole.path;
    std::vector<char> keep(p.size(), 0);
    for (std::size_t i = 0; i < p.size(); ++i)
        keep[i] = i == 0 || i + 1 == p.size() || i % every == 0 || p.motion[i] != p.motion[i - 1] || p.motion[i] != p.motion[i + 1];
    for (int x = -1; x <= 1; ++x)
        for (int y = -1; y <= 1; ++y)
            for (int z = -1; z <= 1; ++z) {
                const Vec3 way(x, y, z);
                std::size_t furthest = 0;
                for (std::size_t i = 1; i < p.size(); ++i)
                    if (p.tip[i].dot(way) > p.tip[furthest].dot(way)) furthest = i;
                keep[furthest] = 1;
            }
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < p.size(); ++i)
        if (keep[i]) order.push_back(i);
    Way out{p.taken(order), {}, whole.words, whole.gauge};
    if (!whole.away.empty())
        for (const std::size_t i : order) out.away.push_back(whole.away[i]);
    return out;
}

Frame frameAt(const Vec3& seat, double turnDegrees) {
    Frame f = Frame::Identity();
    f.translation() = seat;
    f.linear() = rotation(Vec3::UnitZ(), radians(turnDegrees));
    return f;
}

/// Time and travel of these paths there. @return false when it was called off
bool run(const Machine& machine, const std::vector<Way>& ways, SeatTry& at, const Progress& progress) {
    const Frame frame = frameAt(at.seat, at.turnDegrees);
    at.seconds = 0.0;
    for (const Way& w : ways) {
        Progress own;
        if (progress.cancelled()) return false;
        const auto motion = solveMotion(w.path, Kinematics(machine, frame, w.gauge), w.words, own, w.away);
        if (!motion) return false;
        at.seconds += motion->duration;
        for (std::size_t j = 0; j < motion->joints; ++j) {
            const Joint& joint = machine.joints[j];
            const bool rotary = joint.kind == JointKind::Rotary;
            double low = 1e300, high = -1e300;
            for (std::size_t i = 0; i < motion->size(); ++i) {
                low = std::min(low, motion->at(i)[j]);
                high = std::max(high, motion->at(i)[j]);
            }
            if (!rotary) at.room = std::min({at.room, joint.high - high, low - joint.low});
            const double over = (rotary ? degrees(1.0) : 1.0) * std::max(high - joint.high, joint.low - low);
            if (over > std::max(1e-6, at.beyond)) {
                at.beyond = over;
                at.leaves = fmt::format("{} {:.1f}{}", joint.name, over, rotary ? "°" : " mm");
            }
        }
        for (const Finding& f : motion->findings)
            if (f.rank == Rank::Stop && at.leaves.empty()) at.leaves = f.text;
    }
    return true;
}

/// Where it may stand: the tops of what carries the work.
struct Table {
    std::vector<ConvexBody> tops; ///< in the seat's coordinates
    Box box;
};

Result<Table> tableOf(const Machine& machine) {
    constexpr double kLevel = 5.0, kLeast = 60.0; // mm
    Table t;
    const Frame toSeat = machine.workFrame.inverse();
    for (const MachineBody& b : machine.bodies) {
        if (b.joint != machine.workJoint) continue;
        for (ConvexBody piece : b.pieces) {
            piece.frame = toSeat * piece.frame;
            const Box box = piece.bounds();
            if (std::abs(box.high.z()) > kLevel || box.high.x() - box.low.x() < kLeast || box.high.y() - box.low.y() < kLeast) continue;
            t.tops.push_back(piece);
            t.box.add(box);
        }
    }
    if (t.tops.empty())
        return fail("no body of the machine that carries the work has a flat top at the table's seat, so there is no other place to stand", machine.name,
                    "Where a chuck holds the part, move it along the chuck's axis by hand");
    return t;
}

std::vector<Vec2> outlineOf(const Table& t) {
    std::vector<Vec2> out;
    constexpr int kCorners = 64;
    for (int k = 0; k < kCorners; ++k) {
        const double a = 2.0 * kPi * (k + 0.5) / kCorners;
        const Vec3 d(std::cos(a), std::sin(a), 0.0);
        Vec3 furthest = t.tops.front().support(d) + t.tops.front().round() * d;
        for (const ConvexBody& top : t.tops)
            if (const Vec3 p = top.support(d) + top.round() * d; p.dot(d) > furthest.dot(d)) furthest = p;
        out.emplace_back(furthest.x(), furthest.y());
    }
    return out;
}

/// The corners, seen from above, of all that stands on the table, about the datum.
std::vector<Vec2> footOf(const Workplace& place) {
    Box box;
    for (const PlacedBody& b : place.bodies)
        if (b.role != "reference" && b.shape) box.add(b.shape->tree().bounds());
    if (box.empty()) return {};
    return {{box.low.x(), box.low.y()}, {box.high.x(), box.low.y()}, {box.high.x(), box.high.y()}, {box.low.x(), box.high.y()}};
}

/// By how much it stands over the table's edge, mm; 0 where it does not.
double overhang(const std::vector<Vec2>& table, const std::vector<Vec2>& foot, const SeatTry& at) {
    const Frame frame = frameAt(at.seat, at.turnDegrees);
    double most = 0.0;
    for (const Vec2& corner : foot) {
        const Vec3 p = frame * Vec3(corner.x(), corner.y(), 0.0);
        for (std::size_t k = 0; k < table.size(); ++k) {
            const Vec2 &a = table[k], &b = table[(k + 1) % table.size()], along = b - a;
            if (along.norm() < 1e-9) continue;
            most = std::max(most, Vec2(along.y(), -along.x()).normalized().dot(Vec2(p.x(), p.y()) - a)); // it runs the positive way round
        }
    }
    return most;
}

std::vector<double> spread(double low, double high) {
    constexpr double kFinest = 10.0;
    constexpr int kMost = 9;
    const double step = std::max(kFinest, kFinest * std::ceil((high - low) / (kFinest * (kMost - 1))));
    const int half = static_cast<int>(std::floor(0.5 * (high - low) / step));
    std::vector<double> out;
    const double middle = 5.0 * std::round(0.1 * (low + high)); // to 5 mm
    for (int k = -half; k <= half; ++k) out.push_back(middle + k * step);
    return out;
}

/// Is the one better? What goes comes first; times within half a percent count as the same, then room does.
bool better(const SeatTry& a, const SeatTry& b) {
    if (a.goes() != b.goes()) return a.goes();
    if (!a.goes()) return a.beyond < b.beyond;
    constexpr double kSame = 1.005;
    if (a.seconds * kSame < b.seconds) return true;
    if (b.seconds * kSame < a.seconds) return false;
    return a.room > b.room;
}

class Trial {
public:
    Trial(const Workplace& place, const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done) : m_place(place) {
        for (const auto& d : done) {
            if (!d || !d->complete() || !d->links) continue;
            const auto recipe = job.worked(d->operation);
            if (!recipe) continue;
            m_ways.push_back({d->links->path, d->links->away, motionWordsOf(*recipe, *place.machine), d->tool.gaugeLength()});
            m_waits += secondsOf(*d) - d->motion->duration; // at the bottom of holes
            m_locations += m_ways.back().path.size();
        }
    }
    [[nodiscard]] bool any() const { return !m_ways.empty(); }
    /// With all locations.
    [[nodiscard]] Result<SeatTry> measured(const Vec3& seat, double turn, const Progress& progress) const {
        SeatTry t;
        t.seat = seat;
        t.turnDegrees = turn;
        t.measured = true;
        if (!run(*m_place.machine, m_ways, t, progress)) return cancelledError();
        t.seconds += m_waits;
        return t;
    }
    /// With so many of all, about.
    [[nodiscard]] std::vector<Way> fewer(std::size_t most) const {
        const std::size_t every = std::max<std::size_t>(1, m_locations / most);
        if (every == 1) return m_ways;
        std::vector<Way> out;
        out.reserve(m_ways.size());
        for (const Way& w : m_ways) out.push_back(some(w, every));
        return out;
    }
    [[nodiscard]] double waits() const { return m_waits; }

private:
    const Workplace& m_place;
    std::vector<Way> m_ways;
    double m_waits = 0.0;
    std::size_t m_locations = 0;
};

Status fillMap(SeatMap& map, const Workplace& place, const Trial& trial, Progress& progress) {
    constexpr std::size_t kLocations = 2500;
    const std::vector<Way> ways = trial.fewer(kLocations);
    // Fewer locations are cut in another time; how much another is seen where the part stands.
    SeatTry now = map.present;
    now.beyond = 0.0;
    now.leaves.clear();
    if (!run(*place.machine, ways, now, progress)) return cancelledError();
    const double scale = now.seconds > 0.0 ? (map.present.seconds - trial.waits()) / now.seconds : 1.0;
    const double allowed = overhang(map.table, map.foot, map.present) + 1e-6;
    for (const double turn : map.turns)
        for (const double y : map.y)
            for (const double x : map.x) {
                SeatTry t;
                t.seat = {x, y, map.present.seat.z()};
                t.turnDegrees = turn;
                t.onTable = overhang(map.table, map.foot, t) <= allowed;
                map.places.push_back(t);
            }
    std::atomic<bool> off{false};
    const auto one = [&](std::size_t i) {
        SeatTry& t = map.places[i];
        if (!t.onTable) return;
        if (!run(*place.machine, ways, t, progress)) off = true;
        t.seconds = t.seconds * scale + trial.waits();
    };
    if (!parallelFor(map.places.size(), 4, one, &progress) || off) return cancelledError();
    return {};
}

} // namespace

Result<SeatTry> seatAt(const Workplace& place, const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done, const Vec3& seat, double turnDegrees,
                       Progress& progress) {
    const Trial trial(place, job, done);
    if (!trial.any()) return fail("no operation has a path whose place could be looked for", job.name, "Compute the route first");
    return trial.measured(seat, turnDegrees, progress);
}

Result<SeatMap> seatMap(const Workplace& place, const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done, Progress& progress) {
    if (!place.machine) return fail("the job has no machine", job.name, "Choose one in Set up");
    const auto table = tableOf(*place.machine);
    if (!table) return tl::unexpected(table.error());
    const Trial trial(place, job, done);
    if (!trial.any()) return fail("no operation has a path whose place could be looked for", job.name, "Compute the route first");
    SeatMap map;
    map.table = outlineOf(*table);
    map.foot = footOf(place);
    progress.report(0.05, "Running the paths where the part stands");
    const auto present = trial.measured(job.seat, job.seatTurnDegrees, progress);
    if (!present) return tl::unexpected(present.error());
    map.present = *present;
    map.x = spread(table->box.low.x(), table->box.high.x());
    map.y = spread(table->box.low.y(), table->box.high.y());
    for (int k = 0; k < 4; ++k) map.turns.push_back(std::remainder(job.seatTurnDegrees + 90.0 * k, 360.0));
    progress.report(0.15, "Running them elsewhere");
    if (auto ok = fillMap(map, place, trial, progress); !ok) return tl::unexpected(ok.error());
    progress.report(0.9, "Measuring the best place");
    std::vector<std::size_t> order(map.places.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return better(map.places[a], map.places[b]); });
    // What some locations promise all of them must keep.
    constexpr std::size_t kMeasured = 6;
    std::optional<SeatTry> best;
    if (map.present.goes()) best = map.present;
    for (std::size_t k = 0; k < std::min(kMeasured, order.size()); ++k) {
        SeatTry& t = map.places[order[k]];
        if (!t.goes()) break;
        auto all = trial.measured(t.seat, t.turnDegrees, progress);
        if (!all) return tl::unexpected(all.error());
        all->onTable = t.onTable;
        t = *all;
        if (t.goes() && (!best || better(t, *best))) best = t;
    }
    map.best = best;
    progress.report(1.0, "Looked for places");
    return map;
}

} // namespace gyre
