// What one kind of operation does of its own. All else – tool, guard, links, motion, clearances – is common, and knows no kind by name.
#pragma once
#include "base/Hash.h"
#include "operation/Operation.h"
#include "operation/OperationResult.h"
#include "operation/ResultSize.h"
#include "operation/StageCache.h"
#include "operation/Workplace.h"

namespace gyre {

/// One operation on its way through the stages: what it reads, and where its results go.
class Stages {
public:
    Stages(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress, const Before& before, OperationResult& out)
        : place(place), recipe(recipe), under(place.keyFor(recipe)), before(before), present(before.stock), progress(progress), out(out), scene(place.scene),
          m_cache(cache) {}

    const Workplace& place;
    const Recipe& recipe;
    const std::uint64_t under; ///< of what is read of the setup
    const Before& before;
    const PresentStock& present; ///< of these
    Progress& progress;
    OperationResult& out;
    std::shared_ptr<const Scene> scene; ///< what the guard looks at
    std::string tool;                   ///< all words of the tool, for keys
    std::uint64_t key = 0;              ///< of what the last stage came to
    bool cancelled = false;

    [[nodiscard]] double feed() const { return recipe.feed > 0.0 ? recipe.feed : out.tool.feed(); }
    void stop(Stage stage, const Error& error);
    void add(const std::vector<Finding>& findings);
    /// The picked faces of the part. @return false when there are none, or they are not in the part; that is told
    bool pickFaces();

    /// Looks a stage up by `key`, or runs it and keeps what it came to. @return false when it has no result; that is told
    template <class T, class Run> bool take(Stage stage, std::uint64_t at, std::shared_ptr<const T>& into, const Run& run) {
        if (auto known = m_cache.find<T>(at)) {
            into = std::move(known);
            return true;
        }
        Result<T> made = run();
        if (!made) {
            cancelled = made.error().cancelled;
            if (!cancelled) stop(stage, made.error());
            return false;
        }
        into = std::make_shared<const T>(std::move(*made));
        m_cache.keep<T>(at, into, bytesOf(*into));
        return true;
    }
    template <class T> [[nodiscard]] bool knows(std::uint64_t at) const { return m_cache.find<T>(at) != nullptr; }

private:
    StageCache& m_cache;
};

struct Definition {
    OperationKind kind;
    /// Finds what the recipe means in the workplace and lays its passes: out.passes, what is drawn of them, findings, and the key of it all.
    /// @return false when there are none; that is told
    bool (*lay)(Stages& stages);
    /// What it says of a stage in one line; null or "-" where what all say will do.
    std::string (*facts)(const OperationResult& result, Stage stage);
    bool drawsPasses = false; ///< before the links the view draws the passes themselves
    /// mm that what is cut may lie within the part as modelled: engraving need not be in the model.
    double (*meantDepth)(const Recipe& recipe) = nullptr;
    /// mm between rows, for what is drawn
    double (*spacing)(const Recipe& recipe) = nullptr;
    /// Can the route do without it where the job has no tool for it? Null: no such operation can be left out.
    bool (*dispensable)(const Recipe& recipe) = nullptr;
    bool (*feedsItself)(const Recipe& recipe) = nullptr; ///< its feed comes of a pitch and the speed
    bool locks = false;                                  ///< its axis may ask for a locked joint
    bool readsStock = false;                             ///< its rapids are followed through what earlier operations left of the stock
    /// What its axis may do while what it cuts stays; null: nothing. Reach, window and largest turn are filled in by freedomOf().
    Freedom (*freedom)(const Recipe& recipe, const Assembly& tool) = nullptr;
    /// More remedies for findings that others made.
    void (*cure)(const Recipe& recipe, std::vector<Finding>& findings) = nullptr;
};

inline constexpr const char* kAsAll = "-";

/// All kinds are listed in kinds/Kinds.cpp.
[[nodiscard]] const Definition& definitionOf(OperationKind kind);

/// What the route goes on without, with a Note.
void omit(OperationResult& out, const char* reason);

inline constexpr double kHair = 0.01; ///< mm: nothing is cut exactly as deep as it is meant

/// All passes once more, moved as the recipe's repeat says. @return false when it cannot be; that is told
bool repeatPasses(Stages& stages);

} // namespace gyre
