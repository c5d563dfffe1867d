#include "guard/Guard.h"

namespace gyre {
namespace {

// The same shape, a little smaller all around. Nothing is left of a piece thinner than that.
std::optional<RoundedFrustum> shrunk(RoundedFrustum f, double by) {
    const double ball = std::min(f.round, by);
    f.round -= ball;
    by -= ball;
    if (by <= 0.0) return f;
    f.r0 -= by;
    f.r1 -= by;
    f.z0 += by;
    f.z1 -= by;
    if (f.r0 < 0.0 || f.r1 < 0.0 || f.z1 < f.z0) return std::nullopt;
    return f;
}

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

Guard::Guard(const Assembly& assembly, const Scene& scene, const GuardSpec& spec, double pathTolerance)
    : m_scene(&scene), m_spec(spec), m_assembly(assembly), m_sink(spec.gougeTolerance + pathTolerance) {
    double allowance = 0.0;
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
    for (const Piece& p : piecesOf(assembly)) {
        m_reach = std::max({m_reach, std::hypot(p.shape.radius(), p.shape.high()), std::hypot(p.shape.radius(), p.shape.low())});
        const double clearance = p.zone == Zone::Holder ? spec.holderClearance : spec.shankClearance;
        add(m_others, p.shape, p.zone, clearance);
        add(m_free, p.shape, p.zone, clearance);
        if (p.zone == Zone::Cutter) {
            m_cutter.push_back(p.shape);
            // The triangles may stand out of the true surface by the allowance, which hit() adds to every clearance again.
            if (const auto s = shrunk(p.shape, m_sink + 2.0 * allowance)) add(m_cuttingEnd, *s, p.zone, 0.0);
        } else {
            add(m_cutting, p.shape, p.zone, clearance);
            (p.zone == Zone::Shank ? m_shank : m_holder).push_back(p.shape);
        }
    }
}

bool Guard::looksAt(const Obstacle& o) const { return o.kind == ObstacleKind::Part ? m_spec.part : o.kind == ObstacleKind::Fixture ? m_spec.fixture : m_spec.machine; }

std::optional<Zone> Guard::hitOf(std::size_t obstacle, const MeshTree& tree, const Set& set, const AxisPose& pose, double grow, std::uint32_t* hint) const {
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
        // Which zone? The one nearest to the spindle is the gravest.
        int gravest = 0;
        tree.forEachWithin(pose, set.pieces.data(), clearance.data(), n, [&](const auto&, std::uint32_t, std::size_t k) {
            gravest = std::max(gravest, static_cast<int>(set.zones[k]));
            return gravest < static_cast<int>(Zone::Holder);
        });
        return static_cast<Zone>(gravest);
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
        const Set& set = o.kind != ObstacleKind::Part ? m_others : contact == Contact::Cutting ? m_cutting : m_free;
        if (const auto zone = hitOf(i, o.tree, set, pose, grow, &hints.body[i])) return Hit{*zone, i};
    }
    return std::nullopt;
}

std::optional<Hit> Guard::endHit(const AxisPose& pose, HitHints& hints) const {
    for (std::size_t i = 0; i < m_scene->size(); ++i) {
        const Obstacle& o = (*m_scene)[i];
        if (o.kind == ObstacleKind::Part && looksAt(o) && hitOf(i, o.cutTree(), m_cuttingEnd, pose, 0.0, &hints.end[i])) return Hit{Zone::Cutter, i};
    }
    return std::nullopt;
}

std::optional<Hit> Guard::hit(const AxisPose& pose, Contact contact, double grow) const {
    HitHints hints = this->hints();
    if (const auto h = bodyHit(pose, contact, grow, hints)) return h;
    return contact == Contact::Cutting ? endHit(pose, hints) : std::nullopt;
}

std::optional<Hit> Guard::sweep(const AxisPose& a, const AxisPose& b, Contact contact, HitHints* hints) const {
    if (hints) return sweepWith(a, b, contact, *hints);
    HitHints own = this->hints();
    return sweepWith(a, b, contact, own);
}

std::optional<Hit> Guard::sweepWith(const AxisPose& a, const AxisPose& b, Contact contact, HitHints& hints) const {
    if (const auto h = certain(a, b, contact, hints)) return h;
    if (contact == Contact::Free) return std::nullopt;
    constexpr double kEvery = 0.5;
    const int n = std::max(1, static_cast<int>(std::ceil((b.tip - a.tip).norm() / kEvery)));
    for (int i = 1; i <= n; ++i) {
        const double t = static_cast<double>(i) / n;
        if (const auto h = endHit({(1.0 - t) * a.tip + t * b.tip, slerp(a.axis, b.axis, t)}, hints)) return h;
    }
    return std::nullopt;
}

std::optional<Hit> Guard::certain(const AxisPose& a, const AxisPose& b, Contact contact, HitHints& hints) const {
    constexpr double kResolution = 0.01;
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
        if (!looksAt(o)) continue;
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

double Guard::gouge(const AxisPose& pose, std::size_t obstacle) const {
    return std::max(0.0, -(*m_scene)[obstacle].cutTree().distance(pose, m_cutter.data(), m_cutter.size(), 1.0));
}

std::optional<double> Guard::escape(const AxisPose& pose, double limit, bool holderOnly) const {
    double lifted = 0.0;
    for (int i = 0; i < 400 && lifted <= limit; ++i) {
        const AxisPose here{pose.tip + lifted * pose.axis, pose.axis};
        double more = 0.0;
        for (std::size_t n = 0; n < m_scene->size(); ++n) {
            const Obstacle& o = (*m_scene)[n];
            if (!looksAt(o)) continue;
            const Set& all = o.kind == ObstacleKind::Part ? m_cutting : m_others;
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

} // namespace gyre
