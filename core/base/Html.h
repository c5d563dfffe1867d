// Pages with nothing beside them: texts and pictures as they stand in HTML.
#pragma once
#include <string>
#include <string_view>

namespace gyre {

/// With signs that mean something to HTML spelled out.
[[nodiscard]] std::string htmlText(std::string_view text);
/// The address of a picture that stands in the page itself.
[[nodiscard]] std::string pictureInPage(std::string_view png);

} // namespace gyre
