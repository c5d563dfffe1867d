#include "mill/Mill.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "mill/Picks.h"
#include "mill/Rings.h"
#include "mill/Rough.h"
#include "stock/Stock.h"
#include <fmt/format.h>
#include <functional>
#include <numeric>

namespace gyre {

const char* millShapeName(MillShape s) {
    static constexpr const char* kNames[] = {"face", "pocket", "outline", "bore", "follow", "round", "rough"};
    return kNames[static_cast<int>(s)];
}

double roundScallop(double radius, double stepAngle) { return radius * (1.0 / std::cos(0.5 * stepAngle) - 1.0); }
double roundStep(double radius, double scallop) { return 2.0 * std::acos(radius / (radius + scallop)); }

namespace {

constexpr double kOver = 1.0; // mm: feed begins, and cutters leave open sides, this far from what they cut

/// Heights of levels from above down, evenly, the last is the bottom.
std::vector<double> levelsOf(double top, double bottom, double stepdown) {
    const double deep = top - bottom;
    const int n = stepdown > 0.0 && deep > 0.0 ? std::clamp(static_cast<int>(std::ceil(deep / stepdown - 1e-9)), 1, 10000) : 1;
    std::vector<double> out;
    for (int i = 1; i <= n; ++i) out.push_back(i == n ? bottom : top - deep * i / n);
    return out;
}

double lengthOf(const Line& l) {
    double sum = 0.0;
    for (std::size_t i = 1; i < l.size(); ++i) sum += (l[i] - l[i - 1]).norm();
    return sum;
}

Vec2 leftOf(const Vec2& d) { return Vec2(-d.y(), d.x()); }

/// Unit directions along a line, at every point the mean of both sides.
std::vector<Vec2> tangents(const Line& l, bool closed) {
    const std::size_t n = l.size();
    std::vector<Vec2> out(n);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec2 before = i > 0 ? l[i] - l[i - 1] : closed ? l[n - 1] - l[n - 2] : l[1] - l[0];
        const Vec2 after = i + 1 < n ? l[i + 1] - l[i] : closed ? l[1] - l[0] : l[n - 1] - l[n - 2];
        out[i] = (before.normalized() + after.normalized()).normalized();
    }
    return out;
}

class Miller {
public:
    Miller(const MillInput& input, const MillSpec& spec, const Assembly& tool, double leave, double chord, double feed, Progress& progress, MillResult& out)
        : m_in(input), m_spec(spec), m_tool(tool), m_radius(0.5 * tool.cutter.diameter), m_leave(leave), m_chord(chord), m_feed(feed), m_progress(progress), m_out(out) {}

    Status run() {
        if (m_tool.cutter.shape == CutterShape::TaperedBall || m_tool.cutter.shape == CutterShape::Tapered || m_tool.cutter.shape == CutterShape::Chamfer)
            if (m_spec.shape != MillShape::Follow && m_spec.shape != MillShape::Round)
                return fail("this cutter has no upright flank to mill walls with", {}, "Choose a flat, ball or corner-radius cutter");
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
        case MillShape::Bore:
            break;
        }
        if (!ok) return ok;
        finish();
        return {};
    }

private:
    void tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const std::optional<Vec3>& at = {}, double amount = 0.0) {
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

    // ---- heights ----

    /// Where the cut begins: at the walls' top, the stock's, or as typed.
    double topOver(const Region& area, double wallTop) const {
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

    /// The lowest height of the tip at a place of the sheet.
    double floorAt(const Vec2& at, const Vec2& shift) const {
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
        return std::max(m_bottom, high - (m_bosses.empty() ? down : std::min(down, dropOnto(m_bosses, m_tool.cutter, pose, down, m_spec.bossClearance))));
    }
    [[nodiscard]] bool levelFloor() const { return m_spec.depthBy == MillDepth::Geometry || m_spec.depthBy == MillDepth::Typed; }

    double profileAt(double x) const {
        const auto above = std::upper_bound(m_profile.begin(), m_profile.end(), x, [](double v, const Vec2& p) { return v < p.x(); });
        if (above == m_profile.begin()) return m_profile.front().y();
        if (above == m_profile.end()) return m_profile.back().y();
        const Vec2 &a = *(above - 1), &b = *above;
        return b.x() - a.x() < 1e-12 ? std::max(a.y(), b.y()) : a.y() + (b.y() - a.y()) * (x - a.x()) / (b.x() - a.x());
    }

    Status setDepth(double top, double geometry) {
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

    // ---- ways ----

    void add(FlatPass& pass, const Vec2& at, double height, Motion motion, const Vec2& shift = Vec2::Zero(), const Vec2& wall = Vec2::Zero()) {
        FlatPoint p;
        p.at = {at.x(), at.y(), height};
        p.motion = motion;
        p.shift = shift;
        p.wall = wall;
        if (!pass.points.empty() && (pass.points.back().at - p.at).norm() < 1e-7 && (pass.points.back().shift - shift).norm() < 1e-7) return;
        pass.points.push_back(p);
    }

    /// Down to `height` along a line and back, as often as needed, until its start is reached at full depth.
    void rampAlong(FlatPass& pass, const Line& line, double from, double height) {
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
            if (z <= height && way > 0) way = -1; // back to the start, cutting what the slope left
            else if (i + 1 == line.size() || i == 0) way = -way;
        }
    }

    void helixDown(FlatPass& pass, const Vec2& middle, double radius, double from, double height) {
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

    FlatPass passOf(const ClearingWay& way, double from, double height, int level) {
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
                rampAlong(pass, Line(way.points.begin(), way.points.begin() + std::min<std::ptrdiff_t>(2, static_cast<std::ptrdiff_t>(way.points.size()))), from + kOver, height);
            break;
        }
        for (std::size_t i = 0; i < way.points.size(); ++i) add(pass, way.points[i], height, way.entry == ClearingWay::Entry::Air && i < way.lead + 1 ? Motion::LeadIn : Motion::Cut);
        return pass;
    }

    /// Round and round a closed ring, down all the while; the turn at full depth is the way's own.
    void ringDown(FlatPass& pass, const Line& ring, double from, double height) {
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

    // ---- shapes ----

    Status area() {
        auto picked = floorOf(m_in, m_sheet, kRegionTolerance);
        if (!picked) return tl::unexpected(picked.error());
        Floor& floor = *picked;
        m_out.target = floor.area;
        if (auto ok = setDepth(topOver(floor.area, floor.top), floor.level); !ok) return ok;
        const bool strokes = m_spec.shape == MillShape::Face;
        const double keep = m_radius + m_leave;
        const Region whole = united(floor.area, beyondOpen(floor, m_radius + kOver));
        Region centre = without(whole, aroundLines(floor.walls, keep - 1e-4));
        if (floor.open.empty()) centre = common(centre, grown(floor.area, -keep));
        if (centre.empty() || common(grown(centre, m_radius - 1e-3), floor.area).area() < 0.5 * floor.area.area())
            return fail(fmt::format("the cutter Ø{:g} does not fit in", m_tool.cutter.diameter), {}, m_leave > 0.0 ? "Choose a smaller cutter, or leave less" : "Choose a smaller cutter");
        const Region outside = floor.open.empty() ? Region{} : without(centre, grown(floor.area, m_radius + 0.5 * kOver));
        double step = m_spec.stepover;
        if (m_sheet.wrapped && m_spec.scallop > 0.0 && m_tool.cutter.shape == CutterShape::Flat) step = std::min(step, m_sheet.radius * roundStep(m_sheet.radius + m_bottom, m_spec.scallop));
        if (m_sheet.wrapped && m_tool.cutter.shape == CutterShape::Flat) m_out.scallop = roundScallop(m_sheet.radius + m_bottom, std::min(step, 2.0 * m_radius) / m_sheet.radius);
        const ClearingSpec clearing{step, m_radius, m_spec.climb, 0.8 * m_radius};
        const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
        m_out.levels = levels.size();
        for (const Region& piece : pieces(centre)) {
            if (m_progress.cancelled()) return cancelledError();
            const std::vector<ClearingWay> ways = strokes ? strokesIn(piece, common(outside, piece), clearing, radians(m_spec.along), !floor.walls.empty()) : ringsIn(piece, common(outside, piece), clearing);
            const Region left = common(leftBy(ways, piece, m_radius), floor.area);
            if (left.area() > 0.05) tell(Rank::Look, "left-between", fmt::format("{:.1f} mm² stay between the passes", left.area()), "the step is too wide for this cutter there", m_sheet.point({left.loops[0][0].x(), left.loops[0][0].y(), m_bottom}), left.area());
            double from = m_top;
            for (std::size_t k = 0; k < levels.size(); ++k) {
                for (const ClearingWay& w : ways) m_out.flat.push_back(passOf(w, from, levels[k], static_cast<int>(k)));
                if (m_sheet.wrapped && m_spec.parallel && !strokes) wallPasses(floor, piece, keep, levels[k], static_cast<int>(k));
                from = levels[k];
            }
        }
        const Region reached = grown(centre, m_radius + m_leave + 0.003);
        const Region missed = without(floor.area, reached);
        m_out.leftOver = missed.area();
        if (m_out.leftOver > 0.01) {
            const auto& l = missed.loops.front();
            tell(Rank::Note, "corners-left", fmt::format("{:.1f} mm² of corners stay: the cutter is rounder than they are", m_out.leftOver), "a smaller cutter can go into them afterwards", m_sheet.point({l[0].x(), l[0].y(), m_bottom}), m_out.leftOver);
        }
        return {};
    }

    // Straight out over open sides. Corners between two stretches are filled, ends are not: behind them stands material.
    Region beyondOpen(const Floor& floor, double by) const {
        if (floor.walls.empty()) return grown(floor.area, by);
        Region out;
        for (const Line& l : floor.open) {
            std::optional<Vec2> last;
            for (std::size_t i = 0; i + 1 < l.size(); ++i) {
                const Vec2 d = l[i + 1] - l[i];
                if (d.norm() < 1e-6) continue;
                const Vec2 n = leftOf(d.normalized()), middle = 0.5 * (l[i] + l[i + 1]);
                const double side = floor.area.contains(middle + 1e-3 * n) ? -1.0 : 1.0;
                const Vec2 away = side * by * n, back = -0.01 * side * n;
                std::vector<Loop> quad{{l[i] + back, l[i + 1] + back, l[i + 1] + away, l[i] + away}};
                out = united(out, regionOf(quad));
                if (last) out = united(out, regionOf({{l[i] + back, l[i] + *last, l[i] + away}}));
                last = away;
            }
        }
        return out;
    }

    // The wall once more, with the axis along the radius at the wall itself: no lean is left on it.
    void wallPasses(const Floor& floor, const Region& centre, double keep, double height, int level) {
        std::vector<Line> rims;
        for (Loop l : centre.loops) {
            if (!m_spec.climb) std::reverse(l.begin(), l.end());
            l.push_back(l.front());
            rims.push_back(l);
        }
        const auto nearest = [&](const Vec2& p) {
            Vec2 best = p;
            double least = 1e300;
            for (const Line& w : floor.walls)
                for (std::size_t i = 1; i < w.size(); ++i) {
                    const Vec2 d = w[i] - w[i - 1];
                    const double t = d.squaredNorm() > 0.0 ? std::clamp((p - w[i - 1]).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
                    const Vec2 q = w[i - 1] + t * d;
                    if ((q - p).norm() < least) {
                        least = (q - p).norm();
                        best = q;
                    }
                }
            return best;
        };
        for (const Line& l : rims) {
            FlatPass pass;
            pass.level = level;
            for (const Vec2& p : l) {
                const Vec2 wall = nearest(p), off = p - wall;
                if (off.norm() > keep + 0.05) continue; // an open side
                // The floor's curvature: the shifted foot must still reach the floor, not go below it.
                add(pass, wall, height, Motion::Cut, off, off.normalized());
            }
            pass.closed = pass.points.size() == l.size();
            if (pass.points.size() > 1) m_out.flat.push_back(std::move(pass));
        }
    }

    Status outline() {
        std::vector<Line> lines; // the middle of the cutter, outermost pass last; the material on the right where climb
        std::vector<int> passNumber;
        double top = 0.0, floorLevel = 0.0;
        const int passes = std::clamp(m_spec.passes, 1, 1000);
        const double keep = m_radius + m_leave;
        Region stockArea;
        if (!m_in.faces.empty()) {
            auto picked = floorOf(m_in, m_sheet, kRegionTolerance);
            if (!picked) return tl::unexpected(picked.error());
            m_out.target = picked->area;
            if (picked->walls.empty()) return fail("no wall stands on the picked floor", {}, "Pick a floor with walls, or edges");
            top = picked->top;
            floorLevel = picked->level;
            for (int k = passes - 1; k >= 0; --k) {
                const double d = keep + k * m_spec.stepover;
                const Region whole = united(picked->area, beyondOpen(*picked, d + kOver));
                Region centre = without(whole, aroundLines(picked->walls, d));
                if (picked->open.empty()) centre = common(centre, grown(picked->area, 1e-4 - d));
                const Region along = aroundLines(picked->walls, d + 0.003);
                for (Loop l : centre.loops) {
                    l.push_back(l.front());
                    std::vector<Line> parts = linesInside({l}, along);
                    if (parts.size() == 2 && (parts[0].back() - parts[1].front()).norm() < 1e-3) parts = {joinedLines(parts[0], parts[1])};
                    else if (parts.size() == 2 && (parts[1].back() - parts[0].front()).norm() < 1e-3) parts = {joinedLines(parts[1], parts[0])};
                    for (Line& p : parts) {
                        if (directionOf(p, l) < 0) std::reverse(p.begin(), p.end());
                        if (!m_spec.climb) std::reverse(p.begin(), p.end());
                        lines.push_back(p);
                        passNumber.push_back(k);
                    }
                }
            }
        } else {
            const auto curves = flatCurves(m_in, m_sheet, kRegionTolerance);
            if (curves.empty()) return fail("no edge and no floor is picked", {}, "Click the edges to go along");
            for (const auto& c : curves) {
                Line l;
                for (const Vec3& p : c) l.push_back(p.head<2>());
                m_out.curves.push_back(l);
                const bool closed = l.size() > 3 && (l.front() - l.back()).norm() < 0.02;
                for (int k = passes - 1; k >= 0; --k) {
                    const double d = keep + k * m_spec.stepover;
                    for (Line& p : beside(l, closed, d)) {
                        lines.push_back(std::move(p));
                        passNumber.push_back(k);
                    }
                }
            }
        }
        if (lines.empty()) return fail(fmt::format("the cutter Ø{:g} does not fit in", m_tool.cutter.diameter), {}, "Choose a smaller cutter");
        if (auto ok = setDepth(topOver(m_out.target, top), floorLevel); !ok) return ok;
        m_bottom -= m_spec.beyond;
        m_out.bottom = m_bottom;
        const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
        m_out.levels = levels.size();
        for (std::size_t i = 0; i < lines.size(); ++i)
            for (std::size_t k = 0; k < levels.size(); ++k) {
                FlatPass pass;
                pass.level = static_cast<int>(k);
                const bool closed = (lines[i].front() - lines[i].back()).norm() < 1e-3;
                const auto t = tangents(lines[i], closed);
                for (std::size_t n = 0; n < lines[i].size(); ++n) {
                    const Vec2 away = m_spec.climb ? leftOf(t[n]) : Vec2(-leftOf(t[n]));
                    // Wrapped: the axis stands along the radius at the wall, the cutter is moved aside.
                    if (m_sheet.wrapped && m_spec.parallel)
                        add(pass, lines[i][n] - (keep + passNumber[i] * m_spec.stepover) * away, levels[k], Motion::Cut, (keep + passNumber[i] * m_spec.stepover) * away, away);
                    else
                        add(pass, lines[i][n], levels[k], Motion::Cut, Vec2::Zero(), away);
                }
                pass.closed = closed;
                m_out.flat.push_back(std::move(pass));
            }
        return {};
    }

    static Line joinedLines(Line a, const Line& b) {
        a.insert(a.end(), b.begin() + 1, b.end());
        return a;
    }
    /// Does a stretch of a closed line run as the line does?
    static int directionOf(const Line& part, const Line& whole) {
        const Vec2 middle = 0.5 * (part[part.size() / 2] + part[part.size() / 2 > 0 ? part.size() / 2 - 1 : 0]), d = part[part.size() / 2] - part[part.size() / 2 > 0 ? part.size() / 2 - 1 : 0];
        double least = 1e300;
        Vec2 way = d;
        for (std::size_t i = 1; i < whole.size(); ++i) {
            const Vec2 e = whole[i] - whole[i - 1];
            const double t = e.squaredNorm() > 0.0 ? std::clamp((middle - whole[i - 1]).dot(e) / e.squaredNorm(), 0.0, 1.0) : 0.0;
            const double dist = (whole[i - 1] + t * e - middle).norm();
            if (dist < least && e.norm() > 0.0) {
                least = dist;
                way = e;
            }
        }
        return d.dot(way) < 0.0 ? -1 : 1;
    }

    /// Lines beside a curve at a distance, on the side that is asked for, with the curve on the right where climb.
    [[nodiscard]] std::vector<Line> beside(const Line& curve, bool closed, double d) const {
        const bool inner = m_spec.side == MillSide::Inside;
        std::vector<Line> out;
        if (closed && (inner || m_spec.side == MillSide::Outside)) {
            Loop loop(curve.begin(), curve.end() - 1);
            Region r = regionOf({loop});
            r = grown(r, inner ? -d : d);
            for (Loop l : r.loops) {
                // Inside: material outside of the ring, on the right of a counter-clockwise run. Outside: the other way.
                if (!inner) std::reverse(l.begin(), l.end());
                if (!m_spec.climb) std::reverse(l.begin(), l.end());
                l.push_back(l.front());
                out.push_back(l);
            }
            return out;
        }
        const double side = m_spec.side == MillSide::Right || m_spec.side == MillSide::Outside ? -1.0 : 1.0;
        Line way;
        for (std::size_t i = 0; i + 1 < curve.size(); ++i) {
            const Vec2 t = (curve[i + 1] - curve[i]).normalized(), n = side * leftOf(t);
            if (!way.empty()) {
                // Around a corner that stands toward the cutter: an arc.
                const Vec2 from = way.back() - curve[i];
                const double turn = std::atan2(from.x() * n.y() - from.y() * n.x(), from.dot(n));
                if (turn * side < -1e-6) {
                    const int steps = std::max(1, static_cast<int>(std::ceil(std::abs(turn) / (2.0 * std::acos(1.0 - std::min(0.5, m_chord / d))))));
                    for (int k = 1; k < steps; ++k) {
                        const double a = turn * k / steps;
                        way.push_back(curve[i] + Vec2(from.x() * std::cos(a) - from.y() * std::sin(a), from.x() * std::sin(a) + from.y() * std::cos(a)));
                    }
                }
            }
            way.push_back(curve[i] + d * n);
            way.push_back(curve[i + 1] + d * n);
        }
        // What comes nearer than asked at inner corners is left out.
        std::vector<Line> kept = linesOutside({way}, aroundLines({curve}, d - 0.002));
        for (Line& l : kept)
            if (directionOf(l, way) < 0) std::reverse(l.begin(), l.end());
        std::sort(kept.begin(), kept.end(), [&](const Line& a, const Line& b) { return placeOn(way, a.front()) < placeOn(way, b.front()); });
        Line whole;
        for (const Line& l : kept)
            if (l.size() > 1) whole.insert(whole.end(), l.begin(), l.end());
        if (whole.size() < 2) return {};
        // The curve lies on the right of a way on its left side.
        if ((side > 0.0) != m_spec.climb) std::reverse(whole.begin(), whole.end());
        return {whole};
    }
    static double placeOn(const Line& line, const Vec2& p) {
        double best = 0.0, least = 1e300, s = 0.0;
        for (std::size_t i = 1; i < line.size(); ++i) {
            const Vec2 d = line[i] - line[i - 1];
            const double t = d.squaredNorm() > 0.0 ? std::clamp((p - line[i - 1]).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
            const double dist = (line[i - 1] + t * d - p).norm();
            if (dist < least - 1e-9) {
                least = dist;
                best = s + t * d.norm();
            }
            s += d.norm();
        }
        return best;
    }

    Status bores() {
        std::vector<char> done(m_in.part->faces().size(), 0);
        if (m_in.faces.empty()) return fail("no bore is picked", {}, "Click the wall of a round pocket");
        bool any = false;
        for (int f : m_in.faces) {
            const FaceInfo& info = m_in.part->faces()[static_cast<std::size_t>(f)];
            if (info.kind != SurfaceKind::Cylinder) return fail(fmt::format("face {} is no cylinder", f), {}, "Click the wall of a round pocket");
            if (done[static_cast<std::size_t>(f)]) continue;
            const Vec3 outward = rejected(info.centre - info.axisPoint, info.axis).normalized();
            if (info.normal.dot(outward) > 0.0) return fail(fmt::format("face {} is the outside of a round", f), {}, "Click the wall of a round pocket");
            // All faces of the same cylinder are one bore.
            double low = 1e300, high = -1e300;
            for (int g : m_in.faces) {
                const FaceInfo& other = m_in.part->faces()[static_cast<std::size_t>(g)];
                if (other.kind != SurfaceKind::Cylinder || std::abs(other.radius - info.radius) > 1e-6 || other.axis.cross(info.axis).norm() > 1e-6) continue;
                if (rejected(other.axisPoint - info.axisPoint, info.axis).norm() > 1e-6) continue;
                done[static_cast<std::size_t>(g)] = 1;
                for (const Vec3& p : m_in.part->faceMesh(g).points) {
                    low = std::min(low, (p - info.axisPoint).dot(info.axis));
                    high = std::max(high, (p - info.axisPoint).dot(info.axis));
                }
            }
            if (auto ok = bore(info, f, low, high); !ok) return ok;
            any = true;
        }
        return any ? Status{} : Status(fail("nothing to bore"));
    }

    Status bore(const FaceInfo& info, int face, double low, double high) {
        // Entered from the open end; where both are open from the end that looks up, or along the chosen plane.
        Vec3 out = info.axis;
        const double inside = info.radius - m_radius - m_leave;
        const auto blocked = [&](double at, const Vec3& way) { // does the axis meet the part beyond this end?
            const RayHit hit = m_in.part->tree().ray(info.axisPoint + at * info.axis, way, 1e4);
            return hit.hit;
        };
        Vec3 wanted = Vec3::UnitZ();
        for (const WorkPlane& p : m_in.planes)
            if (p.name == m_spec.on) wanted = p.normal;
        const bool upBlocked = blocked(high + 1e-3, info.axis), downBlocked = blocked(low - 1e-3, -info.axis);
        if (upBlocked && downBlocked) return fail(fmt::format("bore {} is closed at both ends", face), {}, "");
        if (upBlocked || (!downBlocked && (wanted.dot(info.axis) < -1e-9 || (std::abs(wanted.dot(info.axis)) <= 1e-9 && info.axis.sum() < 0.0)))) out = -info.axis;
        const bool through = !upBlocked && !downBlocked;
        const double upper = out.dot(info.axis) > 0.0 ? high : -low, lower = out.dot(info.axis) > 0.0 ? low : -high;
        if (inside < -1e-6)
            return fail(fmt::format("the cutter Ø{:g} does not fit into a bore Ø{:g}", m_tool.cutter.diameter, 2.0 * info.radius), {}, "Choose a smaller cutter");
        WorkPlane plane{"", info.axisPoint + upper * out, out, anyPerpendicular(out)};
        m_sheet = planeSheet(plane);
        m_out.sheet = m_sheet;
        m_top = m_spec.topBy == MillTop::Typed ? m_spec.top : 0.0;
        m_bottom = m_spec.depthBy == MillDepth::Typed ? -m_spec.depth : lower - upper - (through ? m_spec.beyond : 0.0);
        m_bottom += through ? 0.0 : m_spec.leaveFloor;
        m_out.top = m_top;
        m_out.bottom = m_bottom;
        Loop circle;
        for (int i = 0; i < 90; ++i) circle.push_back(info.radius * Vec2(std::cos(radians(4.0 * i)), std::sin(radians(4.0 * i))));
        m_out.target = united(m_out.target, regionOf({circle}));
        const int rings = inside > m_radius ? static_cast<int>(std::ceil((inside - 0.9 * m_radius) / std::max(1e-3, m_spec.stepover))) + 1 : 1;
        const double first = rings > 1 ? std::min(inside, 0.9 * m_radius) : inside;
        m_out.levels = static_cast<std::size_t>(rings);
        for (int k = 0; k < rings; ++k) {
            const double radius = rings > 1 ? first + (inside - first) * k / (rings - 1) : inside;
            FlatPass pass;
            pass.level = k;
            const double pitch = m_spec.stepdown > 0.0 ? m_spec.stepdown : m_top - m_bottom + kOver;
            if (radius < 1e-6) { // just as wide as the cutter
                add(pass, Vec2::Zero(), m_top + kOver, Motion::LeadIn);
                add(pass, Vec2::Zero(), m_bottom, Motion::Cut);
            } else {
                const int perTurn = std::max(24, static_cast<int>(std::ceil(kPi / std::acos(1.0 - std::min(0.5, m_chord / radius)))));
                const double turns = std::max(1.0, std::ceil((m_top + kOver - m_bottom) / pitch));
                const int n = static_cast<int>(turns) * perTurn;
                const double hand = m_spec.climb ? 1.0 : -1.0;
                for (int i = 0; i <= n + perTurn; ++i) {
                    const double a = hand * 2.0 * kPi * i / perTurn;
                    const Vec2 d(std::cos(a), std::sin(a));
                    add(pass, radius * d, std::max(m_bottom, m_top + kOver - (m_top + kOver - m_bottom) * i / n), Motion::Cut, Vec2::Zero(), -d);
                }
                add(pass, 0.7 * radius * Vec2::UnitX(), m_bottom, Motion::LeadOut); // off the wall before coming up
            }
            const std::size_t before = m_out.flat.size();
            m_out.flat.push_back(std::move(pass));
            finish(before);
        }
        return {};
    }

    // Along curves; a groove wider than the cutter gets passes at both sides.
    Status follow() {
        const auto curves = flatCurves(m_in, m_sheet, 0.25 * m_chord);
        if (curves.empty()) return fail("no curve is picked", {}, "Pick edges or a curve, or choose a drawing");
        if (m_spec.depthBy == MillDepth::Geometry) return fail("a curve does not say how deep it is cut", {}, "Type a depth, or go down to the model");
        if (auto ok = setDepth(m_spec.topBy == MillTop::Typed ? m_spec.top : 0.0, 0.0); !ok) return ok;
        const double width = m_spec.width > 0.0 ? m_spec.width : m_tool.cutter.diameter;
        if (m_spec.width > 0.0 && width < m_tool.cutter.diameter - 1e-6 && m_tool.cutter.shape != CutterShape::Tapered && m_tool.cutter.shape != CutterShape::TaperedBall)
            return fail(fmt::format("the cutter Ø{:g} is wider than the groove of {:g}", m_tool.cutter.diameter, width), {}, "Choose a smaller cutter");
        const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
        m_out.levels = levels.size();
        for (const auto& c : curves) {
            Line line;
            for (const Vec3& p : c)
                if (line.empty() || (line.back() - p.head<2>()).norm() > 1e-6) line.push_back(p.head<2>());
            if (line.size() < 2) continue;
            m_out.curves.push_back(line);
            line = dense(line);
            const bool closed = line.size() > 3 && (line.front() - line.back()).norm() < 0.02;
            const auto t = tangents(line, closed);
            std::vector<double> half(line.size());
            double most = 0.0;
            for (std::size_t i = 0; i < line.size(); ++i) {
                const double square = m_spec.widthAlong && m_sheet.wrapped ? width * std::abs(t[i].y()) : width;
                half[i] = std::max(0.0, 0.5 * square - m_radius - m_leave);
                most = std::max(most, half[i]);
                if (m_spec.width > 0.0 && square < m_tool.cutter.diameter - 1e-3)
                    return fail(fmt::format("the groove is {:.3f} wide across there, less than the cutter", square), {}, "Choose a smaller cutter");
            }
            const int n = most > 1e-6 ? static_cast<int>(std::ceil(most / m_spec.stepover - 1e-9)) : 0;
            if (n > 0)
                if (const auto at = tooTight(line, t, half)) {
                    return fail(fmt::format("the groove bends too tightly for its width at {:.2f} {:.2f}", at->x(), at->y()), {}, "Make the groove narrower, or round the corner");
                }
            double from = m_top;
            for (std::size_t k = 0; k < levels.size(); ++k) {
                FlatPass pass;
                pass.level = static_cast<int>(k);
                pass.closed = false;
                if (m_spec.entry == MillEntry::Helix && most > 0.15 * m_radius)
                    helixDown(pass, line.front(), std::min(most, 0.9 * m_radius), from + kOver, levels[k]);
                else
                    rampAlong(pass, line, from + kOver, levels[k]);
                for (const Vec2& p : line) add(pass, p, levels[k], Motion::Cut);
                for (int j = 1; j <= n; ++j) {
                    // Back on the left, forward on the right: the wall is on the right of the cutter both times.
                    const double share = static_cast<double>(j) / n, hand = m_spec.climb ? 1.0 : -1.0;
                    for (std::size_t i = line.size(); i-- > 0;) aside(pass, line[i], t[i], hand * share * half[i], levels[k]);
                    for (std::size_t i = 0; i < line.size(); ++i) aside(pass, line[i], t[i], -hand * share * half[i], levels[k]);
                }
                m_out.flat.push_back(std::move(pass));
                from = levels[k];
            }
        }
        return {};
    }
    void aside(FlatPass& pass, const Vec2& at, const Vec2& tangent, double by, double height) {
        const Vec2 off = by * leftOf(tangent);
        if (m_sheet.wrapped && m_spec.parallel)
            add(pass, at, height, Motion::Cut, off);
        else
            add(pass, at + off, height, Motion::Cut);
    }
    /// Where a parallel at the half width would turn back on itself.
    static std::optional<Vec2> tooTight(const Line& line, const std::vector<Vec2>& t, const std::vector<double>& half) {
        for (std::size_t i = 1; i < line.size(); ++i) {
            const Vec2 d = line[i] - line[i - 1];
            for (const double side : {1.0, -1.0}) {
                const Vec2 moved = line[i] + side * half[i] * leftOf(t[i]) - line[i - 1] - side * half[i - 1] * leftOf(t[i - 1]);
                if (moved.dot(d) < 0.0) return line[i];
            }
        }
        return std::nullopt;
    }

    /// With points close enough that straight moves between them stay within the tolerance of the round, and of a model below.
    [[nodiscard]] double longestStep() const {
        double most = levelFloor() ? 1e300 : 0.5;
        if (m_sheet.wrapped) most = std::min(most, 2.0 * m_sheet.radius * std::acos(1.0 - std::min(0.5, m_chord / std::max(0.1, m_sheet.radius + m_top))));
        return most;
    }
    [[nodiscard]] Line dense(const Line& line) const {
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

    // A whole round part: rings or one spiral, the cutter let down on the model everywhere.
    Status roundPart() {
        if (!m_sheet.wrapped) return fail("a whole round needs an axis", {}, "Choose round X, round Y or round Z");
        if (!m_in.model) return fail("there is no model to measure the depth from");
        double from = m_spec.from, to = m_spec.to;
        if (std::abs(to - from) < 1e-9) {
            from = 1e300;
            to = -1e300;
            for (const Vec3& p : m_in.part->mesh().points) {
                from = std::min(from, m_sheet.flat(p).x());
                to = std::max(to, m_sheet.flat(p).x());
            }
        }
        double top = 0.0;
        for (const Vec3& p : m_in.part->mesh().points) top = std::max(top, m_sheet.flat(p).z());
        if (m_spec.topBy == MillTop::Stock)
            for (const MeshTree* stock : m_in.stock)
                for (const auto& t : stock->triangles())
                    for (const Vec3& p : t) top = std::max(top, m_sheet.flat(p).z());
        MillSpec deep = m_spec;
        deep.depthBy = MillDepth::Model;
        m_spec = deep;
        if (auto ok = setDepth(m_spec.topBy == MillTop::Typed ? m_spec.top : top, 0.0); !ok) return ok;
        // The picked faces are bosses: the cutter stays further off them than off the rest.
        if (!m_in.faces.empty()) {
            TriangleMesh bosses;
            for (int f : m_in.faces) bosses.append(m_in.part->faceMesh(f));
            m_bosses = MeshTree(bosses);
        }
        // What is still to be cut lies ahead, at larger x: on the right of a way around along +y.
        const double turn = (m_spec.climb ? 1.0 : -1.0) * m_sheet.turn();
        const int n = std::max(1, static_cast<int>(std::ceil((to - from) / m_spec.stepover - 1e-9)));
        Line line;
        switch (m_spec.lines) {
        case MillLines::Spiral:
            line = {Vec2(from, 0.0), Vec2(from, turn), Vec2(to, turn * (n + 1)), Vec2(to, turn * (n + 2))};
            break;
        case MillLines::Rings: // on and on the same way round, one step along between two turns
            for (int i = 0; i <= n; ++i) {
                const double x = from + (to - from) * i / n;
                line.push_back(Vec2(x, turn * i));
                line.push_back(Vec2(x, turn * (i + 1)));
            }
            break;
        case MillLines::Lines: { // lengthwise, there and back
            const int strokes = std::max(3, static_cast<int>(std::ceil(std::abs(turn) / m_spec.stepover - 1e-9)));
            for (int i = 0; i < strokes; ++i) {
                const double y = turn * i / strokes;
                line.push_back(Vec2(i % 2 ? to : from, y));
                line.push_back(Vec2(i % 2 ? from : to, y));
            }
            break;
        }
        }
        m_out.curves.push_back(line);
        const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
        m_out.levels = levels.size();
        const Line fine = dense(line);
        for (std::size_t k = 0; k < levels.size(); ++k) {
            FlatPass pass;
            pass.level = static_cast<int>(k);
            for (const Vec2& p : fine) add(pass, p, levels[k], Motion::Cut);
            m_out.flat.push_back(std::move(pass));
        }
        return {};
    }

    Status rough() {
        RoughInput in{m_in, m_sheet, m_tool, m_radius, m_leave, m_chord};
        auto made = roughOn(in, m_spec, m_progress);
        if (!made) return tl::unexpected(made.error());
        m_top = m_out.top = made->top;
        m_bottom = m_out.bottom = made->bottom;
        m_out.levels = made->levels;
        m_out.target = made->target;
        m_out.flat = std::move(made->passes);
        for (Finding& f : made->findings) m_out.findings.push_back(std::move(f));
        return {};
    }

    // ---- from the flat into space ----

    void finish(std::size_t first = 0) {
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

    /// Every point to the lowest height it may have; what a level before has cut already is left out.
    void letDown(std::size_t first) {
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
            if (!parallelFor(floor.size(), 64, [&](std::size_t k) { floor[k] = floorAt(dense.points[k].at.head<2>(), dense.points[k].shift); }, &m_progress)) return;
            const double cutBefore = m_top - step * dense.level;
            FlatPass run;
            run.level = dense.level;
            const auto flush = [&] {
                if (run.points.size() > 1) all.push_back(run);
                run.points.clear();
            };
            for (std::size_t k = 0; k < dense.points.size(); ++k) {
                FlatPoint p = dense.points[k];
                const bool needed = dense.level == 0 || floor[k] < cutBefore - 1e-6 || (k > 0 && floor[k - 1] < cutBefore - 1e-6) || (k + 1 < floor.size() && floor[k + 1] < cutBefore - 1e-6);
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

    Pass toSpace(const FlatPass& flat, int number) const {
        Pass pass;
        pass.row = number;
        pass.closed = flat.closed;
        const auto& points = flat.points;
        const double most = m_sheet.wrapped ? longestStep() : 1e300;
        const auto put = [&](const FlatPoint& p) {
            const AxisPose pose = m_sheet.pose(p.at, p.shift);
            const double feed = p.motion == Motion::Rapid ? 0.0 : p.motion == Motion::Cut || p.motion == Motion::Link ? m_feed : 0.5 * m_feed;
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
            const Vec3 d = n < 2 ? Vec3(anyPerpendicular(pass.path.axis[i])) : i + 1 < n ? Vec3(pass.path.tip[i + 1] - pass.path.tip[i]) : Vec3(pass.path.tip[i] - pass.path.tip[i - 1]);
            const Vec3 flatWay = rejected(d, pass.path.axis[i]);
            pass.feedDirection.push_back(flatWay.norm() > 1e-12 ? flatWay.normalized() : anyPerpendicular(pass.path.axis[i]));
        }
        return pass;
    }

    const MillInput& m_in;
    MillSpec m_spec;
    const Assembly& m_tool;
    double m_radius, m_leave, m_chord, m_feed;
    Progress& m_progress;
    MillResult& m_out;
    Sheet m_sheet;
    double m_top = 0.0, m_bottom = 0.0;
    std::vector<Vec2> m_profile;
    MeshTree m_bosses; ///< faces that the cutter stays further off, of a whole round
};

} // namespace

Result<MillResult> millOn(const MillInput& input, const MillSpec& spec, const Assembly& tool, double leave, double chordTolerance, double feed, Progress& progress) {
    MillResult out;
    if (auto ok = Miller(input, spec, tool, leave, chordTolerance, feed, progress, out).run(); !ok) return tl::unexpected(ok.error());
    if (progress.cancelled()) return cancelledError();
    if (out.passes.empty()) return fail("nothing is left to cut");
    return out;
}

} // namespace gyre
