#include "model/OpenJob.h"
#include "operation/Workplace.h"
#include "proposal/NewJob.h"
#include <QDir>
#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace gyre {

OpenJob::OpenJob(QObject* parent) : QObject(parent) {
    // A short pause after an edit: typing and dragging should not start a computation for every step.
    m_delay.setSingleShot(true);
    m_delay.setInterval(120);
    connect(&m_delay, &QTimer::timeout, this, [this] { computeNow(m_proveNext); });
    m_autosave.setSingleShot(true);
    m_autosave.setInterval(3000);
    connect(&m_autosave, &QTimer::timeout, this, &OpenJob::autosave);
    // Writers change a file in several steps: looked at once it is quiet.
    m_looked.setSingleShot(true);
    m_looked.setInterval(300);
    connect(&m_watcher, &QFileSystemWatcher::fileChanged, &m_looked, [this] { m_looked.start(); });
    connect(&m_looked, &QTimer::timeout, this, [this] {
        if (!m_place) return;
        const auto changed = changedFiles(m_place->inputs, m_contents);
        watchInputs();
        if (changed.empty()) return;
        emit toldUser(tr("%1 has changed: the paths are computed anew").arg(QString::fromStdString(changed.front().filename().string())));
        computeNow(m_proveNext || m_proving); // what was being proven is proven as it is now
    });
}

OpenJob::~OpenJob() {
    m_computer.reset();
    endLooking();
}

Shown OpenJob::shown(const QString& role) const {
    const auto it = m_shown.find(role);
    return it != m_shown.end() ? it->second : role == "stock" || role == "reference" ? Shown::Faded : Shown::Solid;
}

void OpenJob::cycleShown(const QString& role) {
    m_shown[role] = static_cast<Shown>((static_cast<int>(shown(role)) + 1) % 3);
    static const char* kWords[] = {"shown", "faded", "hidden"};
    emit toldUser(tr("%1: %2").arg(role, tr(kWords[static_cast<int>(m_shown[role])])));
    emit shownChanged();
}

void OpenJob::change(const QString& label, const std::function<void(Job&)>& edit, const QString& mergeKey) {
    if (!hasJob()) return;
    Job next = job();
    edit(next);
    m_history->change(std::move(next), label.toStdString(), mergeKey.toStdString());
    afterChange();
}

void OpenJob::afterChange() {
    m_stale = true;
    if (!recipe()) m_selected = job().route.empty() ? QString() : QString::fromStdString(job().route.front().id);
    m_selected = inHand(m_selected); // slices come and go
    std::erase_if(m_known, [this](const auto& known) {
        if (known.first.find('@') == std::string::npos) return false;
        const auto worked = job().worked(known.first);
        return !worked || worked->id != known.first;
    });
    m_autosave.start();
    m_delay.start();
    emit jobChanged();
}

Status OpenJob::setWord(const QString& key, const QString& value) {
    if (!recipe()) return fail("no operation is selected");
    Job next = job();
    if (auto ok = gyre::setWord(next, m_selected.toStdString(), key.toStdString(), value.toStdString()); !ok) {
        emit toldUser(QString::fromStdString(ok.error().text()));
        return ok;
    }
    if (jobToJson(next) == jobToJson(job())) return {};
    if (key.startsWith("repeat.") && m_place) fitRepeat(*m_place, *next.operation(m_selected.toStdString()));
    m_history->change(std::move(next), ("set " + key + " to " + value).toStdString(), (m_selected + "/" + key).toStdString());
    afterChange();
    return {};
}

QString OpenJob::word(const QString& key) const { return hasJob() ? QString::fromStdString(wordOf(job(), m_selected.toStdString(), key.toStdString())) : QString(); }

void OpenJob::undo() {
    if (hasJob() && m_history->undo()) afterChange();
}
void OpenJob::redo() {
    if (hasJob() && m_history->redo()) afterChange();
}

QString OpenJob::undoLabel() const { return hasJob() ? QString::fromStdString(m_history->undoLabel()) : QString(); }
QString OpenJob::redoLabel() const { return hasJob() ? QString::fromStdString(m_history->redoLabel()) : QString(); }

void OpenJob::applyRemedy(const Finding& finding, const Remedy& remedy) {
    if (!finding.operation.empty()) select(QString::fromStdString(finding.operation));
    (void)setWord(QString::fromStdString(remedy.key), QString::fromStdString(remedy.value));
}

// Of what is cut in slices one is in hand: the one that was, as long as there is one.
QString OpenJob::inHand(const QString& operation) const {
    const Recipe* r = hasJob() ? job().operation(operation.toStdString()) : nullptr;
    const int slices = r ? job().slices(*r) : 0;
    if (slices == 0) return r ? QString::fromStdString(r->id) : operation;
    const int asked = operation.contains('@') ? operation.section('@', -1).toInt() : m_slice;
    return QString::fromStdString(sliceId(r->id, std::clamp(asked, 1, slices)));
}

void OpenJob::stepSlice(int by) {
    if (m_selected.contains('@')) select(QString::fromStdString(sliceId(chosen().toStdString(), std::max(1, m_slice + by))));
}

void OpenJob::select(const QString& asked) {
    const QString operation = inHand(asked);
    if (operation.contains('@')) m_slice = operation.section('@', -1).toInt();
    if (operation == m_selected) return;
    m_selected = operation;
    m_location = 0;
    emit selectionChanged();
    emit resultChanged();
    emit locationChanged();
}

void OpenJob::setBench(Bench bench) {
    if (bench == m_bench) return;
    m_bench = bench;
    emit benchChanged();
}

void OpenJob::setPeel(Stage stage) {
    if (stage == m_peel) return;
    m_peel = stage;
    emit peelChanged();
}

void OpenJob::setSection(const Section& section) {
    m_section = section;
    emit shownChanged();
}

} // namespace gyre
