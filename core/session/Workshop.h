// From a job to what its operations run against: parts, scene, machine. Loaded files are kept while they do not change.
#pragma once
#include "base/Hash.h"
#include "base/Inputs.h"
#include "drawing/Drawing.h"
#include "guard/Overlaps.h"
#include "job/Job.h"
#include "part/Aside.h"
#include "session/Shelf.h"
#include <map>

namespace gyre {

struct Machine;
struct MendResult;
struct Workplace;

class Workshop {
public:
    /// @param reader  who reads part files; without one they are read here
    /// @param shelf  keeps what is opened longer than this workshop lives
    explicit Workshop(std::filesystem::path folder, AsideReader reader = {}, std::shared_ptr<Shelf> shelf = {})
        : m_folder(std::move(folder)), m_reader(std::move(reader)), m_shelf(std::move(shelf)) {}
    [[nodiscard]] const std::filesystem::path& folder() const { return m_folder; }

    /// Loads what is new. Files are known by what is in them; each is looked at at every call.
    [[nodiscard]] Result<std::shared_ptr<const Workplace>> placeFor(const Job& job, Progress& progress);
    /// How many parts, shapes, drawings and machines are kept: those that the last few workplaces used.
    [[nodiscard]] std::size_t kept() const { return m_parts.size() + m_shapes.size() + m_drawings.size() + m_machines.size(); }

private:
    struct Stamp {
        std::filesystem::path file;
        std::uint64_t content = 0;
        auto operator<=>(const Stamp&) const = default;
    };
    /// Looks at a file and notes that the workplace rests on it.
    [[nodiscard]] Result<Stamp> stampOf(const std::string& file, const std::string& what, std::vector<InputFile>& inputs);
    /// The same for a part: files that it refers to count as if they stood in it.
    [[nodiscard]] Result<Stamp> partStamp(const JobBody& body, std::vector<InputFile>& inputs);
    /// What a part's file refers to, itself or through another, and what stood there when it was looked for.
    struct Referred {
        std::vector<InputFile> there;
        std::vector<std::filesystem::path> missing;
    };
    [[nodiscard]] const Referred& referredBy(const Stamp& part);
    std::map<Stamp, Referred> m_others; ///< of parts, as they were last
    FileContents m_contents;
    std::filesystem::path m_folder;
    AsideReader m_reader;
    std::shared_ptr<Shelf> m_shelf;
    /// The body's part: opened anew only when its file, unit or shape has changed, or finer triangles are wanted.
    [[nodiscard]] Result<std::shared_ptr<const Part>> partFor(const JobBody& body, double deflection, Progress& progress, Hash& key, std::vector<InputFile>& inputs);
    struct Opened {
        std::shared_ptr<const Part> part;
        MeshTaken taken;
        std::shared_ptr<const std::vector<Hole>> holes; ///< once they have been looked for
        std::uint64_t used = 0;                         ///< by which workplace, counted
    };
    /// The body as its file has it.
    [[nodiscard]] Result<std::shared_ptr<const Part>> openPart(const JobBody& body, double deflection, Progress& progress, Hash& key, std::vector<InputFile>& inputs);
    [[nodiscard]] static Shelf::Key shelfKey(const std::pair<Stamp, std::string>& of, const Opened& opened);
    struct MadeShape {
        std::shared_ptr<const Part> part;
        std::uint64_t used = 0;
    };
    struct MovedPart {
        std::shared_ptr<const Part> from, part;
        std::uint64_t used = 0;
    };
    std::map<std::pair<std::string, std::uint64_t>, MovedPart> m_moved; ///< by the body's name and where it stands
    struct ReadDrawing {
        double unit = 1.0; ///< it was read in
        Drawing drawing;
        std::uint64_t used = 0;
    };
    std::uint64_t m_turn = 0; ///< workplaces made
    void forgetOld();
    void takePart(const std::shared_ptr<const Part>& part, Workplace& place);
    std::map<std::pair<Stamp, std::string>, Opened> m_parts; ///< by file and the one body of it that is meant
    std::map<std::string, MadeShape> m_shapes;               ///< by their JSON
    /// The last mends that were made, with what they were made of.
    struct Mended {
        std::shared_ptr<const Part> from, part;
        std::string recipe;
        std::shared_ptr<const std::vector<MendResult>> results;
    } m_mended;
    std::map<Stamp, ReadDrawing> m_drawings;
    Status place(const Job& job, const JobBody& drawing, Workplace& place, Hash& looks);
    /// Stock that rests on the part or on curves.
    Status restingStock(const Job& job, Workplace& place, double deflection, const Progress& progress, Hash& looks);
    void mend(const Job& job, Workplace& place, Hash& key, Hash& looks);
    /// A machine with the mesh files of its bodies, as they were when it was read.
    struct ReadMachine {
        std::shared_ptr<const Machine> machine;
        std::vector<InputFile> meshes;
        std::uint64_t used = 0;
    };
    std::map<Stamp, ReadMachine> m_machines;
    Result<std::shared_ptr<const Machine>> machineOf(const Job& job, std::vector<InputFile>& inputs, Hash& key);
    /// What tools may meet, and which of it stands inside one another.
    struct Surroundings {
        Scene scene;
        std::vector<Overlap> overlaps;
    };
    [[nodiscard]] static std::shared_ptr<const Surroundings> surroundingsOf(const Workplace& place);
    std::shared_ptr<const Surroundings> m_scene;
    std::uint64_t m_sceneKey = 0;
};

/// The machine files of a folder with the names that the machines themselves give, sorted by file.
struct MachineFile {
    std::string file, name;
};
[[nodiscard]] std::vector<MachineFile> machinesIn(const std::filesystem::path& folder);

} // namespace gyre
