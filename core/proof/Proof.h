// Checks what the machine will really do: every body against every other, over the whole joint motion, nothing missed between points.
#pragma once
#include "base/Finding.h"
#include "base/Progress.h"
#include "base/Result.h"
#include "machine/Kinematics.h"
#include <array>

namespace gyre {

struct GuardSpec;
struct OperationResult;
struct Workplace;

struct ProofSpec {
    double margin = 0.2;              ///< mm: nothing may come nearer than this
    double shank = 0.2, holder = 0.2; ///< mm: these not to part and fixture
    double resolution = 0.02;         ///< mm: what comes nearer than margin + resolution counts as too near
    /// What an operation's guard lets nearer to the work on purpose is not questioned again.
    [[nodiscard]] static ProofSpec under(const GuardSpec& guard);
};

/// How the machine stands when an operation begins.
struct Standing {
    JointValues joints;  ///< empty: not known, and not asked for
    bool slides = false; ///< are the linear joints meant, or the rotaries alone?
    bool operator==(const Standing&) const = default;
};
/// As the operation before left it, Z at its top, the slides where the tool is changed: where the machine does not say where that is, a tool changer is
/// taken to bring them back. With the rotaries at 0 before the first.
/// @param before  the last one that moves; null before the first
[[nodiscard]] Standing standingAfter(const Machine& machine, const OperationResult* before);
/// The turn from one value to another: the shorter way of a joint that turns without end, or whose control takes it.
[[nodiscard]] double turnOf(const Joint& joint, double from, double to);

struct ProofResult {
    std::string operation;
    std::uint64_t key = 0;         ///< of the operation's result that was proven
    Standing start;                ///< what the swing before it was proven from
    std::uint64_t stock = 0;       ///< as from stockFound(); 0: nobody looked at stock
    std::vector<Finding> findings; ///< of the machine; together with the operation's own they make the marks
    std::size_t pairs = 0;         ///< pairs of bodies that were checked
    std::size_t questions = 0;     ///< distance questions asked
};

enum class Mark { Unknown, Clear, Look, Stop };
/// Gouge, shank, holder, travel, machine.
using Marks = std::array<Mark, 5>;
/// @param proof null: not proven yet
[[nodiscard]] Marks marksOf(const OperationResult* result, const ProofResult* proof);

/// Proves one operation at the machine.
///
/// Every stretch of the motion is a box of joint values. At its middle the distance of a pair is asked for; no point can move
/// further than `Σ|Δlinear| + Σ|Δθ|·ρ` from there, so a larger distance clears the whole stretch, else it is halved. A reported
/// "clear" is therefore a guarantee to `resolution`, not a sample.
/// @param start  how the rotaries turn from there at the top of Z, and the way across, are proven as well
[[nodiscard]] Result<ProofResult> prove(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, Progress& progress, const Standing& start = {});

} // namespace gyre
