// Is a STEP file (ISO 10303-21) whole as a text? What is damaged inside never reaches the kernel, whose reader may follow it for ever.
#pragma once
#include <optional>
#include <string>
#include <string_view>

namespace gyre {

struct StepFault {
    std::size_t line = 0; ///< counted from one
    std::string what;     ///< e.g. "a number cannot be read: 1.2Q"
};

/// The first place where the text breaks the rules of the format: tokens, brackets, separators, instance names given twice. What the
/// instances mean is not looked at, nor whether all that are referred to are there; nested scopes of the first edition are let pass.
[[nodiscard]] std::optional<StepFault> faultInStep(std::string_view text);

} // namespace gyre
