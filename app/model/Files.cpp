// Opening, adding, watching, saving and recovering.
#include "base/File.h"
#include "base/Handed.h"
#include "model/OpenJob.h"
#include "operation/Workplace.h"
#include "proposal/NewJob.h"
#include "session/Sending.h"
#include <QDir>
#include <QFileInfo>
#include <QSaveFile>
#include <QStandardPaths>
#include <algorithm>
#include <utility>

namespace gyre {

void OpenJob::endLooking() {
    if (!m_looker) return;
    m_looking->cancel();
    m_looker->wait();
    takeOver();
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

QString OpenJob::lostWork(const QString& file) {
    const QString job = isJobFile(file) ? QFileInfo(file).absoluteFilePath() : jobBeside(file);
    const QFileInfo aside(job + ".autosave"), own(job);
    return aside.exists() && (!own.exists() || aside.lastModified() > own.lastModified()) ? aside.filePath() : QString();
}

Status OpenJob::recover(const QString& file) {
    const QString aside = lostWork(file);
    auto job = openJob(aside.toStdString());
    if (!job) return tl::unexpected(job.error());
    if (auto ok = open(file); !ok) return ok;
    endLooking(); // the bodies of the part are in the job that is taken up
    m_proposeWhenOpen = false;
    change(tr("recover unsaved work"), [&](Job& j) { j = *job; });
    return {};
}

void OpenJob::discard() {
    m_autosave.stop();
    std::error_code ec;
    std::filesystem::remove((m_file + ".autosave").toStdString(), ec);
    if (m_history) m_savedJob = m_history->shared();
}

bool OpenJob::changedOnDisk() {
    const auto now = m_contents.of(m_file.toStdString());
    return now ? *now != m_onDisk : m_onDisk != 0;
}

void OpenJob::tookFile(const QString& file) {
    m_file = QFileInfo(file).absoluteFilePath();
    const auto content = m_contents.of(m_file.toStdString());
    m_onDisk = content ? *content : 0;
    m_lock.reset();
    if (isCopy()) return; // any number of windows may look at it
    m_lock = std::make_unique<QLockFile>(m_file + ".open");
    m_lock->setStaleLockTime(0); // as long as that window lives
    if (m_lock->tryLock(0)) return;
    if (m_lock->error() == QLockFile::LockFailedError)
        emit toldUser(tr("This job is open in another window too: saving here would ask before it writes over what is saved there."));
    m_lock.reset(); // nor told where nothing can be written beside it
}

void OpenJob::watchInputs() {
    if (!m_watcher.files().isEmpty()) m_watcher.removePaths(m_watcher.files());
    QStringList files;
    if (m_place)
        for (const InputFile& f : m_place->inputs) files << QString::fromStdString(f.file.string());
    files.removeDuplicates();
    if (!files.isEmpty()) m_watcher.addPaths(files);
}

Status OpenJob::open(const QString& given) {
    const QString file = QFileInfo(given).absoluteFilePath();
    const bool isJob = isJobFile(file);
    auto job = isJob ? openJob(file.toStdString()) : jobAround(file);
    if (!job) return tl::unexpected(job.error());
    m_computer.reset();
    ++m_generation;
    endLooking();
    m_lock.reset();
    tookFile(isJob ? file : jobBeside(file)); // a name that is free: nothing there is to be saved over
    m_proposeWhenOpen = !isJob;
    m_history = std::make_unique<History>(std::move(*job));
    m_savedJob = isJob ? m_history->shared() : nullptr;
    if (!isJob) m_bench = Bench::SetUp;
    remember(QFileInfo(file).absoluteFilePath());
    m_section = {};
    m_known.clear();
    m_place.reset();
    emit exchanged();
    m_trouble.clear();
    m_location = 0;
    m_slice = 1;
    m_selected = inHand(m_history->now().route.empty() ? QString() : QString::fromStdString(m_history->now().route.front().id));
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
void OpenJob::lookInside(const QString& file, const std::string& name, const QString& step) {
    auto inside = std::make_shared<Result<std::vector<BodyInFile>>>();
    if (m_looker) { // one file at a time: what the one before finds is told by its own message, which is under way by then
        m_looker->wait();
        takeOver();
        m_looker.release()->deleteLater();
    }
    m_looking = std::make_shared<Progress>([this, generation = m_generation](double fraction, const std::string& what) {
        QMetaObject::invokeMethod(this, [this, generation, fraction, words = QString::fromStdString(what), handed = Handed()] {
            takeOver();
            if (generation == m_generation && m_looker) emit progressChanged(fraction, words);
        });
    });
    m_looker.reset(QThread::create([file, inside, looking = m_looking, reader = m_reader] {
        *inside = bodiesAside(reader, file.toStdString(), *looking);
        handOver();
    }));
    connect(m_looker.get(), &QThread::finished, this, [this, inside, name, step, generation = m_generation, own = m_looker.get(), looking = m_looking] {
        takeOver();
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

Result<Job> OpenJob::jobAround(const QString& partFile) const {
    // The machine that is in use now, where it is known there as well.
    if (m_place)
        if (auto same = gyre::jobAround(partFile.toStdString(), m_shop.toStdString(), m_place->machine->name)) return same;
    return gyre::jobAround(partFile.toStdString(), m_shop.toStdString());
}

std::vector<MachineFile> OpenJob::machines() const {
    const QString folder = QFileInfo(m_file).absolutePath();
    std::vector<MachineFile> all = machinesIn(folder.toStdString());
    if (all.empty())
        for (const MachineFile& m : machinesIn(m_shop.toStdString())) all.push_back({(m_shop + "/" + QString::fromStdString(m.file)).toStdString(), m.name});
    return all;
}

void OpenJob::addBody(const QString& given) {
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

void OpenJob::exchangeFile(std::size_t body, const QString& given) {
    if (!hasJob() || body >= job().bodies.size() || job().bodies[body].shape) return;
    const QString file = QFileInfo(given).absoluteFilePath();
    change(tr("take %1").arg(QFileInfo(file).fileName()), [&](Job& j) {
        j.bodies[body].file = fileIn(QFileInfo(m_file).absolutePath(), file);
        j.bodies[body].only.clear();
    });
}

Status OpenJob::saveAs(const QString& given) {
    if (!hasJob()) return fail("there is no job to save");
    const QString file = QFileInfo(given).absoluteFilePath();
    if (!m_shop.isEmpty() && QFileInfo(file).absoluteDir() == QDir(m_shop))
        return fail("what is shipped with the program stays as it is", QFileInfo(file).fileName().toStdString(), "Save the job in a folder of your own");
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

Status OpenJob::mayStore(const QString& file) const {
    return mayBeReplaced(file.toStdString(), m_file.toStdString(), m_place ? m_place->inputs : std::vector<InputFile>{});
}

Status OpenJob::save() { return saveAs(m_file); }

bool OpenJob::isCopy() const { return !m_shop.isEmpty() && !m_file.isEmpty() && QFileInfo(m_file).absoluteDir() == QDir(m_shop); }

void OpenJob::autosave() {
    if (!edited() || isCopy()) return;
    if (auto ok = writeFileAtomic((m_file + ".autosave").toStdString(), jobToJson(job())); !ok) emit toldUser(QString::fromStdString(ok.error().text()));
}

// ---- files opened lately

namespace {
QString recentFile() { return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/recent.txt"; }
constexpr int kMostRecent = 12;
} // namespace

QStringList OpenJob::recentFiles() const {
    QFile f(recentFile());
    QStringList out;
    if (!f.open(QIODevice::ReadOnly | QIODevice::Text)) return out;
    for (const QString& line : QString::fromUtf8(f.read(1 << 20)).split('\n', Qt::SkipEmptyParts))
        if (QFileInfo::exists(line) && !out.contains(line) && out.size() < kMostRecent) out << line;
    return out;
}

void OpenJob::remember(const QString& file) {
    QStringList all = recentFiles();
    all.removeAll(file);
    all.prepend(file);
    QDir().mkpath(QFileInfo(recentFile()).absolutePath());
    QSaveFile f(recentFile());
    if (!f.open(QIODevice::WriteOnly)) return; // a convenience only
    f.write(all.mid(0, kMostRecent).join('\n').toUtf8());
    f.commit();
}

} // namespace gyre
