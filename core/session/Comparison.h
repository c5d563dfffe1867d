// What is left of the stock against the exact part: where too much stands, where too little.
#pragma once
#include "along/Along.h"
#include "part/Part.h"
#include "stock/Stock.h"

namespace gyre {

struct Job;
struct OperationResult;

/// What one cut is to take of the part: edges that it breaks, what it engraves.
struct MeantCut {
    std::vector<Strip> edges;
    double deep = 0.0; ///< mm, wherever it cuts
};
/// By the numbers of cuts, see Stock::skin, counted from 1. Empty: nothing of the part is to go.
using MeantCuts = std::vector<MeantCut>;
/// @param done  those with a path, in their order, as surfaces of the stock count them
[[nodiscard]] MeantCuts meantCuts(const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done);

/// A place of the stock that is the worst of its surroundings.
struct StockPlace {
    double mm = 0.0;
    Vec3 at = Vec3::Zero(), outward = Vec3::UnitZ();
    int by = 0; ///< the number of the cut that made the surface there, see Stock::skin; 0: the stock as it was set up
};

/// A stretch of the part's surface that more stands over than is told as nothing.
struct StandingArea {
    double area = 0.0;      ///< mm² of the part
    StockPlace worst;       ///< where most stands along the part's normal; by: who made the most of the surface, 0: no operation has cut there
    std::vector<int> faces; ///< of the part, rising
};

struct StockComparison {
    double cell = 0.0;                ///< mm; what is thinner may be missed
    double left = 0.0, part = 0.0;    ///< volumes, mm³
    double most = 0.0, deepest = 0.0; ///< what stands over the part at the most, and what was cut into it at the deepest, mm
    Vec3 mostAt = Vec3::Zero(), deepestAt = Vec3::Zero();
    int deepestBy = 0;          ///< the number of the cut that went deepest, see Stock::skin; 0: the stock as it was set up
    std::vector<double> limits; ///< mm, rising: the ends of the bands
    std::vector<double> area;   ///< mm² of the stock's surface in each band: below the first limit, between it and the next …, above the last
    double meantArea = 0.0;     ///< mm² of it where what is gone was to go: that is in no band, and nowhere else in these figures
    double meantDeepest = 0.0;  ///< mm
    /// Where most is gone of the part and where most stands over it, the worst first; what is less than `fine` is left out.
    std::vector<StockPlace> gone, stands;
    std::vector<StandingArea> areas; ///< of the part that more than `fine` stands over, see standingAreas()
    double fine = 0.0;               ///< mm: less than that is not known where an axis turns
    /// mm² of the surface by how far it is off, in steps from −reach to reach; what lies beyond counts with the last step of its side.
    std::vector<double> histogram;
    double reach = 0.0;
    [[nodiscard]] double wholeArea() const;
    static constexpr std::size_t kMostPlaces = 6; ///< of either kind
};

/// How far a point lies outside of a body (positive) or inside of it, mm: from its exact surfaces where it is near them.
[[nodiscard]] double offBody(const Part& body, const Vec3& p);

/// The surface of a stock, and how far it is off the part.
struct StockOff {
    TriangleMesh skin;       ///< see Stock::skin
    std::vector<float> off;  ///< mm, for every two triangles: taken where the surface is known exactly
    std::vector<char> meant; ///< for every two triangles: what is gone there was to go
};
[[nodiscard]] Result<StockOff> stockOff(const Stock& stock, const Part& part, const Progress& progress, const MeantCuts& meant = {});

/// What a measured surface comes to.
[[nodiscard]] Result<StockComparison> summed(const StockOff& off, const Stock& stock, const Part& part, std::vector<double> limits, const Progress& progress);

/// From every point of the stock's surface to the part's own, outside of it counted positive.
/// @param limits  rising, e.g. −0.05, 0.05, 0.2
[[nodiscard]] Result<StockComparison> compareStock(const Stock& stock, const Part& part, std::vector<double> limits, const Progress& progress,
                                                   const MeantCuts& meant = {});

} // namespace gyre
