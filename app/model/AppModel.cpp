#include "model/AppModel.h"
#include "base/File.h"
#include "geom/MeshFile.h"
#include "job/MillWork.h"
#include "job/NewJob.h"
#include "job/Sending.h"
#include "job/Workshop.h"
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
        computeNow(m_proveNext);
    });
}

AppModel::~AppModel() {
    m_computer.reset();
    endLooking();
    endCloser();
}

void AppModel::endLooking() {
    if (!m_looker) return;
    m_looking->cancel();
    m_looker->wait();
    m_looker.reset();
}

namespace {
/// As it is to stand in a job file in `folder`: relative when it lies beside or below it.
std::string fileIn(const QString& folder, const QString& file) {
    const QString relative = QDir(folder).relativeFilePath(file);
    return (relative.startsWith("..") ? QFileInfo(file).absoluteFilePath() : relative).toStdString();
}

JobBody bodyOf(const QString& folder, const QString& file, const char* role) {
    JobBody b;
    b.name = QFileInfo(file).completeBaseName().toStdString();
    b.role = role;
    b.file = fileIn(folder, file);
    return b;
}

/// A name that no other body has: mends name drawings.
std::string freshName(const Job& job, const std::string& wanted) {
    std::string name = wanted;
    for (int i = 2; std::any_of(job.bodies.begin(), job.bodies.end(), [&](const JobBody& o) { return o.name == name; }); ++i) name = wanted + " " + std::to_string(i);
    return name;
}

bool mayHoldBodies(const QString& file) { return QStringList{"step", "stp"}.contains(QFileInfo(file).suffix().toLower()); }
} // namespace

namespace {
/// The job that is made around a part, unless there is one of that name.
QString jobBeside(const QString& part) {
    const QString base = QFileInfo(part).absolutePath() + "/" + QFileInfo(part).completeBaseName();
    QString file = base + ".gyre.json";
    for (int i = 2; QFileInfo::exists(file); ++i) file = QString("%1-%2.gyre.json").arg(base).arg(i);
    return file;
}
bool isJobFile(const QString& file) { return file.endsWith(".json"); }
} // namespace

QString AppModel::lostWork(const QString& file) {
    const QString job = isJobFile(file) ? QFileInfo(file).absoluteFilePath() : jobBeside(file);
    const QFileInfo aside(job + ".autosave"), own(job);
    return aside.exists() && (!own.exists() || aside.lastModified() > own.lastModified()) ? aside.filePath() : QString();
}

Status AppModel::recover(const QString& file) {
    const QString aside = lostWork(file);
    auto job = openJob(aside.toStdString());
    if (!job) return tl::unexpected(job.error());
    if (auto ok = open(file); !ok) return ok;
    endLooking(); // the bodies of the part are in the job that is taken up
    m_proposeWhenOpen = false;
    change(tr("recover unsaved work"), [&](Job& j) { j = *job; });
    return {};
}

void AppModel::discard() {
    m_autosave.stop();
    std::error_code ec;
    std::filesystem::remove((m_file + ".autosave").toStdString(), ec);
    if (m_history) m_savedJob = m_history->shared();
}

bool AppModel::changedOnDisk() {
    const auto now = m_contents.of(m_file.toStdString());
    return now ? *now != m_onDisk : m_onDisk != 0;
}

void AppModel::tookFile(const QString& file) {
    m_file = QFileInfo(file).absoluteFilePath();
    const auto content = m_contents.of(m_file.toStdString());
    m_onDisk = content ? *content : 0;
    m_lock = std::make_unique<QLockFile>(m_file + ".open");
    m_lock->setStaleLockTime(0); // as long as that window lives
    if (m_lock->tryLock(0)) return;
    if (m_lock->error() == QLockFile::LockFailedError)
        emit toldUser(tr("This job is open in another window too: saving here would ask before it writes over what is saved there."));
    m_lock.reset(); // nor told where nothing can be written beside it
}

void AppModel::watchInputs() {
    if (!m_watcher.files().isEmpty()) m_watcher.removePaths(m_watcher.files());
    QStringList files;
    if (m_place)
        for (const InputFile& f : m_place->inputs) files << QString::fromStdString(f.file.string());
    files.removeDuplicates();
    if (!files.isEmpty()) m_watcher.addPaths(files);
}

Status AppModel::open(const QString& given) {
    const QString file = QFileInfo(given).absoluteFilePath();
    const bool isJob = isJobFile(file);
    auto job = isJob ? openJob(file.toStdString()) : jobAround(file);
    if (!job) return tl::unexpected(job.error());
    m_computer.reset();
    ++m_generation;
    endLooking();
    setCloser(std::nullopt);
    m_lock.reset();
    tookFile(isJob ? file : jobBeside(file)); // a name that is free: nothing there is to be saved over
    m_proposeWhenOpen = !isJob;
    m_litGroup = -1;
    m_history = std::make_unique<History>(std::move(*job));
    m_savedJob = isJob ? m_history->shared() : nullptr;
    if (!isJob) m_bench = Bench::SetUp;
    remember(QFileInfo(file).absoluteFilePath());
    m_litMend = m_flankFace = -1;
    m_flankWhat.clear();
    m_flank.reset();
    m_points.clear();
    m_edges.clear();
    m_section = {};
    m_shownTool = m_history->now().tools.empty() ? QString() : QString::fromStdString(m_history->now().tools.front().id);
    m_known.clear();
    m_place.reset();
    m_posted.reset();
    m_trouble.clear();
    m_location = 0;
    m_selected = m_history->now().route.empty() ? QString() : QString::fromStdString(m_history->now().route.front().id);
    startComputer();
    emit benchChanged();
    emit jobChanged();
    emit placeChanged();
    emit selectionChanged();
    emit resultChanged();
    if (!isJob && mayHoldBodies(file))
        lookInside(file, m_history->now().bodies.front().name, {});
    else
        computeNow();
    return {};
}

// The largest body takes the role; the others are references until they are given theirs.
void AppModel::lookInside(const QString& file, const std::string& name, const QString& step) {
    auto inside = std::make_shared<Result<std::vector<BodyInFile>>>();
    if (m_looker) { // one file at a time: what the one before finds is told by its own message, which is under way by then
        m_looker->wait();
        m_looker.release()->deleteLater();
    }
    m_looking = std::make_shared<Progress>([this, generation = m_generation](double fraction, const std::string& what) {
        QMetaObject::invokeMethod(this, [this, generation, fraction, words = QString::fromStdString(what)] {
            if (generation == m_generation && m_looker) emit progressChanged(fraction, words);
        });
    });
    m_looker.reset(QThread::create([file, inside, looking = m_looking, reader = m_reader] { *inside = bodiesAside(reader, file.toStdString(), *looking); }));
    connect(m_looker.get(), &QThread::finished, this, [this, inside, name, step, generation = m_generation, own = m_looker.get(), looking = m_looking] {
        if (generation != m_generation) return;
        if (m_looker.get() == own) m_looker.release()->deleteLater();
        if (looking->cancelled()) { // nothing of it is opened, until something is changed or it is opened again
            m_computing = m_computer && m_computer->busy();
            emit computingChanged();
            return;
        }
        if (*inside && (*inside)->size() > 1) {
            Job next = job();
            const auto whole = std::find_if(next.bodies.begin(), next.bodies.end(), [&](const JobBody& b) { return b.name == name; });
            if (whole != next.bodies.end()) {
                const JobBody from = *whole;
                auto at = next.bodies.erase(whole) - next.bodies.begin();
                bool first = true;
                for (const BodyInFile& b : **inside) {
                    JobBody one = from;
                    one.only = b.name;
                    one.name = freshName(next, b.name);
                    if (!std::exchange(first, false)) one.role = "reference";
                    next.bodies.insert(next.bodies.begin() + at++, one);
                }
                if (step.isEmpty())
                    m_history = std::make_unique<History>(std::move(next)); // a part just opened: nothing to undo to
                else
                    m_history->change(std::move(next), step.toStdString(), step.toStdString());
                afterChange();
            }
        }
        computeNow(m_proveNext);
    });
    m_computing = true;
    emit progressChanged(0.0, tr("Looking into %1").arg(QFileInfo(file).fileName()));
    emit computingChanged();
    m_looker->start();
}

Result<Job> AppModel::jobAround(const QString& partFile) const {
    // The machine that is in use now, where it is known there as well.
    if (m_place)
        if (auto same = gyre::jobAround(partFile.toStdString(), m_shop.toStdString(), m_place->machine->name)) return same;
    return gyre::jobAround(partFile.toStdString(), m_shop.toStdString());
}

std::vector<MachineFile> AppModel::machines() const {
    const QString folder = QFileInfo(m_file).absolutePath();
    std::vector<MachineFile> all = machinesIn(folder.toStdString());
    if (all.empty())
        for (const MachineFile& m : machinesIn(m_shop.toStdString())) all.push_back({(m_shop + "/" + QString::fromStdString(m.file)).toStdString(), m.name});
    return all;
}

void AppModel::addBody(const QString& given) {
    const QString file = QFileInfo(given).absoluteFilePath();
    const QString folder = QFileInfo(m_file).absolutePath(), suffix = QFileInfo(file).suffix().toLower();
    const QString step = tr("add %1").arg(QFileInfo(file).fileName());
    std::string name;
    change(
        step,
        [&](Job& j) {
            const bool drawn = suffix == "dxf" || suffix == "svg";
            const bool first = std::none_of(j.bodies.begin(), j.bodies.end(), [](const JobBody& b) { return b.role == "part"; });
            JobBody b = bodyOf(folder, file, drawn ? "drawing" : first ? "part" : "fixture");
            b.name = name = freshName(j, b.name);
            j.bodies.push_back(b);
        },
        mayHoldBodies(file) ? step : QString());
    if (hasJob() && mayHoldBodies(file)) lookInside(file, name, step);
}

void AppModel::proposeSetup() {
    if (!hasJob() || !m_place || !m_place->part) return emit toldUser(tr("There is no part yet to lay stock around."));
    change(tr("propose stock and seat"), [&](Job& j) { gyre::proposeSetup(j, *m_place->part); });
}

Status AppModel::setStock(std::size_t body, const StockShape& shape) {
    if (const auto ok = shape.valid(); !ok) {
        emit toldUser(QString::fromStdString(ok.error().text()));
        emit jobChanged(); // the word shows what it was before
        return ok;
    }
    change(
        tr("change stock"), [&](Job& j) { j.bodies[body].shape = shape; }, "stock");
    return {};
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

void AppModel::startComputer() {
    const auto generation = m_generation;
    // Events come on the computing thread; each is handed to the window's own, and dropped when another job is open by then.
    const auto here = [this, generation](auto&& body) {
        QMetaObject::invokeMethod(
            this,
            [this, generation, body = std::forward<decltype(body)>(body)]() mutable {
                if (generation == m_generation) body();
            },
            Qt::QueuedConnection);
    };
    ComputeEvents events;
    events.progress = [this, here](double f, std::string what) { here([this, f, what] { emit progressChanged(f, QString::fromStdString(what)); }); };
    events.placeReady = [this, here](std::shared_ptr<const Workplace> place) {
        here([this, place] {
            const bool fresh = m_place != place && (!m_place || m_place->looks != place->looks);
            m_place = place;
            watchInputs();
            m_trouble.clear();
            if (fresh && m_flankFace < 0 && m_flank) askFlank(-1); // between edges of what was before
            if (fresh && m_flankFace >= 0) askFlank(m_flankFace < static_cast<int>(place->part ? place->part->faces().size() : 0) ? m_flankFace : -1);
            if (fresh) emit placeChanged();
            if (fresh) emit featuresChanged();
            if (std::exchange(m_proposeWhenOpen, false)) proposeSetup();
            tellRemarks();
        });
    };
    events.operationReady = [this, here](std::shared_ptr<const OperationResult> result) {
        here([this, result] {
            const QString id = QString::fromStdString(result->operation);
            Known& known = m_known[result->operation];
            known.result = result;
            if (id == m_selected) {
                m_stale = result->key != keyOf(id);
                const std::size_t n = result->path() ? result->path()->size() : 0;
                m_location = n ? std::min(m_location, n - 1) : 0;
            }
            emit resultChanged();
            emit locationChanged();
        });
    };
    events.proofReady = [this, here](ProofResult proof) {
        auto shared = std::make_shared<ProofResult>(std::move(proof));
        here([this, shared] {
            Known& known = m_known[shared->operation];
            known.proof = std::make_unique<ProofResult>(*shared);
            emit proofChanged();
        });
    };
    events.failed = [this, here](Error error) {
        here([this, error] {
            m_trouble = QString::fromStdString(error.text());
            emit resultChanged();
            emit toldUser(m_trouble);
        });
    };
    events.finished = [this, here](bool) {
        here([this] {
            m_computing = m_computer && m_computer->busy();
            // What makes no path of its own is never behind.
            if (const Recipe* r = recipe(); r && !m_computing && r->kind == OperationKind::Holes) m_stale = false;
            emit computingChanged();
        });
    };
    m_computer = std::make_unique<Computer>(QFileInfo(m_file).absolutePath().toStdString(), std::move(events), m_reader);
}

// What was healed, left out or missing in the files, once for each.
void AppModel::tellRemarks() {
    QStringList remarks;
    for (const PlacedBody& b : m_place->bodies)
        for (const std::string& r : b.shape->remarks()) remarks << QString::fromStdString(b.name + ": " + r);
    if (remarks != std::exchange(m_remarks, remarks) && !remarks.isEmpty()) emit toldUser(remarks.join("\n"));
}

std::uint64_t AppModel::keyOf(const QString& operation) const {
    const Recipe* r = hasJob() ? job().operation(operation.toStdString()) : nullptr;
    if (!r || !m_place) return 0;
    const Recipe resolved = job().resolved(*r);
    return operationKey(m_place->keyFor(resolved), resolved, job().tool(r->tool));
}

Status AppModel::saveAs(const QString& given) {
    if (!hasJob()) return fail("there is no job to save");
    const QString file = QFileInfo(given).absoluteFilePath();
    const std::filesystem::path from = QFileInfo(m_file).absolutePath().toStdString(), to = QFileInfo(file).absolutePath().toStdString();
    const bool elsewhere = from != to;
    const Job moved = movedTo(job(), from, to);
    if (auto ok = saveJob(moved, file.toStdString()); !ok) return ok;
    if (elsewhere) m_history->rewrite([&](Job j) { return movedTo(std::move(j), from, to); });
    m_savedJob = m_history->shared();
    m_autosave.stop();
    std::error_code ec;
    for (const QString& f : {m_file, file}) std::filesystem::remove((f + ".autosave").toStdString(), ec);
    if (file != m_file)
        tookFile(file);
    else if (const auto content = m_contents.of(file.toStdString()))
        m_onDisk = *content;
    if (elsewhere) {
        startComputer();
        computeNow(m_proveNext);
    }
    emit jobChanged();
    return {};
}

Status AppModel::save() { return saveAs(m_file); }

void AppModel::autosave() {
    if (!edited()) return;
    if (auto ok = writeFileAtomic((m_file + ".autosave").toStdString(), jobToJson(job())); !ok) emit toldUser(QString::fromStdString(ok.error().text()));
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

std::shared_ptr<const OperationResult> AppModel::result(const QString& operation) const {
    const auto it = m_known.find(operation.toStdString());
    return it == m_known.end() ? nullptr : it->second.result;
}

const ProofResult* AppModel::proof(const QString& operation) const {
    const auto it = m_known.find(operation.toStdString());
    // A proof holds until anything it rests on changes.
    if (it == m_known.end() || !it->second.proof || it->second.proof->key != keyOf(operation)) return nullptr;
    return it->second.proof->start == standingBefore(operation) ? it->second.proof.get() : nullptr;
}

Standing AppModel::standingBefore(const QString& operation) const {
    std::shared_ptr<const OperationResult> before;
    for (const Recipe& r : job().worked()) {
        if (r.id == operation.toStdString()) break;
        if (auto one = result(QString::fromStdString(r.id)); !one || !one->omitted) before = std::move(one);
    }
    return standingAfter(*m_place->machine, before.get());
}

std::vector<Finding> AppModel::findings() const {
    std::vector<Finding> all;
    if (!hasJob()) return all;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        const std::size_t from = all.size();
        if (const auto known = result(id)) all.insert(all.end(), known->findings.begin(), known->findings.end());
        if (const auto* known = proof(id)) all.insert(all.end(), known->findings.begin(), known->findings.end());
        for (std::size_t i = from; i < all.size(); ++i) all[i].operation = r.id;
    }
    std::stable_sort(all.begin(), all.end(), [](const Finding& a, const Finding& b) { return a.rank < b.rank; });
    return all;
}

void AppModel::computeNow(bool alsoProve) {
    if (!m_computer) return;
    m_delay.stop();
    if (m_looker) { // its answer changes what there is to compute
        m_proveNext = m_proveNext || alsoProve;
        return;
    }
    m_computing = true;
    m_proveNext = false;
    m_computer->request(m_history->shared(), alsoProve);
    emit computingChanged();
}

void AppModel::cancel() {
    m_delay.stop();
    if (m_looker) m_looking->cancel();
    if (m_computer) m_computer->cancel();
}

void AppModel::setLocation(std::size_t location) {
    const auto r = result();
    const std::size_t n = r && r->path() ? r->path()->size() : 0;
    const std::size_t to = n ? std::min(location, n - 1) : 0;
    if (to == m_location) return;
    m_location = to;
    emit locationChanged();
}

void AppModel::showFinding(const Finding& f) {
    if (!f.operation.empty()) select(QString::fromStdString(f.operation));
    const auto r = result();
    if (!r || !r->path()) return;
    if (f.span) {
        // Inside the span, the place the finding names.
        std::size_t at = f.span->first;
        if (f.place) {
            double least = 1e300;
            const Vec3 p((*f.place)[0], (*f.place)[1], (*f.place)[2]);
            for (std::size_t i = f.span->first; i <= std::min(f.span->second, r->path()->size() - 1); ++i) {
                const double d = std::min((r->path()->contact[i] - p).norm(), (r->path()->tip[i] - p).norm());
                if (d < least) {
                    least = d;
                    at = i;
                }
            }
        }
        setLocation(at);
    } else if (f.row >= 0) {
        for (std::size_t i = 0; i < r->path()->size(); ++i)
            if (r->path()->row[i] == f.row) return setLocation(i);
    }
}

Status AppModel::mayStore(const QString& file) const {
    return mayBeReplaced(file.toStdString(), m_file.toStdString(), m_place ? m_place->inputs : std::vector<InputFile>{});
}

bool AppModel::allProven() const {
    if (!hasJob() || job().worked().empty()) return false;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        const auto known = result(id);
        if (!known || known->key != keyOf(id) || !proof(id)) return false;
    }
    return true;
}

Result<QString> AppModel::post(Dialect dialect, bool despiteStops) {
    m_posted.reset();
    if (!hasJob() || !m_place) return fail("the job is not computed yet", {}, "Wait until the paths are there");
    if (const auto changed = changedFiles(m_place->inputs, m_contents); !changed.empty()) {
        computeNow(true);
        return fail("the file has changed since the paths were computed", changed.front().filename().string(),
                    "They are computed anew now; write again when that is done");
    }
    auto posted = std::make_unique<Posted>();
    std::vector<std::shared_ptr<const OperationResult>> operations;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        const auto known = result(id);
        if (!known || known->key != keyOf(id)) return fail("the path is older than the recipe", r.name, "Wait until it is computed");
        operations.push_back(known);
        posted->operations.push_back(r.id);
    }
    for (const Finding& f : findings())
        if (f.rank == Rank::Stop) posted->stops.push_back(f);
    posted->proven = allProven();
    PostInput input = postInputOf(job(), m_place, operations);
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
