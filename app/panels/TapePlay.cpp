// Playing: forward and back, over the whole route in Prove, at any speed, up to where something is to be looked at.
#include "model/OpenJob.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "panels/TapePanel.h"
#include <QMenu>
#include <QPushButton>
#include <algorithm>

namespace gyre {

namespace {
constexpr double kSpeeds[] = {0.1, 0.5, 1, 4, 16, 64, 256, 1000};
constexpr int kTickMs = 33;
} // namespace

void TapePanel::makeSpeeds(QPushButton* button) {
    m_speedButton = button;
    auto* menu = new QMenu(button);
    menu->setObjectName("speedMenu");
    for (const double s : kSpeeds) {
        QAction* a = menu->addAction(s == 1.0 ? tr("1×, as on the machine") : tr("%1×").arg(s), this, [this, s] { setSpeed(s); });
        a->setObjectName(QString("speed.%1").arg(s));
        a->setCheckable(true);
    }
    menu->addSeparator();
    for (const auto& [what, text, name] :
         {std::tuple{StopAt::Hazard, tr("stop at hazards"), "stopAt.hazard"}, std::tuple{StopAt::Tool, tr("stop where the tool changes"), "stopAt.tool"}}) {
        QAction* a = menu->addAction(text, this, [this, what = what](bool on) { setStopAt(what, on); });
        a->setObjectName(name);
        a->setCheckable(true);
    }
    connect(menu, &QMenu::aboutToShow, this, [this, menu] {
        for (QAction* a : menu->actions())
            if (a->objectName().startsWith("speed.")) a->setChecked(a->objectName() == QString("speed.%1").arg(m_speed));
    });
    button->setMenu(menu);
    setSpeed(m_speed);
}

void TapePanel::setSpeed(double times) {
    m_speed = times;
    m_speedButton->setText(tr("speed %1×").arg(times));
}

void TapePanel::play(bool on, bool back) {
    m_back = back;
    const auto r = m_open.result();
    if (on && r && r->complete() && r->path() && m_open.location() < r->motion->stepOf.size()) {
        if (!back && m_open.location() + 1 >= r->path()->size()) m_open.setLocation(0);
        if (back && m_open.location() == 0) m_open.setLocation(SIZE_MAX);
        m_clock = r->motion->timeOf(m_open.location());
        m_timer.start();
    } else {
        m_timer.stop();
    }
    m_play->setText(m_timer.isActive() ? QString::fromUtf8("❚❚") : QString::fromUtf8("▶"));
}

void TapePanel::tick() {
    const auto r = m_open.result();
    if (!r || !r->complete() || r->motion->stepOf.empty()) return play(false);
    const std::size_t last = r->motion->stepOf.size() - 1, from = std::min(m_open.location(), last);
    m_clock += (m_back ? -1.0 : 1.0) * m_speed * 1e-3 * kTickMs;
    std::size_t to = from;
    if (m_back)
        while (to > 0 && r->motion->timeOf(to) > m_clock) --to;
    else
        while (to < last && r->motion->timeOf(to) < m_clock) ++to;
    if (const auto hazard = m_stopAtHazards ? hazardBeyond(from, m_back ? -1 : 1) : std::nullopt; hazard && (m_back ? *hazard >= to : *hazard <= to)) {
        m_open.setLocation(*hazard);
        return play(false);
    }
    m_open.setLocation(to);
    if (to == (m_back ? 0 : last) && !playOn()) play(false);
}

// In Prove the whole route is played: on with the next operation whose path is there, or the one before.
bool TapePanel::playOn() {
    if (m_open.bench() != Bench::Prove) return false;
    std::vector<Recipe> route = m_open.job().worked();
    if (m_back) std::reverse(route.begin(), route.end());
    const auto now = m_open.result();
    bool behind = false;
    for (const Recipe& r : route) {
        const QString id = QString::fromStdString(r.id);
        if (behind)
            if (const auto next = m_open.result(id); next && next->complete() && next->path() && next->path()->size() > 1) {
                const bool other = now && next->tool.id != now->tool.id;
                m_open.select(id);
                m_open.setLocation(m_back ? SIZE_MAX : 0);
                m_clock = m_back ? next->motion->duration : 0.0;
                return !(other && m_stopAtTools);
            }
        behind = behind || id == m_open.selected();
    }
    return false;
}

std::optional<std::size_t> TapePanel::hazardBeyond(std::size_t location, int way) const {
    std::optional<std::size_t> best;
    for (const OpenJob::HazardStretch& h : m_open.hazards()) {
        if (way > 0 ? h.worst <= location : h.worst >= location) continue;
        if (!best || (way > 0 ? h.worst < *best : h.worst > *best)) best = h.worst;
    }
    return best;
}

void TapePanel::stepHazard(int way) {
    if (const auto there = hazardBeyond(m_open.location(), way)) m_open.setLocation(*there);
}

} // namespace gyre
