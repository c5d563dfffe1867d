#include "stock/Stock.h"
#include "base/Parallel.h"
#include <algorithm>
#include <fmt/format.h>
#include <numeric>

namespace gyre {

// ---- one ray ----

double Stock::Ray::cut(float from, float to, std::uint16_t by) {
    if (!(from < to)) return 0.0;
    const auto shared = [&](const StockSpan& s) { return static_cast<double>(std::min(to, s.to)) - static_cast<double>(std::max(from, s.from)); };
    if (!more) {
        if (one.to < one.from || to <= one.from || from >= one.to) return 0.0;
        const double went = shared(one);
        const bool left = from > one.from, right = to < one.to;
        const StockSpan below{one.from, from, one.fromBy, by}, above{to, one.to, by, one.toBy};
        if (left && right)
            more = std::make_unique<std::vector<StockSpan>>(std::vector<StockSpan>{below, above});
        else if (left)
            one = below;
        else if (right)
            one = above;
        else
            one = {0.0F, -1.0F};
        return went;
    }
    if (std::none_of(more->begin(), more->end(), [&](const StockSpan& s) { return to > s.from && from < s.to; })) return 0.0;
    double went = 0.0;
    std::vector<StockSpan> left;
    for (const StockSpan& s : *more) {
        if (to <= s.from || from >= s.to) {
            left.push_back(s);
            continue;
        }
        went += shared(s);
        if (from > s.from) left.push_back({s.from, from, s.fromBy, by});
        if (to < s.to) left.push_back({to, s.to, by, s.toBy});
    }
    if (left.size() > 1) {
        *more = std::move(left);
        return went;
    }
    more.reset();
    one = left.empty() ? StockSpan{0.0F, -1.0F} : left.front();
    return went;
}

double Stock::Ray::length() const {
    double sum = 0.0;
    each([&](const StockSpan& s) { sum += static_cast<double>(s.to) - static_cast<double>(s.from); });
    return sum;
}

double Stock::Ray::overlap(float from, float to) const {
    double sum = 0.0;
    each([&](const StockSpan& s) { sum += std::max(0.0F, std::min(to, s.to) - std::max(from, s.from)); });
    return sum;
}

Vec3 Stock::middle(const Field& f, int u, int v) const {
    Vec3 p = m_origin;
    p[(f.axis + 1) % 3] += (u + 0.5) * m_cell;
    p[(f.axis + 2) % 3] += (v + 0.5) * m_cell;
    p[f.axis] = 0.0;
    return p;
}

// ---- making ----

namespace {

/// Where a ray enters material (+1) and leaves it (−1).
using Crossings = std::vector<std::pair<float, std::int8_t>>;

/// Bodies that overlap count up.
std::vector<StockSpan> spansOf(Crossings& list) {
    std::sort(list.begin(), list.end(), [](const auto& a, const auto& b) { return a.first != b.first ? a.first < b.first : a.second > b.second; });
    std::vector<StockSpan> spans;
    int depth = 0;
    float from = 0.0F;
    for (const auto& [w, step] : list) {
        if (depth == 0 && step > 0) from = w;
        depth += step;
        if (depth == 0 && step < 0) {
            if (!spans.empty() && from - spans.back().to < 1e-5F)
                spans.back().to = w;
            else
                spans.push_back({from, w});
        }
        depth = std::max(depth, 0);
    }
    return spans;
}

} // namespace

// The rays along one axis, from the triangles that they cross.
void Stock::fill(int axis, const std::vector<const TriangleMesh*>& bodies, const Box& only) {
    Field& f = m_fields[static_cast<std::size_t>(axis)];
    f.axis = axis;
    const int iu = (axis + 1) % 3, iv = (axis + 2) % 3;
    const double cell = m_cell;
    const Vec3 size = m_bounds.high - m_bounds.low;
    f.count = {static_cast<int>(std::ceil((size[iu] + cell) / cell)), static_cast<int>(std::ceil((size[iv] + cell) / cell))};
    const auto n = static_cast<std::size_t>(f.count[0]) * static_cast<std::size_t>(f.count[1]);
    f.rays.resize(n);
    std::vector<Crossings> crossings(n);
    const auto range = [&](double low, double high, int along, int count) {
        return std::pair{std::max(0, static_cast<int>(std::floor((low - m_origin[along]) / cell - 0.5))),
                         std::min(count - 1, static_cast<int>(std::ceil((high - m_origin[along]) / cell)))};
    };
    for (const TriangleMesh* m : bodies)
        for (const auto& t : m->triangles) {
            const Vec3 &a = m->points[t[0]], &b = m->points[t[1]], &c = m->points[t[2]];
            const Vec3 normal = (b - a).cross(c - a);
            if (std::abs(normal[axis]) < 1e-14) continue;
            const Vec3 low = a.cwiseMin(b).cwiseMin(c), high = a.cwiseMax(b).cwiseMax(c);
            const auto [u0, u1] = range(low[iu], high[iu], iu, f.count[0]);
            const auto [v0, v1] = range(low[iv], high[iv], iv, f.count[1]);
            for (int u = u0; u <= u1; ++u)
                for (int v = v0; v <= v1; ++v) {
                    // A point a hair off the middle of the cell, so that edges between triangles are never hit exactly.
                    const double pu = m_origin[iu] + (u + 0.5) * cell + 1.7e-7, pv = m_origin[iv] + (v + 0.5) * cell + 2.9e-7;
                    const auto side = [&](const Vec3& p, const Vec3& q) { return (q[iu] - p[iu]) * (pv - p[iv]) - (q[iv] - p[iv]) * (pu - p[iu]); };
                    const double e0 = side(a, b), e1 = side(b, c), e2 = side(c, a);
                    if (!((e0 >= 0 && e1 >= 0 && e2 >= 0) || (e0 <= 0 && e1 <= 0 && e2 <= 0))) continue;
                    const double w = a[axis] - ((pu - a[iu]) * normal[iu] + (pv - a[iv]) * normal[iv]) / normal[axis];
                    crossings[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].push_back(
                        {static_cast<float>(w), normal[axis] < 0.0 ? std::int8_t{1} : std::int8_t{-1}});
                }
        }
    for (std::size_t i = 0; i < n; ++i) {
        if (crossings[i].empty()) continue;
        std::vector<StockSpan> spans = spansOf(crossings[i]);
        if (!only.empty()) {
            for (StockSpan& span : spans) span = {std::max(span.from, static_cast<float>(only.low[axis])), std::min(span.to, static_cast<float>(only.high[axis]))};
            std::erase_if(spans, [](const StockSpan& span) { return span.to <= span.from; });
        }
        Ray& ray = f.rays[i];
        if (spans.size() == 1) ray.one = spans.front();
        if (spans.size() > 1) ray.more = std::make_unique<std::vector<StockSpan>>(std::move(spans));
    }
}

Result<Stock> Stock::of(const std::vector<const TriangleMesh*>& bodies, double cell, Progress& progress, const Box& only) {
    Stock s;
    for (const TriangleMesh* m : bodies)
        for (const Vec3& p : m->points) s.m_bounds.add(p);
    if (s.m_bounds.empty()) return fail("there is no stock");
    if (!only.empty()) {
        s.m_bounds.low = s.m_bounds.low.cwiseMax(only.low);
        s.m_bounds.high = s.m_bounds.high.cwiseMin(only.high);
        if (!(s.m_bounds.low.array() < s.m_bounds.high.array()).all()) return fail("no stock lies there");
    }
    const Vec3 size = s.m_bounds.high - s.m_bounds.low;
    const auto rays = [&](double c) { return (size.x() * size.y() + size.y() * size.z() + size.z() * size.x()) / (c * c); };
    while (rays(cell) > static_cast<double>(kMostRays)) cell *= 1.1;
    s.m_cell = cell;
    // Not on the lines that parts are drawn on: a ray that runs along a face would count a whole cell or none.
    s.m_origin = s.m_bounds.low - cell * Vec3(0.381966, 0.430721, 0.347131);
    const auto makeField = [&](std::size_t axis) { s.fill(static_cast<int>(axis), bodies, only); };
    if (!parallelFor(3, 1, makeField, &progress)) return cancelledError();
    return s;
}

// ---- asking ----

std::size_t Stock::bytes() const {
    std::size_t n = sizeof *this;
    for (const Field& f : m_fields) {
        n += f.rays.size() * sizeof(Ray);
        for (const Ray& r : f.rays)
            if (r.more) n += sizeof *r.more + r.more->capacity() * sizeof(StockSpan);
    }
    return n;
}

double Stock::volume() const {
    double sum = 0.0;
    for (const Field& f : m_fields)
        for (const Ray& r : f.rays) sum += r.length();
    return sum * m_cell * m_cell / 3.0;
}

double Stock::depth(const Vec3& p) const {
    // Along each of the three rays nearest to the point: inside when two of them say so; then the nearest end of a span.
    int votes = 0;
    double least = kReach * m_cell;
    for (const Field& f : m_fields) {
        const int iu = (f.axis + 1) % 3, iv = (f.axis + 2) % 3;
        const int u = static_cast<int>(std::floor((p[iu] - m_origin[iu]) / m_cell)), v = static_cast<int>(std::floor((p[iv] - m_origin[iv]) / m_cell));
        if (u < 0 || v < 0 || u >= f.count[0] || v >= f.count[1]) continue;
        const double w = p[f.axis];
        bool in = false;
        f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].each([&](const StockSpan& s) {
            in = in || (w >= static_cast<double>(s.from) && w <= static_cast<double>(s.to));
            least = std::min({least, std::abs(w - static_cast<double>(s.from)), std::abs(w - static_cast<double>(s.to))});
        });
        votes += in;
    }
    return votes >= 2 ? -least : least;
}

std::vector<StockSpan> Stock::along(int axis, const Vec3& p, Vec3& through) const {
    const Field& f = m_fields[static_cast<std::size_t>(axis)];
    const int iu = (axis + 1) % 3, iv = (axis + 2) % 3;
    const int u = std::clamp(static_cast<int>(std::floor((p[iu] - m_origin[iu]) / m_cell)), 0, f.count[0] - 1),
              v = std::clamp(static_cast<int>(std::floor((p[iv] - m_origin[iv]) / m_cell)), 0, f.count[1] - 1);
    through = middle(f, u, v);
    std::vector<StockSpan> out;
    f.rays[static_cast<std::size_t>(u) * static_cast<std::size_t>(f.count[1]) + static_cast<std::size_t>(v)].each([&](const StockSpan& s) { out.push_back(s); });
    return out;
}

bool Stock::inside(const Vec3& p) const { return depth(p) < 0.0; }

} // namespace gyre
