// The model's closer look: made away from the window's thread, anew when the place or a path has changed.
#include "model/AppModel.h"
#include <algorithm>

namespace gyre {

void AppModel::cycleCloser() {
    setCloser(!m_closerFrom ? std::optional(LookFrom::Part) : *m_closerFrom == LookFrom::Part ? std::optional(LookFrom::Stock) : std::nullopt);
}

void AppModel::setCloser(std::optional<LookFrom> from) {
    if (from == m_closerFrom) return;
    if (!m_closerDelay.isSingleShot()) { // the first time
        m_closerDelay.setSingleShot(true);
        m_closerDelay.setInterval(200);
        connect(&m_closerDelay, &QTimer::timeout, this, &AppModel::lookNow);
        const auto again = [this] {
            if (m_closerFrom) m_closerDelay.start();
        };
        for (const auto signal : {&AppModel::locationChanged, &AppModel::resultChanged, &AppModel::selectionChanged}) connect(this, signal, this, again);
    }
    endCloser();
    m_closerFrom = from;
    m_closer.reset();
    m_closerTrouble.clear();
    emit closerChanged();
    if (from) lookNow();
}

void AppModel::endCloser() {
    m_closerDelay.stop();
    if (!m_closerThread) return;
    m_closerProgress->cancel();
    m_closerThread->wait();
    m_closerThread.reset();
}

void AppModel::lookNow() {
    endCloser();
    if (!m_closerFrom || !hasJob() || !m_place || !m_place->part) return;
    const auto now = result();
    if (!now || !now->path() || now->path()->empty()) {
        m_closer.reset();
        m_closerTrouble = tr("There is no path here to look at closely.");
        return emit closerChanged();
    }
    const std::size_t at = std::min(m_location, now->path()->size() - 1);
    const Vec3 centre = now->path()->normal[at].squaredNorm() > 0.5 ? now->path()->contact[at] : now->path()->tip[at];
    const double size = std::clamp(2.0 * now->tool.cutter.diameter, 4.0, 16.0);
    // What was cut up to here, in the order of the route.
    std::vector<std::shared_ptr<const OperationResult>> done;
    for (const Recipe& r : job().worked()) {
        const auto known = m_known.find(r.id);
        if (known != m_known.end() && known->second.result) done.push_back(known->second.result);
        if (QString::fromStdString(r.id) == m_selected) break;
    }
    auto made = std::make_shared<Result<CloserLook>>();
    m_closerProgress = std::make_shared<Progress>();
    m_closerThread.reset(QThread::create([made, done, place = m_place, from = *m_closerFrom, centre, size, progress = m_closerProgress] {
        *made = lookCloser(*place, done, from, centre, size, *progress);
    }));
    connect(m_closerThread.get(), &QThread::finished, this, [this, made, own = m_closerThread.get()] {
        if (m_closerThread.get() != own) return;
        m_closerThread.release()->deleteLater();
        m_closer = *made ? std::make_shared<const CloserLook>(std::move(**made)) : nullptr;
        m_closerTrouble = *made ? QString() : QString::fromStdString(made->error().text());
        emit closerChanged();
    });
    m_closerThread->start();
}

} // namespace gyre
