// What is kept while jobs come and go, known by content: results of stages, and parts that were opened. Shared by the jobs of one program.
#pragma once
#include "operation/StageCache.h"
#include "part/Holes.h"
#include "part/Part.h"
#include <map>

namespace gyre {

/// Thread-safe.
class Shelf {
public:
    StageCache results;

    struct Key {
        std::uint64_t content = 0; ///< of the file, and of all that it refers to
        std::string file, only;    ///< its name without folders; the one body that is meant
        double deflection = 0.0;
        MeshTaken taken;
        auto operator<=>(const Key&) const = default;
    };
    struct Opened {
        std::shared_ptr<const Part> part;
        std::shared_ptr<const std::vector<Hole>> holes; ///< once they have been looked for
    };
    /// Empty when it is not there.
    [[nodiscard]] Opened find(const Key& key);
    /// Beyond a dozen, what was used longest ago goes.
    void keep(const Key& key, Opened opened);

private:
    struct Known {
        Opened opened;
        std::uint64_t used = 0;
    };
    std::mutex m_mutex;
    std::map<Key, Known> m_parts;
    std::uint64_t m_turn = 0;
};

} // namespace gyre
