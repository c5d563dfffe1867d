#include "model/AppModel.h"
#include "base/File.h"
#include "geom/MeshFile.h"
#include "model/SkyShow.h"
#include "model/StockShow.h"
#include "proposal/MillWork.h"
#include "proposal/NewJob.h"
#include "session/Sending.h"
#include "session/Workshop.h"
#include "tool/Library.h"
#include <QDir>
#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace gyre {

AppModel::AppModel(QObject* parent) : QObject(parent) {
    // A short pause after an edit: typing and dragging should not start a computation for every step.
    m_delay.setSingleShot(true);
    m_delay.setInterval(120);
    connect(&m_delay, &QTimer::timeout, this, [this] { computeNow(m_proveNext); });
    m_autosave.setSingleShot(true);
    m_autosave.setInterval(3000);
    connect(&m_autosave, &QTimer::timeout, this, &AppModel::autosave);
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
    m_stock = std::make_unique<StockShow>(*this);
    m_sky = std::make_unique<SkyShow>(*this);
}

AppModel::~AppModel() {
    m_sky.reset();
    m_stock.reset();
    m_computer.reset();
    endLooking();
    endCloser();
}

Shown AppModel::shown(const QString& role) const {
    const auto it = m_shown.find(role);
    return it != m_shown.end() ? it->second : role == "stock" || role == "reference" ? Shown::Faded : Shown::Solid;
}

void AppModel::cycleShown(const QString& role) {
    m_shown[role] = static_cast<Shown>((static_cast<int>(shown(role)) + 1) % 3);
    static const char* kWords[] = {"shown", "faded", "hidden"};
    emit toldUser(tr("%1: %2").arg(role, tr(kWords[static_cast<int>(m_shown[role])])));
    emit shownChanged();
}

void AppModel::change(const QString& label, const std::function<void(Job&)>& edit, const QString& mergeKey) {
    if (!hasJob()) return;
    Job next = job();
    edit(next);
    m_history->change(std::move(next), label.toStdString(), mergeKey.toStdString());
    afterChange();
}

void AppModel::afterChange() {
    m_stale = true;
    if (!recipe()) m_selected = job().route.empty() ? QString() : QString::fromStdString(job().route.front().id);
    m_autosave.start();
    m_delay.start();
    emit jobChanged();
}

Status AppModel::setWord(const QString& key, const QString& value) {
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

QString AppModel::word(const QString& key) const { return hasJob() ? QString::fromStdString(wordOf(job(), m_selected.toStdString(), key.toStdString())) : QString(); }

void AppModel::undo() {
    if (hasJob() && m_history->undo()) afterChange();
}
void AppModel::redo() {
    if (hasJob() && m_history->redo()) afterChange();
}
QString AppModel::numberOf(const Recipe& recipe) const {
    int number = 0, step = 0;
    for (const Recipe& r : job().route) {
        number += r.parent.empty();
        step = r.parent.empty() ? 0 : step + 1;
        if (r.id == recipe.id) break;
    }
    return QString::number(number) + (step > 0 ? QString(QChar('a' + (step - 1) % 26)) : QString());
}

QString AppModel::undoLabel() const { return hasJob() ? QString::fromStdString(m_history->undoLabel()) : QString(); }
QString AppModel::redoLabel() const { return hasJob() ? QString::fromStdString(m_history->redoLabel()) : QString(); }

void AppModel::addOperation() {
    if (!hasJob()) return;
    const Recipe rows = proposeRows(job(), m_place ? *m_place : Workplace{}, recipe());
    change(tr("new operation"), [&](Job& j) { j.route.push_back(rows); });
    select(QString::fromStdString(rows.id));
    setPickMode(PickMode::Faces);
}

void AppModel::removeOperation(const QString& id) {
    change(tr("remove operation"), [&](Job& j) { std::erase_if(j.route, [&](const Recipe& r) { return r.id == id.toStdString() || r.parent == id.toStdString(); }); });
    emit selectionChanged();
}

void AppModel::renameOperation(const QString& id, const QString& name) {
    if (name.trimmed().isEmpty()) return;
    change(tr("rename operation"), [&](Job& j) {
        if (Recipe* r = j.operation(id.toStdString())) r->name = name.trimmed().left(100).toStdString();
    });
}

void AppModel::duplicateOperation(const QString& id) {
    std::string made;
    change(tr("duplicate operation"), [&](Job& j) {
        std::vector<Recipe> copies;
        for (const Recipe& r : j.route)
            if (r.id == id.toStdString() || r.parent == id.toStdString()) copies.push_back(r);
        if (copies.empty()) return;
        auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == id.toStdString(); });
        ++at;
        while (at != j.route.end() && at->parent == id.toStdString()) ++at;
        auto where = at - j.route.begin();
        for (Recipe& r : copies) {
            const bool head = r.id == id.toStdString();
            r.id = j.freshId();
            if (head) {
                made = r.id;
                r.name += tr(", copy").toStdString();
            } else if (!made.empty()) {
                r.parent = made;
            }
            j.route.insert(j.route.begin() + where++, r);
        }
    });
    if (!made.empty()) select(QString::fromStdString(made));
}

// Steps move among their siblings; what has steps moves with them.
void AppModel::moveOperation(const QString& id, int by) {
    change(tr("move operation"), [&](Job& j) {
        const auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == id.toStdString(); });
        if (at == j.route.end()) return;
        const std::string parent = at->parent;
        const auto head = [&](const Recipe& r) { return r.parent == parent; };
        const auto past = [&](auto from) {
            return std::find_if(from + 1, j.route.end(), [&](const Recipe& r) { return head(r) || (!parent.empty() && r.parent.empty()); });
        };
        const auto end = past(at);
        if (by > 0 && end != j.route.end() && head(*end)) std::rotate(at, end, past(end));
        if (by < 0) {
            auto before = at;
            while (before != j.route.begin() && !head(*std::prev(before)) && !(!parent.empty() && std::prev(before)->id == parent)) --before;
            if (before != j.route.begin() && head(*std::prev(before))) std::rotate(std::prev(before), at, end);
        }
    });
}

void AppModel::placeOperation(const QString& id, const QString& before) {
    const Recipe *moved = hasJob() ? job().operation(id.toStdString()) : nullptr, *next = hasJob() ? job().operation(before.toStdString()) : nullptr;
    if (!moved || id == before || (next && next->parent != moved->parent)) return;
    change(tr("move operation"), [&](Job& j) {
        const auto find = [&](const QString& of) { return std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == of.toStdString(); }); };
        const auto behind = [&](auto at) { // it and its steps
            return std::find_if(at + 1, j.route.end(), [&](const Recipe& r) { return r.parent != at->id; });
        };
        const auto at = find(id);
        std::vector<Recipe> block(at, behind(at));
        j.route.erase(at, behind(at));
        auto to = before.isEmpty() ? j.route.end() : find(before);
        if (before.isEmpty() && !block.front().parent.empty()) to = behind(find(QString::fromStdString(block.front().parent)));
        j.route.insert(to, block.begin(), block.end());
    });
}

void AppModel::toggleActive(const QString& id) {
    change(tr("switch operation"), [&](Job& j) {
        if (Recipe* r = j.operation(id.toStdString())) r->active = !r->active;
    });
}

void AppModel::applyRemedy(const Finding& finding, const Remedy& remedy) {
    if (!finding.operation.empty()) select(QString::fromStdString(finding.operation));
    (void)setWord(QString::fromStdString(remedy.key), QString::fromStdString(remedy.value));
}

void AppModel::select(const QString& operation) {
    if (operation == m_selected) return;
    m_selected = operation;
    m_location = 0;
    emit selectionChanged();
    emit resultChanged();
    emit locationChanged();
}

void AppModel::setBench(Bench bench) {
    if (bench == m_bench) return;
    m_bench = bench;
    setPickMode(PickMode::None);
    emit benchChanged();
}

void AppModel::setPickMode(PickMode mode) {
    if (mode == m_pickMode) return;
    m_pickMode = mode;
    emit pickModeChanged();
}

void AppModel::setPeel(Stage stage) {
    if (stage == m_peel) return;
    m_peel = stage;
    emit peelChanged();
}

} // namespace gyre
