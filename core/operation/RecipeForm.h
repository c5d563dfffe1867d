// The words of a recipe, by kind of operation.
#pragma once
#include "form/FormFwd.h"
#include "operation/Recipe.h"

namespace gyre {

enum class PatternBy;

/// As it stands in the job file, docs/formats/job.md.
[[nodiscard]] const Form<Recipe>& recipeForm();
[[nodiscard]] const Form<Recipe>& recipeForm(OperationKind kind);
[[nodiscard]] const FormInfo& recipeWords(OperationKind kind);

/// What a pattern is said with: the words that follow its name, in braces, and how many rails it needs.
struct PatternWords {
    const char* says;
    int rails;
    bool drawn; ///< nothing is said of the distance between rows
};
[[nodiscard]] PatternWords patternWords(PatternBy by);

} // namespace gyre
