// How low a cutter that stays square to a plane may come over a part.
#pragma once
#include "milling/Mill.h"
#include <array>
#include <cstdint>

namespace gyre {

/// For cutters with a level or a round end (flat, ball, corner radius). Body and sheet must outlive it; questions are const and may be asked from several
/// threads.
class Dropper {
public:
    /// @param model  what the cutter is let down on
    /// @param body   its exact faces; null where the triangles are all there is
    /// @param keep   mm between cutter and part
    /// @param bottom mm over the sheet; lower is never gone
    Dropper(const MeshTree& model, const Part* body, const Cutter& cutter, const Sheet& sheet, double keep, double bottom);

    /// Lowest height of the tip over the sheet at which it enters nothing; `bottom` where it may come down to that.
    [[nodiscard]] double height(const Vec2& at) const;
    /// The same on the triangles alone: quicker, and without steps where one face's correction ends.
    [[nodiscard]] double roughHeight(const Vec2& at) const;
    /// A tip at that height that just touches the triangles, moved sideways to touch the exact faces.
    [[nodiscard]] Vec2 onFaces(const Vec2& at, double height) const;
    /// Must the tip stay above that height there? On the triangles, and much quicker than to ask for the lowest height.
    [[nodiscard]] bool standsAbove(const Vec2& at, double height) const;
    /// The part's normal where the cutter touches it with its tip at that height, in the flat: of what it rests on, or else of the wall beside it. From the
    /// triangles; straight up where it touches nothing.
    [[nodiscard]] Vec3 contactNormal(const Vec2& at, double height) const;
    /// Does the cutter rest on something there, rather than on the bottom?
    [[nodiscard]] bool rests(double height) const { return height > m_bottom + kRests; }
    [[nodiscard]] double bottom() const { return m_bottom; }
    [[nodiscard]] const Cutter& cutter() const { return m_cutter; }
    [[nodiscard]] const Sheet& sheet() const { return m_sheet; }
    static constexpr double kRests = 5e-4; ///< mm above the bottom

private:
    struct Facet {
        std::array<Vec3, 3> p;      ///< flat: x, y, height
        Vec3 normal = Vec3::Zero(); ///< unit, upward; zero where it stands upright
        [[nodiscard]] Vec2 low() const { return p[0].head<2>().cwiseMin(p[1].head<2>()).cwiseMin(p[2].head<2>()); }
        [[nodiscard]] Vec2 high() const { return p[0].head<2>().cwiseMax(p[1].head<2>()).cwiseMax(p[2].head<2>()); }
        [[nodiscard]] double top() const { return std::max({p[0].z(), p[1].z(), p[2].z()}); }
    };
    /// A box seen from above with the height of its highest place: of a facet, or of all in a branch of the tree.
    struct Hull {
        Vec2 low, high;
        double top = 0.0;
        std::uint32_t first = 0, facets = 0; ///< of m_facets; 0: a branch, its other half begins at `first`
    };
    [[nodiscard]] double outline(double out) const;
    [[nodiscard]] double over(const Vec2& at, double best, bool any) const;
    void over(const Facet& f, const Vec2& at, double& best) const;
    void overEdge(const Vec3& from, const Vec3& to, const Vec2& at, double& best) const;
    void grow(std::uint32_t first, std::uint32_t last);

    const Part* m_body;
    Cutter m_cutter;
    const Sheet& m_sheet;
    double m_keep, m_bottom;
    double m_radius, m_corner; ///< of the cutter grown by what is kept off, and of its rounding
    std::vector<Facet> m_facets;
    std::vector<Hull> m_tree; ///< every branch is followed by its first half
};

/// How far a cutter that just touches the triangles must move square to its axis to touch the exact faces instead, as liftOntoFaces() tells along it. Zero
/// where it touches an edge.
[[nodiscard]] Vec3 asideOntoFaces(const Part& body, const Cutter& cutter, const AxisPose& pose, double allowance);

/// Points (place, height) along a straight way, so near to each other that the cutter goes straight between them and enters nothing by more than
/// `tolerance`. Where it has to climb a wall it goes up first and then on.
/// @param step  mm between the points to begin with; what is narrower than the cutter's own rounding allows is not missed
[[nodiscard]] std::vector<Vec3> droppedAlong(const Dropper& dropper, const Vec2& from, const Vec2& to, double step, double tolerance);

/// Largest first step for droppedAlong(): what a cutter's rounded part rolls over sags by no more than the tolerance between two points.
[[nodiscard]] double firstStep(const Cutter& cutter, double tolerance);

/// How far a larger cutter, let down where it would touch what a smaller one touches with its tip at (at, height), stays off that place, at most; 0 where it
/// reaches it.
[[nodiscard]] double leftByLarger(const Dropper& smaller, const Dropper& larger, const Vec2& at, double height);

} // namespace gyre
