#include "axis/AxisFindings.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/Polyline.h"
#include <fmt/format.h>
#include <memory>
#include <tuple>

namespace gyre {

Vec3 limitedAxis(const Vec3& axis, const Vec3& z, double low, double high, const Vec3& hint) {
    const double angle = angleBetween(axis, z);
    if (angle >= low && angle <= high) return axis;
    Vec3 side = rejected(axis, z);
    if (side.norm() < 1e-9) side = rejected(hint, z);
    if (side.norm() < 1e-9) side = anyPerpendicular(z);
    const double wanted = std::clamp(angle, low, high);
    return std::cos(wanted) * z + std::sin(wanted) * side.normalized();
}

Vec3 takenToPole(const Vec3& axis, const Vec3& pole, double near) {
    const double angle = angleBetween(axis, pole);
    if (!(near > 0.0) || angle >= 3.0 * near) return axis;
    const double wanted = std::max(0.0, 1.5 * (angle - near));
    const Vec3 side = rejected(axis, pole);
    return side.norm() < 1e-12 || wanted == 0.0 ? pole : Vec3(std::cos(wanted) * pole + std::sin(wanted) * side.normalized());
}

Vec3 keptOffFace(const Vec3& axis, const Vec3& normal, double least) {
    const double angle = angleBetween(axis, normal), most = 0.5 * kPi - least;
    if (angle <= most) return axis;
    const Vec3 aside = rejected(axis, normal);
    if (aside.norm() < 1e-9) return axis; // out of the back of the face: no side is nearer
    return std::cos(most) * normal + std::sin(most) * aside.normalized();
}

std::vector<Vec3> lineWays(const std::vector<Curve>& lines, const std::vector<Row>& rows, const std::vector<int>& turned) {
    constexpr double kClear = 0.2; // the sine of the least lean that tells the ends apart
    std::vector<Vec3> ways;
    for (std::size_t k = 0; k < lines.size(); ++k) {
        const Vec3 a = lines[k].start(), b = lines[k].end();
        Vec3 way = b - a;
        if (way.norm() < 1e-9) {
            ways.push_back(Vec3::Zero());
            continue;
        }
        way.normalize();
        double nearest = 1e300, out = 0.0, all = 0.0;
        for (const Row& row : rows) {
            double least = 1e300, here = 0.0;
            for (std::size_t i = 0; i < row.points.size(); ++i)
                if (const double d = distanceToSegment(row.points[i], a, b); d < least) {
                    least = d;
                    here = way.dot(row.normals[i]);
                }
            all += here * std::abs(here);
            if (least >= nearest) continue;
            nearest = least;
            out = here;
        }
        // A line in the surface is out of that neither way: what lies around says it, or else the datum.
        if (std::abs(out) <= kClear) out = std::abs(all) > kClear * static_cast<double>(rows.size()) ? all : way.z();
        if (out < 0.0) way = -way;
        if (std::find(turned.begin(), turned.end(), static_cast<int>(k)) != turned.end()) way = -way;
        ways.push_back(way);
    }
    return ways;
}

std::optional<Vec3> axisTowardLine(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const AxisLine& line) {
    const Vec3 d = line.direction.normalized();
    const auto outward = [&](const Vec3& p) { return Vec3(rejected(p - line.point, d)); };
    Vec3 start = outward(contact + contactRadius(cutter) * normal);
    if (start.norm() < 1e-9) return std::nullopt;
    start.normalize();
    // All candidates lie in the plane square to the line: one angle, and the offset of the tip from the axis' own plane must vanish.
    const Vec3 side = d.cross(start);
    const auto axisAt = [&](double angle) { return Vec3(std::cos(angle) * start + std::sin(angle) * side); };
    const auto miss = [&](double angle) {
        const Vec3 a = axisAt(angle);
        return outward(tipFromContact(cutter, contact, normal, a).tip).dot(d.cross(a));
    };
    if (std::abs(miss(0.0)) < 1e-12) return start;
    constexpr int kSteps = 60;
    constexpr double kWidest = 0.8; // rad to either side
    for (int i = 1; i <= kSteps; ++i)
        for (const double way : {1.0, -1.0}) {
            double low = way * kWidest * (i - 1) / kSteps, high = way * kWidest * i / kSteps;
            double atLow = miss(low);
            if (atLow * miss(high) > 0.0) continue;
            for (int k = 0; k < 100 && std::abs(high - low) > 1e-16; ++k) {
                const double middle = 0.5 * (low + high), at = miss(middle);
                if (atLow * at > 0.0) {
                    low = middle;
                    atLow = at;
                } else
                    high = middle;
            }
            // A change of sign without a root is where the contact jumps across a flat bottom.
            for (const double angle : {low, high})
                if (std::abs(miss(angle)) < 5e-10) return axisAt(angle);
        }
    return std::nullopt;
}

std::vector<Vec3> feedDirections(const Row& row) {
    const std::size_t n = row.points.size();
    std::vector<Vec3> feed(n);
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t before = i > 0 ? i - 1 : row.closed ? n - 1 : 0;
        const std::size_t after = i + 1 < n ? i + 1 : row.closed ? 0 : n - 1;
        const Vec3 back = row.points[i] - row.points[before], ahead = row.points[after] - row.points[i];
        const double lb = back.norm(), la = ahead.norm();
        // Weighted so that the nearer neighbour counts more: the tangent of the parabola through the three points.
        Vec3 d = lb > 1e-12 && la > 1e-12 ? Vec3(back / lb * la + ahead / la * lb) : Vec3(back + ahead);
        d = rejected(d, row.normals[i]);
        // Where the row stands still or runs along the normal, the last good direction goes on.
        feed[i] = d.norm() > 1e-12 ? Vec3(d.normalized()) : i > 0 ? Vec3(rejected(feed[i - 1], row.normals[i]).normalized()) : anyPerpendicular(row.normals[i]);
    }
    return feed;
}

namespace {

// Evens the axes out with a bell over the arc length, half-width `sigma`.
void smoothAlong(const Row& row, std::vector<Vec3>& axes, double sigma) {
    const std::size_t n = axes.size();
    std::vector<double> s(n, 0.0);
    for (std::size_t i = 1; i < n; ++i) s[i] = s[i - 1] + (row.points[i] - row.points[i - 1]).norm();
    const double whole = row.closed && n > 1 ? s.back() + (row.points.front() - row.points.back()).norm() : 0.0;
    const std::vector<Vec3> from = axes;
    const double reach = 3.0 * sigma;
    const auto count = static_cast<std::ptrdiff_t>(n);
    for (std::ptrdiff_t i = 0; i < count; ++i) {
        Vec3 sum = from[static_cast<std::size_t>(i)];
        for (int way : {-1, 1})
            for (std::ptrdiff_t k = i + way, steps = 1; steps < count; k += way, ++steps) {
                if (!row.closed && (k < 0 || k >= count)) break;
                const auto j = static_cast<std::size_t>(((k % count) + count) % count);
                double d = std::abs(s[j] - s[static_cast<std::size_t>(i)]);
                if (row.closed && (k < 0 || k >= count)) d = whole - d;
                if (d > reach) break;
                sum += std::exp(-0.5 * d * d / (sigma * sigma)) * from[j];
            }
        if (sum.norm() > 1e-9) axes[static_cast<std::size_t>(i)] = sum.normalized();
    }
}

} // namespace

std::optional<Vec3> axisThrough(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const Vec3& point, bool away) {
    const double sign = away ? -1.0 : 1.0;
    // A ball's middle stays where it is; of other cutters the tip moves with the axis, and the direction is found again from there.
    Vec3 from = contact + contactRadius(cutter) * normal;
    Vec3 axis = sign * (point - from);
    if (axis.norm() < 1e-9) return std::nullopt;
    axis.normalize();
    for (int i = 0; i < 200; ++i) {
        const Vec3 tip = tipFromContact(cutter, contact, normal, axis).tip;
        Vec3 next = sign * (point - tip);
        if (next.norm() < 1e-9) return std::nullopt;
        next.normalize();
        if ((next - axis).norm() < 1e-13) return next;
        axis = i < 50 ? next : (axis + next).normalized(); // a jump of the contact would go to and fro
    }
    const Vec3 tip = tipFromContact(cutter, contact, normal, axis).tip;
    if (rejected(point - tip, axis).norm() < 1e-6) return axis;
    return std::nullopt;
}

LeadTilt keyed(const std::vector<AxisKey>& keys, double fraction, double level, int row, bool closed) {
    struct At {
        double place, lead, tilt;
    };
    std::vector<At> mine;
    for (const AxisKey& k : keys)
        if (k.row < 0 || k.row == row) mine.push_back({(1.0 - level) * k.at + level * k.atLast, radians(k.leadDegrees), radians(k.tiltDegrees)});
    if (mine.empty()) return {0.0, 0.0};
    std::stable_sort(mine.begin(), mine.end(), [](const At& a, const At& b) { return a.place < b.place; });
    if (closed && mine.size() > 1) { // the last one once more before the first, and the other way round
        const At before{mine.back().place - 1.0, mine.back().lead, mine.back().tilt}, after{mine.front().place + 1.0, mine.front().lead, mine.front().tilt};
        mine.insert(mine.begin(), before);
        mine.push_back(after);
    }
    if (fraction <= mine.front().place) return {mine.front().lead, mine.front().tilt};
    if (fraction >= mine.back().place) return {mine.back().lead, mine.back().tilt};
    std::size_t i = 0;
    while (i + 2 < mine.size() && fraction > mine[i + 1].place) ++i;
    const double span = mine[i + 1].place - mine[i].place, x = span > 1e-12 ? (fraction - mine[i].place) / span : 1.0, t = x * x * (3.0 - 2.0 * x);
    return {(1.0 - t) * mine[i].lead + t * mine[i + 1].lead, (1.0 - t) * mine[i].tilt + t * mine[i + 1].tilt};
}

namespace {

/// One aim of a rule, for the rows it is asked about.
class Aimer {
public:
    explicit Aimer(const AimContext& context) : m_context(context), m_kind(kindOf(context.aim.rule)), m_source(m_kind.make(m_context)) {}

    [[nodiscard]] std::optional<Error> trouble() const { return m_kind.trouble(m_context); }
    [[nodiscard]] AimedRow on(const Row& row) const {
        AimedRow o;
        o.row = &row;
        o.along.assign(row.points.size(), 0.0);
        for (std::size_t i = 1; i < row.points.size(); ++i) o.along[i] = o.along[i - 1] + (row.points[i] - row.points[i - 1]).norm();
        o.whole = o.along.empty() ? 0.0 : o.along.back() + (row.closed ? (row.points.front() - row.points.back()).norm() : 0.0);
        m_source->prepare(o);
        return o;
    }
    [[nodiscard]] std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3& feed) const { return m_source->at(o, i, feed); }

private:
    const AimContext m_context;
    const AxisRuleKind& m_kind;
    std::unique_ptr<AxisSource> m_source;
};

/// Takes the axes to the pole in those stretches near it where they go around it by more than the eye would call still: a rotary would whirl there.
void calmNearPole(const Vec3& pole, double near, std::vector<Vec3>& axes) {
    constexpr double kStill = 0.5; // rad
    const Vec3 x = anyPerpendicular(pole), y = pole.cross(x);
    const auto beside = [&](std::size_t i) { return angleBetween(axes[i], pole) < 3.0 * near; };
    for (std::size_t i = 0; i < axes.size();) {
        if (!beside(i)) {
            ++i;
            continue;
        }
        std::size_t end = i;
        double around = 0.0, last = 0.0;
        bool any = false;
        for (; end < axes.size() && beside(end); ++end) {
            if (std::hypot(axes[end].dot(x), axes[end].dot(y)) < 1e-9) continue; // on the pole it stands anywhere
            const double now = std::atan2(axes[end].dot(y), axes[end].dot(x));
            if (any) around += std::abs(std::remainder(now - last, 2.0 * kPi));
            last = now;
            any = true;
        }
        if (around > kStill)
            for (std::size_t k = i; k < end; ++k) axes[k] = takenToPole(axes[k], pole, near);
        i = end;
    }
}

/// The fastest turn along a row, °/mm, and where.
std::pair<double, std::size_t> steepestOf(const Row& row, const std::vector<Vec3>& axes) {
    std::pair<double, std::size_t> out{0.0, 0};
    const std::size_t n = axes.size();
    for (std::size_t i = row.closed ? 0 : 1; i < n; ++i) {
        const std::size_t before = i > 0 ? i - 1 : n - 1; // across the seam of a closed row as well
        const double d = (row.points[i] - row.points[before]).norm();
        if (d < 1e-9) continue;
        if (const double rate = degrees(angleBetween(axes[i], axes[before])) / d; rate > out.first) out = {rate, i};
    }
    return out;
}

/// Evens a row out over the shortest length that keeps it from turning faster than `limit` (°/mm); false when none does.
bool slowed(const Row& row, std::vector<Vec3>& axes, double limit, double length) {
    const std::vector<Vec3> before = axes;
    double low = 0.0, high = 0.25;
    const auto good = [&](double sigma) {
        axes = before;
        smoothAlong(row, axes, sigma);
        return steepestOf(row, axes).first <= limit * (1.0 - 1e-6);
    };
    while (!good(high)) {
        low = high;
        high *= 2.0;
        if (high > length) {
            axes = before;
            return false;
        }
    }
    for (int i = 0; i < 6; ++i) (good(0.5 * (low + high)) ? high : low) = 0.5 * (low + high);
    return good(high);
}

/// What all rows share while their axes are set.
class AxisSetter {
public:
    AxisSetter(const std::vector<Row>& rows, const AxisSpec& spec, const Cutter& cutter, const AxisHelp& help)
        : m_rows(rows), m_spec(spec), m_help(help), m_first({spec, help.first, cutter, help.rotary, rows, spec.leadByPattern}),
          m_last({spec.last, help.last, cutter, help.rotary, rows, spec.leadByPattern}) {
        // Levels as the pattern has them: the first row's to the last one's.
        m_upward = rows.empty() || rows.back().level >= rows.front().level;
        for (const Row& r : rows) {
            m_low = std::min(m_low, r.level);
            m_high = std::max(m_high, r.level);
        }
    }

    [[nodiscard]] std::optional<Error> trouble() const {
        if (auto wrong = m_first.trouble()) return wrong;
        return m_spec.blended ? m_last.trouble() : std::nullopt;
    }
    [[nodiscard]] RowTold set(std::size_t r, AxisResult& out) const {
        const Row& row = m_rows[r];
        RowTold t;
        auto& axes = out.axes[r];
        out.feeds[r] = feedDirections(row);
        const AimedRow first = m_first.on(row);
        aim(row, first, out.feeds[r], axes, t);
        if (m_spec.rule == AxisRule::Lines) {
            t.lines = disagreement(first, row.closed);
            while (t.linesAt + 1 < first.along.size() && first.along[t.linesAt] < t.lines.along) ++t.linesAt;
        }
        if (m_spec.smoothing > 0.0 && m_spec.rule != AxisRule::Fixed && m_spec.rule != AxisRule::TowardRotary) smoothAlong(row, axes, 0.5 * m_spec.smoothing);
        if (m_spec.steepest > 0.0 && steepestOf(row, axes).first > m_spec.steepest)
            moving(axes, t.evened, [&] { t.tooSteep = !slowed(row, axes, m_spec.steepest, first.whole); });
        if (m_help.pole && m_spec.nearPole > 0.0) moving(axes, t.poled, [&] { calmNearPole(*m_help.pole, radians(m_spec.nearPole), axes); });
        limit(row, axes, t);
        std::tie(t.steep.by, t.steep.at) = steepestOf(row, axes);
        return t;
    }

private:
    void aim(const Row& row, const AimedRow& first, const std::vector<Vec3>& feeds, std::vector<Vec3>& axes, RowTold& t) const {
        const AimedRow last = m_last.on(row);
        const double share = m_high > m_low ? (row.level - m_low) / (m_high - m_low) : 0.0, level = m_upward ? share : 1.0 - share;
        axes.resize(row.points.size());
        for (std::size_t i = 0; i < axes.size(); ++i) {
            auto axis = m_first.at(first, i, feeds[i]);
            if (m_spec.blended && axis) {
                const auto other = m_last.at(last, i, feeds[i]);
                axis = other ? std::optional<Vec3>(slerp(*axis, *other, level)) : std::nullopt;
            }
            if (!axis) t.lost = true;
            axes[i] = axis.value_or(i > 0 ? axes[i - 1] : Vec3(Vec3::UnitZ()));
            if (!m_spec.keys.empty()) addKeys(row, first, feeds, level, i, axes);
            if (m_spec.offFaces > 0.0) axes[i] = keptOffFace(axes[i], row.normals[i], radians(m_spec.offFaces));
            if (m_help.besideOthers) axes[i] = m_help.besideOthers(row.points[i], axes[i]);
        }
    }
    void addKeys(const Row& row, const AimedRow& first, const std::vector<Vec3>& feeds, double level, std::size_t i, std::vector<Vec3>& axes) const {
        const double along = first.whole > 0.0 ? first.along[i] / first.whole : 0.0;
        const double at = row.begins + (row.ends - row.begins) * (row.returning ? 1.0 - along : along);
        const LeadTilt more = keyed(m_spec.keys, at, level, row.index, row.closed);
        const LeadTilt own = leadTiltOf(axes[i], row.normals[i], feeds[i]);
        const double lead = row.returning && m_spec.leadByPattern ? -more.lead : more.lead;
        axes[i] = axisFromLeadTilt(row.normals[i], feeds[i], own.lead + lead, own.tilt + (row.returning ? -more.tilt : more.tilt));
    }
    /// How far something that is done to the axes moves them at most.
    template <class Do> static void moving(const std::vector<Vec3>& axes, Most& most, const Do& what) {
        const std::vector<Vec3> before = axes;
        what();
        for (std::size_t i = 0; i < axes.size(); ++i) most.meet(angleBetween(before[i], axes[i]), i);
    }
    void limit(const Row& row, std::vector<Vec3>& axes, RowTold& t) const {
        const Vec3 z = Vec3::UnitZ();
        const double lowest = m_spec.limited ? radians(m_spec.lowDegrees) : 0.0, highest = m_spec.limited ? radians(m_spec.highDegrees) : kPi;
        for (std::size_t i = 0; i < axes.size(); ++i) {
            Vec3 kept = axes[i];
            if (m_help.locked)
                kept = m_help.locked(kept, lowest, highest);
            else if (m_spec.limited)
                kept = limitedAxis(kept, z, lowest, highest, row.normals[i]);
            const double angle = angleBetween(kept, z);
            t.outside.meet(std::max(lowest - angle, angle - highest), i);
            t.moved.meet(angleBetween(kept, axes[i]), i);
            axes[i] = kept;
        }
    }

    const std::vector<Row>& m_rows;
    const AxisSpec& m_spec;
    const AxisHelp& m_help;
    const Aimer m_first, m_last;
    double m_low = 1.0, m_high = 0.0;
    bool m_upward = true;
};

} // namespace

Result<AxisResult> setAxes(const std::vector<Row>& rows, const AxisSpec& spec, const Cutter& cutter, const AxisHelp& help) {
    if (spec.limited && !(spec.lowDegrees <= spec.highDegrees)) return fail("the smallest angle is larger than the largest", "Axis", "Swap the two angles");
    const AxisSetter setter(rows, spec, cutter, help);
    if (const auto wrong = setter.trouble()) return tl::unexpected(*wrong);
    if (!spec.locked.empty() && !help.locked)
        return fail(fmt::format("the machine has no rotary joint '{}' that could be locked", spec.locked), "Axis", "Choose one of its rotary joints");
    AxisResult out;
    out.axes.resize(rows.size());
    out.feeds.resize(rows.size());
    std::vector<RowTold> told(rows.size());
    parallelFor(rows.size(), 1, [&](std::size_t r) { told[r] = setter.set(r, out); });
    tellOfAxes(rows, spec, told, out);
    return out;
}

} // namespace gyre
