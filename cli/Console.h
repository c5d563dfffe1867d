// What the commands share, and the commands that stand in files of their own.
#pragma once
#include "Commands.h"
#include <fmt/format.h>
#include <fmt/ostream.h>
#include <iostream>

namespace gyre {

/// Streams, and whether JSON is wanted.
struct Console {
    std::ostream& out;
    std::ostream& err;
    bool json = false;
    bool quiet = false;

    int failed(const Error& e) const {
        if (json) fmt::print(out, "{}\n", textOf(OrderedJson{{"error", {{"what", e.what}, {"place", e.place}, {"remedy", e.remedy}}}}, 1));
        fmt::print(err, "gyre: {}\n", e.text());
        return kExitFailed;
    }
    [[nodiscard]] Progress::Listener listener() const {
        if (quiet) return {};
        return [this, last = std::string()](double f, const std::string& what) mutable {
            if (what == last) return;
            last = what;
            fmt::print(err, "{:3.0f} % {}\n", 100.0 * f, what);
        };
    }
};

[[nodiscard]] inline std::vector<double> list(const Vec3& v) { return {v.x(), v.y(), v.z()}; }

/// A job, computed.
struct Opened {
    Job job;
    Workshop workshop;
    StageCache cache;
    JobResults results;
};
/// @param upTo  share of the command's progress that this takes
[[nodiscard]] Result<std::unique_ptr<Opened>> openAndCompute(const Console& c, const std::string& file, double upTo);

/// A job with what its operations would run against.
struct Placed {
    Job job;
    std::shared_ptr<const Workplace> place;
};
[[nodiscard]] Result<Placed> openAndPlace(const Console& c, const std::string& file);

// Looking at files: each tells what it finds and returns an exit code.
int inspect(const Console& c, const std::string& file);
int holes(const Console& c, const std::string& file, const std::vector<int>& faces, const std::string& machineFile);
int flank(const Console& c, const std::string& file, const std::vector<int>& faces, double diameter);
/// The surface drawn straight between two chains of edges.
int flankOfEdges(const Console& c, const std::string& file, const std::vector<int>& lower, const std::vector<int>& upper, double diameter);
/// Bodies of an assembly, or the curves of a drawing.
int contents(const Console& c, const std::string& file);
/// What the mends of a job come to; their curves as DXF when a file is named.
int mends(const Console& c, const std::string& file, const std::string& out);

/// A job around a part, with stock around that and the part on the table's seat.
int makeNew(const Console& c, const std::string& part, const std::string& out, const std::string& machine, const std::string& shop, double allowance);

/// What an added operation is told besides its first guess.
struct Wanted {
    std::string tool;               ///< id of a tool of the job
    double depth = 0.0;             ///< mm, of milling and curves; 0: as guessed
    int repeat = 0;                 ///< times around an axis
    std::string axis = "z";         ///< of the repeat
    std::string skin;               ///< "plane 40", "cylinder 60 z", "sphere 90"
    std::vector<std::string> words; ///< "links.approach=2", as in the job file
};
/// What is picked for it.
struct Picked {
    std::vector<int> faces, edges;
    std::string drawing;
};

// Adding to a job: the first guess, put behind the route and written to `out`.
/// Spot and drill, and wider steps, for one group of holes or for all.
int drill(const Console& c, const std::string& file, const std::string& out, int group, const Wanted& wanted);
int mill(const Console& c, const std::string& file, const std::string& out, const std::string& shape, const Picked& picked, const std::string& on, const Wanted& wanted);
/// Along a wall, a curve, a channel or edges.
int along(const Console& c, const std::string& file, const std::string& out, const std::string& what, const Picked& picked, const Wanted& wanted);
/// Rows on faces between two rails of edges.
int rows(const Console& c, const std::string& file, const std::string& out, const std::vector<int>& faces, const std::vector<int>& rail1, const std::vector<int>& rail2,
         const Wanted& wanted);
/// Operations that stand one below the other, cut slice by slice.
int slices(const Console& c, const std::string& file, const std::string& out, const std::vector<std::string>& operations, const Wanted& wanted);

/// What the variants of an operation come to, side by side.
int variants(const Console& c, const std::string& file, const std::string& operation);
/// Another variant of an operation with other words, or one that is put aside taken instead.
int vary(const Console& c, const std::string& file, const std::string& out, const std::string& operation, const std::string& take, const Wanted& wanted);

/// A job as it must be where `out` lies, in place of `file`; over no file but a job.
Status saveBeside(const Job& job, const std::string& file, const std::string& out);

/// Directions that stand still instead of the operation's turning axis. @param lean  ° off the faces' normal at most  @param out  a job with operations that have them;
/// empty: none
int directions(const Console& c, const std::string& file, const std::string& operation, double lean, const std::string& out);
/// Which assemblies of the job, and of a library, do the work of an operation.
int assemblies(const Console& c, const std::string& file, const std::string& operation, const std::string& library, double step);

/// What the operations leave of the stock: as a file, or told against the part. @param until  the last operation that counts; empty: all
int cutStock(const Console& c, const std::string& file, const std::string& out, const std::string& until);
/// Where the part should stand on the table. @param out  a job with it there; empty: none
int useOn(const Console& c, const std::string& file, const std::string& part, const std::string& out);
int seats(const Console& c, const std::string& file, const std::string& out);
/// The marks on the surface at a place of a path.
struct MarksAsked {
    std::string operation; ///< the last one when left out
    double at = 0.5;       ///< place on its path, 0 … 1
    double size = 0.0;     ///< of the patch, mm; 0: wide enough for some rows
};
/// @param out  a table of heights to write; none when empty
int marksThere(const Console& c, const std::string& file, const MarksAsked& asked, const std::string& out);
int engagementOf(const Console& c, const std::string& file, const std::string& only);
int compareWithPart(const Console& c, const std::string& file, const std::vector<double>& limits, const std::string& until, const std::string& page);

/// A program that a hand has changed: what is changed, and whether it is still safe.
int proveProgram(const Console& c, const std::string& program, const std::string& file, const std::string& dialectText);

/// The set-up sheet, and the list of tools where a file for it is named. @param program  the NC file that goes with it; empty: none
int setupSheet(const Console& c, const std::string& file, const std::string& out, const std::string& tools, const std::string& program);

} // namespace gyre
