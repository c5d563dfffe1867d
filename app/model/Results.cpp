// What comes back from computing: results, proofs, findings, the place on the path, programs.
#include "base/Handed.h"
#include "model/OpenJob.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/RouteProof.h"
#include "session/Sending.h"
#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace gyre {

void OpenJob::takePlace(const std::shared_ptr<const Workplace>& place) {
    const bool fresh = m_place != place && (!m_place || m_place->looks != place->looks);
    m_place = place;
    watchInputs();
    m_trouble.clear();
    if (fresh) {
        emit placeChanged();
        emit featuresChanged();
    }
    if (std::exchange(m_proposeWhenOpen, false)) emit partOpened();
    tellRemarks();
}

void OpenJob::takeResult(const std::shared_ptr<const OperationResult>& result) {
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
}

void OpenJob::startComputer() {
    const auto generation = m_generation;
    // Events come on the computing thread; each is handed to the window's own, and dropped when another job is open by then.
    const auto here = [this, generation](auto&& body) {
        QMetaObject::invokeMethod(
            this,
            [this, generation, body = std::forward<decltype(body)>(body), handed = Handed()]() mutable {
                takeOver();
                if (generation == m_generation) body();
            },
            Qt::QueuedConnection);
    };
    ComputeEvents events;
    events.progress = [this, here](double f, std::string what) { here([this, f, what = std::move(what)] { emit progressChanged(f, QString::fromStdString(what)); }); };
    events.placeReady = [this, here](const std::shared_ptr<const Workplace>& place) { here([this, place] { takePlace(place); }); };
    events.operationReady = [this, here](const std::shared_ptr<const OperationResult>& result) { here([this, result] { takeResult(result); }); };
    events.proofReady = [this, here](ProofResult proof) {
        auto shared = std::make_shared<ProofResult>(std::move(proof));
        here([this, shared] {
            Known& known = m_known[shared->operation];
            known.proof = std::make_unique<ProofResult>(*shared);
            emit proofChanged();
        });
    };
    events.failed = [this, here](const Error& error) {
        here([this, error] {
            m_trouble = QString::fromStdString(error.text());
            emit resultChanged();
            emit toldUser(m_trouble);
        });
    };
    events.finished = [this, here](bool) {
        here([this] {
            m_computing = m_computer && m_computer->busy();
            m_proving = m_proving && m_computing;
            // What makes no path of its own is never behind.
            if (const Recipe* r = recipe(); r && !m_computing && carries(r->kind)) m_stale = false;
            emit computingChanged();
        });
    };
    m_computer = std::make_unique<Computer>(QFileInfo(m_file).absolutePath().toStdString(), std::move(events), m_reader, m_shelf);
}

// What was healed, left out or missing in the files, once for each.
void OpenJob::tellRemarks() {
    QStringList remarks;
    for (const PlacedBody& b : m_place->bodies)
        for (const std::string& r : b.shape->remarks()) remarks << QString::fromStdString(b.name + ": " + r);
    if (remarks != std::exchange(m_remarks, remarks) && !remarks.isEmpty()) emit toldUser(remarks.join("\n"));
}

std::uint64_t OpenJob::keyOf(const QString& operation) const {
    if (!hasJob() || !m_place) return 0;
    const auto worked = job().worked(operation.toStdString());
    return worked ? operationKey(m_place->keyFor(*worked), *worked, job().tool(worked->tool)) : 0;
}

std::shared_ptr<const OperationResult> OpenJob::result(const QString& operation) const {
    const auto it = m_known.find(inHand(operation).toStdString());
    return it == m_known.end() ? nullptr : it->second.result;
}

std::vector<std::filesystem::path> OpenJob::changedInputs() const { return m_place ? changedFiles(m_place->inputs, m_contents) : std::vector<std::filesystem::path>{}; }

bool OpenJob::upToDate(const QString& operation) const {
    const auto known = result(operation);
    return known && known->key == keyOf(inHand(operation));
}

const ProofResult* OpenJob::proof(const QString& asked) const {
    const QString operation = inHand(asked);
    const auto it = m_known.find(operation.toStdString());
    // A proof holds until anything it rests on changes.
    if (it == m_known.end() || !it->second.proof || it->second.proof->key != keyOf(operation)) return nullptr;
    return foundAsNow(operation, *it->second.proof) ? it->second.proof.get() : nullptr;
}

bool OpenJob::allProven() const {
    if (!hasJob() || job().worked().empty()) return false;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        if (!upToDate(id) || !proof(id)) return false;
    }
    return true;
}

bool OpenJob::foundAsNow(const QString& operation, const ProofResult& proof) const {
    std::vector<std::shared_ptr<const OperationResult>> done;
    const OperationResult* before = nullptr;
    for (const Recipe& r : job().worked()) {
        if (r.id == operation.toStdString()) break;
        const auto one = result(QString::fromStdString(r.id));
        if (!one || !one->omitted) before = one.get();
        if (one) done.push_back(one);
    }
    return proof.start == standingAfter(*m_place->machine, before) && proof.stock == stockFound(*m_place, done);
}

std::vector<OpenJob::HazardStretch> OpenJob::hazards() const {
    const auto r = result();
    if (!r || !r->path()) return {};
    std::vector<HazardStretch> all;
    for (const PathHazard& h : r->hazards) all.push_back({h.first, h.last, h.worst});
    const auto take = [&](const std::vector<Finding>& findings) {
        for (const Finding& f : findings)
            if ((f.rank == Rank::Stop || f.code == "heavy-cut") && f.stage != "Guard" && f.span && f.span->second < r->path()->size())
                all.push_back({f.span->first, f.span->second, f.span->first});
    };
    take(r->findings);
    if (const ProofResult* p = proof(m_selected)) take(p->findings);
    return all;
}

std::vector<Finding> OpenJob::findings() const {
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

void OpenJob::computeNow(bool alsoProve) {
    if (!m_computer) return;
    m_delay.stop();
    if (m_looker) { // its answer changes what there is to compute
        m_proveNext = m_proveNext || alsoProve;
        return;
    }
    m_computing = true;
    m_proving = alsoProve;
    m_proveNext = false;
    m_computer->request(m_history->shared(), alsoProve);
    emit computingChanged();
}

void OpenJob::cancel() {
    m_delay.stop();
    if (m_looker) m_looking->cancel();
    if (m_computer) m_computer->cancel();
}

void OpenJob::setLocation(std::size_t location) {
    const auto r = result();
    const std::size_t n = r && r->path() ? r->path()->size() : 0;
    const std::size_t to = n ? std::min(location, n - 1) : 0;
    if (to == m_location) return;
    m_location = to;
    emit locationChanged();
}

void OpenJob::showFinding(const Finding& f) {
    if (!f.operation.empty()) select(QString::fromStdString(f.operation));
    const auto r = result();
    if (!r || !r->path()) return;
    emit findingAsked(f);
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
            if (r->path()->row[i] == f.row) {
                setLocation(i);
                break;
            }
    } else {
        return;
    }
    emit findingShown();
}

} // namespace gyre
