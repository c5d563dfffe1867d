// What was worked out before for the same question is there at once: on the shelf that the jobs of the program share.
#pragma once
#include "base/Hash.h"
#include "base/Result.h"
#include "session/Shelf.h"

namespace gyre {

/// @param what   names the question
/// @param asked  of all that the answer rests on
/// @param make   works it out; what fails is not kept
template <class T, class Make> Result<T> keptOr(Shelf& shelf, const char* what, std::uint64_t asked, const Make& make) {
    constexpr std::size_t kBytes = 200'000; // about, the most of them
    const std::uint64_t key = Hash().add(what).add(asked).value();
    if (const auto known = shelf.results.find<T>(key)) return *known;
    Result<T> made = make();
    if (made) shelf.results.keep(key, std::make_shared<const T>(*made), kBytes);
    return made;
}

} // namespace gyre
