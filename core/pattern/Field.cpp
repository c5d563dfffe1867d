#include "pattern/Field.h"
#include "base/Index.h"
#include <Eigen/SparseCholesky>
#include <algorithm>

namespace gyre {
namespace {

std::vector<Vec3> gradients(const FieldMesh& mesh, const std::vector<double>& f) {
    std::vector<Vec3> sum(mesh.points.size(), Vec3::Zero());
    std::vector<Vec3> normal(mesh.points.size(), Vec3::Zero());
    std::vector<double> weight(mesh.points.size(), 0.0);
    for (const auto& t : mesh.triangles) {
        const Vec3 &a = mesh.points[t[0]], &b = mesh.points[t[1]], &c = mesh.points[t[2]];
        const Vec3 n = (b - a).cross(c - a);
        const double twice = n.norm();
        if (twice < 1e-14) continue;
        const Vec3 unit = n / twice;
        const Vec3 g = unit.cross(f[t[0]] * (c - b) + f[t[1]] * (a - c) + f[t[2]] * (b - a)) / twice;
        for (auto i : t) {
            sum[i] += twice * g;
            normal[i] += n;
            weight[i] += twice;
        }
    }
    for (std::size_t i = 0; i < sum.size(); ++i) {
        if (weight[i] <= 0.0) continue;
        sum[i] = rejected(sum[i] / weight[i], normal[i].normalized());
    }
    return sum;
}

} // namespace

namespace {

/// Every connected piece needs both rails, or the field is not determined there.
bool eachPieceHasBoth(const FieldMesh& mesh, const std::vector<int>& fixed, const std::vector<char>& used) {
    const auto n = static_cast<std::uint32_t>(mesh.points.size());
    std::vector<std::uint32_t> up(n);
    for (std::uint32_t i = 0; i < n; ++i) up[i] = i;
    const auto root = [&](std::uint32_t i) {
        while (up[i] != i) i = up[i] = up[up[i]];
        return i;
    };
    for (const auto& t : mesh.triangles) {
        up[root(t[1])] = root(t[0]);
        up[root(t[2])] = root(t[0]);
    }
    std::vector<char> has(n, 0);
    for (std::uint32_t i = 0; i < n; ++i)
        if (fixed[i]) has[root(i)] = static_cast<char>(has[root(i)] | fixed[i]);
    for (std::uint32_t i = 0; i < n; ++i)
        if (used[i] && has[root(i)] != 3) return false;
    return true;
}

struct SideWeight {
    std::uint64_t key;
    double weight;
};

/// Half the cotangents of the angles opposite to every side, in the order of their keys.
std::vector<SideWeight> sideWeights(const FieldMesh& mesh) {
    std::vector<SideWeight> sides, out;
    sides.reserve(3 * mesh.triangles.size());
    for (const auto& t : mesh.triangles)
        for (std::size_t c = 0; c < 3; ++c) {
            const auto i = t[c], j = t[(c + 1) % 3], k = t[(c + 2) % 3];
            const Vec3 a = mesh.points[i] - mesh.points[k], b = mesh.points[j] - mesh.points[k];
            sides.push_back({pairKey(i, j), 0.5 * std::clamp(a.dot(b) / std::max(a.cross(b).norm(), 1e-12), -50.0, 50.0)});
        }
    std::stable_sort(sides.begin(), sides.end(), [](const SideWeight& a, const SideWeight& b) { return a.key < b.key; });
    for (std::size_t i = 0; i < sides.size();) {
        SideWeight sum{sides[i].key, 0.0};
        for (; i < sides.size() && sides[i].key == sum.key; ++i) sum.weight += sides[i].weight;
        // With positive weights every value lies between its neighbours': no island of a level can arise. Sides that are not
        // Delaunay would have negative ones.
        sum.weight = std::max(sum.weight, 1e-6);
        out.push_back(sum);
    }
    return out;
}

} // namespace

Result<Field> harmonicField(const FieldMesh& mesh, const std::vector<std::uint32_t>& zero, const std::vector<std::uint32_t>& one,
                            const std::vector<std::pair<std::uint32_t, double>>& held) {
    const std::size_t n = mesh.points.size();
    std::vector<double> value(n, 0.0);
    std::vector<int> fixed(n, 0);
    for (auto i : zero) fixed[i] = 1;
    for (auto i : one) {
        if (fixed[i] == 1) return fail("the two rails touch each other", {}, "Pick rails that have no point in common");
        fixed[i] = 2;
        value[i] = 1.0;
    }
    for (const auto& [i, level] : held) {
        if (fixed[i] != 0) continue;
        fixed[i] = 3;
        value[i] = level;
    }
    std::vector<char> used(n, 0);
    for (const auto& tr : mesh.triangles)
        for (auto i : tr) used[i] = 1;
    if (!eachPieceHasBoth(mesh, fixed, used))
        return fail("some of the picked faces are not connected with both rails", {}, "Pick the faces between them, or other rails");

    std::vector<int> unknown(n, -1);
    int count = 0;
    for (std::size_t i = 0; i < n; ++i)
        if (used[i] && !fixed[i]) unknown[i] = count++;
    using Sparse = Eigen::SparseMatrix<double>;
    std::vector<Eigen::Triplet<double>> entries;
    Eigen::VectorXd right = Eigen::VectorXd::Zero(count);
    const auto add = [&](std::uint32_t i, std::uint32_t j, double w) {
        if (unknown[i] < 0) return;
        entries.emplace_back(unknown[i], unknown[i], w);
        if (unknown[j] >= 0)
            entries.emplace_back(unknown[i], unknown[j], -w);
        else
            right[unknown[i]] += w * value[j];
    };
    for (const SideWeight& s : sideWeights(mesh)) {
        const auto low = static_cast<std::uint32_t>(s.key >> 32), high = static_cast<std::uint32_t>(s.key & 0xffffffffu);
        add(low, high, s.weight);
        add(high, low, s.weight);
    }
    if (count > 0) {
        Sparse m(count, count);
        m.setFromTriplets(entries.begin(), entries.end());
        Eigen::SimplicialLDLT<Sparse> solver(m);
        if (solver.info() != Eigen::Success) return fail("the field between the rails cannot be solved for on these faces");
        const Eigen::VectorXd x = solver.solve(right);
        for (std::size_t i = 0; i < n; ++i)
            if (unknown[i] >= 0) value[i] = std::clamp(x[unknown[i]], 0.0, 1.0);
    }
    return fieldOf(mesh, std::move(value));
}

MeshTree treeOf(const FieldMesh& mesh) {
    TriangleMesh plain;
    plain.points = mesh.points;
    plain.triangles = mesh.triangles;
    return MeshTree(plain);
}

std::vector<std::uint64_t> borderOf(const FieldMesh& mesh) {
    std::vector<std::uint64_t> sides, out;
    for (std::size_t i = 0; i < mesh.triangles.size(); ++i)
        for (std::size_t c = 0; c < 3 && mesh.faces[i] >= 0; ++c) sides.push_back(pairKey(mesh.triangles[i][c], mesh.triangles[i][(c + 1) % 3]));
    std::sort(sides.begin(), sides.end());
    for (std::size_t i = 0; i < sides.size(); ++i)
        if ((i == 0 || sides[i - 1] != sides[i]) && (i + 1 == sides.size() || sides[i + 1] != sides[i])) out.push_back(sides[i]);
    return out;
}

double Field::slope(std::uint32_t point, const Vec3& way) const {
    const Vec3& g = gradient[point];
    const auto fold = folds.empty() || !g.isZero(0.0) ? folds.end() : folds.find(point);
    if (fold == folds.end()) return g.dot(way);
    double least = way.norm();
    for (const Vec3& along : fold->second)
        if (way.dot(along) > 0.0) least = std::min(least, rejected(way, along).norm());
    return foldRise * least;
}

Field fieldOf(const FieldMesh& mesh, std::vector<double> value) {
    Field field;
    field.gradient = gradients(mesh, value);
    field.value = std::move(value);
    return field;
}

namespace {

// Where on the side from value a to b, with slopes da and db along it, the cubic takes the level: 0 … 1.
/// @param known  the slopes are those of the field itself, not of the triangles around
double crossingAt(double a, double b, double da, double db, double level, bool known) {
    const double linear = (level - a) / (b - a);
    const double rise = b - a;
    // Of slopes that are only guessed a cubic that is not monotonic would be worse than the straight line; of true ones it tells where the field dips between.
    if (known ? da == 0.0 || db == 0.0 || (da * rise < 0.0 && db * rise < 0.0)
              : da * rise <= 0.0 || db * rise <= 0.0 || std::abs(da) > 3.0 * std::abs(rise) || std::abs(db) > 3.0 * std::abs(rise))
        return linear;
    double low = 0.0, high = 1.0, t = linear;
    for (int i = 0; i < 40; ++i) {
        const double t2 = t * t, t3 = t2 * t;
        const double v = a * (2 * t3 - 3 * t2 + 1) + da * (t3 - 2 * t2 + t) + b * (3 * t2 - 2 * t3) + db * (t3 - t2) - level;
        if (v * rise > 0.0)
            high = t;
        else
            low = t;
        const double slope = a * (6 * t2 - 6 * t) + da * (3 * t2 - 4 * t + 1) + b * (6 * t - 6 * t2) + db * (3 * t2 - 2 * t);
        double next = slope != 0.0 ? t - v / slope : 0.5 * (low + high);
        if (!(next > low && next < high)) next = 0.5 * (low + high);
        if (std::abs(next - t) < 1e-13) return next;
        t = next;
    }
    return t;
}

} // namespace

LevelTracer::LevelTracer(const FieldMesh& mesh, const Field& field)
    : m_mesh(mesh), m_field(field), m_across(mesh.triangles.size(), {kNone, kNone, kNone}), m_bins(kBins) {
    struct Side {
        std::uint64_t key;
        std::uint32_t triangle;
        std::uint8_t corner;
    };
    std::vector<Side> sides;
    sides.reserve(3 * mesh.triangles.size());
    for (std::uint32_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& ids = mesh.triangles[t];
        for (std::uint8_t c = 0; c < 3; ++c) sides.push_back({pairKey(ids[c], ids[(c + 1u) % 3]), t, c});
        const auto [low, high] = std::minmax({field.value[ids[0]], field.value[ids[1]], field.value[ids[2]]});
        for (std::size_t b = binOf(low); b <= binOf(high); ++b) m_bins[b].push_back(t);
    }
    std::sort(sides.begin(), sides.end(), [](const Side& a, const Side& b) { return a.key != b.key ? a.key < b.key : a.triangle < b.triangle; });
    for (std::size_t i = 0; i < sides.size();) {
        std::size_t end = i + 1;
        while (end < sides.size() && sides[end].key == sides[i].key) ++end;
        // More than two triangles at a side: lines end there.
        if (end - i == 2) {
            m_across[sides[i].triangle][sides[i].corner] = sides[i + 1].triangle;
            m_across[sides[i + 1].triangle][sides[i + 1].corner] = sides[i].triangle;
        }
        i = end;
    }
}

std::size_t LevelTracer::binOf(double value) { return static_cast<std::size_t>(std::clamp(value, 0.0, 1.0) * (kBins - 1e-6)); }

Crossing LevelTracer::crossing(std::uint32_t triangle, std::uint8_t side, double level) const {
    const auto& ids = m_mesh.triangles[triangle];
    auto i = static_cast<std::size_t>(side), j = (i + 1) % 3;
    // Both triangles of a side must compute the same bits: always from the lower index.
    if (ids[i] > ids[j]) std::swap(i, j);
    const Vec3 &a = m_mesh.points[ids[i]], &b = m_mesh.points[ids[j]];
    const Vec3 e = b - a;
    const double t = crossingAt(m_field.value[ids[i]], m_field.value[ids[j]], m_field.slope(ids[i], e), -m_field.slope(ids[j], -e), level, m_field.knownSlopes);
    return {a + t * e, (1.0 - t) * m_mesh.uv[triangle][i] + t * m_mesh.uv[triangle][j], m_mesh.faces[triangle], triangle};
}

std::vector<LevelLine> LevelTracer::lines(double level) const {
    // A point exactly on the level counts as above it, so that every triangle has none or two crossed sides.
    const auto above = [&](std::uint32_t i) { return m_field.value[i] >= level; };
    struct Segment {
        std::uint32_t triangle;
        std::uint8_t inSide, outSide;
        bool done = false;
    };
    std::vector<Segment> segments;
    std::vector<std::uint32_t> slot(m_mesh.triangles.size(), kNone);
    for (const std::uint32_t t : m_bins[binOf(level)]) {
        const auto& ids = m_mesh.triangles[t];
        const int n = above(ids[0]) + above(ids[1]) + above(ids[2]);
        if (n == 0 || n == 3) continue;
        Segment s{t, 0, 0};
        // Walking around counter-clockwise: the side going up is where the line leaves with the higher values on its left, and it
        // comes in over the falling one.
        for (std::uint8_t c = 0; c < 3; ++c) {
            const auto a = ids[c], b = ids[(c + 1u) % 3];
            if (above(a) == above(b)) continue;
            (above(b) ? s.outSide : s.inSide) = c;
        }
        slot[t] = static_cast<std::uint32_t>(segments.size());
        segments.push_back(s);
    }
    // The segment on the other side of `side`, if the two triangles turn the same way round.
    const auto beyond = [&](const Segment& s, std::uint8_t side, bool forward) {
        const std::uint32_t t = m_across[s.triangle][side];
        if (t == kNone || slot[t] == kNone) return kNone;
        const Segment& other = segments[slot[t]];
        return m_across[t][forward ? other.inSide : other.outSide] == s.triangle ? slot[t] : kNone;
    };
    std::vector<LevelLine> lines;
    const auto walk = [&](std::uint32_t start, bool closed) {
        LevelLine line;
        line.closed = closed;
        for (std::uint32_t s = start;;) {
            segments[s].done = true;
            line.crossings.push_back(crossing(segments[s].triangle, segments[s].inSide, level));
            const std::uint32_t next = beyond(segments[s], segments[s].outSide, true);
            if (next == kNone || segments[next].done) {
                if (!closed) line.crossings.push_back(crossing(segments[s].triangle, segments[s].outSide, level));
                break;
            }
            s = next;
        }
        lines.push_back(std::move(line));
    };
    for (std::uint32_t s = 0; s < segments.size(); ++s)
        if (!segments[s].done && beyond(segments[s], segments[s].inSide, false) == kNone) walk(s, false);
    for (std::uint32_t s = 0; s < segments.size(); ++s)
        if (!segments[s].done) walk(s, true);
    return lines;
}

} // namespace gyre
