// Rounds in programs: straight moves that lie along a circle or a helix are written as one arc (decision 0052).
#pragma once
#include "post/Act.h"
#include <optional>
#include <span>

namespace gyre {

class Speller;

/// A way round, and evenly along the normal of its plane: where the ends are one place, a whole turn.
struct Arc {
    Vec3 from, to;
    Vec3 centre;    ///< from its beginning, within the plane
    int normal = 2; ///< 0 … 2: the plane stands square to X, Y or Z
    int turn = 1;   ///< 1 against the clock about the normal, −1 with it

    [[nodiscard]] double sweep() const;          ///< rad, above 0
    [[nodiscard]] double radius(double t) const; ///< at a share of the way: rounded ends need not be as far from the centre
    [[nodiscard]] Vec3 at(double t) const;
};

/// Of the plane that a control has been told, 17 … 19; −1: none.
[[nodiscard]] int normalOf(int plane);
/// X, Y and Z of a block in joint coordinates; nothing where the machine has no three such slides square to each other.
[[nodiscard]] std::optional<Vec3> straightPlace(const Machine& machine, const Act& act);
/// The first rotary that does not stand in the one act where it does in the other; nothing while all do.
[[nodiscard]] std::optional<std::size_t> rotaryTurned(const Machine& machine, const Act& a, const Act& b);
void setStraightPlace(const Machine& machine, Act& act, const Vec3& place);

/// The one arc through both ends that fits the places between best, where all of the way through them keeps within so much of it.
struct ArcFit {
    enum class Is { Round, Straight, Neither } is = Is::Neither;
    Arc arc{};
    double strays = 0.0; ///< mm: how far arc and way are apart, at most
};
[[nodiscard]] ArcFit fitArc(std::span<const Vec3> way, int normal, double within);

/// The program with arcs where its words ask for them and its moves lie along one: cuts alone, while the rotaries stand still, the feed is even and no stop is asked for
/// at points.
[[nodiscard]] Program withArcs(Program program, const Machine& machine, const Speller& speller);

} // namespace gyre
