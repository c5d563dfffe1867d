#include "milling/Lines.h"
#include <algorithm>

namespace gyre {

double lengthOf(const Line& l) {
    double sum = 0.0;
    for (std::size_t i = 1; i < l.size(); ++i) sum += (l[i] - l[i - 1]).norm();
    return sum;
}

std::vector<Vec2> tangents(const Line& l, bool closed) {
    const std::size_t n = l.size();
    std::vector<Vec2> out(n);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec2 before = i > 0 ? l[i] - l[i - 1] : closed ? l[n - 1] - l[n - 2] : l[1] - l[0];
        const Vec2 after = i + 1 < n ? l[i + 1] - l[i] : closed ? l[1] - l[0] : l[n - 1] - l[n - 2];
        out[i] = (before.normalized() + after.normalized()).normalized();
    }
    return out;
}

LinePlace nearestOn(const Line& line, const Vec2& p) {
    LinePlace best;
    double along = 0.0;
    for (std::size_t i = 1; i < line.size(); ++i) {
        const Vec2 d = line[i] - line[i - 1];
        const double t = d.squaredNorm() > 0.0 ? std::clamp((p - line[i - 1]).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
        const Vec2 q = line[i - 1] + t * d;
        if (const double away = (q - p).norm(); away < best.distance - 1e-9) best = {q, d, along + t * d.norm(), away};
        along += d.norm();
    }
    return best;
}

int senseOn(const Line& stretch, const Line& whole) {
    const std::size_t k = std::max<std::size_t>(1, stretch.size() / 2);
    const Vec2 d = stretch[k] - stretch[k - 1];
    return d.dot(nearestOn(whole, 0.5 * (stretch[k] + stretch[k - 1])).way) < 0.0 ? -1 : 1;
}

Line evenly(const Line& l, double pace) {
    Line out{l.front()};
    double over = 0.0;
    for (std::size_t i = 1; i < l.size(); ++i) {
        const double d = (l[i] - l[i - 1]).norm();
        double s = pace - over;
        for (; s <= d; s += pace) out.push_back(l[i - 1] + (l[i] - l[i - 1]) * (s / std::max(1e-12, d)));
        over = d - (s - pace);
    }
    if (out.size() > 1 && (out.back() - l.back()).norm() < 0.5 * pace) out.pop_back();
    out.push_back(l.back());
    return out;
}

} // namespace gyre
