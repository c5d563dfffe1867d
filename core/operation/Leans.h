// Lead and tilt of a finished path as its recipe counts them, for whoever tells them.
#pragma once
#include "axis/Axis.h"

namespace gyre {

struct OperationResult;

class Leans {
public:
    /// @param result  with a path; outlives this
    Leans(const OperationResult& result, const AxisSpec& axis);

    /// Does the location lie on a row that runs against the pattern's direction?
    [[nodiscard]] bool returning(std::size_t location) const;
    /// Unit feed along the surface, on the location's own row; nothing where the cutter touches nothing or the row has no length there.
    [[nodiscard]] std::optional<Vec3> feed(std::size_t location) const;
    /// Lead and tilt in rad, with the signs of the recipe: on rows that run back tilt is counted to the same side of the pattern, and lead as it is asked for.
    [[nodiscard]] std::optional<LeadTilt> at(std::size_t location) const;
    /// By how much a word of the recipe counts here: 1, or −1 where its sign turns.
    [[nodiscard]] double leadSign(std::size_t location) const { return m_leadByPattern && returning(location) ? -1.0 : 1.0; }
    [[nodiscard]] double tiltSign(std::size_t location) const { return returning(location) ? -1.0 : 1.0; }

private:
    const Toolpath& m_path;
    std::vector<char> m_returning; ///< by the number of the row
    bool m_leadByPattern;
};

} // namespace gyre
