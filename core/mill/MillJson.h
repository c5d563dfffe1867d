// How milling on a sheet is written down, docs/formats/job.md.
#pragma once
#include "base/Json.h"
#include "mill/Mill.h"

namespace gyre {

[[nodiscard]] MillSpec millFromJson(const JsonView& v);
[[nodiscard]] OrderedJson millToJson(const MillSpec& spec);

} // namespace gyre
