#include "operation/OperationResult.h"
#include "post/Post.h"
#include <algorithm>
#include <fmt/format.h>
#include <unordered_set>

namespace gyre {

std::vector<ProgramPart> partsOf(const PostInput& input) {
    std::vector<ProgramPart> out;
    if (input.words.split == ProgramSplit::One || input.operations.size() < 2) return {{input, {}, 0}};
    for (std::size_t i = 0; i < input.operations.size(); ++i) {
        const PostOperation& o = input.operations[i];
        const bool goesOn = !out.empty() && input.words.split == ProgramSplit::Tools && out.back().input.operations.back().toolNumber == o.toolNumber;
        if (!goesOn) {
            out.push_back({input, input.words.split == ProgramSplit::Tools ? o.result->tool.name : o.name, i});
            out.back().input.operations.clear();
        }
        out.back().input.operations.push_back(o);
    }
    if (out.size() == 1) return {{input, {}, 0}};
    for (std::size_t k = 0; k < out.size(); ++k) out[k].input.jobName = fmt::format("{}, {} of {}: {}", input.jobName, k + 1, out.size(), out[k].name);
    return out;
}

// The one of whose lines the largest share is there.
ProgramPart partLike(const PostInput& input, const std::string& text) {
    std::vector<ProgramPart> parts = partsOf(input);
    std::size_t likest = 0;
    double most = 0.0;
    std::unordered_set<std::string_view> lines;
    const auto each = [](std::string_view of, const auto& what) {
        for (std::size_t from = 0; from < of.size();) {
            const std::size_t end = std::min(of.find('\n', from), of.size());
            what(of.substr(from, end - from));
            from = end + 1;
        }
    };
    if (parts.size() > 1) each(text, [&](std::string_view line) { lines.insert(line); });
    for (std::size_t k = 0; parts.size() > 1 && k < parts.size(); ++k) {
        const auto read = readBack(text, parts[k].input);
        const auto written = read ? composeProgram(parts[k].input, read->dialect) : tl::unexpected(read.error());
        if (!written) continue;
        std::size_t same = 0, all = 0;
        each(written->text, [&](std::string_view line) {
            same += lines.contains(line);
            ++all;
        });
        if (const double share = static_cast<double>(same) / static_cast<double>(all); share > most) {
            most = share;
            likest = k;
        }
    }
    return std::move(parts[likest]);
}

std::filesystem::path partFile(const std::filesystem::path& file, std::size_t part, std::size_t parts) {
    if (parts < 2) return file;
    return file.parent_path() / (file.stem().string() + fmt::format("-{}", part + 1) + file.extension().string());
}

} // namespace gyre
