#include "model/AppModel.h"
#include "base/File.h"
#include <QFileInfo>
#include <algorithm>

namespace gyre {

AppModel::AppModel(QObject* parent) : QObject(parent) {
    // A short pause after an edit: typing and dragging should not start a computation for every step.
    m_delay.setSingleShot(true);
    m_delay.setInterval(120);
    connect(&m_delay, &QTimer::timeout, this, [this] { computeNow(m_proveNext); });
    m_autosave.setSingleShot(true);
    m_autosave.setInterval(3000);
    connect(&m_autosave, &QTimer::timeout, this, &AppModel::autosave);
}

AppModel::~AppModel() { m_computer.reset(); }

Status AppModel::open(const QString& file) {
    auto job = openJob(file.toStdString());
    if (!job) return tl::unexpected(job.error());
    m_computer.reset();
    ++m_generation;
    m_file = QFileInfo(file).absoluteFilePath();
    m_history = std::make_unique<History>(std::move(*job));
    m_savedJob = m_history->shared();
    m_known.clear();
    m_place.reset();
    m_trouble.clear();
    m_location = 0;
    m_selected = m_history->now().route.empty() ? QString() : QString::fromStdString(m_history->now().route.front().id);
    startComputer();
    emit jobChanged();
    emit placeChanged();
    emit selectionChanged();
    emit resultChanged();
    computeNow();
    return {};
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
            const bool fresh = m_place != place && (!m_place || m_place->key != place->key);
            m_place = place;
            m_trouble.clear();
            if (fresh) emit placeChanged();
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
            emit computingChanged();
        });
    };
    m_computer = std::make_unique<Computer>(QFileInfo(m_file).absolutePath().toStdString(), std::move(events));
}

std::uint64_t AppModel::keyOf(const QString& operation) const {
    const Recipe* r = hasJob() ? job().operation(operation.toStdString()) : nullptr;
    if (!r || !m_place) return 0;
    return operationKey(m_place->key, *r, job().tool(r->tool));
}

Status AppModel::saveAs(const QString& file) {
    if (!hasJob()) return fail("there is no job to save");
    if (auto ok = saveJob(job(), file.toStdString()); !ok) return ok;
    m_file = QFileInfo(file).absoluteFilePath();
    m_savedJob = m_history->shared();
    std::error_code ec;
    std::filesystem::remove((m_file + ".autosave").toStdString(), ec);
    m_autosave.stop();
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
QString AppModel::undoLabel() const { return hasJob() ? QString::fromStdString(m_history->undoLabel()) : QString(); }
QString AppModel::redoLabel() const { return hasJob() ? QString::fromStdString(m_history->redoLabel()) : QString(); }

void AppModel::addOperation() {
    if (!hasJob()) return;
    const std::string id = job().freshId();
    change(tr("new operation"), [&](Job& j) {
        Recipe r;
        r.id = id;
        r.name = "Surface rows";
        // The first guess: what the operation before used, else a ball.
        if (const Recipe* before = recipe()) {
            r.tool = before->tool;
            r.axis = before->axis;
            r.guard = before->guard;
            r.link = before->link;
        } else if (!j.tools.empty()) {
            r.tool = j.tools.front().id;
        }
        const Assembly* tool = j.tool(r.tool);
        if (tool && contactRadius(tool->cutter) > 0.0) {
            r.pattern.scallop = 0.005;
            r.pattern.spacing = std::round(100.0 * stepFromScallop(contactRadius(tool->cutter), 0.005)) / 100.0;
        }
        j.route.push_back(r);
    });
    select(QString::fromStdString(id));
    setPickMode(PickMode::Faces);
}

void AppModel::removeOperation(const QString& id) {
    change(tr("remove operation"), [&](Job& j) { std::erase_if(j.route, [&](const Recipe& r) { return r.id == id.toStdString(); }); });
    emit selectionChanged();
}

void AppModel::moveOperation(const QString& id, int by) {
    change(tr("move operation"), [&](Job& j) {
        for (std::size_t i = 0; i < j.route.size(); ++i)
            if (j.route[i].id == id.toStdString()) {
                const auto to = static_cast<std::ptrdiff_t>(i) + by;
                if (to >= 0 && to < static_cast<std::ptrdiff_t>(j.route.size())) std::swap(j.route[i], j.route[static_cast<std::size_t>(to)]);
                return;
            }
    });
}

void AppModel::toggleActive(const QString& id) {
    change(tr("switch operation"), [&](Job& j) {
        if (Recipe* r = j.operation(id.toStdString())) r->active = !r->active;
    });
}

void AppModel::toggleFaces(const std::vector<int>& faces) {
    if (!recipe() || !m_place || !m_place->part || faces.empty()) return;
    const Part& part = *m_place->part;
    change(tr("pick faces"), [&](Job& j) {
        Recipe& r = *j.operation(m_selected.toStdString());
        std::vector<int> now = resolveFaces(part, r.target.faces).value_or(std::vector<int>{});
        const bool all = std::all_of(faces.begin(), faces.end(), [&](int f) { return std::find(now.begin(), now.end(), f) != now.end(); });
        for (int f : faces) {
            std::erase(now, f);
            if (!all) now.push_back(f);
        }
        std::sort(now.begin(), now.end());
        r.target.faces.clear();
        for (int f : now) r.target.faces.push_back(part.faceRef(f));
        r.pattern.rail1.clear();
        r.pattern.rail2.clear();
        if (const auto rails = proposeRails(part, now)) {
            for (int e : rails->first.edges) r.pattern.rail1.push_back(part.edgeRef(e));
            for (int e : rails->second.edges) r.pattern.rail2.push_back(part.edgeRef(e));
        }
    });
}

void AppModel::setRail(int which, const std::vector<int>& edges) {
    if (!recipe() || !m_place || !m_place->part) return;
    change(tr("pick rail %1").arg(which + 1), [&](Job& j) {
        Recipe& r = *j.operation(m_selected.toStdString());
        auto& rail = which == 0 ? r.pattern.rail1 : r.pattern.rail2;
        rail.clear();
        for (int e : edges) rail.push_back(m_place->part->edgeRef(e));
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
    return it->second.proof.get();
}

std::vector<Finding> AppModel::findings() const {
    std::vector<Finding> all;
    if (!hasJob()) return all;
    for (const Recipe& r : job().route) {
        if (!r.active) continue;
        const QString id = QString::fromStdString(r.id);
        if (const auto known = result(id)) all.insert(all.end(), known->findings.begin(), known->findings.end());
        if (const auto* known = proof(id)) all.insert(all.end(), known->findings.begin(), known->findings.end());
    }
    std::stable_sort(all.begin(), all.end(), [](const Finding& a, const Finding& b) { return a.rank < b.rank; });
    return all;
}

void AppModel::computeNow(bool alsoProve) {
    if (!m_computer) return;
    m_delay.stop();
    m_computing = true;
    m_proveNext = false;
    m_computer->request(m_history->shared(), alsoProve);
    emit computingChanged();
}

void AppModel::cancel() {
    m_delay.stop();
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

Result<QString> AppModel::post(Dialect dialect) {
    if (!hasJob() || !m_place) return fail("the job is not computed yet", {}, "Wait until the paths are there");
    std::vector<std::shared_ptr<const OperationResult>> operations;
    for (const Recipe& r : job().route) {
        if (!r.active) continue;
        const QString id = QString::fromStdString(r.id);
        const auto known = m_known.find(r.id);
        if (known == m_known.end() || !known->second.result || known->second.result->key != keyOf(id))
            return fail("the path is older than the recipe", r.name, "Wait until it is computed");
        operations.push_back(known->second.result);
    }
    const PostInput input = postInputOf(job(), m_place, operations);
    auto text = writeProgram(input, dialect);
    if (!text) return tl::unexpected(text.error());
    auto read = readProgram(*text, *input.machine);
    if (!read) return fail("the program cannot be read back: " + read.error().text());
    m_report = compareProgram(*read, input);
    return QString::fromStdString(*text);
}

} // namespace gyre
