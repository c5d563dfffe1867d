#include "model/Programs.h"
#include "base/File.h"

namespace gyre {

Status Programs::mayStore(const QString& file) const {
    return mayBeReplaced(file.toStdString(), m_model.file().toStdString(), place() ? place()->inputs : std::vector<InputFile>{});
}

bool Programs::allProven() const {
    if (!hasJob() || job().worked().empty()) return false;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        if (!m_model.upToDate(id) || !m_model.proof(id)) return false;
    }
    return true;
}

Result<QString> Programs::post(Dialect dialect, bool despiteStops) {
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
    }
    for (const Finding& f : m_model.findings())
        if (f.rank == Rank::Stop) posted->stops.push_back(f);
    posted->proven = allProven();
    PostInput input = postInputOf(job(), place(), operations);
    if (despiteStops) input.warnings = warningsOf(posted->stops);
    auto written = composeProgram(input, dialect);
    if (!written) return tl::unexpected(written.error());
    auto read = readProgram(written->text, *input.machine, input.words);
    if (!read) return fail("the program cannot be read back: " + read.error().text());
    posted->report = compareProgram(*read, input);
    posted->program = std::move(*written);
    m_posted = std::move(posted);
    return QString::fromStdString(m_posted->program.text);
}

} // namespace gyre
