// Along curves.
#include "guided/CurveSpec.h"
#include "guided/Guided.h"
#include "kinds/AlongWork.h"
#include "milling/MillSpec.h"
#include "operation/Meant.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"

namespace gyre {

Result<AlongWork> curveWork(const Workplace& place, const Recipe& r, const Assembly& tool, Progress& progress) {
    GuideInput in;
    in.part = place.part.get();
    auto faces = resolveFaces(*place.part, r.target->faces);
    if (!faces) return tl::unexpected(faces.error());
    if (r.curve->by == CurveBy::Channel) {
        if (faces->empty()) return fail("no channel is picked", {}, "Click its faces");
        PatternSpec one = r.pattern;
        one.kind = PatternBy::Rails;
        one.by = RowsBy::Spacing;
        one.ends = RowEnds::HalfStepIn;
        one.spacing = 1000.0; // a single row, half way between the rails
        if (one.rail1.empty() || one.rail2.empty()) {
            const auto rails = proposeRails(*place.part, *faces);
            if (!rails) return tl::unexpected(rails.error());
            one.rail1.clear();
            one.rail2.clear();
            for (const int e : rails->first.edges) one.rail1.push_back(place.part->edgeRef(e));
            for (const int e : rails->second.edges) one.rail2.push_back(place.part->edgeRef(e));
        }
        auto rows = layRows(*place.part, *faces, one, contactRadius(tool.cutter), progress);
        if (!rows) return tl::unexpected(rows.error());
        in.channel = std::move(rows->rows);
        for (std::size_t i = 0; i < in.channel.size(); ++i) in.channel[i].returning = false;
    } else {
        in.faces = std::move(*faces);
        auto edges = resolveEdges(*place.part, r.target->edges);
        if (!edges) return tl::unexpected(edges.error());
        auto curves = curvesOf(*place.part, *edges);
        if (!curves) return tl::unexpected(curves.error());
        in.curves = std::move(*curves);
        for (const std::string& name : r.target->drawings) {
            const auto named = curvesNamed(place, name);
            if (!named) return tl::unexpected(named.error());
            if (named->flat) return fail("the drawing '" + name + "' lies flat on a sheet", {}, "Put it on a plane or wrap it in Set up first");
            in.curves.insert(in.curves.end(), named->curves.begin(), named->curves.end());
        }
    }
    auto rows = guideRows(in, r.curve, r.pattern->fineness());
    if (!rows) return tl::unexpected(rows.error());
    const auto help = axisHelp(place, r, tool);
    if (!help) return tl::unexpected(help.error());
    auto axes = setAxes(*rows, r.axis, tool.cutter, *help);
    if (!axes) return tl::unexpected(axes.error());
    auto made = guidedPasses(*rows, *axes, r.curve, tool, r.target->leave, r.pattern->chordTolerance);
    if (!made) return tl::unexpected(made.error());
    return AlongWork{std::make_shared<const AlongResult>(std::move(*made)), std::make_shared<const AxisResult>(std::move(*axes)), nullptr};
}

namespace {

// The point that follows the curve stays. A side that follows it cannot lean on its own.
Freedom freedom(const Recipe& r, const Assembly& tool) {
    Freedom out;
    if (r.curve->by == CurveBy::Side) return out;
    const double axial = r.curve->axial;
    if (r.curve->by == CurveBy::Channel) {
        out.turned = [cutter = tool.cutter, axial](const Pass& pass, std::size_t i, const Vec3& axis) {
            return AxisPose{tipFromContact(cutter, pass.path.contact[i], pass.path.normal[i], axis).tip + axial * axis, axis};
        };
        return out;
    }
    const double up = (r.curve->by == CurveBy::BallCentre ? 0.5 * tool.cutter.diameter : 0.0) - axial; // of that point over the tip
    out.tipTouches = true;
    out.turned = [up](const Pass& pass, std::size_t i, const Vec3& axis) { return AxisPose{pass.path.tip[i] + up * (pass.path.axis[i] - axis), axis}; };
    return out;
}

} // namespace

const Definition& curveDefinition() {
    static const Definition definition{
        .kind = OperationKind::Curve,
        .lay = [](Stages& s) { return layAlong(s, curveWork); },
        .facts = factsAlong,
        .drawsPasses = true,
        .meantDepth = [](const Recipe& r) { return r.curve->by != CurveBy::Channel && r.curve->depth > 0.0 ? r.curve->depth + kHair : 0.0; },
        .spacing = [](const Recipe& r) { return r.mill->stepover; },
        .locks = true,
        .freedom = freedom};
    return definition;
}

} // namespace gyre
