// The tool library: assemblies in JSON with ISO 13399 property names. docs/formats/tools.md
#pragma once
#include "base/Result.h"
#include "form/FormFwd.h"
#include "tool/Assembly.h"

namespace gyre {

struct ToolLibrary {
    std::string name;
    std::vector<Assembly> assemblies;
    [[nodiscard]] const Assembly* find(const std::string& id) const;
};

[[nodiscard]] Result<ToolLibrary> toolLibraryFromJson(const std::string& text, const std::string& place);
[[nodiscard]] std::string toolLibraryToJson(const ToolLibrary& library);

[[nodiscard]] const FormInfo& toolWords(); ///< of one assembly
[[nodiscard]] const Form<ToolLibrary>& toolLibraryForm();
/// One assembly, as it stands in libraries and in jobs.
[[nodiscard]] const Form<Assembly>& assemblyForm();

} // namespace gyre
