// The dialects: one entry for each.
#include "post/Words.h"
#include <fmt/format.h>

namespace gyre {
namespace {

const DialectKind kKinds[] = {
    {Dialect::TipControl, "tip", "tip control (RS-274)", ".nc", Positions::Tip, writeRs274, nullptr, readRs274},
    {Dialect::Joints, "joints", "joint coordinates (RS-274)", ".nc", Positions::Joints, writeRs274, nullptr, readRs274},
    {Dialect::CutterData, "cldata", "cutter data (ISO 4343)", ".cl", Positions::TipAndAxis, writeCutterData,
     [](std::string_view text) { return text.substr(0, 7) == "PARTNO/"; }, readCutterData},
};

} // namespace

std::span<const DialectKind> dialects() { return kKinds; }

const DialectKind& kindOf(Dialect dialect) {
    for (const DialectKind& k : kKinds)
        if (k.dialect == dialect) return k;
    return kKinds[0];
}

Result<Dialect> dialectNamed(const std::string& name) {
    std::string all;
    for (const DialectKind& k : kKinds) {
        if (name == k.word) return k.dialect;
        all += std::string(all.empty() ? "" : &k == &kKinds[std::size(kKinds) - 1] ? " or " : ", ") + k.word;
    }
    return fail("'" + name + "' is not a dialect", {}, "Use " + all);
}

} // namespace gyre
