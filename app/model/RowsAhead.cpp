#include "model/RowsAhead.h"
#include "job/Job.h"
#include "kinds/Kinds.h"
#include "model/AppModel.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"

namespace gyre {

void RowsAhead::ask(const QString& key, const QString& value) {
    const Recipe* recipe = m_model.recipe();
    if (!recipe || recipe->kind != OperationKind::Surface || !key.startsWith("pattern.") || !m_model.place() || !m_model.place()->part) return;
    m_wanted = true;
    m_next = {key, value};
    if (m_apart.busy())
        m_apart.cancel(); // what lies under the pointer now is wanted, not what lay there before
    else
        start();
}

void RowsAhead::drop() {
    m_wanted = false;
    m_next.reset();
    m_apart.cancel();
    if (m_rows) {
        m_rows.reset();
        emit changed();
    }
}

void RowsAhead::start() {
    const auto [key, value] = *std::exchange(m_next, std::nullopt);
    const Recipe* now = m_model.recipe();
    Job job = m_model.job();
    const auto made = std::make_shared<std::shared_ptr<const PatternResult>>();
    const Assembly* tool = now ? job.tool(now->tool) : nullptr; // an operation may have none yet
    if (!tool || !setWord(job, now->id, key.toStdString(), value.toStdString())) {
        // Nor does what another option would lay stay in its place.
        if (std::exchange(m_rows, nullptr)) emit changed();
        return;
    }
    fitPattern(*m_model.place()->part, now->pattern->kind, *job.operation(now->id));
    const Recipe wanted = job.resolved(*job.operation(now->id));
    Before before;
    std::map<std::string, std::shared_ptr<const OperationResult>> done;
    for (const auto* named : {&wanted.pattern->beside, &wanted.where->notBy})
        for (const std::string& id : *named) done[id] = m_model.result(QString::fromStdString(id));
    before.result = [done](const std::string& id) { return done.count(id) ? done.at(id) : nullptr; };
    m_apart.run(
        this,
        [made, place = m_model.place(), recipe = wanted, cutter = tool->cutter, before](Progress& progress) {
            if (auto rows = bareRows(*place, recipe, cutter, before, progress)) *made = std::make_shared<const PatternResult>(std::move(*rows));
        },
        [this, made] {
            if (m_next) return start();
            if (!m_wanted) return;
            m_rows = *made;
            emit changed();
        });
}

} // namespace gyre
