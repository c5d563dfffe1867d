#include "model/ShopProgram.h"
#include "base/File.h"
#include "model/Dialects.h"
#include "operation/OperationResult.h"

namespace gyre {

ShopProgram::ShopProgram(AppModel& model) : ModelPart(model) {
    connect(&model, &AppModel::computingChanged, this, [this] {
        if (m_waits) start();
    });
    connect(&model, &AppModel::jobChanged, this, [this] {
        if (!isOpen()) return;
        if (m_model.file() != m_job) return close();
        if (m_waits) return;
        m_apart.cancel();
        m_proven.reset();
        m_trouble = tr("The job has changed since: prove the program again.");
        emit changed();
    });
}

void ShopProgram::open(const QString& file) {
    constexpr std::uintmax_t kMost = 256u << 20;
    auto text = readFile(file.toStdString(), kMost);
    if (!text) return tell(text.error());
    m_file = file;
    m_job = m_model.file();
    m_text = QString::fromStdString(*text);
    start();
}

void ShopProgram::close() {
    if (!isOpen()) return;
    m_waits = false;
    m_apart.cancel();
    m_file.clear();
    m_text.clear();
    m_trouble.clear();
    m_proven.reset();
    emit changed();
}

void ShopProgram::start() {
    m_proven.reset();
    m_waits = m_apart.busy() || m_model.computing() || m_model.stale();
    m_trouble = tr("Proving it …");
    if (m_waits) {
        m_apart.cancel();
        return emit changed();
    }
    const auto cannot = [&](const QString& why) {
        m_trouble = why;
        emit changed();
    };
    if (!hasJob() || !place()) return cannot(tr("Open the job that it was written from first."));
    if (!m_model.changedInputs().empty()) { // a file of the job holds something else by now
        m_waits = true;
        m_model.computeNow(true);
        return emit changed();
    }
    const auto choice = m_model.dialects().choice();
    if (!choice) return cannot(QString::fromStdString(choice.error().text()));
    JobResults results{place(), {}};
    for (const Recipe& r : job().worked()) {
        const auto known = m_model.result(QString::fromStdString(r.id));
        if (!known || (!known->complete() && !known->omitted)) return cannot(tr("%1 has no toolpath to compare with.").arg(QString::fromStdString(r.name)));
        results.operations.push_back(known);
    }
    const PostInput input = inDialect(postInputOf(job(), place(), results.operations), choice->spelling);
    const auto made = std::make_shared<Result<EditedProgram>>();
    m_apart.run(
        this,
        [made, text = m_text.toStdString(), input, job = job(), results, shelf = m_model.shelf()](Progress& progress) {
            *made = proveEdited(text, input, job, results, shelf->results, progress);
        },
        [this, made] {
            if (m_waits) return start();
            if (!isOpen()) return;
            if (*made) {
                m_proven = std::move(**made);
                m_trouble.clear();
            } else if (!made->error().cancelled)
                m_trouble = QString::fromStdString(made->error().text());
            emit changed();
        });
    emit changed();
}

void ShopProgram::show(const EditedProgram::Told& told) {
    const QString id = QString::fromStdString(told.finding.operation);
    const auto result = m_model.result(id);
    if (!result || !result->path() || !told.finding.place) return;
    const Vec3 at(told.finding.place->at(0), told.finding.place->at(1), told.finding.place->at(2));
    const auto& tips = result->path()->tip;
    const auto nearest = std::min_element(tips.begin(), tips.end(), [&](const Vec3& a, const Vec3& b) { return (a - at).squaredNorm() < (b - at).squaredNorm(); });
    if (m_model.selected() != id) m_model.select(id);
    m_model.setLocation(static_cast<std::size_t>(nearest - tips.begin()));
}

} // namespace gyre
