#include "milling/Dropper.h"
#include "part/Part.h"
#include "tool/Contact.h"
#include <algorithm>

namespace gyre {

// From above in steps shorter than the cutter is long, so that no triangle slips by; then up again by exactly what the triangles ask for.
double dropOnto(const MeshTree& model, const Cutter& cutter, const AxisPose& pose, double range, double allowance) {
    const std::vector<RoundedFrustum> pieces = cuttingZone(cutter);
    // What is touched lies at distance 0, not below it: look a hair further.
    const std::vector<double> clearance(pieces.size(), allowance + 1e-6);
    double tall = 0.0;
    for (const RoundedFrustum& f : pieces) tall = std::max(tall, f.high());
    const double step = std::clamp(0.4 * tall, 0.05, 1.0);
    const auto at = [&](double down) { return AxisPose{pose.tip - down * pose.axis, pose.axis}; };
    std::uint32_t hint = UINT32_MAX;
    for (double down = 0.0;; down = std::min(range, down + step)) {
        if (model.anyWithin(at(down), pieces.data(), clearance.data(), pieces.size(), &hint)) {
            // Close in first: asking whether is far cheaper than asking how far, and then few triangles are left to ask.
            double clear = std::max(0.0, down - step);
            for (int i = 0; i < 9 && down > clear; ++i) {
                const double middle = 0.5 * (clear + down);
                (model.anyWithin(at(middle), pieces.data(), clearance.data(), pieces.size(), &hint) ? down : clear) = middle;
            }
            for (int i = 0; i < 60; ++i) {
                double more = 0.0;
                model.forEachWithin(at(down), pieces.data(), clearance.data(), pieces.size(), [&](const auto& t, std::uint32_t, std::size_t k) {
                    more = std::max(more, axialEscape(pieces[k], t, clearance[k]));
                    return true;
                });
                if (more <= 0.0) break;
                down -= more + 1e-7;
            }
            return down;
        }
        if (down >= range) return range;
    }
}

namespace {

/// The nearest point of the face's whole surface; of cylinders, which are most of what is wrapped, by their formula.
SurfacePoint footOn(const Part& body, int face, const Vec3& p) {
    const FaceInfo& f = body.faces()[static_cast<std::size_t>(face)];
    const Vec3 arm = rejected(p - f.axisPoint, f.axis);
    if (f.kind != SurfaceKind::Cylinder || f.radius <= 0.0 || arm.norm() < 1e-9) return body.project(face, p);
    const Vec3 out = arm.normalized();
    const double side = f.normal.dot(rejected(f.centre - f.axisPoint, f.axis)) >= 0.0 ? 1.0 : -1.0;
    return {p - arm + f.radius * out, side * out, 0.0, 0.0};
}

} // namespace

// Contact by contact: the exact face's point under the cutter, the tangent plane there, the height at which the cutter rests on that plane;
// the place where it then touches tells the next point. Two or three rounds suffice for the small way from the triangles.
double liftOntoFaces(const Part& body, const Cutter& cutter, const AxisPose& pose, double allowance) {
    const std::vector<RoundedFrustum> pieces = cuttingZone(cutter);
    const double near = 2.0 * body.deflection();
    std::vector<double> clearance(pieces.size(), allowance + near);
    struct Touched {
        int face;
        bool hollow = false;
    };
    std::vector<Touched> touched;
    constexpr std::size_t kMost = 12;
    const auto known = [&](int face) { return std::find_if(touched.begin(), touched.end(), [&](const Touched& t) { return t.face == face; }); };
    body.tree().forEachWithin(pose, pieces.data(), clearance.data(), pieces.size(), [&](const auto&, std::uint32_t triangle, std::size_t) {
        const int face = body.mesh().faces[triangle];
        if (known(face) == touched.end()) touched.push_back({face});
        return touched.size() < kMost;
    });
    double lift = -near;
    bool onAll = !touched.empty() && touched.size() < kMost; // the cutter rests on all that is near, not on an edge of it
    const double middle = contactRadius(cutter);
    for (Touched& t : touched) {
        Vec3 from = pose.tip + middle * pose.axis;
        Vec3 under = Vec3::Zero();
        double need = 0.0;
        bool rests = false, wall = false;
        for (int round = 0; round < 3; ++round) {
            const SurfacePoint s = footOn(body, t.face, from);
            const double lean = s.normal.dot(pose.axis);
            wall = lean < 0.02; // it is not rested on
            if (wall) break;
            const Vec3 contact = s.point + allowance * s.normal;
            const Vec3 tip = tipFromContact(cutter, contact, s.normal, pose.axis).tip;
            need = (tip - pose.tip).dot(s.normal) / lean;
            const Vec3 touches = contact - tip + pose.tip + need * pose.axis; // where the cutter would touch the plane
            rests = std::abs(need) < 4.0 * near;
            under = s.point;
            if ((touches - contact).norm() < 1e-4) break;
            from = touches - allowance * s.normal;
        }
        if (wall) continue;
        if (rests) { // where it touches must be a place of the face as it is trimmed
            const ClosestPoint c = body.tree().closest(under, near);
            rests = c.distance < near && body.mesh().faces[c.triangle] == t.face;
        }
        t.hollow = rests && need < 0.0;
        onAll = onAll && rests;
        if (rests) lift = std::max(lift, need);
    }
    constexpr double kNothing = 1e-5;
    if (lift > -kNothing || !onAll) return std::max(0.0, lift);
    // Down into a hollow: but for its own triangles, which stand out of it, nothing may come nearer.
    const AxisPose lower{pose.tip + lift * pose.axis, pose.axis};
    constexpr double kSlack = 1e-4;
    std::fill(clearance.begin(), clearance.end(), allowance - kSlack);
    bool free = true;
    body.tree().forEachWithin(lower, pieces.data(), clearance.data(), pieces.size(), [&](const auto&, std::uint32_t triangle, std::size_t) {
        const auto t = known(body.mesh().faces[triangle]);
        return free = t != touched.end() && t->hollow;
    });
    return free ? lift : 0.0;
}

Vec3 asideOntoFaces(const Part& body, const Cutter& cutter, const AxisPose& pose, double allowance) {
    const std::vector<RoundedFrustum> pieces = cuttingZone(cutter);
    const double near = 2.0 * body.deflection();
    const std::vector<double> clearance(pieces.size(), allowance + near);
    std::vector<int> faces;
    constexpr std::size_t kMost = 12;
    body.tree().forEachWithin(pose, pieces.data(), clearance.data(), pieces.size(), [&](const auto&, std::uint32_t triangle, std::size_t) {
        const int face = body.mesh().faces[triangle];
        if (std::find(faces.begin(), faces.end(), face) == faces.end()) faces.push_back(face);
        return faces.size() < kMost;
    });
    struct Wall {
        Vec3 out;    ///< unit, square to the axis
        double move; ///< along it until the cutter touches the face
    };
    std::vector<Wall> walls;
    std::size_t level = 0; // faces that a move aside comes no nearer to
    for (const int face : faces) {
        Vec3 from = pose.tip + contactRadius(cutter) * pose.axis;
        for (int round = 0; round < 3; ++round) {
            const SurfacePoint s = footOn(body, face, from);
            const Vec3 contact = s.point + allowance * s.normal, tip = tipFromContact(cutter, contact, s.normal, pose.axis).tip, aside = rejected(s.normal, pose.axis);
            constexpr double kLevel = 0.05;
            if (aside.norm() < kLevel) {
                ++level;
                break;
            }
            const double gap = (tip - pose.tip).dot(s.normal);
            const Vec3 touches = contact - tip + pose.tip + gap * s.normal;
            if ((touches - contact).norm() >= 1e-4 && round < 2) {
                from = touches - allowance * s.normal;
                continue;
            }
            // It must be touched within its trim, not beyond an edge.
            const auto lies = [&](const Vec3& p) {
                const ClosestPoint c = body.tree().closest(p, near);
                return c.distance < near && body.mesh().faces[c.triangle] == face;
            };
            const bool upright = aside.norm() > 1.0 - 1e-9; // the flank touches it all along: at its very foot another face may be as near
            if (std::abs(gap) < 4.0 * near && (lies(s.point) || (upright && lies(s.point + 2.0 * near * pose.axis))))
                walls.push_back({aside.normalized(), gap / aside.norm()});
            break;
        }
    }
    if (walls.empty()) return Vec3::Zero();
    const auto most = std::max_element(walls.begin(), walls.end(), [](const Wall& a, const Wall& b) { return a.move < b.move; });
    if (walls.size() == 1) return most->move > 0.0 || faces.size() == 1 + level ? Vec3(most->move * most->out) : Vec3(Vec3::Zero());
    // Between two walls both are touched; where they are nearly one, the one that asks for more.
    for (const Wall& w : walls) {
        const double cosine = w.out.dot(most->out), sine2 = 1.0 - cosine * cosine;
        if (sine2 < 0.03 || most->move <= 0.0) continue;
        const double a = (most->move - cosine * w.move) / sine2, b = (w.move - cosine * most->move) / sine2;
        return a * most->out + b * w.out;
    }
    return std::max(0.0, most->move) * most->out;
}

} // namespace gyre
