// A route put on another part, or on the part's changed file: the faces, edges, holes and planes that it names are looked for there.
#pragma once
#include "job/Job.h"
#include "part/Match.h"
#include <functional>

namespace gyre {

/// Calls it for every list of faces or edges that a recipe names, with its word.
void eachNamed(Recipe& recipe, const std::function<void(const std::string& word, std::vector<ShapeRef>& named, bool edges)>& visit);

/// What became of what one word names.
struct Followed {
    std::string operation;                                           ///< id; empty: a mend, a work plane, or the marks of holes
    std::string name;                                                ///< of the operation, mend or plane
    std::string word;                                                ///< "target.faces"; "holes"; empty: the plane itself
    std::size_t same = 0, moved = 0, alike = 0, gone = 0, added = 0; ///< alike: found among several by its likeness; added: holes that are new and of the same kind
    double furthest = 0.0;                                           ///< that one of them lies from where it was, mm
    [[nodiscard]] bool asItWas() const { return moved + alike + gone + added == 0; }
};

struct UsedAgain {
    Job job; ///< naming what was found; what is gone stays named as it was, so that it is asked for
    PartMatch match;
    std::vector<Followed> followed;
    [[nodiscard]] std::size_t gone() const;
    [[nodiscard]] bool anything() const; ///< is anything named otherwise, or gone?
};

/// @param was, is  without construction; the job's own part and the one to use it on
[[nodiscard]] UsedAgain useAgain(const Job& job, const Part& was, const std::vector<Hole>& holesWas, const Part& is, const std::vector<Hole>& holesAre);

/// "2 moved by up to 3.40 mm, 1 gone"
[[nodiscard]] std::string wordsOf(const Followed& f);
/// "41 faces as before, 5 changed, 1 gone, 3 new"
[[nodiscard]] std::string wordsOf(const PartMatch& match);

} // namespace gyre
