#include "pattern/Beyond.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace gyre {
namespace {

double lengthOfSpan(const RawLine& line, std::size_t i) { return (line.samples[i].point - line.samples[i - 1].point).norm(); }

// From the front.
RawLine withoutStart(const RawLine& line, double mm, const BetweenSamples& between) {
    RawLine out;
    double left = mm;
    for (std::size_t i = 1; i < line.samples.size(); ++i) {
        const double span = lengthOfSpan(line, i);
        if (left >= span) {
            left -= span;
            continue;
        }
        out.samples.push_back(left > 0.0 ? between(line.samples[i - 1], line.samples[i], left / span) : line.samples[i - 1]);
        out.samples.insert(out.samples.end(), line.samples.begin() + static_cast<std::ptrdiff_t>(i), line.samples.end());
        break;
    }
    return out;
}

/// An end of a row: the direction in which it runs out of it.
Vec3 wayOut(const Row& row, bool front) {
    const std::size_t n = row.points.size();
    const auto at = [&](std::size_t k) { return row.points[front ? k : n - 1 - k]; };
    const Vec3 &normal = front ? row.normals.front() : row.normals.back(), last = at(0) - at(1);
    Vec3 way = last.normalized();
    // The chord of a bend points off by half of it: as much again as it turned since the one before.
    if (n > 2) {
        const Vec3 before = at(1) - at(2);
        way += last.norm() / std::max(last.norm() + before.norm(), 1e-12) * (way - before.normalized());
    }
    return rejected(way, normal).normalized();
}

} // namespace

RawLine shortened(const RawLine& line, double mm, const BetweenSamples& between) {
    if (line.closed) return line;
    RawLine out = withoutStart(line, mm, between);
    std::reverse(out.samples.begin(), out.samples.end());
    out = withoutStart(out, mm, between);
    std::reverse(out.samples.begin(), out.samples.end());
    return out;
}

void goBeyond(std::vector<Row>& rows, double mm, double longestStep) {
    struct End {
        std::size_t row;
        Vec3 at;
    };
    std::map<int, std::vector<End>> ends;
    for (std::size_t i = 0; i < rows.size(); ++i)
        if (!rows[i].closed)
            for (const Vec3& p : {rows[i].points.front(), rows[i].points.back()}) ends[rows[i].index].push_back({i, p});
    const auto room = [&](std::size_t i, const Vec3& from, const Vec3& way) {
        constexpr double kAhead = 0.7; // of the way to it: no further to the side than that
        double most = mm;
        for (const End& e : ends[rows[i].index]) {
            const Vec3 to = e.at - from;
            if (e.row != i && to.dot(way) >= kAhead * to.norm()) most = std::min(most, 0.5 * to.norm());
        }
        return most;
    };
    for (std::size_t i = 0; i < rows.size(); ++i) {
        Row& row = rows[i];
        if (row.closed || row.points.size() < 2) continue;
        for (const bool front : {false, true}) {
            const Vec3 from = front ? row.points.front() : row.points.back(), way = wayOut(row, front), normal = front ? row.normals.front() : row.normals.back();
            const int face = front ? row.faces.front() : row.faces.back();
            const double far = room(i, from, way);
            if (!(far > 1e-3)) continue;
            const auto count = static_cast<std::size_t>(std::ceil(far / longestStep));
            std::vector<Vec3> points;
            for (std::size_t k = 1; k <= count; ++k) points.push_back(from + far * static_cast<double>(k) / static_cast<double>(count) * way);
            if (front) std::reverse(points.begin(), points.end());
            row.points.insert(front ? row.points.begin() : row.points.end(), points.begin(), points.end());
            row.normals.insert(front ? row.normals.begin() : row.normals.end(), count, normal);
            row.faces.insert(front ? row.faces.begin() : row.faces.end(), count, face);
        }
    }
}

} // namespace gyre
