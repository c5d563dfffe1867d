// A bounding-volume tree over triangles, and the questions asked of it.
#pragma once
#include "geom/RoundedFrustum.h"
#include "geom/TriangleMesh.h"
#include <array>
#include <cstdint>
#include <functional>
#include <vector>

namespace gyre {

/// A pose of something turned about its own z axis: tip and unit axis.
struct AxisPose {
    Vec3 tip;
    Vec3 axis;
};

struct ClosestPoint {
    double distance = 1e300;
    Vec3 point = Vec3::Zero();
    std::uint32_t triangle = 0; ///< index in the mesh the tree was built from
};

struct RayHit {
    double distance = 1e300;
    std::uint32_t triangle = 0;
    bool hit = false;
};

/// A box whose directions may lie askew: low ≤ axesᵀ·p ≤ high.
struct AskewBox {
    Eigen::Matrix3d axes; ///< unit columns at right angles
    Vec3 low, high;
};

/// Triangles in a tree of boxes (surface-area split, four children to a node, up to four triangles to a leaf; boxes and a first
/// look at the triangles in single precision, four at a time, the answer in double). Building: O(n log n). Questions are const and
/// may be asked from several threads.
class MeshTree {
public:
    MeshTree() = default;
    explicit MeshTree(const TriangleMesh& mesh);

    [[nodiscard]] bool empty() const { return m_triangles.empty(); }
    [[nodiscard]] const Box& bounds() const { return m_bounds; }
    [[nodiscard]] std::size_t size() const { return m_triangles.size(); }

    [[nodiscard]] ClosestPoint closest(const Vec3& p, double limit = 1e300) const;
    /// First triangle along the ray from `origin` in the unit direction; triangles are two-sided.
    [[nodiscard]] RayHit ray(const Vec3& origin, const Vec3& direction, double limit = 1e300) const;

    /// Is any triangle nearer than clearance[i] to piece[i]? Typically below a microsecond.
    /// @param hint  index in triangles() of one to try first; left at the one that is too near. The answer never depends on it.
    [[nodiscard]] bool anyWithin(const AxisPose& pose, const RoundedFrustum* pieces, const double* clearance, std::size_t count, std::uint32_t* hint = nullptr) const;
    /// Least distance between the pieces and the triangles; `limit` when none is nearer.
    /// @param hint  index in triangles() of one to try first; left at the nearest one. Along a path that is the answer before.
    [[nodiscard]] double distance(const AxisPose& pose, const RoundedFrustum* pieces, std::size_t count, double limit, std::uint32_t* hint = nullptr) const;
    /// Calls `each` with the triangle (in the pose's coordinates, z along the axis), its index and the piece for every pair
    /// nearer than its clearance; stops when `each` returns false.
    void forEachWithin(const AxisPose& pose, const RoundedFrustum* pieces, const double* clearance, std::size_t count,
                       const std::function<bool(const std::array<Vec3, 3>&, std::uint32_t, std::size_t)>& each) const;
    /// Calls `each` for every triangle that may be nearer than `reach` to what lies in all the boxes; stops when `each` returns false.
    void forEachNear(const std::vector<AskewBox>& boxes, double reach, const std::function<bool(const std::array<Vec3, 3>&, std::uint32_t)>& each) const;
    /// Is any triangle nearer than `reach` to any of the other tree's? `toOther` brings this tree's coordinates into the other's.
    [[nodiscard]] bool anyWithin(const MeshTree& other, const Frame& toOther, double reach) const;
    [[nodiscard]] const std::vector<std::array<Vec3, 3>>& triangles() const { return m_triangles; } ///< in the tree's order

private:
    using Four = Eigen::Array4f;
    struct Node {
        std::array<Four, 3> centre, half;                               ///< of the four children's boxes; grown so that they are never smaller than the true ones
        std::array<std::uint32_t, 4> child{kNone, kNone, kNone, kNone}; ///< a node, or a block of triangles
        std::array<bool, 4> leaf{};
    };
    struct Block {                                 ///< up to four triangles side by side; spare lanes repeat the last one
        std::array<std::array<Four, 3>, 3> corner; ///< [corner][coordinate]
        std::uint32_t first = 0, count = 0;        ///< in m_triangles
    };
    struct Part { ///< a child with its box in double precision
        std::uint32_t child;
        bool leaf;
        Vec3 centre, half;
    };
    struct Builder;
    struct Query;
    static constexpr std::uint32_t kNone = 0xffffffffu;

    /// Walks every node whose gap is negative, the deepest first; `leaf` returns false to stop.
    template <class Gap, class Leaf> bool walk(const Gap& gap, const Leaf& leaf) const;

    [[nodiscard]] std::size_t partsOf(std::uint32_t node, std::array<Part, 4>& parts) const;

    std::vector<Node> m_nodes;
    std::vector<Block> m_blocks;
    std::vector<std::array<Vec3, 3>> m_triangles; ///< in leaf order
    std::vector<std::uint32_t> m_original;
    Box m_bounds;
    double m_rounding = 0.0; ///< how far single precision may move anything in the tree
};

} // namespace gyre
