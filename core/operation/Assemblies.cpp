#include "operation/Assemblies.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "operation/Definition.h"
#include "operation/Free.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"
#include "tool/Library.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace gyre {
namespace {

constexpr std::size_t kLooked = 2500;    // places of the way
constexpr double kHeldIn = 1.0;          // shank diameters that must stay in the holder
constexpr double kFarthestLean = 60.0;   // °
constexpr std::size_t kLeansLooked = 24; // places that are not reached

/// Where the tool stands, how much of the way that place stands for, and where it comes from.
struct Place {
    AxisPose pose;
    double way;
    const Pass* pass;
    std::size_t at;
};

/// Is what cuts the same, whatever holds it?
bool cutsAlike(const Cutter& a, const Cutter& b) {
    const CutterUse use = usedBy(a.shape);
    const auto same = [](double x, double y) { return std::abs(x - y) < 1e-9; };
    return a.shape == b.shape && same(a.diameter, b.diameter) && (!use.cornerRadius || same(a.cornerRadius, b.cornerRadius)) &&
           (!use.taper || same(a.taperDegrees, b.taperDegrees)) && (!use.point || same(a.pointDegrees, b.pointDegrees)) &&
           (!use.tip || same(a.tipDiameter, b.tipDiameter)) && (!use.profile || same(a.profileRadius, b.profileRadius));
}

/// Drills and the like make holes and chamfers only.
bool suits(const Cutter& tool, const Cutter& own) {
    const auto pointed = [](CutterShape s) { return s == CutterShape::Drill || s == CutterShape::Spot || s == CutterShape::Chamfer; };
    return !pointed(tool.shape) || tool.shape == own.shape;
}

class Fitting {
public:
    Fitting(const Workplace& place, const Recipe& recipe, const OperationResult& result) : m_place(place), m_recipe(recipe), m_result(result) {
        const Definition& definition = definitionOf(recipe.kind);
        m_meant = definition.meantDepth ? definition.meantDepth(recipe) : 0.0;
        std::size_t all = 0;
        for (const Pass& pass : *result.passes) all += pass.path.size();
        const std::size_t every = std::max<std::size_t>(1, all / kLooked);
        std::size_t count = 0;
        for (const Pass& pass : *result.passes)
            for (std::size_t i = 0; i < pass.path.size(); ++i, ++count)
                if (count % every == 0 || i == 0 || i + 1 == pass.path.size()) m_places.push_back({&pass, i});
    }

    AssemblyFit fit(const Assembly& tool, double step, Progress& progress) const {
        AssemblyFit out;
        out.tool = tool;
        out.sameCut = cutsAlike(tool.cutter, m_result.tool.cutter);
        const Freedom freedom = freedomOf(m_place, m_recipe, tool);
        if (!out.sameCut && !freedom.turned) {
            out.blockedBy = "another cutting end";
            out.stickOut = tool.stickOut;
            return out;
        }
        const std::vector<Place> places = placesFor(tool, out.sameCut ? Freedom{} : freedom);
        out.stickOut = shortest(tool, places, step);
        out.tool.stickOut = out.stickOut;
        std::vector<const Place*> blocked;
        out.reached = reachedBy(out.tool, places, out.blockedBy, blocked);
        // Places tell; all of it is certain only when nothing slips through between them.
        if (blocked.empty()) makeSure(out, out.sameCut ? Freedom{} : freedom, step, progress);
        if (!blocked.empty() && freedom.turned) out.lean = leanFor(out.tool, freedom, blocked);
        out.stiffness = complianceOf(m_result.tool) / complianceOf(out.tool);
        return out;
    }

private:
    [[nodiscard]] Guard guardOf(const Assembly& tool) const { return Guard(tool, *m_result.scene, m_recipe.guard, m_recipe.pattern->chordTolerance, m_meant); }

    std::vector<Place> placesFor(const Assembly&, const Freedom& turned) const {
        std::vector<Place> out;
        out.reserve(m_places.size());
        for (std::size_t k = 0; k < m_places.size(); ++k) {
            const auto& [pass, i] = m_places[k];
            const Toolpath& p = pass->path;
            const bool on = k > 0 && m_places[k - 1].first == pass;
            const double way = on ? (p.contact[i] - p.contact[m_places[k - 1].second]).norm() : 1e-3;
            out.push_back({turned.turned ? turned.turned(*pass, i, p.axis[i]) : AxisPose{p.tip[i], p.axis[i]}, way, pass, i});
        }
        return out;
    }
    // The holder is moved up until it is free of everything; a longer one only brings more shank to where the holder was.
    double shortest(const Assembly& tool, const std::vector<Place>& places, double step) const {
        Assembly low = tool;
        low.stickOut = std::max(cuttingLength(tool.cutter), tool.cutter.shoulderLength);
        const double most = tool.cutter.overallLength - kHeldIn * tool.cutter.shankDiameter;
        if (!(most > low.stickOut)) return low.stickOut;
        const Guard guard = guardOf(low);
        std::vector<double> need(places.size(), 0.0);
        parallelFor(places.size(), 64, [&](std::size_t k) { need[k] = guard.extraStickOut(places[k].pose, most - low.stickOut).value_or(0.0); });
        const double extra = need.empty() ? 0.0 : *std::max_element(need.begin(), need.end());
        const double wanted = extra > 0.0 ? low.stickOut + extra + 0.02 : low.stickOut;
        return std::min(most, std::ceil(wanted / step - 1e-9) * step);
    }
    double reachedBy(const Assembly& tool, const std::vector<Place>& places, std::string& by, std::vector<const Place*>& blocked) const {
        const Guard guard = guardOf(tool);
        std::vector<std::optional<Hit>> hits(places.size());
        parallelFor(places.size(), 64, [&](std::size_t k) { hits[k] = guard.hit(places[k].pose, Contact::Cutting); });
        double all = 0.0, free = 0.0;
        std::map<std::string, double> met;
        for (std::size_t k = 0; k < places.size(); ++k) {
            all += places[k].way;
            if (!hits[k]) {
                free += places[k].way;
                continue;
            }
            blocked.push_back(&places[k]);
            met[std::string(zoneName(hits[k]->zone)) + ", " + guard.scene()[hits[k]->obstacle].name] += places[k].way;
        }
        const auto most = std::max_element(met.begin(), met.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        by = most == met.end() ? "" : most->first;
        return all > 0.0 ? free / all : 0.0;
    }
    // Between the places too, by the guard's own certain question; where something is met there, a step more helps if it is the holder.
    void makeSure(AssemblyFit& fit, const Freedom& turned, double step, Progress& progress) const {
        std::vector<Pass> passes = *m_result.passes;
        if (turned.turned)
            for (Pass& pass : passes) {
                const Pass before = pass;
                for (std::size_t i = 0; i < pass.path.size(); ++i) pass.path.tip[i] = turned.turned(before, i, before.path.axis[i]).tip;
            }
        const double most = fit.tool.cutter.overallLength - kHeldIn * fit.tool.cutter.shankDiameter;
        GuardSpec only = m_recipe.guard;
        only.response = only.otherwise = only.atLast = GuardResponse::Report;
        constexpr int kRounds = 4;
        for (int round = 0; round < kRounds; ++round) {
            const Guard guard(fit.tool, *m_result.scene, only, m_recipe.pattern->chordTolerance, m_meant);
            const auto made = guardPasses(guard, passes, progress);
            if (!made) return; // called off
            double all = 0.0, met = 0.0;
            for (const Pass& pass : passes)
                for (std::size_t i = 1; i < pass.path.size(); ++i) all += (pass.path.contact[i] - pass.path.contact[i - 1]).norm();
            bool holder = !made->hazards.empty();
            for (const Hazard& h : made->hazards) {
                const Toolpath& p = passes[h.pass].path;
                for (std::size_t i = h.first + 1; i <= std::min(h.last, p.size() - 1); ++i) met += (p.contact[i] - p.contact[i - 1]).norm();
                holder = holder && h.zone == Zone::Holder;
            }
            if (made->hazards.empty()) return;
            if (holder && fit.stickOut + step <= most && round + 1 < kRounds) {
                fit.stickOut = fit.tool.stickOut = fit.stickOut + step;
                continue;
            }
            const Hazard& first = made->hazards.front();
            fit.reached = std::min(1.0 - 1e-6, all > 0.0 ? 1.0 - met / all : 0.0);
            fit.blockedBy = std::string(zoneName(first.zone)) + ", " + guard.scene()[first.obstacle].name;
            return;
        }
    }
    // In rings about the wish, ever wider.
    std::optional<double> leanFor(const Assembly& tool, const Freedom& freedom, const std::vector<const Place*>& blocked) const {
        const Guard guard = guardOf(tool);
        const std::size_t every = std::max<std::size_t>(1, blocked.size() / kLeansLooked);
        double most = 0.0;
        for (std::size_t k = 0; k < blocked.size(); k += every) {
            const Place& at = *blocked[k];
            const Vec3 wish = at.pose.axis, u = anyPerpendicular(wish), v = wish.cross(u);
            std::optional<double> least;
            constexpr double kStep = 2.0; // °
            constexpr int kAround = 24;
            for (double lean = kStep; lean <= kFarthestLean && !least; lean += kStep)
                for (int a = 0; a < kAround && !least; ++a) {
                    const double turn = 2.0 * kPi * a / kAround;
                    const Vec3 axis = std::cos(radians(lean)) * wish + std::sin(radians(lean)) * (std::cos(turn) * u + std::sin(turn) * v);
                    const double off = angleBetween(axis, Vec3::UnitZ());
                    if (off < freedom.low || off > freedom.high || (freedom.reached && !freedom.reached(axis))) continue;
                    if (!guard.hit(freedom.turned(*at.pass, at.at, axis), Contact::Cutting)) least = radians(lean);
                }
            if (!least) return std::nullopt;
            most = std::max(most, *least);
        }
        return most;
    }

    const Workplace& m_place;
    const Recipe& m_recipe;
    const OperationResult& m_result;
    double m_meant = 0.0;
    std::vector<std::pair<const Pass*, std::size_t>> m_places;
};

} // namespace

double complianceOf(const Assembly& tool) {
    const Cutter& c = tool.cutter;
    constexpr double kCore = 0.8;
    const double fluted = std::min(tool.stickOut, c.fluteLength), shoulder = std::max(fluted, std::min(tool.stickOut, c.shoulderLength));
    const auto part = [](double from, double to, double diameter) { return (to * to * to - from * from * from) / (3.0 * std::pow(std::max(diameter, 1e-3), 4.0)); };
    // A taper's flutes grow thicker on their way up.
    const double upper = c.diameter + 2.0 * c.fluteLength * std::tan(radians(usedBy(c.shape).taper ? c.taperDegrees : 0.0));
    double sum = 0.0;
    constexpr int kParts = 16;
    for (int k = 0; k < kParts; ++k) {
        const double a = fluted * k / kParts, b = fluted * (k + 1) / kParts, share = (k + 0.5) / kParts * (c.fluteLength > 0.0 ? fluted / c.fluteLength : 0.0);
        sum += part(a, b, kCore * (c.diameter + share * (upper - c.diameter)));
    }
    return sum + part(fluted, shoulder, c.neckDiameter > 0.0 ? c.neckDiameter : c.shankDiameter) + part(shoulder, tool.stickOut, c.shankDiameter);
}

Result<std::vector<AssemblyFit>> assembliesFor(const Workplace& place, const Recipe& recipe, const OperationResult& result, const std::vector<Assembly>& tools,
                                               double step, Progress& progress) {
    if (!result.passes || result.passes->empty() || !result.scene)
        return fail("the operation has no passes that a tool could reach", recipe.name, "Let it be computed first");
    const Fitting fitting(place, recipe, result);
    std::vector<AssemblyFit> out;
    for (std::size_t k = 0; k < tools.size(); ++k) {
        const Progress::Span span(progress, static_cast<double>(k) / static_cast<double>(tools.size()), static_cast<double>(k + 1) / static_cast<double>(tools.size()));
        if (!suits(tools[k].cutter, result.tool.cutter)) continue;
        progress.report(0.0, "Trying " + tools[k].name);
        out.push_back(fitting.fit(tools[k], std::max(step, 0.01), progress));
        if (progress.cancelled()) return cancelledError();
    }
    std::stable_sort(out.begin(), out.end(), [](const AssemblyFit& a, const AssemblyFit& b) {
        if (a.reached != b.reached) return a.reached > b.reached;
        if (a.sameCut != b.sameCut) return a.sameCut;
        return a.stiffness > b.stiffness;
    });
    return out;
}

} // namespace gyre
