#include "guard/Guard.h"
#include "base/BoxedWhole.h"
#include "guard/GuardSpec.h"
#include "tool/Depth.h"
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr double kResolution = 0.01; // mm: ways are not divided further
constexpr double kEndEvery = 0.5;    // mm: the cutting end is looked at so often
constexpr double kTouch = 1e-7;      // mm: nearer than this is met; bodies without a rounding that overlap are 0 apart, no less

ConvexBody placed(const RoundedFrustum& f, const AxisPose& pose) {
    ConvexBody b = ConvexBody::turned(f);
    b.frame.linear().col(0) = anyPerpendicular(pose.axis);
    b.frame.linear().col(1) = pose.axis.cross(b.frame.linear().col(0));
    b.frame.linear().col(2) = pose.axis;
    b.frame.translation() = pose.tip;
    return b;
}

// Can no point of the piece be nearer to anything in the box than `limit`?
bool farFrom(const Box& box, const RoundedFrustum& piece, const AxisPose& pose, double limit) {
    const Vec3 middle = pose.tip + 0.5 * (piece.low() + piece.high()) * pose.axis;
    return box.distance(middle) > limit + std::hypot(piece.radius(), 0.5 * (piece.high() - piece.low()));
}

} // namespace

Guard::Guard(const Assembly& assembly, const Scene& scene, const GuardSpec& spec, double pathTolerance, double meant)
    : m_scene(&scene), m_spec(spec), m_assembly(assembly), m_sink(spec.gougeTolerance + pathTolerance), m_meant(meant) {
    double allowance = 0.0;
    m_ownEnds.resize(scene.size());
    m_checks.resize(scene.size());
    for (const auto& o : scene) {
        Extent& e = m_extents.emplace_back();
        e.whole = o.tree.bounds();
        for (const ConvexBody& b : o.pieces) e.whole.add(e.pieces.emplace_back(b.bounds()));
        if (o.kind == ObstacleKind::Part) allowance = std::max(allowance, o.allowance);
    }
    const auto add = [](Set& s, const RoundedFrustum& f, Zone z, double clearance) {
        s.pieces.push_back(f);
        s.clearance.push_back(clearance);
        s.zones.push_back(z);
    };
    const std::size_t cuttingPieces = cuttingZone(assembly.cutter).size();
    for (const Piece& p : piecesOf(assembly)) {
        m_reach = std::max({m_reach, std::hypot(p.shape.radius(), p.shape.high()), std::hypot(p.shape.radius(), p.shape.low())});
        const double clearance = p.zone == Zone::Holder ? spec.holderClearance : spec.shankClearance;
        add(m_others, p.shape, p.zone, clearance);
        add(m_free, p.shape, p.zone, clearance);
        add(m_byZone[static_cast<std::size_t>(p.zone)], p.shape, p.zone, clearance);
        if (p.zone == Zone::Cutter) {
            const bool last = m_cutter.size() + 1 == cuttingPieces;
            // The triangles may stand out of the true surface by the allowance, which hit() adds to every clearance again.
            if (const auto s = thinned(p.shape, m_sink + 2.0 * allowance, m_cutter.empty(), last)) add(m_cuttingEnd, *s, p.zone, kTouch);
            for (std::size_t i = 0; i < scene.size(); ++i)
                if (scene[i].own)
                    if (const auto s = thinned(p.shape, std::max(spec.gougeTolerance, scene[i].ownTolerance) + pathTolerance + 2.0 * allowance, m_cutter.empty(), last))
                        add(m_ownEnds[i], *s, p.zone, kTouch);
            for (std::size_t i = 0; i < scene.size(); ++i) {
                if (scene[i].kind != ObstacleKind::Check) continue;
                // Contacts lie within the path's tolerance; faces that touch those that are cut are met at their common edge.
                const double off = scene[i].keepOff - pathTolerance;
                if (off > 0.0)
                    add(m_checks[i], p.shape, p.zone, off);
                else if (const auto s = thinned(p.shape, -off + 2.0 * scene[i].allowance, m_cutter.empty(), last))
                    add(m_checks[i], *s, p.zone, kTouch);
            }
            m_cutter.push_back(p.shape);
        } else {
            add(m_cutting, p.shape, p.zone, clearance);
            (p.zone == Zone::Shank ? m_shank : m_holder).push_back(p.shape);
        }
    }
}

std::string Obstacle::called() const { return within > 0.0 ? fmt::format("{} (which may stand {:g} mm off)", name, within) : name; }

bool Guard::looksAt(const Obstacle& o) const {
    if (o.kind == ObstacleKind::Check) return true;
    return o.kind == ObstacleKind::Part ? m_spec->part : o.kind == ObstacleKind::Fixture ? m_spec->fixture : m_spec->machine;
}

std::optional<Zone> Guard::hitOf(std::size_t obstacle, const MeshTree& tree, const Set& set, const AxisPose& pose, double grow, std::uint32_t* hint,
                                 bool whichZone) const {
    const Obstacle& o = (*m_scene)[obstacle];
    const Extent& extent = m_extents[obstacle];
    const double extra = grow + o.allowance;
    std::array<double, 96> clearance; // not filled in beyond n
    const std::size_t n = std::min(set.pieces.size(), clearance.size());
    bool near = false;
    for (std::size_t i = 0; i < n; ++i) {
        clearance[i] = set.clearance[i] + extra;
        near = near || !farFrom(extent.whole, set.pieces[i], pose, clearance[i]);
    }
    if (!near) return std::nullopt;
    if (tree.anyWithin(pose, set.pieces.data(), clearance.data(), n, hint)) {
        if (!whichZone) return set.zones.front();
        // Pieces stand zone by zone, the gravest, nearest to the spindle, last.
        for (std::size_t end = n; end > 0;) {
            std::size_t first = end - 1;
            while (first > 0 && set.zones[first - 1] == set.zones[first]) --first;
            if (first == 0 || tree.anyWithin(pose, set.pieces.data() + first, clearance.data() + first, end - first)) return set.zones[first];
            end = first;
        }
    }
    for (std::size_t i = n; i-- > 0;)
        for (std::size_t b = 0; b < o.pieces.size(); ++b) {
            const double limit = clearance[i] - o.allowance;
            if (!farFrom(extent.pieces[b], set.pieces[i], pose, limit) && convexWithin(o.pieces[b], placed(set.pieces[i], pose), limit)) return set.zones[i];
        }
    return std::nullopt;
}

// Everything but the cutting end against the part.
std::optional<Hit> Guard::bodyHit(const AxisPose& pose, Contact contact, double grow, HitHints& hints) const {
    for (std::size_t i = 0; i < m_scene->size(); ++i) {
        const Obstacle& o = (*m_scene)[i];
        if (!looksAt(o)) continue;
        if (const auto zone = hitOf(i, o.tree, bodySet(o, contact), pose, grow, &hints.body[i])) return Hit{*zone, i};
    }
    return std::nullopt;
}

std::optional<Hit> Guard::endHit(const AxisPose& pose, HitHints& hints) const {
    for (std::size_t i = 0; i < m_scene->size(); ++i) {
        const Obstacle& o = (*m_scene)[i];
        if (o.kind == ObstacleKind::Part && looksAt(o) && endEnters(i, pose, &hints.end[i])) return Hit{Zone::Cutter, i};
    }
    return std::nullopt;
}

bool Guard::endEnters(std::size_t obstacle, const AxisPose& at, std::uint32_t* hint) const {
    const Obstacle& o = (*m_scene)[obstacle];
    const AxisPose pose = drawnBack(o, at);
    return hitOf(obstacle, o.cutTree(), m_cuttingEnd, pose, 0.0, hint, false) || (o.own && hitOf(obstacle, *o.own, m_ownEnds[obstacle], pose, 0.0, nullptr, false));
}

std::optional<Hit> Guard::hit(const AxisPose& pose, Contact contact, double grow) const {
    HitHints hints = this->hints();
    return hit(pose, contact, grow, hints);
}

std::optional<Hit> Guard::hit(const AxisPose& pose, Contact contact, double grow, HitHints& hints) const {
    if (const auto h = bodyHit(pose, contact, grow, hints)) return h;
    return contact == Contact::Cutting ? endHit(pose, hints) : std::nullopt;
}

bool Guard::blocked(const AxisPose& pose, double grow, HitHints& hints) const {
    for (std::size_t i = 0; i < m_scene->size(); ++i) {
        const Obstacle& o = (*m_scene)[i];
        if (!looksAt(o)) continue;
        if (hitOf(i, o.tree, bodySet(o, Contact::Cutting), pose, grow, &hints.body[i], false)) return true;
        if (o.kind == ObstacleKind::Part && endEnters(i, pose, &hints.end[i])) return true;
    }
    return false;
}

std::optional<Hit> Guard::sweep(const AxisPose& a, const AxisPose& b, Contact contact, HitHints* hints) const {
    if (hints) return sweepWith(a, b, contact, *hints);
    HitHints own = this->hints();
    return sweepWith(a, b, contact, own);
}

std::optional<Hit> Guard::sweepWith(const AxisPose& a, const AxisPose& b, Contact contact, HitHints& hints) const {
    if (const auto h = certain(a, b, contact, hints)) return h;
    if (contact == Contact::Free) return std::nullopt;
    const int n = std::max(1, static_cast<int>(std::ceil((b.tip - a.tip).norm() / kEndEvery)));
    for (int i = 1; i <= n; ++i) {
        const double t = static_cast<double>(i) / n;
        if (const auto h = endHit({(1.0 - t) * a.tip + t * b.tip, slerp(a.axis, b.axis, t)}, hints)) return h;
    }
    return std::nullopt;
}

std::vector<Hit> Guard::sweepAll(const AxisPose& a, const AxisPose& b, Contact contact, HitHints* hints) const {
    std::vector<Hit> out;
    if (!sweep(a, b, contact, hints)) return out;
    for (std::size_t i = 0; i < m_scene->size(); ++i) {
        const Obstacle& o = (*m_scene)[i];
        if (!looksAt(o)) continue;
        const bool cuts = o.kind == ObstacleKind::Part && contact == Contact::Cutting;
        bool end = false;
        if (cuts) {
            const int n = std::max(1, static_cast<int>(std::ceil((b.tip - a.tip).norm() / kEndEvery)));
            for (int k = 1; k <= n && !end; ++k) {
                const double t = static_cast<double>(k) / n;
                end = endEnters(i, {(1.0 - t) * a.tip + t * b.tip, slerp(a.axis, b.axis, t)}, nullptr);
            }
        }
        if (o.kind == ObstacleKind::Check) {
            if (contact == Contact::Cutting && certainOf(i, m_checks[i], a, b)) out.push_back({Zone::Cutter, i});
            continue;
        }
        for (const Zone zone : {Zone::Cutter, Zone::Shank, Zone::Holder})
            if (zone == Zone::Cutter && cuts ? end : certainOf(i, m_byZone[static_cast<std::size_t>(zone)], a, b)) out.push_back({zone, i});
    }
    return out;
}

// As certain(), for one body and some pieces.
bool Guard::certainOf(std::size_t obstacle, const Set& set, const AxisPose& a, const AxisPose& b) const {
    const double way = (b.tip - a.tip).norm() + angleBetween(a.axis, b.axis) * m_reach;
    const AxisPose middle{0.5 * (a.tip + b.tip), slerp(a.axis, b.axis, 0.5)};
    const MeshTree& tree = (*m_scene)[obstacle].tree;
    if (set.pieces.empty() || !hitOf(obstacle, tree, set, middle, 0.5 * way, nullptr, false)) return false;
    if (way < kResolution || hitOf(obstacle, tree, set, middle, 0.0, nullptr, false)) return true;
    return certainOf(obstacle, set, a, middle) || certainOf(obstacle, set, middle, b);
}

std::optional<Hit> Guard::certain(const AxisPose& a, const AxisPose& b, Contact contact, HitHints& hints) const {
    const double way = (b.tip - a.tip).norm() + angleBetween(a.axis, b.axis) * m_reach;
    const AxisPose middle{0.5 * (a.tip + b.tip), slerp(a.axis, b.axis, 0.5)};
    const auto grown = bodyHit(middle, contact, 0.5 * way, hints);
    if (!grown) return std::nullopt;
    if (way < kResolution) return grown;
    if (const auto now = bodyHit(middle, contact, 0.0, hints)) return now;
    if (const auto left = certain(a, middle, contact, hints)) return left;
    return certain(middle, b, contact, hints);
}

double Guard::distanceTo(std::size_t obstacle, const std::vector<RoundedFrustum>& pieces, const AxisPose& pose, double limit, std::uint32_t* hint) const {
    const Obstacle& o = (*m_scene)[obstacle];
    const Extent& extent = m_extents[obstacle];
    if (std::all_of(pieces.begin(), pieces.end(), [&](const RoundedFrustum& p) { return farFrom(extent.whole, p, pose, limit + o.allowance); })) return limit;
    double best = std::min(limit, o.tree.distance(pose, pieces.data(), pieces.size(), limit + o.allowance, hint) - o.allowance);
    for (const auto& piece : pieces)
        for (std::size_t b = 0; b < o.pieces.size(); ++b)
            if (!farFrom(extent.pieces[b], piece, pose, best)) best = std::min(best, convexDistance(o.pieces[b], placed(piece, pose)).value);
    return best;
}

ZoneClearance Guard::clearance(const AxisPose& pose, double limit, ClearanceHints* hints) const {
    if (hints && hints->shank.size() != m_scene->size()) hints->shank = hints->holder = std::vector<std::uint32_t>(m_scene->size(), UINT32_MAX);
    ZoneClearance out;
    out.shank = out.holder = limit;
    for (std::size_t i = 0; i < m_scene->size(); ++i) {
        const Obstacle& o = (*m_scene)[i];
        if (!looksAt(o) || o.kind == ObstacleKind::Check) continue;
        const double s = distanceTo(i, m_shank, pose, out.shank, hints ? &hints->shank[i] : nullptr);
        const double h = distanceTo(i, m_holder, pose, out.holder, hints ? &hints->holder[i] : nullptr);
        if (s < out.shank) {
            out.shank = s;
            out.shankObstacle = static_cast<int>(i);
        }
        if (h < out.holder) {
            out.holder = h;
            out.holderObstacle = static_cast<int>(i);
        }
    }
    return out;
}

double Guard::clearanceOf(Zone zone, std::size_t obstacle, const AxisPose& pose, double limit) const {
    return distanceTo(obstacle, zone == Zone::Cutter ? m_cutter : zone == Zone::Shank ? m_shank : m_holder, pose, limit, nullptr);
}

bool Guard::meets(const MeshTree& tree, const AxisPose& pose, double by) const {
    const std::vector<RoundedFrustum> end = by > 0.0 ? thinnedEnd(m_cutter, by) : m_cutter;
    const std::vector<double> touching(end.size(), kTouch);
    return !end.empty() && tree.anyWithin(pose, end.data(), touching.data(), end.size());
}

// The largest amount by which the cutter can be made smaller and still meets the body.
double Guard::deepest(const MeshTree& tree, const AxisPose& pose) const {
    if (!meets(tree, pose, 0.0)) return 0.0;
    double in = 0.0, out = 0.0;
    for (const RoundedFrustum& f : m_cutter) out = std::max(out, f.radius());
    while (out - in > 4e-7) (meets(tree, pose, 0.5 * (in + out)) ? in : out) = 0.5 * (in + out);
    return 0.5 * (in + out);
}

bool Guard::overcuts(const AxisPose& at, std::size_t obstacle) const {
    const Obstacle& o = (*m_scene)[obstacle];
    const AxisPose pose = drawnBack(o, at);
    return meets(o.cutTree(), pose, m_sink) || (o.own && meets(*o.own, pose, m_sink + std::max(0.0, o.ownTolerance - m_spec->gougeTolerance)));
}

double Guard::gouge(const AxisPose& at, std::size_t obstacle) const {
    const Obstacle& o = (*m_scene)[obstacle];
    const AxisPose pose = drawnBack(o, at);
    double depth = deepest(o.cutTree(), pose);
    if (o.own) depth = std::max(depth, deepest(*o.own, pose));
    for (const ConvexBody& body : o.pieces)
        for (const RoundedFrustum& piece : m_cutter)
            if (const double d = convexDistance(body, placed(piece, pose)).value; d < 0.0) depth = std::max(depth, -d);
    // Sunk in as deep as it is wide: the sides are no measure any more.
    if (depth > 0.45 * m_assembly.cutter.diameter) {
        const RoundedFrustum tip{0.0, 0.0, 0.0, 0.0, 0.0};
        depth = std::max(depth, o.cutTree().distance(pose, &tip, 1, 1000.0));
    }
    return depth;
}

std::optional<double> Guard::escape(const AxisPose& pose, double limit, bool holderOnly) const {
    double lifted = 0.0;
    for (int i = 0; i < 400 && lifted <= limit; ++i) {
        const AxisPose here{pose.tip + lifted * pose.axis, pose.axis};
        double more = 0.0;
        for (std::size_t n = 0; n < m_scene->size(); ++n) {
            const Obstacle& o = (*m_scene)[n];
            if (!looksAt(o)) continue;
            const Set& all = bodySet(o, Contact::Cutting);
            Set holder;
            if (holderOnly)
                for (std::size_t k = 0; k < all.pieces.size(); ++k)
                    if (all.zones[k] == Zone::Holder) {
                        holder.pieces.push_back(all.pieces[k]);
                        holder.clearance.push_back(all.clearance[k]);
                        holder.zones.push_back(Zone::Holder);
                    }
            const Set& set = holderOnly ? holder : all;
            std::vector<double> clearance = set.clearance;
            for (double& c : clearance) c += o.allowance;
            o.tree.forEachWithin(here, set.pieces.data(), clearance.data(), set.pieces.size(), [&](const auto& t, std::uint32_t, std::size_t k) {
                more = std::max(more, axialEscape(set.pieces[k], t, clearance[k]));
                return true;
            });
            if (!holderOnly && o.kind == ObstacleKind::Part) {
                const AxisPose back = drawnBack(o, here);
                const auto offTree = [&](const MeshTree& tree, const Set& end) {
                    const std::vector<double> off(end.pieces.size(), o.allowance + kTouch);
                    tree.forEachWithin(back, end.pieces.data(), off.data(), end.pieces.size(), [&](const auto& t, std::uint32_t, std::size_t k) {
                        more = std::max(more, axialEscape(end.pieces[k], t, off[k]));
                        return true;
                    });
                };
                offTree(o.cutTree(), m_cuttingEnd);
                if (o.own) offTree(*o.own, m_ownEnds[n]);
            }
            for (std::size_t k = 0; k < set.pieces.size(); ++k)
                for (std::size_t b = 0; b < o.pieces.size(); ++b) {
                    if (farFrom(m_extents[n].pieces[b], set.pieces[k], here, set.clearance[k])) continue;
                    // Nearer than allowed: at least the shortfall is needed.
                    const double d = convexDistance(o.pieces[b], placed(set.pieces[k], here)).value;
                    if (d < set.clearance[k]) more = std::max(more, std::max(0.05, set.clearance[k] - d));
                }
        }
        if (more <= 0.0) return lifted;
        lifted += more + 1e-6;
    }
    return std::nullopt;
}

std::optional<double> Guard::lift(const AxisPose& pose, double limit) const { return escape(pose, limit, false); }
std::optional<double> Guard::extraStickOut(const AxisPose& pose, double limit) const { return escape(pose, limit, true); }

template class Boxed<GuardSpec>;

} // namespace gyre
