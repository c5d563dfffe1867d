// The dialects: one entry for each.
#include "post/Words.h"
#include <algorithm>
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

PostInput inDialect(PostInput input, std::shared_ptr<const Spelling> spelling) {
    if (!spelling) return input;
    const bool inch = input.words.inch;
    const int offset = input.words.offset;
    input.words = spelling->words;
    input.words.inch = inch;
    input.words.offset = offset;
    if (spelling->jointFeed != JointFeedWord::AsMachine || !spelling->clamps.empty()) {
        Machine m = *input.machine;
        if (spelling->jointFeed != JointFeedWord::AsMachine)
            m.jointFeed = spelling->jointFeed == JointFeedWord::InverseTime ? JointFeed::InverseTime : JointFeed::PerMinute;
        for (const ClampCodes& c : spelling->clamps)
            if (const int j = m.find(c.joint); j >= 0 && m.joints[static_cast<std::size_t>(j)].kind == JointKind::Rotary) {
                m.joints[static_cast<std::size_t>(j)].clampCode = c.on;
                m.joints[static_cast<std::size_t>(j)].freeCode = c.off;
            }
        input.machine = std::make_shared<const Machine>(std::move(m));
    }
    input.spelling = std::move(spelling);
    return input;
}

Result<DialectChoice> chooseDialect(const std::string& name, const std::filesystem::path& folder) {
    if (name.empty()) return DialectChoice{};
    if (const auto kind = dialectNamed(name)) return DialectChoice{*kind, nullptr};
    const std::filesystem::path file(name);
    if (file.extension() != ".json") return fail("'" + name + "' is neither a dialect nor a dialect file", {}, dialectNamed(name).error().remedy + ", or a .json file");
    auto spelling = loadSpelling(file.is_absolute() ? file : folder / file);
    if (!spelling) return tl::unexpected(spelling.error());
    const Dialect kind = spelling->kind;
    return DialectChoice{kind, std::make_shared<const Spelling>(std::move(*spelling))};
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
