// Stage 5, Links: entries, exits and the ways between passes, guarded like cuts.
#pragma once
#include "base/Finding.h"
#include "base/Progress.h"
#include "base/Result.h"
#include "geom/MeshTree.h"
#include "path/Pass.h"
#include <optional>

namespace gyre {

class Guard;
struct LinkSpec;
struct Skin;

/// How far one must go from p along the unit direction a until outside of the skin; nullopt when never.
[[nodiscard]] std::optional<double> wayOut(const Skin& skin, const Vec3& p, const Vec3& a);

/// Poses along the skin from a to b (both outside of it): they turn with the skin, so that the tool keeps its lean against it.
[[nodiscard]] std::vector<AxisPose> alongSkin(const Skin& skin, const AxisPose& a, const AxisPose& b);

/// Where a pass is left and entered anew, with a retract between. At 0: it is only not joined to the one before.
struct Split {
    std::size_t pass = 0, at = 0;
    auto operator<=>(const Split&) const = default;
};

struct LinkResult {
    Toolpath path;
    std::vector<std::size_t> passStart; ///< index in `path` of every pass's first location
    std::vector<char> away;             ///< by location: stands at the skin or outside of it
    struct Piece {
        std::size_t pass, first, start, count; ///< so many locations from this index of the pass on, at this index in `path`
        bool anew = false;                     ///< the pass was left before it and entered anew
    };
    std::vector<Piece> pieces; ///< of passes, in order; several where a pass is split, or a closed one begins elsewhere
    /// Index in `path` of a pass's location.
    [[nodiscard]] std::size_t locationOf(std::size_t pass, std::size_t index) const;
    std::size_t joins = 0, retracts = 0;
    std::vector<PassOrigin> origins; ///< of passes, by the number that the path's locations carry
    std::vector<Finding> findings;
    [[nodiscard]] PassOrigin originOf(int row) const {
        return row >= 0 && static_cast<std::size_t>(row) < origins.size() ? origins[static_cast<std::size_t>(row)] : PassOrigin{};
    }
};

/// What else the links have to mind.
struct LinkAround {
    std::vector<Split> splits; ///< in order, each once
    std::optional<Vec3> pole;  ///< where a rotary turns freely: a join that passes near it goes straight over it, so that nothing whirls
};

/// @param feed cutting feed, mm/min
[[nodiscard]] Result<LinkResult> linkPasses(const Guard& guard, const std::vector<Pass>& passes, const LinkSpec& spec, double feed, Progress& progress,
                                            const LinkAround& around = {});

/// Where passes must be left so that none of these locations of the path is reached from within a cut or a low way.
[[nodiscard]] std::vector<Split> splitsAt(const LinkResult& links, const std::vector<std::uint32_t>& locations);

} // namespace gyre
