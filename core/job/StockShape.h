// Stock as a shape with numbers instead of a file.
#pragma once
#include "form/FormFwd.h"
#include "part/Part.h"
#include <map>
#include <optional>

namespace gyre {

struct StockShape {
    enum class Kind { Block, Cylinder, Tube, Around, Outline } kind = Kind::Block;
    Vec3 low = Vec3::Constant(-25.0), high = Vec3::Constant(25.0); ///< Block; of the others the range along the axis counts
    int axis = 2;                                                  ///< Cylinder, Tube: 0, 1, 2 for X, Y, Z
    double radius = 25.0, innerRadius = 0.0;
    Vec3 centre = Vec3::Zero(); ///< Cylinder, Tube: a point on the axis
    double allowance = 2.0;     ///< Around: how far from the part
    std::string outline{};      ///< Outline: the closed curve of a mend or drawing that is raised along the axis

    bool operator==(const StockShape&) const = default;
    [[nodiscard]] Status valid() const; ///< says what is impossible
    [[nodiscard]] bool restsOnOthers() const { return kind == Kind::Around || kind == Kind::Outline; }
    [[nodiscard]] TriangleMesh mesh() const; ///< of a shape that rests on nothing else
    /// @param part for Around; @param curves for Outline, by name
    [[nodiscard]] Result<TriangleMesh> mesh(const Part* part, const std::map<std::string, std::vector<Curve>>& curves, const Progress& progress) const;
    [[nodiscard]] std::string words(double unit = 1.0) const; ///< "block 124 × 84 × 22"; lengths are divided by `unit`
};

/// The least shape around the part with `allowance` on all sides but the bottom, in whole millimetres: a cylinder where the part's
/// corners would be air in a block, a block otherwise.
[[nodiscard]] StockShape proposeStock(const Part& part, double allowance);

[[nodiscard]] const Form<StockShape>& stockForm();

} // namespace gyre
