#include "operation/Meant.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "holes/HoleRef.h"
#include "machine/Reach.h"
#include "mend/Mend.h"
#include "operation/Recipe.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"
#include <algorithm>
#include <cstdlib>
#include <fmt/format.h>

namespace gyre {

Result<NamedCurves> curvesNamed(const Workplace& place, const std::string& name) {
    for (const Workplace::PlacedDrawing& d : place.drawings)
        if (d.name == name) return NamedCurves{d.flat, d.curves};
    if (place.mends)
        for (const MendResult& m : *place.mends) {
            if (name.compare(0, m.name.size(), m.name) != 0) continue;
            const std::string which = name.substr(m.name.size());
            if (!which.empty() && which[0] != '/') continue;
            if (!m.trouble.empty()) return fail(m.trouble, m.name, "Look at it in Set up");
            if (which.empty()) return NamedCurves{false, m.curves};
            const auto number = static_cast<std::size_t>(std::strtoul(which.c_str() + 1, nullptr, 10));
            if (number < 1 || number > m.curves.size()) continue;
            return NamedCurves{false, {m.curves[number - 1]}};
        }
    return fail("there is no drawing or curve '" + name + "' any more", {}, "Choose another");
}

Result<std::vector<Curve>> curvesOf(const Part& part, std::vector<int> edges) {
    std::vector<Curve> out;
    while (!edges.empty()) {
        std::vector<int> chain{edges.front()};
        edges.erase(edges.begin());
        for (bool more = true; more;) {
            more = false;
            for (std::size_t i = 0; i < edges.size() && !more; ++i) {
                std::vector<int> longer = chain;
                longer.push_back(edges[i]);
                if (const auto put = chainOf(part, longer); put && put->edges.size() == longer.size()) {
                    chain = longer;
                    edges.erase(edges.begin() + static_cast<std::ptrdiff_t>(i));
                    more = true;
                }
            }
        }
        const auto order = chainOf(part, chain);
        Curve whole;
        for (std::size_t i = 0; order && i < order->edges.size(); ++i) {
            auto curve = part.edgeCurve(order->edges[i]);
            if (!curve) return tl::unexpected(curve.error());
            const Curve next = order->reversed[i] ? curve->reversed() : *curve;
            whole = whole.pieces() == 0 ? next : joined(whole, next, 1e-3);
        }
        out.push_back(std::move(whole));
    }
    return out;
}

namespace {

Result<AimedAt> aimedAt(const Workplace& place, const AxisAim& aim) {
    AimedAt at;
    at.part = place.part.get();
    if (aim.rule == AxisRule::Normals) {
        auto faces = resolveFaces(*place.part, aim.faces);
        if (!faces) return tl::unexpected(faces.error());
        at.faces = std::move(*faces);
    }
    if (aim.rule != AxisRule::Curve && aim.rule != AxisRule::Lines) return at;
    auto edges = resolveEdges(*place.part, aim.edges);
    if (!edges) return tl::unexpected(edges.error());
    if (!aim.curve.empty()) {
        const auto named = curvesNamed(place, aim.curve);
        if (!named) return tl::unexpected(named.error());
        if (named->flat) return fail("the drawing '" + aim.curve + "' lies flat on a sheet, not in space", "Axis", "Choose a curve in space");
        at.curves = named->curves;
    }
    if (aim.rule == AxisRule::Lines) { // each by itself; chains of a drawing are taken apart at their knots
        std::vector<Curve> lines;
        for (const Curve& c : at.curves)
            for (std::size_t i = 0; i < c.pieces(); ++i) lines.push_back(straightLines({c.at(i, 0.0), c.at(i, 1.0)}));
        for (const int e : *edges)
            lines.push_back(straightLines({place.part->edges()[static_cast<std::size_t>(e)].start, place.part->edges()[static_cast<std::size_t>(e)].end}));
        at.curves = std::move(lines);
        return at;
    }
    if (!edges->empty()) {
        auto chains = curvesOf(*place.part, *edges);
        if (!chains) return tl::unexpected(chains.error());
        at.curves.insert(at.curves.end(), chains->begin(), chains->end());
    }
    return at;
}

/// The direction nearest to a wanted one that the machine takes with one rotary joint held; inside of the window before all.
std::function<Vec3(const Vec3&, double, double)> lockedTo(const Kinematics& kinematics, std::size_t joint, double angle) {
    const auto k = std::make_shared<const Kinematics>(kinematics);
    const auto& rotaries = k->rotaries();
    std::size_t free = joint;
    for (const int r : rotaries)
        if (static_cast<std::size_t>(r) != joint) free = static_cast<std::size_t>(r);
    return [k, joint, angle, free](const Vec3& wanted, double lowest, double highest) {
        JointValues q(k->joints(), 0.0);
        q[joint] = angle;
        const auto at = [&](double t) {
            if (free != joint) q[free] = t;
            return k->forward(q).axis;
        };
        if (free == joint) return at(0.0);
        constexpr double kOutside = 1e3; // a degree outside of the window is worse than any that is off the wanted one
        const auto off = [&](double t) {
            const Vec3 a = at(t);
            const double up = angleBetween(a, Vec3::UnitZ());
            return angleBetween(a, wanted) + kOutside * std::max({0.0, lowest - up, up - highest});
        };
        constexpr int kSteps = 180;
        double best = 0.0, least = 1e300;
        for (int i = 0; i < kSteps; ++i) {
            const double t = 2.0 * kPi * i / kSteps - kPi;
            if (const double d = off(t); d < least) {
                least = d;
                best = t;
            }
        }
        double low = best - 2.0 * kPi / kSteps, high = best + 2.0 * kPi / kSteps;
        constexpr double kGolden = 0.6180339887498949;
        for (int i = 0; i < 60; ++i) {
            const double a = high - kGolden * (high - low), b = low + kGolden * (high - low);
            if (off(a) < off(b))
                high = b;
            else
                low = a;
        }
        return at(0.5 * (low + high));
    };
}

} // namespace

Result<AxisHelp> axisHelp(const Workplace& place, const Recipe& recipe, const Assembly& tool) {
    AxisHelp help(rotaryLine(*place.machine, place.partFrame));
    auto first = aimedAt(place, recipe.axis);
    if (!first) return tl::unexpected(first.error());
    help.first = std::move(*first);
    if (recipe.axis->blended) {
        auto last = aimedAt(place, recipe.axis->last);
        if (!last) return tl::unexpected(last.error());
        help.last = std::move(*last);
    }
    const Kinematics kinematics(*place.machine, place.partFrame, tool.gaugeLength());
    help.pole = poleOf(kinematics);
    if (recipe.axis->locked.empty()) return help;
    const auto& joints = place.machine->joints;
    for (std::size_t j = 0; j < joints.size(); ++j)
        if (joints[j].name == recipe.axis->locked && joints[j].kind == JointKind::Rotary) help.locked = lockedTo(kinematics, j, radians(recipe.axis->lockedDegrees));
    return help;
}

std::vector<Hole> holesMeant(const Workplace& place, const Recipe& recipe, std::size_t& lost) {
    lost = 0;
    if (recipe.holes.empty()) return place.holes;
    std::vector<Hole> holes;
    for (const HoleRef& ref : recipe.holes) {
        const auto it = std::find_if(place.holes.begin(), place.holes.end(),
                                     [&](const Hole& h) { return (h.mouth - ref.mouth).norm() < 0.05 && std::abs(h.diameter() - ref.diameter) < 0.05; });
        if (it == place.holes.end())
            ++lost;
        else
            holes.push_back(ref.turned ? reversed(*it) : *it);
    }
    return holes;
}

Result<WallRails> wallRails(const Workplace& place, const Recipe& recipe) {
    WallRails out;
    for (const bool upper : {false, true}) {
        auto edges = resolveEdges(*place.part, upper ? recipe.pattern->rail2 : recipe.pattern->rail1);
        if (!edges) return tl::unexpected(edges.error());
        if (edges->empty()) return fail(upper ? "no upper rail is picked" : "no lower rail is picked", {}, "Click its edges in the view");
        auto chains = curvesOf(*place.part, *edges);
        if (!chains) return tl::unexpected(chains.error());
        if (chains->size() != 1)
            return fail(fmt::format("the edges of the {} rail do not hang together", upper ? "upper" : "lower"), {}, "Pick edges that follow each other");
        (upper ? out.upper : out.lower) = std::move(chains->front());
    }
    out.upper = alignedWith(out.lower, out.upper);
    return out;
}

} // namespace gyre
