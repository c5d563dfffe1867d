#include "guard/Sky.h"
#include "base/Parallel.h"
#include "guard/GuardSpec.h"
#include "path/LeadTilt.h"

namespace gyre {

// Evenly by angle from the middle: a degree is as long everywhere outward.
Vec2 SkyMap::placeOf(const Vec3& axis) const {
    const Vec3 right = feed.cross(normal);
    const double angle = angleBetween(axis, normal) / (0.5 * kPi), x = axis.dot(right), y = axis.dot(feed), flat = std::hypot(x, y);
    return flat > 1e-12 ? Vec2(angle * x / flat, angle * y / flat) : Vec2(0.0, 0.0);
}

Vec3 SkyMap::axisAt(const Vec2& place) const {
    const double out = place.norm(), angle = std::min(out, 1.0) * 0.5 * kPi;
    if (out < 1e-12) return normal;
    const Vec3 side = (place.x() * feed.cross(normal) + place.y() * feed) / out;
    return std::cos(angle) * normal + std::sin(angle) * side;
}

std::optional<Vec3> SkyMap::axisOf(int column, int row) const {
    const Vec2 place((2.0 * column + 1.0) / across - 1.0, (2.0 * row + 1.0) / across - 1.0);
    if (place.norm() > 1.0) return std::nullopt;
    return axisAt(place);
}

const SkyMap::Cell& SkyMap::cellAt(const Vec2& place) const {
    const auto index = [&](double v) { return std::clamp(static_cast<int>(std::floor(0.5 * (v + 1.0) * across)), 0, across - 1); };
    return cells[static_cast<std::size_t>(index(place.y()) * across + index(place.x()))];
}

std::size_t SkyMap::count(Kind kind) const {
    return static_cast<std::size_t>(std::count_if(cells.begin(), cells.end(), [&](const Cell& c) { return c.kind == kind; }));
}

SkyMap::Cell skyCell(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at, const Vec3& axis, bool rooms, HitHints& hints) {
    SkyMap::Cell c;
    if (freedom.reached && !freedom.reached(axis)) {
        c.kind = SkyMap::Kind::Reach;
        return c;
    }
    const AxisPose pose = freedom.turned(pass, at, axis);
    if (const auto hit = guard.hit(pose, Contact::Cutting, 0.0, hints)) {
        c.kind = SkyMap::Kind::Blocked;
        c.zone = hit->zone;
        c.obstacle = static_cast<std::int16_t>(hit->obstacle);
        return c;
    }
    const double high = angleBetween(axis, Vec3::UnitZ());
    c.kind = high < freedom.low - 1e-9 || high > freedom.high + 1e-9 ? SkyMap::Kind::Outside : SkyMap::Kind::Safe;
    c.room = SkyMap::kMostRoom;
    if (c.kind != SkyMap::Kind::Safe || !rooms) return c;
    const GuardSpec& spec = guard.spec();
    const ZoneClearance z = guard.clearance(pose, double{SkyMap::kMostRoom} + std::max(spec.shankClearance, spec.holderClearance));
    c.room = static_cast<float>(std::clamp(std::min(z.shank - spec.shankClearance, z.holder - spec.holderClearance), 0.0, double{SkyMap::kMostRoom}));
    return c;
}

SkyMap skyMap(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at, double cell, bool rooms) {
    SkyMap map;
    if (!freedom.turned || pass.path.normal[at].squaredNorm() < 0.5) return map;
    map.across = std::max(3, static_cast<int>(std::ceil(180.0 / cell)));
    map.normal = pass.path.normal[at];
    map.feed = pass.feedDirection[at];
    map.cells.resize(static_cast<std::size_t>(map.across * map.across));
    parallelFor(static_cast<std::size_t>(map.across), 1, [&](std::size_t row) {
        HitHints hints = guard.hints();
        for (int column = 0; column < map.across; ++column)
            if (const auto axis = map.axisOf(column, static_cast<int>(row)))
                map.cells[row * static_cast<std::size_t>(map.across) + static_cast<std::size_t>(column)] = skyCell(guard, freedom, pass, at, *axis, rooms, hints);
    });
    return map;
}

} // namespace gyre
