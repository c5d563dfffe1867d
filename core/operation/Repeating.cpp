#include "base/Units.h"
#include "milling/MillSpec.h"
#include "operation/Definition.h"
#include "operation/Repeat.h"
#include "operation/Scenes.h"
#include "operation/StageCache.h"

namespace gyre {
namespace {

/// Where the work is done, as moves away from where it was laid.
bool movesOf(Stages& s, std::vector<Frame>& moves) {
    const Repeat& repeat = s.recipe.repeat;
    moves.push_back(Frame::Identity());
    if (!repeat.planes.empty()) {
        if (!s.out.mill || s.out.mill->sheet.wrapped) {
            s.stop(Stage::Pattern, Error{"only work on a plane can be repeated on other planes", {}, "Repeat around an axis instead", false});
            return false;
        }
        for (const std::string& name : repeat.planes) {
            const auto it = std::find_if(s.recipe.planes.begin(), s.recipe.planes.end(), [&](const WorkPlane& p) { return p.name == name; });
            if (it == s.recipe.planes.end()) {
                s.stop(Stage::Pattern, Error{"there is no work plane '" + name + "' any more", {}, "Choose another", false});
                return false;
            }
            // From the plane that the work is on: the one it names, or the one whose origin lies nearest to its sheet.
            const WorkPlane* from = nullptr;
            const Frame& sheet = s.out.mill->sheet.frame;
            for (const WorkPlane& p : s.recipe.planes)
                if (p.normal.dot(sheet.linear().col(2)) > 1.0 - 1e-9 && (p.name == s.recipe.mill->on || !from)) from = &p;
            moves.push_back(it->frame() * (from ? from->frame() : sheet).inverse());
        }
    }
    const std::vector<Frame> once = moves;
    const double turn = repeat.degrees != 0.0 ? radians(repeat.degrees) : 2.0 * kPi / repeat.count;
    for (int i = 1; i < repeat.count; ++i)
        for (const Frame& f : once) {
            Frame about = Frame::Identity();
            about.linear() = rotation(Vec3::Unit(repeat.axis), turn * i);
            moves.push_back(about * f);
        }
    return true;
}

} // namespace

// All passes once more, moved as the repeat says.
bool repeatPasses(Stages& s) {
    const Repeat& repeat = s.recipe.repeat;
    if (!repeat.any()) return true;
    std::vector<Frame> moves;
    if (!movesOf(s, moves)) return false;
    auto all = std::make_shared<std::vector<Pass>>();
    for (std::size_t copy = 0; copy < moves.size(); ++copy)
        for (Pass p : *s.out.passes) {
            const Frame& f = moves[copy];
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                p.path.tip[i] = f * p.path.tip[i];
                p.path.axis[i] = f.linear() * p.path.axis[i];
                p.path.contact[i] = f * p.path.contact[i];
                p.path.normal[i] = f.linear() * p.path.normal[i];
                p.feedDirection[i] = f.linear() * p.feedDirection[i];
            }
            p.origin.copy = static_cast<int>(copy);
            p.row = static_cast<int>(all->size());
            for (auto& row : p.path.row) row = p.row;
            all->push_back(std::move(p));
        }
    s.out.passes = all;
    if (s.out.along && !s.out.along->strips.empty()) { // what may be entered is repeated, too
        auto more = std::make_shared<AlongResult>(*s.out.along);
        more->strips = movedStrips(s.out.along->strips, moves);
        s.out.along = more;
        s.scene = openedAlong(s.place, more->strips);
    }
    if (s.out.along && !s.out.along->ownFaces.empty())
        s.scene = withOwnFaces(s.place, movedFaces(*s.place.part, s.out.along->ownFaces, moves), s.out.along->ownTolerance);
    s.key = Hash().add(s.key).add(placesTextOf(s.recipe)).value();
    return true;
}

} // namespace gyre
