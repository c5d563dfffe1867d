// Drawings: curves from DXF and SVG files, in millimetres, in the plane of the drawing.
#pragma once
#include "geom/Curve.h"
#include <filesystem>
#include <map>
#include <optional>

namespace gyre {

struct DrawnCurve {
    std::string layer;
    Curve curve;
};

struct Drawing {
    std::vector<DrawnCurve> curves; ///< lines and arcs that meet end to end on a layer are one curve
    std::string unitWords;          ///< what the file says of its unit, for the user: "millimetres", "no unit: read as millimetres"
    bool unitKnown = false;
    std::map<std::string, int> passedOver; ///< what is no curve, by kind: "TEXT" 3
    [[nodiscard]] Box bounds() const;
};

[[nodiscard]] bool isDrawingFile(const std::filesystem::path& file);
/// @param unit mm to one unit where the file does not say; files that do are believed
[[nodiscard]] Result<Drawing> readDrawing(const std::filesystem::path& file, double unit = 1.0);
[[nodiscard]] Result<Drawing> drawingFromDxf(const std::string& text, const std::string& place, double unit = 1.0);
[[nodiscard]] Result<Drawing> drawingFromSvg(const std::string& text, const std::string& place, double unit = 1.0);

/// ASCII DXF (R12) of polylines within `tolerance`; lines stay lines.
[[nodiscard]] std::string dxfOf(const std::vector<DrawnCurve>& curves, double tolerance);

} // namespace gyre
