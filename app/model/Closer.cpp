#include "model/Closer.h"
#include "operation/OperationResult.h"
#include <algorithm>

namespace gyre {

Closer::Closer(AppModel& model) : ModelPart(model) {
    m_delay.setSingleShot(true);
    m_delay.setInterval(200);
    connect(&m_delay, &QTimer::timeout, this, &Closer::lookNow);
    const auto again = [this] {
        if (m_from) m_delay.start();
    };
    for (const auto signal : {&AppModel::locationChanged, &AppModel::resultChanged, &AppModel::selectionChanged}) connect(&model, signal, this, again);
}

void Closer::cycle() { look(!m_from ? std::optional(LookFrom::Part) : *m_from == LookFrom::Part ? std::optional(LookFrom::Stock) : std::nullopt); }

void Closer::look(std::optional<LookFrom> from) {
    if (from == m_from) return;
    m_delay.stop();
    m_apart.end();
    m_from = from;
    none({});
    if (from) lookNow();
}

void Closer::none(const QString& why) {
    m_picture.reset();
    m_trouble = why;
    emit changed();
}

void Closer::lookNow() {
    m_delay.stop();
    m_apart.end();
    if (!m_from || !hasPart()) return;
    const auto now = m_model.result();
    if (!now || !now->path() || now->path()->empty()) return none(tr("There is no path here to look at closely."));
    const std::size_t at = std::min(m_model.location(), now->path()->size() - 1);
    const Vec3 centre = now->path()->normal[at].squaredNorm() > 0.5 ? now->path()->contact[at] : now->path()->tip[at];
    const double size = std::clamp(2.0 * now->tool.cutter.diameter, 4.0, 16.0);
    auto made = std::make_shared<Result<CloserLook>>();
    m_apart.run(
        this,
        [made, done = doneSoFar(), place = place(), from = *m_from, centre, size](Progress& progress) { *made = lookCloser(*place, done, from, centre, size, progress); },
        [this, made] {
            m_picture = *made ? std::make_shared<const CloserLook>(std::move(**made)) : nullptr;
            m_trouble = *made ? QString() : QString::fromStdString(made->error().text());
            emit changed();
        });
}

} // namespace gyre
