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
    // Places that an arc passes have no act of their own.
    if (it != acts.end() && it->arc != 0 && it->operation == place.first && (it == acts.begin() || std::pair(std::prev(it)->operation, std::prev(it)->location) < place))
        return &*it;
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
    const std::string id = m_model.selected().toStdString();
    const auto part = partOf(id);
    if (!part || !r) return {};
    const Posted& posted = m_all[*part];
    const auto known = std::find(posted.operations.begin(), posted.operations.end(), id);
    if (posted.keys[static_cast<std::size_t>(known - posted.operations.begin())] != r->key) return {};
    const Act* act = posted.actAt(id, m_model.location());
    return act ? posted.lineText(act->line) : QString();
}

void Programs::show(std::size_t part) { m_shown = m_all.empty() ? 0 : std::min(part, m_all.size() - 1); }

std::optional<std::size_t> Programs::partOf(const std::string& operation) const {
    for (std::size_t k = 0; k < m_all.size(); ++k)
        if (std::find(m_all[k].operations.begin(), m_all[k].operations.end(), operation) != m_all[k].operations.end()) return k;
    return std::nullopt;
}

bool Programs::agree() const {
    return std::all_of(m_all.begin(), m_all.end(), [](const Posted& p) { return p.report.agrees(); });
}

namespace {

/// Writes one of them, reads it back and compares.
Status fill(Programs::Posted& posted, const PostInput& input, Dialect dialect) {
    auto written = composeProgram(input, dialect);
    if (!written) return tl::unexpected(written.error());
    auto read = readBack(written->text, input);
    if (!read) return fail("the program cannot be read back: " + read.error().text());
    posted.report = compareProgram(*read, input);
    posted.program = std::move(*written);
    posted.lineStarts = {0};
    for (std::size_t i = 0; i < posted.program.text.size(); ++i)
        if (posted.program.text[i] == '\n') posted.lineStarts.push_back(i + 1);
    return {};
}

} // namespace

Result<QString> Programs::post(const DialectChoice& dialect, bool despiteStops) {
    m_all.clear();
    if (!hasJob() || !place()) return fail("the job is not computed yet", {}, "Wait until the paths are there");
    if (const auto changed = m_model.changedInputs(); !changed.empty()) {
        m_model.computeNow(true);
        return fail("the file has changed since the paths were computed", changed.front().filename().string(),
                    "They are computed anew now; write again when that is done");
    }
    std::vector<std::shared_ptr<const OperationResult>> operations;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        if (!m_model.upToDate(id)) return fail("the path is older than the recipe", r.name, "Wait until it is computed");
        operations.push_back(m_model.result(id));
    }
    Posted like;
    for (const Finding& f : m_model.findings())
        if (f.rank == Rank::Stop) like.stops.push_back(f);
    like.proven = m_model.allProven();
    PostInput input = inDialect(postInputOf(job(), place(), operations), dialect.spelling);
    like.dialect = dialect;
    like.machine = input.machine;
    like.words = saidOn(*input.machine, input.words);
    if (despiteStops) input.warnings = warningsOf(like.stops);
    std::vector<Posted> all;
    for (const ProgramPart& part : partsOf(input)) {
        all.push_back(like);
        all.back().name = QString::fromStdString(part.name);
        for (const PostOperation& o : part.input.operations) {
            all.back().operations.push_back(o.result->operation);
            all.back().keys.push_back(o.result->key);
        }
        if (auto ok = fill(all.back(), part.input, dialect.kind); !ok) return tl::unexpected(ok.error());
    }
    m_all = std::move(all);
    show(partOf(m_model.selected().toStdString()).value_or(0));
    return QString::fromStdString(m_all[m_shown].program.text);
}

} // namespace gyre
