// Where the machine comes near stock: its bodies anywhere, the tool on ways that are the machine's own.
#pragma once
#include "proof/Pairs.h"
#include "proof/Proof.h"

namespace gyre {

struct PlacedBody;

/// A place where a body comes near stock as it is set up. What of that still stands by then is not asked here.
struct StockBeside {
    std::size_t body = 0; ///< number in BesideStock::movers
    const PlacedBody* stock = nullptr;
    Frame toDatum = Frame::Identity(); ///< from the body's own coordinates to the part's datum
    double reach = 0.0;                ///< mm: it comes no nearer than the proof allows where nothing stands nearer than this
    std::size_t location = 0;          ///< on the way to it
    bool afterAll = false;             ///< when all has been cut
    std::string when;                  ///< for a sentence
};

struct BesideStock {
    std::vector<Mover> movers;
    std::vector<StockBeside> places; ///< body by body, each in the order of the motion
};

/// Shank, holder and cutter on the operation's own ways are left to toolThroughStock(); here they are followed where the machine itself leads them: to the
/// operation, away from it, and over the top of Z.
[[nodiscard]] Result<BesideStock> besideStock(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, Progress& progress, const Standing& start);

} // namespace gyre
