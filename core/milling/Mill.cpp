#include "milling/Mill.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "milling/Miller.h"
#include <fmt/format.h>

namespace gyre {

const char* millShapeName(MillShape s) {
    static constexpr const char* kNames[] = {"face", "pocket", "outline", "bore", "follow", "round", "rough", "body"};
    return kNames[static_cast<int>(s)];
}

double roundScallop(double radius, double stepAngle) { return radius * (1.0 / std::cos(0.5 * stepAngle) - 1.0); }
double roundStep(double radius, double scallop) { return 2.0 * std::acos(radius / (radius + scallop)); }

std::vector<double> levelsOf(double top, double bottom, double stepdown) {
    const double deep = top - bottom;
    const int n = stepdown > 0.0 && deep > 0.0 ? std::clamp(static_cast<int>(std::ceil(deep / stepdown - 1e-9)), 1, 10000) : 1;
    std::vector<double> out;
    for (int i = 1; i <= n; ++i) out.push_back(i == n ? bottom : top - deep * i / n);
    return out;
}

Status Miller::run() {
    const CutterShape shape = m_tool.cutter.shape;
    const bool plain = shape == CutterShape::Flat || shape == CutterShape::Ball || shape == CutterShape::CornerRadius;
    if (shape == CutterShape::Drill) return fail("a drill does not cut sideways", {}, "Choose a milling cutter");
    if (m_spec.shape == MillShape::Round ? shape == CutterShape::Spot || shape == CutterShape::Chamfer : m_spec.shape != MillShape::Follow && !plain)
        return fail("this cutter has no upright flank and level end to mill this with", {}, "Choose a flat, ball or corner-radius cutter");
    if (m_spec.shape == MillShape::Bore) return bores();
    auto sheet = sheetOf(m_in, m_spec);
    if (!sheet) return tl::unexpected(sheet.error());
    m_sheet = *sheet;
    m_out.sheet = m_sheet;
    if (!(m_spec.stepover > 0.0)) return fail("the step between passes must be above 0", {}, "Type a step");
    Status ok;
    switch (m_spec.shape) {
    case MillShape::Face:
    case MillShape::Pocket:
        ok = area();
        break;
    case MillShape::Outline:
        ok = outline();
        break;
    case MillShape::Follow:
        ok = follow();
        break;
    case MillShape::Round:
        ok = roundPart();
        break;
    case MillShape::Rough:
        ok = rough();
        break;
    case MillShape::Body:
        ok = wholeBody();
        break;
    case MillShape::Bore:
        break;
    }
    if (!ok) return ok;
    finish();
    return {};
}

void Miller::tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const std::optional<Vec3>& at, double amount) {
    Finding f;
    f.rank = rank;
    f.check = Check::Path;
    f.code = code;
    f.stage = "Pattern";
    f.text = text;
    f.reason = reason;
    f.amount = amount;
    if (at) f.place = {at->x(), at->y(), at->z()};
    m_out.findings.push_back(f);
}

double Miller::topOver(const Region& area, double wallTop) const {
    if (m_spec.topBy == MillTop::Typed) return m_spec.top;
    double top = wallTop;
    if (m_spec.topBy == MillTop::Stock)
        for (const MeshTree* stock : m_in.stock)
            for (const auto& t : stock->triangles())
                for (const Vec3& p : t) {
                    const Vec3 q = m_sheet.flat(p);
                    if (m_sheet.wrapped || area.contains(q.head<2>())) top = std::max(top, q.z());
                }
    // Large faces of stock have corners outside of the area: look straight up as well.
    if (m_spec.topBy == MillTop::Stock && !m_sheet.wrapped)
        for (const Loop& l : area.loops)
            for (const Vec2& p : l)
                for (const MeshTree* stock : m_in.stock) {
                    const RayHit hit = stock->ray(m_sheet.point({p.x(), p.y(), 1e4}), -m_sheet.up({p.x(), p.y(), 0.0}));
                    if (hit.hit) top = std::max(top, 1e4 - hit.distance);
                }
    return top;
}

double Miller::floorAt(const Vec2& at, const Vec2& shift) const {
    if (m_spec.depthBy == MillDepth::Profile) return profileAt(at.x()) + m_spec.leaveFloor;
    if (m_spec.depthBy != MillDepth::Model) return m_bottom;
    const double high = m_top + kOver;
    const AxisPose pose = m_sheet.pose({at.x(), at.y(), high}, shift);
    const double keep = m_spec.shape == MillShape::Round ? m_leave : m_spec.leaveFloor;
    // Along a wall the cutter touches it all the way down: what grazes by less than the tolerance does not stop it.
    Cutter slim = m_tool.cutter;
    if (m_spec.shape == MillShape::Outline) slim.diameter -= 4.0 * kRegionTolerance + 0.4 * m_chord;
    double down = dropOnto(*m_in.model, slim, pose, high - m_bottom, keep);
    if (m_in.body && down < high - m_bottom) down -= liftOntoFaces(*m_in.body, m_tool.cutter, {pose.tip - down * pose.axis, pose.axis}, keep);
    if (!m_caps.empty()) down = std::min(down, dropOnto(m_caps, m_tool.cutter, pose, down, keep));
    return std::max(m_bottom, high - (m_bosses.empty() ? down : std::min(down, dropOnto(m_bosses, m_tool.cutter, pose, down, m_spec.bossClearance))));
}

double Miller::profileAt(double x) const {
    const auto above = std::upper_bound(m_profile.begin(), m_profile.end(), x, [](double v, const Vec2& p) { return v < p.x(); });
    if (above == m_profile.begin()) return m_profile.front().y();
    if (above == m_profile.end()) return m_profile.back().y();
    const Vec2 &a = *(above - 1), &b = *above;
    return b.x() - a.x() < 1e-12 ? std::max(a.y(), b.y()) : a.y() + (b.y() - a.y()) * (x - a.x()) / (b.x() - a.x());
}

Status Miller::setDepth(double top, double geometry) {
    m_top = top;
    switch (m_spec.depthBy) {
    case MillDepth::Geometry:
        m_bottom = geometry + m_spec.leaveFloor;
        break;
    case MillDepth::Typed:
        m_bottom = -m_spec.depth + m_spec.leaveFloor;
        break;
    case MillDepth::Model:
        if (!m_in.model || m_in.model->empty()) return fail("there is no model to measure the depth from");
        m_bottom = m_sheet.wrapped ? std::max(-m_sheet.radius + 0.05, -m_spec.depth) : -m_spec.depth;
        break;
    case MillDepth::Profile:
        for (int e : m_in.profile)
            for (const Vec3& p : m_in.part->edgeLine(e)) m_profile.push_back(Vec2(m_sheet.flat(p).x(), m_sheet.flat(p).z()));
        std::sort(m_profile.begin(), m_profile.end(), [](const Vec2& a, const Vec2& b) { return a.x() < b.x(); });
        if (m_profile.size() < 2) return fail("no edge is picked that tells the depth along the axis", {}, "Pick the profile");
        m_bottom = std::min_element(m_profile.begin(), m_profile.end(), [](const Vec2& a, const Vec2& b) { return a.y() < b.y(); })->y() + m_spec.leaveFloor;
        break;
    }
    if (m_sheet.wrapped && m_sheet.radius + m_bottom < 0.05)
        return fail(fmt::format("the depth reaches the axis: at radius {:.3f} nothing can be wrapped", m_sheet.radius + m_bottom), {}, "Cut less deep");
    if (m_bottom >= m_top + 1e-9) {
        m_top = m_bottom; // nothing stands over the floor: one pass at its height
    }
    m_out.top = m_top;
    m_out.bottom = m_bottom;
    return {};
}

void Miller::add(FlatPass& pass, const Vec2& at, double height, Motion motion, const Vec2& shift, const Vec2& wall) {
    FlatPoint p;
    p.at = {at.x(), at.y(), height};
    p.motion = motion;
    p.shift = shift;
    p.wall = wall;
    if (!pass.points.empty() && (pass.points.back().at - p.at).norm() < 1e-7 && (pass.points.back().shift - shift).norm() < 1e-7) return;
    pass.points.push_back(p);
}

void Miller::rampAlong(FlatPass& pass, const Line& line, double from, double height) {
    const double slope = std::tan(radians(std::clamp(m_spec.rampDegrees, 0.1, 89.0)));
    const bool plunges = m_spec.entry == MillEntry::Plunge || lengthOf(line) < 0.05 * m_radius;
    if (plunges) {
        add(pass, line.front(), from, Motion::LeadIn);
        add(pass, line.front(), height, Motion::LeadIn);
        return;
    }
    double z = from;
    std::size_t i = 0;
    int way = 1;
    add(pass, line[0], z, Motion::LeadIn);
    for (int guard = 0; guard < 100000; ++guard) {
        const std::size_t next = way > 0 ? i + 1 : i - 1;
        const double step = (line[next] - line[i]).norm();
        if (z > height) {
            const double fall = step * slope;
            if (z - fall < height && fall > 0.0) {
                const double t = (z - height) / fall;
                add(pass, line[i] + t * (line[next] - line[i]), height, Motion::LeadIn);
            }
            z = std::max(height, z - fall);
        }
        i = next;
        add(pass, line[i], z, Motion::LeadIn);
        if (z <= height && i == 0) return;
        if (z <= height && way > 0)
            way = -1; // back to the start, cutting what the slope left
        else if (i + 1 == line.size() || i == 0)
            way = -way;
    }
}

void Miller::helixDown(FlatPass& pass, const Vec2& middle, double radius, double from, double height) {
    const double slope = std::tan(radians(std::clamp(m_spec.rampDegrees, 0.1, 89.0)));
    const double turns = std::max(1.0, std::ceil((from - height) / std::max(1e-9, 2.0 * kPi * radius * slope)));
    const int perTurn = std::max(16, static_cast<int>(std::ceil(2.0 * kPi / (2.0 * std::acos(1.0 - std::min(0.5, m_chord / radius))))));
    const int n = static_cast<int>(turns) * perTurn;
    const double hand = m_spec.climb ? 1.0 : -1.0;
    for (int i = 0; i <= n + perTurn; ++i) {
        const double a = hand * 2.0 * kPi * i / perTurn;
        add(pass, middle + radius * Vec2(std::cos(a), std::sin(a)), std::max(height, from - (from - height) * i / n), i <= n ? Motion::LeadIn : Motion::Cut);
    }
}

FlatPass Miller::passOf(const ClearingWay& way, double from, double height, int level) {
    FlatPass pass;
    pass.level = level;
    switch (way.entry) {
    case ClearingWay::Entry::Air:
        break;
    case ClearingWay::Entry::Helix:
        if (m_spec.entry == MillEntry::Helix)
            helixDown(pass, way.helixAt, way.helixRadius, from + kOver, height);
        else if (m_spec.entry == MillEntry::Ramp) {
            // Across the middle and back.
            const Vec2 side = way.helixRadius * Vec2::UnitX();
            rampAlong(pass, {way.helixAt - side, way.helixAt + side}, from + kOver, height);
        } else {
            rampAlong(pass, {way.helixAt}, from + kOver, height);
        }
        break;
    case ClearingWay::Entry::Ring:
        if (way.ringEnd > 1)
            ringDown(pass, Line(way.points.begin(), way.points.begin() + static_cast<std::ptrdiff_t>(way.ringEnd)), from + kOver, height);
        else
            rampAlong(pass, Line(way.points.begin(), way.points.begin() + std::min<std::ptrdiff_t>(2, static_cast<std::ptrdiff_t>(way.points.size()))), from + kOver,
                      height);
        break;
    }
    for (std::size_t i = 0; i < way.points.size(); ++i)
        add(pass, way.points[i], height, way.entry == ClearingWay::Entry::Air && i < way.lead + 1 ? Motion::LeadIn : Motion::Cut);
    return pass;
}

void Miller::ringDown(FlatPass& pass, const Line& ring, double from, double height) {
    const double around = lengthOf(ring) + (ring.front() - ring.back()).norm();
    if (m_spec.entry == MillEntry::Plunge || around < 0.1 * m_radius) return rampAlong(pass, {ring.front()}, from, height);
    const double turns = std::max(1.0, std::ceil((from - height) / (around * std::tan(radians(std::clamp(m_spec.rampDegrees, 0.1, 89.0))))));
    double gone = 0.0;
    for (int turn = 0; turn < static_cast<int>(turns); ++turn)
        for (std::size_t i = 0; i < ring.size(); ++i) {
            add(pass, ring[i], from - (from - height) * gone / (turns * around), Motion::LeadIn);
            gone += (ring[(i + 1) % ring.size()] - ring[i]).norm();
        }
}

double Miller::longestStep() const {
    double most = levelFloor() ? 1e300 : 0.5;
    if (m_sheet.wrapped) most = std::min(most, 2.0 * m_sheet.radius * std::acos(1.0 - std::min(0.5, m_chord / std::max(0.1, m_sheet.radius + m_top))));
    return most;
}

Line Miller::dense(const Line& line) const {
    const double most = longestStep();
    Line out{line.front()};
    for (std::size_t i = 1; i < line.size(); ++i) {
        const Vec2 d = line[i] - line[i - 1];
        const double counts = levelFloor() ? std::abs(d.y()) : d.norm();
        const int n = std::max(1, static_cast<int>(std::ceil(counts / most)));
        for (int k = 1; k <= n; ++k) out.push_back(line[i - 1] + d * k / n);
    }
    return out;
}

void Miller::finish(std::size_t first) {
    if (!levelFloor()) {
        letDown(first);
    }
    const std::size_t begin = m_spec.shape == MillShape::Bore ? first : 0;
    std::vector<Pass> made(m_out.flat.size() - begin);
    parallelFor(made.size(), 8, [&](std::size_t i) { made[i] = toSpace(m_out.flat[begin + i], static_cast<int>(begin + i)); });
    for (Pass& p : made) {
        for (std::size_t k = 1; k < p.path.size(); ++k) m_out.length += (p.path.tip[k] - p.path.tip[k - 1]).norm();
        m_out.passes.push_back(std::move(p));
    }
}

void Miller::letDown(std::size_t first) {
    std::vector<FlatPass> all;
    const double step = (m_top - m_bottom) / static_cast<double>(std::max<std::size_t>(1, m_out.levels));
    for (std::size_t i = first; i < m_out.flat.size(); ++i) {
        FlatPass dense;
        dense.level = m_out.flat[i].level;
        const auto& points = m_out.flat[i].points;
        const double most = longestStep();
        for (std::size_t k = 0; k < points.size(); ++k) {
            if (k > 0) {
                const FlatPoint &a = points[k - 1], &b = points[k];
                const double way = (b.at - a.at).head<2>().norm() + (b.shift - a.shift).norm();
                const int n = static_cast<int>(std::ceil(way / most));
                for (int j = 1; j < n; ++j) {
                    FlatPoint p = b;
                    const double t = static_cast<double>(j) / n;
                    p.at = a.at + t * (b.at - a.at);
                    p.shift = a.shift + t * (b.shift - a.shift);
                    dense.points.push_back(p);
                }
            }
            dense.points.push_back(points[k]);
        }
        std::vector<double> floor(dense.points.size());
        if (!parallelFor(
                floor.size(), 64, [&](std::size_t k) { floor[k] = floorAt(dense.points[k].at.head<2>(), dense.points[k].shift); }, &m_progress))
            return;
        const double cutBefore = m_top - step * dense.level;
        FlatPass run;
        run.level = dense.level;
        const auto flush = [&] {
            if (run.points.size() > 1) all.push_back(run);
            run.points.clear();
        };
        for (std::size_t k = 0; k < dense.points.size(); ++k) {
            FlatPoint p = dense.points[k];
            const bool needed = dense.level == 0 || floor[k] < cutBefore - 1e-6 || (k > 0 && floor[k - 1] < cutBefore - 1e-6) ||
                                (k + 1 < floor.size() && floor[k + 1] < cutBefore - 1e-6);
            if (!needed) {
                flush();
                continue;
            }
            p.at.z() = std::max(p.at.z(), floor[k]);
            run.points.push_back(p);
        }
        flush();
    }
    m_out.flat.resize(first);
    for (FlatPass& p : all) m_out.flat.push_back(std::move(p));
}

Pass Miller::toSpace(const FlatPass& flat, int number) const {
    Pass pass;
    pass.row = number;
    pass.origin.level = flat.level;
    pass.closed = flat.closed;
    const auto& points = flat.points;
    const double most = m_sheet.wrapped ? longestStep() : 1e300;
    const auto put = [&](const FlatPoint& p) {
        const AxisPose pose = m_sheet.pose(p.at, p.shift);
        const double feed = p.motion == Motion::Rapid                             ? static_cast<double>(kRapidFeed)
                            : p.motion == Motion::Cut || p.motion == Motion::Link ? p.share * m_feed
                                                                                  : 0.5 * m_feed;
        if (p.wall.squaredNorm() > 0.5)
            pass.path.push(pose.tip, pose.axis, pose.tip - m_radius * m_sheet.direction(p.at, p.wall), m_sheet.direction(p.at, p.wall), p.motion, number, feed, -1);
        else
            pass.path.push(pose.tip, pose.axis, p.motion, number, feed);
    };
    for (std::size_t i = 0; i < points.size(); ++i) {
        if (i > 0 && m_sheet.wrapped) {
            const FlatPoint &a = points[i - 1], &b = points[i];
            const int n = static_cast<int>(std::ceil(std::abs(b.at.y() - a.at.y()) / most));
            for (int k = 1; k < n; ++k) {
                FlatPoint p = b;
                const double t = static_cast<double>(k) / n;
                p.at = a.at + t * (b.at - a.at);
                p.shift = a.shift + t * (b.shift - a.shift);
                put(p);
            }
        }
        put(points[i]);
    }
    const std::size_t n = pass.path.size();
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3 d = n < 2       ? Vec3(anyPerpendicular(pass.path.axis[i]))
                       : i + 1 < n ? Vec3(pass.path.tip[i + 1] - pass.path.tip[i])
                                   : Vec3(pass.path.tip[i] - pass.path.tip[i - 1]);
        const Vec3 flatWay = rejected(d, pass.path.axis[i]);
        pass.feedDirection.push_back(flatWay.norm() > 1e-12 ? flatWay.normalized() : anyPerpendicular(pass.path.axis[i]));
    }
    return pass;
}

Result<MillResult> millOn(const MillInput& input, const MillSpec& spec, const Assembly& tool, double leave, double chordTolerance, double feed, Progress& progress) {
    MillResult out;
    if (auto ok = Miller(input, spec, tool, leave, chordTolerance, feed, progress, out).run(); !ok) return tl::unexpected(ok.error());
    if (progress.cancelled()) return cancelledError();
    if (out.passes.empty()) return fail("nothing is left to cut");
    return out;
}

} // namespace gyre
