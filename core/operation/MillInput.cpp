#include "operation/MillInput.h"
#include "base/Hash.h"
#include "machine/Reach.h"
#include <algorithm>
#include <cstdlib>

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

Result<GatheredMill> gatherMill(const Workplace& place, const Recipe& recipe) {
    GatheredMill out;
    MillInput& in = out.input;
    in.part = place.part.get();
    in.planes = recipe.planes;
    auto faces = resolveFaces(*place.part, recipe.target.faces);
    if (!faces) return tl::unexpected(faces.error());
    auto edges = resolveEdges(*place.part, recipe.target.edges);
    if (!edges) return tl::unexpected(edges.error());
    auto profile = resolveEdges(*place.part, recipe.target.profile);
    if (!profile) return tl::unexpected(profile.error());
    in.faces = std::move(*faces);
    in.profile = std::move(*profile);
    auto curves = curvesOf(*place.part, std::move(*edges));
    if (!curves) return tl::unexpected(curves.error());
    in.curves = std::move(*curves);
    Hash drawn;
    for (const std::string& name : recipe.target.drawings) {
        const auto found = curvesNamed(place, name);
        if (!found) return tl::unexpected(found.error());
        for (const Curve& c : found->curves) {
            (found->flat ? in.drawn : in.curves).push_back(c);
            drawn.add(found->flat ? 1.0 : 0.0);
            for (const CurveKnot& k : c.knots()) drawn.add(k.point.x()).add(k.point.y()).add(k.point.z());
        }
    }
    out.curves = drawn.value();
    if (const auto line = rotaryLine(*place.machine, place.partFrame)) in.rotary.push_back(*line);
    in.body = place.part->body() ? place.part->body().get() : place.part.get();
    in.model = &in.body->tree();
    for (const PlacedBody& b : place.bodies)
        if (b.role == "stock") in.stock.push_back(&b.shape->tree());
    return out;
}

Result<Sheet> sheetShown(const Workplace& place, const Recipe& recipe) {
    if (!place.part) return fail("the job has no part", {}, "Open a part in Set up");
    auto gathered = gatherMill(place, recipe);
    if (!gathered) return tl::unexpected(gathered.error());
    auto sheet = sheetOf(gathered->input, recipe.mill);
    if (sheet || recipe.mill.on.rfind("round ", 0) != 0) return sheet;
    // Nothing tells the radius yet: that of the part.
    MillSpec outside = recipe.mill;
    outside.shape = MillShape::Round;
    return sheetOf(gathered->input, outside);
}

} // namespace gyre
