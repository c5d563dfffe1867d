// The words of a recipe, by kind of operation.
#pragma once
#include "form/FormFwd.h"
#include "operation/Recipe.h"

namespace gyre {

/// As it stands in the job file, docs/formats/job.md.
[[nodiscard]] const Form<Recipe>& recipeForm();
[[nodiscard]] const Form<Recipe>& recipeForm(OperationKind kind);
[[nodiscard]] const FormInfo& recipeWords(OperationKind kind);

} // namespace gyre
