#include "operation/Leans.h"
#include "axis/AxisSpec.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"

namespace gyre {

Leans::Leans(const OperationResult& result, const AxisSpec& axis) : m_path(*result.path()), m_leadByPattern(axis.leadByPattern) {
    if (!result.pattern) return;
    for (const Row& row : result.pattern->rows) {
        if (row.index < 0) continue;
        const auto i = static_cast<std::size_t>(row.index);
        if (i >= m_returning.size()) m_returning.resize(i + 1, 0);
        m_returning[i] = row.returning;
    }
}

bool Leans::returning(std::size_t location) const {
    const int row = m_path.row[location];
    return row >= 0 && static_cast<std::size_t>(row) < m_returning.size() && m_returning[static_cast<std::size_t>(row)];
}

std::optional<Vec3> Leans::feed(std::size_t location) const {
    const Toolpath& p = m_path;
    if (location >= p.size() || p.motion[location] != Motion::Cut || p.normal[location].squaredNorm() < 0.5) return std::nullopt;
    const auto sameRow = [&](std::size_t i) { return p.motion[i] == Motion::Cut && p.row[i] == p.row[location]; };
    Vec3 before = Vec3::Zero(), after = Vec3::Zero();
    if (location > 0 && sameRow(location - 1)) before = p.contact[location] - p.contact[location - 1];
    if (location + 1 < p.size() && sameRow(location + 1)) after = p.contact[location + 1] - p.contact[location];
    // Of the circle through three points, whose distances differ: the nearer one tells more.
    const double a = before.norm(), b = after.norm();
    const Vec3 f = rejected(a > 0.0 && b > 0.0 ? Vec3(before * (b / a) + after * (a / b)) : Vec3(before + after), p.normal[location]);
    if (f.norm() < 1e-9) return std::nullopt;
    return f.normalized();
}

std::optional<LeadTilt> Leans::at(std::size_t location) const {
    const auto f = feed(location);
    if (!f) return std::nullopt;
    LeadTilt lean = leadTiltOf(m_path.axis[location], m_path.normal[location], *f);
    lean.lead *= leadSign(location);
    lean.tilt *= tiltSign(location);
    return lean;
}

} // namespace gyre
