// What lies under the cursor: faces, edges, places on the path; and the guesses at what is meant.
#pragma once
#include "view/Camera.h"
#include <QPolygonF>
#include <QString>
#include <optional>
#include <vector>

namespace gyre {

class Part;
struct Toolpath;

/// One guess at what a click would take.
struct Guess {
    std::vector<int> faces, edges;
    QString words; ///< e.g. "6 faces, tangent"
};

struct FaceHit {
    int face = -1;
    Vec3 point = Vec3::Zero();
};

[[nodiscard]] FaceHit faceAt(const Part& part, const Camera& camera, const QPointF& pixel);
/// Nearest visible edge within `reach` pixels, −1 when there is none.
[[nodiscard]] int edgeAt(const Part& part, const Camera& camera, const QPointF& pixel, double reach = 9.0);
/// Nearest cut location within `reach` pixels.
[[nodiscard]] std::optional<std::size_t> locationAt(const Part& part, const Toolpath& path, const Camera& camera, const QPointF& pixel, double reach = 12.0);

/// Faces or edges that lie wholly inside the polygon on the screen and can be seen at their middle.
[[nodiscard]] std::vector<int> facesInside(const Part& part, const Camera& camera, const QPolygonF& polygon);
[[nodiscard]] std::vector<int> edgesInside(const Part& part, const Camera& camera, const QPolygonF& polygon);
/// An end or middle of an edge within `reach` pixels; nullopt when none is near.
[[nodiscard]] std::optional<Vec3> cornerAt(const Part& part, const Camera& camera, const QPointF& pixel, double reach = 10.0);

/// The face alone, then its tangent neighbours round the part, then all tangent faces.
[[nodiscard]] std::vector<Guess> faceGuesses(const Part& part, int face);
/// The border side of the target that the edge lies on, then the edge alone, its tangent chain and the loops it belongs to.
[[nodiscard]] std::vector<Guess> edgeGuesses(const Part& part, const std::vector<int>& target, int edge);

} // namespace gyre
