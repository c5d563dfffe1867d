// The data that flows: rows of contacts, cutter locations, toolpaths.
#pragma once
#include "geom/Vec.h"
#include <cstdint>
#include <string>
#include <vector>

namespace gyre {

/// One cutting pass as the pattern lays it: contacts with normals on the exact surface, before any tool axis.
struct Row {
    std::vector<Vec3> points;
    std::vector<Vec3> normals; ///< outward, unit
    std::vector<int> faces;    ///< face of the part under every point
    bool closed = false;       ///< last point joins the first (which is not repeated)
    bool returning = false;    ///< run against the pattern's direction (every other row of back-and-forth)
    bool spiral = false;       ///< many rounds in one, from one closed row to the next
    int index = 0;             ///< number of the row in the pattern, counted from the first rail
    double level = 0.0;        ///< field value, 0 on the first rail, 1 on the second
    /// The shares of the pattern's length, in its direction, at which the row begins and ends, where others are longer: axis keys stand at the same places on all.
    double begins = 0.0, ends = 1.0;
};

enum class Motion : std::uint8_t { Cut, LeadIn, LeadOut, Link, Rapid, Plunge, Retract };
[[nodiscard]] const char* motionName(Motion m);

/// Stands in the feed column for "as fast as the machine goes". A feed of 0 is one that nobody gave; nothing may run with it.
inline constexpr float kRapidFeed = -1.0f;

/// Cutter locations, as columns. Part datum coordinates, mm; feeds in mm/min, or kRapidFeed.
/// Location i is reached by a straight move of the tip from location i−1, of kind `motion[i]`.
struct Toolpath {
    std::vector<Vec3> tip;
    std::vector<Vec3> axis;    ///< unit, tip to spindle
    std::vector<Vec3> contact; ///< equals tip where nothing is touched
    std::vector<Vec3> normal;  ///< zero where nothing is touched
    std::vector<Motion> motion;
    std::vector<std::int32_t> row;
    std::vector<float> feed;
    std::vector<std::int32_t> face; ///< −1 where nothing is touched

    [[nodiscard]] std::size_t size() const { return tip.size(); }
    [[nodiscard]] bool empty() const { return tip.empty(); }
    /// Is location i reached at rapid speed? So are all of kind Rapid, and quick strokes and retracts that say so.
    [[nodiscard]] bool rapid(std::size_t i) const { return feed[i] == kRapidFeed; }
    void reserve(std::size_t n);
    /// A move of kind Rapid is a rapid whatever `feedRate` says.
    void push(const Vec3& tipAt, const Vec3& axisAt, Motion kind, int rowIndex, double feedRate);
    void push(const Vec3& tipAt, const Vec3& axisAt, const Vec3& contactAt, const Vec3& normalAt, Motion kind, int rowIndex, double feedRate, int faceIndex);
    void append(const Toolpath& other);
    void pop(); ///< takes the last location away
    /// Columns restricted to the locations for which keep[i] is true.
    void filter(const std::vector<char>& keep);
    /// Locations by number, in this order; some may come twice.
    [[nodiscard]] Toolpath taken(const std::vector<std::size_t>& order) const;
};

/// Length of all moves of the tip, and of the cutting ones alone. mm
struct PathLength {
    double all = 0.0, cutting = 0.0;
};
[[nodiscard]] PathLength pathLength(const Toolpath& path);

} // namespace gyre
