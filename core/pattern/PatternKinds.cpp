#include "pattern/PatternKinds.h"
#include "base/Index.h"
#include "base/Units.h"
#include "pattern/Cut.h"
#include "pattern/Distance.h"
#include "pattern/Strokes.h"
#include <algorithm>
#include <fmt/format.h>
#include <limits>

namespace gyre {
namespace {

std::vector<std::uint32_t> joined(const std::vector<std::vector<std::uint32_t>>& lines) {
    std::vector<std::uint32_t> out;
    for (const auto& l : lines) out.insert(out.end(), l.begin(), l.end());
    return out;
}

Result<PatternField> betweenRails(const FieldInput& in) {
    auto field = harmonicField(in.mesh, joined(in.rails[0]), joined(in.rails[1]), in.held);
    if (!field) return tl::unexpected(field.error());
    return PatternField{std::move(*field), std::nullopt};
}

/// The length of the shortest way along the faces to the nearest rail, as a share of the longest of them.
Result<PatternField> trueDistance(const FieldInput& in) {
    std::vector<std::vector<std::uint32_t>> lines = in.rails[0];
    lines.insert(lines.end(), in.rails[1].begin(), in.rails[1].end());
    std::vector<Vec3> ways;
    auto value = distancesFrom(in.mesh.points, in.mesh.triangles, lines, in.progress, &ways);
    if (!value) return tl::unexpected(value.error());
    double most = 0.0;
    for (const auto& t : in.mesh.triangles)
        for (const auto i : t) most = std::max(most, (*value)[i]);
    if (!std::isfinite(most)) return fail("some of the picked faces are not connected with the rail", "Pattern", "Pick the faces between them, or another rail");
    if (!(most > 0.01)) return fail("the faces end at the rail", "Pattern", "Pick another rail");
    for (double& v : *value) v = std::isfinite(v) ? v / most : 0.0; // points of no triangle
    PatternField out{fieldOf(in.mesh, std::move(*value)), std::nullopt, most};
    // At a corner between faces the mean of the slopes on both sides is neither's: straight lines across the triangles are better there.
    std::vector<Vec3> normal(in.mesh.points.size(), Vec3::Zero());
    std::vector<char> corner(in.mesh.points.size(), 0);
    const auto normalOf = [&](const auto& t) { return Vec3((in.mesh.points[t[1]] - in.mesh.points[t[0]]).cross(in.mesh.points[t[2]] - in.mesh.points[t[0]])); };
    for (const auto& t : in.mesh.triangles)
        for (const auto i : t) normal[i] += normalOf(t);
    for (const auto& t : in.mesh.triangles)
        for (const auto i : t) corner[i] = static_cast<char>(corner[i] | (angleBetween(normalOf(t), normal[i]) > radians(12)));
    // Along what distances are counted from, with faces on both sides of it, they rise to both sides.
    const std::vector<std::uint64_t> border = borderOf(in.mesh);
    for (const auto& line : lines)
        for (std::size_t i = 1; i < line.size(); ++i)
            if (!std::binary_search(border.begin(), border.end(), pairKey(line[i - 1], line[i]))) {
                const Vec3 along = (in.mesh.points[line[i]] - in.mesh.points[line[i - 1]]).normalized();
                out.field.folds[line[i - 1]].push_back(along);
                out.field.folds[line[i]].push_back(-along);
                corner[line[i - 1]] = corner[line[i]] = 1;
            }
    out.field.foldRise = 1.0 / most;
    out.field.knownSlopes = true;
    for (std::size_t i = 0; i < corner.size(); ++i) {
        // Fronts that are round within a few triangles have slopes that these do not tell; the way itself does.
        const Vec3 way = rejected(ways[i], normal[i].normalized());
        if (corner[i])
            out.field.gradient[i] = Vec3::Zero();
        else if (way.norm() > 0.5)
            out.field.gradient[i] = way.normalized() / most;
    }
    return out;
}

/// A field that space has: scaled to 0 … 1 over the faces.
/// @param mm  in space for each unit of the value; 0: as many rows as it takes
Result<PatternField> ofSpace(const FieldInput& in, const std::function<double(const Vec3&)>& value, const std::function<Vec3(const Vec3&)>& gradient, double mm,
                             const char* flat) {
    double low = 1e300, high = -1e300;
    for (const auto& t : in.mesh.triangles)
        for (const auto i : t) {
            const double v = value(in.mesh.points[i]);
            low = std::min(low, v);
            high = std::max(high, v);
        }
    const double range = high - low;
    if (!(range > 1e-4)) return fail(flat, "Pattern", "Choose another pattern");
    std::vector<double> at;
    for (const Vec3& p : in.mesh.points) at.push_back(std::clamp((value(p) - low) / range, 0.0, 1.0));
    PatternField out{fieldOf(in.mesh, std::move(at)), SpaceField{}, 0.0, mm * range};
    out.space->value = [value, low, range](const RowSample& s) { return (value(s.point) - low) / range; };
    out.space->gradient = [gradient, range](const RowSample& s) { return Vec3(gradient(s.point) / range); };
    return out;
}

Result<PatternField> aboutPoint(const FieldInput& in) {
    const Vec3 c = in.spec.centre;
    return ofSpace(
        in, [c](const Vec3& p) { return (p - c).norm(); }, [c](const Vec3& p) { return Vec3((p - c).normalized()); }, 1.0,
        "the faces lie at one distance from the point: no row runs over them");
}

Result<PatternField> ringsAround(const FieldInput& in) {
    const Vec3 c = in.spec.centre, a = Vec3::Unit(in.spec.axis);
    return ofSpace(
        in, [c, a](const Vec3& p) { return rejected(p - c, a).norm(); }, [c, a](const Vec3& p) { return Vec3(rejected(p - c, a).normalized()); }, 1.0,
        "the faces lie at one distance from the axis: no row runs over them");
}

/// Does a triangle come so near to the axis that lines towards it would meet? In a frame whose z is the axis.
bool meetsAxis(const std::array<Vec2, 3>& at) {
    constexpr double kNear = 0.05; // mm
    bool inside = true;
    double turn = 0.0;
    for (std::size_t i = 0; i < 3; ++i) {
        const Vec2 &a = at[i], &b = at[(i + 1) % 3];
        const double cross = a.x() * b.y() - a.y() * b.x(), t = std::clamp(-a.dot(b - a) / std::max((b - a).squaredNorm(), 1e-18), 0.0, 1.0);
        if ((a + t * (b - a)).norm() < kNear) return true;
        if (i == 0) turn = cross;
        inside = inside && cross * turn > 0.0;
    }
    return inside;
}

/// A hole that the axis goes through, like the end of a tube, is none to be bridged.
void unbridgeAround(FieldMesh& mesh, const Vec3& c, const Vec3& x, const Vec3& y) {
    std::vector<char> open(mesh.points.size(), 0);
    const auto meets = [&](const auto& t) {
        std::array<Vec2, 3> at;
        for (std::size_t i = 0; i < 3; ++i) at[i] = Vec2((mesh.points[t[i]] - c).dot(x), (mesh.points[t[i]] - c).dot(y));
        return meetsAxis(at);
    };
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        if (mesh.faces[t] < 0 && meets(mesh.triangles[t]))
            for (const auto i : mesh.triangles[t]) open[i] = 1;
    for (bool more = true; more;) {
        more = false;
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            const auto& ids = mesh.triangles[t];
            if (mesh.faces[t] >= 0 || std::none_of(ids.begin(), ids.end(), [&](auto i) { return open[i]; })) continue;
            for (const auto i : ids) {
                more = more || !open[i];
                open[i] = 1;
            }
        }
    }
    keepTriangles(mesh,
                  [&](std::size_t t) { return mesh.faces[t] >= 0 || std::none_of(mesh.triangles[t].begin(), mesh.triangles[t].end(), [&](auto i) { return open[i]; }); });
}

/// The angle around the axis, counted from the widest gap that the faces leave. Faces that go all round are cut open there, and on the axis there is no angle.
Result<PatternField> linesAlong(const FieldInput& in) {
    const int k = in.spec.axis;
    const Vec3 c = in.spec.centre, x = Vec3::Unit((k + 1) % 3), y = Vec3::Unit((k + 2) % 3);
    unbridgeAround(in.mesh, c, x, y);
    std::vector<double> angles;
    double widest = 0.0, furthest = 0.0;
    for (const auto& t : in.mesh.triangles) {
        std::array<double, 3> at{};
        std::array<Vec2, 3> flat;
        for (std::size_t i = 0; i < 3; ++i) {
            const Vec3 p = in.mesh.points[t[i]] - c;
            flat[i] = Vec2(p.dot(x), p.dot(y));
            at[i] = std::atan2(flat[i].y(), flat[i].x());
            furthest = std::max(furthest, flat[i].norm());
        }
        if (meetsAxis(flat)) return fail("the faces meet the axis: all lines would come together there", "Pattern", "Take another axis, or rings");
        for (const double a : at) {
            angles.push_back(a);
            for (const double b : at) widest = std::max(widest, std::abs(std::remainder(a - b, 2.0 * kPi)));
        }
    }
    std::sort(angles.begin(), angles.end());
    double gap = angles.front() + 2.0 * kPi - angles.back(), from = angles.front();
    for (std::size_t i = 1; i < angles.size(); ++i)
        if (angles[i] - angles[i - 1] > gap) {
            gap = angles[i] - angles[i - 1];
            from = angles[i];
        }
    const double before = from - 0.5 * gap; // no point lies there
    const auto angle = [c, x, y, before](const Vec3& p) {
        const double a = std::atan2((p - c).dot(y), (p - c).dot(x)) - before;
        return a - 2.0 * kPi * std::floor(a / (2.0 * kPi));
    };
    const auto slope = [c, x, y](const Vec3& p) {
        const double u = (p - c).dot(x), v = (p - c).dot(y), r2 = std::max(u * u + v * v, 1e-12);
        return Vec3((-v * x + u * y) / r2);
    };
    if (gap >= 1.5 * widest) return ofSpace(in, angle, slope, furthest, "the faces lie at one angle around the axis: no row runs over them");
    std::vector<double> value;
    for (const Vec3& p : in.mesh.points) value.push_back(angle(p) / (2.0 * kPi));
    for (const char first : cutByHalfPlane(in.mesh, c, Vec3::Unit(k), std::cos(before) * x + std::sin(before) * y)) value.push_back(first ? 0.0 : 1.0);
    PatternField out{fieldOf(in.mesh, std::move(value)), SpaceField{}, 0.0, 2.0 * kPi * furthest};
    out.space->value = [angle](const RowSample& s) { return angle(s.point) / (2.0 * kPi); };
    out.space->gradient = [slope](const RowSample& s) { return Vec3(slope(s.point) / (2.0 * kPi)); };
    out.space->round = true;
    return out;
}

/// A face's own parameter, as a share of what the face has of it.
Result<PatternField> ownLines(const FieldInput& in) {
    const int k = in.spec.acrossGrid ? 0 : 1; // along the first direction the second parameter stays
    double low = 1e300, high = -1e300;
    for (std::size_t t = 0; t < in.mesh.triangles.size(); ++t)
        if (in.mesh.faces[t] >= 0)
            for (const Vec2& uv : in.mesh.uv[t]) {
                low = std::min(low, uv[k]);
                high = std::max(high, uv[k]);
            }
    const double range = high - low;
    if (!(range > 0.0)) return fail("the face has no lines of its own", "Pattern", "Use another pattern");
    // A face that closes on itself across its lines is opened where its parameter begins; at a point that is a side of it lines meet.
    constexpr double kUnknown = std::numeric_limits<double>::quiet_NaN();
    std::vector<double> value(in.mesh.points.size(), kUnknown);
    std::vector<std::array<double, 3>> corners(in.mesh.triangles.size(), {kUnknown, kUnknown, kUnknown});
    for (std::size_t t = 0; t < in.mesh.triangles.size(); ++t)
        for (std::size_t i = 0; i < 3 && in.mesh.faces[t] >= 0; ++i) corners[t][i] = (in.mesh.uv[t][i][k] - low) / range;
    const bool round = partByValue(in.mesh, corners, value);
    std::vector<char> known;
    for (double& v : value) {
        known.push_back(std::isfinite(v) ? 1 : 0);
        if (!known.back()) v = 0.0;
    }
    // Over a bridged hole the rim says how it goes on: the mean of what is known around, from the rim inwards.
    for (bool open = true; open;) {
        open = false;
        std::vector<std::pair<double, int>> sum(value.size(), {0.0, 0});
        for (const auto& t : in.mesh.triangles)
            for (std::size_t i = 0; i < 3; ++i)
                for (std::size_t j = 0; j < 3; ++j)
                    if (!known[t[i]] && known[t[j]]) {
                        sum[t[i]].first += value[t[j]];
                        ++sum[t[i]].second;
                    }
        for (std::size_t i = 0; i < value.size(); ++i)
            if (sum[i].second > 0) {
                value[i] = sum[i].first / sum[i].second;
                known[i] = 1;
                open = true;
            }
    }
    PatternField out{fieldOf(in.mesh, std::move(value)), SpaceField{}};
    out.space->value = [k, low, range](const RowSample& s) { return (s.uv[k] - low) / range; };
    out.space->round = round;
    // From the first fundamental form: the slope of a parameter along the surface.
    out.space->gradient = [k, range, &part = in.part](const RowSample& s) -> Vec3 {
        if (s.face < 0) return Vec3::Zero();
        const double step = 1e-5 * range;
        const auto along = [&](double u, double v) {
            return Vec3((part.evaluate(s.face, s.uv.x() + u, s.uv.y() + v).point - part.evaluate(s.face, s.uv.x() - u, s.uv.y() - v).point) / (2.0 * step));
        };
        const Vec3 su = along(step, 0.0), sv = along(0.0, step);
        const double e = su.dot(su), f = su.dot(sv), g = sv.dot(sv), det = e * g - f * f;
        if (!(det > 1e-18)) return Vec3::Zero();
        return Vec3((k == 0 ? g * su - f * sv : e * sv - f * su) / (det * range));
    };
    return out;
}

/// Planes stand on XY along the rows' direction, or lean from there: 90 degrees makes them levels of Z. The field is the height over the lowest of
/// them, n·p, so that |∇f| over a face is the sine of the angle between its normal and n: rows are no further apart on the face than asked, the
/// planes as much nearer. Where a face lies in the planes it has no rows.
Result<PatternField> inPlanes(const FieldInput& in) {
    const double a = radians(in.spec.along), lean = radians(in.spec.lean);
    const Vec3 n(-std::sin(a) * std::cos(lean), std::cos(a) * std::cos(lean), std::sin(lean));
    return ofSpace(
        in, [n](const Vec3& p) { return n.dot(p); }, [n](const Vec3&) { return n; }, 0.0, "the faces lie in the planes: no row runs over them");
}

Result<PatternField> acrossStrokes(const FieldInput& in) {
    const auto directions = directionsAlong(in.mesh, in.curves);
    if (!directions) return tl::unexpected(directions.error());
    auto value = risingAcross(in.mesh, *directions);
    if (!value) return tl::unexpected(value.error());
    double low = 1e300, high = -1e300;
    for (const auto& t : in.mesh.triangles)
        for (const auto i : t) {
            low = std::min(low, (*value)[i]);
            high = std::max(high, (*value)[i]);
        }
    std::vector<Finding> findings;
    constexpr double kFar = 10.0; // degrees
    if (const OffStrokes off = offStrokes(in.mesh, *value, in.curves); degrees(off.angle) > kFar) {
        Finding f;
        f.rank = Rank::Look;
        f.code = "strokes-not-met";
        f.stage = "Pattern";
        f.amount = degrees(off.angle);
        f.text = fmt::format("Rows run {:.0f}° off the strokes", f.amount);
        f.place = {off.at.x(), off.at.y(), off.at.z()};
        f.reason = "rows lie beside each other everywhere, as strokes need not: these fan out, or go round faces that close on themselves";
        findings.push_back(f);
    }
    if (!(high - low > 0.01)) return fail("the faces end beside the strokes", "Pattern", "Draw others");
    for (double& v : *value) v = std::clamp((v - low) / (high - low), 0.0, 1.0);
    PatternField out{fieldOf(in.mesh, std::move(*value)), std::nullopt};
    out.findings = std::move(findings);
    return out;
}

/// Rows come from no field.
Result<PatternField> none(const FieldInput& in) { return PatternField{fieldOf(in.mesh, std::vector<double>(in.mesh.points.size(), 0.0)), std::nullopt}; }

const char* const kAxisWords = "{pattern.axis} through {pattern.centre.0} {pattern.centre.1} {pattern.centre.2}";

const PatternKind kKinds[] = {
    {PatternBy::Rails, "rails", "between rails", "{pattern.rail1} and {pattern.rail2}", 2, 1.0, false, false, betweenRails},
    {PatternBy::Planes, "planes", "in parallel planes", "along {pattern.along}, leaning {pattern.lean}", 0, 1.0, false, false, inPlanes},
    {PatternBy::Distance, "distance", "at true distance from", "{pattern.rail1}, {pattern.rail2}, {pattern.curve}", 1, 0.0, true, false, trueDistance},
    {PatternBy::Rings, "rings", "in rings around", kAxisWords, 0, 1.0, false, false, ringsAround},
    {PatternBy::Lines, "lines", "in lines towards", kAxisWords, 0, 1.0, false, false, linesAlong},
    {PatternBy::Point, "point", "about a point at", "{pattern.centre.0} {pattern.centre.1} {pattern.centre.2}", 0, 1.0, false, false, aboutPoint},
    {PatternBy::Grid, "grid", "along each face's own lines,", "{pattern.acrossGrid}", 0, 1.0, false, true, ownLines},
    {PatternBy::Strokes, "strokes", "along the strokes", "{pattern.curve}, {pattern.guides}", 0, 1.0, false, false, acrossStrokes},
    {PatternBy::Curves, "curves", "where curves fall on the faces:", "{pattern.curve}, {pattern.guides}, {pattern.onto}", 0, 1.0, false, false, none, true},
    {PatternBy::Seam, "seam", "beginning at the rows of", "{pattern.beside}, whose axis becomes its own over {pattern.passOver}", 0, 0.0, true, false, trueDistance},
    {PatternBy::Passage, "passage", "through the passage", "under {pattern.rail1} and {pattern.rail2}, around {pattern.guides}", 2, 1.0, false, false, none},
    {PatternBy::Corners, "corners", "along inner corners,", "where a ball of {pattern.larger} left something (0: one row)", 0, 1.0, false, false, none, true},
};

} // namespace

std::span<const PatternKind> patternKinds() { return kKinds; }

const PatternKind& kindOf(PatternBy by) {
    for (const PatternKind& k : kKinds)
        if (k.by == by) return k;
    return kKinds[0];
}

} // namespace gyre
