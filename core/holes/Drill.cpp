#include "holes/Drill.h"
#include "base/Units.h"
#include "holes/DrillSpec.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace gyre {

const char* cycleName(Cycle c) {
    static constexpr const char* kNames[] = {"spot", "drill", "peck", "chip-break", "bore", "ream", "tap", "chamfer"};
    return kNames[static_cast<int>(c)];
}

namespace {

constexpr double kFits = 0.02; // mm: so much larger than the hole is still as large

bool pointed(const Cutter& c) { return c.shape == CutterShape::Drill || c.shape == CutterShape::Spot || c.shape == CutterShape::Chamfer; }
bool cone(Cycle c) { return c == Cycle::Spot || c == Cycle::Chamfer; }
/// Cycles that leave the size of the hole as it is drilled: a tool of another size makes another hole.
bool sizes(Cycle c) { return c == Cycle::Drill || c == Cycle::Peck || c == Cycle::ChipBreak || c == Cycle::Bore || c == Cycle::Ream; }

/// Where the widths of a hole end for a tool of this radius: all above is at least as wide. −1: the mouth is too narrow.
struct Room {
    double end = -1.0;
    bool last = false; ///< it reaches the bottom's own section
};
Room roomFor(const Hole& hole, double radius) {
    Room r;
    for (std::size_t i = 0; i < hole.sections.size(); ++i) {
        const HoleSection& s = hole.sections[i];
        const double narrowest = std::min(s.fromRadius, s.toRadius);
        if (narrowest >= radius - 0.5 * kFits) {
            r.end = s.to;
            r.last = i + 1 == hole.sections.size();
            continue;
        }
        if (s.cone() && s.fromRadius >= radius - 0.5 * kFits) {
            r.end = s.from + (s.to - s.from) * (s.fromRadius - radius) / (s.fromRadius - s.toRadius);
            r.last = i + 1 == hole.sections.size(); // the cone at the bottom
        }
        break;
    }
    return r;
}

constexpr double kSpotted = 1.4; // a mouth so much wider than the hole is a step of its own, and not made by spotting

/// Radius at the mouth of what a cone makes there: the model's own chamfer where it has one; before a much wider step what the drill needs.
double edgeOf(const Hole& hole, const DrillSpec& spec, double mouth) {
    if (hole.sections.size() < 2) return mouth + spec.widen;
    const HoleSection& first = hole.sections.front();
    const double narrow = 0.5 * hole.diameter();
    if (spec.cycle == Cycle::Spot && first.fromRadius > kSpotted * narrow) return narrow + spec.widen;
    return first.cone() && first.fromRadius > first.toRadius ? mouth : mouth + spec.widen;
}

} // namespace

double pointLength(const Cutter& c) {
    if (!pointed(c) || !(c.pointDegrees > 0.0 && c.pointDegrees < 180.0)) return 0.0;
    return 0.5 * (c.diameter - (c.shape == CutterShape::Chamfer ? c.tipDiameter : 0.0)) / std::tan(0.5 * radians(c.pointDegrees));
}

namespace {

// The cone's edge at the mouth, wider than the hole by `widen`.
void coneDepth(const Hole& hole, const DrillSpec& spec, const Cutter& c, double point, HoleDepth& out) {
    const double half = 0.5 * radians(c.pointDegrees), flat = c.shape == CutterShape::Chamfer ? 0.5 * c.tipDiameter : 0.0;
    const double mouth = hole.sections.empty() ? 0.5 * hole.diameter() : hole.sections.front().fromRadius, edge = edgeOf(hole, spec, mouth);
    if (!spec.toGeometry)
        out.tip = spec.depth;
    else
        out.tip = (edge - flat) / std::tan(half);
    if (spec.toGeometry && edge > 0.5 * c.diameter + 1e-9) {
        out.questions.push_back(fmt::format("{} is too small for an edge Ø{:.2f}", shortName(c), 2.0 * edge));
        out.tip = point;
    }
    if (hole.bottom != HoleBottom::Through && out.tip > hole.depth + 1e-9)
        out.questions.push_back(fmt::format("the point would go {:.2f} mm deep, the hole is {:.2f}", out.tip, hole.depth));
}

// How deep the tip goes by what ends there.
void takeDepth(const Hole& hole, const DrillSpec& spec, double point, const Room& room, HoleDepth& out) {
    const bool through = hole.bottom == HoleBottom::Through;
    const bool toEnd = room.last || room.end < 0.0;
    const double blindEnd = [&] { // the full width ends here
        if (hole.sections.empty()) return hole.depth;
        const HoleSection& last = hole.sections.back();
        return last.cone() && hole.bottom == HoleBottom::Cone ? last.from : last.to;
    }();
    const double compensation = spec.fullDiameter ? point : 0.0;
    if (!spec.toGeometry) {
        out.tip = spec.depth + compensation;
    } else if (!toEnd) { // a wider step above a narrower hole: its floor is the end
        out.tip = room.end;
        if (point > 0.0) out.note = "the step's floor keeps the point's shape";
    } else if (through) {
        out.tip = hole.depth + spec.breakthrough + compensation;
    } else if (spec.cycle == Cycle::Tap || spec.cycle == Cycle::Ream || spec.cycle == Cycle::Bore) {
        out.tip = std::max(0.0, blindEnd - spec.breakthrough);
    } else if (hole.bottom == HoleBottom::Cone) {
        out.tip = std::min(blindEnd + compensation, hole.depth);
        if (blindEnd + compensation > hole.depth + 0.02)
            out.note = fmt::format("the point is longer than the hole's own: full width ends {:.2f} mm early", blindEnd + compensation - hole.depth);
    } else {
        out.tip = hole.depth; // never into the floor
        if (point > 0.05) out.note = "a point leaves the corners of a flat floor";
    }
}

void wholeDepth(const Hole& hole, const DrillSpec& spec, const Cutter& c, double point, HoleDepth& out) {
    const double radius = 0.5 * c.diameter;
    const bool through = hole.bottom == HoleBottom::Through;
    const Room room = roomFor(hole, spec.cycle == Cycle::Tap ? 0.0 : radius);
    const double narrow = 0.5 * hole.diameter();
    if (spec.cycle != Cycle::Tap && room.end < 0.0) {
        const double mouth = hole.sections.empty() ? narrow : hole.sections.front().fromRadius;
        out.questions.push_back(fmt::format("Ø{:.3f} does not go into a hole of Ø{:.3f}", c.diameter, 2.0 * mouth));
    } else if (sizes(spec.cycle) && room.last && radius < narrow - 0.5 * kFits) {
        out.note = fmt::format("Ø{:.3f} leaves {:.3f} mm all round in a hole of Ø{:.3f}", c.diameter, narrow - radius, 2.0 * narrow);
    }
    takeDepth(hole, spec, point, room, out);
    if (!through && out.tip > hole.depth + 1e-6) out.questions.push_back(fmt::format("the tip would go {:.2f} mm deep, the hole is {:.2f}", out.tip, hole.depth));
    const double cutting = cuttingLength(c);
    if (sizes(spec.cycle) && out.tip > cutting + 1e-6 && c.shankDiameter >= c.diameter - 1e-6)
        out.questions.push_back(fmt::format("it cuts {:.1f} mm long and has to go {:.1f} deep", cutting, out.tip));
}

} // namespace

HoleDepth holeDepth(const Hole& hole, const DrillSpec& spec, const Assembly& tool) {
    HoleDepth out;
    const double point = pointLength(tool.cutter);
    if (!cone(spec.cycle))
        wholeDepth(hole, spec, tool.cutter, point, out);
    else if (point > 0.0)
        coneDepth(hole, spec, tool.cutter, point, out);
    else {
        out.questions.push_back(fmt::format("{} has no cone to {} with", shortName(tool.cutter), cycleName(spec.cycle)));
        out.tip = spec.depth;
        return out;
    }
    if (out.tip > tool.stickOut) out.questions.push_back(fmt::format("it stands out {:.1f} mm and has to go {:.1f} deep", tool.stickOut, out.tip));
    return out;
}

std::vector<double> pecks(double from, double depth, double peck) {
    std::vector<double> out;
    if (!(peck > 1e-6)) return {depth};
    for (double d = from + peck; d < depth - 1e-6; d += peck) out.push_back(d);
    out.push_back(depth);
    return out;
}

std::vector<Stroke> strokes(Cycle cycle, double above, double depth, double peck) {
    std::vector<Stroke> out;
    if (cycle == Cycle::Peck || cycle == Cycle::ChipBreak) {
        double before = -above;
        for (const double d : pecks(-above, depth, peck)) {
            if (before > -above) { // back to where it was cut to, or a little over it
                if (cycle == Cycle::Peck) out.push_back({-above, true});
                out.push_back({std::max(-above, before - kPeckGap), true});
            }
            out.push_back({d, false});
            before = d;
        }
        out.push_back({-above, true});
        return out;
    }
    out.push_back({depth, false});
    out.push_back({-above, cycle != Cycle::Bore && cycle != Cycle::Ream && cycle != Cycle::Tap});
    return out;
}

std::vector<std::size_t> shortestOrder(const std::vector<Hole>& holes, double perRadian) {
    const std::size_t n = holes.size();
    std::vector<std::size_t> order;
    if (n == 0) return order;
    const auto cost = [&](std::size_t a, std::size_t b) {
        return (holes[a].mouth - holes[b].mouth).norm() + perRadian * angleBetween(holes[a].direction, holes[b].direction);
    };
    std::vector<char> done(n, 0);
    order.push_back(0);
    done[0] = 1;
    while (order.size() < n) {
        std::size_t next = n;
        double least = 1e300;
        for (std::size_t i = 0; i < n; ++i)
            if (!done[i])
                if (const double d = cost(order.back(), i); d < least - 1e-9) {
                    least = d;
                    next = i;
                }
        done[next] = 1;
        order.push_back(next);
    }
    // Turn stretches round while that shortens the way; the first hole stays. Bounded, for thousands of holes.
    for (int round = 0; round < 40; ++round) {
        bool better = false;
        for (std::size_t i = 0; i + 2 < n; ++i)
            for (std::size_t k = i + 2; k < n && n < 3000; ++k) {
                const double now = cost(order[i], order[i + 1]) + (k + 1 < n ? cost(order[k], order[k + 1]) : 0.0);
                const double then = cost(order[i], order[k]) + (k + 1 < n ? cost(order[i + 1], order[k + 1]) : 0.0);
                if (then < now - 1e-9) {
                    std::reverse(order.begin() + static_cast<std::ptrdiff_t>(i + 1), order.begin() + static_cast<std::ptrdiff_t>(k + 1));
                    better = true;
                }
            }
        if (!better) break;
    }
    return order;
}

namespace {

/// One finding for all holes of which the same is said.
void tell(DrillResult& out, Rank rank, const char* code, const std::map<std::string, std::vector<std::size_t>>& said, const std::vector<Hole>& holes, bool ask) {
    for (const auto& [what, which] : said) {
        Finding f;
        f.rank = rank;
        f.check = Check::Path;
        f.code = code;
        f.stage = "Pattern";
        f.text = which.size() == 1 ? fmt::format("hole {}: {}", which[0] + 1, what) : fmt::format("{} holes: {}", which.size(), what);
        f.row = static_cast<int>(which.front());
        f.amount = static_cast<double>(which.size());
        const Vec3& p = holes[which.front()].mouth;
        f.place = {p.x(), p.y(), p.z()};
        if (ask) f.remedies.push_back({"Use it all the same", "drill.anyTool", "true"});
        out.findings.push_back(f);
    }
}

} // namespace

DrillResult drillHoles(const std::vector<Hole>& holes, const DrillSpec& spec, const Assembly& tool, double feed) {
    DrillResult out;
    std::vector<std::size_t> order(holes.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    if (spec.shortest) order = shortestOrder(holes);
    std::map<std::string, std::vector<std::size_t>> questions, notes;
    const double rate = spec.cycle == Cycle::Tap ? tool.spindleSpeed * spec.pitch : feed;
    for (const std::size_t i : order) {
        const Hole& hole = holes[i];
        const HoleDepth depth = holeDepth(hole, spec, tool);
        for (const std::string& q : depth.questions) questions[q].push_back(i);
        if (!depth.note.empty()) notes[depth.note].push_back(i);
        if (!depth.questions.empty() && !spec.anyTool) continue;
        if (!out.holes.empty()) out.way += (holes[out.holes.back()].mouth - hole.mouth).norm();
        Pass pass;
        pass.row = pass.origin.hole = static_cast<int>(out.passes.size());
        pass.whole = true;
        const auto to = [&](double below, Motion motion, double f) {
            const Vec3 p = hole.mouth - below * hole.direction;
            pass.path.push(p, hole.direction, motion, pass.row, f);
            pass.feedDirection.push_back(-hole.direction);
        };
        to(-spec.above, Motion::Rapid, 0.0);
        double now = -spec.above;
        for (const Stroke& s : strokes(spec.cycle, spec.above, depth.tip, spec.peck)) {
            // Quick strokes stay within the hole: no free motion, but part of cutting it.
            to(s.depth, !s.rapid ? Motion::Cut : s.depth < now ? Motion::Retract : Motion::Plunge, s.rapid ? static_cast<double>(kRapidFeed) : rate);
            now = s.depth;
        }
        out.passes.push_back(std::move(pass));
        out.holes.push_back(i);
        out.tips.push_back(depth.tip);
    }
    // What a spot drill does not fit is drilled without.
    tell(out, spec.anyTool || spec.cycle == Cycle::Spot ? Rank::Note : Rank::Stop, "tool-does-not-fit", questions, holes, !spec.anyTool);
    if (spec.cycle == Cycle::Spot && !spec.anyTool)
        for (Finding& f : out.findings) {
            f.text += "; not spotted";
            f.remedies.push_back({"Leave the step out", "active", "false"});
        }
    tell(out, Rank::Note, "hole-note", notes, holes, false);
    return out;
}

} // namespace gyre
