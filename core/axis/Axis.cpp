#include "axis/Axis.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include <fmt/format.h>

namespace gyre {

Vec3 axisFromLeadTilt(const Vec3& n, const Vec3& f, double lead, double tilt) {
    return std::cos(tilt) * (std::cos(lead) * n + std::sin(lead) * f) + std::sin(tilt) * n.cross(f);
}

LeadTilt leadTiltOf(const Vec3& axis, const Vec3& n, const Vec3& f) {
    const double side = std::clamp(axis.dot(n.cross(f)), -1.0, 1.0);
    const double up = axis.dot(n), ahead = axis.dot(f);
    return {std::hypot(up, ahead) < 1e-12 ? 0.0 : std::atan2(ahead, up), std::asin(side)};
}

Vec3 limitedAxis(const Vec3& axis, const Vec3& z, double low, double high, const Vec3& hint) {
    const double angle = angleBetween(axis, z);
    if (angle >= low && angle <= high) return axis;
    Vec3 side = rejected(axis, z);
    if (side.norm() < 1e-9) side = rejected(hint, z);
    if (side.norm() < 1e-9) side = anyPerpendicular(z);
    const double wanted = std::clamp(angle, low, high);
    return std::cos(wanted) * z + std::sin(wanted) * side.normalized();
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

Result<AxisResult> setAxes(const std::vector<Row>& rows, const AxisSpec& spec, const Cutter& cutter, const std::optional<AxisLine>& rotary) {
    if (spec.rule == AxisRule::TowardRotary && !rotary)
        return fail("the machine has no rotary axis that the tool could point at", "Axis", "Choose a machine with a rotary axis, or another rule");
    if (spec.rule == AxisRule::Fixed && !(spec.direction.norm() > 1e-9)) return fail("the fixed direction has no length", "Axis", "Give a direction such as 0 0 1");
    if (spec.limited && !(spec.lowDegrees <= spec.highDegrees)) return fail("the smallest angle is larger than the largest", "Axis", "Swap the two angles");
    AxisResult out;
    out.axes.resize(rows.size());
    out.feeds.resize(rows.size());
    const Vec3 z = Vec3::UnitZ();
    const double lead = radians(spec.leadDegrees), tilt = radians(spec.tiltDegrees);
    std::vector<double> moved(rows.size(), 0.0), steepest(rows.size(), 0.0);
    std::vector<std::size_t> movedAt(rows.size(), 0), steepAt(rows.size(), 0);
    std::vector<char> onLine(rows.size(), 0);
    parallelFor(rows.size(), 1, [&](std::size_t r) {
        const Row& row = rows[r];
        const std::size_t n = row.points.size();
        auto& feeds = out.feeds[r] = feedDirections(row);
        auto& axes = out.axes[r];
        axes.resize(n);
        for (std::size_t i = 0; i < n; ++i) switch (spec.rule) {
            case AxisRule::Surface:
                axes[i] = axisFromLeadTilt(row.normals[i], feeds[i], lead, row.returning ? -tilt : tilt);
                break;
            case AxisRule::Fixed:
                axes[i] = spec.direction.normalized();
                break;
            case AxisRule::TowardRotary: {
                const auto a = axisTowardLine(cutter, row.points[i], row.normals[i], *rotary);
                if (!a) onLine[r] = 1;
                axes[i] = a.value_or(i > 0 ? axes[i - 1] : z);
            }
            }
        if (spec.smoothing > 0.0 && spec.rule == AxisRule::Surface) smoothAlong(row, axes, 0.5 * spec.smoothing);
        if (spec.limited)
            for (std::size_t i = 0; i < n; ++i) {
                const Vec3 kept = limitedAxis(axes[i], z, radians(spec.lowDegrees), radians(spec.highDegrees), row.normals[i]);
                const double by = angleBetween(kept, axes[i]);
                if (by > moved[r]) {
                    moved[r] = by;
                    movedAt[r] = i;
                }
                axes[i] = kept;
            }
        for (std::size_t i = 1; i < n; ++i) {
            const double d = (row.points[i] - row.points[i - 1]).norm();
            if (d < 1e-9) continue;
            const double rate = degrees(angleBetween(axes[i], axes[i - 1])) / d;
            if (rate > steepest[r]) {
                steepest[r] = rate;
                steepAt[r] = i;
            }
        }
    });
    std::size_t worst = 0, furthest = 0;
    for (std::size_t r = 0; r < rows.size(); ++r) {
        if (steepest[r] > steepest[worst]) worst = r;
        if (moved[r] > moved[furthest]) furthest = r;
    }
    const auto placed = [&](Finding f, std::size_t r, std::size_t i) {
        f.stage = "Axis";
        f.row = rows[r].index;
        const Vec3& p = rows[r].points[i];
        f.place = {p.x(), p.y(), p.z()};
        out.findings.push_back(std::move(f));
    };
    if (!rows.empty()) {
        out.steepest = steepest[worst];
        out.steepestRow = rows[worst].index;
        out.mostLimited = moved[furthest];
        if (spec.steepest > 0.0 && out.steepest > spec.steepest) {
            Finding f;
            f.rank = Rank::Look;
            f.code = "axis-steep";
            f.amount = out.steepest;
            f.text = fmt::format("The axis turns by {:.2f}°/mm in row {}, more than {:.2f}", out.steepest, rows[worst].index + 1, spec.steepest);
            f.reason = "the surface bends faster than the axis may turn";
            f.remedies = {
                {fmt::format("Even it out over {:g} mm", std::max(2.0, 2.0 * spec.smoothing)), "axis.smoothing", fmt::format("{}", std::max(2.0, 2.0 * spec.smoothing))}};
            placed(std::move(f), worst, steepAt[worst]);
        }
        if (out.mostLimited > 1e-6) {
            Finding f;
            f.rank = Rank::Note;
            f.code = "axis-limited";
            f.amount = degrees(out.mostLimited);
            f.text = fmt::format("The angle window moved the axis by up to {:.1f}° (row {})", degrees(out.mostLimited), rows[furthest].index + 1);
            f.reason = fmt::format("lead and tilt would have left {:g}° … {:g}°", spec.lowDegrees, spec.highDegrees);
            placed(std::move(f), furthest, movedAt[furthest]);
        }
    }
    for (std::size_t r = 0; r < rows.size(); ++r)
        if (onLine[r]) {
            Finding f;
            f.rank = Rank::Stop;
            f.code = "axis-on-rotary";
            f.text = fmt::format("No direction toward the rotary axis exists at row {}", rows[r].index + 1);
            f.reason = "the row touches the rotary axis itself, or a flat bottom would have to touch inside its rim";
            placed(std::move(f), r, 0);
            break;
        }
    return out;
}

} // namespace gyre
