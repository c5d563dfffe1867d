#include "session/Sending.h"
#include "base/Hash.h"
#include "base/Text.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/RouteProof.h"
#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <fstream>

namespace gyre {
namespace fs = std::filesystem;

Result<Verdict> judge(const Job& job, const JobResults& results, StageCache& cache, Progress& progress) {
    Verdict out;
    const auto take = [&](const std::vector<Finding>& findings, const std::string& operation) {
        for (Finding f : findings) {
            if (f.rank != Rank::Stop) continue;
            f.operation = operation;
            out.stops.push_back(std::move(f));
        }
    };
    const double share = 1.0 / static_cast<double>(std::max<std::size_t>(1, results.operations.size()));
    RouteProof proofs(results.place, cache);
    for (std::size_t i = 0; i < results.operations.size(); ++i) {
        const auto& r = results.operations[i];
        const Recipe* recipe = job.operation(r->operation);
        const Progress::Span span(progress, share * static_cast<double>(i), share * static_cast<double>(i + 1));
        progress.report(0.0, "Proving " + r->name + " at the machine");
        take(r->findings, r->operation);
        if (r->omitted) continue;
        const auto proof = proofs.next(r, recipe ? ProofSpec::under(job.resolved(*recipe).guard) : ProofSpec{}, progress);
        if (!proof) return tl::unexpected(proof.error());
        take(proof->findings, r->operation);
    }
    FileContents contents;
    for (const fs::path& f : changedFiles(results.place->inputs, contents)) out.unread.push_back(f.string());
    return out;
}

Result<DialectChoice> dialectOf(const Job& job, const fs::path& jobFile, const std::string& wanted) {
    return wanted.empty() ? chooseDialect(job.program.dialect, jobFile.parent_path()) : chooseDialect(wanted, fs::path());
}

Result<CheckedProgram> writeChecked(const PostInput& input, Dialect dialect) {
    auto text = writeProgram(input, dialect);
    if (!text) return tl::unexpected(text.error());
    const auto read = readBack(*text, input);
    if (!read) return fail("the written program cannot be read back: " + read.error().text());
    ReplayReport report = compareProgram(*read, input);
    if (!report.agrees()) return fail("the written program differs from the job: " + report.differences.front());
    return CheckedProgram{std::move(*text), std::move(report)};
}

std::string named(const Job& job, const Finding& f) {
    std::string text = job.operation(f.operation) ? job.nameOf(f.operation) + ": " + f.text : f.text;
    if (!f.reason.empty()) text += " (" + f.reason + ")";
    return text;
}

std::vector<std::string> warningsOf(const std::vector<Finding>& stops) {
    std::vector<std::string> lines;
    if (stops.empty()) return lines;
    lines.emplace_back("WRITTEN DESPITE OF WHAT FOLLOWS - DO NOT RUN THIS UNCHECKED");
    constexpr std::size_t kMost = 40, kLongest = 100;
    for (const Finding& f : stops) {
        if (lines.size() > kMost) {
            lines.push_back(fmt::format("AND {} MORE", stops.size() - kMost));
            break;
        }
        lines.push_back(cutText(fmt::format("STOP - {} - {}", f.operation, f.text), kLongest));
    }
    return lines;
}

Status mayBeReplaced(const fs::path& file, const fs::path& jobFile, const std::vector<InputFile>& inputs) {
    std::error_code ec;
    if (!fs::exists(file, ec)) return {};
    if (!fs::is_regular_file(file, ec)) return fail("this is not a file", file.string(), "Choose another name");
    const auto same = [&](const fs::path& other) { return fs::equivalent(file, other, ec) && !ec; };
    if (same(jobFile)) return fail("this is the job itself", file.string(), "Choose another name");
    for (const InputFile& in : inputs)
        if (same(in.file)) return fail("the job rests on this file", file.string(), "Choose another name");
    std::string suffix = file.extension().string();
    std::transform(suffix.begin(), suffix.end(), suffix.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    static constexpr std::array kNever{".step", ".stp", ".iges", ".igs", ".brep", ".brp", ".stl", ".obj", ".ply", ".dxf", ".svg"};
    if (std::find(kNever.begin(), kNever.end(), suffix) != kNever.end()) return fail("this is a part or a drawing", file.string(), "Choose another name");
    std::ifstream in(file, std::ios::binary);
    std::string begin(2048, '\0');
    in.read(begin.data(), static_cast<std::streamsize>(begin.size()));
    begin.resize(static_cast<std::size_t>(in.gcount()));
    if (begin.find("\"gyre-") != std::string::npos) return fail("this is a job, a machine or tools", file.string(), "Choose another name");
    return {};
}

std::string harmlessName(const std::string& text) {
    constexpr std::size_t kLongest = 80;
    std::string out;
    for (const char c : text) {
        const auto u = static_cast<unsigned char>(c);
        if (out.size() == kLongest) break;
        out += u < 128 && (std::isalnum(u) || c == '-' || c == '_' || (c == '.' && !out.empty())) ? c : '_';
    }
    while (!out.empty() && out.back() == '.') out.pop_back();
    if (out == text && !out.empty()) return out;
    return fmt::format("{}-{:08x}", out.empty() ? "_" : out, static_cast<std::uint32_t>(Hash().add(text).value()));
}

} // namespace gyre
