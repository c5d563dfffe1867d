// Errors as values at the edges of the core.
#pragma once
#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace gyre {

/// Why something could not be done, in words for the user.
struct Error {
    std::string what;   ///< what happened, e.g. "the STEP file ends in the middle of an entity"
    std::string place;  ///< where: a file and line, a JSON path, an operation; may be empty
    std::string remedy; ///< what the user can do; may be empty
    bool cancelled = false;

    [[nodiscard]] std::string text() const {
        std::string t = place.empty() ? what : place + ": " + what;
        if (!remedy.empty()) t += ". " + remedy;
        return t;
    }
};

template <class T> using Result = tl::expected<T, Error>;
using Status = Result<void>;

[[nodiscard]] inline tl::unexpected<Error> fail(std::string what, std::string place = {}, std::string remedy = {}) {
    return tl::unexpected<Error>(Error{std::move(what), std::move(place), std::move(remedy), false});
}
[[nodiscard]] inline tl::unexpected<Error> cancelledError() { return tl::unexpected<Error>(Error{"cancelled", {}, {}, true}); }

} // namespace gyre
