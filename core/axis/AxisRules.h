// The axis rules: one entry for each in AxisRules.cpp, and nowhere else.
#pragma once
#include "axis/Axis.h"
#include "axis/AxisSpec.h"
#include <memory>
#include <span>

namespace gyre {

/// What a rule is asked with.
struct AimContext {
    const AxisAim& aim;
    const AimedAt& at;
    const Cutter& cutter;
    const std::optional<AxisLine>& rotary;
    const std::vector<Row>& rows;
    bool leadByPattern;
};

/// A row as an aim sees it.
struct AimedRow {
    const Row* row = nullptr;
    std::vector<double> along; ///< length at every point
    double whole = 0.0;
    struct Line {
        double first;      ///< length along the row
        Vec3 second;       ///< direction
        std::size_t which; ///< number
    };
    std::vector<Line> lines; ///< of the rule Lines, where they pass nearest to the row
};

/// One aim of a rule, for the rows it is asked about.
class AxisSource {
public:
    virtual ~AxisSource() = default;
    virtual void prepare(AimedRow&) const {}
    /// Unit vector from tip to spindle for a point of the row; nothing where there is none.
    [[nodiscard]] virtual std::optional<Vec3> at(const AimedRow& row, std::size_t point, const Vec3& feed) const = 0;
};

struct AxisRuleKind {
    AxisRule rule;
    const char *word, *label;                                       ///< in files, in sentences
    std::optional<Error> (*trouble)(const AimContext& context);     ///< what is wrong with the aim as such
    std::unique_ptr<AxisSource> (*make)(const AimContext& context); ///< the context outlives it
};
[[nodiscard]] std::span<const AxisRuleKind> axisRules();
[[nodiscard]] const AxisRuleKind& kindOf(AxisRule rule);

/// The two neighbours among the lines that agree least, and by how much; of a row.
struct LineDisagreement {
    double angle = 0.0;
    std::size_t one = 0, other = 0;
    double along = 0.0;
};
[[nodiscard]] LineDisagreement disagreement(const AimedRow& row, bool closed);

} // namespace gyre
