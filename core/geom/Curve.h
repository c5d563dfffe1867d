// Curves in space: cubic pieces between exact points with exact tangents.
#pragma once
#include "base/Result.h"
#include "geom/Box.h"
#include "geom/Polyline.h"
#include <array>
#include <functional>

namespace gyre {

/// A point of a curve with the unit tangents in which the curve arrives and leaves. They differ at a corner.
struct CurveKnot {
    Vec3 point, before, after;
};

/// Between two knots runs the cubic that follows a circle to the sixth order. A curve sampled from a true one to `kCurveTolerance`
/// answers every question to about that.
inline constexpr double kCurveTolerance = 2e-7; // mm

class Curve {
public:
    Curve() = default;
    Curve(std::vector<CurveKnot> knots, bool closed);

    [[nodiscard]] const std::vector<CurveKnot>& knots() const { return m_knots; }
    [[nodiscard]] bool closed() const { return m_closed; }
    [[nodiscard]] std::size_t pieces() const { return m_knots.size() < 2 ? 0 : m_closed ? m_knots.size() : m_knots.size() - 1; }
    [[nodiscard]] Vec3 at(std::size_t piece, double t) const;
    [[nodiscard]] Vec3 tangent(std::size_t piece, double t) const; ///< unit
    [[nodiscard]] double pieceLength(std::size_t piece) const;
    [[nodiscard]] double length() const;
    [[nodiscard]] Vec3 start() const { return m_knots.front().point; }
    [[nodiscard]] Vec3 end() const { return m_closed ? m_knots.front().point : m_knots.back().point; }
    [[nodiscard]] Box bounds() const;

    struct Place {
        std::size_t piece = 0;
        double t = 0.0;
    };
    /// The place at a length from the start, clamped to the ends; of a closed curve it goes round.
    [[nodiscard]] Place atLength(double s) const;
    [[nodiscard]] double lengthAt(const Place& p) const; ///< from the start to there
    [[nodiscard]] Vec3 at(const Place& p) const { return at(p.piece, p.t); }
    [[nodiscard]] Vec3 tangent(const Place& p) const { return tangent(p.piece, p.t); }

    struct Foot : Place {
        Vec3 point = Vec3::Zero();
        double distance = 1e300;
    };
    [[nodiscard]] Foot closest(const Vec3& p) const;

    /// Points no further from the curve than `tolerance`; a closed one repeats its first point at the end.
    [[nodiscard]] Polyline polyline(double tolerance) const;
    [[nodiscard]] Curve reversed() const;
    [[nodiscard]] Curve moved(const Frame& frame) const;
    /// The stretch between two lengths from the start.
    [[nodiscard]] Curve between(double from, double to) const;

private:
    [[nodiscard]] const std::array<Vec3, 4>& cubic(std::size_t piece) const { return m_cubics[piece]; }
    std::vector<CurveKnot> m_knots;
    std::vector<std::array<Vec3, 4>> m_cubics; ///< of the pieces
    std::vector<double> m_ends;                ///< length from the start to the end of each piece
    bool m_closed = false;
};

/// The point at a fraction of the length.
[[nodiscard]] inline Vec3 pointAt(const Curve& curve, double fraction) { return curve.at(curve.atLength(fraction * curve.length())); }
/// `curve` run the way that suits `beside` better; a closed one starts nearest to the other's start.
[[nodiscard]] Curve alignedWith(const Curve& beside, const Curve& curve);
[[nodiscard]] Curve straightLines(const Polyline& points, bool closed = false);
/// Part of a circle: starts at `from`, turns about the unit axis through `centre` by `angle` (rad, may exceed a turn).
[[nodiscard]] Curve circleArc(const Vec3& centre, const Vec3& axis, const Vec3& from, double angle);
/// A straight line, or an arc whose bulge, tan(¼ of its angle), is not 0; it turns left about `normal` when it is positive.
[[nodiscard]] Curve bulgedLine(const Vec3& from, const Vec3& to, const Vec3& normal, double bulge);
/// Helix about the unit axis: `rise` mm along the axis over `angle` rad.
/// @param growth by how much the pitch, as rise over the whole angle, is larger at the end than at the start; it grows evenly
[[nodiscard]] Curve helix(const Vec3& centre, const Vec3& axis, const Vec3& from, double angle, double rise, double growth = 0.0);

/// Puts pieces one behind the other, each in its own time: what joined() does over and over, but it may pass its own start on the way and closes
/// at the end alone.
class CurveChain {
public:
    explicit CurveChain(double tolerance) : m_tolerance(tolerance) {}
    /// Ends that lie together to the tolerance become one knot, others are joined by a straight line.
    void add(const Curve& piece);
    [[nodiscard]] bool empty() const { return m_knots.empty(); }
    /// The whole, closed when it ends where it begins. The chain is empty then.
    [[nodiscard]] Curve take();

private:
    double m_tolerance;
    std::vector<CurveKnot> m_knots;
};

/// One behind the other; ends that lie together to `tolerance` become one knot, others are joined by a straight line.
[[nodiscard]] Curve joined(const Curve& a, const Curve& b, double tolerance = 1e-4);

/// Samples a function over 0 … 1 so finely that the pieces follow it to `tolerance`; its first error ends the work.
using CurveFunction = std::function<Result<Vec3>(double)>;
[[nodiscard]] Result<Curve> sampled(const CurveFunction& f, double tolerance = kCurveTolerance);
/// The same over every piece of `source`; corners stay corners.
using AlongCurve = std::function<Result<Vec3>(const Curve::Place&)>;
[[nodiscard]] Result<Curve> sampledAlong(const Curve& source, const AlongCurve& f, double tolerance = kCurveTolerance);

/// Every point as far from one curve as from the other. The second is run the other way where that suits better.
[[nodiscard]] Result<Curve> middleOf(const Curve& a, const Curve& b);
/// Fewest knots whose curve stays within `tolerance`; corners are kept.
[[nodiscard]] Curve simplified(const Curve& curve, double tolerance);
/// Without some of its knots, by number.
[[nodiscard]] Result<Curve> withoutKnots(const Curve& curve, const std::vector<int>& drop);

} // namespace gyre
