#include "geom/Polyline.h"
#include <algorithm>
#include <array>

namespace gyre {

double length(const Polyline& line) {
    double sum = 0.0;
    for (std::size_t i = 1; i < line.size(); ++i) sum += (line[i] - line[i - 1]).norm();
    return sum;
}

double distanceToSegment(const Vec3& p, const Vec3& a, const Vec3& b) {
    const Vec3 ab = b - a;
    const double l2 = ab.squaredNorm();
    const double t = l2 > 0.0 ? std::clamp((p - a).dot(ab) / l2, 0.0, 1.0) : 0.0;
    return (p - a - t * ab).norm();
}

std::vector<double> arcLengths(const Polyline& line) {
    std::vector<double> s(line.size(), 0.0);
    for (std::size_t i = 1; i < line.size(); ++i) s[i] = s[i - 1] + (line[i] - line[i - 1]).norm();
    return s;
}

Vec3 pointAtLength(const Polyline& line, const std::vector<double>& lengths, double s) {
    if (line.empty()) return Vec3::Zero();
    if (s <= 0.0 || line.size() == 1) return line.front();
    if (s >= lengths.back()) return line.back();
    const auto it = std::upper_bound(lengths.begin(), lengths.end(), s);
    const auto i = static_cast<std::size_t>(it - lengths.begin());
    const double span = lengths[i] - lengths[i - 1];
    const double t = span > 0.0 ? (s - lengths[i - 1]) / span : 0.0;
    return (1.0 - t) * line[i - 1] + t * line[i];
}

Polyline alignedWith(const Polyline& beside, Polyline line) {
    if (beside.size() < 2 || line.size() < 2) return line;
    if ((line.front() - line.back()).norm() < 1e-9 && line.size() > 3) {
        line.pop_back();
        const auto nearest = std::min_element(line.begin(), line.end(),
                                              [&](const Vec3& a, const Vec3& b) { return (a - beside.front()).squaredNorm() < (b - beside.front()).squaredNorm(); });
        std::rotate(line.begin(), nearest, line.end());
        line.push_back(line.front());
    }
    const auto own = arcLengths(line), other = arcLengths(beside);
    double asItIs = 0.0, turned = 0.0;
    for (int i = 0; i <= 8; ++i) {
        const Vec3 p = pointAtLength(beside, other, other.back() * i / 8);
        asItIs += (pointAtLength(line, own, own.back() * i / 8) - p).norm();
        turned += (pointAtLength(line, own, own.back() * (8 - i) / 8) - p).norm();
    }
    if (turned < asItIs) std::reverse(line.begin(), line.end());
    return line;
}

PolylineDistance::PolylineDistance(Polyline line) : m_line(std::move(line)) {
    if (m_line.empty()) return;
    if (m_line.size() == 1) m_line.push_back(m_line.front());
    m_nodes.emplace_back();
    build(0, 0, static_cast<std::uint32_t>(m_line.size() - 1));
}

// Segments keep their order along the line, so halves of the line are compact by themselves.
void PolylineDistance::build(std::uint32_t node, std::uint32_t first, std::uint32_t count) {
    Vec3 low = m_line[first], high = m_line[first];
    for (std::uint32_t i = first; i <= first + count; ++i) {
        low = low.cwiseMin(m_line[i]);
        high = high.cwiseMax(m_line[i]);
    }
    if (count <= 4) {
        m_nodes[node] = {low, high, first, count};
        return;
    }
    const auto left = static_cast<std::uint32_t>(m_nodes.size());
    m_nodes.resize(m_nodes.size() + 2);
    m_nodes[node] = {low, high, left, 0};
    build(left, first, count / 2);
    build(left + 1, first + count / 2, count - count / 2);
}

PolylineDistance::Nearest PolylineDistance::nearest(const Vec3& p, double limit) const {
    if (m_nodes.empty()) return {limit};
    const auto boxDistance = [&](const Node& n) { return (n.low - p).cwiseMax(p - n.high).cwiseMax(Vec3::Zero()).norm(); };
    Nearest best{limit};
    std::array<std::uint32_t, 64> stack{};
    int top = 0;
    stack[0] = 0;
    while (top >= 0) {
        const Node& n = m_nodes[stack[static_cast<std::size_t>(top--)]];
        if (boxDistance(n) >= best.distance) continue;
        if (n.count > 0) {
            for (std::uint32_t i = n.first; i < n.first + n.count; ++i)
                if (const double d = distanceToSegment(p, m_line[i], m_line[i + 1]); d < best.distance) best = {d, i};
            continue;
        }
        const double l = boxDistance(m_nodes[n.first]);
        const double r = boxDistance(m_nodes[n.first + 1]);
        // The nearer child is looked at first, so it goes on the stack last.
        stack[static_cast<std::size_t>(++top)] = l <= r ? n.first + 1 : n.first;
        stack[static_cast<std::size_t>(++top)] = l <= r ? n.first : n.first + 1;
    }
    return best;
}

} // namespace gyre
