// Where the part should stand on the table: what travel and time come to at many places of it.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "job/Job.h"
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

struct OperationResult;
struct Workplace;

/// The part, with all that stands around it, at one place of the table.
struct SeatTry {
    Vec3 seat = Vec3::Zero(); ///< as in the job
    double turnDegrees = 0.0;
    double seconds = 0.0;  ///< of all paths
    double beyond = 0.0;   ///< how far a joint would have to leave its travel, mm or °
    std::string leaves;    ///< "X 12.4 mm", or why else it does not go; empty: all stays within the travel
    double room = 1e300;   ///< mm from where a slide goes to the end of its travel
    bool onTable = true;   ///< all of it stands on the table
    bool measured = false; ///< with all locations of the paths, not with some of them
    [[nodiscard]] bool goes() const { return onTable && leaves.empty(); }
};

struct SeatMap {
    std::vector<double> x, y;    ///< mm, of the seat: columns and rows of the map
    std::vector<double> turns;   ///< °, of its sheets
    std::vector<SeatTry> places; ///< sheet by sheet, row by row
    SeatTry present;
    std::optional<SeatTry> best; ///< none where it goes nowhere
    std::vector<Vec2> table;     ///< its outline, in the seat's coordinates
    std::vector<Vec2> foot;      ///< corners of all that stands on it, in the datum's, about their middle
    [[nodiscard]] const SeatTry& at(std::size_t turn, std::size_t column, std::size_t row) const { return places[(turn * y.size() + row) * x.size() + column]; }
};

/// Runs the paths, as they are, at each place: of long ones some locations alone, then all of them where the part stands and where it should. What goes
/// everywhere alike counts as the same time; then the place with the most room to the ends of the travel is the best. Rotaries may take other solutions there.
/// The paths themselves are computed anew once the part stands elsewhere: links and what is near may change with it.
[[nodiscard]] Result<SeatMap> seatMap(const Workplace& place, const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done, Progress& progress);

/// One place, with all locations.
[[nodiscard]] Result<SeatTry> seatAt(const Workplace& place, const Job& job, const std::vector<std::shared_ptr<const OperationResult>>& done, const Vec3& seat,
                                     double turnDegrees, Progress& progress);

} // namespace gyre
