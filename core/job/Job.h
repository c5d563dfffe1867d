// The document: setup, tools, route. One readable text beside its part files.
#pragma once
#include "base/Units.h"
#include "job/StockShape.h"
#include "mend/Mend.h"
#include "operation/Recipe.h"
#include "post/ProgramWords.h"
#include "tool/Assembly.h"
#include <filesystem>

namespace gyre {

struct JobBody {
    std::string name;
    std::string role = "fixture";             ///< "part", "fixture", "stock", "reference", "drawing"
    std::string file;                         ///< relative to the job file; its coordinates are the part datum's
    LengthUnit unit = LengthUnit::Millimetre; ///< of a mesh or drawing that does not know its own
    std::optional<StockShape> shape{};        ///< instead of a file
    std::string plane{};                      ///< of a drawing: the work plane it lies on; empty: XY of the datum
    bool flat = false;                        ///< of a drawing: kept flat, to be wrapped
    bool sheetsOver = false;                  ///< of a mesh that is an open sheet: what its triangles look away from is outside
    std::string only{};                       ///< the one body of an assembly that is meant, by its name in the file
    Vec3 moved = Vec3::Zero();                ///< of a fixture, stock or reference from a file: from where its file has it, mm
    Vec3 turned = Vec3::Zero();               ///< before that, about the datum's X, then Y, then Z, degrees
    double within = 0.0;                      ///< of a fixture: so far from there it may stand, mm; all that keeps off it keeps off further

    [[nodiscard]] double meshUnit() const { return unit == LengthUnit::Inch ? 25.4 : 1.0; }
    [[nodiscard]] MeshTaken meshTaken() const { return {meshUnit(), sheetsOver}; }
    [[nodiscard]] bool mayMove() const { return !shape && role != "part" && role != "drawing"; } ///< the part's place is the datum's
    [[nodiscard]] Frame placed() const;
};

/// What the user says of a hole that was found; it is known again by where its mouth was found.
struct HoleMark {
    Vec3 mouth = Vec3::Zero();
    bool turned = false, leftOut = false;
};

struct Job {
    std::string name = "New job";
    LengthUnit units = LengthUnit::Millimetre; ///< of the screen; files always hold mm
    std::string machine;                       ///< machine file, relative to the job file
    Vec3 seat = Vec3::Zero();                  ///< part datum over the table seat, mm
    double seatTurnDegrees = 0.0;              ///< about the table's Z
    Vec3 zero = Vec3::Zero();                  ///< where programs count from, in part coordinates
    ProgramWords program;                      ///< what the control wants to read
    std::string material;                      ///< what the part is made of, as tools name it
    std::vector<JobBody> bodies;
    std::vector<WorkPlane> planes;
    std::vector<HoleMark> holes;
    std::vector<Mend> mends;
    std::vector<Assembly> tools;
    std::vector<Recipe> route;
    std::vector<Recipe> variants; ///< put aside: other ways of doing an operation of the route, with its id; see Variants.h

    [[nodiscard]] Frame partFrame() const;
    /// A slice of it ("op3@2") counts as the operation.
    [[nodiscard]] const Recipe* operation(const std::string& id) const;
    [[nodiscard]] Recipe* operation(const std::string& id);
    /// With what it takes over from its parent: the holes, as they are marked, how they are entered and left.
    [[nodiscard]] Recipe resolved(const Recipe& recipe) const;
    /// All operations that make a path, resolved, in the order of the route: those switched on, whose parents are.
    /// What stands in slices comes once for each of them, with an id of its own.
    [[nodiscard]] std::vector<Recipe> worked() const;
    /// One of them.
    [[nodiscard]] std::optional<Recipe> worked(const std::string& id) const;
    /// Its name, with the number of the slice; the id where there is no such operation.
    [[nodiscard]] std::string nameOf(const std::string& id) const;
    /// How often an operation is worked: in so many slices, or once (0).
    [[nodiscard]] int slices(const Recipe& recipe) const;
    [[nodiscard]] const Assembly* tool(const std::string& id) const;
    [[nodiscard]] Assembly* tool(const std::string& id);
    [[nodiscard]] std::string freshId() const;
    [[nodiscard]] std::string freshPlaneName() const;
    [[nodiscard]] std::string freshMendName(MendKind kind) const;
    [[nodiscard]] const HoleMark* markOf(const Hole& hole) const;
    HoleMark& mark(const Hole& hole); ///< made when it is not there
};

/// The format "gyre-job", docs/formats/job.md. A file of a newer version is refused, not guessed at.
inline constexpr int kJobVersion = 1;
[[nodiscard]] Result<Job> jobFromJson(const std::string& text, const std::string& place);
[[nodiscard]] std::string jobToJson(const Job& job);

[[nodiscard]] Result<Job> openJob(const std::filesystem::path& file);
/// Atomic; the file that was there is kept with "~" behind its name.
[[nodiscard]] Status saveJob(const Job& job, const std::filesystem::path& file);

/// The part is made of this: tools that know the material take its speed and feed, the others keep theirs. @return how many took it
std::size_t takeMaterial(Job& job, const std::string& material);
/// What the tools know, each once, in their order.
[[nodiscard]] std::vector<std::string> materialsOf(const Job& job);

/// Its files named as they must be when the job file lies in another folder.
[[nodiscard]] Job movedTo(Job job, const std::filesystem::path& from, const std::filesystem::path& to);

/// Sets one word of an operation, e.g. "axis.lead" to "5" or "guard.response" to "lift"; "tool.stickOut" changes the
/// operation's tool. The value is checked as if it stood in a job file.
[[nodiscard]] Status setWord(Job& job, const std::string& operation, const std::string& key, const std::string& value);
/// The present value of a word in the job file's units, as JSON text; empty when there is no such word.
[[nodiscard]] std::string wordOf(const Job& job, const std::string& operation, const std::string& key);

} // namespace gyre
