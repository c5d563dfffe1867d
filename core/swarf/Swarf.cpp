#include "base/Units.h"
#include "geom/FindingAt.h"
#include "swarf/SwarfSpec.h"
#include "swarf/Swarfer.h"
#include <fmt/format.h>

namespace gyre {

void Swarfer::tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const Vec3& where, double amount, std::vector<Remedy> remedies,
                   const char* stage) {
    m_out.findings.push_back(findingAt(rank, code, stage, text, reason, where, amount, std::move(remedies)));
}

bool Swarfer::inMaterial(const Vec3& p) const {
    const Vec3 way = Vec3(0.31, 0.52, 0.79).normalized();
    const RayHit hit = body().tree().ray(p, way);
    if (!hit.hit) return false;
    const TriangleMesh& m = body().mesh();
    return (m.corner(hit.triangle, 1) - m.corner(hit.triangle, 0)).cross(m.corner(hit.triangle, 2) - m.corner(hit.triangle, 0)).dot(way) > 0.0;
}

// Stretches between inner corners: across one the cutter's neighbours say nothing about a wall.
void Swarfer::stretches() {
    const auto n = static_cast<std::ptrdiff_t>(count());
    const std::ptrdiff_t many = n / 2 - 1;
    m_room.assign(count(), {m_wall.closed ? many : 0, m_wall.closed ? many : 0});
    for (std::ptrdiff_t i = 0; i < n && !m_wall.closed; ++i) m_room[static_cast<std::size_t>(i)] = {i, n - 1 - i};
    for (const auto& c : m_wall.corners) {
        if (c.outer) continue;
        const auto corner = static_cast<std::ptrdiff_t>(c.after);
        for (std::ptrdiff_t k = 0; k <= many; ++k) {
            if (!m_wall.closed && (corner - k < 0 || corner + 1 + k >= n)) continue;
            Room &before = m_room[static_cast<std::size_t>(((corner - k) % n + n) % n)], &behind = m_room[static_cast<std::size_t>((corner + 1 + k) % n)];
            before.ahead = std::min(before.ahead, k);
            behind.back = std::min(behind.back, k);
        }
    }
    double twist = 0.0;
    for (const Ruling& r : m_wall.rulings) twist = std::max(twist, angleBetween(r.lowNormal, r.highNormal));
    m_reach = 0.6 * m_cutter.diameter * std::tan(std::min(twist, 1.2)) + 0.05;
}

Swarfer::Place Swarfer::placeOf(const Track& track, const Level& level, double leave, std::size_t i) const {
    const Ruling& r = m_wall.rulings[i];
    const double length = (r.high - r.low).norm();
    const double v = std::clamp((flankStart(m_cutter) - level.past) / std::max(1e-9, length), 0.0, 1.0);
    const Vec3 normal = slerp(r.lowNormal, r.highNormal, v);
    return {track.poses[i], r.low + v * (r.high - r.low) + leave * normal, normal, i};
}

bool Swarfer::outerCornerAfter(std::size_t i) const {
    return std::any_of(m_wall.corners.begin(), m_wall.corners.end(), [&](const Wall::Corner& c) { return c.after == i && c.outer; });
}

// Out along this wall, round in the free, back in along the next one.
void Swarfer::loopAround(std::vector<Place>& run, const Place& then, const Place& after) const {
    const Place last = run.back(), before = run[run.size() - 2];
    const Vec3 out = (last.pose.tip - before.pose.tip).normalized(), in = (after.pose.tip - then.pose.tip).normalized();
    const double d = 0.75 * m_cutter.diameter;
    const Vec3 p0 = last.pose.tip + d * out, p3 = then.pose.tip - d * in, p1 = p0 + 2.5 * d * out, p2 = p3 - 2.5 * d * in;
    const int steps = 24;
    for (int k = 0; k <= steps; ++k) {
        const double t = static_cast<double>(k) / steps, u = 1.0 - t;
        const Vec3 tip = u * u * u * p0 + 3.0 * u * u * t * p1 + 3.0 * u * t * t * p2 + t * t * t * p3;
        run.push_back({{tip, slerp(last.pose.axis, then.pose.axis, t)}, last.contact, t < 0.5 ? last.normal : then.normal, kFree});
    }
}

// Parted where the cutter stops at a corner, or does not cut. @param whole is it one closed way?
std::vector<std::vector<Swarfer::Place>> Swarfer::runsOf(const Track& track, const Level& level, double leave, bool& whole) const {
    std::vector<std::vector<Place>> runs(1);
    const auto shift = m_wall.closed ? static_cast<std::size_t>(m_spec.entry * static_cast<double>(count())) % count() : 0;
    whole = m_wall.closed;
    for (std::size_t o = 0; o < count(); ++o) {
        const std::size_t i = (o + shift) % count();
        const bool rolled = m_wall.rulings[i].corner;
        if (track.cut[i] != Cut::Not && !(rolled && m_spec.corner != SwarfCorner::Roll)) runs.back().push_back(placeOf(track, level, leave, i));
        if (m_spec.corner == SwarfCorner::Roll || !outerCornerAfter(i)) continue;
        if (m_spec.corner == SwarfCorner::Stop) {
            whole = false;
            if (!runs.back().empty()) runs.emplace_back();
        } else if (runs.back().size() > 1) {
            std::size_t b = i;
            do b = (b + 1) % count();
            while (m_wall.rulings[b].corner && b != i);
            loopAround(runs.back(), placeOf(track, level, leave, b), placeOf(track, level, leave, (b + 1) % count()));
        }
    }
    std::erase_if(runs, [](const auto& run) { return run.size() < 2; });
    return runs;
}

void Swarfer::emit(std::size_t number, const Level& level, double leave, int row, const PassOrigin& from) {
    bool whole = false;
    auto runs = runsOf(m_tracks[number], level, leave, whole);
    if (!m_wall.closed && m_spec.extend > 0.0 && !runs.empty()) {
        Place first = runs.front().front(), last = runs.back().back();
        first.pose.tip -= m_spec.extend * (runs.front()[1].pose.tip - first.pose.tip).normalized();
        last.pose.tip += m_spec.extend * (last.pose.tip - runs.back()[runs.back().size() - 2].pose.tip).normalized();
        first.ruling = last.ruling = kFree;
        runs.front().insert(runs.front().begin(), first);
        runs.back().push_back(last);
    }
    for (auto& run : runs) {
        double right = 0.0;
        for (std::size_t i = 0; i + 1 < run.size(); ++i) right += -run[i].normal.dot((run[i + 1].pose.tip - run[i].pose.tip).cross(run[i].pose.axis));
        if ((right > 0.0) != m_spec.climb) {
            std::reverse(run.begin(), run.end());
            if (whole) std::rotate(run.begin(), run.end() - 1, run.end()); // begins at the same place
        }
        std::vector<AxisPose> poses;
        std::vector<Vec3> contacts, normals;
        Row line;
        Emitted emitted{number, {}};
        int face = -1;
        for (const Place& p : run) {
            emitted.rulings.push_back(p.ruling);
            if (p.ruling != kFree && face < 0) face = m_wall.rulings[p.ruling].face;
            poses.push_back(p.pose);
            contacts.push_back(p.contact);
            normals.push_back(p.normal);
        }
        line.points = contacts;
        line.normals = normals;
        line.faces.assign(contacts.size(), -1);
        line.closed = whole;
        line.index = row;
        m_out.rows.push_back(std::move(line));
        m_out.passes.push_back(passAlong(poses, contacts, normals, whole, static_cast<int>(m_out.passes.size()), face));
        m_out.passes.back().origin = from;
        if (whole) emitted.rulings.push_back(emitted.rulings.front());
        m_emitted.push_back(std::move(emitted));
    }
}

// How tight the wall bends inward along it, at either rail.
void Swarfer::hollows() {
    m_hollow.assign(count(), 1e300);
    const auto n = static_cast<std::ptrdiff_t>(count());
    for (std::ptrdiff_t i = 0; i + (m_wall.closed ? 0 : 1) < n; ++i) {
        const Ruling &a = m_wall.rulings[wrapped(i)], &b = m_wall.rulings[wrapped(i + 1)];
        for (const auto& [step, bend] : {std::pair<Vec3, Vec3>{b.low - a.low, b.lowNormal - a.lowNormal}, {b.high - a.high, b.highNormal - a.highNormal}})
            if (step.norm() > 1e-6 && bend.norm() > 1e-4 && bend.dot(step) < 0.0)
                for (const std::size_t k : {wrapped(i), wrapped(i + 1)}) m_hollow[k] = std::min(m_hollow[k], step.norm() / bend.norm());
    }
    for (const double r : m_hollow) m_tightest = std::min(m_tightest, r);
}

Status Swarfer::takeWall() {
    const double widest = m_cutter.shape == CutterShape::Barrel ? 0.5 * m_cutter.diameter : flankRadius(m_cutter, cuttingLength(m_cutter));
    const double radius = widest + std::abs(m_leave) + m_spec.thickness;
    auto wall = m_spec.fromRails ? wallOfRails(m_in.lower, m_in.upper, m_spec.sync, m_fineness.chord, m_fineness.longest, radius, &body())
                                 : wallOfFaces(*m_in.part, m_in.faces, m_fineness.chord, m_fineness.longest, radius);
    if (!wall) return tl::unexpected(wall.error());
    m_wall = std::move(*wall);
    if (count() < 2) return fail("the wall has no length");
    const Vec3 middle = 0.5 * (m_wall.rulings[count() / 2].low + m_wall.rulings[count() / 2].high);
    // Which side is free? Of faces the outside; between rails where no material is.
    std::size_t inside = 0, outside = 0, asked = 0;
    for (std::size_t i = 0; i < count(); i += std::max<std::size_t>(1, count() / 40)) {
        const Ruling& r = m_wall.rulings[i];
        const Vec3 p = 0.5 * (r.low + r.high), n = (r.lowNormal + r.highNormal).normalized();
        const double step = std::min(0.5, 0.1 * m_cutter.diameter);
        ++asked;
        inside += inMaterial(p + step * n) ? 1 : 0;
        outside += inMaterial(p - step * n) ? 1 : 0;
    }
    const bool turned = m_spec.fromRails && inside > outside;
    if (turned != (m_spec.fromRails && m_spec.otherSide))
        for (Ruling& r : m_wall.rulings) {
            r.lowNormal = -r.lowNormal;
            r.highNormal = -r.highNormal;
        }
    if (m_spec.fromRails && m_spec.otherSide && std::max(inside, outside) * 2 > asked)
        tell(Rank::Stop, "wall-side", "the tool would stand in the part", "it is on the wrong side of the rails: that side is material", middle, 0.0,
             {{"Take the other side", "swarf.otherSide", "false"}}, "Target");
    if (m_spec.fromRails) {
        roundCorners(m_wall, radius, m_fineness.chord);
        layOnPart(m_wall, body());
    }
    if (m_spec.flipped) {
        for (Ruling& r : m_wall.rulings) {
            std::swap(r.low, r.high);
            std::swap(r.lowNormal, r.highNormal);
        }
        for (auto& bow : m_wall.bow) std::reverse(bow.begin(), bow.end());
    }
    if (!m_spec.fromRails && m_wall.bulge > std::max(0.2, 10.0 * m_spec.tolerance))
        return fail(fmt::format("a picked face is no wall of straight lines: they bend by up to {:.3f} mm", m_wall.bulge), {},
                    "Use surface rows there, or pick a lower and an upper rail");
    if (m_wall.bulge > m_spec.tolerance)
        tell(Rank::Look, "wall-not-straight", fmt::format("the wall leaves its straight lines by up to {:.3f} mm", m_wall.bulge),
             "the cutter's side is straight: what that leaves is part of the deviation shown", middle, m_wall.bulge, {}, "Target");
    stretches();
    hollows();
    for (std::size_t i = 0; i < count(); ++i) {
        m_tallest = std::max(m_tallest, (m_wall.rulings[i].high - m_wall.rulings[i].low).norm());
        if (i > 0) m_around += (m_wall.rulings[i].low - m_wall.rulings[i - 1].low).norm();
    }
    return {};
}

Status Swarfer::layPasses() {
    const double whole = m_tallest + m_spec.past;
    const auto depths = m_spec.stepdown > 0.0 ? std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(whole / m_spec.stepdown - 1e-6))) : 1;
    const auto layers = m_spec.thickness > 0.0 ? std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(m_spec.thickness / m_spec.stepover - 1e-6))) : 1;
    if (depths * layers > 2000) return fail(fmt::format("{} passes would be needed", depths * layers), {}, "Use larger steps");
    const double flutes = cuttingLength(m_cutter), needed = depths > 1 ? whole / static_cast<double>(depths) : whole;
    if (needed > flutes + 1e-6)
        tell(Rank::Look, "flutes-short", fmt::format("the flutes are {:.1f} mm long, the wall takes {:.1f} at once", flutes, needed), "above them the wall is not cut",
             0.5 * (m_wall.rulings[count() / 2].low + m_wall.rulings[count() / 2].high), needed - flutes,
             {{fmt::format("In depths of {:g} mm", std::floor(0.9 * flutes)), "swarf.stepdown", fmt::format("{:g}", std::floor(0.9 * flutes))}});
    std::vector<Level> levels;
    for (std::size_t d = 0; d < depths; ++d) {
        const double lift = whole * static_cast<double>(depths - 1 - d) / static_cast<double>(depths);
        levels.push_back({m_spec.past - lift, depths > 1 ? flankStart(m_cutter) + 1.3 * whole / static_cast<double>(depths) : 1e9});
    }
    m_depths = depths;
    int row = 0;
    const std::size_t total = depths * layers;
    // A cylinder's depths are one place moved along its axis: it is laid on the wall once for every thickness, at the lowest depth.
    const bool straight = m_cutter.shape != CutterShape::Barrel && flankAngle(m_cutter) == 0.0;
    std::vector<std::optional<Track>> lowest(layers);
    const auto pass = [&](std::size_t layer, std::size_t depth) -> Status {
        const double more = m_spec.thickness * static_cast<double>(layers - 1 - layer) / static_cast<double>(layers);
        m_progress.report(static_cast<double>(row) / static_cast<double>(total), "Laying the cutter on the wall");
        const Level& level = levels[straight ? depths - 1 : depth];
        if (!straight || !lowest[layer]) {
            auto track = trackAt({level.past, straight ? 1e9 : level.reach}, m_leave + more);
            if (!track) return tl::unexpected(track.error());
            lowest[layer] = std::move(*track);
        }
        m_tracks.push_back(*lowest[layer]);
        for (AxisPose& p : m_tracks.back().poses) p.tip += (level.past - levels[depth].past) * p.axis;
        PassOrigin from;
        if (depths > 1) from.level = static_cast<int>(depth);
        if (layers > 1) from.layer = static_cast<int>(layer);
        if (depths == 1 && layers == 1) from.row = row;
        emit(m_tracks.size() - 1, levels[depth], m_leave + more, row++, from);
        return {};
    };
    for (std::size_t outer = 0; outer < (m_spec.depthsFirst ? layers : depths); ++outer)
        for (std::size_t inner = 0; inner < (m_spec.depthsFirst ? depths : layers); ++inner)
            if (auto ok = m_spec.depthsFirst ? pass(outer, inner) : pass(inner, outer); !ok) return ok;
    return {};
}

Result<AlongResult> Swarfer::run() {
    switch (m_cutter.shape) {
    case CutterShape::Flat:
    case CutterShape::CornerRadius:
    case CutterShape::Ball:
    case CutterShape::Tapered:
    case CutterShape::TaperedBall:
    case CutterShape::Barrel:
        break;
    default:
        return fail(fmt::format("a {} has no long side to follow a wall with", cutterShapeName(m_cutter.shape)), {},
                    "Choose a flat, ball, corner radius, tapered or barrel cutter");
    }
    if (auto ok = takeWall(); !ok) return tl::unexpected(ok.error());
    if (auto ok = layPasses(); !ok) return tl::unexpected(ok.error());
    if (m_in.settle && !m_in.settle(m_out, m_progress)) return cancelledError();
    mapDeviation();
    if (m_progress.cancelled()) return cancelledError();
    measurePasses(m_out);
    m_out.what = fmt::format("{} · {:.3f} m along · up to {:.2f} mm high", m_wall.closed ? "closed wall" : "wall", m_around / 1000.0, m_tallest);
    if (m_wall.loose > 0.005) m_out.what += fmt::format(" · {:.0f} % of it over no part", 100.0 * m_wall.loose);
    m_out.how = fmt::format("{} {} · {:.2f} m · {:.3f} too much, {:.3f} stays", m_out.passes.size(), m_out.passes.size() == 1 ? "pass" : "passes", m_out.length / 1000.0,
                            m_out.over, m_out.under);
    if (m_left > m_spec.tolerance) m_out.how += fmt::format(" · up to {:.2f} in corners and at the foot", m_left);
    return std::move(m_out);
}

Result<AlongResult> swarf(const SwarfInput& input, const SwarfSpec& spec, const Assembly& tool, double leave, const Fineness& fineness, Progress& progress) {
    return Swarfer(input, spec, tool, leave, fineness, progress).run();
}

} // namespace gyre
