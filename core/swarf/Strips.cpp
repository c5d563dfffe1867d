// What is left of triangles beside strips along edges.
#include "along/Along.h"
#include "base/Parallel.h"
#include "geom/Polyline.h"

namespace gyre {
namespace {

using Corners = std::array<Vec3, 3>;

/// A line with all that is nearer to it than a width.
struct Band {
    PolylineDistance distance;
    Box box;
    double width;
};

/// Opens triangles until they are small beside a strip's width, and cuts them there; what stays of one in a piece is kept in one.
///
/// Of a triangle with sides up to e whose corners all lie outside of a strip of half width w by e²/6w, no point lies within: for every
/// point some corner lies in the plane that touches the strip there or beyond it, at most e/√3 away.
class Opener {
public:
    Opener(const std::vector<Band>& bands, TriangleMesh& out) : m_bands(bands), m_out(out) {}

    void open(const Corners& t) {
        Box box;
        for (const Vec3& p : t) box.add(p);
        std::vector<std::size_t> near;
        for (std::size_t b = 0; b < m_bands.size(); ++b)
            if ((box.low.array() <= m_bands[b].box.high.array()).all() && (m_bands[b].box.low.array() <= box.high.array()).all()) near.push_back(b);
        if (near.empty() || whole(t, near)) keep(t);
    }

private:
    void keep(const Corners& t) {
        const auto at = static_cast<std::uint32_t>(m_out.points.size());
        for (const Vec3& p : t) m_out.points.push_back(p);
        m_out.triangles.push_back({at, at + 1, at + 2});
    }

    enum class Lies { Outside, Within, Across };

    /// Where all lies that is no further than `radius` from a point; `near` becomes those strips that it may reach into.
    Lies lies(const Vec3& p, double radius, const std::vector<std::size_t>& before, std::vector<std::size_t>& near) const {
        near.clear();
        for (const std::size_t b : before) {
            const double width = m_bands[b].width, d = m_bands[b].distance.distance(p, width + radius + 1e-6);
            if (d + radius <= width) return Lies::Within;
            if (d < width + radius) near.push_back(b);
        }
        return near.empty() ? Lies::Outside : Lies::Across;
    }

    /// Does it stay as it is? Otherwise its pieces have been kept.
    bool whole(const Corners& t, const std::vector<std::size_t>& before) {
        const std::array<double, 3> side{(t[1] - t[0]).norm(), (t[2] - t[1]).norm(), (t[0] - t[2]).norm()};
        const auto l = static_cast<std::size_t>(std::max_element(side.begin(), side.end()) - side.begin());
        const double longest = side[l], height = longest > 0.0 ? (t[1] - t[0]).cross(t[2] - t[0]).norm() / longest : 0.0;
        if (height <= 1e-9) return false; // nothing of it is left out
        constexpr double kSliver = 0.3;
        if (height < kSliver * longest) return wholeSliver(t, l, longest, height, before);
        const Vec3 middle = (t[0] + t[1] + t[2]) / 3.0;
        std::vector<std::size_t> near;
        const Lies where = lies(middle, std::max({(t[0] - middle).norm(), (t[1] - middle).norm(), (t[2] - middle).norm()}), before, near);
        if (where != Lies::Across) return where == Lies::Outside;
        double narrowest = 1e300;
        for (const std::size_t b : near) narrowest = std::min(narrowest, m_bands[b].width);
        if (longest <= std::max(0.1, 0.8 * narrowest)) return cut(t, near, longest * longest / (6.0 * narrowest));
        const std::array<Vec3, 3> half{0.5 * (t[0] + t[1]), 0.5 * (t[1] + t[2]), 0.5 * (t[2] + t[0])};
        const std::array<Corners, 4> pieces{Corners{t[0], half[0], half[2]}, Corners{half[0], t[1], half[1]}, Corners{half[2], half[1], t[2]}, half};
        std::array<bool, 4> stays{};
        for (std::size_t i = 0; i < 4; ++i) stays[i] = whole(pieces[i], near);
        if (stays[0] && stays[1] && stays[2] && stays[3]) return true;
        for (std::size_t i = 0; i < 4; ++i)
            if (stays[i]) keep(pieces[i]);
        return false;
    }

    // A sliver is looked at slice by slice along its longest side; slices that stay are kept together.
    bool wholeSliver(const Corners& t, std::size_t l, double longest, double height, const std::vector<std::size_t>& before) {
        const Vec3 &from = t[l], &to = t[(l + 1) % 3], &apex = t[(l + 2) % 3];
        const double foot = (apex - from).dot(to - from) / (longest * longest);
        constexpr int kMost = 64;
        const int slices = std::clamp(static_cast<int>(std::ceil(longest / (1.5 * height))), 2, kMost);
        const double radius = std::hypot(0.5 * longest / slices, height);
        const auto below = [&](double s) { return Vec3(from + s * (to - from)); };
        const auto above = [&](double s) { return s <= foot ? Vec3(from + s / foot * (apex - from)) : Vec3(to + (1.0 - s) / (1.0 - foot) * (apex - to)); };
        const auto slice = [&](int first, int last, const auto& give) { // as triangles around its first corner
            const double a = static_cast<double>(first) / slices, b = static_cast<double>(last) / slices;
            std::vector<Vec3> line{below(b)};
            if (b < 1.0) line.push_back(above(b));
            if (foot > a && foot < b) line.push_back(apex);
            if (a > 0.0) line.push_back(above(a));
            for (std::size_t k = 1; k < line.size(); ++k) give(Corners{below(a), line[k - 1], line[k]});
        };
        std::vector<Lies> at(static_cast<std::size_t>(slices));
        std::vector<std::vector<std::size_t>> near(at.size());
        for (int i = 0; i < slices; ++i) at[static_cast<std::size_t>(i)] = lies(below((i + 0.5) / slices), radius, before, near[static_cast<std::size_t>(i)]);
        if (std::all_of(at.begin(), at.end(), [](Lies x) { return x == Lies::Outside; })) return true;
        for (int i = 0; i < slices;) {
            int last = i + 1;
            const Lies where = at[static_cast<std::size_t>(i)];
            while (where == Lies::Outside && last < slices && at[static_cast<std::size_t>(last)] == Lies::Outside) ++last;
            if (where == Lies::Outside) slice(i, last, [&](const Corners& c) { keep(c); });
            if (where == Lies::Across)
                slice(i, last, [&](const Corners& c) {
                    if (whole(c, near[static_cast<std::size_t>(i)])) keep(c);
                });
            i = last;
        }
        return false;
    }

    /// How far outside of all strips; negative within one.
    [[nodiscard]] double outside(const std::vector<std::size_t>& near, const Vec3& p, double most) const {
        for (const std::size_t b : near) most = std::min(most, m_bands[b].distance.distance(p, m_bands[b].width + most) - m_bands[b].width);
        return most;
    }

    // Corners stay that lie outside by `off`; sides are cut where that ends, on the outer side of it.
    bool cut(const Corners& t, const std::vector<std::size_t>& near, double off) {
        const auto at = [&](const Vec3& p) { return outside(near, p, 1.0 + off); };
        const std::array<double, 3> out{at(t[0]), at(t[1]), at(t[2])};
        if (std::all_of(out.begin(), out.end(), [&](double d) { return d >= off; })) return true;
        std::array<Vec3, 4> left;
        std::size_t n = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const std::size_t next = (k + 1) % 3, in = out[k] >= off ? next : k, from = in == k ? next : k;
            if (out[k] >= off) left[n++] = t[k];
            if ((out[k] >= off) == (out[next] >= off)) continue;
            double low = 0.0, high = 1.0, atLow = out[from], atHigh = out[in];
            constexpr int kRounds = 8;
            for (int i = 0; i < kRounds && atLow > 1.1 * off; ++i) { // by chord and by halves in turn: the chord alone may creep
                const double m = i % 2 == 0 ? low + (high - low) * (atLow - off) / (atLow - atHigh) : 0.5 * (low + high), here = at(t[from] + m * (t[in] - t[from]));
                (here >= off ? low : high) = m;
                (here >= off ? atLow : atHigh) = here;
            }
            left[n++] = t[from] + low * (t[in] - t[from]);
        }
        for (std::size_t k = 2; k < n; ++k) keep({left[0], left[k - 1], left[k]});
        return false;
    }

    const std::vector<Band>& m_bands;
    TriangleMesh& m_out;
};

} // namespace

TriangleMesh withoutStrips(const TriangleMesh& mesh, const std::vector<Strip>& strips) {
    std::vector<Band> bands;
    for (const Strip& s : strips) {
        Box box;
        for (const Vec3& p : s.line) box.add(p);
        box.low -= Vec3::Constant(s.width);
        box.high += Vec3::Constant(s.width);
        bands.push_back({PolylineDistance(s.line), box, s.width});
    }
    // Every block of triangles by itself, put together in their order.
    constexpr std::size_t kBlock = 128;
    std::vector<TriangleMesh> parts((mesh.triangles.size() + kBlock - 1) / kBlock);
    parallelFor(parts.size(), 1, [&](std::size_t k) {
        Opener opener(bands, parts[k]);
        for (std::size_t i = k * kBlock; i < std::min(mesh.triangles.size(), (k + 1) * kBlock); ++i)
            opener.open({mesh.corner(i, 0), mesh.corner(i, 1), mesh.corner(i, 2)});
    });
    TriangleMesh out;
    for (const TriangleMesh& part : parts) out.append(part);
    return out;
}

} // namespace gyre
