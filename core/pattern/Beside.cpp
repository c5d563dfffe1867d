#include "pattern/Beside.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "geom/MeshTree.h"
#include "pattern/Cut.h"
#include "pattern/Embed.h"
#include "pattern/Field.h"
#include <algorithm>
#include <fmt/format.h>
#include <numeric>
#include <unordered_map>
#include <unordered_set>

namespace gyre {

RowsBeside::RowsBeside(std::vector<NeighbourRows> all) : m_all(std::move(all)) {
    for (const NeighbourRows& one : m_all)
        for (std::size_t r = 0; r < one.rows.size(); ++r) {
            Polyline line = one.rows[r].points;
            if (line.size() < 2) continue;
            if (one.rows[r].closed) line.push_back(line.front());
            Box box;
            for (const Vec3& p : line) box.add(p);
            m_lines.push_back({&one.rows[r], &one.axes[r], box, PolylineDistance(std::move(line))});
        }
}

bool RowsBeside::between(const Vec3& p) const {
    constexpr double kNear = 0.35; // of the spacing: where rows lie closer than asked, one is that near to any place between them
    const double step = spacing();
    const Foot foot = nearest(p, 1.01 * step);
    if (!(foot.distance < step)) return false;
    if (foot.distance < 1e-9) return !foot.end;
    return nearest(p + (step - foot.distance) / foot.distance * (p - foot.at), step).distance < kNear * step;
}

double RowsBeside::spacing() const {
    double most = 0.0;
    for (const NeighbourRows& one : m_all) most = std::max(most, one.spacing);
    return most;
}

std::string RowsBeside::names() const {
    std::string out;
    for (const NeighbourRows& one : m_all) out += fmt::format("{}“{}”", out.empty() ? "" : " and ", one.operation);
    return out;
}

RowsBeside::Foot RowsBeside::nearest(const Vec3& p, double within) const {
    Foot out;
    double least = within;
    const Line* best = nullptr;
    std::size_t segment = 0;
    for (const Line& line : m_lines) {
        if (line.box.distance(p) >= least) continue;
        const auto found = line.distance.nearest(p, least);
        if (!(found.distance < least)) continue;
        least = found.distance;
        best = &line;
        segment = found.segment;
    }
    if (!best) return out;
    const Row& row = *best->row;
    const std::size_t n = row.points.size(), next = (segment + 1) % n;
    const Vec3 &a = row.points[segment], &b = row.points[next];
    const double t = std::clamp((p - a).dot(b - a) / std::max((b - a).squaredNorm(), 1e-18), 0.0, 1.0);
    out.distance = least;
    out.at = a + t * (b - a);
    out.along = (b - a).normalized();
    out.axis = slerp((*best->axes)[segment], (*best->axes)[next], t);
    out.end = !row.closed && ((segment == 0 && t <= 0.0) || (segment + 2 == n && t >= 1.0));
    return out;
}

Vec3 passedOver(const RowsBeside& beside, double over, const Vec3& contact, const Vec3& own) {
    const RowsBeside::Foot foot = beside.nearest(contact, over);
    if (!(foot.distance < over)) return own;
    const double t = foot.distance / over;
    return slerp(foot.axis, own, t * t * (3.0 - 2.0 * t));
}

SeamMeasure measureSeam(const RowsBeside& beside, const std::vector<Row>& rows, const std::vector<std::vector<Vec3>>& axes, double spacing) {
    SeamMeasure out;
    int first = std::numeric_limits<int>::max();
    for (const Row& row : rows) first = std::min(first, row.index);
    const double within = 5.0 * std::max(spacing, beside.spacing());
    for (std::size_t r = 0; r < rows.size(); ++r) {
        const Row& row = rows[r];
        if (row.index != first) continue;
        for (std::size_t i = 0; i < row.points.size(); ++i) {
            const RowsBeside::Foot foot = beside.nearest(row.points[i], within);
            if (!(foot.distance < within) || foot.end) continue;
            ++out.places;
            if (foot.distance > out.gap) {
                out.gap = foot.distance;
                out.at = row.points[i];
            }
            const std::size_t n = row.points.size(), before = i > 0 ? i - 1 : row.closed ? n - 1 : 0, after = i + 1 < n ? i + 1 : row.closed ? 0 : i;
            const double across = (row.points[after] - row.points[before]).normalized().cross(foot.along).norm();
            out.apart = std::max(out.apart, std::asin(std::clamp(across, 0.0, 1.0)));
            out.turn = std::max(out.turn, angleBetween(axes[r][i], foot.axis));
        }
    }
    return out;
}

namespace {

constexpr double kOnBorder = 0.02; // mm: a row that near to the border runs on it
constexpr double kAlong = 0.7;     // cosine between a row and the border that it runs along

/// A side of the border with the rows beside it.
struct SeamSide {
    std::uint32_t from, to;
    std::size_t triangle;
};

std::vector<SeamSide> sidesOfBorder(const FieldMesh& mesh) {
    const std::vector<std::uint64_t> border = borderOf(mesh);
    std::vector<SeamSide> out;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const auto a = mesh.triangles[t][k], b = mesh.triangles[t][(k + 1) % 3];
            if (std::binary_search(border.begin(), border.end(), pairKey(a, b))) out.push_back({a, b, t});
        }
    return out;
}

bool lieOnFaces(const FieldMesh& mesh, const MeshTree& tree, const std::vector<SeamSide>& border, const RowsBeside& beside) {
    constexpr std::size_t kEvery = 5; // points
    const double off = 0.3 * beside.spacing();
    for (const NeighbourRows& one : beside.all())
        for (const Row& row : one.rows)
            for (std::size_t i = row.points.size() / 2 % kEvery; i < row.points.size(); i += kEvery) {
                const Vec3& p = row.points[i];
                if (!(tree.closest(p, kOnBorder).distance < kOnBorder)) continue;
                if (std::none_of(border.begin(), border.end(), [&](const SeamSide& s) { return distanceToSegment(p, mesh.points[s.from], mesh.points[s.to]) < off; }))
                    return true;
            }
    return false;
}

/// Lines of samples that follow each other along the border.
void addLines(const std::vector<SeamSide>& sides, const std::unordered_map<std::uint32_t, std::uint32_t>& on, const FieldMesh& mesh, RawRow& row) {
    std::unordered_map<std::uint32_t, std::size_t> begins;
    std::unordered_map<std::uint32_t, int> comes;
    for (std::size_t i = 0; i < sides.size(); ++i) {
        begins[sides[i].from] = i;
        ++comes[sides[i].to];
    }
    std::vector<char> done(sides.size(), 0);
    const auto sample = [&](std::uint32_t p, const SeamSide& s) {
        const auto& t = mesh.triangles[s.triangle];
        const Vec3 normal = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).normalized();
        return RowSample{mesh.points[on.at(p)], normal, Vec2::Zero(), mesh.faces[s.triangle], false};
    };
    const auto follow = [&](std::size_t first) {
        RawLine line;
        std::size_t at = first;
        for (;;) {
            done[at] = 1;
            line.samples.push_back(sample(sides[at].from, sides[at]));
            const auto next = begins.find(sides[at].to);
            if (next == begins.end() || done[next->second]) {
                line.closed = next != begins.end() && next->second == first;
                if (!line.closed) line.samples.push_back(sample(sides[at].to, sides[at]));
                break;
            }
            at = next->second;
        }
        if (line.samples.size() > 1) row.lines.push_back(std::move(line));
    };
    for (std::size_t i = 0; i < sides.size(); ++i)
        if (!done[i] && comes[sides[i].from] == 0) follow(i);
    for (std::size_t i = 0; i < sides.size(); ++i)
        if (!done[i]) follow(i); // all round
}

/// Points of the border and those of the rows beside: where a row runs on the border they are one.
std::unordered_map<std::uint32_t, std::uint32_t> pointsOnRows(FieldMesh& mesh, const std::vector<SeamSide>& sides,
                                                              const std::function<const RowsBeside::Foot&(std::uint32_t)>& footOf) {
    std::unordered_map<std::uint32_t, std::uint32_t> on;
    for (const SeamSide& s : sides)
        for (const auto p : {s.from, s.to}) {
            if (on.count(p)) continue;
            const RowsBeside::Foot& foot = footOf(p);
            on[p] = p;
            if (foot.distance <= kOnBorder) continue;
            on[p] = static_cast<std::uint32_t>(mesh.points.size());
            mesh.points.push_back(foot.at);
        }
    return on;
}

} // namespace

bool rowsLieOn(const FieldMesh& mesh, const RowsBeside& beside) { return lieOnFaces(mesh, treeOf(mesh), sidesOfBorder(mesh), beside); }

namespace {

/// Leaves out pieces beside the rows that go no further from them than they lie apart: corners of the faces behind the first of them, or between their ends.
/// @param lines  the rows, as sides of the mesh
void dropNearPieces(FieldMesh& mesh, const RowsBeside& beside, const std::vector<std::vector<std::uint32_t>>& lines) {
    const std::size_t n = mesh.triangles.size();
    std::vector<char> between(n, 0), far(mesh.points.size(), 0), reaches(n, 0);
    parallelFor(n, 64, [&](std::size_t t) {
        const auto& ids = mesh.triangles[t];
        between[t] = beside.between((mesh.points[ids[0]] + mesh.points[ids[1]] + mesh.points[ids[2]]) / 3.0);
    });
    const double within = 1.01 * beside.spacing();
    parallelFor(far.size(), 64, [&](std::size_t i) { far[i] = !(beside.nearest(mesh.points[i], within).distance < within); });
    // Pieces are what hangs together over sides that no row runs along.
    std::vector<std::size_t> piece(n);
    std::iota(piece.begin(), piece.end(), std::size_t{0});
    const auto of = [&](std::size_t t) {
        while (piece[t] != t) t = piece[t] = piece[piece[t]];
        return t;
    };
    std::unordered_map<std::uint64_t, std::size_t> beyond; // the triangle that a side was met at first
    std::unordered_set<std::uint64_t> rows;
    for (const auto& line : lines)
        for (std::size_t i = 1; i < line.size(); ++i) rows.insert(pairKey(line[i - 1], line[i]));
    for (std::size_t t = 0; t < n; ++t)
        for (std::size_t k = 0; k < 3 && !between[t]; ++k) {
            const auto side = pairKey(mesh.triangles[t][k], mesh.triangles[t][(k + 1) % 3]);
            if (!rows.count(side)) piece[of(t)] = of(beyond.try_emplace(side, t).first->second);
        }
    for (std::size_t t = 0; t < n; ++t)
        for (const auto i : mesh.triangles[t]) reaches[of(t)] = static_cast<char>(reaches[of(t)] | (!between[t] && far[i]));
    const bool any = std::any_of(reaches.begin(), reaches.end(), [](char r) { return r != 0; });
    keepTriangles(mesh, [&](std::size_t t) { return any && (between[t] || reaches[of(t)]); });
}

} // namespace

Result<SeamOfMesh> beginOnRows(FieldMesh& mesh, const Part& part, const RowsBeside& beside) {
    SeamOfMesh out;
    const MeshTree tree = treeOf(mesh);
    for (const NeighbourRows& one : beside.all())
        for (const Row& row : one.rows) {
            RawLine line;
            line.closed = row.closed;
            std::vector<char> on;
            for (std::size_t i = 0; i < row.points.size(); ++i) {
                const ClosestPoint at = tree.closest(row.points[i], kOnBorder);
                on.push_back(at.distance < kOnBorder);
                line.samples.push_back({row.points[i], row.normals[i], Vec2::Zero(), on.back() ? mesh.faces[at.triangle] : -1, false});
            }
            addStretches(line, on, out.row.lines);
        }
    auto embedded = embedLines(mesh, part, out.row.lines);
    if (!embedded) return tl::unexpected(embedded.error());
    out.lines = std::move(*embedded);
    dropNearPieces(mesh, beside, out.lines);
    if (mesh.triangles.empty()) return fail(fmt::format("rows of {} cover these faces already", beside.names()), "Pattern", "Begin at an operation beside them");
    return out;
}

Result<SeamOfMesh> growToRows(FieldMesh& mesh, const RowsBeside& beside, double reach) {
    const MeshTree tree = treeOf(mesh);
    std::vector<SeamSide> sides = sidesOfBorder(mesh);
    const auto onFaces = [&] { return fail(fmt::format("rows of {} run over these faces themselves", beside.names()), "Pattern", "Begin at an operation beside them"); };
    std::unordered_map<std::uint32_t, std::size_t> number;
    std::vector<std::uint32_t> points;
    for (const SeamSide& s : sides)
        for (const auto p : {s.from, s.to})
            if (number.emplace(p, points.size()).second) points.push_back(p);
    std::vector<RowsBeside::Foot> feet(points.size());
    std::vector<char> within(points.size(), 0);
    parallelFor(points.size(), 8, [&](std::size_t i) {
        const Vec3& p = mesh.points[points[i]];
        feet[i] = beside.nearest(p, reach);
        constexpr double kOver = 0.3; // of the way to the row: the faces come that near to it, if it does not lie on them
        if (feet[i].distance < reach && feet[i].distance > kOnBorder) within[i] = tree.closest(feet[i].at).distance < kOver * feet[i].distance;
    });
    std::size_t over = 0;
    std::erase_if(sides, [&](const SeamSide& s) {
        const RowsBeside::Foot &a = feet[number[s.from]], &b = feet[number[s.to]];
        if (!(a.distance < reach) || !(b.distance < reach) || (a.end && b.end)) return true;
        const Vec3 way = (mesh.points[s.to] - mesh.points[s.from]).normalized();
        if (std::abs(way.dot(a.along)) < kAlong || std::abs(way.dot(b.along)) < kAlong) return true;
        if (!within[number[s.from]] && !within[number[s.to]]) return false;
        ++over;
        return true;
    });
    if (over > sides.size()) return onFaces();
    if (sides.empty())
        return fail(fmt::format("no row of {} runs along the border of these faces within {:g} mm", beside.names(), reach), "Pattern",
                    "Begin at another operation, or let its rows run along the common border");
    const auto on = pointsOnRows(mesh, sides, [&](std::uint32_t p) -> const RowsBeside::Foot& { return feet[number.at(p)]; });
    SeamOfMesh out;
    addLines(sides, on, mesh, out.row);
    const auto grow = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        if (a == b || b == c || c == a || (mesh.points[b] - mesh.points[a]).cross(mesh.points[c] - mesh.points[a]).norm() < 1e-9) return;
        mesh.triangles.push_back({a, b, c});
        mesh.faces.push_back(-1);
        mesh.uv.push_back({Vec2::Zero(), Vec2::Zero(), Vec2::Zero()});
    };
    for (const SeamSide& s : sides) {
        const auto a = on.at(s.from), b = on.at(s.to);
        grow(s.to, s.from, a);
        grow(s.to, a, b);
        if ((mesh.points[a] - mesh.points[b]).norm() > 1e-9)
            out.lines.push_back({a, b});
        else
            out.lines.push_back({a});
    }
    return out;
}

} // namespace gyre
