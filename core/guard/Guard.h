// Stage 4, Guard: shank, holder and cutter against everything that must not be touched.
#pragma once
#include "base/Boxed.h"
#include "base/Finding.h"
#include "base/Progress.h"
#include "base/Units.h"
#include "guard/Obstacle.h"
#include "path/Pass.h"
#include "tool/Assembly.h"
#include <array>
#include <functional>
#include <memory>
#include <optional>

namespace gyre {

struct GuardSpec;
extern template class Boxed<GuardSpec>;

struct Hit {
    Zone zone;
    std::size_t obstacle;
    bool operator==(const Hit&) const = default;
};

/// What may be touched: while cutting the cutter touches the part; in free motion nothing comes near anything.
enum class Contact { Cutting, Free };

struct ZoneClearance {
    double shank = 1e9, holder = 1e9; ///< mm, never more than the limit asked for
    int shankObstacle = -1, holderObstacle = -1;
};

/// Where the answers before lay, per obstacle: neighbours on a path mostly share them.
struct ClearanceHints {
    std::vector<std::uint32_t> shank, holder;
};

/// The same for the yes/no questions; made by Guard::hints().
struct HitHints {
    std::vector<std::uint32_t> body, end;
};

/// Answers for one assembly in one scene. Const and thread-safe.
class Guard {
public:
    /// @param pathTolerance how far the path itself may lie from the true surface; the cutter may enter the part by that much more
    /// @param meant  mm along its axis that the cutter is to stand in the part: what it makes is not in the model. Whatever it would meet when drawn
    ///               back by that is protected as ever.
    Guard(const Assembly& assembly, const Scene& scene, const GuardSpec& spec, double pathTolerance, double meant = 0.0);

    /// What is nearer than its clearance plus `grow`?
    [[nodiscard]] std::optional<Hit> hit(const AxisPose& pose, Contact contact, double grow = 0.0) const;
    [[nodiscard]] std::optional<Hit> hit(const AxisPose& pose, Contact contact, double grow, HitHints& hints) const;
    /// Only whether.
    [[nodiscard]] bool blocked(const AxisPose& pose, double grow, HitHints& hints) const;
    /// What comes too near on the way from a to b (tip straight, axis on a great circle)? Certain to 0.01 mm: nothing can slip
    /// through between samples, since every point of the tool moves less than the way left over. Only the cutting end, which
    /// slides along the part and so is always near it, is looked at against the part every 0.5 mm instead.
    /// @param hints  only make it quicker
    [[nodiscard]] std::optional<Hit> sweep(const AxisPose& a, const AxisPose& b, Contact contact, HitHints* hints = nullptr) const;
    /// The same, but every zone with every body that it comes too near to: none hides another.
    [[nodiscard]] std::vector<Hit> sweepAll(const AxisPose& a, const AxisPose& b, Contact contact, HitHints* hints = nullptr) const;
    [[nodiscard]] HitHints hints() const { return {std::vector<std::uint32_t>(m_scene->size(), UINT32_MAX), std::vector<std::uint32_t>(m_scene->size(), UINT32_MAX)}; }
    /// @param hints  only make it quicker; start with empty ones
    [[nodiscard]] ZoneClearance clearance(const AxisPose& pose, double limit, ClearanceHints* hints = nullptr) const;
    /// Does the cutter enter its triangles deeper than it may there?
    [[nodiscard]] bool overcuts(const AxisPose& pose, std::size_t obstacle) const;
    /// Of one zone from one obstacle, mm; never more than `limit`.
    [[nodiscard]] double clearanceOf(Zone zone, std::size_t obstacle, const AxisPose& pose, double limit) const;
    /// How deep the cutter enters an obstacle, mm; 0 when it does not. From the cutter's surface to the point furthest in; where the cutter has sunk in
    /// over its radius, what the tip is away from the surface.
    [[nodiscard]] double gouge(const AxisPose& pose, std::size_t obstacle) const;
    /// Least lift along the axis after which nothing is too near and the cutter enters nothing; nullopt above `limit`.
    [[nodiscard]] std::optional<double> lift(const AxisPose& pose, double limit) const;
    /// Least extra stick-out that frees the holder; nullopt above `limit`.
    [[nodiscard]] std::optional<double> extraStickOut(const AxisPose& pose, double limit) const;

    [[nodiscard]] const Scene& scene() const { return *m_scene; }
    [[nodiscard]] const GuardSpec& spec() const { return m_spec; }
    [[nodiscard]] const Assembly& assembly() const { return m_assembly; }

private:
    struct Set { ///< pieces with the clearances that hold against one kind of obstacle
        std::vector<RoundedFrustum> pieces;
        std::vector<double> clearance;
        std::vector<Zone> zones;
    };
    struct Extent { ///< of an obstacle
        Box whole;
        std::vector<Box> pieces;
    };
    [[nodiscard]] bool looksAt(const Obstacle& o) const;
    [[nodiscard]] std::optional<Hit> sweepWith(const AxisPose& a, const AxisPose& b, Contact contact, HitHints& hints) const;
    [[nodiscard]] std::optional<Hit> certain(const AxisPose& a, const AxisPose& b, Contact contact, HitHints& hints) const;
    [[nodiscard]] std::optional<Hit> bodyHit(const AxisPose& pose, Contact contact, double grow, HitHints& hints) const;
    [[nodiscard]] std::optional<Hit> endHit(const AxisPose& pose, HitHints& hints) const;
    [[nodiscard]] bool meets(const MeshTree& tree, const AxisPose& pose, double by) const; ///< the cutter, smaller by that much all around
    [[nodiscard]] double deepest(const MeshTree& tree, const AxisPose& pose) const;
    [[nodiscard]] bool endEnters(std::size_t obstacle, const AxisPose& pose, std::uint32_t* hint) const;
    [[nodiscard]] bool certainOf(std::size_t obstacle, const Set& set, const AxisPose& a, const AxisPose& b) const;
    [[nodiscard]] std::optional<Zone> hitOf(std::size_t obstacle, const MeshTree& tree, const Set& set, const AxisPose& pose, double grow, std::uint32_t* hint,
                                            bool whichZone = true) const;
    [[nodiscard]] const Set& bodySet(const Obstacle& o, Contact contact) const {
        if (o.kind == ObstacleKind::Check) return contact == Contact::Cutting ? m_checks[static_cast<std::size_t>(&o - m_scene->data())] : m_none;
        return o.kind != ObstacleKind::Part ? m_others : contact == Contact::Cutting ? m_cutting : m_free;
    }
    [[nodiscard]] double distanceTo(std::size_t obstacle, const std::vector<RoundedFrustum>& pieces, const AxisPose& pose, double limit, std::uint32_t* hint) const;
    [[nodiscard]] std::optional<double> escape(const AxisPose& pose, double limit, bool holderOnly) const;

    const Scene* m_scene;
    std::vector<Extent> m_extents; ///< by obstacle
    Boxed<GuardSpec> m_spec;
    Assembly m_assembly;
    Set m_cutting, m_cuttingEnd, m_free, m_others;
    std::array<Set, 3> m_byZone;
    std::vector<Set> m_checks; ///< by obstacle: the cutting end against check faces
    Set m_none;
    std::vector<Set> m_ownEnds; ///< by obstacle: the cutting end against faces with a tolerance of their own
    std::vector<RoundedFrustum> m_shank, m_holder, m_cutter;
    double m_reach = 0.0; ///< furthest point of the assembly from the tip
    double m_sink = 0.0;  ///< how deep the cutter may sit in the part
    double m_meant = 0.0;
    [[nodiscard]] AxisPose drawnBack(const Obstacle& o, const AxisPose& pose) const {
        return o.kind == ObstacleKind::Part ? AxisPose{pose.tip + m_meant * pose.axis, pose.axis} : pose;
    }
};

/// A stretch of a pass that comes too near to something.
struct Hazard {
    std::size_t pass, first, last;
    Zone zone;
    std::size_t obstacle;
    double least = 0.0; ///< clearance at the worst place; for the cutter: −depth
    std::size_t worst = 0;
};

struct GuardResult {
    std::vector<Pass> passes;
    std::vector<Hazard> hazards; ///< what is left after the response, by pass and location
    std::vector<Finding> findings;
    std::optional<double> stickOut; ///< that would free the holder everywhere; empty when it is free or none would do
    std::size_t leaned = 0, lifted = 0, dropped = 0;
};

/// What the axis of an operation may do while what it cuts stays as it is.
struct Freedom {
    /// Where the tool stands with another axis at a location of a pass; empty: its axis is not free.
    std::function<AxisPose(const Pass& pass, std::size_t location, const Vec3& axis)> turned{};
    bool tipTouches = false;                         ///< what counts as its contact is the tip, and moves with it
    std::function<bool(const Vec3& axis)> reached{}; ///< can the machine stand like that? Empty: always
    double low = 0.0, high = kPi;                    ///< rad, window of the angle to the datum's Z
    double steepest = 0.0;                           ///< rad/mm that it may turn; 0: as leaning asks
};

[[nodiscard]] Result<GuardResult> guardPasses(const Guard& guard, std::vector<Pass> passes, Progress& progress, const Freedom& freedom = {});

} // namespace gyre
