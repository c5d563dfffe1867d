// About how many bytes the results of stages take.
#pragma once
#include "along/Along.h"
#include "axis/Axis.h"
#include "guard/Guard.h"
#include "holes/Drill.h"
#include "link/Link.h"
#include "milling/Mill.h"
#include "motion/Motion.h"
#include "pattern/Pattern.h"
#include "stock/CutFeed.h"

namespace gyre {

inline std::size_t bytesOf(const Toolpath& p) { return p.size() * (4 * sizeof(Vec3) + sizeof(Motion) + 2 * sizeof(std::int32_t) + sizeof(float)); }
inline std::size_t bytesOf(const std::vector<Pass>& passes) {
    std::size_t n = 0;
    for (const Pass& p : passes) n += sizeof(Pass) + bytesOf(p.path) + p.feedDirection.size() * sizeof(Vec3);
    return n;
}
inline std::size_t bytesOf(const std::vector<Row>& rows) {
    std::size_t n = 0;
    for (const Row& r : rows) n += sizeof(Row) + r.points.size() * (2 * sizeof(Vec3) + sizeof(int));
    return n;
}
inline std::size_t bytesOf(const std::vector<std::vector<Vec3>>& columns) {
    std::size_t n = 0;
    for (const auto& c : columns) n += sizeof c + c.size() * sizeof(Vec3);
    return n;
}
inline std::size_t bytesOf(const std::vector<Finding>& findings) { return findings.size() * 2 * sizeof(Finding); }
inline std::size_t bytesOf(const PatternResult& r) {
    return sizeof r + bytesOf(r.rows) + bytesOf(r.findings) + r.region.points.size() * (2 * sizeof(Vec3) + 2 * sizeof(std::array<std::uint32_t, 3>));
}
inline std::size_t bytesOf(const AxisResult& r) { return sizeof r + bytesOf(r.axes) + bytesOf(r.feeds) + bytesOf(r.findings); }
inline std::size_t bytesOf(const DrillResult& r) { return sizeof r + bytesOf(r.passes) + bytesOf(r.findings); }
inline std::size_t bytesOf(const MillResult& r) {
    std::size_t n = sizeof r + bytesOf(r.passes) + bytesOf(r.findings);
    for (const FlatPass& p : r.flat) n += sizeof p + p.points.size() * sizeof(FlatPoint);
    return n;
}
inline std::size_t bytesOf(const AlongResult& r) {
    std::size_t n = sizeof r + bytesOf(r.rows) + bytesOf(r.passes) + bytesOf(r.findings) + r.map.size() * sizeof(WallSample);
    for (const Strip& s : r.strips) n += sizeof s + s.line.size() * sizeof(Vec3);
    return n;
}
inline std::size_t bytesOf(const GuardResult& r) { return sizeof r + bytesOf(r.passes) + r.hazards.size() * sizeof(Hazard) + bytesOf(r.findings); }
inline std::size_t bytesOf(const LinkResult& r) {
    return sizeof r + bytesOf(r.path) + r.passStart.size() * sizeof(std::size_t) + r.away.size() + r.pieces.size() * sizeof(LinkResult::Piece) +
           r.origins.size() * sizeof(PassOrigin) + bytesOf(r.findings);
}
inline std::size_t bytesOf(const Engagement& e) { return sizeof e + e.at.size() * sizeof(Engaged); }
inline std::size_t bytesOf(const CutFeed& f) { return sizeof f + f.share.size() * sizeof(float); }
inline std::size_t bytesOf(const JointMotion& m) {
    return sizeof m + m.values.size() * sizeof(double) + m.size() * (2 * sizeof(std::uint32_t) + sizeof(float) + sizeof(double)) + bytesOf(m.findings);
}

} // namespace gyre
