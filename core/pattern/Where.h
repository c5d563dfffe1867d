// Where rows are kept: by the slope of the faces, by height, inside or outside of curves, by what stands of the stock. All that is switched on must hold.
#pragma once
#include "geom/Polyline.h"
#include "geom/TriangleMesh.h"
#include "pattern/WhereSpec.h"
#include <array>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace gyre {

/// What is asked about a point of a face.
using AtPlace = std::function<bool(const Vec3& point, const Vec3& normal)>;

/// What a region goes by besides its words; each is only needed where it counts.
struct WhereHelp {
    std::vector<Polyline> loops;            ///< closed
    std::vector<const TriangleMesh*> faces; ///< whatever lies over or under these lies inside
    AtPlace stands{};                       ///< does stock stand there?
    AtPlace reached{};                      ///< does the tool reach it?
    AtPlace cut{};                          ///< do others cut it?
    Vec3 planeAt = Vec3::Zero(), planeNormal = Vec3::UnitZ();
};

/// Answers for one point of a face after the other.
class WhereKept {
public:
    WhereKept(const WhereSpec& spec, WhereHelp help);
    [[nodiscard]] bool holds(const Vec3& point, const Vec3& normal) const;

private:
    [[nodiscard]] bool onRightSide(const Vec3& point) const;
    [[nodiscard]] bool hidden(const Vec2& p) const;
    struct Side {
        Vec2 from, to;
    };
    using Seen = std::array<Vec2, 3>; ///< a triangle, counter-clockwise
    WhereSpec m_spec;
    AtPlace m_stands, m_reached, m_cut;
    Vec3 m_planeAt, m_planeNormal;
    Vec3 m_axis, m_u, m_v;
    /// By strips of v: what reaches into each.
    template <class T> struct Strips {
        double least = 0.0, wide = 1.0;
        std::vector<std::vector<T>> of;
        void fill(const std::vector<T>& all, const std::function<std::pair<double, double>(const T&)>& reach);
        [[nodiscard]] const std::vector<T>* at(double v) const; ///< null beyond them all
    };
    Strips<Side> m_sides;
    Strips<Seen> m_seen;
};

} // namespace gyre
