#include "model/Programs.h"
#include "base/File.h"
#include "operation/OperationResult.h"
#include "post/Speller.h"
#include <algorithm>

namespace gyre {

const Act* Programs::Posted::actAt(const std::string& operation, std::size_t location) const {
    const auto known = std::find(operations.begin(), operations.end(), operation);
    if (known == operations.end()) return nullptr;
    const auto place = std::pair(static_cast<std::uint32_t>(known - operations.begin()), static_cast<std::uint32_t>(location));
    const auto& acts = program.program.acts;
    auto it = std::upper_bound(acts.begin(), acts.end(), place, [](const auto& p, const Act& a) { return p < std::pair(a.operation, a.location); });
    if (it == acts.begin()) return nullptr;
    --it;
    while (it != acts.begin() && it->aside && std::prev(it)->operation == it->operation) --it;
    return &*it;
}

QString Programs::Posted::lineText(int line) const {
    const auto i = static_cast<std::size_t>(line);
    if (line < 1 || i > lineStarts.size()) return {};
    const std::size_t from = lineStarts[i - 1], to = i < lineStarts.size() ? lineStarts[i] - 1 : program.text.size();
    return QString::fromStdString(program.text.substr(from, to - from)).trimmed();
}

std::vector<std::pair<QString, QString>> Programs::Posted::meanings(const QString& line) const {
    std::vector<std::pair<QString, QString>> out;
    if (dialect.kind == Dialect::CutterData) return out;
    const Spelling& spelling = dialect.spelling ? *dialect.spelling : *plainSpelling(dialect.kind);
    for (const auto& m : Speller(spelling, *machine, words).meanings(line.toStdString()))
        out.emplace_back(QString::fromStdString(m.text), QString::fromStdString(m.what));
    return out;
}

QString Programs::lineHere() const {
    const auto r = m_model.result();
    if (!m_posted || !r) return {};
    const std::string id = m_model.selected().toStdString();
    const auto known = std::find(m_posted->operations.begin(), m_posted->operations.end(), id);
    if (known == m_posted->operations.end() || m_posted->keys[static_cast<std::size_t>(known - m_posted->operations.begin())] != r->key) return {};
    const Act* act = m_posted->actAt(id, m_model.location());
    return act ? m_posted->lineText(act->line) : QString();
}

Result<QString> Programs::post(const DialectChoice& dialect, bool despiteStops) {
    m_posted.reset();
    if (!hasJob() || !place()) return fail("the job is not computed yet", {}, "Wait until the paths are there");
    if (const auto changed = m_model.changedInputs(); !changed.empty()) {
        m_model.computeNow(true);
        return fail("the file has changed since the paths were computed", changed.front().filename().string(),
                    "They are computed anew now; write again when that is done");
    }
    auto posted = std::make_unique<Posted>();
    std::vector<std::shared_ptr<const OperationResult>> operations;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        const auto known = m_model.result(id);
        if (!m_model.upToDate(id)) return fail("the path is older than the recipe", r.name, "Wait until it is computed");
        operations.push_back(m_model.result(id));
        posted->operations.push_back(r.id);
        posted->keys.push_back(operations.back()->key);
    }
    for (const Finding& f : m_model.findings())
        if (f.rank == Rank::Stop) posted->stops.push_back(f);
    posted->proven = m_model.allProven();
    PostInput input = inDialect(postInputOf(job(), place(), operations), dialect.spelling);
    posted->dialect = dialect;
    posted->machine = input.machine;
    posted->words = saidOn(*input.machine, input.words);
    if (despiteStops) input.warnings = warningsOf(posted->stops);
    auto written = composeProgram(input, dialect.kind);
    if (!written) return tl::unexpected(written.error());
    auto read = readBack(written->text, input);
    if (!read) return fail("the program cannot be read back: " + read.error().text());
    posted->report = compareProgram(*read, input);
    posted->program = std::move(*written);
    posted->lineStarts = {0};
    for (std::size_t i = 0; i < posted->program.text.size(); ++i)
        if (posted->program.text[i] == '\n') posted->lineStarts.push_back(i + 1);
    m_posted = std::move(posted);
    return QString::fromStdString(m_posted->program.text);
}

} // namespace gyre
