// Are all places of the faces near enough to a row? By the places, not by the rows.
#include "base/Index.h"
#include "base/Parallel.h"
#include "pattern/Layer.h"
#include "pattern/Pieces.h"
#include <algorithm>
#include <cmath>

namespace gyre {
namespace {

constexpr double kBare = 1.1;       // of the spacing
constexpr double kHair = 0.02;      // mm
constexpr double kHelps = 0.003;    // of a place's own distance: by less than that nothing is better
constexpr std::size_t kLooked = 24; // places and steps, the widest, that are measured where rows will be cut

struct Place {
    Vec3 at;
    double level = 0.0, row = 1e300, rim = 1e300;
    /// Between two rows the nearest is half a gap away; where the border comes first there is only one.
    [[nodiscard]] double gap() const { return rim >= row ? 2.0 * row : row; }
};

/// Rows by rising levels, to be asked for the nearest.
class Nearest {
public:
    explicit Nearest(const std::vector<RawRow>& rows) {
        for (const RawRow& row : rows)
            for (const RawLine& line : row.lines) {
                Polyline piece;
                const auto flush = [&] {
                    if (piece.size() > 1) m_lines.push_back({row.level, PolylineDistance(std::move(piece))});
                    piece = {};
                };
                // Over holes nothing is cut.
                for (const RowSample& s : line.samples) {
                    if (s.face >= 0) piece.push_back(s.point);
                    if (s.face < 0 || s.gapAfter) flush();
                }
                if (line.closed && !piece.empty() && line.samples.front().face >= 0) piece.push_back(line.samples.front().point);
                flush();
            }
        std::stable_sort(m_lines.begin(), m_lines.end(), [](const Line& a, const Line& b) { return a.level < b.level; });
    }
    /// @param enough  a row that near will do
    [[nodiscard]] double distance(const Vec3& p, double level, double enough) const {
        auto above = std::lower_bound(m_lines.begin(), m_lines.end(), level, [](const Line& l, double v) { return l.level < v; });
        auto below = above;
        double d = 1e300;
        while (d > enough && (below != m_lines.begin() || above != m_lines.end())) {
            if (above != m_lines.end()) d = std::min(d, (above++)->line.distance(p, d));
            if (below != m_lines.begin()) d = std::min(d, (--below)->line.distance(p, d));
        }
        return d;
    }

private:
    struct Line {
        double level;
        PolylineDistance line;
    };
    std::vector<Line> m_lines;
};

/// Even over the faces: of every triangle as many as its size asks for.
std::vector<Place> placesOver(const FieldMesh& mesh, const Field& field) {
    constexpr double kPlaces = 12000.0;
    const auto areaOf = [&](const auto& t) { return 0.5 * (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).norm(); };
    double whole = 0.0, owed = 0.0;
    for (std::size_t i = 0; i < mesh.triangles.size(); ++i)
        if (mesh.faces[i] >= 0) whole += areaOf(mesh.triangles[i]);
    std::vector<Place> out;
    std::size_t number = 0;
    for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
        if (mesh.faces[i] < 0) continue;
        const auto& t = mesh.triangles[i];
        for (owed += kPlaces * areaOf(t) / std::max(whole, 1e-12); owed >= 1.0; owed -= 1.0) {
            // Two numbers that fill the square evenly, folded onto the triangle.
            ++number;
            double u = std::fmod(0.5 + 0.7548776662466927 * static_cast<double>(number), 1.0), v = std::fmod(0.5 + 0.5698402909980532 * static_cast<double>(number), 1.0);
            if (u + v > 1.0) {
                u = 1.0 - u;
                v = 1.0 - v;
            }
            const double w = 1.0 - u - v;
            out.push_back({w * mesh.points[t[0]] + u * mesh.points[t[1]] + v * mesh.points[t[2]], w * field.value[t[0]] + u * field.value[t[1]] + v * field.value[t[2]]});
        }
    }
    return out;
}

double distanceToRow(const Vec3& p, const RawRow& row, double limit) {
    double d = limit;
    for (const RawLine& line : row.lines)
        for (std::size_t i = 1; i < line.samples.size() + (line.closed ? 1 : 0); ++i)
            d = std::min(d, distanceToSegment(p, line.samples[i - 1].point, line.samples[i % line.samples.size()].point));
    return d;
}

/// Of a row what lies further than half a step from all others, and a step to both sides.
RawRow neededOf(const RawRow& row, const Nearest& others, double spacing) {
    RawRow out;
    out.level = row.level;
    out.between = true;
    for (const RawLine& line : row.lines) {
        const std::size_t n = line.samples.size();
        std::vector<char> keep(n, 0);
        for (std::size_t i = 0; i < n; ++i) {
            if (line.samples[i].face < 0 || others.distance(line.samples[i].point, row.level, 0.5 * spacing) <= 0.5 * spacing) continue;
            for (const int by : {-1, 1}) {
                double way = 0.0;
                for (std::size_t at = i;;) {
                    keep[at] = 1;
                    if (way > spacing || (!line.closed && (by < 0 ? at == 0 : at + 1 == n))) break;
                    const std::size_t next = by < 0 ? (at + n - 1) % n : (at + 1) % n;
                    way += (line.samples[next].point - line.samples[at].point).norm();
                    at = next;
                    if (at == i) break;
                }
            }
        }
        addStretches(line, keep, out.lines);
    }
    return out;
}

} // namespace

RowSource Layer::source() const {
    RowSource out;
    out.trace = [this](double level) {
        std::vector<RawRow> rows;
        trace({level}, Grade::Exact, rows, nullptr);
        return rows.front();
    };
    out.at = [this, tree = m_tree](const Vec3& p) -> RowSource::Place {
        const ClosestPoint at = tree->closest(p);
        const auto& t = m_mesh.triangles[at.triangle];
        const Vec3 &a = m_mesh.points[t[0]], &b = m_mesh.points[t[1]], &c = m_mesh.points[t[2]];
        const Vec3 n = (b - a).cross(c - a);
        const double whole = n.squaredNorm();
        if (!(whole > 0.0)) return {m_field.value[t[0]], at.distance};
        const double v = (at.point - a).cross(c - a).dot(n) / whole, w = (b - a).cross(at.point - a).dot(n) / whole;
        return {(1.0 - v - w) * m_field.value[t[0]] + v * m_field.value[t[1]] + w * m_field.value[t[2]], at.distance};
    };
    return out;
}

Layer::Bare Layer::cover(std::vector<RawRow>& rows, double spacing, const Progress* progress) const {
    const double wide = kBare * spacing + kHair;
    std::vector<Place> bare = placesOver(m_mesh, m_field);
    std::optional<Nearest> nearest(rows);
    parallelFor(bare.size(), 64, [&](std::size_t i) { bare[i].row = nearest->distance(bare[i].at, bare[i].level, 0.5 * wide); });
    std::erase_if(bare, [&](const Place& p) { return 2.0 * p.row <= wide; });
    if (bare.empty()) return {};
    parallelFor(bare.size(), 8, [&](std::size_t i) { bare[i].rim = fromBorder(bare[i].at); });
    std::erase_if(bare, [&](const Place& p) { return p.gap() <= wide; });
    Bare left;
    std::vector<Place> hopeless;
    constexpr int kMost = 200; // rows
    for (int made = 0; !bare.empty() && made < kMost && !(progress && progress->cancelled()); ++made) {
        const auto worst = std::max_element(bare.begin(), bare.end(), [](const Place& a, const Place& b) { return a.gap() < b.gap(); });
        const Place at = *worst;
        std::vector<RawRow> traced;
        trace({std::clamp(at.level, 1e-6, 1.0 - 1e-6)}, Grade::Exact, traced, nullptr);
        RawRow row = neededOf(traced.front(), *nearest, spacing);
        const double helped = distanceToRow(at.at, row, at.row);
        if (row.lines.empty() || helped > (1.0 - kHelps) * at.row) { // no row comes there, unless one for another place does
            const auto beside = std::partition(bare.begin(), bare.end(), [&](const Place& p) { return (p.at - at.at).norm() > 0.25 * spacing; });
            hopeless.insert(hopeless.end(), beside, bare.end());
            bare.erase(beside, bare.end());
            continue;
        }
        for (Place& p : bare) p.row = distanceToRow(p.at, row, p.row);
        std::erase_if(bare, [&](const Place& p) { return p.gap() <= wide; });
        rows.insert(std::upper_bound(rows.begin(), rows.end(), row.level, [](double level, const RawRow& r) { return level < r.level; }), std::move(row));
        nearest.emplace(rows);
    }
    bare.insert(bare.end(), hopeless.begin(), hopeless.end());
    for (Place& p : bare) p.row = nearest->distance(p.at, p.level, 0.0);
    std::erase_if(bare, [&](const Place& p) { return p.gap() <= wide; });
    std::sort(bare.begin(), bare.end(), [](const Place& a, const Place& b) { return a.gap() > b.gap(); });
    // Where rows bend sharply their samples cut the corner: what will be cut is looked at.
    parallelFor(std::min(bare.size(), kLooked), 1, [&](std::size_t i) { bare[i].row = std::min(bare[i].row, distanceToCut(bare[i].at, rows, bare[i].row + m_side)); });
    for (std::size_t i = 0; i < std::min(bare.size(), kLooked); ++i)
        if (bare[i].gap() > std::max(wide, left.widest)) left = {bare[i].gap(), bare[i].at};
    return left;
}

double Layer::distanceToCut(const Vec3& p, const std::vector<RawRow>& rows, double within) const {
    double d = within;
    for (const RawRow& row : rows)
        for (const RawLine& line : row.lines) {
            if (distanceToRow(p, {row.level, {line}}, within) >= within) continue;
            for (const RawLine& piece : withoutHoles(line)) d = std::min(d, distanceToRow(p, {row.level, {{dense(piece, row.level), piece.closed}}}, d));
        }
    return d;
}

std::pair<double, Vec3> Layer::widestCut(const std::vector<RawRow>& rows, std::vector<std::pair<Vec3, Vec3>> steps) const {
    std::sort(steps.begin(), steps.end(), [](const auto& a, const auto& b) { return (a.second - a.first).squaredNorm() > (b.second - b.first).squaredNorm(); });
    steps.resize(std::min(steps.size(), kLooked));
    std::vector<std::pair<double, Vec3>> wide(steps.size());
    parallelFor(steps.size(), 1, [&](std::size_t i) {
        const auto& [a, b] = steps[i];
        const Vec3 middle = m_tree->closest(0.5 * (a + b)).point;
        wide[i] = {2.0 * distanceToCut(middle, rows, 0.5 * (b - a).norm()), middle};
    });
    std::pair<double, Vec3> out{0.0, Vec3::Zero()};
    for (const auto& w : wide)
        if (w.first > out.first) out = w;
    return out;
}

double Layer::fromBorder(const Vec3& p) const {
    double d = 1e300;
    for (const std::uint64_t key : m_border) d = std::min(d, distanceToSegment(p, m_mesh.points[key >> 32], m_mesh.points[key & 0xffffffffu]));
    return d;
}

void Layer::coverBetween(std::vector<RawRow>& rows, const std::vector<std::pair<Vec3, Vec3>>& wide, double spacing) const {
    const RowSource from = source();
    for (const auto& [a, b] : wide) {
        const Vec3 middle = 0.5 * (a + b);
        RawRow row = from.trace(std::clamp(from.at(middle).level, 1e-6, 1.0 - 1e-6));
        const Nearest others(rows);
        const double d = distanceToRow(middle, row, 0.5 * (a - b).norm());
        row = neededOf(row, others, spacing);
        // One that comes no nearer to the middle than the rows beside it helps nobody.
        if (row.lines.empty() || d > 0.25 * (a - b).norm()) continue;
        rows.insert(std::upper_bound(rows.begin(), rows.end(), row.level, [](double level, const RawRow& r) { return level < r.level; }), std::move(row));
    }
}

std::function<double(const Vec3&, const Vec3&)> Layer::bareBetween(const std::vector<RawRow>& rows) const {
    return [this, tree = m_tree, nearest = std::make_shared<const Nearest>(rows)](const Vec3& a, const Vec3& b) {
        constexpr double kBeside = 0.25; // of its width: the middle of a gap over a hollow or a round lies that near
        const double far = (b - a).norm();
        const ClosestPoint middle = tree->closest(0.5 * (a + b));
        if (middle.distance > kBeside * far || m_mesh.faces[middle.triangle] < 0) return 0.0;
        const double level = m_field.value[m_mesh.triangles[middle.triangle][0]];
        Place place{middle.point, level, nearest->distance(middle.point, level, 0.0)};
        place.rim = fromBorder(place.at);
        return std::min(far, place.gap());
    };
}

} // namespace gyre
