// How work along walls, curves and edges is written down, docs/formats/job.md.
#pragma once
#include "base/Json.h"
#include "follow/EdgeBreak.h"
#include "follow/Guided.h"
#include "follow/Swarf.h"

namespace gyre {

[[nodiscard]] SwarfSpec swarfFromJson(const JsonView& view);
[[nodiscard]] OrderedJson swarfToJson(const SwarfSpec& spec);
[[nodiscard]] CurveSpec curveFromJson(const JsonView& view);
[[nodiscard]] OrderedJson curveToJson(const CurveSpec& spec);
[[nodiscard]] BreakSpec breakFromJson(const JsonView& view);
[[nodiscard]] OrderedJson breakToJson(const BreakSpec& spec);

} // namespace gyre
