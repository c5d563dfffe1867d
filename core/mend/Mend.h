// Mends: construction on top of a part. Each one is a line in a list, can be changed or removed at any time, and never touches the
// part's file. A mend makes faces, curves or points that can be picked like the part's own.
#pragma once
#include "base/Result.h"
#include "part/WorkPlane.h"
#include <map>

namespace gyre {

enum class MendKind { FreedFace, Edges, GridLine, Middle, OffsetOnFace, OffsetAway, Project, Extend, Trim, Join, Simplify, Copy, Sketch, Drawn, Helix };
inline constexpr int kMendKinds = 15;

/// A number of a mend, or a choice by its position.
struct MendField {
    enum class Type { Length, Angle, Number, Percent, Choice };
    const char* key;
    const char* label;
    Type type;
    double low, high, initial;
    std::vector<std::pair<const char*, const char*>> options{}; ///< as in files, as on screen
};

/// What a kind of mend asks for, and the sentence it reads as.
struct MendForm {
    const char* id;
    const char* title;
    const char* sentence; ///< {first}, {second}, {faces}, {points}, {spots}, {drop} and the fields' keys stand for words; what stands in [ ] is left out while its word
                          ///< says nothing
    std::vector<MendField> fields;
    [[nodiscard]] bool asks(const char* what) const; ///< does the sentence speak of it?
    [[nodiscard]] const MendField* field(const std::string& key) const;
};
[[nodiscard]] const MendForm& formOf(MendKind kind);

/// A curve to start from: edges in any order, or what another mend made ("name", or "name/2" for its second curve).
struct MendSource {
    std::vector<ShapeRef> edges;
    std::string curve;
    [[nodiscard]] bool empty() const { return edges.empty() && curve.empty(); }
};

struct Mend {
    std::string name;
    MendKind kind = MendKind::Edges;
    std::vector<ShapeRef> faces;
    MendSource first, second;
    std::map<std::string, double> numbers;     ///< by field; what is missing has its initial value
    std::vector<std::array<double, 3>> points; ///< of a sketch: two coordinates and a bulge, tan(¼ of the arc's angle); of a drawn curve: a point on the part
    std::vector<int> drop;                     ///< knots to leave out

    [[nodiscard]] double number(const char* key) const;
    /// Does the field say anything, as the others are? The radius of a sketch does on cylinders only.
    [[nodiscard]] bool matters(const std::string& key) const;
    [[nodiscard]] int choice(const char* key) const { return static_cast<int>(std::lround(number(key))); }
};

struct MendResult {
    std::string name;
    std::vector<std::shared_ptr<const Part>> faces; ///< of one face each
    std::vector<Curve> curves;
    std::vector<Vec3> points;
    std::string facts;   ///< "1 curve, 84.21 mm, 3 pieces"
    std::string trouble; ///< why there is nothing
};

/// What mends may start from besides the part.
struct MendGround {
    std::vector<WorkPlane> planes;
    std::map<std::string, std::vector<Curve>> drawn; ///< placed drawings, by name
};

/// Runs the list from top to bottom; a mend may start from those above it, from their faces too. One that cannot be made says why and stops no other.
[[nodiscard]] std::vector<MendResult> runMends(const std::shared_ptr<const Part>& part, const std::vector<Mend>& mends, const MendGround& ground);
/// The part with all that the mends made.
[[nodiscard]] std::shared_ptr<const Part> mendedPart(const std::shared_ptr<const Part>& part, const std::vector<MendResult>& results);

/// Sketch points as text: "0 0; 10 0; 10 5 1" – and back.
[[nodiscard]] Result<std::vector<std::array<double, 3>>> sketchPoints(const std::string& text);
[[nodiscard]] std::string sketchText(const std::vector<std::array<double, 3>>& points);

// The constructions by themselves.
/// From `start` straight ahead on a face, without turning aside: where one is after `length`.
[[nodiscard]] Result<SurfacePoint> straightOnFace(const Part& part, int face, const Vec3& start, const Vec3& direction, double length);
/// Beside the curve on a face, measured along the face; positive: to the left of the curve, seen from outside.
[[nodiscard]] Result<Curve> offsetOnFaces(const Part& part, const std::vector<int>& faces, const Curve& curve, double distance);
enum class Away { Normal, X, Y, Z };
[[nodiscard]] Result<Curve> offsetAway(const Part& part, const std::vector<int>& faces, const Curve& curve, Away way, double distance);
/// On the faces: to the nearest point, or straight down an axis from its far end. In pieces where there is nothing below.
[[nodiscard]] Result<std::vector<Curve>> projected(const Part& part, const std::vector<int>& faces, const Curve& curve, Away way);
/// Through the points along the part's skin: smoothly, or from one to the next. Points must lie on it, and so close together that
/// the skin can be followed between them.
[[nodiscard]] Result<Curve> drawnOn(const Part& part, const std::vector<Vec3>& points, bool smooth, bool closed);
[[nodiscard]] Result<Curve> extended(const Curve& curve, double atStart, double atEnd, bool asArc);

} // namespace gyre
